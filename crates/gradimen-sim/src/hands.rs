//! What hands do to it, exactly as they are told; the strings are brought to pitch afterwards.

use gradimen_bench::journal::Event;
use gradimen_bench::model::{Adjuster, Amount, End, Side};

use crate::SimulatedInstrument;
use crate::plate::Plate;

impl SimulatedInstrument {
    /// Does something to an adjuster and tells it; nothing where it is not one that this instrument has. A saddle that
    /// comes to its end is told with the turns it went, and that it goes no further.
    pub fn adjust(&mut self, adjuster: Adjuster, amount: &Amount) -> Vec<Event> {
        match adjuster {
            Adjuster::SaddleDrive { string } => self.drive(string, amount),
            Adjuster::Bar => self.shift_bar(amount).into_iter().collect(),
            _ => self.turned(adjuster, amount).into_iter().collect(),
        }
    }

    fn turned(&mut self, adjuster: Adjuster, amount: &Amount) -> Option<Event> {
        let turns = match amount {
            Amount::Turns { turns } | Amount::Apart { turns, .. } => *turns,
            Amount::Distance { .. }
            | Amount::Ends { .. }
            | Amount::Reversed
            | Amount::Springs { .. } => 0.0,
        };
        let told = Event::Adjusted {
            adjuster,
            amount: amount.clone(),
        };
        match adjuster {
            Adjuster::TrussRod => {
                if turns > 0.0 && (self.rod_hard || turns > self.neck.left) {
                    return Some(Event::Ended {
                        adjuster,
                        how: End::Hard,
                    });
                }
                self.neck.turn(turns);
            }
            Adjuster::SaddleHeight { string } => match amount {
                Amount::Distance { distance } => self.cut(string, distance.middle().mm()),
                _ => self.raise(usize::from(string - 1), turns)?,
            },
            Adjuster::Post { side } => self.post(side, turns)?,
            Adjuster::NutSlots { strings } => {
                let Amount::Distance { distance } = amount else {
                    return None;
                };
                for string in strings.iter() {
                    // By eye and file: about so much.
                    let by = distance.middle().mm() * self.hand.chance.factor(0.15);
                    self.courses[usize::from(string - 1)].slot += by;
                }
            }
            Adjuster::Bridge => self.slide_bridge(distance(amount)?),
            Adjuster::Pocket { shim } => self.shim(shim, distance(amount)?),
            Adjuster::Claw | Adjuster::Seat => {
                let plate = self.plate.as_mut()?;
                if let Amount::Apart { apart, .. } = amount {
                    plate.skew(*apart);
                }
                let by = match amount {
                    Amount::Distance { distance } => {
                        let sheet = self.record.bridge.vibrato.as_ref()?;
                        distance.middle().ratio(sheet.claw_pitch.middle())
                    }
                    _ => turns,
                };
                plate.turn(by);
            }
            Adjuster::Springs => {
                let Amount::Springs { count, converging } = *amount else {
                    return None;
                };
                self.plate.as_mut()?.hook(usize::from(count), converging);
            }
            Adjuster::PickupScrew { pickup, side } => {
                let coil = self.pickups.get_mut(usize::from(pickup))?;
                let by = coil.screws[side.index()].turn(turns);
                // A lever about the other screw: more at its own end, a little the other way beyond.
                coil.face[side.index()] += by * (1.0 - coil.beyond / (1.0 + 2.0 * coil.beyond));
                coil.face[1 - side.index()] += by * coil.beyond / (1.0 + 2.0 * coil.beyond);
            }
            Adjuster::PolePiece { pickup, string } => {
                let coil = self.pickups.get_mut(usize::from(pickup))?;
                let (pole, screw) = coil.poles.get_mut(usize::from(string - 1))?;
                *pole += screw.as_mut()?.turn(turns);
            }
            Adjuster::SaddleDrive { .. } | Adjuster::Bar => return None,
        }
        self.tune();
        Some(told)
    }

