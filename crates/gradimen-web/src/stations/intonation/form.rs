//! What can be told at the intonation station.

use gradimen_core::units::{parse_cents, parse_turns};

use crate::commands::Command;
use crate::forms::Fields;
use crate::vocabulary::*;

/// Fretted notes in cents, one or several.
pub(crate) fn cents(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job);
    let fret = fields.number("fret", "a fret", 1, job.instrument().frets);
    let read = parse_cents(fields.text("cents"));
    let readings = fields.keep("cents", read);
    // What listened knows how finely it heard.
    let resolution = match fields.text("resolution") {
        "" => Some(None),
        written => {
            let read = parse_cents(written);
            let first =
                |all: Vec<gradimen_core::quantity::Cents>| all.first().map(|cents| cents.value());
            fields.keep("resolution", read).map(first)
        }
    };
    let (string, fret, resolution) = (string?, fret?, resolution?);
    // A harmonic is compared at the twelfth; elsewhere the open string is what is in tune.
    let against = match Reference::from_key(fields.text("against")) {
        Some(against) if fret == 12 => against,
        None if fret == 12 => super::page::usual_reference(job),
        _ => Reference::Open,
    };
    let note = |cents: gradimen_core::quantity::Cents| Reading::Note {
        cents: cents.value(),
        against,
        resolution_cents: resolution,
        by_ear: resolution.is_some(),
    };
    let place = Place::Intonation { string, fret };
    let notes = readings?.into_iter().map(|cents| (place, note(cents)));
    Some(Command::readings(notes.collect()))
}

/// A saddle's screw was turned, or the saddle slid by hand.
pub(crate) fn turned(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job);
    if job.instrument().bridge.details.drive == SaddleDrive::Clamped {
        let slid = fields.exact("slide", &limits::SLIDE)?;
        let distance = if fields.text("way") == "toward" {
            slid.turned_back()
        } else {
            slid
        };
        let adjuster = Adjuster::SaddleDrive { string: string? };
        return Some(Command::moved(adjuster, distance));
    }
    let read = parse_turns(fields.text("turns"));
    let turns = fields.keep("turns", read);
    let turns = if fields.text("way") == "toward" {
        -turns?
    } else {
        turns?
    };
    Some(Command::turned(
        Adjuster::SaddleDrive { string: string? },
        turns,
    ))
}

/// A saddle's screw is stuck, or turns again.
pub(crate) fn ended(job: &Known, fields: &mut Fields, how: End) -> Option<Command> {
    let string = fields.string(job)?;
    Some(Command::End {
        adjuster: Adjuster::SaddleDrive { string },
        how,
    })
}

/// A saddle goes no further that way.
pub(crate) fn at_end(job: &Known, fields: &mut Fields) -> Option<Command> {
    let how = match fields.text("way") {
        "away" => Ok(End::Bottom),
        "toward" => Ok(End::Top),
        _ => Err("choose whether it went away from the neck or toward it"),
    };
    let how = fields.keep("way", how);
    let string = fields.string(job);
    Some(Command::End {
        adjuster: Adjuster::SaddleDrive { string: string? },
        how: how?,
    })
}

/// A saddle was turned round.
pub(crate) fn reversed(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job)?;
    Some(Command::Adjust {
        adjuster: Adjuster::SaddleDrive { string },
        amount: Amount::Reversed,
    })
}

/// Which string of a shared saddle matters more.
pub(crate) fn preferred(job: &Known, fields: &mut Fields) -> Option<Command> {
    let alone = fields.text("alone") == "yes";
    let string = fields.string(job)?;
    Some(Command::target(Wanted::SharedSaddle { string, alone }))
}

/// The bar under all strings was shifted: so far at each end, away from the neck.
pub(crate) fn bar(fields: &mut Fields) -> Option<Command> {
    let treble = fields.exact("bar_treble", &limits::BAR_MOVE);
    let bass = fields.exact("bar_bass", &limits::BAR_MOVE);
    Some(Command::Adjust {
        adjuster: Adjuster::Bar,
        amount: Amount::Ends {
            treble: treble?,
            bass: bass?,
        },
    })
}

/// The whole bridge was moved.
pub(crate) fn bridge(fields: &mut Fields) -> Option<Command> {
    let by = fields.exact("bridge_move", &limits::BRIDGE_MOVE)?;
    Some(Command::moved(Adjuster::Bridge, by))
}

/// A tuner by its name, or by what it resolves.
pub(crate) fn tuner(fields: &mut Fields) -> Option<Command> {
    let known = TUNERS
        .iter()
        .find(|(name, _)| *name == fields.text("tuner"));
    let (name, resolution_cents) = match known {
        Some((name, resolution)) => ((*name).to_owned(), resolution.value()),
        None => {
            let read = parse_cents(fields.text("resolution"));
            let resolution = fields.keep("resolution", read)?.first()?.value().abs();
            ("own".to_owned(), resolution)
        }
    };
    Some(Command::Observe(Observation::Tuner {
        tuner: Tuner {
            name,
            resolution_cents,
        },
    }))
}

/// The nut's edge to the crown of fret 12.
pub(crate) fn scale(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job);
    let length = fields.length("nut_to_twelfth", &limits::NUT_TO_TWELFTH);
    let place = Place::Scale { string: string? };
    Some(Command::read(place, Reading::Length { length: length? }))
}

/// The crown of fret 12 to the saddle.
pub(crate) fn place(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job);
    let length = fields.length("twelfth_to_saddle", &limits::TWELFTH_TO_SADDLE);
    let place = Place::Saddle { string: string? };
    Some(Command::read(place, Reading::Length { length: length? }))
}

/// The room behind a saddle.
pub(crate) fn room(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job);
    let length = fields.length("room", &limits::ROOM);
    let place = Place::Room { string: string? };
    Some(Command::read(place, Reading::Length { length: length? }))
}
