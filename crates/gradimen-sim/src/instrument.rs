//! A whole instrument that answers like a real one: neck, nut, heights and saddles, coupled.
//!
//! Its hidden numbers are drawn away from the priors of the estimate: another response of the rod,
//! a neck that is no parabola, play and lag in rod and screws, other cores, another finger.
//! It works heights out by its own geometry and not by the levers the estimate uses.

mod pickups;
mod plate;

use gradimen_bench::estimate::Estimate;
use gradimen_bench::journal::Event;
use gradimen_bench::model::hardware::Lifts;
use gradimen_bench::model::{
    Adjuster, Amount, Measurement, Place, Reading, Reference, ReliefSpan, Side, StringSet, Tool,
};
use gradimen_core::intonation::{Heights, IntonationError};
use gradimen_core::neck::{FretTops, Span};
use gradimen_core::quantity::{Cents, Curvature, Length, Turns};

use crate::{Rng, Saddle, Tuner};
use pickups::HiddenPickup;
use plate::{HiddenPlate, pull_of};

/// The tuner the stand-in is read with.
pub const TUNER: Tuner = Tuner {
    step: Cents::new(0.1),
    scatter: Cents::new(0.6),
};

/// How a stand-in comes to the bench.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Defects {
    /// Relief by hold 1 and last, read 8: treble and bass, in millimetres.
    pub relief_mm: [f64; 2],
    /// Gap over fret 1, in millimetres.
    pub nut_mm: f64,
    /// Action over fret 12: treble and bass, in millimetres.
    pub action_mm: [f64; 2],
    /// How far each saddle stands off its right place, string 1 first, in millimetres.
    pub saddles_mm: [f64; 8],
}

impl Defects {
    /// As instruments come: a little wrong everywhere.
    pub fn usual(chance: &mut Rng, bass: bool) -> Self {
        let relief = chance.between(0.05, 0.55);
        let sides = chance.normal(0.03);
        let action = if bass {
            chance.between(1.8, 3.6)
        } else {
            chance.between(1.3, 2.8)
        };
        Self {
            relief_mm: [relief - sides.abs(), relief],
            nut_mm: chance.between(0.5, 0.8),
            action_mm: [action, action + chance.between(0.0, 0.6)],
            saddles_mm: std::array::from_fn(|_| chance.between(-3.0, 3.0)),
        }
    }
}

/// The instrument behind the readings.
#[derive(Debug, Clone)]
pub struct SimulatedInstrument {
    tops: Vec<FretTops>,
    scales: Vec<Length>,
    plain: Vec<f64>,
    /// Curvature of treble and bass side.
    bend: [f64; 2],
    /// What has yet to settle after a turn of the rod.
    pending: f64,
    /// Departure from the parabola.
    shape: f64,
    rod_mm_per_turn: f64,
    rod_play: f64,
    rod_way: f64,
    nut: Vec<f64>,
    crown: Vec<f64>,
    height_pitch: f64,
    height_response: Vec<f64>,
    height_play: f64,
    height_way: Vec<f64>,
    post_share: Vec<f64>,
    carried: Vec<Vec<u8>>,
    saddles: Vec<Saddle>,
    pickups: Vec<HiddenPickup>,
    pickup_give: f64,
    vibrato: Option<HiddenPlate>,
    tuner: Tuner,
    chance: Rng,
}

fn mm(value: f64) -> Length {
    Length::from_mm(value)
}

/// A length that was read.
fn length(place: Place, length: Measurement) -> Event {
    Event::read(place, Reading::Length { length })
}

/// A screw that was turned.
const fn turned(adjuster: Adjuster, turns: f64) -> Event {
    Event::Adjusted {
        adjuster,
        amount: Amount::Turns { turns },
    }
}

