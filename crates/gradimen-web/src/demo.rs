//! Demo data: a county music library that lends electric guitars and basses, each with a stock
//! number and a bird's name. Its jobs are worked through on stand-in instruments by the same events
//! as a person's, so their numbers hang together.

use std::path::Path;

use anyhow::Context;
use gradimen_bench::event::{Against, Event, Hand, Opened, Player, Stage, Strung, Tuner, Tuning};
use gradimen_bench::hardware::{Bridge, BridgeFamily};
use gradimen_bench::instrument::{Instrument, Kind};
use gradimen_bench::job::Job;
use gradimen_bench::methods;
use gradimen_bench::plan::{Action, Plan};
use gradimen_bench::record::Measured;
use gradimen_core::intonation::Reference;
use gradimen_core::quantity::{Cents, Length};
use gradimen_core::units::{LengthUnit, parse_length};
use gradimen_sim::{Chance, Saddle};
use gradimen_store::Store;
use jiff::{SignedDuration, Timestamp};

/// A bird of the library, and how far its job has come.
struct Bird {
    number: &'static str,
    name: &'static str,
    kind: Kind,
    strings: u8,
    scales: &'static [&'static str],
    frets: u8,
    family: BridgeFamily,
    left_handed: bool,
    purpose: &'static str,
    hand: Hand,
    style: &'static str,
    set: usize,
    tuning: usize,
    days_ago: i64,
    stage: Stage,
    /// How many steps of the plan were followed.
    steps: usize,
}

const BIRDS: [Bird; 8] = [
    bird(
        "27",
        "Heron",
        Kind::Guitar,
        &["25.5 in"],
        BridgeFamily::KnifeEdgeVibrato,
        "before loan",
        Stage::OnBench,
        0,
    ),
    Bird {
        hand: Hand::Light,
        style: "school big band, chords",
        ..bird(
            "9",
            "Wren",
            Kind::Guitar,
            &["24.75 in"],
            BridgeFamily::TwoPost,
            "buzz reported on string 4",
            Stage::Waiting,
            0,
        )
    },
    Bird {
        style: "evening class, fingers",
        ..bird(
            "14",
            "Bittern",
            Kind::Bass,
            &["34 in"],
            BridgeFamily::BentPlateBass,
            "after loan, new strings",
            Stage::Resting,
            5,
        )
    },
    Bird {
        hand: Hand::Hard,
        style: "country picker",
        ..bird(
            "31",
            "Dunlin",
            Kind::Guitar,
            &["25.5 in"],
            BridgeFamily::ThreeBarrel,
            "yearly check",
            Stage::OnBench,
            7,
        )
    },
    Bird {
        frets: 24,
        style: "film scores, slow lines",
        ..bird(
            "40",
            "Curlew",
            Kind::Baritone,
            &["27 in"],
            BridgeFamily::FixedPlate,
            "strung for low B",
            Stage::Ready,
            200,
        )
    },
    Bird {
        left_handed: true,
        hand: Hand::Light,
        style: "surf trio, left-handed",
        ..bird(
            "12",
            "Siskin",
            Kind::Guitar,
            &["25.5 in"],
            BridgeFamily::RockingTail,
            "neck replaced by a borrower",
            Stage::OnBench,
            0,
        )
    },
    Bird {
        strings: 7,
        frets: 24,
        set: 2,
        tuning: 1,
        hand: Hand::Hard,
        style: "heavy riffs, half a step down",
        ..bird(
            "52",
            "Osprey",
            Kind::Guitar,
            &[
                "25.5 in", "25.7 in", "25.9 in", "26.1 in", "26.4 in", "26.7 in", "27 in",
            ],
            BridgeFamily::FixedPlate,
            "before loan, new tuning",
            Stage::Waiting,
            0,
        )
    },
    Bird {
        strings: 5,
        frets: 22,
        days_ago: 40,
        style: "church band",
        ..bird(
            "18",
            "Plover",
            Kind::Bass,
            &["34 in"],
            BridgeFamily::SingleStringBass,
            "before loan",
            Stage::Returned,
            200,
        )
    },
];

/// A bird with what most of them have.
#[allow(clippy::too_many_arguments)]
const fn bird(
    number: &'static str,
    name: &'static str,
    kind: Kind,
    scales: &'static [&'static str],
    family: BridgeFamily,
    purpose: &'static str,
    stage: Stage,
    steps: usize,
) -> Bird {
    let (strings, frets) = match kind {
        Kind::Bass => (4, 20),
        Kind::Guitar | Kind::Baritone => (6, 22),
    };
    Bird {
        number,
        name,
        kind,
        strings,
        scales,
        frets,
        family,
        left_handed: false,
        purpose,
        hand: Hand::Medium,
        style: "dance band",
        set: 0,
        tuning: 0,
        days_ago: 1,
        stage,
        steps,
    }
}

