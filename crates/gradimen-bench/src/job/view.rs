//! What there is to see of a job.

use gradimen_core::pitch::ConcertPitch;
use gradimen_core::quantity::{Cents, Length, Turns};
use jiff::Timestamp;

use super::{
    Buzz, Job, JobError, LevelReading, Line, SCALE_TOLERANCE, Saddle, SaddleStep, StringState,
};
use crate::balance::Balance;
use crate::event::{
    BalanceSchool, EVENT_VERSION, Entry, Event, HeightAdjuster, HeightEnd, HeightsGiven, Player,
    RodStop, Side, Stage, Strung, Targets, Tuner, Tuning,
};
use crate::geometry::Geometry;
use crate::hardware::BridgeFamily;
use crate::instrument::Instrument;
use crate::methods;
use crate::record::Measured;

impl Job {
    /// The instrument as it was when the job was opened.
    pub const fn instrument(&self) -> &Instrument {
        &self.instrument
    }

    /// Which version of its record that was.
    pub const fn instrument_version(&self) -> u32 {
        self.instrument_version
    }

    /// Why it is here.
    pub fn purpose(&self) -> &str {
        &self.purpose
    }

    /// Whose hand it is for.
    pub const fn player(&self) -> &Player {
        &self.player
    }

    /// What the strings are tuned to.
    pub const fn tuning(&self) -> &Tuning {
        &self.tuning
    }

    /// Concert pitch of that.
    pub const fn concert(&self) -> ConcertPitch {
        self.concert
    }

    /// Set and tuning now, with what was measured of the strings.
    pub fn strung(&self) -> Strung {
        Strung {
            set: self
                .strings
                .iter()
                .map(|state| state.record.clone())
                .collect(),
            tuning: self.tuning.clone(),
        }
    }

    /// Set and tuning before the last change, or as it arrived.
    pub const fn previous(&self) -> Option<&Strung> {
        self.previous.as_ref()
    }

    /// The strings, string 1 first.
    pub fn strings(&self) -> &[StringState] {
        &self.strings
    }

    /// One string, counted from 1.
    ///
    /// # Errors
    /// [`JobError::NoSuchString`].
    pub fn string_state(&self, string: u8) -> Result<&StringState, JobError> {
        Ok(&self.strings[self.index(string)?])
    }

    /// Other strings or another tuning worked out on this instrument, without putting them on.
    ///
    /// # Errors
    /// A [`JobError`] for what cannot be.
    pub fn imagine(&self, strung: &Strung) -> Result<Vec<StringState>, JobError> {
        self.check_strung(strung)
    }

    /// Where the strings lie.
    pub const fn heights(&self) -> &HeightsGiven {
        &self.heights
    }

    /// What is known of neck, nut and heights.
    pub const fn geometry(&self) -> &Geometry {
        &self.geometry
    }

    /// What the setup is to be: as told, or usual for the player's hand.
    pub fn targets(&self) -> Targets {
        self.targets
            .clone()
            .unwrap_or_else(|| methods::targets(&self.instrument, self.player.hand))
    }

    /// Whether the targets were told, or are only usual.
    pub const fn targets_told(&self) -> bool {
        self.targets.is_some()
    }

    /// How the rod refused, if it did since it was last turned.
    pub const fn rod_stop(&self) -> Option<RodStop> {
        self.rod_stop
    }

    /// The end a height adjuster was found at.
    pub fn height_end(&self, adjuster: HeightAdjuster) -> Option<HeightEnd> {
        let found = self.height_ends.iter().find(|(on, _)| *on == adjuster);
        found.map(|(_, end)| *end)
    }

    /// The buzzes that were heard.
    pub fn buzzes(&self) -> &[Buzz] {
        &self.buzzes
    }

    /// What is known of its vibrato, where it has one.
    pub const fn balance(&self) -> Option<&Balance> {
        self.balance.as_ref()
    }

    /// How the vibrato is to rest: as told, or as is usual for its family.
    pub fn balance_school(&self) -> BalanceSchool {
        self.balance_school
            .unwrap_or(match self.instrument.bridge.family {
                BridgeFamily::DoubleLocking => BalanceSchool::Level,
                _ => BalanceSchool::SmallFloat,
            })
    }

    /// The end a side of a pickup was found at.
    pub fn pickup_end(&self, pickup: u8, side: Side) -> Option<HeightEnd> {
        let found = self
            .pickup_ends
            .iter()
            .find(|(on, _)| *on == (pickup, side));
        found.map(|(_, end)| *end)
    }

    /// How far a screw of a pickup was turned in all; positive brings it nearer.
    pub fn pickup_turned(&self, pickup: u8, side: Side) -> Turns {
        self.pickup_turns
            .get(&(pickup, side))
            .copied()
            .unwrap_or(Turns::ZERO)
    }

