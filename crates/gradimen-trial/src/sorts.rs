//! The instruments of the trial: guitars, basses, fans and baritones on every kind of bridge, and those that no screw
//! puts right. Every seed of a sort is another instrument.

use gradimen_bench::journal::{Event, Opened};
use gradimen_bench::model::defaults::{self, targets, usual_heights, usual_instrument};
use gradimen_bench::model::hardware::{Bridge, BridgeFamily, Lifts, VibratoKind, VibratoRecord};
use gradimen_bench::model::instrument::{Instrument, Kind, Rod};
use gradimen_bench::model::{
    Adjuster, BalanceSchool, Measurement, Observation, Player, Strung, Tolerances, Touch, Tuner,
    Tuning, Wanted,
};
use gradimen_sim::{Condition, Rng, SimulatedInstrument, Trap};

/// A sort of instrument.
#[derive(Debug, Clone, Copy)]
pub struct Sort {
    /// What the table calls it.
    pub name: &'static str,
    /// What it is.
    pub kind: Kind,
    /// How many strings.
    pub strings: u8,
    /// Scale of string 1 and of the last, in inches.
    pub scales: (f64, f64),
    /// Its bridge.
    pub family: BridgeFamily,
    /// How its vibrato is to rest.
    pub school: Option<BalanceSchool>,
    /// Whether its pickups are set.
    pub pickups: bool,
    /// What no screw puts right.
    pub trap: Option<Trap>,
}

const fn sort(
    name: &'static str,
    kind: Kind,
    strings: u8,
    scale: f64,
    family: BridgeFamily,
) -> Sort {
    Sort {
        name,
        kind,
        strings,
        scales: (scale, scale),
        family,
        school: None,
        pickups: false,
        trap: None,
    }
}

/// Those that can be set.
pub const SORTS: [Sort; 12] = [
    Sort {
        pickups: true,
        ..sort(
            "fixed plate",
            Kind::Guitar,
            6,
            25.5,
            BridgeFamily::FixedPlate,
        )
    },
    sort("two posts", Kind::Guitar, 6, 24.75, BridgeFamily::TwoPost),
    sort(
        "three barrels",
        Kind::Guitar,
        6,
        25.5,
        BridgeFamily::ThreeBarrel,
    ),
    sort(
        "baritone",
        Kind::Baritone,
        6,
        27.0,
        BridgeFamily::FixedPlate,
    ),
    Sort {
        scales: (25.5, 27.0),
        ..sort(
            "fan of seven",
            Kind::Guitar,
            7,
            25.5,
            BridgeFamily::FixedPlate,
        )
    },
    sort(
        "bass of four",
        Kind::Bass,
        4,
        34.0,
        BridgeFamily::BentPlateBass,
    ),
    Sort {
        scales: (34.0, 35.5),
        ..sort(
            "bass of five, fan",
            Kind::Bass,
            5,
            34.0,
            BridgeFamily::SingleStringBass,
        )
    },
    Sort {
        school: Some(BalanceSchool::Decked),
        ..sort(
            "decked",
            Kind::Guitar,
            6,
            25.5,
            BridgeFamily::KnifeEdgeVibrato,
        )
    },
    Sort {
        school: Some(BalanceSchool::SmallFloat),
        ..sort(
            "small float",
            Kind::Guitar,
            6,
            25.5,
            BridgeFamily::KnifeEdgeVibrato,
        )
    },
    Sort {
        school: Some(BalanceSchool::Level),
        ..sort(
            "level float on posts",
            Kind::Guitar,
            6,
            25.5,
            BridgeFamily::DoubleLocking,
        )
    },
    sort(
        "rocking tail",
        Kind::Guitar,
        6,
        25.5,
        BridgeFamily::RockingTail,
    ),
    sort("arm tail", Kind::Guitar, 6, 24.75, BridgeFamily::ArmTail),
];

