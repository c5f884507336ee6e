//! One string: from gauge and construction to unit weight and stiffness.
//!
//! - Plain steel: `mu = rho pi d^2 / 4`, `EA = E pi d^2 / 4`, `EI = E pi d^4 / 64`.
//! - Round-wound, each layer of touching turns: `mu += rho_w (pi^2 / 4) dw (dc + dw)`, with `dc`
//!   the diameter wound upon. Turns that touch lie inclined, which lengthens the wire by exactly
//!   what it widens the pitch, so this is the helix integral and no approximation to it.
//! - Flat-wound: the ribbon fills its ring, `mu += rho_w pi (d^2 - dc^2) / 4`.
//!
//! Stretch and bending belong to the core; the wrap slides. A hexagonal core is quoted by the
//! diameter of the round wire of equal area.
//!
//! ```
//! use gradimen_core::{quantity::Length, string::StringSpec};
//!
//! // Plain steel of .010 inch: rho pi d^2 / 4 = 0.398 g/m.
//! let string = StringSpec::plain(Length::from_inches(0.010))?;
//! assert!((string.unit_weight().kilograms_per_metre() * 1e3 - 0.398).abs() < 0.001);
//! # Ok::<(), gradimen_core::string::StringError>(())
//! ```

use std::f64::consts::PI;

use thiserror::Error;

use crate::cores;
use crate::material::{MUSIC_WIRE_DENSITY, WrapMetal, music_wire_strength, music_wire_young};
use crate::quantity::{BendingStiffness, Force, Length, LinearDensity, Mass, Pressure};

/// How a string is made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Construction {
    /// Bare music wire.
    Plain,
    /// Round wire wrapped around a core, one layer or two.
    RoundWound(WrapMetal),
    /// Ribbon wrapped around a core.
    FlatWound(WrapMetal),
}

impl Construction {
    /// Whether there is a wrap.
    pub const fn is_wound(self) -> bool {
        !matches!(self, Self::Plain)
    }
}

/// Why there is no such string.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum StringError {
    /// A gauge nobody draws or winds.
    #[error("read a gauge of {read:.4} in, expected {low} to {high} in for this kind of string")]
    Gauge {
        /// The gauge in inches.
        read: f64,
        /// The least in inches.
        low: f64,
        /// The most in inches.
        high: f64,
    },
    /// A core that leaves no room for a wrap, or hardly any core.
    #[error(
        "read a core of {core:.4} in under a gauge of {gauge:.3} in, expected a core of a fifth to nine tenths of the gauge"
    )]
    Core {
        /// The core in inches.
        core: f64,
        /// The gauge in inches.
        gauge: f64,
    },
    /// A plain string has no separate core.
    #[error("a plain string has no core to measure")]
    PlainCore,
    /// A weighing that cannot belong to this gauge.
    #[error(
        "read {read:.3} g/m, expected {low:.3} to {high:.3} g/m for this gauge: check length and grams"
    )]
    UnitWeight {
        /// The weighed value in g/m.
        read: f64,
        /// The least that is plausible.
        low: f64,
        /// The most that is plausible.
        high: f64,
    },
}

/// A string of a set: gauge, construction, and what is known of its inside.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct StringSpec {
    gauge: Length,
    construction: Construction,
    core: Option<Length>,
    weighed: Option<LinearDensity>,
}

/// Uncertainty of an estimated core diameter, as a share: makers differ by about this much.
const CORE_ESTIMATE_SIGMA: f64 = 0.08;
/// The same under two layers, where they differ more.
const CORE_ESTIMATE_SIGMA_HEAVY: f64 = 0.15;
/// Uncertainty of a core measured with a micrometer, as a share (a hundredth of a millimetre).
const CORE_MEASURED_SIGMA: f64 = 0.02;
/// A weighing further than this from the computed weight is a slip, not another alloy.
const WEIGHING_TOLERANCE: f64 = 0.3;
/// Share of a two-layer wrap that is the inner layer (common practice; an estimate).
const INNER_LAYER_SHARE: f64 = 0.45;

impl StringSpec {
    /// A string of a gauge and construction, its core estimated where it has one.
    ///
    /// # Errors
    /// [`StringError::Gauge`] outside what is made: plain .006 to .030 in, wound .014 to .160 in.
    pub fn new(gauge: Length, construction: Construction) -> Result<Self, StringError> {
        let (low, high) = if construction.is_wound() {
            (0.014, 0.160)
        } else {
            (0.006, 0.030)
        };
        let inches = gauge.inches();
        if !(low - 1e-9..=high + 1e-9).contains(&inches) {
            return Err(StringError::Gauge {
                read: inches,
                low,
                high,
            });
        }
        Ok(Self {
            gauge,
            construction,
            core: None,
            weighed: None,
        })
    }

