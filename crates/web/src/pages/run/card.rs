//! What the cards of a run show, worked out from the plan, the readings and the log.

use crate::pages::entry::{EntryContext, trip_window};
use crate::pages::findings::ToDo;
use crate::pages::origin;
use proof_job::installation::{Circuit, Installation, PointId};
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Key, Place, Stage, Step, Subject, Test, Value, highest, is_low_ohm};
use proof_job::site::{Leads, OpenItem, is_same_person};
use proof_judge::expectation::{Unknown, set_band};
use proof_judge::verdict::{CircuitJudge, Judgement, judge_origin, judge_set};
use proof_standard::conductor::Pair;
use proof_standard::limits::insulation::least;
use proof_standard::shape::Shape;
use proof_work::actions::{leads_said, unread_in_walk};
use proof_work::plan::disturbance::Disturbance;
use proof_work::plan::outstanding::step_state;
use proof_work::plan::run::{Planned, Run};
use proof_work::plan::search::{Inside, Next, Search, SearchState, first_looks, inside};
use proof_work::plan::sequence::{board_steps, circuit_steps, origin_steps};
use uuid::Uuid;

/// A question of the run, by its key in forms.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum RunQuestion {
    /// How warm the cables are.
    Ambient,
    /// Whether metal runs beside the CPCs of a board.
    Parallel,
    /// Whether the armour of a circuit's cable is connected to its CPC.
    Armour,
    /// Radials are read by long lead, where one way is isolated alone and the board is live.
    LongLead,
}

impl RunQuestion {
    pub(super) const ALL: [Self; 4] = [Self::Ambient, Self::Parallel, Self::Armour, Self::LongLead];

    pub(super) const fn key(self) -> &'static str {
        match self {
            Self::Ambient => "ambient",
            Self::Parallel => "parallel",
            Self::Armour => "armour",
            Self::LongLead => "long-lead",
        }
    }
}

/// What is asked once.
pub(super) struct Question {
    pub what: RunQuestion,
    pub board: Uuid,
    pub board_name: String,
    pub circuit: Option<Uuid>,
    pub circuit_name: String,
}

/// What must be done before the reading.
pub(super) enum CardShown {
    /// Isolate and prove.
    Prove(Proving),
    /// A board that stood before is in use.
    InUse(Uuid, String),
    /// Ze, on its own page.
    Expose(String),
    /// What stands in the way of power.
    Settle(String, Vec<ToDo>),
    /// Ways that come to power.
    Energise(Powering),
    /// Put back.
    Undo(Vec<(String, String)>, String),
    /// Alter and connect; whether an earth, a bond or a tail comes off for it, and the leads that are nulled
    /// at the same time.
    Make(Vec<(String, String)>, bool, Option<Leads>),
    /// Null, or measure the leads.
    Null(Leads, bool),
}

/// A board to be proved dead.
pub(super) struct Proving {
    pub board: Uuid,
    pub name: String,
    pub why: String,
    /// The way that may be isolated alone instead.
    pub alone: Option<(Uuid, String)>,
    /// R2 by long lead may be read instead: nothing inside the board is touched for it.
    pub long_lead: bool,
}

/// Ways that wait for power.
pub(super) struct Powering {
    pub board: Uuid,
    pub name: String,
    /// Each way by name.
    pub ways: Vec<String>,
    /// Their ids, with commas.
    pub all: String,
    /// The way in hand: its id, its name.
    pub one: Option<(Uuid, String)>,
    /// Who isolated it, when and with which lock.
    pub isolated: Vec<String>,
    /// By name.
    pub isolated_by: Vec<String>,
}

impl Powering {
    /// Whether somebody else than the one who writes isolated it.
    pub(super) fn isolated_by_another(&self, writer: &str) -> bool {
        self.isolated_by.iter().any(|name| !is_same_person(name, writer))
    }
}

/// How the search on a board stands.
pub(super) struct Searching {
    pub pair: String,
    pub standings: Vec<(String, &'static str, &'static str)>,
    pub taken: usize,
    /// Each set read: what was off the bar, and what was shown.
    pub trail: Vec<SearchReading>,
    pub found: Vec<Found>,
    pub together: bool,
}

/// A circuit at fault, and how the search goes on inside it.
pub(super) struct Found {
    pub circuit: Uuid,
    pub name: String,
    pub looks: Vec<String>,
    pub inside: String,
    pub open_at: Option<u32>,
    pub pair: String,
}

/// The last entry, which may be taken back at once.
pub(super) struct LastEntry {
    pub id: Uuid,
    pub label: String,
    pub value: String,
}

