//! Demo data: three jobs at one site, physically coherent, from the core's own physics plus the
//! scatter of a simulated instrument with a fixed seed. People, firms and places are made up.

use super::meter::{Meter, shown};
use super::site::{Visit, read_circuit};
use crate::conductor::Pair;
use crate::disturbance::{changes, of_step, undo_first};
use crate::event::{Event, EventKind, open_items};
use crate::hook_up::leads;
use crate::house_rules::{InsulationBy, LeadCompensation, TwinOutlets};
use crate::inspection::ITEMS;
use crate::installation::{
    Accessory, Board, Bond, Carried, CheckOf, Circuit, Feed, Firm, FixedCheck, HouseRules, InspectionAnswer,
    InspectionOutcome, Installation, Instrument, Job, Lines, MainSwitch, Nature, Party, Person, Supply,
};
use crate::network::description::{Core, Fault, SegmentName};
use crate::quantity::{Celsius, Metres, Ohms, SquareMillimetres};
use crate::reading::{LeadNull, PointId, Settled, Subject, Test, Value};
use crate::run::{LeadState, Order, Run, is_low_ohm};
use crate::sequence::{Stage, Step, board_steps, circuit_steps, origin_steps};
use crate::shorthand;
use crate::standard::inspection::Premises;
use crate::standard::supply::EarthingSystem;
use jiff::Timestamp;
use jiff::civil::date;
use rust_decimal::dec;
use uuid::Uuid;

const SEED: u64 = 7671;
const READER: &str = "Idris Kell";
const WRITER: &str = "Maud Ferrow";

fn id(name: &str) -> Uuid {
    Uuid::new_v5(&Uuid::NAMESPACE_OID, name.as_bytes())
}

fn time(text: &str) -> Timestamp {
    text.parse().unwrap_or(Timestamp::UNIX_EPOCH)
}

/// The demo firm.
pub fn firm() -> Firm {
    Firm {
        name: "Ferrow & Kell Electrical".into(),
        address: "2 Chandler's Yard, Brackwater".into(),
        contact: "office@ferrowkell.example".into(),
        house_rules: HouseRules::default(),
    }
}

/// Its people.
pub fn people() -> Vec<Person> {
    [(WRITER, "Qualified supervisor"), (READER, "Electrician"), ("Tova Brandreth", "Designer")]
        .map(|(name, position)| Person { id: id(name), name: name.into(), position: position.into() })
        .to_vec()
}

/// A signature as somebody of that name might draw it: a wave as long as the name.
pub fn signature(name: &str) -> Vec<crate::certificate::Stroke> {
    let letters = name.bytes().enumerate();
    let wave = letters.flat_map(|(index, letter)| {
        let x = 20 + 30 * u16::try_from(index).unwrap_or(0);
        let height = 30 + u16::from(letter) % 70;
        [(x.min(580), 110), (x.min(580) + 10, 120 - height), (x.min(580) + 18, 112)]
    });
    vec![wave.collect(), vec![(20, 130), (200, 124), (420, 132)]]
}

/// Its instruments.
pub fn instruments() -> Vec<Instrument> {
    let check = |on, of, fixed, read| FixedCheck { on, of, fixed, read, by: WRITER.into() };
    // Twelve months against the same resistors: the low-ohm range creeps up, within its tolerance.
    let creep = [100, 100, 101, 100, 101, 101, 102, 101, 102, 103, 102, 103];
    let mut checks = Vec::new();
    for (index, hundredths) in creep.into_iter().enumerate() {
        let (year, month) = if index == 0 { (2025, 12) } else { (2026, index as i8) };
        let on = date(year, month, 3);
        checks.push(check(on, CheckOf::Continuity, dec!(1.00), rust_decimal::Decimal::new(hundredths, 2)));
        checks.push(check(on, CheckOf::Insulation, dec!(1.00), dec!(1.00)));
    }
    vec![
        Instrument {
            id: id("MFT-2"),
            kind: "multifunction tester".into(),
            reference: "MFT-2".into(),
            calibration_due: Some(date(2027, 6, 30)),
            over_range_mohm: dec!(999),
            over_range_ohm: Some(dec!(99.9)),
            continuity_v: Some(dec!(5)),
            insulation_v: vec![250, 500, 1000],
            line_to_line: true,
            checks,
        },
        Instrument {
            id: id("VI-1"),
            kind: "voltage indicator and proving unit".into(),
            reference: "VI-1".into(),
            over_range_mohm: dec!(999),
            ..Instrument::default()
        },
    ]
}

struct Plan {
    reference: &'static str,
    title: &'static str,
    board: &'static str,
    location: &'static str,
    extent: &'static str,
    nature: Nature,
    begun: &'static str,
    circuits: &'static [&'static str],
}

