//! The run: the order in which a job's dead tests are walked, and what is to be done now.
//!
//! Nothing of it is stored. What is to be read next follows from the readings and the log, so that
//! a run that is opened again stands where it was, and a step taken out of turn is planned around.

use crate::plan::disturbance::{Disturbance, changes, goes_back_at_once, step_disturbances, undo_first};
use crate::plan::outstanding::{OutstandingQuery, is_wanted, outstanding, step_state};
use crate::plan::reach::{Inside, inside_board, possible_alone};
use crate::plan::search::{Next, Search};
use crate::plan::sequence::{circuit_steps, origin_steps, steps_kept};
use crate::plan::sets::{board_pairs, set_circuits as whole_of, set_step, withstands_between_live};
use crate::plan::substitute::{Scope, is_turned_over};
use proof_job::installation::{Board, Circuit, Feed, Installation};
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Key, Place, Stage, Step, Test, Value, WorkedOut, is_low_ohm};
use proof_job::site::{BoardState, LeadState, Leads, OpenItem, Site, Wanted, leads};
use proof_judge::expectation::Known;
use proof_standard::house_rules::InsulationBy;
use std::sync::Arc;
use uuid::Uuid;

mod counts;
mod planned;

pub use counts::Counts;
pub use planned::Planned;
pub(crate) use planned::{add_planned, add_struck_out, after_in, find_in};

/// In which order a board is walked.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default)]
pub enum Order {
    /// Every test of a circuit, then the next circuit.
    #[default]
    CircuitByCircuit,
    /// Every circuit of a test, then the next test.
    TestByTest,
}

impl Order {
    /// Both.
    pub const ALL: [Self; 2] = [Self::CircuitByCircuit, Self::TestByTest];

    /// Key in forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::CircuitByCircuit => "circuit",
            Self::TestByTest => "test",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::CircuitByCircuit => "circuit by circuit",
            Self::TestByTest => "test by test",
        }
    }
}

/// What must be done before the reading in hand, in this order.
#[derive(Debug, Clone, PartialEq)]
pub enum Need<'a> {
    /// The board is not proved dead.
    Prove {
        /// Which.
        board: Uuid,
        /// The circuit that may be isolated alone instead, the rest of the board staying in use.
        alone: Option<Uuid>,
        /// One circuit is isolated alone, and this is touched inside the board.
        inside: Option<Inside>,
    },
    /// Open items go back first.
    Undo(Vec<OpenItem<'a>>),
    /// To be altered or connected; the open items named give way.
    Make(Vec<Disturbance>, Vec<Uuid>),
    /// The leads are nulled, or measured where they are subtracted.
    Null(Leads),
}

/// What is planned of a circuit, kept until a reading touches it.
struct OfCircuit(Vec<Planned>);

impl WorkedOut for OfCircuit {
    const DESCRIBED: bool = false;
}

/// A job's run.
pub struct Run<'a> {
    job: &'a Job,
    settled: &'a CurrentReadings<'a>,
    site: Site<'a>,
    order: Order,
    /// Every dead reading that the job wants, in order, done or not.
    pub planned: Vec<Planned>,
}

impl<'a> Run<'a> {
    /// Plans a job in an order.
    pub fn new(job: &'a Job, settled: &'a CurrentReadings<'a>, order: Order) -> Self {
        Self::planned(job, settled, order, None)
    }

    /// Plans what is of one circuit or one board.
    pub fn for_place(job: &'a Job, settled: &'a CurrentReadings<'a>, order: Order, of: Uuid) -> Self {
        Self::planned(job, settled, order, Some(of))
    }

    fn planned(job: &'a Job, settled: &'a CurrentReadings<'a>, order: Order, only: Option<Uuid>) -> Self {
        let mut run = Self { job, settled, site: job.site(), order, planned: Vec::new() };
        run.planned = run.plan(only);
        run
    }

