//! Schools and targets of the geometry stations (common practice), and what a hand is taken to be.

use gradimen_core::clearance::Pluck;
use gradimen_core::quantity::{Force, Length};
use gradimen_core::units::LengthUnit;

use crate::model::hardware::PickupFamily;
use crate::model::instrument::{Instrument, Kind, NutKind};
use crate::model::measurement::Measurement;
use crate::model::place::ReliefSpan;
use crate::model::player::Touch;
use crate::model::target::{Inner, Targets, Tolerances};

/// How far a finished instrument may be off its targets: below what the usual tools resolve and
/// what players tell apart (common practice).
pub mod tolerance {
    use gradimen_core::quantity::Length;

    /// Relief, in the method it is read by: two thousandths of an inch (common practice).
    pub const RELIEF: Length = Length::from_mm(0.05);
    /// The gap over fret 1.
    pub const NUT: Length = Length::from_mm(0.05);
    /// The height of a string at the twelfth fret or further up.
    pub const ACTION: Length = Length::from_mm(0.1);
    /// The gap of a pickup.
    pub const PICKUP: Length = Length::from_mm(0.2);
    /// The gap of a vibrato: what can be seen.
    pub const GAP: Length = Length::from_mm(0.3);
}

/// A way of reading relief.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct School {
    /// Its word in forms.
    pub key: &'static str,
    /// Its name.
    pub name: &'static str,
    /// Where, on this instrument.
    pub span: ReliefSpan,
}

/// The schools of relief on an instrument.
pub fn relief_schools(instrument: &Instrument) -> Vec<School> {
    let (last, joint) = (instrument.frets, instrument.neck.joint_fret);
    let all = [
        ("last_8", "hold 1 and last, read 8", last, 8),
        ("17_8", "hold 1 and 17, read 8", 17, 8),
        ("12_6", "hold 1 and 12, read 6", 12, 6),
        ("joint_7", "hold 1 and the body joint, read 7", joint, 7),
        ("capos_7", "two capos, on 1 and last, read 7", last, 7),
        ("edge_8", "straightedge over the frets, read 8", last, 8),
    ];
    all.into_iter()
        .filter(|(_, _, high, _)| *high <= last)
        .map(|(key, name, high, at)| School {
            key,
            name,
            span: ReliefSpan { low: 1, high, at },
        })
        .collect()
}

/// The fret at which heights are read: the twelfth on guitars, the seventeenth on most basses.
pub const fn action_fret(kind: Kind) -> u8 {
    match kind {
        Kind::Guitar | Kind::Baritone => 12,
        Kind::Bass => 17,
    }
}

/// What a setup is to be for a hand, until the shop or the player says otherwise (common practice;
/// the light and hard bass are one step of 64ths from the usual one).
pub fn targets(instrument: &Instrument, hand: Touch) -> Targets {
    let thou = |value: f64| Measurement::exact(Length::from_thou(value), LengthUnit::Thou);
    let part = |written: &str, inches: f64| {
        let height = Length::from_inches(inches);
        Measurement::new(written.to_owned(), height, height)
    };
    let last = instrument.frets;
    let guitar_span = ReliefSpan {
        low: 1,
        high: 12,
        at: 6,
    };
    let capos = ReliefSpan {
        low: 1,
        high: last,
        at: 7,
    };
    let (span, relief) = match (instrument.kind, hand) {
        (Kind::Bass, Touch::Light) => (capos, 12.0),
        (Kind::Bass, Touch::Medium) => (capos, 15.0),
        (Kind::Bass, Touch::Hard) => (capos, 18.0),
        (_, Touch::Light) => (guitar_span, 4.0),
        (_, Touch::Medium) => (guitar_span, 6.0),
        (_, Touch::Hard) => (guitar_span, 8.0),
    };
    let (treble, bass) = match (instrument.kind, hand) {
        (Kind::Bass, Touch::Light) => (part("4/64", 4.0 / 64.0), part("4/64", 4.0 / 64.0)),
        (Kind::Bass, Touch::Medium) => (part("5/64", 5.0 / 64.0), part("5/64", 5.0 / 64.0)),
        (Kind::Bass, Touch::Hard) => (part("6/64", 6.0 / 64.0), part("6/64", 6.0 / 64.0)),
        (_, Touch::Light) => (part(".050\"", 0.050), part(".050\"", 0.050)),
        (_, Touch::Medium) => (part("4/64", 4.0 / 64.0), part("5/64", 5.0 / 64.0)),
        (_, Touch::Hard) => (part("5/64", 5.0 / 64.0), part("6/64", 6.0 / 64.0)),
    };
    let [nut_treble, nut_bass] = over_first_fret(instrument).map(thou);
    Targets {
        relief_span: span,
        relief: thou(relief),
        nut_held: 0,
        nut_treble,
        nut_bass,
        action_fret: action_fret(instrument.kind),
        action_treble: treble,
        action_bass: bass,
        inner: Inner::Blend,
        tolerances: Tolerances::default(),
        intonation_reference: None,
        intonation_aim_cents: None,
        spec: None,
    }
}

