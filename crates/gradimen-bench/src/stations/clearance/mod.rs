//! The clearance map: where each string touches under this player's hand, how low it may lie, and
//! what a buzz that was heard says.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document};
//! use gradimen_bench::stations::clearance::map_now;
//!
//! let text = include_str!("../../../../../docs/formats/examples/seven-string-heights.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! assert_eq!(map_now(&known).len(), 7);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod suspects;

pub use suspects::{Suspect, Suspicion};

use gradimen_core::action::StringLine;
use gradimen_core::clearance::{self, Bent, Pluck, Swings, Tightest};
use gradimen_core::neck::{self, FretTops};
use gradimen_core::quantity::{Curvature, Force, Length};

use crate::estimate::state::State;
use crate::estimate::{Estimate as Known, HeardBuzz};
use crate::model::defaults::{self, tolerance};
use crate::model::instrument::Kind;
use crate::model::{Buzz, Side};

/// How far hands of one kind differ, as a logarithm.
const HAND_SPREAD: f64 = 0.4;
/// How well one heard buzz tells the hand.
const HEARD_SPREAD: f64 = 0.2;
/// And how well at best, however near a clean and a buzzing stroke lay: the string is no ideal one.
const HEARD_BEST: f64 = 0.1;
/// A buzz that would take a hand so many times stronger or weaker comes from one fret.
const ONE_FRET: f64 = 2.2;
/// A fret that takes more than this of the room over it, against an even board, is the cause of a buzz there (from memory).
const STANDS_HIGH: Length = Length::from_mm(0.02);
/// Necks are tried from straight to this much relief (hold 1 and last, read 8) for the lowest strings.
const MOST_RELIEF_MM: f64 = 0.6;
const RELIEF_STEPS: u32 = 24;

/// Whose hand the map is for.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Attack {
    /// The hardest stroke.
    pub pluck: Pluck,
    /// How many buzzes it was learned from.
    pub heard: usize,
}

/// One string of the map.
#[derive(Debug, Clone, PartialEq)]
pub struct StringMap {
    /// Which string.
    pub string: u8,
    /// The tightest place for every held fret from the open string on.
    pub places: Vec<Tightest>,
}

impl StringMap {
    /// The tightest of all.
    pub fn worst(&self) -> Option<Tightest> {
        self.places
            .iter()
            .copied()
            .min_by(|a, b| a.margin.mm().total_cmp(&b.margin.mm()))
    }
}

/// What a bend leaves.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Bend {
    /// Which string.
    pub string: u8,
    /// How far it is bent aside.
    pub shift: Length,
    /// Where it comes nearest, of all frets from the twelfth up.
    pub tightest: Tightest,
}

/// What cures a buzz.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum BuzzRemedy {
    /// More relief, by hold 1 and last, read 8.
    Rod {
        /// How much more.
        by: Length,
    },
    /// A higher slot.
    Nut {
        /// How much higher over fret 1.
        by: Length,
    },
    /// A higher string.
    Saddle {
        /// How much higher over the fret of the target.
        by: Length,
    },
    /// This fret stands high.
    Fret(u8),
    /// Nothing: it clears.
    None,
}

/// A buzz that was heard, explained.
#[derive(Debug, Clone, PartialEq)]
pub struct BuzzDiagnosis {
    /// What was told.
    pub buzz: Buzz,
    /// The fret it touches.
    pub fret: u8,
    /// The force at which it begins there.
    pub onset: Force,
    /// What cures it.
    pub cure: BuzzRemedy,
    /// What it may come from, likeliest first.
    pub suspects: Vec<Suspicion>,
    /// Whether the string was moved since and is computed to clear at that stroke now: it is to be played again.
    pub play_again: bool,
}

/// The map.
#[derive(Debug, Clone, PartialEq)]
pub struct ClearancePlan {
    /// Whose hand.
    pub attack: Attack,
    /// As the strings lie now.
    pub now: Vec<StringMap>,
    /// As they will lie when the plan is done.
    pub after: Vec<StringMap>,
    /// Buzzes that were heard.
    pub heard: Vec<BuzzDiagnosis>,
    /// Lowest action over the fret of the target that clears at this hand, string by string.
    pub lowest: Vec<Length>,
    /// The relief that goes with them, by the target's school.
    pub lowest_relief: Length,
    /// What cures the tightest place now.
    pub cure: BuzzRemedy,
    /// What bends of a whole step leave on the strings that are bent.
    pub bends: Vec<Bend>,
}