    const fn installation(&self) -> &'a Installation {
        &self.job.installation
    }

    fn plan(&self, only: Option<Uuid>) -> Vec<Planned> {
        let installation = self.installation();
        let wanted = |of: Uuid| only.is_none_or(|only| only == of);
        let mut all = Vec::new();
        let origin = installation.boards.iter().find(|board| board.fed_by == Feed::Supply);
        if let Some(board) = origin.filter(|board| wanted(board.id)) {
            let bonding = origin_steps(installation).into_iter().filter(|step| step.stage == Stage::Bonding);
            all.extend(bonding.map(|step| self.stood_at(Planned::new(Arc::new(step), None, board.id))));
            if self.settled.has_strike_outs() {
                let needed = outstanding(installation, Scope::Origin, self.settled);
                add_struck_out(&mut all, &needed, true, (None, board.id));
            }
        }
        let asked = OutstandingQuery::new(installation, self.settled, &self.site, &|_| false);
        for board in &installation.boards {
            let by_board = installation.house_rules.insulation == InsulationBy::Board;
            let mut circuits: Vec<Planned> = Vec::new();
            // What stays dead is planned where it is asked for by itself.
            let here = |circuit: &&Circuit| wanted(circuit.id) && (only.is_some() || asked.circuit(circuit));
            for circuit in installation.circuits_on(board.id).filter(here) {
                // What is isolated alone is walked in another order: it is planned each time.
                if self.site.alone(board.id, circuit.id).is_some() {
                    circuits.extend(self.for_circuit(circuit, by_board));
                } else {
                    let work = || OfCircuit(self.for_circuit(circuit, by_board));
                    circuits.extend(self.settled.cached(installation, circuit, work).0.iter().cloned());
                }
            }
            if self.order == Order::TestByTest {
                // The links of a test are made in one visit, then all its points are walked.
                let rank = |planned: &Planned| {
                    let place = usize::from(!planned.at_board());
                    (stage_rank(installation, planned.step.stage), place)
                };
                circuits.sort_by_key(rank);
                circuits.sort_by_key(|planned| self.waits_for_board(planned));
            }
            all.extend(circuits);
            // What the search of a board found at fault is of its circuits.
            let of_this = |only: Uuid| only == board.id || installation.circuits_on(board.id).any(|one| one.id == only);
            if by_board && only.is_none_or(of_this) {
                let for_board = self.for_board(board).into_iter().filter(|planned| wanted(planned.circuit_or_board()));
                all.extend(for_board.map(|planned| self.stood_at(planned)));
            }
        }
        all
    }

    fn for_circuit(&self, circuit: &Circuit, by_board: bool) -> Vec<Planned> {
        let installation = self.installation();
        if installation.out_of_scope(circuit) {
            return Vec::new();
        }
        let steps = steps_kept(installation, circuit, self.settled);
        let mut planned: Vec<Planned> = self.plan_steps(circuit, &steps, by_board);
        let needed = outstanding(installation, Scope::Circuit(circuit), self.settled);
        add_struck_out(&mut planned, &needed, true, (Some(circuit.id), circuit.board));
        // Isolated alone, what is possible so comes first.
        planned.sort_by_key(|planned| self.waits_for_board(planned));
        let mut planned: Vec<Planned> = planned.into_iter().map(|planned| self.stood_at(planned)).collect();
        // Polarity that would follow from a walk, where the walk has nothing more to give: it is looked at.
        let gives = |one: &Planned| matches!(one.step.stage, Stage::R1Rn | Stage::R1R2) && !one.done;
        let looked_at = needed.needs.iter().find(|need| need.step.stage == Stage::Polarity);
        if let Some(need) = looked_at.filter(|_| !planned.iter().any(gives)) {
            add_planned(&mut planned, Planned::new(need.step.clone(), Some(circuit.id), circuit.board));
        }
        planned
    }

    /// A planned reading with whether it wants nothing more.
    fn stood_at(&self, planned: Planned) -> Planned {
        Planned { done: self.is_done(&planned), ..planned }
    }

    /// Whether a circuit is isolated alone and a reading touches something inside its board.
    fn waits_for_board(&self, planned: &Planned) -> bool {
        let alone = planned.circuit.and_then(|circuit| self.site.alone(planned.board, circuit));
        alone.is_some_and(|alone| inside_board(self.installation(), &planned.step, alone.neutral).is_some())
    }

    fn plan_steps(&self, circuit: &Circuit, steps: &[Arc<Step>], by_board: bool) -> Vec<Planned> {
        let walked = |stage: Stage| {
            steps.iter().any(|step| {
                step.stage == stage && step.key.test != Test::RingBoardCheck && self.settled.get(&step.key).is_some()
            })
        };
        steps
            .iter()
            .filter(|step| step.stage < Stage::Zs)
            .filter(|step| match step.key.test {
                // The board check comes before the walk or not at all.
                Test::RingBoardCheck => self.settled.get(&step.key).is_some() || !walked(step.stage),
                Test::Insulation | Test::InsulationJoined => self.own_insulation(circuit, step, by_board),
                // A point that stood before is read only by who wants to.
                _ if self.stood(circuit, step) => self.settled.get(&step.key).is_some(),
                Test::Polarity => is_wanted(step) && (step.required || self.settled.get(&step.key).is_some()),
                _ => true,
            })
            .map(|step| Planned {
                done: false,
                step: step.clone(),
                circuit: Some(circuit.id),
                board: circuit.board,
                again: step.key.test == Test::RingBoardCheck
                    && !walked(step.stage)
                    && self.leg_with_itself(circuit, &step.key),
            })
            .collect()
    }

    /// Whether a step is of a point that the work leaves as it was.
    fn stood(&self, circuit: &Circuit, step: &Step) -> bool {
        let point = step.key.subject.place().and_then(Place::point).and_then(|id| circuit.point(id));
        point.is_some_and(|point| self.installation().point_out_of_scope(circuit, point))
    }

    /// Whether an insulation step of a circuit is planned. By the whole board: a circuit's own only once
    /// somebody began it, or where it is not read with the others. Apart only where joined read low.
    fn own_insulation(&self, circuit: &Circuit, step: &Step, by_board: bool) -> bool {
        if self.settled.get(&step.key).is_some() {
            return true;
        }
        if !step.required {
            let joined = Key::on_circuit(circuit.id, Place::Board, Test::InsulationJoined);
            return self.settled.value(&joined).is_some() && !self.reads_right(&joined);
        }
        let apart = step.key.pair.is_some_and(|pair| !pair.is_to_earth())
            && !withstands_between_live(self.installation(), circuit);
        !by_board || circuit.band.is_extra_low() || is_turned_over(step) || apart
    }

    /// Whether the board check says that a leg is linked to itself: it is read again before walking.
    fn leg_with_itself(&self, circuit: &Circuit, key: &Key) -> bool {
        let Some(ohm) = self.settled.float(key) else { return false };
        let known = Known::new(self.installation(), circuit, self.settled);
        known.band(key).is_ok_and(|band| band.is_below(ohm))
    }

    /// The whole board, pair by pair, and what its search asks for.
    fn for_board(&self, board: &Board) -> Vec<Planned> {
        let installation = self.installation();
        if installation.circuits_on(board.id).next().is_none() {
            return Vec::new();
        }
        let planned = |step| Planned::new(Arc::new(step), None, board.id);
        let mut all = Vec::new();
        for pair in board_pairs(installation, board) {
            let mut whole = planned(set_step(whole_of(installation, board.id, pair), pair));
            let search = Search::on_board(installation, board, self.settled, pair);
            match search.next() {
                Next::Read(set) => {
                    let mut next = set_step(set, pair);
                    next.slug = format!("{}-{}", next.slug, search.taken());
                    let more = (next.key != whole.step.key).then(|| planned(next));
                    all.push(whole);
                    all.extend(more);
                }
                // Mended, each of those at fault is read on its own; then the whole once more.
                Next::Found(faulty) => {
                    let own = self.own_readings(&faulty, &whole.step);
                    whole.again = own.is_empty() && faulty.iter().all(|id| self.is_mended(*id, &whole.step));
                    all.extend(own);
                    all.push(whole);
                }
                Next::Sound | Next::TogetherOnly => all.push(whole),
            }
        }
        all
    }

    /// Whether a circuit that the search found reads right on its own.
    fn is_mended(&self, circuit: Uuid, whole: &Step) -> bool {
        let mut own = Key::on_circuit(circuit, Place::Board, whole.key.test);
        own.pair = whole.key.pair;
        self.reads_right(&own) || self.reads_right(&Key::on_circuit(circuit, Place::Board, Test::InsulationJoined))
    }

    /// Whether an insulation reading stands and is not under the minimum.
    fn reads_right(&self, key: &Key) -> bool {
        match self.settled.value(key) {
            Some(Value::Number(megohms) | Value::Over(megohms)) => {
                *megohms >= proof_standard::limits::insulation::least()
            }
            Some(Value::Limitation(_) | Value::NotApplicable(_)) => true,
            _ => false,
        }
    }

    fn own_readings(&self, faulty: &[Uuid], whole: &Step) -> Vec<Planned> {
        let installation = self.installation();
        let bears = |step: &Step| {
            step.key.test == whole.key.test && (step.key.pair == whole.key.pair || step.key.pair.is_none())
        };
        faulty
            .iter()
            .filter_map(|id| installation.circuit(*id))
            .flat_map(|circuit| {
                let mut steps = circuit_steps(installation, circuit);
                steps.retain(|step| step.stage == Stage::Insulation && bears(step) && !self.reads_right(&step.key));
                steps.into_iter().map(|step| Planned {
                    done: false,
                    again: self.settled.get(&step.key).is_some(),
                    step: Arc::new(step),
                    circuit: Some(circuit.id),
                    board: circuit.board,
                })
            })
            .collect()
    }

    /// Whether a planned reading wants nothing more.
    pub const fn done(&self, planned: &Planned) -> bool {
        planned.done
    }

    fn is_done(&self, planned: &Planned) -> bool {
        !planned.again
            && step_state(self.installation(), planned.scope(self.installation()), self.settled, &planned.step)
                .is_done()
    }

    /// Planned readings not taken yet, in order.
    pub fn left(&self) -> impl Iterator<Item = &Planned> {
        self.planned.iter().filter(|planned| !self.done(planned))
    }

    /// The reading in hand: the one asked for, else the first that is left.
    pub fn current_card(&self, asked: Option<(Uuid, &str)>) -> Option<&Planned> {
        asked.and_then(|(of, slug)| self.find(of, slug)).or_else(|| self.left().next())
    }

    /// The planned reading of this circuit or board with this slug.
    pub fn find(&self, of: Uuid, slug: &str) -> Option<&Planned> {
        find_in(&self.planned, of, slug)
    }

    /// The same insulation reading between another pair, named by its key.
    pub fn on_pair(&self, planned: &Planned, pair: &str) -> Option<&Planned> {
        self.planned.iter().find(|other| {
            other.circuit_or_board() == planned.circuit_or_board()
                && other.step.key.test == planned.step.key.test
                && other.step.key.subject == planned.step.key.subject
                && other.step.key.pair.is_some_and(|other| other.key() == pair)
        })
    }

    /// The reading after one, that is left; then the first of all.
    pub fn after(&self, planned: &Planned) -> Option<&Planned> {
        after_in(&self.planned, planned, |other| self.done(other))
    }

    /// Circuits whose setting-up goes with one: in test order, all of the same stage on the board.
    fn together<'b>(&'b self, planned: &'b Planned) -> Vec<&'b Planned> {
        if self.order == Order::CircuitByCircuit || planned.circuit.is_none() {
            return vec![planned];
        }
        let mut all: Vec<&Planned> = vec![planned];
        for other in self.left() {
            let same = other.board == planned.board && other.step.stage == planned.step.stage;
            if same && !all.iter().any(|one| one.circuit == other.circuit) {
                all.push(other);
            }
        }
        all
    }

    /// What must be done before a reading, the first thing first.
    pub fn needs(&self, planned: &Planned) -> Vec<Need<'a>> {
        let installation = self.installation();
        let mut needs = Vec::new();
        needs.extend(self.to_prove(planned));
        let undo = self.undo(planned);
        if !undo.is_empty() {
            needs.push(Need::Undo(undo));
        }
        let (mut make, mut replaced) = (Vec::new(), Vec::new());
        for one in self.together(planned) {
            let alone = one.circuit.is_some_and(|circuit| self.site.alone(one.board, circuit).is_some());
            let (more, gone) = changes(installation, &one.step, self.site.open(), alone);
            make.extend(more);
            replaced.extend(gone);
        }
        if !make.is_empty() {
            needs.push(Need::Make(make, replaced));
        }
        if let Some(leads) = self.null_wanted(planned) {
            needs.push(Need::Null(leads));
        }
        needs
    }

    /// What is to be proved dead before a reading: the board; or one circuit alone, where the rest of a
    /// board that stood before may stay in use and nothing is touched inside it.
    fn to_prove(&self, planned: &Planned) -> Option<Need<'a>> {
        let by_eye = Wanted::for_key(&planned.step.key) == Wanted::Nothing;
        if by_eye || self.site.board(planned.board).0 == BoardState::ProvedDead {
            return None;
        }
        let (installation, board) = (self.installation(), planned.board);
        let Some(circuit) = planned.circuit else { return Some(Need::Prove { board, alone: None, inside: None }) };
        let alone = self.site.alone(board, circuit);
        let inside = inside_board(installation, &planned.step, alone.is_none_or(|alone| alone.neutral));
        match (alone, inside) {
            (Some(_), None) => None,
            (Some(_), Some(_)) => Some(Need::Prove { board, alone: None, inside }),
            (None, _) => {
                // Alone makes sense where others stay in use, and something can be read so.
                let stays = !installation.includes_origin();
                let possible = |id: &Uuid| {
                    let circuit = installation.circuit(*id);
                    circuit.is_some_and(|circuit| possible_alone(installation, circuit, true).0 > 0)
                };
                let alone = Some(circuit).filter(|_| stays).filter(possible);
                Some(Need::Prove { board, alone, inside: None })
            }
        }
    }

    /// Open items that would falsify the reading, or that nothing left wants.
    fn undo(&self, planned: &Planned) -> Vec<OpenItem<'a>> {
        let installation = self.installation();
        let mut undo: Vec<OpenItem<'a>> =
            undo_first(installation, &planned.step, self.site.open()).into_iter().cloned().collect();
        let wanted: Vec<Disturbance> = std::iter::once(planned)
            .chain(self.left())
            .flat_map(|left| step_disturbances(installation, &left.step))
            .collect();
        for item in self.site.open().iter().filter(|item| goes_back_at_once(item.alteration)) {
            let still = wanted
                .iter()
                .any(|one| one.alteration == item.alteration && one.circuit == item.circuit && one.note == item.note);
            let changes = wanted.iter().any(|one| one.circuit == item.circuit && joins(one) && joins_item(item));
            if !still && !changes && !undo.iter().any(|other| other.item == item.item) {
                undo.push(item.clone());
            }
        }
        undo
    }

    /// The leads, when they are to be nulled or measured before this reading.
    fn null_wanted(&self, planned: &Planned) -> Option<Leads> {
        if !is_low_ohm(&planned.step) {
            return None;
        }
        let leads = leads(self.installation(), &planned.step);
        let state = LeadState::from_job(&self.job.events, &self.job.readings);
        (!state.serves(self.installation().house_rules.leads, leads)).then_some(leads)
    }

    /// Items of the put-back list that stand open.
    pub fn open(&self) -> &[OpenItem<'a>] {
        self.site.open()
    }
}

fn joins(one: &Disturbance) -> bool {
    use proof_job::site::Alteration::{CrossedLegs, Link};
    matches!(one.alteration, Link | CrossedLegs)
}

fn joins_item(item: &OpenItem<'_>) -> bool {
    use proof_job::site::Alteration::{CrossedLegs, Link};
    matches!(item.alteration, Link | CrossedLegs)
}

fn stage_rank(installation: &Installation, stage: Stage) -> usize {
    use proof_standard::house_rules::PolarityWhen;
    let late = installation.house_rules.polarity_when == PolarityWhen::AfterInsulation;
    match stage {
        Stage::EndToEnd => 0,
        Stage::R1Rn => 1,
        Stage::R1R2 => 2,
        Stage::R2 | Stage::Sequence => 3,
        Stage::Polarity if !late => 4,
        Stage::Insulation => 5,
        _ => 6,
    }
}
