//! A simulated site: circuits as they really run, and the readings that follow from them.
//!
//! The description of a circuit may say less than is true (legs unknown, a length to a few per
//! cent); the readings come from what is true.

use crate::meter::{Meter, shown};
use jiff::{SignedDuration, Timestamp};
use proof_core::installation::{Circuit, Installation, Shape};
use proof_core::network::circuit::{Expected, expect};
use proof_core::network::copper::ohm_per_metre;
use proof_core::network::description::{Description, Fault, OhmPerMetre, Point};
use proof_core::plan::sequence::circuit_steps;
use proof_core::quantity::Metres;
use proof_core::reading::{Context, LeadNull, Origin, Reading, Stage, Step, Test, Value};
use proof_core::standard::rcd::{Multiple, RcdKind};
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// Name of a point in the network.
pub fn name(point: &proof_core::installation::Point) -> String {
    format!("p{}", point.id.0)
}

/// What is really in the walls for a described circuit: legs as given, or drawn from the seed.
pub fn as_built(
    installation: &Installation,
    circuit: &Circuit,
    faults: Vec<Fault>,
    meter: &mut Meter,
) -> Option<Description> {
    let ring = circuit.shape == Shape::Ring;
    let mains = circuit.main_points().count();
    let legs = circuit.legs().unwrap_or_else(|| {
        let count = mains + usize::from(ring);
        let shares: Vec<f64> = (0..count).map(|_| meter.between(0.5, 1.5)).collect();
        let total: f64 = shares.iter().sum();
        let length = circuit.length_m.map_or(4.0 * count as f64, Metres::get) * meter.between(0.97, 1.03);
        shares.iter().map(|share| share / total * length).collect()
    });
    let mut main_legs = legs.iter();
    let mut points = Vec::new();
    for point in &circuit.points {
        let leg = match point.spur_from {
            None => *main_legs.next()?,
            Some(_) => point.leg_m.map_or_else(|| meter.between(3.0, 6.0), Metres::get),
        };
        let spur_from = point.spur_from.and_then(|id| circuit.point(id)).map(name);
        points.push(Point { id: name(point), spur_from, leg: Metres::new(leg).ok()? });
    }
    Some(Description {
        shape: if ring { Shape::Ring } else { Shape::Radial },
        cores: OhmPerMetre(ohm_per_metre(installation, circuit)?),
        points,
        return_leg: if ring { Metres::new(*legs.last()?).ok() } else { None },
        faults,
    })
}

/// The circumstances that simulated readings share.
pub struct Visit {
    /// Which instrument.
    pub instrument: Uuid,
    /// Who holds the probes.
    pub read_by: String,
    /// Who writes.
    pub entered_by: String,
    /// When the next reading is taken.
    pub clock: Timestamp,
    /// Ze at the origin, Ω.
    pub ze: f64,
    /// Line–neutral loop at the origin, Ω.
    pub neutral: f64,
}

impl Visit {
    /// A reading of a step, a little later than the last.
    pub fn reading(&mut self, step: &Step, value: Value, id: Uuid) -> Reading {
        self.clock = self.clock.checked_add(SignedDuration::from_secs(47)).unwrap_or(self.clock);
        let low_ohm = matches!(step.stage, Stage::EndToEnd | Stage::R1Rn | Stage::R1R2 | Stage::Bonding);
        Reading {
            id,
            key: step.key.clone(),
            typed: value.shown(),
            value,
            unsteady: false,
            context: Context {
                instrument: Some(self.instrument),
                lead_set: low_ohm.then(|| "clips and probes".to_owned()),
                pins: None,
                null: if low_ohm { LeadNull::Nulled } else { LeadNull::Unknown },
                test_voltage_v: step.test_voltage,
                ambient_c: None,
                taken_at: Some(self.clock),
                read_on: None,
                stored_at: self.clock,
                origin: Origin::Typed,
                simulated: false,
                read_by: Some(self.read_by.clone()),
                entered_by: self.entered_by.clone(),
            },
        }
    }
}

