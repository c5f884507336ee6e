//! What is to be said of some work, by what is hidden and by what was told.

use std::collections::BTreeMap;
use std::sync::Arc;

use gradimen_bench::estimate::Estimate;
use gradimen_bench::finding::Finding;
use gradimen_bench::journal::{Entry, Event};
use gradimen_bench::model::{Adjuster, Place, PracticeFault, Practised, StationId, Toll};
use gradimen_bench::plan::Plan;
use gradimen_bench::text;
use gradimen_trial::judge;

use crate::bench::Bench;
use crate::hands::{STANDS, measured};

/// At par is who takes no more than this beyond what the plan took (a choice): moves and minutes as a share, and one move or two minutes.
const MORE: f64 = 1.15;
const MOVES: f64 = 1.0;
const MINUTES: f64 = 2.0;

/// Visits to one screw of which nothing is said (a choice).
const ENOUGH: u32 = 2;

/// A screw that was set in vain: it had to be set again, because something before it on the bench was turned after it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct OutOfOrder {
    /// What was set too early.
    pub set: Adjuster,
    /// What was turned after it.
    pub before: Adjuster,
}

/// A target, and how it truly stands.
#[derive(Debug, Clone, PartialEq)]
pub struct Stands {
    /// Where.
    pub places: Vec<Place>,
    /// How far off it is, in millimetres or cents.
    pub off: f64,
    /// Whether that is more than it may be.
    pub out: bool,
}

/// What is to be said.
#[derive(Debug, Clone, PartialEq)]
pub struct Judgement {
    /// What it took.
    pub toll: Toll,
    /// What the plan took.
    pub plan: Toll,
    /// What careful trial and error took.
    pub trial: Toll,
    /// Every target.
    pub rows: Vec<Stands>,
    /// How far the fret with a fault stands up, where there is one, and whether that is too far.
    pub fret: Option<(f64, bool)>,
    /// Screws that were visited more than once.
    pub again: Vec<(Adjuster, u32)>,
    /// What was set before its turn.
    pub out_of_order: Vec<OutOfOrder>,
    /// Slots filed further below their target than they may stand over it, and by how much, in millimetres: what no file gives back.
    pub too_deep: Vec<(u8, f64)>,
    /// A fret was filed that was only loose.
    pub filed_loose: bool,
    /// What no screw puts right, where that is so, and whether the readings show it.
    pub trap: Option<(PracticeFault, bool)>,
    /// How often the next move was asked for.
    pub hints: u32,
}

impl Judgement {
    /// Of a job as it stands.
    pub fn of(bench: &Bench, known: &Estimate, plan: &Plan) -> Self {
        let entries: Vec<&Entry> = known.entries().iter().map(Arc::as_ref).collect();
        let practice = bench.practice();
        let instrument = bench.instrument();
        let rows = judge::rows(instrument, known, plan);
        let filed: Vec<u8> = entries
            .iter()
            .filter_map(|entry| match entry.event {
                Event::Adjusted {
                    adjuster: Adjuster::NutSlots { strings },
                    ..
                } => Some(strings.iter()),
                _ => None,
            })
            .flatten()
            .collect();
        let too_deep = rows
            .iter()
            // What may be low as it came is not where a file stops.
            .filter(|row| -row.off > row.allowed.1)
            .filter_map(|row| match row.places[..] {
                [Place::Nut { string, .. }] if filed.contains(&string) => Some((string, -row.off)),
                _ => None,
            })
            .collect();
        let named = |trap| plan.findings.iter().any(|found| names(found, trap));
        let hints = known
            .practised()
            .iter()
            .filter(|(_, did)| *did == Practised::Hint);
        Self {
            toll: measured(bench, entries.iter().copied(), known, &rows),
            plan: practice.plan,
            trial: practice.trial,
            fret: bench.stands().map(|stands| (stands, stands > STANDS)),
            again: again(&entries),
            out_of_order: out_of_order(&entries),
            too_deep,
            filed_loose: filed_loose(bench, &entries),
            trap: bench.trap().map(|trap| (trap, named(trap))),
            hints: hints.count() as u32,
            rows: rows
                .into_iter()
                .map(|row| Stands {
                    out: row.is_out(),
                    places: row.places,
                    off: row.off,
                })
                .collect(),
        }
    }

    /// Whether it was done as well as the plan does it, or nearly: nothing more is out, little more was turned, and what cannot be set
    /// was found out and let be.
    pub fn is_par(&self) -> bool {
        let found = self.trap.is_none_or(|(_, named)| named);
        self.toll.is_par(&self.plan) && found && self.too_deep.is_empty() && !self.filed_loose
    }

    /// What a trap cost whoever tried it out: moves and minutes of careful trial and error beyond the plan's.
    pub fn trap_costs(&self) -> Option<(u32, f64)> {
        self.trap?;
        let moves = self.trial.moves.saturating_sub(self.plan.moves);
        Some((moves, (self.trial.minutes - self.plan.minutes).max(0.0)))
    }
}

/// Whether that is what was found.
const fn names(found: &Finding, trap: PracticeFault) -> bool {
    match trap {
        PracticeFault::ForeignNeck => matches!(found, Finding::Scale(check) if !check.agrees),
        PracticeFault::Bridge => matches!(found, Finding::BridgePlace { .. }),
        PracticeFault::RodSpent => matches!(found, Finding::RodSpent { needed: true, .. }),
        PracticeFault::Wound => matches!(found, Finding::Twist { .. }),
        _ => false,
    }
}

