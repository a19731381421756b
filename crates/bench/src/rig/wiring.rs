//! An installation as it stands, wire by wire, as a network.

use super::stand::RigState;
use super::terminal::{Fixed, Side, Terminal, Wire};
use super::{AtSwitch, Feed, Fitting, Rig, SUPPLY_V, Way};
use proof_physics::network::description::{BOARD, Description, Fault, SegmentName};
use proof_physics::network::solver::Node;
use proof_standard::shape::Shape;
use std::collections::HashMap;

/// A lamp that is in, Ω. Invented for the bench.
const LAMP_OHM: f64 = 900.0;
/// A winding of a small motor, line to line, Ω. Invented for the bench.
const MOTOR_OHM: f64 = 240.0;
/// The winding of a safety transformer on the side of the supply, Ω. Invented for the bench.
const PRIMARY_OHM: f64 = 60.0;
/// A bond's clamp and a closed contact of a switch or a device read nothing beside the cable, Ω. Invented for the bench.
const CLOSED_OHM: f64 = 0.0;
/// Sound insulation between two conductors of a circuit, MΩ. Invented for the bench: over every range.
const SOUND_MEGOHM: f64 = 20_000.0;
/// Inner resistance of a known source, Ω. Invented for the bench.
const KNOWN_OHM: f64 = 10.0;
/// A surge device conducts above this, V d.c. Invented for the bench, within what is usual for 230 V.
const SURGE_V: f64 = 400.0;
/// What creeps up is this much nearer at each further press, share (common practice, no source: it settles in a minute).
const CREEPS: f64 = 0.45;
const MEGOHM: f64 = 1e6;
const WIRES: usize = Wire::ALL.len();

/// The nodes of a place, by conductor.
type At = [Option<Node>; WIRES];

/// A source: its two nodes, and what stands between them, V, as a phasor.
#[derive(Debug, Clone, Copy)]
pub(super) struct Source {
    pub high: Node,
    pub low: Node,
    pub volts: [f64; 2],
}

/// What is built.
#[derive(Default)]
pub(super) struct Making {
    pub nodes: usize,
    pub resistors: Vec<(Node, Node, f64)>,
    pub of: HashMap<Terminal, Node>,
    pub sources: Vec<Source>,
    /// Those of a safety transformer: the way's line and neutral, the source's two nodes, its ratio.
    pub transformers: Vec<([Node; 2], [Node; 2], f64)>,
    pub star: Node,
}

/// At what test voltage it is built, and how often the button was pressed at this place before.
#[derive(Clone, Copy)]
pub(super) struct Stress {
    pub volts: f64,
    pub tried: u32,
}

fn phasor(line: usize) -> [f64; 2] {
    // L2 follows L1 by a third of a turn, and L3 L2.
    let turn = -std::f64::consts::TAU / 3.0 * line as f64;
    [SUPPLY_V * turn.cos(), SUPPLY_V * turn.sin()]
}

impl Making {
    fn node(&mut self) -> Node {
        self.nodes += 1;
        self.nodes - 1
    }

    fn place(&mut self, wires: &[Wire]) -> At {
        let mut at = [None; WIRES];
        for wire in wires {
            at[*wire as usize] = Some(self.node());
        }
        at
    }

    fn put(&mut self, a: Option<Node>, b: Option<Node>, ohm: f64) {
        if let (Some(a), Some(b)) = (a, b) {
            self.resistors.push((a, b, ohm));
        }
    }

    fn join(&mut self, a: &At, b: &At, wires: &[Wire]) {
        for wire in wires {
            self.put(a[*wire as usize], b[*wire as usize], CLOSED_OHM);
        }
    }

    fn terminals(&mut self, at: &At, name: impl Fn(Wire) -> Terminal) {
        for wire in Wire::ALL {
            self.of.extend(at[wire as usize].map(|node| (name(wire), node)));
        }
    }

