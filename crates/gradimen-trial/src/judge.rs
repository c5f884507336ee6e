//! The truth of an instrument against the targets of its job.

use gradimen_bench::estimate::Estimate;
use gradimen_bench::model::hardware::Lifts;
use gradimen_bench::model::{Place, Side};
use gradimen_bench::plan::Plan;
use gradimen_sim::SimulatedInstrument;

/// One target, and how far the truth is off it.
#[derive(Debug, Clone, PartialEq)]
pub struct Row {
    /// Where: two notes on one saddle are judged by their mean.
    pub places: Vec<Place>,
    /// By how much it is off, in millimetres or cents.
    pub off: f64,
    /// By how much it may be too low and too high.
    pub allowed: (f64, f64),
}

impl Row {
    /// Whether it is out.
    pub fn is_out(&self) -> bool {
        self.off < -self.allowed.0 || self.off > self.allowed.1
    }
}

/// What a place truly is.
pub fn truth(instrument: &SimulatedInstrument, place: Place) -> Option<f64> {
    Some(match place {
        Place::Relief { side, span } => instrument.relief(side, span),
        Place::Nut { string, held } => {
            let held = if held == 3 { 2 } else { held };
            instrument.height(usize::from(string - 1), held, 1)
        }
        Place::Action { string, fret, held } => {
            instrument.height(usize::from(string - 1), held, fret)
        }
        Place::Intonation { string, .. } => instrument.cents(string),
        Place::Gap => instrument.gap()?,
        Place::Pickup { pickup, side } => instrument.pickup(pickup, side)?,
        _ => return None,
    })
}

/// Every target of a job.
pub fn rows(instrument: &SimulatedInstrument, known: &Estimate, plan: &Plan) -> Vec<Row> {
    let mut rows = Vec::new();
    let posts = known.instrument().bridge.lifts() == Lifts::TwoPosts;
    let mut gap = |place: Place, target: f64, allowed: (f64, f64)| {
        if let Some(truth) = truth(instrument, place) {
            rows.push(Row {
                places: vec![place],
                off: truth - target,
                allowed,
            });
        }
    };
    for side in &plan.relief.sides {
        let tolerance = side.tolerance.mm();
        gap(side.place, side.target.mm(), (tolerance, tolerance));
    }
    for slot in &plan.nut.strings {
        let of = &slot.quantity;
        gap(
            of.place,
            of.target.mm(),
            (of.allowed.0.mm(), of.allowed.1.mm()),
        );
    }
    if !posts {
        for string in &plan.action.strings {
            let (of, tolerance) = (&string.quantity, string.quantity.tolerance.mm());
            gap(of.place, of.target.mm(), (tolerance, tolerance));
        }
    }
    if let Some(balance) = &plan.balance {
        let tolerance = balance.tolerance.mm();
        gap(Place::Gap, balance.target.mm(), (tolerance, tolerance));
    }
    for pickup in &plan.pickups.pickups {
        for side in Side::ALL {
            let of = &pickup.side(side).quantity;
            let tolerance = of.tolerance.mm();
            if of.last.is_some() {
                gap(of.place, of.target.mm(), (tolerance, tolerance));
            }
        }
    }
    if posts {
        rows.extend(on_posts(instrument, plan));
    }
    // Against the harmonic, as these jobs are told.
    let aim = plan.targets.intonation_aim_cents.unwrap_or(0.0);
    let allowed = plan.intonation.threshold.value();
    for saddle in &plan.intonation.saddles {
        let notes: Vec<(Place, f64)> = saddle
            .estimate
            .strings
            .iter()
            .map(|on| {
                let place = Place::Intonation {
                    string: on.string,
                    fret: 12,
                };
                (place, instrument.cents(on.string) - aim)
            })
            .collect();
        let mean = notes.iter().map(|(_, off)| off).sum::<f64>() / notes.len().max(1) as f64;
        rows.push(Row {
            places: notes.into_iter().map(|(place, _)| place).collect(),
            off: mean,
            allowed: (allowed, allowed),
        });
    }
    rows
}

/// Between two posts the arc is what it is: what they can set is the straight line through what all strings are off, and
/// that is judged at its two ends.
fn on_posts(instrument: &SimulatedInstrument, plan: &Plan) -> Vec<Row> {
    let all: Vec<(Place, f64, f64)> = plan
        .action
        .strings
        .iter()
        .filter_map(|string| {
            let of = &string.quantity;
            Some((
                of.place,
                truth(instrument, of.place)? - of.target.mm(),
                of.tolerance.mm(),
            ))
        })
        .collect();
    let count = all.len() as f64;
    let middle = (count - 1.0) / 2.0;
    let mean = all.iter().map(|(_, off, _)| off).sum::<f64>() / count;
    let along = |at: usize| at as f64 - middle;
    let spread: f64 = (0..all.len()).map(|at| along(at).powi(2)).sum();
    let slope = all
        .iter()
        .enumerate()
        .map(|(at, (_, off, _))| along(at) * off)
        .sum::<f64>()
        / spread;
    let ends = [0, all.len().saturating_sub(1)];
    ends.into_iter()
        .filter_map(|at| {
            let (place, _, tolerance) = all.get(at)?;
            Some(Row {
                places: vec![*place],
                off: mean + slope * along(at),
                allowed: (*tolerance, *tolerance),
            })
        })
        .collect()
}

/// How many of its rows a plan expects to be out, by its own odds. Between two posts only the outer strings are judged.
pub fn doubted(plan: &Plan) -> f64 {
    let strings = &plan.action.strings;
    let ends = [strings.first(), strings.last()].map(|end| end.map(|end| end.quantity.place));
    let judged = |place: Place| {
        let inner = matches!(place, Place::Action { .. }) && !ends.contains(&Some(place));
        !(plan.action.fixed && inner)
    };
    let read = plan.quantities().filter(|quantity| quantity.last.is_some());
    let lengths = read.filter(|quantity| judged(quantity.place));
    let notes = plan.intonation.saddles.iter();
    let notes = notes.filter_map(|saddle| saddle.odds.first());
    let gap = plan.balance.as_ref().map(|balance| &balance.odds);
    let all = lengths
        .map(|quantity| &quantity.odds)
        .chain(notes)
        .chain(gap);
    all.map(|odds| 1.0 - odds.within).sum()
}
