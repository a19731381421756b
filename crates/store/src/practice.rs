//! Exercises at the bench, apart from every job.

use crate::refusal::MOST_ACTS;
use crate::rows::{self, parsed};
use crate::{Refused, Result, Store, StoreError};
use jiff::Timestamp;
use rusqlite::{OptionalExtension, Row, params};
use std::collections::BTreeMap;
use uuid::Uuid;

/// An exercise that was begun.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Practice {
    /// Identity, made by who begins it.
    pub id: Uuid,
    /// Who practises.
    pub person: String,
    /// Which exercise, by its key.
    pub exercise: String,
    /// From which all of it follows.
    pub seed: u64,
    /// The circuit that is tried, as whoever tries it writes it; empty for an exercise.
    pub about: String,
    /// When it was begun.
    pub begun_at: Timestamp,
    /// What was done, in order.
    pub acts: Vec<String>,
    /// What was answered, by field.
    pub answers: BTreeMap<String, String>,
    /// When it was handed in; `None`: not yet.
    pub finished_at: Option<Timestamp>,
    /// Everything right, nothing unsafe.
    pub clean: bool,
}

impl Practice {
    /// An exercise as it begins, with the seed of its id.
    pub fn begun(id: Uuid, person: &str, exercise: &str, at: Timestamp) -> Self {
        Self {
            id,
            person: person.to_owned(),
            exercise: exercise.to_owned(),
            seed: Self::seed_of(id),
            about: String::new(),
            begun_at: at,
            acts: Vec::new(),
            answers: BTreeMap::new(),
            finished_at: None,
            clean: false,
        }
    }

    /// The seed that follows from an id.
    pub const fn seed_of(id: Uuid) -> u64 {
        id.as_u64_pair().1 >> 8
    }
}

/// An exercise that was begun and not handed in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PracticeBegun {
    /// Which.
    pub id: Uuid,
    /// Who practises.
    pub person: String,
    /// Which exercise, by its key.
    pub exercise: String,
    /// When it was begun.
    pub begun_at: Timestamp,
}

/// An exercise that was handed in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PracticeDone {
    /// Which.
    pub id: Uuid,
    /// Which exercise, by its key.
    pub exercise: String,
    /// When it was handed in.
    pub finished_at: Timestamp,
    /// Everything right, nothing unsafe.
    pub clean: bool,
}

const NAMED: (&str, &str) = ("practice", "id");

impl TryFrom<&Row<'_>> for Practice {
    type Error = StoreError;

    fn try_from(row: &Row<'_>) -> Result<Self> {
        let (acts, answers): (String, String) = (row.get("acts")?, row.get("answers")?);
        Ok(Self {
            id: parsed(row, NAMED, "id")?,
            person: row.get("person")?,
            exercise: row.get("exercise")?,
            seed: u64::from_ne_bytes(row.get::<_, i64>("seed")?.to_ne_bytes()),
            about: row.get("about")?,
            begun_at: row.get("begun_at")?,
            acts: acts.lines().map(str::to_owned).collect(),
            answers: serde_json::from_str(&answers)?,
            finished_at: row.get("finished_at")?,
            clean: row.get("clean")?,
        })
    }
}

impl TryFrom<&Row<'_>> for PracticeBegun {
    type Error = StoreError;

    fn try_from(row: &Row<'_>) -> Result<Self> {
        Ok(Self {
            id: parsed(row, NAMED, "id")?,
            person: row.get("person")?,
            exercise: row.get("exercise")?,
            begun_at: row.get("begun_at")?,
        })
    }
}

impl TryFrom<&Row<'_>> for PracticeDone {
    type Error = StoreError;

    fn try_from(row: &Row<'_>) -> Result<Self> {
        Ok(Self {
            id: parsed(row, NAMED, "id")?,
            exercise: row.get("exercise")?,
            finished_at: row.get("finished_at")?,
            clean: row.get("clean")?,
        })
    }
}

impl Store {
    /// Begins an exercise; the same id again is the same exercise.
    ///
    /// # Errors
    /// [`StoreError`]: the database.
    pub fn begin_practice(&self, practice: &Practice) -> Result<()> {
        let seed = i64::from_ne_bytes(practice.seed.to_ne_bytes());
        self.connection()?.execute(
            "INSERT OR IGNORE INTO practice (id, person, exercise, seed, about, begun_at) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
            params![practice.id.to_string(), practice.person, practice.exercise, seed, practice.about, practice.begun_at],
        )?;
        Ok(())
    }

