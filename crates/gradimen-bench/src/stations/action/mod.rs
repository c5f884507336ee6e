//! The action station: turns for every height screw or post, on the neck and nut to come.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/seven-string-heights.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let first = plan.action.adjuster_of(1).ok_or("string 1 has its screws")?;
//! assert!(first.strings.contains(&1));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod posts;

use gradimen_core::action::{arc_radius, on_gauge, wedge_for};
use gradimen_core::quantity::{Length, Turns};
use gradimen_core::thread::Rotation;
use gradimen_core::units::print::rounded_turns;

use crate::decision::Finish;
use crate::decision::{
    Action, Decision, Expectation, Expected, Judged, Mark, Move, Quantity, Rule, Station,
    StationId, Stop, Sum, Task, mark_of, settled,
};
use crate::estimate::Estimate as Known;
use crate::estimate::state::State;
use crate::finding::{Finding, Screws};
use crate::model::hardware::{Bridge, Lifts};
use crate::model::{Adjuster, Amount, End, Inner, Place, Side, Target, Targets};

/// Between the two screws of a saddle (common practice).
const SCREWS_APART: Length = Length::from_mm(8.0);

/// One adjuster.
#[derive(Debug, Clone, PartialEq)]
pub struct AdjusterPlan {
    /// Which.
    pub adjuster: Adjuster,
    /// The strings it is judged by.
    pub strings: Vec<u8>,
    /// What to do.
    pub action: Action,
}

/// One string's height.
#[derive(Debug, Clone, PartialEq)]
pub struct HeightString {
    /// Which string.
    pub string: u8,
    /// Its height over the fret of the target.
    pub quantity: Quantity,
    /// What stays when the plan is done: raise by so much with a shim or another saddle, cut so
    /// deep into its slot when negative. Nothing where every string has screws.
    pub remains: Length,
    /// What the two schools for inner strings would lay it at: blended, by the gauge.
    pub schools: (Length, Length),
    /// Height of the crown now, and when done, over the crown of the board; and where across.
    pub crown: (Length, Length, Length),
    /// By how much the outer of a saddle's two screws stands lower than the inner, for the saddle to
    /// lean with the arc. Nothing where two posts carry all.
    pub lean: Length,
}

/// The height station.
#[derive(Debug, Clone, PartialEq)]
pub struct HeightPlan {
    /// Over which fret heights are read.
    pub fret: u8,
    /// String by string.
    pub strings: Vec<HeightString>,
    /// What turns.
    pub adjusters: Vec<AdjusterPlan>,
    /// Whether two posts lift all strings together.
    pub fixed: bool,
    /// Radius of the crowns now, and when done.
    pub arc: (Option<Length>, Option<Length>),
    /// Radius of the board carried on to the bridge: the gauge of that school.
    pub gauge: Length,
}

struct Laid {
    string: u8,
    /// Its height answers to its crown by so much.
    lever: f64,
    target: Target,
    quantity: Quantity,
    schools: (Length, Length),
}

impl Laid {
    /// By how much it will be off on the neck and nut to come, its saddle as it is.
    fn off(&self, state: &State, end: &Finish) -> Length {
        state.look(self.target.place, &end.x, &end.lie) - self.target.value
    }

    /// What to do about it, were it off by so much; `by_one` where a first turn is made by one reading.
    fn decide(&self, judged: &Judged, rule: Rule, by_one: bool) -> Decision {
        let far = judged.off.abs() > self.target.tolerance.mm() * FAR_OFF + judged.sigma;
        if by_one && far && self.quantity.last.is_some() {
            return Decision::Move;
        }
        judged.decide(rule)
    }

    fn judged(&self, off: Length) -> Judged {
        self.quantity.judged(off)
    }

    /// Its own screw.
    const fn screw(&self) -> Adjuster {
        Adjuster::SaddleHeight {
            string: self.string,
        }
    }

