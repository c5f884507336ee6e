//! Nothing changes, goes or is cut off behind our back without being named; copies are whole, and are put back whole.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use std::path::{Path, PathBuf};

use common::{at, beside, filled, reading};
use gradimen_bench::journal::Event;
use gradimen_store::backup::{self, backups, file_of};
use gradimen_store::verify::verify;
use gradimen_store::{Store, StoreError};
use jiff::Timestamp;

const OPEN: &str = "DROP TRIGGER entry_is_never_changed; DROP TRIGGER entry_is_never_removed; DROP TRIGGER entry_sum_is_never_removed; DROP TRIGGER instrument_version_is_never_changed;";

async fn problems(path: &Path) -> Vec<String> {
    let verdict = verify(path).await.unwrap();
    verdict.problems.iter().map(ToString::to_string).collect()
}

#[tokio::test]
async fn a_sound_file_has_nothing_to_name() {
    let folder = tempfile::tempdir().unwrap();
    let store = filled(folder.path(), 3).await;
    // Beside whoever has it open.
    let verdict = verify(&file_of(folder.path())).await.unwrap();
    assert_eq!(verdict.problems, []);
    assert_eq!(
        (verdict.contents.jobs, verdict.contents.instruments),
        (3, 3)
    );
    assert_eq!(verdict.contents.entries, 15);
    store.close().await.unwrap();
}

/// Each by another hand than the program's, with its guards taken off first.
#[tokio::test]
async fn what_was_changed_behind_our_back_is_named_by_job_and_entry() {
    for (sql, named) in [
        (
            "UPDATE entry SET body = replace(body, '\"cents\":6', '\"cents\":7') WHERE job_id = 2 AND seq = 3",
            "job 2, entry 3: ",
        ),
        (
            "UPDATE entry SET at = '2020-01-01T00:00:00Z' WHERE job_id = 1 AND seq = 2",
            "job 1, entry 2: ",
        ),
        (
            "DELETE FROM entry WHERE job_id = 3 AND seq = 5",
            "job 3, entry 5: its journal ends at entry 4, and 5 were written",
        ),
        (
            "DELETE FROM entry WHERE job_id = 3 AND seq = 5; DELETE FROM entry_sum WHERE job_id = 3 AND seq = 5",
            "job 3, entry 5: its journal ends at entry 4",
        ),
        (
            "DELETE FROM entry WHERE job_id = 1 AND seq = 3",
            "job 1, entry 3: entry 3 is missing",
        ),
        (
            "UPDATE instrument_version SET body = replace(body, 'Heron', 'Crane') WHERE instrument_id = 2",
            "instrument 2, version 1 of its record",
        ),
    ] {
        let folder = tempfile::tempdir().unwrap();
        filled(folder.path(), 3).await.close().await.unwrap();
        beside(folder.path(), &format!("{OPEN}{sql}"));
        let found = problems(&file_of(folder.path())).await;
        assert!(
            found.iter().any(|line| line.contains(named)),
            "{sql}: {found:?}"
        );
    }
}

/// Copies of the form before nobody could sign in are still sound, and can be put back.
#[tokio::test]
async fn a_copy_of_the_form_before_accounts_is_sound() {
    let folder = tempfile::tempdir().unwrap();
    filled(folder.path(), 2).await.close().await.unwrap();
    beside(
        folder.path(),
        "ALTER TABLE entry DROP COLUMN told_by; DROP TABLE session; DROP TABLE pairing; DROP TABLE account; DROP TABLE attempt; DROP TABLE cookie_key; DELETE FROM _sqlx_migrations WHERE version >= 7",
    );
    let sound = Vec::<String>::new();
    assert_eq!(problems(&file_of(folder.path())).await, sound);
    let store = Store::open(folder.path()).await.unwrap();
    assert_eq!(problems(&file_of(folder.path())).await, sound);
    let mira = store.in_hands_of("mira");
    let seen = mira.worked(1).await.unwrap().job.seq();
    let note = vec![Event::Noted { text: "x".into() }];
    let after = mira.append(1, seen, note, Timestamp::UNIX_EPOCH).await;
    let last = after.unwrap().job.entries().last().unwrap().by.clone();
    assert_eq!(last.as_deref(), Some("mira"));
    store.close().await.unwrap();
    assert_eq!(problems(&file_of(folder.path())).await, sound);
    // Whose word it was is part of what is summed.
    beside(
        folder.path(),
        &format!("{OPEN}UPDATE entry SET told_by = 'odd' WHERE told_by = 'mira'"),
    );
    assert_eq!(problems(&file_of(folder.path())).await.len(), 1);
}

