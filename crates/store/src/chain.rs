//! The chain: a digest over each reading and event, as its row holds it, and the digest before. What was altered past
//! the program is told with its row; nothing is mended.

use crate::{Result, Store};
use proof_seal::digest;
use rusqlite::{Connection, OptionalExtension, Row, Transaction, params};
use std::fmt;

/// A row that is not as it was stored.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Altered {
    /// `readings` or `events`.
    pub table: &'static str,
    /// Its number there.
    pub row: i64,
    /// The reference of its job; empty where that is not known.
    pub job: String,
    /// What is wrong with it.
    pub what: Wrong,
}

/// What is wrong with a row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Wrong {
    /// It says something else than when it was stored.
    Differs,
    /// It is gone.
    Gone,
    /// It was put there past the program.
    Added,
}

impl fmt::Display for Altered {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let what = match self.what {
            Wrong::Differs => "is not as it was stored",
            Wrong::Gone => "is gone",
            Wrong::Added => "was not stored by this program",
        };
        let job = if self.job.is_empty() { String::new() } else { format!(" (job {})", self.job) };
        write!(f, "{} row {}{job} {what}", self.table, self.row)
    }
}

const TABLES: [&str; 2] = ["readings", "events"];

/// What of a row goes into its digest, as one text.
fn content(table: &str) -> &'static str {
    if table == "readings" {
        "id || char(31) || job || char(31) || subject_kind || char(31) || coalesce(circuit, '') || char(31) || test
         || char(31) || typed || char(31) || entered_by || char(31) || stored_at || char(31) || body"
    } else {
        "id || char(31) || job || char(31) || at || char(31) || by_whom || char(31) || what || char(31) || body"
    }
}

fn linked(before: &str, table: &str, row: i64, content: &[u8]) -> String {
    digest(&[before.as_bytes(), format!("\n{table} {row}\n").as_bytes(), content].concat())
}

/// Links the row that was just stored.
pub(crate) fn link(transaction: &Transaction<'_>, table: &'static str) -> rusqlite::Result<()> {
    link_row(transaction, table, transaction.last_insert_rowid())
}

fn link_row(transaction: &Transaction<'_>, table: &str, row: i64) -> rusqlite::Result<()> {
    let before: Option<String> = transaction
        .prepare_cached("SELECT digest FROM chain ORDER BY seq DESC LIMIT 1")?
        .query_row([], |row| row.get(0))
        .optional()?;
    let sql = format!("SELECT {} FROM {table} WHERE seq = ?1", content(table));
    let content: String = transaction.prepare_cached(&sql)?.query_row([row], |row| row.get(0))?;
    let digest = linked(&before.unwrap_or_default(), table, row, content.as_bytes());
    transaction
        .prepare_cached("INSERT INTO chain (of_table, of_row, digest) VALUES (?1, ?2, ?3)")?
        .execute(params![table, row, digest])?;
    Ok(())
}

/// Begins the chain over what is stored already.
pub(crate) fn begin(transaction: &Transaction<'_>) -> rusqlite::Result<()> {
    for table in TABLES {
        let mut rows = transaction.prepare(&format!("SELECT seq FROM {table} ORDER BY seq"))?;
        let rows: Vec<i64> = rows.query_map([], |row| row.get(0))?.collect::<rusqlite::Result<_>>()?;
        for row in rows {
            link_row(transaction, table, row)?;
        }
    }
    Ok(())
}

/// The bytes of a text column, readable or not.
fn bytes(row: &Row<'_>, at: usize) -> rusqlite::Result<Option<Vec<u8>>> {
    Ok(match row.get_ref(at)? {
        rusqlite::types::ValueRef::Text(bytes) | rusqlite::types::ValueRef::Blob(bytes) => Some(bytes.to_vec()),
        _ => None,
    })
}

fn job_of(connection: &Connection, table: &str, row: i64) -> Result<String> {
    let sql = format!("SELECT reference FROM jobs WHERE id = (SELECT job FROM {table} WHERE seq = ?1)");
    Ok(connection.prepare_cached(&sql)?.query_row([row], |row| row.get(0)).optional()?.unwrap_or_default())
}

/// Every row that is not as it was stored.
pub(crate) fn altered(connection: &Connection) -> Result<Vec<Altered>> {
    let sql = format!(
        "SELECT of_table, of_row, digest, CASE of_table
            WHEN 'readings' THEN (SELECT {} FROM readings WHERE seq = of_row)
            ELSE (SELECT {} FROM events WHERE seq = of_row) END
         FROM chain ORDER BY chain.seq",
        content("readings"),
        content("events")
    );
    let mut statement = connection.prepare(&sql)?;
    let mut rows = statement.query([])?;
    let (mut stored_before, mut worked_before) = (String::new(), String::new());
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        let table = bytes(row, 0)?.unwrap_or_default();
        let table = if table == b"events" { "events" } else { "readings" };
        let of_row: i64 = row.get(1)?;
        let stored = String::from_utf8_lossy(&bytes(row, 2)?.unwrap_or_default()).into_owned();
        let Some(content) = bytes(row, 3)? else {
            found.push(Altered { table, row: of_row, job: String::new(), what: Wrong::Gone });
            (stored_before, worked_before) = (stored.clone(), stored);
            continue;
        };
        // A digest that was itself altered is told at its own row and not at the next.
        let worked = linked(&stored_before, table, of_row, &content);
        let also = linked(&worked_before, table, of_row, &content);
        if stored != worked && stored != also {
            found.push(Altered { table, row: of_row, job: job_of(connection, table, of_row)?, what: Wrong::Differs });
        }
        (stored_before, worked_before) = (stored, worked);
    }
    for table in TABLES {
        let sql = format!(
            "SELECT seq FROM {table} WHERE NOT EXISTS (SELECT 1 FROM chain WHERE of_table = '{table}' AND of_row = {table}.seq)"
        );
        let mut more = connection.prepare(&sql)?;
        let more: Vec<i64> = more.query_map([], |row| row.get(0))?.collect::<rusqlite::Result<_>>()?;
        for row in more {
            found.push(Altered { table, row, job: job_of(connection, table, row)?, what: Wrong::Added });
        }
    }
    Ok(found)
}

impl Store {
    /// Every reading and event that is not as it was stored.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database.
    pub fn altered(&self) -> Result<Vec<Altered>> {
        altered(&*self.connection()?)
    }
}
