//! What the origin, a board or a circuit still needs: asked in one place, for what is planned, counted, shown, reviewed
//! and let go to power.

use crate::plan::sequence::{
    board_steps, circuit_steps, origin_steps, reviewed_steps, unasked_at_board, unasked_at_origin,
};
use crate::plan::substitute::{Scope, substitute};
use proof_job::installation::{Board, Circuit, Installation};
use proof_job::reading::{CurrentReadings, Stage, Step, Test, Value, WorkedOut};
use proof_job::site::Site;
use proof_judge::verdict::{CircuitJudge, Judgement, Limit, judge_origin};
use std::sync::Arc;
use uuid::Uuid;

/// Whether a step belongs to what a complete circuit, board or origin wants. Polarity always does, also where it
/// follows from other readings.
pub const fn is_wanted(step: &Step) -> bool {
    step.required || matches!(step.stage, Stage::Polarity)
}

/// How a step stands.
#[derive(Debug, Clone, PartialEq)]
pub enum StepState {
    /// Read.
    Read,
    /// Not read itself; what counts in its place, as its box shows it.
    Substitute(String),
    /// Not read.
    NotRead,
    /// A figure that failed was struck out, and no figure took its place: a limitation does not answer for it.
    StruckOut(Value),
}

impl StepState {
    /// Whether the step wants nothing more.
    pub const fn is_done(&self) -> bool {
        matches!(self, Self::Read | Self::Substitute(_))
    }
}

/// How a step stands.
pub fn step_state(
    installation: &Installation,
    scope: Scope<'_>,
    settled: &CurrentReadings<'_>,
    step: &Step,
) -> StepState {
    if let Some(value) = struck_out(installation, scope, settled, step) {
        return StepState::StruckOut(value);
    }
    if settled.get(&step.key).is_some() {
        return StepState::Read;
    }
    substitute(installation, scope, settled, step).map_or(StepState::NotRead, StepState::Substitute)
}

/// The latest figure of a step that failed and was struck out, where no figure took its place.
fn struck_out(
    installation: &Installation,
    scope: Scope<'_>,
    settled: &CurrentReadings<'_>,
    step: &Step,
) -> Option<Value> {
    let struck = settled.struck_figures(&step.key);
    let judge: Box<dyn Fn(&Value) -> Judgement + '_> = match scope {
        _ if struck.is_empty() => return None,
        Scope::Circuit(circuit) => {
            let judge = CircuitJudge::new(installation, circuit, settled);
            Box::new(move |value| judge.judge(step, value))
        }
        Scope::Origin | Scope::Board(_) => Box::new(|value| judge_origin(installation, settled, step, value)),
    };
    struck.into_iter().map(|(_, value)| value).rfind(|value| judge(value).limit == Limit::Outside).cloned()
}

/// A reading that is still needed.
#[derive(Debug, Clone, PartialEq)]
pub struct Need {
    /// Which.
    pub step: Arc<Step>,
    /// Why: never read, or struck out.
    pub state: StepState,
}

/// Readings that are done, of those that are wanted.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Count {
    /// Done.
    pub done: usize,
    /// Wanted in all.
    pub of: usize,
}

impl std::ops::Add for Count {
    type Output = Self;

    fn add(self, other: Self) -> Self {
        Self { done: self.done + other.done, of: self.of + other.of }
    }
}

/// What the origin, a board or a circuit still needs, and how far it is.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Outstanding {
    /// What it still needs, in the order of the tests.
    pub needs: Vec<Need>,
    /// Its dead tests.
    pub dead: Count,
    /// Its live tests.
    pub live: Count,
}

impl WorkedOut for Outstanding {
    const DESCRIBED: bool = false;
}

impl Outstanding {
    fn add(&mut self, step: impl FnOnce() -> Arc<Step>, stage: Stage, state: StepState) {
        let count = if stage.is_dead() { &mut self.dead } else { &mut self.live };
        count.of += 1;
        if state.is_done() {
            count.done += 1;
        } else {
            self.needs.push(Need { step: step(), state });
        }
    }

    /// Of some steps, those that are wanted; and those whose failing figure was struck out, wanted or not.
    fn from_steps(
        installation: &Installation,
        scope: Scope<'_>,
        settled: &CurrentReadings<'_>,
        steps: Vec<Step>,
    ) -> Self {
        let mut all = Self::default();
        let left = matches!(scope, Scope::Circuit(circuit) if installation.out_of_scope(circuit));
        for step in steps {
            let state = step_state(installation, scope, settled, &step);
            if is_wanted(&step) && !step.unused && !left || matches!(state, StepState::StruckOut(_)) {
                let stage = step.stage;
                all.add(|| Arc::new(step), stage, state);
            }
        }
        all
    }

    /// Dead and live together.
    pub fn all(&self) -> Count {
        self.dead + self.live
    }

    /// The first that it still needs, of the dead tests or of the live ones.
    pub fn next(&self, dead: bool) -> Option<&Step> {
        self.needs.iter().map(|need| &*need.step).find(|step| step.stage.is_dead() == dead)
    }

    /// The need of a step.
    pub fn need(&self, step: &Step) -> Option<&Need> {
        self.needs.iter().find(|need| need.step.key == step.key)
    }
}

