//! A wired installation to put probes on: what is there, what hands have done to it, what an instrument shows.
//!
//! Everything electrical is one network of resistors: copper in mΩ, insulation in MΩ, the winding of the supply a link.
//! [`grid`] builds it from what is there and how it stands; dead resistances, insulation, loops and voltages are all read
//! from it. Left out: reactance, and what flows while something trips.

pub mod act;
pub mod bench;
pub mod grid;
pub mod instrument;
pub mod safety;
pub mod stand;
pub mod terminal;

use proof_core::conductor::Core;
use proof_core::network::description::Description;

/// Between a line and the star point of the supply, V: nominal, [`proof_core::standard::supply::U0_V`].
pub const SUPPLY_V: f64 = 230.0;

/// Where the power comes from.
#[derive(Debug, Clone, PartialEq)]
pub struct Supply {
    /// Line, from the star point to the incoming terminals, Ω.
    pub line_ohm: f64,
    /// Neutral, the same way back, Ω.
    pub neutral_ohm: f64,
    /// Earthing conductor and what it leads to, back to the star point, Ω.
    pub earth_ohm: f64,
    /// Line and neutral of the supply change places at the incoming terminals.
    pub reversed: bool,
}

impl Supply {
    /// Loop at the origin, line to earth, Ω.
    pub fn ze_ohm(&self) -> f64 {
        let line = if self.reversed { self.neutral_ohm } else { self.line_ohm };
        line + self.earth_ohm
    }
}

/// What a point is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fitting {
    /// A socket-outlet.
    Socket,
    /// A lamp behind its switch.
    Lamp,
    /// Something connected for good.
    Fixed,
}

/// A path that should not be there, or a load.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Leak {
    /// Between which two conductors.
    pub between: [Core; 2],
    /// At which point of the circuit, from nought.
    pub point: usize,
    /// Its resistance, MΩ.
    pub megohm: f64,
    /// It conducts above this alone, V: a neon, a surge device; nought: always.
    pub above_v: f64,
}

/// A residual device of a way.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Residual {
    /// Rated residual current, mA.
    pub rated_ma: f64,
    /// How long it takes at its rated current, ms.
    pub trips_ms: f64,
}

/// A way of the board with its circuit.
#[derive(Debug, Clone, PartialEq)]
pub struct Way {
    /// What the chart of the board says.
    pub label: String,
    /// Its device, such as B32.
    pub device: String,
    /// A residual device in the way.
    pub residual: Option<Residual>,
    /// The circuit as it is built, faults and all.
    pub cable: Description,
    /// What each point is, in the order of the description.
    pub fittings: Vec<Fitting>,
    /// Paths between its conductors.
    pub leaks: Vec<Leak>,
    /// Electronics that 500 V between line and neutral breaks, at a point.
    pub delicate: Option<usize>,
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
    /// The ways of its board, in order.
    pub ways: Vec<Way>,
    /// Its bonds.
    pub bonds: Vec<Bond>,
}

#[cfg(test)]
mod tests {
    #[test]
    fn the_supply_is_the_nominal_one() {
        let nominal = proof_core::quantity::approximate(*proof_core::standard::supply::U0_V);
        assert!((super::SUPPLY_V - nominal).abs() < f64::EPSILON);
    }
}
