//! A circuit: its device, its cable, how it runs, what it feeds.

use super::answers::Answered;
use super::cable::Cable;
use super::feeds::Feeds;
use crate::installation::{Lines, Point, PointId};
use proof_standard::conductor::Conductor;
use proof_standard::house_rules::ArmourAndTray;
use proof_standard::limits::devices::{DeviceStandard, Disconnection, TripType, disconnection_time};
use proof_standard::limits::insulation::VoltageBand;
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Amps, Celsius, Kiloamps, Metres};
use proof_standard::shape::Shape;
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// New wiring, or an addition to existing wiring.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Wiring {
    /// New.
    #[default]
    New,
    /// Existing.
    Existing,
}

impl Wiring {
    /// In the order offered.
    pub const ALL: [Self; 2] = [Self::New, Self::Existing];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::New => "new",
            Self::Existing => "existing",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::New => "new",
            Self::Existing => "existing",
        }
    }
}

/// An overcurrent device.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Device {
    /// Product standard.
    pub standard: DeviceStandard,
    /// Type of a breaker.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub trip: Option<TripType>,
    /// Rating, A.
    pub rating_a: Amps,
    /// Breaking capacity, kA.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub breaking_ka: Option<Kiloamps>,
    /// Setting at which a breaker to BS EN 60947-2 trips at once.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub magnetic_a: Option<Amps>,
    /// Energy-limiting class marked on a breaker, 1 to 3.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub energy_class: Option<u8>,
    /// Energy that it lets through at the fault current here, as its maker's sheet says, A²s.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub let_through_a2s: Option<Decimal>,
}

impl Device {
    /// A device of a standard, nothing else said.
    pub const fn for_standard(standard: DeviceStandard) -> Self {
        Self {
            standard,
            trip: None,
            rating_a: Amps(Decimal::ZERO),
            breaking_ka: None,
            magnetic_a: None,
            energy_class: None,
            let_through_a2s: None,
        }
    }

    /// `B32`, or the standard and rating of a fuse.
    pub fn shown(&self) -> String {
        match self.trip {
            Some(trip) => format!("{}{}", trip.letter(), self.rating_a.normalize()),
            None => format!("{} {} A", self.standard.name(), self.rating_a.normalize()),
        }
    }
}

/// The voltage band of a circuit: it decides how its insulation is tested.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum CircuitVoltage {
    /// Low voltage up to 500 V.
    #[default]
    Low,
    /// Separated extra-low voltage.
    Selv,
    /// Protective extra-low voltage: as SELV, earthed.
    Pelv,
    /// Above 500 V.
    Above500,
}

impl CircuitVoltage {
    /// In the order offered.
    pub const ALL: [Self; 4] = [Self::Low, Self::Selv, Self::Pelv, Self::Above500];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Low => "low",
            Self::Selv => "selv",
            Self::Pelv => "pelv",
            Self::Above500 => "above500",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Low => "low voltage, up to 500 V",
            Self::Selv => "SELV",
            Self::Pelv => "PELV",
            Self::Above500 => "above 500 V",
        }
    }

    /// Whether it is extra-low voltage from a safe source: no loop to earth protects it.
    pub const fn is_extra_low(self) -> bool {
        matches!(self, Self::Selv | Self::Pelv)
    }

    /// Whether nothing was said.
    #[allow(clippy::trivially_copy_pass_by_ref)] // serde hands a reference
    pub fn is_default(&self) -> bool {
        *self == Self::Low
    }

    /// The row of the insulation table that it stands in.
    pub const fn row(self) -> VoltageBand {
        match self {
            Self::Low => VoltageBand::UpTo500,
            Self::Selv | Self::Pelv => VoltageBand::ExtraLow,
            Self::Above500 => VoltageBand::Above500,
        }
    }
}

/// What a circuit serves, for which additional protection is wanted whatever hangs on it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Serves {
    /// A room with a bath or shower.
    BathOrShower,
    /// Its cable is hidden less than 50 mm deep, without other protection.
    HiddenCable,
    /// Mobile equipment outdoors.
    MobileOutdoors,
}

impl Serves {
    /// In the order offered.
    pub const ALL: [Self; 3] = [Self::BathOrShower, Self::HiddenCable, Self::MobileOutdoors];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::BathOrShower => "bath_or_shower",
            Self::HiddenCable => "hidden_cable",
            Self::MobileOutdoors => "mobile_outdoors",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::BathOrShower => "a room with a bath or shower",
            Self::HiddenCable => "cable hidden less than 50 mm deep, not otherwise protected",
            Self::MobileOutdoors => "mobile equipment outdoors",
        }
    }
}

