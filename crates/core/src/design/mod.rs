//! What the description alone tells: whether device, cable, RCD and what hangs on a circuit match.

use crate::installation::{CableFamily, Carried, Circuit, Feed, Feeds, Installation, Shape};
use crate::quantity::{Milliamps, approximate};
use crate::standard::capacity::twin_and_earth;
use crate::standard::rcd::{ADDITIONAL_PROTECTION, RcdKind, RcdType, SOCKETS_PROTECTED};
use crate::standard::ring::{LEAST_LEG_CAPACITY, LEAST_SIZE, LEAST_SIZE_MINERAL};
use serde::Serialize;

/// Device, cable, RCD and load of a circuit, as described.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "found", rename_all = "snake_case")]
pub enum Described {
    /// A ring in cable that is too thin.
    RingTooThin {
        /// Its size, mm².
        mm2: f64,
        /// The least, mm².
        least_mm2: f64,
    },
    /// A ring whose legs carry too little.
    LegCarries {
        /// What each carries, A.
        amps: f64,
    },
    /// A device above what its cable carries.
    DeviceOverCable {
        /// It, as shown.
        device: String,
        /// What the cable carries, A.
        amps: f64,
    },
    /// Socket-outlets without an RCD of 30 mA or less.
    NoAdditionalProtection,
    /// The breaking capacity of a device is not given.
    CapacityUnknown,
    /// An RCD of a type that does not see what may leak.
    RcdBlind {
        /// Which RCD.
        rcd: String,
        /// Its type.
        detects: RcdType,
        /// What hangs on the circuit.
        carries: Carried,
        /// The type that sees it.
        wanted: RcdType,
    },
    /// Two residual devices in series that may trip together.
    TripTogether {
        /// The upper one.
        rcd: String,
        /// Its IΔn, mA.
        idn_ma: Milliamps,
        /// The board below it.
        board: String,
    },
}

/// Whether a circuit feeds something that an RCD should cover as additional protection: socket-outlets
/// up to [`SOCKETS_PROTECTED`].
pub fn wants_additional_protection(circuit: &Circuit) -> bool {
    circuit.feeds == Feeds::Sockets && circuit.device.rating_a <= *SOCKETS_PROTECTED
}

/// What does not match in the description of a circuit.
pub fn of_circuit(installation: &Installation, circuit: &Circuit) -> Vec<Described> {
    let mut found = Vec::new();
    cable(circuit, &mut found);
    if wants_additional_protection(circuit) {
        let covered = installation.rcd_of(circuit).is_some_and(|rcd| rcd.idn_ma <= *ADDITIONAL_PROTECTION);
        if !covered {
            found.push(Described::NoAdditionalProtection);
        }
    }
    if circuit.device.breaking_ka.is_none() && circuit.feeds != Feeds::Board {
        found.push(Described::CapacityUnknown);
    }
    found.extend(blinded(installation, circuit));
    found.extend(trips_together(installation, circuit));
    found
}

/// Whether the cable is what its shape and its device want.
fn cable(circuit: &Circuit, found: &mut Vec<Described>) {
    let rating = circuit.device.rating_a;
    let capacity = circuit.cable.method.and_then(|method| twin_and_earth(circuit.cable.line_mm2, method));
    if circuit.shape == Shape::Ring {
        let mineral = circuit.cable.kind.family() == CableFamily::MineralInsulated;
        let least = if mineral { *LEAST_SIZE_MINERAL } else { *LEAST_SIZE };
        if circuit.cable.line_mm2 < least {
            found.push(Described::RingTooThin { mm2: circuit.cable.line_mm2.get(), least_mm2: least.get() });
        }
        if let Some(amps) = capacity.filter(|amps| *amps < *LEAST_LEG_CAPACITY) {
            found.push(Described::LegCarries { amps: approximate(amps.get()) });
        }
    } else if let Some(amps) = capacity.filter(|amps| *amps < rating) {
        found.push(Described::DeviceOverCable { device: circuit.device.shown(), amps: approximate(amps.get()) });
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
