//! Sets and tunings as they are typed: `.010`, `46w`, `105wf`; `E4`, `B3-2`.

use crate::vocabulary::*;
use gradimen_core::pitch::{ConcertPitch, Pitch};
use gradimen_core::units::{LengthUnit, UnitError, parse_frequency};

use super::Fields;

/// Letters behind a gauge that say how the string is made.
const SUFFIXES: [(&str, StringConstruction); 7] = [
    ("ws", StringConstruction::RoundStainless),
    ("wb", StringConstruction::RoundBronze),
    ("wn", StringConstruction::RoundNickel),
    ("wf", StringConstruction::FlatStainless),
    ("fn", StringConstruction::FlatNickel),
    ("w", StringConstruction::RoundNickelPlated),
    ("p", StringConstruction::Plain),
];

/// Plain strings thicker than this are not made; a bare gauge above it is wound.
const THICKEST_PLAIN_THOU: f64 = 26.0;

/// A gauge as its field shows it: what is usual for the gauge needs no letter.
pub(crate) fn gauge_text(record: &StringEntry) -> String {
    let label = record.label();
    let bare = label.trim_end_matches('w');
    match record.make {
        StringConstruction::Plain | StringConstruction::RoundNickelPlated => label,
        other => {
            let suffix = SUFFIXES
                .iter()
                .find(|(_, make)| *make == other)
                .map_or("", |(suffix, _)| suffix);
            format!("{bare}{suffix}")
        }
    }
}

/// Reads one gauge. The string `now` on keeps what was measured of it when nothing changes.
pub(crate) fn parse_gauge(text: &str, now: Option<&StringEntry>) -> Result<StringEntry, UnitError> {
    let plain = text.trim().to_lowercase();
    if let Some(now) = now
        && gauge_text(now) == plain
    {
        return Ok(now.clone());
    }
    let (digits, make) = SUFFIXES
        .iter()
        .find_map(|(suffix, make)| {
            let rest = plain.strip_suffix(suffix)?;
            // The n of "in" and the p of nothing else: only digits may stand before a suffix.
            rest.ends_with(|last: char| last.is_ascii_digit())
                .then_some((rest, Some(*make)))
        })
        .unwrap_or((plain.as_str(), None));
    let entry = {
        // A bare .010 is inches, a bare 10 is thousandths: what a packet says.
        let inches = digits.starts_with('.') || digits.starts_with("0.");
        let unit = if inches {
            LengthUnit::Inch
        } else {
            LengthUnit::Thou
        };
        gradimen_core::units::LengthField {
            unit,
            ..limits::GAUGE
        }
        .parse_exact(digits)?
    };
    let make = make.unwrap_or_else(|| match now.map(|now| now.make) {
        Some(make) if make.is_wound() && entry.middle().thou() > 16.0 => make,
        _ if entry.middle().thou() > THICKEST_PLAIN_THOU => StringConstruction::RoundNickelPlated,
        _ => StringConstruction::Plain,
    });
    Ok(StringEntry {
        gauge: Measurement::from(&entry),
        make,
        core: None,
        weighed: None,
    })
}

/// Shows a set and its tuning in their fields.
pub(crate) fn fill(fields: &mut Fields, strung: &Strung) {
    for (string, record) in (1..).zip(&strung.set) {
        fields.set(&format!("gauge{string}"), gauge_text(record));
    }
    for (string, note) in (1..).zip(&strung.tuning.notes) {
        fields.set(&format!("note{string}"), note.clone());
    }
    fields.set("a4", strung.tuning.a4_hz.to_string());
    fields.set("tuning_name", strung.tuning.name.clone());
}

