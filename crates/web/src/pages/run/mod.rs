//! The run: one card at a time, what to do now; made for one hand and a phone.

mod card;

use super::readings::{Asked, Bench, Entry, Site, Taken, Verdict, made_events, remember_entry, take};
use super::state::who;
use super::{blocking, framed, is_partial, remember, remembered};
use crate::Shared;
use crate::draw::hook_up;
use crate::error::{Handled, WebError, go};
use crate::fields::Fields;
use crate::frame::Frame;
use actix_web::http::StatusCode;
use actix_web::web::{self, Data, Path};
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use card::{
    Card, JumpGroup, LastEntry, OrderRow, Question, Searching, about, at_bench, groups, ids, items, last_entry, made,
    pair_key, pairs_left, question, running, searching, unread, walk_of,
};
use jiff::Timestamp;
use proof_core::house_rules::{Choice, LeadCompensation, PairOrder};
use proof_core::installation::PointId;
use proof_core::job::Job;
use proof_core::plan::hook_up::hook_up as hook_up_of;
use proof_core::plan::run::{Need, Order, Planned, Run};
use proof_core::plan::sequence::circuit_steps;
use proof_core::reading::{Key, Place, Reading, Settled, Test};
use proof_core::reading::{Stage, Step};
use proof_core::review::{Severity, Where, review};
use proof_core::site::{Event, EventKind, OpenItem};
use serde::Deserialize;
use uuid::Uuid;

#[derive(Deserialize, Default)]
pub struct Query {
    of: Option<Uuid>,
    at: Option<String>,
    last: Option<String>,
    last_of: Option<Uuid>,
}

#[derive(Template)]
#[template(path = "run_work.html")]
struct Work {
    job: Uuid,
    of: Uuid,
    at: String,
    orders: Vec<OrderRow>,
    described: bool,
    left: usize,
    of_all: usize,
    open: usize,
    question: Option<Question>,
    card: Option<Card>,
    about: String,
    stand: String,
    drawing: String,
    twin: Vec<String>,
    probe: Option<String>,
    entry: Option<Entry>,
    running: Option<(String, String)>,
    running_name: &'static str,
    board_check: bool,
    verdict: Option<Verdict>,
    verdict_id: String,
    last: Option<LastEntry>,
    groups: Vec<JumpGroup>,
    search: Option<Searching>,
    unread_points: Vec<(u32, String)>,
    pairs: Vec<(String, bool)>,
    all_open: Vec<(String, String)>,
    all_ids: String,
    failing: Vec<(String, String)>,
    writer: String,
    reader: String,
    instrument: String,
    people: Vec<String>,
    instruments: Vec<(Uuid, String)>,
    sign: &'static str,
    problem: String,
    kept: Fields,
}

#[derive(Template)]
#[template(path = "run.html")]
struct RunPage {
    frame: Frame,
    work: String,
}

fn order_of(request: &HttpRequest) -> Order {
    let key = remembered(request, "order");
    Order::ALL.into_iter().find(|order| order.key() == key).unwrap_or_default()
}

async fn load(shared: &Data<Shared>, job: Uuid) -> Result<Job, WebError> {
    let store = shared.store.clone();
    blocking(move || Ok(store.job(job)?.job.clone())).await
}

struct Drawn {
    of: Option<Uuid>,
    at: Option<String>,
    last: Option<(Uuid, String)>,
    asked: Asked,
    problem: String,
    /// The form that was refused, other than the entry's: what was typed stands in it again.
    kept: Fields,
    status: StatusCode,
}

