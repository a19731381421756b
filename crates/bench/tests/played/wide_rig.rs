//! Sub-boards, three lines, other sources, an electrode, switches of two ways, what settles, what is lost: each beside
//! what it should read by a sum of its own.

use crate::hands::{act, number, press};
use proof_bench::rig::grid::Grid;
use proof_bench::rig::instrument::MeterDisplay;
use proof_bench::rig::stand::RigState;
use proof_bench::rig::terminal::{Terminal, Wire};
use proof_bench::rig::{
    AtSwitch, Bond, Feed, Fitting, Leak, Residual, Rig, Second, SubBoard, Supply, Way, bench::Bench, safety::Unsafe,
};
use proof_job::instrument::SeriesOrder;
use proof_physics::network::description::{Description, OhmPerMetre, Point};
use proof_standard::limits::rcd::RcdKind;
use proof_standard::quantity::Metres;
use proof_standard::shape::Shape;

/// Ω/m of line, neutral and CPC: round figures, so that sums are seen.
const CORES: [f64; 3] = [0.01, 0.01, 0.02];

fn supply() -> Supply {
    Supply {
        line_ohm: 0.1,
        neutral_ohm: 0.08,
        earth_ohm: 0.12,
        shared_ohm: 0.0,
        reversed: false,
        three_phase: false,
        turns_back: false,
    }
}

fn way(label: &str, legs: &[f64], fitting: Fitting) -> Way {
    let point =
        |(at, leg): (usize, &f64)| Point { id: format!("p{at}"), spur_from: None, leg: Metres::new(*leg).unwrap() };
    let cable = Description {
        shape: Shape::Radial,
        cores: OhmPerMetre(CORES),
        points: legs.iter().enumerate().map(point).collect(),
        return_leg: None,
        faults: Vec::new(),
    };
    Way::new(label, "B16", cable, vec![fitting; legs.len()])
}

fn live(rig: Rig) -> Bench {
    let stand = RigState::in_use(&rig);
    Bench::new(rig, stand, 5)
}

fn dead(rig: Rig) -> Bench {
    let stand = RigState::isolated(&rig);
    Bench::new(rig, stand, 5).proved()
}

fn at(name: &str) -> Terminal {
    Terminal::from_key(name).unwrap()
}

fn volts(bench: &Bench, a: &str, b: &str) -> f64 {
    Grid::new(&bench.rig, &bench.state, 0.0).energised().between(at(a), at(b))
}

fn ohm(bench: &Bench, a: &str, b: &str) -> f64 {
    Grid::new(&bench.rig, &bench.state, 0.0).ohm(at(a), at(b)).unwrap_or(f64::INFINITY)
}

fn near(is: f64, wanted: f64, within: f64) {
    assert!((is - wanted).abs() <= within, "{is} is not {wanted}");
}

/// The main board feeds a sub-board by way 1, 20 m; way 2 hangs on it; a delayed device upstream, a fast one in the way.
fn with_sub_board() -> Rig {
    let mut feeder = way("Studio board", &[20.0], Fitting::Board);
    feeder.residual = Some(Residual { rated_ma: 100.0, kind: RcdKind::Selective, trips_ms: [210.0, 230.0] });
    let mut sockets = way("Studio sockets", &[10.0, 5.0], Fitting::Socket);
    sockets.board = 1;
    sockets.residual = Some(Residual { rated_ma: 30.0, kind: RcdKind::General, trips_ms: [24.0, 31.0] });
    let mut rig = Rig::new(supply(), vec![feeder, sockets], Vec::new());
    rig.boards.push(SubBoard { name: "Studio".into(), fed_by: 0 });
    rig
}

#[test]
fn a_sub_board_adds_its_feeder_and_goes_dead_with_it() {
    let mut bench = live(with_sub_board());
    // Ze, 20 m of feeder, 15 m of circuit: line and CPC of each.
    near(ohm(&bench, "sub1-L", "sub1-E"), 0.22 + 20.0 * 0.03, 1e-6);
    near(ohm(&bench, "w2p2-L", "w2p2-E"), 0.22 + 35.0 * 0.03, 1e-6);
    near(volts(&bench, "w2p2-L", "w2p2-N"), 230.0, 0.1);
    act(&mut bench, &["sub 1 off"]);
    near(volts(&bench, "sub1-L", "sub1-N"), 0.0, 0.1);
    near(volts(&bench, "w1p1-L", "w1p1-N"), 230.0, 0.1);
    act(&mut bench, &["sub 1 on", "way 1 off"]);
    near(volts(&bench, "w2p2-L", "w2p2-N"), 0.0, 0.1);
    assert_eq!(bench.unsafe_acts, []);
}

