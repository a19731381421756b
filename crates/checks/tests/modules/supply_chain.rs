//! Down the boards: Zdb, the line–neutral loop, the fault level.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::installation::{Board, Feed, Feeds, Lines, shorthand};
use proof_job::job::Job;
use proof_job::reading::keys::{
    board_current_key, board_loop_key, current_key, electrode_key, line_pairs, own_loop_key, ze_key,
};
use proof_job::reading::{Context, CurrentReadings, Key, Place, Reading, Test, Value};
use proof_job::site::Wanted;
use proof_judge::supply_chain::{external_loop, fault_level, feeders, matches_loop, recorded};
use proof_judge::verdict::{Plausibility, judge_origin};
use proof_standard::calc::fault_current::FaultCurrentMethod;
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::house_rules::{SupplyVoltage, ZsMethod};
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::Kiloamps;
use proof_work::plan::sequence::{board_steps, feeder_steps};
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

fn reading(key: Key, value: Decimal) -> Reading {
    Reading {
        id: Uuid::new_v4(),
        key,
        typed: value.to_string(),
        value: Value::Number(value),
        unsteady: false,
        context: Context::from_paper("A. Fitter", Timestamp::UNIX_EPOCH),
    }
}

/// Main board, sub-board, board of the garden studio: a chain of three.
fn chain() -> Job {
    let mut job = demo::jobs().swap_remove(0);
    job.readings.clear();
    let main = job.installation.boards[0].clone();
    let feed = |from: Uuid, way: &str, metres: u32, name: &str, job: &mut Job| {
        let line = shorthand::parse(&format!("{way} radial B40 6kA 10/4 fixed {metres}m 1pt \"{name}\"")).unwrap();
        let (mut circuit, _) = line.build(from, Uuid::new_v4());
        circuit.feeds = Feeds::Board;
        let board = Board {
            id: Uuid::new_v4(),
            name: name.into(),
            fed_by: Feed::Circuit { circuit: circuit.id },
            rcds: vec![],
            ..main.clone()
        };
        let id = board.id;
        job.installation.circuits.push(circuit);
        job.installation.boards.push(board);
        id
    };
    let sub = feed(main.id, "20", 20, "Sub-board", &mut job);
    feed(sub, "21", 30, "Studio", &mut job);
    job
}

fn feeder_zs(job: &Job, name: &str) -> Key {
    let circuit = job.installation.circuits.iter().find(|circuit| circuit.description == name).unwrap();
    Key::on_circuit(circuit.id, Place::Board, Test::Zs)
}

fn feeder_r1_r2(job: &Job, name: &str) -> Key {
    let circuit = job.installation.circuits.iter().find(|circuit| circuit.description == name).unwrap();
    Key::on_circuit(circuit.id, Place::Point { point: circuit.points[0].id }, Test::R1R2)
}

#[test]
fn zdb_of_one_is_the_ze_of_the_next() {
    let job = chain();
    let [main, sub, studio] = [0, 1, 2].map(|at| job.installation.boards[at].id);
    let mut readings = vec![reading(ze_key(None), dec!(0.20)), reading(feeder_r1_r2(&job, "Sub-board"), dec!(0.13))];
    let external =
        |readings: &[Reading], board| external_loop(&job.installation, &CurrentReadings::new(readings, &[]), board);
    assert_eq!(external(&readings, main), Some(0.20));
    assert!((external(&readings, sub).unwrap() - 0.33).abs() < 1e-9, "summed until it is measured");
    assert_eq!(external(&readings, studio), None, "its own feeder is not read");
    readings.push(reading(feeder_zs(&job, "Sub-board"), dec!(0.31)));
    readings.push(reading(feeder_r1_r2(&job, "Studio"), dec!(0.19)));
    assert_eq!(external(&readings, sub), Some(0.31));
    assert!((external(&readings, studio).unwrap() - 0.50).abs() < 1e-9);
    // One reading changes every board below it.
    readings.push(reading(feeder_zs(&job, "Sub-board"), dec!(0.41)));
    assert!((external(&readings, studio).unwrap() - 0.60).abs() < 1e-9);
    assert_eq!(feeders(&job.installation, studio).len(), 2);
}

