//! Two-way and intermediate switching: which combinations are read, what they should read, and each fault
//! found from what they showed. What a fault shows is laid down here by hand for two switches, and traced
//! by hand along the wires for three.

use proof_bench::demo;
use proof_job::installation::switching::{Switching, switched_metres, switchings};
use proof_job::installation::{Accessory, Circuit, Installation, Point, PointId, shorthand};
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Place, Reading, Stage, Step, Test, Value};
use proof_judge::expectation::Known;
use proof_judge::explanation::switching::{Combination, SwitchFault, explain, said_of};
use proof_standard::house_rules::SwitchedAt;
use proof_standard::quantity::Metres;
use proof_work::plan::outstanding::{outstanding, step_state};
use proof_work::plan::sequence::circuit_steps;
use proof_work::plan::substitute::Scope;
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

const A: PointId = PointId(1);
const B: PointId = PointId(2);
const C: PointId = PointId(3);

fn lights(points: &[(&str, Accessory, f64, Option<u32>)]) -> Job {
    let mut job = demo::jobs().swap_remove(0);
    (job.readings, job.events) = (Vec::new(), Vec::new());
    let board = job.installation.boards[0].id;
    let line = r#"1 lights B6 6kA 1.5/1.0 1pt ref C N1 E1 "Stair""#;
    let (mut circuit, _) = shorthand::parse(line).unwrap().build(board, Uuid::from_u128(0x11));
    circuit.order_known = true;
    circuit.points = points
        .iter()
        .zip(1..)
        .map(|((name, accessory, metres, from), number)| Point {
            id: PointId(number),
            name: (*name).into(),
            accessory: *accessory,
            leg_m: Metres::new(*metres).ok(),
            spur_from: from.map(PointId),
            ..Point::default()
        })
        .collect();
    job.installation.circuits = vec![circuit];
    job
}

fn stair() -> Job {
    use Accessory::{Intermediate, Lamp, TwoWay};
    lights(&[
        ("door", TwoWay, 8.0, None),
        ("landing", Intermediate, 4.0, None),
        ("attic", TwoWay, 5.0, None),
        ("lamp", Lamp, 3.0, None),
        ("lamp 2", Lamp, 2.0, None),
    ])
}

fn steps(installation: &Installation) -> Vec<Step> {
    circuit_steps(installation, &installation.circuits[0])
}

fn r1_r2(installation: &Installation) -> Vec<(String, bool)> {
    let all = steps(installation).into_iter().filter(|step| step.stage == Stage::R1R2);
    all.map(|step| (step.label.clone(), step.expects_open())).collect()
}

/// Every combination once, one switch thrown at a time, closed and open in turn.
#[test]
fn every_combination_is_read_with_one_throw_between_them() {
    let mut job = stair();
    let read = r1_r2(&job.installation);
    let at_lamp: Vec<_> = read.iter().filter(|(label, _)| label.starts_with("lamp,")).collect();
    assert_eq!(at_lamp.len(), 7, "{at_lamp:?}");
    assert_eq!(at_lamp.iter().filter(|(_, open)| *open).count(), 4, "half of eight are open, the first was closed");
    let one = switchings(&job.installation.circuits[0]).remove(0);
    assert_eq!((one.switches.clone(), one.lamps.len()), (vec![A, B, C], 2));
    let mut before: Vec<PointId> = Vec::new();
    for thrown in one.throws() {
        let changed = [A, B, C].iter().filter(|id| before.contains(id) != thrown.contains(id)).count();
        assert_eq!(changed, 1, "{before:?} {thrown:?}");
        before = thrown;
    }
    for name in ["door", "landing", "attic", "lamp", "lamp 2"] {
        assert!(read.contains(&(name.to_owned(), false)), "{name}: its own CPC is read once, closed");
    }
    assert!(!read.iter().any(|(label, _)| label.contains("open")), "no two-way switch has an open of its own");
    job.installation.house_rules.switched_at = SwitchedAt::Common;
    let at_switch = r1_r2(&job.installation).iter().filter(|(label, _)| label.starts_with("attic, ")).count();
    assert_eq!(at_switch, 7, "or at the common of the last switch");
}

