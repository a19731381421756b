//! What is wrong with two-way and intermediate switching, from which combinations read and which did not.
//!
//! The switches are looked at as contacts between wires: each fault of the trade's list is laid in, every
//! position that the switches may have stood in at first is tried, and what reads through is compared
//! with what was read. Common practice, no source.

use proof_job::installation::switching::{Switching, switchings};
use proof_job::installation::{Accessory, Circuit, PointId};
use proof_job::reading::{CurrentReadings, Key, Place, Test, Value};

/// What a combination showed: which switches were thrown since the first that lit, and whether it read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Combination {
    /// The switches thrown.
    pub thrown: Vec<PointId>,
    /// Something was read through.
    pub reads: bool,
}

/// A fault of two-way switching.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum SwitchFault {
    /// One of the strappers between two neighbours is broken, or off its terminal.
    StrapperOpen(PointId, PointId),
    /// The strappers between two neighbours touch.
    StrappersJoined(PointId, PointId),
    /// A switch does not change over.
    Stuck(PointId),
    /// At the first or the last switch the common and a strapper hold each other's terminals.
    CommonSwapped(PointId),
    /// At an intermediate one wire of each pair is on the other's terminal.
    PairsMixed(PointId),
}

/// Wires: the feed, the lamp, and two strappers between each two neighbours.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Wire(usize);

const FEED: Wire = Wire(0);
const LAMP: Wire = Wire(1);

const fn strapper(segment: usize, which: usize) -> Wire {
    Wire(2 + 2 * segment + which)
}

/// The wires that the terminals of a switch hold: common and two strappers, or four strappers.
#[derive(Debug, Clone, Copy)]
enum Terminals {
    TwoWay([Wire; 3]),
    Intermediate([Wire; 4]),
}

impl Terminals {
    /// The wires that it joins, thrown or not.
    fn joined(self, thrown: bool) -> [Option<(Wire, Wire)>; 2] {
        let over = usize::from(thrown);
        match self {
            Self::TwoWay(wires) => [Some((wires[0], wires[1 + over])), None],
            Self::Intermediate([a, b, c, d]) if thrown => [Some((a, d)), Some((b, c))],
            Self::Intermediate([a, b, c, d]) => [Some((a, c)), Some((b, d))],
        }
    }
}

/// One wiring of the switches, right or with a fault.
struct Wiring {
    switches: Vec<Terminals>,
    broken: Vec<Wire>,
    touching: Vec<(Wire, Wire)>,
    stuck: Option<usize>,
}

impl Wiring {
    fn right(count: usize) -> Self {
        let switches = (0..count)
            .map(|at| match at {
                0 => Terminals::TwoWay([FEED, strapper(0, 0), strapper(0, 1)]),
                at if at + 1 == count => Terminals::TwoWay([LAMP, strapper(at - 1, 0), strapper(at - 1, 1)]),
                at => Terminals::Intermediate([
                    strapper(at - 1, 0),
                    strapper(at - 1, 1),
                    strapper(at, 0),
                    strapper(at, 1),
                ]),
            })
            .collect();
        Self { switches, broken: Vec::new(), touching: Vec::new(), stuck: None }
    }

    /// Whether the feed reaches the lamp with the switches so.
    fn reads(&self, positions: usize) -> bool {
        let joins = self.switches.iter().enumerate().flat_map(|(at, switch)| {
            let thrown = positions & (1 << at) != 0 && self.stuck != Some(at);
            switch.joined(thrown).into_iter().flatten()
        });
        let all: Vec<(Wire, Wire)> = joins.chain(self.touching.iter().copied()).collect();
        let whole = |wire: Wire| !self.broken.contains(&wire);
        let mut reached = vec![FEED];
        let mut at = 0;
        while let Some(from) = reached.get(at).copied() {
            at += 1;
            for (a, b) in &all {
                let to = if *a == from { *b } else { *a };
                let on = (*a == from || *b == from) && whole(to) && whole(from);
                if on && !reached.contains(&to) {
                    reached.push(to);
                }
            }
        }
        reached.contains(&LAMP)
    }
}

/// Every fault that there may be, each wired; the one side and the other of a pair of strappers both.
fn faults(switches: &[PointId]) -> Vec<(SwitchFault, Wiring)> {
    let count = switches.len();
    let mut all = Vec::new();
    for segment in 0..count.saturating_sub(1) {
        let between = (switches[segment], switches[segment + 1]);
        for which in 0..2 {
            let wiring = Wiring { broken: vec![strapper(segment, which)], ..Wiring::right(count) };
            all.push((SwitchFault::StrapperOpen(between.0, between.1), wiring));
        }
        let wiring = Wiring { touching: vec![(strapper(segment, 0), strapper(segment, 1))], ..Wiring::right(count) };
        all.push((SwitchFault::StrappersJoined(between.0, between.1), wiring));
    }
    for (at, id) in switches.iter().enumerate() {
        all.push((SwitchFault::Stuck(*id), Wiring { stuck: Some(at), ..Wiring::right(count) }));
        for which in 0..2 {
            let mut wiring = Wiring::right(count);
            let fault = match &mut wiring.switches[at] {
                Terminals::TwoWay(wires) => {
                    wires.swap(0, 1 + which);
                    SwitchFault::CommonSwapped(*id)
                }
                Terminals::Intermediate(wires) => {
                    wires.swap(which, 3 - which);
                    SwitchFault::PairsMixed(*id)
                }
            };
            all.push((fault, wiring));
        }
    }
    all
}

