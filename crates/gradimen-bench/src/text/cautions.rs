//! The usual cautions, in one place: what can hurt hands, eyes or the instrument at a step, by the hardware in hand (common
//! practice). Where something is cracked, stripped or seized they defer to a specialist.
//!
//! ```
//! use gradimen_bench::model::defaults::usual_instrument;
//! use gradimen_bench::model::instrument::Kind;
//! use gradimen_bench::text::cautions;
//!
//! let guitar = usual_instrument(Kind::Guitar, 6);
//! assert!(cautions::action(&guitar).contains("Slacken"));
//! assert!(cautions::NUT.contains("Tape over the pickups"));
//! ```

use crate::model::Adjuster;
use crate::model::hardware::{BridgeFamily, Lifts, VibratoKind};
use crate::model::instrument::Instrument;

/// At the truss rod.
pub const ROD: &str = "Tuned to pitch, in playing position, before every reading. Right key, fully seated. Back off a little first if it is stiff, end on a tightening turn. Never force a truss rod: a broken one can cost the neck.";
/// At the nut.
pub const NUT: &str = "A slot filed too deep cannot be put back. Small strokes, the file falling toward the tuners, and measure again. Glasses on. Tape over the pickups: filings are drawn to their magnets and stay; sweep them up, never blow.";
/// At the pickups.
pub const PICKUPS: &str = "Hold the string down at the last fret. Bridge nearer than neck, treble nearer than bass. Tape over a pickup whose screws a driver can slip off. Do not force a screw whose foam or spring is fully squeezed: covers crack. Solder only unplugged, glasses on, the room aired; an amplifier on the mains stays closed, a qualified technician opens it.";

/// Before a claw is tightened.
pub const CLAW: &str = "First slacken the strings a little: at pitch the claw pulls every string sharp by a semitone or two, and a thin one may break.";

/// Whether its edges stand on posts, under the load of strings and springs.
fn on_knife_edges(instrument: &Instrument) -> bool {
    let vibrato = instrument.bridge.vibrato.as_ref();
    vibrato.is_some_and(|record| record.kind == VibratoKind::BodySprings)
}

/// Before a set comes off, and while one goes on.
pub fn strings(instrument: &Instrument) -> String {
    let more = match instrument.bridge.family {
        _ if on_knife_edges(instrument) => {
            " One string at a time on a float, or block the plate first: with all off, the springs pull it down onto the body and throw the posts' edges."
        }
        BridgeFamily::TwoPost | BridgeFamily::ArmTail => {
            " One string at a time, or a hand on bridge and tailpiece: with all off, both fall and mark the top."
        }
        BridgeFamily::FloatingWooden => {
            " One string at a time: only the strings hold this bridge. Mark where its feet stand."
        }
        BridgeFamily::RockingTail => {
            " One string at a time keeps the rocking bridge upright in its cups."
        }
        BridgeFamily::ThreeBarrel
        | BridgeFamily::FixedPlate
        | BridgeFamily::BentPlateBass
        | BridgeFamily::SingleStringBass
        | BridgeFamily::KnifeEdgeVibrato
        | BridgeFamily::DoubleLocking => "",
    };
    let lock = if instrument.locking_nut {
        " Unlock the nut first."
    } else {
        ""
    };
    format!(
        "Slacken before cutting, and protect the eyes: a string that lets go at full tension can hit them.{lock}{more} Stretch, then tune up to pitch."
    )
}

/// At the height screws.
pub fn action(instrument: &Instrument) -> String {
    let bridge = &instrument.bridge;
    let turned = match bridge.lifts() {
        Lifts::TwoPosts => "Slacken the strings before a post goes up. A quarter turn is a lot.",
        Lifts::Both => {
            "Slacken before raising, posts first, then both screws of a saddle alike and both bearing. A quarter turn is a lot."
        }
        Lifts::EachString => {
            "Slacken the string before raising, both screws of a saddle alike and both bearing. A quarter turn is a lot."
        }
        Lifts::Nothing => "A saddle that was cut too low cannot be put back.",
    };
    let rollers = if bridge.details.rollers {
        " See that every roller turns freely."
    } else {
        ""
    };
    format!(
        "{turned} Retune before measuring.{rollers} Tape over the pickups where filings or a slipping driver could reach them. A screw that is seized or stripped goes to a specialist."
    )
}

/// What has to be done before this adjuster is turned, or harm comes of it: said in the step itself.
pub fn before(instrument: &Instrument, adjuster: Adjuster) -> Option<&'static str> {
    match adjuster {
        Adjuster::Post { .. } if on_knife_edges(instrument) => Some(
            "First slacken all strings and block the plate: a knife edge is never turned on its post under load, it cuts both.",
        ),
        Adjuster::Post { .. } => match instrument.bridge.family {
            BridgeFamily::TwoPost | BridgeFamily::ArmTail => Some(
                "First slacken the strings, a hand on bridge and tailpiece: slack, both fall off their posts.",
            ),
            BridgeFamily::FloatingWooden => Some(
                "Slacken the strings only until the wheel turns: they alone hold this bridge in its place.",
            ),
            _ => Some("First slacken the strings: a post is not turned under load."),
        },
        _ => None,
    }
}
