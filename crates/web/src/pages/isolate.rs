//! Isolation of a board, or of one of its circuits alone: loads off, locked, the indicator proved before,
//! every pair, proved again.

use super::framed;
use crate::error::{Handled, WebError, go, page_with, status_of};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::request::{did, find_board, load, named, remember, remembered};
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use proof_job::installation::{Board, Circuit, Feeds};
use proof_job::job::Job;
use proof_job::site::EventKind;
use proof_job::site::isolation::{Isolation, PairShown, circuit_pairs, field_of, meaning, pairs};
use proof_standard::conductor::Pair;
use proof_work::actions::{Action, Isolating};
use proof_work::gate::{check_in_use, sources_behind};
use proof_work::plan::reach::possible_alone;
use rust_decimal::Decimal;
use serde::Deserialize;
use uuid::Uuid;

/// What is typed for an indication without a figure.
const LIT: &str = "lit";

/// A pair to be proved.
pub(crate) struct PairRow {
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
    rows: Vec<PairRow>,
    sources: Vec<(String, String)>,
    indicators: Vec<String>,
    people: Vec<String>,
    then: String,
    found: String,
    /// One circuit alone.
    way: Option<CircuitAlone>,
    f: Fields,
}

/// A circuit that is isolated alone.
pub(crate) struct CircuitAlone {
    pub id: Uuid,
    pub name: String,
    pub device: String,
    /// Where it may be proved.
    pub places: Vec<String>,
    pub has_neutral: bool,
    /// Dead tests possible so, where the device breaks the line only and where it breaks the neutral too.
    pub possible: [usize; 2],
    pub dead_tests: usize,
    /// The board stood before, and will be said to be in use.
    pub in_use: bool,
}

impl CircuitAlone {
    fn for_circuit(job: &Job, circuit: &Circuit) -> Self {
        let possible = |neutral| possible_alone(&job.installation, circuit, neutral);
        Self {
            id: circuit.id,
            name: format!("{} {}", circuit.way, circuit.description),
            device: circuit.device.shown(),
            places: circuit.points.iter().map(|point| point.name.clone()).collect(),
            has_neutral: circuit.has_neutral(),
            possible: [possible(false).0, possible(true).0],
            dead_tests: possible(true).1,
            in_use: check_in_use(job, circuit.board).is_ok(),
        }
    }
}

#[derive(Deserialize, Default)]
pub(crate) struct Then {
    then: Option<String>,
    way: Option<Uuid>,
}

/// The circuit of a board that is isolated alone, where one is named.
fn one_way(job: &Job, board: Uuid, way: Option<Uuid>) -> Result<Option<&Circuit>, WebError> {
    let Some(id) = way else { return Ok(None) };
    let circuit = job.installation.circuit(id).filter(|circuit| circuit.board == board);
    circuit.map(Some).ok_or_else(|| WebError::NotFound("There is no such way on this board.".into()))
}

/// Only to a sheet of this job: nothing typed into an address leads elsewhere.
fn own_sheet(job: Uuid, board: Uuid, then: &str) -> String {
    if then == "run" { format!("/jobs/{job}/run") } else { format!("/jobs/{job}/boards/{board}#state") }
}

fn drawn(job: &Job, board: Uuid, then: &str, found: String, f: Fields, status: StatusCode) -> Handled {
    let board = find_board(job, board)?.clone();
    let way = one_way(job, board.id, f.get("way").parse().ok())?;
    let sources = match way {
        Some(circuit) => sources_behind(&job.installation, circuit.id),
        None => job.installation.sources.iter().collect(),
    };
    let wanted = way.map_or_else(|| pairs(board.lines), circuit_pairs);
    let ways: Vec<_> = job.installation.circuits_on(board.id).collect();
    let lights = ways.iter().find(|circuit| circuit.feeds == Feeds::Lighting);
    page_with(
        status,
        &IsolatePage {
            frame: framed(&format!("Isolate {}", board.name), Section::Run, job, &job.events),
            job: job.id,
            last_off: lights.map(|c| format!("{} {}", c.way, c.description)).unwrap_or_default(),
            ways: ways.iter().map(|circuit| circuit.way.clone()).collect(),
            rows: wanted.into_iter().map(|pair| PairRow { field: field_of(pair), pair }).collect(),
            sources: sources
                .into_iter()
                .map(|source| {
                    (format!("source-{}", source.id), format!("{}: {}", source.kind.label(), source.isolator))
                })
                .collect(),
            indicators: job.instruments.iter().map(|one| one.reference.clone()).collect(),
            people: job.people.iter().map(|person| person.name.clone()).collect(),
            then: then.to_owned(),
            way: way.map(|circuit| CircuitAlone::for_circuit(job, circuit)),
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
    f.put("way", query.way.map(|way| way.to_string()).unwrap_or_default());
    f.put("lock", remembered(&request, "lock"));
    f.put("indicator", remembered(&request, "indicator"));
    drawn(&head.job, board, query.then.as_deref().unwrap_or_default(), String::new(), f, StatusCode::OK)
}

/// What the indicator showed, pair by pair; what is no figure is said at its field.
fn shown(wanted: &[Pair], f: &mut Fields) -> Vec<PairShown> {
    let mut all = Vec::new();
    for &pair in wanted {
        let field = field_of(pair);
        if f.ticked(&format!("lit-{field}")) || f.trimmed(&field).eq_ignore_ascii_case(LIT) {
            all.push(PairShown { pair, volts: Decimal::ZERO, lit: true });
        } else if let Some(volts) = f.decimal(&field, "volts such as 0 or 230, or lit where it shows no figure") {
            all.push(PairShown { pair, volts, lit: false });
        }
    }
    all
}

/// Why the indicator says that a board or a circuit is not isolated, if it does.
fn not_isolated(job: &Job, board: Uuid, wanted: &[Pair], shown: &[PairShown]) -> Option<String> {
    let last = job.events.last()?;
    match (&last.kind, meaning(wanted, shown)) {
        (EventKind::NotIsolated { board: of, because, .. }, Isolation::NotIsolated(_)) if *of == board => {
            Some(format!("{}. It is in the log; nothing is proved dead.", crate::words::sentence(because)))
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
    let circuit: Option<Uuid> = f.get("way").parse().ok();
    let (wanted, sources) = {
        let head = load(&shared, job).await?;
        let sources: Vec<Uuid> = head.job.installation.sources.iter().map(|source| source.id).collect();
        let board = find_board(&head.job, board_id)?;
        let way = one_way(&head.job, board_id, circuit)?;
        (way.map_or_else(|| pairs(board.lines), circuit_pairs), sources)
    };
    let (then, by) = (f.get("then").to_owned(), named(&request, &f));
    let shown = shown(&wanted, &mut f);
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
        circuit,
        neutral: f.ticked("neutral"),
        place: f.trimmed("place").to_owned(),
    };
    let done = did(&shared, job, &f, &by, Action::Isolate(given)).await?;
    let head = load(&shared, job).await?;
    if let Err(why) = done {
        f.marked(&why);
        let problem = if why.fields().is_empty() { why.to_string() } else { String::new() };
        return drawn(&head.job, board_id, &then, problem, f, status_of(&why));
    }
    if let Some(found) = not_isolated(&head.job, board_id, &wanted, &shown) {
        return drawn(&head.job, board_id, &then, found, f, StatusCode::CONFLICT);
    }
    let mut response = go(&own_sheet(job, board_id, &then));
    remember(&mut response, &[("writer", &by), ("lock", f.trimmed("lock")), ("indicator", f.trimmed("indicator"))]);
    Ok(response)
}
