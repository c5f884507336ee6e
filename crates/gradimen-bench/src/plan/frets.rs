//! The fret survey: what rockers and buzzes say of every fret top, where one more rock would tell most, and what to do about it.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::frets::{Advice, Frets}};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let frets = Frets::of(&known);
//! assert_eq!(frets.advice, Advice::Survey);
//! assert!(frets.next.is_some());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use std::collections::BTreeSet;

use gradimen_core::fretboard::{fret_position, string_offset};
use gradimen_core::level::{Top, level};
use gradimen_core::quantity::Length;
use gradimen_core::survey::Survey;

use super::fret_evidence;
use crate::estimate::{Estimate, board, state::State};
use crate::model::{Heard, Note, Place, Rocking, Side};
use crate::plan::Plan;

/// A fret is called high from these odds on, and let be below those.
const HIGH: f64 = 0.5;
/// As many frets as are spot-levelled one by one; more, and all are levelled (common practice: a handful).
pub(super) const SPOT: usize = 3;
/// A crown of usual height, and the share of it that may go (common practice: a tenth).
pub(super) const CROWN: Length = Length::from_mm(1.1);
const MAY_GO: f64 = 0.1;
/// A crown lower than this is not levelled once more (common practice: three quarters of a millimetre).
const LEAST_CROWN: Length = Length::from_mm(0.75);
/// A groove deeper than this is felt in every bend, and is levelled out (from memory).
const WORN: Length = Length::from_mm(0.1);
/// A rock that would tell less than this, in nats, is not asked for: where one outcome in thirty would come otherwise (a choice).
const WORTH_A_ROCK: f64 = 0.15;

/// One fret top.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TopKnown {
    /// Where.
    pub note: Note,
    /// Over the line of the board, and one standard deviation of that.
    pub height: (Length, Length),
    /// How probable it is that it stands high over its neighbours; nothing at the ends of the board.
    pub high: Option<f64>,
    /// What a rocker showed there last.
    pub rocked: Option<Rocking>,
    /// What levelling all frets with the least metal would take from it.
    pub taken: Length,
}

impl TopKnown {
    /// Whether it is called high.
    pub fn is_high(&self) -> bool {
        self.high.is_some_and(|share| share > HIGH)
    }
}

/// What one fret has to give.
#[derive(Debug, Clone, PartialEq)]
pub struct FretCut {
    /// Which fret.
    pub fret: u8,
    /// So that this player's hardest stroke clears it at these targets: where most goes.
    pub to_play: Length,
    /// Under which strings.
    pub strings: Vec<u8>,
    /// So that all frets lie in one plane: where most goes.
    pub to_level: Length,
    /// What stays of its crown after each: measured at the lowest, or of usual height.
    pub stays: (Length, Length),
}

/// What is to be done.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Advice {
    /// Nothing is known yet: lay the rocker.
    Survey,
    /// Nothing stands high so far, and there is more to rock.
    GoOn,
    /// Nothing stands high.
    Leave,
    /// Something stands high, and this player's touch clears it at these targets: nothing is filed.
    Play,
    /// Some are loose: seated and glued before anything is filed.
    Seat,
    /// A few frets, one by one; press them first.
    Spot,
    /// All frets levelled, crowned and polished.
    Level,
    /// Levelling would take more than a tenth of the crowns: new frets, or a specialist's word.
    Refret,
}

/// The survey.
#[derive(Debug, Clone, PartialEq)]
pub struct Frets {
    /// Every top, string by string.
    pub tops: Vec<TopKnown>,
    /// Those that are called high, the surest first.
    pub high: Vec<TopKnown>,
    /// How many frets those are; where some are loose, how many are.
    pub frets: usize,
    /// Frets that gave when they were pressed.
    pub loose: Vec<u8>,
    /// Where one more rock would tell most.
    pub next: Option<Note>,
    /// The most that levelling all frets would take anywhere: to the highest top's neighbours, or out of the deepest groove.
    pub most: Length,
    /// What would remain of the lowest crown, of usual height where none was measured.
    pub remains: Length,
    /// Whether a groove is deep enough to be levelled out.
    pub grooved: bool,
    /// What each fret has to give, once the plan is known (`for_play`); those that give nothing are left out.
    pub to_play: Vec<FretCut>,
    /// What to do.
    pub advice: Advice,
}

