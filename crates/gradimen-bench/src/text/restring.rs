//! Putting a set on, step by step for this bridge and nut, and when it holds its pitch (common practice).
//!
//! ```
//! use gradimen_bench::model::defaults::usual_instrument;
//! use gradimen_bench::model::instrument::Kind;
//! use gradimen_bench::text::restring;
//!
//! let steps = restring::steps(&usual_instrument(Kind::Guitar, 6));
//! assert!(steps[0].contains("Slacken") && steps.len() > 5);
//! assert!(restring::is_stable(&[14.0, 5.0, 1.5]) && !restring::is_stable(&[14.0, 5.0]));
//! ```

use crate::model::hardware::{BridgeFamily, VibratoKind};
use crate::model::instrument::Instrument;

/// A string that drifts by no more than this after a stretch holds its pitch (common practice: a cent or two).
const HOLDS: f64 = 2.0;
/// Stretched at least so often all the same (common practice).
const AT_LEAST: usize = 3;

/// The steps, in order.
pub fn steps(instrument: &Instrument) -> Vec<String> {
    let bridge = &instrument.bridge;
    let floats = bridge
        .vibrato
        .as_ref()
        .is_some_and(|record| record.kind == VibratoKind::BodySprings);
    let loose = matches!(
        bridge.family,
        BridgeFamily::TwoPost
            | BridgeFamily::ArmTail
            | BridgeFamily::FloatingWooden
            | BridgeFamily::RockingTail
    );
    let mut steps = Vec::new();
    if instrument.locking_nut {
        steps.push("Unlock the nut, and set the fine tuners to mid travel.".to_owned());
    }
    steps.push("Slacken every string until it hangs before it is cut: one that lets go at full tension can hit the eyes. Glasses on.".to_owned());
    if floats {
        steps.push("One string at a time, or block the plate first: with all off the springs pull it onto the body.".to_owned());
    } else if loose {
        steps.push(
            "One string at a time: only the strings hold this bridge where it stands.".to_owned(),
        );
    } else {
        steps.push(
            "All may come off: clean the board and polish the frets while it is bare.".to_owned(),
        );
    }
    steps.push("Old ends away at once: they are sharp.".to_owned());
    let mut slides = vec!["nut slots", "saddles"];
    if bridge.vibrato.is_some() {
        slides.push(if floats {
            "knife edges"
        } else {
            "the pivot of the arm"
        });
    }
    if !instrument.construction.headless {
        slides.push("string trees");
    }
    steps.push(format!("Lubricate {}.", listed(&slides)));
    if bridge.family == BridgeFamily::DoubleLocking {
        steps.push("Cut the ball off where the saddle clamps the plain end, and clamp it firmly: not to the screw's last turn.".to_owned());
    }
    if instrument.construction.headless {
        steps.push("Clamp the string at the nut, and tune at the bridge.".to_owned());
    } else {
        steps.push("Two to three winds on the post for plain strings, fewer for wound, each below the last; a locking post needs none.".to_owned());
    }
    steps.push("Press each string down just behind the nut and just before its saddle, so that it lies without an arch.".to_owned());
    steps.push("Stretch by hand along its length, tune up to pitch, and read how far it fell. Three times, and on until it stays.".to_owned());
    if instrument.locking_nut {
        steps.push("Lock the nut when it stays, and tune by the fine tuners.".to_owned());
    }
    steps
}

fn listed(parts: &[&str]) -> String {
    match parts {
        [] => String::new(),
        [one] => (*one).to_owned(),
        [before @ .., last] => format!("{} and {last}", before.join(", ")),
    }
}

/// Whether a set holds its pitch: stretched often enough, and the last drift small.
pub fn is_stable(drifts: &[f64]) -> bool {
    drifts.len() >= AT_LEAST && drifts.last().is_some_and(|last| last.abs() <= HOLDS)
}

/// How the stretch test stands.
pub fn stretched(drifts: &[f64]) -> String {
    let read: Vec<String> = drifts
        .iter()
        .map(|drift| {
            format!("{drift:.1}")
                .trim_end_matches(".0")
                .replace('-', "\u{2212}")
        })
        .collect();
    match drifts {
        [] => "Not stretched yet.".to_owned(),
        _ if is_stable(drifts) => format!("Fell by {} cents: it stays.", read.join(", ")),
        _ => format!(
            "Fell by {} cents: stretch and tune up once more.",
            read.join(", ")
        ),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::defaults::usual_instrument;
    use crate::model::hardware::Bridge;
    use crate::model::instrument::Kind;

    #[test]
    fn a_float_is_not_stripped_and_a_locking_nut_is_locked_last() {
        let mut guitar = usual_instrument(Kind::Guitar, 6);
        let all = |guitar: &Instrument| steps(guitar).join("\n");
        assert!(all(&guitar).contains("All may come off"));
        guitar.bridge = Bridge::profile(BridgeFamily::DoubleLocking, 6);
        guitar.locking_nut = true;
        let said = all(&guitar);
        assert!(
            said.contains("One string at a time, or block the plate")
                && said.contains("Cut the ball off")
        );
        assert!(said.starts_with("Unlock the nut") && said.trim_end().ends_with("fine tuners."));
        guitar.bridge = Bridge::profile(BridgeFamily::FloatingWooden, 6);
        assert!(all(&guitar).contains("only the strings hold this bridge"));
        guitar.construction.headless = true;
        assert!(!all(&guitar).contains("winds on the post"));
    }

    #[test]
    fn a_set_stays_after_three_stretches_and_a_small_drift() {
        assert!(!is_stable(&[]) && !is_stable(&[1.0, 1.0]) && !is_stable(&[9.0, 4.0, -3.0]));
        assert!(is_stable(&[9.0, 4.0, -2.0]));
        assert_eq!(
            stretched(&[12.0, 5.5]),
            "Fell by 12, 5.5 cents: stretch and tune up once more."
        );
    }
}
