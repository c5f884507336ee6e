//! The tools that lie on the practice bench, station by station, and what each shows where it is laid on.

use gradimen_bench::estimate::Estimate;
use gradimen_bench::journal::Event;
use gradimen_bench::model::{
    Keyed, Measurement, Note, Place, Reading, Side, StationId, Tool as NamedTool, limits,
};
use gradimen_bench::plan::Plan;
use gradimen_bench::text;
use gradimen_core::quantity::Length;
use gradimen_core::units::LengthField;

use crate::bench::Bench;

/// A tool, and where it can be laid on.
#[derive(Debug, Clone, PartialEq)]
pub struct Tool {
    /// Its name.
    pub name: &'static str,
    /// Where: a label, and the place.
    pub at: Vec<(String, Place)>,
}

/// What a tool shows.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Shown {
    /// Where, in words.
    pub place: String,
    /// What, in words.
    pub says: String,
    /// What a hand would type of it.
    pub typed: String,
}

/// The tools of a station. Of the frets and the proof the note in hand is looked at, see [`rocker`], [`stick`] and [`play`].
pub fn of(station: &str, known: &Estimate, plan: &Plan) -> Vec<Tool> {
    let strings = known.instrument().strings;
    let side = |side: Option<Side>| side.map_or("", text::side).to_owned();
    let outer = [1, strings];
    let numbered = |place: Place| {
        let label = place
            .string()
            .map_or(String::new(), |string| string.to_string());
        (label, place)
    };
    let tool = |name, at| Tool { name, at };
    // The first checks stand on the plan's page.
    let here = match station {
        "plan" => Some(StationId::First),
        other => StationId::from_key(other),
    };
    match here {
        Some(StationId::Relief) => {
            let sides = plan.relief.sides.iter();
            let at = sides.map(|of| (side(of.place.side()), of.place)).collect();
            vec![tool("Feelers", at)]
        }
        Some(StationId::Nut) => {
            let slots = plan.nut.strings.iter().map(|slot| slot.quantity.place);
            vec![tool("Feelers", slots.map(numbered).collect())]
        }
        Some(StationId::Action) => {
            let heights = plan.action.strings.iter().map(|on| on.quantity.place);
            vec![tool("Rule", heights.map(numbered).collect())]
        }
        Some(StationId::Intonation) => {
            let notes = (1..=strings).map(|string| Place::Intonation { string, fret: 12 });
            let along = outer.into_iter().flat_map(|string| {
                [
                    (format!("{string}: nut to fret 12"), Place::Scale { string }),
                    (
                        format!("{string}: fret 12 to saddle"),
                        Place::Saddle { string },
                    ),
                    (format!("{string}: room behind"), Place::Room { string }),
                ]
            });
            vec![
                tool("Tuner", notes.map(numbered).collect()),
                tool("Long rule", along.collect()),
            ]
        }
        Some(StationId::Balance) => vec![tool(
            "Caliper and rule",
            vec![
                ("gap".into(), Place::Gap),
                ("a spring".into(), Place::Spring),
                ("claw's ends".into(), Place::ClawEnds),
            ],
        )],
        Some(StationId::Pickups) => {
            let pickups = plan.pickups.pickups.iter();
            let at = pickups.flat_map(|pickup| {
                Side::ALL.map(|of| {
                    let label = format!("{}, {}", pickup.name, text::side(of));
                    (label, pickup.side(of).quantity.place)
                })
            });
            vec![tool("Rule", at.collect())]
        }
        Some(StationId::First) => {
            // The others are read at their stations.
            let checks = plan.first.iter().flat_map(|check| check.places.clone());
            let rocks = checks.filter(|place| matches!(place, Place::Rock { .. }));
            let places = std::iter::once(Place::RodCheck).chain(rocks);
            let at = places
                .map(|place| (text::moves::place(known, place), place))
                .collect();
            vec![tool("Key and rocker", at)]
        }
        None => Vec::new(),
    }
}

