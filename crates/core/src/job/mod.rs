//! A whole job: what is described, what was read, what happened.

pub mod validity;

use crate::installation::{Firm, Installation, Person};
use crate::instrument::Instrument;
use crate::reading::Reading;
use crate::site::{Event, Site};
use jiff::Timestamp;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A whole job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Job {
    /// Identity.
    pub id: Uuid,
    /// The firm's own reference.
    pub reference: String,
    /// What it is, in a line.
    pub title: String,
    /// When it was begun.
    pub created_at: Timestamp,
    /// The firm.
    pub firm: Firm,
    /// People named in it.
    #[serde(default)]
    pub people: Vec<Person>,
    /// Instruments used in it.
    #[serde(default)]
    pub instruments: Vec<Instrument>,
    /// The installation.
    pub installation: Installation,
    /// Every reading, in the order stored.
    #[serde(default)]
    pub readings: Vec<Reading>,
    /// The log, in the order stored.
    #[serde(default)]
    pub events: Vec<Event>,
    /// How many events came with a file: history, which opens no test here. Noted outside the job.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schemars(skip))]
    pub history: usize,
}

impl Job {
    /// The instrument that is taken where nobody names one: the only one that is in calibration on a day.
    pub fn only_instrument(&self, on: Date) -> Option<&Instrument> {
        let mut trusted = self.instruments.iter().filter(|one| one.calibration_due.is_some_and(|due| due >= on));
        let only = trusted.next();
        only.filter(|_| trusted.next().is_none())
    }

    /// The site as it is known here: what a file brought as history proves nothing.
    pub fn site(&self) -> Site<'_> {
        Site::here(&self.events, self.history)
    }
}
