//! The bench beside what it should equal: the exact network of a circuit, the sum of the parts of a loop, and the rules of
//! safe work, asked by acts alone.

use crate::hands::{act, number, press};
use proof_bench::practice::made::pose;
use proof_bench::practice::marks::{Answers, mark, reads_alike};
use proof_bench::practice::{Exercise, Posed, Truth, Wrong};
use proof_bench::rig::grid::Grid;
use proof_bench::rig::instrument::MeterDisplay;
use proof_bench::rig::stand::RigState;
use proof_bench::rig::terminal::{Terminal, Wire};
use proof_bench::rig::{bench::Bench, safety::Unsafe};
use proof_physics::network::circuit::expect;
use proof_standard::conductor::Core;
use proof_standard::shape::Shape;

const RING: [[&str; 2]; 2] = [["w1t1-L", "w1t2-N"], ["w1t2-L", "w1t1-N"]];
const RING_EARTH: [[&str; 2]; 2] = [["w1t1-L", "w1t2-E"], ["w1t2-L", "w1t1-E"]];

/// The circuit of an exercise as its links are made for a step.
fn linked(bench: &mut Bench, ring: bool, earth: bool, on: bool) {
    let state = if on { "on" } else { "off" };
    let links: Vec<[&str; 2]> = match (ring, earth) {
        (true, false) => RING.to_vec(),
        (true, true) => RING_EARTH.to_vec(),
        (false, false) => vec![["w1t1-L", "bar-N"]],
        (false, true) => vec![["w1t1-L", "bar-E"]],
    };
    for [a, b] in links {
        act(bench, &[&format!("link {a} {b} {state}")]);
    }
}

fn built(posed: &Posed) -> (&proof_physics::network::description::Description, Wrong, f64) {
    match &posed.truth {
        Truth::Circuit { built, wrong, ohm, .. } => (built, *wrong, *ohm),
        other => panic!("{other:?}"),
    }
}

/// Thousands of circuits: the network of the bench, built apart, equals the network of `proof expect`, and the instrument
/// shows it within its scatter and a contact.
#[test]
fn readings_equal_what_is_expected_on_thousands_of_circuits() {
    let mut read = 0;
    for seed in 0..2000 {
        let exercise = if seed % 2 == 0 { Exercise::Ring } else { Exercise::Radial };
        let posed = pose(exercise, seed).unwrap();
        let truth = expect(built(&posed).0).unwrap();
        let mut bench = posed.bench.clone();
        let ring = exercise == Exercise::Ring;
        act(&mut bench, &["knob low", "null"]);
        if ring {
            act(&mut bench, &["tail 1 L off", "tail 1 N off", "tail 1 E off"]);
            let ends = truth.end_to_end.unwrap();
            for (core, exact) in [("L", ends.r1), ("N", ends.rn), ("E", ends.r2)] {
                let shown = number(press(&mut bench, &format!("w1t1-{core}"), &format!("w1t2-{core}")));
                assert_eq!(shown.is_some(), exact.is_some(), "seed {seed}, {core}");
                assert!(shown.zip(exact).is_none_or(|(a, b)| (a - b).abs() < 0.1), "seed {seed}: {shown:?} {exact:?}");
            }
        }
        for (earth, letter) in [(false, "N"), (true, "E")] {
            linked(&mut bench, ring, earth, true);
            let grid = Grid::new(&bench.rig, &bench.state, 0.0);
            for (index, point) in truth.points.iter().enumerate() {
                let exact = if earth { point.r1_r2 } else { point.r1_rn };
                let names = [format!("w1p{}-L", index + 1), format!("w1p{}-{letter}", index + 1)];
                let [a, b] = [&names[0], &names[1]].map(|name| Terminal::from_key(name).unwrap());
                // Beyond the low range there is insulation alone.
                let ohm = grid.ohm(a, b).filter(|ohm| *ohm < 1e6);
                assert_eq!(ohm.is_some(), exact.is_some(), "seed {seed} point {index} {letter}");
                if let (Some(ohm), Some(exact)) = (ohm, exact) {
                    assert!((ohm - exact).abs() < 1e-6, "seed {seed} point {index} {letter}: {ohm} {exact}");
                    let shown = number(press(&mut bench, &names[0], &names[1])).unwrap();
                    assert!((-0.04..0.1).contains(&(shown - exact)), "seed {seed}: {shown} {exact}");
                    read += 1;
                }
            }
            linked(&mut bench, ring, earth, false);
        }
        assert!(bench.unsafe_acts.is_empty(), "{:?}", bench.unsafe_acts);
    }
    assert!(read > 15_000, "{read}");
}

