//! Version 1 of the event forms, frozen: read for ever, never written.
//!
//! What stands in a journal of that version is read by these forms and then told in today's
//! ([`Event::upcast`]). Readings in documents of other programs may name their `tool` in this form too.
//!
//! ```
//! use gradimen_bench::journal::{Event, wire};
//!
//! let raw = serde_json::json!({"type": "noted", "text": "slots were cut by somebody"});
//! let told = wire::event(1, 1, raw)?;
//! assert_eq!(told, Event::Noted { text: "slots were cut by somebody".into() });
//! # Ok::<(), wire::WireError>(())
//! ```

mod upcast;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::journal::event::Opened;
use crate::model::{
    BalanceSchool, HeightsGiven, Measurement, Player, Reference, ReliefSpan, Shim, Side, Stage,
    Strung, Targets, Tool, Tuner, Weighing,
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
