//! One event more: what each kind of entry changes.

use std::sync::Arc;

use gradimen_core::quantity::Turns;

use super::{Job, JobError, Stringing};
use crate::journal::{Entry, Event};
use crate::model::limits::{self, LimitError};
use crate::model::{Adjuster, Air, Amount, End, Note, Observation, Place, Reading, Wanted};

impl Job {
    pub(super) fn apply(&mut self, entry: &Arc<Entry>) -> Result<(), JobError> {
        match &entry.event {
            // Where it stands is the fold's to see.
            Event::Opened(_) => return Err(JobError::OpenedTwice(entry.seq)),
            // The fold begins with the record as it was put right last; the others must be records all the same.
            Event::Corrected(corrected) => {
                let mut record = corrected.instrument.clone();
                record.put_right();
                record.validate()?;
            }
            Event::Undone { .. } | Event::Redone { .. } => {}
            Event::Restrung { strung } => {
                self.restring(strung)?;
                self.facts.push(Arc::clone(entry));
            }
            Event::Read { place, value, .. } => {
                self.check_reading(*place, value)?;
                self.read(*place, value)?;
                self.facts.push(Arc::clone(entry));
            }
            Event::Adjusted { adjuster, amount } => {
                self.check_move(*adjuster, amount)?;
                self.told.played_through = false;
                self.adjusted(*adjuster, amount);
                self.facts.push(Arc::clone(entry));
            }
            Event::Ended { adjuster, how } => {
                self.check_adjuster(*adjuster)?;
                self.travel.ended.remove(adjuster);
                if *how != End::Free {
                    self.travel.ended.insert(*adjuster, *how);
                }
                // Where a saddle stopped is where it stands.
                if let (Adjuster::SaddleDrive { .. }, End::Top | End::Bottom) = (adjuster, how) {
                    self.facts.push(Arc::clone(entry));
                }
            }
            Event::Targeted { wanted } => self.wanted(wanted)?,
            Event::Observed { what } => {
                self.observed(what)?;
                if let Observation::Practised { what } = what {
                    self.practised.push((entry.seq, *what));
                }
                if let Observation::Humidity { percent } = what {
                    let day = entry.at.to_zoned(jiff::tz::TimeZone::UTC).date();
                    self.told.air.retain(|air| air.day != day);
                    self.told.air.push(Air {
                        day,
                        percent: *percent,
                    });
                }
                if let Observation::Buzz { .. }
                | Observation::Fretwork { .. }
                | Observation::Edged { .. } = what
                {
                    self.facts.push(Arc::clone(entry));
                }
            }
            Event::Noted { text } => {
                limits::text("note", text)?;
                self.shop.notes.push(text.clone());
            }
            Event::Staged { stage } => self.shop.stage = *stage,
        }
        Ok(())
    }

    fn restring(&mut self, strung: &crate::model::Strung) -> Result<(), JobError> {
        if self.shop.restrung >= limits::RESTRINGINGS {
            let allowed = format!("at most {} in one job", limits::RESTRINGINGS);
            return Err(LimitError::new("new strings", "one more", allowed).into());
        }
        let stringing = Stringing::new(strung, self.instrument.strings)?;
        stringing.holds(|string| self.speaking_scale(string))?;
        let before = self.stringing.strung();
        if before.set != strung.set {
            self.told.stretches.clear();
            self.old_strings = false;
        }
        self.told.played_through = false;
        self.stringing = stringing;
        self.previous = Some(before);
        self.shop.restrung += 1;
        Ok(())
    }

    /// Readings that are facts of the job itself, and not only of the estimate.
    fn read(&mut self, place: Place, value: &Reading) -> Result<(), JobError> {
        match (place, value) {
            (Place::Core { string }, Reading::Length { length }) => {
                self.stringing.core_measured(string, length)?;
            }
            (Place::CutOff { string }, Reading::Weighed { weighing }) => {
                self.stringing.weighed(string, weighing)?;
            }
            (Place::Scale { string }, Reading::Length { length }) => {
                let index = self.index(string)?;
                self.nut_to_twelfth[index] = Some(length.clone());
            }
            _ => {}
        }
        Ok(())
    }

