//! A job: its frame (title, stations, undo) around the station in hand, and what it is told.

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, web};
use gradimen_bench::doubt::{self, Question};
use gradimen_bench::event::Stage;
use gradimen_bench::job::{Job, JobError};
use gradimen_bench::plan::{Plan, Verdict};
use gradimen_bench::summary::{self, Mark};
use gradimen_bench::whole::next_station;
use gradimen_store::{Store, StoreError};
use jiff::Timestamp;

use super::tell;
use super::{clearance, intake, intonation, page, record, see, setup, strings, what_if, whole};
use crate::errors::Failure;
use crate::forms::Fields;
use crate::svg;

/// A station of the job page.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Station {
    Intake,
    Strings,
    Balance,
    Relief,
    Nut,
    Height,
    Intonation,
    Pickups,
    Clearance,
    Plan,
    WhatIf,
    Record,
}

impl Station {
    const ALL: [Self; 12] = [
        Self::Intake,
        Self::Strings,
        Self::Balance,
        Self::Relief,
        Self::Nut,
        Self::Height,
        Self::Intonation,
        Self::Pickups,
        Self::Clearance,
        Self::Plan,
        Self::WhatIf,
        Self::Record,
    ];

    const fn key(self) -> &'static str {
        match self {
            Self::Intake => "intake",
            Self::Strings => "strings",
            Self::Balance => "balance",
            Self::Relief => "relief",
            Self::Nut => "nut",
            Self::Height => "height",
            Self::Intonation => "intonation",
            Self::Pickups => "pickups",
            Self::Clearance => "clearance",
            Self::Plan => "plan",
            Self::WhatIf => "whatif",
            Self::Record => "record",
        }
    }

    fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|station| station.key() == key)
    }

    /// The key of the keyboard; the numbers between wait for their stations.
    const fn digit(self) -> &'static str {
        match self {
            Self::Intake => "1",
            Self::Strings => "2",
            Self::Balance => "3",
            Self::Relief => "4",
            Self::Nut => "5",
            Self::Height => "6",
            Self::Intonation => "7",
            Self::Pickups => "8",
            Self::Clearance => "9",
            Self::Plan => "p",
            Self::WhatIf => "i",
            Self::Record => "0",
        }
    }
}

/// A station in the strip.
#[derive(Debug, Clone)]
pub(crate) struct Tab {
    pub(crate) name: String,
    pub(crate) href: String,
    pub(crate) digit: &'static str,
    pub(crate) mark: String,
    pub(crate) word: &'static str,
    pub(crate) current: bool,
}

/// What another window did meanwhile, and what was about to be told here.
#[derive(Debug, Clone)]
pub(crate) struct Conflict {
    pub(crate) theirs: Vec<String>,
    pub(crate) mine: Vec<String>,
    pub(crate) again: Vec<(String, String)>,
}

/// A reading that does not fit, asked about before it is believed.
#[derive(Debug, Clone)]
pub(crate) struct Asked {
    pub(crate) read: String,
    pub(crate) expected: String,
    pub(crate) deviations: String,
    /// What it would be without a slip: in words, and the form that tells it.
    pub(crate) slips: Vec<(String, Vec<(String, String)>)>,
    /// The form that keeps it as it was written.
    pub(crate) keep: Vec<(String, String)>,
}

