//! Jobs read lately, kept as read with what follows from them. What is kept is used only while the database
//! still holds just that: its revision and the last reading and event of the job are compared on every use.

use crate::JobHead;
use std::sync::{Arc, Mutex, PoisonError};
use uuid::Uuid;

/// Most jobs kept: a job of 3,000 readings takes some megabytes.
const MOST: usize = 4;

/// Revision of the description, last reading, last event.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Version {
    /// Revision of the description.
    pub revision: i64,
    /// Last reading, 0 when there is none.
    pub reading: i64,
    /// Last event, 0 when there is none.
    pub event: i64,
    /// Revision of the registers.
    pub registers: i64,
    /// How many certificates it has.
    pub certificates: i64,
    /// Which of the databases that stood here, one after another.
    pub generation: u64,
}

impl Version {
    /// Whether another is as late or later, in all.
    pub(crate) const fn is_before(self, other: Self) -> bool {
        self.generation == other.generation
            && self.revision <= other.revision
            && self.reading <= other.reading
            && self.event <= other.event
            && self.registers <= other.registers
            && self.certificates <= other.certificates
    }

    /// Whether another is described alike: what it says but for its readings and events.
    pub(crate) const fn is_described_as(self, other: Self) -> bool {
        self.revision == other.revision && self.registers == other.registers && self.certificates == other.certificates
    }
}

/// One job as it was last read. It is locked while it is read or grown, so that no two do the same; other
/// jobs go on.
pub(crate) type Slot = Arc<Mutex<Option<(Version, Arc<JobHead>)>>>;

/// The jobs kept, the latest used last.
#[derive(Debug, Default)]
pub(crate) struct Recent(Mutex<Vec<(Uuid, Slot)>>);

impl Recent {
    /// The place of a job, empty when it was not read lately.
    pub(crate) fn slot(&self, id: Uuid) -> Slot {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let slot = match all.iter().position(|(kept, _)| *kept == id) {
            Some(at) => all.remove(at).1,
            None => Slot::default(),
        };
        if all.len() >= MOST {
            all.remove(0);
        }
        all.push((id, slot.clone()));
        slot
    }
}
