//! What stops or redirects a job, with the evidence and the ways out.

mod find;
mod setup;

pub use find::findings;
pub use setup::SetupFinding;

use gradimen_core::frets::{Blame, FretFit};
use gradimen_core::quantity::{Cents, Length};
use gradimen_core::units::print;

use crate::record::StringRecord;
use crate::scale::ScaleCheck;

/// How much a finding weighs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Severity {
    /// To be kept in mind.
    Note,
    /// To be looked at before going on.
    Warning,
    /// Stop.
    Stop,
}

impl Severity {
    /// Its word.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Note => "note",
            Self::Warning => "warning",
            Self::Stop => "stop",
        }
    }
}

/// A way out of a saddle's end of travel.
#[derive(Debug, Clone, PartialEq)]
pub enum WayOut {
    /// Turn the saddle round.
    TurnRound {
        /// What that gains.
        gain: Length,
        /// Whether it is enough.
        enough: bool,
    },
    /// Another string whose place lies within the travel.
    OtherString {
        /// Which string to fit.
        string: StringRecord,
        /// Where its saddle would stand.
        setback: Length,
    },
    /// Move the bridge (away from the neck; toward it when negative).
    MoveBridge {
        /// How far, a turn to spare included.
        by: Length,
    },
}

impl WayOut {
    /// In words.
    pub fn sentence(&self) -> String {
        match self {
            Self::TurnRound { gain, enough: true } => {
                format!("turn the saddle round: gains {}, enough", print::mm(*gain))
            }
            Self::TurnRound {
                gain,
                enough: false,
            } => {
                format!(
                    "turn the saddle round: gains {}, not enough alone",
                    print::mm(*gain)
                )
            }
            Self::OtherString { string, setback } => format!(
                "fit {} {}: its saddle would stand at {}",
                string.label(),
                string.make.name(),
                print::tenths(*setback)
            ),
            Self::MoveBridge { by } => format!(
                "move the bridge {} {} the neck",
                print::tenths(enough(*by)),
                if *by >= Length::ZERO {
                    "away from"
                } else {
                    "toward"
                }
            ),
        }
    }
}

/// Something that stops or redirects the job.
#[derive(Debug, Clone, PartialEq)]
pub enum Finding {
    /// The neck is not what its name says.
    Scale(ScaleCheck),
    /// A saddle does not reach its place.
    OutOfTravel {
        /// The string that leads.
        string: u8,
        /// How far it is short; positive at the back, negative at the front.
        short_by: Length,
        /// One standard deviation of that.
        sigma: Length,
        /// What can be done.
        ways: Vec<WayOut>,
    },
    /// Less than a turn is left at the place.
    Tight {
        /// The string that leads.
        string: u8,
    },
    /// A wire works near its strength.
    NearBreaking {
        /// Which string.
        string: u8,
        /// Share of its strength.
        share: f64,
    },
    /// Old strings make everything provisional.
    OldStrings,
    /// Several frets together point at something.
    Frets {
        /// Which string.
        string: u8,
        /// What was fitted.
        fit: FretFit,
    },
    /// A reading does not fit what is known.
    Questioned {
        /// Which string.
        string: u8,
        /// Its place in the journal.
        seq: u64,
        /// What was read.
        cents: Cents,
    },
    /// A screw would not turn.
    Stuck {
        /// The string that leads.
        string: u8,
    },
    /// Something about neck, nut or heights.
    Setup(SetupFinding),
}

impl Finding {
    /// How much it weighs.
    pub fn severity(&self) -> Severity {
        match self {
            Self::Scale(check) if check.agrees => Severity::Note,
            Self::Scale(_) | Self::OutOfTravel { .. } | Self::Stuck { .. } => Severity::Stop,
            Self::Frets { fit, .. } if fit.blame == Blame::Saddle => Severity::Note,
            Self::Tight { .. }
            | Self::NearBreaking { .. }
            | Self::Questioned { .. }
            | Self::Frets { .. } => Severity::Warning,
            Self::OldStrings => Severity::Note,
            Self::Setup(finding) => finding.severity(),
        }
    }

