//! Which way every screw turns: what the words say and what the estimate does with it, family by family, against what
//! happens at a bench with the screw in hand (common practice, said beside each).
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{fold, opened, read};
use gradimen_bench::model::hardware::{HeightScrews, SaddleDrive};
use gradimen_bench::model::instrument::PutRight;
use gradimen_core::quantity::Length;

const CW: &str = "clockwise";
const CCW: &str = "counter-clockwise";

/// What raises the strings, what sends a saddle away from the neck, and why.
const FAMILIES: [(BridgeFamily, &str, Option<&str>, &str); 10] = [
    (
        BridgeFamily::FixedPlate,
        CW,
        Some(CW),
        "grub screws stand on the plate; the head of the long screw lies against the tail and draws the saddle to it",
    ),
    (
        BridgeFamily::KnifeEdgeVibrato,
        CW,
        Some(CW),
        "as on a fixed plate",
    ),
    (
        BridgeFamily::ThreeBarrel,
        CW,
        Some(CW),
        "each barrel on two grub screws",
    ),
    (BridgeFamily::BentPlateBass, CW, Some(CW), "grub screws"),
    (BridgeFamily::SingleStringBass, CW, Some(CW), "grub screws"),
    (
        BridgeFamily::TwoPost,
        CCW,
        Some(CCW),
        "posts or wheels go down clockwise; the screw's head faces the pickups and draws the saddle to them",
    ),
    (
        BridgeFamily::ArmTail,
        CCW,
        Some(CCW),
        "the bridge before the tailpiece stands on wheels",
    ),
    (
        BridgeFamily::RockingTail,
        CW,
        Some(CW),
        "the foot's grub screw stands in its cup and drives the bridge up",
    ),
    (
        BridgeFamily::DoubleLocking,
        CCW,
        None,
        "posts are screwed into the body; saddles are clamped, and the screw at the tail is no drive",
    ),
    (
        BridgeFamily::FloatingWooden,
        CCW,
        None,
        "wheels on posts; the bar is moved by hand",
    ),
];

fn way(step: &Move) -> &'static str {
    match step.rotation.unwrap() {
        gradimen_core::thread::Rotation::Clockwise => CW,
        gradimen_core::thread::Rotation::Counterclockwise => CCW,
    }
}

/// Strings that lie far too low, read twice.
fn low(family: BridgeFamily) -> Job {
    let strings = match family {
        BridgeFamily::BentPlateBass | BridgeFamily::SingleStringBass => 4,
        _ => 6,
    };
    let kind = if strings == 4 {
        Kind::Bass
    } else {
        Kind::Guitar
    };
    let mut events = vec![opened(kind, strings, family)];
    let fret = plan_of(&fold(events.clone())).targets.action_fret;
    for string in (1..=strings).chain(1..=strings) {
        let length = Measurement::mm(0.9).with_tool(Tool::Dial);
        let place = Place::Action {
            string,
            fret,
            held: 0,
        };
        events.push(Event::read(place, Reading::Length { length }));
    }
    fold(events)
}

#[test]
fn what_lies_low_is_raised_the_way_its_screws_raise() {
    for (family, raises, _, why) in FAMILIES {
        let job = low(family);
        let plan = plan_of(&job);
        let moves: Vec<&Move> = plan
            .action
            .adjusters
            .iter()
            .filter_map(|on| on.action.next_move())
            .collect();
        assert!(!moves.is_empty(), "{family:?}");
        for step in moves {
            assert_eq!(way(step), raises, "{family:?}: {why}");
            assert!(step.turns().value() > 0.0 && step.distance > Length::ZERO);
            // The words name the way, and no other.
            let says = text::moves::direction(&known(&job), step);
            assert!(says.contains(raises), "{family:?}: {says}");
            assert!(raises == CCW || !says.contains(CCW), "{family:?}: {says}");
            // Told as done, the estimate has the strings higher.
            let own = match step.adjuster {
                Adjuster::SaddleHeight { string } => usize::from(string - 1),
                Adjuster::Post { side: Side::Bass } => plan.action.strings.len() - 1,
                _ => 0,
            };
            let place = plan.action.strings[own].quantity.place;
            let before = job.state().predict(place).unwrap().value;
            let told = Event::Adjusted {
                adjuster: step.adjuster,
                amount: step.amount.clone(),
            };
            let after = job
                .plus(told)
                .unwrap()
                .state()
                .predict(place)
                .unwrap()
                .value;
            assert!(after > before, "{family:?}: {before:?} {after:?}");
        }
    }
}

