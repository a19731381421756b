//! Good jobs drawn at random: what a competent designer could have drawn and a careful electrician
//! read, with the log in order. Supplies of all three earthing arrangements, one or three phases, a
//! board below the first, and the house rules that change what is read.

use jiff::{SignedDuration, Timestamp};
use proof_bench::demo;
use proof_bench::meter::{Meter, shown};
use proof_bench::site::{Visit, read_circuit};
use proof_job::installation::inspection::{InspectionAnswer, InspectionOutcome, Item, asked};
use proof_job::installation::{
    Board, Bond, Circuit, Feed, Feeds, Installation, Lines, MainSwitch, Nature, ResidualDevice, Supply, shorthand,
};
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Key, Place, Stage, Step, Subject, Test, Value};
use proof_job::site::{Event, EventKind};
use proof_physics::network::description::Fault;
use proof_standard::calc::fault_current::FaultCurrentMethod;
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::house_rules::{ZsLimit, ZsMethod};
use proof_standard::limits::edition::RcdSchool;
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Amps, Metres, Milliamps, SquareMillimetres};
use proof_work::plan::sequence::{board_steps, origin_steps};
use rust_decimal::dec;
use uuid::Uuid;

fn id(seed: u64, what: u64) -> Uuid {
    Uuid::from_u128(u128::from(seed) << 64 | u128::from(what) << 8 | 1)
}

fn legs(meter: &mut Meter, count: usize, most: f64) -> String {
    (0..count).map(|_| format!("{:.1}", meter.between(1.5, most))).collect::<Vec<_>>().join(",")
}

/// A line of shorthand, one that a competent designer could have written.
fn line(way: u64, meter: &mut Meter, residual: bool) -> String {
    let points = meter.between(2.0, 13.0) as usize;
    let breaker = if residual { "RCBO B16" } else { "B16" };
    match (meter.share() * 6.0) as u8 {
        0 => {
            let legs = legs(meter, points + 1, 7.0);
            format!("{way} ring RCBO B32 6kA 2.5/1.5 legs {legs} ref C N{way} E{way} \"Ring {way}\"")
        }
        1 => {
            format!("{way} ring RCBO B32 6kA 4/1.5 {}m {points}pts ref C N{way} E{way} \"Ring {way}\"", points * 6)
        }
        2 => {
            let legs = legs(meter, points.min(6), 6.0);
            format!("{way} radial RCBO B20 6kA 2.5/1.5 legs {legs} ref C N{way} E{way} \"Radial {way}\"")
        }
        3 => {
            let metres = points * 4;
            format!("{way} lights RCBO B6 6kA 1.5/1.0 {metres}m {points}pts ref 100 N{way} E{way} \"Lights {way}\"")
        }
        4 => {
            format!("{way} radial {breaker} 6kA 2.5/1.5 fixed {}m 1pt ref C N{way} E{way} \"Fixed {way}\"", points + 4)
        }
        _ => {
            format!("{way} radial RCBO C16 6kA 4/1.5 fixed {}m 1pt ref C N{way} E{way} \"Machine {way}\"", points + 4)
        }
    }
}

fn board(seed: u64, number: u64, system: EarthingSystem, lines: Lines, fed_by: Feed) -> Board {
    blank_board(id(seed, 1000 + number), &format!("Board {number}"), system, lines, fed_by)
}

/// A board without circuits.
pub fn blank_board(id: Uuid, name: &str, system: EarthingSystem, lines: Lines, fed_by: Feed) -> Board {
    Board {
        id,
        name: name.into(),
        location: "Loft".into(),
        fed_by,
        system,
        lines,
        main_switch: MainSwitch {
            kind: "BS EN 60947-3 switch".into(),
            poles: Some(if lines == Lines::Three { 4 } else { 2 }),
            rating_a: Some(Amps(dec!(100))),
            ..MainSwitch::default()
        },
        rcds: Vec::new(),
        parallel_earth: Some(false),
        conditional_ka: None,
        surge: String::new(),
    }
}

/// Whether the sub-board and the circuits of a good job are as a test wants them.
#[derive(Debug, Clone, Copy, Default)]
pub struct Wanted {
    /// A board below the first.
    pub below: bool,
    /// Five times as well as one time.
    pub series: bool,
    /// A supply with an electrode of its own.
    pub electrode: bool,
}

