//! The state machine of the site: what the log says of every board and circuit of the supply.
//!
//! One value for the whole supply, so that "earth off here" and "energised there" can stand at once,
//! one circuit be isolated apart, and a board be dead and locked below a live one. Everything that is
//! asked of the log (pages, run, review, gates, files) is asked of it.

use super::board_state::BoardState;
use super::isolation::proves;
use super::log::{Event, EventKind};
use super::put_back::{OpenItem, OutstandingPoint};
use super::wanted::Wanted;
use crate::installation::{Feed, Installation};
use jiff::Timestamp;
use rustc_hash::{FxHashMap, FxHashSet};
use uuid::Uuid;

/// Since when, and by whose word.
pub type Since<'a> = (Timestamp, &'a str);

/// A state with since when; `None`: since ever.
pub type Now<'a> = (BoardState, Option<Since<'a>>);

/// What an event does to the state of a board.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Transition<'a> {
    /// Which board.
    pub board: Uuid,
    /// Which of its circuits; empty: the board as a whole.
    pub circuits: &'a [Uuid],
    /// The state that it, or they, enter.
    pub enters: BoardState,
}

impl<'a> Transition<'a> {
    /// What an event does, if it changes a state.
    pub fn from_event(kind: &'a EventKind) -> Option<Self> {
        let (board, circuits, enters): (Uuid, &'a [Uuid], _) = match kind {
            EventKind::Isolated { board, circuits, .. } | EventKind::NotIsolated { board, circuits, .. } => {
                (*board, circuits.as_slice(), BoardState::NotProved)
            }
            EventKind::EarthRefitted { board } => (*board, &[], BoardState::NotProved),
            EventKind::ProvedDead { board, circuits, pairs, shown, before, after, .. } => {
                let proved = proves(LEAST_PAIRS, *pairs, shown, [*before, *after]).is_ok();
                let enters = if proved { BoardState::ProvedDead } else { BoardState::NotProved };
                (*board, circuits.as_slice(), enters)
            }
            EventKind::SupplyExposed { board } => (*board, &[], BoardState::SupplyExposed),
            EventKind::InUse { board } => (*board, &[], BoardState::Energised),
            EventKind::Energised { board, circuits } => (*board, circuits.as_slice(), BoardState::Energised),
            _ => return None,
        };
        Some(Self { board, circuits, enters })
    }
}

/// Whether two names are of one person, as they are typed.
pub fn is_same_person(a: &str, b: &str) -> bool {
    let plain = |name: &str| name.split_whitespace().collect::<Vec<_>>().join(" ").to_lowercase();
    plain(a) == plain(b)
}

/// The pairs of the fewest conductors that a board may have: fewer prove nothing anywhere.
const LEAST_PAIRS: u8 = 3;

/// A circuit that stays dead and locked for a later stage.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LockedOff<'a> {
    /// At which board.
    pub board: Uuid,
    /// Which circuit.
    pub circuit: Uuid,
    /// The lock, and who keeps the key.
    pub lock: &'a str,
    /// What it waits for.
    pub reason: &'a str,
    /// Who left it so, and when.
    pub since: Since<'a>,
}

/// A board: as a whole, and those of its circuits that stand otherwise.
#[derive(Debug, Clone)]
struct BoardNow<'a> {
    whole: Now<'a>,
    circuits: FxHashMap<Uuid, Now<'a>>,
    /// Some of its circuits were energised since it was last dead as a whole.
    partly_live: Option<Since<'a>>,
    /// The earthing conductor is off: only refitting it ends this.
    earth_off: Option<Since<'a>>,
    /// The earth was refitted, and the board neither locked nor energised since: its main switch is
    /// still off, and the tester is still at the incoming terminals.
    earth_restored: bool,
    /// The pairs and the other sources of the last proof of the whole board.
    proof: Option<(u8, &'a [Uuid])>,
    /// Circuits isolated by their own devices.
    alone: FxHashMap<Uuid, IsolatedCircuit<'a>>,
    /// Who isolated the board as a whole, and with which lock; until it comes to power.
    isolated: Option<Isolated<'a>>,
    /// Who took the earthing conductor off, and who put it back, where that was another; until it comes to power.
    restored: Option<Restored<'a>>,
}

/// Who isolated something, when, and with which lock.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Isolated<'a> {
    /// When, and who.
    pub since: Since<'a>,
    /// The lock, and who keeps the key.
    pub lock: &'a str,
}

/// The earthing conductor put back by another than who took it off.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Restored<'a> {
    /// When it was taken off, and by whom.
    pub off: Since<'a>,
    /// When it was put back, and by whom.
    pub on: Since<'a>,
}

