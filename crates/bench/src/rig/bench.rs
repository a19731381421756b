//! A bench at which somebody works: what is there, how it stands, the instrument, and what comes of each act.

use super::act::Act;
use super::grid::Grid;
use super::instrument::{DEAD_V, Function, Instrument, LOOP_V, Shown};
use super::safety::{Proving, Unsafe};
use super::stand::Stand;
use super::terminal::Terminal;
use super::{Fitting, Residual, Rig};
use crate::meter::{Meter, shown};
use proof_core::conductor::Core;
use rust_decimal::Decimal;
use std::collections::{BTreeMap, BTreeSet};

/// Touched with more than this to earth, a part gives a shock, V a.c.: the conventional touch voltage limit (from memory:
/// BS 7671 415.2.2, IEC 61140).
const TOUCH_V: f64 = 50.0;
/// Less than this between the bars through a way trips its device at once, Ω. Invented for the bench: no load reads so low.
const SHORT_OHM: f64 = 5.0;
/// Electronics stand a test voltage up to this between line and neutral, V. Invented for the bench.
const DELICATE_V: u16 = 250;
/// What is joined by copper reads under this, Ω. Invented for the bench.
const JOINED_OHM: f64 = 1000.0;
/// At five times its rated current a residual device takes this share of the time; and how a time scatters. Invented for
/// the bench.
const FIVE_TIMES_FASTER: f64 = 0.4;
const TRIP_SCATTER: f64 = 0.05;

/// A reading that was taken.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Taken {
    /// What the knob stood at.
    pub function: Function,
    /// Where the probes were.
    pub probes: [Option<Terminal>; 2],
    /// What was shown.
    pub shown: Shown,
}

/// A bench at which somebody works.
#[derive(Debug, Clone, PartialEq)]
pub struct Bench {
    /// What is there.
    pub rig: Rig,
    /// How it stands.
    pub stand: Stand,
    /// The instrument.
    pub instrument: Instrument,
    /// Which probe goes to the next terminal.
    pub hand: usize,
    /// What it shows.
    pub shown: Shown,
    /// How far dead is proved.
    pub proving: Proving,
    /// What was read, in order.
    pub taken: Vec<Taken>,
    /// What should not have been done, each once.
    pub unsafe_acts: Vec<Unsafe>,
    /// How many acts so far.
    pub acts: usize,
    /// What came of the last act, in words; empty: nothing to tell.
    pub told: String,
    seed: u64,
    tried: BTreeMap<[Option<Terminal>; 2], u32>,
}

impl Bench {
    /// A bench; what the instrument scatters follows from the seed.
    pub fn new(rig: Rig, stand: Stand, seed: u64) -> Self {
        Self {
            rig,
            stand,
            instrument: Instrument::default(),
            hand: 0,
            shown: Shown::Blank,
            proving: Proving::default(),
            taken: Vec::new(),
            unsafe_acts: Vec::new(),
            acts: 0,
            told: String::new(),
            seed,
            tried: BTreeMap::new(),
        }
    }

    /// The same, dead and proved so a moment ago by whoever works at it.
    #[must_use]
    pub fn proved(mut self) -> Self {
        self.proving = Proving::done();
        self
    }

    /// It has come to a bad end: nothing more is done.
    pub fn is_over(&self) -> bool {
        self.unsafe_acts.iter().any(|act| act.ends())
    }

    fn grid(&self, volts: f64) -> Grid {
        Grid::new(&self.rig, &self.stand, volts)
    }

    fn blame(&mut self, what: Unsafe) {
        if !self.unsafe_acts.contains(&what) {
            self.unsafe_acts.push(what);
        }
        self.told = format!("Unsafe: {}.", what.label());
    }

    /// Whether any of some terminals gives a shock.
    fn is_live(&self, terminals: &[Terminal]) -> bool {
        let grid = self.grid(0.0);
        let energised = grid.energised();
        terminals.iter().any(|terminal| energised.to_earth(*terminal).abs() > TOUCH_V)
    }

