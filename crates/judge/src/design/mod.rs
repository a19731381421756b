//! What the description alone tells: whether device, cable, RCD and what hangs on a circuit match.

mod capacity;
mod flaw_at;
mod protection;
mod sizes;
mod sources;

pub use capacity::capacity_of;
pub use flaw_at::FlawAt;
pub use protection::wants_additional_protection;

use crate::finding::Found;
use proof_job::installation::{CableFamily, Carried, Circuit, Feed, Installation};
use proof_job::reading::CurrentReadings;
use proof_standard::limits::rcd::{RcdKind, RcdType};
use proof_standard::limits::ring::{LEAST_LEG_CAPACITY, LEAST_SIZE, LEAST_SIZE_MINERAL};
use proof_standard::quantity::approximate;
use proof_standard::shape::Shape;

/// What does not match in the description of a circuit.
pub fn circuit_findings(installation: &Installation, circuit: &Circuit) -> Vec<Found> {
    let mut found = Vec::new();
    cable(installation, circuit, &mut found);
    if protection::sockets_unprotected(installation, circuit) {
        found.push(Found::NoAdditionalProtection);
    }
    if circuit.device.breaking_ka.is_none() {
        found.push(Found::CapacityUnknown);
    }
    found.extend(blinded(installation, circuit));
    found.extend(trips_together(installation, circuit));
    found
}

/// Flaws of the whole: earthing, bonds, boards, decisions, sources.
pub fn flaws(installation: &Installation) -> Vec<(FlawAt, Found)> {
    let mut found = Vec::new();
    sizes::check_supply(installation, &mut found);
    sizes::check_boards(installation, &mut found);
    sources::decisions(installation, &mut found);
    sources::check_sources(installation, &mut found);
    found
}

/// Flaws of a circuit that the work touches.
pub fn flaws_of_circuit(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Vec<Found> {
    let mut found = Vec::new();
    sizes::check_circuit(installation, circuit, settled, &mut found);
    protection::check_circuit(installation, circuit, &mut found);
    found
}

/// Whether the cable is what its shape and its device want.
fn cable(installation: &Installation, circuit: &Circuit, found: &mut Vec<Found>) {
    let rating = circuit.device.rating_a;
    let capacity = capacity_of(installation, circuit);
    if circuit.shape == Shape::Ring {
        let mineral = circuit.cable.kind.family() == CableFamily::MineralInsulated;
        let least = if mineral { *LEAST_SIZE_MINERAL } else { *LEAST_SIZE };
        if circuit.cable.line_mm2 < least {
            found.push(Found::RingTooThin { mm2: circuit.cable.line_mm2.get(), least_mm2: least.get() });
        }
        if let Some(amps) = capacity.filter(|amps| *amps < *LEAST_LEG_CAPACITY) {
            found.push(Found::LegCarries { amps: approximate(amps.get()) });
        }
    } else if let Some(amps) = capacity.filter(|amps| *amps < rating && circuit.no_overload.trim().is_empty()) {
        found.push(Found::DeviceOverCable { device: circuit.device.shown(), amps: approximate(amps.get()) });
    }
}

/// The least type of RCD that sees the residual current of what hangs on a circuit; source:
/// [`proof_standard::limits::rcd::TYPES`].
const fn wanted_type(carried: Carried) -> Option<RcdType> {
    match carried {
        Carried::Electronics | Carried::Dimmer | Carried::VehicleChargerDetecting => Some(RcdType::A),
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

fn blinded(installation: &Installation, circuit: &Circuit) -> Option<Found> {
    let rcd = installation.rcd_for(circuit)?;
    let carried = circuit.points.iter().flat_map(|point| &point.connected_load);
    let (carries, wanted) = carried
        .filter_map(|&carried| Some((carried, wanted_type(carried)?)))
        .max_by_key(|(_, wanted)| sees(*wanted))?;
    let (rcd, detects) = (rcd.label.clone(), rcd.detects);
    (sees(detects) < sees(wanted)).then_some(Found::RcdBlind { rcd, detects, carries, wanted })
}

/// A residual device over a board whose circuits have their own, without a time delay.
fn trips_together(installation: &Installation, circuit: &Circuit) -> Option<Found> {
    let upstream = installation.rcd_for(circuit).filter(|rcd| rcd.kind != RcdKind::Selective)?;
    let below = installation.boards.iter().find(|board| {
        matches!(board.fed_by, Feed::Circuit { circuit: feeder } if feeder == circuit.id) && !board.rcds.is_empty()
    })?;
    let (rcd, idn_ma) = (upstream.label.clone(), upstream.idn_ma.normalize());
    Some(Found::TripTogether { rcd, idn_ma, board: below.name.clone() })
}
