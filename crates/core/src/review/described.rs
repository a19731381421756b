//! What is described rather than read: particulars, inspection, and whether device, cable, RCD and
//! what hangs on them match.

use crate::design::wants_additional_protection;
use crate::installation::inspection::{ITEMS, InspectionOutcome};
use crate::installation::{CableFamily, Carried, Circuit, Feed, Feeds, Installation, Shape};
use crate::quantity::approximate;
use crate::review::{Described, Finding, Particular, Reason, Reviewed, Severity, Where};
use crate::standard::capacity::twin_and_earth;
use crate::standard::rcd::{ADDITIONAL_PROTECTION, RcdKind, RcdType};
use crate::standard::ring::{LEAST_LEG_CAPACITY, LEAST_SIZE, LEAST_SIZE_MINERAL};

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

/// Device, cable, RCD and load of a circuit.
pub(super) fn circuit(installation: &Installation, circuit: &Circuit, about: &str, findings: &mut Vec<Finding>) {
    let mut odd = |found: Described| {
        let reason = Reason::Described(found);
        findings.push(Finding::new(Severity::Odd, about, reason, Where::Circuit(circuit.id, None)));
    };
    cable(circuit, &mut odd);
    if wants_additional_protection(circuit) {
        let covered = installation.rcd_of(circuit).is_some_and(|rcd| rcd.idn_ma <= *ADDITIONAL_PROTECTION);
        if !covered {
            odd(Described::NoAdditionalProtection);
        }
    }
    if circuit.device.breaking_ka.is_none() && circuit.feeds != Feeds::Board {
        odd(Described::CapacityUnknown);
    }
    blinded(installation, circuit).into_iter().for_each(&mut odd);
    if let Some(reason) = trips_together(installation, circuit).map(Reason::Described) {
        findings.push(Finding::new(Severity::Note, about, reason, Where::Circuit(circuit.id, None)));
    }
}

/// Whether the cable is what its shape and its device want.
fn cable(circuit: &Circuit, odd: &mut impl FnMut(Described)) {
    let rating = circuit.device.rating_a;
    let capacity = circuit.cable.method.and_then(|method| twin_and_earth(circuit.cable.line_mm2, method));
    if circuit.shape == Shape::Ring {
        let mineral = circuit.cable.kind.family() == CableFamily::MineralInsulated;
        let least = if mineral { *LEAST_SIZE_MINERAL } else { *LEAST_SIZE };
        if circuit.cable.line_mm2 < least {
            odd(Described::RingTooThin { mm2: circuit.cable.line_mm2.get(), least_mm2: least.get() });
        }
        if let Some(amps) = capacity.filter(|amps| *amps < *LEAST_LEG_CAPACITY) {
            odd(Described::LegCarries { amps: approximate(amps.get()) });
        }
    } else if let Some(amps) = capacity.filter(|amps| *amps < rating) {
        odd(Described::DeviceOverCable { device: circuit.device.shown(), amps: approximate(amps.get()) });
    }
}

/// The least type of RCD that sees the residual current of what hangs on a circuit; source:
/// [`crate::standard::rcd::TYPES`].
const fn wanted_type(carried: Carried) -> Option<RcdType> {
    match carried {
        Carried::Electronics | Carried::Dimmer => Some(RcdType::A),
        Carried::Drive => Some(RcdType::F),
        Carried::VehicleCharger => Some(RcdType::B),
        _ => None,
    }
}

const fn sees(detects: RcdType) -> u8 {
    match detects {
        RcdType::AC => 0,
        RcdType::A => 1,
        RcdType::F => 2,
        RcdType::B => 3,
    }
}

fn blinded(installation: &Installation, circuit: &Circuit) -> Option<Described> {
    let rcd = installation.rcd_of(circuit)?;
    let carried = circuit.points.iter().flat_map(|point| &point.carries);
    let (carries, wanted) = carried
        .filter_map(|&carried| Some((carried, wanted_type(carried)?)))
        .max_by_key(|(_, wanted)| sees(*wanted))?;
    let (rcd, detects) = (rcd.label.clone(), rcd.detects);
    (sees(detects) < sees(wanted)).then_some(Described::RcdBlind { rcd, detects, carries, wanted })
}

/// A residual device over a board whose circuits have their own, without a time delay.
fn trips_together(installation: &Installation, circuit: &Circuit) -> Option<Described> {
    let upstream = installation.rcd_of(circuit).filter(|rcd| rcd.kind != RcdKind::Selective)?;
    let below = installation.boards.iter().find(|board| {
        matches!(board.fed_by, Feed::Circuit { circuit: feeder } if feeder == circuit.id) && !board.rcds.is_empty()
    })?;
    let (rcd, idn_ma) = (upstream.label.clone(), upstream.idn_ma.normalize());
    Some(Described::TripTogether { rcd, idn_ma, board: below.name.clone() })
}

/// The schedule of inspections.
pub(super) fn inspection(installation: &Installation, findings: &mut Vec<Finding>) {
    let mut missing = |reason: Reason| {
        findings.push(Finding::new(Severity::Missing, "Inspection", reason, Where::Inspection));
    };
    let answer = |key: &str| installation.inspection.iter().find(|answer| answer.item == key);
    let open = ITEMS.iter().filter(|item| answer(item.key).is_none()).count();
    if open > 0 {
        missing(Reason::InspectionOpen { open, of: ITEMS.len() });
    }
    for answer in &installation.inspection {
        if answer.outcome == InspectionOutcome::Departure && answer.note.trim().is_empty() {
            missing(Reason::DepartureUnexplained { item: answer.item.clone() });
        }
    }
}
