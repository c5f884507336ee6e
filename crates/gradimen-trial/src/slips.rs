//! Slips that hands make, tried on every reading of a job: which of them would be asked about.

use gradimen_bench::estimate::Estimate;
use gradimen_bench::journal::Event;
use gradimen_bench::model::{Measurement, Place, Reading};
use gradimen_bench::plan::Plan;
use gradimen_bench::plan::reading_check::question;
use gradimen_sim::SimulatedInstrument;

/// A neighbour's reading matters when it is off by so much: less is in tolerance either way.
const MATTERS_MM: f64 = 0.1;

/// How many slips were tried, and how many asked about.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Tried {
    /// All of them.
    pub all: u32,
    /// Those that would be asked about.
    pub asked: u32,
}

impl Tried {
    fn count(&mut self, asked: bool) {
        self.all += 1;
        self.asked += u32::from(asked);
    }

    /// The share that is asked about.
    pub fn share(self) -> f64 {
        f64::from(self.asked) / f64::from(self.all.max(1))
    }

    /// Both together.
    #[must_use]
    pub const fn with(self, other: Self) -> Self {
        Self {
            all: self.all + other.all,
            asked: self.asked + other.asked,
        }
    }
}

/// What became of the slips that were tried: at the first reading of a place, and at later ones.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Slips {
    /// Another unit: 64ths for 32nds and the other way round, thousandths for hundredths of a millimetre.
    pub units: [Tried; 2],
    /// Written down for the string beside it.
    pub neighbour: [Tried; 2],
}

impl Slips {
    /// Tries the slips of a reading that was told.
    pub(crate) fn try_on(
        &mut self,
        instrument: &SimulatedInstrument,
        (known, plan): (&Estimate, &Plan),
        told: &Event,
    ) {
        let Event::Read {
            place,
            value: Reading::Length { length },
            ..
        } = told
        else {
            return;
        };
        let asked = |place: Place, mm: f64| {
            let slipped = Measurement {
                tool: length.tool,
                ..Measurement::mm(mm)
            };
            let event = Event::read(place, Reading::Length { length: slipped });
            question(known, || plan.clone(), &event).is_some()
        };
        let read = length.middle().mm();
        let factors = match place {
            Place::Action { .. } | Place::Pickup { .. } => [0.5, 2.0],
            Place::Relief { .. } | Place::Nut { .. } => [2.54, 1.0 / 2.54],
            _ => return,
        };
        let later = |place: Place| {
            let mut facts = known.facts().iter();
            facts.any(|entry| {
                matches!(&entry.event, Event::Read { place: at, .. } if at.any_method() == place.any_method())
            })
        };
        for factor in factors {
            self.units[usize::from(later(*place))].count(asked(*place, read * factor));
        }
        let Some(string) = place.string() else {
            return;
        };
        for other in [string.wrapping_sub(1), string + 1] {
            let there = place
                .on_string(other)
                .filter(|_| (1..=known.instrument().strings).contains(&other));
            let truth = |there: Place| match there {
                Place::Action { fret, held, .. } => {
                    Some(instrument.height(usize::from(other - 1), held, fret))
                }
                Place::Nut { held, .. } => {
                    let held = if held == 3 { 2 } else { held };
                    Some(instrument.height(usize::from(other - 1), held, 1))
                }
                _ => None,
            };
            if let Some(there) = there
                && truth(there).is_some_and(|truth| (truth - read).abs() > MATTERS_MM)
            {
                self.neighbour[usize::from(later(there))].count(asked(there, read));
            }
        }
    }

    /// Both together.
    #[must_use]
    pub fn with(self, other: Self) -> Self {
        let both = |a: [Tried; 2], b: [Tried; 2]| [a[0].with(b[0]), a[1].with(b[1])];
        Self {
            units: both(self.units, other.units),
            neighbour: both(self.neighbour, other.neighbour),
        }
    }

    /// A table of both.
    pub fn table(&self) -> String {
        let line = |name: &str, tried: [Tried; 2]| {
            let cell = |tried: Tried| format!("{:.0} % of {}", 100.0 * tried.share(), tried.all);
            format!("| {name} | {} | {} |\n", cell(tried[0]), cell(tried[1]))
        };
        format!(
            "| slip | asked about at a first reading | later |\n|---|---|---|\n{}{}",
            line("another unit", self.units),
            line("the string beside it", self.neighbour)
        )
    }
}
