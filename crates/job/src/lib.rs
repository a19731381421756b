//! A job: what is installed, what it is read with, what was read, what was done on site.
//!
//! Knows no judgement: what a reading is worth is asked of the crate above.
//!
//! | term | here |
//! |---|---|
//! | supply, boards, circuits, points | [`installation::Installation`] |
//! | a circuit in one typed line | [`installation::shorthand`] |
//! | instrument and calibration | [`instrument::Instrument`] |
//! | a reading, what was typed and what it says | [`reading::Reading`] |
//! | readings that were neither struck out nor read again | [`reading::CurrentReadings`] |
//! | isolated, live, altered, put back | [`site::Site`], worked out of the log |
//!
//! ```
//! use proof_job::installation::shorthand::parse;
//! use proof_job::reading::Value;
//! use proof_job::reading::entry::{Field, parse as read};
//! use rust_decimal::dec;
//! use uuid::Uuid;
//! let (circuit, _) = parse("1 Press room sockets ring B32 2.5/1.5 9pts")?.build(Uuid::nil(), Uuid::nil());
//! assert_eq!((circuit.shape.key(), circuit.points.len()), ("ring", 9));
//! assert_eq!(read("0.43", Field::Continuity, dec!(999))?, Value::Number(dec!(0.43)));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
#![deny(missing_docs)]

pub mod instrument;

pub mod installation;

pub mod reading;

pub mod site;

pub mod job;