    /// Whether a lift of its crown gains enough to be worth a turn.
    fn is_worth(&self, lift: f64) -> bool {
        (lift * self.lever).abs() > WORTH * self.target.tolerance.mm()
    }
}

/// A thread does no less than this share of its pitch: one that seems to is stripped, or its turns were not made.
const LEAST_RESPONSE: f64 = 0.5;
/// Off by so many tolerances a string on a float is turned by one reading (from memory).
const FAR_OFF: f64 = 1.5;
/// A screw whose turn would move no string by more than this share of its tolerance is let be.
const WORTH: f64 = 0.25;

/// Works the station out, and sets the saddles of the finished state `end`.
pub(crate) fn plan(known: &Known, targets: &Targets, rule: Rule, end: &mut Finish) -> HeightPlan {
    let state = known.state();
    let gauge = gauge_radius(known);
    let laid = lay(known, targets, gauge, end);
    // On a float every turn moves every string: what was read once is read again when all are turned.
    let float = state.floats();
    let turns_first = float
        && laid.iter().any(|on| {
            on.decide(
                &on.judged(on.off(state, end)),
                rule,
                by_one(known, on.screw()),
            ) == Decision::Move
        });
    let adjusters = if state.is_fixed() {
        posts::plan(known, &laid.iter().collect::<Vec<_>>(), rule, end)
    } else if state.lifts() == Lifts::Nothing {
        laid.iter()
            .map(|on| unlifted(known, on, rule, end))
            .collect()
    } else {
        // Posts for the whole come before the screws that make the arc, by the two outer strings (common practice).
        let mut plans = match (state.lifts(), &laid[..]) {
            (Lifts::Both, [first, .., last]) if posts::needed(known, &laid, end) => {
                posts::plan(known, &[first, last], rule, end)
            }
            _ => Vec::new(),
        };
        for saddle in &known.instrument().bridge.saddles {
            let on: Vec<&Laid> = laid
                .iter()
                .filter(|laid| saddle.contains(&laid.string))
                .collect();
            match on[..] {
                [first, second] => plans.extend(barrel(known, [first, second], rule, end)),
                _ => plans.extend(
                    on.iter()
                        .map(|string| each(known, string, (rule, turns_first), end)),
                ),
            }
        }
        plans
    };
    let strings = laid
        .into_iter()
        .map(|string| HeightString {
            string: string.string,
            quantity: string.quantity,
            remains: Length::ZERO,
            schools: string.schools,
            crown: (Length::ZERO, Length::ZERO, Length::ZERO),
            lean: Length::ZERO,
        })
        .collect();
    HeightPlan {
        fret: targets.action_fret,
        strings,
        adjusters,
        fixed: state.is_fixed(),
        arc: (None, None),
        gauge,
    }
}

/// On a float every turn moves every string: a screw is turned for the first time by one reading, for all strings are read
/// again then.
fn by_one(known: &Known, adjuster: Adjuster) -> bool {
    known.state().floats() && known.turned(adjuster) == Turns::ZERO
}

/// Radius of the board carried on to the bridge.
fn gauge_radius(known: &Known) -> Length {
    let instrument = known.instrument();
    let scale = known.speaking_scale(1);
    let end = gradimen_core::fretboard::fret_position(scale, instrument.frets);
    instrument
        .board()
        .map_or(Length::ZERO, |board| board.radius.at(scale, end))
}