/// One toll held against another.
pub trait Par {
    /// Whether nothing more is out, and little more was turned.
    fn is_par(&self, par: &Toll) -> bool;
}

impl Par for Toll {
    fn is_par(&self, par: &Toll) -> bool {
        self.out <= par.out
            && f64::from(self.moves) <= f64::from(par.moves) * MORE + MOVES
            && self.minutes <= par.minutes * MORE + MINUTES
    }
}

/// Where a screw was visited: turns of it with nothing else between are one.
fn visits(entries: &[&Entry]) -> Vec<Adjuster> {
    let mut visits: Vec<Adjuster> = Vec::new();
    let mut last = None;
    for entry in entries {
        match entry.event {
            Event::Adjusted { adjuster, .. } => {
                if last != Some(adjuster) {
                    visits.push(adjuster);
                }
                last = Some(adjuster);
            }
            Event::Read { .. } => last = None,
            _ => {}
        }
    }
    visits
}

fn again(entries: &[&Entry]) -> Vec<(Adjuster, u32)> {
    let mut count: BTreeMap<Adjuster, u32> = BTreeMap::new();
    for adjuster in visits(entries) {
        *count.entry(adjuster).or_default() += 1;
    }
    count.into_iter().filter(|(_, times)| *times > 1).collect()
}

fn station(adjuster: Adjuster) -> Option<StationId> {
    let event = Event::Ended {
        adjuster,
        how: gradimen_bench::model::End::Free,
    };
    event.station()
}

/// What was set, then something before it on the bench was turned, and it was set again.
fn out_of_order(entries: &[&Entry]) -> Vec<OutOfOrder> {
    let visits = visits(entries);
    let mut found: Vec<OutOfOrder> = Vec::new();
    for (at, set) in visits.iter().enumerate() {
        let Some(again) = visits[at + 1..].iter().position(|other| other == set) else {
            continue;
        };
        let between = &visits[at + 1..at + 1 + again];
        let before = between
            .iter()
            .find(|other| station(**other) < station(*set));
        if let Some(before) = before
            && found.iter().all(|known| known.set != *set)
        {
            found.push(OutOfOrder {
                set: *set,
                before: *before,
            });
        }
    }
    found
}

/// Whether a file was laid on a fret that a stick would have told from a high one.
fn filed_loose(bench: &Bench, entries: &[&Entry]) -> bool {
    use gradimen_bench::model::{Fretwork, Observation};
    let Some((loose, _, true)) = bench.fault() else {
        return false;
    };
    let works = entries.iter().filter_map(|entry| match &entry.event {
        Event::Observed {
            what: Observation::Fretwork { work, fret, .. },
        } => Some((*work, *fret)),
        _ => None,
    });
    let mut seated = false;
    for (work, fret) in works {
        match work {
            Fretwork::Seated if fret == Some(loose) => seated = true,
            Fretwork::Spot if fret == Some(loose) && !seated => return true,
            Fretwork::Levelled if !seated => return true,
            _ => {}
        }
    }
    false
}

/// The judgement in sentences, the gravest first.
pub fn sentences(judgement: &Judgement, known: &Estimate) -> Vec<String> {
    let mut said = Vec::new();
    let on = |adjuster: Adjuster| text::moves::adjuster_of(known, adjuster);
    if let Some((trap, named)) = judgement.trap {
        said.push(match (named, judgement.toll.moves) {
            (true, 0) => format!(
                "This was {}: your readings show it, and nothing was turned in vain.",
                trap.name()
            ),
            (true, moves) => format!(
                "This was {}: your readings show it, but {moves} moves were made on it.",
                trap.name()
            ),
            (false, _) => format!(
                "This was {}: what was read does not show it yet.",
                trap.name()
            ),
        });
    }
    if let Some((moves, minutes)) = judgement.trap_costs() {
        said.push(format!(
            "Tried out with care it costs {moves} moves and {minutes:.0} min before one gives up."
        ));
    }
    for (string, by) in &judgement.too_deep {
        said.push(format!("Slot {string} was filed {by:.2} mm below its target: that comes back with a new nut or a shim, not with a file."));
    }
    if judgement.filed_loose {
        said.push("A fret was filed that was only loose: once it sits, it is a dip. The stick comes before the file.".to_owned());
    }
    if let Some((stands, true)) = judgement.fret {
        said.push(format!(
            "A fret still stands {stands:.2} mm over its neighbours."
        ));
    }
    for early in &judgement.out_of_order {
        said.push(format!(
            "{} came before its turn: {} moved it, and it had to be set again.",
            on(early.set),
            on(early.before).to_lowercase()
        ));
    }
    for (adjuster, times) in &judgement.again {
        let early = judgement
            .out_of_order
            .iter()
            .any(|early| early.set == *adjuster);
        if *times > ENOUGH && !early {
            said.push(format!(
                "{}: {times} visits where one or two will do.",
                on(*adjuster)
            ));
        }
    }
    if judgement.hints > 0 {
        said.push(format!(
            "The next move was asked for {} times.",
            judgement.hints
        ));
    }
    said
}

/// A row in words: where, and how it stands.
pub fn row(known: &Estimate, row: &Stands) -> (String, String) {
    let place = row
        .places
        .iter()
        .map(|place| text::moves::place(known, *place));
    let place: Vec<String> = place.collect();
    let notes = matches!(row.places.first(), Some(Place::Intonation { .. }));
    let off = if notes {
        format!("{:+.1} cents", row.off)
    } else {
        format!("{:+.2} mm", row.off)
    };
    (place.join("; "), off.replace('-', "\u{2212}"))
}
