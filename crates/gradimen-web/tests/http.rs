//! The real server on a port of its own: what a browser, a stray page and a script may do.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use server::bench::Job;
use server::{Server, borrowed, inputs, set};

#[test]
fn an_empty_bench_says_what_to_do_first() {
    let server = Server::start();
    let page = server.get("/");
    assert_eq!(page.status, 200);
    assert!(page.text.contains("No jobs yet") && page.text.contains("/instruments/new"));
    assert_eq!(server.get("/nowhere").status, 404);
    assert_eq!(server.get("/jobs/99/intonation").status, 404);
    assert_eq!(server.get("/instruments/99").status, 404);
}

#[test]
fn every_page_is_shut_to_the_outside() {
    let server = Server::start();
    let page = server.get("/");
    let policy = page
        .headers
        .get("content-security-policy")
        .unwrap()
        .to_str()
        .unwrap();
    assert!(policy.starts_with("default-src 'none'") && !policy.contains("unsafe"));
    assert_eq!(
        page.headers.get("x-content-type-options").unwrap(),
        "nosniff"
    );
    assert!(
        !page.text.contains(" style=\"")
            && !page.text.contains("<script>")
            && !page.text.contains(" onclick")
    );
    let address = &server.address;
    let form = [("name", "Cuckoo")];
    let post = |header: &str, value: &str| {
        let request = server
            .agent
            .post(format!("{address}/instruments"))
            .header(header, value);
        Server::answer(request.send_form(form).unwrap()).status
    };
    assert_eq!(post("origin", "http://elsewhere.example"), 403);
    assert_eq!(post("sec-fetch-site", "cross-site"), 403);
    assert_eq!(post("x-nothing", "said"), 403);
    let rebound = server
        .agent
        .get(format!("{address}/"))
        .header("host", "elsewhere.example")
        .call()
        .unwrap();
    assert_eq!(rebound.status(), 403);
    assert!(server.get("/stock").text.contains("No instrument fits"));
}

#[test]
fn assets_come_from_the_binary_under_a_name_of_their_contents() {
    let server = Server::start();
    let page = server.get("/").text;
    let at = page.find("/assets/").unwrap();
    let print = page[at + 8..].split('/').next().unwrap().to_owned();
    for (name, kind) in [
        ("app.css", "text/css"),
        ("next.woff2", "font/woff2"),
        ("changes.js", "text/javascript"),
        ("tools.js", "text/javascript"),
        ("keys.js", "text/javascript"),
        ("favicon.svg", "image/svg+xml"),
    ] {
        let asset = server.get(&format!("/assets/{print}/{name}"));
        assert_eq!(asset.status, 200, "{name}");
        assert!(
            asset
                .headers
                .get("content-type")
                .unwrap()
                .to_str()
                .unwrap()
                .starts_with(kind),
            "{name}"
        );
        assert!(
            asset
                .headers
                .get("cache-control")
                .unwrap()
                .to_str()
                .unwrap()
                .contains("immutable")
        );
    }
    assert_eq!(
        server
            .get(&format!("/assets/{print}/..%2FCargo.toml"))
            .status,
        404
    );
}

#[test]
fn a_reading_becomes_a_move_and_a_slip_stays_in_its_field() {
    let server = Server::start();
    let job = server.job();
    let told = server.read(&job, "2", "3", "+6.2 6,4");
    assert_eq!(
        (told.status, told.place.as_str()),
        (
            303,
            format!("{job}/intonation?string=3&fret=12&against=harmonic&focus=reading-4").as_str()
        )
    );
    let page = server.get(&told.place).text;
    assert!(
        page.contains("turns clockwise") && page.contains("6.3 cents sharp, mean of 2"),
        "{page}"
    );
    let slip = server.read(&job, "4", "3", "sharp <b>");
    assert_eq!(slip.status, 422);
    assert!(slip.text.contains("value=\"sharp &#60;b&#62;\"") && slip.text.contains("+6.2 or -3"));
    assert!(!slip.text.contains("sharp <b>"));
    assert_eq!(server.read(&job, "4", "9", "+1").status, 422);
    assert_eq!(server.read(&job, "4", "3", "+440").status, 422);
    assert!(
        server
            .get(&format!("{job}/record"))
            .text
            .contains("String 3, fret 12: +6.4 cents")
    );
}

