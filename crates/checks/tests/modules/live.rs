//! The run at power, walked through the real gates from everything put back to the last label.

use jiff::{SignedDuration, Timestamp};
use proof_bench::demo;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Stage, Step, Test, Value};
use proof_job::site::isolation::{PairShown, pairs};
use proof_job::site::{BoardState, EventKind, Wanted};
use proof_judge::finding::Kind;
use proof_standard::conductor::Pair;
use proof_standard::house_rules::{HouseRules, NeutralLoop, ZsAt};
use proof_work::actions::{Action, Actor, Figure, Isolating, Powering, Refusal, With, Ze, ZeFigure, record, ze_steps};
use proof_work::live_tests::{Before, Live};
use proof_work::plan::run::{Order, Planned};
use proof_work::review::{Finding, review};
use rust_decimal::Decimal;
use uuid::Uuid;

/// The press room with its dead tests in, before the supply is exposed.
fn dead_done() -> Job {
    let mut job = demo::jobs().swap_remove(0);
    job.readings.retain(|reading| Wanted::for_key(&reading.key) == Wanted::Dead);
    let at = job.events.iter().position(|event| matches!(event.kind, EventKind::SupplyExposed { .. })).unwrap();
    job.events.truncate(at);
    job
}

struct Walker {
    job: Job,
    /// What the demo read for each key.
    model: Job,
    clock: Timestamp,
    actions: u128,
}

impl Walker {
    fn new(job: Job) -> Self {
        let read = job.readings.iter().filter_map(|reading| reading.context.taken_at);
        let last = read.chain(job.events.iter().map(|event| event.at)).max().unwrap();
        let clock = last + SignedDuration::from_mins(5);
        Self { job, model: demo::jobs().swap_remove(0), clock, actions: 0 }
    }

    fn with(&self) -> With {
        With {
            instrument: Some(self.job.instruments[0].id),
            read_by: "Idris Kell".into(),
            paper: false,
            paper_on: String::new(),
            unsteady: false,
            nulled: false,
            ..With::default()
        }
    }

    fn did(&mut self, action: &Action) {
        self.actions += 1;
        self.clock += SignedDuration::from_secs(40);
        let hand = Actor::new(Uuid::from_u128(0xd00d << 64 | self.actions), "Idris Kell", self.clock);
        let taken = record(&self.job, action, &hand).unwrap_or_else(|why| panic!("{action:?}: {why}"));
        self.job.readings.extend(taken.readings);
        self.job.events.extend(taken.events);
    }

    /// As the demo read it; where it did not, what passes.
    fn typed(&self, planned: &Planned) -> (String, String) {
        let settled = CurrentReadings::new(&self.model.readings, &self.model.events);
        match settled.value(&planned.step.key) {
            Some(Value::Pass) => (String::new(), "pass".into()),
            Some(value) => (value.shown(), String::new()),
            None if planned.step.key.test == Test::Zs => ("0.6".into(), String::new()),
            None if planned.step.key.test == Test::LineNeutralLoop => ("0.5".into(), String::new()),
            None => (String::new(), "pass".into()),
        }
    }

    fn isolate(&mut self, board: Uuid) {
        let lines = self.job.installation.board(board).unwrap().lines;
        let shown = pairs(lines).into_iter().map(|pair: Pair| PairShown { pair, volts: Decimal::ZERO, lit: false });
        self.did(&Action::Isolate(Isolating {
            board,
            lock: "lock 3".into(),
            indicator: "VI-1".into(),
            loads_off: true,
            locked: true,
            before: true,
            after: true,
            shown: shown.collect(),
            ..Isolating::default()
        }));
    }

    fn ze(&mut self) {
        self.did(&Action::Expose { spoke_to: String::new() });
        let figure =
            |step: Step| ZeFigure { slug: step.slug, typed: "0.17".into(), id: Uuid::new_v4(), with: self.with() };
        let figures = ze_steps(&self.job.installation).into_iter().map(figure).collect();
        let ze = Ze { figures, earth_restored: true, only_restored: false };
        self.did(&Action::Ze(ze));
    }