impl SimulatedInstrument {
    /// A stand-in for the instrument of a job, as odd as told.
    ///
    /// # Errors
    /// [`IntonationError`] when a string has no right place at all.
    ///
    /// # Panics
    /// When the job's record is no instrument; the fold has refused such records.
    pub fn hidden(known: &Estimate, defects: Defects, seed: u64) -> Result<Self, IntonationError> {
        let mut chance = Rng::new(seed);
        let instrument = known.instrument();
        let count = usize::from(instrument.strings);
        let scales: Vec<Length> = (1..=instrument.strings)
            .map(|string| instrument.scale(string))
            .collect();
        let tops: Vec<FretTops> = (1..=instrument.strings)
            .map(|string| known.geometry().tops(string).clone())
            .collect();
        let span = Span {
            low: 1,
            high: instrument.frets,
            at: 8,
        };
        let plain: Vec<f64> = tops
            .iter()
            .map(|tops| tops.relief(span).map_or(0.02, |relief| relief.slope()))
            .collect();
        let lifts = instrument.bridge.lifts();
        let screws = if lifts == Lifts::TwoPosts { 2 } else { count };
        let mut simulated = Self {
            bend: [
                defects.relief_mm[0] / plain[0],
                defects.relief_mm[1] / plain[count - 1],
            ],
            pending: 0.0,
            shape: chance.between(-0.25, 0.25),
            // 0.25 to 1.2 mm a turn: wider than one standard deviation of what is believed.
            rod_mm_per_turn: 0.55 * chance.between(-0.8, 0.8).exp(),
            rod_play: chance.between(0.0, 0.02),
            rod_way: 1.0,
            nut: vec![0.0; count],
            crown: vec![0.0; count],
            height_pitch: instrument.bridge.height.pitch.middle().mm(),
            height_response: (0..screws).map(|_| chance.between(0.93, 1.06)).collect(),
            height_play: chance.between(0.0, 0.03),
            height_way: vec![1.0; screws],
            post_share: (1..=instrument.strings)
                .map(|string| known.geometry().post_share(Side::Treble, string))
                .collect(),
            carried: instrument.bridge.saddles.clone(),
            saddles: Vec::new(),
            pickups: Vec::new(),
            pickup_give: chance.between(0.85, 1.02),
            vibrato: None,
            tuner: TUNER,
            scales,
            plain,
            tops,
            chance,
        };
        for index in 0..count {
            let share = index as f64 / (count - 1).max(1) as f64;
            let action = defects.action_mm[0] * (1.0 - share) + defects.action_mm[1] * share;
            simulated.lay_string(index, defects.nut_mm, action);
        }
        if lifts == Lifts::EachString {
            // Someone has been at the screws: no string lies quite where its neighbours say.
            for index in 0..count {
                simulated.crown[index] += simulated.chance.normal(0.15);
            }
        }
        for index in 0..count {
            let string = u8::try_from(index + 1).unwrap_or(1);
            let Some(state) = known.string_state(string) else {
                continue;
            };
            let off = mm(defects.saddles_mm[index]);
            let believed = state.speaking.with_heights(simulated.heights(index));
            let pitch = instrument.bridge.intonation.pitch.middle();
            let saddle = Saddle::hidden(&believed, &state.spec, pitch, off, &mut simulated.chance)?;
            simulated.saddles.push(saddle);
        }
        for strings in simulated.carried.clone() {
            let first = simulated.saddles[usize::from(strings[0] - 1)].setback();
            for string in &strings[1..] {
                simulated.saddles[usize::from(string - 1)].place(first);
            }
        }
        for pickup in &instrument.pickups {
            simulated.mount(pickup);
        }
        simulated.vibrato = instrument
            .bridge
            .vibrato
            .as_ref()
            .map(|record| HiddenPlate::new(record, pull_of(known), &mut simulated.chance));
        Ok(simulated)
    }

    /// The same, read with another tuner.
    pub fn read_with(self, tuner: Tuner) -> Self {
        Self { tuner, ..self }
    }

    /// Fret tops by the shape this neck really has.
    fn top(&self, index: usize, fret: u8) -> f64 {
        let tops = &self.tops[index];
        let share = index as f64 / (self.tops.len() - 1).max(1) as f64;
        let bend = self.bend[0] * (1.0 - share) + self.bend[1] * share;
        let flat = tops.top(fret, Curvature::ZERO).mm();
        let lift = tops.top(fret, Curvature::from_per_metre(1e-3)).mm() - flat;
        let along = (tops.joint() - tops.place(fret))
            .ratio(tops.joint())
            .max(0.0);
        flat + bend * lift * (1.0 + self.shape * (along - 0.6))
    }

    fn length(&self, index: usize) -> f64 {
        let setback = self
            .saddles
            .get(index)
            .map_or(Length::from_mm(3.0), Saddle::setback);
        (self.scales[index] + setback).mm()
    }