#[test]
fn two_windows_on_one_job_lose_nothing() {
    let server = Server::start();
    let job = server.job();
    assert_eq!(server.read(&job, "2", "1", "+2").status, 303);
    let late = server.read(&job, "2", "2", "-5.5");
    assert_eq!(late.status, 409);
    assert!(late.text.contains("This job changed in another window"));
    assert!(
        late.text.contains("String 1, fret 12: +2.0 cents")
            && late.text.contains("String 2, fret 12: \u{2212}5.5 cents")
    );
    assert!(late.text.contains("name=\"cents\" value=\"-5.5\""));
    assert_eq!(server.read(&job, "3", "2", "-5.5").status, 303);
}

#[test]
fn what_is_told_can_be_taken_back_and_put_again() {
    let server = Server::start();
    let job = server.job();
    server.read(&job, "2", "1", "+2");
    let tell = |what, seen| {
        server.post(
            &format!("{job}/tell"),
            &[("what", what), ("station", "intonation"), ("seen", seen)],
        )
    };
    assert_eq!(tell("undo", "3").status, 303);
    assert!(
        server
            .get(&format!("{job}/record"))
            .text
            .contains("(undone)")
    );
    assert_eq!(tell("redo", "4").status, 303);
    assert!(
        !server
            .get(&format!("{job}/record"))
            .text
            .contains("(undone)")
    );
    assert_eq!(tell("redo", "5").status, 422);
    assert_eq!(tell("dance", "5").status, 422);
}

#[test]
fn a_field_says_what_it_understood() {
    let server = Server::start();
    let ask = |limits: &str, text: &str| {
        server
            .get(&format!("/understand?limits={limits}&f={text}"))
            .text
    };
    assert_eq!(ask("scale", "25.5"), "647.7 mm = 25.500 in (taken as in)");
    assert!(ask("twelfth", "5%2F64").contains("1.98 mm"));
    assert!(ask("first_fret", "6-8+thou").contains("to"));
    assert!(ask("twelfth", "20%20mm").contains("lies between"));
    assert_eq!(ask("nothing", "5"), "");
    assert!(ask("twelfth", "%3Cscript%3E").contains("&lt;script&gt;"));
}

#[test]
fn strings_are_tried_put_on_and_refused() {
    let server = Server::start();
    let job = server.job();
    let tried = server
        .get(&format!("{job}/strings?try=tuning&preset=half+a+step+down"))
        .text;
    assert!(
        tried.contains("Preview: total tension")
            && tried.contains("N less than before")
            && tried.contains("Eb4")
    );
    let mut fields = vec![
        ("what", "strung"),
        ("station", "strings"),
        ("seen", "2"),
        ("a4", "440"),
        ("tuning_name", "standard"),
    ];
    let notes = ["E4", "B3", "G3", "D3", "A2", "E2"];
    let gauges = [".009", ".011", ".016", "24w", "32w", "42"];
    let names: Vec<(String, String)> = (1..=6)
        .map(|string| (format!("note{string}"), format!("gauge{string}")))
        .collect();
    for (index, (note, gauge)) in names.iter().enumerate() {
        fields.push((note, notes[index]));
        fields.push((gauge, gauges[index]));
    }
    assert_eq!(server.post(&format!("{job}/tell"), &fields).status, 303);
    assert!(
        server
            .get(&format!("{job}/strings"))
            .text
            .contains("N less than before")
    );
    let mut tight = fields.clone();
    tight[2].1 = "3";
    tight
        .iter_mut()
        .find(|(name, _)| *name == "note1")
        .unwrap()
        .1 = "C5";
    let refused = server.post(&format!("{job}/tell"), &tight);
    assert_eq!(refused.status, 422);
    assert!(refused.text.contains("above 90 %") && refused.text.contains("value=\"C5\""));
    let wish = server
        .get(&format!("{job}/strings?wish=set_total&pull=100+lb"))
        .text;
    assert!(wish.contains("N against now") && wish.contains("Fit this set"));
    assert!(
        server
            .get(&format!("{job}/strings?wish=set_total&pull=lots"))
            .text
            .contains("80 N, 18 lb")
    );
}

