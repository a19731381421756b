//! The certificate: what blocks it, the draft, signing and issuing, what was issued.

use super::framed;
use crate::cpu_pool::on_cpu_pool;
use crate::error::{Handled, WebError, go, page_with};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::pages::findings::{Group, grouped};
use crate::request::{blocking, load, once_heavily};
use crate::shared::Shared;
use crate::signing_session::{self, SigningState, signing_state};
use actix_web::HttpResponse;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use jiff::Timestamp;
use proof_job::installation::validity::LONGEST_LINE;
use proof_job::installation::{Nature, Person};
use proof_job::job::Job;
use proof_paper::certificate::{Copy, pdf as drawn_pdf};
use proof_paper::{calendar, sealed, table};
use proof_seal::FirmKey;
use proof_store::{CertificateQuery, CertificateRow, Papers, Refused, Status, Store};
use proof_work::certificate::{
    Application, Form, Role, SIGNATURE_HEIGHT, SIGNATURE_WIDTH, Signature, next_inspection, prepare, strokes,
};
use proof_work::review::{Finding, findings_of};
use uuid::Uuid;

const BLOCKED: &str = "Not issued: what is listed below blocks it.";

/// An issued certificate in the list.
pub(crate) struct IssuedRow {
    pub stored: CertificateRow,
    pub day: String,
    pub code: String,
    pub papers: bool,
}

#[derive(Template)]
#[template(path = "certificate.html")]
struct CertificatePage {
    frame: Frame,
    job: Uuid,
    people: Vec<Person>,
    f: Fields,
    groups: Vec<Group>,
    judged: usize,
    left_out: Vec<String>,
    clear: bool,
    issued: Vec<IssuedRow>,
    stands: Option<String>,
    roles: &'static [Role],
    problem: String,
    next_inspection: String,
    forms: Vec<(String, String)>,
    key: Option<String>,
    /// How the key stands.
    signing: SigningState,
    /// A copy of the key is put away.
    backed_up: bool,
    pad: (u16, u16),
}

/// The form that is asked for: `installation`, or the circuit of minor works.
fn form_of(text: &str) -> Form {
    text.parse().map_or(Form::Installation, |circuit| Form::MinorWorks { circuit })
}

/// The form that the nature of the work asks for.
fn usual_form(job: &Job) -> String {
    let touched = job.installation.circuits.iter().find(|circuit| !job.installation.out_of_scope(circuit));
    let circuit = touched.filter(|_| job.installation.is_minor());
    circuit.map(|circuit| circuit.id.to_string()).unwrap_or_default()
}

fn forms(job: &Job) -> Vec<(String, String)> {
    let mut forms = Vec::new();
    if !job.installation.is_minor() {
        forms.push(("installation".to_owned(), "Electrical installation certificate".to_owned()));
    }
    if job.installation.nature != Nature::New {
        let touched = job.installation.circuits.iter().filter(|circuit| !job.installation.out_of_scope(circuit));
        forms.extend(touched.map(|circuit| {
            (circuit.id.to_string(), format!("Minor works certificate: way {} {}", circuit.way, circuit.description))
        }));
    }
    forms
}

async fn drawn(shared: Data<Shared>, id: Uuid, f: Fields, problem: String, status: StatusCode) -> Handled {
    let kept = shared.clone();
    let (job, issued, papers, key, backed_up) = blocking(move || {
        let store = &kept.store;
        let issued = store.certificates(id)?;
        let mut papers = Vec::new();
        for row in &issued {
            papers.push(store.papers(&row.number)?.is_some());
        }
        Ok((store.job(id)?, issued, papers, store.firm_key()?, store.key_backed_up()?))
    })
    .await?;
    let job = &job.job;
    let form = form_of(f.get("form"));
    let findings: Vec<Finding> =
        findings_of(job).iter().filter(|finding| form.waits_for(job, finding)).cloned().collect();
    let clear = findings.iter().all(|finding| !finding.blocks());
    let problem = if problem.is_empty() || clear { problem } else { BLOCKED.to_owned() };
    let next = next_inspection(job, Timestamp::now());
    let stands = issued.iter().find(|row| row.status == Status::Issued).map(|row| row.number.clone());
    let page = CertificatePage {
        frame: framed("Certificate", Section::Certificate, job, &job.events),
        judged: findings.iter().filter(|finding| finding.judged.is_some()).count(),
        left_out: proof_work::certificate::left_out(job, form),
        groups: grouped(id, findings),
        clear,
        stands,
        issued: issued
            .into_iter()
            .zip(papers)
            .map(|(row, papers)| IssuedRow {
                day: crate::frame::day(&row.issued_at),
                code: proof_seal::short_code(&row.digest),
                stored: row,
                papers,
            })
            .collect(),
        roles: form.may_sign(),
        problem,
        next_inspection: next.strftime("%-d %B %Y").to_string(),
        forms: forms(job),
        signing: match &key {
            _ if !job.made_as.is_work() => SigningState::Demonstration,
            key => key.as_ref().map_or(SigningState::Locked, |key| signing_state(&shared, key)),
        },
        backed_up: backed_up || !job.made_as.is_work(),
        key: if job.made_as.is_work() {
            key.map(|key| key.public().fingerprint())
        } else {
            Some(FirmKey::demonstration().public().fingerprint())
        },
        pad: (SIGNATURE_WIDTH, SIGNATURE_HEIGHT),
        f,
        job: job.id,
        people: job.people.clone(),
    };
    page_with(status, &page)
}

