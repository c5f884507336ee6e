//! Every address of the application.

use actix_web::web::{self, ServiceConfig, get, post};

use crate::errors;
use crate::pages::{
    account, backups, bench, data, due, figures, file, instrument, job, listen, open, practice,
    practised, sheets, shop, sign_in, understand, visits,
};

/// The whole surface. HEAD is answered like GET, without what is shown: see [`crate::guard`].
pub(crate) fn routes(service: &mut ServiceConfig) {
    service
        .route("/", get().to(bench::list))
        .route("/stock", get().to(bench::stock))
        .route("/instruments/new", get().to(instrument::new))
        .route("/instruments", post().to(instrument::add))
        .route("/instruments/{id}", get().to(instrument::show))
        .route("/instruments/{id}/edit", get().to(instrument::edit))
        .route("/instruments/{id}", post().to(instrument::change))
        .route("/instruments/{id}/visits", get().to(visits::show))
        .route("/instruments/{id}/restore", post().to(instrument::restore))
        .route("/instruments/{id}/open", get().to(open::new))
        .route("/instruments/{id}/open", post().to(open::open))
        .route("/jobs/{id}", get().to(job::show))
        .route("/jobs/{id}/tell", post().to(job::tell))
        .route("/jobs/{id}/export.json", get().to(data::export))
        .route("/jobs/{id}/entries.txt", get().to(data::as_it_stands))
        .route("/jobs/{id}/readings.csv", get().to(data::readings))
        .route("/jobs/{id}/estimate", get().to(sheets::estimate))
        .route("/jobs/{id}/handover", get().to(sheets::handover))
        .route("/jobs/{id}/handover.json", get().to(sheets::handover_json))
        .route("/jobs/{id}/handover.csv", get().to(sheets::handover_csv))
        .route("/jobs/{id}/recheck.ics", get().to(sheets::recheck))
        .route("/jobs/{id}/listen", get().to(listen::listen))
        .route("/jobs/{id}/practice", get().to(practised::show))
        .route("/jobs/{id}/practice", post().to(practised::act))
        .route("/jobs/{id}/pluck.wav", get().to(practised::pluck))
        .route("/jobs/{id}/{station}", get().to(job::station))
        .route("/practice", get().to(practice::show))
        .route("/practice", post().to(practice::open))
        .route("/practice/card", get().to(practice::card))
        .route("/sign-in", get().to(sign_in::show))
        .route("/sign-in", post().to(sign_in::enter))
        .route("/account", get().to(account::show))
        .route("/account/pair", post().to(account::pair))
        .route("/account/leave", post().to(account::leave))
        .route(
            "/account/leave-everywhere",
            post().to(account::leave_everywhere),
        )
        .route("/due", get().to(due::show))
        .route("/shop/figures", get().to(figures::show))
        .route("/shop", get().to(shop::show))
        .route("/shop", post().to(shop::keep))
        .route("/data", get().to(data::show))
        .route("/data/shop.json", get().to(data::whole))
        .route("/data/verify", get().to(backups::verified))
        .route("/data/backups/{day}", get().to(backups::look))
        .route("/data/backups/{day}/restore", post().to(backups::restore))
        .route("/health", get().to(backups::health))
        .route("/data/import", post().to(data::import))
        .route("/understand", get().to(understand::understand))
        .route("/assets/{print}/{name}", get().to(file::asset))
        .default_service(web::to(errors::not_found));
}