/// A circuit isolated by its own device, its board being live.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct IsolatedCircuit<'a> {
    /// The pairs it was proved dead on.
    pub pairs: u8,
    /// The other sources isolated with it.
    pub sources: &'a [Uuid],
    /// Its device breaks the neutral too.
    pub neutral: bool,
    /// Where it was proved.
    pub place: &'a str,
    /// The lock, and who keeps the key.
    pub lock: &'a str,
    /// When, and who isolated it.
    pub since: Option<Since<'a>>,
}

impl BoardNow<'_> {
    fn new() -> Self {
        Self {
            whole: (BoardState::NotProved, None),
            circuits: FxHashMap::default(),
            partly_live: None,
            earth_off: None,
            earth_restored: false,
            proof: None,
            alone: FxHashMap::default(),
            isolated: None,
            restored: None,
        }
    }
}

/// The site as the log leaves it.
#[derive(Debug, Clone, Default)]
pub struct Site<'a> {
    boards: FxHashMap<Uuid, BoardNow<'a>>,
    open: Vec<OpenItem<'a>>,
    left: Vec<LockedOff<'a>>,
    outstanding: Vec<OutstandingPoint<'a>>,
}

impl<'a> Site<'a> {
    /// The site after the events of a log, in their order.
    pub fn after(events: &'a [Event]) -> Self {
        let mut site = Self::default();
        for event in events {
            site.apply(event);
        }
        site
    }

    /// The site as it is known here: the first `history` events came with a file. What they altered,
    /// took off and left dead stays so; that a board is dead or live is known only once it was proved or
    /// energised here.
    pub fn locally_known(events: &'a [Event], history: usize) -> Self {
        let (theirs, ours) = events.split_at(history.min(events.len()));
        let mut site = Self::after(theirs);
        for board in site.boards.values_mut() {
            let state = if board.earth_off.is_some() { BoardState::SupplyExposed } else { BoardState::NotProved };
            *board = BoardNow { whole: (state, board.earth_off), earth_off: board.earth_off, ..BoardNow::new() };
        }
        for event in ours {
            site.apply(event);
        }
        site
    }

    /// Takes the next event of the log in.
    pub fn apply(&mut self, event: &'a Event) {
        let since: Since<'a> = (event.at, event.by.as_str());
        if let EventKind::EarthRefitted { board } = &event.kind {
            let now = self.board_mut(*board);
            if let Some(off) = now.earth_off.take() {
                now.restored = (!is_same_person(off.1, since.1)).then_some(Restored { off, on: since });
            }
        }
        if let Some(transition) = Transition::from_event(&event.kind) {
            self.enter(transition, since);
        }
        match &event.kind {
            EventKind::SupplyExposed { board } => {
                self.board_mut(*board).earth_off = Some((event.at, event.by.as_str()));
            }
            EventKind::EarthRefitted { board } => self.board_mut(*board).earth_restored = true,
            EventKind::ProvedDead { board, circuits, pairs, sources, .. } if circuits.is_empty() => {
                self.board_mut(*board).proof = Some((*pairs, sources));
            }
            EventKind::Isolated { board, circuits, lock, neutral, .. } => {
                let alone =
                    IsolatedCircuit { neutral: *neutral, lock, since: Some(since), ..IsolatedCircuit::default() };
                let now = self.board_mut(*board);
                now.alone.extend(circuits.iter().map(|circuit| (*circuit, alone)));
                if circuits.is_empty() {
                    now.isolated = Some(Isolated { since, lock });
                }
            }
            EventKind::ProvedDead { board, circuits, pairs, sources, place, .. } => {
                let now = self.board_mut(*board);
                for circuit in circuits {
                    let before = now.alone.get(circuit).copied().unwrap_or_default();
                    now.alone.insert(*circuit, IsolatedCircuit { pairs: *pairs, sources, place, ..before });
                }
            }
            EventKind::Energised { board, circuits } => {
                let live = |left: &LockedOff<'_>| circuits.is_empty() || circuits.contains(&left.circuit);
                self.left.retain(|left| left.board != *board || !live(left));
                // The main switch is on: its lock is off.
                let now = self.board_mut(*board);
                (now.isolated, now.restored) = (None, None);
            }
            EventKind::LockedOff { board, circuits, lock, reason } => {
                for circuit in circuits {
                    self.left.retain(|left| left.circuit != *circuit);
                    self.left.push(LockedOff { board: *board, circuit: *circuit, lock, reason, since });
                }
            }
            EventKind::Altered { item, board, circuit, alteration, note } => self.open.push(OpenItem {
                item: *item,
                board: *board,
                circuit: *circuit,
                alteration: *alteration,
                note,
                since: event.at,
                by: &event.by,
            }),
            EventKind::PutBack { item } => self.open.retain(|other| other.item != *item),
            EventKind::PointOutstanding { item, circuit, thing, made_safe } => {
                self.outstanding.push(OutstandingPoint { item: *item, circuit: *circuit, thing, made_safe });
            }
            EventKind::PointDone { item } => self.outstanding.retain(|other| other.item != *item),
            EventKind::InUse { board } => self.keep_left_dead(*board, (event.at, &event.by)),
            EventKind::NotIsolated { .. }
            | EventKind::Judged { .. }
            | EventKind::TakenWith { .. }
            | EventKind::BeforeUse { .. }
            | EventKind::Nulled { .. }
            | EventKind::StruckOut { .. } => {}
        }
    }

