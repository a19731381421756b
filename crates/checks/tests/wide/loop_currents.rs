//! A slow independent answer to what an ohmmeter reads: loop currents instead of node voltages.
//!
//! It shares no code with the solver. Joined nodes are found by its own flood, a spanning tree
//! carries the unit current, and the currents of the remaining loops are relaxed one by one until
//! the power is least (Thomson's principle): R is the power at a current of 1 A.

use proof_physics::network::circuit::expect;
use proof_physics::network::description::{Description, Fault, OhmPerMetre, Point, SegmentName};
use proof_standard::conductor::Core;
use proof_standard::quantity::{Celsius, Metres, Ohms, SquareMillimetres};
use proof_standard::shape::Shape;
use proptest::prelude::*;
use std::collections::{HashMap, VecDeque};

type Wire = (String, String, f64);

/// Names joined by wires without resistance take the name of the first.
fn merge(wires: &[Wire]) -> HashMap<String, String> {
    let mut names: HashMap<String, String> = HashMap::new();
    for (a, b, _) in wires {
        names.entry(a.clone()).or_insert_with(|| a.clone());
        names.entry(b.clone()).or_insert_with(|| b.clone());
    }
    loop {
        let mut changed = false;
        for (a, b, ohm) in wires {
            let (na, nb) = (names[a].clone(), names[b].clone());
            if *ohm == 0.0 && na != nb {
                for name in names.values_mut().filter(|name| **name == nb) {
                    name.clone_from(&na);
                }
                changed = true;
            }
        }
        if !changed {
            return names;
        }
    }
}

fn resistance(wires: &[Wire], from: &str, to: &str) -> Option<f64> {
    let names = merge(wires);
    let name = |node: &str| names.get(node).cloned().unwrap_or_else(|| node.to_owned());
    let (from, to) = (name(from), name(to));
    if from == to {
        return Some(0.0);
    }
    let edges: Vec<(String, String, f64)> = wires
        .iter()
        .filter(|(_, _, ohm)| *ohm > 0.0 && ohm.is_finite())
        .map(|(a, b, ohm)| (name(a), name(b), *ohm))
        .filter(|(a, b, _)| a != b)
        .collect();
    // A spanning tree of everything reached from `from`, breadth first.
    let mut parent: HashMap<String, Option<usize>> = HashMap::from([(from.clone(), None)]);
    let mut queue = VecDeque::from([from.clone()]);
    let mut tree = vec![false; edges.len()];
    while let Some(node) = queue.pop_front() {
        for (index, (a, b, _)) in edges.iter().enumerate() {
            let other = if *a == node {
                b
            } else if *b == node {
                a
            } else {
                continue;
            };
            if !parent.contains_key(other) {
                parent.insert(other.clone(), Some(index));
                tree[index] = true;
                queue.push_back(other.clone());
            }
        }
    }
    parent.get(&to)?;
    // The signed edges on the tree's way from a node to the root.
    let way = |node: &str| {
        let mut signs: HashMap<usize, f64> = HashMap::new();
        let mut at = node.to_owned();
        while let Some(Some(index)) = parent.get(&at) {
            let (a, b, _) = &edges[*index];
            // Current from root to leaf: along a→b when b is the child.
            *signs.entry(*index).or_default() += if *b == at { 1.0 } else { -1.0 };
            at = if *b == at { a.clone() } else { b.clone() };
        }
        signs
    };
    let mut current = vec![0.0; edges.len()];
    for (index, sign) in way(&to) {
        current[index] += sign;
    }
    let mut loops: Vec<Vec<(usize, f64)>> = Vec::new();
    for (index, (a, b, _)) in edges.iter().enumerate() {
        if tree[index] || !parent.contains_key(a) {
            continue;
        }
        // Root → a, across, b → root.
        let mut signs: HashMap<usize, f64> = way(a);
        for (edge, sign) in way(b) {
            *signs.entry(edge).or_default() -= sign;
        }
        *signs.entry(index).or_default() += 1.0;
        loops.push(signs.into_iter().filter(|(_, sign)| *sign != 0.0).collect());
    }
    for _ in 0..200_000 {
        let mut moved = 0.0_f64;
        for mesh in &loops {
            let drop: f64 = mesh.iter().map(|(edge, sign)| sign * current[*edge] * edges[*edge].2).sum();
            let around: f64 = mesh.iter().map(|(edge, _)| edges[*edge].2).sum();
            let change = -drop / around;
            moved = moved.max(change.abs());
            for (edge, sign) in mesh {
                current[*edge] += sign * change;
            }
        }
        if moved < 1e-13 {
            break;
        }
    }
    Some(current.iter().zip(&edges).map(|(amps, (_, _, ohm))| amps * amps * ohm).sum())
}

