//! Two-way and intermediate switching: which switches light which lamps, in how many combinations, and
//! how far the switched line runs.
//!
//! A two-way switch has no open of its own: which of its positions closes depends on the other. So a
//! combination is told from the first one that lit the lamp: by the switches that were thrown since.
//! Thrown once, each opens; twice, it closes again. Common practice, no source.

use super::{Accessory, Circuit, Point, PointId};
use proof_standard::shape::Shape;

/// More switches than this are not read in every combination: each alone, and each two that are neighbours.
const MOST_WHOLE: usize = 4;

/// Switches that light the same lamps.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Switching {
    /// The switches in the order of the line: two-way, intermediates, two-way.
    pub switches: Vec<PointId>,
    /// What they light.
    pub lamps: Vec<PointId>,
}

impl Switching {
    /// Its switches and its lamps.
    pub fn parts(&self) -> impl Iterator<Item = &PointId> {
        self.switches.iter().chain(&self.lamps)
    }

    /// The combinations beside the first that lit: the switches thrown since, one more or fewer each time.
    pub fn throws(&self) -> Vec<Vec<PointId>> {
        let count = self.switches.len();
        let of = |bits: usize| {
            let thrown = self.switches.iter().enumerate().filter(|(at, _)| bits & (1 << at) != 0);
            thrown.map(|(_, id)| *id).collect::<Vec<_>>()
        };
        if count <= MOST_WHOLE {
            return (1..1_usize << count).map(|number| of(number ^ (number >> 1))).collect();
        }
        let alone = (0..count).map(|at| of(1 << at));
        let neighbours = (1..count).map(|at| of(1 << at | 1 << (at - 1)));
        alone.chain(neighbours).collect()
    }
}

fn turns(point: &Point) -> bool {
    matches!(point.accessory, Accessory::TwoWay | Accessory::Intermediate)
}

/// The two-way switching of a circuit. Points of one name belong together; those without a name by their
/// order: two two-way switches, with the intermediates between, and the lamps that follow or stand among
/// them.
pub fn switchings(circuit: &Circuit) -> Vec<Switching> {
    let mut all: Vec<(&str, Switching)> = Vec::new();
    let mut ends = 0;
    // Lamps listed before any switch, where no other switch stands before them.
    let mut early: Option<Vec<PointId>> = Some(Vec::new());
    for point in &circuit.points {
        let name = point.switching.trim();
        if name.is_empty() {
            let first_of_next = point.accessory == Accessory::TwoWay && (ends == 0 || ends == 2);
            if first_of_next {
                all.push(("", Switching::default()));
                ends = 0;
            }
            ends += usize::from(point.accessory == Accessory::TwoWay);
        } else if !all.iter().any(|(other, _)| *other == name) {
            all.push((name, Switching::default()));
        }
        if point.accessory == Accessory::Switch {
            early = early.filter(|_| !all.is_empty());
        }
        let Some((_, switching)) = all.iter_mut().rfind(|(other, _)| *other == name) else {
            if let (Some(early), Accessory::Lamp) = (&mut early, point.accessory) {
                early.push(point.id);
            }
            continue;
        };
        if turns(point) {
            switching.switches.push(point.id);
        } else if point.accessory == Accessory::Lamp || !name.is_empty() && point.accessory != Accessory::Switch {
            switching.lamps.push(point.id);
        }
    }
    // They belong to the one switching that there is.
    if let ([(name, only)], Some(early)) = (all.as_mut_slice(), early)
        && name.is_empty()
    {
        only.lamps.splice(..0, early);
    }
    all.into_iter().map(|(_, switching)| switching).filter(|one| !one.switches.is_empty()).collect()
}

/// The points that lead from the board to one, and itself.
fn path(circuit: &Circuit, id: PointId) -> Option<Vec<&Point>> {
    let mut spurs = Vec::new();
    let mut at = circuit.point(id)?;
    for _ in 0..circuit.points.len() {
        let Some(from) = at.spur_from else { break };
        spurs.push(at);
        at = circuit.point(from)?;
    }
    let mut path: Vec<&Point> = Vec::new();
    for point in circuit.main_points() {
        path.push(point);
        if point.id == at.id {
            path.extend(spurs.iter().rev());
            return Some(path);
        }
    }
    None
}

fn metres(points: &[&Point]) -> Option<f64> {
    points.iter().map(|point| point.leg_m.map(proof_standard::quantity::Metres::get)).sum()
}

/// Cable between two points, m.
fn between(circuit: &Circuit, a: PointId, b: PointId) -> Option<f64> {
    let (a, b) = (path(circuit, a)?, path(circuit, b)?);
    let shared = a.iter().zip(&b).take_while(|(one, other)| one.id == other.id).count();
    Some(metres(&a[shared..])? + metres(&b[shared..])?)
}

/// How far the line runs to a point of a two-way switching, through the switches on its way, and how far
/// its other conductors run, m; `None` where a leg is not known or the point is no part of one.
pub fn switched_metres(circuit: &Circuit, id: PointId) -> Option<[f64; 2]> {
    if circuit.shape == Shape::Ring {
        return None;
    }
    let all = switchings(circuit);
    let switching = all.iter().find(|one| one.switches.contains(&id) || one.lamps.contains(&id))?;
    let mut line = metres(&path(circuit, *switching.switches.first()?)?)?;
    let mut at = switching.switches[0];
    for next in switching.switches[1..].iter().chain(switching.lamps.contains(&id).then_some(&id)) {
        if at == id {
            break;
        }
        line += between(circuit, at, *next)?;
        at = *next;
    }
    Some([line, metres(&path(circuit, id)?)?])
}
