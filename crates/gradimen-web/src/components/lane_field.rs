//! Fields that stand in a drawing, where something is read.

use askama::Template;
use gradimen_core::quantity::Length;

use super::JobLayout;
use crate::commands::What;
use crate::forms::{Field, Fields};
use crate::svg;
use crate::vocabulary::*;

/// What is known where a field stands.
pub(crate) struct Mark {
    pub(crate) verdict: Verdict,
    /// The verdict in words, for those who hear the page.
    pub(crate) word: &'static str,
    /// The value, or nothing when it was never read.
    pub(crate) shown: String,
}

/// A reading's field: what is known at the left, what is typed at the right. Enter records it.
#[derive(Template)]
#[template(path = "components/lane_field.html")]
pub(crate) struct LaneField<'a> {
    frame: &'a JobLayout,
    what: &'static str,
    id: String,
    lane: String,
    name: &'static str,
    hidden: Vec<(&'static str, String)>,
    mark: String,
    shown: String,
    label: String,
    value: String,
    wrong: bool,
    placeholder: &'static str,
    /// What its echo is asked with; nothing where there is none.
    understood: String,
    /// What it would read as expected, as a hand types it; nothing before the first reading of the place.
    expected: String,
}

impl<'a> LaneField<'a> {
    /// A field of a station; `lane` orders the fields for the arrow keys and ends its name.
    pub(crate) fn new(frame: &'a JobLayout, what: What, lane: usize) -> Self {
        let what: &'static str = what.into();
        let id = if what == "read" { "reading" } else { what };
        Self {
            frame,
            what,
            id: format!("{id}-{lane}"),
            lane: lane.to_string(),
            name: "gap",
            hidden: Vec::new(),
            mark: String::new(),
            shown: String::new(),
            label: String::new(),
            value: String::new(),
            wrong: false,
            placeholder: "",
            understood: String::new(),
            expected: String::new(),
        }
    }

    /// What it belongs to, sent with it.
    pub(crate) fn at(mut self, hidden: Vec<(&'static str, String)>) -> Self {
        self.hidden = hidden;
        self
    }

    /// A length within limits: bare numbers in the unit of the tool in hand, and what a further reading does. What was read
    /// here before may be told by one key when it reads as expected.
    pub(crate) fn length(
        mut self,
        fields: &Fields,
        limits: &str,
        placeholder: &'static str,
        expected: Option<Length>,
    ) -> Self {
        self.understood = format!("limits={limits}");
        self.placeholder = placeholder;
        let tool = Tool::from_key(fields.text("tool"));
        let typed = |length| {
            let field = limits::named(limits)?;
            let unit = tool.and_then(Tool::unit).unwrap_or(field.unit());
            field.in_unit(unit).as_typed(length)
        };
        self.expected = expected.and_then(typed).unwrap_or_default();
        if let Some(tool) = tool {
            self.understood += &format!("&tool={}", tool.key());
            self.hidden.push(("tool", tool.key().to_owned()));
        }
        self.again(fields)
    }

    /// Cents, as a tuner shows them.
    pub(crate) fn cents(mut self, fields: &Fields, expected: Option<String>) -> Self {
        self.expected = expected.unwrap_or_default();
        self.name = "cents";
        self.placeholder = "cents";
        self.again(fields)
    }

    /// Whether a further reading takes the place of those before it.
    fn again(mut self, fields: &Fields) -> Self {
        if fields.text("replace") == "yes" {
            self.hidden.push(("replace", "yes".to_owned()));
        }
        self
    }

    /// What it is called and what is known there.
    pub(crate) fn showing(mut self, label: &str, mark: Mark) -> Self {
        self.mark = svg::inline_mark(mark.verdict);
        self.label = format!("{label}. {} {}", mark.word, mark.shown);
        self.shown = mark.shown;
        self
    }

    /// What stands typed in it: kept when it was refused or asked about, marked when it was refused.
    pub(crate) fn typed(mut self, fields: &Fields) -> Self {
        let here = |(name, value): &(&'static str, String)| {
            matches!(*name, "tool" | "replace") || fields.text(name) == value
        };
        if fields.text("what") != self.what || !self.hidden.iter().all(here) {
            return self;
        }
        let Field { value, error, .. } = fields.field(self.name);
        self.wrong = !error.is_empty();
        let asked = fields.text("asked") == "yes" || self.frame.conflict.is_some();
        if self.wrong || asked {
            self.value = value;
        }
        self
    }

    pub(crate) fn html(&self) -> String {
        rendered(self)
    }
}

/// A field on a lane that belongs to the form below the drawing: notes and gauges.
#[derive(Template)]
#[template(path = "components/set_field.html")]
pub(crate) struct SetField {
    pub(crate) field: Field,
    pub(crate) label: String,
    /// What its echo is asked with while it is typed in.
    pub(crate) understood: String,
}

impl SetField {
    pub(crate) fn html(&self) -> String {
        rendered(self)
    }
}

/// Writing to a string cannot fail, and these templates call nothing that can.
fn rendered(template: &impl Template) -> String {
    template.render().unwrap_or_default()
}
