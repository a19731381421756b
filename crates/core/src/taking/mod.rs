//! What a person did, taken: readings and events out, or a refusal.

pub mod paper_row;
