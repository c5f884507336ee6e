//! The instruments of the library.

use crate::vocabulary::*;

/// A bird of the library, and how far its job has come.
pub(super) struct Bird {
    pub(super) number: &'static str,
    pub(super) name: &'static str,
    pub(super) kind: Kind,
    pub(super) strings: u8,
    pub(super) scales: &'static [&'static str],
    pub(super) frets: u8,
    pub(super) family: BridgeFamily,
    pub(super) left_handed: bool,
    pub(super) purpose: &'static str,
    pub(super) touch: Touch,
    pub(super) style: &'static str,
    pub(super) set: usize,
    pub(super) tuning: usize,
    pub(super) days_ago: i64,
    pub(super) stage: Stage,
    /// How far the plan was followed.
    pub(super) until: Until,
}

/// How far a job has come.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Until {
    /// Not begun.
    Nothing,
    /// So many steps into a station.
    At(StationId, usize),
    /// So many steps into a station, and then to where it asks for a turn.
    Turn(StationId, usize),
    /// Nothing is left to do.
    Done,
}

pub(super) const BIRDS: [Bird; 13] = [
    bird(
        "27",
        "Heron",
        Kind::Guitar,
        &["25.5 in"],
        BridgeFamily::KnifeEdgeVibrato,
        "before loan",
        Stage::OnBench,
        Until::At(StationId::Intonation, 0),
    ),
    Bird {
        touch: Touch::Light,
        style: "school big band, chords",
        ..bird(
            "9",
            "Wren",
            Kind::Guitar,
            &["24.75 in"],
            BridgeFamily::TwoPost,
            "buzz reported on string 4",
            Stage::Waiting,
            Until::Turn(StationId::Relief, 1),
        )
    },
    Bird {
        style: "evening class, fingers",
        ..bird(
            "14",
            "Bittern",
            Kind::Bass,
            &["34 in"],
            BridgeFamily::BentPlateBass,
            "after loan, new strings",
            Stage::Resting,
            Until::At(StationId::Nut, 5),
        )
    },
    Bird {
        touch: Touch::Hard,
        style: "country picker",
        ..bird(
            "31",
            "Dunlin",
            Kind::Guitar,
            &["25.5 in"],
            BridgeFamily::ThreeBarrel,
            "yearly check",
            Stage::OnBench,
            Until::At(StationId::Intonation, 2),
        )
    },
    Bird {
        frets: 24,
        style: "film scores, slow lines",
        ..bird(
            "40",
            "Curlew",
            Kind::Baritone,
            &["27 in"],
            BridgeFamily::FixedPlate,
            "strung for low B",
            Stage::Ready,
            Until::Done,
        )
    },
    Bird {
        left_handed: true,
        touch: Touch::Light,
        style: "surf trio, left-handed",
        ..bird(
            "12",
            "Siskin",
            Kind::Guitar,
            &["25.5 in"],
            BridgeFamily::RockingTail,
            "neck replaced by a borrower",
            Stage::OnBench,
            Until::Nothing,
        )
    },
    Bird {
        strings: 7,
        frets: 24,
        set: 2,
        tuning: 1,
        touch: Touch::Hard,
        style: "heavy riffs, half a step down",
        ..bird(
            "52",
            "Osprey",
            Kind::Guitar,
            &[
                "25.5 in", "25.7 in", "25.9 in", "26.1 in", "26.4 in", "26.7 in", "27 in",
            ],
            BridgeFamily::FixedPlate,
            "before loan, new tuning",
            Stage::Waiting,
            Until::At(StationId::Action, 9),
        )
    },
    Bird {
        strings: 5,
        frets: 22,
        days_ago: 40,
        style: "church band",
        ..bird(
            "18",
            "Plover",
            Kind::Bass,
            &["34 in"],
            BridgeFamily::SingleStringBass,
            "before loan",
            Stage::Returned,
            Until::Done,
        )
    },
    Bird {
        style: "school band",
        ..bird(
            "22",
            "Knot",
            Kind::Guitar,
            &["25.5 in"],
            BridgeFamily::FixedPlate,
            "stored in a cellar, buzzes on one side",
            Stage::OnBench,
            Until::At(StationId::Relief, 3),
        )
    },
    Bird {
        style: "jazz trio, comping",
        ..bird(
            "35",
            "Avocet",
            Kind::Guitar,
            &["25.5 in"],
            BridgeFamily::FixedPlate,
            "pickups uneven since the last strings",
            Stage::OnBench,
            Until::Turn(StationId::Pickups, 3),
        )
    },
    Bird {
        set: 1,
        style: "function band, bends",
        ..bird(
            "44",
            "Lapwing",
            Kind::Guitar,
            &["25.5 in"],
            BridgeFamily::KnifeEdgeVibrato,
            "vibrato sits high since the last loan",
            Stage::OnBench,
            Until::At(StationId::Balance, 1),
        )
    },
    Bird {
        touch: Touch::Light,
        style: "swing, slow dives",
        ..bird(
            "47",
            "Stonechat",
            Kind::Guitar,
            &["25.5 in"],
            BridgeFamily::RockingTail,
            "arm hangs low since new strings",
            Stage::OnBench,
            Until::At(StationId::Balance, 1),
        )
    },
    Bird {
        set: 1,
        frets: 24,
        style: "fast leads, deep dives",
        ..bird(
            "58",
            "Gannet",
            Kind::Guitar,
            &["25.5 in"],
            BridgeFamily::DoubleLocking,
            "out of tune high up since it was restrung",
            Stage::OnBench,
            Until::Turn(StationId::Intonation, 1),
        )
    },
];

/// A bird with what most of them have.
#[allow(clippy::too_many_arguments)]
const fn bird(
    number: &'static str,
    name: &'static str,
    kind: Kind,
    scales: &'static [&'static str],
    family: BridgeFamily,
    purpose: &'static str,
    stage: Stage,
    until: Until,
) -> Bird {
    let (strings, frets) = match kind {
        Kind::Bass => (4, 20),
        Kind::Guitar | Kind::Baritone => (6, 22),
    };
    Bird {
        number,
        name,
        kind,
        strings,
        scales,
        frets,
        family,
        left_handed: false,
        purpose,
        touch: Touch::Medium,
        style: "dance band",
        set: 0,
        tuning: 0,
        days_ago: 1,
        stage,
        until,
    }
}
