//! What is described rather than read: particulars, inspection, and whether device, cable, RCD and
//! what hangs on them match.

use crate::design::wants_additional_protection;
use crate::installation::inspection::{ITEMS, InspectionOutcome};
use crate::installation::{CableFamily, Carried, Circuit, Feed, Feeds, Installation, Shape};
use crate::quantity::{Amps, approximate, exact};
use crate::review::{Finding, Kind, Reviewed, Severity, Where};
use crate::standard::capacity::twin_and_earth;
use crate::standard::rcd::{ADDITIONAL_PROTECTION, RcdKind, RcdType, type_source};
use crate::standard::ring::{LEAST_LEG_CAPACITY, LEAST_SIZE, LEAST_SIZE_MINERAL, cable_source};

/// What a certificate must say of whose and where it is.
pub(super) fn particulars(reviewed: Reviewed<'_>, findings: &mut Vec<Finding>) {
    let installation = reviewed.installation;
    let mut missing = |about: &str, what: String, then: &str, place: Where| {
        findings.push(Finding::new(Kind::ParticularsMissing, Severity::Missing, about, what, then, place));
    };
    for (text, what) in [
        (&installation.client.name, "the client's name"),
        (&installation.site.address, "the address of the site"),
        (&installation.extent, "the extent of the work that the certificate covers"),
    ] {
        if text.trim().is_empty() {
            let then = "Write it under particulars.";
            missing("Particulars", format!("{what} is not given"), then, Where::Particulars);
        }
    }
    let absent = if installation.boards.is_empty() {
        Some(("no board is described", "Describe the board that the circuits leave from."))
    } else if installation.circuits.is_empty() {
        Some(("no circuit is described", "Describe the circuits, a line each."))
    } else {
        None
    };
    if let Some((what, then)) = absent {
        missing("Particulars", what.into(), then, Where::Particulars);
    }
    if installation.supply.bonds.is_empty() {
        let then = "List the bonds (water, gas, steel) under supply and earthing.";
        missing("Particulars", "no main bonding conductor is described".into(), then, Where::Particulars);
    }
    if reviewed.firm.name.trim().is_empty() {
        let then = "Name it once; every job without a certificate follows.";
        missing("Firm", "the firm that issues the certificate is not named".into(), then, Where::Firm);
    }
}

/// Device, cable, RCD and load of a circuit.
pub(super) fn circuit(installation: &Installation, circuit: &Circuit, about: &str, findings: &mut Vec<Finding>) {
    let mut odd = |kind: Kind, what: String, then: &str| {
        findings.push(Finding::new(kind, Severity::Odd, about, what, then, Where::Circuit(circuit.id, None)));
    };
    let rating = approximate(circuit.device.rating_a);
    let capacity = circuit.cable.method.and_then(|method| twin_and_earth(circuit.cable.line_mm2, method));
    if circuit.shape == Shape::Ring {
        let mineral = circuit.cable.kind.family() == CableFamily::MineralInsulated;
        let least = if mineral { LEAST_SIZE_MINERAL } else { LEAST_SIZE };
        if circuit.cable.line_mm2 < least {
            let size = circuit.cable.line_mm2.get();
            let what = format!("a ring in {size} mm²: at least {} mm² ({})", least.get(), cable_source().line());
            odd(Kind::CableMismatch, what, "Check the cable, or whether it is a ring.");
        }
        if capacity.is_some_and(|amps| amps < LEAST_LEG_CAPACITY) {
            let amps = capacity.map_or(0.0, Amps::get);
            let what = format!("each leg carries {amps} A by its reference method, less than 20 A");
            odd(Kind::CableMismatch, what, "Ask the designer: the method, or the cable.");
        }
    } else if let Some(amps) = capacity.filter(|amps| amps.get() < rating) {
        let shown = circuit.device.shown();
        let what = format!("{shown} behind cable of {} A (no grouping or ambient factors)", amps.get());
        odd(Kind::CableMismatch, what, "Ask the designer: the device, the method, or the cable.");
    }
    if wants_additional_protection(circuit) {
        let covered = installation
            .rcd_of(circuit)
            .is_some_and(|rcd| exact(ADDITIONAL_PROTECTION.get()).is_some_and(|limit| rcd.idn_ma <= limit));
        if !covered {
            let what = "socket-outlets up to 32 A without an RCD of 30 mA or less (BS 7671 411.3.3, from memory)";
            let then = "Name the RCD that covers this way, or write the reason as a judgement.";
            odd(Kind::NoAdditionalProtection, what.into(), then);
        }
    }
    if circuit.device.breaking_ka.is_none() && circuit.feeds != Feeds::Board {
        let what = "the breaking capacity of its device is not given".to_owned();
        odd(Kind::CapacityUnknown, what, "Read it off the device.");
    }
    if let Some(what) = blinded(installation, circuit) {
        odd(Kind::RcdType, what, "Fit a device of a type that sees it, or write down why this one does.");
    }
    if let Some(what) = trips_together(installation, circuit) {
        let then = "Nothing is asked: the next person should know.";
        let place = Where::Circuit(circuit.id, None);
        findings.push(Finding::new(Kind::Selectivity, Severity::Note, about, what, then, place));
    }
}

