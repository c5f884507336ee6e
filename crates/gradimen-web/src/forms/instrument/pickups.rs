//! Pickups in one line: `neck 160 mm | middle 98 mm | bridge 44 mm double_coil`.

use crate::forms::Fields;
use crate::vocabulary::*;

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
    let written = |part: Option<&Option<Measurement>>| {
        let measured = part.and_then(Option::as_ref);
        measured.map_or(String::new(), |measured| measured.written.clone())
    };
    fields.set("pickup_travel", written(first.map(|pickup| &pickup.travel)));
    fields.set(
        "pole_pitch",
        written(first.map(|pickup| &pickup.pole_pitch)),
    );
    let mounting = first.and_then(|pickup| pickup.mounting);
    fields.set("pickup_mounting", mounting.map_or("", Keyed::key));
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
pub(super) fn read(fields: &mut Fields, now: &[PickupRecord]) -> Option<Vec<PickupRecord>> {
    let text = fields.text("pickups").to_owned();
    let usual =
        PickupFamily::from_key(fields.text("pickup_family")).ok_or("choose a family of pickups");
    let usual = fields.keep("pickup_family", usual);
    let pitch = fields.exact("pickup_pitch", &limits::THREAD);
    let travel = fields.perhaps("pickup_travel", &limits::HEIGHT_TRAVEL);
    let pole_pitch = fields.perhaps("pole_pitch", &limits::THREAD);
    let clockwise_raises = fields.text("pickup_raises") != "counterclockwise";
    let mounting = PickupMounting::from_key(fields.text("pickup_mounting"));
    let screws = Screws {
        usual: usual?,
        pitch: pitch?,
        travel: travel?,
        pole_pitch: pole_pitch?,
        clockwise_raises,
    };
    let read: Result<Vec<PickupRecord>, String> = text
        .split('|')
        .map(str::trim)
        .filter(|part| !part.is_empty())
        .map(|part| {
            let read = one(part, &screws)?;
            let as_now = now.iter().find(|now| now.name == read.name);
            // One field stands for all: left alone, each keeps its own.
            let mounting = match as_now {
                Some(as_now) if now.first().is_some_and(|first| first.mounting == mounting) => {
                    as_now.mounting
                }
                _ => mounting,
            };
            // How it is held says which way it goes; where nobody says, the field beside it does.
            let clockwise_raises =
                mounting.map_or(read.clockwise_raises, |held| held.rises_clockwise());
            Ok(PickupRecord {
                mounting,
                clockwise_raises,
                ..read
            })
        })
        .collect();
    fields.keep("pickups", read)
}

/// What all pickups of an instrument have in common.
struct Screws {
    usual: PickupFamily,
    pitch: Measurement,
    travel: Option<Measurement>,
    pole_pitch: Option<Measurement>,
    clockwise_raises: bool,
}

fn one(part: &str, screws: &Screws) -> Result<PickupRecord, String> {
    let expected = || {
        let families: Vec<&str> = PickupFamily::all().map(PickupFamily::key).collect();
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
        _ => (rest, screws.usual),
    };
    let entry = limits::PICKUP_PLACE
        .parse_exact(place.trim())
        .map_err(|error| format!("{error}; {}", expected()))?;
    Ok(PickupRecord {
        name: name.to_owned(),
        family,
        before_saddle: Measurement::from(&entry),
        pitch: screws.pitch.clone(),
        clockwise_raises: screws.clockwise_raises,
        direction_checked: true,
        travel: screws.travel.clone(),
        pole_pitch: screws.pole_pitch.clone(),
        mounting: None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

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
        assert_eq!(read(&mut fields, &[]), Some(usual.clone()));
        for pickup in &mut usual {
            pickup.travel = Some(Measurement::mm(8.0));
            pickup.pole_pitch = Some(Measurement::mm(0.5));
        }
        fill(&mut fields, &usual);
        assert_eq!(read(&mut fields, &[]), Some(usual));
        fields.set("pole_pitch", "fine");
        assert_eq!(read(&mut fields, &[]), None);
        assert!(!fields.field("pole_pitch").error.is_empty());
        fields.set("pole_pitch", "");
        fields.set("pickups", "");
        assert_eq!(read(&mut fields, &[]), Some(Vec::new()));
    }

    #[test]
    fn units_of_the_trade_and_plain_answers() {
        let mut fields = Fields::default();
        fill(&mut fields, &[]);
        fields.set("pickups", "neck 6 1/4 in | bridge 1.75\"");
        let read_back = read(&mut fields, &[]).unwrap();
        assert!((read_back[0].before_saddle.middle().inches() - 6.25).abs() < 1e-9);
        for wrong in ["neck", "neck near", "neck 160 mm single_horse", "neck 2 m"] {
            let mut fields = fields.clone();
            fields.set("pickups", wrong);
            assert_eq!(read(&mut fields, &[]), None, "{wrong}");
            assert!(
                fields.field("pickups").error.contains("expected"),
                "{wrong}"
            );
        }
    }
}
