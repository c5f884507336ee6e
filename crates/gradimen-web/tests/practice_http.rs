//! The practice bench over the real server: its jobs are jobs like others, and never among the shop's.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use gradimen_store::accounts::Role;
use gradimen_web::Access;
use server::{Answer, PASSWORD, Server, inputs};

/// A job that is practised.
struct Practised {
    server: Server,
    place: String,
}

impl Practised {
    fn begin(exercise: &str, hints: &str) -> Self {
        let server = Server::start();
        let form = [("exercise", exercise), ("hints", hints)];
        let opened = server.post("/practice", &form);
        assert_eq!(opened.status, 303, "{}", opened.text);
        let place = opened.place.trim_end_matches("/plan").to_owned();
        Self { server, place }
    }

    fn page(&self, station: &str) -> String {
        let answer = self.server.get(&format!("{}/{station}", self.place));
        assert_eq!(answer.status, 200, "{station}: {}", answer.text);
        answer.text
    }

    /// As a page of it sends: with what was seen.
    fn send(&self, to: &str, station: &str, fields: &[(&str, &str)]) -> Answer {
        let page = self.page(station);
        let seen = inputs(&page).into_iter().find(|(name, _)| name == "seen");
        let seen = seen.unwrap().1;
        let form = [&[("station", station), ("seen", seen.as_str())], fields].concat();
        self.server.post(&format!("{}/{to}", self.place), &form)
    }

    /// Lays a tool on: what is to be typed.
    fn lay(&self, station: &str, take: &str) -> String {
        let page = self.page(&format!("{station}?take={take}"));
        let shown = page.split("class=\"shown\"").nth(1).unwrap();
        let typed = shown.split("font-mono\">").nth(1);
        let typed = typed.or_else(|| shown.split("text-xl\">").nth(1)).unwrap();
        typed.split('<').next().unwrap().to_owned()
    }
}

#[test]
fn it_is_a_job_like_others_and_never_among_the_shops() {
    let practised = Practised::begin("first_intonation", "full");
    let server = &practised.server;
    assert!(practised.place.starts_with("/jobs/1000000001"));
    // The same commands, the same pages.
    let typed = practised.lay("intonation", "2");
    let read = [
        ("what", "read"),
        ("string", "3"),
        ("fret", "12"),
        ("against", "harmonic"),
        ("cents", typed.as_str()),
    ];
    let told = practised.send("tell", "intonation", &read);
    assert_eq!(told.status, 303, "{}", told.text);
    assert!(practised.page("record").contains("String 3, fret 12"));
    assert!(practised.page("intonation").contains("Practice"));
    // The shop knows nothing of it.
    for place in [
        "/",
        "/stock",
        "/due",
        "/shop/figures",
        "/data",
        "/data/shop.json",
    ] {
        let page = server.get(place).text;
        assert!(!page.contains("Practice, fixed plate"), "{place}");
    }
    assert_eq!(server.get("/jobs/1").status, 404);
    assert_eq!(server.get("/instruments/1").status, 404);
    let shop = server.job();
    assert_eq!(shop, "/jobs/1");
    assert!(server.get("/").text.contains("Heron"));
    assert!(!server.get("/practice").text.contains("Heron"));
    // Nor is it taken in from a document.
    let document = server.get(&format!("{}/export.json", practised.place)).text;
    assert!(document.contains("\"practice\""));
    let taken = server.upload("practised.json", &document);
    assert_eq!(taken.status, 422);
    assert!(
        taken.text.contains("stays at the practice bench"),
        "{}",
        taken.text
    );
    // And no job of its own is opened on its instrument.
    let open = "/instruments/1000000001/open";
    let mut fields = inputs(&server.get(open).text);
    server::set(&mut fields, "purpose", "before loan");
    let opened = server.post(open, &server::borrowed(&fields));
    assert_eq!(opened.status, 422, "{}", opened.text);
}

#[test]
fn what_is_told_meets_the_instrument() {
    let practised = Practised::begin("spent_rod", "off");
    let rod = [("what", "rod"), ("turns", "1/4"), ("way", "tighten")];
    assert_eq!(practised.send("tell", "relief", &rod).status, 303);
    // It did not go, and the journal says so.
    let record = practised.page("record");
    assert!(!record.contains("1/4 turn"), "{record}");
    assert!(record.to_lowercase().contains("hard"), "{record}");
    // What has no screw of its own can be moved; what this instrument does not have cannot.
    let bridge = [("what", "bridge"), ("bridge_move", "1")];
    assert_eq!(practised.send("tell", "intonation", &bridge).status, 303);
    let record = practised.page("record");
    assert!(record.contains("Bridge moved by 1"), "{record}");
    let bar = [("what", "bar"), ("bar_treble", "1"), ("bar_bass", "0")];
    let refused = practised.send("tell", "intonation", &bar);
    assert_eq!(refused.status, 422);
    assert!(
        refused.text.contains("do not stand on one bar"),
        "{}",
        refused.text
    );
}

