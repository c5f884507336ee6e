//! What was found, in words, and what can be done about it.
//!
//! ```
//! use gradimen_bench::finding::Finding;
//! use gradimen_bench::text::findings;
//!
//! let says = findings::sentence(&Finding::Tight { string: 6 });
//! assert!(says.starts_with("String 6"));
//! ```

use gradimen_core::frets::{Blame, FretFit};
use gradimen_core::quantity::Length;
use gradimen_core::units::print;
use gradimen_core::units::print::UNIT;

use super::{hundredths, moves, numbers, side};
use crate::finding::{Finding, Remedy, ScaleCheck, Screws};
use crate::model::instrument::PutRight;
use crate::model::{End, Side};

/// A remedy in words.
pub fn remedy(remedy: &Remedy) -> String {
    match remedy {
        Remedy::ReverseSaddle { gain, enough: true } => {
            format!(
                "reverse the saddle: gains {}, enough",
                print::with_unit(*gain)
            )
        }
        Remedy::ReverseSaddle {
            gain,
            enough: false,
        } => {
            format!(
                "reverse the saddle: gains {}, not enough alone",
                print::with_unit(*gain)
            )
        }
        Remedy::OtherString { string, setback } => format!(
            "fit {} {}: its saddle would stand at {}",
            string.label(),
            string.make.name(),
            print::tenths(*setback)
        ),
        Remedy::MoveBridge { by } => format!(
            "move the bridge {} {} the neck",
            print::tenths(enough(*by)),
            if *by >= Length::ZERO {
                "away from"
            } else {
                "toward"
            }
        ),
    }
}