const LETTERS: [&str; 3] = ["L", "N", "E"];

/// The wires of a described circuit, written down again from the contract.
fn wires(d: &Description, linked: Option<usize>) -> Vec<Wire> {
    let mut segments: Vec<(String, String, f64, String, Option<String>)> = Vec::new(); // from, to, metres, into, after
    let mut at = "board".to_owned();
    for point in d.points.iter().filter(|p| p.spur_from.is_none()) {
        segments.push((at.clone(), point.id.clone(), point.leg.get(), point.id.clone(), Some(at.clone())));
        at.clone_from(&point.id);
    }
    if let Some(leg) = d.return_leg {
        segments.push((at.clone(), "leg2".into(), leg.get(), "board".into(), Some(at)));
    }
    for point in &d.points {
        if let Some(from) = &point.spur_from {
            segments.push((from.clone(), point.id.clone(), point.leg.get(), point.id.clone(), None));
        }
    }
    let here = |segment: &(String, String, f64, String, Option<String>), name: &SegmentName| match name {
        SegmentName::Into(id) => segment.3 == *id,
        SegmentName::After(id) => segment.4.as_deref() == Some(id),
    };
    let mut wires = Vec::new();
    for segment in &segments {
        let mut ohm = d.cores.0.map(|per_metre| per_metre * segment.2);
        let mut arrives = [0, 1, 2];
        for fault in &d.faults {
            match fault {
                Fault::HighResistanceJoint { conductor, segment: name, ohm: extra } if here(segment, name) => {
                    ohm[conductor.index()] += extra.get();
                }
                Fault::Open { conductor, segment: name } if here(segment, name) => {
                    ohm[conductor.index()] = f64::INFINITY;
                }
                Fault::Cross { conductors: [a, b], segment: name } if here(segment, name) => {
                    arrives.swap(a.index(), b.index())
                }
                _ => {}
            }
        }
        for core in 0..3 {
            wires.push((
                format!("{}.{}", segment.0, LETTERS[core]),
                format!("{}.{}", segment.1, LETTERS[arrives[core]]),
                ohm[core],
            ));
        }
    }
    for fault in &d.faults {
        match fault {
            Fault::Bridge { from, to, leg } => {
                for (core, letter) in LETTERS.iter().enumerate() {
                    wires.push((format!("{from}.{letter}"), format!("{to}.{letter}"), d.cores.0[core] * leg.get()));
                }
            }
            Fault::ParallelEarth { between: [a, b], ohm } => {
                wires.push((format!("{a}.E"), format!("{b}.E"), ohm.get()))
            }
            _ => {}
        }
    }
    if let Some(other) = linked {
        let own = d.faults.contains(&Fault::OwnLeg);
        let x = LETTERS[other];
        match (d.shape, own) {
            (Shape::Radial, _) => wires.push(("board.L".into(), format!("board.{x}"), 0.0)),
            (Shape::Ring, false) => {
                wires.push(("board.L".into(), format!("leg2.{x}"), 0.0));
                wires.push(("leg2.L".into(), format!("board.{x}"), 0.0));
            }
            (Shape::Ring, true) => {
                wires.push(("board.L".into(), format!("board.{x}"), 0.0));
                wires.push(("leg2.L".into(), format!("leg2.{x}"), 0.0));
            }
        }
    }
    wires
}

fn slow_point(d: &Description, id: &str, other: usize) -> Option<f64> {
    let mut terminals = [0, 1, 2];
    let mut contact = 0.0;
    for fault in &d.faults {
        match fault {
            Fault::Swap { at, conductors: [a, b] } if at == id => terminals.swap(a.index(), b.index()),
            Fault::Contact { at, ohm } if at == id => contact += ohm.map_or(f64::INFINITY, Ohms::get),
            _ => {}
        }
    }
    let node = |terminal: usize| format!("{id}.{}", LETTERS[terminals[terminal]]);
    let ohm = resistance(&wires(d, Some(other)), &node(0), &node(other))? + contact;
    ohm.is_finite().then_some(ohm)
}

