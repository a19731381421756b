//! What may be done now: a dead test wants a board proved dead, Ze the supply exposed, a live test
//! a circuit energised; and energising wants every dead test in, inside its limit, and everything
//! put back.
//!
//! The gates are asked of the log and the readings, wherever those came from: a job file that says
//! "energised" without its dead tests opens no live test.

use crate::installation::{Feed, Installation};
use crate::reading::{Settled, Step, Subject};
use crate::review::{Finding, Kind, Reviewed, Where, of_circuit, review};
use crate::site::{Alteration, BoardState, Event, EventKind, Site, Wanted, taken_on};
use std::fmt;
use uuid::Uuid;

/// Why something may not be done now, typed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Because {
    /// A test wants another state.
    State {
        /// Board or way.
        of: String,
        /// How it stands.
        state: BoardState,
        /// What the test wants.
        wanted: Wanted,
    },
    /// It is live, and its dead tests do not bear that.
    NotBorne {
        /// Board or way.
        of: String,
    },
    /// Findings stand in the way of energising.
    InTheWay {
        /// The board.
        board: String,
    },
    /// Nobody said that the covers are on.
    CoversOff,
    /// Ze is read at the origin only.
    FedByCircuit {
        /// The board.
        board: String,
    },
    /// The earthing conductor comes off only when everything is dead.
    ExposeWantsDead {
        /// The board.
        board: String,
        /// How it stands.
        state: BoardState,
    },
    /// Items stand open that must be back before the supply is exposed.
    OpenItems {
        /// The board.
        board: String,
        /// How many.
        count: usize,
    },
    /// Nothing is touched that is live.
    AlterLive {
        /// The board.
        board: String,
    },
    /// An earth or a bond is of the whole supply: it comes off only when every board on it is dead.
    EarthWantsDead {
        /// The board that is not.
        board: String,
        /// How it stands.
        state: BoardState,
    },
    /// What hangs below a dead board or way is not live.
    FeederDead {
        /// The board below.
        board: String,
        /// What feeds it.
        feeder: String,
    },
}

/// Why something may not be done now.
#[derive(Debug, Clone, PartialEq)]
pub struct Refusal {
    /// Why.
    pub because: Because,
    /// What stands in the way, each with where it is mended; empty where it is the state alone.
    pub in_the_way: Vec<Finding>,
}

impl From<Because> for Refusal {
    fn from(because: Because) -> Self {
        Self { because, in_the_way: Vec::new() }
    }
}

/// In a sentence without its full stop.
impl fmt::Display for Refusal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let count = self.in_the_way.len();
        match &self.because {
            Because::State { of, state, wanted } => write!(f, "{of} {}: {}", state.said(), asked(*wanted, *state)),
            Because::NotBorne { of } => {
                let first = self.in_the_way.first().map(Finding::what).unwrap_or_default();
                write!(f, "{of} is energised, and its dead tests do not bear it: {first}")
            }
            Because::InTheWay { board } => {
                let things = if count == 1 { "thing stands" } else { "things stand" };
                write!(f, "{count} {things} in the way of energising {board}")
            }
            Because::CoversOff => f.write_str("say that the covers are on"),
            Because::FedByCircuit { board } => write!(f, "{board} is fed by a circuit: Ze is read at the origin"),
            Because::ExposeWantsDead { board, state } => write!(
                f,
                "{board} {}: the earthing conductor comes off only when the installation is proved dead",
                state.said()
            ),
            Because::OpenItems { board, count } => {
                write!(f, "{count} items stand open on the put-back list of {board}: put them back first")
            }
            Because::AlterLive { board } => {
                write!(f, "{board} is energised: isolate it and prove it dead before touching anything")
            }
            Because::EarthWantsDead { board, state } => write!(
                f,
                "{board} {}: an earth or a bond comes off only when every board on the supply is proved dead and locked, \
                 since it serves them all",
                state.said()
            ),
            Because::FeederDead { board, feeder } => {
                write!(f, "{board} is fed by {feeder}, which is dead: energise that first")
            }
        }
    }
}

/// What a test asks for that is taken in the wrong state.
const fn asked(wanted: Wanted, state: BoardState) -> &'static str {
    match (wanted, state) {
        (Wanted::Dead, _) => "this is a dead test. Isolate and prove it dead first (the band above leads there)",
        (Wanted::Exposed, _) => {
            "Ze is read with the earthing conductor off, from proved dead, and filed when it is back on"
        }
        (Wanted::EarthOn, BoardState::SupplyExposed) => "the fault current is read with the earthing conductor back on",
        (Wanted::EarthOn | Wanted::Incoming, _) => "isolate and prove the outgoing side dead first",
        (Wanted::Live | Wanted::Nothing, _) => "this is a live test. Energise first",
    }
}