#[test]
fn hints_are_kept_back_until_they_are_asked_for() {
    let practised = Practised::begin("whole_setup", "on_request");
    let page = practised.page("relief");
    assert!(page.contains("Hints are kept back") && page.contains("Show the next move"));
    assert!(!page.contains("data-next"));
    let asked = practised.send("practice", "relief", &[("did", "hint")]);
    assert_eq!(asked.status, 303);
    assert!(practised.page("relief").contains("data-next"));
    // The next entry keeps them back again.
    let waited = practised.send("practice", "relief", &[("did", "wait")]);
    assert_eq!(waited.status, 303, "{}", waited.text);
    assert!(!practised.page("relief").contains("data-next"));
    let off = Practised::begin("whole_setup", "off");
    let page = off.page("relief");
    assert!(!page.contains("data-next") && !page.contains("Show the next move"));
    let full = Practised::begin("whole_setup", "full");
    assert!(full.page("relief").contains("data-next"));
}

#[test]
fn handed_in_it_is_judged_and_stands_on_the_card() {
    let practised = Practised::begin("foreign_neck", "off");
    for page in ["relief", "intonation", "plan", "record", "practice"] {
        let text = practised.page(page).to_lowercase();
        assert!(!text.contains("foreign neck"), "{page}");
    }
    let judged = format!("{}/practice", practised.place);
    let before = practised.server.get(&judged).text;
    // What is hidden stays hidden until then.
    assert!(before.contains("Not handed in yet") && !before.contains("truly out"));
    for string in 1..=6 {
        let string = string.to_string();
        let turned = [
            ("what", "move"),
            ("string", string.as_str()),
            ("turns", "2"),
            ("way", "away"),
        ];
        let told = practised.send("tell", "intonation", &turned);
        assert_eq!(told.status, 303, "{}", told.text);
    }
    let handed = practised.send("practice", "plan", &[("did", "hand_in")]);
    assert_eq!(
        (handed.status, handed.place.as_str()),
        (303, judged.as_str())
    );
    let after = practised.server.get(&judged).text;
    assert!(after.contains("Not at par") && after.contains("careful trial and error"));
    assert!(after.contains("a neck of another scale"), "{after}");
    let card = practised.server.get("/practice/card").text;
    assert!(card.contains("<b>0</b> of 12 at par"));
    // What it was is told now that it was handed in; of the others whose names would give them away still only what their owners say.
    assert!(!card.contains("In tune open, and nowhere else"));
    assert!(card.contains("It buzzes where it is played most") && !card.contains("A high fret"));
    let row = card.split("A foreign neck").nth(1).unwrap();
    let row = row.split("</tr>").next().unwrap();
    assert!(row.contains(" out</td>"), "{row}");
    // Begun anew it is another one of the four.
    let form = [("exercise", "foreign_neck"), ("hints", "off")];
    let again = practised.server.post("/practice", &form).place;
    assert!(again.starts_with("/jobs/1000000002"), "{again}");
}

#[test]
fn nonsense_is_answered_and_changes_nothing() {
    let practised = Practised::begin("first_intonation", "off");
    let server = &practised.server;
    let at = |what: &str| server.get(&format!("{}/{what}", practised.place)).status;
    for (what, status) in [
        ("intonation?take=999", 200),
        ("intonation?take=-1", 200),
        ("frets?take=rocker&string=99&fret=99", 200),
        ("frets?take=rocker&string=0&fret=0", 200),
        ("proof?take=play&string=1&fret=21", 200),
        ("proof?take=play&string=1&fret=300", 200),
        ("pluck.wav?string=1&as=open", 200),
        ("pluck.wav?string=0&as=open", 400),
        ("pluck.wav?string=7&as=open", 400),
        ("pluck.wav?string=1&as=sung", 400),
        ("pluck.wav?string=1&as=struck&fret=0", 200),
        ("pluck.wav?string=6&as=struck&fret=5", 200),
        ("pluck.wav?string=1&as=struck&fret=30", 400),
        ("pluck.wav?string=1&as=struck&fret=-1", 400),
        ("pluck.wav?string=x", 400),
    ] {
        assert_eq!(at(what), status, "{what}");
    }
    let wrong = practised.send("practice", "relief", &[("did", "dance")]);
    assert_eq!(wrong.status, 400);
    assert!(
        wrong.text.contains("wait, hint or hand_in"),
        "{}",
        wrong.text
    );
    // What is no longer how it stands is not handed in; a minute passes in any window.
    let to = format!("{}/practice", practised.place);
    let stale = server.post(&to, &[("did", "hand_in"), ("seen", "1")]);
    assert_eq!(stale.status, 409);
    let waits = server.post(&to, &[("did", "wait"), ("seen", "1")]);
    assert_eq!(waits.status, 303);
    for (form, says) in [
        (vec![("kind", "a harp")], "a harp"),
        (
            vec![("kind", "fixed plate"), ("gap", "yes")],
            "vibrato out of balance",
        ),
        (vec![("job", "12")], "expected the number of a job"),
        (vec![("job", "one")], "expected the number of a job"),
    ] {
        let refused = server.post("/practice", &form);
        assert_eq!(refused.status, 422, "{form:?}");
        assert!(refused.text.contains(says), "{form:?}: {}", refused.text);
    }
    // A job of the shop is none to hand in, and one to make another from.
    let shop = server.job();
    assert_eq!(server.get(&format!("{shop}/practice")).status, 404);
    let hint = [("did", "hint"), ("seen", "2")];
    assert_eq!(server.post(&format!("{shop}/practice"), &hint).status, 404);
    let like = [("job", "1"), ("saddles", "yes"), ("hints", "full")];
    let like = server.post("/practice", &like);
    assert_eq!(like.status, 303, "{}", like.text);
}

