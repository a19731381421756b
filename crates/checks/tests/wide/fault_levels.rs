//! Fault levels down a chain of boards beside an open power-systems library: pandapower's short-circuit
//! calculation to IEC 60909, on the same small networks, its voltage factor taken out, since ours is U0/Z.
//!
//! Run by the check, which installs the library: `PYTHON=… cargo test --test wide -- --ignored fault_levels`.

use proof_bench::demo;
use proof_bench::meter::Meter;
use proof_job::installation::{Board, Feed, Feeds, Installation, Lines, shorthand};
use proof_job::reading::keys::current_key;
use proof_job::reading::{Context, CurrentReadings, Reading, Value};
use proof_judge::copper::ohm_per_metre;
use proof_judge::supply_chain::fault_level;
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::quantity::{approximate, exact};
use serde_json::{Value as Json, json};
use std::io::Write;
use std::process::{Command, Stdio};
use uuid::Uuid;

/// A three-phase supply and up to three boards below one another.
fn chain(seed: u64) -> (Installation, f64, Vec<f64>) {
    let mut meter = Meter::new(seed);
    let mut installation = demo::jobs().swap_remove(0).installation;
    installation.supply.lines = Lines::Three;
    installation.circuits.clear();
    let mut main = installation.boards.remove(0);
    main.lines = Lines::Three;
    main.rcds.clear();
    installation.boards.push(main);
    let source = meter.between(0.03, 0.2);
    let mut legs = Vec::new();
    for index in 0..=(meter.share() * 2.99) as usize {
        let above = installation.boards[index].clone();
        let metres = meter.between(5.0, 60.0).round();
        let cable = ["6/6/2.5", "10/10/4", "16/16/6"][(meter.share() * 2.99) as usize];
        let line =
            shorthand::parse(&format!("{} radial 3ph C32 10kA {cable} fixed {metres}m 1pt \"feeder\"", index + 20));
        let (mut circuit, _) = line.unwrap().build(above.id, Uuid::from_u128(u128::from(seed) << 32 | index as u128));
        circuit.feeds = Feeds::Board;
        let id = Uuid::from_u128(u128::from(seed) << 48 | (index + 1) as u128);
        let fed_by = Feed::Circuit { circuit: circuit.id };
        installation.boards.push(Board { id, fed_by, ..above });
        installation.circuits.push(circuit);
        let circuit = installation.circuits.last().unwrap();
        let [line, neutral, _] = ohm_per_metre(&installation, circuit).unwrap();
        assert!((line - neutral).abs() < 1e-12, "line and neutral alike: doubling is then exact");
        legs.push(line * metres);
    }
    (installation, source, legs)
}

/// The current line–neutral at the origin, with a neutral like the line.
fn at_origin(source: f64) -> Vec<Reading> {
    let ka = exact(0.230 / (2.0 * source)).unwrap();
    let on = |line| Reading {
        id: Uuid::new_v4(),
        key: current_key(Pair::LINE_NEUTRAL, Some(line)),
        typed: ka.to_string(),
        value: Value::Number(ka),
        unsteady: false,
        context: Context::from_paper("A. Fitter", jiff::Timestamp::UNIX_EPOCH),
    };
    [Conductor::L1, Conductor::L2, Conductor::L3].map(on).to_vec()
}

#[test]
#[ignore = "wants Python with pandapower; the check runs it"]
fn fault_levels_agree_with_a_power_systems_library() {
    let chains: Vec<_> = (0..40).map(chain).collect();
    let cases: Vec<Json> =
        chains.iter().map(|(_, source, legs)| json!({"source_ohm": source, "legs_ohm": legs})).collect();
    let python = std::env::var("PYTHON").unwrap_or_else(|_| "python3".into());
    let script = concat!(env!("CARGO_MANIFEST_DIR"), "/../../scripts/fault_level.py");
    let mut child = Command::new(python)
        .args(["-W", "ignore", script])
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .expect("Python runs");
    child.stdin.take().unwrap().write_all(json!(cases).to_string().as_bytes()).unwrap();
    let output = child.wait_with_output().unwrap();
    assert!(output.status.success());
    let theirs: Vec<Vec<f64>> = serde_json::from_slice(&output.stdout).unwrap();
    let mut compared = 0;
    for ((installation, source, _), theirs) in chains.iter().zip(&theirs) {
        let readings = at_origin(*source);
        let settled = CurrentReadings::new(&readings, &[]);
        for (board, theirs) in installation.boards.iter().zip(theirs) {
            let ours = approximate(fault_level(installation, &settled, board.id).unwrap().ka.get());
            // Ours is rounded up to a hundredth of a kiloampere, never down.
            assert!(ours >= theirs - 1e-4 * theirs && ours <= theirs + 0.0101, "{ours} kA beside {theirs} kA");
            compared += 1;
        }
    }
    assert!(compared > 80, "only {compared} boards");
}
