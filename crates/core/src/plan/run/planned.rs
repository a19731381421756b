//! A planned reading, found again in a plan.

use crate::reading::{Place, Stage, Step};
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
    pub fn of(&self) -> Uuid {
        self.circuit.unwrap_or(self.board)
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
    all.iter().find(|planned| planned.step.slug == slug && planned.of() == of)
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
