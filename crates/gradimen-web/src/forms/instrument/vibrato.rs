//! The geometry sheet of a vibrato.

use crate::vocabulary::*;
use gradimen_core::quantity::Rate;
use gradimen_core::units::{parse_rate, print};

use crate::forms::Fields;

/// The names of the lengths of the sheet.
const NAMES: [&str; 8] = [
    "crown_back",
    "crown_up",
    "hook_down",
    "spring_length",
    "tail_back",
    "level_gap",
    "spring_free",
    "claw_pitch",
];

/// What each of them is called, and how it is measured with a rule, with what is typical (common practice).
const fn labels(kind: VibratoKind) -> [(&'static str, &'static str); 8] {
    match kind {
        VibratoKind::BodySprings => [
            (
                "Break points behind the edge",
                "along the plate to where strings bend over their saddles; 10-14 mm, more on double-locking",
            ),
            (
                "Break points above the edge",
                "rule upright beside a middle saddle; 10-11 mm",
            ),
            (
                "Spring hooks below the edge",
                "down the block to its holes; 38-45 mm",
            ),
            (
                "Block hooks to claw hooks",
                "at pitch, along a spring, hook to hook",
            ),
            (
                "Back of the plate behind the edge",
                "where the gap is read; about 30 mm",
            ),
            (
                "Gap at the back, plate level",
                "block it parallel to the body and read; 0 where it lies flat then",
            ),
            (
                "Spring length, unhooked",
                "one spring by itself, hook to hook; about 55 mm",
            ),
            (
                "Claw screws, a turn",
                "count ten turns and measure; coarse wood screws, 1.7-2.0 mm",
            ),
        ],
        VibratoKind::TailSpring => [
            (
                "Strings hold on behind the pivot",
                "from the pivot to the anchors, bar level",
            ),
            (
                "Strings hold on above the pivot",
                "rule upright at the anchors",
            ),
            ("Spring before the pivot", "its middle from the pivot"),
            (
                "Spring from seat to seat, bar level",
                "at pitch, with the bar level",
            ),
            ("Gap is read before the pivot", "under the bar; about 30 mm"),
            ("Gap under the bar, level", "at pitch, with the bar level"),
            ("Spring length, taken out", "the spring by itself"),
            (
                "Spring screw, a turn",
                "count ten turns and measure; about 1 mm",
            ),
        ],
        VibratoKind::ArmSpring => [
            (
                "Strings leave the bar behind its axle",
                "from the axle, arm level",
            ),
            (
                "Strings leave the bar above its axle",
                "rule upright at the bar",
            ),
            ("Spring before the axle", "its middle from the axle"),
            (
                "Spring from seat to seat, arm level",
                "at pitch, with the arm level",
            ),
            ("Gap is read before the axle", "under the arm; about 30 mm"),
            ("Gap under the arm, level", "at pitch, with the arm level"),
            ("Spring length, taken out", "the spring by itself"),
            ("A washer is thick", "a pile of ten, measured; about 0.5 mm"),
        ],
    }
}