pub(crate) fn pull(known: &Known, string: u8) -> Force {
    known
        .string_state(string)
        .map_or(Force::from_newtons(70.0), |state| {
            state.tension(known.speaking_scale(string))
        })
}

/// The hand: usual for its kind, then as buzzes that were heard say, each weighing by how well it tells.
fn attack(known: &Known, state: &State) -> Attack {
    let usual = defaults::pluck(known.instrument().kind, known.player().touch);
    let (mut sum, mut weight) = (0.0, 1.0 / HAND_SPREAD.powi(2));
    let mut heard = 0;
    for heard_then in known.heard() {
        let Some((_, onset)) = touches(state, &usual, heard_then) else {
            continue;
        };
        let full = onset.newtons() / heard_then.buzz.attack;
        let log = (full / usual.force.newtons()).ln();
        if log.abs() < ONE_FRET.ln() {
            // Strokes that were listened to are known better than a hand that guesses its own.
            let buzz = &heard_then.buzz;
            let spread = buzz
                .doubt
                .map_or(HEARD_SPREAD, |doubt| HEARD_BEST.max(doubt / buzz.attack));
            let w = 1.0 / spread.powi(2);
            sum += log * w;
            weight += w;
            heard += 1;
        }
    }
    Attack {
        pluck: usual.with_force(usual.force * (sum / weight).exp()),
        heard,
    }
}

/// This player's hardest stroke, as far as buzzes that were heard tell it.
pub(crate) fn hardest_stroke(known: &Known) -> Pluck {
    attack(known, known.state()).pluck
}

/// Near the nut an open string comes down on one of these first (from memory).
const BEHIND_THE_NUT: u8 = 5;

/// How far the slot of a string may still come down before the open string, lying so, touches at this player's hardest stroke:
/// the floor of filing (common practice: open strings are clean at this attack). Nothing is in the way over a board without
/// frets.
pub(crate) fn open_room(
    known: &Known,
    pluck: &Pluck,
    string: u8,
    line: &StringLine,
) -> Option<Length> {
    if known.instrument().construction.fretless {
        return None;
    }
    let state = known.state();
    let tops = state.tops(string);
    let tension = pull(known, string);
    let room = (1..=BEHIND_THE_NUT.min(tops.frets())).filter_map(|fret| {
        let left = clearance::margin(tops, line, tension, pluck, 0, fret).ok()?;
        // So much of the slot's depth shows there.
        let shows = 1.0 - tops.place(fret).ratio(line.length);
        Some(left / shows)
    });
    room.min_by(|a, b| a.mm().total_cmp(&b.mm()))
        .map(|room| room.max(Length::ZERO))
}

/// The fret a held string touched first, and the force at which it did, as it lay when it was heard.
fn touches(state: &State, pluck: &Pluck, heard: &HeardBuzz) -> Option<(u8, Force)> {
    let HeardBuzz {
        buzz,
        line,
        tension,
    } = heard;
    let tops = state.tops(buzz.string);
    (buzz.held + 1..=tops.frets())
        .filter_map(|fret| {
            let force = clearance::onset(tops, line, *tension, pluck, buzz.held, fret).ok()?;
            Some((fret, force))
        })
        .min_by(|a, b| a.1.newtons().total_cmp(&b.1.newtons()))
}

/// The board as it would be with every fret on its line.
pub(crate) fn even(known: &Known, string: u8) -> Option<FretTops> {
    let scale = known.speaking_scale(string);
    known.instrument().fret_tops(string, scale).ok()
}

