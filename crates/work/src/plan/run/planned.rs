//! A planned reading, found again in a plan.

use crate::plan::outstanding::{Outstanding, StepState};
use crate::plan::substitute::Scope;
use proof_job::installation::Installation;
use proof_job::reading::{Place, Stage, Step, Subject};
use std::sync::Arc;
use uuid::Uuid;

/// A planned reading.
#[derive(Debug, Clone)]
pub struct Planned {
    /// The step.
    pub step: Arc<Step>,
    /// The circuit that it is of, if of one.
    pub circuit: Option<Uuid>,
    /// The board that it belongs to.
    pub board: Uuid,
    /// It is wanted once more, though a reading stands.
    pub again: bool,
    /// It wants nothing more, as the job stood when it was planned.
    pub(crate) done: bool,
}

/// The same reading, done or not.
impl PartialEq for Planned {
    fn eq(&self, other: &Self) -> bool {
        let of = |one: &Self| (one.circuit, one.board, one.again);
        of(self) == of(other) && self.step == other.step
    }
}

impl Planned {
    /// A reading that is planned, of a circuit or of its board; whether it is done is worked out with the plan.
    pub(crate) const fn new(step: Arc<Step>, circuit: Option<Uuid>, board: Uuid) -> Self {
        Self { step, circuit, board, again: false, done: false }
    }

    /// The circuit that it is of, else its board.
    pub fn circuit_or_board(&self) -> Uuid {
        self.circuit.unwrap_or(self.board)
    }

    /// What it is read of; a set of ways is of its board.
    pub fn scope<'a>(&self, installation: &'a Installation) -> Scope<'a> {
        let circuit = self.circuit.and_then(|id| installation.circuit(id)).map(Scope::Circuit);
        let board = || match self.step.key.subject {
            Subject::Board { .. } | Subject::CircuitSet { .. } => installation.board(self.board).map(Scope::Board),
            _ => None,
        };
        circuit.or_else(board).unwrap_or(Scope::Origin)
    }

    pub(super) fn place(&self) -> Option<&Place> {
        self.step.key.subject.place()
    }

    pub(super) fn at_board(&self) -> bool {
        self.place().is_none_or(|place| *place == Place::Board) && self.step.stage != Stage::Polarity
    }
}

/// The planned reading of a circuit or board with a slug.
pub(crate) fn find_in<'b>(all: &'b [Planned], of: Uuid, slug: &str) -> Option<&'b Planned> {
    all.iter().find(|planned| planned.step.slug == slug && planned.circuit_or_board() == of)
}

/// The reading after one, that is left; then the first of all.
pub(crate) fn after_in<'b>(
    all: &'b [Planned],
    planned: &Planned,
    done: impl Fn(&Planned) -> bool,
) -> Option<&'b Planned> {
    let at = all.iter().position(|other| other == planned).map_or(0, |at| at + 1);
    let (before, after) = all.split_at(at);
    after.iter().chain(before).find(|other| !done(other))
}

/// Adds what is wanted although no method asks for it: steps whose failing figure was struck out, with no figure in
/// its place; of the dead tests or of the live ones, each after its stage.
pub(crate) fn add_struck_out(
    all: &mut Vec<Planned>,
    outstanding: &Outstanding,
    dead: bool,
    (circuit, board): (Option<Uuid>, Uuid),
) {
    let struck = outstanding.needs.iter().filter(|need| matches!(need.state, StepState::StruckOut(_)));
    for need in struck.filter(|need| need.step.stage.is_dead() == dead) {
        add_planned(all, Planned::new(need.step.clone(), circuit, board));
    }
}

/// Adds a reading after those of its stage, unless it is planned.
pub(crate) fn add_planned(all: &mut Vec<Planned>, planned: Planned) {
    if all.iter().any(|other| other.step.key == planned.step.key) {
        return;
    }
    let after = all.iter().rposition(|other| other.step.stage == planned.step.stage);
    all.insert(after.map_or(all.len(), |at| at + 1), planned);
}
