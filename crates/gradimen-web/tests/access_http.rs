//! Signing in over HTTP, as browsers, colleagues and strangers do it.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use gradimen_store::accounts::Role;
use gradimen_web::Access;
use server::{Answer, PASSWORD, Server, borrowed, inputs, set};

fn shop() -> Server {
    let access = Access {
        asks: true,
        ..Access::default()
    };
    let people = [
        ("mira", Role::Technician),
        ("odd", Role::Counter),
        ("pia", Role::Viewer),
    ];
    Server::start_for(access, Box::leak(Box::new(people)))
}

fn enter(server: &Server, name: &str, password: &str) -> Answer {
    server.post(
        "/sign-in",
        &[("name", name), ("password", password), ("to", "/stock")],
    )
}

/// The word that forms of this page carry.
fn word(page: &str) -> String {
    let fields = inputs(page);
    let found = fields.into_iter().find(|(name, _)| name == "word");
    found.unwrap().1
}

#[test]
fn nothing_is_shown_before_somebody_signs_in() {
    let server = shop();
    for path in [
        "/",
        "/stock",
        "/jobs/1",
        "/jobs/1/nut?string=2",
        "/data",
        "/data/shop.json",
        "/account",
        "/nowhere",
    ] {
        let answer = server.get(path);
        assert_eq!(answer.status, 303, "{path}");
        assert!(
            answer.place.starts_with("/sign-in?to="),
            "{path} {}",
            answer.place
        );
        assert_eq!(answer.text, "", "{path}");
    }
    for path in [
        "/instruments",
        "/jobs/1/tell",
        "/shop",
        "/data/import",
        "/account/pair",
    ] {
        assert_eq!(server.post(path, &[("name", "x")]).status, 401, "{path}");
    }
    // The page itself, and what it is made of, are there for everybody.
    let page = server.get("/sign-in?to=%2Fjobs%2F1").text;
    assert!(page.contains("value=\"/jobs/1\""));
    let style = page
        .split('"')
        .find(|part| part.starts_with("/assets/") && part.ends_with(".css"));
    assert_eq!(server.get(style.unwrap()).status, 200);
}

#[test]
fn what_is_told_carries_who_told_it() {
    let server = shop();
    assert_eq!(enter(&server, "mira", "wrong password").status, 422);
    let answer = enter(&server, "mira", PASSWORD);
    assert_eq!((answer.status, answer.place.as_str()), (303, "/stock"));
    let given = answer.headers.get("set-cookie").unwrap().to_str().unwrap();
    assert!(
        given.contains("HttpOnly") && given.contains("SameSite=Strict"),
        "{given}"
    );
    // Every form of every page has the word of the account, and it is asked for.
    let page = server.get("/instruments/new").text;
    assert_eq!(
        page.matches("<form method=\"post\"").count(),
        page.matches("name=\"word\"").count()
    );
    assert!(page.contains("href=\"/account\">mira</a>"));
    let job = server.job();
    let told = server.post(
        &format!("{job}/tell"),
        &[
            ("what", "note"),
            ("station", "record"),
            ("seen", "2"),
            ("text", "nut looks fine"),
        ],
    );
    assert_eq!(told.status, 403, "{}", told.text);
    let record = server.get(&format!("{job}/record")).text;
    let seen = inputs(&record)
        .into_iter()
        .find(|(name, _)| name == "seen")
        .unwrap()
        .1;
    let told = server.post(
        &format!("{job}/tell"),
        &[
            ("what", "note"),
            ("station", "record"),
            ("seen", &seen),
            ("text", "nut looks fine"),
            ("word", &word(&record)),
        ],
    );
    assert_eq!(told.status, 303, "{}", told.text);
    let record = server.get(&format!("{job}/record")).text;
    assert!(record.contains(", mira</td>") && record.contains("nut looks fine"));
    let handover = server.get(&format!("{job}/handover")).text;
    assert!(handover.contains(", by mira."), "{handover}");
    assert!(
        server
            .get(&format!("{job}/export.json"))
            .text
            .contains("\"by\": \"mira\"")
    );
}