/// Takes the readings of a circuit for which `wanted` says yes.
pub fn read_circuit(
    installation: &Installation,
    circuit: &Circuit,
    faults: Vec<Fault>,
    visit: &mut Visit,
    meter: &mut Meter,
    wanted: impl Fn(&Step) -> bool,
) -> Vec<Reading> {
    // What nobody drew is as the builder left it, the same at every visit.
    let mut builder = Meter::new(circuit.id.as_u64_pair().0 ^ circuit.id.as_u64_pair().1);
    let Some(built) = as_built(installation, circuit, faults, &mut builder) else { return Vec::new() };
    let Ok(truth) = expect(&built) else { return Vec::new() };
    let highest = truth.points.iter().filter_map(|point| point.r1_r2).fold(0.0, f64::max);
    circuit_steps(installation, circuit)
        .iter()
        // Polarity that falls out of other readings is no reading of its own.
        .filter(|step| wanted(step) && (step.stage != Stage::Polarity || step.required))
        .map(|step| {
            let value = match step.key.test {
                Test::RcdTrip { multiple, .. } => {
                    let kind = installation.rcd_of(circuit).map(|rcd| rcd.kind).unwrap_or_default();
                    trip(kind, multiple, meter)
                }
                _ => simulated(circuit, step, &truth, highest, [visit.ze, visit.neutral], meter),
            };
            let id = Uuid::new_v5(&circuit.id, step.slug.as_bytes());
            visit.reading(step, value, id)
        })
        .collect()
}

/// A sound device: not at half, faster at five times; a delayed one waits.
fn trip(kind: RcdKind, multiple: Multiple, meter: &mut Meter) -> Value {
    let delay = if kind == RcdKind::Selective { dec!(8) } else { Decimal::ONE };
    match multiple {
        Multiple::Half => Value::NoTrip,
        Multiple::One => Value::Number((meter.trip() * dec!(1.1) * delay).round_dp(1)),
        Multiple::Five => Value::Number((meter.trip() * dec!(0.4) * delay).round_dp(1)),
    }
}

fn simulated(
    circuit: &Circuit,
    step: &Step,
    truth: &Expected,
    highest: f64,
    supply: [f64; 2],
    meter: &mut Meter,
) -> Value {
    use proof_core::conductor::Conductor;
    let place = match &step.key.subject {
        proof_core::reading::Subject::Place { place, .. } => place.point(),
        _ => None,
    };
    let point = place.and_then(|id| circuit.points.iter().position(|p| p.id == id)).map(|index| truth.points[index]);
    let neutral = step.key.pair == Some(proof_core::conductor::Pair::LINE_NEUTRAL);
    let low = |ohm: Option<f64>, meter: &mut Meter| ohm.map_or(Value::Open, |ohm| Value::Number(meter.probed(ohm)));
    match step.key.test {
        Test::RingEndToEnd { conductor } => {
            let ends = truth.end_to_end;
            let ohm = ends.and_then(|ends| match conductor {
                Conductor::N => ends.rn,
                Conductor::E => ends.r2,
                _ => ends.r1,
            });
            ohm.map_or(Value::Open, |ohm| Value::Number(meter.clipped(ohm)))
        }
        Test::R1R2 if step.expects_open() => Value::Open,
        Test::RingBoardCheck => {
            let check = truth.board_check.and_then(|check| if neutral { check.r1_rn } else { check.r1_r2 });
            check.map_or(Value::Open, |ohm| Value::Number(meter.clipped(ohm)))
        }
        Test::R1Rn => low(point.and_then(|p| p.r1_rn), meter),
        Test::R1R2 => low(point.and_then(|p| p.r1_r2), meter),
        Test::Insulation | Test::InsulationJoined => Value::Over(dec!(999)),
        Test::Zs => {
            let r1_r2 = place.map_or(Some(highest), |_| point.and_then(|p| p.r1_r2));
            // A point that is open has no loop.
            r1_r2.map_or(Value::Open, |ohm| Value::Number(shown(supply[0] + ohm * meter.between(0.88, 0.99), 2)))
        }
        Test::LineNeutralLoop => {
            let far = truth.points.iter().filter_map(|point| point.r1_rn).fold(0.0, f64::max);
            Value::Number(shown(supply[1] + far + meter.between(-0.01, 0.02), 2))
        }
        _ => Value::Pass,
    }
}
