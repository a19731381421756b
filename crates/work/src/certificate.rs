//! The certificate: a frozen snapshot as canonical bytes, their digest and the version of the rules.
//!
//! Canonical: JSON with the keys in the order of these types, no white space. Its status and what
//! replaced it stand elsewhere; a job file does not contain its own certificates.

mod tested;

pub use tested::how_it_was_tested;

use crate::review::{Finding, Where, review};
use crate::schedule::{ScheduleRow, result_row};
use jiff::Timestamp;
use jiff::civil::Date;
use proof_job::installation::{Board, Circuit, Feed, Nature};
use proof_job::job::Job;
use proof_job::reading::Stage;
use proof_job::site::outstanding_points;
use proof_judge::finding::{Found, Kind, Particular, Severity};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Version of the rules that judged it: raised when a limit or a rule changes.
pub const RULES_VERSION: u32 = 3;

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
    /// Design, where a second person designed a part.
    SecondDesign,
}

impl Role {
    /// Those that always sign, in the order printed.
    pub const ALL: [Self; 3] = [Self::Design, Self::Construction, Self::Inspection];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Design => "design",
            Self::Construction => "construction",
            Self::Inspection => "inspection",
            Self::SecondDesign => "second_design",
        }
    }

    /// Whether a certificate is issued without it.
    pub const fn is_optional(self) -> bool {
        matches!(self, Self::SecondDesign)
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Design => "Design",
            Self::Construction => "Construction",
            Self::Inspection => "Inspection and testing",
            Self::SecondDesign => "Design, second designer",
        }
    }
}

/// Which certificate it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "form", rename_all = "snake_case", deny_unknown_fields)]
pub enum Form {
    /// An electrical installation certificate.
    #[default]
    Installation,
    /// A minor works certificate: an addition to one circuit, or its alteration.
    MinorWorks {
        /// Which circuit.
        circuit: Uuid,
    },
}

impl Form {
    /// Its title.
    pub const fn title(self) -> &'static str {
        match self {
            Self::Installation => "Electrical installation certificate",
            Self::MinorWorks { .. } => "Minor electrical works certificate",
        }
    }

    /// Who signs it: minor works have one declaration.
    pub const fn roles(self) -> &'static [Role] {
        match self {
            Self::Installation => &Role::ALL,
            Self::MinorWorks { .. } => &[Role::Inspection],
        }
    }

    /// Who may sign it, in the order printed: those who must, and a second designer.
    pub const fn may_sign(self) -> &'static [Role] {
        match self {
            Self::Installation => &[Role::Design, Role::SecondDesign, Role::Construction, Role::Inspection],
            Self::MinorWorks { .. } => &[Role::Inspection],
        }
    }

    /// Whether a circuit is on it.
    pub fn covers(self, circuit: Uuid) -> bool {
        match self {
            Self::Installation => true,
            Self::MinorWorks { circuit: only } => only == circuit,
        }
    }

    /// Whether a certificate of this form waits for a finding. Minor works rest on the supply that
    /// is there: what was not read at the origin is not theirs, what fails there is.
    pub fn waits_for(self, job: &Job, finding: &Finding) -> bool {
        let Self::MinorWorks { circuit } = self else { return true };
        let board = job.installation.circuit(circuit).map(|circuit| circuit.board);
        match &finding.place {
            Where::Circuit(id, _) if *id == circuit => true,
            // A residual device that it shares is tested at another way behind it.
            Where::Circuit(id, _) => {
                let device = |id: Uuid| job.installation.circuit(id).and_then(|one| Some((one.board, one.rcd?)));
                let shares = device(circuit).is_some_and(|own| device(*id) == Some(own));
                matches!(finding.found, Found::NotRead { stage: Stage::Rcd, .. }) && shares
            }
            Where::Board(id) => Some(*id) == board,
            Where::BoardStep(..) => false,
            // Of the origin it wants what protects the circuit: polarity, the loop, the fault level.
            Where::Origin(_) => match &finding.found {
                Found::NotTaken { stage, .. } => *stage == Stage::Origin,
                _ => true,
            },
            Where::Particulars => finding.found != Found::Particulars { missing: Particular::Bonds },
            Where::Firm | Where::Inspection => true,
        }
    }
}

