//! The form of an instrument's record.

pub(crate) mod construction;
pub(crate) mod pickups;
pub(crate) mod vibrato;

use crate::vocabulary::*;
use gradimen_core::quantity::Length;
use gradimen_core::units::LengthUnit;

use super::{Fields, lists};

/// Shows a record in its fields.
pub(crate) fn fill(fields: &mut Fields, instrument: &Instrument) {
    fields.set("stock_number", instrument.stock_number.clone());
    fields.set("name", instrument.name.clone());
    fields.set("kind", instrument.kind.key());
    fields.set("strings", instrument.strings.to_string());
    let scales: Vec<&str> = instrument
        .scales
        .iter()
        .map(|scale| scale.written.as_str())
        .collect();
    fields.set("scales", scales.join(", "));
    fields.set("frets", instrument.frets.to_string());
    fields.set("radius_nut", instrument.radius_nut.written.clone());
    let one_radius = instrument.radius_nut == instrument.radius_last_fret;
    fields.set(
        "radius_last",
        if one_radius {
            String::new()
        } else {
            instrument.radius_last_fret.written.clone()
        },
    );
    fields.set("spread_nut", instrument.spread_nut.written.clone());
    fields.set("spread_bridge", instrument.spread_bridge.written.clone());
    fields.tick("left_handed", instrument.left_handed);
    fields.tick("locking_nut", instrument.locking_nut);
    fields.set("note", instrument.note.clone());
    let neck = &instrument.neck;
    fields.set("joint_fret", neck.joint_fret.to_string());
    fields.set("rod", neck.rod.key());
    fields.set("rod_at", neck.rod_at.key());
    fields.tick("rod_reversed", neck.rod_reversed);
    fields.tick("bolted", neck.bolted);
    fields.set("pocket", neck.pocket.written.clone());
    pickups::fill(fields, &instrument.pickups);
    construction::fill(fields, &instrument.construction);
    fill_bridge(fields, &instrument.bridge);
}

/// Shows a bridge in its fields.
pub(crate) fn fill_bridge(fields: &mut Fields, bridge: &Bridge) {
    let screws = &bridge.intonation;
    fields.set("family", bridge.family.key());
    fields.set("saddle_pitch", screws.pitch.written.clone());
    fields.set(
        "clockwise",
        if screws.clockwise == SaddleWay::Away {
            "away"
        } else {
            "toward"
        },
    );
    fields.set(
        "head",
        if screws.head == HeadAt::Tail {
            "tail"
        } else {
            "pickups"
        },
    );
    fields.set("nearest", screws.nearest.written.clone());
    fields.set("furthest", screws.furthest.written.clone());
    let gain = gradimen_core::units::print::length(screws.turn_round, LengthUnit::Millimetre);
    fields.set("turn_round", gain);
    fields.set("height_pitch", bridge.height.pitch.written.clone());
    fields.set("raises", turn_of(&bridge.height));
    fields.set("height_travel", bridge.height.travel.written.clone());
    fill_other(fields, bridge);
    fields.set("behind_saddle", bridge.behind_saddle.written.clone());
    vibrato::fill(fields, bridge);
    construction::fill_details(fields, &bridge.details);
    fields.set("saddles", lists::groups_in_words(&bridge.saddles));
}

/// Shows the other height screws of a bridge that has both sorts; what they usually are where it has not.
fn fill_other(fields: &mut Fields, bridge: &Bridge) {
    let other = if bridge.family.stands_on_posts() {
        bridge.saddle_screws()
    } else {
        bridge.posts()
    };
    fields.set("other_pitch", other.pitch.written.clone());
    fields.set("other_raises", turn_of(&other));
    fields.set("other_travel", other.travel.written.clone());
}

const fn turn_of(screws: &HeightScrews) -> &'static str {
    if screws.clockwise_raises {
        "clockwise"
    } else {
        "counterclockwise"
    }
}

/// What a record is found again by, and what a person alone can say: never filled in.
const OWN: [&str; 6] = [
    "stock_number",
    "name",
    "note",
    "kind",
    "strings",
    "left_handed",
];

