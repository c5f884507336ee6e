//! The relief station: one neck in every method's number, and the next turn of the truss rod.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! // One neck, in every method's number.
//! assert!(plan.relief.schools.len() > 3);
//! if let Some(step) = plan.relief.next_move() {
//!     assert!(step.turns().value().abs() <= 0.25, "never more than a quarter turn at once");
//! }
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use crate::decision::Finish;
use crate::decision::{
    Action, Decision, Expectation, Expected, Judged, Mark, Move, Odds, Quantity, Rule, Station,
    StationId, Stop, Sum, Task, Verdict, mark_of,
};
use crate::estimate::Estimate as Known;
use crate::estimate::state::State;
use crate::estimate::state::layout::{BASS, MIDDLE, ROD_MIDDLE, TREBLE};
use crate::finding::Finding;
use crate::journal::Event;
use crate::model::defaults::relief_schools;
use crate::model::instrument::{Kind, NeckRecord, Rod, RodAt};
use crate::model::{Adjuster, Amount, End, Place, Reading, ReliefSpan, Side, Targets, Tool};
use std::collections::BTreeMap;

use gradimen_core::quantity::{Estimate, Length, Turns};

/// Never more than this at once (common practice) ...
const QUARTER: f64 = 0.25;
/// ... but so much at a heel, strings off and neck slack (common practice) ...
const HALF: f64 = 0.5;
/// ... and the least a key can set.
const SIXTEENTH: f64 = 0.0625;
/// A treble side that has more relief than the bass by this is a finding (common practice).
const SIDES_DIFFER: Length = Length::from_mm(0.05);
/// Bent backward by more than what can be overlooked.
const BACKWARD: Length = Length::from_mm(-0.03);

/// One school's number on this neck.
#[derive(Debug, Clone, PartialEq)]
pub struct SchoolRow {
    /// Its word in forms.
    pub key: &'static str,
    /// Its name.
    pub name: &'static str,
    /// Where.
    pub span: ReliefSpan,
    /// What it would read now, treble and bass.
    pub now: [Estimate<Length>; 2],
    /// The target in its number, on the treble side and on the bass side.
    pub target: [Length; 2],
}

impl SchoolRow {
    /// The target in its number, between the sides.
    pub fn wanted(&self) -> Length {
        (self.target[0] + self.target[1]) * 0.5
    }
}

/// What is wrong with a neck that a truss rod cannot put right.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum NeckFault {
    /// One side in back-bow while the other has relief, or one with far more relief than the other.
    Twist {
        /// The side that is in back-bow; nothing where both bow forward, further apart than a rod can serve.
        backward: Option<Side>,
        /// Relief of both sides by hold 1 and last, read 8: treble, bass.
        relief: [Length; 2],
    },
    /// The treble side has clearly more relief than the bass.
    TrebleMore {
        /// By how much.
        by: Length,
    },
    /// Both sides in back-bow.
    BackBow {
        /// On a one-way rod that is slack already: it has nothing left to give.
        slack: bool,
    },
    /// The truss rod has nothing left in the direction that is needed.
    RodSpent(End),
    /// What the other side wants would take this one below straight.
    NoSideBelow(Side),
    /// The neck went the other way than the rod was turned: clockwise loosens here.
    RodBackwards,
}

/// The relief station.
#[derive(Debug, Clone, PartialEq)]
pub struct ReliefPlan {
    /// Treble and bass.
    pub sides: [Quantity; 2],
    /// What to do.
    pub action: Action,
    /// The same neck in every school's number.
    pub schools: Vec<SchoolRow>,
    /// What stops or redirects.
    pub faults: Vec<NeckFault>,
}

