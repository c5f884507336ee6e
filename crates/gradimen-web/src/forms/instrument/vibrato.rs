//! The geometry sheet of a vibrato with springs in the body.

use gradimen_bench::hardware::{Bridge, BridgeFamily, VibratoRecord};
use gradimen_bench::record::Measured;
use gradimen_core::units::{LengthField, LengthUnit};

use crate::forms::Fields;

const PART: LengthField =
    LengthField::mm("a part of the vibrato", LengthUnit::Millimetre, 0.0, 150.0);

/// The lengths of the sheet: field, how to measure it with a rule.
pub(crate) const LENGTHS: [(&str, &str); 8] = [
    ("crown_back", "Saddle crown behind the edge"),
    ("crown_up", "Saddle crown above the edge"),
    ("hook_down", "Spring hooks below the edge"),
    ("spring_length", "Block hooks to claw hooks"),
    ("tail_back", "Tail of the plate behind the edge"),
    ("level_gap", "Gap under the tail, plate level"),
    ("spring_free", "A spring off its hooks"),
    ("claw_pitch", "Claw screw, a turn"),
];

/// Shows the sheet; nothing for bridges without one.
pub(super) fn fill(fields: &mut Fields, bridge: &Bridge) {
    let Some(sheet) = &bridge.vibrato else {
        fields.set("springs", "");
        return;
    };
    for ((name, _), value) in LENGTHS.iter().zip([
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
    fields.set("rate", sheet.rate_newtons_per_metre.to_string());
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
    let has = matches!(
        family,
        Some(BridgeFamily::KnifeEdgeVibrato | BridgeFamily::DoubleLocking)
    );
    if !has || fields.text("springs").is_empty() {
        return Some(None);
    }
    let springs = fields.number("springs", "a number of springs", 1, 5);
    let mut part = |name: &str| -> Option<Measured> { fields.exact(name, &PART) };
    let parts = LENGTHS.map(|(name, _)| part(name));
    let rate = number(fields, "rate", "newtons per metre", 100.0, 10_000.0);
    let preload = number(fields, "preload", "newtons", 0.0, 60.0);
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
        crown_back: crown_back?,
        crown_up: crown_up?,
        hook_down: hook_down?,
        spring_length: spring_length?,
        tail_back: tail_back?,
        level_gap: level_gap?,
        springs: springs?,
        converging: fields.ticked("converging"),
        rate_newtons_per_metre: rate?,
        spring_free: spring_free?,
        preload_newtons: preload?,
        claw_pitch: claw_pitch?,
    }))
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
        for family in [BridgeFamily::KnifeEdgeVibrato, BridgeFamily::DoubleLocking] {
            let sheet = Bridge::profile(family, 6).vibrato;
            assert!(sheet.is_some());
            assert_eq!(read(&mut filled(family), Some(family)), Some(sheet));
        }
        let fixed = BridgeFamily::FixedPlate;
        assert_eq!(read(&mut filled(fixed), Some(fixed)), Some(None));
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
