//! Points of a circuit: what stands there, and what hangs on it.

use super::point_id::PointId;
use crate::installation::{Cable, Feeds};
use proof_standard::quantity::{Amps, Metres};
use serde::{Deserialize, Serialize};

/// A point of a circuit: an accessory, in the order of the cable as far as known.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Point {
    /// Its number in the circuit.
    pub id: PointId,
    /// Its name on the drawing.
    pub name: String,
    /// The point that a spur leaves from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub spur_from: Option<PointId>,
    /// Cable from the previous main-line point (or from `spur_from`).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub leg_m: Option<Metres>,
    /// Cable of that leg, where it differs from the circuit's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cable: Option<Cable>,
    /// What stands there.
    #[serde(default, skip_serializing_if = "Accessory::is_default")]
    pub accessory: Accessory,
    /// Exposed metalwork beside it; empty: none.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub metalwork: String,
    /// What an outlet is rated at, where that is said: an outlet to BS EN 60309, for one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rating_a: Option<Amps>,
    /// What hangs on it that an insulation test must know of.
    #[serde(rename = "carries", default, skip_serializing_if = "Vec::is_empty")]
    pub connected_load: Vec<Carried>,
    /// Name of the two-way switching that it belongs to; empty: by the order of the points.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub switching: String,
    /// It stood before, and the work leaves it as it was.
    #[serde(rename = "stood", default, skip_serializing_if = "std::ops::Not::not")]
    pub existing: bool,
}

/// What stands at a point.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Accessory {
    /// One outlet.
    #[default]
    Outlet,
    /// Two outlets.
    Twin,
    /// An industrial outlet to BS EN 60309; its rating stands beside it.
    Industrial,
    /// A lamp point.
    Lamp,
    /// A switch.
    Switch,
    /// A two-way switch.
    TwoWay,
    /// An intermediate switch.
    Intermediate,
    /// Fixed equipment or its isolator.
    Equipment,
}

impl Accessory {
    /// In the order offered.
    pub const ALL: [Self; 8] = [
        Self::Outlet,
        Self::Twin,
        Self::Industrial,
        Self::Lamp,
        Self::Switch,
        Self::TwoWay,
        Self::Intermediate,
        Self::Equipment,
    ];

    /// What usually stands at the points of a circuit.
    pub const fn usual_for(feeds: Feeds) -> Self {
        match feeds {
            Feeds::Sockets => Self::Outlet,
            Feeds::Lighting => Self::Lamp,
            Feeds::Fixed | Feeds::Board => Self::Equipment,
        }
    }

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Outlet => "outlet",
            Self::Twin => "twin",
            Self::Industrial => "industrial",
            Self::Lamp => "lamp",
            Self::Switch => "switch",
            Self::TwoWay => "two_way",
            Self::Intermediate => "intermediate",
            Self::Equipment => "equipment",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Outlet => "single outlet",
            Self::Twin => "twin outlet",
            Self::Industrial => "industrial outlet (BS EN 60309)",
            Self::Lamp => "lamp point",
            Self::Switch => "switch",
            Self::TwoWay => "two-way switch",
            Self::Intermediate => "intermediate switch",
            Self::Equipment => "fixed equipment",
        }
    }

    /// Whether it is what is taken when nothing is said.
    #[allow(clippy::trivially_copy_pass_by_ref)] // serde hands a reference
    pub fn is_default(&self) -> bool {
        *self == Self::Outlet
    }

    /// Whether it switches a lamp.
    pub const fn switches(self) -> bool {
        matches!(self, Self::Switch | Self::TwoWay | Self::Intermediate)
    }

    /// Whether it has an open position of its own.
    pub const fn opens(self) -> bool {
        matches!(self, Self::Switch)
    }
}