/// What an open string is to clear fret 1 by, in thousandths of an inch: treble and bass. Behind a zero fret what level frets
/// make of the usual action and relief (worked out by hand, to be changed by whoever measures); over a board without frets,
/// whose strings lie lower, from memory.
pub(crate) fn over_first_fret(instrument: &Instrument) -> [f64; 2] {
    let bass = instrument.kind == Kind::Bass;
    match (
        instrument.construction.nut,
        instrument.construction.fretless,
    ) {
        (NutKind::ZeroFret, _) => [8.0, 10.0],
        (_, true) => [12.0, 14.0],
        _ => [20.0, if bass { 22.0 } else { 20.0 }],
    }
}

/// The gap of a pickup with the string held at the last fret: treble side and bass side (common
/// practice; two coils from memory).
pub fn pickup_target(family: PickupFamily) -> [Length; 2] {
    let parts = |treble: f64, bass: f64| {
        [
            Length::from_inches(treble / 64.0),
            Length::from_inches(bass / 64.0),
        ]
    };
    match family {
        PickupFamily::SingleCoil => parts(4.0, 6.0),
        PickupFamily::OlderSingleCoil => parts(5.0, 6.0),
        PickupFamily::CloseSet => [Length::from_mm(2.0), Length::from_mm(2.5)],
        PickupFamily::DoubleCoil => [Length::from_mm(1.6), Length::from_mm(2.0)],
        PickupFamily::Bass => parts(6.0, 8.0),
    }
}

/// The hardest stroke of a hand: the part of its force at a right angle to the board, until a buzz
/// that was heard says better (starting values, common practice), and where it plucks.
pub fn pluck(kind: Kind, hand: Touch) -> Pluck {
    let newtons = match (kind, hand) {
        (Kind::Bass, Touch::Light) => 0.8,
        (Kind::Bass, Touch::Medium) => 1.3,
        (Kind::Bass, Touch::Hard) => 2.0,
        (_, Touch::Light) => 0.25,
        (_, Touch::Medium) => 0.4,
        (_, Touch::Hard) => 0.7,
    };
    let from_saddle = match kind {
        Kind::Bass => 110.0,
        Kind::Guitar | Kind::Baritone => 130.0,
    };
    Pluck {
        force: Force::from_newtons(newtons),
        from_saddle: Length::from_mm(from_saddle),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::defaults::usual_instrument;
    use strum::VariantArray;

    #[test]
    fn every_hand_has_targets_in_its_schools_numbers() {
        // Common practice: .006 electric by hold 1 and 12; .015 bass with two capos at the seventh;
        // general electric 4/64 and 5/64 at the twelfth; bass 5/64 at the seventeenth.
        let guitar = targets(&usual_instrument(Kind::Guitar, 6), Touch::Medium);
        assert_eq!(guitar.relief_span.words(), "hold 1 and 12, read 6");
        assert!((guitar.relief.middle().thou() - 6.0).abs() < 1e-6);
        assert!((guitar.action_bass.middle().inches() * 64.0 - 5.0).abs() < 1e-6);
        let bass = targets(&usual_instrument(Kind::Bass, 4), Touch::Medium);
        assert_eq!(bass.relief_span.at, 7);
        assert!((bass.relief.middle().mm() - 0.38).abs() < 0.002);
        assert_eq!(bass.action_fret, 17);
        for kind in Kind::VARIANTS.iter().copied() {
            let [light, medium, hard] = [Touch::Light, Touch::Medium, Touch::Hard]
                .map(|hand| targets(&usual_instrument(kind, 6), hand));
            assert!(light.relief.middle() < medium.relief.middle());
            assert!(medium.action_treble.middle() < hard.action_treble.middle());
            assert!(pluck(kind, Touch::Light).force < pluck(kind, Touch::Hard).force);
        }
    }

    #[test]
    fn schools_fit_the_board() {
        let schools = relief_schools(&usual_instrument(Kind::Bass, 4));
        assert!(schools.iter().all(|school| school.span.high <= 20));
        assert_eq!(schools.len(), 6);
    }
}
