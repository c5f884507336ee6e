//! What an instrument taught, in words: what it does, how well that is known, and what is usual.
//!
//! ```
//! use gradimen_bench::model::Behaviour;
//! use gradimen_bench::text::learned;
//!
//! assert_eq!(learned::number(Behaviour::Rod, 0.41), "0.41 mm");
//! assert_eq!(learned::number(Behaviour::SpringRate, 1524.0), "1.52 N/mm");
//! ```

use crate::estimate::learned::Learned;
use crate::model::Behaviour;

/// What it is about.
pub const fn name(of: Behaviour) -> &'static str {
    match of {
        Behaviour::Rod => "a turn of the truss rod takes away, of relief",
        Behaviour::Pull => "the pull of all strings makes, of relief",
        Behaviour::HeightScrews => "a turn of a height screw lifts",
        Behaviour::Drives => "a turn of a saddle screw moves the saddle",
        Behaviour::OwnEnd => "a screw lifts its own end, where the usual share is 1",
        Behaviour::SpringRate => "a spring of the vibrato pulls, for every millimetre",
        Behaviour::Claw => "a turn of the claw\u{2019}s screws moves it",
        Behaviour::Season => "ten per cent more humidity make, of relief",
    }
}

/// A number with its unit.
pub fn number(of: Behaviour, value: f64) -> String {
    match of {
        Behaviour::Rod | Behaviour::Pull => format!("{value:.2} mm"),
        Behaviour::HeightScrews | Behaviour::Drives | Behaviour::Claw => format!("{value:.3} mm"),
        Behaviour::OwnEnd => format!("{value:.2}"),
        Behaviour::Season => format!("{:+.2} mm", 10.0 * value).replace('-', "\u{2212}"),
        Behaviour::SpringRate => format!("{:.2} N/mm", value / 1000.0),
    }
}

/// How much, and how well that is known: `0.41 mm ± 8 %`.
pub fn known(learned: &Learned) -> String {
    with_width(learned.of, learned.value, learned.sigma)
}

/// What is believed of any instrument of the kind: `0.39 mm ± 65 %`.
pub fn usual(learned: &Learned) -> String {
    with_width(learned.of, learned.usual, learned.usual_sigma)
}

fn with_width(of: Behaviour, value: f64, sigma: f64) -> String {
    if of == Behaviour::Season {
        // It may be nothing at all: no share of it says how well it is known.
        return format!("{} \u{b1} {:.2}", number(of, value), 10.0 * sigma);
    }
    let percent = (100.0 * sigma / value).max(1.0);
    format!("{} \u{b1} {percent:.0} %", number(of, value))
}
