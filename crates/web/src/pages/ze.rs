//! Ze in its own state: the supply exposed, figures held on the screen, filed only when the earthing
//! conductor is back on.

use super::readings::{Site, reading_of};
use super::state::{remember_writer, who};
use super::{blocking, framed, remembered};
use crate::Shared;
use crate::error::{Handled, WebError, go, page_with};
use crate::fields::Fields;
use crate::frame::Frame;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use jiff::Timestamp;
use proof_core::conductor::Pair;
use proof_core::gate::may_expose;
use proof_core::installation::Feed;
use proof_core::job::Job;
use proof_core::plan::sequence::origin_steps;
use proof_core::reading::Step;
use proof_core::reading::keys::{current_key, own_loop_key};
use proof_core::reading::{Reading, Settled, Test, Value};
use proof_core::site::{BoardState, Event, EventKind, board_state};
use proof_core::standard::supply::EarthingSystem;
use proof_core::supply_chain::at_origin;
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// A line to be read.
pub struct Line {
    pub field: String,
    pub label: String,
    pub id: Uuid,
}

#[derive(Template)]
#[template(path = "ze.html")]
struct ZePage {
    frame: Frame,
    job: Uuid,
    board: Option<(Uuid, String)>,
    state: &'static str,
    /// Seconds since the earthing conductor came off.
    off_for: i64,
    lines: Vec<Line>,
    declared: String,
    instruments: Vec<(Uuid, String)>,
    instrument: String,
    problem: String,
    f: Fields,
}

fn steps(job: &Job) -> Vec<Step> {
    origin_steps(&job.installation).into_iter().filter(|step| step.key.test == Test::Ze).collect()
}

/// The board at the origin.
fn origin_board(job: &Job) -> Option<Uuid> {
    job.installation.boards.iter().find(|board| board.fed_by == Feed::Supply).map(|board| board.id)
}

fn drawn(job: &Job, request: &HttpRequest, problem: String, f: Fields, status: StatusCode) -> Handled {
    let board = origin_board(job);
    let (state, since) = board.map_or((BoardState::NotProved, None), |board| board_state(&job.events, board));
    let off_for = since.map_or(0, |(at, _)| Timestamp::now().duration_since(at).as_secs());
    let id_of = |field: &str| f.get(&format!("id-{field}")).parse().unwrap_or_else(|_| Uuid::new_v4());
    let system = job.installation.supply.system;
    let page = ZePage {
        frame: framed("Ze", "origin", job, &job.events),
        job: job.id,
        board: board.and_then(|id| Some((id, job.installation.board(id)?.name.clone()))),
        state: match state {
            BoardState::SupplyExposed => "exposed",
            BoardState::ProvedDead => "dead",
            BoardState::NotProved | BoardState::Energised => "other",
        },
        off_for,
        lines: steps(job)
            .into_iter()
            .map(|step| Line { id: id_of(&step.slug), field: step.slug, label: step.label })
            .collect(),
        declared: match system {
            EarthingSystem::Tt => "TT: held to 50 V / IΔn of the RCD that relies on the electrode".to_owned(),
            _ => format!("{}: declared maximum {} Ω", system.name(), system.declared_ze().get()),
        },
        instruments: job.instruments.iter().map(|one| (one.id, format!("{} {}", one.reference, one.kind))).collect(),
        instrument: if f.get("instrument").is_empty() {
            remembered(request, "instrument")
        } else {
            f.get("instrument").to_owned()
        },
        problem,
        f,
    };
    page_with(status, &page)
}

async fn load(shared: &Data<Shared>, job: Uuid) -> Result<Job, WebError> {
    let store = shared.store.clone();
    blocking(move || Ok(store.job(job)?.job.clone())).await
}

pub async fn show(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest) -> Handled {
    let job = load(&shared, path.into_inner()).await?;
    let mut f = Fields::default();
    f.put("entered_by", remembered(&request, "writer"));
    drawn(&job, &request, String::new(), f, StatusCode::OK)
}

