//! What an instrument sends of a reading: a line of JSON, the open format `proof-feed`, described in docs/FEED.md.
//!
//! It says what was measured and what was shown. What it is a reading of, it may say; the card at hand decides.

use crate::installation::validity::LONGEST_LINE;
use crate::reading::entry::Field;
use jiff::Timestamp;
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::limits::rcd::{HalfCycle, Multiple};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// What the file or the line says it is.
pub const FORMAT: &str = "proof-feed";
/// Newest version of the format.
pub const VERSION: u32 = 1;
/// Most bytes of a line.
pub const MOST_BYTES: usize = 8 * 1024;

/// What was measured.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Measured {
    /// A low resistance, dead.
    LowResistance,
    /// Insulation resistance.
    Insulation,
    /// The impedance of a loop.
    Loop,
    /// A prospective fault current.
    FaultCurrent,
    /// How long a residual device took.
    TripTime,
}

impl Measured {
    /// Every one.
    pub const ALL: [Self; 5] = [Self::LowResistance, Self::Insulation, Self::Loop, Self::FaultCurrent, Self::TripTime];

    /// What a field takes; nothing where right or wrong is asked.
    pub const fn for_field(field: Field) -> Option<Self> {
        match field {
            Field::Continuity => Some(Self::LowResistance),
            Field::Insulation => Some(Self::Insulation),
            Field::Loop => Some(Self::Loop),
            Field::FaultCurrent => Some(Self::FaultCurrent),
            Field::TripTime => Some(Self::TripTime),
            Field::Outcome => None,
        }
    }

    /// Its key in the format.
    pub const fn key(self) -> &'static str {
        match self {
            Self::LowResistance => "low_resistance",
            Self::Insulation => "insulation",
            Self::Loop => "loop",
            Self::FaultCurrent => "fault_current",
            Self::TripTime => "trip_time",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::LowResistance => "low resistance",
            Self::Insulation => "insulation resistance",
            Self::Loop => "a loop impedance",
            Self::FaultCurrent => "a fault current",
            Self::TripTime => "a trip time",
        }
    }

    /// The units it is shown in.
    pub const fn units(self) -> &'static [Unit] {
        match self {
            Self::LowResistance | Self::Loop => &[Unit::Ohm, Unit::Milliohm, Unit::Kilohm],
            Self::Insulation => &[Unit::Megohm, Unit::Kilohm, Unit::Gigohm],
            Self::FaultCurrent => &[Unit::Kiloampere, Unit::Ampere],
            Self::TripTime => &[Unit::Millisecond, Unit::Second],
        }
    }
}

/// A unit of the display.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // they are their own names
pub enum Unit {
    Ohm,
    Milliohm,
    Kilohm,
    Megohm,
    Gigohm,
    Ampere,
    Kiloampere,
    Millisecond,
    Second,
}

impl Unit {
    /// Every one.
    pub const ALL: [Self; 9] = [
        Self::Ohm,
        Self::Milliohm,
        Self::Kilohm,
        Self::Megohm,
        Self::Gigohm,
        Self::Ampere,
        Self::Kiloampere,
        Self::Millisecond,
        Self::Second,
    ];

    /// Its key in the format.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Ohm => "ohm",
            Self::Milliohm => "milliohm",
            Self::Kilohm => "kilohm",
            Self::Megohm => "megohm",
            Self::Gigohm => "gigohm",
            Self::Ampere => "ampere",
            Self::Kiloampere => "kiloampere",
            Self::Millisecond => "millisecond",
            Self::Second => "second",
        }
    }

    /// As it stands behind a number.
    pub const fn symbol(self) -> &'static str {
        match self {
            Self::Ohm => "Ω",
            Self::Milliohm => "mΩ",
            Self::Kilohm => "kΩ",
            Self::Megohm => "MΩ",
            Self::Gigohm => "GΩ",
            Self::Ampere => "A",
            Self::Kiloampere => "kA",
            Self::Millisecond => "ms",
            Self::Second => "s",
        }
    }
}

/// Where the probes are, as far as the instrument was told.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct At {
    /// Name of the board.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub board: Option<String>,
    /// Way of the circuit.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub way: Option<String>,
    /// Name or number of the point.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub point: Option<String>,
    /// Name of the reading, as in the address of its page: `r1`, `r1r2-p2`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub step: Option<String>,
}