#[test]
fn an_electrode_of_its_own_ends_the_chain_of_earths() {
    let mut job = chain();
    let studio = job.installation.boards[2].id;
    job.installation.boards[2].system = EarthingSystem::Tt;
    let readings = [reading(ze_key(None), dec!(0.20)), reading(feeder_zs(&job, "Studio"), dec!(0.5))];
    assert_eq!(external_loop(&job.installation, &CurrentReadings::new(&readings, &[]), studio), None);
    let readings = [reading(electrode_key(Some(studio)), dec!(86))];
    assert_eq!(external_loop(&job.installation, &CurrentReadings::new(&readings, &[]), studio), Some(86.0));
}

#[test]
fn a_circle_of_boards_ends() {
    let mut job = chain();
    let studio = job.installation.circuits.iter().find(|circuit| circuit.description == "Studio").unwrap().id;
    job.installation.boards[0].fed_by = Feed::Circuit { circuit: studio };
    let settled = CurrentReadings::default();
    for board in &job.installation.boards {
        assert_eq!(external_loop(&job.installation, &settled, board.id), None);
        assert_eq!(fault_level(&job.installation, &settled, board.id), None);
        assert!(feeders(&job.installation, board.id).len() < 10);
    }
}

/// U0 over the loops: 230 V / (230 V/1.5 kA + 2 · 20 m · 1.83 mΩ/m).
#[test]
fn the_fault_level_falls_down_the_chain() {
    let job = chain();
    let [main, sub, studio] = [0, 1, 2].map(|at| job.installation.boards[at].id);
    let readings = [
        reading(current_key(Pair::LINE_NEUTRAL, None), dec!(1.5)),
        reading(current_key(Pair::LINE_EARTH, None), dec!(1.2)),
    ];
    let level = |board| fault_level(&job.installation, &CurrentReadings::new(&readings, &[]), board).unwrap().ka;
    assert_eq!(level(main), Kiloamps(dec!(1.5)));
    // 0.1533 + 0.0732 = 0.2265 Ω; 0.2265 + 0.1098 = 0.3363 Ω.
    assert_eq!(level(sub), Kiloamps(dec!(1.02)));
    assert_eq!(level(studio), Kiloamps(dec!(0.69)));
    let mut measured = readings.to_vec();
    measured.push(reading(board_current_key(sub, Pair::LINE_NEUTRAL), dec!(0.97)));
    assert_eq!(
        fault_level(&job.installation, &CurrentReadings::new(&measured, &[]), sub).unwrap().ka,
        Kiloamps(dec!(0.97))
    );
}

