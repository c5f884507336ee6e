//! The elevation: neck and string from the side, under the plan on the same axis along the board,
//! heights exaggerated by a factor that is stated; and the end view of the bridge beside it.

use crate::vocabulary::*;
use gradimen_core::action::StringLine;
use gradimen_core::neck::{Bend, FretTops, Span};
use gradimen_core::quantity::{Curvature, Length};

use super::lanes::{Lanes, wire_width};
use super::{Anchor, Drawing};
use crate::words;

/// Exaggerations that are easy to think with.
const FACTORS: [f64; 8] = [8.0, 10.0, 12.0, 15.0, 20.0, 25.0, 30.0, 40.0];

/// Room is kept for an arc of so much from string to string, in millimetres: the factor stays while the hands work.
const USUAL_ARC: f64 = 2.0;

/// The elevation of one string.
pub(crate) struct Side<'a> {
    pub(crate) tops: &'a FretTops,
    pub(crate) now: StringLine,
    pub(crate) after: StringLine,
    /// The string is cut here.
    pub(crate) to: f64,
    /// Top and bottom of the view.
    pub(crate) top: f64,
    pub(crate) bottom: f64,
    /// Room is kept for a string so high at the cut: the factor stays while the hands work, and gives way only to what is
    /// higher still.
    pub(crate) usual: Length,
}

impl Side<'_> {
    fn string_at(&self, line: &StringLine, along: Length) -> Length {
        line.height_at(self.tops, 0, along)
    }

    /// Drawing units per millimetre of height, and the factor that is.
    fn scale(&self, lanes: &Lanes) -> (f64, f64) {
        let cut = Length::from_mm((self.to - lanes.nut) / lanes.per_mm);
        let highest = [&self.now, &self.after]
            .iter()
            .map(|line| {
                self.string_at(line, cut)
                    .max(self.string_at(line, Length::ZERO))
                    .mm()
            })
            .fold(self.usual.mm(), f64::max);
        let lowest = self
            .tops
            .top(self.tops.frets(), Curvature::ZERO)
            .mm()
            .min(0.0);
        let room = self.bottom - self.top - 38.0;
        let fits = room / (highest - lowest) / lanes.per_mm;
        let factor = FACTORS
            .iter()
            .copied()
            .rfind(|factor| *factor <= fits)
            .unwrap_or(5.0);
        (factor * lanes.per_mm, factor)
    }

    /// Draws it; with a span, the chord and the gap that are read there.
    pub(crate) fn draw(&self, drawing: &mut Drawing, lanes: &Lanes, span: Option<Span>) {
        let (per_mm, factor) = self.scale(lanes);
        let lowest = self
            .tops
            .top(self.tops.frets(), Curvature::ZERO)
            .mm()
            .min(0.0);
        let floor = self.bottom - 24.0;
        let y = |height: Length| floor - 6.0 - (height.mm() - lowest) * per_mm;
        let x = |fret: u8| lanes.x(self.tops.place(fret));
        let last = self.tops.frets();
        let profile = |bend: Bend| -> Vec<(f64, f64)> {
            (0..=last)
                .map(|fret| (x(fret), y(self.tops.top(fret, bend))))
                .collect()
        };
        let mut board = profile(self.now.bend);
        board.push((x(last), floor));
        board.push((lanes.nut, floor));
        drawing.polygon("wood", &board);
        for fret in 1..=last {
            let at = y(self.tops.top(fret, self.now.bend));
            drawing.line("fret-end", (x(fret), at), (x(fret), at + 8.0));
        }
        let moved = (self.after.bend - self.now.bend).even.abs().per_metre() > 2e-4;
        if moved {
            drawing.polyline("stair", &profile(self.after.bend));
        }
        let cut = Length::from_mm((self.to - lanes.nut) / lanes.per_mm);
        let ends = |line: &StringLine| {
            [
                (lanes.nut, y(self.string_at(line, Length::ZERO))),
                (self.to, y(self.string_at(line, cut))),
            ]
        };
        let after_differs = (self.string_at(&self.after, cut) - self.string_at(&self.now, cut))
            .abs()
            .mm()
            > 0.02;
        if after_differs {
            let [a, b] = ends(&self.after);
            drawing.line("stair", a, b);
        }
        let [a, b] = ends(&self.now);
        drawing.line("string", a, b);
        if let Some(span) = span {
            self.gap(drawing, lanes, span, &y);
        }
        drawing.text(
            "small",
            (20.0, self.top + 16.0),
            Anchor::Start,
            "side, heights",
        );
        drawing.text(
            "small",
            (20.0, self.top + 34.0),
            Anchor::Start,
            &format!("{factor:.0} times life"),
        );
        drawing.text(
            "small",
            (20.0, self.top + 51.0),
            Anchor::Start,
            "dashed: when done",
        );
        for fret in [1, 5, 12, 17].into_iter().filter(|fret| *fret < last) {
            drawing.text(
                "small",
                (x(fret), self.bottom - 8.0),
                Anchor::Middle,
                &fret.to_string(),
            );
        }
        drawing.text(
            "small",
            (x(last), self.bottom - 8.0),
            Anchor::Middle,
            &last.to_string(),
        );
    }

    fn gap(&self, drawing: &mut Drawing, lanes: &Lanes, span: Span, y: &impl Fn(Length) -> f64) {
        let x = |fret: u8| lanes.x(self.tops.place(fret));
        let bend = self.now.bend;
        let (low, high) = (
            (x(span.low), y(self.tops.top(span.low, bend))),
            (x(span.high), y(self.tops.top(span.high, bend))),
        );
        drawing.line("dash", low, high);
        let at = x(span.at);
        let share = (at - low.0) / (high.0 - low.0);
        let chord = low.1 + (high.1 - low.1) * share;
        drawing.line("gap", (at, chord), (at, y(self.tops.top(span.at, bend))));
    }
}

