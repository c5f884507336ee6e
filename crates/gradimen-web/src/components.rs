//! The parts that pages share: what each shows is in `components/`, as Askama.

mod lane_field;
mod next;

pub(crate) use lane_field::{LaneField, Mark as FieldMark, SetField};
pub(crate) use next::{FindingView, FormAction, Next, findings};

use crate::assets;
use crate::forms::Fields;
use crate::pages::layout::JobLayout;
use crate::vocabulary::*;

/// What every page needs from the binary.
#[derive(Debug, Clone)]
pub(crate) struct Head {
    pub(crate) style: String,
    pub(crate) noscript: String,
    pub(crate) htmx: String,
    pub(crate) unsaved: String,
    pub(crate) changes: String,
    pub(crate) tools: String,
    pub(crate) small: String,
    pub(crate) keys: String,
    pub(crate) ear: String,
    pub(crate) capture: String,
    pub(crate) icon: String,
}

impl Head {
    pub(crate) fn new() -> Self {
        Self {
            style: assets::path("app.css"),
            noscript: assets::path("noscript.css"),
            htmx: assets::path("htmx.min.js"),
            unsaved: assets::path("unsaved.js"),
            changes: assets::path("changes.js"),
            tools: assets::path("tools.js"),
            small: assets::path("small.js"),
            keys: assets::path("keys.js"),
            ear: assets::path("ear.js"),
            capture: assets::path("capture.js"),
            icon: assets::path("favicon.svg"),
        }
    }
}

/// A choice in a list.
#[derive(Debug, Clone)]
pub(crate) struct Choice {
    pub(crate) value: String,
    pub(crate) label: String,
    pub(crate) chosen: bool,
}

impl Choice {
    pub(crate) fn of(value: &str, label: &str, chosen: bool) -> Self {
        Self {
            value: value.to_owned(),
            label: label.to_owned(),
            chosen,
        }
    }
}

/// How a station is read: with which tool, and what a further reading does to those before it. Links that stay at it.
#[derive(Debug, Clone)]
pub(crate) struct Tools {
    pub(crate) with: Vec<Choice>,
    pub(crate) again: [Choice; 2],
}

/// The choices of a station that can be read with some tools: as it is written when none is chosen.
pub(crate) fn tools(frame: &JobLayout, fields: &Fields, of: &[Tool]) -> Tools {
    let link = |name: &str, value: Option<&str>| {
        let here = frame.place.iter().filter(|(known, _)| *known != name);
        let here = here.map(|(name, value)| (*name, value.as_str()));
        let there = here.chain(value.map(|value| (name, value)));
        let query: Vec<String> = there
            .map(|(name, value)| format!("{name}={value}"))
            .collect();
        format!("/jobs/{}/{}?{}", frame.id, frame.station, query.join("&"))
    };
    let chosen = Tool::from_key(fields.text("tool"));
    // Said, for a shop may have a tool of its own here where nothing is said.
    let any = Choice::of(&link("tool", Some("")), "as written", chosen.is_none());
    let each = of.iter().map(|&tool| {
        let there = link("tool", Some(tool.key()));
        Choice::of(&there, short(tool), chosen == Some(tool))
    });
    let replaces = fields.text("replace") == "yes";
    Tools {
        with: if of.is_empty() {
            Vec::new()
        } else {
            std::iter::once(any).chain(each).collect()
        },
        again: [
            Choice::of(&link("replace", None), "averaged", !replaces),
            Choice::of(&link("replace", Some("yes")), "replaces", replaces),
        ],
    }
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
