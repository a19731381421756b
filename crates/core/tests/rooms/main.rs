//! The rooms of the core, tried on the demo's jobs and on small ones of their own.

mod certificate;
mod design;
mod disturbance;
mod expectation;
mod gate;
mod hook_up;
mod instrument;
mod live;
mod minor;
mod paper_row;
mod polarity;
mod preparation;
mod reading;
mod review;
mod run;
mod search;
mod sequence;
mod sets;
mod shorthand;
mod site;
mod spur_metres;
mod supply_chain;
mod texts;
mod validity;
mod verdict;
mod wording;