#[test]
fn a_job_goes_out_and_comes_in_again() {
    let server = Server::start();
    let job = server.job();
    server.read(&job, "2", "5", "-3.2");
    let out = server.get(&format!("{job}/export.json"));
    assert!(
        out.headers
            .get("content-disposition")
            .unwrap()
            .to_str()
            .unwrap()
            .contains("no--27-heron")
    );
    let table = server.get(&format!("{job}/readings.csv")).text;
    assert!(
        table.contains("intonation against the harmonic,5,12,-3.2,cents,,yes"),
        "{table}"
    );
    let other = Server::start();
    let came = other.upload("heron.json", &out.text);
    assert_eq!(came.status, 303, "{}", came.text);
    let again = other.get(&came.place.replace("record", "export.json"));
    assert_eq!(again.text, out.text);
    let refused = other.upload("list.json", "{\"milk\": 2}");
    assert_eq!(refused.status, 422);
    assert!(refused.text.contains("Nothing was imported") && refused.text.contains("list.json"));
}

#[test]
fn a_record_changes_with_history_and_without_overwriting() {
    let server = Server::start();
    let job = server.job();
    let mut fields = inputs(&server.get("/instruments/1/edit").text);
    set(&mut fields, "scales", "24 3/4 in");
    assert_eq!(
        server.post("/instruments/1", &borrowed(&fields)).status,
        303
    );
    let shown = server.get("/instruments/1").text;
    assert!(shown.contains("628.6 mm") && shown.contains("was 647.7 mm"));
    let late = server.post("/instruments/1", &borrowed(&fields));
    assert_eq!(late.status, 409);
    assert!(late.text.contains("changed in another window"));
    assert!(
        server
            .get(&format!("{job}/intonation"))
            .text
            .contains("629 mm"),
        "the correction reaches the open job"
    );
    let back = server.post("/instruments/1/restore", &[("version", "1"), ("seen", "2")]);
    assert_eq!(back.status, 303);
    assert!(
        server
            .get("/instruments/1")
            .text
            .contains("647.7 mm (written")
            || server.get("/instruments/1").text.contains("was 628.6 mm")
    );
    assert_eq!(
        server
            .post("/instruments/1/restore", &[("version", "1"), ("seen", "2")])
            .status,
        409
    );
    set(&mut fields, "scales", "6.48 mm");
    let wrong = server.post("/instruments/1", &borrowed(&fields));
    assert_eq!(wrong.status, 422);
    assert!(wrong.text.contains("value=\"6.48 mm\"") && wrong.text.contains("lies between"));
}

#[test]
fn too_large_a_form_is_refused() {
    let server = Server::start();
    let huge = "x".repeat(200_000);
    let answer = server.post("/instruments", &[("note", &huge)]);
    assert_eq!(answer.status, 400);
}

