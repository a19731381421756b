//! The origin: bonds dead; supply polarity, Ze and fault current live. And a board as a whole: phase
//! sequence, functional tests, labels.

use super::circuit::strike_out;
use super::entry::{EntryContext, EntryQuery, EntrySheet, figure, next_open, remember_entry};
use super::framed;
use crate::error::{Handled, WebError, go, html, status_of};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::pages::entry::window_of;
use crate::request::{did, find_board, is_partial, load};
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use proof_job::installation::{Circuit, Feed, Installation};
use proof_job::job::Job;
use proof_job::reading::entry::Field;
use proof_job::reading::{CurrentReadings, Step, Subject, Test};
use proof_job::site::{LeadState, leads};
use proof_judge::expectation::{Band, Unknown, bond_band, earthing_band};
use proof_judge::supply_chain::{FaultLevel, fault_level, recorded};
use proof_judge::verdict::{CircuitJudge, judge_origin};
use proof_standard::house_rules::LeadCompensation;
use proof_standard::limits::Source;
use proof_work::actions::{Action, leads_said, shown_steps_of};
use proof_work::plan::outstanding::step_state;
use proof_work::plan::sequence::labels_wanted;
use proof_work::plan::substitute::Scope;
use serde::Deserialize;
use uuid::Uuid;

#[derive(Deserialize, Default)]
pub(crate) struct Wanted {
    at: Option<String>,
    last: Option<String>,
}

#[derive(Template)]
#[template(path = "origin_work.html")]
struct Work {
    sheet: EntrySheet,
    fault: Option<String>,
    no_bonds: bool,
    job: Uuid,
}

#[derive(Template)]
#[template(path = "origin.html")]
struct OriginPage {
    frame: Frame,
    heading: String,
    system: &'static str,
    declared: String,
    work: String,
    board: Option<Uuid>,
    for_board: bool,
    labels: Vec<String>,
    levels: Vec<(String, String)>,
}

/// What the readings are of: the supply, or a board as a whole.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Of {
    Supply,
    Board(Uuid),
}

impl Of {
    fn base(self, job: Uuid) -> String {
        match self {
            Self::Supply => format!("/jobs/{job}/origin"),
            Self::Board(board) => format!("/jobs/{job}/boards/{board}/tests"),
        }
    }

    /// The circuit that feeds the board.
    fn feeder(self, job: &Job) -> Option<&Circuit> {
        let Self::Board(board) = self else { return None };
        let Feed::Circuit { circuit } = job.installation.board(board)?.fed_by else { return None };
        job.installation.circuit(circuit)
    }

    /// What a step is read of: the feeder has its Zs at the board.
    fn scope<'a>(self, job: &'a Job, step: &Step) -> Scope<'a> {
        let installation = &job.installation;
        let circuit = step.key.subject.circuit().and_then(|id| installation.circuit(id)).map(Scope::Circuit);
        let board = || match self {
            Self::Supply => None,
            Self::Board(board) => installation.board(board).map(Scope::Board),
        };
        circuit.or_else(board).unwrap_or(Scope::Origin)
    }

    /// What is read there; what the method chosen does without only where it was read.
    fn steps(self, job: &Job, settled: &CurrentReadings<'_>) -> Vec<Step> {
        let board = if let Self::Board(board) = self { Some(board) } else { None };
        shown_steps_of(&job.installation, settled, board)
    }
}

pub(crate) fn band(job: &Job, step: &Step) -> Result<Band, Unknown> {
    match (step.key.test, &step.key.subject) {
        (Test::BondContinuity, Subject::Bond { bond }) => job
            .installation
            .supply
            .bonds
            .iter()
            .find(|other| other.id == *bond)
            .ok_or(Unknown::BondSize)
            .and_then(bond_band),
        (Test::EarthingConductor, _) if step.field == Field::Continuity => Ok(earthing_band()),
        (Test::Ze, _) => {
            let system = job.installation.supply.system;
            let declared = proof_standard::quantity::approximate(*job.installation.declared_ze());
            Ok(Band {
                low: 0.0,
                high: Some(declared),
                centre: None,
                basis: format!("declared maximum of a {} supply", system.name()),
                source: Source::practice("a supply is usually well under its declared maximum"),
            })
        }
        _ => Err(Unknown::Supply),
    }
}

