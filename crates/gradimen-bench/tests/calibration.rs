//! Whether the estimate knows how well it knows: claimed intervals against the hidden truth of
//! stand-in instruments, and questions asked of honest readings and of slips.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use std::collections::BTreeMap;

use common::{fold, opened, tuner};
use gradimen_core::quantity::Length;
use gradimen_sim::{Defects, Rng, SimulatedInstrument};

const RUNS: u64 = 320;

struct Run {
    job: Job,
    simulated: SimulatedInstrument,
    rng: Rng,
}

/// An instrument somewhere in the middle of its job.
fn run(seed: u64) -> Run {
    let (kind, strings, family) = [
        (Kind::Guitar, 6, BridgeFamily::FixedPlate),
        (Kind::Bass, 4, BridgeFamily::BentPlateBass),
        (Kind::Baritone, 6, BridgeFamily::KnifeEdgeVibrato),
    ][seed as usize % 3];
    let mut events = vec![opened(kind, strings, family), tuner(0.1)];
    let mut rng = Rng::new(seed * 6151 + 11);
    let defects = Defects::usual(&mut rng, kind == Kind::Bass);
    let mut simulated =
        SimulatedInstrument::hidden(&known(&fold(events.clone())), defects, seed + 77).unwrap();
    let steps = rng.between(4.0, 60.0) as usize;
    for _ in 0..steps {
        let known = known(&fold(events.clone()));
        let told = simulated.follow(&known, &Plan::of(&known)).unwrap();
        if told.is_empty() {
            break;
        }
        events.extend(told);
    }
    Run {
        job: fold(events),
        simulated,
        rng,
    }
}

#[test]
fn one_sigma_holds_two_times_in_three() {
    let mut counts: BTreeMap<&str, (u32, u32)> = BTreeMap::new();
    for seed in 0..RUNS {
        let Run { job, simulated, .. } = run(seed);
        let plan = plan_of(&job);
        let mut note = |what, off: f64, sigma: f64| {
            let entry = counts.entry(what).or_default();
            entry.1 += 1;
            entry.0 += u32::from(off.abs() <= sigma);
        };
        let span = plan.targets.relief_span;
        for (side, known) in Side::ALL.into_iter().zip(&plan.relief.sides) {
            if known.last.is_some() {
                let off = known.now.value - simulated.relief(side, span);
                note("relief", off.mm(), known.now.sigma.mm());
            }
        }
        for slot in plan
            .nut
            .strings
            .iter()
            .filter(|slot| slot.quantity.last.is_some())
        {
            let off = slot.quantity.now.value - simulated.first_fret(slot.string, 0);
            note("nut", off.mm(), slot.quantity.now.sigma.mm());
        }
        let fret = plan.action.fret;
        for on in plan
            .action
            .strings
            .iter()
            .filter(|on| on.quantity.last.is_some())
        {
            let off = on.quantity.now.value - simulated.action(on.string, fret);
            note("height", off.mm(), on.quantity.now.sigma.mm());
        }
        for saddle in &plan.intonation.saddles {
            for known in saddle
                .estimate
                .strings
                .iter()
                .filter(|known| known.count > 0)
            {
                let off = known.error.value - simulated.cents(known.string).unwrap();
                note("intonation", off.value(), known.error.sigma.value());
            }
        }
    }
    let share = |(held, all): (u32, u32)| 100.0 * f64::from(held) / f64::from(all);
    let mut total = (0, 0);
    for (what, counted) in &counts {
        println!("{what}: {:.1} % of {}", share(*counted), counted.1);
        total = (total.0 + counted.0, total.1 + counted.1);
    }
    println!("all: {:.1} % of {}", share(total), total.1);
    assert!((share(total) - 68.0).abs() <= 5.0, "{:.1} %", share(total));
    for (what, counted) in counts {
        assert!(
            (share(counted) - 68.0).abs() <= 10.0,
            "{what}: {:.1} %",
            share(counted)
        );
    }
}

/// One more reading of something, as it would honestly be read.
fn honest(run: &mut Run, plan: &Plan) -> Event {
    let string = 1 + (run.rng.between(0.0, 3.999) as u8);
    match run.rng.between(0.0, 4.0) as u8 {
        0 => run
            .simulated
            .read_relief(Side::Bass, plan.targets.relief_span),
        1 => run.simulated.read_nut(string, 0),
        2 => run.simulated.read_action(string, plan.action.fret),
        _ => run.simulated.read_cents(string).unwrap(),
    }
}

/// The same reading with a slip of units or sign.
fn slipped(event: &Event) -> Event {
    let mut slip = event.clone();
    let scaled = |gap: &Measurement, factor: f64| {
        let value = gap.middle() * factor;
        Measurement::mm((value.mm() * 1000.0).round() / 1000.0)
    };
    let Event::Read { place, value, .. } = &mut slip else {
        return slip;
    };
    match (place, value) {
        // 32nds for 64ths.
        (Place::Action { .. }, Reading::Length { length }) => *length = scaled(length, 2.0),
        // Thousandths for hundredths of a millimetre.
        (Place::Nut { .. } | Place::Relief { .. }, Reading::Length { length }) => {
            *length = scaled(length, 2.54);
        }
        (_, Reading::Note { cents, .. }) => *cents += 12.0,
        _ => {}
    }
    slip
}

#[test]
fn slips_are_asked_about_and_honest_readings_are_not() {
    let (mut asked, mut honest_count, mut caught, mut slips) = (0_u32, 0_u32, 0_u32, 0_u32);
    for seed in 0..RUNS {
        let mut run = run(seed);
        let plan = plan_of(&run.job);
        for _ in 0..4 {
            let reading = honest(&mut run, &plan);
            honest_count += 1;
            asked += u32::from(ask(&run.job, &reading).is_some());
            // Only what was read before can be known well enough.
            let Event::Read { place, value, .. } = &reading else {
                continue;
            };
            let known = match *place {
                Place::Action { string, .. } => {
                    plan.action.strings[usize::from(string - 1)]
                        .quantity
                        .fresh()
                        > 0
                }
                Place::Nut { string, .. } => {
                    plan.nut.strings[usize::from(string - 1)].quantity.fresh() > 0
                }
                Place::Relief { .. } => {
                    let seen = value.length().map_or(Length::ZERO, Measurement::middle);
                    plan.relief.sides[1].fresh() > 0 && seen > Length::from_mm(0.1)
                }
                Place::Intonation { string, .. } => {
                    plan.intonation.saddle_of(string).is_some_and(|saddle| {
                        let mut strings = saddle.estimate.strings.iter();
                        strings.any(|on| on.string == string && on.count > 0)
                    })
                }
                _ => false,
            };
            if known {
                slips += 1;
                caught += u32::from(ask(&run.job, &slipped(&reading)).is_some());
            }
        }
    }
    let rate = |part: u32, all: u32| 100.0 * f64::from(part) / f64::from(all);
    println!(
        "honest readings asked about: {:.2} % of {honest_count}",
        rate(asked, honest_count)
    );
    println!("slips asked about: {:.1} % of {slips}", rate(caught, slips));
    assert!(rate(asked, honest_count) < 1.0);
    assert!(rate(caught, slips) > 90.0);
}
