//! The application: pages, forms and drawings over the bench, in one process.
//!
//! Handlers parse, call and render; what they show was computed in `gradimen-core` and
//! `gradimen-bench`. [`routes`] is the whole surface on one screen.

mod access;
mod assets;
mod commands;
mod components;
pub mod demo;
mod errors;
#[allow(unreachable_pub)] // what the derive of a filter makes
mod filters;
mod forms;
mod guard;
mod headers;
mod pages;
mod practice;
mod routes;
mod stations;
mod svg;
mod vocabulary;

pub use access::Access;

use std::net::{SocketAddr, TcpListener};
use std::path::PathBuf;

use actix_web::{App, HttpServer, middleware, web};
use anyhow::Context;
use gradimen_bench::text::numbers as words;
use gradimen_store::journal::PRACTICE;
use gradimen_store::{Store, StoreError, backup};

/// What a start needs to know.
#[derive(Debug, Clone)]
pub struct Settings {
    /// Folder of the data file.
    pub data: PathBuf,
    /// Where to listen.
    pub listen: SocketAddr,
    /// Whether somebody has to sign in on this machine too; beyond it they always have to.
    pub asks: bool,
    /// Names and addresses under which other machines speak to it.
    pub names: Vec<String>,
    /// The shop's own certificate and its key; where there is none, one is made.
    pub certificate: Option<(PathBuf, PathBuf)>,
    /// Whether the list of jobs greets a newcomer: on a bench that is only shown.
    pub greets: bool,
}

/// Largest form: a hundred fields of a record.
const FORM_LIMIT: usize = 64 * 1024;
/// Largest document taken in: a job of many thousand events.
const UPLOAD_LIMIT: usize = 8 * 1024 * 1024;
/// A bench has a few tablets; two threads leave the machine its own work.
const WORKERS: usize = 2;

/// Opens the data, listens and serves until told to stop.
///
/// # Errors
/// When the data file is refused, other machines could not be served safely, or the address cannot be listened on.
pub async fn serve(settings: Settings) -> anyhow::Result<()> {
    let beyond = !settings.listen.ip().is_loopback();
    anyhow::ensure!(
        !beyond || !settings.names.is_empty(),
        "read the address {}: other machines speak to this one by a name or an address of it; say which, such as --name bench.local or --name 192.168.7.2, as often as there are",
        settings.listen
    );
    let names = access::names(&settings.names)?;
    let store = Store::open(&settings.data).await?;
    let asks = beyond || settings.asks;
    anyhow::ensure!(
        !asks || !store.accounts().await?.is_empty(),
        "nobody could sign in: there is no account yet. Add one first: gradimen account add NAME --data {}",
        settings.data.display()
    );
    let identity = match (&settings.certificate, beyond) {
        (Some((certificate, key)), _) => Some(access::tls::own(certificate, key)?),
        (None, true) => Some(access::tls::made(&settings.data, &settings.names)?),
        (None, false) => None,
    };
    let access = Access {
        asks,
        names,
        fingerprint: identity
            .as_ref()
            .map(|identity| identity.fingerprint.clone()),
    };
    let practice = practice_of(&store).await?;
    let listener = TcpListener::bind(settings.listen)
        .with_context(|| format!("cannot listen on {}", settings.listen))?;
    let address = listener.local_addr()?;
    let refresh = actix_web::rt::spawn(refresh_lines(store.clone()));
    let copies = (!settings.greets).then(|| actix_web::rt::spawn(daily_copies(store.clone())));
    let jobs = store.job_count().await?;
    let copied = backup::backups(store.folder());
    println!(
        "{}: {} jobs, last backup {}",
        backup::file_of(store.folder()).display(),
        jobs,
        copied
            .first()
            .map_or("none".to_owned(), |copy| copy.day.to_string())
    );
    match (&access.fingerprint, settings.names.first()) {
        (Some(fingerprint), name) => {
            let host = name.map_or(address.to_string(), |name| {
                format!("{name}:{}", address.port())
            });
            println!("Gradimen is at https://{host}/  (Ctrl-C stops it)");
            println!("its certificate, SHA-256, to compare on each device: {fingerprint}");
        }
        (None, _) => println!("Gradimen is at http://{address}/  (Ctrl-C stops it)"),
    }
    let config = identity.map(|identity| identity.config);
    let kept = (store.clone(), practice.clone());
    greeted(listener, kept, access, config, settings.greets)
        .await?
        .await?;
    refresh.abort();
    if let Some(copies) = copies {
        copies.abort();
    }
    practice.close().await?;
    store.close().await?;
    Ok(())
}