    fn adjusted(&mut self, adjuster: Adjuster, amount: &Amount) {
        // What was moved goes after all.
        self.travel.ended.remove(&adjuster);
        if let Some(turns) = amount.as_turns() {
            *self.travel.turned.entry(adjuster).or_insert(Turns::ZERO) += turns;
        }
        if let Adjuster::Pocket { .. } = adjuster {
            // The saddles can go on: that is what it was for.
            let height =
                |on: &Adjuster| matches!(on, Adjuster::SaddleHeight { .. } | Adjuster::Post { .. });
            self.travel.ended.retain(|on, _| !height(on));
        }
    }

    fn wanted(&mut self, wanted: &Wanted) -> Result<(), JobError> {
        self.check_wanted(wanted)?;
        match wanted {
            Wanted::Setup { targets } => self.wants.targets = Some(targets.clone()),
            Wanted::Balance { school } => self.wants.school = Some(*school),
            Wanted::Pickup {
                pickup,
                treble,
                bass,
            } => {
                let gaps = [treble.clone(), bass.clone()];
                self.wants.pickups.insert(*pickup, gaps);
            }
            Wanted::SharedSaddle { string, alone } => {
                let saddle = self.saddle_index(*string)?;
                if *alone {
                    self.wants.alone.insert(saddle, *string);
                } else {
                    self.wants.alone.remove(&saddle);
                }
            }
            Wanted::Player { player } => self.player = player.clone(),
        }
        Ok(())
    }

    /// What was told of a fret before it was worked on says nothing of it now; of no fret in particular, of none.
    fn frets_worked(&mut self, fret: Option<u8>) {
        let worked = |note: &Note| fret.is_none_or(|fret| note.fret == fret);
        // A note is stopped by the fret it is held at and touches the next one.
        let sounds =
            |note: &Note| fret.is_none_or(|fret| fret == note.fret || fret == note.fret + 1);
        let told = &mut self.told;
        told.played_through = false;
        told.frets.pressed.retain(|note, _| !worked(note));
        told.frets.worn.retain(|note, _| !worked(note));
        if fret.is_none() {
            told.frets.crown = None;
        }
        told.frets
            .heard_before
            .extend(told.heard.keys().filter(|note| sounds(note)));
        self.buzzes.retain(|buzz| {
            !sounds(&Note {
                string: buzz.string,
                fret: buzz.held,
            })
        });
    }

    fn observed(&mut self, what: &Observation) -> Result<(), JobError> {
        self.check_observed(what)?;
        match what {
            Observation::Buzz { buzz } => self.buzzes.push(*buzz),
            Observation::Strings { old } => self.old_strings = *old,
            Observation::Complaint { complaint } => self.told.complaint = complaint.clone(),
            Observation::Checked {
                round,
                line,
                condition,
            } => {
                self.told.checked.insert((*round, *line), *condition);
            }
            Observation::Played { note, heard, .. } => {
                self.told.frets.heard_before.remove(note);
                match heard {
                    Some(heard) => self.told.heard.insert(*note, *heard),
                    None => self.told.heard.remove(note),
                };
            }
            Observation::Pressed { note, moves } => {
                self.told.frets.pressed.insert(*note, *moves);
            }
            Observation::Worn { note, depth } => {
                self.told.frets.worn.insert(*note, depth.clone());
            }
            Observation::Crown { height } => self.told.frets.crown = Some(height.clone()),
            Observation::Fretwork { fret, .. } => self.frets_worked(*fret),
            // By its day or place, with the entry; and one for the estimate alone.
            Observation::Humidity { .. }
            | Observation::Practised { .. }
            | Observation::Edged { .. } => {}
            Observation::PlayedThrough => self.told.played_through = true,
            Observation::Stretched { cents } => self.told.stretches.push(*cents),
            Observation::AsItCame { heights } => self.heights = heights.clone(),
            Observation::Tuner { tuner } => {
                self.shop.tuner = tuner.clone();
                self.shop.tuner_chosen = true;
            }
        }
        Ok(())
    }
}
