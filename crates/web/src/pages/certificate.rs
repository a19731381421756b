//! The certificate: what blocks it, the draft, signing and issuing, what was issued.

use super::{blocking, framed, remembered};
use crate::Shared;
use crate::error::{Handled, WebError, go, page_with};
use crate::fields::Fields;
use crate::frame::Frame;
use crate::pages::review::{Group, grouped};
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use jiff::Timestamp;
use proof_core::certificate::{NotIssued, Role, Signature, digest, draw_up, next_inspection};
use proof_core::finding::{Severity, nothing_blocks, review};
use proof_core::installation::Person;
use proof_core::validity::LONGEST_LINE;
use proof_paper::certificate::{Copy, pdf as drawn_pdf};
use proof_store::{CertificateRow, Status};
use uuid::Uuid;

#[derive(Template)]
#[template(path = "certificate.html")]
struct CertificatePage {
    frame: Frame,
    job: Uuid,
    people: Vec<Person>,
    f: Fields,
    groups: Vec<Group>,
    remarks: usize,
    clear: bool,
    issued: Vec<(CertificateRow, String)>,
    roles: [Role; 3],
    problem: String,
    next_inspection: String,
}

async fn drawn(
    shared: Data<Shared>,
    id: Uuid,
    mut f: Fields,
    writer: String,
    problem: String,
    status: StatusCode,
) -> Handled {
    let (job, issued) = blocking(move || Ok((shared.store.job(id)?, shared.store.certificates(id)?))).await?;
    let job = &job.job;
    let findings = review(job.into());
    let clear = nothing_blocks(&findings);
    let problem =
        if problem.is_empty() || clear { problem } else { "Not issued: what stands below blocks it.".to_owned() };
    let remarks = findings.iter().filter(|finding| finding.severity == Severity::Odd).count();
    if f.get("name_design").is_empty() {
        let position = job
            .people
            .iter()
            .find(|person| person.name == writer)
            .map(|person| person.position.clone())
            .unwrap_or_default();
        for role in Role::ALL {
            f.put(format!("name_{}", role.key()), writer.clone());
            f.put(format!("position_{}", role.key()), position.clone());
        }
    }
    let next = next_inspection(job, Timestamp::now());
    let page = CertificatePage {
        frame: framed("Certificate", "certificate", job, &job.events),
        groups: grouped(id, findings),
        remarks,
        clear,
        issued: issued.into_iter().map(|row| (row.clone(), crate::frame::day(&row.issued_at))).collect(),
        roles: Role::ALL,
        problem,
        next_inspection: next.strftime("%-d %B %Y").to_string(),
        f,
        job: job.id,
        people: job.people.clone(),
    };
    page_with(status, &page)
}

pub async fn show(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest) -> Handled {
    let writer = remembered(&request, "writer");
    drawn(shared, path.into_inner(), Fields::default(), writer, String::new(), StatusCode::OK).await
}

pub async fn issue(shared: Data<Shared>, path: Path<Uuid>, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let now = Timestamp::now();
    let mut signatures = Vec::new();
    for role in Role::ALL {
        let name = f.line(&format!("name_{}", role.key()), LONGEST_LINE);
        let position = f.line(&format!("position_{}", role.key()), LONGEST_LINE);
        if name.is_empty() {
            f.wrong(&format!("name_{}", role.key()), "Type the name of the person who signs for this part.");
        }
        if position.is_empty() {
            f.wrong(&format!("position_{}", role.key()), "Give the position.");
        }
        signatures.push(Signature { role, name, position, at: now });
    }
    if !f.ticked("confirm") {
        f.wrong("confirm", "Tick that you have seen the draft.");
    }
    if f.any_wrong() {
        return drawn(
            shared,
            id,
            f,
            String::new(),
            "Not issued: see what is marked.".into(),
            StatusCode::UNPROCESSABLE_ENTITY,
        )
        .await;
    }
    let store = shared.store.clone();
    match blocking(move || Ok(store.issue_certificate(id, signatures, now)?)).await? {
        Ok(_) => Ok(go(&format!("/jobs/{id}/certificate#issued"))),
        Err(NotIssued::Unwritable(why)) => Err(WebError::Inside(why)),
        Err(why @ (NotIssued::Blocked(_) | NotIssued::Unsigned(_))) => {
            drawn(shared, id, f, String::new(), format!("Not issued: {why}."), StatusCode::CONFLICT).await
        }
    }
}

fn file(bytes: Vec<u8>, kind: &str, name: &str, inline: bool) -> HttpResponse {
    let how = if inline { "inline" } else { "attachment" };
    HttpResponse::Ok()
        .content_type(kind)
        .insert_header(("content-disposition", format!("{how}; filename=\"{name}\"")))
        .insert_header(("cache-control", "no-store"))
        .body(bytes)
}

pub async fn draft(shared: Data<Shared>, path: Path<Uuid>) -> Handled {
    let id = path.into_inner();
    let bytes = blocking(move || {
        let job = shared.store.job(id)?;
        let job = &job.job;
        let certificate = draw_up(job, &job.reference, None, Vec::new(), Timestamp::now());
        drawn_pdf(&certificate, Copy::Draft).map_err(|error| WebError::Inside(error.to_string()))
    })
    .await?;
    Ok(file(bytes, "application/pdf", "draft.pdf", true))
}

pub async fn pdf(shared: Data<Shared>, path: Path<(Uuid, String)>) -> Handled {
    let (id, number) = path.into_inner();
    let name = format!("{number}.pdf");
    let bytes = blocking(move || {
        let (bytes, certificate, _) = shared.store.certificate(&number)?;
        if certificate.job.id != id {
            return Err(WebError::NotFound("This job has no such certificate.".into()));
        }
        drawn_pdf(&certificate, Copy::Issued(&digest(&bytes))).map_err(|error| WebError::Inside(error.to_string()))
    })
    .await?;
    Ok(file(bytes, "application/pdf", &name, false))
}

pub async fn json(shared: Data<Shared>, path: Path<(Uuid, String)>) -> Handled {
    let (id, number) = path.into_inner();
    let name = format!("{number}.json");
    let bytes = blocking(move || {
        let (bytes, certificate, _) = shared.store.certificate(&number)?;
        if certificate.job.id != id {
            return Err(WebError::NotFound("This job has no such certificate.".into()));
        }
        Ok(bytes)
    })
    .await?;
    Ok(file(bytes, "application/json", &name, false))
}

/// What replaced a certificate, in words.
pub fn standing(status: &Status) -> String {
    match status {
        Status::Issued => "stands".to_owned(),
        Status::ReplacedBy(number) => format!("replaced by {number}"),
    }
}
