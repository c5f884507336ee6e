//! A record as lines to read and to compare.

use crate::vocabulary::*;
use gradimen_core::quantity::Rate;
use gradimen_core::units::print;

/// A line of a record.
pub(super) struct Fact {
    pub(super) name: &'static str,
    pub(super) value: String,
}

/// A record as lines to read and to compare.
pub(super) fn facts(instrument: &Instrument) -> Vec<Fact> {
    let bridge = &instrument.bridge;
    let screws = &bridge.intonation;
    let scales: Vec<String> = instrument
        .scales
        .iter()
        .map(|scale| print::with_unit(scale.middle()))
        .collect();
    let one_radius = instrument.radius_nut.middle() == instrument.radius_last_fret.middle();
    let radius = if one_radius {
        format!(
            "{} ({})",
            print::with_unit(instrument.radius_nut.middle()),
            instrument.radius_nut.written
        )
    } else {
        format!(
            "{} at the nut, {} at the last fret",
            instrument.radius_nut.written, instrument.radius_last_fret.written
        )
    };
    let clockwise = match screws.clockwise {
        SaddleWay::Away => "away from the neck",
        SaddleWay::Toward => "toward the neck",
    };
    let fact = |name, value| Fact { name, value };
    vec![
        fact(
            "kind",
            format!(
                "{}-string {}{}",
                instrument.strings,
                instrument.kind.key(),
                if instrument.left_handed {
                    ", left-handed"
                } else {
                    ""
                }
            ),
        ),
        fact(
            "scale",
            format!(
                "{} (written {})",
                scales.join(", "),
                instrument
                    .scales
                    .iter()
                    .map(|scale| scale.written.as_str())
                    .collect::<Vec<_>>()
                    .join("; ")
            ),
        ),
        fact("frets", instrument.frets.to_string()),
        fact("board radius", radius),
        fact(
            "string spread",
            format!(
                "{} at the nut, {} at the bridge",
                print::with_unit(instrument.spread_nut.middle()),
                print::with_unit(instrument.spread_bridge.middle())
            ),
        ),
        fact(
            "nut",
            if instrument.locking_nut {
                "locking"
            } else {
                instrument.construction.nut.name()
            }
            .to_owned(),
        ),
        fact("bridge", bridge.family.name().to_owned()),
        fact("saddles carry", bridge.saddles_in_words("+", ", ")),
        fact(
            "saddle travel per turn",
            format!(
                "{}, clockwise {clockwise} seen from {}",
                print::with_unit(screws.pitch.middle()),
                screws.head.name()
            ),
        ),
        fact(
            "saddle travel",
            format!(
                "{} to {} behind the scale line",
                print::with_unit(screws.nearest.middle()),
                print::with_unit(screws.furthest.middle())
            ),
        ),
        fact(
            "extra travel with the saddle reversed",
            if screws.turn_round.mm() > 0.0 {
                print::with_unit(screws.turn_round)
            } else {
                "not possible".to_owned()
            },
        ),
        fact(
            "height screws",
            format!(
                "{} a turn, {} raises, {} of travel",
                print::with_unit(bridge.height.pitch.middle()),
                if bridge.height.clockwise_raises {
                    "clockwise"
                } else {
                    "counter-clockwise"
                },
                print::with_unit(bridge.height.travel.middle())
            ),
        ),
        fact(
            "behind the saddle",
            print::with_unit(bridge.behind_saddle.middle()),
        ),
        fact("saddles are moved", bridge.details.drive.name().to_owned()),
        fact("built otherwise", built(instrument)),
        fact("neck", neck(&instrument.neck)),
        fact("pickups", pickups(&instrument.pickups)),
        fact(
            "vibrato",
            bridge
                .vibrato
                .as_ref()
                .map_or_else(|| "none".to_owned(), vibrato),
        ),
    ]
}

/// What most instruments do not have.
fn built(instrument: &Instrument) -> String {
    let (of, details) = (&instrument.construction, &instrument.bridge.details);
    let offsets = of
        .nut_offsets
        .iter()
        .map(|by| print::with_unit(by.middle()));
    let offsets: Vec<String> = offsets.collect();
    let courses = of.courses.iter().map(|course| text::list(course, "+"));
    let courses: Vec<String> = courses.collect();
    let mut parts: Vec<String> = Vec::new();
    for (there, says) in [
        (of.headless, "headless"),
        (of.fretless, "fretless"),
        (
            details.posts_and_saddle_screws,
            "posts, and screws in the saddles too",
        ),
        (details.no_height_screws, "no height screws"),
        (details.rollers, "roller saddles"),
        (details.fine_tuners, "fine tuners"),
    ] {
        if there {
            parts.push(says.to_owned());
        }
    }
    if !offsets.is_empty() {
        parts.push(format!("nut forward by {}", offsets.join("; ")));
    }
    if !courses.is_empty() {
        parts.push(format!("courses {}", courses.join(", ")));
    }
    if let Some(fall) = &of.fall_away {
        parts.push(format!(
            "falls away {} at the last fret",
            print::with_unit(fall.middle())
        ));
    }
    if let Some(other) = &instrument.bridge.other_height {
        parts.push(format!(
            "the other height screws {} a turn, {} raises",
            print::with_unit(other.pitch.middle()),
            if other.clockwise_raises {
                "clockwise"
            } else {
                "counter-clockwise"
            }
        ));
    }
    if parts.is_empty() {
        "as most are".to_owned()
    } else {
        parts.join(", ")
    }
}

