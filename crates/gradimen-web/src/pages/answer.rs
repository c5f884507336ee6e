//! What goes back for a note that was heard: a panel, a sentence, and the forms to be sent.

use askama::Template;
use gradimen_core::quantity::Cents;
use gradimen_core::units::print;
use serde::Serialize;

use crate::svg;

/// No finer step is shown.
pub(super) const FINEST: f64 = 0.1;

/// What goes back for a note.
#[derive(Debug, Serialize)]
pub(super) struct Answer {
    /// For the panel.
    pub(super) html: String,
    /// In a sentence, for whoever wants it aloud.
    pub(super) says: String,
    /// Whether the note was heard to its end.
    pub(super) whole: bool,
    /// The forms to send, one after the other.
    pub(super) tell: Vec<Vec<(&'static str, String)>>,
}

impl Answer {
    /// The same with a form to send.
    pub(super) fn telling(mut self, form: Vec<(&'static str, String)>) -> Self {
        self.tell.push(form);
        self
    }
}

#[derive(Template)]
#[template(path = "pages/listen.html")]
struct Panel<'a> {
    big: &'a str,
    small: &'a str,
    lane: String,
}

pub(super) fn signed(cents: f64) -> String {
    let way = if cents < 0.0 { "flat" } else { "sharp" };
    format!(
        "{} {way}",
        print::plain_cents(Cents::new(cents.abs()), FINEST)
    )
}

pub(super) fn lane(cents: Option<f64>, width: f64, closes: bool) -> String {
    cents.map_or(String::new(), |cents| {
        svg::heard::lane(cents, width, closes)
    })
}

pub(super) fn plain(big: &str, small: &str, lane: String) -> Answer {
    let panel = Panel { big, small, lane };
    Answer {
        // A template of three words cannot fail to be written.
        html: panel.render().unwrap_or_default(),
        says: format!("{big}. {small}"),
        whole: true,
        tell: Vec::new(),
    }
}
