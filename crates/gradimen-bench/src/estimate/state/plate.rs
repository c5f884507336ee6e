//! A plate that strings and springs balance.
//!
//! Its gap stands in the state, and what balances it is worked out from there: the claw stands where the springs' torque
//! is the strings' at the present angle. With `G(angle, claw, x)` the one less the other, a move that changes claw or
//! unknowns to `x'` leads to the angle where `G(angle', claw', x') = 0`, and its slopes come by implicit differentiation,
//! once at each end of the move:
//!
//! `d claw = -(G_x dx + G_angle d angle) / G_claw`, `d angle' = -(G'_x dx' + G'_claw d claw) / G'_angle`.
//!
//! So a reading of the gap or of a height is next to linear, however near to running away the plate stands, and it is the
//! move that carries what is not known of arms, springs and claw into the gap to come. `G_angle` is the plate's steadiness.
//! What rests is steady: it is never taken for less than a share of the springs' own stiffness.
//!
//! A crown that stands `b` behind and `u` above the edge while the plate is level has the arm `b sin + u cos`; the
//! springs are those of [`gradimen_core::vibrato`]. A gap below nothing says how hard the plate lies on the body: the
//! springs' surplus, as so many millimetres as it would close if the plate could go on.

use gradimen_core::quantity::{Angle, Length, Rate};
use gradimen_core::spring::Spring;
use gradimen_core::vibrato::{Hooked, Plate};
use nalgebra::DVector;

use super::layout::Part;
use super::{Sheet, State};
use crate::model::hardware::VibratoKind;

/// A plate is dived no further than this, in radians.
pub(crate) const FURTHEST: f64 = 0.28;
/// Outer springs of a converging set lie so far aside at the claw, each further out one more (from memory).
const CONVERGES: Length = Length::from_mm(8.0);
/// The least steadiness that is believed, as a share of the springs' own stiffness.
const LEAST_STEADY: f64 = 0.12;
/// Newton steps; a handful is enough from a near start.
const STEPS: usize = 30;
/// How steady a plate is hangs little on where its claw stands: so many rounds settle both.
const STEPS_OF_CLAW: usize = 3;
/// No claw goes further than this from where it was found, in millimetres; a seat by this share of its spring.
const CLAW_REACH: f64 = 30.0;
const SEAT_REACH: f64 = 0.45;

/// How a plate lies: nothing turns where there is none.
#[derive(Debug, Clone, PartialEq, Default)]
pub(crate) struct Lie {
    /// Its angle, kept between body and dive.
    pub(crate) angle: f64,
    sin: f64,
    cos: f64,
    /// Whether it lies at an end.
    pub(crate) held: bool,
}

impl Lie {
    /// No plate, or one that is level.
    pub(super) fn level() -> Self {
        Self {
            cos: 1.0,
            ..Self::default()
        }
    }
}

impl Sheet {
    pub(crate) const fn has_claw(&self) -> bool {
        matches!(self.record.kind, VibratoKind::BodySprings)
    }
}

/// The balance at one angle: what is left of the torque, and its slopes.
struct Torque {
    off: f64,
    /// On the angle, as it is.
    steady: f64,
    on_claw: f64,
}

impl State {
    /// An unknown of the vibrato.
    pub(crate) fn part(&self, x: &DVector<f64>, part: Part) -> f64 {
        x[self.at.part(part)]
    }

    /// The plate of a state, for the computation.
    pub(crate) fn plate_in(&self, sheet: &Sheet, x: &DVector<f64>) -> Plate {
        let sheet_plate = sheet.record.plate();
        if !sheet.has_claw() {
            return sheet_plate;
        }
        let back = Length::from_mm(self.part(x, Part::HookBack));
        Plate {
            hook_back: back,
            hook_down: Length::from_mm(self.part(x, Part::HookDown)),
            claw_front: sheet_plate.claw_front - back,
            ..sheet_plate
        }
    }

