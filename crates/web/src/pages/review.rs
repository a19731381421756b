//! The review: what fails, what is missing, what is odd, each with where it is mended.

use super::{blocking, framed, remembered};
use crate::Shared;
use crate::error::{Handled, go, page_with};
use crate::fields::Fields;
use crate::frame::Frame;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use jiff::Timestamp;
use proof_core::installation::validity::{LONGEST_LINE, LONGEST_TEXT};
use proof_core::job::Job;
use proof_core::review::{Finding, Severity, Where, nothing_blocks, review};
use proof_core::site::{Event, EventKind};
use uuid::Uuid;

/// A finding as listed.
pub struct Line {
    pub finding: Finding,
    pub link: String,
    /// Why it matters, said once for those of a kind that stand together.
    pub why: &'static str,
    /// The first of its kind: the place that others link to.
    pub first: bool,
}

/// Findings as listed, in their order.
pub fn lines(job: Uuid, findings: impl Iterator<Item = Finding>) -> Vec<Line> {
    let mut lines: Vec<Line> = Vec::new();
    for finding in findings {
        let again = lines.last().is_some_and(|line| line.finding.kind == finding.kind);
        let why = if again { "" } else { finding.why() };
        let first = !lines.iter().any(|line| line.finding.kind == finding.kind);
        lines.push(Line { link: link(job, &finding.place), why, first, finding });
    }
    lines
}

pub struct Group {
    pub severity: Severity,
    pub explanation: &'static str,
    pub findings: Vec<Line>,
    pub open: usize,
}

#[derive(Template)]
#[template(path = "review.html")]
struct ReviewPage {
    frame: Frame,
    job: Uuid,
    groups: Vec<Group>,
    clear: bool,
    nothing: bool,
    people: Vec<(String, String)>,
    f: Fields,
    problem: String,
}

/// The page where a finding is mended.
pub fn link(job: Uuid, place: &Where) -> String {
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
pub fn grouped(job: Uuid, findings: Vec<Finding>) -> Vec<Group> {
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
        findings: lines(job, findings.iter().filter(|finding| finding.severity == severity).cloned()),
    })
    .filter(|group| !group.findings.is_empty())
    .collect()
}

impl Group {
    /// Shape and look of its heading.
    pub const fn look(&self) -> (&'static str, &'static str) {
        match self.severity {
            Severity::Fails => ("outside", "×"),
            Severity::Missing => ("unjudged", "○"),
            Severity::Odd => ("again", "▲"),
            Severity::Note => ("unjudged", "·"),
        }
    }
}

fn drawn(job: &Job, f: Fields, problem: String, status: StatusCode) -> Handled {
    let findings = review(job.into());
    let clear = nothing_blocks(&findings);
    let nothing = findings.is_empty();
    let frame = framed("Review", "review", job, &job.events);
    let people = job.people.iter().map(|person| (person.name.clone(), person.position.clone())).collect();
    let groups = grouped(job.id, findings);
    page_with(status, &ReviewPage { frame, job: job.id, groups, clear, nothing, people, f, problem })
}

pub async fn show(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest) -> Handled {
    let id = path.into_inner();
    let job = blocking(move || Ok(shared.store.job(id)?)).await?;
    let job = &job.job;
    let mut f = Fields::default();
    let writer = remembered(&request, "writer");
    let position = job.people.iter().find(|person| person.name == writer).map(|person| person.position.clone());
    f.put("by", writer);
    f.put("position", position.unwrap_or_default());
    drawn(job, f, String::new(), StatusCode::OK)
}

/// A judgement in writing about the findings that are ticked, each logged by itself.
pub async fn judge(shared: Data<Shared>, path: Path<Uuid>, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let store = shared.store.clone();
    let head = blocking(move || Ok(store.job(id)?)).await?;
    let job = &head.job;
    let (by, position, reason) =
        (f.line("by", LONGEST_LINE), f.line("position", LONGEST_LINE), f.line("judgement", LONGEST_TEXT));
    for (name, text, wanted) in [
        ("by", &by, "A judgement is by a named person."),
        ("position", &position, "Say by what right: position or qualification."),
        ("judgement", &reason, "Write why it may stand as it is."),
    ] {
        if text.is_empty() {
            f.wrong(name, wanted);
        }
    }
    let findings = review(job.into());
    let ticked: Vec<&Finding> =
        findings.iter().filter(|finding| f.ticked(&tick(finding)) && finding.may_be_judged()).collect();
    if ticked.is_empty() {
        f.wrong("judgement", "Tick what is judged: what it said when you ticked it is what the judgement holds for.");
    }
    if f.any_wrong() {
        return drawn(job, f, "Not stored: see what is marked.".into(), StatusCode::UNPROCESSABLE_ENTITY);
    }
    let now = Timestamp::now();
    let events: Vec<Event> = ticked
        .into_iter()
        .map(|finding| {
            let (position, reason) = (position.clone(), reason.clone());
            let kind = EventKind::Judged { finding: finding.id(), said: finding.what.clone(), position, reason };
            Event::new(&by, now, kind)
        })
        .collect();
    blocking(move || Ok(shared.store.append_events(id, &events)?)).await?;
    let mut response = go(&format!("/jobs/{id}/review"));
    super::state::remember_writer(&mut response, &by);
    Ok(response)
}

/// Name of the tick of a finding: what it says is in it, so that a finding that changed meanwhile
/// is not the one that was ticked.
pub fn tick(finding: &Finding) -> String {
    let said = proof_seal::digest(format!("{}{}", finding.id(), finding.what).as_bytes());
    format!("j-{}", &said[..16])
}
