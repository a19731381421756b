//! Loops, fault current and voltages of the bench beside a general circuit simulator (Debian's ngspice), which shares
//! nothing with it: the network is written down here once more, wire by wire.

use proof_bench::meter::Meter;
use proof_bench::practice::Exercise;
use proof_bench::practice::made::pose;
use proof_bench::rig::grid::Grid;
use proof_bench::rig::stand::RigState;
use proof_bench::rig::terminal::{Terminal, Wire};
use proof_bench::rig::{Bond, Feed, Fitting, Rig, SUPPLY_V, Second, SubBoard, Supply, Way};
use proof_physics::network::description::{Description, OhmPerMetre, Point};
use proof_standard::conductor::Core;
use proof_standard::quantity::Metres;
use proof_standard::shape::Shape;
use std::fmt::Write;

/// A deck of circuits that have nothing in common but the ground.
#[derive(Default)]
struct Deck {
    lines: String,
    asked: usize,
}

/// A rig in use, wire by wire: nodes by name, the star point at 0. `volts` stands across the winding.
fn wires(rig: &Rig, copy: usize, volts: f64, neutral_out: Option<usize>, lamp: Option<(usize, usize)>) -> String {
    let mut out = String::new();
    let mut count = 0;
    let mut put = |a: &str, b: &str, ohm: f64| {
        count += 1;
        let node = |name: &str| if name == "0" { "0".to_owned() } else { format!("c{copy}{name}") };
        writeln!(out, "R{copy}x{count} {} {} {:e}", node(a), node(b), ohm.max(1e-9)).unwrap();
    };
    let (line, neutral) = if rig.supply.reversed { ("busn", "busl") } else { ("busl", "busn") };
    put("high", line, rig.supply.line_ohm);
    put("0", neutral, rig.supply.neutral_ohm);
    put("0", "buse", rig.supply.earth_ohm);
    for bond in &rig.bonds {
        put("buse", "pipe", bond.ohm);
        put("pipe", "0", bond.ground_ohm);
    }
    for (way, of) in rig.ways.iter().enumerate() {
        let name = |core: Core, at: usize| format!("w{way}{}{at}", core.letter());
        for core in Core::ALL {
            let bus = format!("bus{}", core.letter().to_lowercase());
            if core != Core::N || neutral_out != Some(way) {
                put(&bus, &name(core, 0), 1e-9);
                if of.cable.shape == Shape::Ring {
                    put(&bus, &name(core, of.cable.points.len() + 1), 1e-9);
                }
            }
            let per_metre = of.cable.cores.0[core.index()];
            for (at, point) in of.cable.points.iter().enumerate() {
                put(&name(core, at), &name(core, at + 1), per_metre * point.leg.get());
            }
            if let Some(leg) = of.cable.return_leg {
                let last = of.cable.points.len();
                put(&name(core, last), &name(core, last + 1), per_metre * leg.get());
            }
        }
        // Insulation: nothing beside copper, and a way to earth for what would float.
        for [a, b] in [[Core::L, Core::N], [Core::L, Core::E], [Core::N, Core::E]] {
            put(&name(a, 0), &name(b, 0), 2e10);
        }
    }
    if let Some((way, point)) = lamp {
        put(&format!("w{way}L{}", point + 1), &format!("w{way}N{}", point + 1), 900.0);
    }
    writeln!(out, "V{copy} c{copy}high 0 {volts}").unwrap();
    out
}

impl Deck {
    /// Asks for the voltage between two nodes of a copy.
    fn ask(&mut self, circuit: &str, copy: usize, a: &str, b: &str) -> usize {
        self.asked += 1;
        let number = self.asked;
        self.lines.push_str(circuit);
        writeln!(self.lines, "E{number} answer{number} 0 c{copy}{a} c{copy}{b} 1\nRE{number} answer{number} 0 1")
            .unwrap();
        number
    }

    /// Direct current.
    fn run(&self) -> Vec<f64> {
        let value = |answer: &str, said: &str| {
            let name = format!("v({answer}) = ");
            said.lines().find_map(|line| line.strip_prefix(&name)?.trim().parse().ok())
        };
        self.simulated("op", |answer| format!("v({answer})"), value)
    }

    /// Alternating current: magnitudes.
    fn turning(&self) -> Vec<f64> {
        let value = |answer: &str, said: &str| {
            let name = format!("mag(v({answer})) = ");
            said.lines().find_map(|line| line.strip_prefix(&name)?.trim().parse().ok())
        };
        self.simulated("ac lin 1 50 50", |answer| format!("mag(v({answer}))"), value)
    }

