//! The schedule sheet: a whole board as one grid, for results brought in from paper. A block of
//! cells is pasted and looked at before it is stored; each cell has its expectation and verdict.

use super::readings::{Chip, worse};
use super::state::{remember_writer, who};
use super::{blocking, find_board, framed, remembered};
use crate::Shared;
use crate::error::{Handled, WebError, go, page_with};
use crate::fields::Fields;
use crate::frame::Frame;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use jiff::Timestamp;
use proof_core::installation::Circuit;
use proof_core::job::Job;
use proof_core::reading::Step;
use proof_core::reading::{Context, Reading, Settled, Value};
use proof_core::schedule::{ResultRow, result_row};
use proof_core::taking::paper_row::{Cell, by_head, is_open};
use proof_core::verdict::CircuitJudge;
use uuid::Uuid;

/// Longest block that is pasted: a board of a hundred ways and a few columns of remarks.
const MOST_PASTED: usize = 200_000;

/// A cell of the grid.
pub struct Shown {
    pub field: String,
    pub label: String,
    pub value: String,
    pub stands: String,
    pub expected: String,
    pub chip: Option<Chip>,
    pub error: String,
    /// Why nothing may be written here; empty where something may.
    pub closed: &'static str,
}

/// A row of it.
pub struct Row {
    pub id: Uuid,
    pub way: String,
    pub description: String,
    pub cells: Vec<Shown>,
}

#[derive(Template)]
#[template(path = "sheet.html")]
struct SheetPage {
    frame: Frame,
    job: Uuid,
    board: Uuid,
    name: String,
    heads: Vec<&'static str>,
    rows: Vec<Row>,
    changed: usize,
    problem: String,
    instruments: Vec<(Uuid, String)>,
    f: Fields,
}

fn field(circuit: &Circuit, cell: Cell) -> String {
    format!("{}-{}", circuit.id.simple(), cell.key())
}

/// What stands in a cell, as the schedule shows it.
fn standing(row: &ResultRow, cell: Cell) -> String {
    let text = match cell {
        Cell::R1 => &row.r1,
        Cell::Rn => &row.rn,
        Cell::R2 => &row.r2,
        Cell::R1R2 => &row.r1_r2,
        Cell::LiveLive => &row.live_live,
        Cell::LiveEarth => &row.live_earth,
        Cell::Polarity => &row.polarity,
        Cell::Zs => &row.zs,
        Cell::RcdOne => &row.rcd_one,
        Cell::RcdFive => &row.rcd_five,
        Cell::RcdButton => &row.rcd_button,
    };
    if text == "—" { String::new() } else { text.clone() }
}

/// A cell that was changed, as a reading to be.
struct Change {
    step: Step,
    value: Value,
    typed: String,
}

/// The grid, and what was changed in it. What is wrong with a cell stands in the cell.
fn grid(job: &Job, board: Uuid, f: &Fields) -> (Vec<Row>, Vec<Change>) {
    let installation = &job.installation;
    let settled = Settled::new(&job.readings, &job.events);
    let mut changes = Vec::new();
    let rows = installation
        .circuits_of(board)
        .map(|circuit| {
            let judge = CircuitJudge::brief(installation, circuit, &settled);
            let row = result_row(installation, circuit, &settled);
            let cells = Cell::ALL
                .into_iter()
                .map(|cell| {
                    let name = field(circuit, cell);
                    let stands = standing(&row, cell);
                    let typed = f.get(&name).trim().to_owned();
                    let step = cell.step(installation, circuit);
                    let mut shown = Shown {
                        label: format!("way {} {}", circuit.way, cell.head()),
                        value: if typed.is_empty() { stands.clone() } else { typed.clone() },
                        field: name,
                        expected: String::new(),
                        chip: None,
                        error: String::new(),
                        closed: match &step {
                            Err(why) => why,
                            Ok(_) if !is_open(circuit, &settled, cell) => "read point by point: the highest of them",
                            Ok(_) => "",
                        },
                        stands,
                    };
                    let changed = !typed.is_empty() && typed != shown.stands;
                    let Ok(step) = step else {
                        if let (true, Err(why)) = (changed, cell.value(installation, circuit, &typed)) {
                            shown.error = why;
                        }
                        return shown;
                    };
                    shown.expected = judge.known.band(&step.key).map(|band| band.shown()).unwrap_or_default();
                    if changed && !shown.closed.is_empty() {
                        shown.error = format!("Not taken here: {}.", shown.closed);
                    } else if changed {
                        match cell.value(installation, circuit, &typed) {
                            Ok(value) => {
                                shown.chip = Some(worse(&judge.judge(&step, &value)));
                                changes.push(Change { step, value, typed });
                            }
                            Err(why) => shown.error = why,
                        }
                    } else {
                        shown.chip = judge.step(&step).map(|judgement| worse(&judgement));
                    }
                    shown
                })
                .collect();
            Row { id: circuit.id, way: circuit.way.clone(), description: circuit.description.clone(), cells }
        })
        .collect();
    (rows, changes)
}