fn respond(job: &Job, request: &HttpRequest, drawn: &Drawn) -> Handled {
    let settled = Settled::new(&job.readings, &job.events);
    let order = order_of(request);
    let run = Run::new(job, &settled, order);
    let in_hand = run.in_hand(drawn.of.zip(drawn.at.as_deref()));
    let orders = Order::ALL
        .map(|one| OrderRow {
            key: one.key(),
            label: one.label(),
            counts: Run::new(job, &settled, one).counts(true),
            chosen: one == order,
        })
        .into();
    // An entry that is given back is shown with what is wrong, whatever else is wanted first.
    let asked_of = in_hand.filter(|_| drawn.asked.given_back.is_none());
    let needs = asked_of.map(|planned| run.needs(planned)).unwrap_or_default();
    let question = asked_of.and_then(|planned| question(job, planned));
    let rule = job.installation.house_rules.leads;
    let card = needs.first().map(|need| match need {
        Need::Prove(board) => {
            Card::Prove(*board, job.installation.board(*board).map_or_else(String::new, |board| board.name.clone()))
        }
        Need::Undo(open) => Card::Undo(items(open), ids(open)),
        Need::Make(make, _) => Card::Make(made(make)),
        Need::Null(leads) => Card::Null(*leads, rule == LeadCompensation::Subtract),
    });
    let hook = in_hand.map(|planned| hook_up_of(&job.installation, &planned.step)).unwrap_or_default();
    let entry = in_hand.map(|planned| at_bench(job, &settled, planned, |bench, step| bench.entry(step, &drawn.asked)));
    let judged = drawn.last.as_ref().and_then(|(of, slug)| run.find(*of, slug));
    let verdict = judged.and_then(|planned| {
        let draw = |bench: &Bench<'_>, step: &Step| bench.verdict(step);
        at_bench(job, &settled, planned, draw)
    });
    let verdict_id = judged.and_then(|planned| settled.of(&planned.step.key)).map(|reading| reading.id.to_string());
    let given = |field: &str, cookie: &str| match &drawn.asked.given_back {
        Some(f) => f.get(field).to_owned(),
        None => remembered(request, cookie),
    };
    // Read is not right: what fails its limit keeps power away whatever else is done.
    let failing: Vec<(String, String)> = review(job.into())
        .into_iter()
        .filter(|finding| finding.severity == Severity::Fails && finding.about != "Put-back list")
        .filter(|finding| !matches!(finding.place, Where::Firm))
        .map(|finding| (finding.about, finding.what))
        .collect();
    let free = job.installation.house_rules.pair_order == PairOrder::Free;
    let work = Work {
        job: job.id,
        of: in_hand.map_or(job.id, Planned::of),
        at: in_hand.map(|planned| planned.step.slug.clone()).unwrap_or_default(),
        orders,
        described: !job.installation.circuits.is_empty(),
        left: run.left().count(),
        of_all: run.planned.len(),
        open: run.open().len(),
        question,
        card,
        about: in_hand.map(|planned| about(job, planned)).unwrap_or_default(),
        stand: hook.stand.clone(),
        drawing: hook_up::drawing(&hook),
        twin: hook_up::twin(&hook),
        probe: hook_up::probes(&hook),
        entry,
        running: in_hand.and_then(|planned| running(job, &settled, planned)),
        running_name: in_hand.map_or("", |planned| planned.step.stage.figure()),
        board_check: in_hand.is_some_and(|planned| planned.step.key.test == Test::RingBoardCheck),
        verdict,
        verdict_id: verdict_id.unwrap_or_default(),
        last: last_entry(job, &settled),
        groups: groups(job, &run, &settled, in_hand),
        search: in_hand.and_then(|planned| searching(job, &settled, planned)),
        unread_points: in_hand.map(|planned| unread(job, &settled, planned)).unwrap_or_default(),
        pairs: in_hand
            .map(|planned| pairs_left(&run, planned))
            .unwrap_or_default()
            .into_iter()
            .map(|(pair, due)| {
                let given = drawn.asked.given_back.as_ref().map(|f| f.get("pair"));
                let chosen = given.map_or(due && !free, |given| given == pair);
                (pair, chosen)
            })
            .collect(),
        all_open: items(run.open()),
        all_ids: ids(run.open()),
        failing,
        writer: given("entered_by", "writer"),
        reader: given("read_by", "reader"),
        instrument: given("instrument", "instrument"),
        people: job.people.iter().map(|person| person.name.clone()).collect(),
        instruments: job.instruments.iter().map(|one| (one.id, format!("{} {}", one.reference, one.kind))).collect(),
        sign: job.installation.house_rules.sign.key(),
        problem: drawn.problem.clone(),
        kept: drawn.kept.clone(),
    }
    .render()?;
    let frame = framed("Run", "run", job, &job.events);
    let body = if is_partial(request) { work + &frame.bands_beside() } else { RunPage { frame, work }.render()? };
    Ok(HttpResponse::build(drawn.status)
        .content_type("text/html; charset=utf-8")
        .insert_header(("cache-control", "no-store"))
        .body(body))
}

