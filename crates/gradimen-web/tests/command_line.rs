//! `gradimen plan` and `gradimen schema`, as other programs call them; the committed documents.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use std::io::Write;
use std::path::PathBuf;
use std::process::{Command, Output, Stdio};

use gradimen_bench::journal::Document;
use serde_json::Value;

fn gradimen(arguments: &[&str], input: &str) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_gradimen"))
        .args(arguments)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    // A program that refuses early may close its input first.
    let _ = child.stdin.take().unwrap().write_all(input.as_bytes());
    child.wait_with_output().unwrap()
}

fn formats() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../docs/formats")
}

fn text(path: &str) -> String {
    std::fs::read_to_string(formats().join(path)).unwrap()
}

fn json(bytes: &[u8]) -> Value {
    serde_json::from_slice(bytes).unwrap()
}

#[test]
fn the_committed_schemas_are_those_of_the_program() {
    for of in ["job", "plan"] {
        let printed = gradimen(&["schema", of], "");
        assert!(printed.status.success());
        assert_eq!(
            json(&printed.stdout),
            json(text(&format!("{of}.schema.json")).as_bytes()),
            "docs/formats/{of}.schema.json is out of date"
        );
    }
}

#[test]
fn every_example_can_be_planned() {
    let mut count = 0;
    for file in std::fs::read_dir(formats().join("examples")).unwrap() {
        let path = file.unwrap().path();
        if path.to_string_lossy().ends_with(".plan.json") {
            continue;
        }
        let out = gradimen(&["plan", path.to_str().unwrap()], "");
        assert!(
            out.status.success(),
            "{}: {}",
            path.display(),
            String::from_utf8_lossy(&out.stderr)
        );
        let plan = json(&out.stdout);
        assert_eq!(plan["format"], "gradimen-plan");
        assert!(plan["quantities"].as_array().unwrap().len() >= 24);
        count += 1;
    }
    assert!(count >= 4);
}

#[test]
fn standard_input_gives_the_committed_plans() {
    let mut count = 0;
    for file in std::fs::read_dir(formats().join("examples")).unwrap() {
        let name = file.unwrap().file_name().into_string().unwrap();
        let Some(example) = name.strip_suffix(".plan.json") else {
            continue;
        };
        let out = gradimen(&["plan", "-"], &text(&format!("examples/{example}.json")));
        assert!(out.status.success(), "{example}");
        let (now, committed) = (
            json(&out.stdout),
            json(text(&format!("examples/{name}")).as_bytes()),
        );
        // Mathematics libraries differ in the last digits; what a bench would see must not.
        assert_eq!(now["findings"], committed["findings"], "{example}");
        let moves = |plan: &Value| -> Vec<[Value; 3]> {
            let all = plan["moves"].as_array().unwrap();
            let seen = ["strings", "turns", "direction"];
            all.iter()
                .map(|step| seen.map(|part| step[part].clone()))
                .collect()
        };
        assert_eq!(moves(&now), moves(&committed), "{example}");
        assert!(!moves(&committed).is_empty(), "{example}");
        let (ours, theirs) = (
            now["quantities"].as_array().unwrap(),
            committed["quantities"].as_array().unwrap(),
        );
        assert_eq!(ours.len(), theirs.len(), "{example}");
        for (a, b) in ours.iter().zip(theirs) {
            for part in ["quantity", "string", "verdict"] {
                assert_eq!(a[part], b[part], "{example}");
            }
            match (a["predicted"].as_f64(), b["predicted"].as_f64()) {
                (Some(ours), Some(theirs)) => {
                    assert!((ours - theirs).abs() < 1e-4, "{example}: {a} {b}");
                }
                (ours, theirs) => assert_eq!(ours, theirs, "{example}: {a}"),
            }
        }
        count += 1;
    }
    assert!(count >= 3);
}

#[test]
fn a_bad_document_ends_with_two_and_says_why() {
    let good = text("examples/six-string-mid-work.json");
    for (bad, says) in [
        (String::new(), "line 1"),
        ("{\"milk\": 2}".to_owned(), "milk"),
        (good.replacen("\"seq\": 2", "\"seq\": 7", 1), "entry"),
        (
            good.replacen("gradimen-job", "other", 1),
            "expected \"gradimen-job\"",
        ),
        (good.replacen("E4", "H4", 1), "H4"),
    ] {
        let out = gradimen(&["plan", "-"], &bad);
        assert_eq!(out.status.code(), Some(2), "{says}");
        let message = String::from_utf8_lossy(&out.stderr).into_owned();
        assert!(message.contains(says), "{message}");
        assert!(out.stdout.is_empty());
    }
    assert_eq!(
        gradimen(&["plan", "no-such-file.json"], "").status.code(),
        Some(2)
    );
}

#[test]
fn data_are_copied_looked_through_and_put_back_by_command() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name).display().to_string();
    let (data, copy, other) = (at("data"), at("copy.db"), at("other"));
    let said = |out: &Output| {
        format!(
            "{}{}",
            String::from_utf8_lossy(&out.stdout),
            String::from_utf8_lossy(&out.stderr)
        )
    };
    // Where there are no data there is nothing to copy.
    let none = gradimen(&["backup", &copy, "--data", &data], "");
    assert!(!none.status.success() && said(&none).contains("is not there"));
    actix_web::rt::System::new().block_on(async {
        let store = gradimen_store::Store::open(data.as_ref()).await.unwrap();
        let job = Document::parse(&text("examples/six-string-mid-work.json")).unwrap();
        store.import(&job).await.unwrap();
        store.close().await.unwrap();
    });
    let copied = gradimen(&["backup", &copy, "--data", &data], "");
    assert!(copied.status.success(), "{}", said(&copied));
    assert!(said(&copied).contains("1 job of 1 instrument"));
    // It takes nobody's place.
    assert!(
        !gradimen(&["backup", &copy, "--data", &data], "")
            .status
            .success()
    );
    let sound = gradimen(&["verify", "--file", &copy], "");
    assert!(sound.status.success() && said(&sound).contains("sound: "));
    let back = gradimen(&["restore", &copy, "--data", &other], "");
    assert!(back.status.success(), "{}", said(&back));
    let sound = gradimen(&["verify", "--data", &other], "");
    assert!(
        said(&sound).contains("1 job of 1 instrument"),
        "{}",
        said(&sound)
    );
    // What is no copy is refused, and says so in one line.
    std::fs::write(at("no.db"), b"no database at all").unwrap();
    let refused = gradimen(&["restore", &at("no.db"), "--data", &other], "");
    assert!(!refused.status.success());
    assert!(
        said(&refused).contains("not a data file"),
        "{}",
        said(&refused)
    );
}
