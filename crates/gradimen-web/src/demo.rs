//! Demo data: a county music library that lends electric guitars and basses, each with a stock
//! number and a bird's name. Its jobs are worked through on stand-in instruments by the same events
//! as a person's, so their numbers hang together.

mod birds;
mod earlier;
mod practised;
mod said;

use crate::vocabulary::*;
use std::path::Path;
use std::sync::Arc;

use anyhow::Context;
use birds::{BIRDS, Bird, Until};
use gradimen_core::units::{LengthUnit, parse_length};
use gradimen_sim::{Condition, Rng, SimulatedInstrument};
use gradimen_store::{Store, Worked};
use gradimen_trial::technician;
use jiff::{SignedDuration, Timestamp};

impl Bird {
    fn instrument(&self) -> anyhow::Result<Instrument> {
        let scales: Result<Vec<Measurement>, _> = self
            .scales
            .iter()
            .map(|scale| {
                parse_length(scale, LengthUnit::Inch).map(|entry| Measurement::from(&entry))
            })
            .collect();
        let mut bridge = Bridge::profile(self.family, self.strings);
        if let (Some(sheet), "Lapwing") = (&mut bridge.vibrato, self.name) {
            // Its arms and springs were measured once, with a rule.
            for (part, mm) in [
                (&mut sheet.crown_back, 9.5),
                (&mut sheet.crown_up, 10.0),
                (&mut sheet.hook_down, 41.5),
                (&mut sheet.spring_length, 78.5),
                (&mut sheet.tail_back, 31.5),
                (&mut sheet.claw_pitch, 1.75),
            ] {
                *part = Measurement::mm(mm);
            }
        }
        Ok(Instrument {
            stock_number: self.number.into(),
            name: self.name.into(),
            scales: scales?,
            frets: self.frets,
            left_handed: self.left_handed,
            locking_nut: self.family == BridgeFamily::DoubleLocking,
            bridge,
            ..defaults::usual_instrument(self.kind, self.strings)
        })
    }

    fn strung(&self) -> Option<Strung> {
        let set = defaults::sets(self.kind, self.strings)
            .into_iter()
            .nth(self.set)?;
        let preset = defaults::tunings(self.kind, self.strings)
            .into_iter()
            .nth(self.tuning)?;
        Some(Strung {
            set: set.strings,
            tuning: Tuning::of(preset.name, 440.0, &preset.pitches),
        })
    }

    /// The instrument behind its readings: what no claw brings there is another one.
    fn simulated(&self, job: &Job, seed: u64) -> anyhow::Result<SimulatedInstrument> {
        let made = (0..20).find_map(|more| {
            let mut comes = Condition {
                saddles_mm: OFF_MM,
                ..Condition::usual(&mut Rng::new(seed * 7919 + more), self.kind == Kind::Bass)
            };
            if self.name == "Knot" {
                comes.relief_mm = [-0.14, 0.24];
            }
            if self.name == "Wren" {
                comes.relief_mm = [0.42, 0.46];
            }
            SimulatedInstrument::hidden(job.instrument(), &job.strung(), &comes, seed * 31 + more)
        });
        made.context("an instrument that can come like that")
    }

    fn opened(&self, instrument: Instrument) -> anyhow::Result<Opened> {
        let strung = self.strung().context("no such set or tuning")?;
        let standard = defaults::tunings(self.kind, self.strings)
            .into_iter()
            .next();
        let arrived = (self.tuning > 0).then(|| {
            standard.map(|preset| Strung {
                set: defaults::sets(self.kind, self.strings)[0].strings.clone(),
                tuning: Tuning::of(preset.name, 440.0, &preset.pitches),
            })
        });
        Ok(Opened {
            heights: defaults::usual_heights(&instrument),
            instrument,
            instrument_version: 1,
            purpose: self.purpose.into(),
            player: Player {
                touch: self.touch,
                style: self.style.into(),
            },
            arrived: arrived.flatten(),
            strung,
            old_strings: false,
            taught: Vec::new(),
            last_time: None,
            practice: None,
        })
    }
}

/// One job being worked through.
struct Bench<'a> {
    store: &'a Store,
    id: i64,
    worked: Arc<Worked>,
    at: Timestamp,
    simulated: SimulatedInstrument,
    /// What nobody reads on it.
    skipped: Vec<Place>,
}

