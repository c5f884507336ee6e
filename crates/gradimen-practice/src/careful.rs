//! Careful trial and error: a hand that knows its targets and its instrument's threads, reads after every turn and goes round again
//! until nothing needs one more; with no plan, and no estimate.

mod saddles;

use std::collections::BTreeSet;

use gradimen_bench::decision::Quantity;
use gradimen_bench::estimate::Estimate;
use gradimen_bench::journal::Event;
use gradimen_bench::model::hardware::{Lifts, SaddleDrive};
use gradimen_bench::model::{
    Adjuster, Amount, End, Fretwork, Measurement, Note, Observation, Place, Practised, Reading,
    Side, StringSet,
};
use gradimen_bench::plan::Plan;
use gradimen_bench::stations::pickups::PickupSide;

use crate::hands::{Hands, fretwork, played_clean, rocked};

/// Rounds after which it is called good, and turns of one screw in one go.
const ROUNDS: usize = 5;
const TRIES: usize = 8;
/// Finest turns of a rod and of screws.
const EIGHTH: f64 = 0.125;
/// One pass of a nut file, in millimetres.
const PASS: f64 = 0.06;

/// A target: where, what, and how far it may be off.
#[derive(Clone, Copy)]
struct Target {
    place: Place,
    wanted: f64,
    allowed: (f64, f64),
}

struct Sheet {
    relief: Vec<Target>,
    nut: Vec<Target>,
    action: Vec<Target>,
    gap: Option<Target>,
    cents: f64,
    saddles: Vec<Vec<u8>>,
    /// What a millimetre of a saddle's way is in cents, where all saddles stand on one bar.
    bar: Option<f64>,
    /// Each pickup's screws: which, what is wanted of its side, and the pitch.
    pickups: Vec<(Adjuster, Target, f64)>,
    posts: bool,
    pitch: f64,
}

/// Works on an instrument until a whole round needs no move.
pub(crate) fn work(opening: &[Event]) -> Option<Hands> {
    let mut hands = Hands::at(opening)?;
    let sheet = sheet(&hands)?;
    frets(&mut hands)?;
    for round in 0..ROUNDS {
        let before = hands.moves();
        relief(&mut hands, &sheet);
        if round == 0 {
            nut(&mut hands, &sheet);
        }
        gap(&mut hands, &sheet);
        heights(&mut hands, &sheet);
        saddles::set(&mut hands, &sheet);
        pickups(&mut hands, &sheet);
        if hands.moves() == before {
            break;
        }
    }
    Some(hands)
}

fn target(quantity: &Quantity) -> Target {
    Target {
        place: quantity.place,
        wanted: quantity.target.mm(),
        allowed: (quantity.allowed.0.mm(), quantity.allowed.1.mm()),
    }
}

fn sheet(hands: &Hands) -> Option<Sheet> {
    let known = hands.known()?;
    let plan = Plan::of(&known);
    let of = target;
    let bridge = &known.instrument().bridge;
    Some(Sheet {
        relief: plan.relief.sides.iter().map(of).collect(),
        nut: plan
            .nut
            .strings
            .iter()
            .map(|slot| of(&slot.quantity))
            .collect(),
        action: plan
            .action
            .strings
            .iter()
            .map(|string| of(&string.quantity))
            .collect(),
        gap: plan.balance.as_ref().map(|balance| Target {
            place: Place::Gap,
            wanted: balance.target.mm(),
            allowed: (balance.tolerance.mm(), balance.tolerance.mm()),
        }),
        cents: plan.intonation.threshold.value(),
        saddles: bridge.saddles.clone(),
        bar: (bridge.details.drive == SaddleDrive::Bar)
            .then(|| 1200.0 / std::f64::consts::LN_2 / known.instrument().scale(1).mm()),
        pickups: pickups_of(&known, &plan),
        posts: bridge.lifts() == Lifts::TwoPosts,
        pitch: bridge.height.pitch.middle().mm(),
    })
}

fn pickups_of(known: &Estimate, plan: &Plan) -> Vec<(Adjuster, Target, f64)> {
    let side = |(pickup, side): (u8, &PickupSide)| {
        let record = known.instrument().pickups.get(usize::from(pickup))?;
        let adjuster = Adjuster::PickupScrew {
            pickup,
            side: side.side,
        };
        Some((adjuster, target(&side.quantity), record.pitch.middle().mm()))
    };
    (0..)
        .zip(&plan.pickups.pickups)
        .flat_map(|(at, pickup)| pickup.sides.iter().map(move |side| (at, side)))
        .filter_map(side)
        .collect()
}

/// Side by side by the thread, and read again: what one screw does to the other side comes out in the next round.
fn pickups(hands: &mut Hands, sheet: &Sheet) {
    for (adjuster, side, pitch) in &sheet.pickups {
        for _ in 0..TRIES {
            // Too far off comes nearer.
            let Some(off) = side.off(hands) else { break };
            let turned = hands.turn(*adjuster, &eighths(off / pitch));
            if turned.is_none_or(|told| stopped(&told)) {
                break;
            }
        }
    }
}

/// What was read, in millimetres: nothing fits is nothing.
fn read(hands: &mut Hands, place: Place) -> Option<f64> {
    match hands.read(place)? {
        Event::Read { value, .. } => match value {
            Reading::Length { length } => Some(length.middle().mm()),
            Reading::Touches | Reading::Flat => Some(0.0),
            Reading::Rocks => Some(-0.1),
            Reading::Note { cents, .. } => Some(cents),
            _ => None,
        },
        _ => None,
    }
}

