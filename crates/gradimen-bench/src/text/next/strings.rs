//! What the strings pull.

use gradimen_core::quantity::Force;

use crate::stations::strings::Pull;
use crate::text::numbers;

/// The total in one line, and against what was on before in another.
pub fn headline(pull: &Pull, trying: bool) -> [String; 2] {
    let total = format!("total tension {}", numbers::tension(pull.total));
    let first = if trying {
        format!("Preview: {total}")
    } else {
        total
    };
    let second = match pull.change() {
        Some(change) if change.newtons().abs() >= 0.05 => {
            let word = if change > Force::ZERO { "more" } else { "less" };
            format!("{} N {word} than before", numbers::newtons(change.abs()))
        }
        Some(_) => "as much as before".to_owned(),
        None => "previous strings unknown".to_owned(),
    };
    [first, second]
}
