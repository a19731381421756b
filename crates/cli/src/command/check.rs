//! `proof check`: the findings of a job file as JSON.

use super::jobs::read_file;
use super::{Problem, print};
use proof_work::review::{Finding, nothing_blocks, review};
use serde::Serialize;
use std::path::Path;

#[derive(Serialize)]
struct CheckReport {
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
            why: finding.consequence(),
            place: finding.place.code(),
            may_be_judged: finding.may_be_judged(),
            what: finding.text(),
            settle: finding.remedy(),
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

/// A row of a database that is not as it was stored.
#[derive(Serialize)]
struct AlteredRow {
    code: &'static str,
    table: &'static str,
    row: i64,
    job: String,
    what: String,
}

#[derive(Serialize)]
struct OfDatabase {
    format: &'static str,
    version: u32,
    database: String,
    blocks: bool,
    findings: Vec<AlteredRow>,
}

fn is_database(file: &Path) -> bool {
    let mut head = [0; 16];
    let read = std::fs::File::open(file).and_then(|mut file| std::io::Read::read_exact(&mut file, &mut head));
    read.is_ok() && head == *b"SQLite format 3\0"
}

/// Whether every reading and event of a database is as it was stored.
fn check_database(file: &Path) -> Result<bool, Problem> {
    let (store, _aside) = super::jobs::open_to_look(file)?;
    let altered = store.altered()?;
    let clear = altered.is_empty();
    let row = |one: proof_store::Altered| AlteredRow {
        code: "altered_row",
        what: one.to_string(),
        table: one.table,
        row: one.row,
        job: one.job,
    };
    let answer = OfDatabase {
        format: "proof-check",
        version: 1,
        database: file.display().to_string(),
        blocks: !clear,
        findings: altered.into_iter().map(row).collect(),
    };
    print(&(serde_json::to_string_pretty(&answer)? + "\n"))?;
    Ok(clear)
}

/// Prints the findings; whether nothing blocks.
pub(crate) fn check(file: &Path) -> Result<bool, Problem> {
    if is_database(file) {
        return check_database(file);
    }
    let job = read_file(file)?;
    let findings = review((&job).into());
    let clear = nothing_blocks(&findings);
    let answer = CheckReport {
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
