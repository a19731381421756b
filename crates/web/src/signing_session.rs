//! The firm's signing key while it is open: by choice until the program stops, or until somebody closes it. It is
//! never written down open.

use crate::cpu_pool::on_cpu_pool;
use crate::error::WebError;
use crate::forms::Fields;
use crate::shared::Shared;
use actix_web::web::Data;
use jiff::Timestamp;
use proof_seal::{FirmKey, KeptKey, LONGEST_PASSPHRASE, LockedKey, NotOpened, SHORTEST_PASSPHRASE};

/// How the key stands, for a page that signs.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum SigningState {
    /// Without a passphrase: one is set with the next signing.
    Plain,
    /// Under its passphrase.
    Locked,
    /// Open until the program stops.
    Open,
    /// None of the firm's: the demonstration key, of a job made as demo or practice.
    Demonstration,
}

/// How a key stands.
pub(crate) fn signing_state(shared: &Shared, key: &KeptKey) -> SigningState {
    match key {
        KeptKey::Plain(_) => SigningState::Plain,
        KeptKey::Locked(locked) if shared.open_key.key_for(locked.public()).is_some() => SigningState::Open,
        KeptKey::Locked(_) => SigningState::Locked,
    }
}

/// Marks the field of what is wrong with a passphrase; what is no fault of it is ours.
pub(crate) fn marked(f: &mut Fields, field: &str, why: NotOpened) -> Result<(), WebError> {
    if let NotOpened::NoRandom(_) = why {
        return Err(WebError::Inside(why.to_string()));
    }
    f.wrong(field, format!("{}.", crate::words::sentence(&why.to_string())));
    Ok(())
}

/// A new passphrase, typed twice; `None`: what is wrong is marked.
pub(crate) fn new_passphrase(f: &mut Fields) -> Option<String> {
    let (typed, again) = (f.trimmed("passphrase").to_owned(), f.trimmed("passphrase_again").to_owned());
    if !(SHORTEST_PASSPHRASE..=LONGEST_PASSPHRASE).contains(&typed.chars().count()) {
        f.wrong("passphrase", format!("{}.", crate::words::sentence(&NotOpened::Length.to_string())));
        return None;
    }
    if typed != again {
        f.wrong("passphrase_again", "The two are not the same: type both again.");
        return None;
    }
    Some(typed)
}

/// Locks a key under a passphrase that was typed twice; `None`: what is wrong is marked.
pub(crate) async fn locked(f: &mut Fields, key: FirmKey) -> Result<Option<LockedKey>, WebError> {
    let Some(passphrase) = new_passphrase(f) else { return Ok(None) };
    match on_cpu_pool(move || Ok(LockedKey::new(&key, &passphrase))).await? {
        Ok(locked) => Ok(Some(locked)),
        Err(why) => marked(f, "passphrase", why).map(|()| None),
    }
}

/// The key in use, opened with what the form says: a plain one is put under its first passphrase. `None`: what is
/// wrong is marked.
pub(crate) async fn opened(
    shared: &Data<Shared>,
    f: &mut Fields,
    kept: KeptKey,
    by: &str,
) -> Result<Option<FirmKey>, WebError> {
    let keep = f.ticked("keep_open");
    let key = match kept {
        KeptKey::Plain(key) => {
            let Some(locked) = locked(f, key.clone()).await? else { return Ok(None) };
            let (store, by) = (shared.store.clone(), by.to_owned());
            on_cpu_pool(move || Ok(store.lock_key(&locked, &by, Timestamp::now())?)).await?;
            key
        }
        KeptKey::Locked(locked) => {
            if let Some(key) = shared.open_key.key_for(locked.public()) {
                return Ok(Some(key));
            }
            let typed = f.get("passphrase").to_owned();
            if typed.trim().is_empty() {
                f.wrong("passphrase", "Give the passphrase of the firm's key.");
                return Ok(None);
            }
            match on_cpu_pool(move || Ok(locked.open(&typed))).await? {
                Ok(key) => key,
                Err(why) => return marked(f, "passphrase", why).map(|()| None),
            }
        }
    };
    if keep {
        shared.open_key.keep(key.clone());
    }
    Ok(Some(key))
}
