//! The schedule sheet: a whole board as one grid, for results brought in from paper. A block of
//! cells is pasted and looked at before it is stored; each cell has its expectation and verdict.

use super::framed;
use crate::Shared;
use crate::error::{Handled, go, page_with, status_of};
use crate::forms::Fields;
use crate::frame::Frame;
use crate::frame::Section;
use crate::request::{did, find_board, load, remember, remembered, who};
use crate::words::{Chip, worse};
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use proof_core::installation::Circuit;
use proof_core::job::Job;
use proof_core::reading::Settled;
use proof_core::schedule::{Figure as Boxed, ResultRow, result_row};
use proof_core::taking::paper_row::{Cell, by_head, is_open};
use proof_core::taking::{Deed, Sheet, SheetCell};
use proof_core::verdict::CircuitJudge;
use uuid::Uuid;

/// Longest block that is pasted: a board of a hundred ways and a few columns of remarks.
const MOST_PASTED: usize = 200_000;

/// A cell of the grid.
pub(crate) struct Shown {
    pub field: String,
    pub label: String,
    pub value: String,
    pub stands: String,
    pub expected: String,
    pub chip: Option<Chip>,
    pub error: String,
    /// Why nothing may be written here; empty where something may.
    pub closed: String,
}

/// A row of it.
pub(crate) struct Row {
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

/// R1+R2 and R2 by long lead, each in a cell of its own.
fn of_continuity(row: &ResultRow, cell: Cell) -> String {
    match (&row.r1_r2, cell) {
        (Boxed::ByLongLead(value), Cell::LongLead) => value.shown(),
        (Boxed::ByLongLead(_) | Boxed::NotHere, _) | (_, Cell::LongLead) => String::new(),
        (figure, _) => figure.printed(false),
    }
}

/// What stands in a cell, as the schedule shows it.
fn standing(row: &ResultRow, cell: Cell) -> String {
    let (figure, ticked) = match cell {
        Cell::R1 => (&row.r1, false),
        Cell::Rn => (&row.rn, false),
        Cell::R2 => (&row.r2, false),
        Cell::R1R2 | Cell::LongLead => return of_continuity(row, cell),
        Cell::LiveLive => (&row.live_live, false),
        Cell::LiveEarth => (&row.live_earth, false),
        Cell::Polarity => (&row.polarity, true),
        Cell::Zs => (&row.zs, false),
        Cell::RcdOne => (&row.rcd_one_ms, false),
        Cell::RcdFive => (&row.rcd_five_ms, false),
        Cell::RcdButton => (&row.rcd_button, true),
    };
    if *figure == Boxed::NotHere { String::new() } else { figure.printed(ticked) }
}

/// The grid, and what was changed in it. What is wrong with a cell stands in the cell.
fn grid(job: &Job, board: Uuid, f: &Fields) -> (Vec<Row>, Vec<SheetCell>) {
    let installation = &job.installation;
    let settled = Settled::new(&job.readings, &job.events);
    let mut changes = Vec::new();
    let rows = installation
        .circuits_of(board)
        .map(|circuit| {
            let judge = CircuitJudge::brief(installation, circuit, &settled);
            let row = result_row(installation, circuit, &settled);
            let of = Line { job, circuit, settled: &settled, judge: &judge, row: &row };
            let cells = Cell::ALL.into_iter().map(|cell| of.cell(cell, f, &mut changes)).collect();
            Row { id: circuit.id, way: circuit.way.clone(), description: circuit.description.clone(), cells }
        })
        .collect();
    (rows, changes)
}

/// A circuit on the sheet.
struct Line<'a> {
    job: &'a Job,
    circuit: &'a Circuit,
    settled: &'a Settled<'a>,
    judge: &'a CircuitJudge<'a>,
    row: &'a ResultRow,
}

impl Line<'_> {
    /// One of its cells as shown; what was changed in it goes to the changes.
    fn cell(&self, cell: Cell, f: &Fields, changes: &mut Vec<SheetCell>) -> Shown {
        let Self { job, circuit, settled, judge, row } = *self;
        let installation = &job.installation;
        let name = field(circuit, cell);
        let stands = standing(row, cell);
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
                Err(why) => why.to_string(),
                Ok(_) if !is_open(circuit, settled, cell) => "read point by point: the highest of them".to_owned(),
                Ok(_) => String::new(),
            },
            stands,
        };
        let changed = !typed.is_empty() && typed != shown.stands;
        let Ok(step) = step else {
            if let (true, Err(why)) = (changed, cell.value(installation, circuit, &typed)) {
                shown.error = why.to_string();
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
                    changes.push(SheetCell { field: shown.field.clone(), circuit: circuit.id, cell, typed });
                }
                Err(why) => shown.error = why.to_string(),
            }
        } else {
            shown.chip = judge.step(&step).map(|judgement| worse(&judgement));
        }
        shown
    }
}