#[tokio::test]
async fn what_was_written_before_there_were_sums_gets_them_when_it_is_opened() {
    let folder = tempfile::tempdir().unwrap();
    filled(folder.path(), 2).await.close().await.unwrap();
    // A file as the form before this one left it.
    beside(
        folder.path(),
        "DROP TABLE entry_sum; DROP TABLE version_sum; DROP TABLE press; ALTER TABLE entry DROP COLUMN told_by; DROP TABLE session; DROP TABLE pairing; DROP TABLE account; DROP TABLE attempt; DROP TABLE cookie_key; DELETE FROM _sqlx_migrations WHERE version >= 6",
    );
    assert!(!problems(&file_of(folder.path())).await.is_empty());
    let store = Store::open(folder.path()).await.unwrap();
    assert_eq!(
        problems(&file_of(folder.path())).await,
        Vec::<String>::new()
    );
    // And the chain goes on from there.
    store
        .append(1, 5, vec![reading(2.0)], at(99))
        .await
        .unwrap();
    assert_eq!(
        problems(&file_of(folder.path())).await,
        Vec::<String>::new()
    );
}

#[tokio::test]
async fn a_copy_is_made_while_it_is_written_and_holds_one_state() {
    let folder = tempfile::tempdir().unwrap();
    let store = filled(folder.path(), 2).await;
    let to = folder.path().join("copy.db");
    let writing = async {
        for seq in 5..40 {
            store
                .append(1, seq, vec![reading(1.0)], at(seq as i64))
                .await
                .unwrap();
        }
    };
    let (copied, ()) = tokio::join!(store.backup(&to), writing);
    let copied = copied.unwrap();
    let verdict = verify(&to).await.unwrap();
    assert_eq!((verdict.problems.len(), &verdict.contents), (0, &copied));
    // It takes no other file's place, and leaves nothing unfinished.
    assert!(matches!(store.backup(&to).await, Err(StoreError::Taken(_))));
    assert!(!folder.path().join("copy.unfinished").exists());
    let nowhere = folder.path().join("no/such/folder/copy.db");
    assert!(matches!(
        store.backup(&nowhere).await,
        Err(StoreError::File { .. })
    ));
}

#[tokio::test]
async fn a_copy_is_made_once_a_day_and_old_ones_go() {
    let folder = tempfile::tempdir().unwrap();
    let store = filled(folder.path(), 1).await;
    let day = |day: &str| day.parse().unwrap();
    assert!(
        backup::daily(folder.path(), day("2026-11-27"))
            .await
            .unwrap()
    );
    assert!(
        !backup::daily(folder.path(), day("2026-11-27"))
            .await
            .unwrap()
    );
    for number in 1..=20 {
        let today = format!("2026-12-{number:02}");
        backup::daily(folder.path(), day(&today)).await.unwrap();
    }
    let days: Vec<String> = backups(folder.path())
        .iter()
        .map(|backup| backup.day.to_string())
        .collect();
    assert_eq!(
        &days[..7],
        &(14..=20)
            .rev()
            .map(|n| format!("2026-12-{n}"))
            .collect::<Vec<_>>()[..]
    );
    assert!(
        days.len() <= 11 && days.contains(&"2026-12-07".to_owned()),
        "{days:?}"
    );
    store.close().await.unwrap();
}

#[tokio::test]
async fn a_copy_takes_the_place_at_the_next_start_and_what_was_there_stays() {
    let folder = tempfile::tempdir().unwrap();
    let store = filled(folder.path(), 2).await;
    let copy = folder.path().join("copy.db");
    store.backup(&copy).await.unwrap();
    store
        .append(1, 5, vec![reading(1.0)], at(50))
        .await
        .unwrap();
    let found = backup::put_next(folder.path(), &copy).await.unwrap();
    assert_eq!(found.entries, 10);
    assert!(backup::waits(folder.path()));
    // Until then nothing changes.
    assert_eq!(store.worked(1).await.unwrap().job.seq(), 6);
    store.close().await.unwrap();
    let store = Store::open(folder.path()).await.unwrap();
    assert_eq!(store.worked(1).await.unwrap().job.seq(), 5);
    assert!(!backup::waits(folder.path()));
    let aside: Vec<PathBuf> = std::fs::read_dir(folder.path())
        .unwrap()
        .flatten()
        .map(|entry| entry.path())
        .filter(|path| path.to_string_lossy().contains("gradimen-before-"))
        .collect();
    assert_eq!(aside.len(), 1);
    assert_eq!(verify(&aside[0]).await.unwrap().contents.entries, 11);
    // One that does not hold never gets that far.
    let mut bytes = std::fs::read(&copy).unwrap();
    let middle = bytes.len() / 2;
    for byte in &mut bytes[middle..middle + 4096] {
        *byte ^= 0x5a;
    }
    let hurt = folder.path().join("hurt.db");
    std::fs::write(&hurt, bytes).unwrap();
    assert!(backup::put_next(folder.path(), &hurt).await.is_err());
    assert!(!backup::waits(folder.path()));
    std::fs::write(&hurt, b"no database").unwrap();
    assert!(matches!(
        backup::put_next(folder.path(), &hurt).await,
        Err(StoreError::Foreign(_))
    ));
}