#[test]
fn switches_and_lamps_belong_together_by_order_or_by_name() {
    use Accessory::{Lamp, Switch, TwoWay};
    let of = |job: &Job| {
        let all = switchings(&job.installation.circuits[0]);
        all.iter()
            .map(|one| (one.switches.iter().map(|id| id.0).collect(), one.lamps.iter().map(|id| id.0).collect()))
            .collect()
    };
    let two = lights(&[
        ("a", TwoWay, 1.0, None),
        ("b", TwoWay, 1.0, None),
        ("x", Lamp, 1.0, None),
        ("c", TwoWay, 1.0, None),
        ("y", Lamp, 1.0, None),
        ("d", TwoWay, 1.0, None),
        ("z", Lamp, 1.0, None),
    ]);
    let groups: Vec<(Vec<u32>, Vec<u32>)> = of(&two);
    assert_eq!(groups, [(vec![1, 2], vec![3]), (vec![4, 6], vec![5, 7])]);
    let mut named = two.clone();
    for (point, name) in named.installation.circuits[0].points.iter_mut().zip(["s", "t", "s", "s", "t", "t", "t"]) {
        point.switching = name.into();
    }
    let groups: Vec<(Vec<u32>, Vec<u32>)> = of(&named);
    assert_eq!(groups, [(vec![1, 4], vec![3]), (vec![2, 6], vec![5, 7])]);
    let plain = lights(&[("a", Switch, 1.0, None), ("x", Lamp, 1.0, None)]);
    assert_eq!(switchings(&plain.installation.circuits[0]), [], "a switch that opens is none");
    let five = Switching { switches: (1..=5).map(PointId).collect(), lamps: vec![] };
    assert_eq!(five.throws().len(), 9, "of five each alone, and each two neighbours");
}

/// The line runs by the switches, the CPC straight: by BS EN 60228, 12.10 mΩ/m for 1.5 mm² and 18.10 for
/// 1.0, worked out on paper.
#[test]
fn what_a_switched_lamp_should_read_follows_from_the_lengths() {
    use Accessory::{Lamp, TwoWay};
    // Looped at the lamp: 10 m to it, a drop of 4 m to the door and 6 m on to the bed.
    let job = lights(&[("lamp", Lamp, 10.0, None), ("door", TwoWay, 4.0, Some(1)), ("bed", TwoWay, 6.0, Some(2))]);
    let circuit = &job.installation.circuits[0];
    // Line: 14 to the door, 6 to the bed, 10 back to the lamp; CPC 10.
    assert_eq!(switched_metres(circuit, A), Some([30.0, 10.0]));
    assert_eq!(switched_metres(circuit, B), Some([14.0, 14.0]));
    assert_eq!(switched_metres(circuit, C), Some([20.0, 20.0]));
    let settled = CurrentReadings::new(&[], &[]);
    let known = Known::new(&job.installation, circuit, &settled);
    let all = steps(&job.installation);
    let key = |label: &str| &all.iter().find(|step| step.stage == Stage::R1R2 && step.label == label).unwrap().key;
    let band = known.band(key("lamp")).unwrap();
    let worked = 0.030 * 12.10 + 0.010 * 18.10;
    assert!((band.centre.unwrap() - worked).abs() < 1e-6, "{band:?}");
    assert!(band.low > 0.35 && band.high.unwrap() < 0.66, "an expectation, and not 0 to anything: {band:?}");
    // In a chain each runs like the other.
    let chain = stair();
    assert_eq!(switched_metres(&chain.installation.circuits[0], PointId(4)), Some([20.0, 20.0]));
}

fn reading(step: &Step, value: Value) -> Reading {
    let mut one = demo::jobs()[0].readings[0].clone();
    (one.id, one.key, one.value) = (Uuid::new_v4(), step.key.clone(), value);
    one.context.taken_at = Some(jiff::Timestamp::UNIX_EPOCH);
    one
}