/// The bench's tuner in the demo: a good pedal, and the hand that plays into it.
const TUNER: gradimen_sim::Tuner = gradimen_sim::Tuner {
    step: Cents::new(0.1),
    scatter: Cents::new(0.4),
};

impl Bird {
    fn instrument(&self) -> anyhow::Result<Instrument> {
        let scales: Result<Vec<Measured>, _> = self
            .scales
            .iter()
            .map(|scale| parse_length(scale, LengthUnit::Inch).map(|entry| Measured::from(&entry)))
            .collect();
        Ok(Instrument {
            stock_number: self.number.into(),
            name: self.name.into(),
            scales: scales?,
            frets: self.frets,
            left_handed: self.left_handed,
            bridge: Bridge::profile(self.family, self.strings),
            ..methods::usual_instrument(self.kind, self.strings)
        })
    }

    fn strung(&self) -> Option<Strung> {
        let set = methods::sets(self.kind, self.strings)
            .into_iter()
            .nth(self.set)?;
        let preset = methods::tunings(self.kind, self.strings)
            .into_iter()
            .nth(self.tuning)?;
        Some(Strung {
            set: set.strings,
            tuning: Tuning::of(preset.name, 440.0, &preset.pitches),
        })
    }

    fn opened(&self, instrument: Instrument) -> anyhow::Result<Opened> {
        let strung = self.strung().context("no such set or tuning")?;
        let standard = methods::tunings(self.kind, self.strings).into_iter().next();
        let arrived = (self.tuning > 0).then(|| {
            standard.map(|preset| Strung {
                set: methods::sets(self.kind, self.strings)[0].strings.clone(),
                tuning: Tuning::of(preset.name, 440.0, &preset.pitches),
            })
        });
        Ok(Opened {
            instrument,
            instrument_version: 1,
            purpose: self.purpose.into(),
            player: Player {
                hand: self.hand,
                style: self.style.into(),
            },
            arrived: arrived.flatten(),
            strung,
            heights: methods::usual_heights(self.kind),
            old_strings: false,
        })
    }
}

/// One job being worked through.
struct Worked<'a> {
    store: &'a Store,
    id: i64,
    job: Job,
    at: Timestamp,
    saddles: Vec<Saddle>,
    chance: Chance,
}

impl Worked<'_> {
    /// Tells the job something, a minute after the last.
    async fn tell(&mut self, event: Event) -> anyhow::Result<()> {
        self.at += SignedDuration::from_secs(70);
        self.job = self
            .store
            .append(self.id, self.job.seq(), vec![event], self.at)
            .await?;
        Ok(())
    }

    fn saddle(&mut self, string: u8) -> anyhow::Result<&mut Saddle> {
        self.saddles
            .get_mut(usize::from(string - 1))
            .context("no such string")
    }

    async fn read(&mut self, string: u8, fret: u8) -> anyhow::Result<()> {
        let (reference, against) = if fret == 12 {
            (Reference::Harmonic, Against::Harmonic)
        } else {
            (Reference::Open, Against::Open)
        };
        let saddle = self
            .saddles
            .get(usize::from(string - 1))
            .context("no such string")?;
        let cents = saddle
            .read(fret, reference, TUNER, &mut self.chance)?
            .value();
        self.tell(Event::IntonationRead {
            string,
            fret,
            cents,
            against,
        })
        .await
    }

    /// Makes the planned move of a string's saddle, where there is one.
    async fn turn(&mut self, string: u8) -> anyhow::Result<()> {
        let plan = Plan::of(&self.job);
        let Some(saddle) = plan.saddle_of(string) else {
            return Ok(());
        };
        if let Some(step) = saddle.next_move() {
            let turns = step.turns;
            for on in saddle.strings() {
                self.saddle(on)?.turn(turns);
            }
            self.tell(Event::SaddleMoved {
                string,
                turns: turns.value(),
            })
            .await?;
        }
        Ok(())
    }

    /// Does what the plan says so many times, or until it has nothing more to say.
    async fn follow(&mut self, steps: usize) -> anyhow::Result<()> {
        for _ in 0..steps {
            let plan = Plan::of(&self.job);
            let Some(string) = plan.next_string() else {
                break;
            };
            match plan.saddle_of(string).map(|saddle| &saddle.action) {
                Some(Action::Turn(_)) => self.turn(string).await?,
                Some(Action::Blocked | Action::Stuck) => break,
                _ => self.read(string, 12).await?,
            }
        }
        Ok(())
    }
}