fn close(fast: Option<f64>, slow: Option<f64>) -> bool {
    match (fast, slow) {
        (None, None) => true,
        (Some(a), Some(b)) => (a - b).abs() <= 1e-7 * (1.0 + b.abs()),
        _ => false,
    }
}

fn cores() -> OhmPerMetre {
    let mm2 = SquareMillimetres::literal;
    OhmPerMetre::copper([mm2(2.5), mm2(2.5), mm2(1.5)], Celsius::literal(20.0)).unwrap()
}

fn core() -> impl Strategy<Value = Core> {
    prop_oneof![Just(Core::L), Just(Core::N), Just(Core::E)]
}

/// Circuits of the contract: rings and radials, spurs of spurs, zero lengths, several faults.
fn described() -> impl Strategy<Value = Description> {
    let points = prop::collection::vec(
        (0.0..12.0_f64, prop::option::weighted(0.3, any::<prop::sample::Index>()), prop::bool::weighted(0.1)),
        1..7,
    );
    let fault = (
        0..9_u8,
        any::<prop::sample::Index>(),
        any::<prop::sample::Index>(),
        core(),
        core(),
        0.0..1.5_f64,
        any::<bool>(),
    );
    (any::<bool>(), points, 0.0..12.0_f64, prop::collection::vec(fault, 0..4)).prop_map(|(ring, legs, back, faults)| {
        let mut points: Vec<Point> = Vec::new();
        for (index, (leg, spur, zero)) in legs.iter().enumerate() {
            let spur_from = spur.filter(|_| index > 0).map(|at| points[at.index(index)].id.clone());
            let leg = Metres::new(if *zero { 0.0 } else { (leg * 100.0).round() / 100.0 }).unwrap();
            points.push(Point { id: format!("p{index}"), spur_from, leg });
        }
        let mains: Vec<String> = points.iter().filter(|p| p.spur_from.is_none()).map(|p| p.id.clone()).collect();
        let mut used: Vec<String> = Vec::new();
        let mut list = Vec::new();
        for (kind, a, b, c, other, ohm, flag) in faults {
            let id = |at: &prop::sample::Index| points[at.index(points.len())].id.clone();
            let segment = if flag || mains.is_empty() {
                SegmentName::Into(id(&a))
            } else if ring {
                SegmentName::After(mains[a.index(mains.len())].clone())
            } else {
                SegmentName::After("board".into())
            };
            let ohms = Ohms::new((ohm * 1000.0).round() / 1000.0).unwrap();
            let pair = if c == other { [Core::L, Core::E] } else { [c, other] };
            let once = format!("{kind}{segment:?}{}", id(&a));
            match kind {
                0 | 1 => list.push(Fault::HighResistanceJoint { conductor: c, segment, ohm: ohms }),
                2 => list.push(Fault::Open { conductor: c, segment }),
                3 if !list.iter().any(|f| matches!(f, Fault::Cross { .. })) => {
                    list.push(Fault::Cross { conductors: pair, segment })
                }
                4 => list.push(Fault::Contact { at: id(&a), ohm: flag.then_some(ohms) }),
                5 if !used.contains(&once) && !list.iter().any(|f| matches!(f, Fault::Swap { .. })) => {
                    list.push(Fault::Swap { at: id(&a), conductors: pair });
                }
                6 => list.push(Fault::Bridge { from: id(&a), to: id(&b), leg: Metres::new(ohm).unwrap() }),
                7 => {
                    let first = if flag { "board".to_owned() } else { id(&a) };
                    list.push(Fault::ParallelEarth { between: [first, id(&b)], ohm: ohms });
                }
                8 if ring => list.push(Fault::OwnLeg),
                _ => {}
            }
            used.push(once);
        }
        Description {
            shape: if ring { Shape::Ring } else { Shape::Radial },
            cores: cores(),
            points,
            return_leg: ring.then(|| Metres::new(back).unwrap()),
            faults: list,
        }
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1500))]

    #[test]
    fn the_network_agrees_with_loop_currents(d in described()) {
        let fast = expect(&d).unwrap();
        for (point, read) in d.points.iter().zip(&fast.points) {
            for (other, value) in [(1, read.r1_rn), (2, read.r1_r2)] {
                let slow = slow_point(&d, &point.id, other);
                prop_assert!(close(value, slow), "{}: {value:?} against {slow:?} in {d:?}", point.id);
            }
        }
        if let (Some(ends), Some(check)) = (fast.end_to_end, fast.board_check) {
            let bare = wires(&d, None);
            for (core, value) in [(0, ends.r1), (1, ends.rn), (2, ends.r2)] {
                let slow = resistance(&bare, &format!("board.{}", LETTERS[core]), &format!("leg2.{}", LETTERS[core]));
                prop_assert!(close(value, slow), "end {core}: {value:?} against {slow:?} in {d:?}");
            }
            for (other, value) in [(1, check.r1_rn), (2, check.r1_r2)] {
                let slow = resistance(&wires(&d, Some(other)), "board.L", &format!("board.{}", LETTERS[other]));
                prop_assert!(close(value, slow), "check {other}: {value:?} against {slow:?} in {d:?}");
            }
        }
    }

    /// Rayleigh: an extra cable never raises a reading, an extra joint never lowers one.
    #[test]
    fn a_link_never_raises_and_a_joint_never_lowers(d in described(), a in any::<prop::sample::Index>(), b in any::<prop::sample::Index>(), core in core()) {
        let id = |at: &prop::sample::Index| d.points[at.index(d.points.len())].id.clone();
        let before = expect(&d).unwrap();
        let mut linked = d.clone();
        linked.faults.push(Fault::Bridge { from: id(&a), to: id(&b), leg: Metres::literal(1.0) });
        let mut jointed = d.clone();
        jointed.faults.push(Fault::HighResistanceJoint { conductor: core, segment: SegmentName::Into(id(&a)), ohm: Ohms::literal(0.4) });
        let (lower, higher) = (expect(&linked).unwrap(), expect(&jointed).unwrap());
        let number = |ohm: Option<f64>| ohm.unwrap_or(f64::INFINITY);
        for ((was, less), more) in before.points.iter().zip(&lower.points).zip(&higher.points) {
            for (was, less, more) in [(was.r1_rn, less.r1_rn, more.r1_rn), (was.r1_r2, less.r1_r2, more.r1_r2)] {
                prop_assert!(number(less) <= number(was) + 1e-9);
                prop_assert!(number(more) >= number(was) - 1e-9);
            }
        }
    }

    /// A healthy radial rises along the run, and a healthy ring reads the same turned round.
    #[test]
    fn radials_rise_and_rings_turn_round(legs in prop::collection::vec(0.01..20.0_f64, 2..12)) {
        let points = |legs: &[f64]| legs.iter().enumerate().map(|(i, leg)| Point { id: format!("p{i}"), spur_from: None, leg: Metres::new(*leg).unwrap() }).collect::<Vec<_>>();
        let radial = Description { shape: Shape::Radial, cores: cores(), points: points(&legs), return_leg: None, faults: vec![] };
        let read = expect(&radial).unwrap();
        prop_assert!(read.end_to_end.is_none() && read.board_check.is_none());
        for pair in read.points.windows(2) {
            prop_assert!(pair[0].r1_rn < pair[1].r1_rn && pair[0].r1_r2 < pair[1].r1_r2);
        }
        let ring = |legs: &[f64]| {
            let (back, out) = legs.split_last().unwrap();
            expect(&Description { shape: Shape::Ring, cores: cores(), points: points(out), return_leg: Some(Metres::new(*back).unwrap()), faults: vec![] }).unwrap()
        };
        let turned: Vec<f64> = legs.iter().rev().copied().collect();
        let (there, back) = (ring(&legs), ring(&turned));
        for (a, b) in there.points.iter().zip(back.points.iter().rev()) {
            prop_assert!(close(a.r1_rn, b.r1_rn) && close(a.r1_r2, b.r1_r2));
        }
    }
}

