//! What templates may do to a finished string.

use askama::Template;

use crate::svg::fractions as set;

/// A fraction of small digits.
#[derive(Template)]
#[template(path = "components/fraction.html")]
struct Fraction<'a> {
    top: &'a str,
    bottom: &'a str,
}

/// Escapes, and sets fractions as fractions.
#[askama::filter_fn]
pub(crate) fn fractions(
    text: impl std::fmt::Display,
    _: &dyn askama::Values,
) -> askama::Result<String> {
    Ok(html(&text.to_string()))
}

fn html(text: &str) -> String {
    // Digits and a stroke: rendering them cannot fail.
    set(text, |top, bottom| {
        Fraction { top, bottom }.render().unwrap_or_default()
    })
}

#[cfg(test)]
mod tests {
    use super::html;

    #[test]
    fn fractions_are_set_as_fractions_and_nothing_else_is() {
        assert!(html("4 1/2 turns").starts_with("4 <span class=\"frac\">"));
        assert_eq!(html("mm/in <1/x>"), "mm/in &lt;1/x&gt;");
    }
}
