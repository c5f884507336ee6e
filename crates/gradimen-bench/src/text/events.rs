//! What happened, in the words of the record.
//!
//! ```
//! use gradimen_bench::journal::Event;
//! use gradimen_bench::text::events;
//!
//! let told = Event::Noted { text: "slots were cut by somebody".into() };
//! assert_eq!(events::sentence(&told), "Note: slots were cut by somebody");
//! ```

use gradimen_core::quantity::{Cents, Length, Turns};
use gradimen_core::units::print;

use super::{moves, side};
use crate::journal::Event;
use crate::model::{
    Adjuster, Amount, Complaint, End, Heard, HeightsGiven, Note, Observation, Place, Player,
    Practised, Reading, Reference, Rocking, RodFeel, Shim, StringEntry, Strung, Toll, Wanted,
};

/// What happened, in the words of the record.
pub fn sentence(event: &Event) -> String {
    match event {
        Event::Opened(opened) => format!("Opened: {}", opened.purpose),
        Event::Restrung { strung } => restrung(strung),
        Event::Read {
            place,
            value,
            confirmed,
            replaces,
        } => {
            let confirmed = if *confirmed {
                ", saved although it looked off"
            } else {
                ""
            };
            let replaces = if *replaces {
                ", in place of the reading before"
            } else {
                ""
            };
            format!("{}{confirmed}{replaces}", read(*place, value))
        }
        Event::Adjusted { adjuster, amount } => adjusted(*adjuster, amount),
        Event::Ended { adjuster, how } => ended(*adjuster, *how),
        Event::Targeted { wanted } => targeted(wanted),
        Event::Observed { what } => observed(what),
        Event::Noted { text } => format!("Note: {text}"),
        Event::Corrected(corrected) => format!(
            "Record put right: version {} of {}",
            corrected.instrument_version,
            corrected.instrument.title()
        ),
        Event::Staged { stage } => format!("Now {}", stage.name()),
        Event::Undone { target } => format!("Undid entry {target}"),
        Event::Redone { target } => format!("Redid entry {target}"),
    }
}

fn restrung(strung: &Strung) -> String {
    let gauges: Vec<String> = strung.set.iter().map(StringEntry::label).collect();
    format!(
        "Strung {} in {}, A = {} Hz",
        gauges.join(" "),
        strung.tuning.notes.join(" "),
        strung.tuning.a4_hz
    )
}

/// A value as it was written.
pub fn value(reading: &Reading) -> String {
    match reading {
        Reading::Length { length } => length.written.clone(),
        Reading::Touches => "none, it touches".to_owned(),
        Reading::Rocks => "it rocks".to_owned(),
        Reading::Flat => "flat on the body".to_owned(),
        Reading::Note {
            cents,
            against,
            by_ear,
            ..
        } => format!(
            "{} cents against {}{}",
            print::cents(Cents::new(*cents)),
            match against {
                Reference::Open => "the open string",
                Reference::Harmonic => "the harmonic",
            },
            if *by_ear { ", by ear" } else { "" }
        ),
        Reading::Level {
            decibels,
            doubt_decibels: None,
        } => format!("{decibels} dB"),
        Reading::Level {
            decibels,
            doubt_decibels: Some(doubt),
        } => format!("{decibels} \u{b1} {doubt} dB, by ear"),
        Reading::Ends { treble, bass } => format!(
            "{} at the treble side, {} at the bass side",
            treble.written, bass.written
        ),
        Reading::RodNut { turns_left, how } => {
            let how = match how {
                RodFeel::Free => "turns freely",
                RodFeel::Hard => "hard to turn",
            };
            let left = print::turns_with_word(Turns::new(*turns_left));
            format!("{how}, {left} of thread left")
        }
        Reading::Rock { seen } => match seen {
            Rocking::None => "does not rock",
            Rocking::Slight => "rocks a little",
            Rocking::Clear => "rocks",
        }
        .to_owned(),
        Reading::Weighed { weighing } => {
            format!("{} weighs {} g", weighing.length.written, weighing.grams)
        }
    }
}

