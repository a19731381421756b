//! What is wrong with the installation as it is described: sizes, protection, decisions, sources.

use crate::installation::{Decided, Serves, SourceKind};
use crate::quantity::{Amps, Kiloamps};
use rust_decimal::Decimal;
use serde::Serialize;

/// What wants additional protection.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Guards {
    /// Lighting in a dwelling.
    Lighting,
    /// A room with a bath or shower.
    BathOrShower,
    /// A hidden cable.
    HiddenCable,
    /// Mobile equipment outdoors.
    MobileOutdoors,
}

impl From<Serves> for Guards {
    fn from(serves: Serves) -> Self {
        match serves {
            Serves::BathOrShower => Self::BathOrShower,
            Serves::HiddenCable => Self::HiddenCable,
            Serves::MobileOutdoors => Self::MobileOutdoors,
        }
    }
}

/// What is to be decided.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Undecided {
    /// Surge protection.
    Surge,
    /// Arc fault detection.
    Arc,
}

/// What a source lacks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Lacks {
    /// Its board.
    Board,
    /// Where it is isolated.
    Isolator,
    /// Warning notices.
    Notices,
    /// Devices that work in both directions.
    BothWays,
}

/// A flaw. Sizes in mm² copper.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "found", rename_all = "snake_case")]
pub enum Flaw {
    /// The earthing conductor is too thin.
    EarthingThin {
        /// It.
        mm2: f64,
        /// The least.
        least_mm2: f64,
    },
    /// A bond is too thin.
    BondThin {
        /// To what.
        to: String,
        /// It.
        mm2: f64,
        /// The least.
        least_mm2: f64,
    },
    /// The protective conductor of a circuit passes neither by table nor by the equation.
    CpcThin {
        /// It.
        mm2: f64,
        /// By the table.
        table_mm2: f64,
        /// By the adiabatic equation, as far as the device's time is known.
        adiabatic_mm2: Decimal,
    },
    /// It does not withstand what its device lets through.
    CpcLetThrough {
        /// It.
        mm2: f64,
        /// What it withstands, A²s.
        withstands_a2s: i64,
        /// What is let through, A²s.
        let_through_a2s: i64,
    },
    /// It stands apart from the cable and is thinner than that allows.
    CpcApartThin {
        /// It.
        mm2: f64,
        /// The least.
        least_mm2: f64,
    },
    /// No row says whether the protective conductor is large enough.
    CpcNotJudged {
        /// It is steel armour.
        armour: bool,
    },
    /// No row says what the cable carries.
    CapacityNotJudged,
    /// No row says what loop the device needs.
    LoopNotJudged {
        /// The device.
        device: String,
        /// Disconnection time, s.
        seconds: Decimal,
    },
    /// The design current is above the device.
    DesignCurrent {
        /// Ib, A.
        design_a: Amps,
        /// In, A.
        device_a: Amps,
    },
    /// A rewirable fuse above 0.725 of what its cable carries.
    Rewirable {
        /// In, A.
        device_a: Amps,
        /// The most, A.
        most_a: Decimal,
    },
    /// An outlet rated below its device.
    OutletBelow {
        /// Which point.
        point: String,
        /// Its rating, A.
        outlet_a: Amps,
        /// The device, A.
        device_a: Amps,
    },
    /// An industrial outlet of which nobody said the rating.
    OutletUnrated {
        /// Which point.
        point: String,
    },
    /// A main switch that does not break every live conductor.
    SwitchPoles {
        /// How many it breaks.
        poles: u8,
        /// How many it must.
        least: u8,
        /// Since the board is TT, rather than for ordinary persons.
        tt: bool,
    },
    /// A main switch rated below the device before it.
    SwitchBelow {
        /// It, A.
        switch_a: Amps,
        /// What stands before it, A.
        before_a: Amps,
    },
    /// A device marked with what no device of its standard breaks.
    Marking {
        /// Its standard.
        standard: &'static str,
        /// As given.
        ka: Kiloamps,
    },
    /// No additional protection where it is wanted.
    Unprotected {
        /// For what.
        for_what: Guards,
    },
    /// An RCBO without its residual part described.
    RcboUndescribed,
    /// TT, and nothing disconnects a fault to earth.
    TtUnprotected,
    /// A way numbered like a line of another.
    WayClash {
        /// The other.
        other: String,
    },
    /// Surge or arc protection is not decided.
    Undecided {
        /// Which.
        what: Undecided,
    },
    /// Not required, and no reason.
    NoReason {
        /// Which.
        what: Undecided,
    },
    /// Decided one way, described another.
    Contradicted {
        /// Which.
        what: Undecided,
        /// As decided.
        decided: Decided,
    },
    /// Something of another source is wanting.
    Source {
        /// Which.
        kind: SourceKind,
        /// What it lacks.
        lacks: Lacks,
    },
}
