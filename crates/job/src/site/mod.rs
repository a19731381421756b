//! What is live and what stands altered, for the whole supply: the log, the state that follows from
//! it, isolation, the put-back list, leads, and the state that each test wants.

mod alteration;
mod before_use;
mod board_state;
mod breach;
mod held;
pub mod isolation;
mod leads;
mod log;
mod put_back;
pub mod spoken_to;
mod state;
mod wanted;

pub use alteration::Alteration;
pub use before_use::{LOOKED_AT, before_use, day, found_wrong};
pub use board_state::BoardState;
pub use breach::board_as_fed;
pub use breach::{Breach, Broken, breaches};
pub use breach::{any_earth_off, dead_above, not_dead};
pub use held::held_on;
pub use leads::{LONG_LEAD, LeadState, Leads, leads};
pub use log::{Event, EventKind};
pub use put_back::{OpenItem, OutstandingPoint};
pub use state::{
    Isolated, IsolatedCircuit, LockedOff, Now, Replay, Restored, Since, Site, Transition, board_state, circuit_state,
    is_same_person, left_dead, open_items, outstanding_points,
};
pub use wanted::{Wanted, taken_on};