fn read(place: Place, reading: &Reading) -> String {
    let value = value(reading);
    match place {
        Place::Relief { side: on, span } => {
            format!("Relief, {} side, {}: {value}", side(on), span.words())
        }
        Place::Nut { string, held } => {
            format!("String {string}, {}fret 1: {value}", held_words(held))
        }
        Place::Action { string, fret, held } => format!(
            "String {string}, {}action at fret {fret}: {value}",
            held_words(held)
        ),
        Place::Intonation { string, fret } => format!("String {string}, fret {fret}: {value}"),
        Place::Gap => match reading {
            Reading::Flat => "Vibrato: flat on the body".to_owned(),
            _ => format!("Vibrato: gap {value}"),
        },
        Place::Spring => format!("A spring of the vibrato is {value} long, unhooked"),
        Place::ClawEnds => format!("From claw to wall: {value}"),
        Place::Pickup { pickup, side: on } => {
            format!("Pickup {}, {} side: gap {value}", pickup + 1, side(on))
        }
        Place::PolePiece { pickup, string } => {
            format!("Pickup {}, string {string}: gap {value}", pickup + 1)
        }
        Place::Level { pickup, string } => {
            format!("Pickup {}, string {string}: {value}", pickup + 1)
        }
        Place::Scale { string } => format!("String {string}: nut to fret 12 {value}"),
        Place::Saddle { string } => format!("String {string}: fret 12 to saddle {value}"),
        Place::Room { string } => format!("String {string}: {value} left behind the saddle"),
        Place::Core { string } => format!("String {string}: core {value}"),
        Place::CutOff { string } => format!("String {string}: {value}"),
        Place::RodCheck => format!("Nut of the truss rod: {value}"),
        Place::Rock { string, fret } => {
            format!("Rocker over fret {fret}, along string {string}: {value}")
        }
    }
}

/// `held at 3, ` or nothing for the open string.
fn held_words(held: u8) -> String {
    if held == 0 {
        String::new()
    } else {
        format!("held at {held}, ")
    }
}

fn turned(turns: f64, ways: [&str; 2]) -> String {
    let way = if turns >= 0.0 { ways[0] } else { ways[1] };
    format!("{} {way}", print::turns_with_word(Turns::new(turns.abs())))
}

fn adjusted(adjuster: Adjuster, amount: &Amount) -> String {
    let written = match amount {
        Amount::Distance { distance } => distance.written.as_str(),
        _ => "",
    };
    let turns = amount.as_turns().unwrap_or(Turns::ZERO).value();
    match (adjuster, amount) {
        (Adjuster::TrussRod, _) => format!("Truss rod {}", turned(turns, ["tighter", "looser"])),
        (Adjuster::SaddleDrive { string }, Amount::Reversed) => {
            format!("String {string}: saddle reversed")
        }
        (Adjuster::SaddleDrive { string }, Amount::Distance { distance }) => format!(
            "String {string}: saddle slid {} {}",
            written.trim_start_matches(['-', '\u{2212}']),
            way(distance.middle())
        ),
        (Adjuster::SaddleDrive { string }, _) => format!(
            "String {string}: saddle {}",
            turned(turns, ["away from the neck", "toward the neck"])
        ),
        (Adjuster::SaddleHeight { string }, Amount::Distance { distance }) => format!(
            "String {string}: saddle {} by {}",
            if distance.middle() < Length::ZERO {
                "cut"
            } else {
                "shimmed"
            },
            written.trim_start_matches(['-', '\u{2212}'])
        ),
        (Adjuster::SaddleHeight { .. } | Adjuster::Post { .. }, _) => format!(
            "Action, {}: {}",
            moves::adjuster(adjuster),
            turned(turns, ["up", "down"])
        ),
        (Adjuster::NutSlots { strings }, Amount::Distance { distance }) => format!(
            "Nut {} by {} under string {strings}",
            if distance.middle() < Length::ZERO {
                "filed"
            } else {
                "raised"
            },
            written.trim_start_matches(['-', '\u{2212}'])
        ),
        (Adjuster::Pocket { shim: Shim::Wedge }, _) => format!("Neck on a wedge of {written}"),
        (Adjuster::Pocket { shim: Shim::Full }, _) => format!("Neck on a full shim of {written}"),
        (Adjuster::Bar, _) => format!("Bar under all strings: {}", moves::ends(amount)),
        (Adjuster::Bridge, _) => format!("Bridge moved by {written}"),
        (Adjuster::Claw, Amount::Apart { turns, apart }) => format!(
            "Claw: treble side {}, bass side {}",
            turned(turns - apart, ["in", "out"]),
            turned(turns + apart, ["in", "out"])
        ),
        (Adjuster::Claw, _) => format!("Claw {}", turned(turns, ["in", "out"])),
        (Adjuster::Seat, _) => format!("Seat of the vibrato's spring: {written}"),
        (Adjuster::Springs, Amount::Springs { count, converging }) => format!(
            "{count} springs{}",
            if *converging {
                ", converging on the claw"
            } else {
                ", parallel"
            }
        ),
        (Adjuster::PickupScrew { .. } | Adjuster::PolePiece { .. }, _) => {
            let name = moves::adjuster(adjuster).replacen("pickup", "Pickup", 1);
            format!("{name}: {}", turned(turns, ["up", "down"]))
        }
        (adjuster, _) => format!("{}: {written}", moves::adjuster(adjuster)),
    }
}