/// Within what the residual main device of a board trips, and which it is.
pub(crate) fn main_window(installation: &Installation, step: &Step) -> Option<(String, String)> {
    let Subject::Board { board } = step.key.subject else { return None };
    window_of(installation, installation.board(board)?.main_switch.residual()?, step)
}

fn respond(job: &Job, of: Of, request: &HttpRequest, asked: &EntryQuery, status: StatusCode) -> Handled {
    let installation = &job.installation;
    let settled = job.settled();
    let state = LeadState::from_job(&job.events, &job.readings);
    let feeder = of.feeder(job).map(|circuit| CircuitJudge::new(installation, circuit, &settled));
    let bench = EntryContext {
        steps: of.steps(job, &settled),
        settled: &settled,
        judge: Box::new(|step, value| match &feeder {
            // Zdb is the Zs of the circuit that feeds the board.
            Some(judge) if step.key.subject.circuit().is_some() => judge.judge(step, value),
            _ => judge_origin(installation, &settled, step, value),
        }),
        explain: Box::new(|step, value| match &feeder {
            Some(judge) if step.key.subject.circuit().is_some() => judge.explain(step, value),
            _ => judge_origin(installation, &settled, step, value),
        }),
        band: Box::new(|step| match &feeder {
            Some(judge) if step.key.subject.circuit().is_some() => judge.band(&step.key),
            _ => band(job, step),
        }),
        window: Box::new(|step| main_window(installation, step)),
        state: Box::new(|step| step_state(installation, of.scope(job, step), &settled, step)),
        leads: Box::new(|step| leads_said(installation, step)),
        proposed: Box::new(|_| None),
        nulled: Box::new(|step| state.serves(LeadCompensation::Hold, leads(installation, step))),
        base: of.base(job.id),
        ring: false,
        of_what: if of == Of::Supply { "this supply" } else { "this board" },
    };
    let level = |board: Uuid| fault_level(installation, &settled, board);
    let fault = match of {
        Of::Supply => recorded(installation, &settled).map(|(ka, kind)| format!("{ka} kA, {kind}")),
        Of::Board(board) => level(board).map(|level| format!("{} kA at this board: {}", level.ka, level.how)),
    };
    let work = Work {
        sheet: bench.sheet(job, request, asked),
        fault,
        no_bonds: of == Of::Supply && installation.supply.bonds.is_empty(),
        job: job.id,
    }
    .render()?;
    let body = if is_partial(request) {
        work + &framed("", Section::Origin, job, &job.events).bands_beside()
    } else {
        whole(job, of, work, level)?
    };
    Ok(html(status, body))
}

/// The whole page, rather than the part that a reading changes.
fn whole(job: &Job, of: Of, work: String, level: impl Fn(Uuid) -> Option<FaultLevel>) -> Result<String, askama::Error> {
    let installation = &job.installation;
    let system = installation.supply.system;
    let board = match of {
        Of::Supply => installation.boards.first(),
        Of::Board(board) => installation.board(board),
    };
    let heading = match of {
        Of::Supply => "Origin".to_owned(),
        Of::Board(_) => format!("{}: the board as a whole", board.map_or("", |board| board.name.as_str())),
    };
    let levels = installation
        .boards
        .iter()
        .filter(|_| of == Of::Supply && installation.boards.len() > 1)
        .filter_map(|board| Some((board.name.clone(), level(board.id)?)))
        .map(|(name, level)| (name, format!("{} kA, {}", level.ka, level.how)))
        .collect();
    let declared = installation.declared_ze();
    OriginPage {
        frame: framed(&heading, Section::Origin, job, &job.events),
        heading,
        system: system.name(),
        declared: format!("{} Ω ({})", declared.normalize(), declared.source.line()),
        work,
        board: board.map(|board| board.id),
        for_board: of != Of::Supply,
        labels: board.filter(|_| of != Of::Supply).map(|board| labels_wanted(installation, board)).unwrap_or_default(),
        levels,
    }
    .render()
}