fn neck(neck: &NeckRecord) -> String {
    format!(
        "joins the body at fret {}, {}, its nut {}{}, {}",
        neck.joint_fret,
        neck.rod.name(),
        neck.rod_at.name(),
        if neck.rod_reversed {
            ", clockwise loosens"
        } else {
            ""
        },
        if neck.bolted {
            format!(
                "on screws in a pocket of {}",
                print::with_unit(neck.pocket.middle())
            )
        } else {
            "glued in".to_owned()
        }
    )
}

fn pickups(pickups: &[PickupRecord]) -> String {
    let perhaps = |name: &str, measured: Option<&Measurement>| {
        measured.map_or(String::new(), |measured| {
            format!(", {name} {}", print::with_unit(measured.middle()))
        })
    };
    let each: Vec<String> = pickups
        .iter()
        .map(|pickup| {
            format!(
                "{}, {}, {} before the scale line, {} a turn, {} raises{}{}{}",
                pickup.name,
                pickup.family.name(),
                print::with_unit(pickup.before_saddle.middle()),
                print::with_unit(pickup.pitch.middle()),
                if pickup.clockwise_raises {
                    "clockwise"
                } else {
                    "counter-clockwise"
                },
                pickup
                    .mounting
                    .map_or(String::new(), |held| format!(", {}", held.name())),
                perhaps("travel", pickup.travel.as_ref()),
                perhaps("pole screws", pickup.pole_pitch.as_ref())
            )
        })
        .collect();
    if each.is_empty() {
        "none".to_owned()
    } else {
        each.join("; ")
    }
}

fn vibrato(sheet: &VibratoRecord) -> String {
    let spring = print::rate(Rate::from_newtons_per_metre(sheet.rate_newtons_per_metre));
    let springs = match sheet.springs {
        1 => format!("one spring of {spring}"),
        count => format!(
            "{count} springs of {spring} each, {}",
            if sheet.converging {
                "converging"
            } else {
                "parallel"
            }
        ),
    };
    let mm = |part: &Measurement| print::with_unit(part.middle());
    format!(
        "{springs}, {} free, {} N before it starts to stretch, {} long; strings {} behind and {} above, springs on {}; gap {} level at {}; adjuster {}",
        mm(&sheet.spring_free),
        sheet.preload_newtons,
        mm(&sheet.spring_length),
        mm(&sheet.crown_back),
        mm(&sheet.crown_up),
        mm(&sheet.hook_down),
        mm(&sheet.level_gap),
        mm(&sheet.tail_back),
        mm(&sheet.claw_pitch)
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The lines that differ between two records.
    fn differ(change: impl FnOnce(&mut Instrument)) -> Vec<&'static str> {
        let mut before = usual_instrument(Kind::Guitar, 6);
        before.bridge = Bridge::profile(BridgeFamily::KnifeEdgeVibrato, 6);
        let mut after = before.clone();
        change(&mut after);
        facts(&before)
            .into_iter()
            .zip(facts(&after))
            .filter(|(before, after)| before.value != after.value)
            .map(|(before, _)| before.name)
            .collect()
    }

    #[test]
    fn every_part_of_a_record_shows_that_it_changed() {
        let spring = |record: &mut Instrument| {
            if let Some(sheet) = &mut record.bridge.vibrato {
                sheet.rate_newtons_per_metre = 980.0;
            }
        };
        assert_eq!(differ(spring), ["vibrato"]);
        assert_eq!(differ(|record| record.bridge.vibrato = None), ["vibrato"]);
        assert_eq!(differ(|record| record.neck.joint_fret = 15), ["neck"]);
        let poles = |record: &mut Instrument| {
            record.pickups[0].pole_pitch = Some(Measurement::mm(0.5));
        };
        assert_eq!(differ(poles), ["pickups"]);
        assert_eq!(differ(|record| record.frets = 21), ["frets"]);
        let other = |record: &mut Instrument| record.construction.fretless = true;
        assert_eq!(differ(other), ["built otherwise"]);
        let clamped = |record: &mut Instrument| record.bridge.details.drive = SaddleDrive::Clamped;
        assert_eq!(differ(clamped), ["saddles are moved"]);
        assert!(differ(|_| ()).is_empty());
    }
}
