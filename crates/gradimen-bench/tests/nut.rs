//! Nuts: what is filed, what is shimmed, and that no slot is ever filed below its floor.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{fold, opened, opened_with, straight};
use gradimen_core::quantity::Length;
use proptest::prelude::*;

fn dial(place: Place, mm: f64) -> Event {
    let length = Measurement::mm(mm).with_tool(Tool::Dial);
    Event::read(place, Reading::Length { length })
}

const fn nut(string: u8) -> Place {
    Place::Nut { string, held: 0 }
}

const fn action(string: u8) -> Place {
    Place::Action {
        string,
        fret: 12,
        held: 0,
    }
}

/// A guitar that is right but for its nut: every string so high over fret 1.
fn with_nut(opening: Event, over_first: f64) -> Vec<Event> {
    let mut events = vec![opening];
    let targets = plan_of(&fold(events.clone())).targets;
    for _ in 0..2 {
        events.extend(straight());
        for string in 1..=6 {
            let share = f64::from(string - 1) / 5.0;
            events.push(dial(
                action(string),
                targets.action(string, share).value.mm(),
            ));
            events.push(dial(nut(string), over_first));
        }
    }
    events
}

fn locking() -> Event {
    opened_with(|instrument| instrument.locking_nut = true)
}

#[test]
fn a_locking_nut_is_shimmed_as_one_and_never_filed() {
    // Common practice: locking nuts are shimmed or planed as a whole, slots are not filed; E10, six orders to file.
    for (over, raises) in [(0.80, false), (0.30, true)] {
        let job = fold(with_nut(locking(), over));
        let (known, plan) = (known(&job), plan_of(&job));
        let tasks = plan.nut.tasks(&known);
        let moves: Vec<&Move> = tasks
            .iter()
            .filter_map(|task| task.next.next_move())
            .collect();
        let [step] = moves[..] else {
            panic!("{over}: {} moves", moves.len());
        };
        assert!(
            matches!(step.adjuster, Adjuster::NutSlots { strings } if strings.iter().count() == 6)
        );
        assert_eq!(
            step.distance > Length::ZERO,
            raises,
            "{over}: {:?}",
            step.distance
        );
        // By what is off, most of which shows at fret 1, in steps of a shim.
        assert!(
            (step.distance.mm().abs() - (over - 0.508_f64).abs()).abs() < 0.08,
            "{:?}",
            step.distance
        );
        let says = text::next::nut::headline(&known, &plan, 1);
        let all = [says.big, says.expect].concat().join(" ");
        assert!(
            all.contains(if raises {
                "Raise the nut"
            } else {
                "Lower the nut"
            }),
            "{all}"
        );
        assert!(all.contains("not filed") && !all.contains("File "), "{all}");
        let report = report_of(&job);
        let told = report
            .moves
            .iter()
            .find(|one| one.station == "nut")
            .unwrap();
        assert!(told.depth_mm.is_none() && told.turns.is_none());
        assert_eq!(told.shim_mm.unwrap() > 0.0, raises);
        assert!(
            told.direction.contains("shim") && !told.direction.contains("file"),
            "{}",
            told.direction
        );
        // Done as told it is right, and nothing more is ordered there.
        let event = Event::Adjusted {
            adjuster: step.adjuster,
            amount: step.amount.clone(),
        };
        let mut after = vec![event];
        // What a shim did is read before there is another.
        let seen = plan_of(&fold([with_nut(locking(), over), after.clone()].concat()));
        assert!(
            seen.nut
                .strings
                .iter()
                .all(|slot| slot.action.next_move().is_none())
        );
        let seen = fold([with_nut(locking(), over), after.clone()].concat());
        for string in 1..=6 {
            let now = seen.state().predict(nut(string)).unwrap().value;
            after.push(dial(nut(string), now.mm()));
        }
        let done = plan_of(&fold([with_nut(locking(), over), after].concat()));
        let left = done
            .nut
            .strings
            .iter()
            .filter_map(|slot| slot.action.next_move());
        assert_eq!(left.count(), 0);
    }
}