#[test]
fn the_fast_device_goes_off_and_the_delayed_one_waits() {
    let mut bench = live(with_sub_board());
    act(&mut bench, &["knob trip1"]);
    near(number(press(&mut bench, "w2p1-L", "w2p1-E")).unwrap(), 24.0, 1.5);
    assert_eq!(bench.state.ways_on, [true, false]);
    act(&mut bench, &["way 2 on", "half 180", "press"]);
    near(number(bench.shown).unwrap(), 31.0, 1.8);
    // At its own bars the delayed one is the nearest: between 130 and 500 ms (BS EN 61008-1, Table 1).
    act(&mut bench, &["way 2 on"]);
    let ms = number(press(&mut bench, "sub1-L", "sub1-E")).unwrap();
    assert!((130.0..500.0).contains(&ms), "{ms}");
    assert_eq!(bench.state.ways_on, [false, true]);
    // A loop at full current: the fast one saves the other.
    act(&mut bench, &["way 1 on", "knob loop"]);
    assert_eq!(press(&mut bench, "w2p1-L", "w2p1-E"), MeterDisplay::Tripped);
    assert_eq!(bench.state.ways_on, [true, false]);
    // Two of 30 mA without delay do not discriminate.
    let mut rig = with_sub_board();
    rig.ways[0].residual = Some(Residual::general(30.0, 22.0));
    let mut bench = live(rig);
    act(&mut bench, &["knob trip1"]);
    press(&mut bench, "w2p1-L", "w2p1-E");
    assert_eq!(bench.state.ways_on, [false, false]);
    assert!(bench.message.contains("upstream"), "{}", bench.message);
}

#[test]
fn a_series_runs_in_every_order_with_a_reset_after_each_trip() {
    for order in SeriesOrder::ALL {
        let mut bench = live(with_sub_board());
        bench.instrument.order = order;
        act(&mut bench, &["knob series", "probe 1 w2p1-L", "probe 2 w2p1-E", "press"]);
        assert!(bench.message.ends_with("Switch it on again and press test."), "{}", bench.message);
        act(&mut bench, &["press"]);
        assert_eq!(bench.shown, MeterDisplay::NoSupply, "it was not put on again");
        for _ in 0..8 {
            if bench.message.contains("The series is done.") {
                break;
            }
            act(&mut bench, &["way 2 on", "press"]);
        }
        // As the label of the order writes it: 1, 5 and ½ with the half-cycle behind.
        let said = bench.readings.iter().map(|one| one.trip.as_str()).filter(|said| !said.is_empty());
        let tests: Vec<&str> = said.flat_map(|said| said.split("; ")).collect();
        let short = |test: &&str| {
            let (multiple, half) = test.split(':').next().unwrap().split_once(" at ").unwrap();
            format!("{} {half}", multiple.replace("IΔn", "").trim()).trim().to_owned()
        };
        let run: Vec<String> = tests.iter().map(short).collect();
        let run: Vec<String> =
            run.into_iter().map(|one| if one.contains(' ') { one } else { format!("1 {one}") }).collect();
        let label = order.label().replace(" (½ apart)", "");
        assert_eq!(run.join(", "), label, "{tests:?}");
        for test in &tests {
            let ms: Option<f64> = test.split(": ").nth(1).unwrap().strip_suffix(" ms").and_then(|ms| ms.parse().ok());
            match ms {
                // Not at half; within 40 ms at five times, 300 ms at once (BS EN 61008-1, Table 1).
                None => assert!(test.starts_with('½') && test.ends_with("no trip"), "{test}"),
                Some(ms) if test.starts_with('5') => assert!((5.0..40.0).contains(&ms), "{test}"),
                Some(ms) => assert!((20.0..40.0).contains(&ms), "{test}"),
            }
        }
    }
}

fn three_phase() -> Rig {
    let mut motor = way("Press motor", &[12.0], Fitting::Motor);
    motor.feed = Feed::Three;
    let mut lights = way("Lights", &[10.0], Fitting::Lamp);
    lights.feed = Feed::One(Wire::L2);
    let supply = Supply { three_phase: true, ..supply() };
    Rig::new(supply, vec![motor, lights], Vec::new())
}

