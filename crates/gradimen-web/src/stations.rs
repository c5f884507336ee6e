//! The stations of a job: a folder each, with what its forms tell (`form.rs`), its page and its drawing; and their
//! register: which page is shown, and which form is read where.

pub(crate) mod action;
pub(crate) mod balance;
mod beside;
pub(crate) mod clearance;
pub(crate) mod frets;
pub(crate) mod intake;
pub(crate) mod intonation;
pub(crate) mod job_plan;
pub(crate) mod nut;
pub(crate) mod pickups;
pub(crate) mod proof;
pub(crate) mod record;
pub(crate) mod relief;
pub(crate) mod strings;
pub(crate) mod what_if;

use actix_web::HttpResponse;
use actix_web::http::StatusCode;
use gradimen_core::units::print::on_bench;
use gradimen_store::Worked;

use crate::commands::{Command, What};
use crate::errors::Failure;
use crate::forms::Fields;
use crate::pages::focus::field_of;
use crate::pages::layout::{JobLayout, Tab, View, shape_of};
use crate::pages::page;
use crate::svg;
use crate::vocabulary::*;

/// A station of the job page.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Section {
    Intake,
    Strings,
    Balance,
    Relief,
    Nut,
    Action,
    Intonation,
    Pickups,
    Clearance,
    Frets,
    Plan,
    Proof,
    WhatIf,
    Record,
}

impl Section {
    const ALL: [Self; 14] = [
        Self::Intake,
        Self::Strings,
        Self::Balance,
        Self::Relief,
        Self::Nut,
        Self::Action,
        Self::Intonation,
        Self::Pickups,
        Self::Clearance,
        Self::Frets,
        Self::Plan,
        Self::Proof,
        Self::WhatIf,
        Self::Record,
    ];

    pub(crate) const fn key(self) -> &'static str {
        match self {
            Self::Intake => "intake",
            Self::Strings => "strings",
            Self::Balance => "balance",
            Self::Relief => "relief",
            Self::Nut => "nut",
            Self::Action => "action",
            Self::Intonation => "intonation",
            Self::Pickups => "pickups",
            Self::Clearance => "clearance",
            Self::Frets => "frets",
            Self::Plan => "plan",
            Self::Proof => "proof",
            Self::WhatIf => "whatif",
            Self::Record => "record",
        }
    }

    pub(crate) fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|station| station.key() == key)
    }

    /// The tool of this station that lies on a shop's bench.
    pub(crate) const fn tool(self, shop: &Shop) -> Option<Tool> {
        match self {
            Self::Relief => shop.tools.relief,
            Self::Nut => shop.tools.nut,
            Self::Action => shop.tools.action,
            Self::Pickups => shop.tools.pickups,
            _ => None,
        }
    }

    /// The key of the keyboard; the numbers between wait for their stations.
    const fn digit(self) -> &'static str {
        match self {
            Self::Intake => "1",
            Self::Strings => "2",
            Self::Balance => "3",
            Self::Relief => "4",
            Self::Nut => "5",
            Self::Action => "6",
            Self::Intonation => "7",
            Self::Pickups => "8",
            Self::Clearance => "9",
            // No letter that a reading may begin with: flat, none, touches, rocks, card, pick.
            Self::Frets => "g",
            Self::Plan => "p",
            Self::Proof => "y",
            Self::WhatIf => "i",
            Self::Record => "0",
        }
    }
}

/// The strip of stations.
fn tabs(id: i64, job: &Known, plan: &Plan, station: Section) -> Vec<Tab> {
    let marks = |section: Section| match section {
        Section::Intake => Some(Mark::Within),
        Section::Strings => Some(pulls::mark(job)),
        Section::Clearance
        | Section::Frets
        | Section::Plan
        | Section::Proof
        | Section::WhatIf
        | Section::Record => None,
        _ => {
            let bench = plan.bench();
            let mut here = bench.iter();
            let here = here.find(|station| station.id().key() == section.key());
            here.map(|station| station.mark())
        }
    };
    // No springs, nothing to balance.
    let there = |tab: &Section| *tab != Section::Balance || plan.balance.is_some();
    let shown: Vec<Section> = Section::ALL.into_iter().filter(there).collect();
    let here = shown.iter().position(|tab| *tab == station).unwrap_or(0);
    shown
        .into_iter()
        .enumerate()
        .map(|(at, tab)| {
            let mark = marks(tab);
            let mut name = tab.key().replace("whatif", "what if");
            if let Some(first) = name.get_mut(..1) {
                first.make_ascii_uppercase();
            }
            Tab {
                name,
                href: format!("/jobs/{id}/{}", tab.key()),
                digit: tab.digit(),
                mark: mark.map_or_else(String::new, |mark| svg::inline_mark(shape_of(mark))),
                word: mark.map_or("", text::mark),
                current: tab == station,
                near: at.abs_diff(here) <= 1,
            }
        })
        .collect()
}

