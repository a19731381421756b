//! The supply at the origin and its bonds.

use crate::installation::Lines;
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Amps, Metres, SquareMillimetres};
use rust_decimal::{Decimal, dec};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

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
    pub device_a: Option<Amps>,
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
    /// Why there is nothing to bond, where there is none: what was looked at.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub nothing_to_bond: String,
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
            nothing_to_bond: String::new(),
        }
    }
}
