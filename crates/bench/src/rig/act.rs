//! What hands do on the bench, one act at a time, and what comes of it. An act is a line of text; the acts of a session,
//! with its seed, are the session.

use super::grid::Grid;
use super::instrument::{DEAD_V, Function, Instrument, Leads, Shown};
use super::stand::Stand;
use super::terminal::{Side, Terminal};
use super::{Fitting, Residual, Rig};
use crate::meter::{Meter, shown};
use proof_core::conductor::Core;
use rust_decimal::Decimal;
use std::collections::{BTreeMap, BTreeSet};
use std::fmt;

/// Touched with more than this to earth, a part gives a shock, V a.c. Conventional touch voltage limit.
const TOUCH_V: f64 = 50.0;

/// What somebody does.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Act {
    /// The main switch.
    Main(bool),
    /// The lock on it.
    Lock(bool),
    /// The device of a way.
    Way(usize, bool),
    /// A conductor of a way out of its terminal at the board, or back in.
    Tail(usize, Core, bool),
    /// A link between two ends at the board, in or out.
    Link(Terminal, Terminal, bool),
    /// The earthing conductor: on, or off.
    Earth(bool),
    /// A bond: on, or off.
    Bond(usize, bool),
    /// A lamp: in, or out.
    Lamp(usize, usize, bool),
    /// A switch: on, or off.
    Switch(usize, usize, bool),
    /// A probe onto a terminal, or into the hand.
    Probe(usize, Option<Terminal>),
    /// Which probe goes to the next terminal.
    Hand(usize),
    /// The knob.
    Knob(Function),
    /// Other leads.
    Take(Leads),
    /// The null button.
    Null,
    /// The test button.
    Press,
}

/// What is no act: the words, and what is allowed.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("“{0}” is nothing that can be done on the bench")]
pub struct NoAct(pub String);

const fn word(on: bool) -> &'static str {
    if on { "on" } else { "off" }
}

impl fmt::Display for Act {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Main(on) => write!(f, "main {}", word(*on)),
            Self::Lock(on) => write!(f, "lock {}", word(*on)),
            Self::Way(way, on) => write!(f, "way {} {}", way + 1, word(*on)),
            Self::Tail(way, core, on) => write!(f, "tail {} {} {}", way + 1, core.letter(), word(*on)),
            Self::Link(a, b, on) => write!(f, "link {a} {b} {}", word(*on)),
            Self::Earth(on) => write!(f, "earth {}", word(*on)),
            Self::Bond(bond, on) => write!(f, "bond {} {}", bond + 1, word(*on)),
            Self::Lamp(way, point, on) => write!(f, "lamp {} {} {}", way + 1, point + 1, word(*on)),
            Self::Switch(way, point, on) => write!(f, "switch {} {} {}", way + 1, point + 1, word(*on)),
            Self::Probe(probe, Some(at)) => write!(f, "probe {} {at}", probe + 1),
            Self::Probe(probe, None) => write!(f, "probe {} hand", probe + 1),
            Self::Hand(probe) => write!(f, "hand {}", probe + 1),
            Self::Knob(function) => write!(f, "knob {}", function.key()),
            Self::Take(leads) => write!(f, "leads {}", leads.key()),
            Self::Null => f.write_str("null"),
            Self::Press => f.write_str("press"),
        }
    }
}

impl std::str::FromStr for Act {
    type Err = NoAct;

    fn from_str(text: &str) -> Result<Self, NoAct> {
        let words: Vec<&str> = text.split_whitespace().collect();
        let on = |word: &str| match word {
            "on" => Some(true),
            "off" => Some(false),
            _ => None,
        };
        let number = |word: &str| word.parse::<usize>().ok()?.checked_sub(1);
        let core = |word: &str| Core::ALL.into_iter().find(|core| core.letter() == word);
        let found = || match words[..] {
            ["main", state] => Some(Self::Main(on(state)?)),
            ["lock", state] => Some(Self::Lock(on(state)?)),
            ["way", way, state] => Some(Self::Way(number(way)?, on(state)?)),
            ["tail", way, of, state] => Some(Self::Tail(number(way)?, core(of)?, on(state)?)),
            ["link", a, b, state] => {
                let (a, b) = (Terminal::from_key(a)?, Terminal::from_key(b)?);
                (a != b).then_some(Self::Link(a.min(b), a.max(b), on(state)?))
            }
            ["earth", state] => Some(Self::Earth(on(state)?)),
            ["bond", bond, state] => Some(Self::Bond(number(bond)?, on(state)?)),
            ["lamp", way, point, state] => Some(Self::Lamp(number(way)?, number(point)?, on(state)?)),
            ["switch", way, point, state] => Some(Self::Switch(number(way)?, number(point)?, on(state)?)),
            ["probe", probe @ ("1" | "2"), "hand"] => Some(Self::Probe(number(probe)?, None)),
            ["probe", probe @ ("1" | "2"), at] => Some(Self::Probe(number(probe)?, Some(Terminal::from_key(at)?))),
            ["hand", probe @ ("1" | "2")] => Some(Self::Hand(number(probe)?)),
            ["knob", key] => Function::ALL.into_iter().find(|one| one.key() == key).map(Self::Knob),
            ["leads", key] => Leads::ALL.into_iter().find(|one| one.key() == key).map(Self::Take),
            ["null"] => Some(Self::Null),
            ["press"] => Some(Self::Press),
            _ => None,
        };
        found().ok_or_else(|| NoAct(text.chars().take(60).collect()))
    }
}

