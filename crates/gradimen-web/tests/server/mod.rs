//! A running server, and what a browser does with it.
#![allow(dead_code)] // each test file uses what it needs

pub(crate) mod bench;
pub(crate) mod nonsense;
pub(crate) mod program;

use std::net::TcpListener;
use std::sync::mpsc;

use gradimen_store::Store;
use gradimen_store::accounts::{self, Role};
use gradimen_web::Access;

/// Of every account of the tests.
pub(crate) const PASSWORD: &str = "seven maple boards";

/// A running server with a data folder of its own.
pub(crate) struct Server {
    pub(crate) address: String,
    pub(crate) agent: ureq::Agent,
    /// What the browser was told to keep, as it sends it back.
    pub(crate) cookie: std::sync::Mutex<String>,
    handle: actix_web::dev::ServerHandle,
    thread: Option<std::thread::JoinHandle<()>>,
    _folder: tempfile::TempDir,
}

impl Drop for Server {
    fn drop(&mut self) {
        let stop = self.handle.stop(false);
        actix_web::rt::System::new().block_on(stop);
        if let Some(thread) = self.thread.take() {
            thread.join().unwrap();
        }
    }
}

/// An answer: status, where it sends on to, and its text.
#[derive(Debug)]
pub(crate) struct Answer {
    pub(crate) status: u16,
    pub(crate) place: String,
    pub(crate) text: String,
    pub(crate) headers: ureq::http::HeaderMap,
}

impl Server {
    pub(crate) fn start() -> Self {
        Self::start_for(Access::default(), &[])
    }

    /// For whoever that access lets in, with accounts: name and role, all with one password.
    pub(crate) fn start_for(access: Access, accounts: &'static [(&str, Role)]) -> Self {
        let folder = tempfile::tempdir().unwrap();
        let data = folder.path().to_owned();
        let (send, receive) = mpsc::channel();
        let thread = std::thread::spawn(move || {
            actix_web::rt::System::new().block_on(async move {
                let store = Store::open(&data).await.unwrap();
                let listener = TcpListener::bind("127.0.0.1:0").unwrap();
                let address = format!("http://{}", listener.local_addr().unwrap());
                let mut beside = accounts::beside(&data).await.unwrap();
                for (name, role) in accounts {
                    let now = jiff::Timestamp::now();
                    let added = accounts::add(&mut beside, name, *role, PASSWORD, now).await;
                    added.unwrap();
                }
                let server = gradimen_web::app_for(listener, store, access);
                let server = server.await.unwrap();
                send.send((address, server.handle())).unwrap();
                server.await.unwrap();
            });
        });
        let (address, handle) = receive.recv().unwrap();
        let agent = ureq::Agent::config_builder()
            .http_status_as_error(false)
            .max_redirects(0)
            .build()
            .new_agent();
        Self {
            address,
            agent,
            cookie: std::sync::Mutex::default(),
            handle,
            thread: Some(thread),
            _folder: folder,
        }
    }

    pub(crate) fn answer(response: ureq::http::Response<ureq::Body>) -> Answer {
        let (parts, mut body) = response.into_parts();
        let place = parts
            .headers
            .get("location")
            .map_or("", |value| value.to_str().unwrap())
            .to_owned();
        Answer {
            status: parts.status.as_u16(),
            place,
            text: body.read_to_string().unwrap_or_default(),
            headers: parts.headers,
        }
    }

    /// An answer, and what it gave the browser to keep.
    fn kept(&self, response: ureq::http::Response<ureq::Body>) -> Answer {
        let answer = Self::answer(response);
        if let Some(set) = answer.headers.get("set-cookie") {
            let pair = set.to_str().unwrap().split(';').next().unwrap();
            *self.cookie.lock().unwrap() = pair.to_owned();
        }
        answer
    }

    fn cookie(&self) -> String {
        self.cookie.lock().unwrap().clone()
    }

    pub(crate) fn get(&self, place: &str) -> Answer {
        let request = self.agent.get(format!("{}{place}", self.address));
        self.kept(request.header("cookie", self.cookie()).call().unwrap())
    }

    pub(crate) fn head(&self, place: &str) -> Answer {
        let request = self.agent.head(format!("{}{place}", self.address));
        Self::answer(request.call().unwrap())
    }

