//! A reading as it was taken: what was typed, what it says, under what circumstances.

use super::key::Key;
use super::value::Value;
use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use proof_standard::quantity::{Celsius, Volts};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

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
    /// Copied from paper; its day is known, where it is said.
    Paper,
    /// Received from an instrument.
    Instrument,
    /// Imported with a job file or a table.
    Import,
}

impl Origin {
    /// Whether it was taken down where and when it was read.
    pub const fn is_on_site(self) -> bool {
        matches!(self, Self::Typed | Self::Instrument)
    }
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
    /// On which day, of what was copied from paper.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub read_on: Option<Date>,
    /// When it was stored.
    pub stored_at: Timestamp,
    /// How it came in.
    #[serde(default)]
    pub origin: Origin,
    /// Made by a simulation: it stands only in a job that was made as demo or practice.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub simulated: bool,
    /// Who held the probes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub read_by: Option<String>,
    /// Who wrote it down.
    pub entered_by: String,
}

impl Context {
    /// When it was taken; of what was copied from paper, the noon of its day.
    pub fn moment(&self) -> Option<Timestamp> {
        let noon = |day: Date| day.at(12, 0, 0, 0).to_zoned(TimeZone::UTC).ok().map(|noon| noon.timestamp());
        self.taken_at.or_else(|| self.read_on.and_then(noon))
    }

    /// Copied from paper, where nothing else is said: the time is unknown.
    pub fn from_paper(entered_by: &str, stored_at: Timestamp) -> Self {
        Self {
            instrument: None,
            lead_set: None,
            pins: None,
            null: LeadNull::Unknown,
            test_voltage_v: None,
            ambient_c: None,
            taken_at: None,
            read_on: None,
            stored_at,
            origin: Origin::Paper,
            simulated: false,
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
