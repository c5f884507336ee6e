//! Vibratos from set to set by following the plan, on stand-in instruments that are not what it believes.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{fold, opened, put_on, tuner, usual_set};
use gradimen_sim::{Defects, Rng, SimulatedInstrument};
use std::collections::BTreeMap;

fn balance(job: &Job) -> BalancePlan {
    BalancePlan::of(&known(job)).unwrap()
}

struct Bench {
    events: Vec<Event>,
    simulated: SimulatedInstrument,
    moves: BTreeMap<&'static str, usize>,
    /// Honest gaps that were read, and of them those that were questioned.
    gaps: [usize; 2],
}

impl Bench {
    /// Follows the plan until it has nothing more to say.
    fn finish(&mut self, seed: u64) {
        for _ in 0..300 {
            let known = known(&fold(self.events.clone()));
            let plan = Plan::of(&known);
            assert_ne!(plan.relief.action, Action::Stop(Stop::Neck));
            let told = self.simulated.follow(&known, &plan).unwrap();
            if told.is_empty() {
                return;
            }
            for event in told {
                if matches!(
                    event,
                    Event::Read {
                        place: Place::Gap,
                        ..
                    }
                ) {
                    self.gaps[0] += 1;
                    let job = fold(self.events.clone());
                    self.gaps[1] += usize::from(ask(&job, &event).is_some());
                }
                let adjuster = match &event {
                    Event::Adjusted { adjuster, .. } => Some(*adjuster),
                    _ => None,
                };
                let what = adjuster.and_then(|adjuster| match adjuster {
                    Adjuster::Claw => Some("claw"),
                    Adjuster::Seat => Some("seat"),
                    Adjuster::SaddleHeight { .. } | Adjuster::Post { .. } => Some("height"),
                    Adjuster::SaddleDrive { .. } => Some("saddle"),
                    Adjuster::NutSlots { .. } => Some("nut slot"),
                    Adjuster::PickupScrew { .. } => Some("pickup screw"),
                    _ => None,
                });
                if let Some(what) = what {
                    *self.moves.entry(what).or_default() += 1;
                }
                self.events.push(event);
            }
        }
        panic!("instrument {seed} is never done");
    }
}