    pub(crate) fn post(&self, place: &str, form: &[(&str, &str)]) -> Answer {
        let request = self
            .agent
            .post(format!("{}{place}", self.address))
            .header("origin", &self.address)
            .header("cookie", self.cookie());
        self.kept(request.send_form(form.iter().copied()).unwrap())
    }

    /// A file sent as a browser sends it.
    pub(crate) fn upload(&self, name: &str, content: &str) -> Answer {
        let body = format!(
            "--edge\r\nContent-Disposition: form-data; name=\"document\"; filename=\"{name}\"\r\nContent-Type: application/json\r\n\r\n{content}\r\n--edge--\r\n"
        );
        self.multipart("/data/import", body)
    }

    /// A form of several parts, whose edge is `edge`.
    pub(crate) fn multipart(&self, place: &str, body: String) -> Answer {
        let request = self
            .agent
            .post(format!("{}{place}", self.address))
            .header("origin", &self.address)
            .header("content-type", "multipart/form-data; boundary=edge");
        Self::answer(request.send(body).unwrap())
    }

    /// Records a usual guitar and opens a job on it; answers with the job's address.
    pub(crate) fn job(&self) -> String {
        self.job_on("27")
    }

    /// The same under a stock number of its own.
    pub(crate) fn job_on(&self, number: &str) -> String {
        let form = self.get("/instruments/new").text;
        let mut fields = inputs(&form);
        set(&mut fields, "name", "Heron");
        set(&mut fields, "stock_number", number);
        fields.push(("bolted".into(), "on".into()));
        let added = self.post("/instruments", &borrowed(&fields));
        assert_eq!(added.status, 303, "{}", added.text);
        let open = format!("{}/open", added.place);
        let mut fields = inputs(&self.get(&open).text);
        set(&mut fields, "purpose", "before loan");
        let opened = self.post(&open, &borrowed(&fields));
        assert_eq!(opened.status, 303, "{}", opened.text);
        opened.place.trim_end_matches("/strings").to_owned()
    }

    pub(crate) fn read(&self, job: &str, seen: &str, string: &str, cents: &str) -> Answer {
        self.post(
            &format!("{job}/tell"),
            &[
                ("what", "read"),
                ("station", "intonation"),
                ("seen", seen),
                ("string", string),
                ("fret", "12"),
                ("against", "harmonic"),
                ("cents", cents),
            ],
        )
    }
}

/// The fields of a page's form with what they hold, as a browser would send them.
pub(crate) fn inputs(page: &str) -> Vec<(String, String)> {
    let attribute = |tag: &str, name: &str| {
        let start = tag.find(&format!(" {name}=\""))? + name.len() + 3;
        let end = tag[start..].find('"')? + start;
        Some(
            tag[start..end]
                .replace("&quot;", "\"")
                .replace("&#34;", "\""),
        )
    };
    let mut fields = Vec::new();
    // Inside a select, and whether its first option was passed: that one is sent where none is selected. The options of a
    // datalist are nobody's value.
    let mut select: Option<bool> = None;
    for tag in page.split('<') {
        if tag.starts_with("input") && !tag.contains("checkbox") {
            if let Some(name) = attribute(tag, "name") {
                fields.push((name, attribute(tag, "value").unwrap_or_default()));
            }
        } else if tag.starts_with("select") {
            fields.extend(attribute(tag, "name").map(|name| (name, String::new())));
            select = Some(false);
        } else if tag.starts_with("/select") {
            select = None;
        } else if tag.starts_with("option")
            && let Some(passed) = &mut select
            && let (Some(last), Some(value)) = (fields.last_mut(), attribute(tag, "value"))
            && (!*passed || tag.contains(" selected"))
        {
            *passed = true;
            last.1 = value;
        }
    }
    fields
}

pub(crate) fn set(fields: &mut [(String, String)], name: &str, value: &str) {
    fields
        .iter_mut()
        .find(|(known, _)| known == name)
        .unwrap()
        .1 = value.to_owned();
}

pub(crate) fn borrowed(fields: &[(String, String)]) -> Vec<(&str, &str)> {
    fields
        .iter()
        .map(|(name, value)| (name.as_str(), value.as_str()))
        .collect()
}
