//! A whole job: what is described, what was read, what happened.

mod cache;
mod current;
mod made_as;
pub mod validity;

pub use cache::JobCache;
pub use made_as::MadeAs;

use crate::installation::{Firm, Installation, Person};
use crate::instrument::{Instrument, SeriesOrder};
use crate::reading::Reading;
use crate::site::{Event, EventKind, Site};
use jiff::Timestamp;
use jiff::civil::Date;
use rustc_hash::FxHashMap;
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
    /// What it was made as, once and for all.
    #[serde(default, skip_serializing_if = "MadeAs::is_work")]
    pub made_as: MadeAs,
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
    /// What was worked out of it, kept by who keeps it just as it is.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schemars(skip))]
    pub kept: JobCache,
}

/// The instrument that took each reading: as written with it, else as somebody said later.
#[derive(Debug)]
pub struct TakenBy<'a> {
    known: &'a [Instrument],
    named_later: FxHashMap<Uuid, Uuid>,
}

impl<'a> TakenBy<'a> {
    /// From the register and the log.
    pub fn from_events(known: &'a [Instrument], events: &[Event]) -> Self {
        let mut said = FxHashMap::default();
        for event in events {
            if let EventKind::TakenWith { readings, instrument } = &event.kind {
                said.extend(readings.iter().map(|reading| (*reading, *instrument)));
            }
        }
        Self { known, named_later: said }
    }

    /// The instrument of a reading, if anybody said.
    pub fn took(&self, reading: &Reading) -> Option<&'a Instrument> {
        let id = reading.context.instrument.or_else(|| self.named_later.get(&reading.id).copied())?;
        self.known.iter().find(|one| one.id == id)
    }
}

impl Job {
    /// The instrument that is taken where nobody names one: the only one that is in calibration on a day.
    pub fn only_instrument(&self, on: Date) -> Option<&Instrument> {
        let mut trusted = self.instruments.iter().filter(|one| one.calibration_due.is_some_and(|due| due >= on));
        let only = trusted.next();
        only.filter(|_| trusted.next().is_none())
    }

    /// In which order the instrument runs its automatic series: the one named, else the only one that says so.
    pub fn series_order(&self, instrument: Option<Uuid>) -> SeriesOrder {
        let named = self.instruments.iter().find(|one| Some(one.id) == instrument).and_then(|one| one.series);
        let mut said: Vec<SeriesOrder> = self.instruments.iter().filter_map(|one| one.series).collect();
        said.dedup();
        named.or_else(|| said.first().copied().filter(|_| said.len() == 1)).unwrap_or_default()
    }

    /// The instruments that a reading was taken with, in the order of the register.
    pub fn instruments_used(&self) -> Vec<&Instrument> {
        let taken_by = TakenBy::from_events(&self.instruments, &self.events);
        let used = |one: &&Instrument| self.readings.iter().filter_map(|r| taken_by.took(r)).any(|i| i.id == one.id);
        self.instruments.iter().filter(used).collect()
    }

    /// When calibration was due under which an instrument took its readings, the earliest first; as it stands now
    /// where no reading says its day.
    pub fn calibrations_used(&self, instrument: &Instrument) -> Vec<Date> {
        let taken_by = TakenBy::from_events(&self.instruments, &self.events);
        let mine = self.readings.iter().filter(|r| taken_by.took(r).is_some_and(|one| one.id == instrument.id));
        let days = mine.filter_map(|reading| Some(reading.context.moment()?.to_zoned(jiff::tz::TimeZone::UTC).date()));
        let mut due: Vec<Date> = days.filter_map(|day| instrument.due_on(day)).collect();
        due.sort_unstable();
        due.dedup();
        if due.is_empty() { instrument.calibration_due.into_iter().collect() } else { due }
    }

    /// The site as it is known here: what a file brought as history proves nothing.
    pub fn site(&self) -> Site<'_> {
        Site::locally_known(&self.events, self.history)
    }
}