fn job(plan: &Plan) -> Job {
    let job_id = id(plan.reference);
    let board_id = Uuid::new_v5(&job_id, b"board");
    let mut board = Board {
        id: board_id,
        name: plan.board.into(),
        location: plan.location.into(),
        fed_by: Feed::Supply,
        system: EarthingSystem::TnCS,
        lines: Lines::Single,
        main_switch: MainSwitch { kind: "BS EN 60947-3 switch".into(), poles: Some(2), rating_a: Some(dec!(100)) },
        rcds: Vec::new(),
        parallel_earth: Some(false),
        conditional_ka: None,
        surge: String::new(),
    };
    let mut circuits: Vec<Circuit> = Vec::new();
    for line in plan.circuits {
        if let Ok(line) = shorthand::parse(line) {
            let (circuit, rcd) = line.build(board_id, Uuid::new_v5(&job_id, line.way.as_bytes()));
            circuits.push(circuit);
            board.rcds.extend(rcd);
        }
    }
    let bond = |to: &str, metres: f64| Bond {
        id: Uuid::new_v5(&job_id, to.as_bytes()),
        to: to.into(),
        supplementary: false,
        mm2: Some(SquareMillimetres::literal(10.0)),
        length_m: Metres::new(metres).ok(),
    };
    let installation = Installation {
        client: Party {
            name: "Halyard Press & Bindery".into(),
            address: "The Old Granary, Sluice Lane, Brackwater".into(),
        },
        site: Party { name: "The Old Granary".into(), address: "Sluice Lane, Brackwater".into() },
        premises: Premises::Industrial,
        nature: plan.nature,
        extent: plan.extent.into(),
        existing: "Intake and the landlord's lighting were not part of the work; no defect was seen in passing.".into(),
        supply: Supply {
            device: "BS 88-3 fuse".into(),
            device_a: Some(dec!(100)),
            tails_mm2: Some(SquareMillimetres::literal(25.0)),
            neutral_mm2: Some(SquareMillimetres::literal(25.0)),
            earthing_mm2: Some(SquareMillimetres::literal(16.0)),
            bonds: vec![bond("water", 9.0), bond("gas", 14.0)],
            ..Supply::default()
        },
        boards: vec![board],
        circuits,
        ambient_c: Some(Celsius::literal(20.0)),
        ..Installation::default()
    };
    Job {
        id: job_id,
        reference: plan.reference.into(),
        title: plan.title.into(),
        created_at: time(plan.begun),
        firm: firm(),
        people: people(),
        instruments: instruments(),
        installation,
        readings: Vec::new(),
        events: Vec::new(),
    }
}

fn visit(job: &Job) -> Visit {
    Visit {
        instrument: id("MFT-2"),
        read_by: READER.into(),
        entered_by: WRITER.into(),
        clock: job.created_at,
        ze: 0.17,
        neutral: 0.16,
    }
}

fn log(job: &mut Job, visit: &mut Visit, kind: EventKind) {
    visit.clock = visit.clock.checked_add(jiff::SignedDuration::from_secs(90)).unwrap_or(visit.clock);
    let number = job.events.len();
    let event = Event {
        id: Uuid::new_v5(&job.id, format!("event {number}").as_bytes()),
        at: visit.clock,
        by: READER.into(),
        kind,
    };
    job.events.push(event);
}

fn inspect(job: &mut Job) {
    let not_here = ["earthing-electrode", "special-wet", "special-outdoor"];
    job.installation.inspection = ITEMS
        .iter()
        .map(|item| InspectionAnswer {
            item: item.key.into(),
            outcome: if not_here.contains(&item.key) {
                InspectionOutcome::NotApplicable
            } else {
                InspectionOutcome::Yes
            },
            note: String::new(),
        })
        .collect();
}

fn prove_dead(job: &mut Job, visit: &mut Visit) {
    let board = job.installation.boards[0].id;
    log(
        job,
        visit,
        EventKind::Isolated {
            board,
            circuits: vec![],
            lock: "padlock 7, key with Idris Kell".into(),
            paperwork: String::new(),
        },
    );
    log(
        job,
        visit,
        EventKind::ProvedDead { board, circuits: vec![], pairs: 3, shown: Vec::new(), indicator: "VI-1".into() },
    );
}

fn read_bonds(job: &mut Job, visit: &mut Visit, meter: &mut Meter) {
    for step in origin_steps(&job.installation).iter().filter(|step| step.stage == Stage::Bonding) {
        let bond = job
            .installation
            .supply
            .bonds
            .iter()
            .find(|bond| matches!(step.key.subject, Subject::Bond { bond: id } if id == bond.id));
        let own = bond.and_then(|bond| bond.length_m).map_or(0.004, |m| m.get() * 1.83e-3);
        let value = Value::Number(meter.clipped(own));
        let reading = visit.reading(step, value, Uuid::new_v5(&job.id, step.slug.as_bytes()));
        job.readings.push(reading);
    }
}

