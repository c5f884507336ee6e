//! Checks of the core against published tables and general-purpose libraries. The tables under
//! `reference/` carry their source in the first line and are remade by the script of the same name.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use gradimen_core::fretboard::fret_position;
use gradimen_core::intonation::{Fingering, Heights, Speaking, first_order_move};
use gradimen_core::material::{WrapMetal, music_wire_shear, music_wire_strength, music_wire_young};
use gradimen_core::pitch::{ConcertPitch, Note, cents_between};
use gradimen_core::quantity::{
    BendingStiffness, Cents, Force, Frequency, Length, LinearDensity, Mass,
};
use gradimen_core::string::{Construction, StringSpec};
use gradimen_core::vibration::{End, StiffString};

/// Rows of a reference table as numbers (text columns as NaN), without comment and heading.
fn rows(table: &str) -> Vec<Vec<f64>> {
    table
        .lines()
        .filter(|line| !line.starts_with('#'))
        .skip(1)
        .map(|line| {
            line.split(',')
                .map(|cell| cell.parse().unwrap_or(f64::NAN))
                .collect()
        })
        .collect()
}

fn first_column(table: &str) -> Vec<&str> {
    table
        .lines()
        .filter(|line| !line.starts_with('#'))
        .skip(1)
        .filter_map(|line| line.split(',').next())
        .collect()
}

#[test]
fn notes_agree_with_music21() {
    let table = include_str!("reference/pitch.csv");
    let (names, rows) = (first_column(table), rows(table));
    assert_eq!(rows.len(), 66);
    for (name, row) in names.iter().zip(&rows) {
        let note: Note = name.parse().unwrap();
        assert_eq!(f64::from(note.midi()), row[1], "{name}");
        let ours = note.frequency(ConcertPitch::default());
        assert!(
            cents_between(Frequency::from_hertz(row[2]), ours)
                .value()
                .abs()
                < 1e-6,
            "{name}"
        );
    }
}

#[test]
fn notes_agree_with_the_published_frequencies() {
    // ISO 16: A4 = 440 Hz. Frequencies of the open strings as printed in acoustics handbooks
    // (Fletcher and Rossing, back cover table), two decimals.
    for (name, hertz) in [
        ("A4", 440.0),
        ("E4", 329.63),
        ("B3", 246.94),
        ("G3", 196.00),
        ("D3", 146.83),
        ("A2", 110.00),
        ("E2", 82.41),
        ("E1", 41.20),
        ("C4", 261.63),
    ] {
        let note: Note = name.parse().unwrap();
        let ours = note.frequency(ConcertPitch::default()).hertz();
        assert!((ours - hertz).abs() < 0.006, "{name}: {ours}");
    }
    // A4 of another orchestra moves all notes alike.
    let baroque = ConcertPitch::new(Frequency::from_hertz(415.0)).unwrap();
    let e: Note = "E4".parse().unwrap();
    let ratio = e
        .frequency(baroque)
        .ratio(e.frequency(ConcertPitch::default()));
    assert!((ratio - 415.0 / 440.0).abs() < 1e-12);
}

#[test]
fn music_wire_agrees_with_shigley() {
    // Shigley, example 10-1: 0.037 in music wire, S = 201 / 0.037^0.145 = 324 kpsi,
    // E = 29.0 and G = 11.85 Mpsi for 0.033-0.063 in (table 10-5).
    let wire = Length::from_inches(0.037);
    assert!((music_wire_strength(wire).kpsi() - 324.0).abs() < 0.5);
    assert!((music_wire_young(wire).kpsi() - 29_000.0).abs() < 1e-6);
    assert!((music_wire_shear(wire).kpsi() - 11_850.0).abs() < 1e-6);
    // The same constants in SI (table 10-4): 2211 MPa mm^0.145, for thin and thick wire.
    for (inches, young, shear) in [
        (0.010, 29_500.0, 12_000.0),
        (0.032, 29_500.0, 12_000.0),
        (0.063, 29_000.0, 11_850.0),
        (0.125, 28_500.0, 11_750.0),
        (0.130, 28_000.0, 11_600.0),
    ] {
        let wire = Length::from_inches(inches);
        let si = 2211.0 / wire.mm().powf(0.145);
        assert!(
            (music_wire_strength(wire).megapascals() / si - 1.0).abs() < 2e-3,
            "{inches}"
        );
        assert!(
            (music_wire_young(wire).kpsi() - young).abs() < 1e-6,
            "{inches}"
        );
        assert!(
            (music_wire_shear(wire).kpsi() - shear).abs() < 1e-6,
            "{inches}"
        );
    }
}