/// Works the station out, and bends the neck of the finished state `end`.
pub(crate) fn plan(known: &Known, targets: &Targets, rule: Rule, end: &mut Finish) -> ReliefPlan {
    let state = known.state();
    let span = targets.relief_span.span();
    let sides = Side::ALL.map(|side| Quantity::new(state, targets.relief(side)));
    let mut faults = faults(known, &sides);
    let mean = (sides[0].off() + sides[1].off()) * 0.5;
    let off = mean.min(to_straight(&sides));
    if off < mean && sides.iter().all(|side| side.last.is_some()) {
        let lower = usize::from(sides[1].now.value < sides[0].now.value);
        faults.push(NeckFault::NoSideBelow(Side::ALL[lower]));
    }
    let (per_turn, doubt) = state
        .relief(Side::Bass, span)
        .map_or((Length::from_mm(1.0), 0.5), |relief| {
            state.rod_response(relief)
        });
    let total = off.ratio(per_turn);
    let rod = known.instrument().neck.rod;
    let stopped = faults.iter().any(NeckFault::stops)
        || known
            .ended(Adjuster::TrussRod)
            .is_some_and(|how| refuses(how, total, rod));
    let read = sides.iter().all(|side| side.last.is_some());
    let stale = read && !rule.assumed && sides.iter().all(|side| side.fresh() == 0);
    let action = match decide(&sides, (off, doubt), rule) {
        _ if stopped && read => Action::Stop(Stop::Neck),
        // What a neck needs is known before it is refused.
        Decision::Measure => Action::Measure(wanting(&sides, rule)),
        // What a rod did is read before it is let be ...
        Decision::Leave if stale && known.turned(Adjuster::TrussRod) != Turns::ZERO => {
            Action::Measure(vec![worse(&sides).place])
        }
        Decision::Leave => Action::Leave,
        Decision::Move if total.abs() < SIXTEENTH / 2.0 => Action::Leave,
        // ... and before it is turned (again), as is what other strings did.
        Decision::Move if stale => Action::Measure(vec![worse(&sides).place]),
        Decision::Move => {
            let response = (per_turn, doubt);
            let neck = &known.instrument().neck;
            let shown = known.turned(Adjuster::TrussRod) != Turns::ZERO;
            Action::Adjust(Box::new(rod_move(
                state,
                &sides,
                off,
                (total, neck, shown),
                response,
            )))
        }
    };
    // The neck as it will be: both sides go together, whatever is still to be read before the rod is turned.
    let will = match &action {
        Action::Adjust(_) => true,
        Action::Measure(_) => read && off.abs() > sides[0].tolerance * WORTH,
        Action::Leave | Action::Stop(_) => false,
    };
    if will && let Ok(relief) = state.relief(Side::Bass, span) {
        let share = end.x[ROD_MIDDLE];
        let bend = off.mm() / (relief.slope() + share * relief.middle());
        end.x[BASS] -= bend;
        end.x[TREBLE] -= bend;
        end.x[MIDDLE] -= bend * share;
    }
    ReliefPlan {
        sides,
        action,
        schools: schools(known, targets),
        faults,
    }
}

/// How far the rod may take both sides before the lower one is straight: no side is planned below that, nor taken there by
/// what its reading may be wrong by (common practice).
fn to_straight(sides: &[Quantity; 2]) -> Length {
    let room = sides
        .each_ref()
        .map(|side| side.now.value - side.now.sigma.min(side.target.max(Length::ZERO)));
    room[0].min(room[1]).max(Length::ZERO)
}