pub async fn show(shared: Data<Shared>, path: Path<Uuid>, query: web::Query<Query>, request: HttpRequest) -> Handled {
    let job = load(&shared, path.into_inner()).await?;
    let Query { of, at, last, last_of } = query.into_inner();
    let drawn = Drawn {
        of,
        at,
        last: last_of.zip(last),
        asked: Asked::default(),
        problem: String::new(),
        kept: Fields::default(),
        status: StatusCode::OK,
    };
    respond(&job, &request, &drawn)
}

/// Chooses the order.
pub async fn order(path: Path<Uuid>, f: Fields) -> Handled {
    let id = path.into_inner();
    let key = Order::ALL.into_iter().find(|order| order.key() == f.get("order")).unwrap_or_default().key();
    Ok(HttpResponse::SeeOther()
        .insert_header(("location", format!("/jobs/{id}/run")))
        .insert_header(remember("order", key))
        .finish())
}

fn asked_for(f: &Fields) -> (Option<Uuid>, Option<String>) {
    (f.get("of").parse().ok(), Some(f.get("step").to_owned()).filter(|slug| !slug.is_empty()))
}

/// Answers a question that is asked once.
pub async fn answer(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let (of, at) = asked_for(&f);
    let celsius = (f.get("what") == "ambient").then(|| f.quantity("celsius", "degrees Celsius such as 12")).flatten();
    let problem = match f.get("what") {
        "ambient" if celsius.is_none() => Some(f.error("celsius").to_owned())
            .filter(|text| !text.is_empty())
            .unwrap_or_else(|| "Give the temperature of the cable in °C, such as 12.".to_owned()),
        "ambient" | "parallel" => String::new(),
        _ => return Err(WebError::Bad("That is no question of the run.".into())),
    };
    if problem.is_empty() {
        let (what, metal, board) =
            (f.get("what").to_owned(), f.is("metal", "yes"), f.get("board").parse::<Uuid>().ok());
        let store = shared.store.clone();
        blocking(move || {
            let head = store.head(id)?;
            let mut job = head.job;
            if what == "ambient" {
                job.installation.ambient_c = celsius;
            } else if let Some(board) = job.installation.boards.iter_mut().find(|one| Some(one.id) == board) {
                board.parallel_earth = Some(metal);
            }
            Ok(store.save_description(&job, head.revision)?)
        })
        .await?;
    }
    let job = load(&shared, id).await?;
    let status = if problem.is_empty() { StatusCode::OK } else { StatusCode::UNPROCESSABLE_ENTITY };
    again(&job, &request, Drawn { of, at, last: None, asked: Asked::default(), problem, kept: f.clone(), status })
}

/// Answers htmx with the part, a plain form with the page again.
fn again(job: &Job, request: &HttpRequest, drawn: Drawn) -> Handled {
    if is_partial(request) || !drawn.status.is_success() {
        return respond(job, request, &drawn);
    }
    let at = drawn.of.zip(drawn.at).map(|(of, at)| format!("of={of}&at={at}"));
    let last = drawn.last.map(|(of, slug)| format!("last_of={of}&last={slug}"));
    let query: Vec<String> = at.into_iter().chain(last).collect();
    Ok(go(&format!("/jobs/{}/run?{}", job.id, query.join("&"))))
}