/// What is looked at in a review: the steps of the origin, a board or a circuit, with what was read there and is no
/// longer asked for.
pub fn steps_reviewed(installation: &Installation, scope: Scope<'_>, settled: &CurrentReadings<'_>) -> Vec<Step> {
    let (mut steps, unasked) = match scope {
        Scope::Circuit(circuit) => return reviewed_steps(installation, circuit, settled),
        Scope::Origin => {
            let steps = origin_steps(installation);
            let unasked = unasked_at_origin(installation, &steps, settled);
            (steps, unasked)
        }
        Scope::Board(board) => {
            let steps = board_steps(installation, board);
            let unasked = unasked_at_board(board.id, &steps, settled);
            (steps, unasked)
        }
    };
    steps.extend(unasked);
    steps
}

/// What the origin, a board or a circuit still needs; of a circuit worked out once where the job is kept.
pub fn outstanding(installation: &Installation, scope: Scope<'_>, settled: &CurrentReadings<'_>) -> Arc<Outstanding> {
    let steps = || steps_reviewed(installation, scope, settled);
    let work = || Outstanding::from_steps(installation, scope, settled, steps());
    match scope {
        Scope::Circuit(circuit) => settled.cached(installation, circuit, work),
        Scope::Origin | Scope::Board(_) => Arc::new(work()),
    }
}

/// What a job asks for as its site stands: what stays dead is asked nothing until it comes to power.
#[derive(Debug, Clone)]
pub struct OutstandingQuery<'a> {
    installation: &'a Installation,
    settled: &'a CurrentReadings<'a>,
    stays_dead: Vec<Uuid>,
}

impl<'a> OutstandingQuery<'a> {
    /// As the site stands, with circuits that come to power although they were left dead.
    pub fn new(
        installation: &'a Installation,
        settled: &'a CurrentReadings<'a>,
        site: &Site<'_>,
        comes: &dyn Fn(Uuid) -> bool,
    ) -> Self {
        let mut stays_dead = site.stays_dead(installation);
        stays_dead.retain(|circuit| !comes(*circuit));
        Self { installation, settled, stays_dead }
    }

    /// Whether a circuit is asked its tests.
    pub fn circuit(&self, circuit: &Circuit) -> bool {
        !self.stays_dead.contains(&circuit.id)
    }

    /// Whether a board is asked its own tests: not where each of its ways stays dead.
    pub fn board(&self, board: &Board) -> bool {
        let mut ways = self.installation.circuits_on(board.id).peekable();
        ways.peek().is_none() || ways.any(|circuit| self.circuit(circuit))
    }

    /// The origin, and the boards and circuits that are asked their tests, each board before its circuits.
    pub fn scopes(&self) -> Vec<Scope<'a>> {
        let mut all = vec![Scope::Origin];
        for board in &self.installation.boards {
            all.extend(self.board(board).then_some(Scope::Board(board)));
            let circuits = self.installation.circuits_on(board.id).filter(|circuit| self.circuit(circuit));
            all.extend(circuits.map(Scope::Circuit));
        }
        all
    }

    /// What one of them still needs: its own, and a residual device that no circuit before it tests any more.
    pub fn outstanding(&self, scope: Scope<'_>) -> Arc<Outstanding> {
        let own = outstanding(self.installation, scope, self.settled);
        let Scope::Circuit(circuit) = scope else { return own };
        let shared = self.shared_device(circuit);
        if shared.is_empty() {
            return own;
        }
        let mut all = (*own).clone();
        for step in shared {
            let state = step_state(self.installation, scope, self.settled, &step);
            all.add(|| Arc::new(step), Stage::Rcd, state);
        }
        Arc::new(all)
    }

    /// The tests of a residual device over several ways that are asked of this one: the first of them, which is
    /// asked else, stays dead, and none of the others was tested.
    pub fn shared_device(&self, circuit: &Circuit) -> Vec<Step> {
        let installation = self.installation;
        if self.stays_dead.is_empty() || !self.circuit(circuit) || installation.out_of_scope(circuit) {
            return Vec::new();
        }
        let Some(first) = installation.rcd_test_circuit(circuit).filter(|first| !self.circuit(first)) else {
            return Vec::new();
        };
        let behind = |other: &&Circuit| other.board == circuit.board && other.rcd == first.rcd && self.circuit(other);
        let trips = |other: &Circuit| {
            let mut read = self.settled.standing_of(other.id);
            read.any(|reading| matches!(reading.key.test, Test::RcdTrip { .. }))
        };
        let mut live = installation.circuits.iter().filter(behind);
        let first_live = live.next().is_some_and(|one| one.id == circuit.id);
        if !first_live || live.any(trips) {
            return Vec::new();
        }
        let wanted: Vec<Test> = circuit_steps(installation, first)
            .into_iter()
            .filter(|step| step.stage == Stage::Rcd && step.required)
            .map(|step| step.key.test)
            .collect();
        let mut steps = circuit_steps(installation, circuit);
        steps.retain(|step| step.stage == Stage::Rcd && wanted.contains(&step.key.test));
        steps
    }
}