/// One rod bends both sides: it is turned by what they are off together, and left where both are right. What a turn
/// does is known to a share, `doubt`: far off, nothing is gained by reading more before it.
fn decide(sides: &[Quantity; 2], (off, doubt): (Length, f64), rule: Rule) -> Decision {
    let judged = sides.each_ref().map(|side| Judged {
        moving: (off.mm() * doubt).abs(),
        ..side.judged(side.off())
    });
    let each = judged.map(|side| side.decide(rule));
    if sides.iter().any(|side| side.last.is_none()) && each.contains(&Decision::Measure) {
        return Decision::Measure;
    }
    if each.iter().all(|decision| *decision == Decision::Leave) {
        return Decision::Leave;
    }
    let worse = usize::from(judged[1].odds().within < judged[0].odds().within);
    let together = Judged {
        off: off.mm(),
        ..judged[worse]
    };
    // Both sides inside while each is nearer its edge than the middle: the rod brings the worse one in by half.
    let least = |moved: f64| {
        let odds = judged.iter().map(|side| {
            let off = side.off - moved;
            Odds::of(off, side.sigma, side.allowed).within
        });
        odds.fold(1.0, f64::min)
    };
    let gains = least(off.mm()) - least(0.0) > GAIN;
    match together.decide(rule) {
        Decision::Leave if gains && each.contains(&Decision::Move) => Decision::Move,
        _ if each.contains(&Decision::Measure) && !each.contains(&Decision::Move) => {
            Decision::Measure
        }
        // The sides were read as often as it tells anything.
        Decision::Measure if each.contains(&Decision::Measure) => Decision::Measure,
        Decision::Measure if off.abs() > sides[worse].tolerance * WORTH => Decision::Move,
        Decision::Measure => Decision::Leave,
        decision => decision,
    }
}

/// A rod is not turned for less than this share of the tolerance ...
const WORTH: f64 = 0.3;
/// ... nor where the worse side gets no more probable by this (from memory).
const GAIN: f64 = 0.1;

/// The sides that are to be read. Both at first; later the one that is more in doubt, which tells of the other too:
/// one rod moves both.
fn wanting(sides: &[Quantity; 2], rule: Rule) -> Vec<Place> {
    let unread = sides.iter().filter(|side| side.last.is_none());
    let unread: Vec<Place> = unread.map(|side| side.place).collect();
    if !unread.is_empty() {
        return unread;
    }
    sides
        .iter()
        .filter(|side| side.decision(rule) == Decision::Measure)
        .min_by(|a, b| a.odds.within.total_cmp(&b.odds.within))
        .map(|side| side.place)
        .into_iter()
        .collect()
}

/// The side that is more in doubt.
fn worse(sides: &[Quantity; 2]) -> &Quantity {
    let [treble, bass] = sides;
    if bass.odds.within < treble.odds.within {
        bass
    } else {
        treble
    }
}

/// Whether a rod that refused does so in the direction that is needed.
fn refuses(how: End, total: f64, rod: Rod) -> bool {
    match how {
        End::Hard | End::Rubbery | End::Top | End::Stuck => total > 0.0,
        End::NoEffect | End::Bottom => total > 0.0 || rod == Rod::OneWay,
        End::Free => false,
    }
}

/// What is turned at once: to the next sixteenth, and never more than a quarter under load, or a half at a heel with the
/// neck off and slack.
fn step_of(need: f64, most: f64) -> f64 {
    let size = (need.abs() / SIXTEENTH).round().max(1.0) * SIXTEENTH;
    size.min(most) * need.signum()
}

/// ... and, once the first half has shown what this rod does, the neck is not taken off again for less than it needs.
const WHOLE: f64 = 1.0;

/// The most that is turned at once. At a heel the neck comes off: one removal is planned, and a second sized from what the
/// first one did (common practice).
const fn most_at_once(at: RodAt, shown: bool) -> f64 {
    match at {
        RodAt::Heel if shown => WHOLE,
        RodAt::Heel => HALF,
        RodAt::Head | RodAt::Body | RodAt::Wheel => QUARTER,
    }
}

fn rod_move(
    state: &State,
    sides: &[Quantity; 2],
    off: Length,
    (total, neck, shown): (f64, &NeckRecord, bool),
    (per_turn, doubt): (Length, f64),
) -> Move {
    let most = most_at_once(neck.rod_at, shown);
    let tightens = neck.tightens();
    let step = step_of(total, most);
    let mut rounds = 0;
    let mut left = total;
    while left.abs() > SIXTEENTH / 2.0 && left.signum() == total.signum() {
        left -= step_of(left, most);
        rounds += 1;
    }
    let amount = Amount::Turns { turns: step };
    let turn = [(Adjuster::TrussRod, amount.clone())];
    let moved = per_turn * step;
    Move {
        adjuster: Adjuster::TrussRod,
        amount,
        rotation: Some(if step > 0.0 {
            tightens
        } else {
            tightens.reversed()
        }),
        distance: -moved,
        total: Turns::new(total),
        rounds: rounds.max(1),
        expected: sides
            .iter()
            .map(|side| Expected {
                place: side.place,
                value: Expectation::Length(
                    state.expect_length(&turn, side.place).unwrap_or(side.now),
                ),
            })
            .collect(),
        sum: Sum::Rod {
            off,
            per_turn,
            doubt,
        },
    }
}

