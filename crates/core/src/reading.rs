//! A reading: what it is of, what was typed, what it means, and in what context it was taken.
//!
//! Readings are appended, never changed. Which reading supersedes which is decided by [`Key`]:
//! test, place, conductor pair, line, method, and for RCDs multiple and half-cycle.

use crate::conductor::{Conductor, Pair};
use crate::event::{Event, EventKind};
use crate::quantity::{Celsius, Volts, approximate};
use crate::standard::rcd::{HalfCycle, Multiple};
use jiff::Timestamp;
use rust_decimal::Decimal;
use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A point of a circuit by its number, unique in the circuit and never used again.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(transparent)]
pub struct PointId(pub u32);

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
        position: String,
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
    /// Whether nothing should be read through: a switch open, an outlet switched off.
    pub fn expects_open(&self) -> bool {
        matches!(self, Self::Switch { position, .. } if position == "open" || position.starts_with("off"))
    }

    /// The point, unless it is the board.
    pub const fn point(&self) -> Option<PointId> {
        match self {
            Self::Board => None,
            Self::Point { point }
            | Self::Outlet { point, .. }
            | Self::Switch { point, .. }
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
    pub const fn of_supply(test: Test) -> Self {
        Self { subject: Subject::Supply, test, pair: None, line: None, method: Method::Instrument }
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

/// What a reading says.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "value", rename_all = "snake_case", deny_unknown_fields)]
pub enum Value {
    /// A number in the unit of its test, with the digits as typed.
    Number(Decimal),
    /// Over range: more than this.
    Over(Decimal),
    /// Open circuit.
    Open,
    /// Read, and not above the highest that was written down.
    Walked,
    /// The device did not trip.
    NoTrip,
    /// Right.
    Pass,
    /// Wrong.
    Fail,
    /// Could not be taken, and why.
    Limitation(String),
    /// Does not apply, and why.
    NotApplicable(String),
}

impl Value {
    /// The number, if it is one.
    pub const fn number(&self) -> Option<Decimal> {
        match self {
            Self::Number(number) => Some(*number),
            _ => None,
        }
    }

    /// The number as a float, for physics.
    pub fn float(&self) -> Option<f64> {
        self.number().map(approximate)
    }

    /// As shown on a screen or a schedule, without unit.
    pub fn shown(&self) -> String {
        match self {
            Self::Number(number) => number.to_string(),
            Self::Over(bound) => format!(">{bound}"),
            Self::Open => "open".to_owned(),
            Self::Walked => "walked".to_owned(),
            Self::NoTrip => "no trip".to_owned(),
            Self::Pass => "pass".to_owned(),
            Self::Fail => "fail".to_owned(),
            Self::Limitation(_) => "LIM".to_owned(),
            Self::NotApplicable(_) => "N/A".to_owned(),
        }
    }

    /// The reason of a limitation or of not being applicable.
    pub fn reason(&self) -> Option<&str> {
        match self {
            Self::Limitation(reason) | Self::NotApplicable(reason) => Some(reason),
            _ => None,
        }
    }
}

/// State of the leads when a low resistance was read.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "state", rename_all = "snake_case", deny_unknown_fields)]
pub enum LeadNull {
    /// Not said.
    #[default]
    Unknown,
    /// Nulled for this lead set.
    Nulled,
    /// Not nulled: so many ohms are to be taken off.
    Subtract {
        /// Resistance of the leads, Ω.
        ohm: Decimal,
    },
}

/// How a reading came in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Origin {
    /// Typed on site.
    #[default]
    Typed,
    /// Copied from paper; the time may be unknown.
    Paper,
    /// Received from an instrument.
    Instrument,
    /// Imported with a job file or a table.
    Import,
}

/// The circumstances of a reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Context {
    /// Which instrument.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub instrument: Option<Uuid>,
    /// Which leads or adapter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lead_set: Option<String>,
    /// Which pair of pins of the adapter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pins: Option<String>,
    /// Whether the leads were nulled.
    #[serde(default)]
    pub null: LeadNull,
    /// Insulation test voltage d.c.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub test_voltage_v: Option<Volts>,
    /// Temperature of the cable.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ambient_c: Option<Celsius>,
    /// When it was taken; unknown for paper.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub taken_at: Option<Timestamp>,
    /// When it was stored.
    pub stored_at: Timestamp,
    /// How it came in.
    #[serde(default)]
    pub origin: Origin,
    /// Who held the probes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub read_by: Option<String>,
    /// Who wrote it down.
    pub entered_by: String,
}

impl Context {
    /// Copied from paper, where nothing else is said: the time is unknown.
    pub fn of_paper(entered_by: &str, stored_at: Timestamp) -> Self {
        Self {
            instrument: None,
            lead_set: None,
            pins: None,
            null: LeadNull::Unknown,
            test_voltage_v: None,
            ambient_c: None,
            taken_at: None,
            stored_at,
            origin: Origin::Paper,
            read_by: None,
            entered_by: entered_by.to_owned(),
        }
    }
}

/// A reading as stored.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// Made by the client: the same id sent twice is stored once.
    pub id: Uuid,
    /// What it is a reading of.
    pub key: Key,
    /// What was typed or received.
    pub typed: String,
    /// What that means.
    pub value: Value,
    /// Taken from an unsteady display.
    #[serde(default)]
    pub unsteady: bool,
    /// In what circumstances.
    pub context: Context,
}

