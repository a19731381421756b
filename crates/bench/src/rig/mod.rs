//! A wired installation to put probes on: what is there, what hands have done to it, what an instrument shows.
//!
//! Everything electrical is one network of resistors: copper in mΩ, insulation in MΩ, the winding of a source a link.
//! [`wiring`] builds it from what is there and how it stands; dead resistances, insulation, loops and voltages are all read
//! from it by [`grid`]. Left out: reactance, and what flows while something trips.

pub mod act;
pub mod bench;
pub mod grid;
pub mod instrument;
pub mod safety;
pub mod stand;
pub mod terminal;
mod tripping;
mod wiring;

use proof_physics::network::description::Description;
use proof_standard::limits::rcd::RcdKind;
use terminal::Wire;

/// Between a line and the star point of the supply, V: nominal, [`proof_standard::limits::supply::U0_V`].
pub const SUPPLY_V: f64 = 230.0;

/// What is joined by copper reads under this, Ω. Invented for the bench.
pub const JOINED_OHM: f64 = 1000.0;

/// Where the power comes from. What is broken is infinite.
#[derive(Debug, Clone, PartialEq)]
pub struct Supply {
    /// Each line, from the star point to the incoming terminals, Ω.
    pub line_ohm: f64,
    /// Neutral, the same way back, Ω.
    pub neutral_ohm: f64,
    /// Earthing conductor and what it leads to, back to the star point, Ω; infinite with an electrode of its own.
    pub earth_ohm: f64,
    /// What neutral and earth share upstream, Ω: zero where they are separate.
    pub shared_ohm: f64,
    /// Line and neutral of the supply change places at the incoming terminals.
    pub reversed: bool,
    /// It has three lines.
    pub three_phase: bool,
    /// The second line and the third change places.
    pub turns_back: bool,
}

impl Supply {
    /// One line with so much loop to earth and to neutral, Ω.
    pub fn from_loops(ze_ohm: f64, neutral_ohm: f64) -> Self {
        let line_ohm = ze_ohm.min(neutral_ohm) / 2.0;
        Self {
            line_ohm,
            neutral_ohm: neutral_ohm - line_ohm,
            earth_ohm: ze_ohm - line_ohm,
            shared_ohm: 0.0,
            reversed: false,
            three_phase: false,
            turns_back: false,
        }
    }

    /// Loop at the origin, line to earth, of the supply's own earth, Ω.
    pub fn ze_ohm(&self) -> f64 {
        let line = if self.reversed { self.neutral_ohm } else { self.line_ohm };
        line + self.earth_ohm
    }

    /// What comes in.
    pub const fn wires(&self) -> &'static [Wire] {
        if self.three_phase { &Wire::THREE } else { &Wire::SINGLE }
    }
}

/// What a point is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fitting {
    /// A socket-outlet.
    Socket,
    /// A lamp: behind its switch, or behind the switches of its way.
    Lamp,
    /// Something connected for good.
    Fixed,
    /// A switch with a common and two strappers.
    TwoWay,
    /// A switch between strappers.
    Intermediate,
    /// A motor behind its isolator: windings between lines.
    Motor,
    /// Supplies a board.
    Board,
}

/// A path that should not be there, or a load.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Leak {
    /// Between which two conductors.
    pub between: [Wire; 2],
    /// At which point of the circuit, from zero.
    pub point: usize,
    /// Its resistance, MΩ.
    pub megohm: f64,
    /// It conducts above this alone, V: a neon, a surge device; zero: always.
    pub above_v: f64,
    /// It reads lower at first and creeps up while the test goes on: this share of it is missing at the first press.
    pub creeps: f64,
}

/// A residual device of a way.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Residual {
    /// Rated residual current, mA.
    pub rated_ma: f64,
    /// With a delay or without.
    pub kind: RcdKind,
    /// How long it takes at its rated current, ms, on the half-cycle of 0° and of 180°.
    pub trips_ms: [f64; 2],
}

impl Residual {
    /// One without delay that takes so long on either half-cycle, ms.
    pub const fn general(rated_ma: f64, trips_ms: f64) -> Self {
        Self { rated_ma, kind: RcdKind::General, trips_ms: [trips_ms, trips_ms] }
    }
}

/// What a way takes from its board.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Feed {
    /// One line of it.
    One(Wire),
    /// All three.
    Three,
}

/// What is wrong at the switches of a way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AtSwitch {
    /// Two conductors change places at the terminals of a point.
    Changed(usize, [Wire; 2]),
    /// A strapper is broken after a point.
    Broken(usize, Wire),
}