/// Ze and Zs are the sums of their parts; voltages are those of a healthy, a reversed and a broken supply.
#[test]
fn live_values_are_the_sums_of_their_parts() {
    for seed in 0..200 {
        let mut posed = pose(Exercise::Origin, seed).unwrap();
        let rig = &mut posed.bench.rig;
        // Without the ground beside it the loop is its parts alone.
        rig.bonds.clear();
        let supply = rig.supply.clone();
        let mut live = Bench::new(rig.clone(), RigState::in_use(rig), seed);
        live.state.lamps.clear();
        let grid = Grid::new(&live.rig, &live.state, 0.0);
        let at = |name: &str| Terminal::from_key(name).unwrap();
        let ze = grid.ohm(at("in-L"), at("in-E")).unwrap();
        assert!((ze - supply.line_ohm - supply.earth_ohm).abs() < 1e-9);
        let neutral = grid.ohm(at("bar-L"), at("bar-N")).unwrap();
        assert!((neutral - supply.line_ohm - supply.neutral_ohm).abs() < 1e-6);
        // The last light of the second way, a radial: Ze and its own line and CPC.
        let way = &live.rig.ways[1].cable;
        let metres: f64 = way.points.iter().map(|point| point.leg.get()).sum();
        let [line, _, cpc] = way.cores.0;
        let last = way.points.len();
        let zs = grid.ohm(at(&format!("w2p{last}-L")), at(&format!("w2p{last}-E"))).unwrap();
        assert!((zs - ze - metres * (line + cpc)).abs() < 1e-6, "seed {seed}: {zs}");
        act(&mut live, &["knob quiet"]);
        let shown = number(press(&mut live, &format!("w2p{last}-L"), &format!("w2p{last}-E"))).unwrap();
        assert!((shown - zs).abs() < 0.05);

        let volts = |stand: &RigState, rig: &proof_bench::rig::Rig, a: &str, b: &str| {
            Grid::new(rig, stand, 0.0).energised().between(at(a), at(b))
        };
        let near = |volts: f64, wanted: f64| assert!((volts - wanted).abs() < 1.0, "{volts} {wanted}");
        let on = &live.state;
        near(volts(on, &live.rig, "w1p1-L", "w1p1-N"), 230.0);
        near(volts(on, &live.rig, "w1p1-L", "w1p1-E"), 230.0);
        near(volts(on, &live.rig, "w1p1-N", "w1p1-E"), 0.0);
        // Reversed at the supply.
        let mut reversed = live.rig.clone();
        reversed.supply.reversed = true;
        near(volts(on, &reversed, "bar-L", "bar-E"), 0.0);
        near(volts(on, &reversed, "bar-N", "bar-E"), 230.0);
        // The neutral of a way out, a lamp in: the whole voltage comes through the lamp to its neutral.
        let mut lost = on.clone();
        lost.out.insert((1, Wire::N));
        lost.lamps.insert((1, 0));
        near(volts(&lost, &live.rig, "w2p1-L", "w2p1-N"), 0.0);
        near(volts(&lost, &live.rig, "w2p1-N", "w2p1-E"), 230.0);
        // Off: nothing below the main switch, everything above it.
        let off = RigState::isolated(&live.rig);
        near(volts(&off, &live.rig, "bar-L", "bar-N"), 0.0);
        near(volts(&off, &live.rig, "in-L", "in-N"), 230.0);
    }
}