    /// Height over a fret of the string held at `held`, by similar triangles.
    fn over(&self, index: usize, held: u8, fret: u8) -> f64 {
        let tops = &self.tops[index];
        let x = |fret: u8| tops.place(fret).mm();
        let nut = self.top(index, 0) + self.nut[index];
        if held > fret {
            let end = self.top(index, held);
            return nut + (end - nut) * x(fret) / x(held) - self.top(index, fret);
        }
        let (from, start) = if held == 0 {
            (0.0, nut)
        } else {
            (x(held), self.top(index, held))
        };
        let slope = (self.crown[index] - start) / (self.length(index) - from);
        start + slope * (x(fret) - from) - self.top(index, fret)
    }

    fn lay_string(&mut self, index: usize, first: f64, twelfth: f64) {
        // Two small steps of the secant: nut and crown hardly depend on one another.
        for _ in 0..6 {
            self.nut[index] += first - self.over(index, 0, 1);
            self.crown[index] += 2.0 * (twelfth - self.over(index, 0, 12));
        }
    }

    fn heights(&self, index: usize) -> Heights {
        Heights::bounded(mm(self.over(index, 0, 1)), mm(self.over(index, 0, 12)))
    }

    fn relay(&mut self) {
        for index in 0..self.saddles.len() {
            let heights = self.heights(index);
            self.saddles[index].lay(heights);
        }
    }

    fn side(&self, side: Side) -> usize {
        match side {
            Side::Treble => 0,
            Side::Bass => self.tops.len() - 1,
        }
    }

    /// Relief as it really is.
    pub fn relief(&self, side: Side, span: ReliefSpan) -> Length {
        let index = self.side(side);
        let x = |fret: u8| self.tops[index].place(fret).mm();
        let (low, high) = (self.top(index, span.low), self.top(index, span.high));
        let share = (x(span.at) - x(span.low)) / (x(span.high) - x(span.low));
        mm(low + (high - low) * share - self.top(index, span.at))
    }

    /// Gap over fret 1 as it really is.
    pub fn first_fret(&self, string: u8, held: u8) -> Length {
        mm(self.over(usize::from(string - 1), held, 1))
    }

    /// Height over a fret as it really is.
    pub fn action(&self, string: u8, fret: u8) -> Length {
        mm(self.over(usize::from(string - 1), 0, fret))
    }

    /// How sharp fret 12 really is.
    ///
    /// # Errors
    /// [`IntonationError`] never, on a board with twelve frets.
    pub fn cents(&self, string: u8) -> Result<Cents, IntonationError> {
        self.saddles[usize::from(string - 1)].error(12)
    }

    /// Relief read with feelers: the last blade that passes and the first that drags.
    pub fn read_relief(&mut self, side: Side, span: ReliefSpan) -> Event {
        self.settle();
        let gap = self.relief(side, span).mm() + self.chance.normal(0.01);
        let seen = if gap < -0.03 {
            Reading::Rocks
        } else if gap < 0.03 {
            Reading::Touches
        } else {
            Reading::Length {
                length: blades(gap),
            }
        };
        Event::read(Place::Relief { side, span }, seen)
    }

    /// The gap over fret 1, read with feelers.
    pub fn read_nut(&mut self, string: u8, held: u8) -> Event {
        self.settle();
        let gap = self.first_fret(string, held).mm() + self.chance.normal(0.012);
        length(Place::Nut { string, held }, blades(gap.max(0.0)))
    }

    /// A height read with a rule to half a 64th.
    pub fn read_action(&mut self, string: u8, fret: u8) -> Event {
        self.settle();
        let height = self.action(string, fret).mm() + self.chance.normal(0.06);
        let place = Place::Action {
            string,
            fret,
            held: 0,
        };
        length(place, half_sixty_fourths(height))
    }

    /// A fretted twelfth against its harmonic.
    ///
    /// # Errors
    /// [`IntonationError`] never, on a board with twelve frets.
    pub fn read_cents(&mut self, string: u8) -> Result<Event, IntonationError> {
        self.settle();
        let saddle = &self.saddles[usize::from(string - 1)];
        let shown = saddle.read(
            12,
            Reference::Harmonic.computed(),
            self.tuner,
            &mut self.chance,
        )?;
        Ok(Event::read(
            Place::Intonation { string, fret: 12 },
            Reading::Note {
                cents: shown.value(),
                against: Reference::Harmonic,
                resolution_cents: None,
            },
        ))
    }

