//! What a person did, taken inside the transaction that stores it: against the job as it is there.

use crate::jobs::insert_event;
use crate::readings::append;
use crate::{Result, Store, StoreError};
use proof_job::job::Job;
use proof_work::actions::Recorded;
use uuid::Uuid;

/// What became of an action.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stored {
    /// It is stored now.
    Now,
    /// It was sent before and is stored already.
    Before,
}

impl Store {
    /// Stores what `action` makes of the job as it stands inside the transaction, whole or not at all.
    /// The inner error: it refused, and nothing was stored.
    ///
    /// # Errors
    /// [`StoreError::Unknown`] without such a job; [`StoreError::Differs`] when an id was used for
    /// something else.
    pub fn record<R>(
        &self,
        job: Uuid,
        action: impl FnOnce(&Job) -> std::result::Result<Recorded, R>,
    ) -> Result<std::result::Result<Stored, R>> {
        let done = self.write_unless_refused(&mut *self.connection()?, |transaction| {
            let head = self.job_in(transaction, job)?;
            let taken = match action(&head.job) {
                Ok(taken) => taken,
                Err(why) => return Ok(Err(why)),
            };
            drop(head);
            for reading in &taken.readings {
                append(transaction, job, reading)?;
            }
            for event in &taken.events {
                insert_event(transaction, job, event)?;
            }
            Ok(Ok(Stored::Now))
        });
        match done {
            Err(StoreError::SentBefore) => Ok(Ok(Stored::Before)),
            done => done,
        }
    }
}
