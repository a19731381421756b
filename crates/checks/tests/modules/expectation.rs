//! Bands before readings.

use jiff::Timestamp;
use proof_bench::meter::Meter;
use proof_bench::site::{Visit, read_circuit};
use proof_job::installation::{Circuit, Feed, Installation, PointId, shorthand};
use proof_job::reading::{CurrentReadings, Key, Place, Reading, Stage, Test};
use proof_judge::expectation::{Band, Known, Unknown};
use proof_standard::conductor::Conductor;
use proof_standard::quantity::{Celsius, Metres};
use proof_standard::shape::Shape;
use uuid::Uuid;

fn circuit(line: &str) -> (Installation, Circuit) {
    let board = proof_job::installation::Board {
        id: Uuid::nil(),
        name: "board".into(),
        location: String::new(),
        fed_by: Feed::Supply,
        system: proof_standard::limits::supply::EarthingSystem::TnCS,
        lines: proof_job::installation::Lines::Single,
        main_switch: proof_job::installation::MainSwitch::default(),
        parallel_earth: None,
        conditional_ka: None,
        surge: String::new(),
        rcds: vec![],
    };
    let (circuit, rcd) = shorthand::parse(line).unwrap().build(board.id, Uuid::from_u128(7));
    let mut installation =
        Installation { boards: vec![board], circuits: vec![circuit.clone()], ..Installation::default() };
    installation.boards[0].rcds.extend(rcd);
    (installation, circuit)
}

fn visit() -> Visit {
    Visit {
        instrument: Uuid::nil(),
        read_by: "A".into(),
        entered_by: "A".into(),
        clock: Timestamp::UNIX_EPOCH,
        ze: 0.2,
        neutral: 0.16,
    }
}

fn read(installation: &Installation, circuit: &Circuit, upto: Stage) -> Vec<Reading> {
    read_circuit(installation, circuit, vec![], &mut visit(), &mut Meter::new(3), |step| step.stage < upto)
}

fn key(circuit: &Circuit, point: u32, test: Test) -> Key {
    Key::on_circuit(circuit.id, Place::Point { point: PointId(point) }, test)
}

#[test]
fn nothing_known_gives_no_band_and_says_what_would() {
    let (installation, circuit) = circuit("1 ring B32 2.5/1.5 9pts");
    let settled = CurrentReadings::default();
    let known = Known::new(&installation, &circuit, &settled);
    let r1 = Key::on_circuit(circuit.id, Place::Board, Test::RingEndToEnd { conductor: Conductor::L });
    assert_eq!(known.band(&r1).unwrap_err(), Unknown::LengthOrR1);
    assert_eq!(known.band(&key(&circuit, 4, Test::R1R2)).unwrap_err(), Unknown::EndsOrLength);
}

#[test]
fn the_length_gives_r1_and_r1_gives_the_others() {
    let (installation, circuit) = circuit("1 ring B32 2.5/1.5 54m 9pts");
    let settled = CurrentReadings::default();
    let end = |conductor| Key::on_circuit(circuit.id, Place::Board, Test::RingEndToEnd { conductor });
    let known = Known::new(&installation, &circuit, &settled);
    let band = known.band(&end(Conductor::L)).unwrap();
    assert!((band.centre.unwrap() - 54.0 * 7.41e-3).abs() < 1e-9 && band.holds(0.40) && !band.holds(0.52));
    let readings: Vec<Reading> = read(&installation, &circuit, Stage::R1Rn).into_iter().take(1).collect();
    let settled = CurrentReadings::new(&readings, &[]);
    let known = Known::new(&installation, &circuit, &settled);
    let r1 = settled.float(&end(Conductor::L)).unwrap();
    let rn = known.band(&end(Conductor::N)).unwrap();
    assert!(rn.holds(r1 + 0.05) && !rn.holds(r1 + 0.06));
    // What is shown as the bound is inside: 0.364 is shown as 0.36, and 0.36 is not lower than 0.36.
    let ring = Band { low: 0.364, high: Some(0.546), centre: None, basis: String::new(), source: band.source };
    assert_eq!(ring.in_unit("Ω"), "0.36–0.55 Ω");
    assert!(ring.holds(0.36) && ring.holds(0.55) && !ring.holds(0.35) && !ring.holds(0.56));
    let r2 = known.band(&end(Conductor::E)).unwrap();
    // 1.63 by the resistance table, 1.67 by the sizes: both stand inside.
    assert!(r2.holds(1.6329 * r1) && r2.holds(1.6667 * r1) && !r2.holds(r1));
}

