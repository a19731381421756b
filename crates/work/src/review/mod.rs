//! The review: what fails, what is missing, what is odd or contradicts itself, across the whole job.
//!
//! Each finding is mended, or judged in writing by a named competent person where the standard
//! leaves it to judgement; the judgement holds for the numbers it was written about and no others.

mod about;
mod circuit;
mod contradiction;
mod described;
mod finding;
mod judged;
mod record;
mod slip;
mod supply;

use finding::struck_out;
pub use finding::{Finding, Reviewed, Where, Written};
use judged::{Circumstances, judged};
pub use slip::without_instrument;

use crate::plan::outstanding::OutstandingQuery;
use proof_job::installation::Circuit;
use proof_job::job::Job;
use proof_job::reading::CurrentReadings;
use proof_job::site::{BoardState, Event, EventKind, Site};
use proof_judge::finding::Severity;
use std::sync::Arc;
use uuid::Uuid;

/// All findings of a job, worst first, in the order of the job.
pub fn review(reviewed: Reviewed<'_>) -> Vec<Finding> {
    review_with(reviewed, &|_| false)
}

/// All findings of a job, worst first.
#[derive(Debug)]
pub struct Findings(Vec<Finding>);

impl proof_job::reading::WorkedOut for Findings {
    const DESCRIBED: bool = false;
}

impl std::ops::Deref for Findings {
    type Target = [Finding];

    fn deref(&self) -> &[Finding] {
        &self.0
    }
}

/// The same of a job, worked out once where the job is kept.
pub fn findings_of(job: &Job) -> Arc<Findings> {
    job.cached(|| Findings(review(job.into())))
}

/// Those of them that fail: what keeps power away whatever else is done. The record of the work, which nobody
/// can fail, is not looked through.
pub fn failures(reviewed: Reviewed<'_>) -> Vec<Finding> {
    let mut findings = installation_findings(reviewed, &|_| false, &|finding| finding.severity == Severity::Fails);
    written(reviewed.events, &mut findings);
    findings
}

/// All findings, with circuits that come to power: left dead or not, they are asked their tests.
pub(crate) fn review_with(reviewed: Reviewed<'_>, comes: &dyn Fn(Uuid) -> bool) -> Vec<Finding> {
    let mut findings = installation_findings(reviewed, comes, &|_| true);
    let settled = reviewed.job.settled();
    record::findings(reviewed, &settled, &mut findings);
    slip::findings(reviewed, &settled, &mut findings);
    described::inspection(reviewed.installation, &mut findings);
    written(reviewed.events, &mut findings);
    findings.sort_by_key(|finding| finding.severity);
    findings
}

/// What is found of the installation and its readings, of those that are wanted.
fn installation_findings(
    reviewed: Reviewed<'_>,
    comes: &dyn Fn(Uuid) -> bool,
    wanted: &dyn Fn(&Finding) -> bool,
) -> Vec<Finding> {
    let settled = reviewed.job.settled();
    let mut findings = Vec::new();
    described::particulars(reviewed, &mut findings);
    described::whole(reviewed.installation, &mut findings);
    supply::origin(reviewed.installation, &settled, &mut findings);
    let site = Site::after(reviewed.events);
    let asked = OutstandingQuery::new(reviewed.installation, &settled, &site, comes);
    supply::boards(reviewed, &site, (&asked, &settled), &mut findings);
    let mut rows = Vec::with_capacity(reviewed.installation.circuits.len());
    for circuit in reviewed.installation.circuits.iter().filter(|circuit| asked.circuit(circuit)) {
        let live = is_live(&site, circuit);
        let found = if live {
            circuit::found::<true>(reviewed.installation, circuit, &settled)
        } else {
            circuit::found::<false>(reviewed.installation, circuit, &settled)
        };
        findings.extend(found.0.iter().filter(|finding| wanted(finding)).cloned());
        rows.push(found.1.clone());
        circuit::shared_devices(&asked, circuit, &mut findings);
    }
    contradiction::across(reviewed.installation, &rows, &mut findings);
    findings.retain(|finding| wanted(finding));
    findings
}

/// What stands in the way of one circuit being live: its own dead tests and what is not put back.
pub fn circuit_findings(reviewed: Reviewed<'_>, settled: &CurrentReadings<'_>, circuit: &Circuit) -> Vec<Finding> {
    let mut findings = Vec::new();
    let live = is_live(&Site::after(reviewed.events), circuit);
    circuit::findings(reviewed.installation, circuit, settled, live, &mut findings);
    written(reviewed.events, &mut findings);
    findings
}

/// Whether a circuit is energised.
fn is_live(site: &Site<'_>, circuit: &Circuit) -> bool {
    site.circuit(circuit.board, circuit.id).0 == BoardState::Energised
}

/// Joins judgements to the findings that they were written about.
fn written(events: &[Event], findings: &mut [Finding]) {
    for event in events {
        let EventKind::Judged { finding, said, bound, position, reason } = &event.kind else { continue };
        if !slip::is_complete(&event.by, position, reason) {
            continue;
        }
        // What was written before judgements bound to numbers is found by the words of its time.
        let same =
            |one: &Finding| bound.as_ref().map_or_else(|| one.found.text_then() == *said, |to| one.bound() == *to);
        let about = |one: &&mut Finding| one.may_be_judged() && one.id() == *finding && same(one);
        for one in findings.iter_mut().filter(about) {
            one.judged = Some(Written {
                by: event.by.clone(),
                position: position.clone(),
                reason: reason.clone(),
                at: event.at,
            });
        }
    }
}

/// Whether nothing blocks a certificate.
pub fn nothing_blocks(findings: &[Finding]) -> bool {
    findings.iter().all(|finding| !finding.blocks())
}
