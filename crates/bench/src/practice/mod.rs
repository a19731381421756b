//! Exercises at the bench, in the order of the work: what is posed, what is asked, and what it earns. Endless by seed; the
//! same seed poses the same.

pub mod apprentice;
mod before_reading;
mod dead;
mod drawn;
mod live;
pub mod made;
mod mark_board;
mod marking;
pub mod marks;
pub mod paper;
mod posed;
pub mod progress;
mod schedule;
pub mod two_way;
mod whole_board;
mod words;

pub use posed::{Ask, Exercise, Level, Posed, Truth, Wrong};