impl Bench<'_> {
    /// Records something, a minute after the last.
    async fn tell(&mut self, event: Event) -> anyhow::Result<()> {
        self.at += SignedDuration::from_secs(70);
        let seen = self.worked.job.seq();
        self.worked = self
            .store
            .append(self.id, seen, vec![event], self.at)
            .await?;
        Ok(())
    }

    async fn read(&mut self, string: u8) -> anyhow::Result<()> {
        let place = Place::Intonation { string, fret: 12 };
        let event = self.simulated.read(place).context("a string that sounds")?;
        self.tell(event).await
    }

    /// Reads a string until its saddle's move stands, or five times.
    async fn read_until_it_moves(&mut self, string: u8) -> anyhow::Result<()> {
        for _ in 0..5 {
            let saddle = self.worked.plan.intonation.saddle_of(string);
            if saddle.and_then(SaddlePlan::next_move).is_some() {
                break;
            }
            self.read(string).await?;
        }
        Ok(())
    }

    /// Makes the planned move of a string's saddle, where there is one.
    async fn turn(&mut self, string: u8) -> anyhow::Result<()> {
        let saddle = self.worked.plan.intonation.saddle_of(string);
        let step = saddle.and_then(SaddlePlan::next_move);
        if let Some((adjuster, amount)) = step.map(|step| (step.adjuster, step.amount.clone())) {
            for event in self.simulated.adjust(adjuster, &amount) {
                self.tell(event).await?;
            }
        }
        Ok(())
    }

    /// Does what the plan says until it has come so far, or has nothing more to say.
    async fn follow(&mut self, until: Until) -> anyhow::Result<()> {
        let mut steps = 0;
        loop {
            let worked = Arc::clone(&self.worked);
            let (known, plan) = (&worked.known, &worked.plan);
            let there = plan.next_station(known);
            // The checks before the first screw are no steps of a station.
            let there_now = there.filter(|_| plan.first.is_empty());
            let enough = match until {
                Until::Nothing => true,
                Until::Done => there.is_none(),
                Until::At(wanted, most) => {
                    if there_now == Some(wanted) {
                        steps += 1;
                    }
                    there.is_none() || there > Some(wanted) || steps > most
                }
                Until::Turn(wanted, least) => {
                    if there_now == Some(wanted) {
                        steps += 1;
                    }
                    let moves = JobPlan::of(known, plan).moves;
                    there.is_none()
                        || there > Some(wanted)
                        || steps > least && moves.iter().any(|step| step.station == wanted)
                }
            };
            let asked = technician::asked(known, plan, &self.skipped).filter(|_| !enough);
            let events = asked.map_or_else(Vec::new, |asked| {
                technician::follow(&mut self.simulated, &asked)
            });
            if events.is_empty() {
                return Ok(());
            }
            for event in events {
                self.tell(event).await?;
            }
        }
    }
}

/// Fills a new data file in a folder.
///
/// # Errors
/// When the file cannot be written.
pub async fn fill(folder: &Path) -> anyhow::Result<()> {
    let store = Store::open(folder).await?;
    let now = Timestamp::now();
    fill_store(&store, now).await?;
    store.close().await?;
    practised::fill(folder, now).await
}

async fn fill_store(store: &Store, now: Timestamp) -> anyhow::Result<()> {
    let shop = Shop {
        name: "County music library, workshop".into(),
        ..Shop::default()
    };
    store.keep_shop(0, &shop, now).await?;
    for (bird, seed) in BIRDS.iter().zip(1..) {
        let at = now - SignedDuration::from_hours(24 * bird.days_ago);
        let instrument = bird.instrument()?;
        let instrument_id = store.add_instrument(&instrument, at).await?;
        if bird.name == "Plover" {
            earlier::visits(store, instrument_id, bird, &instrument, now).await?;
        }
        let id = store
            .open_job(
                instrument_id,
                earlier::again(store, instrument_id, bird, &instrument).await?,
                at,
            )
            .await?;
        let worked = store.worked(id).await?;
        let simulated = bird.simulated(&worked.job, seed)?;
        let mut worked = Bench {
            store,
            id,
            worked,
            at,
            simulated,
            // Where its saddle runs out of room is found out late.
            skipped: if bird.name == "Heron" {
                vec![Place::Room { string: 6 }]
            } else {
                Vec::new()
            },
        };
        worked
            .tell(Event::Observed {
                what: Observation::Tuner {
                    tuner: Tuner {
                        name: defaults::TUNERS[1].0.into(),
                        resolution_cents: defaults::TUNERS[1].1.value(),
                    },
                },
            })
            .await?;
        let (told, proved) = said::of(bird.name);
        for event in told {
            worked.tell(event).await?;
        }
        worked.follow(bird.until).await?;
        match bird.name {
            "Heron" => heron(&mut worked).await?,
            "Siskin" => siskin(&mut worked).await?,
            "Avocet" => {
                for string in 1..=6 {
                    let place = Place::PolePiece { pickup: 0, string };
                    let event = worked.simulated.read(place).context("a pole")?;
                    worked.tell(event).await?;
                }
            }
            "Wren" => {
                let (string, held, attack) = (4, 5, 0.5);
                worked
                    .tell(Event::Observed {
                        what: Observation::Buzz {
                            buzz: Buzz {
                                string,
                                held,
                                attack,
                                doubt: None,
                            },
                        },
                    })
                    .await?;
            }
            _ => {}
        }
        for event in proved {
            worked.tell(event).await?;
        }
        worked.tell(Event::Staged { stage: bird.stage }).await?;
    }
    Ok(())
}

