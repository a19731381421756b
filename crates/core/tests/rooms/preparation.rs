//! What is prepared before insulation is read.

use proof_bench::demo;
use proof_core::installation::{Accessory, Carried};
use proof_core::plan::preparation::prepare;
use proof_core::site::Alteration;

#[test]
fn what_comes_out_is_named_and_what_stays_is_joined() {
    let mut installation = demo::jobs().swap_remove(0).installation;
    let mut circuit = installation.circuits[1].clone();
    for point in &mut circuit.points {
        point.carries.clear();
    }
    circuit.points[1].carries = vec![Carried::Lamp, Carried::Neon];
    circuit.points[2].carries = vec![Carried::Dimmer];
    circuit.points[0].accessory = Accessory::TwoWay;
    installation.boards[0].surge = "type 2".into();
    let list = prepare(&installation, &circuit);
    let altered: Vec<Alteration> = list.iter().filter_map(|one| one.alteration).collect();
    assert_eq!(altered, [Alteration::LampOut, Alteration::NeonOut]);
    let all: String = list.iter().map(|one| one.what.as_str()).collect();
    assert!(all.contains("dimmer stays") && all.contains("one of them turned over"), "{all}");
    for named in ["surge device of the board", "the RCBO off", "250 V"] {
        assert!(all.contains(named), "{named}: {all}");
    }
    assert!(circuit.has_what_stays());
}
