//! Every finding in words, one of each kind and each way it can be said. A sentence that changes is to be looked at before it is
//! taken over.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use std::collections::BTreeSet;
use std::fmt::Write;

use gradimen_bench::finding::{Finding, Remedy, ScaleCheck, Screws};
use gradimen_bench::model::defaults::usual_instrument;
use gradimen_bench::model::hardware::{Bridge, BridgeFamily};
use gradimen_bench::model::instrument::{Kind, PutRight};
use gradimen_bench::model::{Adjuster, End, Side, StringConstruction, StringEntry};
use gradimen_bench::text;
use gradimen_core::frets::{Blame, FretFit};
use gradimen_core::quantity::{Cents, Estimate, Force, Length, Rate};
use gradimen_core::thread::Rotation;
use strum::{EnumCount, VariantArray};

const fn mm(value: f64) -> Length {
    Length::from_mm(value)
}

fn frets(blame: Blame) -> Finding {
    Finding::Frets {
        string: 3,
        fit: FretFit {
            nut: Estimate::new(mm(-0.8), mm(0.2)),
            setback: Estimate::new(mm(1.2), mm(0.2)),
            force: Estimate::new(Force::from_newtons(4.0), Force::from_newtons(0.5)),
            right_setback: mm(2.0),
            remaining: vec![(5, Cents::new(4.0)), (12, Cents::new(0.2))],
            blame,
        },
    }
}

fn intonation() -> Vec<Finding> {
    let scale = |agrees| {
        Finding::Scale(ScaleCheck {
            string: 1,
            named: mm(647.7),
            measured: mm(if agrees { 648.0 } else { 652.0 }),
            agrees,
            shift: mm(2.0),
        })
    };
    let remedies = vec![
        Remedy::ReverseSaddle {
            gain: mm(3.0),
            enough: true,
        },
        Remedy::ReverseSaddle {
            gain: mm(1.0),
            enough: false,
        },
        Remedy::OtherString {
            string: StringEntry::thou(17.0, StringConstruction::Plain),
            setback: mm(1.0),
        },
        Remedy::MoveBridge { by: mm(2.0) },
        Remedy::MoveBridge { by: mm(-2.0) },
    ];
    let out = |short_by, remedies| Finding::OutOfTravel {
        string: 6,
        short_by: mm(short_by),
        sigma: mm(0.2),
        remedies,
    };
    let place = |strings, by| Finding::BridgePlace {
        strings,
        by: mm(by),
    };
    vec![
        scale(true),
        scale(false),
        out(1.8, remedies),
        out(-1.8, Vec::new()),
        Finding::Tight { string: 2 },
        Finding::NearBreaking {
            string: 1,
            share: 0.86,
        },
        Finding::OldStrings,
        frets(Blame::Saddle),
        frets(Blame::Nut),
        frets(Blame::Finger),
        frets(Blame::Fret(5)),
        Finding::Questioned {
            string: 4,
            seq: 12,
            cents: Cents::new(21.0),
        },
        Finding::Stuck { string: 5 },
        place(vec![1, 2, 3], 3.0),
        place(vec![6], -3.0),
    ]
}

fn neck_and_nut() -> Vec<Finding> {
    let twist = |backward| Finding::Twist {
        backward,
        relief: [mm(0.3), mm(0.05)],
    };
    let rod = |how, needed| Finding::RodSpent { how, needed };
    let mut all = vec![
        twist(None),
        twist(Some(Side::Treble)),
        twist(Some(Side::Bass)),
        Finding::TrebleMore { by: mm(0.08) },
        Finding::BackBow { slack: false },
        Finding::BackBow { slack: true },
        Finding::NoSideBelow(Side::Treble),
        Finding::RodBackwards(Rotation::Clockwise),
        Finding::RodBackwards(Rotation::Counterclockwise),
        Finding::OffLoad,
        Finding::NutTooLow(vec![(3, mm(0.2))]),
        Finding::NutTooLow(vec![(1, mm(0.1)), (2, mm(0.15))]),
        Finding::NutFloor(vec![2]),
        Finding::NutFloor(vec![1, 2, 3]),
        Finding::NutCeiling(vec![(1, Cents::new(9.0))]),
        Finding::NutCeiling(vec![(1, Cents::new(9.0)), (6, Cents::new(12.0))]),
    ];
    for how in End::OF_ROD {
        all.extend([rod(how, true), rod(how, false)]);
    }
    all
}

