//! A bench at which somebody works: what is there, how it stands, the instrument, and what comes of each act.

use super::act::Act;
use super::grid::Grid;
use super::instrument::{DEAD_V, Function, Instrument, Leads, MeterDisplay, PROBES};
use super::safety::{Proving, Unsafe};
use super::stand::RigState;
use super::terminal::{Terminal, Wire};
use super::{Feed, Fitting, JOINED_OHM, Rig};
use crate::meter::{Meter, shown};
use proof_standard::limits::rcd::Multiple;
use rust_decimal::Decimal;
use std::collections::{BTreeMap, BTreeSet};

/// Touched with more than this to earth, a part gives a shock, V a.c.: the conventional touch voltage limit (from memory:
/// BS 7671 415.2.2, IEC 61140).
const TOUCH_V: f64 = 50.0;
/// Less than this between the bars through a way trips its device at once, Ω. Invented for the bench: no load reads so low.
const SHORT_OHM: f64 = 5.0;
/// Electronics stand a test voltage up to this between line and neutral, V. Invented for the bench.
const DELICATE_V: u16 = 250;

/// A reading that was taken.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BenchReading {
    /// What the knob stood at.
    pub function: Function,
    /// Where the probes were.
    pub probes: [Option<Terminal>; PROBES],
    /// What was shown.
    pub shown: MeterDisplay,
    /// Of a trip test, which half-cycle; of a series, each of its tests.
    pub trip: String,
}

/// A bench at which somebody works.
#[derive(Debug, Clone, PartialEq)]
pub struct Bench {
    /// What is there.
    pub rig: Rig,
    /// How it stands.
    pub state: RigState,
    /// The instrument.
    pub instrument: Instrument,
    /// Which probe goes to the next terminal.
    pub hand: usize,
    /// What it shows.
    pub shown: MeterDisplay,
    /// How far dead is proved.
    pub proving: Proving,
    /// A way that its dead tests show is not good, from zero.
    pub condemned: Option<usize>,
    /// Its circuits are new: none is energised before its dead tests.
    pub is_new: bool,
    /// What was read, in order.
    pub readings: Vec<BenchReading>,
    /// What should not have been done, each once.
    pub unsafe_acts: Vec<Unsafe>,
    /// How many acts so far.
    pub acts: usize,
    /// What came of the last act, in words; empty: nothing to tell.
    pub message: String,
    seed: u64,
    tried: BTreeMap<[Option<Terminal>; PROBES], u32>,
    /// Where the series of trip tests is.
    pub(super) in_series: usize,
}

impl Bench {
    /// A bench; what the instrument scatters follows from the seed.
    pub fn new(rig: Rig, stand: RigState, seed: u64) -> Self {
        let proving = Proving::between(rig.supply.wires());
        Self {
            rig,
            state: stand,
            instrument: Instrument::default(),
            hand: 0,
            shown: MeterDisplay::Blank,
            proving,
            condemned: None,
            is_new: false,
            readings: Vec::new(),
            unsafe_acts: Vec::new(),
            acts: 0,
            message: String::new(),
            seed,
            tried: BTreeMap::new(),
            in_series: 0,
        }
    }

    /// The same, dead and proved so a moment ago by whoever works at it.
    #[must_use]
    pub fn proved(mut self) -> Self {
        self.proving = self.proving.done();
        self
    }

    /// It has come to a bad end: nothing more is done.
    pub fn is_over(&self) -> bool {
        self.unsafe_acts.iter().any(|act| act.ends())
    }

    pub(super) fn grid(&self, volts: f64) -> Grid {
        Grid::new(&self.rig, &self.state, volts)
    }

    pub(super) fn blame(&mut self, what: Unsafe) {
        if !self.unsafe_acts.contains(&what) {
            self.unsafe_acts.push(what);
        }
        self.message = format!("Unsafe: {}.", what.label());
    }

