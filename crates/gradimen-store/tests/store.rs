//! The file: nothing lost, nothing overwritten, nothing foreign touched.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use std::path::Path;

use common::{at, beside, instrument, opened, reading};
use gradimen_bench::job::Job;
use gradimen_bench::journal::{Document, Event};
use gradimen_bench::model::hardware::{Bridge, BridgeFamily};
use gradimen_bench::model::instrument::PutRight;
use gradimen_bench::model::{Adjuster, Amount, Measurement, Shop, Stage};
use gradimen_store::library::Search;
use gradimen_store::{Store, StoreError};

async fn store(folder: &Path) -> Store {
    Store::open(folder).await.unwrap()
}

async fn with_job(folder: &Path) -> (Store, i64) {
    let store = store(folder).await;
    let heron = instrument("27", "Heron");
    let id = store.add_instrument(&heron, at(0)).await.unwrap();
    let job = store
        .open_job(id, opened(heron, "before loan"), at(1))
        .await
        .unwrap();
    (store, job)
}

#[tokio::test]
async fn a_journal_grows_and_survives_reopening() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = with_job(folder.path()).await;
    let job = store
        .append(id, 1, vec![reading(6.2), reading(6.0)], at(2))
        .await
        .unwrap();
    assert_eq!(job.job.seq(), 3);
    store.close().await.unwrap();
    let again = self::store(folder.path()).await;
    let stored = again.job(id).await.unwrap();
    assert_eq!(Job::fold(&stored.entries).unwrap(), *job.job);
}

#[tokio::test]
async fn a_writer_that_saw_less_is_told_and_nothing_is_written() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = with_job(folder.path()).await;
    store
        .append(id, 1, vec![reading(6.2)], at(2))
        .await
        .unwrap();
    let late = store.append(id, 1, vec![reading(-1.0)], at(3)).await;
    assert!(matches!(
        late,
        Err(StoreError::Conflict { seen: 1, now: 2 })
    ));
    assert_eq!(store.job(id).await.unwrap().entries.len(), 2);
    // What cannot be is not written either, not even the part of it that could.
    let wrong = store
        .append(id, 2, vec![reading(1.0), reading(400.0)], at(4))
        .await;
    assert!(matches!(wrong, Err(StoreError::Job(_))));
    assert_eq!(store.job(id).await.unwrap().entries.len(), 2);
    assert!(matches!(
        store.append(99, 1, vec![], at(5)).await,
        Err(StoreError::NoSuchJob(99))
    ));
}

#[tokio::test]
async fn a_job_keeps_the_instrument_as_it_was() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = with_job(folder.path()).await;
    let instrument_id = store.job(id).await.unwrap().instrument_id;
    let mut heron = store.instrument(instrument_id).await.unwrap().instrument;
    heron.scales = vec![Measurement::mm(628.0)];
    assert_eq!(
        store
            .change_instrument(instrument_id, 1, &heron, at(9))
            .await
            .unwrap(),
        2
    );
    let late = store
        .change_instrument(instrument_id, 1, &heron, at(9))
        .await;
    assert!(matches!(
        late,
        Err(StoreError::Conflict { seen: 1, now: 2 })
    ));
    let versions = store.instrument_versions(instrument_id).await.unwrap();
    assert_eq!(
        versions
            .iter()
            .map(|version| version.version)
            .collect::<Vec<_>>(),
        [2, 1]
    );
    let job = Job::fold(&store.job(id).await.unwrap().entries).unwrap();
    assert!((job.instrument().scale(1).mm() - 647.7).abs() < 1e-6);
    heron.scales.clear();
    assert!(matches!(
        store
            .change_instrument(instrument_id, 2, &heron, at(9))
            .await,
        Err(StoreError::Instrument(_))
    ));
}

