//! What came of many jobs, as a table.

use std::fmt::Write as _;

use crate::sorts::{GROUPS, Sort, group_of};
use crate::{Kind, Outcome};

/// Jobs of one sort, or of all.
#[derive(Debug, Clone, Default)]
pub struct Tally {
    /// How many.
    pub jobs: u32,
    /// Called done.
    pub done: u32,
    /// Truly in spec then.
    pub right: u32,
    /// Rows out of spec.
    pub out: u32,
    /// Rows that the plans themselves expected to be out.
    pub doubted: f64,
    /// Visits to screws, and screws in play.
    pub visits: u32,
    /// Screws in play.
    pub screws: u32,
    /// Visits and screws of each of [`GROUPS`].
    groups: [(u32, u32); GROUPS.len()],
    /// Readings.
    pub readings: u32,
    /// Readings that were questioned although nothing had slipped.
    pub questioned: u32,
    /// Slips that were tried.
    pub slips: crate::slips::Slips,
    /// Jobs with a stop finding.
    pub stopped: u32,
    /// Jobs whose stop was named before the first move.
    pub named_first: u32,
    /// Moves on jobs that were stopped.
    pub wasted: u32,
    /// Ways back.
    pub laps: u32,
    off: Vec<(Kind, f64)>,
}

impl Tally {
    /// Takes a job in.
    pub fn add(&mut self, job: &Outcome, sort: &Sort) {
        self.jobs += 1;
        for (group, screws) in self.groups.iter_mut().zip(sort.screws_by_group()) {
            group.1 += screws;
        }
        for (adjuster, visits) in &job.moves {
            if let Some(group) = group_of(*adjuster) {
                self.groups[group].0 += visits;
            }
        }
        self.done += u32::from(job.done);
        self.right += u32::from(job.out.is_empty());
        self.out += job.out.len() as u32;
        self.doubted += job.doubted;
        self.visits += job.visits();
        self.screws += sort.screws();
        self.readings += job.readings;
        self.questioned += job.questioned;
        self.slips = self.slips.with(job.slips);
        self.laps += job.laps;
        if !job.named.is_empty() {
            self.stopped += 1;
            self.wasted += job.visits();
            self.named_first += u32::from(job.named.iter().any(|(_, made)| *made == 0));
        }
        self.off.extend(&job.off);
    }

    /// Two tallies as one.
    pub fn with(mut self, other: &Self) -> Self {
        self.jobs += other.jobs;
        self.done += other.done;
        self.right += other.right;
        self.out += other.out;
        self.doubted += other.doubted;
        self.visits += other.visits;
        self.screws += other.screws;
        for (group, more) in self.groups.iter_mut().zip(other.groups) {
            *group = (group.0 + more.0, group.1 + more.1);
        }
        self.readings += other.readings;
        self.questioned += other.questioned;
        self.slips = self.slips.with(other.slips);
        self.stopped += other.stopped;
        self.named_first += other.named_first;
        self.wasted += other.wasted;
        self.laps += other.laps;
        self.off.extend(&other.off);
        self
    }

    fn a_job(&self, count: u32) -> f64 {
        f64::from(count) / f64::from(self.jobs.max(1))
    }

    /// Share of jobs truly in spec.
    pub fn share_right(&self) -> f64 {
        self.a_job(self.right)
    }

    /// Rows out of spec a job.
    pub fn rows_out(&self) -> f64 {
        self.a_job(self.out)
    }

    /// Visits to a screw in play.
    pub fn visits_a_screw(&self) -> f64 {
        f64::from(self.visits) / f64::from(self.screws.max(1))
    }

    /// Readings a job.
    pub fn readings_a_job(&self) -> f64 {
        self.a_job(self.readings)
    }

    /// Of a kind of quantity: how many were held against the truth, and the shares within one and two standard deviations.
    pub fn widths(&self, kind: Kind) -> (usize, f64, f64) {
        let all: Vec<f64> = self
            .off
            .iter()
            .filter(|(of, _)| *of == kind)
            .map(|(_, off)| off.abs())
            .collect();
        let share = |within: f64| {
            all.iter().filter(|off| **off <= within).count() as f64 / all.len().max(1) as f64
        };
        (all.len(), share(1.0), share(2.0))
    }

    /// A line of the table.
    pub fn line(&self, name: &str) -> String {
        format!(
            "| {name} | {} | {:.0} % | {:.2} | {:.2} | {:.0} | {:.1} | {} |",
            self.jobs,
            self.share_right() * 100.0,
            self.rows_out(),
            self.visits_a_screw(),
            self.readings_a_job(),
            self.a_job(self.laps),
            self.stopped,
        )
    }

    /// The visits, group by group.
    pub fn visits_table(&self) -> String {
        let mut text = String::from("| screws | in play a job | visits a job |\n|---|---|---|\n");
        for (name, (visits, screws)) in GROUPS.iter().zip(self.groups) {
            let [screws, visits] = [screws, visits].map(|count| self.a_job(count));
            let _ = writeln!(text, "| {name} | {screws:.1} | {visits:.1} |");
        }
        text
    }

    /// The widths, kind by kind.
    pub fn widths_table(&self) -> String {
        let mut text = String::from(
            "| | held against the truth | within one | within two |\n|---|---|---|---|\n",
        );
        for kind in Kind::ALL {
            let (count, one, two) = self.widths(kind);
            if count > 0 {
                let _ = writeln!(
                    text,
                    "| {} | {count} | {:.0} % | {:.0} % |",
                    format!("{kind:?}").to_lowercase(),
                    one * 100.0,
                    two * 100.0
                );
            }
        }
        text
    }
}

/// The head of the table.
pub const HEAD: &str = "| | jobs | truly in spec | rows out | moves a screw | readings | laps | stopped |\n|---|---|---|---|---|---|---|---|";
