//! The saddle in hand in words: the big sentence, what to expect, and the sum behind it.

use crate::vocabulary::*;
use gradimen_core::quantity::Length;
use gradimen_core::units::print;

use crate::pages::Choice;
use crate::words;

/// The saddle in hand, in words.
pub(super) struct InHand {
    pub(super) string: u8,
    pub(super) kicker: String,
    pub(super) big: Vec<String>,
    pub(super) is_move: bool,
    pub(super) is_out: bool,
    pub(super) expect: Vec<String>,
    pub(super) turns: Option<f64>,
    pub(super) away: bool,
    pub(super) why: Vec<(String, String)>,
    pub(super) next: Option<(u8, String)>,
    pub(super) stuck: bool,
    pub(super) shared: Vec<Choice>,
    pub(super) turn_round: Option<String>,
}

pub(super) fn in_hand(job: &Known, plan: &Plan, string: u8) -> InHand {
    let note = job
        .string_state(string)
        .map_or(String::new(), |state| state.pitch.note().to_string());
    let mut hand = InHand {
        string,
        kicker: format!("String {string} \u{b7} {note}"),
        big: Vec::new(),
        is_move: false,
        is_out: false,
        expect: Vec::new(),
        turns: None,
        away: true,
        why: Vec::new(),
        next: None,
        stuck: false,
        shared: Vec::new(),
        turn_round: None,
    };
    let Some(saddle) = plan.intonation.saddle_of(string) else {
        hand.big = vec!["The model has no answer for this string".to_owned()];
        return hand;
    };
    let index = saddle.strings().position(|on| on == string).unwrap_or(0);
    let known = &saddle.estimate.strings[index];
    if !known.fresh.is_empty() {
        let count = known.fresh.len();
        let times = if count == 1 {
            String::new()
        } else {
            format!(", mean of {count}")
        };
        hand.kicker = format!(
            "{} \u{b7} fretted 12th reads {}{times}",
            hand.kicker,
            sharpness(saddle, index)
        );
    }
    if saddle.strings().count() > 1 {
        hand.shared = shared(job, saddle);
    }
    let gain = job.instrument().bridge.intonation.turn_round;
    if matches!(saddle.action, Action::Stop(Stop::OutOfTravel { .. })) && gain > Length::ZERO {
        hand.turn_round = Some(print::mm(gain));
    }
    describe(job, plan, saddle, index, &note, &mut hand);
    let next = plan
        .intonation
        .next_string()
        .filter(|next| saddle.strings().all(|on| on != *next));
    hand.next = next.map(|next| {
        let note = job
            .string_state(next)
            .map_or(String::new(), |state| state.pitch.note().to_string());
        (next, note)
    });
    hand
}

fn sharpness(saddle: &SaddlePlan, index: usize) -> String {
    let mean = saddle.estimate.strings[index]
        .mean()
        .map_or(0.0, |cents| cents.value());
    let size = format!("{:.1}", mean.abs());
    match (size.as_str(), mean > 0.0) {
        ("0.0", _) => "true".to_owned(),
        (_, true) => format!("{size} cents sharp"),
        (_, false) => format!("{size} cents flat"),
    }
}

/// The big sentence and what stands under it.
fn describe(
    job: &Known,
    plan: &Plan,
    saddle: &SaddlePlan,
    index: usize,
    note: &str,
    hand: &mut InHand,
) {
    match &saddle.action {
        Action::Adjust(step) => {
            hand.big = text::moves::big(step).to_vec();
            hand.is_move = true;
            hand.turns = Some(step.turns().value().abs());
            hand.away = step.distance >= Length::ZERO;
            hand.expect = expectations(job, saddle, step, note);
            hand.why = why(step);
        }
        Action::Measure(_) if saddle.start => {
            let rule = job.twelfth_to_saddle(hand.string, saddle.target.value);
            hand.big = vec![
                format!("Set the saddle {} mm", words::mm(rule, 1)),
                "from fret 12, then read".to_owned(),
            ];
            hand.is_move = true;
            hand.expect = vec![
                format!(
                    "{} from the crown of fret 12, {} mm behind the scale line, \u{b1} {} mm before any reading.",
                    print::inches(rule),
                    words::mm(saddle.target.value, 1),
                    words::mm(saddle.target.sigma, 1)
                ),
                travel_sentence(saddle),
            ];
        }
        Action::Measure(places) => {
            let strings: Vec<u8> = places.iter().filter_map(|place| place.string()).collect();
            let read_here = strings.contains(&hand.string);
            hand.big = if read_here {
                vec!["Retune and measure again".to_owned()]
            } else {
                let others: Vec<String> = strings.iter().map(u8::to_string).collect();
                vec![format!(
                    "Read string {} on the same saddle",
                    others.join(" and ")
                )]
            };
            let known = &saddle.estimate.strings[index];
            hand.expect = vec![if known.fresh.is_empty() {
                format!("Expect {} cents.", words::estimate(known.error))
            } else {
                format!(
                    "{} cents so far: one more reading decides.",
                    words::estimate(known.error)
                )
            }];
        }
        Action::Leave => {
            let done = plan.intonation.is_done();
            hand.big = vec![if done {
                "Intonation is in spec".to_owned()
            } else {
                "Leave this saddle".to_owned()
            }];
            let error = saddle.estimate.strings[index].error;
            let left = saddle.remaining[index];
            hand.expect = vec![if saddle.strings().count() > 1 {
                format!(
                    "{} cents stay on this string: the best its shared saddle can do.",
                    print::cents(left)
                )
            } else {
                format!(
                    "{} cents: too small for this tuner to show (\u{b1} {:.1}).",
                    words::estimate(error),
                    plan.intonation.threshold.value()
                )
            }];
            if job.old_strings() {
                hand.expect
                    .push("Provisional: the strings are old.".to_owned());
            }
        }
        Action::Stop(Stop::Stuck) => {
            hand.is_out = true;
            hand.stuck = true;
            hand.big = vec!["Stop: do not force the screw".to_owned()];
            hand.expect = vec!["Slacken the string first. If it stays seized or the head is damaged, hand it to a specialist.".to_owned()];
        }
        Action::Stop(_) => {
            hand.is_out = true;
            let short = saddle.short_by.unwrap_or(Length::ZERO);
            let end = if short > Length::ZERO {
                "back"
            } else {
                "front"
            };
            hand.big = vec![
                format!("Out of travel, {} mm short", words::mm(short.abs(), 1)),
                format!("at the {end} of the saddle"),
            ];
            hand.expect = vec![format!(
                "It should be at {} mm; its travel ends at {} mm.",
                words::mm(saddle.target.value, 1),
                words::mm(saddle.nearer_end(), 1)
            )];
        }
    }
}