fn board_name(installation: &Installation, board: Uuid) -> String {
    installation.board(board).map_or_else(|| "the board".to_owned(), |board| board.name.clone())
}

/// The way above a board that the log has dead: what hangs below it is not live.
fn dead_above(installation: &Installation, site: &Site<'_>, board: Uuid) -> Option<String> {
    let mut below = board;
    for _ in &installation.boards {
        let Some(Feed::Circuit { circuit }) = installation.board(below).map(|board| board.fed_by) else { return None };
        let feeder = installation.circuit(circuit)?;
        let state = site.circuit(feeder.board, circuit).0;
        if matches!(state, BoardState::ProvedDead | BoardState::SupplyExposed) {
            return Some(format!("way {} of {}", feeder.way, board_name(installation, feeder.board)));
        }
        below = feeder.board;
    }
    None
}

/// The first board on the supply that is not dead: an earth serves them all.
fn not_dead(installation: &Installation, site: &Site<'_>) -> Option<(String, BoardState)> {
    let fed = installation.boards.iter().filter(|board| board.fed_by == Feed::Supply);
    fed.map(|board| (board.name.clone(), site.board(board.id).0))
        .find(|(_, state)| !matches!(state, BoardState::ProvedDead | BoardState::SupplyExposed))
}

/// Whether a step may be read now, on site. What is copied from paper asks no gate.
///
/// # Errors
/// Why not, with what stands in the way.
pub fn may_read(reviewed: Reviewed<'_>, settled: &Settled<'_>, step: &Step) -> Result<(), Refusal> {
    let installation = reviewed.installation;
    let Some((board, circuit)) = taken_on(installation, &step.key.subject) else { return Ok(()) };
    let site = Site::after(reviewed.events);
    let circuit = circuit.and_then(|id| installation.circuit(id));
    let (state, of) = match circuit {
        Some(circuit) => {
            (site.circuit(board, circuit.id).0, format!("way {} of {}", circuit.way, board_name(installation, board)))
        }
        None => (site.board(board).0, board_name(installation, board)),
    };
    let wanted = Wanted::of(&step.key);
    if !wanted.allows(state) {
        return Err(Because::State { of, state, wanted }.into());
    }
    if wanted == Wanted::Live
        && let Some(feeder) = dead_above(installation, &site, board)
    {
        return Err(Because::FeederDead { board: board_name(installation, board), feeder }.into());
    }
    if let (Wanted::Live, Subject::Place { .. }, Some(circuit)) = (wanted, &step.key.subject, circuit) {
        let mut in_the_way = of_circuit(reviewed, settled, circuit);
        in_the_way.retain(|finding| finding.bars_energising && finding.blocks());
        if !in_the_way.is_empty() {
            return Err(Refusal { because: Because::NotBorne { of }, in_the_way });
        }
    }
    Ok(())
}

/// What stands in the way of energising some circuits of a board (none: all of it): what is not put
/// back, dead tests missing or failing, the earth or a bond off anywhere on the supply. Judged
/// departures are out of the way.
pub fn in_the_way(reviewed: Reviewed<'_>, board: Uuid, circuits: &[Uuid]) -> Vec<Finding> {
    let concerned = |id: Uuid| {
        let of_board = reviewed.installation.circuit(id).is_some_and(|circuit| circuit.board == board);
        of_board && (circuits.is_empty() || circuits.contains(&id))
    };
    let site = Site::after(reviewed.events);
    // An item of a circuit that stays dead waits with it; one of the board waits for nobody.
    let mine = site.open().iter().filter(|item| item.board == board).any(|item| item.circuit.is_none_or(concerned));
    let earths_off = |of: Uuid| site.open().iter().any(|item| item.board == of && item.alteration.takes_earth_off());
    review(reviewed)
        .into_iter()
        .filter(|finding| finding.bars_energising && finding.blocks())
        .filter(|finding| match (&finding.place, finding.kind()) {
            (_, Kind::SupplyExposed) | (Where::Origin(_), _) => true,
            (Where::Board(other), Kind::NotPutBack) => *other == board && mine || earths_off(*other),
            (Where::Board(other) | Where::BoardStep(other, _), _) => *other == board,
            (Where::Circuit(circuit, _), _) => concerned(*circuit),
            _ => false,
        })
        .collect()
}

