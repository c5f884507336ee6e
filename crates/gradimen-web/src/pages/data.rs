//! Documents in and out.

use crate::vocabulary::*;
use actix_multipart::form::MultipartForm;
use actix_multipart::form::bytes::Bytes;
use actix_multipart::form::text::Text;
use actix_web::http::StatusCode;
use actix_web::http::header::{ContentDisposition, DispositionParam, DispositionType};
use actix_web::{HttpResponse, web};
use askama::Template;
use gradimen_bench::export::difference::Difference;
use gradimen_bench::export::table;
use gradimen_store::backup;
use gradimen_store::whole::Under;
use gradimen_store::{Store, StoreError};

use super::{backups, page, redirect};
use crate::access::Kept;
use crate::components::Head;
use crate::errors::Failure;

/// A file to be kept, by that name.
pub(super) fn attachment(name: String) -> ContentDisposition {
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
pub(crate) async fn export(store: Kept, id: web::Path<i64>) -> Result<HttpResponse, Failure> {
    // As it is stored, whether it can be worked out or not: what was recorded can always be taken away.
    let text = store.as_stored(*id).await?;
    let name = match store.worked(*id).await {
        Ok(worked) => file_name(&worked.job, *id, "json"),
        Err(_) => format!("job-{}.json", *id),
    };
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header(attachment(name))
        .body(text))
}

/// The entries of a job as they stand in the file, byte for byte, whatever they are: for one that nothing can read any more.
pub(crate) async fn as_it_stands(store: Kept, id: web::Path<i64>) -> Result<HttpResponse, Failure> {
    let body = store.bytes_of(*id).await?;
    Ok(HttpResponse::Ok()
        .content_type("application/octet-stream")
        .insert_header(attachment(format!("job-{id}-entries.txt")))
        .body(body))
}

pub(crate) async fn readings(store: Kept, id: web::Path<i64>) -> Result<HttpResponse, Failure> {
    let worked = store.worked(*id).await?;
    let name = file_name(&worked.job, *id, "csv");
    let rows = table::rows(&worked.job).into_iter().map(|row| row.to_vec());
    csv_file(name, &table::HEADING, rows)
}

/// A table as a file.
pub(super) fn csv_file(
    name: String,
    heading: &[&str],
    rows: impl Iterator<Item = Vec<String>>,
) -> Result<HttpResponse, Failure> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    let failed = |error: csv::Error| Failure::Other(error.to_string());
    writer.write_record(heading).map_err(failed)?;
    for row in rows {
        writer.write_record(row).map_err(failed)?;
    }
    let body = writer
        .into_inner()
        .map_err(|error| Failure::Other(error.to_string()))?;
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header(attachment(name))
        .body(body))
}

#[derive(Template)]
#[template(path = "pages/data.html")]
struct DataPage {
    head: Head,
    refused: String,
    file: String,
    holds: String,
    backups: Vec<backups::Row>,
    waits: bool,
}

/// The page for taking documents in.
async fn refused_page(store: &Store, refused: String) -> Result<HttpResponse, Failure> {
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
            file: backup::file_of(store.folder()).display().to_string(),
            holds: backups::holds(&store.contents().await?),
            backups: backups::rows(store),
            waits: backup::waits(store.folder()),
        },
    )
}

/// The page for taking documents in.
pub(crate) async fn show(store: Kept) -> Result<HttpResponse, Failure> {
    refused_page(&store, String::new()).await
}

/// The whole shop as one document.
pub(crate) async fn whole(store: Kept) -> Result<HttpResponse, Failure> {
    let (text, left) = store.whole().await?;
    if !left.is_empty() {
        tracing::warn!("jobs that cannot be read were left out: {left:?}");
    }
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header(attachment("shop.json".to_owned()))
        .body(text))
}

/// A document sent as a file.
#[derive(MultipartForm)]
pub(crate) struct Upload {
    document: Bytes,
    /// What to do where the record on file says something else: nothing before it was asked.
    record: Option<Text<String>>,
}

/// A job whose instrument is on file otherwise: asked about before anything is written.
#[derive(Template)]
#[template(path = "pages/differs.html")]
struct DiffersPage {
    head: Head,
    title: String,
    differences: Vec<Difference>,
    document: String,
}

/// Takes a document in.
pub(crate) async fn import(
    store: Kept,
    upload: MultipartForm<Upload>,
) -> Result<HttpResponse, Failure> {
    let name = upload
        .document
        .file_name
        .clone()
        .unwrap_or_else(|| "the file".to_owned());
    let Ok(text) = std::str::from_utf8(&upload.document.data) else {
        return refused_page(
            &store,
            format!(
                "{name} is not text, expected a job document exported from this program (JSON)"
            ),
        )
        .await;
    };
    let document = match Document::parse(text) {
        Ok(document) => document,
        Err(error) => return refused_page(&store, format!("{name}: {error}")).await,
    };
    let under = match upload.record.as_ref().map(|record| record.as_str()) {
        Some("another") => Under::Another,
        Some("on_file") => Under::SameName,
        _ => match store.differs(&document).await {
            Ok(differences) if !differences.is_empty() => {
                let opened = document.events.first().map(|entry| &entry.event);
                return page(
                    StatusCode::CONFLICT,
                    &DiffersPage {
                        head: Head::new(),
                        title: match opened {
                            Some(Event::Opened(opened)) => opened.instrument.title(),
                            _ => name,
                        },
                        differences,
                        document: text.to_owned(),
                    },
                );
            }
            // What is no job says so below.
            _ => Under::SameName,
        },
    };
    match store.import_under(&document, under).await {
        Ok(id) => Ok(redirect(&format!("/jobs/{id}/record"))),
        Err(error @ (StoreError::Practised | StoreError::Job(_))) => {
            refused_page(&store, format!("{name}: {error}")).await
        }
        Err(other) => Err(other.into()),
    }
}