#[test]
fn a_role_does_what_it_is_for_and_no_more() {
    let server = shop();
    enter(&server, "mira", PASSWORD);
    let job = server.job();
    let reading = |server: &Server| {
        let page = server.get(&format!("{job}/intonation")).text;
        let seen = inputs(&page).into_iter().find(|(name, _)| name == "seen");
        let seen = seen.map_or("2".to_owned(), |(_, seen)| seen);
        let word = word(&page);
        let form = [
            ("what", "read"),
            ("station", "intonation"),
            ("seen", seen.as_str()),
            ("string", "1"),
            ("fret", "12"),
            ("against", "harmonic"),
            ("cents", "4"),
            ("word", word.as_str()),
        ];
        server.post(&format!("{job}/tell"), &form).status
    };
    assert_eq!(reading(&server), 303);
    enter(&server, "odd", PASSWORD);
    assert_eq!(reading(&server), 403);
    let page = server.get(&format!("{job}/intake")).text;
    let said = [
        ("what", "note"),
        ("station", "intake"),
        (
            "seen",
            &inputs(&page)
                .into_iter()
                .find(|(name, _)| name == "seen")
                .unwrap()
                .1,
        ),
        ("text", "wants it by Friday"),
        ("word", &word(&page)),
    ];
    assert_eq!(server.post(&format!("{job}/tell"), &said).status, 303);
    for path in [
        "/data",
        "/data/shop.json",
        "/data/verify",
        "/%64ata/shop.json",
        "/dat%61",
        "/data/../data/shop.json",
        "//data/shop.json",
    ] {
        let status = server.get(path).status;
        assert!([403, 404].contains(&status), "{path} {status}");
    }
    // Nor is a form that says it is written in other letters read otherwise by the door than by the bench.
    let wide =
        "&what=read&station=intonation&seen=3&string=1&fret=12&against=harmonic&cents=4&sure=yes";
    let mut body = format!("what=note&word={}&pad==", word(&page)).into_bytes();
    body.resize(body.len() + body.len() % 2, b'=');
    body.extend(wide.encode_utf16().flat_map(u16::to_le_bytes));
    let disguised = server
        .agent
        .post(format!("{}{job}/tell", server.address))
        .header("origin", &server.address)
        .header("cookie", server.cookie.lock().unwrap().clone())
        .header(
            "content-type",
            "application/x-www-form-urlencoded; charset=utf-16le",
        );
    assert_eq!(disguised.send(&body[..]).unwrap().status(), 403);
    // The counter takes an instrument in.
    let form = server.get("/instruments/new").text;
    let mut fields = inputs(&form);
    set(&mut fields, "name", "Wren");
    set(&mut fields, "stock_number", "9");
    assert_eq!(server.post("/instruments", &borrowed(&fields)).status, 303);
    enter(&server, "pia", PASSWORD);
    assert_eq!(server.get(&format!("{job}/plan")).status, 200);
    assert_eq!(server.post("/instruments", &borrowed(&fields)).status, 403);
    assert_eq!(reading(&server), 403);
    let own = server.get("/account").text;
    let code = server.post("/account/pair", &[("word", &word(&own))]);
    assert_eq!(code.status, 200);
}

/// Another site can make a browser send what it likes, and cannot read a page.
#[test]
fn a_form_of_another_site_or_of_another_account_is_refused() {
    let server = shop();
    enter(&server, "odd", PASSWORD);
    let of_odd = word(&server.get("/instruments/new").text);
    enter(&server, "mira", PASSWORD);
    let of_mira = word(&server.get("/instruments/new").text);
    assert_ne!(of_odd, of_mira);
    let leave = |word: &str| {
        server
            .post("/account/leave-everywhere", &[("word", word)])
            .status
    };
    assert_eq!((leave(""), leave(&of_odd)), (403, 403));
    let foreign = server
        .agent
        .post(format!("{}/account/leave-everywhere", server.address))
        .header("origin", "https://example.org")
        .header("cookie", server.cookie.lock().unwrap().clone());
    let foreign = foreign.send_form([("word", of_mira.as_str())]).unwrap();
    assert_eq!(foreign.status(), 403);
    assert_eq!(server.get("/account").status, 200);
    assert_eq!(leave(&of_mira), 303);
    assert_eq!(server.get("/account").status, 303);
}

