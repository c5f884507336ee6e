//! The shop: how it is called on printed sheets, what its work takes and costs, which tools lie on its bench, and the target
//! sets that it keeps by name.
//!
//! ```
//! use gradimen_bench::model::Shop;
//! use gradimen_bench::model::defaults::usual_instrument;
//! use gradimen_bench::model::instrument::Kind;
//!
//! let shop = Shop::default();
//! assert!(shop.validate().is_ok());
//! let guitar = usual_instrument(Kind::Guitar, 6);
//! let low = shop.spec("low electric").ok_or("kept from the start")?;
//! assert_eq!(low.targets(&guitar)?.spec.as_deref(), Some("low electric"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::units::print::BenchUnits;
use gradimen_core::units::{LengthField, LengthUnit};
use serde::{Deserialize, Serialize};

use super::defaults::{house_specs, relief_schools};
use super::instrument::{Instrument, Kind};
use super::keyed::Keyed;
use super::limits::{self, LimitError};
use super::measurement::Measurement;
use super::player::Touch;
use super::target::{Inner, IntonationReference, Targets, Tolerances};
use super::tool::Tool;

/// What puts an instrument back to what its player is used to: always there, and no name for another set.
pub const AS_IT_CAME: &str = "as it came";

/// What bare numbers are taken in where a shop writes targets down.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Default,
    Serialize,
    Deserialize,
    strum::VariantArray,
    strum::IntoStaticStr,
    strum::EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Units {
    /// Thousandths and 64ths of an inch.
    #[default]
    Inches,
    /// Millimetres.
    Millimetres,
}

impl Units {
    /// What pages are written in until a shop says otherwise.
    const fn millimetres() -> Self {
        Self::Millimetres
    }

    /// The units of a bench that its pages are written in.
    pub const fn bench(self) -> BenchUnits {
        match self {
            Self::Inches => BenchUnits::Thousandths,
            Self::Millimetres => BenchUnits::Millimetres,
        }
    }

    /// Its name.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Inches => "thousandths and 64ths of an inch",
            Self::Millimetres => "millimetres",
        }
    }

    /// A field as this shop writes in it.
    pub const fn field(self, field: LengthField) -> LengthField {
        match self {
            Self::Inches => field,
            Self::Millimetres => field.in_unit(LengthUnit::Millimetre),
        }
    }
}

/// The tools that lie on the bench: what a reading is taken to be read with where nobody says otherwise. Where none is named
/// it is taken as it is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Tools {
    /// For relief.
    pub relief: Option<Tool>,
    /// For the gap over fret 1.
    pub nut: Option<Tool>,
    /// For the action.
    pub action: Option<Tool>,
    /// For pickups.
    pub pickups: Option<Tool>,
}

/// A kind of work that a shop offers.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    Serialize,
    Deserialize,
    strum::VariantArray,
    strum::IntoStaticStr,
    strum::EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Work {
    /// A setup.
    Setup,
    /// A setup with small repairs.
    SmallRepairs,
    /// A new nut.
    Nut,
    /// A few frets seated or levelled.
    SpotLevel,
    /// All frets levelled, crowned and polished.
    Level,
    /// New frets.
    Refret,
    /// Handed to a specialist.
    Specialist,
}

impl Work {
    /// Its name.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Setup => "setup",
            Self::SmallRepairs => "setup with small repairs",
            Self::Nut => "new nut",
            Self::SpotLevel => "frets reseated, spot level",
            Self::Level => "level, crown, polish",
            Self::Refret => "refret",
            Self::Specialist => "specialist",
        }
    }

    /// How long it takes, in minutes, until a shop says so itself (levelling two hours and polishing half an hour: common
    /// practice; the others from memory).
    const fn usual_minutes(self) -> u32 {
        match self {
            Self::Setup => 60,
            Self::SmallRepairs => 90,
            Self::Nut => 75,
            Self::SpotLevel => 60,
            Self::Level => 180,
            Self::Refret => 420,
            Self::Specialist => 0,
        }
    }
}

