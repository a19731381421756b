//! A simulated site: circuits as they really run, and the readings that follow from them.
//!
//! The description of a circuit may say less than is true (legs unknown, a length to a few per
//! cent); the readings come from what is true.

use crate::alone::SimulatedCircuit;
use crate::meter::Meter;
use jiff::{SignedDuration, Timestamp};
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::{Context, LeadNull, Origin, Reading, Stage, Step, Value};
use proof_judge::copper::ohm_per_metre;
use proof_physics::network::circuit::expect;
use proof_physics::network::description::{Description, Fault, OhmPerMetre, Point};
use proof_standard::quantity::Metres;
use proof_standard::shape::Shape;
use proof_work::plan::sequence::circuit_steps;
use uuid::Uuid;

/// Name of a point in the network.
pub fn name(point: &proof_job::installation::Point) -> String {
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
    // What makes no sense is on no site.
    if expect(&built).is_err() {
        return Vec::new();
    }
    let alone = SimulatedCircuit::new(installation, circuit, built, [visit.ze, visit.neutral], &mut builder);
    circuit_steps(installation, circuit)
        .iter()
        // Polarity that falls out of other readings is no reading of its own.
        .filter(|step| wanted(step) && (step.stage != Stage::Polarity || step.required))
        .map(|step| {
            let value = alone.shows(circuit, step, meter);
            let id = Uuid::new_v5(&circuit.id, step.slug.as_bytes());
            visit.reading(step, value, id)
        })
        .collect()
}