/// One string before all frets are levelled and after it, unless anything else is turned.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AfterLevel {
    /// Which string.
    pub string: u8,
    /// The gap over fret 1, by the method of its target: now, and then.
    pub nut: (Length, Length),
    /// The action by its target's method: now, and then.
    pub action: (Length, Length),
}

/// What buzzes said, as tops that they touched.
pub(super) fn buzzed(known: &Estimate) -> Vec<Note> {
    let next = |note: Note| Note {
        fret: note.fret + 1,
        ..note
    };
    let told = known.buzzes().iter().map(|buzz| Note {
        string: buzz.string,
        fret: buzz.held,
    });
    let of_a_fret = |heard| matches!(heard, Heard::Buzz | Heard::Choke | Heard::Dead);
    let played = known.heard_since_fretwork();
    let played = played.filter_map(|(note, heard)| of_a_fret(heard).then_some(note));
    told.chain(played).map(next).collect()
}

impl Frets {
    /// From everything a job knows of its frets.
    pub fn of(known: &Estimate) -> Self {
        let frets = known.instrument().frets;
        let rocked = board::rocked(known.facts());
        let buzzes = buzzed(known);
        let mut survey = board::fresh(known);
        let mut measured = false;
        if let Some(survey) = &mut survey {
            // What cannot be is refused when it is told; a board on which no rocker stands knows nothing.
            for note in buzzes.iter().filter(|note| board::can_rock(**note, frets)) {
                let (string, fret) = board::index(*note);
                survey.buzzed(string, fret).ok();
            }
            measured = fret_evidence::take(survey, known);
            board::take_wear(survey, known);
            board::take_rocks(survey, &rocked, frets);
        }
        let mut tops = tops(known, survey.as_ref(), &rocked);
        let most = take(known, &mut tops);
        let mut high: Vec<TopKnown> = tops.iter().filter(|top| top.is_high()).copied().collect();
        high.sort_by(|one, other| {
            other
                .high
                .unwrap_or(0.0)
                .total_cmp(&one.high.unwrap_or(0.0))
        });
        let anything = measured
            || !rocked.is_empty()
            || !buzzes.is_empty()
            || known.worn().next().is_some()
            || known.loose().next().is_some();
        let next = survey
            .as_ref()
            .and_then(|survey| next(survey, known, &rocked));
        // A loose fret is seated first; only then it is seen what stands high.
        let sits = |top: &&TopKnown| known.pressed(top.note) != Some(true);
        let loose: BTreeSet<u8> = known.loose().map(|note| note.fret).collect();
        let numbers: BTreeSet<u8> = high
            .iter()
            .filter(sits)
            .map(|top| top.note.fret)
            .filter(|fret| !loose.contains(fret))
            .collect();
        let worn = known.worn().map(|(_, depth)| depth.middle());
        let groove = worn.max_by(|one, other| one.mm().total_cmp(&other.mm()));
        let grooved = groove.is_some_and(|depth| depth > WORN);
        let crown = known.crown().map_or(CROWN, |crown| crown.middle());
        // A crown that was measured is the lowest: what is worn is worn in it already.
        let must_go = match groove {
            Some(depth) if depth > most => depth,
            _ => most,
        };
        let remains = crown - must_go;
        let may_go = may_go(known, must_go);
        Self {
            next,
            advice: match numbers.len() {
                _ if !anything => Advice::Survey,
                _ if !loose.is_empty() => Advice::Seat,
                _ if grooved => level_or_refret(may_go),
                0 if next.is_some() => Advice::GoOn,
                0 => Advice::Leave,
                count if count <= SPOT => Advice::Spot,
                _ => level_or_refret(may_go),
            },
            frets: if loose.is_empty() {
                numbers.len()
            } else {
                loose.len()
            },
            loose: loose.into_iter().collect(),
            tops,
            high,
            most: must_go,
            remains,
            grooved,
            to_play: Vec::new(),
        }
    }

    /// Everything as it is, over the tops as they will be once all frets are levelled.
    fn levelled(&self, known: &Estimate) -> State {
        let now = known.state();
        let tops = (1..=known.instrument().strings).map(|string| {
            let taken = self.tops.iter().filter(|top| top.note.string == string);
            let lower: Vec<Length> = taken.map(|top| -top.taken).collect();
            now.tops(string).clone().uneven(&lower)
        });
        let mut then = now.clone();
        then.lay(tops.collect());
        then
    }

