//! The whole board read at once.
//!
//! Readings in parallel add as 1/Σ(1/R): the whole is never above its lowest circuit, so a sound
//! whole is a bound under every circuit's own.

use crate::plan::preparation::electronic_devices;
use proof_job::installation::{Board, Circuit, Installation, conductors_of};
use proof_job::reading::entry::Field;
use proof_job::reading::keys::set_key;
use proof_job::reading::{GoesTo, Stage, Step};
use proof_standard::calc::insulation::pairs;
use proof_standard::conductor::Pair;
use proof_standard::house_rules::NeutralEarth;
use proof_standard::limits::insulation::{VoltageBand, test_voltage};
use uuid::Uuid;

/// The circuits of a board that are read together between a pair, in the order of their ways. Extra-low
/// voltage does not bear the test voltage of the others; what stays (a dimmer, a driver) and a device with electronics
/// do not bear it between live conductors.
pub fn circuits_read_together(
    installation: &Installation,
    board: Uuid,
    pair: Option<Pair>,
) -> impl Iterator<Item = &Circuit> {
    let live = pair.is_some_and(|pair| !pair.is_to_earth());
    let bears = move |circuit: &&Circuit| {
        !(circuit.band.is_extra_low() || live && !withstands_between_live(installation, circuit))
    };
    installation.circuits_on(board).filter(bears)
}

/// Whether a circuit bears the test voltage between its live conductors with its device on.
pub fn withstands_between_live(installation: &Installation, circuit: &Circuit) -> bool {
    !circuit.has_fixed_load() && electronic_devices(installation, circuit).is_empty()
}

/// The same, as a set.
pub fn set_circuits(installation: &Installation, board: Uuid, pair: Option<Pair>) -> Vec<Uuid> {
    let mut all: Vec<Uuid> = circuits_read_together(installation, board, pair).map(|circuit| circuit.id).collect();
    all.sort_unstable();
    all
}

/// The pairs of a board in the methodical order; joined to earth where something stays or a device has electronics,
/// and then between live conductors for the ways where neither is.
pub fn board_pairs(installation: &Installation, board: &Board) -> Vec<Option<Pair>> {
    let joined = installation.house_rules.neutral_earth == NeutralEarth::Joined
        || circuits_read_together(installation, board.id, None)
            .any(|circuit| !withstands_between_live(installation, circuit));
    let apart = pairs(conductors_of(board.lines))
        .into_iter()
        .filter_map(|(a, b)| Pair::new(a, b).ok())
        .filter(|pair| !(joined && pair.is_to_earth()))
        .map(Some);
    let read = |pair: &Option<Pair>| circuits_read_together(installation, board.id, *pair).next().is_some();
    joined.then_some(None).into_iter().chain(apart).filter(read).collect()
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
        unused: false,
        test_voltage: Some(*test_voltage(VoltageBand::UpTo500)),
        open_board: false,
    }
}

/// The steps that read a whole board.
pub fn board_steps(installation: &Installation, board: &Board) -> Vec<Step> {
    let set = |pair| set_step(set_circuits(installation, board.id, pair), pair);
    board_pairs(installation, board).into_iter().map(set).collect()
}
