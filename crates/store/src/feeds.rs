//! Instruments joined to the run of a job, and what each message became: taken once, or refused once.

use crate::jobs::insert_event;
use crate::readings::append;
use crate::rows::{self, parsed};
use crate::{Differs, Refused, Result, Store, StoreError};
use jiff::Timestamp;
use proof_job::job::Job;
use proof_job::reading::message::Message;
use proof_work::actions::Recorded;
use rusqlite::{Connection, OptionalExtension, Row, Transaction, params};
use std::net::SocketAddr;
use uuid::Uuid;

/// An instrument that is joined.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Feed {
    /// Made by who joins.
    pub id: Uuid,
    /// To which job.
    pub job: Uuid,
    /// Where the instrument listens, `address:port`.
    pub address: String,
    /// The instrument of the register.
    pub instrument: Uuid,
    /// Who holds the probes.
    pub read_by: String,
    /// Who joined it, and writes its readings down.
    pub joined_by: String,
    /// Key of the order of the run.
    pub order: String,
    /// When.
    pub joined_at: Timestamp,
}

/// What became of a message.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Outcome {
    /// It is a reading of the job.
    Stored,
    /// It is none, and why.
    Refused(String),
}

impl Outcome {
    fn stored(because: String) -> Self {
        if because.is_empty() { Self::Stored } else { Self::Refused(because) }
    }

    fn because(&self) -> &str {
        match self {
            Self::Stored => "",
            Self::Refused(because) => because,
        }
    }
}

/// A message that came.
#[derive(Debug, Clone, PartialEq)]
pub struct Received {
    /// The message.
    pub message: Message,
    /// What became of it.
    pub became: Outcome,
    /// When it came.
    pub at: Timestamp,
}

/// A message that is held, with who read it.
#[derive(Debug, Clone, PartialEq)]
pub struct HeldMessage {
    /// The message.
    pub message: Message,
    /// The instrument of the register.
    pub instrument: Uuid,
    /// Who held the probes.
    pub read_by: String,
}

/// What came of a feed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Counts {
    /// Messages taken.
    pub taken: u64,
    /// Messages refused.
    pub refused: u64,
}

const COLUMNS: &str = "id, job, address, instrument, read_by, joined_by, run_order, joined_at";

impl TryFrom<&Row<'_>> for Feed {
    type Error = StoreError;

    fn try_from(row: &Row<'_>) -> Result<Self> {
        const NAMED: (&str, &str) = ("feeds", "id");
        Ok(Self {
            id: parsed(row, NAMED, "id")?,
            job: parsed(row, NAMED, "job")?,
            address: row.get("address")?,
            instrument: parsed(row, NAMED, "instrument")?,
            read_by: row.get("read_by")?,
            joined_by: row.get("joined_by")?,
            order: row.get("run_order")?,
            joined_at: parsed(row, NAMED, "joined_at")?,
        })
    }
}

impl TryFrom<&Row<'_>> for HeldMessage {
    type Error = StoreError;

    fn try_from(row: &Row<'_>) -> Result<Self> {
        Ok(Self {
            message: message(row)?,
            instrument: parsed(row, ("received", "id"), "instrument")?,
            read_by: row.get("read_by")?,
        })
    }
}

impl TryFrom<&Row<'_>> for Received {
    type Error = StoreError;

    fn try_from(row: &Row<'_>) -> Result<Self> {
        Ok(Self { message: message(row)?, became: Outcome::stored(row.get("because")?), at: row.get("at")? })
    }
}

fn message(row: &Row<'_>) -> Result<Message> {
    Ok(serde_json::from_str(row.get_ref("body")?.as_str().map_err(rusqlite::Error::from)?)?)
}

fn is_joined(connection: &Connection, feed: Uuid) -> Result<bool> {
    Ok(connection
        .prepare_cached("SELECT 1 FROM feeds WHERE id = ?1 AND left_at IS NULL")?
        .exists([feed.to_string()])?)
}

/// Stores what a message brought: its reading first, whose id is the message's own.
fn stored(transaction: &Transaction<'_>, job: Uuid, taken: &Recorded) -> Result<()> {
    for reading in &taken.readings {
        append(transaction, job, reading)?;
    }
    for event in &taken.events {
        insert_event(transaction, job, event)?;
    }
    Ok(())
}

