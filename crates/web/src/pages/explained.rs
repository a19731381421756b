//! What best explains the readings of a circuit: worked out in its turn, kept until a reading touches the circuit,
//! shown with the page or after it.

use super::answers::Found;
use super::circuit_profile::profile_of;
use crate::cpu_pool::on_cpu_pool;
use crate::draw::overlay;
use crate::draw::profile::Profile;
use crate::error::{Handled, WebError, html};
use crate::request::{find_circuit, load, remembered};
use crate::shared::Shared;
use crate::words;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use proof_job::installation::{Circuit, PointId};
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Stage, WorkedOut};
use proof_judge::explanation::circuit::{case_of, name};
use proof_judge::verdict::CircuitJudge;
use proof_physics::diagnosis::{Kind, diagnose};
use proof_standard::conductor::Core;
use proof_store::JobHead;
use proof_work::plan::sequence::steps_kept;
use std::sync::Arc;
use uuid::Uuid;

/// Most points that are diagnosed without being asked.
const DIAGNOSED_UNASKED: usize = 24;

/// One explanation of the readings, as shown.
pub(crate) struct Explained {
    /// In whole percent, of which none is ever sure: at most `over 99`.
    pub percent: u32,
    pub shown: String,
    pub text: String,
    /// Found so, it is drawn into the description.
    pub drawn: Option<Found>,
}

/// What best explains the readings of the circuit.
pub(crate) struct Diagnosed {
    pub explanations: Vec<Explained>,
    pub undecided: bool,
    pub unexplained: Option<String>,
    pub next: String,
    pub because: String,
}

/// Two explanations this near to each other are not told apart by the readings.
const UNDECIDED: f64 = 0.25;

