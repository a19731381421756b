//! What the run shows: the card in hand, the verdict on the last reading, the plan.

use super::card::{
    CardShown, JumpGroup, LastEntry, OneTime, OrderRow, Question, Searching, about, at_bench, groups, ids, items,
    last_entry, made, pairs_left, question, running, searching, unread,
};
use crate::draw::hook_up;
use crate::error::Handled;
use crate::forms::Fields;
use crate::frame::Frame;
use crate::frame::Section;
use crate::pages::entry::{Asked, Bench, Entry, Verdict};
use crate::pages::framed;
use crate::request::{is_partial, remembered};
use actix_web::http::StatusCode;
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use proof_core::house_rules::{Choice, LeadCompensation, PairOrder};
use proof_core::job::Job;
use proof_core::plan::hook_up::hook_up as hook_up_of;
use proof_core::plan::run::{Need, Order, Planned, Run};
use proof_core::reading::{Settled, Step, Test};
use proof_core::review::{Kind, Severity, Where, review};
use uuid::Uuid;

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
    card: Option<CardShown>,
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

pub(super) fn order_of(request: &HttpRequest) -> Order {
    let key = remembered(request, "order");
    Order::ALL.into_iter().find(|order| order.key() == key).unwrap_or_default()
}

/// What is drawn: which reading, what was said last, what was refused.
#[derive(Default)]
pub(super) struct Drawn {
    pub of: Option<Uuid>,
    pub at: Option<String>,
    pub last: Option<(Uuid, String)>,
    pub asked: Asked,
    pub problem: String,
    /// The form that was refused, other than the entry's: what was typed stands in it again.
    pub kept: Fields,
    /// Of a refusal; none: it is right.
    pub refused: Option<StatusCode>,
}

/// How the run may be walked, each with what it counts.
fn orders(job: &Job, settled: &Settled<'_>, chosen: Order) -> Vec<OrderRow> {
    Order::ALL
        .map(|one| OrderRow {
            key: one.key(),
            label: one.label(),
            counts: Run::new(job, settled, one).counts(true),
            chosen: one == chosen,
        })
        .into()
}

fn card_of(job: &Job, need: &Need<'_>) -> CardShown {
    match need {
        Need::Prove(board) => CardShown::Prove(
            *board,
            job.installation.board(*board).map_or_else(String::new, |board| board.name.clone()),
        ),
        Need::Undo(open) => CardShown::Undo(items(open), ids(open)),
        Need::Make(make, _) => {
            let earth = make.iter().any(|one| one.alteration.takes_earth_off());
            CardShown::Make(made(make), earth)
        }
        Need::Null(leads) => CardShown::Null(*leads, job.installation.house_rules.leads == LeadCompensation::Subtract),
    }
}

/// Read is not right: what fails its limit keeps power away whatever else is done.
fn failing(job: &Job) -> Vec<(String, String)> {
    review(job.into())
        .into_iter()
        .filter(|finding| finding.severity == Severity::Fails && finding.kind() != Kind::NotPutBack)
        .filter(|finding| !matches!(finding.place, Where::Firm))
        .map(|finding| (finding.about.clone(), finding.what()))
        .collect()
}

/// The pairs that may be read next, and which of them is chosen.
fn pairs(job: &Job, run: &Run<'_>, planned: &Planned, drawn: &Drawn) -> Vec<(String, bool)> {
    let free = job.installation.house_rules.pair_order == PairOrder::Free;
    let given = drawn.asked.given_back.as_ref().map(|f| f.get("pair"));
    let chosen = |(pair, due): (String, bool)| {
        let chosen = given.map_or(due && !free, |given| given == pair);
        (pair, chosen)
    };
    pairs_left(run, planned).into_iter().map(chosen).collect()
}

pub(super) fn respond(job: &Job, request: &HttpRequest, drawn: &Drawn) -> Handled {
    let settled = Settled::new(&job.readings, &job.events);
    let order = order_of(request);
    let run = Run::new(job, &settled, order);
    let in_hand = run.in_hand(drawn.of.zip(drawn.at.as_deref()));
    // An entry that is given back is shown with what is wrong, whatever else is wanted first.
    let asked_of = in_hand.filter(|_| drawn.asked.given_back.is_none());
    let needs = asked_of.map(|planned| run.needs(planned)).unwrap_or_default();
    let question = asked_of.and_then(|planned| question(job, planned));
    let card = needs.first().map(|need| card_of(job, need));
    let hook = in_hand.map(|planned| hook_up_of(&job.installation, &planned.step)).unwrap_or_default();
    let entry = in_hand.map(|planned| at_bench(job, &settled, planned, |bench, step| bench.entry(step, &drawn.asked)));
    let judged = drawn.last.as_ref().and_then(|(of, slug)| run.find(*of, slug));
    let draw = |bench: &Bench<'_>, step: &Step| bench.verdict(step);
    let verdict = judged.and_then(|planned| at_bench(job, &settled, planned, draw));
    let verdict_id = judged.and_then(|planned| settled.of(&planned.step.key)).map(|reading| reading.id.to_string());
    let given = |field: &str, cookie: &str| match &drawn.asked.given_back {
        Some(f) => f.get(field).to_owned(),
        None => remembered(request, cookie),
    };
    let work = Work {
        job: job.id,
        of: in_hand.map_or(job.id, Planned::of),
        at: in_hand.map(|planned| planned.step.slug.clone()).unwrap_or_default(),
        orders: orders(job, &settled, order),
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
        pairs: in_hand.map(|planned| pairs(job, &run, planned, drawn)).unwrap_or_default(),
        all_open: items(run.open()),
        all_ids: ids(run.open()),
        failing: failing(job),
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
    answer(job, request, work, drawn.refused.unwrap_or(StatusCode::OK))
}

/// The work alone, or in its frame, as it was asked for.
fn answer(job: &Job, request: &HttpRequest, work: String, status: StatusCode) -> Handled {
    let frame = framed("Run", Section::Run, job, &job.events);
    let body = if is_partial(request) { work + &frame.bands_beside() } else { RunPage { frame, work }.render()? };
    Ok(HttpResponse::build(status)
        .content_type("text/html; charset=utf-8")
        .insert_header(("cache-control", "no-store"))
        .body(body))
}
