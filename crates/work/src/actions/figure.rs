//! A figure that a person gives, and with what it was taken.

use jiff::Timestamp;
use proof_job::reading::Step;
use proof_job::reading::message::Message;
use uuid::Uuid;

/// With what, by whom and how something was read.
#[derive(Debug, Clone, Default)]
pub struct With {
    /// Which instrument.
    pub instrument: Option<Uuid>,
    /// Who held the probes, if it was not who writes.
    pub read_by: String,
    /// Copied from paper.
    pub paper: bool,
    /// The day on which it was read, as typed.
    pub paper_on: String,
    /// From an unsteady display.
    pub unsteady: bool,
    /// The leads in use are said to be nulled.
    pub nulled: bool,
    /// An instrument sent it.
    pub received: bool,
    /// A simulation made it.
    pub simulated: bool,
    /// It stands in the log of an instrument that was brought in: it was read before, at this moment where the log says
    /// one, else on the day of [`Self::paper_on`].
    pub logged: Option<Logged>,
}

/// When a reading of a log was taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Logged {
    /// As the log says.
    At(Timestamp),
    /// The log does not say; somebody gives the day.
    NoTime,
}

impl With {
    /// As an instrument of the register sent it.
    pub fn received(message: &Message, instrument: Uuid, read_by: &str) -> Self {
        Self {
            instrument: Some(instrument),
            read_by: read_by.to_owned(),
            unsteady: message.unsteady,
            received: true,
            simulated: message.simulated,
            ..Self::default()
        }
    }
}

/// A figure typed for a step.
#[derive(Debug, Clone)]
pub struct Figure {
    /// What it is a reading of.
    pub step: Step,
    /// What stands in the field.
    pub typed: String,
    /// The button beside it that was pressed: `pass` or `fail`; empty for none.
    pub pressed: String,
    /// How it was read.
    pub with: With,
}
