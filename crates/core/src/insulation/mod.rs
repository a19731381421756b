//! Insulation of a whole board: its pairs, what a reading of many circuits says of each, and the
//! search for what pulls it down.

pub mod board;
pub mod preparation;
pub mod search;
