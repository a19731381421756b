//! Own copy: a limit that a licensed person confirmed or corrected against the firm's own copy of the
//! document, or wrote where no table here holds a row. It travels in the job and stands on its certificate.

use crate::installation::{CpcIs, Insulation};
use jiff::Timestamp;
use proof_standard::limits::capacity::{ReferenceMethod, twin_and_earth};
use proof_standard::limits::devices::{DeviceStandard, Disconnection, TripType, maximum_zs};
use proof_standard::limits::earthing::{earthing_and_bonding, k_copper};
use proof_standard::limits::rcd::{Multiple, RcdKind, TripWindow, window};
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Amps, SquareMillimetres, exact};
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
    /// What the distributor declares at most for Ze, Ω.
    DeclaredZe {
        /// Earthing of the supply.
        system: EarthingSystem,
    },
    /// Longest trip time, ms.
    TripTime {
        /// Kind of residual device.
        kind: RcdKind,
        /// Multiple of IΔn.
        multiple: Multiple,
    },
    /// Least main bonding conductor under PME, mm².
    MainBond {
        /// Neutral of the supply.
        neutral_mm2: SquareMillimetres,
    },
    /// Factor k of a copper protective conductor.
    FactorK {
        /// Insulation that it lies in or beside.
        insulation: Insulation,
        /// It is no part of a cable.
        separate: bool,
    },
}

impl OwnLimit {
    /// The unit of its value; none for a factor.
    pub const fn unit(&self) -> &'static str {
        match self {
            Self::MaximumZs { .. } | Self::DeclaredZe { .. } => "Ω",
            Self::Capacity { .. } => "A",
            Self::ProtectiveConductor { .. } | Self::MainBond { .. } => "mm²",
            Self::TripTime { .. } => "ms",
            Self::FactorK { .. } => "",
        }
    }

    /// Whether a smaller value allows more: a least, not a most.
    const fn is_a_least(&self) -> bool {
        matches!(self, Self::ProtectiveConductor { .. } | Self::MainBond { .. })
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
            Self::DeclaredZe { system } => format!("declared Ze, {}", system.name()),
            Self::TripTime { kind, multiple } => {
                format!("longest trip time, {}, at {}", kind.label(), multiple.label())
            }
            Self::MainBond { neutral_mm2 } => {
                format!("least main bond under PME with a neutral of {} mm²", neutral_mm2.get())
            }
            Self::FactorK { insulation, separate } => {
                let where_it_lies = if *separate { "separate" } else { "in a cable" };
                format!("k of copper, {}, {where_it_lies}", insulation.label())
            }
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
            Self::DeclaredZe { system } => {
                (*system != EarthingSystem::Tt).then(|| exact(system.declared_ze().get())).flatten()
            }
            Self::TripTime { kind, multiple } => match *window(*kind, *multiple) {
                TripWindow::Between { max_ms, .. } => Some(max_ms.get()),
                TripWindow::NoTrip => None,
            },
            Self::MainBond { neutral_mm2 } => {
                let (_, bond) = earthing_and_bonding(EarthingSystem::TnCS, neutral_mm2.get(), neutral_mm2.get());
                exact(bond)
            }
            Self::FactorK { insulation, separate } => exact(*k_copper(insulation.working().get(), *separate)),
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
    /// The later amendment that it belongs to: it stands in jobs that are verified to that one; empty: in all.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub amendment: String,
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
        let least = self.limit.is_a_least();
        self.limit.ours().is_some_and(|ours| if least { self.value < ours } else { self.value > ours })
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
            Some(ours) if self.is_looser() && (alone || blank(&self.reason)) => {
                Err(NoRow::Looser { value: self.value, ours, unit: self.limit.unit() })
            }
            _ => Ok(()),
        }
    }

    /// The row on one line, as it stands on papers.
    pub fn line(&self) -> String {
        let second = if self.second.is_empty() { String::new() } else { format!(" and {}", self.second) };
        let (what, value) = (self.limit.label(), self.value.normalize());
        let unit = Some(self.limit.unit()).filter(|unit| !unit.is_empty());
        let unit = unit.map_or_else(String::new, |unit| format!(" {unit}"));
        format!("{what}: {value}{unit} ({}, {}; {}{second})", self.document, self.place, self.by)
    }
}
