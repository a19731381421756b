//! One maker of readings: the same bad input sent down every way gets the same refusal, and what is taken is the same
//! value.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::instrument::SeriesOrder;
use proof_job::job::Job;
use proof_job::reading::message::Message;
use proof_job::reading::{Stage, Step, Test, Value};
use proof_standard::limits::edition::RcdSchool;
use proof_standard::limits::supply::EarthingSystem;
use proof_work::actions::paper_row::PaperBox;
use proof_work::actions::{
    Action, Actor, ChangedCells, Figure, Log, NotPlaced, Recorded, Refusal, Series, SheetCell, SheetStep, Walk, With,
    Ze, ZeFigure, placed, record, value_of,
};
use proof_work::plan::sequence::{circuit_steps, origin_steps};
use uuid::Uuid;

/// Nothing read yet, nothing in the log: what was read before is asked no state.
fn job() -> Job {
    let mut job = demo::jobs().swap_remove(0);
    job.readings.clear();
    job.events.clear();
    job.installation.house_rules.rcd_school = Some(RcdSchool::Series);
    job.installation.supply.system = EarthingSystem::TnCS;
    job
}

fn with() -> With {
    With { paper: true, paper_on: "2026-10-05".to_owned(), ..With::default() }
}

fn hand() -> Actor {
    Actor::new(Uuid::new_v4(), "Maud Ferrow", Timestamp::now())
}

/// A refusal without where it stands.
fn plain(refusal: Refusal) -> String {
    match refusal {
        Refusal::Fields(fields) => fields.into_iter().next().map(|(_, why)| plain(why)).unwrap_or_default(),
        Refusal::One { why, .. } | Refusal::NotPlaced(NotPlaced::Refused(why)) => plain(*why),
        other => other.to_string(),
    }
}

fn outcome(taken: Result<Recorded, Refusal>) -> Result<Value, String> {
    let taken = taken.map_err(plain)?;
    Ok(taken.readings.first().map_or(Value::Walked, |reading| reading.value.clone()))
}

fn by_form(job: &Job, step: &Step, typed: &str) -> Result<Value, String> {
    let figure = Figure { step: step.clone(), typed: typed.to_owned(), pressed: String::new(), with: with() };
    outcome(record(job, &Action::Read(figure), &hand()))
}

fn by_cell(job: &Job, way: &str, cell: PaperBox, typed: &str) -> Result<Value, String> {
    let circuit = job.installation.circuits.iter().find(|one| one.way == way).unwrap().id;
    let cell = SheetCell { field: "x".to_owned(), circuit, line: None, cell, typed: typed.to_owned() };
    outcome(record(job, &Action::Sheet(ChangedCells { cells: vec![cell], steps: vec![], with: with() }), &hand()))
}

fn by_sheet(job: &Job, slug: &str, typed: &str) -> Result<Value, String> {
    let step = SheetStep { field: "x".to_owned(), board: None, slug: slug.to_owned(), typed: typed.to_owned() };
    outcome(record(job, &Action::Sheet(ChangedCells { cells: vec![], steps: vec![step], with: with() }), &hand()))
}

fn step(job: &Job, way: &str, slug: &str) -> Step {
    let circuit = job.installation.circuits.iter().find(|one| one.way == way).unwrap();
    circuit_steps(&job.installation, circuit).into_iter().find(|step| step.slug == slug).unwrap()
}

/// What is typed for a box of a circuit: on its page or in the run (one action), on the sheet, and as it is looked at.
#[test]
fn a_circuit_s_figure_is_refused_alike_by_form_and_sheet() {
    let job = job();
    for (way, slug, cell) in [
        ("3", "r1", PaperBox::R1),
        ("3", "ir-e-l", PaperBox::LiveEarth),
        ("3", "zs", PaperBox::Zs),
        ("3", "rcd-1", PaperBox::RcdOne),
        ("3", "rcd-5-0", PaperBox::RcdFive),
        ("3", "rcd-button", PaperBox::RcdButton),
    ] {
        let step = step(&job, way, slug);
        for typed in BAD.iter().chain(GOOD) {
            let form = by_form(&job, &step, typed);
            let sheet = by_cell(&job, way, cell, typed);
            assert_eq!(form, sheet, "{slug} {typed:?}");
            let looked = value_of(&job, &job.settled(), &step, typed, None).map_err(plain);
            assert_eq!(form, looked, "{slug} {typed:?}: as it is looked at");
        }
        assert!(BAD.iter().any(|typed| by_form(&job, &step, typed).is_err()), "{slug}");
    }
}

const BAD: &[&str] = &[
    "",
    "soon",
    "-1",
    "1,000",
    "1.2.3",
    "250",
    "24.6",
    "0.41",
    "0.022",
    ">999",
    ">0.4",
    "lim",
    "n/a",
    "2500 MΩ",
    "5 kg",
    "9999999",
    "\u{7}",
    "0.5\u{0}",
    "99999999999999",
];
const GOOD: &[&str] =
    &["0.37", ".37", "22", "OL", "open", "lim no access", "n/a none there", "pass", "✓", "correct", "no trip"];

