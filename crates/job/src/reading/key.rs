//! What supersedes what: a reading is keyed by what it is of, the test, the pair, the line, the method.

use crate::installation::{PointId, Position};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::limits::rcd::{HalfCycle, Multiple};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Where on a circuit a reading is taken.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "at", rename_all = "snake_case", deny_unknown_fields)]
pub enum Place {
    /// At the board, of the circuit as a whole.
    Board,
    /// At a point.
    Point {
        /// Which.
        point: PointId,
    },
    /// At the second (third …) outlet of a point.
    Outlet {
        /// Which point.
        point: PointId,
        /// Which outlet, from 2.
        outlet: u8,
    },
    /// At a switch, in a position.
    Switch {
        /// Which point.
        point: PointId,
        /// Closed or open, or the route of a two-way switch.
        position: Position,
    },
    /// At a point, with two-way or intermediate switches thrown from where it first read.
    Switched {
        /// Which point.
        point: PointId,
        /// The switches thrown since, in the order of the line.
        thrown: Vec<PointId>,
    },
    /// On the metal itself beside a point.
    Metalwork {
        /// Which point.
        point: PointId,
        /// What metal.
        name: String,
    },
}

impl Place {
    /// Whether nothing should be read through: a switch open, an outlet switched off, an odd number of
    /// two-way switches thrown.
    pub fn expects_open(&self) -> bool {
        match self {
            Self::Switch { position, .. } => position.opens(),
            Self::Switched { thrown, .. } => thrown.len() % 2 == 1,
            _ => false,
        }
    }

    /// The point, unless it is the board.
    pub const fn point(&self) -> Option<PointId> {
        match self {
            Self::Board => None,
            Self::Point { point }
            | Self::Outlet { point, .. }
            | Self::Switch { point, .. }
            | Self::Switched { point, .. }
            | Self::Metalwork { point, .. } => Some(*point),
        }
    }
}

/// What a reading is of.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "of", rename_all = "snake_case", deny_unknown_fields)]
pub enum Subject {
    /// The supply at the origin; the line stands in the key.
    Supply,
    /// A bonding conductor.
    Bond {
        /// Which.
        bond: Uuid,
    },
    /// A board as a whole.
    Board {
        /// Which.
        board: Uuid,
    },
    /// A set of circuits read together, such as the whole board's insulation.
    CircuitSet {
        /// Which circuits.
        circuits: Vec<Uuid>,
    },
    /// A place on a circuit.
    Place {
        /// Which circuit.
        circuit: Uuid,
        /// Where on it.
        place: Place,
    },
}

impl Subject {
    /// The one circuit that the reading belongs to, if it belongs to one.
    pub const fn circuit(&self) -> Option<Uuid> {
        match self {
            Self::Place { circuit, .. } => Some(*circuit),
            _ => None,
        }
    }

    /// Where on a circuit it is, if it is on one.
    pub const fn place(&self) -> Option<&Place> {
        match self {
            Self::Place { place, .. } => Some(place),
            _ => None,
        }
    }
}

/// A kind of test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "test", rename_all = "snake_case", deny_unknown_fields)]
pub enum Test {
    /// Between the two ends of one conductor of a ring: r1, rn, r2.
    RingEndToEnd {
        /// L, N or E.
        conductor: Conductor,
    },
    /// At the board with the links made, before walking.
    RingBoardCheck,
    /// Line and neutral linked at the board, read at a point.
    R1Rn,
    /// Line and CPC linked at the board, read at a point.
    R1R2,
    /// CPC by long lead.
    R2,
    /// Insulation between a pair of conductors.
    Insulation,
    /// Insulation of all live conductors joined together to earth.
    InsulationJoined,
    /// Polarity of a circuit.
    Polarity,
    /// External earth fault loop impedance, earth disconnected.
    Ze,
    /// Polarity of the supply.
    SupplyPolarity,
    /// Prospective fault current, line to neutral or line to earth.
    FaultCurrent,
    /// Earth fault loop impedance of a circuit.
    Zs,
    /// Line–neutral loop impedance of a circuit.
    LineNeutralLoop,
    /// RCD trip time.
    RcdTrip {
        /// Multiple of IΔn.
        multiple: Multiple,
        /// Half-cycle.
        half_cycle: HalfCycle,
    },
    /// RCD test button.
    RcdButton,
    /// AFDD test button.
    AfddButton,
    /// Continuity of a bond.
    BondContinuity,
    /// Continuity of the earthing conductor.
    EarthingConductor,
    /// Resistance of an earth electrode.
    Electrode,
    /// Phase sequence.
    PhaseSequence,
    /// Functional test.
    Functional,
    /// What the indicator of surge protection shows.
    SurgeIndicator,
    /// Labels, notices and the circuit chart.
    Labelling,
}

/// How a reading was had, where there is more than one way.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Method {
    /// By instrument.
    #[default]
    Instrument,
    /// By long lead.
    LongLead,
    /// By eye.
    ByEye,
    /// Worked out from other readings.
    Summed,
    /// Dead, one conductor after the other followed from end to end.
    EndToEnd,
}

/// What supersedes what: two readings with the same key are repeats of one another.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Key {
    /// What it is of.
    pub subject: Subject,
    /// Which test.
    pub test: Test,
    /// Between which conductors, where that is a question.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pair: Option<Pair>,
    /// Which line of three.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub line: Option<Conductor>,
    /// By which method.
    #[serde(default)]
    pub method: Method,
}

impl Key {
    /// A reading of a test at a place on a circuit.
    pub const fn on_circuit(circuit: Uuid, place: Place, test: Test) -> Self {
        Self { subject: Subject::Place { circuit, place }, test, pair: None, line: None, method: Method::Instrument }
    }

    /// A reading of the supply.
    pub const fn for_supply(test: Test) -> Self {
        Self { subject: Subject::Supply, test, pair: None, line: None, method: Method::Instrument }
    }

    /// Whether insulation is read to earth: live conductors joined are read so too.
    pub fn is_to_earth(&self) -> bool {
        self.pair.is_none_or(Pair::is_to_earth)
    }

    /// The same between a pair.
    #[must_use]
    pub const fn between(mut self, pair: Pair) -> Self {
        self.pair = Some(pair);
        self
    }

    /// The same on one line of three.
    #[must_use]
    pub const fn on_line(mut self, line: Option<Conductor>) -> Self {
        self.line = line;
        self
    }
}