    /// A plain steel string.
    ///
    /// # Errors
    /// As [`StringSpec::new`].
    pub fn plain(gauge: Length) -> Result<Self, StringError> {
        Self::new(gauge, Construction::Plain)
    }

    /// The same string with its core measured (round diameter of equal area).
    ///
    /// # Errors
    /// [`StringError::Core`] or [`StringError::PlainCore`].
    pub fn with_core(self, core: Length) -> Result<Self, StringError> {
        if !self.construction.is_wound() {
            return Err(StringError::PlainCore);
        }
        let share = core.ratio(self.gauge);
        if !(0.2..=0.9).contains(&share) {
            return Err(StringError::Core {
                core: core.inches(),
                gauge: self.gauge.inches(),
            });
        }
        Ok(Self {
            core: Some(core),
            ..self
        })
    }

    /// The same string with its unit weight from a weighed cut-off.
    ///
    /// # Errors
    /// [`StringError::UnitWeight`] when it is off by more than any alloy explains.
    pub fn with_weighing(self, mass: Mass, length: Length) -> Result<Self, StringError> {
        let weighed = LinearDensity::from_kilograms_per_metre(mass.kilograms() / length.metres());
        let computed = Self {
            weighed: None,
            ..self
        }
        .unit_weight();
        let (low, high) = (
            computed * (1.0 - WEIGHING_TOLERANCE),
            computed * (1.0 + WEIGHING_TOLERANCE),
        );
        if weighed >= low && weighed <= high {
            Ok(Self {
                weighed: Some(weighed),
                ..self
            })
        } else {
            Err(StringError::UnitWeight {
                read: weighed.grams_per_metre(),
                low: low.grams_per_metre(),
                high: high.grams_per_metre(),
            })
        }
    }

    /// Outer diameter.
    pub const fn gauge(&self) -> Length {
        self.gauge
    }

    /// How it is made.
    pub const fn construction(&self) -> Construction {
        self.construction
    }

    /// Diameter of what carries the tension: the whole wire, the measured core, or its estimate.
    pub fn core(&self) -> Length {
        match (self.construction, self.core) {
            (Construction::Plain, _) => self.gauge,
            (_, Some(core)) => core,
            (_, None) => cores::usual_core(self.gauge),
        }
    }

    /// Whether the core is only the usual ratio and not a measurement.
    pub const fn core_is_estimate(&self) -> bool {
        self.construction.is_wound() && self.core.is_none()
    }

    /// How uncertain the core diameter is, as a share (one standard deviation).
    pub fn core_uncertainty(&self) -> f64 {
        match (self.construction, self.core) {
            (Construction::Plain, _) => 0.0,
            (_, Some(_)) => CORE_MEASURED_SIGMA,
            (_, None) if self.gauge > cores::TWO_LAYERS_ABOVE => CORE_ESTIMATE_SIGMA_HEAVY,
            (_, None) => CORE_ESTIMATE_SIGMA,
        }
    }

    /// The same string with its core scaled, to see what its uncertainty does.
    pub(crate) fn with_core_scaled(self, factor: f64) -> Self {
        if self.construction.is_wound() {
            Self {
                core: Some(self.core() * factor),
                weighed: Some(self.unit_weight()),
                ..self
            }
        } else {
            self
        }
    }

    /// Whether the unit weight comes from a scale.
    pub const fn is_weighed(&self) -> bool {
        self.weighed.is_some()
    }

    /// Mass per length: weighed, or computed from gauge, core and metals.
    pub fn unit_weight(&self) -> LinearDensity {
        if let Some(weighed) = self.weighed {
            return weighed;
        }
        let (d, dc) = (self.gauge.metres(), self.core().metres());
        let core = MUSIC_WIRE_DENSITY.kilograms_per_cubic_metre() * PI * dc * dc / 4.0;
        let wrap = match self.construction {
            Construction::Plain => 0.0,
            Construction::RoundWound(metal) => {
                let density = metal.density().kilograms_per_cubic_metre();
                let build = (d - dc) / 2.0;
                let mut under = dc;
                let mut sum = 0.0;
                for share in layers(self.gauge) {
                    let dw = build * share;
                    sum += density * PI * PI / 4.0 * dw * (under + dw);
                    under += 2.0 * dw;
                }
                sum
            }
            Construction::FlatWound(metal) => {
                metal.density().kilograms_per_cubic_metre() * PI * (d * d - dc * dc) / 4.0
            }
        };
        LinearDensity::from_kilograms_per_metre(core + wrap)
    }

