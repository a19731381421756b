//! The run: one card at a time, what to do now; made for one hand and a phone.

mod card;
pub(crate) mod feed;
mod input;
mod joined;
mod plan;
mod today;
mod view;

use super::entry::{EntryQuery, figure, remember_entry};
use crate::error::{Handled, WebError, go, status_of};
use crate::forms::{Fields, by_key};
use crate::request::{change, did, is_partial, load, named, remember, who};
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{self, Data, Path};
use card::RunQuestion;
use input::{Hands, RunInput, order_of};
pub(crate) use plan::plan;
use proof_job::installation::PointId;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Place, Stage, Step, Test};
use proof_standard::house_rules::{ArmourAndTray, ContinuityMethod};
use proof_standard::quantity::Celsius;
use proof_work::actions::{Action, Beginning, CardAction, CardKind, Opened, Powering, Refusal, Runs, Walk, walk_steps};
use proof_work::live_tests::Live;
use proof_work::plan::run::{Order, Planned, Run};
use serde::Deserialize;
use today::put_off;
use uuid::Uuid;
use view::respond;

#[derive(Deserialize, Default)]
pub(crate) struct Query {
    of: Option<Uuid>,
    at: Option<String>,
    last: Option<String>,
    last_of: Option<Uuid>,
}

pub(crate) async fn show(
    shared: Data<Shared>,
    path: Path<Uuid>,
    query: web::Query<Query>,
    request: HttpRequest,
) -> Handled {
    let head = load(&shared, path.into_inner()).await?;
    let Query { of, at, last, last_of } = query.into_inner();
    respond(&head.job, &request, &RunInput { of, at, last: last_of.zip(last), ..RunInput::default() })
}

/// Chooses the order.
pub(crate) async fn order(path: Path<Uuid>, f: Fields) -> Handled {
    let id = path.into_inner();
    let order = by_key(&Order::ALL, f.get("order"), Order::key).unwrap_or_default();
    let mut response = go(&format!("/jobs/{id}/run"));
    remember(&mut response, &[("order", order.key())]);
    Ok(response)
}

fn asked_for(f: &Fields) -> (Option<Uuid>, Option<String>) {
    (f.get("of").parse().ok(), Some(f.get("step").to_owned()).filter(|slug| !slug.is_empty()))
}

/// A question that is asked once, answered.
enum CardAnswer {
    /// How warm the cables are.
    Ambient(Celsius),
    /// Whether metal runs beside the CPCs of a board.
    Parallel(Option<Uuid>, bool),
    /// Whether the armour of a circuit's cable is connected to its CPC.
    Armour(Option<Uuid>, ArmourAndTray),
    /// Radials are read by long lead.
    LongLead,
}

/// The answer; `None` where a field says what it allows.
fn answered(f: &mut Fields) -> Result<Option<CardAnswer>, WebError> {
    match by_key(&RunQuestion::ALL, f.get("what"), RunQuestion::key) {
        Some(RunQuestion::Ambient) => {
            let celsius = f.quantity("celsius", "degrees Celsius such as 12");
            if celsius.is_none() && !f.any_wrong() {
                f.wrong("celsius", "Give the temperature of the cable in °C, such as 12.");
            }
            Ok(celsius.map(CardAnswer::Ambient))
        }
        Some(RunQuestion::Parallel) => {
            Ok(Some(CardAnswer::Parallel(f.get("board").parse().ok(), f.is("metal", "yes"))))
        }
        Some(RunQuestion::Armour) => {
            let armour = if f.is("metal", "yes") { ArmourAndTray::Connected } else { ArmourAndTray::Apart };
            Ok(Some(CardAnswer::Armour(f.get("circuit").parse().ok(), armour)))
        }
        Some(RunQuestion::LongLead) => Ok(Some(CardAnswer::LongLead)),
        None => Err(WebError::Bad("That is no question of the run.".into())),
    }
}

