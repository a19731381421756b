//! Firm, people, instruments.

use crate::keys::put_in_use;
use crate::overlay::{Registers, RegistersCache, State, changed};
use crate::rows::read;
use crate::{Refused, Result, Store, StoreError};
use jiff::Timestamp;
use proof_job::installation::{Firm, OwnRow, Person};
use proof_job::instrument::Instrument;
use proof_seal::KeptKey;
use rusqlite::{Connection, OptionalExtension, Row, Transaction, params};
use std::sync::{Arc, PoisonError};
use uuid::Uuid;

fn uuid(row: &Row<'_>, column: &str) -> rusqlite::Result<Uuid> {
    let text: String = row.get(column)?;
    Uuid::parse_str(&text)
        .map_err(|error| rusqlite::Error::FromSqlConversionFailure(0, rusqlite::types::Type::Text, Box::new(error)))
}

/// An instrument as its row has it: whole, or in the columns of the first version.
fn instrument(row: &Row<'_>) -> Result<Instrument> {
    let reference: String = row.get("reference")?;
    let more: String = row.get("more")?;
    let whole: serde_json::Value = serde_json::from_str(&more).map_err(|_| unread(&reference, &more))?;
    if whole.as_object().is_some_and(|fields| !fields.is_empty()) {
        return serde_json::from_value(whole).map_err(|_| unread(&reference, &more));
    }
    let due: Option<String> = row.get("calibration_due")?;
    let over: String = row.get("over_range_mohm")?;
    let of = ("instruments", reference.as_str());
    Ok(Instrument {
        id: uuid(row, "id")?,
        kind: row.get("kind")?,
        calibration_due: due.map(|text| read(of, "calibration_due", &text)).transpose()?,
        over_range_mohm: read(of, "over_range_mohm", &over)?,
        reference: reference.clone(),
        ..Instrument::default()
    })
}

fn unread(reference: &str, more: &str) -> StoreError {
    StoreError::Row { table: "instruments", row: reference.to_owned(), column: "more", text: more.to_owned() }
}

/// The registers as a connection sees them.
pub(crate) fn registers(connection: &Connection, kept: &RegistersCache, revision: State) -> Result<Arc<Registers>> {
    let known = kept.lock().unwrap_or_else(PoisonError::into_inner).clone();
    if let Some((_, registers)) = known.filter(|(known, _)| *known == revision) {
        return Ok(registers);
    }
    let mut names = connection.prepare_cached("SELECT name FROM firm_names")?;
    let names = names.query_map([], |row| row.get(0))?.collect::<rusqlite::Result<_>>()?;
    let registers = Arc::new(Registers {
        firm: firm_in(connection)?,
        names,
        people: people_in(connection)?,
        instruments: instruments_in(connection)?,
        own_rows: own_rows_in(connection)?,
    });
    *kept.lock().unwrap_or_else(PoisonError::into_inner) = Some((revision, registers.clone()));
    Ok(registers)
}

pub(crate) fn own_rows_in(connection: &Connection) -> Result<Vec<OwnRow>> {
    let mut statement = connection.prepare_cached("SELECT body FROM own_rows ORDER BY seq")?;
    let mut rows = statement.query([])?;
    let mut all = Vec::new();
    while let Some(row) = rows.next()? {
        all.push(serde_json::from_str(row.get_ref(0)?.as_str().map_err(rusqlite::Error::from)?)?);
    }
    Ok(all)
}

pub(crate) fn firm_in(connection: &Connection) -> Result<Firm> {
    let found = connection
        .prepare_cached("SELECT name, address, contact, house_rules FROM firm")?
        .query_row([], |row| {
            let rules: String = row.get(3)?;
            let (name, address, contact) = (row.get(0)?, row.get(1)?, row.get(2)?);
            Ok((Firm { name, address, contact, ..Firm::default() }, rules))
        })
        .optional()?;
    let Some((firm, rules)) = found else { return Ok(Firm::default()) };
    let house_rules = serde_json::from_str(&rules).map_err(|_| StoreError::Row {
        table: "firm",
        row: firm.name.clone(),
        column: "house_rules",
        text: rules,
    })?;
    Ok(Firm { house_rules, ..firm })
}

