//! The firm's seal: an Ed25519 key, the statement it signs about an issued certificate, and
//! whether a statement, a job file or a document is the one that was signed.
//!
//! A statement is a few lines of plain text, so that it can be checked with any tool that knows
//! Ed25519 (RFC 8032) and SHA-256; keys are PKCS #8 and SubjectPublicKeyInfo in PEM (RFC 8410).

#![deny(missing_docs)]

mod frozen;
mod key;
mod locked;

pub use frozen::{Issued, canonical_job, digest};
pub use key::{FirmKey, NotSealed, PublicKey, is_locked};
pub use locked::{KeptKey, LONGEST_PASSPHRASE, LockedKey, NotOpened, SHORTEST_PASSPHRASE};

use data_encoding::{Encoding, HEXLOWER, Specification};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// First line of every statement.
pub const STATEMENT: &str = "proof statement 1";

/// First word of the line of a square code; of one that is worth nothing.
const CODE_OF_DEMONSTRATION: &str = "PROOF1-DEMONSTRATION";
const CODE: &str = "PROOF1";

/// Letters of the short code: no 0, 1, I or O, which are mistaken on paper.
const SHORT: &str = "23456789ABCDEFGHJKLMNPQRSTUVWXYZ";

/// What the firm signs about a certificate.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Statement {
    /// Number of the certificate.
    pub number: String,
    /// When it was issued.
    pub issued_at: Timestamp,
    /// The certificate that it replaces; empty: none.
    #[serde(default)]
    pub replaces: String,
    /// SHA-256 of the certificate's canonical bytes.
    pub certificate_sha256: String,
    /// SHA-256 of the job in it, canonical.
    pub job_sha256: String,
    /// Fingerprint of the key.
    pub key: String,
    /// It is of a job made as demo or practice: signed with the demonstration key, worth nothing.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub demonstration: bool,
}

impl Statement {
    /// The text that is signed.
    pub fn text(&self) -> String {
        let worth = if self.demonstration { "demonstration, worth nothing as a record\n" } else { "" };
        format!(
            "{STATEMENT}\nnumber {}\nissued {}\nreplaces {}\ncertificate {}\njob {}\nkey {}\n{worth}",
            self.number, self.issued_at, self.replaces, self.certificate_sha256, self.job_sha256, self.key
        )
    }

    /// Ten letters by which a person can look the certificate up.
    pub fn short_code(&self) -> String {
        short_code(&self.certificate_sha256)
    }
}

/// Base 32 in the letters of the short code.
fn short_letters() -> Option<Encoding> {
    let mut specification = Specification::new();
    specification.symbols.push_str(SHORT);
    specification.encoding().ok()
}

/// Ten letters of a digest, in two fives.
pub fn short_code(sha256: &str) -> String {
    let mut bytes = HEXLOWER.decode(sha256.as_bytes()).unwrap_or_default();
    bytes.resize(bytes.len().max(10), 0);
    let Some(letters) = short_letters().map(|letters| letters.encode(bytes.get(..10).unwrap_or_default())) else {
        return String::new();
    };
    format!("{}-{}", &letters[..5], &letters[5..10])
}

/// A statement with its signature.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Seal {
    /// What is signed.
    pub statement: Statement,
    /// Ed25519 over its text, hexadecimal.
    pub signature: String,
}

impl Seal {
    /// Signs a statement.
    pub fn new(statement: Statement, key: &FirmKey) -> Self {
        let signature = key.sign(statement.text().as_bytes());
        Self { statement, signature }
    }

    /// Whether the statement was signed by this key.
    ///
    /// # Errors
    /// [`NotSealed`] with what is wrong.
    pub fn verify(&self, key: &PublicKey) -> Result<(), NotSealed> {
        if self.statement.demonstration != key.is_demonstration() {
            return Err(NotSealed::Demonstration);
        }
        key.verify(self.statement.text().as_bytes(), &self.signature)
    }

    /// One line for a QR code: everything that a paper copy needs to be checked without a network.
    pub fn code(&self) -> String {
        let s = &self.statement;
        [
            if s.demonstration { CODE_OF_DEMONSTRATION } else { CODE },
            &s.number,
            &s.issued_at.to_string(),
            &s.replaces,
            &s.certificate_sha256,
            &s.job_sha256,
            &s.key.replace(' ', ""),
            &self.signature,
        ]
        .join("|")
    }

    /// Reads that line.
    ///
    /// # Errors
    /// [`NotSealed::Unreadable`].
    pub fn from_code(code: &str) -> Result<Self, NotSealed> {
        let unreadable = || NotSealed::Unreadable("this is not the text of a certificate's code (PROOF1|…)".into());
        let parts: Vec<&str> = code.trim().split('|').collect();
        let [head @ (CODE | CODE_OF_DEMONSTRATION), number, issued_at, replaces, certificate, job, key, signature] =
            parts[..]
        else {
            return Err(unreadable());
        };
        if !key.is_ascii() || key.len() != 32 {
            return Err(unreadable());
        }
        Ok(Self {
            statement: Statement {
                number: number.to_owned(),
                issued_at: issued_at.parse().map_err(|_| unreadable())?,
                replaces: replaces.to_owned(),
                certificate_sha256: certificate.to_owned(),
                job_sha256: job.to_owned(),
                key: (0..8).map(|four| &key[four * 4..four * 4 + 4]).collect::<Vec<_>>().join(" "),
                demonstration: head == CODE_OF_DEMONSTRATION,
            },
            signature: signature.to_owned(),
        })
    }
}
