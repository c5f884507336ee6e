//! Triage: what kind of work this will be, with odds, before anything is turned. Bayes' rule over five kinds of work that exclude
//! each other, what was told and what was tried taken as independent (naive): simple enough to be worked out by hand, and
//! therefore to be argued with. The numbers are in one table.
//!
//! ```
//! use gradimen_bench::model::Symptom;
//! use gradimen_bench::triage::{Evidence, Outcome, Triage, Trial};
//!
//! let nothing = Triage::of(&[]);
//! assert_eq!(nothing.most_likely().outcome, Outcome::Setup);
//! let low = Triage::of(&[Evidence::Told(Symptom::BuzzOpen), Evidence::Tried(Trial::Slots, false)]);
//! assert_eq!(low.most_likely().outcome, Outcome::Nut);
//! ```

mod found;
mod table;

use crate::model::shop::Work;
use crate::model::{CheckLine, Symptom};

pub use found::evidence;

/// Alternatives above this are never left out.
pub const SHOWN_ABOVE: f64 = 0.05;
/// A factor nearer to one than this says nothing.
const SAYS_SOMETHING: f64 = 1.15;

/// A kind of work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, strum::VariantArray, strum::EnumCount)]
pub enum Outcome {
    /// A setup is enough.
    Setup,
    /// A setup with small repairs.
    SmallRepairs,
    /// A new nut, and a setup.
    Nut,
    /// Fretwork first.
    Fretwork,
    /// A specialist.
    Specialist,
}

impl Outcome {
    /// How many there are.
    pub const COUNT: usize = <Self as strum::EnumCount>::COUNT;

    /// What it is in the shop's list; fretwork is one of three, the smallest first.
    pub const fn works(self) -> &'static [Work] {
        match self {
            Self::Setup => &[Work::Setup],
            Self::SmallRepairs => &[Work::SmallRepairs],
            Self::Nut => &[Work::Nut],
            Self::Fretwork => &[Work::SpotLevel, Work::Level, Work::Refret],
            Self::Specialist => &[Work::Specialist],
        }
    }
}

/// A quick check that tells kinds of work apart.
#[derive(Debug, Clone, Copy, PartialEq, Eq, strum::VariantArray)]
pub enum Trial {
    /// A rocker over three frets.
    Rocker,
    /// Whether the nut of the rod turns, with thread left.
    Rod,
    /// Relief on both sides.
    Neck,
    /// The gaps at fret 1.
    Slots,
    /// The scale, and the way left behind the saddles.
    Travel,
    /// Plug, switch, controls.
    Electrics,
}

/// Something told or found.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Evidence {
    /// The player tells it.
    Told(Symptom),
    /// A quick check: whether it found nothing wrong.
    Tried(Trial, bool),
    /// It was set up here before.
    SeenBefore,
}

/// One kind of work with its chance.
#[derive(Debug, Clone, PartialEq)]
pub struct Chance {
    /// Which.
    pub outcome: Outcome,
    /// How probable it is.
    pub share: f64,
    /// What speaks for it or against it, the strongest first: the factor on its odds against all others together.
    pub because: Vec<(Evidence, f64)>,
}

/// What kind of work it will be.
#[derive(Debug, Clone, PartialEq)]
pub struct Triage {
    /// Every kind of work, the most likely first.
    pub chances: Vec<Chance>,
    /// The quick check that would tell most now, and how much of the doubt it would take away on average, as a share; nothing
    /// where none would tell anything.
    pub next: Option<(Trial, f64)>,
}

type Shares = [f64; Outcome::COUNT];

fn scaled(mut shares: Shares) -> Shares {
    let sum: f64 = shares.iter().sum();
    for share in &mut shares {
        *share /= sum;
    }
    shares
}

/// Bayes' rule: what is known, and what was found besides.
fn after(mut shares: Shares, evidence: Evidence) -> Shares {
    let likely = table::likelihood(evidence);
    for (share, likely) in shares.iter_mut().zip(likely) {
        *share *= likely;
    }
    scaled(shares)
}

/// Doubt in nats.
fn entropy(shares: Shares) -> f64 {
    let terms = shares.iter().filter(|share| **share > 0.0);
    -terms.map(|share| share * share.ln()).sum::<f64>()
}

/// How probable a result is, as things are known.
fn chance_of(shares: Shares, evidence: Evidence) -> f64 {
    let likely = table::likelihood(evidence);
    shares
        .iter()
        .zip(likely)
        .map(|(share, of)| share * of)
        .sum()
}

/// The factor on the odds of one kind of work against all others together, as they were before.
fn factor(shares: Shares, at: usize, evidence: Evidence) -> f64 {
    let likely = table::likelihood(evidence);
    let others = (0..Outcome::COUNT).filter(|other| *other != at);
    let (sum, weight) = others.fold((0.0, 0.0), |(sum, weight), other| {
        (sum + shares[other] * likely[other], weight + shares[other])
    });
    likely[at] / (sum / weight)
}

impl Triage {
    /// From what was told and found.
    pub fn of(evidence: &[Evidence]) -> Self {
        use strum::VariantArray;

        let shares = evidence
            .iter()
            .fold(table::PRIOR, |shares, found| after(shares, *found));
        let mut chances: Vec<Chance> = Outcome::VARIANTS
            .iter()
            .enumerate()
            .map(|(at, &outcome)| {
                let mut because: Vec<(Evidence, f64)> = evidence
                    .iter()
                    .map(|found| (*found, factor(table::PRIOR, at, *found)))
                    .filter(|(_, by)| by.max(1.0 / by) > SAYS_SOMETHING)
                    .collect();
                because.sort_by(|(_, one), (_, other)| other.ln().abs().total_cmp(&one.ln().abs()));
                Chance {
                    outcome,
                    share: shares[at],
                    because,
                }
            })
            .collect();
        chances.sort_by(|one, other| other.share.total_cmp(&one.share));
        let tried = |trial: Trial| {
            let mut known = evidence.iter();
            known.any(|found| matches!(found, Evidence::Tried(known, _) if *known == trial))
        };
        let doubt = entropy(shares);
        let gain = |trial: Trial| {
            let left: f64 = [true, false]
                .into_iter()
                .map(|fine| {
                    let found = Evidence::Tried(trial, fine);
                    chance_of(shares, found) * entropy(after(shares, found))
                })
                .sum();
            ((doubt - left) / doubt).max(0.0)
        };
        let open = Trial::VARIANTS
            .iter()
            .copied()
            .filter(|trial| !tried(*trial));
        let next = open
            .map(|trial| (trial, gain(trial)))
            .max_by(|(_, one), (_, other)| one.total_cmp(other));
        Self {
            chances,
            next: next.filter(|(_, gain)| *gain > 0.01),
        }
    }

    /// The most likely kind of work.
    pub fn most_likely(&self) -> &Chance {
        &self.chances[0]
    }

    /// What is shown: the most likely, and every alternative above a twentieth.
    pub fn shown(&self) -> impl Iterator<Item = &Chance> {
        let mut first = true;
        self.chances
            .iter()
            .filter(move |chance| std::mem::take(&mut first) || chance.share > SHOWN_ABOVE)
    }
}

/// The lines of the check list that are electrics.
pub(crate) const ELECTRICS: [CheckLine; 6] = [
    CheckLine::Controls,
    CheckLine::Switch,
    CheckLine::Jack,
    CheckLine::Hum,
    CheckLine::Battery,
    CheckLine::Pickups,
];
