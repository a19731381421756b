//! Protection against shock: what wants additional protection and has none, residual devices that are
//! not described, own electrodes without one.

use crate::finding::{Found, Guards};
use proof_job::installation::{Circuit, Feeds, Installation};
use proof_standard::limits::devices::DeviceStandard;
use proof_standard::limits::rcd::{ADDITIONAL_PROTECTION, RcdKind, SOCKETS_PROTECTED};
use proof_standard::limits::supply::EarthingSystem;

/// Whether a circuit feeds something that an RCD should cover as additional protection: socket-outlets
/// up to [`SOCKETS_PROTECTED`].
pub fn wants_additional_protection(installation: &Installation, circuit: &Circuit) -> bool {
    circuit.feeds == Feeds::Sockets
        && circuit.device.rating_a <= *SOCKETS_PROTECTED
        && !circuit.band.is_extra_low()
        && !installation.out_of_scope(circuit)
}

/// Whether a residual device of 30 mA without delay stands over a circuit, on whatever board.
fn is_protected(installation: &Installation, circuit: &Circuit) -> bool {
    let protects = |kind: RcdKind| kind != RcdKind::Selective;
    installation.upstream_rcds(circuit).iter().any(|rcd| rcd.idn_ma <= *ADDITIONAL_PROTECTION && protects(rcd.kind))
}

pub(super) fn sockets_unprotected(installation: &Installation, circuit: &Circuit) -> bool {
    wants_additional_protection(installation, circuit)
        && !is_protected(installation, circuit)
        && installation.exception_for(circuit).is_none()
}

pub(super) fn check_circuit(installation: &Installation, circuit: &Circuit, found: &mut Vec<Found>) {
    if circuit.band.is_extra_low() {
        return;
    }
    if circuit.device.standard == DeviceStandard::BsEn61009 && installation.rcd_for(circuit).is_none() {
        found.push(Found::RcboUndescribed);
    }
    if !is_protected(installation, circuit) {
        let lighting = circuit.feeds == Feeds::Lighting
            && installation.premises.is_dwelling()
            && installation.edition.rules().lighting_protected;
        let for_what = circuit.serves.first().copied().map(Guards::from).or(lighting.then_some(Guards::Lighting));
        // A circuit whose sockets want it has been told already.
        found.extend(
            for_what
                .filter(|_| !wants_additional_protection(installation, circuit))
                .map(|for_what| Found::Unprotected { for_what }),
        );
    }
    let system = installation.board(circuit.board).map(|board| board.system);
    if system == Some(EarthingSystem::Tt) && installation.upstream_rcds(circuit).is_empty() {
        found.push(Found::TtUnprotected);
    }
}
