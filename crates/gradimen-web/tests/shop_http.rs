//! The shop over the real server: its name, tools and prices, its house specs, and what they do to a job.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use server::bench::Job;
use server::{Server, borrowed, inputs, set};

/// The fields of one form of the shop's page, by what it keeps.
fn form(page: &str, what: &str) -> Vec<(String, String)> {
    let start = page
        .find(&format!("name=\"what\" value=\"{what}\""))
        .unwrap();
    let start = page[..start].rfind("<form").unwrap();
    let end = start + page[start..].find("</form>").unwrap();
    inputs(&page[start..end])
}

#[test]
fn a_shop_keeps_its_name_its_tools_and_its_prices() {
    let server = Server::start();
    let page = server.get("/shop").text;
    assert!(page.contains("low electric") && page.contains("level, crown, polish"));
    let mut fields = form(&page, "shop");
    set(&mut fields, "shop_name", "County music library");
    set(&mut fields, "tool_action", "rule_half_mm");
    set(&mut fields, "level_price", "120,50");
    let stale = fields.clone();
    assert_eq!(server.post("/shop", &borrowed(&fields)).status, 303);
    let page = server.get("/shop").text;
    assert!(page.contains("value=\"County music library\"") && page.contains("value=\"120.5\""));
    // Another window that still shows the shop as it was: nothing is overwritten, what was typed stays.
    let mut late = stale;
    set(&mut late, "shop_name", "Somebody else");
    let answer = server.post("/shop", &borrowed(&late));
    assert_eq!(answer.status, 409);
    assert!(
        answer.text.contains("changed in another window") && answer.text.contains("Somebody else")
    );
    // Nonsense is named where it stands.
    let mut fields = form(&page, "shop");
    set(&mut fields, "setup_minutes", "an hour");
    let answer = server.post("/shop", &borrowed(&fields));
    assert_eq!(answer.status, 422);
    assert!(answer.text.contains("write minutes: 90") && answer.text.contains("value=\"an hour\""));
    assert_eq!(server.post("/shop", &[("what", "sell")]).status, 400);
}

#[test]
fn house_specs_are_made_changed_and_removed() {
    let server = Server::start();
    let page = server.get("/shop?new=guitar&touch=light").text;
    let mut fields = form(&page, "spec");
    let refused = server.post("/shop", &borrowed(&fields));
    assert_eq!(refused.status, 422, "a set needs a name");
    set(&mut fields, "name", "reading room");
    set(&mut fields, "action_treble", "3.5");
    set(&mut fields, "action_bass", "2 furlongs");
    let refused = server.post("/shop", &borrowed(&fields));
    assert_eq!(refused.status, 422);
    assert!(refused.text.contains("furlongs") && refused.text.contains("value=\"3.5\""));
    set(&mut fields, "action_bass", "4.5");
    assert_eq!(server.post("/shop", &borrowed(&fields)).status, 303);
    let page = server.get("/shop?spec=reading+room").text;
    let mut fields = form(&page, "spec");
    set(&mut fields, "name", "low electric");
    let twice = server.post("/shop", &borrowed(&fields));
    assert!(
        twice.status == 422 && twice.text.contains("no other set"),
        "{}",
        twice.status
    );
    set(&mut fields, "name", "reading room, evenings");
    assert_eq!(server.post("/shop", &borrowed(&fields)).status, 303);
    let list = server.get("/shop").text;
    assert!(list.contains("reading room, evenings"));
    let drop = form(
        &server.get("/shop?spec=reading+room,+evenings").text,
        "drop",
    );
    assert_eq!(server.post("/shop", &borrowed(&drop)).status, 303);
    assert!(!server.get("/shop").text.contains("reading room"));
    assert_eq!(server.get("/shop?spec=nowhere").status, 404);
}

/// A job opened with what is chosen at intake.
fn opened(server: &Server, more: &[(&str, &str)]) -> server::Answer {
    let mut fields = inputs(&server.get("/instruments/new").text);
    set(&mut fields, "name", "Heron");
    let added = server.post("/instruments", &borrowed(&fields));
    let open = format!("{}/open", added.place);
    let mut fields = inputs(&server.get(&open).text);
    set(&mut fields, "purpose", "before loan");
    for (name, value) in more {
        // A box that is ticked is a field more.
        fields.retain(|(known, _)| known != name);
        fields.push(((*name).to_owned(), (*value).to_owned()));
    }
    server.post(&open, &borrowed(&fields))
}

#[test]
fn a_house_spec_is_chosen_at_intake_and_as_it_came_is_one() {
    let server = Server::start();
    let job = opened(&server, &[("spec", "low electric")]);
    assert_eq!(job.status, 303, "{}", job.text);
    let plan = server.get(&job.place.replace("/strings", "/plan")).text;
    assert!(plan.contains("House spec") && plan.contains("low electric"));
    assert!(plan.contains(".050"));
    let unmeasured = opened(&server, &[("spec", "as it came")]);
    assert_eq!(unmeasured.status, 422);
    assert!(unmeasured.text.contains("tick that it was measured"));
    assert!(
        unmeasured.text.contains("value=\"before loan\""),
        "what was typed stays"
    );
    let came = opened(
        &server,
        &[
            ("spec", "as it came"),
            ("heights_measured", "on"),
            ("twelfth_treble", "3.5"),
            ("twelfth_bass", "6"),
        ],
    );
    assert_eq!(came.status, 303, "{}", came.text);
    let plan = server.get(&came.place.replace("/strings", "/plan")).text;
    assert!(plan.contains("as it came"), "{plan}");
    let unknown = opened(&server, &[("spec", "by feel")]);
    assert!(unknown.status == 422 && unknown.text.contains("by feel"));
}

