//! The instrument behind a practice job, as it comes to the bench.

use gradimen_bench::journal::Opened;
use gradimen_bench::model::hardware::SaddleDrive;
use gradimen_bench::model::{Difficulty, Practice, PracticeFault};
use gradimen_sim::{Condition, Rng, SimulatedInstrument, Trap};

/// How much more or less is wrong.
pub(crate) const fn share(difficulty: Difficulty) -> f64 {
    match difficulty {
        Difficulty::Easy => 0.6,
        Difficulty::Usual => 1.0,
        Difficulty::Hard => 1.6,
    }
}

/// The instrument behind a job that is practised, as it comes to the bench.
pub(crate) fn hidden(opened: &Opened, restrung: bool) -> Option<SimulatedInstrument> {
    let practice = opened.practice.as_ref()?;
    let mut chance = Rng::new(practice.seed ^ 0x5add1e);
    let has = |fault| practice.faults.contains(&fault);
    let scale = opened.instrument.scale(1).mm();
    let trap = match practice.faults.iter().find(|fault| fault.is_trap()) {
        Some(PracticeFault::ForeignNeck) => Some(Trap::ForeignNeck(scale - FOREIGN)),
        Some(PracticeFault::Bridge) => Some(Trap::Bridge(MISPLACED)),
        Some(PracticeFault::RodSpent) => Some(Trap::RodSpent),
        Some(PracticeFault::Wound) => Some(Trap::Wound),
        _ => None,
    };
    let wide = if has(PracticeFault::Saddles) {
        ANYWHERE * share(practice.difficulty)
    } else {
        0.0
    };
    let condition = Condition {
        relief_mm: practice.came.relief_mm,
        nut_mm: practice.came.nut_mm,
        action_mm: practice.came.action_mm,
        gap_mm: practice.came.gap_mm,
        saddles_mm: if opened.instrument.bridge.details.drive == SaddleDrive::Bar {
            on_a_bar(opened.instrument.strings, wide, &mut chance)
        } else {
            std::array::from_fn(|_| chance.between(-wide, wide))
        },
        scatter_mm: Some([
            EVEN[0],
            if has(PracticeFault::Action) {
                UNEVEN
            } else {
                EVEN[1]
            },
        ]),
        fitted: trap.is_none(),
        trap,
    };
    let before = opened
        .arrived
        .as_ref()
        .filter(|_| has(PracticeFault::Gauge));
    let on = before.unwrap_or(&opened.strung);
    let made = SimulatedInstrument::hidden(&opened.instrument, on, &condition, practice.seed)?;
    let mut made = made.with_frets_dressed();
    if practice.difficulty == Difficulty::Easy {
        made = made.with_gauge();
    }
    if let Some((fret, up, loose)) = fault_at(practice, opened.instrument.frets) {
        made = made.with_fret(fret, up, loose);
    }
    if restrung && before.is_some() {
        made.restring(&opened.strung)?;
    }
    Some(made)
}

/// Saddles cut into one bar, which stands askew: each off by where it lies on it, and by how it was cut.
fn on_a_bar(strings: u8, wide: f64, chance: &mut Rng) -> [f64; 8] {
    let ends = [(); 2].map(|()| chance.between(-wide, wide));
    let most = f64::from(strings.saturating_sub(1).max(1));
    let mut index = 0.0;
    [(); 8].map(|()| {
        let share = index / most;
        index += 1.0;
        ends[0] + (ends[1] - ends[0]) * share + chance.normal(CUT)
    })
}

/// How well saddles are cut into a bar, in millimetres (a choice).
const CUT: f64 = 0.15;
/// How far saddles stand off that stand anywhere; how far single strings stray over frets 1 and 12 where they were set, and over fret 12 where
/// they were not, in millimetres (choices).
const ANYWHERE: f64 = 3.0;
const EVEN: [f64; 2] = [0.015, 0.03];
const UNEVEN: f64 = 0.15;
/// A neck this much shorter in scale, and a bridge so far behind its place, in millimetres.
const FOREIGN: f64 = 19.05;
const MISPLACED: f64 = 9.0;

/// Which fret stands high, how far, and whether it is loose.
pub(crate) fn fault_at(practice: &Practice, frets: u8) -> Option<(u8, f64, bool)> {
    let loose = practice.faults.contains(&PracticeFault::LooseFret);
    if !loose && !practice.faults.contains(&PracticeFault::HighFret) {
        return None;
    }
    let mut chance = Rng::new(practice.seed ^ 0xf3e7);
    // In the middle of the board, and where a rocker still finds a fret on either side.
    let last = f64::from(frets.saturating_sub(3).clamp(2, 14));
    let fret = chance.between(last.min(6.0), last + 0.99) as u8;
    let up = match practice.difficulty {
        Difficulty::Easy => 0.16,
        Difficulty::Usual => 0.12,
        Difficulty::Hard => 0.09,
    };
    Some((fret, up, loose))
}
