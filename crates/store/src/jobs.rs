//! Jobs: the list, the description with its revision, whole jobs in and out.

use crate::job_head::JobHead;
use crate::overlay::{RegistersCache, is_open};
use crate::recent::{Version, weight};
use crate::registers::registers;
use crate::rows::{self, parsed};
use crate::{Differs, Refused, Result, Store, StoreError, documents, readings};
use jiff::Timestamp;
use proof_job::installation::Documents;
use proof_job::job::Job;
use proof_job::site::Event;
use rusqlite::{Connection, OptionalExtension, Row, Transaction, params};
use std::collections::HashSet;
use std::sync::{Arc, PoisonError};
use uuid::Uuid;

/// A line of the job list.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct JobRow {
    /// Identity.
    pub id: Uuid,
    /// The firm's reference.
    pub reference: String,
    /// What it is.
    pub title: String,
    /// Who ordered it.
    pub client: String,
    /// Where it is.
    pub site: String,
    /// When it was begun, as stored.
    pub created_at: String,
    /// Whether it was made as work; else it is no record.
    pub is_work: bool,
    /// How many readings it has.
    pub readings: u32,
    /// Its newest certificate.
    pub certificate: Option<String>,
}

pub(crate) fn header(job: &Job) -> Result<String> {
    let mut head = job.clone();
    head.readings.clear();
    head.events.clear();
    Ok(serde_json::to_string(&head)?)
}

/// The description of a job, with what the registers say of an open one.
pub(crate) fn read_head(connection: &Connection, kept: &RegistersCache, id: Uuid) -> Result<JobHead> {
    let mut statement = connection.prepare_cached("SELECT description, revision, history FROM jobs WHERE id = ?1")?;
    let head: Option<JobHead> = rows::first(statement.query([id.to_string()])?)?;
    let JobHead { mut job, revision } = head.ok_or_else(|| StoreError::Unknown(format!("job {id}")))?;
    if is_open(connection, id)? {
        let now = connection
            .prepare_cached("SELECT (SELECT id FROM generation), revision FROM registers_state")?
            .query_row([], |row| Ok((generation(row.get_ref(0)?.as_bytes()?), row.get(1)?)))?;
        registers(connection, kept, now)?.lay_over(connection, &mut job)?;
    }
    Ok(JobHead { job, revision })
}

/// The generation of a database, as a number.
fn generation(id: &[u8]) -> u64 {
    id.iter().take(16).fold(0, |number, byte| number << 4 | u64::from(char::from(*byte).to_digit(16).unwrap_or(0)))
}

fn read_version(connection: &Connection, id: Uuid) -> Result<Version> {
    let mut statement = connection.prepare_cached(
        "SELECT revision, (SELECT coalesce(max(seq), 0) FROM readings WHERE job = jobs.id) AS reading,
                (SELECT coalesce(max(seq), 0) FROM events WHERE job = jobs.id) AS event,
                (SELECT revision FROM registers_state) AS registers,
                (SELECT count(*) FROM certificates WHERE job = jobs.id) AS certificates,
                (SELECT id FROM generation) AS generation
         FROM jobs WHERE id = ?1",
    )?;
    rows::first(statement.query([id.to_string()])?)?.ok_or_else(|| StoreError::Unknown(format!("job {id}")))
}

impl TryFrom<&Row<'_>> for Version {
    type Error = StoreError;

    fn try_from(row: &Row<'_>) -> Result<Self> {
        Ok(Self {
            revision: row.get("revision")?,
            reading: row.get("reading")?,
            event: row.get("event")?,
            registers: row.get("registers")?,
            certificates: row.get("certificates")?,
            generation: generation(row.get_ref("generation")?.as_bytes().map_err(rusqlite::Error::from)?),
        })
    }
}

impl TryFrom<&Row<'_>> for JobRow {
    type Error = StoreError;

    fn try_from(row: &Row<'_>) -> Result<Self> {
        Ok(Self {
            id: parsed(row, ("jobs", "reference"), "id")?,
            reference: row.get("reference")?,
            title: row.get("title")?,
            client: row.get("client")?,
            site: row.get("site")?,
            created_at: row.get("created_at")?,
            readings: row.get("readings")?,
            certificate: row.get("certificate")?,
            is_work: row.get("is_work")?,
        })
    }
}

fn read_events_after(connection: &Connection, job: Uuid, seq: i64) -> Result<Vec<Event>> {
    let mut statement =
        connection.prepare_cached("SELECT body, seq FROM events WHERE job = ?1 AND seq > ?2 ORDER BY seq")?;
    let mut rows = statement.query(params![job.to_string(), seq])?;
    let mut events = Vec::new();
    while let Some(row) = rows.next()? {
        events.push(readings::body(row, "events")?);
    }
    Ok(events)
}