    /// A way that was left dead and locked is not in use with its board.
    fn keep_left_dead(&mut self, board: Uuid, since: Since<'a>) {
        let left: Vec<Uuid> = self.left.iter().filter(|one| one.board == board).map(|one| one.circuit).collect();
        let off = (BoardState::NotProved, Some(since));
        self.board_mut(board).circuits.extend(left.into_iter().map(|circuit| (circuit, off)));
    }

    fn board_mut(&mut self, board: Uuid) -> &mut BoardNow<'a> {
        self.boards.entry(board).or_insert_with(BoardNow::new)
    }

    fn enter(&mut self, transition: Transition<'_>, since: Since<'a>) {
        let Transition { board, circuits, enters } = transition;
        let board = self.board_mut(board);
        if circuits.is_empty() {
            board.earth_restored = false;
            // Locking and proving again leaves the earth off: only refitting it ends an exposure.
            let still_exposed = board.earth_off.is_some() && enters != BoardState::Energised;
            if !still_exposed || enters == BoardState::SupplyExposed {
                board.whole = (enters, Some(since));
            }
            board.circuits.clear();
            board.partly_live = None;
            return;
        }
        if board.earth_off.is_some() && enters != BoardState::Energised {
            return;
        }
        for circuit in circuits {
            board.circuits.insert(*circuit, (enters, Some(since)));
        }
        if enters == BoardState::Energised {
            board.partly_live = Some(since);
            board.earth_restored = false;
            // The main switch is on: what the others were proved with is no longer locked.
            if board.whole.0 == BoardState::ProvedDead {
                board.whole = (BoardState::NotProved, Some(since));
            }
        }
    }

    /// The state of a board, since when, and by whose word. A board with some of its circuits live is
    /// energised; isolating one circuit alone leaves it so.
    pub fn board(&self, board: Uuid) -> Now<'a> {
        let Some(now) = self.boards.get(&board) else { return (BoardState::NotProved, None) };
        now.partly_live.map_or(now.whole, |since| (BoardState::Energised, Some(since)))
    }

    /// The state of one circuit of a board: its own where it was energised, or isolated, apart from
    /// the others.
    pub fn circuit(&self, board: Uuid, circuit: Uuid) -> Now<'a> {
        let Some(now) = self.boards.get(&board) else { return (BoardState::NotProved, None) };
        now.circuits.get(&circuit).copied().unwrap_or(now.whole)
    }

    /// A circuit that was isolated by its own device and proved dead while its board is not: what it was
    /// proved with. Nothing inside the board is dead with it.
    pub fn alone(&self, board: Uuid, circuit: Uuid) -> Option<IsolatedCircuit<'a>> {
        let now = self.boards.get(&board)?;
        let proved = now.circuits.get(&circuit)?.0 == BoardState::ProvedDead;
        let alone = proved && now.whole.0 != BoardState::ProvedDead;
        alone.then(|| now.alone.get(&circuit).copied().unwrap_or_default())
    }

    /// Circuits of a board that are isolated by their own devices, in no order.
    pub fn all_alone(&self, board: Uuid) -> Vec<Uuid> {
        let Some(now) = self.boards.get(&board) else { return Vec::new() };
        now.circuits.keys().copied().filter(|circuit| self.alone(board, *circuit).is_some()).collect()
    }

    /// Whether the earthing conductor is off at a board, since when and by whose word, whatever else
    /// was said of the board since.
    pub fn earth_off(&self, board: Uuid) -> Option<Since<'a>> {
        self.boards.get(&board)?.earth_off
    }

    /// Whether the tester is still at the incoming terminals: the earth was refitted after Ze, and the
    /// board neither locked nor energised since.
    pub fn is_earth_restored(&self, board: Uuid) -> bool {
        self.boards.get(&board).is_some_and(|now| now.earth_restored)
    }

    /// Whether a test may be taken as the site stands: in the state that it wants, or at the incoming
    /// terminals while the tester is still there after Ze.
    pub fn allows(&self, wanted: Wanted, board: Uuid, circuit: Option<Uuid>) -> bool {
        let state = circuit.map_or_else(|| self.board(board), |one| self.circuit(board, one)).0;
        let at_terminals = matches!(wanted, Wanted::EarthOn | Wanted::Incoming) && self.is_earth_restored(board);
        wanted.allows(state) || at_terminals
    }

    /// Who isolated a board as a whole, and with which lock: since it last came to power.
    pub fn isolated(&self, board: Uuid) -> Option<Isolated<'a>> {
        self.boards.get(&board)?.isolated
    }

    /// Whether the earthing conductor was put back by another than who took it off, since the board last came to power.
    pub fn earth_restored(&self, board: Uuid) -> Option<Restored<'a>> {
        self.boards.get(&board)?.restored
    }

    /// The pairs of the last proof of a board as a whole, and the other sources proved with it.
    pub fn proof(&self, board: Uuid) -> Option<(u8, &'a [Uuid])> {
        self.boards.get(&board)?.proof
    }

    /// What was altered and not yet put back, oldest first.
    pub fn open(&self) -> &[OpenItem<'a>] {
        &self.open
    }

    /// Circuits left dead and locked, in the order of the log, without those energised since.
    pub fn left_dead(&self) -> &[LockedOff<'a>] {
        &self.left
    }

    /// Circuits that stay dead: those left dead and locked, and what hangs below them.
    pub fn stays_dead(&self, installation: &Installation) -> Vec<Uuid> {
        let mut dead: Vec<Uuid> = self.left.iter().map(|left| left.circuit).collect();
        let mut at = 0;
        while let Some(feeder) = dead.get(at).copied() {
            at += 1;
            let fed = installation.boards.iter().filter(|board| board.fed_by == Feed::Circuit { circuit: feeder });
            let below = fed.flat_map(|board| installation.circuits_on(board.id)).map(|circuit| circuit.id);
            let below: Vec<Uuid> = below.filter(|id| !dead.contains(id)).collect();
            dead.extend(below);
        }
        dead
    }

    /// Whether a way is off since its board was proved dead: others came to power, it did not.
    pub fn waits_off(&self, board: Uuid, circuit: Uuid) -> bool {
        let partly = |now: &BoardNow<'_>| now.partly_live.is_some() && !now.circuits.contains_key(&circuit);
        let now = self.boards.get(&board);
        now.is_some_and(|now| partly(now) && now.whole.0 == BoardState::NotProved)
    }

    /// Outstanding points and not yet done, oldest first.
    pub fn outstanding_points(&self) -> &[OutstandingPoint<'a>] {
        &self.outstanding
    }

    /// The same, when nothing else is asked.
    pub fn into_open(self) -> Vec<OpenItem<'a>> {
        self.open
    }
}