/// The bridge from the tail: crowns now and wanted over the arc of the board.
pub(crate) fn end_view(
    drawing: &mut Drawing,
    job: &Known,
    plan: &Plan,
    top: f64,
    bottom: f64,
    in_hand: Option<u8>,
) {
    const MIDDLE: f64 = 1108.0;
    const HALF: f64 = 120.0;
    let strings = &plan.action.strings;
    let widest = strings
        .iter()
        .map(|string| string.crown.2.abs().mm())
        .fold(1.0, f64::max);
    let across = HALF / widest;
    // From the tail the bass lies on the left.
    let x = |y: Length| MIDDLE + y.mm() * across;
    let heights: Vec<f64> = strings
        .iter()
        .flat_map(|string| [string.crown.0.mm(), string.crown.1.mm()])
        .collect();
    let low = heights.iter().copied().fold(f64::INFINITY, f64::min);
    let high = heights.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let room = bottom - top - 72.0;
    let fits = room / (high - low).max(USUAL_ARC) / across;
    // Strings that are to come up far leave no room for much.
    let factor = [1.0, 2.0, 3.0, 4.0, 6.0]
        .iter()
        .chain(&FACTORS)
        .copied()
        .filter(|factor| *factor <= fits)
        .fold(1.0, f64::max);
    let per_mm = factor * across;
    let y = |height: Length| bottom - 36.0 - (height.mm() - low) * per_mm;
    let arc: Vec<(f64, f64)> = strings
        .iter()
        .rev()
        .map(|string| (x(string.crown.2), y(string.crown.1)))
        .collect();
    drawing.polyline("stair", &arc);
    for string in strings {
        let gauge = job
            .string_state(string.string)
            .map_or(Length::from_mm(0.3), |state| state.spec.gauge());
        let class = if in_hand == Some(string.string) {
            "crown crown-on"
        } else {
            "crown"
        };
        let radius = (wire_width(gauge) * 0.9 + 2.5).min(8.0);
        drawing.circle(class, (x(string.crown.2), y(string.crown.0)), radius);
        drawing.text(
            "small",
            (x(string.crown.2), bottom - 10.0),
            Anchor::Middle,
            &string.string.to_string(),
        );
    }
    let arc = plan.action.arc.0.map_or_else(String::new, |arc| {
        format!(", radius {}", words::radius(arc))
    });
    drawing.text(
        "small",
        (MIDDLE, top + 17.0),
        Anchor::Middle,
        &format!("bridge from the tail, {factor:.0} times life{arc}"),
    );
}
