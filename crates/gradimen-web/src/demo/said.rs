//! What the invented borrowers say, and what was looked at and heard before an instrument went back.

use crate::vocabulary::*;

/// What is told of a bird beside its readings: first at the counter, last before it goes.
pub(super) fn of(name: &str) -> (Vec<Event>, Vec<Event>) {
    let observed = |what| Event::Observed { what };
    let complaint = |symptoms: &[Symptom], words: &str, liked: &str| {
        observed(Observation::Complaint {
            complaint: Complaint {
                symptoms: symptoms.to_vec(),
                words: words.to_owned(),
                liked: liked.to_owned(),
                picks: Some(Picks::Middle),
            },
        })
    };
    let damp = |percent| observed(Observation::Humidity { percent });
    let checked = |round, line, condition| {
        observed(Observation::Checked {
            round,
            line,
            condition,
        })
    };
    let heard = |string, fret, heard| {
        observed(Observation::Played {
            note: Note { string, fret },
            heard: Some(heard),
            sure: None,
        })
    };
    use Symptom::{
        BuzzLow, BuzzOne, BuzzOpen, Crackle, HardToPlay, Rattles, SourHigh, WillNotStay,
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
            vec![complaint(&[BuzzOpen], "open strings sizzle", "")],
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
        "Dunlin" => {
            let rock = |string, fret, seen| {
                Event::read(Place::Rock { string, fret }, Reading::Rock { seen })
            };
            let still = [
                (1, 4),
                (2, 4),
                (3, 7),
                (4, 9),
                (5, 12),
                (6, 15),
                (3, 13),
                (3, 15),
                (5, 14),
            ];
            let mut after: Vec<Event> = still
                .map(|(string, fret)| rock(string, fret, Rocking::None))
                .to_vec();
            after.extend([
                rock(3, 14, Rocking::Clear),
                rock(4, 14, Rocking::Slight),
                rock(2, 14, Rocking::Slight),
                observed(Observation::Pressed {
                    note: Note {
                        string: 3,
                        fret: 14,
                    },
                    moves: false,
                }),
            ]);
            (vec![complaint(&[BuzzOne], "one bend dies", "")], after)
        }
        "Plover" => (vec![damp(59.0)], Vec::new()),
        "Avocet" => (
            Vec::new(),
            vec![
                heard(3, 14, Heard::Buzz),
                heard(1, 17, Heard::Choke),
                heard(6, 0, Heard::Rattle),
            ],
        ),
        "Curlew" => {
            let mut after: Vec<Event> = CheckLine::all()
                .filter(|line| *line != CheckLine::Battery)
                .map(|line| checked(Round::After, line, Condition::Fine))
                .collect();
            after.push(observed(Observation::PlayedThrough));
            (
                vec![
                    damp(47.0),
                    complaint(&[HardToPlay], "too high for slow lines", "the wide frets"),
                ],
                after,
            )
        }
        _ => (Vec::new(), Vec::new()),
    }
}
