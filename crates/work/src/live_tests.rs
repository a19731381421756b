//! The run at power: from everything put back to the last label, in the order of the work. Like the dead
//! run it stores nothing: what is next follows from the readings and the log.

use crate::gate::{check_energise, check_in_use, in_the_way};
use crate::plan::outstanding::{OutstandingQuery, outstanding, step_state};
use crate::plan::run::{Counts, Order, Planned, add_planned, add_struck_out, after_in, find_in};
use crate::plan::sequence::{board_steps, origin_steps, steps_kept};
use crate::plan::substitute::Scope;
use crate::review::Finding;
use proof_job::installation::{Board, Circuit, Feed, Installation};
use proof_job::instrument::SeriesOrder;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Place, Stage, Step, Subject, Test, WorkedOut};
use proof_job::site::{BoardState, OpenItem, Site, Wanted, dead_above, taken_on};
use std::sync::Arc;
use uuid::Uuid;

/// What must be done before a reading at power.
#[derive(Debug, Clone, PartialEq)]
pub enum Before<'a> {
    /// Open items go back: power waits for all of them.
    PutBack(Vec<OpenItem<'a>>),
    /// A board is locked and proved dead (again, after Ze).
    Prove(Uuid),
    /// A board that stood before is found in use, and said to be.
    InUse(Uuid),
    /// The supply is exposed, with hands full: polarity and Ze on a page of their own.
    Expose(Uuid),
    /// Things stand in the way of power.
    Settle(Uuid, Vec<Finding>),
    /// Ways of a board come to power: those that may, and the one that the reading is of.
    Energise {
        /// Which board.
        board: Uuid,
        /// The ways that wait for power.
        ways: Vec<Uuid>,
        /// The way that the reading wants, if it is of one.
        first: Option<Uuid>,
    },
}

/// What is planned of a circuit at power, kept until a reading touches it.
struct OfCircuit(Vec<Planned>);

impl WorkedOut for OfCircuit {
    const DESCRIBED: bool = false;
}

/// A job's run at power.
pub struct Live<'a> {
    job: &'a Job,
    settled: &'a CurrentReadings<'a>,
    site: Site<'a>,
    /// What is asked for; not of what stays dead.
    asked: OutstandingQuery<'a>,
    /// Every live reading that the job wants, in order, done or not.
    pub planned: Vec<Planned>,
}

/// Boards so that each comes after the one that feeds it.
fn in_order_of_feed(installation: &Installation) -> Vec<&Board> {
    let depth = |board: &Board| {
        let mut at = board;
        for depth in 0..=installation.boards.len() {
            let Feed::Circuit { circuit } = at.fed_by else { return depth };
            let Some(above) = installation.circuit(circuit).and_then(|feeder| installation.board(feeder.board)) else {
                return depth;
            };
            at = above;
        }
        installation.boards.len()
    };
    let mut boards: Vec<&Board> = installation.boards.iter().collect();
    boards.sort_by_key(|board| depth(board));
    boards
}

/// Trip tests in the order in which the instrument runs its series.
fn as_the_instrument_runs(steps: &mut [Arc<Step>], order: SeriesOrder) {
    let place = |step: &Arc<Step>| match step.key.test {
        Test::RcdTrip { multiple, half_cycle } => Some(order.place(multiple, half_cycle).unwrap_or((u8::MAX, 0))),
        _ => None,
    };
    let trips = |step: &Arc<Step>| place(step).is_some();
    if let (Some(first), Some(last)) = (steps.iter().position(trips), steps.iter().rposition(trips)) {
        steps[first..=last].sort_by_key(place);
    }
}

impl<'a> Live<'a> {
    /// Plans a job at power in an order.
    pub fn new(job: &'a Job, settled: &'a CurrentReadings<'a>, order: Order) -> Self {
        Self::planned(job, settled, order, None)
    }

    /// Plans what is of one circuit or one board.
    pub fn for_place(job: &'a Job, settled: &'a CurrentReadings<'a>, order: Order, of: Uuid) -> Self {
        Self::planned(job, settled, order, Some(of))
    }

    fn planned(job: &'a Job, settled: &'a CurrentReadings<'a>, order: Order, only: Option<Uuid>) -> Self {
        let site = job.site();
        let asked = OutstandingQuery::new(&job.installation, settled, &site, &|_| false);
        let mut live = Self { job, settled, site, asked, planned: Vec::new() };
        live.planned = live.plan(order, only);
        live
    }