/// Ze: on its own page, from paper on the origin's page, on the sheet.
#[test]
fn ze_is_refused_alike_by_every_door() {
    let mut job = job();
    let step = origin_steps(&job.installation).into_iter().find(|step| step.key.test == Test::Ze).unwrap();
    let current = origin_steps(&job.installation).into_iter().find(|step| step.slug == "pfc-le").unwrap();
    let first = Figure { step: current, typed: "1.28".into(), pressed: String::new(), with: with() };
    let taken = record(&job, &Action::Read(first), &hand()).unwrap();
    job.readings.extend(taken.readings);
    let board = job.installation.boards[0].id;
    let kind = proof_job::site::EventKind::SupplyExposed { board };
    let mut exposed = job.clone();
    exposed.events.push(proof_job::site::Event::new(Uuid::new_v4(), "Maud Ferrow", Timestamp::now(), kind));
    for typed in ["12", "1.28", "soon", "-1", ">0.4", "lim", "0.21", "open", "1,000", "n/a none"] {
        let form = by_form(&job, &step, typed);
        assert_eq!(form, by_sheet(&job, &step.slug, typed), "{typed}: sheet");
        let figure =
            ZeFigure { slug: step.slug.clone(), typed: typed.to_owned(), id: Uuid::new_v4(), with: With::default() };
        let ze = Ze { figures: vec![figure], earth_restored: true, only_restored: false };
        let filed = outcome(record(&exposed, &Action::Ze(ze), &hand()));
        assert_eq!(form, filed, "{typed}: Ze");
    }
    assert!(by_form(&job, &step, "12").is_err() && by_form(&job, &step, "1.28").is_err(), "a current is no Ze");
}

/// A series of trip tests, a walk of which the highest is written down, and a log take and refuse as the form does.
#[test]
fn series_walk_and_log_refuse_what_the_form_refuses() {
    let mut job = job();
    let circuit = job.installation.circuits.iter().find(|one| one.way == "3").unwrap().clone();
    let one = step(&job, "3", "rcd-1");
    for typed in ["0.022", "soon", "22", "99999999", "1,000"] {
        let series = Series {
            circuit: circuit.id,
            order: SeriesOrder::Trips,
            figures: format!("{typed} 20 20 20"),
            with: with(),
        };
        assert_eq!(
            outcome(record(&job, &Action::Series(series), &hand())),
            by_form(&job, &one, typed),
            "series {typed}"
        );
    }
    let radial = job.installation.circuits.iter().find(|one| one.way == "7").unwrap().clone();
    let point = radial.points[0].id;
    let at = step(&job, "7", &format!("r2-p{}", point.0));
    for typed in ["250", "soon", ">999", "0.41", "lim"] {
        let walk =
            Walk { circuit: radial.id, stage: Stage::R1R2, point: Some(point), typed: typed.into(), with: with() };
        assert_eq!(outcome(record(&job, &Action::Walk(walk), &hand())), by_form(&job, &at, typed), "walk {typed}");
    }
    // The log of an instrument: what it shows is a number with its unit.
    job.made_as = proof_job::job::MadeAs::Practice;
    let instrument = job.instruments[0].clone();
    for (measured, shown, unit, step) in [
        ("trip_time", "0.022", "millisecond", step(&job, "3", "rcd-1")),
        ("trip_time", "22", "millisecond", step(&job, "3", "rcd-1")),
        ("insulation", "999999999", "megohm", step(&job, "3", "ir-e-l")),
    ] {
        let pair = if measured == "insulation" { r#","between":["L","E"],"test_v":500"# } else { "" };
        let line = format!(
            r#"{{"format":"proof-feed","version":1,"id":"{}","instrument":"{}","simulated":true,"measured":"{measured}","shown":"{shown}","unit":"{unit}","at":{{"way":"3","step":"{}"}}{pair}}}"#,
            Uuid::new_v4(),
            instrument.reference,
            step.slug
        );
        let message: Message = serde_json::from_str(&line).unwrap_or_else(|why| panic!("{line}: {why}"));
        let typed = message.typed();
        let log = |read_on: &str| Log {
            messages: vec![message.clone()],
            instrument: instrument.id,
            read_by: String::new(),
            read_on: read_on.into(),
        };
        let by_log = placed(&job, &log("2026-10-05"), &hand()).remove(0);
        let by_log = by_log.map(|placed| placed.reading.value).map_err(|why| plain(Refusal::NotPlaced(why)));
        assert_eq!(by_log, by_form(&job, &step, &typed), "log {measured} {shown}");
        // Without a time it is asked for its day, and for the state that the board was in then.
        let untimed = placed(&job, &log(""), &hand()).remove(0);
        let wants_day = untimed.is_err_and(|why| plain(Refusal::NotPlaced(why)).contains("day") || by_log.is_err());
        assert!(wants_day, "log {measured} {shown}");
    }
}