fn way(distance: Length) -> &'static str {
    if distance >= Length::ZERO {
        "away from the neck"
    } else {
        "toward the neck"
    }
}

/// How an adjuster was found, in words.
pub const fn end(how: End) -> &'static str {
    match how {
        End::Bottom => "all the way down",
        End::Top => "all the way up",
        End::Stuck => "screw is stuck",
        End::Free => "turns again",
        End::Hard => "very hard to turn",
        End::Rubbery => "springs back",
        End::NoEffect => "slack, or turns without effect",
    }
}

fn ended(adjuster: Adjuster, how: End) -> String {
    match (adjuster, how) {
        (Adjuster::TrussRod, _) => format!("Truss rod: {}", end(how)),
        (Adjuster::SaddleHeight { .. } | Adjuster::Post { .. }, _) => {
            format!("Action, {}: {}", moves::adjuster(adjuster), end(how))
        }
        (Adjuster::PickupScrew { .. }, End::Bottom) => format!(
            "{}: goes no further down",
            moves::adjuster(adjuster).replacen("pickup", "Pickup", 1)
        ),
        (Adjuster::PickupScrew { .. }, End::Top) => format!(
            "{}: goes no further up",
            moves::adjuster(adjuster).replacen("pickup", "Pickup", 1)
        ),
        (Adjuster::SaddleDrive { string }, End::Bottom) => {
            format!("String {string}: the saddle goes no further from the neck")
        }
        (Adjuster::SaddleDrive { string }, End::Top) => {
            format!("String {string}: the saddle goes no nearer to the neck")
        }
        (Adjuster::SaddleDrive { string }, End::Stuck) => {
            format!("String {string}: the saddle screw is stuck")
        }
        _ => format!("{}: {}", moves::adjuster(adjuster), end(how)),
    }
}

fn player(player: &Player) -> String {
    let touch: &str = player.touch.into();
    format!("Player: {touch} touch, {}", player.style)
}

fn targeted(wanted: &Wanted) -> String {
    match wanted {
        Wanted::Setup { targets } => format!(
            "Targets: relief {} ({}), nut {} and {}, action {} and {} at fret {}",
            targets.relief.written,
            targets.relief_span.words(),
            targets.nut_treble.written,
            targets.nut_bass.written,
            targets.action_treble.written,
            targets.action_bass.written,
            targets.action_fret
        ),
        Wanted::Balance { school } => format!("Vibrato target: {}", school.name()),
        Wanted::Pickup {
            pickup,
            treble,
            bass,
        } => format!(
            "Pickup {} target {} treble, {} bass",
            pickup + 1,
            treble.written,
            bass.written
        ),
        Wanted::SharedSaddle {
            string,
            alone: true,
        } => format!("String {string} matters more on its saddle"),
        Wanted::SharedSaddle {
            string,
            alone: false,
        } => format!("Saddle of string {string} shared evenly"),
        Wanted::Player { player: whom } => player(whom),
    }
}

fn practised(what: Practised) -> String {
    match what {
        Practised::Waited { minutes } => format!("Let {minutes:.0} min pass"),
        Practised::Hint => "Asked for the next move".to_owned(),
        Practised::HandedIn { toll, par } => format!(
            "Handed in{}: {}; {} of {} targets out",
            if par { " at par" } else { "" },
            took(&toll),
            toll.out,
            toll.of
        ),
    }
}

/// What some work took: moves, readings and minutes.
pub fn took(toll: &Toll) -> String {
    let counted = |count: u32, one: &str| {
        let more = if count == 1 { "" } else { "s" };
        format!("{count} {one}{more}")
    };
    format!(
        "{}, {}, {:.0} min",
        counted(toll.moves, "move"),
        counted(toll.readings, "reading"),
        toll.minutes
    )
}

