//! What the geometry stations share: the one next move in words, and what can be told of it.

pub(crate) mod balance;
pub(crate) mod height;
pub(crate) mod nut;
pub(crate) mod pickups;
pub(crate) mod relief;

use gradimen_bench::findings::{Finding, SetupFinding, Severity};
use gradimen_bench::job::Job;
use gradimen_bench::plan::Plan;
use gradimen_bench::setup::Quantity;
use gradimen_bench::whole::{self, Station};
use gradimen_core::quantity::{Estimate, Length};
use gradimen_core::units::print;

use crate::forms::Fields;
use crate::words;

/// Something that can be told with one press.
#[derive(Debug, Clone)]
pub(crate) struct Act {
    pub(crate) id: &'static str,
    pub(crate) label: String,
    pub(crate) key: &'static str,
    pub(crate) main: bool,
    pub(crate) fields: Vec<(&'static str, String)>,
}

impl Act {
    pub(crate) fn done(what: &str, label: &str, fields: Vec<(&'static str, String)>) -> Self {
        Self {
            id: "done",
            label: label.to_owned(),
            key: "d",
            main: true,
            fields: [vec![("what", what.to_owned())], fields].concat(),
        }
    }

    pub(crate) fn plain(what: &str, label: &str, fields: Vec<(&'static str, String)>) -> Self {
        Self {
            id: "",
            label: label.to_owned(),
            key: "",
            main: false,
            fields: [vec![("what", what.to_owned())], fields].concat(),
        }
    }
}

/// The one next move, in words.
#[derive(Debug, Clone, Default)]
pub(crate) struct Next {
    pub(crate) kicker: String,
    pub(crate) big: Vec<String>,
    pub(crate) is_move: bool,
    pub(crate) is_out: bool,
    pub(crate) expect: Vec<String>,
    pub(crate) acts: Vec<Act>,
    pub(crate) why: Vec<(String, String)>,
    /// A link to what wants something next: its place under the job, and its name.
    pub(crate) onward: Option<(String, String)>,
    /// The usual caution at this step.
    pub(crate) caution: String,
}

/// The next station that wants something, when this one wants nothing more.
pub(crate) fn next_station(plan: &Plan, here: Station) -> Option<(String, String)> {
    whole::next_station(plan)
        .filter(|station| *station != here)
        .map(|station| (station.key().to_owned(), format!("Next: {}", station.key())))
}

/// A finding as a station shows it.
#[derive(Debug, Clone)]
pub(crate) struct Found {
    pub(crate) class: &'static str,
    pub(crate) word: &'static str,
    pub(crate) text: String,
    pub(crate) ways: Vec<String>,
}

/// The findings that a station shows.
pub(crate) fn found(plan: &Plan, here: impl Fn(&SetupFinding) -> bool) -> Vec<Found> {
    plan.findings
        .iter()
        .filter(|finding| matches!(finding, Finding::Setup(setup) if here(setup)))
        .map(|finding| {
            let severity = finding.severity();
            Found {
                class: match severity {
                    Severity::Note => "notice",
                    Severity::Warning => "notice notice-warning",
                    Severity::Stop => "notice notice-stop",
                },
                word: severity.word(),
                text: finding.sentence(),
                ways: finding.ways(),
            }
        })
        .collect()
}

/// `0.36 ± 0.02`.
pub(crate) fn spread(value: Estimate<Length>) -> String {
    format!(
        "{} \u{b1} {}",
        words::mm(value.value, 2),
        words::mm(value.sigma, 2)
    )
}

/// `0.36 mm (14 thou)`.
pub(crate) fn small(value: Length) -> String {
    format!("{} mm ({})", words::mm(value, 2), print::thou(value))
}

/// A height in the nearest half 64th, as a rule shows it.
pub(crate) fn sixty_fourths(value: Length) -> String {
    let halves = (value.inches() * 128.0).round();
    format!("{}/64", halves / 2.0)
}

/// What was last read, and whether it is carried since.
pub(crate) fn last_read(quantity: &Quantity) -> String {
    quantity.last.as_ref().map_or_else(
        || "not read".to_owned(),
        |last| {
            if quantity.is_carried() {
                format!("{}, carried", last.written)
            } else {
                last.written.clone()
            }
        },
    )
}

/// Which string is in hand: named, or the one that wants something, or the first.
pub(crate) fn string_in_hand(fields: &Fields, job: &Job, wanting: Option<u8>) -> u8 {
    fields
        .text("string")
        .parse()
        .ok()
        .filter(|string| (1..=job.instrument().strings).contains(string))
        .or(wanting)
        .unwrap_or(1)
}

/// The note a string is tuned to.
pub(crate) fn note(job: &Job, string: u8) -> String {
    job.string_state(string)
        .map_or(String::new(), |state| state.pitch.note().to_string())
}

/// What stands typed in a field that was refused; nothing otherwise.
pub(crate) fn typed(fields: &Fields, what: &str, name: &str, string: &str) -> (String, bool) {
    let here = fields.text("what") == what
        && (fields.text("string") == string || fields.text("side") == string);
    if !here {
        return (String::new(), false);
    }
    let field = fields.field(name);
    let wrong = !field.error.is_empty();
    let keep = wrong || fields.text("asked") == "yes";
    (if keep { field.value } else { String::new() }, wrong)
}

/// A field that stands in the drawing where something is measured.
pub(crate) struct LaneField<'a> {
    pub(crate) job: i64,
    pub(crate) seq: u64,
    pub(crate) station: &'a str,
    pub(crate) what: &'a str,
    /// Its id, which ends in what it belongs to.
    pub(crate) id: String,
    /// Which lane, for the arrow keys.
    pub(crate) lane: String,
    pub(crate) hidden: Vec<(&'static str, String)>,
    pub(crate) mark: String,
    pub(crate) shown: String,
    pub(crate) value: String,
    pub(crate) wrong: bool,
    pub(crate) placeholder: &'a str,
    pub(crate) label: String,
    pub(crate) limits: &'a str,
}

impl LaneField<'_> {
    pub(crate) fn html(&self) -> String {
        use crate::svg::escaped;
        use std::fmt::Write;
        let mut hidden = String::new();
        for (name, value) in &self.hidden {
            // Writing to a String cannot fail.
            let _ = write!(
                hidden,
                r#"<input type="hidden" name="{name}" value="{}">"#,
                escaped(value)
            );
        }
        format!(
            r#"<form xmlns="http://www.w3.org/1999/xhtml" method="post" action="/jobs/{job}/tell" class="lane-field{class}"><input type="hidden" name="what" value="{what}"><input type="hidden" name="station" value="{station}"><input type="hidden" name="seen" value="{seq}">{hidden}{mark}<span class="font-bold whitespace-nowrap" aria-hidden="true">{shown}</span><input id="{id}" data-lane="{lane}" name="gap" value="{value}" placeholder="{placeholder}" aria-label="{label}" aria-invalid="{wrong}" autocomplete="off" spellcheck="false" enterkeyhint="next" hx-get="/understand?limits={limits}" hx-trigger="input changed delay:200ms" hx-target=".lanes-echo" hx-select="unset" hx-swap="innerHTML" hx-push-url="false" hx-params="gap"></form>"#,
            job = self.job,
            class = if self.wrong { " is-wrong" } else { "" },
            what = self.what,
            station = self.station,
            seq = self.seq,
            mark = self.mark,
            shown = escaped(&self.shown),
            id = self.id,
            lane = self.lane,
            value = escaped(&self.value),
            placeholder = self.placeholder,
            label = escaped(&self.label),
            wrong = self.wrong,
            limits = self.limits,
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn heights_as_a_rule_shows_them() {
        assert_eq!(sixty_fourths(Length::from_inches(5.0 / 64.0)), "5/64");
        assert_eq!(sixty_fourths(Length::from_inches(4.4 / 64.0)), "4.5/64");
        assert_eq!(
            spread(Estimate::new(Length::from_mm(0.361), Length::from_mm(0.02))),
            "0.36 \u{b1} 0.02"
        );
        assert_eq!(small(Length::from_thou(14.0)), "0.36 mm (14 thou)");
    }
}
