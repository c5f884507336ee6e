//! What a field understood, shown beside it before anything is kept.

use actix_web::{HttpResponse, web};
use gradimen_core::pitch::{ConcertPitch, Pitch};
use gradimen_core::thread::pitch_named;
use gradimen_core::units::print;
use serde::Deserialize;

use crate::forms::instrument::vibrato;
use crate::forms::{lists, set};
use crate::svg::escaped;
use crate::vocabulary::*;

#[derive(Debug, Deserialize)]
pub(crate) struct Query {
    /// Which limits apply.
    limits: String,
    /// The tool that is read with, where one is chosen: a bare number takes its unit.
    tool: Option<String>,
    /// The gauge that is on, where a gauge is typed: a bare number keeps its make.
    now: Option<String>,
    /// What was typed, under whatever name its field has.
    #[serde(flatten)]
    typed: std::collections::HashMap<String, String>,
}

/// What is not a length: the notes and gauges of the lanes, and readings in cents.
fn other(limits: &str, now: Option<&str>, typed: &str) -> String {
    match limits {
        "string_gauge" => {
            let now = now.and_then(|now| set::parse_gauge(now, None).ok());
            set::parse_gauge(typed, now.as_ref()).map_or_else(
                |error| error.to_string(),
                |record| {
                    let gauge = record.gauge.middle();
                    format!(
                        "{}, {}: {}",
                        print::with_unit(gauge),
                        print::thou(gauge),
                        record.make.name()
                    )
                },
            )
        }
        "spring_rate" => vibrato::understood(typed),
        "note" => typed.parse::<Pitch>().map_or_else(
            |error| error.to_string(),
            |pitch| {
                let frequency = pitch.frequency(ConcertPitch::default());
                format!("{pitch}: {:.2} Hz at A4 = 440 Hz", frequency.hertz())
            },
        ),
        _ => String::new(),
    }
}

/// The value in both units, or what is wrong with it.
pub(crate) async fn understand(query: web::Query<Query>) -> HttpResponse {
    let typed = query.typed.values().next().map_or("", |text| text.trim());
    let tool = query.tool.as_deref().and_then(Tool::from_key);
    let unit = tool.and_then(Tool::unit);
    let field =
        limits::named(&query.limits).map(|field| unit.map_or(field, |unit| field.in_unit(unit)));
    let thread = match query.limits.as_str() {
        "thread" => pitch_named(typed),
        _ => None,
    };
    let answer = match field {
        _ if typed.is_empty() => String::new(),
        _ if thread.is_some() => {
            format!("{} a turn", print::with_unit(thread.unwrap_or_default()))
        }
        None => other(&query.limits, query.now.as_deref(), typed),
        Some(limits) => lists::values(typed)
            .iter()
            .map(|part| match limits.parse(part) {
                Ok(entry) if entry.unit_assumed() => {
                    let taken = format!("{} (taken as {}", entry.understood(), entry.unit());
                    entry.instead_of().map_or_else(
                        || format!("{taken})"),
                        |usual| format!("{taken}: too much in {usual})"),
                    )
                }
                Ok(entry) if entry.is_exact() && entry.low().inches() < 0.2 => {
                    format!(
                        "{} = {}",
                        print::with_unit(entry.low()),
                        print::thou(entry.low())
                    )
                }
                Ok(entry) => entry.understood(),
                Err(error) => error.to_string(),
            })
            .collect::<Vec<_>>()
            .join("; "),
    };
    HttpResponse::Ok()
        .content_type("text/html; charset=utf-8")
        .body(escaped(&answer))
}
