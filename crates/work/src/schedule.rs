//! What the schedules show, derived from the readings: the highest settled R1+R2 and where, the
//! lowest insulation, the slower trip.

use crate::plan::polarity::{Polarity, polarity};
use crate::plan::substitute::{bound, recorded_zs};
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::keys::turned_over;
use proof_job::reading::{CurrentReadings, Key, Place, Reading, Subject, Test, Value, highest, highest_r1_r2};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::house_rules::Choice;
use proof_standard::limits::rcd::{HalfCycle, Multiple};
use proof_standard::quantity::Volts;
use proof_standard::shape::Shape;
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// What stands in a box of the schedule.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "stands", content = "figure", rename_all = "snake_case")]
pub enum Figure {
    /// Nothing yet.
    #[default]
    Nothing,
    /// The box is not of this circuit.
    DoesNotApply,
    /// What was read.
    Read(Value),
    /// R2 by long lead, Ω, in the box of R1+R2.
    ByLongLead(Value),
    /// At least so much, by a reading of the whole board, MΩ.
    AtLeast(Decimal),
    /// Wrong, whatever was read.
    Wrong,
}

impl Figure {
    fn from_value(value: Option<&Value>) -> Self {
        value.map_or(Self::Nothing, |value| Self::Read(value.clone()))
    }

    /// As printed; a tick for what passed, where the box is one for ticks.
    pub fn printed(&self, ticked: bool) -> String {
        match self {
            Self::Nothing => String::new(),
            Self::DoesNotApply => "—".to_owned(),
            Self::Read(Value::Pass) if ticked => "✓".to_owned(),
            Self::Read(value) => value.shown(),
            Self::ByLongLead(value) => format!("R2 {}", value.shown()),
            Self::AtLeast(megohms) => format!("≥{}", megohms.normalize()),
            Self::Wrong => "fail".to_owned(),
        }
    }
}

/// One row of the schedule of test results: the circuit and its figures.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ResultRow {
    /// Which circuit.
    pub circuit: Uuid,
    /// Way of the board.
    pub way: String,
    /// r1, Ω.
    pub r1: Figure,
    /// rn, Ω.
    pub rn: Figure,
    /// r2, Ω.
    pub r2: Figure,
    /// Highest R1+R2, Ω.
    pub r1_r2: Figure,
    /// Lowest insulation between live conductors, MΩ.
    pub live_live: Figure,
    /// Lowest insulation between live conductors and earth, MΩ.
    pub live_earth: Figure,
    /// Insulation test voltage.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub test_voltage_v: Option<Volts>,
    /// Polarity.
    pub polarity: Figure,
    /// How its tick was earned; not printed in a box of its own.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub polarity_by: String,
    /// Highest Zs, Ω.
    pub zs: Figure,
    /// Slower time at IΔn, ms.
    pub rcd_one_ms: Figure,
    /// Slower time at 5 IΔn, ms.
    pub rcd_five_ms: Figure,
    /// RCD test button.
    pub rcd_button: Figure,
    /// Remarks.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub remarks: String,
}

impl ResultRow {
    /// As it is printed.
    pub fn printed(&self) -> PrintedRow {
        PrintedRow {
            way: self.way.clone(),
            r1: self.r1.printed(false),
            rn: self.rn.printed(false),
            r2: self.r2.printed(false),
            r1_r2: self.r1_r2.printed(false),
            live_live: self.live_live.printed(false),
            live_earth: self.live_earth.printed(false),
            test_v: self.test_voltage_v.map(|volts| volts.get().to_string()).unwrap_or_default(),
            polarity: self.polarity.printed(true),
            polarity_by: self.polarity_by.clone(),
            zs: self.zs.printed(false),
            rcd_one: self.rcd_one_ms.printed(false),
            rcd_five: self.rcd_five_ms.printed(false),
            rcd_button: self.rcd_button.printed(true),
            remarks: self.remarks.clone(),
        }
    }
}

/// A row of a certificate: of figures, or of words as certificates had them at first.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(untagged)]
pub enum ScheduleRow {
    /// Figures.
    Figures(Box<ResultRow>),
    /// Words.
    Printed(Box<PrintedRow>),
}

impl ScheduleRow {
    /// The circuit that it is of, on its board.
    pub fn circuit<'a>(&self, installation: &'a Installation, board: Uuid) -> Option<&'a Circuit> {
        match self {
            Self::Figures(row) => installation.circuit(row.circuit),
            Self::Printed(row) => installation.circuits_on(board).find(|circuit| circuit.way == row.way),
        }
    }

    /// R1+R2 and R2, each in a box of its own: by long lead only R2 was read.
    pub fn continuity(&self) -> (String, String) {
        match self {
            Self::Figures(row) => match &row.r1_r2 {
                Figure::ByLongLead(value) => ("—".to_owned(), value.shown()),
                other => (other.printed(false), "—".to_owned()),
            },
            Self::Printed(row) => (row.r1_r2.clone(), String::new()),
        }
    }

    /// As it is printed.
    pub fn printed(&self) -> PrintedRow {
        match self {
            Self::Figures(row) => row.printed(),
            Self::Printed(row) => (**row).clone(),
        }
    }
}

