//! The physics and geometry of an electric guitar or bass setup.
//!
//! SI inside, small newtypes at every boundary, no IO, no clock, no randomness.
//! One set of axes everywhere: `x` along the string from the nut edge toward the
//! bridge, `y` across the board (positive to the treble side), `z` away from the board.
//! A cents reading is *fretted minus reference*: positive is sharp.
//!
//! ```
//! use gradimen_core::{
//!     intonation::{Fingering, Heights, Speaking},
//!     pitch::{ConcertPitch, Pitch},
//!     quantity::Length,
//!     string::StringSpec,
//! };
//!
//! // A plain .017 at G3 on 648 mm: where does its saddle belong?
//! let string = StringSpec::plain(Length::from_inches(0.017))?;
//! let note: Pitch = "G3".parse()?;
//! let speaking = Speaking::new(
//!     &string,
//!     note.frequency(ConcertPitch::default()),
//!     Length::from_mm(648.0),
//!     Heights::new(Length::from_mm(0.45), Length::from_mm(1.8))?,
//!     Fingering::default(),
//! );
//! let setback = speaking.setback_for(12, Default::default())?;
//! assert!(setback.mm() > 3.0 && setback.mm() < 5.0);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! - [`quantity`]: the newtypes. [`units`]: what the trade writes, read and printed.
//! - [`pitch`]: notes, concert pitch, tunings.
//! - [`material`], [`string`], [`ladder`], [`tension`]: wire, unit weight, pull, stress, and the inverse questions.
//! - [`fretboard`]: fret places, board arc, where the strings lie. [`thread`]: screws.
//! - [`neck`]: fret tops, relief by any school. [`action`]: the open string over them, saddles, radius, wedges.
//! - [`clearance`]: where a plucked string touches a fret.
//! - [`vibration`]: the stiff string. [`intonation`]: fretted notes and saddle moves.
//! - [`frets`]: which of saddle, nut and finger is to blame. [`shared`]: two strings, one saddle.
//! - [`spring`], [`vibrato`]: plates that balance strings against springs. [`pickup`]: gaps and levels.
//! - [`probability`]: shares of the normal distribution.
//! - [`solve`]: the one root finder and the one least-squares helper.

pub mod action;
pub mod clearance;
pub mod cores;
pub mod fretboard;
pub mod frets;
pub mod intonation;
pub mod ladder;
pub mod level;
pub mod material;
pub mod neck;
pub mod pickup;
pub mod pitch;
pub mod probability;
pub mod quantity;
pub mod season;
pub mod shared;
pub mod solve;
pub mod spring;
pub mod string;
pub mod survey;
pub mod tension;
pub mod thread;
pub mod units;
pub mod vibration;
pub mod vibrato;