/// Which form the page is asked for.
#[derive(serde::Deserialize, Default)]
pub(crate) struct Which {
    form: Option<String>,
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<Uuid>, query: Query<Which>) -> Handled {
    let mut f = Fields::default();
    let job = path.into_inner();
    // Minor works are asked for by their own form, unless another is.
    let form = match query.into_inner().form {
        Some(form) => form,
        None => usual_form(&load(&shared, job).await?.job),
    };
    f.put("form", form);
    drawn(shared, job, f, String::new(), StatusCode::OK).await
}

/// Puts one person into every signature that the form asks for and nobody is named in yet.
fn filled(f: &mut Fields, job: &Job, person: Uuid) {
    let Some(person) = job.people.iter().find(|one| one.id == person) else { return };
    for role in form_of(f.get("form")).roles() {
        let (name, position) = (format!("name_{}", role.key()), format!("position_{}", role.key()));
        if f.trimmed(&name).is_empty() {
            f.set(&name, &person.name);
            f.set(&position, &person.position);
        }
    }
}

/// The signatures of a form, with what is wrong with them. A position that is left empty is the one that the
/// firm knows of a person of that name.
fn signatures(f: &mut Fields, people: &[Person], now: Timestamp) -> Vec<Signature> {
    let mut signatures = Vec::new();
    let form = form_of(f.get("form"));
    for &role in form.may_sign() {
        let name = f.line(&format!("name_{}", role.key()), LONGEST_LINE);
        let mut position = f.line(&format!("position_{}", role.key()), LONGEST_LINE);
        if let (true, Some(person)) = (position.is_empty(), people.iter().find(|one| one.name == name)) {
            position.clone_from(&person.position);
        }
        let firm = f.line(&format!("firm_{}", role.key()), LONGEST_LINE);
        let field = format!("drawn_{}", role.key());
        let untouched = [&name, &position, &firm].iter().all(|text| text.is_empty())
            && strokes(f.get(&field)).is_ok_and(|drawn| drawn.is_empty());
        if untouched && role.is_optional() {
            continue;
        }
        if name.is_empty() {
            f.wrong(&format!("name_{}", role.key()), "Type the name of the person who signs for this part.");
        }
        if position.is_empty() {
            f.wrong(&format!("position_{}", role.key()), "Give the position.");
        }
        let drawn = match strokes(f.get(&field)) {
            Ok(drawn) => drawn,
            Err(problem) => {
                f.wrong(&format!("name_{}", role.key()), problem.to_string());
                Vec::new()
            }
        };
        signatures.push(Signature { role, name, position, firm, at: now, drawn });
    }
    signatures
}

/// The key that a job is sealed with: the firm's, opened; of one made as demo or practice, the demonstration key.
async fn key_for(
    shared: &Data<Shared>,
    job: &Job,
    f: &mut Fields,
    by: &str,
) -> Result<Result<FirmKey, (String, StatusCode)>, WebError> {
    if !job.made_as.is_work() {
        return Ok(Ok(FirmKey::demonstration()));
    }
    let store = shared.store.clone();
    let Some(kept) = blocking(move || Ok(store.firm_key()?)).await? else {
        return Ok(Err((format!("Not issued: {}.", Refused::NoKey), StatusCode::CONFLICT)));
    };
    let opened = signing_session::opened(shared, f, kept, by).await?;
    Ok(opened.ok_or_else(|| ("Not issued: see what is marked.".to_owned(), StatusCode::UNPROCESSABLE_ENTITY)))
}

