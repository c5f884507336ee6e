//! The estimate against the same journal solved all at once: Gauss-Newton by SciPy, `reference/joint.py`.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{fold, opened};
use gradimen_bench::estimate::learned;
use gradimen_bench::model::Behaviour;

const SPAN: ReliefSpan = ReliefSpan {
    low: 1,
    high: 12,
    at: 6,
};

fn read(place: Place, mm: f64) -> Event {
    let tool = match place {
        Place::Action { .. } => Tool::RuleHalfMm,
        _ => Tool::Feeler,
    };
    let length = Measurement::mm(mm).with_tool(tool);
    Event::read(place, Reading::Length { length })
}

const fn relief(side: Side) -> Place {
    Place::Relief { side, span: SPAN }
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

fn turned(adjuster: Adjuster, turns: f64) -> Event {
    Event::Adjusted {
        adjuster,
        amount: Amount::Turns { turns },
    }
}

fn lifted(string: u8, turns: f64) -> Event {
    turned(Adjuster::SaddleHeight { string }, turns)
}

/// The journal of the script, entry by entry.
fn journal() -> Vec<Event> {
    vec![
        opened(Kind::Guitar, 6, BridgeFamily::FixedPlate),
        read(relief(Side::Treble), 0.14),
        read(relief(Side::Bass), 0.15),
        read(nut(1), 0.62),
        read(nut(6), 0.65),
        read(action(1), 2.00),
        read(action(6), 2.50),
        read(action(3), 2.25),
        turned(Adjuster::TrussRod, 0.25),
        read(relief(Side::Treble), 0.08),
        read(relief(Side::Bass), 0.09),
        turned(Adjuster::TrussRod, 0.125),
        read(relief(Side::Bass), 0.06),
        lifted(1, -1.25),
        read(action(1), 1.50),
        lifted(6, -1.5),
        read(action(6), 1.75),
        read(nut(6), 0.53),
        lifted(3, -1.0),
        read(action(3), 1.75),
    ]
}

#[test]
fn one_entry_after_the_other_comes_to_what_all_at_once_comes_to() {
    let known = known(&fold(journal()));
    let instrument = known.instrument();
    assert_eq!(instrument.bridge.height.pitch.middle().mm(), 0.5);
    assert_eq!(instrument.spread_nut.middle().mm(), 35.5);
    let learned = learned::of(&known);
    let about = |of: Behaviour| {
        let one = learned.iter().find(|learned| learned.of == of).unwrap();
        (one.value, one.sigma)
    };
    let mut compared = 0;
    for line in include_str!("reference/joint.csv").lines().skip(1) {
        let fields: Vec<&str> = line.split(',').collect();
        let [value, sigma] = [2, 3].map(|at| fields[at].parse::<f64>().unwrap());
        let string = fields[1].parse().unwrap_or(0);
        let place = match (fields[0], fields[1]) {
            ("relief", "treble") => Some(relief(Side::Treble)),
            ("relief", _) => Some(relief(Side::Bass)),
            ("nut", _) => Some(nut(string)),
            ("action", _) => Some(action(string)),
            _ => None,
        };
        let (own, width) = match place {
            Some(place) => {
                let seen = known.state().predict(place).unwrap();
                (seen.value.mm(), seen.sigma.mm())
            }
            None if fields[0] == "rod" => about(Behaviour::Rod),
            None => about(Behaviour::HeightScrews),
        };
        // What a rod does in a turn is no straight line, and the filter takes each turn on its own.
        let (off, wide) = if fields[0] == "rod" {
            (0.15, 0.12)
        } else {
            (0.05, 0.03)
        };
        assert!(
            (own - value).abs() < off * sigma && (width / sigma).ln().abs() < wide,
            "{line}: {own} \u{b1} {width}"
        );
        compared += 1;
    }
    assert_eq!(compared, 16);
}
