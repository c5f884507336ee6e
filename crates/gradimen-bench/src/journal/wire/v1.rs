//! Version 1 of the event forms, frozen: read for ever, never written.
//!
//! What stands in a journal of that version is read by these forms and then told in today's
//! ([`Event::upcast`]). Readings in documents of other programs may name their `tool` in this form too.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::journal::event::{self as today, Opened};
use crate::model::{
    Adjuster, Amount, BalanceSchool, Buzz, End, HeightsGiven, Measurement, Observation, Place,
    Player, Reading, Reference, ReliefSpan, Shim, Side, Stage, Strung, Targets, Tool, Tuner,
    Wanted, Weighing,
};

/// What was seen under a straight string or edge.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "seen", rename_all = "snake_case", deny_unknown_fields)]
pub enum Gap {
    /// A gap.
    Open {
        /// How wide.
        gap: Measurement,
    },
    /// No gap: it touches.
    Touches,
    /// It rests in the middle and rocks: back-bow.
    Rocks,
}

/// How a truss rod refused.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum RodStop {
    /// Very hard to turn.
    Hard,
    /// It springs back.
    Rubbery,
    /// It turns and nothing happens, or it is slack already.
    NoEffect,
}

/// What lifts strings at the bridge.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum HeightAdjuster {
    /// Both screws under a string.
    String(u8),
    /// The post of a side.
    Post(Side),
}

/// An end of an adjuster's travel.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum HeightEnd {
    /// Down.
    Bottom,
    /// Up.
    Top,
}

