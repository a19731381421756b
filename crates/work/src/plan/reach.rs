//! What of a step is done inside the board: with one circuit isolated by its own device the rest of the
//! board is live, and nothing in it is touched. Common practice, no source.

use crate::plan::disturbance::step_disturbances;
use crate::plan::sequence::circuit_steps;
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::{Step, Subject, Test};
use proof_job::site::Alteration;
use proof_standard::conductor::{Conductor, Pair};

/// What is touched inside the board.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Inside {
    /// Something is altered there for the step.
    Altered(Alteration),
    /// The neutral, which still hangs on the bar.
    NeutralOnBar,
}

impl Inside {
    /// In words, after "since".
    pub const fn because(self) -> &'static str {
        match self {
            Self::Altered(Alteration::Link) => "line and CPC, or neutral, are linked in it",
            Self::Altered(Alteration::EndsOut | Alteration::CrossedLegs) => "the ends of the ring come out of it",
            Self::Altered(Alteration::NeutralOut) => "a neutral is lifted in it",
            Self::Altered(Alteration::WayOut) => "conductors come out of the way in it",
            Self::Altered(_) => "a conductor is taken off in it",
            Self::NeutralOnBar => {
                "the neutral of the circuit is still connected to its bar: the device breaks the line only"
            }
        }
    }
}

/// What a step of a circuit touches inside the board, where the circuit is isolated by its own device;
/// `neutral`: that device breaks the neutral too.
pub fn inside_board(installation: &Installation, step: &Step, neutral: bool) -> Option<Inside> {
    let Subject::Place { circuit, .. } = &step.key.subject else { return None };
    let altered = step_disturbances(installation, step).into_iter().map(|one| one.alteration);
    if let Some(alteration) = altered.filter(|one| one.is_in_board()).min_by_key(|one| *one != Alteration::EndsOut) {
        return Some(Inside::Altered(alteration));
    }
    let circuit = installation.circuit(*circuit)?;
    let on_bar = circuit.has_neutral() && !neutral;
    let reads_neutral = match step.key.test {
        Test::InsulationJoined => true,
        Test::Insulation => step.key.pair.is_some_and(|pair: Pair| {
            let (a, b) = pair.both();
            a == Conductor::N || b == Conductor::N
        }),
        _ => false,
    };
    (on_bar && reads_neutral).then_some(Inside::NeutralOnBar)
}

/// How many dead tests of a circuit are possible with it isolated alone, and how many there are.
pub fn possible_alone(installation: &Installation, circuit: &Circuit, neutral: bool) -> (usize, usize) {
    let steps = circuit_steps(installation, circuit);
    let dead = || steps.iter().filter(|step| step.stage.is_dead() && step.required);
    (dead().filter(|step| inside_board(installation, step, neutral).is_none()).count(), dead().count())
}
