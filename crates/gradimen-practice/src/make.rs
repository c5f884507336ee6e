//! An instrument for an order, and the events that open its job.

use std::sync::Arc;

use gradimen_bench::estimate::Estimate;
use gradimen_bench::job::Job;
use gradimen_bench::journal::{Entry, Event, Opened};
use gradimen_bench::model::instrument::{Instrument, Kind};
use gradimen_bench::model::{
    Came, Heard, Note, Observation, Place, Practice, PracticeFault, Stage, Toll, Tuner, Wanted,
    defaults,
};
use gradimen_bench::plan::Plan;
use gradimen_core::quantity::Length;
use gradimen_sim::Rng;
use gradimen_trial::judge;

use crate::bench::Bench;
use crate::exercises;
use crate::hidden::{hidden, share};
use crate::order::{Base, Order, OrderError, base, check};
use crate::par;

/// Instruments tried before it is given up: some cannot be balanced, and some come wrong.
const TRIES: u64 = 60;
/// Of those that can be made, so many are worked through at the most.
const LOOKED: u32 = 4;

/// One that can be made, and how many of its targets the plan leaves out.
struct Made {
    events: Vec<Event>,
    out: u32,
}

/// How a new one begins: its record, and the events that open its job.
///
/// # Errors
/// [`OrderError`].
pub fn opening(order: &Order) -> Result<(Instrument, Vec<Event>), OrderError> {
    let base = base(order)?;
    check(&base.instrument, &order.faults)?;
    let mut best: Option<Made> = None;
    let mut looked = 0;
    for more in 0..TRIES {
        let Some(made) = made(
            order,
            &base,
            order.seed.wrapping_mul(TRIES).wrapping_add(more),
        ) else {
            continue;
        };
        // Par can be reached: where the plan leaves something undone another one is made, unless that is what is to be found.
        let enough = made.out == 0 || order.faults.iter().any(|fault| fault.is_trap());
        looked += 1;
        if best.as_ref().is_none_or(|best| made.out < best.out) {
            best = Some(made);
        }
        if enough || looked == LOOKED {
            break;
        }
    }
    let best = best.ok_or(OrderError::Impossible)?;
    Ok((base.instrument, best.events))
}

/// The same from the first chance alone.
///
/// # Errors
/// As [`opening`].
pub fn first(order: &Order) -> Result<(Instrument, Vec<Event>), OrderError> {
    let base = base(order)?;
    check(&base.instrument, &order.faults)?;
    let made = made(order, &base, order.seed.wrapping_mul(TRIES));
    let made = made.ok_or(OrderError::Impossible)?;
    Ok((base.instrument, made.events))
}

/// One instrument of an order; nothing where this chance makes none of it.
fn made(order: &Order, base: &Base, seed: u64) -> Option<Made> {
    let plain = Practice {
        exercise: order.exercise.clone(),
        faults: order.faults.clone(),
        difficulty: order.difficulty,
        came: Came {
            // Where the search for how it is to come begins.
            relief_mm: [0.2; 2],
            nut_mm: 0.5,
            action_mm: [1.6, 2.0],
            gap_mm: 2.5,
        },
        seed,
        hints: order.hints,
        plan: Toll::default(),
        trial: Toll::default(),
    };
    let mut events = events(base, plain);
    let entries = Entry::group(1, jiff::Timestamp::UNIX_EPOCH, events.clone());
    let known = Estimate::of(Arc::new(Job::fold(&entries).ok()?)).ok()?;
    let plan = Plan::of(&known);
    let wanted = comes(order, base, &plan, &mut Rng::new(seed ^ 0xc0fe))?;
    let Some(Event::Opened(opened)) = events.first_mut() else {
        return None;
    };
    brought(opened, &wanted)?;
    let bench = Bench::open(opened)?;
    if bench.fault().is_some() {
        let note = heard(&bench)?;
        let (string, fret) = (note.string, note.fret);
        opened.purpose = format!("{}; buzzes on string {string}, fret {fret}", opened.purpose);
        events.push(Event::Observed {
            what: Observation::Played {
                note,
                heard: Some(Heard::Buzz),
                sure: None,
            },
        });
    }
    let (plan, trial) = par::of(&events)?;
    let Some(Event::Opened(opened)) = events.first_mut() else {
        return None;
    };
    let practice = opened.practice.as_mut()?;
    (practice.plan, practice.trial) = (plan, trial);
    Some(Made {
        events,
        out: plan.out,
    })
}

/// What a job on it begins with.
fn events(base: &Base, practice: Practice) -> Vec<Event> {
    let exercise = practice.exercise.as_deref().and_then(exercises::of);
    let opened = Opened {
        instrument: base.instrument.clone(),
        instrument_version: 1,
        // It stands at the head of every page, and gives nothing away there.
        purpose: exercise.map_or("practice".into(), |of| {
            format!("practice: {}", of.told(false).0)
        }),
        player: base.player.clone(),
        strung: base.strung.clone(),
        arrived: base.arrived.clone(),
        heights: defaults::usual_heights(&base.instrument),
        old_strings: false,
        taught: Vec::new(),
        last_time: None,
        practice: Some(practice),
    };
    let tuner = Tuner {
        name: "strobe".into(),
        resolution_cents: 0.1,
    };
    let mut events = vec![
        Event::Opened(Box::new(opened)),
        Event::Targeted {
            wanted: Wanted::Setup {
                targets: base.targets.clone(),
            },
        },
        Event::Observed {
            what: Observation::Tuner { tuner },
        },
        Event::Staged {
            stage: Stage::OnBench,
        },
    ];
    events.extend(base.school.map(|school| Event::Targeted {
        wanted: Wanted::Balance { school },
    }));
    events
}