/// What a kind of work takes here, and costs.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Offered {
    /// Which.
    pub work: Work,
    /// Minutes.
    pub minutes: u32,
    /// In the shop's currency; nothing where it is not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<f64>,
}

/// A target set with a name, for one kind of instrument and one touch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct HouseSpec {
    /// What the shop calls it.
    pub name: String,
    /// For which kind.
    pub kind: Kind,
    /// For which touch.
    pub touch: Touch,
    /// The method of relief, by its word.
    pub relief_method: String,
    /// Relief by that method.
    pub relief: Measurement,
    /// The method of the nut: open (0), or held down at this fret.
    pub nut_held: u8,
    /// Gap over fret 1, string 1.
    pub nut_treble: Measurement,
    /// The same, last string.
    pub nut_bass: Measurement,
    /// The fret at which the action is read.
    pub action_fret: u8,
    /// Action of string 1.
    pub action_treble: Measurement,
    /// Of the last string.
    pub action_bass: Measurement,
    /// How the inner strings are laid.
    pub inner: Inner,
    /// How far off each may be, where that is not as the house has it.
    #[serde(default)]
    pub tolerances: Tolerances,
    /// What a fretted note is to be true to, where that was said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub intonation_reference: Option<IntonationReference>,
    /// How sharp of that it is to be, in cents.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub intonation_aim_cents: Option<f64>,
}

impl HouseSpec {
    /// On an instrument, whose board says where its method of relief is held.
    ///
    /// # Errors
    /// [`LimitError`] where that method, or the fret of the action, is not on this board.
    pub fn targets(&self, instrument: &Instrument) -> Result<Targets, LimitError> {
        let schools = relief_schools(instrument);
        let school = schools
            .iter()
            .find(|school| school.key == self.relief_method);
        let school = school.ok_or_else(|| {
            LimitError::new(
                "method of relief",
                &self.relief_method,
                "one that this board has",
            )
        })?;
        if self.action_fret > instrument.frets {
            let allowed = format!("a fret of this board, up to {}", instrument.frets);
            return Err(LimitError::new(
                "fret of the action",
                self.action_fret.to_string(),
                allowed,
            ));
        }
        Ok(Targets {
            relief_span: school.span,
            relief: self.relief.clone(),
            nut_held: self.nut_held,
            nut_treble: self.nut_treble.clone(),
            nut_bass: self.nut_bass.clone(),
            action_fret: self.action_fret,
            action_treble: self.action_treble.clone(),
            action_bass: self.action_bass.clone(),
            inner: self.inner,
            tolerances: self.tolerances.clone(),
            intonation_reference: self.intonation_reference,
            intonation_aim_cents: self.intonation_aim_cents,
            spec: Some(self.name.clone()),
        })
    }

    /// From targets on an instrument, under a name.
    pub fn of(name: &str, instrument: &Instrument, touch: Touch, targets: &Targets) -> Self {
        let schools = relief_schools(instrument);
        let own = schools
            .iter()
            .find(|school| school.span == targets.relief_span);
        Self {
            name: name.to_owned(),
            kind: instrument.kind,
            touch,
            relief_method: own
                .or(schools.first())
                .map_or("", |school| school.key)
                .to_owned(),
            relief: targets.relief.clone(),
            nut_held: targets.nut_held,
            nut_treble: targets.nut_treble.clone(),
            nut_bass: targets.nut_bass.clone(),
            action_fret: targets.action_fret,
            action_treble: targets.action_treble.clone(),
            action_bass: targets.action_bass.clone(),
            inner: targets.inner,
            tolerances: targets.tolerances.clone(),
            intonation_reference: targets.intonation_reference,
            intonation_aim_cents: targets.intonation_aim_cents,
        }
    }

