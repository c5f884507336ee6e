//! Necks, heights and swings against the SciPy table `reference/neck.csv` (made by `neck.py`).
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use gradimen_core::action::{StringLine, arc_radius};
use gradimen_core::clearance::Pluck;
use gradimen_core::fretboard::BoardRadius;
use gradimen_core::neck::{Board, FretTops, Span};
use gradimen_core::quantity::{Curvature, Force, Length};

fn rows(kind: &str) -> Vec<Vec<&'static str>> {
    let found: Vec<Vec<&str>> = include_str!("reference/neck.csv")
        .lines()
        .map(|line| line.split(',').collect::<Vec<_>>())
        .filter(|row| row[0] == kind)
        .map(|row| row[1..].to_vec())
        .collect();
    assert!(!found.is_empty(), "{kind}");
    found
}

fn number(cell: &str) -> f64 {
    cell.parse().unwrap()
}

fn board(frets: u8, joint_fret: u8, radius: BoardRadius) -> Board {
    Board {
        frets,
        radius,
        spread_nut: Length::from_mm(35.5),
        spread_bridge: Length::from_mm(52.5),
        strings: 6,
        joint_fret,
    }
}

#[test]
fn schools_read_the_same_neck_as_scipys_elastic_line() {
    let flat = BoardRadius::new(Length::from_metres(1e6), Length::from_metres(1e6)).unwrap();
    for row in rows("relief") {
        let fret = |at: usize| row[at].parse::<u8>().unwrap();
        let scale = Length::from_metres(number(row[0]));
        let tops = FretTops::new(&board(fret(1), fret(2), flat), scale, 0).unwrap();
        let of = |at: usize| {
            let (low, high, at) = (fret(at), fret(at + 1), fret(at + 2));
            tops.relief(Span { low, high, at }).unwrap()
        };
        let read = Length::from_mm(0.25);
        let other = of(6).gap(of(3).curvature(read));
        assert!(
            (other.ratio(read) - number(row[9])).abs() < 1e-5,
            "{row:?}: {other:?}"
        );
    }
}

#[test]
fn one_neck_in_every_schools_number() {
    // Common practice, on 648 mm with 22 frets joined near fret 16: 1.0 by (1,12)@6 is about 2.1 by
    // (1,22)@8, 1.6 by (1,17)@8 and 1.5 by (1,16)@7.
    let flat = BoardRadius::new(Length::from_metres(1e6), Length::from_metres(1e6)).unwrap();
    let tops = FretTops::new(&board(22, 16, flat), Length::from_mm(648.0), 0).unwrap();
    let slope = |low, high, at| tops.relief(Span { low, high, at }).unwrap().slope();
    for (high, at, expected) in [(22, 8, 2.1), (17, 8, 1.6), (16, 7, 1.5)] {
        let found = slope(1, high, at) / slope(1, 12, 6);
        assert!((found - expected).abs() < 0.06, "(1,{high})@{at}: {found}");
    }
}

#[test]
fn inner_saddles_and_the_arc_agree_with_scipy() {
    for (name, nut, last) in [("cylinder", 241.3, 241.3), ("cone", 254.0, 406.4)] {
        let radius = BoardRadius::new(Length::from_mm(nut), Length::from_mm(last)).unwrap();
        let board = board(22, 16, radius);
        let tops: Vec<FretTops> = (0..6)
            .map(|index| FretTops::new(&board, Length::from_mm(648.0), index).unwrap())
            .collect();
        let laid = |tops: &FretTops, action: f64| {
            StringLine {
                nut: Length::from_mm(0.6),
                saddle: Length::ZERO,
                length: Length::from_mm(651.0),
                bend: Curvature::ZERO.into(),
            }
            .with_action(tops, 12, Length::from_metres(action))
            .unwrap()
            .saddle
        };
        for row in rows("inner").iter().filter(|row| row[0] == name) {
            let tops = &tops[row[1].parse::<usize>().unwrap()];
            let saddle = laid(tops, number(row[2])).metres();
            assert!((saddle - number(row[3])).abs() < 1e-9, "{row:?}: {saddle}");
        }
        let equal: Vec<(Length, Length)> = tops
            .iter()
            .map(|tops| (tops.offset_at_bridge(), laid(tops, 1.6e-3)))
            .collect();
        let arc = arc_radius(&equal).unwrap().metres();
        let expected = rows("arc")
            .iter()
            .find(|row| row[0] == name)
            .map(|row| number(row[1]))
            .unwrap();
        // The fit here is the algebraic one, SciPy's the geometric one.
        assert!(
            (arc / expected - 1.0).abs() < 2e-3,
            "{name}: {arc} {expected}"
        );
    }
}

#[test]
fn a_plucked_string_stays_inside_dalemberts_waves() {
    for row in rows("swing") {
        let [length, from_saddle, at] =
            [0, 1, 2].map(|cell| Length::from_metres(number(row[cell])));
        let pluck = Pluck {
            force: Force::from_newtons(1.0),
            from_saddle,
        };
        let pull = Force::from_newtons(80.0);
        let found = pluck
            .envelope(length, pull, at)
            .ratio(pluck.amplitude(length, pull));
        assert!((found - number(row[3])).abs() < 1e-3, "{row:?}: {found}");
    }
}