/// The state of a board, since when, and by whose word.
pub fn board_state(events: &[Event], board: Uuid) -> Now<'_> {
    Site::after(events).board(board)
}

/// The state of one circuit of a board.
pub fn circuit_state(events: &[Event], board: Uuid, circuit: Uuid) -> Now<'_> {
    Site::after(events).circuit(board, circuit)
}

/// Circuits left dead and locked, in the order of the log, without those energised since.
pub fn left_dead(events: &[Event]) -> Vec<LockedOff<'_>> {
    Site::after(events).left
}

/// Outstanding points and not yet done, oldest first.
pub fn outstanding_points(events: &[Event]) -> Vec<OutstandingPoint<'_>> {
    Site::after(events).outstanding
}

/// What was altered and not yet put back, oldest first.
pub fn open_items(events: &[Event]) -> Vec<OpenItem<'_>> {
    Site::after(events).into_open()
}

/// The site as the log had it, asked moment by moment, forwards.
#[derive(Debug)]
pub struct Replay<'a> {
    site: Site<'a>,
    later: std::iter::Peekable<std::vec::IntoIter<&'a Event>>,
    told_of: FxHashSet<Uuid>,
}

impl<'a> Replay<'a> {
    /// From a log.
    pub fn from_events(events: &'a [Event]) -> Self {
        let mut all: Vec<&Event> = events.iter().collect();
        all.sort_by_key(|event| event.at);
        Self {
            site: Site::default(),
            told_of: events.iter().filter_map(|event| Some(Transition::from_event(&event.kind)?.board)).collect(),
            later: all.into_iter().peekable(),
        }
    }

    /// The state of a board, or of one of its circuits, at a moment that is not before the one asked
    /// last; `None` where the log says nothing of the board at all.
    pub fn at(&mut self, board: Uuid, circuit: Option<Uuid>, at: Timestamp) -> Option<BoardState> {
        while let Some(event) = self.later.next_if(|event| event.at <= at) {
            self.site.apply(event);
        }
        let told_of = self.told_of.contains(&board);
        told_of.then(|| circuit.map_or_else(|| self.site.board(board), |one| self.site.circuit(board, one)).0)
    }

    /// The site at the moment that was asked last.
    pub const fn site(&self) -> &Site<'a> {
        &self.site
    }
}
