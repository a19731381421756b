//! Copies of a database while it is in use, by SQLite's own backup: before a migration, when somebody asks, and back
//! again. A copy is whole and of one moment.

use crate::schema::{MIGRATIONS, migrations, prepare};
use crate::{Refused, Result, Store, StoreError, chain, private};
use jiff::Timestamp;
use rusqlite::backup::{Backup, StepResult};
use rusqlite::{Connection, OpenFlags};
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

/// How long a restore waits for those who use the database.
const PATIENCE: Duration = Duration::from_secs(20);

/// Copies a database as it stands: all of it in one step, so that who writes meanwhile begins nothing anew.
fn copy(from: &Connection, to: &mut Connection) -> Result<()> {
    let backup = Backup::new(from, to)?;
    let began = Instant::now();
    loop {
        match backup.step(-1)? {
            StepResult::Done => return Ok(()),
            _ if began.elapsed() > PATIENCE => return Err(Refused::InUse.into()),
            _ => std::thread::sleep(Duration::from_millis(5)),
        }
    }
}

fn made(path: &Path) -> Result<Connection> {
    let failed = |error: std::io::Error| Refused::File(path.display().to_string(), error.to_string());
    if path.exists() {
        return Err(Refused::FileThere(path.display().to_string()).into());
    }
    private::make(path).map_err(failed)?;
    Ok(Connection::open(path)?)
}

/// A path beside another that nothing has.
fn free(path: &Path, what: &str) -> PathBuf {
    let name = |number: usize| {
        let mut name = path.as_os_str().to_owned();
        name.push(if number == 1 { format!(".{what}") } else { format!(".{what}-{number}") });
        PathBuf::from(name)
    };
    (1..1000).map(name).find(|path| !path.exists()).unwrap_or_else(|| name(1000))
}

/// Copies a database that is about to be migrated; where nothing is to be migrated, nothing is copied.
pub(crate) fn before_migration(path: &Path, connection: &Connection) -> Result<Option<PathBuf>> {
    let version: i64 = connection.query_row("PRAGMA user_version", [], |row| row.get(0))?;
    if version == 0 || migrations().current_version(connection)? >= latest() {
        return Ok(None);
    }
    let kept = free(path, &format!("version-{version}.backup"));
    copy(connection, &mut made(&kept)?)?;
    Ok(Some(kept))
}

fn latest() -> rusqlite_migration::SchemaVersion {
    let count = std::num::NonZeroUsize::new(MIGRATIONS);
    count.map_or(rusqlite_migration::SchemaVersion::NoneSet, rusqlite_migration::SchemaVersion::Inside)
}

pub(crate) fn note(connection: &Connection, path: &Path, at: Timestamp) -> Result<()> {
    let whole = std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    connection
        .execute("INSERT INTO backups (path, at) VALUES (?1, ?2)", [whole.display().to_string(), at.to_string()])?;
    Ok(())
}

/// Whether a database is whole, by SQLite's own check; what it says where it is not.
fn whole(connection: &Connection) -> Result<std::result::Result<(), String>> {
    let said: String = connection.query_row("PRAGMA integrity_check(1)", [], |row| row.get(0))?;
    Ok(if said == "ok" { Ok(()) } else { Err(said) })
}