    fn simulated(
        &self,
        analysis: &str,
        print: impl Fn(&str) -> String,
        value: impl Fn(&str, &str) -> Option<f64>,
    ) -> Vec<f64> {
        let mut deck = format!("bench\n{}.options gmin=1e-15 reltol=1e-7\n.control\n{analysis}\n", self.lines);
        let answer = |number: usize| format!("answer{number}");
        for number in 1..=self.asked {
            writeln!(deck, "print {}", print(&answer(number))).unwrap();
        }
        deck.push_str("quit\n.endc\n.end\n");
        let name = format!("proof-bench-{}-{}.cir", std::process::id(), analysis.len());
        let file = std::env::temp_dir().join(name);
        std::fs::write(&file, deck).unwrap();
        let out = std::process::Command::new("ngspice").arg("-b").arg(&file).output().expect("ngspice is installed");
        std::fs::remove_file(&file).unwrap();
        let said = String::from_utf8_lossy(&out.stdout);
        let of = |number| value(&answer(number), &said).unwrap_or_else(|| panic!("no answer {number} in {said}"));
        (1..=self.asked).map(of).collect()
    }
}

fn at(name: &str) -> Terminal {
    Terminal::from_key(name).unwrap()
}

#[test]
#[ignore = "wants ngspice: the check installs it and runs this"]
fn loops_and_voltages_agree_with_a_circuit_simulator() {
    let mut deck = Deck::default();
    let mut expected: Vec<(usize, f64, String)> = Vec::new();
    let mut copy = 0;
    for seed in 0..25 {
        let mut rig = pose(Exercise::ProveDead, seed).unwrap().bench.rig;
        rig.supply.reversed = seed % 3 == 0;
        let mut stand = RigState::in_use(&rig);
        stand.lamps.clear();
        let grid = Grid::new(&rig, &stand, 0.0);
        // Loops: one ampere through, with the winding a link.
        for (way, of) in rig.ways.iter().enumerate() {
            for point in [0, of.cable.points.len() - 1] {
                for other in ["N", "E"] {
                    copy += 1;
                    let mut circuit = wires(&rig, copy, 0.0, None, None);
                    let [a, b] = [format!("w{way}L{}", point + 1), format!("w{way}{other}{}", point + 1)];
                    writeln!(circuit, "I{copy} c{copy}{b} c{copy}{a} 1").unwrap();
                    let ohm = grid
                        .ohm(
                            at(&format!("w{}p{}-L", way + 1, point + 1)),
                            at(&format!("w{}p{}-{other}", way + 1, point + 1)),
                        )
                        .unwrap();
                    expected.push((deck.ask(&circuit, copy, &a, &b), ohm, format!("loop {a} {b} seed {seed}")));
                }
            }
        }
        // Voltages: healthy or reversed; and with a neutral out and a lamp in.
        for (out, lamp) in [(None, None), (Some(1), Some((1, 0)))] {
            copy += 1;
            let circuit = wires(&rig, copy, SUPPLY_V, out, lamp);
            let mut stand = stand.clone();
            stand.out.extend(out.map(|way| (way, Wire::N)));
            stand.lamps.extend(lamp);
            let grid = Grid::new(&rig, &stand, 0.0);
            for (first, [a, b]) in [["L", "N"], ["L", "E"], ["N", "E"]].into_iter().enumerate() {
                let volts = grid.energised().between(at(&format!("w2p1-{a}")), at(&format!("w2p1-{b}")));
                // One circuit, asked three times.
                let wires = if first == 0 { circuit.as_str() } else { "" };
                let number = deck.ask(wires, copy, &format!("w1{a}1"), &format!("w1{b}1"));
                expected.push((number, volts, format!("volts {a}{b} seed {seed} {out:?}")));
            }
        }
    }
    let answers = deck.run();
    assert!(expected.len() > 400, "{}", expected.len());
    for (number, wanted, what) in expected {
        let said = answers[number - 1].abs();
        assert!((said - wanted).abs() < 1e-4 + wanted * 1e-4, "{what}: {said} and {wanted}");
    }
}

/// Ohms of a place of the wide deck, drawn anew for each copy.
struct Drawn {
    line: f64,
    neutral: f64,
    earth: f64,
    shared: f64,
    ground: f64,
    feeder_m: f64,
    way_m: f64,
    second: Option<f64>,
}

const CORES: [f64; 3] = [0.00741, 0.00741, 0.0121];

