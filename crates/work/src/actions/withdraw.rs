//! A circuit or a board that was added by mistake is withdrawn: nothing that was read of it may stand, nothing
//! may be altered on it, and nothing may hang on it.

use super::Actor;
use proof_job::installation::validity::LONGEST_LINE;
use proof_job::installation::{Board, Circuit, Feed, Installation, Withdrawn};
use proof_job::job::Job;
use proof_job::reading::Subject;
use proof_job::site::{BoardState, OpenItem, outstanding_points};
use proof_standard::text::{BadText, line};
use uuid::Uuid;

/// Why something is not withdrawn, and what to do first.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NotWithdrawn {
    /// There is no such circuit or board.
    #[error("it is not described here: load the page again")]
    Unknown,
    /// Readings stand.
    #[error("{count} of its readings are not struck out: strike each out with its reason first, on its page")]
    Readings {
        /// How many.
        count: usize,
    },
    /// Something is altered on it.
    #[error("{what} is still to be put back on it: put it back first")]
    Open {
        /// What.
        what: &'static str,
    },
    /// It is locked off for the next trade.
    #[error("the log says that it is left dead and locked: put it into use, or out of the list, first")]
    LockedOff,
    /// Something made safe is left on it.
    #[error("{thing} is outstanding on it: say that it is done first")]
    Outstanding {
        /// What.
        thing: String,
    },
    /// A board hangs on it.
    #[error("it feeds {board}: withdraw that board first, or say what feeds it")]
    Feeds {
        /// Which.
        board: String,
    },
    /// The board is live.
    #[error("the log says that it is energised: isolate it first")]
    Energised,
    /// Nobody is named.
    #[error("give the name of who withdraws it")]
    Nobody,
    /// No reason.
    #[error("say why it is withdrawn, such as: written twice")]
    NoReason,
    /// A text that cannot be taken.
    #[error(transparent)]
    Text(#[from] BadText),
}

fn signed(hand: &Actor, reason: &str) -> Result<(String, String), NotWithdrawn> {
    let by = line("by", &hand.by, LONGEST_LINE)?;
    let reason = line("reason", reason, LONGEST_LINE)?;
    match (by.is_empty(), reason.is_empty()) {
        (true, _) => Err(NotWithdrawn::Nobody),
        (_, true) => Err(NotWithdrawn::NoReason),
        _ => Ok((by, reason)),
    }
}

/// Nothing of these circuits, or of this board, is read, altered or in use by another.
fn is_free(job: &Job, circuits: &[&Circuit], board: Option<&Board>) -> Result<(), NotWithdrawn> {
    let is_one = |id: &Uuid| circuits.iter().any(|circuit| circuit.id == *id);
    let is_board = |id: &Uuid| board.is_some_and(|board| board.id == *id);
    let settled = job.settled();
    let of = |subject: &Subject| match subject {
        Subject::Place { circuit, .. } => is_one(circuit),
        Subject::CircuitSet { circuits } => circuits.iter().any(is_one),
        Subject::Board { board } => is_board(board),
        Subject::Supply | Subject::Bond { .. } => false,
    };
    let count = settled.standing().filter(|reading| of(&reading.key.subject)).count();
    if count > 0 {
        return Err(NotWithdrawn::Readings { count });
    }
    let site = job.site();
    let on_it = |item: &&OpenItem<'_>| item.circuit.is_some_and(|id| is_one(&id)) || is_board(&item.board);
    if let Some(open) = site.open().iter().find(on_it) {
        return Err(NotWithdrawn::Open { what: open.alteration.label() });
    }
    if site.left_dead().iter().any(|left| is_one(&left.circuit)) {
        return Err(NotWithdrawn::LockedOff);
    }
    if let Some(left) = outstanding_points(&job.events).into_iter().find(|left| is_one(&left.circuit)) {
        return Err(NotWithdrawn::Outstanding { thing: left.thing.to_owned() });
    }
    let fed =
        |other: &&Board| matches!(other.fed_by, Feed::Circuit { circuit } if is_one(&circuit)) && !is_board(&other.id);
    if let Some(fed) = job.installation.boards.iter().find(fed) {
        return Err(NotWithdrawn::Feeds { board: fed.name.clone() });
    }
    match board {
        Some(board) if site.board(board.id).0 == BoardState::Energised => Err(NotWithdrawn::Energised),
        _ => Ok(()),
    }
}

/// The installation without a circuit, which it keeps as withdrawn.
///
/// # Errors
/// [`NotWithdrawn`]: what is to be done first.
pub fn withdraw_circuit(job: &Job, circuit: Uuid, reason: &str, hand: &Actor) -> Result<Installation, NotWithdrawn> {
    let (by, reason) = signed(hand, reason)?;
    let gone = job.installation.circuit(circuit).ok_or(NotWithdrawn::Unknown)?;
    is_free(job, &[gone], None)?;
    let mut installation = job.installation.clone();
    installation.circuits.retain(|one| one.id != circuit);
    // The residual device of its way alone goes with it.
    if let (Some(rcd), Some(board)) = (gone.rcd, installation.boards.iter_mut().find(|one| one.id == gone.board)) {
        let shared = installation.circuits.iter().any(|one| one.rcd == Some(rcd));
        board.rcds.retain(|one| shared || one.id != rcd);
    }
    installation.withdrawn.push(Withdrawn { board: None, circuits: vec![gone.clone()], by, at: hand.at, reason });
    Ok(installation)
}

/// The installation without a board and its circuits, which it keeps as withdrawn.
///
/// # Errors
/// [`NotWithdrawn`]: what is to be done first.
pub fn withdraw_board(job: &Job, board: Uuid, reason: &str, hand: &Actor) -> Result<Installation, NotWithdrawn> {
    let (by, reason) = signed(hand, reason)?;
    let gone = job.installation.board(board).ok_or(NotWithdrawn::Unknown)?;
    let circuits: Vec<&Circuit> = job.installation.circuits_on(board).collect();
    is_free(job, &circuits, Some(gone))?;
    let mut installation = job.installation.clone();
    installation.boards.retain(|one| one.id != board);
    installation.circuits.retain(|one| one.board != board);
    for source in installation.sources.iter_mut().filter(|source| source.board == Some(board)) {
        source.board = None;
    }
    let circuits = circuits.into_iter().cloned().collect();
    installation.withdrawn.push(Withdrawn { board: Some(gone.clone()), circuits, by, at: hand.at, reason });
    Ok(installation)
}