/// One deck for a general-purpose circuit simulator: every reading is a copy of the circuit with
/// 1 A through it; what it shows in volts is the resistance. A wire without resistance is a
/// millionth of an ohm there, and every node leaks through 1 GΩ, so that nothing floats.
struct Deck {
    lines: Vec<String>,
    asked: usize,
}

const OPEN_ABOVE_V: f64 = 1e6;

impl Deck {
    fn ask(&mut self, wires: &[Wire], from: &str, to: &str) -> usize {
        let copy = self.asked;
        self.asked += 1;
        let node = |name: &str| {
            if name == to { "0".to_owned() } else { format!("c{copy}_{}", name.replace('.', "_").to_lowercase()) }
        };
        let mut nodes: Vec<String> = vec![node(from), node(to)];
        for (index, (a, b, ohm)) in wires.iter().enumerate().filter(|(_, (.., ohm))| ohm.is_finite()) {
            self.lines.push(format!("R{copy}_{index} {} {} {:e}", node(a), node(b), ohm.max(1e-6)));
            nodes.extend([node(a), node(b)]);
        }
        nodes.sort();
        nodes.dedup();
        for (index, name) in nodes.iter().enumerate().filter(|(_, name)| *name != "0") {
            self.lines.push(format!("RL{copy}_{index} {name} 0 1e9"));
        }
        self.lines.push(format!("I{copy} 0 {} 1", node(from)));
        self.lines.push(format!("B{copy} answer{copy} 0 V = v({})", node(from)));
        self.lines.push(format!("RA{copy} answer{copy} 0 1"));
        copy
    }

