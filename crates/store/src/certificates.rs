//! Issued certificates: canonical bytes, never changed; their status stands beside them.

use crate::jobs::read_job;
use crate::{Result, Store, StoreError};
use jiff::Timestamp;
use proof_core::certificate::{Certificate, Issued, NotIssued, Signature, digest, issue};
use rusqlite::{Connection, OptionalExtension, params};
use uuid::Uuid;

/// Status of a certificate.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Status {
    /// It stands.
    Issued,
    /// Another replaced it.
    ReplacedBy(String),
}

/// A certificate as stored.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CertificateRow {
    /// Its number.
    pub number: String,
    /// Its job.
    pub job: Uuid,
    /// When it was issued, as stored.
    pub issued_at: String,
    /// SHA-256 of its bytes.
    pub digest: String,
    /// Whether it stands.
    pub status: Status,
}

fn status(connection: &Connection, number: &str) -> Result<Status> {
    let replaced: Option<Option<String>> = connection
        .prepare_cached("SELECT replaced_by FROM certificate_status WHERE number = ?1 AND status = 'replaced' ORDER BY seq DESC LIMIT 1")?
        .query_row([number], |row| row.get(0))
        .optional()?;
    Ok(replaced.flatten().map_or(Status::Issued, Status::ReplacedBy))
}

impl Store {
    /// Issues a certificate for a job as it stands, in one transaction. The newest certificate of
    /// the job, if any, is replaced by it. `Ok(Err(…))`: it was not issued, and why.
    pub fn issue_certificate(
        &self,
        job: Uuid,
        signatures: Vec<Signature>,
        now: Timestamp,
    ) -> Result<std::result::Result<Issued, NotIssued>> {
        self.write(|transaction| {
            let job = read_job(transaction, job)?.job;
            let id = job.id.to_string();
            let count: i64 = transaction.query_row("SELECT count(*) FROM certificates WHERE job = ?1", [&id], |row| row.get(0))?;
            let before: Option<String> = transaction
                .query_row("SELECT number FROM certificates WHERE job = ?1 ORDER BY rowid DESC LIMIT 1", [&id], |row| row.get(0))
                .optional()?;
            let number = format!("{}-C{}", job.reference, count + 1);
            let issued = match issue(&job, &number, before.clone(), signatures, now) {
                Ok((_, issued)) => issued,
                Err(why) => return Ok(Err(why)),
            };
            transaction.execute(
                "INSERT INTO certificates (number, job, issued_at, rules_version, digest, bytes) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
                params![number, id, now.to_string(), proof_core::certificate::RULES_VERSION, issued.digest, issued.bytes],
            )?;
            let note = "INSERT INTO certificate_status (number, status, replaced_by, at) VALUES (?1, ?2, ?3, ?4)";
            transaction.execute(note, params![number, "issued", None::<String>, now.to_string()])?;
            if let Some(before) = before {
                transaction.execute(note, params![before, "replaced", Some(&number), now.to_string()])?;
            }
            Ok(Ok(issued))
        })
    }

    /// Certificates of a job, newest first.
    pub fn certificates(&self, job: Uuid) -> Result<Vec<CertificateRow>> {
        let connection = self.connection()?;
        let mut statement = connection
            .prepare_cached("SELECT number, issued_at, digest FROM certificates WHERE job = ?1 ORDER BY rowid DESC")?;
        let rows = statement.query_map([job.to_string()], |row| {
            Ok((row.get::<_, String>(0)?, row.get::<_, String>(1)?, row.get::<_, String>(2)?))
        })?;
        let mut all = Vec::new();
        for row in rows {
            let (number, issued_at, digest) = row?;
            let status = status(&connection, &number)?;
            all.push(CertificateRow { number, job, issued_at, digest, status });
        }
        Ok(all)
    }

    /// The canonical bytes of a certificate, and the certificate they hold.
    ///
    /// # Errors
    /// [`StoreError::Unknown`]; [`StoreError::Refused`] when the bytes do not have their digest.
    pub fn certificate(&self, number: &str) -> Result<(Vec<u8>, Certificate, Status)> {
        let connection = self.connection()?;
        let (bytes, stored): (Vec<u8>, String) = connection
            .prepare_cached("SELECT bytes, digest FROM certificates WHERE number = ?1")?
            .query_row([number], |row| Ok((row.get(0)?, row.get(1)?)))
            .optional()?
            .ok_or_else(|| StoreError::Unknown(format!("certificate {number}")))?;
        if digest(&bytes) != stored {
            return Err(StoreError::Refused(format!(
                "certificate {number} does not have its digest: the database was altered"
            )));
        }
        let certificate = serde_json::from_slice(&bytes)?;
        let status = status(&connection, number)?;
        Ok((bytes, certificate, status))
    }
}
