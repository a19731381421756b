//! What may be done now: a dead test wants a board proved dead, Ze the supply exposed, a live test
//! a circuit energised; and energising wants every dead test in, inside its limit, and everything
//! put back.
//!
//! The gates are asked of the log and the readings, wherever those came from: a job file that says
//! "energised" without its dead tests opens no live test.

use crate::plan::reach::{Inside, inside_board};
use crate::review::{Finding, Reviewed, Where, circuit_findings, review_with};
use proof_job::installation::{Circuit, Feed, Installation, OtherSource};
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Step, Subject};
use proof_job::site::isolation::{circuit_pair_count, pair_count};
use proof_job::site::{
    Alteration, BoardState, IsolatedCircuit, Site, Wanted, any_earth_off, dead_above, not_dead, taken_on,
};
use proof_judge::finding::Kind;
use std::fmt;
use uuid::Uuid;

/// Why something may not be done now, typed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum GateReason {
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
    DeadTestsIncomplete {
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
    /// No conductor is touched that is not proved dead.
    AlterNotDead {
        /// The board.
        board: String,
        /// How it stands.
        state: BoardState,
    },
    /// The earthing conductor, a bond or a tail is off: nothing is locked, proved or live before it is back.
    EarthOff,
    /// The record of proving dead does not bear a dead test.
    ProofShort {
        /// The board.
        board: String,
        /// Pairs tested.
        tested: u8,
        /// Of so many.
        of: u8,
    },
    /// Another source was not isolated and proved with the board.
    SourceUnproved {
        /// The board.
        board: String,
        /// Which source.
        source: &'static str,
    },
    /// An earth or a bond is of the whole supply: it comes off only when every board on it is dead.
    EarthWantsDead {
        /// The board that is not.
        board: String,
        /// How it stands.
        state: BoardState,
    },
    /// One circuit is isolated by its own device, and this is done inside the board, which is live.
    BoardWantsDead {
        /// The board.
        board: String,
        /// The circuit that is isolated.
        way: String,
        /// What is touched there.
        inside: Inside,
    },
    /// Only a board that stood before, and whose origin is no part of the work, was found in use.
    NotFoundInUse {
        /// The board.
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
    pub because: GateReason,
    /// What stands in the way, each with where it is mended; empty where it is the state alone.
    pub in_the_way: Vec<Finding>,
}

impl From<GateReason> for Refusal {
    fn from(because: GateReason) -> Self {
        Self { because, in_the_way: Vec::new() }
    }
}

/// In a sentence without its full stop.
impl fmt::Display for Refusal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let count = self.in_the_way.len();
        match &self.because {
            GateReason::State { of, state, wanted } => {
                // "Not proved dead" is no reason to energise: a live test says what is wanting.
                let is = if *wanted == Wanted::Live { "is not energised" } else { state.label() };
                write!(f, "{of} {is}: {}", asked(*wanted, *state))
            }
            GateReason::DeadTestsIncomplete { of } => {
                let first = self.in_the_way.first().map(Finding::text).unwrap_or_default();
                write!(f, "{of} is energised, and its dead tests do not bear it: {first}")
            }
            GateReason::InTheWay { board } => {
                let things = if count == 1 { "thing is" } else { "things are" };
                write!(f, "{count} {things} to be done before {board} is energised")
            }
            GateReason::CoversOff => f.write_str("say that the covers are on"),
            GateReason::FedByCircuit { board } => write!(f, "{board} is fed by a circuit: Ze is read at the origin"),
            GateReason::ExposeWantsDead { board, state } => write!(
                f,
                "{board} {}: the earthing conductor comes off only when the installation is proved dead",
                state.label()
            ),
            GateReason::OpenItems { board, count: 1 } => {
                write!(f, "1 item is still on the put-back list of {board}: put it back first")
            }
            GateReason::OpenItems { board, count } => {
                write!(f, "{count} items are still on the put-back list of {board}: put them back first")
            }
            GateReason::AlterLive { .. }
            | GateReason::AlterNotDead { .. }
            | GateReason::EarthOff
            | GateReason::ProofShort { .. }
            | GateReason::SourceUnproved { .. }
            | GateReason::EarthWantsDead { .. }
            | GateReason::BoardWantsDead { .. }
            | GateReason::NotFoundInUse { .. }
            | GateReason::FeederDead { .. } => f.write_str(&not_dead_enough(&self.because)),
        }
    }
}

