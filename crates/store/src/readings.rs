//! Readings: appended once, never changed.

use crate::{Differs, Result, Store, StoreError, chain};
use proof_job::reading::Reading;
use rusqlite::{Connection, OptionalExtension, Row, Rows, Transaction, params};
use uuid::Uuid;

/// Appends a reading; whether it is stored now. One that is there already is left as it is.
pub(crate) fn append(transaction: &Transaction<'_>, job: Uuid, reading: &Reading) -> Result<bool> {
    let id = reading.id.to_string();
    let stored: Option<(String, String)> = transaction
        .prepare_cached("SELECT job, body FROM readings WHERE id = ?1")?
        .query_row([&id], |row| Ok((row.get(0)?, row.get(1)?)))
        .optional()?;
    if let Some((stored_job, body)) = stored {
        let stored: Reading = serde_json::from_str(&body)?;
        return if stored_job == job.to_string() && stored.same_content(reading) {
            Ok(false)
        } else {
            Err(Differs::Reading(reading.id).into())
        };
    }
    let body = serde_json::to_value(reading)?;
    let word = |pointer: &str| body.pointer(pointer).and_then(|v| v.as_str()).unwrap_or_default().to_owned();
    transaction
        .prepare_cached(
            "INSERT INTO readings (id, job, subject_kind, circuit, test, typed, entered_by, stored_at, body)
             VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)",
        )?
        .execute(params![
            id,
            job.to_string(),
            word("/key/subject/of"),
            reading.key.subject.circuit().map(|circuit| circuit.to_string()),
            word("/key/test/test"),
            reading.typed,
            reading.context.entered_by,
            reading.context.stored_at,
            body.to_string(),
        ])?;
    chain::link(transaction, "readings")?;
    Ok(true)
}

fn collect(mut rows: Rows<'_>) -> Result<Vec<Reading>> {
    let mut readings = Vec::new();
    while let Some(row) = rows.next()? {
        readings.push(body(row, "readings")?);
    }
    Ok(readings)
}

/// What the first column of a row holds; what cannot be read is named by the number in the second.
pub(crate) fn body<T: serde::de::DeserializeOwned>(row: &Row<'_>, table: &'static str) -> Result<T> {
    let bytes = row.get_ref(0)?.as_bytes().map_err(rusqlite::Error::from)?;
    serde_json::from_slice(bytes).map_err(|error| StoreError::Row {
        table,
        row: row.get::<_, i64>(1).map(|seq| format!("row {seq}")).unwrap_or_default(),
        column: "body",
        text: error.to_string(),
    })
}

pub(crate) fn read_after(connection: &Connection, job: Uuid, seq: i64) -> Result<Vec<Reading>> {
    let mut statement =
        connection.prepare_cached("SELECT body, seq FROM readings WHERE job = ?1 AND seq > ?2 ORDER BY seq")?;
    collect(statement.query(params![job.to_string(), seq])?)
}

pub(crate) fn read_circuit(connection: &Connection, job: Uuid, circuit: Uuid) -> Result<Vec<Reading>> {
    let mut statement =
        connection.prepare_cached("SELECT body, seq FROM readings WHERE job = ?1 AND circuit = ?2 ORDER BY seq")?;
    collect(statement.query([job.to_string(), circuit.to_string()])?)
}

impl Store {
    /// Readings of some circuits and of those that are of no circuit (the origin, bonds, boards), in
    /// the order stored: what judging one circuit needs is its own and those of what feeds it.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn readings_for(&self, job: Uuid, circuits: &[Uuid]) -> Result<Vec<Reading>> {
        let wanted = |reading: &&Reading| reading.key.subject.circuit().is_none_or(|of| circuits.contains(&of));
        Ok(self.job(job)?.job.readings.iter().filter(wanted).cloned().collect())
    }

    /// One reading by its id.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn reading(&self, job: Uuid, id: Uuid) -> Result<Reading> {
        let connection = self.connection()?;
        let body: Option<String> = connection
            .prepare_cached("SELECT body FROM readings WHERE job = ?1 AND id = ?2")?
            .query_row([job.to_string(), id.to_string()], |row| row.get(0))
            .optional()?;
        let body = body.ok_or_else(|| StoreError::Unknown(format!("reading {id}")))?;
        Ok(serde_json::from_str(&body)?)
    }
}
