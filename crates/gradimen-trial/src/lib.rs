//! A technician who does what the plan says, to the letter, on simulated instruments, and is judged by their truth.
//!
//! [`sorts::SORTS`] are the instruments, [`run`] is one job from its first check to its end, [`table`] what came of many.

pub mod judge;
pub mod slips;
pub mod sorts;
pub mod table;
pub mod technician;

use std::sync::Arc;

use gradimen_bench::decision::StationId;
use gradimen_bench::estimate::{Estimate, EstimateError};
use gradimen_bench::finding::{Finding, Severity};
use gradimen_bench::job::{Job, JobError};
use gradimen_bench::journal::{Entry, Event};
use gradimen_bench::model::instrument::Instrument;
use gradimen_bench::model::{Adjuster, Place};
use gradimen_bench::plan::Plan;
use gradimen_bench::plan::reading_check::question;
use gradimen_sim::SimulatedInstrument;

use judge::Row;
use technician::{Asked, asked, follow};

/// Steps after which nobody goes on.
const MOST_STEPS: usize = 400;

/// What became of one job.
#[derive(Debug, Clone, Default)]
pub struct Outcome {
    /// Visits to a screw, by what was turned: a saddle raised on two screws is two, as is a claw.
    pub moves: Vec<(Adjuster, u32)>,
    /// Passes with a file, and springs hooked on or off: no screws.
    pub filed: u32,
    /// Readings; a note against its harmonic is two.
    pub readings: u32,
    /// What is out of its target at the end, truly.
    pub out: Vec<Row>,
    /// How many rows the plan itself expects to be out then, by its odds.
    pub doubted: f64,
    /// Rows of the targets.
    pub rows: usize,
    /// Stops and redirections that were named, with how many moves had been made by then.
    pub named: Vec<(Finding, usize)>,
    /// How far the estimate was off at each reading just before it, and at the end, in its own standard deviations.
    pub off: Vec<(Kind, f64)>,
    /// Readings that were questioned although nothing had slipped.
    pub questioned: u32,
    /// Slips that were tried on its readings.
    pub slips: slips::Slips,
    /// Whether the plan called it done.
    pub done: bool,
    /// Whether nothing was left to do, and nobody gave up before.
    pub ended: bool,
    /// Ways back to an earlier station.
    pub laps: u32,
    /// All that was told.
    pub journal: Vec<Entry>,
}

/// A kind of quantity.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Kind {
    /// Relief.
    Relief,
    /// The gap over fret 1.
    Nut,
    /// Heights.
    Action,
    /// Fretted notes.
    Intonation,
    /// The gap of plate or tail.
    Gap,
    /// The gaps of pickups.
    Pickup,
}

impl Kind {
    /// All of them, as a table lists them.
    pub const ALL: [Self; 6] = [
        Self::Relief,
        Self::Nut,
        Self::Action,
        Self::Intonation,
        Self::Gap,
        Self::Pickup,
    ];

    /// Of a place.
    pub const fn of(place: Place) -> Option<Self> {
        match place {
            Place::Relief { .. } => Some(Self::Relief),
            Place::Nut { .. } => Some(Self::Nut),
            Place::Action { .. } => Some(Self::Action),
            Place::Intonation { .. } => Some(Self::Intonation),
            Place::Gap => Some(Self::Gap),
            Place::Pickup { .. } => Some(Self::Pickup),
            _ => None,
        }
    }
}

/// Why a trial cannot go on: a document that its own program refuses.
#[derive(Debug)]
pub enum TrialError {
    /// The fold.
    Job(JobError),
    /// The estimate.
    Estimate(EstimateError),
}

impl From<JobError> for TrialError {
    fn from(error: JobError) -> Self {
        Self::Job(error)
    }
}

impl From<EstimateError> for TrialError {
    fn from(error: EstimateError) -> Self {
        Self::Estimate(error)
    }
}

/// The journal of a job as it grows.
struct Journal {
    entries: Vec<Entry>,
}

impl Journal {
    fn tell(&mut self, event: Event) {
        let seq = self.entries.len() as u64 + 1;
        let at = jiff::Timestamp::UNIX_EPOCH + jiff::SignedDuration::from_secs(70 * seq as i64);
        self.entries.push(Entry::new(seq, at, event));
    }

    fn known(&self) -> Result<Estimate, TrialError> {
        Ok(Estimate::of(Arc::new(Job::fold(&self.entries)?))?)
    }
}

/// One job, from its first check until nothing is left, something stops it, or nobody would go on.
///
/// # Errors
/// [`TrialError`] when the program refuses what its own plan asked for.
pub fn run(instrument: SimulatedInstrument, opening: Vec<Event>) -> Result<Outcome, TrialError> {
    run_by(instrument, opening, asked)
}