    /// Its word for other programs.
    pub const fn kind(&self) -> &'static str {
        match self {
            Self::Scale(_) => "scale",
            Self::OutOfTravel { .. } => "out_of_travel",
            Self::Tight { .. } => "tight",
            Self::NearBreaking { .. } => "near_breaking",
            Self::OldStrings => "old_strings",
            Self::Frets { .. } => "frets",
            Self::Questioned { .. } => "questioned",
            Self::Stuck { .. } => "stuck",
            Self::Setup(finding) => finding.kind(),
        }
    }

    /// The string it speaks of, if of one.
    pub const fn string(&self) -> Option<u8> {
        match self {
            Self::Scale(check) => Some(check.string),
            Self::OutOfTravel { string, .. }
            | Self::Tight { string }
            | Self::NearBreaking { string, .. }
            | Self::Frets { string, .. }
            | Self::Questioned { string, .. }
            | Self::Stuck { string } => Some(*string),
            Self::OldStrings => None,
            Self::Setup(finding) => finding.string(),
        }
    }

    /// In words.
    pub fn sentence(&self) -> String {
        match self {
            Self::Scale(check) => scale_sentence(check),
            Self::OutOfTravel {
                string,
                short_by,
                sigma,
                ..
            } => {
                let end = if *short_by >= Length::ZERO {
                    "back"
                } else {
                    "front"
                };
                let surely = if short_by.abs() > *sigma * 2.0 {
                    "is"
                } else {
                    "is probably"
                };
                format!(
                    "String {string}: the saddle {surely} {:.1} \u{b1} {:.1} mm short of room at the {end} end of its travel.",
                    short_by.abs().mm(),
                    sigma.mm()
                )
            }
            Self::Tight { string } => format!(
                "String {string}: less than one turn of travel is left where the saddle belongs."
            ),
            Self::NearBreaking { string, share } => format!(
                "String {string} carries {:.0} % of its strength; from 75 % it may break in tuning or bending. Protect the eyes.",
                share * 100.0
            ),
            Self::OldStrings => {
                "The strings are old: whatever is set on them is provisional.".to_owned()
            }
            Self::Frets { string, fit } => frets_sentence(*string, fit),
            Self::Questioned { string, cents, .. } => format!(
                "String {string}: the reading {} cents does not fit the others. Retuned to pitch? The right string? The sign? It is kept but weighs little.",
                print::cents(*cents)
            ),
            Self::Stuck { string } => format!(
                "String {string}: the saddle screw will not turn. Do not force it: slack the string, try penetrating oil and time; if it stays seized or its head is damaged, hand it to a specialist."
            ),
            Self::Setup(finding) => finding.sentence(),
        }
    }

    /// What can be done about it.
    pub fn ways(&self) -> Vec<String> {
        match self {
            Self::OutOfTravel { ways, .. } => ways.iter().map(WayOut::sentence).collect(),
            Self::Setup(finding) => finding.ways(),
            Self::Scale(check) if !check.agrees && check.shift != Length::ZERO => {
                let by = print::tenths(enough(check.shift));
                let (bridge, neck) = if check.shift > Length::ZERO {
                    ("away from the neck", "toward the bridge")
                } else {
                    ("toward the neck", "away from the bridge")
                };
                vec![
                    format!("move the bridge {by} {bridge}"),
                    format!("or move the neck {by} {neck}"),
                    "or fit a neck of the right scale".to_owned(),
                ]
            }
            _ => Vec::new(),
        }
    }
}

/// A shift without its sign, up to the next tenth of a millimetre: rounding down would not do.
fn enough(shift: Length) -> Length {
    Length::from_mm((shift.abs().mm() * 10.0 - 1e-6).ceil() / 10.0)
}

fn scale_sentence(check: &ScaleCheck) -> String {
    let (measured, named) = (print::mm(check.measured), print::mm(check.named));
    if check.agrees {
        return format!(
            "String {}: the scale measures {measured}, on record {named}: they agree.",
            check.string
        );
    }
    let longer = if check.difference() > Length::ZERO {
        "longer"
    } else {
        "shorter"
    };
    let by = print::mm(check.difference().abs());
    let room = if check.shift == Length::ZERO {
        "The saddles can still follow, if the nut stands where it did".to_owned()
    } else {
        format!(
            "The saddles are {} short of room, a turn to spare included",
            print::tenths(enough(check.shift))
        )
    };
    format!(
        "String {}: the scale measures {measured}, {by} {longer} than the {named} on record: a wrong or foreign neck. {room}. Measure fret 12 to a saddle to be sure.",
        check.string
    )
}

fn frets_sentence(string: u8, fit: &FretFit) -> String {
    let remaining: Vec<String> = fit
        .remaining
        .iter()
        .map(|(fret, cents)| format!("{fret}: {}", print::cents(*cents)))
        .collect();
    let left = format!(
        " Fitted: saddle at {:.1} \u{b1} {:.1} mm, belongs at {:.1}; nut {} \u{b1} {:.1} mm toward the bridge; finger {:.1} \u{b1} {:.1} N. With the saddle right there stay, by fret, in cents: {}.",
        fit.setback.value.mm(),
        fit.setback.sigma.mm(),
        fit.right_setback.mm(),
        print::signed(fit.nut.value.mm(), 1),
        fit.nut.sigma.mm(),
        fit.force.value.newtons(),
        fit.force.sigma.newtons(),
        remaining.join(", ")
    );
    match fit.blame {
        Blame::Saddle => format!("String {string}: the saddle explains all frets read.{left}"),
        Blame::Nut => {
            let way = if fit.nut.value < Length::ZERO {
                "its slot is too high or its edge too far from fret 1"
            } else {
                "its slot is low or its edge too near fret 1"
            };
            format!("String {string}: the nut, {way}.{left}")
        }
        Blame::Finger => format!(
            "String {string}: the finger. Press lightly, right behind the fret, and read again.{left}"
        ),
        Blame::Fret(fret) => format!(
            "String {string}: fret {fret} stands alone. Read it again; if it stays, its crown is worn, high or out of place.{left}"
        ),
    }
}
