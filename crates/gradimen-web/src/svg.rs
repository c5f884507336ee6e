//! Drawings: typed geometry becomes rounded primitives. Numbers in a drawing come from the same
//! values as the text beside it.

pub(crate) mod bars;
pub(crate) mod bridge;
pub(crate) mod heard;
pub(crate) mod lanes;
pub(crate) mod record;
pub(crate) mod side;
pub(crate) mod views;
pub(crate) mod visits;

use crate::vocabulary::*;
use std::fmt::Write;

use gradimen_core::thread::Rotation;

/// Width of every drawing of a job, in its own units: one is a pixel on the usual tablet.
pub(crate) const WIDTH: f64 = 1280.0;

/// Where a text is held.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Anchor {
    Start,
    Middle,
    End,
}

/// A drawing under construction; mirrored for a left-handed instrument.
#[derive(Debug)]
pub(crate) struct Drawing {
    out: String,
    mirrored: bool,
}

/// Text as it may stand between tags.
pub(crate) fn escaped(text: &str) -> String {
    text.replace('&', "&amp;")
        .replace('<', "&lt;")
        .replace('>', "&gt;")
        .replace('"', "&quot;")
}

/// Whether a word is a fraction such as `5/8`.
fn as_fraction(word: &str) -> Option<(&str, &str)> {
    let digits = |part: &str| !part.is_empty() && part.bytes().all(|byte| byte.is_ascii_digit());
    word.split_once('/')
        .filter(|(top, bottom)| digits(top) && digits(bottom))
}

/// Text as it may stand between tags, its fractions set by `set`.
pub(crate) fn fractions(text: &str, set: impl Fn(&str, &str) -> String) -> String {
    let words: Vec<String> = escaped(text)
        .split(' ')
        .map(|word| {
            as_fraction(word).map_or_else(|| word.to_owned(), |(top, bottom)| set(top, bottom))
        })
        .collect();
    words.join(" ")
}

/// Fractions in a drawing set as fractions: the shipped font has no eighths, so they are built of small digits.
fn svg_fractions(text: &str) -> String {
    fractions(text, |top, bottom| {
        format!(
            r#"<tspan class="frac-part" dy="-0.4em">{top}</tspan><tspan dy="0.28em">/</tspan><tspan class="frac-part">{bottom}</tspan>"#
        )
    })
}