#[test]
fn what_frets_sharp_goes_away_from_the_neck_the_way_its_screw_draws() {
    for (family, _, away, why) in FAMILIES {
        let Some(away) = away else {
            continue;
        };
        let bass = matches!(
            family,
            BridgeFamily::BentPlateBass | BridgeFamily::SingleStringBass
        );
        let (kind, strings) = if bass {
            (Kind::Bass, 4)
        } else {
            (Kind::Guitar, 6)
        };
        let mut events = vec![opened(kind, strings, family)];
        for cents in [7.0, 7.2, 7.1, 7.0] {
            events.extend([read(1, cents), read(2, cents)]);
        }
        let job = fold(events);
        let plan = plan_of(&job);
        let saddle = plan.intonation.saddle_of(1).unwrap();
        let step = saddle.action.next_move();
        let step = step.unwrap_or_else(|| panic!("{family:?}: {:?}", saddle.action));
        assert_eq!(way(step), away, "{family:?}: {why}");
        assert!(step.distance > Length::ZERO && step.turns().value() > 0.0);
        let told = Event::Adjusted {
            adjuster: step.adjuster,
            amount: step.amount.clone(),
        };
        let after = plan_of(&job.plus(told).unwrap());
        let stands = |plan: &Plan| plan.intonation.saddle_of(1).unwrap().estimate.setback.value;
        assert!(stands(&after) > stands(&plan), "{family:?}");
    }
}

#[test]
fn a_pickup_that_is_too_far_comes_nearer_the_way_it_is_held() {
    // Hung from a ring or guard the screw draws it up; screwed to the body it presses it down.
    for (kind, strings, family, raises) in [
        (Kind::Guitar, 6, BridgeFamily::FixedPlate, CW),
        (Kind::Bass, 4, BridgeFamily::BentPlateBass, CCW),
    ] {
        let mut events = vec![opened(kind, strings, family)];
        for side in Side::ALL {
            let length = Measurement::mm(5.0).with_tool(Tool::RuleHalfMm);
            let place = Place::Pickup { pickup: 0, side };
            events.extend([
                Event::read(
                    place,
                    Reading::Length {
                        length: length.clone(),
                    },
                ),
                Event::read(place, Reading::Length { length }),
            ]);
        }
        let job = fold(events);
        let plan = plan_of(&job);
        let step = plan.pickups.pickups[0]
            .side(Side::Bass)
            .action
            .next_move()
            .unwrap();
        assert_eq!(way(step), raises, "{kind:?}");
        assert!(step.turns().value() > 0.0);
        let told = Event::Adjusted {
            adjuster: step.adjuster,
            amount: step.amount.clone(),
        };
        let place = Place::Pickup {
            pickup: 0,
            side: Side::Bass,
        };
        let gap = |job: &Job| job.state().predict(place).unwrap().value;
        assert!(gap(&job.plus(told).unwrap()) < gap(&job));
    }
}

/// A record as an earlier build wrote it: every screw rises clockwise, and nothing says that this was looked at.
fn as_written_before(kind: Kind, strings: u8, family: BridgeFamily) -> Event {
    let mut event = opened(kind, strings, family);
    if let Event::Opened(opened) = &mut event {
        let height = &mut opened.instrument.bridge.height;
        (height.clockwise_raises, height.direction_checked) = (true, false);
        for pickup in &mut opened.instrument.pickups {
            (pickup.clockwise_raises, pickup.direction_checked) = (true, false);
            pickup.mounting = None;
        }
    }
    event
}

#[test]
fn records_with_our_old_default_are_put_right_and_say_so_once() {
    for (family, raises, _, _) in FAMILIES {
        let (kind, strings) = match family {
            BridgeFamily::BentPlateBass | BridgeFamily::SingleStringBass => (Kind::Bass, 4),
            _ => (Kind::Guitar, 6),
        };
        let job = fold(vec![as_written_before(kind, strings, family)]);
        assert_eq!(
            job.instrument().bridge.height.clockwise_raises,
            raises == CW
        );
        let said: Vec<Finding> = plan_of(&job)
            .findings
            .into_iter()
            .filter(|finding| matches!(finding, Finding::RecordPutRight(_)))
            .collect();
        let mut expected = Vec::new();
        if raises == CCW {
            expected.push(Finding::RecordPutRight(PutRight::Posts));
        }
        if kind == Kind::Bass {
            expected.push(Finding::RecordPutRight(PutRight::Pickups));
            assert!(
                job.instrument()
                    .pickups
                    .iter()
                    .all(|one| !one.clockwise_raises)
            );
        }
        assert_eq!(said, expected, "{family:?}");
    }
    // What was looked at is believed, whatever is usual.
    let mut told = opened(Kind::Guitar, 6, BridgeFamily::TwoPost);
    if let Event::Opened(opened) = &mut told {
        opened.instrument.bridge.height.clockwise_raises = true;
    }
    let job = fold(vec![told]);
    assert!(job.instrument().bridge.height.clockwise_raises && job.put_right().is_empty());
    // ... but said before the first turn, for a family chosen without its numbers looks the same.
    assert_eq!(round_another_way(&job).len(), 1);
    for (family, ..) in FAMILIES {
        let usual = fold(vec![opened(Kind::Guitar, 6, family)]);
        assert_eq!(round_another_way(&usual), [""; 0], "{family:?}");
    }
}

