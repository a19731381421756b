//! The cells of a schedule sheet: results brought in from paper, all or none.

use super::paper_row::{Cell, NotInBox, in_box, is_open};
use super::{Hand, Refusal, Taken, With, paper};
use crate::conductor::Conductor;
use crate::installation::Installation;
use crate::installation::validity::LONGEST_LINE;
use crate::job::Job;
use crate::plan::sequence::{board_steps, feeder_steps, origin_steps};
use crate::reading::{Context, Reading, Step, Value};
use crate::text;
use jiff::civil::Date;
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// What most instruments show where insulation is over range, MΩ (common practice, no source).
const USUAL_OVER_MOHM: Decimal = dec!(999);

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
    pub cell: Cell,
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
pub struct Sheet {
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

/// What its instrument shows where insulation is over range, MΩ.
pub fn over_range(job: &Job, instrument: Option<Uuid>) -> Decimal {
    let known = job.instruments.iter().find(|one| Some(one.id) == instrument);
    known.map_or(USUAL_OVER_MOHM, |one| one.over_range_mohm)
}

/// How the readings of a sheet were taken.
struct OfPaper<'a> {
    by: String,
    read_by: Option<String>,
    read_on: Option<Date>,
    instrument: Option<Uuid>,
    hand: &'a Hand,
}

impl OfPaper<'_> {
    fn reading(&self, step: Step, value: Value, typed: &str) -> Reading {
        Reading {
            id: self.hand.next_id(),
            key: step.key,
            typed: typed.to_owned(),
            value,
            unsteady: false,
            context: Context {
                instrument: self.instrument,
                test_voltage_v: step.test_voltage,
                read_on: self.read_on,
                read_by: self.read_by.clone(),
                ..Context::of_paper(&self.by, self.hand.at)
            },
        }
    }
}

pub(super) fn take(job: &Job, sheet: &Sheet, hand: &Hand) -> Result<Taken, Refusal> {
    let settled = job.settled();
    let by = text::line("by", &hand.by, LONGEST_LINE)?;
    if by.is_empty() {
        return Err(Refusal::Nobody);
    }
    let read_on = paper::day(&With { paper: true, ..sheet.with.clone() }, hand)
        .map_err(|why| Refusal::Fields(vec![("paper_on".to_owned(), why)]))?;
    let read_by = Some(text::line("read by", &sheet.with.read_by, LONGEST_LINE)?).filter(|name| !name.is_empty());
    let instrument = sheet.with.instrument.filter(|id| job.instruments.iter().any(|one| one.id == *id));
    let over_mohm = over_range(job, instrument);
    let of = OfPaper { by, read_by, read_on, instrument, hand };
    let (mut readings, mut wrong) = (Vec::new(), Vec::new());
    let in_order = |step: &Step| read_on.and_then(|on| paper::in_order(job, &step.key, on).err());
    for one in &sheet.cells {
        let Some(circuit) = job.installation.circuit(one.circuit) else { return Err(Refusal::NoSuchStep) };
        let box_of = one.cell.step(&job.installation, circuit, one.line).map_err(NotInBox::from);
        let value = one.cell.value(&job.installation, circuit, one.line, (&one.typed, over_mohm));
        match (box_of, value) {
            _ if !is_open(circuit, &settled, one.cell) => {
                wrong.push((one.field.clone(), NotInBox::ReadPointByPoint.into()))
            }
            (Err(why), _) | (_, Err(why)) => wrong.push((one.field.clone(), Refusal::Box(why))),
            (Ok(step), Ok(value)) => match in_order(&step) {
                Some(why) => wrong.push((one.field.clone(), why)),
                None => readings.push(of.reading(step, value, &one.typed)),
            },
        }
    }
    for one in &sheet.steps {
        let step = steps_of(&job.installation, one.board).into_iter().find(|step| step.slug == one.slug);
        let step = step.ok_or(Refusal::NoSuchStep)?;
        match (in_box(&step, &one.typed, over_mohm), in_order(&step)) {
            (Err(why), _) => wrong.push((one.field.clone(), Refusal::Box(why))),
            (_, Some(why)) => wrong.push((one.field.clone(), why)),
            (Ok(value), None) => readings.push(of.reading(step, value, &one.typed)),
        }
    }
    if wrong.is_empty() { Ok(Taken { readings, ..Taken::default() }) } else { Err(Refusal::Fields(wrong)) }
}
