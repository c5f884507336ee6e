//! Documents with something wrong in them: whatever stands there, it is refused in one sentence or gives a plan of
//! finite numbers; nothing panics.
//!
//! A check takes twenty thousand of them; `MUTATIONS=2000000 cargo test --release --package gradimen-bench --test
//! mutations -- --nocapture` takes as many as it is told to.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use std::panic::{AssertUnwindSafe, catch_unwind};

use gradimen_bench::export::report::Report;
use gradimen_bench::job::Job;
use gradimen_bench::journal::Document;
use gradimen_sim::Rng;
use serde_json::{Number, Value, json};

const MUTATIONS: usize = 20_000;

/// Every example there is, in the forms of both versions.
fn seeds() -> Vec<Value> {
    let mut found = Vec::new();
    for folder in ["tests/version_1", "../../docs/formats/examples"] {
        let folder = format!("{}/{folder}", env!("CARGO_MANIFEST_DIR"));
        let mut files: Vec<_> = std::fs::read_dir(folder)
            .unwrap()
            .map(|file| file.unwrap().path())
            .filter(|path| !path.to_str().unwrap().contains(".plan."))
            .collect();
        files.sort();
        for file in files {
            let text = std::fs::read_to_string(file).unwrap();
            found.push(serde_json::from_str(&text).unwrap());
        }
    }
    found
}

fn pick(rng: &mut Rng, count: usize) -> usize {
    (rng.between(0.0, count as f64) as usize).min(count.saturating_sub(1))
}

/// Numbers that hands, other programs and bad disks write.
fn odd_number(rng: &mut Rng, was: &Number) -> Value {
    let was = was.as_f64().unwrap_or(0.0);
    match pick(rng, 12) {
        0 => json!(0),
        1 => json!(-1),
        2 => json!(255),
        3 => json!(1e308),
        4 => json!(-1e308),
        5 => json!(5e-324),
        6 => json!(u64::MAX),
        7 => json!(-was),
        8 => json!(was * 1000.0),
        9 => json!(was / 1000.0),
        10 => json!(was + rng.normal(1.0)),
        _ => json!(rng.normal(100.0).round() as i64),
    }
}

fn odd_text(rng: &mut Rng) -> Value {
    match pick(rng, 6) {
        0 => json!(""),
        1 => json!("\u{0}\n\u{202e}<script>"),
        2 => json!("E4"),
        3 => json!("x".repeat(5_000)),
        4 => json!("6-8 thou"),
        _ => json!("bass"),
    }
}

/// One thing made otherwise, somewhere.
fn mutate(value: &mut Value, rng: &mut Rng) {
    match value {
        Value::Object(fields) if !fields.is_empty() => {
            let key = fields.keys().nth(pick(rng, fields.len())).unwrap().clone();
            match pick(rng, 24) {
                0 => {
                    fields.remove(&key);
                }
                1 => {
                    let other = fields.keys().nth(pick(rng, fields.len())).unwrap().clone();
                    let copy = fields[&other].clone();
                    fields.insert(key, copy);
                }
                2 => {
                    fields.insert("milk".to_owned(), json!(2));
                }
                _ => mutate(fields.get_mut(&key).unwrap(), rng),
            }
        }
        Value::Array(items) if !items.is_empty() => {
            let at = pick(rng, items.len());
            match pick(rng, 24) {
                0 => {
                    items.remove(at);
                }
                1 => items.insert(at, items[at].clone()),
                2 => {
                    let other = pick(rng, items.len());
                    items.swap(at, other);
                }
                3 => items.clear(),
                _ => mutate(&mut items[at], rng),
            }
        }
        Value::Number(number) => *value = odd_number(rng, &number.clone()),
        Value::String(_) => *value = odd_text(rng),
        Value::Bool(flag) => *flag = !*flag,
        Value::Null | Value::Object(_) | Value::Array(_) => *value = json!(3),
    }
}

/// Every number that stands in a value.
fn numbers<'a>(value: &'a mut Value, found: &mut Vec<&'a mut Value>) {
    match value {
        Value::Number(_) => found.push(value),
        Value::Object(fields) => fields.values_mut().for_each(|value| numbers(value, found)),
        Value::Array(items) => items.iter_mut().for_each(|value| numbers(value, found)),
        Value::Null | Value::Bool(_) | Value::String(_) => {}
    }
}

/// Mostly a number of some event; now and then anything at all.
fn spoil(document: &mut Value, rng: &mut Rng) {
    if pick(rng, 5) == 0 {
        return mutate(document, rng);
    }
    let Some(events) = document.get_mut("events").and_then(Value::as_array_mut) else {
        return;
    };
    if events.is_empty() {
        return;
    }
    let at = pick(rng, events.len());
    let Some(event) = events[at].get_mut("event") else {
        return;
    };
    if pick(rng, 6) == 0 {
        return mutate(event, rng);
    }
    let mut found = Vec::new();
    numbers(event, &mut found);
    if found.is_empty() {
        return;
    }
    let at = pick(rng, found.len());
    if let Value::Number(number) = &*found[at] {
        *found[at] = odd_number(rng, &number.clone());
    }
}

/// Whether a number of the report is none.
fn finite(value: &Value) -> bool {
    match value {
        // A number that is none is written as nothing where one has to be.
        Value::Object(fields) => fields.iter().all(|(name, value)| {
            let needed = ["predicted", "value", "threshold_cents", "deviations"];
            !(value.is_null() && needed.contains(&name.as_str())) && finite(value)
        }),
        Value::Array(items) => items.iter().all(finite),
        _ => true,
    }
}

#[test]
fn nothing_that_stands_in_a_document_panics_or_gives_no_number() {
    let count = std::env::var("MUTATIONS").map_or(MUTATIONS, |count| count.parse().unwrap());
    let seeds = seeds();
    assert!(seeds.len() >= 18, "{}", seeds.len());
    let (mut refused, mut unfolded, mut planned) = (0, 0, 0);
    let mut failed: Vec<String> = Vec::new();
    std::panic::set_hook(Box::new(|_| {}));
    for run in 0..count {
        let mut rng = Rng::new(run as u64);
        let mut document = seeds[pick(&mut rng, seeds.len())].clone();
        for _ in 0..=pick(&mut rng, 3) {
            spoil(&mut document, &mut rng);
        }
        let text = document.to_string();
        let worked = catch_unwind(AssertUnwindSafe(|| -> Result<bool, String> {
            let document = Document::parse(&text).map_err(|error| error.to_string())?;
            let job = Job::fold(&document.events).map_err(|error| format!("fold: {error}"))?;
            let report = Report::of(&job).map_err(|error| format!("fold: {error}"))?;
            Ok(finite(&serde_json::to_value(report).unwrap()))
        }));
        match worked {
            Ok(Ok(true)) => planned += 1,
            Ok(Ok(false)) => failed.push(format!("run {run}: a number that is none")),
            Ok(Err(error)) if error.starts_with("fold: ") => unfolded += 1,
            Ok(Err(_)) => refused += 1,
            Err(_) => failed.push(format!("run {run}: a panic")),
        }
    }
    let _ = std::panic::take_hook();
    println!(
        "{count} documents: {planned} planned, {unfolded} refused by the fold, {refused} by the form, {} failed",
        failed.len()
    );
    assert!(failed.is_empty(), "{:?}", &failed[..failed.len().min(20)]);
    // The mutations have to reach what they are for.
    assert!(planned * 20 > count && unfolded * 20 > count);
}
