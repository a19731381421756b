//! A job as it is kept.

use crate::{Result, StoreError};
use proof_job::job::Job;
use rusqlite::Row;

/// A job as described: no readings, no events.
#[derive(Debug, Clone, PartialEq)]
pub struct JobHead {
    /// The job; its readings and events are empty.
    pub job: Job,
    /// Raised with every change of the description.
    pub revision: i64,
}

impl TryFrom<&Row<'_>> for JobHead {
    type Error = StoreError;

    fn try_from(row: &Row<'_>) -> Result<Self> {
        let mut job: Job = serde_json::from_str(row.get_ref("description")?.as_str().map_err(rusqlite::Error::from)?)?;
        job.history = row.get::<_, u32>("history")? as usize;
        Ok(Self { job, revision: row.get("revision")? })
    }
}
