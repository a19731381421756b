//! Minor works in an occupied house: a socket more on a ring that is there, its circuit isolated alone
//! where that will do, the rest of the board in use.

use jiff::{SignedDuration, Timestamp};
use proof_bench::demo;
use proof_core::certificate::{Application, Form, Role, Signature, issue, left_out};
use proof_core::conductor::Pair;
use proof_core::expectation::Known;
use proof_core::gate::{Because, may_alter, may_energise, may_read};
use proof_core::house_rules::ContinuityMethod;
use proof_core::installation::inspection::{InspectionAnswer, InspectionOutcome, asked};
use proof_core::installation::{Feed, Nature, Point, PointId, Shape, shorthand};
use proof_core::job::Job;
use proof_core::live::{Before, Live};
use proof_core::plan::reach::{Inside, inside_board, possible_alone};
use proof_core::plan::run::{Need, Order, Planned, Run};
use proof_core::plan::sequence::{circuit_steps, origin_steps};
use proof_core::reading::entry::Field;
use proof_core::reading::{Settled, Stage, Test};
use proof_core::review::{Kind, Severity, review};
use proof_core::site::isolation::{PairShown, circuit_pairs, pairs};
use proof_core::site::{Alteration, BoardState, EventKind, board_as_fed, breaches};
use proof_core::standard::supply::EarthingSystem;
use proof_core::taking::{Deed, Figure, Hand, Isolating, Leaving, Powering, Refusal, With, take};
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

const CIRCUIT: Uuid = Uuid::from_u128(0xc4);

/// One board that stood before, and of its circuits the one that is altered.
fn occupied(line: &str, system: EarthingSystem) -> Job {
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
    installation.ambient_c = proof_core::quantity::Celsius::new(20.0).ok();
    let (circuit, rcd) = shorthand::parse(line).unwrap().build(board.id, CIRCUIT);
    board.rcds.extend(rcd);
    installation.circuits = vec![circuit];
    installation.inspection = asked(installation)
        .map(|item| InspectionAnswer { item: item.key.into(), outcome: InspectionOutcome::Yes, note: String::new() })
        .collect();
    job
}

fn ring() -> Job {
    let line = r#"4 ring RCBO B32 6kA 2.5/1.5 legs 6,9,4.5,7,5,12 5pts work 4 existing ref C "Kitchen ring""#;
    occupied(line, EarthingSystem::Tt)
}

struct Person {
    job: Job,
    clock: Timestamp,
    deeds: u128,
    done: Vec<&'static str>,
}

impl Person {
    fn new(job: Job) -> Self {
        let clock = job.created_at + SignedDuration::from_hours(1);
        Self { job, clock, deeds: 0, done: Vec::new() }
    }

    fn tries(&mut self, deed: &Deed) -> Result<(), Refusal> {
        self.deeds += 1;
        self.clock += SignedDuration::from_secs(40);
        let hand = Hand::new(Uuid::from_u128(0xfeed << 64 | self.deeds), "Maud Ferrow", self.clock);
        let taken = take(&self.job, deed, &hand)?;
        self.job.readings.extend(taken.readings);
        self.job.events.extend(taken.events);
        Ok(())
    }

    fn did(&mut self, deed: &Deed) {
        self.tries(deed).unwrap_or_else(|why| panic!("{deed:?}: {why}"));
    }

