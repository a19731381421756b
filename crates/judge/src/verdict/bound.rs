//! What a reading is held to.

use proof_standard::quantity::Millis;
use rust_decimal::Decimal;
use serde::Serialize;

/// A path that is complete, or is not.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Path {
    /// The conductors of a circuit.
    Conductors,
    /// A bond.
    Bond,
    /// The earthing conductor.
    EarthingConductor,
    /// From the origin through the earth of the supply.
    Supply,
    /// Through an electrode.
    Electrode,
    /// Through a circuit, live.
    Loop,
}

impl Path {
    pub(super) const fn rule(self) -> &'static str {
        match self {
            Self::Conductors => "conductors are continuous",
            Self::Bond => "the bond is continuous",
            Self::EarthingConductor => "the earthing conductor is continuous",
            Self::Supply => "the earth path is complete",
            Self::Electrode => "the electrode is in contact with earth",
            Self::Loop => "the loop is complete",
        }
    }
}

/// What a reading is held to.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "is", rename_all = "snake_case")]
pub enum Bound {
    /// Not above it.
    AtMost {
        /// The limit.
        most: Decimal,
        /// Its unit.
        unit: &'static str,
    },
    /// Not below it.
    AtLeast {
        /// The limit.
        least: Decimal,
        /// Its unit.
        unit: &'static str,
    },
    /// An electrode, by the touch voltage at IΔn.
    Electrode {
        /// The limit, Ω.
        most_ohm: Decimal,
        /// The touch voltage that was found, V.
        touch_v: Decimal,
    },
    /// It must not trip.
    NoTrip,
    /// It trips within these, ms.
    Trips {
        /// Not sooner.
        min_ms: Option<Millis>,
        /// Not later.
        max_ms: Millis,
    },
    /// It is complete.
    Complete(Path),
    /// Nothing is read with the switch open.
    Opens,
    /// It was found right.
    Right,
}

/// Which loop stands above a circuit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Above {
    /// Ze as read.
    Ze,
    /// The loop at a board below the origin.
    Zdb,
    /// The declared maximum of the supply: nothing was read.
    Declared,
}

impl Above {
    /// As it stands in a line of working.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Ze => "Ze as read",
            Self::Zdb => "Zdb",
            Self::Declared => "declared Ze",
        }
    }
}
