//! Whole jobs drawn at random, for the tests and benchmarks of the core.

pub mod good_job;