    /// How the strings will lie over the frets once all are levelled, and how relief will read, bass and treble: the same neck
    /// and the same strings over the tops as they will be.
    pub fn after_level(
        &self,
        known: &Estimate,
        plan: &Plan,
    ) -> (Vec<AfterLevel>, Vec<(Side, Length, Length)>) {
        let (now, then) = (known.state(), self.levelled(known));
        let gap = |place: Place| {
            let both = [now, &then].map(|state| state.predict(place).ok());
            Some((both[0]?.value, both[1]?.value))
        };
        let strings = plan.nut.strings.iter().zip(&plan.action.strings);
        let laid = strings.filter_map(|(slot, on)| {
            Some(AfterLevel {
                string: on.string,
                nut: gap(slot.quantity.place)?,
                action: gap(on.quantity.place)?,
            })
        });
        let relief = Side::ALL
            .iter()
            .zip(&plan.relief.sides)
            .filter_map(|(side, quantity)| {
                let (before, after) = gap(quantity.place)?;
                Some((*side, before, after))
            });
        (laid.collect(), relief.collect())
    }
}

/// Whether the crowns have so much to give: what was measured at the lowest, or a share of one of usual height.
pub(super) fn may_go(known: &Estimate, most: Length) -> bool {
    match known.crown() {
        Some(crown) => crown.middle() - most >= LEAST_CROWN,
        None => most <= CROWN * MAY_GO,
    }
}

const fn level_or_refret(may_go: bool) -> Advice {
    if may_go {
        Advice::Level
    } else {
        Advice::Refret
    }
}

fn tops(known: &Estimate, survey: Option<&Survey>, rocked: &[(Note, Rocking)]) -> Vec<TopKnown> {
    let instrument = known.instrument();
    let notes = (1..=instrument.strings)
        .flat_map(|string| (1..=instrument.frets).map(move |fret| Note { string, fret }));
    notes
        .map(|note| {
            let (string, fret) = (usize::from(note.string - 1), usize::from(note.fret - 1));
            let height = survey.and_then(|survey| survey.top(string, fret));
            let high = survey.and_then(|survey| survey.high(string, fret).ok());
            let last = rocked.iter().find(|(at, _)| *at == note);
            TopKnown {
                note,
                height: height.unwrap_or((Length::ZERO, Length::ZERO)),
                high: high.map(|high| high.share),
                rocked: last.map(|(_, seen)| *seen),
                taken: Length::ZERO,
            }
        })
        .collect()
}

/// Lays the plane of least metal under the tops as they most likely are; the most that goes anywhere.
fn take(known: &Estimate, tops: &mut [TopKnown]) -> Length {
    let instrument = known.instrument();
    let across = |string: u8, along: Length, scale: Length| {
        let (nut, bridge) = (
            instrument.spread_nut.middle(),
            instrument.spread_bridge.middle(),
        );
        let (index, strings) = (usize::from(string - 1), usize::from(instrument.strings));
        string_offset(index, strings, nut, bridge, along, scale)
    };
    let laid: Vec<Top> = tops
        .iter()
        .map(|top| {
            let scale = known.speaking_scale(top.note.string);
            let along = fret_position(scale, top.note.fret);
            Top {
                along,
                across: across(top.note.string, along, scale),
                height: top.height.0,
            }
        })
        .collect();
    let Ok(plan) = level(&laid) else {
        return Length::ZERO;
    };
    for (top, taken) in tops.iter_mut().zip(&plan.taken) {
        top.taken = *taken;
    }
    plan.most()
}

/// The place not rocked yet that would tell most.
fn next(survey: &Survey, known: &Estimate, rocked: &[(Note, Rocking)]) -> Option<Note> {
    let instrument = known.instrument();
    let mut best: Option<(Note, f64)> = None;
    for string in 1..=instrument.strings {
        for fret in 2..instrument.frets {
            let note = Note { string, fret };
            if rocked.iter().any(|(at, _)| *at == note) {
                continue;
            }
            let tells = survey.would_tell(usize::from(string - 1), usize::from(fret - 1));
            let Ok(tells) = tells else { continue };
            // The first of equals: along the board from the nut, string 1 first.
            if best.is_none_or(|(_, most)| tells > most + 1e-9) {
                best = Some((note, tells));
            }
        }
    }
    best.filter(|(_, tells)| *tells > WORTH_A_ROCK)
        .map(|(note, _)| note)
}
