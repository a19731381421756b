//! Loops, fault current and voltages of the bench beside a general circuit simulator (Debian's ngspice), which shares
//! nothing with it: the network is written down here once more, wire by wire.

use proof_bench::practice::Exercise;
use proof_bench::practice::made::pose;
use proof_bench::rig::grid::Grid;
use proof_bench::rig::stand::Stand;
use proof_bench::rig::terminal::Terminal;
use proof_bench::rig::{Rig, SUPPLY_V};
use proof_core::conductor::Core;
use proof_core::installation::Shape;
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

    fn run(&self) -> Vec<f64> {
        let mut deck = format!("bench\n{}.options gmin=1e-15 reltol=1e-7\n.control\nop\n", self.lines);
        for number in 1..=self.asked {
            writeln!(deck, "print v(answer{number})").unwrap();
        }
        deck.push_str("quit\n.endc\n.end\n");
        let file = std::env::temp_dir().join(format!("proof-bench-{}.cir", std::process::id()));
        std::fs::write(&file, deck).unwrap();
        let out = std::process::Command::new("ngspice").arg("-b").arg(&file).output().expect("ngspice is installed");
        std::fs::remove_file(&file).unwrap();
        let said = String::from_utf8_lossy(&out.stdout);
        let value = |number: usize| {
            let name = format!("v(answer{number}) = ");
            let line = said.lines().find_map(|line| line.strip_prefix(&name));
            line.unwrap_or_else(|| panic!("no answer {number} in {said}")).trim().parse().unwrap()
        };
        (1..=self.asked).map(value).collect()
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
        let mut stand = Stand::in_use(&rig);
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
            stand.out.extend(out.map(|way| (way, Core::N)));
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