/// An act that nobody should do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Unsafe {
    /// Work begun without proving dead.
    NotProved,
    /// The indicator was not proved again afterwards.
    ProvedOnce,
    /// Power on a link that was left in.
    LinkLeftIn,
    /// Power on without the earthing conductor.
    EnergisedWithoutEarth,
    /// An ohmmeter or 500 V on live conductors.
    TestedLive,
    /// Hands on live parts.
    TouchedLive,
    /// Something else than the loop tester on live terminals while the earth is off.
    LiveWithoutEarth,
    /// The main switch opened under load.
    UnderLoad,
    /// Work on a board that is off and not locked.
    NotLocked,
}

impl Unsafe {
    /// All of them.
    pub const ALL: [Self; 9] = [
        Self::NotProved,
        Self::ProvedOnce,
        Self::LinkLeftIn,
        Self::EnergisedWithoutEarth,
        Self::TestedLive,
        Self::TouchedLive,
        Self::LiveWithoutEarth,
        Self::UnderLoad,
        Self::NotLocked,
    ];

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::NotProved => "not proved dead before the work began",
            Self::ProvedOnce => "the indicator was not proved again after the board",
            Self::LinkLeftIn => "energised with a link left in",
            Self::EnergisedWithoutEarth => "energised with the earthing conductor off",
            Self::TestedLive => "continuity or insulation tested on live conductors",
            Self::TouchedLive => "hands on live parts",
            Self::LiveWithoutEarth => "live terminals touched while the earth was off",
            Self::UnderLoad => "the main switch was opened under load",
            Self::NotLocked => "worked on a board that was not locked off",
        }
    }

    /// Whether the exercise ends with it.
    pub const fn ends(self) -> bool {
        matches!(self, Self::TouchedLive | Self::LiveWithoutEarth)
    }
}

/// How far dead is proved.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Proving {
    before: bool,
    pairs: BTreeSet<(Core, Core)>,
    after: bool,
}