/// Once it lit, the other strapper should read as much; both readings of a switch stand where they were
/// taken in the way of before.
#[test]
fn the_first_reading_is_what_the_others_are_held_to() {
    let mut job = stair();
    for point in &mut job.installation.circuits[0].points {
        point.leg_m = None;
    }
    let all = steps(&job.installation);
    let at = |label: &str| all.iter().find(|step| step.stage == Stage::R1R2 && step.label == label).unwrap();
    job.readings.push(reading(at("lamp"), Value::Number(dec!(0.61))));
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let known = Known::new(&job.installation, &job.installation.circuits[0], &settled);
    let band = known.band(&at("lamp, door and landing thrown").key).unwrap();
    assert!((band.centre.unwrap() - 0.61).abs() < 1e-9 && band.high.unwrap() < 0.67, "{band:?}");
    assert!(known.band(&at("lamp, door thrown").key).unwrap().high.is_none(), "open");
}

/// A job that was read at the switches themselves stays read.
#[test]
fn what_was_read_at_the_switches_stays_read() {
    use proof_job::installation::Position;
    let mut job = stair();
    let circuit = job.installation.circuits[0].clone();
    let all = steps(&job.installation);
    let model = all.iter().find(|step| step.key.test == Test::R1R2).unwrap().clone();
    let routes = [
        (A, [Position::Up, Position::Down]),
        (B, [Position::Straight, Position::Crossed]),
        (C, [Position::Up, Position::Down]),
    ];
    let wanting = |job: &Job| {
        let settled = CurrentReadings::new(&job.readings, &job.events);
        let switched = |step: &&Step| {
            let place = step.key.subject.place();
            matches!(place, Some(Place::Switched { .. })) || place.and_then(Place::point).is_some_and(|id| id <= C)
        };
        let of_walk = |step: &&Step| step.key.test == Test::R1R2;
        let left = all.iter().filter(of_walk).filter(switched);
        left.filter(|step| !step_state(&job.installation, Scope::Circuit(&circuit), &settled, step).is_done()).count()
    };
    assert_eq!(wanting(&job), 10);
    for (point, [one, other]) in routes {
        for (position, value) in
            [(one, Value::Number(dec!(0.4))), (other, Value::Number(dec!(0.4))), (Position::Open, Value::Open)]
        {
            let mut step = model.clone();
            step.key = proof_job::reading::Key::on_circuit(circuit.id, Place::Switch { point, position }, Test::R1R2);
            job.readings.push(reading(&step, value));
        }
    }
    assert_eq!(wanting(&job), 0);
    let settled = CurrentReadings::new(&job.readings, &job.events);
    assert!(outstanding(&job.installation, Scope::Circuit(&circuit), &settled).all().done >= 10);
}

fn read(all: &[(&[PointId], bool)]) -> Vec<Combination> {
    all.iter().map(|(thrown, reads)| Combination { thrown: thrown.to_vec(), reads: *reads }).collect()
}

/// Two switches, each fault as it shows on site (common practice, no source).
#[test]
fn two_switches_each_fault_by_its_table() {
    let of = |a, both, b| read(&[(&[A], a), (&[A, B], both), (&[B], b)]);
    let two = [A, B];
    assert_eq!(explain(&two, &of(false, true, false)), [], "as it should be");
    // A broken strapper: lit only by the other, so one combination of four.
    // An exchanged common shows the same: its switch feeds one strapper in one position, none in the other.
    assert_eq!(
        explain(&two, &of(false, false, false)),
        [SwitchFault::StrapperOpen(A, B), SwitchFault::CommonSwapped(A), SwitchFault::CommonSwapped(B)]
    );
    // The strappers touch: it never goes out. So does a switch that joins both, and nothing tells them apart.
    assert_eq!(explain(&two, &of(true, true, true)), [SwitchFault::StrappersJoined(A, B)]);
    // A switch that does not change over does nothing.
    assert_eq!(explain(&two, &of(true, false, false)), [SwitchFault::Stuck(A)]);
    assert_eq!(explain(&two, &of(false, false, true)), [SwitchFault::Stuck(B)]);
    // Common and strapper exchanged at the second: feed on a strapper, so the second alone decides, and the
    // first only while the second is off the feed's strapper.
    let swapped = explain(&two, &of(true, true, false));
    assert!(
        swapped.is_empty() || swapped.iter().all(|one| !matches!(one, SwitchFault::StrapperOpen(..))),
        "{swapped:?}"
    );
    // A combination that nobody read is no evidence.
    assert_eq!(explain(&two, &read(&[(&[A], false)])), []);
}

