//! The schedule sheet: a whole board as one grid, for results brought in from paper. A block of
//! cells is pasted and looked at before it is stored; each cell has its expectation and verdict.

use super::framed;
use crate::error::{Handled, go_done, page_with, status_of};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::request::{did, find_board, load, offered, remember, remembered, who};
use crate::shared::Shared;
use crate::words::{Chip, worse};
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use proof_job::installation::{Circuit, Feed};
use proof_job::instrument::Instrument;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Step, Value};
use proof_judge::verdict::{CircuitJudge, judge_origin};
use proof_standard::conductor::Conductor;
use proof_work::actions::paper_row::{NotInBox, PaperBox, by_head, is_open};
use proof_work::actions::{Action, ChangedCells, SheetCell, SheetStep, shown_steps_of, value_of};
use proof_work::schedule::{Figure as Boxed, ResultRow, result_row};
use uuid::Uuid;

/// Longest block that is pasted: a board of a hundred ways and a few columns of remarks.
const MOST_PASTED: usize = 200_000;

/// A cell of the grid.
pub(crate) struct GridCell {
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
pub(crate) struct SheetRow {
    pub id: Uuid,
    pub way: String,
    pub description: String,
    pub cells: Vec<GridCell>,
}

/// Boxes of the board itself, or of the origin.
pub(crate) struct Own {
    pub title: &'static str,
    pub cells: Vec<(GridCell, &'static str)>,
}

#[derive(Template)]
#[template(path = "sheet.html")]
struct SheetPage {
    frame: Frame,
    job: Uuid,
    board: Uuid,
    name: String,
    heads: Vec<&'static str>,
    rows: Vec<SheetRow>,
    /// The board itself, and the origin where the supply feeds it.
    own: Vec<Own>,
    changed: usize,
    problem: String,
    instruments: Vec<(Uuid, String)>,
    f: Fields,
}

fn field(circuit: &Circuit, line: Option<Conductor>, cell: PaperBox) -> String {
    match line {
        None => format!("{}-{}", circuit.id.simple(), cell.key()),
        Some(line) => format!("{}-{}-{}", circuit.id.simple(), line.letter(), cell.key()),
    }
}

/// The way as a row of the sheet bears it: with its line, where the circuit has three.
fn way_of(circuit: &Circuit, line: Option<Conductor>) -> String {
    line.map_or_else(|| circuit.way.clone(), |line| format!("{} {}", circuit.way, line.letter()))
}

/// R1+R2 and R2 by long lead, each in a cell of its own.
fn continuity_text(row: &ResultRow, cell: PaperBox) -> String {
    match (&row.r1_r2, cell) {
        (Boxed::ByLongLead(value), PaperBox::LongLead) => value.shown(),
        (Boxed::ByLongLead(_) | Boxed::DoesNotApply, _) | (_, PaperBox::LongLead) => String::new(),
        (figure, _) => figure.printed(false),
    }
}

/// What stands in a cell: the reading itself, as printed.
fn as_read(settled: &CurrentReadings<'_>, step: &Step) -> String {
    match settled.value(&step.key) {
        Some(Value::Pass) => "✓".to_owned(),
        value => value.map(Value::shown).unwrap_or_default(),
    }
}

/// What stands in a cell, as the schedule shows it.
fn standing(row: &ResultRow, cell: PaperBox) -> String {
    let (figure, ticked) = match cell {
        PaperBox::R1 => (&row.r1, false),
        PaperBox::Rn => (&row.rn, false),
        PaperBox::R2 => (&row.r2, false),
        PaperBox::R1R2 | PaperBox::LongLead => return continuity_text(row, cell),
        PaperBox::LiveLive => (&row.live_live, false),
        PaperBox::LiveEarth => (&row.live_earth, false),
        PaperBox::Polarity => (&row.polarity, true),
        PaperBox::Zs => (&row.zs, false),
        PaperBox::RcdOne => (&row.rcd_one_ms, false),
        PaperBox::RcdFive => (&row.rcd_five_ms, false),
        PaperBox::RcdButton => (&row.rcd_button, true),
        PaperBox::LineNeutral | PaperBox::NeutralEarth | PaperBox::Functional => return String::new(),
    };
    if *figure == Boxed::DoesNotApply { String::new() } else { figure.printed(ticked) }
}

/// The grid, and what was changed in it. What is wrong with a cell stands in the cell.
fn grid(job: &Job, board: Uuid, f: &Fields) -> (Vec<SheetRow>, Vec<SheetCell>) {
    let installation = &job.installation;
    let settled = job.settled();
    let mut changes = Vec::new();
    let all = PaperBox::for_board(installation, board);
    let mut rows = Vec::new();
    for circuit in installation.circuits_on(board) {
        let judge = CircuitJudge::new(installation, circuit, &settled);
        let row = result_row(installation, circuit, &settled);
        for line in PaperBox::rows(circuit) {
            let of = RowOf { job, circuit, line, settled: &settled, judge: &judge, row: &row };
            let cells = all.iter().map(|cell| of.cell(*cell, f, &mut changes)).collect();
            let way = way_of(circuit, line);
            rows.push(SheetRow { id: circuit.id, way, description: circuit.description.clone(), cells });
        }
    }
    (rows, changes)
}

/// A circuit on the sheet.
struct RowOf<'a> {
    job: &'a Job,
    circuit: &'a Circuit,
    /// Which of its lines, where it has three.
    line: Option<Conductor>,
    settled: &'a CurrentReadings<'a>,
    judge: &'a CircuitJudge<'a>,
    row: &'a ResultRow,
}

impl RowOf<'_> {
    /// One of its cells as shown; what was changed in it goes to the changes.
    fn cell(&self, cell: PaperBox, f: &Fields, changes: &mut Vec<SheetCell>) -> GridCell {
        let Self { job, circuit, line, settled, judge, row } = *self;
        let installation = &job.installation;
        let instrument = instrument_of(job, f);
        let name = field(circuit, line, cell);
        let typed = f.get(&name).trim().to_owned();
        let step = cell.step(installation, circuit, line);
        // The schedule has one box of all lines; here each has its own.
        let own = line.is_some() || matches!(cell, PaperBox::NeutralEarth | PaperBox::Functional);
        let stands = match (&step, own) {
            (Ok(step), true) => as_read(settled, step),
            (Err(_), true) => String::new(),
            _ => standing(row, cell),
        };
        let mut shown = GridCell {
            label: format!("way {} {}", way_of(circuit, line), cell.head()),
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
        let step = match step {
            Ok(step) => step,
            Err(why) => {
                if changed {
                    shown.error = NotInBox::from(why).to_string();
                }
                return shown;
            }
        };
        shown.expected = judge.band(&step.key).map(|band| band.shown()).unwrap_or_default();
        if changed && !shown.closed.is_empty() {
            shown.error = format!("Not taken here: {}.", shown.closed);
        } else if changed {
            match value_of(job, settled, &step, &typed, instrument) {
                Ok(value) => {
                    shown.chip = Some(worse(&judge.judge(&step, &value)));
                    changes.push(SheetCell { field: shown.field.clone(), circuit: circuit.id, line, cell, typed });
                }
                Err(why) => shown.error = why.to_string(),
            }
        } else {
            shown.chip = judge.step(&step).map(|judgement| worse(&judgement));
        }
        shown
    }
}

/// The instrument that the sheet names.
fn instrument_of<'a>(job: &'a Job, f: &Fields) -> Option<&'a Instrument> {
    let named = f.get("instrument").parse().ok();
    job.instruments.iter().find(|one| Some(one.id) == named)
}

