//! Listening at a station: sound comes in blocks, and for every note goes back what it comes to and what is to be told.

use actix_web::{HttpRequest, HttpResponse, web};
use actix_ws::{Message, MessageStream, Session};
use futures_util::StreamExt;
use gradimen_ear::{
    Ear, Kind, Levels, Listener, Note, Pairs, Rattles, Refusal, Said, Stretch, Tuning,
};
use gradimen_store::accounts::Deed;
use gradimen_store::{Store, Worked};
use serde::Deserialize;

use super::answer::{Answer, lane, plain};
use super::buzz::{self, Strokes};
use super::level;
use super::paired::{TWELFTH, named, paired};
use super::tune::{self, Landing};
use crate::access::Kept;
use crate::errors::Failure;
use crate::vocabulary::*;

/// The largest block: a quarter of a second at the highest rate, four bytes a sample.
const BLOCK: usize = 192 * 1024;

/// How the sound comes, and what it is listened to for.
#[derive(Debug, Deserialize)]
struct Begins {
    /// Samples a second.
    rate: f64,
    /// The key of a [`Purpose`].
    #[serde(rename = "for")]
    purpose: String,
    /// Whether it is a recording rather than a microphone.
    #[serde(default)]
    recording: bool,
}

/// What is listened for.
#[derive(Debug, Clone, Copy)]
enum Purpose {
    Intonation,
    Tune,
    Land,
    Stretch,
    /// Levels of this pickup, counted from 1 at the neck.
    Levels(u8),
    /// Buzzes of this string.
    Buzz(u8, Strokes),
}

impl Purpose {
    fn of(key: &str, job: &Known) -> Option<Self> {
        let (key, which) = key.split_once('-').unwrap_or((key, ""));
        let which = || which.parse::<u8>().ok();
        Some(match key {
            "intonation" => Self::Intonation,
            "tune" => Self::Tune,
            "land" => Self::Land,
            "stretch" => Self::Stretch,
            "level" => {
                let pickups = job.instrument().pickups.len();
                let on = |pickup: &u8| (1..=pickups).contains(&usize::from(*pickup));
                Self::Levels(which().filter(on)?)
            }
            "buzz" | "play" => {
                let strings = job.instrument().strings;
                let string = which().filter(|string| (1..=strings).contains(string))?;
                let play = key == "play";
                Self::Buzz(
                    string,
                    if play {
                        Strokes::PlayTest
                    } else {
                        Strokes::Onset
                    },
                )
            }
            _ => return None,
        })
    }
}

/// What was heard so far of it.
enum Hears {
    Intonation(Pairs),
    Tuning(Tuning),
    Stretch(Stretch),
    Levels(u8, Levels),
    Rattles(u8, Strokes, Rattles),
}

/// Listens to one job.
pub(crate) async fn listen(
    request: HttpRequest,
    store: Kept,
    id: web::Path<i64>,
    body: web::Payload,
) -> Result<HttpResponse, Failure> {
    store.may(Deed::Work)?;
    store.worked(*id).await?;
    let (answer, session, stream) = actix_ws::handle(&request, body).map_err(|error| {
        Failure::Form(format!(
            "this address is spoken to by a page that listens: {error}"
        ))
    })?;
    let stream = stream.max_frame_size(BLOCK);
    let kept = store.clone();
    actix_web::rt::spawn(conversation(kept, *id, session, stream));
    Ok(answer)
}