/// What the choices of a form have been filled in for is sent along under these names.
const CHOICES: [(&str, &str); 3] = [
    ("kind", "typical_kind"),
    ("strings", "typical_strings"),
    ("family", "typical_family"),
];

/// The typical record of a kind, a number of strings and a bridge.
fn typical(kind: Kind, strings: u8, family: Option<BridgeFamily>) -> Instrument {
    let mut usual = usual_instrument(kind, strings);
    if let Some(family) = family {
        if family != usual.bridge.family {
            usual.bridge = Bridge::profile(family, strings);
        }
        usual.locking_nut = family == BridgeFamily::DoubleLocking;
    }
    usual
}

/// The typical record of the choices that stand in a form.
pub(crate) fn typical_of(fields: &Fields) -> Instrument {
    typical_by(fields, |(name, _)| name)
}

fn typical_by(
    fields: &Fields,
    name: impl Fn((&'static str, &'static str)) -> &'static str,
) -> Instrument {
    let [kind, strings, family] = CHOICES.map(name);
    let count = fields.text(strings).parse().ok();
    typical(
        Kind::from_key(fields.text(kind)).unwrap_or(Kind::Guitar),
        count
            .filter(|count| limits::STRINGS.contains(count))
            .unwrap_or(6),
        BridgeFamily::from_key(fields.text(family)),
    )
}

/// Marks what stands in the form as worked out for its choices as they stand.
pub(crate) fn settle(fields: &mut Fields) {
    for (now, worked_out) in CHOICES {
        let text = fields.text(now).to_owned();
        fields.set(worked_out, text);
    }
}

/// Follows the choices: what stands as it was typical before, or was left blank, becomes typical for them. What was typed
/// stays.
pub(crate) fn follow(fields: &mut Fields) {
    let mut before = Fields::default();
    fill(
        &mut before,
        &typical_by(fields, |(_, worked_out)| worked_out),
    );
    // A bridge that was not chosen goes with the kind.
    let usual = |kind| usual_instrument(kind, 6).bridge.family.key();
    let was = Kind::from_key(before.text("kind")).unwrap_or(Kind::Guitar);
    let now = typical_of(fields).kind;
    if now != was && fields.text("family") == usual(was) {
        fields.set("family", usual(now));
    }
    let mut after = Fields::default();
    fill(&mut after, &typical_of(fields));
    let names = before
        .all()
        .chain(after.all())
        .map(|(name, _)| name.clone());
    let names: std::collections::BTreeSet<String> = names.collect();
    for name in names
        .iter()
        .filter(|name| !OWN.contains(&name.as_str()) && *name != "family")
    {
        let tick = |of: &Fields| of.text(name) == "on";
        let stood = if tick(&before) || tick(&after) {
            fields.has(name) == before.has(name)
        } else {
            // An emptied row is a pickup left out, anything else blank is not known.
            let unknown = fields.text(name).is_empty() && !name.starts_with("pickup");
            unknown || fields.text(name) == before.text(name)
        };
        match after.value(name) {
            _ if !stood => {}
            Some(value) => fields.set(name, value),
            None => fields.remove(name),
        }
    }
    settle(fields);
}