/// The boxes of the board itself and of the origin, and what was changed in them.
fn own(job: &Job, board: Uuid, f: &Fields) -> (Vec<Own>, Vec<SheetStep>) {
    let settled = job.settled();
    let instrument = instrument_of(job, f);
    let fed_by_supply = job.installation.board(board).is_some_and(|board| board.fed_by == Feed::Supply);
    let of = [("Board", Some(board)), ("Origin", None)];
    let mut changes = Vec::new();
    let mut all = Vec::new();
    for (title, of) in of.into_iter().filter(|(_, of)| of.is_some() || fed_by_supply) {
        let steps = shown_steps_of(&job.installation, &settled, of).into_iter();
        let cells = steps.map(|step| {
            let at = if of.is_some() { "board" } else { "origin" };
            let field = format!("{at}-{}", step.slug);
            let (stands, typed) = (as_read(&settled, &step), f.trimmed(&field).to_owned());
            let mut shown = GridCell {
                label: step.label.clone(),
                value: if typed.is_empty() { stands.clone() } else { typed.clone() },
                expected: crate::pages::origin::band(job, &step).map(|band| band.shown()).unwrap_or_default(),
                chip: settled.value(&step.key).map(|v| worse(&judge_origin(&job.installation, &settled, &step, v))),
                error: String::new(),
                closed: String::new(),
                field,
                stands,
            };
            if !typed.is_empty() && typed != shown.stands {
                match value_of(job, &settled, &step, &typed, instrument) {
                    Ok(value) => {
                        shown.chip = Some(worse(&judge_origin(&job.installation, &settled, &step, &value)));
                        let (field, slug) = (shown.field.clone(), step.slug.clone());
                        changes.push(SheetStep { field, board: of, slug, typed });
                    }
                    Err(why) => shown.error = why.to_string(),
                }
            }
            // A refusal of what was typed whole stands at its field.
            if shown.error.is_empty() {
                f.error(&shown.field).clone_into(&mut shown.error);
            }
            (shown, step.field.unit())
        });
        all.push(Own { title, cells: cells.collect() });
    }
    all.retain(|one: &Own| !one.cells.is_empty());
    (all, changes)
}