/// Hears a page out; what it cannot have meant ends it, and the end of a recording.
async fn conversation(store: Store, id: i64, mut session: Session, mut stream: MessageStream) {
    let mut listening: Option<Listening> = None;
    let mut ended = false;
    while let Some(Ok(message)) = stream.next().await {
        let said = match message {
            Message::Text(text) if &*text == END => {
                ended = true;
                listening
                    .as_mut()
                    .map(|listening| listening.listener.finish())
            }
            Message::Text(text) => {
                listening = begun(&store, id, &text).await;
                listening.is_some().then(Vec::new)
            }
            Message::Binary(bytes) => match listening.take() {
                Some(current) => hear(current, bytes).await.map(|(current, said)| {
                    listening = Some(current);
                    said
                }),
                None => None,
            },
            Message::Ping(bytes) => session.pong(&bytes).await.ok().map(|()| Vec::new()),
            Message::Close(_) => None,
            _ => Some(Vec::new()),
        };
        let Some(said) = said else { break };
        for said in said {
            let (Some(current), Ok(worked)) = (&mut listening, store.worked(id).await) else {
                break;
            };
            let answer = serde_json::to_string(&current.answer(&worked, said));
            let Ok(answer) = answer else { break };
            if session.text(answer).await.is_err() {
                return;
            }
        }
        if ended {
            break;
        }
    }
    // Whoever is gone already needs no farewell.
    let _ = session.close(None).await;
}

/// What stands at the end of a recording.
const END: &str = "end";

async fn begun(store: &Store, id: i64, text: &str) -> Option<Listening> {
    let begins: Begins = serde_json::from_str(text).ok()?;
    if !(16_000.0..=192_000.0).contains(&begins.rate) {
        return None;
    }
    let worked = store.worked(id).await.ok()?;
    let purpose = Purpose::of(&begins.purpose, &worked.known)?;
    let mut listening = Listening::new(&worked, begins.rate, purpose);
    if begins.recording {
        listening.listener = listening.listener.of_recording();
    }
    Some(listening)
}

/// A block is heard beside the threads that answer the other requests.
async fn hear(mut listening: Listening, bytes: web::Bytes) -> Option<(Listening, Vec<Said>)> {
    let heard = web::block(move || {
        let sample = |four: &[u8]| f32::from_le_bytes([four[0], four[1], four[2], four[3]]);
        let samples = bytes.chunks_exact(4).map(sample).map(f64::from);
        let samples: Vec<f64> = samples.collect();
        let said = listening.listener.hear(&samples);
        (listening, said)
    });
    heard.await.ok()
}

/// One page that listens.
struct Listening {
    listener: Listener,
    purpose: Purpose,
    ear: Ear,
    hears: Hears,
    /// Where the strings of a float land, as it was known when the ear was made.
    lands: Option<Landing>,
}

impl Listening {
    fn new(worked: &Worked, rate: f64, purpose: Purpose) -> Self {
        let (ear, hears, lands) = Self::ear_for(worked, purpose);
        let pitches = ear.pitches();
        Self {
            listener: match purpose {
                Purpose::Buzz(..) => Listener::for_bursts(rate, &pitches),
                _ => Listener::new(rate, &pitches),
            },
            purpose,
            ear,
            hears,
            lands,
        }
    }

    fn ear_for(worked: &Worked, purpose: Purpose) -> (Ear, Hears, Option<Landing>) {
        let job = &worked.known;
        let open = |string| {
            let state = job.string_state(string);
            state.map_or(0.0, |state| state.pitch.frequency(job.concert()).hertz())
        };
        let strings = job.instrument().strings;
        let open: Vec<f64> = (1..=strings).map(open).collect();
        if let Purpose::Buzz(string, strokes) = purpose {
            let open = open.get(usize::from(string) - 1).copied().unwrap_or(0.0);
            // Past the last fret nothing can be met.
            let last = job.instrument().frets - u8::from(strokes == Strokes::Onset);
            let frets: Vec<u8> = (1..=last).collect();
            let rattles = match strokes {
                Strokes::Onset => Rattles::of(open, last),
                Strokes::PlayTest => Rattles::play_test(open, last),
            };
            let hears = Hears::Rattles(string, strokes, rattles);
            return (Ear::new(&[open], &frets), hears, None);
        }
        let lands = match purpose {
            Purpose::Land => tune::lands(worked),
            _ => None,
        };
        let hears = match (purpose, &lands) {
            (Purpose::Intonation, _) => Hears::Intonation(Pairs::default()),
            (Purpose::Stretch, _) => Hears::Stretch(Stretch::default()),
            (Purpose::Levels(pickup), _) => Hears::Levels(pickup, Levels::of(strings)),
            (_, Some(landing)) => Hears::Tuning(Tuning::in_order(landing.order.clone())),
            (Purpose::Tune | Purpose::Land | Purpose::Buzz(..), None) => {
                Hears::Tuning(Tuning::in_tune(strings))
            }
        };
        let ear = match &lands {
            Some(landing) => Ear::tuned_off(&open, &landing.cents),
            None => Ear::new(&open, &[TWELFTH]),
        };
        (ear, hears, lands)
    }

