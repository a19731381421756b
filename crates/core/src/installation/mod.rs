//! The installation as described: supply, boards, devices, circuits, points, and the job around it.
//!
//! Lengths are optional everywhere. Material and size belong to a segment: a point may carry its
//! own for the cable that leads into it. An RCD is a device of a board that may cover several
//! ways. A board is fed by the supply or by a circuit of another board, and has its own earthing.

mod instruments;
mod point;

use crate::conductor::{Conductor, Material};
use crate::event::Event;
pub use crate::house_rules::{HouseRules, ZsLimit, ZsMethod};
use crate::quantity::{Celsius, Metres, SquareMillimetres};
use crate::reading::{PointId, Reading};
use crate::standard::capacity::ReferenceMethod;
use crate::standard::devices::{DeviceStandard, Disconnection, TripType, disconnection_time};
use crate::standard::edition::{EditionId, RcdSchool};
use crate::standard::inspection::Premises;
use crate::standard::rcd::{RcdKind, RcdType};
use crate::standard::supply::EarthingSystem;
use jiff::Timestamp;
use rust_decimal::{Decimal, dec};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

pub use instruments::{CheckOf, FixedCheck, Instrument};
pub use point::{Accessory, Carried, Point};

/// The firm that issues certificates.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Firm {
    /// Trading name.
    pub name: String,
    /// Address.
    pub address: String,
    /// Telephone or electronic address.
    #[serde(default)]
    pub contact: String,
    /// House rules that its jobs begin with.
    #[serde(default)]
    pub house_rules: HouseRules,
}

/// Somebody who reads, enters or signs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Person {
    /// Identity.
    pub id: Uuid,
    /// Name as signed.
    pub name: String,
    /// Position or qualification.
    #[serde(default)]
    pub position: String,
}

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

/// How many lines.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Lines {
    /// One.
    #[default]
    Single,
    /// Three.
    Three,
}

/// A bonding conductor.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Bond {
    /// Identity.
    pub id: Uuid,
    /// What it bonds: water, gas, oil, structural steel …
    pub to: String,
    /// Supplementary, not main.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub supplementary: bool,
    /// Size, copper.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mm2: Option<SquareMillimetres>,
    /// Length.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub length_m: Option<Metres>,
}

/// The supply at the origin.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Supply {
    /// Earthing arrangement.
    pub system: EarthingSystem,
    /// Single or three phase.
    pub lines: Lines,
    /// Nominal voltage to earth, V.
    pub voltage_v: Decimal,
    /// Frequency, Hz.
    pub frequency_hz: Decimal,
    /// The distributor's protective device, as marked.
    #[serde(default)]
    pub device: String,
    /// Its rating, A.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub device_a: Option<Decimal>,
    /// Meter tails.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tails_mm2: Option<SquareMillimetres>,
    /// Neutral of the supply.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub neutral_mm2: Option<SquareMillimetres>,
    /// Earthing conductor.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub earthing_mm2: Option<SquareMillimetres>,
    /// Electrode of a TT installation, in words.
    #[serde(default)]
    pub electrode: String,
    /// Main bonding conductors.
    #[serde(default)]
    pub bonds: Vec<Bond>,
}

impl Default for Supply {
    fn default() -> Self {
        Self {
            system: EarthingSystem::TnCS,
            lines: Lines::Single,
            voltage_v: dec!(230),
            frequency_hz: dec!(50),
            device: String::new(),
            device_a: None,
            tails_mm2: None,
            neutral_mm2: None,
            earthing_mm2: None,
            electrode: String::new(),
            bonds: Vec::new(),
        }
    }
}

/// What feeds a board.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "from", rename_all = "snake_case", deny_unknown_fields)]
pub enum Feed {
    /// The supply.
    #[default]
    Supply,
    /// A circuit of another board.
    Circuit {
        /// Which.
        circuit: Uuid,
    },
}

/// The main switch of a board.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct MainSwitch {
    /// Product standard and kind, as marked.
    #[serde(default)]
    pub kind: String,
    /// Poles.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub poles: Option<u8>,
    /// Rating, A.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rating_a: Option<Decimal>,
}

