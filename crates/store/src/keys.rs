//! The firm's signing keys: one in use, the public halves of all, and what became of each.

use crate::{Refused, Result, Store, StoreError};
use jiff::Timestamp;
use proof_seal::{FirmKey, PublicKey};
use rusqlite::{Connection, OptionalExtension, Transaction, params};

/// A line of the record of keys.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeyEvent {
    /// Which key.
    pub fingerprint: String,
    /// `made`, `exported`, `restored` or `replaced`.
    pub what: String,
    /// By whom.
    pub by: String,
    /// Why; empty where nobody asked.
    pub reason: String,
    /// When, as stored.
    pub at: String,
}

fn unreadable(error: &dyn std::fmt::Display) -> StoreError {
    Refused::KeyUnreadable(error.to_string()).into()
}

fn note(
    transaction: &Transaction<'_>,
    fingerprint: &str,
    what: &str,
    by: &str,
    reason: &str,
    now: Timestamp,
) -> Result<()> {
    transaction.execute(
        "INSERT INTO firm_key_log (fingerprint, what, by_whom, reason, at) VALUES (?1, ?2, ?3, ?4, ?5)",
        params![fingerprint, what, by, reason, now],
    )?;
    Ok(())
}

pub(crate) fn in_use(connection: &Connection) -> Result<Option<FirmKey>> {
    let pem: Option<Option<String>> = connection
        .prepare_cached("SELECT private_pem FROM firm_keys WHERE in_use = 1")?
        .query_row([], |row| row.get(0))
        .optional()?;
    pem.flatten().map(|pem| FirmKey::from_pem(&pem).map_err(|error| unreadable(&error))).transpose()
}

/// Whether the key in use was exported or came from a backup, so that losing this database is not
/// losing the key.
pub(crate) fn put_away(connection: &Connection) -> Result<bool> {
    Ok(connection
        .prepare_cached(
            "SELECT 1 FROM firm_key_log AS log JOIN firm_keys AS key USING (fingerprint)
             WHERE key.in_use = 1 AND log.what IN ('exported', 'restored')",
        )?
        .exists([])?)
}

/// Puts a key into use; `said` is what became of it, by whom and why.
pub(crate) fn put_in_use(
    transaction: &Transaction<'_>,
    key: &FirmKey,
    said: (&str, &str, &str),
    now: Timestamp,
) -> Result<()> {
    let (what, by, reason) = said;
    let public = key.public();
    let fingerprint = public.fingerprint();
    let public_pem = public.to_pem().map_err(|error| unreadable(&error))?;
    let private_pem = key.to_pem().map_err(|error| unreadable(&error))?;
    let before: Option<String> =
        transaction.query_row("SELECT fingerprint FROM firm_keys WHERE in_use = 1", [], |row| row.get(0)).optional()?;
    match before {
        Some(before) if before == fingerprint => {
            return Err(Refused::KeyInUse.into());
        }
        Some(_) if reason.trim().is_empty() => {
            return Err(Refused::KeyReplacementUnsaid.into());
        }
        Some(before) => {
            transaction
                .execute("UPDATE firm_keys SET in_use = 0, private_pem = NULL WHERE fingerprint = ?1", [&before])?;
            note(transaction, &before, "replaced", by, reason, now)?;
        }
        None => {}
    }
    let known = transaction.execute(
        "UPDATE firm_keys SET private_pem = ?2, in_use = 1 WHERE fingerprint = ?1",
        params![fingerprint, private_pem],
    )?;
    if known == 0 {
        transaction.execute(
            "INSERT INTO firm_keys (fingerprint, public_pem, private_pem, in_use) VALUES (?1, ?2, ?3, 1)",
            params![fingerprint, public_pem, private_pem],
        )?;
    }
    note(transaction, &fingerprint, what, by, reason, now)
}

impl Store {
    /// Whether the key in use was exported, or came from a backup.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn key_put_away(&self) -> Result<bool> {
        put_away(&*self.connection()?)
    }

    /// The key in use.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn firm_key(&self) -> Result<Option<FirmKey>> {
        in_use(&*self.connection()?)
    }

    /// Puts a key into use. `what` is `made` or `restored`; the key before it is replaced and loses
    /// its private half, with the reason on record.
    ///
    /// # Errors
    /// [`StoreError::Refused`] when the same key is in use already, or a reason is wanting.
    pub fn use_key(&self, key: &FirmKey, what: &str, by: &str, reason: &str, now: Timestamp) -> Result<()> {
        self.write(|transaction| put_in_use(transaction, key, (what, by, reason), now))
    }

    /// Puts on record that the key in use was exported.
    ///
    /// # Errors
    /// [`StoreError::Unknown`] when there is none.
    pub fn key_exported(&self, by: &str, now: Timestamp) -> Result<FirmKey> {
        self.write(|transaction| {
            let key = in_use(transaction)?.ok_or_else(|| StoreError::Unknown("the firm's key".into()))?;
            note(transaction, &key.public().fingerprint(), "exported", by, "", now)?;
            Ok(key)
        })
    }

    /// What became of each key, newest first.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn key_record(&self) -> Result<Vec<KeyEvent>> {
        let connection = self.connection()?;
        let mut statement = connection
            .prepare_cached("SELECT fingerprint, what, by_whom, reason, at FROM firm_key_log ORDER BY seq DESC")?;
        let rows = statement.query_map([], |row| {
            Ok(KeyEvent {
                fingerprint: row.get(0)?,
                what: row.get(1)?,
                by: row.get(2)?,
                reason: row.get(3)?,
                at: row.get(4)?,
            })
        })?;
        Ok(rows.collect::<rusqlite::Result<_>>()?)
    }

    /// The public key of a fingerprint, in use or not.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn public_key(&self, fingerprint: &str) -> Result<Option<PublicKey>> {
        let connection = self.connection()?;
        let pem: Option<String> = connection
            .prepare_cached("SELECT public_pem FROM firm_keys WHERE fingerprint = ?1")?
            .query_row([fingerprint], |row| row.get(0))
            .optional()?;
        pem.map(|pem| PublicKey::from_pem(&pem).map_err(|error| unreadable(&error))).transpose()
    }
}