    /// Resistance to stretching, modulus times area of the core.
    pub fn stretch_stiffness(&self) -> Force {
        let dc = self.core();
        Force::from_newtons(music_wire_young(dc).pascals() * PI * dc.metres().powi(2) / 4.0)
    }

    /// Resistance to bending, modulus times second moment of the core.
    pub fn bending_stiffness(&self) -> BendingStiffness {
        let dc = self.core();
        BendingStiffness::from_newton_square_metres(
            music_wire_young(dc).pascals() * PI * dc.metres().powi(4) / 64.0,
        )
    }

    /// Stress in the core under a tension.
    pub fn stress(&self, tension: Force) -> Pressure {
        Pressure::from_pascals(tension.newtons() / (PI * self.core().metres().powi(2) / 4.0))
    }

    /// Strength of the core wire.
    pub fn strength(&self) -> Pressure {
        music_wire_strength(self.core())
    }
}

/// Shares of the wrap's build taken by each layer, inner first: thick strings carry two.
fn layers(gauge: Length) -> &'static [f64] {
    if gauge > cores::TWO_LAYERS_ABOVE {
        &[INNER_LAYER_SHARE, 1.0 - INNER_LAYER_SHARE]
    } else {
        &[1.0]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn inches(value: f64) -> Length {
        Length::from_inches(value)
    }

    #[test]
    fn a_plain_string_weighs_what_its_wire_weighs() {
        // By hand: 7850 kg/m3 * pi/4 * (0.254 mm)^2 = 0.39777 g/m.
        let string = StringSpec::plain(inches(0.010)).unwrap();
        assert!((string.unit_weight().grams_per_metre() - 0.397_77).abs() < 1e-5);
        assert!(!string.core_is_estimate());
    }

    #[test]
    fn a_flat_wrap_of_the_cores_density_weighs_like_solid_wire() {
        let flat = StringSpec::new(
            inches(0.045),
            Construction::FlatWound(WrapMetal::NickelPlatedSteel),
        )
        .unwrap();
        let solid = 7850.0 * PI / 4.0 * inches(0.045).metres().powi(2);
        assert!((flat.unit_weight().kilograms_per_metre() / solid - 1.0).abs() < 1e-12);
    }

    #[test]
    fn a_weighing_replaces_the_computed_weight_and_a_slip_is_refused() {
        let wound = StringSpec::new(
            inches(0.046),
            Construction::RoundWound(WrapMetal::NickelPlatedSteel),
        )
        .unwrap();
        let computed = wound.unit_weight();
        let weighed = wound
            .with_weighing(
                Mass::from_grams(computed.grams_per_metre() * 0.1 * 1.02),
                Length::from_mm(100.0),
            )
            .unwrap();
        assert!((weighed.unit_weight().ratio(computed) - 1.02).abs() < 1e-12);
        assert!(weighed.is_weighed());
        let slip = wound.with_weighing(Mass::from_grams(6.8), Length::from_mm(100.0));
        assert!(matches!(slip, Err(StringError::UnitWeight { .. })));
    }

    #[test]
    fn a_measured_core_changes_stiffness_but_must_fit_the_gauge() {
        let wound = StringSpec::new(
            inches(0.046),
            Construction::RoundWound(WrapMetal::NickelPlatedSteel),
        )
        .unwrap();
        let thicker = wound.with_core(inches(0.020)).unwrap();
        assert!(thicker.stretch_stiffness() > wound.stretch_stiffness());
        assert!(thicker.core_uncertainty() < wound.core_uncertainty());
        assert!(matches!(
            wound.with_core(inches(0.045)),
            Err(StringError::Core { .. })
        ));
        assert!(matches!(
            StringSpec::plain(inches(0.010))
                .unwrap()
                .with_core(inches(0.005)),
            Err(StringError::PlainCore)
        ));
    }

    #[test]
    fn refuses_gauges_nobody_makes() {
        assert!(StringSpec::plain(inches(0.046)).is_err());
        assert!(StringSpec::plain(inches(0.001)).is_err());
        assert!(StringSpec::new(inches(0.2), Construction::RoundWound(WrapMetal::Nickel)).is_err());
    }
}
