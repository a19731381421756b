//! The keys of the readings that more than one module asks for.

use crate::installation::{Accessory, Circuit, Lines, PointId, Position};
use crate::reading::{Key, Method, Place, Subject, Test};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::house_rules::BondingBy;
use uuid::Uuid;

/// The lines of a supply or circuit: one unnamed, or three.
pub const fn lines_of(lines: Lines) -> &'static [Option<Conductor>] {
    match lines {
        Lines::Single => &[None],
        Lines::Three => &[Some(Conductor::L1), Some(Conductor::L2), Some(Conductor::L3)],
    }
}

/// Key of Ze on a line.
pub fn ze_key(line: Option<Conductor>) -> Key {
    Key::for_supply(Test::Ze).on_line(line)
}

/// Key of the resistance of the electrode of the supply or of a board.
pub fn electrode_key(board: Option<Uuid>) -> Key {
    let mut key = Key::for_supply(Test::Electrode);
    if let Some(board) = board {
        key.subject = Subject::Board { board };
    }
    key
}

/// Key of the fault current between a pair, on a line.
pub fn current_key(pair: Pair, line: Option<Conductor>) -> Key {
    Key::for_supply(Test::FaultCurrent).between(pair).on_line(line)
}

/// Key of the loop behind that current: its own, with the earth on.
pub fn own_loop_key(pair: Pair, line: Option<Conductor>) -> Key {
    let test = if pair == Pair::LINE_EARTH { Test::Zs } else { Test::LineNeutralLoop };
    Key::for_supply(test).between(pair).on_line(line)
}

/// The three pairs of lines.
pub fn line_pairs() -> [Pair; 3] {
    [(Conductor::L1, Conductor::L2), (Conductor::L2, Conductor::L3), (Conductor::L1, Conductor::L3)]
        .map(|(a, b)| Pair::new(a, b).unwrap_or(Pair::LINE_NEUTRAL))
}

/// Key of the fault current read at a board.
pub fn board_current_key(board: Uuid, pair: Pair) -> Key {
    let mut key = Key::for_supply(Test::FaultCurrent).between(pair);
    key.subject = Subject::Board { board };
    key
}

/// Key of the loop behind that current, at the board.
pub fn board_loop_key(board: Uuid, pair: Pair) -> Key {
    let mut key = own_loop_key(pair, None);
    key.subject = Subject::Board { board };
    key
}

/// Key of the loop of a circuit at its far end, on a line: Zs, or Zdb of the board that it feeds.
pub const fn far_loop_key(circuit: Uuid, line: Option<Conductor>) -> Key {
    Key::on_circuit(circuit, Place::Board, Test::Zs).on_line(line)
}

/// Key of a set of circuits read together between a pair; joined live conductors to earth without.
pub fn set_key(mut circuits: Vec<Uuid>, pair: Option<Pair>) -> Key {
    circuits.sort_unstable();
    let test = if pair.is_some() { Test::Insulation } else { Test::InsulationJoined };
    Key { subject: Subject::CircuitSet { circuits }, test, pair, line: None, method: Method::Instrument }
}

/// Key of a circuit's insulation with the run broken beyond a point.
pub const fn broken_key(circuit: Uuid, point: PointId, pair: Option<Pair>) -> Key {
    let test = if pair.is_some() { Test::Insulation } else { Test::InsulationJoined };
    let mut key = Key::on_circuit(circuit, Place::Point { point }, test);
    key.pair = pair;
    key
}

/// Place of the second insulation reading of a circuit with two-way switching: one of them turned over
/// puts the other strapper on the line.
pub fn turned_over(circuit: &Circuit) -> Option<Place> {
    let point = circuit.points.iter().find(|point| point.accessory == Accessory::TwoWay)?.id;
    Some(Place::Switch { point, position: Position::Down })
}

/// Key of the highest-wins R1+R2 and R1+Rn readings: at a point, on a line.
pub fn point_key(circuit: &Circuit, point: crate::installation::PointId, test: Test, line: Option<Conductor>) -> Key {
    Key::on_circuit(circuit.id, Place::Point { point }, test).on_line(line)
}

/// Key of polarity as seen by eye.
pub const fn polarity_key(circuit: uuid::Uuid) -> Key {
    let mut key = Key::on_circuit(circuit, Place::Board, Test::Polarity);
    key.method = Method::ByEye;
    key
}

/// Key of polarity by instrument at each point, where continuity says nothing of it.
pub const fn polarity_at_points_key(circuit: uuid::Uuid) -> Key {
    Key::on_circuit(circuit, Place::Board, Test::Polarity)
}

/// Key of the phase sequence of a circuit, followed dead from where it is known.
pub const fn followed_key(circuit: Uuid) -> Key {
    let mut key = Key::on_circuit(circuit, Place::Board, Test::PhaseSequence);
    key.method = Method::EndToEnd;
    key
}

/// Key of a bond's continuity, measured or seen.
pub const fn bond_key(bond: uuid::Uuid, by: BondingBy) -> Key {
    Key {
        subject: Subject::Bond { bond },
        test: Test::BondContinuity,
        pair: None,
        line: None,
        method: bonding_method(by),
    }
}

/// Key of the earthing conductor's continuity, measured or seen.
pub const fn earthing_key(by: BondingBy) -> Key {
    let mut key = Key::for_supply(Test::EarthingConductor);
    key.method = bonding_method(by);
    key
}

const fn bonding_method(by: BondingBy) -> Method {
    match by {
        BondingBy::Measured => Method::Instrument,
        BondingBy::Seen => Method::ByEye,
    }
}