/// The frame around every station.
#[derive(Debug, Clone)]
pub(crate) struct Frame {
    pub(crate) id: i64,
    pub(crate) seq: u64,
    pub(crate) title: String,
    pub(crate) describes: String,
    pub(crate) purpose: String,
    pub(crate) strung: String,
    pub(crate) station: &'static str,
    pub(crate) tabs: Vec<Tab>,
    pub(crate) undo: Option<String>,
    pub(crate) redo: Option<String>,
    pub(crate) conflict: Option<Conflict>,
    pub(crate) question: Option<Asked>,
    pub(crate) wrong: String,
    pub(crate) focus: String,
    /// What is in hand, so that undo and redo stay with it.
    pub(crate) place: Vec<(&'static str, String)>,
}

/// What a page shows of a job: where the eye and the hand are.
#[derive(Debug, Clone, Default)]
pub(crate) struct View {
    pub(crate) fields: Fields,
    pub(crate) conflict: Option<Conflict>,
    pub(crate) question: Option<Asked>,
}

impl View {
    /// The string in hand, where one is named.
    pub(crate) fn string(&self, job: &Job) -> Option<u8> {
        let named = self.fields.text("string").parse().ok();
        named.filter(|string| (1..=job.instrument().strings).contains(string))
    }
}

impl Frame {
    pub(crate) fn new(id: i64, job: &Job, plan: &Plan, station: Station, view: &View) -> Self {
        let marks = |station| match station {
            Station::Intake => Mark::Within,
            Station::Strings => summary::strings_mark(job),
            Station::Balance => summary::balance_mark(plan).unwrap_or(Mark::Within),
            Station::Relief => summary::relief_mark(plan),
            Station::Nut => summary::nut_mark(plan),
            Station::Height => summary::height_mark(plan),
            Station::Intonation => summary::intonation_mark(plan),
            Station::Pickups => summary::pickups_mark(plan),
            Station::Clearance | Station::Plan | Station::WhatIf | Station::Record => Mark::Unread,
        };
        // No springs, nothing to balance.
        let there = |tab: &Station| *tab != Station::Balance || plan.balance.is_some();
        let tabs = Station::ALL
            .into_iter()
            .filter(there)
            .map(|tab| {
                let mark = marks(tab);
                let shape = match mark {
                    Mark::Unread => Verdict::Unread,
                    Mark::Working => Verdict::Recheck,
                    Mark::Within => Verdict::Within,
                    Mark::Blocked => Verdict::Blocked,
                };
                let no_mark = matches!(
                    tab,
                    Station::Clearance | Station::Plan | Station::WhatIf | Station::Record
                );
                let mut name = tab.key().replace("whatif", "what if");
                if let Some(first) = name.get_mut(..1) {
                    first.make_ascii_uppercase();
                }
                Tab {
                    name,
                    href: format!("/jobs/{id}/{}", tab.key()),
                    digit: tab.digit(),
                    mark: if no_mark {
                        String::new()
                    } else {
                        svg::inline_mark(shape)
                    },
                    word: if no_mark { "" } else { mark.word() },
                    current: tab == station,
                }
            })
            .collect();
        let told = |event: Option<gradimen_bench::event::Event>| {
            use gradimen_bench::event::Event;
            let (Some(Event::Undone { target }) | Some(Event::Redone { target })) = event else {
                return None;
            };
            let line = job.lines().iter().find(|line| line.seq == target)?;
            Some(line.event.sentence())
        };
        Self {
            id,
            seq: job.seq(),
            title: job.instrument().title(),
            describes: summary::describes(job),
            purpose: job.purpose().to_owned(),
            strung: summary::strung(job),
            station: station.key(),
            tabs,
            undo: told(job.undo()),
            redo: told(job.redo()),
            conflict: view.conflict.clone(),
            question: view.question.clone(),
            wrong: wrong_anywhere(&view.fields),
            focus: view.fields.text("focus").to_owned(),
            place: place(&view.fields).collect(),
        }
    }

    /// Names another thing in hand where the address did not.
    pub(crate) fn with_place(mut self, name: &'static str, value: &str) -> Self {
        if self.place.iter().all(|(known, _)| *known != name) {
            self.place.push((name, value.to_owned()));
        }
        self
    }

