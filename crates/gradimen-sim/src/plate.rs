//! A plate on a knife edge, or a tail on its pivot, by virtual work: it rests where no small turn wins anything.
//!
//! Every spring is one of its own, and pulls or presses along its line between two hooks; every string pulls toward the
//! nut from its crown, along the line it takes. Where the body stops the plate, it stops.

use gradimen_bench::model::hardware::{VibratoKind, VibratoRecord};

use crate::Rng;

/// One spring between two hooks, all places from the edge: behind it and above it.
#[derive(Debug, Clone)]
struct Coil {
    hook: (f64, f64),
    seat: (f64, f64),
    /// How far aside of the hook its seat is, and would be if it converged.
    aside: f64,
    converges: f64,
    free: f64,
    rate: f64,
    preload: f64,
    pressed: bool,
}

impl Coil {
    fn length(&self, angle: f64, further: (f64, f64)) -> f64 {
        let (x, z) = turned(self.hook, angle);
        let (dx, dz) = (self.seat.0 + further.0 - x, self.seat.1 + further.1 - z);
        (dx * dx + dz * dz + self.aside * self.aside).sqrt()
    }

    /// What it has taken up, up to a constant, in newton millimetres.
    fn energy(&self, angle: f64, further: (f64, f64)) -> f64 {
        let length = self.length(angle, further);
        if self.pressed {
            let short = (self.free - length).max(0.0);
            0.5 * self.rate * short * short
        } else {
            let long = (length - self.free).max(0.0);
            self.preload * long + 0.5 * self.rate * long * long
        }
    }
}

fn turned((back, up): (f64, f64), angle: f64) -> (f64, f64) {
    let (sin, cos) = angle.sin_cos();
    (back * cos - up * sin, back * sin + up * cos)
}

/// How a string hangs on a plate: its crown while the plate is level, and where it comes from.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Hung {
    pub(crate) crown: (f64, f64),
    pub(crate) nut: (f64, f64),
    pub(crate) pull: f64,
}

/// What balances the strings.
#[derive(Debug, Clone)]
pub(crate) struct Plate {
    pub(crate) kind: VibratoKind,
    coils: Vec<Coil>,
    spare: Vec<Coil>,
    tail: f64,
    level_gap: f64,
    /// How far claw or seat stands from where it was found.
    further: f64,
    /// How far its treble end stands further out than its bass end.
    askew: f64,
    turn: f64,
    play: f64,
    slack: f64,
    pub(crate) angle: f64,
}

/// From the claw to its wall, as it was found.
const WALL: f64 = 16.0;
/// Beyond these it does not turn.
const ENDS: (f64, f64) = (-0.35, 0.35);

impl Plate {
    /// As the sheet of its record was measured, and as it really is.
    pub(crate) fn hidden(record: &VibratoRecord, chance: &mut Rng) -> Self {
        let mm = |value: &gradimen_bench::model::Measurement| value.middle().mm();
        // A rule on small parts: half a millimetre.
        let lever = mm(&record.hook_down) + chance.normal(0.4);
        let long = mm(&record.spring_length) + chance.normal(0.5);
        let pressed = record.kind != VibratoKind::BodySprings;
        let rate = record.rate_newtons_per_metre * 1e-3 * chance.factor(0.12);
        let free = mm(&record.spring_free) + chance.normal(0.4);
        let preload = record.preload_newtons * chance.factor(0.3);
        let coil = |place: f64, chance: &mut Rng| {
            let (hook, seat) = if pressed {
                ((-lever, 0.0), (-lever, -long))
            } else {
                ((0.0, -lever), (-long, -lever + chance.normal(0.7)))
            };
            let converges = 8.0 * place.abs() * chance.factor(0.1);
            Coil {
                hook,
                seat,
                aside: if record.converging { converges } else { 0.0 },
                converges,
                free,
                rate: rate * chance.factor(0.04),
                preload,
                pressed,
            }
        };
        let places = [0.0, 1.0, -1.0, 2.0, -2.0];
        let mut all: Vec<Coil> = places.iter().map(|place| coil(*place, chance)).collect();
        let spare = all.split_off(usize::from(record.springs).clamp(1, 5));
        let turn = mm(&record.claw_pitch);
        let washers = record.kind == VibratoKind::ArmSpring;
        let play = if washers {
            0.0
        } else {
            chance.between(0.0, 0.06)
        };
        Self {
            kind: record.kind,
            coils: all,
            spare,
            tail: (mm(&record.tail_back) + chance.normal(0.4)) * if pressed { -1.0 } else { 1.0 },
            level_gap: mm(&record.level_gap) + chance.normal(0.2),
            further: 0.0,
            askew: chance.normal(0.3),
            turn: turn * if washers { 1.0 } else { chance.factor(0.04) },
            play,
            slack: 0.0,
            angle: 0.0,
        }
    }