/// Reads a record; what is wrong is marked in its field.
pub(crate) fn read(fields: &mut Fields) -> Option<Instrument> {
    let kind = Kind::from_key(fields.text("kind")).ok_or("choose guitar, baritone or bass");
    let kind = fields.keep("kind", kind);
    let strings = fields.number(
        "strings",
        "a number of strings",
        *limits::STRINGS.start(),
        *limits::STRINGS.end(),
    );
    let frets = fields.number("frets", "a number of frets", 12, 36);
    let scales = read_scales(fields);
    let radius_nut = fields.exact("radius_nut", &limits::RADIUS);
    let radius_last_fret = if fields.text("radius_last").is_empty() {
        radius_nut.clone()
    } else {
        fields.exact("radius_last", &limits::RADIUS)
    };
    let spread_nut = fields.exact("spread_nut", &limits::SPREAD);
    let spread_bridge = fields.exact("spread_bridge", &limits::SPREAD);
    let bridge = read_bridge(fields);
    let neck = read_neck(fields);
    let construction = construction::read(fields);
    let pickups = pickups::read(fields);
    if fields.text("stock_number").is_empty() && fields.text("name").is_empty() {
        fields.wrong(
            "name",
            "an instrument needs a stock number or a name, to be found again",
        );
    }
    let instrument = Instrument {
        stock_number: fields.text("stock_number").to_owned(),
        name: fields.text("name").to_owned(),
        kind: kind?,
        strings: strings?,
        scales: scales?,
        frets: frets?,
        radius_nut: radius_nut?,
        radius_last_fret: radius_last_fret?,
        spread_nut: spread_nut?,
        spread_bridge: spread_bridge?,
        left_handed: fields.ticked("left_handed"),
        locking_nut: fields.ticked("locking_nut"),
        neck: neck?,
        pickups: pickups?,
        bridge: bridge?,
        construction: construction?,
        note: fields.text("note").to_owned(),
    };
    if let Err(error) = instrument.validate() {
        let field = match &error {
            InstrumentError::Scales { .. } | InstrumentError::Board(_) => "scales",
            InstrumentError::Saddles(_) => "saddles",
            InstrumentError::Travel(..) => "furthest",
            InstrumentError::Thread(_) => "saddle_pitch",
            InstrumentError::Joint { .. } => "joint_fret",
            InstrumentError::Pickup(_) => "pickup1_place",
            InstrumentError::Limit(limit) => match limit.field.as_str() {
                "saddles" => "saddles",
                "courses" => "courses",
                "offsets of the nut" => "nut_offsets",
                "height screws" => "posts_and_saddle_screws",
                _ => "name",
            },
            InstrumentError::Nameless => "name",
        };
        fields.wrong(field, &error);
    }
    fields.is_right().then_some(instrument)
}

/// One scale, two for a fan (`25.5-27`, string 1 first), or one per string.
fn read_scales(fields: &mut Fields) -> Option<Vec<Measurement>> {
    let text = fields.text("scales").to_owned();
    let parts = lists::values(&text);
    if let [fan] = &parts[..]
        && let Some((first, last)) = fan.split_once(['-', '\u{2013}'])
        && fan.contains(|letter: char| letter.is_ascii_digit())
    {
        return read_fan(fields, first.trim(), last.trim());
    }
    let mut scales = Vec::new();
    let none = parts.is_empty().then(String::new);
    for part in parts.iter().chain(&none) {
        let read = limits::SCALE.parse_exact(part);
        scales.push(Measurement::from(&fields.keep("scales", read)?));
    }
    Some(scales)
}

/// A fan: the scale of string 1 and of the last.
fn read_fan(fields: &mut Fields, first: &str, last: &str) -> Option<Vec<Measurement>> {
    let unit = last.trim_start_matches(|letter: char| !letter.is_alphabetic() && letter != '"');
    let bare = first
        .chars()
        .all(|letter| !letter.is_alphabetic() && letter != '"');
    let first = if bare {
        format!("{first} {unit}")
    } else {
        first.to_owned()
    };
    let ends = [first.trim(), last].map(|text| limits::SCALE.parse_exact(text));
    let [first, last] = ends.map(|read| fields.keep("scales", read));
    let (first, last) = (Measurement::from(&first?), Measurement::from(&last?));
    let strings = fields.text("strings").parse().unwrap_or(6);
    Some(Instrument::fan(&first, &last, strings))
}

fn read_neck(fields: &mut Fields) -> Option<NeckRecord> {
    let joint_fret = fields.number("joint_fret", "the fret where the body begins", 10, 35);
    let rod = Rod::all()
        .find(|rod| rod.key() == fields.text("rod"))
        .ok_or("choose what the rod can do");
    let rod = fields.keep("rod", rod);
    let rod_at = RodAt::all()
        .find(|at| at.key() == fields.text("rod_at"))
        .ok_or("choose where the key goes in");
    let rod_at = fields.keep("rod_at", rod_at);
    let pocket = fields.exact("pocket", &limits::POCKET);
    Some(NeckRecord {
        joint_fret: joint_fret?,
        rod: rod?,
        rod_at: rod_at?,
        rod_reversed: fields.ticked("rod_reversed"),
        bolted: fields.ticked("bolted"),
        pocket: pocket?,
    })
}

