//! A database is opened: made or upgraded as needed.

use crate::database::{CONNECTIONS, Store};
use crate::error::Result;
use crate::refusal::Refused;
use crate::schema::{BUSY, migrations, prepare};
use crate::{backup, private};
use jiff::Timestamp;
use r2d2::Pool;
use r2d2_sqlite::SqliteConnectionManager;
use rusqlite::Connection;
use std::path::Path;
use std::sync::Arc;

impl Store {
    /// Opens a database, making or upgrading it as needed.
    ///
    /// # Errors
    /// When the file cannot be opened, is no database, or is from a later version.
    pub fn open(path: &Path) -> Result<Self> {
        // Once on a bare connection first: its error says what is wrong, a pool's only that it timed out.
        private::make(path).map_err(|error| Refused::File(path.display().to_string(), error.to_string()))?;
        let mut first = Connection::open(path)?;
        prepare(&mut first)?;
        let kept = backup::before_migration(path, &first)?;
        migrations().to_latest(&mut first)?;
        if let Some(kept) = kept {
            let at = std::fs::metadata(&kept).and_then(|about| about.modified()).ok();
            backup::note(&first, &kept, at.and_then(|at| Timestamp::try_from(at).ok()).unwrap_or_default())?;
        }
        drop(first);
        let manager = SqliteConnectionManager::file(path).with_init(prepare);
        let pool = Pool::builder().max_size(CONNECTIONS).connection_timeout(BUSY).build(manager)?;
        Ok(Self { path: path.into(), pool, recent: Arc::default(), registers: Arc::default(), sent: None })
    }
}
