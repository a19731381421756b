//! The review: what fails, what is missing, what is odd or contradicts itself, across the whole job.
//!
//! Each finding is mended, or judged in writing by a named competent person where the standard
//! leaves it to judgement; the judgement holds for the numbers it was written about and no others.

mod about;
mod circuit;
mod contradiction;
mod described;
mod record;
mod slip;
mod supply;

pub use slip::without_instrument;

use crate::plan::outstanding::Asked;
use jiff::Timestamp;
use proof_job::installation::{Circuit, Firm, Installation};
use proof_job::instrument::Instrument;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Reading, Step, Test, Value};
use proof_job::site::{BoardState, Event, EventKind, Site};
use proof_judge::finding::{Found, Kind, OddReading, Severity};
use proof_judge::verdict::{Judgement, Limit, Plausibility};
use std::sync::Arc;
use uuid::Uuid;

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
#[derive(Debug, Clone, PartialEq)]
pub struct Finding {
    /// What was found, with its numbers.
    pub found: Found,
    /// How it stands.
    pub severity: Severity,
    /// What it is about, such as `Way 3 Press room benches`.
    pub about: String,
    /// Where it is mended.
    pub place: Where,
    /// It stands in the way of energising what it is about.
    pub bars_energising: bool,
    /// The judgement written about it, if it is one that may be judged.
    pub judged: Option<Written>,
}

impl Finding {
    fn new(about: &str, found: Found, place: Where) -> Self {
        Self { severity: found.severity(), found, about: about.to_owned(), place, bars_energising: false, judged: None }
    }

    const fn barring(mut self) -> Self {
        self.bars_energising = true;
        self
    }

    /// What kind it is.
    pub fn kind(&self) -> Kind {
        self.found.kind()
    }

    /// What was found, with the numbers.
    pub fn text(&self) -> String {
        self.found.text()
    }

    /// What would settle it.
    pub fn remedy(&self) -> &'static str {
        self.found.remedy()
    }

    /// Names the finding and where it is, in files.
    pub fn id(&self) -> String {
        format!("{}:{}", self.kind().code(), self.place.code())
    }

    /// What a judgement binds to: what was found with its numbers, as JSON. With other numbers it is
    /// another finding.
    pub fn bound(&self) -> String {
        self.found.bound()
    }

    /// Marks the finding in forms: its numbers are in it, so that a finding that changed meanwhile is not
    /// the one that was ticked.
    pub fn mark(&self) -> String {
        let said = format!("{}{}", self.id(), self.bound());
        format!("j-{}", Uuid::new_v5(&Uuid::NAMESPACE_OID, said.as_bytes()).simple())
    }

    /// Why it matters.
    pub fn consequence(&self) -> &'static str {
        self.kind().consequence()
    }

    /// Whether a judgement in writing may settle it.
    pub fn may_be_judged(&self) -> bool {
        match self.severity {
            Severity::Missing | Severity::Note => false,
            Severity::Fails | Severity::Odd => self.kind().may_be_judged(),
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
    /// How many of the events came with a file.
    pub history: usize,
    /// The job that they are of.
    pub job: &'a Job,
}

impl<'a> Reviewed<'a> {
    /// The site as it is known here.
    pub fn site(&self) -> Site<'a> {
        Site::locally_known(self.events, self.history)
    }
}

impl<'a> From<&'a Job> for Reviewed<'a> {
    fn from(job: &'a Job) -> Self {
        Self {
            firm: &job.firm,
            installation: &job.installation,
            readings: &job.readings,
            events: &job.events,
            instruments: &job.instruments,
            history: job.history,
            job,
        }
    }
}

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
    let asked = Asked::new(reviewed.installation, &settled, &site, comes);
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

/// What else is known of a circuit whose readings are looked at.
#[derive(Debug, Clone, Copy, Default)]
struct Circumstances {
    /// An RCD disconnects where the device does not.
    rcd_disconnects: bool,
    /// The ends of its ring cannot give its highest R1+R2.
    ring_cannot_give: bool,
}

/// The finding of a reading that stands, if there is one.
fn judged(
    (step, value): (&Step, &Value),
    judgement: Judgement,
    (about, place): (&str, &Where),
    known: Circumstances,
) -> Option<Finding> {
    let (label, figure) = (step.label.clone(), step.stage.figure());
    if step.required && value.reason().is_some() {
        let (test, pair) = (step.key.test, step.key.pair);
        let reason = Found::NotTested { label, figure, test, pair, value: value.clone() };
        let mut finding = Finding::new(about, reason, place.clone());
        finding.bars_energising = step.stage.is_dead() || before_power(step, value);
        return Some(finding);
    }
    let severity = match (judgement.limit, judgement.plausibility) {
        (Limit::Outside, _) => Severity::Fails,
        (_, Plausibility::LookAgain) => Severity::Odd,
        _ => return None,
    };
    let reading = OddReading {
        label,
        figure,
        test: step.key.test,
        pair: step.key.pair,
        stage: step.stage,
        on_circuit: step.key.subject.circuit().is_some(),
        value: value.clone(),
        unit: if matches!(value, Value::Number(_) | Value::Over(_)) { step.field.unit() } else { "" },
        outside: severity == Severity::Fails,
        bound: judgement.bound().filter(|_| severity == Severity::Fails),
        reasons: judgement.reasons,
        rcd_disconnects: known.rcd_disconnects,
        ring_cannot_give: known.ring_cannot_give && point_of_ring(step),
    };
    let mut finding = Finding::new(about, Found::Reading(reading), place.clone());
    finding.bars_energising = step.stage.is_dead() || before_power(step, value);
    Some(finding)
}

/// A figure that failed and was struck out, with no figure in its place.
fn struck_out(step: &Step, value: &Value, (about, place): (&str, &Where)) -> Finding {
    let (test, pair, value) = (step.key.test, step.key.pair, value.clone());
    let reason = Found::StruckOut { label: step.label.clone(), figure: step.stage.figure(), test, pair, value };
    let mut finding = Finding::new(about, reason, place.clone());
    finding.bars_energising = step.stage.is_dead() || step.key.test == Test::SupplyPolarity;
    finding
}

/// Whether a reading at the origin keeps the power off: its polarity, and a loop that is open or was
/// not read. A loop that is only high is judged.
const fn before_power(step: &Step, value: &Value) -> bool {
    match step.key.test {
        Test::SupplyPolarity => true,
        Test::Ze => !matches!(value, Value::Number(_)),
        _ => false,
    }
}

/// Whether R1+R2 is read at a point.
fn point_of_ring(step: &Step) -> bool {
    step.key.test == Test::R1R2 && step.key.subject.place().is_some_and(|place| place.point().is_some())
}

/// Whether nothing blocks a certificate.
pub fn nothing_blocks(findings: &[Finding]) -> bool {
    findings.iter().all(|finding| !finding.blocks())
}