fn described(seed: u64, wanted: Wanted) -> Job {
    let mut job = demo::jobs().swap_remove(0);
    let mut meter = Meter::new(seed ^ 0xdeed);
    let system = if wanted.electrode {
        EarthingSystem::Tt
    } else {
        [EarthingSystem::TnCS, EarthingSystem::TnS, EarthingSystem::Tt][(meter.share() * 3.0) as usize]
    };
    let three = meter.share() < 0.3;
    let lines = if three { Lines::Three } else { Lines::Single };
    job.id = id(seed, 1);
    job.readings.clear();
    job.events.clear();
    let mut main = board(seed, 1, system, lines, Feed::Supply);
    let mut circuits: Vec<Circuit> = Vec::new();
    let mut add = |text: &str, board: &mut Board, number: u64| {
        let (circuit, rcd) = shorthand::parse(text).unwrap().build(board.id, id(seed, number));
        board.rcds.extend(rcd);
        circuits.push(circuit);
    };
    for way in 1..=3 + (meter.share() * 3.0) as u64 {
        add(&line(way, &mut meter, system == EarthingSystem::Tt), &mut main, way);
    }
    let mut boards = vec![];
    if wanted.below || meter.share() < 0.4 {
        let metres = meter.between(6.0, 20.0) as u64;
        let device = if system == EarthingSystem::Tt { "RCBO C32" } else { "B40" };
        let cable = if system == EarthingSystem::Tt { "6/2.5" } else { "10/4" };
        let feeder = format!("20 radial {device} 6kA {cable} fixed {metres}m 1pt ref C N20 E20 \"Garden board\"");
        add(&feeder, &mut main, 20);
        let own = system == EarthingSystem::TnCS && meter.share() < 0.5;
        let below_system = if own { EarthingSystem::Tt } else { system };
        let mut below = board(seed, 2, below_system, Lines::Single, Feed::Circuit { circuit: id(seed, 20) });
        for way in 1..=2 {
            add(&line(way, &mut meter, below_system == EarthingSystem::Tt), &mut below, 40 + way);
        }
        boards.push(below);
    }
    for circuit in &mut circuits {
        if circuit.description == "Garden board" {
            circuit.feeds = Feeds::Board;
            // One device in the chain is delayed, so that the boards below are not taken with it.
            for rcd in main.rcds.iter_mut().filter(|rcd| Some(rcd.id) == circuit.rcd) {
                *rcd = ResidualDevice {
                    idn_ma: Milliamps(dec!(100)),
                    kind: proof_standard::limits::rcd::RcdKind::Selective,
                    ..rcd.clone()
                };
            }
        }
    }
    boards.insert(0, main);
    let bond = |to: &str, metres: f64| Bond {
        id: id(seed, 2000 + to.len() as u64),
        to: to.into(),
        supplementary: false,
        mm2: Some(SquareMillimetres::literal(10.0)),
        length_m: Metres::new(metres).ok(),
    };
    let supply = Supply {
        system,
        lines,
        electrode: if system == EarthingSystem::Tt { "rod, 1.2 m, beside the porch".into() } else { String::new() },
        bonds: vec![bond("gas", meter.between(2.0, 20.0).round()), bond("water", meter.between(2.0, 20.0).round())],
        ..job.installation.supply.clone()
    };
    let mut rules = job.installation.house_rules.clone();
    rules.rcd_school = (wanted.series || meter.share() < 0.4).then_some(RcdSchool::Series);
    rules.zs_limit = if meter.share() < 0.3 { ZsLimit::Temperature } else { ZsLimit::EightyPercent };
    rules.zs_method = if meter.share() < 0.2 { ZsMethod::Summed } else { ZsMethod::Measured };
    rules.fault_school = [FaultCurrentMethod::Double, FaultCurrentMethod::LineLine, FaultCurrentMethod::Root3]
        [(meter.share() * 2.99) as usize];
    job.installation =
        Installation { house_rules: rules, nature: Nature::New, supply, boards, circuits, ..job.installation.clone() };
    job
}

struct Worker {
    job: Job,
    visit: Visit,
    meter: Meter,
    count: u64,
}

impl Worker {
    fn log(&mut self, kind: EventKind) {
        self.visit.clock = self.visit.clock.checked_add(SignedDuration::from_secs(61)).unwrap();
        self.count += 1;
        let id = Uuid::new_v5(&self.job.id, format!("event {}", self.count).as_bytes());
        self.job.events.push(Event { id, at: self.visit.clock, by: "Idris Kell".into(), kind });
    }

    fn read(&mut self, step: &Step, value: Value) {
        self.count += 1;
        let id = Uuid::new_v5(&self.job.id, format!("reading {}", self.count).as_bytes());
        let reading = self.visit.reading(step, value, id);
        self.job.readings.push(reading);
    }

    fn circuits(&mut self, board: Uuid, faults: &impl Fn(&Circuit) -> Vec<Fault>, wanted: impl Fn(&Step) -> bool) {
        for circuit in self.job.installation.circuits.clone().iter().filter(|circuit| circuit.board == board) {
            let (visit, meter) = (&mut self.visit, &mut self.meter);
            let readings = read_circuit(&self.job.installation, circuit, faults(circuit), visit, meter, &wanted);
            self.job.readings.extend(readings);
        }
    }

