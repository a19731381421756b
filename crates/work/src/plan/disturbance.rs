//! What a reading finds altered: each is an item to be put back. Steps hand over to each other:
//! ring ends stay out between the three steps, a link changes places, everything is back before
//! insulation. Common practice, no source.

use crate::plan::preparation::{Preparation, SURGE, conductors_out, prepare, prepare_set};
use crate::plan::search::Lift;
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::{Method, Stage, Step, Subject, Test};
use proof_job::site::{Alteration, EventKind, OpenItem};
use proof_standard::conductor::Conductor;
use proof_standard::house_rules::{CircuitNeutral, EarthTail, LinkMethod};
use proof_standard::shape::Shape;
use uuid::Uuid;

/// Something that a step wants altered.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Disturbance {
    /// At which board.
    pub board: Uuid,
    /// On which circuit, if on one.
    pub circuit: Option<Uuid>,
    /// What.
    pub alteration: Alteration,
    /// Where exactly.
    pub note: String,
}

impl Disturbance {
    /// The event that opens it as an item of the put-back list.
    pub fn opened(self, item: Uuid) -> EventKind {
        let Self { board, circuit, alteration, note } = self;
        EventKind::Altered { item, board, circuit, alteration, note }
    }

    fn same(&self, item: &OpenItem<'_>) -> bool {
        self.alteration == item.alteration && self.circuit == item.circuit && self.note == item.note
    }

    /// Whether an open item gives way to it: a cross or link made anew takes the old one apart.
    fn replaces(&self, item: &OpenItem<'_>) -> bool {
        let joins = |alteration| matches!(alteration, Alteration::Link | Alteration::CrossedLegs);
        joins(self.alteration) && joins(item.alteration) && self.circuit == item.circuit && !self.same(item)
    }
}

/// The board at the origin.
fn origin_board(installation: &Installation) -> Option<Uuid> {
    let fed = |board: &&proof_job::installation::Board| board.fed_by == proof_job::installation::Feed::Supply;
    installation.boards.iter().find(fed).map(|board| board.id)
}

fn circuit_disturbances(
    installation: &Installation,
    circuit: &Circuit,
    (stage, line): (Stage, Option<Conductor>),
) -> Vec<Disturbance> {
    let ring = circuit.shape == Shape::Ring;
    let mut list = Vec::new();
    let mut add = |alteration, note: String| {
        list.push(Disturbance { board: circuit.board, circuit: Some(circuit.id), alteration, note });
    };
    let way = &circuit.way;
    let rules = &installation.house_rules;
    if ring && matches!(stage, Stage::EndToEnd | Stage::R1Rn | Stage::R1R2) {
        add(Alteration::EndsOut, format!("way {way}, both legs out of their terminals"));
    }
    match (stage, ring) {
        (Stage::R1Rn, true) => {
            add(Alteration::CrossedLegs, format!("way {way}, line of each leg with neutral of the other"));
        }
        (Stage::R1R2, true) => {
            add(Alteration::CrossedLegs, format!("way {way}, line of each leg with CPC of the other"));
        }
        (Stage::R1Rn | Stage::R1R2 | Stage::Sequence, false) => {
            let other = if stage == Stage::R1Rn { "neutral" } else { "CPC" };
            // Of three lines the link is moved from one to the next.
            let line = line.map_or("line", Conductor::letter);
            if rules.link == LinkMethod::ConductorsOut {
                add(Alteration::WayOut, format!("way {way}, all conductors out"));
                add(Alteration::Link, format!("way {way}, {line} and {other} joined in a connector"));
            } else {
                add(Alteration::Link, format!("way {way}, {line} to {other}"));
            }
        }
        (Stage::Insulation, _) => {
            for one in prepare(installation, circuit) {
                match one.alteration {
                    // It is of the board, not of one way.
                    Some(Alteration::SpdOut) if one.what == SURGE => {}
                    Some(alteration) => add(alteration, format!("way {way}, {}", one.what)),
                    None => {}
                }
            }
        }
        _ => {}
    }
    if installation.metal_at_accessories(circuit) && matches!(stage, Stage::R1R2 | Stage::R2) {
        add(Alteration::AccessoryOff, format!("way {way}, accessories held off earthed metal"));
        if rules.earth_tail == EarthTail::Always {
            add(Alteration::EarthTailOff, format!("way {way}, earth tails off the metal back boxes"));
        }
    }
    list
}

