//! What follows from a job, kept beside it by who keeps the job just as it is: worked out once, and grown by
//! what is appended.
//!
//! A clone of a job keeps nothing, so that whoever changes one works with what is really there.

use crate::installation::{Feed, Installation};
use crate::job::Job;
use crate::reading::{Cache, CurrentReadings, Reading, ReadingIndex, WorkedOut};
use crate::site::{Event, EventKind};
use std::sync::Arc;
use uuid::Uuid;

/// What is kept beside a job; nothing unless somebody keeps it.
#[derive(Debug, Default)]
pub struct JobCache(Option<Box<Worked>>);

/// What was worked out of a job.
#[derive(Debug, Default)]
struct Worked {
    standing: ReadingIndex,
    /// Events taken in.
    events: usize,
    memo: Cache,
}

impl Clone for JobCache {
    fn clone(&self) -> Self {
        Self::default()
    }
}

impl PartialEq for JobCache {
    fn eq(&self, _: &Self) -> bool {
        true
    }
}

/// The circuits that a reading of one bears on: itself, those behind its residual device, and all that hang
/// below any of these.
fn affected_circuits(installation: &Installation, circuit: Uuid) -> Vec<Uuid> {
    let mut all = vec![circuit];
    if let Some(read) = installation.circuit(circuit).filter(|read| read.rcd.is_some()) {
        let behind = installation.circuits_of(read.board).filter(|other| other.rcd == read.rcd);
        all.extend(behind.map(|other| other.id).filter(|id| *id != circuit));
    }
    let mut at = 0;
    while let Some(feeder) = all.get(at).copied() {
        at += 1;
        let fed = installation.boards.iter().filter(|board| board.fed_by == Feed::Circuit { circuit: feeder });
        let below: Vec<Uuid> = fed.flat_map(|board| installation.circuits_of(board.id)).map(|one| one.id).collect();
        all.extend(below.into_iter().filter(|id| !all.contains(id)).collect::<Vec<_>>());
    }
    all
}

impl Worked {
    /// Whether everything of a job was taken in.
    const fn is_of(&self, job: &Job) -> bool {
        self.events == job.events.len() && self.standing.len() == job.readings.len()
    }

    fn grow(&mut self, installation: &Installation, readings: &[Reading], events: &[Event]) {
        let before = self.standing.len();
        let new = &events[self.events.min(events.len())..];
        let struck = new.iter().filter_map(|event| match &event.kind {
            EventKind::StruckOut { reading, .. } => Some(readings.iter().rfind(|one| one.id == *reading)),
            _ => None,
        });
        // Whom a reading was taken with may be said later, of many at once.
        let said = |event: &Event| matches!(event.kind, EventKind::TakenWith { .. });
        if new.iter().any(said) {
            self.memo.touch(None);
        } else if before < readings.len() || !new.is_empty() {
            self.memo.touch(Some(&[Uuid::nil()]));
        }
        let touched = readings[before..].iter().map(Some).chain(struck);
        for reading in touched.collect::<Vec<_>>() {
            let circuit = reading.and_then(|reading| reading.key.subject.circuit());
            self.memo.touch(circuit.map(|circuit| affected_circuits(installation, circuit)).as_deref());
        }
        self.standing.grow(readings, new);
        self.events = events.len();
    }
}

impl Job {
    /// Something of the whole job, worked out once and kept until anything is appended; where nothing is kept,
    /// worked out each time.
    pub fn cached<T: WorkedOut>(&self, work: impl FnOnce() -> T) -> Arc<T> {
        match &self.kept.0 {
            Some(worked) if worked.is_of(self) => worked.memo.get(Uuid::nil(), work),
            _ => Arc::new(work()),
        }
    }

    /// Works out what is kept beside the job; again after readings or events were appended. Nothing else of a
    /// job that keeps may change: clone it first.
    pub fn keep(&mut self) {
        let worked = self.kept.0.get_or_insert_default();
        worked.grow(&self.installation, &self.readings, &self.events);
    }

    /// The readings as they stand.
    pub fn settled(&self) -> CurrentReadings<'_> {
        match &self.kept.0 {
            Some(worked) if worked.is_of(self) => {
                CurrentReadings::kept(&self.readings, &worked.standing, (&worked.memo, &self.installation))
            }
            _ => CurrentReadings::new(&self.readings, &self.events),
        }
    }
}
