//! A second visit in another season: where it was left, what the neck did, and when it is to come again.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use gradimen_bench::estimate::{learned, season};
use gradimen_bench::export::handover::{Handover, forecast};
use gradimen_bench::export::visits::{goes_on, last_time};
use gradimen_bench::model::Behaviour;
use gradimen_bench::text::last_time as says;
use jiff::{Span, Timestamp};

const SPAN: ReliefSpan = ReliefSpan {
    low: 1,
    high: 12,
    at: 6,
};

fn relief(side: Side, mm: f64) -> Event {
    let length = Measurement::mm(mm).with_tool(Tool::Feeler);
    Event::read(
        Place::Relief { side, span: SPAN },
        Reading::Length { length },
    )
}

const fn humidity(percent: f64) -> Event {
    Event::Observed {
        what: Observation::Humidity { percent },
    }
}

/// A visit on a day, on from an earlier one where there is one.
fn visit(day: &str, earlier: Option<&Job>, events: Vec<Event>) -> Job {
    let mut first = common::opened(Kind::Guitar, 6, BridgeFamily::FixedPlate);
    if let (Event::Opened(opened), Some(earlier)) = (&mut first, earlier) {
        goes_on(opened, &known(earlier), &plan_of(earlier));
    }
    let at: Timestamp = format!("{day}T09:00:00Z").parse().unwrap();
    let all = std::iter::once(first).chain(events);
    let entries: Vec<Entry> = (1..)
        .zip(all)
        .map(|(seq, event)| Entry::new(seq, at + Span::new().seconds(seq as i64), event))
        .collect();
    Job::fold(&entries).unwrap()
}

#[test]
fn where_it_was_left_stands_beside_what_is_read_now() {
    let winter = visit(
        "2026-01-15",
        None,
        vec![
            relief(Side::Bass, 0.20),
            relief(Side::Bass, 0.20),
            humidity(35.0),
        ],
    );
    let summer = visit("2026-07-20", Some(&winter), Vec::new());
    let last = summer.last_time().unwrap();
    assert_eq!(last.day.to_string(), "2026-01-15");
    // Only what was read: one side of the neck, and no height.
    assert_eq!(last.left.len(), 1);
    let known = known(&summer);
    let place = Place::Relief {
        side: Side::Bass,
        span: SPAN,
    };
    assert_eq!(says::of(&known, place).unwrap(), "0.20 mm");
    let line = says::line(&known, StationId::Relief).unwrap();
    assert_eq!(line, "Last time, 15 Jan 2026: bass 0.20 mm");
    assert_eq!(says::line(&known, StationId::Nut), None);
}

#[test]
fn a_neck_that_bowed_in_the_damp_is_told_from_a_rod_that_was_turned() {
    let winter = visit(
        "2026-01-15",
        None,
        vec![
            relief(Side::Treble, 0.16),
            relief(Side::Bass, 0.20),
            humidity(35.0),
        ],
    );
    let left = last_time(&known(&winter), &plan_of(&winter));
    let came = |rise: f64| -> Vec<Event> {
        let at = |side| left.at(Place::Relief { side, span: SPAN }).unwrap() + rise;
        vec![
            humidity(60.0),
            relief(Side::Treble, at(Side::Treble)),
            relief(Side::Bass, at(Side::Bass)),
        ]
    };
    let summer = visit("2026-07-20", Some(&winter), came(0.15));
    // By hand: 0.15 mm over 25 %, known to 0.035; before it 0 +- 0.006 a per cent. 3.6e-5 * 25 / (3.6e-5 * 625 + 0.001225)
    // = 0.037935; times 0.15: 0.005690 mm a per cent.
    let per = season::per_cent(&known(&summer));
    assert!((per.slope - 0.005_690).abs() < 2e-5, "{per:?}");
    // Turned before it was read, it says nothing of the season.
    let mut turned = vec![Event::Adjusted {
        adjuster: Adjuster::TrussRod,
        amount: Amount::Turns { turns: 0.25 },
    }];
    turned.extend(came(0.15));
    let turned = visit("2026-07-20", Some(&winter), turned);
    assert_eq!(season::per_cent(&known(&turned)), season::USUAL);
    // Nor does it under another set than it was left with.
    let mut first = common::opened(Kind::Guitar, 6, BridgeFamily::FixedPlate);
    if let Event::Opened(opened) = &mut first {
        goes_on(opened, &known(&winter), &plan_of(&winter));
        opened.arrived = Some(opened.strung.clone());
        opened.strung.set = common::usual_set(1);
    }
    let heavier = std::iter::once(first).chain(came(0.15)).collect();
    let heavier = Job::fold(&common::journal(heavier)).unwrap();
    assert_eq!(season::per_cent(&known(&heavier)), season::USUAL);
    // What was learned goes on, and is this neck's own.
    let kept = learned::kept(&known(&summer), summer.instrument());
    let season = kept.iter().find(|taught| taught.of == Behaviour::Season);
    assert!((season.unwrap().value - per.slope).abs() < 1e-4);
    let third = visit("2027-01-10", Some(&summer), Vec::new());
    assert!((season::per_cent(&known(&third)).slope - per.slope).abs() < 1e-4);
    assert_eq!(third.last_time().unwrap().air.len(), 2);
}

