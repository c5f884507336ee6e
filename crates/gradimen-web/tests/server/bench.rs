//! A job on the bench of a running server.

use super::{Answer, Server, borrowed, inputs, set};

/// A job with the number its next writer has to name.
pub(crate) struct Job {
    pub(crate) server: Server,
    pub(crate) place: String,
    pub(crate) seen: u32,
}

impl Job {
    pub(crate) fn open() -> Self {
        let server = Server::start();
        let place = server.job();
        Self {
            server,
            place,
            seen: 2,
        }
    }

    pub(crate) fn tell(&mut self, station: &str, fields: &[(&str, &str)]) -> Answer {
        let seen = self.seen.to_string();
        let form = [&[("station", station), ("seen", seen.as_str())], fields].concat();
        let answer = self.server.post(&format!("{}/tell", self.place), &form);
        if answer.status == 303 {
            self.seen += 1;
        }
        answer
    }

    pub(crate) fn page(&self, place: &str) -> String {
        let answer = self.server.get(&format!("{}/{place}", self.place));
        assert_eq!(answer.status, 200, "{place}");
        answer.text
    }

    /// A new instrument of a bridge family with a job open, and other fields of its record.
    pub(crate) fn on(family: &str, other: &[(&str, &str)]) -> Self {
        let server = Server::start();
        let mut fields = inputs(&server.get("/instruments/new").text);
        set(&mut fields, "family", family);
        fields.push(("apply".into(), "family".into()));
        let filled = server.post("/instruments", &borrowed(&fields));
        let mut fields = inputs(&filled.text);
        set(&mut fields, "name", "Lapwing");
        for (name, value) in other {
            set(&mut fields, name, value);
        }
        let added = server.post("/instruments", &borrowed(&fields));
        assert_eq!(added.status, 303, "{}", added.text);
        let open = format!("{}/open", added.place);
        let mut fields = inputs(&server.get(&open).text);
        set(&mut fields, "purpose", "check");
        let place = server
            .post(&open, &borrowed(&fields))
            .place
            .replace("/strings", "");
        let mut job = Self {
            server,
            place,
            seen: 1,
        };
        job.seen = u32::try_from(job.page("record").matches("<tr").count()).unwrap() - 1;
        job
    }
}
