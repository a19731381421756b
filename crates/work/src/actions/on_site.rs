//! What is done on site: isolating, energising, altering, putting back, what is outstanding.

use super::refusal::Wanting;
use super::{Actor, Recorded, Refusal};
use crate::gate::{check_alter, check_energise, check_in_use, check_isolate, sources_behind};
use crate::review::Reviewed;
use proof_job::installation::OtherSource;
use proof_job::installation::validity::LONGEST_LINE;
use proof_job::job::Job;
use proof_job::site::isolation::{Isolation, PairShown, circuit_pairs, field_of, meaning, pairs};
use proof_job::site::spoken_to::{IsolatedBy, before_power, not_spoken_to};
use proof_job::site::{Alteration, BoardState, EventKind, OpenItem};
use proof_standard::conductor::Pair;
use proof_standard::text;
use uuid::Uuid;

/// The day begun, as the form says it.
#[derive(Debug, Clone, Default)]
pub struct Beginning {
    /// With which instrument.
    pub instrument: Option<Uuid>,
    /// Who reads, where another person writes.
    pub read_by: String,
    /// Something was not right.
    pub not_right: bool,
    /// What.
    pub wrong: String,
}

pub(super) fn begin(job: &Job, given: &Beginning, hand: &Actor) -> Result<Recorded, Refusal> {
    if hand.by.trim().is_empty() {
        return Err(Refusal::Nobody);
    }
    let instrument = given.instrument;
    if instrument.is_some_and(|id| job.instruments.iter().all(|one| one.id != id)) {
        return Err(Refusal::NoSuchInstrument);
    }
    let read_by = text::line("read by", &given.read_by, LONGEST_LINE)?;
    let wrong = text::line("what is not right", &given.wrong, LONGEST_LINE)?;
    if given.not_right && wrong.is_empty() {
        return Err(Refusal::Wanting(Wanting::NotRight));
    }
    let kind = EventKind::BeforeUse { instrument, read_by, wrong };
    Ok(Recorded { events: vec![hand.event(kind)], ..Recorded::default() })
}

/// A board isolated, as the form says it.
#[derive(Debug, Clone, Default)]
pub struct Isolating {
    /// Which board.
    pub board: Uuid,
    /// The lock, and who keeps its key.
    pub lock: String,
    /// Risk assessment, permit.
    pub paperwork: String,
    /// The indicator.
    pub indicator: String,
    /// Loads came off by the ways first.
    pub loads_off: bool,
    /// Main switch off and locked.
    pub locked: bool,
    /// Indicator proved before.
    pub before: bool,
    /// And after.
    pub after: bool,
    /// What it showed on each pair.
    pub shown: Vec<PairShown>,
    /// Other sources that were isolated and proved too.
    pub sources: Vec<Uuid>,
    /// One circuit alone, by its own device; the rest of the board is live.
    pub circuit: Option<Uuid>,
    /// That device breaks the neutral too.
    pub neutral: bool,
    /// The point of work where it is proved.
    pub place: String,
}

/// What shows voltage is said and kept, whatever else is left out: the events then hold that the
/// board, or the circuit, is not isolated.
pub(super) fn isolate(job: &Job, given: &Isolating, hand: &Actor) -> Result<Recorded, Refusal> {
    let installation = &job.installation;
    let board = installation.board(given.board).ok_or(Refusal::NoSuchBoard)?;
    let for_board = |id: Uuid| installation.circuit(id).filter(|circuit| circuit.board == board.id);
    let circuit = given.circuit.map(|id| for_board(id).ok_or(Refusal::NoSuchBoard)).transpose()?;
    let wanted = circuit.map_or_else(|| pairs(board.lines), circuit_pairs);
    let circuits: Vec<Uuid> = circuit.map(|circuit| circuit.id).into_iter().collect();
    if let (Isolation::NotIsolated(because), false) = (meaning(&wanted, &given.shown), hand.by.trim().is_empty()) {
        let (board, shown) = (board.id, given.shown.clone());
        let kind = EventKind::NotIsolated { board, circuits, shown, because: because.to_owned() };
        return Ok(Recorded { events: vec![hand.event(kind)], ..Recorded::default() });
    }
    check_isolate(job).map_err(Refusal::Gate)?;
    let sources = match circuit {
        Some(circuit) => sources_behind(installation, circuit.id),
        None => installation.sources.iter().collect(),
    };
    let wrong = wanting(given, &wanted, &sources, hand);
    if !wrong.is_empty() {
        return Err(Refusal::Fields(wrong));
    }
    let line = |name, typed: &str| text::line(name, typed, LONGEST_LINE);
    let (lock, paperwork) = (line("lock", &given.lock)?, line("paperwork", &given.paperwork)?);
    let (indicator, place) = (line("indicator", &given.indicator)?, line("point of work", &given.place)?);
    let count = u8::try_from(given.shown.len()).unwrap_or(u8::MAX);
    let (board, shown) = (board.id, given.shown.clone());
    // The rest of a board that stood before is in use, and said to be.
    let in_use = circuit.is_some() && check_in_use(job, board).is_ok();
    let mut kinds: Vec<EventKind> = in_use.then_some(EventKind::InUse { board }).into_iter().collect();
    let neutral = circuit.is_some() && given.neutral;
    kinds.push(EventKind::Isolated { board, circuits: circuits.clone(), lock, paperwork, neutral });
    kinds.push(EventKind::ProvedDead {
        board,
        circuits,
        pairs: count,
        shown,
        indicator,
        before: Some(given.before),
        after: Some(given.after),
        sources: given.sources.clone(),
        place,
    });
    Ok(Recorded { events: kinds.into_iter().map(|kind| hand.event(kind)).collect(), ..Recorded::default() })
}

