//! What templates may do to a finished string.

use crate::svg::html_fractions;

/// Escapes, and sets fractions as fractions.
#[askama::filter_fn]
pub(crate) fn fractions(
    text: impl std::fmt::Display,
    _: &dyn askama::Values,
) -> askama::Result<String> {
    Ok(html_fractions(&text.to_string()))
}
