//! The schema of the database, step by step, and how every connection is set.

use crate::chain;
use rusqlite::{Connection, Transaction};
use rusqlite_migration::{M, Migrations};
use std::time::Duration;

pub(crate) fn migrations() -> Migrations<'static> {
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
pub(crate) const MIGRATIONS: usize = 15;

/// How long a writer waits for another.
pub(crate) const BUSY: Duration = Duration::from_secs(10);

pub(crate) fn prepare(connection: &mut Connection) -> rusqlite::Result<()> {
    connection.busy_timeout(BUSY)?;
    connection.execute_batch("PRAGMA journal_mode=WAL; PRAGMA foreign_keys=ON; PRAGMA synchronous=FULL;")?;
    connection.set_prepared_statement_cache_capacity(64);
    Ok(())
}

#[cfg(test)]
mod tests {
    #[test]
    fn migrations_are_sound() {
        super::migrations().validate().unwrap();
        let mut connection = rusqlite::Connection::open_in_memory().unwrap();
        super::migrations().to_version(&mut connection, super::MIGRATIONS).unwrap();
        assert!(super::migrations().to_version(&mut connection, super::MIGRATIONS + 1).is_err(), "all are counted");
    }
}
