//! The log of an instrument: looked at first, each reading with its place or with the reason why it has none; then taken.

use super::framed;
use super::import::uploaded_with;
use crate::cpu_pool::on_cpu_pool;
use crate::error::{Handled, WebError, go_done, page_with, status_of};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::pages::run::feed::choices;
use crate::request::{did, load, offered, remembered};
use crate::shared::Shared;
use actix_multipart::Multipart;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use jiff::Timestamp;
use proof_job::job::Job;
use proof_job::reading::message::Message;
use proof_paper::log_in::{HEADS, LogLine, read, write};
use proof_work::actions::{Action, Actor, Log, Placed, placed};
use uuid::Uuid;

/// A line of the log, as the page shows it.
pub(crate) struct LogRow {
    pub number: usize,
    pub shown: String,
    pub place: String,
    /// Why it is not taken; empty: it is.
    pub why: String,
}

#[derive(Template)]
#[template(path = "log_in.html")]
struct LogPage {
    frame: Frame,
    job: Uuid,
    rows: Vec<LogRow>,
    placed: usize,
    /// The readings that have a place, to be sent back when they are taken.
    log: String,
    instruments: Vec<(String, String)>,
    heads: &'static [&'static str],
    f: Fields,
    problem: String,
}

impl LogPage {
    fn options(&self) -> Vec<(&str, &str)> {
        self.instruments.iter().map(|(id, name)| (id.as_str(), name.as_str())).collect()
    }
}

fn drawn(job: &Job, f: Fields, (rows, log): (Vec<LogRow>, String), problem: String, status: StatusCode) -> Handled {
    let page = LogPage {
        frame: framed("Readings from a log", Section::Run, job, &job.events),
        job: job.id,
        placed: rows.iter().filter(|row| row.why.is_empty()).count(),
        rows,
        log,
        instruments: choices(job),
        heads: &HEADS,
        f,
        problem,
    };
    page_with(status, &page)
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest) -> Handled {
    let head = load(&shared, path.into_inner()).await?;
    let mut f = Fields::default();
    f.put("joined", offered(&head.job, &remembered(&request, "instrument")));
    f.put("by", remembered(&request, "writer"));
    f.put("read_by", remembered(&request, "reader"));
    drawn(&head.job, f, Default::default(), String::new(), StatusCode::OK)
}

/// Where a reading goes, in words.
fn describe(job: &Job, placed: &Placed) -> String {
    let circuit = placed.circuit.and_then(|id| job.installation.circuit(id));
    let way = circuit.map(|one| format!("way {} {}: ", one.way, one.description)).unwrap_or_default();
    format!("{way}{}, {}", placed.step.stage.label(), placed.step.label)
}

/// What the form says of the log; what is wrong stands at its fields.
fn asked(f: &mut Fields, job: &Job, messages: Vec<Message>) -> Option<Log> {
    let instrument: Option<Uuid> = f.get("joined").parse().ok();
    let instrument = instrument.filter(|id| job.instruments.iter().any(|one| one.id == *id));
    if instrument.is_none() {
        f.wrong("joined", "Choose an instrument of this job's register.");
    }
    if f.trimmed("by").is_empty() {
        f.wrong("by", "Give the name of the person who brings it in.");
    }
    let (read_by, read_on) = (f.trimmed("read_by").to_owned(), f.trimmed("read_on").to_owned());
    Some(Log { messages, instrument: instrument?, read_by, read_on }).filter(|_| !f.any_wrong())
}

/// Each line of a log beside its place; the messages that have one.
fn looked_at(job: &Job, lines: Vec<LogLine>, log: &Log, by: &str) -> (Vec<LogRow>, String) {
    let hand = Actor::new(Uuid::new_v4(), by, Timestamp::now());
    let mut places = placed(job, log, &hand).into_iter();
    let (mut rows, mut taken) = (Vec::new(), Vec::new());
    let mut messages = log.messages.iter();
    for LogLine { number, message } in lines {
        let row = |shown: String, place: String, why: String| LogRow { number, shown, place, why };
        rows.push(match message {
            Err(why) => row(String::new(), String::new(), why),
            Ok(message) => match places.next() {
                Some(Ok(placed)) => {
                    taken.extend(messages.next());
                    row(message.typed(), describe(job, &placed), String::new())
                }
                Some(Err(why)) => {
                    messages.next();
                    row(message.typed(), String::new(), why.to_string())
                }
                None => row(message.typed(), String::new(), "it was not looked at".to_owned()),
            },
        });
    }
    // What is not taken comes first.
    rows.sort_by_key(|row| row.why.is_empty());
    (rows, write(&taken))
}

/// Looks at a log without taking anything.
pub(crate) async fn look(shared: Data<Shared>, path: Path<Uuid>, parts: Multipart) -> Handled {
    let head = load(&shared, path.into_inner()).await?;
    let mut f = Fields::default();
    let refused =
        |f: Fields, problem: String| drawn(&head.job, f, Default::default(), problem, StatusCode::UNPROCESSABLE_ENTITY);
    let bytes = match uploaded_with(parts, &mut f).await {
        Ok(bytes) => bytes,
        Err(none) => return refused(f, none.to_string()),
    };
    let lines = match on_cpu_pool(move || Ok(read(&bytes))).await? {
        Ok(lines) => lines,
        Err(none) => return refused(f, format!("{none}.")),
    };
    let messages = lines.iter().filter_map(|line| line.message.clone().ok()).collect();
    let Some(log) = asked(&mut f, &head.job, messages) else {
        return refused(f, "Not looked at: see what is marked, and choose the file again.".to_owned());
    };
    let (whole, by) = (head.clone(), f.trimmed("by").to_owned());
    let looked = on_cpu_pool(move || Ok(looked_at(&whole.job, lines, &log, &by))).await?;
    drawn(&head.job, f, looked, String::new(), StatusCode::OK)
}

/// Takes the readings that were looked at, all or none.
pub(crate) async fn take(shared: Data<Shared>, path: Path<Uuid>, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let head = load(&shared, id).await?;
    let messages = match read(f.get("log").as_bytes()) {
        Ok(lines) => lines.into_iter().map(|line| line.message).collect::<Result<Vec<_>, _>>(),
        Err(none) => Err(none.to_string()),
    };
    let problem = match messages.map(|messages| asked(&mut f, &head.job, messages)) {
        Err(why) => (format!("Nothing was taken: {why}."), StatusCode::UNPROCESSABLE_ENTITY),
        Ok(None) => ("Nothing was taken: see what is marked.".to_owned(), StatusCode::UNPROCESSABLE_ENTITY),
        Ok(Some(log)) => match did(&shared, id, &f, f.trimmed("by"), Action::Log(log)).await {
            Ok(Ok(())) => return Ok(go_done(&format!("/jobs/{id}/run"), "log")),
            Ok(Err(why)) => (format!("Nothing was taken: {why}. Look at the log again."), status_of(&why)),
            Err(WebError::Clash(why)) => (format!("Nothing was taken: {why}."), StatusCode::CONFLICT),
            Err(other) => return Err(other),
        },
    };
    drawn(&head.job, f, Default::default(), problem.0, problem.1)
}