/// Answers a question that is asked once.
pub(crate) async fn answer(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, mut f: Fields) -> Handled {
    let id = path.into_inner();
    if f.is("what", "today") {
        return answer_today(shared, id, request, f).await;
    }
    let (of, at) = asked_for(&f);
    let mut drawn = RunInput { of, at, ..RunInput::default() };
    match answered(&mut f)? {
        None => {
            let problem = f.error("celsius").to_owned();
            drawn = RunInput { problem, kept: f, refused: Some(StatusCode::UNPROCESSABLE_ENTITY), ..drawn };
        }
        Some(answer) => {
            change(&shared, &f, id, move |_, job| {
                let (boards, circuits) = (&mut job.installation.boards, &mut job.installation.circuits);
                match answer {
                    CardAnswer::Armour(circuit, armour) => {
                        if let Some(circuit) = circuits.iter_mut().find(|one| Some(one.id) == circuit) {
                            circuit.armour = Some(armour);
                        }
                    }
                    CardAnswer::LongLead => job.installation.house_rules.continuity = ContinuityMethod::R2,
                    CardAnswer::Ambient(celsius) => job.installation.ambient_c = Some(celsius),
                    CardAnswer::Parallel(board, metal) => {
                        if let Some(board) = boards.iter_mut().find(|one| Some(one.id) == board) {
                            board.parallel_earth = Some(metal);
                        }
                    }
                }
                Ok(())
            })
            .await?;
        }
    }
    again(&load(&shared, id).await?.job, &request, drawn)
}

/// Answers htmx with the part, a plain form with the page again.
fn again(job: &Job, request: &HttpRequest, drawn: RunInput) -> Handled {
    if is_partial(request) || drawn.refused.is_some() {
        return respond(job, request, &drawn);
    }
    let at = drawn.of.zip(drawn.at).map(|(of, at)| format!("of={of}&at={at}"));
    let last = drawn.last.map(|(of, slug)| format!("last_of={of}&last={slug}"));
    let query: Vec<String> = at.into_iter().chain(last).collect();
    Ok(go(&format!("/jobs/{}/run?{}", job.id, query.join("&"))))
}

/// The card that a form says is done; none where a field says what it allows.
fn card(f: &mut Fields) -> Option<CardKind> {
    match f.get("what") {
        "undo" | "back-all" => Some(CardKind::Undo(f.ids("items"))),
        "make" => Some(CardKind::Make),
        "make-null" => Some(CardKind::MakeAndNull),
        "null" => {
            let ohm = f.decimal("ohm", "ohms such as 0.07");
            (!f.any_wrong()).then_some(CardKind::Null(ohm))
        }
        _ => None,
    }
}

/// Does what the card says: puts back, makes, nulls. What is done is worked out in the core, not sent.
pub(crate) async fn act(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let (of, at) = asked_for(&f);
    let by = named(&request, &f);
    let card = card(&mut f);
    let drawn = RunInput { of, at: at.clone(), ..RunInput::default() };
    let problem = match card {
        None => f.all_wrong().first().map(|wrong| (*wrong).to_owned()),
        Some(card) => {
            let act = CardAction { asked: of.zip(at), order: order_of(&request), card };
            let done = did(&shared, id, &f, &by, Action::Card(act)).await?;
            done.err().map(|why| why.to_string())
        }
    };
    let head = load(&shared, id).await?;
    if let Some(problem) = problem {
        let refused = Some(StatusCode::UNPROCESSABLE_ENTITY);
        return respond(&head.job, &request, &RunInput { problem, kept: f, refused, ..drawn });
    }
    let mut response = again(&head.job, &request, RunInput { hands: Some(Hands::by(&request, &by)), ..drawn })?;
    remember(&mut response, &[("writer", &by)]);
    Ok(response)
}

/// Brings ways to power: all that wait, or the one in hand.
pub(crate) async fn energise(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let (of, at) = asked_for(&f);
    let by = named(&request, &f);
    let powering = Powering {
        board: f.get("board").parse().unwrap_or_default(),
        ways: f.ids(if f.is("ways", "one") { "one" } else { "all" }),
        covers_on: f.ticked("covers"),
        spoke_to: f.get("word").to_owned(),
    };
    let done = did(&shared, id, &f, &by, Action::Power(powering)).await?;
    let job = &load(&shared, id).await?.job;
    if let Err(why) = done {
        let (problem, refused) = (why.to_string(), Some(status_of(&why)));
        return respond(job, &request, &RunInput { of, at, problem, kept: f, refused, ..RunInput::default() });
    }
    let hands = Some(Hands::by(&request, &by));
    let mut response = again(job, &request, RunInput { of, at, hands, ..RunInput::default() })?;
    remember(&mut response, &[("writer", &by)]);
    Ok(response)
}

