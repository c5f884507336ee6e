//! What can be told of a job: the forms there are, the one [`Command`] that each becomes, and the events it records.

use std::str::FromStr;

use gradimen_store::accounts::Deed;

use crate::forms::Fields;
use crate::pages::layout::ASKED;
use crate::vocabulary::*;

/// The forms there are, by the word that stands in them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, strum::EnumString, strum::IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub(crate) enum What {
    Undo,
    Redo,
    // Intake and record.
    Player,
    Heights,
    Note,
    Stage,
    Complaint,
    Humidity,
    // Strings and what if.
    Strung,
    Stretched,
    Aged,
    Core,
    Weigh,
    Adopt,
    // Balance.
    Balance,
    Claw,
    Seat,
    SpringLength,
    ClawEnds,
    Springs,
    BalanceWanted,
    // Relief.
    Relief,
    Rod,
    RodStopped,
    ReliefTarget,
    // Nut.
    Nut,
    NutMoved,
    NutTarget,
    // Action.
    Action,
    Height,
    HeightEnd,
    Shim,
    SaddleCut,
    HeightTarget,
    // Intonation.
    Read,
    Move,
    Stuck,
    SaddleEnd,
    Bar,
    Loose,
    Round,
    Prefer,
    Bridge,
    Tuner,
    Scale,
    Place,
    Room,
    // Pickups.
    Pickup,
    PickupTurned,
    PickupEnd,
    PickupTarget,
    Pole,
    PoleTurned,
    Level,
    // Clearance.
    Buzz,
    // Before the first screw.
    RodCheck,
    Rock,
    // Frets.
    Pressed,
    Edged,
    Worn,
    Crown,
    Fretwork,
    // Proof.
    Checked,
    Played,
    PlayedThrough,
    // For the whole job.
    Allowed,
    Spec,
    Planned,
}

impl What {
    /// Which form was sent.
    pub(crate) fn of(fields: &Fields) -> Option<Self> {
        Self::from_str(fields.text("what")).ok()
    }

    /// What it does, as far as roles go: what is said at the counter, or work.
    pub(crate) const fn deed(self) -> Deed {
        match self {
            Self::Player | Self::Note | Self::Stage | Self::Complaint | Self::Humidity => {
                Deed::TakeIn
            }
            _ => Deed::Work,
        }
    }

    /// The field an error of the journal belongs to.
    pub(crate) const fn main_field(self) -> &'static str {
        match self {
            Self::Read => "cents",
            Self::Move
            | Self::Rod
            | Self::Height
            | Self::PickupTurned
            | Self::PoleTurned
            | Self::Claw
            | Self::Seat => "turns",
            Self::Relief | Self::Nut | Self::Action | Self::Pickup | Self::Balance => "gap",
            Self::Bridge => "bridge_move",
            Self::Bar => "bar_treble",
            Self::SaddleCut => "saddle_cut",
            Self::Tuner => "resolution",
            Self::Scale => "nut_to_twelfth",
            Self::Place => "twelfth_to_saddle",
            Self::Room => "room",
            Self::Core => "core",
            Self::Weigh => "mass",
            Self::Strung => "set",
            Self::Heights => "twelfth_treble",
            Self::Note => "text",
            Self::SpringLength => "spring_length",
            Self::ClawEnds => "claw_treble",
            Self::Pole => "pole_gap",
            Self::PickupTarget => "pickup_treble",
            Self::Level => "level",
            Self::NutMoved => "nut_move",
            Self::ReliefTarget => "relief",
            Self::NutTarget => "nut_treble",
            Self::HeightTarget => "action_treble",
            Self::Shim => "thickness",
            Self::Buzz => "held",
            Self::RodCheck => "turns_left",
            Self::Rock => "fret",
            Self::Allowed => "within_relief",
            Self::Spec => "spec",
            Self::Planned => "line",
            Self::Complaint => "words",
            Self::Stretched => "drift",
            Self::Pressed => "gives",
            Self::Worn => "wear",
            Self::Edged => "edge",
            Self::Crown => "crown",
            Self::Fretwork => "fretwork",
            Self::Humidity => "humidity",
            Self::Played => "heard",
            Self::Checked => "condition",
            Self::Undo
            | Self::Redo
            | Self::Player
            | Self::Stage
            | Self::Aged
            | Self::Adopt
            | Self::Springs
            | Self::BalanceWanted
            | Self::RodStopped
            | Self::HeightEnd
            | Self::Stuck
            | Self::SaddleEnd
            | Self::Loose
            | Self::Round
            | Self::Prefer
            | Self::PickupEnd
            | Self::PlayedThrough => "what",
        }
    }

    /// The fields in which a string is read, where strings are read one after the other: of a reading of one, or of a move under
    /// one.
    pub(crate) const fn lane(self) -> Option<&'static str> {
        match self {
            Self::Read | Self::Move => Some("reading"),
            Self::Nut | Self::NutMoved => Some("nut"),
            Self::Action | Self::Height => Some("action"),
            _ => None,
        }
    }

    /// Whether something under one string was moved by it.
    pub(crate) const fn is_move(self) -> bool {
        matches!(self, Self::Move | Self::NutMoved | Self::Height)
    }

    /// Where the cursor goes after it was told: to where the next reading goes.
    pub(crate) fn focus(self, fields: &Fields, job: &Job) -> Option<String> {
        let strings = job.instrument().strings;
        let string = fields.text("string").parse::<u8>().unwrap_or(1);
        let next = if string >= strings { 1 } else { string + 1 };
        let place = match self {
            Self::Read => format!("reading-{next}"),
            Self::Move | Self::Round => format!("reading-{string}"),
            Self::Relief | Self::Rod | Self::Pickup | Self::PickupTurned => ASKED.to_owned(),
            Self::Balance | Self::Claw | Self::Springs => "balance-1".to_owned(),
            Self::Nut => format!("nut-{next}"),
            Self::NutMoved => format!("nut-{string}"),
            Self::Action => format!("action-{next}"),
            Self::Height | Self::SaddleCut => format!("action-{string}"),
            Self::Bar => "reading-1".to_owned(),
            Self::Place => format!("place-{next}"),
            Self::Room => format!("room-{next}"),
            Self::Scale => "nut_to_twelfth".to_owned(),
            _ => return None,
        };
        Some(place)
    }
}

