//! What the invented borrowers say, and what was looked at and heard before an instrument went back.

use crate::vocabulary::*;

/// What is told of a bird beside its readings: first at the counter, last before it goes.
pub(super) fn of(name: &str) -> (Vec<Observation>, Vec<Observation>) {
    let complaint = |symptoms: &[Symptom], words: &str, liked: &str| Observation::Complaint {
        complaint: Complaint {
            symptoms: symptoms.to_vec(),
            words: words.to_owned(),
            liked: liked.to_owned(),
            picks: Some(Picks::Middle),
        },
    };
    let checked = |round, line, condition| Observation::Checked {
        round,
        line,
        condition,
    };
    let heard = |string, fret, heard| Observation::Played {
        note: Note { string, fret },
        heard: Some(heard),
    };
    use Symptom::{
        BuzzLow, BuzzOne, BuzzOpen, Crackle, HardToPlay, Rattles, SharpLow, SourHigh, WillNotStay,
    };
    match name {
        "Heron" => (
            vec![complaint(
                &[SourHigh, HardToPlay],
                "chords up the neck sound sour",
                "the low action",
            )],
            Vec::new(),
        ),
        "Wren" => (
            vec![complaint(&[BuzzLow, BuzzOne], "one note growls", "")],
            Vec::new(),
        ),
        "Bittern" => (
            vec![
                complaint(&[Crackle], "cuts out when I move", "the long neck"),
                checked(Round::Before, CheckLine::Jack, Condition::Fault),
                checked(Round::Before, CheckLine::Controls, Condition::Fine),
            ],
            Vec::new(),
        ),
        "Osprey" => (
            vec![complaint(&[BuzzOpen, SharpLow], "open strings sizzle", "")],
            Vec::new(),
        ),
        "Stonechat" => (
            vec![complaint(
                &[WillNotStay, Rattles],
                "never comes back to pitch",
                "the arm",
            )],
            Vec::new(),
        ),
        "Avocet" => (
            Vec::new(),
            vec![
                heard(3, 14, Heard::Buzz),
                heard(1, 17, Heard::Choke),
                heard(6, 0, Heard::Rattle),
            ],
        ),
        "Curlew" => {
            let mut after: Vec<Observation> = CheckLine::all()
                .filter(|line| *line != CheckLine::Battery)
                .map(|line| checked(Round::After, line, Condition::Fine))
                .collect();
            after.push(Observation::PlayedThrough);
            (
                vec![complaint(
                    &[HardToPlay],
                    "too high for slow lines",
                    "the wide frets",
                )],
                after,
            )
        }
        _ => (Vec::new(), Vec::new()),
    }
}