fn drawn(job: &Job, board: Uuid, f: Fields, problem: String, status: StatusCode) -> Handled {
    let name = find_board(job, board)?.name.clone();
    let (rows, changes) = grid(job, board, &f);
    let page = SheetPage {
        frame: framed(&format!("Sheet {name}"), Section::Overview, job, &job.events),
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

pub(crate) async fn show(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest) -> Handled {
    let (id, board) = path.into_inner();
    let head = load(&shared, id).await?;
    let mut f = Fields::default();
    f.put("by", remembered(&request, "writer"));
    f.put("paper_on", remembered(&request, "paper_on"));
    drawn(&head.job, board, f, String::new(), StatusCode::OK)
}

/// The lines of a pasted block, cell by cell: tabs, semicolons or commas between them, quotes as
/// spreadsheets write them.
fn lines_of(block: &str) -> Vec<Vec<String>> {
    let first = block.lines().find(|line| !line.trim().is_empty()).unwrap_or_default();
    let by = [b'\t', b';'].into_iter().find(|by| first.as_bytes().contains(by)).unwrap_or(b',');
    let mut reader = csv::ReaderBuilder::new();
    let mut reader =
        reader.delimiter(by).has_headers(false).flexible(true).trim(csv::Trim::All).from_reader(block.as_bytes());
    let rows = reader.records().filter_map(Result::ok).map(|row| row.iter().map(str::to_owned).collect::<Vec<_>>());
    rows.filter(|row| row.iter().any(|cell| !cell.is_empty())).collect()
}

/// Puts a pasted block into the cells of a form: by the heads of its columns where it has them, by the
/// order of the schedule where it has none. Says what was not understood.
fn pasted(job: &Job, board: Uuid, f: &mut Fields) -> Vec<String> {
    let mut lines = lines_of(f.get("block"));
    let mut problems = Vec::new();
    let mut way_at = 0;
    let headed = |row: &Vec<String>| row.iter().filter(|head| by_head(head).is_some()).count() >= 2;
    let heads: Vec<Option<Cell>> = if lines.first().is_some_and(headed) {
        let first = lines.remove(0);
        way_at = first.iter().position(|head| head.to_lowercase().starts_with("way")).unwrap_or(0);
        first.iter().map(|head| by_head(head)).collect()
    } else {
        // Way first, then the columns of the schedule.
        std::iter::once(None).chain(Cell::ALL.into_iter().map(Some)).collect()
    };
    for (number, cells) in (1..).zip(lines) {
        let circuit = cells.get(way_at).and_then(|text| {
            job.installation.circuits_of(board).find(|circuit| circuit.way.eq_ignore_ascii_case(text))
        });
        let Some(circuit) = circuit else {
            problems
                .push(format!("line {number} of the block names no way of this board: “{}”", cells.join(" ").trim()));
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

/// Looks at a pasted block; nothing is stored.
fn paste(job: &Job, board: Uuid, mut f: Fields) -> Handled {
    if f.get("block").len() > MOST_PASTED {
        let problem = format!("The block is longer than {MOST_PASTED} letters: paste one board at a time.");
        return drawn(job, board, f, problem, StatusCode::UNPROCESSABLE_ENTITY);
    }
    let problems = pasted(job, board, &mut f);
    let status = if problems.is_empty() { StatusCode::OK } else { StatusCode::UNPROCESSABLE_ENTITY };
    drawn(job, board, f, problems.join("; "), status)
}

pub(crate) async fn receive(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    request: HttpRequest,
    f: Fields,
) -> Handled {
    let (id, board) = path.into_inner();
    let head = load(&shared, id).await?;
    let job = &head.job;
    find_board(job, board)?;
    if f.is("what", "paste") {
        return paste(job, board, f);
    }
    let (rows, cells) = grid(job, board, &f);
    let wrong = rows.iter().flat_map(|row| &row.cells).filter(|cell| !cell.error.is_empty()).count();
    let by = match who(&request, &f) {
        Ok(by) => by,
        Err(error) => return drawn(job, board, f, error.to_string(), StatusCode::UNPROCESSABLE_ENTITY),
    };
    let refused = |wrong: usize| format!("Nothing was stored: {wrong} cells are marked. What you typed stands here.");
    if wrong > 0 {
        return drawn(job, board, f, refused(wrong), StatusCode::UNPROCESSABLE_ENTITY);
    }
    if f.is("what", "look") || cells.is_empty() {
        return drawn(job, board, f, String::new(), StatusCode::OK);
    }
    if let Err(why) = did(&shared, id, &f, &by, Deed::Sheet(Sheet { cells, with: f.with() })).await? {
        let first = why.fields().first().map(|(_, first)| first.to_string());
        let problem = first.map_or_else(|| why.to_string(), |first| format!("Nothing was stored. {first}"));
        let mut f = f;
        f.marked(&why);
        let head = load(&shared, id).await?;
        return drawn(&head.job, board, f, problem, status_of(&why));
    }
    let mut response = go(&format!("/jobs/{id}/boards/{board}/sheet"));
    remember(&mut response, &[("writer", &by), ("paper_on", f.trimmed("paper_on"))]);
    Ok(response)
}
