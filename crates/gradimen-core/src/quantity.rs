//! Small newtypes: SI inside, named constructors and readers, scaling and same-type sums only.
//!
//! A formula unwraps to `f64` and is written as the book writes it; no bare `f64` crosses a
//! public boundary. Conversion factors: the inch is 25.4 mm and the pound-force
//! 4.448 221 615 260 5 N exactly, the kilogram-force 9.806 65 N exactly (NIST SP 811, appendix B).
//!
//! ```
//! use gradimen_core::quantity::{Force, Length};
//!
//! assert!((Length::from_inches(1.0).mm() - 25.4).abs() < 1e-12);
//! assert!((Force::from_pounds(1.0).newtons() - 4.448_221_615).abs() < 1e-9);
//! ```

use std::iter::Sum;
use std::ops::{Add, AddAssign, Div, Mul, Neg, Sub, SubAssign};

/// Metres in an inch, exact (NIST SP 811).
pub const METRES_PER_INCH: f64 = 0.0254;
/// Newtons in a pound-force, exact (NIST SP 811).
pub const NEWTONS_PER_POUND_FORCE: f64 = 4.448_221_615_260_5;
/// Newtons in a kilogram-force, exact (NIST SP 811).
pub const NEWTONS_PER_KILOGRAM_FORCE: f64 = 9.806_65;

