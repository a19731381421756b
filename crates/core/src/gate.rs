//! What may be done now: a dead test wants a board proved dead, Ze the supply exposed, a live test
//! a circuit energised; and energising wants every dead test in, inside its limit, and everything
//! put back.
//!
//! The gates are asked of the log and the readings, wherever those came from: a job file that says
//! "energised" without its dead tests opens no live test.

use crate::installation::{Feed, Installation};
use crate::reading::{Key, Settled, Stage, Step, Subject, Test};
use crate::review::{Finding, Kind, Reviewed, Where, of_circuit, review};
use crate::site::{BoardState, Event, EventKind, board_state, circuit_state, left_dead, open_items};
use uuid::Uuid;

/// Why something may not be done now.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Refusal {
    /// In a sentence without its full stop.
    pub why: String,
    /// What stands in the way, each with where it is mended; empty where it is the state alone.
    pub in_the_way: Vec<Finding>,
}

impl Refusal {
    fn state(why: String) -> Self {
        Self { why, in_the_way: Vec::new() }
    }
}

/// The board, and the circuit if it is one, that a step is taken on. The origin is its first board.
pub fn taken_on(installation: &Installation, key: &Key) -> Option<(Uuid, Option<Uuid>)> {
    match &key.subject {
        Subject::Place { circuit, .. } => Some((installation.circuit(*circuit)?.board, Some(*circuit))),
        Subject::CircuitSet { circuits } => {
            Some((circuits.iter().find_map(|id| installation.circuit(*id))?.board, None))
        }
        Subject::Board { board } => Some((*board, None)),
        Subject::Bond { .. } | Subject::Supply => {
            let first = installation.boards.iter().find(|board| board.fed_by == Feed::Supply)?;
            Some((first.id, None))
        }
    }
}

const fn said(state: BoardState) -> &'static str {
    match state {
        BoardState::NotProved => "is not proved dead",
        BoardState::ProvedDead => "is proved dead",
        BoardState::SupplyExposed => "has its incoming terminals exposed, earth off",
        BoardState::Energised => "is energised",
    }
}

/// Whether a step may be read now, on site. What is copied from paper asks no gate.
///
/// # Errors
/// Why not, with what stands in the way.
pub fn may_read(reviewed: Reviewed<'_>, settled: &Settled<'_>, step: &Step) -> Result<(), Refusal> {
    let installation = reviewed.installation;
    let Some((board, circuit)) = taken_on(installation, &step.key) else { return Ok(()) };
    let (state, name) = match circuit.and_then(|id| installation.circuit(id)) {
        Some(circuit) => (
            circuit_state(reviewed.events, board, circuit.id).0,
            format!("way {} of {}", circuit.way, board_name(installation, board)),
        ),
        None => (board_state(reviewed.events, board).0, board_name(installation, board).to_owned()),
    };
    let refuse = |what: &str| Err(Refusal::state(format!("{name} {}: {what}", said(state))));
    if step.stage.is_dead() {
        return match state {
            BoardState::ProvedDead => Ok(()),
            _ => refuse("this is a dead test. Isolate and prove it dead first (the band above leads there)"),
        };
    }
    match (&step.key.subject, step.key.test) {
        (Subject::Supply, Test::Ze) => match state {
            BoardState::SupplyExposed => Ok(()),
            _ => refuse("Ze is read with the earthing conductor off, from proved dead, and filed when it is back on"),
        },
        // The incoming terminals are live while the board is dead.
        (Subject::Supply, Test::SupplyPolarity | Test::Electrode) => match state {
            BoardState::NotProved => refuse("isolate and prove the outgoing side dead first"),
            _ => Ok(()),
        },
        (Subject::Supply, _) => match state {
            BoardState::ProvedDead | BoardState::Energised => Ok(()),
            BoardState::SupplyExposed => refuse("the fault current is read with the earthing conductor back on"),
            BoardState::NotProved => refuse("isolate and prove the outgoing side dead first"),
        },
        (_, Test::Labelling) => Ok(()),
        _ if state != BoardState::Energised => refuse("this is a live test. Energise first"),
        (Subject::Place { .. }, _) => {
            let Some(circuit) = circuit.and_then(|id| installation.circuit(id)) else { return Ok(()) };
            let mut in_the_way = of_circuit(reviewed, settled, circuit);
            in_the_way.retain(|finding| finding.bars_energising && finding.blocks());
            if in_the_way.is_empty() {
                return Ok(());
            }
            let why = format!("{name} is energised, and its dead tests do not bear it: {}", in_the_way[0].what);
            Err(Refusal { why, in_the_way })
        }
        _ => Ok(()),
    }
}

fn board_name(installation: &Installation, board: Uuid) -> &str {
    installation.board(board).map_or("the board", |board| board.name.as_str())
}