fn in_use() -> Bench {
    let mut bench = pose(Exercise::ProveDead, 3).unwrap().bench;
    bench.rig.supply.reversed = false;
    bench
}

const OFF: [&str; 5] = ["way 1 off", "way 2 off", "way 3 off", "main off", "lock on"];

fn proves(bench: &mut Bench, again: bool) {
    act(bench, &["knob volts"]);
    press(bench, "known-a", "known-b");
    for [a, b] in [["L", "N"], ["L", "E"], ["N", "E"]] {
        assert_eq!(number(press(bench, &format!("bar-{a}"), &format!("bar-{b}"))), Some(0.0));
    }
    if again {
        press(bench, "known-a", "known-b");
    }
}

#[test]
fn what_is_unsafe_is_told_and_what_is_safe_is_not() {
    // In order: nothing to tell.
    let mut bench = in_use();
    act(&mut bench, &OFF);
    proves(&mut bench, true);
    act(&mut bench, &["link w3t1-L bar-E on", "link w3t1-L bar-E off", "lock off", "main on", "way 3 on"]);
    assert_eq!(bench.unsafe_acts, []);
    assert!(bench.state.ways_on[2], "{}", bench.message);
    // Proved once; not at all; not locked.
    for (again, prove, wanted) in [(false, true, Unsafe::ProvedOnce), (false, false, Unsafe::NotProved)] {
        let mut bench = in_use();
        act(&mut bench, &OFF);
        if prove {
            proves(&mut bench, again);
        }
        act(&mut bench, &["tail 1 L off"]);
        assert_eq!(bench.unsafe_acts, [wanted]);
    }
    let mut bench = in_use();
    act(&mut bench, &OFF[..4]);
    proves(&mut bench, true);
    act(&mut bench, &["tail 1 L off"]);
    assert_eq!(bench.unsafe_acts, [Unsafe::NotLocked]);
    // A link left in: the way goes off with a bang.
    let mut bench = in_use();
    act(&mut bench, &OFF);
    proves(&mut bench, true);
    act(&mut bench, &["link w3t1-L bar-E on", "lock off", "main on", "way 3 on"]);
    assert_eq!(bench.unsafe_acts, [Unsafe::LinkLeftIn]);
    assert!(!bench.state.ways_on[2] && bench.message.contains("tripped at once"), "{}", bench.message);
    // The earthing conductor left off.
    let mut bench = in_use();
    act(&mut bench, &OFF);
    proves(&mut bench, true);
    act(&mut bench, &["earth off", "lock off", "main on"]);
    assert_eq!(bench.unsafe_acts, [Unsafe::EnergisedWithoutEarth]);
    // Under load, and an ohmmeter on what is live.
    let mut bench = in_use();
    act(&mut bench, &["main off"]);
    assert_eq!(bench.unsafe_acts, [Unsafe::UnderLoad]);
    let mut bench = in_use();
    act(&mut bench, &["knob low"]);
    assert!(matches!(press(&mut bench, "w1p1-L", "w1p1-N"), MeterDisplay::Live(_)));
    assert_eq!(bench.unsafe_acts, [Unsafe::TestedLive]);
    assert!(!bench.is_over());
    // Nor is a null on what is live; one tip on it, the other in the hand, is no test.
    let mut bench = in_use();
    act(&mut bench, &["knob low", "probe 1 w1p1-L", "press", "probe 2 w1p1-N"]);
    assert_eq!(bench.unsafe_acts, []);
    act(&mut bench, &["null"]);
    assert_eq!((bench.unsafe_acts.clone(), bench.instrument.null), (vec![Unsafe::TestedLive], None));
    let mut bench = in_use();
    act(&mut bench, &["knob low"]);
    press(&mut bench, "w1p1-L", "w1p2-L");
    assert_eq!(bench.unsafe_acts, [Unsafe::TestedLive], "both on live conductors, nothing between them");
    // A way on to a link, while the board is live.
    let mut bench = in_use();
    act(&mut bench, &["way 3 off", "link w3t1-L bar-E on", "way 3 on"]);
    assert_eq!(bench.unsafe_acts, [Unsafe::NotLocked, Unsafe::NotProved, Unsafe::LinkLeftIn]);
    // Hands on a live terminal: the end.
    let mut bench = in_use();
    act(&mut bench, &["tail 1 L off"]);
    assert_eq!(bench.unsafe_acts, [Unsafe::TouchedLive]);
    assert!(bench.is_over());
    let acts = bench.acts;
    act(&mut bench, &["main off"]);
    assert_eq!((bench.acts, bench.state.main_on), (acts, true), "nothing is done any more");
    // With the earth off, Ze alone may be read above the main switch.
    for (knob, wanted) in
        [("loop", None), ("volts", Some(Unsafe::LiveWithoutEarth)), ("ir500", Some(Unsafe::LiveWithoutEarth))]
    {
        let mut bench = in_use();
        act(&mut bench, &OFF);
        proves(&mut bench, true);
        act(&mut bench, &["earth off", &format!("knob {knob}")]);
        press(&mut bench, "in-L", "in-E");
        assert_eq!(bench.unsafe_acts.first().copied(), wanted, "{knob}");
        assert_eq!(bench.is_over(), wanted.is_some());
    }
}

