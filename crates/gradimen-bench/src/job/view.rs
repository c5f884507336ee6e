//! What there is to see of a job.

use std::sync::Arc;

use gradimen_core::pitch::ConcertPitch;
use gradimen_core::quantity::{Force, Length, Turns};

use super::{FittedString, Job, JobError, SCALE_TOLERANCE, Stringing};
use crate::journal::{Entry, Event};
use crate::model::hardware::BridgeFamily;
use crate::model::instrument::{Instrument, PutRight};
use crate::model::{
    Adjuster, Air, BalanceSchool, Buzz, CheckLine, Complaint, Condition, End, Heard, HeightsGiven,
    Hints, LastTime, Measurement, Note, Player, Practice, Practised, Round, Side, Stage, Strung,
    Targets, Taught, Toll, Tuner, Tuning, defaults,
};

impl Job {
    /// The instrument as it was when the job was opened.
    pub const fn instrument(&self) -> &Instrument {
        &self.instrument
    }

    /// Which version of its record that was.
    pub const fn instrument_version(&self) -> u32 {
        self.instrument_version
    }

    /// What an old default of ours had wrong in its record.
    pub fn put_right(&self) -> &[PutRight] {
        &self.put_right
    }

    /// What earlier visits taught of this instrument.
    pub fn taught(&self) -> &[Taught] {
        &self.taught
    }

    /// Where it stood when it left the last time, where it was here before.
    pub const fn last_time(&self) -> Option<&LastTime> {
        self.last_time.as_ref()
    }

    /// What was made to practise on; nothing for a real instrument.
    pub const fn practice(&self) -> Option<&Practice> {
        self.practice.as_ref()
    }

    /// What happened at the practice bench, with the place of its entry.
    pub fn practised(&self) -> &[(u64, Practised)] {
        &self.practised
    }

    /// Whether the next move is kept back: always, or until it is asked for and only up to the next entry.
    pub fn keeps_hints_back(&self) -> bool {
        let asked = (self.seq(), Practised::Hint);
        match self.practice.as_ref().map(|practice| practice.hints) {
            Some(Hints::Off) => true,
            Some(Hints::OnRequest) => self.practised.last() != Some(&asked),
            Some(Hints::Full) | None => false,
        }
    }

    /// The work as it was handed in first: what it took, and whether it was at par; nothing before.
    pub fn handed_in(&self) -> Option<(Toll, bool)> {
        self.practised.iter().find_map(|(_, did)| match did {
            Practised::HandedIn { toll, par } => Some((*toll, *par)),
            _ => None,
        })
    }

    /// How damp the room was on this visit, the oldest first.
    pub fn air(&self) -> &[Air] {
        &self.told.air
    }

    /// Whether a fret gave when it was pressed under a string; nothing where nobody pressed it since frets were worked on.
    pub fn pressed(&self, note: Note) -> Option<bool> {
        self.told.frets.pressed.get(&note).copied()
    }

