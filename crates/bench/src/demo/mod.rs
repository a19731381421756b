//! Demo data: three jobs at one site, physically coherent, from the core's own physics plus the
//! scatter of a simulated instrument with a fixed seed. People, firms and places are made up.

mod loft;
mod plan;
mod register;
mod sheet;
mod work;

pub use loft::own_rows;
pub use register::{firm, instruments, people, signature};
pub use sheet::document;

use crate::meter::Meter;
use plan::{Plan, SEED, inspect, job};
use proof_job::installation::{Accessory, Carried, Lines, Nature, PointId, shorthand};
use proof_job::job::Job;
use proof_job::reading::Stage;
use proof_job::site::EventKind;
use proof_physics::network::description::{Fault, SegmentName};
use proof_standard::conductor::Core;
use proof_standard::house_rules::{InsulationBy, LeadCompensation, TwinOutlets};
use proof_standard::limits::inspection::Premises;
use proof_standard::quantity::{Celsius, Metres, Ohms};
use proof_work::certificate::{Role, Signature, Stroke};
use rust_decimal::dec;
use uuid::Uuid;
use work::{
    DEAD, LIVE, leave_altered, log, prove_dead, read, read_boards, read_bonds, read_origin, searched, subtracted, visit,
};

/// Switches and lamps of a lighting circuit.
fn light(job: &mut Job, way: &str, switches: &[(usize, Accessory)], lamps: &[Carried]) {
    let Some(circuit) = job.installation.circuits.iter_mut().find(|circuit| circuit.way == way) else { return };
    for (index, point) in circuit.points.iter_mut().enumerate() {
        match switches.iter().find(|(at, _)| *at == index) {
            Some((_, accessory)) => {
                point.accessory = *accessory;
                point.name = format!("switch {}", point.name);
            }
            None => point.connected_load = lamps.to_vec(),
        }
    }
}

fn press_room() -> Job {
    let mut job = job(&Plan {
        reference: "G-101",
        title: "Press room rewire",
        board: "Press room board",
        location: "Press room, beside the loading door",
        extent: "All circuits of the press room board, new wiring throughout.",
        nature: Nature::New,
        begun: "2026-10-05T08:10:00Z",
        circuits: &[
            "1 lights RCBO B6 6kA 1.5/1.0 31m 8pts ref C N1 E1 \"Press room lights\"",
            "2 lights RCBO B6 6kA 1.5/1.0 24m 5pts ref C N2 E2 \"Composing room lights\"",
            "3 ring RCBO B32 6kA 2.5/1.5 legs 6,5,7,4.5,6,5.5,6,4,8,9 ref C N3 E3 \"Press room benches\"",
            "4 ring RCBO B32 6kA 2.5/1.5 47m 7pts ref C N4 E4 \"Composing room benches\"",
            "5 radial RCBO C16 6kA 2.5/1.5 fixed 14m 1pt ref C N5 E5 \"Guillotine\"",
            "6 radial RCBO C20 6kA 4/1.5 fixed 19m 1pt ref C N6 E6 \"Cylinder press\"",
            "7 radial RCBO B20 6kA 2.5/1.5 legs 8,4,5 ref C N7 E7 \"Office sockets\"",
            "8 radial B16 6kA 2.5/1.5 fixed 11m 1pt ref C N8 E8 \"Extractor fan\"",
        ],
    });
    light(&mut job, "1", &[(0, Accessory::TwoWay), (1, Accessory::TwoWay)], &[Carried::Electronics]);
    light(&mut job, "2", &[(0, Accessory::Switch)], &[Carried::Lamp]);
    if let Some(ring) = job.installation.circuits.iter_mut().find(|circuit| circuit.way == "3") {
        for point in &mut ring.points {
            point.accessory = Accessory::Twin;
        }
        ring.points[4].name = "bench 5".into();
        ring.points.push(proof_job::installation::Point {
            id: PointId(10),
            name: "5a".into(),
            spur_from: Some(PointId(5)),
            leg_m: Some(Metres::literal(4.0)),
            ..proof_job::installation::Point::default()
        });
    }
    inspect(&mut job);
    let mut meter = Meter::new(SEED);
    let mut visit = visit(&job);
    prove_dead(&mut job, &mut visit);
    read_bonds(&mut job, &mut visit, &mut meter);
    let ways: Vec<String> = job.installation.circuits.iter().map(|circuit| circuit.way.clone()).collect();
    for way in &ways {
        read(&mut job, &mut visit, &mut meter, way, Vec::new(), DEAD);
    }
    read_origin(&mut job, &mut visit);
    let board = job.installation.boards[0].id;
    log(&mut job, &mut visit, EventKind::Energised { board, circuits: Vec::new() });
    for way in &ways {
        read(&mut job, &mut visit, &mut meter, way, Vec::new(), LIVE);
    }
    read_boards(&mut job, &mut visit);
    job
}