/// Fills a new data file in a folder.
///
/// # Errors
/// When the file cannot be written.
pub async fn fill(folder: &Path) -> anyhow::Result<()> {
    let store = Store::open(folder).await?;
    fill_store(&store, Timestamp::now()).await?;
    store.close().await;
    Ok(())
}

async fn fill_store(store: &Store, now: Timestamp) -> anyhow::Result<()> {
    for (bird, seed) in BIRDS.iter().zip(1..) {
        let at = now - SignedDuration::from_hours(24 * bird.days_ago);
        let instrument = bird.instrument()?;
        let instrument_id = store.add_instrument(&instrument, at).await?;
        let id = store
            .open_job(instrument_id, bird.opened(instrument)?, at)
            .await?;
        let job = Job::fold(&store.job(id).await?.entries)?;
        let mut chance = Chance::new(seed * 7919);
        let pitch = job.instrument().bridge.intonation.pitch.middle();
        let saddles = job
            .strings()
            .iter()
            .zip(&OFF_MM)
            .map(|(state, off)| {
                let off = Length::from_mm(*off);
                Saddle::hidden(&state.speaking, &state.spec, pitch, off, &mut chance)
            })
            .collect::<Result<_, _>>()?;
        let mut worked = Worked {
            store,
            id,
            job,
            at,
            saddles,
            chance,
        };
        worked
            .tell(Event::TunerChosen {
                tuner: Tuner {
                    name: methods::TUNERS[1].0.into(),
                    resolution_cents: methods::TUNERS[1].1.value(),
                },
            })
            .await?;
        match bird.name {
            "Heron" => heron(&mut worked).await?,
            "Siskin" => siskin(&mut worked).await?,
            _ => worked.follow(bird.steps).await?,
        }
        worked.tell(Event::StageSet { stage: bird.stage }).await?;
    }
    Ok(())
}

/// How far each saddle stood from its right place when it came, string 1 first.
const OFF_MM: [f64; 8] = [-0.7, 1.1, -2.3, -0.9, 1.2, -2.6, 0.6, -1.4];

/// Mid-work: two strings right, one to move, one moved and to be read again, one without room.
async fn heron(worked: &mut Worked<'_>) -> anyhow::Result<()> {
    worked
        .tell(Event::ScaleMeasured {
            string: 1,
            nut_to_twelfth: Measured::from(&parse_length("12 3/4", LengthUnit::Inch)?),
        })
        .await?;
    for string in [1, 2] {
        for _ in 0..12 {
            let plan = Plan::of(&worked.job);
            match plan.saddle_of(string).map(|saddle| &saddle.action) {
                Some(Action::Turn(_)) => worked.turn(string).await?,
                Some(Action::Leave) | None => break,
                _ => worked.read(string, 12).await?,
            }
        }
    }
    for string in [3, 3, 4, 5, 6] {
        worked.read(string, 12).await?;
    }
    worked.turn(5).await?;
    let behind = Measured::from(&parse_length("3/64", LengthUnit::Inch)?);
    worked.tell(Event::RoomMeasured { string: 6, behind }).await
}

/// A neck of another scale on this body.
async fn siskin(worked: &mut Worked<'_>) -> anyhow::Result<()> {
    let nut_to_twelfth = Measured::from(&parse_length("325.9 mm", LengthUnit::Millimetre)?);
    worked
        .tell(Event::ScaleMeasured {
            string: 1,
            nut_to_twelfth,
        })
        .await?;
    worked.tell(Event::StringsAged { old: true }).await
}

#[cfg(test)]
mod tests {
    use super::*;
    use gradimen_bench::findings::Severity;
    use gradimen_store::library::Search;

    #[actix_web::test]
    async fn the_demo_shows_every_state() {
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
            Job::fold(&store.job(found[0].id).await.unwrap().entries).unwrap()
        };
        let heron = Plan::of(&of("heron").await);
        let action = |string| heron.saddle_of(string).unwrap().action.clone();
        assert_eq!((action(1), action(2)), (Action::Leave, Action::Leave));
        assert!(matches!(action(3), Action::Turn(_)), "{:?}", action(3));
        assert_eq!(action(6), Action::Blocked);
        assert!(Plan::of(&of("curlew").await).intonation_done());
        let siskin = Plan::of(&of("siskin").await);
        assert_eq!(siskin.findings[0].severity(), Severity::Stop);
    }
}
