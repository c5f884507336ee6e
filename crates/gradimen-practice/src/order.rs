//! What is to be practised on, and the instrument made for it.

use gradimen_bench::estimate::Estimate;
use gradimen_bench::job::Job;
use gradimen_bench::journal::{Entry, Event, Opened};
use gradimen_bench::model::instrument::Instrument;
use gradimen_bench::model::{
    BalanceSchool, Came, Difficulty, Heard, Hints, Note, Observation, Place, Player, Practice,
    PracticeFault, Side, Stage, Strung, Targets, Toll, Tuner, Tuning, Wanted, defaults,
};
use gradimen_bench::plan::Plan;
use gradimen_core::quantity::Length;
use gradimen_sim::{Condition, Rng, SimulatedInstrument, Trap};
use gradimen_trial::{judge, sorts};
use std::sync::Arc;

use crate::bench::Bench;
use crate::par;

/// What is to be practised on.
#[derive(Debug, Clone, PartialEq)]
pub struct Order {
    /// The graded exercise, by its word.
    pub exercise: Option<String>,
    /// The instrument.
    pub like: Like,
    /// What is wrong with it.
    pub faults: Vec<PracticeFault>,
    /// How far off it comes.
    pub difficulty: Difficulty,
    /// How much is told.
    pub hints: Hints,
    /// What its chance begins with.
    pub seed: u64,
}

/// What it is like.
#[derive(Debug, Clone, PartialEq)]
pub enum Like {
    /// A sort of instrument, by its name: see [`kinds`].
    Kind(String),
    /// The instrument of a job, as it came.
    Job(Box<LikeJob>),
}

/// What another job says of its instrument.
#[derive(Debug, Clone, PartialEq)]
pub struct LikeJob {
    /// Its record.
    pub instrument: Instrument,
    /// Its strings and tuning.
    pub strung: Strung,
    /// For whom it is.
    pub player: Player,
    /// What is wanted of it.
    pub targets: Targets,
    /// How its vibrato is to rest.
    pub school: Option<BalanceSchool>,
    /// How it came, as far as it was read before anything was turned.
    pub came: Option<Targets>,
}

impl LikeJob {
    /// From a job of the shop.
    pub fn of(known: &Estimate) -> Self {
        Self {
            instrument: known.instrument().clone(),
            strung: known.strung(),
            player: known.player().clone(),
            targets: known.targets(),
            school: known
                .instrument()
                .bridge
                .vibrato
                .as_ref()
                .map(|_| known.balance_school()),
            came: gradimen_bench::plan::as_it_came::as_it_came(known),
        }
    }
}

/// Why nothing can be made.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum OrderError {
    /// A kind that is not there.
    #[error("read the kind \"{0}\", which is none of those to practise on")]
    Kind(String),
    /// A fault that this kind cannot have.
    #[error("\"{0}\" is nothing that this instrument can have")]
    Fault(&'static str),
    /// No claw or saddle brings it there.
    #[error(
        "no such instrument can be made with these faults: leave one of them out, or take another kind"
    )]
    Impossible,
}