pub(crate) async fn issue(shared: Data<Shared>, path: Path<Uuid>, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let now = Timestamp::now();
    let job = load(&shared, id).await?;
    if let Ok(person) = f.get("fill").parse::<Uuid>() {
        filled(&mut f, &job.job, person);
        return drawn(shared, id, f, String::new(), StatusCode::OK).await;
    }
    let signatures = signatures(&mut f, &job.job.people, now);
    if !f.ticked("confirm") {
        f.wrong("confirm", "Tick that you have seen the draft.");
    }
    let because = f.line("because", LONGEST_LINE);
    if f.any_wrong() {
        let problem = "Not issued: see what is marked.".into();
        return drawn(shared, id, f, problem, StatusCode::UNPROCESSABLE_ENTITY).await;
    }
    let asked = CertificateQuery { form: form_of(f.get("form")), signatures, because };
    // What blocks it is told before the key is opened for nothing.
    if findings_of(&job.job).iter().any(|one| one.blocks() && asked.form.waits_for(&job.job, one)) {
        return drawn(shared, id, f, BLOCKED.to_owned(), StatusCode::CONFLICT).await;
    }
    let by = asked.signatures.first().map(|signature| signature.name.clone()).unwrap_or_default();
    let key = match key_for(&shared, &job.job, &mut f, &by).await? {
        Ok(key) => key,
        Err((problem, status)) => return drawn(shared, id, f, problem, status).await,
    };
    let done = once_heavily(&shared, &f, move |store| {
        Ok(store.issue_certificate(id, asked, &key, now, |certificate, issued, documents, key| {
            sealed::papers(certificate, issued, documents, key).map(|made| Papers {
                seal: made.seal,
                pdf: made.pdf,
                job_file: made.job_file,
            })
        })?)
    });
    match done.await {
        Ok(None | Some(Ok(_))) => Ok(go(&format!("/jobs/{id}/certificate#issued"))),
        Ok(Some(Err(why))) => drawn(shared, id, f, format!("Not issued: {why}."), StatusCode::CONFLICT).await,
        Err(WebError::ReplacementUnsaid(why)) => {
            f.wrong("because", "Say why the one in force is replaced.");
            drawn(shared, id, f, format!("Not issued: {why}."), StatusCode::CONFLICT).await
        }
        Err(WebError::Clash(why)) => drawn(shared, id, f, format!("Not issued: {why}."), StatusCode::CONFLICT).await,
        Err(other) => Err(other),
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

pub(crate) async fn draft(shared: Data<Shared>, path: Path<Uuid>, query: Query<Which>) -> Handled {
    let id = path.into_inner();
    let form = form_of(query.form.as_deref().unwrap_or_default());
    let bytes = on_cpu_pool(move || {
        let job = shared.store.job(id)?;
        let certificate = prepare(&job.job, Application::draft(&job.job, form, Timestamp::now()));
        drawn_pdf(&certificate, Copy::Draft).map_err(|error| WebError::Inside(error.to_string()))
    })
    .await?;
    Ok(file(bytes, "application/pdf", "draft.pdf", true))
}

/// The bytes of a file that belongs to an issued certificate.
fn bytes_of(store: &Store, id: Uuid, number: &str, kind: &str) -> Result<Vec<u8>, WebError> {
    let (bytes, certificate, _) = store.certificate(number)?;
    if certificate.job.id != id {
        return Err(WebError::NotFound("This job has no such certificate.".into()));
    }
    let papers = || {
        let none = format!("Certificate {number} was issued before its papers were kept: its JSON is.");
        store.papers(number)?.ok_or(WebError::NotFound(none))
    };
    let inside = |error: table::NoTable| WebError::Inside(error.to_string());
    let installation = &certificate.job.installation;
    match kind {
        "pdf" => Ok(papers()?.pdf),
        "job" => Ok(papers()?.job_file),
        "json" => Ok(bytes),
        "csv" => table::results_csv(&certificate.job, &certificate.results).map_err(inside),
        "xlsx" => table::workbook(&certificate.job, &certificate.results).map_err(inside),
        "ics" => Ok(calendar::next_inspection(&calendar::Due {
            number: &certificate.number,
            on: certificate.next_inspection,
            site: &installation.site.address,
            firm: &certificate.job.firm.name,
            issued_at: certificate.issued_at,
            mark: certificate.job.made_as.mark(),
        })
        .into_bytes()),
        other => {
            Err(WebError::NotFound(format!("A certificate has no file “{other}”: pdf, job, json, csv, xlsx or ics.")))
        }
    }
}

/// A file that belongs to an issued certificate.
pub(crate) async fn paper(shared: Data<Shared>, path: Path<(Uuid, String, String)>) -> Handled {
    let (id, number, kind) = path.into_inner();
    let (name, wanted) = (number.clone(), kind.clone());
    let bytes = on_cpu_pool(move || bytes_of(&shared.store, id, &number, &wanted)).await?;
    let (media, ending) = match kind.as_str() {
        "pdf" => ("application/pdf", "pdf"),
        "job" => ("application/json", "job.json"),
        "csv" => ("text/csv; charset=utf-8", "csv"),
        "xlsx" => ("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "xlsx"),
        "ics" => ("text/calendar; charset=utf-8", "ics"),
        _ => ("application/json", "json"),
    };
    Ok(file(bytes, media, &format!("{name}.{ending}"), false))
}

/// What replaced a certificate, in words.
pub(crate) fn standing(status: &Status) -> String {
    match status {
        Status::Issued => "in force".to_owned(),
        Status::ReplacedBy(number) => format!("replaced by {number}"),
    }
}