#[test]
fn from_the_length_alone_the_band_is_as_wide_as_the_length_is_unsure() {
    let (installation, ring) = circuit("1 ring B32 2.5/1.5 180m 9pts");
    let at = key(&ring, 4, Test::R1Rn);
    let unread = Known::new(&installation, &ring, &CurrentReadings::default()).band(&at).unwrap();
    let readings = read(&installation, &ring, Stage::R1Rn);
    let settled = CurrentReadings::new(&readings, &[]);
    let read = Known::new(&installation, &ring, &settled).band(&at).unwrap();
    let centre = unread.centre.unwrap();
    assert!(unread.holds(centre * 1.09 + 0.05) && unread.holds(centre * 0.91 - 0.05));
    assert!(read.high.unwrap() - read.low < unread.high.unwrap() - unread.low - 0.1);
}

#[test]
fn a_drawn_ring_is_solved_exactly_and_an_undrawn_one_is_wider() {
    let (installation, drawn) = circuit("1 ring B32 2.5/1.5 legs 2,20,20,20");
    let readings = read(&installation, &drawn, Stage::R1Rn);
    let settled = CurrentReadings::new(&readings, &[]);
    let at = key(&drawn, 1, Test::R1R2);
    let exact = Known::new(&installation, &drawn, &settled).band(&at).unwrap();
    let mut undrawn = drawn.clone();
    undrawn.points.iter_mut().for_each(|point| point.leg_m = None);
    undrawn.return_leg_m = None;
    let wide = Known::new(&installation, &undrawn, &settled).band(&at).unwrap();
    let width = |band: &Band| band.high.unwrap() - band.low;
    assert!(width(&wide) > width(&exact) + 0.005);
    // Near the board the exact value is under the quarter, and the wide band holds both.
    assert!(exact.centre.unwrap() < wide.centre.unwrap());
    assert!(wide.holds(exact.centre.unwrap()));
}

/// The closed forms of a healthy circuit against the network, spurs of spurs included.
#[test]
fn the_drawn_circuit_agrees_with_the_network() {
    for line in ["1 ring B32 2.5/1.5 legs 6,9,4.5,11,12.5,3,0", "2 radial B20 2.5/1.5 legs 6,9,4.5,11,3,2"] {
        let (installation, mut circuit) = circuit(line);
        circuit.points[4].spur_from = Some(PointId(2));
        circuit.points[5].spur_from = Some(PointId(5));
        circuit.points[5].leg_m = Some(Metres::literal(2.5));
        let settled = CurrentReadings::default();
        let known = Known::new(&installation, &circuit, &settled);
        let built = proof_bench::site::as_built(&installation, &circuit, vec![], &mut Meter::new(1)).unwrap();
        let truth = proof_physics::network::circuit::expect(&built).unwrap();
        for (exact, truth) in known.exact().unwrap().iter().zip(&truth.points) {
            for (closed, network) in exact.iter().zip([truth.r1_rn, truth.r1_r2]) {
                assert!((closed - network.unwrap()).abs() < 1e-12, "{line}: {closed} {network:?}");
            }
        }
        // In use both ends of a ring are in: the bench, wire by wire, on a supply of 0.1 Ω.
        for (at, exact) in known.exact().unwrap().iter().enumerate() {
            let closed = 0.1 + exact[3];
            let network = in_use(&built, at);
            assert!((closed - network).abs() < 1e-6, "{line}, point {at}: {closed} {network}");
        }
    }
}

/// Line to earth at a point in use, Ω.
fn in_use(built: &proof_physics::network::description::Description, point: usize) -> f64 {
    use proof_bench::rig::{
        Fitting, Rig, Supply, Way,
        grid::Grid,
        stand::RigState,
        terminal::{Terminal, Wire},
    };
    let way = Way::new("circuit", "B32", built.clone(), vec![Fitting::Socket; built.points.len()]);
    let rig = Rig::new(Supply::from_loops(0.1, 0.09), vec![way], Vec::new());
    let [line, earth] = [Wire::L1, Wire::E].map(|core| Terminal::Point { way: 0, point, core });
    Grid::new(&rig, &RigState::in_use(&rig), 0.0).ohm(line, earth).unwrap()
}

/// On a ring a loop near the board is next to Ze, and no finding; half-way round it is Ze + R1+R2.
#[test]
fn a_loop_near_the_board_of_a_ring_is_expected() {
    let (installation, drawn) = circuit("1 ring B32 2.5/1.5 legs 2,25,25,2");
    let mut undrawn = drawn.clone();
    undrawn.points.iter_mut().for_each(|point| point.leg_m = None);
    undrawn.return_leg_m = None;
    // What was read is the same; what is known of its legs is not.
    let readings = read(&installation, &drawn, Stage::Insulation);
    for ring in [drawn, undrawn] {
        let settled = CurrentReadings::new(&readings, &[]);
        let mut known = Known::new(&installation, &ring, &settled);
        known.ze = Some(0.2);
        let band = |point| known.band(&key(&ring, point, Test::Zs)).unwrap();
        // 2 m from the board of 54: 0.04 of the way round; half-way: the quarter.
        assert!(band(1).holds(0.22), "{:?}", band(1));
        assert!(band(2).holds(0.45), "{:?}", band(2));
        assert!(!band(2).holds(0.19) && !band(1).holds(0.6));
    }
}

