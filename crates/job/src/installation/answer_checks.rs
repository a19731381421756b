//! Drawing what was found into the description of a circuit, and taking it back.

use super::answers::{Answered, Change, CircuitAnswer};
use super::{Circuit, Point, PointId};
use jiff::Timestamp;
use proof_standard::quantity::Metres;
use uuid::Uuid;

/// Why an answer is not drawn, or not taken back.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum NotAnswered {
    /// The point is not there any more.
    #[error("That point is not on this circuit any more: load the page again.")]
    NoPoint,
    /// It hangs on another point already, or carries spurs of its own.
    #[error("That point is on a spur already, or a spur leaves from it: draw it in the description of the circuit.")]
    DrawnOtherwise,
    /// A circuit of one point has nothing to hang it on.
    #[error("There is no other point that it could be connected to: draw it in the description of the circuit.")]
    NothingToHangOn,
    /// It is gone.
    #[error("That answer is taken back already.")]
    Gone,
    /// Something that it changed was changed again.
    #[error(
        "What it changed was changed again since: take back what came later first, or mend the description of the circuit."
    )]
    ChangedSince,
}

impl Change {
    /// Whether the circuit is still as the answer left it.
    fn stands(&self, circuit: &Circuit) -> bool {
        let at = |id: &PointId, is: &dyn Fn(&Point) -> bool| circuit.point(*id).is_some_and(is);
        match self {
            Self::SpurFrom { point, after, .. } => at(point, &|point| point.spur_from == *after),
            Self::Leg { point, after, .. } => at(point, &|point| point.leg_m == *after),
            Self::ReturnLeg { after, .. } => circuit.return_leg_m == *after,
            Self::Length { after, .. } => circuit.length_m == *after,
            Self::Cpc { after, .. } => circuit.cable.cpc_mm2 == *after,
            Self::Metal { after, .. } => circuit.parallel_earth_path == *after,
            Self::Remark { after, .. } => circuit.remarks == *after,
        }
    }

    fn set(&self, circuit: &mut Circuit, to_after: bool) {
        let pick = |before, after| if to_after { after } else { before };
        let mut point = |id: PointId, change: &dyn Fn(&mut Point)| {
            if let Some(point) = circuit.points.iter_mut().find(|point| point.id == id) {
                change(point);
            }
        };
        match self {
            Self::SpurFrom { point: id, before, after } => {
                let to = if to_after { *after } else { *before };
                point(*id, &|point| point.spur_from = to);
            }
            Self::Leg { point: id, before, after } => point(*id, &|point| point.leg_m = pick(*before, *after)),
            Self::ReturnLeg { before, after } => circuit.return_leg_m = pick(*before, *after),
            Self::Length { before, after } => circuit.length_m = pick(*before, *after),
            Self::Cpc { before, after } => circuit.cable.cpc_mm2 = if to_after { *after } else { *before },
            Self::Metal { before, after } => circuit.parallel_earth_path = if to_after { *after } else { *before },
            Self::Remark { before, after } => {
                circuit.remarks.clone_from(if to_after { after } else { before });
            }
        }
    }
}

/// To a tenth of a metre.
fn tenth(metres: f64) -> Option<Metres> {
    Metres::new((metres * 10.0).round() / 10.0).ok()
}

/// The sum of two legs, where both are known.
fn joined(a: Option<Metres>, b: Option<Metres>) -> Option<Metres> {
    tenth(a?.get() + b?.get())
}

