//! Five installations that a competent designer could have drawn and a careful electrician read: a house,
//! a works on three phases with a board below, a house with a garden studio on an electrode of its own, a
//! cottage on its own electrode, and a house with panels, a charging point and extra-low voltage.

use proof_bench::demo;
use proof_checks::good_job::{blank_board, read};
use proof_job::installation::{
    Accessory, Bond, Carried, CircuitVoltage, Decided, Decision, Feed, Feeds, Lines, Nature, OtherSource, Serves,
    SourceKind, shorthand,
};
use proof_job::job::Job;
use proof_standard::limits::inspection::Premises;
use proof_standard::limits::rcd::RcdKind;
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Amps, Metres, Milliamps, SquareMillimetres};
use rust_decimal::dec;
use uuid::Uuid;

fn id(job: u128, what: u128) -> Uuid {
    Uuid::from_u128(job << 96 | what << 16 | 7)
}

struct Draft {
    number: u128,
    job: Job,
}

impl Draft {
    fn new(number: u128, premises: Premises, system: EarthingSystem, lines: Lines) -> Self {
        let mut job = demo::jobs().swap_remove(0);
        job.id = id(number, 1);
        job.reference = format!("S-{number}");
        job.readings.clear();
        job.events.clear();
        let installation = &mut job.installation;
        installation.premises = premises;
        installation.nature = Nature::New;
        installation.boards.clear();
        installation.circuits.clear();
        installation.supply.system = system;
        installation.supply.lines = lines;
        installation.supply.electrode =
            if system == EarthingSystem::Tt { "rod, 2.4 m, beside the porch".into() } else { String::new() };
        let bond = |number: u128, to: &str, metres: f64| Bond {
            id: id(number, 900 + to.len() as u128),
            to: to.into(),
            supplementary: false,
            mm2: Some(SquareMillimetres::literal(10.0)),
            length_m: Metres::new(metres).ok(),
        };
        installation.supply.bonds = vec![bond(number, "water", 7.0), bond(number, "gas", 11.0)];
        installation.maximum_demand_a = Some(Amps(dec!(62)));
        let reason = "overhead line, and the owner asks for it".into();
        installation.surge = Some(Decision { decided: Decided::Fitted, reason });
        installation.arc =
            Some(Decision { decided: Decided::NotRequired, reason: "none of the premises that require it".into() });
        Self { number, job }
    }

    fn board(&mut self, number: u128, name: &str, fed_by: Feed, system: EarthingSystem, lines: Lines) -> Uuid {
        let mut board = blank_board(id(self.number, 100 + number), name, system, lines, fed_by);
        board.location = "hall cupboard".into();
        board.main_switch.voltage_v = Some(dec!(400));
        if fed_by == Feed::Supply {
            board.surge = "type 2".into();
        }
        let id = board.id;
        self.job.installation.boards.push(board);
        id
    }

    fn ways(&mut self, board: Uuid, from: u128, lines: &[&str]) {
        for (index, line) in lines.iter().enumerate() {
            let circuit = id(self.number, 300 + from + index as u128);
            let (circuit, rcd) = shorthand::parse(line).unwrap().build(board, circuit);
            let one = self.job.installation.boards.iter_mut().find(|one| one.id == board).unwrap();
            one.rcds.extend(rcd);
            self.job.installation.circuits.push(circuit);
        }
    }

    fn way(&mut self, word: &str) -> &mut proof_job::installation::Circuit {
        self.job.installation.circuits.iter_mut().find(|one| one.description.contains(word)).unwrap()
    }

    fn lights(&mut self, word: &str) {
        let circuit = self.way(word);
        circuit.points[0].accessory = Accessory::Switch;
        for point in &mut circuit.points[1..] {
            point.connected_load = vec![Carried::Lamp];
        }
    }

    fn read(self) -> Job {
        read(self.job, 40 + u64::try_from(self.number).unwrap(), |_| vec![])
    }
}

const HOUSE: [&str; 8] = [
    "1 lights RCBO B6 6kA 1.5/1.0 22m 6pts ref 100 N1 E1 \"Lights down\"",
    "2 lights RCBO B6 6kA 1.5/1.0 19m 5pts ref 100 N2 E2 \"Lights up\"",
    "3 ring RCBO B32 6kA 2.5/1.5 legs 6,4,5,6,3,5,7 ref C N3 E3 \"Sockets ring\"",
    "4 radial RCBO B20 6kA 2.5/1.5 legs 7,4,5 ref C N4 E4 \"Sockets radial\"",
    "5 radial B16 6kA 2.5/1.5 fixed 9m 1pt ref C N5 E5 \"Boiler\"",
    "6 radial RCBO B40 6kA 10/4 fixed 11m 1pt ref C N6 E6 \"Shower\"",
    "7 radial RCBO B32 6kA 6/2.5 fixed 8m 1pt ref C N7 E7 \"Cooker\"",
    "8 radial RCBO B16 6kA 2.5/1.5 fixed 12m 1pt ref C N8 E8 \"Heater in the wall\"",
];

fn house(number: u128, system: EarthingSystem) -> Draft {
    let mut draft = Draft::new(number, Premises::Dwelling, system, Lines::Single);
    let board = draft.board(1, "Consumer unit", Feed::Supply, system, Lines::Single);
    draft.ways(board, 0, &HOUSE);
    draft.way("Shower").serves = vec![Serves::BathOrShower];
    draft.way("Heater").serves = vec![Serves::HiddenCable];
    draft.lights("Lights down");
    draft
}

