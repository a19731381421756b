//! The circuit page: the drawing, the profile of readings against the expected band, the entry.

use super::answers::{SpurRow, answered, spur_rows};
use super::circuit_profile::entry_context;
use super::entry::{EntryContext, EntryQuery, EntrySheet, figure, next_open, remember_entry};
use super::explained::{ExplanationShown, later, shown};
use super::framed;
use crate::draw::{live, profile, switching};
use crate::error::{Handled, WebError, go, html, status_of};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::request::{did, find_circuit, is_partial, load};
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use proof_job::installation::Circuit;
use proof_job::instrument::SeriesOrder;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Stage, Test, highest};
use proof_job::site::LeadState;
use proof_judge::explanation::circuit::case_of;
use proof_judge::explanation::switching::said_of;
use proof_judge::verdict::CircuitJudge;
use proof_standard::limits::edition::RcdSchool;
use proof_standard::shape::Shape;
use proof_store::JobHead;
use proof_work::actions::Action;
use proof_work::plan::outstanding::{OutstandingQuery as AskedFor, step_state};
use proof_work::plan::sequence::{by_long_lead, shown_steps};
use proof_work::plan::substitute::Scope;
use proof_work::schedule::{PrintedRow, result_row};
use serde::Deserialize;
use std::sync::Arc;
use uuid::Uuid;

#[derive(Deserialize, Default)]
pub(crate) struct Wanted {
    at: Option<String>,
    last: Option<String>,
    diagnose: Option<String>,
}

/// Labels and what they say.
type Facts = Vec<(&'static str, String)>;

/// The facts of a circuit, a label each.
fn facts(job: &Job, circuit: &Circuit, judge: &CircuitJudge<'_>) -> Facts {
    let cable = &circuit.cable;
    let mut facts = vec![
        ("device", format!("{} {}", circuit.device.standard.name(), circuit.device.shown())),
        ("cable", format!("{} mm² {}", cable.sizes_shown(), cable.kind)),
        (
            "length",
            circuit.whole_length().map_or("not known".to_owned(), |m| format!("{} m", (m * 10.0).round() / 10.0)),
        ),
        ("breaking", circuit.device.breaking_ka.map_or("not given".to_owned(), |ka| format!("{} kA", ka.normalize()))),
        ("method", cable.method.map_or("not given".to_owned(), |method| method.name().to_owned())),
        ("terminals", given(format!("{} {}", circuit.neutral_terminal, circuit.cpc_terminal).trim())),
    ];
    if let Some(rcd) = job.installation.rcd_for(circuit) {
        facts.push(("RCD", format!("{} mA {}", rcd.idn_ma.normalize(), rcd.kind.name())));
    }
    facts.push((
        "max. Zs",
        match (&judge.limit.device, judge.limit.by_rcd) {
            (_, true) => format!("{} Ω by RCD", judge.limit.rcd_ohm.unwrap_or_default()),
            (Ok(maximum), false) => format!("{} Ω, cold {} Ω", maximum.printed_ohm, maximum.eighty_percent_ohm),
            (Err(_), false) => "no row in the tables".to_owned(),
        },
    ));
    facts
}

/// The text, or that it is not given.
fn given(text: &str) -> String {
    if text.is_empty() { "not given".to_owned() } else { text.to_owned() }
}

/// Details that a schedule wants and that are not given.
fn outstanding(circuit: &Circuit) -> Vec<&'static str> {
    let given = [
        (circuit.device.breaking_ka.is_some(), "rated short-circuit capacity"),
        (circuit.cable.method.is_some(), "reference method"),
        (!circuit.neutral_terminal.is_empty(), "neutral terminal"),
        (!circuit.cpc_terminal.is_empty(), "CPC terminal"),
        (!circuit.description.is_empty(), "description"),
    ];
    given.into_iter().filter(|(there, _)| !there).map(|(_, what)| what).collect()
}

