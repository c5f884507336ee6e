//! Follows the plan on stand-in instruments until it says done, and counts the moves; beside it,
//! what a careful hand does by trial and error.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use std::collections::{BTreeMap, BTreeSet};

use common::{fold, opened, tuner};
use gradimen_core::quantity::{Cents, Length};
use gradimen_sim::{Defects, Rng, SimulatedInstrument, Tuner};

/// What was turned how often, by adjuster.
type Moves = BTreeMap<(&'static str, String), usize>;

/// What a move turned, if it is one: its kind, and which of them.
fn turned(event: &Event) -> Option<(&'static str, String)> {
    let Event::Adjusted { adjuster, .. } = event else {
        return None;
    };
    Some(match *adjuster {
        Adjuster::TrussRod => ("rod, rounds", String::new()),
        Adjuster::NutSlots { strings } => ("nut slot", strings.to_string()),
        Adjuster::SaddleHeight { string } => ("height screw", string.to_string()),
        Adjuster::Post { side } => ("height screw", side.key().to_owned()),
        Adjuster::SaddleDrive { string } => ("saddle screw", string.to_string()),
        Adjuster::PickupScrew { pickup, side } => {
            ("pickup screw", format!("{pickup} {}", side.key()))
        }
        Adjuster::Claw => ("claw", String::new()),
        Adjuster::Springs => ("springs", String::new()),
        other => panic!("{other:?} is not turned here"),
    })
}

struct Bench {
    events: Vec<Event>,
    simulated: SimulatedInstrument,
    moves: Moves,
    filed: BTreeSet<u8>,
    readings: usize,
}

const KINDS: [(Kind, u8, BridgeFamily); 8] = [
    (Kind::Guitar, 6, BridgeFamily::FixedPlate),
    (Kind::Guitar, 6, BridgeFamily::KnifeEdgeVibrato),
    (Kind::Guitar, 6, BridgeFamily::TwoPost),
    (Kind::Guitar, 7, BridgeFamily::FixedPlate),
    (Kind::Baritone, 6, BridgeFamily::FixedPlate),
    (Kind::Bass, 4, BridgeFamily::BentPlateBass),
    (Kind::Bass, 5, BridgeFamily::SingleStringBass),
    (Kind::Guitar, 6, BridgeFamily::ThreeBarrel),
];

/// A good pedal, the tuner most benches have (common practice).
const PEDAL: Tuner = Tuner {
    step: Cents::new(0.5),
    scatter: Cents::new(0.6),
};

fn opening(seed: u64) -> Event {
    let (kind, strings, family) = KINDS[seed as usize % KINDS.len()];
    let mut event = opened(kind, strings, family);
    if let Event::Opened(opened) = &mut event
        && seed % 16 == 3
    {
        // A fan of scales.
        opened.instrument.scales = (0..strings)
            .map(|index| Measurement::mm(635.0 + 7.0 * f64::from(index)))
            .collect();
    }
    event
}

impl Bench {
    fn new(seed: u64) -> Self {
        let events = vec![opening(seed), tuner(PEDAL.step.value())];
        let job = fold(events.clone());
        let mut rng = Rng::new(seed.wrapping_mul(977) + 5);
        let defects = Defects::usual(&mut rng, job.instrument().kind == Kind::Bass);
        Self {
            simulated: SimulatedInstrument::hidden(&known(&job), defects, seed + 1000)
                .unwrap()
                .read_with(PEDAL),
            events,
            moves: Moves::new(),
            filed: BTreeSet::new(),
            readings: 0,
        }
    }

    fn job(&self) -> Job {
        fold(self.events.clone())
    }

    fn read(&mut self, event: Event) {
        self.readings += 1;
        self.events.push(event);
    }

    fn moved(&mut self, what: &'static str, which: String, event: Event) {
        if what == "nut slot" {
            self.filed.extend(which.parse::<u8>());
        }
        *self.moves.entry((what, which)).or_default() += 1;
        self.events.push(event);
    }

    /// One thing to do, by the plan; false when there is nothing left.
    fn follow(&mut self) -> bool {
        let known = known(&self.job());
        let plan = Plan::of(&known);
        assert_ne!(
            plan.relief.action,
            Action::Stop(Stop::Neck),
            "{:?}",
            plan.relief.faults
        );
        let events = self.simulated.follow(&known, &plan).unwrap();
        let goes_on = !events.is_empty();
        for event in events {
            match turned(&event) {
                Some((what, which)) => self.moved(what, which, event),
                None => self.read(event),
            }
        }
        goes_on
    }

    /// How far the finished instrument is really off, at the worst place of every station.
    fn truth(&self) -> BTreeMap<&'static str, f64> {
        let job = self.job();
        let targets = job.targets();
        let mut worst: BTreeMap<&'static str, f64> = BTreeMap::new();
        let mut note = |what, off: f64| {
            let entry = worst.entry(what).or_insert(0.0);
            *entry = entry.max(off.abs());
        };
        let span = targets.relief_span;
        let both = Side::ALL
            .map(|side| (self.simulated.relief(side, span) - targets.relief.middle()).mm());
        let relief = job.geometry().relief(Side::Bass, span.span()).unwrap();
        let plain = job
            .geometry()
            .relief(
                Side::Bass,
                gradimen_core::neck::Span {
                    low: 1,
                    high: job.instrument().frets,
                    at: 8,
                },
            )
            .unwrap();
        note(
            "relief",
            (both[0] + both[1]) / 2.0 * plain.slope() / relief.slope(),
        );
        let fixed = job.instrument().bridge.lifts() == Lifts::TwoPosts;
        for string in 1..=job.instrument().strings {
            let share = f64::from(string - 1) / f64::from(job.instrument().strings - 1);
            let between = |treble: &Measurement, bass: &Measurement| {
                treble.middle() * (1.0 - share) + bass.middle() * share
            };
            let nut = self.simulated.first_fret(string, 0)
                - between(&targets.nut_treble, &targets.nut_bass);
            if nut > Length::ZERO {
                note("nut", nut.mm());
            } else if self.filed.contains(&string) {
                // What was taken off cannot be put back.
                note("nut, filed too low", nut.mm());
            }
            if !fixed || string == 1 || string == job.instrument().strings {
                let action = self.simulated.action(string, targets.action_fret)
                    - between(&targets.action_treble, &targets.action_bass);
                note("height", action.mm());
            }
        }
        for saddle in job.saddles() {
            let cents: Vec<f64> = saddle
                .strings
                .iter()
                .map(|string| self.simulated.cents(*string).unwrap().value())
                .collect();
            let mean = cents.iter().sum::<f64>() / cents.len() as f64;
            // Two strings on one saddle share what is left between them.
            note(
                if cents.len() == 1 {
                    "intonation"
                } else {
                    "intonation, shared"
                },
                mean,
            );
        }
        for (pickup, record) in (0_u8..).zip(&job.instrument().pickups) {
            for (side, target) in Side::ALL.into_iter().zip(pickup_target(record.family)) {
                note(
                    "pickups",
                    (self.simulated.pickup_gap(pickup, side) - target).mm(),
                );
            }
        }
        worst
    }
}

