//! The case of a circuit of a job, from what stands of its readings.

use crate::copper::ohm_per_metre;
use proof_job::installation::{Circuit, CircuitAnswer, Installation, Point, PointId, Position};
use proof_job::reading::{CurrentReadings, Key, Place, Test, Value};
use proof_physics::diagnosis::case::{Case, ReadPoint, ShownOhms};
use proof_physics::diagnosis::{Explanation, Kind, diagnose};
use proof_physics::network::description::{BOARD, OhmPerMetre};
use proof_standard::calc::ring::{at_fraction, quarter};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::quantity::{Metres, SquareMillimetres};
use proof_standard::shape::Shape;

/// The name of a point in a case: its own, with its number where two share one.
pub fn name(circuit: &Circuit, id: PointId) -> String {
    let Some(point) = circuit.point(id) else { return id.0.to_string() };
    let own = point.name.trim();
    let shared = circuit.points.iter().filter(|other| other.name.trim() == own).count() > 1;
    // `S3/1` would be taken for an outlet of a twin.
    let outlet = own.ends_with("/1") || own.ends_with("/2");
    if own.is_empty() || own == BOARD || shared || outlet { format!("{own} (no. {})", id.0) } else { own.to_owned() }
}

fn shown(value: Option<&Value>) -> Option<ShownOhms> {
    match value? {
        Value::Open | Value::Over(_) => Some(None),
        value => value.float().map(Some),
    }
}

/// What a point showed: at its terminals, or at a switch that opens while it is closed.
fn at_point(circuit: &Circuit, point: &Point, test: Test, settled: &CurrentReadings<'_>) -> Option<ShownOhms> {
    let line = circuit.line_conductors()[0];
    let point = if point.accessory.opens() {
        Place::Switch { point: point.id, position: Position::On }
    } else {
        Place::Point { point: point.id }
    };
    let place = point;
    shown(settled.value(&Key::on_circuit(circuit.id, place, test).on_line(line)))
}

/// Whether the second outlet of a twin was read, beside its first.
fn second_outlet(circuit: &Circuit, point: &Point, settled: &CurrentReadings<'_>) -> Option<[Option<ShownOhms>; 2]> {
    let read = |test| {
        let place = Place::Outlet { point: point.id, outlet: 2 };
        shown(settled.value(&Key::on_circuit(circuit.id, place, test).on_line(circuit.line_conductors()[0])))
    };
    let both = [Test::R1Rn, Test::R1R2].map(read);
    both.iter().any(Option::is_some).then_some(both)
}

/// The case of a circuit; `None` when its sizes are in no table or nothing was read.
pub fn case_of(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<Case> {
    let ring = circuit.shape == Shape::Ring;
    let board = |test: Test, pair: Option<Pair>| {
        let mut key = Key::on_circuit(circuit.id, Place::Board, test);
        key.pair = pair;
        shown(settled.value(&key))
    };
    let end = |conductor| board(Test::RingEndToEnd { conductor }, None).filter(|_| ring);
    let check = |pair| board(Test::RingBoardCheck, Some(pair)).filter(|_| ring);
    let mut case = Case {
        shape: if ring { Shape::Ring } else { Shape::Radial },
        cores: OhmPerMetre(ohm_per_metre(installation, circuit)?),
        cpc_mm2: circuit.cable.cpc_mm2,
        length: circuit.whole_length().and_then(|metres| Metres::new(metres).ok()),
        end_to_end: [end(Conductor::L), end(Conductor::N), end(Conductor::E)],
        board_check: [check(Pair::LINE_NEUTRAL), check(Pair::LINE_EARTH)],
        points: circuit
            .points
            .iter()
            .map(|point| ReadPoint {
                id: name(circuit, point.id),
                spur_from: point.spur_from.map(|from| name(circuit, from)),
                leg: point.leg_m,
                r1_rn: at_point(circuit, point, Test::R1Rn, settled),
                r1_r2: at_point(circuit, point, Test::R1R2, settled),
            })
            .collect(),
    };
    // Second outlets stand behind the points, so that these keep their places.
    for (index, point) in circuit.points.iter().enumerate() {
        let Some([r1_rn, r1_r2]) = second_outlet(circuit, point, settled) else { continue };
        let twin = name(circuit, point.id);
        case.points[index].id = format!("{twin}/1");
        case.points.push(ReadPoint { id: format!("{twin}/2"), spur_from: None, leg: None, r1_rn, r1_r2 });
    }
    case.has_enough().then_some(case)
}

/// A ring point that reads higher than the ring alone, told as metres of spur in both steps.
#[derive(Debug, Clone, PartialEq)]
pub struct SpurMetres {
    /// Which point.
    pub point: PointId,
    /// By the second step (line and neutral), m; none where it was not read.
    pub second_m: Option<f64>,
    /// By the third step (line and CPC), m.
    pub third_m: Option<f64>,
    /// What the two say together.
    pub verdict: SpurVerdict,
}

/// What the metres of both steps say together.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SpurVerdict {
    /// They agree and are believable: a spur.
    Spur,
    /// They disagree: contacts, or a joint in one conductor.
    ContactOrJoint,
    /// They agree on a length that no spur has.
    Absurd,
    /// One step only.
    OneStep,
}

/// A rise this small is contacts (common practice, no source), Ω.
const NO_RISE: f64 = 0.04;

/// Longer than this is no spur of a ring (common practice, no source), m.
const LONGEST_SPUR_M: f64 = 30.0;

