//! What the page of the run shows besides the job.

use crate::forms::Fields;
use crate::pages::entry::EntryQuery;
use crate::request::remembered;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use proof_work::plan::run::{Order, Planned};
use uuid::Uuid;

pub(super) fn order_of(request: &HttpRequest) -> Order {
    let key = remembered(request, "order");
    Order::ALL.into_iter().find(|order| order.key() == key).unwrap_or_default()
}

/// What is drawn: which reading, what was said last, what was refused.
#[derive(Default)]
pub(super) struct RunInput {
    pub of: Option<Uuid>,
    pub at: Option<String>,
    pub last: Option<(Uuid, String)>,
    /// The reading that was just taken: what comes after it is in hand.
    pub after: Option<Planned>,
    pub asked: EntryQuery,
    pub problem: String,
    /// What was said last came from an instrument: what comes after it is in hand.
    pub after_last: bool,
    /// The form of joining an instrument that was refused, and why.
    pub joining: Option<(Fields, String)>,
    /// Who writes, as a form has just said it.
    pub hands: Option<Hands>,
    /// The card of the day was put off.
    pub put_off: bool,
    /// The form that was refused, other than the entry's: what was typed stands in it again.
    pub kept: Fields,
    /// Of a refusal; none: it is right.
    pub refused: Option<StatusCode>,
}

/// Who writes and reads, and with what, as a form has just said it: the cookies of the request are older.
#[derive(Default, Clone)]
pub(super) struct Hands {
    pub writer: String,
    pub reader: String,
    pub instrument: String,
}