impl Reading {
    /// Whether two readings with one id say the same: everything but when they were stored.
    pub fn same_content(&self, other: &Self) -> bool {
        let mut mine = self.clone();
        mine.context.stored_at = other.context.stored_at;
        mine.context.taken_at = other.context.taken_at;
        mine == *other
    }
}

/// The readings of a job as they stand: the latest of each key that is not struck out.
#[derive(Debug, Clone, Default)]
pub struct Settled<'a> {
    by_key: FxHashMap<&'a Key, Vec<&'a Reading>>,
    /// Those that stand, by circuit.
    of_circuit: FxHashMap<Uuid, Vec<&'a Reading>>,
    struck: FxHashMap<Uuid, &'a str>,
    sets: Vec<&'a Key>,
    /// Those that stand, in the order stored.
    standing: Vec<&'a Reading>,
}

impl<'a> Settled<'a> {
    /// Sorts readings (in the order stored) and strike-outs.
    pub fn new(readings: &'a [Reading], events: &'a [Event]) -> Self {
        let struck: FxHashMap<Uuid, &str> = events
            .iter()
            .filter_map(|event| match &event.kind {
                EventKind::StruckOut { reading, reason } => Some((*reading, reason.as_str())),
                _ => None,
            })
            .collect();
        let mut by_key: FxHashMap<&Key, Vec<&Reading>> = FxHashMap::default();
        let mut of_circuit: FxHashMap<Uuid, Vec<&Reading>> = FxHashMap::default();
        let mut sets: Vec<&Key> = Vec::new();
        for reading in readings {
            if matches!(reading.key.subject, Subject::CircuitSet { .. }) && !by_key.contains_key(&reading.key) {
                sets.push(&reading.key);
            }
            by_key.entry(&reading.key).or_default().push(reading);
        }
        let mut all = Self { by_key, of_circuit: FxHashMap::default(), struck, sets, standing: Vec::new() };
        let mut standing = Vec::with_capacity(readings.len());
        for reading in readings {
            if all.of(&reading.key).is_none_or(|stands| stands.id != reading.id) {
                continue;
            }
            standing.push(reading);
            if let Some(circuit) = reading.key.subject.circuit() {
                of_circuit.entry(circuit).or_default().push(reading);
            }
        }
        all.standing = standing;
        all.of_circuit = of_circuit;
        all
    }

