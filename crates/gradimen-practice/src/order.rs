//! What is to be practised on.

use gradimen_bench::estimate::Estimate;
use gradimen_bench::model::instrument::Instrument;
use gradimen_bench::model::{
    BalanceSchool, Difficulty, Hints, Player, PracticeFault, StringEntry, Strung, Targets, Touch,
    Tuning, defaults,
};
use gradimen_bench::plan::as_it_came::as_it_came;
use gradimen_trial::sorts::{self, Sort};

/// What is to be practised on.
#[derive(Debug, Clone, PartialEq)]
pub struct Order {
    /// The graded exercise, by its word.
    pub exercise: Option<String>,
    /// The instrument.
    pub like: Like,
    /// What is wrong with it.
    pub faults: Vec<PracticeFault>,
    /// How far off it comes.
    pub difficulty: Difficulty,
    /// How much is told.
    pub hints: Hints,
    /// What its chance begins with.
    pub seed: u64,
}

/// What it is like.
#[derive(Debug, Clone, PartialEq)]
pub enum Like {
    /// A sort of instrument, by its name: see [`kinds`].
    Kind(String),
    /// The instrument of a job, as it came.
    Job(Box<LikeJob>),
}

/// What another job says of its instrument.
#[derive(Debug, Clone, PartialEq)]
pub struct LikeJob {
    /// Its record.
    pub instrument: Instrument,
    /// Its strings and tuning.
    pub strung: Strung,
    /// For whom it is.
    pub player: Player,
    /// What is wanted of it.
    pub targets: Targets,
    /// How its vibrato is to rest.
    pub school: Option<BalanceSchool>,
    /// How it came, as far as it was read before anything was turned.
    pub came: Option<Targets>,
}

impl LikeJob {
    /// From a job of the shop.
    pub fn of(known: &Estimate) -> Self {
        Self {
            instrument: known.instrument().clone(),
            strung: known.strung(),
            player: known.player().clone(),
            targets: known.targets(),
            school: known
                .instrument()
                .bridge
                .vibrato
                .as_ref()
                .map(|_| known.balance_school()),
            came: as_it_came(known),
        }
    }
}

/// Why nothing can be made.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum OrderError {
    /// A kind that is not there.
    #[error("read the kind \"{0}\", which is none of those to practise on")]
    Kind(String),
    /// A fault that this kind cannot have.
    #[error("\"{0}\" is nothing that this instrument can have")]
    Fault(&'static str),
    /// Two faults of which one hides the other.
    #[error("\"{0}\" and \"{1}\" hide each other: choose one of them")]
    Both(&'static str, &'static str),
    /// No claw or saddle brings it there.
    #[error(
        "no such instrument can be made with these faults: leave one of them out, or take another kind"
    )]
    Impossible,
}

/// The kinds to practise on, by name.
pub fn kinds() -> impl Iterator<Item = &'static str> {
    sorts().map(|sort| sort.name)
}

fn sorts() -> impl Iterator<Item = &'static Sort> {
    sorts::SORTS.iter().chain(&sorts::OTHERS)
}

/// What an order is made from.
pub(crate) struct Base {
    pub(crate) instrument: Instrument,
    pub(crate) strung: Strung,
    pub(crate) arrived: Option<Strung>,
    pub(crate) player: Player,
    pub(crate) targets: Targets,
    pub(crate) school: Option<BalanceSchool>,
    pub(crate) came: Option<Targets>,
}

pub(crate) fn base(order: &Order) -> Result<Base, OrderError> {
    let mut base = match &order.like {
        Like::Job(job) => Base {
            instrument: job.instrument.clone(),
            strung: job.strung.clone(),
            arrived: None,
            player: job.player.clone(),
            targets: job.targets.clone(),
            school: job.school,
            came: job.came.clone(),
        },
        Like::Kind(name) => {
            let sort = sorts().find(|sort| sort.name == name);
            let sort = sort.ok_or_else(|| OrderError::Kind(name.clone()))?;
            let mut instrument = sort.record();
            instrument.name = format!("Practice, {}", sort.name);
            if !order.faults.contains(&PracticeFault::Pickups) {
                instrument.pickups.clear();
            }
            let tuning = defaults::tunings(sort.kind, sort.strings);
            let sets = defaults::sets(sort.kind, sort.strings);
            let (Some(tuning), Some(set)) = (tuning.first(), sets.first()) else {
                return Err(OrderError::Impossible);
            };
            let player = Player {
                touch: Touch::Medium,
                style: "any".into(),
            };
            Base {
                strung: Strung {
                    set: set.strings.clone(),
                    tuning: Tuning::of(tuning.name, 440.0, &tuning.pitches),
                },
                arrived: None,
                targets: defaults::targets(&instrument, player.touch),
                player,
                school: sort.school,
                came: None,
                instrument,
            }
        }
    };
    if order.faults.contains(&PracticeFault::Gauge) {
        base.arrived = Some(base.strung.clone());
        base.strung.set = heavier(&base.strung).ok_or(OrderError::Impossible)?;
    }
    Ok(base)
}

/// The same strings a twentieth heavier, in half thousandths: half a packet up, where a whole one lifts many a plate beyond its travel.
fn heavier(strung: &Strung) -> Option<Vec<StringEntry>> {
    let heavier = |entry: &StringEntry| {
        let thou = (entry.gauge.middle().thou() * 2.1).round() / 2.0;
        StringEntry::thou(thou, entry.make)
    };
    (!strung.set.is_empty()).then(|| strung.set.iter().map(heavier).collect())
}

pub(crate) fn check(instrument: &Instrument, faults: &[PracticeFault]) -> Result<(), OrderError> {
    let vibrato = instrument.bridge.vibrato.is_some();
    let cannot = |fault: &&PracticeFault| match fault {
        PracticeFault::Gap => !vibrato,
        PracticeFault::Pickups => instrument.pickups.is_empty(),
        PracticeFault::HighFret | PracticeFault::LooseFret | PracticeFault::Nut => {
            instrument.construction.fretless
        }
        _ => false,
    };
    let frets = [PracticeFault::HighFret, PracticeFault::LooseFret];
    let hiding: [&dyn Fn(&&PracticeFault) -> bool; 2] =
        [&|fault| fault.is_trap(), &|fault| frets.contains(fault)];
    for hides in hiding {
        let of_it: Vec<&PracticeFault> = faults.iter().filter(hides).collect();
        if let [one, other, ..] = of_it[..] {
            return Err(OrderError::Both(one.name(), other.name()));
        }
    }
    match faults.iter().find(cannot) {
        Some(fault) => Err(OrderError::Fault(fault.name())),
        None => Ok(()),
    }
}