async fn shown(shared: Data<Shared>, job: Uuid, of: Of, query: Wanted, request: HttpRequest) -> Handled {
    let head = load(&shared, job).await?;
    if let Of::Board(board) = of {
        find_board(&head.job, board)?;
    }
    let Wanted { at, last } = query;
    respond(&head.job, of, &request, &EntryQuery { at, last, ..EntryQuery::default() }, StatusCode::OK)
}

pub(crate) async fn show(
    shared: Data<Shared>,
    path: Path<Uuid>,
    query: Query<Wanted>,
    request: HttpRequest,
) -> Handled {
    shown(shared, path.into_inner(), Of::Supply, query.into_inner(), request).await
}

pub(crate) async fn show_board(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    query: Query<Wanted>,
    request: HttpRequest,
) -> Handled {
    let (job, board) = path.into_inner();
    shown(shared, job, Of::Board(board), query.into_inner(), request).await
}

async fn entered(shared: Data<Shared>, id: Uuid, of: Of, request: HttpRequest, f: Fields) -> Handled {
    let before = load(&shared, id).await?;
    if let Of::Board(board) = of {
        find_board(&before.job, board)?;
    }
    let steps = of.steps(&before.job, &before.job.settled());
    let slug = f.get("step").to_owned();
    let step = steps.iter().find(|step| step.slug == slug);
    let step = step.ok_or_else(|| WebError::Bad(format!("“{slug}” is no step here: load the page again.")))?;
    let done = did(&shared, id, &f, f.trimmed("entered_by"), Action::Read(figure(&f, step))).await?;
    let head = load(&shared, id).await?;
    if let Err(why) = done {
        let status = status_of(&why);
        let asked = EntryQuery { at: Some(slug), given_back: Some(f), error: why.to_string(), ..EntryQuery::default() };
        return respond(&head.job, of, &request, &asked, status);
    }
    let settled = head.job.settled();
    let job = &head.job;
    let next = next_open(&steps, |step| step_state(&job.installation, of.scope(job, step), &settled, step), &slug);
    let to = format!("{}?at={}&last={slug}", of.base(id), next.as_deref().unwrap_or(&slug));
    let mut response = if is_partial(&request) {
        let paper = f.ticked("paper");
        let asked = EntryQuery { at: next.or(Some(slug.clone())), last: Some(slug), paper, ..EntryQuery::default() };
        respond(&head.job, of, &request, &asked, StatusCode::OK)?
    } else {
        go(&to)
    };
    remember_entry(&mut response, &f);
    Ok(response)
}

pub(crate) async fn enter(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    entered(shared, path.into_inner(), Of::Supply, request, f).await
}

pub(crate) async fn enter_board(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    request: HttpRequest,
    f: Fields,
) -> Handled {
    let (job, board) = path.into_inner();
    entered(shared, job, Of::Board(board), request, f).await
}

async fn struck(shared: Data<Shared>, id: Uuid, of: Of, request: HttpRequest, f: Fields) -> Handled {
    let at: String = f.get("step").chars().filter(|c| c.is_ascii_alphanumeric() || *c == '-').take(80).collect();
    strike_out(shared, id, &request, &f, format!("{}?at={at}", of.base(id))).await
}

pub(crate) async fn strike(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    struck(shared, path.into_inner(), Of::Supply, request, f).await
}

pub(crate) async fn strike_board(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    request: HttpRequest,
    f: Fields,
) -> Handled {
    let (job, board) = path.into_inner();
    struck(shared, job, Of::Board(board), request, f).await
}
