//! Before use, once a day and job: who writes, who reads, with what, and whether it is right.

use super::input::{Hands, RunInput};
use crate::forms::Fields;
use crate::request::{offered, remembered};
use actix_web::HttpRequest;
use jiff::Timestamp;
use proof_job::job::Job;
use proof_job::site::{BoardState, before_use, day};
use uuid::Uuid;

/// The card.
pub(super) struct Today {
    pub writer: String,
    pub reader: String,
    pub instrument: String,
    pub wrong: String,
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
pub(super) fn put_off(job: Uuid) -> String {
    format!("{job} {}", day(Timestamp::now()))
}

/// The card, where nobody who writes here has answered it today; not while the earth is off for Ze, which
/// nothing stands before.
pub(super) fn card(job: &Job, request: &HttpRequest, drawn: &RunInput) -> Option<Today> {
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
