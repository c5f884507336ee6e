//! The program as other machines of the shop see it: started as the README says, spoken to by a client of another library.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use std::io::{Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Command, Output, Stdio};
use std::sync::Arc;

use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, ServerName};
use rustls::{ClientConfig, ClientConnection, RootCertStore, Stream};
use server::PASSWORD;
use server::program::Program;

fn run(data: &Path, arguments: &[&str], input: &str) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_gradimen"))
        .args(arguments)
        .arg("--data")
        .arg(data)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    // A program that refuses early may close its input first.
    drop(child.stdin.take().unwrap().write_all(input.as_bytes()));
    child.wait_with_output().unwrap()
}

fn said(output: &Output) -> String {
    format!(
        "{}{}",
        String::from_utf8_lossy(&output.stdout),
        String::from_utf8_lossy(&output.stderr)
    )
}

struct Bench {
    _program: Program,
    port: u16,
    fingerprint: String,
}

impl Bench {
    fn start(data: &Path) -> Self {
        let more = ["--listen", "0.0.0.0:0", "--name", "bench.local"];
        let mut program = Program::start(data, &more, &[]);
        let port = program.address.strip_prefix("https://bench.local:");
        let port = port.unwrap().parse().unwrap();
        let fingerprint = program.says.next().unwrap();
        Self {
            port,
            fingerprint: fingerprint.rsplit(' ').next().unwrap().to_owned(),
            _program: program,
        }
    }

    /// Signs the technician in, from a page of its own that came in such a way.
    fn enter(&self, data: &Path, scheme: &str) -> String {
        let host = format!("bench.local:{}", self.port);
        let head = format!("POST /sign-in HTTP/1.1\r\nHost: {host}\r\nOrigin: {scheme}://{host}");
        let form = format!("name=mira&password={}", PASSWORD.replace(' ', "+"));
        self.ask(data, &head, &form)
    }

    /// What the server answers to a request, its certificate trusted because its fingerprint was compared.
    fn ask(&self, data: &Path, head: &str, body: &str) -> String {
        let pem = std::fs::read(data.join("tls/certificate.pem")).unwrap();
        let mut roots = RootCertStore::empty();
        roots
            .add(CertificateDer::from_pem_slice(&pem).unwrap())
            .unwrap();
        let provider = Arc::new(rustls::crypto::ring::default_provider());
        let config = ClientConfig::builder_with_provider(provider)
            .with_safe_default_protocol_versions()
            .unwrap()
            .with_root_certificates(roots)
            .with_no_client_auth();
        let name = ServerName::try_from("bench.local").unwrap();
        let mut client = ClientConnection::new(Arc::new(config), name).unwrap();
        let mut line = TcpStream::connect(("127.0.0.1", self.port)).unwrap();
        let mut stream = Stream::new(&mut client, &mut line);
        let length = body.len();
        let request = format!(
            "{head}\r\nConnection: close\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: {length}\r\n\r\n{body}"
        );
        stream.write_all(request.as_bytes()).unwrap();
        let mut answer = Vec::new();
        // A line that is closed without a farewell has said all it had.
        drop(stream.read_to_end(&mut answer));
        String::from_utf8_lossy(&answer).into_owned()
    }
}

#[test]
fn other_machines_are_served_only_where_it_is_safe() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path();
    let serve = |more: &[&str]| {
        let arguments = [&["serve", "--listen", "0.0.0.0:0"], more].concat();
        let output = run(data, &arguments, "");
        assert!(!output.status.success());
        said(&output)
    };
    assert!(serve(&[]).contains("--name"));
    assert!(serve(&["--name", "bench.local"]).contains("gradimen account add NAME"));
    let output = run(data, &["serve", "--sign-in"], "");
    assert!(said(&output).contains("gradimen account add NAME"));
    for (arguments, input, expected) in [
        (
            &["account", "add", "mira"][..],
            "short\n",
            "expected 10 to 200",
        ),
        (
            &["account", "add", "mira", "--role", "king"],
            PASSWORD,
            "technician, counter, viewer",
        ),
        (&["account", "remove", "mira"], "", "there is no account"),
        (
            &["account", "reset", "mira"],
            PASSWORD,
            "there is no account",
        ),
    ] {
        let output = run(data, arguments, input);
        assert!(
            !output.status.success() && said(&output).contains(expected),
            "{}",
            said(&output)
        );
    }
    let own = [
        "--name",
        "bench.local",
        "--certificate",
        "a.pem",
        "--key",
        "b.pem",
    ];
    assert!(
        run(data, &["account", "add", "mira"], PASSWORD)
            .status
            .success()
    );
    assert!(serve(&own).contains("a.pem"));
    assert!(said(&run(data, &["account", "list"], "")).contains("mira  technician"));
}