/// A planned reading of the run, dead or at power.
fn planned_as(job: &Job, settled: &CurrentReadings<'_>, order: Order, of: Uuid, slug: &str) -> Option<Planned> {
    let dead = Run::for_place(job, settled, order, of).find(of, slug).cloned();
    dead.or_else(|| Live::for_place(job, settled, order, of).find(of, slug).cloned())
}

/// Why a form is of no step.
#[derive(Debug, thiserror::Error)]
enum NoStep {
    #[error("The form does not say what it is of: load the page again.")]
    OfNothing,
    #[error("“{0}” is no step of this run any more: load the page again.")]
    Gone(String),
    #[error("Confirm which pair the probes are on: it is easy to announce one and probe another.")]
    PairUnconfirmed,
    #[error("{0} is no pair that is read here.")]
    NoPair(String),
}

/// The step that a form is of; of insulation, the pair that was confirmed.
fn step_of(job: &Job, order: Order, f: &Fields) -> Result<Planned, NoStep> {
    let settled = job.settled();
    let of = f.get("of").parse().map_err(|_| NoStep::OfNothing)?;
    let planned = planned_as(job, &settled, order, of, f.get("step"));
    let planned = planned.ok_or_else(|| NoStep::Gone(f.get("step").to_owned()))?;
    if planned.step.key.test != Test::Insulation {
        return Ok(planned);
    }
    let run = Run::for_place(job, &settled, order, of);
    let confirmed = f.get("pair");
    if confirmed.is_empty() {
        return Err(NoStep::PairUnconfirmed);
    }
    run.on_pair(&planned, confirmed).cloned().ok_or_else(|| NoStep::NoPair(confirmed.to_owned()))
}

/// The reading after one, of the circuit or board that it is of.
fn next_of(job: &Job, request: &HttpRequest, planned: &Planned) -> (Option<Uuid>, Option<String>) {
    let settled = job.settled();
    let runs = Runs::for_job(job, &settled, order_of(request));
    let next = runs.after(planned);
    next.map(|next| (next.circuit_or_board(), next.step.slug.clone())).unzip()
}

pub(crate) async fn enter(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let (of, at) = asked_for(&f);
    let head = load(&shared, id).await?;
    let planned = step_of(&head.job, order_of(&request), &f);
    drop(head);
    let refused = match &planned {
        Err(none) => Some((none.to_string(), StatusCode::UNPROCESSABLE_ENTITY)),
        Ok(planned) => {
            let action = Action::Read(figure(&f, &planned.step));
            let done = did(&shared, id, &f, f.trimmed("entered_by"), action).await?;
            done.err().map(|why| (why.to_string(), status_of(&why)))
        }
    };
    let job = &load(&shared, id).await?.job;
    let planned = match (planned, refused) {
        (Ok(planned), None) => planned,
        (_, refused) => {
            let (error, status) = refused.unwrap_or_default();
            let asked = EntryQuery { at: at.clone(), given_back: Some(f), error, ..EntryQuery::default() };
            return respond(job, &request, &RunInput { of, at, asked, refused: Some(status), ..RunInput::default() });
        }
    };
    let last = Some((planned.circuit_or_board(), planned.step.slug.clone()));
    let hands = Some(Hands::from_entry(&f));
    let mut response = if is_partial(&request) {
        respond(job, &request, &RunInput { after: Some(planned), last, hands, ..RunInput::default() })?
    } else {
        let (of, at) = next_of(job, &request, &planned);
        again(job, &request, RunInput { of, at, last, hands, ..RunInput::default() })?
    };
    remember_entry(&mut response, &f);
    Ok(response)
}

/// Quick entry: every point walked, only the highest written down.
pub(crate) async fn walked(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let (of, at) = asked_for(&f);
    let head = load(&shared, id).await?;
    let (circuit, stage) = {
        let settled = head.job.settled();
        let run = of.map(|of| Run::for_place(&head.job, &settled, order_of(&request), of));
        let planned = run.as_ref().zip(of.zip(at.as_deref())).and_then(|(run, (of, at))| run.find(of, at));
        planned.and_then(|planned| Some((planned.circuit?, planned.step.stage))).unwrap_or((Uuid::nil(), Stage::Zs))
    };
    drop(head);
    let point = f.get("point").parse().ok().map(PointId);
    let walk = Walk { circuit, stage, point, typed: f.get("typed").to_owned(), with: f.with() };
    let done = did(&shared, id, &f, f.trimmed("entered_by"), Action::Walk(walk)).await?;
    let job = &load(&shared, id).await?.job;
    if let Err(why) = done {
        let (problem, refused) = (why.to_string(), Some(status_of(&why)));
        return respond(job, &request, &RunInput { of, at, problem, kept: f, refused, ..RunInput::default() });
    }
    let last = of.zip(point.and_then(|point| slug_at(job, circuit, stage, point)));
    let hands = Some(Hands::from_entry(&f));
    let mut response = again(job, &request, RunInput { last, hands, ..RunInput::default() })?;
    remember_entry(&mut response, &f);
    Ok(response)
}

