//! The cells of a schedule sheet: results brought in from paper, all or none.

use super::paper_row::{NotInBox, PaperBox, is_open};
use super::{Actor, Figure, Recorded, Refusal, With, paper, reading};
use crate::plan::outstanding::steps_reviewed;
use crate::plan::sequence::{board_steps, feeder_steps, origin_steps};
use crate::plan::substitute::Scope;
use proof_job::installation::Installation;
use proof_job::installation::validity::LONGEST_LINE;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Step};
use proof_standard::conductor::Conductor;
use proof_standard::text;
use uuid::Uuid;

/// A cell as typed.
#[derive(Debug, Clone)]
pub struct SheetCell {
    /// The name of its field.
    pub field: String,
    /// Of which circuit.
    pub circuit: Uuid,
    /// Which of its lines, where it has three.
    pub line: Option<Conductor>,
    /// Which box.
    pub cell: PaperBox,
    /// What was typed.
    pub typed: String,
}

/// A box of the board itself, or of the origin, as typed.
#[derive(Debug, Clone)]
pub struct SheetStep {
    /// The name of its field.
    pub field: String,
    /// Of which board; none: the origin.
    pub board: Option<Uuid>,
    /// Which of its steps.
    pub slug: String,
    /// What was typed.
    pub typed: String,
}

/// The cells that were changed.
#[derive(Debug, Clone, Default)]
pub struct ChangedCells {
    /// Each changed cell.
    pub cells: Vec<SheetCell>,
    /// Each changed box of the board and the origin.
    pub steps: Vec<SheetStep>,
    /// How it was read.
    pub with: With,
}

/// What is read of a board itself, or at the origin.
pub fn steps_of(installation: &Installation, board: Option<Uuid>) -> Vec<Step> {
    match board {
        None => origin_steps(installation),
        Some(board) => {
            let Some(board) = installation.board(board) else { return Vec::new() };
            let mut steps = feeder_steps(installation, board);
            steps.extend(board_steps(installation, board));
            steps
        }
    }
}

/// The same with what was read there and is no longer asked for; what the method of the job does without only where it
/// was read.
pub fn shown_steps_of(installation: &Installation, settled: &CurrentReadings<'_>, board: Option<Uuid>) -> Vec<Step> {
    let (mut steps, scope) = match board {
        None => (Vec::new(), Scope::Origin),
        Some(board) => {
            let Some(board) = installation.board(board) else { return Vec::new() };
            (feeder_steps(installation, board), Scope::Board(board))
        }
    };
    steps.extend(steps_reviewed(installation, scope, settled));
    let read = |step: &Step| settled.get(&step.key).is_some() || !settled.struck_figures(&step.key).is_empty();
    steps.retain(|step| !step.unused || read(step));
    steps
}

/// What is wrong with a box of the sheet: it has none, or its reading is refused as anywhere else.
fn taken(
    job: &Job,
    settled: &CurrentReadings<'_>,
    (step, typed): (Step, &str),
    with: &With,
    hand: &Actor,
) -> Result<Recorded, Refusal> {
    let figure = Figure { step, typed: typed.to_owned(), pressed: String::new(), with: with.clone() };
    reading::one(job, settled, &figure, hand, hand.next_id())
}

pub(super) fn record(job: &Job, sheet: &ChangedCells, hand: &Actor) -> Result<Recorded, Refusal> {
    let settled = job.settled();
    if text::line("by", &hand.by, LONGEST_LINE)?.is_empty() {
        return Err(Refusal::Nobody);
    }
    let with = With { paper: true, ..sheet.with.clone() };
    paper::day(&with, hand).map_err(|why| Refusal::Fields(vec![("paper_on".to_owned(), why)]))?;
    let (mut all, mut wrong) = (Recorded::default(), Vec::new());
    let mut add = |field: &str, taken: Result<Recorded, Refusal>| match taken {
        Ok(taken) => all.readings.extend(taken.readings),
        Err(why) => wrong.push((field.to_owned(), why)),
    };
    for one in &sheet.cells {
        let circuit = job.installation.circuit(one.circuit).ok_or(Refusal::NoSuchStep)?;
        let step = one.cell.step(&job.installation, circuit, one.line).map_err(|none| NotInBox::from(none).into());
        let open = is_open(circuit, &settled, one.cell);
        let open = if open { Ok(()) } else { Err(Refusal::from(NotInBox::ReadPointByPoint)) };
        let step = open.and(step);
        add(&one.field, step.and_then(|step| taken(job, &settled, (step, &one.typed), &with, hand)));
    }
    for one in &sheet.steps {
        // What the sheet shows is taken: what is no longer asked for is read again there too.
        let shown = shown_steps_of(&job.installation, &settled, one.board).into_iter();
        let mut all = shown.chain(steps_of(&job.installation, one.board));
        let step = all.find(|step| step.slug == one.slug).ok_or(Refusal::NoSuchStep)?;
        add(&one.field, taken(job, &settled, (step, &one.typed), &with, hand));
    }
    if wrong.is_empty() { Ok(all) } else { Err(Refusal::Fields(wrong)) }
}
