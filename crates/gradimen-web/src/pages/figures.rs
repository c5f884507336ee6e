//! The shop's own figures: where its time goes, how its jobs stand, what comes back and why.

use actix_web::HttpResponse;
use actix_web::http::StatusCode;
use askama::Template;
use gradimen_bench::export::figures::{CameBack, Figures, SOON};

use crate::access::Kept;
use crate::components::Head;
use crate::errors::Failure;
use crate::pages::page;
use crate::svg::bars::{Bar, bars};
use crate::vocabulary::*;

struct Spent {
    part: String,
    minutes: String,
    each: String,
}

#[derive(Template)]
#[template(path = "pages/figures.html")]
struct FiguresPage {
    head: Head,
    jobs: usize,
    time: String,
    spent: Vec<Spent>,
    complaints: String,
    symptoms: Vec<(&'static str, u32)>,
    stages: Vec<(&'static str, u64)>,
    back: Vec<CameBack>,
    could: usize,
    soon: i64,
}

/// `25 min`, `3 h 05`.
fn time(minutes: u32) -> String {
    if minutes < 60 {
        return format!("{minutes} min");
    }
    format!("{} h {:02}", minutes / 60, minutes % 60)
}

/// The page.
pub(crate) async fn show(store: Kept) -> Result<HttpResponse, Failure> {
    let figures = Figures::of(&store.lines().await?);
    let counts = store.stage_counts().await?;
    let spent = figures.minutes.iter().map(|spent| Bar {
        name: spent.part.clone(),
        value: f64::from(spent.minutes),
        written: time(spent.minutes),
    });
    let symptoms = figures.symptoms.iter().map(|(symptom, count)| Bar {
        name: symptom.name().to_owned(),
        value: f64::from(*count),
        written: count.to_string(),
    });
    page(
        StatusCode::OK,
        &FiguresPage {
            head: Head::new(),
            jobs: figures.jobs,
            time: bars(&spent.collect::<Vec<_>>(), "Time by part of the work"),
            spent: figures
                .minutes
                .iter()
                .map(|spent| Spent {
                    part: spent.part.clone(),
                    minutes: time(spent.minutes),
                    each: time(spent.each()),
                })
                .collect(),
            complaints: bars(&symptoms.collect::<Vec<_>>(), "What players complain of"),
            symptoms: figures
                .symptoms
                .iter()
                .map(|(symptom, count)| (symptom.name(), *count))
                .collect(),
            stages: Stage::all().map(Stage::name).zip(counts).collect(),
            back: figures.back,
            could: figures.could,
            soon: SOON,
        },
    )
}