/// Why a conductor is not touched, an earth not taken off, or a board not said to be in use; the others are said
/// where they are matched.
fn not_dead_enough(because: &GateReason) -> String {
    match because {
        GateReason::AlterLive { board } => {
            format!("{board} is energised: isolate it and prove it dead before touching anything")
        }
        GateReason::AlterNotDead { board, state } => {
            format!("{board} {}: isolate it and prove it dead before a conductor is touched", state.label())
        }
        GateReason::EarthOff => {
            "the earthing conductor, a bond or a tail is off: put it back and say so first (Ze, or the put-back list)"
                .to_owned()
        }
        GateReason::ProofShort { board, tested, of } => {
            format!("{board} was proved dead on {tested} pairs, and its conductors make {of}: prove every pair first")
        }
        GateReason::SourceUnproved { board, source } => {
            format!("{board} was proved dead without isolating the {source}: isolate it too, and prove again")
        }
        GateReason::EarthWantsDead { board, state } => format!(
            "{board} {}: an earth or a bond comes off only when every board on the supply is proved dead and locked, \
                 since it serves them all",
            state.label()
        ),
        GateReason::BoardWantsDead { board, way, inside } => format!(
            "only way {way} is isolated and the rest of {board} is live: isolate the whole board and prove it dead \
                 for this, since {}",
            inside.because()
        ),
        GateReason::NotFoundInUse { board, state } => format!(
            "{board} {}: only a board that stood before, whose origin the work leaves as it is, and of which nothing \
                 else is known, is said to be in use",
            state.label()
        ),
        GateReason::FeederDead { board, feeder } => {
            format!("{board} is fed by {feeder}, which is dead: energise that first")
        }
        _ => String::new(),
    }
}

/// What a test asks for that is taken in the wrong state.
const fn asked(wanted: Wanted, state: BoardState) -> &'static str {
    match (wanted, state) {
        (Wanted::Dead, _) => "this is a dead test. Isolate and prove it dead first (the band above leads there)",
        (Wanted::Exposed, _) => {
            "Ze is read with the earth disconnected, from proved dead, and filed when it is back on"
        }
        (Wanted::EarthOn, BoardState::SupplyExposed) => "the fault current is read with the earthing conductor back on",
        (Wanted::EarthOn | Wanted::Incoming, _) => "isolate and prove the outgoing side dead first",
        (Wanted::Live | Wanted::Nothing, _) => "this is a live test. Put everything back and energise it first",
    }
}

fn board_name(installation: &Installation, board: Uuid) -> String {
    installation.board(board).map_or_else(|| "the board".to_owned(), |board| board.name.clone())
}

/// The way above a board that is dead, in words.
fn feeder_dead(installation: &Installation, site: &Site<'_>, board: Uuid) -> Option<GateReason> {
    let feeder = installation.circuit(dead_above(installation, site, board)?)?;
    let feeder = format!("way {} of {}", feeder.way, board_name(installation, feeder.board));
    Some(GateReason::FeederDead { board: board_name(installation, board), feeder })
}

/// The first board on the supply that is not dead, or whose proof does not prove it.
fn earth_wants_dead(installation: &Installation, site: &Site<'_>) -> Option<GateReason> {
    if let Some((board, state)) = not_dead(installation, site) {
        return Some(GateReason::EarthWantsDead { board: board_name(installation, board), state });
    }
    let fed = installation.boards.iter().filter(|board| board.fed_by == Feed::Supply);
    fed.map(|board| board.id).find_map(|board| proof_short(installation, site, board))
}

/// Why the proof of a circuit that is isolated alone does not bear a dead test.
fn alone_short(installation: &Installation, circuit: &Circuit, alone: &IsolatedCircuit<'_>) -> Option<GateReason> {
    let of = circuit_pair_count(circuit);
    if alone.pairs < of {
        let board = format!("way {} of {}", circuit.way, board_name(installation, circuit.board));
        return Some(GateReason::ProofShort { board, tested: alone.pairs, of });
    }
    let other = sources_behind(installation, circuit.id).into_iter().find(|one| !alone.sources.contains(&one.id))?;
    Some(GateReason::SourceUnproved { board: format!("way {}", circuit.way), source: other.kind.label() })
}

/// Why a dead test may not be taken on a circuit that is isolated alone, its board being live.
fn alone_bears(
    installation: &Installation,
    circuit: &Circuit,
    alone: &IsolatedCircuit<'_>,
    step: &Step,
) -> Option<GateReason> {
    let inside = inside_board(installation, step, alone.neutral);
    let board = || board_name(installation, circuit.board);
    inside
        .map(|inside| GateReason::BoardWantsDead { board: board(), way: circuit.way.clone(), inside })
        .or_else(|| alone_short(installation, circuit, alone))
}

