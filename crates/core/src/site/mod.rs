//! What is live and what stands altered.

mod alteration;
pub mod isolation;
mod leads;
mod log;
mod put_back;
mod state;

pub use alteration::Alteration;
pub use leads::{LeadState, Leads, leads};
pub use log::{Event, EventKind};
pub use put_back::{OpenItem, Owed, open_items, owed};
pub use state::{BoardState, LeftDead, board_state, circuit_state, left_dead};
