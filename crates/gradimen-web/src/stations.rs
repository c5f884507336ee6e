//! The stations of a job: a folder each, with what its forms tell (`form.rs`), its page and its drawing.

pub(crate) mod action;
pub(crate) mod balance;
pub(crate) mod clearance;
pub(crate) mod intake;
pub(crate) mod intonation;
pub(crate) mod job_plan;
pub(crate) mod nut;
pub(crate) mod pickups;
pub(crate) mod record;
pub(crate) mod relief;
pub(crate) mod strings;
pub(crate) mod what_if;

/// A station of the job page.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Section {
    Intake,
    Strings,
    Balance,
    Relief,
    Nut,
    Action,
    Intonation,
    Pickups,
    Clearance,
    Plan,
    WhatIf,
    Record,
}

impl Section {
    pub(crate) const ALL: [Self; 12] = [
        Self::Intake,
        Self::Strings,
        Self::Balance,
        Self::Relief,
        Self::Nut,
        Self::Action,
        Self::Intonation,
        Self::Pickups,
        Self::Clearance,
        Self::Plan,
        Self::WhatIf,
        Self::Record,
    ];

    pub(crate) const fn key(self) -> &'static str {
        match self {
            Self::Intake => "intake",
            Self::Strings => "strings",
            Self::Balance => "balance",
            Self::Relief => "relief",
            Self::Nut => "nut",
            Self::Action => "action",
            Self::Intonation => "intonation",
            Self::Pickups => "pickups",
            Self::Clearance => "clearance",
            Self::Plan => "plan",
            Self::WhatIf => "whatif",
            Self::Record => "record",
        }
    }

    pub(crate) fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|station| station.key() == key)
    }

    /// The key of the keyboard; the numbers between wait for their stations.
    pub(crate) const fn digit(self) -> &'static str {
        match self {
            Self::Intake => "1",
            Self::Strings => "2",
            Self::Balance => "3",
            Self::Relief => "4",
            Self::Nut => "5",
            Self::Action => "6",
            Self::Intonation => "7",
            Self::Pickups => "8",
            Self::Clearance => "9",
            Self::Plan => "p",
            Self::WhatIf => "i",
            Self::Record => "0",
        }
    }
}