fn flats() -> Job {
    let mut job = job(&Plan {
        reference: "G-102",
        title: "Flat 2, new consumer unit and circuits",
        board: "Flat 2 consumer unit",
        location: "Hall cupboard, first floor",
        extent: "Consumer unit and all final circuits of flat 2.",
        nature: Nature::New,
        begun: "2026-11-16T08:30:00Z",
        circuits: &[
            "1 lights RCBO B6 6kA 1.5/1.0 28m 9pts ref 100 N1 E1 \"Lights\"",
            "2 ring RCBO B32 6kA 2.5/1.5 52m 9pts ref C N2 E2 \"Sockets, living and bedrooms\"",
            "3 ring RCBO B32 6kA 2.5/1.5 legs 5,4,3,6,4,5,7 ref C N3 E3 \"Sockets, kitchen\"",
            "4 radial RCBO B32 6kA 6/2.5 fixed 9m 1pt ref C N4 E4 \"Cooker\"",
            "5 radial B16 6kA 2.5/1.5 fixed 12m 1pt ref C N5 E5 \"Immersion heater\"",
            "6 radial RCBO B6 6kA 1.5/1.0 fixed 18m 3pts ref C N6 E6 \"Smoke alarms\"",
        ],
    });
    job.installation.premises = Premises::LetDwelling;
    inspect(&mut job);
    job.installation.inspection.truncate(14);
    let mut meter = Meter::new(SEED + 1);
    let mut visit = visit(&job);
    visit.ze = 0.21;
    prove_dead(&mut job, &mut visit);
    read_bonds(&mut job, &mut visit, &mut meter);
    read(&mut job, &mut visit, &mut meter, "1", Vec::new(), |step| step.stage < Stage::Insulation);
    read(&mut job, &mut visit, &mut meter, "2", Vec::new(), DEAD);
    read(&mut job, &mut visit, &mut meter, "3", Vec::new(), |step| step.stage < Stage::R1R2);
    read(&mut job, &mut visit, &mut meter, "4", Vec::new(), DEAD);
    leave_altered(&mut job, &mut visit, "3", Stage::R1Rn);
    job
}

fn bindery() -> Job {
    let mut job = job(&Plan {
        reference: "G-103",
        title: "Bindery alterations",
        board: "Bindery board",
        location: "Bindery, stair foot",
        extent: "Ways 3 and 4 of the bindery board: ring extended, one radial added.",
        nature: Nature::Alteration,
        begun: "2026-11-20T09:05:00Z",
        circuits: &[
            "3 ring RCBO B32 6kA 2.5/1.5 legs 7,5,4,6,5,8,6,9 ref C N3 E3 existing \"Sewing benches\"",
            "4 radial RCBO B20 6kA 2.5/1.5 legs 9,6,5 ref C N4 E4 \"Casing-in bench\"",
        ],
    });
    inspect(&mut job);
    let mut meter = Meter::new(SEED + 2);
    let mut visit = visit(&job);
    visit.ze = 0.19;
    prove_dead(&mut job, &mut visit);
    read_bonds(&mut job, &mut visit, &mut meter);
    let joint = Fault::HighResistanceJoint {
        conductor: Core::E,
        segment: SegmentName::After("p3".into()),
        ohm: Ohms::literal(0.42),
    };
    let poor_neutral = Fault::HighResistanceJoint {
        conductor: Core::N,
        segment: SegmentName::After("p5".into()),
        ohm: Ohms::literal(0.19),
    };
    read(&mut job, &mut visit, &mut meter, "3", vec![joint, poor_neutral], |step| step.stage < Stage::Insulation);
    job
}

/// A three-phase board on a cold morning: by house rule the whole board's insulation at once, leads
/// measured and subtracted; it fails, and the search is under way.
fn studio() -> Job {
    let mut job = job(&STUDIO);
    three_phase(&mut job);
    inspect(&mut job);
    let mut meter = Meter::new(SEED + 3);
    let mut visit = visit(&job);
    prove_dead(&mut job, &mut visit);
    for (set, pins, ohm) in [
        ("clips", "", dec!(0.04)),
        ("plug-in lead", "L–N", dec!(0.09)),
        ("plug-in lead", "L–E", dec!(0.17)),
        ("probes", "", dec!(0.06)),
    ] {
        let (lead_set, pins) = (set.to_owned(), pins.to_owned());
        log(&mut job, &mut visit, EventKind::Nulled { lead_set, pins, subtract_ohm: Some(ohm) });
    }
    read_bonds(&mut job, &mut visit, &mut meter);
    let ways: Vec<String> = job.installation.circuits.iter().map(|circuit| circuit.way.clone()).collect();
    for way in &ways {
        read(&mut job, &mut visit, &mut meter, way, Vec::new(), |step| step.stage < Stage::Insulation);
    }
    subtracted(&mut job);
    searched(&mut job, &mut visit, "5", 4);
    job
}

