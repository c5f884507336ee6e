//! A job: the station in hand, and what is recorded.

use std::sync::Arc;

use crate::vocabulary::*;
use actix_web::http::StatusCode;
use actix_web::http::uri::PathAndQuery;
use actix_web::{HttpRequest, HttpResponse, web};
use gradimen_bench::model::shop::AS_IT_CAME;
use gradimen_bench::plan::as_it_came::as_it_came;
use gradimen_core::units::print::on_bench;
use gradimen_store::accounts::Deed;
use gradimen_store::journal::Press;
use gradimen_store::{StoreError, Worked};
use jiff::Timestamp;

use super::layout::{Conflict, Offers, QuestionView, View, fresh, place};
use super::redirect;
use super::shown::{Of, Shown};
use crate::access::Kept;
use crate::commands::{self, Command, What};
use crate::errors::Failure;
use crate::forms::Fields;
use crate::practice::Benches;
use crate::stations::{Form, Section, asked_places, render};

/// A job without a station named: where the work is.
pub(crate) async fn show(store: Kept, id: web::Path<i64>) -> Result<HttpResponse, Failure> {
    let worked = store.worked(*id).await?;
    let station = match worked.job.stage() {
        Stage::Returned => Section::Record,
        _ => worked
            .plan
            .next_station(&worked.known)
            .and_then(|station| Section::from_key(station.key()))
            .unwrap_or(Section::Plan),
    };
    // The hand is led to the field that is asked for.
    Ok(redirect(&format!(
        "/jobs/{id}/{}?focus=asked",
        station.key()
    )))
}

/// One station of a job.
pub(crate) async fn station(
    request: HttpRequest,
    store: Kept,
    shown: web::Data<Shown>,
    benches: web::Data<Benches>,
    place: web::Path<(i64, String)>,
    query: web::Query<Vec<(String, String)>>,
) -> Result<HttpResponse, Failure> {
    let (id, key) = place.into_inner();
    let station = Section::from_key(&key).ok_or(Failure::NotFound)?;
    let address = request.uri().path_and_query();
    let of = Of::new(address.map_or("", PathAndQuery::as_str), store.mark());
    // What a tool shows at a practice bench is shown afresh.
    if !store.is_practice()
        && let Some(page) = shown.again(&of)
    {
        return Ok(page);
    }
    let worked = store.worked(id).await?;
    let shop = store.shop().await?.shop;
    let mut fields = Fields::from(query.into_inner());
    // The tool that lies on this bench, until another is chosen.
    if !fields.has("tool")
        && let Some(tool) = station.tool(&shop)
    {
        fields.set("tool", tool.key());
    }
    let press = fresh();
    let view = View {
        fields,
        specs: spec_choices(&worked.job, &shop),
        units: shop.shown.bench(),
        offers: Offers::of(&shop),
        shop: shop.name,
        press: Some(press.clone()),
        bench: benches.of(id, &worked).await?,
        ..View::default()
    };
    let page = render(StatusCode::OK, id, &worked, station, &view)?;
    if store.is_practice() {
        return Ok(page);
    }
    Ok(shown.keep(of, &press, page))
}

