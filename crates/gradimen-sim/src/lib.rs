//! Instruments with hidden state: they answer readings with the noise, the lean and the marks of real tools, and react
//! to their screws with play, creep and couplings. They seed the demo, so that demo data hang together, and they judge
//! the plan in tests.
//!
//! Their physics is their own. Of the core they use units, of the bench the documents they write; a neck is a beam that is
//! integrated, a string a stiff wire with tails over uneven frets under a soft finger, a plate rests by virtual work on
//! springs that differ. Their numbers are invented, and drawn wide.

mod chance;
mod frets;
mod hands;
mod instrument;
mod neck;
mod parts;
mod path;
mod plate;
mod read;
mod screw;
mod sound;
mod tools;
mod wire;

pub use chance::Rng;
pub use instrument::SimulatedInstrument;
pub use sound::{Played, RATE};
pub use tools::Ruler;

/// What no screw puts right.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Trap {
    /// A neck whose frets are of another scale, in millimetres.
    ForeignNeck(f64),
    /// A bridge so far behind its place, in millimetres.
    Bridge(f64),
    /// A rod with nothing left.
    RodSpent,
    /// A neck wound so that the sides of its relief lie far apart: given by the condition.
    Wound,
}

/// How an instrument comes to the bench.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Condition {
    /// Relief by hold 1 and last, read 8: treble and bass, in millimetres.
    pub relief_mm: [f64; 2],
    /// Gap over fret 1, in millimetres.
    pub nut_mm: f64,
    /// Action over fret 12: treble and bass, in millimetres.
    pub action_mm: [f64; 2],
    /// Gap of the plate or tail, in millimetres.
    pub gap_mm: f64,
    /// How far each saddle stands off its right place, string 1 first, in millimetres.
    pub saddles_mm: [f64; 8],
    /// How far single strings stray from that over frets 1 and 12; nothing for what is usual.
    pub scatter_mm: Option<[f64; 2]>,
    /// Whether the bridge was set where its saddles reach.
    pub fitted: bool,
    /// What no screw puts right.
    pub trap: Option<Trap>,
}

impl Condition {
    /// As instruments come: a little wrong everywhere.
    pub fn usual(chance: &mut Rng, bass: bool) -> Self {
        let relief = chance.between(0.05, 0.55);
        let sides = chance.normal(0.03).abs();
        let action = if bass {
            chance.between(1.8, 3.2)
        } else {
            chance.between(1.3, 2.6)
        };
        Self {
            relief_mm: [relief - sides, relief],
            // Most nuts are as they should be; some were never cut down.
            nut_mm: if chance.between(0.0, 1.0) < 0.7 {
                chance.between(0.48, 0.53)
            } else {
                chance.between(0.66, 0.8)
            },
            action_mm: [action, action + chance.between(0.0, 0.6)],
            gap_mm: chance.between(1.0, 5.0),
            saddles_mm: std::array::from_fn(|_| chance.between(-2.5, 2.5)),
            scatter_mm: None,
            fitted: false,
            trap: None,
        }
    }
}