    /// An exercise with all that was done.
    ///
    /// # Errors
    /// [`StoreError::Unknown`].
    pub fn practice(&self, id: Uuid) -> Result<Practice> {
        let connection = self.connection()?;
        let mut statement = connection.prepare_cached(
            "SELECT id, person, exercise, seed, about, begun_at, acts, answers, finished_at, clean
             FROM practice WHERE id = ?1",
        )?;
        rows::first(statement.query([id.to_string()])?)?.ok_or_else(|| StoreError::Unknown(format!("exercise {id}")))
    }

    /// Appends an act, the one after so many; whether it was taken: one that another page did before it is not.
    ///
    /// # Errors
    /// [`StoreError::Refused`] after too many; [`StoreError::Unknown`].
    pub fn add_act(&self, id: Uuid, after: usize, act: &str) -> Result<bool> {
        self.write(|transaction| {
            let found: Option<(String, bool)> = transaction
                .prepare_cached("SELECT acts, finished_at IS NOT NULL FROM practice WHERE id = ?1")?
                .query_row([id.to_string()], |row| Ok((row.get(0)?, row.get(1)?)))
                .optional()?;
            let (acts, finished) = found.ok_or_else(|| StoreError::Unknown(format!("exercise {id}")))?;
            let so_far = acts.lines().count();
            if finished || so_far != after {
                return Ok(false);
            }
            if so_far >= MOST_ACTS {
                return Err(Refused::TooManyActs.into());
            }
            let acts = format!("{acts}{}\n", act.replace(['\n', '\r'], " "));
            transaction.execute("UPDATE practice SET acts = ?2 WHERE id = ?1", params![id.to_string(), acts])?;
            Ok(true)
        })
    }

    /// Hands an exercise in; once only.
    ///
    /// # Errors
    /// [`StoreError`]: the database.
    pub fn finish_practice(
        &self,
        id: Uuid,
        answers: &BTreeMap<String, String>,
        clean: bool,
        now: Timestamp,
    ) -> Result<()> {
        let answers = serde_json::to_string(answers)?;
        self.connection()?.execute(
            "UPDATE practice SET answers = ?2, clean = ?3, finished_at = ?4 WHERE id = ?1 AND finished_at IS NULL",
            params![id.to_string(), answers, clean, now],
        )?;
        Ok(())
    }

    /// Exercises that were begun and not handed in, the newest first.
    ///
    /// # Errors
    /// [`StoreError`]: the database, or a row that cannot be read.
    pub fn practice_begun(&self, most: u32) -> Result<Vec<PracticeBegun>> {
        let connection = self.connection()?;
        let mut statement = connection.prepare_cached(
            "SELECT id, person, exercise, begun_at FROM practice
             WHERE finished_at IS NULL ORDER BY rowid DESC LIMIT ?1",
        )?;
        rows::all(statement.query([most])?)
    }

    /// What a person handed in; the newest last.
    ///
    /// # Errors
    /// [`StoreError`]: the database, or a row that cannot be read.
    pub fn practised(&self, person: &str) -> Result<Vec<PracticeDone>> {
        let connection = self.connection()?;
        let mut statement = connection.prepare_cached(
            "SELECT id, exercise, finished_at, clean FROM practice
             WHERE person = ?1 AND finished_at IS NOT NULL ORDER BY finished_at",
        )?;
        rows::all(statement.query([person])?)
    }

    /// Keeps that a person answered a question of a kind.
    ///
    /// # Errors
    /// [`StoreError`]: the database.
    pub fn answered(&self, person: &str, kind: &str, right: bool, now: Timestamp) -> Result<()> {
        self.write(|transaction| {
            transaction.execute(
                "INSERT INTO questions (person, kind, correct, at) VALUES (?1, ?2, ?3, ?4)",
                params![person, kind, right, now],
            )?;
            Ok(())
        })
    }

    /// The last questions that a person answered: kind, and whether it was right; the newest last.
    ///
    /// # Errors
    /// [`StoreError`]: the database.
    pub fn answers(&self, person: &str) -> Result<Vec<(String, bool)>> {
        let connection = self.connection()?;
        let mut statement = connection.prepare_cached(
            "SELECT kind, correct FROM (SELECT seq, kind, correct FROM questions WHERE person = ?1
             ORDER BY seq DESC LIMIT 400) ORDER BY seq",
        )?;
        let rows = statement.query_map([person], |row| Ok((row.get(0)?, row.get(1)?)))?;
        Ok(rows.collect::<rusqlite::Result<_>>()?)
    }
}
