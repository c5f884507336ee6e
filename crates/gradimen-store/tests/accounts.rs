//! Who may sign in, how often it may fail, and what ends a session: tried as a thief and as a forgetful hand would.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use std::net::IpAddr;

use gradimen_store::accounts::{self, Deed, Role, SignIn};
use gradimen_store::{Store, StoreError, sessions};
use jiff::Timestamp;

const PASSWORD: &str = "seven maple boards";

fn at(second: i64) -> Timestamp {
    Timestamp::from_second(1_800_000_000 + second).unwrap()
}

fn from(last: u8) -> IpAddr {
    IpAddr::from([192, 168, 7, last])
}

async fn shop() -> (tempfile::TempDir, Store) {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(folder.path()).await.unwrap();
    // As another process does it, while the program runs.
    let mut beside = accounts::beside(folder.path()).await.unwrap();
    for (name, role) in [("mira", Role::Technician), ("odd", Role::Counter)] {
        accounts::add(&mut beside, name, role, PASSWORD, at(0))
            .await
            .unwrap();
    }
    (folder, store)
}

#[tokio::test]
async fn the_right_password_signs_in_and_nothing_else_does() {
    let (folder, store) = shop().await;
    let tried = store
        .sign_in("mira", PASSWORD, from(2), at(1))
        .await
        .unwrap();
    let SignIn::In(account) = tried else {
        panic!("{tried:?}");
    };
    assert_eq!(
        (account.name.as_str(), account.role),
        ("mira", Role::Technician)
    );
    for (name, password) in [
        ("mira", "seven maple board"),
        ("mira", ""),
        ("Mira", PASSWORD),
        ("nobody", PASSWORD),
        ("mira' OR '1'='1", PASSWORD),
        ("", ""),
    ] {
        let tried = store.sign_in(name, password, from(3), at(1)).await.unwrap();
        assert_eq!(tried, SignIn::Wrong, "{name}");
    }
    // What the file holds is no password, and not the same for two who chose the same.
    let bytes = {
        store.close().await.unwrap();
        std::fs::read(folder.path().join("gradimen.db")).unwrap()
    };
    let text = String::from_utf8_lossy(&bytes);
    assert!(!text.contains(PASSWORD));
    assert_eq!(text.matches("$argon2id$v=19$").count(), 2);
    let mut beside = accounts::beside(folder.path()).await.unwrap();
    let taken = accounts::add(&mut beside, "mira", Role::Viewer, PASSWORD, at(2)).await;
    assert!(matches!(taken, Err(StoreError::Account(_))));
    for (name, password) in [
        ("", PASSWORD),
        (" mira", PASSWORD),
        ("a|b", PASSWORD),
        ("new", "short"),
    ] {
        let refused = accounts::add(&mut beside, name, Role::Viewer, password, at(2)).await;
        assert!(matches!(refused, Err(StoreError::Account(_))), "{name}");
    }
}

#[tokio::test]
async fn guessing_is_stopped_and_the_right_hand_comes_in_from_elsewhere() {
    let (_folder, store) = shop().await;
    let mut looked_at = 0;
    for guess in 0..200 {
        let password = format!("seven maple boards {guess}");
        match store
            .sign_in("mira", &password, from(9), at(guess))
            .await
            .unwrap()
        {
            SignIn::Wrong => looked_at += 1,
            SignIn::Wait(seconds) => assert!((1..=3600).contains(&seconds)),
            SignIn::In(account) => panic!("{account:?}"),
        }
    }
    // Two hundred seconds: five at once, then one after 30, 60 and 120.
    assert!((5..=8).contains(&looked_at), "{looked_at}");
    // Now even the right one waits, from there.
    let tried = store
        .sign_in("mira", PASSWORD, from(9), at(200))
        .await
        .unwrap();
    assert!(matches!(tried, SignIn::Wait(_)), "{tried:?}");
    // From the bench it does not, and an hour later nowhere.
    for (place, second) in [(2, 201), (9, 200 + 3 * 3600)] {
        let tried = store
            .sign_in("mira", PASSWORD, from(place), at(second))
            .await
            .unwrap();
        assert!(matches!(tried, SignIn::In(_)), "{place} {tried:?}");
    }
}

#[tokio::test]
async fn attempts_side_by_side_count_as_well() {
    let (_folder, store) = shop().await;
    let tries = (0..40).map(|guess| {
        let store = store.clone();
        tokio::spawn(async move {
            let password = format!("wrong password {guess}");
            store
                .sign_in("mira", &password, from(9), at(0))
                .await
                .unwrap()
        })
    });
    let mut looked_at = 0;
    for tried in tries.collect::<Vec<_>>() {
        looked_at += usize::from(tried.await.unwrap() == SignIn::Wrong);
    }
    assert_eq!(looked_at, 5);
}

#[tokio::test]
async fn many_names_from_one_place_are_stopped_too() {
    let (_folder, store) = shop().await;
    let mut looked_at = 0;
    for name in 0..60 {
        let tried = store
            .sign_in(&format!("name{name}"), PASSWORD, from(9), at(0))
            .await
            .unwrap();
        looked_at += usize::from(tried == SignIn::Wrong);
    }
    assert_eq!(looked_at, 20);
    let other = store
        .sign_in("odd", PASSWORD, from(2), at(0))
        .await
        .unwrap();
    assert!(matches!(other, SignIn::In(_)));
}