    /// Frets that gave when they were pressed.
    pub fn loose(&self) -> impl Iterator<Item = Note> + '_ {
        let pressed = self.told.frets.pressed.iter();
        pressed.filter_map(|(note, moves)| moves.then_some(*note))
    }

    /// Grooves that strings have worn, and how deep.
    pub fn worn(&self) -> impl Iterator<Item = (Note, &Measurement)> {
        self.told
            .frets
            .worn
            .iter()
            .map(|(note, depth)| (*note, depth))
    }

    /// The lowest crown, where it was measured.
    pub const fn crown(&self) -> Option<&Measurement> {
        self.told.frets.crown.as_ref()
    }

    /// Marks of the play test that still say something of the frets as they are.
    pub fn heard_since_fretwork(&self) -> impl Iterator<Item = (Note, Heard)> + '_ {
        let before = &self.told.frets.heard_before;
        self.play_test().filter(|(note, _)| !before.contains(note))
    }

    /// Reason for the visit.
    pub fn purpose(&self) -> &str {
        &self.purpose
    }

    /// Whom it is for.
    pub const fn player(&self) -> &Player {
        &self.player
    }

    /// The strings that are on, with their tuning.
    pub const fn stringing(&self) -> &Stringing {
        &self.stringing
    }

    /// The strings it was opened with.
    pub const fn opened_with(&self) -> &Stringing {
        &self.opened_with
    }

    /// What the strings are tuned to.
    pub const fn tuning(&self) -> &Tuning {
        self.stringing.tuning()
    }

    /// Concert pitch of that.
    pub const fn concert(&self) -> ConcertPitch {
        self.stringing.concert()
    }

    /// Set and tuning now, with what was measured of the strings.
    pub fn strung(&self) -> Strung {
        self.stringing.strung()
    }

    /// Set and tuning before the last change, or as it arrived.
    pub const fn previous(&self) -> Option<&Strung> {
        self.previous.as_ref()
    }

    /// The strings that are on, string 1 first.
    pub fn fitted(&self) -> &[FittedString] {
        self.stringing.strings()
    }

    /// Tension of all strings.
    pub fn total_tension(&self) -> Force {
        self.stringing.total(|string| self.speaking_scale(string))
    }

    /// Other strings or another tuning worked out on this instrument, without putting them on.
    ///
    /// # Errors
    /// A [`JobError`] for what cannot be.
    pub fn imagine(&self, strung: &Strung) -> Result<Stringing, JobError> {
        Stringing::new(strung, self.instrument.strings)
    }

    /// The action as it came.
    pub const fn heights(&self) -> &HeightsGiven {
        &self.heights
    }

    /// What the setup is to be: as told, or usual for the player's touch.
    pub fn targets(&self) -> Targets {
        self.wants
            .targets
            .clone()
            .unwrap_or_else(|| defaults::targets(&self.instrument, self.player.touch))
    }

    /// Whether the targets were told, or are only usual.
    pub const fn targets_told(&self) -> bool {
        self.wants.targets.is_some()
    }

    /// How an adjuster refused, if it did since it was last moved.
    pub fn ended(&self, adjuster: Adjuster) -> Option<End> {
        self.travel.ended.get(&adjuster).copied()
    }

    /// How far an adjuster was turned in all.
    pub fn turned(&self, adjuster: Adjuster) -> Turns {
        let turned = self.travel.turned.get(&adjuster);
        turned.copied().unwrap_or(Turns::ZERO)
    }

    /// What the player told at the counter.
    pub const fn complaint(&self) -> &Complaint {
        &self.told.complaint
    }

    /// How a line of the check list was found.
    pub fn checked(&self, round: Round, line: CheckLine) -> Condition {
        let found = self.told.checked.get(&(round, line));
        found.copied().unwrap_or(Condition::NotLooked)
    }

    /// What is still heard in the play test, note by note.
    pub fn play_test(&self) -> impl Iterator<Item = (Note, Heard)> + '_ {
        self.told.heard.iter().map(|(note, heard)| (*note, *heard))
    }

    /// How far the strings that are on fell at each stretch, in cents.
    pub fn stretches(&self) -> &[f64] {
        &self.told.stretches
    }

    /// Whether every note was played.
    pub const fn played_through(&self) -> bool {
        self.told.played_through
    }

    /// The buzzes that were heard.
    pub fn buzzes(&self) -> &[Buzz] {
        &self.buzzes
    }

    /// How the vibrato is to rest: as told, or as is usual for its family.
    pub fn balance_school(&self) -> BalanceSchool {
        self.wants
            .school
            .unwrap_or(match self.instrument.bridge.family {
                BridgeFamily::DoubleLocking => BalanceSchool::Level,
                _ => BalanceSchool::SmallFloat,
            })
    }

    /// What the gap of a pickup is to be at a side: as told, or as is usual for its family.
    pub fn pickup_wanted(&self, pickup: u8, side: Side) -> Option<Length> {
        if let Some(told) = self.wants.pickups.get(&pickup) {
            return Some(told[side.index()].middle());
        }
        let record = self.instrument.pickups.get(usize::from(pickup))?;
        Some(defaults::pickup_target(record.family)[side.index()])
    }

    /// The string that matters more on its saddle, if one does.
    pub fn preferred(&self, saddle: usize) -> Option<u8> {
        self.wants.alone.get(&saddle).copied()
    }

    /// Whether the strings are old: intonation is provisional.
    pub const fn old_strings(&self) -> bool {
        self.old_strings
    }

    /// What pitches are read with.
    pub const fn tuner(&self) -> &Tuner {
        &self.shop.tuner
    }

    /// Whether that was chosen, or is only assumed.
    pub const fn tuner_chosen(&self) -> bool {
        self.shop.tuner_chosen
    }

    /// Nut edge to crown of fret 12, where it was measured along that string.
    pub fn nut_to_twelfth(&self, string: u8) -> Option<&Measurement> {
        self.nut_to_twelfth
            .get(usize::from(string.checked_sub(1)?))?
            .as_ref()
    }

    /// What was measured along this string, doubled; a compensated nut stands forward of the line that the frets are cut from.
    pub fn own_scale(&self, string: u8) -> Option<Length> {
        let measured = self.nut_to_twelfth(string)?;
        Some((measured.middle() + self.instrument.nut_offset(string)) * 2.0)
    }

    /// Twice the measured distance to fret 12, where it was measured: along that string, or along
    /// any on an instrument with one scale.
    pub fn measured_scale(&self, string: u8) -> Option<Length> {
        let own = self.own_scale(string);
        if self.instrument.is_multi_scale() {
            own
        } else {
            let mut all = 1..=self.instrument.strings;
            own.or_else(|| all.find_map(|any| self.own_scale(any)))
        }
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

    /// What was noted.
    pub fn notes(&self) -> &[String] {
        &self.shop.notes
    }

    /// Where the job stands in the shop.
    pub const fn stage(&self) -> Stage {
        self.shop.stage
    }

    /// Readings, moves and new strings that count, in their order.
    pub fn facts(&self) -> &[Arc<Entry>] {
        &self.facts
    }

    /// The whole journal, with what was taken back.
    pub fn entries(&self) -> &[Arc<Entry>] {
        &self.entries
    }

    /// Whether an entry counts; the opening does, and so does what takes back or puts again.
    pub fn counts(&self, entry: &Entry) -> bool {
        self.history.counts(entry)
            || matches!(
                entry.event,
                Event::Opened(_) | Event::Undone { .. } | Event::Redone { .. }
            )
    }

    /// The last sequence number.
    pub const fn seq(&self) -> u64 {
        self.history.last()
    }

    /// The event that would take back the last group, if there is one to take back.
    pub fn undo(&self) -> Option<Event> {
        self.history.undo().map(|target| Event::Undone { target })
    }

    /// The event that would put the last taken-back group again.
    pub fn redo(&self) -> Option<Event> {
        self.history.redo().map(|target| Event::Redone { target })
    }

    /// The entries of a group.
    pub fn group(&self, first: u64) -> impl Iterator<Item = &Entry> {
        let from = usize::try_from(first.saturating_sub(1)).unwrap_or(usize::MAX);
        self.entries
            .iter()
            .skip(from)
            .take_while(move |entry| entry.group == first)
            .map(AsRef::as_ref)
    }
}