    /// Says what cannot be.
    ///
    /// # Errors
    /// The first [`LimitError`] found.
    pub fn validate(&self) -> Result<(), LimitError> {
        if self.name.trim().is_empty() {
            return Err(LimitError::new("name", "nothing", "a name to choose it by"));
        }
        limits::line("name", &self.name)?;
        if self.name.trim() == AS_IT_CAME {
            return Err(LimitError::new(
                "name",
                &self.name,
                "another name: that one is always there",
            ));
        }
        for (name, measured, within) in [
            ("relief", &self.relief, &limits::RELIEF),
            ("gap at fret 1, treble", &self.nut_treble, &limits::NUT),
            ("gap at fret 1, bass", &self.nut_bass, &limits::NUT),
            ("action, treble", &self.action_treble, &limits::ACTION),
            ("action, bass", &self.action_bass, &limits::ACTION),
        ] {
            limits::named_length(name, measured, within)?;
        }
        for (name, given) in self.tolerances.lengths() {
            limits::named_length(name, given, &limits::TOLERANCE)?;
        }
        limits::count(
            "fret of the action",
            usize::from(self.action_fret),
            &(5..=36),
        )?;
        limits::count("held for the nut", usize::from(self.nut_held), &(0..=12))
    }
}

/// A shop keeps no more target sets than this.
const SPECS: usize = 60;
/// What work may take, in minutes, and cost.
const MINUTES: u32 = 10_000;
const PRICE: f64 = 1_000_000.0;

/// A shop.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Shop {
    /// Its name on printed sheets.
    pub name: String,
    /// What it writes lengths in.
    #[serde(default)]
    pub units: Units,
    /// What its pages are written in.
    #[serde(default = "Units::millimetres")]
    pub shown: Units,
    /// What lies on its bench.
    #[serde(default)]
    pub tools: Tools,
    /// What its prices are in.
    #[serde(default)]
    pub currency: String,
    /// What its work takes and costs.
    pub work: Vec<Offered>,
    /// Its target sets.
    pub specs: Vec<HouseSpec>,
}

impl Default for Shop {
    fn default() -> Self {
        let usual = |work: Work| Offered {
            work,
            minutes: work.usual_minutes(),
            price: None,
        };
        Self {
            name: String::new(),
            units: Units::default(),
            shown: Units::millimetres(),
            tools: Tools::default(),
            currency: String::new(),
            work: Work::all().map(usual).collect(),
            specs: house_specs(),
        }
    }
}

impl Shop {
    /// A target set by its name.
    pub fn spec(&self, name: &str) -> Option<&HouseSpec> {
        self.specs.iter().find(|spec| spec.name == name)
    }

    /// The sets for a kind of instrument, those for a touch first.
    pub fn specs_for(&self, kind: Kind, touch: Touch) -> Vec<&HouseSpec> {
        let mut found: Vec<&HouseSpec> =
            self.specs.iter().filter(|spec| spec.kind == kind).collect();
        found.sort_by_key(|spec| spec.touch != touch);
        found
    }

    /// What a kind of work takes and costs.
    pub fn offered(&self, work: Work) -> Option<&Offered> {
        self.work.iter().find(|offered| offered.work == work)
    }