/// A finding in words.
pub fn sentence(finding: &Finding) -> String {
    match finding {
            Finding::Scale(check) => scale_sentence(check),
            Finding::OutOfTravel {
                string,
                short_by,
                sigma,
                ..
            } => {
                let end = if *short_by >= Length::ZERO {
                    "back"
                } else {
                    "front"
                };
                let surely = if short_by.abs() > *sigma * 2.0 {
                    "is"
                } else {
                    "is probably"
                };
                format!(
                    "String {string}: the saddle {surely} {} \u{b1} {} {UNIT} out of travel at the {end} end.",
                    numbers::in_unit(short_by.abs(), 1),
                    numbers::in_unit(*sigma, 1)
                )
            }
            Finding::Tight { string } => format!(
                "String {string}: less than one turn of travel is left where the saddle should be."
            ),
            Finding::NearBreaking { string, share } => format!(
                "String {string} is at {:.0} % of its breaking strength; from 75 % it may break in tuning or bending. Protect the eyes.",
                share * 100.0
            ),
            Finding::OldStrings => {
                "The strings are old: whatever is set on them is provisional.".to_owned()
            }
            Finding::Frets { string, fit } => frets_sentence(*string, fit),
            Finding::Questioned { string, cents, .. } => format!(
                "String {string}: the reading {} cents does not fit the others. Retuned to pitch? The right string? The sign? It is saved but counts little.",
                print::cents(*cents)
            ),
            Finding::Stuck { string } => format!(
                "String {string}: the saddle screw is stuck. Do not force it: slacken the string, try penetrating oil and time; if it stays seized or its head is damaged, hand it to a specialist."
            ),
            Finding::Twist {
                backward: Some(backward),
                relief,
            } => {
                let other = match backward {
                    Side::Treble => "bass",
                    Side::Bass => "treble",
                };
                format!(
                    "The {} side is in back-bow while the {other} side shows relief ({} treble, {} bass by hold 1 and last): a twist. The truss rod bends both sides alike and cannot cure it: fretwork first.",
                    side(*backward),
                    hundredths(relief[0]),
                    hundredths(relief[1])
                )
            }
            Finding::Twist {
                backward: None,
                relief,
            } => {
                let (more, less) = if relief[1] > relief[0] {
                    (Side::Bass, Side::Treble)
                } else {
                    (Side::Treble, Side::Bass)
                };
                format!(
                    "The {} side has {} more relief than the {} side ({} treble, {} bass by hold 1 and last): a twist. One truss rod bends both sides alike: no turn of it brings both in spec.",
                    side(more),
                    hundredths((relief[1] - relief[0]).abs()),
                    side(less),
                    hundredths(relief[0]),
                    hundredths(relief[1])
                )
            }
            Finding::BridgePlace { strings, by } => {
                let names: Vec<String> = strings.iter().map(u8::to_string).collect();
                format!(
                    "The bridge stands {} for these strings: the saddle of string {} is {} {UNIT} short of its place at the {} of its travel. Nothing is turned before that is settled.",
                    if *by > Length::ZERO { "too far forward" } else { "too far back" },
                    names.join(", "),
                    crate::text::numbers::in_unit(by.abs(), 1),
                    if *by > Length::ZERO { "back" } else { "front" }
                )
            }
            Finding::TrebleMore { by } => format!(
                "The treble side has {} more relief than the bass side. A little more on the bass side is normal, on the treble side it is not: look along the board for a twist before going on.",
                hundredths(*by)
            ),
            Finding::BackBow { slack: false } => {
                "Both sides are in back-bow: loosen the truss rod before anything else is measured.".to_owned()
            }
            Finding::BackBow { slack: true } => "Both sides are in back-bow and the one-way truss rod is slack already: it can only pull the neck back, and has nothing left to give. No turn of it helps.".to_owned(),
            Finding::NoSideBelow(side) => format!(
                "The truss rod is turned only so far that the {} side stays straight: below that its frets touch, whatever the other side still wants.",
                self::side(*side)
            ),
            Finding::RodBackwards(way) => format!(
                "The neck went the other way than this truss rod was turned. By the record {way} tightens; on a few it loosens. Make sure of that before another turn, and say so in the record: truss rod works the other way round.",
            ),
            Finding::RodSpent { how, needed } => {
                let felt = match how {
                    End::Hard => "is very hard to turn",
                    End::Rubbery => "springs back",
                    End::NoEffect => "is slack or turns without effect",
                    _ => "is stuck or at its end",
                };
                if *needed {
                    format!(
                        "The truss rod {felt}. Stop and never force it: a stripped nut or a broken rod can cost the neck. Hand it to a specialist."
                    )
                } else {
                    format!(
                        "The truss rod {felt}. Nothing is asked of it now: leave it alone, and tell the owner. When the neck moves with the seasons it will be a specialist's work."
                    )
                }
            }
            Finding::NutTooLow(slots) => {
                let each: Vec<String> = slots
                    .iter()
                    .map(|(string, by)| format!("string {string} by {}", hundredths(*by)))
                    .collect();
                format!(
                    "Slots too low at fret 1 once neck and action are set: {}. Filing cannot put that back.",
                    each.join(", ")
                )
            }
            Finding::NutFloor(strings) => format!(
                "Slots of string {} stay above their target: any lower, and the open string touches at this player's hardest stroke.",
                super::list(strings, ", ")
            ),
            Finding::NutCeiling(strings) => format!(
                "Fret 1 will play sharp with the 12th right: {}. The slot stands higher than the first frets bear.",
                strings
                    .iter()
                    .map(|(string, sharp)| format!("string {string} by {} cents", sharp.value().round()))
                    .collect::<Vec<_>>()
                    .join(", ")
            ),
            Finding::HeightSpent { adjuster, end, short_by, .. } => format!(
                "Action, {}: all the way {} and still {} {UNIT} short.",
                moves::adjuster(*adjuster),
                if *end == End::Bottom { "down" } else { "up" },
                numbers::in_unit(*short_by, 1)
            ),
            Finding::PulledUp(gap) => format!(
                "The vibrato is pulled up: {} {UNIT} at the back of the plate. Every action and setback measured now is of a tilted plate: bring it down before anything else is measured.",
                numbers::in_unit(*gap, 1)
            ),
            Finding::ClawSpent { by, claw, .. } => format!(
                "{} would have to go {} {UNIT} {}, beyond its thread or its wall.",
                if *claw { "The claw" } else { "The seat of the spring" },
                numbers::in_unit(by.abs(), 1),
                match (*claw, *by > Length::ZERO) {
                    (true, true) => "in",
                    (true, false) => "out",
                    (false, true) => "up",
                    (false, false) => "down",
                }
            ),
            Finding::RunsAway => "At its target this float has no steady rest: lifted a little, the strings pull it up further than the springs bring it back, and it runs away as it is retuned.".to_owned(),
            Finding::SpringsAtEnd { loose: true } => "A spring of the vibrato hangs loose at rest: it can come off its hook or rattle.".to_owned(),
            Finding::SpringsAtEnd { loose: false } => "A spring of the vibrato is stretched to twice its length and more: it will not come back as it was.".to_owned(),
            Finding::PickupSpent { pickup, side: on, end, squeezed, short_by } => format!(
                "The {pickup} pickup, {} side: {}, no further {}, and still {} {UNIT} short.",
                side(*on),
                if *squeezed { "foam or spring squeezed" } else { "out of thread" },
                if *end == End::Bottom { "down" } else { "up" },
                numbers::in_unit(*short_by, 1)
            ),
            Finding::Springs { on: 1, wanted: None } => "This spring cannot hold this set at its target.".to_owned(),
            Finding::Springs { on, wanted: Some(wanted) } => format!(
                "{on} springs cannot hold this set at its target: {wanted} could, with the claw in its range."
            ),
            Finding::Springs { on, wanted: None } => format!(
                "{on} springs cannot hold this set at its target, and five of the same cannot either: stiffer springs, or lighter strings."
            ),
            Finding::TooNear(near) => format!(
                "So near that the magnets pull on the strings: {}. Wound strings give double notes high up, and the intonation wavers there.",
                near.iter()
                    .map(|(pickup, on)| format!("{pickup} pickup, {} side", side(*on)))
                    .collect::<Vec<_>>()
                    .join(", ")
            ),
            Finding::OtherWayRound { family, screws, clockwise } => format!(
                "By the record {} raise {}, the other way round than on most of these: {}. Turn an eighth and look before the rest.",
                match screws {
                    Screws::InSaddles => "the height screws in the saddles",
                    Screws::Posts => "the posts",
                },
                if *clockwise { "clockwise" } else { "counter-clockwise" },
                family.name()
            ),
            Finding::RecordPutRight(PutRight::Posts) => "The record had its posts rise clockwise, which was a wrong default of ours: posts and wheels go down clockwise, seen from above. It is put right here. Should yours be the other way round, say so in the record.".to_owned(),
            Finding::RecordPutRight(PutRight::Pickups) => "The record had its pickups rise clockwise, which was a wrong default of ours: screwed to the body they go down clockwise. It is put right here. Should yours hang from a ring or guard, say so in the record.".to_owned(),
            Finding::OffLoad => "A long neck asks much of its truss rod at full tension. Slacken the strings, tighten the truss rod a little past the turn, tune up, then back it off under load: loosening under load is harmless, tightening may be asking too much. A clamp and half an hour of rest is specialist work.".to_owned(),
    }
}