#[test]
fn wound_strings_weigh_what_the_helix_integral_says() {
    for row in rows(include_str!("reference/wound.csv")) {
        let metal = WrapMetal::ALL
            .into_iter()
            .filter(|metal| *metal != WrapMetal::NickelPlatedSteel || row[2] == 7850.0)
            .find(|metal| metal.density().kilograms_per_cubic_metre() == row[2])
            .unwrap();
        let string = StringSpec::new(Length::from_inches(row[0]), Construction::RoundWound(metal))
            .unwrap()
            .with_core(Length::from_inches(row[1]))
            .unwrap();
        let ours = string.unit_weight().grams_per_metre();
        assert!((ours / row[4] - 1.0).abs() < 1e-9, "{row:?}: {ours}");
    }
}

#[test]
fn stiff_strings_sound_as_the_beam_string_equation_says() {
    let table = include_str!("reference/stiff.csv");
    let kinds = first_column(table);
    let rows = rows(table);
    assert_eq!(rows.len(), 72);
    for (kind, row) in kinds.iter().zip(&rows) {
        let ends = match *kind {
            "hinged" => [End::Hinged; 2],
            "clamped" => [End::Clamped; 2],
            _ => [
                End::Tail(Length::from_metres(row[5])),
                End::Tail(Length::from_metres(row[6])),
            ],
        };
        let string = StiffString {
            length: Length::from_metres(row[4]),
            tension: Force::from_newtons(row[2]),
            unit_weight: LinearDensity::from_kilograms_per_metre(row[3]),
            stiffness: BendingStiffness::from_newton_square_metres(row[1]),
            ends,
        };
        let mode = row[7] as u8;
        let off = cents_between(Frequency::from_hertz(row[8]), string.partial(mode)).value();
        // Hinged ends are exact; ends with a boundary layer are good to the second order in
        // delta / l. Partials of a short string also set a long tail swinging, which the end leaves
        // out; the model uses no partial but the first of a short string and the second of a long.
        let short = row[4] < 0.6;
        let allowed = match (*kind, mode, short) {
            ("hinged", _, _) => 1e-4,
            (_, 1, _) | (_, 2, false) => 0.05,
            (_, 2, true) => 0.25,
            _ => 0.6,
        };
        assert!(off.abs() < allowed, "{kind} {row:?}: {off} cents");
    }
}

#[test]
fn fretted_notes_and_saddle_moves_agree_with_an_independent_model() {
    let rows = rows(include_str!("reference/forward.csv"));
    assert_eq!(rows.len(), 72);
    for row in rows {
        let (gauge, core) = (Length::from_inches(row[0]), Length::from_inches(row[1]));
        let string = if row[0] == row[1] {
            StringSpec::plain(gauge).unwrap()
        } else {
            StringSpec::new(
                gauge,
                Construction::RoundWound(WrapMetal::NickelPlatedSteel),
            )
            .unwrap()
            .with_core(core)
            .unwrap()
            .with_weighing(Mass::from_kilograms(row[2]), Length::from_metres(1.0))
            .unwrap()
        };
        let speaking = Speaking::new(
            &string,
            Frequency::from_hertz(row[3]),
            Length::from_metres(row[4]),
            Heights::new(Length::from_metres(row[5]), Length::from_metres(row[6])).unwrap(),
            Fingering {
                force: Force::from_newtons(row[7]),
                ..Fingering::default()
            },
        );
        let now = speaking.setback_for(12, Cents::new(row[8])).unwrap();
        assert!((now.metres() - row[9]).abs() < 2e-8, "{row:?}: {now:?}");
        let right = speaking.setback_for(12, Cents::ZERO).unwrap();
        assert!(
            (right.metres() - row[10]).abs() < 2e-8,
            "{row:?}: {right:?}"
        );
        for (fret, expected) in [(3, row[11]), (5, row[12]), (12, row[13]), (17, row[14])] {
            let error = speaking.error(fret, now).unwrap().value();
            assert!(
                (error - expected).abs() < 1e-4,
                "{row:?} fret {fret}: {error}"
            );
        }
    }
}

