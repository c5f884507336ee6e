//! The target sets that a shop begins with.

use gradimen_core::quantity::Length;
use gradimen_core::units::LengthUnit;

use super::targets;
use crate::model::instrument::Kind;
use crate::model::measurement::Measurement;
use crate::model::player::Touch;
use crate::model::shop::HouseSpec;

/// What a shop begins with (common practice): the trade's own sets by name.
pub fn house_specs() -> Vec<HouseSpec> {
    let thou = |value: f64| Measurement::exact(Length::from_thou(value), LengthUnit::Thou);
    let mm = Measurement::mm;
    let part = |written: &str, inches: f64| {
        let height = Length::from_inches(inches);
        Measurement::new(written.to_owned(), height, height)
    };
    let sixty_fourths = |count: f64| part(&format!("{count}/64"), count / 64.0);
    let usual = |name: &str, kind: Kind, touch: Touch| {
        let instrument = super::most_usual(kind);
        HouseSpec::of(name, &instrument, touch, &targets(&instrument, touch))
    };
    let guitar = |name: &str, touch: Touch, treble: Measurement, bass: Measurement| HouseSpec {
        action_treble: treble,
        action_bass: bass,
        ..usual(name, Kind::Guitar, touch)
    };
    let at = |fret: u8, spec: HouseSpec| HouseSpec {
        action_fret: fret,
        ..spec
    };
    vec![
        usual("general electric", Kind::Guitar, Touch::Medium),
        guitar(
            "low electric",
            Touch::Light,
            part(".050\"", 0.050),
            part(".050\"", 0.050),
        ),
        guitar("medium-low electric", Touch::Medium, mm(1.6), mm(1.95)),
        at(
            17,
            guitar(
                "9.5 in radius, at 17",
                Touch::Medium,
                sixty_fourths(3.0),
                sixty_fourths(4.0),
            ),
        ),
        HouseSpec {
            relief: thou(4.0),
            ..guitar(
                "flat-out low",
                Touch::Light,
                sixty_fourths(3.0),
                sixty_fourths(3.0),
            )
        },
        usual("hard touch", Kind::Guitar, Touch::Hard),
        guitar(
            "drop-tuned, .013s",
            Touch::Hard,
            part("3.5/32", 3.5 / 32.0),
            part("4/32", 4.0 / 32.0),
        ),
        usual("baritone", Kind::Baritone, Touch::Medium),
        usual("bass", Kind::Bass, Touch::Medium),
        usual("bass, light touch", Kind::Bass, Touch::Light),
        usual("bass, hard touch", Kind::Bass, Touch::Hard),
    ]
}