    /// The supply, the main switch, the earthing conductor; what stands at the bars.
    fn supply(&mut self, rig: &Rig, stand: &RigState) -> At {
        let supply = &rig.supply;
        let wires = supply.wires();
        self.star = self.node();
        let (incoming, bars) = (self.place(wires), self.place(wires));
        let [neutral, earth] = [Wire::N, Wire::E].map(|wire| wire as usize);
        let (star, shared) = (self.star, self.node());
        self.put(Some(star), Some(shared), supply.shared_ohm);
        let lines = if supply.three_phase { &Wire::LINES[..] } else { &Wire::LINES[..1] };
        for (line, wire) in lines.iter().enumerate() {
            let high = self.node();
            let mut to = match (line, supply.turns_back) {
                (1, true) => Wire::L3,
                (2, true) => Wire::L2,
                _ => *wire,
            };
            if supply.reversed && line == 0 {
                to = Wire::N;
            }
            self.put(Some(high), incoming[to as usize], supply.line_ohm);
            self.sources.push(Source { high, low: star, volts: phasor(line) });
        }
        let to = if supply.reversed { Wire::L1 as usize } else { neutral };
        self.put(Some(shared), incoming[to], supply.neutral_ohm);
        self.put(Some(shared), incoming[earth], supply.earth_ohm);
        if let Some(ohm) = rig.electrode_ohm {
            let rod = self.node();
            self.put(Some(rod), Some(star), ohm);
            self.put(Some(rod), incoming[earth], CLOSED_OHM);
            self.of.insert(Terminal::Electrode, rod);
            self.of.extend([Side::A, Side::B].map(|side| (Terminal::Spike(side), star)));
        }
        if stand.main_on {
            self.join(&incoming, &bars, &Wire::LINES);
            self.join(&incoming, &bars, &[Wire::N]);
        }
        if !stand.earth_off {
            self.join(&incoming, &bars, &[Wire::E]);
        }
        self.terminals(&incoming, Terminal::Incoming);
        self.terminals(&bars, Terminal::Bar);
        bars
    }

    /// Bonds, the known source and the fixed values, the surge device.
    fn beside(&mut self, rig: &Rig, stand: &RigState, bars: &At, stress: Stress) {
        let [neutral, earth] = [Wire::N, Wire::E].map(|wire| bars[wire as usize]);
        for (index, bond) in rig.bonds.iter().enumerate() {
            let (metal, end) = (self.node(), self.node());
            self.put(Some(metal), Some(self.star), bond.ground_ohm);
            self.put(Some(end), Some(metal), bond.ohm);
            if !stand.bonds_off.contains(&index) {
                self.put(earth, Some(end), CLOSED_OHM);
            }
            self.of.insert(Terminal::BondEnd(index), end);
            self.of.insert(Terminal::Metal(index), metal);
        }
        self.apart(Terminal::Known, KNOWN_OHM);
        self.apart(|side| Terminal::Fixed(Fixed::Ohm, side), 1.0);
        self.apart(|side| Terminal::Fixed(Fixed::Megohm, side), MEGOHM);
        if let Some(megohm) = rig.surge_megohm.filter(|_| stand.surge_in && stress.volts > SURGE_V) {
            for wire in Wire::LINES {
                self.put(bars[wire as usize], earth, megohm * MEGOHM);
            }
            self.put(neutral, earth, megohm * MEGOHM);
        }
    }

    /// A resistance that hangs on nothing.
    fn apart(&mut self, name: impl Fn(Side) -> Terminal, ohm: f64) {
        let two = [self.node(), self.node()];
        self.put(Some(two[0]), Some(two[1]), ohm);
        self.of.extend([(name(Side::A), two[0]), (name(Side::B), two[1])]);
    }

    /// The bars of a sub-board, behind its isolator.
    fn board(&mut self, board: usize, fed: &Way, way: usize, on: bool) -> At {
        let bars = self.place(fed.wires());
        let point = fed.cable.points.len().saturating_sub(1);
        for wire in fed.wires() {
            let from = self.of.get(&Terminal::Point { way, point, core: *wire }).copied();
            if on || *wire == Wire::E {
                self.put(from, bars[*wire as usize], CLOSED_OHM);
            }
        }
        self.terminals(&bars, |core| Terminal::SubBar(board, core));
        bars
    }