#[test]
fn the_first_order_move_is_the_derivative_of_the_length() {
    // d = c ln 2 / 1200 * L: 0.374 mm a cent at 648 mm, 0.499 at 864 (derivation).
    for (scale, per_cent) in [(648.0, 0.374), (864.0, 0.499)] {
        let step = first_order_move(Cents::new(1.0), Length::from_mm(scale));
        assert!((step.mm() - per_cent).abs() < 5e-4);
        // The same from the definition of the cent: shorten the half string by one cent.
        let half = scale / 2.0;
        let exact = 2.0 * half * (2f64.powf(1.0 / 1200.0) - 1.0);
        assert!((step.mm() - exact).abs() < 2e-4);
    }
    assert!((fret_position(Length::from_mm(648.0), 12).mm() - 324.0).abs() < 1e-9);
}

#[test]
fn the_plane_of_least_metal_agrees_with_scipy() {
    use gradimen_core::level::{Top, level};

    let rows = rows(include_str!("reference/level.csv"));
    let mut boards = 0;
    for board in rows.chunk_by(|one, other| one[0] == other[0]) {
        let tops: Vec<Top> = board
            .iter()
            .map(|row| Top {
                along: Length::from_mm(row[1]),
                across: Length::from_mm(row[2]),
                height: Length::from_mm(row[3]),
            })
            .collect();
        let plan = level(&tops).unwrap();
        let total: f64 = plan.taken.iter().map(|taken| taken.mm()).sum();
        assert!(
            (total - board[0][4]).abs() < 1e-5,
            "{total} {}",
            board[0][4]
        );
        // Nothing stands over the plane, and it rests on three tops at least.
        let (at_nut, along, across) = plan.plane;
        let over = |top: &Top| {
            top.height.mm() - at_nut.mm() - along * top.along.mm() - across * top.across.mm()
        };
        assert!(tops.iter().all(|top| over(top) > -1e-7));
        assert!(tops.iter().filter(|top| over(top) < 1e-6).count() >= 3);
        boards += 1;
    }
    assert_eq!(boards, 12);
}

#[test]
fn the_least_metal_to_play_is_what_scipy_finds() {
    use gradimen_core::action::StringLine;
    use gradimen_core::clearance::{Pluck, Swings, Tightest};
    use gradimen_core::fretboard::BoardRadius;
    use gradimen_core::level::play::{Played, least};
    use gradimen_core::neck::{Bend, Board, FretTops};

    let rows = rows(include_str!("reference/play.csv"));
    let mm = Length::from_mm;
    let mut boards = 0;
    for tops in rows.chunk_by(|one, other| one[0] == other[0]) {
        let &[_, scale, length, at, gap, action, pull, force, place, ..] = tops[0].as_slice()
        else {
            panic!("{:?}", tops[0]);
        };
        let flat = mm(1e7);
        let board = Board {
            frets: u8::try_from(tops.len()).unwrap(),
            radius: BoardRadius::new(flat, flat).unwrap(),
            spread_nut: mm(35.0),
            spread_bridge: mm(52.0),
            strings: 6,
            joint_fret: 16,
        };
        let even = FretTops::new(&board, mm(scale), 2).unwrap();
        let (first, twelfth) = (tops[0][9], tops[at as usize - 1][9]);
        // Two gaps, two heights: the open line rises by so much from fret to fret.
        let rise = (action - gap) / (twelfth - first);
        let line = StringLine {
            nut: mm(gap - rise * first),
            saddle: mm(gap + rise * (length - first)),
            length: mm(length),
            bend: Bend::default(),
        };
        let pluck = Pluck {
            force: Force::from_newtons(force),
            from_saddle: mm(place),
        };
        let swings = Swings::new(&even, mm(length), Force::from_newtons(pull), &pluck).unwrap();
        let rooms: Vec<Tightest> = swings.rooms(&line).collect();
        let places: Vec<Length> = (0..=board.frets).map(|fret| even.place(fret)).collect();
        let heights: Vec<Length> = tops.iter().map(|row| mm(row[10])).collect();
        let played = Played {
            places: &places,
            length: mm(length),
            action_fret: at as u8,
            rooms: &rooms,
        };
        let taken = least(&played, &heights).unwrap();
        let total: f64 = taken.iter().map(|taken| taken.mm()).sum();
        assert!(
            (total - tops[0][11]).abs() < 1e-4,
            "{total} {}",
            tops[0][11]
        );
        boards += 1;
    }
    assert_eq!(boards, 12);
}