impl Proving {
    /// Source, three pairs, source.
    pub fn is_done(&self) -> bool {
        self.before && self.pairs.len() == 3 && self.after
    }
}

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
        let [line, neutral, earth] = Core::ALL;
        let pairs = BTreeSet::from([(line, neutral), (line, earth), (neutral, earth)]);
        self.proving = Proving { before: true, pairs, after: true };
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

    /// Hands go to terminals that should be dead.
    fn touches(&mut self, terminals: &[Terminal]) -> bool {
        let grid = self.grid(0.0);
        let energised = grid.energised();
        let live = terminals.iter().any(|terminal| energised.to_earth(*terminal).abs() > TOUCH_V);
        if live {
            self.blame(if self.stand.earth_off { Unsafe::LiveWithoutEarth } else { Unsafe::TouchedLive });
            return false;
        }
        if !self.stand.locked {
            self.blame(Unsafe::NotLocked);
        }
        if !self.proving.is_done() {
            let once = self.proving.before && self.proving.pairs.len() == 3;
            self.blame(if once { Unsafe::ProvedOnce } else { Unsafe::NotProved });
        }
        true
    }

    /// Does one act; one that the installation does not have changes nothing.
    pub fn act(&mut self, act: Act) {
        if self.is_over() {
            return;
        }
        self.acts += 1;
        self.told.clear();
        match act {
            Act::Main(on) => self.main(on),
            Act::Lock(on) => {
                if on && self.stand.main_on {
                    "The main switch is on: it cannot be locked off.".clone_into(&mut self.told);
                } else {
                    self.stand.locked = on;
                }
            }
            Act::Way(way, on) => {
                if let Some(state) = self.stand.ways_on.get_mut(way) {
                    *state = on;
                    self.shorted(way);
                }
            }
            Act::Tail(way, core, on) if way < self.rig.ways.len() => {
                if self.touches(&[Terminal::Tail { way, leg: 1, core }]) {
                    if on {
                        self.stand.out.remove(&(way, core));
                    } else {
                        self.stand.out.insert((way, core));
                    }
                }
            }
            Act::Link(a, b, on) => self.link(a, b, on),
            Act::Earth(on) => {
                // A lock on the main switch is the least; the incoming terminals stay live.
                if self.touches(&[Terminal::Bar(Core::E)]) {
                    self.stand.earth_off = !on;
                }
            }
            Act::Bond(bond, on) if bond < self.rig.bonds.len() => {
                if self.touches(&[Terminal::Metal(bond)]) {
                    if on {
                        self.stand.bonds_off.remove(&bond);
                    } else {
                        self.stand.bonds_off.insert(bond);
                    }
                }
            }
            Act::Lamp(way, point, on) if self.fitting(way, point) == Some(Fitting::Lamp) => {
                if on {
                    self.stand.lamps.insert((way, point));
                } else {
                    self.stand.lamps.remove(&(way, point));
                }
            }
            Act::Switch(way, point, on) if self.fitting(way, point).is_some() => {
                if on {
                    self.stand.switches_off.remove(&(way, point));
                } else {
                    self.stand.switches_off.insert((way, point));
                }
            }
            Act::Probe(probe, at) => {
                let known = at.is_none_or(|at| self.grid(0.0).has(at));
                if let (Some(here), true) = (self.instrument.probes.get_mut(probe), known) {
                    *here = at;
                    self.hand = if at.is_some() { 1 - probe } else { probe };
                    self.shown = Shown::Blank;
                }
            }
            Act::Hand(probe) => self.hand = probe.min(1),
            Act::Knob(function) => {
                self.instrument.function = function;
                self.shown = Shown::Blank;
            }
            Act::Take(leads) => {
                self.instrument.leads = leads;
                self.shown = Shown::Blank;
            }
            Act::Null => self.null(),
            Act::Press => self.press(),
            _ => {}
        }
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
            way_alone > 0.0 && way_alone < 5.0
        });
        if short {
            self.stand.ways_on[way] = false;
            let also = if self.stand.links.is_empty() { "" } else { " A link is in." };
            let label = &self.rig.ways[way].label;
            self.told = format!("{}Way {} {label} went off with a bang.{also}", lead(&self.told), way + 1);
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
                    self.indicated(across);
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
        let at: Vec<Terminal> = self.instrument.probes.iter().flatten().copied().collect();
        // On a known source, or tips together, nothing of the installation is worked on.
        if at.iter().any(|one| !matches!(one, Terminal::Known(_))) && !self.instrument.tips_together() {
            self.touches(&at);
        }
    }

    fn indicated(&mut self, across: f64) {
        let [Some(a), Some(b)] = self.instrument.probes else { return };
        match (a, b) {
            (Terminal::Known(Side::A), Terminal::Known(Side::B))
            | (Terminal::Known(Side::B), Terminal::Known(Side::A)) => {
                if self.proving.pairs.len() == 3 {
                    self.proving.after = true;
                } else {
                    self.proving.before = true;
                }
            }
            (Terminal::Bar(a), Terminal::Bar(b)) if a != b => {
                if across < DEAD_V && self.proving.before {
                    self.proving.pairs.insert((a.min(b), a.max(b)));
                } else if across >= DEAD_V {
                    self.proving = Proving::default();
                }
            }
            _ => {}
        }
    }

    /// 500 V between line and neutral breaks electronics.
    fn stressed(&mut self, volts: u16) {
        let [Some(a), Some(b)] = self.instrument.probes else { return };
        for (index, way) in self.rig.ways.iter().enumerate() {
            let Some(point) = way.delicate.filter(|_| volts > 250) else { continue };
            let [line, neutral] = [Core::L, Core::N].map(|core| Terminal::Point { way: index, point, core });
            let grid = self.grid(0.0);
            let joined = |x, y| grid.ohm(x, y).is_some_and(|ohm| ohm < 1000.0);
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
            matches!(one, Terminal::Point { core: Core::E, .. } | Terminal::Bar(Core::E) | Terminal::Metal(_))
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
        if self.across() < 100.0 {
            return Shown::NoSupply;
        }
        let earth = [a, b].iter().any(|one| matches!(one, Terminal::Point { core: Core::E, .. }));
        let device: Option<(usize, Residual)> =
            a.way().or(b.way()).and_then(|way| Some((way, self.rig.ways.get(way)?.residual?)));
        let Some((way, device)) = device.filter(|_| earth) else { return Shown::NoTrip };
        if multiple < 1.0 {
            return Shown::NoTrip;
        }
        let faster = if multiple > 1.0 { 0.4 } else { 1.0 };
        self.stand.ways_on[way] = false;
        Shown::Millis(shown(device.trips_ms * faster * meter.between(0.95, 1.05), 1))
    }
}

fn lead(told: &str) -> String {
    if told.is_empty() { String::new() } else { format!("{told} ") }
}