/// The places of a station whose reading it asks for.
pub(crate) fn asked_places(job: &Known, plan: &Plan, station: Section) -> Vec<Place> {
    let bench = plan.bench();
    // What the station itself asks for comes first; then what others need of it.
    let (own, others): (Vec<&dyn Station>, Vec<&dyn Station>) = bench
        .into_iter()
        .partition(|here| here.id().key() == station.key());
    let tasks = own.into_iter().chain(others).flat_map(|on| on.tasks(job));
    let places = tasks.flat_map(|task| task.next.places().to_vec());
    // Everything is read at the station that it is read at.
    let at = |place: &Place| Event::read(*place, Reading::Touches).station();
    places
        .filter(|place| at(place).is_some_and(|at| at.key() == station.key()))
        .collect()
}

/// The field of what is asked for: of the string or pickup in hand, of relief the side across from the one just read; else of
/// the first.
fn asked_field(job: &Known, plan: &Plan, station: Section, view: &View) -> Option<String> {
    let asked = asked_places(job, plan, station);
    let text = |name: &str| view.fields.text(name).to_owned();
    let in_hand = asked.iter().find(|place| match place {
        Place::Relief { side, .. } => side.across().key() == text("side"),
        Place::Pickup { pickup, side } => {
            side.key() == text("side") && (pickup + 1).to_string() == text("pickup")
        }
        other => other
            .string()
            .is_some_and(|string| string.to_string() == text("string")),
    });
    field_of(*in_hand.or(asked.first())?)
}

/// The page of a station, written in the units of this bench.
pub(crate) fn render(
    status: StatusCode,
    id: i64,
    worked: &Worked,
    station: Section,
    view: &View,
) -> Result<HttpResponse, Failure> {
    on_bench(view.units, || written(status, id, worked, station, view))
}

fn written(
    status: StatusCode,
    id: i64,
    worked: &Worked,
    station: Section,
    view: &View,
) -> Result<HttpResponse, Failure> {
    let (job, plan) = (&worked.known, &worked.plan);
    let tabs = tabs(id, job, plan, station);
    let frame = JobLayout::new(id, job, station.key(), tabs, view)
        .with_checks(plan.first.len())
        .with_practice(beside::beside(id, worked, station.key(), view))
        .with_asked(|| asked_field(job, plan, station, view));
    match station {
        Section::Intake => page(status, &intake::station(frame, job, plan, view)),
        Section::Strings => page(status, &strings::station(frame, job, view)),
        Section::Balance => page(status, &balance::station(frame, job, plan, view)),
        Section::Relief => page(status, &relief::station(frame, job, plan, view)),
        Section::Nut => page(status, &nut::station(frame, job, plan, view)),
        Section::Action => page(status, &action::station(frame, job, plan, view)),
        Section::Intonation => page(status, &intonation::station(frame, job, plan, view)),
        Section::Pickups => page(status, &pickups::station(frame, job, plan, view)),
        Section::Clearance => page(status, &clearance::station(frame, job, plan, view)),
        Section::WhatIf => page(status, &what_if::station(frame, job, plan, view)),
        Section::Plan => page(status, &job_plan::station(frame, job, plan, view)),
        Section::Frets => page(status, &frets::station(frame, job, plan, view)),
        Section::Proof => page(status, &proof::station(frame, job, view)),
        Section::Record => page(status, &record::station(frame, job, view)),
    }
}

/// A form of a job, and the job it speaks of.
pub(crate) struct Form<'a> {
    pub(crate) job: &'a Known,
    pub(crate) fields: &'a mut Fields,
    /// The shop, for its target sets.
    pub(crate) shop: &'a Shop,
}

/// A form was not understood; what is wrong is marked in its fields.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct NotUnderstood;

impl TryFrom<Form<'_>> for Command {
    type Error = NotUnderstood;

    fn try_from(Form { job, fields, shop }: Form<'_>) -> Result<Self, NotUnderstood> {
        let Some(what) = What::of(fields) else {
            let error = format!(
                "read '{}', which is nothing a job can be told",
                fields.text("what")
            );
            fields.wrong("what", error);
            return Err(NotUnderstood);
        };
        let mut command = read(what, job, fields, shop).ok_or(NotUnderstood)?;
        if let Self::Read {
            confirmed,
            replacing,
            ..
        } = &mut command
        {
            *confirmed = fields.text("sure") == "yes";
            *replacing = fields.text("replace") == "yes";
        }
        if fields.is_right() {
            Ok(command)
        } else {
            Err(NotUnderstood)
        }
    }
}

