//! Where a reading should fall.

use proof_standard::limits::Source;
use rust_decimal::Decimal;
use serde::Serialize;

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
        !self.is_below(value) && !self.is_above(value)
    }

    /// Whether a number is below it, and below its bound as it is shown: 0.36 is not lower than 0.36–0.55.
    pub fn is_below(&self, value: f64) -> bool {
        value < self.low.min(rounded(self.low, self.places())) - 1e-9
    }

    /// Whether a number is above it, and above its bound as it is shown.
    pub fn is_above(&self, value: f64) -> bool {
        self.high.is_some_and(|high| value > high.max(rounded(high, self.places())) + 1e-9)
    }

    /// How many digits after the point are shown. A band that is drawn as one number says nothing: it gets the digits
    /// that its width wants.
    fn places(&self) -> usize {
        let narrow = self.high.is_some_and(|high| high - self.low < 2.0);
        if self.low >= 10.0 && !narrow { 0 } else { 2 }
    }

    /// The band as it is shown: with so many digits as a reading has.
    pub fn expected(&self, unit: &'static str) -> Expected {
        let places = self.places();
        let low = (!self.is_open()).then(|| with_places(self.low, places));
        Expected { low, high: self.high.map(|high| with_places(high, places)), unit }
    }

    /// `0.35–0.45 Ω`, `200 MΩ or more`, or `open`.
    pub fn in_unit(&self, unit: &'static str) -> String {
        self.expected(unit).to_string()
    }

    /// `0.35–0.45`, or `0.35 or more`.
    pub fn shown(&self) -> String {
        self.expected("").to_string().replace("  ", " ").trim_end().to_owned()
    }
}

fn rounded(number: f64, places: usize) -> f64 {
    let tens = if places == 0 { 1.0 } else { 100.0 };
    (number * tens).round() / tens
}

/// A float with the digits that are shown of it.
pub fn with_places(number: f64, places: usize) -> Decimal {
    format!("{number:.places$}").parse().unwrap_or_default()
}

/// What a circuit should give, with the digits that are shown.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Expected {
    /// Not below this; `None`: open.
    pub low: Option<Decimal>,
    /// Not above this.
    pub high: Option<Decimal>,
    /// Its unit.
    pub unit: &'static str,
}

impl std::fmt::Display for Expected {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let unit = self.unit;
        match (self.low, self.high) {
            (None, _) => f.write_str("open"),
            (Some(low), Some(high)) => write!(f, "{low}–{high} {unit}"),
            (Some(low), None) => write!(f, "{low} {unit} or more"),
        }
    }
}