/// Something that happened to a job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "type", rename_all = "snake_case", deny_unknown_fields)]
#[expect(
    clippy::large_enum_variant,
    reason = "it is told in today's form as soon as it is read"
)]
pub enum Event {
    /// The job was opened; always the first event.
    Opened(Box<Opened>),
    /// Another hand or style.
    PlayerChanged {
        /// The player now.
        player: Player,
    },
    /// Heights were measured or assumed otherwise.
    HeightsGiven {
        /// The heights now.
        heights: HeightsGiven,
    },
    /// Other strings, another tuning, or both.
    Strung {
        /// Set and tuning now.
        strung: Strung,
    },
    /// A core was measured.
    CoreMeasured {
        /// What it was read with, where that was said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tool: Option<Tool>,
        /// Which string.
        string: u8,
        /// Round diameter of equal area.
        core: Measurement,
    },
    /// A cut-off was weighed.
    CutOffWeighed {
        /// Which string.
        string: u8,
        /// What was weighed.
        weighing: Weighing,
    },
    /// The strings were found old, or are new again.
    StringsAged {
        /// Old or not.
        old: bool,
    },
    /// A tuner was chosen.
    TunerChosen {
        /// Which.
        tuner: Tuner,
    },
    /// Nut edge to the crown of fret 12 was measured.
    ScaleMeasured {
        /// What it was read with, where that was said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tool: Option<Tool>,
        /// Along which string.
        string: u8,
        /// The distance.
        nut_to_twelfth: Measurement,
    },
    /// Crown of fret 12 to the saddle was measured.
    SaddleMeasured {
        /// What it was read with, where that was said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tool: Option<Tool>,
        /// Along which string.
        string: u8,
        /// The distance.
        twelfth_to_saddle: Measurement,
    },
    /// The way left to a saddle was measured.
    RoomMeasured {
        /// What it was read with, where that was said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tool: Option<Tool>,
        /// A string on that saddle.
        string: u8,
        /// Way left behind the saddle.
        behind: Measurement,
    },
    /// A fretted note was read.
    IntonationRead {
        /// Which string.
        string: u8,
        /// Which fret.
        fret: u8,
        /// How sharp, in cents.
        cents: f64,
        /// Compared with what.
        against: Reference,
        /// Kept although it was questioned.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        kept: bool,
    },
    /// A saddle was moved by its screw.
    SaddleMoved {
        /// A string on that saddle.
        string: u8,
        /// Turns; positive drives away from the neck.
        turns: f64,
    },
    /// A saddle was turned round.
    SaddleTurnedRound {
        /// A string on that saddle.
        string: u8,
    },
    /// The whole bridge was moved.
    BridgeMoved {
        /// Away from the neck; toward it when negative.
        by: Measurement,
    },
    /// The gap under a straight string or edge was read: relief.
    ReliefRead {
        /// What it was read with, where that was said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tool: Option<Tool>,
        /// Along the string of which side.
        side: Side,
        /// Where it was held and read.
        span: ReliefSpan,
        /// What was seen.
        seen: Gap,
        /// Kept although it was questioned.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        kept: bool,
    },
    /// The rod was turned.
    RodTurned {
        /// Turns, clockwise seen at its nut: tightened.
        turns: f64,
    },
    /// The rod would not do its work.
    RodStopped {
        /// How it felt.
        how: RodStop,
    },
    /// The gap over fret 1 was read.
    NutRead {
        /// What it was read with, where that was said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tool: Option<Tool>,
        /// Which string.
        string: u8,
        /// Open (0), or held down at this fret.
        held: u8,
        /// The gap.
        gap: Measurement,
        /// Kept although it was questioned.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        kept: bool,
    },
    /// Nut slots were filed, or the nut raised.
    NutMoved {
        /// Which strings.
        strings: Vec<u8>,
        /// How far up; negative when filed.
        by: Measurement,
    },
    /// The height of a string over a fret was read.
    ActionRead {
        /// What it was read with, where that was said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tool: Option<Tool>,
        /// Which string.
        string: u8,
        /// Over which fret.
        fret: u8,
        /// Open (0), or held down at this fret.
        held: u8,
        /// The height.
        gap: Measurement,
        /// Kept although it was questioned.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        kept: bool,
    },
    /// A height adjuster was turned: the screws of a saddle, or a post.
    HeightMoved {
        /// Which.
        adjuster: HeightAdjuster,
        /// Turns; positive raises.
        turns: f64,
    },
    /// A height adjuster is at its end.
    HeightAtEnd {
        /// Which.
        adjuster: HeightAdjuster,
        /// Which end.
        end: HeightEnd,
    },
    /// The neck was put on a shim.
    NeckShimmed {
        /// A wedge at the heel end, or a shim under all of the heel.
        shim: Shim,
        /// Its thickness.
        thickness: Measurement,
    },
    /// What the setup is to be.
    TargetsSet {
        /// The targets now.
        targets: Targets,
    },
    /// A buzz was heard.
    BuzzHeard {
        /// Which string.
        string: u8,
        /// Held at this fret; 0 is the open string.
        held: u8,
        /// How hard it was played, as a share of this player's hardest stroke.
        attack: f64,
    },
    /// The gap under the tail of a vibrato was read, at pitch.
    BalanceRead {
        /// What it was read with, where that was said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tool: Option<Tool>,
        /// The gap; nothing when it lies flat on the body.
        gap: Option<Measurement>,
        /// Kept although it did not fit.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        kept: bool,
    },
    /// The screws of the claw were turned.
    ClawTurned {
        /// Turns of both; positive is in.
        turns: f64,
        /// Beyond that the bass side in, and as much less the treble side.
        #[serde(default, skip_serializing_if = "is_zero")]
        apart: f64,
    },
    /// The seat of a tail's spring was moved, by its screw or by washers.
    SeatMoved {
        /// How far up; negative down.
        by: Measurement,
    },
    /// A spring of a vibrato was measured at pitch, from hook to hook or from seat to seat.
    SpringMeasured {
        /// What it was read with, where that was said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tool: Option<Tool>,
        /// Its length.
        length: Measurement,
    },
    /// The claw's distance from its wall was read at both ends.
    ClawEnds {
        /// What it was read with, where that was said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tool: Option<Tool>,
        /// At the treble side.
        treble: Measurement,
        /// At the bass side.
        bass: Measurement,
    },
    /// Other springs, or hooked on otherwise.
    SpringsHooked {
        /// How many.
        count: u8,
        /// Whether they converge on the claw.
        converging: bool,
    },
    /// How the vibrato is to rest.
    BalanceWanted {
        /// By which school.
        school: BalanceSchool,
    },
    /// The gap over a pickup was read, the string held down at the last fret.
    PickupRead {
        /// What it was read with, where that was said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tool: Option<Tool>,
        /// Which pickup, from 0 at the neck.
        pickup: u8,
        /// Along the string of which side.
        side: Side,
        /// The gap.
        gap: Measurement,
        /// Kept although it was questioned.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        kept: bool,
    },
    /// A screw of a pickup was turned.
    PickupTurned {
        /// Which pickup, from 0 at the neck.
        pickup: u8,
        /// At which side.
        side: Side,
        /// Turns; positive brings it nearer to the strings.
        turns: f64,
    },
    /// The gap under one string over a pickup was read, the string held down at the last fret.
    PoleRead {
        /// What it was read with, where that was said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tool: Option<Tool>,
        /// Which pickup, from 0 at the neck.
        pickup: u8,
        /// Which string.
        string: u8,
        /// The gap.
        gap: Measurement,
    },
    /// A pole screw was turned.
    PoleTurned {
        /// Which pickup, from 0 at the neck.
        pickup: u8,
        /// Under which string.
        string: u8,
        /// Turns; positive brings it nearer to the string.
        turns: f64,
    },
    /// A screw of a pickup is at its end.
    PickupAtEnd {
        /// Which pickup, from 0 at the neck.
        pickup: u8,
        /// At which side.
        side: Side,
        /// Down: its foam or spring is squeezed, up: out of thread.
        end: HeightEnd,
    },
    /// What the gaps of a pickup are to be.
    PickupWanted {
        /// Which pickup, from 0 at the neck.
        pickup: u8,
        /// At the treble side.
        treble: Measurement,
        /// At the bass side.
        bass: Measurement,
    },
    /// The level of a pickup was read from a meter.
    LevelRead {
        /// Which pickup, from 0 at the neck.
        pickup: u8,
        /// Which string was played.
        string: u8,
        /// What the meter showed.
        decibels: f64,
    },
    /// A screw would not turn.
    ScrewStuck {
        /// A string on that saddle.
        string: u8,
    },
    /// Which string of a shared saddle matters more.
    Preferred {
        /// A string on that saddle.
        string: u8,
        /// True: this string is to be right; false: shared evenly.
        alone: bool,
    },
    /// Something to remember.
    Noted {
        /// The text.
        text: String,
    },
    /// The job moved on in the shop.
    StageSet {
        /// Where it stands now.
        stage: Stage,
    },
    /// An earlier event is taken back.
    Undone {
        /// Its place in the journal.
        target: u64,
    },
    /// An event taken back counts again.
    Redone {
        /// Its place in the journal.
        target: u64,
    },
}