/// The two steps agree within this share of the larger: an equal rise in both is a quarter apart
/// on 2.5/1.5, a spur is not …
const AGREE_SHARE: f64 = 0.12;

/// … or within this, m.
const AGREE_M: f64 = 2.0;

/// Points of a ring that read higher than the ring as drawn without its spurs.
pub fn spur_metres(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Vec<SpurMetres> {
    let (Some(case), Some(per_metre)) = (case_of(installation, circuit, settled), ohm_per_metre(installation, circuit))
    else {
        return Vec::new();
    };
    let (Shape::Ring, [Some(Some(r1)), rn, r2]) = (circuit.shape, case.end_to_end) else { return Vec::new() };
    let around = [rn, r2].map(Option::flatten);
    let legs = circuit.legs();
    let total: f64 = legs.as_ref().map_or(0.0, |legs| legs.iter().sum());
    let mut walked = 0.0;
    let mut along = std::collections::HashMap::new();
    for (point, leg) in circuit.main_points().zip(legs.iter().flatten()) {
        walked += leg;
        along.insert(point.id, walked / total.max(1e-9));
    }
    let mut rows = Vec::new();
    for (point, read) in circuit.points.iter().zip(&case.points) {
        let mut main = point;
        for _ in 0..circuit.points.len() {
            let Some(from) = main.spur_from.and_then(|id| circuit.point(id)) else { break };
            main = from;
        }
        let rise = |step: usize, shown: Option<ShownOhms>| {
            let other = around[step]?;
            // Where along the ring it stands, if that is known; half-way round, the most it could be, if not.
            let ring = along.get(&main.id).map_or_else(|| quarter(r1, other), |share| at_fraction(r1, other, *share));
            Some(shown.flatten()? - ring)
        };
        let rises = [rise(0, read.r1_rn), rise(1, read.r1_r2)];
        if rises.iter().flatten().all(|rise| *rise < NO_RISE) {
            continue;
        }
        let metres = |step: usize| rises[step].map(|rise| (rise / (per_metre[0] + per_metre[step + 1])).max(0.0));
        let (second_m, third_m) = (metres(0), metres(1));
        let verdict = match (second_m, third_m) {
            (Some(a), Some(b)) if (a - b).abs() > (AGREE_SHARE * a.max(b)).max(AGREE_M) => SpurVerdict::ContactOrJoint,
            (Some(a), Some(b)) if a.max(b) > LONGEST_SPUR_M => SpurVerdict::Absurd,
            (Some(_), Some(_)) => SpurVerdict::Spur,
            _ => SpurVerdict::OneStep,
        };
        rows.push(SpurMetres { point: point.id, second_m, third_m, verdict });
    }
    rows
}

impl SpurMetres {
    /// The metres that the two steps give together, m.
    pub fn about_m(&self) -> Option<f64> {
        match (self.second_m, self.third_m) {
            (Some(a), Some(b)) => Some(f64::midpoint(a, b)),
            (a, b) => a.or(b),
        }
    }
}

/// To half a metre: the figures hold no more.
fn about(metres: f64) -> Option<Metres> {
    Metres::new(((metres * 2.0).round() / 2.0).max(0.5)).ok()
}

/// What an explanation draws into the description where it is found to be so; `None` where it is mended
/// instead, or there is more to it than one answer.
pub fn drawn_by(circuit: &Circuit, explanation: &Explanation) -> Option<CircuitAnswer> {
    let ([kind], [at]) = (explanation.kinds.as_slice(), explanation.at.as_slice()) else { return None };
    match kind {
        Kind::Spur { points } => {
            let [only] = points.as_slice() else { return None };
            let point = circuit.points.iter().find(|point| name(circuit, point.id) == *only)?;
            let spur = CircuitAnswer::Spur { point: point.id, length_m: about(at.size)? };
            circuit.takes(&spur).then_some(spur)
        }
        Kind::WrongLength => Some(CircuitAnswer::Length { length_m: about(explanation.length_m)? }),
        Kind::WrongCpc { mm2 } => Some(CircuitAnswer::Cpc { mm2: SquareMillimetres::new(*mm2).ok()? }),
        Kind::ParallelEarth { .. } => Some(CircuitAnswer::MetalBeside),
        _ => None,
    }
}

impl SpurMetres {
    /// The spur that it is drawn as; `None` where it does not read like one, or cannot be drawn so.
    pub fn drawn(&self, circuit: &Circuit) -> Option<CircuitAnswer> {
        let length_m = self.about_m().filter(|_| self.verdict == SpurVerdict::Spur).and_then(about)?;
        let spur = CircuitAnswer::Spur { point: self.point, length_m };
        circuit.takes(&spur).then_some(spur)
    }
}

/// Every answer that the readings of a circuit offer: of points that read like a spur; then, worked out only
/// when it is come to, of what explains the readings.
pub fn answers<'a>(
    installation: &'a Installation,
    circuit: &'a Circuit,
    settled: &'a CurrentReadings<'_>,
) -> impl Iterator<Item = CircuitAnswer> + 'a {
    let rows = spur_metres(installation, circuit, settled).into_iter();
    let spurs = rows.filter_map(|row| Some([row.drawn(circuit)?, CircuitAnswer::MoreCables { point: row.point }]));
    let explained = std::iter::once_with(|| case_of(installation, circuit, settled))
        .filter_map(|case| diagnose(&case?).ok())
        .flat_map(|found| found.explanations)
        .filter_map(|one| drawn_by(circuit, &one));
    spurs.flatten().chain(explained)
}
