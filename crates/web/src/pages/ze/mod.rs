//! Ze in its own state: the supply exposed, figures held on the screen, filed only when the earthing
//! conductor is back on.

mod sent;

use super::{framed, run};
use crate::error::{Handled, go, page_with, status_of};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::pages::energise::spoken_to;
use crate::pages::run::feed::Seen;
use crate::request::{did, load, remember, remembered, who};
use crate::shared::Shared;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use jiff::Timestamp;
use proof_job::installation::Feed;
use proof_job::job::Job;
use proof_job::reading::{Step, Value};
use proof_job::site::BoardState;
use proof_job::site::spoken_to::before_exposure;
use proof_standard::limits::supply::EarthingSystem;
use proof_store::HeldMessage;
use proof_work::actions::{Action, Refusal, Ze, exposure, ze_steps};
use rust_decimal::Decimal;
use serde::Deserialize;
use uuid::Uuid;

/// A line to be read.
pub(crate) struct ZeRow {
    pub field: String,
    pub label: String,
    pub id: Uuid,
    /// As the instrument sent it, while that stands in the field.
    pub sent: String,
}

#[derive(Template)]
#[template(path = "ze.html")]
struct ZePage {
    frame: Frame,
    job: Uuid,
    board: Option<(Uuid, String)>,
    state: BoardState,
    /// Seconds since the earthing conductor came off.
    off_for: i64,
    /// The event by which it came off: what a browser keeps of the fields is of this time alone.
    exposure: String,
    lines: Vec<ZeRow>,
    declared: String,
    instruments: Vec<(Uuid, String)>,
    instrument: String,
    strip: Option<sent::Strip>,
    /// Who isolated what the supply feeds, when and with which lock.
    isolated: Vec<String>,
    /// Somebody else did: that person's word is asked.
    others: bool,
    problem: String,
    f: Fields,
}

/// The board at the origin.
fn origin_board(job: &Job) -> Option<Uuid> {
    job.installation.boards.iter().find(|board| board.fed_by == Feed::Supply).map(|board| board.id)
}

/// The page; with it what instruments sent, and what of it has no field.
fn page_of(
    job: &Job,
    request: &HttpRequest,
    problem: String,
    f: Fields,
    (held, beside): (&[HeldMessage], Vec<sent::Beside>),
) -> ZePage {
    let board = origin_board(job);
    let (state, since) = board.map_or((BoardState::NotProved, None), |board| job.site().board(board));
    let off_for = since.map_or(0, |(at, _)| Timestamp::now().duration_since(at).as_secs());
    let id_of = |field: &str| f.get(&format!("id-{field}")).parse().unwrap_or_else(|_| Uuid::new_v4());
    let joined = run::feed::joined(request, job);
    let in_use = joined.as_ref().map(|one| one.feed.instrument.to_string());
    let system = job.installation.supply.system;
    let mut written = f.clone();
    written.put("by", f.get("entered_by"));
    let people = before_exposure(&job.installation, &job.site(), "");
    let (isolated, others) = spoken_to(people, &written);
    ZePage {
        isolated,
        others,
        frame: framed("Ze", Section::Origin, job, &job.events),
        job: job.id,
        board: board.and_then(|id| Some((id, job.installation.board(id)?.name.clone()))),
        state,
        off_for,
        exposure: exposure(job).map(|event| event.id.to_string()).unwrap_or_default(),
        lines: ze_steps(&job.installation)
            .into_iter()
            .map(|step| ZeRow {
                id: id_of(&step.slug),
                sent: sent::in_field(held, &f, &step.slug).map_or_else(String::new, |one| one.message.typed()),
                field: step.slug,
                label: step.label,
            })
            .collect(),
        declared: match system {
            EarthingSystem::Tt => "TT: held to 50 V / IΔn of the RCD that relies on the electrode".to_owned(),
            _ => format!("{}: declared maximum {} Ω", system.name(), job.installation.declared_ze().normalize()),
        },
        instruments: job.instruments.iter().map(|one| (one.id, format!("{} {}", one.reference, one.kind))).collect(),
        instrument: match (f.get("instrument"), in_use) {
            ("", Some(joined)) => joined,
            ("", None) => remembered(request, "instrument"),
            (given, _) => given.to_owned(),
        },
        strip: joined.map(|joined| sent::Strip { joined, placed: held.len(), beside }),
        problem,
        f,
    }
}

async fn drawn(
    shared: &Data<Shared>,
    job: &Job,
    request: &HttpRequest,
    problem: String,
    mut f: Fields,
    status: StatusCode,
) -> Handled {
    let held = sent::held(shared, job).await?;
    let (_, beside) = sent::put(job, &held, &mut f);
    page_with(status, &page_of(job, request, problem, f, (&held, beside)))
}

