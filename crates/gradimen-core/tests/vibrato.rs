//! Vibrato balance against the SciPy table `reference/vibrato.csv` (made by `vibrato.py`).
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use gradimen_core::quantity::{Angle, Force, Length, Rate};
use gradimen_core::spring::{Spring, Works};
use gradimen_core::vibrato::{Adjusts, Held, Hooked, Plate, VibratoError};

const PLATE: Plate = Plate {
    crown_back: Length::from_mm(6.0),
    crown_up: Length::from_mm(11.0),
    hook_back: Length::from_mm(2.0),
    hook_down: Length::from_mm(40.0),
    claw_front: Length::from_mm(80.0),
    claw_down: Length::from_mm(41.0),
    tail_back: Length::from_mm(30.0),
    adjusts: Adjusts::Neckward,
};

/// A tail on a pivot, its strings 9 mm above, one pressed spring 16 mm before it.
const TAIL: Plate = Plate {
    crown_back: Length::from_mm(4.0),
    crown_up: Length::from_mm(9.0),
    hook_back: Length::from_mm(-16.0),
    hook_down: Length::ZERO,
    claw_front: Length::from_mm(16.0),
    claw_down: Length::from_mm(26.0),
    tail_back: Length::from_mm(-30.0),
    adjusts: Adjusts::Upward,
};

fn springs(count: usize, rate: f64, aside: f64, claw_in: f64) -> Vec<Hooked> {
    vec![
        Hooked {
            spring: Spring {
                works: Works::Pulled,
                rate: Rate::from_newtons_per_metre(rate),
                free: Length::from_mm(52.0),
                preload: Force::from_newtons(8.0),
            },
            aside: Length::from_metres(aside),
            claw_in: Length::from_metres(claw_in),
        };
        count
    ]
}

const FIRST: Held = Held {
    tension: Force::from_newtons(72.0),
    stretch: Force::from_newtons(10_134.0),
    free: Length::from_mm(790.0),
    speaking: Length::from_mm(650.0),
};

#[test]
fn plates_rest_where_scipys_vectors_say() {
    let mut balanced = 0;
    for line in include_str!("reference/vibrato.csv").lines().skip(2) {
        let cells: Vec<&str> = line.split(',').collect();
        let number = |at: usize| cells[at].parse::<f64>().unwrap();
        let hooked = springs(cells[1].parse().unwrap(), number(2), number(3), number(4));
        let rest = PLATE.rest(Force::from_newtons(number(0)), &hooked);
        if cells[5].is_empty() {
            assert_eq!(rest, Err(VibratoError::Unbalanced), "{line}");
            continue;
        }
        balanced += 1;
        let rest = rest.unwrap();
        assert!(
            (rest.radians() - number(5)).abs() < 1e-6,
            "{line}: {rest:?}"
        );
        assert!(
            (PLATE.gap(rest).metres() - number(6)).abs() < 1e-7,
            "{line}"
        );
        let cents = FIRST.cents(PLATE.back(rest, Angle::ZERO));
        assert!(
            (cents.value() - number(7)).abs() < 0.01,
            "{line}: {cents:?}"
        );
        // The claw that is asked for is the claw there is.
        let further = PLATE
            .claw_for(Force::from_newtons(number(0)), &hooked, rest)
            .unwrap();
        assert!(
            further.abs() < Length::from_mm(0.001),
            "{line}: {further:?}"
        );
    }
    assert!(balanced >= 8, "{balanced}");
}

#[test]
fn more_pull_lifts_the_plate_and_the_claw_brings_it_back() {
    // Common practice: nines to tens pull the plate up and need the claw in.
    let hooked = springs(5, 1000.0, 0.0, 0.0);
    let (nines, tens) = (Force::from_newtons(372.0), Force::from_newtons(440.0));
    let claw = PLATE.claw_for(nines, &hooked, Angle::ZERO).unwrap();
    let set: Vec<Hooked> = hooked
        .iter()
        .map(|on| Hooked {
            claw_in: on.claw_in + claw,
            ..*on
        })
        .collect();
    assert!(PLATE.rest(nines, &set).unwrap().radians().abs() < 1e-6);
    assert!(PLATE.gap(PLATE.rest(tens, &set).unwrap()) > Length::from_mm(1.0));
    assert!(PLATE.claw_for(tens, &set, Angle::ZERO).unwrap() > Length::from_mm(1.0));
}

#[test]
fn a_converging_spring_pulls_slightly_harder() {
    // The stretch outweighs the cosine: about 2 % at 10 mm aside (derivation by exact vectors).
    let straight = PLATE
        .spring_torque(&springs(1, 1000.0, 0.0, 0.0)[0], Angle::ZERO)
        .1;
    let aside = PLATE
        .spring_torque(&springs(1, 1000.0, 0.010, 0.0)[0], Angle::ZERO)
        .1;
    assert!(
        aside > straight && aside < straight * 1.03,
        "{}",
        aside / straight
    );
}

#[test]
fn a_bend_flattens_the_other_strings_of_a_float() {
    let hooked = springs(3, 1000.0, 0.0, 0.0);
    let pull = Force::from_newtons(432.0);
    let rest = PLATE.rest(pull, &hooked).unwrap();
    let others = [FIRST; 5];
    let same = PLATE
        .answers(rest, &hooked, &others, FIRST.tension)
        .unwrap();
    assert!((same.radians() - rest.radians()).abs() < 1e-5);
    // A whole step takes a quarter more pull.
    let bent = PLATE
        .answers(rest, &hooked, &others, FIRST.tension * 1.26)
        .unwrap();
    assert!(bent > rest);
    assert!(FIRST.cents(PLATE.back(rest, bent)).value() < -1.0);
    // A broken string lets the springs have their way: the others go sharp.
    let broken = PLATE.answers(rest, &hooked, &others, Force::ZERO).unwrap();
    assert!(FIRST.cents(PLATE.back(rest, broken)).value() > 5.0);
}

