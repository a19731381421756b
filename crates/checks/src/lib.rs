//! Whole jobs drawn at random, for the tests and benchmarks of the core.

// What is drawn here is right, or the tests that use it stop.
#![allow(clippy::missing_panics_doc)]

pub mod good_job;