/// A stroke of a drawn signature: points in a field of [`SIGNATURE_WIDTH`] by [`SIGNATURE_HEIGHT`].
pub type Stroke = Vec<(u16, u16)>;

/// Width of the field that signatures are drawn in.
pub const SIGNATURE_WIDTH: u16 = 600;

/// Height of the field that signatures are drawn in.
pub const SIGNATURE_HEIGHT: u16 = 160;

/// Most points of a drawn signature.
pub const MOST_SIGNATURE_POINTS: usize = 3000;

/// It is no drawn signature.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error(
    "a drawn signature is at most {MOST_SIGNATURE_POINTS} points x,y of 0 to {SIGNATURE_WIDTH} and 0 to {SIGNATURE_HEIGHT}"
)]
pub struct NotDrawn;

/// Reads a drawn signature as a form sends it: `x,y x,y;x,y …`, a stroke between semicolons.
///
/// # Errors
/// [`NotDrawn`] with what is allowed.
pub fn strokes(text: &str) -> Result<Vec<Stroke>, NotDrawn> {
    let mut all = Vec::new();
    let mut count = 0;
    for stroke in text.split(';').filter(|stroke| !stroke.trim().is_empty()) {
        let mut points = Vec::new();
        for point in stroke.split_whitespace() {
            let (x, y) = point.split_once(',').ok_or(NotDrawn)?;
            let (x, y): (u16, u16) = (x.parse().map_err(|_| NotDrawn)?, y.parse().map_err(|_| NotDrawn)?);
            count += 1;
            if x > SIGNATURE_WIDTH || y > SIGNATURE_HEIGHT || count > MOST_SIGNATURE_POINTS {
                return Err(NotDrawn);
            }
            points.push((x, y));
        }
        all.push(points);
    }
    Ok(all)
}

/// A signature: a typed name, and what was drawn beside it.
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
    /// For which firm, with its address; empty: for the one that issues.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub firm: String,
    /// When.
    pub at: Timestamp,
    /// As drawn; empty: the typed name is the signature.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub drawn: Vec<Stroke>,
}

/// A finding that stands because a competent person judged it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct JudgedFinding {
    /// What it is about.
    pub about: String,
    /// What was found.
    pub what: String,
    /// The judgement.
    pub reason: String,
    /// By whom.
    pub by: String,
    /// Position or qualification.
    pub position: String,
    /// When.
    pub at: Timestamp,
}

/// Version of the format of certificates: since the second their results are figures.
pub const FORMAT_VERSION: u32 = 2;

const fn first_version() -> u32 {
    1
}

#[allow(clippy::trivially_copy_pass_by_ref)] // what serde asks for
const fn is_first_version(version: &u32) -> bool {
    *version == 1
}

/// What is frozen.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Certificate {
    /// Version of the format: the first had its results in words.
    #[serde(default = "first_version", skip_serializing_if = "is_first_version")]
    pub version: u32,
    /// Which certificate it is.
    #[serde(default)]
    pub form: Form,
    /// Its number.
    pub number: String,
    /// The certificate that it replaces.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub replaces: Option<String>,
    /// Why it replaces it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub replaces_because: String,
    /// Fingerprint of the firm's key; empty on a draft.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub key: String,
    /// When it was issued.
    pub issued_at: Timestamp,
    /// Version of the rules.
    pub rules_version: u32,
    /// When the installation should be looked at next.
    pub next_inspection: Date,
    /// Who signed for what.
    pub signatures: Vec<Signature>,
    /// What is to be known.
    pub remarks: Vec<String>,
    /// What was found and stands by the judgement of a named person.
    #[serde(default)]
    pub judged: Vec<JudgedFinding>,
    /// What is not covered: circuits left dead and locked, outstanding points.
    #[serde(default)]
    pub left_out: Vec<String>,
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
    pub rows: Vec<ScheduleRow>,
}