#[test]
fn wrong_use_has_its_true_consequence() {
    // Leads that are not nulled stand in the reading.
    let posed = pose(Exercise::Radial, 4).unwrap();
    let mut bench = posed.bench.clone();
    act(&mut bench, &["link w1t1-L bar-E on", "knob low", "leads long"]);
    let with = number(press(&mut bench, "w1p1-L", "w1p1-E"));
    act(&mut bench, &["probe 1 hand", "probe 2 hand", "null"]);
    let without = number(press(&mut bench, "w1p1-L", "w1p1-E"));
    if let (Some(with), Some(without)) = (with, without) {
        assert!((0.5..0.68).contains(&(with - without)), "{with} {without}");
    }
    // A null across a circuit is refused where it is more than leads, and stands where it is not.
    act(&mut bench, &["probe 1 w1p1-L", "probe 2 w2p1-L", "null"]);
    assert!(bench.message.contains("more than leads"), "{}", bench.message);
    // A lamp left in is what the insulation range reads.
    let mut bench = pose(Exercise::Insulation, 8).unwrap().bench;
    act(&mut bench, &["knob ir500", "tail 2 N off", "tail 2 E off"]);
    assert_eq!(number(press(&mut bench, "w2t1-L", "w2t1-N")), Some(0.0));
    let lamps: Vec<String> =
        bench.state.lamps.iter().map(|(way, point)| format!("lamp {} {} off", way + 1, point + 1)).collect();
    act(&mut bench, &lamps.iter().map(String::as_str).collect::<Vec<_>>());
    assert_eq!(press(&mut bench, "w2t1-N", "w2t1-E"), MeterDisplay::OverMegohm);
    // A short is seen with an ohmmeter too, a neon at high voltage alone, damp by the insulation range alone.
    for (megohm, above_v, low, high) in
        [(2e-6, 0.0, true, true), (0.25, 90.0, false, true), (2.0, 0.0, false, true), (1e5, 0.0, false, false)]
    {
        let mut rig = pose(Exercise::Insulation, 1).unwrap().bench.rig;
        rig.ways.iter_mut().for_each(|way| way.leaks.clear());
        rig.ways[0].leaks.push(proof_bench::rig::Leak {
            between: [Wire::L1, Wire::N],
            point: 1,
            megohm,
            above_v,
            creeps: 0.0,
        });
        let stand = RigState { lamps: std::collections::BTreeSet::new(), ..RigState::isolated(&rig) };
        let mut bench = Bench::new(rig, stand, 1).proved();
        act(&mut bench, &["knob low"]);
        assert_eq!(press(&mut bench, "w1t1-L", "w1t1-N") != MeterDisplay::OverOhm, low, "{megohm}");
        act(&mut bench, &["knob ir500"]);
        assert_eq!(press(&mut bench, "w1t1-L", "w1t1-N") != MeterDisplay::OverMegohm, high, "{megohm}");
    }
    // A loop test at full current trips the residual device upstream; the quiet one does not.
    let mut bench = pose(Exercise::Residual, 5).unwrap().bench;
    act(&mut bench, &["knob quiet"]);
    assert!(number(press(&mut bench, "w1p2-L", "w1p2-E")).is_some());
    act(&mut bench, &["knob loop"]);
    assert_eq!(press(&mut bench, "w1p2-L", "w1p2-E"), MeterDisplay::Tripped);
    assert!(!bench.state.ways_on[0]);
    assert_eq!(press(&mut bench, "w1p2-L", "w1p2-E"), MeterDisplay::NoSupply);
    // 500 V between line and neutral breaks electronics; joined to earth does not.
    let mut rig = pose(Exercise::Insulation, 1).unwrap().bench.rig;
    rig.ways[3].delicate = Some(0);
    let stand = RigState { lamps: std::collections::BTreeSet::new(), ..RigState::isolated(&rig) };
    let mut bench = Bench::new(rig, stand, 1).proved();
    act(&mut bench, &["knob ir500"]);
    press(&mut bench, "w4t1-L", "w4t1-E");
    assert!(bench.state.broken.is_empty());
    press(&mut bench, "w4p1-L", "w4p1-N");
    assert!(bench.state.broken.contains(&3));
}

