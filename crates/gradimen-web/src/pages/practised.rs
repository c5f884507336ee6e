//! A practice job beside its stations: time that is let pass, a hint, a pluck, and what is to be said of the work.

use actix_web::http::StatusCode;
use actix_web::http::header::{CACHE_CONTROL, ContentType};
use actix_web::{HttpResponse, web};
use askama::Template;
use gradimen_bench::model::{Practised, Toll};
use gradimen_practice::judgement::{self, Judgement};
use gradimen_practice::{Played, exercises, wav};
use serde::Deserialize;

use super::layout::fresh;
use super::{page, redirect};
use crate::access::Kept;
use crate::components::Head;
use crate::errors::Failure;
use crate::forms::Fields;
use crate::practice::Benches;
use crate::vocabulary::*;

struct TollRow {
    name: &'static str,
    moves: u32,
    readings: u32,
    minutes: String,
    out: String,
    own: bool,
}

impl TollRow {
    fn of(name: &'static str, toll: &Toll, own: bool) -> Self {
        Self {
            name,
            moves: toll.moves,
            readings: toll.readings,
            minutes: format!("{:.0}", toll.minutes),
            out: format!("{} of {}", toll.out, toll.of),
            own,
        }
    }
}

#[derive(Template)]
#[template(path = "pages/practised.html")]
struct PractisedPage {
    head: Head,
    id: i64,
    seq: u64,
    press: String,
    title: String,
    teaches: &'static str,
    headline: &'static str,
    tolls: Vec<TollRow>,
    said: Vec<String>,
    out: Vec<(String, String)>,
    within: Vec<(String, String)>,
    handed_in: bool,
    key: &'static str,
}

/// How it stands: before it is handed in what was taken so far, then everything.
pub(crate) async fn show(
    store: Kept,
    benches: web::Data<Benches>,
    id: web::Path<i64>,
) -> Result<HttpResponse, Failure> {
    let worked = store.worked(*id).await?;
    let bench = benches.of(*id, &worked).await?.ok_or(Failure::NotFound)?;
    let judged = Judgement::of(&bench, &worked.known, &worked.plan);
    let exercise = bench.practice().exercise.as_deref().and_then(exercises::of);
    let handed = worked.job.handed_in();
    let told = exercise.map(|of| of.told(handed.is_some()));
    let row = |row: &judgement::Stands| judgement::row(&worked.known, row);
    let (out, within): (Vec<_>, Vec<_>) = judged.rows.iter().partition(|row| row.out);
    page(
        StatusCode::OK,
        &PractisedPage {
            head: Head::new(),
            id: *id,
            seq: worked.job.seq(),
            press: fresh(),
            title: told.map_or_else(|| worked.job.instrument().title(), |of| of.0.to_owned()),
            teaches: told.map_or("", |of| of.1),
            headline: match handed {
                None => "Not handed in yet",
                Some((_, true)) => "At par",
                Some((_, false)) => "Not at par",
            },
            tolls: match handed {
                Some((toll, _)) => vec![
                    TollRow::of("yours, as handed in", &toll, true),
                    TollRow::of("the plan, to the letter", &judged.plan, false),
                    TollRow::of("careful trial and error", &judged.trial, false),
                ],
                None => Vec::new(),
            },
            said: judgement::sentences(&judged, &worked.known),
            out: out.into_iter().map(row).collect(),
            within: within.into_iter().map(row).collect(),
            handed_in: handed.is_some(),
            key: exercise.map_or("", |of| of.key),
        },
    )
}

/// What is done at the bench beside reading and turning.
pub(crate) async fn act(
    store: Kept,
    benches: web::Data<Benches>,
    id: web::Path<i64>,
    sent: web::Form<Vec<(String, String)>>,
) -> Result<HttpResponse, Failure> {
    let id = *id;
    let fields = Fields::from(sent.into_inner());
    let worked = store.worked(id).await?;
    let bench = benches.of(id, &worked).await?.ok_or(Failure::NotFound)?;
    let what = match fields.text("did") {
        "wait" => Practised::Waited { minutes: 1.0 },
        "hint" => Practised::Hint,
        "hand_in" => {
            let judged = Judgement::of(&bench, &worked.known, &worked.plan);
            Practised::HandedIn {
                toll: judged.toll,
                par: judged.is_par(),
            }
        }
        other => {
            let error = format!("read \"{other}\", expected wait, hint or hand_in");
            return Err(Failure::Form(error));
        }
    };
    let events = vec![Event::Observed {
        what: Observation::Practised { what },
    }];
    // A minute passes and a hint is given however far the work has come; what is handed in is what its page showed.
    let seen = match what {
        Practised::HandedIn { .. } => fields.text("seen").parse().unwrap_or(0),
        _ => worked.job.seq(),
    };
    super::job::append(&store, (id, seen), &fields, events).await?;
    if fields.text("did") == "hand_in" {
        return Ok(redirect(&format!("/jobs/{id}/practice")));
    }
    let station = crate::stations::Section::from_key(fields.text("station"));
    let station = station.map_or("plan", crate::stations::Section::key);
    let place: Vec<String> = super::layout::place(&fields)
        .map(|(name, value)| format!("{name}={value}"))
        .collect();
    Ok(redirect(&format!(
        "/jobs/{id}/{station}?{}",
        place.join("&")
    )))
}

/// Which string is plucked, and how.
#[derive(Debug, Deserialize)]
pub(crate) struct Pluck {
    string: u8,
    #[serde(rename = "as")]
    played: String,
    /// Where it is held, where it is struck.
    #[serde(default)]
    fret: u8,
    #[serde(default)]
    pluck: u64,
}

/// The sound of one pluck.
pub(crate) async fn pluck(
    store: Kept,
    benches: web::Data<Benches>,
    id: web::Path<i64>,
    query: web::Query<Pluck>,
) -> Result<HttpResponse, Failure> {
    let worked = store.worked(*id).await?;
    let bench = benches.of(*id, &worked).await?.ok_or(Failure::NotFound)?;
    let played = match query.played.as_str() {
        "open" => Played::Open,
        "harmonic" => Played::Harmonic,
        "fretted" => Played::Fretted,
        "struck" => Played::Struck(query.fret),
        other => {
            let error = format!("read \"{other}\", expected open, harmonic, fretted or struck");
            return Err(Failure::Form(error));
        }
    };
    let string = query.string;
    let strings = bench.strings();
    if !(1..=strings).contains(&string) {
        let error = format!("read string {string}, expected 1 to {strings}");
        return Err(Failure::Form(error));
    }
    let frets = bench.record().frets;
    if query.fret >= frets {
        let error = format!("read fret {}, expected 0 to {}", query.fret, frets - 1);
        return Err(Failure::Form(error));
    }
    let pluck = query.pluck % 1000;
    let file = web::block(move || {
        let samples = bench.sound_of(string, played, pluck)?;
        wav(&samples).ok()
    })
    .await
    .map_err(|error| Failure::Other(error.to_string()))?;
    let file = file.ok_or_else(|| Failure::Other("no sound could be made".to_owned()))?;
    Ok(HttpResponse::Ok()
        .content_type(ContentType(
            "audio/wav".parse().map_err(|_| Failure::NotFound)?,
        ))
        .insert_header((CACHE_CONTROL, "no-store"))
        .body(file))
}