/// Ze with the earth off and the fault current with it back on; the log says so.
fn read_origin(job: &mut Job, visit: &mut Visit) {
    let board = job.installation.boards[0].id;
    log(job, visit, EventKind::SupplyExposed { board });
    let steps = origin_steps(&job.installation);
    let live = |step: &&Step| step.stage == Stage::Origin && step.required;
    let (exposed, back): (Vec<&Step>, Vec<&Step>) =
        steps.iter().filter(live).partition(|step| matches!(step.key.test, Test::Ze | Test::SupplyPolarity));
    for step in exposed {
        let value = if step.key.test == Test::Ze { Value::Number(shown(visit.ze, 2)) } else { Value::Pass };
        let reading = visit.reading(step, value, Uuid::new_v5(&job.id, step.slug.as_bytes()));
        job.readings.push(reading);
    }
    log(job, visit, EventKind::EarthRefitted { board });
    for step in back {
        let behind = if step.key.pair == Some(Pair::LINE_EARTH) { visit.ze - 0.015 } else { visit.neutral };
        let value = Value::Number(shown(0.23 / behind, 2));
        let reading = visit.reading(step, value, Uuid::new_v5(&job.id, step.slug.as_bytes()));
        job.readings.push(reading);
    }
}

/// What belongs to the boards as a whole, once they are energised.
fn read_boards(job: &mut Job, visit: &mut Visit) {
    for board in job.installation.boards.clone() {
        for step in board_steps(&job.installation, &board).iter().filter(|step| step.required) {
            let id = Uuid::new_v5(&board.id, step.slug.as_bytes());
            let reading = visit.reading(step, Value::Pass, id);
            job.readings.push(reading);
        }
    }
}

fn read(
    job: &mut Job,
    visit: &mut Visit,
    meter: &mut Meter,
    way: &str,
    faults: Vec<Fault>,
    wanted: impl Fn(&Step) -> bool,
) {
    let Some(circuit) = job.installation.circuits.iter().find(|circuit| circuit.way == way).cloned() else { return };
    let readings = read_circuit(&job.installation, &circuit, faults, visit, meter, wanted);
    job.readings.extend(readings);
}

/// Switches and lamps of a lighting circuit.
fn light(job: &mut Job, way: &str, switches: &[(usize, Accessory)], lamps: &[Carried]) {
    let Some(circuit) = job.installation.circuits.iter_mut().find(|circuit| circuit.way == way) else { return };
    for (index, point) in circuit.points.iter_mut().enumerate() {
        match switches.iter().find(|(at, _)| *at == index) {
            Some((_, accessory)) => {
                point.accessory = *accessory;
                point.name = format!("switch {}", point.name);
            }
            None => point.carries = lamps.to_vec(),
        }
    }
}

