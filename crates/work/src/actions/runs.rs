//! The card at hand: which reading the run asks for, as the job stands.

use crate::live_tests::Live;
use crate::plan::run::{Order, Planned, Run};
use crate::review::{Finding, failures};
use proof_job::job::Job;
use proof_job::reading::CurrentReadings;
use proof_judge::finding::Severity;
use uuid::Uuid;

/// The dead tests and those at power, of one job.
pub struct Runs<'a> {
    /// The dead tests.
    pub dead: Run<'a>,
    /// Those at power.
    pub live: Live<'a>,
    /// What fails its limit.
    pub failing: Vec<Finding>,
}

impl<'a> Runs<'a> {
    /// Plans a job in an order.
    pub fn for_job(job: &'a Job, settled: &'a CurrentReadings<'a>, order: Order) -> Self {
        let (dead, live) = (Run::new(job, settled, order), Live::new(job, settled, order));
        Self { dead, live, failing: failures(job.into()) }
    }

    /// The dead tests are in, everything is back, and nothing that was read keeps power away.
    pub fn is_at_power(&self) -> bool {
        let bars =
            |finding: &Finding| finding.severity == Severity::Fails && finding.bars_energising && finding.blocks();
        self.dead.left().next().is_none()
            && self.dead.open().is_empty()
            && !self.failing.iter().any(bars)
            && !self.dead.planned.is_empty()
    }

    /// A planned reading by name, dead or at power.
    pub fn named(&self, of: Uuid, slug: &str) -> Option<&Planned> {
        self.dead.find(of, slug).or_else(|| self.live.find(of, slug))
    }

    /// What comes after a reading: of the dead ones another dead one, of the live ones another live one.
    pub fn after(&self, taken: &Planned) -> Option<&Planned> {
        if taken.step.stage.is_dead() { self.dead.after(taken) } else { self.live.after(taken) }
    }

    /// What is asked for by name, else what comes after the one just taken; else the dead tests first, then what is
    /// left at power.
    pub fn current_card(&self, asked: Option<(Uuid, &str)>, taken: Option<&Planned>) -> Option<&Planned> {
        let by_name = asked.and_then(|(of, slug)| self.named(of, slug));
        let after = taken.and_then(|taken| self.after(taken));
        let at_power = || self.live.left().next().filter(|_| self.is_at_power());
        by_name.or(after).or_else(|| self.dead.left().next()).or_else(at_power)
    }

    /// Whether something is done before a reading is taken: set up, put back, nulled, exposed, energised.
    pub fn is_prepared(&self, planned: &Planned) -> bool {
        if planned.step.stage.is_dead() {
            return self.dead.needs(planned).is_empty();
        }
        self.live.before(planned).is_none()
    }
}