/// Trial and error as it is done with care: rod by eighths, nut to the number, height by the rule
/// of thumb that a saddle moves twice what the twelfth shows, saddles by half-millimetre steps that
/// halve when they overshoot; then round again until nothing is off.
fn by_hand(seed: u64) -> (Moves, usize) {
    let mut bench = Bench::new(seed);
    let job = bench.job();
    let targets = job.targets();
    let pitch = job.instrument().bridge.height.pitch.middle().mm();
    let screw = job.instrument().bridge.intonation.pitch.middle().mm();
    let strings = job.instrument().strings;
    let gap = |event: &Event| match event {
        Event::Read {
            value: Reading::Length { length },
            ..
        } => length.middle().mm(),
        Event::Read {
            value: Reading::Note { cents, .. },
            ..
        } => *cents,
        _ => 0.0,
    };
    for _round in 0..4 {
        let before: usize = bench.moves.values().sum();
        let (mut eighth, mut last) = (0.125, 0.0);
        for _ in 0..12 {
            let event = bench.simulated.read_relief(Side::Bass, targets.relief_span);
            let off = gap(&event) - targets.relief.middle().mm();
            bench.read(event);
            if off.abs() <= 0.03 {
                break;
            }
            if last * off < 0.0 {
                eighth /= 2.0;
            }
            last = off;
            let event = bench.simulated.turn_rod(eighth * off.signum());
            bench.moved("rod, rounds", String::new(), event);
        }
        for string in 1..=strings {
            for _ in 0..3 {
                let event = bench.simulated.read_nut(string, 0);
                let off = gap(&event) - targets.nut_treble.middle().mm();
                bench.read(event);
                if off <= tolerance::NUT.mm() {
                    break;
                }
                let event = bench.simulated.file(string, Length::from_mm(off * 0.6));
                bench.moved("nut slot", string.to_string(), event);
            }
        }
        let posts = job.instrument().bridge.lifts() == Lifts::TwoPosts;
        for string in 1..=strings {
            if posts && string != 1 && string != strings {
                continue;
            }
            let share = f64::from(string - 1) / f64::from(strings - 1);
            let wanted = targets.action_treble.middle().mm() * (1.0 - share)
                + targets.action_bass.middle().mm() * share;
            let adjuster = match (posts, string) {
                (false, _) => Adjuster::SaddleHeight { string },
                (true, 1) => Adjuster::Post { side: Side::Treble },
                (true, _) => Adjuster::Post { side: Side::Bass },
            };
            for _ in 0..6 {
                let event = bench.simulated.read_action(string, targets.action_fret);
                let off = gap(&event) - wanted;
                bench.read(event);
                if off.abs() <= tolerance::ACTION.mm() {
                    break;
                }
                let turns = (-2.0 * off / pitch * 4.0).round() / 4.0;
                let turns = if turns == 0.0 {
                    -0.25 * off.signum()
                } else {
                    turns
                };
                let event = bench.simulated.turn_height(adjuster, turns);
                let (what, which) = turned(&event).unwrap();
                bench.moved(what, which, event);
            }
        }
        for saddle in job
            .saddles()
            .iter()
            .filter(|saddle| saddle.strings.len() == 1)
        {
            let string = saddle.strings[0];
            let (mut step, mut last) = (0.5 / screw, 0.0);
            for _ in 0..10 {
                let event = bench.simulated.read_cents(string).unwrap();
                let off = gap(&event);
                bench.read(event);
                if off.abs() <= 1.0 {
                    break;
                }
                if last * off < 0.0 {
                    step /= 2.0;
                }
                last = off;
                let event = bench.simulated.turn_saddle(string, step * off.signum());
                bench.moved("saddle screw", string.to_string(), event);
            }
        }
        if bench.moves.values().sum::<usize>() == before {
            break;
        }
    }
    (bench.moves, bench.readings)
}