impl Store {
    /// Opens a database to look into it alone: one of an earlier version is not brought up to date, a copy of it is,
    /// `aside`.
    ///
    /// # Errors
    /// As [`Store::open`].
    pub fn open_to_look(path: &Path, aside: &Path) -> Result<Self> {
        let standing = Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_ONLY)?;
        standing.busy_timeout(PATIENCE)?;
        if migrations().current_version(&standing)? >= latest() {
            return Self::open(path);
        }
        let mut copied = made(aside)?;
        copy(&standing, &mut copied)?;
        prepare(&mut copied)?;
        migrations().to_latest(&mut copied)?;
        drop(copied);
        Self::open(aside)
    }

    /// Copies the database into a new file while it is in use, and notes where.
    ///
    /// # Errors
    /// [`StoreError::Refused`] when the file is there, or cannot be made.
    pub fn backup(&self, to: &Path, at: Timestamp) -> Result<()> {
        let from = self.connection()?;
        // Noted first: a copy knows of itself.
        note(&from, to, at)?;
        copy(&from, &mut made(to)?)
    }

    /// Puts a copy in the place of a database that may be in use; what stood there is copied first. Where that went.
    ///
    /// # Errors
    /// [`StoreError::Refused`] when the copy is no database of this program, or is not whole.
    pub fn restore(db: &Path, from: &Path, at: Timestamp) -> Result<Option<PathBuf>> {
        let no = |why: String| StoreError::from(Refused::NoBackup(from.display().to_string(), why));
        let source = Connection::open_with_flags(from, OpenFlags::SQLITE_OPEN_READ_ONLY)?;
        source.busy_timeout(PATIENCE)?;
        whole(&source).map_err(|error| no(error.to_string()))?.map_err(no)?;
        let version: i64 = source.query_row("PRAGMA user_version", [], |row| row.get(0))?;
        if version == 0 {
            return Err(no("it is no database of this program".into()));
        }
        // Made ready aside: brought up to date, and of another generation than what stands.
        let aside = free(db, "restoring");
        let mut ready = made(&aside)?;
        let done = (|| {
            copy(&source, &mut ready)?;
            prepare(&mut ready)?;
            migrations().to_latest(&mut ready)?;
            ready.execute("UPDATE generation SET id = lower(hex(randomblob(16)))", [])?;
            let before = db.exists().then(|| free(db, "before-restore.backup"));
            private::make(db).map_err(|error| Refused::File(db.display().to_string(), error.to_string()))?;
            let mut standing = Connection::open(db)?;
            standing.busy_timeout(PATIENCE)?;
            if let Some(before) = &before {
                copy(&standing, &mut made(before)?)?;
                note(&ready, before, at)?;
            }
            copy(&ready, &mut standing)?;
            Ok(before)
        })();
        drop(ready);
        for end in ["", "-wal", "-shm", "-journal"] {
            let mut name = aside.as_os_str().to_owned();
            name.push(end);
            // What was aside may have left no such file.
            let _ = std::fs::remove_file(name);
        }
        done
    }

    /// What is wrong with a database, a line each; none: it is sound. Nothing is changed.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be asked at all.
    pub fn examine(&self, path: &Path) -> Result<Vec<String>> {
        let connection = self.connection()?;
        let mut found = Vec::new();
        if let Err(said) = whole(&connection)? {
            found.push(format!("the file is damaged: {said}"));
        }
        let mut broken = connection.prepare("PRAGMA foreign_key_check")?;
        let mut rows = broken.query([])?;
        while let Some(row) = rows.next()? {
            let (table, number, of): (String, Option<i64>, String) = (row.get(0)?, row.get(1)?, row.get(2)?);
            found.push(format!("{table} row {} names something in {of} that is not there", number.unwrap_or(0)));
        }
        drop(rows);
        drop(broken);
        found.extend(chain::altered(&connection)?.iter().map(ToString::to_string));
        for row in self.jobs("", u32::MAX)? {
            match self.job(row.id) {
                Ok(_) => found.extend(self.examine_certificates(&row)?),
                Err(error) => found.push(format!("job {}: {error}", row.reference)),
            }
        }
        found.extend(self.plain_copies()?.iter().map(ToString::to_string));
        for (file, mode) in private::wide(path) {
            found.push(format!("others may read {} ({mode:o}): chmod 600 {0}", file.display()));
        }
        Ok(found)
    }

    fn examine_certificates(&self, row: &crate::JobRow) -> Result<Vec<String>> {
        let mut found = Vec::new();
        for certificate in self.certificates(row.id)? {
            if let Err(error) = self.certificate(&certificate.number) {
                found.push(error.to_string());
            }
            if let Some(papers) = self.papers(&certificate.number)? {
                let key = self.public_key(&papers.seal.statement.key)?;
                if key.is_none_or(|key| papers.seal.verify(&key).is_err()) {
                    found.push(format!("certificate {}: its seal is not of a key of the firm's", certificate.number));
                }
            }
        }
        Ok(found)
    }
}
