//! A finding of a job, and what is reviewed.

use jiff::Timestamp;
use proof_job::installation::{Firm, Installation};
use proof_job::instrument::Instrument;
use proof_job::job::Job;
use proof_job::reading::{Reading, Step, Test, Value};
use proof_job::site::{Event, Site};
use proof_judge::finding::{Found, Kind, Severity};
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
    pub(super) fn new(about: &str, found: Found, place: Where) -> Self {
        Self { severity: found.severity(), found, about: about.to_owned(), place, bars_energising: false, judged: None }
    }

    pub(super) const fn barring(mut self) -> Self {
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

/// A figure that failed and was struck out, with no figure in its place.
pub(super) fn struck_out(step: &Step, value: &Value, (about, place): (&str, &Where)) -> Finding {
    let (test, pair, value) = (step.key.test, step.key.pair, value.clone());
    let reason = Found::StruckOut { label: step.label.clone(), figure: step.stage.figure(), test, pair, value };
    let mut finding = Finding::new(about, reason, place.clone());
    finding.bars_energising = step.stage.is_dead() || step.key.test == Test::SupplyPolarity;
    finding
}

/// Whether a reading at the origin keeps the power off: its polarity, and a loop that is open or was
/// not read. A loop that is only high is judged.
pub(super) const fn before_power(step: &Step, value: &Value) -> bool {
    match step.key.test {
        Test::SupplyPolarity => true,
        Test::Ze => !matches!(value, Value::Number(_)),
        _ => false,
    }
}
