//! Documents in and out.

use actix_multipart::form::MultipartForm;
use actix_multipart::form::bytes::Bytes;
use actix_web::http::StatusCode;
use actix_web::http::header::{ContentDisposition, DispositionParam, DispositionType};
use actix_web::{HttpResponse, web};
use askama::Template;
use gradimen_bench::document::Document;
use gradimen_bench::event::{Event, Gap};
use gradimen_bench::job::Job;
use gradimen_store::{Store, StoreError};

use super::{Head, page, see};
use crate::errors::Failure;

fn attachment(name: String) -> ContentDisposition {
    ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![DispositionParam::Filename(name)],
    }
}

/// A name for a file: letters and digits of the title only.
fn file_name(job: &Job, id: i64, ending: &str) -> String {
    let title: String = job
        .instrument()
        .title()
        .to_lowercase()
        .chars()
        .map(|letter| {
            if letter.is_ascii_alphanumeric() {
                letter
            } else {
                '-'
            }
        })
        .collect();
    format!("{}-job-{id}.{ending}", title.trim_matches('-'))
}

/// A job as one document.
pub(crate) async fn export(
    store: web::Data<Store>,
    id: web::Path<i64>,
) -> Result<HttpResponse, Failure> {
    let stored = store.job(*id).await?;
    let job = Job::fold(&stored.entries).map_err(StoreError::from)?;
    let text = Document::of(stored.entries)
        .to_json()
        .map_err(|error| Failure::Other(error.to_string()))?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header(attachment(file_name(&job, *id, "json")))
        .body(text))
}

/// The readings of a job as a table, one row a reading; what was taken back is marked.
pub(crate) async fn readings(
    store: web::Data<Store>,
    id: web::Path<i64>,
) -> Result<HttpResponse, Failure> {
    let stored = store.job(*id).await?;
    let job = Job::fold(&stored.entries).map_err(StoreError::from)?;
    let mut writer = csv::Writer::from_writer(Vec::new());
    let write = |writer: &mut csv::Writer<Vec<u8>>, row: [String; 8]| {
        writer
            .write_record(row)
            .map_err(|error| Failure::Other(error.to_string()))
    };
    let heading = [
        "entry", "time", "quantity", "string", "fret", "value", "unit", "counts",
    ];
    write(&mut writer, heading.map(str::to_owned))?;
    for line in job.lines() {
        let mm =
            |measured: &gradimen_bench::record::Measured| format!("{:.4}", measured.middle().mm());
        let (quantity, string, fret, value, unit) = match &line.event {
            Event::IntonationRead {
                string,
                fret,
                cents,
                against,
                ..
            } => (
                format!("intonation against {}", against.key()),
                *string,
                fret.to_string(),
                cents.to_string(),
                "cents",
            ),
            Event::ReliefRead {
                side,
                span,
                seen: Gap::Open { gap },
                ..
            } => (
                format!("relief, {} side, {}", side.key(), span.words()),
                job.geometry().string_of(*side),
                span.at.to_string(),
                mm(gap),
                "mm",
            ),
            Event::NutRead {
                string, held, gap, ..
            } => (
                format!("gap over fret 1, held at {held}"),
                *string,
                "1".to_owned(),
                mm(gap),
                "mm",
            ),
            Event::ActionRead {
                string,
                fret,
                held,
                gap,
                ..
            } => (
                format!("height, held at {held}"),
                *string,
                fret.to_string(),
                mm(gap),
                "mm",
            ),
            Event::ScaleMeasured {
                string,
                nut_to_twelfth,
            } => (
                "nut to fret 12".to_owned(),
                *string,
                String::new(),
                mm(nut_to_twelfth),
                "mm",
            ),
            Event::SaddleMeasured {
                string,
                twelfth_to_saddle,
            } => (
                "fret 12 to saddle".to_owned(),
                *string,
                String::new(),
                mm(twelfth_to_saddle),
                "mm",
            ),
            Event::RoomMeasured { string, behind } => (
                "room behind the saddle".to_owned(),
                *string,
                String::new(),
                mm(behind),
                "mm",
            ),
            Event::CoreMeasured { string, core } => {
                ("core".to_owned(), *string, String::new(), mm(core), "mm")
            }
            Event::CutOffWeighed { string, weighing } => (
                "unit weight".to_owned(),
                *string,
                String::new(),
                format!("{:.5}", weighing.unit_weight().grams_per_metre()),
                "g/m",
            ),
            Event::SaddleMoved { string, turns } => (
                "saddle move away from the neck".to_owned(),
                *string,
                String::new(),
                turns.to_string(),
                "turns",
            ),
            _ => continue,
        };
        let counts = if line.live { "yes" } else { "taken back" };
        write(
            &mut writer,
            [
                line.seq.to_string(),
                line.at.to_string(),
                quantity,
                string.to_string(),
                fret,
                value,
                unit.to_owned(),
                counts.to_owned(),
            ],
        )?;
    }
    let body = writer
        .into_inner()
        .map_err(|error| Failure::Other(error.to_string()))?;
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header(attachment(file_name(&job, *id, "csv")))
        .body(body))
}

#[derive(Template)]
#[template(path = "data.html")]
struct DataPage {
    head: Head,
    refused: String,
}

/// The page for taking documents in.
async fn refused_page(refused: String) -> Result<HttpResponse, Failure> {
    let status = if refused.is_empty() {
        StatusCode::OK
    } else {
        StatusCode::UNPROCESSABLE_ENTITY
    };
    page(
        status,
        &DataPage {
            head: Head::new(),
            refused,
        },
    )
}

/// The page for taking documents in.
pub(crate) async fn show() -> Result<HttpResponse, Failure> {
    refused_page(String::new()).await
}

/// A document sent as a file.
#[derive(MultipartForm)]
pub(crate) struct Upload {
    document: Bytes,
}

/// Takes a document in.
pub(crate) async fn import(
    store: web::Data<Store>,
    upload: MultipartForm<Upload>,
) -> Result<HttpResponse, Failure> {
    let name = upload
        .document
        .file_name
        .clone()
        .unwrap_or_else(|| "the file".to_owned());
    let Ok(text) = std::str::from_utf8(&upload.document.data) else {
        return refused_page(format!(
            "{name} is not text, expected a job document exported from this program (JSON)"
        ))
        .await;
    };
    let document = match Document::parse(text) {
        Ok(document) => document,
        Err(error) => return refused_page(format!("{name}: {error}")).await,
    };
    match store.import(&document).await {
        Ok(id) => Ok(see(&format!("/jobs/{id}/record"))),
        Err(StoreError::Job(error)) => refused_page(format!("{name}: {error}")).await,
        Err(other) => Err(other.into()),
    }
}