#[test]
fn raising_the_saddles_files_no_slot() {
    // E3: a nut that is right under strings that lie low is filed for nothing, and cannot be put back.
    let mut events = vec![opened(Kind::Guitar, 6, BridgeFamily::FixedPlate)];
    for _ in 0..3 {
        events.extend(straight());
        for string in 1..=6 {
            events.extend([dial(action(string), 1.0), dial(nut(string), 0.49)]);
        }
    }
    let plan = plan_of(&fold(events));
    assert!(
        plan.action
            .adjusters
            .iter()
            .all(|on| on.action.next_move().is_some())
    );
    for slot in &plan.nut.strings {
        assert!(slot.action.next_move().is_none(), "{:?}", slot.action);
        assert!(!matches!(slot.action, Action::Stop(_)), "{:?}", slot.action);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    /// Whatever was read and turned before, followed to its end the filing of a slot leaves it over its floor: what is
    /// filed is really filed, and read as it really is, with a blade's scatter.
    #[test]
    fn no_slot_is_filed_below_its_floor(
        heights in proptest::collection::vec(0.8_f64..3.0, 6),
        over in proptest::collection::vec(0.15_f64..1.2, 6),
        scatter in proptest::collection::vec(-0.02_f64..0.02, 64),
        rod in -0.25_f64..0.25,
        file in 0.7_f64..1.3,
    ) {
        let mut events = vec![opened(Kind::Guitar, 6, BridgeFamily::FixedPlate)];
        events.extend(straight());
        let targets = plan_of(&fold(events.clone())).targets;
        for string in 1..=6_u8 {
            let at = usize::from(string - 1);
            events.extend([dial(action(string), heights[at]), dial(nut(string), over[at])]);
        }
        events.push(Event::Adjusted { adjuster: Adjuster::TrussRod, amount: Amount::Turns { turns: rod } });
        // What is over fret 1 in truth follows slot and neck as the estimate has them: only the file and the eye are others'.
        let mut filed = [0.0_f64; 6];
        let mut truth: Vec<f64> = over.clone();
        let mut noise = scatter.iter().cycle();
        for _ in 0..40 {
            let job = fold(events.clone());
            let known = known(&job);
            let plan = Plan::of(&known);
            let mut did = false;
            for slot in &plan.nut.strings {
                let at = usize::from(slot.string - 1);
                match &slot.action {
                    Action::Adjust(step) => {
                        let Amount::Distance { distance } = &step.amount else { panic!("{step:?}") };
                        prop_assert!(step.distance < Length::ZERO && step.distance.mm() >= -0.1001, "{:?}", step.distance);
                        let lever = slot.lever(&known);
                        let took = -distance.middle().mm() * file;
                        filed[at] += took;
                        truth[at] -= took * lever;
                        events.push(Event::Adjusted { adjuster: step.adjuster, amount: step.amount.clone() });
                        did = true;
                    }
                    Action::Measure(places) => {
                        for place in places {
                            let seen = match place {
                                Place::Nut { .. } => truth[at] + noise.next().unwrap(),
                                Place::Action { .. } => heights[at],
                                _ => continue,
                            };
                            events.push(dial(*place, seen.max(0.01)));
                            did = true;
                        }
                    }
                    Action::Stop(_) | Action::Leave => {}
                }
                if did { break; }
            }
            if !did { break; }
        }
        for string in 1..=6_u8 {
            let at = usize::from(string - 1);
            let target = targets.nut(string, 0.0).value.mm();
            // The floor: no further below the target than is a choice (common practice: .014 where .020 is usual).
            prop_assert!(
                filed[at] == 0.0 || truth[at] > target * 0.7 - 0.02,
                "string {string}: {} left of {}, {} filed", truth[at], over[at], filed[at]
            );
        }
    }
}

#[test]
fn a_slot_is_not_filed_to_where_the_open_string_touches() {
    // The floor is the open string, clean at this attack (common practice), whatever the target says. Here a bass under a hard
    // touch is to have three thousandths over fret 1.
    use gradimen_bench::stations::clearance::map_now;
    let mut opening = common::opened_as(Kind::Bass, 4, BridgeFamily::BentPlateBass, |_| ());
    let Event::Opened(opened) = &mut opening else {
        panic!("an opening");
    };
    opened.player.touch = Touch::Hard;
    let mut targets = defaults::targets(&opened.instrument, Touch::Hard);
    targets.nut_treble = Measurement::mm(0.08);
    targets.nut_bass = Measurement::mm(0.08);
    targets.action_treble = Measurement::mm(1.2);
    targets.action_bass = Measurement::mm(1.2);
    let mut events = vec![
        opening,
        Event::Targeted {
            wanted: Wanted::Setup {
                targets: targets.clone(),
            },
        },
    ];
    let open = |string: u8, mm: f64| {
        let over = Place::Action {
            string,
            fret: 17,
            held: 0,
        };
        [dial(over, 1.2), dial(Place::Nut { string, held: 0 }, mm)]
    };
    for _ in 0..2 {
        events.extend(straight());
        for string in 1..=4 {
            events.extend(open(string, 0.60));
        }
    }
    let mut job = fold(events);
    // What is left over the frets beside the nut, the string open.
    let left = |job: &Job, string: u8| {
        let map = map_now(&known(job));
        let on = map.iter().find(|on| on.string == string).unwrap();
        let open = on.places.iter().find(|place| place.held == 0).unwrap();
        open.margin.mm()
    };
    // Every pass as it is ordered, read again after each, until none is.
    let mut filed = Vec::new();
    for _ in 0..40 {
        let plan = plan_of(&job);
        let mut slots = plan.nut.strings.iter();
        let step = slots.find_map(|slot| Some((slot.string, slot.action.next_move()?.clone())));
        let Some((string, step)) = step else {
            break;
        };
        assert!(left(&job, string) > 0.0, "string {string} touches already");
        filed.push(string);
        let told = Event::Adjusted {
            adjuster: step.adjuster,
            amount: step.amount.clone(),
        };
        job = job.plus(told).unwrap();
        assert!(
            left(&job, string) > -0.02,
            "string {string}: {}",
            left(&job, string)
        );
        for string in 1..=4 {
            let place = Place::Nut { string, held: 0 };
            let now = job.state().predict(place).unwrap().value.mm();
            job = job.plus(dial(place, now)).unwrap();
        }
    }
    let plan = plan_of(&job);
    let found = plan
        .findings
        .iter()
        .find(|found| found.kind() == "nut_floor");
    assert!(found.is_some(), "{filed:?} {:?}", plan.findings);
    let gap = job
        .state()
        .predict(Place::Nut { string: 4, held: 0 })
        .unwrap()
        .value;
    assert!(gap.mm() > 0.12, "{gap:?}");
}

#[test]
fn a_slot_higher_than_the_first_frets_bear_is_said_to_be_and_a_usual_one_is_not() {
    // Common practice: the ceiling of a slot is fret 1 a few cents sharp; a gap of .020 plays well, one of .040 does not.
    let wanted = |thou: f64| {
        let opening = opened(Kind::Guitar, 6, BridgeFamily::FixedPlate);
        let mut targets = plan_of(&fold(vec![opening.clone()])).targets;
        targets.nut_treble = Measurement::mm(thou * 0.0254);
        targets.nut_bass = Measurement::mm(thou * 0.0254);
        let mut events = with_nut(opening, thou * 0.0254);
        let wanted = Wanted::Setup { targets };
        events.insert(1, Event::Targeted { wanted });
        let plan = plan_of(&fold(events));
        assert!(plan.nut.strings.iter().all(|slot| slot.action.is_leave()));
        plan.findings.into_iter().find_map(|finding| match finding {
            Finding::NutCeiling(strings) => Some(strings),
            _ => None,
        })
    };
    assert_eq!(wanted(20.0), None);
    let sharp = wanted(40.0).unwrap();
    // The plain third is the thickest solid string, and sharpest of all.
    let most = sharp
        .iter()
        .max_by(|a, b| a.1.value().total_cmp(&b.1.value()));
    assert_eq!(most.unwrap().0, 3, "{sharp:?}");
    assert!(
        sharp
            .iter()
            .all(|(_, by)| (7.0..30.0).contains(&by.value())),
        "{sharp:?}"
    );
}
