//! A house that stays occupied, of which one circuit is altered, and the person who works there.

use jiff::{SignedDuration, Timestamp};
use proof_bench::demo;
use proof_job::installation::inspection::{InspectionAnswer, InspectionOutcome, asked};
use proof_job::installation::{Nature, shorthand};
use proof_job::job::Job;
use proof_job::reading::entry::Field;
use proof_job::reading::{CurrentReadings, Test};
use proof_job::site::EventKind;
use proof_job::site::isolation::{PairShown, circuit_pairs, pairs};
use proof_judge::expectation::Known;
use proof_standard::conductor::Pair;
use proof_standard::limits::supply::EarthingSystem;
use proof_work::actions::{Action, Actor, Figure, Isolating, Powering, Refusal, With, record};
use proof_work::certificate::{Role, Signature};
use proof_work::live_tests::{Before, Live};
use proof_work::plan::run::{Need, Order, Planned, Run};
use rust_decimal::Decimal;
use uuid::Uuid;

pub const CIRCUIT: Uuid = Uuid::from_u128(0xc4);

/// One board that stood before, and of its circuits the one that is altered.
pub fn occupied(line: &str, system: EarthingSystem) -> Job {
    let mut job = demo::jobs().swap_remove(0);
    job.readings.clear();
    job.events.clear();
    let installation = &mut job.installation;
    installation.nature = Nature::MinorWorks;
    installation.boards.truncate(1);
    let board = &mut installation.boards[0];
    (board.system, board.parallel_earth) = (system, Some(false));
    board.rcds.clear();
    installation.supply.system = system;
    installation.ambient_c = proof_standard::quantity::Celsius::new(20.0).ok();
    let (circuit, rcd) = shorthand::parse(line).unwrap().build(board.id, CIRCUIT);
    board.rcds.extend(rcd);
    installation.circuits = vec![circuit];
    installation.inspection = asked(installation)
        .map(|item| InspectionAnswer { item: item.key.into(), outcome: InspectionOutcome::Yes, note: String::new() })
        .collect();
    job
}

pub fn ring() -> Job {
    let line = r#"4 ring RCBO B32 6kA 2.5/1.5 legs 6,9,4.5,7,5,12 5pts work 4 existing ref C "Kitchen ring""#;
    occupied(line, EarthingSystem::Tt)
}

pub struct Person {
    pub job: Job,
    pub clock: Timestamp,
    pub actions: u128,
    pub done: Vec<&'static str>,
}

impl Person {
    pub fn new(job: Job) -> Self {
        let clock = job.created_at + SignedDuration::from_hours(1);
        Self { job, clock, actions: 0, done: Vec::new() }
    }

    pub fn tries(&mut self, action: &Action) -> Result<(), Refusal> {
        self.actions += 1;
        self.clock += SignedDuration::from_secs(40);
        let hand = Actor::new(Uuid::from_u128(0xfeed << 64 | self.actions), "Maud Ferrow", self.clock);
        let taken = record(&self.job, action, &hand)?;
        self.job.readings.extend(taken.readings);
        self.job.events.extend(taken.events);
        Ok(())
    }

    pub fn did(&mut self, action: &Action) {
        self.tries(action).unwrap_or_else(|why| panic!("{action:?}: {why}"));
    }

    pub fn isolating(&self, alone: bool, volts: Decimal) -> Isolating {
        let board = &self.job.installation.boards[0];
        let wanted = if alone { circuit_pairs(&self.job.installation.circuits[0]) } else { pairs(board.lines) };
        let shown = wanted.into_iter().map(|pair: Pair| PairShown { pair, volts, lit: false }).collect();
        Isolating {
            board: board.id,
            lock: "lock 3".into(),
            indicator: "VI-1".into(),
            loads_off: true,
            locked: true,
            before: true,
            after: true,
            shown,
            circuit: alone.then_some(CIRCUIT),
            place: if alone { "the new socket".into() } else { String::new() },
            ..Isolating::default()
        }
    }