fn drawn(job: &Job, board: Uuid, f: Fields, problem: String, status: StatusCode) -> Handled {
    let name = find_board(job, board)?.name.clone();
    let (rows, changes) = grid(job, board, &f);
    let page = SheetPage {
        frame: framed(&format!("Sheet {name}"), "overview", job, &job.events),
        job: job.id,
        board,
        heads: Cell::ALL.map(Cell::head).to_vec(),
        name,
        rows,
        changed: changes.len(),
        problem,
        instruments: job.instruments.iter().map(|one| (one.id, format!("{} {}", one.reference, one.kind))).collect(),
        f,
    };
    page_with(status, &page)
}

async fn load(shared: &Data<Shared>, job: Uuid) -> Result<Job, WebError> {
    let store = shared.store.clone();
    blocking(move || Ok(store.job(job)?.job.clone())).await
}

pub async fn show(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest) -> Handled {
    let (id, board) = path.into_inner();
    let job = load(&shared, id).await?;
    let mut f = Fields::default();
    f.put("by", remembered(&request, "writer"));
    drawn(&job, board, f, String::new(), StatusCode::OK)
}

/// Puts a pasted block into the cells of a form: by the heads of its columns where it has them, by the
/// order of the schedule where it has none. Says what was not understood.
fn pasted(job: &Job, board: Uuid, f: &mut Fields) -> Vec<String> {
    let block = f.get("block").to_owned();
    let split = |line: &str| -> Vec<String> {
        let by = if line.contains('\t') {
            '\t'
        } else if line.contains(';') {
            ';'
        } else {
            ','
        };
        line.split(by).map(|cell| cell.trim().trim_matches('"').to_owned()).collect()
    };
    let mut lines = block.lines().filter(|line| !line.trim().is_empty()).peekable();
    let mut problems = Vec::new();
    let mut way_at = 0;
    let heads: Vec<Option<Cell>> = match lines.peek().map(|line| split(line)) {
        Some(first) if first.iter().filter(|head| by_head(head).is_some()).count() >= 2 => {
            lines.next();
            let is_way = |head: &String| head.to_lowercase().starts_with("way");
            way_at = first.iter().position(is_way).unwrap_or(0);
            first.iter().map(|head| by_head(head)).collect()
        }
        // Way first, then the columns of the schedule.
        _ => std::iter::once(None).chain(Cell::ALL.into_iter().map(Some)).collect(),
    };
    for (number, line) in (1..).zip(lines) {
        let cells = split(line);
        let circuit = cells.get(way_at).and_then(|text| {
            job.installation.circuits_of(board).find(|circuit| circuit.way.eq_ignore_ascii_case(text))
        });
        let Some(circuit) = circuit else {
            problems.push(format!("line {number} of the block names no way of this board: “{}”", line.trim()));
            continue;
        };
        for (cell, text) in heads.iter().zip(&cells) {
            if let (Some(cell), false) = (cell, text.is_empty() || text == "—" || text == "-") {
                f.put(field(circuit, *cell), text.clone());
            }
        }
    }
    problems.truncate(8);
    problems
}

pub async fn receive(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, mut f: Fields) -> Handled {
    let (id, board) = path.into_inner();
    let job = load(&shared, id).await?;
    find_board(&job, board)?;
    if f.is("what", "paste") {
        if f.get("block").len() > MOST_PASTED {
            let problem = format!("The block is longer than {MOST_PASTED} letters: paste one board at a time.");
            return drawn(&job, board, f, problem, StatusCode::UNPROCESSABLE_ENTITY);
        }
        let problems = pasted(&job, board, &mut f);
        let status = if problems.is_empty() { StatusCode::OK } else { StatusCode::UNPROCESSABLE_ENTITY };
        return drawn(&job, board, f, problems.join("; "), status);
    }
    let (rows, changes) = grid(&job, board, &f);
    let wrong = rows.iter().flat_map(|row| &row.cells).filter(|cell| !cell.error.is_empty()).count();
    let by = match who(&request, &f) {
        Ok(by) => by,
        Err(error) => return drawn(&job, board, f, error.to_string(), StatusCode::UNPROCESSABLE_ENTITY),
    };
    if wrong > 0 {
        let problem = format!("Nothing was stored: {wrong} cells are marked. What you typed stands here.");
        return drawn(&job, board, f, problem, StatusCode::UNPROCESSABLE_ENTITY);
    }
    if f.is("what", "look") || changes.is_empty() {
        return drawn(&job, board, f, String::new(), StatusCode::OK);
    }
    let now = Timestamp::now();
    let instrument = f.get("instrument").parse().ok().filter(|id| job.instruments.iter().any(|one| one.id == *id));
    let readings: Vec<Reading> = changes
        .into_iter()
        .map(|change| Reading {
            id: Uuid::new_v4(),
            key: change.step.key,
            typed: change.typed,
            value: change.value,
            unsteady: false,
            context: Context {
                instrument,
                test_voltage_v: change.step.test_voltage,
                read_by: Some(f.trimmed("read_by").to_owned()).filter(|name| !name.is_empty()),
                ..Context::of_paper(&by, now)
            },
        })
        .collect();
    let store = shared.store.clone();
    blocking(move || Ok(store.append_readings_with(id, &readings, &[])?)).await?;
    let mut response = go(&format!("/jobs/{id}/boards/{board}/sheet"));
    remember_writer(&mut response, &by);
    Ok(response)
}
