//! The standard as data: quantities, conductors, limits with their sources, calculators, house rules.
//!
//! Knows nobody else of the workspace. A number from a standard stands here once, in a row with its source.
//!
//! | term | here |
//! |---|---|
//! | ohms, megohms, amps, metres, mm² | [`quantity`]: a type each, with its range |
//! | line, neutral, circuit protective conductor (CPC) | [`conductor::Conductor`] |
//! | ring final circuit, radial | [`shape::Shape`] |
//! | maximum Zs, insulation minimum, RCD trip times | [`limits`] |
//! | Ze, Zs, R1+R2, prospective fault current, the quarter of a ring | [`calc`] |
//! | what a firm may do one way or another | [`house_rules::HouseRules`] |
//!
//! ```
//! use proof_standard::limits::devices::{DeviceStandard, Disconnection, TripType, maximum_zs};
//! use proof_standard::quantity::Amps;
//! use rust_decimal::dec;
//! let b32 = maximum_zs(DeviceStandard::BsEn60898, Some(TripType::B), Amps(dec!(32)), Disconnection::S0_4)?;
//! assert_eq!((b32.printed_ohm, b32.eighty_percent_ohm), (dec!(1.37), dec!(1.10)));
//! assert!(b32.source.line().starts_with("BS 7671"));
//! # Ok::<(), proof_standard::limits::devices::NoMaximum>(())
//! ```
#![deny(missing_docs)]

pub mod quantity;

pub mod text;

pub mod conductor;

pub mod shape;

pub mod limits;

pub mod calc;

pub mod house_rules;