    /// The reading that stands for a key.
    pub fn of(&self, key: &Key) -> Option<&'a Reading> {
        let all = self.by_key.get(key)?;
        if self.struck.is_empty() {
            return all.last().copied();
        }
        all.iter().rev().find(|reading| !self.struck.contains_key(&reading.id)).copied()
    }

    /// Its value.
    pub fn value(&self, key: &Key) -> Option<&'a Value> {
        self.of(key).map(|reading| &reading.value)
    }

    /// Its number as a float.
    pub fn float(&self, key: &Key) -> Option<f64> {
        self.value(key)?.float()
    }

    /// Readings of sets of circuits that stand, in the order first taken.
    pub fn of_sets(&self) -> impl Iterator<Item = &'a Reading> + '_ {
        self.sets.iter().filter_map(|key| self.of(key))
    }

    /// Every reading ever taken for a key, oldest first, with the reason if it was struck out.
    pub fn history(&self, key: &Key) -> Vec<(&'a Reading, Option<&'a str>)> {
        let all = self.by_key.get(key).map(Vec::as_slice).unwrap_or_default();
        all.iter().map(|reading| (*reading, self.struck.get(&reading.id).copied())).collect()
    }

    /// Every reading that stands, in the order stored.
    pub fn standing(&self) -> impl Iterator<Item = &'a Reading> + '_ {
        self.standing.iter().copied()
    }

    /// Readings of a circuit that stand, in the order stored.
    pub fn standing_of(&self, circuit: Uuid) -> impl Iterator<Item = &'a Reading> + '_ {
        let all = self.of_circuit.get(&circuit).map(Vec::as_slice).unwrap_or_default();
        all.iter().copied()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rust_decimal::dec;

    fn reading(key: Key, value: Decimal) -> Reading {
        Reading {
            id: Uuid::new_v4(),
            key,
            typed: value.to_string(),
            value: Value::Number(value),
            unsteady: false,
            context: Context::of_paper("A. Fitter", Timestamp::UNIX_EPOCH),
        }
    }

    #[test]
    fn the_latest_stands_until_it_is_struck_out() {
        let circuit = Uuid::new_v4();
        let key = Key::on_circuit(circuit, Place::Point { point: PointId(1) }, Test::R1R2);
        let readings = [reading(key.clone(), dec!(0.31)), reading(key.clone(), dec!(0.24))];
        assert_eq!(Settled::new(&readings, &[]).value(&key), Some(&Value::Number(dec!(0.24))));
        let strike = [Event::new(
            "A. Fitter",
            Timestamp::UNIX_EPOCH,
            EventKind::StruckOut { reading: readings[1].id, reason: "wrong point".into() },
        )];
        let settled = Settled::new(&readings, &strike);
        assert_eq!(settled.value(&key), Some(&Value::Number(dec!(0.31))));
        assert_eq!(settled.history(&key)[1].1, Some("wrong point"));
    }

    #[test]
    fn the_second_outlet_and_the_other_half_cycle_are_no_repeats() {
        let circuit = Uuid::new_v4();
        let first = Key::on_circuit(circuit, Place::Point { point: PointId(1) }, Test::R1R2);
        let second = Key::on_circuit(circuit, Place::Outlet { point: PointId(1), outlet: 2 }, Test::R1R2);
        let readings = [reading(first.clone(), dec!(0.2)), reading(second.clone(), dec!(0.3))];
        let settled = Settled::new(&readings, &[]);
        assert_eq!(settled.float(&first), Some(0.2));
        assert_eq!(settled.float(&second), Some(0.3));
        let trip = |half_cycle| Test::RcdTrip { multiple: Multiple::One, half_cycle };
        assert_ne!(
            Key::on_circuit(circuit, Place::Board, trip(HalfCycle::Deg0)),
            Key::on_circuit(circuit, Place::Board, trip(HalfCycle::Deg180))
        );
    }

    #[test]
    fn a_pair_is_the_same_either_way_round() {
        let key = Key::on_circuit(Uuid::nil(), Place::Board, Test::Insulation);
        let a = key.clone().between(Pair::new(Conductor::E, Conductor::L).unwrap());
        assert_eq!(a, key.between(Pair::LINE_EARTH));
    }
}