    /// A spring of a state with the claw so far in, `place` hooks from the middle one.
    fn hooked(&self, sheet: &Sheet, x: &DVector<f64>, claw: f64, place: f64) -> Hooked {
        let spring = sheet.record.spring();
        let factor = self.part(x, Part::Rate).exp();
        let rate = Rate::from_newtons_per_metre(spring.rate.newtons_per_metre() * factor);
        Hooked {
            spring: Spring {
                rate,
                // The force before the coils part goes with the wire, as the rate does.
                preload: spring.preload * factor,
                ..spring
            },
            aside: if sheet.record.converging {
                CONVERGES * place.abs()
            } else {
                Length::ZERO
            },
            claw_in: Length::from_mm(claw),
        }
    }

    /// Where the springs hang, from the middle one.
    fn places(sheet: &Sheet) -> impl Iterator<Item = f64> {
        let middle = (f64::from(sheet.record.springs) - 1.0) / 2.0;
        (0..sheet.record.springs).map(move |index| f64::from(index) - middle)
    }

    /// The springs of a state, the claw where it balances the plate.
    pub(crate) fn springs_in(&self, sheet: &Sheet, x: &DVector<f64>) -> Vec<Hooked> {
        let claw = self.claw_now(sheet, x);
        let places = Self::places(sheet);
        places
            .map(|place| self.hooked(sheet, x, claw, place))
            .collect()
    }

    /// Torque of the springs, lowering the tail, in newton millimetres.
    fn pull_down(&self, sheet: &Sheet, x: &DVector<f64>, angle: f64, claw: f64) -> f64 {
        let plate = self.plate_in(sheet, x);
        let angle = Angle::from_radians(angle);
        let middle = self.hooked(sheet, x, claw, 0.0);
        let of = |hooked: &Hooked| plate.spring_torque(hooked, angle).1 * 1e3;
        if !sheet.record.converging {
            // Side by side they are all alike.
            return f64::from(sheet.record.springs) * of(&middle);
        }
        let aside = |place: f64| Hooked {
            aside: CONVERGES * place.abs(),
            ..middle
        };
        Self::places(sheet).map(|place| of(&aside(place))).sum()
    }

    /// What every string pulls, harder than computed by what was learned.
    pub(crate) fn tension_in(&self, x: &DVector<f64>, index: usize) -> f64 {
        let factor = if self.sheet.is_some() {
            self.part(x, Part::Tension).exp()
        } else {
            1.0
        };
        self.strings[index].tension * factor
    }

    /// A crown behind and above the edge, the plate lying level.
    pub(crate) fn arm_in(&self, sheet: &Sheet, x: &DVector<f64>, index: usize) -> (f64, f64) {
        if sheet.carries {
            (
                x[self.at.setback(self.saddle(index))] - self.part(x, Part::EdgeBack),
                x[self.at.crown(index)] - self.part(x, Part::EdgeUp),
            )
        } else {
            (
                sheet.record.crown_back.middle().mm(),
                sheet.record.crown_up.middle().mm(),
            )
        }
    }

    /// Torque of the strings, raising the tail, and its slope on the angle.
    fn pull_up(&self, sheet: &Sheet, x: &DVector<f64>, angle: f64) -> (f64, f64) {
        let (sin, cos) = angle.sin_cos();
        (0..self.count()).fold((0.0, 0.0), |(torque, slope), index| {
            let (back, up) = self.arm_in(sheet, x, index);
            let pull = self.tension_in(x, index);
            (
                torque + pull * (back * sin + up * cos),
                slope + pull * (back * cos - up * sin),
            )
        })
    }

    fn torque(&self, sheet: &Sheet, x: &DVector<f64>, angle: f64, claw: f64) -> Torque {
        let (up, up_slope) = self.pull_up(sheet, x, angle);
        let down = self.pull_down(sheet, x, angle, claw);
        let (turn, move_in) = (1e-4, 0.02);
        Torque {
            off: down - up,
            steady: (self.pull_down(sheet, x, angle + turn, claw) - down) / turn - up_slope,
            on_claw: (self.pull_down(sheet, x, angle, claw + move_in) - down) / move_in,
        }
    }