#[test]
fn everything_a_job_can_be_told_is_kept_or_answered() {
    let server = Server::start();
    let job = server.job();
    let mut seen = 2;
    let mut tell = |fields: &[(&str, &str)]| {
        let now = seen.to_string();
        let form = [&[("station", "record"), ("seen", now.as_str())], fields].concat();
        let answer = server.post(&format!("{job}/tell"), &form);
        if answer.status == 303 {
            seen += 1;
        }
        answer
    };
    // What is told, and how the record says it.
    for (fields, says) in [
        (
            &[
                ("what", "scale"),
                ("string", "1"),
                ("nut_to_twelfth", "12 3/4"),
            ][..],
            "String 1: nut to fret 12 12 3/4",
        ),
        (
            &[
                ("what", "place"),
                ("string", "2"),
                ("twelfth_to_saddle", "326,5 mm"),
            ],
            "String 2: fret 12 to saddle 326,5 mm",
        ),
        (
            &[("what", "room"), ("string", "6"), ("room", "3/64")],
            "String 6: 3/64 left behind the saddle",
        ),
        (
            &[("what", "core"), ("string", "6"), ("core", "18 thou")],
            "String 6: core 18 thou",
        ),
        (
            &[
                ("what", "weigh"),
                ("string", "6"),
                ("cut_off", "100"),
                ("mass", "0.70 g"),
            ],
            "String 6: 100 weighs 0.7 g",
        ),
        (
            &[
                ("what", "move"),
                ("string", "3"),
                ("turns", "1 1/2"),
                ("way", "toward"),
            ],
            "String 3: saddle 1 1/2 turns toward the neck",
        ),
        (
            &[("what", "stuck"), ("string", "3")],
            "String 3: the saddle screw is stuck",
        ),
        (
            &[("what", "bridge"), ("bridge_move", "-1.5")],
            "Bridge moved by -1.5",
        ),
        (
            &[("what", "tuner"), ("tuner", "strobe")],
            "Tuner: strobe, 0.1 cents",
        ),
        (
            &[("what", "tuner"), ("resolution", "0.3")],
            "Tuner: own, 0.3 cents",
        ),
        (&[("what", "aged"), ("old", "yes")], "Strings found old"),
        (
            &[
                ("what", "player"),
                ("touch", "hard"),
                ("style", "brass band"),
            ],
            "Player: hard touch, brass band",
        ),
        (
            &[("what", "note"), ("text", "jack is loose")],
            "Note: jack is loose",
        ),
        (&[("what", "stage"), ("stage", "resting")], "Now resting"),
        (
            &[
                ("what", "heights"),
                ("first_treble", "18-20 thou"),
                ("first_bass", ".020\""),
                ("twelfth_treble", "3.5/64"),
                ("twelfth_bass", "2 mm"),
                ("heights_measured", "on"),
            ],
            "Action as it came, measured: fret 1 18-20 thou and .020",
        ),
    ] {
        let answer = tell(fields);
        assert_eq!(answer.status, 303, "{fields:?}: {}", answer.text);
        let record = server.get(&format!("{job}/record")).text;
        assert!(record.contains(says), "{says}");
    }
    // What cannot be, and the words that help.
    for (fields, says) in [
        (
            &[
                ("what", "scale"),
                ("string", "1"),
                ("nut_to_twelfth", "12.75 mm"),
            ][..],
            "lies between",
        ),
        (
            &[
                ("what", "place"),
                ("string", "9"),
                ("twelfth_to_saddle", "326"),
            ],
            "from 1 to 6",
        ),
        (
            &[("what", "room"), ("string", "6"), ("room", "-2")],
            "lies between",
        ),
        (
            &[("what", "core"), ("string", "1"), ("core", "5 thou")],
            "no core",
        ),
        (
            &[("what", "core"), ("string", "6"), ("core", "44 thou")],
            "nine tenths",
        ),
        (
            &[
                ("what", "weigh"),
                ("string", "6"),
                ("cut_off", "100"),
                ("mass", "7 g"),
            ],
            "check length and grams",
        ),
        (
            &[
                ("what", "move"),
                ("string", "3"),
                ("turns", "ninety"),
                ("way", "away"),
            ],
            "1 1/2 or 2.25",
        ),
        (
            &[("what", "round"), ("string", "3")],
            "cannot be, by the instrument",
        ),
        (&[("what", "tuner"), ("resolution", "50")], "0.01 to 10"),
        (
            &[("what", "player"), ("touch", "iron")],
            "light, medium or hard",
        ),
        (&[("what", "note"), ("text", "  ")], "nothing was written"),
        (
            &[("what", "stage"), ("stage", "lost")],
            "where the job stands",
        ),
        (
            &[
                ("what", "heights"),
                ("first_treble", "2 mm"),
                ("first_bass", "2 mm"),
                ("twelfth_treble", "1 mm"),
                ("twelfth_bass", "1 mm"),
            ],
            "not below the first",
        ),
    ] {
        let answer = tell(fields);
        assert_eq!(answer.status, 422, "{fields:?}");
        assert!(answer.text.contains(says), "{fields:?}: no '{says}'");
        assert!(
            answer.headers.get("hx-push-url").is_some(),
            "the address stays that of the page"
        );
    }
}

