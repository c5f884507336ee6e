//! What stands in version 1, told in today's form.

use super::{Event, Gap, HeightAdjuster, HeightEnd, RodStop};
use crate::journal::event::{self as today};
use crate::model::{
    Adjuster, Amount, Buzz, End, Measurement, Observation, Place, Reading, Tool, Wanted,
};

fn with(measured: Measurement, tool: Option<Tool>) -> Measurement {
    Measurement {
        tool: tool.or(measured.tool),
        ..measured
    }
}

fn length(measured: Measurement, tool: Option<Tool>) -> Reading {
    Reading::Length {
        length: with(measured, tool),
    }
}

fn read(place: Place, value: Reading, confirmed: bool) -> today::Event {
    today::Event::Read {
        place,
        value,
        confirmed,
        replaces: false,
    }
}

fn turned(adjuster: Adjuster, turns: f64) -> today::Event {
    today::Event::Adjusted {
        adjuster,
        amount: Amount::Turns { turns },
    }
}

fn moved(adjuster: Adjuster, distance: Measurement) -> today::Event {
    today::Event::Adjusted {
        adjuster,
        amount: Amount::Distance { distance },
    }
}

fn ended(adjuster: Adjuster, how: End) -> today::Event {
    today::Event::Ended { adjuster, how }
}

fn wanted(wanted: Wanted) -> today::Event {
    today::Event::Targeted { wanted }
}

fn observed(what: Observation) -> today::Event {
    today::Event::Observed { what }
}

const fn height(adjuster: HeightAdjuster) -> Adjuster {
    match adjuster {
        HeightAdjuster::String(string) => Adjuster::SaddleHeight { string },
        HeightAdjuster::Post(side) => Adjuster::Post { side },
    }
}

const fn end(end: HeightEnd) -> End {
    match end {
        HeightEnd::Bottom => End::Bottom,
        HeightEnd::Top => End::Top,
    }
}