    /// How the torque at an angle hangs on the state, angle and claw held, added to a slope with a weight.
    fn add_torque(
        &self,
        h: &mut DVector<f64>,
        sheet: &Sheet,
        x: &DVector<f64>,
        (angle, claw): (f64, f64),
        weight: f64,
    ) {
        let (sin, cos) = angle.sin_cos();
        let mut all = 0.0;
        for index in 0..self.count() {
            let pull = self.tension_in(x, index);
            let (back, up) = self.arm_in(sheet, x, index);
            all += pull * (back * sin + up * cos);
            if sheet.carries {
                h[self.at.crown(index)] -= weight * pull * cos;
                h[self.at.part(Part::EdgeUp)] += weight * pull * cos;
                h[self.at.setback(self.saddle(index))] -= weight * pull * sin;
                h[self.at.part(Part::EdgeBack)] += weight * pull * sin;
            }
        }
        h[self.at.part(Part::Tension)] -= weight * all;
        let here = self.pull_down(sheet, x, angle, claw);
        let parts: &[(Part, f64)] = if sheet.has_claw() {
            &[
                (Part::Rate, 0.002),
                (Part::HookDown, 0.02),
                (Part::HookBack, 0.02),
            ]
        } else {
            &[(Part::Rate, 0.002)]
        };
        let mut other = x.clone();
        for &(part, step) in parts {
            let at = self.at.part(part);
            other[at] += step;
            h[at] += weight * (self.pull_down(sheet, &other, angle, claw) - here) / step;
            other[at] = x[at];
        }
    }

    /// How far in the claw stands by the balance of a state.
    fn claw_now(&self, sheet: &Sheet, x: &DVector<f64>) -> f64 {
        let (angle, surplus) = self.stood(sheet, x);
        self.claw_in(sheet, x, angle, (0.0, surplus))
    }

    /// How far in the claw stands that balances a plate at an angle, the strings pulling `harder` by a share and the body
    /// answering a `surplus`: as far as it goes where that is not enough.
    fn claw_in(
        &self,
        sheet: &Sheet,
        x: &DVector<f64>,
        angle: f64,
        (harder, surplus): (f64, f64),
    ) -> f64 {
        let reach = Self::claw_reach(sheet);
        let up = self.pull_up(sheet, x, angle).0 * (1.0 + harder) + surplus;
        let off = |claw: f64| self.pull_down(sheet, x, angle, claw) - up;
        let found = gradimen_core::solve::root(-reach, reach, 1e-6, off);
        found.unwrap_or_else(|_| if off(0.0) < 0.0 { reach } else { -reach })
    }

    /// Logarithm of the factor on the rate that would rest the plate where it is believed, its claw as found.
    pub(super) fn rate_as_found(&self, sheet: &Sheet) -> Option<f64> {
        let x = &self.filter.x;
        let (angle, _) = self.stood(sheet, x);
        let (down, up) = (
            self.pull_down(sheet, x, angle, 0.0),
            self.pull_up(sheet, x, angle).0,
        );
        (down > 0.0 && up > 0.0).then(|| (up / down).ln())
    }

    fn claw_reach(sheet: &Sheet) -> f64 {
        if sheet.has_claw() {
            CLAW_REACH
        } else {
            sheet.record.spring_length.middle().mm() * SEAT_REACH
        }
    }

    /// How much further in a claw has to stand, or up a seat, than now, for a plate with so many springs to rest at an
    /// angle in the state `end`, while the strings pull `harder` by a share; nothing where none within reach does it.
    pub(crate) fn claw_for(
        &self,
        end: &DVector<f64>,
        angle: f64,
        count: u8,
        harder: f64,
    ) -> Option<f64> {
        let sheet = self.sheet.as_ref().filter(|_| count > 0)?;
        let now = &self.filter.x;
        let (stood, surplus) = self.stood(sheet, now);
        let stands = self.claw_in(sheet, now, stood, (0.0, surplus));
        let mut hooked = sheet.clone();
        hooked.record.springs = count;
        // What rests is steady, here as where a plate is laid after a turn: by a mean that would not be, a claw would go in to
        // let a plate up.
        let least = self.least_steady(&hooked, end);
        let mut wanted = stands;
        for _ in 0..STEPS_OF_CLAW {
            let there = self.torque(&hooked, end, stood, wanted);
            let stiffer = (least - there.steady).max(0.0);
            let answered = -stiffer * (angle - stood);
            wanted = self.claw_in(&hooked, end, angle, (harder, answered));
        }
        (wanted.abs() < Self::claw_reach(sheet) * 0.999).then_some(wanted - stands)
    }