/// The sheet as the form shows it.
pub(crate) struct Sheet {
    /// What it is measured from.
    pub(crate) heading: &'static str,
    /// Names and labels of its lengths, and how each is measured.
    pub(crate) lengths: Vec<(&'static str, &'static str, &'static str)>,
    /// Whether springs hang on a claw: several, parallel or converging, with coils that part.
    pub(crate) claw: bool,
}

/// The sheet of a family; for families without a vibrato the usual one, which is not shown.
pub(crate) fn sheet(family: &str) -> Sheet {
    let kind = BridgeFamily::from_key(family)
        .and_then(VibratoKind::of)
        .unwrap_or_default();
    Sheet {
        heading: match kind {
            VibratoKind::BodySprings => "The vibrato: with a rule from the knife edge, plate level",
            VibratoKind::TailSpring => "The tail: with a rule from its pivot, bar level",
            VibratoKind::ArmSpring => "The arm: with a rule from the axle of its bar, arm level",
        },
        lengths: NAMES
            .into_iter()
            .zip(labels(kind))
            .map(|(name, (label, how))| (name, label, how))
            .collect(),
        claw: kind == VibratoKind::BodySprings,
    }
}

/// Shows the sheet; nothing for bridges without one.
pub(super) fn fill(fields: &mut Fields, bridge: &Bridge) {
    let Some(sheet) = &bridge.vibrato else {
        fields.set("springs", "");
        return;
    };
    for (name, value) in NAMES.into_iter().zip([
        &sheet.crown_back,
        &sheet.crown_up,
        &sheet.hook_down,
        &sheet.spring_length,
        &sheet.tail_back,
        &sheet.level_gap,
        &sheet.spring_free,
        &sheet.claw_pitch,
    ]) {
        fields.set(name, value.written.clone());
    }
    fields.set("springs", sheet.springs.to_string());
    fields.set("rate", format!("{} N/m", sheet.rate_newtons_per_metre));
    fields.set("preload", sheet.preload_newtons.to_string());
    if sheet.converging {
        fields.set("converging", "on");
    }
}

/// Reads the sheet back: nothing where no springs are named or the family has none.
pub(super) fn read(
    fields: &mut Fields,
    family: Option<BridgeFamily>,
) -> Option<Option<VibratoRecord>> {
    let Some(kind) = family.and_then(VibratoKind::of) else {
        return Some(None);
    };
    if fields.text("springs").is_empty() {
        return Some(None);
    }
    let claw = kind == VibratoKind::BodySprings;
    let springs = if claw {
        fields.number("springs", "a number of springs", 1, 5)
    } else {
        fields.number("springs", "one spring", 1, 1)
    };
    let parts = NAMES.map(|name| -> Option<Measurement> {
        fields.exact(
            name,
            if name == "claw_pitch" {
                &limits::CLAW_PITCH
            } else {
                &limits::VIBRATO_PART
            },
        )
    });
    let read = parse_rate(fields.text("rate"));
    let rate = fields.keep("rate", read).map(Rate::newtons_per_metre);
    let preload = if claw {
        number(fields, "preload", "newtons", 0.0, 60.0)
    } else {
        Some(0.0)
    };
    let [
        crown_back,
        crown_up,
        hook_down,
        spring_length,
        tail_back,
        level_gap,
        spring_free,
        claw_pitch,
    ] = parts;
    Some(Some(VibratoRecord {
        kind,
        crown_back: crown_back?,
        crown_up: crown_up?,
        hook_down: hook_down?,
        spring_length: spring_length?,
        tail_back: tail_back?,
        level_gap: level_gap?,
        springs: springs?,
        converging: claw && fields.ticked("converging"),
        rate_newtons_per_metre: rate.map(rounded)?,
        spring_free: spring_free?,
        preload_newtons: preload?,
        claw_pitch: claw_pitch?,
    }))
}

/// To a tenth of a newton a metre: what was hung or wound is known no better.
fn rounded(rate: f64) -> f64 {
    (rate * 10.0).round() / 10.0
}

/// What a rate was understood as.
pub(crate) fn understood(typed: &str) -> String {
    parse_rate(typed).map_or_else(|error| error.to_string(), print::rate)
}

fn number(fields: &mut Fields, name: &str, unit: &str, low: f64, high: f64) -> Option<f64> {
    let text = fields.text(name).replace(',', ".");
    let read = text
        .parse::<f64>()
        .ok()
        .filter(|value| (low..=high).contains(value))
        .ok_or(format!("read '{text}', expected {low} to {high} {unit}"));
    fields.keep(name, read)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn filled(family: BridgeFamily) -> Fields {
        let mut fields = Fields::default();
        fill(&mut fields, &Bridge::profile(family, 6));
        fields
    }

    #[test]
    fn a_sheet_reads_back_and_a_fixed_bridge_has_none() {
        for family in [
            BridgeFamily::KnifeEdgeVibrato,
            BridgeFamily::DoubleLocking,
            BridgeFamily::RockingTail,
            BridgeFamily::ArmTail,
        ] {
            let sheet = Bridge::profile(family, 6).vibrato;
            assert!(sheet.is_some());
            assert_eq!(read(&mut filled(family), Some(family)), Some(sheet));
        }
        let fixed = BridgeFamily::FixedPlate;
        assert_eq!(read(&mut filled(fixed), Some(fixed)), Some(None));
    }

    #[test]
    fn a_spring_may_be_hung_or_wound() {
        let family = BridgeFamily::KnifeEdgeVibrato;
        let mut fields = filled(family);
        fields.set("rate", "500 g 4.1 mm");
        let sheet = read(&mut fields, Some(family)).flatten().unwrap();
        // 0.5 kg times 9.80665 over 4.1 mm.
        assert!((sheet.rate_newtons_per_metre - 1195.9).abs() < 0.1);
        assert_eq!(understood("500 g 4.1 mm"), "1196 N/m (6.8 lbf/in)");
        assert!(understood("soft").contains("is not understood"));
    }

    #[test]
    fn nonsense_is_marked_in_its_field() {
        let family = BridgeFamily::KnifeEdgeVibrato;
        for (name, wrong) in [
            ("springs", "9"),
            ("rate", "soft"),
            ("preload", "-4"),
            ("hook_down", "40 cm"),
            ("claw_pitch", "fine"),
        ] {
            let mut fields = filled(family);
            fields.set(name, wrong);
            assert_eq!(read(&mut fields, Some(family)), None, "{name}");
            assert!(!fields.field(name).error.is_empty(), "{name}");
        }
    }
}