#[test]
fn a_left_handed_job_is_drawn_mirrored_and_a_shared_saddle_once() {
    let server = Server::start();
    let mut fields = inputs(&server.get("/instruments/new").text);
    set(&mut fields, "name", "Siskin");
    fields.push(("left_handed".into(), "on".into()));
    set(&mut fields, "saddles", "1-2 3-4 5-6");
    let added = server.post("/instruments", &borrowed(&fields));
    let open = format!("{}/open", added.place);
    let mut fields = inputs(&server.get(&open).text);
    set(&mut fields, "purpose", "check");
    let job = server
        .post(&open, &borrowed(&fields))
        .place
        .replace("/strings", "");
    let page = server.get(&format!("{job}/intonation")).text;
    let drawing = &page[page.find("<svg class=\"draw block").unwrap()
        ..page.find("aria-label=\"Next move\"").unwrap()];
    assert_eq!(drawing.matches("class=\"slot\"").count(), 3);
    assert_eq!(drawing.matches("data-lane=").count(), 6);
    // The nut stands at the right, so string numbers end there.
    assert!(
        drawing.contains(r#"class="strong" x="1260.0""#),
        "{drawing}"
    );
}

#[test]
fn a_press_that_is_sent_twice_is_recorded_once_and_answered_the_same() {
    let job = Job::open();
    let page = job.page("relief");
    let mut fields = inputs(&page);
    let word = fields
        .iter()
        .find(|(name, _)| name == "press")
        .unwrap()
        .1
        .clone();
    assert_eq!(word.len(), 32);
    fields = vec![
        ("what".to_owned(), "relief".to_owned()),
        ("station".to_owned(), "relief".to_owned()),
        ("seen".to_owned(), job.seen.to_string()),
        ("side".to_owned(), "bass".to_owned()),
        ("gap".to_owned(), "8".to_owned()),
        ("press".to_owned(), word),
    ];
    let tell = |fields: &[(String, String)]| job.server.post("/jobs/1/tell", &borrowed(fields));
    let (once, twice) = (tell(&fields), tell(&fields));
    assert_eq!((once.status, &once.place), (303, &twice.place));
    assert_eq!(twice.status, 303);
    let record = job.server.get("/jobs/1/record").text;
    assert_eq!(
        record.matches("<td>Relief, bass side").count(),
        1,
        "{record}"
    );
    // Taken back, the same press from the same old page is not called recorded.
    let undo = [("what", "undo"), ("station", "relief"), ("seen", "4")];
    let seen = (job.seen + 1).to_string();
    let undo = undo.map(|(name, value)| (name, if name == "seen" { seen.as_str() } else { value }));
    assert_eq!(job.server.post("/jobs/1/tell", &undo).status, 303);
    assert_eq!(tell(&fields).status, 409);
    // Another page's press of the same thing is another reading, and meets what it has not seen.
    set(&mut fields, "press", "another page's word");
    assert_eq!(tell(&fields).status, 409);
    // And so does another reading from the same page.
    set(&mut fields, "gap", "9");
    assert_eq!(tell(&fields).status, 409);
}

#[test]
fn every_answer_has_its_headers_and_head_is_answered_everywhere() {
    let mut job = Job::open();
    let read = [("what", "relief"), ("side", "bass"), ("gap", "8")];
    assert_eq!(job.tell("relief", &read).status, 303);
    for path in [
        "/",
        "/stock",
        "/due",
        "/shop",
        "/shop/figures",
        "/data",
        "/data/verify",
        "/health",
        "/jobs/1/relief",
        "/jobs/1/handover",
        "/jobs/1/handover.csv",
        "/jobs/1/entries.txt",
        "/jobs/99",
        "/data/backups/2020-01-01",
        "/nowhere",
        "/understand?limits=relief&gap=8",
    ] {
        let (get, head) = (job.server.get(path), job.server.head(path));
        assert_eq!(get.status, head.status, "{path}");
        assert!(head.text.is_empty(), "{path}");
        for answer in [&get, &head] {
            for name in [
                "content-security-policy",
                "x-content-type-options",
                "referrer-policy",
                "permissions-policy",
            ] {
                assert!(answer.headers.contains_key(name), "{path} without {name}");
            }
        }
    }
    let health: serde_json::Value = serde_json::from_str(&job.server.get("/health").text).unwrap();
    assert_eq!(health["data_writable"], true);
    assert!(
        job.server
            .get("/data/verify")
            .text
            .contains("The file is sound")
    );
    assert!(
        job.server
            .get("/jobs/1/entries.txt")
            .text
            .contains("-- entry 1, form 2, ")
    );
}

#[test]
fn an_import_that_is_on_file_otherwise_is_asked_about_first() {
    let job = Job::open();
    let document = job.server.get("/jobs/1/export.json").text;
    assert_eq!(job.server.upload("same.json", &document).status, 303);
    let other = document.replacen("\"frets\":22", "\"frets\":21", 1);
    assert_ne!(other, document);
    let asked = job.server.upload("other.json", &other);
    assert_eq!(asked.status, 409, "{}", asked.text);
    assert!(
        asked.text.contains("on file otherwise") && asked.text.contains("<td>22</td><td>21</td>")
    );
    let jobs = |page: &str| page.matches("<tr><td").count();
    assert_eq!(jobs(&job.server.get("/").text), 2);
    // Both answers, each from the page that asked.
    for (record, instruments) in [("on_file", 1), ("another", 2)] {
        let body = format!(
            "--edge\r\nContent-Disposition: form-data; name=\"document\"\r\n\r\n{other}\r\n--edge\r\nContent-Disposition: form-data; name=\"record\"\r\n\r\n{record}\r\n--edge--\r\n"
        );
        assert_eq!(job.server.multipart("/data/import", body).status, 303);
        let stock = job.server.get("/stock").text;
        assert_eq!(stock.matches("Heron</a>").count(), instruments, "{stock}");
    }
    let whole: serde_json::Value =
        serde_json::from_str(&job.server.get("/data/shop.json").text).unwrap();
    assert_eq!(whole["instruments"].as_array().unwrap().len(), 2);
}

#[test]
fn a_page_that_is_shown_again_has_a_word_of_its_own_and_what_was_told_since() {
    let mut job = Job::open();
    let address = format!("{}/record", job.place);
    let word = |page: &server::Answer| {
        let fields = inputs(&page.text);
        let press = fields.into_iter().find(|(name, _)| name == "press");
        press.unwrap().1
    };
    let (first, again) = (job.server.get(&address), job.server.get(&address));
    assert_ne!(word(&first), word(&again));
    assert_eq!(
        first.text.replace(&word(&first), ""),
        again.text.replace(&word(&again), "")
    );
    for header in ["content-type", "cache-control"] {
        assert_eq!(first.headers.get(header), again.headers.get(header));
    }
    let note = [("what", "note"), ("text", "the nut is loose")];
    assert_eq!(job.tell("record", &note).status, 303);
    assert!(job.server.get(&address).text.contains("the nut is loose"));
}

#[test]
fn only_a_page_of_our_own_is_listened_with() {
    let job = Job::open();
    let address = format!("{}{}/listen", job.server.address, job.place);
    let asks = |origin: &str| {
        let request = job
            .server
            .agent
            .get(&address)
            .header("connection", "upgrade")
            .header("upgrade", "websocket")
            .header("sec-websocket-version", "13")
            .header("sec-websocket-key", "dGhlIHNhbXBsZSBub25jZQ==")
            .header("origin", origin);
        request.call().unwrap().status().as_u16()
    };
    assert_eq!(asks("http://elsewhere.example"), 403);
    assert_eq!(asks(&job.server.address), 101);
    // Without the handshake it is an address like any other, asked wrongly.
    assert_eq!(job.server.get(&format!("{}/listen", job.place)).status, 400);
    assert_eq!(job.server.get("/jobs/99/listen").status, 404);
    let policy = job
        .server
        .get("/")
        .headers
        .get("permissions-policy")
        .unwrap()
        .clone();
    assert!(policy.to_str().unwrap().contains("microphone=(self)"));
}
