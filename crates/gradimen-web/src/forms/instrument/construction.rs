//! What most instruments do not have: other nuts and boards, other ways to hold a saddle.

use crate::forms::{Fields, lists};
use crate::vocabulary::*;

/// Shows it in its fields.
pub(super) fn fill(fields: &mut Fields, of: &Construction) {
    let offsets = of.nut_offsets.iter().map(|offset| offset.written.as_str());
    let fall = of.fall_away.as_ref();
    fields.set("nut", of.nut.key());
    fields.set("nut_offsets", offsets.collect::<Vec<_>>().join(", "));
    fields.set("courses", lists::groups_in_words(&of.courses));
    fields.set(
        "fall_away",
        fall.map_or(String::new(), |fall| fall.written.clone()),
    );
    fields.tick("headless", of.headless);
    fields.tick("fretless", of.fretless);
}

/// Shows what a bridge has beyond most of its family.
pub(super) fn fill_details(fields: &mut Fields, of: &BridgeDetails) {
    fields.set("drive", of.drive.key());
    fields.tick("posts_and_saddle_screws", of.posts_and_saddle_screws);
    fields.tick("no_height_screws", of.no_height_screws);
    fields.tick("rollers", of.rollers);
    fields.tick("fine_tuners", of.fine_tuners);
}

/// Reads it back.
pub(super) fn read(fields: &mut Fields) -> Option<Construction> {
    let nut = NutKind::from_key(fields.text("nut")).ok_or("choose what the strings run over");
    let nut = fields.keep("nut", nut);
    let nut_offsets = read_offsets(fields);
    let fall_away = fields.perhaps("fall_away", &limits::FALL_AWAY);
    let courses = fields.string_groups("courses", "the strings of each course: 1-2 3-4 5-6");
    Some(Construction {
        nut: nut?,
        nut_offsets: nut_offsets?,
        headless: fields.ticked("headless"),
        fretless: fields.ticked("fretless"),
        courses: courses?,
        fall_away: fall_away?,
    })
}

/// Reads what a bridge has beyond most of its family.
pub(super) fn read_details(fields: &mut Fields) -> Option<BridgeDetails> {
    let drive = SaddleDrive::from_key(fields.text("drive")).ok_or("choose how a saddle is moved");
    Some(BridgeDetails {
        drive: fields.keep("drive", drive)?,
        posts_and_saddle_screws: fields.ticked("posts_and_saddle_screws"),
        no_height_screws: fields.ticked("no_height_screws"),
        rollers: fields.ticked("rollers"),
        fine_tuners: fields.ticked("fine_tuners"),
    })
}

/// One offset a string; nothing where none was measured.
fn read_offsets(fields: &mut Fields) -> Option<Vec<Measurement>> {
    let parts = lists::values(fields.text("nut_offsets"));
    let read: Result<Vec<Measurement>, _> = parts
        .iter()
        .map(|part| {
            let entry = limits::NUT_OFFSET.parse_exact(part)?;
            Ok::<_, gradimen_core::units::UnitError>(Measurement::from(&entry))
        })
        .collect();
    fields.keep("nut_offsets", read)
}

/// Whether any of it is to be seen: the part of the form is open then.
pub(crate) fn is_unusual(fields: &Fields) -> bool {
    let filled = ["nut_offsets", "courses", "fall_away"];
    let ticked = [
        "headless",
        "fretless",
        "posts_and_saddle_screws",
        "no_height_screws",
        "rollers",
        "fine_tuners",
    ];
    fields.text("nut") != NutKind::default().key()
        || fields.text("drive") != SaddleDrive::default().key()
        || filled.iter().any(|name| !fields.field(name).is_plain())
        || ticked.iter().any(|name| fields.ticked(name))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_unusual_reads_back_from_its_fields() {
        let twelve = Construction {
            nut: NutKind::Compensated,
            nut_offsets: vec![Measurement::mm(0.5), Measurement::mm(0.8)],
            headless: true,
            fretless: false,
            courses: vec![vec![1, 2], vec![3, 4]],
            fall_away: Some(Measurement::mm(0.3)),
        };
        let details = BridgeDetails {
            drive: SaddleDrive::Clamped,
            rollers: true,
            ..BridgeDetails::default()
        };
        let mut fields = Fields::default();
        fill(&mut fields, &twelve);
        fill_details(&mut fields, &details);
        assert!(is_unusual(&fields));
        assert_eq!(read(&mut fields), Some(twelve));
        assert_eq!(read_details(&mut fields), Some(details));
        for (field, typed) in [
            ("nut", "bone"),
            ("nut_offsets", "0.5; far"),
            ("courses", "1 x"),
            ("fall_away", "9 mm"),
            ("drive", "by hand"),
        ] {
            let mut fields = fields.clone();
            fields.set(field, typed);
            assert!(
                read(&mut fields).is_none() | read_details(&mut fields).is_none(),
                "{field}"
            );
            assert_eq!(fields.field(field).value, typed);
            assert!(!fields.field(field).error.is_empty(), "{field}");
        }
    }

    #[test]
    fn what_is_usual_needs_no_look() {
        let mut fields = Fields::default();
        fill(&mut fields, &Construction::default());
        fill_details(&mut fields, &BridgeDetails::default());
        assert!(!is_unusual(&fields));
        assert_eq!(read(&mut fields), Some(Construction::default()));
    }
}
