//! What is to be done, and in which order: the steps of a circuit, a board, the origin; what each
//! alters and connects; the run that walks them; the search for a weak circuit.

pub mod at_switch;
pub mod disturbance;
pub mod hook_up;
pub mod outstanding;
pub mod polarity;
pub mod preparation;
pub mod reach;
pub mod run;
pub mod search;
pub mod sequence;
pub mod sets;
pub mod substitute;
