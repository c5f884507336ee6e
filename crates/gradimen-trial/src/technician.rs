//! Doing what the plan says, one thing at a time, to the letter.

use gradimen_bench::decision::{Action, Move, StationId, Stop};
use gradimen_bench::estimate::Estimate;
use gradimen_bench::journal::Event;
use gradimen_bench::model::{Adjuster, Amount, Place};
use gradimen_bench::plan::Plan;
use gradimen_sim::SimulatedInstrument;

/// What the plan asks for next: places to read, or a move to make.
#[derive(Debug, Clone, PartialEq)]
pub enum Asked {
    /// Read there.
    Read(Vec<Place>),
    /// Turn, file or hook.
    Do(Adjuster, Amount),
}

/// What the plan asks for next: the first checks but for those that this hand passes over, then the first station of the
/// bench that has work. Nothing where nothing is left that a setup can do.
pub fn asked(known: &Estimate, plan: &Plan, passed: &[Place]) -> Option<Asked> {
    let wanted = plan.first.iter().find_map(|check| {
        let places: Vec<Place> = check
            .places
            .iter()
            .copied()
            .filter(|place| !passed.contains(place))
            .collect();
        (!places.is_empty()).then_some(places)
    });
    if let Some(places) = wanted {
        return Some(Asked::Read(places));
    }
    let next = plan.next_station(known)?;
    if next == StationId::Action {
        // Of two posts the one that has furthest to go.
        return plan
            .action
            .next_adjuster()
            .and_then(|adjuster| of(known, &adjuster.action));
    }
    let bench = plan.bench();
    let station = bench.into_iter().find(|station| station.id() == next)?;
    station
        .tasks(known)
        .iter()
        .find_map(|task| of(known, &task.next))
}

/// What each station that has work asks for next, whatever the order of the bench.
pub fn anywhere(known: &Estimate, plan: &Plan) -> Vec<(StationId, Asked)> {
    let bench = plan.bench();
    // Where the page says that the claw comes first, nobody goes on.
    let working = bench
        .iter()
        .filter(|station| station.has_work(known) && !plan.waits_for_the_claw(station.id()));
    working
        .filter_map(|station| {
            let mut tasks = station.tasks(known).into_iter();
            Some((station.id(), tasks.find_map(|task| of(known, &task.next))?))
        })
        .collect()
}

fn of(known: &Estimate, action: &Action) -> Option<Asked> {
    match action {
        Action::Measure(places) => Some(Asked::Read(places.clone())),
        Action::Adjust(step) => done(known, step),
        Action::Stop(Stop::Springs {
            enough: Some(count),
        }) => Some(Asked::Do(
            Adjuster::Springs,
            Amount::Springs {
                count: *count,
                converging: false,
            },
        )),
        Action::Stop(_) | Action::Leave => None,
    }
}

/// A move as it is told afterwards: a seat by how far it goes up, whatever turns it.
fn done(known: &Estimate, step: &Move) -> Option<Asked> {
    if step.adjuster != Adjuster::Seat {
        return Some(Asked::Do(step.adjuster, step.amount.clone()));
    }
    let sheet = known.instrument().bridge.vibrato.as_ref()?;
    let distance = sheet.seat_moved(step.turns()).ok()?;
    Some(Asked::Do(Adjuster::Seat, Amount::Distance { distance }))
}

/// Does that on an instrument; what came of it. A place that cannot be read is passed over.
pub fn follow(instrument: &mut SimulatedInstrument, asked: &Asked) -> Vec<Event> {
    match asked {
        Asked::Read(places) => places
            .iter()
            .filter_map(|place| instrument.read(*place))
            .collect(),
        Asked::Do(adjuster, amount) => instrument.adjust(*adjuster, amount),
    }
}
