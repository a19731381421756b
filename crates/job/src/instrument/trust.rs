//! Whether an instrument may be trusted on a day: by its calibration, or by regular checks against
//! fixed values. Two schools; the house rule says which.

use crate::instrument::{CheckOf, FixedCheck, Instrument};
use jiff::civil::Date;
use proof_standard::house_rules::InstrumentTrust;
use proof_standard::limits::Source;
use proof_standard::quantity::approximate;
use rust_decimal::Decimal;
use serde::Serialize;

/// Longest time between regular checks, days (common practice, no source: monthly).
pub const CHECK_EVERY_DAYS: i32 = 31;

/// A check may be off by this share of the fixed value … (common practice, no source).
pub const CHECK_SHARE: f64 = 0.05;

/// … and by this many ohms on the low ranges, which show hundredths.
pub const CHECK_OHM: f64 = 0.02;

/// Source of the rules of checks.
pub const fn check_source() -> Source {
    Source::practice("checked monthly against fixed values")
}

/// Why an instrument is not trusted.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, thiserror::Error)]
#[serde(tag = "distrust", rename_all = "snake_case")]
pub enum Distrust {
    /// Out of calibration.
    #[error("{name} was out of calibration: due {due}, read {on}")]
    OutOfCalibration {
        /// Its own reference.
        name: String,
        /// Due then.
        due: Date,
        /// Read then.
        on: Date,
    },
    /// No date.
    #[error("{name} has no calibration date")]
    NoDate {
        /// Its own reference.
        name: String,
    },
    /// Never checked.
    #[error("{name} has no check of its {} range", .of.key())]
    NeverChecked {
        /// Its own reference.
        name: String,
        /// Which range.
        of: CheckOf,
    },
    /// Not checked lately.
    #[error("{name} was last checked on {on}, {days} days before")]
    CheckedLongAgo {
        /// Its own reference.
        name: String,
        /// Checked then.
        on: Date,
        /// So many days before.
        days: i32,
    },
    /// A check that failed.
    #[error("{name} showed {read} {} for {fixed} on {on}", .of.unit())]
    ShowedWrong {
        /// Its own reference.
        name: String,
        /// Which range.
        of: CheckOf,
        /// What it showed.
        read: Decimal,
        /// The fixed value.
        fixed: Decimal,
        /// When.
        on: Date,
    },
    /// Something was not right before use.
    #[error("{name} was not right before use on {on}: {said}")]
    NotRight {
        /// Its own reference.
        name: String,
        /// When.
        on: Date,
        /// What was found.
        said: String,
    },
}

/// Why an instrument is not trusted; nothing: it is.
pub fn distrust(instrument: &Instrument, rule: InstrumentTrust, of: CheckOf, on: Date) -> Option<Distrust> {
    let name = || instrument.reference.clone();
    match rule {
        InstrumentTrust::Calibration => match instrument.due_on(on) {
            Some(due) if due < on => Some(Distrust::OutOfCalibration { name: name(), due, on }),
            Some(_) => None,
            None => Some(Distrust::NoDate { name: name() }),
        },
        InstrumentTrust::Checks => {
            let last = instrument.checks.iter().filter(|check| check.of == of && check.on <= on).max_by_key(|c| c.on);
            let Some(last) = last else { return Some(Distrust::NeverChecked { name: name(), of }) };
            let days = (on - last.on).get_days();
            if days > CHECK_EVERY_DAYS {
                return Some(Distrust::CheckedLongAgo { name: name(), on: last.on, days });
            }
            (!is_right(last)).then(|| Distrust::ShowedWrong {
                name: name(),
                of,
                read: last.read,
                fixed: last.fixed,
                on: last.on,
            })
        }
    }
}

/// Whether a check was within what an instrument may be off.
pub fn is_right(check: &FixedCheck) -> bool {
    let (fixed, read) = (approximate(check.fixed), approximate(check.read));
    let floor = if check.of == CheckOf::Insulation { 0.0 } else { CHECK_OHM };
    (read - fixed).abs() <= (CHECK_SHARE * fixed).max(floor) + 1e-9
}

/// Drift of a range in per cent of the fixed value a year, by least squares over its checks; `None`
/// with fewer than three.
pub fn drift_percent_a_year(instrument: &Instrument, of: CheckOf) -> Option<f64> {
    let checks: Vec<&FixedCheck> =
        instrument.checks.iter().filter(|check| check.of == of && approximate(check.fixed) > 0.0).collect();
    if checks.len() < 3 {
        return None;
    }
    let first = checks.iter().map(|check| check.on).min()?;
    let points: Vec<(f64, f64)> = checks
        .iter()
        .map(|check| {
            let years = f64::from((check.on - first).get_days()) / 365.25;
            (years, 100.0 * (approximate(check.read) / approximate(check.fixed) - 1.0))
        })
        .collect();
    let count = points.len() as f64;
    let mean = |of: fn(&(f64, f64)) -> f64| points.iter().map(of).sum::<f64>() / count;
    let (x, y) = (mean(|p| p.0), mean(|p| p.1));
    let spread: f64 = points.iter().map(|p| (p.0 - x).powi(2)).sum();
    (spread > 0.0).then(|| points.iter().map(|p| (p.0 - x) * (p.1 - y)).sum::<f64>() / spread)
}
