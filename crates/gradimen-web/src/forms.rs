//! Forms: raw text, what was wrong with it, and what it became. One form type serves for the first
//! showing, for showing again with errors, and for editing.

pub(crate) mod heights;
pub(crate) mod instrument;
pub(crate) mod job;
pub(crate) mod lists;

pub(crate) mod set;
pub(crate) mod shop;

use crate::vocabulary::*;
use std::collections::BTreeMap;
use std::fmt::Display;
use std::ops::RangeInclusive;

use gradimen_core::quantity::Turns;
use gradimen_core::thread::pitch_named;
use gradimen_core::units::{LengthField, parse_cents, parse_turns};

/// The fields of a form as they were typed.
#[derive(Debug, Clone, Default, PartialEq)]
pub(crate) struct Fields {
    values: BTreeMap<String, String>,
    errors: BTreeMap<String, String>,
}

/// One field for a template.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Field {
    pub(crate) name: String,
    pub(crate) value: String,
    pub(crate) error: String,
}

impl Field {
    /// Whether nothing was typed and nothing is wrong.
    pub(crate) fn is_plain(&self) -> bool {
        self.value.is_empty() && self.error.is_empty()
    }
}

impl From<Vec<(String, String)>> for Fields {
    fn from(pairs: Vec<(String, String)>) -> Self {
        Self {
            values: pairs.into_iter().collect(),
            errors: BTreeMap::new(),
        }
    }
}

impl Fields {
    /// What was typed, trimmed; nothing when the field is missing.
    pub(crate) fn text(&self, name: &str) -> &str {
        self.values.get(name).map_or("", |value| value.trim())
    }

    /// Whether a field was sent at all, be it empty.
    pub(crate) fn has(&self, name: &str) -> bool {
        self.values.contains_key(name)
    }

    /// What stands in a field that was sent.
    pub(crate) fn value(&self, name: &str) -> Option<&str> {
        self.values.get(name).map(|value| value.trim())
    }

    /// Takes a field out.
    pub(crate) fn remove(&mut self, name: &str) {
        self.values.remove(name);
    }

    /// Fills a field.
    pub(crate) fn set(&mut self, name: &str, value: impl Into<String>) {
        self.values.insert(name.to_owned(), value.into());
    }

    /// Fills a field that nothing was typed into.
    pub(crate) fn suggest(&mut self, name: &str, value: impl Into<String>) {
        if self.text(name).is_empty() && !self.errors.contains_key(name) {
            self.set(name, value);
        }
    }

    /// Ticks a box, or leaves it alone.
    pub(crate) fn tick(&mut self, name: &str, ticked: bool) {
        self.values.remove(name);
        if ticked {
            self.set(name, "on");
        }
    }

    /// Whether a box was ticked.
    pub(crate) fn ticked(&self, name: &str) -> bool {
        self.values.contains_key(name)
    }

    /// Marks a field as wrong.
    pub(crate) fn wrong(&mut self, name: &str, error: impl Display) {
        self.errors
            .entry(name.to_owned())
            .or_insert_with(|| error.to_string());
    }

    /// Keeps a result, or marks the field as wrong.
    pub(crate) fn keep<T, E: Display>(&mut self, name: &str, result: Result<T, E>) -> Option<T> {
        result.map_err(|error| self.wrong(name, error)).ok()
    }

    /// Reads what only an ear tells beside a reading: a number, or nothing where a hand told it.
    pub(crate) fn told_by_ear(&mut self, name: &str) -> Option<Option<f64>> {
        let written = self.text(name);
        if written.is_empty() {
            return Some(None);
        }
        let number = written
            .parse::<f64>()
            .ok()
            .filter(|number| number.is_finite());
        let read = number.ok_or_else(|| {
            format!("read \u{201c}{written}\u{201d}, expected a number such as 0.9")
        });
        self.keep(name, read).map(Some)
    }

    /// Reads a length, exact or between two blades.
    pub(crate) fn length(&mut self, name: &str, limits: &LengthField) -> Option<Measurement> {
        let read = limits.parse(self.text(name));
        self.keep(name, read).map(|entry| Measurement::from(&entry))
    }

    /// Reads a length that was read with a tool: the one chosen, whose unit a bare number takes, or else the one
    /// that belongs to the field when nothing but a number was written.
    pub(crate) fn reading(
        &mut self,
        name: &str,
        limits: &LengthField,
        usual: Tool,
    ) -> Option<Measurement> {
        let tool = Tool::from_key(self.text("tool"));
        let field = match tool.and_then(Tool::unit) {
            Some(unit) => limits.in_unit(unit),
            None => *limits,
        };
        let read = field.parse(self.text(name));
        let entry = self.keep(name, read)?;
        let bare = entry.unit_assumed() && entry.instead_of().is_none();
        let measured = Measurement::from(&entry);
        Some(match tool.or(bare.then_some(usual)) {
            Some(tool) => measured.with_tool(tool),
            None => measured,
        })
    }

