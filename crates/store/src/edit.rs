//! The description of a job changed, in the transaction that looked at it: two people who add clash with nothing,
//! and who edits what another has changed is shown both.

use crate::jobs::{header, read_head, refuse_losing_readings};
use crate::{Refused, Result, Store, StoreError, documents};
use proof_job::installation::Documents;
use proof_job::job::Job;
use rusqlite::{Connection, OptionalExtension, Transaction, params};
use uuid::Uuid;

/// Descriptions kept of a job, beside the one that stands.
const KEPT: i64 = 8;

/// A description as it is changed.
#[derive(Debug)]
pub struct Edit<'a> {
    /// The whole job as it stands.
    pub whole: &'a Job,
    /// The description that the editor was shown; nothing where nobody said, or it is too long ago.
    pub shown: Option<Job>,
    /// The description as it stands, to be changed.
    pub job: &'a mut Job,
}

/// A description as it was at a revision, if it is kept.
fn at_revision(connection: &Connection, id: Uuid, revision: i64) -> Result<Option<Job>> {
    let text: Option<String> = connection
        .prepare_cached("SELECT description FROM descriptions WHERE job = ?1 AND revision = ?2")?
        .query_row(params![id.to_string(), revision], |row| row.get(0))
        .optional()?;
    Ok(text.map(|text| serde_json::from_str(&text)).transpose()?)
}

/// Puts a description in the place of the one that stands, which is kept for who is editing it.
fn put(transaction: &Transaction<'_>, before: &Job, job: &Job, revision: i64) -> Result<i64> {
    refuse_losing_readings(transaction, before, job)?;
    if before.made_as != job.made_as {
        return Err(Refused::MadeAs.into());
    }
    let id = job.id.to_string();
    let taken = transaction
        .prepare_cached("SELECT 1 FROM jobs WHERE reference = ?1 AND id <> ?2")?
        .exists([&job.reference, &id])?;
    if taken {
        return Err(Refused::JobTaken(job.reference.clone()).into());
    }
    transaction.execute(
        "INSERT OR REPLACE INTO descriptions (job, revision, description)
         SELECT id, revision, description FROM jobs WHERE id = ?1",
        [&id],
    )?;
    transaction.execute(
        "DELETE FROM descriptions WHERE job = ?1 AND revision <= ?2",
        params![id, revision.saturating_sub(KEPT)],
    )?;
    transaction.execute(
        "UPDATE jobs SET reference = ?2, title = ?3, client = ?4, site = ?5, description = ?6, revision = revision + 1
         WHERE id = ?1",
        params![id, job.reference, job.title, job.installation.client.name, job.installation.site.name, header(job)?],
    )?;
    Ok(revision + 1)
}

impl Store {
    /// Changes the description of a job, in one transaction: `work` is given it as it stands there, and as the editor
    /// was shown it. The inner error: it refused, and nothing was stored.
    ///
    /// # Errors
    /// [`StoreError::Unknown`] without such a job; [`StoreError::Refused`] when a circuit or point that has readings
    /// would go, or the reference is another job's.
    pub fn edit<T, E>(
        &self,
        id: Uuid,
        shown: Option<i64>,
        work: impl FnOnce(Edit<'_>) -> std::result::Result<T, E>,
    ) -> Result<std::result::Result<T, E>> {
        self.edit_with(id, shown, &Documents::new(), work)
    }

    /// The same with documents that the job names from now on.
    ///
    /// # Errors
    /// As [`Self::edit`].
    pub fn edit_with<T, E>(
        &self,
        id: Uuid,
        shown: Option<i64>,
        documents: &Documents,
        work: impl FnOnce(Edit<'_>) -> std::result::Result<T, E>,
    ) -> Result<std::result::Result<T, E>> {
        self.write_unless_refused(&mut *self.connection()?, |transaction| {
            let head = self.job_in(transaction, id)?;
            let before = read_head(transaction, &self.registers, id)?;
            let mut job = before.job.clone();
            let shown = match shown {
                Some(revision) if revision == before.revision => Some(before.job.clone()),
                Some(revision) => at_revision(transaction, id, revision)?,
                None => None,
            };
            match work(Edit { whole: &head.job, shown, job: &mut job }) {
                Ok(done) => {
                    documents::put(transaction, documents)?;
                    put(transaction, &before.job, &job, before.revision)?;
                    Ok(Ok(done))
                }
                Err(why) => Ok(Err(why)),
            }
        })
    }

    /// Changes the description of a job, if nobody else did meanwhile.
    ///
    /// # Errors
    /// [`StoreError::Conflict`]; as [`Self::edit`].
    pub fn save_description(&self, job: &Job, revision: i64) -> Result<i64> {
        self.save_with(job, &Documents::new(), revision)
    }

    /// The same with documents that it names from now on.
    ///
    /// # Errors
    /// As [`Self::save_description`].
    pub fn save_with(&self, job: &Job, documents: &Documents, revision: i64) -> Result<i64> {
        self.write(|transaction| {
            documents::put(transaction, documents)?;
            let before = read_head(transaction, &self.registers, job.id)?;
            if before.revision != revision {
                return Err(StoreError::Conflict);
            }
            put(transaction, &before.job, job, revision)
        })
    }
}
