//! An instrument joined to the run: the strip that says how its line stands, joining, leaving, and the look for what came.

use super::input::RunInput;
use super::joined::HOLDER;
pub(crate) use super::joined::{Joined, choices, joined};
use super::view::{joined_strip, respond};
use crate::error::{Handled, WebError, go};
use crate::forms::Fields;
use crate::request::{load, once, remember, remembered};
use crate::shared::Shared;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use actix_web::{HttpRequest, HttpResponse};
use jiff::Timestamp;
use proof_job::installation::validity::LONGEST_LINE;
use proof_job::job::Job;
use proof_store::Feed;
use serde::Deserialize;
use std::net::{IpAddr, SocketAddr};
use uuid::Uuid;

/// Whether the program calls there: this machine, or a private network.
const fn is_near(ip: IpAddr) -> bool {
    match ip {
        IpAddr::V4(ip) => ip.is_loopback() || ip.is_private() || ip.is_link_local(),
        IpAddr::V6(ip) => ip.is_loopback() || ip.is_unique_local() || ip.is_unicast_link_local(),
    }
}

/// What the form of joining says; what is wrong stands at its fields.
fn asked(f: &mut Fields, job: &Job, order: &str) -> Option<Feed> {
    let address: Option<SocketAddr> = f.trimmed("address").parse().ok().filter(|at: &SocketAddr| is_near(at.ip()));
    if address.is_none() {
        let allowed = "Give an address and a port of this machine or of a private network, such as 127.0.0.1:7672.";
        f.wrong("address", allowed);
    }
    let instrument: Option<Uuid> = f.get("joined").parse().ok();
    let instrument = instrument.filter(|id| job.instruments.iter().any(|one| one.id == *id));
    if instrument.is_none() {
        f.wrong("joined", "Choose an instrument of this job's register; a new one is added on the firm's page.");
    }
    let (read_by, joined_by) = (f.line("read_by", LONGEST_LINE), f.line("by", LONGEST_LINE));
    if joined_by.is_empty() {
        f.wrong("by", "Give the name of the person who joins it: its readings are written down by them.");
    }
    let id = f.made_id("feed");
    let (address, instrument) = (address?.to_string(), instrument?);
    let feed = Feed {
        id,
        job: job.id,
        address,
        instrument,
        read_by,
        joined_by,
        order: order.to_owned(),
        joined_at: Timestamp::now(),
    };
    (!f.any_wrong()).then_some(feed)
}

/// Joins an instrument.
pub(crate) async fn join(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let head = load(&shared, id).await?;
    let order = remembered(&request, "order");
    let again = |f: Fields, problem: String, status: StatusCode| {
        let drawn = RunInput { joining: Some((f, problem)), refused: Some(status), ..RunInput::default() };
        respond(&head.job, &request, &drawn)
    };
    let Some(feed) = asked(&mut f, &head.job, &order) else {
        return again(f, "Not joined: see what is marked.".to_owned(), StatusCode::UNPROCESSABLE_ENTITY);
    };
    let stored = feed.clone();
    match once(&shared, &f, move |store| Ok(store.join(&stored)?)).await {
        Ok(Some(())) => shared.feeds.open(&shared.store, feed),
        // Sent twice: it is open already.
        Ok(None) => {}
        Err(WebError::Clash(why)) => return again(f, format!("Not joined: {why}."), StatusCode::CONFLICT),
        Err(other) => return Err(other),
    }
    let mut response = go(&format!("/jobs/{id}/run"));
    let holder = f.made_id("feed").to_string();
    remember(&mut response, &[("writer", f.trimmed("by")), ("reader", f.trimmed("read_by")), (HOLDER, &holder)]);
    Ok(response)
}

/// Leaves the instrument.
pub(crate) async fn leave(shared: Data<Shared>, path: Path<Uuid>, f: Fields) -> Handled {
    let id = path.into_inner();
    once(&shared, &f, move |store| Ok(store.leave(id, Timestamp::now())?)).await?;
    shared.feeds.close(id);
    Ok(go(&format!("/jobs/{id}/run")))
}

/// How much the page has seen.
#[derive(Deserialize)]
pub(crate) struct Seen {
    pub seen: u64,
}

/// What came since: the run with the reading in it, or nothing.
pub(crate) async fn look(
    shared: Data<Shared>,
    path: Path<Uuid>,
    query: Query<Seen>,
    request: HttpRequest,
    f: Fields,
) -> Handled {
    let (id, seen) = (path.into_inner(), query.seen);
    let card = f.get("of").parse().ok().zip(Some(f.get("step").to_owned()).filter(|step| !step.is_empty()));
    let Some((feed, _)) = shared.feeds.for_job(id) else {
        // Left meanwhile, by another: the page is loaded again.
        return Ok(HttpResponse::NoContent().insert_header(("hx-refresh", "true")).finish());
    };
    // The card at hand is the one on the screen of who joined; others look on.
    let holds = remembered(&request, HOLDER) == feed.id.to_string();
    if holds {
        shared.feeds.shows(id, seen, card.clone());
    }
    let Some((_, line)) = shared.feeds.for_job(id).filter(|(_, line)| line.seen != seen) else {
        return Ok(HttpResponse::NoContent().finish());
    };
    let head = load(&shared, id).await?;
    if !f.trimmed("typed").is_empty() {
        // Nothing is drawn over what is being typed.
        let strip = joined_strip(&head.job, &request, true)?;
        let mut response = crate::error::html(StatusCode::OK, strip);
        for (name, value) in [("hx-retarget", "#feed"), ("hx-reswap", "outerHTML")] {
            let value = actix_web::http::header::HeaderValue::from_static(value);
            response.headers_mut().insert(actix_web::http::header::HeaderName::from_static(name), value);
        }
        return Ok(response);
    }
    if holds {
        return respond(&head.job, &request, &RunInput { last: line.last, after_last: true, ..RunInput::default() });
    }
    let (of, at) = card.unzip();
    respond(&head.job, &request, &RunInput { of, at, ..RunInput::default() })
}