/// Tells a job something and goes on to where the work goes on.
pub(crate) async fn tell(
    store: Kept,
    benches: web::Data<Benches>,
    id: web::Path<i64>,
    sent: web::Form<Vec<(String, String)>>,
) -> Result<HttpResponse, Failure> {
    let id = *id;
    let mut fields = Fields::from(sent.into_inner());
    store.may(What::of(&fields).map_or(Deed::Work, What::deed))?;
    let worked = store.worked(id).await?;
    let station = Section::from_key(fields.text("station")).unwrap_or(Section::Record);
    let kept = store.shop().await?;
    let bench = benches.of(id, &worked).await?;
    let refuse = |status, fields: Fields, conflict| {
        let view = View {
            fields,
            conflict,
            specs: spec_choices(&worked.job, &kept.shop),
            shop: kept.shop.name.clone(),
            units: kept.shop.shown.bench(),
            offers: Offers::of(&kept.shop),
            question: None,
            press: None,
            bench: bench.clone(),
        };
        render(status, id, &worked, station, &view)
    };
    let seen = fields.text("seen").parse().unwrap_or(0);
    let form = Form {
        job: &worked.known,
        fields: &mut fields,
        shop: &kept.shop,
    };
    let Ok(command) = Command::try_from(form) else {
        return refuse(StatusCode::UNPROCESSABLE_ENTITY, fields, None);
    };
    let events = command.events(&worked.known);
    if fields.text("sure") != "yes"
        && let Some(asked) = events
            .iter()
            .find_map(|event| reading_check::question(&worked.known, || worked.plan.clone(), event))
    {
        fields.set("asked", "yes");
        let view = View {
            question: Some(on_bench(kept.shop.shown.bench(), || ask(&fields, asked))),
            fields,
            specs: spec_choices(&worked.job, &kept.shop),
            shop: kept.shop.name.clone(),
            units: kept.shop.shown.bench(),
            offers: Offers::of(&kept.shop),
            conflict: None,
            press: None,
            bench,
        };
        return render(
            StatusCode::UNPROCESSABLE_ENTITY,
            id,
            &worked,
            station,
            &view,
        );
    }
    // At a practice bench what happens is what its instrument does; told it is only what its job takes.
    if bench.is_some()
        && let Err(error) = worked.job.with(events.clone())
    {
        mark_error(&mut fields, &error);
        return refuse(StatusCode::UNPROCESSABLE_ENTITY, fields, None);
    }
    let events = match bench.as_ref().map(|bench| bench.meets(&events)) {
        Some(Ok(happens)) => happens,
        Some(Err(refused)) => {
            let field = What::of(&fields).map_or("what", What::main_field);
            fields.wrong(field, refused);
            return refuse(StatusCode::UNPROCESSABLE_ENTITY, fields, None);
        }
        None => events,
    };
    let units = kept.shop.shown.bench();
    let sentences = |events: &[Event]| events.iter().map(text::events::sentence).collect();
    let mine: Vec<String> = on_bench(units, || sentences(&events));
    let back = match events[..] {
        [Event::Undone { target }] => Some(("undone", target)),
        [Event::Redone { target }] => Some(("redone", target)),
        _ => None,
    };
    let appended = append(&store, (id, seen), &fields, events).await;
    match appended {
        Ok(after) => {
            let there = back.map(|(name, target)| shown_at(id, &after.job, station, name, target));
            let there = there.unwrap_or_else(|| onward(id, &after, station, &fields));
            Ok(redirect(&there))
        }
        Err(StoreError::Conflict { now, .. }) => {
            let now_there = store.worked(id).await?;
            let conflict = on_bench(units, || conflict(&now_there.job, seen, now, mine, &fields));
            refuse(StatusCode::CONFLICT, fields, Some(conflict))
        }
        Err(StoreError::Job(error)) => {
            mark_error(&mut fields, &error);
            refuse(StatusCode::UNPROCESSABLE_ENTITY, fields, None)
        }
        Err(other) => Err(other.into()),
    }
}

/// Records what a form told of a job, behind the entry that was seen. What is sent by no page of ours has no word of its own: it is recorded
/// as often as it is sent.
pub(super) async fn append(
    store: &Kept,
    (id, seen): (i64, u64),
    fields: &Fields,
    events: Vec<Event>,
) -> Result<Arc<Worked>, StoreError> {
    let sent = fields.all();
    let sent = sent.map(|(name, value)| (name.as_str(), value.as_str()));
    let press = Press::of(fields.text("press"), sent);
    let now = Timestamp::now();
    if fields.text("press").is_empty() {
        store.append(id, seen, events, now).await
    } else {
        store.append_once(id, seen, &press, events, now).await
    }
}

/// The target sets that can be put on a job: those for its kind, its touch first, and what it came with.
fn spec_choices(job: &Job, shop: &Shop) -> Vec<String> {
    let kind = job.instrument().kind;
    let named = shop.specs_for(kind, job.player().touch);
    let came = as_it_came(job).map(|_| AS_IT_CAME.to_owned());
    let named = named.into_iter().map(|spec| spec.name.clone());
    named.chain(came).collect()
}

fn mark_error(fields: &mut Fields, error: &JobError) {
    let field = What::of(fields).map_or("what", What::main_field);
    fields.wrong(field, error);
}

/// The question in words, with the forms that answer it.
fn ask(fields: &Fields, question: Question) -> QuestionView {
    let keep = fields
        .all()
        .map(|(name, value)| (name.clone(), value.clone()))
        .filter(|(name, _)| name != "asked" && name != "sure")
        .chain([("sure".to_owned(), "yes".to_owned())])
        .collect();
    QuestionView {
        read: text::questions::read(&question),
        expected: text::questions::expected(&question),
        deviations: format!("{:.0}", question.deviations),
        slips: question
            .slips
            .into_iter()
            .map(|slip| {
                let says = text::questions::slip(&slip);
                let form = slip
                    .instead
                    .map(|event| commands::without_slip(fields, &event));
                (says, form.unwrap_or_default())
            })
            .collect(),
        keep,
    }
}

