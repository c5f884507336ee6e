//! A plate that goes from one end of its way to the other and rests nowhere between, whatever is done with its claw.

use gradimen_core::quantity::Length;

use crate::model::Reading;

/// Pulled up by more than a float asks for, over the body or over level (from memory).
pub(crate) const PULLED_UP: Length = Length::from_mm(5.0);
/// Over level by this, and where its saddles stand is no longer where they will (a choice: half of that).
pub(super) const TILTED: Length = Length::from_mm(2.5);
/// So many times from one end to the other it is no matter of a finer turn (from memory).
const TOO_OFTEN: usize = 3;

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum End {
    Flat,
    Up,
}

/// How often a plate went from the body right up, or back, without a rest between.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) struct Swings {
    last: Option<End>,
    times: usize,
}

impl Swings {
    /// A gap was read, on a plate whose gap is so much where it lies level.
    pub(super) fn read(&mut self, value: &Reading, level: Length) {
        let end = match value {
            Reading::Flat => Some(End::Flat),
            Reading::Length { length } if length.middle() == Length::ZERO => Some(End::Flat),
            Reading::Length { length } if length.middle() > level + PULLED_UP => Some(End::Up),
            _ => None,
        };
        match (self.last, end) {
            (Some(last), Some(end)) if last != end => self.times += 1,
            (_, None) => self.times = 0,
            _ => {}
        }
        self.last = end;
    }

    /// Whether it has no rest between.
    pub(super) const fn too_often(self) -> bool {
        self.times >= TOO_OFTEN
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::Measurement;

    fn after(level: f64, gaps: &[f64]) -> bool {
        let mut swings = Swings::default();
        for gap in gaps {
            let value = match gap {
                0.0 => Reading::Flat,
                gap => Reading::Length {
                    length: Measurement::mm(*gap),
                },
            };
            swings.read(&value, Length::from_mm(level));
        }
        swings.too_often()
    }

    #[test]
    fn only_from_end_to_end_and_back_without_a_rest_between_is_running_away() {
        assert!(after(1.0, &[0.0, 12.0, 0.0, 12.0]));
        assert!(after(1.0, &[0.0, 0.0, 9.0, 0.0, 0.0, 11.0]));
        // Out of the way once, and back.
        assert!(!after(1.0, &[0.0, 12.0, 0.0]));
        // It rested.
        assert!(!after(1.0, &[0.0, 12.0, 3.0, 12.0, 0.0]));
        assert!(!after(1.0, &[3.0, 3.5, 2.5, 3.0]));
        // A plate over a deep recess is level with seven millimetres under it: that is its rest, and no end.
        assert!(!after(6.5, &[0.0, 7.0, 0.0, 7.0]));
    }
}