/// Reads them back, against the strings now on.
pub(crate) fn read(fields: &mut Fields, strings: u8, now: Option<&Strung>) -> Option<Strung> {
    let a4 = parse_frequency(fields.text("a4"))
        .map_err(|error| error.to_string())
        .and_then(|a4| ConcertPitch::new(a4).map_err(|error| error.to_string()));
    let a4 = fields.keep("a4", a4);
    let mut set = Vec::new();
    let mut notes = Vec::new();
    for string in 1..=strings {
        let (gauge, note) = (format!("gauge{string}"), format!("note{string}"));
        let on = now.and_then(|now| now.set.get(usize::from(string - 1)));
        let read = parse_gauge(fields.text(&gauge), on)
            .map_err(|error| error.to_string())
            .and_then(|record| {
                record
                    .spec()
                    .map(|_| record)
                    .map_err(|error| error.to_string())
            });
        set.extend(fields.keep(&gauge, read));
        let read = fields.text(&note).parse::<Pitch>();
        notes.extend(fields.keep(&note, read).map(|pitch| pitch.to_string()));
    }
    let a4_hz = a4?.a4().hertz();
    let complete = set.len() == usize::from(strings) && notes.len() == usize::from(strings);
    let name = match now {
        // A name belongs to its notes.
        Some(now) if now.tuning.notes != notes && fields.text("tuning_name") == now.tuning.name => {
            "own".to_owned()
        }
        _ => fields.text("tuning_name").to_owned(),
    };
    complete.then_some(Strung {
        set,
        tuning: Tuning { name, a4_hz, notes },
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_gauges_as_packets_write_them() {
        for (text, thou, make) in [
            (".010", 10.0, StringConstruction::Plain),
            ("10", 10.0, StringConstruction::Plain),
            ("9.5", 9.5, StringConstruction::Plain),
            (".046w", 46.0, StringConstruction::RoundNickelPlated),
            ("46", 46.0, StringConstruction::RoundNickelPlated),
            ("20w", 20.0, StringConstruction::RoundNickelPlated),
            ("105wf", 105.0, StringConstruction::FlatStainless),
            ("45ws", 45.0, StringConstruction::RoundStainless),
            ("0.254 mm", 10.0, StringConstruction::Plain),
            ("10 thou", 10.0, StringConstruction::Plain),
            (".017 in", 17.0, StringConstruction::Plain),
        ] {
            let record = parse_gauge(text, None).unwrap();
            assert!((record.gauge.middle().thou() - thou).abs() < 1e-9, "{text}");
            assert_eq!(record.make, make, "{text}");
        }
        assert!(parse_gauge("10x", None).is_err());
        assert!(parse_gauge("", None).is_err());
    }

    #[test]
    fn what_a_field_shows_reads_back_the_same() {
        for make in StringConstruction::all() {
            let record = StringEntry::thou(if make.is_wound() { 46.0 } else { 13.0 }, make);
            let back = parse_gauge(&gauge_text(&record), None).unwrap();
            assert_eq!(back.make, make);
            assert_eq!(back.label(), record.label());
        }
    }

    #[test]
    fn an_unchanged_string_keeps_what_was_measured_of_it() {
        let mut on = StringEntry::thou(46.0, StringConstruction::RoundNickelPlated);
        on.core = Some(Measurement::mm(0.45));
        assert_eq!(parse_gauge(".046w", Some(&on)).unwrap(), on);
        assert!(parse_gauge(".048w", Some(&on)).unwrap().core.is_none());
    }

    #[test]
    fn each_wrong_field_is_marked_and_all_stay() {
        let mut fields = Fields::default();
        let strung = Strung {
            set: vec![
                StringEntry::thou(10.0, StringConstruction::Plain),
                StringEntry::thou(13.0, StringConstruction::Plain),
            ],
            tuning: Tuning {
                name: "standard".into(),
                a4_hz: 440.0,
                notes: vec!["E4".into(), "B3".into()],
            },
        };
        fill(&mut fields, &strung);
        assert_eq!(
            read(&mut fields.clone(), 2, Some(&strung)),
            Some(strung.clone())
        );
        fields.set("gauge2", "fat");
        fields.set("note1", "H7");
        fields.set("a4", "44");
        assert_eq!(read(&mut fields, 2, Some(&strung)), None);
        assert_eq!(fields.wrong_count(), 3);
        assert_eq!(fields.field("gauge2").value, "fat");
    }
}
