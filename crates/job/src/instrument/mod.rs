//! Test instruments: what they show, their checks against fixed values, and whether one may be
//! trusted on a day.

mod series;
mod trust;

pub use series::SeriesOrder;
pub use trust::{
    CHECK_EVERY_DAYS, CHECK_OHM, CHECK_SHARE, Distrust, check_source, distrust, drift_percent_a_year, is_right,
};

use jiff::civil::Date;
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A test instrument, by the firm's own reference.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Instrument {
    /// Identity.
    pub id: Uuid,
    /// What it measures, such as `multifunction`.
    pub kind: String,
    /// The firm's own reference.
    pub reference: String,
    /// Its serial number; empty: not said.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub serial: String,
    /// Calibration due.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub calibration_due: Option<Date>,
    /// What it shows when insulation is over range, MΩ.
    pub over_range_mohm: Decimal,
    /// What it shows when continuity is over range, Ω.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub over_range_ohm: Option<Decimal>,
    /// What it shows when a loop is over range, Ω: so shown, the loop is open.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub over_range_loop_ohm: Option<Decimal>,
    /// Open-circuit voltage of its continuity range, V (BS EN 61557-4: 4 to 24 V).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub continuity_v: Option<Decimal>,
    /// Insulation test voltages that it has, V d.c.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub insulation_v: Vec<u16>,
    /// Rated, by its own marking, for loop readings between lines of the supply (400 V).
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub line_to_line: bool,
    /// In which order it runs its automatic series of an RCD.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub series: Option<SeriesOrder>,
    /// Its checks against fixed values, oldest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub checks: Vec<FixedCheck>,
    /// Its calibrations before the one that stands, oldest first: what was read under one is judged by it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub calibrated: Vec<Calibrated>,
}

/// A calibration that another followed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Calibrated {
    /// Due then, if anybody said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub due: Option<Date>,
    /// The first day of the one that followed.
    pub until: Date,
}

/// Most earlier calibrations kept of an instrument.
const MOST_CALIBRATIONS: usize = 100;

impl Instrument {
    /// When calibration was due, as it stood on a day.
    pub fn due_on(&self, on: Date) -> Option<Date> {
        let then = self.calibrated.iter().find(|one| on < one.until);
        then.map_or(self.calibration_due, |one| one.due)
    }

    /// Notes the calibration before, where this one is due at another date.
    pub fn recalibrated(&mut self, before: &Self, today: Date) {
        let same_day = before.calibrated.last().is_some_and(|last| last.until == today);
        if before.calibration_due == self.calibration_due || before.calibration_due.is_none() || same_day {
            return;
        }
        self.calibrated.push(Calibrated { due: before.calibration_due, until: today });
        if self.calibrated.len() > MOST_CALIBRATIONS {
            self.calibrated.remove(0);
        }
    }
}

/// What a fixed value is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum CheckOf {
    /// Low resistance, Ω.
    Continuity,
    /// Insulation, MΩ.
    Insulation,
    /// Loop impedance, Ω.
    Loop,
}

impl CheckOf {
    /// In the order offered.
    pub const ALL: [Self; 3] = [Self::Continuity, Self::Insulation, Self::Loop];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Continuity => "continuity",
            Self::Insulation => "insulation",
            Self::Loop => "loop",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Continuity => "continuity, Ω",
            Self::Insulation => "insulation, MΩ",
            Self::Loop => "loop, Ω",
        }
    }

    /// Ω or MΩ.
    pub const fn unit(self) -> &'static str {
        match self {
            Self::Continuity | Self::Loop => "Ω",
            Self::Insulation => "MΩ",
        }
    }
}

/// A check of an instrument against a fixed value.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct FixedCheck {
    /// When.
    pub on: Date,
    /// What it is a value of.
    pub of: CheckOf,
    /// The fixed value.
    pub fixed: Decimal,
    /// What the instrument showed.
    pub read: Decimal,
    /// By whom.
    pub by: String,
}