#[tokio::test]
async fn export_and_import_give_the_same_job_again() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = with_job(folder.path()).await;
    store
        .append(
            id,
            1,
            vec![
                reading(6.2),
                Event::Adjusted {
                    adjuster: Adjuster::SaddleDrive { string: 1 },
                    amount: Amount::Turns { turns: 4.5 },
                },
            ],
            at(2),
        )
        .await
        .unwrap();
    let entries = store.job(id).await.unwrap().entries;
    let text = Document::of(entries.clone()).to_json().unwrap();
    let elsewhere = tempfile::tempdir().unwrap();
    let other = self::store(elsewhere.path()).await;
    let imported = other
        .import(&Document::parse(&text).unwrap())
        .await
        .unwrap();
    assert_eq!(other.job(imported).await.unwrap().entries, entries);
    // Once more: the instrument is found again, not doubled.
    other
        .import(&Document::parse(&text).unwrap())
        .await
        .unwrap();
    assert_eq!(other.stock("").await.unwrap().len(), 1);
    assert_eq!(other.stock("heron").await.unwrap()[0].jobs, 2);
}

#[tokio::test]
async fn jobs_are_found_by_name_number_and_stage() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = with_job(folder.path()).await;
    let wren = instrument("9", "Wren 100%");
    let wren_id = store.add_instrument(&wren, at(0)).await.unwrap();
    let second = store
        .open_job(wren_id, opened(wren, "after loan"), at(5))
        .await
        .unwrap();
    let ids = async |words: &str, stage| {
        let search = Search {
            words: words.into(),
            stage,
            page: 0,
        };
        let (jobs, _) = store.jobs(&search).await.unwrap();
        jobs.into_iter().map(|job| job.id).collect::<Vec<_>>()
    };
    assert_eq!(ids("", None).await, [second, id]);
    assert_eq!(ids("heRon", None).await, [id]);
    assert_eq!(ids("no. 27", None).await, [id]);
    assert_eq!(ids("100%", None).await, [second]);
    assert_eq!(ids("%", None).await, [second]);
    assert!(ids("wr_n", None).await.is_empty());
    assert!(ids("\\\\", None).await.is_empty());
    assert_eq!(ids("loan folk wren", None).await, [second]);
    // What no name can have is nothing to look for, and breaks nothing.
    assert_eq!(ids("he\0ron", None).await, [id]);
    assert_eq!(ids("\0\0\0", None).await, [second, id]);
    // Inside a word, shorter than the index knows, and what its expressions would take for their own.
    assert_eq!(ids("ero", None).await, [id]);
    assert_eq!(ids("he", None).await, [id]);
    assert_eq!(ids("he ero", None).await, [id]);
    for words in [
        "\"heron\"",
        "heron OR wren",
        "her*",
        "NOT wren",
        "search:heron",
        "^heron",
    ] {
        assert!(ids(words, None).await.is_empty(), "{words}");
    }
    assert!(ids("'; DROP TABLE job; --", None).await.is_empty());
    store
        .append(
            id,
            1,
            vec![Event::Staged {
                stage: Stage::Returned,
            }],
            at(6),
        )
        .await
        .unwrap();
    assert_eq!(ids("", None).await, [second]);
    assert_eq!(ids("", Some(Stage::Returned)).await, [id]);
    assert_eq!(ids("heron", None).await, [id]);
    assert_eq!(store.stage_counts().await.unwrap(), [1, 0, 0, 0, 1]);
    assert_eq!(
        store.latest_job().await.unwrap().unwrap().job.seq(),
        store.worked(id).await.unwrap().job.seq()
    );
    assert_eq!(
        store.last_job(wren_id).await.unwrap().unwrap(),
        store.worked(second).await.unwrap()
    );
}

#[tokio::test]
async fn a_second_process_is_refused() {
    let folder = tempfile::tempdir().unwrap();
    let _first = store(folder.path()).await;
    assert!(matches!(
        Store::open(folder.path()).await,
        Err(StoreError::InUse(_))
    ));
}