#[test]
fn it_comes_back_before_the_season_takes_it_out() {
    let relief = |mm| {
        vec![
            relief(Side::Treble, mm),
            relief(Side::Bass, mm),
            relief(Side::Bass, mm),
        ]
    };
    let mut earlier: Option<Job> = None;
    // Four visits of a neck that rises and falls 0.10 mm with 25 %.
    for (day, percent, mm) in [
        ("2024-01-15", 36.0, 0.15),
        ("2024-07-15", 61.0, 0.25),
        ("2025-01-15", 35.0, 0.15),
        ("2025-07-15", 60.0, 0.15),
    ] {
        let mut events = vec![humidity(percent)];
        if earlier.is_some() {
            // As the season left it, and then set right.
            events.extend(relief(if percent > 50.0 { 0.25 } else { 0.15 }));
            events.push(Event::Adjusted {
                adjuster: Adjuster::TrussRod,
                amount: Amount::Turns { turns: 0.25 },
            });
        }
        events.extend(relief(mm));
        earlier = Some(visit(day, earlier.as_ref(), events));
    }
    let last = earlier.unwrap();
    let (known, plan) = (known(&last), plan_of(&last));
    let forecast = forecast(&known, &plan).unwrap();
    assert!(forecast.per.slope > 0.002, "{forecast:?}");
    let (on, percent) = forecast.leaves.unwrap();
    // Set in the damp of July it is left by the dry of the winter after, not before the autumn.
    assert!(
        on.to_string().as_str() > "2025-08-10" && on.to_string().as_str() < "2026-02-01",
        "{on}"
    );
    assert!(percent < 58.0);
    let sheet = Handover::of(&known, &plan);
    assert_eq!(
        sheet.back,
        on.min(sheet.worked.checked_add(Span::new().months(3)).unwrap())
    );
    assert!(
        sheet
            .watch
            .iter()
            .any(|line| line.contains("Ten per cent more humidity"))
    );
    // Where nobody looks at a meter there is no forecast, and half a year as ever.
    let plain = visit("2025-07-15", None, relief(0.15));
    let sheet = Handover::of(&common::known(&plain), &plan_of(&plain));
    assert_eq!(sheet.back.to_string(), "2026-01-15");
}

#[test]
fn what_no_bench_reads_is_refused_of_the_last_time_too() {
    let mut first = common::opened(Kind::Guitar, 6, BridgeFamily::FixedPlate);
    if let Event::Opened(opened) = &mut first {
        opened.last_time = Some(gradimen_bench::model::LastTime {
            day: jiff::civil::date(2026, 1, 1),
            left: vec![gradimen_bench::model::Left {
                place: Place::Gap,
                value: f64::INFINITY,
            }],
            air: Vec::new(),
        });
    }
    assert!(Job::fold(&common::journal(vec![first])).is_err());
}
