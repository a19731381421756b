//! The database: connections, transactions, what was sent before.

use super::recent::Recent;
use crate::error::{Result, StoreError};
use crate::refusal::Differs;
use jiff::Timestamp;
use r2d2::{Pool, PooledConnection};
use r2d2_sqlite::SqliteConnectionManager;
use rusqlite::{Connection, OptionalExtension, Transaction, TransactionBehavior};
use std::path::Path;
use std::sync::Arc;
use uuid::Uuid;

/// Connections of the pool: two cores, one writer at a time, readers beside it.
pub(crate) const CONNECTIONS: u32 = 6;

/// What a client sends: the id that it made, and a digest of what it says.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Sent {
    /// Made by the client.
    pub id: Uuid,
    /// Digest of the form.
    pub digest: String,
    /// When.
    pub at: Timestamp,
}

/// The database.
#[derive(Debug, Clone)]
pub struct Store {
    pub(crate) path: Arc<Path>,
    pub(crate) pool: Pool<SqliteConnectionManager>,
    pub(crate) recent: Arc<Recent>,
    pub(crate) registers: Arc<crate::overlay::RegistersCache>,
    /// What the next writes are sent with.
    pub(crate) sent: Option<Sent>,
}

/// Whether something was sent before under its id; with other content that is a mistake.
fn is_sent(connection: &Connection, sent: &Sent) -> Result<bool> {
    let before: Option<String> = connection
        .prepare_cached("SELECT digest FROM sent WHERE id = ?1")?
        .query_row([sent.id.to_string()], |row| row.get(0))
        .optional()?;
    match before {
        None => Ok(false),
        Some(digest) if digest == sent.digest => Ok(true),
        Some(_) => Err(Differs::Form.into()),
    }
}

impl Store {
    pub(crate) fn connection(&self) -> Result<PooledConnection<SqliteConnectionManager>> {
        Ok(self.pool.get()?)
    }

    /// The same database for one thing that a client sends: sent twice under one id it is written once,
    /// and the second time is told by [`StoreError::SentBefore`].
    #[must_use]
    pub fn with(&self, sent: Option<Sent>) -> Self {
        Self { sent, ..self.clone() }
    }

    /// Whether what this store is asked with was sent before and is done.
    ///
    /// # Errors
    /// [`StoreError::Differs`] when the id was sent with other content.
    pub fn was_sent(&self) -> Result<bool> {
        match &self.sent {
            Some(sent) => is_sent(&*self.connection()?, sent),
            None => Ok(false),
        }
    }

    /// Notes what was sent, in the transaction that does it.
    pub(crate) fn note_sent(&self, transaction: &Transaction<'_>) -> Result<()> {
        let Some(sent) = &self.sent else { return Ok(()) };
        if is_sent(transaction, sent)? {
            return Err(StoreError::SentBefore);
        }
        transaction.prepare_cached("INSERT INTO sent (id, digest, at) VALUES (?1, ?2, ?3)")?.execute([
            sent.id.to_string(),
            sent.digest.clone(),
            sent.at.to_string(),
        ])?;
        Ok(())
    }

    /// Runs one immediate transaction: committed when `work` succeeds, rolled back otherwise.
    pub(crate) fn write<T>(&self, work: impl FnOnce(&Transaction<'_>) -> Result<T>) -> Result<T> {
        self.write_on(&mut *self.connection()?, work)
    }

    pub(crate) fn write_on<T>(
        &self,
        connection: &mut Connection,
        work: impl FnOnce(&Transaction<'_>) -> Result<T>,
    ) -> Result<T> {
        let kept: Result<std::result::Result<T, std::convert::Infallible>> =
            self.write_unless_refused(connection, |transaction| Ok(Ok(work(transaction)?)));
        kept.map(|Ok(done)| done)
    }

    /// The same of what may be refused: then it is rolled back and leaves no trace, so that it may be sent again under
    /// its id with what was mended.
    pub(crate) fn write_unless_refused<T, E>(
        &self,
        connection: &mut Connection,
        work: impl FnOnce(&Transaction<'_>) -> Result<std::result::Result<T, E>>,
    ) -> Result<std::result::Result<T, E>> {
        let transaction = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        self.note_sent(&transaction)?;
        let done = work(&transaction)?;
        if done.is_ok() {
            transaction.commit()?;
        }
        Ok(done)
    }

    /// `synchronous` of every connection that the pool can hold; 2 is FULL. For the durability test.
    ///
    /// # Errors
    /// When a connection cannot be had.
    pub fn synchronous_of_every_connection(&self) -> Result<Vec<i64>> {
        let all: Vec<_> = (0..CONNECTIONS).map(|_| self.connection()).collect::<Result<_>>()?;
        all.iter().map(|one| Ok(one.query_row("PRAGMA synchronous", [], |row| row.get(0))?)).collect()
    }

    /// Whether the database answers.
    ///
    /// # Errors
    /// When it does not.
    pub fn health(&self) -> Result<()> {
        Ok(self.connection()?.query_row("SELECT 1", [], |_| Ok(()))?)
    }
}
