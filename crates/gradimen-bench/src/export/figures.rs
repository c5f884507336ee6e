//! The shop's own figures: where its time goes, how its jobs stand, what comes back and why.
//!
//! ```
//! use gradimen_bench::export::figures::Figures;
//!
//! let none = Figures::of(&[]);
//! assert!(none.minutes.is_empty() && none.back.is_empty());
//! ```

use std::collections::BTreeMap;

use jiff::Timestamp;

use super::Summary;
use crate::model::{Keyed, Symptom};

/// What comes again within so many days came back (a choice: half a year, the usual recheck, is no complaint).
pub const SOON: i64 = 120;

/// One job, as the list keeps it.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// Its number: later ones are larger.
    pub id: i64,
    /// Whose it is.
    pub instrument: i64,
    /// When it last changed.
    pub changed_at: Timestamp,
    /// When it was opened.
    pub opened_at: Timestamp,
    /// Its line.
    pub summary: Summary,
}

/// Minutes spent on one part of the work.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Spent {
    /// Which, by its word.
    pub part: String,
    /// In all jobs.
    pub minutes: u32,
    /// In how many jobs it came up.
    pub jobs: u32,
}

impl Spent {
    /// Minutes in each of the jobs in which it came up.
    pub fn each(&self) -> u32 {
        self.minutes / self.jobs.max(1)
    }
}

/// One that came again soon.
#[derive(Debug, Clone, PartialEq)]
pub struct CameBack {
    /// The job it came back as.
    pub id: i64,
    /// Which instrument.
    pub title: String,
    /// Why it came back.
    pub purpose: String,
    /// After so many days.
    pub days: i64,
}

/// The figures.
#[derive(Debug, Clone, PartialEq)]
pub struct Figures {
    /// How many jobs they are of.
    pub jobs: usize,
    /// Where the time went, most first.
    pub minutes: Vec<Spent>,
    /// What was complained of, most first, in how many jobs.
    pub symptoms: Vec<(Symptom, u32)>,
    /// What came back soon, newest first.
    pub back: Vec<CameBack>,
    /// Of how many that could have.
    pub could: usize,
}

impl Figures {
    /// Of the lines of some jobs.
    pub fn of(lines: &[Line]) -> Self {
        let mut minutes: Vec<Spent> = Vec::new();
        for (part, spent) in lines.iter().flat_map(|line| &line.summary.minutes) {
            match minutes.iter_mut().find(|known| known.part == *part) {
                Some(known) => {
                    known.minutes = known.minutes.saturating_add(*spent);
                    known.jobs += 1;
                }
                None => minutes.push(Spent {
                    part: part.clone(),
                    minutes: *spent,
                    jobs: 1,
                }),
            }
        }
        minutes.sort_by_key(|spent| std::cmp::Reverse(spent.minutes));
        let told = lines.iter().flat_map(|line| &line.summary.symptoms);
        let told: Vec<Symptom> = told.copied().collect();
        let count = |symptom: &Symptom| told.iter().filter(|one| *one == symptom).count();
        let mut symptoms: Vec<(Symptom, u32)> = Symptom::all()
            .map(|symptom| (symptom, u32::try_from(count(&symptom)).unwrap_or(u32::MAX)))
            .filter(|(_, count)| *count > 0)
            .collect();
        symptoms.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
        let mut by_instrument: BTreeMap<i64, Vec<&Line>> = BTreeMap::new();
        for line in lines {
            by_instrument.entry(line.instrument).or_default().push(line);
        }
        let mut back: Vec<CameBack> = Vec::new();
        let mut could = 0;
        for visits in by_instrument.values_mut() {
            visits.sort_by_key(|line| line.id);
            could += visits
                .iter()
                .filter(|line| !line.summary.stage.is_open())
                .count();
            for pair in visits.windows(2) {
                let days = pair[1]
                    .opened_at
                    .duration_since(pair[0].changed_at)
                    .as_hours()
                    / 24;
                if !pair[0].summary.stage.is_open() && (0..=SOON).contains(&days) {
                    back.push(CameBack {
                        id: pair[1].id,
                        title: pair[1].summary.title.clone(),
                        purpose: pair[1].summary.purpose.clone(),
                        days,
                    });
                }
            }
        }
        back.sort_by_key(|line| std::cmp::Reverse(line.id));
        Self {
            jobs: lines.len(),
            minutes,
            symptoms,
            back,
            could,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::Stage;

    fn line(id: i64, instrument: i64, opened: &str, changed: &str, stage: Stage) -> Line {
        let at = |day: &str| format!("{day}T10:00:00Z").parse().unwrap();
        Line {
            id,
            instrument,
            opened_at: at(opened),
            changed_at: at(changed),
            summary: Summary {
                stage,
                minutes: vec![("nut".to_owned(), 10), ("relief".to_owned(), 4)],
                symptoms: vec![Symptom::BuzzOpen],
                purpose: format!("visit {id}"),
                ..Summary::broken("Heron".to_owned(), String::new())
            },
        }
    }

    #[test]
    fn what_comes_again_soon_came_back_and_the_recheck_did_not() {
        let lines = [
            line(1, 7, "2026-01-05", "2026-01-10", Stage::Returned),
            line(2, 7, "2026-02-09", "2026-02-10", Stage::Returned),
            line(3, 7, "2026-08-20", "2026-08-21", Stage::OnBench),
            line(4, 8, "2026-01-11", "2026-01-12", Stage::Ready),
        ];
        let figures = Figures::of(&lines);
        let back: Vec<(i64, i64)> = figures.back.iter().map(|one| (one.id, one.days)).collect();
        assert_eq!(back, [(2, 30)]);
        assert_eq!((figures.jobs, figures.could), (4, 3));
        assert_eq!(figures.symptoms, [(Symptom::BuzzOpen, 4)]);
        let spent: Vec<(&str, u32, u32)> = figures
            .minutes
            .iter()
            .map(|spent| (spent.part.as_str(), spent.minutes, spent.jobs))
            .collect();
        assert_eq!(spent, [("nut", 40, 4), ("relief", 16, 4)]);
        assert_eq!(figures.minutes[0].each(), 10);
    }

    #[test]
    fn one_that_is_not_finished_cannot_come_back() {
        let lines = [
            line(1, 7, "2026-01-05", "2026-01-10", Stage::OnBench),
            line(2, 7, "2026-01-11", "2026-01-12", Stage::OnBench),
        ];
        assert!(Figures::of(&lines).back.is_empty());
    }
}