    /// The angle a plate stands at by its gap, and the springs' surplus that the body answers.
    fn stood(&self, sheet: &Sheet, x: &DVector<f64>) -> (f64, f64) {
        let gap = self.part(x, Part::Gap);
        if !sheet.has_claw() {
            return (self.angle_of(x, gap), 0.0);
        }
        let end = self.gap_at(sheet, x, FURTHEST);
        if gap < 0.0 {
            (self.angle_of(x, 0.0), -gap * self.pressing(sheet))
        } else if gap > end {
            (FURTHEST, (end - gap) * self.pressing(sheet))
        } else {
            (self.angle_of(x, gap), 0.0)
        }
    }

    /// Surplus torque that counts as a millimetre beyond an end: what a millimetre costs between the ends, by the sheet.
    fn pressing(&self, sheet: &Sheet) -> f64 {
        let lever = sheet.record.hook_down.middle().mm();
        let rate = sheet.record.rate_newtons_per_metre * 1e-3;
        let own = f64::from(sheet.record.springs.max(1)) * rate * lever * lever;
        let pull: f64 = self.strings.iter().map(|one| one.tension).sum();
        let lost = pull * sheet.record.crown_back.middle().mm();
        (own - lost).max(own * LEAST_STEADY) / self.tail(sheet).abs()
    }

    /// The ends of a plate's way in a state: pulled up as far as it goes, and dived.
    pub(crate) fn ends_in(&self, sheet: &Sheet, x: &DVector<f64>) -> (f64, f64) {
        let level = self.part(x, Part::Level);
        let flat = (-level / self.tail(sheet)).clamp(-0.9, 0.9).asin();
        if sheet.has_claw() {
            return (flat, FURTHEST);
        }
        // A tail is pulled up until its spring is loose, and dives until its bar lies on the body.
        let plate = self.plate_in(sheet, x);
        let loose = sheet.record.spring_free.middle();
        let springs = self.springs_in(sheet, x);
        let long_at = |angle: f64| {
            let found = springs.first().map_or(loose, |hooked| {
                plate.spring_torque(hooked, Angle::from_radians(angle)).0
            });
            (found - loose).mm()
        };
        let found = gradimen_core::solve::root(-FURTHEST, FURTHEST, 1e-7, long_at);
        (found.unwrap_or(-FURTHEST), flat)
    }

    /// Where the gap is read, behind the edge; negative before a tail's pivot.
    pub(crate) fn tail(&self, sheet: &Sheet) -> f64 {
        sheet.record.plate().tail_back.mm()
    }

    /// How the plate lies in a state.
    pub(crate) fn lie_in(&self, x: &DVector<f64>) -> Lie {
        let Some(sheet) = &self.sheet else {
            return Lie::level();
        };
        let (stood, surplus) = self.stood(sheet, x);
        let (sin, cos) = stood.sin_cos();
        Lie {
            angle: stood,
            sin,
            cos,
            held: surplus != 0.0,
        }
    }

    /// The angle of a gap.
    pub(crate) fn angle_of(&self, x: &DVector<f64>, gap: f64) -> f64 {
        let Some(sheet) = &self.sheet else {
            return 0.0;
        };
        let rise = (gap - self.part(x, Part::Level)) / self.tail(sheet);
        rise.clamp(-0.9, 0.9).asin()
    }

    /// The gap of an angle.
    fn gap_at(&self, sheet: &Sheet, x: &DVector<f64>, angle: f64) -> f64 {
        self.part(x, Part::Level) + self.tail(sheet) * angle.sin()
    }

    /// The gap of a plate that is pulled up as far as it goes.
    pub(super) fn furthest_gap(&self, sheet: &Sheet) -> f64 {
        self.gap_at(sheet, &self.filter.x, FURTHEST)
    }

