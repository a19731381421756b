//! What can go wrong in the store.

use super::refusal::{Differs, Refused};

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