    /// Hands go to terminals that should be dead; whether they may.
    fn touches(&mut self, terminals: &[Terminal]) -> bool {
        if self.is_live(terminals) {
            self.blame(if self.stand.earth_off { Unsafe::LiveWithoutEarth } else { Unsafe::TouchedLive });
            return false;
        }
        self.works_dead();
        true
    }

    /// What work on dead conductors asks first: a lock, and proof.
    fn works_dead(&mut self) {
        if !self.stand.locked {
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
        self.told.clear();
        match act {
            Act::Tail(..) | Act::Earth(_) | Act::Bond(..) => self.hands(act),
            Act::Link(a, b, on) => self.link(a, b, on),
            Act::Probe(..) | Act::Hand(_) | Act::Knob(_) | Act::Take(_) => self.set(act),
            Act::Null => self.null(),
            Act::Press => self.press(),
            _ => self.throw(act),
        }
    }

    /// What is switched, locked, or put into a holder: no hands on conductors.
    fn throw(&mut self, act: Act) {
        match act {
            Act::Main(on) => self.main(on),
            Act::Lock(true) if self.stand.main_on => {
                "The main switch is on: it cannot be locked off.".clone_into(&mut self.told);
            }
            Act::Lock(on) => self.stand.locked = on,
            Act::Way(way, on) if way < self.stand.ways_on.len() => {
                self.stand.ways_on[way] = on;
                if on && self.stand.main_on && !self.stand.links.is_empty() {
                    self.blame(Unsafe::LinkLeftIn);
                }
                self.shorted(way);
            }
            Act::Lamp(way, point, on) if self.fitting(way, point) == Some(Fitting::Lamp) => {
                put(&mut self.stand.lamps, (way, point), on);
            }
            Act::Switch(way, point, on) if self.fitting(way, point).is_some() => {
                put(&mut self.stand.switches_off, (way, point), !on);
            }
            _ => {}
        }
    }

    /// Conductors out of their terminals, and in again.
    fn hands(&mut self, act: Act) {
        let at = match act {
            Act::Tail(way, core, _) if way < self.rig.ways.len() => Terminal::Tail { way, leg: 1, core },
            // Below the main switch, which the lock holds; the incoming terminals stay live.
            Act::Earth(_) => Terminal::Bar(Core::E),
            Act::Bond(bond, _) if bond < self.rig.bonds.len() => Terminal::Metal(bond),
            _ => return,
        };
        if !self.touches(&[at]) {
            return;
        }
        match act {
            Act::Tail(way, core, on) => put(&mut self.stand.out, (way, core), !on),
            Act::Bond(bond, on) => put(&mut self.stand.bonds_off, bond, !on),
            Act::Earth(on) => self.stand.earth_off = !on,
            _ => {}
        }
    }

    /// The instrument in the hand.
    fn set(&mut self, act: Act) {
        match act {
            Act::Probe(probe, at) if probe < 2 && at.is_none_or(|at| self.grid(0.0).has(at)) => {
                self.instrument.probes[probe] = at;
                self.hand = if at.is_some() { 1 - probe } else { probe };
            }
            Act::Hand(probe) => {
                self.hand = probe.min(1);
                return;
            }
            Act::Knob(function) => self.instrument.function = function,
            Act::Take(leads) => self.instrument.leads = leads,
            _ => return,
        }
        self.shown = Shown::Blank;
    }

    fn fitting(&self, way: usize, point: usize) -> Option<Fitting> {
        self.rig.ways.get(way)?.fittings.get(point).copied()
    }

    fn main(&mut self, on: bool) {
        if !on {
            if self.stand.main_on && self.stand.ways_on.contains(&true) && !self.stand.lamps.is_empty() {
                self.blame(Unsafe::UnderLoad);
            }
            self.stand.main_on = false;
            return;
        }
        if self.stand.locked {
            "It is locked off: the lock comes off first.".clone_into(&mut self.told);
            return;
        }
        self.stand.main_on = true;
        self.proving = Proving::default();
        if self.stand.earth_off {
            self.blame(Unsafe::EnergisedWithoutEarth);
        }
        if !self.stand.links.is_empty() {
            self.blame(Unsafe::LinkLeftIn);
        }
        for way in 0..self.rig.ways.len() {
            self.shorted(way);
        }
    }

    /// A device that comes on to a short goes off again.
    fn shorted(&mut self, way: usize) {
        if !self.stand.main_on || !self.stand.ways_on.get(way).copied().unwrap_or_default() {
            return;
        }
        let grid = self.grid(super::SUPPLY_V);
        let [line, neutral, earth] = Core::ALL.map(Terminal::Bar);
        let short = [(line, neutral), (line, earth)].iter().any(|(a, b)| {
            let mut open = self.stand.clone();
            open.ways_on[way] = false;
            let without = Grid::new(&self.rig, &open, super::SUPPLY_V).ohm(*a, *b).unwrap_or(f64::INFINITY);
            let with = grid.ohm(*a, *b).unwrap_or(f64::INFINITY);
            // What the way alone puts across the bars, Ω.
            let way_alone = 1.0 / (1.0 / with - 1.0 / without);
            way_alone > 0.0 && way_alone < SHORT_OHM
        });
        if short {
            self.stand.ways_on[way] = false;
            let also = if self.stand.links.is_empty() { "" } else { " A link is in." };
            let label = &self.rig.ways[way].label;
            self.told = format!("{}Way {} {label} tripped at once: a short circuit.{also}", lead(&self.told), way + 1);
        }
    }

    fn link(&mut self, a: Terminal, b: Terminal, on: bool) {
        let at_board = |one: &Terminal| matches!(one, Terminal::Tail { .. } | Terminal::Bar(_) | Terminal::Incoming(_));
        let grid = self.grid(0.0);
        if !(at_board(&a) && at_board(&b) && grid.has(a) && grid.has(b)) {
            "A link is made between two ends at the board.".clone_into(&mut self.told);
            return;
        }
        if self.touches(&[a, b]) {
            if on {
                self.stand.links.insert((a, b));
            } else {
                self.stand.links.remove(&(a, b));
            }
        }
    }

    fn meter(&self) -> Meter {
        Meter::new(self.seed ^ (self.acts as u64).wrapping_mul(0x9E37_79B9_7F4A_7C15))
    }

    fn null(&mut self) {
        if self.instrument.function != Function::LowOhm {
            "Null belongs to the low range: turn the knob to low Ω.".clone_into(&mut self.told);
            return;
        }
        let across = self.across();
        if across > DEAD_V {
            self.blame(Unsafe::TestedLive);
            self.shown = Shown::Live(shown(across, 0));
            return;
        }
        let (grid, mut meter) = (self.grid(0.0), self.meter());
        if let Some(ohm) = self.instrument.nulls(&grid, &mut meter) {
            self.instrument.null = Some((self.instrument.leads, ohm));
            self.shown = Shown::Ohm(Decimal::ZERO);
        } else {
            "Not nulled: it reads more than leads do. Hold the tips firmly together.".clone_into(&mut self.told);
            self.shown = Shown::OverOhm;
        }
    }

    /// Voltage between the probes, V; nought where one is in the hand.
    fn across(&self) -> f64 {
        match self.instrument.probes {
            [Some(a), Some(b)] => self.grid(0.0).energised().between(a, b),
            _ => 0.0,
        }
    }

    fn press(&mut self) {
        let function = self.instrument.function;
        let mut meter = self.meter();
        let incoming = |one: &Option<Terminal>| matches!(one, Some(Terminal::Incoming(Core::L | Core::N)));
        let on_incoming = self.instrument.probes.iter().any(incoming);
        if self.stand.earth_off && on_incoming && !matches!(function, Function::Loop | Function::QuietLoop) {
            self.blame(Unsafe::LiveWithoutEarth);
            return;
        }
        let across = self.across();
        let tried = self.tried.get(&self.instrument.probes).copied().unwrap_or(0);
        self.shown = if function.wants_dead() && across > DEAD_V {
            self.blame(Unsafe::TestedLive);
            Shown::Live(shown(across, 0))
        } else {
            match function {
                Function::Volts => {
                    let shown = self.instrument.volts(&self.grid(0.0), &mut meter);
                    if let [Some(a), Some(b)] = self.instrument.probes {
                        self.proving.indicated((a, b), across);
                    }
                    shown
                }
                Function::LowOhm => {
                    self.dead_work();
                    self.instrument.low_ohm(&self.grid(0.0), &mut meter, tried)
                }
                Function::Insulation(volts) => {
                    self.dead_work();
                    self.stressed(volts);
                    self.instrument.insulation(&self.grid(f64::from(volts)), &mut meter)
                }
                Function::Loop => self.loops(&mut meter),
                Function::QuietLoop => self.instrument.loop_ohm(&self.grid(0.0), &mut meter),
                Function::TripHalf => self.trips(0.5, &mut meter),
                Function::Trip => self.trips(1.0, &mut meter),
                Function::TripFive => self.trips(5.0, &mut meter),
            }
        };
        *self.tried.entry(self.instrument.probes).or_default() += 1;
        self.taken.push(Taken { function, probes: self.instrument.probes, shown: self.shown });
    }

    /// What work on conductors that should be dead asks first.
    fn dead_work(&mut self) {
        // With a tip in the hand, on a known source, or tips together, nothing of the installation is worked on.
        let [Some(a), Some(b)] = self.instrument.probes else { return };
        if a == b || matches!((a, b), (Terminal::Known(_), Terminal::Known(_))) {
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
        let [Some(a), Some(b)] = self.instrument.probes else { return };
        for (index, way) in self.rig.ways.iter().enumerate() {
            let Some(point) = way.delicate.filter(|_| volts > DELICATE_V) else { continue };
            let [line, neutral] = [Core::L, Core::N].map(|core| Terminal::Point { way: index, point, core });
            let grid = self.grid(0.0);
            let joined = |x, y| grid.ohm(x, y).is_some_and(|ohm| ohm < JOINED_OHM);
            let across = (joined(a, line) && joined(b, neutral)) || (joined(b, line) && joined(a, neutral));
            if across && !joined(line, neutral) && self.stand.broken.insert(index) {
                self.told = format!("{volts} V between line and neutral: what is on way {} is broken.", index + 1);
            }
        }
    }

    fn loops(&mut self, meter: &mut Meter) -> Shown {
        let read = self.instrument.loop_ohm(&self.grid(0.0), meter);
        let [Some(a), Some(b)] = self.instrument.probes else { return read };
        let to_earth = [a, b].iter().any(|one| {
            matches!(
                one,
                Terminal::Point { core: Core::E, .. }
                    | Terminal::Bar(Core::E)
                    | Terminal::Metal(_)
                    | Terminal::BondEnd(_)
            )
        });
        let way = a.way().or(b.way());
        if let (Shown::Loop(_), true, Some(way)) = (read, to_earth, way)
            && self.rig.ways[way].residual.is_some()
        {
            self.stand.ways_on[way] = false;
            self.told =
                format!("The residual device of way {} went off: the test current is over its rated one.", way + 1);
            return Shown::Tripped;
        }
        read
    }

    fn trips(&mut self, multiple: f64, meter: &mut Meter) -> Shown {
        let [Some(a), Some(b)] = self.instrument.probes else { return Shown::Open };
        if self.across() < LOOP_V {
            return Shown::NoSupply;
        }
        let earth = [a, b].iter().any(|one| matches!(one, Terminal::Point { core: Core::E, .. }));
        let device: Option<(usize, Residual)> =
            a.way().or(b.way()).and_then(|way| Some((way, self.rig.ways.get(way)?.residual?)));
        let Some((way, device)) = device.filter(|_| earth) else { return Shown::NoTrip };
        if multiple < 1.0 {
            return Shown::NoTrip;
        }
        let faster = if multiple > 1.0 { FIVE_TIMES_FASTER } else { 1.0 };
        self.stand.ways_on[way] = false;
        Shown::Millis(shown(device.trips_ms * faster * meter.between(1.0 - TRIP_SCATTER, 1.0 + TRIP_SCATTER), 1))
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