    /// What the gaps of a pickup are to be, treble and bass: as told, or as usual for its family.
    pub fn pickup_wanted(&self, pickup: u8) -> Option<[Length; 2]> {
        if let Some(told) = self.pickups_wanted.get(&pickup) {
            return Some([told[0].middle(), told[1].middle()]);
        }
        let record = self.instrument.pickups.get(usize::from(pickup))?;
        Some(crate::methods::pickup_target(record.family))
    }

    /// The levels that were read.
    pub fn levels(&self) -> &[LevelReading] {
        &self.levels
    }

    /// Whether the strings are old: intonation is provisional.
    pub const fn old_strings(&self) -> bool {
        self.old_strings
    }

    /// What pitches are read with.
    pub const fn tuner(&self) -> &Tuner {
        &self.tuner
    }

    /// Whether that was chosen, or is only assumed.
    pub const fn tuner_chosen(&self) -> bool {
        self.tuner_chosen
    }

    /// Nut edge to crown of fret 12, where it was measured along that string.
    pub fn nut_to_twelfth(&self, string: u8) -> Option<&Measured> {
        self.nut_to_twelfth
            .get(usize::from(string.checked_sub(1)?))?
            .as_ref()
    }

    /// Twice the measured distance to fret 12, where it was measured: along that string, or along
    /// any on an instrument with one scale.
    pub fn measured_scale(&self, string: u8) -> Option<Length> {
        let own = self.nut_to_twelfth(string);
        let any = || self.nut_to_twelfth.iter().flatten().next();
        let found = if self.instrument.is_multi_scale() {
            own
        } else {
            own.or_else(any)
        };
        found.map(|measured| measured.middle() * 2.0)
    }

    /// The scale the frets were cut to: the measured one where it belies the name.
    pub fn speaking_scale(&self, string: u8) -> Length {
        let named = self.instrument.scale(string);
        match self.measured_scale(string) {
            Some(measured) if (measured - named).abs() > SCALE_TOLERANCE => measured,
            _ => named,
        }
    }

    /// Crown of fret 12 to a saddle that stands at a setback: what a rule reads.
    pub fn twelfth_to_saddle(&self, string: u8, setback: Length) -> Length {
        self.speaking_scale(string) * 0.5 + setback
    }

    /// The setback of a saddle that a rule found so far from the crown of fret 12.
    pub fn setback_at(&self, string: u8, from_twelfth: Length) -> Length {
        from_twelfth - self.speaking_scale(string) * 0.5
    }

    /// The last reading of a string at a fret since it was strung and its saddle last moved.
    pub fn last_reading(&self, string: u8, fret: u8) -> Option<Cents> {
        let saddle = self
            .saddles
            .iter()
            .find(|saddle| saddle.strings.contains(&string))?;
        saddle
            .steps
            .iter()
            .rev()
            .take_while(|step| !step.moves_it())
            .find_map(|step| match step {
                SaddleStep::Read {
                    string: on,
                    fret: at,
                    cents,
                    ..
                } if *on == string && *at == fret => Some(*cents),
                _ => None,
            })
    }

    /// The job as it would be after one more event, for looking at; nothing is written.
    ///
    /// # Errors
    /// The [`JobError`] that the event would be refused with.
    pub fn with(&self, event: Event) -> Result<Self, JobError> {
        let mut after = self.clone();
        after.apply(&Entry {
            seq: self.seq() + 1,
            at: Timestamp::UNIX_EPOCH,
            version: EVENT_VERSION,
            event,
        })?;
        after.lie()?;
        Ok(after)
    }

    /// The job as if every place of neck, nut and heights had been read just now, and read what the
    /// estimate predicts.
    pub fn as_if_read(mut self) -> Self {
        self.geometry.take_as_read();
        if let Some(balance) = &mut self.balance {
            balance.take_as_read();
        }
        self
    }

    /// The saddles, in the order of their strings.
    pub fn saddles(&self) -> &[Saddle] {
        &self.saddles
    }

    /// What was noted.
    pub fn notes(&self) -> &[String] {
        &self.notes
    }

    /// Where the job stands in the shop.
    pub const fn stage(&self) -> Stage {
        self.stage
    }

    /// The whole journal, with what was taken back.
    pub fn lines(&self) -> &[Line] {
        &self.lines
    }

    /// The last sequence number.
    pub fn seq(&self) -> u64 {
        self.lines.last().map_or(0, |line| line.seq)
    }

    /// The event that would take back the last one, if there is one to take back.
    pub fn undo(&self) -> Option<Event> {
        self.undo.map(|target| Event::Undone { target })
    }

    /// The event that would put the last taken-back one again.
    pub fn redo(&self) -> Option<Event> {
        self.redo.map(|target| Event::Redone { target })
    }
}
