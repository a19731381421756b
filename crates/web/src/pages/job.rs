//! A job at a glance: what is done, what is next, its boards and circuits.

use super::framed;
use crate::draw::chain;
use crate::error::{Handled, page};
use crate::frame::{Frame, Section, day, index};
use crate::pages::begin;
use crate::pages::findings::mended_at;
use crate::request::blocking;
use crate::shared::Shared;
use actix_web::HttpResponse;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use proof_job::installation::inspection;
use proof_job::job::Job;
use proof_judge::finding::Severity;
use proof_store::CertificateRow;
use proof_work::plan::outstanding::{Count, OutstandingQuery};
use proof_work::plan::substitute::Scope;
use proof_work::review::{Finding, Where, findings_of};
use uuid::Uuid;

/// One stretch of the work.
pub(crate) struct Progress {
    pub label: &'static str,
    pub link: String,
    pub done: usize,
    pub of: usize,
    pub text: String,
}

impl Progress {
    /// How much of it is done, in hundredths.
    pub(crate) fn percent(&self) -> usize {
        (100 * self.done.min(self.of)).checked_div(self.of).unwrap_or(0)
    }

    pub(crate) fn complete(&self) -> bool {
        self.of > 0 && self.done >= self.of
    }
}

#[derive(Template)]
#[template(path = "job.html")]
struct JobPage<'a> {
    frame: Frame,
    job: &'a Job,
    progress: Vec<Progress>,
    next: Option<(String, String, String)>,
    /// Where the work goes on, and what it says.
    go_on: (String, &'static str),
    counts: [usize; 3],
    chain: String,
    /// What a board may begin from.
    patterns: Vec<(String, String)>,
    certificates: Vec<CertificateRow>,
    /// When it came with a file; empty: it was begun here.
    imported: String,
    /// Client, site, nature and edition, as far as they are said.
    summary: String,
}

/// Where the work goes on: to what is described next, then to the run, at the end to the certificate.
fn go_on(job: &Job, issued: bool) -> (String, &'static str) {
    let base = format!("/jobs/{}", job.id);
    let installation = &job.installation;
    match installation.boards.first() {
        _ if issued => (format!("{base}/certificate"), "To the certificate"),
        None => (format!("{base}#board_name"), "Go on: name the board"),
        Some(board) if installation.circuits.is_empty() => {
            (format!("{base}/boards/{}", board.id), "Go on: describe the ways")
        }
        Some(_) => (format!("{base}/run"), "Go on"),
    }
}

/// How far a job is, stretch by stretch in the order of the work.
pub(crate) fn progress(job: &Job, findings: &[Finding], issued: bool) -> Vec<Progress> {
    let base = format!("/jobs/{}", job.id);
    let settled = job.settled();
    let missing = findings.iter().filter(|f| matches!(f.place, proof_work::review::Where::Particulars)).count();
    let installation = &job.installation;
    let asked = OutstandingQuery::new(installation, &settled, &job.site(), &|_| false);
    let (mut dead, mut live, mut origin) = (Count::default(), Count::default(), Count::default());
    let mut first_open: [Option<String>; 2] = [None, None];
    for scope in asked.scopes() {
        let needed = asked.outstanding(scope);
        let page = match scope {
            Scope::Origin => {
                origin = needed.all();
                continue;
            }
            Scope::Board(board) => format!("{base}/boards/{}/tests", board.id),
            Scope::Circuit(circuit) => format!("{base}/circuits/{}", circuit.id),
        };
        (dead, live) = (dead + needed.dead, live + needed.live);
        for (open, next) in first_open.iter_mut().zip([needed.next(true), needed.next(false)]) {
            if let (None, Some(step)) = (&*open, next) {
                *open = Some(format!("{page}?at={}", step.slug));
            }
        }
    }
    let dead_link = first_open[0].as_ref().map_or_else(|| format!("{base}#circuits"), |_| format!("{base}/run"));
    let live_link = first_open[1].take().unwrap_or_else(|| format!("{base}#circuits"));
    let answered = |key: &str| installation.inspection.iter().any(|answer| answer.item == key);
    let inspected = Count {
        done: inspection::asked(installation).filter(|item| answered(item.key)).count(),
        of: inspection::asked(installation).count(),
    };
    let stretch = |label, link: String, Count { done, of }: Count| Progress {
        label,
        link,
        done,
        of,
        text: if of == 0 { "nothing asked".into() } else { format!("{done} of {of}") },
    };
    vec![
        Progress {
            label: "Particulars",
            link: format!("{base}/particulars"),
            done: usize::from(missing == 0),
            of: 1,
            text: if missing == 0 { "complete".into() } else { format!("{missing} missing") },
        },
        stretch("Inspection", format!("{base}/inspection"), inspected),
        stretch("Dead tests", dead_link, dead),
        stretch("Origin", format!("{base}/origin"), origin),
        stretch("Live tests", live_link, live),
        Progress {
            label: "Certificate",
            link: format!("{base}/certificate"),
            done: usize::from(issued),
            of: 1,
            text: if issued { "issued" } else { "not issued" }.into(),
        },
    ]
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<Uuid>) -> Handled {
    let id = path.into_inner();
    let (job, certificates, imported, patterns) = blocking(move || {
        let store = &shared.store;
        Ok((store.job(id)?, store.certificates(id)?, store.imported_at(id)?, begin::choices(store)?))
    })
    .await?;
    let job = &job.job;
    let findings = findings_of(job);
    let count = |severity| findings.iter().filter(|finding| finding.severity == severity).count();
    let counts = [count(Severity::Fails), count(Severity::Missing), count(Severity::Odd)];
    let next =
        findings.first().map(|finding| (finding.about.clone(), finding.text().clone(), mended_at(job.id, finding)));
    let page_data = JobPage {
        frame: framed(&job.title, Section::Overview, job, &job.events),
        progress: progress(job, &findings, !certificates.is_empty()),
        next,
        go_on: go_on(job, !certificates.is_empty()),
        counts,
        chain: chain::drawing(job, &findings),
        patterns,
        certificates,
        imported: imported.as_deref().map(day).unwrap_or_default(),
        summary: describe(job),
        job,
    };
    page(&page_data)
}