    /// Volts of every answer.
    fn run(&self) -> Vec<f64> {
        let prints: Vec<String> = (0..self.asked).map(|copy| format!("print v(answer{copy})")).collect();
        let deck = format!(
            "readings\n{}\n.control\nset numdgt=12\nop\n{}\nquit\n.endc\n.end\n",
            self.lines.join("\n"),
            prints.join("\n")
        );
        let file = std::env::temp_dir().join(format!("proof-readings-{}.cir", std::process::id()));
        std::fs::write(&file, deck).unwrap();
        let out = std::process::Command::new("ngspice").arg("-b").arg(&file).output().expect("ngspice is installed");
        std::fs::remove_file(&file).unwrap();
        let said = String::from_utf8_lossy(&out.stdout);
        let value = |copy: usize| {
            let name = format!("v(answer{copy}) = ");
            let line = said.lines().find_map(|line| line.strip_prefix(&name));
            line.unwrap_or_else(|| panic!("no answer {copy} in {said}")).trim().parse().unwrap()
        };
        (0..self.asked).map(value).collect()
    }
}

/// The solver beside a general-purpose circuit simulator (Debian's ngspice), which shares nothing
/// with it: every reading of random circuits with random faults.
#[test]
#[ignore = "wants ngspice: the check installs it and runs this"]
fn the_network_agrees_with_a_circuit_simulator() {
    use proptest::strategy::ValueTree;
    let mut runner = proptest::test_runner::TestRunner::deterministic();
    let mut deck = Deck { lines: Vec::new(), asked: 0 };
    let mut expected: Vec<(usize, Option<f64>, String)> = Vec::new();
    for _ in 0..60 {
        let d = described().new_tree(&mut runner).unwrap().current();
        let said = expect(&d).unwrap();
        let name = |id: &str, terminal: usize| {
            let mut terminals = [0, 1, 2];
            for fault in &d.faults {
                if let Fault::Swap { at, conductors: [a, b] } = fault
                    && at == id
                {
                    terminals.swap(a.index(), b.index());
                }
            }
            format!("{id}.{}", LETTERS[terminals[terminal]])
        };
        for (point, read) in d.points.iter().zip(&said.points) {
            // What a probe's contact adds is no part of a network.
            if d.faults.iter().any(|fault| matches!(fault, Fault::Contact { at, .. } if *at == point.id)) {
                continue;
            }
            for (other, value) in [(1, read.r1_rn), (2, read.r1_r2)] {
                let copy = deck.ask(&wires(&d, Some(other)), &name(&point.id, 0), &name(&point.id, other));
                expected.push((copy, value, format!("{} {other} in {d:?}", point.id)));
            }
        }
        if let Some(ends) = said.end_to_end {
            for (core, value) in [ends.r1, ends.rn, ends.r2].into_iter().enumerate() {
                let (from, to) = (format!("board.{}", LETTERS[core]), format!("leg2.{}", LETTERS[core]));
                expected.push((deck.ask(&wires(&d, None), &from, &to), value, format!("end {core} in {d:?}")));
            }
        }
    }
    let volts = deck.run();
    assert!(expected.len() > 300);
    for (copy, value, what) in expected {
        let simulated = Some(volts[copy]).filter(|volts| *volts < OPEN_ABOVE_V);
        let agree = match (value, simulated) {
            (None, None) => true,
            (Some(a), Some(b)) => (a - b).abs() <= 3e-5 + 1e-5 * a,
            _ => false,
        };
        assert!(agree, "{value:?} against {simulated:?}: {what}");
    }
}