pub(crate) fn people_in(connection: &Connection) -> Result<Vec<Person>> {
    let mut statement = connection.prepare_cached("SELECT id, name, position FROM people ORDER BY name, id")?;
    let rows = statement.query_map([], |row| {
        Ok(Person { id: uuid(row, "id")?, name: row.get("name")?, position: row.get("position")? })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

pub(crate) fn instruments_in(connection: &Connection) -> Result<Vec<Instrument>> {
    let mut statement = connection.prepare_cached(
        "SELECT id, kind, reference, calibration_due, over_range_mohm, more FROM instruments ORDER BY reference, id",
    )?;
    let mut rows = statement.query([])?;
    let mut all = Vec::new();
    while let Some(row) = rows.next()? {
        all.push(instrument(row)?);
    }
    Ok(all)
}

fn put_firm(transaction: &Transaction<'_>, firm: &Firm) -> Result<()> {
    transaction.execute(
        "INSERT INTO firm (only_row, name, address, contact, house_rules) VALUES (1, ?1, ?2, ?3, ?4)
         ON CONFLICT (only_row) DO UPDATE SET name = ?1, address = ?2, contact = ?3, house_rules = ?4",
        params![firm.name, firm.address, firm.contact, serde_json::to_string(&firm.house_rules)?],
    )?;
    transaction.execute("INSERT OR IGNORE INTO firm_names (name) SELECT ?1 WHERE ?1 <> ''", [&firm.name])?;
    changed(transaction)
}

fn put_person(transaction: &Transaction<'_>, person: &Person) -> Result<()> {
    transaction.execute(
        "INSERT INTO people (id, name, position) VALUES (?1, ?2, ?3)
         ON CONFLICT (id) DO UPDATE SET name = ?2, position = ?3",
        params![person.id.to_string(), person.name, person.position],
    )?;
    changed(transaction)
}

fn put_instrument(transaction: &Transaction<'_>, instrument: &Instrument) -> Result<()> {
    let taken: Option<String> = transaction
        .query_row("SELECT id FROM instruments WHERE reference = ?1", [&instrument.reference], |row| row.get(0))
        .optional()?;
    if taken.is_some_and(|id| id != instrument.id.to_string()) {
        return Err(Refused::InstrumentTaken(instrument.reference.clone()).into());
    }
    transaction.execute(
        "INSERT INTO instruments (id, kind, reference, calibration_due, over_range_mohm, more)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6)
         ON CONFLICT (id) DO UPDATE
         SET kind = ?2, reference = ?3, calibration_due = ?4, over_range_mohm = ?5, more = ?6",
        params![
            instrument.id.to_string(),
            instrument.kind,
            instrument.reference,
            instrument.calibration_due.map(|due| due.to_string()),
            instrument.over_range_mohm.to_string(),
            serde_json::to_string(instrument)?,
        ],
    )?;
    changed(transaction)
}

/// What a new database begins with.
#[derive(Debug)]
pub struct Begun<'a> {
    /// The firm.
    pub firm: &'a Firm,
    /// Its first person.
    pub person: &'a Person,
    /// Its first instrument.
    pub instrument: &'a Instrument,
    /// Its key, where it has none yet.
    pub key: Option<&'a KeptKey>,
    /// When.
    pub at: Timestamp,
}

impl Store {
    /// The limits of the firm's own copy, in the order written.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, or a row that cannot be read.
    pub fn own_rows(&self) -> Result<Vec<OwnRow>> {
        own_rows_in(&*self.connection()?)
    }

    /// Writes limits of the firm's own copy down, those that are not there yet; jobs without a certificate
    /// follow, and those with one keep theirs.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database.
    pub fn add_own_rows(&self, rows: &[OwnRow]) -> Result<()> {
        self.write(|transaction| {
            for row in rows {
                transaction
                    .prepare_cached("INSERT OR IGNORE INTO own_rows (id, body) VALUES (?1, ?2)")?
                    .execute([row.id.to_string(), serde_json::to_string(row)?])?;
            }
            changed(transaction)
        })
    }

    /// The firm; blank until it is described.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn firm(&self) -> Result<Firm> {
        firm_in(&*self.connection()?)
    }

    /// Describes the firm, also in jobs of this firm that have no certificate yet.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn set_firm(&self, firm: &Firm) -> Result<()> {
        self.write(|transaction| put_firm(transaction, firm))
    }

    /// Changes the firm as it stands, in one transaction: two who change other parts of it clash with nothing.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read.
    pub fn change_firm(&self, change: impl FnOnce(&mut Firm)) -> Result<()> {
        self.write(|transaction| {
            let mut firm = firm_in(transaction)?;
            change(&mut firm);
            put_firm(transaction, &firm)
        })
    }

    /// Firm, person, instrument and key in one: all of it, or nothing.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a reference that is taken, a key in use.
    pub fn begin(&self, begun: &Begun<'_>) -> Result<()> {
        self.write(|transaction| {
            put_firm(transaction, begun.firm)?;
            put_person(transaction, begun.person)?;
            put_instrument(transaction, begun.instrument)?;
            match begun.key {
                Some(key) => put_in_use(transaction, key, ("made", &begun.person.name, ""), begun.at),
                None => Ok(()),
            }
        })
    }

    /// People by name.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn people(&self) -> Result<Vec<Person>> {
        people_in(&*self.connection()?)
    }

    /// Adds a person, or changes the one with this id; jobs without a certificate follow.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn save_person(&self, person: &Person) -> Result<()> {
        self.write(|transaction| put_person(transaction, person))
    }

    /// Instruments by reference.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn instruments(&self) -> Result<Vec<Instrument>> {
        instruments_in(&*self.connection()?)
    }

    /// Changes an instrument as it stands, in one transaction; `None` when there is no such one. The inner error: it
    /// was refused.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a reference that is taken.
    pub fn change_instrument<E>(
        &self,
        id: Uuid,
        change: impl FnOnce(&mut Instrument) -> std::result::Result<(), E>,
    ) -> Result<Option<std::result::Result<(), E>>> {
        self.write(|transaction| {
            let Some(mut one) = instruments_in(transaction)?.into_iter().find(|one| one.id == id) else {
                return Ok(None);
            };
            let done = change(&mut one);
            if done.is_ok() {
                put_instrument(transaction, &one)?;
            }
            Ok(Some(done))
        })
    }

    /// Adds an instrument, or changes the one with this id; jobs without a certificate follow.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn save_instrument(&self, instrument: &Instrument) -> Result<()> {
        self.write(|transaction| put_instrument(transaction, instrument))
    }
}