fn is_zero(value: &f64) -> bool {
    *value == 0.0
}

fn with(measured: Measurement, tool: Option<Tool>) -> Measurement {
    Measurement {
        tool: tool.or(measured.tool),
        ..measured
    }
}

fn length(measured: Measurement, tool: Option<Tool>) -> Reading {
    Reading::Length {
        length: with(measured, tool),
    }
}

fn read(place: Place, value: Reading, confirmed: bool) -> today::Event {
    today::Event::Read {
        place,
        value,
        confirmed,
        replaces: false,
    }
}

fn turned(adjuster: Adjuster, turns: f64) -> today::Event {
    today::Event::Adjusted {
        adjuster,
        amount: Amount::Turns { turns },
    }
}

fn moved(adjuster: Adjuster, distance: Measurement) -> today::Event {
    today::Event::Adjusted {
        adjuster,
        amount: Amount::Distance { distance },
    }
}

fn ended(adjuster: Adjuster, how: End) -> today::Event {
    today::Event::Ended { adjuster, how }
}

fn wanted(wanted: Wanted) -> today::Event {
    today::Event::Targeted { wanted }
}

fn observed(what: Observation) -> today::Event {
    today::Event::Observed { what }
}

const fn height(adjuster: HeightAdjuster) -> Adjuster {
    match adjuster {
        HeightAdjuster::String(string) => Adjuster::SaddleHeight { string },
        HeightAdjuster::Post(side) => Adjuster::Post { side },
    }
}

