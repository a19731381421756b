//! Jobs, readings, events and certificates in SQLite. Every SQL statement stands in this crate.
//!
//! WAL, foreign keys, a busy timeout and `synchronous=FULL` on every connection of the pool: what
//! was answered is on the disk. One immediate transaction an operation; it rolls back on drop.

mod actions;
mod backup;
mod certificates;
mod chain;
mod database;
mod documents;
mod edit;
mod error;
mod feeds;
mod job_head;
mod jobs;
mod keys;
mod opening;
mod overlay;
mod patterns;
mod practice;
pub mod private;
mod readings;
mod recent;
mod refusal;
mod registers;
mod rows;
mod schema;

pub use actions::Stored;
pub use certificates::{CertificateQuery, CertificateRow, Papers, Status};
pub use chain::{Altered, Wrong};
pub use database::{Sent, Store};
pub use edit::Edit;
pub use error::{Result, StoreError};
pub use feeds::{Counts, Feed, HeldMessage, Outcome, Received};
pub use job_head::JobHead;
pub use jobs::JobRow;
pub use keys::{KeyEvent, PlainCopy};
pub use practice::{Practice, PracticeBegun, PracticeDone};
pub use registers::Begun;

pub use refusal::{Differs, MOST_ACTS, Refused};