    /// Walks to the end; what was done, a word each.
    fn walk(&mut self, order: Order, one_way: bool) -> Vec<&'static str> {
        let mut done = Vec::new();
        for _ in 0..400 {
            let job = self.job.clone();
            let settled = CurrentReadings::new(&job.readings, &job.events);
            let live = Live::new(&job, &settled, order);
            let Some(planned) = live.current_card(None).cloned() else { return done };
            match live.before(&planned) {
                None => {
                    let (typed, pressed) = self.typed(&planned);
                    self.did(&Action::Read(Figure {
                        step: (*planned.step).clone(),
                        typed,
                        pressed,
                        with: self.with(),
                    }));
                    done.push(match planned.step.key.test {
                        Test::SupplyPolarity => "polarity",
                        Test::FaultCurrent => "current",
                        Test::Zs => "zs",
                        Test::LineNeutralLoop => "ln",
                        Test::RcdTrip { .. } => "trip",
                        Test::RcdButton => "button",
                        Test::Functional => "functional",
                        Test::Labelling => "labels",
                        _ => "other",
                    });
                }
                Some(Before::PutBack(items)) => {
                    self.did(&Action::PutBackAll(items.iter().map(|item| item.item).collect()));
                    done.push("put back");
                }
                Some(Before::Prove(board)) => {
                    self.isolate(board);
                    done.push("prove");
                }
                Some(Before::Expose(_)) => {
                    self.ze();
                    done.push("ze");
                }
                Some(Before::Energise { board, ways, first }) => {
                    let circuits = if one_way { first.into_iter().collect() } else { ways };
                    self.did(&Action::Power(Powering {
                        board,
                        ways: circuits,
                        covers_on: true,
                        spoke_to: String::new(),
                    }));
                    done.push("energise");
                }
                Some(other) => panic!("{other:#?}"),
            }
        }
        panic!("the walk does not end: {:?}", &done[done.len() - 10..]);
    }
}

#[test]
fn from_everything_put_back_to_the_last_label() {
    for order in Order::ALL {
        let mut walker = Walker::new(dead_done());
        let done = walker.walk(order, false);
        assert_eq!(done[..4], ["polarity", "ze", "current", "current"], "{done:?}");
        assert_eq!(done.iter().filter(|one| **one == "energise").count(), 1);
        assert_eq!(done.last(), Some(&"labels"));
        let blocking: Vec<_> = review((&walker.job).into()).into_iter().filter(Finding::blocks).collect();
        assert_eq!(blocking, vec![], "{order:?}");
        let first_trip = done.iter().position(|one| *one == "trip").unwrap();
        let last_zs = done.iter().rposition(|one| *one == "zs").unwrap();
        assert_eq!(order == Order::TestByTest, last_zs < first_trip, "{done:?}");
    }
}

/// A ring left crossed is put back first; an inspection that is open stands in the way, with its place.
#[test]
fn power_waits_for_what_is_open() {
    let mut job = dead_done();
    job.installation.inspection.pop();
    job.installation.inspection.remove(0);
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let live = Live::new(&job, &settled, Order::default());
    let zs = live.planned.iter().find(|planned| planned.step.key.test == Test::Zs).unwrap();
    let Some(Before::Settle(_, findings)) = live.before(zs) else { panic!("{:?}", live.before(zs)) };
    assert!(findings.iter().any(|one| one.kind() == Kind::InspectionMissing), "{findings:?}");
    let polarity = live.planned.iter().find(|planned| planned.step.key.test == Test::SupplyPolarity).unwrap();
    assert_eq!(live.before(polarity), None, "the incoming terminals are read while the board is dead");
    let mut crossed = dead_done();
    let ring = &crossed.installation.circuits[2];
    let kind = EventKind::Altered {
        item: Uuid::from_u128(5),
        board: ring.board,
        circuit: Some(ring.id),
        alteration: proof_job::site::Alteration::CrossedLegs,
        note: "way 3".into(),
    };
    crossed.events.push(proof_job::site::Event::new(Uuid::from_u128(6), "A", Timestamp::UNIX_EPOCH, kind));
    let settled = CurrentReadings::new(&crossed.readings, &crossed.events);
    let live = Live::new(&crossed, &settled, Order::default());
    assert!(matches!(live.before(&live.planned[0]), Some(Before::PutBack(items)) if items.len() == 1));
}