/// One thing told of a job.
#[derive(Debug, Clone, PartialEq)]
pub(crate) enum Command {
    /// Takes the last stroke back.
    Undo,
    /// Puts back what was taken back.
    Redo,
    /// Something was read: confirmed when it was asked about, replacing when it counts in place of those before it.
    Read {
        readings: Vec<(Place, Reading)>,
        confirmed: bool,
        replacing: bool,
    },
    /// Something was turned, slid, filed or shimmed.
    Adjust { adjuster: Adjuster, amount: Amount },
    /// Something goes no further.
    End { adjuster: Adjuster, how: End },
    /// Something is wanted.
    Target(Box<Wanted>),
    /// Something was seen or heard.
    Observe(Observation),
    /// Other strings are on.
    Restring(Box<Strung>),
    /// A what-if sheet made so.
    Adopt(Box<Change>),
    /// A word for the record.
    Note(String),
    /// Where the job stands in the shop.
    Stage(Stage),
}

impl Command {
    /// A reading at one place.
    pub(crate) fn read(place: Place, reading: Reading) -> Self {
        Self::readings(vec![(place, reading)])
    }

    /// Several readings of one stroke.
    pub(crate) const fn readings(readings: Vec<(Place, Reading)>) -> Self {
        Self::Read {
            readings,
            confirmed: false,
            replacing: false,
        }
    }

    /// Turns of an adjuster.
    pub(crate) const fn turned(adjuster: Adjuster, turns: gradimen_core::quantity::Turns) -> Self {
        Self::Adjust {
            adjuster,
            amount: Amount::Turns {
                turns: turns.value(),
            },
        }
    }

    /// A distance of an adjuster.
    pub(crate) const fn moved(adjuster: Adjuster, distance: Measurement) -> Self {
        Self::Adjust {
            adjuster,
            amount: Amount::Distance { distance },
        }
    }

    /// Something is wanted.
    pub(crate) fn target(wanted: Wanted) -> Self {
        Self::Target(Box::new(wanted))
    }

    /// What it records: one group, undone as one.
    pub(crate) fn events(self, job: &Known) -> Vec<Event> {
        match self {
            Self::Undo => job.undo().into_iter().collect(),
            Self::Redo => job.redo().into_iter().collect(),
            Self::Read {
                readings,
                confirmed,
                replacing,
            } => readings
                .into_iter()
                .map(|(place, reading)| Event::read(place, reading))
                .map(|event| if confirmed { event.confirmed() } else { event })
                .map(|event| if replacing { event.replacing() } else { event })
                .collect(),
            Self::Adjust { adjuster, amount } => vec![Event::Adjusted { adjuster, amount }],
            Self::End { adjuster, how } => vec![Event::Ended { adjuster, how }],
            Self::Target(wanted) => vec![Event::Targeted { wanted: *wanted }],
            Self::Observe(what) => vec![Event::Observed { what }],
            Self::Restring(strung) => vec![Event::Restrung { strung: *strung }],
            Self::Adopt(change) => change.events(job),
            Self::Note(text) => vec![Event::Noted { text }],
            Self::Stage(stage) => vec![Event::Staged { stage }],
        }
    }
}