/// Whether a board, or some of its circuits, may be energised.
///
/// # Errors
/// Why not, with what stands in the way, each with where it is mended.
pub fn may_energise(reviewed: Reviewed<'_>, board: Uuid, circuits: &[Uuid], covers_on: bool) -> Result<(), Refusal> {
    if let Some(feeder) = dead_above(reviewed.installation, &Site::after(reviewed.events), board) {
        return Err(Because::FeederDead { board: board_name(reviewed.installation, board), feeder }.into());
    }
    let in_the_way = in_the_way(reviewed, board, circuits);
    if !in_the_way.is_empty() {
        let because = Because::InTheWay { board: board_name(reviewed.installation, board) };
        return Err(Refusal { because, in_the_way });
    }
    if covers_on { Ok(()) } else { Err(Because::CoversOff.into()) }
}

/// Whether the supply may be exposed for Ze at a board.
///
/// # Errors
/// Why not.
pub fn may_expose(installation: &Installation, events: &[Event], board: Uuid) -> Result<(), Refusal> {
    let site = Site::after(events);
    let name = board_name(installation, board);
    if installation.board(board).is_some_and(|board| board.fed_by != Feed::Supply) {
        return Err(Because::FedByCircuit { board: name }.into());
    }
    let state = site.board(board).0;
    if state != BoardState::ProvedDead {
        return Err(Because::ExposeWantsDead { board: name, state }.into());
    }
    if let Some((board, state)) = not_dead(installation, &site) {
        return Err(Because::EarthWantsDead { board, state }.into());
    }
    let large = |item: &&crate::site::OpenItem<'_>| item.board == board && !item.alteration.is_small();
    let count = site.open().iter().filter(large).count();
    if count > 0 {
        return Err(Because::OpenItems { board: name, count }.into());
    }
    Ok(())
}

/// Whether something may be altered on a board or one of its circuits: never while it is live; an
/// earth or a bond only while every board on the supply is dead.
///
/// # Errors
/// Why not.
pub fn may_alter(
    installation: &Installation,
    events: &[Event],
    board: Uuid,
    circuit: Option<Uuid>,
    alteration: Alteration,
) -> Result<(), Refusal> {
    let site = Site::after(events);
    let state = circuit.map_or_else(|| site.board(board).0, |circuit| site.circuit(board, circuit).0);
    if state == BoardState::Energised {
        return Err(Because::AlterLive { board: board_name(installation, board) }.into());
    }
    match not_dead(installation, &site).filter(|_| alteration.takes_earth_off()) {
        Some((board, state)) => Err(Because::EarthWantsDead { board, state }.into()),
        None => Ok(()),
    }
}

/// What a log does that no gate would have let through.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Breach {
    /// Energised while the earth is off.
    #[error("{0} is energised while its earthing conductor is off")]
    EarthOff(String),
    /// Energised with items open.
    #[error("{board} is energised with {count} items not put back")]
    ItemsOpen {
        /// The board.
        board: String,
        /// How many.
        count: usize,
    },
    /// The earth off on a board that is not dead.
    #[error("{0} has its earth taken off without being proved dead")]
    ExposedNotDead(String),
}

/// What a log does that no gate would have let through: energised or exposed with items open, live
/// while the earth is off. For files from outside.
pub fn broken_gates(installation: &Installation, events: &[Event]) -> Vec<Breach> {
    let mut broken = Vec::new();
    let mut site = Site::default();
    for event in events {
        match &event.kind {
            EventKind::Energised { board, circuits } => {
                let name = board_name(installation, *board);
                if installation.boards.iter().any(|one| site.earth_off(one.id).is_some()) {
                    broken.push(Breach::EarthOff(name.clone()));
                }
                let concerned = |item: &&crate::site::OpenItem<'_>| {
                    item.board == *board
                        && (circuits.is_empty() || item.circuit.is_none_or(|circuit| circuits.contains(&circuit)))
                };
                let count = site.open().iter().filter(concerned).count();
                if count > 0 {
                    broken.push(Breach::ItemsOpen { board: name, count });
                }
            }
            EventKind::SupplyExposed { board } if site.board(*board).0 != BoardState::ProvedDead => {
                broken.push(Breach::ExposedNotDead(board_name(installation, *board)));
            }
            _ => {}
        }
        site.apply(event);
    }
    broken
}

/// Circuits of a board that are to be energised: all but those left dead and locked.
pub fn to_energise(installation: &Installation, events: &[Event], board: Uuid) -> Vec<Uuid> {
    let site = Site::after(events);
    let left = |id: Uuid| site.left_dead().iter().any(|left| left.circuit == id);
    installation.circuits_of(board).map(|circuit| circuit.id).filter(|id| !left(*id)).collect()
}
