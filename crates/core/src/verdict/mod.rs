//! Two verdicts on a reading, never mixed: is it inside its limit, and is it the number that this
//! circuit should give? Each opens to its working: formula, numbers, result, source.
//!
//! Verdicts are derived, never stored. What could not be judged is *not judged*, never a pass.

mod circuit;
mod insulation;
mod limit;
mod origin;

pub use circuit::CircuitJudge;
pub use insulation::{judge_set, tell_tale};
pub use limit::{CircuitLimit, circuit_limit};
pub use origin::judge_origin;

use crate::expectation::Band;
use crate::reading::Value;
use crate::standard::Source;
use rust_decimal::{Decimal, dec};

/// How far two readings of one loop may lie apart, Ω: resolution and unsteady supply (common
/// practice, no source).
pub const LOOP_READING_WITHIN: Decimal = dec!(0.05);

/// The same as a share of a high loop (common practice, no source).
pub const LOOP_READING_SHARE: Decimal = dec!(0.05);

/// Is the reading inside its limit?
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Limit {
    /// Inside.
    Within,
    /// Outside.
    Outside,
    /// There is no limit, or it could not be worked out.
    NotJudged,
}

/// Is it the number that this circuit should give?
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Plausibility {
    /// It is.
    Within,
    /// It is not: look again.
    LookAgain,
    /// Nothing says what it should be.
    NotJudged,
}

/// One line of working.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Working {
    /// `limit` or `expected`.
    pub part: &'static str,
    /// Formula or rule.
    pub formula: String,
    /// The numbers put in.
    pub numbers: String,
    /// What came out.
    pub result: String,
    /// Where the rule comes from.
    pub source: String,
}

/// A reading judged.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Judgement {
    /// Against its limit.
    pub limit: Limit,
    /// Against what the circuit should give.
    pub plausibility: Plausibility,
    /// What is odd or wrong, in a line each.
    pub notes: Vec<String>,
    /// How it was judged; empty in brief.
    pub working: Vec<Working>,
    detailed: bool,
}

impl Judgement {
    const fn blank(detailed: bool) -> Self {
        Self {
            detailed,
            limit: Limit::NotJudged,
            plausibility: Plausibility::NotJudged,
            notes: Vec::new(),
            working: Vec::new(),
        }
    }

    /// Whether there is nothing to say of it.
    pub fn is_quiet(&self) -> bool {
        self.limit != Limit::Outside && self.plausibility != Plausibility::LookAgain
    }

    fn limit(&mut self, within: bool, working: impl FnOnce() -> [String; 4]) {
        self.limit = if within && self.limit != Limit::Outside { Limit::Within } else { Limit::Outside };
        self.work("limit", working);
    }

    fn work(&mut self, part: &'static str, working: impl FnOnce() -> [String; 4]) {
        if self.detailed {
            let [formula, numbers, result, source] = working();
            self.working.push(Working { part, formula, numbers, result, source });
        }
    }

    fn look_again(&mut self, note: String) {
        self.plausibility = Plausibility::LookAgain;
        self.notes.push(note);
    }

    fn against(&mut self, band: &Band, value: f64, unit: &str) {
        if band.holds(value) {
            if self.plausibility == Plausibility::NotJudged {
                self.plausibility = Plausibility::Within;
            }
        } else {
            let side = if value < band.low { "lower" } else { "higher" };
            self.look_again(format!("{side} than this circuit should give: expected {}", band.in_unit(unit)));
        }
        self.work("expected", || {
            let expected = format!("expected {}", band.in_unit(unit));
            [band.basis.clone(), format!("reading {value} {unit}"), expected, band.source.line()]
        });
    }

    fn not_judged(&mut self, part: &'static str, why: &str) {
        self.work(part, || ["not judged".to_owned(), String::new(), why.to_owned(), String::new()]);
    }
}

pub(crate) fn outcome(judgement: &mut Judgement, value: &Value, source: Source) {
    match value {
        Value::Pass => judgement.limit(true, || ["right".to_owned(), "pass".into(), "pass".into(), source.line()]),
        Value::Fail => {
            judgement.limit(false, || ["right".to_owned(), "fail".into(), "fail".into(), source.line()]);
            judgement.notes.push("wrong: isolate and prove dead before touching it".into());
        }
        _ => {}
    }
}