#[tokio::test]
async fn a_session_ends_by_itself_by_hand_and_everywhere() {
    let (folder, store) = shop().await;
    let begin = async |key: &str, second| {
        let done = store.begin_session(key, "mira", "bench tablet", "{}", at(second));
        done.await.unwrap();
    };
    let there = async |key: &str, second| store.session(key, at(second)).await.unwrap().is_some();
    begin("one", 0).await;
    assert!(there("one", 60).await && !there("another", 60).await);
    // Used every few hours it lasts for days, and not for ever.
    let mut second = 0;
    while second + sessions::IDLE / 2 < sessions::LONGEST {
        second += sessions::IDLE / 2;
        assert!(there("one", second).await, "{second}");
    }
    assert!(!there("one", sessions::LONGEST + 1).await);
    // Not used, it ends at night.
    begin("two", 0).await;
    assert!(!there("two", sessions::IDLE + 1).await);
    begin("three", 0).await;
    store.end_session("three").await.unwrap();
    assert!(!there("three", 1).await);
    for key in ["four", "five"] {
        begin(key, 0).await;
    }
    assert_eq!(store.sessions("mira", at(1)).await.unwrap().len(), 4);
    store.sign_out_everywhere("mira").await.unwrap();
    assert!(!there("four", 1).await && !there("five", 1).await);
    // A removed account, or one with another password, is signed out at once.
    let mut beside = accounts::beside(folder.path()).await.unwrap();
    begin("six", 0).await;
    accounts::reset(&mut beside, "mira", "another password")
        .await
        .unwrap();
    assert!(!there("six", 1).await);
    begin("seven", 0).await;
    accounts::remove(&mut beside, "mira").await.unwrap();
    assert!(!there("seven", 1).await);
    // The file holds nothing that a browser would.
    begin_and_look(&store, folder.path()).await;
}

async fn begin_and_look(store: &Store, folder: &std::path::Path) {
    let key = "a key that only the browser has";
    store
        .begin_session(key, "odd", "counter", "{}", at(0))
        .await
        .unwrap();
    for name in ["gradimen.db", "gradimen.db-wal"] {
        let bytes = std::fs::read(folder.join(name)).unwrap_or_default();
        assert!(!String::from_utf8_lossy(&bytes).contains(key));
    }
}

#[tokio::test]
async fn a_code_pairs_one_device_once_and_soon() {
    let (_folder, store) = shop().await;
    let code = store.pairing_code("odd", at(0)).await.unwrap();
    assert_eq!(code.len(), 8);
    // Typed as it is read aloud.
    let typed = format!("{} {}", code[..4].to_lowercase(), &code[4..]);
    let tried = store.pair(&typed, from(5), at(10)).await.unwrap();
    assert!(
        matches!(&tried, SignIn::In(account) if account.role == Role::Counter),
        "{tried:?}"
    );
    assert_eq!(
        store.pair(&code, from(5), at(11)).await.unwrap(),
        SignIn::Wrong
    );
    let late = store.pairing_code("odd", at(20)).await.unwrap();
    let tried = store
        .pair(&late, from(5), at(20 + accounts::CODE_LASTS + 1))
        .await
        .unwrap();
    assert_eq!(tried, SignIn::Wrong);
    // A new code puts the one before it out of use.
    let first = store.pairing_code("odd", at(1000)).await.unwrap();
    let second = store.pairing_code("odd", at(1000)).await.unwrap();
    assert_eq!(
        store.pair(&first, from(6), at(1001)).await.unwrap(),
        SignIn::Wrong
    );
    assert!(matches!(
        store.pair(&second, from(6), at(1001)).await.unwrap(),
        SignIn::In(_)
    ));
    let mut looked_at = 0;
    for _ in 0..60 {
        let tried = store.pair("AAAAAAAA", from(7), at(2000)).await.unwrap();
        looked_at += usize::from(tried == SignIn::Wrong);
    }
    assert_eq!(looked_at, 20);
}

/// A copy that is put back brings nobody in who was signed out since it was made.
#[tokio::test]
async fn a_copy_that_is_put_back_signs_everybody_out() {
    let (folder, store) = shop().await;
    let begun = store.begin_session("one", "mira", "bench", "{}", at(0));
    begun.await.unwrap();
    let code = store.pairing_code("odd", at(0)).await.unwrap();
    let file = gradimen_store::backup::file_of(folder.path());
    let copy = folder.path().join("copy.db");
    gradimen_store::backup::copy(&file, &copy).await.unwrap();
    store.close().await.unwrap();
    let put = gradimen_store::backup::put_next(folder.path(), &copy);
    put.await.unwrap();
    let store = Store::open(folder.path()).await.unwrap();
    assert_eq!(store.session("one", at(1)).await.unwrap(), None);
    let tried = store.pair(&code, from(5), at(1)).await.unwrap();
    assert_eq!(tried, SignIn::Wrong);
    assert_eq!(store.accounts().await.unwrap().len(), 2);
}

#[test]
fn what_a_role_may() {
    let may = |role: Role| [Deed::Look, Deed::TakeIn, Deed::Work].map(|deed| role.may(deed));
    assert_eq!(may(Role::Technician), [true, true, true]);
    assert_eq!(may(Role::Counter), [true, true, false]);
    assert_eq!(may(Role::Viewer), [true, false, false]);
}
