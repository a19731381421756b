//! A circuit of a job alone on a board of the rig, and what the instrument of the bench shows for each step.

use crate::meter::Meter;
use crate::rig::grid::Grid;
use crate::rig::instrument::{Function, Instrument, Leads, MeterDisplay};
use crate::rig::stand::RigState;
use crate::rig::terminal::{Terminal, Wire};
use crate::rig::{Fitting, JOINED_OHM, Residual, Rig, Supply, Way, bench::Bench};
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::{Step, Subject, Test, Value};
use proof_physics::network::description::{BOARD, Description, Fault};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::limits::rcd::{HalfCycle, Multiple, RcdKind};
use proof_standard::quantity::{Ohms, approximate};
use proof_standard::shape::Shape;
use rust_decimal::dec;

/// A contact has settled after so many tries. Invented for the bench.
const SETTLED: u32 = 3;
/// What a delayed device takes longer, times. Invented for the bench, within BS EN 61008-1, Table 1.
const DELAYED: f64 = 8.0;

/// A circuit as it is built, and its networks as the steps want them.
pub(crate) struct SimulatedCircuit {
    rig: Rig,
    ends_out: Grid,
    to_neutral: Grid,
    to_earth: Grid,
    /// In use, what is connected beside it.
    live: Grid,
}

const fn tail(leg: u8, core: Wire) -> Terminal {
    Terminal::Tail { way: 0, leg, core }
}

const fn point(point: usize, core: Wire) -> Terminal {
    Terminal::Point { way: 0, point, core }
}

fn value(shown: MeterDisplay) -> Value {
    match shown {
        MeterDisplay::Ohm(number)
        | MeterDisplay::Megohm(number)
        | MeterDisplay::Loop(number)
        | MeterDisplay::Millis(number) => Value::Number(number),
        MeterDisplay::OverMegohm => Value::Over(dec!(999)),
        MeterDisplay::NoTrip => Value::NoTrip,
        _ => Value::Open,
    }
}

/// Low resistance, the leads nulled.
fn low(grid: &Grid, probes: [Terminal; 2], meter: &mut Meter) -> Value {
    let [a, b] = probes.map(Some);
    let null = Some((Leads::Short, Leads::Short.ohm()));
    let instrument = Instrument { function: Function::LowOhm, null, probes: [a, b, None], ..Default::default() };
    value(instrument.low_ohm(grid, meter, SETTLED))
}

impl SimulatedCircuit {
    /// On a supply with so much loop to earth and to neutral, Ω.
    pub(crate) fn new(
        installation: &Installation,
        circuit: &Circuit,
        built: Description,
        [ze, neutral]: [f64; 2],
        builder: &mut Meter,
    ) -> Self {
        let supply = Supply::from_loops(ze, neutral);
        let fittings = vec![Fitting::Socket; built.points.len()];
        let mut way = Way::new(&circuit.description, &circuit.device.shown(), built, fittings);
        way.residual = installation.rcd_for(circuit).map(|rcd| {
            let delay = if rcd.kind == RcdKind::Selective { DELAYED } else { 1.0 };
            let trips_ms = [0; 2].map(|_| approximate(builder.trip()) * 1.1 * delay);
            let rated_ma = approximate(rcd.idn_ma.0);
            Residual { rated_ma, kind: rcd.kind, trips_ms }
        });
        let mut beside = way.clone();
        let rig = Rig::new(supply, vec![way], Vec::new());
        // In use there is metal and plant beside the CPC: a loop is a little under its sum (common practice, no source).
        if let (Some(last), Ok(ohm)) = (beside.cable.points.last(), Ohms::new(builder.between(2.0, 9.0))) {
            let between = [BOARD.to_owned(), last.id.clone()];
            beside.cable.faults.push(Fault::ParallelEarth { between, ohm });
        }
        let in_use = Rig::new(rig.supply.clone(), vec![beside], Vec::new());
        let linked = |core: Wire| {
            let mut stand = RigState::isolated(&rig);
            if rig.ways[0].cable.shape == Shape::Ring {
                stand.out = Wire::SINGLE.map(|core| (0, core)).into();
                let own_leg = rig.ways[0].cable.faults.contains(&Fault::OwnLeg);
                let [one, other] = if own_leg { [1, 2] } else { [2, 1] };
                stand.links = [(tail(1, Wire::L1), tail(one, core)), (tail(2, Wire::L1), tail(other, core))].into();
            } else {
                stand.links.insert((tail(1, Wire::L1), Terminal::Bar(core)));
            }
            Grid::new(&rig, &stand, 0.0)
        };
        let mut out = RigState::isolated(&rig);
        out.out = Wire::SINGLE.map(|core| (0, core)).into();
        Self {
            ends_out: Grid::new(&rig, &out, 500.0),
            to_neutral: linked(Wire::N),
            to_earth: linked(Wire::E),
            live: Grid::new(&in_use, &RigState::in_use(&in_use), 0.0),
            rig,
        }
    }