/// What is left out of an isolation, field by field.
fn wanting(given: &Isolating, wanted: &[Pair], sources: &[&OtherSource], hand: &Actor) -> Vec<(String, Refusal)> {
    let mut wrong: Vec<(String, Refusal)> = Vec::new();
    let mut want = |there: bool, field: &str, what: Wanting| {
        if !there {
            wrong.push((field.to_owned(), Refusal::Wanting(what)));
        }
    };
    for source in sources {
        want(given.sources.contains(&source.id), &format!("source-{}", source.id), Wanting::Source);
    }
    want(!given.lock.trim().is_empty(), "lock", Wanting::Lock);
    if given.circuit.is_some() {
        want(given.locked, "locked", Wanting::DeviceLocked);
        want(!given.place.trim().is_empty(), "place", Wanting::PointOfWork);
    } else {
        want(given.loads_off, "loads", Wanting::Loads);
        want(given.locked, "locked", Wanting::Locked);
    }
    want(given.before, "before", Wanting::Before);
    want(given.after, "after", Wanting::After);
    for pair in wanted {
        want(given.shown.iter().any(|shown| shown.pair == *pair), &field_of(*pair), Wanting::Pair);
    }
    if hand.by.trim().is_empty() {
        wrong.push(("by".to_owned(), Refusal::Nobody));
    }
    wrong
}

/// A board that stood before, found energised and in use.
pub(super) fn in_use(job: &Job, board: Uuid, hand: &Actor) -> Result<Recorded, Refusal> {
    if hand.by.trim().is_empty() {
        return Err(Refusal::Nobody);
    }
    job.installation.board(board).ok_or(Refusal::NoSuchBoard)?;
    check_in_use(job, board).map_err(Refusal::Gate)?;
    Ok(Recorded { events: vec![hand.event(EventKind::InUse { board })], ..Recorded::default() })
}

/// Ways left dead for the next trade, as the form says it.
#[derive(Debug, Clone, Default)]
pub struct Leaving {
    /// Of which board.
    pub board: Uuid,
    /// Which circuits.
    pub circuits: Vec<Uuid>,
    /// All of them: the whole board stays dead.
    pub whole: bool,
    /// The lock, and who keeps the key.
    pub lock: String,
    /// What they wait for.
    pub reason: String,
}

