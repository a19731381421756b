//! Circuits from a CSV table or a spreadsheet: looked at first, each bad cell named, then taken.

use super::framed;
use super::import::uploaded;
use crate::cpu_pool::on_cpu_pool;
use crate::error::{Handled, WebError, go, page_with};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::request::{change, find_board, load};
use crate::shared::Shared;
use actix_multipart::Multipart;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use proof_job::installation::{shorthand, validity};
use proof_job::job::Job;
use proof_paper::circuits_in::{CircuitRow, read};
use uuid::Uuid;

#[derive(Template)]
#[template(path = "circuits_in.html")]
struct CircuitsInPage {
    frame: Frame,
    job: Uuid,
    board: Uuid,
    name: String,
    heads: Vec<String>,
    rows: Vec<CircuitRow>,
    bad: usize,
    lines: String,
    problem: String,
}

struct Looked {
    heads: Vec<String>,
    rows: Vec<CircuitRow>,
    problem: String,
}

fn drawn(job: &Job, board: Uuid, looked: Looked, status: StatusCode) -> Handled {
    let name = find_board(job, board)?.name.clone();
    let bad = looked.rows.iter().map(|row| row.bad.len()).sum();
    let lines = looked.rows.iter().filter_map(|row| row.line.as_deref()).collect::<Vec<_>>().join("\n");
    let Looked { heads, rows, problem } = looked;
    let frame = framed(&format!("Circuits for {name}"), Section::Overview, job, &job.events);
    page_with(status, &CircuitsInPage { frame, job: job.id, board, name, heads, rows, bad, lines, problem })
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<(Uuid, Uuid)>) -> Handled {
    let (id, board) = path.into_inner();
    let head = load(&shared, id).await?;
    let looked = Looked { heads: Vec::new(), rows: Vec::new(), problem: String::new() };
    drawn(&head.job, board, looked, StatusCode::OK)
}

/// Looks at a table without taking anything.
pub(crate) async fn look(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, parts: Multipart) -> Handled {
    let (id, board) = path.into_inner();
    let head = load(&shared, id).await?;
    let read = match uploaded(parts).await {
        Ok(bytes) => on_cpu_pool(move || Ok(read(&bytes).map_err(|error| format!("{error}.")))).await?,
        Err(none) => Err(none.to_string()),
    };
    match read {
        Ok(table) => {
            let looked = Looked { heads: table.heads, rows: table.rows, problem: String::new() };
            drawn(&head.job, board, looked, StatusCode::OK)
        }
        Err(problem) => {
            let looked = Looked { heads: Vec::new(), rows: Vec::new(), problem };
            drawn(&head.job, board, looked, StatusCode::UNPROCESSABLE_ENTITY)
        }
    }
}

/// Takes the rows that were looked at, whole or not at all.
pub(crate) async fn take(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, f: Fields) -> Handled {
    let (id, board_id) = path.into_inner();
    let lines = f.get("lines").to_owned();
    let made = f.clone();
    let done = change(&shared, &f, id, move |_, job| {
        find_board(job, board_id)?;
        for (number, text) in lines.lines().filter(|line| !line.trim().is_empty()).enumerate() {
            let line = shorthand::parse(text).map_err(|error| WebError::Clash(format!("“{text}”: {error}")))?;
            let (circuit, rcd) = line.build(board_id, made.made_id(&number.to_string()));
            if let Some(board) = job.installation.boards.iter_mut().find(|board| board.id == board_id) {
                board.rcds.extend(rcd);
            }
            job.installation.circuits.push(circuit.clone());
            if let Some(problem) = validity::circuit(&job.installation, &circuit).into_iter().next() {
                return Err(WebError::Clash(format!("way {}: {problem}", circuit.way)));
            }
        }
        if job.installation.circuits.len() > validity::MOST_CIRCUITS {
            return Err(WebError::Clash(format!("at most {} circuits a job", validity::MOST_CIRCUITS)));
        }
        job.installation.sort_ways();
        Ok(())
    })
    .await;
    match done {
        Ok(_) => Ok(go(&format!("/jobs/{id}/boards/{board_id}"))),
        Err(WebError::Clash(problem)) => {
            let head = load(&shared, id).await?;
            let problem = format!("Nothing was taken: {problem}. Mend the table and give it again.");
            drawn(&head.job, board_id, Looked { heads: Vec::new(), rows: Vec::new(), problem }, StatusCode::CONFLICT)
        }
        Err(other) => Err(other),
    }
}
