//! Industrial outlets and armoured cables: rating against device, the adapter in the lead set and its null,
//! the sequence at each outlet, armour to the CPC or apart.

use proof_bench::demo;
use proof_job::installation::inspection::asked;
use proof_job::installation::shorthand::parse;
use proof_job::installation::{Accessory, CableFamily, Installation};
use proof_job::reading::{CurrentReadings, Stage, Step, Test};
use proof_job::site::{LeadState, leads};
use proof_judge::design::flaws_of_circuit;
use proof_judge::finding::Found;
use proof_standard::conductor::Conductor;
use proof_standard::house_rules::{ArmourAndTray, LeadCompensation, SequenceBy};
use proof_standard::quantity::Amps;
use proof_work::plan::hook_up::hook_up;
use proof_work::plan::sequence::circuit_steps;
use proof_work::schedule::result_row;
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// The demo's house with one circuit of a line more.
fn with(line: &str) -> (Installation, usize) {
    let mut installation = demo::jobs().swap_remove(0).installation;
    let board = installation.boards[0].id;
    let (circuit, _) = parse(line).unwrap().build(board, Uuid::from_u128(77));
    installation.circuits.push(circuit);
    let at = installation.circuits.len() - 1;
    (installation, at)
}

const LATHE: &str = "12 C32 3ph 6/6/6 18m 2pts armoured industrial 32 \"Guillotine outlets\"";

fn of_circuit(installation: &Installation, at: usize) -> Vec<Found> {
    flaws_of_circuit(installation, &installation.circuits[at], &CurrentReadings::new(&[], &[]))
}

#[test]
fn its_rating_stands_against_the_device_even_at_13_a() {
    let (mut installation, at) = with(LATHE);
    let points = &installation.circuits[at].points;
    assert!(
        points.iter().all(|point| point.accessory == Accessory::Industrial && point.rating_a == Some(Amps(dec!(32))))
    );
    let outlet = |found: &Found| matches!(found, Found::OutletBelow { .. } | Found::OutletUnrated { .. });
    let found =
        |installation: &Installation| of_circuit(installation, at).into_iter().filter(outlet).collect::<Vec<_>>();
    assert_eq!(found(&installation), []);
    installation.circuits[at].points[1].rating_a = Some(Amps(dec!(16)));
    let below = |outlet_a: Decimal| Found::OutletBelow {
        point: "2".into(),
        outlet_a: Amps(outlet_a),
        device_a: Amps(dec!(32)),
    };
    assert_eq!(found(&installation), [below(dec!(16))]);
    // No fuse stands in its plug.
    installation.circuits[at].points[1].rating_a = Some(Amps(dec!(13)));
    assert_eq!(found(&installation), [below(dec!(13))]);
    installation.circuits[at].points[1].accessory = Accessory::Outlet;
    assert_eq!(found(&installation), []);
    installation.circuits[at].points[0].rating_a = None;
    assert_eq!(found(&installation), [Found::OutletUnrated { point: "1".into() }]);
    assert!(parse("12 C32 6/6/6 industrial 20").unwrap_err().to_string().contains("16, 32, 63, 125"));
}

#[test]
fn the_adapter_of_each_rating_and_pair_of_pins_is_nulled_apart() {
    let (installation, at) = with(LATHE);
    let steps = circuit_steps(&installation, &installation.circuits[at]);
    let first = |test: Test, line: Conductor| -> Step {
        steps.iter().find(|step| step.key.test == test && step.key.line == Some(line)).unwrap().clone()
    };
    let l1 = leads(&installation, &first(Test::R1R2, Conductor::L1));
    assert_eq!((l1.set, l1.pins), ("adapter lead, industrial 32 A", "L1–E"));
    let l2 = leads(&installation, &first(Test::R1R2, Conductor::L2));
    assert_eq!((l2.set, l2.pins), (l1.set, "L2–E"));
    assert_eq!(leads(&installation, &first(Test::R1Rn, Conductor::L3)).pins, "L3–N");
    let state = LeadState { nulled: Some((l1.set.into(), l1.pins.into())), ..LeadState::default() };
    assert!(
        state.serves(LeadCompensation::Hold, l1) && !state.serves(LeadCompensation::Hold, l2),
        "other pins, other null"
    );
    assert_eq!(hook_up(&installation, &first(Test::R1R2, Conductor::L1)).adapter, l1.set);
    let (smaller, at) = with("12 C16 2.5/1.5 18m 1pts industrial 16");
    let step =
        circuit_steps(&smaller, &smaller.circuits[at]).into_iter().find(|step| step.key.test == Test::R1R2).unwrap();
    assert_eq!((leads(&smaller, &step).set, leads(&smaller, &step).pins), ("adapter lead, industrial 16 A", "L–E"));
}

#[test]
fn the_sequence_is_shown_at_every_outlet_or_followed_dead_once() {
    let (mut installation, at) = with(LATHE);
    let asked = |installation: &Installation| -> Vec<(String, bool)> {
        let steps = circuit_steps(installation, &installation.circuits[at]);
        let of = steps.into_iter().filter(|step| step.key.test == Test::PhaseSequence);
        of.map(|step| (step.slug, step.stage.is_dead())).collect()
    };
    assert_eq!(asked(&installation), [("sequence-p1".to_owned(), false), ("sequence-p2".to_owned(), false)]);
    installation.house_rules.sequence = SequenceBy::Continuity;
    assert_eq!(asked(&installation), [("sequence".to_owned(), true)]);
}

#[test]
fn armour_is_asked_noted_and_looked_at() {
    let (mut installation, at) = with(LATHE);
    assert_eq!(installation.circuits[at].cable.kind.family(), CableFamily::Armoured);
    assert!(asked(&installation).any(|item| item.key == "cable-armour"), "gland and tag are looked at");
    let metal = |installation: &Installation| installation.parallel_earth_path(&installation.circuits[at]);
    let remarks = |installation: &Installation| {
        result_row(installation, &installation.circuits[at], &CurrentReadings::new(&[], &[])).remarks
    };
    assert_eq!((metal(&installation), remarks(&installation).as_str()), (true, ""), "by house rule, not asked yet");
    installation.circuits[at].armour = Some(ArmourAndTray::Apart);
    assert!(!metal(&installation) && remarks(&installation).contains("armour earthed at one end"));
    installation.house_rules.armour = ArmourAndTray::Apart;
    installation.circuits[at].armour = Some(ArmourAndTray::Connected);
    assert!(metal(&installation) && remarks(&installation).contains("armour connected to the CPC"));
    // Armour cannot be held off: nothing is altered for it.
    let steps = circuit_steps(&installation, &installation.circuits[at]);
    let read = steps.iter().find(|step| step.stage == Stage::R1R2).unwrap();
    let altered = proof_work::plan::disturbance::step_disturbances(&installation, read);
    assert!(altered.iter().all(|one| one.alteration != proof_job::site::Alteration::AccessoryOff), "{altered:?}");
    installation.circuits[at].cable.kind = CableFamily::Singles.into();
    assert!(asked(&installation).all(|item| item.key != "cable-armour"));
    assert_eq!((metal(&installation), remarks(&installation).as_str()), (false, ""));
}
