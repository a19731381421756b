//! A circuit of a job on the bench: what it would read, sound or with a fault, beside what was read. It reads the job and
//! writes nothing into it.

use super::parts::answer;
use crate::draw::tried::{Series, drawing};
use crate::error::{Handled, WebError, go, page_with};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::pages::framed;
use crate::request::{blocking, find_circuit, load, who};
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use jiff::Timestamp;
use proof_bench::meter::Meter;
use proof_bench::practice::made::{ask_fault, tried, with_fault};
use proof_bench::practice::marks::{Answers, figure, named};
use proof_bench::practice::{Ask, Posed, Wrong};
use proof_bench::rig::{Feed, Fitting, Residual, SUPPLY_V, Supply, Way};
use proof_bench::site::as_built;
use proof_job::installation::switching::switchings;
use proof_job::installation::{Accessory, Circuit, CircuitVoltage, Feeds, Lines};
use proof_job::job::Job;
use proof_job::reading::{Subject, Test, Value};
use proof_physics::network::circuit::{TwoSteps, expect};
use proof_physics::network::description::Description;
use proof_standard::conductor::Pair;
use proof_standard::limits::rcd::RcdKind;
use proof_standard::quantity::approximate;
use proof_standard::shape::Shape;
use proof_store::{Practice, Store};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use uuid::Uuid;

/// What stands in the place of an exercise.
pub(super) const KEY: &str = "try";
/// A joint, where no size is said, Ω.
const USUAL_JOINT_OHM: f64 = 0.5;
/// Behind the safety transformer of a circuit whose voltage is not said, V. Invented for the bench.
const SELV_V: f64 = 12.0;
/// Most that a joint may be, Ω.
const MOST_JOINT_OHM: f64 = 100.0;

/// Which circuit, and with which fault, as the form says it.
#[derive(Serialize, Deserialize)]
struct About {
    job: Uuid,
    circuit: Uuid,
    fault: Answers,
}

/// A point: what it would read, what was read.
pub(crate) struct TriedRow {
    name: String,
    neutral: [String; 2],
    earth: [String; 2],
}

#[derive(Template)]
#[template(path = "tried.html")]
struct TriedPage {
    frame: Frame,
    job: Uuid,
    circuit: Uuid,
    label: String,
    f: Fields,
    asks: Vec<Ask>,
    rows: Vec<TriedRow>,
    svg: String,
}

/// The circuit as it is described; legs that nobody gave are drawn from its id, the same each time.
fn described(job: &Job, circuit: &Circuit) -> Result<Description, WebError> {
    let (high, low) = circuit.id.as_u64_pair();
    let built = as_built(&job.installation, circuit, Vec::new(), &mut Meter::new(high ^ low));
    built.filter(|built| !built.points.is_empty()).ok_or_else(|| {
        WebError::Clash(
            "This circuit cannot be put on the bench yet: give its points, its cable and its length first.".into(),
        )
    })
}

/// What each point is. Two-way switching is switched on the bench where its switches follow each other along the cable and
/// the lamps come after them; else it stands as it is when it lights.
fn fittings(circuit: &Circuit) -> Vec<Fitting> {
    let of = |accessory| match accessory {
        Accessory::Lamp => Fitting::Lamp,
        Accessory::Outlet | Accessory::Twin | Accessory::Industrial => Fitting::Socket,
        // What stands behind three lines and an isolator is a load between them.
        Accessory::Equipment if circuit.lines == Lines::Three && circuit.feeds == Feeds::Fixed => Fitting::Motor,
        _ => Fitting::Fixed,
    };
    let mut all: Vec<Fitting> = circuit.points.iter().map(|point| of(point.accessory)).collect();
    let [one] = &switchings(circuit)[..] else { return all };
    let at = |id| circuit.points.iter().position(|point| point.id == id && point.spur_from.is_none());
    let switches: Option<Vec<usize>> = one.switches.iter().map(|id| at(*id)).collect();
    let lamps: Option<Vec<usize>> = one.lamps.iter().map(|id| at(*id)).collect();
    let (Some(switches), Some(lamps)) = (switches, lamps) else { return all };
    let in_a_row = switches.windows(2).all(|two| two[1] == two[0] + 1);
    let (Some(last), true) = (switches.last(), in_a_row && switches.len() > 1) else { return all };
    if circuit.shape != Shape::Ring && lamps.iter().all(|lamp| lamp > last) {
        for (index, switch) in switches.iter().enumerate() {
            let end = index == 0 || index == switches.len() - 1;
            all[*switch] = if end { Fitting::TwoWay } else { Fitting::Intermediate };
        }
    }
    all
}

