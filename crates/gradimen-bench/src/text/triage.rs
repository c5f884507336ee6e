//! Kinds of work, and what speaks for them.
//!
//! ```
//! use gradimen_bench::model::Symptom;
//! use gradimen_bench::text::triage;
//! use gradimen_bench::triage::{Evidence, Outcome, Trial};
//!
//! assert_eq!(triage::outcome(Outcome::Setup), "a setup is enough");
//! assert_eq!(triage::because(Evidence::Told(Symptom::Crackle), 3.02), "crackles or cuts out: 3 times as likely");
//! assert_eq!(triage::because(Evidence::Tried(Trial::Rocker, true), 0.125), "no fret rocks: 8 times less likely");
//! ```

use crate::model::shop::Offered;
use crate::triage::{Chance, Evidence, Outcome, Triage, Trial};

/// A kind of work.
pub const fn outcome(of: Outcome) -> &'static str {
    match of {
        Outcome::Setup => "a setup is enough",
        Outcome::SmallRepairs => "a setup with small repairs",
        Outcome::Nut => "a new nut",
        Outcome::Fretwork => "fretwork first",
        Outcome::Specialist => "a specialist",
    }
}

/// What was told or found.
pub const fn evidence(of: Evidence) -> &'static str {
    match of {
        Evidence::Told(symptom) => symptom.name(),
        Evidence::SeenBefore => "set up here before",
        Evidence::Tried(trial, true) => match trial {
            Trial::Rocker => "no fret rocks",
            Trial::Rod => "the truss rod turns",
            Trial::Neck => "both sides of the neck alike",
            Trial::Slots => "no slot too low",
            Trial::Travel => "scale and saddles agree",
            Trial::Electrics => "electrics fine",
        },
        Evidence::Tried(trial, false) => match trial {
            Trial::Rocker => "a fret rocks",
            Trial::Rod => "the truss rod is spent",
            Trial::Neck => "the neck is wound or in back-bow",
            Trial::Slots => "slots too low",
            Trial::Travel => "saddles cannot reach",
            Trial::Electrics => "a fault in the electrics",
        },
    }
}

/// A factor in words: `3 times as likely`, `8 times less likely`.
fn by(factor: f64) -> String {
    let (size, way) = if factor >= 1.0 {
        (factor, "as likely")
    } else {
        (1.0 / factor, "less likely")
    };
    let size = if size < 9.95 {
        format!("{size:.1}")
    } else {
        format!("{size:.0}")
    };
    format!("{} times {way}", size.trim_end_matches(".0"))
}

/// What speaks for or against a kind of work.
pub fn because(found: Evidence, factor: f64) -> String {
    format!("{}: {}", evidence(found), by(factor))
}

/// Why a chance is what it is, the strongest reasons first.
pub fn why(chance: &Chance) -> String {
    if chance.because.is_empty() {
        return "nothing told or found speaks for it or against it".to_owned();
    }
    let all = chance.because.iter();
    let all: Vec<String> = all
        .map(|(found, factor)| because(*found, *factor))
        .collect();
    all.join("; ")
}

/// The quick check that would tell most, and where it is made.
pub const fn check(trial: Trial) -> &'static str {
    match trial {
        Trial::Rocker => "a rocker along the board, under each string",
        Trial::Rod => "the nut of the truss rod: does it turn, is thread left",
        Trial::Neck => "relief along both outer strings",
        Trial::Slots => "the gap at fret 1, every string",
        Trial::Travel => "nut to fret 12, fret 12 to the saddles",
        Trial::Electrics => "plug it in: switch, controls, jack",
    }
}

/// What to look at next, in one line.
pub fn next(triage: &Triage) -> Option<String> {
    let (trial, gain) = triage.next?;
    Some(format!(
        "Tells most now: {}. It would take {:.0} % of the doubt away.",
        check(trial),
        gain * 100.0
    ))
}

/// A chance, which does not break between number and sign: `72 %`, `under 1 %`.
pub fn share(of: f64) -> String {
    let percent = of * 100.0;
    if percent < 1.0 {
        "under 1\u{a0}%".to_owned()
    } else if percent > 99.0 {
        "over 99\u{a0}%".to_owned()
    } else {
        format!("{percent:.0}\u{a0}%")
    }
}

/// What a kind of work takes here, and costs: `setup: 1 h, 60 EUR`.
pub fn offered(offer: &Offered, currency: &str) -> String {
    let mut parts = Vec::new();
    let (hours, minutes) = (offer.minutes / 60, offer.minutes % 60);
    match (hours, minutes) {
        (0, 0) => {}
        (0, _) => parts.push(format!("{minutes} min")),
        (_, 0) => parts.push(format!("{hours} h")),
        _ => parts.push(format!("{hours} h {minutes} min")),
    }
    parts.extend(offer.price.map(|price| price_of(price, currency)));
    let name = offer.work.name();
    if parts.is_empty() {
        return format!("{name}: asked for there");
    }
    format!("{name}: {}", parts.join(", "))
}

fn price_of(price: f64, currency: &str) -> String {
    let number = if price.fract().abs() < 0.005 {
        format!("{price:.0}")
    } else {
        format!("{price:.2}")
    };
    format!("{number} {currency}").trim_end().to_owned()
}
