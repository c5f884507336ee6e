//! One line of the bench list: what is kept beside a journal so that the list need not fold it.
//! It is derived and can be made again from the journal at any time.

use serde::{Deserialize, Serialize};

use crate::balance::BalanceAction;
use crate::event::Stage;
use crate::job::Job;
use crate::plan::{Action, Plan, Verdict};
use crate::setup::{HeightAction, Quantity, ReliefAction};
use crate::strings;

/// How a station stands, in one mark.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Mark {
    /// Nothing read yet.
    Unread,
    /// In work: something is off or to be read again.
    Working,
    /// All within.
    Within,
    /// Something stops.
    Blocked,
}

impl Mark {
    /// Its word.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Unread => "not read",
            Self::Working => "in work",
            Self::Within => "within",
            Self::Blocked => "stopped",
        }
    }
}

/// One line of the bench list.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Summary {
    /// Number and name of the instrument.
    pub title: String,
    /// What sort it is, in words.
    pub describes: String,
    /// Why it is here.
    pub purpose: String,
    /// Whose hand and style.
    pub player: String,
    /// Outer gauges and tuning.
    pub strung: String,
    /// Where it stands.
    pub stage: Stage,
    /// The strings station.
    pub strings: Mark,
    /// Relief, nut and height.
    #[serde(default = "unread")]
    pub setup: [Mark; 3],
    /// The vibrato, where there is one.
    #[serde(default)]
    pub balance: Option<Mark>,
    /// The pickups, where there are any.
    #[serde(default)]
    pub pickups: Option<Mark>,
    /// The intonation station.
    pub intonation: Mark,
    /// How many strings are within, of how many.
    pub within: (u8, u8),
}

/// Lines written before these stations were there.
const fn unread() -> [Mark; 3] {
    [Mark::Unread; 3]
}

/// `six-string guitar, 648 mm, fixed plate`.
pub fn describes(job: &Job) -> String {
    let instrument = job.instrument();
    let count = ["four", "five", "six", "seven", "eight"]
        .get(usize::from(instrument.strings.saturating_sub(4)))
        .copied()
        .unwrap_or("many");
    let scale = |string| format!("{:.0}", instrument.scale(string).mm());
    let scales = if instrument.is_multi_scale() {
        format!("{}\u{2013}{}", scale(1), scale(instrument.strings))
    } else {
        scale(1)
    };
    format!(
        "{count}-string {}, {scales} mm, {}",
        instrument.kind.key(),
        instrument.bridge.family.short_name()
    )
}

/// `.010\u{2013}.046, E A D G B E`.
pub fn strung(job: &Job) -> String {
    let gauge =
        |record: &crate::record::StringRecord| record.label().trim_end_matches('w').to_owned();
    let strings = job.strings();
    let ends = strings
        .first()
        .zip(strings.last())
        .map_or(String::new(), |(thin, thick)| {
            format!("{}\u{2013}{}", gauge(&thin.record), gauge(&thick.record))
        });
    let notes: Vec<String> = strings
        .iter()
        .rev()
        .map(|state| state.pitch.note().to_string())
        .map(|note| {
            note.trim_end_matches(|c: char| c.is_ascii_digit() || c == '-')
                .to_owned()
        })
        .collect();
    format!("{ends}, {}", notes.join(" "))
}

/// The mark of the intonation station.
pub fn intonation_mark(plan: &Plan) -> Mark {
    let blocked = |action: &Action| matches!(action, Action::Blocked | Action::Stuck);
    if plan.saddles.iter().any(|saddle| blocked(&saddle.action)) {
        Mark::Blocked
    } else if plan.intonation_done() {
        Mark::Within
    } else if plan
        .saddles
        .iter()
        .flat_map(|saddle| &saddle.verdicts)
        .all(|verdict| *verdict == Verdict::Unread)
    {
        Mark::Unread
    } else {
        Mark::Working
    }
}

