//! Jobs, readings, events and certificates in SQLite. Every SQL statement stands in this crate.
//!
//! WAL, foreign keys, a busy timeout and `synchronous=FULL` on every connection of the pool: what
//! was answered is on the disk. One immediate transaction an operation; it rolls back on drop.

mod actions;
mod backup;
mod certificates;
mod chain;
mod documents;
mod edit;
mod feeds;
mod jobs;
mod keys;
mod overlay;
mod patterns;
mod practice;
pub mod private;
mod readings;
mod recent;
mod refusal;
mod registers;
mod rows;

pub use actions::Stored;
pub use certificates::{Asked, CertificateRow, Papers, Status};
pub use chain::{Altered, Wrong};
pub use edit::Edit;
pub use feeds::{Counts, Feed, HeldMessage, Outcome, Received};
pub use jobs::{JobHead, JobRow};
pub use keys::{KeyEvent, PlainCopy};
pub use practice::{MOST_ACTS, Practice, PracticeBegun, PracticeDone};
pub use registers::Begun;

pub use refusal::{Differs, Refused};

use jiff::Timestamp;
use r2d2::{Pool, PooledConnection};
use r2d2_sqlite::SqliteConnectionManager;
use recent::Recent;
use rusqlite::{Connection, OptionalExtension, Transaction, TransactionBehavior};
use rusqlite_migration::{M, Migrations};
use std::path::Path;
use std::sync::Arc;
use std::time::Duration;
use uuid::Uuid;

/// How long a writer waits for another.
const BUSY: Duration = Duration::from_secs(10);
/// Connections of the pool: two cores, one writer at a time, readers beside it.
const CONNECTIONS: u32 = 6;