fn schools(known: &Known, targets: &Targets) -> Vec<SchoolRow> {
    let state = known.state();
    let span = targets.relief_span.span();
    let middle = state.mean()[MIDDLE];
    relief_schools(known.instrument())
        .into_iter()
        .filter_map(|school| {
            let mut now = [Estimate::new(Length::ZERO, Length::ZERO); 2];
            let mut target = [Length::ZERO; 2];
            for (index, side) in Side::ALL.into_iter().enumerate() {
                let place = Place::Relief {
                    side,
                    span: school.span,
                };
                let relief = state.relief(side, school.span.span()).ok()?;
                let seen = state.predict(place).ok()?;
                // As it was read, or turned into another school's number.
                let shape = if school.span == targets.relief_span {
                    Length::ZERO
                } else {
                    relief.shape_doubt(seen.value)
                };
                now[index] = Estimate::new(
                    seen.value,
                    Length::from_mm(seen.sigma.mm().hypot(shape.mm())),
                );
                // The same neck: its middle is bent as it is, the rest follows the target.
                let own = state.relief(side, span).ok()?;
                let bent =
                    |relief: gradimen_core::neck::Relief| Length::from_mm(relief.middle() * middle);
                let wanted = own.curvature(targets.relief.middle() - bent(own));
                target[index] = relief.gap(wanted) + bent(relief);
            }
            Some(SchoolRow {
                key: school.key,
                name: school.name,
                span: school.span,
                now,
                target,
            })
        })
        .collect()
}

fn faults(known: &Known, sides: &[Quantity; 2]) -> Vec<NeckFault> {
    let mut found = Vec::new();
    let read = sides.iter().all(|side| side.last.is_some());
    let [treble, bass] = known.state().plain_relief();
    let surely_below = |side: Estimate<Length>| side.value + side.sigma < BACKWARD;
    let surely_bent = |side: Estimate<Length>| side.value - side.sigma > -BACKWARD;
    if read {
        let relief = [treble.value, bass.value];
        if surely_below(treble) && surely_below(bass) {
            let slack = matches!(
                known.ended(Adjuster::TrussRod),
                Some(End::NoEffect | End::Bottom)
            );
            found.push(NeckFault::BackBow {
                slack: slack && known.instrument().neck.rod == Rod::OneWay,
            });
        } else if surely_below(treble) && surely_bent(bass) {
            found.push(NeckFault::Twist {
                backward: Some(Side::Treble),
                relief,
            });
        } else if surely_below(bass) && surely_bent(treble) {
            found.push(NeckFault::Twist {
                backward: Some(Side::Bass),
                relief,
            });
        } else {
            // As they were read, side by side: no rod brings both inside.
            let apart = sides[1].now.value - sides[0].now.value;
            let doubt = sides[0].now.sigma.mm().hypot(sides[1].now.sigma.mm());
            let room = sides[0].tolerance + sides[1].tolerance;
            let beyond = apart.abs() - room.max(WOUND);
            if beyond.mm() > TWO_SIGMA * doubt {
                found.push(NeckFault::Twist {
                    backward: None,
                    relief,
                });
            } else if -apart > SIDES_DIFFER && -apart.mm() > doubt {
                found.push(NeckFault::TrebleMore { by: -apart });
            }
        }
    }
    let slack_back_bow = matches!(found[..], [NeckFault::BackBow { slack: true }]);
    if let Some(how) = known.ended(Adjuster::TrussRod).filter(|_| !slack_back_bow) {
        found.push(NeckFault::RodSpent(how));
    }
    if backwards(known) {
        found.push(NeckFault::RodBackwards);
    }
    found
}