/// What is said of height screws that the record has raise the other way round than most.
fn round_another_way(job: &Job) -> Vec<String> {
    let plan = plan_of(job);
    let found = plan.findings.iter().map(text::findings::sentence);
    found
        .filter(|line| line.contains("the other way round than"))
        .collect()
}

#[test]
fn of_a_bridge_with_posts_and_screws_in_its_saddles_each_sort_is_looked_at() {
    // Common practice: grub screws in saddles raise clockwise, posts screwed into the body go down clockwise.
    let both = |family, wrong: Option<HeightScrews>| {
        let mut opening = opened(Kind::Guitar, 6, family);
        if let Event::Opened(opened) = &mut opening {
            let bridge = &mut opened.instrument.bridge;
            bridge.details.posts_and_saddle_screws = true;
            bridge.other_height = wrong;
        }
        round_another_way(&fold(vec![opening]))
    };
    let turned = |screws: HeightScrews| HeightScrews {
        clockwise_raises: !screws.clockwise_raises,
        ..screws
    };
    let in_saddles = both(
        BridgeFamily::DoubleLocking,
        Some(turned(HeightScrews::in_saddles())),
    );
    assert_eq!(in_saddles.len(), 1);
    assert!(in_saddles[0].contains("the height screws in the saddles raise counter-clockwise"));
    let posts = both(
        BridgeFamily::KnifeEdgeVibrato,
        Some(turned(HeightScrews::posts())),
    );
    assert_eq!(posts.len(), 1);
    assert!(posts[0].contains("the posts raise clockwise"));
    for family in [BridgeFamily::DoubleLocking, BridgeFamily::KnifeEdgeVibrato] {
        assert_eq!(both(family, None), [""; 0], "{family:?}");
    }
}

/// Two strings that fret sharp, on a bridge of this family with its saddles driven so.
fn sharp(family: BridgeFamily, drive: SaddleDrive) -> Job {
    let mut opening = opened(Kind::Guitar, 6, family);
    if let Event::Opened(opened) = &mut opening {
        opened.instrument.bridge.details.drive = drive;
    }
    let mut events = vec![opening];
    for cents in [7.0, 7.2, 7.1, 7.0] {
        events.extend([read(1, cents), read(2, cents)]);
    }
    fold(events)
}

#[test]
fn a_clamped_saddle_is_slid_by_millimetres_and_its_clamp_is_never_turned() {
    // Common practice: the screw at the tail of a double-locking bridge clamps the string; the saddle is slid by hand.
    let job = sharp(BridgeFamily::DoubleLocking, SaddleDrive::Clamped);
    let (known, plan) = (known(&job), plan_of(&job));
    let step = plan
        .intonation
        .saddle_of(1)
        .unwrap()
        .action
        .next_move()
        .unwrap()
        .clone();
    assert!(step.rotation.is_none() && step.is_slid());
    // 7 cents at 0.374 mm a cent, to a tenth.
    assert!(
        (step.distance.mm() - 2.7).abs() < 0.4,
        "{:?}",
        step.distance
    );
    assert!((step.distance.mm() * 10.0 - (step.distance.mm() * 10.0).round()).abs() < 1e-9);
    let next = text::next::intonation::headline(&known, &plan, 1);
    let says = [
        next.big.clone(),
        next.expect.clone(),
        next.why.iter().map(|line| format!("{line:?}")).collect(),
    ]
    .concat()
    .join(" ");
    assert!(
        says.contains("slide") && says.contains("Slacken the string fully"),
        "{says}"
    );
    assert!(says.contains("Never touch the screw at the tail"), "{says}");
    assert!(
        !says.contains("clockwise") && !says.contains("turn,"),
        "{says}"
    );
    let report = report_of(&job);
    let told = report.moves.iter().find(|one| one.strings == [1]).unwrap();
    assert!(
        told.turns.is_none() && told.slide_mm.is_some_and(|mm| mm > 0.0),
        "{told:?}"
    );
    // Told as done it stands there, and the next reading is expected to be right.
    let event = Event::Adjusted {
        adjuster: step.adjuster,
        amount: step.amount.clone(),
    };
    let after = plan_of(&job.plus(event).unwrap());
    let moved = after
        .intonation
        .saddle_of(1)
        .unwrap()
        .estimate
        .setback
        .value
        - plan.intonation.saddle_of(1).unwrap().estimate.setback.value;
    assert!(
        (moved - step.distance).abs() < Length::from_mm(0.05),
        "{moved:?}"
    );
}

