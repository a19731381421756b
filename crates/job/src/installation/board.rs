//! A board: what feeds it, its main switch, its residual devices.

use crate::installation::Lines;
use proof_standard::limits::rcd::{RcdKind, RcdType};
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Amps, Kiloamps, Milliamps, Millis};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

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
    pub rating_a: Option<Amps>,
    /// Rated voltage, V.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub voltage_v: Option<Decimal>,
    /// Fuse in it, or its setting.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fuse_a: Option<Amps>,
    /// IΔn, where it is a residual device, mA.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub idn_ma: Option<Milliamps>,
    /// Its delay, ms.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub delay_ms: Option<Millis>,
}

impl MainSwitch {
    /// Its residual part, where it is a residual device: with its delay it is of kind S.
    pub fn residual(&self) -> Option<Residual> {
        let delayed = self.delay_ms.is_some_and(|delay| delay.0 > Decimal::ZERO);
        let kind = if delayed { RcdKind::Selective } else { RcdKind::General };
        self.idn_ma.map(|idn_ma| Residual { idn_ma, kind })
    }
}

/// What a residual device trips at, and how fast.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Residual {
    /// Rated residual operating current, mA.
    pub idn_ma: Milliamps,
    /// Kind as regards trip times.
    pub kind: RcdKind,
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
    pub idn_ma: Milliamps,
    /// Kind as regards trip times.
    #[serde(default)]
    pub kind: RcdKind,
    /// Type of residual current it detects.
    #[serde(default)]
    pub detects: RcdType,
    /// Its product standard, as marked; empty: not said.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub standard: String,
    /// Rated current.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rating_a: Option<Amps>,
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
    pub conditional_ka: Option<Kiloamps>,
    /// Surge protection at the board, as marked; empty: none.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub surge: String,
}