/// The least type of RCD that sees the residual current of what hangs on a circuit; source: [`type_source`].
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

fn blinded(installation: &Installation, circuit: &Circuit) -> Option<String> {
    let rcd = installation.rcd_of(circuit)?;
    let carried = circuit.points.iter().flat_map(|point| &point.carries);
    let (what, wanted) = carried
        .filter_map(|&carried| Some((carried, wanted_type(carried)?)))
        .max_by_key(|(_, wanted)| sees(*wanted))?;
    (sees(rcd.detects) < sees(wanted)).then(|| {
        format!(
            "RCD {} is type {:?}, and the circuit feeds a {}: type {wanted:?} ({})",
            rcd.label,
            rcd.detects,
            what.label(),
            type_source().line()
        )
    })
}

/// A residual device over a board whose circuits have their own, without a time delay.
fn trips_together(installation: &Installation, circuit: &Circuit) -> Option<String> {
    let upstream = installation.rcd_of(circuit).filter(|rcd| rcd.kind != RcdKind::Selective)?;
    let below = installation.boards.iter().find(|board| {
        matches!(board.fed_by, Feed::Circuit { circuit: feeder } if feeder == circuit.id) && !board.rcds.is_empty()
    })?;
    Some(format!(
        "RCD {} ({} mA, not delayed) feeds {}, whose circuits have RCDs of their own: a fault there may trip both",
        upstream.label,
        upstream.idn_ma.normalize(),
        below.name
    ))
}

/// The schedule of inspections.
pub(super) fn inspection(installation: &Installation, findings: &mut Vec<Finding>) {
    let answer = |key: &str| installation.inspection.iter().find(|answer| answer.item == key);
    let open = ITEMS.iter().filter(|item| answer(item.key).is_none()).count();
    if open > 0 {
        let what = format!("{open} of {} items of the schedule of inspections are not answered", ITEMS.len());
        let then = "Inspection comes before any test: answer each.";
        findings.push(Finding::new(
            Kind::InspectionMissing,
            Severity::Missing,
            "Inspection",
            what,
            then,
            Where::Inspection,
        ));
    }
    for answer in &installation.inspection {
        if answer.outcome == InspectionOutcome::Departure && answer.note.trim().is_empty() {
            let what =
                format!("a departure without its reason: {}", crate::installation::inspection::text(&answer.item));
            findings.push(Finding::new(
                Kind::InspectionMissing,
                Severity::Missing,
                "Inspection",
                what,
                "Write why it is no less safe.",
                Where::Inspection,
            ));
        }
    }
}