/// Mean over the adjusters there are, and the worst.
fn tally(all: &[(Moves, Job)], what: &str) -> (f64, usize) {
    let adjusters: usize = all
        .iter()
        .map(|(_, job)| match what {
            "rod, rounds" => 1,
            "nut slot" => usize::from(job.instrument().strings),
            "height screw" if job.instrument().bridge.lifts() == Lifts::TwoPosts => 2,
            "height screw" => usize::from(job.instrument().strings),
            "pickup screw" => 2 * job.instrument().pickups.len(),
            _ => job.saddles().len(),
        })
        .sum();
    let counts: Vec<usize> = all
        .iter()
        .flat_map(|(moves, _)| {
            moves
                .iter()
                .filter(|((kind, _), _)| *kind == what)
                .map(|(_, count)| *count)
        })
        .collect();
    let total: usize = counts.iter().sum();
    (
        total as f64 / adjusters as f64,
        counts.iter().copied().max().unwrap_or(0),
    )
}

#[test]
fn every_adjuster_is_touched_about_once() {
    const INSTRUMENTS: u64 = 48;
    let mut planned = Vec::new();
    let mut by_trial = Vec::new();
    let mut worst: BTreeMap<&'static str, f64> = BTreeMap::new();
    let (mut readings, mut trial_readings) = (0, 0);
    for seed in 0..INSTRUMENTS {
        let mut bench = Bench::new(seed);
        let mut steps = 0;
        while bench.follow() {
            steps += 1;
            assert!(steps < 400, "instrument {seed} is never done");
        }
        for (what, off) in bench.truth() {
            let entry = worst.entry(what).or_insert(0.0);
            *entry = entry.max(off);
        }
        readings += bench.readings;
        let job = bench.job();
        planned.push((bench.moves, job.clone()));
        let (moves, count) = by_hand(seed);
        trial_readings += count;
        by_trial.push((moves, job));
    }
    let mut kept = Vec::new();
    println!("| adjuster | by the plan, mean | worst | by trial, mean | worst |");
    println!("|---|---|---|---|---|");
    for what in [
        "rod, rounds",
        "nut slot",
        "height screw",
        "saddle screw",
        "pickup screw",
    ] {
        let (mean, most) = tally(&planned, what);
        let (hand_mean, hand_most) = tally(&by_trial, what);
        let hand = if hand_most == 0 {
            "not tried | ".to_owned()
        } else {
            format!("{hand_mean:.2} | {hand_most}")
        };
        println!("| {what} | {mean:.2} | {most} | {hand} |");
        if hand_most > 0 {
            assert!(
                mean < hand_mean,
                "{what}: {mean} by the plan, {hand_mean} by trial"
            );
        }
        kept.push((what, mean, most));
    }
    println!(
        "readings: {readings} by the plan, {trial_readings} by trial, on {INSTRUMENTS} instruments"
    );
    println!("worst left: {worst:?}");
    // The rod goes by capped rounds.
    for (what, mean, most) in kept.into_iter().skip(1) {
        assert!(mean <= 1.3, "{what}: {mean}");
        assert!(most <= 3, "{what}: {most}");
    }
    // In spec: within the tolerance and what the tool itself cannot tell: of a rule in half 64ths half a division
    // and twice the scatter of the hand, 0.22 mm.
    assert!(worst["relief"] < tolerance::RELIEF.mm() + 0.04, "{worst:?}");
    // Too high can be put right later: the thousandth that a filed slot is let alone for, and
    // three times a blade's scatter, as the worst of some three hundred.
    assert!(
        worst["nut"] < tolerance::NUT.mm() + 0.025 + 0.054,
        "{worst:?}"
    );
    assert!(worst["height"] < tolerance::ACTION.mm() + 0.2, "{worst:?}");
    assert!(
        worst["nut, filed too low"] < tolerance::NUT.mm() + 0.03,
        "{worst:?}"
    );
    assert!(worst["intonation"] < 2.0, "{worst:?}");
    assert!(worst["intonation, shared"] < 2.0, "{worst:?}");
    assert!(
        worst["pickups"] < tolerance::PICKUP.mm() + 0.22,
        "{worst:?}"
    );
}
