//! The review: what fails, what is missing, what is odd or contradicts itself, across the whole job.
//!
//! Each finding is mended, or judged in writing by a named competent person where the standard
//! leaves it to judgement; the judgement holds for the numbers it was written about and no others.

mod circuit;
mod contradiction;
mod described;
mod kind;
mod record;
mod supply;

pub use kind::Kind;

use crate::installation::{Circuit, Firm, Installation};
use crate::instrument::Instrument;
use crate::job::Job;
use crate::reading::{Reading, Settled, Step, Test, Value};
use crate::site::{BoardState, Event, EventKind, Site};
use crate::verdict::{Judgement, Limit, Plausibility};
use jiff::Timestamp;
use uuid::Uuid;

/// How a finding stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Severity {
    /// Outside a limit, or dangerous: blocks.
    Fails,
    /// Something a certificate needs: blocks.
    Missing,
    /// Inside its limit, but not the number it should be: mended or judged.
    Odd,
    /// To be known, and printed; it asks for nothing.
    Note,
}

impl Severity {
    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Fails => "fails",
            Self::Missing => "missing",
            Self::Odd => "look again",
            Self::Note => "noted",
        }
    }

    /// Key in files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Fails => "fails",
            Self::Missing => "missing",
            Self::Odd => "odd",
            Self::Note => "note",
        }
    }
}

/// Where a finding is mended.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Where {
    /// The job's own particulars.
    Particulars,
    /// Firm, people, instruments.
    Firm,
    /// The origin, at a step.
    Origin(String),
    /// A board.
    Board(Uuid),
    /// A board, at one of its own steps.
    BoardStep(Uuid, String),
    /// A circuit, at a step if it is a reading.
    Circuit(Uuid, Option<String>),
    /// The schedule of inspections.
    Inspection,
}

impl Where {
    /// Names the place in files: what it is of, and the step.
    pub fn code(&self) -> String {
        match self {
            Self::Particulars => "particulars".to_owned(),
            Self::Firm => "firm".to_owned(),
            Self::Origin(step) => format!("origin/{step}"),
            Self::Board(board) => format!("board/{board}"),
            Self::BoardStep(board, step) => format!("board/{board}/{step}"),
            Self::Circuit(circuit, step) => {
                format!("circuit/{circuit}/{}", step.as_deref().unwrap_or_default()).trim_end_matches('/').to_owned()
            }
            Self::Inspection => "inspection".to_owned(),
        }
    }
}

/// A judgement in writing.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Written {
    /// By whom.
    pub by: String,
    /// Position or qualification.
    pub position: String,
    /// The judgement.
    pub reason: String,
    /// When.
    pub at: Timestamp,
}

/// One finding.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Finding {
    /// What kind it is.
    pub kind: Kind,
    /// How it stands.
    pub severity: Severity,
    /// What it is about, such as `Way 3 Press room benches`.
    pub about: String,
    /// What was found, with the numbers.
    pub what: String,
    /// What would settle it.
    pub then: String,
    /// Where it is mended.
    pub place: Where,
    /// It stands in the way of energising what it is about.
    pub bars_energising: bool,
    /// The judgement written about it, if it is one that may be judged.
    pub judged: Option<Written>,
}

impl Finding {
    fn new(kind: Kind, severity: Severity, about: &str, what: String, then: &str, place: Where) -> Self {
        Self {
            kind,
            severity,
            about: about.to_owned(),
            what,
            then: then.to_owned(),
            place,
            bars_energising: false,
            judged: None,
        }
    }

    const fn barring(mut self) -> Self {
        self.bars_energising = true;
        self
    }

    /// Names the finding, so that a judgement can be written about it.
    pub fn id(&self) -> String {
        format!("{}:{}", self.kind.code(), self.place.code())
    }

    /// Marks the finding in forms: what it says is in it, so that a finding that changed meanwhile is not
    /// the one that was ticked.
    pub fn mark(&self) -> String {
        let said = format!("{}{}", self.id(), self.what);
        format!("j-{}", Uuid::new_v5(&Uuid::NAMESPACE_OID, said.as_bytes()).simple())
    }

    /// Why it matters.
    pub const fn why(&self) -> &'static str {
        self.kind.why()
    }

    /// Whether a judgement in writing may settle it.
    pub const fn may_be_judged(&self) -> bool {
        match self.severity {
            Severity::Missing | Severity::Note => false,
            Severity::Fails | Severity::Odd => self.kind.may_be_judged(),
        }
    }

    /// Whether a certificate waits for it.
    pub const fn blocks(&self) -> bool {
        !matches!(self.severity, Severity::Note) && self.judged.is_none()
    }

    /// The circuit that it is about.
    pub const fn circuit(&self) -> Option<Uuid> {
        match &self.place {
            Where::Circuit(circuit, _) => Some(*circuit),
            _ => None,
        }
    }
}

/// Everything the review looks at.
#[derive(Debug, Clone, Copy)]
pub struct Reviewed<'a> {
    /// The firm that issues.
    pub firm: &'a Firm,
    /// The installation.
    pub installation: &'a Installation,
    /// Its readings.
    pub readings: &'a [Reading],
    /// Its log.
    pub events: &'a [Event],
    /// The instruments that took them.
    pub instruments: &'a [Instrument],
}

impl<'a> From<&'a Job> for Reviewed<'a> {
    fn from(job: &'a Job) -> Self {
        Self {
            firm: &job.firm,
            installation: &job.installation,
            readings: &job.readings,
            events: &job.events,
            instruments: &job.instruments,
        }
    }
}