/// The kinds to practise on, by name.
pub fn kinds() -> impl Iterator<Item = &'static str> {
    sorts::SORTS.iter().map(|sort| sort.name)
}

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
        let Some(made) = made(order, &base, order.seed.wrapping_mul(TRIES) + more) else {
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

/// What an order is made from.
struct Base {
    instrument: Instrument,
    strung: Strung,
    arrived: Option<Strung>,
    player: Player,
    targets: Targets,
    school: Option<BalanceSchool>,
    came: Option<Targets>,
}

fn base(order: &Order) -> Result<Base, OrderError> {
    let mut base = match &order.like {
        Like::Job(job) => Base {
            instrument: job.instrument.clone(),
            strung: job.strung.clone(),
            arrived: None,
            player: job.player.clone(),
            targets: job.targets.clone(),
            school: job.school,
            came: job.came.clone(),
        },
        Like::Kind(name) => {
            let sort = sorts::SORTS.iter().find(|sort| sort.name == name);
            let sort = sort.ok_or_else(|| OrderError::Kind(name.clone()))?;
            let mut instrument = sort.record();
            instrument.name = format!("Practice, {}", sort.name);
            instrument.pickups.clear();
            let tuning = defaults::tunings(sort.kind, sort.strings);
            let sets = defaults::sets(sort.kind, sort.strings);
            let (Some(tuning), Some(set)) = (tuning.first(), sets.first()) else {
                return Err(OrderError::Impossible);
            };
            let player = Player {
                touch: gradimen_bench::model::Touch::Medium,
                style: "any".into(),
            };
            Base {
                strung: Strung {
                    set: set.strings.clone(),
                    tuning: Tuning::of(tuning.name, 440.0, &tuning.pitches),
                },
                arrived: None,
                targets: defaults::targets(&instrument, player.touch),
                player,
                school: sort.school,
                came: None,
                instrument,
            }
        }
    };
    if order.faults.contains(&PracticeFault::Gauge) {
        base.arrived = Some(base.strung.clone());
        base.strung.set = heavier(&base.strung).ok_or(OrderError::Impossible)?;
    }
    Ok(base)
}

/// The same strings a twentieth heavier, in half thousandths: half a packet up, where a whole one lifts many a plate beyond its travel.
fn heavier(strung: &Strung) -> Option<Vec<gradimen_bench::model::StringEntry>> {
    let heavier = |entry: &gradimen_bench::model::StringEntry| {
        let thou = (entry.gauge.middle().thou() * 2.1).round() / 2.0;
        gradimen_bench::model::StringEntry::thou(thou, entry.make)
    };
    (!strung.set.is_empty()).then(|| strung.set.iter().map(heavier).collect())
}

fn check(instrument: &Instrument, faults: &[PracticeFault]) -> Result<(), OrderError> {
    let vibrato = instrument.bridge.vibrato.is_some();
    let cannot = |fault: &&PracticeFault| match fault {
        PracticeFault::Gap => !vibrato,
        PracticeFault::HighFret | PracticeFault::LooseFret | PracticeFault::Nut => {
            instrument.construction.fretless
        }
        _ => false,
    };
    let mut traps = faults.iter().filter(|fault| fault.is_trap());
    if let Some(second) = traps.nth(1) {
        return Err(OrderError::Fault(second.name()));
    }
    match faults.iter().find(cannot) {
        Some(fault) => Err(OrderError::Fault(fault.name())),
        None => Ok(()),
    }
}

/// How much more or less is wrong.
const fn share(difficulty: Difficulty) -> f64 {
    match difficulty {
        Difficulty::Easy => 0.6,
        Difficulty::Usual => 1.0,
        Difficulty::Hard => 1.6,
    }
}

/// One instrument of an order; nothing where this chance makes none of it.
fn made(order: &Order, base: &Base, seed: u64) -> Option<Made> {
    let plain = Practice {
        exercise: order.exercise.clone(),
        faults: order.faults.clone(),
        difficulty: order.difficulty,
        came: Came {
            relief: [0.2; 2],
            nut: 0.5,
            action: [1.6, 2.0],
            gap: 2.5,
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
    if fault_at(bench.practice()).is_some() {
        let note = heard(&bench)?;
        let (string, fret) = (note.string, note.fret);
        opened.purpose = format!("{}; buzzes on string {string}, fret {fret}", opened.purpose);
        events.push(Event::Observed {
            what: Observation::Played {
                note,
                heard: Some(Heard::Buzz),
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
    let purpose = practice.exercise.clone();
    let opened = Opened {
        instrument: base.instrument.clone(),
        instrument_version: 1,
        purpose: purpose.map_or("practice".into(), |of| {
            format!("practice: {}", of.replace('_', " "))
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

/// How it is to come: what is right, and what is wrong with it.
fn comes(order: &Order, base: &Base, plan: &Plan, chance: &mut Rng) -> Option<Vec<Wish>> {
    let by = share(order.difficulty);
    let has = |fault| order.faults.contains(&fault);
    let came = base.came.as_ref();
    let mut off = |fault, least: f64, most: f64| {
        if has(fault) {
            by * chance.between(least, most)
        } else {
            0.0
        }
    };
    let mut wishes = Vec::new();
    let relief = off(PracticeFault::Relief, 0.16, 0.26);
    let bass = base.instrument.kind == gradimen_bench::model::instrument::Kind::Bass;
    let bent = off(PracticeFault::Relief, 0.15, 0.3);
    let up = bent + off(PracticeFault::Action, 0.45, 0.8);
    for side in &plan.relief.sides {
        let right = came.map_or(side.target, |came| came.relief.middle());
        let reads = match side.place.side() {
            _ if has(PracticeFault::RodSpent) => 0.8,
            Some(Side::Treble) if has(PracticeFault::Wound) => -0.12,
            Some(Side::Bass) if has(PracticeFault::Wound) => 0.42,
            _ => right.mm() + if bass { 1.3 * relief } else { relief },
        };
        wishes.push(Wish {
            place: side.place,
            reads,
        });
    }
    let nut = off(PracticeFault::Nut, 0.16, 0.26);
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
        let away = off(PracticeFault::Gap, 0.9, 1.6);
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
                Place::Relief { side, .. } => came.relief[side.index()] += off,
                Place::Nut { .. } => came.nut += off,
                Place::Action { string: 1, .. } => came.action[0] += off,
                Place::Action { .. } => came.action[1] += off,
                _ => came.gap = (came.gap + off).max(0.02),
            }
        }
        if worst < 0.02 {
            break;
        }
    }
    Some(())
}

/// The instrument behind a job that is practised, as it comes to the bench.
pub(crate) fn hidden(opened: &Opened, restrung: bool) -> Option<SimulatedInstrument> {
    let practice = opened.practice.as_ref()?;
    let mut chance = Rng::new(practice.seed ^ 0x5add1e);
    let has = |fault| practice.faults.contains(&fault);
    let scale = opened.instrument.scale(1).mm();
    let trap = match practice.faults.iter().find(|fault| fault.is_trap()) {
        Some(PracticeFault::ForeignNeck) => Some(Trap::ForeignNeck(scale - FOREIGN)),
        Some(PracticeFault::Bridge) => Some(Trap::Bridge(MISPLACED)),
        Some(PracticeFault::RodSpent) => Some(Trap::RodSpent),
        Some(PracticeFault::Wound) => Some(Trap::Wound),
        _ => None,
    };
    let wide = if has(PracticeFault::Saddles) {
        3.0 * share(practice.difficulty)
    } else {
        0.0
    };
    let condition = Condition {
        relief_mm: practice.came.relief,
        nut_mm: practice.came.nut,
        action_mm: practice.came.action,
        gap_mm: practice.came.gap,
        saddles_mm: std::array::from_fn(|_| chance.between(-wide, wide)),
        scatter_mm: Some([
            0.015,
            if has(PracticeFault::Action) {
                0.15
            } else {
                0.03
            },
        ]),
        fitted: trap.is_none(),
        trap,
    };
    let before = opened
        .arrived
        .as_ref()
        .filter(|_| has(PracticeFault::Gauge));
    let on = before.unwrap_or(&opened.strung);
    let made = SimulatedInstrument::hidden(&opened.instrument, on, &condition, practice.seed)?;
    let mut made = made.with_frets_dressed();
    if practice.difficulty == Difficulty::Easy {
        made = made.with_gauge();
    }
    if let Some((fret, up, loose)) = fault_at(practice) {
        made = made.with_fret(fret, up, loose);
    }
    if restrung && before.is_some() {
        made.restring(&opened.strung)?;
    }
    Some(made)
}

/// A neck this much shorter in scale, and a bridge so far behind its place, in millimetres.
const FOREIGN: f64 = 19.05;
const MISPLACED: f64 = 9.0;

/// Which fret stands high, how far, and whether it is loose.
pub(crate) fn fault_at(practice: &Practice) -> Option<(u8, f64, bool)> {
    let loose = practice.faults.contains(&PracticeFault::LooseFret);
    if !loose && !practice.faults.contains(&PracticeFault::HighFret) {
        return None;
    }
    let mut chance = Rng::new(practice.seed ^ 0xf3e7);
    let fret = chance.between(6.0, 14.99) as u8;
    let up = match practice.difficulty {
        Difficulty::Easy => 0.16,
        Difficulty::Usual => 0.12,
        Difficulty::Hard => 0.09,
    };
    Some((fret, up, loose))
}

/// Where the player hears a buzz: held a fret before the one that stands high, under the string that touches it most.
fn heard(bench: &Bench) -> Option<Note> {
    let (fret, ..) = fault_at(bench.practice())?;
    let notes = (1..=bench.strings()).map(|string| Note {
        string,
        fret: fret - 1,
    });
    let touches = notes.filter_map(|note| Some((note, bench.clears(note)?)));
    let (note, clears) = touches.min_by(|(_, one), (_, other)| one.total_cmp(other))?;
    (clears < 0.0).then_some(note)
}
