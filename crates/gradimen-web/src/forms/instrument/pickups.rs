//! Pickups, a row each: where they lie, of what family, how they are held and by which screws.

use crate::forms::Fields;
use crate::vocabulary::*;

/// The name of a part of a row in the form, rows counted from 1.
pub(crate) fn name(row: usize, part: &str) -> String {
    format!("pickup{row}_{part}")
}

const PARTS: [&str; 8] = [
    "name", "place", "family", "held", "pitch", "raises", "travel", "poles",
];

/// Shows them in their rows.
pub(super) fn fill(fields: &mut Fields, pickups: &[PickupRecord]) {
    for row in 1..=limits::PICKUPS {
        match pickups.get(row - 1) {
            Some(pickup) => fill_row(fields, row, pickup),
            None => PARTS
                .iter()
                .for_each(|part| fields.set(&name(row, part), "")),
        }
    }
}

fn fill_row(fields: &mut Fields, row: usize, pickup: &PickupRecord) {
    let written = |measured: Option<&Measurement>| {
        measured.map_or(String::new(), |measured| measured.written.clone())
    };
    let raises = if pickup.clockwise_raises {
        "clockwise"
    } else {
        "counterclockwise"
    };
    for (part, value) in PARTS.iter().zip([
        pickup.name.clone(),
        pickup.before_saddle.written.clone(),
        pickup.family.key().to_owned(),
        pickup.mounting.map_or("", Keyed::key).to_owned(),
        pickup.pitch.written.clone(),
        raises.to_owned(),
        written(pickup.travel.as_ref()),
        written(pickup.pole_pitch.as_ref()),
    ]) {
        fields.set(&name(row, part), value);
    }
}

/// How many rows the form shows: those that are filled, and one more.
pub(crate) fn rows(fields: &Fields) -> usize {
    let filled = (1..=limits::PICKUPS)
        .rev()
        .find(|row| is_filled(fields, *row));
    (filled.unwrap_or(0) + 1).min(limits::PICKUPS)
}

/// Whether anything was written in a row; what can only be chosen does not count.
fn is_filled(fields: &Fields, row: usize) -> bool {
    ["name", "place", "pitch", "travel", "poles"]
        .iter()
        .any(|part| !fields.field(&name(row, part)).is_plain())
}

/// Reads them back, row by row; a row in which nothing was written is no pickup.
pub(super) fn read(fields: &mut Fields) -> Option<Vec<PickupRecord>> {
    let rows: Vec<usize> = (1..=limits::PICKUPS)
        .filter(|row| is_filled(fields, *row))
        .collect();
    // All of them, so that every field that is wrong says so.
    let read: Vec<Option<PickupRecord>> = rows.into_iter().map(|row| one(fields, row)).collect();
    read.into_iter().collect()
}

fn one(fields: &mut Fields, row: usize) -> Option<PickupRecord> {
    let field = |part: &str| name(row, part);
    let called = Some(fields.text(&field("name")).to_owned()).filter(|name| !name.is_empty());
    let called = called
        .ok_or("a pickup needs a name: neck, middle, bridge; empty all of its row to leave it out");
    let called = fields.keep(&field("name"), called);
    let place = fields.exact(&field("place"), &limits::PICKUP_PLACE);
    let family = PickupFamily::from_key(fields.text(&field("family")));
    let family = fields.keep(&field("family"), family.ok_or("choose a type"))?;
    let usual = usual_pickup("", family, Measurement::mm(0.0));
    let pitch = if fields.text(&field("pitch")).is_empty() {
        Some(usual.pitch)
    } else {
        fields.thread(&field("pitch"))
    };
    let travel = fields.perhaps(&field("travel"), &limits::HEIGHT_TRAVEL);
    let pole_pitch = if fields.text(&field("poles")).is_empty() {
        Some(None)
    } else {
        fields.thread(&field("poles")).map(Some)
    };
    let mounting = PickupMounting::from_key(fields.text(&field("held")));
    // How it is held says which way it goes; where nobody says, the field beside it does.
    let said = match fields.text(&field("raises")) {
        "" => usual.clockwise_raises,
        other => other != "counterclockwise",
    };
    Some(PickupRecord {
        name: called?,
        family,
        before_saddle: place?,
        pitch: pitch?,
        clockwise_raises: mounting.map_or(said, PickupMounting::rises_clockwise),
        direction_checked: true,
        travel: travel?,
        pole_pitch: pole_pitch?,
        mounting,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_of_pickups_read_back_each_with_its_own_screws() {
        let mut mixed = usual_instrument(Kind::Guitar, 6).pickups;
        mixed[2] = PickupRecord {
            travel: Some(Measurement::mm(8.0)),
            pole_pitch: Some(Measurement::mm(0.5)),
            ..usual_pickup("bridge", PickupFamily::DoubleCoil, Measurement::mm(44.0))
        };
        mixed[0].mounting = None;
        mixed[0].clockwise_raises = false;
        let mut fields = Fields::default();
        fill(&mut fields, &mixed);
        assert_eq!(rows(&fields), 4);
        assert_eq!(fields.text("pickup1_pitch"), "6-32");
        assert_eq!(fields.text("pickup3_pitch"), "3-48");
        assert_eq!(read(&mut fields), Some(mixed));
        for part in PARTS {
            fields.set(&name(2, part), "");
        }
        let two = read(&mut fields).unwrap();
        let names: Vec<&str> = two.iter().map(|pickup| pickup.name.as_str()).collect();
        assert_eq!(names, ["neck", "bridge"]);
        fill(&mut fields, &[]);
        assert_eq!((read(&mut fields), rows(&fields)), (Some(Vec::new()), 1));
    }

    #[test]
    fn a_name_a_place_and_a_type_are_enough_and_threads_have_names() {
        let mut fields = Fields::default();
        for (field, text) in [
            ("pickup1_name", "neck"),
            ("pickup1_place", "6 1/4 in"),
            ("pickup1_family", "bass"),
            ("pickup2_name", "bridge"),
            ("pickup2_place", "1.75\""),
            ("pickup2_family", "single_coil"),
            ("pickup2_pitch", "m2.5"),
            ("pickup2_held", "hung"),
            ("pickup2_raises", "counterclockwise"),
        ] {
            fields.set(field, text);
        }
        let read = read(&mut fields).unwrap();
        assert!((read[0].before_saddle.middle().inches() - 6.25).abs() < 1e-9);
        // On a body, clockwise lowers (common practice).
        assert!(!read[0].clockwise_raises);
        assert!((read[1].pitch.middle().mm() - 0.45).abs() < 1e-9);
        // How it is held says which way it goes.
        assert!(read[1].clockwise_raises);
    }

    #[test]
    fn nonsense_is_marked_in_its_own_row() {
        for (field, text) in [
            ("pickup2_name", ""),
            ("pickup2_place", "near"),
            ("pickup2_place", "2 m"),
            ("pickup2_family", "horse"),
            ("pickup2_pitch", "coarse"),
            ("pickup2_travel", "far"),
            ("pickup2_poles", "7-99"),
        ] {
            let mut fields = Fields::default();
            fill(&mut fields, &usual_instrument(Kind::Guitar, 6).pickups);
            fields.set(field, text);
            assert_eq!(read(&mut fields), None, "{field} {text}");
            assert!(!fields.field(field).error.is_empty(), "{field} {text}");
            assert_eq!(fields.field(field).value, text);
        }
    }
}