/// Whether the id of a held message is free: the reading that it becomes will have it.
fn free(transaction: &Transaction<'_>, id: Uuid, held: Option<Uuid>) -> Result<()> {
    let taken = held.is_some()
        && transaction.prepare_cached("SELECT 1 FROM readings WHERE id = ?1")?.exists([id.to_string()])?;
    if taken { Err(Differs::Reading(id).into()) } else { Ok(()) }
}

/// Whether two addresses are one place: this machine has more than one name for itself.
fn same_place(one: &str, other: &str) -> bool {
    match (one.parse::<SocketAddr>(), other.parse::<SocketAddr>()) {
        (Ok(one), Ok(other)) => {
            let (here, there) = (one.ip().to_canonical(), other.ip().to_canonical());
            one.port() == other.port() && (here == there || here.is_loopback() && there.is_loopback())
        }
        _ => one == other,
    }
}

impl Store {
    /// Joins an instrument to a job; the one joined before is left.
    ///
    /// # Errors
    /// [`StoreError::Refused`] when another job has the instrument at this address; [`StoreError::Unknown`].
    pub fn join(&self, feed: &Feed) -> Result<()> {
        self.write(|transaction| {
            let id = feed.job.to_string();
            let known = transaction.prepare_cached("SELECT 1 FROM jobs WHERE id = ?1")?.exists([&id])?;
            if !known {
                return Err(StoreError::Unknown(format!("job {id}")));
            }
            let mut joined = transaction.prepare_cached(
                "SELECT reference, address FROM feeds JOIN jobs ON jobs.id = feeds.job
                 WHERE left_at IS NULL AND feeds.job <> ?1",
            )?;
            let mut rows = joined.query([&id])?;
            while let Some(row) = rows.next()? {
                let (other, address): (String, String) = (row.get(0)?, row.get(1)?);
                if same_place(&feed.address, &address) {
                    return Err(Refused::FeedTaken(feed.address.clone(), other).into());
                }
            }
            transaction.execute(
                "UPDATE feeds SET left_at = ?2 WHERE job = ?1 AND left_at IS NULL",
                params![id, feed.joined_at],
            )?;
            transaction.execute(
                "INSERT INTO feeds (id, job, address, instrument, read_by, joined_by, run_order, joined_at)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
                params![
                    feed.id.to_string(),
                    id,
                    feed.address,
                    feed.instrument.to_string(),
                    feed.read_by,
                    feed.joined_by,
                    feed.order,
                    feed.joined_at
                ],
            )?;
            Ok(())
        })
    }

    /// Leaves the instrument that is joined to a job, if one is.
    ///
    /// # Errors
    /// [`StoreError`]: the database.
    pub fn leave(&self, job: Uuid, now: Timestamp) -> Result<()> {
        self.connection()?.execute(
            "UPDATE feeds SET left_at = ?2 WHERE job = ?1 AND left_at IS NULL",
            params![job.to_string(), now],
        )?;
        Ok(())
    }

    /// Every instrument that is joined.
    ///
    /// # Errors
    /// [`StoreError`]: the database, or a row that cannot be read.
    pub fn feeds(&self) -> Result<Vec<Feed>> {
        let connection = self.connection()?;
        let mut statement =
            connection.prepare_cached(&format!("SELECT {COLUMNS} FROM feeds WHERE left_at IS NULL ORDER BY rowid"))?;
        rows::all(statement.query([])?)
    }

    /// The instrument that is joined to a job.
    ///
    /// # Errors
    /// [`StoreError`]: the database, or a row that cannot be read.
    pub fn feed_of(&self, job: Uuid) -> Result<Option<Feed>> {
        let connection = self.connection()?;
        let mut statement =
            connection.prepare_cached(&format!("SELECT {COLUMNS} FROM feeds WHERE job = ?1 AND left_at IS NULL"))?;
        rows::first(statement.query([job.to_string()])?)
    }

