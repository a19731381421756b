//! What the readings and the log of a job say now.

use crate::job::Job;
use crate::reading::{CurrentReadings, WorkedOut};
use std::sync::Arc;
use uuid::Uuid;

impl Job {
    /// Something of the whole job, worked out once and kept until anything is appended; where nothing is kept,
    /// worked out each time.
    pub fn cached<T: WorkedOut>(&self, work: impl FnOnce() -> T) -> Arc<T> {
        match &self.kept.0 {
            Some(worked) if worked.is_of(&self.readings, &self.events) => worked.memo.get(Uuid::nil(), work),
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
            Some(worked) if worked.is_of(&self.readings, &self.events) => {
                CurrentReadings::kept(&self.readings, &worked.standing, (&worked.memo, &self.installation))
            }
            _ => CurrentReadings::new(&self.readings, &self.events),
        }
    }
}