#[test]
fn a_screw_that_is_not_there_is_refused_like_at_a_real_job() {
    let posts = Practised::begin("two_posts", "off");
    let turned = |adjuster| {
        [
            ("what", "height"),
            ("adjuster", adjuster),
            ("turns", "1/4"),
            ("way", "up"),
        ]
    };
    for adjuster in ["5", "0", "99"] {
        let refused = posts.send("tell", "action", &turned(adjuster));
        assert_eq!(refused.status, 422, "{adjuster}: {}", refused.text);
    }
    assert_eq!(posts.send("tell", "action", &turned("treble")).status, 303);
    // Nor is a claw there, nor a second pickup.
    let claw = [("what", "claw"), ("turns", "1/4"), ("way", "in")];
    assert_eq!(posts.send("tell", "relief", &claw).status, 422);
}

#[test]
fn the_same_press_is_one_minute() {
    let practised = Practised::begin("season", "full");
    let page = practised.page("relief");
    let value = |of: &str| {
        let mut fields = inputs(&page).into_iter();
        fields.find(|(name, _)| name == of).unwrap().1
    };
    let (seen, press) = (value("seen"), value("press"));
    let form = [
        ("station", "relief"),
        ("seen", seen.as_str()),
        ("press", press.as_str()),
        ("did", "wait"),
    ];
    let to = format!("{}/practice", practised.place);
    for _ in 0..2 {
        assert_eq!(practised.server.post(&to, &form).status, 303);
    }
    let record = practised.page("record");
    assert_eq!(record.matches("Let 1 min pass</td>").count(), 1, "{record}");
}

#[test]
fn whoever_has_come_in_may_practise() {
    let asks = Access {
        asks: true,
        ..Access::default()
    };
    let server = Server::start_for(asks, &[("Ash", Role::Viewer), ("Rowan", Role::Viewer)]);
    assert_eq!(
        server.get("/practice").status,
        303,
        "nobody without signing in"
    );
    let sign_in = [("name", "Ash"), ("password", PASSWORD)];
    assert_eq!(server.post("/sign-in", &sign_in).status, 303);
    let page = server.get("/practice").text;
    let word = inputs(&page)
        .into_iter()
        .find(|(name, _)| name == "word")
        .unwrap()
        .1;
    let form = [
        ("exercise", "season"),
        ("hints", "off"),
        ("word", word.as_str()),
    ];
    let opened = server.post("/practice", &form);
    assert_eq!(opened.status, 303, "{}", opened.text);
    let job = opened.place.trim_end_matches("/plan").to_owned();
    let turned = [
        ("station", "relief"),
        ("what", "rod"),
        ("turns", "1/8"),
        ("way", "tighten"),
        ("seen", "4"),
        ("word", word.as_str()),
    ];
    let told = server.post(&format!("{job}/tell"), &turned);
    assert_eq!(told.status, 303, "{}", told.text);
    assert!(server.get(&format!("{job}/record")).text.contains("Ash"));
    // At the shop's own jobs a viewer looks on.
    let open = server.post("/instruments", &[("word", word.as_str())]);
    assert_eq!(open.status, 403);
    // Each has a card of their own, and everybody's is beside it.
    let begun = |address: &str| {
        let card = server.get(address).text;
        card.matches(">begun</td>").count()
    };
    assert!(
        server
            .get("/practice/card")
            .text
            .contains("Card of progress of Ash</h1>")
    );
    assert_eq!(begun("/practice/card"), 1);
    let sign_in = [("name", "Rowan"), ("password", PASSWORD)];
    assert_eq!(server.post("/sign-in", &sign_in).status, 303);
    assert!(
        server
            .get("/practice/card")
            .text
            .contains("Card of progress of Rowan</h1>")
    );
    assert_eq!(begun("/practice/card"), 0);
    assert_eq!(begun("/practice/card?everybody=yes"), 1);
    // A name that nobody has is everybody's card and no failure.
    assert_eq!(begun("/practice/card?who=%3Cb%3E"), 1);
}