#[tokio::test]
async fn foreign_damaged_and_newer_files_are_refused_untouched() {
    let refused = async |bytes: &[u8]| {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("gradimen.db");
        std::fs::write(&path, bytes).unwrap();
        let error = Store::open(folder.path()).await.unwrap_err();
        assert_eq!(std::fs::read(&path).unwrap(), bytes, "touched");
        error
    };
    assert!(matches!(refused(b"a shopping list, quite long enough to be a header of something, but of nothing that we know at all").await, StoreError::Foreign(_)));

    let folder = tempfile::tempdir().unwrap();
    let (store, _) = with_job(folder.path()).await;
    store.close().await.unwrap();
    let path = folder.path().join("gradimen.db");
    let sound = std::fs::read(&path).unwrap();
    let mut torn = sound.clone();
    for byte in &mut torn[4096..12288] {
        *byte = 0xa5;
    }
    assert!(matches!(refused(&torn).await, StoreError::Damaged { .. }));
    assert!(matches!(
        refused(&sound[..sound.len() / 2]).await,
        StoreError::Damaged { .. }
    ));
    let mut other = sound.clone();
    other[68..72].copy_from_slice(b"ELSE");
    assert!(matches!(refused(&other).await, StoreError::Foreign(_)));

    // The same file with a form that only a later version knows.
    let pool = sqlx::SqlitePool::connect(&format!("sqlite://{}", path.display()))
        .await
        .unwrap();
    sqlx::query("INSERT INTO _sqlx_migrations (version, description, success, checksum, execution_time) VALUES (9999, 'later', 1, x'00', 0)")
        .execute(&pool).await.unwrap();
    sqlx::query("PRAGMA wal_checkpoint(TRUNCATE)")
        .execute(&pool)
        .await
        .unwrap();
    pool.close().await;
    let newer = std::fs::read(&path).unwrap();
    assert!(matches!(
        refused(&newer).await,
        StoreError::Newer { found: 9999, .. }
    ));
}

#[tokio::test]
async fn the_file_itself_refuses_to_change_a_journal() {
    let folder = tempfile::tempdir().unwrap();
    let (store, _) = with_job(folder.path()).await;
    store.close().await.unwrap();
    let path = folder.path().join("gradimen.db");
    let pool = sqlx::SqlitePool::connect(&format!("sqlite://{}", path.display()))
        .await
        .unwrap();
    for sql in [
        "UPDATE entry SET body = '{}'",
        "DELETE FROM entry",
        "DELETE FROM instrument_version",
    ] {
        let error = sqlx::query(sql).execute(&pool).await.unwrap_err();
        assert!(error.to_string().contains("append-only"), "{sql}: {error}");
    }
}

#[tokio::test]
async fn one_bad_line_keeps_no_other_from_the_list_and_an_old_one_is_made_again() {
    let folder = tempfile::tempdir().unwrap();
    let (store, first) = with_job(folder.path()).await;
    let wren = instrument("9", "Wren");
    let wren_id = store.add_instrument(&wren, at(5)).await.unwrap();
    let second = store
        .open_job(wren_id, opened(wren, "buzz"), at(6))
        .await
        .unwrap();
    store.close().await.unwrap();
    // One line is of a form that nobody reads, the other job's journal is no journal.
    beside(
        folder.path(),
        &format!(
            "UPDATE job SET summary = '{{\"title\": \"old\"}}'; DROP TRIGGER entry_is_never_changed;
             UPDATE entry SET body = '{{\"type\": \"milk\"}}' WHERE job_id = {second};"
        ),
    );
    let store = self::store(folder.path()).await;
    let (listed, _) = store.jobs(&Search::default()).await.unwrap();
    let line = |id: i64| {
        &listed
            .iter()
            .find(|listed| listed.id == id)
            .unwrap()
            .summary
    };
    assert_eq!(line(first).title, "No. 27 Heron");
    assert!(line(first).is_current() && line(first).broken.is_none());
    assert!(line(second).broken.as_ref().unwrap().contains("milk"));
    // What stands there can be taken away as it is.
    assert!(store.as_stored(second).await.unwrap().contains("milk"));
    assert!(store.worked(second).await.is_err());
}

#[tokio::test]
async fn what_was_recorded_in_one_stroke_stays_one_in_the_file() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = with_job(folder.path()).await;
    store
        .append(id, 1, vec![reading(6.2), reading(6.0)], at(2))
        .await
        .unwrap();
    store.close().await.unwrap();
    let store = self::store(folder.path()).await;
    let worked = store.worked(id).await.unwrap();
    let undone = store
        .append(id, 3, vec![worked.job.undo().unwrap()], at(3))
        .await
        .unwrap();
    let counts: Vec<bool> = undone
        .job
        .entries()
        .iter()
        .map(|entry| undone.job.counts(entry))
        .collect();
    assert_eq!(counts, [true, false, false, true]);
}

