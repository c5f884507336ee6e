//! Where the time of a job went, station by station: from when its entries were recorded.
//!
//! ```
//! use gradimen_bench::export::time::{PAUSE, minutes};
//! use gradimen_bench::{job::Job, journal::Document};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let job = Job::fold(&Document::parse(text)?.events)?;
//! let all: f64 = minutes(&job).iter().map(|(_, minutes)| minutes).sum();
//! assert!(all <= PAUSE * job.entries().len() as f64);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use crate::job::Job;
use crate::model::{Keyed, Observation, StationId};

use crate::journal::Event;

/// Between two entries further apart than this, in minutes, somebody did something else (a choice).
pub const PAUSE: f64 = 20.0;

/// What an entry is part of: a station by its word, or one of the lists around them.
pub fn part(event: &Event) -> &'static str {
    match event {
        Event::Restrung { .. }
        | Event::Observed {
            what: Observation::Stretched { .. } | Observation::Strings { .. },
        } => "strings",
        Event::Observed {
            what:
                Observation::Pressed { .. }
                | Observation::Edged { .. }
                | Observation::Worn { .. }
                | Observation::Crown { .. }
                | Observation::Fretwork { .. },
        } => "frets",
        Event::Observed {
            what:
                Observation::Played { .. } | Observation::PlayedThrough | Observation::Checked { .. },
        } => "proof",
        Event::Observed {
            what: Observation::Buzz { .. },
        } => "clearance",
        Event::Observed { .. } | Event::Opened(_) | Event::Noted { .. } | Event::Staged { .. } => {
            "counter"
        }
        other => other.station().map_or("counter", |station| match station {
            StationId::First => "quick checks",
            station => station.key(),
        }),
    }
}

/// Minutes by part, in the order in which the parts first came up.
pub fn minutes(job: &Job) -> Vec<(&'static str, f64)> {
    let mut parts: Vec<(&'static str, f64)> = Vec::new();
    for pair in job.entries().windows(2) {
        let seconds = pair[1].at.duration_since(pair[0].at).as_secs_f64();
        let minutes = seconds / 60.0;
        if !(0.0..=PAUSE).contains(&minutes) || minutes == 0.0 {
            continue;
        }
        let here = part(&pair[1].event);
        match parts.iter_mut().find(|(part, _)| *part == here) {
            Some((_, all)) => *all += minutes,
            None => parts.push((here, minutes)),
        }
    }
    parts
}
