//! The issued document: drawn, with the sealed job file inside, and signed over every byte but the
//! signature itself.
//!
//! The signature stands in a small text file attached to the document, stored as it is. It is made
//! over the whole document with its 128 digits read as zeros; so it is checked with any tool that
//! can replace them and knows Ed25519.

use crate::certificate::{Copy, draw};
use crate::job_file;
use crate::page::{Attachment, PdfError};
use flate2::read::ZlibDecoder;
use proof_job::installation::Documents;
use proof_seal::{FirmKey, Issued, NotSealed, PublicKey, Seal, Statement};
use proof_work::certificate::Certificate;
use std::borrow::Cow;
use std::io::Read;

/// First line of the attached signature.
const HEAD: &str = "proof document signature 1\n";
const SEAL: &str = "seal ";
const SIGNATURE: &str = "signature ";
const DIGITS: usize = 128;

/// What goes out with an issued certificate.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Papers {
    /// What the firm signed.
    pub seal: Seal,
    /// The document.
    pub pdf: Vec<u8>,
    /// The job file that goes with it.
    pub job_file: Vec<u8>,
}

/// Why the papers could not be made.
#[derive(Debug, thiserror::Error)]
pub enum NoPapers {
    /// The document.
    #[error(transparent)]
    Pdf(#[from] PdfError),
    /// The job file.
    #[error(transparent)]
    Job(#[from] job_file::NotAJob),
    /// The words of the signature stand elsewhere in the document.
    #[error("the document holds the words of its own signature: change the text that says “proof document signature”")]
    Ambiguous,
}

/// Draws, attaches and signs.
///
/// # Errors
/// [`NoPapers`].
pub fn papers(
    certificate: &Certificate,
    issued: &Issued,
    documents: &Documents,
    key: &FirmKey,
) -> Result<Papers, NoPapers> {
    let statement = Statement {
        number: certificate.number.clone(),
        issued_at: certificate.issued_at,
        replaces: certificate.replaces.clone().unwrap_or_default(),
        certificate_sha256: issued.digest.clone(),
        job_sha256: issued.job_digest.clone(),
        key: key.public().fingerprint(),
        demonstration: !certificate.job.made_as.is_work(),
    };
    let seal = Seal::new(statement, key);
    let job_file = job_file::write_sealed(&certificate.job, documents, &seal)?;
    let zeros = "0".repeat(DIGITS);
    let attachments = vec![
        Attachment {
            name: format!("{}.job.json", certificate.number),
            what: "The job that this certificate was drawn from, sealed",
            media: "application/json",
            bytes: job_file.clone(),
            plain: false,
            source: true,
        },
        Attachment {
            name: "signature.txt".to_owned(),
            what: "Signature over this document",
            media: "text/plain",
            bytes: format!(
                "{HEAD}Ed25519 over this whole file, with the {DIGITS} digits of the last line read as zeros.\n{SEAL}{}\n{SIGNATURE}{zeros}\n",
                seal.code()
            )
            .into_bytes(),
            plain: true,
            source: false,
        },
    ];
    let mut pdf = draw(certificate, Copy::Issued(&seal), attachments)?;
    let (_, at) = found(&pdf).map_err(|_| NoPapers::Ambiguous)?;
    let signature = key.sign(&pdf);
    pdf[at..at + DIGITS].copy_from_slice(signature.as_bytes());
    Ok(Papers { seal, pdf, job_file })
}

/// Every place where some bytes stand.
fn places(bytes: &[u8], wanted: &[u8]) -> Vec<usize> {
    let first = wanted[0];
    let candidates = bytes.iter().enumerate().filter(|(_, byte)| **byte == first).map(|(at, _)| at);
    candidates.filter(|&at| bytes[at..].starts_with(wanted)).collect()
}

/// The seal in a document, and where the digits of its signature begin.
fn found(pdf: &[u8]) -> Result<(Seal, usize), NotSealed> {
    let unsigned = || NotSealed::Unreadable("this document carries no signature of Proof".into());
    let [head] = places(pdf, HEAD.as_bytes())[..] else { return Err(unsigned()) };
    let mut at = head;
    let mut seal = None;
    // Four lines, each well under a kilobyte.
    for _ in 0..4 {
        let end = pdf[at..].iter().take(1024).position(|byte| *byte == b'\n').ok_or_else(unsigned)?;
        let line = std::str::from_utf8(&pdf[at..at + end]).map_err(|_| NotSealed::Altered("the document"))?;
        if let Some(code) = line.strip_prefix(SEAL) {
            seal = Some(Seal::from_code(code)?);
        }
        if let Some(digits) = line.strip_prefix(SIGNATURE)
            && digits.len() == DIGITS
        {
            return Ok((seal.ok_or_else(unsigned)?, at + SIGNATURE.len()));
        }
        at += end + 1;
    }
    Err(NotSealed::Altered("the document"))
}

/// Whether a document is, to the byte, the one that the firm signed with this key.
///
/// # Errors
/// [`NotSealed`] with what is wrong.
pub fn verify_pdf(pdf: &[u8], key: &PublicKey) -> Result<Seal, NotSealed> {
    let (seal, at) = found(pdf)?;
    seal.verify(key)?;
    let mut zeroed = pdf.to_vec();
    let signature = String::from_utf8(pdf[at..at + DIGITS].to_vec()).map_err(|_| NotSealed::Altered("the document"))?;
    zeroed[at..at + DIGITS].fill(b'0');
    key.verify(&zeroed, &signature).map_err(|_| NotSealed::Altered("the document"))?;
    Ok(seal)
}

/// Most streams of a document that are looked into for its job.
const MOST_STREAMS: usize = 10_000;

/// What stands packed at the head of some bytes, at most so much of it.
fn unpacked(packed: &[u8], most: usize) -> Vec<u8> {
    let mut bytes = Vec::new();
    // What is cut short or spoilt ends there: whoever reads it says so.
    let _ = ZlibDecoder::new(packed).take(most as u64).read_to_end(&mut bytes);
    bytes
}

/// The job file that was attached to a document when it was issued.
///
/// # Errors
/// [`NotSealed::Unreadable`] when there is none.
pub fn job_in(pdf: &[u8]) -> Result<Vec<u8>, NotSealed> {
    const STREAM: &[u8] = b"stream\n";
    let head = job_file::head();
    let mut at = 0;
    for _ in 0..MOST_STREAMS {
        let Some(next) = pdf[at..].windows(STREAM.len()).position(|bytes| bytes == STREAM) else { break };
        at += next + STREAM.len();
        if unpacked(&pdf[at..], head.len()) == head.as_bytes() {
            return Ok(unpacked(&pdf[at..], job_file::MOST_BYTES + 1));
        }
    }
    Err(NotSealed::Unreadable("this document has no job file of Proof inside".into()))
}

/// The job file that some bytes are, or that the document they are has inside.
///
/// # Errors
/// As [`job_in`].
pub fn job_bytes(bytes: &[u8]) -> Result<Cow<'_, [u8]>, NotSealed> {
    if bytes.starts_with(b"%PDF") { job_in(bytes).map(Cow::Owned) } else { Ok(Cow::Borrowed(bytes)) }
}

/// The seal that a document or a job file says it has, whoever signed it: to know which key to ask.
pub fn claimed(bytes: &[u8]) -> Option<Seal> {
    if bytes.starts_with(b"%PDF") {
        return found(bytes).ok().map(|(seal, _)| seal);
    }
    serde_json::from_slice::<job_file::JobFile>(bytes).ok()?.seal
}

/// Whether a document or a job file is the one that was signed.
///
/// # Errors
/// [`NotSealed`] with what is wrong.
pub fn verify(bytes: &[u8], key: &PublicKey) -> Result<Seal, NotSealed> {
    if bytes.starts_with(b"%PDF") { verify_pdf(bytes, key) } else { job_file::verify(bytes, key) }
}

#[cfg(test)]
#[path = "sealed_tests.rs"]
mod tests;
