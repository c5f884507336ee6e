//! Par: what the plan, followed to the letter, and careful trial and error take on an instrument.

use std::collections::BTreeSet;

use gradimen_bench::journal::Event;
use gradimen_bench::model::{Fretwork, Note, Observation, Place, Toll};
use gradimen_bench::plan::Plan;
use gradimen_bench::plan::frets::{Advice, Frets};
use gradimen_trial::technician::{Asked, asked};

use crate::careful;
use crate::hands::{Hands, fretwork, played_clean};
use crate::judgement::Judgement;

/// Steps after which nobody goes on.
const MOST_STEPS: usize = 400;
/// Rocks of a survey after which nobody goes on.
const MOST_ROCKS: usize = 60;

/// What the plan and trial and error take on an instrument, from the events that open its job.
pub fn of(opening: &[Event]) -> Option<(Toll, Toll)> {
    let plan = by_the_plan(opening)?.toll()?;
    let trial = careful::work(opening)?.toll()?;
    Some((plan, trial))
}

/// A way of working.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Way {
    /// The plan to the letter.
    Plan,
    /// Careful trial and error.
    Trial,
}

/// Some work as it would be handed in.
#[derive(Debug, Clone, PartialEq)]
pub struct Work {
    /// Everything that was told, the opening first.
    pub events: Vec<Event>,
    /// What it took.
    pub toll: Toll,
    /// Whether it is at par.
    pub par: bool,
}

/// An exercise worked through, from the events that open its job.
pub fn worked(opening: &[Event], way: Way) -> Option<Work> {
    let hands = match way {
        Way::Plan => by_the_plan(opening)?,
        Way::Trial => careful::work(opening)?,
    };
    let known = hands.known()?;
    let judged = Judgement::of(&hands.bench, &known, &Plan::of(&known));
    Some(Work {
        events: hands.entries.into_iter().map(|entry| entry.event).collect(),
        toll: judged.toll,
        par: judged.is_par(),
    })
}

/// The plan to the letter, frets first where something buzzed.
pub(crate) fn by_the_plan(opening: &[Event]) -> Option<Hands> {
    let mut hands = Hands::at(opening)?;
    frets(&mut hands)?;
    let mut passed: Vec<Place> = Vec::new();
    for _ in 0..MOST_STEPS {
        let known = hands.known()?;
        let plan = Plan::of(&known);
        match asked(&known, &plan, &passed) {
            None => break,
            Some(Asked::Read(places)) => {
                let read = places.iter().filter(|place| hands.read(**place).is_some());
                if read.count() == 0 {
                    // Nothing in this bag reads that.
                    if passed.contains(&places[0]) {
                        break;
                    }
                    passed.extend(places);
                }
            }
            Some(Asked::Do(adjuster, amount)) => {
                if hands.turn(adjuster, &amount).is_none() {
                    break;
                }
            }
        }
    }
    Some(hands)
}

/// What the fret survey asks for, and does, until what buzzed is clean.
fn frets(hands: &mut Hands) -> Option<()> {
    if hands.known()?.play_test().next().is_none() {
        return Some(());
    }
    for _ in 0..MOST_ROCKS {
        let known = hands.known()?;
        let survey = Frets::of(&known).for_play(&known, &Plan::of(&known));
        let mut high = survey.high.iter().map(|top| top.note);
        // Pressed before anything is filed: a loose fret is no high one.
        let pressed = |note: &Note| {
            let mut along = (1..=hands.bench.strings()).map(|string| Note { string, ..*note });
            along.any(|note| known.pressed(note).is_some())
        };
        let press = high.find(|note| !pressed(note));
        let work: Vec<Event> = match (survey.advice, press, survey.next) {
            (Advice::Seat, ..) => {
                let seated = |fret: &u8| fretwork(Fretwork::Seated, Some(*fret));
                survey.loose.iter().map(seated).collect()
            }
            (Advice::Spot | Advice::Level | Advice::Play, Some(note), _) => {
                let moves = hands.bench.gives(note.fret);
                hands.tell(vec![Event::Observed {
                    what: Observation::Pressed { note, moves },
                }]);
                continue;
            }
            (Advice::Spot, ..) => {
                let high: BTreeSet<u8> = survey.high.iter().map(|top| top.note.fret).collect();
                let spot = |fret: u8| fretwork(Fretwork::Spot, Some(fret));
                high.into_iter().map(spot).collect()
            }
            (Advice::Level, ..) => vec![fretwork(Fretwork::Levelled, None)],
            (_, _, Some(next)) => {
                let (string, fret) = (next.string, next.fret);
                hands.read(Place::Rock { string, fret })?;
                continue;
            }
            _ => break,
        };
        hands.tell(work);
        if played_clean(hands)? {
            break;
        }
    }
    Some(())
}
