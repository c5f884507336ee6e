//! What can be told at the relief station.

use crate::commands::Command;
use crate::forms::Fields;
use crate::vocabulary::*;

/// Relief by a feeler or gauge; `none` where it touches, `rocks` where it rocks.
pub(crate) fn relief(job: &Known, fields: &mut Fields) -> Option<Command> {
    let side = Side::from_key(fields.text("side")).ok_or("choose the treble or the bass side");
    let side = fields.keep("side", side)?;
    let span = span_of(job, fields.text("school"));
    let typed = fields.text("gap").to_lowercase();
    let seen = match typed.as_str() {
        "none" | "touches" | "0" => Reading::Touches,
        "card" | "business card" => Reading::Length {
            length: improvised("business card", Tool::Card)?,
        },
        "pick" | "thin pick" => Reading::Length {
            length: improvised("thin pick", Tool::Pick)?,
        },
        "rocks" => Reading::Rocks,
        _ => Reading::Length {
            length: fields.reading("gap", &limits::RELIEF, Tool::Feeler)?,
        },
    };
    Some(Command::read(Place::Relief { side, span }, seen))
}

/// The truss rod was turned.
pub(crate) fn rod(fields: &mut Fields) -> Option<Command> {
    let turns = fields.signed_turns("loosen")?;
    Some(Command::turned(Adjuster::TrussRod, turns))
}

/// The truss rod goes no further, or turns without effect.
pub(crate) fn stopped(fields: &mut Fields) -> Option<Command> {
    let how = End::from_key(fields.text("how")).ok_or("choose how the rod felt");
    let how = fields.keep("how", how)?;
    Some(Command::End {
        adjuster: Adjuster::TrussRod,
        how,
    })
}

/// The relief wanted, and by which method.
pub(crate) fn target(job: &Known, fields: &mut Fields) -> Option<Command> {
    let relief = fields.exact("relief", &limits::RELIEF);
    let span = span_of(job, fields.text("target_school"));
    let targets = Targets {
        spec: None,
        relief: relief?,
        relief_span: span,
        ..job.targets()
    };
    Some(Command::target(Wanted::Setup { targets }))
}

/// What an improvised feeler is thick.
fn improvised(name: &str, tool: Tool) -> Option<Measurement> {
    let (low, high) = tool.thickness()?;
    let written = format!("{name}, {}-{} mm", low.mm(), high.mm());
    Some(Measurement::new(written, low, high).with_tool(tool))
}

fn span_of(job: &Known, school: &str) -> ReliefSpan {
    relief_schools(job.instrument())
        .into_iter()
        .find(|known| known.key == school)
        .map_or(job.targets().relief_span, |school| school.span)
}