impl Target {
    /// How far off it reads, where that is more than it may be.
    fn off(&self, hands: &mut Hands) -> Option<f64> {
        let off = read(hands, self.place)? - self.wanted;
        (off < -self.allowed.0 || off > self.allowed.1).then_some(off)
    }
}

/// In eighths, and at least one.
fn eighths(turns: f64) -> Amount {
    let rounded = (turns / EIGHTH).round() * EIGHTH;
    let turns = if rounded == 0.0 {
        EIGHTH.copysign(turns)
    } else {
        rounded
    };
    Amount::Turns { turns }
}

fn stopped(happened: &[Event]) -> bool {
    let ended = |event: &Event| matches!(event, Event::Ended { how, .. } if *how != End::Free);
    happened.iter().any(ended)
}

/// A quarter while it is far, an eighth when it is near, a minute after each.
fn relief(hands: &mut Hands, sheet: &Sheet) {
    for _ in 0..TRIES {
        let offs: Vec<f64> = sheet
            .relief
            .iter()
            .filter_map(|side| Some(read(hands, side.place)? - side.wanted))
            .collect();
        let mean = offs.iter().sum::<f64>() / offs.len().max(1) as f64;
        let Some(side) = sheet.relief.first() else {
            return;
        };
        if mean > -side.allowed.0 && mean < side.allowed.1 {
            return;
        }
        let turns = if mean.abs() > 0.15 { 0.25 } else { EIGHTH };
        let turned = hands.turn(Adjuster::TrussRod, &eighths(turns.copysign(mean)));
        let Some(happened) = turned else { return };
        if stopped(&happened) {
            return;
        }
        hands.tell(vec![Event::Observed {
            what: Observation::Practised {
                what: Practised::Waited { minutes: 1.0 },
            },
        }]);
    }
}

/// Pass by pass, and never deeper than it reads.
fn nut(hands: &mut Hands, sheet: &Sheet) {
    for slot in &sheet.nut {
        for _ in 0..TRIES {
            let Some(off) = slot.off(hands).filter(|off| *off > 0.0) else {
                break;
            };
            let Some(string) = slot.place.string() else {
                break;
            };
            let amount = Amount::Distance {
                distance: Measurement::mm(-off.min(PASS)),
            };
            let strings = StringSet::one(string);
            if hands
                .turn(Adjuster::NutSlots { strings }, &amount)
                .is_none()
            {
                break;
            }
        }
    }
}

/// Half a turn while it is far, a quarter when it is near.
fn gap(hands: &mut Hands, sheet: &Sheet) {
    let Some(gap) = sheet.gap else { return };
    for _ in 0..TRIES {
        let Some(off) = gap.off(hands) else { return };
        let turns = if off.abs() > 0.8 { 0.5 } else { 0.25 };
        // Further in pulls the plate down.
        let claw = hands.turn(Adjuster::Claw, &eighths(f64::copysign(turns, off)));
        if claw.is_none() {
            let distance = Measurement::mm(-0.5_f64.copysign(off));
            if hands
                .turn(Adjuster::Seat, &Amount::Distance { distance })
                .is_none()
            {
                return;
            }
        }
    }
}

/// By the thread, a little short, and read again.
fn heights(hands: &mut Hands, sheet: &Sheet) {
    let ends = [
        (sheet.action.first(), Side::Treble),
        (sheet.action.last(), Side::Bass),
    ];
    if sheet.posts {
        for (target, side) in ends {
            raise(hands, target, Adjuster::Post { side }, sheet.pitch);
        }
        return;
    }
    for target in &sheet.action {
        if let Some(string) = target.place.string() {
            raise(
                hands,
                Some(target),
                Adjuster::SaddleHeight { string },
                sheet.pitch,
            );
        }
    }
}

fn raise(hands: &mut Hands, target: Option<&Target>, adjuster: Adjuster, pitch: f64) {
    let Some(target) = target else { return };
    for _ in 0..TRIES {
        let Some(off) = target.off(hands) else { return };
        // The height over the twelfth is half of what the saddle rises.
        let turns = -1.8 * off / pitch;
        if hands
            .turn(adjuster, &eighths(turns))
            .is_none_or(|told| stopped(&told))
        {
            return;
        }
    }
}

/// A rocker over every fret under every other string where something buzzed; a stick before the file.
fn frets(hands: &mut Hands) -> Option<()> {
    let known = hands.known()?;
    if known.play_test().next().is_none() {
        return Some(());
    }
    let frets = known.instrument().frets;
    let mut high = BTreeSet::new();
    for string in (1..=hands.bench.strings()).step_by(2) {
        for fret in 2..frets {
            let read = hands.read(Place::Rock { string, fret });
            if read.as_ref().is_some_and(rocked) {
                high.insert((fret, string));
            }
        }
    }
    let mut done = BTreeSet::new();
    for (fret, string) in high {
        if !done.insert(fret) {
            continue;
        }
        let moves = hands.bench.gives(fret);
        let note = Note { string, fret };
        hands.tell(vec![Event::Observed {
            what: Observation::Pressed { note, moves },
        }]);
        let work = if moves {
            Fretwork::Seated
        } else {
            Fretwork::Spot
        };
        hands.tell(vec![fretwork(work, Some(fret))]);
        if played_clean(hands)? {
            break;
        }
    }
    Some(())
}
