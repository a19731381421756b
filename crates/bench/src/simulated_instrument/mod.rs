//! A simulated instrument on the line: it sends its readings as `proof-feed`, keeps each until it is answered, and sends
//! what is not answered again after a cut line or a restart. Everything that it sends says that it is simulated.

mod memory;
mod pressed;
mod wire;

pub use memory::{Memory, NoMemory};
pub use pressed::{NotPressed, job_messages, pressed};
pub use wire::SimulatedInstrument;