#[test]
fn a_lock_is_loosened_first_and_what_has_no_drive_is_not_turned() {
    let job = sharp(BridgeFamily::FixedPlate, SaddleDrive::LockedScrew);
    let next = text::next::intonation::headline(&known(&job), &plan_of(&job), 1);
    let says = next.expect.join(" ");
    let (lock, turn) = (
        says.find("loosen the lock screw"),
        says.find("turn, tighten the lock"),
    );
    assert!(lock.is_some() && lock < turn, "{says}");
    let job = sharp(BridgeFamily::FixedPlate, SaddleDrive::Fixed);
    let plan = plan_of(&job);
    for saddle in &plan.intonation.saddles {
        assert!(saddle.action.next_move().is_none());
    }
    let action = &plan.intonation.saddle_of(1).unwrap().action;
    let Action::Stop(Stop::NoDrive { by }) = action else {
        panic!("{action:?}");
    };
    assert!(*by > Length::ZERO);
    let says = text::next::intonation::headline(&known(&job), &plan, 1);
    assert!(says.big[0].contains("No drive"), "{:?}", says.big);
}

#[test]
fn a_pickup_at_the_end_of_its_screw_is_squeezed_or_out_of_thread_as_it_is_held() {
    // E5: hung from a ring, the spring is squeezed on the way up and the screw runs out on the way down; screwed to the body
    // it is the other way round (common practice).
    use gradimen_bench::model::hardware::PickupMounting::{Body, Hung};
    for (held, end, gap, squeezed) in [
        (Hung, End::Top, 5.0, true),
        (Hung, End::Bottom, 0.8, false),
        (Body, End::Top, 5.0, false),
        (Body, End::Bottom, 0.8, true),
    ] {
        let opening = common::opened_as(Kind::Guitar, 6, BridgeFamily::FixedPlate, |of| {
            for pickup in &mut of.pickups {
                pickup.mounting = Some(held);
                pickup.clockwise_raises = held.rises_clockwise();
            }
        });
        let mut events = vec![opening];
        for side in [Side::Treble, Side::Bass, Side::Treble, Side::Bass] {
            let length = Measurement::mm(gap).with_tool(Tool::Dial);
            let place = Place::Pickup { pickup: 0, side };
            events.push(Event::read(place, Reading::Length { length }));
        }
        events.push(Event::Ended {
            adjuster: Adjuster::PickupScrew {
                pickup: 0,
                side: Side::Bass,
            },
            how: end,
        });
        let job = fold(events);
        let plan = plan_of(&job);
        let found = plan
            .findings
            .iter()
            .find(|found| found.kind() == "pickup_spent")
            .unwrap();
        let says = text::findings::sentence(found);
        assert_eq!(
            says.contains("squeezed"),
            squeezed,
            "{held:?} {end:?}: {says}"
        );
        assert_eq!(
            says.contains("out of thread"),
            !squeezed,
            "{held:?} {end:?}: {says}"
        );
        let next = text::next::pickups::headline(&known(&job), &plan, 0, Side::Bass);
        assert_eq!(next.big[0].contains("Squeezed"), squeezed, "{:?}", next.big);
    }
}

#[test]
fn a_pole_piece_comes_nearer_as_it_is_unscrewed() {
    let opening = common::opened_as(Kind::Guitar, 6, BridgeFamily::FixedPlate, |of| {
        of.pickups[0].pole_pitch = Some(Measurement::mm(0.5));
    });
    let mut events = vec![opening];
    let gap = |place, mm| {
        let length = Measurement::mm(mm).with_tool(Tool::Dial);
        Event::read(place, Reading::Length { length })
    };
    for side in Side::ALL {
        events.push(gap(Place::Pickup { pickup: 0, side }, 2.0));
    }
    events.push(gap(
        Place::PolePiece {
            pickup: 0,
            string: 3,
        },
        2.9,
    ));
    let plan = plan_of(&fold(events));
    let step = plan.pickups.pickups[0].poles[0]
        .action
        .next_move()
        .unwrap()
        .clone();
    assert!(step.turns().value() > 0.0);
    assert_eq!(way(&step), CCW);
}
