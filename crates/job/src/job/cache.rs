//! What follows from a job, kept beside it by who keeps the job just as it is: worked out once, and grown by
//! what is appended.
//!
//! A clone of a job keeps nothing, so that whoever changes one works with what is really there.

use crate::installation::{Feed, Installation};
use crate::reading::{Cache, Reading, ReadingIndex};
use crate::site::{Event, EventKind};
use uuid::Uuid;

/// What is kept beside a job; nothing unless somebody keeps it.
#[derive(Debug, Default)]
pub struct JobCache(pub(super) Option<Box<Worked>>);

/// What was worked out of a job.
#[derive(Debug, Default)]
pub(super) struct Worked {
    pub(super) standing: ReadingIndex,
    /// Events taken in.
    events: usize,
    pub(super) memo: Cache,
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
        let behind = installation.circuits_on(read.board).filter(|other| other.rcd == read.rcd);
        all.extend(behind.map(|other| other.id).filter(|id| *id != circuit));
    }
    let mut at = 0;
    while let Some(feeder) = all.get(at).copied() {
        at += 1;
        let fed = installation.boards.iter().filter(|board| board.fed_by == Feed::Circuit { circuit: feeder });
        let below: Vec<Uuid> = fed.flat_map(|board| installation.circuits_on(board.id)).map(|one| one.id).collect();
        all.extend(below.into_iter().filter(|id| !all.contains(id)).collect::<Vec<_>>());
    }
    all
}

impl Worked {
    /// Whether everything of a job was taken in.
    pub(super) const fn is_of(&self, readings: &[Reading], events: &[Event]) -> bool {
        self.events == events.len() && self.standing.len() == readings.len()
    }

    pub(super) fn grow(&mut self, installation: &Installation, readings: &[Reading], events: &[Event]) {
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