/// Does what the card says: puts back, makes, nulls. What is done is worked out here, not sent.
pub async fn act(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let job = load(&shared, id).await?;
    let (of, at) = asked_for(&f);
    let typed = f.clone();
    let refuse = |problem: String| {
        let drawn = Drawn {
            of,
            at: at.clone(),
            last: None,
            asked: Asked::default(),
            problem,
            kept: typed.clone(),
            status: StatusCode::UNPROCESSABLE_ENTITY,
        };
        respond(&job, &request, &drawn)
    };
    let Ok(by) = who(&request, &f) else { return refuse("Who does this? Give a name.".to_owned()) };
    let ohm = f.decimal("ohm", "ohms such as 0.07");
    let now = Timestamp::now();
    let settled = Settled::new(&job.readings, &job.events);
    let run = Run::new(&job, &settled, order_of(&request));
    let planned = run.in_hand(of.zip(at.as_deref()));
    let mut log = Vec::new();
    // Only what the card listed is closed: somebody may have altered more meanwhile.
    let listed = |item: &OpenItem<'_>| f.get("items").split(',').any(|id| id == item.item.to_string());
    let back = |item: &OpenItem<'_>| Event::new(&by, now, EventKind::PutBack { item: item.item });
    if f.get("what") == "back-all" {
        log.extend(run.open().iter().filter(|item| listed(item)).map(back));
    }
    for need in planned.filter(|_| log.is_empty()).map(|planned| run.needs(planned)).unwrap_or_default() {
        match (need, f.get("what")) {
            (Need::Undo(open), "undo") => {
                log.extend(open.iter().filter(|item| listed(item)).map(back));
            }
            (Need::Make(make, replaced), "make") => log.extend(made_events(make, replaced, &by, now)),
            (Need::Null(leads), "null") => {
                let measured = job.installation.house_rules.leads == LeadCompensation::Subtract;
                if measured && ohm.is_none() {
                    let why = f.error("ohm");
                    return refuse(if why.is_empty() {
                        "Give what the leads alone read, such as 0.07.".to_owned()
                    } else {
                        why.to_owned()
                    });
                }
                let (lead_set, pins) = (leads.set.to_owned(), leads.pins.to_owned());
                let subtract_ohm = ohm.filter(|_| measured);
                log.push(Event::new(&by, now, EventKind::Nulled { lead_set, pins, subtract_ohm }));
            }
            _ => {}
        }
    }
    drop(run);
    drop(settled);
    let store = shared.store.clone();
    if !log.is_empty() {
        blocking(move || Ok(store.append_events(id, &log)?)).await?;
    }
    let job = load(&shared, id).await?;
    let drawn = Drawn {
        of,
        at,
        last: None,
        asked: Asked::default(),
        problem: String::new(),
        kept: Fields::default(),
        status: StatusCode::OK,
    };
    let mut response = again(&job, &request, drawn)?;
    super::circuit::set_cookies(&mut response, vec![remember("writer", &by)]);
    Ok(response)
}

/// The step that a form is of; with pairs in free order, the pair that was confirmed.
fn step_of(run: &Run<'_>, f: &Fields) -> Result<Planned, String> {
    let of = f.get("of").parse().map_err(|_| "The form does not say what it is of: load the page again.".to_owned())?;
    let planned = run
        .find(of, f.get("step"))
        .ok_or_else(|| format!("“{}” is no step of this run any more: load the page again.", f.get("step")))?;
    if planned.step.key.test != Test::Insulation {
        return Ok(planned.clone());
    }
    let confirmed = f.get("pair");
    if confirmed.is_empty() {
        return Err("Confirm which pair the probes are on: it is easy to announce one and probe another.".to_owned());
    }
    let same = |other: &&Planned| {
        other.of() == of
            && other.step.key.test == planned.step.key.test
            && other.step.key.subject == planned.step.key.subject
            && other.step.key.pair.is_some_and(|pair| pair_key(pair) == confirmed)
    };
    run.planned.iter().find(same).cloned().ok_or_else(|| format!("{confirmed} is no pair that is read here."))
}