#[test]
fn three_lines_stand_a_third_of_a_turn_apart() {
    let mut bench = live(three_phase());
    for [a, b] in [["L", "L2"], ["L2", "L3"], ["L", "L3"]] {
        near(volts(&bench, &format!("bar-{a}"), &format!("bar-{b}")), 398.4, 1.0);
        near(volts(&bench, &format!("bar-{a}"), "bar-N"), 230.0, 1.0);
    }
    near(volts(&bench, "w2p1-L", "bar-L2"), 0.0, 0.5);
    near(volts(&bench, "w2p1-L", "bar-L"), 398.4, 1.0);
    act(&mut bench, &["knob sequence"]);
    assert_eq!(press(&mut bench, "bar-L", "bar-L2"), MeterDisplay::WantsThird);
    act(&mut bench, &["leads three", "probe 3 bar-L3", "press"]);
    assert_eq!(bench.shown, MeterDisplay::Turns(true));
    act(&mut bench, &["probe 3 bar-N", "press"]);
    assert_eq!(bench.shown, MeterDisplay::NoThree);
    bench.rig.supply.turns_back = true;
    act(&mut bench, &["probe 3 bar-L3", "press"]);
    assert_eq!(bench.shown, MeterDisplay::Turns(false));
    // Two lines of the loop between lines, once the resistance of one.
    near(ohm(&bench, "bar-L", "bar-L2"), 0.2, 0.01);
    // Ten pairs to prove dead.
    let mut bench = live(three_phase());
    act(&mut bench, &["way 1 off", "way 2 off", "main off", "lock on", "knob volts"]);
    let names = ["L", "L2", "L3", "N", "E"];
    press(&mut bench, "known-a", "known-b");
    for (index, a) in names.iter().enumerate() {
        for b in &names[index + 1..] {
            assert!(!bench.proving.is_done());
            press(&mut bench, &format!("bar-{a}"), &format!("bar-{b}"));
        }
    }
    assert!(bench.proving.is_once());
    press(&mut bench, "known-a", "known-b");
    assert!(bench.proving.is_done());
    // The windings of a motor are what is read between its lines, until its isolator is off.
    act(&mut bench, &["knob ir500"]);
    near(number(press(&mut bench, "w1t1-L", "w1t1-L2")).unwrap(), 0.0, 0.01);
    act(&mut bench, &["switch 1 1 off", "press"]);
    assert_eq!(bench.shown, MeterDisplay::OverMegohm);
    assert_eq!(bench.unsafe_acts, []);
}

/// Three lamps on three lines and no neutral: each stands between its line and a star point of their own (the Millman
/// theorem, from memory: any text on circuits).
#[test]
fn a_lost_neutral_of_three_lines_lets_the_star_point_wander() {
    let mut rig = three_phase();
    rig.supply.neutral_ohm = f64::INFINITY;
    let mut second = way("More lights", &[10.0], Fitting::Lamp);
    second.feed = Feed::One(Wire::L1);
    rig.ways.push(second);
    rig.ways.remove(0);
    let bench = live(rig);
    // One lamp on L2, one on L1: in series between the two lines.
    near(volts(&bench, "w1p1-L", "w1p1-N"), 199.2, 0.5);
    near(volts(&bench, "w2p1-L", "w2p1-N"), 199.2, 0.5);
    near(volts(&bench, "bar-N", "bar-E"), 115.0, 0.5);
}

#[test]
fn what_is_lost_is_seen_at_the_terminals() {
    // Earth lost: line and neutral as they belong, earth floats; the touch of a lamp changes nothing.
    let mut rig =
        Rig::new(Supply { earth_ohm: f64::INFINITY, ..supply() }, vec![way("Lights", &[10.0], Fitting::Lamp)], vec![]);
    let bench = live(rig.clone());
    near(volts(&bench, "w1p1-L", "w1p1-N"), 230.0, 0.1);
    assert!(ohm(&bench, "w1p1-L", "w1p1-E") > 1e6);
    // What neutral and earth share is lost upstream: through the lamp the metal comes to the voltage of the line, as far
    // as the ground lets it: 900 Ω of lamp and 100 Ω of ground.
    rig.supply = Supply { shared_ohm: f64::INFINITY, ..supply() };
    rig.bonds.push(Bond { to: "water".into(), ohm: 0.0, ground_ohm: 100.0 });
    let bench = live(rig);
    let grid = Grid::new(&bench.rig, &bench.state, 0.0);
    near(grid.energised().to_earth(at("w1p1-E")), 23.0, 0.1);
    near(volts(&bench, "w1p1-L", "w1p1-N"), 207.0, 0.2);
    near(volts(&bench, "w1p1-N", "w1p1-E"), 0.0, 0.1);
}

