//! What the seasons do to this neck, in words.
//!
//! ```
//! use gradimen_bench::text::season;
//!
//! assert_eq!(season::humidity(41.6), "42 %");
//! ```

use super::learned;
use crate::estimate::season::{Forecast, USUAL};
use crate::model::Behaviour;

/// How damp a room is.
pub fn humidity(percent: f64) -> String {
    format!("{percent:.0} %")
}

/// What is known of it, and when it is to be looked at again.
pub fn sentences(forecast: &Forecast) -> Vec<String> {
    let known = if forecast.per == USUAL {
        "What this neck does with the seasons is not known yet: it takes a second visit in another season.".to_owned()
    } else {
        format!(
            "Ten per cent more humidity make {} \u{b1} {:.2} of relief on this neck.",
            learned::number(Behaviour::Season, forecast.per.slope),
            10.0 * forecast.per.sigma
        )
    };
    let today = humidity(forecast.now.percent);
    let ahead = match forecast.leaves {
        Some((on, percent)) => format!(
            "It was {today} in the room. As far as the year here is known, the relief may have left its tolerance from about {} on, near {}.",
            on.strftime("%-d %B %Y"),
            humidity(percent)
        ),
        None => format!(
            "It was {today} in the room. As far as the year here is known, it keeps the relief in tolerance."
        ),
    };
    vec![known, ahead]
}