/// Why a minor works certificate does not fit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum NotMinor {
    /// Its circuit is not of this job.
    #[error("it is for one circuit of this job: name it")]
    NoCircuit,
    /// The installation is new.
    #[error(
        "a new installation wants an installation certificate; minor works are an addition to a circuit or its alteration"
    )]
    NewInstallation,
}

/// Why a certificate is not issued.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NotIssued {
    /// Something is missing or fails.
    #[error("{} findings block it: {}", .0.len(), .0.join("; "))]
    Blocked(Vec<String>),
    /// Minor works do not fit.
    #[error("no minor works certificate: {0}")]
    NotMinor(#[from] NotMinor),
    /// Minor works are asked less than an installation certificate rests on.
    #[error(
        "the job is minor works, which are asked less than an installation certificate rests on: choose another nature of the work under particulars"
    )]
    BegunAsMinor,
    /// A role is not signed for.
    #[error("{} is not signed for: give a name and a position", .0.label())]
    Unsigned(Role),
}

/// What a certificate is asked for with.
#[derive(Debug, Clone, PartialEq)]
pub struct Application {
    /// Which form.
    pub form: Form,
    /// The number it gets.
    pub number: String,
    /// The certificate that it replaces, and why.
    pub replaces: Option<(String, String)>,
    /// Who signs for what.
    pub signatures: Vec<Signature>,
    /// Fingerprint of the firm's key; empty on a draft.
    pub key: String,
    /// Now.
    pub now: Timestamp,
}

impl Application {
    /// For a draft.
    pub fn draft(job: &Job, form: Form, now: Timestamp) -> Self {
        let (number, key) = (job.reference.clone(), String::new());
        Self { form, number, replaces: None, signatures: Vec::new(), key, now }
    }
}

/// What a certificate does not cover: circuits and boards left dead and locked, and points outstanding.
pub fn left_out(job: &Job, form: Form) -> Vec<String> {
    let installation = &job.installation;
    let name = |id: Uuid| {
        let circuit = installation.circuit(id)?;
        Some(format!("way {} {}", circuit.way, circuit.description))
    };
    let site = job.site();
    let left: Vec<_> = site.left_dead().iter().filter(|left| form.covers(left.circuit)).collect();
    let whole = |board: &Board| {
        let all: Vec<_> = left.iter().filter(|left| left.board == board.id).collect();
        let alike = all.windows(2).all(|two| (two[0].lock, two[0].reason) == (two[1].lock, two[1].reason));
        (all.len() > 1 && alike && all.len() == installation.circuits_on(board.id).count()).then(|| all[0])
    };
    let mut lines = Vec::new();
    for board in &installation.boards {
        if let Some(left) = whole(board) {
            let (lock, reason) = (left.lock, left.reason);
            lines.push(format!("Not covered, left dead and locked ({lock}): the whole of {}; {reason}.", board.name));
        }
    }
    let single = left.iter().filter(|left| installation.board(left.board).is_none_or(|board| whole(board).is_none()));
    lines.extend(single.filter_map(|left| {
        let feeds = |board: &&Board| board.fed_by == Feed::Circuit { circuit: left.circuit };
        let below: Vec<&str> = installation.boards.iter().filter(feeds).map(|board| board.name.as_str()).collect();
        let with = if below.is_empty() { String::new() } else { format!(", and with it {}", below.join(", ")) };
        let name = name(left.circuit)?;
        Some(format!("Not covered, left dead and locked ({}): {name}{with}; {}.", left.lock, left.reason))
    }));
    lines.extend(outstanding_points(&job.events).into_iter().filter(|owed| form.covers(owed.circuit)).filter_map(
        |owed| Some(format!("Outstanding on {}: {}; made safe: {}.", name(owed.circuit)?, owed.thing, owed.made_safe)),
    ));
    lines
}

