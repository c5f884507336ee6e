//! The practice bench: exercises, instruments made to order, and the card of progress.

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, web};
use askama::Template;
use gradimen_bench::export::summary::{HandedIn, PracticeLine, Took};
use gradimen_bench::model::{Difficulty, Hints, PracticeFault};
use gradimen_practice::exercises::{self, Exercise};
use gradimen_practice::make;
use gradimen_practice::order::{self, Like, LikeJob, Order};
use gradimen_practice::progress::{Standing, at_par, hands, standings};
use gradimen_store::library::Listed;
use jiff::Timestamp;
use serde::Deserialize;

use super::{page, redirect};
use crate::access::Kept;
use crate::components::{Choice, Head};
use crate::errors::Failure;
use crate::forms::{Field, Fields};
use crate::vocabulary::*;

/// One exercise, and how it went so far.
struct Row {
    number: usize,
    key: &'static str,
    name: &'static str,
    teaches: &'static str,
    times: usize,
    best: Option<Best>,
}

/// The best that was handed in.
struct Best {
    handed: HandedIn,
    plan: Took,
    hints: &'static str,
    day: String,
}

/// A job that is practised and not handed in.
struct Going {
    id: i64,
    name: String,
    hints: &'static str,
    day: String,
}

#[derive(Template)]
#[template(path = "pages/practice.html")]
struct PracticePage {
    head: Head,
    rows: Vec<Row>,
    going: Vec<Going>,
    hints: Vec<Choice>,
    kinds: Vec<Choice>,
    faults: Vec<Choice>,
    difficulties: Vec<Choice>,
    job: Field,
    refused: String,
    at_par: usize,
}

#[derive(Template)]
#[template(path = "pages/card.html")]
struct CardPage {
    head: Head,
    shop: String,
    today: String,
    rows: Vec<Row>,
    orders: Vec<(String, Best)>,
    /// Whose card it is; empty for everybody's. And everybody who practised by name.
    who: String,
    named: Vec<String>,
    at_par: usize,
}

fn day(listed: &Listed) -> String {
    let at = listed.changed_at.to_zoned(jiff::tz::TimeZone::system());
    at.strftime("%-d %b %Y").to_string()
}

fn best(listed: &Listed, handed: HandedIn) -> Option<Best> {
    let line = listed.summary.practice.as_ref()?;
    Some(Best {
        handed,
        plan: line.plan,
        hints: line.hints.name(),
        day: day(listed),
    })
}

fn name(line: &PracticeLine, listed: &Listed) -> String {
    let exercise = line.exercise.as_deref().and_then(exercises::of);
    let told = |of: &Exercise| of.told(line.handed_in.is_some()).0.to_owned();
    exercise.map_or_else(|| listed.summary.title.clone(), told)
}

/// Those that were practised, the newest first.
fn lines(listed: &[Listed]) -> impl Iterator<Item = (&Listed, &PracticeLine)> {
    let all = listed.iter();
    all.filter_map(|listed| Some((listed, listed.summary.practice.as_ref()?)))
}

/// Every exercise as it is shown, and how many are at par.
fn rows(tried: &[(&Listed, &PracticeLine)]) -> (Vec<Row>, usize) {
    let standings = standings(tried);
    let at_par = at_par(&standings);
    let row = |(number, one): (usize, Standing<&Listed>)| {
        let (name, teaches) = one.exercise.told(one.best.is_some());
        Row {
            number,
            key: one.exercise.key,
            name,
            teaches,
            times: one.times,
            best: one.best.and_then(|(listed, handed)| best(listed, handed)),
        }
    };
    ((1..).zip(standings).map(row).collect(), at_par)
}

async fn practice_page(
    store: &Kept,
    fields: Fields,
    refused: String,
) -> Result<HttpResponse, Failure> {
    let listed = store.latest().await?;
    let (rows, at_par) = rows(&lines(&listed).collect::<Vec<_>>());
    let chosen = fields.text("hints").to_owned();
    let difficulty = fields.text("difficulty").to_owned();
    let ticked: Vec<String> = PracticeFault::all()
        .filter(|fault| fields.text(fault.key()) == "yes")
        .map(|fault| fault.key().to_owned())
        .collect();
    let kind = fields.text("kind").to_owned();
    let status = if refused.is_empty() && fields.is_right() {
        StatusCode::OK
    } else {
        StatusCode::UNPROCESSABLE_ENTITY
    };
    let hints = if chosen.is_empty() {
        Hints::OnRequest.key().to_owned()
    } else {
        chosen
    };
    let difficulty = if difficulty.is_empty() {
        Difficulty::Usual.key().to_owned()
    } else {
        difficulty
    };
    page(
        status,
        &PracticePage {
            head: Head::new(),
            at_par,
            going: lines(&listed)
                .filter(|(_, line)| line.handed_in.is_none())
                .take(12)
                .map(|(listed, line)| Going {
                    id: listed.id,
                    name: name(line, listed),
                    hints: line.hints.name(),
                    day: day(listed),
                })
                .collect(),
            hints: Hints::all()
                .map(|of| Choice::of(of.key(), of.name(), of.key() == hints))
                .collect(),
            kinds: order::kinds()
                .map(|name| Choice::of(name, name, name == kind))
                .collect(),
            faults: PracticeFault::all()
                .map(|fault| {
                    let on = ticked.iter().any(|key| key == fault.key());
                    Choice::of(fault.key(), fault.name(), on)
                })
                .collect(),
            difficulties: Difficulty::all()
                .map(|of| Choice::of(of.key(), of.name(), of.key() == difficulty))
                .collect(),
            job: fields.field("job"),
            rows,
            refused,
        },
    )
}

