//! The firm's key while a signing session is open.

use proof_seal::{FirmKey, PublicKey};
use std::sync::{Arc, Mutex, PoisonError};

/// The key that is open.
#[derive(Clone, Default)]
pub(crate) struct OpenKey(Arc<Mutex<Option<FirmKey>>>);

impl OpenKey {
    /// The open key, if it is the one of this public half.
    pub(crate) fn key_for(&self, public: &PublicKey) -> Option<FirmKey> {
        let open = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        open.as_ref().filter(|key| key.public() == *public).cloned()
    }

    pub(crate) fn keep(&self, key: FirmKey) {
        *self.0.lock().unwrap_or_else(PoisonError::into_inner) = Some(key);
    }

    /// Closes it.
    pub(crate) fn close(&self) {
        *self.0.lock().unwrap_or_else(PoisonError::into_inner) = None;
    }
}
