//! A dead circuit as resistors: what a meter reads between any two terminals, and what best explains
//! what was read.
//!
//! | term | here |
//! |---|---|
//! | a ring or radial with its faults | [`network::description::Description`] |
//! | end-to-end, R1+Rn and R1+R2 at each point | [`network::circuit::expect`] |
//! | what was read on a circuit | [`diagnosis::Case`] |
//! | what explains it, likeliest first | [`diagnosis::diagnose`] |
//!
//! ```
//! use proof_physics::network::circuit::expect;
//! use proof_physics::network::description::{Description, OhmPerMetre, Point};
//! use proof_standard::quantity::{Celsius, Metres, SquareMillimetres};
//! use proof_standard::shape::Shape;
//! // A ring of 2.5/1.5 mm², two points, three legs of 10 m.
//! let cores = OhmPerMetre::copper([2.5, 2.5, 1.5].map(SquareMillimetres::literal), Celsius::literal(20.0)).unwrap();
//! let point = |id: &str| Point { id: id.into(), spur_from: None, leg: Metres::literal(10.0) };
//! let return_leg = Some(Metres::literal(10.0));
//! let points = vec![point("A"), point("B")];
//! let read = expect(&Description { shape: Shape::Ring, cores, points, return_leg, faults: vec![] })?;
//! // End to end of the line: 30 m · 7.41 mΩ/m.
//! assert!((read.end_to_end.unwrap().r1.unwrap() - 0.2223).abs() < 1e-9);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
#![deny(missing_docs)]

pub mod network;

pub mod diagnosis;
