//! Issued certificates: canonical bytes, never changed; their status stands beside them.

use crate::jobs::read_job;
use crate::keys::{backed_up, in_use};
use crate::rows::{self, parsed};
use crate::{Refused, Result, Store, StoreError, documents};
use jiff::Timestamp;
use proof_job::installation::Documents;
use proof_job::job::Job;
use proof_seal::{FirmKey, Issued, Seal, digest, short_code};
use proof_work::certificate::{Application, Certificate, Form, NotIssued, Signature, issue};
use rusqlite::{Connection, OptionalExtension, Row, Transaction, params};
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

/// What the list of certificates reads.
const COLUMNS: &str = "number, job, issued_at, digest,
    (SELECT replaced_by FROM certificate_status WHERE number = certificates.number AND status = 'replaced'
     ORDER BY seq DESC LIMIT 1) AS replaced_by";

impl TryFrom<&Row<'_>> for CertificateRow {
    type Error = StoreError;

    fn try_from(row: &Row<'_>) -> Result<Self> {
        let replaced_by: Option<String> = row.get("replaced_by")?;
        Ok(Self {
            number: row.get("number")?,
            job: parsed(row, ("certificates", "number"), "job")?,
            issued_at: row.get("issued_at")?,
            digest: row.get("digest")?,
            status: replaced_by.map_or(Status::Issued, Status::ReplacedBy),
        })
    }
}

/// What a certificate is asked for with.
#[derive(Debug, Clone, PartialEq)]
pub struct CertificateQuery {
    /// Which form.
    pub form: Form,
    /// Who signs for what.
    pub signatures: Vec<Signature>,
    /// Why the one that stands is replaced; empty where none stands.
    pub because: String,
}

/// What goes out with a certificate.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Papers {
    /// What the firm signed.
    pub seal: Seal,
    /// The document.
    pub pdf: Vec<u8>,
    /// The job file.
    pub job_file: Vec<u8>,
}

/// The newest certificate of a job in a form, if it stands.
fn standing_of_form(connection: &Connection, job: &str, form: Form) -> Result<Option<String>> {
    let mut statement =
        connection.prepare_cached("SELECT number, bytes FROM certificates WHERE job = ?1 ORDER BY rowid DESC")?;
    let mut rows = statement.query([job])?;
    while let Some(row) = rows.next()? {
        let number: String = row.get(0)?;
        let certificate: Certificate =
            serde_json::from_slice(row.get_ref(1)?.as_blob().map_err(rusqlite::Error::from)?)?;
        if certificate.form == form {
            return Ok((status(connection, &number)? == Status::Issued).then_some(number));
        }
    }
    Ok(None)
}

fn status(connection: &Connection, number: &str) -> Result<Status> {
    let replaced: Option<Option<String>> = connection
        .prepare_cached("SELECT replaced_by FROM certificate_status WHERE number = ?1 AND status = 'replaced' ORDER BY seq DESC LIMIT 1")?
        .query_row([number], |row| row.get(0))
        .optional()?;
    Ok(replaced.flatten().map_or(Status::Issued, Status::ReplacedBy))
}

/// What a certificate is asked for, as the database stands.
fn draft(
    transaction: &Transaction<'_>,
    store: &Store,
    job: Uuid,
    asked: &CertificateQuery,
    key: &FirmKey,
    now: Timestamp,
) -> Result<Drafted> {
    let job = read_job(transaction, &store.registers, job)?.job;
    if job.made_as.is_work() == key.public().is_demonstration() {
        return Err(Refused::NotForDemonstration.into());
    }
    if job.made_as.is_work() {
        let in_use = in_use(transaction)?.ok_or_else(|| StoreError::from(Refused::NoKey))?;
        if in_use.public() != key.public() {
            return Err(Refused::KeyReplaced.into());
        }
        if !backed_up(transaction)? {
            return Err(Refused::KeyNotExported.into());
        }
    }
    let id = job.id.to_string();
    let count: i64 =
        transaction.query_row("SELECT count(*) FROM certificates WHERE job = ?1", [&id], |row| row.get(0))?;
    let before = standing_of_form(transaction, &id, asked.form)?;
    if before.is_some() && asked.because.trim().is_empty() {
        return Err(Refused::ReplacementUnsaid.into());
    }
    let application = Application {
        form: asked.form,
        number: format!("{}-C{}", job.reference, count + 1),
        replaces: before.clone().map(|before| (before, asked.because.clone())),
        signatures: asked.signatures.clone(),
        key: key.public().fingerprint(),
        now,
    };
    let documents = documents::load_documents(transaction, &job.installation)?;
    Ok(Drafted { job, application, before, documents })
}

