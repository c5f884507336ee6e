//! What a field understood, shown beside it before anything is kept.

use actix_web::{HttpResponse, web};
use gradimen_core::units::print;
use serde::Deserialize;

use crate::forms::limits;
use crate::svg::escaped;

#[derive(Debug, Deserialize)]
pub(crate) struct Query {
    /// Which limits apply.
    limits: String,
    /// What was typed, under whatever name its field has.
    #[serde(flatten)]
    typed: std::collections::HashMap<String, String>,
}

/// The value in both units, or what is wrong with it.
pub(crate) async fn understand(query: web::Query<Query>) -> HttpResponse {
    let typed = query.typed.values().next().map_or("", |text| text.trim());
    let answer = match limits::by_name(&query.limits) {
        _ if typed.is_empty() => String::new(),
        None => String::new(),
        Some(limits) => typed
            .split(';')
            .filter(|part| !part.trim().is_empty())
            .map(|part| match limits.parse(part) {
                Ok(entry) if entry.unit_assumed() => {
                    format!("{} (taken as {})", entry.understood(), entry.unit())
                }
                Ok(entry) if entry.is_exact() && entry.low().inches() < 0.2 => {
                    format!("{} = {}", print::mm(entry.low()), print::thou(entry.low()))
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