#[test]
fn vibratos_go_from_set_to_set_with_few_turns() {
    const INSTRUMENTS: u64 = 72;
    let mut total: BTreeMap<&'static str, usize> = BTreeMap::new();
    let mut worst = [0.0_f64; 5];
    let mut adjusters: BTreeMap<&'static str, usize> = BTreeMap::new();
    let mut gaps = [0, 0];
    for seed in 0..INSTRUMENTS {
        let family =
            [BridgeFamily::KnifeEdgeVibrato, BridgeFamily::DoubleLocking][seed as usize % 2];
        let events = vec![opened(Kind::Guitar, 6, family), tuner(0.5), put_on(1)];
        let job = fold(events.clone());
        let mut rng = Rng::new(seed * 131 + 3);
        let defects = Defects {
            relief_mm: [0.3, 0.3],
            nut_mm: 0.6,
            ..Defects::usual(&mut rng, false)
        };
        let mut bench = Bench {
            simulated: SimulatedInstrument::hidden(&known(&job), defects, seed + 500).unwrap(),
            events,
            moves: BTreeMap::new(),
            gaps: [0, 0],
        };
        bench.finish(seed);
        // Nines to tens, or half a step down.
        let change = if seed % 4 < 2 {
            put_on(0)
        } else {
            let lower = &defaults::tunings(Kind::Guitar, 6)[1];
            Event::Restrung {
                strung: Strung {
                    set: usual_set(1),
                    tuning: Tuning::of(lower.name, 440.0, &lower.pitches),
                },
            }
        };
        bench.events.push(change);
        bench
            .simulated
            .restrung(&known(&fold(bench.events.clone())))
            .unwrap();
        bench.finish(seed);
        for (what, count) in &bench.moves {
            *total.entry(what).or_default() += count;
        }
        // A locking nut moves as one, and two posts carry all saddles.
        let (heights, slots) = if family == BridgeFamily::DoubleLocking {
            (2, 1)
        } else {
            (6, 6)
        };
        gaps = [gaps[0] + bench.gaps[0], gaps[1] + bench.gaps[1]];
        // Every adjuster has been there for two sets.
        let job = fold(bench.events.clone());
        let screws = 2 * job.instrument().pickups.len();
        for (what, count) in [
            ("claw", 1),
            ("nut slot", slots),
            ("height", heights),
            ("saddle", 6),
            ("pickup screw", screws),
        ] {
            *adjusters.entry(what).or_default() += 2 * count;
        }
        let plan = balance(&job);
        worst[0] = worst[0].max((bench.simulated.vibrato_gap() - plan.target).abs().mm());
        for string in [1, 6] {
            let target = if string == 1 { 4.0 } else { 5.0 } * 25.4 / 64.0;
            worst[1] = worst[1].max((bench.simulated.action(string, 12).mm() - target).abs());
        }
        for string in 1..=6 {
            worst[2] = worst[2].max(bench.simulated.cents(string).unwrap().value().abs());
        }
        let span = job.targets().relief_span;
        let relief = Side::ALL.map(|side| bench.simulated.relief(side, span).mm());
        let wanted = job.targets().relief.middle().mm();
        worst[3] = worst[3].max(((relief[0] + relief[1]) / 2.0 - wanted).abs());
        for (pickup, record) in (0_u8..).zip(&job.instrument().pickups) {
            for (side, target) in Side::ALL
                .into_iter()
                .zip(defaults::pickup_target(record.family))
            {
                let off = bench.simulated.pickup_gap(pickup, side) - target;
                worst[4] = worst[4].max(off.mm().abs());
            }
        }
    }
    println!("| adjuster | moves for each set, mean |\n|---|---|");
    for (what, count) in &total {
        let mean = *count as f64 / adjusters[what] as f64;
        println!("| {what} | {mean:.2} |");
        assert!(mean <= 1.5, "{what}: {mean}");
    }
    println!("honest gaps questioned: {} of {}", gaps[1], gaps[0]);
    assert!(gaps[1] * 25 <= gaps[0], "{gaps:?}");
    println!(
        "worst left: gap {:.2} mm, height {:.2} mm, {:.2} cents, relief {:.2} mm, pickups {:.2} mm",
        worst[0], worst[1], worst[2], worst[3], worst[4]
    );
    assert!(worst[0] < tolerance::GAP.mm() + 0.25, "{worst:?}");
    assert!(worst[1] < 0.3 && worst[2] < 2.5, "{worst:?}");
    assert!(worst[3] < tolerance::RELIEF.mm() + 0.04, "{worst:?}");
    // The worst of some four hundred: half a division of a rule in half 64ths, and three times the scatter of the hand.
    assert!(worst[4] < tolerance::PICKUP.mm() + 0.1 + 0.18, "{worst:?}");
}

#[test]
fn tails_go_from_set_to_set_with_few_moves() {
    const INSTRUMENTS: u64 = 12;
    let (mut moves, mut worst, mut rates) = (0, 0.0_f64, 0.0_f64);
    for seed in 0..INSTRUMENTS {
        let family = [BridgeFamily::RockingTail, BridgeFamily::ArmTail][seed as usize % 2];
        let events = vec![opened(Kind::Guitar, 6, family), tuner(0.5), put_on(1)];
        let job = fold(events.clone());
        let mut rng = Rng::new(seed * 77 + 5);
        let defects = Defects::usual(&mut rng, false);
        let mut bench = Bench {
            simulated: SimulatedInstrument::hidden(&known(&job), defects, seed + 900).unwrap(),
            events,
            moves: BTreeMap::new(),
            gaps: [0, 0],
        };
        let measured = bench.simulated.measure_spring().unwrap();
        bench.events.push(measured);
        bench.finish(seed);
        bench.events.push(put_on(0));
        bench
            .simulated
            .restrung(&known(&fold(bench.events.clone())))
            .unwrap();
        bench.finish(seed);
        moves += bench.moves.get("seat").copied().unwrap_or(0);
        let plan = balance(&fold(bench.events.clone()));
        // Whole washers leave up to half of one.
        let allowed = if family == BridgeFamily::ArmTail {
            0.5
        } else {
            tolerance::GAP.mm()
        };
        let off = (bench.simulated.vibrato_gap() - plan.target).abs().mm();
        worst = worst.max(off - allowed);
        let real = bench.simulated.spring_rate().unwrap();
        rates = rates.max((plan.rate.value.ratio(real)).ln().abs());
    }
    let mean = moves as f64 / (2 * INSTRUMENTS) as f64;
    println!(
        "seats of tails: {mean:.2} moves for each set, {worst:.2} mm beyond, rates within {rates:.2}"
    );
    assert!(mean <= 1.5, "{mean}");
    assert!(worst < 0.25, "{worst}");
}