/// The supply as it was read at the origin, where it was; Ω.
fn supply(job: &Job) -> Option<Supply> {
    let settled = job.settled();
    let highest = |test: Test, pair: Option<Pair>| {
        let all = settled.standing().filter(|reading| {
            let key = &reading.key;
            key.test == test && key.subject == Subject::Supply && (pair.is_none() || key.pair == pair)
        });
        all.filter_map(|reading| reading.value.float()).filter(|value| *value > 0.0).reduce(f64::max)
    };
    let ze = highest(Test::Ze, None)?;
    let neutral = highest(Test::FaultCurrent, Some(Pair::LINE_NEUTRAL)).map_or(ze, |ka| SUPPLY_V / ka / 1000.0);
    Some(Supply::from_loops(ze, neutral))
}

/// The fault that the fields name, with its size, Ω; nothing said: sound.
fn fault(answers: &Answers, points: usize) -> Result<(Wrong, f64), String> {
    let said = |name: &str| answers.get(name).is_some_and(|text| !text.is_empty());
    let ohm = match answers.get("ohm").map(String::as_str).unwrap_or_default() {
        "" => USUAL_JOINT_OHM,
        text => figure(text)
            .filter(|ohm| *ohm > 0.0 && *ohm <= MOST_JOINT_OHM)
            .ok_or_else(|| format!("“{text}” is not understood: a joint has 0.01 to {MOST_JOINT_OHM} Ω."))?,
    };
    if !said("wrong") {
        return Ok((Wrong::Sound, ohm));
    }
    let wrong = named(answers, points);
    wrong
        .map(|wrong| (wrong, ohm))
        .ok_or_else(|| "Say in which conductors, and where; two conductors where they are reversed.".into())
}

fn answers_from_form(f: &Fields, asks: &[Ask]) -> Answers {
    let named = asks.iter().map(|ask| (ask.name().to_owned(), answer(f, ask)));
    named.chain([("ohm".to_owned(), f.trimmed("ohm").chars().take(12).collect())]).collect()
}

/// What was read at each point: line–neutral and line–CPC, the highest of its places, Ω.
fn read(job: &Job, circuit: &Circuit) -> Vec<[Option<f64>; 2]> {
    let mut found: HashMap<(usize, usize), f64> = HashMap::new();
    for reading in job.settled().standing_of(circuit.id) {
        let step = match reading.key.test {
            Test::R1Rn => 0,
            Test::R1R2 => 1,
            _ => continue,
        };
        let (Subject::Place { place, .. }, Value::Number(ohm)) = (&reading.key.subject, &reading.value) else {
            continue;
        };
        let at = place.point().and_then(|id| circuit.points.iter().position(|point| point.id == id));
        if let Some(at) = at {
            let highest = found.entry((at, step)).or_insert(0.0);
            *highest = highest.max(approximate(*ohm));
        }
    }
    (0..circuit.points.len()).map(|at| [0, 1].map(|step| found.get(&(at, step)).copied())).collect()
}

fn shown(ohm: Option<f64>, none: &str) -> String {
    ohm.map_or_else(|| none.to_owned(), |ohm| format!("{ohm:.2}"))
}

