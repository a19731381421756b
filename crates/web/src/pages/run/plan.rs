//! The plan of the run: every reading in the order of the walk, and what each order costs. Asked for when it is
//! opened; the card in hand does not carry it.

use super::card::describe_place;
use super::input::order_of;
use crate::error::{Handled, html};
use crate::frame::{Frame, Section};
use crate::pages::framed;
use crate::request::{blocking, is_partial};
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Value};
use proof_work::live_tests::Live;
use proof_work::plan::run::{Counts, Order, Planned, Run};
use serde::Deserialize;
use uuid::Uuid;

/// One of the two orders, with what it costs.
struct OrderRow {
    key: &'static str,
    label: &'static str,
    counts: Counts,
    chosen: bool,
}

/// A planned reading in the list of all.
struct JumpRow {
    of: Uuid,
    slug: String,
    label: String,
    value: String,
    here: bool,
}

/// A stretch of that list.
struct JumpGroup {
    title: String,
    rows: Vec<JumpRow>,
    left: usize,
}

/// Every planned reading, by what it is of and its stage.
fn groups(
    job: &Job,
    (run, live): (&Run<'_>, &Live<'_>),
    settled: &CurrentReadings<'_>,
    current_step: Option<&Planned>,
) -> Vec<JumpGroup> {
    let mut groups: Vec<JumpGroup> = Vec::new();
    let mut last = None;
    let done = |planned: &Planned| if planned.step.stage.is_dead() { run.done(planned) } else { live.done(planned) };
    for planned in run.planned.iter().chain(&live.planned) {
        let of = (planned.circuit_or_board(), planned.step.stage);
        if last != Some(of) {
            let title = format!("{} · {}", describe_place(job, planned), planned.step.stage.label());
            groups.push(JumpGroup { title, rows: Vec::new(), left: 0 });
            last = Some(of);
        }
        let Some(group) = groups.last_mut() else { continue };
        let done = done(planned);
        group.left += usize::from(!done);
        group.rows.push(JumpRow {
            of: planned.circuit_or_board(),
            slug: planned.step.slug.clone(),
            label: planned.step.label.clone(),
            value: settled
                .value(&planned.step.key)
                .map_or_else(|| if done { "✓".to_owned() } else { String::new() }, Value::shown),
            here: current_step == Some(planned),
        });
    }
    groups
}

/// How the run may be walked, each with what it counts.
fn orders(job: &Job, settled: &CurrentReadings<'_>, chosen: Order, at_power: bool) -> Vec<OrderRow> {
    let counts = |order| {
        if at_power { Live::new(job, settled, order).counts(true) } else { Run::new(job, settled, order).counts(true) }
    };
    Order::ALL
        .map(|one| OrderRow { key: one.key(), label: one.label(), counts: counts(one), chosen: one == chosen })
        .into()
}

#[derive(Template)]
#[template(path = "run_plan.html")]
struct Plan {
    job: Uuid,
    orders: Vec<OrderRow>,
    groups: Vec<JumpGroup>,
}

#[derive(Template)]
#[template(path = "run_plan_page.html")]
struct PlanPage {
    frame: Frame,
    job: Uuid,
    left: usize,
    of_all: usize,
    plan: String,
}

/// Which reading is in hand.
#[derive(Deserialize, Default)]
pub(crate) struct InHand {
    of: Option<Uuid>,
    at: Option<String>,
}

/// The plan, alone or as a page.
pub(crate) async fn plan(
    shared: Data<Shared>,
    path: Path<Uuid>,
    query: Query<InHand>,
    request: HttpRequest,
) -> Handled {
    let (id, InHand { of, at }) = (path.into_inner(), query.into_inner());
    let (order, partial) = (order_of(&request), is_partial(&request));
    let body = blocking(move || {
        let head = shared.store.job(id)?;
        let job = &head.job;
        let settled = job.settled();
        let (run, live) = (Run::new(job, &settled, order), Live::new(job, &settled, order));
        let (left, of_all) = (run.left().count(), run.planned.len());
        let current_step = of.zip(at.as_deref()).and_then(|(of, at)| run.find(of, at).or_else(|| live.find(of, at)));
        let at_power = left == 0 && of_all > 0;
        let orders = orders(job, &settled, order, at_power);
        let plan = Plan { job: id, orders, groups: groups(job, (&run, &live), &settled, current_step) };
        if partial {
            return Ok(plan.render()?);
        }
        let frame = framed("Plan", Section::Run, job, &job.events);
        let (left, of_all) = if at_power { (live.left().count(), live.planned.len()) } else { (left, of_all) };
        Ok(PlanPage { frame, job: id, left, of_all, plan: plan.render()? }.render()?)
    })
    .await?;
    Ok(html(StatusCode::OK, body))
}