    /// A way of a board: its device, its circuit, its leaks.
    fn way(&mut self, at: usize, way: &Way, bars: &At, stand: &RigState, stress: Stress) {
        let laid = lay(self, way);
        let on = stand.ways_on.get(at).copied().unwrap_or_default();
        let mut outgoing = self.place(way.wires());
        for wire in way.wires() {
            let from = match way.feed {
                Feed::One(line) if wire.is_line() => bars[line as usize],
                _ => bars[*wire as usize],
            };
            if on || !wire.is_line() {
                self.put(from, outgoing[*wire as usize], CLOSED_OHM);
            }
        }
        if let Some(volts) = way.selv_v {
            outgoing = self.transformer(&outgoing, volts);
        }
        for (leg, end) in laid.ends.iter().enumerate() {
            let Some(end) = end else { continue };
            for wire in way.wires() {
                if !stand.out.contains(&(at, *wire)) {
                    self.put(end[*wire as usize], outgoing[*wire as usize], CLOSED_OHM);
                }
            }
            let leg = u8::try_from(leg + 1).unwrap_or(1);
            self.terminals(end, |core| Terminal::Tail { way: at, leg, core });
        }
        fit(self, at, way, &laid, stand);
        // At either end, so that what is broken off between floats and is not nowhere.
        for place in laid.ends[0].iter().chain(laid.points.last()) {
            for (index, a) in way.wires().iter().enumerate() {
                for b in &way.wires()[index + 1..] {
                    self.put(place[*a as usize], place[*b as usize], SOUND_MEGOHM * MEGOHM);
                }
            }
        }
        for leak in way.leaks.iter().filter(|leak| leak.above_v <= 0.0 || stress.volts > leak.above_v) {
            if let Some(point) = laid.points.get(leak.point) {
                let [a, b] = leak.between.map(|wire| point[wire as usize]);
                let missing = leak.creeps * (1.0 - CREEPS).powi(stress.tried.min(40).cast_signed());
                self.put(a, b, leak.megohm * (1.0 - missing) * MEGOHM);
            }
        }
    }

    /// What stands behind a safety transformer.
    fn transformer(&mut self, outgoing: &At, volts: f64) -> At {
        let [line, neutral] = [Wire::L1, Wire::N].map(|wire| outgoing[wire as usize]);
        self.put(line, neutral, PRIMARY_OHM);
        let (high, low) = (self.node(), self.node());
        if let (Some(line), Some(neutral)) = (line, neutral) {
            self.transformers.push(([line, neutral], [high, low], volts / SUPPLY_V));
        }
        let mut behind = [None; WIRES];
        behind[Wire::L1 as usize] = Some(high);
        behind[Wire::N as usize] = Some(low);
        behind
    }

    /// The second source, where its isolator is closed.
    fn second(&mut self, rig: &Rig, stand: &RigState) {
        let connected = rig.second.as_ref().filter(|second| stand.second_on && second.ohm.is_finite());
        let Some(second) = connected else { return };
        let Some(point) = rig.ways.get(second.way).and_then(|way| way.cable.points.len().checked_sub(1)) else {
            return;
        };
        let at = |core| self.of.get(&Terminal::Point { way: second.way, point, core }).copied();
        let [line, neutral, earth] = [Wire::L1, Wire::N, Wire::E].map(at);
        let (high, low) = (self.node(), self.node());
        self.put(Some(high), line, second.ohm);
        self.put(Some(low), neutral, CLOSED_OHM);
        self.put(Some(low), earth, CLOSED_OHM);
        let line = match rig.ways[second.way].feed {
            Feed::One(Wire::L2) => 1,
            Feed::One(Wire::L3) => 2,
            _ => 0,
        };
        self.sources.push(Source { high, low, volts: phasor(line) });
    }

