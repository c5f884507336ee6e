//! Vibratos from set to set by following the plan, on stand-in instruments that are not what it believes.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::{fold, opened, put_on, tuner, usual_set};
use gradimen_bench::balance::{BalancePlan, TOLERANCE};
use gradimen_bench::doubt::question;
use gradimen_bench::event::{Event, Side, Strung, Tuning};
use gradimen_bench::hardware::BridgeFamily;
use gradimen_bench::instrument::Kind;
use gradimen_bench::job::Job;
use gradimen_bench::methods::{self, tolerance};
use gradimen_bench::plan::Plan;
use gradimen_bench::setup::ReliefAction;
use gradimen_sim::{Chance, Odd, StandIn};
use std::collections::BTreeMap;

fn balance(job: &Job) -> BalancePlan {
    BalancePlan::of(job).unwrap()
}

struct Bench {
    events: Vec<Event>,
    stand_in: StandIn,
    moves: BTreeMap<&'static str, usize>,
    /// Honest gaps that were read, and of them those that were questioned.
    gaps: [usize; 2],
}

impl Bench {
    /// Follows the plan until it has nothing more to say.
    fn finish(&mut self, seed: u64) {
        for _ in 0..300 {
            let plan = Plan::of(&fold(self.events.clone()));
            assert_ne!(plan.setup.relief.action, ReliefAction::Blocked);
            let told = self.stand_in.follow(&plan).unwrap();
            if told.is_empty() {
                return;
            }
            for event in told {
                if let Event::BalanceRead { .. } = event {
                    self.gaps[0] += 1;
                    let job = fold(self.events.clone());
                    self.gaps[1] += usize::from(question(&job, &event).is_some());
                }
                let what = match &event {
                    Event::ClawTurned { .. } => Some("claw"),
                    Event::SeatMoved { .. } => Some("seat"),
                    Event::HeightMoved { .. } => Some("height"),
                    Event::SaddleMoved { .. } => Some("saddle"),
                    Event::NutMoved { .. } => Some("nut slot"),
                    Event::PickupTurned { .. } => Some("pickup screw"),
                    _ => None,
                };
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
    const INSTRUMENTS: u64 = 24;
    let mut total: BTreeMap<&'static str, usize> = BTreeMap::new();
    let mut worst = [0.0_f64; 5];
    let mut adjusters: BTreeMap<&'static str, usize> = BTreeMap::new();
    let mut gaps = [0, 0];
    for seed in 0..INSTRUMENTS {
        let family =
            [BridgeFamily::KnifeEdgeVibrato, BridgeFamily::DoubleLocking][seed as usize % 2];
        let events = vec![opened(Kind::Guitar, 6, family), tuner(0.5), put_on(1)];
        let job = fold(events.clone());
        let mut chance = Chance::new(seed * 131 + 3);
        let odd = Odd {
            relief_mm: [0.3, 0.3],
            nut_mm: 0.6,
            ..Odd::usual(&mut chance, false)
        };
        let mut bench = Bench {
            stand_in: StandIn::hidden(&job, odd, seed + 500).unwrap(),
            events,
            moves: BTreeMap::new(),
            gaps: [0, 0],
        };
        bench.finish(seed);
        // Nines to tens, or half a step down.
        let change = if seed % 4 < 2 {
            put_on(0)
        } else {
            let lower = &methods::tunings(Kind::Guitar, 6)[1];
            Event::Strung {
                strung: Strung {
                    set: usual_set(1),
                    tuning: Tuning::of(lower.name, 440.0, &lower.pitches),
                },
            }
        };
        bench.events.push(change);
        bench
            .stand_in
            .restrung(&fold(bench.events.clone()))
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
        worst[0] = worst[0].max((bench.stand_in.vibrato_gap() - plan.target).abs().mm());
        for string in [1, 6] {
            let target = if string == 1 { 4.0 } else { 5.0 } * 25.4 / 64.0;
            worst[1] = worst[1].max((bench.stand_in.action(string, 12).mm() - target).abs());
        }
        for string in 1..=6 {
            worst[2] = worst[2].max(bench.stand_in.cents(string).unwrap().value().abs());
        }
        let span = job.targets().relief_span;
        let relief = Side::ALL.map(|side| bench.stand_in.relief(side, span).mm());
        let wanted = job.targets().relief.middle().mm();
        worst[3] = worst[3].max(((relief[0] + relief[1]) / 2.0 - wanted).abs());
        for (pickup, record) in (0_u8..).zip(&job.instrument().pickups) {
            for (side, target) in Side::ALL
                .into_iter()
                .zip(methods::pickup_target(record.family))
            {
                let off = bench.stand_in.pickup_gap(pickup, side) - target;
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
    assert!(worst[0] < TOLERANCE.mm() + 0.25, "{worst:?}");
    assert!(worst[1] < 0.3 && worst[2] < 2.5, "{worst:?}");
    assert!(worst[3] < tolerance::RELIEF.mm() + 0.04, "{worst:?}");
    assert!(worst[4] < tolerance::PICKUP.mm() + 0.2, "{worst:?}");
}

#[test]
fn tails_go_from_set_to_set_with_few_moves() {
    const INSTRUMENTS: u64 = 12;
    let (mut moves, mut worst, mut rates) = (0, 0.0_f64, 0.0_f64);
    for seed in 0..INSTRUMENTS {
        let family = [BridgeFamily::RockingTail, BridgeFamily::ArmTail][seed as usize % 2];
        let events = vec![opened(Kind::Guitar, 6, family), tuner(0.5), put_on(1)];
        let job = fold(events.clone());
        let mut chance = Chance::new(seed * 77 + 5);
        let odd = Odd::usual(&mut chance, false);
        let mut bench = Bench {
            stand_in: StandIn::hidden(&job, odd, seed + 900).unwrap(),
            events,
            moves: BTreeMap::new(),
            gaps: [0, 0],
        };
        let measured = bench.stand_in.measure_spring().unwrap();
        bench.events.push(measured);
        bench.finish(seed);
        bench.events.push(put_on(0));
        bench
            .stand_in
            .restrung(&fold(bench.events.clone()))
            .unwrap();
        bench.finish(seed);
        moves += bench.moves.get("seat").copied().unwrap_or(0);
        let plan = balance(&fold(bench.events.clone()));
        // Whole washers leave up to half of one.
        let allowed = if family == BridgeFamily::ArmTail {
            0.5
        } else {
            TOLERANCE.mm()
        };
        let off = (bench.stand_in.vibrato_gap() - plan.target).abs().mm();
        worst = worst.max(off - allowed);
        let real = bench.stand_in.spring_rate().unwrap();
        rates = rates.max((plan.rate.value.ratio(real)).ln().abs());
    }
    let mean = moves as f64 / (2 * INSTRUMENTS) as f64;
    println!(
        "seats of tails: {mean:.2} moves for each set, {worst:.2} mm beyond, rates within {rates:.2}"
    );
    assert!(mean <= 1.5, "{mean}");
    assert!(worst < 0.25, "{worst}");
}