/// Exercises, and what is going on.
pub(crate) async fn show(store: Kept) -> Result<HttpResponse, Failure> {
    practice_page(&store, Fields::default(), String::new()).await
}

/// What is to be practised on, as a form tells it.
async fn ordered(store: &Kept, fields: &mut Fields) -> Result<Option<Order>, Failure> {
    let hints = Hints::from_key(fields.text("hints")).unwrap_or(Hints::OnRequest);
    if let Some(exercise) = exercises::of(fields.text("exercise")) {
        let listed = store.latest().await?;
        let times = lines(&listed)
            .filter(|(_, line)| line.exercise.as_deref() == Some(exercise.key))
            .count();
        return Ok(Some(exercise.again(times, hints)));
    }
    let like = match fields.text("job").trim() {
        "" => Like::Kind(fields.text("kind").to_owned()),
        number => {
            let id = number.trim_start_matches('#').parse::<i64>().ok();
            let found = match id {
                Some(id) => store.of_the_shop().worked(id).await.ok(),
                None => None,
            };
            let Some(worked) = found else {
                let error = format!(
                    "read \"{number}\", expected the number of a job of this shop, as it stands in its address: 12"
                );
                fields.wrong("job", error);
                return Ok(None);
            };
            Like::Job(Box::new(LikeJob::of(&worked.known)))
        }
    };
    let faults = PracticeFault::all().filter(|fault| fields.text(fault.key()) == "yes");
    Ok(Some(Order {
        exercise: None,
        like,
        faults: faults.collect(),
        difficulty: Difficulty::from_key(fields.text("difficulty")).unwrap_or(Difficulty::Usual),
        hints,
        // Another instrument every time.
        seed: Timestamp::now().as_microsecond().unsigned_abs() % 1_000_000_007,
    }))
}

/// Makes an instrument and opens its job.
pub(crate) async fn open(
    store: Kept,
    sent: web::Form<Vec<(String, String)>>,
) -> Result<HttpResponse, Failure> {
    let mut fields = Fields::from(sent.into_inner());
    let Some(order) = ordered(&store, &mut fields).await? else {
        return practice_page(&store, fields, String::new()).await;
    };
    let made = web::block(move || make::opening(&order)).await;
    let made = made.map_err(|error| Failure::Other(error.to_string()))?;
    let (instrument, mut events) = match made {
        Ok(made) => made,
        Err(error) => return practice_page(&store, fields, error.to_string()).await,
    };
    if events.is_empty() {
        return Err(Failure::Other("an opening without events".to_owned()));
    }
    let Event::Opened(opened) = events.remove(0) else {
        return Err(Failure::Other("an opening that opens nothing".to_owned()));
    };
    let now = Timestamp::now();
    let instrument = store.add_instrument(&instrument, now).await?;
    let job = store.open_with(instrument, *opened, events, now).await?;
    Ok(redirect(&format!("/jobs/{job}/plan")))
}

/// Whose card is shown: somebody's by name, or everybody's; where nothing is said, that of whoever asks.
#[derive(Debug, Deserialize)]
pub(crate) struct Whose {
    who: Option<String>,
    everybody: Option<String>,
}

/// The card of progress.
pub(crate) async fn card(store: Kept, whose: web::Query<Whose>) -> Result<HttpResponse, Failure> {
    let listed = store.latest().await?;
    let own = store.hand.as_ref().map(|hand| &*hand.account.name);
    let mut named = hands(lines(&listed).map(|(_, line)| line));
    named.extend(own);
    let who = match (&whose.everybody, &whose.who) {
        (Some(_), _) => None,
        (None, Some(who)) => Some(who.as_str()),
        (None, None) => own,
    };
    let who = who.filter(|who| named.contains(who));
    let tried: Vec<(&Listed, &PracticeLine)> = lines(&listed)
        .filter(|(_, line)| who.is_none_or(|who| line.by.as_deref() == Some(who)))
        .collect();
    let (rows, at_par) = rows(&tried);
    let orders = tried.iter().filter(|(_, line)| line.exercise.is_none());
    let orders = orders
        .filter_map(|(listed, line)| Some((name(line, listed), best(listed, line.handed_in?)?)))
        .take(12)
        .collect();
    page(
        StatusCode::OK,
        &CardPage {
            head: Head::new(),
            shop: store.shop().await?.shop.name,
            today: jiff::Zoned::now().strftime("%-d %B %Y").to_string(),
            at_par,
            orders,
            rows,
            who: who.unwrap_or_default().to_owned(),
            named: named.into_iter().map(str::to_owned).collect(),
        },
    )
}