/// Which form is read where.
fn read(what: What, job: &Known, fields: &mut Fields, shop: &Shop) -> Option<Command> {
    match what {
        What::Undo => offered(
            Command::Undo,
            job.undo(),
            fields,
            "there is nothing to undo",
        ),
        What::Redo => offered(
            Command::Redo,
            job.redo(),
            fields,
            "there is nothing to redo",
        ),
        What::Player => intake::form::player(fields),
        What::Complaint => intake::form::complaint(fields),
        What::Humidity => intake::form::humidity(fields),
        What::Pressed => frets::form::pressed(job, fields),
        What::Edged => frets::form::edged(job, fields),
        What::Worn => frets::form::worn(job, fields),
        What::Crown => frets::form::crown(fields),
        What::Fretwork => frets::form::worked(job, fields),
        What::Checked => proof::form::checked(fields),
        What::Played => proof::form::played(job, fields),
        What::PlayedThrough => Some(Command::Observe(Observation::PlayedThrough)),
        What::Heights => intake::form::heights(fields),
        What::Note => intake::form::note(fields),
        What::Stage => intake::form::stage(job, fields),
        What::Strung => {
            strings::form::strung(job, fields).map(|strung| Command::Restring(Box::new(strung)))
        }
        What::Stretched => strings::form::stretched(fields),
        What::Aged => Some(strings::form::aged(fields)),
        What::Core => strings::form::core(job, fields),
        What::Weigh => strings::form::weigh(job, fields),
        What::Adopt => what_if::form::adopt(job, fields),
        What::Balance => balance::form::gap(fields),
        What::Claw => balance::form::claw(fields),
        What::Seat => balance::form::seat(job, fields),
        What::SpringLength => balance::form::spring_length(fields),
        What::ClawEnds => balance::form::claw_ends(fields),
        What::Springs => balance::form::springs(fields),
        What::BalanceWanted => balance::form::wanted(fields),
        What::Relief => relief::form::relief(job, fields),
        What::Rod => relief::form::rod(fields),
        What::RodStopped => relief::form::stopped(fields),
        What::ReliefTarget => relief::form::target(job, fields),
        What::Nut => nut::form::gap(job, fields),
        What::NutMoved => nut::form::moved(job, fields),
        What::NutTarget => nut::form::target(job, fields),
        What::Action => action::form::gap(job, fields),
        What::Height => action::form::height(fields),
        What::HeightEnd => action::form::end(fields),
        What::Shim => action::form::shim(fields),
        What::SaddleCut => action::form::cut(job, fields),
        What::HeightTarget => action::form::target(job, fields),
        What::Read => intonation::form::cents(job, fields),
        What::Move => intonation::form::turned(job, fields),
        What::Stuck => intonation::form::ended(job, fields, End::Stuck),
        What::SaddleEnd => intonation::form::at_end(job, fields),
        What::Loose => intonation::form::ended(job, fields, End::Free),
        What::Round => intonation::form::reversed(job, fields),
        What::Prefer => intonation::form::preferred(job, fields),
        What::Bridge => intonation::form::bridge(fields),
        What::Bar => intonation::form::bar(fields),
        What::Tuner => intonation::form::tuner(fields),
        What::Scale => intonation::form::scale(job, fields),
        What::Place => intonation::form::place(job, fields),
        What::Room => intonation::form::room(job, fields),
        What::Pickup => pickups::form::gap(job, fields),
        What::PickupTurned => pickups::form::turned(job, fields),
        What::PickupEnd => pickups::form::end(job, fields),
        What::PickupTarget => pickups::form::target(job, fields),
        What::Pole => pickups::form::pole(job, fields),
        What::PoleTurned => pickups::form::pole_turned(job, fields),
        What::Level => pickups::form::level(job, fields),
        What::Buzz => clearance::form::buzz(job, fields),
        What::RodCheck => job_plan::form::rod_check(fields),
        What::Rock => job_plan::form::rock(job, fields),
        What::Allowed => job_plan::form::allowed(job, fields),
        What::Spec => job_plan::form::spec(job, fields, shop),
        What::Planned => job_plan::form::planned(job, fields),
    }
}

fn offered(
    command: Command,
    event: Option<Event>,
    fields: &mut Fields,
    nothing: &str,
) -> Option<Command> {
    if event.is_none() {
        fields.wrong("what", nothing);
    }
    event.map(|_| command)
}