/// What is altered while a step is read.
pub fn step_disturbances(installation: &Installation, step: &Step) -> Vec<Disturbance> {
    match &step.key.subject {
        Subject::Place { circuit, .. } => {
            let Some(circuit) = installation.circuit(*circuit) else { return Vec::new() };
            let mut list = circuit_disturbances(installation, circuit, (step.stage, step.key.line));
            let surge = |one: &Preparation| one.what == SURGE;
            if step.stage == Stage::Insulation && prepare(installation, circuit).iter().any(surge) {
                let (board, alteration, note) = (circuit.board, Alteration::SpdOut, SURGE.to_owned());
                list.push(Disturbance { board, circuit: None, alteration, note });
            }
            let lifts = installation.house_rules.circuit_neutral == CircuitNeutral::Lifted;
            if step.stage == Stage::Insulation
                && lifts
                && circuit.has_neutral()
                && !conductors_out(installation, circuit)
            {
                list.push(neutral_out(circuit));
            }
            list
        }
        Subject::CircuitSet { circuits } => set_disturbances(installation, circuits, step),
        Subject::Bond { .. } | Subject::Supply if step.stage == Stage::Bonding => {
            let Some(board) = origin_board(installation).filter(|_| step.key.method == Method::Instrument) else {
                return Vec::new();
            };
            let (alteration, note) = match &step.key.subject {
                Subject::Bond { bond } => {
                    let to = installation.supply.bonds.iter().find(|other| other.id == *bond);
                    (Alteration::BondOff, format!("{}, one end", to.map_or("bond", |bond| bond.to.as_str())))
                }
                _ => (Alteration::EarthOff, "one end".to_owned()),
            };
            vec![Disturbance { board, circuit: None, alteration, note }]
        }
        _ => Vec::new(),
    }
}

/// A set of circuits on the bar: what their circuits feed comes out, and neutrals of those that
/// are not in it are lifted where the pair asks for that.
fn set_disturbances(installation: &Installation, circuits: &[Uuid], step: &Step) -> Vec<Disturbance> {
    let Some(board) = circuits.iter().find_map(|id| installation.circuit(*id)).map(|circuit| circuit.board) else {
        return Vec::new();
    };
    let pair = step.key.pair.filter(|_| step.key.test != Test::InsulationJoined);
    let lift = Lift::for_pair(pair);
    let seen_to = prepare_set(installation, board, circuits, pair.is_some_and(|pair| !pair.is_to_earth()));
    let for_board = seen_to.into_iter().filter_map(|one| {
        let alteration = one.alteration?;
        Some(Disturbance { board, circuit: None, alteration, note: one.what })
    });
    let mut list: Vec<Disturbance> = for_board.collect();
    for circuit in installation.circuits_on(board) {
        if circuits.contains(&circuit.id) {
            // On the bar, so its conductors stay in the device.
            let mut own = circuit_disturbances(installation, circuit, (Stage::Insulation, None));
            own.retain(|one| one.alteration != Alteration::WayOut);
            list.extend(own);
        } else if lift.lifts_neutral() {
            list.push(neutral_out(circuit));
        }
    }
    list
}

fn neutral_out(circuit: &Circuit) -> Disturbance {
    Disturbance {
        board: circuit.board,
        circuit: Some(circuit.id),
        alteration: Alteration::NeutralOut,
        note: format!("way {}, {}", circuit.way, neutral_name(circuit)),
    }
}

fn neutral_name(circuit: &Circuit) -> String {
    if circuit.neutral_terminal.is_empty() {
        "its neutral".to_owned()
    } else {
        format!("neutral {}", circuit.neutral_terminal)
    }
}

/// What is to be altered for a step that is not yet, and which open items give way to it. Of a circuit that is isolated
/// alone the board is live, and nothing of it is altered.
pub fn changes(
    installation: &Installation,
    step: &Step,
    open: &[OpenItem<'_>],
    alone: bool,
) -> (Vec<Disturbance>, Vec<Uuid>) {
    let mut wanted = step_disturbances(installation, step);
    wanted.retain(|one| !alone || one.circuit.is_some());
    let replaced =
        open.iter().filter(|item| wanted.iter().any(|one| one.replaces(item))).map(|item| item.item).collect();
    let missing = wanted.into_iter().filter(|one| !open.iter().any(|item| one.same(item))).collect();
    (missing, replaced)
}

/// Whether a kind of alteration falsifies later readings while it is left, so that it goes back at
/// once when no step wants it any more. Lamps and the like wait for the end.
pub const fn goes_back_at_once(alteration: Alteration) -> bool {
    matches!(
        alteration,
        Alteration::Link
            | Alteration::CrossedLegs
            | Alteration::EndsOut
            | Alteration::WayOut
            | Alteration::BondOff
            | Alteration::EarthOff
            | Alteration::NeutralOut
            | Alteration::AccessoryOff
            | Alteration::EarthTailOff
    )
}

/// Open items that must go back before a step is read: they would falsify it.
pub fn undo_first<'b, 'a>(installation: &Installation, step: &Step, open: &'b [OpenItem<'a>]) -> Vec<&'b OpenItem<'a>> {
    let wanted = step_disturbances(installation, step);
    let touches = |item: &OpenItem<'_>| match &step.key.subject {
        Subject::Place { circuit, .. } => item.circuit == Some(*circuit),
        Subject::CircuitSet { circuits } => item
            .circuit
            .is_some_and(|id| circuits.contains(&id) || wanted.first().is_some_and(|one| one.board == item.board)),
        // A bond or the earthing conductor off falsifies the next bond.
        _ => item.circuit.is_none(),
    };
    open.iter()
        .filter(|item| goes_back_at_once(item.alteration) && touches(item))
        .filter(|item| !wanted.iter().any(|one| one.same(item) || one.replaces(item)))
        .collect()
}
