//! Where a reading should fall.

use crate::standard::Source;

const OPEN: Source = Source::practice("closed reads, open goes over range");

/// Where a reading should fall.
#[derive(Debug, Clone, PartialEq)]
pub struct Band {
    /// Not below this.
    pub low: f64,
    /// Not above this; `None`: no upper bound is known.
    pub high: Option<f64>,
    /// The likeliest value, where there is one.
    pub centre: Option<f64>,
    /// What it follows from: formula and numbers.
    pub basis: String,
    /// Where the rule comes from.
    pub source: Source,
}

impl Band {
    pub(crate) fn around(centre: f64, below: f64, above: f64, basis: String, source: Source) -> Self {
        Self { low: (centre - below).max(0.0), high: Some(centre + above), centre: Some(centre), basis, source }
    }

    /// Nothing should be read: open, over range.
    pub fn open(basis: String) -> Self {
        Self { low: f64::INFINITY, high: None, centre: None, basis, source: OPEN }
    }

    /// Whether nothing should be read.
    pub const fn is_open(&self) -> bool {
        self.low == f64::INFINITY
    }

    /// Whether a number falls in it.
    pub fn holds(&self, value: f64) -> bool {
        value >= self.low - 1e-9 && self.high.is_none_or(|high| value <= high + 1e-9)
    }

    /// `0.35–0.45 Ω`, or `200 MΩ or more`.
    pub fn in_unit(&self, unit: &str) -> String {
        if self.is_open() {
            return "open".to_owned();
        }
        match self.high {
            Some(_) => format!("{} {unit}", self.shown()),
            None => format!("{} {unit} or more", self.shown().trim_end_matches(" or more")),
        }
    }

    /// `0.35–0.45`, or `0.35 or more`.
    pub fn shown(&self) -> String {
        if self.is_open() {
            return "open".to_owned();
        }
        let places = if self.low >= 10.0 { 0 } else { 2 };
        match self.high {
            Some(high) => format!("{:.places$}–{:.places$}", self.low, high),
            None => format!("{:.places$} or more", self.low),
        }
    }
}
