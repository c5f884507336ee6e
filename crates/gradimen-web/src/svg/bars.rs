//! Bars under each other, the longest across the sheet.

use super::{Anchor, Drawing, WIDTH};

/// One bar: its name, how long it is, and how that is written.
pub(crate) struct Bar {
    pub(crate) name: String,
    pub(crate) value: f64,
    pub(crate) written: String,
}

const ROW: f64 = 54.0;
const NAMES: f64 = 400.0;
const NUMBERS: f64 = 150.0;

/// All of them; their table stands beside them, so that they are a picture and nothing more.
pub(crate) fn bars(all: &[Bar], label: &str) -> String {
    let mut drawing = Drawing::new(false);
    let most = all.iter().map(|bar| bar.value).fold(0.0, f64::max);
    for (index, bar) in all.iter().enumerate() {
        let y = index as f64 * ROW;
        let share = if most > 0.0 { bar.value / most } else { 0.0 };
        let across = (share * (WIDTH - NAMES - NUMBERS)).max(1.0);
        drawing.text("bars", (NAMES - 16.0, y + 35.0), Anchor::End, &bar.name);
        drawing.rect("bar", (NAMES, y + 10.0), (across, ROW - 20.0), 2.0);
        let beside = (NAMES + across + 12.0, y + 35.0);
        drawing.text("bars", beside, Anchor::Start, &bar.written);
    }
    drawing.finish(all.len().max(1) as f64 * ROW + 6.0, label)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_and_noughts_stay_on_the_sheet() {
        let bar = |value: f64| Bar {
            name: "nut".to_owned(),
            value,
            written: value.to_string(),
        };
        for all in [vec![], vec![bar(0.0)], vec![bar(3.0), bar(0.0)]] {
            let drawn = bars(&all, "time");
            assert!(!drawn.contains("NaN") && !drawn.contains("inf"), "{drawn}");
        }
    }
}