/// What is live is not left dead: it is isolated first.
pub(super) fn leave_dead(job: &Job, given: &Leaving, hand: &Actor) -> Result<Recorded, Refusal> {
    let (installation, site) = (&job.installation, job.site());
    let board = installation.board(given.board).ok_or(Refusal::NoSuchBoard)?;
    let circuits: Vec<Uuid> = installation
        .circuits_on(board.id)
        .map(|circuit| circuit.id)
        .filter(|id| given.whole || given.circuits.contains(id))
        .collect();
    let mut wrong = Vec::new();
    for (empty, field, what) in [
        (circuits.is_empty(), "ways", Wanting::Ways),
        (given.lock.trim().is_empty(), "lock", Wanting::LockOfRest),
        (given.reason.trim().is_empty(), "reason", Wanting::ReasonOfRest),
    ] {
        if empty {
            wrong.push((field.to_owned(), Refusal::Wanting(what)));
        }
    }
    if hand.by.trim().is_empty() {
        wrong.push(("by".to_owned(), Refusal::Nobody));
    }
    if !wrong.is_empty() {
        return Err(Refusal::Fields(wrong));
    }
    for circuit in circuits.iter().filter_map(|id| installation.circuit(*id)) {
        let dead = site.circuit(board.id, circuit.id).0 == BoardState::ProvedDead;
        if !dead && !site.waits_off(board.id, circuit.id) {
            return Err(Refusal::NotDead(circuit.way.clone()));
        }
    }
    let lock = text::line("lock", &given.lock, LONGEST_LINE)?;
    let reason = text::line("reason", &given.reason, LONGEST_LINE)?;
    let kind = EventKind::LockedOff { board: board.id, circuits, lock, reason };
    Ok(Recorded { events: vec![hand.event(kind)], ..Recorded::default() })
}

/// Ways energised, as the form says it.
#[derive(Debug, Clone, Default)]
pub struct Energising {
    /// Of which board.
    pub board: Uuid,
    /// Which circuits.
    pub circuits: Vec<Uuid>,
    /// The covers are on.
    pub covers_on: bool,
    /// The lock of those that stay dead, and who keeps its key.
    pub lock: String,
    /// What they wait for.
    pub reason: String,
    /// Whom one spoke to, by name, of those who isolated it.
    pub spoke_to: String,
}

/// Ways that are on, as the card of the run lists them: the others are off and come to power in their turn.
#[derive(Debug, Clone, Default)]
pub struct Powering {
    /// Of which board.
    pub board: Uuid,
    /// The ways that were listed.
    pub ways: Vec<Uuid>,
    /// The covers are on.
    pub covers_on: bool,
    /// Whom one spoke to, by name, of those who isolated it.
    pub spoke_to: String,
}

/// Everybody who is asked first is named as spoken to.
pub(super) fn spoken_to(people: &[IsolatedBy], word: &str) -> Result<(), Refusal> {
    let people: Vec<IsolatedBy> = not_spoken_to(people, word).into_iter().cloned().collect();
    if people.is_empty() {
        return Ok(());
    }
    Err(Refusal::NotSpokenTo { people, fields: vec![("word".to_owned(), Refusal::Wanting(Wanting::Word))] })
}

/// Of what was listed, what still waits for power: somebody may have locked one off meanwhile, or brought
/// it to power.
pub(super) fn power(job: &Job, given: &Powering, hand: &Actor) -> Result<Recorded, Refusal> {
    if hand.by.trim().is_empty() {
        return Err(Refusal::Nobody);
    }
    let (board, site) = (given.board, job.site());
    let off = |id: &Uuid| site.circuit(board, *id).0 != BoardState::Energised;
    let left = |id: &Uuid| site.left_dead().iter().any(|left| left.circuit == *id);
    let all: Vec<Uuid> = job.installation.circuits_on(board).map(|circuit| circuit.id).collect();
    let ways: Vec<Uuid> = all.iter().copied().filter(|id| given.ways.contains(id) && off(id) && !left(id)).collect();
    if ways.is_empty() {
        return Err(Refusal::NoWays);
    }
    check_energise(Reviewed::from(job), board, &ways, given.covers_on).map_err(Refusal::Gate)?;
    spoken_to(&before_power(&job.installation, &site, (board, &ways), &hand.by), &given.spoke_to)?;
    let whole = all.iter().all(|id| ways.contains(id));
    let circuits = if whole { Vec::new() } else { ways };
    Ok(Recorded { events: vec![hand.event(EventKind::Energised { board, circuits })], ..Recorded::default() })
}