    /// The least steadiness that is believed.
    fn least_steady(&self, sheet: &Sheet, x: &DVector<f64>) -> f64 {
        let lever = if sheet.has_claw() {
            self.part(x, Part::HookDown)
        } else {
            sheet.record.hook_down.middle().mm()
        };
        let rate = sheet.record.rate_newtons_per_metre * self.part(x, Part::Rate).exp() * 1e-3;
        LEAST_STEADY * f64::from(sheet.record.springs.max(1)) * rate * lever * lever
    }

    /// Whether a plate would run away that is to rest in a state at an angle.
    pub(crate) fn runs_away(&self, x: &DVector<f64>, angle: f64) -> bool {
        self.sheet.as_ref().is_some_and(|sheet| {
            let claw = self.claw_in(sheet, x, angle, (0.0, 0.0));
            self.torque(sheet, x, angle, claw).steady < 0.0
        })
    }

    /// Where the plate of `after` rests when it was balanced at the gap of `before` and its claw goes `further` in: the
    /// gap then. `self` has the strings and springs of after, `was` those of before.
    pub(crate) fn rests_after(
        &self,
        was: &Self,
        before: &DVector<f64>,
        after: &DVector<f64>,
        further: f64,
    ) -> f64 {
        self.rebalance(was, before, after, further)
            .map_or(0.0, |rest| rest.gap)
    }

    pub(super) fn rebalance(
        &self,
        was: &Self,
        before: &DVector<f64>,
        after: &DVector<f64>,
        further: f64,
    ) -> Option<Rest> {
        let (old, sheet) = (was.sheet.as_ref()?, self.sheet.as_ref()?);
        let (stood, surplus) = was.stood(old, before);
        let claw = was.claw_in(old, before, stood, (0.0, surplus));
        let least = self.least_steady(sheet, after);
        let pressing = self.pressing(sheet);
        let first = self.torque(sheet, after, stood, claw + further);
        // What rests is steady: a plate that would not be is taken to be just so.
        let stiffer = (least - first.steady).max(0.0);
        let flat = self.angle_of(after, 0.0);
        let ends = [(flat, 0.0), (FURTHEST, self.gap_at(sheet, after, FURTHEST))];
        for (at, gap) in ends.into_iter().filter(|_| sheet.has_claw()) {
            // The springs win on the body already, or the strings at the end of its way.
            let mut there = self.torque(sheet, after, at, claw + further);
            there.off += stiffer * (at - stood);
            if (there.off > 0.0) == (at == flat) {
                return Some(Rest {
                    stood,
                    pressed: surplus != 0.0,
                    claw,
                    angle: at,
                    gap: gap - there.off / pressing,
                    shown: 1.0 / pressing,
                    stiffer,
                    steady: there.steady,
                    on_claw: there.on_claw,
                    held: true,
                });
            }
        }
        let mut angle = stood;
        let mut here = first;
        for _ in 0..STEPS {
            let off = here.off + stiffer * (angle - stood);
            let step = (-off / (here.steady + stiffer).max(least)).clamp(-0.05, 0.05);
            angle = (angle + step).clamp(-0.5, 0.5);
            here = self.torque(sheet, after, angle, claw + further);
            if step.abs() < 1e-9 {
                break;
            }
        }
        let steady = (here.steady + stiffer).max(least);
        let shown = self.tail(sheet) * angle.cos() / steady;
        Some(Rest {
            stood,
            pressed: surplus != 0.0,
            claw,
            angle,
            gap: self.gap_at(sheet, after, angle),
            shown,
            stiffer,
            steady,
            on_claw: here.on_claw,
            held: false,
        })
    }

