//! What a reading says.

use proof_standard::quantity::approximate;
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

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
    /// Whether it says what an instrument or an eye found: only a figure takes the place of a figure. That somebody
    /// walked, could not read it or finds it not applicable does not.
    pub const fn is_figure(&self) -> bool {
        !matches!(self, Self::Walked | Self::Limitation(_) | Self::NotApplicable(_))
    }

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
