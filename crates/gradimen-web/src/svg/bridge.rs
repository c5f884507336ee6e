//! The bridge, magnified lengthwise behind a cut through the strings.

use gradimen_core::quantity::Length;

use super::Drawing;
use super::lanes::{Lanes, wire_width};
use crate::vocabulary::*;

/// The string is cut here ...
pub(crate) const BREAK: f64 = 930.0;
/// ... and goes on here, magnified.
pub(crate) const ZONE: (f64, f64) = (962.0, 1152.0);

/// The bridge, magnified lengthwise.
pub(crate) struct Zone {
    pub(crate) from: Length,
    pub(crate) per_mm: f64,
    pub(crate) magnified: f64,
}

impl Zone {
    /// Wide enough for the travel and for every place wanted, magnified a whole number of times.
    pub(crate) fn of(plan: &Plan, per_mm: f64) -> Self {
        let mut low = Length::ZERO;
        let mut high = Length::from_mm(6.0);
        for saddle in &plan.intonation.saddles {
            let known = &saddle.estimate;
            low = low.min(known.nearest).min(saddle.target.value);
            high = high
                .max(known.furthest.value)
                .max(saddle.target.value + saddle.target.sigma);
        }
        let room = Length::from_mm(1.0);
        let (low, high) = (low - room, high + room);
        let magnified = ((ZONE.1 - ZONE.0) / (high - low).mm() / per_mm)
            .floor()
            .max(1.0);
        Self {
            from: low,
            per_mm: per_mm * magnified,
            magnified,
        }
    }

    pub(crate) fn x(&self, setback: Length) -> f64 {
        ZONE.0 + (setback - self.from).mm() * self.per_mm
    }

    pub(crate) fn end(&self) -> Length {
        self.from + Length::from_mm((ZONE.1 - ZONE.0) / self.per_mm)
    }
}

/// The bridge at another station: saddles where they stand, small but true.
pub(crate) fn small(drawing: &mut Drawing, lanes: &Lanes, job: &Known, plan: &Plan) {
    let zone = Zone::of(plan, lanes.per_mm);
    let (top, bottom) = (lanes.y(1) - 14.0, lanes.y(lanes.count) + 14.0);
    cut(drawing, top, bottom);
    for (string, state) in (1..).zip(job.strings()) {
        let end = plan
            .intonation
            .saddle_of(string)
            .map_or(Length::ZERO, SaddlePlan::shown_place);
        let width = wire_width(state.spec.gauge());
        drawing.wire(width, BREAK + 9.0, zone.x(end), lanes.y(string));
    }
    for saddle in &plan.intonation.saddles {
        let known = &saddle.estimate;
        let place = zone.x(saddle.shown_place());
        for string in saddle.strings() {
            let y = lanes.y(string);
            let (near, far) = (zone.x(known.nearest), zone.x(known.furthest.value));
            drawing.rect("slot", (near, y - 4.0), (far - near, 8.0), 4.0);
            drawing.rect("saddle", (place - 3.5, y - 8.0), (7.0, 16.0), 2.0);
        }
    }
}

/// Where the drawing is cut.
pub(crate) fn cut(drawing: &mut Drawing, top: f64, bottom: f64) {
    let mut zigzag = Vec::new();
    let mut y = top;
    let mut side = 1.0;
    while y <= bottom {
        zigzag.push((BREAK + 5.0 * side, y));
        side = -side;
        y += 12.0;
    }
    drawing.polyline("rule", &zigzag);
}