#[test]
fn spurs_add_their_length_and_unknown_ones_leave_the_band_open() {
    let (installation, mut ring) = circuit("1 ring B32 2.5/1.5 60m 5pts");
    ring.points[4].spur_from = Some(PointId(2));
    let readings = read(&installation, &ring, Stage::R1Rn);
    let settled = CurrentReadings::new(&readings, &[]);
    let at = key(&ring, 5, Test::R1R2);
    let open = Known::new(&installation, &ring, &settled).band(&at).unwrap();
    assert!(open.high.is_none() && open.centre.is_none());
    ring.points[4].leg_m = Some(Metres::literal(10.0));
    let known = Known::new(&installation, &ring, &settled).band(&at).unwrap();
    let main = Known::new(&installation, &ring, &settled).band(&key(&ring, 2, Test::R1R2)).unwrap();
    let added = known.centre.unwrap() - main.centre.unwrap();
    assert!((added - 10.0 * (7.41e-3 + 12.10e-3)).abs() < 1e-9);
}

#[test]
fn a_radial_rises_only_where_the_order_is_known() {
    let (installation, mut radial) = circuit("1 radial B20 2.5/1.5 40m 4pts");
    let readings: Vec<Reading> = read(&installation, &radial, Stage::R1R2)
        .into_iter()
        .filter(|r| r.key == key(&radial, 2, Test::R1Rn))
        .collect();
    let settled = CurrentReadings::new(&readings, &[]);
    let read_at_2 = settled.float(&key(&radial, 2, Test::R1Rn)).unwrap();
    let unordered = Known::new(&installation, &radial, &settled).band(&key(&radial, 3, Test::R1Rn)).unwrap();
    assert_eq!(unordered.low, 0.0);
    radial.order_known = true;
    let ordered = Known::new(&installation, &radial, &settled).band(&key(&radial, 3, Test::R1Rn)).unwrap();
    assert!((ordered.low - (read_at_2 - 0.05).max(0.0)).abs() < 1e-9);
    // The last point in order is the far end: it must read what the whole length gives.
    let far = Known::new(&installation, &radial, &settled).band(&key(&radial, 4, Test::R1Rn)).unwrap();
    assert!(far.low > 0.4 && far.holds(40.0 * 2.0 * 7.41e-3));
}

#[test]
fn the_neutral_reading_of_a_radial_point_foretells_its_cpc_reading() {
    let (installation, radial) = circuit("1 radial B20 2.5/1.5 40m 4pts");
    let readings = read(&installation, &radial, Stage::R1R2);
    let settled = CurrentReadings::new(&readings, &[]);
    let r1_rn = settled.float(&key(&radial, 3, Test::R1Rn)).unwrap();
    let band = Known::new(&installation, &radial, &settled).band(&key(&radial, 3, Test::R1R2)).unwrap();
    assert!((band.centre.unwrap() - r1_rn * (7.41 + 12.10) / 14.82).abs() < 1e-9);
}

#[test]
fn cold_copper_reads_low() {
    let (installation, mut ring) = circuit("1 ring B32 2.5/1.5 54m 9pts");
    let settled = CurrentReadings::default();
    let r1 = Key::on_circuit(ring.id, Place::Board, Test::RingEndToEnd { conductor: Conductor::L });
    let warm = Known::new(&installation, &ring, &settled).band(&r1).unwrap().centre.unwrap();
    ring.cable_c = Some(Celsius::literal(5.0));
    let cold = Known::new(&installation, &ring, &settled).band(&r1).unwrap().centre.unwrap();
    assert!((cold / warm - 0.94).abs() < 1e-9);
}

#[test]
fn a_healthy_simulated_circuit_is_within_its_bands() {
    for line in [
        "1 ring B32 2.5/1.5 54m 9pts",
        "2 ring B32 2.5/1.5 legs 6,9,4.5,11,12.5",
        "3 radial C20 4/1.5 30m 3pts",
        "4 lights B6 1.5/1.0 28m 9pts",
    ] {
        let (installation, circuit) = circuit(line);
        for seed in 0..40 {
            let readings = read_circuit(&installation, &circuit, vec![], &mut visit(), &mut Meter::new(seed), |step| {
                step.stage <= Stage::R1R2
            });
            let settled = CurrentReadings::new(&readings, &[]);
            let known = Known::new(&installation, &circuit, &settled);
            for reading in &readings {
                let band = known.band(&reading.key).unwrap();
                assert!(
                    band.holds(reading.value.float().unwrap()),
                    "{line} {seed} {:?} {} {}",
                    reading.key.test,
                    reading.typed,
                    band.shown()
                );
            }
        }
        assert_eq!(circuit.shape == Shape::Ring, line.contains("ring"));
    }
}
