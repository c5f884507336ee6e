//! What the geometry stations share: the one next move in words, and what can be told of it.

pub(crate) mod action;
pub(crate) mod balance;
pub(crate) mod nut;
pub(crate) mod pickups;
pub(crate) mod relief;

use crate::vocabulary::*;
use gradimen_core::quantity::{Estimate, Length};
use gradimen_core::units::print;

use crate::forms::Fields;
use crate::pages::Choice;
use crate::pages::layout::JobLayout;
use crate::words;

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
    pub(crate) acts: Vec<FormAction>,
    pub(crate) why: Vec<(String, String)>,
    /// A link to what wants something next: its place under the job, and its name.
    pub(crate) onward: Option<(String, String)>,
    /// The usual caution at this step.
    pub(crate) caution: String,
}

/// The next station that wants something, when this one wants nothing more.
pub(crate) fn next_station(
    known: &Known,
    plan: &Plan,
    here: StationId,
) -> Option<(String, String)> {
    plan.next_station(known)
        .filter(|station| *station != here)
        .map(|station| {
            let key: &str = station.into();
            (key.to_owned(), format!("Next: {key}"))
        })
}

/// A finding as a station shows it.
#[derive(Debug, Clone)]
pub(crate) struct FindingView {
    pub(crate) class: &'static str,
    pub(crate) word: &'static str,
    pub(crate) text: String,
    pub(crate) ways: Vec<String>,
}

/// The findings that a station shows.
pub(crate) fn found(plan: &Plan, here: impl Fn(&Finding) -> bool) -> Vec<FindingView> {
    plan.findings
        .iter()
        .filter(|finding| here(finding))
        .map(|finding| {
            let severity = finding.severity();
            FindingView {
                class: match severity {
                    Severity::Note => "notice",
                    Severity::Warning => "notice notice-warning",
                    Severity::Stop => "notice notice-stop",
                },
                word: severity.key(),
                text: text::findings::sentence(finding),
                ways: text::findings::options(finding),
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

/// What the first reading after a move will be: `0.36 ± 0.02`.
pub(crate) fn expected(step: &Move) -> String {
    let value = step.expected.first().and_then(|first| first.value.length());
    value.map_or_else(String::new, spread)
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
                format!("{}, carried from an earlier reading", last.written)
            } else {
                last.written.clone()
            }
        },
    )
}

/// The tools that a station can be read with, as links that stay at it; as it is written when none is chosen.
pub(crate) fn tools(frame: &JobLayout, fields: &Fields, of: &[Tool]) -> Vec<Choice> {
    let here: Vec<String> = frame
        .place
        .iter()
        .filter(|(name, _)| *name != "tool")
        .map(|(name, value)| format!("{name}={value}"))
        .collect();
    let link = |tool: Option<Tool>| {
        let mut query = here.clone();
        query.extend(tool.map(|tool| format!("tool={}", tool.key())));
        format!("/jobs/{}/{}?{}", frame.id, frame.station, query.join("&"))
    };
    let chosen = Tool::from_key(fields.text("tool"));
    let any = Choice::of(&link(None), "as written", chosen.is_none());
    let each = of
        .iter()
        .map(|&tool| Choice::of(&link(Some(tool)), short(tool), chosen == Some(tool)));
    std::iter::once(any).chain(each).collect()
}

/// A tool in the row of tools.
const fn short(tool: Tool) -> &'static str {
    match tool {
        Tool::Rule64 => "64ths",
        Tool::Rule32 => "32nds",
        Tool::RuleHalfMm => "half mm",
        Tool::Dial => "dial",
        other => other.name(),
    }
}

/// Which string is in hand: named, or the one that wants something, or the first.
pub(crate) fn string_in_hand(fields: &Fields, job: &Known, wanting: Option<u8>) -> u8 {
    fields
        .text("string")
        .parse()
        .ok()
        .filter(|string| (1..=job.instrument().strings).contains(string))
        .or(wanting)
        .unwrap_or(1)
}

/// The note a string is tuned to.
pub(crate) fn note(job: &Known, string: u8) -> String {
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
    /// The tool chosen, for what the field says it understood.
    fn tool(&self) -> String {
        let chosen = self.hidden.iter().find(|(name, _)| *name == "tool");
        chosen
            .filter(|(_, tool)| Tool::from_key(tool).is_some())
            .map_or_else(String::new, |(_, tool)| format!("&amp;tool={tool}"))
    }

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
            r#"<form xmlns="http://www.w3.org/1999/xhtml" method="post" action="/jobs/{job}/tell" class="lane-field{class}"><input type="hidden" name="what" value="{what}"><input type="hidden" name="station" value="{station}"><input type="hidden" name="seen" value="{seq}">{hidden}{mark}<span class="font-bold whitespace-nowrap" aria-hidden="true">{shown}</span><input id="{id}" data-lane="{lane}" name="gap" value="{value}" placeholder="{placeholder}" aria-label="{label}" aria-invalid="{wrong}" autocomplete="off" spellcheck="false" enterkeyhint="next" hx-get="/understand?limits={limits}{tool}" hx-trigger="input changed delay:200ms" hx-target=".lanes-echo" hx-select="unset" hx-swap="innerHTML" hx-push-url="false" hx-params="gap"></form>"#,
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
            tool = self.tool(),
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