/// What every string is to be laid at, by both schools, in the state to come.
fn lay(known: &Known, targets: &Targets, gauge: Length, end: &Finish) -> Vec<Laid> {
    let state = known.state();
    let mut wanted = Vec::new();
    for string in 1..=known.instrument().strings {
        let index = state.index(string);
        let target = targets.action(string, state.share(index));
        wanted.push((string, target, state.lever_of(string, targets.action_fret)));
    }
    let crown = |(string, target, lever): &(u8, Target, f64)| {
        let now = state.crown(&end.x, &end.lie, state.index(*string));
        let off = target.value - state.look(target.place, &end.x, &end.lie);
        (
            state.tops(*string).offset_at_bridge(),
            Length::from_mm(now) + off / *lever,
        )
    };
    let ends = wanted.first().map(crown).zip(wanted.last().map(crown));
    let mut found = Vec::new();
    for one in wanted {
        let (string, mut target, lever) = one;
        let blend = target.value;
        let mut schools = (blend, blend);
        if let Some((treble, bass)) = ends {
            let (y, blended) = crown(&one);
            if let Ok(on_arc) = on_gauge(treble, bass, gauge, y) {
                schools.1 = blend + (on_arc - blended) * lever;
            }
        }
        target.value = match targets.inner {
            Inner::Blend => schools.0,
            Inner::Gauge => schools.1,
        };
        found.push(Laid {
            string,
            lever,
            quantity: Quantity::new(state, target),
            target,
            schools,
        });
    }
    found
}

fn each(
    known: &Known,
    string: &Laid,
    (rule, turns_first): (Rule, bool),
    end: &mut Finish,
) -> AdjusterPlan {
    let state = known.state();
    let adjuster = string.screw();
    let off = string.off(state, end);
    let lift = -off / string.lever;
    let action = match string.decide(&string.judged(off), rule, by_one(known, adjuster)) {
        Decision::Measure => {
            // Whatever it will be moved by, it ends at its target.
            let read = string.quantity.last.is_some();
            if read && off.abs() > string.target.tolerance * WORTH {
                end.x[state.at.crown(state.index(string.string))] += lift.mm();
            }
            if turns_first && read {
                Action::Leave
            } else {
                Action::Measure(vec![string.quantity.place])
            }
        }
        Decision::Leave => Action::Leave,
        Decision::Move => turned(known, adjuster, string.string, lift, end),
    };
    let mut plan = AdjusterPlan {
        adjuster,
        strings: vec![string.string],
        action,
    };
    expect(state, &mut [&mut plan], &[string]);
    plan
}

/// A string on a saddle that nothing lifts: how far it would have to be shimmed, or cut.
fn unlifted(known: &Known, string: &Laid, rule: Rule, end: &Finish) -> AdjusterPlan {
    let off = string.off(known.state(), end);
    let action = match string.decide(&string.judged(off), rule, false) {
        Decision::Measure => Action::Measure(vec![string.quantity.place]),
        Decision::Leave => Action::Leave,
        Decision::Move => Action::Stop(Stop::NoLift {
            by: -off / string.lever,
        }),
    };
    AdjusterPlan {
        adjuster: string.screw(),
        strings: vec![string.string],
        action,
    }
}

/// Two strings on one barrel, each with a screw beside it: a screw lifts the neighbour too.
fn barrel(known: &Known, on: [&Laid; 2], rule: Rule, end: &mut Finish) -> [AdjusterPlan; 2] {
    let state = known.state();
    let offs = on.map(|string| string.off(state, end));
    let decisions = [0, 1].map(|at| on[at].decide(&on[at].judged(offs[at]), rule, false));
    let wanted = [0, 1].map(|at| -offs[at].mm() / on[at].lever);
    let share = |screw: usize, string: usize| {
        let lifted = state.lifted_by(on[screw].string);
        let index = state.index(on[string].string);
        let found = lifted.iter().find(|(at, _)| *at == index);
        found.map_or(0.0, |(_, share)| *share)
    };
    let lifts = both(
        wanted,
        [[share(0, 0), share(1, 0)], [share(0, 1), share(1, 1)]],
    );
    let moves = decisions.contains(&Decision::Move);
    let measures = decisions.contains(&Decision::Measure);
    let mut plans = [0, 1].map(|at| {
        let adjuster = Adjuster::SaddleHeight {
            string: on[at].string,
        };
        let action = if decisions[at] == Decision::Measure {
            Action::Measure(vec![on[at].quantity.place])
        } else if measures || !moves || !on[at].is_worth(lifts[at]) {
            // What the neighbour's reading says may change this turn too.
            Action::Leave
        } else {
            turned(
                known,
                adjuster,
                on[at].string,
                Length::from_mm(lifts[at]),
                end,
            )
        };
        AdjusterPlan {
            adjuster,
            strings: vec![on[at].string],
            action,
        }
    });
    let [first, second] = &mut plans;
    expect(state, &mut [first, second], &on);
    plans
}

