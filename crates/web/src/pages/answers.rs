//! What was found behind odd readings: asked on the circuit's page, drawn into its description, taken back.

use crate::error::{Handled, WebError, go};
use crate::forms::Fields;
use crate::request::{find_circuit, who};
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::web::{Data, Path};
use jiff::Timestamp;
use proof_job::installation::{Circuit, CircuitAnswer, PointId};
use proof_job::job::Job;
use proof_job::reading::CurrentReadings;
use proof_judge::explanation::circuit::{SpurVerdict, answers, drawn_by, spur_metres};
use proof_physics::diagnosis::Explanation;
use uuid::Uuid;

/// A point told as metres of spur.
pub(crate) struct SpurRow {
    pub point: u32,
    pub name: String,
    pub second: String,
    pub third: String,
    pub says: &'static str,
    pub ask: bool,
}

pub(super) fn spur_rows(job: &Job, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Vec<SpurRow> {
    let metres = |m: Option<f64>| m.map_or_else(|| "not read".to_owned(), |m| format!("{m:.1} m"));
    spur_metres(&job.installation, circuit, settled)
        .into_iter()
        .filter_map(|row| {
            let point = circuit.point(row.point)?;
            let drawn = point.spur_from.is_some();
            Some(SpurRow {
                point: row.point.0,
                name: point.name.clone(),
                second: metres(row.second_m),
                third: metres(row.third_m),
                says: match row.verdict {
                    SpurVerdict::Spur if drawn => "the spur that is drawn",
                    SpurVerdict::Spur => "both steps agree: a spur, if one cable is behind it",
                    SpurVerdict::ContactOrJoint => "the steps disagree: contacts, or a joint in one conductor",
                    SpurVerdict::Absurd => "no spur is that long: a joint, or contacts",
                    SpurVerdict::OneStep => "read it in the other step too",
                },
                ask: row.drawn(circuit).is_some(),
            })
        })
        .collect()
}

/// An explanation that is drawn where it is found to be so.
pub(crate) struct Found {
    /// Which kind, in its form.
    pub key: &'static str,
    pub point: String,
    /// On its button.
    pub button: &'static str,
}

/// The key of an answer in forms, and the point that it is of.
const fn key_of(answer: &CircuitAnswer) -> (&'static str, Option<PointId>) {
    match answer {
        CircuitAnswer::Spur { point, .. } => ("spur", Some(*point)),
        CircuitAnswer::MoreCables { point } => ("more", Some(*point)),
        CircuitAnswer::Length { .. } => ("length", None),
        CircuitAnswer::Cpc { .. } => ("cpc", None),
        CircuitAnswer::MetalBeside => ("metal", None),
    }
}

impl Found {
    /// What an explanation draws, if anything.
    pub(super) fn from_explanation(circuit: &Circuit, explanation: &Explanation) -> Option<Self> {
        let answer = drawn_by(circuit, explanation)?;
        let (key, point) = key_of(&answer);
        let button = match answer {
            CircuitAnswer::Spur { .. } | CircuitAnswer::MoreCables { .. } => "found so: draw the spur",
            CircuitAnswer::Length { .. } => "found so: that length",
            CircuitAnswer::Cpc { .. } => "found so: that CPC",
            CircuitAnswer::MetalBeside => "found so: metal beside it",
        };
        Some(Self { key, point: point.map(|id| id.0.to_string()).unwrap_or_default(), button })
    }
}

/// An answer as it stands, in words.
fn describe(circuit: &Circuit, answer: &CircuitAnswer) -> String {
    let name = |id: &PointId| circuit.point(*id).map_or_else(|| id.0.to_string(), |point| point.name.clone());
    match answer {
        CircuitAnswer::Spur { point, length_m } => {
            format!("{} is on a spur of about {} m", name(point), length_m.get())
        }
        CircuitAnswer::MoreCables { point } => {
            format!("two cables or more behind {}: contacts or a joint", name(point))
        }
        CircuitAnswer::Length { length_m } => format!("the circuit is about {} m", length_m.get()),
        CircuitAnswer::Cpc { mm2 } => format!("its CPC is {} mm²", mm2.get()),
        CircuitAnswer::MetalBeside => "metal runs beside its CPC".to_owned(),
    }
}

/// What was answered of a circuit, the last first.
pub(super) fn answered(circuit: &Circuit) -> Vec<(Uuid, String)> {
    circuit
        .answered
        .iter()
        .rev()
        .map(|one| (one.id, format!("{} ({})", describe(circuit, &one.answer), one.by)))
        .collect()
}

/// Changes the circuit of a job in the one transaction that looked at it.
async fn changed(
    shared: &Data<Shared>,
    f: &Fields,
    (job_id, circuit_id): (Uuid, Uuid),
    change: impl FnOnce(&Job, &mut Circuit) -> Result<(), WebError> + Send + 'static,
) -> Handled {
    crate::request::change(shared, f, job_id, move |whole, job| {
        find_circuit(job, circuit_id)?;
        if let Some(circuit) = job.installation.circuits.iter_mut().find(|other| other.id == circuit_id) {
            change(whole, circuit)?;
        }
        Ok(())
    })
    .await?;
    Ok(go(&format!("/jobs/{job_id}/circuits/{circuit_id}")))
}

/// Draws what was found: how long, or which size, is worked out from the readings and not sent.
pub(crate) async fn answer(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, f: Fields) -> Handled {
    let by = who(&request, &f)?;
    let wanted = (f.get("found").to_owned(), f.get("point").parse().ok().map(PointId));
    let (id, at) = (Uuid::new_v4(), Timestamp::now());
    changed(&shared, &f, path.into_inner(), move |job, circuit| {
        let is_wanted = |answer: &CircuitAnswer| key_of(answer) == (wanted.0.as_str(), wanted.1);
        let offered = answers(&job.installation, circuit, &job.settled()).find(is_wanted);
        let answer = offered.ok_or_else(|| {
            WebError::Bad("The readings do not say so any more: load the page again. Nothing was stored.".into())
        })?;
        circuit.answer((id, &by, at), answer).map_err(|why| WebError::Bad(format!("{why} Nothing was stored.")))
    })
    .await
}

/// Takes an answer back.
pub(crate) async fn take_back(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, f: Fields) -> Handled {
    let id = f.get("answer").parse().unwrap_or_default();
    changed(&shared, &f, path.into_inner(), move |_, circuit| {
        circuit.take_back(id).map_err(|why| WebError::Bad(format!("{why} Nothing was stored.")))
    })
    .await
}