async fn drawn(shared: Data<Shared>, (id, circuit_id): (Uuid, Uuid), mut f: Fields, status: StatusCode) -> Handled {
    let head = load(&shared, id).await?;
    let job = &head.job;
    let circuit = find_circuit(job, circuit_id)?;
    let frame = framed("On the bench", Section::Overview, job, &job.events);
    let label = format!("{} {}", circuit.way, circuit.description);
    let blank = TriedPage {
        frame,
        job: id,
        circuit: circuit_id,
        label,
        f: Fields::default(),
        asks: Vec::new(),
        rows: Vec::new(),
        svg: String::new(),
    };
    let Ok(built) = described(job, circuit) else { return page_with(status, &blank) };
    let asks = ask_fault(built.points.len());
    let (wrong, ohm) = fault(&answers_from_form(&f, &asks), built.points.len()).unwrap_or_else(|problem| {
        f.wrong("wrong", problem);
        (Wrong::Sound, 0.0)
    });
    let would = expect(&with_fault(&built, wrong, ohm)).map_err(|why| WebError::Inside(why.to_string()))?;
    let read = read(job, circuit);
    let row = |(at, would): (usize, &TwoSteps)| TriedRow {
        name: circuit
            .points
            .get(at)
            .map(|point| point.name.clone())
            .filter(|name| !name.is_empty())
            .unwrap_or_else(|| (at + 1).to_string()),
        neutral: [shown(would.r1_rn, "open"), shown(read[at][0], "—")],
        earth: [shown(would.r1_r2, "open"), shown(read[at][1], "—")],
    };
    let series = |step: usize| Series {
        would: would.points.iter().map(|point| if step == 0 { point.r1_rn } else { point.r1_r2 }).collect(),
        read: read.iter().map(|read| read[step]).collect(),
    };
    let page = TriedPage {
        rows: would.points.iter().enumerate().map(row).collect(),
        svg: drawing(&series(0), &series(1)),
        asks,
        f,
        ..blank
    };
    page_with(status, &page)
}

/// What it would read, with the fault of the address.
pub(crate) async fn show(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    query: Query<HashMap<String, String>>,
) -> Handled {
    let mut f = Fields::default();
    for (name, value) in query.into_inner() {
        f.put(name, value);
    }
    drawn(shared, path.into_inner(), f, StatusCode::OK).await
}

/// Opens it on the bench.
pub(crate) async fn open(
    shared: Data<Shared>,
    request: HttpRequest,
    path: Path<(Uuid, Uuid)>,
    mut f: Fields,
) -> Handled {
    let (job, circuit) = path.into_inner();
    let head = load(&shared, job).await?;
    let built = described(&head.job, find_circuit(&head.job, circuit)?)?;
    let answers = answers_from_form(&f, &ask_fault(built.points.len()));
    if let Err(problem) = fault(&answers, built.points.len()) {
        f.wrong("wrong", problem);
        return drawn(shared, (job, circuit), f, StatusCode::UNPROCESSABLE_ENTITY).await;
    }
    let about = serde_json::to_string(&About { job, circuit, fault: answers });
    let id = f.made_id("practice");
    // Nobody need be named to look at what a circuit would read.
    let person = who(&request, &f).unwrap_or_default();
    let about = about.map_err(|error| WebError::Inside(error.to_string()))?;
    let begun = Practice { about, ..Practice::begun(id, &person, KEY, Timestamp::now()) };
    blocking(move || Ok(shared.store.begin_practice(&begun)?)).await?;
    Ok(go(&format!("/practice/{id}")))
}

/// The bench of a circuit that is tried.
pub(super) fn posed(store: &Store, practice: &Practice) -> Result<Posed, WebError> {
    let about: About = serde_json::from_str(&practice.about).map_err(|error| WebError::Inside(error.to_string()))?;
    let head = store.job(about.job)?;
    let circuit = find_circuit(&head.job, about.circuit)?;
    let built = described(&head.job, circuit)?;
    let fault = fault(&about.fault, built.points.len()).map_err(WebError::Clash)?;
    let mut way = Way::new(&circuit.description, &circuit.device.shown(), built, fittings(circuit));
    way.residual = head.job.installation.rcd_for(circuit).map(|rcd| {
        // As a sound one usually takes, ms; a delayed one waits. Invented for the bench.
        let usual = if rcd.kind == RcdKind::Selective { 210.0 } else { 26.0 };
        Residual { rated_ma: approximate(rcd.idn_ma.0), kind: rcd.kind, trips_ms: [usual, usual * 1.1] }
    });
    if circuit.lines == Lines::Three {
        way.feed = Feed::Three;
    }
    way.selv_v = (circuit.band == CircuitVoltage::Selv).then_some(SELV_V);
    let title = format!("On the bench: way {} {}", circuit.way, circuit.description);
    Ok(Posed { title, ..tried(way, supply(&head.job), fault, practice.seed) })
}