/// What can go wrong with the store.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// No such job, circuit or certificate.
    #[error("{0} is not known here")]
    Unknown(String),
    /// It exists and differs: the id was used for something else.
    #[error("{0}")]
    Differs(#[from] Differs),
    /// Somebody else changed it meanwhile.
    #[error("somebody changed this job meanwhile: your change was not stored; look at it as it is now and repeat it")]
    Conflict,
    /// It was sent before, under the same id and with the same content: it is done.
    #[error("this was sent before and is stored")]
    SentBefore,
    /// What is asked would lose something.
    #[error("{0}")]
    Refused(#[from] Refused),
    /// A row cannot be read.
    #[error("the database holds something that cannot be read: {table} {row}: {column} “{}”", shortened(.text))]
    Row {
        /// Of which table.
        table: &'static str,
        /// Which row.
        row: String,
        /// Which of its columns.
        column: &'static str,
        /// What stands there.
        text: String,
    },
    /// What is stored cannot be read.
    #[error("the database holds something that cannot be read: {0}")]
    Unreadable(#[from] serde_json::Error),
    /// SQLite said no.
    #[error("the database did not do it: {0}")]
    Sqlite(#[from] rusqlite::Error),
    /// No connection in time.
    #[error("the database is busy: {0}")]
    Pool(#[from] r2d2::Error),
    /// The database is from another version.
    #[error("the database could not be brought up to date: {0}")]
    Migration(#[from] rusqlite_migration::Error),
}

/// The beginning of a text, enough to know it by.
fn shortened(text: &str) -> String {
    let mut short: String = text.chars().take(60).filter(|c| !c.is_control()).collect();
    if short.len() < text.len() {
        short.push('…');
    }
    short
}

/// Result of a store operation.
pub type Result<T> = std::result::Result<T, StoreError>;

fn migrations() -> Migrations<'static> {
    Migrations::new(vec![
        M::up(include_str!("../migrations/0001_first.sql")),
        M::up(include_str!("../migrations/0002_rules_and_checks.sql")),
        M::up(include_str!("../migrations/0003_keys_and_papers.sql")),
        M::up(include_str!("../migrations/0004_sent.sql")),
        M::up(include_str!("../migrations/0005_history.sql")),
        M::up(include_str!("../migrations/0006_own_rows.sql")),
        M::up(include_str!("../migrations/0007_documents.sql")),
        M::up(include_str!("../migrations/0008_patterns.sql")),
        M::up(include_str!("../migrations/0009_editors.sql")),
        M::up(include_str!("../migrations/0010_registers.sql")),
        M::up_with_hook(include_str!("../migrations/0011_chain.sql"), |transaction: &Transaction<'_>| {
            Ok(chain::begin(transaction)?)
        }),
        M::up(include_str!("../migrations/0012_locked_keys.sql")),
        M::up(include_str!("../migrations/0013_practice.sql")),
        M::up(include_str!("../migrations/0014_feed.sql")),
        M::up(include_str!("../migrations/0015_held.sql")),
    ])
}

/// How many there are.
const MIGRATIONS: usize = 15;

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
    path: Arc<Path>,
    pool: Pool<SqliteConnectionManager>,
    recent: Arc<Recent>,
    registers: Arc<overlay::Kept>,
    /// What the next writes are sent with.
    sent: Option<Sent>,
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

fn prepare(connection: &mut Connection) -> rusqlite::Result<()> {
    connection.busy_timeout(BUSY)?;
    connection.execute_batch("PRAGMA journal_mode=WAL; PRAGMA foreign_keys=ON; PRAGMA synchronous=FULL;")?;
    connection.set_prepared_statement_cache_capacity(64);
    Ok(())
}

impl Store {
    /// Opens a database, making or upgrading it as needed.
    ///
    /// # Errors
    /// When the file cannot be opened, is no database, or is from a later version.
    pub fn open(path: &Path) -> Result<Self> {
        // Once on a bare connection first: its error says what is wrong, a pool's only that it timed out.
        private::make(path).map_err(|error| Refused::File(path.display().to_string(), error.to_string()))?;
        let mut first = Connection::open(path)?;
        prepare(&mut first)?;
        let kept = backup::before_migration(path, &first)?;
        migrations().to_latest(&mut first)?;
        if let Some(kept) = kept {
            let at = std::fs::metadata(&kept).and_then(|about| about.modified()).ok();
            backup::note(&first, &kept, at.and_then(|at| Timestamp::try_from(at).ok()).unwrap_or_default())?;
        }
        drop(first);
        let manager = SqliteConnectionManager::file(path).with_init(prepare);
        let pool = Pool::builder().max_size(CONNECTIONS).connection_timeout(BUSY).build(manager)?;
        Ok(Self { path: path.into(), pool, recent: Arc::default(), registers: Arc::default(), sent: None })
    }

    fn connection(&self) -> Result<PooledConnection<SqliteConnectionManager>> {
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
    fn note_sent(&self, transaction: &Transaction<'_>) -> Result<()> {
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
    fn write<T>(&self, work: impl FnOnce(&Transaction<'_>) -> Result<T>) -> Result<T> {
        self.write_on(&mut *self.connection()?, work)
    }

    fn write_on<T>(&self, connection: &mut Connection, work: impl FnOnce(&Transaction<'_>) -> Result<T>) -> Result<T> {
        let kept: Result<std::result::Result<T, std::convert::Infallible>> =
            self.write_unless_refused(connection, |transaction| Ok(Ok(work(transaction)?)));
        kept.map(|Ok(done)| done)
    }

    /// The same of what may be refused: then it is rolled back and leaves no trace, so that it may be sent again under
    /// its id with what was mended.
    fn write_unless_refused<T, E>(
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

#[cfg(test)]
mod tests {
    #[test]
    fn migrations_are_sound() {
        super::migrations().validate().unwrap();
        let mut connection = super::Connection::open_in_memory().unwrap();
        super::migrations().to_version(&mut connection, super::MIGRATIONS).unwrap();
        assert!(super::migrations().to_version(&mut connection, super::MIGRATIONS + 1).is_err(), "all are counted");
    }
}