    /// Whether the strings' crowns turn with it.
    pub(crate) fn carries(&self) -> bool {
        self.kind == VibratoKind::BodySprings
    }

    fn moved(&self) -> (f64, f64) {
        match self.kind {
            VibratoKind::BodySprings => (-self.further, 0.0),
            VibratoKind::TailSpring | VibratoKind::ArmSpring => (0.0, self.further),
        }
    }

    /// What a small turn up of the tail wins, by the strings' work and the springs' energy; nought at rest.
    fn wins(&self, hung: &[Hung], angle: f64) -> f64 {
        let small = 1e-5;
        let further = self.moved();
        let springs: f64 = self
            .coils
            .iter()
            .map(|coil| coil.energy(angle + small, further) - coil.energy(angle - small, further))
            .sum();
        // At pitch a string pulls the same wherever its crown stands: its work is its pull times the way to the nut.
        let way = |string: &Hung, angle: f64| {
            let (x, z) = turned(string.crown, angle);
            (x - string.nut.0).hypot(z - string.nut.1)
        };
        let strings: f64 = hung
            .iter()
            .map(|string| string.pull * (way(string, angle - small) - way(string, angle + small)))
            .sum();
        (strings - springs) / (2.0 * small)
    }

    /// Rests where the strings at pitch leave it.
    pub(crate) fn rest(&mut self, hung: &[Hung]) {
        let flat = (-self.level_gap / self.tail).clamp(-0.9, 0.9).asin();
        let (low, high) = if self.carries() {
            (flat.max(ENDS.0), ENDS.1)
        } else {
            (ENDS.0, flat.min(ENDS.1))
        };
        if self.wins(hung, low) <= 0.0 {
            self.angle = low;
            return;
        }
        if self.wins(hung, high) >= 0.0 {
            self.angle = high;
            return;
        }
        // From where it stands it goes to the nearest rest; a plate that is pulled over comes back at the far end.
        let (mut low, mut high) = (low, high);
        for _ in 0..60 {
            let middle = 0.5 * (low + high);
            if self.wins(hung, middle) > 0.0 {
                low = middle;
            } else {
                high = middle;
            }
        }
        self.angle = 0.5 * (low + high);
    }

    /// Sets claw or seat so that the plate rests with a gap; answers whether any does.
    pub(crate) fn begin(&mut self, hung: &[Hung], gap: f64) -> bool {
        let wanted = ((gap - self.level_gap) / self.tail).clamp(-0.9, 0.9).asin();
        let reach = if self.carries() { 25.0 } else { 10.0 };
        let (mut low, mut high) = (-reach, reach);
        let mut over = |further: f64| {
            self.further = further;
            self.wins(hung, wanted)
        };
        if over(low) < 0.0 || over(high) > 0.0 {
            return false;
        }
        for _ in 0..60 {
            let middle = 0.5 * (low + high);
            if over(middle) > 0.0 {
                low = middle;
            } else {
                high = middle;
            }
        }
        // So it was found: the sheet's spring was measured there.
        self.rest(hung);
        true
    }