    /// The claw may have been turned since it began to listen: the strings land elsewhere then.
    fn keeps_up(&mut self, worked: &Worked) {
        if matches!(self.purpose, Purpose::Land) && tune::lands(worked) != self.lands {
            (self.ear, self.hears, self.lands) = Self::ear_for(worked, self.purpose);
        }
    }

    fn answer(&mut self, worked: &Worked, said: Said) -> Answer {
        match said {
            Said::First(note) => self.so_far(worked, note),
            Said::Note(note) => self.heard(worked, note),
            Said::Refused(_, refusal) => {
                if let Hears::Intonation(pairs) = &mut self.hears {
                    pairs.missed(refusal);
                }
                refused(refusal)
            }
            Said::Struck(struck) => match &mut self.hears {
                Hears::Rattles(string, strokes, rattles) => {
                    let said = rattles.take(&struck);
                    buzz::rattled(&worked.known, *string, *strokes, said)
                }
                // Nobody else asked for it.
                _ => refused(Refusal::Noise),
            },
        }
    }

    fn next(&self, worked: &Worked) -> Option<(u8, Kind)> {
        match &self.hears {
            Hears::Intonation(pairs) => {
                let asked = worked.plan.intonation.next_string();
                let asked = asked.map(|string| (string, Kind::Harmonic));
                pairs.next().or(asked)
            }
            Hears::Tuning(tuning) => tuning.next().map(|string| (string, Kind::Open)),
            Hears::Levels(_, levels) => levels.next().map(|string| (string, Kind::Open)),
            Hears::Stretch(_) | Hears::Rattles(..) => None,
        }
    }

    /// While it still rings: which note it is taken for.
    fn so_far(&self, worked: &Worked, rings: Note) -> Answer {
        let heard = self.ear.heard(rings, self.next(worked));
        let big = named(&worked.known, &heard);
        let lane = lane(heard.cents, heard.note.width, false);
        Answer {
            whole: false,
            ..plain(&big, "listening\u{2026}", lane)
        }
    }

    fn heard(&mut self, worked: &Worked, rang: Note) -> Answer {
        let job = &worked.known;
        if matches!(self.purpose, Purpose::Land) && tune::claw_first(worked) {
            return tune::not_yet();
        }
        self.keeps_up(worked);
        let heard = self.ear.heard(rang, self.next(worked));
        let pairs = match &mut self.hears {
            Hears::Intonation(pairs) => pairs,
            Hears::Tuning(tuning) => return tune::tuned(job, tuning.take(&heard), &heard),
            Hears::Stretch(stretch) => {
                let strings = job.instrument().strings;
                return tune::stretched(job, stretch.take(&heard, strings), &heard);
            }
            // What was struck to hear a buzz comes as a stroke, never as a note.
            Hears::Rattles(..) => return refused(Refusal::Noise),
            Hears::Levels(pickup, levels) => {
                let pickup = *pickup;
                return level::leveled(job, pickup, levels.take(&heard), &heard);
            }
        };
        paired(worked, pairs, &heard)
    }
}

fn refused(refusal: Refusal) -> Answer {
    plain("Once more", &refusal.to_string(), String::new())
}