pub(crate) fn read_job(connection: &Connection, kept: &RegistersCache, id: Uuid) -> Result<JobHead> {
    let mut head = read_head(connection, kept, id)?;
    head.job.readings = readings::read_after(connection, id, 0)?;
    head.job.events = read_events_after(connection, id, 0)?;
    Ok(head)
}

/// Appends an event; its id is of nothing else.
pub(crate) fn insert_event(transaction: &Transaction<'_>, job: Uuid, event: &Event) -> Result<()> {
    if transaction.prepare_cached("SELECT 1 FROM events WHERE id = ?1")?.exists([event.id.to_string()])? {
        return Err(Differs::Event(event.id).into());
    }
    let body = serde_json::to_value(event)?;
    let what = body["kind"]["what"].as_str().unwrap_or_default().to_owned();
    transaction
        .prepare_cached("INSERT INTO events (id, job, at, by_whom, what, body) VALUES (?1, ?2, ?3, ?4, ?5, ?6)")?
        .execute(params![event.id.to_string(), job.to_string(), event.at, event.by, what, body.to_string()])?;
    crate::chain::link(transaction, "events")?;
    Ok(())
}

impl Store {
    /// Jobs whose reference, title, client or site hold every word of `query`, newest first.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn jobs(&self, query: &str, limit: u32) -> Result<Vec<JobRow>> {
        let connection = self.connection()?;
        let words: Vec<String> = query
            .split_whitespace()
            .take(8)
            .map(|word| format!("%{}%", word.replace('\\', "\\\\").replace('%', "\\%").replace('_', "\\_")))
            .collect();
        let clause =
            |n| format!(" AND (reference || ' ' || title || ' ' || client || ' ' || site) LIKE ?{n} ESCAPE '\\'");
        let filter = (1..=words.len()).map(clause).collect::<Vec<_>>().concat();
        let sql = format!(
            "SELECT id, reference, title, client, site, created_at,
                    (SELECT count(*) FROM readings WHERE job = jobs.id) AS readings,
                    (SELECT number FROM certificates WHERE job = jobs.id ORDER BY issued_at DESC, rowid DESC LIMIT 1)
                        AS certificate,
                    is_work
             FROM jobs WHERE 1{filter} ORDER BY created_at DESC, reference LIMIT {limit}"
        );
        let mut statement = connection.prepare_cached(&sql)?;
        rows::all(statement.query(rusqlite::params_from_iter(&words))?)
    }

    /// Stores a job that a file brought, with its documents: its log is history here, and the import is noted.
    ///
    /// # Errors
    /// As [`Self::create_job`].
    pub fn import_job(&self, job: &Job, documents: &Documents, at: Timestamp) -> Result<()> {
        self.create(job, documents, Some(at))
    }

    /// Stores a new job with whatever readings and events it brings, all or nothing.
    ///
    /// # Errors
    /// When its id or its reference is taken, or one of its readings is stored already.
    pub fn create_job(&self, job: &Job) -> Result<()> {
        self.create(job, &Documents::new(), None)
    }

    /// When a job came with a file; `None`: it was begun here.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, or what is not there.
    pub fn imported_at(&self, id: Uuid) -> Result<Option<String>> {
        self.connection()?
            .prepare_cached("SELECT imported_at FROM jobs WHERE id = ?1")?
            .query_row([id.to_string()], |row| row.get(0))
            .optional()?
            .ok_or_else(|| StoreError::Unknown(format!("job {id}")))
    }

    fn create(&self, job: &Job, documents: &Documents, imported: Option<Timestamp>) -> Result<()> {
        let history = if imported.is_some() { job.events.len() } else { 0 };
        self.write(|transaction| {
            let id = job.id.to_string();
            let taken: Option<String> = transaction
                .query_row("SELECT reference FROM jobs WHERE id = ?1 OR reference = ?2", [&id, &job.reference], |row| {
                    row.get(0)
                })
                .optional()?;
            if let Some(reference) = taken {
                return Err(Differs::Job(reference).into());
            }
            documents::put(transaction, documents)?;
            transaction.execute(
                "INSERT INTO jobs (id, reference, title, client, site, created_at, description, history, imported_at, is_work)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10)",
                params![
                    id,
                    job.reference,
                    job.title,
                    job.installation.client.name,
                    job.installation.site.name,
                    job.created_at,
                    header(job)?,
                    u32::try_from(history).unwrap_or(u32::MAX),
                    imported,
                    job.made_as.is_work(),
                ],
            )?;
            for reading in &job.readings {
                if !readings::append(transaction, job.id, reading)? {
                    return Err(Differs::ReadingOfFile(reading.id).into());
                }
            }
            for event in &job.events {
                insert_event(transaction, job.id, event)?;
            }
            Ok(())
        })
    }

    /// The description of a job.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn head(&self, id: Uuid) -> Result<JobHead> {
        let whole = self.job(id)?;
        let job = &whole.job;
        let job = Job {
            id: job.id,
            reference: job.reference.clone(),
            title: job.title.clone(),
            created_at: job.created_at,
            made_as: job.made_as,
            firm: job.firm.clone(),
            people: job.people.clone(),
            instruments: job.instruments.clone(),
            installation: job.installation.clone(),
            readings: Vec::new(),
            events: Vec::new(),
            history: job.history,
            kept: proof_job::job::JobCache::default(),
        };
        Ok(JobHead { job, revision: whole.revision })
    }

    /// The whole job, as the database holds it now.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn job(&self, id: Uuid) -> Result<Arc<JobHead>> {
        let mut connection = self.connection()?;
        // One snapshot for all reads.
        let transaction = connection.transaction()?;
        self.job_in(&transaction, id)
    }

    /// The whole job as a transaction sees it: what is kept from before, grown by what is new.
    pub(crate) fn job_in(&self, transaction: &Transaction<'_>, id: Uuid) -> Result<Arc<JobHead>> {
        let version = read_version(transaction, id)?;
        let slot = self.recent.slot(id);
        let mut kept = slot.lock().unwrap_or_else(PoisonError::into_inner);
        let mut head = match kept.take() {
            Some((same, job)) if same == version => {
                *kept = Some((same, job.clone()));
                return Ok(job);
            }
            // Readings and events are appended only: what is kept grows by what is new, in its place where
            // nobody else reads it. What is kept may be newer than this snapshot; then it is read anew.
            Some((before, job)) if before.is_before(version) => {
                let mut head = Arc::unwrap_or_clone(job);
                // With the first event here a job that came with a file follows the registers.
                let begun = before.event != version.event && head.job.events.len() == head.job.history;
                if begun || !before.is_described_as(version) {
                    let described = read_head(transaction, &self.registers, id)?;
                    let (readings, events) = (head.job.readings, head.job.events);
                    head = JobHead { job: Job { readings, events, ..described.job }, revision: described.revision };
                }
                head.job.readings.extend(readings::read_after(transaction, id, before.reading)?);
                head.job.events.extend(read_events_after(transaction, id, before.event)?);
                head
            }
            Some((newer, job)) if version.is_before(newer) => {
                *kept = Some((newer, job));
                drop(kept);
                return Ok(Arc::new(read_job(transaction, &self.registers, id)?));
            }
            // Of another generation: the database was restored.
            _ => read_job(transaction, &self.registers, id)?,
        };
        head.job.keep();
        let job = Arc::new(head);
        *kept = Some((version, job.clone()));
        drop(kept);
        self.recent.weigh(id, weight(&job.job));
        Ok(job)
    }
}

/// A circuit or point that has readings stays in the description.
pub(crate) fn refuse_losing_readings(transaction: &Transaction<'_>, before: &Job, after: &Job) -> Result<()> {
    for circuit in &before.installation.circuits {
        let now = after.installation.circuit(circuit.id);
        let read: HashSet<Option<proof_job::installation::PointId>> = match now {
            Some(now) if circuit.points.iter().all(|point| now.point(point.id).is_some()) => continue,
            _ => readings::read_circuit(transaction, before.id, circuit.id)?
                .into_iter()
                .filter_map(|reading| match reading.key.subject {
                    proof_job::reading::Subject::Place { place, .. } => Some(place.point()),
                    _ => None,
                })
                .collect(),
        };
        let Some(now) = now else {
            // What was withdrawn stays in the description, aside.
            if read.is_empty() || after.installation.circuit_ever(circuit.id).is_some() {
                continue;
            }
            return Err(Refused::WayHasReadings(circuit.way.clone()).into());
        };
        for point in &circuit.points {
            if now.point(point.id).is_none() && read.contains(&Some(point.id)) {
                let (point, way) = (point.name.clone(), circuit.way.clone());
                return Err(Refused::PointHasReadings { point, way }.into());
            }
        }
    }
    Ok(())
}
