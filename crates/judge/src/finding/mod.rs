//! Findings: what may be found of a job, one variant each, and one table that says of each its kind, how it stands,
//! what it says and what settles it.
//!
//! ```
//! use proof_judge::finding::{Found, Kind, Severity};
//!
//! let found = Found::TtUnprotected;
//! assert_eq!((found.kind(), found.severity()), (Kind::TtWithoutRcd, Severity::Fails));
//! assert!(!found.kind().may_be_judged());
//! println!("{}. {} {}", found.text(), found.kind().consequence(), found.remedy());
//! ```

mod found;
mod kind;
mod odd_reading;
mod severity;
mod table;
mod text_then;

pub use found::{Found, Guards, Lacks, OddReading, Particular, Undecided, Unlikely};
pub use kind::Kind;
pub use severity::Severity;