/// The changed part: drawing, entry, steps.
#[derive(Template)]
#[template(path = "circuit_work.html")]
struct Work {
    sheet: EntrySheet,
    drawing: String,
    text_alternative: Vec<profile::TwinRow>,
    row: PrintedRow,
    highest: Option<(String, String)>,
    /// Continuity is read as R2 by long lead.
    long_lead: bool,
    ring: bool,
    lone_board_check: Option<(String, String)>,
    /// Two-way switching as it is wired.
    switched: Vec<switching::Drawing>,
    /// What its combinations say is wrong.
    switch_faults: Vec<String>,
    /// What explains the readings, drawn; where it is worked out still, what asks for it.
    diagnosed: Option<String>,
    spurs: Vec<SpurRow>,
    answered: Vec<(Uuid, String)>,
    may_diagnose: bool,
    live: Vec<live::Drawing>,
    series: bool,
    /// A series that was refused, as it was typed.
    series_typed: String,
    orders: Vec<(&'static str, &'static str, bool)>,
}

#[derive(Template)]
#[template(path = "circuit.html")]
struct CircuitPage {
    frame: Frame,
    job: Uuid,
    circuit: Circuit,
    facts: Vec<(&'static str, String)>,
    work: String,
    outstanding: String,
    before: Option<(Uuid, String)>,
    after: Option<(Uuid, String)>,
}

fn work(
    job: &Job,
    circuit: &Circuit,
    request: &HttpRequest,
    (asked, explanation): (&EntryQuery, ExplanationShown),
) -> Result<(String, Facts), WebError> {
    let settled = job.settled();
    let judge = CircuitJudge::new(&job.installation, circuit, &settled);
    let state = LeadState::from_job(&job.events, &job.readings);
    let bench = entry_context(job, circuit, &settled, (&judge, &state));
    let mut sheet = bench.sheet(job, request, asked);
    if sheet.entry.is_none() {
        sheet.onward = Some(onward(job, circuit));
    }
    let here = sheet.entry.as_ref().map(|entry| entry.slug.clone()).unwrap_or_default();
    let profile = profile::draw_profile(circuit, &bench, &here);
    let long_lead = by_long_lead(&job.installation, circuit);
    let highest = highest_of(circuit, &settled, if long_lead { Test::R2 } else { Test::R1R2 });
    let (diagnosed, overlay) = match explanation {
        ExplanationShown::Now(explanation) => {
            (Some(explanation.section(&sheet.base, &sheet.writer)), Some(explanation))
        }
        ExplanationShown::Later => (Some(later(&sheet.base, &here)), None),
        ExplanationShown::Not => (None, None),
    };
    let laid_over = overlay.map(|explanation| explanation.drawn(&profile)).unwrap_or_default();
    let work = Work {
        spurs: spur_rows(job, circuit, &settled),
        answered: answered(circuit),
        switched: switched(circuit, &sheet, &bench),
        switch_faults: said_of(circuit, &settled),
        may_diagnose: diagnosed.is_none() && case_of(&job.installation, circuit, &settled).is_some(),
        diagnosed,
        drawing: profile.drawing(&laid_over),
        text_alternative: profile.text_alternative(),
        row: result_row(&job.installation, circuit, &settled).printed(),
        highest,
        long_lead,
        ring: circuit.shape == Shape::Ring,
        live: drawings_of_live(job, circuit, &settled, &sheet),
        series: sheet.entry.as_ref().is_some_and(|entry| entry.stage == Stage::Rcd)
            && job.installation.rcd_school() == RcdSchool::Series,
        series_typed: asked.given_back.as_ref().map(|f| f.get("series").to_owned()).unwrap_or_default(),
        orders: orders(job, asked, &sheet),
        lone_board_check: judge.known.board_check().map(|[rn, r2]| (format!("{rn:.2}"), format!("{r2:.2}"))),
        sheet,
    };
    let facts = facts(job, circuit, &judge);
    Ok((work.render()?, facts))
}

/// The orders of a series, and which the instrument in use runs; of a refused series, which was said.
fn orders(job: &Job, asked: &EntryQuery, sheet: &EntrySheet) -> Vec<(&'static str, &'static str, bool)> {
    let runs = job.series_order(sheet.instrument.parse().ok());
    let typed = asked.given_back.as_ref().map(|f| f.get("order")).filter(|key| !key.is_empty());
    let chosen = typed.unwrap_or(runs.key());
    SeriesOrder::ALL.iter().map(|order| (order.key(), order.label(), order.key() == chosen)).collect()
}

/// The highest of a test of continuity, and at which point; of the whole where it was read on paper.
fn highest_of(circuit: &Circuit, settled: &CurrentReadings<'_>, test: Test) -> Option<(String, String)> {
    let reading = highest(circuit, settled, test)?;
    let point = reading.key.subject.place()?.point().and_then(|id| circuit.point(id));
    Some((format!("{:.2}", reading.value.float()?), point.map(|point| point.name.clone()).unwrap_or_default()))
}

/// Two-way switching: for the step in hand where it reads through one, else as it first lit.
fn switched(circuit: &Circuit, sheet: &EntrySheet, bench: &EntryContext<'_>) -> Vec<switching::Drawing> {
    let slug = sheet.entry.as_ref().map(|entry| entry.slug.as_str());
    let step = bench.steps.iter().find(|step| Some(step.slug.as_str()) == slug);
    match step.and_then(|step| switching::draw_switching(circuit, step)) {
        Some(one) => vec![one],
        None => switching::all(circuit),
    }
}

/// What is drawn of the live tests: when one is in hand or was read.
fn drawings_of_live(
    job: &Job,
    circuit: &Circuit,
    settled: &CurrentReadings<'_>,
    sheet: &EntrySheet,
) -> Vec<live::Drawing> {
    let current_step = |stage| sheet.entry.as_ref().is_some_and(|entry| entry.stage == stage);
    let read = |stage| sheet.groups.iter().any(|group| group.stage == stage && group.done > 0);
    let wanted = |stage| current_step(stage) || read(stage);
    let budget = wanted(Stage::Zs).then(|| live::budget(&job.installation, circuit, settled)).flatten();
    let trips = wanted(Stage::Rcd).then(|| live::trips(&job.installation, circuit, settled)).flatten();
    budget.into_iter().chain(trips).collect()
}

async fn respond(
    head: &Arc<JobHead>,
    circuit: Uuid,
    request: &HttpRequest,
    asked: &EntryQuery,
    status: StatusCode,
) -> Handled {
    let job = &head.job;
    let circuit = find_circuit(job, circuit)?;
    let explanation = shown(head, circuit, is_partial(request), asked.diagnose).await?;
    let (work, facts) = work(job, circuit, request, (asked, explanation))?;
    let body = if is_partial(request) {
        work + &framed("", Section::Overview, job, &job.events).bands_beside()
    } else {
        let all: Vec<&Circuit> = job.installation.circuits_on(circuit.board).collect();
        let at = all.iter().position(|other| other.id == circuit.id).unwrap_or(0);
        let beside = |other: &&Circuit| (other.id, other.way.clone());
        let title = format!("Way {} {}", circuit.way, circuit.description);
        CircuitPage {
            frame: framed(&title, Section::Overview, job, &job.events),
            job: job.id,
            facts,
            work,
            outstanding: outstanding(circuit).join(", "),
            before: at.checked_sub(1).and_then(|at| all.get(at)).map(beside),
            after: all.get(at + 1).map(beside),
            circuit: circuit.clone(),
        }
        .render()?
    };
    Ok(html(status, body))
}

/// The page of a circuit with a form that was refused, as it was typed, and why.
pub(crate) async fn given_back(
    shared: &Data<Shared>,
    path: (Uuid, Uuid),
    request: &HttpRequest,
    f: Fields,
    error: String,
    status: StatusCode,
) -> Handled {
    let head = load(shared, path.0).await?;
    let steps = shown_steps(&head.job.installation, find_circuit(&head.job, path.1)?, &head.job.settled());
    let at = steps.iter().find(|step| step.stage == Stage::Rcd).map(|step| step.slug.clone());
    respond(&head, path.1, request, &EntryQuery { at, given_back: Some(f), error, ..EntryQuery::default() }, status)
        .await
}

pub(crate) async fn show(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    query: Query<Wanted>,
    request: HttpRequest,
) -> Handled {
    let (job, circuit) = path.into_inner();
    let head = load(&shared, job).await?;
    let Wanted { at, last, diagnose } = query.into_inner();
    let asked = EntryQuery { at, last, diagnose: diagnose.is_some(), ..EntryQuery::default() };
    respond(&head, circuit, &request, &asked, StatusCode::OK).await
}

pub(crate) async fn enter(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, f: Fields) -> Handled {
    let (id, circuit_id) = path.into_inner();
    let slug = f.get("step").to_owned();
    let step = {
        let head = load(&shared, id).await?;
        let circuit = find_circuit(&head.job, circuit_id)?;
        let steps = shown_steps(&head.job.installation, circuit, &head.job.settled());
        steps.into_iter().find(|step| step.slug == slug)
    };
    let step = step.ok_or_else(|| {
        WebError::Bad(format!(
            "“{slug}” is no step of this circuit: it may have been described anew; load the page again."
        ))
    })?;
    let done = did(&shared, id, &f, f.trimmed("entered_by"), Action::Read(figure(&f, &step))).await?;
    let head = load(&shared, id).await?;
    if let Err(why) = done {
        let status = status_of(&why);
        let asked = EntryQuery { at: Some(slug), given_back: Some(f), error: why.to_string(), ..EntryQuery::default() };
        return respond(&head, circuit_id, &request, &asked, status).await;
    }
    let mut response = stored(&head, circuit_id, &request, &slug, f.ticked("paper")).await?;
    remember_entry(&mut response, &f);
    Ok(response)
}

/// Where the work goes on after a circuit: to the next of its board that still wants a reading, else to the run.
fn onward(job: &Job, circuit: &Circuit) -> (String, String) {
    let ways: Vec<&Circuit> = job.installation.circuits_on(circuit.board).collect();
    let at = ways.iter().position(|one| one.id == circuit.id).map_or(0, |at| at + 1);
    let (before, after) = ways.split_at(at);
    let settled = job.settled();
    let asked = AskedFor::new(&job.installation, &settled, &job.site(), &|_| false);
    let wants = |one: &&&Circuit| asked.circuit(one) && !asked.outstanding(Scope::Circuit(one)).needs.is_empty();
    let next = after.iter().chain(before).filter(|one| one.id != circuit.id).find(wants);
    next.map_or_else(
        || (format!("/jobs/{}/run", job.id), "Go on".to_owned()),
        |one| (format!("/jobs/{}/circuits/{}", job.id, one.id), format!("Next: way {} {}", one.way, one.description)),
    )
}

/// What follows a reading that is stored: the next that is wanted, with the verdict on this one.
async fn stored(head: &Arc<JobHead>, circuit: Uuid, request: &HttpRequest, slug: &str, paper: bool) -> Handled {
    let job = &head.job;
    let circuit = find_circuit(job, circuit)?;
    let steps = shown_steps(&job.installation, circuit, &job.settled());
    let next = {
        let settled = job.settled();
        next_open(&steps, |step| step_state(&job.installation, Scope::Circuit(circuit), &settled, step), slug)
    };
    let at = next.as_ref().map(|next| format!("at={next}&")).unwrap_or_default();
    let to = format!("/jobs/{}/circuits/{}?{at}last={slug}", job.id, circuit.id);
    if !is_partial(request) {
        return Ok(go(&to));
    }
    let asked = EntryQuery { at: next, last: Some(slug.to_owned()), paper, ..EntryQuery::default() };
    let mut response = respond(head, circuit.id, request, &asked, StatusCode::OK).await?;
    if let Ok(to) = to.parse() {
        response.headers_mut().insert(actix_web::http::header::HeaderName::from_static("hx-replace-url"), to);
    }
    Ok(response)
}

/// Strikes a reading out, for a page that goes back to `to`.
pub(crate) async fn strike_out(
    shared: Data<Shared>,
    job: Uuid,
    request: &HttpRequest,
    f: &Fields,
    to: String,
) -> Handled {
    let remembered = crate::request::remembered(request, "writer");
    let by = if remembered.is_empty() { f.trimmed("by").to_owned() } else { remembered };
    let reason = f.trimmed("reason").to_owned();
    if reason.is_empty() {
        return Err(proof_work::actions::Refusal::NoReason.into());
    }
    if by.is_empty() {
        return Err(WebError::Bad(
            "Striking out wants the name of who does it. Go back; nothing was struck out.".into(),
        ));
    }
    let reading = f.get("reading").parse().map_err(|_| WebError::Bad("Say which reading is struck out.".into()))?;
    did(&shared, job, f, &by, Action::StrikeOut { reading, reason }).await??;
    Ok(go(&to))
}

pub(crate) async fn strike(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, f: Fields) -> Handled {
    let (job, circuit) = path.into_inner();
    let at: String = f.get("step").chars().filter(|c| c.is_ascii_alphanumeric() || *c == '-').take(80).collect();
    strike_out(shared, job, &request, &f, format!("/jobs/{job}/circuits/{circuit}?at={at}")).await
}
