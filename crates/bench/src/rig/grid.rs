//! The network of an installation as it stands, and what stands between two terminals of it.

use super::stand::Stand;
use super::terminal::{Side, Terminal};
use super::{Fitting, Rig, SUPPLY_V, Way};
use proof_core::conductor::Core;
use proof_core::installation::Shape;
use proof_core::network::description::{BOARD, Description, Fault, SegmentName};
use proof_core::network::solver::{Network, Node, Solved};
use std::collections::HashMap;

/// A lamp that is in, Ω. Invented for the bench.
const LAMP_OHM: f64 = 900.0;
/// A bond's clamp and a closed contact of a switch or a device read nothing beside the cable, Ω.
const CLOSED_OHM: f64 = 0.0;
/// Sound insulation between two conductors of a circuit, MΩ. Invented for the bench: over every range.
const SOUND_MEGOHM: f64 = 20_000.0;
/// Inner resistance of a known source, Ω.
const KNOWN_OHM: f64 = 10.0;
const MEGOHM: f64 = 1e6;

/// The network of an installation as it stands.
pub struct Grid {
    network: Network,
    of: HashMap<Terminal, Node>,
    winding: [Node; 2],
}

#[derive(Default)]
struct Making {
    nodes: usize,
    resistors: Vec<(Node, Node, f64)>,
    of: HashMap<Terminal, Node>,
}

impl Making {
    fn node(&mut self) -> Node {
        self.nodes += 1;
        self.nodes - 1
    }

    fn three(&mut self) -> [Node; 3] {
        [self.node(), self.node(), self.node()]
    }

    fn put(&mut self, a: Node, b: Node, ohm: f64) {
        self.resistors.push((a, b, ohm));
    }

    fn terminals(&mut self, at: [Node; 3], name: impl Fn(Core) -> Terminal) {
        for core in Core::ALL {
            self.of.insert(name(core), at[core.index()]);
        }
    }

    /// A way of the board: its device, its circuit, its leaks.
    fn way(&mut self, at: usize, way: &Way, bars: [Node; 3], stand: &Stand, volts: f64) {
        let [line, neutral, earth] = Core::ALL.map(Core::index);
        let laid = lay(self, way);
        let on = stand.ways_on.get(at).copied().unwrap_or_default();
        let outgoing = self.node();
        if on {
            self.put(bars[line], outgoing, CLOSED_OHM);
        }
        for (leg, end) in laid.ends.iter().enumerate() {
            let Some(end) = end else { continue };
            for core in Core::ALL {
                if !stand.out.contains(&(at, core)) {
                    let to = if core == Core::L { outgoing } else { bars[core.index()] };
                    self.put(end[core.index()], to, CLOSED_OHM);
                }
            }
            let leg = u8::try_from(leg + 1).unwrap_or(1);
            self.terminals(*end, |core| Terminal::Tail { way: at, leg, core });
        }
        fit(self, at, way, &laid, stand);
        let Some(first) = laid.ends[0] else { return };
        for [a, b] in [[line, neutral], [line, earth], [neutral, earth]] {
            self.put(first[a], first[b], SOUND_MEGOHM * MEGOHM);
        }
        for leak in way.leaks.iter().filter(|leak| leak.above_v <= 0.0 || volts > leak.above_v) {
            if let Some(point) = laid.points.get(leak.point) {
                let [a, b] = leak.between.map(|core| point[core.index()]);
                self.put(a, b, leak.megohm * MEGOHM);
            }
        }
    }
}

/// A length of cable between two triples of nodes.
struct Length {
    from: [Node; 3],
    to: [Node; 3],
    ohm: [f64; 3],
    cross: Option<[Core; 2]>,
    /// What it is called: after this point, into that one.
    after: String,
    into: String,
}

/// The cable of a circuit: its ends at the board, and the nodes behind each point's terminals.
struct Laid {
    ends: [Option<[Node; 3]>; 2],
    points: Vec<[Node; 3]>,
}