fn travel_sentence(saddle: &SaddlePlan) -> String {
    let left = saddle.left_behind();
    if left < Length::ZERO {
        format!(
            "Its travel ends {} mm before that.",
            words::mm(left.abs(), 1)
        )
    } else {
        format!(
            "{} mm of travel left behind the saddle there.",
            words::mm(left, 1)
        )
    }
}

fn expectations(job: &Known, saddle: &SaddlePlan, step: &Move, note: &str) -> Vec<String> {
    let head = job.instrument().bridge.intonation.head.name();
    let expected: Vec<String> = saddle
        .strings()
        .zip(&step.expected)
        .map(|(string, expected)| {
            let Some(expected) = expected.value.cents() else {
                return String::new();
            };
            if saddle.strings().count() > 1 {
                format!("{} cents on string {string}", words::estimate(expected))
            } else {
                format!("{} cents", words::estimate(expected))
            }
        })
        .collect();
    let left = if saddle.tight {
        " Less than a turn."
    } else {
        ""
    };
    vec![
        format!(
            "Seen from {head}. Slacken the string a little, turn, tune up to {note}, read again."
        ),
        format!("Expect {}.", expected.join(", ")),
        format!(
            "{} mm of travel left behind the saddle after this.{left}",
            words::mm(behind_after(step), 1)
        ),
    ]
}

fn behind_after(step: &Move) -> Length {
    match &step.sum {
        Sum::Saddle(sum) => sum.behind_after.value,
        _ => Length::ZERO,
    }
}

/// Where the numbers come from, term by term.
fn why(step: &Move) -> Vec<(String, String)> {
    let Sum::Saddle(why) = &step.sum else {
        return Vec::new();
    };
    let line = |name: &str, value: String| (name.to_owned(), value);
    let mut lines = Vec::new();
    if let Some(mean) = why.mean {
        let all: Vec<String> = why
            .readings
            .iter()
            .map(|cents| print::cents(*cents))
            .collect();
        lines.push(line(
            "readings",
            format!("{}: mean {} c", all.join(", "), print::cents(mean)),
        ));
        lines.push(line(
            "the harmonic itself is sharp by",
            format!("{:.2} c", why.harmonic_excess.value()),
        ));
    }
    lines.push(line(
        "error to remove, from all readings",
        format!("{} c", words::estimate(why.error)),
    ));
    lines.push(line(
        &format!(
            "first order: error \u{d7} ln 2 / 1200 \u{d7} {}",
            print::mm(why.scale)
        ),
        format!("{} mm", words::mm(why.first_order, 2)),
    ));
    lines.push(line(
        "by the string's own model",
        format!("{} mm", words::mm(why.exact, 2)),
    ));
    lines.push(line(
        "this screw really moves",
        format!(
            "{} mm a turn: thread {} \u{d7} {:.2} \u{b1} {:.2}",
            words::mm(why.pitch * why.response.value, 3),
            print::mm(why.pitch),
            why.response.value,
            why.response.sigma
        ),
    ));
    lines.push(line(
        "turns",
        format!(
            "{:.2}, set to an eighth: {}",
            why.turns_exact.value().abs(),
            words::turns(step.turns())
        ),
    ));
    lines.push(line(
        "the tuner resolves",
        format!(
            "{} c; below {:.1} c is too small for it to show",
            why.resolution.value(),
            why.threshold.value()
        ),
    ));
    lines
}

fn shared(job: &Known, saddle: &SaddlePlan) -> Vec<Choice> {
    let mut choices = vec![Choice::of("", "share evenly", saddle.preferred.is_none())];
    for string in saddle.strings() {
        let note = job
            .string_state(string)
            .map_or(String::new(), |state| state.pitch.note().to_string());
        choices.push(Choice::of(
            &string.to_string(),
            &format!("{string} {note} exactly"),
            saddle.preferred == Some(string),
        ));
    }
    choices
}
