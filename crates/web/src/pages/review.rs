//! The review: what fails, what is missing, what is odd, each with where it is mended.

use super::{blocking, framed};
use crate::Shared;
use crate::error::{Handled, page};
use crate::frame::Frame;
use actix_web::web::{Data, Path};
use askama::Template;
use proof_core::finding::{Finding, Severity, Where, review};
use uuid::Uuid;

pub struct Group {
    pub severity: Severity,
    pub explanation: &'static str,
    pub findings: Vec<(Finding, String)>,
}

#[derive(Template)]
#[template(path = "review.html")]
struct ReviewPage {
    frame: Frame,
    job: Uuid,
    groups: Vec<Group>,
    clear: bool,
    nothing: bool,
}

/// The page where a finding is mended.
pub fn link(job: Uuid, place: &Where) -> String {
    match place {
        Where::Firm => "/firm".to_owned(),
        Where::Particulars => format!("/jobs/{job}/particulars"),
        Where::Origin(step) => format!("/jobs/{job}/origin?at={step}"),
        Where::Board(board) => format!("/jobs/{job}/boards/{board}"),
        Where::Circuit(circuit, Some(step)) => format!("/jobs/{job}/circuits/{circuit}?at={step}"),
        Where::Circuit(circuit, None) => format!("/jobs/{job}/circuits/{circuit}/edit"),
        Where::Inspection => format!("/jobs/{job}/inspection"),
    }
}

/// Findings by severity, worst first.
pub fn grouped(job: Uuid, findings: Vec<Finding>) -> Vec<Group> {
    [
        (Severity::Fails, "Outside a limit or not put back. A certificate waits for each."),
        (Severity::Missing, "Not read or not written. A certificate waits for each."),
        (
            Severity::Odd,
            "Inside its limit, but not what it should be. Look again; what stays goes on the certificate as a remark.",
        ),
    ]
    .into_iter()
    .map(|(severity, explanation)| Group {
        severity,
        explanation,
        findings: findings
            .iter()
            .filter(|finding| finding.severity == severity)
            .map(|finding| (finding.clone(), link(job, &finding.place)))
            .collect(),
    })
    .filter(|group| !group.findings.is_empty())
    .collect()
}

pub async fn show(shared: Data<Shared>, path: Path<Uuid>) -> Handled {
    let id = path.into_inner();
    let job = blocking(move || Ok(shared.store.job(id)?)).await?;
    let job = &job.job;
    let findings = review(job.into());
    let clear = proof_core::finding::nothing_blocks(&findings);
    let nothing = findings.is_empty();
    let frame = framed("Review", "review", job, &job.events);
    page(&ReviewPage { frame, job: id, groups: grouped(id, findings), clear, nothing })
}