    /// Takes a message once: what `action` makes of the job as it stands is stored with what became of the message, and
    /// with the exposure of the supply under which it is held, if it is, in one transaction. One that came before is answered as it was. `None`: the instrument was left.
    ///
    /// # Errors
    /// [`StoreError`]: the database.
    pub fn receive(
        &self,
        from: &Feed,
        message: &Message,
        now: Timestamp,
        action: impl FnOnce(&Job) -> std::result::Result<(Recorded, Option<Uuid>), String>,
    ) -> Result<Option<Outcome>> {
        self.write(|transaction| {
            let id = message.id.to_string();
            let before: Option<String> = transaction
                .prepare_cached("SELECT because FROM received WHERE id = ?1")?
                .query_row([&id], |row| row.get(0))
                .optional()?;
            if let Some(because) = before {
                return Ok(Some(Outcome::stored(because)));
            }
            if !is_joined(transaction, from.id)? {
                return Ok(None);
            }
            let head = self.job_in(transaction, from.job)?;
            let mut held = None;
            let became = match action(&head.job) {
                Ok((taken, under)) => {
                    drop(head);
                    held = under;
                    // An id that another reading has is refused for good, and leaves nothing.
                    match stored(transaction, from.job, &taken).and_then(|()| free(transaction, message.id, held)) {
                        Ok(()) => Outcome::Stored,
                        Err(StoreError::Differs(why)) => Outcome::Refused(why.to_string()),
                        Err(other) => return Err(other),
                    }
                }
                Err(why) => Outcome::Refused(why),
            };
            transaction
                .prepare_cached(
                    "INSERT INTO received (id, feed, job, body, because, at, exposure) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
                )?
                .execute(params![
                    id,
                    from.id.to_string(),
                    from.job.to_string(),
                    serde_json::to_string(message)?,
                    became.because(),
                    now,
                    held.map(|exposure| exposure.to_string()).unwrap_or_default()
                ])?;
            Ok(Some(became))
        })
    }

    /// How much came of a feed.
    ///
    /// # Errors
    /// [`StoreError`]: the database.
    pub fn came_in(&self, feed: Uuid) -> Result<Counts> {
        let connection = self.connection()?;
        let counted = connection
            .prepare_cached(
                "SELECT count(*) FILTER (WHERE because = ''), count(*) FILTER (WHERE because <> '')
                 FROM received WHERE feed = ?1",
            )?
            .query_row([feed.to_string()], |row| Ok((row.get::<_, i64>(0)?, row.get::<_, i64>(1)?)))?;
        let whole = |count: i64| u64::try_from(count).unwrap_or_default();
        Ok(Counts { taken: whole(counted.0), refused: whole(counted.1) })
    }

    /// What instruments sent and is held under an exposure of the supply, in order.
    ///
    /// # Errors
    /// [`StoreError`]: the database, or a row that cannot be read.
    pub fn held(&self, exposure: Uuid) -> Result<Vec<HeldMessage>> {
        let connection = self.connection()?;
        let mut statement = connection.prepare_cached(
            "SELECT received.id AS id, body, instrument, read_by FROM received JOIN feeds ON feeds.id = received.feed
             WHERE exposure = ?1 AND exposure <> '' AND because = '' ORDER BY seq",
        )?;
        rows::all(statement.query([exposure.to_string()])?)
    }

    /// The last messages of a feed, the newest first.
    ///
    /// # Errors
    /// [`StoreError`]: the database, or a row that cannot be read.
    pub fn received(&self, feed: Uuid, most: u32) -> Result<Vec<Received>> {
        let connection = self.connection()?;
        let mut statement = connection
            .prepare_cached("SELECT body, because, at FROM received WHERE feed = ?1 ORDER BY seq DESC LIMIT ?2")?;
        rows::all(statement.query(params![feed.to_string(), most])?)
    }
}

#[cfg(test)]
mod tests {
    use super::same_place;

    #[test]
    fn this_machine_has_more_than_one_name() {
        for (one, other, same) in [
            ("127.0.0.1:7672", "[::1]:7672", true),
            ("127.0.0.1:7672", "127.0.1.1:7672", true),
            ("127.0.0.1:7672", "[::ffff:127.0.0.1]:7672", true),
            ("127.0.0.1:7672", "127.0.0.1:7673", false),
            ("192.168.1.9:7672", "192.168.1.10:7672", false),
            ("[fd00::1]:7672", "[fd00:0::1]:7672", true),
        ] {
            assert_eq!(same_place(one, other), same, "{one} {other}");
        }
    }
}
