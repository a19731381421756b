//! The cells of a schedule sheet: results brought in from paper, all or none.

use super::paper_row::{Cell, NotInBox, is_open};
use super::{Hand, Refusal, Taken, With, paper};
use crate::installation::validity::LONGEST_LINE;
use crate::job::Job;
use crate::reading::{Context, Reading, Settled};
use crate::text;
use uuid::Uuid;

/// A cell as typed.
#[derive(Debug, Clone)]
pub struct SheetCell {
    /// The name of its field.
    pub field: String,
    /// Of which circuit.
    pub circuit: Uuid,
    /// Which box.
    pub cell: Cell,
    /// What was typed.
    pub typed: String,
}

/// The cells that were changed.
#[derive(Debug, Clone, Default)]
pub struct Sheet {
    /// Each changed cell.
    pub cells: Vec<SheetCell>,
    /// How it was read.
    pub with: With,
}

pub(super) fn take(job: &Job, sheet: &Sheet, hand: &Hand) -> Result<Taken, Refusal> {
    let settled = Settled::new(&job.readings, &job.events);
    let by = text::line("by", &hand.by, LONGEST_LINE)?;
    if by.is_empty() {
        return Err(Refusal::Nobody);
    }
    let read_on = paper::day(&With { paper: true, ..sheet.with.clone() }, hand)
        .map_err(|why| Refusal::Fields(vec![("paper_on".to_owned(), why)]))?;
    let read_by = text::line("read by", &sheet.with.read_by, LONGEST_LINE)?;
    let known = sheet.with.instrument.filter(|id| job.instruments.iter().any(|one| one.id == *id));
    let (mut readings, mut wrong) = (Vec::new(), Vec::new());
    for one in &sheet.cells {
        let Some(circuit) = job.installation.circuit(one.circuit) else { return Err(Refusal::NoSuchStep) };
        let box_of = one.cell.step(&job.installation, circuit).map_err(NotInBox::from);
        let value = one.cell.value(&job.installation, circuit, &one.typed);
        match (box_of, value) {
            _ if !is_open(circuit, &settled, one.cell) => {
                wrong.push((one.field.clone(), NotInBox::ReadPointByPoint.into()))
            }
            (Err(why), _) | (_, Err(why)) => wrong.push((one.field.clone(), Refusal::Box(why))),
            (Ok(step), Ok(_)) if let Some(why) = read_on.and_then(|on| paper::in_order(job, &step.key, on).err()) => {
                wrong.push((one.field.clone(), why));
            }
            (Ok(step), Ok(value)) => readings.push(Reading {
                id: hand.next_id(),
                key: step.key,
                typed: one.typed.clone(),
                value,
                unsteady: false,
                context: Context {
                    instrument: known,
                    test_voltage_v: step.test_voltage,
                    read_on,
                    read_by: (!read_by.is_empty()).then(|| read_by.clone()),
                    ..Context::of_paper(&by, hand.at)
                },
            }),
        }
    }
    if wrong.is_empty() { Ok(Taken { readings, ..Taken::default() }) } else { Err(Refusal::Fields(wrong)) }
}