/// Those that cannot.
pub const TRAPS: [Sort; 4] = [
    Sort {
        trap: Some(Trap::ForeignNeck(628.65)),
        ..sort(
            "foreign neck",
            Kind::Guitar,
            6,
            25.5,
            BridgeFamily::FixedPlate,
        )
    },
    Sort {
        trap: Some(Trap::Bridge(9.0)),
        ..sort(
            "bridge misplaced",
            Kind::Guitar,
            6,
            24.75,
            BridgeFamily::TwoPost,
        )
    },
    Sort {
        trap: Some(Trap::RodSpent),
        ..sort(
            "rod spent",
            Kind::Bass,
            4,
            34.0,
            BridgeFamily::BentPlateBass,
        )
    },
    Sort {
        trap: Some(Trap::Wound),
        ..sort(
            "wound neck",
            Kind::Guitar,
            6,
            25.5,
            BridgeFamily::FixedPlate,
        )
    },
];

/// Those that are practised on beside: their one bar cannot have every string right, so that no trial counts them.
pub const OTHERS: [Sort; 1] = [sort(
    "wooden bridge",
    Kind::Guitar,
    6,
    24.75,
    BridgeFamily::FloatingWooden,
)];

impl Sort {
    /// What is on record of it.
    pub fn record(&self) -> Instrument {
        let usual = usual_instrument(self.kind, self.strings);
        let (first, last) = self.scales;
        let between =
            |index: u8| first + (last - first) * f64::from(index) / f64::from(self.strings - 1);
        let inches = |value: f64| Measurement::mm((value * 254.0).round() / 10.0);
        let mut record = Instrument {
            name: "Dabchick".into(),
            scales: if first == last {
                vec![inches(first)]
            } else {
                (0..self.strings)
                    .map(|index| inches(between(index)))
                    .collect()
            },
            bridge: Bridge::profile(self.family, self.strings),
            ..usual
        };
        record.neck.rod = Rod::OneWay;
        if !self.pickups {
            record.pickups.clear();
        }
        if let (Some(BalanceSchool::SmallFloat), Some(sheet)) =
            (self.school, &mut record.bridge.vibrato)
        {
            sheet.level_gap = Measurement::mm(1.0);
        }
        record
    }

    /// How it comes, by chance.
    fn condition(&self, chance: &mut Rng) -> Condition {
        let mut comes = Condition::usual(chance, self.kind == Kind::Bass);
        comes.trap = self.trap;
        let sheet = self.record().bridge.vibrato;
        comes.gap_mm = match sheet.map(|sheet| sheet.kind) {
            Some(VibratoKind::TailSpring) => chance.between(5.0, 10.0),
            Some(VibratoKind::ArmSpring) => chance.between(7.0, 12.0),
            _ => comes.gap_mm,
        };
        match self.trap {
            Some(Trap::RodSpent) => comes.relief_mm = [0.75, 0.85],
            Some(Trap::Wound) => {
                comes.relief_mm = [chance.between(-0.2, -0.1), chance.between(0.35, 0.55)]
            }
            _ => {}
        }
        comes
    }

    /// An instrument of this sort, and how its job begins.
    pub fn hidden(&self, seed: u64) -> Option<(SimulatedInstrument, Vec<Event>)> {
        let record = self.record();
        let preset = defaults::tunings(self.kind, self.strings)
            .into_iter()
            .next()?;
        let set = defaults::sets(self.kind, self.strings).into_iter().next()?;
        let strung = Strung {
            set: set.strings,
            tuning: Tuning::of(preset.name, 440.0, &preset.pitches),
        };
        // A claw that nothing brings there is another instrument.
        let own = self
            .name
            .bytes()
            .fold(seed, |sum, byte| sum.wrapping_mul(31) + u64::from(byte));
        let (record, made) = (0..40).find_map(|more| {
            let mut chance = Rng::new(own.wrapping_mul(1000) + more);
            let comes = self.condition(&mut chance);
            let mut record = record.clone();
            if let Some(sheet) = &mut record.bridge.vibrato {
                measure(sheet, &mut chance);
            }
            let seed = own.wrapping_mul(7919) + more;
            let made = SimulatedInstrument::hidden(&record, &strung, &comes, seed)?;
            Some((record, made))
        })?;
        let player = Player {
            touch: Touch::Medium,
            style: "any".into(),
        };
        let mut wanted = targets(&record, player.touch);
        wanted.tolerances = Tolerances {
            intonation_cents: Some(1.0),
            ..Tolerances::default()
        };
        let mut opening = vec![
            Event::Opened(Box::new(Opened {
                heights: usual_heights(&record),
                instrument: record,
                instrument_version: 1,
                purpose: "trial".into(),
                player,
                strung,
                arrived: None,
                old_strings: false,
                taught: Vec::new(),
                last_time: None,
                practice: None,
            })),
            Event::Targeted {
                wanted: Wanted::Setup { targets: wanted },
            },
            Event::Observed {
                what: Observation::Tuner {
                    tuner: Tuner {
                        name: "strobe".into(),
                        resolution_cents: 0.1,
                    },
                },
            },
        ];
        opening.extend(self.school.map(|school| Event::Targeted {
            wanted: Wanted::Balance { school },
        }));
        Some((made, opening))
    }