    /// A neck goes on moving a little after its rod was turned.
    fn settle(&mut self) {
        let share = 0.5;
        for bend in &mut self.bend {
            *bend += self.pending * share;
        }
        self.pending *= 1.0 - share;
        self.relay();
    }

    /// Turns the rod; positive tightens.
    pub fn turn_rod(&mut self, turns: f64) -> Event {
        let way = turns.signum();
        let lost = if way == self.rod_way {
            0.0
        } else {
            self.rod_play
        };
        self.rod_way = way;
        let moved = -way * (turns.abs() * self.rod_mm_per_turn - lost).max(0.0);
        let bend = moved / self.plain[self.plain.len() / 2];
        for side in &mut self.bend {
            *side += bend * 0.92;
        }
        self.pending += bend * 0.08;
        self.relay();
        turned(Adjuster::TrussRod, turns)
    }

    /// Files a slot by about so much.
    pub fn file(&mut self, string: u8, by: Length) -> Event {
        let off = by.mm() * (1.0 + self.chance.normal(0.15));
        self.nut[usize::from(string - 1)] -= off;
        self.relay();
        Event::Adjusted {
            adjuster: Adjuster::NutSlots {
                strings: StringSet::one(string),
            },
            amount: Amount::Distance {
                distance: Measurement::mm(-(by.mm() * 100.0).round() / 100.0),
            },
        }
    }

    /// Turns a height adjuster; positive raises.
    pub fn turn_height(&mut self, adjuster: Adjuster, turns: f64) -> Event {
        let screw = match adjuster {
            Adjuster::SaddleHeight { string } => usize::from(string - 1),
            Adjuster::Post { side: Side::Bass } => 1,
            _ => 0,
        };
        let way = turns.signum();
        let lost = if way == self.height_way[screw] {
            0.0
        } else {
            self.height_play
        };
        self.height_way[screw] = way;
        let moved = turns * self.height_pitch * self.height_response[screw] - lost * way;
        for index in 0..self.crown.len() {
            let share = match adjuster {
                Adjuster::SaddleHeight { string } => {
                    f64::from(u8::from(usize::from(string - 1) == index))
                }
                Adjuster::Post { side: Side::Bass } => 1.0 - self.post_share[index],
                _ => self.post_share[index],
            };
            self.crown[index] += moved * share;
        }
        self.relay();
        turned(adjuster, turns)
    }

    /// Turns the screw of the saddle that carries a string; positive is away from the neck.
    pub fn turn_saddle(&mut self, string: u8, turns: f64) -> Event {
        let carried = self
            .carried
            .iter()
            .find(|strings| strings.contains(&string));
        for on in carried.cloned().unwrap_or_default() {
            self.saddles[usize::from(on - 1)].turn(Turns::new(turns));
        }
        turned(Adjuster::SaddleDrive { string }, turns)
    }
}

/// What a rule shows, to half a 64th.
fn half_sixty_fourths(height_mm: f64) -> Measurement {
    let halves = (height_mm / (25.4 / 128.0)).round().max(0.0);
    let value = mm(halves * 25.4 / 128.0);
    let written = if halves % 2.0 == 0.0 {
        format!("{}/64", halves / 2.0)
    } else {
        format!("{:.1}/64", halves / 2.0)
    };
    Measurement::new(written, value, value).with_tool(Tool::Rule64)
}

/// Feelers in a set, in thousandths of an inch (common practice).
const BLADES: [f64; 27] = [
    1.5, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0, 9.0, 10.0, 11.0, 12.0, 13.0, 14.0, 15.0, 16.0, 17.0,
    18.0, 19.0, 20.0, 21.0, 22.0, 23.0, 24.0, 25.0, 28.0, 32.0,
];

/// Between the last blade that passes and the first that drags.
fn blades(gap_mm: f64) -> Measurement {
    let thou = gap_mm / 0.0254;
    let passes = BLADES
        .iter()
        .copied()
        .rfind(|blade| *blade <= thou)
        .unwrap_or(0.0);
    let drags = BLADES
        .iter()
        .copied()
        .find(|blade| *blade > thou)
        .unwrap_or(40.0);
    let text = format!("{passes}-{drags} thou");
    Measurement::new(text, Length::from_thou(passes), Length::from_thou(drags))
        .with_tool(Tool::Feeler)
}
