//! The journal: deterministic, order-safe, undoable, refusing what cannot be.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{fold, guitar, journal, opened, read, strung};
use gradimen_bench::journal::HistoryError;
use gradimen_bench::stations::strings::{self, TensionGoal};
use gradimen_core::quantity::Force;
use proptest::prelude::*;

fn start() -> Event {
    opened(Kind::Guitar, 6, BridgeFamily::FixedPlate)
}

/// Any event a bench might tell, by number.
fn event(pick: u8, string: u8, value: f64) -> Event {
    match pick % 8 {
        0 => read(string, value),
        1 => Event::Adjusted {
            adjuster: Adjuster::SaddleDrive { string },
            amount: Amount::Turns {
                turns: (value * 2.0).round() / 8.0,
            },
        },
        2 => Event::Observed {
            what: Observation::Strings { old: value > 0.0 },
        },
        3 => Event::Noted {
            text: format!("note {value:.1}"),
        },
        4 => Event::Staged {
            stage: Stage::OnBench,
        },
        5 => Event::read(
            Place::Room { string },
            Reading::Length {
                length: Measurement::mm(value.abs()),
            },
        ),
        6 => Event::Ended {
            adjuster: Adjuster::SaddleDrive { string },
            how: End::Stuck,
        },
        _ => Event::Restrung {
            strung: strung(Kind::Guitar, 6),
        },
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn fold_is_deterministic_and_order_safe(
        picks in proptest::collection::vec((0_u8..8, 1_u8..7, -12.0_f64..12.0), 0..24),
        turn in 0_usize..24,
    ) {
        let events: Vec<Event> = picks.into_iter().map(|(pick, string, value)| event(pick, string, value)).collect();
        let entries = journal([vec![start()], events].concat());
        let mut shuffled = entries.clone();
        let by = turn % shuffled.len();
        shuffled.rotate_left(by);
        shuffled.reverse();
        prop_assert_eq!(Job::fold(&entries).unwrap(), Job::fold(&shuffled).unwrap());
    }

    #[test]
    fn undo_restores_and_redo_brings_back(pick in 0_u8..8, string in 1_u8..7, value in -12.0_f64..12.0) {
        let before = guitar(vec![read(1, 2.0)]);
        let done = event(pick, string, value);
        let after = guitar(vec![read(1, 2.0), done.clone()]);
        let undo = after.undo().unwrap();
        let undone = guitar(vec![read(1, 2.0), done.clone(), undo.clone()]);
        let (mut was, mut is) = (report_of(&before), report_of(&undone));
        was.seq = 0;
        is.seq = 0;
        prop_assert_eq!(was, is);
        prop_assert_eq!(before.stage(), undone.stage());
        let redo = undone.redo().unwrap();
        let again = guitar(vec![read(1, 2.0), done, undo, redo]);
        prop_assert_eq!(report_of(&again).quantities, report_of(&after).quantities);
        prop_assert!(again.redo().is_none());
    }

    #[test]
    fn a_document_gives_the_same_job_again(
        picks in proptest::collection::vec((0_u8..8, 1_u8..7, -12.0_f64..12.0), 0..12),
    ) {
        let events: Vec<Event> = picks.into_iter().map(|(pick, string, value)| event(pick, string, value)).collect();
        let document = Document::of(journal([vec![start()], events].concat()));
        let text = document.to_json().unwrap();
        let back = Document::parse(&text).unwrap();
        prop_assert_eq!(back.to_json().unwrap(), text);
        prop_assert_eq!(&back, &document);
        prop_assert_eq!(Job::fold(&back.events).unwrap(), Job::fold(&document.events).unwrap());
    }
}

#[test]
fn a_new_event_ends_what_could_be_redone() {
    let job = guitar(vec![
        read(1, 2.0),
        Event::Undone { target: 2 },
        read(1, 3.0),
    ]);
    assert_eq!(job.redo(), None);
    assert_eq!(job.undo(), Some(Event::Undone { target: 4 }));
    assert!(
        guitar(vec![]).undo().is_none(),
        "opening a job is not undone"
    );
    assert_eq!(
        job.entries()
            .iter()
            .map(|entry| job.counts(entry))
            .collect::<Vec<_>>(),
        [true, false, true, true]
    );
}

#[test]
fn refuses_journals_that_cannot_be() {
    let entries = journal(vec![start(), read(1, 1.0), read(2, 1.0)]);
    assert_eq!(Job::fold(&[]), Err(JobError::NotOpened));
    assert_eq!(
        Job::fold(&[entries[0].clone(), entries[2].clone()]),
        Err(HistoryError::Sequence {
            expected: 2,
            found: 3
        }
        .into())
    );
    assert!(matches!(
        Job::fold(&journal(vec![read(1, 1.0)])),
        Err(JobError::NotOpened)
    ));
    assert!(matches!(
        Job::fold(&journal(vec![start(), start()])),
        Err(JobError::OpenedTwice(2))
    ));
    let wild = journal(vec![start(), Event::Undone { target: 9 }]);
    assert_eq!(Job::fold(&wild), Err(HistoryError::UndoTarget(9).into()));
    let mut later = entries;
    later[1].version = 99;
    assert!(matches!(
        Job::fold(&later),
        Err(JobError::History(HistoryError::Version {
            seq: 2,
            version: 99
        }))
    ));
}

#[test]
fn refuses_events_that_cannot_be() {
    let job = guitar(vec![]);
    let refused = [
        read(7, 1.0),
        read(0, 1.0),
        common::read_at(1, 30, 1.0),
        read(1, 250.0),
        read(1, f64::NAN),
        Event::Adjusted {
            adjuster: Adjuster::SaddleDrive { string: 1 },
            amount: Amount::Turns {
                turns: f64::INFINITY,
            },
        },
        Event::Adjusted {
            adjuster: Adjuster::SaddleDrive { string: 1 },
            amount: Amount::Reversed,
        },
        Event::read(
            Place::Core { string: 1 },
            Reading::Length {
                length: Measurement::mm(0.2),
            },
        ),
        Event::read(
            Place::CutOff { string: 6 },
            Reading::Weighed {
                weighing: Weighing {
                    length: Measurement::mm(100.0),
                    grams: 7.0,
                },
            },
        ),
        Event::Undone { target: 1 },
        Event::Redone { target: 1 },
        start(),
    ];
    for event in refused {
        assert!(job.accepts(&event).is_err(), "{event:?}");
    }
    // A harmonic is compared at the twelfth only.
    let odd = Event::read(
        Place::Intonation { string: 1, fret: 7 },
        Reading::Note {
            cents: 1.0,
            against: Reference::Harmonic,
            resolution_cents: None,
            by_ear: false,
        },
    );
    assert!(
        job.accepts(&odd)
            .unwrap_err()
            .to_string()
            .contains("fret 12")
    );
}

#[test]
fn a_set_that_would_break_is_refused_with_its_share() {
    let mut tight = strung(Kind::Guitar, 6);
    tight.tuning.notes[0] = "B4".into();
    let error = guitar(vec![])
        .accepts(&Event::Restrung { strung: tight })
        .unwrap_err();
    assert!(
        matches!(error, JobError::WouldBreak { string: 1, .. }),
        "{error}"
    );
    assert!(error.to_string().contains("90 %"));
}

#[test]
fn documents_of_other_kinds_are_refused_clearly() {
    let document = Document::of(journal(vec![start()]));
    let text = document.to_json().unwrap();
    let other = text.replacen("gradimen-job", "shopping-list", 1);
    assert!(matches!(
        Document::parse(&other),
        Err(DocumentError::Format(_))
    ));
    let newer = text.replacen("\"version\": 1", "\"version\": 7", 1);
    assert!(matches!(
        Document::parse(&newer),
        Err(DocumentError::Version(7))
    ));
    let broken = Document::parse("{\"format\": 3").unwrap_err().to_string();
    assert!(broken.contains("line 1"), "{broken}");
    let misspelt = text.replacen("\"purpose\"", "\"purpos\"", 1);
    assert!(
        Document::parse(&misspelt)
            .unwrap_err()
            .to_string()
            .contains("purpos")
    );
}

#[test]
fn tension_table_adds_up_and_compares_with_before() {
    let mut lower = strung(Kind::Guitar, 6);
    for note in &mut lower.tuning.notes {
        let pitch: gradimen_core::pitch::Note = note.parse().unwrap();
        *note = pitch.transposed(-1).unwrap().to_string();
    }
    let job = guitar(vec![Event::Restrung {
        strung: lower.clone(),
    }]);
    let pull = strings::pull(&job);
    assert!((pull.rows.iter().map(|row| row.share).sum::<f64>() - 1.0).abs() < 1e-12);
    // Half a step down: pull falls by the square of a semitone.
    let ratio = pull.total.ratio(pull.before.unwrap());
    assert!((ratio - 2f64.powf(-1.0 / 6.0)).abs() < 1e-9, "{ratio}");
    assert!(strings::pull(&guitar(vec![])).before.is_none());
    // Half a step down with the feel of before wants about one gauge more.
    let kept = pulls::set_for(&guitar(vec![]), &lower.tuning, TensionGoal::KeepFeel).unwrap();
    let before = strung(Kind::Guitar, 6);
    for (new, old) in kept.set.iter().zip(&before.set) {
        let ratio = new.gauge.middle().ratio(old.gauge.middle());
        assert!(
            (1.0..1.13).contains(&ratio),
            "{} for {}",
            new.label(),
            old.label()
        );
    }
}

#[test]
fn sets_and_tunings_for_a_wanted_pull() {
    let job = guitar(vec![]);
    let now = strings::pull(&job).total;
    let wanted = Force::from_newtons(now.newtons() * 1.12);
    let (tuning, shift) = strings::tuning_for(&job, wanted).unwrap();
    assert!((shift.value() - 600.0 * 1.12_f64.log2()).abs() < 1e-9);
    let mut retuned = job.strung();
    retuned.tuning = tuning;
    let there = strings::pull(&guitar(vec![Event::Restrung { strung: retuned }])).total;
    assert!((there.ratio(wanted) - 1.0).abs() < 1e-3);
    let heavier = pulls::set_for(&job, job.tuning(), TensionGoal::Total(wanted)).unwrap();
    let total = strings::pull(&guitar(vec![Event::Restrung { strung: heavier }])).total;
    assert!(
        (total.ratio(wanted) - 1.0).abs() < 0.03,
        "{}",
        total.ratio(wanted)
    );
    let each = pulls::set_for(
        &job,
        job.tuning(),
        TensionGoal::Even(Force::from_newtons(75.0)),
    )
    .unwrap();
    let rows = strings::pull(&guitar(vec![Event::Restrung { strung: each }])).rows;
    assert!(
        rows.iter()
            .all(|row| (row.pull.newtons() - 75.0).abs() < 6.0)
    );
    assert!(
        pulls::set_for(
            &job,
            job.tuning(),
            TensionGoal::Even(Force::from_newtons(900.0))
        )
        .is_err()
    );
}

#[test]
fn measured_cores_and_weighings_stay_with_their_string() {
    let weighing = Weighing {
        length: Measurement::mm(100.0),
        grams: 0.70,
    };
    let job = guitar(vec![
        Event::read(
            Place::Core { string: 6 },
            Reading::Length {
                length: Measurement::mm(0.46),
            },
        ),
        Event::read(Place::CutOff { string: 6 }, Reading::Weighed { weighing }),
    ]);
    let row = &strings::pull(&job).rows[5];
    assert!(row.weighed && !row.core_is_estimate);
    assert!((row.unit_weight.grams_per_metre() - 7.0).abs() < 1e-9);
    let mut other = job.strung();
    other.set[5] = StringEntry::thou(48.0, StringConstruction::RoundNickelPlated);
    let after = fold(vec![start(), Event::Restrung { strung: other }]);
    assert!(!strings::pull(&after).rows[5].weighed);
}

#[test]
fn quick_checks_stand_in_the_record_and_nonsense_does_not() {
    use gradimen_bench::model::{Rocking, RodFeel};

    let job = guitar(Vec::new());
    let rod = |turns_left| {
        let how = RodFeel::Free;
        Event::read(Place::RodCheck, Reading::RodNut { turns_left, how })
    };
    let rock = |string, fret| {
        let seen = Rocking::Clear;
        Event::read(Place::Rock { string, fret }, Reading::Rock { seen })
    };
    let told = job
        .plus(rod(0.75))
        .and_then(|job| job.plus(rock(2, 14)))
        .unwrap();
    let entries: Vec<Entry> = told
        .entries()
        .iter()
        .map(|entry| entry.as_ref().clone())
        .collect();
    let written = Document::of(entries).to_json().unwrap();
    assert!(written.contains("\"rod_check\"") && written.contains("\"rock\""));
    let again = Job::fold(&Document::parse(&written).unwrap().events).unwrap();
    let says: Vec<String> = again
        .entries()
        .iter()
        .skip(1)
        .map(|entry| text::events::sentence(&entry.event))
        .collect();
    assert_eq!(
        says,
        [
            "Nut of the truss rod: turns freely, 3/4 turn of thread left",
            "Rocker over fret 14, along string 2: rocks"
        ]
    );
    // A rocker stands on three frets of this board, a nut has a thread of some length.
    let frets = job.instrument().frets;
    for nonsense in [
        rock(2, 1),
        rock(2, frets),
        rock(9, 5),
        rod(-1.0),
        rod(f64::NAN),
        rod(99.0),
    ] {
        assert!(job.accepts(&nonsense).is_err(), "{nonsense:?}");
    }
    let misfit = Event::read(Place::RodCheck, Reading::Flat);
    assert!(job.accepts(&misfit).is_err());
}

#[test]
fn a_record_put_right_holds_from_the_beginning_and_can_be_taken_back() {
    use std::sync::Arc;

    use gradimen_bench::journal::Corrected;

    let job = guitar(vec![read(6, 6.0)]);
    let before = Estimate::of(Arc::new(job.clone())).unwrap();
    let corrected = |change: &dyn Fn(&mut Instrument)| {
        let mut instrument = job.instrument().clone();
        change(&mut instrument);
        Event::Corrected(Box::new(Corrected {
            instrument,
            instrument_version: 2,
        }))
    };
    // A shorter scale than was on record: what was read before is read on that one.
    let shorter = corrected(&|record| record.scales = vec![Measurement::mm(628.65)]);
    let after = job.plus(shorter).unwrap();
    assert_eq!(after.instrument_version(), 2);
    assert!((after.speaking_scale(6).mm() - 628.65).abs() < 1e-9);
    let known = Estimate::of(Arc::new(after.clone())).unwrap();
    assert_ne!(
        known.state().note_now(6, Reference::Harmonic),
        before.state().note_now(6, Reference::Harmonic)
    );
    // The same as if it had been so when the job was opened.
    let Event::Opened(mut opened) = job.entries()[0].event.clone() else {
        panic!()
    };
    opened.instrument = after.instrument().clone();
    let from_the_start = fold(vec![Event::Opened(opened), read(6, 6.0)]);
    let told = Estimate::of(Arc::new(from_the_start)).unwrap();
    assert_eq!(
        told.state().note_now(6, Reference::Harmonic),
        known.state().note_now(6, Reference::Harmonic)
    );
    // It goes through a document and can be undone.
    let entries: Vec<Entry> = after
        .entries()
        .iter()
        .map(|entry| entry.as_ref().clone())
        .collect();
    let written = Document::of(entries).to_json().unwrap();
    assert_eq!(
        Job::fold(&Document::parse(&written).unwrap().events).unwrap(),
        after
    );
    let undone = after
        .plus(Event::Undone {
            target: after.seq(),
        })
        .unwrap();
    assert_eq!(undone.instrument(), job.instrument());
    // One that what was recorded cannot be of is refused, and so is nonsense.
    for refused in [
        corrected(&|record| record.strings = 5),
        corrected(&|record| record.scales = vec![Measurement::mm(f64::NAN)]),
        corrected(&|record| record.frets = 200),
    ] {
        assert!(job.plus(refused).is_err());
    }
}

#[test]
fn what_was_turned_by_the_clock_turns_with_the_record() {
    use std::sync::Arc;

    use gradimen_bench::journal::Corrected;

    let span = gradimen_bench::model::ReliefSpan {
        low: 1,
        high: 12,
        at: 6,
    };
    // Ordered clockwise to tighten, done, and the neck went the other way: on this one clockwise loosens.
    let relief = |thou: f64| {
        Event::read(
            Place::Relief {
                side: Side::Treble,
                span,
            },
            Reading::Length {
                length: Measurement::mm(thou * 0.0254),
            },
        )
    };
    let turned = |turns| Event::Adjusted {
        adjuster: Adjuster::TrussRod,
        amount: Amount::Turns { turns },
    };
    let job = guitar(vec![
        relief(14.0),
        turned(0.25),
        relief(20.0),
        turned(-0.125),
    ]);
    let mut instrument = job.instrument().clone();
    instrument.neck.rod_reversed = true;
    let corrected = Event::Corrected(Box::new(Corrected {
        instrument: instrument.clone(),
        instrument_version: 2,
    }));
    let after = job
        .plus(corrected)
        .and_then(|job| job.plus(turned(0.5)))
        .unwrap();
    // What came after the correction is meant as it is written.
    let mut entries = vec![
        start(),
        relief(14.0),
        turned(-0.25),
        relief(20.0),
        turned(0.125),
        turned(0.5),
    ];
    if let Event::Opened(opened) = &mut entries[0] {
        opened.instrument = instrument;
    }
    let meant = fold(entries);
    let known = |job: &Job| Estimate::of(Arc::new(job.clone())).unwrap();
    let place = Place::Relief {
        side: Side::Treble,
        span,
    };
    assert_eq!(
        known(&after).state().predict(place),
        known(&meant).state().predict(place)
    );
    assert_ne!(
        known(&after).state().predict(place),
        known(&job).state().predict(place)
    );
    // The journal itself stands as it was written.
    assert_eq!(after.entries()[2].event, turned(0.25));
    // A record that says the same of its screws changes no turn.
    let mut renamed = job.instrument().clone();
    renamed.name = "Wren".into();
    let same = job
        .plus(Event::Corrected(Box::new(Corrected {
            instrument: renamed,
            instrument_version: 2,
        })))
        .unwrap();
    assert_eq!(
        known(&same).state().predict(place),
        known(&job).state().predict(place)
    );
}

#[test]
fn a_record_that_makes_another_pickup_of_one_that_was_read_is_refused() {
    use gradimen_bench::journal::Corrected;

    let gap = Event::read(
        Place::Pickup {
            pickup: 1,
            side: Side::Bass,
        },
        Reading::Length {
            length: Measurement::mm(2.0),
        },
    );
    let unread = guitar(Vec::new());
    let read = guitar(vec![gap]);
    assert!(read.instrument().pickups.len() > 2);
    let corrected = |change: &dyn Fn(&mut Instrument)| {
        let mut instrument = read.instrument().clone();
        change(&mut instrument);
        Event::Corrected(Box::new(Corrected {
            instrument,
            instrument_version: 2,
        }))
    };
    // Without the first one, the reading of the second would be believed of the third.
    let without = corrected(&|record| drop(record.pickups.remove(0)));
    assert!(unread.plus(without.clone()).is_ok() && read.plus(without).is_err());
    let elsewhere = corrected(&|record| record.pickups[1].before_saddle = Measurement::mm(99.0));
    assert!(read.plus(elsewhere).is_ok());
}