    /// Names the string in hand where the address did not.
    pub(crate) fn with_string(mut self, string: u8) -> Self {
        if self.place.iter().all(|(name, _)| *name != "string") {
            self.place.push(("string", string.to_string()));
        }
        self
    }
}

/// The first error of fields that a station may not show where they stand.
fn wrong_anywhere(fields: &Fields) -> String {
    fields.errors().next().cloned().unwrap_or_default()
}

async fn folded(store: &Store, id: i64) -> Result<Job, Failure> {
    let stored = store.job(id).await?;
    Ok(Job::fold(&stored.entries).map_err(StoreError::from)?)
}

fn render(
    status: StatusCode,
    id: i64,
    job: &Job,
    station: Station,
    view: &View,
) -> Result<HttpResponse, Failure> {
    let plan = Plan::of(job);
    let frame = Frame::new(id, job, &plan, station, view);
    match station {
        Station::Intake => page(status, &intake::station(frame, job, view)),
        Station::Strings => page(status, &strings::station(frame, job, view)),
        Station::Balance => page(status, &setup::balance::station(frame, job, &plan, view)),
        Station::Relief => page(status, &setup::relief::station(frame, job, &plan, view)),
        Station::Nut => page(status, &setup::nut::station(frame, job, &plan, view)),
        Station::Height => page(status, &setup::height::station(frame, job, &plan, view)),
        Station::Intonation => page(status, &intonation::station(frame, job, &plan, view)),
        Station::Pickups => page(status, &setup::pickups::station(frame, job, &plan, view)),
        Station::Clearance => page(status, &clearance::station(frame, job, &plan, view)),
        Station::WhatIf => page(status, &what_if::station(frame, job, view)),
        Station::Plan => page(status, &whole::station(frame, job, &plan)),
        Station::Record => page(status, &record::station(frame, job, view)),
    }
}

/// A job without a station named: where the work is.
pub(crate) async fn show(
    store: web::Data<Store>,
    id: web::Path<i64>,
) -> Result<HttpResponse, Failure> {
    let job = folded(&store, *id).await?;
    let station = match job.stage() {
        Stage::Returned => Station::Record,
        _ => next_station(&Plan::of(&job))
            .and_then(|station| Station::from_key(station.key()))
            .unwrap_or(Station::Intonation),
    };
    Ok(see(&format!("/jobs/{id}/{}", station.key())))
}

/// One station of a job.
pub(crate) async fn station(
    store: web::Data<Store>,
    place: web::Path<(i64, String)>,
    query: web::Query<Vec<(String, String)>>,
) -> Result<HttpResponse, Failure> {
    let (id, key) = place.into_inner();
    let station = Station::from_key(&key).ok_or(Failure::NotFound)?;
    let job = folded(&store, id).await?;
    let view = View {
        fields: Fields::from(query.into_inner()),
        conflict: None,
        question: None,
    };
    render(StatusCode::OK, id, &job, station, &view)
}

/// Tells a job something and goes on to where the work goes on.
pub(crate) async fn tell(
    store: web::Data<Store>,
    id: web::Path<i64>,
    sent: web::Form<Vec<(String, String)>>,
) -> Result<HttpResponse, Failure> {
    let id = *id;
    let mut fields = Fields::from(sent.into_inner());
    let job = folded(&store, id).await?;
    let station = Station::from_key(fields.text("station")).unwrap_or(Station::Record);
    let refuse = |status, fields: Fields, conflict| {
        let view = View {
            fields,
            conflict,
            question: None,
        };
        render(status, id, &job, station, &view)
    };
    let seen = fields.text("seen").parse().unwrap_or(0);
    let told = tell::events(&job, &mut fields).filter(|_| fields.is_right());
    let Some(events) = told else {
        return refuse(StatusCode::UNPROCESSABLE_ENTITY, fields, None);
    };
    if fields.text("sure") != "yes"
        && let Some(asked) = events.iter().find_map(|event| doubt::question(&job, event))
    {
        fields.set("asked", "yes");
        let view = View {
            question: Some(ask(&fields, asked)),
            fields,
            conflict: None,
        };
        return render(StatusCode::UNPROCESSABLE_ENTITY, id, &job, station, &view);
    }
    let mine: Vec<String> = events
        .iter()
        .map(gradimen_bench::event::Event::sentence)
        .collect();
    match store.append(id, seen, events, Timestamp::now()).await {
        Ok(after) => Ok(see(&onward(id, &after, station, &fields))),
        Err(StoreError::Conflict { now, .. }) => {
            let conflict = conflict(&job, seen, now, mine, &fields);
            refuse(StatusCode::CONFLICT, fields, Some(conflict))
        }
        Err(StoreError::Job(error)) => {
            mark_error(&mut fields, &error);
            refuse(StatusCode::UNPROCESSABLE_ENTITY, fields, None)
        }
        Err(other) => Err(other.into()),
    }
}

fn mark_error(fields: &mut Fields, error: &JobError) {
    let field = tell::main_field(fields.text("what"));
    fields.wrong(field, error);
}

/// The question in words, with the forms that answer it.
fn ask(fields: &Fields, question: Question) -> Asked {
    let keep = fields
        .all()
        .map(|(name, value)| (name.clone(), value.clone()))
        .filter(|(name, _)| name != "asked" && name != "sure")
        .chain([("sure".to_owned(), "yes".to_owned())])
        .collect();
    Asked {
        read: question.read,
        expected: question.expected,
        deviations: format!("{:.0}", question.deviations),
        slips: question
            .slips
            .into_iter()
            .map(|slip| {
                let form = slip.instead.map(|event| tell::without_slip(fields, &event));
                (slip.says, form.unwrap_or_default())
            })
            .collect(),
        keep,
    }
}

fn conflict(job: &Job, seen: u64, now: u64, mine: Vec<String>, fields: &Fields) -> Conflict {
    let theirs = job
        .lines()
        .iter()
        .filter(|line| line.seq > seen)
        .map(|line| line.event.sentence())
        .collect();
    // The same once more, now in the knowledge of what came between.
    let again = fields
        .all()
        .map(|(name, value)| {
            let value = if name == "seen" {
                now.to_string()
            } else {
                value.clone()
            };
            (name.clone(), value)
        })
        .collect();
    Conflict {
        theirs,
        mine,
        again,
    }
}

/// What is in hand, as far as the address or the form says.
fn place(fields: &Fields) -> impl Iterator<Item = (&'static str, String)> + '_ {
    [
        "string", "fret", "against", "panel", "side", "school", "held", "pickup",
    ]
    .into_iter()
    .map(|name| (name, fields.text(name).to_owned()))
    .filter(|(_, value)| {
        let plain = |byte: u8| byte.is_ascii_alphanumeric() || byte == b'_';
        !value.is_empty() && value.bytes().all(plain)
    })
}

/// Where the work goes on: the same station, the string just told of in hand, the cursor where
/// the next reading goes.
fn onward(id: i64, job: &Job, station: Station, fields: &Fields) -> String {
    let mut place = format!("/jobs/{id}/{}", station.key());
    let mut query: Vec<String> = self::place(fields)
        .map(|(name, value)| format!("{name}={value}"))
        .collect();
    let string = fields.text("string").parse::<u8>().unwrap_or(1);
    let next = if string >= job.instrument().strings {
        1
    } else {
        string + 1
    };
    let focus = match fields.text("what") {
        "read" => Some(format!("reading-{next}")),
        "move" | "round" => Some(format!("reading-{string}")),
        "relief" => Some(
            if fields.text("side") == "treble" {
                "relief-2"
            } else {
                "relief-1"
            }
            .to_owned(),
        ),
        "balance" | "claw" | "springs" => Some("balance-1".to_owned()),
        "pickup" => {
            let number = fields.text("pickup").parse::<usize>().unwrap_or(1);
            let lane = number.max(1) * 2 - usize::from(fields.text("side") != "bass");
            let all = 2 * job.instrument().pickups.len().max(1);
            Some(format!("pickup-{}", lane % all + 1))
        }
        "pickup_turned" => {
            let number = fields.text("pickup").parse::<usize>().unwrap_or(1);
            let lane = number.max(1) * 2 - usize::from(fields.text("side") != "bass");
            Some(format!("pickup-{lane}"))
        }
        "nut" => Some(format!("nut-{next}")),
        "nut_moved" => Some(format!("nut-{string}")),
        "action" => Some(format!("action-{next}")),
        "height" => Some(format!("action-{string}")),
        "place" => Some(format!("place-{next}")),
        "room" => Some(format!("room-{next}")),
        "scale" => Some("nut_to_twelfth".to_owned()),
        _ => None,
    };
    query.extend(focus.map(|focus| format!("focus={focus}")));
    if !query.is_empty() {
        place.push('?');
        place.push_str(&query.join("&"));
    }
    place
}