impl Event {
    /// The same in today's form.
    pub fn upcast(self) -> today::Event {
        match self {
            Self::Opened(opened) => today::Event::Opened(opened),
            Self::PlayerChanged { player } => wanted(Wanted::Player { player }),
            Self::HeightsGiven { heights } => observed(Observation::AsItCame { heights }),
            Self::Strung { strung } => today::Event::Restrung { strung },
            Self::CoreMeasured { tool, string, core } => {
                read(Place::Core { string }, length(core, tool), false)
            }
            Self::CutOffWeighed { string, weighing } => read(
                Place::CutOff { string },
                Reading::Weighed { weighing },
                false,
            ),
            Self::StringsAged { old } => observed(Observation::Strings { old }),
            Self::TunerChosen { tuner } => observed(Observation::Tuner { tuner }),
            Self::ScaleMeasured {
                tool,
                string,
                nut_to_twelfth,
            } => read(Place::Scale { string }, length(nut_to_twelfth, tool), false),
            Self::SaddleMeasured {
                tool,
                string,
                twelfth_to_saddle,
            } => read(
                Place::Saddle { string },
                length(twelfth_to_saddle, tool),
                false,
            ),
            Self::RoomMeasured {
                tool,
                string,
                behind,
            } => read(Place::Room { string }, length(behind, tool), false),
            Self::IntonationRead {
                string,
                fret,
                cents,
                against,
                kept,
            } => read(
                Place::Intonation { string, fret },
                Reading::Note {
                    cents,
                    against,
                    resolution_cents: None,
                    by_ear: false,
                },
                kept,
            ),
            // A move of nothing said that a stuck screw turns after all.
            Self::SaddleMoved { string, turns: 0.0 } => {
                ended(Adjuster::SaddleDrive { string }, End::Free)
            }
            Self::SaddleMoved { string, turns } => turned(Adjuster::SaddleDrive { string }, turns),
            Self::SaddleTurnedRound { string } => today::Event::Adjusted {
                adjuster: Adjuster::SaddleDrive { string },
                amount: Amount::Reversed,
            },
            Self::BridgeMoved { by } => moved(Adjuster::Bridge, by),
            Self::ReliefRead {
                tool,
                side,
                span,
                seen,
                kept,
            } => {
                let value = match seen {
                    Gap::Open { gap } => length(gap, tool),
                    Gap::Touches => Reading::Touches,
                    Gap::Rocks => Reading::Rocks,
                };
                read(Place::Relief { side, span }, value, kept)
            }
            Self::RodTurned { turns: 0.0 } => ended(Adjuster::TrussRod, End::Free),
            Self::RodTurned { turns } => turned(Adjuster::TrussRod, turns),
            Self::RodStopped { how } => ended(
                Adjuster::TrussRod,
                match how {
                    RodStop::Hard => End::Hard,
                    RodStop::Rubbery => End::Rubbery,
                    RodStop::NoEffect => End::NoEffect,
                },
            ),
            Self::NutRead {
                tool,
                string,
                held,
                gap,
                kept,
            } => read(Place::Nut { string, held }, length(gap, tool), kept),
            Self::NutMoved { strings, by } => moved(
                Adjuster::NutSlots {
                    strings: strings.into_iter().collect(),
                },
                by,
            ),
            Self::ActionRead {
                tool,
                string,
                fret,
                held,
                gap,
                kept,
            } => read(
                Place::Action { string, fret, held },
                length(gap, tool),
                kept,
            ),
            Self::HeightMoved {
                adjuster,
                turns: 0.0,
            } => ended(height(adjuster), End::Free),
            Self::HeightMoved { adjuster, turns } => turned(height(adjuster), turns),
            Self::HeightAtEnd { adjuster, end: at } => ended(height(adjuster), end(at)),
            Self::NeckShimmed { shim, thickness } => moved(Adjuster::Pocket { shim }, thickness),
            Self::TargetsSet { targets } => wanted(Wanted::Setup { targets }),
            Self::BuzzHeard {
                string,
                held,
                attack,
            } => observed(Observation::Buzz {
                buzz: Buzz {
                    string,
                    held,
                    attack,
                    doubt: None,
                },
            }),
            Self::BalanceRead { tool, gap, kept } => read(
                Place::Gap,
                gap.map_or(Reading::Flat, |gap| length(gap, tool)),
                kept,
            ),
            Self::ClawTurned { turns, apart } => today::Event::Adjusted {
                adjuster: Adjuster::Claw,
                amount: if apart == 0.0 {
                    Amount::Turns { turns }
                } else {
                    Amount::Apart { turns, apart }
                },
            },
            Self::SeatMoved { by } => moved(Adjuster::Seat, by),
            Self::SpringMeasured {
                tool,
                length: measured,
            } => read(Place::Spring, length(measured, tool), false),
            Self::ClawEnds { tool, treble, bass } => read(
                Place::ClawEnds,
                Reading::Ends {
                    treble: with(treble, tool),
                    bass: with(bass, tool),
                },
                false,
            ),
            Self::SpringsHooked { count, converging } => today::Event::Adjusted {
                adjuster: Adjuster::Springs,
                amount: Amount::Springs { count, converging },
            },
            Self::BalanceWanted { school } => wanted(Wanted::Balance { school }),
            Self::PickupRead {
                tool,
                pickup,
                side,
                gap,
                kept,
            } => read(Place::Pickup { pickup, side }, length(gap, tool), kept),
            Self::PickupTurned {
                pickup,
                side,
                turns,
            } => turned(Adjuster::PickupScrew { pickup, side }, turns),
            Self::PoleRead {
                tool,
                pickup,
                string,
                gap,
            } => read(
                Place::PolePiece { pickup, string },
                length(gap, tool),
                false,
            ),
            Self::PoleTurned {
                pickup,
                string,
                turns,
            } => turned(Adjuster::PolePiece { pickup, string }, turns),
            Self::PickupAtEnd {
                pickup,
                side,
                end: at,
            } => ended(Adjuster::PickupScrew { pickup, side }, end(at)),
            Self::PickupWanted {
                pickup,
                treble,
                bass,
            } => wanted(Wanted::Pickup {
                pickup,
                treble,
                bass,
            }),
            Self::LevelRead {
                pickup,
                string,
                decibels,
            } => read(
                Place::Level { pickup, string },
                Reading::Level {
                    decibels,
                    doubt_decibels: None,
                },
                false,
            ),
            Self::ScrewStuck { string } => ended(Adjuster::SaddleDrive { string }, End::Stuck),
            Self::Preferred { string, alone } => wanted(Wanted::SharedSaddle { string, alone }),
            Self::Noted { text } => today::Event::Noted { text },
            Self::StageSet { stage } => today::Event::Staged { stage },
            Self::Undone { target } => today::Event::Undone { target },
            Self::Redone { target } => today::Event::Redone { target },
        }
    }
}
