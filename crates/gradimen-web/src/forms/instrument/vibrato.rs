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

/// How to measure each of them with a rule.
const fn labels(kind: VibratoKind) -> [&'static str; 8] {
    match kind {
        VibratoKind::BodySprings => [
            "Saddle crown behind the edge",
            "Saddle crown above the edge",
            "Spring hooks below the edge",
            "Block hooks to claw hooks",
            "Tail of the plate behind the edge",
            "Gap under the tail, plate level",
            "A spring off its hooks",
            "Claw screw, a turn",
        ],
        VibratoKind::TailSpring => [
            "Strings hold on behind the pivot",
            "Strings hold on above the pivot",
            "Spring before the pivot",
            "Spring from seat to seat, bar level",
            "Gap is read before the pivot",
            "Gap under the bar, level",
            "The spring by itself",
            "Spring screw, a turn",
        ],
        VibratoKind::ArmSpring => [
            "Strings leave the bar behind its axle",
            "Strings leave the bar above its axle",
            "Spring before the axle",
            "Spring from seat to seat, arm level",
            "Gap is read before the axle",
            "Gap under the arm, level",
            "The spring by itself",
            "A washer is thick",
        ],
    }
}

/// The sheet as the form shows it.
pub(crate) struct Sheet {
    /// What it is measured from.
    pub(crate) heading: &'static str,
    /// Names and labels of its lengths.
    pub(crate) lengths: Vec<(&'static str, &'static str)>,
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
        lengths: NAMES.into_iter().zip(labels(kind)).collect(),
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