pub(super) fn named_circuit(job: &Job, id: Option<Uuid>) -> String {
    id.and_then(|id| job.installation.circuit(id))
        .map_or_else(String::new, |c| format!("Way {} {}", c.way, c.description))
}

/// What a planned reading is of, in words.
pub(super) fn describe_place(job: &Job, planned: &Planned) -> String {
    if planned.circuit.is_some() {
        return named_circuit(job, planned.circuit);
    }
    match planned.step.key.subject {
        Subject::Supply if planned.step.stage == Stage::Origin => "The origin".to_owned(),
        Subject::Board { board } => job.installation.board(board).map_or_else(String::new, |board| board.name.clone()),
        Subject::CircuitSet { .. } => {
            let board = job.installation.board(planned.board).map_or("board", |board| &board.name);
            format!("{board}, whole")
        }
        _ => "Earthing and bonding".to_owned(),
    }
}

/// A reading that is of no one circuit, judged.
fn judge_without_circuit(
    installation: &Installation,
    settled: &CurrentReadings<'_>,
    step: &Step,
    value: &Value,
) -> Judgement {
    match step.key.subject {
        Subject::CircuitSet { .. } => judge_set(installation, settled, step, value),
        _ => judge_origin(installation, settled, step, value),
    }
}

/// Draws entry and verdict of a planned reading by the bench of whatever it is of.
pub(super) fn in_entry_context<T>(
    job: &Job,
    settled: &CurrentReadings<'_>,
    planned: &Planned,
    draw: impl FnOnce(&EntryContext<'_>, &Step) -> T,
) -> T {
    let installation = &job.installation;
    let circuit = planned.circuit.and_then(|id| installation.circuit(id));
    let base = format!("/jobs/{}/run", job.id);
    let scope = planned.scope(installation);
    let judge = circuit.map(|circuit| CircuitJudge::new(installation, circuit, settled));
    let bench = match (&judge, circuit) {
        (Some(judge), Some(circuit)) => EntryContext {
            steps: circuit_steps(installation, circuit),
            settled,
            judge: Box::new(|step, value| judge.judge(step, value)),
            explain: Box::new(|step, value| judge.explain(step, value)),
            band: Box::new(|step| judge.band(&step.key)),
            window: Box::new(|step| trip_window(installation, circuit, step)),
            state: Box::new(|step| step_state(installation, scope, settled, step)),
            leads: Box::new(|step| leads_said(installation, step)),
            proposed: Box::new(|_| None),
            // The run asks for a null of its own.
            nulled: Box::new(|_| false),
            base,
            ring: circuit.shape == Shape::Ring,
            of_what: "this circuit",
        },
        _ => EntryContext {
            steps: match planned.step.key.subject {
                Subject::CircuitSet { .. } => vec![(*planned.step).clone()],
                Subject::Board { board } => {
                    installation.board(board).map(|board| board_steps(installation, board)).unwrap_or_default()
                }
                _ => origin_steps(installation),
            },
            settled,
            judge: Box::new(|step, value| judge_without_circuit(installation, settled, step, value)),
            explain: Box::new(|step, value| judge_without_circuit(installation, settled, step, value)),
            band: Box::new(|step| match step.key.subject {
                Subject::CircuitSet { .. } => set_band(installation, settled, &step.key).ok_or(Unknown::Nothing),
                _ => origin::band(job, step),
            }),
            window: Box::new(|step| origin::main_window(installation, step)),
            state: Box::new(|step| step_state(installation, scope, settled, step)),
            leads: Box::new(|step| leads_said(installation, step)),
            proposed: Box::new(|_| None),
            nulled: Box::new(|_| false),
            base,
            ring: false,
            of_what: "this installation",
        },
    };
    draw(&bench, &planned.step)
}

pub(super) fn named_rows(items: impl IntoIterator<Item = (&'static str, String)>) -> Vec<(String, String)> {
    items.into_iter().map(|(what, note)| (what.to_owned(), note)).collect()
}

pub(super) fn open_item_rows(open: &[OpenItem<'_>]) -> Vec<(String, String)> {
    named_rows(open.iter().map(|item| (item.alteration.label(), item.note.to_owned())))
}

/// Their ids, so that only what was listed is closed.
pub(super) fn open_item_ids(open: &[OpenItem<'_>]) -> String {
    open.iter().map(|item| item.item.to_string()).collect::<Vec<_>>().join(",")
}

pub(super) fn disturbance_rows(made: &[Disturbance]) -> Vec<(String, String)> {
    named_rows(made.iter().map(|one| (one.alteration.label(), one.note.clone())))
}

/// The running highest (or lowest insulation) of what is being walked, and where.
pub(super) fn worst_so_far(job: &Job, settled: &CurrentReadings<'_>, planned: &Planned) -> Option<(String, String)> {
    let circuit = planned.circuit.and_then(|id| job.installation.circuit(id))?;
    let test = match planned.step.key.test {
        Test::RingBoardCheck if planned.step.stage == Stage::R1Rn => Test::R1Rn,
        Test::RingBoardCheck => Test::R1R2,
        test @ (Test::R1Rn | Test::R1R2 | Test::R2) => test,
        _ => return None,
    };
    let reading = highest(circuit, settled, test)?;
    let point = reading.key.subject.place().and_then(Place::point).and_then(|id| circuit.point(id))?;
    Some((format!("{} Ω", reading.value.shown()), point.name.clone()))
}

pub(super) fn question(job: &Job, planned: &Planned) -> Option<Question> {
    let installation = &job.installation;
    let board = installation.board(planned.board)?;
    let circuit = planned.circuit.and_then(|id| installation.circuit(id));
    let own = circuit.and_then(|circuit| circuit.cable_c).is_some();
    let what = if circuit.is_some() && is_low_ohm(&planned.step) && installation.ambient_c.is_none() && !own {
        RunQuestion::Ambient
    } else if matches!(planned.step.stage, Stage::R1R2 | Stage::R2) && board.parallel_earth.is_none() {
        RunQuestion::Parallel
    } else if is_low_ohm(&planned.step) && circuit.is_some_and(|one| armour_unasked(installation, one)) {
        RunQuestion::Armour
    } else {
        return None;
    };
    Some(Question {
        what,
        board: board.id,
        board_name: board.name.clone(),
        circuit: planned.circuit,
        circuit_name: named_circuit(job, planned.circuit),
    })
}

/// Whether a circuit has an armoured cable of which nobody said how its armour stands to the CPC.
fn armour_unasked(installation: &Installation, circuit: &Circuit) -> bool {
    circuit.armour.is_none() && installation.armour(circuit).is_some()
}

pub(super) fn searching(job: &Job, settled: &CurrentReadings<'_>, planned: &Planned) -> Option<Searching> {
    let board = job.installation.board(planned.board)?;
    let whole = matches!(planned.step.key.subject, Subject::CircuitSet { .. });
    let own = planned.step.stage == Stage::Insulation && planned.circuit.is_some();
    if !whole && !own {
        return None;
    }
    let pair = if planned.step.key.test == Test::InsulationJoined { None } else { planned.step.key.pair };
    let search = Search::on_board(&job.installation, board, settled, pair);
    let next = search.next();
    if search.taken() == 0 || next == Next::Sound {
        return None;
    }
    let way = |id: Uuid| job.installation.circuit(id).map_or_else(String::new, |circuit| circuit.way.clone());
    let pair_name = pair.map_or_else(|| "live joined–E".to_owned(), |pair| pair.to_string());
    let found = match &next {
        Next::Found(faulty) => faulty
            .iter()
            .filter_map(|id| job.installation.circuit(*id))
            .map(|circuit| found_in(circuit, settled, pair, &pair_name))
            .collect(),
        _ => Vec::new(),
    };
    Some(Searching {
        pair: pair_name,
        standings: search
            .standings()
            .into_iter()
            .map(|(id, standing)| {
                let (word, look) = match standing {
                    SearchState::Suspect => ("suspect", "unjudged"),
                    SearchState::Clear => ("clear", "within"),
                    SearchState::AtFault => ("at fault", "outside"),
                };
                (way(id), word, look)
            })
            .collect(),
        taken: search.taken(),
        trail: trail(job, settled, board.id, &planned.step.key),
        found,
        together: next == Next::TogetherOnly,
    })
}

/// A set that was read, what it showed, and what that tells.
pub(super) struct SearchReading {
    pub off: String,
    pub shown: String,
    pub tells: String,
}

/// What a reading of a set rules out, and what it cannot.
fn tells(on: &[&str], off: &[&str], value: &Value) -> String {
    let (Value::Number(megohms) | Value::Over(megohms)) = value else { return String::new() };
    let named = |ways: &[&str]| match ways {
        [one] => format!("way {one}"),
        many => format!("ways {}", many.join(", ")),
    };
    if *megohms >= least() {
        let is = if on.len() == 1 { "is" } else { "are" };
        return format!("right: {} {is} clear", named(on));
    }
    match (on, off) {
        ([one], _) => format!("low: way {one} is at fault"),
        (on, []) => format!("low: at least one of {}", named(on)),
        (on, off) => format!("still low: at least one of {}; of {} it tells nothing", named(on), named(off)),
    }
}

/// Every set of the board that was read between the pair, in order.
pub(super) fn trail(job: &Job, settled: &CurrentReadings<'_>, board: Uuid, key: &Key) -> Vec<SearchReading> {
    let ways: Vec<&Circuit> = job.installation.circuits_on(board).collect();
    settled
        .for_sets()
        .filter(|reading| reading.key.test == key.test && reading.key.pair == key.pair)
        .filter_map(|reading| {
            let Subject::CircuitSet { circuits } = &reading.key.subject else { return None };
            let off: Vec<&str> =
                ways.iter().filter(|way| !circuits.contains(&way.id)).map(|way| way.way.as_str()).collect();
            let on: Vec<&str> =
                ways.iter().filter(|way| circuits.contains(&way.id)).map(|way| way.way.as_str()).collect();
            let said = match (off.len(), on.len()) {
                (0, _) => "all on".to_owned(),
                (_, 1) => format!(
                    "way {} alone",
                    ways.iter().find(|way| circuits.contains(&way.id)).map_or("", |way| way.way.as_str())
                ),
                _ => format!("way {} off", off.join(", ")),
            };
            let tells = tells(&on, &off, &reading.value);
            Some(SearchReading { off: said, shown: reading.value.shown(), tells })
        })
        .collect()
}

pub(super) fn found_in(circuit: &Circuit, settled: &CurrentReadings<'_>, pair: Option<Pair>, said: &str) -> Found {
    let name = |id: PointId| circuit.point(id).map_or_else(String::new, |point| point.name.clone());
    let (inside, open_at) = match inside(circuit, settled, pair) {
        Inside::OpenAt(point) => (
            format!(
                "Open the run at {}, so that it and all before it stay on; read {said} from the board.",
                name(point)
            ),
            Some(point.0),
        ),
        Inside::Between(None, last) => (format!("It lies between the board and {}.", name(last)), None),
        Inside::Between(Some(first), last) => (format!("It lies between {} and {}.", name(first), name(last)), None),
        Inside::NoPoints => ("The circuit has no points to open: describe them.".to_owned(), None),
    };
    Found {
        circuit: circuit.id,
        name: format!("Way {} {}", circuit.way, circuit.description),
        looks: first_looks(circuit, None),
        inside,
        open_at,
        pair: pair.map_or_else(|| "joined".to_owned(), Pair::key),
    }
}

/// Points of the walk in hand that have no figure yet.
pub(super) fn unread(job: &Job, settled: &CurrentReadings<'_>, planned: &Planned) -> Vec<(u32, String)> {
    let Some(circuit) = planned.circuit.and_then(|id| job.installation.circuit(id)) else { return Vec::new() };
    if planned.step.key.line.is_some() {
        return Vec::new();
    }
    unread_in_walk(job, circuit, planned.step.stage, settled)
        .into_iter()
        .filter_map(|step| step.key.subject.place().and_then(Place::point))
        .filter_map(|id| circuit.point(id))
        .map(|point| (point.id.0, point.name.clone()))
        .collect()
}

pub(super) fn last_entry(job: &Job, settled: &CurrentReadings<'_>) -> Option<LastEntry> {
    let last = job.readings.last().filter(|reading| reading.context.origin.is_on_site())?;
    let stands = settled.get(&last.key).is_some_and(|reading| reading.id == last.id);
    let circuit = named_circuit(job, last.key.subject.circuit());
    let place = last
        .key
        .subject
        .circuit()
        .and_then(|id| job.installation.circuit(id))
        .and_then(|circuit| circuit.point(last.key.subject.place()?.point()?))
        .map_or_else(String::new, |point| format!(", {}", point.name));
    let pair = last.key.pair.map_or_else(String::new, |pair| format!(" {pair}"));
    let whole = if matches!(last.key.subject, Subject::CircuitSet { .. }) { "board" } else { "" };
    let label = format!("{whole}{circuit}{place}{pair}");
    stands.then(|| LastEntry { id: last.id, label, value: last.value.shown() })
}

/// Pairs of the same circuit or board that are left, the one in hand marked.
pub(super) fn pairs_left(run: &Run<'_>, planned: &Planned) -> Vec<(String, bool)> {
    if planned.step.key.test != Test::Insulation {
        return Vec::new();
    }
    let beside = |other: &&Planned| {
        other.circuit_or_board() == planned.circuit_or_board()
            && other.step.key.test == Test::Insulation
            && other.step.key.subject == planned.step.key.subject
            && (other.step.key == planned.step.key || !run.done(other))
    };
    run.planned
        .iter()
        .filter(beside)
        .filter_map(|other| Some((other.step.key.pair?.key(), other.step.key == planned.step.key)))
        .collect()
}