#[derive(Deserialize, Default)]
pub(crate) struct Then {
    then: Option<String>,
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<Uuid>, query: Query<Then>, request: HttpRequest) -> Handled {
    let head = load(&shared, path.into_inner()).await?;
    let mut f = Fields::default();
    f.put("then", query.into_inner().then.unwrap_or_default());
    f.put("entered_by", remembered(&request, "writer"));
    drawn(&shared, &head.job, &request, String::new(), f, StatusCode::OK).await
}

/// Takes the earthing conductor off: nothing else is open, everything is proved dead.
pub(crate) async fn expose(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let by = who(&request, &f)?;
    if let Err(why) = did(&shared, id, &f, &by, Action::Expose { spoke_to: f.get("word").to_owned() }).await? {
        let head = load(&shared, id).await?;
        f.marked(&why);
        f.put("entered_by", by);
        return drawn(&shared, &head.job, &request, format!("Not exposed: {why}"), f, status_of(&why)).await;
    }
    let then = if f.is("then", "run") { "?then=run" } else { "" };
    let mut response = go(&format!("/jobs/{id}/origin/ze{then}"));
    remember(&mut response, &[("writer", &by)]);
    Ok(response)
}

/// The step of the line whose Ze is told: of three the worst.
fn worst_line(job: &Job) -> String {
    let settled = job.settled();
    let ohm = |step: &Step| match settled.value(&step.key) {
        Some(Value::Number(ohm)) => (0, *ohm),
        Some(Value::Open | Value::Over(_)) => (1, Decimal::ZERO),
        _ => (-1, Decimal::ZERO),
    };
    let worst = ze_steps(&job.installation).into_iter().max_by_key(ohm);
    worst.map_or_else(|| "ze".to_owned(), |step| step.slug)
}

/// Files the figures with the word that the earthing conductor is back on; or only that word.
pub(crate) async fn file(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let (figures, origin) = {
        let head = load(&shared, id).await?;
        let held = sent::held(&shared, &head.job).await?;
        let steps = ze_steps(&head.job.installation).into_iter();
        let figures = steps.map(|step| sent::figure(&held, &f, step.slug)).collect();
        (figures, origin_board(&head.job))
    };
    let (earth_restored, only_restored) = (f.ticked("refitted"), f.is("only", "refitted"));
    let ze = Ze { figures, earth_restored, only_restored };
    let by = f.trimmed("entered_by").to_owned();
    if let Err(why) = did(&shared, id, &f, &by, Action::Ze(ze)).await? {
        f.marked(&why);
        let problem = match &why {
            Refusal::Fields(_) => "Nothing was filed yet: see what is marked. What you typed stands here.".to_owned(),
            other => other.to_string(),
        };
        let head = load(&shared, id).await?;
        return drawn(&shared, &head.job, &request, problem, f, status_of(&why)).await;
    }
    let run = origin.filter(|_| f.is("then", "run"));
    let last = worst_line(&load(&shared, id).await?.job);
    let to = run.map_or_else(
        || format!("/jobs/{id}/origin?last={last}"),
        |of| format!("/jobs/{id}/run?last_of={of}&last={last}"),
    );
    let mut response = go(&to);
    remember(&mut response, &[("writer", &by), ("instrument", f.trimmed("instrument"))]);
    Ok(response)
}

#[derive(Template)]
#[template(path = "ze_sent.html")]
struct SentFigures {
    job: Uuid,
    strip: Option<sent::Strip>,
    /// Those that a figure went into.
    lines: Vec<ZeRow>,
    f: Fields,
}

/// What came since the page was drawn: the fields that it went into, or nothing.
pub(crate) async fn look(
    shared: Data<Shared>,
    path: Path<Uuid>,
    query: Query<Seen>,
    request: HttpRequest,
    mut f: Fields,
) -> Handled {
    let id = path.into_inner();
    let head = load(&shared, id).await?;
    if !request.headers().contains_key("hx-request") {
        // Without scripts the page comes whole, with what was typed.
        return drawn(&shared, &head.job, &request, String::new(), f, StatusCode::OK).await;
    }
    let joined = shared.feeds.for_job(id).filter(|_| exposure(&head.job).is_some());
    let Some((_, line)) = joined else {
        // Left or filed meanwhile, by another: the page is loaded again.
        return Ok(HttpResponse::NoContent().insert_header(("hx-refresh", "true")).finish());
    };
    if line.seen == query.seen {
        return Ok(HttpResponse::NoContent().finish());
    }
    let held = sent::held(&shared, &head.job).await?;
    let (changed, beside) = sent::put(&head.job, &held, &mut f);
    let ZePage { job, strip, mut lines, f, .. } = page_of(&head.job, &request, String::new(), f, (&held, beside));
    lines.retain(|line| changed.contains(&line.field));
    page_with(StatusCode::OK, &SentFigures { job, strip, lines, f })
}
