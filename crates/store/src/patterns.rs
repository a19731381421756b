//! Patterns of the firm, by name.

use crate::{Refused, Result, Store, StoreError};
use proof_job::installation::pattern::Pattern;
use rusqlite::{OptionalExtension, params};
use uuid::Uuid;

/// Most patterns that are kept.
const MOST_PATTERNS: usize = 200;

impl Store {
    /// The patterns of the firm, by name.
    ///
    /// # Errors
    /// [`StoreError`]: the database, or a row that cannot be read.
    pub fn patterns(&self) -> Result<Vec<Pattern>> {
        let connection = self.connection()?;
        let mut statement = connection.prepare_cached("SELECT name, body FROM patterns ORDER BY name")?;
        let mut rows = statement.query([])?;
        let mut all = Vec::new();
        while let Some(row) = rows.next()? {
            let (name, body): (String, String) = (row.get(0)?, row.get(1)?);
            let unread =
                |_| StoreError::Row { table: "patterns", row: name.clone(), column: "body", text: body.clone() };
            all.push(serde_json::from_str(&body).map_err(unread)?);
        }
        Ok(all)
    }

    /// Keeps a pattern. One of the same name is refused: nobody's pattern is written over unseen.
    ///
    /// # Errors
    /// [`StoreError`]: the database, [`Refused::PatternTaken`], [`Refused::TooManyPatterns`].
    pub fn save_pattern(&self, pattern: &Pattern) -> Result<()> {
        self.write(|transaction| {
            let same: Option<String> = transaction
                .query_row("SELECT id FROM patterns WHERE name = ?1", [&pattern.name], |row| row.get(0))
                .optional()?;
            if same.is_some() {
                return Err(Refused::PatternTaken(pattern.name.clone()).into());
            }
            let many: i64 = transaction.query_row("SELECT count(*) FROM patterns", [], |row| row.get(0))?;
            if usize::try_from(many).is_ok_and(|many| many >= MOST_PATTERNS) {
                return Err(Refused::TooManyPatterns.into());
            }
            transaction.execute(
                "INSERT INTO patterns (id, name, body) VALUES (?1, ?2, ?3)",
                params![pattern.id.to_string(), pattern.name, serde_json::to_string(pattern)?],
            )?;
            Ok(())
        })
    }

    /// Takes a pattern out; jobs begun from it stay as they are.
    ///
    /// # Errors
    /// [`StoreError`]: the database, or what is not there.
    pub fn remove_pattern(&self, id: Uuid) -> Result<()> {
        self.write(|transaction| match transaction.execute("DELETE FROM patterns WHERE id = ?1", [id.to_string()])? {
            0 => Err(StoreError::Unknown(format!("pattern {id}"))),
            _ => Ok(()),
        })
    }
}