/// Explains the readings, with what is drawn of it.
fn explained(job: &Job, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<(Diagnosed, overlay::Overlay)> {
    let case = case_of(&job.installation, circuit, settled)?;
    let diagnosis = diagnose(&case).ok()?;
    let best = diagnosis.explanations.first()?;
    let is = |point: PointId, said: &str| {
        let own = name(circuit, point);
        // An outlet of a twin stands where its point does.
        own == said || said.strip_prefix(&own).is_some_and(|rest| matches!(rest, "/1" | "/2"))
    };
    let id_of = |said: &str| circuit.points.iter().find(|point| is(point.id, said)).map(|point| point.id.0);
    let mut marks = Vec::new();
    for kind in &best.kinds {
        let core = |core: Core| match core {
            Core::L => "L",
            Core::N => "N",
            Core::E => "CPC",
        };
        match kind {
            Kind::HighResistanceJoint { conductor, after: Some(after) }
            | Kind::Open { conductor, after: Some(after) } => {
                marks.push(overlay::OverlayMark::Segment(id_of(after), core(*conductor)));
            }
            Kind::HighResistanceJoint { conductor, after: None } | Kind::Open { conductor, after: None } => {
                marks.push(overlay::OverlayMark::Somewhere(core(*conductor)));
            }
            Kind::Cross { after: Some(after), .. } => {
                marks.push(overlay::OverlayMark::Segment(id_of(after), "crossed"))
            }
            Kind::Spur { points } => {
                marks.extend(points.iter().filter_map(|p| id_of(p)).map(overlay::OverlayMark::Point))
            }
            Kind::Contact { at } | Kind::SwitchOff { at } | Kind::Swap { at, .. } => {
                marks.extend(id_of(at).map(overlay::OverlayMark::Point));
            }
            Kind::Bridge { between: [a, b] } | Kind::ParallelEarth { between: [a, b] } => {
                marks.extend(id_of(a).zip(id_of(b)).map(|(a, b)| overlay::OverlayMark::Between(a, b)));
            }
            _ => {}
        }
    }
    let predicted = circuit.points.iter().map(|point| point.id.0).zip(best.points.iter().copied()).collect();
    let second = diagnosis.explanations.get(1).map_or(0.0, |one| one.share);
    let shown = Diagnosed {
        undecided: best.share - second < UNDECIDED,
        unexplained: best.unexplained.clone(),
        explanations: diagnosis
            .explanations
            .iter()
            .map(|one| Explained {
                percent: words::percent(one.share),
                shown: words::share(one.share),
                text: one.describe(),
                drawn: Found::from_explanation(circuit, one),
            })
            .filter(|one| one.percent > 0)
            .collect(),
        next: diagnosis.next.what.clone(),
        because: diagnosis.next.because.clone(),
    };
    Some((shown, overlay::Overlay { predicted, marks }))
}

/// What explains the readings, if anything may; kept with the circuit.
pub(crate) struct Explanation(Option<(Diagnosed, overlay::Overlay)>);

impl WorkedOut for Explanation {
    const DESCRIBED: bool = false;
}

impl Explanation {
    fn for_circuit(job: &Job, circuit: &Circuit) -> Arc<Self> {
        let settled = job.settled();
        settled.cached(&job.installation, circuit, || Self(explained(job, circuit, &settled)))
    }

    /// The section of the page.
    pub(crate) fn section(&self, base: &str, writer: &str) -> String {
        let found = self.0.as_ref().map(|(found, _)| found);
        found.map(|found| Section { base, writer, found }.render().unwrap_or_default()).unwrap_or_default()
    }

    /// What is laid over the drawing.
    pub(crate) fn drawn(&self, profile: &Profile) -> String {
        self.0.as_ref().map(|(_, overlay)| overlay.drawn(profile)).unwrap_or_default()
    }
}

/// Whether a reading of continuity is odd, kept with the circuit.
struct Odd(bool);

impl WorkedOut for Odd {
    const DESCRIBED: bool = false;
}

fn is_odd(job: &Job, circuit: &Circuit, settled: &CurrentReadings<'_>) -> bool {
    let installation = &job.installation;
    let work = || {
        let judge = CircuitJudge::new(installation, circuit, settled);
        let steps = steps_kept(installation, circuit, settled);
        let odd = steps.iter().filter(|step| step.stage < Stage::R2).any(|step| {
            let value = settled.value(&step.key);
            value.is_some_and(|value| words::worse(&judge.judge(step, value)).is_odd())
        });
        Odd(odd)
    };
    settled.cached(installation, circuit, work).0
}

/// How a page shows it.
pub(crate) enum ExplanationShown {
    /// Nothing is odd, or nobody asked.
    Not,
    /// With the page.
    Now(Arc<Explanation>),
    /// The page asks for it when it is there.
    Later,
}

/// What a page of a circuit shows of it. What is odd in continuity is explained; on a very long circuit when it is
/// asked.
pub(super) async fn shown(
    head: &Arc<JobHead>,
    circuit: &Circuit,
    partial: bool,
    asked: bool,
) -> Result<ExplanationShown, WebError> {
    let settled = head.job.settled();
    let wanted = asked || circuit.points.len() <= DIAGNOSED_UNASKED && is_odd(&head.job, circuit, &settled);
    if !wanted || case_of(&head.job.installation, circuit, &settled).is_none() {
        return Ok(ExplanationShown::Not);
    }
    if partial && !asked {
        return Ok(ExplanationShown::Later);
    }
    Ok(ExplanationShown::Now(worked_out(head, circuit.id).await?))
}

async fn worked_out(head: &Arc<JobHead>, circuit: Uuid) -> Result<Arc<Explanation>, WebError> {
    let head = head.clone();
    on_cpu_pool(move || Ok(Explanation::for_circuit(&head.job, find_circuit(&head.job, circuit)?))).await
}

#[derive(Template)]
#[template(path = "diagnosis.html")]
struct Section<'a> {
    base: &'a str,
    writer: &'a str,
    found: &'a Diagnosed,
}

#[derive(Template)]
#[template(path = "diagnosis_later.html")]
struct Later<'a> {
    base: &'a str,
    at: &'a str,
}

/// The place of the section, which asks for it.
pub(super) fn later(base: &str, at: &str) -> String {
    Later { base, at }.render().unwrap_or_default()
}

/// The step in hand.
#[derive(serde::Deserialize, Default)]
pub(crate) struct CurrentStepQuery {
    #[serde(default)]
    at: String,
}

/// The section, and the drawing with what is laid over it.
pub(crate) async fn show(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    current_step: Query<CurrentStepQuery>,
    request: HttpRequest,
) -> Handled {
    let (job, circuit) = path.into_inner();
    let head = load(&shared, job).await?;
    let explanation = worked_out(&head, circuit).await?;
    let circuit = find_circuit(&head.job, circuit)?;
    let base = format!("/jobs/{job}/circuits/{}", circuit.id);
    let profile = profile_of(&head.job, circuit, &current_step.at);
    let drawing = profile.drawing(&explanation.drawn(&profile));
    let section = explanation.section(&base, &remembered(&request, "writer"));
    let body = format!("{section}<div id=\"profile\" hx-swap-oob=\"innerHTML\">{drawing}</div>");
    Ok(html(StatusCode::OK, body))
}