/// The lifts of two screws that bring two strings where they are wanted: `shares` are rows of strings.
fn both(wanted: [f64; 2], shares: [[f64; 2]; 2]) -> [f64; 2] {
    let [[a, b], [c, d]] = shares;
    let determinant = a * d - b * c;
    if determinant.abs() < 1e-9 {
        return wanted;
    }
    [
        (wanted[0] * d - b * wanted[1]) / determinant,
        (a * wanted[1] - c * wanted[0]) / determinant,
    ]
}

/// The turn of a screw for a lift, carried out in the finished state.
fn turned(known: &Known, adjuster: Adjuster, string: u8, lift: Length, end: &mut Finish) -> Action {
    at_end(known, adjuster, lift).unwrap_or_else(|| {
        let state = known.state();
        let index = match adjuster {
            Adjuster::Post { side } => state.post_at(side),
            _ => state.index(string),
        };
        let Some(step) = screw(known, adjuster, index, lift) else {
            return Action::Leave;
        };
        state.shift(&mut end.x, adjuster, &step.amount);
        Action::Adjust(Box::new(step))
    })
}

/// What the strings will read when all of these screws are turned.
fn expect(state: &State, plans: &mut [&mut AdjusterPlan], strings: &[&Laid]) {
    let moves: Vec<(Adjuster, Amount)> = plans
        .iter()
        .filter_map(|plan| Some((plan.adjuster, plan.action.next_move()?.amount.clone())))
        .collect();
    if moves.is_empty() {
        return;
    }
    let expected: Vec<Expected> = strings
        .iter()
        .filter_map(|string| {
            let place = string.target.place;
            Some(Expected {
                place,
                value: Expectation::Length(state.expect_length(&moves, place)?),
            })
        })
        .collect();
    for plan in plans {
        if let Action::Adjust(step) = &mut plan.action {
            step.expected.clone_from(&expected);
        }
    }
}

/// The turn of one screw for a lift, without its expected readings; none where it rounds to nothing.
fn screw(known: &Known, adjuster: Adjuster, index: usize, lift: Length) -> Option<Move> {
    let screws = known.instrument().bridge.screws_of(adjuster);
    let pitch = screws.pitch.middle();
    let response = known.state().screw_response(index);
    let turns_exact = Turns::new(lift.ratio(pitch) / response.value.max(LEAST_RESPONSE));
    // No screw is ordered beyond its own travel, whatever it seems to need.
    let most = (screws.travel.middle().ratio(pitch) * 8.0).floor() / 8.0;
    let turns = Turns::new(rounded_turns(turns_exact).value().clamp(-most, most));
    if turns == Turns::ZERO {
        return None;
    }
    let clockwise = (turns > Turns::ZERO) == screws.clockwise_raises;
    Some(Move {
        adjuster,
        amount: Amount::turns(turns),
        rotation: Some(if clockwise {
            Rotation::Clockwise
        } else {
            Rotation::Counterclockwise
        }),
        distance: pitch * (turns.value() * response.value),
        total: turns,
        rounds: 1,
        expected: Vec::new(),
        sum: Sum::Screw {
            turns_exact,
            pitch,
            response,
        },
    })
}

/// Whether an adjuster that was found at its end would have to go on.
fn at_end(known: &Known, adjuster: Adjuster, lift: Length) -> Option<Action> {
    let end = known.ended(adjuster)?;
    let short_by = match end {
        End::Top => lift,
        End::Bottom => -lift,
        // It will not go either way.
        End::Stuck | End::Hard | End::Rubbery | End::NoEffect => lift.abs(),
        End::Free => return None,
    };
    (short_by > Length::ZERO).then_some(Action::Stop(Stop::AtEnd {
        adjuster,
        end,
        short_by,
    }))
}