    /// The live readings of a circuit, worked out once where the job is kept.
    fn for_circuit(&self, circuit: &Circuit, order_of_series: SeriesOrder) -> Arc<OfCircuit> {
        let installation = &self.job.installation;
        self.settled.cached(installation, circuit, || {
            let kept = steps_kept(installation, circuit, self.settled);
            let mut steps: Vec<Arc<Step>> = kept.iter().filter(|step| !step.stage.is_dead()).cloned().collect();
            as_the_instrument_runs(&mut steps, order_of_series);
            let wanted = |step: &Arc<Step>| step.required || self.settled.get(&step.key).is_some();
            let of = |step| self.stood_at(Planned::new(step, Some(circuit.id), circuit.board));
            OfCircuit(steps.into_iter().filter(wanted).map(of).collect())
        })
    }

    /// A planned reading with whether it wants nothing more.
    fn stood_at(&self, planned: Planned) -> Planned {
        Planned { done: self.is_done(&planned), ..planned }
    }

    fn plan(&self, order: Order, only: Option<Uuid>) -> Vec<Planned> {
        let asked = |of: Uuid| only.is_none_or(|only| only == of);
        let installation = &self.job.installation;
        let wanted = |step: &proof_job::reading::Step| step.required || self.settled.get(&step.key).is_some();
        let order_of_series = self.job.series_order(None);
        let mut all = Vec::new();
        let origin = installation.boards.iter().find(|board| board.fed_by == Feed::Supply);
        if let Some(board) = origin.filter(|board| asked(board.id)) {
            let live = origin_steps(installation).into_iter().filter(|step| step.stage == Stage::Origin);
            let plain = |step| self.stood_at(Planned::new(Arc::new(step), None, board.id));
            all.extend(live.filter(wanted).map(plain));
            self.add_struck_out(&mut all, Scope::Origin, (None, board.id));
        }
        for board in in_order_of_feed(installation).into_iter().filter(|board| self.asked.board(board)) {
            let plain = |step| self.stood_at(Planned::new(Arc::new(step), None, board.id));
            // What is worked on the whole board comes when its circuits are done; its loop, its current and
            // the turn of its phases first.
            let (after, before): (Vec<_>, Vec<_>) = board_steps(installation, board)
                .into_iter()
                .filter(|_| asked(board.id))
                .filter(wanted)
                .map(plain)
                .partition(|planned| {
                    matches!(planned.step.key.test, Test::Functional | Test::SurgeIndicator | Test::Labelling)
                });
            let covered = |circuit: &&Circuit| !installation.out_of_scope(circuit) && self.asked.circuit(circuit);
            let mut circuits: Vec<Planned> = installation
                .circuits_on(board.id)
                .filter(|circuit| asked(circuit.id))
                .filter(covered)
                .flat_map(|circuit| self.planned_of(circuit, order_of_series))
                .collect();
            if order == Order::TestByTest {
                circuits.sort_by_key(|planned| planned.step.stage);
            }
            all.extend(before);
            all.extend(circuits);
            all.extend(after);
            if asked(board.id) {
                self.add_struck_out(&mut all, Scope::Board(board), (None, board.id));
            }
        }
        all
    }

    /// A circuit's live readings, and those of a device that the way before it would have been tested with.
    fn planned_of(&self, circuit: &Circuit, order_of_series: SeriesOrder) -> Vec<Planned> {
        let mut all = self.for_circuit(circuit, order_of_series).0.clone();
        for step in self.asked.shared_device(circuit) {
            let planned = Planned::new(Arc::new(step), Some(circuit.id), circuit.board);
            add_planned(&mut all, self.stood_at(planned));
        }
        self.add_struck_out(&mut all, Scope::Circuit(circuit), (Some(circuit.id), circuit.board));
        all
    }

    fn add_struck_out(&self, all: &mut Vec<Planned>, scope: Scope<'_>, of: (Option<Uuid>, Uuid)) {
        if self.settled.has_strike_outs() {
            add_struck_out(all, &outstanding(&self.job.installation, scope, self.settled), false, of);
        }
    }

    /// Whether a planned reading wants nothing more.
    pub const fn done(&self, planned: &Planned) -> bool {
        planned.done
    }