fn lay(making: &mut Making, way: &Way) -> Laid {
    let cable = &way.cable;
    let first = making.three();
    let points: Vec<[Node; 3]> = cable.points.iter().map(|_| making.three()).collect();
    let per_metre = cable.cores.0;
    let of = |metres: f64| per_metre.map(|ohm| ohm * metres);
    let index = |id: &str| cable.points.iter().position(|point| point.id == id);
    let mut lengths = Vec::new();
    let (mut from, mut after) = (first, BOARD.to_owned());
    for (at, point) in cable.points.iter().enumerate() {
        let (start, name) = match point.spur_from.as_deref().and_then(index) {
            Some(parent) => (points[parent], String::new()),
            None => (from, after.clone()),
        };
        if point.spur_from.is_none() {
            (from, after) = (points[at], point.id.clone());
        }
        let into = point.id.clone();
        lengths.push(Length { from: start, to: points[at], ohm: of(point.leg.get()), cross: None, after: name, into });
    }
    let last = (cable.shape == Shape::Ring).then(|| making.three());
    if let (Some(last), Some(leg)) = (last, cable.return_leg) {
        lengths.push(Length { from, to: last, ohm: of(leg.get()), cross: None, after, into: BOARD.to_owned() });
    }
    spoil(making, cable, (first, &points), &mut lengths);
    for length in lengths {
        for core in Core::ALL {
            let arrives = match length.cross {
                Some([a, b]) if core == a => b,
                Some([a, b]) if core == b => a,
                _ => core,
            };
            making.put(length.from[core.index()], length.to[arrives.index()], length.ohm[core.index()]);
        }
    }
    Laid { ends: [Some(first), last], points }
}

/// Puts the faults of a cable into its lengths, and beside them.
fn spoil(making: &mut Making, cable: &Description, (first, points): ([Node; 3], &[[Node; 3]]), lengths: &mut [Length]) {
    let per_metre = cable.cores.0;
    let index = |id: &str| cable.points.iter().position(|point| point.id == id);
    for fault in &cable.faults {
        let named = |segment: &SegmentName, length: &Length| match segment {
            SegmentName::After(id) => length.after == *id,
            SegmentName::Into(id) => length.into == *id,
        };
        match fault {
            Fault::HighResistanceJoint { conductor, segment, ohm } => {
                if let Some(length) = lengths.iter_mut().find(|length| named(segment, length)) {
                    length.ohm[conductor.index()] += ohm.get();
                }
            }
            Fault::Open { conductor, segment } => {
                if let Some(length) = lengths.iter_mut().find(|length| named(segment, length)) {
                    length.ohm[conductor.index()] = f64::INFINITY;
                }
            }
            Fault::Cross { conductors, segment } => {
                if let Some(length) = lengths.iter_mut().find(|length| named(segment, length)) {
                    length.cross = Some(*conductors);
                }
            }
            Fault::Bridge { from, to, leg } => {
                if let (Some(a), Some(b)) = (index(from), index(to)) {
                    for core in Core::ALL {
                        making.put(
                            points[a][core.index()],
                            points[b][core.index()],
                            leg.get() * per_metre[core.index()],
                        );
                    }
                }
            }
            Fault::ParallelEarth { between: [a, b], ohm } => {
                let place = |id: &str| if id == BOARD { Some(first) } else { index(id).map(|at| points[at]) };
                if let (Some(a), Some(b)) = (place(a), place(b)) {
                    making.put(a[Core::E.index()], b[Core::E.index()], ohm.get());
                }
            }
            // At the terminals, or in how it is linked.
            Fault::Contact { .. } | Fault::Swap { .. } | Fault::OwnLeg => {}
        }
    }
}

/// The terminals of the points: swapped conductors, contacts, switches, lamps.
fn fit(making: &mut Making, at: usize, way: &Way, laid: &Laid, stand: &Stand) {
    for (index, point) in way.cable.points.iter().enumerate() {
        let mut holds = Core::ALL;
        let mut contact = CLOSED_OHM;
        for fault in &way.cable.faults {
            match fault {
                Fault::Swap { at, conductors: [a, b] } if *at == point.id => holds.swap(a.index(), b.index()),
                Fault::Contact { at, ohm } if *at == point.id => {
                    contact += ohm.map_or(f64::INFINITY, proof_core::quantity::Ohms::get);
                }
                _ => {}
            }
        }
        if stand.switches_off.contains(&(at, index)) {
            contact = f64::INFINITY;
        }
        let behind = holds.map(|core| laid.points[index][core.index()]);
        // The contact is in the line, as a switch is.
        let line = making.node();
        making.put(behind[Core::L.index()], line, contact);
        let fitted = [line, behind[Core::N.index()], behind[Core::E.index()]];
        if way.fittings.get(index) == Some(&Fitting::Lamp) && stand.lamps.contains(&(at, index)) {
            making.put(line, behind[Core::N.index()], LAMP_OHM);
        }
        making.terminals(fitted, |core| Terminal::Point { way: at, point: index, core });
    }
}

