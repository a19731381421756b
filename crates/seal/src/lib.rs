//! The firm's seal: an Ed25519 key, the statement it signs about an issued certificate, and
//! whether a statement, a job file or a document is the one that was signed.
//!
//! A statement is a few lines of plain text, so that it can be checked with any tool that knows
//! Ed25519 (RFC 8032) and SHA-256; keys are PKCS #8 and SubjectPublicKeyInfo in PEM (RFC 8410).

#![deny(missing_docs)]

mod frozen;
mod locked;

pub use frozen::{Issued, canonical_job, digest};
pub use locked::{KeptKey, LONGEST_PASSPHRASE, LockedKey, NotOpened, SHORTEST_PASSPHRASE, is_locked};

use data_encoding::{Encoding, HEXLOWER, Specification};
use ed25519_dalek::pkcs8::spki::der::pem::LineEnding;
use ed25519_dalek::pkcs8::{DecodePrivateKey, DecodePublicKey, EncodePrivateKey, EncodePublicKey};
use ed25519_dalek::{Signature, Signer, SigningKey, Verifier, VerifyingKey};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};

/// First line of every statement.
pub const STATEMENT: &str = "proof statement 1";

/// First word of the line of a square code; of one that is worth nothing.
const CODE: &str = "PROOF1";
const CODE_OF_DEMONSTRATION: &str = "PROOF1-DEMONSTRATION";

/// Letters of the short code: no 0, 1, I or O, which are mistaken on paper.
const SHORT: &str = "23456789ABCDEFGHJKLMNPQRSTUVWXYZ";

/// What is wrong with a key or a seal.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NotSealed {
    /// No key.
    #[error("this is no Ed25519 key in PEM (-----BEGIN …-----)")]
    NoKey,
    /// A private key whose passphrase nobody asks for here.
    #[error("this is the private key, under its passphrase: the public one is wanted, FIRM.pub")]
    Locked,
    /// Signed by another key.
    #[error("the signature is not of this key ({0}): it is another firm's, or something was altered")]
    NotOfThisKey(String),
    /// The demonstration key over what is said to be work, or another key over a demonstration.
    #[error("the demonstration key signs demonstrations and nothing else: this says otherwise")]
    Demonstration,
    /// It says another digest.
    #[error("{0} was altered: its digest is not the one that was signed")]
    Altered(&'static str),
    /// It cannot be read.
    #[error("{0}")]
    Unreadable(String),
}

/// The firm's signing key.
#[derive(Clone)]
pub struct FirmKey(SigningKey);

/// The firm's public key.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PublicKey(VerifyingKey);

/// What the demonstration key grows from: published on purpose.
const DEMONSTRATION: &[u8] =
    b"The demonstration key of Proof: its secret is published, what it signs is worth nothing.";

impl FirmKey {
    /// The key that seals jobs made as demo or practice, the same everywhere: anybody can sign with it, and no work is
    /// ever signed with it.
    pub fn demonstration() -> Self {
        Self::from_seed(&Sha256::digest(DEMONSTRATION).into())
    }

    /// The key that grows from 32 random bytes.
    pub fn from_seed(seed: &[u8; 32]) -> Self {
        Self(SigningKey::from_bytes(seed))
    }

    /// Reads a private key.
    ///
    /// # Errors
    /// [`NotSealed::NoKey`].
    pub fn from_pem(pem: &str) -> Result<Self, NotSealed> {
        SigningKey::from_pkcs8_pem(pem.trim()).map(Self).map_err(|_| NotSealed::NoKey)
    }

    /// Writes the private key down.
    ///
    /// # Errors
    /// [`NotSealed::NoKey`] when the library refuses.
    pub fn to_pem(&self) -> Result<String, NotSealed> {
        self.0.to_pkcs8_pem(LineEnding::LF).map(|pem| pem.to_string()).map_err(|_| NotSealed::NoKey)
    }

    /// Its public half.
    pub fn public(&self) -> PublicKey {
        PublicKey(self.0.verifying_key())
    }

    /// Signs bytes: 64 bytes in hexadecimal.
    pub fn sign(&self, bytes: &[u8]) -> String {
        HEXLOWER.encode(&self.0.sign(bytes).to_bytes())
    }
}

impl std::fmt::Debug for FirmKey {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "FirmKey({})", self.public().fingerprint())
    }
}

impl PublicKey {
    /// Reads a public key; the public half of a private one will do.
    ///
    /// # Errors
    /// [`NotSealed::NoKey`], [`NotSealed::Locked`].
    pub fn from_pem(pem: &str) -> Result<Self, NotSealed> {
        if is_locked(pem) {
            return Err(NotSealed::Locked);
        }
        VerifyingKey::from_public_key_pem(pem.trim())
            .map(Self)
            .or_else(|_| FirmKey::from_pem(pem).map(|key| key.public()))
    }

    /// Writes it down.
    ///
    /// # Errors
    /// [`NotSealed::NoKey`] when the library refuses.
    pub fn to_pem(&self) -> Result<String, NotSealed> {
        self.0.to_public_key_pem(LineEnding::LF).map_err(|_| NotSealed::NoKey)
    }

    /// Whether it is the demonstration key, whose secret is published.
    pub fn is_demonstration(&self) -> bool {
        *self == FirmKey::demonstration().public()
    }

    /// Its 32 bytes, as RFC 8032 has them.
    pub fn bytes(&self) -> &[u8; 32] {
        self.0.as_bytes()
    }

    /// What is printed so that a person can compare: the first 16 bytes of its SHA-256, in fours.
    pub fn fingerprint(&self) -> String {
        let whole = digest(self.0.as_bytes());
        (0..8).map(|four| &whole[four * 4..four * 4 + 4]).collect::<Vec<_>>().join(" ")
    }

    /// Whether a signature over bytes is of this key.
    ///
    /// # Errors
    /// [`NotSealed`] with what is wrong.
    pub fn verify(&self, bytes: &[u8], signature: &str) -> Result<(), NotSealed> {
        let raw = HEXLOWER
            .decode(signature.as_bytes())
            .ok()
            .and_then(|raw| <[u8; 64]>::try_from(raw).ok())
            .ok_or_else(|| NotSealed::Unreadable("the signature is not 128 hexadecimal digits".into()))?;
        self.0.verify(bytes, &Signature::from_bytes(&raw)).map_err(|_| NotSealed::NotOfThisKey(self.fingerprint()))
    }
}

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
