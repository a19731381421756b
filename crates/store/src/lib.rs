//! Jobs, readings, events and certificates in SQLite. Every SQL statement stands in this crate.
//!
//! WAL, foreign keys, a busy timeout and `synchronous=FULL` on every connection of the pool: what
//! was answered is on the disk. One immediate transaction an operation; it rolls back on drop.

mod certificates;
mod jobs;
mod keys;
mod readings;
mod recent;
mod registers;

pub use certificates::{Asked, CertificateRow, Papers, Status};
pub use jobs::{JobHead, JobRow};
pub use keys::KeyEvent;
pub use readings::Appended;

use r2d2::{Pool, PooledConnection};
use r2d2_sqlite::SqliteConnectionManager;
use recent::Recent;
use rusqlite::{Connection, Transaction, TransactionBehavior};
use rusqlite_migration::{M, Migrations};
use std::path::Path;
use std::sync::{Arc, Mutex};
use std::time::Duration;

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
    Differs(String),
    /// Somebody else changed it meanwhile.
    #[error("somebody changed this job meanwhile: your change was not stored; look at it as it is now and repeat it")]
    Conflict,
    /// What is asked would lose something.
    #[error("{0}")]
    Refused(String),
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

/// Result of a store operation.
pub type Result<T> = std::result::Result<T, StoreError>;

fn migrations() -> Migrations<'static> {
    Migrations::new(vec![
        M::up(include_str!("../migrations/0001_first.sql")),
        M::up(include_str!("../migrations/0002_rules_and_checks.sql")),
        M::up(include_str!("../migrations/0003_keys_and_papers.sql")),
    ])
}

/// The database.
#[derive(Debug, Clone)]
pub struct Store {
    pool: Pool<SqliteConnectionManager>,
    recent: Arc<Mutex<Recent>>,
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
        let mut first = Connection::open(path)?;
        prepare(&mut first)?;
        migrations().to_latest(&mut first)?;
        drop(first);
        let manager = SqliteConnectionManager::file(path).with_init(prepare);
        let pool = Pool::builder().max_size(CONNECTIONS).connection_timeout(BUSY).build(manager)?;
        Ok(Self { pool, recent: Arc::default() })
    }

    fn connection(&self) -> Result<PooledConnection<SqliteConnectionManager>> {
        Ok(self.pool.get()?)
    }

    /// Runs one immediate transaction: committed when `work` succeeds, rolled back otherwise.
    fn write<T>(&self, work: impl FnOnce(&Transaction<'_>) -> Result<T>) -> Result<T> {
        let mut connection = self.connection()?;
        let transaction = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let done = work(&transaction)?;
        transaction.commit()?;
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
    }
}
