//! The layout around every station of a job: its title, the strip of stations, undo and redo, what another window
//! did, and a reading that looks off.

use crate::vocabulary::*;

use std::sync::Arc;

use gradimen_practice::Bench;

use super::panel::Panel;
use crate::forms::Fields;
use crate::words::note;
use gradimen_core::units::print::BenchUnits;

/// A station in the strip.
#[derive(Debug, Clone)]
pub(crate) struct Tab {
    pub(crate) name: String,
    pub(crate) href: String,
    pub(crate) digit: &'static str,
    pub(crate) mark: String,
    pub(crate) word: &'static str,
    pub(crate) current: bool,
    /// Beside the one in hand.
    pub(crate) near: bool,
}

/// What another window did meanwhile, and what was about to be told here.
#[derive(Debug, Clone)]
pub(crate) struct Conflict {
    pub(crate) theirs: Vec<String>,
    pub(crate) mine: Vec<String>,
    pub(crate) again: Vec<(String, String)>,
}

/// A reading that does not fit, asked about before it is believed.
#[derive(Debug, Clone)]
pub(crate) struct QuestionView {
    pub(crate) read: String,
    pub(crate) expected: String,
    pub(crate) deviations: String,
    /// What it would be without a slip: in words, and the form that tells it.
    pub(crate) slips: Vec<(String, Vec<(String, String)>)>,
    /// The form that keeps it as it was written.
    pub(crate) keep: Vec<(String, String)>,
}

/// Where the cursor goes when it goes to whatever is asked for.
pub(crate) const ASKED: &str = "asked";

/// The frame around every station.
#[derive(Debug, Clone)]
pub(crate) struct JobLayout {
    /// The head of a printed sheet.
    pub(crate) printed: String,
    pub(crate) id: i64,
    pub(crate) seq: u64,
    /// The word of this page: what is sent from it twice is recorded once.
    pub(crate) press: String,
    pub(crate) title: String,
    pub(crate) describes: String,
    pub(crate) purpose: String,
    pub(crate) strung: String,
    pub(crate) station: &'static str,
    pub(crate) tabs: Vec<Tab>,
    pub(crate) undo: Option<String>,
    pub(crate) redo: Option<String>,
    pub(crate) conflict: Option<Conflict>,
    pub(crate) question: Option<QuestionView>,
    pub(crate) wrong: String,
    pub(crate) focus: String,
    /// What was just taken back or put back, in words.
    pub(crate) did: Option<String>,
    /// How many checks are still to be made before the first screw.
    pub(crate) checks: usize,
    /// Where everything of this station was left the last time the instrument was here.
    pub(crate) last_time: Option<String>,
    /// What is in hand, so that undo and redo stay with it.
    pub(crate) place: Vec<(&'static str, String)>,
    /// What lies beside a job that is practised.
    pub(crate) practice: Option<Panel>,
}

/// What the shop's work takes and costs.
#[derive(Debug, Clone, Default)]
pub(crate) struct Offers {
    pub(crate) currency: String,
    pub(crate) work: Vec<Offered>,
}

impl Offers {
    pub(crate) fn of(shop: &Shop) -> Self {
        Self {
            currency: shop.currency.clone(),
            work: shop.work.clone(),
        }
    }
}

/// What a page shows of a job: where the eye and the hand are.
#[derive(Debug, Clone, Default)]
pub(crate) struct View {
    pub(crate) fields: Fields,
    pub(crate) conflict: Option<Conflict>,
    pub(crate) question: Option<QuestionView>,
    /// The target sets that can be put on this job, by name.
    pub(crate) specs: Vec<String>,
    /// The name of the shop, for printed sheets.
    pub(crate) shop: String,
    /// What its work takes and costs.
    pub(crate) offers: Offers,
    /// What lengths are written in.
    pub(crate) units: BenchUnits,
    /// The word of this page's forms, where it is chosen already.
    pub(crate) press: Option<String>,
    /// The instrument behind a job that is practised.
    pub(crate) bench: Option<Arc<Bench>>,
}

impl View {
    /// The string in hand, where one is named.
    pub(crate) fn string(&self, job: &Known) -> Option<u8> {
        let named = self.fields.text("string").parse().ok();
        named.filter(|string| (1..=job.instrument().strings).contains(string))
    }
}

/// A word that no other page has.
pub(crate) fn fresh() -> String {
    use std::hash::{BuildHasher, RandomState};
    let word = || RandomState::new().hash_one(std::time::Instant::now());
    format!("{:016x}{:016x}", word(), word())
}

/// What a printed sheet says at its head: whose it is, and of which day.
fn printed(shop: &str) -> String {
    let today = jiff::Zoned::now().strftime("%-d %B %Y").to_string();
    [shop, today.as_str()]
        .into_iter()
        .filter(|part| !part.is_empty())
        .collect::<Vec<_>>()
        .join(" \u{b7} ")
}

impl JobLayout {
    pub(crate) fn new(
        id: i64,
        job: &Known,
        station: &'static str,
        tabs: Vec<Tab>,
        view: &View,
    ) -> Self {
        // The whole stroke goes with its first entry.
        let stroke = |target: u64| {
            let all = job
                .group(target)
                .map(|entry| text::events::sentence(&entry.event));
            let all: Vec<String> = all.collect();
            (!all.is_empty()).then(|| all.join("; "))
        };
        let told = |event: Option<Event>| {
            let (Some(Event::Undone { target }) | Some(Event::Redone { target })) = event else {
                return None;
            };
            stroke(target)
        };
        let did = [("undone", "Undid"), ("redone", "Redid")]
            .into_iter()
            .find_map(|(name, says)| {
                let target = view.fields.text(name).parse().ok()?;
                Some(format!("{says}: {}", stroke(target)?))
            });
        Self {
            id,
            press: view.press.clone().unwrap_or_else(fresh),
            seq: job.seq(),
            title: job.instrument().title(),
            describes: gradimen_bench::export::summary::describes(job),
            purpose: job.purpose().to_owned(),
            strung: gradimen_bench::export::summary::strung(job),
            station,
            tabs,
            undo: told(job.undo()),
            redo: told(job.redo()),
            conflict: view.conflict.clone(),
            question: view.question.clone(),
            wrong: wrong_anywhere(&view.fields),
            focus: view.fields.text("focus").to_owned(),
            did,
            last_time: StationId::from_key(station)
                .and_then(|station| text::last_time::line(job, station)),
            checks: 0,
            place: place(&view.fields).collect(),
            printed: printed(&view.shop),
            practice: None,
        }
    }

