//! The one next move: what it says, and what can be pressed beside it.

use crate::commands::What;
use crate::vocabulary::*;
use gradimen_bench::text::next::{Headline, Tone};

/// Something that can be told with one press.
#[derive(Debug, Clone)]
pub(crate) struct FormAction {
    pub(crate) id: &'static str,
    pub(crate) label: String,
    pub(crate) key: &'static str,
    pub(crate) main: bool,
    pub(crate) fields: Vec<(&'static str, String)>,
}

impl FormAction {
    /// The move was made as it stands.
    pub(crate) fn done(what: What, label: &str, fields: Vec<(&'static str, String)>) -> Self {
        Self {
            id: "done",
            key: "d",
            main: true,
            ..Self::plain(what, label, fields)
        }
    }

    /// What is most likely, where no move is ordered.
    pub(crate) fn main(what: What, label: &str, fields: Vec<(&'static str, String)>) -> Self {
        Self {
            main: true,
            ..Self::plain(what, label, fields)
        }
    }

    /// Anything else that happened.
    pub(crate) fn plain(what: What, label: &str, fields: Vec<(&'static str, String)>) -> Self {
        let what: &'static str = what.into();
        Self {
            id: "",
            label: label.to_owned(),
            key: "",
            main: false,
            fields: [vec![("what", what.to_owned())], fields].concat(),
        }
    }
}

/// The one next move.
#[derive(Debug, Clone, Default)]
pub(crate) struct Next {
    pub(crate) says: Headline,
    pub(crate) acts: Vec<FormAction>,
    /// A link to what wants something next: its place under the job, and its name.
    pub(crate) onward: Option<(String, String)>,
}

impl Next {
    pub(crate) fn of(says: Headline) -> Self {
        Self {
            says,
            ..Self::default()
        }
    }

    pub(crate) fn is_move(&self) -> bool {
        self.says.tone == Tone::Move
    }

    pub(crate) fn is_out(&self) -> bool {
        self.says.tone == Tone::Out
    }

    /// On to the claw, before anything here is set.
    pub(crate) fn with_claw_first(mut self) -> Self {
        self.onward = Some(("balance".to_owned(), "To the balance".to_owned()));
        self
    }

    /// On to the next station that wants something, where nothing else was named and nothing is to be turned here.
    pub(crate) fn or_station(mut self, known: &Known, plan: &Plan, here: StationId) -> Self {
        if self.onward.is_none() && !self.is_move() {
            self.onward = match plan.next_station(known) {
                Some(station) if station == here => None,
                Some(station) => {
                    let key = station.key();
                    Some((format!("{key}?focus=asked"), format!("Next: {key}")))
                }
                // What is left, the proof, and Ready.
                None => Some(("plan#end".to_owned(), "Next: proof".to_owned())),
            };
        }
        self
    }
}

/// A finding as a page shows it.
#[derive(Debug, Clone)]
pub(crate) struct FindingView {
    pub(crate) class: &'static str,
    pub(crate) word: &'static str,
    pub(crate) text: String,
    pub(crate) ways: Vec<String>,
}

impl From<&Finding> for FindingView {
    fn from(finding: &Finding) -> Self {
        let severity = finding.severity();
        Self {
            class: match severity {
                Severity::Note => "notice",
                Severity::Warning => "notice notice-warning",
                Severity::Stop => "notice notice-stop",
            },
            word: severity.key(),
            text: text::findings::sentence(finding),
            ways: text::findings::options(finding),
        }
    }
}

/// The findings that a page shows.
pub(crate) fn findings(plan: &Plan, here: impl Fn(&Finding) -> bool) -> Vec<FindingView> {
    let shown = plan.findings.iter().filter(|finding| here(finding));
    shown.map(FindingView::from).collect()
}
