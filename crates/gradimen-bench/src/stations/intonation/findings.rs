//! What is found about saddles: scale, travel, screws, and what several frets say together.

use gradimen_core::frets::{FEWEST_FRETS, FretError, FretFit, fit};
use gradimen_core::quantity::{Cents, Length};
use gradimen_core::tension::{self, Load};

use super::scale::{scale_checks, shift_needed};
use super::{IntonationPlan, SaddlePlan};
use crate::decision::{Action, Stop};
use crate::estimate::Estimate as Known;
use crate::estimate::NoteRead;
use crate::finding::{Finding, Remedy};
use crate::model::{StringConstruction, StringEntry};

/// Everything found about the saddles.
pub(super) fn findings(known: &Known, intonation: &IntonationPlan) -> Vec<Finding> {
    let saddles = &intonation.saddles;
    let mut found: Vec<Finding> = scale_checks(known)
        .into_iter()
        .map(Finding::Scale)
        .collect();
    for plan in saddles {
        let lead = plan.strings().next().unwrap_or(1);
        if plan.action == Action::Stop(Stop::Stuck) {
            found.push(Finding::Stuck { string: lead });
        }
        if let Some(short_by) = plan.short_by.filter(|_| !known.is_pulled_up()) {
            found.push(out_of_travel(known, plan, short_by));
        } else if plan.tight {
            found.push(Finding::Tight { string: lead });
        }
        for (seq, string, cents) in &plan.estimate.questioned {
            found.push(Finding::Questioned {
                string: *string,
                seq: *seq,
                cents: *cents,
            });
        }
        for string in plan.strings() {
            if let Some(fit) = several_frets(known, plan, string) {
                found.push(Finding::Frets { string, fit });
            }
        }
    }
    found
}

/// What several frets of one string say, when at least three were read since the saddle moved.
fn several_frets(known: &Known, plan: &SaddlePlan, string: u8) -> Option<FretFit> {
    let state = known.string_state(string)?;
    let now = plan.estimate.setback.value;
    let mut frets: Vec<(u8, Vec<Cents>)> = Vec::new();
    let read = known.notes_read().iter();
    for NoteRead {
        fret,
        cents,
        against,
        ..
    } in read.filter(|note| note.string == string)
    {
        let error = state
            .speaking
            .true_error(*fret, *cents, against.computed(), now)
            .ok()?;
        match frets.iter_mut().find(|(at, _)| at == fret) {
            Some((_, errors)) => errors.push(error),
            None => frets.push((*fret, vec![error])),
        }
    }
    if frets.len() < FEWEST_FRETS {
        return None;
    }
    let on = plan
        .estimate
        .strings
        .iter()
        .find(|on| on.string == string)?;
    let noise = on.scatter.value().powi(2);
    let mut readings: Vec<FretError> = frets
        .into_iter()
        .map(|(fret, errors)| FretError {
            fret,
            error: errors.iter().copied().sum::<Cents>() / errors.len() as f64,
            sigma: Cents::new((noise / errors.len() as f64).sqrt()),
        })
        .collect();
    readings.sort_by_key(|reading| reading.fret);
    fit(&state.speaking, now, &readings).ok()
}

fn out_of_travel(known: &Known, plan: &SaddlePlan, short_by: Length) -> Finding {
    let turn = known.instrument().bridge.intonation.pitch.middle();
    let gain = known.instrument().bridge.intonation.turn_round;
    let lead = furthest_string(plan, short_by);
    let mut ways = Vec::new();
    // Turned round once it has gained what there was; once more would lose it.
    let again = known.state().is_turned_round(lead);
    if short_by > Length::ZERO && gain > Length::ZERO && !again {
        ways.push(Remedy::ReverseSaddle {
            gain,
            enough: gain >= short_by + turn,
        });
    }
    if let Some((string, setback)) = other_string(known, plan, lead) {
        ways.push(Remedy::OtherString { string, setback });
    }
    let shift = shift_needed(known);
    if shift != Length::ZERO {
        ways.push(Remedy::MoveBridge { by: shift });
    }
    let doubt = plan
        .estimate
        .strings
        .iter()
        .find(|on| on.string == lead)
        .map(|on| on.left.sigma);
    Finding::OutOfTravel {
        string: lead,
        short_by,
        sigma: doubt.unwrap_or(plan.target.sigma),
        remedies: ways,
    }
}

/// The string of a saddle that asks for most in the direction it is short of.
fn furthest_string(plan: &SaddlePlan, short_by: Length) -> u8 {
    let sign = short_by.mm().signum();
    plan.estimate
        .strings
        .iter()
        .max_by(|a, b| {
            (a.ideal.value * sign)
                .mm()
                .total_cmp(&(b.ideal.value * sign).mm())
        })
        .map_or(1, |string| string.string)
}

/// The string nearest in pull whose saddle would stand within the travel with a turn to spare.
fn other_string(known: &Known, plan: &SaddlePlan, string: u8) -> Option<(StringEntry, Length)> {
    let now = known.string_state(string)?;
    let read = plan
        .estimate
        .strings
        .iter()
        .find(|on| on.string == string)?;
    let scale = known.speaking_scale(string);
    let pull = now.tension(scale);
    let turn = known.instrument().bridge.intonation.pitch.middle();
    let (near, far) = (
        plan.estimate.nearest + turn,
        plan.estimate.furthest.value - turn,
    );
    let family = known.instrument().kind.family();
    let makes = [now.record.make, StringConstruction::RoundNickelPlated];
    let mut best: Option<(f64, StringEntry, Length)> = None;
    for make in makes {
        for spec in gradimen_core::ladder::gauges(family, make.construction()) {
            let record = StringEntry::of(&spec, make);
            if record.label() == now.record.label() {
                continue;
            }
            let candidate = tension::tension(&spec, scale, now.frequency);
            let miss = candidate.ratio(pull).ln().abs();
            // A string a third heavier or lighter is another set, not a way out.
            if miss > 0.3 || tension::load(&spec, candidate) != Load::Fine {
                continue;
            }
            if best.as_ref().is_some_and(|(least, ..)| *least <= miss) {
                continue;
            }
            let Ok(setback) = now.speaking.with_string(&spec).setback_for(12, Cents::ZERO) else {
                continue;
            };
            // The hand that reads it stays the same hand.
            let setback = setback + read.bias;
            if setback >= near && setback <= far {
                best = Some((miss, record, setback));
            }
        }
    }
    best.map(|(_, record, setback)| (record, setback))
}
