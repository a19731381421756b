//! The profile of a circuit, with a step at work.

use super::entry::{EntryContext, trip_window};
use crate::draw::profile;
use proof_job::installation::Circuit;
use proof_job::job::Job;
use proof_job::reading::CurrentReadings;
use proof_job::site::{LeadState, leads};
use proof_judge::verdict::CircuitJudge;
use proof_standard::house_rules::LeadCompensation;
use proof_standard::shape::Shape;
use proof_work::actions::leads_said;
use proof_work::plan::outstanding::step_state;
use proof_work::plan::sequence::{proposed_place, shown_steps};
use proof_work::plan::substitute::Scope;

/// What the sheet of a circuit is worked out with.
pub(super) fn entry_context<'a>(
    job: &'a Job,
    circuit: &'a Circuit,
    settled: &'a CurrentReadings<'a>,
    (judge, state): (&'a CircuitJudge<'a>, &'a LeadState),
) -> EntryContext<'a> {
    let installation = &job.installation;
    EntryContext {
        steps: shown_steps(installation, circuit, settled),
        settled,
        judge: Box::new(|step, value| judge.judge(step, value)),
        explain: Box::new(|step, value| judge.explain(step, value)),
        band: Box::new(|step| judge.band(&step.key)),
        window: Box::new(|step| trip_window(installation, circuit, step)),
        state: Box::new(|step| step_state(installation, Scope::Circuit(circuit), settled, step)),
        leads: Box::new(|step| leads_said(installation, step)),
        proposed: Box::new(|step| proposed_place(circuit, settled, step)),
        nulled: Box::new(|step| state.serves(LeadCompensation::Hold, leads(installation, step))),
        base: format!("/jobs/{}/circuits/{}", job.id, circuit.id),
        ring: circuit.shape == Shape::Ring,
        of_what: "this circuit",
    }
}

/// The profile of a circuit, with a step in hand.
pub(super) fn profile_of(job: &Job, circuit: &Circuit, here: &str) -> profile::Profile {
    let settled = job.settled();
    let judge = CircuitJudge::new(&job.installation, circuit, &settled);
    let state = LeadState::from_job(&job.events, &job.readings);
    let bench = entry_context(job, circuit, &settled, (&judge, &state));
    profile::draw_profile(circuit, &bench, here)
}