/// The adjuster that cures a place with the least departure, counted in tolerances.
fn cure(known: &Known, state: &State, string: u8, pluck: &Pluck, held: u8, fret: u8) -> BuzzRemedy {
    let (tops, line) = (state.tops(string), state.line(string));
    let tension = pull(known, string);
    let margin = |line: &StringLine| clearance::margin(tops, line, tension, pluck, held, fret);
    let Ok(now) = margin(&line) else {
        return BuzzRemedy::None;
    };
    if now >= Length::ZERO {
        return BuzzRemedy::None;
    }
    let step = Length::from_mm(0.01);
    let bent = StringLine {
        bend: neck::Bend {
            even: line.bend.even
                + Curvature::from_per_metre(step.mm() * 1e-3 / state.plain_slope()),
            ..line.bend
        },
        ..line
    };
    let nut = StringLine {
        nut: line.nut + step,
        ..line
    };
    let raised = StringLine {
        saddle: line.saddle + step,
        ..line
    };
    let action = |line: &StringLine| line.action(tops, known.targets().action_fret);
    let gain = |other: &StringLine| margin(other).map_or(0.0, |after| (after - now).ratio(step));
    let lift = match (action(&raised), action(&line)) {
        (Ok(raised), Ok(line)) => (raised - line).ratio(step),
        _ => 0.5,
    };
    // On a board that is known to be uneven there, what would clear on an even one is cured at that fret.
    if even(known, string).is_some_and(|even| {
        let left = clearance::margin(&even, &line, tension, pluck, held, fret);
        left.is_ok_and(|left| left >= Length::ZERO && left - now > STANDS_HIGH)
    }) {
        return BuzzRemedy::Fret(fret);
    }
    let needed = -now;
    let ways = [
        (gain(&bent), 1.0, tolerance::RELIEF),
        (gain(&nut), 1.0, tolerance::NUT),
        (gain(&raised), lift, tolerance::ACTION),
    ];
    let best = ways
        .iter()
        .enumerate()
        .filter(|(_, (gain, ..))| *gain > 0.02)
        .map(|(at, (gain, shown, allowed))| {
            let by = needed * (shown / gain);
            (at, by, by.ratio(*allowed))
        })
        .min_by(|a, b| a.2.total_cmp(&b.2));
    match best {
        Some((0, by, _)) => BuzzRemedy::Rod { by },
        Some((1, by, _)) => BuzzRemedy::Nut { by },
        Some((_, by, _)) => BuzzRemedy::Saddle { by },
        None => BuzzRemedy::Fret(fret),
    }
}

fn heard(known: &Known, state: &State, attack: &Attack) -> Vec<BuzzDiagnosis> {
    known
        .heard()
        .iter()
        .filter_map(|heard| {
            let (fret, onset) = touches(state, &attack.pluck, heard)?;
            let buzz = &heard.buzz;
            let at = attack.pluck.force * buzz.attack;
            // Heard at far less than it takes on even frets: the next one up stands high.
            let cure = if onset.ratio(at) > ONE_FRET {
                BuzzRemedy::Fret(buzz.held + 1)
            } else {
                cure(known, state, buzz.string, &attack.pluck, buzz.held, fret)
            };
            let now = suspects::lies_otherwise(known, heard);
            let clears = now && clears(known, state, attack, buzz);
            Some(BuzzDiagnosis {
                buzz: *buzz,
                fret,
                onset,
                cure,
                suspects: suspects::of(known, heard, cure, onset.ratio(at)),
                play_again: clears,
            })
        })
        .collect()
}

/// Whether a string is computed to clear every fret, held and played as it was when it was heard.
fn clears(known: &Known, state: &State, attack: &Attack, buzz: &Buzz) -> bool {
    let (tops, line) = (state.tops(buzz.string), state.line(buzz.string));
    let tension = pull(known, buzz.string);
    let pluck = attack.pluck.with_force(attack.pluck.force * buzz.attack);
    (buzz.held + 1..=tops.frets()).all(|fret| {
        clearance::margin(tops, &line, tension, &pluck, buzz.held, fret)
            .is_ok_and(|left| left >= Length::ZERO)
    })
}

/// A bend that players count on (common practice: a whole step).
const BEND_SEMITONES: f64 = 2.0;
/// Strings that are bent: the first three of a guitar (common practice).
const BENT_STRINGS: u8 = 3;
/// Bends choke from here up.
const BENDS_FROM: u8 = 12;

fn bends(known: &Known, state: &State, pluck: &Pluck) -> Vec<Bend> {
    if known.instrument().kind == Kind::Bass {
        return Vec::new();
    }
    // The string behind the nut stretches with the rest.
    let anchors = known.anchors();
    let behind = anchors.behind_saddle + anchors.behind_nut;
    (1..=BENT_STRINGS.min(known.instrument().strings))
        .filter_map(|string| {
            let (tops, line) = (state.tops(string), state.line(string));
            let bent = Bent {
                tension: pull(known, string),
                stretch: known.string_state(string)?.spec.stretch_stiffness(),
                free: line.length + behind,
            };
            (BENDS_FROM..tops.frets())
                .filter_map(|held| {
                    let shift = bent.shift(tops, line.length, held, BEND_SEMITONES).ok()?;
                    let tightest =
                        clearance::bend_margin(tops, &line, bent.tension, pluck, held, shift)
                            .ok()?;
                    Some(Bend {
                        string,
                        shift,
                        tightest,
                    })
                })
                .min_by(|a, b| a.tightest.margin.mm().total_cmp(&b.tightest.margin.mm()))
        })
        .collect()
}

