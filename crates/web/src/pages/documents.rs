//! Documents that go with a job: put in, looked at, taken out.

use super::framed;
use crate::error::{Handled, WebError, go, page_with};
use crate::forms::{Fields, by_key};
use crate::frame::{Frame, Section};
use crate::guard::piece;
use crate::request::{blocking, change, load, once};
use crate::shared::Shared;
use actix_multipart::{Multipart, MultipartError};
use actix_web::HttpResponse;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use futures_util::StreamExt;
use proof_job::installation::document::{MOST_DOCUMENT_BYTES, MOST_DOCUMENTS, MOST_DOCUMENTS_BYTES};
use proof_job::installation::validity::LONGEST_LINE;
use proof_job::installation::{Document, Documents, Installation, Media, Purpose};
use proof_job::job::Job;
use proof_job::site::Event;
use uuid::Uuid;

/// Most characters of a text field beside the file.
const LONGEST_FIELD: usize = 4000;

/// A document as it is listed.
struct DocumentRow {
    document: Document,
    size: String,
    /// The ways that rest on it.
    ways: String,
}

#[derive(Template)]
#[template(path = "documents.html")]
struct DocumentsPage {
    frame: Frame,
    job: Uuid,
    rows: Vec<DocumentRow>,
    f: Fields,
    problem: String,
    most_mib: usize,
    all_mib: usize,
}

fn kibibytes(bytes: u32) -> String {
    format!("{} KiB", bytes.div_ceil(1024))
}

fn ways_on(installation: &Installation, document: Uuid) -> String {
    let on = installation.circuits.iter().filter(|circuit| circuit.exception == Some(document));
    on.map(|circuit| circuit.way.as_str()).collect::<Vec<_>>().join(", ")
}

fn drawn(job: &Job, events: &[Event], f: Fields, problem: String, status: StatusCode) -> Handled {
    let installation = &job.installation;
    let rows = installation
        .documents
        .iter()
        .map(|document| DocumentRow {
            document: document.clone(),
            size: kibibytes(document.bytes),
            ways: ways_on(installation, document.id),
        })
        .collect();
    let frame = framed("Documents", Section::Particulars, job, events);
    let (most_mib, all_mib) = (MOST_DOCUMENT_BYTES / 1024 / 1024, MOST_DOCUMENTS_BYTES / 1024 / 1024);
    page_with(status, &DocumentsPage { frame, job: job.id, rows, f, problem, most_mib, all_mib })
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<Uuid>) -> Handled {
    let id = path.into_inner();
    let head = load(&shared, id).await?;
    drawn(&head.job, &head.job.events, Fields::default(), String::new(), StatusCode::OK)
}

/// The fields of an upload and its file, each no longer than is allowed.
async fn upload(mut parts: Multipart) -> Result<(Fields, Vec<u8>), (Fields, String)> {
    let (mut f, mut file) = (Fields::default(), Vec::new());
    let unreadable = |error: MultipartError| format!("The upload was cut short or could not be read: {error}.");
    let slow = "The upload came too slowly and was given up: send it again. Nothing was stored.";
    loop {
        let Some(next) = piece(parts.next()).await else { return Err((f, slow.to_owned())) };
        let Some(part) = next else { break };
        let mut part = match part {
            Ok(part) => part,
            Err(error) => return Err((f, unreadable(error))),
        };
        let name = part.name().unwrap_or_default().to_owned();
        let most = if name == "file" { MOST_DOCUMENT_BYTES } else { LONGEST_FIELD };
        let mut bytes = Vec::new();
        loop {
            let Some(next) = piece(part.next()).await else { return Err((f, slow.to_owned())) };
            let Some(chunk) = next else { break };
            match chunk {
                Ok(chunk) => bytes.extend_from_slice(&chunk),
                Err(error) => return Err((f, unreadable(error))),
            }
            if bytes.len() > most {
                let most = if name == "file" { "4 MiB in a document" } else { "4000 bytes in a field" };
                return Err((f, format!("Too large: at most {most}. Nothing was stored.")));
            }
        }
        if name == "file" {
            file = bytes;
        } else {
            f.put(name, String::from_utf8_lossy(&bytes).into_owned());
        }
    }
    Ok((f, file))
}