#[test]
fn held_down_is_what_the_springs_have_to_spare() {
    let hooked = springs(5, 1000.0, 0.0, 0.0);
    let pull = Force::from_newtons(432.0);
    let spare = PLATE.held_down(pull, &hooked);
    assert!(spare > Force::ZERO);
    assert!(PLATE.rest(pull + spare, &hooked).unwrap().radians().abs() < 1e-6);
    assert_eq!(PLATE.rest(pull, &[]), Err(VibratoError::NoSprings));
}

#[test]
fn tails_rest_where_scipys_vectors_say() {
    let mut balanced = 0;
    for line in include_str!("reference/tail.csv").lines().skip(2) {
        let cells: Vec<&str> = line.split(',').collect();
        let number = |at: usize| cells[at].parse::<f64>().unwrap();
        let pull = Force::from_newtons(number(0));
        let hooked = [Hooked {
            spring: Spring {
                works: Works::Pressed,
                rate: Rate::from_newtons_per_metre(number(1)),
                free: Length::from_mm(40.0),
                preload: Force::ZERO,
            },
            aside: Length::ZERO,
            claw_in: Length::from_metres(number(2)),
        }];
        let rest = TAIL.rest(pull, &hooked);
        if cells[3].is_empty() {
            assert_eq!(rest, Err(VibratoError::Unbalanced), "{line}");
            continue;
        }
        balanced += 1;
        let rest = rest.unwrap();
        assert!(
            (rest.radians() - number(3)).abs() < 1e-6,
            "{line}: {rest:?}"
        );
        assert!((TAIL.gap(rest).metres() - number(4)).abs() < 1e-7, "{line}");
        let (length, _) = TAIL.spring_torque(&hooked[0], rest);
        assert!((length.metres() - number(5)).abs() < 1e-7, "{line}");
        // The seat and the rate that are asked for are those there are.
        let further = TAIL.claw_for(pull, &hooked, rest).unwrap();
        assert!(
            further.abs() < Length::from_mm(0.001),
            "{line}: {further:?}"
        );
        let rate = TAIL.rate_found(pull, &hooked, rest).unwrap();
        assert!(
            (rate.newtons_per_metre() / number(1) - 1.0).abs() < 1e-4,
            "{line}: {rate:?}"
        );
    }
    assert!(balanced >= 8, "{balanced}");
}

#[test]
fn a_seat_further_up_lifts_a_tail_against_its_strings() {
    let spring = |up: f64| Hooked {
        spring: Spring {
            works: Works::Pressed,
            rate: Rate::from_newtons_per_metre(18_000.0),
            free: Length::from_mm(40.0),
            preload: Force::ZERO,
        },
        aside: Length::ZERO,
        claw_in: Length::from_mm(up),
    };
    let pull = Force::from_newtons(430.0);
    let gap = |up: f64| TAIL.gap(TAIL.rest(pull, &[spring(up)]).unwrap());
    assert!(gap(1.0) > gap(0.0));
    // Heavier strings press it down.
    let heavier = TAIL.rest(pull * 1.1, &[spring(0.0)]).unwrap();
    assert!(TAIL.gap(heavier) < gap(0.0));
}

#[test]
fn a_crown_far_behind_the_edge_makes_a_float_run_away() {
    let hooked = springs(3, 1000.0, 0.0, 0.0);
    let pull = Force::from_newtons(432.0);
    let steady = |back: f64| {
        let plate = Plate {
            crown_back: Length::from_mm(back),
            ..PLATE
        };
        plate.steadiness(pull, &hooked, Angle::ZERO)
    };
    assert!(steady(6.0) > 0.0 && steady(20.0) < 0.0);
    // Statics: a crown one millimetre further back rises by that much more a radian.
    let change = steady(7.0) - steady(6.0);
    assert!((change + 432.0 * 0.001).abs() < 1e-6, "{change}");
}

#[test]
fn strings_tuned_off_one_by_one_land_as_scipys_own_trial_does() {
    // SciPy winds each string until it reads what is tried for it and tries until all land: see `vibrato.py`.
    let strings = [
        (110.0, 40_000.0),
        (85.0, 26_000.0),
        (80.0, 18_000.0),
        (74.0, 24_000.0),
        (70.0, 16_000.0),
        (72.0, 10_134.0),
    ]
    .map(|(tension, stretch)| Held {
        tension: Force::from_newtons(tension),
        stretch: Force::from_newtons(stretch),
        ..FIRST
    });
    let mut count = 0;
    for line in include_str!("reference/landing.csv").lines().skip(2) {
        let cells: Vec<f64> = line.split(',').map(|cell| cell.parse().unwrap()).collect();
        let angles = (Angle::from_radians(cells[3]), Angle::from_radians(cells[4]));
        let found = PLATE
            .landing(angles, &springs(4, cells[0], 0.0, cells[2]), &strings)
            .unwrap();
        for (found, wanted) in found.iter().zip(&cells[5..]) {
            assert!((found.value() - wanted).abs() < 0.05, "{line}: {found:?}");
        }
        count += 1;
    }
    assert_eq!(count, 4);
}
