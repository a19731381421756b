//! What explains the readings of a circuit of a job: its case for [`proof_physics::diagnosis`], and its switching.

pub mod circuit;
pub mod switching;
