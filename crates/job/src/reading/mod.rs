//! A reading: what it is of, what was typed, what it means, and in what context it was taken.
//!
//! Readings are appended, never changed. Which reading supersedes which is decided by [`Key`]:
//! test, place, conductor pair, line, method, and for RCDs multiple and half-cycle.

mod cache;
mod current;
pub mod entry;
mod highest;
mod key;
pub mod keys;
pub mod message;
mod step;
mod taken;
mod value;
mod why;

pub use cache::{Cache, WorkedOut};
pub use current::{CurrentReadings, ReadingIndex, StrikeOuts};
pub use highest::{highest, highest_r1_r2};
pub use key::{Key, Method, Place, Subject, Test};
pub use step::{GoesTo, Stage, Step, is_low_ohm};
pub use taken::{Context, LeadNull, Origin, Reading};
pub use value::Value;
pub use why::Why;
