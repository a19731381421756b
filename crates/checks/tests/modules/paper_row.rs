//! The row of a schedule brought in from paper.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::reading::{Context, CurrentReadings, Reading, Test, Value};
use proof_work::actions::paper_row::{PaperBox, by_head, is_open};
use proof_work::actions::value_of;
use proof_work::plan::outstanding::step_state;
use proof_work::plan::sequence::circuit_steps;
use proof_work::plan::substitute::Scope;
use proof_work::schedule::result_row;
use rust_decimal::dec;
use uuid::Uuid;

fn of(way: &str, wanted: PaperBox, typed: &str) -> Result<Value, String> {
    let mut job = demo::jobs().swap_remove(0);
    job.readings.clear();
    let circuit = job.installation.circuits.iter().find(|circuit| circuit.way == way).unwrap();
    let step = wanted.step(&job.installation, circuit, None).map_err(|none| none.to_string())?;
    value_of(&job, &job.settled(), &step, typed, None).map_err(|why| why.to_string())
}

#[test]
fn a_number_in_the_wrong_box_is_told_where_it_belongs() {
    for (way, wanted, typed, says) in [
        ("7", PaperBox::R1, "0.4", "R1+R2"),
        ("8", PaperBox::RcdOne, "22", "no RCD covers it"),
        ("3", PaperBox::R1R2, "250", "Ins., MΩ"),
        ("3", PaperBox::R1R2, ">999", "Ins., MΩ"),
        ("3", PaperBox::Zs, "24.6", "RCD, ms"),
        ("3", PaperBox::RcdOne, "0.41", "Zs or R1+R2"),
        ("3", PaperBox::Polarity, "0.41", "box of ohms"),
        ("3", PaperBox::RcdFive, "9.8", "timed once"),
        ("1", PaperBox::LiveLive, ">999", "read joined"),
        ("3", PaperBox::Zs, "soon", "Allowed"),
    ] {
        let refused = of(way, wanted, typed).unwrap_err();
        assert!(refused.contains(says), "{way} {wanted:?} {typed}: {refused}");
    }
    assert_eq!(of("3", PaperBox::Zs, "0,41"), Ok(Value::Number(dec!(0.41))));
    assert_eq!(of("3", PaperBox::Polarity, "✓"), Ok(Value::Pass));
    assert_eq!(of("3", PaperBox::LiveEarth, "OL"), Ok(Value::Over(dec!(999))));
    assert_eq!(of("1", PaperBox::LiveEarth, "200"), Ok(Value::Number(dec!(200))), "joined, to earth");
}

#[test]
fn heads_are_known_as_schedules_write_them() {
    for one in PaperBox::ALL {
        assert_eq!(by_head(one.head()), Some(one), "{}", one.head());
    }
    for (head, wanted) in [
        ("R1 + R2", Some(PaperBox::R1R2)),
        ("insulation live-earth Mohm", Some(PaperBox::LiveEarth)),
        ("insulation live-live Mohm", Some(PaperBox::LiveLive)),
        ("RCD at five times ms", Some(PaperBox::RcdFive)),
        ("RCD at rated ms", Some(PaperBox::RcdOne)),
        ("remarks", None),
    ] {
        assert_eq!(by_head(head), wanted, "{head}");
    }
}

/// A row from paper stands for the points that it does not name.
#[test]
fn the_highest_from_paper_stands_for_its_points() {
    let job = demo::jobs().swap_remove(0);
    let installation = &job.installation;
    let circuit = &installation.circuits[6];
    let step = PaperBox::R1R2.step(installation, circuit, None).unwrap();
    let reading = Reading {
        id: Uuid::new_v4(),
        key: step.key.clone(),
        typed: "0.33".into(),
        value: Value::Number(dec!(0.33)),
        unsteady: false,
        context: Context::from_paper("Maud Ferrow", Timestamp::UNIX_EPOCH),
    };
    let readings = [reading];
    let settled = CurrentReadings::new(&readings, &[]);
    assert_eq!(result_row(installation, circuit, &settled).printed().r1_r2, "0.33");
    let steps = circuit_steps(installation, circuit);
    let points: Vec<_> = steps.iter().filter(|step| step.key.test == Test::R1R2).collect();
    assert!(
        points.len() == 3
            && points.iter().all(|step| step_state(installation, Scope::Circuit(circuit), &settled, step).is_done())
    );
    assert!(is_open(circuit, &settled, PaperBox::R1R2));
    assert!(!is_open(circuit, &CurrentReadings::new(&job.readings, &[]), PaperBox::R1R2));
}