    /// What lies beside a job that is practised.
    pub(crate) fn with_practice(mut self, panel: Option<Panel>) -> Self {
        self.practice = panel;
        self
    }

    /// Whether the next move is kept back.
    pub(crate) fn hides(&self) -> bool {
        self.practice.as_ref().is_some_and(|panel| panel.hides)
    }

    /// The cursor goes to the field that is asked for, where nobody named one.
    pub(crate) fn with_asked(mut self, field: impl FnOnce() -> Option<String>) -> Self {
        if self.focus == ASKED {
            self.focus = field().unwrap_or_default();
        }
        self
    }

    /// The page as it stands: the same station, string and tool.
    pub(crate) fn here(&self) -> String {
        let place: Vec<String> = self
            .place
            .iter()
            .map(|(name, value)| format!("{name}={value}"))
            .collect();
        format!("/jobs/{}/{}?{}", self.id, self.station, place.join("&"))
    }

    /// Whether something must be answered before the next move.
    pub(crate) const fn asks(&self) -> bool {
        self.conflict.is_some() || self.question.is_some()
    }

    /// With so many checks before the first screw.
    pub(crate) fn with_checks(mut self, checks: usize) -> Self {
        self.checks = checks;
        self
    }

    /// Names another thing in hand where the address did not.
    pub(crate) fn with_place(mut self, name: &'static str, value: &str) -> Self {
        if self.place.iter().all(|(known, _)| *known != name) {
            self.place.push((name, value.to_owned()));
        }
        self
    }

    /// Names the string in hand where the address did not.
    pub(crate) fn with_string(mut self, string: u8) -> Self {
        if self.place.iter().all(|(name, _)| *name != "string") {
            self.place.push(("string", string.to_string()));
        }
        self
    }
}

/// The first error of fields that a station may not show where they stand.
fn wrong_anywhere(fields: &Fields) -> String {
    fields.errors().next().cloned().unwrap_or_default()
}

/// The shape that stands for a mark.
pub(crate) const fn shape_of(mark: Mark) -> Verdict {
    match mark {
        Mark::Unread => Verdict::Unread,
        Mark::Working => Verdict::MeasureAgain,
        Mark::Within => Verdict::InSpec,
        Mark::Blocked => Verdict::Blocked,
    }
}

/// What is in hand, as far as the address or the form says.
pub(super) fn place(fields: &Fields) -> impl Iterator<Item = (&'static str, String)> + '_ {
    [
        "string", "fret", "against", "panel", "side", "school", "held", "pickup", "tool", "replace",
    ]
    .into_iter()
    .map(|name| (name, fields.text(name).to_owned()))
    .filter(|(name, value)| {
        let plain = |byte: u8| byte.is_ascii_alphanumeric() || byte == b'_';
        // "As written" is a choice too, where the shop has a tool of its own.
        let said = !value.is_empty() || (*name == "tool" && fields.has("tool"));
        said && value.bytes().all(plain)
    })
}

/// For what the ear can listen string by string, the words on its buttons, and what is said when it begins.
pub(crate) fn by_string(job: &Known, purpose: &str, says: &str) -> Vec<(String, String, String)> {
    let one = |string: u8| {
        let named = format!("{string} {}", note(job, string));
        (
            format!("{purpose}-{string}"),
            named.clone(),
            format!("Listening to string {named}. {says}"),
        )
    };
    (1..=job.instrument().strings).map(one).collect()
}
