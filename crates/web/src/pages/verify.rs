//! Is this document, or this job file, the one that was issued? And does it still stand?

use super::import::uploaded;
use crate::cpu_pool::on_cpu_pool;
use crate::error::{Handled, page_with};
use crate::frame::{Frame, day};
use crate::pages::certificate::standing;
use crate::request::blocking;
use crate::shared::Shared;
use actix_multipart::Multipart;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Query};
use askama::Template;
use proof_paper::sealed;
use proof_seal::{Seal, short_code};
use proof_store::CertificateRow;
use serde::Deserialize;

/// What is known of a certificate.
pub(crate) struct Found {
    pub row: CertificateRow,
    pub day: String,
    pub code: String,
    pub stands: String,
}

impl From<CertificateRow> for Found {
    fn from(row: CertificateRow) -> Self {
        Self { day: day(&row.issued_at), code: short_code(&row.digest), stands: standing(&row.status), row }
    }
}

#[derive(Template)]
#[template(path = "verify.html")]
struct VerifyPage {
    frame: Frame,
    asked: String,
    found: Option<Found>,
    /// The file is the one that was issued.
    same: bool,
    problem: String,
}

impl Default for VerifyPage {
    fn default() -> Self {
        let (frame, asked, problem) = (Frame::outside("Verify"), String::new(), String::new());
        Self { frame, asked, found: None, same: false, problem }
    }
}

impl VerifyPage {
    fn status(&self) -> StatusCode {
        if self.problem.is_empty() { StatusCode::OK } else { StatusCode::UNPROCESSABLE_ENTITY }
    }
}

/// What is looked up.
#[derive(Deserialize, Default)]
pub(crate) struct VerifyQuery {
    code: Option<String>,
}

fn drawn(page: VerifyPage) -> Handled {
    let status = page.status();
    page_with(status, &page)
}

/// Looks a number, a short code or the text of a square code up.
pub(crate) async fn show(shared: Data<Shared>, query: Query<VerifyQuery>) -> Handled {
    let asked = query.into_inner().code.unwrap_or_default().trim().chars().take(1000).collect::<String>();
    if asked.is_empty() {
        return drawn(VerifyPage::default());
    }
    let wanted = asked.clone();
    let (found, same, problem) = blocking(move || {
        let Ok(seal) = Seal::from_code(&wanted) else {
            let found = shared.store.look_up(&wanted)?;
            let problem =
                if found.is_none() { "No certificate of this firm has that number or short code." } else { "" };
            return Ok((found, false, problem.to_owned()));
        };
        let found = shared.store.look_up(&seal.statement.number)?;
        let (same, problem) = judged(&shared, &seal, found.as_ref(), |key| seal.verify(key))?;
        Ok((found, same, problem))
    })
    .await?;
    drawn(VerifyPage { asked, found: found.map(Found::from), same, problem, ..VerifyPage::default() })
}

type Judged = (bool, String);

/// Whether what a file or code claims holds, by the firm's own key and its own record.
fn judged(
    shared: &Data<Shared>,
    claimed: &Seal,
    found: Option<&CertificateRow>,
    verify: impl FnOnce(&proof_seal::PublicKey) -> Result<(), proof_seal::NotSealed>,
) -> Result<Judged, crate::error::WebError> {
    let Some(key) = shared.store.public_key(&claimed.statement.key)? else {
        return Ok((
            false,
            format!("It says it was signed with key {}, which is no key of this firm.", claimed.statement.key),
        ));
    };
    if let Err(why) = verify(&key) {
        return Ok((false, format!("Not verified: {why}.")));
    }
    match found {
        Some(row) if row.digest == claimed.statement.certificate_sha256 => Ok((true, String::new())),
        Some(_) => Ok((false, "It is signed, but another certificate of that number is on record here.".to_owned())),
        None => Ok((false, "It is signed with this firm's key, but is not on record in this database.".to_owned())),
    }
}

/// Verifies a file.
pub(crate) async fn receive(shared: Data<Shared>, parts: Multipart) -> Handled {
    let bytes = match uploaded(parts).await {
        Ok(bytes) => bytes,
        Err(none) => return drawn(VerifyPage { problem: none.to_string(), ..VerifyPage::default() }),
    };
    let (found, same, problem) = on_cpu_pool(move || {
        let Some(claimed) = sealed::claimed(&bytes) else {
            let problem = "This is neither a certificate of Proof nor the job file that goes with one, or it was altered beyond reading.";
            return Ok((None, false, problem.to_owned()));
        };
        let found = shared.store.look_up(&claimed.statement.number)?;
        let (same, problem) =
            judged(&shared, &claimed, found.as_ref(), |key| sealed::verify(&bytes, key).map(|_| ()))?;
        Ok((found, same, problem))
    })
    .await?;
    drawn(VerifyPage { found: found.map(Found::from), same, problem, ..VerifyPage::default() })
}