pub(super) fn energise(job: &Job, given: &Energising, hand: &Actor) -> Result<Recorded, Refusal> {
    let board = given.board;
    let site = job.site();
    let all: Vec<Uuid> = job.installation.circuits_on(board).map(|circuit| circuit.id).collect();
    let wanted: Vec<Uuid> = all.iter().copied().filter(|id| given.circuits.contains(id)).collect();
    let stays = |id: &Uuid| !wanted.contains(id) && site.circuit(board, *id).0 != BoardState::Energised;
    let left: Vec<Uuid> = all.into_iter().filter(stays).collect();
    if wanted.is_empty() {
        return Err(Refusal::NoWays);
    }
    check_energise(Reviewed::from(job), board, &wanted, given.covers_on).map_err(Refusal::Gate)?;
    spoken_to(&before_power(&job.installation, &site, (board, &wanted), &hand.by), &given.spoke_to)?;
    let lock = text::line("lock", &given.lock, LONGEST_LINE)?;
    let reason = text::line("reason", &given.reason, LONGEST_LINE)?;
    // What was left dead before has its lock and its reason in the log.
    let said = |id: &Uuid| site.left_dead().iter().any(|before| before.circuit == *id);
    let unsaid: Vec<Uuid> = left.iter().copied().filter(|id| !said(id)).collect();
    if !unsaid.is_empty() && (lock.is_empty() || reason.is_empty()) {
        let wanting =
            [(lock.is_empty(), "lock", Wanting::LockOfRest), (reason.is_empty(), "reason", Wanting::ReasonOfRest)];
        let fields = wanting.into_iter().filter(|(empty, ..)| *empty);
        return Err(Refusal::LeftUnsaid(
            fields.map(|(_, field, what)| (field.to_owned(), Refusal::Wanting(what))).collect(),
        ));
    }
    let circuits = if left.is_empty() { Vec::new() } else { wanted };
    let mut events = vec![hand.event(EventKind::Energised { board, circuits })];
    if !unsaid.is_empty() {
        events.push(hand.event(EventKind::LockedOff { board, circuits: unsaid, lock, reason }));
    }
    Ok(Recorded { events, ..Recorded::default() })
}

pub(super) fn owe(
    job: &Job,
    circuit: Uuid,
    [thing, made_safe]: [&String; 2],
    hand: &Actor,
) -> Result<Recorded, Refusal> {
    let thing = text::line("thing", thing, LONGEST_LINE)?;
    let made_safe = text::line("made safe", made_safe, LONGEST_LINE)?;
    let mut wrong = Vec::new();
    for (empty, field, what) in
        [(thing.is_empty(), "thing", Wanting::Thing), (made_safe.is_empty(), "made_safe", Wanting::MadeSafe)]
    {
        if empty {
            wrong.push((field.to_owned(), Refusal::Wanting(what)));
        }
    }
    if !wrong.is_empty() || job.installation.circuit(circuit).is_none() {
        return Err(Refusal::PointsUnsaid(wrong));
    }
    let item = hand.next_id();
    Ok(Recorded {
        events: vec![hand.event(EventKind::PointOutstanding { item, circuit, thing, made_safe })],
        ..Recorded::default()
    })
}

pub(super) fn point_done(job: &Job, item: Uuid, hand: &Actor) -> Result<Recorded, Refusal> {
    if !job.site().outstanding_points().iter().any(|owed| owed.item == item) {
        return Err(Refusal::NotOutstanding);
    }
    Ok(Recorded { events: vec![hand.event(EventKind::PointDone { item })], ..Recorded::default() })
}

pub(super) fn alter(
    job: &Job,
    (board, circuit): (Uuid, Option<Uuid>),
    (alteration, note): (Alteration, &str),
    hand: &Actor,
) -> Result<Recorded, Refusal> {
    let known = circuit.is_none_or(|id| job.installation.circuit(id).is_some_and(|one| one.board == board));
    if job.installation.board(board).is_none() || !known {
        return Err(Refusal::NoSuchBoard);
    }
    check_alter(job, board, circuit, alteration).map_err(Refusal::Gate)?;
    let note = text::line("where exactly", note, LONGEST_LINE)?;
    let item = hand.next_id();
    let kind = EventKind::Altered { item, board, circuit, alteration, note };
    Ok(Recorded { events: vec![hand.event(kind)], ..Recorded::default() })
}

pub(super) fn put_back(job: &Job, item: Uuid, hand: &Actor) -> Result<Recorded, Refusal> {
    if !job.site().open().iter().any(|open| open.item == item) {
        return Err(Refusal::ClosedAlready);
    }
    Ok(Recorded { events: vec![hand.event(EventKind::PutBack { item })], ..Recorded::default() })
}

/// Only what was listed is closed, and of it what is still open: somebody may have altered more
/// meanwhile, or closed some.
pub(super) fn put_back_all(job: &Job, items: &[Uuid], hand: &Actor) -> Recorded {
    let site = job.site();
    let listed = |open: &&OpenItem<'_>| items.contains(&open.item);
    let back = |open: &OpenItem<'_>| hand.event(EventKind::PutBack { item: open.item });
    Recorded { events: site.open().iter().filter(listed).map(back).collect(), ..Recorded::default() }
}