#[test]
fn a_job_is_put_on_a_house_spec_later_and_back_to_what_it_came_with() {
    let mut job = Job::open();
    let told = job.tell("plan", &[("what", "spec"), ("spec", "hard touch")]);
    assert_eq!(told.status, 303, "{}", told.text);
    assert!(job.page("plan").contains("hard touch"));
    let early = job.tell("plan", &[("what", "spec"), ("spec", "as it came")]);
    assert_eq!(early.status, 422);
    assert!(early.text.contains("needs the action of strings 1 and 6"));
    for (string, gap) in [("1", "3.5"), ("6", "6")] {
        let read = job.tell(
            "action",
            &[
                ("what", "action"),
                ("string", string),
                ("fret", "12"),
                ("gap", gap),
            ],
        );
        assert_eq!(read.status, 303, "{}", read.text);
    }
    let told = job.tell("plan", &[("what", "spec"), ("spec", "as it came")]);
    assert_eq!(told.status, 303, "{}", told.text);
    let plan = job.page("plan");
    assert!(
        plan.contains("action at fret 12: <span") || plan.contains("3.5"),
        "{plan}"
    );
    // A target changed by hand is no longer that set.
    let told = job.tell(
        "action",
        &[
            ("what", "height_target"),
            ("action_treble", "4"),
            ("action_bass", "5"),
            ("action_fret", "12"),
            ("inner", "blend"),
        ],
    );
    assert_eq!(told.status, 303, "{}", told.text);
    assert!(!job.page("plan").contains("House spec &#34;"));
}

#[test]
fn its_name_stands_on_the_printed_plan() {
    let job = Job::open();
    let mut fields = form(&job.server.get("/shop").text, "shop");
    set(&mut fields, "shop_name", "County music library");
    assert_eq!(job.server.post("/shop", &borrowed(&fields)).status, 303);
    let plan = job.page("plan");
    let printed = plan
        .find("print:block")
        .map(|at| &plan[at..at + 120])
        .unwrap();
    assert!(printed.contains("County music library"), "{printed}");
}

#[test]
fn a_bare_number_is_read_with_the_tool_that_lies_on_the_bench() {
    let mut job = Job::open();
    let mut fields = form(&job.server.get("/shop").text, "shop");
    set(&mut fields, "tool_action", "rule_half_mm");
    assert_eq!(job.server.post("/shop", &borrowed(&fields)).status, 303);
    let page = job.page("action");
    assert!(
        page.contains("name=\"tool\" value=\"rule_half_mm\""),
        "the page works with it"
    );
    let tell = |job: &mut Job, tool: &str, gap: &str| {
        let place = [
            ("what", "action"),
            ("string", "1"),
            ("fret", "12"),
            ("sure", "yes"),
        ];
        let answer = job.tell(
            "action",
            &[&place[..], &[("tool", tool), ("gap", gap)]].concat(),
        );
        assert_eq!(answer.status, 303, "{}", answer.text);
        answer.place
    };
    tell(&mut job, "rule_half_mm", "2");
    let table = job.server.get(&format!("{}/readings.csv", job.place)).text;
    assert!(table.contains(",2.0000,mm,rule_half_mm,"), "{table}");
    // "As written" stays chosen from reading to reading.
    let onward = tell(&mut job, "", "5");
    assert!(onward.contains("tool="), "{onward}");
    let page = job.server.get(&onward).text;
    assert!(!page.contains("name=\"tool\" value=\"rule_half_mm\""));
}

#[test]
fn the_benchs_units_are_obeyed_by_every_station_and_nothing_told_is_changed() {
    let server = Server::start();
    let place = server.job();
    let told = server.post(
        &format!("{place}/tell"),
        &[
            ("station", "action"),
            ("seen", "2"),
            ("what", "action"),
            ("string", "1"),
            ("fret", "12"),
            ("gap", "2.40 mm"),
            ("sure", "yes"),
        ],
    );
    assert_eq!(told.status, 303, "{}", told.text);
    let metric = server.get(&format!("{place}/action?string=1")).text;
    assert!(metric.contains(", mm</th>") && !metric.contains(", thou</th>"));
    let mut fields = form(&server.get("/shop").text, "shop");
    set(&mut fields, "shown", "inches");
    assert_eq!(server.post("/shop", &borrowed(&fields)).status, 303);
    for station in [
        "relief",
        "nut",
        "action",
        "intonation",
        "pickups",
        "clearance",
        "whatif",
    ] {
        let page = server.get(&format!("{place}/{station}?string=1")).text;
        assert!(page.contains("thou"), "{station}");
        assert!(!page.contains(", mm</th>"), "{station}");
    }
    let page = server.get(&format!("{place}/action?string=1")).text;
    // What was typed stands as it was typed; what is worked out is in thousandths.
    assert!(
        page.contains("2.40 mm") && page.contains("94.") && page.contains("thou"),
        "{page}"
    );
}
