//! What the registers say, laid over a job that has no certificate yet: it is looked up when the job is read, so that
//! a name changed costs one row and not every job. What was issued keeps what stood then.

use crate::Result;
use proof_job::installation::{Firm, OwnRow, Person};
use proof_job::instrument::Instrument;
use proof_job::job::Job;
use rusqlite::{Connection, Transaction, params};
use std::sync::{Arc, Mutex};
use uuid::Uuid;

/// The registers as they stood at one revision.
#[derive(Debug)]
pub(crate) struct Registers {
    pub(crate) firm: Firm,
    /// Names that the firm had and has.
    pub(crate) names: Vec<String>,
    pub(crate) people: Vec<Person>,
    pub(crate) instruments: Vec<Instrument>,
    pub(crate) own_rows: Vec<OwnRow>,
}

/// The registers as last read, with their revision.
pub(crate) type RegistersCache = Mutex<Option<(State, Arc<Registers>)>>;

/// The generation of the database and the revision of its registers.
pub(crate) type State = (u64, i64);

/// Raises the revision of the registers.
pub(crate) fn changed(transaction: &Transaction<'_>) -> Result<()> {
    transaction.execute("UPDATE registers_state SET revision = revision + 1", [])?;
    Ok(())
}

/// Whether a job follows the registers: it has no certificate.
pub(crate) fn is_open(connection: &Connection, job: Uuid) -> Result<bool> {
    let issued = connection.prepare_cached("SELECT 1 FROM certificates WHERE job = ?1")?.exists([job.to_string()])?;
    Ok(!issued)
}

/// Whether somebody worked on a job here, that came with a file of so many events: until then it is as the file says.
fn is_worked_on(connection: &Connection, job: Uuid, history: usize) -> Result<bool> {
    let mut imported = connection.prepare_cached("SELECT 1 FROM jobs WHERE id = ?1 AND imported_at IS NOT NULL")?;
    if !imported.exists([job.to_string()])? {
        return Ok(true);
    }
    let mut later = connection.prepare_cached("SELECT 1 FROM events WHERE job = ?1 LIMIT 1 OFFSET ?2")?;
    Ok(later.exists(params![job.to_string(), u32::try_from(history).unwrap_or(u32::MAX)])?)
}

/// Puts what the registers say of each into a list, by its id; others are added where the job is the firm's own work.
fn lay<T: Clone>(list: &mut Vec<T>, register: &[T], adds: bool, id: impl Fn(&T) -> Uuid) {
    for entry in register {
        match list.iter_mut().find(|other| id(other) == id(entry)) {
            Some(other) => other.clone_from(entry),
            None if adds => list.push(entry.clone()),
            None => {}
        }
    }
}

impl Registers {
    /// Lays the registers over a job.
    pub(crate) fn lay_over(&self, connection: &Connection, job: &mut Job) -> Result<()> {
        let adds = is_worked_on(connection, job.id, job.history)?;
        let ours = job.firm.name.is_empty() || self.names.contains(&job.firm.name);
        if ours && !self.firm.name.is_empty() {
            job.firm.clone_from(&self.firm);
        }
        lay(&mut job.people, &self.people, adds, |one| one.id);
        lay(&mut job.instruments, &self.instruments, adds, |one| one.id);
        let known: Vec<Uuid> = job.installation.own_rows.iter().map(|row| row.id).collect();
        let new = self.own_rows.iter().filter(|row| adds && !known.contains(&row.id));
        job.installation.own_rows.extend(new.cloned());
        Ok(())
    }
}
