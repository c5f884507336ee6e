//! What lies beside the station of a job that is practised.

use gradimen_bench::model::{Hints, Note, Tool as Named};
use gradimen_practice::tools::{self, Shown, Tool};
use gradimen_practice::{Bench, toll};
use gradimen_store::Worked;

use crate::pages::focus::field_of;
use crate::pages::layout::View;
use crate::pages::panel::{Lay, Panel, Row, Strikes};
use crate::vocabulary::*;

/// Beside a station of a job; nothing beside a real one.
pub(super) fn beside(id: i64, worked: &Worked, station: &str, view: &View) -> Option<Panel> {
    let practice = worked.job.practice()?;
    let bench = view.bench.as_deref()?;
    let entries = worked.job.entries().iter().map(std::convert::AsRef::as_ref);
    let took = toll::of(entries, worked.job.instrument());
    let here = Here {
        id,
        worked,
        bench,
        station,
        view,
    };
    let hides = worked.job.keeps_hints_back();
    Some(Panel {
        hints: practice.hints.name(),
        hides,
        asks: hides && practice.hints == Hints::OnRequest,
        took: text::events::took(&took),
        rows: here.rows(),
        shown: here.shown(),
        settles: station == "relief",
        plucks: (station == "intonation" && !here.measures_places())
            .then(|| view.string(&worked.known).unwrap_or(1)),
        strikes: here.strikes(),
        handed_in: worked.job.handed_in().is_some(),
    })
}

/// A page of a practice job.
struct Here<'a> {
    id: i64,
    worked: &'a Worked,
    bench: &'a Bench,
    station: &'a str,
    view: &'a View,
}

impl Here<'_> {
    fn rows(&self) -> Vec<Row> {
        if let Some(note) = self.note() {
            let link = |key: &str, label: &str| {
                let address = format!(
                    "/jobs/{}/{}?string={}&fret={}&take={key}",
                    self.id, self.station, note.string, note.fret
                );
                self.link(address, label.to_owned(), key)
            };
            let here = format!("string {}, fret {}", note.string, note.fret);
            let at = match self.station {
                "frets" => vec![
                    link("rocker", &format!("rocker: {here}")),
                    link("stick", &format!("stick: {here}")),
                ],
                _ => vec![link("play", &format!("play {here}"))],
            };
            return vec![Row { name: "Lay on", at }];
        }
        let mut number = 0;
        let of = self.tools();
        of.into_iter()
            .map(|tool| Row {
                name: tool.name,
                at: tool
                    .at
                    .into_iter()
                    .map(|(label, place)| {
                        let take = number.to_string();
                        number += 1;
                        let address = self.address(place, &take);
                        self.link(address, label, &take)
                    })
                    .collect(),
            })
            .collect()
    }

    fn link(&self, href: String, label: String, take: &str) -> Lay {
        Lay {
            href,
            label,
            chosen: self.view.fields.text("take") == take,
        }
    }

    /// Where a tool is laid on: the string or side comes into hand, and the cursor to its field.
    fn address(&self, place: Place, take: &str) -> String {
        let mut query = vec![format!("take={take}")];
        query.extend(place.string().map(|string| format!("string={string}")));
        query.extend(place.side().map(|side| format!("side={}", side.key())));
        if let Place::Pickup { pickup, .. } = place {
            query.push(format!("pickup={}", pickup + 1));
        }
        if self.measures_places() {
            query.push("panel=places".to_owned());
        }
        query.extend(field_of(place).map(|field| format!("focus={field}")));
        format!("/jobs/{}/{}?{}", self.id, self.station, query.join("&"))
    }

    /// Whether scale and places are measured, and no notes.
    fn measures_places(&self) -> bool {
        self.view.fields.text("panel") == "places"
    }

    /// The tools of this page.
    fn tools(&self) -> Vec<Tool> {
        let rule = self.measures_places();
        let of = tools::of(self.station, &self.worked.known, &self.worked.plan);
        let here = |tool: &Tool| self.station != "intonation" || (tool.name == "Long rule") == rule;
        of.into_iter().filter(here).collect()
    }

    fn shown(&self) -> Option<Shown> {
        let take = self.view.fields.text("take");
        let known = &self.worked.known;
        if let Some(note) = self.note() {
            return match take {
                "rocker" => tools::rocker(self.bench, known, note),
                "stick" => Some(tools::stick(self.bench, note)),
                "play" => tools::play(self.bench, note),
                _ => None,
            };
        }
        let number: usize = take.parse().ok()?;
        let of = self.tools();
        let mut places = of.into_iter().flat_map(|tool| tool.at);
        let (_, place) = places.nth(number)?;
        tools::lay(
            self.bench,
            known,
            place,
            Named::from_key(self.view.fields.text("tool")),
        )
    }

    fn strikes(&self) -> Option<Strikes> {
        let note = self.note()?;
        (self.view.fields.text("take") == "play").then_some(Strikes {
            string: note.string,
            fret: note.fret,
        })
    }

    /// The note in hand, where frets are looked at or notes are played.
    fn note(&self) -> Option<Note> {
        let known = &self.worked.known;
        match self.station {
            "frets" => Some(super::frets::in_hand(known, self.view)),
            "proof" => Some(super::proof::in_hand(known, self.view)),
            _ => None,
        }
    }
}