pub async fn enter(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let mut job = load(&shared, id).await?;
    let (of, at) = asked_for(&f);
    let give_back = |job: &Job, error: String, status| {
        let asked = Asked { at: at.clone(), given_back: Some(f.clone()), error, ..Asked::default() };
        respond(
            job,
            &request,
            &Drawn { of, at: at.clone(), last: None, asked, problem: String::new(), kept: Fields::default(), status },
        )
    };
    let planned = {
        let settled = Settled::new(&job.readings, &job.events);
        let run = Run::new(&job, &settled, order_of(&request));
        step_of(&run, &f)
    };
    let planned = match planned {
        Ok(planned) => planned,
        Err(problem) => return give_back(&job, problem, StatusCode::UNPROCESSABLE_ENTITY),
    };
    let site = Site { job: &job, events: &job.events, readings: &job.readings };
    match take(&shared, site, &f, &planned.step).await? {
        Taken::Stored(reading, log) => {
            job.readings.extend(reading.map(|boxed| *boxed));
            job.events.extend(log);
        }
        Taken::GivenBack(error, status) => return give_back(&job, error, status),
    }
    let last = Some((planned.of(), planned.step.slug.clone()));
    let next = {
        let settled = Settled::new(&job.readings, &job.events);
        let run = Run::new(&job, &settled, order_of(&request));
        run.after(&planned).map(|next| (next.of(), next.step.slug.clone()))
    };
    let (of, at) = next.unzip();
    let drawn = Drawn {
        of,
        at,
        last,
        asked: Asked::default(),
        problem: String::new(),
        kept: Fields::default(),
        status: StatusCode::OK,
    };
    let mut response = again(&job, &request, drawn)?;
    super::circuit::set_cookies(&mut response, remember_entry(&f));
    Ok(response)
}

/// Quick entry: every point walked, only the highest written down.
pub async fn walked(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let mut job = load(&shared, id).await?;
    let (of, at) = asked_for(&f);
    let give_back = |job: &Job, problem: String, status| {
        respond(
            job,
            &request,
            &Drawn { of, at: at.clone(), last: None, asked: Asked::default(), problem, kept: f.clone(), status },
        )
    };
    let bad = StatusCode::UNPROCESSABLE_ENTITY;
    let (steps, highest) = {
        let settled = Settled::new(&job.readings, &job.events);
        let run = Run::new(&job, &settled, order_of(&request));
        let planned = of.zip(at.as_deref()).and_then(|(of, at)| run.find(of, at)).cloned();
        let circuit = planned.as_ref().and_then(|planned| planned.circuit).and_then(|id| job.installation.circuit(id));
        let (Some(planned), Some(circuit)) = (planned.as_ref(), circuit) else {
            return give_back(&job, "That is no walk of this run: load the page again.".to_owned(), bad);
        };
        let mut steps = walk_of(&job, circuit, planned.step.stage);
        steps.retain(|step| settled.of(&step.key).is_none());
        let point: Option<u32> = f.get("point").parse().ok();
        let at =
            steps.iter().position(|step| step.key.subject.place().and_then(Place::point).map(|point| point.0) == point);
        let Some(at) = at else {
            return give_back(&job, "Say at which point the highest was read.".to_owned(), bad);
        };
        let highest = steps.remove(at);
        (steps, highest)
    };
    let mut form = f.clone();
    form.put("id", Uuid::new_v4().to_string());
    let site = Site { job: &job, events: &job.events, readings: &job.readings };
    let (mut readings, mut events): (Vec<Reading>, Vec<Event>) = (Vec::new(), Vec::new());
    match take(&shared, site, &form, &highest).await? {
        Taken::Stored(reading, log) => {
            readings.extend(reading.map(|boxed| *boxed));
            events.extend(log);
        }
        Taken::GivenBack(error, status) => return give_back(&job, error, status),
    }
    job.readings.append(&mut readings);
    job.events.append(&mut events);
    for step in &steps {
        let mut form = Fields::of([
            ("typed", "walked".to_owned()),
            ("id", Uuid::new_v4().to_string()),
            ("entered_by", f.get("entered_by").to_owned()),
            ("read_by", f.get("read_by").to_owned()),
        ]);
        form.put("instrument", f.get("instrument"));
        let site = Site { job: &job, events: &job.events, readings: &job.readings };
        if let Taken::Stored(Some(reading), log) = take(&shared, site, &form, step).await? {
            readings.push(*reading);
            events.extend(log);
        }
        job.readings.append(&mut readings);
        job.events.append(&mut events);
    }
    let last = of.map(|of| (of, highest.slug.clone()));
    let drawn = Drawn {
        of: None,
        at: None,
        last,
        asked: Asked::default(),
        problem: String::new(),
        kept: Fields::default(),
        status: StatusCode::OK,
    };
    let mut response = again(&job, &request, drawn)?;
    super::circuit::set_cookies(&mut response, remember_entry(&f));
    Ok(response)
}