/// What can be done about it.
pub fn options(finding: &Finding) -> Vec<String> {
    match finding {
        Finding::OutOfTravel { remedies, .. } => remedies.iter().map(remedy).collect(),
            Finding::Twist { backward: None, .. } => vec![
                "neck work: a heat press, or frets levelled to one side's relief, by a specialist".to_owned(),
                "split the difference: allow relief more at its target, and raise that side's action".to_owned(),
                "another neck".to_owned(),
            ],
            Finding::BackBow { slack: true } => vec![
                "heavier strings, or a higher tuning: more tension draws the neck forward; see what another set would change".to_owned(),
                "a heat press, or frets levelled to a straight neck, by a specialist".to_owned(),
                "on a screwed-on neck: another neck".to_owned(),
            ],
            Finding::RodBackwards(_) => vec![
                "make sure that it was turned the way that was recorded: undo the entry and record it as it was".to_owned(),
                "measure again in playing position, tuned to pitch".to_owned(),
                "if it does work the other way round: say so in the record of the instrument, and this job takes it over, with what was turned before".to_owned(),
            ],
            Finding::RodSpent { how: End::NoEffect, needed: true } => vec![
                "never tighten on in hope: a nut that turns and does nothing may be stripped or the rod broken".to_owned(),
                "with relief left to take out: lighter strings, or a specialist".to_owned(),
            ],
            Finding::BridgePlace { by, .. } => vec![
                format!(
                    "move the bridge {} {} the neck",
                    print::tenths(enough(*by)),
                    if *by > Length::ZERO { "away from" } else { "toward" }
                ),
                "measure nut to fret 12, and fret 12 to the saddles, once more".to_owned(),
                "other strings: see what another set would change".to_owned(),
            ],
            Finding::Scale(check) if !check.agrees && check.shift != Length::ZERO => {
                let by = print::tenths(enough(check.shift));
                let (bridge, neck) = if check.shift > Length::ZERO {
                    ("away from the neck", "toward the bridge")
                } else {
                    ("toward the neck", "away from the bridge")
                };
                vec![
                    format!("move the bridge {by} {bridge}"),
                    format!("or move the neck {by} {neck}"),
                    "or fit a neck of the right scale".to_owned(),
                ]
            }
            Finding::ClawSpent { claw, rate, .. } => {
                let mut ways = Vec::new();
                if let Some(rate) = rate {
                    ways.push(format!(
                        "springs of {} each hold it where the adjuster stands",
                        print::rate(*rate)
                    ));
                }
                if *claw {
                    ways.push("another number of springs".to_owned());
                }
                ways.push("strings of another tension: see what another set would change".to_owned());
                ways
            }
            Finding::NutCeiling(_) => vec![
                "a lower target for the gap at fret 1, where the open strings stay clean".to_owned(),
                "or left so for the player's attack, and said so".to_owned(),
            ],
            Finding::RunsAway => vec![
                "more springs, each stretched less".to_owned(),
                "make sure of the sheet: how far the break points lie behind the edge counts most".to_owned(),
                "or rest it on the body".to_owned(),
            ],
            Finding::SpringsAtEnd { .. } => vec![
                "another number of springs, so that each works in the middle of its stretch"
                    .to_owned(),
            ],
            Finding::PickupSpent { end, squeezed, .. } => vec![
                match (*squeezed, *end) {
                    (true, _) => "never force it: covers crack. Thinner foam or shorter springs, by someone who takes the pickup out",
                    (false, End::Bottom) => "longer screws, so that it can hang lower",
                    (false, _) => "longer screws, or thicker foam under the pickup",
                }
                .to_owned(),
                "or leave it, and even the others out to it by ear".to_owned(),
            ],
            Finding::NutTooLow(_) => vec![
                "a new nut, or a shim under it".to_owned(),
                "fill the slot and cut it again: wear glasses, and keep the dust out of the lungs"
                    .to_owned(),
                "or leave it, if it does not buzz open at this touch".to_owned(),
            ],
            Finding::HeightSpent {
                end: End::Bottom,
                wedge,
                shim,
                ..
            } => {
                let mut ways = Vec::new();
                if let Some(wedge) = wedge {
                    ways.push(format!(
                        "a wedge of {} at the heel end of the pocket: brings the saddles to the middle of their range",
                        print::with_unit(Length::from_mm((wedge.mm() * 20.0).round() / 20.0))
                    ));
                }
                if let Some(shim) = shim {
                    ways.push(format!(
                        "or a full shim of {} under the heel",
                        print::tenths(*shim)
                    ));
                }
                ways.push(
                    "left so low, the string touches a second time behind the saddle and the screws protrude under the hand".to_owned(),
                );
                ways.push(
                    "first make sure of the relief: too much of it lifts the strings".to_owned(),
                );
                ways
            }
            Finding::HeightSpent {
                end: End::Top,
                ..
            } => vec![
                "longer screws, or higher saddles".to_owned(),
                "take a wedge or shim out from under the neck, if there is one".to_owned(),
            ],
        _ => Vec::new(),
    }
}