const STUDIO: Plan = Plan {
    reference: "G-104",
    title: "Garden studio and yard",
    board: "Studio board",
    location: "Garden studio, behind the kiln",
    extent: "Studio board and all its circuits, new.",
    nature: Nature::New,
    begun: "2026-11-24T08:05:00Z",
    circuits: &[
        "1 lights RCBO B6 6kA 1.5/1.0 26m 6pts ref C N1 E1 \"Studio lights\"",
        "2 lights RCBO B6 6kA 1.5/1.0 34m 3pts ref C N2 E2 \"Yard lights\"",
        "3 ring RCBO B32 6kA 2.5/1.5 legs 5,6,4,7,6,8 ref C N3 E3 \"Studio benches\"",
        "4 radial 3ph C20 6kA 4/1.5 fixed 18m 1pt ref C N4 E4 \"Kiln\"",
        "5 radial RCBO B16 6kA 2.5/1.5 fixed 22m 1pt ref C N5 E5 \"Fountain pump\"",
        "6 radial RCBO B16 6kA 2.5/1.5 fixed 9m 1pt ref C N6 E6 \"Water heater\"",
    ],
};

/// Three phases, metal beside the CPCs, and what hangs on the points.
fn three_phase(job: &mut Job) {
    let rules = &mut job.installation.house_rules;
    rules.insulation = InsulationBy::Board;
    rules.leads = LeadCompensation::Subtract;
    rules.twin_outlets = TwinOutlets::Both;
    job.installation.ambient_c = Some(Celsius::literal(6.0));
    job.installation.supply.lines = Lines::Three;
    let board = &mut job.installation.boards[0];
    board.lines = Lines::Three;
    board.parallel_earth = Some(true);
    light(job, "1", &[(0, Accessory::TwoWay), (1, Accessory::Intermediate), (2, Accessory::TwoWay)], &[Carried::Lamp]);
    light(job, "2", &[(0, Accessory::Switch)], &[Carried::Outdoors]);
    for circuit in &mut job.installation.circuits {
        match circuit.way.as_str() {
            "3" => circuit.points.iter_mut().for_each(|point| point.accessory = Accessory::Twin),
            "4" => circuit.points[0].metalwork = "kiln frame".into(),
            "5" => circuit.points[0].connected_load = vec![Carried::Water, Carried::Outdoors],
            "6" => circuit.points[0].connected_load = vec![Carried::Water, Carried::Neon],
            _ => {}
        }
    }
}

/// Maud Ferrow, who signs for every part; drawn as given.
pub fn signed(drawn: &[Stroke]) -> Vec<Signature> {
    let sign = |role| Signature {
        role,
        name: "Maud Ferrow".into(),
        position: "Supervisor".into(),
        firm: String::new(),
        at: jiff::Timestamp::UNIX_EPOCH,
        drawn: drawn.to_vec(),
    };
    Role::ALL.map(sign).to_vec()
}

/// The five jobs: one finished (to be issued), one half done, one with a fault in its ring, one
/// with a board that is searched, one with a second source and much that an inspector would object to.
pub fn jobs() -> Vec<Job> {
    vec![press_room(), flats(), bindery(), studio(), loft::loft()]
}

/// A large job for benchmarks: so many rings of ten points, every reading taken (30 a circuit).
pub fn large(circuits: usize) -> Job {
    let mut job = job(&Plan {
        reference: "LARGE",
        title: "Every way of a large board",
        board: "Large board",
        location: "Switch room",
        extent: "All of it.",
        nature: Nature::New,
        begun: "2026-10-05T08:10:00Z",
        circuits: &[],
    });
    let board = job.installation.boards[0].id;
    for way in 1..=circuits {
        let line = format!(
            "{way} ring RCBO B32 6kA 2.5/1.5 legs 6,5,7,4.5,6,5.5,6,4,8,9,7 ref C N{way} E{way} \"Ring {way}\""
        );
        if let Ok(line) = shorthand::parse(&line) {
            let (circuit, rcd) = line.build(board, Uuid::new_v5(&job.id, line.way.as_bytes()));
            job.installation.circuits.push(circuit);
            job.installation.boards[0].rcds.extend(rcd);
        }
    }
    inspect(&mut job);
    let (mut meter, mut visit) = (Meter::new(SEED + 9), visit(&job));
    prove_dead(&mut job, &mut visit);
    read_bonds(&mut job, &mut visit, &mut meter);
    read_origin(&mut job, &mut visit);
    let board = job.installation.boards[0].id;
    for way in 1..=circuits {
        read(&mut job, &mut visit, &mut meter, &way.to_string(), Vec::new(), DEAD);
    }
    log(&mut job, &mut visit, EventKind::Energised { board, circuits: Vec::new() });
    for way in 1..=circuits {
        read(&mut job, &mut visit, &mut meter, &way.to_string(), Vec::new(), LIVE);
    }
    read_boards(&mut job, &mut visit);
    job
}
