//! What heights and relief say of single fret tops: readings off the smooth neck and the straight string that the estimate has.
//!
//! Only where a string or a side was read in more ways than its line and bend can follow; else the estimate lies on the readings
//! whatever the tops are. A fretted note says nothing here: a top that stands 0.03 mm high stretches the string by 5e-7 of its length
//! and the note by 0.05 cents, a twentieth of what a tuner and a finger scatter by.

use std::collections::BTreeMap;

use gradimen_core::neck::FretTops;
use gradimen_core::quantity::Length;
use gradimen_core::survey::Survey;

use crate::estimate::Estimate;
use crate::journal::Event;
use crate::model::{Measurement, Note, Observation, Place, Reading, ReliefSpan, Side};

/// A neck's side has two shapes of bend: a third reading says something else.
const SPANS: usize = 3;
/// A string's line hangs on nut, saddle and bend: a fourth reading says something else.
const FRETS: usize = 4;
/// A blade or a rule is laid to this (from memory).
const HAND: Length = Length::from_mm(0.012);

/// The readings that hold still, the last of each place.
fn standing(known: &Estimate) -> BTreeMap<Place, Measurement> {
    let mut standing = BTreeMap::new();
    for entry in known.facts() {
        match &entry.event {
            Event::Read {
                place: place @ (Place::Relief { .. } | Place::Action { .. }),
                value: Reading::Length { length },
                ..
            } => {
                standing.insert(*place, length.clone());
            }
            Event::Adjusted { .. }
            | Event::Restrung { .. }
            | Event::Observed {
                what: Observation::Fretwork { .. },
            } => standing.clear(),
            _ => {}
        }
    }
    standing
}

/// What a straightedge showed since anything moved, the last of each place.
fn edges(known: &Estimate) -> BTreeMap<(Note, u8, u8), Measurement> {
    let mut edges = BTreeMap::new();
    for entry in known.facts() {
        match &entry.event {
            Event::Observed {
                what:
                    Observation::Edged {
                        note,
                        low,
                        high,
                        gap,
                    },
            } => {
                edges.insert((*note, *low, *high), gap.clone());
            }
            Event::Adjusted { .. }
            | Event::Restrung { .. }
            | Event::Observed {
                what: Observation::Fretwork { .. },
            } => edges.clear(),
            _ => {}
        }
    }
    edges
}

/// A gap under an edge less what the bend shows there; and how well that bend is known.
fn off_the_bend(
    known: &Estimate,
    tops: &FretTops,
    string: u8,
    span: ReliefSpan,
    gap: Length,
) -> Length {
    let bend = known.state().line(string).bend;
    let [low, at, high] = [span.low, span.at, span.high].map(|fret| tops.top(fret, bend));
    let (from, to) = (tops.place(span.low), tops.place(span.high));
    let share = (tops.place(span.at) - from).ratio(to - from);
    gap - (low + (high - low) * share - at)
}

/// How a reading scatters beside what is known of its place.
fn scatter(known: &Estimate, place: Place, length: &Measurement) -> Length {
    let state = known.state();
    let own = state
        .predict(place)
        .map_or(Length::ZERO, |known| known.sigma);
    let step = length.half_width().mm() / 3f64.sqrt();
    Length::from_mm(own.mm().hypot(step).hypot(HAND.mm()))
}

/// Takes them in; whether there was anything to take.
pub(super) fn take(survey: &mut Survey, known: &Estimate) -> bool {
    let standing = standing(known);
    let even = |string: u8| -> Option<FretTops> {
        let scale = known.speaking_scale(string);
        known.instrument().fret_tops(string, scale).ok()
    };
    let mut taken = false;
    for (place, length) in &standing {
        let same = |other: &&Place| match (place, other) {
            (Place::Relief { side, .. }, Place::Relief { side: other, .. }) => side == other,
            (Place::Action { string, .. }, Place::Action { string: other, .. }) => string == other,
            _ => false,
        };
        let alike = standing.keys().filter(same).count();
        let sigma = scatter(known, *place, length);
        let done = match *place {
            Place::Relief { side, span } if alike >= SPANS => {
                let string = known.state().string_of(side);
                even(string).and_then(|tops| {
                    let off = off_the_bend(known, &tops, string, span, length.middle());
                    let index = |fret: u8| usize::from(fret) - 1;
                    let frets = (index(span.low), index(span.at), index(span.high));
                    survey
                        .edged(usize::from(string - 1), frets, off, sigma)
                        .ok()
                })
            }
            Place::Action { string, fret, held } if alike >= FRETS => {
                let line = known.state().line(string);
                even(string).and_then(|tops| {
                    let off = length.middle() - line.action_held(&tops, held, fret).ok()?;
                    let index = usize::from(string - 1);
                    let mut hangs_on = vec![(index, usize::from(fret) - 1, -1.0)];
                    if held > 0 {
                        let (from, to) = (tops.place(held), tops.place(fret));
                        let share = 1.0 - (to - from).ratio(line.length - from);
                        hangs_on.push((index, usize::from(held) - 1, share));
                    }
                    survey.measured(&hangs_on, off, sigma).ok()
                })
            }
            _ => None,
        };
        taken |= done.is_some();
    }
    for ((note, low, high), gap) in edges(known) {
        let span = ReliefSpan {
            low,
            high,
            at: note.fret,
        };
        // The bend under an inner string is as well known as along the nearer side.
        let half = known.instrument().strings / 2;
        let side = if note.string <= half {
            Side::Treble
        } else {
            Side::Bass
        };
        let sigma = scatter(known, Place::Relief { side, span }, &gap);
        let done = even(note.string).and_then(|tops| {
            let off = off_the_bend(known, &tops, note.string, span, gap.middle());
            let index = |fret: u8| usize::from(fret) - 1;
            let frets = (index(low), index(note.fret), index(high));
            survey
                .edged(usize::from(note.string - 1), frets, off, sigma)
                .ok()
        });
        taken |= done.is_some();
    }
    taken
}
