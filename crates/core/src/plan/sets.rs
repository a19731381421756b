//! The whole board read at once.
//!
//! Readings in parallel add as 1/Σ(1/R): the whole is never above its lowest circuit, so a sound
//! whole is a bound under every circuit's own.

use crate::calc::insulation::pairs;
use crate::conductor::{Conductor, Pair};
use crate::house_rules::NeutralEarth;
use crate::installation::{Board, Circuit, Installation, conductors_of};
use crate::reading::entry::Field;
use crate::reading::keys::set_key;
use crate::reading::{GoesTo, Stage, Step};
use crate::standard::insulation::{VoltageBand, test_voltage};
use uuid::Uuid;

/// All circuits of a board, as a set.
pub fn whole(installation: &Installation, board: Uuid) -> Vec<Uuid> {
    let mut all: Vec<Uuid> = installation.circuits_of(board).map(|circuit| circuit.id).collect();
    all.sort_unstable();
    all
}

/// The pairs of a board in the methodical order; joined where something stays.
pub fn board_pairs(installation: &Installation, board: &Board) -> Vec<Option<Pair>> {
    if installation.circuits_of(board.id).any(Circuit::has_what_stays) {
        return vec![None];
    }
    let joined = installation.house_rules.neutral_earth == NeutralEarth::Joined;
    let apart = pairs(conductors_of(board.lines))
        .into_iter()
        .filter_map(|(a, b)| Pair::new(a, b).ok())
        .filter(|pair| !(joined && pair.both().1 == Conductor::E))
        .map(Some);
    joined.then_some(None).into_iter().chain(apart).collect()
}

/// The step that reads a set of circuits between a pair.
pub fn set_step(circuits: Vec<Uuid>, pair: Option<Pair>) -> Step {
    let (slug, label) = pair.map_or_else(
        || ("board-ir-joined".to_owned(), "live joined–E".to_owned()),
        |pair| {
            let (a, b) = pair.both();
            (format!("board-ir-{a}-{b}").to_lowercase(), format!("{pair}"))
        },
    );
    Step {
        slug,
        key: set_key(circuits, pair),
        stage: Stage::Insulation,
        label,
        field: Field::Insulation,
        goes_to: GoesTo::NotOnSchedule("kept: it is a bound under each circuit's box"),
        required: false,
        test_voltage: Some(*test_voltage(VoltageBand::UpTo500)),
    }
}

/// The steps that read a whole board.
pub fn board_steps(installation: &Installation, board: &Board) -> Vec<Step> {
    let all = whole(installation, board.id);
    if all.is_empty() {
        return Vec::new();
    }
    board_pairs(installation, board).into_iter().map(|pair| set_step(all.clone(), pair)).collect()
}
