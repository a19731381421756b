//! What is described rather than read: particulars, inspection, and what [`proof_judge::design`] finds.

use crate::review::{Finding, Reviewed, Where};
use proof_job::installation::inspection::asked;
use proof_job::installation::{CableFamily, Circuit, Installation, Wiring};
use proof_job::reading::CurrentReadings;
use proof_judge::design::{FlawAt, circuit_findings, flaws, flaws_of_circuit};
use proof_judge::finding::{Found, Particular};
use proof_standard::limits::supply::EarthingSystem;

/// What a certificate must say of whose and where it is.
pub(super) fn particulars(reviewed: Reviewed<'_>, findings: &mut Vec<Finding>) {
    let installation = reviewed.installation;
    let mut want = |there: bool, about: &str, missing: Particular, place: Where| {
        if !there {
            findings.push(Finding::new(about, Found::Particulars { missing }, place));
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
    let bonding = !installation.supply.bonds.is_empty() || !installation.supply.nothing_to_bond.trim().is_empty();
    want(bonding, "Particulars", Particular::Bonds, Where::Particulars);
    want(!reviewed.firm.name.trim().is_empty(), "Firm", Particular::Firm, Where::Firm);
    let supply = &installation.supply;
    if boards && installation.includes_origin() {
        let device = !supply.device.trim().is_empty() && supply.device_a.is_some();
        let tt = supply.system == EarthingSystem::Tt;
        for (there, missing) in [
            (supply.tails_mm2.is_some(), Particular::Tails),
            (supply.earthing_mm2.is_some(), Particular::Earthing),
            (device, Particular::SupplyDevice),
            (!tt || !supply.electrode.trim().is_empty(), Particular::Electrode),
            (supply.bonds.iter().all(|bond| bond.mm2.is_some()), Particular::BondSize),
        ] {
            want(there, "Supply and earthing", missing, Where::Particulars);
        }
    }
    for board in installation.boards.iter().filter(|_| !installation.is_minor()) {
        let switch = &board.main_switch;
        let whole = !switch.kind.trim().is_empty() && switch.poles.is_some() && switch.rating_a.is_some();
        want(whole, &board.name, Particular::MainSwitch, Where::Board(board.id));
        want(!board.location.trim().is_empty(), &board.name, Particular::BoardPlace, Where::Board(board.id));
    }
    for circuit in installation.circuits.iter().filter(|circuit| !installation.out_of_scope(circuit)) {
        let about = crate::review::about::about(circuit);
        let place = || Where::Circuit(circuit.id, None);
        let kind =
            circuit.cable.kind.text() != CableFamily::Other.key() && !circuit.cable.kind.text().trim().is_empty();
        want(kind || circuit.wiring == Wiring::Existing, &about, Particular::CableKind, place());
        want(!circuit.description.trim().is_empty(), &about, Particular::Description, place());
    }
}

/// Flaws of the whole: earthing, bonds, boards, decisions, sources.
pub(super) fn whole(installation: &Installation, findings: &mut Vec<Finding>) {
    for (at, flaw) in flaws(installation) {
        let (about, place) = match at {
            FlawAt::Supply => ("Supply and earthing", Where::Particulars),
            FlawAt::Board(board) => {
                (installation.board(board).map_or("", |board| board.name.as_str()), Where::Board(board))
            }
        };
        findings.push(Finding::new(about, flaw, place));
    }
}

/// Device, cable, RCD and load of a circuit, as [`proof_judge::design`] finds them.
pub(super) fn circuit(
    (installation, settled): (&Installation, &CurrentReadings<'_>),
    circuit: &Circuit,
    about: &str,
    findings: &mut Vec<Finding>,
) {
    if installation.out_of_scope(circuit) {
        return;
    }
    for flaw in flaws_of_circuit(installation, circuit, settled) {
        let place = Where::Circuit(circuit.id, None);
        findings.push(Finding::new(about, flaw, place));
    }
    for found in circuit_findings(installation, circuit) {
        let place = Where::Circuit(circuit.id, None);
        findings.push(Finding::new(about, found, place));
    }
}

/// The schedule of inspections.
pub(super) fn inspection(installation: &Installation, findings: &mut Vec<Finding>) {
    let answer = |key: &str| installation.inspection.iter().find(|answer| answer.item == key);
    let open = || asked(installation).filter(|item| answer(item.key).is_none());
    if open().next().is_some() {
        let before = open().any(|item| item.before_power);
        let reason = Found::InspectionOpen { open: open().count(), of: asked(installation).count() };
        let mut finding = Finding::new("Inspection", reason, Where::Inspection);
        finding.bars_energising = before;
        findings.push(finding);
    }
    for answer in &installation.inspection {
        if answer.outcome.wants_reason() && answer.note.trim().is_empty() {
            let reason = Found::DepartureUnexplained { item: answer.item.clone() };
            findings.push(Finding::new("Inspection", reason, Where::Inspection));
        }
    }
}
