//! The firm's signing key: made, exported, restored from a backup, replaced with a record.

use crate::cpu_pool::on_cpu_pool;
use crate::error::{Handled, WebError, go, page_with};
use crate::forms::Fields;
use crate::frame::{Frame, day};
use crate::request::{blocking, once, remembered, who};
use crate::shared::Shared;
use crate::signing_session::{self, SigningState, marked, signing_state};
use actix_web::http::StatusCode;
use actix_web::web::{Data, Query};
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use jiff::Timestamp;
use proof_job::installation::validity::LONGEST_LINE;
use proof_seal::{FirmKey, KeptKey, LockedKey, NotOpened, is_locked};
use proof_store::KeyEvent;
use serde::Deserialize;
use uuid::Uuid;

#[derive(Template)]
#[template(path = "keys.html")]
struct KeysPage {
    frame: Frame,
    fingerprint: Option<String>,
    backed_up: bool,
    signing: Option<SigningState>,
    /// Copies of the database from which a key can be read without a passphrase.
    copies: Vec<String>,
    record: Vec<(KeyEvent, String)>,
    /// The job whose certificate waits for it.
    then: Option<Uuid>,
    f: Fields,
}

/// Where the page is, with the job whose certificate waits for the key.
fn here(f: &Fields) -> String {
    let then = f.get("then").parse::<Uuid>().ok();
    then.map_or_else(|| "/firm/key".to_owned(), |job| format!("/firm/key?then={job}"))
}

#[derive(Deserialize, Default)]
pub(crate) struct Then {
    then: Option<Uuid>,
}

async fn drawn(shared: Data<Shared>, f: Fields, status: StatusCode) -> Handled {
    let kept = shared.clone();
    let (key, backed_up, record, copies) = blocking(move || {
        let store = &kept.store;
        Ok((store.firm_key()?, store.key_backed_up()?, store.key_record()?, store.plain_copies()?))
    })
    .await?;
    let page = KeysPage {
        frame: Frame::outside("Signing key"),
        signing: key.as_ref().map(|key| signing_state(&shared, key)),
        copies: copies.iter().map(ToString::to_string).collect(),
        fingerprint: key.map(|key| key.public().fingerprint()),
        backed_up,
        then: f.get("then").parse().ok(),
        record: record.into_iter().map(|one| (one.clone(), day(&one.at))).collect(),
        f,
    };
    page_with(status, &page)
}

pub(crate) async fn show(shared: Data<Shared>, query: Query<Then>, request: HttpRequest) -> Handled {
    let mut f = Fields::default();
    f.put("then", query.into_inner().then.map(|job| job.to_string()).unwrap_or_default());
    f.put("by", remembered(&request, "writer"));
    drawn(shared, f, StatusCode::OK).await
}

/// Random bytes of the system.
pub(crate) fn seed() -> Result<[u8; 32], WebError> {
    let mut seed = [0; 32];
    getrandom::fill(&mut seed).map_err(|error| WebError::Inside(error.to_string()))?;
    Ok(seed)
}

/// The copy that a form brings back, as it is to be kept; `None`: what is wrong is marked.
async fn restored(f: &mut Fields) -> Result<Option<KeptKey>, WebError> {
    let backup = f.get("backup").trim().to_owned();
    let typed = f.trimmed("passphrase").to_owned();
    if is_locked(&backup) {
        return match on_cpu_pool(move || Ok(LockedKey::from_pem(&backup, &typed))).await? {
            Ok((locked, _)) => Ok(Some(KeptKey::Locked(locked))),
            Err(why @ NotOpened::Unusual) => marked(f, "backup", why).map(|()| None),
            Err(why) => marked(f, "passphrase", why).map(|()| None),
        };
    }
    match FirmKey::from_pem(&backup) {
        // An old copy stays as it is until its owner signs with it.
        Ok(key) if typed.is_empty() => Ok(Some(KeptKey::Plain(key))),
        Ok(key) => Ok(signing_session::locked(f, key).await?.map(KeptKey::Locked)),
        Err(error) => {
            f.wrong(
                "backup",
                format!("{error}. Paste the whole file of the backup, from its BEGIN line to its END line."),
            );
            Ok(None)
        }
    }
}