fn read_bridge(fields: &mut Fields) -> Option<Bridge> {
    let family = BridgeFamily::from_key(fields.text("family")).ok_or("choose a family of bridges");
    let family = fields.keep("family", family);
    let pitch = fields.thread("saddle_pitch");
    let nearest = fields.exact("nearest", &limits::TRAVEL_END);
    let furthest = fields.exact("furthest", &limits::TRAVEL_END);
    let turn_round = fields.exact("turn_round", &limits::TURN_ROUND);
    let height_pitch = fields.thread("height_pitch");
    let height_travel = fields.exact("height_travel", &limits::HEIGHT_TRAVEL);
    let behind_saddle = fields.exact("behind_saddle", &limits::BEHIND_SADDLE);
    let saddles = fields.string_groups("saddles", "the strings on each saddle: 1-2 3-4 5-6");
    let details = construction::read_details(fields);
    let vibrato = vibrato::read(fields, family);
    let other_height = match &details {
        Some(details) if details.posts_and_saddle_screws => read_other(fields).map(Some),
        _ => Some(None),
    };
    let away = fields.text("clockwise") != "toward";
    let tail = fields.text("head") != "pickups";
    Some(Bridge {
        family: family?,
        intonation: IntonationScrews {
            pitch: pitch?,
            clockwise: if away {
                SaddleWay::Away
            } else {
                SaddleWay::Toward
            },
            head: if tail { HeadAt::Tail } else { HeadAt::Pickups },
            nearest: nearest?,
            furthest: furthest?,
            turn_round: turn_round.map_or(Length::ZERO, |gain| gain.middle()),
        },
        height: HeightScrews {
            pitch: height_pitch?,
            clockwise_raises: fields.text("raises") != "counterclockwise",
            direction_checked: true,
            travel: height_travel?,
        },
        saddles: saddles?,
        behind_saddle: behind_saddle?,
        vibrato: vibrato?,
        details: details?,
        other_height: other_height?,
    })
}