/// The fields of the same form for a reading as it would be without a slip.
pub(crate) fn without_slip(fields: &Fields, event: &Event) -> Vec<(String, String)> {
    let mut changed: Vec<(&str, String)> = Vec::new();
    if let Event::Read { place, value, .. } = event {
        if let Some(string) = place.string() {
            changed.push(("string", string.to_string()));
        }
        if let Place::Action { fret, .. } = place {
            changed.push(("fret", fret.to_string()));
        }
        match value {
            Reading::Note { cents, .. } => changed.push(("cents", cents.to_string())),
            Reading::Length { length } => changed.push(("gap", length.written.clone())),
            Reading::Touches
            | Reading::Rocks
            | Reading::Flat
            | Reading::Ends { .. }
            | Reading::Level { .. }
            | Reading::Weighed { .. }
            | Reading::RodNut { .. }
            | Reading::Rock { .. } => {}
        }
    }
    fields
        .all()
        .map(|(name, value)| {
            let other = changed.iter().find(|(changed, _)| changed == name);
            let value = other.map_or(value, |(_, value)| value);
            (name.clone(), value.clone())
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stations::Form;
    use std::sync::Arc;

    fn job() -> Known {
        let text = include_str!("../../../docs/formats/examples/six-string-mid-work.json");
        let job = Job::fold(&Document::parse(text).unwrap().events).unwrap();
        Known::of(Arc::new(job)).unwrap()
    }

    fn told(job: &Known, sent: &[(&str, &str)]) -> Result<Command, Fields> {
        let sent = sent
            .iter()
            .map(|(name, value)| ((*name).into(), (*value).into()));
        let mut fields = Fields::from(sent.collect::<Vec<(String, String)>>());
        let shop = Shop::default();
        let form = Form {
            job,
            fields: &mut fields,
            shop: &shop,
        };
        Command::try_from(form).map_err(|_| fields)
    }

    #[test]
    fn a_form_becomes_one_command_and_its_events() {
        let job = job();
        let turned = told(
            &job,
            &[("what", "rod"), ("turns", "1/8"), ("way", "loosen")],
        );
        let adjusted = Event::Adjusted {
            adjuster: Adjuster::TrussRod,
            amount: Amount::Turns { turns: -0.125 },
        };
        assert_eq!(turned.unwrap().events(&job), [adjusted]);
        let read = told(
            &job,
            &[
                ("what", "read"),
                ("string", "3"),
                ("fret", "12"),
                ("cents", "+6.2 6,4"),
                ("replace", "yes"),
            ],
        );
        let events = read.unwrap().events(&job);
        let replaces = |event: &Event| matches!(event, Event::Read { replaces: true, .. });
        assert!(events.len() == 2 && events.iter().all(replaces));
    }

    #[test]
    fn what_is_not_understood_is_marked_where_it_was_typed() {
        let job = job();
        for (sent, field) in [
            (&[("what", "dance")][..], "what"),
            (&[("what", "rod"), ("turns", "a bit")][..], "turns"),
            (&[("what", "note"), ("text", "  ")][..], "text"),
            (&[("what", "level"), ("level", "loud")][..], "level"),
            (
                &[("what", "nut"), ("string", "9"), ("gap", "4")][..],
                "string",
            ),
        ] {
            let fields = told(&job, sent).unwrap_err();
            assert!(!fields.field(field).error.is_empty(), "{sent:?}");
        }
    }

    #[test]
    fn the_cursor_goes_where_the_next_reading_goes() {
        let job = job();
        let focus = |what: What, sent: &[(&str, &str)]| {
            let sent = sent
                .iter()
                .map(|(name, value)| ((*name).into(), (*value).into()));
            let fields = Fields::from(sent.collect::<Vec<(String, String)>>());
            what.focus(&fields, &job)
        };
        let on = |place: &str| Some(place.to_owned());
        assert_eq!(focus(What::Read, &[("string", "6")]), on("reading-1"));
        assert_eq!(focus(What::Height, &[("string", "6")]), on("action-6"));
        assert_eq!(focus(What::Relief, &[("side", "treble")]), on(ASKED));
        assert_eq!(focus(What::Note, &[]), None);
    }
}
