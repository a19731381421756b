//! The firm's signing key: made, exported, restored from a backup, replaced with a record.

use crate::Shared;
use crate::error::{Handled, WebError, go, page_with};
use crate::forms::Fields;
use crate::frame::{Frame, day};
use crate::request::{blocking, once, remembered, who};
use actix_web::http::StatusCode;
use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use jiff::Timestamp;
use proof_core::installation::validity::LONGEST_LINE;
use proof_seal::FirmKey;
use proof_store::KeyEvent;

#[derive(Template)]
#[template(path = "keys.html")]
struct KeysPage {
    frame: Frame,
    fingerprint: Option<String>,
    put_away: bool,
    record: Vec<(KeyEvent, String)>,
    f: Fields,
}

async fn drawn(shared: Data<Shared>, f: Fields, status: StatusCode) -> Handled {
    let (key, put_away, record) = blocking(move || {
        let store = &shared.store;
        Ok((store.firm_key()?, store.key_put_away()?, store.key_record()?))
    })
    .await?;
    let page = KeysPage {
        frame: Frame::outside("Signing key"),
        fingerprint: key.map(|key| key.public().fingerprint()),
        put_away,
        record: record.into_iter().map(|one| (one.clone(), day(&one.at))).collect(),
        f,
    };
    page_with(status, &page)
}

pub(crate) async fn show(shared: Data<Shared>, request: HttpRequest) -> Handled {
    let mut f = Fields::default();
    f.put("by", remembered(&request, "writer"));
    drawn(shared, f, StatusCode::OK).await
}

/// Random bytes of the system.
pub(crate) fn seed() -> Result<[u8; 32], WebError> {
    let mut seed = [0; 32];
    getrandom::fill(&mut seed).map_err(|error| WebError::Inside(error.to_string()))?;
    Ok(seed)
}

/// Makes a key, or takes one back from its backup; the one before it is replaced, with the reason.
pub(crate) async fn put(shared: Data<Shared>, request: HttpRequest, mut f: Fields) -> Handled {
    let by = who(&request, &f)?;
    let reason = f.line("reason", LONGEST_LINE);
    let backup = f.get("backup").trim().to_owned();
    let (key, what) = if f.is("what", "restore") {
        match FirmKey::from_pem(&backup) {
            Ok(key) => (key, "restored"),
            Err(error) => {
                f.wrong(
                    "backup",
                    format!("{error}. Paste the whole file of the backup, from BEGIN PRIVATE KEY to END."),
                );
                return drawn(shared, f, StatusCode::UNPROCESSABLE_ENTITY).await;
            }
        }
    } else {
        (FirmKey::from_seed(&seed()?), "made")
    };
    match once(&shared, &f, move |store| Ok(store.use_key(&key, what, &by, &reason, Timestamp::now())?)).await {
        Ok(_) => Ok(go("/firm/key")),
        Err(WebError::Clash(problem)) => {
            f.wrong("reason", format!("{problem}."));
            drawn(shared, f, StatusCode::CONFLICT).await
        }
        Err(other) => Err(other),
    }
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
    Ok(pem(key.to_pem().map_err(|error| WebError::Inside(error.to_string()))?, "FIRM.key"))
}

/// The public key, for whoever wants to check a certificate.
pub(crate) async fn public(shared: Data<Shared>) -> Handled {
    let key = blocking(move || Ok(shared.store.firm_key()?)).await?;
    let key = key.ok_or_else(|| WebError::NotFound("The firm has no signing key yet.".into()))?;
    Ok(pem(key.public().to_pem().map_err(|error| WebError::Inside(error.to_string()))?, "FIRM.pub"))
}