/// All findings of a job, worst first, in the order of the job.
pub fn review(reviewed: Reviewed<'_>) -> Vec<Finding> {
    let settled = Settled::new(reviewed.readings, reviewed.events);
    let mut findings = Vec::new();
    described::particulars(reviewed, &mut findings);
    supply::origin(reviewed.installation, &settled, &mut findings);
    let site = Site::after(reviewed.events);
    supply::boards(reviewed, &site, &settled, &mut findings);
    let left: Vec<Uuid> = site.left_dead().iter().map(|left| left.circuit).collect();
    let mut rows = Vec::with_capacity(reviewed.installation.circuits.len());
    for circuit in reviewed.installation.circuits.iter().filter(|circuit| !left.contains(&circuit.id)) {
        let live = is_live(&site, circuit);
        rows.push(circuit::findings(reviewed.installation, circuit, &settled, live, &mut findings));
    }
    contradiction::across(reviewed.installation, &rows, &mut findings);
    record::findings(reviewed, &settled, &mut findings);
    described::inspection(reviewed.installation, &mut findings);
    written(reviewed.events, &mut findings);
    findings.sort_by_key(|finding| finding.severity);
    findings
}

/// What stands in the way of one circuit being live: its own dead tests and what is not put back.
pub fn of_circuit(reviewed: Reviewed<'_>, settled: &Settled<'_>, circuit: &Circuit) -> Vec<Finding> {
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
        let EventKind::Judged { finding, said, position, reason } = &event.kind else { continue };
        let about = |one: &&mut Finding| one.may_be_judged() && one.what == *said && one.id() == *finding;
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

/// What a reading that fails or is odd is a finding of.
fn kind_of(step: &Step, value: &Value, outside: bool, judgement: &Judgement) -> Kind {
    let says = |words: &str| judgement.notes.iter().any(|note| note.contains(words));
    let open = matches!(value, Value::Open) || matches!(value, Value::Over(_)) && step.stage.is_dead();
    match (step.key.test, outside) {
        (Test::Insulation | Test::InsulationJoined, true) => Kind::InsulationLow,
        (Test::Insulation | Test::InsulationJoined, false) if says("never above its lowest") => Kind::WholeAboveCircuit,
        (Test::Insulation | Test::InsulationJoined, false) => Kind::InsulationDoubtful,
        (Test::Zs | Test::R1R2 | Test::Electrode, true) if !open => Kind::LoopOverLimit,
        (Test::Zs, false) if says("Zs below") => Kind::ZsBelowZe,
        (Test::Zs, false) if step.key.subject.circuit().is_some() => Kind::SumAndMeasured,
        (Test::Zs | Test::LineNeutralLoop | Test::FaultCurrent, false) if says("own loop") => Kind::CurrentAndLoop,
        (Test::FaultCurrent, true) => Kind::BreakingCapacity,
        (Test::RcdTrip { .. } | Test::RcdButton | Test::AfddButton, true) => Kind::RcdFails,
        (Test::Ze, true) if !open => Kind::ZeOverDeclared,
        (Test::BondContinuity, true) if !open => Kind::BondOverLimit,
        (Test::Polarity | Test::SupplyPolarity, true) => Kind::PolarityWrong,
        (_, true) if open => Kind::NotContinuous,
        (_, true) => Kind::OutcomeFailed,
        (Test::R1R2, false) if says("lower than") => Kind::UnderLength,
        _ => Kind::LookAgain,
    }
}

/// The finding of a reading that stands, if there is one.
fn judged(step: &Step, judgement: &Judgement, value: &Value, about: &str, place: &Where) -> Option<Finding> {
    let unit = if matches!(value, Value::Number(_) | Value::Over(_)) { step.field.unit() } else { "" };
    let what = if step.label.starts_with(|c: char| c.is_ascii_digit()) {
        format!("{} at {}", step.stage.figure(), step.label)
    } else {
        step.label.clone()
    };
    if let (true, Some(reason)) = (step.required, value.reason()) {
        let said = if matches!(value, Value::Limitation(_)) { "limitation" } else { "not applicable" };
        let then = "Take the reading after all, or let the person who accepts the limitation say so by name.";
        let what = format!("{what}: {said}: {reason}");
        return Some(Finding::new(Kind::Limitation, Severity::Odd, about, what, then, place.clone()));
    }
    let severity = match (judgement.limit, judgement.plausibility) {
        (Limit::Outside, _) => Severity::Fails,
        (_, Plausibility::LookAgain) => Severity::Odd,
        _ => return None,
    };
    let reading = format!("{what} {} {unit}", value.shown());
    let notes = judgement.notes.join("; ");
    let kind = kind_of(step, value, severity == Severity::Fails, judgement);
    let limit = judgement.working.iter().rev().find(|working| working.part == "limit").map(|w| w.result.as_str());
    let (what, then) = match severity {
        Severity::Fails => (
            format!(
                "{}: outside its limit ({}){}{notes}",
                reading.trim(),
                limit.unwrap_or_default(),
                if notes.is_empty() { "" } else { "; " }
            ),
            "Find the cause, mend it, and read again; the latest reading stands.",
        ),
        _ => (format!("{}: {notes}", reading.trim()), "Read it again; if it stays, say why, by name."),
    };
    let mut finding = Finding::new(kind, severity, about, what, then, place.clone());
    finding.bars_energising = severity == Severity::Fails && step.stage.is_dead();
    Some(finding)
}

/// Whether nothing blocks a certificate.
pub fn nothing_blocks(findings: &[Finding]) -> bool {
    findings.iter().all(|finding| !finding.blocks())
}