/// The schedules of test results of a form, a board after another.
fn results(job: &Job, form: Form) -> Vec<BoardResults> {
    let settled = job.settled();
    let left = job.site().stays_dead(&job.installation);
    let row = |circuit: &Circuit| {
        let mut row = result_row(&job.installation, circuit, &settled);
        if left.contains(&circuit.id) {
            let said = format!("left dead and locked: not covered; {}", row.remarks);
            said.trim_end_matches("; ").clone_into(&mut row.remarks);
        }
        ScheduleRow::Figures(Box::new(row))
    };
    job.installation
        .boards
        .iter()
        .map(|board| BoardResults {
            board: board.id,
            rows: job.installation.circuits_on(board.id).filter(|circuit| form.covers(circuit.id)).map(row).collect(),
        })
        .filter(|results| form == Form::Installation || !results.rows.is_empty())
        .collect()
}

/// Draws up a certificate without asking whether it may be issued: for the preview.
pub fn prepare(job: &Job, application: Application) -> Certificate {
    let Application { form, number, replaces, signatures, key, now } = application;
    let findings: Vec<Finding> =
        review(job.into()).into_iter().filter(|finding| form.waits_for(job, finding)).collect();
    let remarks = findings
        .iter()
        .filter(|finding| finding.severity == Severity::Note && finding.kind() != Kind::PointOutstanding)
        .map(|finding| format!("{}: {}", finding.about, finding.text()))
        .collect();
    let judged = findings
        .into_iter()
        .filter_map(|finding| {
            let what = finding.text();
            let written = finding.judged?;
            Some(JudgedFinding {
                about: finding.about,
                what,
                reason: written.reason,
                by: written.by,
                position: written.position,
                at: written.at,
            })
        })
        .collect();
    let (replaces, replaces_because) = replaces.map_or((None, String::new()), |(old, why)| (Some(old), why));
    Certificate {
        version: FORMAT_VERSION,
        form,
        number,
        replaces,
        replaces_because,
        key,
        issued_at: now,
        rules_version: RULES_VERSION,
        next_inspection: next_inspection(job, now),
        signatures,
        remarks,
        judged,
        left_out: left_out(job, form),
        job: job.clone(),
        results: results(job, form),
    }
}

/// Findings that a certificate of a form waits for.
pub fn blocking(job: &Job, form: Form) -> Vec<Finding> {
    review(job.into()).into_iter().filter(|finding| finding.blocks() && form.waits_for(job, finding)).collect()
}

/// Issues a certificate: the snapshot, to be written down and sealed.
///
/// # Errors
/// [`NotIssued`] when something blocks it, a role is not signed for, or the form does not fit.
pub fn issue(job: &Job, application: Application) -> Result<Certificate, NotIssued> {
    if application.form == Form::Installation && job.installation.is_minor() {
        return Err(NotIssued::BegunAsMinor);
    }
    if let Form::MinorWorks { circuit } = application.form {
        if job.installation.circuit(circuit).is_none() {
            return Err(NotMinor::NoCircuit.into());
        }
        if job.installation.nature == Nature::New {
            return Err(NotMinor::NewInstallation.into());
        }
    }
    let blocking: Vec<String> = blocking(job, application.form)
        .into_iter()
        .map(|finding| format!("{}: {}", finding.about, finding.text()))
        .collect();
    if !blocking.is_empty() {
        return Err(NotIssued::Blocked(blocking));
    }
    let whole = |one: &Signature| !one.name.trim().is_empty() && !one.position.trim().is_empty();
    for &role in application.form.may_sign() {
        let mut of_role = application.signatures.iter().filter(|signature| signature.role == role).peekable();
        let owed = of_role.peek().is_none() && !role.is_optional();
        if owed || !of_role.all(whole) {
            return Err(NotIssued::Unsigned(role));
        }
    }
    Ok(prepare(job, application))
}

/// When the installation should be looked at next, for a certificate issued now.
pub fn next_inspection(job: &Job, now: Timestamp) -> Date {
    let today = now.to_zoned(jiff::tz::TimeZone::UTC).date();
    let months = i32::from(job.installation.interval_months());
    today.checked_add(jiff::Span::new().months(months)).unwrap_or(today)
}