    /// Says what cannot be.
    ///
    /// # Errors
    /// The first [`LimitError`] found.
    pub fn validate(&self) -> Result<(), LimitError> {
        limits::line("name of the shop", &self.name)?;
        limits::line("currency", &self.currency)?;
        limits::count("house specs", self.specs.len(), &(0..=SPECS))?;
        for (index, spec) in self.specs.iter().enumerate() {
            spec.validate()?;
            if self.specs[..index]
                .iter()
                .any(|other| other.name == spec.name)
            {
                return Err(LimitError::new(
                    "name",
                    &spec.name,
                    "a name that no other set has",
                ));
            }
        }
        for offered in &self.work {
            if offered.minutes > MINUTES {
                let read = offered.minutes.to_string();
                return Err(LimitError::new("minutes", read, format!("up to {MINUTES}")));
            }
            if let Some(price) = offered.price
                && !(0.0..=PRICE).contains(&price)
            {
                return Err(LimitError::new("price", price.to_string(), "0 or more"));
            }
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::defaults::usual_instrument;

    #[test]
    fn the_trades_own_sets_stand_under_their_names() {
        // Common practice: low electric .050 and .050 at 12; 9.5 in radius 3/64 and 4/64 at 17; bass 5/64 at 17; the
        // drop-tuned player's 3.5/32 and 4/32.
        let shop = Shop::default();
        let guitar = usual_instrument(Kind::Guitar, 6);
        let parts = |name: &str| {
            let targets = shop.spec(name).unwrap().targets(&guitar).unwrap();
            let inches = |of: &Measurement| of.middle().inches();
            (
                inches(&targets.action_treble),
                inches(&targets.action_bass),
                targets.action_fret,
            )
        };
        let near = |(a, b, fret): (f64, f64, u8), (c, d, at): (f64, f64, u8)| {
            (a - c).abs() < 1e-6 && (b - d).abs() < 1e-6 && fret == at
        };
        assert!(near(parts("low electric"), (0.050, 0.050, 12)));
        assert!(near(
            parts("9.5 in radius, at 17"),
            (3.0 / 64.0, 4.0 / 64.0, 17)
        ));
        assert!(near(
            parts("drop-tuned, .013s"),
            (3.5 / 32.0, 4.0 / 32.0, 12)
        ));
        let bass = usual_instrument(Kind::Bass, 4);
        let wanted = shop.spec("bass").unwrap().targets(&bass).unwrap();
        assert!((wanted.action_treble.middle().inches() - 5.0 / 64.0).abs() < 1e-6);
        assert_eq!(
            (wanted.action_fret, wanted.spec.as_deref()),
            (17, Some("bass"))
        );
    }

    #[test]
    fn a_set_keeps_its_method_on_another_board_and_says_where_it_cannot() {
        let long = HouseSpec {
            relief_method: "last_8".into(),
            ..Shop::default().specs[0].clone()
        };
        let mut short = usual_instrument(Kind::Guitar, 6);
        short.frets = 14;
        short.neck.joint_fret = 12;
        assert_eq!(long.targets(&short).unwrap().relief_span.high, 14);
        let high = HouseSpec {
            action_fret: 17,
            ..long.clone()
        };
        assert!(
            high.targets(&short)
                .unwrap_err()
                .to_string()
                .contains("up to 14")
        );
        let held = HouseSpec {
            relief_method: "17_8".into(),
            ..long
        };
        assert!(held.targets(&short).is_err());
    }

    #[test]
    fn what_cannot_be_is_refused_by_name() {
        let twice = |shop: &mut Shop| shop.specs.push(shop.specs[0].clone());
        let nameless = |shop: &mut Shop| shop.specs[0].name = " ".into();
        let taken = |shop: &mut Shop| shop.specs[0].name = AS_IT_CAME.into();
        let far = |shop: &mut Shop| shop.specs[0].relief = Measurement::mm(40.0);
        let dear = |shop: &mut Shop| shop.work[0].price = Some(f64::NAN);
        let changes: [fn(&mut Shop); 5] = [twice, nameless, taken, far, dear];
        for (change, says) in
            changes
                .iter()
                .zip(["no other set", "a name", "always there", "relief", "price"])
        {
            let mut shop = Shop::default();
            change(&mut shop);
            let refused = shop.validate().unwrap_err().to_string();
            assert!(refused.contains(says), "{says}: {refused}");
        }
        let text = serde_json::to_string(&Shop::default()).unwrap();
        assert_eq!(
            serde_json::from_str::<Shop>(&text).unwrap(),
            Shop::default()
        );
    }
}