fn mark_of<'a>(quantities: impl Iterator<Item = &'a Quantity> + Clone, blocked: bool) -> Mark {
    let mut verdicts = quantities.map(|quantity| quantity.verdict);
    if blocked {
        Mark::Blocked
    } else if verdicts.clone().all(|verdict| verdict == Verdict::Unread) {
        Mark::Unread
    } else if verdicts.all(|verdict| verdict == Verdict::Within) {
        Mark::Within
    } else {
        Mark::Working
    }
}

/// The mark of the balance station; nothing where there is no vibrato.
pub fn balance_mark(plan: &Plan) -> Option<Mark> {
    plan.balance
        .as_ref()
        .map(|balance| match (&balance.action, balance.verdict) {
            (BalanceAction::Springs(_), _) => Mark::Blocked,
            (BalanceAction::Leave, _) => Mark::Within,
            (_, Verdict::Unread) => Mark::Unread,
            _ => Mark::Working,
        })
}

/// The mark of the relief station.
pub fn relief_mark(plan: &Plan) -> Mark {
    let relief = &plan.setup.relief;
    let mark = mark_of(relief.sides.iter(), relief.action == ReliefAction::Blocked);
    match relief.action {
        // The sides together are what the rod can set.
        ReliefAction::Leave => Mark::Within,
        _ if mark == Mark::Within => Mark::Working,
        _ => mark,
    }
}

/// The mark of the nut station.
pub fn nut_mark(plan: &Plan) -> Mark {
    let strings = &plan.setup.nut.strings;
    mark_of(strings.iter().map(|slot| &slot.quantity), false)
}

/// The mark of the height station.
pub fn height_mark(plan: &Plan) -> Mark {
    let height = &plan.setup.height;
    let spent = |adjuster: &crate::setup::AdjusterPlan| {
        matches!(adjuster.action, HeightAction::AtEnd { .. })
    };
    let blocked = height.adjusters.iter().any(spent);
    let judged = height.strings.iter().filter(|string| {
        height
            .adjusters
            .iter()
            .any(|adjuster| adjuster.strings.contains(&string.string))
    });
    mark_of(judged.map(|string| &string.quantity), blocked)
}

/// The mark of the pickups station.
pub fn pickups_mark(plan: &Plan) -> Mark {
    let sides = plan.setup.pickups.iter().flat_map(|pickup| &pickup.sides);
    let mut sides = sides.map(|side| &side.quantity).peekable();
    if sides.peek().is_none() {
        return Mark::Unread;
    }
    mark_of(sides, false)
}

/// The mark of the strings station.
pub fn strings_mark(job: &Job) -> Mark {
    use gradimen_core::tension::Load;
    let fine = strings::pull(job)
        .rows
        .iter()
        .all(|row| row.load == Load::Fine);
    if fine { Mark::Within } else { Mark::Working }
}

impl Summary {
    /// Works the line out.
    pub fn of(job: &Job) -> Self {
        let plan = Plan::of(job);
        let within = plan
            .saddles
            .iter()
            .flat_map(|saddle| &saddle.verdicts)
            .filter(|verdict| **verdict == Verdict::Within)
            .count();
        Self {
            title: job.instrument().title(),
            describes: describes(job),
            purpose: job.purpose().to_owned(),
            player: format!("{} hand, {}", job.player().hand.key(), job.player().style),
            strung: strung(job),
            stage: job.stage(),
            strings: strings_mark(job),
            setup: [relief_mark(&plan), nut_mark(&plan), height_mark(&plan)],
            balance: balance_mark(&plan),
            pickups: (!plan.setup.pickups.is_empty()).then(|| pickups_mark(&plan)),
            intonation: intonation_mark(&plan),
            within: (
                u8::try_from(within).unwrap_or(u8::MAX),
                job.instrument().strings,
            ),
        }
    }

    /// What a search looks through, in lower case.
    pub fn search_text(&self) -> String {
        format!(
            "{} {} {} {}",
            self.title, self.describes, self.purpose, self.player
        )
        .to_lowercase()
    }
}