/// Lowest actions over all strings together: one neck serves them all, so the bend is the one that
/// lets the sum of actions be least.
fn lowest(known: &Known, state: &State, swings: &[Swings]) -> (Vec<Length>, Length) {
    let fret = known.targets().action_fret;
    let laid = |curvature: Curvature| -> Vec<Length> {
        (1..)
            .zip(swings)
            .filter_map(|(string, swings)| {
                let line = state.line(string);
                let bent = StringLine {
                    bend: neck::Bend {
                        even: curvature,
                        ..line.bend
                    },
                    ..line
                };
                let saddle = swings.lowest_saddle(&bent);
                let tops = state.tops(string);
                StringLine { saddle, ..bent }.action(tops, fret).ok()
            })
            .collect()
    };
    let mut best: Option<(f64, Vec<Length>, Curvature)> = None;
    for step in 0..=RELIEF_STEPS {
        let relief = MOST_RELIEF_MM * f64::from(step) / f64::from(RELIEF_STEPS);
        let bend = Curvature::from_per_metre(relief * 1e-3 / state.plain_slope());
        let heights = laid(bend);
        let sum = heights.iter().map(|height| height.mm()).sum::<f64>();
        if best.as_ref().is_none_or(|(least, ..)| sum < *least) {
            best = Some((sum, heights, bend));
        }
    }
    let span = known.targets().relief_span.span();
    best.map_or((Vec::new(), Length::ZERO), |(_, heights, bend)| {
        let relief = state
            .relief(Side::Bass, span)
            .map_or(Length::ZERO, |relief| relief.gap(bend));
        (heights, relief)
    })
}

fn swings(known: &Known, state: &State, attack: &Attack) -> Vec<Swings> {
    (1..=known.instrument().strings)
        .filter_map(|string| {
            let length = state.line(string).length;
            Swings::new(
                state.tops(string),
                length,
                pull(known, string),
                &attack.pluck,
            )
            .ok()
        })
        .collect()
}

fn maps(swings: &[Swings], line: impl Fn(u8) -> StringLine) -> Vec<StringMap> {
    (1..)
        .zip(swings)
        .map(|(string, swings)| StringMap {
            string,
            places: swings.map(&line(string)),
        })
        .collect()
}

/// The map as the strings lie now, and nothing else.
pub fn map_now(known: &Known) -> Vec<StringMap> {
    let state = known.state();
    let swings = swings(known, state, &attack(known, state));
    maps(&swings, |string| state.line(string))
}

impl ClearancePlan {
    /// Works the map out, now and for the strings as they will lie.
    pub fn of(known: &Known, after: impl Fn(u8) -> StringLine) -> Self {
        let state = known.state();
        let attack = attack(known, state);
        let swings = swings(known, state, &attack);
        let now = maps(&swings, |string| state.line(string));
        let (lowest, lowest_relief) = lowest(known, state, &swings);
        if known.instrument().construction.fretless {
            // Over a board without frets the string is meant to touch: that is heard, not computed.
            return Self {
                bends: Vec::new(),
                after: Vec::new(),
                heard: Vec::new(),
                now: Vec::new(),
                lowest: Vec::new(),
                cure: BuzzRemedy::None,
                attack,
                lowest_relief,
            };
        }
        let worst = now
            .iter()
            .filter_map(|map| map.worst().map(|worst| (map.string, worst)))
            .min_by(|a, b| a.1.margin.mm().total_cmp(&b.1.margin.mm()));
        let cure = worst.map_or(BuzzRemedy::None, |(string, worst)| {
            cure(known, state, string, &attack.pluck, worst.held, worst.fret)
        });
        Self {
            bends: bends(known, state, &attack.pluck),
            after: maps(&swings, after),
            heard: heard(known, state, &attack),
            attack,
            now,
            lowest,
            lowest_relief,
            cure,
        }
    }
}
