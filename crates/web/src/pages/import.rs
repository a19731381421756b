//! A job file in: whole or not at all.

use crate::cpu_pool::on_cpu_pool;
use crate::error::{Handled, WebError, go, page, page_with};
use crate::forms::Fields;
use crate::frame::Frame;
use crate::guard::piece;
use crate::shared::Shared;
use actix_multipart::{Multipart, MultipartError};
use actix_web::http::StatusCode;
use actix_web::web::Data;
use askama::Template;
use futures_util::StreamExt;
use jiff::Timestamp;
use proof_paper::{job_file, sealed};
use uuid::Uuid;

#[derive(Template)]
#[template(path = "import.html")]
struct ImportPage {
    frame: Frame,
    problem: String,
    /// What a file brought that no form would take, and the job that it made.
    messages: Vec<String>,
    /// What there is to say of the signature of a document.
    signed: String,
    job: Uuid,
    most_mib: usize,
}

fn drawn(problem: String) -> ImportPage {
    let most_mib = job_file::MOST_BYTES / 1024 / 1024;
    ImportPage {
        frame: Frame::outside("Import"),
        problem,
        messages: Vec::new(),
        signed: String::new(),
        job: Uuid::nil(),
        most_mib,
    }
}

pub(crate) async fn form() -> Handled {
    page(&drawn(String::new()))
}

/// Why there is no file.
#[derive(Debug, thiserror::Error)]
pub(crate) enum NoUpload {
    #[error("The upload could not be read: {0}.")]
    Unreadable(MultipartError),
    #[error("The upload was cut short: {0}.")]
    CutShort(MultipartError),
    #[error(transparent)]
    TooLarge(job_file::NotAJob),
    #[error("The upload came too slowly and was given up: send it again.")]
    Slow,
    #[error("No file was chosen.")]
    NotChosen,
}

/// Most bytes of a field beside a file.
const MOST_FIELD_BYTES: usize = 1000;

/// The file of an upload.
pub(crate) async fn uploaded(parts: Multipart) -> Result<Vec<u8>, NoUpload> {
    uploaded_with(parts, &mut Fields::default()).await
}

/// The file of an upload, and the fields that stand before it in its form.
pub(crate) async fn uploaded_with(mut parts: Multipart, f: &mut Fields) -> Result<Vec<u8>, NoUpload> {
    while let Some(part) = piece(parts.next()).await.ok_or(NoUpload::Slow)? {
        let mut part = part.map_err(NoUpload::Unreadable)?;
        if part.name() != Some("file") {
            let name = part.name().unwrap_or_default().to_owned();
            let mut text = Vec::new();
            while let Some(chunk) = piece(part.next()).await.ok_or(NoUpload::Slow)? {
                let room = MOST_FIELD_BYTES.saturating_sub(text.len());
                let chunk = chunk.map_err(NoUpload::CutShort)?;
                text.extend_from_slice(&chunk[..chunk.len().min(room)]);
            }
            f.put(name, String::from_utf8_lossy(&text).into_owned());
            continue;
        }
        let mut bytes = Vec::new();
        while let Some(chunk) = piece(part.next()).await.ok_or(NoUpload::Slow)? {
            bytes.extend_from_slice(&chunk.map_err(NoUpload::CutShort)?);
            if bytes.len() > job_file::MOST_BYTES {
                return Err(NoUpload::TooLarge(job_file::NotAJob::TooLarge { given: bytes.len() }));
            }
        }
        if bytes.is_empty() {
            return Err(NoUpload::NotChosen);
        }
        return Ok(bytes);
    }
    Err(NoUpload::NotChosen)
}

pub(crate) async fn receive(shared: Data<Shared>, parts: Multipart) -> Handled {
    let again = |problem: String| page_with(StatusCode::UNPROCESSABLE_ENTITY, &drawn(problem));
    let bytes = match uploaded(parts).await {
        Ok(bytes) => bytes,
        Err(none) => return again(none.to_string()),
    };
    let done = on_cpu_pool(move || {
        let signed = whose(&shared, &bytes)?;
        let file = sealed::job_bytes(&bytes).map_err(|error| WebError::Bad(error.to_string()))?;
        let job_file::Packed { job, documents } =
            job_file::read(&file).map_err(|error| WebError::Bad(error.to_string()))?;
        shared.store.import_job(&job, &documents, Timestamp::now())?;
        Ok((job.id, signed, job_file::odd_texts(&job)))
    })
    .await;
    match done {
        Ok((id, signed, told)) if told.is_empty() && signed.is_empty() => Ok(go(&format!("/jobs/{id}"))),
        Ok((job, signed, told)) => page(&ImportPage { messages: told, signed, job, ..drawn(String::new()) }),
        Err(WebError::Bad(problem) | WebError::Clash(problem)) => again(problem),
        Err(other) => Err(other),
    }
}

/// What there is to say of the signature of a document; nothing where it is the firm's own and right, or where a
/// plain job file came.
///
/// # Errors
/// When a document of the firm's was altered.
fn whose(shared: &Data<Shared>, bytes: &[u8]) -> Result<String, WebError> {
    let Some(claimed) = sealed::claimed(bytes).filter(|_| bytes.starts_with(b"%PDF")) else { return Ok(String::new()) };
    let Some(key) = shared.store.public_key(&claimed.statement.key)? else {
        return Ok(format!(
            "The document is signed with the key {}, which is none of this firm's: whether it was altered was not checked.",
            claimed.statement.key
        ));
    };
    let altered = |why| WebError::Bad(format!("Not imported: {why}."));
    sealed::verify(bytes, &key).map_err(altered)?;
    Ok(String::new())
}