/// A residual current device; it may cover several ways.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ResidualDevice {
    /// Identity.
    pub id: Uuid,
    /// As its label on the board says.
    pub label: String,
    /// Rated residual operating current, mA.
    pub idn_ma: Decimal,
    /// Kind as regards trip times.
    #[serde(default)]
    pub kind: RcdKind,
    /// Type of residual current it detects.
    #[serde(default)]
    pub detects: RcdType,
}

/// A distribution board or consumer unit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Board {
    /// Identity.
    pub id: Uuid,
    /// As its label says.
    pub name: String,
    /// Where it is.
    #[serde(default)]
    pub location: String,
    /// What feeds it.
    #[serde(default)]
    pub fed_by: Feed,
    /// Its own earthing arrangement.
    pub system: EarthingSystem,
    /// Single or three phase.
    #[serde(default)]
    pub lines: Lines,
    /// Its main switch.
    #[serde(default)]
    pub main_switch: MainSwitch,
    /// Its RCDs, RCBOs included.
    #[serde(default)]
    pub rcds: Vec<ResidualDevice>,
    /// Metal runs beside the CPCs (trunking, conduit, steel, armour into metal boxes); `None`: not
    /// asked yet.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub parallel_earth: Option<bool>,
    /// Fault current that the assembly stands conditionally, behind the device it names, kA: what
    /// its maker declares for a board whose devices are marked lower.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub conditional_ka: Option<Decimal>,
    /// Surge protection at the board, as marked; empty: none.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub surge: String,
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
    pub rating_a: Decimal,
    /// Breaking capacity, kA.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub breaking_ka: Option<Decimal>,
}

impl Device {
    /// `B32`, or the standard and rating of a fuse.
    pub fn shown(&self) -> String {
        match self.trip {
            Some(trip) => format!("{}{}", trip.letter(), self.rating_a.normalize()),
            None => format!("{} {} A", self.standard.name(), self.rating_a.normalize()),
        }
    }
}

/// The cable of a circuit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Cable {
    /// Kind of cable, such as `twin-and-earth`.
    pub kind: String,
    /// Material.
    #[serde(default)]
    pub material: Material,
    /// Line conductor.
    pub line_mm2: SquareMillimetres,
    /// Neutral conductor; none on a three-phase circuit that has no neutral.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub neutral_mm2: Option<SquareMillimetres>,
    /// Circuit protective conductor.
    pub cpc_mm2: SquareMillimetres,
    /// How it is installed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub method: Option<ReferenceMethod>,
}

/// How a circuit runs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum CircuitShape {
    /// Ring final circuit.
    Ring,
    /// Radial.
    #[default]
    Radial,
}

/// What a circuit feeds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Feeds {
    /// Socket-outlets.
    #[default]
    Sockets,
    /// Lighting.
    Lighting,
    /// Fixed equipment only.
    Fixed,
    /// Another board.
    Board,
}

impl Feeds {
    /// In the order offered.
    pub const ALL: [Self; 4] = [Self::Sockets, Self::Lighting, Self::Fixed, Self::Board];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Sockets => "sockets",
            Self::Lighting => "lighting",
            Self::Fixed => "fixed",
            Self::Board => "board",
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
    pub shape: CircuitShape,
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
}

impl Cable {
    /// Line, neutral (a dash where there is none) and CPC, as `2.5/2.5/1.5`, mm².
    pub fn sizes_shown(&self) -> String {
        let neutral = self.neutral_mm2.map_or_else(|| "–".to_owned(), |mm2| mm2.get().to_string());
        format!("{}/{neutral}/{}", self.line_mm2.get(), self.cpc_mm2.get())
    }
}

impl Circuit {
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
        if self.shape == CircuitShape::Ring {
            legs.push(self.return_leg_m?.get());
        }
        (!legs.is_empty()).then_some(legs)
    }

    /// Whether something hangs on it that stays during an insulation test.
    pub fn has_what_stays(&self) -> bool {
        self.points.iter().any(|point| point.carries.iter().any(|carried| carried.stays()))
    }

    /// Whether the listed order of points is the order of the cable.
    pub fn runs_in_order(&self) -> bool {
        self.order_known || self.legs().is_some()
    }
}

/// An item of the schedule of inspections, answered.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct InspectionAnswer {
    /// Key of the item.
    pub item: String,
    /// The outcome.
    pub outcome: InspectionOutcome,
    /// Reason of a departure or limitation.
    #[serde(default)]
    pub note: String,
}