/// A rod that works the other way round shows it by so many standard deviations of a reading (from memory).
const SURELY_BACKWARDS: f64 = 3.0;

/// Whether the readings before and after turns of the rod say that it works the other way round: the neck straightens as it
/// is loosened. Straight from what was typed, for the estimate takes the record's word for the way.
fn backwards(known: &Known) -> bool {
    let mut last: BTreeMap<Place, (f64, f64)> = BTreeMap::new();
    let mut turned: BTreeMap<Place, f64> = BTreeMap::new();
    let (mut sum, mut count) = (0.0, 0.0_f64);
    for entry in known.facts() {
        match &entry.event {
            Event::Adjusted {
                adjuster: Adjuster::TrussRod,
                amount: Amount::Turns { turns },
            } => turned.values_mut().for_each(|by| *by += turns),
            // Other strings, or none: what is read after that has nothing to do with the rod.
            Event::Restrung { .. } => last.clear(),
            Event::Read {
                place: place @ Place::Relief { .. },
                value: Reading::Length { length },
                ..
            } => {
                let now = (length.middle().mm(), length.sigma(Tool::Feeler).mm());
                if let (Some(then), Some(by)) = (last.get(place), turned.get(place))
                    && *by != 0.0
                {
                    sum += (now.0 - then.0) * by.signum() / now.1.hypot(then.1);
                    count += 1.0;
                }
                last.insert(*place, now);
                turned.insert(*place, 0.0);
            }
            _ => {}
        }
    }
    count > 0.0 && sum / count.sqrt() > SURELY_BACKWARDS
}

/// What a neck needs of its rod.
pub(crate) struct Need {
    /// Turns, positive to tighten.
    pub(crate) turns: f64,
    /// One standard deviation of their logarithm.
    pub(crate) doubt: f64,
    /// Whether it is surely out of its tolerance.
    pub(crate) surely: bool,
}

fn read_sides(known: &Known, targets: &Targets) -> Option<[Quantity; 2]> {
    let state = known.state();
    let sides = Side::ALL.map(|side| Quantity::new(state, targets.relief(side)));
    let read = sides.iter().all(|side| side.last.is_some());
    read.then_some(sides)
}

/// What the neck needs, where both sides were read.
pub(crate) fn need(known: &Known, targets: &Targets) -> Option<Need> {
    let sides = read_sides(known, targets)?;
    let span = targets.relief_span.span();
    let relief = known.state().relief(Side::Bass, span).ok()?;
    let (per_turn, doubt) = known.state().rod_response(relief);
    let off = (sides[0].off() + sides[1].off()) * 0.5;
    let tolerance = sides[0].tolerance.max(sides[1].tolerance);
    let sigma = sides[0].now.sigma.max(sides[1].now.sigma);
    // To its edge will do.
    let beyond = (off.abs() - tolerance).max(Length::ZERO);
    Some(Need {
        turns: beyond.ratio(per_turn) * off.mm().signum(),
        doubt,
        surely: beyond > sigma * TWO_SIGMA,
    })
}

/// A neck that is wound: no rod brings both of its sides inside.
pub(crate) fn wound(known: &Known, targets: &Targets) -> Option<Finding> {
    let sides = read_sides(known, targets)?;
    faults(known, &sides)
        .into_iter()
        .find_map(|fault| match fault {
            NeckFault::Twist { backward, relief } => Some(Finding::Twist { backward, relief }),
            _ => None,
        })
}

/// Sides that differ by this are a wound neck, whatever the tolerance (common practice: 0.10 mm).
const WOUND: Length = Length::from_mm(0.10);
/// A finding that stops needs so many standard deviations.
const TWO_SIGMA: f64 = 2.0;

impl NeckFault {
    /// Whether nothing is to be turned for it.
    pub const fn stops(&self) -> bool {
        matches!(
            self,
            Self::Twist { .. } | Self::BackBow { slack: true } | Self::RodBackwards
        )
    }
}