/// The short form of `cargo run --release --example flips`: a flipped bit is named, or changed nothing that was recorded.
#[tokio::test]
async fn a_flipped_bit_is_named_or_harmless() {
    let silent = common::flips(60, 7).await;
    assert_eq!(silent, Vec::<String>::new());
}

#[cfg(unix)]
#[tokio::test]
async fn the_data_are_nobody_elses() {
    use std::os::unix::fs::PermissionsExt;
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("new/data");
    let store = filled(&data, 1).await;
    backup::daily(&data, "2026-11-27".parse().unwrap())
        .await
        .unwrap();
    let mode = |path: &Path| std::fs::metadata(path).unwrap().permissions().mode() & 0o777;
    assert_eq!(mode(&data), 0o700);
    for name in [
        "gradimen.db",
        "gradimen.db-wal",
        "gradimen.lock",
        "backups/gradimen-2026-11-27.db",
    ] {
        assert_eq!(mode(&data.join(name)), 0o600, "{name}");
    }
    store.close().await.unwrap();
    // One that an earlier version left open to all is closed.
    let file = file_of(&data);
    std::fs::set_permissions(&file, std::fs::Permissions::from_mode(0o644)).unwrap();
    Store::open(&data).await.unwrap().close().await.unwrap();
    assert_eq!(mode(&file), 0o600);
}

#[tokio::test]
async fn another_programs_lock_is_told_from_no_permission_and_from_damage() {
    let folder = tempfile::tempdir().unwrap();
    let store = filled(folder.path(), 1).await;
    let held = common::held(folder.path());
    let refused = store.append(1, 5, vec![reading(1.0)], at(60)).await;
    assert!(matches!(refused, Err(StoreError::Busy)), "{refused:?}");
    // Reading goes on beside it.
    assert_eq!(store.jobs(&Default::default()).await.unwrap().0.len(), 1);
    held.let_go();
    store
        .append(1, 5, vec![reading(1.0)], at(61))
        .await
        .unwrap();
}

#[tokio::test]
async fn a_whole_shop_goes_out_as_one_document_and_comes_in_the_same() {
    let folder = tempfile::tempdir().unwrap();
    let store = filled(folder.path(), 3).await;
    let mut crane = store.instrument(2).await.unwrap().instrument;
    crane.name = "Crane".to_owned();
    store.change_instrument(2, 1, &crane, at(70)).await.unwrap();
    let (text, left) = store.whole().await.unwrap();
    assert!(left.is_empty());
    let other = tempfile::tempdir().unwrap();
    let again = Store::open(other.path()).await.unwrap();
    assert_eq!(again.take_in(&text).await.unwrap(), 3);
    assert_eq!(again.whole().await.unwrap().0, text);
    for job in 1..=3 {
        let (one, same) = (store.as_stored(job).await, again.as_stored(job).await);
        assert_eq!(one.unwrap(), same.unwrap());
    }
    assert_eq!(problems(&file_of(other.path())).await, Vec::<String>::new());
    // Not twice, and nothing else.
    assert!(matches!(
        again.take_in(&text).await,
        Err(StoreError::NotEmpty(3))
    ));
    let empty = tempfile::tempdir().unwrap();
    let empty = Store::open(empty.path()).await.unwrap();
    for wrong in [
        "",
        "{}",
        "[1]",
        &text.replace("gradimen shop", "milk"),
        &text.replace("\"cents\": 6.2", "\"cents\": 6000"),
    ] {
        assert!(empty.take_in(wrong).await.is_err());
    }
    assert_eq!(empty.contents().await.unwrap().instruments, 0);
}
