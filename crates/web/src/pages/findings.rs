//! Findings as pages list them: grouped, each with where it is mended.

use proof_judge::finding::{Found, Particular, Severity};
use proof_work::review::{Finding, Where};
use uuid::Uuid;

/// A finding as listed.
pub(crate) struct FindingLine {
    pub finding: Finding,
    pub link: String,
    /// Why it matters, said once for those of a kind that stand together.
    pub why: &'static str,
    /// The first of its kind: the place that others link to.
    pub first: bool,
}

/// Findings as listed, in their order.
pub(crate) fn lines(job: Uuid, findings: impl Iterator<Item = Finding>) -> Vec<FindingLine> {
    let mut lines: Vec<FindingLine> = Vec::new();
    for finding in findings {
        let again = lines.last().is_some_and(|line| line.finding.kind() == finding.kind());
        let why = if again { "" } else { finding.consequence() };
        let first = !lines.iter().any(|line| line.finding.kind() == finding.kind());
        lines.push(FindingLine { link: mended_at(job, &finding), why, first, finding });
    }
    lines
}

/// What a place still asks for, in one line with one link.
pub(crate) struct ToDo {
    pub about: String,
    pub what: String,
    /// How many more things are to be done at the same place.
    pub more: usize,
    /// All of them.
    pub all: Vec<String>,
    pub link: String,
}

/// Findings by the page that mends them, in their order: each place once. Pages that lead back to the run are
/// told so.
pub(crate) fn places(job: Uuid, findings: impl Iterator<Item = Finding>) -> Vec<ToDo> {
    let mut seen: Vec<String> = Vec::new();
    let mut places: Vec<ToDo> = Vec::new();
    for finding in findings {
        let mut link = mended_at(job, &finding);
        let page = link.split(['?', '#']).next().unwrap_or_default().to_owned();
        if let Some(at) = seen.iter().position(|one| *one == page) {
            places[at].more += 1;
            places[at].all.push(finding.text());
            continue;
        }
        if matches!(finding.place, Where::Inspection) {
            link.push_str("?then=run");
        }
        seen.push(page);
        let what = finding.text();
        places.push(ToDo { about: finding.about.clone(), all: vec![what.clone()], what, more: 0, link });
    }
    places
}

pub(crate) struct Group {
    pub severity: Severity,
    pub explanation: &'static str,
    pub findings: Vec<FindingLine>,
    /// What is missing, a line a place: the remedy is the same for all of it.
    pub places: Vec<ToDo>,
    pub open: usize,
}

/// Where a finding is mended: the page, and the field where there is one.
pub(crate) fn mended_at(job: Uuid, finding: &Finding) -> String {
    let page = link(job, &finding.place);
    let field = match (&finding.found, &finding.place) {
        (Found::Particulars { missing }, _) => match missing {
            Particular::Client => "f-client",
            Particular::Address => "f-site_address",
            Particular::Extent => "f-extent",
            Particular::Bonds | Particular::BondSize => "bonding",
            Particular::Tails => "f-tails",
            Particular::Earthing => "f-earthing",
            Particular::SupplyDevice => "f-supply_device",
            Particular::Electrode => "f-electrode",
            Particular::MainSwitch | Particular::BoardPlace => "board-itself",
            Particular::CableKind => "f-cable",
            Particular::Description => "f-description",
            Particular::Firm | Particular::Board | Particular::Circuit => return page,
        },
        (Found::NotPutBack { .. }, Where::Board(_)) => "put-back",
        (Found::SwitchPoles { .. } | Found::SwitchBelow { .. }, Where::Board(_)) => "board-itself",
        _ => return page,
    };
    format!("{page}#{field}")
}

/// The page where a finding is mended.
pub(crate) fn link(job: Uuid, place: &Where) -> String {
    match place {
        Where::Firm => "/firm".to_owned(),
        Where::Particulars => format!("/jobs/{job}/particulars"),
        Where::Origin(step) => format!("/jobs/{job}/origin?at={step}"),
        Where::Board(board) => format!("/jobs/{job}/boards/{board}"),
        Where::BoardStep(board, step) => format!("/jobs/{job}/boards/{board}/tests?at={step}"),
        Where::Circuit(circuit, Some(step)) => format!("/jobs/{job}/circuits/{circuit}?at={step}"),
        Where::Circuit(circuit, None) => format!("/jobs/{job}/circuits/{circuit}/edit"),
        Where::Inspection => format!("/jobs/{job}/inspection"),
    }
}

/// Findings by severity, worst first.
pub(crate) fn grouped(job: Uuid, findings: Vec<Finding>) -> Vec<Group> {
    [
        (Severity::Fails, "Outside a limit or not put back. A certificate waits for each."),
        (Severity::Missing, "Not read or not written. A certificate waits for each."),
        (
            Severity::Odd,
            "Inside its limit, but not what it should be. Look again; what stays is judged in writing by a named person, and printed.",
        ),
        (Severity::Note, "To be known, and printed. Nothing is asked."),
    ]
    .into_iter()
    .map(|(severity, explanation)| Group {
        severity,
        explanation,
        open: findings.iter().filter(|finding| finding.severity == severity && finding.blocks()).count(),
        places: match severity {
            Severity::Missing => places(job, findings.iter().filter(|one| one.severity == severity).cloned()),
            _ => Vec::new(),
        },
        findings: lines(job, findings.iter().filter(|finding| finding.severity == severity).cloned()),
    })
    .filter(|group| !group.findings.is_empty())
    .collect()
}

impl Group {
    /// Whether it only tells.
    pub(crate) fn is_note(&self) -> bool {
        self.severity == Severity::Note
    }

    /// Shape and look of its heading.
    pub(crate) const fn look(&self) -> (&'static str, &'static str) {
        match self.severity {
            Severity::Fails => ("outside", "×"),
            Severity::Missing => ("unjudged", "○"),
            Severity::Odd => ("again", "▲"),
            Severity::Note => ("unjudged", "·"),
        }
    }
}