/// One row of the schedule of test results, as printed. Empty: not taken.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct PrintedRow {
    /// Way of the board.
    pub way: String,
    /// r1, Ω.
    pub r1: String,
    /// rn, Ω.
    pub rn: String,
    /// r2, Ω.
    pub r2: String,
    /// Highest R1+R2, Ω.
    pub r1_r2: String,
    /// Lowest insulation between live conductors, MΩ.
    pub live_live: String,
    /// Lowest insulation between live conductors and earth, MΩ.
    pub live_earth: String,
    /// Insulation test voltage, V.
    pub test_v: String,
    /// Polarity.
    pub polarity: String,
    /// How the tick was earned; not printed in a box of its own.
    pub polarity_by: String,
    /// Highest Zs, Ω.
    pub zs: String,
    /// Slower time at IΔn, ms.
    pub rcd_one: String,
    /// Slower time at 5 IΔn, ms.
    pub rcd_five: String,
    /// RCD test button.
    pub rcd_button: String,
    /// Remarks.
    pub remarks: String,
}

/// MΩ of an insulation reading, and whether that is a bound only.
fn megohms(value: &Value) -> Option<(Decimal, bool)> {
    match value {
        Value::Number(megohms) => Some((*megohms, false)),
        Value::Over(bound) => Some((*bound, true)),
        _ => None,
    }
}

/// The least of some insulation values; a number outranks over range.
fn least_of(read: &[&Value]) -> Option<Value> {
    let least = read.iter().filter(|value| megohms(value).is_some()).min_by_key(|value| megohms(value));
    least.or(read.first()).map(|value| (*value).clone())
}

/// Least of the insulation values that pass `filter`, in both positions of two-way switches. Without any
/// of its own: what a reading of the whole board says it is at least, as `≥88`; joined live conductors to
/// earth where something stays.
fn lowest_insulation(
    installation: &Installation,
    settled: &CurrentReadings<'_>,
    circuit: &Circuit,
    filter: impl Fn(Pair) -> bool,
) -> Figure {
    let conductors = proof_job::installation::conductors(circuit);
    let pairs =
        || proof_standard::calc::insulation::pairs(conductors).into_iter().filter_map(|(a, b)| Pair::new(a, b).ok());
    let wanted = || pairs().filter(|pair| filter(*pair));
    let earth = filter(Pair::LINE_EARTH) || conductors.len() > 3 && !filter(Pair::LINE_NEUTRAL);
    let apart = |place: &Place| -> Vec<&Value> {
        let key = |pair| Key::on_circuit(circuit.id, place.clone(), Test::Insulation).between(pair);
        wanted().filter_map(|pair| settled.value(&key(pair))).collect()
    };
    let joined = |place: &Place| settled.value(&Key::on_circuit(circuit.id, place.clone(), Test::InsulationJoined));
    let over = turned_over(circuit);
    let over_apart = over.as_ref().map(apart).unwrap_or_default();
    let over_joined = over.as_ref().and_then(joined);
    let own = apart(&Place::Board);
    if !own.is_empty() {
        return least_of(&[own, over_apart].concat()).map_or(Figure::Nothing, Figure::Read);
    }
    if let Some(value) = joined(&Place::Board) {
        let all: Vec<&Value> = std::iter::once(value).chain(over_joined).collect();
        return least_of(&all).filter(|_| earth).map_or(Figure::DoesNotApply, Figure::Read);
    }
    // Of the whole board only what it is at least; a switch turned over may have read less.
    let bounds: Option<Vec<Decimal>> = wanted().map(|pair| bound(installation, circuit, settled, Some(pair))).collect();
    let least = bounds.and_then(|all| all.into_iter().min());
    let turned = least_of(&[over_apart, over_joined.filter(|_| earth).into_iter().collect()].concat());
    match (least, turned) {
        (Some(least), Some(value)) if megohms(&value).is_some_and(|(read, _)| read < least) => Figure::Read(value),
        (Some(least), _) => Figure::AtLeast(least),
        (None, Some(value)) => Figure::Read(value),
        (None, None) => Figure::Nothing,
    }
}

/// The box of R1+R2, or of R2 by long lead: the highest; without a number, a limitation or an open
/// circuit still belongs in it.
fn continuity_box(circuit: &Circuit, settled: &CurrentReadings<'_>) -> Figure {
    if let Some(reading) = highest(circuit, settled, Test::R1R2) {
        return Figure::Read(reading.value.clone());
    }
    if let Some(reading) = highest(circuit, settled, Test::R2) {
        return Figure::ByLongLead(reading.value.clone());
    }
    let other = settled.standing_of(circuit.id).find(|reading| {
        matches!(reading.key.test, Test::R1R2 | Test::R2)
            && reading.key.subject.place().is_some_and(|place| !place.expects_open())
    });
    Figure::from_value(other.map(|reading| &reading.value))
}

