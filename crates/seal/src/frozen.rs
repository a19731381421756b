//! A certificate written down: canonical bytes and their digests.

use data_encoding::HEXLOWER;
use proof_job::job::Job;
use proof_work::certificate::Certificate;
use sha2::{Digest, Sha256};

/// Canonical bytes and their digest.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Issued {
    /// Its number.
    pub number: String,
    /// Canonical bytes.
    pub bytes: Vec<u8>,
    /// SHA-256 of the bytes, hexadecimal.
    pub digest: String,
    /// SHA-256 of the job in it, canonical, hexadecimal.
    pub job_digest: String,
}

impl Issued {
    /// Writes a certificate down.
    ///
    /// # Errors
    /// When it does not serialise.
    pub fn freeze(certificate: &Certificate) -> serde_json::Result<Self> {
        let bytes = serde_json::to_vec(certificate)?;
        let job_digest = digest(&canonical_job(&certificate.job)?);
        let digest = digest(&bytes);
        Ok(Self { number: certificate.number.clone(), bytes, digest, job_digest })
    }
}

/// The canonical bytes of a job.
///
/// # Errors
/// When it does not serialise.
pub fn canonical_job(job: &Job) -> serde_json::Result<Vec<u8>> {
    serde_json::to_vec(job)
}

/// SHA-256 in hexadecimal.
pub fn digest(bytes: &[u8]) -> String {
    HEXLOWER.encode(&Sha256::digest(bytes))
}
