//! Continuity as R2 by long lead: its own column, its lead, and polarity that it says nothing of.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::{Context, CurrentReadings, Reading, Stage, Step, Subject, Test, Value};
use proof_job::site::{LONG_LEAD, leads};
use proof_standard::house_rules::{ContinuityMethod, PolarityBy};
use proof_standard::quantity::Metres;
use proof_work::actions::paper_row::PaperBox;
use proof_work::plan::hook_up::hook_up;
use proof_work::plan::polarity::{Polarity, polarity};
use proof_work::plan::sequence::{circuit_steps, origin_steps};
use proof_work::schedule::{Figure, ScheduleRow, result_row};
use rust_decimal::dec;
use uuid::Uuid;

fn office() -> (Installation, Circuit) {
    let mut installation = demo::jobs().swap_remove(0).installation;
    installation.house_rules.continuity = ContinuityMethod::R2;
    let circuit = installation.circuits[6].clone();
    (installation, circuit)
}

fn read(step: &Step, value: Value) -> Reading {
    Reading {
        id: Uuid::new_v4(),
        key: step.key.clone(),
        typed: value.shown(),
        value,
        unsteady: false,
        context: Context::from_paper("Maud Ferrow", Timestamp::UNIX_EPOCH),
    }
}

#[test]
fn the_highest_stands_in_a_box_of_its_own() {
    let (installation, circuit) = office();
    let steps = circuit_steps(&installation, &circuit);
    let of_walk: Vec<&Step> = steps.iter().filter(|step| step.key.test == Test::R2).collect();
    assert!(of_walk.len() >= 3 && steps.iter().all(|step| step.key.test != Test::R1R2));
    let figures = [dec!(0.10), dec!(0.16), dec!(0.21)];
    let readings: Vec<Reading> =
        of_walk.iter().zip(figures).map(|(step, ohm)| read(step, Value::Number(ohm))).collect();
    let row = result_row(&installation, &circuit, &CurrentReadings::new(&readings, &[]));
    assert_eq!(row.r1_r2, Figure::ByLongLead(Value::Number(dec!(0.21))));
    assert_eq!(ScheduleRow::Figures(Box::new(row)).continuity(), ("—".to_owned(), "0.21".to_owned()));
    // From paper the highest alone, in its own box; the box of R1+R2 is not its place.
    let step = PaperBox::LongLead.step(&installation, &circuit, None).unwrap();
    let paper = [read(&step, Value::Number(dec!(0.24)))];
    let row = result_row(&installation, &circuit, &CurrentReadings::new(&paper, &[]));
    assert_eq!(row.r1_r2, Figure::ByLongLead(Value::Number(dec!(0.24))));
    let (mut linked, _) = office();
    linked.house_rules.continuity = ContinuityMethod::R1R2;
    assert!(PaperBox::LongLead.step(&linked, &circuit, None).is_err());
}

/// By instrument at the point or by eye, by the rule of the job; R2 alone proves none.
#[test]
fn polarity_is_proved_apart() {
    let (mut installation, circuit) = office();
    for (by, said) in [(PolarityBy::BothPairs, "by instrument at each point"), (PolarityBy::Eye, "seen")] {
        installation.house_rules.polarity_by = by;
        let steps = circuit_steps(&installation, &circuit);
        let mut readings: Vec<Reading> = steps
            .iter()
            .filter(|step| step.key.test == Test::R2)
            .map(|step| read(step, Value::Number(dec!(0.2))))
            .collect();
        let of = |readings: &[Reading]| polarity(&installation, &circuit, &CurrentReadings::new(readings, &[]));
        assert!(matches!(*of(&readings), Polarity::Outstanding(_)), "{by:?}");
        let own = steps.iter().find(|step| step.stage == Stage::Polarity).unwrap();
        assert!(own.required);
        readings.push(read(own, Value::Pass));
        assert!(matches!(*of(&readings), Polarity::Earned(how) if how.starts_with(said)), "{by:?}");
        readings.push(read(own, Value::Fail));
        readings.last_mut().unwrap().context.taken_at = Some(Timestamp::UNIX_EPOCH);
        readings.remove(readings.len() - 2);
        assert!(matches!(*of(&readings), Polarity::Wrong(_)), "{by:?}");
    }
}

/// The lead is named, and drawn to be nulled: for R2, and for a bond whose ends are far apart.
#[test]
fn the_long_lead_is_asked_for_by_name() {
    let (mut installation, circuit) = office();
    let steps = circuit_steps(&installation, &circuit);
    let walk = steps.iter().find(|step| step.key.test == Test::R2).unwrap();
    assert_eq!(leads(&installation, walk).set, LONG_LEAD);
    assert!(hook_up(&installation, walk).adapter.contains("nulled first"));
    for (metres, far) in [(None, false), (Some(1.0), false), (Some(14.0), true)] {
        installation.supply.bonds[0].length_m = metres.map(|metres| Metres::new(metres).unwrap());
        let id = installation.supply.bonds[0].id;
        let steps = origin_steps(&installation);
        let bond = steps.iter().find(|step| step.key.subject == Subject::Bond { bond: id }).unwrap();
        assert_eq!(leads(&installation, bond).set == LONG_LEAD, far, "{metres:?}");
        assert_eq!(hook_up(&installation, bond).adapter.contains("long lead"), far);
    }
}