/// A session that a stranger put into a browser is not the one that is signed in.
#[test]
fn a_session_is_never_the_one_that_was_there_before() {
    let server = shop();
    enter(&server, "pia", PASSWORD);
    let of_pia = server.cookie.lock().unwrap().clone();
    enter(&server, "mira", PASSWORD);
    let of_mira = server.cookie.lock().unwrap().clone();
    assert_ne!(of_pia, of_mira);
    server.cookie.lock().unwrap().clone_from(&of_pia);
    assert_eq!(server.get("/account").status, 303);
    for made_up in [
        "gradimen=",
        "gradimen=mira",
        "gradimen=AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA",
    ] {
        made_up.clone_into(&mut server.cookie.lock().unwrap());
        let answer = server.get("/account");
        assert_eq!(answer.status, 303, "{made_up}");
        enter(&server, "mira", PASSWORD);
        let now = server.cookie.lock().unwrap().clone();
        assert!(now != made_up && now != of_mira);
        assert_eq!(server.get("/account").status, 200);
    }
    // Signed out here, the other device stays; signed out everywhere, none does.
    let here = server.cookie.lock().unwrap().clone();
    let word = word(&server.get("/account").text);
    assert_eq!(
        server.post("/account/leave", &[("word", &word)]).status,
        303
    );
    server.cookie.lock().unwrap().clone_from(&here);
    assert_eq!(server.get("/account").status, 303);
    server.cookie.lock().unwrap().clone_from(&of_mira);
    assert_eq!(server.get("/account").status, 200);
}

#[test]
fn a_tablet_is_paired_by_a_code() {
    let server = shop();
    enter(&server, "mira", PASSWORD);
    let account = server.get("/account").text;
    let shown = server
        .post("/account/pair", &[("word", &word(&account))])
        .text;
    let code = shown
        .split("tracking-wider my-2\" role=\"status\">")
        .nth(1)
        .unwrap();
    let code = code.split('<').next().unwrap();
    server.cookie.lock().unwrap().clear();
    assert_eq!(
        server.post("/sign-in", &[("code", "AAAA BBBB")]).status,
        422
    );
    assert_eq!(server.post("/sign-in", &[("code", code)]).status, 303);
    assert!(
        server
            .get("/account")
            .text
            .contains("<h1 class=\"text-3xl font-bold\">mira</h1>")
    );
    server.cookie.lock().unwrap().clear();
    assert_eq!(server.post("/sign-in", &[("code", code)]).status, 422);
}

#[test]
fn guessing_over_http_is_slowed_down_and_says_so() {
    let server = shop();
    let mut answers = Vec::new();
    for guess in 0..8 {
        answers.push(enter(&server, "mira", &format!("wrong password {guess}")).text);
    }
    assert!(answers[0].contains("No account has this name and password."));
    assert!(answers[7].contains("Too often wrong: try again in"));
    assert!(!answers.iter().any(|page| page.contains("wrong password")));
    assert!(
        enter(&server, "mira", PASSWORD)
            .text
            .contains("Too often wrong")
    );
}

#[test]
fn a_page_that_was_left_open_loses_nothing_when_its_session_ends() {
    let server = shop();
    enter(&server, "mira", PASSWORD);
    let job = server.job();
    let page = server.get(&format!("{job}/record")).text;
    let seen = inputs(&page)
        .into_iter()
        .find(|(name, _)| name == "seen")
        .unwrap()
        .1;
    let own = word(&page);
    let note = [
        ("what", "note"),
        ("station", "record"),
        ("seen", seen.as_str()),
        ("text", "typed over lunch"),
        ("word", own.as_str()),
    ];
    server.cookie.lock().unwrap().clear();
    let refused = server.post(&format!("{job}/tell"), &note);
    assert_eq!(refused.status, 401);
    assert_eq!(refused.headers.get("hx-reswap").unwrap(), "beforebegin");
    assert!(refused.text.contains("id=\"signed-out\"") && refused.text.contains("Not saved"));
    // Nor does the word on what is typed, or another station, take the page away without a way back.
    let by_script = |path: &str, boosted: bool| {
        let request = server.agent.get(format!("{}{path}", server.address));
        let request = request.header("hx-request", "true");
        let request = if boosted {
            request.header("hx-boosted", "true")
        } else {
            request
        };
        Server::answer(request.call().unwrap())
    };
    let echo = by_script("/understand?limits=relief&gap=6", false);
    assert_eq!(echo.status, 401);
    assert!(echo.headers.get("hx-redirect").is_none());
    let other = by_script(&format!("{job}/nut"), true);
    let to = other.headers.get("hx-redirect").unwrap().to_str().unwrap();
    assert_eq!(to, "/sign-in?to=%2Fjobs%2F1%2Fnut");
    // Signed in again beside it, the same form of the same page is taken.
    enter(&server, "mira", PASSWORD);
    assert_eq!(server.post(&format!("{job}/tell"), &note).status, 303);
}