/// Slower of the two half-cycles at a multiple.
fn slower(settled: &CurrentReadings<'_>, circuit: &Circuit, multiple: Multiple) -> Figure {
    let values = [HalfCycle::Deg0, HalfCycle::Deg180].into_iter().filter_map(|half_cycle| {
        settled.value(&Key::on_circuit(circuit.id, Place::Board, Test::RcdTrip { multiple, half_cycle }))
    });
    let mut slowest: Option<&Value> = None;
    for value in values {
        slowest = match (slowest, value) {
            (None, value) => Some(value),
            (Some(Value::Number(a)), Value::Number(b)) if b > a => Some(value),
            (Some(Value::Number(_)), Value::NoTrip | Value::Over(_)) => Some(value),
            (kept, _) => kept,
        };
    }
    Figure::from_value(slowest)
}

/// The row of one circuit.
pub fn result_row(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> ResultRow {
    let end = |conductor| {
        if circuit.shape == Shape::Ring {
            Figure::from_value(settled.value(&Key::on_circuit(
                circuit.id,
                Place::Board,
                Test::RingEndToEnd { conductor },
            )))
        } else {
            Figure::DoesNotApply
        }
    };
    let polarity = polarity(installation, circuit, settled);
    let of_whole = |reading: &&Reading| matches!(&reading.key.subject, Subject::CircuitSet { circuits } if circuits.contains(&circuit.id));
    let taken = settled
        .standing_of(circuit.id)
        .chain(settled.for_sets().filter(of_whole))
        .find_map(|reading| reading.context.test_voltage_v);
    let has_rcd = installation.rcd_for(circuit).is_some();
    let if_rcd = |figure: Figure| if has_rcd { figure } else { Figure::DoesNotApply };
    // A device over several ways is tested at one of them.
    let own = Key::on_circuit(circuit.id, Place::Board, Test::RcdButton);
    let elsewhere = settled.standing_of(circuit.id).all(|reading| !matches!(reading.key.test, Test::RcdTrip { .. }));
    let tested = installation.rcd_test_circuit(circuit).filter(|_| elsewhere).unwrap_or(circuit);
    let button =
        settled.value(&own).or_else(|| settled.value(&Key::on_circuit(tested.id, Place::Board, Test::RcdButton)));
    ResultRow {
        circuit: circuit.id,
        way: circuit.way.clone(),
        r1: end(Conductor::L),
        rn: end(Conductor::N),
        r2: end(Conductor::E),
        r1_r2: continuity_box(circuit, settled),
        live_live: lowest_insulation(installation, settled, circuit, |pair| !pair.is_to_earth()),
        live_earth: lowest_insulation(installation, settled, circuit, Pair::is_to_earth),
        test_voltage_v: taken,
        polarity: match &*polarity {
            Polarity::Earned(_) => Figure::Read(Value::Pass),
            Polarity::Wrong(_) => Figure::Wrong,
            Polarity::Excused(value) => Figure::Read(value.clone()),
            Polarity::Outstanding(_) => Figure::Nothing,
        },
        polarity_by: if matches!(*polarity, Polarity::Earned(_)) { polarity.describe() } else { String::new() },
        zs: Figure::from_value(recorded_zs(installation, circuit, settled).as_ref()),
        rcd_one_ms: if_rcd(slower(settled, tested, Multiple::One)),
        rcd_five_ms: if_rcd(slower(settled, tested, Multiple::Five)),
        rcd_button: if_rcd(Figure::from_value(button)),
        remarks: remarks(installation, circuit, settled),
    }
}

/// Remarks of a circuit: its own, then the reasons of limitations.
fn remarks(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> String {
    let mut parts: Vec<String> = Vec::new();
    if !circuit.remarks.trim().is_empty() {
        parts.push(circuit.remarks.trim().to_owned());
    }
    let spurs: Vec<&str> = circuit.points.iter().filter(|p| p.spur_from.is_some()).map(|p| p.name.as_str()).collect();
    if !spurs.is_empty() {
        parts.push(format!("spur: {}", spurs.join(", ")));
    }
    // Asked and noted: a fault shares its current with armour that is connected.
    if let Some(armour) = installation.armour(circuit).filter(|_| circuit.armour.is_some()) {
        parts.push(format!("armour {}", armour.label()));
    }
    if let Some((_, point)) = highest_r1_r2(circuit, settled).filter(|_| circuit.shape == Shape::Ring) {
        let name = circuit.point(point).map_or("", |point| point.name.as_str());
        parts.push(format!("R1+R2 at {name}"));
    }
    let mut reasons: Vec<String> = settled
        .standing_of(circuit.id)
        .filter_map(|reading| match &reading.value {
            Value::Limitation(reason) => Some(format!("LIM: {reason}")),
            _ => None,
        })
        .collect();
    reasons.sort();
    reasons.dedup();
    parts.extend(reasons);
    parts.join("; ")
}