/// Outcome of an inspection.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum InspectionOutcome {
    /// Seen and right.
    Yes,
    /// Does not apply here.
    NotApplicable,
    /// Departs from the standard; the note says why it is no less safe.
    Departure,
}

impl InspectionOutcome {
    /// Key in forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Yes => "yes",
            Self::NotApplicable => "not_applicable",
            Self::Departure => "departure",
        }
    }
}

/// A party with an address.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Party {
    /// Name.
    pub name: String,
    /// Address.
    pub address: String,
}

/// Everything about a job that is described rather than measured.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Installation {
    /// Edition verified to.
    pub edition: EditionId,
    /// House rules.
    #[serde(default)]
    pub house_rules: HouseRules,
    /// Who ordered the work.
    pub client: Party,
    /// Where it is.
    pub site: Party,
    /// What the premises are used for.
    pub premises: Premises,
    /// New installation, addition or alteration.
    #[serde(default)]
    pub nature: Nature,
    /// What the certificate covers.
    #[serde(default)]
    pub extent: String,
    /// Departures from the standard.
    #[serde(default)]
    pub departures: String,
    /// Comments on the existing installation.
    #[serde(default)]
    pub existing: String,
    /// The supply.
    pub supply: Supply,
    /// The boards.
    #[serde(default)]
    pub boards: Vec<Board>,
    /// The circuits, in the order of their boards' ways.
    #[serde(default)]
    pub circuits: Vec<Circuit>,
    /// Temperature of the cables when they are read dead, asked once; a circuit may have its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ambient_c: Option<Celsius>,
    /// Schedule of inspections.
    #[serde(default)]
    pub inspection: Vec<InspectionAnswer>,
    /// Months to the next inspection, where the suggestion was changed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub next_inspection_months: Option<u16>,
}

/// Nature of the work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Nature {
    /// A new installation.
    #[default]
    New,
    /// An addition.
    Addition,
    /// An alteration.
    Alteration,
}

impl Nature {
    /// In the order offered.
    pub const ALL: [Self; 3] = [Self::New, Self::Addition, Self::Alteration];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::New => "new",
            Self::Addition => "addition",
            Self::Alteration => "alteration",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::New => "new installation",
            Self::Addition => "addition to an existing installation",
            Self::Alteration => "alteration of an existing installation",
        }
    }
}

impl Installation {
    /// The board with this identity.
    pub fn board(&self, id: Uuid) -> Option<&Board> {
        self.boards.iter().find(|board| board.id == id)
    }

    /// The circuit with this identity.
    pub fn circuit(&self, id: Uuid) -> Option<&Circuit> {
        self.circuits.iter().find(|circuit| circuit.id == id)
    }

    /// Circuits of a board, in the order of its ways.
    pub fn circuits_of(&self, board: Uuid) -> impl Iterator<Item = &Circuit> {
        self.circuits.iter().filter(move |circuit| circuit.board == board)
    }

    /// The RCD that covers a circuit.
    pub fn rcd_of(&self, circuit: &Circuit) -> Option<&ResidualDevice> {
        let id = circuit.rcd?;
        self.board(circuit.board)?.rcds.iter().find(|rcd| rcd.id == id)
    }

    /// RCD school of this job.
    pub fn rcd_school(&self) -> RcdSchool {
        self.house_rules.rcd_school.unwrap_or(self.edition.rules().rcd_school)
    }

    /// Months to the next inspection.
    pub fn interval_months(&self) -> u16 {
        self.next_inspection_months.unwrap_or(self.premises.interval_months())
    }
}

/// A whole job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Job {
    /// Identity.
    pub id: Uuid,
    /// The firm's own reference.
    pub reference: String,
    /// What it is, in a line.
    pub title: String,
    /// When it was begun.
    pub created_at: Timestamp,
    /// The firm.
    pub firm: Firm,
    /// People named in it.
    #[serde(default)]
    pub people: Vec<Person>,
    /// Instruments used in it.
    #[serde(default)]
    pub instruments: Vec<Instrument>,
    /// The installation.
    pub installation: Installation,
    /// Every reading, in the order stored.
    #[serde(default)]
    pub readings: Vec<Reading>,
    /// The log, in the order stored.
    #[serde(default)]
    pub events: Vec<Event>,
}
