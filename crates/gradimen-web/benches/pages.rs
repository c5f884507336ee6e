//! Pages from a data file with ten thousand jobs: start, bench list, search, a job's station.
#![allow(missing_docs, clippy::unwrap_used)]

use std::net::TcpListener;
use std::time::Instant;

use criterion::{Criterion, criterion_group, criterion_main};
use gradimen_bench::journal::Document;
use gradimen_store::Store;

/// As many jobs as the largest shop keeps.
const JOBS: u32 = 10_000;

fn benches(criterion: &mut Criterion) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().to_owned();
    let document = Document::parse(include_str!(
        "../../../docs/formats/examples/six-string-mid-work.json"
    ))
    .unwrap();
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let address = format!("http://{}", listener.local_addr().unwrap());
    let (ready, is_ready) = std::sync::mpsc::channel();
    // A store belongs to the runtime that it was opened in: its connections go back to their pool by a task of it.
    std::thread::spawn(move || {
        actix_web::rt::System::new().block_on(async {
            let store = Store::open(&path).await.unwrap();
            for _ in 0..JOBS {
                store.import(&document).await.unwrap();
            }
            store.close().await.unwrap();
            let began = Instant::now();
            let store = Store::open(&path).await.unwrap();
            println!(
                "opening and checking {JOBS} jobs took {:?}",
                began.elapsed()
            );
            let server = gradimen_web::app(listener, store).await.unwrap();
            ready.send(()).unwrap();
            server.await.unwrap();
        });
    });
    is_ready.recv().unwrap();
    let agent = ureq::Agent::new_with_defaults();
    for (name, place) in [
        ("page: bench list", "/"),
        ("page: search", "/?q=heron+27"),
        ("page: search without a hit", "/?q=nothing+like+it"),
        ("page: intonation", "/jobs/5000/intonation"),
        ("page: strings", "/jobs/5000/strings"),
        ("page: relief", "/jobs/5000/relief"),
        ("page: nut", "/jobs/5000/nut"),
        ("page: action", "/jobs/5000/action"),
        ("page: clearance", "/jobs/5000/clearance"),
        ("page: plan", "/jobs/5000/plan"),
        ("page: what if", "/jobs/5000/whatif?usual_set=medium"),
        ("page: record", "/jobs/5000/record"),
    ] {
        let url = format!("{address}{place}");
        criterion.bench_function(name, |bench| {
            bench.iter(|| {
                agent
                    .get(&url)
                    .call()
                    .unwrap()
                    .body_mut()
                    .read_to_vec()
                    .unwrap()
                    .len()
            });
        });
    }
    // The server's own thread ends with the process.
    std::process::exit(0);
}

criterion_group! {
    name = pages;
    config = Criterion::default().sample_size(50);
    targets = benches
}
criterion_main!(pages);
