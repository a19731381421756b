//! The firm's signing keys: one in use, the public halves of all, and what became of each.

use crate::{Refused, Result, Store, StoreError, rows};
use jiff::Timestamp;
use proof_seal::{FirmKey, KeptKey, LockedKey, PublicKey, is_locked};
use rusqlite::{Connection, OpenFlags, OptionalExtension, Row, Transaction, params};
use std::path::Path;

/// A line of the record of keys.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeyEvent {
    /// Which key.
    pub fingerprint: String,
    /// `made`, `exported`, `restored`, `replaced` or `locked`: put under a passphrase.
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

/// A copy of the database that a key can be read from without a passphrase.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum PlainCopy {
    /// It holds one.
    Holds(String),
    /// It was made while the key stood open, and is not where it was made: nobody looked into it.
    Gone(String),
}

impl std::fmt::Display for PlainCopy {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Holds(path) => write!(f, "{path} holds a signing key without a passphrase"),
            Self::Gone(path) => {
                write!(
                    f,
                    "{path} was made while the signing key had no passphrase, and is not there any more: moved, it holds it"
                )
            }
        }
    }
}

pub(crate) fn in_use(connection: &Connection) -> Result<Option<KeptKey>> {
    let stored: Option<(Option<String>, String)> = connection
        .prepare_cached("SELECT private_pem, public_pem FROM firm_keys WHERE in_use = 1")?
        .query_row([], |row| Ok((row.get(0)?, row.get(1)?)))
        .optional()?;
    let Some((Some(private), public)) = stored else { return Ok(None) };
    let key = if is_locked(&private) {
        let public = PublicKey::from_pem(&public).map_err(|error| unreadable(&error))?;
        KeptKey::Locked(LockedKey::stored(private, public))
    } else {
        KeptKey::Plain(FirmKey::from_pem(&private).map_err(|error| unreadable(&error))?)
    };
    Ok(Some(key))
}

impl TryFrom<&Row<'_>> for KeyEvent {
    type Error = StoreError;

    fn try_from(row: &Row<'_>) -> Result<Self> {
        Ok(Self {
            fingerprint: row.get("fingerprint")?,
            what: row.get("what")?,
            by: row.get("by_whom")?,
            reason: row.get("reason")?,
            at: row.get("at")?,
        })
    }
}

/// Said of a key that is put under its first passphrase.
const HAD_NONE: &str = "it had none before";

/// The text of the key in use, where it has no passphrase.
fn plain_pem(connection: &Connection) -> Result<Option<String>> {
    let found: Option<Option<String>> = connection
        .prepare_cached("SELECT private_pem FROM firm_keys WHERE in_use = 1")?
        .query_row([], |row| row.get(0))
        .optional()?;
    Ok(found.flatten().filter(|pem| !is_locked(pem)))
}

/// The line of a plain key's text that holds its secret.
fn secret_line(pem: &str) -> Option<&str> {
    pem.lines().filter(|line| !line.starts_with("-----")).max_by_key(|line| line.len())
}

/// Whether a copy of the database holds a key without a passphrase.
fn holds_plain_key(path: &Path) -> bool {
    let found = || -> rusqlite::Result<bool> {
        // As it lies there: no file is made beside it.
        let named = path.display().to_string().replace('%', "%25").replace('?', "%3f").replace('#', "%23");
        let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_URI;
        let connection = Connection::open_with_flags(format!("file:{named}?immutable=1"), flags)?;
        let mut statement = connection.prepare("SELECT private_pem FROM firm_keys WHERE private_pem IS NOT NULL")?;
        let mut rows = statement.query([])?;
        while let Some(row) = rows.next()? {
            if !is_locked(&row.get::<_, String>(0)?) {
                return Ok(true);
            }
        }
        Ok(false)
    };
    // What is no database any more, or has no keys yet, holds none.
    found().unwrap_or(false)
}