/// Sources beside the supply that feed a circuit from behind: those of the boards that hang on it.
pub fn sources_behind(installation: &Installation, circuit: Uuid) -> Vec<&OtherSource> {
    let hangs = |board: Uuid| {
        let mut at = board;
        for _ in 0..=installation.boards.len() {
            let Some(Feed::Circuit { circuit: feeder }) = installation.board(at).map(|board| board.fed_by) else {
                return false;
            };
            if feeder == circuit {
                return true;
            }
            let Some(above) = installation.circuit(feeder) else { return false };
            at = above.board;
        }
        false
    };
    installation.sources.iter().filter(|source| source.board.is_some_and(hangs)).collect()
}

/// Why the last proof of a board does not bear a dead test.
fn proof_short(installation: &Installation, site: &Site<'_>, board: Uuid) -> Option<GateReason> {
    let (tested, proved) = site.proof(board)?;
    let of = installation.board(board).map_or(0, |board| pair_count(board.lines));
    let name = || board_name(installation, board);
    if tested < of {
        return Some(GateReason::ProofShort { board: name(), tested, of });
    }
    let other = installation.sources.iter().find(|source| !proved.contains(&source.id))?;
    Some(GateReason::SourceUnproved { board: name(), source: other.kind.label() })
}

/// Whether a step may be read now, on site. What is copied from paper asks no gate.
///
/// # Errors
/// Why not, with what stands in the way.
pub fn check_read(reviewed: Reviewed<'_>, settled: &CurrentReadings<'_>, step: &Step) -> Result<(), Refusal> {
    let installation = reviewed.installation;
    let Some((board, circuit)) = taken_on(installation, &step.key.subject) else { return Ok(()) };
    let site = reviewed.site();
    let circuit = circuit.and_then(|id| installation.circuit(id));
    let (state, of) = match circuit {
        Some(circuit) => {
            (site.circuit(board, circuit.id).0, format!("way {} of {}", circuit.way, board_name(installation, board)))
        }
        None => (site.board(board).0, board_name(installation, board)),
    };
    let wanted = Wanted::for_key(&step.key);
    if !site.allows(wanted, board, circuit.map(|circuit| circuit.id)) {
        return Err(GateReason::State { of, state, wanted }.into());
    }
    let because = match wanted {
        Wanted::Live => feeder_dead(installation, &site, board),
        Wanted::Dead => match circuit.and_then(|circuit| Some((circuit, site.alone(board, circuit.id)?))) {
            Some((circuit, alone)) => alone_bears(installation, circuit, &alone, step),
            None => proof_short(installation, &site, board),
        },
        Wanted::EarthOn if any_earth_off(installation, &site) => Some(GateReason::EarthOff),
        _ => None,
    };
    if let Some(because) = because {
        return Err(because.into());
    }
    if let (Wanted::Live, Subject::Place { .. }, Some(circuit)) = (wanted, &step.key.subject, circuit) {
        let mut in_the_way = circuit_findings(reviewed, settled, circuit);
        in_the_way.retain(|finding| finding.bars_energising && finding.blocks());
        if !in_the_way.is_empty() {
            return Err(Refusal { because: GateReason::DeadTestsIncomplete { of }, in_the_way });
        }
    }
    Ok(())
}