fn heights_and_pickups() -> Vec<Finding> {
    let spent = |adjuster, end, wedge: Option<f64>, shim: Option<f64>| Finding::HeightSpent {
        adjuster,
        string: 1,
        end,
        short_by: mm(0.4),
        wedge: wedge.map(mm),
        shim: shim.map(mm),
    };
    let way = |screws, clockwise| Finding::OtherWayRound {
        family: BridgeFamily::TwoPost,
        screws,
        clockwise,
    };
    let pickup = |end, squeezed| Finding::PickupSpent {
        pickup: "neck".into(),
        side: Side::Bass,
        end,
        squeezed,
        short_by: mm(0.6),
    };
    vec![
        spent(
            Adjuster::SaddleHeight { string: 1 },
            End::Bottom,
            Some(0.5),
            None,
        ),
        spent(
            Adjuster::Post { side: Side::Treble },
            End::Top,
            None,
            Some(0.6),
        ),
        spent(Adjuster::SaddleHeight { string: 1 }, End::Stuck, None, None),
        way(Screws::InSaddles, true),
        way(Screws::Posts, false),
        Finding::RecordPutRight(PutRight::Posts),
        Finding::RecordPutRight(PutRight::Pickups),
        Finding::TooNear(vec![("neck".into(), Side::Treble)]),
        Finding::TooNear(vec![
            ("neck".into(), Side::Treble),
            ("bridge".into(), Side::Bass),
        ]),
        pickup(End::Top, false),
        pickup(End::Bottom, true),
    ]
}

fn vibrato() -> Vec<Finding> {
    let claw = |by, claw, rate: Option<f64>| Finding::ClawSpent {
        by: mm(by),
        claw,
        rate: rate.map(Rate::from_newtons_per_metre),
    };
    vec![
        Finding::Springs {
            on: 3,
            wanted: Some(4),
        },
        Finding::Springs {
            on: 5,
            wanted: None,
        },
        Finding::PulledUp(mm(1.0)),
        claw(3.0, true, None),
        claw(-3.0, true, None),
        claw(3.0, false, Some(1900.0)),
        Finding::RunsAway,
        Finding::SpringsAtEnd { loose: true },
        Finding::SpringsAtEnd { loose: false },
    ]
}

#[test]
fn every_finding_in_words() {
    let all = [
        intonation(),
        neck_and_nut(),
        heights_and_pickups(),
        vibrato(),
    ]
    .concat();
    let kinds: BTreeSet<&str> = all.iter().map(Finding::kind).collect();
    assert_eq!(
        kinds.len(),
        Finding::COUNT,
        "a kind of finding is not said here"
    );
    let mut out = String::new();
    for finding in &all {
        let severity = finding.severity().key();
        writeln!(
            out,
            "{} {severity}: {}",
            finding.kind(),
            text::findings::sentence(finding)
        )
        .unwrap();
        for option in text::findings::options(finding) {
            writeln!(out, "    {option}").unwrap();
        }
    }
    assert!(!out.contains("NaN") && !out.contains("-0"), "{out}");
    insta::assert_snapshot!(out);
}

#[test]
fn every_caution_in_words() {
    let mut out = String::new();
    for &family in BridgeFamily::VARIANTS {
        let mut instrument = usual_instrument(Kind::Guitar, 6);
        instrument.bridge = Bridge::profile(family, 6);
        writeln!(
            out,
            "{}\n  strings: {}\n  action: {}",
            family.name(),
            text::cautions::strings(&instrument),
            text::cautions::action(&instrument)
        )
        .unwrap();
    }
    for caution in [
        text::cautions::ROD,
        text::cautions::NUT,
        text::cautions::PICKUPS,
        text::cautions::CLAW,
    ] {
        writeln!(out, "{caution}").unwrap();
    }
    insta::assert_snapshot!(out);
}