    /// Whether any of some terminals gives a shock.
    fn is_live(&self, terminals: &[Terminal]) -> bool {
        let grid = self.grid(0.0);
        let energised = grid.energised();
        terminals.iter().any(|terminal| energised.to_earth(*terminal) > TOUCH_V)
    }

    /// Hands go to terminals that should be dead; whether they may.
    fn touches(&mut self, terminals: &[Terminal]) -> bool {
        if self.is_live(terminals) {
            self.blame(if self.state.earth_off { Unsafe::LiveWithoutEarth } else { Unsafe::TouchedLive });
            return false;
        }
        self.works_dead();
        true
    }

    /// What work on dead conductors asks first: a lock, and proof.
    fn works_dead(&mut self) {
        if !self.state.locked {
            self.blame(Unsafe::NotLocked);
        }
        if !self.proving.is_done() {
            self.blame(if self.proving.is_once() { Unsafe::ProvedOnce } else { Unsafe::NotProved });
        }
    }

    /// Does one act; one that the installation does not have changes nothing.
    pub fn act(&mut self, act: Act) {
        if self.is_over() {
            return;
        }
        self.acts += 1;
        self.message.clear();
        match act {
            Act::Tail(..) | Act::Earth(_) | Act::Bond(..) => self.hands(act),
            Act::Link(a, b, on) => self.link(a, b, on),
            Act::Probe(..) | Act::NextProbe(_) | Act::Knob(_) | Act::Take(_) | Act::Half(_) => self.set(act),
            Act::Null => self.null(),
            Act::Press => self.press(),
            _ => self.throw(act),
        }
    }

    /// What is switched, locked, or put into a holder: no hands on conductors.
    fn throw(&mut self, act: Act) {
        match act {
            Act::Main(on) => self.main(on),
            Act::Lock(true) if self.state.main_on => {
                "The main switch is on: it cannot be locked off.".clone_into(&mut self.message);
            }
            Act::Lock(on) => self.state.locked = on,
            Act::Way(way, on) if way < self.state.ways_on.len() => {
                self.state.ways_on[way] = on;
                if on && self.state.main_on && !self.state.links.is_empty() {
                    self.blame(Unsafe::LinkLeftIn);
                }
                self.condemned_on();
                self.shorted(way);
            }
            Act::Sub(board, on) if board < self.state.subs_on.len() => self.state.subs_on[board] = on,
            Act::Second(on) if self.rig.second.is_some() => self.state.second_on = on,
            // A module is drawn out by its handle.
            Act::Surge(on) if self.rig.surge_megohm.is_some() => self.state.surge_in = on,
            Act::Lamp(way, point, on) if self.fitting(way, point) == Some(Fitting::Lamp) => {
                put(&mut self.state.lamps, (way, point), on);
            }
            Act::Switch(way, point, on) if self.fitting(way, point).is_some() => {
                put(&mut self.state.switches_off, (way, point), !on);
            }
            _ => {}
        }
    }

    /// Conductors out of their terminals, and in again.
    fn hands(&mut self, act: Act) {
        let at = match act {
            Act::Tail(way, core, _) if self.rig.ways.get(way).is_some_and(|way| way.wires().contains(&core)) => {
                Terminal::Tail { way, leg: 1, core }
            }
            // Below the main switch, which the lock holds; the incoming terminals stay live.
            Act::Earth(_) => Terminal::Bar(Wire::E),
            Act::Bond(bond, _) if bond < self.rig.bonds.len() => Terminal::Metal(bond),
            _ => return,
        };
        if !self.touches(&[at]) {
            return;
        }
        match act {
            Act::Tail(way, core, on) => put(&mut self.state.out, (way, core), !on),
            Act::Bond(bond, on) => put(&mut self.state.bonds_off, bond, !on),
            Act::Earth(on) => self.state.earth_off = !on,
            _ => {}
        }
    }