    /// How many screws its targets put in play.
    pub fn screws(&self) -> u32 {
        self.screws_by_group().iter().sum()
    }

    /// The same for each of [`GROUPS`].
    pub fn screws_by_group(&self) -> [u32; GROUPS.len()] {
        let record = self.record();
        let strings = u32::from(self.strings);
        let barrels = record.bridge.saddles.iter().any(|on| on.len() > 1);
        let heights = match record.bridge.lifts() {
            Lifts::TwoPosts => 2,
            Lifts::EachString if barrels => strings,
            Lifts::EachString => 2 * strings,
            Lifts::Both => 2 + 2 * strings,
            Lifts::Nothing => 0,
        };
        let vibrato = record.bridge.vibrato.map_or(0, |sheet| match sheet.kind {
            VibratoKind::BodySprings => 2,
            VibratoKind::TailSpring | VibratoKind::ArmSpring => 1,
        });
        let drives = record.bridge.saddles.len() as u32;
        let pickups = 2 * record.pickups.len() as u32;
        [1, vibrato, heights, drives, pickups]
    }
}

/// A sheet as its technician measured it, with a rule in half millimetres: no two plates are alike.
fn measure(sheet: &mut VibratoRecord, chance: &mut Rng) {
    let near = |value: &mut Measurement, least: f64, most: f64, chance: &mut Rng| {
        let by = chance.between(least, most);
        // Never the typical value itself: that is what nobody measured.
        let read = ((value.middle().mm() + by) * 2.0).round() / 2.0 + 0.01;
        *value = Measurement::mm(read);
    };
    if sheet.kind == VibratoKind::BodySprings {
        near(&mut sheet.crown_back, -4.0, 3.0, chance);
        near(&mut sheet.hook_down, -4.0, 4.0, chance);
        near(&mut sheet.spring_length, -8.0, 8.0, chance);
        near(&mut sheet.tail_back, -4.0, 6.0, chance);
    } else {
        near(&mut sheet.hook_down, -2.0, 2.0, chance);
        near(&mut sheet.spring_length, -2.0, 2.0, chance);
        near(&mut sheet.tail_back, -4.0, 6.0, chance);
    }
    near(&mut sheet.crown_up, -0.5, 0.5, chance);
}

/// What screws there are, as a table lists them.
pub const GROUPS: [&str; 5] = ["rod", "claw or seat", "heights", "saddles", "pickups"];

/// Which of [`GROUPS`] an adjuster is of; nothing for what is no screw.
pub const fn group_of(adjuster: Adjuster) -> Option<usize> {
    Some(match adjuster {
        Adjuster::TrussRod => 0,
        Adjuster::Claw | Adjuster::Seat => 1,
        Adjuster::SaddleHeight { .. } | Adjuster::Post { .. } => 2,
        Adjuster::SaddleDrive { .. } | Adjuster::Bar => 3,
        Adjuster::PickupScrew { .. } | Adjuster::PolePiece { .. } => 4,
        Adjuster::NutSlots { .. }
        | Adjuster::Springs
        | Adjuster::Bridge
        | Adjuster::Pocket { .. } => return None,
    })
}

/// How many screws one visit to an adjuster turns.
pub fn screws_of(adjuster: Adjuster, instrument: &Instrument) -> u32 {
    match adjuster {
        Adjuster::SaddleHeight { string } => {
            let on = instrument
                .bridge
                .saddles
                .iter()
                .find(|on| on.contains(&string));
            if on.is_some_and(|on| on.len() > 1) {
                1
            } else {
                2
            }
        }
        Adjuster::Claw => 2,
        _ => 1,
    }
}