    fn origin(&mut self, truth: &Truth) {
        let board = self.job.installation.boards[0].id;
        let steps = origin_steps(&self.job.installation);
        self.log(EventKind::SupplyExposed { board });
        for step in steps.iter().filter(|step| matches!(step.key.test, Test::Ze | Test::SupplyPolarity)) {
            let value = match step.key.test {
                Test::Ze => Value::Number(shown(truth.ze + 0.01 * self.meter.share(), 2)),
                _ => Value::Pass,
            };
            self.read(step, value);
        }
        self.log(EventKind::EarthRefitted { board });
        let mut lower = 1.0;
        for step in steps.iter().filter(|step| step.stage == Stage::Origin) {
            if step.key.test == Test::FaultCurrent {
                lower = 0.6 + 0.35 * self.meter.share();
            }
            let behind = match step.key.pair.map(Pair::both) {
                Some((_, Conductor::E)) => truth.ze * lower,
                Some((_, Conductor::N)) => truth.neutral,
                _ => 2.0 * truth.line,
            };
            let volts = if step.key.pair.is_some_and(|pair| pair.both().0 == Conductor::L) { 0.23 } else { 0.4 };
            let value = match step.key.test {
                Test::Ze | Test::SupplyPolarity => continue,
                Test::FaultCurrent => Value::Number(shown(volts / behind, 2)),
                // The loop is read with the current, of one and the same path.
                Test::Zs | Test::LineNeutralLoop => Value::Number(shown(behind, 2)),
                _ => Value::Number(shown(truth.ze, 1)),
            };
            self.read(step, value);
        }
    }

    fn board_as_a_whole(&mut self, board: &Board) {
        for step in board_steps(&self.job.installation, board).iter().filter(|step| step.required) {
            let value = match step.key.test {
                Test::Electrode => Value::Number(dec!(41.3)),
                _ => Value::Pass,
            };
            self.read(step, value);
        }
    }
}

struct Truth {
    ze: f64,
    neutral: f64,
    line: f64,
}

/// A good job, whole: described, isolated, read dead, energised, read live.
pub fn good_job(seed: u64, wanted: Wanted) -> Job {
    read(described(seed, wanted), seed, |_| vec![])
}

/// Reads a described job in order, with faults in its circuits.
pub fn read(mut job: Job, seed: u64, faults: impl Fn(&Circuit) -> Vec<Fault>) -> Job {
    let answered =
        |item: &Item| InspectionAnswer { item: item.key.into(), outcome: InspectionOutcome::Yes, note: String::new() };
    job.installation.inspection = asked(&job.installation).map(answered).collect();
    let mut meter = Meter::new(seed ^ 0x5eed);
    let system = job.installation.supply.system;
    let neutral = meter.between(0.12, 0.30);
    let truth = Truth {
        ze: if system == EarthingSystem::Tt { meter.between(20.0, 150.0) } else { meter.between(0.12, 0.26) },
        neutral,
        line: 0.45 * neutral,
    };
    let visit = Visit {
        instrument: demo::instruments()[0].id,
        read_by: "Idris Kell".into(),
        entered_by: "Maud Ferrow".into(),
        clock: Timestamp::from_second(1_790_000_000 + i64::try_from(seed).unwrap_or(0)).unwrap(),
        ze: truth.ze,
        neutral: truth.neutral,
    };
    let mut worker = Worker { job, visit, meter, count: 0 };
    let boards = worker.job.installation.boards.clone();
    for board in &boards {
        let (board, circuits, lines) = (board.id, vec![], board.lines);
        worker.log(EventKind::Isolated {
            board,
            circuits,
            lock: "key 4".into(),
            paperwork: String::new(),
            neutral: false,
        });
        let dead = EventKind::proved_dead(board, lines, "VI-1");
        worker.log(dead);
    }
    for step in origin_steps(&worker.job.installation).iter().filter(|step| step.stage == Stage::Bonding) {
        let bond = worker.job.installation.supply.bonds.iter();
        let own = bond
            .clone()
            .find(|bond| step.key.subject == Subject::Bond { bond: bond.id })
            .and_then(|bond| bond.length_m)
            .map_or(0.004, |metres| metres.get() * 1.83e-3);
        let value = Value::Number(worker.meter.clipped(own));
        worker.read(step, value);
    }
    for board in &boards {
        worker.circuits(board.id, &faults, |step| step.stage.is_dead());
    }
    worker.origin(&truth);
    for board in &boards {
        if let Feed::Circuit { circuit } = board.fed_by {
            let feeder = worker.job.installation.circuit(circuit).unwrap().clone();
            let settled = CurrentReadings::new(&worker.job.readings, &worker.job.events);
            let highest =
                |test| proof_job::reading::highest(&feeder, &settled, test).and_then(|reading| reading.value.float());
            let zs = settled.float(&Key::on_circuit(feeder.id, Place::Board, Test::Zs));
            let own = board.system == EarthingSystem::Tt && worker.job.installation.supply.system != EarthingSystem::Tt;
            worker.visit.ze = if own { 41.3 } else { zs.unwrap_or(truth.ze + highest(Test::R1R2).unwrap_or(0.0)) };
            worker.visit.neutral = truth.neutral + highest(Test::R1Rn).unwrap_or(0.0);
        }
        worker.log(EventKind::Energised { board: board.id, circuits: vec![] });
        worker.circuits(board.id, &faults, |step| !step.stage.is_dead());
        worker.board_as_a_whole(board);
    }
    worker.job
}
