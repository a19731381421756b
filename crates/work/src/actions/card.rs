//! What the card of the run says, done: put back, made, nulled. What that is, is worked out here.

use super::{Actor, Recorded, Refusal, on_site};
use crate::gate::check_alter;
use crate::plan::run::{Need, Order, Run};
use proof_job::job::Job;
use proof_job::site::EventKind;
use proof_standard::house_rules::LeadCompensation;
use rust_decimal::Decimal;
use uuid::Uuid;

/// What is done.
#[derive(Debug, Clone, PartialEq)]
pub enum CardKind {
    /// The listed items are back.
    Undo(Vec<Uuid>),
    /// What the step wants is made.
    Make,
    /// The same, and the leads are nulled.
    MakeAndNull,
    /// The leads are nulled; or what they read, where they are subtracted, Ω.
    Null(Option<Decimal>),
}

/// A card that was answered.
#[derive(Debug, Clone)]
pub struct CardAction {
    /// The circuit or board of the reading in hand, and its step; none: the first that is left.
    pub asked: Option<(Uuid, String)>,
    /// The order of the run.
    pub order: Order,
    /// What is done.
    pub card: CardKind,
}

pub(super) fn record(job: &Job, act: &CardAction, hand: &Actor) -> Result<Recorded, Refusal> {
    if hand.by.trim().is_empty() {
        return Err(Refusal::Nobody);
    }
    if let CardKind::Undo(items) = &act.card {
        return Ok(on_site::put_back_all(job, items, hand));
    }
    let settled = job.settled();
    let run = Run::new(job, &settled, act.order);
    let planned = run.current_card(act.asked.as_ref().map(|(of, slug)| (*of, slug.as_str())));
    let mut events = Vec::new();
    for need in planned.map(|planned| run.needs(planned)).unwrap_or_default() {
        match (need, &act.card) {
            (Need::Make(made, replaced), CardKind::Make | CardKind::MakeAndNull) => {
                for one in &made {
                    let (board, circuit) = (one.board, one.circuit);
                    check_alter(job, board, circuit, one.alteration).map_err(Refusal::Gate)?;
                }
                events.extend(replaced.into_iter().map(|item| hand.event(EventKind::PutBack { item })));
                events.extend(made.into_iter().map(|one| {
                    let item = hand.next_id();
                    hand.event(one.opened(item))
                }));
            }
            (Need::Null(leads), CardKind::Null(_) | CardKind::MakeAndNull) => {
                let ohm = if let CardKind::Null(ohm) = &act.card { *ohm } else { None };
                let measured = job.installation.house_rules.leads == LeadCompensation::Subtract;
                if measured && ohm.is_none() {
                    return Err(Refusal::LeadsUnread);
                }
                let (lead_set, pins) = (leads.set.to_owned(), leads.pins.to_owned());
                let subtract_ohm = ohm.filter(|_| measured);
                events.push(hand.event(EventKind::Nulled { lead_set, pins, subtract_ohm }));
            }
            _ => {}
        }
    }
    Ok(Recorded { events, ..Recorded::default() })
}