    /// Reads one length.
    pub(crate) fn exact(&mut self, name: &str, limits: &LengthField) -> Option<Measurement> {
        let read = limits.parse_exact(self.text(name));
        self.keep(name, read).map(|entry| Measurement::from(&entry))
    }

    /// Reads what a screw moves in a turn: a thread by its name, `M3` or `6-32`, or a length.
    pub(crate) fn thread(&mut self, name: &str) -> Option<Measurement> {
        let text = self.text(name).to_owned();
        match pitch_named(&text) {
            Some(pitch) => Some(Measurement::thread(&text, pitch)),
            None => {
                let read = limits::THREAD.parse_exact(&text);
                let read =
                    read.map_err(|error| format!("{error}; or name the thread: M3, 6-32, 40 tpi"));
                self.keep(name, read).map(|entry| Measurement::from(&entry))
            }
        }
    }

    /// Reads one length that may be left out.
    pub(crate) fn perhaps(
        &mut self,
        name: &str,
        limits: &LengthField,
    ) -> Option<Option<Measurement>> {
        if self.text(name).is_empty() {
            return Some(None);
        }
        self.exact(name, limits).map(Some)
    }

    /// Reads one number of cents that may be left out.
    pub(crate) fn cents(
        &mut self,
        name: &str,
        within: &RangeInclusive<f64>,
    ) -> Option<Option<f64>> {
        if self.text(name).is_empty() {
            return Some(None);
        }
        let read = parse_cents(self.text(name));
        let [one] = self.keep(name, read)?[..] else {
            self.wrong(name, "write one number of cents: 1.5");
            return None;
        };
        let inside = limits::number("cents", one.value(), within, "cents");
        self.keep(name, inside.map(|()| Some(one.value())))
    }

    /// Reads how sharp a fretted note is wanted; nothing where it is to be true.
    pub(crate) fn cents_aim(&mut self) -> Option<Option<f64>> {
        let aim = self.cents("aim", &limits::CENTS_AIM)?;
        Some(aim.filter(|aim| *aim != 0.0))
    }

    /// Reads a whole number.
    pub(crate) fn number(&mut self, name: &str, what: &str, low: u8, high: u8) -> Option<u8> {
        let text = self.text(name).to_owned();
        let read = text
            .parse::<u8>()
            .ok()
            .filter(|number| (low..=high).contains(number))
            .ok_or(format!(
                "\"{text}\" is not understood; write {what} from {low} to {high}"
            ));
        self.keep(name, read)
    }

    /// Reads the number of a string of this instrument.
    pub(crate) fn string(&mut self, job: &Known) -> Option<u8> {
        self.number("string", "a string", 1, job.instrument().strings)
    }

    /// Reads strings that belong together: `1-2 3-4`. Nothing written is no group.
    pub(crate) fn string_groups(&mut self, name: &str, expected: &str) -> Option<Vec<Vec<u8>>> {
        let read = lists::groups(self.text(name));
        let read = read.map_err(|wrong| format!("{wrong}, expected {expected}"));
        self.keep(name, read)
    }

    /// Reads turns with the way beside them; `against` is the word for less.
    pub(crate) fn signed_turns(&mut self, against: &str) -> Option<Turns> {
        let read = parse_turns(self.text("turns"));
        let turns = self.keep("turns", read)?;
        Some(if self.text("way") == against {
            -turns
        } else {
            turns
        })
    }

    /// Whether nothing is wrong.
    pub(crate) fn is_right(&self) -> bool {
        self.errors.is_empty()
    }

    /// What is wrong, field by field.
    pub(crate) fn errors(&self) -> impl Iterator<Item = &String> {
        self.errors.values()
    }

    /// How many fields are wrong.
    #[cfg(test)]
    pub(crate) fn wrong_count(&self) -> usize {
        self.errors.len()
    }

    /// A field for a template.
    pub(crate) fn field(&self, name: &str) -> Field {
        Field {
            name: name.to_owned(),
            value: self.text(name).to_owned(),
            error: self.errors.get(name).cloned().unwrap_or_default(),
        }
    }

    /// Every field as it was typed, to send it once more.
    pub(crate) fn all(&self) -> impl Iterator<Item = (&String, &String)> {
        self.values.iter()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use gradimen_core::units::LengthUnit;

    #[test]
    fn what_was_typed_stays_beside_what_was_wrong() {
        let mut fields = Fields::from(vec![("height".to_owned(), " 5 furlongs ".to_owned())]);
        let limits = LengthField::mm("height", LengthUnit::Millimetre, 0.0, 8.0);
        assert_eq!(fields.length("height", &limits), None);
        let field = fields.field("height");
        assert_eq!(field.value, "5 furlongs");
        assert!(field.error.contains("furlongs") && field.error.contains("5/64"));
        assert!(!fields.is_right());
        assert_eq!(fields.number("missing", "frets", 12, 36), None);
        assert_eq!(fields.wrong_count(), 2);
    }
}
