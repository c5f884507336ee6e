//! Requests as no hand would make them, and as a tired one does.

/// Numbers that look random, the same every time.
pub(crate) struct Chance(pub(crate) u64);

impl Chance {
    pub(crate) fn next(&mut self) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0
    }

    pub(crate) fn of<'a, T: ?Sized>(&mut self, among: &[&'a T]) -> &'a T {
        let at = self.next() % among.len() as u64;
        among[usize::try_from(at).unwrap()]
    }
}

const STATIONS: &[&str] = &[
    "intake",
    "strings",
    "balance",
    "relief",
    "nut",
    "action",
    "intonation",
    "pickups",
    "clearance",
    "frets",
    "plan",
    "proof",
    "whatif",
    "record",
    "handover",
    "estimate",
    "handover.json",
    "handover.csv",
    "recheck.ics",
    "export.json",
    "entries.txt",
    "readings.csv",
    "nowhere",
];
const PAGES: &[&str] = &[
    "/",
    "/stock",
    "/shop",
    "/shop/figures",
    "/due",
    "/data",
    "/instruments/1",
    "/instruments/1/edit",
    "/instruments/1/visits",
    "/instruments/1/open",
    "/instruments/new",
    "/health",
    "/sign-in",
    "/account",
    "/understand",
    "/assets/x/y",
    "/data/backups/x",
    "/practice",
    "/practice/card",
    "/jobs/1000000001/practice",
];
/// Every form there is, and some there are not.
pub(crate) const WHATS: &[&str] = &[
    "undo",
    "redo",
    "player",
    "heights",
    "note",
    "stage",
    "complaint",
    "humidity",
    "strung",
    "stretched",
    "aged",
    "core",
    "weigh",
    "adopt",
    "balance",
    "claw",
    "seat",
    "spring_length",
    "claw_ends",
    "springs",
    "balance_wanted",
    "relief",
    "rod",
    "rod_stopped",
    "relief_target",
    "nut",
    "nut_moved",
    "nut_target",
    "action",
    "height",
    "height_end",
    "shim",
    "saddle_cut",
    "height_target",
    "read",
    "move",
    "stuck",
    "saddle_end",
    "bar",
    "loose",
    "round",
    "prefer",
    "bridge",
    "tuner",
    "scale",
    "place",
    "room",
    "pickup",
    "pickup_turned",
    "pickup_end",
    "pickup_target",
    "pole",
    "pole_turned",
    "level",
    "buzz",
    "rod_check",
    "rock",
    "pressed",
    "edged",
    "worn",
    "crown",
    "fretwork",
    "checked",
    "played",
    "played_through",
    "allowed",
    "spec",
    "planned",
    "dance",
    "",
];
const NAMES: &[&str] = &[
    "string",
    "fret",
    "cents",
    "gap",
    "turns",
    "way",
    "side",
    "held",
    "against",
    "level",
    "text",
    "seen_rock",
    "gives",
    "work",
    "fretwork",
    "taken",
    "depth",
    "crown",
    "edge",
    "low",
    "high",
    "at",
    "set",
    "tuning",
    "preset",
    "usual_set",
    "touch",
    "style",
    "stage",
    "pickup",
    "pole",
    "mass",
    "drift",
    "humidity",
    "spring_length",
    "relief",
    "nut_treble",
    "nut_bass",
    "action_treble",
    "action_bass",
    "action_fret",
    "within_relief",
    "spec",
    "line",
    "tool",
    "adjuster",
    "distance",
    "replace",
    "sure",
    "panel",
    "q",
    "page",
    "to",
    "note1",
    "gauge1",
    "bar_treble",
    "bar_bass",
    "claw_treble",
    "claw_bass",
    "nut_to_twelfth",
    "words",
    "heard",
];
const VALUES: &[&str] = &[
    "",
    "0",
    "1",
    "2",
    "3",
    "6",
    "12",
    "-1",
    "4.5",
    "6,4",
    "1/2",
    "3/64+",
    ".010",
    "1e308",
    "1e-308",
    "-0",
    "nan",
    "Nan",
    "INF",
    "99999999999999999999",
    "none",
    "clear",
    "yes",
    "treble",
    "bass",
    "harmonic",
    "up",
    "down",
    "tighten",
    "loosen",
    "+6 6.2",
    "6-8",
    "25-1/2",
    "E4",
    "D4",
    "standard",
    "light",
    "ready",
    "returned",
    "as it came",
    "0.010p 0.013p",
    "../../etc",
    "%00",
    "\u{0}",
    "<script>alert(1)</script>",
    "'; DROP TABLE entry; --",
    "\u{1d11e}\u{200f}",
    "thou",
    "mm",
    "1 mm",
    "0.1 in",
    "x",
];

/// A page to look at, of one of so many jobs, with a query of anything.
pub(crate) fn looked(chance: &mut Chance, jobs: u64) -> String {
    let path = if chance.next().is_multiple_of(3) {
        chance.of(PAGES).to_owned()
    } else {
        let job = 1 + chance.next() % (jobs + 1);
        format!("/jobs/{job}/{}", chance.of(STATIONS))
    };
    match chance.next() % 2 {
        0 => path,
        _ => format!("{path}?{}={}", chance.of(NAMES), encoded(chance.of(VALUES))),
    }
}

/// What a form sends: one of those there are, and some fields of any.
pub(crate) fn told(chance: &mut Chance, seen: &str) -> Vec<(String, String)> {
    let mut form = vec![
        ("what".to_owned(), chance.of(WHATS).to_owned()),
        ("station".to_owned(), chance.of(STATIONS).to_owned()),
        ("seen".to_owned(), seen.to_owned()),
    ];
    if chance.next().is_multiple_of(2) {
        form.push(("sure".to_owned(), "yes".to_owned()));
    }
    for _ in 0..chance.next() % 8 {
        form.push((chance.of(NAMES).to_owned(), chance.of(VALUES).to_owned()));
    }
    form
}

fn encoded(value: &str) -> String {
    value.bytes().map(|byte| format!("%{byte:02X}")).collect()
}