/// A shift without its sign, up to the next tenth of a millimetre: rounding down would not do.
fn enough(shift: Length) -> Length {
    Length::from_mm((shift.abs().mm() * 10.0 - 1e-6).ceil() / 10.0)
}

fn scale_sentence(check: &ScaleCheck) -> String {
    let (measured, named) = (
        print::with_unit(check.measured),
        print::with_unit(check.named),
    );
    if check.agrees {
        return format!(
            "String {}: the scale measures {measured}, on record {named}: they agree.",
            check.string
        );
    }
    let longer = if check.difference() > Length::ZERO {
        "longer"
    } else {
        "shorter"
    };
    let by = print::with_unit(check.difference().abs());
    let room = if check.shift == Length::ZERO {
        "The saddles can still follow, if the nut stands where it did".to_owned()
    } else {
        format!(
            "The saddles are {} out of travel, a turn to spare included",
            print::tenths(enough(check.shift))
        )
    };
    format!(
        "String {}: the scale measures {measured}, {by} {longer} than the {named} on record: a wrong or foreign neck. {room}. Measure fret 12 to a saddle to be sure.",
        check.string
    )
}

fn frets_sentence(string: u8, fit: &FretFit) -> String {
    let remaining: Vec<String> = fit
        .remaining
        .iter()
        .map(|(fret, cents)| format!("{fret}: {}", print::cents(*cents)))
        .collect();
    let left = format!(
        " Fitted: saddle at {:.1} \u{b1} {:.1} mm, should be at {:.1}; nut {} \u{b1} {:.1} mm toward the bridge; finger {:.1} \u{b1} {:.1} N. With the saddle right there stay, by fret, in cents: {}.",
        fit.setback.value.mm(),
        fit.setback.sigma.mm(),
        fit.right_setback.mm(),
        print::signed(fit.nut.value.mm(), 1),
        fit.nut.sigma.mm(),
        fit.force.value.newtons(),
        fit.force.sigma.newtons(),
        remaining.join(", ")
    );
    match fit.blame {
        Blame::Saddle => format!("String {string}: the saddle explains all frets read.{left}"),
        Blame::Nut => {
            let way = if fit.nut.value < Length::ZERO {
                "its slot is too high or its edge too far from fret 1"
            } else {
                "its slot is low or its edge too near fret 1"
            };
            format!("String {string}: the nut, {way}.{left}")
        }
        Blame::Finger => format!(
            "String {string}: the finger. Press lightly, right behind the fret, and measure again.{left}"
        ),
        Blame::Fret(fret) => format!(
            "String {string}: fret {fret} stands alone. Read it again; if it stays, its crown is worn, high or out of place.{left}"
        ),
    }
}
