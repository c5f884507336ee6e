//! Journals to test with.
#![allow(dead_code)]

use gradimen_bench::event::{
    Against, EVENT_VERSION, Entry, Event, Hand, Opened, Player, Strung, Tuner, Tuning,
};
use gradimen_bench::hardware::{Bridge, BridgeFamily};
use gradimen_bench::instrument::{Instrument, Kind};
use gradimen_bench::job::Job;
use gradimen_bench::methods;
use jiff::Timestamp;

pub(crate) fn strung(kind: Kind, strings: u8) -> Strung {
    Strung {
        set: methods::sets(kind, strings)[0].strings.clone(),
        tuning: Tuning::of(
            "standard",
            440.0,
            &methods::tunings(kind, strings)[0].pitches,
        ),
    }
}

/// A usual set of six strings.
#[allow(dead_code)] // not every test needs it
pub(crate) fn usual_set(index: usize) -> Vec<gradimen_bench::record::StringRecord> {
    methods::sets(Kind::Guitar, 6)[index].strings.clone()
}

/// That set put on, in standard tuning.
#[allow(dead_code)] // not every test needs it
pub(crate) fn put_on(index: usize) -> Event {
    Event::Strung {
        strung: Strung {
            set: usual_set(index),
            ..strung(Kind::Guitar, 6)
        },
    }
}

/// Relief right where a medium hand wants it, both sides.
#[allow(dead_code)] // not every test begins so
pub(crate) fn straight() -> [Event; 2] {
    use gradimen_bench::event::{Gap, ReliefSpan, Side};
    Side::ALL.map(|side| Event::ReliefRead {
        side,
        span: ReliefSpan {
            low: 1,
            high: 12,
            at: 6,
        },
        seen: Gap::Open {
            gap: gradimen_bench::record::Measured::mm(0.1524),
        },
        kept: false,
    })
}

pub(crate) fn opened(kind: Kind, strings: u8, family: BridgeFamily) -> Event {
    Event::Opened(Box::new(Opened {
        instrument: Instrument {
            stock_number: "27".into(),
            name: "Heron".into(),
            bridge: Bridge::profile(family, strings),
            ..methods::usual_instrument(kind, strings)
        },
        instrument_version: 1,
        purpose: "before loan".into(),
        player: Player {
            hand: Hand::Medium,
            style: "dance band".into(),
        },
        strung: strung(kind, strings),
        arrived: None,
        heights: methods::usual_heights(kind),
        old_strings: false,
    }))
}

/// The same guitar on a fixed plate, its record changed.
pub(crate) fn opened_with(change: impl FnOnce(&mut Instrument)) -> Event {
    let mut event = opened(Kind::Guitar, 6, BridgeFamily::FixedPlate);
    if let Event::Opened(opened) = &mut event {
        change(&mut opened.instrument);
    }
    event
}

/// Numbers events into entries a second apart.
pub(crate) fn journal(events: Vec<Event>) -> Vec<Entry> {
    events
        .into_iter()
        .zip(1..)
        .map(|(event, seq)| Entry {
            seq,
            at: Timestamp::from_second(1_790_000_000 + seq as i64).unwrap(),
            version: EVENT_VERSION,
            event,
        })
        .collect()
}

pub(crate) fn fold(events: Vec<Event>) -> Job {
    Job::fold(&journal(events)).unwrap()
}

pub(crate) fn read(string: u8, cents: f64) -> Event {
    read_at(string, 12, cents)
}

pub(crate) fn read_at(string: u8, fret: u8, cents: f64) -> Event {
    Event::IntonationRead {
        string,
        fret,
        cents,
        against: if fret == 12 {
            Against::Harmonic
        } else {
            Against::Open
        },
        kept: false,
    }
}

pub(crate) fn tuner(resolution_cents: f64) -> Event {
    Event::TunerChosen {
        tuner: Tuner {
            name: "strobe".into(),
            resolution_cents,
        },
    }
}

/// A six-string guitar on a fixed plate with these events behind its opening.
pub(crate) fn guitar(events: Vec<Event>) -> Job {
    fold(
        [
            vec![opened(Kind::Guitar, 6, BridgeFamily::FixedPlate)],
            events,
        ]
        .concat(),
    )
}