/// One at a time, each way comes to power when its turn comes; one that is left dead is not walked to.
#[test]
fn way_by_way_each_comes_to_power_in_its_turn() {
    let mut walker = Walker::new(dead_done());
    let ways = walker.job.installation.circuits.len();
    let done = walker.walk(Order::CircuitByCircuit, true);
    assert_eq!(done.iter().filter(|one| **one == "energise").count(), ways, "{done:?}");
    let blocking: Vec<_> = review((&walker.job).into()).into_iter().filter(Finding::blocks).collect();
    assert_eq!(blocking, vec![]);
    let mut job = dead_done();
    let (board, dead) = (job.installation.boards[0].id, job.installation.circuits[4].id);
    let kind = EventKind::LockedOff { board, circuits: vec![dead], lock: "key 9".into(), reason: "heater".into() };
    job.events.push(proof_job::site::Event::new(Uuid::from_u128(6), "A", Timestamp::UNIX_EPOCH, kind));
    let settled = CurrentReadings::new(&job.readings, &job.events);
    assert!(Live::new(&job, &settled, Order::default()).planned.iter().all(|planned| planned.circuit != Some(dead)));
    let mut walker = Walker::new(job);
    walker.walk(Order::TestByTest, false);
    assert_ne!(walker.job.site().circuit(board, dead).0, BoardState::Energised);
    assert_eq!(walker.job.site().left_dead().len(), 1, "said once");
}

/// What hangs on a way that is left dead is not walked to, nor a board of which every way is.
#[test]
fn a_board_that_stays_dead_is_not_walked_to() {
    let mut job = dead_done();
    let feeder = job.installation.circuits[4].clone();
    let mut below = job.installation.boards[0].clone();
    below.id = Uuid::from_u128(0xb);
    below.fed_by = proof_job::installation::Feed::Circuit { circuit: feeder.id };
    let mut way = job.installation.circuits[5].clone();
    (way.id, way.board) = (Uuid::from_u128(0xc), below.id);
    job.installation.boards.push(below.clone());
    job.installation.circuits.push(way);
    let of_board = |job: &Job, board: Uuid| {
        let settled = CurrentReadings::new(&job.readings, &job.events);
        Live::new(job, &settled, Order::default()).planned.iter().filter(|planned| planned.board == board).count()
    };
    assert!(of_board(&job, below.id) > 3);
    let lock = |job: &mut Job, board, circuits| {
        let kind = EventKind::LockedOff { board, circuits, lock: "key 9".into(), reason: "later".into() };
        job.events.push(proof_job::site::Event::new(Uuid::new_v4(), "A", Timestamp::UNIX_EPOCH, kind));
    };
    lock(&mut job, feeder.board, vec![feeder.id]);
    assert_eq!(of_board(&job, below.id), 0);
    let mut all = dead_done();
    let (board, ways) =
        (all.installation.boards[0].id, all.installation.circuits.iter().map(|one| one.id).collect::<Vec<_>>());
    lock(&mut all, board, ways);
    let settled = CurrentReadings::new(&all.readings, &all.events);
    let stages: Vec<Stage> =
        Live::new(&all, &settled, Order::default()).planned.iter().map(|planned| planned.step.stage).collect();
    assert!(stages.iter().all(|stage| *stage == Stage::Origin), "only the origin: {stages:?}");
}

