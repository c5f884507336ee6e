//! Pickups in one line: `neck 160 mm | middle 98 mm | bridge 44 mm double_coil`.

use gradimen_bench::hardware::{PickupFamily, PickupRecord};
use gradimen_bench::record::Measured;

use crate::forms::{Fields, limits};

/// Shows them in their fields. The family of the first stands for all that say nothing else.
pub(super) fn fill(fields: &mut Fields, pickups: &[PickupRecord]) {
    let usual = pickups.first().map(|pickup| pickup.family);
    let each: Vec<String> = pickups
        .iter()
        .map(|pickup| {
            let family = if Some(pickup.family) == usual {
                String::new()
            } else {
                format!(" {}", pickup.family.key())
            };
            format!("{} {}{family}", pickup.name, pickup.before_saddle.written)
        })
        .collect();
    fields.set("pickups", each.join(" | "));
    fields.set(
        "pickup_family",
        usual.unwrap_or(PickupFamily::SingleCoil).key(),
    );
    let first = pickups.first();
    fields.set(
        "pickup_pitch",
        first.map_or("0.7 mm", |pickup| pickup.pitch.written.as_str()),
    );
    let raises = first.is_none_or(|pickup| pickup.clockwise_raises);
    fields.set(
        "pickup_raises",
        if raises {
            "clockwise"
        } else {
            "counterclockwise"
        },
    );
}

/// Reads them back.
pub(super) fn read(fields: &mut Fields) -> Option<Vec<PickupRecord>> {
    let text = fields.text("pickups").to_owned();
    let usual =
        PickupFamily::from_key(fields.text("pickup_family")).ok_or("choose a family of pickups");
    let usual = fields.keep("pickup_family", usual);
    let pitch = fields.exact("pickup_pitch", &limits::THREAD);
    let clockwise_raises = fields.text("pickup_raises") != "counterclockwise";
    let (usual, pitch) = (usual?, pitch?);
    let read: Result<Vec<PickupRecord>, String> = text
        .split('|')
        .map(str::trim)
        .filter(|part| !part.is_empty())
        .map(|part| one(part, usual, &pitch, clockwise_raises))
        .collect();
    fields.keep("pickups", read)
}

fn one(
    part: &str,
    usual: PickupFamily,
    pitch: &Measured,
    clockwise_raises: bool,
) -> Result<PickupRecord, String> {
    let expected = || {
        let families: Vec<&str> = PickupFamily::ALL.map(PickupFamily::key).to_vec();
        format!(
            "read '{part}', expected a name and how far it lies before the scale line: neck 160 mm | bridge 44 mm; a family of its own behind that: {}",
            families.join(", ")
        )
    };
    let (name, rest) = part.split_once(' ').ok_or_else(expected)?;
    let (place, family) = match rest.rsplit_once(' ') {
        Some((place, last)) if last.contains('_') || PickupFamily::from_key(last).is_some() => {
            (place, PickupFamily::from_key(last).ok_or_else(expected)?)
        }
        _ => (rest, usual),
    };
    let entry = limits::PICKUP_PLACE
        .parse_exact(place.trim())
        .map_err(|error| format!("{error}; {}", expected()))?;
    Ok(PickupRecord {
        name: name.to_owned(),
        family,
        before_saddle: Measured::from(&entry),
        pitch: pitch.clone(),
        clockwise_raises,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use gradimen_bench::instrument::Kind;
    use gradimen_bench::methods::usual_instrument;

    #[test]
    fn a_line_of_pickups_reads_back() {
        let mut usual = usual_instrument(Kind::Guitar, 6).pickups;
        usual[2].family = PickupFamily::DoubleCoil;
        let mut fields = Fields::default();
        fill(&mut fields, &usual);
        assert_eq!(
            fields.text("pickups"),
            "neck 160 mm | middle 98 mm | bridge 44 mm double_coil"
        );
        assert_eq!(read(&mut fields), Some(usual));
        fields.set("pickups", "");
        assert_eq!(read(&mut fields), Some(Vec::new()));
    }

    #[test]
    fn units_of_the_trade_and_plain_answers() {
        let mut fields = Fields::default();
        fill(&mut fields, &[]);
        fields.set("pickups", "neck 6 1/4 in | bridge 1.75\"");
        let read_back = read(&mut fields).unwrap();
        assert!((read_back[0].before_saddle.middle().inches() - 6.25).abs() < 1e-9);
        for wrong in ["neck", "neck near", "neck 160 mm single_horse", "neck 2 m"] {
            let mut fields = fields.clone();
            fields.set("pickups", wrong);
            assert_eq!(read(&mut fields), None, "{wrong}");
            assert!(
                fields.field("pickups").error.contains("expected"),
                "{wrong}"
            );
        }
    }
}