/// Stores a certificate with its papers.
fn put(
    transaction: &Transaction<'_>,
    drafted: &Drafted,
    issued: &Issued,
    papers: &Papers,
    now: Timestamp,
) -> Result<()> {
    let (id, number) = (drafted.job.id.to_string(), &drafted.application.number);
    // What stood is kept: from now on the registers change nothing in this job.
    transaction
        .execute("UPDATE jobs SET description = ?2 WHERE id = ?1", params![id, crate::jobs::header(&drafted.job)?])?;
    transaction.execute("DELETE FROM descriptions WHERE job = ?1", [&id])?;
    transaction.execute(
        "INSERT INTO certificates (number, job, issued_at, rules_version, digest, bytes) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        params![number, id, now, proof_work::certificate::RULES_VERSION, issued.digest, issued.bytes],
    )?;
    transaction.execute(
        "INSERT INTO certificate_papers (number, seal, pdf, job_file) VALUES (?1, ?2, ?3, ?4)",
        params![number, serde_json::to_string(&papers.seal)?, papers.pdf, papers.job_file],
    )?;
    let note = "INSERT INTO certificate_status (number, status, replaced_by, at) VALUES (?1, ?2, ?3, ?4)";
    transaction.execute(note, params![number, "issued", None::<String>, now])?;
    if let Some(before) = &drafted.before {
        transaction.execute(note, params![before, "replaced", Some(number), now])?;
    }
    Ok(())
}

/// What a certificate is drawn from; another reading, description or certificate meanwhile makes it another.
struct Drafted {
    job: Job,
    application: Application,
    before: Option<String>,
    documents: Documents,
}

/// The job is no longer what the papers were drawn from.
struct DrawAnew;

/// So often it is drawn anew when the job changes while it is drawn.
const MOST_DRAWN: usize = 4;

impl Store {
    /// Issues a certificate for a job as it stands, under the firm's key, with its papers. They are drawn beside the
    /// other writers and stored in one transaction, if the job still is what they were drawn from. A certificate of
    /// the same form that stands is replaced by it. `Ok(Err(…))`: it was not issued, and why.
    ///
    /// # Errors
    /// [`StoreError::Refused`] when this key is not the one in use, was not put away, or the papers cannot be drawn;
    /// [`StoreError::Conflict`] when the job does not stand still.
    pub fn issue_certificate<E: std::error::Error>(
        &self,
        job: Uuid,
        asked: CertificateQuery,
        key: &FirmKey,
        now: Timestamp,
        draw: impl Fn(&Certificate, &Issued, &Documents, &FirmKey) -> std::result::Result<Papers, E>,
    ) -> Result<std::result::Result<Issued, NotIssued>> {
        for _ in 0..MOST_DRAWN {
            let drafted = self.drafted(job, &asked, key, now)?;
            let certificate = match issue(&drafted.job, drafted.application.clone()) {
                Ok(certificate) => certificate,
                Err(why) => return Ok(Err(why)),
            };
            let issued = Issued::freeze(&certificate)?;
            let papers = draw(&certificate, &issued, &drafted.documents, key)
                .map_err(|why| Refused::PapersNotDrawn(why.to_string()))?;
            let stored = self.write_unless_refused(&mut *self.connection()?, |transaction| {
                let now_is = draft(transaction, self, job, &asked, key, now)?;
                let same = now_is.job == drafted.job
                    && now_is.application == drafted.application
                    && now_is.documents == drafted.documents;
                if !same {
                    return Ok(Err(DrawAnew));
                }
                put(transaction, &drafted, &issued, &papers, now).map(Ok)
            })?;
            if let Ok(()) = stored {
                return Ok(Ok(issued));
            }
        }
        Err(StoreError::Conflict)
    }

    fn drafted(&self, job: Uuid, asked: &CertificateQuery, key: &FirmKey, now: Timestamp) -> Result<Drafted> {
        let mut connection = self.connection()?;
        // One state of the database for all of it.
        let transaction = connection.transaction()?;
        draft(&transaction, self, job, asked, key, now)
    }

    /// What went out with a certificate; none for one issued before papers were kept.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn papers(&self, number: &str) -> Result<Option<Papers>> {
        let connection = self.connection()?;
        let found: Option<(String, Vec<u8>, Vec<u8>)> = connection
            .prepare_cached("SELECT seal, pdf, job_file FROM certificate_papers WHERE number = ?1")?
            .query_row([number], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)))
            .optional()?;
        found.map(|(seal, pdf, job_file)| Ok(Papers { seal: serde_json::from_str(&seal)?, pdf, job_file })).transpose()
    }

    /// The certificate with a number or a short code, and its status.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn look_up(&self, number_or_code: &str) -> Result<Option<CertificateRow>> {
        let connection = self.connection()?;
        let wanted = number_or_code.trim();
        let mut statement = connection.prepare_cached(&format!("SELECT {COLUMNS} FROM certificates"))?;
        let mut rows = statement.query([])?;
        while let Some(row) = rows.next()? {
            let (number, digest): (String, String) = (row.get("number")?, row.get("digest")?);
            if number.eq_ignore_ascii_case(wanted) || short_code(&digest).eq_ignore_ascii_case(wanted) {
                return CertificateRow::try_from(row).map(Some);
            }
        }
        Ok(None)
    }

    /// Certificates of a job, newest first.
    ///
    /// # Errors
    /// [`crate::StoreError`]: the database, a row that cannot be read, or what is not there.
    pub fn certificates(&self, job: Uuid) -> Result<Vec<CertificateRow>> {
        let connection = self.connection()?;
        let mut statement = connection
            .prepare_cached(&format!("SELECT {COLUMNS} FROM certificates WHERE job = ?1 ORDER BY rowid DESC"))?;
        rows::all(statement.query([job.to_string()])?)
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
            return Err(Refused::Altered(number.to_owned()).into());
        }
        let certificate = serde_json::from_slice(&bytes)?;
        let status = status(&connection, number)?;
        Ok((bytes, certificate, status))
    }
}
