//! Jobs read lately, kept as read. What is kept is used only while the database still holds just
//! that: its revision and the last reading and event of the job are compared on every use.

use crate::JobHead;
use std::sync::Arc;
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
}

impl Version {
    /// Whether another holds the same description and at least as many readings and events.
    pub(crate) const fn is_before(self, other: Self) -> bool {
        self.revision == other.revision && self.reading <= other.reading && self.event <= other.event
    }
}

/// The jobs kept, the latest used last.
#[derive(Debug, Default)]
pub(crate) struct Recent(Vec<(Uuid, Version, Arc<JobHead>)>);

impl Recent {
    /// A kept job, whatever its version.
    pub(crate) fn get(&mut self, id: Uuid) -> Option<(Version, Arc<JobHead>)> {
        let at = self.0.iter().position(|(kept, _, _)| *kept == id)?;
        let entry = self.0.remove(at);
        let found = (entry.1, entry.2.clone());
        self.0.push(entry);
        Some(found)
    }

    /// Keeps a job.
    pub(crate) fn put(&mut self, id: Uuid, version: Version, job: Arc<JobHead>) {
        self.0.retain(|(kept, _, _)| *kept != id);
        if self.0.len() >= MOST {
            self.0.remove(0);
        }
        self.0.push((id, version, job));
    }
}