/// A way of a board with its circuit.
#[derive(Debug, Clone, PartialEq)]
pub struct Way {
    /// What the chart of the board says.
    pub label: String,
    /// Its device, such as B32.
    pub device: String,
    /// Which board: zero the main one, else the sub-board of that number.
    pub board: usize,
    /// What it takes.
    pub feed: Feed,
    /// A residual device in the way.
    pub residual: Option<Residual>,
    /// The circuit as it is built, faults and all.
    pub cable: Description,
    /// What each point is, in the order of the description.
    pub fittings: Vec<Fitting>,
    /// What is wrong at its switches.
    pub at_switches: Vec<AtSwitch>,
    /// Paths between its conductors.
    pub leaks: Vec<Leak>,
    /// Electronics that 500 V between line and neutral breaks, at a point.
    pub delicate: Option<usize>,
    /// Behind a safety transformer: its voltage, V.
    pub selv_v: Option<f64>,
}

impl Way {
    /// A single-phase way of the main board, sound.
    pub fn new(label: &str, device: &str, cable: Description, fittings: Vec<Fitting>) -> Self {
        Self {
            label: label.to_owned(),
            device: device.to_owned(),
            board: 0,
            feed: Feed::One(Wire::L1),
            residual: None,
            cable,
            fittings,
            at_switches: Vec::new(),
            leaks: Vec::new(),
            delicate: None,
            selv_v: None,
        }
    }

    /// Its conductors.
    pub const fn wires(&self) -> &'static [Wire] {
        match self.feed {
            Feed::One(_) => &Wire::SINGLE,
            Feed::Three => &Wire::THREE,
        }
    }

    /// The points where its light is switched from, in order: none where each lamp has a switch of its own.
    pub fn switches(&self) -> Vec<usize> {
        let turns = |fitting: &Fitting| matches!(fitting, Fitting::TwoWay | Fitting::Intermediate);
        self.fittings.iter().enumerate().filter(|(_, fitting)| turns(fitting)).map(|(point, _)| point).collect()
    }
}

/// A board that a way of another feeds.
#[derive(Debug, Clone, PartialEq)]
pub struct SubBoard {
    /// Its name.
    pub name: String,
    /// The way that feeds it, which stands before its own ways.
    pub fed_by: usize,
}

/// A source of the installation's own, at the last point of a way, its neutral joined to earth.
#[derive(Debug, Clone, PartialEq)]
pub struct Second {
    /// What it is.
    pub name: String,
    /// Which way it feeds back through.
    pub way: usize,
    /// Inner resistance, Ω; infinite: not connected yet.
    pub ohm: f64,
}

/// A bond of the main earthing terminal to something of metal.
#[derive(Debug, Clone, PartialEq)]
pub struct Bond {
    /// What it is joined to.
    pub to: String,
    /// Conductor and clamp, Ω.
    pub ohm: f64,
    /// The metal's own way to earth, Ω.
    pub ground_ohm: f64,
}

/// A whole installation.
#[derive(Debug, Clone, PartialEq)]
pub struct Rig {
    /// Its supply.
    pub supply: Supply,
    /// Boards beside the main one.
    pub boards: Vec<SubBoard>,
    /// The ways of its boards, in order.
    pub ways: Vec<Way>,
    /// Its bonds.
    pub bonds: Vec<Bond>,
    /// An electrode of its own, Ω to the mass of earth.
    pub electrode_ohm: Option<f64>,
    /// Another source.
    pub second: Option<Second>,
    /// A surge device at the main board, which conducts above its voltage, MΩ there.
    pub surge_megohm: Option<f64>,
    /// How warm its copper is, °C. The resistances of its cables are those at it.
    pub copper_c: f64,
}

impl Rig {
    /// One board with its ways.
    pub const fn new(supply: Supply, ways: Vec<Way>, bonds: Vec<Bond>) -> Self {
        Self {
            supply,
            boards: Vec::new(),
            ways,
            bonds,
            electrode_ohm: None,
            second: None,
            surge_megohm: None,
            copper_c: 20.0,
        }
    }

    /// The way that feeds the board of a way.
    pub fn feeder(&self, way: usize) -> Option<usize> {
        let board = self.ways.get(way)?.board.checked_sub(1)?;
        // What feeds a board stands before its ways, or nothing is fed.
        self.boards.get(board).map(|board| board.fed_by).filter(|fed_by| *fed_by < way)
    }

    /// A way and those upstream of it.
    pub fn upstream(&self, way: usize) -> Vec<usize> {
        std::iter::successors(Some(way), |way| self.feeder(*way)).collect()
    }
}

#[cfg(test)]
mod tests {
    #[test]
    fn the_supply_is_the_nominal_one() {
        let nominal = proof_standard::quantity::approximate(*proof_standard::limits::supply::U0_V);
        assert!((super::SUPPLY_V - nominal).abs() < f64::EPSILON);
    }
}