/// So much of its way a saddle is given back by what goes under the neck, in steps of what is cut for that.
const TO_SPARE: Length = Length::from_mm(1.0);
const SHIM_STEP: f64 = 0.5;

/// What helps under the neck when a saddle is all the way down: the neck is tilted back or lifted until the saddle has about
/// a millimetre to spare, in half millimetres (common practice).
fn under_the_neck(known: &Known, string: u8, end: End, short_by: Length) -> [Option<Length>; 2] {
    let neck = &known.instrument().neck;
    if end != End::Bottom || !neck.bolted {
        return [None, None];
    }
    let state = known.state();
    let needed = short_by + TO_SPARE;
    let raise = Length::from_mm((needed.mm() / SHIM_STEP).ceil() * SHIM_STEP);
    let beyond = state.line(string).length - state.tops(string).joint();
    [
        Some(wedge_for(raise, beyond, neck.pocket.middle())),
        Some(raise),
    ]
}

impl AdjusterPlan {
    /// The string that wants attention on it: the first to be measured, or one that it carries.
    pub fn wanting(&self) -> Option<u8> {
        let mut measured = self.action.places().iter();
        let first = measured.find_map(|place| place.string());
        first.or_else(|| self.strings.first().copied())
    }
}

impl HeightPlan {
    /// What the heights will be in the finished state.
    pub(crate) fn finish(&mut self, state: &State, end: &Finish) {
        for string in &mut self.strings {
            let index = state.index(string.string);
            string.quantity.after = state.look(string.quantity.place, &end.x, &end.lie);
            if self.fixed {
                let off = string.quantity.target - string.quantity.after;
                string.remains = off / state.lever_of(string.string, self.fret);
            }
            string.crown = (
                Length::from_mm(state.crown(state.mean(), state.lie(), index)),
                Length::from_mm(state.crown(&end.x, &end.lie, index)),
                state.tops(string.string).offset_at_bridge(),
            );
        }
        let arc = |pick: fn(&HeightString) -> Length| {
            let points: Vec<(Length, Length)> = self
                .strings
                .iter()
                .map(|string| (string.crown.2, pick(string)))
                .collect();
            arc_radius(&points).ok()
        };
        self.arc = (arc(|string| string.crown.0), arc(|string| string.crown.1));
        if let Some(radius) = self.arc.1.filter(|_| !self.fixed) {
            for string in &mut self.strings {
                // The slope of a circle at y is y / sqrt(R^2 - y^2).
                let (y, r) = (string.crown.2.abs().mm(), radius.mm());
                string.lean = SCREWS_APART * (y / (r * r - y * y).max(1.0).sqrt());
            }
        }
    }

    /// Whether a string is still to be moved.
    pub(crate) fn moves_any(&self) -> bool {
        let mut actions = self.adjusters.iter().map(|plan| &plan.action);
        actions.any(|action| action.is_work())
    }

    /// Whether one of its screws was turned in this job.
    pub(crate) fn begun(&self, known: &Known) -> bool {
        let mut screws = self.adjusters.iter().map(|plan| plan.adjuster);
        screws.any(|screw| known.turned(screw) != Turns::ZERO)
    }

    /// The places that nobody has read yet.
    pub(crate) fn unread_places(&self, rule: Rule) -> Vec<Place> {
        let unread = |string: &&HeightString| string.quantity.last.is_none() && !rule.assumed;
        let strings = self.strings.iter().filter(unread);
        strings.map(|string| string.quantity.place).collect()
    }

    /// The adjuster of a string, or the post of its half of the bridge.
    pub fn adjuster_of(&self, string: u8) -> Option<&AdjusterPlan> {
        let on_it = |plan: &&AdjusterPlan| self.is_near(plan, string);
        // A post that is to be turned comes before the screws it carries.
        let mut all = self.adjusters.iter().filter(on_it);
        let first = all.next()?;
        if self.fixed || !first.action.is_leave() {
            return Some(first);
        }
        Some(all.next_back().unwrap_or(first))
    }