    /// The instrument in the hand.
    fn set(&mut self, act: Act) {
        match act {
            Act::Probe(probe, at) if probe < self.probes() && at.is_none_or(|at| self.grid(0.0).has(at)) => {
                self.instrument.probes[probe] = at;
                self.hand = if at.is_some() { (probe + 1) % self.probes() } else { probe };
            }
            Act::NextProbe(probe) => {
                self.hand = probe.min(self.probes() - 1);
                return;
            }
            Act::Knob(function) => {
                self.instrument.function = function;
                self.in_series = 0;
            }
            Act::Take(leads) => {
                self.instrument.leads = leads;
                if leads != Leads::Three {
                    self.instrument.probes[PROBES - 1] = None;
                    self.hand = self.hand.min(self.probes() - 1);
                }
            }
            Act::Half(half) => self.instrument.half = half,
            _ => return,
        }
        self.shown = MeterDisplay::Blank;
    }

    /// How many probes the leads have.
    pub fn probes(&self) -> usize {
        if self.instrument.leads == Leads::Three { PROBES } else { PROBES - 1 }
    }

    fn fitting(&self, way: usize, point: usize) -> Option<Fitting> {
        self.rig.ways.get(way)?.fittings.get(point).copied()
    }

    fn main(&mut self, on: bool) {
        if !on {
            let on = |way: usize| self.state.ways_on.get(way).copied().unwrap_or_default();
            if self.state.main_on && self.state.lamps.iter().any(|(way, _)| on(*way)) {
                self.blame(Unsafe::UnderLoad);
            }
            self.state.main_on = false;
            return;
        }
        if self.state.locked {
            "It is locked off: the lock comes off first.".clone_into(&mut self.message);
            return;
        }
        self.state.main_on = true;
        self.proving = Proving::between(self.rig.supply.wires());
        if self.state.earth_off {
            self.blame(Unsafe::EnergisedWithoutEarth);
        }
        if !self.state.links.is_empty() {
            self.blame(Unsafe::LinkLeftIn);
        }
        self.condemned_on();
        for way in 0..self.rig.ways.len() {
            self.shorted(way);
        }
    }

    /// A way whose dead tests are not good has come on.
    fn condemned_on(&mut self) {
        let on = |way: usize| self.state.ways_on.get(way).copied().unwrap_or_default();
        let faulty = self.state.main_on && self.condemned.is_some_and(on);
        let untested = |way: usize| on(way) && !self.is_dead_tested(way);
        let untested = self.is_new && self.state.main_on && (0..self.rig.ways.len()).any(untested);
        if untested {
            self.blame(Unsafe::EnergisedUntested);
        }
        if faulty {
            self.blame(Unsafe::EnergisedFaulty);
        }
    }

    /// Whether a way had its dead tests: continuity at every point; insulation to earth and, where it has a neutral,
    /// between line and neutral, of the way itself or of the bars. What they showed is not asked here.
    fn is_dead_tested(&self, way: usize) -> bool {
        let of = |function: fn(Function) -> bool| self.readings.iter().filter(move |one| function(one.function));
        let continuous = (0..self.rig.ways[way].cable.points.len()).all(|point| {
            let here = |at: &Option<Terminal>| {
                matches!(at, Some(Terminal::Point { way: w, point: p, .. }) if (*w, *p) == (way, point))
            };
            of(|function| function == Function::LowOhm).any(|one| one.probes.iter().any(here))
        });
        let core = |at: Terminal| match at {
            Terminal::Point { way: of, core, .. } | Terminal::Tail { way: of, core, .. } if of == way => Some(core),
            Terminal::Bar(core) => Some(core),
            _ => None,
        };
        let between = |wanted: fn(Wire, Wire) -> bool| {
            of(|function| matches!(function, Function::Insulation(_))).any(|one| {
                let [Some(a), Some(b)] = [one.probes[0], one.probes[1]].map(|at| at.and_then(core)) else {
                    return false;
                };
                wanted(a, b) || wanted(b, a)
            })
        };
        let neutral = matches!(self.rig.ways[way].feed, Feed::One(_));
        continuous
            && between(|a, b| a != Wire::E && b == Wire::E)
            && (!neutral || between(|a, b| a.is_line() && b == Wire::N))
    }

