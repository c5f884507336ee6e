//! Wire and wrap metals: density, moduli, strength.
//!
//! Sources. Music wire (ASTM A228) moduli by diameter and strength `S = A / d^m` with
//! A = 201 kpsi in^m, m = 0.145: Budynas and Nisbett, *Shigley's Mechanical Engineering
//! Design*, tables 10-4 and 10-5. Densities of the metals: handbook values at room
//! temperature (steel 7850, nickel 8900, ferritic stainless 7750, phosphor bronze 8800 kg/m3);
//! from memory, good to about 1 %.
//!
//! ```
//! use gradimen_core::{material::music_wire_strength, quantity::Length};
//!
//! // Shigley: S = 201 kpsi in^m / d^0.145 at .010 inch is 392 kpsi, 2.70 GPa.
//! let strength = music_wire_strength(Length::from_inches(0.010));
//! assert!((strength.pascals() / 1e9 - 2.70).abs() < 0.01);
//! ```

use crate::quantity::{Density, Length, Pressure};

/// Density of music wire.
pub const MUSIC_WIRE_DENSITY: Density = Density::from_kilograms_per_cubic_metre(7850.0);

/// Young's modulus of music wire by diameter (Shigley, table 10-5).
pub fn music_wire_young(diameter: Length) -> Pressure {
    let inches = diameter.inches();
    Pressure::from_kpsi(if inches < 0.0325 {
        29_500.0
    } else if inches < 0.0635 {
        29_000.0
    } else if inches <= 0.125 {
        28_500.0
    } else {
        28_000.0
    })
}

/// Shear modulus of music wire by diameter (Shigley, table 10-5).
pub fn music_wire_shear(diameter: Length) -> Pressure {
    let inches = diameter.inches();
    Pressure::from_kpsi(if inches < 0.0325 {
        12_000.0
    } else if inches < 0.0635 {
        11_850.0
    } else if inches <= 0.125 {
        11_750.0
    } else {
        11_600.0
    })
}

/// Least tensile strength of music wire: 201 kpsi / d^0.145, d in inches (Shigley, table 10-4).
pub fn music_wire_strength(diameter: Length) -> Pressure {
    Pressure::from_kpsi(201.0 / diameter.inches().powf(0.145))
}

/// What a string is wrapped with.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum WrapMetal {
    /// Nickel-plated steel; the plating of a few per cent is neglected.
    NickelPlatedSteel,
    /// Pure nickel.
    Nickel,
    /// Stainless steel.
    Stainless,
    /// Phosphor bronze.
    Bronze,
}

impl WrapMetal {
    /// Every wrap metal.
    pub const ALL: [Self; 4] = [
        Self::NickelPlatedSteel,
        Self::Nickel,
        Self::Stainless,
        Self::Bronze,
    ];

    /// Its density.
    pub const fn density(self) -> Density {
        Density::from_kilograms_per_cubic_metre(match self {
            Self::NickelPlatedSteel => 7850.0,
            Self::Nickel => 8900.0,
            Self::Stainless => 7750.0,
            Self::Bronze => 8800.0,
        })
    }

    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::NickelPlatedSteel => "nickel-plated steel",
            Self::Nickel => "pure nickel",
            Self::Stainless => "stainless steel",
            Self::Bronze => "phosphor bronze",
        }
    }
}