/// Whether the key in use was exported or came from a backup, so that losing this database is not
/// losing the key.
pub(crate) fn backed_up(connection: &Connection) -> Result<bool> {
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
    key: &KeptKey,
    said: (&str, &str, &str),
    now: Timestamp,
) -> Result<()> {
    let (what, by, reason) = said;
    let public = key.public();
    if public.is_demonstration() {
        return Err(Refused::NotForDemonstration.into());
    }
    let fingerprint = public.fingerprint();
    let public_pem = public.to_pem().map_err(|error| unreadable(&error))?;
    let private_pem = key.pem().map_err(|error| unreadable(&error))?;
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
    pub fn key_backed_up(&self) -> Result<bool> {
        backed_up(&*self.connection()?)
    }

    /// The key in use, as it is kept.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn firm_key(&self) -> Result<Option<KeptKey>> {
        in_use(&*self.connection()?)
    }

    /// Puts a key into use. `what` is `made` or `restored`; the key before it is replaced and loses
    /// its private half, with the reason on record.
    ///
    /// # Errors
    /// [`StoreError::Refused`] when the same key is in use already, or a reason is wanting.
    pub fn use_key(&self, key: &KeptKey, what: &str, by: &str, reason: &str, now: Timestamp) -> Result<()> {
        self.secretly(|transaction| put_in_use(transaction, key, (what, by, reason), now))
    }

    /// Puts the key in use under a passphrase, or under another one; what stood there before is gone from the
    /// database and its log.
    ///
    /// # Errors
    /// [`StoreError::Refused`] when another key is in use by now.
    pub fn lock_key(&self, locked: &LockedKey, by: &str, now: Timestamp) -> Result<()> {
        self.secretly(|transaction| {
            let fingerprint = locked.public().fingerprint();
            let plain = plain_pem(transaction)?.is_some();
            let stored = transaction.execute(
                "UPDATE firm_keys SET private_pem = ?2 WHERE fingerprint = ?1 AND in_use = 1",
                params![fingerprint, locked.pem()],
            )?;
            if stored == 0 {
                return Err(Refused::KeyReplaced.into());
            }
            let before = if plain { HAD_NONE } else { "" };
            note(transaction, &fingerprint, "locked", by, before, now)
        })
    }

    /// One transaction that takes a secret out: it is overwritten where it stood, also in the log beside the database.
    fn secretly<T>(&self, work: impl FnOnce(&Transaction<'_>) -> Result<T>) -> Result<T> {
        let mut connection = self.connection()?;
        let plain = plain_pem(&connection)?;
        connection.execute_batch("PRAGMA secure_delete=ON")?;
        let done = self.write_on(&mut connection, work);
        connection.execute_batch("PRAGMA secure_delete=OFF")?;
        let done = done?;
        // Whoever reads an older state meanwhile is waited for, ten seconds; else it goes with the last connection.
        let emptied = "PRAGMA wal_checkpoint(TRUNCATE)";
        connection.query_row(emptied, [], |_| Ok(()))?;
        if let Some(secret) = plain.as_deref().and_then(secret_line)
            && self.files_hold(secret)
        {
            // Left in a page that was given back long ago.
            connection.execute_batch("VACUUM")?;
            connection.query_row(emptied, [], |_| Ok(()))?;
        }
        Ok(done)
    }

    /// Whether the database or its log holds some text, wherever in it.
    fn files_hold(&self, text: &str) -> bool {
        ["", "-wal"].iter().any(|end| {
            let mut name = self.path.as_os_str().to_owned();
            name.push(end);
            std::fs::read(name).is_ok_and(|bytes| bytes.windows(text.len()).any(|window| window == text.as_bytes()))
        })
    }

    /// Copies that the program made of the database from which a signing key can be read without a passphrase.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database.
    pub fn plain_copies(&self) -> Result<Vec<PlainCopy>> {
        let connection = self.connection()?;
        // Until when a key stood here without a passphrase.
        let locked: Option<Timestamp> = connection.query_row(
            "SELECT max(at) FROM firm_key_log WHERE what = 'locked' AND reason = ?1",
            [HAD_NONE],
            |row| row.get(0),
        )?;
        let mut statement = connection.prepare_cached("SELECT path, at FROM backups ORDER BY seq")?;
        let rows = statement.query_map([], |row| Ok((row.get::<_, String>(0)?, row.get::<_, Timestamp>(1)?)))?;
        let mut found = Vec::new();
        for row in rows {
            let (path, at) = row?;
            if !Path::new(&path).exists() {
                if locked.is_some_and(|locked| at < locked) {
                    found.push(PlainCopy::Gone(path));
                }
            } else if holds_plain_key(Path::new(&path)) {
                found.push(PlainCopy::Holds(path));
            }
        }
        Ok(found)
    }

    /// Puts on record that the key in use was exported.
    ///
    /// # Errors
    /// [`StoreError::Unknown`] when there is none.
    pub fn key_exported(&self, by: &str, now: Timestamp) -> Result<KeptKey> {
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
        rows::all(statement.query([])?)
    }

    /// The public key of a fingerprint, in use or not; the demonstration key is known everywhere.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn public_key(&self, fingerprint: &str) -> Result<Option<PublicKey>> {
        let demonstration = FirmKey::demonstration().public();
        if demonstration.fingerprint() == fingerprint {
            return Ok(Some(demonstration));
        }
        let connection = self.connection()?;
        let pem: Option<String> = connection
            .prepare_cached("SELECT public_pem FROM firm_keys WHERE fingerprint = ?1")?
            .query_row([fingerprint], |row| row.get(0))
            .optional()?;
        pem.map(|pem| PublicKey::from_pem(&pem).map_err(|error| unreadable(&error))).transpose()
    }
}