/// What stands in the way of energising some circuits of a board (none: all of it): what is not put
/// back, dead tests missing or failing, the earth or a bond off anywhere on the supply. Judged
/// departures are out of the way.
pub fn in_the_way(reviewed: Reviewed<'_>, board: Uuid, circuits: &[Uuid]) -> Vec<Finding> {
    let concerned = |id: Uuid| {
        let for_board = reviewed.installation.circuit(id).is_some_and(|circuit| circuit.board == board);
        for_board && (circuits.is_empty() || circuits.contains(&id))
    };
    let site = reviewed.site();
    // An item of a circuit that stays dead waits with it; one of the board waits for nobody.
    let mine = site.open().iter().filter(|item| item.board == board).any(|item| item.circuit.is_none_or(concerned));
    let earths_off = |of: Uuid| site.open().iter().any(|item| item.board == of && item.alteration.takes_earth_off());
    // A way that was left dead and comes to power now is asked its tests like any other.
    review_with(reviewed, &concerned)
        .into_iter()
        .filter(|finding| finding.bars_energising && finding.blocks())
        .filter(|finding| match (&finding.place, finding.kind()) {
            (_, Kind::SupplyExposed) | (Where::Origin(_) | Where::Inspection, _) => true,
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
pub fn check_energise(reviewed: Reviewed<'_>, board: Uuid, circuits: &[Uuid], covers_on: bool) -> Result<(), Refusal> {
    if let Some(because) = feeder_dead(reviewed.installation, &reviewed.site(), board) {
        return Err(because.into());
    }
    let in_the_way = in_the_way(reviewed, board, circuits);
    if !in_the_way.is_empty() {
        let because = GateReason::InTheWay { board: board_name(reviewed.installation, board) };
        return Err(Refusal { because, in_the_way });
    }
    if covers_on { Ok(()) } else { Err(GateReason::CoversOff.into()) }
}

/// Whether the supply may be exposed for Ze at a board.
///
/// # Errors
/// Why not.
pub fn check_expose(job: &Job, board: Uuid) -> Result<(), Refusal> {
    let (installation, site) = (&job.installation, job.site());
    let name = board_name(installation, board);
    if installation.board(board).is_some_and(|board| board.fed_by != Feed::Supply) {
        return Err(GateReason::FedByCircuit { board: name }.into());
    }
    let state = site.board(board).0;
    if state != BoardState::ProvedDead {
        return Err(GateReason::ExposeWantsDead { board: name, state }.into());
    }
    if let Some(because) = earth_wants_dead(installation, &site) {
        return Err(because.into());
    }
    let large = |item: &&proof_job::site::OpenItem<'_>| item.board == board && !item.alteration.is_small();
    let count = site.open().iter().filter(large).count();
    if count > 0 {
        return Err(GateReason::OpenItems { board: name, count }.into());
    }
    Ok(())
}

/// Whether a board may be locked and proved dead: not while the earthing conductor is off for Ze; only
/// refitting it ends that.
///
/// # Errors
/// Why not.
pub fn check_isolate(job: &Job) -> Result<(), Refusal> {
    let site = job.site();
    let exposed = job.installation.boards.iter().any(|board| site.earth_off(board.id).is_some());
    if exposed { Err(GateReason::EarthOff.into()) } else { Ok(()) }
}

/// Whether a board may be said to have been found energised and in use: it stood before, its origin is no
/// part of the work, nothing else is known of it, and nothing stands altered on it.
///
/// # Errors
/// Why not.
pub fn check_in_use(job: &Job, board: Uuid) -> Result<(), Refusal> {
    let (installation, site) = (&job.installation, job.site());
    let (state, since) = site.board(board);
    let altered = site.open().iter().any(|item| item.board == board && item.alteration.touches_conductors());
    let unknown = state == BoardState::NotProved && since.is_none();
    if !installation.includes_origin() && unknown && !altered && !any_earth_off(installation, &site) {
        return Ok(());
    }
    Err(GateReason::NotFoundInUse { board: board_name(installation, board), state }.into())
}

/// Whether something may be altered on a board or one of its circuits: nothing while it is live, no
/// conductor before it is proved dead; an earth, a bond or a tail only while every board on the
/// supply is dead.
///
/// # Errors
/// Why not.
pub fn check_alter(job: &Job, board: Uuid, circuit: Option<Uuid>, alteration: Alteration) -> Result<(), Refusal> {
    let (installation, site) = (&job.installation, job.site());
    let state = circuit.map_or_else(|| site.board(board).0, |circuit| site.circuit(board, circuit).0);
    let name = board_name(installation, board);
    if state == BoardState::Energised {
        return Err(GateReason::AlterLive { board: name }.into());
    }
    if alteration.touches_conductors() && state == BoardState::NotProved {
        return Err(GateReason::AlterNotDead { board: name, state }.into());
    }
    let alone = circuit.and_then(|id| Some((installation.circuit(id)?, site.alone(board, id)?)));
    let because = if alteration.takes_earth_off() {
        earth_wants_dead(installation, &site)
    } else if let Some((circuit, alone)) = alone {
        let inside = alteration.is_in_board().then_some(Inside::Altered(alteration));
        let way = circuit.way.clone();
        inside
            .map(|inside| GateReason::BoardWantsDead { board: name, way, inside })
            .or_else(|| alone_short(installation, circuit, &alone).filter(|_| alteration.touches_conductors()))
    } else {
        proof_short(installation, &site, board).filter(|_| alteration.touches_conductors())
    };
    because.map_or(Ok(()), |because| Err(because.into()))
}

/// Circuits of a board that are to be energised: all but those left dead and locked.
pub fn to_energise(job: &Job, board: Uuid) -> Vec<Uuid> {
    let site = job.site();
    let left = |id: Uuid| site.left_dead().iter().any(|left| left.circuit == id);
    job.installation.circuits_on(board).map(|circuit| circuit.id).filter(|id| !left(*id)).collect()
}
