//! Before use, once a day and job: who writes, who reads, with what, and whether it is right.

use super::view::Drawn;
use super::{again, asked_for, respond};
use crate::Shared;
use crate::error::{Handled, status_of};
use crate::forms::Fields;
use crate::request::{did, load, named, offered, remember, remembered};
use actix_web::HttpRequest;
use actix_web::web::Data;
use jiff::Timestamp;
use proof_job::job::Job;
use proof_job::site::{BoardState, before_use, day};
use proof_work::actions::{Action, Beginning};
use uuid::Uuid;

/// The card.
pub(super) struct Today {
    pub writer: String,
    pub reader: String,
    pub instrument: String,
    pub wrong: String,
}

/// Who writes and reads, and with what, as a form has just said it: the cookies of the request are older.
#[derive(Default, Clone)]
pub(super) struct Hands {
    pub writer: String,
    pub reader: String,
    pub instrument: String,
}

impl Hands {
    /// As the form of a reading says.
    pub(super) fn from_entry(f: &Fields) -> Self {
        let said = |name: &str| f.trimmed(name).to_owned();
        Self { writer: said("entered_by"), reader: said("read_by"), instrument: said("instrument") }
    }

    /// As it was remembered, another person writing.
    pub(super) fn by(request: &HttpRequest, writer: &str) -> Self {
        let (reader, instrument) = (remembered(request, "reader"), remembered(request, "instrument"));
        Self { writer: writer.to_owned(), reader, instrument }
    }
}

/// What a browser remembers where the card was put off for the day, counted as the log counts it.
fn put_off(job: Uuid) -> String {
    format!("{job} {}", day(Timestamp::now()))
}

/// The card, where nobody who writes here has answered it today; not while the earth is off for Ze, which
/// nothing stands before.
pub(super) fn card(job: &Job, request: &HttpRequest, drawn: &Drawn) -> Option<Today> {
    let site = job.site();
    if job.installation.boards.iter().any(|board| site.board(board.id).0 == BoardState::SupplyExposed) {
        return None;
    }
    let refused = !drawn.kept.get("found").is_empty();
    let hands = drawn.hands.clone().unwrap_or_else(|| Hands::by(request, &remembered(request, "writer")));
    let answered = before_use(&job.events, &hands.writer, Timestamp::now()).is_some();
    if drawn.put_off || answered && !refused || remembered(request, "not_today") == put_off(job.id) {
        return None;
    }
    let kept = |field: &str, before: String| if refused { drawn.kept.get(field).to_owned() } else { before };
    Some(Today {
        writer: kept("by", hands.writer),
        reader: kept("read_by", hands.reader),
        instrument: kept("instrument", offered(job, &hands.instrument)),
        wrong: kept("wrong", String::new()),
    })
}

/// The card answered, or put off for the day.
pub(super) async fn answer(shared: Data<Shared>, id: Uuid, request: HttpRequest, f: Fields) -> Handled {
    let (of, at) = asked_for(&f);
    let drawn = Drawn { of, at, ..Drawn::default() };
    if f.is("found", "later") {
        let mut response = again(&load(&shared, id).await?.job, &request, Drawn { put_off: true, ..drawn })?;
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
        return respond(job, &request, &Drawn { problem, kept: f, refused, ..drawn });
    }
    let hands =
        Hands { writer: by, reader: f.trimmed("read_by").to_owned(), instrument: f.get("instrument").to_owned() };
    let mut response = again(job, &request, Drawn { hands: Some(hands.clone()), ..drawn })?;
    let Hands { writer, reader, instrument } = &hands;
    remember(&mut response, &[("writer", writer), ("reader", reader), ("instrument", instrument)]);
    Ok(response)
}
