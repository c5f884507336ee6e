//! At which station something was recorded: where its page shows it.

use super::Event;
use crate::model::{Adjuster, Place, StationId};

impl Event {
    /// The station whose page shows it; nothing for what belongs to none.
    pub const fn station(&self) -> Option<StationId> {
        match self {
            Self::Read { place, .. } => of_place(*place),
            Self::Adjusted { adjuster, .. } | Self::Ended { adjuster, .. } => {
                Some(of_adjuster(*adjuster))
            }
            _ => None,
        }
    }

    /// The string it speaks of, where it is one.
    pub fn string(&self) -> Option<u8> {
        match self {
            Self::Read { place, .. } => place.string(),
            Self::Adjusted { adjuster, .. } | Self::Ended { adjuster, .. } => match adjuster {
                Adjuster::SaddleHeight { string } | Adjuster::SaddleDrive { string } => {
                    Some(*string)
                }
                Adjuster::NutSlots { strings } => strings.iter().next(),
                _ => None,
            },
            _ => None,
        }
    }
}

const fn of_place(place: Place) -> Option<StationId> {
    match place {
        Place::Relief { .. } => Some(StationId::Relief),
        Place::Nut { .. } => Some(StationId::Nut),
        Place::Action { .. } => Some(StationId::Action),
        Place::Intonation { .. }
        | Place::Scale { .. }
        | Place::Saddle { .. }
        | Place::Room { .. } => Some(StationId::Intonation),
        Place::Gap | Place::Spring | Place::ClawEnds => Some(StationId::Balance),
        Place::Pickup { .. } | Place::PolePiece { .. } | Place::Level { .. } => {
            Some(StationId::Pickups)
        }
        Place::RodCheck | Place::Rock { .. } => Some(StationId::First),
        Place::Core { .. } | Place::CutOff { .. } => None,
    }
}

const fn of_adjuster(adjuster: Adjuster) -> StationId {
    match adjuster {
        Adjuster::Claw | Adjuster::Seat | Adjuster::Springs => StationId::Balance,
        Adjuster::TrussRod => StationId::Relief,
        Adjuster::NutSlots { .. } => StationId::Nut,
        Adjuster::SaddleHeight { .. } | Adjuster::Post { .. } | Adjuster::Pocket { .. } => {
            StationId::Action
        }
        Adjuster::SaddleDrive { .. } | Adjuster::Bar | Adjuster::Bridge => StationId::Intonation,
        Adjuster::PickupScrew { .. } | Adjuster::PolePiece { .. } => StationId::Pickups,
    }
}