/// What stands in the way of energising some circuits of a board (none: all of it): what is not put
/// back, dead tests missing or failing, the earth off. Judged departures are out of the way.
pub fn in_the_way(reviewed: Reviewed<'_>, board: Uuid, circuits: &[Uuid]) -> Vec<Finding> {
    let concerned = |id: Uuid| {
        let of_board = reviewed.installation.circuit(id).is_some_and(|circuit| circuit.board == board);
        of_board && (circuits.is_empty() || circuits.contains(&id))
    };
    let open: Vec<Option<Uuid>> =
        open_items(reviewed.events).iter().filter(|item| item.board == board).map(|item| item.circuit).collect();
    // An item of a circuit that stays dead waits with it; one of the board waits for nobody.
    let mine = open.iter().any(|circuit| circuit.is_none_or(concerned));
    review(reviewed)
        .into_iter()
        .filter(|finding| finding.bars_energising && finding.blocks())
        .filter(|finding| match (&finding.place, finding.kind) {
            (Where::Board(other), Kind::NotPutBack) => *other == board && mine,
            (Where::Board(other) | Where::BoardStep(other, _), _) => *other == board,
            (Where::Circuit(circuit, _), _) => concerned(*circuit),
            (Where::Origin(_), _) => true,
            _ => false,
        })
        .collect()
}

/// Whether a board, or some of its circuits, may be energised.
///
/// # Errors
/// Why not, with what stands in the way, each with where it is mended.
pub fn may_energise(reviewed: Reviewed<'_>, board: Uuid, circuits: &[Uuid], covers_on: bool) -> Result<(), Refusal> {
    let name = board_name(reviewed.installation, board);
    let in_the_way = in_the_way(reviewed, board, circuits);
    if !in_the_way.is_empty() {
        let one = in_the_way.len() == 1;
        let why = format!(
            "{} {} in the way of energising {name}",
            in_the_way.len(),
            if one { "thing stands" } else { "things stand" }
        );
        return Err(Refusal { why, in_the_way });
    }
    if !covers_on {
        return Err(Refusal::state("say that the covers are on".to_owned()));
    }
    Ok(())
}

/// Whether the supply may be exposed for Ze at a board.
///
/// # Errors
/// Why not.
pub fn may_expose(installation: &Installation, events: &[Event], board: Uuid) -> Result<(), Refusal> {
    let state = board_state(events, board).0;
    let name = board_name(installation, board);
    if installation.board(board).is_some_and(|board| board.fed_by != Feed::Supply) {
        return Err(Refusal::state(format!("{name} is fed by a circuit: Ze is read at the origin")));
    }
    if state != BoardState::ProvedDead {
        return Err(Refusal::state(format!(
            "{name} {}: the earthing conductor comes off only when the installation is proved dead",
            said(state)
        )));
    }
    let bonds = open_items(events).iter().filter(|item| item.board == board && !item.alteration.is_small()).count();
    if bonds > 0 {
        return Err(Refusal::state(format!(
            "{bonds} items stand open on the put-back list of {name}: put them back first"
        )));
    }
    Ok(())
}

/// Whether something may be altered on a board or one of its circuits: never while it is live.
///
/// # Errors
/// Why not.
pub fn may_alter(
    installation: &Installation,
    events: &[Event],
    board: Uuid,
    circuit: Option<Uuid>,
) -> Result<(), Refusal> {
    let state = match circuit {
        Some(circuit) => circuit_state(events, board, circuit).0,
        None => board_state(events, board).0,
    };
    if state == BoardState::Energised {
        let name = board_name(installation, board);
        return Err(Refusal::state(format!(
            "{name} is energised: isolate it and prove it dead before touching anything"
        )));
    }
    Ok(())
}

/// What a log does that no gate would have let through: energised or exposed with items open, live
/// while the earth is off. For files from outside.
pub fn broken_gates(installation: &Installation, events: &[Event]) -> Vec<String> {
    let mut broken = Vec::new();
    for (at, event) in events.iter().enumerate() {
        let before = &events[..at];
        match &event.kind {
            EventKind::Energised { board, circuits } => {
                let name = board_name(installation, *board);
                if board_state(before, *board).0 == BoardState::SupplyExposed {
                    broken.push(format!("{name} is energised while its earthing conductor is off"));
                }
                let concerned = |item: &&crate::site::OpenItem<'_>| {
                    item.board == *board
                        && (circuits.is_empty() || item.circuit.is_none_or(|circuit| circuits.contains(&circuit)))
                };
                let open = open_items(before).iter().filter(concerned).count();
                if open > 0 {
                    broken.push(format!("{name} is energised with {open} items not put back"));
                }
            }
            EventKind::SupplyExposed { board } if board_state(before, *board).0 != BoardState::ProvedDead => {
                let name = board_name(installation, *board);
                broken.push(format!("{name} has its earth taken off without being proved dead"));
            }
            _ => {}
        }
    }
    broken
}

/// Circuits of a board that are to be energised: all but those left dead and locked.
pub fn to_energise(installation: &Installation, events: &[Event], board: Uuid) -> Vec<Uuid> {
    let left = left_dead(events);
    installation
        .circuits_of(board)
        .map(|circuit| circuit.id)
        .filter(|id| !left.iter().any(|left| left.circuit == *id))
        .collect()
}

/// Whether a stage is read with the supply on.
pub fn is_live(stage: Stage) -> bool {
    !stage.is_dead()
}