    /// A device that comes on to a short goes off again.
    fn shorted(&mut self, way: usize) {
        if !self.state.main_on || !self.state.ways_on.get(way).copied().unwrap_or_default() {
            return;
        }
        let grid = self.grid(super::SUPPLY_V);
        let board = self.rig.ways[way].board.checked_sub(1);
        let bar = |wire| board.map_or(Terminal::Bar(wire), |board| Terminal::SubBar(board, wire));
        let mut open = self.state.clone();
        open.ways_on[way] = false;
        let without = Grid::new(&self.rig, &open, super::SUPPLY_V);
        let wires: &[Wire] = match self.rig.ways[way].feed {
            Feed::One(line) => &[line, Wire::N, Wire::E],
            Feed::Three => &Wire::THREE,
        };
        let pairs = wires.iter().enumerate().flat_map(|(at, a)| wires[at + 1..].iter().map(move |b| (*a, *b)));
        let short = pairs.filter(|(a, _)| a.is_line()).any(|(a, b)| {
            let across = |grid: &Grid| grid.ohm(bar(a), bar(b)).unwrap_or(f64::INFINITY);
            // What the way alone puts across the bars, Ω.
            let way_alone = 1.0 / (1.0 / across(&grid) - 1.0 / across(&without));
            way_alone > 0.0 && way_alone < SHORT_OHM
        });
        if short {
            self.state.ways_on[way] = false;
            let also = if self.state.links.is_empty() { "" } else { " A link is in." };
            let label = &self.rig.ways[way].label;
            self.message =
                format!("{}Way {} {label} tripped at once: a short circuit.{also}", lead(&self.message), way + 1);
        }
    }

    fn link(&mut self, a: Terminal, b: Terminal, on: bool) {
        let at_board = |one: &Terminal| {
            matches!(one, Terminal::Tail { .. } | Terminal::Bar(_) | Terminal::SubBar(..) | Terminal::Incoming(_))
        };
        let grid = self.grid(0.0);
        if !(at_board(&a) && at_board(&b) && grid.has(a) && grid.has(b)) {
            "A link is made between two ends at the board.".clone_into(&mut self.message);
            return;
        }
        if self.touches(&[a, b]) {
            if on {
                self.state.links.insert((a, b));
            } else {
                self.state.links.remove(&(a, b));
            }
        }
    }

    fn meter(&self) -> Meter {
        Meter::new(self.seed ^ (self.acts as u64).wrapping_mul(0x9E37_79B9_7F4A_7C15))
    }

    fn null(&mut self) {
        if self.instrument.function != Function::LowOhm {
            "Null belongs to the low range: turn the knob to low Ω.".clone_into(&mut self.message);
            return;
        }
        let across = self.across();
        if across > DEAD_V {
            self.blame(Unsafe::TestedLive);
            self.shown = MeterDisplay::Live(shown(across, 0));
            return;
        }
        let (grid, mut meter) = (self.grid(0.0), self.meter());
        if let Some(ohm) = self.instrument.nulls(&grid, &mut meter) {
            self.instrument.null = Some((self.instrument.leads, ohm));
            self.shown = MeterDisplay::Ohm(Decimal::ZERO);
        } else {
            "Not nulled: it reads more than leads do. Hold the tips firmly together.".clone_into(&mut self.message);
            self.shown = MeterDisplay::OverOhm;
        }
    }

    /// Voltage between the probes, V; zero where one is in the hand.
    pub(super) fn across(&self) -> f64 {
        match self.instrument.two() {
            [Some(a), Some(b)] => self.grid(0.0).energised().between(a, b),
            _ => 0.0,
        }
    }