    fn is_done(&self, planned: &Planned) -> bool {
        let installation = &self.job.installation;
        step_state(installation, planned.scope(installation), self.settled, &planned.step).is_done()
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

    /// The reading after one, that is left; then the first of all.
    pub fn after(&self, planned: &Planned) -> Option<&Planned> {
        after_in(&self.planned, planned, |other| self.done(other))
    }

    /// What must be done before a reading, if anything.
    pub fn before(&self, planned: &Planned) -> Option<Before<'a>> {
        let installation = &self.job.installation;
        let wanted = Wanted::for_key(&planned.step.key);
        if wanted == Wanted::Nothing {
            return None;
        }
        let open: Vec<OpenItem<'a>> =
            self.site.open().iter().filter(|item| !item.alteration.is_small()).cloned().collect();
        let exposed = self.site.board(planned.board).0 == BoardState::SupplyExposed;
        if !open.is_empty() && !exposed {
            return Some(Before::PutBack(open));
        }
        let (board, circuit) = taken_on(installation, &planned.step.key.subject)?;
        match wanted {
            Wanted::Exposed => Some(self.for_ze(board)),
            Wanted::Incoming | Wanted::EarthOn if self.site.allows(wanted, board, None) => None,
            // Of a supply that is exposed the polarity is read with Ze.
            Wanted::Incoming if installation.includes_origin() => Some(self.for_ze(board)),
            Wanted::Incoming | Wanted::EarthOn if exposed => Some(Before::Expose(board)),
            Wanted::Incoming | Wanted::EarthOn if check_in_use(self.job, board).is_ok() => Some(Before::InUse(board)),
            Wanted::Incoming | Wanted::EarthOn => Some(Before::Prove(board)),
            Wanted::Live => self.for_power(board, circuit),
            Wanted::Dead | Wanted::Nothing => None,
        }
    }

    /// Ze: from proved dead, on its own page.
    fn for_ze(&self, board: Uuid) -> Before<'a> {
        let installation = &self.job.installation;
        if self.site.board(board).0 == BoardState::SupplyExposed {
            return Before::Expose(board);
        }
        let dead = |board: &&Board| self.site.board(board.id).0 != BoardState::ProvedDead;
        let first = installation.boards.iter().filter(|board| board.fed_by == Feed::Supply).find(dead);
        first.map_or(Before::Expose(board), |board| Before::Prove(board.id))
    }

    fn for_power(&self, board: Uuid, circuit: Option<Uuid>) -> Option<Before<'a>> {
        let installation = &self.job.installation;
        // What feeds it comes first.
        if let Some(feeder) = dead_above(installation, &self.site, board).and_then(|id| installation.circuit(id)) {
            return Some(self.power(feeder.board, Some(feeder.id)));
        }
        (!self.site.allows(Wanted::Live, board, circuit)).then(|| self.power(board, circuit))
    }

    fn power(&self, board: Uuid, first: Option<Uuid>) -> Before<'a> {
        let waits = |circuit: &&Circuit| {
            self.site.circuit(board, circuit.id).0 != BoardState::Energised && self.asked.circuit(circuit)
        };
        let ways: Vec<Uuid> =
            self.job.installation.circuits_on(board).filter(waits).map(|circuit| circuit.id).collect();
        let one: Vec<Uuid> = first.into_iter().collect();
        // The whole board where it may; else the way in hand, where that may.
        let reviewed = crate::review::Reviewed::from(self.job);
        if check_energise(reviewed, board, &ways, true).is_ok() {
            return Before::Energise { board, ways, first };
        }
        if !one.is_empty() && check_energise(reviewed, board, &one, true).is_ok() {
            return Before::Energise { board, ways: one, first };
        }
        // Of those that wait: what was left dead is not asked its tests.
        let asked = if one.is_empty() { &ways } else { &one };
        Before::Settle(board, in_the_way(reviewed, board, asked))
    }

    /// What the walk costs as planned, or what is left of it: readings, visits to a board, points walked to.
    pub fn counts(&self, left_only: bool) -> Counts {
        let mut counts = Counts::default();
        let mut stood: Option<(Uuid, bool)> = None;
        for planned in self.planned.iter().filter(|planned| !left_only || !self.done(planned)) {
            counts.readings += 1;
            let at_circuit = matches!(planned.step.key.test, Test::Zs | Test::LineNeutralLoop | Test::RcdTrip { .. });
            let here = match (&planned.step.key.subject, planned.circuit) {
                (Subject::Place { place: Place::Point { .. }, .. }, Some(circuit)) => (circuit, true),
                (_, Some(circuit)) if at_circuit => (circuit, true),
                _ => (planned.board, false),
            };
            if stood != Some(here) {
                if here.1 {
                    counts.points += 1;
                } else {
                    counts.board_visits += 1;
                }
                stood = Some(here);
            }
        }
        counts
    }
}