fn conflict(job: &Job, seen: u64, now: u64, mine: Vec<String>, fields: &Fields) -> Conflict {
    let theirs = job
        .entries()
        .iter()
        .filter(|entry| entry.seq > seen)
        .map(|entry| text::events::sentence(&entry.event))
        .collect();
    // The same once more, now in the knowledge of what came between.
    let again = fields
        .all()
        .map(|(name, value)| {
            let value = if name == "seen" {
                now.to_string()
            } else {
                value.clone()
            };
            (name.clone(), value)
        })
        .collect();
    Conflict {
        theirs,
        mine,
        again,
    }
}

/// Where what was taken back or put back shows, and that it was.
fn shown_at(id: i64, job: &Job, here: Section, name: &str, target: u64) -> String {
    let event = job.group(target).next().map(|entry| &entry.event);
    let station = event.and_then(Event::station);
    let there = station.and_then(|station| Section::from_key(station.key()));
    let string = event.and_then(Event::string);
    let string = string.map_or(String::new(), |string| format!("&string={string}"));
    format!(
        "/jobs/{id}/{}?{name}={target}{string}",
        there.unwrap_or(here).key()
    )
}

/// Where the work goes on: the same station, the cursor where the next reading is asked for. The string just told of stays in
/// hand while it is to be moved, or to be read after its move; else the one that is asked for, or to be moved, comes into it.
fn onward(id: i64, after: &Worked, station: Section, fields: &Fields) -> String {
    let mut place = format!("/jobs/{id}/{}", station.key());
    let what = What::of(fields);
    let told =
        what.and_then(|what| Some((what, what.lane()?, fields.text("string").parse().ok()?)));
    // Several frets of one string are read as the hand likes; only the twelfth is asked for.
    let swept = told.filter(|(what, ..)| *what != What::Read || fields.text("fret") == "12");
    let (string, focus) = match swept {
        Some((what, lane, string)) => {
            let asked = if what.is_move() {
                asked_from(after, station, string)
            } else {
                asked_from(after, station, string + 1)
            };
            let to_move = to_be_moved(after, station);
            let stays = to_move.contains(&string);
            let next = asked.or(to_move.first().copied());
            // Nothing more is asked for here: the keys are for what comes next.
            let focus = asked.map(|next| format!("{lane}-{next}"));
            (next.filter(|_| !stays), focus)
        }
        None => (None, what.and_then(|what| what.focus(fields, &after.job))),
    };
    // At the pickups the page says which side comes next, in the fret survey where the rocker tells most.
    let by_page: &[&str] = match what {
        Some(What::Pickup | What::PickupTurned) => &["pickup", "side"],
        Some(What::Rock) if station == Section::Frets => &["string", "fret"],
        _ => &[],
    };
    let mut query: Vec<String> = self::place(fields)
        .filter(|(name, _)| !by_page.contains(name))
        .map(|(name, value)| match string {
            Some(next) if name == "string" => format!("string={next}"),
            _ => format!("{name}={value}"),
        })
        .collect();
    query.extend(focus.map(|focus| format!("focus={focus}")));
    if !query.is_empty() {
        place.push('?');
        place.push_str(&query.join("&"));
    }
    place
}

/// The first string from this one on, and round again, whose reading is asked for.
fn asked_from(after: &Worked, station: Section, string: u8) -> Option<u8> {
    let count = after.job.instrument().strings;
    let places = asked_places(&after.known, &after.plan, station);
    let asked: Vec<u8> = places.into_iter().filter_map(Place::string).collect();
    (0..count)
        .map(|ahead| (string.max(1) - 1 + ahead) % count + 1)
        .find(|next| asked.contains(next))
}

/// The strings under which something is to be moved now, in the order of the work.
fn to_be_moved(after: &Worked, station: Section) -> Vec<u8> {
    let bench = after.plan.bench();
    let here = bench.iter().find(|here| here.id().key() == station.key());
    let tasks = here.map_or_else(Vec::new, |here| here.tasks(&after.known));
    let moves = tasks.iter().filter(|task| task.next.next_move().is_some());
    moves.flat_map(|task| task.strings.clone()).collect()
}