/// What a tool shows at a place; nothing where none of this bench reads it. Where a tool was named whose unit a bare number takes, it is
/// typed so that this one is meant.
pub fn lay(
    bench: &Bench,
    known: &Estimate,
    place: Place,
    named: Option<NamedTool>,
) -> Option<Shown> {
    let Event::Read { value, .. } = bench.shows(place)? else {
        return None;
    };
    Some(Shown {
        place: text::moves::place(known, place),
        says: says(field(place, named), &value),
        typed: typed(field(place, named), &value),
    })
}

/// A rocker over a fret.
pub fn rocker(bench: &Bench, known: &Estimate, note: Note) -> Option<Shown> {
    let (string, fret) = (note.string, note.fret);
    lay(bench, known, Place::Rock { string, fret }, None)
}

/// A stick pressed on a fret.
pub fn stick(bench: &Bench, note: Note) -> Shown {
    let gives = bench.gives(note.fret);
    let (says, typed) = if gives {
        ("it gives under the stick", "it gives")
    } else {
        ("it sits", "it sits")
    };
    Shown {
        place: format!("Stick on fret {} under string {}", note.fret, note.string),
        says: says.to_owned(),
        typed: typed.to_owned(),
    }
}

/// A note played with a medium stroke.
pub fn play(bench: &Bench, note: Note) -> Option<Shown> {
    let clears = bench.clears(note)?;
    let heard = if clears < 0.0 { "buzz" } else { "clean" };
    Some(Shown {
        place: text::events::note_of(note),
        says: heard.to_owned(),
        typed: heard.to_owned(),
    })
}

/// The field in which a place is read.
fn field(place: Place, named: Option<NamedTool>) -> Option<LengthField> {
    let field = limits::of_place(place)?;
    let unit = named.and_then(NamedTool::unit);
    Some(unit.map_or(field, |unit| field.in_unit(unit)))
}

/// In words, as the eye meets it.
fn says(field: Option<LengthField>, value: &Reading) -> String {
    let Reading::Length { length } = value else {
        return text::events::value(value);
    };
    let typed = written(field, length);
    match length.written.split_once('-') {
        // Between two blades, each in the unit that stands behind both.
        Some((passes, drags)) => {
            let unit = typed.strip_prefix(&length.written).unwrap_or_default();
            format!("{passes}{unit} passes, {drags}{unit} drags")
        }
        None => typed,
    }
}

/// A length as it is typed at a place: as the tool has it where its field means the same by that, else with the unit.
fn written(field: Option<LengthField>, length: &Measurement) -> String {
    let bare = &length.written;
    let ways = [
        bare.clone(),
        format!("{bare} mm"),
        format!("{bare}/64"),
        format!("{bare} thou"),
    ];
    let mut right = ways.into_iter().filter(|way| {
        let read = field.and_then(|field| field.parse(way).ok());
        read.is_some_and(|read| means(&Measurement::from(&read), length))
    });
    right
        .next()
        .unwrap_or_else(|| format!("{:.2} mm", length.middle().mm()))
}

/// Whether two readings are one.
fn means(one: &Measurement, other: &Measurement) -> bool {
    const HAIR: f64 = 1e-6;
    let near = |a: Length, b: Length| (a - b).mm().abs() < HAIR;
    near(one.low, other.low) && near(one.high, other.high)
}

/// As a hand types it.
fn typed(field: Option<LengthField>, value: &Reading) -> String {
    match value {
        Reading::Length { length } => written(field, length),
        Reading::Touches => "none".to_owned(),
        Reading::Rocks => "rocks".to_owned(),
        Reading::Flat => "flat".to_owned(),
        Reading::Note { cents, .. } => format!("{cents}"),
        Reading::Ends { treble, bass } => {
            format!("{} and {}", written(field, treble), written(field, bass))
        }
        other => text::events::value(other),
    }
}
