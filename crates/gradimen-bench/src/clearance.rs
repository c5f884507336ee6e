//! The clearance map: where each string touches under this player's hand, how low it may lie, and
//! what a buzz that was heard says.

use gradimen_core::action::StringLine;
use gradimen_core::clearance::{self, Bent, Pluck, Swings, Tightest};
use gradimen_core::quantity::{Curvature, Force, Length};

use crate::event::Side;
use crate::geometry::Geometry;
use crate::instrument::Kind;
use crate::job::{Buzz, Job};
use crate::methods::{self, tolerance};

/// How far hands of one kind differ, as a logarithm.
const HAND_SPREAD: f64 = 0.4;
/// How well one heard buzz tells the hand.
const HEARD_SPREAD: f64 = 0.2;
/// A buzz that would take a hand so many times stronger or weaker comes from one fret.
const ONE_FRET: f64 = 2.2;
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
pub enum Cure {
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
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Heard {
    /// What was told.
    pub buzz: Buzz,
    /// The fret it touches.
    pub fret: u8,
    /// The force at which it begins there.
    pub onset: Force,
    /// What cures it.
    pub cure: Cure,
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
    pub heard: Vec<Heard>,
    /// Lowest action over the fret of the target that clears at this hand, string by string.
    pub lowest: Vec<Length>,
    /// The relief that goes with them, by the target's school.
    pub lowest_relief: Length,
    /// What cures the tightest place now.
    pub cure: Cure,
    /// What bends of a whole step leave on the strings that are bent.
    pub bends: Vec<Bend>,
}

fn pull(job: &Job, string: u8) -> Force {
    job.string_state(string)
        .map_or(Force::from_newtons(70.0), |state| {
            state.tension(job.instrument().scale(string))
        })
}

/// The hand: usual for its kind, then as buzzes that were heard say, each weighing by how well it tells.
fn attack(job: &Job, geometry: &Geometry) -> Attack {
    let usual = methods::pluck(job.instrument().kind, job.player().hand);
    let (mut sum, mut weight) = (0.0, 1.0 / HAND_SPREAD.powi(2));
    let mut heard = 0;
    for buzz in job.buzzes() {
        let Some((_, onset)) = touches(job, geometry, &usual, buzz) else {
            continue;
        };
        let full = onset.newtons() / buzz.attack;
        let log = (full / usual.force.newtons()).ln();
        if log.abs() < ONE_FRET.ln() {
            let w = 1.0 / HEARD_SPREAD.powi(2);
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

/// The fret a held string touches first, and the force at which it does.
fn touches(job: &Job, geometry: &Geometry, pluck: &Pluck, buzz: &Buzz) -> Option<(u8, Force)> {
    let (tops, line) = (geometry.tops(buzz.string), geometry.line(buzz.string));
    (buzz.held + 1..=tops.frets())
        .filter_map(|fret| {
            let force =
                clearance::onset(tops, &line, pull(job, buzz.string), pluck, buzz.held, fret)
                    .ok()?;
            Some((fret, force))
        })
        .min_by(|a, b| a.1.newtons().total_cmp(&b.1.newtons()))
}

/// The adjuster that cures a place with the least departure, counted in tolerances.
fn cure(job: &Job, geometry: &Geometry, string: u8, pluck: &Pluck, held: u8, fret: u8) -> Cure {
    let (tops, line) = (geometry.tops(string), geometry.line(string));
    let tension = pull(job, string);
    let margin = |line: &StringLine| clearance::margin(tops, line, tension, pluck, held, fret);
    let Ok(now) = margin(&line) else {
        return Cure::None;
    };
    if now >= Length::ZERO {
        return Cure::None;
    }
    let step = Length::from_mm(0.01);
    let bent = StringLine {
        curvature: line.curvature
            + Curvature::from_per_metre(step.mm() * 1e-3 / geometry.plain_slope()),
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
    let action = |line: &StringLine| line.action(tops, job.targets().action_fret);
    let gain = |other: &StringLine| margin(other).map_or(0.0, |after| (after - now).ratio(step));
    let lift = match (action(&raised), action(&line)) {
        (Ok(raised), Ok(line)) => (raised - line).ratio(step),
        _ => 0.5,
    };
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
        Some((0, by, _)) => Cure::Rod { by },
        Some((1, by, _)) => Cure::Nut { by },
        Some((_, by, _)) => Cure::Saddle { by },
        None => Cure::Fret(fret),
    }
}

fn heard(job: &Job, geometry: &Geometry, attack: &Attack) -> Vec<Heard> {
    job.buzzes()
        .iter()
        .filter_map(|buzz| {
            let (fret, onset) = touches(job, geometry, &attack.pluck, buzz)?;
            let at = attack.pluck.force * buzz.attack;
            // Heard at far less than it takes on even frets: the next one up stands high.
            let cure = if onset.ratio(at) > ONE_FRET {
                Cure::Fret(buzz.held + 1)
            } else {
                cure(job, geometry, buzz.string, &attack.pluck, buzz.held, fret)
            };
            Some(Heard {
                buzz: *buzz,
                fret,
                onset,
                cure,
            })
        })
        .collect()
}

/// A bend that players count on (common practice: a whole step).
const BEND_SEMITONES: f64 = 2.0;
/// Strings that are bent: the first three of a guitar (common practice).
const BENT_STRINGS: u8 = 3;
/// Bends choke from here up.
const BENDS_FROM: u8 = 12;

fn bends(job: &Job, geometry: &Geometry, pluck: &Pluck) -> Vec<Bend> {
    if job.instrument().kind == Kind::Bass {
        return Vec::new();
    }
    let behind = job.instrument().bridge.behind_saddle.middle();
    (1..=BENT_STRINGS.min(job.instrument().strings))
        .filter_map(|string| {
            let state = job.string_state(string).ok()?;
            let (tops, line) = (geometry.tops(string), geometry.line(string));
            let bent = Bent {
                tension: pull(job, string),
                stretch: state.spec.stretch_stiffness(),
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
fn lowest(job: &Job, geometry: &Geometry, swings: &[Swings]) -> (Vec<Length>, Length) {
    let fret = job.targets().action_fret;
    let laid = |curvature: Curvature| -> Vec<Length> {
        (1..)
            .zip(swings)
            .filter_map(|(string, swings)| {
                let bent = StringLine {
                    curvature,
                    ..geometry.line(string)
                };
                let saddle = swings.lowest_saddle(&bent);
                let tops = geometry.tops(string);
                StringLine { saddle, ..bent }.action(tops, fret).ok()
            })
            .collect()
    };
    let mut best: Option<(f64, Vec<Length>, Curvature)> = None;
    for step in 0..=RELIEF_STEPS {
        let relief = MOST_RELIEF_MM * f64::from(step) / f64::from(RELIEF_STEPS);
        let bend = Curvature::from_per_metre(relief * 1e-3 / geometry.plain_slope());
        let heights = laid(bend);
        let sum = heights.iter().map(|height| height.mm()).sum::<f64>();
        if best.as_ref().is_none_or(|(least, ..)| sum < *least) {
            best = Some((sum, heights, bend));
        }
    }
    let span = job.targets().relief_span.span();
    best.map_or((Vec::new(), Length::ZERO), |(_, heights, bend)| {
        let relief = geometry
            .relief(Side::Bass, span)
            .map_or(Length::ZERO, |relief| relief.gap(bend));
        (heights, relief)
    })
}

fn swings(job: &Job, geometry: &Geometry, attack: &Attack) -> Vec<Swings> {
    (1..=job.instrument().strings)
        .filter_map(|string| {
            let length = geometry.line(string).length;
            Swings::new(
                geometry.tops(string),
                length,
                pull(job, string),
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
pub fn map_now(job: &Job) -> Vec<StringMap> {
    let geometry = job.geometry();
    let swings = swings(job, geometry, &attack(job, geometry));
    maps(&swings, |string| geometry.line(string))
}

impl ClearancePlan {
    /// Works the map out, now and for the strings as they will lie.
    pub fn of(job: &Job, after: impl Fn(u8) -> StringLine) -> Self {
        let geometry = job.geometry();
        let attack = attack(job, geometry);
        let swings = swings(job, geometry, &attack);
        let now = maps(&swings, |string| geometry.line(string));
        let (lowest, lowest_relief) = lowest(job, geometry, &swings);
        let worst = now
            .iter()
            .filter_map(|map| map.worst().map(|worst| (map.string, worst)))
            .min_by(|a, b| a.1.margin.mm().total_cmp(&b.1.margin.mm()));
        let cure = worst.map_or(Cure::None, |(string, worst)| {
            cure(job, geometry, string, &attack.pluck, worst.held, worst.fret)
        });
        Self {
            bends: bends(job, geometry, &attack.pluck),
            after: maps(&swings, after),
            heard: heard(job, geometry, &attack),
            attack,
            now,
            lowest,
            lowest_relief,
            cure,
        }
    }
}
