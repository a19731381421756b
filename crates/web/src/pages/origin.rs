//! The origin: bonds dead; supply polarity, Ze and fault current live.

use super::circuit::{set_cookies, strike_out};
use super::readings::{Asked, Bench, Sheet, Site, Taken, leads_said, next_open, remember_entry, take};
use super::{blocking, framed, is_partial};
use crate::Shared;
use crate::error::{Handled, WebError, go};
use crate::fields::Fields;
use crate::frame::Frame;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use proof_core::entry::Field;
use proof_core::event::Event;
use proof_core::expectation::{Band, bond_band, earthing_band};
use proof_core::hook_up::leads;
use proof_core::house_rules::LeadCompensation;
use proof_core::installation::Job;
use proof_core::judgement::{judge_origin, recorded_fault_current};
use proof_core::reading::{Reading, Settled, Subject, Test};
use proof_core::run::LeadState;
use proof_core::sequence::{Step, origin_steps};
use proof_core::standard::Source;
use serde::Deserialize;
use uuid::Uuid;

#[derive(Deserialize, Default)]
pub struct Wanted {
    at: Option<String>,
    last: Option<String>,
}

#[derive(Template)]
#[template(path = "origin_work.html")]
struct Work {
    sheet: Sheet,
    fault: Option<String>,
    no_bonds: bool,
    job: Uuid,
}

#[derive(Template)]
#[template(path = "origin.html")]
struct OriginPage {
    frame: Frame,
    system: &'static str,
    declared: f64,
    work: String,
    board: Option<Uuid>,
}

type Loaded = (Job, Vec<Event>, Vec<Reading>);

async fn load(shared: &Data<Shared>, job: Uuid) -> Result<Loaded, WebError> {
    let store = shared.store.clone();
    blocking(move || Ok((store.head(job)?.job, store.events(job)?, store.readings_for(job, None, None)?))).await
}

pub fn band(job: &Job, step: &Step) -> Result<Band, &'static str> {
    match (step.key.test, &step.key.subject) {
        (Test::BondContinuity, Subject::Bond { bond }) => job
            .installation
            .supply
            .bonds
            .iter()
            .find(|other| other.id == *bond)
            .ok_or("no such bond")
            .and_then(bond_band),
        (Test::EarthingConductor, _) if step.field == Field::Continuity => Ok(earthing_band()),
        (Test::Ze, _) => {
            let system = job.installation.supply.system;
            let declared = system.declared_ze().get();
            Ok(Band {
                low: 0.0,
                high: Some(declared),
                centre: None,
                basis: format!("declared maximum of a {} supply", system.name()),
                source: Source::practice("a supply is usually well under its declared maximum"),
            })
        }
        _ => Err("the supply decides this reading"),
    }
}

fn respond(loaded: &Loaded, request: &HttpRequest, asked: &Asked, status: StatusCode) -> Handled {
    let (job, events, readings) = loaded;
    let settled = Settled::new(readings, events);
    let state = LeadState::of(events, readings);
    let bench = Bench {
        steps: origin_steps(&job.installation),
        settled: &settled,
        judge: Box::new(|step, value| judge_origin(&job.installation, &settled, step, value)),
        band: Box::new(|step| band(job, step)),
        stands_in: Box::new(|_| None),
        leads: Box::new(|step| leads_said(&job.installation, step)),
        nulled: Box::new(|step| state.serves(LeadCompensation::Hold, leads(&job.installation, step))),
        base: format!("/jobs/{}/origin", job.id),
        ring: false,
        of_what: "this supply",
    };
    let work = Work {
        sheet: bench.sheet(job, request, asked),
        fault: recorded_fault_current(&settled).map(|(ka, pair)| format!("{ka} kA, {pair}")),
        no_bonds: job.installation.supply.bonds.is_empty(),
        job: job.id,
    }
    .render()?;
    let body = if is_partial(request) {
        work + &framed("", "origin", job, events).bands_beside()
    } else {
        let system = job.installation.supply.system;
        OriginPage {
            frame: framed("Origin", "origin", job, events),
            system: system.name(),
            declared: system.declared_ze().get(),
            work,
            board: job.installation.boards.first().map(|board| board.id),
        }
        .render()?
    };
    Ok(HttpResponse::build(status)
        .content_type("text/html; charset=utf-8")
        .insert_header(("cache-control", "no-store"))
        .body(body))
}

pub async fn show(shared: Data<Shared>, path: Path<Uuid>, query: Query<Wanted>, request: HttpRequest) -> Handled {
    let loaded = load(&shared, path.into_inner()).await?;
    let Wanted { at, last, .. } = query.into_inner();
    respond(&loaded, &request, &Asked { at, last, ..Asked::default() }, StatusCode::OK)
}

pub async fn enter(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let mut loaded = load(&shared, id).await?;
    let steps = origin_steps(&loaded.0.installation);
    let slug = f.get("step").to_owned();
    let step = steps.iter().find(|step| step.slug == slug);
    let step = step.ok_or_else(|| WebError::Bad(format!("“{slug}” is no step at the origin: load the page again.")))?;
    let again = |loaded: &Loaded, error: String, status| {
        let asked = Asked { at: Some(slug.clone()), given_back: Some(f.clone()), error, ..Asked::default() };
        respond(loaded, &request, &asked, status)
    };
    let site = Site { job: &loaded.0, events: &loaded.1, readings: &loaded.2 };
    match take(&shared, site, &f, step).await? {
        Taken::Stored(reading, log) => {
            loaded.2.extend(reading.map(|boxed| *boxed));
            loaded.1.extend(log);
        }
        Taken::GivenBack(error, status) => return again(&loaded, error, status),
    }
    let settled = Settled::new(&loaded.2, &loaded.1);
    let next = next_open(&steps, |step| settled.of(&step.key).is_some(), &slug);
    drop(settled);
    let to = format!("/jobs/{id}/origin?at={}&last={slug}", next.as_deref().unwrap_or(&slug));
    let mut response = if is_partial(&request) {
        let asked = Asked { at: next.or(Some(slug.clone())), last: Some(slug.clone()), ..Asked::default() };
        respond(&loaded, &request, &asked, StatusCode::OK)?
    } else {
        go(&to)
    };
    set_cookies(&mut response, remember_entry(&f));
    Ok(response)
}

pub async fn strike(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let at: String = f.get("step").chars().filter(|c| c.is_ascii_alphanumeric() || *c == '-').take(80).collect();
    strike_out(shared, id, &request, &f, format!("/jobs/{id}/origin?at={at}")).await
}
