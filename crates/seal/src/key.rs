//! The firm's key, private and public.

use crate::frozen::digest;
use data_encoding::HEXLOWER;
use ed25519_dalek::pkcs8::{DecodePrivateKey, DecodePublicKey, EncodePublicKey};
use ed25519_dalek::{Signature, Signer, SigningKey, Verifier, VerifyingKey};
use pkcs8::EncodePrivateKey;
use pkcs8::der::pem::LineEnding;
use sha2::{Digest, Sha256};

pub(crate) const LABEL: &str = "ENCRYPTED PRIVATE KEY";

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
pub struct FirmKey(pub(crate) SigningKey);

/// The firm's public key.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PublicKey(pub(crate) VerifyingKey);

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

/// Whether some text is of a key under a passphrase.
pub fn is_locked(pem: &str) -> bool {
    pem.contains(LABEL)
}