    /// How the gap after a move hangs on the state before it: the gap, its slopes on every unknown as it was and as the
    /// move leaves it, and on the claw.
    pub(crate) fn gap_slopes(
        &self,
        was: &Self,
        before: &DVector<f64>,
        after: &DVector<f64>,
        further: f64,
    ) -> Option<(f64, DVector<f64>, DVector<f64>, f64)> {
        let (old, sheet) = (was.sheet.as_ref()?, self.sheet.as_ref()?);
        let rest = self.rebalance(was, before, after, further)?;
        let first = was.torque(old, before, rest.stood, rest.claw);
        let mut on_after = DVector::zeros(after.len());
        // A torque that lowers the tail closes the gap.
        let by = -rest.shown;
        self.add_torque(
            &mut on_after,
            sheet,
            after,
            (rest.angle, rest.claw + further),
            by,
        );
        // The level gap shows by itself; on the body it says at which angle that is.
        on_after[self.at.part(Part::Level)] += if rest.held && rest.angle < FURTHEST {
            rest.shown * rest.steady / (self.tail(sheet) * rest.angle.cos())
        } else {
            1.0
        };
        let mut on_before = DVector::zeros(before.len());
        let per_claw = by * rest.on_claw;
        let gap = was.at.part(Part::Gap);
        if first.on_claw.abs() > 1e-9 {
            let back = -per_claw / first.on_claw;
            was.add_torque(&mut on_before, old, before, (rest.stood, rest.claw), back);
            let level = was.at.part(Part::Level);
            let per_angle = was.tail(old) * rest.stood.cos();
            let turned = (back * first.steady + rest.shown * rest.stiffer) / per_angle;
            if !rest.pressed {
                on_before[gap] += turned;
                on_before[level] -= turned;
            } else {
                on_before[gap] += back * was.pressing(old);
                on_before[level] -= if rest.stood < FURTHEST {
                    turned
                } else {
                    back * was.pressing(old)
                };
            }
        }
        Some((rest.gap, on_before, on_after, per_claw))
    }

    /// How the angle hangs on the state, added to a slope with a weight: where the plate lies at an end, as the end does.
    fn add_real_angle(&self, h: &mut DVector<f64>, lie: &Lie, weight: f64) {
        let Some(sheet) = &self.sheet else {
            return;
        };
        let per_gap = weight / (self.tail(sheet) * lie.cos);
        if !lie.held {
            h[self.at.part(Part::Gap)] += per_gap;
            h[self.at.part(Part::Level)] -= per_gap;
        } else if lie.angle < FURTHEST && sheet.has_claw() {
            h[self.at.part(Part::Level)] -= per_gap;
        }
    }

    /// Height of a crown over the plane of the fret tops.
    pub(crate) fn crown(&self, x: &DVector<f64>, lie: &Lie, index: usize) -> f64 {
        match &self.sheet {
            Some(sheet) if sheet.carries => {
                let (back, up) = self.arm_in(sheet, x, index);
                self.part(x, Part::EdgeUp) + back * lie.sin + up * lie.cos
            }
            _ => x[self.at.crown(index)],
        }
    }

    /// How that hangs on the state, added to a slope with a weight.
    pub(crate) fn add_crown(
        &self,
        h: &mut DVector<f64>,
        x: &DVector<f64>,
        lie: &Lie,
        index: usize,
        weight: f64,
    ) {
        let own = self.at.crown(index);
        match &self.sheet {
            Some(sheet) if sheet.carries => {
                let (back, up) = self.arm_in(sheet, x, index);
                h[own] += weight * lie.cos;
                h[self.at.part(Part::EdgeUp)] += weight * (1.0 - lie.cos);
                h[self.at.setback(self.saddle(index))] += weight * lie.sin;
                h[self.at.part(Part::EdgeBack)] -= weight * lie.sin;
                self.add_real_angle(h, lie, weight * (back * lie.cos - up * lie.sin));
            }
            _ => h[own] += weight,
        }
    }

    /// Where a crown stands behind the scale line.
    pub(crate) fn setback_in(&self, x: &DVector<f64>, lie: &Lie, index: usize) -> f64 {
        match &self.sheet {
            Some(sheet) if sheet.carries => {
                let (back, up) = self.arm_in(sheet, x, index);
                self.part(x, Part::EdgeBack) + back * lie.cos - up * lie.sin
            }
            _ => x[self.at.setback(self.saddle(index))],
        }
    }

    /// How that hangs on the state, added to a slope with a weight.
    pub(crate) fn add_setback(
        &self,
        h: &mut DVector<f64>,
        x: &DVector<f64>,
        lie: &Lie,
        index: usize,
        weight: f64,
    ) {
        let own = self.at.setback(self.saddle(index));
        match &self.sheet {
            Some(sheet) if sheet.carries => {
                let (back, up) = self.arm_in(sheet, x, index);
                h[own] += weight * lie.cos;
                h[self.at.part(Part::EdgeBack)] += weight * (1.0 - lie.cos);
                h[self.at.crown(index)] -= weight * lie.sin;
                h[self.at.part(Part::EdgeUp)] += weight * lie.sin;
                self.add_real_angle(h, lie, -weight * (back * lie.sin + up * lie.cos));
            }
            _ => h[own] += weight,
        }
    }