/// Makes a key, or takes one back from its backup; the one before it is replaced, with the reason.
pub(crate) async fn put(shared: Data<Shared>, request: HttpRequest, mut f: Fields) -> Handled {
    let by = who(&request, &f)?;
    let reason = f.line("reason", LONGEST_LINE);
    let (key, what) = if f.is("what", "restore") {
        (restored(&mut f).await?, "restored")
    } else {
        (signing_session::locked(&mut f, FirmKey::from_seed(&seed()?)).await?.map(KeptKey::Locked), "made")
    };
    let (Some(key), false) = (key, f.any_wrong()) else {
        return drawn(shared, f, StatusCode::UNPROCESSABLE_ENTITY).await;
    };
    match once(&shared, &f, move |store| Ok(store.use_key(&key, what, &by, &reason, Timestamp::now())?)).await {
        Ok(_) => {
            shared.open_key.close();
            Ok(go(&here(&f)))
        }
        Err(WebError::Clash(problem)) => {
            f.wrong("reason", format!("{problem}."));
            drawn(shared, f, StatusCode::CONFLICT).await
        }
        Err(other) => Err(other),
    }
}

/// Puts the key in use under its first passphrase, or under another.
pub(crate) async fn passphrase(shared: Data<Shared>, request: HttpRequest, mut f: Fields) -> Handled {
    let by = who(&request, &f)?;
    let store = shared.store.clone();
    let kept = blocking(move || Ok(store.firm_key()?)).await?;
    let kept = kept.ok_or_else(|| WebError::NotFound("The firm has no signing key yet.".into()))?;
    let key = match kept {
        KeptKey::Plain(key) => Some(key),
        KeptKey::Locked(locked) => {
            let before = f.get("passphrase_before").to_owned();
            match on_cpu_pool(move || Ok(locked.open(&before))).await? {
                Ok(key) => Some(key),
                Err(why) => marked(&mut f, "passphrase_before", why).map(|()| None)?,
            }
        }
    };
    let locked = match key {
        Some(key) => signing_session::locked(&mut f, key).await?,
        None => None,
    };
    let Some(locked) = locked else { return drawn(shared, f, StatusCode::UNPROCESSABLE_ENTITY).await };
    match once(&shared, &f, move |store| Ok(store.lock_key(&locked, &by, Timestamp::now())?)).await {
        Ok(_) => {
            shared.open_key.close();
            Ok(go(&here(&f)))
        }
        Err(WebError::Clash(problem)) => {
            f.wrong("passphrase", format!("{problem}."));
            drawn(shared, f, StatusCode::CONFLICT).await
        }
        Err(other) => Err(other),
    }
}

/// Closes a key that was kept open.
pub(crate) async fn close(shared: Data<Shared>) -> Handled {
    shared.open_key.close();
    Ok(go("/firm/key"))
}

fn pem(text: String, name: &str) -> HttpResponse {
    HttpResponse::Ok()
        .content_type("application/x-pem-file")
        .insert_header(("content-disposition", format!("attachment; filename=\"{name}\"")))
        .insert_header(("cache-control", "no-store"))
        .body(text)
}

/// The private key, to be put away; it goes on record.
pub(crate) async fn export(shared: Data<Shared>, request: HttpRequest, f: Fields) -> Handled {
    let by = who(&request, &f)?;
    let key = blocking(move || Ok(shared.store.key_exported(&by, Timestamp::now())?)).await?;
    Ok(pem(key.pem().map_err(|error| WebError::Inside(error.to_string()))?, "FIRM.key"))
}

/// The public key, for whoever wants to check a certificate.
pub(crate) async fn public(shared: Data<Shared>) -> Handled {
    let key = blocking(move || Ok(shared.store.firm_key()?)).await?;
    let key = key.ok_or_else(|| WebError::NotFound("The firm has no signing key yet.".into()))?;
    Ok(pem(key.public().to_pem().map_err(|error| WebError::Inside(error.to_string()))?, "FIRM.pub"))
}