/// An apprentice who reads everything and names what fits best, by trying every fault on the exact network.
fn works(posed: &Posed) -> (Bench, Answers) {
    let (built, _, _) = built(posed);
    let ring = built.shape == Shape::Ring;
    let mut bench = posed.bench.clone();
    let mut answers = Answers::new();
    act(&mut bench, &["knob low", "null"]);
    if ring {
        act(&mut bench, &["tail 1 L off", "tail 1 N off", "tail 1 E off"]);
        for (core, name) in [("L", "r1"), ("N", "rn"), ("E", "r2")] {
            let shown = press(&mut bench, &format!("w1t1-{core}"), &format!("w1t2-{core}"));
            answers.insert(name.into(), number(shown).map(|value| value.to_string()).unwrap_or_default());
        }
    }
    let mut read = Vec::new();
    for (earth, letter) in [(false, "N"), (true, "E")] {
        linked(&mut bench, ring, earth, true);
        for index in 0..built.points.len() {
            let [a, b] = [format!("w1p{}-L", index + 1), format!("w1p{}-{letter}", index + 1)];
            // The second press lets the contact settle.
            press(&mut bench, &a, &b);
            act(&mut bench, &["press"]);
            read.push((index, earth, number(bench.shown)));
        }
        linked(&mut bench, ring, earth, false);
    }
    let highest = read.iter().filter(|(_, earth, _)| *earth).filter_map(|(_, _, value)| *value).fold(0.0, f64::max);
    answers.insert("r1_r2".into(), if highest > 0.0 { highest.to_string() } else { String::new() });
    // Every fault that a learner could name, the sound circuit first.
    let mut sound = built.clone();
    sound.faults.clear();
    let mut all = vec![(Wrong::Sound, 0.0)];
    for core in Core::ALL {
        for after in (0..=built.points.len()).map(|at| at.checked_sub(1)) {
            all.push((Wrong::Open(core, after), 0.0));
            all.extend((14..=50).map(|step| (Wrong::Joint(core, after), f64::from(step) * 0.025)));
        }
    }
    for at in 0..built.points.len() {
        all.extend(
            [(Core::L, Core::N), (Core::L, Core::E), (Core::N, Core::E)].map(|(a, b)| (Wrong::Swap(a, b, at), 0.0)),
        );
    }
    let misfit = |wrong: Wrong, ohm: f64| {
        let Ok(exact) = expect(&proof_bench::practice::made::with_fault(&sound, wrong, ohm)) else { return f64::MAX };
        let mut sum = 0.0;
        for (index, earth, value) in &read {
            let exact = if *earth { exact.points[*index].r1_r2 } else { exact.points[*index].r1_rn };
            sum += match (exact, value) {
                (Some(exact), Some(value)) => (exact - value).powi(2),
                (None, None) => 0.0,
                _ => 100.0,
            };
        }
        if let Some(ends) = exact.end_to_end {
            for (exact, name) in [(ends.r1, "r1"), (ends.rn, "rn"), (ends.r2, "r2")] {
                sum += match (exact, answers[name].parse::<f64>().ok()) {
                    (Some(exact), Some(value)) => (exact - value).powi(2),
                    (None, None) => 0.0,
                    _ => 100.0,
                };
            }
        }
        sum
    };
    let best = all.into_iter().min_by(|a, b| misfit(a.0, a.1).total_cmp(&misfit(b.0, b.1))).unwrap().0;
    let place = |after: Option<usize>| after.map_or("board".to_owned(), |at| (at + 1).to_string());
    let (wrong, cores, at) = match best {
        Wrong::Sound => ("sound", String::new(), String::new()),
        Wrong::Joint(core, after) => ("joint", core.letter().to_owned(), place(after)),
        Wrong::Open(core, after) => ("open", core.letter().to_owned(), place(after)),
        Wrong::Swap(a, b, at) => ("swap", format!("{}{}", a.letter(), b.letter()), (at + 1).to_string()),
        other => panic!("{other:?} is of hard exercises alone"),
    };
    answers.extend([("wrong".into(), wrong.into()), ("core".into(), cores), ("place".into(), at)]);
    (bench, answers)
}

