//! Isolation of a board: loads off, locked, the indicator proved before, every pair, proved again.

use super::framed;
use crate::Shared;
use crate::error::{Handled, go, page_with, status_of};
use crate::forms::Fields;
use crate::frame::Frame;
use crate::frame::Section;
use crate::request::{did, find_board, load, named, remember, remembered};
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use proof_core::conductor::Pair;
use proof_core::installation::{Board, Feeds};
use proof_core::job::Job;
use proof_core::site::EventKind;
use proof_core::site::isolation::{Isolation, PairShown, field_of, interpret, pairs};
use proof_core::taking::{Deed, Isolating};
use rust_decimal::Decimal;
use serde::Deserialize;
use uuid::Uuid;

/// What is typed for an indication without a figure.
const LIT: &str = "lit";

/// A pair to be proved.
pub(crate) struct Row {
    pub field: String,
    pub pair: Pair,
}

#[derive(Template)]
#[template(path = "isolate.html")]
struct IsolatePage {
    frame: Frame,
    job: Uuid,
    board: Board,
    ways: Vec<String>,
    last_off: String,
    rows: Vec<Row>,
    sources: Vec<(String, String)>,
    indicators: Vec<String>,
    people: Vec<String>,
    then: String,
    found: String,
    f: Fields,
}

#[derive(Deserialize, Default)]
pub(crate) struct Then {
    then: Option<String>,
}

/// Only to a sheet of this job: nothing typed into an address leads elsewhere.
fn own_sheet(job: Uuid, board: Uuid, then: &str) -> String {
    if then == "run" { format!("/jobs/{job}/run") } else { format!("/jobs/{job}/boards/{board}#state") }
}

fn drawn(job: &Job, board: Uuid, then: &str, found: String, f: Fields, status: StatusCode) -> Handled {
    let board = find_board(job, board)?.clone();
    let ways: Vec<_> = job.installation.circuits_of(board.id).collect();
    let lights = ways.iter().find(|circuit| circuit.feeds == Feeds::Lighting);
    page_with(
        status,
        &IsolatePage {
            frame: framed(&format!("Isolate {}", board.name), Section::Run, job, &job.events),
            job: job.id,
            last_off: lights.map(|c| format!("{} {}", c.way, c.description)).unwrap_or_default(),
            ways: ways.iter().map(|circuit| circuit.way.clone()).collect(),
            rows: pairs(board.lines).into_iter().map(|pair| Row { field: field_of(pair), pair }).collect(),
            sources: job
                .installation
                .sources
                .iter()
                .map(|source| {
                    (format!("source-{}", source.id), format!("{}: {}", source.kind.label(), source.isolator))
                })
                .collect(),
            indicators: job.instruments.iter().map(|one| one.reference.clone()).collect(),
            people: job.people.iter().map(|person| person.name.clone()).collect(),
            then: then.to_owned(),
            board,
            found,
            f,
        },
    )
}

pub(crate) async fn show(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    query: Query<Then>,
    request: HttpRequest,
) -> Handled {
    let (job, board) = path.into_inner();
    let head = load(&shared, job).await?;
    let mut f = Fields::default();
    f.put("by", remembered(&request, "writer"));
    f.put("lock", remembered(&request, "lock"));
    f.put("indicator", remembered(&request, "indicator"));
    drawn(&head.job, board, query.then.as_deref().unwrap_or_default(), String::new(), f, StatusCode::OK)
}

/// What the indicator showed, pair by pair; what is no figure is said at its field.
fn shown(board: &Board, f: &mut Fields) -> Vec<PairShown> {
    let mut all = Vec::new();
    for pair in pairs(board.lines) {
        let field = field_of(pair);
        if f.ticked(&format!("lit-{field}")) || f.trimmed(&field).eq_ignore_ascii_case(LIT) {
            all.push(PairShown { pair, volts: Decimal::ZERO, lit: true });
        } else if let Some(volts) = f.decimal(&field, "volts such as 0 or 230, or lit where it shows no figure") {
            all.push(PairShown { pair, volts, lit: false });
        }
    }
    all
}

/// Why the indicator says that a board is not isolated, if it does.
fn not_isolated(job: &Job, board: &Board, shown: &[PairShown]) -> Option<String> {
    let last = job.events.last()?;
    match (&last.kind, interpret(board.lines, shown)) {
        (EventKind::NotIsolated { board: of, because, .. }, Isolation::NotIsolated(_)) if *of == board.id => {
            Some(format!("{}. It is in the log; the board is not proved dead.", sentence(because)))
        }
        _ => None,
    }
}

pub(crate) async fn record(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    request: HttpRequest,
    mut f: Fields,
) -> Handled {
    let (job, board_id) = path.into_inner();
    let (board, sources) = {
        let head = load(&shared, job).await?;
        let sources: Vec<Uuid> = head.job.installation.sources.iter().map(|source| source.id).collect();
        (find_board(&head.job, board_id)?.clone(), sources)
    };
    let (then, by) = (f.get("then").to_owned(), named(&request, &f));
    let shown = shown(&board, &mut f);
    let given = Isolating {
        board: board_id,
        lock: f.trimmed("lock").to_owned(),
        paperwork: f.get("paperwork").to_owned(),
        indicator: f.trimmed("indicator").to_owned(),
        loads_off: f.ticked("loads"),
        locked: f.ticked("locked"),
        before: f.ticked("before"),
        after: f.ticked("after"),
        shown: shown.clone(),
        sources: sources.into_iter().filter(|id| f.ticked(&format!("source-{id}"))).collect(),
    };
    let done = did(&shared, job, &f, &by, Deed::Isolate(given)).await?;
    let head = load(&shared, job).await?;
    if let Err(why) = done {
        f.marked(&why);
        let problem = if why.fields().is_empty() { why.to_string() } else { String::new() };
        return drawn(&head.job, board_id, &then, problem, f, status_of(&why));
    }
    if let Some(found) = not_isolated(&head.job, &board, &shown) {
        return drawn(&head.job, board_id, &then, found, f, StatusCode::CONFLICT);
    }
    let mut response = go(&own_sheet(job, board_id, &then));
    remember(&mut response, &[("writer", &by), ("lock", f.trimmed("lock")), ("indicator", f.trimmed("indicator"))]);
    Ok(response)
}

fn sentence(text: &str) -> String {
    let mut characters = text.chars();
    characters.next().map_or_else(String::new, |first| first.to_uppercase().chain(characters).collect())
}
