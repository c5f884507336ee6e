//! What the program says in large letters never contradicts what it found.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{fold, opened_as, read};

/// Words that say all is well, or that nothing is to be done.
const FINE: [&str; 5] = [
    "in spec",
    "is right",
    "plays clean",
    "leave",
    "nothing left",
];

fn large(known: &Estimate, plan: &Plan, finding: &Finding) -> Option<String> {
    use text::next;
    let string = finding.string().unwrap_or(1);
    let says = match finding.station()? {
        StationId::Relief => next::relief::headline(known, plan, Side::Bass),
        StationId::Nut => next::nut::headline(known, plan, string),
        StationId::Action => next::action::headline(known, plan, string),
        StationId::Intonation => next::intonation::headline(known, plan, string),
        StationId::Balance => next::balance::headline(plan.balance.as_ref()?),
        StationId::First | StationId::Pickups => return None,
    };
    Some(says.big.join(" ").to_lowercase())
}

/// Every stop, against the large letters of the station that it belongs to.
fn agrees(name: &str, job: &Job) -> usize {
    let (known, plan) = (known(job), plan_of(job));
    let stops = plan
        .findings
        .iter()
        .filter(|found| found.severity() == Severity::Stop);
    let mut count = 0;
    for found in stops {
        count += 1;
        let Some(big) = large(&known, &plan, found) else {
            continue;
        };
        for fine in FINE {
            assert!(!big.contains(fine), "{name}: {big:?} beside {found:?}");
        }
    }
    // The whole job is not done while anything stops it.
    let whole = JobPlan::of(&known, &plan);
    let headline = text::next::job_plan::headline(&whole, &plan).to_lowercase();
    if count > 0 {
        assert!(!plan.done(&known), "{name}");
        for fine in FINE {
            assert!(!headline.contains(fine), "{name}: {headline:?}");
        }
    }
    count
}

fn relief(side: Side, reading: Reading) -> Event {
    let span = ReliefSpan {
        low: 1,
        high: 12,
        at: 6,
    };
    Event::read(Place::Relief { side, span }, reading)
}

fn by_thou(side: Side, thou: f64) -> Event {
    relief(
        side,
        Reading::Length {
            length: Measurement::mm(thou * 0.0254).with_tool(Tool::Feeler),
        },
    )
}

fn ended(adjuster: Adjuster, how: End) -> Event {
    Event::Ended { adjuster, how }
}

#[test]
fn no_headline_says_that_all_is_well_where_something_stops() {
    let guitar = |more: Vec<Event>| {
        let opening = opened_as(Kind::Guitar, 6, BridgeFamily::FixedPlate, |_| ());
        fold([vec![opening], more].concat())
    };
    let rocks = || Side::ALL.map(|side| relief(side, Reading::Rocks)).to_vec();
    let low = |string: u8| {
        let length = Measurement::mm(3.4).with_tool(Tool::Dial);
        let place = Place::Action {
            string,
            fret: 12,
            held: 0,
        };
        Event::read(place, Reading::Length { length })
    };
    let heights: Vec<Event> = (1..=6).chain(1..=6).map(low).collect();
    let down = ended(Adjuster::SaddleHeight { string: 3 }, End::Bottom);
    let far = |string: u8| [read(string, 30.0), read(string, 30.0), read(string, 30.2)];
    let cases = [
        (
            "twist",
            guitar(vec![
                relief(Side::Treble, Reading::Rocks),
                by_thou(Side::Bass, 8.0),
            ]),
        ),
        (
            "apart",
            guitar(vec![by_thou(Side::Treble, 2.0), by_thou(Side::Bass, 14.0)]),
        ),
        (
            "slack",
            guitar([rocks(), vec![ended(Adjuster::TrussRod, End::NoEffect)]].concat()),
        ),
        (
            "rod spent",
            guitar(vec![
                by_thou(Side::Treble, 16.0),
                by_thou(Side::Bass, 16.0),
                ended(Adjuster::TrussRod, End::Hard),
            ]),
        ),
        ("saddle down", guitar([heights, vec![down]].concat())),
        (
            "stuck",
            guitar(
                [
                    far(1).to_vec(),
                    vec![ended(Adjuster::SaddleDrive { string: 1 }, End::Stuck)],
                ]
                .concat(),
            ),
        ),
    ];
    for (name, job) in &cases {
        assert!(agrees(name, job) > 0, "{name}: nothing stops it");
    }
    for file in std::fs::read_dir(concat!(
        env!("CARGO_MANIFEST_DIR"),
        "/../../docs/formats/examples"
    ))
    .unwrap()
    {
        let path = file.unwrap().path();
        let name = path.display().to_string();
        if !name.ends_with(".plan.json") {
            let text = std::fs::read_to_string(&path).unwrap();
            agrees(
                &name,
                &Job::fold(&Document::parse(&text).unwrap().events).unwrap(),
            );
        }
    }
}

#[test]
fn a_rod_that_is_hard_to_turn_stops_nothing_where_nothing_is_asked_of_it() {
    let right = Side::ALL
        .map(|side| [by_thou(side, 6.0), by_thou(side, 6.0)])
        .concat();
    let opening = opened_as(Kind::Guitar, 6, BridgeFamily::FixedPlate, |_| ());
    let hard = ended(Adjuster::TrussRod, End::Hard);
    let job = fold([vec![opening], right, vec![hard]].concat());
    assert_eq!(agrees("right", &job), 0);
    let plan = plan_of(&job);
    assert_eq!(plan.relief.action, Action::Leave);
    let found = plan
        .findings
        .iter()
        .find(|found| found.kind() == "rod_spent")
        .unwrap();
    assert!(text::findings::sentence(found).contains("Nothing is asked of it"));
}

#[test]
fn cautions_stand_at_the_step_where_they_matter() {
    use gradimen_bench::text::cautions;
    // Common practice: never a knife-edge post under load, a claw with the strings slackened, one string at a time on a float,
    // a hand on a stop bar, tape over pickups, filings, solder, mains.
    let low = |family: BridgeFamily| {
        let mut events = vec![opened_as(Kind::Guitar, 6, family, |_| ())];
        for string in (1..=6).chain(1..=6) {
            let length = Measurement::mm(0.9).with_tool(Tool::Dial);
            let place = Place::Action {
                string,
                fret: 12,
                held: 0,
            };
            events.push(Event::read(place, Reading::Length { length }));
        }
        let job = fold(events);
        let says = text::next::action::headline(&known(&job), &plan_of(&job), 1);
        says.expect.join(" ")
    };
    assert!(
        low(BridgeFamily::DoubleLocking)
            .contains("knife edge is never turned on its post under load")
    );
    assert!(low(BridgeFamily::TwoPost).contains("both fall off their posts"));
    assert!(!low(BridgeFamily::FixedPlate).contains("post"));
    let of = |family: BridgeFamily| {
        let mut opening = opened_as(Kind::Guitar, 6, family, |_| ());
        let Event::Opened(opened) = &mut opening else {
            panic!("an opening");
        };
        cautions::strings(&opened.instrument)
    };
    assert!(of(BridgeFamily::KnifeEdgeVibrato).contains("One string at a time on a float"));
    assert!(of(BridgeFamily::FloatingWooden).contains("only the strings hold this bridge"));
    assert!(cautions::NUT.contains("filings") && cautions::NUT.contains("Glasses"));
    assert!(cautions::PICKUPS.contains("Solder") && cautions::PICKUPS.contains("mains"));
    assert!(cautions::CLAW.contains("slacken the strings a little"));
}