/// Three lines; way 1 on L1 feeds a board on which way 2 has a lamp and perhaps a second source; ways 3 and 4 on L2 and
/// L3 with a lamp each; a pipe that is bonded. Wire by wire, for the simulator.
fn wide_deck(drawn: &Drawn, copy: usize) -> String {
    let mut out = String::new();
    let mut count = 0;
    let mut put = |a: &str, b: &str, ohm: f64| {
        count += 1;
        let node = |name: &str| if name == "0" { "0".to_owned() } else { format!("c{copy}{name}") };
        writeln!(out, "R{copy}x{count} {} {} {:e}", node(a), node(b), ohm.clamp(1e-9, 1e15)).unwrap();
    };
    for line in 1..=3 {
        put(&format!("high{line}"), &format!("bus{line}"), drawn.line);
    }
    put("0", "shared", drawn.shared);
    put("shared", "busn", drawn.neutral);
    put("shared", "buse", drawn.earth);
    put("buse", "pipe", 0.02);
    put("pipe", "0", drawn.ground);
    let lines = ["1", "n", "e"];
    for (core, bus) in lines.into_iter().enumerate() {
        put(&format!("bus{bus}"), &format!("sub{core}"), CORES[core] * drawn.feeder_m);
        put(&format!("sub{core}"), &format!("w2{core}"), CORES[core] * drawn.way_m);
        for (way, line) in [(3, "2"), (4, "3")] {
            let bus = if core == 0 { line } else { bus };
            put(&format!("bus{bus}"), &format!("w{way}{core}"), CORES[core] * drawn.way_m);
        }
    }
    for way in [2, 3, 4] {
        put(&format!("w{way}0"), &format!("w{way}1"), 900.0);
    }
    // Insulation keeps nothing afloat.
    put("bus1", "buse", 2e10);
    put("busn", "buse", 2e10);
    for line in 1..=3 {
        let turn = -120 * (line - 1);
        writeln!(out, "V{copy}l{line} c{copy}high{line} 0 DC 0 AC 230 {turn}").unwrap();
    }
    if let Some(ohm) = drawn.second {
        writeln!(out, "V{copy}s c{copy}own c{copy}w21 DC 0 AC 230 0").unwrap();
        writeln!(out, "R{copy}own c{copy}own c{copy}w20 {ohm:e}\nR{copy}tie c{copy}w21 c{copy}w22 1e-9").unwrap();
    }
    out
}

/// The same on the bench.
fn wide_rig(drawn: &Drawn) -> Rig {
    let way = |label: &str, metres: f64, fitting: Fitting| {
        let point = Point { id: "p".into(), spur_from: None, leg: Metres::new(metres).unwrap() };
        let cores = OhmPerMetre(CORES);
        let cable =
            Description { shape: Shape::Radial, cores, points: vec![point], return_leg: None, faults: Vec::new() };
        Way::new(label, "B6", cable, vec![fitting])
    };
    let supply = Supply {
        line_ohm: drawn.line,
        neutral_ohm: drawn.neutral,
        earth_ohm: drawn.earth,
        shared_ohm: drawn.shared,
        reversed: false,
        three_phase: true,
        turns_back: false,
    };
    let mut ways = vec![way("feeder", drawn.feeder_m, Fitting::Board)];
    ways.extend((0..3).map(|_| way("lights", drawn.way_m, Fitting::Lamp)));
    ways[1].board = 1;
    ways[2].feed = Feed::One(Wire::L2);
    ways[3].feed = Feed::One(Wire::L3);
    let bond = Bond { to: "water".into(), ohm: 0.02, ground_ohm: drawn.ground };
    let mut rig = Rig::new(supply, ways, vec![bond]);
    rig.boards.push(SubBoard { name: "sub".into(), fed_by: 0 });
    rig.second = drawn.second.map(|ohm| Second { name: "own".into(), way: 1, ohm });
    rig
}

#[test]
#[ignore = "wants ngspice: the check installs it and runs this"]
fn three_lines_sub_boards_and_lost_conductors_agree_with_a_circuit_simulator() {
    let mut deck = Deck::default();
    let mut expected: Vec<(usize, f64, String)> = Vec::new();
    let mut meter = Meter::new(17);
    for copy in 1..=60 {
        let lost = copy % 3;
        let drawn = Drawn {
            line: meter.between(0.05, 0.4),
            neutral: if lost == 1 { f64::INFINITY } else { meter.between(0.05, 0.4) },
            earth: meter.between(0.05, 0.4),
            shared: if lost == 2 { f64::INFINITY } else { meter.between(0.01, 0.1) },
            ground: meter.between(5.0, 200.0),
            feeder_m: meter.between(5.0, 60.0),
            way_m: meter.between(5.0, 40.0),
            second: (copy % 2 == 0).then(|| meter.between(0.2, 1.0)),
        };
        let rig = wide_rig(&drawn);
        let grid = Grid::new(&rig, &RigState::in_use(&rig), 0.0);
        let on = grid.energised();
        let pairs = [
            (("w2p1-L", "w20"), ("w2p1-N", "w21")),
            (("w2p1-L", "w20"), ("w2p1-E", "w22")),
            (("w2p1-N", "w21"), ("w2p1-E", "w22")),
            (("w3p1-L", "w30"), ("w3p1-N", "w31")),
            (("w4p1-L", "w40"), ("w4p1-N", "w41")),
            (("w3p1-L", "w30"), ("w2p1-L", "w20")),
            (("sub1-L", "sub0"), ("bar-L3", "bus3")),
            (("metal-1", "pipe"), ("in-N", "busn")),
        ];
        for (first, ((a, one), (b, other))) in pairs.into_iter().enumerate() {
            let wires = if first == 0 { wide_deck(&drawn, copy) } else { String::new() };
            let number = deck.ask(&wires, copy, one, other);
            expected.push((number, on.between(at(a), at(b)), format!("{a} to {b}, copy {copy}")));
        }
    }
    let answers = deck.turning();
    for (number, wanted, what) in expected {
        let said = answers[number - 1];
        assert!((said - wanted).abs() < 1e-3 + wanted * 1e-4, "{what}: {said} and {wanted}");
    }
}
