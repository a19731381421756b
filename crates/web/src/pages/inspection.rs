//! The schedule of inspections: before any test, by area.

use super::framed;
use crate::error::{Handled, go, go_done, page_with};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::request::{NotTaken, edit, load};
use crate::shared::Shared;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use proof_job::installation::Installation;
use proof_job::installation::inspection::{InspectionAnswer, InspectionOutcome, areas, asked};
use proof_job::installation::validity::LONGEST_TEXT;
use proof_job::job::Job;
use uuid::Uuid;

pub(crate) struct InspectionRow {
    pub key: &'static str,
    pub text: &'static str,
    pub outcome: String,
    pub note: String,
    pub error: String,
}

pub(crate) struct Area {
    pub name: &'static str,
    pub rows: Vec<InspectionRow>,
}

#[derive(Template)]
#[template(path = "inspection.html")]
struct InspectionPage {
    frame: Frame,
    job: Uuid,
    revision: i64,
    areas: Vec<Area>,
    problem: String,
    /// What others changed meanwhile.
    clashes: String,
    /// It was come to from the run, and goes back there.
    run: bool,
}

fn rows(f: &Fields, installation: &Installation) -> Vec<Area> {
    areas()
        .into_iter()
        .map(|name| Area {
            name,
            rows: asked(installation)
                .filter(|item| item.area == name)
                .map(|item| InspectionRow {
                    key: item.key,
                    text: item.text,
                    outcome: f.get(item.key).to_owned(),
                    note: f.get(&format!("{}-note", item.key)).to_owned(),
                    error: f.error(item.key).to_owned(),
                })
                .collect(),
        })
        .filter(|area| !area.rows.is_empty())
        .collect()
}

/// Where the page was come to from.
#[derive(serde::Deserialize, Default)]
pub(crate) struct Then {
    then: Option<String>,
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<Uuid>, query: Query<Then>) -> Handled {
    let id = path.into_inner();
    let head = load(&shared, id).await?;
    let f = filled(&head.job);
    let frame = framed("Inspection", Section::Inspection, &head.job, &head.job.events);
    page_with(
        StatusCode::OK,
        &InspectionPage {
            frame,
            job: id,
            revision: head.revision,
            areas: rows(&f, &head.job.installation),
            problem: String::new(),
            clashes: String::new(),
            run: query.then.as_deref() == Some("run"),
        },
    )
}

fn answers(f: &mut Fields, installation: &Installation) -> Vec<InspectionAnswer> {
    let all = f.is("all", "yes");
    let area = f.get("area").to_owned();
    let mut answers = Vec::new();
    for item in asked(installation) {
        let note = f.paragraph(&format!("{}-note", item.key), LONGEST_TEXT);
        let given = f.get(item.key).to_owned();
        let outcome = InspectionOutcome::ALL.into_iter().find(|outcome| outcome.key() == given);
        let seen = all || item.area == area;
        let outcome = outcome.or((seen && given.is_empty()).then_some(InspectionOutcome::Yes));
        match outcome {
            Some(InspectionOutcome::Limitation) if note.is_empty() => {
                f.wrong(item.key, "A limitation wants its reason: why could it not be looked at?");
            }
            Some(InspectionOutcome::Departure) if note.is_empty() => {
                f.wrong(item.key, "A departure wants its reason: why is it no less safe?");
            }
            Some(_) if note.chars().count() > LONGEST_TEXT => {
                f.wrong(item.key, format!("The note is longer than {LONGEST_TEXT} characters."));
            }
            Some(outcome) => answers.push(InspectionAnswer { item: item.key.to_owned(), outcome, note }),
            None if given.is_empty() => {}
            None => {
                f.wrong(item.key, format!("“{given}” is no outcome: yes, not applicable, departure or limitation."))
            }
        }
    }
    answers
}

/// The form of the answers that stand.
fn filled(job: &Job) -> Fields {
    let mut f = Fields::default();
    for answer in &job.installation.inspection {
        f.put(answer.item.clone(), answer.outcome.key());
        f.put(format!("{}-note", answer.item), answer.note.clone());
    }
    f
}

pub(crate) async fn save(shared: Data<Shared>, path: Path<Uuid>, f: Fields) -> Handled {
    let id = path.into_inner();
    let run = f.is("then", "run");
    let done = edit(
        &shared,
        &f,
        id,
        |job| Ok(filled(job)),
        |f, _, job| {
            let mut answers = answers(f, &job.installation);
            // What is no longer asked keeps its answer.
            let on_page = |answer: &&InspectionAnswer| asked(&job.installation).any(|item| item.key == answer.item);
            answers.extend(job.installation.inspection.iter().filter(|answer| !on_page(answer)).cloned());
            job.installation.inspection = answers;
            Ok(())
        },
    );
    let (f, problem, status) = match done.await? {
        Ok(()) if !f.get("area").is_empty() => {
            return Ok(go(&format!("/jobs/{id}/inspection{}", if run { "?then=run" } else { "" })));
        }
        Ok(()) if run => return Ok(go(&format!("/jobs/{id}/run"))),
        Ok(()) => return Ok(go_done(&format!("/jobs/{id}"), "inspection")),
        Err(NotTaken::Wrong(f)) => {
            let problem = f.all_wrong().join(" ");
            (f, problem, StatusCode::UNPROCESSABLE_ENTITY)
        }
        Err(NotTaken::Clash(f)) => (f, "Not stored yet: see what was changed.".to_owned(), StatusCode::CONFLICT),
    };
    let head = load(&shared, id).await?;
    let frame = framed("Inspection", Section::Inspection, &head.job, &head.job.events);
    let (areas, clashes) = (rows(&f, &head.job.installation), f.clashes());
    page_with(status, &InspectionPage { frame, job: id, revision: head.revision, areas, problem, clashes, run })
}
