//! Pages at thirty-two connections with ten thousand jobs on file and one in hand, beside a bare route of the same server in the same
//! run: an answer from memory, through the same headers and checks. Client and server share the machine.
//!
//! `cargo bench -p gradimen-web --bench load`
#![allow(missing_docs, clippy::unwrap_used)]

use std::io::{BufRead, BufReader, Read, Write};
use std::net::{SocketAddr, TcpListener, TcpStream};
use std::time::{Duration, Instant};

use gradimen_bench::journal::Document;
use gradimen_store::Store;

const JOBS: u32 = 10_000;
const CONNECTIONS: usize = 32;
const SECONDS: u64 = 3;

/// One connection that asks again and again: how many answers it had, how many bytes the last had, how long each took.
fn asks(address: SocketAddr, path: &str) -> (usize, Vec<Duration>) {
    let stream = TcpStream::connect(address).unwrap();
    stream.set_nodelay(true).unwrap();
    let mut writer = stream.try_clone().unwrap();
    let mut reader = BufReader::with_capacity(128 * 1024, stream);
    let request = format!("GET {path} HTTP/1.1\r\nHost: {address}\r\n\r\n");
    let began = Instant::now();
    let (mut size, mut took) = (0, Vec::new());
    let mut body = Vec::new();
    while began.elapsed() < Duration::from_secs(SECONDS) {
        let asked = Instant::now();
        writer.write_all(request.as_bytes()).unwrap();
        let mut length = 0;
        let mut line = String::new();
        loop {
            line.clear();
            reader.read_line(&mut line).unwrap();
            if line.starts_with("HTTP/") {
                assert!(line.contains(" 200 "), "{path}: {line}");
            }
            if line == "\r\n" {
                break;
            }
            let value = line.to_ascii_lowercase();
            if let Some(value) = value.strip_prefix("content-length: ") {
                length = value.trim().parse().unwrap();
            }
        }
        body.resize(length, 0);
        reader.read_exact(&mut body).unwrap();
        size = length;
        took.push(asked.elapsed());
    }
    (size, took)
}

fn main() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().to_owned();
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let address = listener.local_addr().unwrap();
    let example = include_str!("../../../docs/formats/examples/six-string-mid-work.json");
    let document = Document::parse(example).unwrap();
    let (send, receive) = std::sync::mpsc::channel();
    std::thread::spawn(move || {
        actix_web::rt::System::new().block_on(async {
            let store = Store::open(&data).await.unwrap();
            for _ in 0..JOBS {
                store.import(&document).await.unwrap();
            }
            let server = gradimen_web::app(listener, store).await.unwrap();
            send.send(()).unwrap();
            server.await.unwrap();
        });
    });
    receive.recv().unwrap();
    let (_, style) = {
        let mut stream = TcpStream::connect(address).unwrap();
        let request = format!("GET / HTTP/1.1\r\nHost: {address}\r\nConnection: close\r\n\r\n");
        stream.write_all(request.as_bytes()).unwrap();
        let mut text = String::new();
        stream.read_to_string(&mut text).unwrap();
        let icon = text.split('"').find(|part| part.ends_with("favicon.svg"));
        (text.len(), icon.unwrap().to_owned())
    };
    println!("{CONNECTIONS} connections, {JOBS} jobs on file");
    let mut bare = None;
    for (name, path) in [
        ("bare route", style.as_str()),
        ("list of jobs", "/"),
        ("intonation", "/jobs/5000/intonation"),
        ("strings", "/jobs/5000/strings"),
        ("relief", "/jobs/5000/relief"),
        ("nut", "/jobs/5000/nut"),
        ("action", "/jobs/5000/action"),
        ("pickups", "/jobs/5000/pickups"),
        ("clearance", "/jobs/5000/clearance"),
        ("frets", "/jobs/5000/frets"),
        ("plan", "/jobs/5000/plan"),
        ("proof", "/jobs/5000/proof"),
        ("what if", "/jobs/5000/whatif?usual_set=medium"),
        ("record", "/jobs/5000/record"),
        ("handover", "/jobs/5000/handover"),
    ] {
        let hands: Vec<_> = (0..CONNECTIONS)
            .map(|_| {
                let path = path.to_owned();
                std::thread::spawn(move || asks(address, &path))
            })
            .collect();
        let answers: Vec<_> = hands.into_iter().map(|hand| hand.join().unwrap()).collect();
        let size = answers[0].0;
        let mut took: Vec<Duration> = answers.into_iter().flat_map(|(_, took)| took).collect();
        took.sort();
        let rate = took.len() as f64 / SECONDS as f64;
        let bare = *bare.get_or_insert(rate);
        println!(
            "{name:13} {rate:8.0} a second, 1/{:.1} of bare, {size:6} bytes, half within {:.1} ms, 99 % within {:.1} ms",
            bare / rate,
            took[took.len() / 2].as_secs_f64() * 1e3,
            took[took.len() * 99 / 100].as_secs_f64() * 1e3,
        );
    }
    // The server's own thread ends with the process.
    std::process::exit(0);
}
