//! `proof check`: the findings of a job file as JSON.

use super::jobs::read_file;
use super::{Problem, print};
use proof_core::review::{Finding, nothing_blocks, review};
use serde::Serialize;
use std::path::Path;

#[derive(Serialize)]
struct Answer {
    format: &'static str,
    version: u32,
    reference: String,
    blocks: bool,
    findings: Vec<One>,
}

#[derive(Serialize)]
struct One {
    id: String,
    code: &'static str,
    severity: &'static str,
    blocks: bool,
    about: String,
    what: String,
    why: &'static str,
    settle: &'static str,
    place: String,
    may_be_judged: bool,
    #[serde(skip_serializing_if = "Option::is_none")]
    judged: Option<Judged>,
}

#[derive(Serialize)]
struct Judged {
    by: String,
    position: String,
    reason: String,
    at: String,
}

impl From<Finding> for One {
    fn from(finding: Finding) -> Self {
        Self {
            id: finding.id(),
            code: finding.kind().code(),
            severity: finding.severity.key(),
            blocks: finding.blocks(),
            why: finding.why(),
            place: finding.place.code(),
            may_be_judged: finding.may_be_judged(),
            what: finding.what(),
            settle: finding.then(),
            judged: finding.judged.map(|written| Judged {
                by: written.by,
                position: written.position,
                reason: written.reason,
                at: written.at.to_string(),
            }),
            about: finding.about,
        }
    }
}

/// Prints the findings; whether nothing blocks.
pub(crate) fn check(file: &Path) -> Result<bool, Problem> {
    let job = read_file(file)?;
    let findings = review((&job).into());
    let clear = nothing_blocks(&findings);
    let answer = Answer {
        format: "proof-check",
        version: 1,
        reference: job.reference,
        blocks: !clear,
        findings: findings.into_iter().map(One::from).collect(),
    };
    let mut text = serde_json::to_string_pretty(&answer).map_err(|error| Problem(error.to_string()))?;
    text.push('\n');
    print(&text)?;
    Ok(clear)
}