    fn is_near(&self, plan: &AdjusterPlan, string: u8) -> bool {
        match plan.adjuster {
            Adjuster::SaddleHeight { string: on } => on == string,
            Adjuster::Post { side: Side::Treble } => usize::from(string) * 2 <= self.strings.len(),
            Adjuster::Post { side: Side::Bass } => usize::from(string) * 2 > self.strings.len(),
            _ => false,
        }
    }

    /// The adjuster to attend to next: one whose strings are to be read, then the one that has
    /// furthest to go, since a post moves the strings of the other a little too.
    pub fn next_adjuster(&self) -> Option<&AdjusterPlan> {
        let rank = |plan: &AdjusterPlan| match &plan.action {
            Action::Measure(_) => (0, 0.0),
            Action::Adjust(step) if self.fixed => (1, -step.turns().abs().value()),
            Action::Adjust(_) => (1, 0.0),
            Action::Stop(_) => (2, 0.0),
            Action::Leave => (3, 0.0),
        };
        self.adjusters
            .iter()
            .filter(|plan| !plan.action.is_leave())
            .min_by(|a, b| {
                let (a, b) = (rank(a), rank(b));
                a.0.cmp(&b.0).then(a.1.total_cmp(&b.1))
            })
    }
}

/// Height screws that by the record raise the other way round than most: of both sorts, where a bridge has both.
fn other_way_round(bridge: &Bridge) -> Vec<Finding> {
    let own = bridge.family.rises_clockwise();
    let on_posts = bridge.family.stands_on_posts();
    // What a family has by itself goes its way; screws in saddles stand on the plate, and posts are screwed into the body.
    let in_saddles = (Screws::InSaddles, bridge.saddle_screws(), on_posts || own);
    let posts = (Screws::Posts, bridge.posts(), on_posts && own);
    let there = match bridge.lifts() {
        Lifts::EachString => vec![in_saddles],
        Lifts::TwoPosts => vec![posts],
        Lifts::Both => vec![posts, in_saddles],
        Lifts::Nothing => Vec::new(),
    };
    there
        .into_iter()
        .filter(|(_, screws, most)| screws.clockwise_raises != *most)
        .map(|(which, screws, _)| Finding::OtherWayRound {
            family: bridge.family,
            screws: which,
            clockwise: screws.clockwise_raises,
        })
        .collect()
}

impl Station for HeightPlan {
    fn id(&self) -> StationId {
        StationId::Action
    }

    fn tasks(&self, _: &Known) -> Vec<Task> {
        self.adjusters
            .iter()
            .map(|plan| Task::new(plan.strings.clone(), plan.action.clone()))
            .collect()
    }

    fn findings(&self, known: &Known) -> Vec<Finding> {
        let other = other_way_round(&known.instrument().bridge);
        self.adjusters
            .iter()
            .filter_map(|plan| match plan.action {
                Action::Stop(Stop::AtEnd {
                    adjuster,
                    end,
                    short_by,
                }) => {
                    let string = plan.strings.first().copied().unwrap_or(1);
                    let [wedge, shim] = under_the_neck(known, string, end, short_by);
                    Some(Finding::HeightSpent {
                        adjuster,
                        string,
                        end,
                        short_by,
                        wedge,
                        shim,
                    })
                }
                _ => None,
            })
            .chain(other)
            .collect()
    }

    fn mark(&self) -> Mark {
        let spent = |plan: &AdjusterPlan| matches!(plan.action, Action::Stop(_));
        let judged = self.strings.iter().filter(|string| {
            self.adjusters
                .iter()
                .any(|plan| plan.strings.contains(&string.string))
        });
        let left = self.adjusters.iter().all(|plan| plan.action.is_leave());
        let mark = mark_of(
            judged.map(|string| &string.quantity),
            self.adjusters.iter().any(spent),
        );
        settled(mark, left)
    }
}