/// With one way on, the main switch is on: what the others were proved dead with is not locked any more.
#[test]
fn a_way_that_waits_its_turn_is_not_proved_dead() {
    use proof_job::site::Alteration;
    use proof_work::gate::check_alter;
    let mut job = dead_done();
    // The origin is no part of the work: polarity and its loop are read from proved dead, and it stays so.
    let (board, first, second) =
        (job.installation.boards[0].id, job.installation.circuits[0].id, job.installation.circuits[1].id);
    assert_eq!(job.site().board(board).0, BoardState::ProvedDead);
    assert!(check_alter(&job, board, Some(second), Alteration::Link).is_ok());
    let kind = EventKind::Energised { board, circuits: vec![first] };
    job.events.push(proof_job::site::Event::new(Uuid::from_u128(9), "A", Timestamp::UNIX_EPOCH, kind));
    assert_eq!(job.site().circuit(board, second).0, BoardState::NotProved);
    assert!(check_alter(&job, board, Some(second), Alteration::Link).is_err());
}

/// What was locked off meanwhile is not brought to power by a list that was drawn before; nor is anything by nobody.
#[test]
fn a_list_that_was_drawn_before_energises_nothing_that_was_locked_since() {
    let mut walker = Walker::new(dead_done());
    let (board, ways): (_, Vec<Uuid>) =
        (walker.job.installation.boards[0].id, walker.job.installation.circuits.iter().map(|one| one.id).collect());
    for _ in 0..20 {
        let job = walker.job.clone();
        let settled = CurrentReadings::new(&job.readings, &job.events);
        let live = Live::new(&job, &settled, Order::default());
        let planned = live.current_card(None).unwrap().clone();
        match live.before(&planned) {
            Some(Before::Energise { .. }) => break,
            Some(Before::Expose(_)) => walker.ze(),
            Some(Before::Prove(board)) => walker.isolate(board),
            None => {
                let (typed, pressed) = walker.typed(&planned);
                walker.did(&Action::Read(Figure {
                    step: (*planned.step).clone(),
                    typed,
                    pressed,
                    with: walker.with(),
                }));
            }
            other => panic!("{other:?}"),
        }
    }
    let lock = EventKind::LockedOff { board, circuits: vec![ways[4]], lock: "key 9".into(), reason: "fan".into() };
    walker.job.events.push(proof_job::site::Event::new(Uuid::from_u128(8), "A", walker.clock, lock));
    let listed = Action::Power(Powering { board, ways: ways.clone(), covers_on: true, spoke_to: String::new() });
    let nobody = record(&walker.job, &listed, &Actor::new(Uuid::from_u128(1), " ", walker.clock));
    assert!(matches!(nobody, Err(Refusal::Nobody)), "{nobody:?}");
    walker.did(&listed);
    let live = |id: &Uuid| walker.job.site().circuit(board, *id).0 == BoardState::Energised;
    assert_eq!(ways.iter().filter(|id| live(id)).count(), ways.len() - 1);
    assert!(!live(&ways[4]), "locked off since");
    // All that was listed is on, or locked: there is nothing to be done.
    let again = record(&walker.job, &listed, &Actor::new(Uuid::from_u128(2), "A", walker.clock));
    assert!(matches!(again, Err(Refusal::NoWays)), "{again:?}");
}

#[test]
fn the_other_house_rules_read_more() {
    let left = |rule: fn(&mut HouseRules), stage: Stage| {
        let mut job = dead_done();
        rule(&mut job.installation.house_rules);
        let settled = CurrentReadings::new(&job.readings, &job.events);
        let live = Live::new(&job, &settled, Order::default());
        (live.left().filter(|planned| planned.step.stage == stage).count(), live.counts(true).readings)
    };
    let (usual, all) = left(|_| (), Stage::Zs);
    let (every, more) = left(|rules| rules.zs_at = ZsAt::Every, Stage::Zs);
    let (noted, _) = left(|rules| rules.neutral_loop = NeutralLoop::Noted, Stage::Zs);
    assert!(every > usual && more - all == every - usual, "{usual} {every}");
    assert!(noted > usual && noted < 2 * usual + 1, "{usual} {noted}");
    let mut walker = Walker::new({
        let mut job = dead_done();
        job.installation.house_rules.neutral_loop = NeutralLoop::Noted;
        job
    });
    assert!(walker.walk(Order::CircuitByCircuit, false).contains(&"ln"));
}