/// Zdb and its line–neutral loop stand on the tests of the sub-board, as the readings of its feeder; the
/// current read there belongs to the loop of its own test: 230 V / 0.24 Ω = 0.96 kA.
#[test]
fn a_sub_board_has_its_own_loops_and_current() {
    let mut job = chain();
    let sub = job.installation.boards[1].clone();
    let steps = feeder_steps(&job.installation, &sub);
    let named: Vec<_> = steps.iter().map(|step| (step.slug.as_str(), step.label.as_str())).collect();
    assert_eq!(named, [("zdb", "Zdb, at Sub-board"), ("zdb-ln", "Line–neutral loop, at Sub-board")]);
    assert_eq!(steps[0].key, feeder_zs(&job, "Sub-board"), "one reading, on both pages");
    assert!(feeder_steps(&job.installation, &job.installation.boards[0]).is_empty(), "the origin has none");
    let own = board_loop_key(sub.id, Pair::LINE_NEUTRAL);
    assert_eq!(Wanted::for_key(&own), Wanted::Live);
    let step = |slug: &str| board_steps(&job.installation, &sub).into_iter().find(|step| step.slug == slug).unwrap();
    let (current, of_loop) = (step("pfc-ln"), step("loop-ln"));
    assert_eq!(of_loop.key, own);
    let judged = |readings: &[Reading], step: &proof_job::reading::Step, value: Decimal| {
        let settled = CurrentReadings::new(readings, &[]);
        judge_origin(&job.installation, &settled, step, &Value::Number(value)).plausibility
    };
    let origin = reading(current_key(Pair::LINE_NEUTRAL, None), dec!(1.5));
    let with_loop = [origin.clone(), reading(own.clone(), dec!(0.24))];
    assert_eq!(judged(&with_loop, &current, dec!(0.96)), Plausibility::Within);
    assert_eq!(judged(&with_loop, &current, dec!(1.30)), Plausibility::LookAgain, "another loop's current");
    let with_current = [origin.clone(), reading(current.key.clone(), dec!(0.96))];
    assert_eq!(judged(&with_current, &of_loop, dec!(0.24)), Plausibility::Within);
    assert_eq!(judged(&with_current, &of_loop, dec!(0.17)), Plausibility::LookAgain);
    // With the loop alone the current is worked from it, rounded up; the loop of the feeder goes on down.
    let level = |readings: &[Reading], board: &Board| {
        fault_level(&job.installation, &CurrentReadings::new(readings, &[]), board.id).unwrap().ka
    };
    assert_eq!(level(&with_loop, &sub), Kiloamps(dec!(0.96)));
    let feeder_ln = reading(steps[1].key.clone(), dec!(0.25));
    // 230 / (0.25 + 2 · 30 m · 1.83 mΩ/m) = 0.64 kA.
    assert_eq!(level(&[origin, feeder_ln], &job.installation.boards[2]), Kiloamps(dec!(0.64)));
    job.installation.house_rules.zs_method = ZsMethod::Summed;
    assert_eq!(feeder_steps(&job.installation, &sub).len(), 1, "summed, Zdb is not read");
}

#[test]
fn three_phases_by_the_schools_and_a_current_by_its_loop() {
    let mut job = chain();
    job.installation.supply.lines = Lines::Three;
    let on = |line| Some(line);
    let mut readings = vec![
        reading(own_loop_key(Pair::LINE_NEUTRAL, on(Conductor::L1)), dec!(0.20)),
        reading(current_key(Pair::LINE_NEUTRAL, on(Conductor::L2)), dec!(1.10)),
        reading(current_key(Pair::LINE_NEUTRAL, on(Conductor::L3)), dec!(1.05)),
        reading(current_key(Pair::LINE_EARTH, on(Conductor::L1)), dec!(1.4)),
    ];
    let mut ka = |school, readings: &[Reading]| {
        job.installation.house_rules.fault_school = school;
        recorded(&job.installation, &CurrentReadings::new(readings, &[]))
    };
    // 230 / 0.20 = 1.15 kA, doubled.
    assert_eq!(ka(FaultCurrentMethod::Double, &readings), Some((Kiloamps(dec!(2.30)), "three-phase")));
    assert_eq!(ka(FaultCurrentMethod::Root3, &readings), Some((Kiloamps(dec!(2.00)), "three-phase")));
    assert_eq!(ka(FaultCurrentMethod::LineLine, &readings), None, "the school wants its loop");
    readings.push(reading(current_key(line_pairs()[0], None), dec!(2.0)));
    // 2.0 kA line–line · 2/√3.
    assert_eq!(ka(FaultCurrentMethod::LineLine, &readings), Some((Kiloamps(dec!(2.31)), "three-phase")));
}

#[test]
fn a_current_belongs_to_its_loop_within_the_voltage_of_the_supply() {
    let pair = Some(Pair::LINE_EARTH);
    for (ka, ohm, right) in [
        (dec!(1.48), dec!(0.16), true),
        (dec!(1.44), dec!(0.16), true),
        (dec!(1.48), dec!(0.31), false),
        (dec!(0.15), dec!(1.48), true),
        (dec!(0.01), dec!(23.0), true),
        (dec!(0.16), dec!(0.16), false),
        (dec!(1.15), dec!(0.175), false),
    ] {
        assert_eq!(matches_loop(SupplyVoltage::Britain, Kiloamps(ka), ohm, pair), right, "{ka} kA, {ohm} Ω");
    }
    assert!(
        matches_loop(SupplyVoltage::Declared, Kiloamps(dec!(2.0)), dec!(0.20), Some(line_pairs()[0])),
        "400 V between lines"
    );
}
