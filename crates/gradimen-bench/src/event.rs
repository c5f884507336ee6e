//! What can happen to a job, as it is written to the journal.
//!
//! Events are facts in the order they were told: never changed, never removed; undoing one is
//! itself an event. Each entry carries the version of its form, so that old journals stay readable.

mod neck;
mod parts;
mod sentence;

pub use neck::{
    BalanceSchool, Gap, HeightAdjuster, HeightEnd, Inner, ReliefSpan, RodStop, Shim, Side, Targets,
};

pub use parts::{Against, Hand, HeightsGiven, Opened, Player, Stage, Strung, Tuner, Tuning};
use parts::{is_false, is_zero};

use jiff::Timestamp;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::record::{Measured, Weighing};

/// Version of the event forms written today.
pub const EVENT_VERSION: u32 = 1;

/// One line of a journal.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Entry {
    /// Its place in the journal, from 1 without gaps.
    pub seq: u64,
    /// When it was told.
    pub at: Timestamp,
    /// Version of the event's form.
    pub version: u32,
    /// What happened.
    pub event: Event,
}

/// Something that happened to a job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "type", rename_all = "snake_case", deny_unknown_fields)]
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
        /// Which string.
        string: u8,
        /// Round diameter of equal area.
        core: Measured,
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
        /// Along which string.
        string: u8,
        /// The distance.
        nut_to_twelfth: Measured,
    },
    /// Crown of fret 12 to the saddle was measured.
    SaddleMeasured {
        /// Along which string.
        string: u8,
        /// The distance.
        twelfth_to_saddle: Measured,
    },
    /// The way left to a saddle was measured.
    RoomMeasured {
        /// A string on that saddle.
        string: u8,
        /// Way left behind the saddle.
        behind: Measured,
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
        against: Against,
        /// Kept although it was questioned.
        #[serde(default, skip_serializing_if = "is_false")]
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
        by: Measured,
    },
    /// The gap under a straight string or edge was read: relief.
    ReliefRead {
        /// Along the string of which side.
        side: Side,
        /// Where it was held and read.
        span: ReliefSpan,
        /// What was seen.
        seen: Gap,
        /// Kept although it was questioned.
        #[serde(default, skip_serializing_if = "is_false")]
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
        /// Which string.
        string: u8,
        /// Open (0), or held down at this fret.
        held: u8,
        /// The gap.
        gap: Measured,
        /// Kept although it was questioned.
        #[serde(default, skip_serializing_if = "is_false")]
        kept: bool,
    },
    /// Nut slots were filed, or the nut raised.
    NutMoved {
        /// Which strings.
        strings: Vec<u8>,
        /// How far up; negative when filed.
        by: Measured,
    },
    /// The height of a string over a fret was read.
    ActionRead {
        /// Which string.
        string: u8,
        /// Over which fret.
        fret: u8,
        /// Open (0), or held down at this fret.
        held: u8,
        /// The height.
        gap: Measured,
        /// Kept although it was questioned.
        #[serde(default, skip_serializing_if = "is_false")]
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
        thickness: Measured,
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
        /// The gap; nothing when it lies flat on the body.
        gap: Option<Measured>,
        /// Kept although it did not fit.
        #[serde(default, skip_serializing_if = "is_false")]
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
        by: Measured,
    },
    /// A spring of a vibrato was measured at pitch, from hook to hook or from seat to seat.
    SpringMeasured {
        /// Its length.
        length: Measured,
    },
    /// The claw's distance from its wall was read at both ends.
    ClawEnds {
        /// At the treble side.
        treble: Measured,
        /// At the bass side.
        bass: Measured,
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
        /// Which pickup, from 0 at the neck.
        pickup: u8,
        /// Along the string of which side.
        side: Side,
        /// The gap.
        gap: Measured,
        /// Kept although it was questioned.
        #[serde(default, skip_serializing_if = "is_false")]
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
        /// Which pickup, from 0 at the neck.
        pickup: u8,
        /// Which string.
        string: u8,
        /// The gap.
        gap: Measured,
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
        treble: Measured,
        /// At the bass side.
        bass: Measured,
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