/// The shape of a verdict, around a middle: shape first, colour second.
pub(crate) fn mark(verdict: Verdict, x: f64, y: f64) -> String {
    let r = 6.0;
    match verdict {
        Verdict::Unread => {
            format!(r#"<circle class="mark mark-open" cx="{x:.1}" cy="{y:.1}" r="5.5"/>"#)
        }
        Verdict::InSpec => format!(r#"<circle class="mark" cx="{x:.1}" cy="{y:.1}" r="{r}"/>"#),
        Verdict::TooHigh => format!(
            r#"<path class="mark mark-out" d="M{:.1} {:.1}l7 12h-14z"/>"#,
            x,
            y - 6.5
        ),
        Verdict::TooLow => format!(
            r#"<path class="mark mark-out" d="M{:.1} {:.1}l7 -12h-14z"/>"#,
            x,
            y + 6.5
        ),
        Verdict::MeasureAgain => format!(
            r#"<circle class="mark mark-open" stroke-dasharray="3 2.7" cx="{x:.1}" cy="{y:.1}" r="5.5"/>"#
        ),
        Verdict::Blocked => format!(
            r#"<path class="mark mark-out" d="M{:.1} {:.1}l7.5 7.5l-7.5 7.5l-7.5 -7.5z"/>"#,
            x,
            y - 7.5
        ),
    }
}

/// A mark that stands in a line of text.
pub(crate) fn inline_mark(verdict: Verdict) -> String {
    format!(
        r#"<svg class="inline-block" width="16" height="16" viewBox="0 0 16 16" aria-hidden="true">{}</svg>"#,
        mark(verdict, 8.0, 8.0)
    )
}

/// The marks of a long list, drawn once on its page; [`listed_mark`] points to them.
pub(crate) fn mark_symbols() -> String {
    let symbol = |verdict: Verdict| {
        let drawn = mark(verdict, 8.0, 8.0);
        format!(
            r#"<symbol id="{}" viewBox="0 0 16 16">{drawn}</symbol>"#,
            symbol_of(verdict)
        )
    };
    let all: String = LISTED.into_iter().map(symbol).collect();
    format!(r#"<svg width="0" height="0" class="absolute" aria-hidden="true">{all}</svg>"#)
}

/// What stands in a list: it has four marks.
const LISTED: [Verdict; 4] = [
    Verdict::Unread,
    Verdict::MeasureAgain,
    Verdict::InSpec,
    Verdict::Blocked,
];

fn symbol_of(verdict: Verdict) -> &'static str {
    match verdict {
        Verdict::Unread => "m-unread",
        Verdict::InSpec => "m-right",
        Verdict::Blocked => "m-stopped",
        _ => "m-working",
    }
}

/// A mark of a list, with the word that it stands for: heard, and shown to a pointer.
pub(crate) fn listed_mark(verdict: Verdict, word: &str) -> String {
    let symbol = symbol_of(verdict);
    format!(r##"<svg class="lm" role="img"><title>{word}</title><use href="#{symbol}"/></svg>"##)
}

/// An arrow that turns the way the screw does, for beside a number of turns.
pub(crate) fn turn_arrow(rotation: Rotation, x: f64, y: f64) -> String {
    // Most of a circle that ends at the top with its head, mirrored for the other way.
    let flip = if rotation == Rotation::Clockwise {
        1
    } else {
        -1
    };
    format!(
        r#"<g transform="translate({x:.1} {y:.1}) scale({flip} 1)"><path class="arrow" d="M6.2 -1.9A6.5 6.5 0 1 1 -1 -6.4"/><path class="aim" d="M-1.5 -10.6v8.4l7.2 -4.2z"/></g>"#
    )
}

/// The same, standing in a line of text.
pub(crate) fn inline_turn_arrow(rotation: Rotation) -> String {
    format!(
        r#"<svg class="draw inline-block align-[-3px]" width="22" height="20" viewBox="-11 -10 22 20" aria-hidden="true">{}</svg>"#,
        turn_arrow(rotation, 0.0, 0.0)
    )
}

impl Drawing {
    pub(crate) const fn new(mirrored: bool) -> Self {
        Self {
            out: String::new(),
            mirrored,
        }
    }

    fn x(&self, x: f64) -> f64 {
        if self.mirrored { WIDTH - x } else { x }
    }

    /// Ready-made markup.
    pub(crate) fn raw(&mut self, markup: &str) {
        self.out.push_str(markup);
    }

    fn push(&mut self, markup: std::fmt::Arguments<'_>) {
        // Writing to a String cannot fail.
        let _ = self.out.write_fmt(markup);
    }

    pub(crate) fn line(&mut self, class: &str, (x1, y1): (f64, f64), (x2, y2): (f64, f64)) {
        let (x1, x2) = (self.x(x1), self.x(x2));
        self.push(format_args!(
            r#"<line class="{class}" x1="{x1:.1}" y1="{y1:.1}" x2="{x2:.1}" y2="{y2:.1}"/>"#
        ));
    }

    /// A string: its width speaks.
    pub(crate) fn wire(&mut self, width: f64, from: f64, to: f64, y: f64) {
        let (x1, x2) = (self.x(from), self.x(to));
        self.push(format_args!(
            r#"<line class="wire" stroke-width="{width:.2}" x1="{x1:.1}" y1="{y:.1}" x2="{x2:.1}" y2="{y:.1}"/>"#
        ));
    }

    pub(crate) fn rect(
        &mut self,
        class: &str,
        (x, y): (f64, f64),
        (width, height): (f64, f64),
        round: f64,
    ) {
        let x = if self.mirrored { self.x(x) - width } else { x };
        self.push(format_args!(
            r#"<rect class="{class}" x="{x:.1}" y="{y:.1}" width="{width:.1}" height="{height:.1}" rx="{round}"/>"#
        ));
    }

    pub(crate) fn circle(&mut self, class: &str, (x, y): (f64, f64), radius: f64) {
        let x = self.x(x);
        self.push(format_args!(
            r#"<circle class="{class}" cx="{x:.1}" cy="{y:.1}" r="{radius:.1}"/>"#
        ));
    }

    pub(crate) fn polygon(&mut self, class: &str, points: &[(f64, f64)]) {
        let points = self.points(points);
        self.push(format_args!(
            r#"<polygon class="{class}" points="{points}"/>"#
        ));
    }

    pub(crate) fn polyline(&mut self, class: &str, points: &[(f64, f64)]) {
        let points = self.points(points);
        self.push(format_args!(
            r#"<polyline class="{class}" points="{points}"/>"#
        ));
    }

    fn points(&self, points: &[(f64, f64)]) -> String {
        points
            .iter()
            .map(|&(x, y)| format!("{:.1},{y:.1}", self.x(x)))
            .collect::<Vec<_>>()
            .join(" ")
    }

    pub(crate) fn text(&mut self, class: &str, (x, y): (f64, f64), anchor: Anchor, text: &str) {
        let x = self.x(x);
        let anchor = match (anchor, self.mirrored) {
            (Anchor::Middle, _) => "middle",
            (Anchor::Start, false) | (Anchor::End, true) => "start",
            (Anchor::End, false) | (Anchor::Start, true) => "end",
        };
        let text = svg_fractions(text);
        self.push(format_args!(
            r#"<text class="{class}" x="{x:.1}" y="{y:.1}" text-anchor="{anchor}">{text}</text>"#
        ));
    }

    pub(crate) fn mark(&mut self, verdict: Verdict, x: f64, y: f64) {
        let markup = mark(verdict, self.x(x), y);
        self.raw(&markup);
    }

    pub(crate) fn turn_arrow(&mut self, rotation: Rotation, x: f64, y: f64) {
        let markup = turn_arrow(rotation, self.x(x), y);
        self.raw(&markup);
    }

    /// An arrow along a lane.
    pub(crate) fn arrow(&mut self, from: f64, to: f64, y: f64) {
        let (from, to) = (self.x(from), self.x(to));
        let back = 6.0_f64.copysign(to - from);
        self.push(format_args!(
            r#"<path class="arrow" d="M{from:.1} {y:.1}H{:.1}"/><path class="aim" d="M{to:.1} {y:.1}l{:.1} -5v10z"/>"#,
            to - back,
            -back * 1.4
        ));
    }

    /// A part of the drawing that leads somewhere, for finger and pointer; marked where it is in hand. Too many to walk through with
    /// the Tab key: the page has fields for that.
    pub(crate) fn link(
        &mut self,
        href: &str,
        label: &str,
        (x, y): (f64, f64),
        (width, height): (f64, f64),
        in_hand: bool,
    ) {
        let left = if self.mirrored { self.x(x) - width } else { x };
        let (href, label) = (escaped(href), escaped(label));
        let current = if in_hand {
            " aria-current=\"true\""
        } else {
            ""
        };
        self.push(format_args!(
            r#"<a href="{href}" class="note" tabindex="-1" aria-label="{label}"{current}><rect x="{left:.1}" y="{y:.1}" width="{width:.1}" height="{height:.1}" rx="3"/></a>"#
        ));
    }

    /// HTML standing in the drawing: the fields.
    pub(crate) fn html(&mut self, (x, y): (f64, f64), (width, height): (f64, f64), html: &str) {
        let x = if self.mirrored { self.x(x) - width } else { x };
        self.push(format_args!(
            r#"<foreignObject x="{x:.1}" y="{y:.1}" width="{width:.1}" height="{height:.1}">{html}</foreignObject>"#
        ));
    }

    /// The whole drawing; its numbers stand in the table beside it as text.
    pub(crate) fn finish(self, height: f64, label: &str) -> String {
        format!(
            r#"<svg class="draw block w-full" viewBox="0 0 {WIDTH} {height:.0}" role="group" aria-label="{}">{}</svg>"#,
            escaped(label),
            self.out
        )
    }
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;

    /// A job with relief, nut and heights read, from the published examples.
    pub(crate) fn example() -> (Known, Plan) {
        let text = include_str!("../../../docs/formats/examples/seven-string-heights.json");
        let job = Job::fold(&Document::parse(text).unwrap().events).unwrap();
        let known = Known::of(std::sync::Arc::new(job)).unwrap();
        let plan = Plan::of(&known);
        (known, plan)
    }

    #[test]
    fn a_left_handed_drawing_is_the_mirror_image() {
        let draw = |mirrored| {
            let mut drawing = Drawing::new(mirrored);
            drawing.rect("slot", (100.0, 10.0), (50.0, 20.0), 0.0);
            drawing.text("small", (100.0, 10.0), Anchor::Start, "nut");
            drawing.finish(100.0, "plan")
        };
        assert!(draw(false).contains(r#"x="100.0" y="10.0" width="50.0""#));
        assert!(draw(true).contains(r#"x="1130.0" y="10.0" width="50.0""#));
        assert!(draw(true).contains(r#"x="1180.0" y="10.0" text-anchor="end""#));
    }

    #[test]
    fn nothing_written_by_hand_becomes_markup() {
        let mut drawing = Drawing::new(false);
        drawing.text("small", (0.0, 0.0), Anchor::End, "<b>&\"");
        let out = drawing.finish(10.0, "a \"b\"");
        assert!(out.contains("&lt;b&gt;&amp;&quot;") && out.contains("a &quot;b&quot;"));
    }

    #[test]
    fn every_verdict_has_a_shape_of_its_own() {
        let all = [
            Verdict::Unread,
            Verdict::InSpec,
            Verdict::TooHigh,
            Verdict::TooLow,
            Verdict::MeasureAgain,
            Verdict::Blocked,
        ];
        let shapes: std::collections::HashSet<String> =
            all.iter().map(|verdict| mark(*verdict, 8.0, 8.0)).collect();
        assert_eq!(shapes.len(), all.len());
    }
}