    fn press(&mut self) {
        let function = self.instrument.function;
        let mut meter = self.meter();
        let incoming = |one: &Option<Terminal>| matches!(one, Some(Terminal::Incoming(wire)) if *wire != Wire::E);
        let on_incoming = self.instrument.probes.iter().any(incoming);
        if self.state.earth_off && on_incoming && !matches!(function, Function::Loop | Function::QuietLoop) {
            self.blame(Unsafe::LiveWithoutEarth);
            return;
        }
        let across = self.across();
        let tried = self.tried.get(&self.instrument.probes).copied().unwrap_or(0);
        let mut said = String::new();
        self.shown = if function.wants_dead() && across > DEAD_V {
            self.blame(Unsafe::TestedLive);
            MeterDisplay::Live(shown(across, 0))
        } else {
            match function {
                Function::Volts => {
                    let shown = self.instrument.volts(&self.grid(0.0), &mut meter);
                    if let [Some(a), Some(b)] = self.instrument.two() {
                        self.proving.indicated((a, b), across);
                    }
                    shown
                }
                Function::Sequence => self.instrument.sequence(&self.grid(0.0)),
                Function::LowOhm => {
                    self.dead_work();
                    self.instrument.low_ohm(&self.grid(0.0), &mut meter, tried)
                }
                Function::Insulation(volts) => {
                    self.dead_work();
                    self.stressed(volts);
                    let grid = Grid::held(&self.rig, &self.state, f64::from(volts), tried);
                    self.instrument.insulation(&grid, &mut meter)
                }
                Function::Electrode => {
                    self.dead_work();
                    self.instrument.electrode(&self.grid(0.0), &mut meter)
                }
                Function::Loop => self.loops(&mut meter),
                Function::QuietLoop => self.instrument.loop_ohm(&self.grid(0.0), &mut meter),
                Function::TripHalf => self.trips(Multiple::Half, self.instrument.half, &mut meter),
                Function::Trip => self.trips(Multiple::One, self.instrument.half, &mut meter),
                Function::TripFive => self.trips(Multiple::Five, self.instrument.half, &mut meter),
                Function::Series => {
                    let (shown, tests) = self.series(&mut meter);
                    said = tests;
                    shown
                }
            }
        };
        *self.tried.entry(self.instrument.probes).or_default() += 1;
        if matches!(function, Function::Trip | Function::TripFive | Function::TripHalf) {
            said = format!("at {}", self.instrument.half.label());
        }
        self.readings.push(BenchReading { function, probes: self.instrument.probes, shown: self.shown, trip: said });
    }

    /// What work on conductors that should be dead asks first.
    fn dead_work(&mut self) {
        // With a tip in the hand, on a known source, or tips together, nothing of the installation is worked on.
        let [Some(a), Some(b)] = self.instrument.two() else { return };
        if a == b || [a, b].iter().all(|at| matches!(at, Terminal::Known(_) | Terminal::Fixed(..))) {
            return;
        }
        if self.is_live(&[a, b]) {
            self.blame(Unsafe::TestedLive);
        } else {
            self.works_dead();
        }
    }

    /// 500 V between line and neutral breaks electronics.
    fn stressed(&mut self, volts: u16) {
        let [Some(a), Some(b)] = self.instrument.two() else { return };
        for (index, way) in self.rig.ways.iter().enumerate() {
            let Some(point) = way.delicate.filter(|_| volts > DELICATE_V) else { continue };
            let [line, neutral] = [Wire::L1, Wire::N].map(|core| Terminal::Point { way: index, point, core });
            let grid = self.grid(0.0);
            let joined = |x, y| grid.ohm(x, y).is_some_and(|ohm| ohm < JOINED_OHM);
            let across = (joined(a, line) && joined(b, neutral)) || (joined(b, line) && joined(a, neutral));
            if across && !joined(line, neutral) && self.state.broken.insert(index) {
                self.message = format!("{volts} V between line and neutral: what is on way {} is broken.", index + 1);
            }
        }
    }
}

fn put<T: Ord>(set: &mut BTreeSet<T>, what: T, there: bool) {
    if there {
        set.insert(what);
    } else {
        set.remove(&what);
    }
}

fn lead(told: &str) -> String {
    if told.is_empty() { String::new() } else { format!("{told} ") }
}
