//! What is checked on many circuits and jobs, and against something outside.

mod arrows;
mod bayes_bound;
mod dead_mistakes;
mod diagnosis_accuracy;
mod fault_levels;
mod held_out;
mod hidden_mistakes;
mod loop_currents;
mod names;
mod one_outstanding;
mod particles;
mod simulated_jobs;

/// As many as a test looks at: a part of them in each check, all in the long one (`./check long`).
pub(crate) fn of_all(usually: u64, all: u64) -> u64 {
    if std::env::var_os("PROOF_LONG").is_some() { all } else { usually }
}
