//! Own copy: a limit that a licensed person confirmed or corrected against the firm's own copy of the
//! document, or wrote where no table here holds a row. It travels in the job and stands on its certificate.

use crate::installation::{CpcIs, Installation, Insulation};
use crate::quantity::{Amps, SquareMillimetres};
use crate::standard::capacity::{ReferenceMethod, twin_and_earth};
use crate::standard::devices::{DeviceStandard, Disconnection, TripType, maximum_zs};
use jiff::Timestamp;
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// What a row is of.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "of", rename_all = "snake_case", deny_unknown_fields)]
pub enum OwnLimit {
    /// Maximum Zs of a device, Ω.
    MaximumZs {
        /// Product standard.
        standard: DeviceStandard,
        /// Type of a breaker.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        trip: Option<TripType>,
        /// Rating.
        rating_a: Amps,
        /// Disconnection time, s.
        disconnection_s: Disconnection,
    },
    /// What a cable carries, A.
    Capacity {
        /// Kind of cable, as circuits name it.
        cable: String,
        /// Its insulation, where that is said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        insulation: Option<Insulation>,
        /// Size of its line.
        line_mm2: SquareMillimetres,
        /// How it is installed.
        method: ReferenceMethod,
    },
    /// The least protective conductor with a cable behind a device, mm².
    ProtectiveConductor {
        /// What it is.
        cpc_is: CpcIs,
        /// Size of the line.
        line_mm2: SquareMillimetres,
        /// Product standard of the device.
        standard: DeviceStandard,
        /// Its rating.
        rating_a: Amps,
    },
}

impl OwnLimit {
    /// The unit of its value.
    pub const fn unit(&self) -> &'static str {
        match self {
            Self::MaximumZs { .. } => "Ω",
            Self::Capacity { .. } => "A",
            Self::ProtectiveConductor { .. } => "mm²",
        }
    }

    /// What it is of, in words.
    pub fn label(&self) -> String {
        match self {
            Self::MaximumZs { standard, trip, rating_a, disconnection_s } => format!(
                "maximum Zs, {} {}{} A at {} s",
                standard.name(),
                trip.map_or("", TripType::letter),
                rating_a.normalize(),
                disconnection_s.text()
            ),
            Self::Capacity { cable, insulation, line_mm2, method } => format!(
                "capacity of {cable}{}, {} mm², method {}",
                insulation.map_or_else(String::new, |one| format!(" ({})", one.label())),
                line_mm2.get(),
                method.name()
            ),
            Self::ProtectiveConductor { cpc_is, line_mm2, standard, rating_a } => format!(
                "least CPC ({}) with {} mm² behind {} {} A",
                cpc_is.label(),
                line_mm2.get(),
                standard.name(),
                rating_a.normalize()
            ),
        }
    }

    /// What the table here holds; `None`: no row.
    pub fn ours(&self) -> Option<Decimal> {
        match self {
            Self::MaximumZs { standard, trip, rating_a, disconnection_s } => {
                maximum_zs(*standard, *trip, rating_a.normalize(), *disconnection_s).ok().map(|found| found.printed_ohm)
            }
            Self::Capacity { cable, insulation, line_mm2, method } => {
                let held = cable == crate::installation::CableFamily::TwinAndEarth.key()
                    && *insulation != Some(Insulation::Thermosetting90);
                twin_and_earth(*line_mm2, *method).filter(|_| held).map(Amps::get)
            }
            Self::ProtectiveConductor { .. } => None,
        }
    }
}

/// A row.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct OwnRow {
    /// Identity.
    pub id: Uuid,
    /// What it is of.
    pub limit: OwnLimit,
    /// The value, in the unit of what it is of.
    pub value: Decimal,
    /// The document: standard, table, maker's sheet.
    pub document: String,
    /// Where in it: page, table, line.
    pub place: String,
    /// Who looked.
    pub by: String,
    /// When.
    pub at: Timestamp,
    /// A second person, where it is looser than the table here.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub second: String,
    /// Why it is looser.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub reason: String,
}

/// Why a row is not taken.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NoRow {
    /// It has no value above nothing.
    #[error("the value is above 0, up to 1000000")]
    Value,
    /// No document or place.
    #[error("say which document, and where in it")]
    Unsourced,
    /// Nobody looked.
    #[error("say who looked, by name")]
    Nobody,
    /// Looser than the table here.
    #[error("{value} is looser than {ours} {unit} of the table here: give the reason, and a second person's name")]
    Looser {
        /// Given.
        value: Decimal,
        /// The table's.
        ours: Decimal,
        /// Unit.
        unit: &'static str,
    },
}

impl OwnRow {
    /// Whether it allows more than the table here.
    pub fn is_looser(&self) -> bool {
        self.limit.ours().is_some_and(|ours| self.value > ours)
    }

    /// Whether it says what the table here says.
    pub fn confirms(&self) -> bool {
        self.limit.ours() == Some(self.value)
    }

    /// Whether it may stand.
    ///
    /// # Errors
    /// [`NoRow`] with what is wanting.
    pub fn check(&self) -> Result<(), NoRow> {
        let blank = |text: &str| text.trim().is_empty();
        if self.value <= Decimal::ZERO || self.value > rust_decimal::dec!(1000000) {
            return Err(NoRow::Value);
        }
        if blank(&self.document) || blank(&self.place) {
            return Err(NoRow::Unsourced);
        }
        if blank(&self.by) {
            return Err(NoRow::Nobody);
        }
        let alone = blank(&self.second) || self.second.trim() == self.by.trim();
        match self.limit.ours() {
            Some(ours) if self.value > ours && (alone || blank(&self.reason)) => {
                Err(NoRow::Looser { value: self.value, ours, unit: self.limit.unit() })
            }
            _ => Ok(()),
        }
    }

    /// The row on one line, as it stands on papers.
    pub fn line(&self) -> String {
        let second = if self.second.is_empty() { String::new() } else { format!(" and {}", self.second) };
        format!(
            "{}: {} {} ({}, {}; {}{second})",
            self.limit.label(),
            self.value.normalize(),
            self.limit.unit(),
            self.document,
            self.place,
            self.by
        )
    }
}

impl Installation {
    /// The firm's own row of a limit: the one written last.
    pub fn own_row(&self, limit: &OwnLimit) -> Option<&OwnRow> {
        self.own_rows.iter().rev().find(|row| row.limit == *limit && row.check().is_ok())
    }
}
