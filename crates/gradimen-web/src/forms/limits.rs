//! What each field of length takes: its usual unit and what cannot be right. One place for all forms.

use gradimen_core::units::LengthField;
use gradimen_core::units::LengthUnit::{Inch, Millimetre, Thou};

pub(crate) const SCALE: LengthField = LengthField::mm("a scale", Inch, 400.0, 1000.0);
pub(crate) const RADIUS: LengthField = LengthField::mm("a board radius", Inch, 100.0, 3000.0);
pub(crate) const SPREAD: LengthField = LengthField::mm("a string spread", Millimetre, 15.0, 180.0);
pub(crate) const THREAD: LengthField = LengthField::mm("a thread pitch", Millimetre, 0.2, 2.0);
pub(crate) const TRAVEL_END: LengthField =
    LengthField::mm("an end of the saddle travel", Millimetre, -30.0, 60.0);
pub(crate) const TURN_ROUND: LengthField =
    LengthField::mm("the gain of turning a saddle round", Millimetre, 0.0, 10.0);
pub(crate) const HEIGHT_TRAVEL: LengthField =
    LengthField::mm("the travel of a height screw", Millimetre, 0.0, 30.0);
pub(crate) const BEHIND_SADDLE: LengthField =
    LengthField::mm("string behind the saddle", Millimetre, 0.0, 400.0);
pub(crate) const GAUGE: LengthField = LengthField::mm("a gauge", Thou, 0.1, 4.5);
pub(crate) const CORE: LengthField = LengthField::mm("a core diameter", Thou, 0.1, 2.0);
pub(crate) const CUT_OFF: LengthField =
    LengthField::mm("a piece of string", Millimetre, 10.0, 1500.0);
pub(crate) const FIRST_FRET: LengthField = LengthField::mm("clearance over fret 1", Thou, 0.0, 3.0);
pub(crate) const TWELFTH: LengthField = LengthField::mm("action at fret 12", Millimetre, 0.2, 8.0);
pub(crate) const POCKET: LengthField = LengthField::mm("a neck pocket", Millimetre, 30.0, 200.0);
pub(crate) const RELIEF: LengthField = LengthField::mm("relief", Thou, 0.0, 3.0);
pub(crate) const GAP: LengthField = LengthField::mm("a gap over fret 1", Thou, 0.0, 3.0);
pub(crate) const ACTION: LengthField =
    LengthField::mm("the height of a string", Millimetre, 0.2, 8.0);
pub(crate) const NUT_MOVE: LengthField = LengthField::mm("a move of the nut", Thou, -2.0, 2.0);
pub(crate) const SHIM: LengthField =
    LengthField::mm("the thickness of a shim", Millimetre, 0.05, 4.0);
pub(crate) const PICKUP_PLACE: LengthField =
    LengthField::mm("a pickup before the scale line", Millimetre, 5.0, 400.0);
pub(crate) const VIBRATO_GAP: LengthField =
    LengthField::mm("the gap under the vibrato", Millimetre, 0.0, 15.0);
pub(crate) const SPRING_LENGTH: LengthField =
    LengthField::mm("the length of a spring", Millimetre, 5.0, 150.0);
pub(crate) const CLAW_END: LengthField =
    LengthField::mm("the claw before its wall", Millimetre, 0.0, 40.0);
pub(crate) const PICKUP_GAP: LengthField =
    LengthField::mm("the gap of a pickup", Millimetre, 0.3, 10.0);
pub(crate) const NUT_TO_TWELFTH: LengthField =
    LengthField::mm("nut to fret 12", Millimetre, 200.0, 500.0);
pub(crate) const TWELFTH_TO_SADDLE: LengthField =
    LengthField::mm("fret 12 to saddle", Millimetre, 190.0, 530.0);
pub(crate) const ROOM: LengthField = LengthField::mm("room behind a saddle", Millimetre, 0.0, 40.0);
pub(crate) const BRIDGE_MOVE: LengthField =
    LengthField::mm("a move of the bridge", Millimetre, -30.0, 30.0);

/// The limits of a field by the name forms use for it, for what a field shows back while typing.
pub(crate) fn by_name(name: &str) -> Option<&'static LengthField> {
    const NAMES: [(&str, &LengthField); 28] = [
        ("vibrato_part", &super::instrument::vibrato::PART),
        ("spring_length", &SPRING_LENGTH),
        ("claw_end", &CLAW_END),
        ("vibrato_gap", &VIBRATO_GAP),
        ("pickup_gap", &PICKUP_GAP),
        ("pocket", &POCKET),
        ("relief", &RELIEF),
        ("gap", &GAP),
        ("action", &ACTION),
        ("nut_move", &NUT_MOVE),
        ("shim", &SHIM),
        ("scale", &SCALE),
        ("radius", &RADIUS),
        ("spread", &SPREAD),
        ("thread", &THREAD),
        ("travel_end", &TRAVEL_END),
        ("turn_round", &TURN_ROUND),
        ("height_travel", &HEIGHT_TRAVEL),
        ("behind_saddle", &BEHIND_SADDLE),
        ("gauge", &GAUGE),
        ("core", &CORE),
        ("cut_off", &CUT_OFF),
        ("first_fret", &FIRST_FRET),
        ("twelfth", &TWELFTH),
        ("nut_to_twelfth", &NUT_TO_TWELFTH),
        ("twelfth_to_saddle", &TWELFTH_TO_SADDLE),
        ("room", &ROOM),
        ("bridge_move", &BRIDGE_MOVE),
    ];
    NAMES
        .iter()
        .find(|(known, _)| *known == name)
        .map(|(_, limits)| *limits)
}
