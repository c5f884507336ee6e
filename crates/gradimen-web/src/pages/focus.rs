//! Where the cursor goes.

use gradimen_bench::model::Place;

/// The field in which a place is read, where it has one of its own.
pub(crate) fn field_of(place: Place) -> Option<String> {
    Some(match place {
        Place::Relief { side, .. } => format!("relief-{}", side.index() + 1),
        Place::Pickup { pickup, side } => {
            format!("pickup-{}", usize::from(pickup) * 2 + side.index() + 1)
        }
        Place::Nut { string, .. } => format!("nut-{string}"),
        Place::Action { string, .. } => format!("action-{string}"),
        Place::Intonation { string, .. } => format!("reading-{string}"),
        Place::Saddle { string } => format!("place-{string}"),
        Place::Room { string } => format!("room-{string}"),
        Place::Gap => "balance-1".to_owned(),
        _ => return None,
    })
}
