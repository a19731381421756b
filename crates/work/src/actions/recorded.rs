//! Who acts, and what an action records.

use jiff::Timestamp;
use proof_job::reading::Reading;
use proof_job::site::{Event, EventKind};
use std::cell::Cell;
use uuid::Uuid;

/// Who acts, and when; the client made the id of the action.
#[derive(Debug, Clone)]
pub struct Actor {
    /// Names the action: the same id sent twice is the same action.
    pub id: Uuid,
    /// Who did it, or writes it down.
    pub by: String,
    /// When.
    pub at: Timestamp,
    made: Cell<u32>,
}

impl Actor {
    /// An actor.
    pub fn new(id: Uuid, by: impl Into<String>, at: Timestamp) -> Self {
        Self { id, by: by.into(), at, made: Cell::new(0) }
    }

    /// The next id that the action makes: it follows from the action's own.
    pub fn next_id(&self) -> Uuid {
        let number = self.made.get();
        self.made.set(number + 1);
        Uuid::new_v5(&self.id, &number.to_be_bytes())
    }

    pub(crate) fn event(&self, kind: EventKind) -> Event {
        Event::new(self.next_id(), &self.by, self.at, kind)
    }
}

/// What an action adds to the job.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Recorded {
    /// Readings, in order.
    pub readings: Vec<Reading>,
    /// Events, in order.
    pub events: Vec<Event>,
}