impl ReliefPlan {
    /// What the sides will be in the finished state.
    pub(crate) fn finish(&mut self, known: &Known, end: &Finish) {
        for (quantity, side) in self.sides.iter_mut().zip(Side::ALL) {
            quantity.after = known.state().look(quantity.place, &end.x, &end.lie);
            let blocked = self.faults.iter().any(
                |fault| matches!(fault, NeckFault::Twist { backward, .. } if backward.is_none_or(|at| at == side)),
            );
            if blocked {
                quantity.verdict = Verdict::Blocked;
            }
        }
    }

    /// What all of the move does to the action at the twelfth of the middle string: the nut comes up with the neck.
    pub fn twelfth_change(&self, known: &Known) -> Length {
        let state = known.state();
        let Some(step) = self.next_move() else {
            return Length::ZERO;
        };
        let middle = u8::try_from(state.count() / 2 + 1).unwrap_or(1);
        let (_, now) = state.heights(middle);
        let mut x = state.mean().clone();
        let all = Amount::turns(step.total);
        state.shift(&mut x, Adjuster::TrussRod, &all);
        let lie = state.lie_in(&x);
        state.heights_in(state.index(middle), &x, &lie).1 - now.value
    }

    /// The side that wants a reading, or the bass.
    pub fn wanting(&self) -> Side {
        let mut places = self.action.places().iter();
        places.find_map(|place| place.side()).unwrap_or(Side::Bass)
    }

    /// The move, where there is one.
    pub fn next_move(&self) -> Option<&Move> {
        self.action.next_move()
    }

    /// All of the move on the finished neck: what both sides will be, and how far the neck goes.
    fn whole(&self) -> Action {
        let Some(step) = self.next_move() else {
            return self.action.clone();
        };
        let Sum::Rod { off, .. } = step.sum else {
            return self.action.clone();
        };
        Action::Adjust(Box::new(Move {
            amount: Amount::turns(step.total),
            distance: -off,
            expected: self
                .sides
                .iter()
                .map(|side| Expected {
                    place: side.place,
                    value: Expectation::Length(Estimate::new(side.after, side.now.sigma)),
                })
                .collect(),
            ..step.clone()
        }))
    }
}

/// A bass neck that is to be tightened by more than a round goes off load.
const FAR: u32 = 2;

impl Station for ReliefPlan {
    fn id(&self) -> StationId {
        StationId::Relief
    }

    fn tasks(&self, _: &Known) -> Vec<Task> {
        vec![Task {
            strings: Vec::new(),
            next: self.action.clone(),
            whole: self.whole(),
        }]
    }

    fn findings(&self, known: &Known) -> Vec<Finding> {
        let mut found: Vec<Finding> = self
            .faults
            .iter()
            .map(|fault| match *fault {
                NeckFault::Twist { backward, relief } => Finding::Twist { backward, relief },
                NeckFault::TrebleMore { by } => Finding::TrebleMore { by },
                NeckFault::BackBow { slack } => Finding::BackBow { slack },
                NeckFault::RodSpent(how) => Finding::RodSpent {
                    how,
                    needed: !self.action.is_leave(),
                },
                NeckFault::NoSideBelow(side) => Finding::NoSideBelow(side),
                NeckFault::RodBackwards => {
                    Finding::RodBackwards(known.instrument().neck.tightens())
                }
            })
            .collect();
        let far = |step: &Move| step.total > Turns::ZERO && step.rounds >= FAR;
        if known.instrument().kind == Kind::Bass && self.next_move().is_some_and(far) {
            found.push(Finding::OffLoad);
        }
        found
    }

    fn mark(&self) -> Mark {
        let mark = mark_of(self.sides.iter(), matches!(self.action, Action::Stop(_)));
        match self.action {
            // The sides together are what the rod can set.
            Action::Leave => Mark::Within,
            _ if mark == Mark::Within => Mark::Working,
            _ => mark,
        }
    }

    /// A neck that a setup cannot put right keeps the work here: all else rests on it.
    fn has_work(&self, _: &Known) -> bool {
        !self.action.is_leave()
    }
}