#[test]
fn a_second_source_keeps_a_board_live_until_it_is_off_too() {
    let mut rig = Rig::new(
        supply(),
        vec![way("Garden studio", &[20.0], Fitting::Fixed), way("Lights", &[5.0], Fitting::Lamp)],
        vec![],
    );
    rig.second = Some(Second { name: "Roof panels".into(), way: 0, ohm: 0.4 });
    let mut bench = live(rig);
    act(&mut bench, &["way 2 off", "main off", "lock on"]);
    near(volts(&bench, "bar-L", "bar-N"), 230.0, 0.1);
    near(volts(&bench, "bar-L", "bar-E"), 230.0, 0.1);
    act(&mut bench, &["knob volts"]);
    press(&mut bench, "known-a", "known-b");
    near(number(press(&mut bench, "bar-L", "bar-N")).unwrap(), 230.0, 2.0);
    // The way off: the bars are dead, its own terminal is not.
    act(&mut bench, &["way 1 off"]);
    near(volts(&bench, "bar-L", "bar-N"), 0.0, 0.1);
    near(volts(&bench, "w1t1-L", "bar-N"), 230.0, 0.1);
    let mut hands = bench.clone();
    act(&mut hands, &["tail 1 L off"]);
    assert_eq!(hands.unsafe_acts, [Unsafe::TouchedLive]);
    act(&mut bench, &["second off"]);
    near(volts(&bench, "w1t1-L", "bar-N"), 0.0, 0.1);
}

#[test]
fn an_electrode_is_read_alone_and_with_everything_else() {
    let mut rig = Rig::new(
        Supply { earth_ohm: f64::INFINITY, ..supply() },
        vec![way("Studio", &[10.0], Fitting::Socket)],
        vec![],
    );
    rig.electrode_ohm = Some(82.0);
    rig.bonds.push(Bond { to: "water".into(), ohm: 0.02, ground_ohm: 40.0 });
    let mut bench = live(rig.clone());
    bench.state.earth_off = true;
    near(ohm(&bench, "in-L", "in-E"), 82.1, 1e-6);
    bench.state.earth_off = false;
    let beside = 1.0 / (1.0 / 82.0 + 1.0 / 40.02);
    near(ohm(&bench, "in-L", "in-E"), 0.1 + beside, 1e-4);
    // Three probes: the rod, a spike between, one far off; the earthing conductor off, or the pipe is read with it.
    let mut bench = dead(rig);
    act(&mut bench, &["knob electrode", "probe 1 electrode-rod", "probe 2 spike-a", "press"]);
    assert_eq!(bench.shown, MeterDisplay::WantsThird);
    act(&mut bench, &["leads three", "probe 3 spike-b", "press"]);
    near(number(bench.shown).unwrap(), beside, 1.0);
    act(&mut bench, &["earth off", "press"]);
    near(number(bench.shown).unwrap(), 82.0, 2.0);
    assert_eq!(bench.unsafe_acts, []);
}

/// Two switches with an intermediate between, and the lamp: 5, 6, 7 and 3 m.
fn switched(faults: Vec<AtSwitch>) -> Bench {
    let mut lights = way("Stair lights", &[5.0, 6.0, 7.0, 3.0], Fitting::TwoWay);
    lights.fittings = vec![Fitting::TwoWay, Fitting::Intermediate, Fitting::TwoWay, Fitting::Lamp];
    lights.at_switches = faults;
    let mut bench = dead(Rig::new(supply(), vec![lights], vec![]));
    act(&mut bench, &["knob low", "null", "link w1t1-L bar-E on"]);
    bench
}

/// Which of the eight positions light the lamp, thrown switches as bits.
fn lit(bench: &Bench) -> Vec<usize> {
    let of = |bits: &usize| {
        let mut bench = bench.clone();
        for (at, point) in [1, 2, 3].into_iter().enumerate() {
            let state = if bits & (1 << at) == 0 { "on" } else { "off" };
            act(&mut bench, &[&format!("switch 1 {point} {state}")]);
        }
        ohm(&bench, "w1p4-L", "w1p4-E") < 1e6
    };
    (0..8).filter(of).collect()
}

