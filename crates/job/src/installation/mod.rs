//! The installation as described: supply, boards, devices, circuits, points, and the job around it.
//!
//! Lengths are optional everywhere. Material and size belong to a segment: a point may carry its
//! own for the cable that leads into it. An RCD is a device of a board that may cover several
//! ways. A board is fed by the supply or by a circuit of another board, and has its own earthing.

mod answer_checks;
mod answers;
mod board;
mod cable;
mod circuit;
mod decision;
pub mod document;
mod feeds;
pub mod inspection;
mod inspection_answer;
mod lines;
mod own_limits;
mod own_row;
pub mod pattern;
mod people;
mod point;
mod point_id;
pub mod shorthand;
mod source;
mod supply;
pub mod switching;
pub mod validity;
mod whole;
mod withdrawing;
mod withdrawn;

pub use answer_checks::NotAnswered;
pub use answers::{Answered, Change, CircuitAnswer};
pub use board::{Board, Feed, MainSwitch, Residual, ResidualDevice};
pub use cable::{Cable, CableFamily, CableKind, CpcIs, Insulation};
pub use circuit::{Circuit, CircuitVoltage, Device, Serves, Wiring, conductors, conductors_of};
pub use decision::{Decided, Decision};
pub use document::{Document, Documents, Media, Purpose};
pub use feeds::Feeds;
pub use lines::Lines;
pub use own_row::{NoRow, OwnLimit, OwnRow};
pub use people::{Firm, Person};
pub use point::{Accessory, Carried, Point, Position};
pub use point_id::PointId;
pub use source::{OtherSource, SourceKind};
pub use supply::{Bond, Supply};
pub use whole::{Installation, Nature, Party};
pub use withdrawn::Withdrawn;
