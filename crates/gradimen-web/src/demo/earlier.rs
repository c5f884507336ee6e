//! Earlier visits of an instrument that has come for years.

use gradimen_bench::export::visits;
use gradimen_core::units::{LengthUnit, parse_length};
use gradimen_store::Store;
use jiff::{SignedDuration, Timestamp};

use super::birds::Bird;
use crate::vocabulary::*;

/// What was read when it left, treble side or string 1 first.
struct Left {
    days_ago: i64,
    humidity: f64,
    relief_thou: [f64; 2],
    action_64ths: [f64; 2],
    cents: [f64; 2],
}

/// Two years of them: dry, damp, and dry again.
const VISITS: [Left; 3] = [
    Left {
        days_ago: 730,
        humidity: 38.0,
        relief_thou: [9.0, 10.0],
        action_64ths: [4.5, 5.5],
        cents: [1.5, -2.0],
    },
    Left {
        days_ago: 540,
        humidity: 61.0,
        relief_thou: [14.0, 15.0],
        action_64ths: [5.0, 6.5],
        cents: [3.0, 2.5],
    },
    Left {
        days_ago: 190,
        humidity: 36.0,
        relief_thou: [8.0, 9.0],
        action_64ths: [4.0, 5.0],
        cents: [0.5, -1.0],
    },
];

/// A bird that is opened again goes on from where it was left.
pub(super) async fn again(
    store: &Store,
    instrument_id: i64,
    bird: &Bird,
    instrument: &Instrument,
) -> anyhow::Result<Opened> {
    let mut opened = bird.opened(instrument.clone())?;
    if let Some(earlier) = store.last_job(instrument_id).await? {
        visits::goes_on(&mut opened, &earlier.known, &earlier.plan);
    }
    Ok(opened)
}

/// Earlier visits of a bird, read as it left each time.
pub(super) async fn visits(
    store: &Store,
    instrument_id: i64,
    bird: &Bird,
    instrument: &Instrument,
    now: Timestamp,
) -> anyhow::Result<()> {
    let last = instrument.strings;
    for left in VISITS {
        let at = now - SignedDuration::from_hours(24 * left.days_ago);
        let id = store
            .open_job(
                instrument_id,
                again(store, instrument_id, bird, instrument).await?,
                at,
            )
            .await?;
        let span = store.worked(id).await?.known.targets().relief_span;
        let length = |value: f64, unit: LengthUnit| -> anyhow::Result<Reading> {
            let typed = parse_length(&value.to_string(), unit)?;
            Ok(Reading::Length {
                length: Measurement::from(&typed),
            })
        };
        let mut events = vec![Event::Observed {
            what: Observation::Humidity {
                percent: left.humidity,
            },
        }];
        for (side, thou) in [Side::Treble, Side::Bass].into_iter().zip(left.relief_thou) {
            let place = Place::Relief { side, span };
            events.push(Event::read(place, length(thou, LengthUnit::Thou)?));
        }
        for ((string, parts), cents) in [1, last].into_iter().zip(left.action_64ths).zip(left.cents)
        {
            let (fret, held) = (12, 0);
            let place = Place::Action { string, fret, held };
            events.push(Event::read(place, length(parts, LengthUnit::SixtyFourth)?));
            events.push(Event::read(
                Place::Intonation { string, fret },
                Reading::Note {
                    cents,
                    against: Reference::Harmonic,
                    resolution_cents: None,
                    by_ear: false,
                },
            ));
        }
        events.push(Event::Staged {
            stage: Stage::Returned,
        });
        let seen = store.worked(id).await?.job.seq();
        store.append(id, seen, events, at).await?;
    }
    Ok(())
}