    /// All of it.
    pub(super) fn from_rig(rig: &Rig, stand: &RigState, stress: Stress) -> Self {
        let mut making = Self::default();
        let bars = making.supply(rig, stand);
        making.beside(rig, stand, &bars, stress);
        let mut boards = vec![Some(bars)];
        boards.resize(rig.boards.len() + 1, None);
        for (at, way) in rig.ways.iter().enumerate() {
            if let Some(bars) = boards.get(way.board).copied().flatten() {
                making.way(at, way, &bars, stand, stress);
            }
            for (board, _) in rig.boards.iter().enumerate().filter(|(_, board)| board.fed_by == at) {
                let on = stand.subs_on.get(board).copied().unwrap_or_default();
                boards[board + 1] = Some(making.board(board, way, at, on));
            }
        }
        making.second(rig, stand);
        for (a, b) in &stand.links {
            let [a, b] = [a, b].map(|one| making.of.get(one).copied());
            making.put(a, b, CLOSED_OHM);
        }
        making
    }
}

/// A length of cable between two places.
struct Length {
    from: At,
    to: At,
    ohm: [f64; WIRES],
    cross: Option<[Wire; 2]>,
    /// What it is called: after this point, into that one.
    after: String,
    into: String,
}

/// The cable of a circuit: its ends at the board, and the nodes behind each point's terminals.
struct RunEnds {
    ends: [Option<At>; 2],
    points: Vec<At>,
}

/// The conductors that arrive at a point.
fn arriving(way: &Way, point: usize) -> Vec<Wire> {
    match way.fittings.get(point) {
        Some(Fitting::TwoWay) => [&Wire::SINGLE[..], &[Wire::S1, Wire::S2]].concat(),
        Some(Fitting::Intermediate) => [&Wire::SINGLE[1..], &[Wire::S1, Wire::S2, Wire::S3, Wire::S4]].concat(),
        _ => way.wires().to_vec(),
    }
}

fn lay(making: &mut Making, way: &Way) -> RunEnds {
    let cable = &way.cable;
    let first = making.place(way.wires());
    let points: Vec<At> = (0..cable.points.len()).map(|point| making.place(&arriving(way, point))).collect();
    let of = |metres: f64| Wire::ALL.map(|wire| cable.cores.0[wire.core().index()] * metres);
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
    let last = (cable.shape == Shape::Ring).then(|| making.place(way.wires()));
    if let (Some(last), Some(leg)) = (last, cable.return_leg) {
        lengths.push(Length { from, to: last, ohm: of(leg.get()), cross: None, after, into: BOARD.to_owned() });
    }
    strap(way, &mut lengths);
    spoil(making, cable, (first, &points), &mut lengths);
    for length in lengths {
        for wire in Wire::ALL {
            let arrives = match length.cross {
                Some([a, b]) if wire == a => b,
                Some([a, b]) if wire == b => a,
                _ => wire,
            };
            making.put(length.from[wire as usize], length.to[arrives as usize], length.ohm[wire as usize]);
        }
    }
    RunEnds { ends: [Some(first), last], points }
}

/// Between two switches run strappers and no line.
fn strap(way: &Way, lengths: &mut [Length]) {
    let switches = way.switches();
    for (at, two) in switches.windows(2).enumerate() {
        let Some(length) = lengths.get_mut(two[1]) else { continue };
        length.ohm[Wire::L1 as usize] = f64::INFINITY;
        // An intermediate sends them on by its other two terminals.
        if at > 0 {
            length.from[Wire::S1 as usize] = length.from[Wire::S3 as usize];
            length.from[Wire::S2 as usize] = length.from[Wire::S4 as usize];
        }
        for strapper in [Wire::S3, Wire::S4] {
            length.from[strapper as usize] = None;
        }
        for fault in &way.at_switches {
            if let AtSwitch::Broken(after, wire) = fault
                && *after == two[0]
            {
                length.ohm[*wire as usize] = f64::INFINITY;
            }
        }
    }
}

