//! The automatic series of an RCD entered in one go, in the order in which the instrument shows it.

use super::circuit::set_cookies;
use super::readings::{Site, reading_of, remember_entry};
use super::{blocking, find_circuit};
use crate::Shared;
use crate::error::{Handled, go};
use crate::fields::Fields;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use jiff::Timestamp;
use proof_core::gate::may_read;
use proof_core::plan::sequence::circuit_steps;
use proof_core::reading::Step;
use proof_core::reading::{Settled, Test};
use proof_core::standard::rcd::{HalfCycle, Multiple};
use uuid::Uuid;

/// Orders in which instruments run a series, with what each is called.
pub const ORDERS: [(&str, &str); 3] = [
    ("pairs", "½ 0°, ½ 180°, 1 0°, 1 180°, 5 0°, 5 180°"),
    ("halves", "½ 0°, 1 0°, 5 0°, ½ 180°, 1 180°, 5 180°"),
    ("trips", "1 0°, 1 180°, 5 0°, 5 180° (½ apart)"),
];

/// The trip-time steps of a circuit in an order.
fn in_order(steps: &[Step], order: &str) -> Vec<Step> {
    let key = |step: &Step| match step.key.test {
        Test::RcdTrip { multiple, half_cycle } => {
            let multiple = match multiple {
                Multiple::Half => 0,
                Multiple::One => 1,
                Multiple::Five => 2,
            };
            let half = u8::from(half_cycle == HalfCycle::Deg180);
            Some(if order == "halves" { (half, multiple) } else { (multiple, half) })
        }
        _ => None,
    };
    let mut all: Vec<Step> = steps
        .iter()
        .filter(|step| key(step).is_some())
        .filter(|step| order != "trips" || !matches!(step.key.test, Test::RcdTrip { multiple: Multiple::Half, .. }))
        .cloned()
        .collect();
    all.sort_by_key(|step| key(step));
    all
}

/// What a figure of a series may be written as, made into what a field takes.
fn word(text: &str) -> &str {
    match text.to_lowercase().as_str() {
        "nt" | "-" | "x" | ">" => "no trip",
        _ => text,
    }
}

pub async fn enter(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, f: Fields) -> Handled {
    let (job_id, circuit_id) = path.into_inner();
    let store = shared.store.clone();
    let head = blocking(move || Ok(store.job(job_id)?)).await?;
    let job = &head.job;
    let circuit = find_circuit(job, circuit_id)?;
    let steps = in_order(&circuit_steps(&job.installation, circuit), f.get("order"));
    let kept = |why: String, status| {
        let why = format!("Nothing of the series was stored. {why}");
        super::circuit::given_back(&shared, (job_id, circuit_id), &request, f.clone(), why, status)
    };
    let refused = StatusCode::UNPROCESSABLE_ENTITY;
    let words: Vec<&str> = f.get("series").split_whitespace().collect();
    if words.len() != steps.len() {
        let order: Vec<&str> = steps.iter().map(|step| step.label.as_str()).collect();
        let why = format!(
            "The series has {} figures and {} were typed: {}; write nt where it did not trip.",
            steps.len(),
            words.len(),
            order.join(", ")
        );
        return kept(why, refused).await;
    }
    let settled = Settled::new(&job.readings, &job.events);
    let site = Site { job, events: &job.events, readings: &job.readings };
    let now = Timestamp::now();
    let mut readings = Vec::new();
    for (step, typed) in steps.iter().zip(words) {
        if let (false, Err(refusal)) = (f.ticked("paper"), may_read(site.reviewed(), &settled, step)) {
            return kept(format!("{}.", refusal.why), StatusCode::CONFLICT).await;
        }
        let mut one = f.clone();
        one.put("typed", word(typed));
        one.put("id", Uuid::new_v4().to_string());
        match reading_of(&one, step, site, now)? {
            Ok(reading) => readings.push(reading),
            Err(problem) => return kept(format!("{}: {problem}", step.label), refused).await,
        }
    }
    let store = shared.store.clone();
    blocking(move || Ok(store.append_readings_with(job_id, &readings, &[])?)).await?;
    let mut response = go(&format!("/jobs/{job_id}/circuits/{circuit_id}?at=rcd-button&last=rcd-1"));
    set_cookies(&mut response, remember_entry(&f));
    Ok(response)
}