    /// What is read where nothing is wrong: the middle of the band, else what passes.
    pub fn typed(&self, planned: &Planned) -> (String, String) {
        let installation = &self.job.installation;
        let settled = CurrentReadings::new(&self.job.readings, &self.job.events);
        let known = Known::new(installation, &installation.circuits[0], &settled);
        let middle = known.band(&planned.step.key).ok().and_then(|band| Some(f64::midpoint(band.low, band.high?)));
        let typed = match (planned.step.field, planned.step.key.test) {
            (Field::Outcome, _) => return (String::new(), "pass".into()),
            (Field::Insulation, _) => ">999".to_owned(),
            (Field::TripTime, _) => "24".to_owned(),
            (_, Test::Zs) if installation.supply.system == EarthingSystem::Tt => "41.6".to_owned(),
            (_, Test::Zs) => "0.60".to_owned(),
            (_, Test::LineNeutralLoop) => "0.6".to_owned(),
            (Field::Continuity, _) => middle.map_or_else(|| "0.02".to_owned(), |ohm| format!("{ohm:.2}")),
            (field, test) => panic!("{field:?} {test:?}"),
        };
        (typed, String::new())
    }

    pub fn read(&mut self, planned: &Planned) {
        let (typed, pressed) = self.typed(planned);
        let with = With {
            instrument: Some(self.job.instruments[0].id),
            read_by: "Idris Kell".into(),
            paper: false,
            paper_on: String::new(),
            unsteady: false,
            nulled: false,
            ..With::default()
        };
        self.did(&Action::Read(Figure { step: (*planned.step).clone(), typed, pressed, with }));
    }

    /// One step of the dead run, or of the run at power; whether there was one.
    pub fn step(&mut self, alone: bool) -> bool {
        let job = self.job.clone();
        let settled = CurrentReadings::new(&job.readings, &job.events);
        let run = Run::new(&job, &settled, Order::default());
        if let Some(planned) = run.current_card(None) {
            match run.needs(planned).into_iter().next() {
                None => {
                    self.read(planned);
                    self.done.push("dead");
                }
                Some(Need::Prove { alone: offered, inside, .. }) => {
                    let alone = alone && offered.is_some();
                    assert!(inside.is_none() || offered.is_none());
                    self.did(&Action::Isolate(self.isolating(alone, Decimal::ZERO)));
                    self.done.push(if alone { "alone" } else { "board" });
                }
                Some(Need::Undo(items)) => self.did(&Action::PutBackAll(items.iter().map(|item| item.item).collect())),
                Some(Need::Make(made, _)) => {
                    for one in made {
                        let (board, circuit, alteration, note) = (one.board, one.circuit, one.alteration, one.note);
                        self.did(&Action::Alter { board, circuit, alteration, note });
                    }
                }
                Some(Need::Null(leads)) => {
                    let (lead_set, pins) = (leads.set.to_owned(), leads.pins.to_owned());
                    let kind = EventKind::Nulled { lead_set, pins, subtract_ohm: None };
                    self.job.events.push(proof_job::site::Event::new(Uuid::new_v4(), "A", self.clock, kind));
                }
            }
            return true;
        }
        let live = Live::new(&job, &settled, Order::default());
        let Some(planned) = live.current_card(None).cloned() else { return false };
        match live.before(&planned) {
            None => {
                self.read(&planned);
                self.done.push("live");
            }
            Some(Before::InUse(board)) => {
                self.did(&Action::InUse(board));
                self.done.push("in use");
            }
            Some(Before::PutBack(items)) => {
                self.did(&Action::PutBackAll(items.iter().map(|item| item.item).collect()));
            }
            Some(Before::Energise { board, ways, .. }) => {
                self.did(&Action::Power(Powering { board, ways, covers_on: true, spoke_to: String::new() }));
                self.done.push("power");
            }
            Some(other) => panic!("{other:#?}"),
        }
        true
    }

    pub fn walk(&mut self, alone: bool) {
        for _ in 0..120 {
            if !self.step(alone) {
                return;
            }
        }
        panic!("the walk does not end: {:?}", self.done);
    }
}

pub fn signed() -> Vec<Signature> {
    demo::signed(&[]).into_iter().filter(|one| one.role == Role::Inspection).collect()
}