#[tokio::test]
async fn a_record_with_our_old_default_is_read_right_and_stays_as_it_was_written() {
    let folder = tempfile::tempdir().unwrap();
    let store = store(folder.path()).await;
    let mut wren = instrument("9", "Wren");
    wren.bridge = Bridge::profile(BridgeFamily::TwoPost, 6);
    // As an earlier build wrote it: posts that rise clockwise, and nothing that says that this was looked at.
    wren.bridge.height.clockwise_raises = true;
    wren.bridge.height.direction_checked = false;
    let id = store.add_instrument(&wren, at(0)).await.unwrap();
    let read = store.instrument(id).await.unwrap();
    assert!(!read.instrument.bridge.height.clockwise_raises);
    assert_eq!(read.put_right, [PutRight::Posts]);
    // Told again by hand it is believed, and nothing is put right any more; the version before still is.
    let mut told = read.instrument.clone();
    told.bridge.height.clockwise_raises = true;
    store.change_instrument(id, 1, &told, at(1)).await.unwrap();
    let versions = store.instrument_versions(id).await.unwrap();
    assert!(
        versions[0].instrument.bridge.height.clockwise_raises && versions[0].put_right.is_empty()
    );
    assert_eq!(versions[1].put_right, [PutRight::Posts]);
}

#[tokio::test]
async fn a_shop_is_kept_as_a_whole_and_only_by_who_saw_it_last() {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(folder.path()).await.unwrap();
    let kept = store.shop().await.unwrap();
    assert_eq!((kept.version, kept.shop.clone()), (0, Shop::default()));
    let now = jiff::Timestamp::now();
    let named = Shop {
        name: "County music library".into(),
        ..Shop::default()
    };
    store.keep_shop(0, &named, now).await.unwrap();
    let late = store.keep_shop(0, &Shop::default(), now).await;
    assert!(
        matches!(late, Err(StoreError::Conflict { seen: 0, now: 1 })),
        "{late:?}"
    );
    let mut nameless = named.clone();
    nameless.specs[0].name.clear();
    let refused = store.keep_shop(1, &nameless, now).await;
    assert!(matches!(refused, Err(StoreError::Shop(_))), "{refused:?}");
    store.close().await.unwrap();
    let again = Store::open(folder.path())
        .await
        .unwrap()
        .shop()
        .await
        .unwrap();
    assert_eq!((again.version, again.shop), (1, named));
}

#[tokio::test]
async fn what_was_left_is_due_until_it_comes_again() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = with_job(folder.path()).await;
    let by = |day: &str| day.parse::<jiff::civil::Date>().unwrap();
    let returned = Event::Staged {
        stage: gradimen_bench::model::Stage::Returned,
    };
    assert!(store.due(by("2099-01-01")).await.unwrap().is_empty());
    store.append(id, 1, vec![returned], at(2)).await.unwrap();
    // Half a year from the day it was worked on, 21 September 2026.
    assert!(store.due(by("2027-03-20")).await.unwrap().is_empty());
    let due = store.due(by("2027-03-21")).await.unwrap();
    assert_eq!(due.len(), 1);
    assert_eq!(due[0].summary.due, Some(by("2027-03-21")));
    // Here again, nobody need be called.
    let heron = store.instrument(1).await.unwrap().instrument;
    store
        .open_job(1, opened(heron, "recheck"), at(3))
        .await
        .unwrap();
    assert!(store.due(by("2099-01-01")).await.unwrap().is_empty());
    let lines = store.lines().await.unwrap();
    assert_eq!(lines.len(), 2);
    assert_eq!(lines[0].opened_at, at(1));
}

#[tokio::test]
async fn lines_of_an_older_form_are_made_again_without_being_looked_at() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = with_job(folder.path()).await;
    store.close().await.unwrap();
    beside(
        folder.path(),
        "UPDATE job SET summary = '{\"title\": \"old\"}', search = 'old'",
    );
    let store = self::store(folder.path()).await;
    assert_eq!(store.refresh_lines(0, 10).await.unwrap(), [id]);
    assert_eq!(store.refresh_lines(0, 10).await.unwrap(), Vec::<i64>::new());
    let found = Search {
        words: "heron".into(),
        ..Search::default()
    };
    assert_eq!(store.jobs(&found).await.unwrap().0.len(), 1);
}
