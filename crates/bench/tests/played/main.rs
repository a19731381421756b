//! The bench: rig, instrument, exercises, questions, and the jobs that are made by it.

mod apprentice;
mod demo;
mod hands;
mod kept;
mod levels;
mod paper;
mod questions;
mod rig;
mod single_figures;
mod stand_in;
mod wide_rig;
