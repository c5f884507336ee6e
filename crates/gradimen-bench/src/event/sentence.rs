//! What happened, in the words of the record.

use gradimen_core::quantity::{Cents, Turns};
use gradimen_core::units::print;

use super::{Against, Event, Gap, HeightEnd, Shim};
use crate::record::StringRecord;

impl Event {
    /// What happened, in the words of the record.
    pub fn sentence(&self) -> String {
        match self {
            Self::Opened(opened) => format!("Opened: {}", opened.purpose),
            Self::PlayerChanged { player } => {
                format!("Player: {} hand, {}", player.hand.key(), player.style)
            }
            Self::HeightsGiven { heights } => format!(
                "Heights {}: fret 1 {} and {}, fret 12 {} and {}",
                if heights.measured {
                    "measured"
                } else {
                    "assumed"
                },
                heights.first_fret_treble.written,
                heights.first_fret_bass.written,
                heights.twelfth_treble.written,
                heights.twelfth_bass.written
            ),
            Self::Strung { strung } => {
                let gauges: Vec<String> = strung.set.iter().map(StringRecord::label).collect();
                format!(
                    "Strung {} in {}, A = {} Hz",
                    gauges.join(" "),
                    strung.tuning.notes.join(" "),
                    strung.tuning.a4_hz
                )
            }
            Self::CoreMeasured { string, core } => {
                format!("String {string}: core {}", core.written)
            }
            Self::CutOffWeighed { string, weighing } => format!(
                "String {string}: {} weighs {} g",
                weighing.length.written, weighing.grams
            ),
            Self::StringsAged { old } => if *old {
                "Strings found old"
            } else {
                "Strings are fresh"
            }
            .to_owned(),
            Self::TunerChosen { tuner } => {
                format!("Tuner: {}, {} cents", tuner.name, tuner.resolution_cents)
            }
            Self::ScaleMeasured {
                string,
                nut_to_twelfth,
            } => {
                format!("String {string}: nut to fret 12 {}", nut_to_twelfth.written)
            }
            Self::SaddleMeasured {
                string,
                twelfth_to_saddle,
            } => {
                format!(
                    "String {string}: fret 12 to saddle {}",
                    twelfth_to_saddle.written
                )
            }
            Self::RoomMeasured { string, behind } => {
                format!("String {string}: {} left behind the saddle", behind.written)
            }
            Self::IntonationRead {
                string,
                fret,
                cents,
                against,
                ..
            } => format!(
                "String {string}, fret {fret}: {} cents against {}",
                print::cents(Cents::new(*cents)),
                match against {
                    Against::Open => "the open string",
                    Against::Harmonic => "the harmonic",
                }
            ),
            Self::SaddleMoved { string, turns } => format!(
                "String {string}: saddle {} {}",
                print::turns_with_word(Turns::new(*turns)),
                if *turns >= 0.0 {
                    "away from the neck"
                } else {
                    "toward the neck"
                }
            ),
            Self::SaddleTurnedRound { string } => format!("String {string}: saddle turned round"),
            Self::BridgeMoved { by } => format!("Bridge moved by {}", by.written),
            Self::ReliefRead {
                side, span, seen, ..
            } => format!(
                "Relief, {} side, {}: {}",
                side.key(),
                span.words(),
                match seen {
                    Gap::Open { gap } => gap.written.as_str(),
                    Gap::Touches => "none, it touches",
                    Gap::Rocks => "it rocks",
                }
            ),
            Self::RodTurned { turns } => format!(
                "Rod {} {}",
                print::turns_with_word(Turns::new(turns.abs())),
                if *turns >= 0.0 { "tighter" } else { "looser" }
            ),
            Self::RodStopped { how } => format!("Rod: {}", how.name()),
            Self::NutRead {
                string, held, gap, ..
            } => {
                format!(
                    "String {string}, {}fret 1: {}",
                    held_words(*held),
                    gap.written
                )
            }
            Self::NutMoved { strings, by } => {
                let names: Vec<String> = strings.iter().map(u8::to_string).collect();
                let way = if by.middle().mm() < 0.0 {
                    "filed"
                } else {
                    "raised"
                };
                format!(
                    "Nut {way} by {} under string {}",
                    by.written.trim_start_matches(['-', '\u{2212}']),
                    names.join(", ")
                )
            }
            Self::ActionRead {
                string,
                fret,
                held,
                gap,
                ..
            } => format!(
                "String {string}, {}height over fret {fret}: {}",
                held_words(*held),
                gap.written
            ),
            Self::HeightMoved { adjuster, turns } => format!(
                "Height, {}: {} {}",
                adjuster.name(),
                print::turns_with_word(Turns::new(turns.abs())),
                if *turns >= 0.0 { "up" } else { "down" }
            ),
            Self::HeightAtEnd { adjuster, end } => format!(
                "Height, {}: {}",
                adjuster.name(),
                match end {
                    HeightEnd::Bottom => "all the way down",
                    HeightEnd::Top => "all the way up",
                }
            ),
            Self::NeckShimmed { shim, thickness } => match shim {
                Shim::Wedge => format!("Neck on a wedge of {}", thickness.written),
                Shim::Full => format!("Neck on a full shim of {}", thickness.written),
            },
            Self::TargetsSet { targets } => format!(
                "Targets: relief {} ({}), nut {} and {}, height {} and {} over fret {}",
                targets.relief.written,
                targets.relief_span.words(),
                targets.nut_treble.written,
                targets.nut_bass.written,
                targets.action_treble.written,
                targets.action_bass.written,
                targets.action_fret
            ),
            Self::BuzzHeard {
                string,
                held,
                attack,
            } => format!(
                "String {string} buzzes {} from {:.0} % of the hardest stroke",
                if *held == 0 {
                    "open".to_owned()
                } else {
                    format!("at fret {held}")
                },
                attack * 100.0
            ),
            Self::BalanceRead { gap, .. } => format!(
                "Vibrato: {}",
                gap.as_ref().map_or_else(
                    || "flat on the body".to_owned(),
                    |gap| format!("gap {}", gap.written)
                )
            ),
            Self::ClawTurned { turns, apart } => {
                let side = |turns: f64| {
                    format!(
                        "{} {}",
                        print::turns_with_word(Turns::new(turns.abs())),
                        if turns >= 0.0 { "in" } else { "out" }
                    )
                };
                if *apart == 0.0 {
                    format!("Claw {}", side(*turns))
                } else {
                    format!(
                        "Claw: treble side {}, bass side {}",
                        side(turns - apart),
                        side(turns + apart)
                    )
                }
            }
            Self::SeatMoved { by } => format!("Seat of the vibrato's spring: {}", by.written),
            Self::SpringMeasured { length } => {
                format!("A spring of the vibrato is {} long", length.written)
            }
            Self::ClawEnds { treble, bass } => format!(
                "From claw to wall: {} at the treble side, {} at the bass side",
                treble.written, bass.written
            ),
            Self::SpringsHooked { count, converging } => format!(
                "{count} springs{}",
                if *converging {
                    ", converging on the claw"
                } else {
                    ", parallel"
                }
            ),
            Self::BalanceWanted { school } => format!("Vibrato wanted {}", school.name()),
            Self::PickupRead {
                pickup, side, gap, ..
            } => format!(
                "Pickup {}, {} side: gap {}",
                pickup + 1,
                side.key(),
                gap.written
            ),
            Self::PickupTurned {
                pickup,
                side,
                turns,
            } => format!(
                "Pickup {}, {} side: {} {}",
                pickup + 1,
                side.key(),
                print::turns_with_word(Turns::new(turns.abs())),
                if *turns >= 0.0 { "up" } else { "down" }
            ),
            Self::PoleRead {
                pickup,
                string,
                gap,
            } => format!(
                "Pickup {}, string {string}: gap {}",
                pickup + 1,
                gap.written
            ),
            Self::PoleTurned {
                pickup,
                string,
                turns,
            } => format!(
                "Pickup {}, pole of string {string}: {} {}",
                pickup + 1,
                print::turns_with_word(Turns::new(turns.abs())),
                if *turns >= 0.0 { "up" } else { "down" }
            ),
            Self::PickupAtEnd { pickup, side, end } => format!(
                "Pickup {}, {} side: {}",
                pickup + 1,
                side.key(),
                match end {
                    HeightEnd::Bottom => "foam or spring squeezed, no further down",
                    HeightEnd::Top => "no thread left, no further up",
                }
            ),
            Self::PickupWanted {
                pickup,
                treble,
                bass,
            } => format!(
                "Pickup {} wanted {} treble, {} bass",
                pickup + 1,
                treble.written,
                bass.written
            ),
            Self::LevelRead {
                pickup,
                string,
                decibels,
            } => format!("Pickup {}, string {string}: {decibels} dB", pickup + 1),
            Self::ScrewStuck { string } => {
                format!("String {string}: the saddle screw will not turn")
            }
            Self::Preferred {
                string,
                alone: true,
            } => format!("String {string} matters more on its saddle"),
            Self::Preferred {
                string,
                alone: false,
            } => format!("Saddle of string {string} shared evenly"),
            Self::Noted { text } => format!("Note: {text}"),
            Self::StageSet { stage } => format!("Now {}", stage.name()),
            Self::Undone { target } => format!("Took back entry {target}"),
            Self::Redone { target } => format!("Entry {target} counts again"),
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