impl Grid {
    /// The network of an installation as it stands, with so many volts on what conducts at high voltage alone.
    pub fn new(rig: &Rig, stand: &Stand, volts: f64) -> Self {
        let mut making = Making::default();
        let winding = [making.node(), making.node()];
        let (incoming, bars) = (making.three(), making.three());
        let [line, neutral, earth] = Core::ALL.map(Core::index);
        let (to_line, to_neutral) =
            if rig.supply.reversed { (incoming[neutral], incoming[line]) } else { (incoming[line], incoming[neutral]) };
        making.put(winding[0], to_line, rig.supply.line_ohm);
        making.put(winding[1], to_neutral, rig.supply.neutral_ohm);
        making.put(winding[1], incoming[earth], rig.supply.earth_ohm);
        if stand.main_on {
            making.put(incoming[line], bars[line], CLOSED_OHM);
            making.put(incoming[neutral], bars[neutral], CLOSED_OHM);
        }
        if !stand.earth_off {
            making.put(incoming[earth], bars[earth], CLOSED_OHM);
        }
        for (index, bond) in rig.bonds.iter().enumerate() {
            let metal = making.node();
            making.put(metal, winding[1], bond.ground_ohm);
            let end = making.node();
            making.put(end, metal, bond.ohm);
            if !stand.bonds_off.contains(&index) {
                making.put(bars[earth], end, CLOSED_OHM);
            }
            making.of.insert(Terminal::BondEnd(index), end);
            making.of.insert(Terminal::Metal(index), metal);
        }
        making.terminals(incoming, Terminal::Incoming);
        making.terminals(bars, Terminal::Bar);
        let known = [making.node(), making.node()];
        making.put(known[0], known[1], KNOWN_OHM);
        making.of.extend([(Terminal::Known(Side::A), known[0]), (Terminal::Known(Side::B), known[1])]);
        for (at, way) in rig.ways.iter().enumerate() {
            making.way(at, way, bars, stand, volts);
        }
        for (a, b) in &stand.links {
            if let (Some(a), Some(b)) = (making.of.get(a), making.of.get(b)) {
                making.resistors.push((*a, *b, CLOSED_OHM));
            }
        }
        let mut network = Network::new(making.nodes);
        for (a, b, ohm) in making.resistors {
            network.resistor(a, b, ohm);
        }
        Self { network, of: making.of, winding }
    }

    /// Whether there is such a terminal.
    pub fn has(&self, terminal: Terminal) -> bool {
        self.of.contains_key(&terminal)
    }

    /// Resistance between two terminals with the winding of the supply as a link, Ω: what an ohmmeter reads where
    /// nothing is live, and the loop where something is. `None`: nothing joins them.
    pub fn ohm(&self, a: Terminal, b: Terminal) -> Option<f64> {
        let mut network = self.network.clone();
        network.link(self.winding[0], self.winding[1]);
        network.solve().resistance(*self.of.get(&a)?, *self.of.get(&b)?)
    }

    /// The network solved for voltages: nothing stands across the winding.
    pub fn energised(&self) -> Energised<'_> {
        Energised { grid: self, solved: self.network.solve() }
    }
}

/// A network with its supply on.
pub struct Energised<'a> {
    grid: &'a Grid,
    solved: Solved,
}

impl Energised<'_> {
    /// Voltage of a terminal to earth, V, by the theorem of reciprocity: what a source between two nodes puts on a third
    /// follows from three resistances. What hangs on nothing is at nought.
    pub fn to_earth(&self, terminal: Terminal) -> f64 {
        let Some(node) = self.grid.of.get(&terminal).copied() else { return 0.0 };
        match terminal {
            Terminal::Known(Side::A) => return SUPPLY_V,
            Terminal::Known(Side::B) => return 0.0,
            _ => {}
        }
        let [high, low] = self.grid.winding;
        let ohm = |a, b| self.solved.resistance(a, b);
        match (ohm(node, high), ohm(node, low), ohm(high, low)) {
            (Some(to_high), Some(to_low), Some(across)) if across > 0.0 => {
                SUPPLY_V * (across + to_low - to_high) / (2.0 * across)
            }
            (Some(_), None, _) => SUPPLY_V,
            _ => 0.0,
        }
    }

    /// Voltage between two terminals, V.
    pub fn between(&self, a: Terminal, b: Terminal) -> f64 {
        (self.to_earth(a) - self.to_earth(b)).abs()
    }
}
