//! Saddles by trial and error: each by its screw, or all by the bar that they stand on.

use gradimen_bench::model::{Adjuster, Amount, Measurement, Place};

use super::{Sheet, TRIES, eighths, read, stopped};
use crate::hands::Hands;

fn note(hands: &mut Hands, string: u8) -> Option<f64> {
    read(hands, Place::Intonation { string, fret: 12 })
}

/// Half a turn first, then by what that did.
pub(super) fn set(hands: &mut Hands, sheet: &Sheet) {
    if let Some(per_mm) = sheet.bar {
        bar(hands, sheet, per_mm);
        return;
    }
    for group in &sheet.saddles {
        let mut before: Option<(f64, f64)> = None;
        for _ in 0..TRIES {
            let notes: Vec<f64> = group
                .iter()
                .filter_map(|string| note(hands, *string))
                .collect();
            let off = notes.iter().sum::<f64>() / notes.len().max(1) as f64;
            if off.abs() <= sheet.cents || notes.is_empty() {
                break;
            }
            // A sharp note goes back.
            let turns = match before {
                Some((was, turned)) if (was - off).abs() > 0.2 => {
                    (off * turned / (was - off)).clamp(-2.0, 2.0)
                }
                _ => 0.5_f64.copysign(off),
            };
            let adjuster = Adjuster::SaddleDrive { string: group[0] };
            let amount = eighths(turns);
            let turns = amount.as_turns().map_or(0.0, |turns| turns.value());
            let happened = hands.turn(adjuster, &amount);
            if happened.is_none_or(|told| stopped(&told)) {
                break;
            }
            before = Some((off, turns));
        }
    }
}

/// The two outer strings by the two ends of the bar, by what a millimetre is in cents, in tenths.
fn bar(hands: &mut Hands, sheet: &Sheet, per_mm: f64) {
    let strings = sheet.saddles.iter().flatten();
    let Some(last) = strings.max().copied() else {
        return;
    };
    for _ in 0..TRIES {
        let [Some(treble), Some(bass)] = [1, last].map(|string| note(hands, string)) else {
            return;
        };
        if treble.abs() <= sheet.cents && bass.abs() <= sheet.cents {
            return;
        }
        // A sharp note goes back.
        let end = |off: f64| Measurement::mm((10.0 * off / per_mm).round() / 10.0);
        let amount = Amount::Ends {
            treble: end(treble),
            bass: end(bass),
        };
        if hands.turn(Adjuster::Bar, &amount).is_none() {
            return;
        }
    }
}
