//! Two verdicts on a reading, never mixed: is it inside its limit, and is it the number that this
//! circuit should give? Each opens to its working: formula, numbers, result, source.
//!
//! Verdicts are derived, never stored. What could not be judged is *not judged*, never a pass.

mod bound;
mod circuit;
mod insulation;
mod limit;
mod origin;
mod reason;
mod trip;
mod words;
mod working;

pub use bound::{Above, Bound, Path};
pub use circuit::CircuitJudge;
pub use insulation::judge_set;
pub use limit::{CircuitLimit, circuit_limit};
pub use origin::judge_origin;
pub use reason::{LowInsulation, Reason, likely_cause};
pub use working::{NotJudged, Rule, Working, WorkingPart};

use crate::expectation::{Band, Unknown};
use proof_job::reading::Value;
use proof_standard::limits::Source;
use rust_decimal::{Decimal, dec};

/// How far two readings of one loop may lie apart, Ω: resolution and unsteady supply (common
/// practice, no source).
pub const LOOP_READING_WITHIN: Decimal = dec!(0.05);

pub use crate::expectation::LOOP_READING_SHARE;

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

/// A reading judged.
#[derive(Debug, Clone, PartialEq)]
pub struct Judgement {
    /// Against its limit.
    pub limit: Limit,
    /// Against what the circuit should give.
    pub plausibility: Plausibility,
    /// What is odd or wrong.
    pub reasons: Vec<Reason>,
    /// How it was judged; empty where nobody asked for it.
    pub working: Vec<Working>,
    /// What failed, if something did.
    failed: Option<Bound>,
    detailed: bool,
}

impl Judgement {
    const fn blank(detailed: bool) -> Self {
        Self {
            detailed,
            limit: Limit::NotJudged,
            plausibility: Plausibility::NotJudged,
            reasons: Vec::new(),
            working: Vec::new(),
            failed: None,
        }
    }

    /// Whether there is nothing to say of it.
    pub fn is_quiet(&self) -> bool {
        self.limit != Limit::Outside && self.plausibility != Plausibility::LookAgain
    }

    /// What failed, if something did: the limit that was judged last.
    pub fn bound(&self) -> Option<Bound> {
        self.failed.clone()
    }

    /// Whether two judgements are the same verdict, whatever is written out of either.
    pub fn same_verdict(&self, other: &Self) -> bool {
        (self.limit, self.plausibility, &self.reasons, &self.failed)
            == (other.limit, other.plausibility, &other.reasons, &other.failed)
    }

    fn limit(&mut self, within: bool, sources: &[Source], rule: impl FnOnce() -> Rule) {
        self.limit = if within && self.limit != Limit::Outside { Limit::Within } else { Limit::Outside };
        if within {
            self.work(WorkingPart::Limit, sources, rule);
            return;
        }
        let rule = rule();
        self.failed = rule.bound();
        self.work(WorkingPart::Limit, sources, || rule);
    }

    /// The declared loop is an assumption: what fails by it alone is not judged before Ze is read.
    fn waits_for_ze(&mut self, declared_ohm: Decimal, maximum_ohm: Decimal) {
        self.limit = Limit::NotJudged;
        self.reasons.push(Reason::WaitsForZe { declared_ohm, maximum_ohm });
        self.not_judged(WorkingPart::Limit, NotJudged::ZeFirst { declared_ohm });
    }

    fn work(&mut self, part: WorkingPart, sources: &[Source], rule: impl FnOnce() -> Rule) {
        if self.detailed {
            self.working.push(Working { part, rule: rule(), sources: sources.to_vec() });
        }
    }

    fn look_again(&mut self, reason: Reason) {
        self.plausibility = Plausibility::LookAgain;
        self.reasons.push(reason);
    }

    fn against(&mut self, band: &Band, value: f64, unit: &'static str) {
        if band.holds(value) {
            if self.plausibility == Plausibility::NotJudged {
                self.plausibility = Plausibility::Within;
            }
        } else {
            let expected = band.expected(unit);
            let lower = band.is_below(value);
            self.look_again(if lower { Reason::Lower { expected } } else { Reason::Higher { expected } });
        }
        self.work(WorkingPart::Expected, &[band.source], || Rule::Expected {
            basis: band.basis.clone(),
            read: value,
            expected: band.expected(unit),
        });
    }

    /// Held to the band of what is expected, where there is one.
    fn against_known(&mut self, band: Result<Band, Unknown>, value: f64, unit: &'static str) {
        match band {
            Ok(band) => self.against(&band, value, unit),
            Err(why) => self.not_judged(WorkingPart::Expected, why),
        }
    }

    fn not_judged(&mut self, part: WorkingPart, why: impl Into<NotJudged>) {
        if self.detailed {
            self.working.push(Working { part, rule: Rule::NotJudged(why.into()), sources: Vec::new() });
        }
    }

    /// A limitation, or what does not apply, is not judged.
    fn excused(&mut self, value: &Value) -> bool {
        match value {
            Value::Limitation(reason) => self.not_judged(WorkingPart::Limit, NotJudged::Limitation(reason.clone())),
            Value::NotApplicable(reason) => {
                self.not_judged(WorkingPart::Limit, NotJudged::NotApplicable(reason.clone()))
            }
            _ => return false,
        }
        true
    }

    /// Whether a path is complete, by its value.
    fn complete(&mut self, path: Path, value: &Value, complete: bool, sources: &[Source]) {
        self.limit(complete, sources, || Rule::Complete { path, read: value.clone(), complete });
    }
}

pub(crate) fn outcome(judgement: &mut Judgement, value: &Value, source: Source) {
    let right = match value {
        Value::Pass => true,
        Value::Fail => {
            judgement.reasons.push(Reason::Wrong);
            false
        }
        _ => return,
    };
    judgement.limit(right, &[source], || Rule::Outcome { right });
}
