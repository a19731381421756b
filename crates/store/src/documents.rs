//! Documents that go with jobs, stored once by the digest of their bytes.

use crate::{Result, Store, StoreError};
use proof_job::installation::{Documents, Installation};
use rusqlite::{Connection, OptionalExtension, Transaction, params};

pub(crate) fn put(transaction: &Transaction<'_>, documents: &Documents) -> Result<()> {
    let mut insert =
        transaction.prepare_cached("INSERT INTO documents (sha256, bytes) VALUES (?1, ?2) ON CONFLICT DO NOTHING")?;
    for (sha256, bytes) in documents {
        insert.execute(params![sha256, bytes])?;
    }
    Ok(())
}

fn one(connection: &Connection, sha256: &str) -> Result<Vec<u8>> {
    connection
        .prepare_cached("SELECT bytes FROM documents WHERE sha256 = ?1")?
        .query_row([sha256], |row| row.get(0))
        .optional()?
        .ok_or_else(|| StoreError::Unknown(format!("document {sha256}")))
}

/// The documents that an installation names.
pub(crate) fn load_documents(connection: &Connection, installation: &Installation) -> Result<Documents> {
    let named = installation.documents.iter();
    named.map(|document| Ok((document.sha256.clone(), one(connection, &document.sha256)?))).collect()
}

impl Store {
    /// The bytes of a document.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, or what is not there.
    pub fn document(&self, sha256: &str) -> Result<Vec<u8>> {
        one(&*self.connection()?, sha256)
    }

    /// The documents that an installation names, by their digests.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, or one that is not there.
    pub fn documents_of(&self, installation: &Installation) -> Result<Documents> {
        load_documents(&*self.connection()?, installation)
    }
}