/// The other height screws of a bridge that has both sorts.
fn read_other(fields: &mut Fields) -> Option<HeightScrews> {
    let pitch = fields.thread("other_pitch");
    let travel = fields.exact("other_travel", &limits::HEIGHT_TRAVEL);
    Some(HeightScrews {
        pitch: pitch?,
        clockwise_raises: fields.text("other_raises") != "counterclockwise",
        direction_checked: true,
        travel: travel?,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn filled(instrument: &Instrument) -> Fields {
        let mut fields = Fields::default();
        fill(&mut fields, instrument);
        fields
    }

    #[test]
    fn a_record_reads_back_from_its_form() {
        for kind in Kind::all() {
            for family in BridgeFamily::all() {
                let instrument = Instrument {
                    name: "Wren".into(),
                    left_handed: true,
                    bridge: Bridge::profile(family, 6),
                    ..usual_instrument(kind, 6)
                };
                let mut fields = filled(&instrument);
                assert_eq!(read(&mut fields), Some(instrument), "{fields:?}");
            }
        }
    }

    #[test]
    fn units_of_the_trade_and_one_scale_per_string() {
        let mut fields = filled(&Instrument {
            name: "Wren".into(),
            ..usual_instrument(Kind::Bass, 4)
        });
        fields.set("scales", "34; 34.5; 35 in; 902 mm");
        fields.set("radius_nut", "10");
        fields.set("radius_last", "16\"");
        fields.set("saddles", "1 2|3,4");
        let read = read(&mut fields).unwrap();
        assert!(read.is_multi_scale() && (read.scale(4).mm() - 902.0).abs() < 1e-9);
        assert!((read.radius_last_fret.middle().inches() - 16.0).abs() < 1e-9);
        assert_eq!(read.bridge.saddles, [vec![1, 2], vec![3, 4]]);
    }

    #[test]
    fn nonsense_is_marked_where_it_stands() {
        for (field, text) in [
            ("scales", "6.48 mm"),
            ("scales", "25.5; 26"),
            ("strings", "13"),
            ("frets", "many"),
            ("saddles", "1-2 3-x"),
            ("saddles", "1-3"),
            ("saddles", ""),
            ("saddles", "1-3 4-6-"),
            ("courses", "1-2-"),
            ("courses", "1 9"),
            ("nut_offsets", "0.5 mm; 0.8 mm"),
            ("fall_away", "9 mm"),
            ("saddle_pitch", "5 mm"),
            ("furthest", "-4 mm"),
            ("joint_fret", "40"),
            ("pocket", "3 m"),
            ("rod", "bent"),
            ("saddle_pitch", "9-99"),
            ("pickup1_place", "400 mm"),
            ("name", ""),
        ] {
            let mut fields = filled(&Instrument {
                name: "Wren".into(),
                ..usual_instrument(Kind::Guitar, 6)
            });
            fields.set(field, text);
            assert_eq!(read(&mut fields), None, "{field} {text}");
            assert!(!fields.field(field).error.is_empty(), "{field} {text}");
            assert_eq!(fields.field(field).value, text);
        }
    }

    #[test]
    fn another_family_brings_its_own_numbers() {
        let mut fields = filled(&Instrument {
            name: "Wren".into(),
            ..usual_instrument(Kind::Guitar, 6)
        });
        settle(&mut fields);
        fields.set("family", "three_barrel");
        follow(&mut fields);
        assert_eq!(fields.text("saddles"), "1-2 3-4 5-6");
        fields.set("kind", "bass");
        fields.set("strings", "5");
        follow(&mut fields);
        assert_eq!(
            (fields.text("scales"), fields.text("name")),
            ("34 in", "Wren")
        );
        // The bridge was chosen, and stays.
        assert_eq!(fields.text("family"), "three_barrel");
    }

    #[test]
    fn a_choice_never_overwrites_what_was_typed_and_a_blank_is_typical() {
        let mut fields = filled(&usual_instrument(Kind::Guitar, 6));
        settle(&mut fields);
        for (field, text) in [
            ("name", "Wren"),
            ("frets", "24"),
            ("saddle_pitch", "0.7"),
            ("radius_nut", ""),
            ("kind", "bass"),
            ("strings", "5"),
        ] {
            fields.set(field, text);
        }
        fields.tick("bolted", false);
        follow(&mut fields);
        let read = read(&mut fields).unwrap();
        assert_eq!((read.kind, read.strings, read.frets), (Kind::Bass, 5, 24));
        assert!((read.bridge.intonation.pitch.middle().mm() - 0.7).abs() < 1e-9);
        assert_eq!(read.radius_nut, usual_instrument(Kind::Bass, 5).radius_nut);
        assert_eq!(read.bridge.family, BridgeFamily::BentPlateBass);
        assert!(!read.neck.bolted && read.scales[0].middle().inches() > 33.9);
        // A vibrato brings its sheet, and takes it away again.
        fields.set("family", "knife_edge_vibrato");
        follow(&mut fields);
        assert!(!fields.text("springs").is_empty());
        fields.set("family", "fixed_plate");
        follow(&mut fields);
        assert!(fields.text("springs").is_empty(), "{fields:?}");
        assert_eq!(fields.text("saddle_pitch"), "0.7");
    }

    #[test]
    fn two_scales_are_a_fan() {
        for (text, first, last) in [
            ("25.5-27", 25.5, 27.0),
            ("25.5 - 27 in", 25.5, 27.0),
            ("648-686 mm", 25.512, 27.008),
            ("34\"-37\"", 34.0, 37.0),
        ] {
            let mut fields = filled(&Instrument {
                name: "Wren".into(),
                ..usual_instrument(Kind::Guitar, 7)
            });
            fields.set("scales", text);
            let read = read(&mut fields).unwrap_or_else(|| panic!("{text}: {fields:?}"));
            let inches = |string| read.scale(string).inches();
            assert!(
                (inches(1) - first).abs() < 2e-3 && (inches(7) - last).abs() < 2e-3,
                "{text}"
            );
            // A board is straight from the nut to the bridge: even steps.
            assert!((inches(4) - (first + last) / 2.0).abs() < 2e-3, "{text}");
            assert!(read.is_multi_scale());
        }
        let mut fields = filled(&usual_instrument(Kind::Guitar, 6));
        fields.set("scales", "25.5-x");
        assert_eq!(read(&mut fields), None);
        assert!(!fields.field("scales").error.is_empty());
    }
}