macro_rules! quantity {
    ($(#[$doc:meta])* $name:ident { $($(#[$unit_doc:meta])* $from:ident, $read:ident = $factor:expr;)+ }) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Default)]
        pub struct $name(f64);

        impl $name {
            /// Nothing of it.
            pub const ZERO: Self = Self(0.0);

            $(
                $(#[$unit_doc])*
                pub const fn $from(value: f64) -> Self {
                    Self(value * $factor)
                }

                /// The same quantity read in that unit.
                pub const fn $read(self) -> f64 {
                    self.0 / $factor
                }
            )+

            /// Its size without its sign.
            pub const fn abs(self) -> Self {
                Self(self.0.abs())
            }

            /// The smaller of two.
            pub const fn min(self, other: Self) -> Self {
                Self(self.0.min(other.0))
            }

            /// The larger of two.
            pub const fn max(self, other: Self) -> Self {
                Self(self.0.max(other.0))
            }

            /// How many times `other` goes into it.
            pub fn ratio(self, other: Self) -> f64 {
                self.0 / other.0
            }

            /// False for infinities and for what is not a number.
            pub const fn is_finite(self) -> bool {
                self.0.is_finite()
            }
        }

        impl Add for $name {
            type Output = Self;
            fn add(self, other: Self) -> Self {
                Self(self.0 + other.0)
            }
        }
        impl Sub for $name {
            type Output = Self;
            fn sub(self, other: Self) -> Self {
                Self(self.0 - other.0)
            }
        }
        impl AddAssign for $name {
            fn add_assign(&mut self, other: Self) {
                self.0 += other.0;
            }
        }
        impl SubAssign for $name {
            fn sub_assign(&mut self, other: Self) {
                self.0 -= other.0;
            }
        }
        impl Neg for $name {
            type Output = Self;
            fn neg(self) -> Self {
                Self(-self.0)
            }
        }
        impl Mul<f64> for $name {
            type Output = Self;
            fn mul(self, factor: f64) -> Self {
                Self(self.0 * factor)
            }
        }
        impl Div<f64> for $name {
            type Output = Self;
            fn div(self, divisor: f64) -> Self {
                Self(self.0 / divisor)
            }
        }
        impl Sum for $name {
            fn sum<I: Iterator<Item = Self>>(items: I) -> Self {
                Self(items.map(|item| item.0).sum())
            }
        }
    };
}

quantity! {
    /// A length.
    Length {
        /// From metres.
        from_metres, metres = 1.0;
        /// From millimetres.
        from_mm, mm = 1e-3;
        /// From inches.
        from_inches, inches = METRES_PER_INCH;
        /// From thousandths of an inch.
        from_thou, thou = METRES_PER_INCH * 1e-3;
    }
}

quantity! {
    /// A force: string tension, spring pull, finger pressure.
    Force {
        /// From newtons.
        from_newtons, newtons = 1.0;
        /// From pounds-force.
        from_pounds, pounds = NEWTONS_PER_POUND_FORCE;
        /// From kilograms-force.
        from_kilograms, kilograms = NEWTONS_PER_KILOGRAM_FORCE;
    }
}

quantity! {
    /// A frequency.
    Frequency {
        /// From hertz.
        from_hertz, hertz = 1.0;
    }
}

quantity! {
    /// A difference of pitch: 1200 to the octave.
    Cents {
        /// From cents.
        new, value = 1.0;
    }
}

quantity! {
    /// Mass per length of a string.
    LinearDensity {
        /// From kilograms per metre.
        from_kilograms_per_metre, kilograms_per_metre = 1.0;
        /// From grams per metre.
        from_grams_per_metre, grams_per_metre = 1e-3;
    }
}

quantity! {
    /// A mass.
    Mass {
        /// From kilograms.
        from_kilograms, kilograms = 1.0;
        /// From grams.
        from_grams, grams = 1e-3;
    }
}

quantity! {
    /// Stress, strength or modulus.
    Pressure {
        /// From pascals.
        from_pascals, pascals = 1.0;
        /// From megapascals.
        from_megapascals, megapascals = 1e6;
        /// From gigapascals.
        from_gigapascals, gigapascals = 1e9;
        /// From thousands of pounds-force per square inch.
        from_kpsi, kpsi = 1e3 * NEWTONS_PER_POUND_FORCE / (METRES_PER_INCH * METRES_PER_INCH);
    }
}

quantity! {
    /// Mass per volume.
    Density {
        /// From kilograms per cubic metre.
        from_kilograms_per_cubic_metre, kilograms_per_cubic_metre = 1.0;
    }
}

quantity! {
    /// Resistance of a string to bending: modulus times second moment of area.
    BendingStiffness {
        /// From newton square metres.
        from_newton_square_metres, newton_square_metres = 1.0;
    }
}

quantity! {
    /// How much a neck is bent; positive when the nut comes up.
    Curvature {
        /// From one over metres.
        from_per_metre, per_metre = 1.0;
    }
}

quantity! {
    /// Force per length: how hard a spring is.
    Rate {
        /// From newtons per metre.
        from_newtons_per_metre, newtons_per_metre = 1.0;
    }
}

quantity! {
    /// A small angle.
    Angle {
        /// From radians.
        from_radians, radians = 1.0;
        /// From degrees.
        from_degrees, degrees = std::f64::consts::PI / 180.0;
    }
}

quantity! {
    /// A level of sound or signal, or a difference of two.
    Level {
        /// From decibels.
        from_decibels, decibels = 1.0;
    }
}

quantity! {
    /// Turns of a screw.
    Turns {
        /// From whole turns.
        new, value = 1.0;
    }
}

/// A value and how well it is known.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Estimate<Q> {
    /// The best value.
    pub value: Q,
    /// One standard deviation.
    pub sigma: Q,
}

impl<Q> Estimate<Q> {
    /// A value with its one standard deviation.
    pub const fn new(value: Q, sigma: Q) -> Self {
        Self { value, sigma }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    // NIST SP 811, appendix B.8: 1 in = 25.4 mm, 1 mil = 25.4 um, 1 lbf = 4.448 222 N,
    // 1 kgf = 9.806 65 N, 1 ksi = 6.894 757 MPa.
    #[test]
    fn conversions_agree_with_sp_811() {
        assert_eq!(Length::from_inches(1.0).mm(), 25.4);
        assert!((Length::from_thou(1.0).mm() - 0.0254).abs() < 1e-15);
        assert!((Force::from_pounds(1.0).newtons() - 4.448_222).abs() < 5e-7);
        assert_eq!(Force::from_kilograms(1.0).newtons(), 9.806_65);
        assert!((Pressure::from_kpsi(1.0).megapascals() - 6.894_757).abs() < 5e-7);
    }

    #[test]
    fn sums_and_scaling_stay_in_the_quantity() {
        let total: Length = [1.0, 2.5].into_iter().map(Length::from_mm).sum();
        assert!((total - Length::from_mm(3.5)).abs().mm() < 1e-12);
        assert_eq!((-Turns::new(0.25) * 2.0).abs(), Turns::new(0.5));
        assert_eq!(Cents::new(12.0).ratio(Cents::new(3.0)), 4.0);
    }
}