/// Takes the last entry back: struck, logged.
pub async fn take_back(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let job = load(&shared, id).await?;
    let by = who(&request, &f)?;
    let settled = Settled::new(&job.readings, &job.events);
    let last = last_entry(&job, &settled).filter(|last| f.get("reading") == last.id.to_string());
    let Some(last) = last else {
        return Err(WebError::Clash(
            "That is not the last entry any more: strike it out on the page of its circuit.".into(),
        ));
    };
    let key = settled_key(&job, last.id);
    drop(settled);
    let kind = EventKind::StruckOut { reading: last.id, reason: "taken back at once".into() };
    let event = Event::new(&by, Timestamp::now(), kind);
    let store = shared.store.clone();
    blocking(move || Ok(store.append_events(id, &[event])?)).await?;
    let job = load(&shared, id).await?;
    let (of, at) = {
        let settled = Settled::new(&job.readings, &job.events);
        let run = Run::new(&job, &settled, order_of(&request));
        let planned = key.and_then(|key| run.planned.iter().find(|planned| planned.step.key == key));
        planned.map(|planned| (planned.of(), planned.step.slug.clone())).unzip()
    };
    let drawn = Drawn {
        of,
        at,
        last: None,
        asked: Asked::default(),
        problem: String::new(),
        kept: Fields::default(),
        status: StatusCode::OK,
    };
    again(&job, &request, drawn)
}

fn settled_key(job: &Job, id: Uuid) -> Option<Key> {
    job.readings.iter().find(|reading| reading.id == id).map(|reading| reading.key.clone())
}

/// A reading of the search inside a circuit: the run open at a point.
pub async fn opened(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let job = load(&shared, id).await?;
    let (of, at) = asked_for(&f);
    let circuit = f.get("circuit").parse().ok().and_then(|id| job.installation.circuit(id));
    let point = f.get("point").parse().ok().map(PointId).filter(|id| circuit.is_some_and(|c| c.point(*id).is_some()));
    let (Some(circuit), Some(point)) = (circuit, point) else {
        return Err(WebError::Bad("Say which circuit is open at which of its points. Nothing was stored.".into()));
    };
    let steps = circuit_steps(&job.installation, circuit);
    let wanted = f.get("pair");
    let mut step = steps
        .into_iter()
        .find(|step| {
            step.stage == Stage::Insulation && step.key.pair.map_or(wanted == "joined", |pair| pair_key(pair) == wanted)
        })
        .ok_or_else(|| WebError::Bad(format!("“{wanted}” is no pair of this circuit. Nothing was stored.")))?;
    step.key = proof_core::reading::keys::broken_key(circuit.id, point, step.key.pair);
    let mut form = f.clone();
    form.put("id", Uuid::new_v4().to_string());
    let site = Site { job: &job, events: &job.events, readings: &job.readings };
    let problem = match take(&shared, site, &form, &step).await? {
        Taken::Stored(..) => String::new(),
        Taken::GivenBack(problem, _) => problem,
    };
    let status = if problem.is_empty() { StatusCode::OK } else { StatusCode::UNPROCESSABLE_ENTITY };
    let job = load(&shared, id).await?;
    again(&job, &request, Drawn { of, at, last: None, asked: Asked::default(), problem, kept: f.clone(), status })
}