/// A reading as an instrument sends it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Message {
    /// `proof-feed`.
    pub format: String,
    /// 1.
    pub version: u32,
    /// Made by the instrument: one reading has one id, however often it is sent.
    pub id: Uuid,
    /// Reference of the instrument, as on its label.
    pub instrument: String,
    /// Whether a simulation made it. Every message says it.
    pub simulated: bool,
    /// When it was taken, by the clock of the instrument.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub taken_at: Option<Timestamp>,
    /// What was measured.
    pub measured: Measured,
    /// As displayed: `0.34`, `>999`, `OL`, `no trip`.
    pub shown: String,
    /// The unit of the display; not needed with `OL` and `no trip`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unit: Option<Unit>,
    /// The display had not settled.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub unsteady: bool,
    /// The two conductors under the probes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub between: Option<[Conductor; 2]>,
    /// Test voltage d.c. of insulation, V.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub test_v: Option<u16>,
    /// Rated residual current that it was set to, mA.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub residual_ma: Option<u32>,
    /// The multiple of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub multiple: Option<Multiple>,
    /// The half-cycle that it began with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub half_cycle: Option<HalfCycle>,
    /// Where the probes are.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub at: Option<At>,
}

/// Why a line is no message.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NoMessage {
    /// Too long.
    #[error("the line is longer than {MOST_BYTES} bytes")]
    TooLong,
    /// No JSON of the format.
    #[error("it is no message of {FORMAT} {VERSION}: {0}")]
    Unreadable(String),
    /// Another format or version.
    #[error("it says {0} {1}: {FORMAT} {VERSION} is read here")]
    Other(String, u32),
    /// A text is too long, or holds what no text may.
    #[error("{0}: up to {LONGEST_LINE} characters, no control characters")]
    Text(&'static str),
    /// The unit is none of what was measured.
    #[error("{} is shown in {}, not in {}", .0.label(), units(*.0), .1.map_or("no unit", Unit::key))]
    Unit(Measured, Option<Unit>),
    /// The same conductor twice.
    #[error("between: two different conductors, not {0} twice")]
    Same(Conductor),
}

fn units(measured: Measured) -> String {
    measured.units().iter().map(|unit| unit.key()).collect::<Vec<_>>().join(", ")
}

impl Message {
    /// Reads a line.
    ///
    /// # Errors
    /// [`NoMessage`] with what is wrong.
    pub fn read(line: &str) -> Result<Self, NoMessage> {
        if line.len() > MOST_BYTES {
            return Err(NoMessage::TooLong);
        }
        let message: Self = serde_json::from_str(line).map_err(|error| NoMessage::Unreadable(error.to_string()))?;
        message.check()?;
        Ok(message)
    }

    /// Whether it makes sense by itself.
    ///
    /// # Errors
    /// [`NoMessage`] with what is wrong.
    pub fn check(&self) -> Result<(), NoMessage> {
        if self.format != FORMAT || self.version != VERSION {
            return Err(NoMessage::Other(self.format.chars().take(40).collect(), self.version));
        }
        let at = self.at.clone().unwrap_or_default();
        let texts = [
            ("instrument", Some(&self.instrument)),
            ("shown", Some(&self.shown)),
            ("at.board", at.board.as_ref()),
            ("at.way", at.way.as_ref()),
            ("at.point", at.point.as_ref()),
            ("at.step", at.step.as_ref()),
        ];
        for (name, text) in texts {
            if text.is_some_and(|text| proof_standard::text::line(name, text, LONGEST_LINE).is_err()) {
                return Err(NoMessage::Text(name));
            }
        }
        if self.is_figure() && self.unit.is_none()
            || self.unit.is_some_and(|unit| !self.measured.units().contains(&unit))
        {
            return Err(NoMessage::Unit(self.measured, self.unit));
        }
        match self.between {
            Some([a, b]) if a == b => Err(NoMessage::Same(a)),
            _ => Ok(()),
        }
    }

    /// The pair under the probes.
    pub fn pair(&self) -> Option<Pair> {
        self.between.and_then(|[a, b]| Pair::new(a, b).ok())
    }

    /// Whether a number is shown.
    fn is_figure(&self) -> bool {
        self.shown.bytes().any(|byte| byte.is_ascii_digit())
    }

    /// As somebody would type it.
    pub fn typed(&self) -> String {
        let shown = self.shown.trim();
        match self.unit.filter(|_| self.is_figure()) {
            Some(unit) => format!("{shown} {}", unit.symbol()),
            None => shown.to_owned(),
        }
    }
}

/// What is sent back for a line: the instrument may forget what is answered.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "answer", rename_all = "snake_case", deny_unknown_fields)]
pub enum FeedReply {
    /// It is stored.
    Accepted {
        /// Of which reading.
        id: Uuid,
    },
    /// It is not a reading of this job, and will not be: why.
    Refused {
        /// Of which reading; none where the line could not be read.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        id: Option<Uuid>,
        /// Why.
        because: String,
    },
}

/// The JSON Schema of a message.
#[cfg(feature = "schema")]
pub fn schema() -> String {
    let mut text = serde_json::to_string_pretty(&schemars::schema_for!(Message)).unwrap_or_default();
    text.push('\n');
    text
}