/// A position of a switch. In files it is its word; a word that is none of these is kept as it stands.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(with = "String", inline))]
#[serde(from = "String", into = "String")]
pub enum Position {
    /// A one-way switch, closed.
    On,
    /// One route of a two-way switch, as it was read before combinations were.
    Up,
    /// Its other route.
    Down,
    /// One route of an intermediate switch.
    Straight,
    /// Its other route.
    Crossed,
    /// A switch that lets nothing through.
    Open,
    /// An outlet of a twin switched off, from 1.
    OutletOff(u8),
    /// A word of a file that is none of these.
    Other(String),
}

impl Position {
    /// Whether nothing should be read through.
    pub const fn opens(&self) -> bool {
        matches!(self, Self::Open | Self::OutletOff(_))
    }
}

impl std::fmt::Display for Position {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match self {
            Self::On => "on",
            Self::Up => "up",
            Self::Down => "down",
            Self::Straight => "straight",
            Self::Crossed => "crossed",
            Self::Open => "open",
            Self::OutletOff(outlet) => return write!(f, "off {outlet}"),
            Self::Other(word) => word,
        })
    }
}

impl From<Position> for String {
    fn from(position: Position) -> Self {
        position.to_string()
    }
}

impl From<String> for Position {
    fn from(word: String) -> Self {
        use Position::{Crossed, Down, On, Open, OutletOff, Straight, Up};
        let known = [On, Up, Down, Straight, Crossed, Open, OutletOff(1), OutletOff(2)];
        known.into_iter().find(|position| position.to_string() == word).unwrap_or(Self::Other(word))
    }
}

/// What hangs on a point and matters when insulation is read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Carried {
    /// A lamp that comes out.
    Lamp,
    /// A neon indicator.
    Neon,
    /// A dimmer, which stays.
    Dimmer,
    /// A driver, transformer or other electronics that stays.
    Electronics,
    /// A surge protective device.
    Spd,
    /// An appliance that is unplugged or isolated.
    Appliance,
    /// Something with water in it.
    Water,
    /// It is outdoors.
    Outdoors,
    /// It hangs on something in a loft or cupboard: an amplifier, an alarm.
    Hidden,
    /// A motor or machine with a frequency-controlled drive.
    Drive,
    /// A charging point for electric vehicles.
    VehicleCharger,
    /// The same, with detection of 6 mA direct current of its own.
    VehicleChargerDetecting,
}

impl Carried {
    /// In the order offered.
    pub const ALL: [Self; 12] = [
        Self::Lamp,
        Self::Neon,
        Self::Dimmer,
        Self::Electronics,
        Self::Spd,
        Self::Appliance,
        Self::Water,
        Self::Outdoors,
        Self::Hidden,
        Self::Drive,
        Self::VehicleCharger,
        Self::VehicleChargerDetecting,
    ];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Lamp => "lamp",
            Self::Neon => "neon",
            Self::Dimmer => "dimmer",
            Self::Electronics => "electronics",
            Self::Spd => "spd",
            Self::Appliance => "appliance",
            Self::Water => "water",
            Self::Outdoors => "outdoors",
            Self::Hidden => "hidden",
            Self::Drive => "drive",
            Self::VehicleCharger => "vehicle_charger",
            Self::VehicleChargerDetecting => "vehicle_charger_detecting",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Lamp => "lamp",
            Self::Neon => "neon indicator",
            Self::Dimmer => "dimmer",
            Self::Electronics => "driver, transformer, electronics",
            Self::Spd => "SPD",
            Self::Appliance => "appliance",
            Self::Water => "water in it",
            Self::Outdoors => "outdoors",
            Self::Hidden => "something in a loft or cupboard",
            Self::Drive => "frequency-controlled drive",
            Self::VehicleCharger => "vehicle charging point",
            Self::VehicleChargerDetecting => "vehicle charging point that detects 6 mA d.c.",
        }
    }

    /// It cannot reasonably come out: line and neutral are joined, to earth.
    pub const fn stays(self) -> bool {
        matches!(
            self,
            Self::Dimmer | Self::Electronics | Self::Drive | Self::VehicleCharger | Self::VehicleChargerDetecting
        )
    }
}