const fn end(end: HeightEnd) -> End {
    match end {
        HeightEnd::Bottom => End::Bottom,
        HeightEnd::Top => End::Top,
    }
}

impl Event {
    /// The same in today's form.
    pub fn upcast(self) -> today::Event {
        match self {
            Self::Opened(opened) => today::Event::Opened(opened),
            Self::PlayerChanged { player } => wanted(Wanted::Player { player }),
            Self::HeightsGiven { heights } => observed(Observation::AsItCame { heights }),
            Self::Strung { strung } => today::Event::Restrung { strung },
            Self::CoreMeasured { tool, string, core } => {
                read(Place::Core { string }, length(core, tool), false)
            }
            Self::CutOffWeighed { string, weighing } => read(
                Place::CutOff { string },
                Reading::Weighed { weighing },
                false,
            ),
            Self::StringsAged { old } => observed(Observation::Strings { old }),
            Self::TunerChosen { tuner } => observed(Observation::Tuner { tuner }),
            Self::ScaleMeasured {
                tool,
                string,
                nut_to_twelfth,
            } => read(Place::Scale { string }, length(nut_to_twelfth, tool), false),
            Self::SaddleMeasured {
                tool,
                string,
                twelfth_to_saddle,
            } => read(
                Place::Saddle { string },
                length(twelfth_to_saddle, tool),
                false,
            ),
            Self::RoomMeasured {
                tool,
                string,
                behind,
            } => read(Place::Room { string }, length(behind, tool), false),
            Self::IntonationRead {
                string,
                fret,
                cents,
                against,
                kept,
            } => read(
                Place::Intonation { string, fret },
                Reading::Note {
                    cents,
                    against,
                    resolution_cents: None,
                },
                kept,
            ),
            // A move of nothing said that a stuck screw turns after all.
            Self::SaddleMoved { string, turns: 0.0 } => {
                ended(Adjuster::SaddleDrive { string }, End::Free)
            }
            Self::SaddleMoved { string, turns } => turned(Adjuster::SaddleDrive { string }, turns),
            Self::SaddleTurnedRound { string } => today::Event::Adjusted {
                adjuster: Adjuster::SaddleDrive { string },
                amount: Amount::Reversed,
            },
            Self::BridgeMoved { by } => moved(Adjuster::Bridge, by),
            Self::ReliefRead {
                tool,
                side,
                span,
                seen,
                kept,
            } => {
                let value = match seen {
                    Gap::Open { gap } => length(gap, tool),
                    Gap::Touches => Reading::Touches,
                    Gap::Rocks => Reading::Rocks,
                };
                read(Place::Relief { side, span }, value, kept)
            }
            Self::RodTurned { turns: 0.0 } => ended(Adjuster::TrussRod, End::Free),
            Self::RodTurned { turns } => turned(Adjuster::TrussRod, turns),
            Self::RodStopped { how } => ended(
                Adjuster::TrussRod,
                match how {
                    RodStop::Hard => End::Hard,
                    RodStop::Rubbery => End::Rubbery,
                    RodStop::NoEffect => End::NoEffect,
                },
            ),
            Self::NutRead {
                tool,
                string,
                held,
                gap,
                kept,
            } => read(Place::Nut { string, held }, length(gap, tool), kept),
            Self::NutMoved { strings, by } => moved(
                Adjuster::NutSlots {
                    strings: strings.into_iter().collect(),
                },
                by,
            ),
            Self::ActionRead {
                tool,
                string,
                fret,
                held,
                gap,
                kept,
            } => read(
                Place::Action { string, fret, held },
                length(gap, tool),
                kept,
            ),
            Self::HeightMoved {
                adjuster,
                turns: 0.0,
            } => ended(height(adjuster), End::Free),
            Self::HeightMoved { adjuster, turns } => turned(height(adjuster), turns),
            Self::HeightAtEnd { adjuster, end: at } => ended(height(adjuster), end(at)),
            Self::NeckShimmed { shim, thickness } => moved(Adjuster::Pocket { shim }, thickness),
            Self::TargetsSet { targets } => wanted(Wanted::Setup { targets }),
            Self::BuzzHeard {
                string,
                held,
                attack,
            } => observed(Observation::Buzz {
                buzz: Buzz {
                    string,
                    held,
                    attack,
                },
            }),
            Self::BalanceRead { tool, gap, kept } => read(
                Place::Gap,
                gap.map_or(Reading::Flat, |gap| length(gap, tool)),
                kept,
            ),
            Self::ClawTurned { turns, apart } => today::Event::Adjusted {
                adjuster: Adjuster::Claw,
                amount: if apart == 0.0 {
                    Amount::Turns { turns }
                } else {
                    Amount::Apart { turns, apart }
                },
            },
            Self::SeatMoved { by } => moved(Adjuster::Seat, by),
            Self::SpringMeasured {
                tool,
                length: measured,
            } => read(Place::Spring, length(measured, tool), false),
            Self::ClawEnds { tool, treble, bass } => read(
                Place::ClawEnds,
                Reading::Ends {
                    treble: with(treble, tool),
                    bass: with(bass, tool),
                },
                false,
            ),
            Self::SpringsHooked { count, converging } => today::Event::Adjusted {
                adjuster: Adjuster::Springs,
                amount: Amount::Springs { count, converging },
            },
            Self::BalanceWanted { school } => wanted(Wanted::Balance { school }),
            Self::PickupRead {
                tool,
                pickup,
                side,
                gap,
                kept,
            } => read(Place::Pickup { pickup, side }, length(gap, tool), kept),
            Self::PickupTurned {
                pickup,
                side,
                turns,
            } => turned(Adjuster::PickupScrew { pickup, side }, turns),
            Self::PoleRead {
                tool,
                pickup,
                string,
                gap,
            } => read(
                Place::PolePiece { pickup, string },
                length(gap, tool),
                false,
            ),
            Self::PoleTurned {
                pickup,
                string,
                turns,
            } => turned(Adjuster::PolePiece { pickup, string }, turns),
            Self::PickupAtEnd {
                pickup,
                side,
                end: at,
            } => ended(Adjuster::PickupScrew { pickup, side }, end(at)),
            Self::PickupWanted {
                pickup,
                treble,
                bass,
            } => wanted(Wanted::Pickup {
                pickup,
                treble,
                bass,
            }),
            Self::LevelRead {
                pickup,
                string,
                decibels,
            } => read(
                Place::Level { pickup, string },
                Reading::Level { decibels },
                false,
            ),
            Self::ScrewStuck { string } => ended(Adjuster::SaddleDrive { string }, End::Stuck),
            Self::Preferred { string, alone } => wanted(Wanted::SharedSaddle { string, alone }),
            Self::Noted { text } => today::Event::Noted { text },
            Self::StageSet { stage } => today::Event::Staged { stage },
            Self::Undone { target } => today::Event::Undone { target },
            Self::Redone { target } => today::Event::Redone { target },
        }
    }
}