#[test]
fn a_tablet_signs_in_over_an_encrypted_line_and_nothing_else_is_answered() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path();
    assert!(
        run(data, &["account", "add", "mira"], PASSWORD)
            .status
            .success()
    );
    let program = Bench::start(data);
    assert_eq!(program.fingerprint.len(), 95);
    let host = format!("bench.local:{}", program.port);
    let page = program.ask(data, &format!("GET /jobs/1 HTTP/1.1\r\nHost: {host}"), "");
    assert!(
        page.starts_with("HTTP/1.1 303") && page.contains("location: /sign-in?to="),
        "{page}"
    );
    let page = program.ask(data, &format!("GET /sign-in HTTP/1.1\r\nHost: {host}"), "");
    assert!(page.contains(&program.fingerprint));
    // A name that is not its own, and a form that came from elsewhere, are refused also here.
    let page = program.ask(data, "GET / HTTP/1.1\r\nHost: evil.example.org", "");
    assert!(page.starts_with("HTTP/1.1 403"), "{page}");
    assert!(program.enter(data, "http").starts_with("HTTP/1.1 403"));
    let entered = program.enter(data, "https");
    assert!(entered.starts_with("HTTP/1.1 303"), "{entered}");
    let given = entered
        .lines()
        .find(|line| line.starts_with("set-cookie: __Host-gradimen="))
        .unwrap();
    assert!(
        given.contains("Secure") && given.contains("HttpOnly") && given.contains("SameSite=Strict")
    );
    let cookie = given
        .trim_start_matches("set-cookie: ")
        .split(';')
        .next()
        .unwrap();
    let list = |cookie: &str| {
        let head = format!("GET / HTTP/1.1\r\nHost: {host}\r\nCookie: {cookie}");
        program.ask(data, &head, "")
    };
    assert!(list(cookie).starts_with("HTTP/1.1 200"));
    // Removed while it runs: signed out with the next page.
    assert!(
        run(data, &["account", "remove", "mira"], "")
            .status
            .success()
    );
    assert!(list(cookie).starts_with("HTTP/1.1 303"));
    // Without encryption there is nothing to talk about.
    let mut plain = TcpStream::connect(("127.0.0.1", program.port)).unwrap();
    plain
        .write_all(b"GET / HTTP/1.1\r\nHost: localhost\r\n\r\n")
        .unwrap();
    let mut answer = Vec::new();
    drop(plain.read_to_end(&mut answer));
    assert!(
        !answer.starts_with(b"HTTP/"),
        "{}",
        String::from_utf8_lossy(&answer)
    );
}

#[test]
fn a_restart_keeps_the_certificate_and_who_is_signed_in() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path();
    assert!(
        run(data, &["account", "add", "mira"], PASSWORD)
            .status
            .success()
    );
    let first = Bench::start(data);
    let entered = first.enter(data, "https");
    let given = entered
        .lines()
        .find_map(|line| line.strip_prefix("set-cookie: "))
        .unwrap();
    let cookie = given.split(';').next().unwrap().to_owned();
    let fingerprint = first.fingerprint.clone();
    drop(first);
    let second = Bench::start(data);
    assert_eq!(second.fingerprint, fingerprint);
    let head = format!(
        "GET /account HTTP/1.1\r\nHost: bench.local:{}\r\nCookie: {cookie}",
        second.port
    );
    assert!(second.ask(data, &head, "").contains("mira"));
}