/// What is practised on is kept in a file of its own beside the shop's, so that neither can be taken for the other.
async fn practice_of(store: &Store) -> Result<Store, StoreError> {
    Store::open_from(&store.folder().join("practice"), PRACTICE).await
}

/// Makes lines of an older form again while the bench is quiet: a few, then a pause.
async fn refresh_lines(store: Store) {
    const AT_ONCE: i64 = 20;
    const PAUSE: std::time::Duration = std::time::Duration::from_millis(50);
    let mut after = 0;
    loop {
        actix_web::rt::time::sleep(PAUSE).await;
        match store.refresh_lines(after, AT_ONCE).await {
            Ok(done) => match done.last() {
                Some(last) => after = *last,
                None => return,
            },
            Err(error) => {
                tracing::warn!(%error, "lines of the list are made again when they are looked at");
                return;
            }
        }
    }
}

/// Copies the data once a day.
async fn daily_copies(store: Store) {
    const HOUR: std::time::Duration = std::time::Duration::from_secs(3600);
    loop {
        let today = jiff::Zoned::now().date();
        if let Err(error) = backup::daily(store.folder(), today).await {
            tracing::error!("no backup was made: {error}");
        }
        actix_web::rt::time::sleep(HOUR).await;
    }
}

/// The server of this machine alone on a listener that is already bound; tests bind port 0.
///
/// # Errors
/// When the listener cannot be used.
pub async fn app(listener: TcpListener, store: Store) -> anyhow::Result<actix_web::dev::Server> {
    app_for(listener, store, Access::default()).await
}

/// The same for whoever [`Access`] lets in.
///
/// # Errors
/// When the listener cannot be used.
pub async fn app_for(
    listener: TcpListener,
    store: Store,
    access: Access,
) -> anyhow::Result<actix_web::dev::Server> {
    let practice = practice_of(&store).await?;
    greeted(listener, (store, practice), access, None, false).await
}

async fn greeted(
    listener: TcpListener,
    (store, practice): (Store, Store),
    access: Access,
    encrypted: Option<rustls::ServerConfig>,
    greets: bool,
) -> anyhow::Result<actix_web::dev::Server> {
    let cookie_key = store.cookie_key().await?;
    let access = web::Data::new(access);
    let store = web::Data::new(store);
    let greeting = web::Data::new(pages::bench::Greeting(greets));
    let shown = web::Data::new(pages::shown::Shown::default());
    let practice = web::Data::new(access::PracticeData(practice));
    let benches = web::Data::new(practice::Benches::default());
    let server = HttpServer::new(move || {
        App::new()
            .app_data(store.clone())
            .app_data(greeting.clone())
            .app_data(shown.clone())
            .app_data(practice.clone())
            .app_data(benches.clone())
            .app_data(
                web::FormConfig::default()
                    .limit(FORM_LIMIT)
                    .error_handler(errors::form),
            )
            .app_data(
                actix_multipart::form::MultipartFormConfig::default()
                    .total_limit(UPLOAD_LIMIT)
                    .memory_limit(UPLOAD_LIMIT),
            )
            .app_data(access.clone())
            .wrap(middleware::from_fn(access::gate::gate))
            .wrap(middleware::Condition::new(
                access.asks,
                access::sessions::by_cookie(
                    store.get_ref().clone(),
                    &cookie_key,
                    access.fingerprint.is_some(),
                ),
            ))
            .wrap(middleware::from_fn(guard::patient))
            .wrap(middleware::from_fn(guard::same_origin))
            .wrap(guard::headers())
            .configure(routes::routes)
    })
    .workers(WORKERS)
    .shutdown_timeout(2);
    let server = match encrypted {
        Some(config) => server.listen_rustls_0_23(listener, config)?,
        None => server.listen(listener)?,
    };
    Ok(server.run())
}
