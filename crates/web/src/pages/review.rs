//! The review: what fails, what is missing, what is odd, each with where it is mended.

use super::findings::{Group, grouped};
use super::framed;
use crate::error::{Handled, go_done, page_with, status_of};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::request::{did, load, remember, remembered};
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use proof_job::job::Job;
use proof_work::actions::Action;
use proof_work::review::{findings_of, nothing_blocks, without_instrument};
use uuid::Uuid;

#[derive(Template)]
#[template(path = "review.html")]
struct ReviewPage {
    frame: Frame,
    job: Uuid,
    groups: Vec<Group>,
    clear: bool,
    nothing: bool,
    people: Vec<(String, String)>,
    f: Fields,
    problem: String,
    /// Readings that name no instrument, and the instruments that may have taken them.
    unsaid: usize,
    instruments: Vec<(Uuid, String)>,
}

fn drawn(job: &Job, f: Fields, problem: String, status: StatusCode) -> Handled {
    let findings = findings_of(job);
    let clear = nothing_blocks(&findings);
    let nothing = findings.is_empty();
    let frame = framed("Review", Section::Review, job, &job.events);
    let people = job.people.iter().map(|person| (person.name.clone(), person.position.clone())).collect();
    let groups = grouped(job.id, findings.to_vec());
    let unsaid = without_instrument(job.into()).len();
    let instruments = job.instruments.iter().map(|one| (one.id, format!("{} {}", one.reference, one.kind))).collect();
    let page = ReviewPage { frame, job: job.id, groups, clear, nothing, people, f, problem, unsaid, instruments };
    page_with(status, &page)
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest) -> Handled {
    let id = path.into_inner();
    let head = load(&shared, id).await?;
    let job = &head.job;
    let mut f = Fields::default();
    // Who judges need not be who writes the readings, and does not become so.
    let judge = remembered(&request, "judge");
    let position = job.people.iter().find(|person| person.name == judge).map(|person| person.position.clone());
    f.put("by", judge);
    f.put("position", position.unwrap_or_default());
    drawn(job, f, String::new(), StatusCode::OK)
}

/// A judgement in writing about the findings that are ticked, each logged by itself.
pub(crate) async fn judge(shared: Data<Shared>, path: Path<Uuid>, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let by = f.trimmed("by").to_owned();
    if f.trimmed("position").is_empty() {
        let head = load(&shared, id).await?;
        let known = head.job.people.iter().find(|person| person.name == by).map(|person| person.position.clone());
        f.set("position", &known.unwrap_or_default());
    }
    let instrument = f.get("instrument").parse().ok().filter(|_| f.is("what", "instrument"));
    let action =
        if f.is("what", "instrument") { Action::SayInstrument(instrument.unwrap_or_default()) } else { judged(&f) };
    if let Err(why) = did(&shared, id, &f, &by, action).await? {
        f.marked(&why);
        let head = load(&shared, id).await?;
        let problem = if why.fields().is_empty() { why.to_string() } else { "Not stored: see what is marked.".into() };
        return drawn(&head.job, f, problem, status_of(&why));
    }
    let mut response = go_done(&format!("/jobs/{id}/review"), "judged");
    remember(&mut response, &[("judge", &by)]);
    Ok(response)
}

/// The judgement that a form holds.
fn judged(f: &Fields) -> Action {
    Action::Judge {
        ticked: f.names().filter(|name| name.starts_with("j-")).map(str::to_owned).collect(),
        position: f.get("position").to_owned(),
        reason: f.get("judgement").to_owned(),
    }
}