/// A board below the first, behind a delayed residual device where the supply is TT.
fn below(draft: &mut Draft, feeder: &str, name: &str, system: EarthingSystem, lines: &[&str]) {
    let board = draft.job.installation.boards[0].id;
    let from = 40;
    draft.ways(board, from, &[feeder]);
    let circuit = id(draft.number, 300 + from);
    draft.job.installation.circuits.iter_mut().find(|one| one.id == circuit).unwrap().feeds = Feeds::Board;
    let fed_by = Feed::Circuit { circuit };
    let board = draft.board(2, name, fed_by, system, Lines::Single);
    draft.ways(board, 60, lines);
}

/// The house.
pub fn house_tn() -> Job {
    house(1, EarthingSystem::TnCS).read()
}

/// The works.
pub fn works() -> Job {
    let mut draft = Draft::new(2, Premises::Industrial, EarthingSystem::TnS, Lines::Three);
    let board = draft.board(1, "Works board", Feed::Supply, EarthingSystem::TnS, Lines::Three);
    draft.ways(
        board,
        0,
        &[
            "1 lights RCBO B6 6kA 1.5/1.0 26m 6pts ref C N1 E1 \"Lights bindery\"",
            "2 ring RCBO B32 6kA 2.5/1.5 legs 6,5,5,6,4,7 ref C N2 E2 \"Sockets ring\"",
            "3 radial RCBO B20 6kA 2.5/1.5 legs 7,4,5 ref C N3 E3 \"Sockets radial\"",
            "4 radial C16 6kA 4/1.5 fixed 9m 1pt ref C N4 E4 \"Guillotine\"",
            "5 radial RCBO B16 6kA 2.5/1.5 fixed 12m 1pt ref C N5 E5 \"Heater in the wall\"",
        ],
    );
    draft.way("Heater").serves = vec![Serves::HiddenCable];
    draft.lights("Lights");
    below(
        &mut draft,
        "20 radial B40 6kA 10/4 fixed 14m 1pt ref C N20 E20 \"Feeder\"",
        "Store board",
        EarthingSystem::TnS,
        &[
            "1 lights RCBO B6 6kA 1.5/1.0 12m 3pts ref C N1 E1 \"Store lights\"",
            "2 radial RCBO B16 6kA 2.5/1.5 legs 4,4 ref C N2 E2 \"Store sockets\"",
        ],
    );
    draft.read()
}

/// The house with a studio in the garden, on an electrode of its own.
pub fn studio() -> Job {
    let mut draft = house(3, EarthingSystem::TnCS);
    below(
        &mut draft,
        "20 radial B32 6kA 6/2.5 fixed 15m 1pt ref C N20 E20 \"Feeder\"",
        "Studio board",
        EarthingSystem::Tt,
        &[
            "1 lights RCBO B6 6kA 1.5/1.0 12m 3pts ref C N1 E1 \"Studio lights\"",
            "2 radial RCBO B16 6kA 2.5/1.5 legs 4,4 ref C N2 E2 \"Studio sockets\"",
        ],
    );
    draft.read()
}

/// The cottage on its own electrode.
pub fn cottage() -> Job {
    let mut draft = house(4, EarthingSystem::Tt);
    let board = draft.job.installation.boards[0].id;
    let boiler = draft.way("Boiler");
    boiler.device.standard = proof_standard::limits::devices::DeviceStandard::BsEn61009;
    let rcd = proof_job::installation::ResidualDevice {
        id: id(4, 800),
        label: "RCBO, way 5".into(),
        idn_ma: Milliamps(dec!(30)),
        kind: RcdKind::General,
        detects: proof_standard::limits::rcd::RcdType::A,
        standard: String::new(),
        rating_a: None,
    };
    boiler.rcd = Some(rcd.id);
    draft.job.installation.boards.iter_mut().find(|one| one.id == board).unwrap().rcds.push(rcd);
    draft.read()
}

/// The house with panels, a charging point and extra-low voltage lights.
pub fn panels() -> Job {
    let mut draft = house(5, EarthingSystem::TnCS);
    let board = draft.job.installation.boards[0].id;
    draft.ways(
        board,
        20,
        &[
            "9 radial RCBO B32 6kA 6/2.5 fixed 10m 1pt ref C N9 E9 \"Charger\"",
            "10 lights B6 6kA 1.5/1.0 9m 3pts ref C N10 E10 \"Cabinet lights\"",
            "11 radial RCBO B16 6kA 2.5/1.5 fixed 9m 1pt ref C N11 E11 \"Inverter\"",
        ],
    );
    draft.way("Charger").points[0].connected_load = vec![Carried::VehicleChargerDetecting];
    draft.way("Cabinet").band = CircuitVoltage::Selv;
    draft.job.installation.sources = vec![OtherSource {
        id: id(5, 700),
        kind: SourceKind::Solar,
        board: Some(board),
        isolator: "beside the inverter, in the loft".into(),
        notices: Some(true),
        both_ways: Some(true),
    }];
    let mut job = draft.read();
    for event in &mut job.events {
        if let proof_job::site::EventKind::ProvedDead { sources, .. } = &mut event.kind {
            sources.push(id(5, 700));
        }
    }
    job
}
