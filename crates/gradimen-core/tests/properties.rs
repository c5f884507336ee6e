//! Laws that hold for every value, not only for the examples.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use gradimen_core::intonation::{Fingering, Heights, Speaking};
use gradimen_core::pitch::{Note, Pitch};
use gradimen_core::quantity::{Cents, Frequency, Length};
use gradimen_core::string::StringSpec;
use gradimen_core::tension::tension;
use gradimen_core::units::{LengthUnit, parse_cents, parse_length, print};
use proptest::prelude::*;

fn string(thou: f64) -> StringSpec {
    StringSpec::plain(Length::from_thou(thou)).unwrap()
}

fn speaking(thou: f64, hertz: f64, scale: f64, twelfth: f64) -> Speaking {
    Speaking::new(
        &string(thou),
        Frequency::from_hertz(hertz),
        Length::from_mm(scale),
        Heights::new(Length::from_mm(0.4), Length::from_mm(twelfth)).unwrap(),
        Fingering::default(),
    )
}

proptest! {
    #[test]
    fn a_printed_length_parses_to_itself(unit in 0_usize..6, value in -2000.0_f64..2000.0) {
        let unit = LengthUnit::ALL[unit];
        let length = unit.one() * value;
        let back = parse_length(&print::length(length, unit), LengthUnit::Millimetre).unwrap();
        prop_assert!((back.middle() - length).abs().mm() <= 1e-9 * length.abs().mm().max(1.0));
    }

    #[test]
    fn printed_cents_parse_to_themselves(tenths in -1000_i32..1000) {
        let value = f64::from(tenths) / 10.0;
        let back = parse_cents(&print::cents(Cents::new(value))).unwrap();
        prop_assert!((back[0].value() - value).abs() < 1e-9);
    }

    #[test]
    fn printed_pitches_parse_to_themselves(midi in 20_i16..90, offset in -99_i32..99) {
        let pitch = Pitch::new(Note::from_midi(midi).unwrap(), Cents::new(f64::from(offset))).unwrap();
        prop_assert_eq!(pitch.to_string().parse::<Pitch>().unwrap(), pitch);
    }

    #[test]
    fn no_text_makes_the_parser_panic(text in "\\PC{0,24}") {
        let _ = parse_length(&text, LengthUnit::Thou);
        let _ = parse_cents(&text);
        let _ = text.parse::<Pitch>();
    }

    #[test]
    fn tension_grows_with_the_square_of_the_frequency(hertz in 40.0_f64..400.0, factor in 0.5_f64..2.0) {
        let pull = |f| tension(&string(12.0), Length::from_mm(648.0), Frequency::from_hertz(f)).newtons();
        prop_assert!((pull(hertz * factor) / pull(hertz) - factor * factor).abs() < 1e-9);
    }

    #[test]
    fn moving_the_saddle_back_always_flattens(
        thou in 9.0_f64..18.0,
        scale in 600.0_f64..700.0,
        twelfth in 1.0_f64..3.0,
        setback in -3.0_f64..8.0,
        further in 0.05_f64..3.0,
        fret in 1_u8..22,
    ) {
        let string = speaking(thou, 220.0, scale, twelfth);
        let here = string.error(fret, Length::from_mm(setback)).unwrap();
        let back = string.error(fret, Length::from_mm(setback + further)).unwrap();
        prop_assert!(back < here, "{:?} then {:?}", here, back);
    }

    #[test]
    fn the_right_setback_is_right(thou in 9.0_f64..18.0, target in -20.0_f64..20.0, twelfth in 1.0_f64..3.0) {
        let string = speaking(thou, 220.0, 648.0, twelfth);
        let at = string.setback_for(12, Cents::new(target)).unwrap();
        prop_assert!((string.error(12, at).unwrap().value() - target).abs() < 1e-4);
    }
}