/// One wiring, traced along its wires from the feed: names on terminals, and each name is a wire.
struct Wired {
    door: [&'static str; 3],
    landing: [&'static str; 4],
    attic: [&'static str; 3],
    broken: &'static str,
    tied: [&'static str; 2],
    stuck: Option<PointId>,
}

const RIGHT: Wired = Wired {
    door: ["feed", "a", "b"],
    landing: ["a", "b", "c", "d"],
    attic: ["lamp", "c", "d"],
    broken: "",
    tied: ["", ""],
    stuck: None,
};

impl Wired {
    fn lit(&self, mut up: [bool; 3]) -> bool {
        for (at, id) in [A, B, C].into_iter().enumerate() {
            up[at] &= self.stuck != Some(id);
        }
        let [w, x, y, z] = self.landing;
        let (first, second) = if up[1] { ((w, z), (x, y)) } else { ((w, y), (x, z)) };
        let joins = [
            (self.door[0], self.door[if up[0] { 2 } else { 1 }]),
            first,
            second,
            (self.attic[0], self.attic[if up[2] { 2 } else { 1 }]),
            (self.tied[0], self.tied[1]),
        ];
        let mut live = vec!["feed"];
        for _ in 0..8 {
            for (one, other) in joins {
                for (from, to) in [(one, other), (other, one)] {
                    let passes = live.contains(&from) && from != self.broken && to != self.broken && !to.is_empty();
                    if passes && !live.contains(&to) {
                        live.push(to);
                    }
                }
            }
        }
        live.contains(&"lamp")
    }

    /// What each combination showed, from a position that lit it.
    fn read(&self, first: [bool; 3]) -> Vec<Combination> {
        let all = [vec![A], vec![A, B], vec![B], vec![B, C], vec![A, B, C], vec![A, C], vec![C]];
        all.into_iter()
            .map(|thrown| {
                let at = [A, B, C].map(|id| thrown.contains(&id));
                let now = [first[0] ^ at[0], first[1] ^ at[1], first[2] ^ at[2]];
                Combination { thrown, reads: self.lit(now) }
            })
            .collect()
    }
}

#[test]
fn three_switches_each_fault_is_found_from_any_first_position() {
    let faults: [(SwitchFault, Wired); 10] = [
        (SwitchFault::StrapperOpen(A, B), Wired { broken: "a", ..RIGHT }),
        (SwitchFault::StrapperOpen(B, C), Wired { broken: "d", ..RIGHT }),
        (SwitchFault::StrappersJoined(A, B), Wired { tied: ["a", "b"], ..RIGHT }),
        (SwitchFault::StrappersJoined(B, C), Wired { tied: ["c", "d"], ..RIGHT }),
        (SwitchFault::Stuck(A), Wired { stuck: Some(A), ..RIGHT }),
        (SwitchFault::Stuck(B), Wired { stuck: Some(B), ..RIGHT }),
        (SwitchFault::Stuck(C), Wired { stuck: Some(C), ..RIGHT }),
        (SwitchFault::CommonSwapped(A), Wired { door: ["a", "feed", "b"], ..RIGHT }),
        (SwitchFault::CommonSwapped(C), Wired { attic: ["d", "c", "lamp"], ..RIGHT }),
        (SwitchFault::PairsMixed(B), Wired { landing: ["a", "c", "b", "d"], ..RIGHT }),
    ];
    let mut alone = 0;
    let mut asked = 0;
    for (fault, wired) in &faults {
        let positions = (0..8).map(|bits| [bits & 1 != 0, bits & 2 != 0, bits & 4 != 0]);
        for first in positions.filter(|first| wired.lit(*first)) {
            let showed = wired.read(first);
            if showed.iter().all(|one| one.reads == (one.thrown.len() % 2 == 0)) {
                continue;
            }
            let found = explain(&[A, B, C], &showed);
            assert!(found.contains(fault), "{fault:?} from {first:?}: {found:?} {showed:?}");
            asked += 1;
            // What reads alike is named together, and no more than that.
            assert!(found.len() <= 4, "{fault:?} from {first:?}: {found:?}");
            alone += usize::from(found.len() == 1);
        }
    }
    assert!(asked >= 20, "{asked}");
    assert!(alone * 3 >= asked, "named alone {alone} of {asked}");
    for first in [[false; 3], [true, true, false]] {
        let right = if RIGHT.lit(first) { explain(&[A, B, C], &RIGHT.read(first)) } else { Vec::new() };
        assert_eq!(right, []);
    }
}

/// In words, by the names of the switches; nothing of what was never read.
#[test]
fn the_fault_is_said_by_the_names_on_the_drawing() {
    let mut job = stair();
    let circuit: Circuit = job.installation.circuits[0].clone();
    let all = steps(&job.installation);
    assert_eq!(said_of(&circuit, &CurrentReadings::new(&[], &[])), Vec::<String>::new());
    for step in all.iter().filter(|step| step.key.test == Test::R1R2) {
        let thrown = match step.key.subject.place() {
            Some(Place::Switched { thrown, .. }) => thrown.clone(),
            _ => Vec::new(),
        };
        let reads = RIGHT_BUT_ATTIC.lit([0, 1, 2].map(|at| thrown.contains(&[A, B, C][at])));
        let value = if reads { Value::Number(Decimal::new(52, 2)) } else { Value::Open };
        job.readings.push(reading(step, value));
    }
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let said = said_of(&circuit, &settled);
    assert_eq!(said, ["attic does not change over."]);
    let first = all.iter().find(|step| step.stage == Stage::R1R2 && step.label == "lamp").unwrap();
    let mut again = reading(first, Value::Open);
    again.context.taken_at = Some(jiff::Timestamp::UNIX_EPOCH + jiff::SignedDuration::from_mins(1));
    job.readings.push(again);
    let settled = CurrentReadings::new(&job.readings, &job.events);
    assert!(said_of(&circuit, &settled)[0].contains("find the combination of door, landing, attic"));
}

const RIGHT_BUT_ATTIC: Wired = Wired { stuck: Some(C), ..RIGHT };

/// One switch altered alters the switching: its combinations are asked, though the lamp stood.
#[test]
fn a_switching_with_a_part_of_the_work_is_asked_whole() {
    let mut job = stair();
    job.installation.nature = proof_job::installation::Nature::MinorWorks;
    for point in &mut job.installation.circuits[0].points {
        point.existing = point.id != C;
    }
    let circuit = job.installation.circuits[0].clone();
    let asked = |circuit: &Circuit| {
        let mut installation = job.installation.clone();
        installation.circuits[0] = circuit.clone();
        let all = circuit_steps(&installation, circuit);
        let combination = |step: &&Step| matches!(step.key.subject.place(), Some(Place::Switched { .. }));
        all.iter().filter(combination).filter(|step| step.required).count()
    };
    assert_eq!(asked(&circuit), 7);
    let mut beside = circuit;
    beside.points.push(Point { id: PointId(9), name: "cooker".into(), ..Point::default() });
    beside.points.iter_mut().for_each(|point| point.existing = point.id != PointId(9));
    assert_eq!(asked(&beside), 0, "the work is elsewhere");
}