/// How far each saddle stood from its right place when it came, string 1 first.
const OFF_MM: [f64; 8] = [-0.7, 1.1, -2.3, -0.9, 1.2, -3.6, 0.6, -1.4];

/// Mid-work: two strings right, one to move, one moved and to be read again, one without room.
async fn heron(worked: &mut Bench<'_>) -> anyhow::Result<()> {
    worked
        .tell(Event::read(
            Place::Scale { string: 1 },
            Reading::Length {
                length: Measurement::from(&parse_length("12 3/4", LengthUnit::Inch)?),
            },
        ))
        .await?;
    // On a float every saddle that goes takes the others' readings with it: what is to stay read is read last.
    worked.read_until_it_moves(5).await?;
    worked.turn(5).await?;
    for string in [1, 2, 1] {
        for _ in 0..16 {
            let plan = &worked.worked.plan;
            match plan
                .intonation
                .saddle_of(string)
                .map(|saddle| &saddle.action)
            {
                Some(Action::Adjust(_)) => worked.turn(string).await?,
                Some(Action::Leave) | None => break,
                _ => worked.read(string).await?,
            }
        }
    }
    for string in [4, 4, 6, 6] {
        worked.read(string).await?;
    }
    worked.read_until_it_moves(3).await?;
    let behind = Measurement::from(&parse_length("1/64", LengthUnit::Inch)?);
    worked
        .tell(Event::read(
            Place::Room { string: 6 },
            Reading::Length { length: behind },
        ))
        .await
}

/// A neck of another scale on this body.
async fn siskin(worked: &mut Bench<'_>) -> anyhow::Result<()> {
    let nut_to_twelfth = Measurement::from(&parse_length("325.9 mm", LengthUnit::Millimetre)?);
    worked
        .tell(Event::read(
            Place::Scale { string: 1 },
            Reading::Length {
                length: nut_to_twelfth,
            },
        ))
        .await?;
    worked
        .tell(Event::Observed {
            what: Observation::Strings { old: true },
        })
        .await
}

#[cfg(test)]
mod tests {
    use super::*;
    use gradimen_store::library::Search;

    #[test]
    fn the_demo_shows_every_state() {
        actix_web::rt::System::new().block_on(async {
            let folder = tempfile::tempdir().unwrap();
            let store = Store::open(folder.path()).await.unwrap();
            fill_store(&store, Timestamp::from_second(1_790_000_000).unwrap())
                .await
                .unwrap();
            assert!(
                store
                    .stage_counts()
                    .await
                    .unwrap()
                    .iter()
                    .all(|count| *count > 0)
            );
            let of = async |name: &str| {
                let search = Search {
                    words: name.into(),
                    ..Search::default()
                };
                let (found, _) = store.jobs(&search).await.unwrap();
                store.worked(found[0].id).await.unwrap()
            };
            let heron = of("heron").await;
            let action = |string| {
                heron
                    .plan
                    .intonation
                    .saddle_of(string)
                    .unwrap()
                    .action
                    .clone()
            };
            assert_eq!((action(1), action(2)), (Action::Leave, Action::Leave));
            assert!(matches!(action(3), Action::Adjust(_)), "{:?}", action(3));
            assert!(
                matches!(action(6), Action::Stop(Stop::OutOfTravel { .. })),
                "{:?}",
                action(6)
            );
            assert!(of("curlew").await.plan.intonation.is_done());
            let siskin = of("siskin").await;
            assert_eq!(siskin.plan.findings[0].severity(), Severity::Stop);
        });
    }
}