    fn loop_ohm(&self, probes: [Terminal; 2], meter: &mut Meter) -> Value {
        let [a, b] = probes.map(Some);
        let instrument = Instrument { function: Function::Loop, probes: [a, b, None], ..Default::default() };
        value(instrument.loop_ohm(&self.live, meter))
    }

    /// The point at which a pair reads highest in use, from zero.
    fn furthest(&self, core: Wire) -> Option<usize> {
        let ohm = |at: usize| self.live.ohm(point(at, Wire::L1), point(at, core)).filter(|ohm| *ohm < JOINED_OHM);
        let all = (0..self.rig.ways[0].cable.points.len()).filter_map(|at| Some((at, ohm(at)?)));
        all.max_by(|one, other| one.1.total_cmp(&other.1)).map(|(at, _)| at)
    }

    fn trip(&self, multiple: Multiple, half_cycle: HalfCycle, meter: &mut Meter) -> Value {
        let mut bench = Bench::new(self.rig.clone(), RigState::in_use(&self.rig), (meter.share() * 1e9) as u64);
        bench.instrument.probes = [Some(point(0, Wire::L1)), Some(point(0, Wire::E)), None];
        value(bench.trips(multiple, half_cycle, meter))
    }

    /// What the instrument shows for a step; what is looked at is as it should be.
    pub(crate) fn shows(&self, circuit: &Circuit, step: &Step, meter: &mut Meter) -> Value {
        let place = match &step.key.subject {
            Subject::Place { place, .. } => place.point(),
            _ => None,
        };
        let at = place.and_then(|id| circuit.points.iter().position(|point| point.id == id));
        let neutral = step.key.pair == Some(Pair::LINE_NEUTRAL);
        let pair = |at: usize, core| [point(at, Wire::L1), point(at, core)];
        match step.key.test {
            Test::RcdTrip { multiple, half_cycle } => self.trip(multiple, half_cycle, meter),
            Test::RingEndToEnd { conductor } => {
                let core = match conductor {
                    Conductor::N => Wire::N,
                    Conductor::E => Wire::E,
                    _ => Wire::L1,
                };
                low(&self.ends_out, [tail(1, core), tail(2, core)], meter)
            }
            Test::R1R2 if step.expects_open() => Value::Open,
            Test::RingBoardCheck => {
                let (grid, core) = if neutral { (&self.to_neutral, Wire::N) } else { (&self.to_earth, Wire::E) };
                low(grid, [tail(1, Wire::L1), tail(1, core)], meter)
            }
            Test::R1Rn => at.map_or(Value::Open, |at| low(&self.to_neutral, pair(at, Wire::N), meter)),
            Test::R1R2 => at.map_or(Value::Open, |at| low(&self.to_earth, pair(at, Wire::E), meter)),
            Test::Insulation | Test::InsulationJoined => {
                // The tails of its other lines are as the first.
                let core = |conductor| match conductor {
                    Conductor::N => Wire::N,
                    Conductor::E => Wire::E,
                    _ => Wire::L1,
                };
                let two = step.key.pair.map_or([Wire::L1, Wire::E], |pair| [core(pair.both().0), core(pair.both().1)]);
                let volts = step.test_voltage.map_or(500, |volts| volts.get() as u16);
                let [a, b] = if two[0] == two[1] { [Wire::L1, Wire::N] } else { two }.map(|core| Some(tail(1, core)));
                let function = Function::Insulation(volts);
                let instrument = Instrument { function, probes: [a, b, None], ..Default::default() };
                value(instrument.insulation(&self.ends_out, meter))
            }
            Test::Zs => {
                let at = if place.is_none() { self.furthest(Wire::E) } else { at };
                at.map_or(Value::Open, |at| self.loop_ohm(pair(at, Wire::E), meter))
            }
            Test::LineNeutralLoop => {
                self.furthest(Wire::N).map_or(Value::Open, |at| self.loop_ohm(pair(at, Wire::N), meter))
            }
            _ => Value::Pass,
        }
    }
}
