//! The form that opens a job.

use super::{Fields, heights, set};
use crate::vocabulary::*;
use gradimen_bench::journal::Entry;

/// The set and tuning most used on such an instrument.
fn usual_strung(instrument: &Instrument) -> Strung {
    let (kind, strings) = (instrument.kind, instrument.strings);
    Strung {
        set: sets(kind, strings)
            .first()
            .map(|usual| usual.strings.clone())
            .unwrap_or_default(),
        tuning: tunings(kind, strings).first().map_or_else(
            || Tuning::of("own", 440.0, &[]),
            |preset| Tuning::of(preset.name, 440.0, &preset.pitches),
        ),
    }
}

/// An instrument as it would stand on the bench, with what is usual on it: what a record is drawn by.
pub(crate) fn as_usual(instrument: &Instrument) -> Option<Known> {
    let opened = Opened {
        instrument: instrument.clone(),
        instrument_version: 1,
        purpose: "drawing".to_owned(),
        player: Player {
            touch: Touch::Medium,
            style: String::new(),
        },
        strung: usual_strung(instrument),
        arrived: None,
        heights: usual_heights(instrument),
        old_strings: false,
        taught: Vec::new(),
        last_time: None,
        practice: None,
    };
    let entry = Entry::new(
        1,
        jiff::Timestamp::UNIX_EPOCH,
        Event::Opened(Box::new(opened)),
    );
    Known::of(std::sync::Arc::new(Job::fold(&[entry]).ok()?)).ok()
}

/// What is usual for an instrument, or what its last job left on it.
pub(crate) fn usual(instrument: &Instrument, last: Option<&Strung>) -> Fields {
    let mut fields = Fields::default();
    let strung = last.cloned().unwrap_or_else(|| usual_strung(instrument));
    set::fill(&mut fields, &strung);
    heights::fill(&mut fields, &usual_heights(instrument));
    fields.set("touch", Touch::Medium.key());
    fields.set("preset", strung.tuning.name);
    fields
}

/// Puts a chosen tuning or set into the fields.
pub(crate) fn refill(fields: &mut Fields, instrument: &Instrument, what: &str) {
    let (kind, strings) = (instrument.kind, instrument.strings);
    if what == "tuning" {
        let wanted = fields.text("preset").to_owned();
        if let Some(preset) = tunings(kind, strings)
            .into_iter()
            .find(|preset| preset.name == wanted)
        {
            for (string, pitch) in (1..).zip(&preset.pitches) {
                fields.set(&format!("note{string}"), pitch.to_string());
            }
            fields.set("tuning_name", preset.name);
        }
    } else {
        let wanted = fields.text("usual_set").to_owned();
        if let Some(usual) = sets(kind, strings)
            .into_iter()
            .find(|usual| usual.name == wanted)
        {
            for (string, record) in (1..).zip(&usual.strings) {
                fields.set(&format!("gauge{string}"), set::gauge_text(record));
            }
        }
    }
}

/// Reads touch and style.
pub(crate) fn read_player(fields: &mut Fields) -> Option<Player> {
    let touch = Touch::from_key(fields.text("touch")).ok_or("choose light, medium or hard");
    let touch = fields.keep("touch", touch)?;
    Some(Player {
        touch,
        style: fields.text("style").to_owned(),
    })
}

/// Reads the opening of a job.
pub(crate) fn read(
    fields: &mut Fields,
    instrument: &Instrument,
    instrument_version: u32,
    last: Option<&Strung>,
) -> Option<Opened> {
    let player = read_player(fields);
    let strung = set::read(fields, instrument.strings, last);
    let heights = heights::read(fields);
    if fields.text("purpose").is_empty() {
        fields.wrong(
            "purpose",
            "a few words on why it is here: before loan, buzz on string 4",
        );
    }
    if !fields.is_right() {
        return None;
    }
    Some(Opened {
        instrument: instrument.clone(),
        instrument_version,
        purpose: fields.text("purpose").to_owned(),
        player: player?,
        strung: strung?,
        arrived: last.cloned(),
        heights: heights?,
        old_strings: fields.ticked("old_strings"),
        taught: Vec::new(),
        last_time: None,
        practice: None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn opens_with_what_is_usual_or_with_what_was_on() {
        let instrument = Instrument {
            name: "Wren".into(),
            ..usual_instrument(Kind::Guitar, 6)
        };
        let mut fields = usual(&instrument, None);
        assert_eq!(
            read(&mut fields.clone(), &instrument, 1, None),
            None,
            "a purpose is wanted"
        );
        fields.set("purpose", "before loan");
        fields.set("usual_set", "extra light");
        refill(&mut fields, &instrument, "set");
        fields.set("preset", "half a step down");
        refill(&mut fields, &instrument, "tuning");
        let opened = read(&mut fields, &instrument, 3, None).unwrap();
        assert_eq!(opened.strung.set[0].label(), ".009");
        assert_eq!(opened.strung.tuning.notes[0], "Eb4");
        assert_eq!(
            (opened.instrument_version, opened.arrived.is_none()),
            (3, true)
        );
        let again = usual(&instrument, Some(&opened.strung));
        assert_eq!((again.text("gauge1"), again.text("note1")), (".009", "Eb4"));
    }
}