    /// The straightest spring on its hooks, and how that hangs on the state.
    pub(crate) fn spring_in(&self, x: &DVector<f64>) -> (f64, DVector<f64>) {
        let mut h = DVector::zeros(x.len());
        let Some(sheet) = &self.sheet else {
            return (0.0, h);
        };
        let long_in = |x: &DVector<f64>, angle: f64, claw: f64| {
            let count = sheet.record.springs;
            let straightest = f64::from(count / 2) - (f64::from(count) - 1.0) / 2.0;
            let hooked = self.hooked(sheet, x, claw, straightest);
            let plate = self.plate_in(sheet, x);
            plate
                .spring_torque(&hooked, Angle::from_radians(angle))
                .0
                .mm()
        };
        let long = |angle: f64, claw: f64| long_in(x, angle, claw);
        let (angle, claw) = self.stands(sheet, x, &mut h, |angle, claw| {
            let here = long(angle, claw);
            (
                (long(angle + 1e-4, claw) - here) / 1e-4,
                (long(angle, claw + 0.02) - here) / 0.02,
            )
        });
        let here = long(angle, claw);
        let mut other = x.clone();
        for part in [Part::HookDown, Part::HookBack] {
            let at = self.at.part(part);
            other[at] += 0.02;
            h[at] += (long_in(&other, angle, claw) - here) / 0.02;
            other[at] = x[at];
        }
        (here, h)
    }

    /// How far in the claw stands, by the balance, and how that hangs on the state.
    pub(crate) fn claw_sight(&self, x: &DVector<f64>) -> (f64, DVector<f64>) {
        let mut h = DVector::zeros(x.len());
        let Some(sheet) = &self.sheet else {
            return (0.0, h);
        };
        let (_, claw) = self.stands(sheet, x, &mut h, |_, _| (0.0, 1.0));
        (claw, h)
    }

    /// Angle and claw of a state; adds to `h` how something hangs on the state whose slopes on angle and claw are told.
    fn stands(
        &self,
        sheet: &Sheet,
        x: &DVector<f64>,
        h: &mut DVector<f64>,
        slopes: impl Fn(f64, f64) -> (f64, f64),
    ) -> (f64, f64) {
        let (angle, surplus) = self.stood(sheet, x);
        let claw = self.claw_in(sheet, x, angle, (0.0, surplus));
        let here = self.torque(sheet, x, angle, claw);
        let (on_angle, on_claw) = slopes(angle, claw);
        let mut turned = on_angle;
        if here.on_claw.abs() > 1e-9 {
            let by = -on_claw / here.on_claw;
            self.add_torque(h, sheet, x, (angle, claw), by);
            if surplus != 0.0 {
                h[self.at.part(Part::Gap)] += by * self.pressing(sheet);
                return (angle, claw);
            }
            turned += by * here.steady;
        }
        let per_gap = turned / (self.tail(sheet) * angle.cos());
        h[self.at.part(Part::Gap)] += per_gap;
        h[self.at.part(Part::Level)] -= per_gap;
        (angle, claw)
    }

    /// Whether the strings lie on a plate that floats.
    pub(crate) fn floats(&self) -> bool {
        self.sheet.as_ref().is_some_and(|sheet| sheet.carries) && !self.lie.held
    }
}

/// Where a plate rests after a move.
pub(super) struct Rest {
    /// The angle it stood at before, and the claw then.
    stood: f64,
    claw: f64,
    /// Whether it was pressed on the body then.
    pressed: bool,
    angle: f64,
    pub(super) gap: f64,
    /// How much a torque shows in the gap.
    shown: f64,
    /// By how much it was taken to be steadier than its parts make it.
    pub(super) stiffer: f64,
    /// What its torque gains with its angle.
    steady: f64,
    on_claw: f64,
    /// Whether it lies on the body now.
    held: bool,
}
