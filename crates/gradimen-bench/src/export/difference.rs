//! How two records of one instrument differ, part by part.
//!
//! ```
//! use gradimen_bench::export::difference::between;
//! use gradimen_bench::model::defaults::usual_instrument;
//! use gradimen_bench::model::instrument::Kind;
//!
//! let one = usual_instrument(Kind::Guitar, 6);
//! let mut other = one.clone();
//! other.frets = 24;
//! let found = between(&one, &other);
//! assert_eq!((found[0].what.as_str(), found[0].one.as_str(), found[0].other.as_str()), ("frets", "22", "24"));
//! assert!(between(&one, &one).is_empty());
//! ```

use serde_json::Value;

use crate::model::instrument::Instrument;

/// A part in which they differ.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Difference {
    /// Which, by the words of the document.
    pub what: String,
    /// In the one.
    pub one: String,
    /// In the other.
    pub other: String,
}

/// All of them, in the order of the record.
pub fn between(one: &Instrument, other: &Instrument) -> Vec<Difference> {
    let mut found = Vec::new();
    // A record is made of what serde writes, whatever it holds.
    if let (Ok(one), Ok(other)) = (serde_json::to_value(one), serde_json::to_value(other)) {
        walk("", &one, &other, &mut found);
    }
    found
}

fn walk(at: &str, one: &Value, other: &Value, found: &mut Vec<Difference>) {
    if one == other {
        return;
    }
    match (one, other) {
        // A length is what was written.
        (Value::Object(a), Value::Object(b))
            if !a.contains_key("written") && !b.contains_key("written") =>
        {
            let names = a
                .keys()
                .chain(b.keys().filter(|name| !a.contains_key(*name)));
            for name in names {
                let part = |of: &serde_json::Map<String, Value>| of.get(name).cloned();
                let (one, other) = (part(a), part(b));
                let name = name.replace('_', " ");
                let at = if at.is_empty() {
                    name
                } else {
                    format!("{at}, {name}")
                };
                walk(
                    &at,
                    &one.unwrap_or_default(),
                    &other.unwrap_or_default(),
                    found,
                );
            }
        }
        (Value::Array(a), Value::Array(b)) if a.len() == b.len() => {
            for (index, (one, other)) in a.iter().zip(b).enumerate() {
                walk(&format!("{at} {}", index + 1), one, other, found);
            }
        }
        _ => found.push(Difference {
            what: at.to_owned(),
            one: written(one),
            other: written(other),
        }),
    }
}

fn written(value: &Value) -> String {
    match value {
        Value::Null => "none".to_owned(),
        Value::String(text) => text.replace('_', " "),
        Value::Object(parts) => parts
            .get("written")
            .and_then(Value::as_str)
            .map_or_else(|| value.to_string(), str::to_owned),
        Value::Bool(true) => "yes".to_owned(),
        Value::Bool(false) => "no".to_owned(),
        other => other.to_string(),
    }
}