/// By the screen's acts alone every fault can be found, safely; and what is not answered is missed.
#[test]
fn careful_work_earns_its_marks_and_no_work_earns_none() {
    for seed in 0..150 {
        let posed = pose(if seed % 2 == 0 { Exercise::Ring } else { Exercise::Radial }, seed).unwrap();
        let (bench, answers) = works(&posed);
        let marks = mark(&posed, &bench, &answers);
        assert!(marks.is_clean(), "seed {seed}: {marks:?}\n{answers:?}");
        // Each point was pressed twice: what settles is one reading.
        let built = built(&posed).0;
        let ends = if built.shape == Shape::Ring { 3 } else { 0 };
        assert_eq!(marks.readings, 2 * built.points.len() + ends, "seed {seed}");
        assert!(marks.fewest <= marks.readings + 2, "seed {seed}: {}", marks.fewest);
        let none = mark(&posed, &posed.bench, &Answers::new());
        assert!(!none.found(), "seed {seed}: nothing was said");
        // Another fault than the one that is there, and that reads otherwise, is a miss.
        let (_, wrong, ohm) = crate::rig::built(&posed);
        let other = if wrong == Wrong::Sound { Wrong::Open(Core::L, None) } else { Wrong::Sound };
        assert!(!reads_alike(built, other, ohm), "seed {seed}");
    }
}

#[test]
fn the_same_seed_poses_the_same_and_another_another() {
    for exercise in Exercise::ALL {
        assert_eq!(pose(exercise, 11), pose(exercise, 11));
        assert_ne!(pose(exercise, 11), pose(exercise, 12));
        let wrongs: std::collections::BTreeSet<String> =
            (0..40).map(|seed| format!("{:?}", pose(exercise, seed).unwrap().truth)).collect();
        assert!(wrongs.len() >= 2, "{exercise:?} is always the same");
    }
}