/// Where a place is to read what, in millimetres.
struct Wish {
    place: Place,
    reads: f64,
}

/// How far off it comes where something is wrong, at usual difficulty, in millimetres from and to (choices, as instruments come in from a season,
/// a factory and a hand that guessed; a bass bends further).
const BENT: (f64, f64) = (0.16, 0.26);
const BENT_UP: (f64, f64) = (0.15, 0.3);
const BENT_BASS: f64 = 1.3;
const UNCUT: (f64, f64) = (0.16, 0.26);
const HIGH: (f64, f64) = (0.45, 0.8);
const UNBALANCED: (f64, f64) = (0.9, 1.6);
/// Relief that a spent rod leaves, and that of a wound neck, treble and bass.
const SPENT: f64 = 0.8;
const WOUND: [f64; 2] = [-0.12, 0.42];

/// How it is to come: what is right, and what is wrong with it.
fn comes(order: &Order, base: &Base, plan: &Plan, chance: &mut Rng) -> Option<Vec<Wish>> {
    let by = share(order.difficulty);
    let has = |fault| order.faults.contains(&fault);
    let came = base.came.as_ref();
    let mut off = |fault, (least, most): (f64, f64)| {
        if has(fault) {
            by * chance.between(least, most)
        } else {
            0.0
        }
    };
    let mut wishes = Vec::new();
    let relief = off(PracticeFault::Relief, BENT);
    let bass = base.instrument.kind == Kind::Bass;
    let bent = off(PracticeFault::Relief, BENT_UP);
    let up = bent + off(PracticeFault::Action, HIGH);
    for side in &plan.relief.sides {
        let right = came.map_or(side.target, |came| came.relief.middle());
        let reads = match side.place.side() {
            _ if has(PracticeFault::RodSpent) => SPENT,
            Some(side) if has(PracticeFault::Wound) => WOUND[side.index()],
            _ => right.mm() + if bass { BENT_BASS * relief } else { relief },
        };
        wishes.push(Wish {
            place: side.place,
            reads,
        });
    }
    let nut = off(PracticeFault::Nut, UNCUT);
    let first = plan.nut.strings.first()?;
    let right = came.map_or(first.quantity.target, |came| came.nut_treble.middle());
    wishes.push(Wish {
        place: first.quantity.place,
        reads: right.mm() + nut,
    });
    let strings = &plan.action.strings;
    let outer = [(strings.first()?, 0), (strings.last()?, 1)];
    for (string, side) in outer {
        let of = &string.quantity;
        let came = came.map(|came| [&came.action_treble, &came.action_bass][side].middle());
        wishes.push(Wish {
            place: of.place,
            reads: came.unwrap_or(of.target).mm() + up,
        });
    }
    if let Some(balance) = &plan.balance {
        let away = off(PracticeFault::Gap, UNBALANCED);
        let rests = balance.target + Length::from_mm(away);
        wishes.push(Wish {
            place: Place::Gap,
            reads: rests.mm().max(0.02),
        });
    }
    Some(wishes)
}

/// Changes how it comes until every place reads as it is wished; nothing where it does not come to that.
fn brought(opened: &mut Opened, wishes: &[Wish]) -> Option<()> {
    for _ in 0..4 {
        // As it was set up: before other strings went on.
        let made = hidden(opened, false)?;
        let came = &mut opened.practice.as_mut()?.came;
        let mut worst: f64 = 0.0;
        for wish in wishes {
            let off = wish.reads - judge::truth(&made, wish.place)?;
            worst = worst.max(off.abs());
            match wish.place {
                Place::Relief { side, .. } => came.relief_mm[side.index()] += off,
                Place::Nut { .. } => came.nut_mm += off,
                Place::Action { string: 1, .. } => came.action_mm[0] += off,
                Place::Action { .. } => came.action_mm[1] += off,
                _ => came.gap_mm = (came.gap_mm + off).max(0.02),
            }
        }
        if worst < 0.02 {
            break;
        }
    }
    Some(())
}

/// Where the player hears a buzz: held a fret before the one that stands high, under the string that touches it most.
fn heard(bench: &Bench) -> Option<Note> {
    let (fret, ..) = bench.fault()?;
    let notes = (1..=bench.strings()).map(|string| Note {
        string,
        fret: fret - 1,
    });
    let touches = notes.filter_map(|note| Some((note, bench.clears(note)?)));
    let (note, clears) = touches.min_by(|(_, one), (_, other)| one.total_cmp(other))?;
    (clears < 0.0).then_some(note)
}