/// The step of a walk at a point.
fn slug_at(job: &Job, circuit: Uuid, stage: Stage, point: PointId) -> Option<String> {
    let circuit = job.installation.circuit(circuit)?;
    let at = |step: &Step| step.key.subject.place().and_then(Place::point) == Some(point);
    walk_steps(job, circuit, stage).into_iter().find(at).map(|step| step.slug)
}

/// Takes the last entry back: struck, logged.
pub(crate) async fn take_back(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let by = who(&request, &f)?;
    let reading = f.get("reading").parse().map_err(|_| WebError::from(Refusal::NotLast))?;
    did(&shared, id, &f, &by, Action::TakeBack(reading)).await??;
    let job = &load(&shared, id).await?.job;
    let (of, at) = {
        let settled = job.settled();
        let (run, live) = (Run::new(job, &settled, order_of(&request)), Live::new(job, &settled, order_of(&request)));
        let key = job.readings.iter().find(|one| one.id == reading).map(|one| &one.key);
        let all = || run.planned.iter().chain(&live.planned);
        let planned = key.and_then(|key| all().find(|planned| planned.step.key == *key));
        planned.map(|planned| (planned.circuit_or_board(), planned.step.slug.clone())).unzip()
    };
    again(job, &request, RunInput { of, at, ..RunInput::default() })
}

/// A reading of the search inside a circuit: the run open at a point.
pub(crate) async fn opened(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let (of, at) = asked_for(&f);
    let opened = Opened {
        circuit: f.get("circuit").parse().ok(),
        point: f.get("point").parse().ok().map(PointId),
        pair: f.get("pair").to_owned(),
        typed: f.get("typed").to_owned(),
        with: f.with(),
    };
    let mut drawn = RunInput { of, at, ..RunInput::default() };
    match did(&shared, id, &f, f.trimmed("entered_by"), Action::Opened(opened)).await? {
        Err(why @ (Refusal::OpenNowhere | Refusal::NoSuchPair(_))) => return Err(why.into()),
        Err(why) => drawn = RunInput { problem: why.to_string(), kept: f, refused: Some(status_of(&why)), ..drawn },
        Ok(()) => {}
    }
    again(&load(&shared, id).await?.job, &request, drawn)
}

/// The card answered, or put off for the day.
async fn answer_today(shared: Data<Shared>, id: Uuid, request: HttpRequest, f: Fields) -> Handled {
    let (of, at) = asked_for(&f);
    let drawn = RunInput { of, at, ..RunInput::default() };
    if f.is("found", "later") {
        let mut response = again(&load(&shared, id).await?.job, &request, RunInput { put_off: true, ..drawn })?;
        remember(&mut response, &[("not_today", &put_off(id))]);
        return Ok(response);
    }
    let by = named(&request, &f);
    let beginning = Beginning {
        instrument: f.get("instrument").parse().ok(),
        read_by: f.trimmed("read_by").to_owned(),
        not_right: f.is("found", "wrong"),
        wrong: if f.is("found", "wrong") { f.trimmed("wrong").to_owned() } else { String::new() },
    };
    let done = did(&shared, id, &f, &by, Action::Begin(beginning)).await?;
    let job = &load(&shared, id).await?.job;
    if let Err(why) = done {
        let (problem, refused) = (why.to_string(), Some(status_of(&why)));
        return respond(job, &request, &RunInput { problem, kept: f, refused, ..drawn });
    }
    let hands =
        Hands { writer: by, reader: f.trimmed("read_by").to_owned(), instrument: f.get("instrument").to_owned() };
    let mut response = again(job, &request, RunInput { hands: Some(hands.clone()), ..drawn })?;
    let Hands { writer, reader, instrument } = &hands;
    remember(&mut response, &[("writer", writer), ("reader", reader), ("instrument", instrument)]);
    Ok(response)
}