    /// A string's own screws; on a barrel the one on its side.
    fn raise(&mut self, index: usize, turns: f64) -> Option<()> {
        let by = self.lifts.get_mut(index)?.turn(turns);
        let string = u8::try_from(index + 1).unwrap_or(1);
        let group = self
            .record
            .bridge
            .saddles
            .iter()
            .find(|on| on.contains(&string));
        let other = group
            .and_then(|on| on.iter().find(|other| **other != string))
            .copied();
        let Some(other) = other else {
            self.courses[index].crown += by;
            return Some(());
        };
        // Two screws stand beyond the two strings that a barrel carries.
        let other = usize::from(other - 1);
        let apart = (self.across(index) - self.across(other)).abs();
        let beyond = 3.0;
        let whole = apart + 2.0 * beyond;
        self.courses[index].crown += by * (apart + beyond) / whole;
        self.courses[other].crown += by * beyond / whole;
        Some(())
    }

    pub(crate) fn across(&self, index: usize) -> f64 {
        let share = index as f64 / (self.courses.len() - 1).max(1) as f64;
        self.record.spread_bridge.middle().mm() * (share - 0.5)
    }

    fn post(&mut self, side: Side, turns: f64) -> Option<()> {
        let by = self.posts.as_mut()?[side.index()].turn(turns);
        let half = self.record.spread_bridge.middle().mm() / 2.0 + self.beyond;
        for index in 0..self.courses.len() {
            let toward = self.across(index) / half;
            let share = match side {
                Side::Treble => 0.5 - 0.5 * toward,
                Side::Bass => 0.5 + 0.5 * toward,
            };
            // Under a plate they lift its edge, and it stands on them as it stood.
            if self.plate.as_ref().is_some_and(Plate::carries) {
                self.courses[index].lifted += by * share;
            } else {
                self.courses[index].crown += by * share;
            }
        }
        if let Some(plate) = self.plate.as_mut().filter(|plate| plate.carries()) {
            plate.lift(by / 2.0);
        }
        Some(())
    }

    /// A saddle along the string, the strings it carries with it; at the end of its travel it stops.
    fn drive(&mut self, string: u8, amount: &Amount) -> Vec<Event> {
        let saddles = &self.record.bridge.saddles;
        let Some(group) = saddles.iter().find(|on| on.contains(&string)).cloned() else {
            return Vec::new();
        };
        let lead = usize::from(group[0] - 1);
        if *amount == Amount::Reversed {
            self.turn_round(&group);
            self.tune();
            return vec![Event::Adjusted {
                adjuster: Adjuster::SaddleDrive { string },
                amount: Amount::Reversed,
            }];
        }
        let by = match amount {
            Amount::Turns { turns } => self.courses[lead].drive.turn(*turns),
            Amount::Distance { distance } => distance.middle().mm() + self.hand.chance.normal(0.15),
            _ => return Vec::new(),
        };
        let (near, far) = self.travel_of(lead);
        let before = self.courses[lead].setback;
        let wanted = before + by;
        let end = (wanted < near)
            .then_some(End::Top)
            .or((wanted > far).then_some(End::Bottom));
        let after = wanted.clamp(near, far);
        for on in group {
            self.courses[usize::from(on - 1)].setback = after;
        }
        self.tune();
        let adjuster = Adjuster::SaddleDrive { string };
        let Some(how) = end else {
            return vec![Event::Adjusted {
                adjuster,
                amount: amount.clone(),
            }];
        };
        let went = (after - before) / by;
        let stopped = Event::Ended { adjuster, how };
        let made = match amount {
            // A hand counts its turns to the quarter.
            Amount::Turns { turns } => Amount::Turns {
                turns: (turns * went * 4.0).round() / 4.0,
            },
            _ => return vec![stopped],
        };
        let told = (made != Amount::Turns { turns: 0.0 }).then_some(Event::Adjusted {
            adjuster,
            amount: made,
        });
        told.into_iter().chain([stopped]).collect()
    }
}

fn distance(amount: &Amount) -> Option<f64> {
    match amount {
        Amount::Distance { distance } => Some(distance.middle().mm()),
        _ => None,
    }
}
