//! A reading struck out, the last entry taken back, findings judged in writing.

use super::refusal::Wanting;
use super::{Actor, Recorded, Refusal};
use crate::review::{review, without_instrument};
use proof_job::installation::validity::{LONGEST_LINE, LONGEST_TEXT};
use proof_job::job::Job;
use proof_job::site::EventKind;
use proof_standard::text;
use uuid::Uuid;

/// Why an entry was taken back, in the log.
const AT_ONCE: &str = "taken back at once";

pub(super) fn strike_out(job: &Job, reading: Uuid, reason: &str, hand: &Actor) -> Result<Recorded, Refusal> {
    let reason = reason.trim();
    if reason.is_empty() || reason.chars().count() > LONGEST_LINE {
        return Err(Refusal::NoReason);
    }
    let reason = text::line("reason", reason, LONGEST_LINE)?;
    if hand.by.trim().is_empty() {
        return Err(Refusal::Nobody);
    }
    if !job.readings.iter().any(|one| one.id == reading) {
        return Err(Refusal::NoSuchReading(reading));
    }
    Ok(Recorded { events: vec![hand.event(EventKind::StruckOut { reading, reason })], ..Recorded::default() })
}

pub(super) fn take_back(job: &Job, reading: Uuid, hand: &Actor) -> Result<Recorded, Refusal> {
    if hand.by.trim().is_empty() {
        return Err(Refusal::Nobody);
    }
    let settled = job.settled();
    let last = job.readings.last().filter(|last| last.context.origin.is_on_site() && last.id == reading);
    let stands = last.and_then(|last| settled.get(&last.key)).is_some_and(|stands| stands.id == reading);
    if !stands {
        return Err(Refusal::NotLast);
    }
    let kind = EventKind::StruckOut { reading, reason: AT_ONCE.to_owned() };
    Ok(Recorded { events: vec![hand.event(kind)], ..Recorded::default() })
}

/// Every reading that names no instrument was taken with one that the register knows.
pub(super) fn say_instrument(job: &Job, instrument: Uuid, hand: &Actor) -> Result<Recorded, Refusal> {
    if hand.by.trim().is_empty() {
        return Err(Refusal::Nobody);
    }
    let readings = without_instrument(job.into());
    if readings.is_empty() || !job.instruments.iter().any(|one| one.id == instrument) {
        return Err(Refusal::NoSuchInstrument);
    }
    Ok(Recorded { events: vec![hand.event(EventKind::TakenWith { readings, instrument })], ..Recorded::default() })
}

pub(super) fn judge(
    job: &Job,
    ticked: &[String],
    [position, reason]: [&String; 2],
    hand: &Actor,
) -> Result<Recorded, Refusal> {
    let position = text::line("position", position, LONGEST_LINE)?;
    let reason = text::paragraph("judgement", reason, LONGEST_TEXT)?;
    let findings = review(job.into());
    let judged: Vec<_> = findings.iter().filter(|one| one.may_be_judged() && ticked.contains(&one.mark())).collect();
    let mut wrong = Vec::new();
    if hand.by.trim().is_empty() {
        wrong.push(("by".to_owned(), Refusal::Nobody));
    }
    for (empty, field, what) in [
        (position.is_empty(), "position", Wanting::Position),
        (reason.is_empty(), "judgement", Wanting::Judgement),
        (judged.is_empty(), "judgement", Wanting::Ticked),
    ] {
        if empty {
            wrong.push((field.to_owned(), Refusal::Wanting(what)));
        }
    }
    if !wrong.is_empty() {
        return Err(Refusal::Fields(wrong));
    }
    let events = judged
        .into_iter()
        .map(|finding| {
            let (position, reason) = (position.clone(), reason.clone());
            let (finding, said, bound) = (finding.id(), finding.text(), Some(finding.bound()));
            hand.event(EventKind::Judged { finding, said, bound, position, reason })
        })
        .collect();
    Ok(Recorded { events, ..Recorded::default() })
}
