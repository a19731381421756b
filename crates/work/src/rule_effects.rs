//! What a house rule changes in a job: readings, nulls, visits of the whole walk, before and after; or
//! how readings are judged; or nothing.

use crate::live_tests::Live;
use crate::plan::disturbance::{Disturbance, step_disturbances};
use crate::plan::run::{Counts, Order, Run};
use crate::review::{Where, review};
use proof_job::job::Job;
use proof_job::reading::Key;
use proof_judge::finding::Kind;
use proof_standard::house_rules::Rule;

/// What a way of a rule makes of a job.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Cost {
    /// The whole walk, dead and at power.
    pub counts: Counts,
    keys: Vec<Key>,
    /// What is altered for the dead readings, each once.
    altered: Vec<Disturbance>,
    found: Vec<(Kind, Where)>,
}

/// What a rule changes, from the way in use to another.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Effect {
    /// The plan: what it costs as it is, and then.
    Plan(Counts, Counts),
    /// The plan costs the same: other readings are asked for, or in another way.
    Readings,
    /// The same readings: what is linked, taken out or held off for them is another.
    Altered,
    /// No reading: how what is read is judged, findings before and after.
    Judged(usize, usize),
    /// Nothing, in this job as it stands.
    Nothing,
}

/// What a job costs with the rules that it has.
pub fn cost(job: &Job, order: Order) -> Cost {
    let settled = job.settled();
    let (dead, live) = (Run::new(job, &settled, order), Live::new(job, &settled, order));
    let keys = dead.planned.iter().chain(&live.planned).map(|planned| planned.step.key.clone()).collect();
    let mut altered: Vec<Disturbance> = Vec::new();
    for one in dead.planned.iter().flat_map(|planned| step_disturbances(&job.installation, &planned.step)) {
        if !altered.contains(&one) {
            altered.push(one);
        }
    }
    let (mut counts, power) = (dead.counts(false), live.counts(false));
    counts.readings += power.readings;
    counts.board_visits += power.board_visits;
    counts.points += power.points;
    let found = review(job.into()).into_iter().map(|finding| (finding.kind(), finding.place)).collect();
    Cost { counts, keys, altered, found }
}

/// What choosing another way of a rule changes; nothing where the way is not known.
pub fn effect(job: &Job, before: &Cost, rule: &Rule, way: &str, order: Order) -> Effect {
    let mut other = job.clone();
    if !(rule.choose)(&mut other.installation.house_rules, way) {
        return Effect::Nothing;
    }
    let after = cost(&other, order);
    if before.counts != after.counts {
        return Effect::Plan(before.counts, after.counts);
    }
    if before.keys != after.keys {
        return Effect::Readings;
    }
    if before.altered != after.altered {
        return Effect::Altered;
    }
    if before.found != after.found {
        return Effect::Judged(before.found.len(), after.found.len());
    }
    Effect::Nothing
}