/// The same by a hand of another mind: `next` picks what it does of what the plan asks for.
///
/// # Errors
/// As [`run`].
pub fn run_by(
    mut instrument: SimulatedInstrument,
    opening: Vec<Event>,
    mut next: impl FnMut(&Estimate, &Plan, &[Place]) -> Option<Asked>,
) -> Result<Outcome, TrialError> {
    let mut journal = Journal {
        entries: Vec::new(),
    };
    for event in opening {
        journal.tell(event);
    }
    let mut outcome = Outcome::default();
    let mut last: Option<Adjuster> = None;
    let mut passed: Vec<Place> = Vec::new();
    let mut farthest: Option<StationId> = None;
    for _ in 0..MOST_STEPS {
        let known = journal.known()?;
        let plan = Plan::of(&known);
        outcome.name(&plan);
        let Some(wanted) = next(&known, &plan, &passed) else {
            outcome.ended = true;
            outcome.close(&instrument, &known, &plan);
            outcome.journal = journal.entries;
            return Ok(outcome);
        };
        if let (Some(station), true) = (plan.next_station(&known), plan.first.is_empty()) {
            if farthest.is_some_and(|farthest| station < farthest) {
                outcome.laps += 1;
                farthest = Some(station);
            }
            farthest = farthest.max(Some(station));
        }
        if let Asked::Read(places) = &wanted {
            for place in places {
                outcome.weigh(&instrument, &known, *place);
            }
        }
        let told = follow(&mut instrument, &wanted);
        match &wanted {
            Asked::Read(places) => {
                let notes = places
                    .iter()
                    .filter(|place| matches!(place, Place::Intonation { .. }));
                outcome.readings += u32::try_from(places.len() + notes.count()).unwrap_or(0);
                for event in &told {
                    outcome.slips.try_on(&instrument, (&known, &plan), event);
                    if question(&known, || plan.clone(), event).is_some() {
                        outcome.questioned += 1;
                    }
                }
                last = None;
            }
            Asked::Do(adjuster, _) => {
                if matches!(adjuster, Adjuster::NutSlots { .. } | Adjuster::Springs) {
                    outcome.filed += 1;
                } else if last != Some(*adjuster) {
                    outcome.moved(*adjuster, known.instrument());
                }
                last = Some(*adjuster);
            }
        }
        if let (true, Asked::Read(places)) = (told.is_empty(), &wanted)
            && !passed.contains(&places[0])
        {
            // Nothing in this hand's bag reads that.
            passed.extend(places);
            continue;
        }
        if told.is_empty() {
            outcome.close(&instrument, &known, &plan);
            outcome.journal = journal.entries;
            return Ok(outcome);
        }
        for event in told {
            journal.tell(event);
        }
    }
    let known = journal.known()?;
    let plan = Plan::of(&known);
    outcome.close(&instrument, &known, &plan);
    outcome.journal = journal.entries;
    Ok(outcome)
}

impl Outcome {
    fn moved(&mut self, adjuster: Adjuster, instrument: &Instrument) {
        let screws = sorts::screws_of(adjuster, instrument);
        match self.moves.iter_mut().find(|(of, _)| *of == adjuster) {
            Some((_, count)) => *count += screws,
            None => self.moves.push((adjuster, screws)),
        }
    }

    /// All visits to screws.
    pub fn visits(&self) -> u32 {
        self.moves.iter().map(|(_, count)| count).sum()
    }

    fn name(&mut self, plan: &Plan) {
        let made = self.moves.iter().map(|(_, count)| *count as usize).sum();
        for finding in plan
            .findings
            .iter()
            .filter(|finding| finding.severity() == Severity::Stop)
        {
            if !self.named.iter().any(|(known, _)| same(known, finding)) {
                self.named.push((finding.clone(), made));
            }
        }
    }

    /// Holds what is said of a place against the truth.
    fn weigh(&mut self, instrument: &SimulatedInstrument, known: &Estimate, place: Place) {
        let Some(kind) = Kind::of(place) else {
            return;
        };
        let said = match place {
            Place::Intonation { string, .. } => known
                .known_saddles()
                .iter()
                .flatten()
                .flat_map(|saddle| &saddle.strings)
                .find(|on| on.string == string)
                .map(|on| (on.error.value.value(), on.error.sigma.value())),
            _ => known.state().predict(place).ok().map(|said| {
                // Pressed on the body a plate reads nothing.
                let least = if place == Place::Gap { 0.0 } else { f64::MIN };
                (said.value.mm().max(least), said.sigma.mm())
            }),
        };
        if let (Some((value, sigma)), Some(truth)) = (said, judge::truth(instrument, place)) {
            self.off.push((kind, (value - truth) / sigma));
        }
    }

    fn close(&mut self, instrument: &SimulatedInstrument, known: &Estimate, plan: &Plan) {
        self.done = plan.done(known);
        let rows = judge::rows(instrument, known, plan);
        self.rows = rows.len();
        self.doubted = judge::doubted(plan);
        for row in &rows {
            for place in &row.places {
                self.weigh(instrument, known, *place);
            }
        }
        self.out = rows.into_iter().filter(Row::is_out).collect();
    }
}

/// Whether two findings are one, whatever their numbers.
fn same(a: &Finding, b: &Finding) -> bool {
    std::mem::discriminant(a) == std::mem::discriminant(b)
}