/// Why a figure is not Ze, where something says so. A loop of several ohms on a supply with the
/// distributor's earth is a current; what equals the current is the current.
pub fn not_ze(job: &Job, settled: &Settled<'_>, step: &Step, ohm: Decimal) -> Option<String> {
    let system = job.installation.supply.system;
    let current = settled.value(&current_key(Pair::LINE_EARTH, step.key.line)).and_then(Value::number);
    if current == Some(ohm) || at_origin(&job.installation, settled).is_some_and(|found| found.recorded_ka == ohm) {
        return Some(format!(
            "{ohm} is the fault current in kA: the current shown beside Ze is not recorded, and it is not Ze. Type the ohms"
        ));
    }
    if system != EarthingSystem::Tt && ohm > MOST_OF_TN {
        return Some(format!(
            "{ohm} Ω is no loop of a {} supply: it looks like a current. Type the ohms, such as 0.21",
            system.name()
        ));
    }
    let own = settled.value(&own_loop_key(Pair::LINE_EARTH, step.key.line)).and_then(Value::number);
    (own == Some(ohm)).then(|| {
        format!("{ohm} Ω is the loop of the fault-current test, read with the earth on: paths in parallel are in it. Ze is read with the earthing conductor off")
    })
}

/// Above this a loop of a supply with the distributor's earth is more likely a current (common
/// practice, no source), Ω.
const MOST_OF_TN: Decimal = dec!(10);

/// Takes the earthing conductor off: nothing else is open, everything is proved dead.
pub async fn expose(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let by = who(&request, &f)?;
    let job = load(&shared, id).await?;
    let Some(board) = origin_board(&job) else {
        return Err(WebError::Clash("No board is fed by the supply: describe it first. Nothing was stored.".into()));
    };
    if let Err(refusal) = may_expose(&job.installation, &job.events, board) {
        return drawn(&job, &request, format!("Not exposed: {}.", refusal.why), f, StatusCode::CONFLICT);
    }
    let event = Event::new(&by, Timestamp::now(), EventKind::SupplyExposed { board });
    let store = shared.store.clone();
    blocking(move || Ok(store.append_events(id, &[event])?)).await?;
    let mut response = go(&format!("/jobs/{id}/origin/ze"));
    remember_writer(&mut response, &by);
    Ok(response)
}

/// Files the figures with the word that the earthing conductor is back on; or only that word.
pub async fn file(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let job = load(&shared, id).await?;
    let again = |f: Fields, problem: &str, status| drawn(&job, &request, problem.to_owned(), f, status);
    let Some(board) = origin_board(&job) else {
        return again(f, "No board is fed by the supply.", StatusCode::CONFLICT);
    };
    if board_state(&job.events, board).0 != BoardState::SupplyExposed {
        return again(
            f,
            "Nothing was filed: the earthing conductor is not off, so this is no Ze.",
            StatusCode::CONFLICT,
        );
    }
    let by = f.trimmed("entered_by").to_owned();
    if by.is_empty() {
        f.wrong("entered_by", "Who writes this down?");
    }
    if !f.ticked("refitted") {
        f.wrong(
            "refitted",
            "Refit the earthing conductor now; the figures stay here and are filed when it is back on.",
        );
    }
    let settled = Settled::new(&job.readings, &job.events);
    let site = Site { job: &job, events: &job.events, readings: &job.readings };
    let mut readings: Vec<Reading> = Vec::new();
    for step in steps(&job) {
        let typed = f.get(&step.slug).to_owned();
        if typed.trim().is_empty() {
            if !f.is("only", "refitted") {
                f.wrong(&step.slug, "Read it, or write lim and the reason.");
            }
            continue;
        }
        let mut one = f.clone();
        one.put("typed", typed);
        let id = f.get(&format!("id-{}", step.slug)).parse().unwrap_or_else(|_| Uuid::new_v4());
        one.put("id", id.to_string());
        match reading_of(&one, &step, site, Timestamp::now())? {
            Ok(reading) => match reading.value.number().and_then(|ohm| not_ze(&job, &settled, &step, ohm)) {
                Some(why) => f.wrong(&step.slug, format!("{why}.")),
                None => readings.push(reading),
            },
            Err(problem) => f.wrong(&step.slug, problem),
        }
    }
    drop(settled);
    if f.any_wrong() {
        let problem = "Nothing was filed yet: see what is marked. What you typed stands here.";
        return again(f, problem, StatusCode::UNPROCESSABLE_ENTITY);
    }
    let refit = Event::new(&by, Timestamp::now(), EventKind::EarthRefitted { board });
    let store = shared.store.clone();
    blocking(move || {
        // One transaction: the figures and the word that ends the exposure.
        store.append_readings_with(id, &readings, &[refit])?;
        Ok(())
    })
    .await?;
    let mut response = go(&format!("/jobs/{id}/origin?last=ze"));
    super::circuit::set_cookies(
        &mut response,
        vec![super::remember("writer", &by), super::remember("instrument", f.trimmed("instrument"))],
    );
    Ok(response)
}
