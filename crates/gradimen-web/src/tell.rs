//! A form of a job becomes a command: which form is read where. The one way a page changes a job.

use crate::commands::{Command, What};
use crate::forms::Fields;
use crate::stations::{
    action, balance, clearance, intake, intonation, nut, pickups, relief, strings, what_if,
};
use crate::vocabulary::*;

/// A form of a job, and the job it speaks of.
pub(crate) struct Form<'a> {
    pub(crate) job: &'a Known,
    pub(crate) fields: &'a mut Fields,
}

/// A form was not understood; what is wrong is marked in its fields.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct NotUnderstood;

impl TryFrom<Form<'_>> for Command {
    type Error = NotUnderstood;

    fn try_from(Form { job, fields }: Form<'_>) -> Result<Self, NotUnderstood> {
        let Some(what) = What::of(fields) else {
            let error = format!(
                "read '{}', which is nothing a job can be told",
                fields.text("what")
            );
            fields.wrong("what", error);
            return Err(NotUnderstood);
        };
        let mut command = read(what, job, fields).ok_or(NotUnderstood)?;
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
fn read(what: What, job: &Known, fields: &mut Fields) -> Option<Command> {
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
        What::Heights => intake::form::heights(fields),
        What::Note => intake::form::note(fields),
        What::Stage => intake::form::stage(fields),
        What::Strung => {
            strings::form::strung(job, fields).map(|strung| Command::Restring(Box::new(strung)))
        }
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
        What::HeightTarget => action::form::target(job, fields),
        What::Read => intonation::form::cents(job, fields),
        What::Move => intonation::form::turned(job, fields),
        What::Stuck => intonation::form::ended(job, fields, End::Stuck),
        What::Loose => intonation::form::ended(job, fields, End::Free),
        What::Round => intonation::form::reversed(job, fields),
        What::Prefer => intonation::form::preferred(job, fields),
        What::Bridge => intonation::form::bridge(fields),
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