/// Whether a wiring shows what was read, from some position of the switches that lit the lamp at first.
fn shows(wiring: &Wiring, switches: &[PointId], read: &[Combination]) -> bool {
    let bits = |thrown: &[PointId]| {
        let at = |id: &PointId| switches.iter().position(|other| other == id);
        thrown.iter().filter_map(at).fold(0, |bits, at| bits | 1 << at)
    };
    (0..1_usize << switches.len()).filter(|first| wiring.reads(*first)).any(|first| {
        read.iter().all(|combination| wiring.reads(first ^ bits(&combination.thrown)) == combination.reads)
    })
}

/// What explains combinations that are not as they should be, each once; empty where they are right, or
/// where no single fault explains them.
pub fn explain(switches: &[PointId], read: &[Combination]) -> Vec<SwitchFault> {
    let right = |one: &Combination| one.reads == one.thrown.len().is_multiple_of(2);
    if read.iter().all(right) || switches.len() < 2 || switches.len() > MOST_SWITCHES {
        return Vec::new();
    }
    let mut found: Vec<SwitchFault> = Vec::new();
    for (fault, wiring) in faults(switches) {
        if !found.contains(&fault) && shows(&wiring, switches, read) {
            found.push(fault);
        }
    }
    found
}

/// More are not looked at.
const MOST_SWITCHES: usize = 10;

/// What a switching of a circuit showed, in each combination that was read.
pub fn combinations(circuit: &Circuit, switching: &Switching, settled: &CurrentReadings<'_>) -> Vec<Combination> {
    let of = |reading: &proof_job::reading::Reading| match reading.key.subject.place() {
        Some(Place::Switched { point, thrown })
            if switching.lamps.contains(point) || switching.switches.contains(point) =>
        {
            Some(thrown.clone())
        }
        _ => None,
    };
    let reads = |value: &Value| match value {
        Value::Number(_) => Some(true),
        Value::Open | Value::Over(_) => Some(false),
        _ => None,
    };
    settled
        .standing_of(circuit.id)
        .filter(|reading| reading.key.test == Test::R1R2)
        .filter_map(|reading| Some(Combination { thrown: of(reading)?, reads: reads(&reading.value)? }))
        .collect()
}

/// What explains the two-way switching of a circuit, in words, a line a switching that is not right.
pub fn said_of(circuit: &Circuit, settled: &CurrentReadings<'_>) -> Vec<String> {
    let name = |id: PointId| circuit.point(id).map_or("", |point| point.name.as_str());
    switchings(circuit)
        .iter()
        .filter_map(|switching| {
            let read = combinations(circuit, switching, settled);
            let never = never_lit(circuit, switching, settled);
            let found = explain(&switching.switches, &read);
            let said: Vec<String> = found.iter().map(|fault| fault.describe(name)).collect();
            if never {
                let places = switching.switches.iter().map(|id| name(*id)).collect::<Vec<_>>().join(", ");
                return Some(format!(
                    "It first read open: find the combination of {places} that lights it. Where there is none, the feed, \
                     the line to the lamp or both strappers are open, or a common is on the wrong terminal."
                ));
            }
            match said.as_slice() {
                [] if read.iter().any(|one| one.reads != one.thrown.len().is_multiple_of(2)) => {
                    Some("No single fault of the switches reads so: read each combination again.".to_owned())
                }
                [] => None,
                [one] => Some(format!("{one}.")),
                several => Some(format!("One of these: {}.", several.join("; or "))),
            }
        })
        .collect()
}

/// Whether the first reading of a switching was open: nothing was lit to throw from.
fn never_lit(circuit: &Circuit, switching: &Switching, settled: &CurrentReadings<'_>) -> bool {
    let lines = circuit.line_conductors().first().copied().flatten();
    let first = |id: &PointId| {
        let key = Key::on_circuit(circuit.id, Place::Point { point: *id }, Test::R1R2).on_line(lines);
        matches!(settled.value(&key), Some(Value::Open | Value::Over(_)))
    };
    let lamp = |id: &&PointId| circuit.point(**id).is_some_and(|point| point.accessory == Accessory::Lamp);
    switching.lamps.iter().filter(lamp).chain(switching.switches.last()).any(first)
}

impl SwitchFault {
    /// In words, by the names of the switches.
    pub fn describe<'n>(self, name: impl Fn(PointId) -> &'n str) -> String {
        match self {
            Self::StrapperOpen(a, b) => {
                format!("one strapper between {} and {} is broken or off its terminal", name(a), name(b))
            }
            Self::StrappersJoined(a, b) => {
                format!("the strappers between {} and {} touch, or share a terminal", name(a), name(b))
            }
            Self::Stuck(at) => format!("{} does not change over", name(at)),
            Self::CommonSwapped(at) => {
                format!("at {} the common and a strapper are on each other's terminals", name(at))
            }
            Self::PairsMixed(at) => format!("at {} the strappers of the two sides are mixed", name(at)),
        }
    }
}