#[test]
fn every_switch_puts_the_light_on_and_off_and_what_is_changed_does_not() {
    let sound = switched(Vec::new());
    // An even number thrown lights it.
    assert_eq!(lit(&sound), [0, 3, 5, 6]);
    // Line by the strappers and CPC, 21 m of each.
    near(ohm(&sound, "w1p4-L", "w1p4-E"), 21.0 * 0.03, 1e-9);
    // At the first box the common reads in both positions.
    let mut bench = sound;
    act(&mut bench, &["switch 1 1 off"]);
    near(ohm(&bench, "w1p1-L", "w1p1-E"), 5.0 * 0.03, 1e-9);
    assert!(ohm(&bench, "w1p3-L", "w1p3-E") > 1e6);
    // A strapper broken: half of the positions that should light do.
    assert_eq!(lit(&switched(vec![AtSwitch::Broken(0, Wire::S1)])), [3, 5]);
    // The common and a strapper change places.
    let changed = lit(&switched(vec![AtSwitch::Changed(0, [Wire::L1, Wire::S1])]));
    assert_ne!(changed, [0, 3, 5, 6]);
    assert!(!changed.is_empty());
}

#[test]
fn what_settles_is_read_low_first() {
    let mut wet = way("New plaster", &[10.0], Fitting::Socket);
    wet.leaks.push(Leak { between: [Wire::L1, Wire::E], point: 0, megohm: 80.0, above_v: 0.0, creeps: 0.9 });
    let mut bench = dead(Rig::new(supply(), vec![wet], vec![]));
    act(&mut bench, &["knob ir500"]);
    let mut shown = vec![number(press(&mut bench, "w1t1-L", "w1t1-E")).unwrap()];
    for _ in 0..9 {
        act(&mut bench, &["press"]);
        shown.push(number(bench.shown).unwrap());
    }
    near(shown[0], 8.0, 0.5);
    near(shown[9], 80.0, 3.0);
    assert!(shown[1] > shown[0] * 2.0 && shown[3] > shown[1], "{shown:?}");
}

#[test]
fn a_surge_device_and_a_transformer_are_read_for_what_they_are() {
    let mut bells = way("Door bells", &[8.0], Fitting::Fixed);
    bells.selv_v = Some(12.0);
    let mut rig = Rig::new(supply(), vec![way("Sockets", &[10.0], Fitting::Socket), bells], vec![]);
    rig.surge_megohm = Some(0.05);
    let mut bench = dead(rig.clone());
    act(&mut bench, &["knob ir500"]);
    assert!(number(press(&mut bench, "bar-L", "bar-E")).is_some_and(|megohm| megohm < 0.1));
    act(&mut bench, &["knob ir250", "press"]);
    assert_eq!(bench.shown, MeterDisplay::OverMegohm, "250 V is under what it conducts at");
    act(&mut bench, &["knob ir500", "surge off", "press"]);
    assert_eq!(bench.shown, MeterDisplay::OverMegohm);
    assert_eq!(bench.state.not_put_back(&bench.rig), ["module of the surge device out"]);
    let bench = live(rig);
    near(volts(&bench, "w2p1-L", "w2p1-N"), 12.0, 0.1);
    near(volts(&bench, "w2p1-L", "bar-E"), 0.0, 0.1);
    assert!(ohm(&bench, "w2p1-L", "bar-E") > 1e6, "separated");
}

#[test]
fn an_instrument_that_drifts_or_tires_shows_it_on_fixed_values() {
    let mut bench = dead(Rig::new(supply(), vec![way("Sockets", &[10.0], Fitting::Socket)], vec![]));
    let check = |bench: &mut Bench| {
        act(bench, &["probe 1 hand", "probe 2 hand", "knob low", "null"]);
        let low = number(press(bench, "ohm-a", "ohm-b")).unwrap();
        act(bench, &["knob ir500"]);
        (low, number(press(bench, "megohm-a", "megohm-b")).unwrap())
    };
    let (low, megohm) = check(&mut bench);
    near(low, 1.0, 0.03);
    near(megohm, 1.0, 0.03);
    bench.instrument.gain = 1.12;
    bench.instrument.tired = true;
    let (low, megohm) = check(&mut bench);
    near(low, 1.12, 0.03);
    near(megohm, 0.78, 0.04);
    assert_eq!(bench.unsafe_acts, [], "a check box is nothing of the installation");
}