fn drawn(job: &Job, board: Uuid, f: Fields, problem: String, status: StatusCode) -> Handled {
    let name = find_board(job, board)?.name.clone();
    let (rows, changes) = grid(job, board, &f);
    let (own, more) = own(job, board, &f);
    let page = SheetPage {
        frame: framed(&format!("Sheet {name}"), Section::Overview, job, &job.events),
        job: job.id,
        board,
        heads: PaperBox::for_board(&job.installation, board).into_iter().map(PaperBox::head).collect(),
        name,
        rows,
        own,
        changed: changes.len() + more.len(),
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
    f.put("instrument", offered(&head.job, &remembered(&request, "instrument")));
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
    let heads: Vec<Option<PaperBox>> = if lines.first().is_some_and(headed) {
        let first = lines.remove(0);
        way_at = first.iter().position(|head| head.to_lowercase().starts_with("way")).unwrap_or(0);
        first.iter().map(|head| by_head(head)).collect()
    } else {
        // Way first, then the columns of the schedule.
        std::iter::once(None).chain(PaperBox::for_board(&job.installation, board).into_iter().map(Some)).collect()
    };
    for (number, cells) in (1..).zip(lines) {
        let bare = |text: &str| text.split_whitespace().collect::<String>().to_uppercase();
        let row = cells.get(way_at).and_then(|text| {
            let mut rows = job
                .installation
                .circuits_on(board)
                .flat_map(|circuit| PaperBox::rows(circuit).into_iter().map(move |line| (circuit, line)));
            rows.find(|(circuit, line)| bare(&way_of(circuit, *line)) == bare(text))
        });
        let Some((circuit, line)) = row else {
            problems
                .push(format!("line {number} of the block names no way of this board: “{}”", cells.join(" ").trim()));
            continue;
        };
        for (cell, text) in heads.iter().zip(&cells) {
            if let (Some(cell), false) = (cell, text.is_empty() || text == "—" || text == "-") {
                f.put(field(circuit, line, *cell), text.clone());
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
    let (own, steps) = own(job, board, &f);
    let boxes =
        rows.iter().flat_map(|row| &row.cells).chain(own.iter().flat_map(|one| &one.cells).map(|(cell, _)| cell));
    let wrong = boxes.filter(|cell| !cell.error.is_empty()).count();
    let by = match who(&request, &f) {
        Ok(by) => by,
        Err(error) => return drawn(job, board, f, error.to_string(), StatusCode::UNPROCESSABLE_ENTITY),
    };
    let refused = |wrong: usize| format!("Nothing was stored: {wrong} boxes are marked. What you typed stands here.");
    if wrong > 0 {
        return drawn(job, board, f, refused(wrong), StatusCode::UNPROCESSABLE_ENTITY);
    }
    if f.is("what", "look") || cells.is_empty() && steps.is_empty() {
        return drawn(job, board, f, String::new(), StatusCode::OK);
    }
    if let Err(why) = did(&shared, id, &f, &by, Action::Sheet(ChangedCells { cells, steps, with: f.with() })).await? {
        let first = why.fields().first().map(|(_, first)| first.to_string());
        let problem = first.map_or_else(|| why.to_string(), |first| format!("Nothing was stored. {first}"));
        let mut f = f;
        f.marked(&why);
        let head = load(&shared, id).await?;
        return drawn(&head.job, board, f, problem, status_of(&why));
    }
    let mut response = go_done(&format!("/jobs/{id}/boards/{board}/sheet"), "sheet");
    remember(&mut response, &[("writer", &by), ("paper_on", f.trimmed("paper_on"))]);
    Ok(response)
}
