//! Target sets by name, for a job: the shop's own, and what puts an instrument back as it came.
//!
//! ```
//! use gradimen_bench::{job::Job, journal::Document, plan::as_it_came::as_it_came};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let job = Job::fold(&Document::parse(text)?.events)?;
//! if let Some(targets) = as_it_came(&job) {
//!     assert_eq!(targets.spec.as_deref(), Some("as it came"));
//! }
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use std::collections::BTreeMap;

use thiserror::Error;

use crate::job::Job;
use crate::journal::Event;
use crate::model::limits::LimitError;
use crate::model::shop::AS_IT_CAME;
use crate::model::{Measurement, Place, Reading, Shop, Side, Targets};

/// Why no target set of that name can be put on a job.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum NamedError {
    /// The shop has none of that name.
    #[error("\"{0}\" is not understood; choose one of the shop's house specs")]
    Unknown(String),
    /// Nobody knows how it came.
    #[error(
        "\"as it came\" needs the action of strings 1 and {0} before anything is turned: read both, or write it at intake and tick that it was measured on this instrument"
    )]
    Unmeasured(u8),
    /// It does not fit this board.
    #[error(transparent)]
    Board(#[from] LimitError),
}

/// The targets of that name on the instrument of a job.
///
/// # Errors
/// [`NamedError`] where there is none, or it does not fit.
pub fn named(shop: &Shop, name: &str, job: &Job) -> Result<Targets, NamedError> {
    if name == AS_IT_CAME {
        let unmeasured = NamedError::Unmeasured(job.instrument().strings);
        return as_it_came(job).ok_or(unmeasured);
    }
    let spec = shop
        .spec(name)
        .ok_or_else(|| NamedError::Unknown(crate::model::limits::shortened(name)))?;
    Ok(spec.targets(job.instrument())?)
}

/// The targets that put it back as it came, by what was read before anything was moved, or given at intake as measured;
/// nothing before the action of both outer strings is known. What was not read keeps its target.
pub fn as_it_came(job: &Job) -> Option<Targets> {
    let read = before_the_first_move(job);
    let last = job.instrument().strings;
    let usual = job.targets();
    let given = job.heights();
    let (fret, [action_treble, action_bass]) = action(&read, last, usual.action_fret)
        .or_else(|| action(&read, last, 12))
        .or_else(|| {
            let both = [given.twelfth_treble.clone(), given.twelfth_bass.clone()];
            given.measured.then_some((12, both))
        })?;
    let nut = |string: u8| {
        let place = Place::Nut {
            string,
            held: usual.nut_held,
        };
        read.get(&place).cloned()
    };
    let given_nut =
        |measured: &Measurement| (given.measured && usual.nut_held == 0).then(|| measured.clone());
    let relief = Side::ALL.map(|side| {
        let span = usual.relief_span;
        read.get(&Place::Relief { side, span }).cloned()
    });
    Some(Targets {
        relief: match relief {
            // One rod turns both sides: their mean.
            [Some(treble), Some(bass)] if treble == bass => treble,
            [Some(treble), Some(bass)] => {
                Measurement::mm((treble.middle().mm() + bass.middle().mm()) / 2.0)
            }
            [one, other] => one.or(other).unwrap_or(usual.relief.clone()),
        },
        nut_treble: nut(1)
            .or_else(|| given_nut(&given.first_fret_treble))
            .unwrap_or(usual.nut_treble.clone()),
        nut_bass: nut(last)
            .or_else(|| given_nut(&given.first_fret_bass))
            .unwrap_or(usual.nut_bass.clone()),
        action_fret: fret,
        action_treble,
        action_bass,
        spec: Some(AS_IT_CAME.to_owned()),
        ..usual
    })
}

/// The last length read at each place before anything was moved or other strings were put on.
fn before_the_first_move(job: &Job) -> BTreeMap<Place, Measurement> {
    job.facts()
        .iter()
        .take_while(|entry| !matches!(entry.event, Event::Adjusted { .. } | Event::Restrung { .. }))
        .filter_map(|entry| match &entry.event {
            Event::Read {
                place,
                value: Reading::Length { length },
                ..
            } => Some((*place, length.clone())),
            _ => None,
        })
        .collect()
}

/// The action of both outer strings over a fret.
fn action(
    read: &BTreeMap<Place, Measurement>,
    last: u8,
    fret: u8,
) -> Option<(u8, [Measurement; 2])> {
    let of = |string: u8| {
        let place = Place::Action {
            string,
            fret,
            held: 0,
        };
        read.get(&place).cloned()
    };
    Some((fret, [of(1)?, of(last)?]))
}
