//! The certificate: a frozen snapshot as canonical bytes, their digest and the version of the rules.
//!
//! Canonical: JSON with the keys in the order of these types, no white space. Its status and what
//! replaced it stand elsewhere; a job file does not contain its own certificates.

use crate::finding::{Severity, review};
use crate::installation::Job;
use crate::reading::Settled;
use crate::schedule::{ResultRow, result_row};
use jiff::Timestamp;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use uuid::Uuid;

/// Version of the rules that judged it: raised when a limit or a rule changes.
pub const RULES_VERSION: u32 = 1;

/// The part of the work that somebody signs for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Role {
    /// Design.
    Design,
    /// Construction.
    Construction,
    /// Inspection and testing.
    Inspection,
}

impl Role {
    /// In the order printed.
    pub const ALL: [Self; 3] = [Self::Design, Self::Construction, Self::Inspection];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Design => "design",
            Self::Construction => "construction",
            Self::Inspection => "inspection",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Design => "Design",
            Self::Construction => "Construction",
            Self::Inspection => "Inspection and testing",
        }
    }
}

/// A signature by typed name.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Signature {
    /// For which part.
    pub role: Role,
    /// Name as typed.
    pub name: String,
    /// Position.
    pub position: String,
    /// When.
    pub at: Timestamp,
}

/// What is frozen.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Certificate {
    /// Its number.
    pub number: String,
    /// The certificate that it replaces.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub replaces: Option<String>,
    /// When it was issued.
    pub issued_at: Timestamp,
    /// Version of the rules.
    pub rules_version: u32,
    /// When the installation should be looked at next.
    pub next_inspection: Date,
    /// Who signed for what.
    pub signatures: Vec<Signature>,
    /// What was odd and stands all the same.
    pub remarks: Vec<String>,
    /// The job as it was.
    pub job: Job,
    /// The schedule of test results, a board after another.
    pub results: Vec<BoardResults>,
}

/// Rows of one board.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct BoardResults {
    /// Which board.
    pub board: Uuid,
    /// A row a circuit.
    pub rows: Vec<ResultRow>,
}

/// Why a certificate is not issued.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NotIssued {
    /// Something is missing or fails.
    #[error("{} findings block it: {}", .0.len(), .0.join("; "))]
    Blocked(Vec<String>),
    /// A role is not signed for.
    #[error("{0} is not signed for: give a name and a position")]
    Unsigned(&'static str),
    /// The job could not be written down.
    #[error("the job could not be written down: {0}")]
    Unwritable(String),
}

/// Draws up a certificate without asking whether it may be issued: for the preview.
pub fn draw_up(
    job: &Job,
    number: &str,
    replaces: Option<String>,
    signatures: Vec<Signature>,
    now: Timestamp,
) -> Certificate {
    let settled = Settled::new(&job.readings, &job.events);
    let results = job
        .installation
        .boards
        .iter()
        .map(|board| BoardResults {
            board: board.id,
            rows: job.installation.circuits_of(board.id).map(|c| result_row(&job.installation, c, &settled)).collect(),
        })
        .collect();
    let remarks = review(job.into())
        .into_iter()
        .filter(|finding| finding.severity == Severity::Odd)
        .map(|finding| format!("{}: {}", finding.about, finding.what))
        .collect();
    Certificate {
        number: number.to_owned(),
        replaces,
        issued_at: now,
        rules_version: RULES_VERSION,
        next_inspection: next_inspection(job, now),
        signatures,
        remarks,
        job: job.clone(),
        results,
    }
}

/// Issues a certificate: the snapshot and its canonical bytes.
///
/// # Errors
/// [`NotIssued`] when something blocks it or a role is not signed for.
pub fn issue(
    job: &Job,
    number: &str,
    replaces: Option<String>,
    signatures: Vec<Signature>,
    now: Timestamp,
) -> Result<(Certificate, Issued), NotIssued> {
    let blocking: Vec<String> = review(job.into())
        .into_iter()
        .filter(|finding| finding.severity.blocks())
        .map(|finding| format!("{}: {}", finding.about, finding.what))
        .collect();
    if !blocking.is_empty() {
        return Err(NotIssued::Blocked(blocking));
    }
    for role in Role::ALL {
        let signed = signatures.iter().any(|signature| {
            signature.role == role && !signature.name.trim().is_empty() && !signature.position.trim().is_empty()
        });
        if !signed {
            return Err(NotIssued::Unsigned(role.label()));
        }
    }
    let certificate = draw_up(job, number, replaces, signatures, now);
    let issued = Issued::freeze(&certificate)?;
    Ok((certificate, issued))
}

/// Canonical bytes and their digest.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Issued {
    /// Its number.
    pub number: String,
    /// Canonical bytes.
    pub bytes: Vec<u8>,
    /// SHA-256 of the bytes, hexadecimal.
    pub digest: String,
}

impl Issued {
    /// Writes a certificate down.
    ///
    /// # Errors
    /// [`NotIssued::Unwritable`] when it does not serialise.
    pub fn freeze(certificate: &Certificate) -> Result<Self, NotIssued> {
        let bytes = serde_json::to_vec(certificate).map_err(|error| NotIssued::Unwritable(error.to_string()))?;
        let digest = digest(&bytes);
        Ok(Self { number: certificate.number.clone(), bytes, digest })
    }
}

/// SHA-256 in hexadecimal.
pub fn digest(bytes: &[u8]) -> String {
    use std::fmt::Write;
    Sha256::digest(bytes).iter().fold(String::with_capacity(64), |mut text, byte| {
        let _ = write!(text, "{byte:02x}");
        text
    })
}

/// When the installation should be looked at next, for a certificate issued now.
pub fn next_inspection(job: &Job, now: Timestamp) -> Date {
    let today = now.to_zoned(jiff::tz::TimeZone::UTC).date();
    let months = i32::from(job.installation.interval_months());
    today.checked_add(jiff::Span::new().months(months)).unwrap_or(today)
}

#[cfg(test)]
#[path = "certificate_tests.rs"]
mod tests;
