//! What an apprentice has practised before: two exercises at par, one by trial and error, and one that is under way.

use std::path::Path;

use anyhow::Context;
use gradimen_bench::journal::Event;
use gradimen_bench::model::{Hints, Observation, Practised};
use gradimen_practice::par::{Way, worked};
use gradimen_practice::{exercises, make};
use gradimen_store::Store;
use gradimen_store::journal::PRACTICE;
use jiff::{SignedDuration, Timestamp};

/// Exercise, how it was done, with which hints, and how many days ago; nothing where it was only begun.
const DONE: [(&str, Option<Way>, Hints, i64); 4] = [
    ("first_intonation", Some(Way::Plan), Hints::Full, 9),
    ("season", Some(Way::Plan), Hints::OnRequest, 6),
    ("wound_neck", Some(Way::Trial), Hints::Off, 2),
    ("nut_slots", None, Hints::OnRequest, 0),
];

/// Fills the data of the practice bench beside a shop's.
pub(super) async fn fill(folder: &Path, now: Timestamp) -> anyhow::Result<()> {
    let store = Store::open_from(&folder.join("practice"), PRACTICE).await?;
    for (key, way, hints, days) in DONE {
        let at = now - SignedDuration::from_hours(24 * days);
        let exercise = exercises::of(key).context("no such exercise")?;
        let (instrument, opening) = make::opening(&exercise.again(0, hints))?;
        let mut events = opening;
        if let Some(way) = way {
            let done = worked(&events, way).context("an exercise that can be done")?;
            events = done.events;
            events.push(Event::Observed {
                what: Observation::Practised {
                    what: Practised::HandedIn {
                        toll: done.toll,
                        par: done.par,
                    },
                },
            });
        }
        let mut events = events.into_iter();
        let Some(Event::Opened(opened)) = events.next() else {
            anyhow::bail!("an opening that opens nothing");
        };
        let id = store.add_instrument(&instrument, at).await?;
        store.open_with(id, *opened, events.collect(), at).await?;
    }
    store.close().await?;
    Ok(())
}