/// A point hangs on the one before it on the main line (on the one after it, where it is the first); the main
/// line goes past it, as long as it was.
fn spur(circuit: &Circuit, id: PointId, length: Metres) -> Result<Vec<Change>, NotAnswered> {
    let point = circuit.point(id).ok_or(NotAnswered::NoPoint)?;
    if point.spur_from.is_some() || circuit.points.iter().any(|other| other.spur_from == Some(id)) {
        return Err(NotAnswered::DrawnOtherwise);
    }
    let main: Vec<&Point> = circuit.main_points().collect();
    let at = main.iter().position(|other| other.id == id).ok_or(NotAnswered::NoPoint)?;
    let after = main.get(at + 1);
    let from = at.checked_sub(1).and_then(|before| main.get(before)).or(after).ok_or(NotAnswered::NothingToHangOn)?;
    let mut changes = vec![
        Change::SpurFrom { point: id, before: None, after: Some(from.id) },
        Change::Leg { point: id, before: point.leg_m, after: Some(length) },
    ];
    changes.push(if let Some(next) = after {
        Change::Leg { point: next.id, before: next.leg_m, after: joined(point.leg_m, next.leg_m) }
    } else {
        let (before, after) = (circuit.return_leg_m, joined(point.leg_m, circuit.return_leg_m));
        Change::ReturnLeg { before, after }
    });
    Ok(changes)
}

/// The whole length, and every leg in proportion.
fn length(circuit: &Circuit, length: Metres) -> Vec<Change> {
    let mut changes = vec![Change::Length { before: circuit.length_m, after: Some(length) }];
    let drawn: Option<f64> = circuit.legs().map(|legs| legs.iter().sum()).filter(|sum| *sum > 0.0);
    let Some(share) = drawn.map(|drawn| length.get() / drawn) else { return changes };
    let stretched = |leg: Option<Metres>| tenth(leg?.get() * share);
    changes.extend(circuit.main_points().map(|point| Change::Leg {
        point: point.id,
        before: point.leg_m,
        after: stretched(point.leg_m),
    }));
    if circuit.return_leg_m.is_some() {
        let (before, after) = (circuit.return_leg_m, stretched(circuit.return_leg_m));
        changes.push(Change::ReturnLeg { before, after });
    }
    changes
}

fn more_cables(circuit: &Circuit, id: PointId) -> Result<Vec<Change>, NotAnswered> {
    let name = &circuit.point(id).ok_or(NotAnswered::NoPoint)?.name;
    let mut noted = circuit.clone();
    noted.remark(&format!("{name} reads high with two cables behind it: contacts or a joint to be found"));
    Ok(vec![Change::Remark { before: circuit.remarks.clone(), after: noted.remarks }])
}

/// What an answer changes.
fn changes(circuit: &Circuit, answer: &CircuitAnswer) -> Result<Vec<Change>, NotAnswered> {
    Ok(match *answer {
        CircuitAnswer::Spur { point, length_m } => spur(circuit, point, length_m)?,
        CircuitAnswer::MoreCables { point } => more_cables(circuit, point)?,
        CircuitAnswer::Length { length_m } => length(circuit, length_m),
        CircuitAnswer::Cpc { mm2 } => vec![Change::Cpc { before: circuit.cable.cpc_mm2, after: mm2 }],
        CircuitAnswer::MetalBeside => vec![Change::Metal { before: circuit.parallel_earth_path, after: Some(true) }],
    })
}

impl Circuit {
    /// Whether an answer can be drawn as the circuit stands.
    pub fn takes(&self, answer: &CircuitAnswer) -> bool {
        changes(self, answer).is_ok()
    }

    /// Draws an answer into the description.
    ///
    /// # Errors
    /// [`NotAnswered`] where the circuit is drawn so that it cannot be.
    pub fn answer(&mut self, (id, by, at): (Uuid, &str, Timestamp), answer: CircuitAnswer) -> Result<(), NotAnswered> {
        let changes = changes(self, &answer)?;
        for change in &changes {
            change.set(self, true);
        }
        self.answered.push(Answered { id, by: by.to_owned(), at, answer, changes });
        Ok(())
    }

    /// Takes an answer back: what it changed is as it was before.
    ///
    /// # Errors
    /// [`NotAnswered`] where it is gone, or what it changed was changed again.
    pub fn take_back(&mut self, id: Uuid) -> Result<(), NotAnswered> {
        let at = self.answered.iter().position(|one| one.id == id).ok_or(NotAnswered::Gone)?;
        if self.answered[at].changes.iter().any(|change| !change.stands(self)) {
            return Err(NotAnswered::ChangedSince);
        }
        let answered = self.answered.remove(at);
        for change in answered.changes.iter().rev() {
            change.set(self, false);
        }
        Ok(())
    }
}
