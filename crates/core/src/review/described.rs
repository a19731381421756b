//! What is described rather than read: particulars, inspection, and what [`crate::design`] finds.

use crate::design::{Described, of_circuit};
use crate::installation::inspection::{ITEMS, InspectionOutcome};
use crate::installation::{Circuit, Installation};
use crate::review::{Finding, Particular, Reason, Reviewed, Severity, Where};

/// What a certificate must say of whose and where it is.
pub(super) fn particulars(reviewed: Reviewed<'_>, findings: &mut Vec<Finding>) {
    let installation = reviewed.installation;
    let mut want = |there: bool, about: &str, missing: Particular, place: Where| {
        if !there {
            findings.push(Finding::new(Severity::Missing, about, Reason::Particulars { missing }, place));
        }
    };
    for (text, missing) in [
        (&installation.client.name, Particular::Client),
        (&installation.site.address, Particular::Address),
        (&installation.extent, Particular::Extent),
    ] {
        want(!text.trim().is_empty(), "Particulars", missing, Where::Particulars);
    }
    let boards = !installation.boards.is_empty();
    want(boards, "Particulars", Particular::Board, Where::Particulars);
    let circuits = !boards || !installation.circuits.is_empty();
    want(circuits, "Particulars", Particular::Circuit, Where::Particulars);
    want(!installation.supply.bonds.is_empty(), "Particulars", Particular::Bonds, Where::Particulars);
    want(!reviewed.firm.name.trim().is_empty(), "Firm", Particular::Firm, Where::Firm);
}

/// Device, cable, RCD and load of a circuit, as [`crate::design`] finds them.
pub(super) fn circuit(installation: &Installation, circuit: &Circuit, about: &str, findings: &mut Vec<Finding>) {
    for found in of_circuit(installation, circuit) {
        let severity = match found {
            Described::TripTogether { .. } => Severity::Note,
            _ => Severity::Odd,
        };
        let place = Where::Circuit(circuit.id, None);
        findings.push(Finding::new(severity, about, Reason::Described(found), place));
    }
}

/// The schedule of inspections.
pub(super) fn inspection(installation: &Installation, findings: &mut Vec<Finding>) {
    let answer = |key: &str| installation.inspection.iter().find(|answer| answer.item == key);
    let open = ITEMS.iter().filter(|item| answer(item.key).is_none()).count();
    if open > 0 {
        let before = ITEMS.iter().any(|item| item.before_power && answer(item.key).is_none());
        let reason = Reason::InspectionOpen { open, of: ITEMS.len() };
        let mut finding = Finding::new(Severity::Missing, "Inspection", reason, Where::Inspection);
        finding.bars_energising = before;
        findings.push(finding);
    }
    for answer in &installation.inspection {
        if answer.outcome == InspectionOutcome::Departure && answer.note.trim().is_empty() {
            let reason = Reason::DepartureUnexplained { item: answer.item.clone() };
            findings.push(Finding::new(Severity::Missing, "Inspection", reason, Where::Inspection));
        }
    }
}
