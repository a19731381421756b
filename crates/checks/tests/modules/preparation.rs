//! What is prepared before insulation is read.

use proof_bench::demo;
use proof_job::installation::{Accessory, Carried};
use proof_job::site::Alteration;
use proof_work::plan::preparation::prepare;

#[test]
fn what_comes_out_is_named_and_what_stays_is_joined() {
    let mut installation = demo::jobs().swap_remove(0).installation;
    let mut circuit = installation.circuits[1].clone();
    for point in &mut circuit.points {
        point.connected_load.clear();
    }
    circuit.points[1].connected_load = vec![Carried::Lamp, Carried::Neon];
    circuit.points[2].connected_load = vec![Carried::Dimmer];
    circuit.points[0].accessory = Accessory::TwoWay;
    installation.boards[0].surge = "type 2".into();
    let list = prepare(&installation, &circuit);
    let altered: Vec<Alteration> = list.iter().filter_map(|one| one.alteration).collect();
    assert_eq!(altered, [Alteration::SpdOut, Alteration::LampOut, Alteration::NeonOut]);
    let all: String = list.iter().map(|one| one.what.as_str()).collect();
    assert!(all.contains("dimmer stays") && all.contains("one of them turned over"), "{all}");
    for named in ["surge device of the board", "the RCBO off", "250 V"] {
        assert!(all.contains(named), "{named}: {all}");
    }
    assert!(circuit.has_fixed_load());
}

/// A whole board with its devices on puts 500 V across what is electronic: the card names each, and none is in a set that
/// is read between live conductors. The surge device goes on the put-back list.
#[test]
fn a_whole_board_names_what_does_not_bear_the_test_voltage() {
    use proof_job::reading::Subject;
    use proof_standard::limits::devices::DeviceStandard;
    use proof_work::plan::disturbance::step_disturbances;
    use proof_work::plan::hook_up::hook_up;
    use proof_work::plan::sets::board_steps;
    let mut installation = demo::jobs().swap_remove(0).installation;
    installation.circuits.iter_mut().flat_map(|one| &mut one.points).for_each(|point| point.connected_load.clear());
    crate::without_electronics(&mut installation);
    installation.boards[0].surge = "type 2".into();
    let rcbo = installation.circuits.iter().position(|one| one.way == "3").unwrap();
    let arc = installation.circuits.iter().position(|one| one.way == "5").unwrap();
    installation.circuits[rcbo].device.standard = DeviceStandard::BsEn61009;
    installation.circuits[arc].arc_detection = true;
    let board = installation.boards[0].clone();
    let steps = board_steps(&installation, &board);
    assert_eq!(steps.len(), 2, "joined to earth, then between live conductors");
    for step in &steps {
        let notes = hook_up(&installation, step).notes.join("; ");
        for named in ["way 3 (RCBO)", "way 5 (AFDD)", "surge device of the board unplugged"] {
            assert!(notes.contains(named), "{named}: {notes}");
        }
        let out = step_disturbances(&installation, step);
        assert!(out.iter().any(|one| one.alteration == Alteration::SpdOut && one.circuit.is_none()), "{out:?}");
        let Subject::CircuitSet { circuits } = &step.key.subject else { panic!() };
        let inside = [rcbo, arc].map(|at| circuits.contains(&installation.circuits[at].id));
        assert_eq!(inside, [step.key.pair.is_none(); 2], "{notes}");
    }
    let joined = hook_up(&installation, &steps[0]).notes.join("; ");
    assert!(joined.contains("functional-earth lead of the RCBO off the bar"), "{joined}");
    let live = hook_up(&installation, &steps[1]).notes.join("; ");
    assert!(live.contains("from its load side"), "{live}");
}