const DEAD: fn(&Step) -> bool = |step| step.stage < Stage::Zs;
const LIVE: fn(&Step) -> bool = |step| step.stage >= Stage::Zs && step.required;

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
        ring.points.push(crate::installation::Point {
            id: PointId(10),
            name: "5a".into(),
            spur_from: Some(PointId(5)),
            leg_m: Some(Metres::literal(4.0)),
            ..crate::installation::Point::default()
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

/// Leaves what a stage of a circuit alters on the put-back list.
fn leave_altered(job: &mut Job, visit: &mut Visit, way: &str, stage: Stage) {
    let installation = &job.installation;
    let Some(circuit) = installation.circuits.iter().find(|circuit| circuit.way == way) else { return };
    let steps = circuit_steps(installation, circuit);
    let Some(step) = steps.iter().find(|step| step.stage == stage) else { return };
    let id = circuit.id;
    for (number, one) in of_step(installation, step).into_iter().enumerate() {
        let item = Uuid::new_v5(&id, format!("{} {number}", stage.label()).as_bytes());
        log(job, visit, one.opened(item));
    }
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
    let mut job = job(&Plan {
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
    });
    let rules = &mut job.installation.house_rules;
    rules.insulation = InsulationBy::Board;
    rules.leads = LeadCompensation::Subtract;
    rules.twin_outlets = TwinOutlets::Both;
    job.installation.ambient_c = Some(Celsius::literal(6.0));
    job.installation.supply.lines = Lines::Three;
    let board = &mut job.installation.boards[0];
    board.lines = Lines::Three;
    board.parallel_earth = Some(true);
    light(
        &mut job,
        "1",
        &[(0, Accessory::TwoWay), (1, Accessory::Intermediate), (2, Accessory::TwoWay)],
        &[Carried::Lamp],
    );
    light(&mut job, "2", &[(0, Accessory::Switch)], &[Carried::Outdoors]);
    for circuit in &mut job.installation.circuits {
        match circuit.way.as_str() {
            "3" => circuit.points.iter_mut().for_each(|point| point.accessory = Accessory::Twin),
            "4" => circuit.points[0].metalwork = "kiln frame".into(),
            "5" => circuit.points[0].carries = vec![Carried::Water, Carried::Outdoors],
            "6" => circuit.points[0].carries = vec![Carried::Water, Carried::Neon],
            _ => {}
        }
    }
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

/// What was typed is what the instrument showed, leads and all; the value is without them.
fn subtracted(job: &mut Job) {
    let state = LeadState::of(&job.events, &[]);
    let installation = &job.installation;
    let steps: Vec<Step> = installation
        .circuits
        .iter()
        .flat_map(|circuit| circuit_steps(installation, circuit))
        .chain(origin_steps(installation))
        .collect();
    for reading in &mut job.readings {
        let Some(step) = steps.iter().find(|step| step.key == reading.key) else { continue };
        let held = leads(installation, step);
        if let (Value::Number(ohm), Some(own), true) = (&reading.value, state.subtract(held), is_low_ohm(step)) {
            reading.typed = (*ohm + own).to_string();
            reading.context.null = LeadNull::Subtract { ohm: own };
            reading.context.lead_set = Some(held.set.to_owned());
            reading.context.pins = Some(held.pins.to_owned()).filter(|pins| !pins.is_empty());
        }
    }
}

/// Reads a whole board, with one circuit weak between neutral and earth, until so many readings of
/// the search are in.
fn searched(job: &mut Job, visit: &mut Visit, weak: &str, readings: usize) {
    let board = job.installation.boards[0].id;
    let culprit = job.installation.circuits.iter().find(|circuit| circuit.way == weak).map(|circuit| circuit.id);
    let mut taken = 0;
    while taken < readings {
        let step = {
            let settled = Settled::new(&job.readings, &job.events);
            let run = Run::new(job, &settled, Order::CircuitByCircuit);
            let next = run.left().find(|planned| planned.step.stage == Stage::Insulation && planned.board == board);
            let Some(next) = next else { return };
            next.step.clone()
        };
        let holds = matches!(&step.key.subject, Subject::CircuitSet { circuits } if circuits.iter().any(|id| Some(*id) == culprit));
        let wrong = holds && step.key.pair == Some(Pair::NEUTRAL_EARTH);
        taken += usize::from(step.key.pair == Some(Pair::NEUTRAL_EARTH));
        let value = if wrong { Value::Number(dec!(0.31)) } else { Value::Over(dec!(999)) };
        let (made, replaced) = changes(&job.installation, &step, &open_items(&job.events));
        let undo: Vec<Uuid> = {
            let open = open_items(&job.events);
            undo_first(&job.installation, &step, &open).into_iter().map(|item| item.item).collect()
        };
        for item in undo.into_iter().chain(replaced) {
            log(job, visit, EventKind::PutBack { item });
        }
        for one in made {
            let item = Uuid::new_v5(&job.id, format!("altered {}", job.events.len()).as_bytes());
            log(job, visit, one.opened(item));
        }
        let id = Uuid::new_v5(&job.id, format!("set {}", job.readings.len()).as_bytes());
        let reading = visit.reading(&step, value, id);
        job.readings.push(reading);
    }
}

/// The four jobs: one finished (to be issued), one half done, one with a fault in its ring, one
/// with a board that is searched.
pub fn jobs() -> Vec<Job> {
    vec![press_room(), flats(), bindery(), studio()]
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::finding::{Severity, review};

    #[test]
    fn the_same_every_time() {
        assert_eq!(jobs(), jobs());
    }

    #[test]
    fn every_line_of_shorthand_made_a_circuit() {
        assert_eq!(jobs().iter().map(|job| job.installation.circuits.len()).collect::<Vec<_>>(), [8, 6, 2, 6]);
    }

    #[test]
    fn one_is_finished_one_half_done_one_odd() {
        let [finished, half, faulty, searched] = &jobs()[..] else { panic!() };
        let findings = review(finished.into());
        assert!(findings.is_empty(), "{findings:#?}");
        let findings = review(half.into());
        assert!(findings.iter().any(|f| f.severity == Severity::Missing));
        let findings = review(faulty.into());
        assert!(findings.iter().any(|f| f.severity == Severity::Odd && f.what.contains("apart")), "{findings:#?}");
        let whole = searched.readings.iter().filter(|r| matches!(r.key.subject, Subject::CircuitSet { .. })).count();
        assert!(whole > 4, "the whole board, then the search");
        assert!(
            open_items(&searched.events).iter().any(|item| item.alteration == crate::event::Alteration::NeutralOut)
        );
    }
}