    fn isolating(&self, alone: bool, volts: Decimal) -> Isolating {
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
    fn typed(&self, planned: &Planned) -> (String, String) {
        let installation = &self.job.installation;
        let settled = Settled::new(&self.job.readings, &self.job.events);
        let known = Known::new(installation, &installation.circuits[0], &settled);
        let middle = known.band(&planned.step.key).ok().and_then(|band| Some(f64::midpoint(band.low, band.high?)));
        let typed = match (planned.step.field, planned.step.key.test) {
            (Field::Outcome, _) => return (String::new(), "pass".into()),
            (Field::Insulation, _) => ">999".to_owned(),
            (Field::TripTime, _) => "24".to_owned(),
            (_, Test::Zs) => "41.6".to_owned(),
            (_, Test::LineNeutralLoop) => "0.6".to_owned(),
            (Field::Continuity, _) => middle.map_or_else(|| "0.02".to_owned(), |ohm| format!("{ohm:.2}")),
            (field, test) => panic!("{field:?} {test:?}"),
        };
        (typed, String::new())
    }

    fn read(&mut self, planned: &Planned) {
        let (typed, pressed) = self.typed(planned);
        let with = With {
            instrument: Some(self.job.instruments[0].id),
            read_by: "Idris Kell".into(),
            paper: false,
            paper_on: String::new(),
            unsteady: false,
            nulled: false,
        };
        self.did(&Deed::Read(Figure { step: planned.step.clone(), typed, pressed, with }));
    }

    /// One step of the dead run, or of the run at power; whether there was one.
    fn step(&mut self, alone: bool) -> bool {
        let job = self.job.clone();
        let settled = Settled::new(&job.readings, &job.events);
        let run = Run::new(&job, &settled, Order::default());
        if let Some(planned) = run.in_hand(None) {
            match run.needs(planned).into_iter().next() {
                None => {
                    self.read(planned);
                    self.done.push("dead");
                }
                Some(Need::Prove { alone: offered, inside, .. }) => {
                    let alone = alone && offered.is_some();
                    assert!(inside.is_none() || offered.is_none());
                    self.did(&Deed::Isolate(self.isolating(alone, Decimal::ZERO)));
                    self.done.push(if alone { "alone" } else { "board" });
                }
                Some(Need::Undo(items)) => self.did(&Deed::PutBackAll(items.iter().map(|item| item.item).collect())),
                Some(Need::Make(made, _)) => {
                    for one in made {
                        let (board, circuit, alteration, note) = (one.board, one.circuit, one.alteration, one.note);
                        self.did(&Deed::Alter { board, circuit, alteration, note });
                    }
                }
                Some(Need::Null(leads)) => {
                    let (lead_set, pins) = (leads.set.to_owned(), leads.pins.to_owned());
                    let kind = EventKind::Nulled { lead_set, pins, subtract_ohm: None };
                    self.job.events.push(proof_core::site::Event::new(Uuid::new_v4(), "A", self.clock, kind));
                }
            }
            return true;
        }
        let live = Live::new(&job, &settled, Order::default());
        let Some(planned) = live.in_hand(None).cloned() else { return false };
        match live.before(&planned) {
            None => {
                self.read(&planned);
                self.done.push("live");
            }
            Some(Before::InUse(board)) => {
                self.did(&Deed::InUse(board));
                self.done.push("in use");
            }
            Some(Before::PutBack(items)) => {
                self.did(&Deed::PutBackAll(items.iter().map(|item| item.item).collect()));
            }
            Some(Before::Energise { board, ways, .. }) => {
                self.did(&Deed::Power(Powering { board, ways, covers_on: true }));
                self.done.push("power");
            }
            Some(other) => panic!("{other:#?}"),
        }
        true
    }

    fn walk(&mut self, alone: bool) {
        for _ in 0..120 {
            if !self.step(alone) {
                return;
            }
        }
        panic!("the walk does not end: {:?}", self.done);
    }
}

fn signed() -> Vec<Signature> {
    demo::signed(&[]).into_iter().filter(|one| one.role == Role::Inspection).collect()
}

/// A socket on an existing ring: its point, the ring, insulation, polarity, Zs, RCD; no earth off.
#[test]
fn a_socket_on_a_ring_asks_for_what_the_form_wants() {
    let job = ring();
    let settled = Settled::new(&[], &[]);
    let (run, live) = (Run::new(&job, &settled, Order::default()), Live::new(&job, &settled, Order::default()));
    let names = |planned: &[Planned]| planned.iter().map(|one| one.step.slug.clone()).collect::<Vec<_>>();
    let (dead, power) = (names(&run.planned), names(&live.planned));
    assert!(dead.len() + power.len() <= 22, "{dead:?} {power:?}");
    for slug in ["earthing", "r1", "rn", "r2", "r2-p4", "ir-l-n", "ir-l-e", "ir-n-e"] {
        let there = dead.iter().any(|one| one == slug);
        assert!(there || slug.starts_with("ir-"), "{slug}: {dead:?}");
    }
    assert!(!dead.iter().any(|one| one == "r2-p1" || one == "rn-p2"), "points that stood are not asked: {dead:?}");
    for slug in ["supply-polarity", "loop-le", "zs", "rcd-1", "rcd-button"] {
        assert!(power.iter().any(|one| one == slug), "{slug}: {power:?}");
    }
    assert!(!power.iter().any(|one| one == "ze" || one.starts_with("pfc")), "{power:?}");
    // The earth and the bonds are looked at: nothing comes off for them.
    for step in origin_steps(&job.installation).iter().filter(|step| step.stage == Stage::Bonding) {
        assert_eq!(step.field, Field::Outcome);
        assert_eq!(may_read((&job).into(), &settled, step), Ok(()), "on a board of which nothing is known");
    }
    // In a new installation every point is asked, whatever is said of it.
    let mut new = job;
    new.installation.nature = Nature::New;
    let all = Run::new(&new, &settled, Order::default()).planned.len();
    assert!(all >= dead.len() + 6, "{all} {dead:?}");
}

/// The ring by its ends: the board is dead for the whole of the dead tests, or only for what is in it.
#[test]
fn from_an_occupied_house_to_the_certificate() {
    for alone in [false, true] {
        let mut person = Person::new(ring());
        person.walk(alone);
        let count = |what: &str| person.done.iter().filter(|one| **one == what).count();
        assert_eq!(count("power"), 1, "{:?}", person.done);
        assert!(count("board") >= 1, "ring ends come out of a dead board");
        let findings = review((&person.job).into());
        let form = Form::MinorWorks { circuit: CIRCUIT };
        let blocking: Vec<_> =
            findings.into_iter().filter(|one| one.blocks() && form.waits_for(&person.job, one)).collect();
        assert_eq!(blocking, vec![], "alone {alone}");
        assert!(breaches(&person.job.installation, &person.job.events).is_empty());
        let application = Application {
            form,
            number: "M-1".into(),
            replaces: None,
            signatures: signed(),
            key: "k".into(),
            now: person.clock,
        };
        let certificate = issue(&person.job, application).unwrap();
        assert_eq!(certificate.form, form);
    }
}

/// A lamp on a radial, by long lead: nothing inside the board is touched, and it never goes dead.
#[test]
fn by_long_lead_the_rest_of_the_house_stays_in_use() {
    let line = r#"2 lights RCBO B6 6kA 1.5/1.0 legs 8,4,5 3pts work 3 existing "Landing""#;
    let mut job = occupied(line, EarthingSystem::TnCS);
    job.installation.house_rules.continuity = ContinuityMethod::R2;
    let mut person = Person::new(job);
    let mut isolating = person.isolating(true, Decimal::ZERO);
    isolating.neutral = true;
    person.did(&Deed::Isolate(isolating));
    let site = person.job.site();
    let board = person.job.installation.boards[0].id;
    assert_eq!(site.board(board).0, BoardState::Energised, "the rest is in use, and said to be");
    assert_eq!(site.circuit(board, CIRCUIT).0, BoardState::ProvedDead);
    drop(site);
    person.walk(true);
    assert!(!person.done.contains(&"board"), "{:?}", person.done);
    assert_eq!(person.job.site().circuit(board, CIRCUIT).0, BoardState::Energised);
}

/// With one way dead and the rest live nothing inside the board is done, by any page or file.
#[test]
fn nothing_inside_a_live_board_is_touched() {
    let mut person = Person::new(ring());
    person.did(&Deed::Isolate(person.isolating(true, Decimal::ZERO)));
    let board = person.job.installation.boards[0].id;
    let inside = [
        Alteration::Link,
        Alteration::CrossedLegs,
        Alteration::EndsOut,
        Alteration::NeutralOut,
        Alteration::WayOut,
        Alteration::EarthOff,
        Alteration::BondOff,
        Alteration::TailOff,
    ];
    for alteration in inside {
        for circuit in [Some(CIRCUIT), None] {
            assert!(may_alter(&person.job, board, circuit, alteration).is_err(), "{alteration:?} {circuit:?}");
        }
    }
    for alteration in [Alteration::LampOut, Alteration::AccessoryOff, Alteration::FlyLeadOff, Alteration::LoadOff] {
        assert_eq!(may_alter(&person.job, board, Some(CIRCUIT), alteration), Ok(()), "{alteration:?} is at the point");
    }
    let settled = Settled::new(&person.job.readings, &person.job.events);
    let circuit = person.job.installation.circuits[0].clone();
    for step in circuit_steps(&person.job.installation, &circuit).iter().filter(|step| step.stage.is_dead()) {
        let inside = inside_board(&person.job.installation, step, false);
        let refused = may_read((&person.job).into(), &settled, step).err();
        assert_eq!(refused.is_some(), inside.is_some(), "{}: {refused:?}", step.slug);
        if let Some(refused) = refused {
            assert!(matches!(refused.because, Because::BoardWantsDead { .. }), "{refused}");
        }
    }
    // A file that did it all the same is told of it.
    let kind = EventKind::Altered {
        item: Uuid::from_u128(3),
        board,
        circuit: Some(CIRCUIT),
        alteration: Alteration::EndsOut,
        note: "way 4".into(),
    };
    let mut job = person.job.clone();
    job.events.push(proof_core::site::Event::new(Uuid::new_v4(), "A", person.clock, kind));
    assert_eq!(breaches(&job.installation, &job.events).len(), 1);
    // And a reading taken so is out of order.
    let r1 = circuit_steps(&job.installation, &circuit).into_iter().find(|step| step.slug == "r1").unwrap();
    let mut reading = demo::jobs()[0].readings[0].clone();
    (reading.key, reading.value) = (r1.key, proof_core::reading::Value::Number(dec!(0.32)));
    reading.context.taken_at = Some(person.clock + SignedDuration::from_mins(1));
    job.readings.push(reading);
    assert!(review((&job).into()).iter().any(|one| one.kind() == Kind::OutOfOrder && one.severity == Severity::Odd));
}

/// What the device breaks decides what can be read of the neutral.
#[test]
fn the_neutral_on_the_bar_is_not_read_with_the_board_live() {
    let job = occupied(r#"2 radial B16 6kA 2.5/1.5 legs 8,4 2pts work 2 existing "Bench""#, EarthingSystem::TnCS);
    let (installation, circuit) = (&job.installation, &job.installation.circuits[0]);
    let steps = circuit_steps(installation, circuit);
    let inside = |slug: &str, neutral| {
        inside_board(
            installation,
            steps.iter().find(|step| step.slug == slug).unwrap_or_else(|| panic!("{slug}")),
            neutral,
        )
    };
    let insulation: Vec<&str> =
        steps.iter().filter(|step| step.stage == Stage::Insulation).map(|step| step.slug.as_str()).collect();
    assert_eq!(insulation.len(), 3, "{insulation:?}");
    for slug in insulation {
        let of_neutral = slug.contains("-n");
        assert_eq!(inside(slug, false), of_neutral.then_some(Inside::NeutralOnBar), "{slug}");
        assert_eq!(inside(slug, true), None, "{slug}");
    }
    assert_eq!(inside("r2-p2", true), Some(Inside::Altered(Alteration::Link)), "the link is in the board");
    let (single, double) = (possible_alone(installation, circuit, false), possible_alone(installation, circuit, true));
    assert!(single.0 < double.0 && double.0 < double.1, "{single:?} {double:?}");
}

/// A proof at the point of work wants every pair, the place, the lock, the indicator twice; volts on any
/// pair are written down as what they are.
#[test]
fn a_circuit_is_proved_by_the_same_rules() {
    let mut person = Person::new(ring());
    let board = person.job.installation.boards[0].id;
    type Change = fn(&mut Isolating);
    let changes: [(&str, Change); 6] = [
        ("place", |one| one.place.clear()),
        ("lock", |one| one.lock.clear()),
        ("locked", |one| one.locked = false),
        ("before", |one| one.before = false),
        ("after", |one| one.after = false),
        ("v-l-e", |one| {
            one.shown.retain(|shown| shown.pair != Pair::LINE_EARTH);
        }),
    ];
    for (field, change) in changes {
        let mut given = person.isolating(true, Decimal::ZERO);
        change(&mut given);
        let why = person.tries(&Deed::Isolate(given)).unwrap_err();
        assert!(why.fields().iter().any(|(name, _)| name == field), "{field}: {why:?}");
    }
    person.did(&Deed::Isolate(person.isolating(true, dec!(230))));
    let not = person.job.events.last().unwrap();
    assert!(matches!(&not.kind, EventKind::NotIsolated { circuits, .. } if circuits == &[CIRCUIT]), "{not:?}");
    assert_eq!(person.job.site().circuit(board, CIRCUIT).0, BoardState::NotProved);
    // The device that is off is not the one of this circuit: nothing is left dead on the strength of it.
    let leaving =
        Leaving { board, circuits: vec![CIRCUIT], whole: false, lock: "key 4".into(), reason: "later".into() };
    assert_eq!(person.tries(&Deed::LeaveDead(leaving.clone())), Err(Refusal::NotDead("4".into())));
    person.did(&Deed::Isolate(person.isolating(true, Decimal::ZERO)));
    person.did(&Deed::LeaveDead(leaving));
    assert_eq!(person.job.site().left_dead().len(), 1);
    let again = Deed::InUse(board);
    assert!(matches!(person.tries(&again), Err(Refusal::Gate(_))), "it is known to be in use");
}

/// A sub-board left dead: its feeder, or all of its ways; nothing of it is asked, and the papers say so.
#[test]
fn a_whole_board_is_left_dead() {
    let mut job = demo::jobs().swap_remove(0);
    let main = job.installation.boards[0].id;
    let mut below = job.installation.boards[0].clone();
    (below.id, below.name) = (Uuid::from_u128(0xb), "Studio board".into());
    let feeder = job.installation.circuits[4].id;
    below.fed_by = Feed::Circuit { circuit: feeder };
    below.rcds.clear();
    let ways: Vec<Uuid> = (0..2).map(|number| Uuid::from_u128(0xc0 + number)).collect();
    for (number, id) in ways.iter().enumerate() {
        let mut way = job.installation.circuits[5].clone();
        (way.id, way.board, way.rcd, way.way) = (*id, below.id, None, (number + 1).to_string());
        way.points = vec![Point { id: PointId(1), name: "tail".into(), ..Point::default() }];
        way.shape = Shape::Radial;
        job.installation.circuits.push(way);
    }
    job.installation.boards.push(below.clone());
    let mut person = Person::new(job);
    person.clock = person.job.events.last().unwrap().at + SignedDuration::from_hours(1);
    let asked = |job: &Job| {
        let of = |id: &Uuid| ways.contains(id);
        review(job.into()).iter().filter(|one| one.circuit().is_some_and(|id| of(&id)) && one.blocks()).count()
    };
    assert!(asked(&person.job) >= 2, "two ways, nothing read");
    let leaving = |board, circuits, whole| {
        Deed::LeaveDead(Leaving { board, circuits, whole, lock: "padlock 7".into(), reason: "studio in spring".into() })
    };
    assert!(matches!(person.tries(&leaving(main, vec![feeder], false)), Err(Refusal::NotDead(_))), "it is live");
    let lines = person.job.installation.boards[0].lines;
    let proved = |board| EventKind::proved_dead(board, lines, "VI-1");
    let (main_dead, below_dead) = (proved(main), proved(below.id));
    let mut one = Person::new(person.job.clone());
    one.clock = person.clock;
    one.job.events.push(proof_core::site::Event::new(Uuid::new_v4(), "A", one.clock, main_dead));
    one.did(&leaving(main, vec![feeder], false));
    assert_eq!(asked(&one.job), 0);
    let out = left_out(&one.job, Form::Installation).join("\n");
    assert!(out.contains("and with it Studio board") && out.contains("padlock 7"), "{out}");
    // Live below, and then its feeder off above: it is neither live any more, nor proved dead.
    let mut fed = person.job.clone();
    let log = |job: &mut Job, kind| {
        job.events.push(proof_core::site::Event::new(Uuid::new_v4(), "A", person.clock, kind));
    };
    log(&mut fed, EventKind::Energised { board: main, circuits: vec![] });
    log(&mut fed, EventKind::Energised { board: below.id, circuits: vec![] });
    let state = |job: &Job| board_as_fed(&job.installation, &job.site(), below.id);
    assert_eq!(state(&fed), BoardState::Energised);
    log(&mut fed, proved(main));
    assert_eq!((fed.site().board(below.id).0, state(&fed)), (BoardState::Energised, BoardState::NotProved));
    log(&mut fed, proved(below.id));
    assert_eq!(state(&fed), BoardState::ProvedDead);
    person.job.events.push(proof_core::site::Event::new(Uuid::new_v4(), "A", person.clock, below_dead));
    person.did(&leaving(below.id, vec![], true));
    assert_eq!(asked(&person.job), 0);
    let out = left_out(&person.job, Form::Installation).join("\n");
    assert!(out.contains("the whole of Studio board") && !out.contains("way 1"), "{out}");
    assert!(may_energise((&person.job).into(), below.id, &ways, true).is_err(), "untested ways stay dead");
}

/// A board on which something stands altered, or of which the log knows, is not waved into use; a way that
/// was left dead on it stays dead.
#[test]
fn only_a_board_of_which_nothing_is_known_is_found_in_use() {
    use proof_core::gate::may_be_in_use;
    let mut person = Person::new(ring());
    let board = person.job.installation.boards[0].id;
    assert_eq!(may_be_in_use(&person.job, board), Ok(()));
    let log = |job: &mut Job, kind| {
        job.events.push(proof_core::site::Event::new(Uuid::new_v4(), "A", Timestamp::UNIX_EPOCH, kind))
    };
    let mut looked_at = person.job.clone();
    let (shown, because) = (Vec::new(), "live".to_owned());
    log(&mut looked_at, EventKind::NotIsolated { board, circuits: vec![], shown, because });
    assert!(may_be_in_use(&looked_at, board).is_err(), "the tester is at it");
    let mut linked = person.job.clone();
    let (item, alteration, note) = (Uuid::from_u128(9), Alteration::Link, "way 4".to_owned());
    log(&mut linked, EventKind::Altered { item, board, circuit: Some(CIRCUIT), alteration, note });
    linked.history = linked.events.len();
    assert!(may_be_in_use(&linked, board).is_err(), "a link is in, by a file");
    let (lock, reason) = ("key 1".to_owned(), "later".to_owned());
    log(&mut person.job, EventKind::LeftDead { board, circuits: vec![CIRCUIT], lock, reason });
    person.job.history = person.job.events.len();
    person.did(&Deed::InUse(board));
    assert_eq!(person.job.site().board(board).0, BoardState::Energised);
    assert_eq!(person.job.site().circuit(board, CIRCUIT).0, BoardState::NotProved, "locked off, and not in use");
}

/// With no point named as the work every point is asked: nothing is certified on none.
#[test]
fn where_every_point_stood_every_point_is_asked() {
    let mut job = ring();
    for point in &mut job.installation.circuits[0].points {
        point.stood = true;
    }
    let settled = Settled::new(&[], &[]);
    let run = Run::new(&job, &settled, Order::default());
    let walked = run.planned.iter().filter(|one| one.step.key.test == Test::R1R2 && one.step.required).count();
    assert_eq!(walked, job.installation.circuits[0].points.len());
}

/// Minor works are asked less than an installation certificate rests on: none is issued of them.
#[test]
fn no_installation_certificate_is_issued_of_minor_works() {
    let mut person = Person::new(ring());
    person.walk(false);
    let form = Form::Installation;
    let signatures = demo::signed(&[]);
    let application =
        Application { form, number: "M-1".into(), replaces: None, signatures, key: "k".into(), now: person.clock };
    let refused = issue(&person.job, application).unwrap_err();
    assert!(refused.to_string().contains("choose another nature"), "{refused}");
}

/// Isolated alone, nothing is asked to be unplugged or switched at the live board.
#[test]
fn alone_nothing_is_seen_to_at_the_board() {
    use proof_core::plan::hook_up::{hook_up, hook_up_alone};
    let mut job = ring();
    job.installation.boards[0].surge = "type 2".into();
    let (installation, circuit) = (&job.installation, &job.installation.circuits[0]);
    let steps = circuit_steps(installation, circuit);
    let step = steps.iter().find(|step| step.slug == "ir-e-l").unwrap();
    let (whole, alone) = (hook_up(installation, step), hook_up_alone(installation, step, "the new socket"));
    let at_board = ["surge device", "the RCBO off"];
    for words in at_board {
        assert!(whole.notes.iter().any(|note| note.contains(words)), "{words}: {:?}", whole.notes);
        assert!(!alone.notes.iter().any(|note| note.contains(words)), "{words}: {:?}", alone.notes);
    }
    assert_eq!(alone.stand, "the new socket");
    assert!(alone.terminals.iter().all(|one| one.side == proof_core::plan::hook_up::Side::Point));
}
