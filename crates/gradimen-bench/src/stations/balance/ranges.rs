//! How far the strings go up and down, and what a spring carries.

use super::{BEND_SEMITONES, DIVE, Hook, OVERSTRETCHED, Range, SLACK};
use gradimen_core::quantity::{Cents, Force};
use gradimen_core::spring::Works;
use gradimen_core::vibrato::{Held, Hooked};

use crate::estimate::balance::Balance;

pub(super) fn ranges(balance: &Balance, strings: &[Held]) -> Vec<Range> {
    let (springs, rest) = (&balance.springs, balance.angle);
    let down = balance.plate.back(rest, balance.up_end());
    let dived = if balance.has_claw() {
        balance.angle_of(balance.gap_of(rest) + DIVE)
    } else {
        balance.dive_end()
    };
    let slack = balance.plate.back(rest, dived);
    (1_u8..)
        .zip(strings)
        .map(|(string, own)| {
            let others: Vec<Held> = strings
                .iter()
                .zip(1_u8..)
                .filter(|(_, other)| *other != string)
                .map(|(held, _)| *held)
                .collect();
            let pulled = own.tension * 2f64.powf(BEND_SEMITONES / 6.0);
            let answered = balance
                .plate
                .answers(rest, springs, &others, pulled)
                .map_or(rest, |angle| angle.max(balance.up_end()));
            let fall = balance.plate.back(rest, answered);
            let mean = others.iter().map(|held| held.cents(fall)).sum::<Cents>()
                / others.len().max(1) as f64;
            Range {
                string,
                up: own.cents(down),
                dive: Some(own.cents(slack)).filter(|cents| *cents > SLACK),
                bent: mean,
            }
        })
        .collect()
}

pub(super) fn broken(balance: &Balance, strings: &[Held]) -> Option<Cents> {
    let (springs, rest) = (&balance.springs, balance.angle);
    let (_, others) = strings.split_last()?;
    let angle = balance
        .plate
        .answers(rest, springs, others, Force::ZERO)
        .map_or(balance.up_end(), |angle| angle.max(balance.up_end()));
    let back = balance.plate.back(rest, angle);
    Some(others.iter().map(|held| held.cents(back)).sum::<Cents>() / others.len().max(1) as f64)
}

pub(super) fn hooks(balance: &Balance) -> Vec<Hook> {
    let (springs, rest) = (&balance.springs, balance.angle);
    let torque = |hooked: &Hooked| balance.plate.spring_torque(hooked, rest);
    let all: f64 = springs.iter().map(|hooked| torque(hooked).1).sum();
    springs
        .iter()
        .map(|hooked| {
            let (length, share) = torque(hooked);
            let pull = hooked.spring.pull(length).abs();
            let far = length.ratio(hooked.spring.free);
            Hook {
                length,
                pull,
                // Springs that all hang loose share nothing.
                share: if all == 0.0 { 0.0 } else { share / all },
                at_end: pull == Force::ZERO
                    || (hooked.spring.works == Works::Pulled && far > OVERSTRETCHED),
            }
        })
        .collect()
}