/// Which page asks.
#[derive(serde::Deserialize, Default)]
pub(crate) struct Asking {
    #[serde(default)]
    here: String,
}

/// The index of a job with what is left in each stage: asked for by the page when it is there.
pub(crate) async fn left(shared: Data<Shared>, path: Path<Uuid>, asking: Query<Asking>) -> Handled {
    let id = path.into_inner();
    let index = blocking(move || {
        let job = &shared.store.job(id)?.job;
        let issued = !shared.store.certificates(id)?.is_empty();
        let findings = findings_of(job);
        let all = progress(job, &findings, issued);
        let word = |count: usize| if count == 0 { "✓".to_owned() } else { count.to_string() };
        // Where there is nothing to do yet, nothing is done.
        let to_do = |labels: &[&str]| {
            let of: Vec<&Progress> = all.iter().filter(|one| labels.contains(&one.label) && one.of > 0).collect();
            if of.is_empty() {
                return String::new();
            }
            word(of.iter().map(|one| one.of.saturating_sub(one.done)).sum())
        };
        let blocking = findings.iter().filter(|finding| finding.blocks()).count();
        let missing = findings.iter().filter(|one| matches!(one.place, Where::Particulars | Where::Firm)).count();
        let left = [
            ("Particulars", word(missing)),
            ("Inspection", to_do(&["Inspection"])),
            ("Run", to_do(&["Dead tests", "Live tests"])),
            ("Origin", to_do(&["Origin"])),
            ("Review", word(blocking)),
            ("Certificate", if issued { "✓".to_owned() } else { String::new() }),
        ];
        let here = Section::ALL.iter().map(|one| one.shown().0).find(|name| *name == asking.here).unwrap_or_default();
        Ok(index(id, here, &left))
    })
    .await?;
    Ok(HttpResponse::Ok()
        .content_type("text/html; charset=utf-8")
        .insert_header(("cache-control", "no-store"))
        .body(index))
}

/// Whose and where a job is, and of what kind, as far as it is said.
fn describe(job: &Job) -> String {
    let installation = &job.installation;
    let verified_to = installation.verified_to();
    let all = [
        installation.client.name.as_str(),
        installation.site.name.as_str(),
        installation.nature.label(),
        verified_to.as_str(),
    ];
    let all: Vec<&str> = all.into_iter().map(str::trim).filter(|text| !text.is_empty()).collect();
    all.join(" · ")
}

/// The job file.
pub(crate) async fn export(shared: Data<Shared>, path: Path<Uuid>) -> Handled {
    let id = path.into_inner();
    let (job, documents) = blocking(move || {
        let job = shared.store.job(id)?;
        let documents = shared.store.documents_of(&job.job.installation)?;
        Ok((job, documents))
    })
    .await?;
    let job = &job.job;
    let bytes = proof_paper::job_file::write(job, &documents)
        .map_err(|error| crate::error::WebError::Inside(error.to_string()))?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header(("content-disposition", format!("attachment; filename=\"{}.proof.json\"", job.reference)))
        .body(bytes))
}