/// A circuit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Circuit {
    /// Identity.
    pub id: Uuid,
    /// The board it leaves from.
    pub board: Uuid,
    /// Number of its way.
    pub way: String,
    /// What it is, as the chart says.
    pub description: String,
    /// Ring or radial.
    pub shape: Shape,
    /// What it feeds.
    #[serde(default)]
    pub feeds: Feeds,
    /// Single or three phase.
    #[serde(default)]
    pub lines: Lines,
    /// Its overcurrent device.
    pub device: Device,
    /// The RCD of the board that covers it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rcd: Option<Uuid>,
    /// Its cable.
    pub cable: Cable,
    /// Terminal of its neutral.
    #[serde(default)]
    pub neutral_terminal: String,
    /// Terminal of its CPC.
    #[serde(default)]
    pub cpc_terminal: String,
    /// Whole length of cable: round a ring, to the far end of a radial.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub length_m: Option<Metres>,
    /// Last leg of a ring, back to the board.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub return_leg_m: Option<Metres>,
    /// Its points.
    #[serde(default)]
    pub points: Vec<Point>,
    /// The points are listed in the order of the cable.
    #[serde(default)]
    pub order_known: bool,
    /// New or existing wiring.
    #[serde(default)]
    pub wiring: Wiring,
    /// Temperature of the cable when it is read dead.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cable_c: Option<Celsius>,
    /// An arc fault detection device stands in its way.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub arc_detection: bool,
    /// Remarks for the schedule.
    #[serde(default)]
    pub remarks: String,
    /// Voltage band.
    #[serde(default, skip_serializing_if = "CircuitVoltage::is_default")]
    pub band: CircuitVoltage,
    /// What it serves that wants additional protection.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub serves: Vec<Serves>,
    /// Design current, Ib.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub design_current_a: Option<Amps>,
    /// Capacity of its cable as designed, Iz, with grouping and ambient factors.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub capacity_a: Option<Amps>,
    /// Where that capacity comes from.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub capacity_source: String,
    /// Why its load cannot overload it, where the device is above its cable; empty: it can.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub no_overload: String,
    /// The risk assessment by which its socket-outlets have no additional protection.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub exception: Option<Uuid>,
    /// It stood before and the work does not touch it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub untouched: bool,
    /// Whether the armour of its cable is connected to the CPC; `None`: not asked yet, by house rule.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub armour: Option<ArmourAndTray>,
    /// Metal runs beside its CPC; `None`: as its board.
    #[serde(rename = "metal_beside", default, skip_serializing_if = "Option::is_none")]
    pub parallel_earth_path: Option<bool>,
    /// What was found behind its odd readings, drawn into what stands above.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub answered: Vec<Answered>,
}

impl Circuit {
    /// A circuit of which nothing else is said.
    pub const fn plain(id: Uuid, board: Uuid, device: Device, cable: Cable) -> Self {
        Self {
            id,
            board,
            way: String::new(),
            description: String::new(),
            shape: Shape::Radial,
            feeds: Feeds::Sockets,
            lines: Lines::Single,
            device,
            rcd: None,
            cable,
            neutral_terminal: String::new(),
            cpc_terminal: String::new(),
            length_m: None,
            return_leg_m: None,
            points: Vec::new(),
            order_known: false,
            wiring: Wiring::New,
            cable_c: None,
            arc_detection: false,
            remarks: String::new(),
            band: CircuitVoltage::Low,
            serves: Vec::new(),
            design_current_a: None,
            capacity_a: None,
            capacity_source: String::new(),
            no_overload: String::new(),
            exception: None,
            untouched: false,
            armour: None,
            parallel_earth_path: None,
            answered: Vec::new(),
        }
    }

    /// Whether it has a neutral: a three-phase motor may have none.
    pub const fn has_neutral(&self) -> bool {
        self.cable.neutral_mm2.is_some()
    }

    /// Lines to be tested: one unnamed, or three.
    pub fn line_conductors(&self) -> &'static [Option<Conductor>] {
        match self.lines {
            Lines::Single => &[None],
            Lines::Three => &[Some(Conductor::L1), Some(Conductor::L2), Some(Conductor::L3)],
        }
    }

    /// Adds a remark for the schedule, once.
    pub fn remark(&mut self, remark: &str) {
        if self.remarks.contains(remark) {
            return;
        }
        let before = self.remarks.trim();
        self.remarks = if before.is_empty() { remark.to_owned() } else { format!("{before}; {remark}") };
    }

    /// The point with this number.
    pub fn point(&self, id: PointId) -> Option<&Point> {
        self.points.iter().find(|point| point.id == id)
    }

    /// Points on the main line, in the order listed.
    pub fn main_points(&self) -> impl Iterator<Item = &Point> {
        self.points.iter().filter(|point| point.spur_from.is_none())
    }

    /// Disconnection time by the table, for the board's earthing.
    pub fn disconnection(&self, system: EarthingSystem) -> Disconnection {
        disconnection_time(system, self.device.rating_a, self.feeds == Feeds::Sockets, self.feeds != Feeds::Board)
    }

    /// Whole length of the main line: as given, or the sum of its legs when all are known.
    pub fn whole_length(&self) -> Option<f64> {
        self.length_m.map(Metres::get).or_else(|| self.legs().map(|legs| legs.iter().sum()))
    }

    /// Every leg of the main line (and of the return, on a ring), m, when all are known.
    pub fn legs(&self) -> Option<Vec<f64>> {
        let mut legs: Vec<f64> = Vec::with_capacity(self.points.len() + 1);
        for point in self.main_points() {
            legs.push(point.leg_m?.get());
        }
        if self.shape == Shape::Ring {
            legs.push(self.return_leg_m?.get());
        }
        (!legs.is_empty()).then_some(legs)
    }

    /// Whether something hangs on it that stays during an insulation test.
    pub fn has_fixed_load(&self) -> bool {
        self.points.iter().any(|point| point.connected_load.iter().any(|carried| carried.stays()))
    }

    /// Whether the listed order of points is the order of the cable.
    pub fn runs_in_order(&self) -> bool {
        self.order_known || self.legs().is_some()
    }
}

/// Conductors of a circuit, lines first, earth last.
pub const fn conductors(circuit: &Circuit) -> &'static [Conductor] {
    if circuit.has_neutral() {
        conductors_of(circuit.lines)
    } else {
        &[Conductor::L1, Conductor::L2, Conductor::L3, Conductor::E]
    }
}

/// Conductors of so many lines, lines first, earth last.
pub const fn conductors_of(lines: Lines) -> &'static [Conductor] {
    match lines {
        Lines::Single => &[Conductor::L, Conductor::N, Conductor::E],
        Lines::Three => &[Conductor::L1, Conductor::L2, Conductor::L3, Conductor::N, Conductor::E],
    }
}