/// The document that a form describes, if a job can take it.
fn described(f: &mut Fields, bytes: &[u8], installation: &Installation) -> Result<Document, String> {
    let name = f.line("name", LONGEST_LINE);
    if name.is_empty() {
        f.wrong("name", "Say what it is called, as the certificate should print it.");
        return Err("Not stored: see what is marked.".to_owned());
    }
    if bytes.is_empty() {
        return Err("No file was chosen.".to_owned());
    }
    let media = Media::from_bytes(bytes).ok_or("It is no PDF, PNG or JPEG: only these are taken.")?;
    let sha256 = proof_seal::digest(bytes);
    if let Some(same) = installation.documents.iter().find(|document| document.sha256 == sha256) {
        return Err(format!("This file is there already, as “{}”.", same.name));
    }
    let stored: usize = installation.documents.iter().map(|document| document.bytes as usize).sum();
    if stored + bytes.len() > MOST_DOCUMENTS_BYTES {
        return Err(
            "Not stored: the documents of a job hold at most 8 MiB in all, so that its file imports again.".into()
        );
    }
    if installation.documents.len() >= MOST_DOCUMENTS {
        return Err(format!("Not stored: a job has at most {MOST_DOCUMENTS} documents."));
    }
    let purpose = by_key(&Purpose::ALL, f.get("purpose"), Purpose::key).unwrap_or_default();
    let bytes = u32::try_from(bytes.len()).unwrap_or(u32::MAX);
    Ok(Document { id: f.made_id("document"), name, purpose, media, sha256, bytes })
}

/// Why a document was not taken, with the form as it is given back.
type NotTaken = (Fields, String);

pub(crate) async fn add(shared: Data<Shared>, path: Path<Uuid>, parts: Multipart) -> Handled {
    let id = path.into_inner();
    let taken = match upload(parts).await {
        Ok((f, bytes)) => {
            let mut given = f.clone();
            once(&shared, &f, move |store| {
                let documents = Documents::from([(proof_seal::digest(&bytes), bytes.clone())]);
                let done = store.edit_with(id, None, &documents, |edit| {
                    let document = described(&mut given, &bytes, &edit.job.installation)?;
                    edit.job.installation.documents.push(document);
                    Ok(())
                })?;
                Ok(done.map_err(|why: String| (given, why)))
            })
            .await?
            .unwrap_or(Ok(()))
        }
        Err(refused) => Err(refused),
    };
    let Err((f, why)): Result<(), NotTaken> = taken else { return Ok(go(&format!("/jobs/{id}/documents"))) };
    let head = load(&shared, id).await?;
    drawn(&head.job, &head.job.events, f, why, StatusCode::UNPROCESSABLE_ENTITY)
}

fn unknown() -> WebError {
    WebError::NotFound("There is no such document in this job.".into())
}

/// The bytes, never shown within the page.
pub(crate) async fn file(shared: Data<Shared>, path: Path<(Uuid, Uuid)>) -> Handled {
    let (id, document) = path.into_inner();
    let (document, bytes) = blocking(move || {
        let head = shared.store.job(id)?;
        let document = head.job.installation.document(document).cloned().ok_or_else(unknown)?;
        let bytes = shared.store.document(&document.sha256)?;
        Ok((document, bytes))
    })
    .await?;
    let plain: String = document.name.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    let disposition = format!("attachment; filename=\"{plain}.{}\"", document.media.extension());
    Ok(HttpResponse::Ok()
        .content_type(document.media.mime())
        .insert_header(("content-disposition", disposition))
        .insert_header(("x-content-type-options", "nosniff"))
        .body(bytes))
}

pub(crate) async fn remove(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, f: Fields) -> Handled {
    let (id, document) = path.into_inner();
    let done = change(&shared, &f, id, move |_, job| {
        let named = job.installation.document(document).ok_or_else(unknown)?.name.clone();
        let ways = ways_on(&job.installation, document);
        if !ways.is_empty() {
            let why = format!("Not taken out: way {ways} rests on “{named}”. Choose another there first.");
            return Err(WebError::Clash(why));
        }
        job.installation.documents.retain(|one| one.id != document);
        Ok(())
    });
    match done.await {
        Ok(_) => Ok(go(&format!("/jobs/{id}/documents"))),
        Err(WebError::Clash(why)) => {
            let head = load(&shared, id).await?;
            drawn(&head.job, &head.job.events, Fields::default(), why, StatusCode::CONFLICT)
        }
        Err(other) => Err(other),
    }
}