fn heights(heights: &HeightsGiven) -> String {
    format!(
        "Action as it came, {}: fret 1 {} and {}, fret 12 {} and {}",
        if heights.measured {
            "measured"
        } else {
            "assumed"
        },
        heights.first_fret_treble.written,
        heights.first_fret_bass.written,
        heights.twelfth_treble.written,
        heights.twelfth_bass.written
    )
}

/// A note by string and fret: `string 3, fret 14`, `string 1 open`.
pub fn note_of(note: Note) -> String {
    match note.fret {
        0 => format!("string {} open", note.string),
        fret => format!("string {}, fret {fret}", note.string),
    }
}

/// What a player told, in one line.
pub fn complained(complaint: &Complaint) -> String {
    let symptoms = complaint.symptoms.iter().map(|symptom| symptom.name());
    let mut parts: Vec<String> = symptoms.map(str::to_owned).collect();
    if !complaint.words.is_empty() {
        parts.push(format!("\u{201c}{}\u{201d}", complaint.words));
    }
    if !complaint.liked.is_empty() {
        parts.push(format!("likes {}", complaint.liked));
    }
    parts.extend(
        complaint
            .picks
            .map(|picks| format!("plays {}", picks.name())),
    );
    if parts.is_empty() {
        return "The player complains of nothing".to_owned();
    }
    format!("The player says: {}", parts.join(", "))
}

fn observed(what: &Observation) -> String {
    match what {
        Observation::Buzz { buzz } => format!(
            "String {} buzzes {} from {:.0}{} % of the hardest stroke",
            buzz.string,
            if buzz.held == 0 {
                "open".to_owned()
            } else {
                format!("at fret {}", buzz.held)
            },
            buzz.attack * 100.0,
            buzz.doubt.map_or(String::new(), |doubt| format!(
                " \u{b1} {:.0}",
                doubt * 100.0
            ))
        ),
        Observation::Complaint { complaint } => complained(complaint),
        Observation::Checked {
            round,
            line,
            condition,
        } => format!(
            "Check list, {}: {}: {}",
            round.name(),
            line.name(),
            condition.name()
        ),
        Observation::Played { note, heard, sure } => format!(
            "Play test, {}: {}{}",
            note_of(*note),
            heard.map_or("clean", Heard::name),
            sure.map_or(String::new(), |sure| format!(
                ", by ear, {:.0} % sure",
                sure * 100.0
            ))
        ),
        Observation::PlayedThrough => "Play test: every note played".to_owned(),
        Observation::Stretched { cents } => {
            format!(
                "Stretched: fell by {} cents",
                print::cents(Cents::new(*cents))
            )
        }
        Observation::Pressed { note, moves } => format!(
            "Pressed fret {} under string {}: {}",
            note.fret,
            note.string,
            if *moves { "it gives" } else { "it sits" }
        ),
        Observation::Edged {
            note,
            low,
            high,
            gap,
        } => format!(
            "Straightedge along string {} on frets {low} and {high}: {} over fret {}",
            note.string,
            super::hundredths(gap.middle()),
            note.fret
        ),
        Observation::Worn { note, depth } => format!(
            "Fret {} worn under string {}: {} deep",
            note.fret,
            note.string,
            super::hundredths(depth.middle())
        ),
        Observation::Crown { height } => {
            format!("Lowest crown: {}", super::hundredths(height.middle()))
        }
        Observation::Fretwork { work, fret, taken } => {
            let which = fret.map_or("Frets".to_owned(), |fret| format!("Fret {fret}"));
            let took = taken.as_ref();
            let took = took.map_or(String::new(), |taken| {
                format!(", {} taken", super::hundredths(taken.middle()))
            });
            format!("{which}: {}{took}", work.name())
        }
        Observation::Humidity { percent } => format!("Humidity: {percent:.0} %"),
        Observation::Strings { old: true } => "Strings found old".to_owned(),
        Observation::Strings { old: false } => "Strings are fresh".to_owned(),
        Observation::AsItCame { heights: given } => heights(given),
        Observation::Tuner { tuner } => {
            format!("Tuner: {}, {} cents", tuner.name, tuner.resolution_cents)
        }
        Observation::Practised { what } => practised(*what),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_reading_is_no_readings() {
        let toll = Toll {
            moves: 2,
            readings: 1,
            minutes: 3.4,
            ..Toll::default()
        };
        assert_eq!(took(&toll), "2 moves, 1 reading, 3 min");
    }
}