/// Puts the faults of a cable into its lengths, and beside them.
fn spoil(making: &mut Making, cable: &Description, (first, points): (At, &[At]), lengths: &mut [Length]) {
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
                    length.ohm[Wire::from(*conductor) as usize] += ohm.get();
                }
            }
            Fault::Open { conductor, segment } => {
                if let Some(length) = lengths.iter_mut().find(|length| named(segment, length)) {
                    length.ohm[Wire::from(*conductor) as usize] = f64::INFINITY;
                }
            }
            Fault::Cross { conductors, segment } => {
                if let Some(length) = lengths.iter_mut().find(|length| named(segment, length)) {
                    length.cross = Some(conductors.map(Wire::from));
                }
            }
            Fault::Bridge { from, to, leg } => {
                if let (Some(a), Some(b)) = (index(from), index(to)) {
                    for wire in Wire::ALL {
                        let ohm = leg.get() * per_metre[wire.core().index()];
                        making.put(points[a][wire as usize], points[b][wire as usize], ohm);
                    }
                }
            }
            Fault::ParallelEarth { between: [a, b], ohm } => {
                let place = |id: &str| if id == BOARD { Some(first) } else { index(id).map(|at| points[at]) };
                if let (Some(a), Some(b)) = (place(a), place(b)) {
                    making.put(a[Wire::E as usize], b[Wire::E as usize], ohm.get());
                }
            }
            // At the terminals, or in how it is linked.
            Fault::Contact { .. } | Fault::Swap { .. } | Fault::OwnLeg => {}
        }
    }
}

/// The terminals of the points: changed conductors, contacts, switches, loads.
fn fit(making: &mut Making, at: usize, way: &Way, laid: &RunEnds, stand: &RigState) {
    let switched = !way.switches().is_empty();
    for (index, point) in way.cable.points.iter().enumerate() {
        let mut holds = laid.points[index];
        let mut contact = CLOSED_OHM;
        for fault in &way.cable.faults {
            match fault {
                Fault::Swap { at, conductors } if *at == point.id => {
                    let [a, b] = conductors.map(|core| Wire::from(core) as usize);
                    holds.swap(a, b);
                }
                Fault::Contact { at, ohm } if *at == point.id => {
                    contact += ohm.map_or(f64::INFINITY, proof_standard::quantity::Ohms::get);
                }
                _ => {}
            }
        }
        for fault in &way.at_switches {
            if let AtSwitch::Changed(at, [a, b]) = fault
                && *at == index
            {
                holds.swap(*a as usize, *b as usize);
            }
        }
        let thrown = stand.switches_off.contains(&(at, index));
        let fitting = way.fittings.get(index).copied();
        let lamp_behind_switches = switched && fitting == Some(Fitting::Lamp);
        let turns = matches!(fitting, Some(Fitting::TwoWay | Fitting::Intermediate));
        if thrown && !turns && !lamp_behind_switches {
            contact = f64::INFINITY;
        }
        let mut fitted = holds;
        if turns {
            turn(making, &holds, fitting == Some(Fitting::TwoWay), thrown);
        } else {
            // The contact is in the lines, as a switch is.
            for wire in Wire::LINES {
                let Some(behind) = holds[wire as usize] else { continue };
                let line = making.node();
                making.put(Some(behind), Some(line), contact);
                fitted[wire as usize] = Some(line);
            }
        }
        let [line, two, three, neutral] = [Wire::L1, Wire::L2, Wire::L3, Wire::N].map(|wire| fitted[wire as usize]);
        match fitting {
            Some(Fitting::Lamp) if stand.lamps.contains(&(at, index)) => making.put(line, neutral, LAMP_OHM),
            Some(Fitting::Motor) => {
                for (a, b) in [(line, two), (two, three), (three, line)] {
                    making.put(a, b, MOTOR_OHM);
                }
            }
            _ => {}
        }
        making.terminals(&fitted, |core| Terminal::Point { way: at, point: index, core });
    }
}

/// The contacts of a switch between strappers.
fn turn(making: &mut Making, at: &At, two_way: bool, thrown: bool) {
    let mut close = |a: Wire, b: Wire| making.put(at[a as usize], at[b as usize], CLOSED_OHM);
    match (two_way, thrown) {
        (true, false) => close(Wire::L1, Wire::S1),
        (true, true) => close(Wire::L1, Wire::S2),
        (false, false) => {
            close(Wire::S1, Wire::S3);
            close(Wire::S2, Wire::S4);
        }
        (false, true) => {
            close(Wire::S1, Wire::S4);
            close(Wire::S2, Wire::S3);
        }
    }
}
