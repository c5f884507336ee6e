//! The saddles on the list, for the heights to come.

use gradimen_core::intonation::{Heights, first_order_move};
use gradimen_core::quantity::{Cents, Estimate, Length, Turns};
use gradimen_core::units::print::{self, rounded_turns};

use super::{ExpectedReading, Reading, Station, WholeMove, WholePlan};
use crate::job::Job;
use crate::plan::{Action, Plan, SaddlePlan};
use crate::setup::SetupPlan;

impl WholePlan {
    pub(super) fn saddle(
        &mut self,
        job: &Job,
        plan: &Plan,
        saddle: &SaddlePlan,
        places: &mut Vec<String>,
    ) {
        let strings: Vec<u8> = saddle.strings().collect();
        let names: Vec<String> = strings.iter().map(u8::to_string).collect();
        let name = names.join(" and ");
        match &saddle.action {
            Action::Stuck => {
                return self.wait(Station::Intonation, format!("string {name}: screw stuck"));
            }
            Action::Blocked => {
                return self.wait(Station::Intonation, format!("string {name}: out of travel"));
            }
            Action::Read(unread) => {
                let unread: Vec<String> = unread.iter().map(u8::to_string).collect();
                return self.wait(
                    Station::Intonation,
                    format!("read intonation of string {}", unread.join(" and ")),
                );
            }
            Action::Start(_) | Action::Turn(_) | Action::Leave => {}
        }
        let Some(end) = saddle_end(job, &plan.setup, saddle) else {
            return;
        };
        if !saddle.estimate.placed {
            let rule = job.twelfth_to_saddle(strings[0], end.place);
            return places.push(format!("string {name} {}", print::tenths(rule)));
        }
        // Where it will stand when the vibrato rests as it is to.
        let back = plan
            .balance
            .as_ref()
            .map_or(Length::ZERO, |balance| balance.to_come.0);
        let distance = end.place - saddle.estimate.setback.value - back;
        let scale = job.speaking_scale(strings[0]);
        let worth = distance
            .abs()
            .ratio(first_order_move(Cents::new(1.0), scale));
        let bridge = &job.instrument().bridge.intonation;
        let pitch = bridge.pitch.middle();
        let turns = rounded_turns(Turns::new(
            distance.ratio(pitch) / saddle.estimate.response.value,
        ));
        let moves = worth > plan.threshold.value() && turns != Turns::ZERO;
        if !moves || (saddle.action == Action::Leave && worth < 2.0 * plan.threshold.value()) {
            return;
        }
        self.moves.push(WholeMove {
            station: Station::Intonation,
            adjuster: "saddle screw".to_owned(),
            strings: strings.clone(),
            distance: Some(pitch * (turns.value() * saddle.estimate.response.value)),
            turns: Some(turns),
            direction: format!(
                "{}, {} {}",
                if turns > Turns::ZERO {
                    "back"
                } else {
                    "forward"
                },
                print::turns_with_word(turns),
                bridge.rotation(turns)
            ),
            rounds: 1,
            expected: strings
                .iter()
                .zip(&end.remaining)
                .map(|(string, value)| ExpectedReading {
                    string: *string,
                    fret: 12,
                    value: Reading::Note(*value),
                })
                .collect(),
        });
    }
}

struct SaddleEnd {
    place: Length,
    remaining: Vec<Estimate<Cents>>,
}

/// Where a saddle belongs at the heights to come.
fn saddle_end(job: &Job, setup: &SetupPlan, saddle: &SaddlePlan) -> Option<SaddleEnd> {
    let mut shift = Length::ZERO;
    for known in &saddle.estimate.strings {
        let state = job.string_state(known.string).ok()?;
        let (first, twelfth) = setup.after.get(usize::from(known.string - 1))?;
        let later = state
            .speaking
            .with_heights(Heights::bounded(*first, *twelfth));
        // What the model's error becomes at the place that is right today, as a distance.
        let today = known.ideal.value - known.bias;
        let error = later.error(12, today).ok()?;
        shift += first_order_move(error, later.scale());
    }
    let count = saddle.estimate.strings.len().max(1) as f64;
    let remaining = saddle
        .estimate
        .strings
        .iter()
        .zip(&saddle.remaining)
        .map(|(known, left)| Estimate::new(*left, known.error.sigma))
        .collect();
    Some(SaddleEnd {
        place: saddle.target.value + shift / count,
        remaining,
    })
}