    /// The gap behind its edge, or under its bar.
    pub(crate) fn gap(&self) -> f64 {
        self.level_gap + self.tail * self.angle.sin()
    }

    /// The middle spring from hook to hook.
    pub(crate) fn spring(&self) -> f64 {
        self.coils[0].length(self.angle, self.moved())
    }

    /// From the claw to its wall at its treble and its bass end; nothing where there is no claw.
    pub(crate) fn claw_ends(&self) -> Option<(f64, f64)> {
        let middle = WALL - self.further;
        self.carries()
            .then_some((middle + self.askew / 2.0, middle - self.askew / 2.0))
    }

    /// Turns claw or seat, or puts washers in.
    pub(crate) fn turn(&mut self, turns: f64) -> f64 {
        let wanted = turns * self.turn;
        let before = self.slack;
        self.slack = (self.slack + wanted).clamp(0.0, self.play);
        let real = wanted - (self.slack - before);
        self.further += real;
        real
    }

    /// Turns the bass screw of the claw further in, the treble one as much less.
    pub(crate) fn skew(&mut self, turns: f64) {
        self.askew += 2.0 * turns * self.turn;
    }

    /// Its edge is lifted off the body.
    pub(crate) fn lift(&mut self, by: f64) {
        self.level_gap += by;
    }

    /// Hooks springs on or off.
    pub(crate) fn hook(&mut self, count: usize, converging: bool) {
        let mut all = std::mem::take(&mut self.coils);
        all.append(&mut self.spare);
        self.spare = all.split_off(count.clamp(1, all.len()));
        for coil in &mut all {
            coil.aside = if converging { coil.converges } else { 0.0 };
        }
        self.coils = all;
    }

    /// A crown as the plate stands.
    pub(crate) fn crown(&self, crown: (f64, f64)) -> (f64, f64) {
        turned(crown, self.angle)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn plate() -> (Plate, Vec<Hung>) {
        let record = VibratoRecord::usual(3.0);
        let mut plate = Plate::hidden(&record, &mut Rng::new(4));
        let hung: Vec<Hung> = (0..6)
            .map(|_| Hung {
                crown: (11.0, 10.5),
                nut: (-640.0, 10.0),
                pull: 72.0,
            })
            .collect();
        assert!(plate.begin(&hung, 3.0));
        (plate, hung)
    }

    #[test]
    fn it_rests_where_moments_cancel() {
        let (plate, hung) = plate();
        // Moments by hand: pulls times their distance from the edge, springs by their line.
        let (x, z) = turned(hung[0].crown, plate.angle);
        let (dx, dz) = (hung[0].nut.0 - x, hung[0].nut.1 - z);
        let up = -6.0 * 72.0 * (x * dz - z * dx) / dx.hypot(dz);
        let down: f64 = plate
            .coils
            .iter()
            .map(|coil| {
                let (hx, hz) = turned(coil.hook, plate.angle);
                let length = coil.length(plate.angle, plate.moved());
                let pull = coil.preload + coil.rate * (length - coil.free);
                let (sx, sz) = (coil.seat.0 - plate.further - hx, coil.seat.1 - hz);
                pull / length * (hx * sz - hz * sx)
            })
            .sum();
        assert!(
            (up.abs() - down.abs()).abs() < 2e-3 * up.abs(),
            "{up} {down}"
        );
        assert!((plate.gap() - 3.0).abs() < 0.01);
    }

    #[test]
    fn a_claw_further_in_lowers_the_tail_and_heavier_strings_raise_it() {
        let (mut plate, mut hung) = plate();
        plate.turn(0.5);
        plate.rest(&hung);
        assert!(plate.gap() < 2.9);
        plate.turn(-0.5);
        for string in &mut hung {
            string.pull *= 1.03;
        }
        plate.rest(&hung);
        assert!(plate.gap() > 3.1);
    }
}
