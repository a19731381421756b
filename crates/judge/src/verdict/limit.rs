//! The maximum Zs of a circuit: by its device, or by the RCD that disconnects in its place.

use proof_job::installation::{Circuit, Installation, OwnLimit};
use proof_standard::limits::OWN_COPY;
use proof_standard::limits::devices::{
    DeviceStandard, MaximumZs, NoMaximum, TripType, eighty_percent, maximum_zs, maximum_zs_by_setting,
};
use proof_standard::limits::earthing::rcd_maximum_zs;
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::Amps;
use rust_decimal::Decimal;

/// The maximum Zs of a circuit: by its device, or by its RCD where that is the protection (TT).
pub struct CircuitLimit {
    /// By the overcurrent device, where the tables hold one.
    pub device: Result<MaximumZs, NoMaximum>,
    /// By the RCD: 50 V / IΔn, Ω.
    pub rcd_ohm: Option<Decimal>,
    /// The RCD is what disconnects a fault to earth.
    pub by_rcd: bool,
}

/// Works out the maximum Zs of a circuit.
pub fn circuit_limit(installation: &Installation, circuit: &Circuit) -> CircuitLimit {
    let system = installation.board(circuit.board).map_or(installation.supply.system, |board| board.system);
    let device = &circuit.device;
    let by_setting = device.magnetic_a.filter(|_| device.standard == DeviceStandard::BsEn60947Part2);
    let own = installation.own_row(&OwnLimit::MaximumZs {
        standard: device.standard,
        trip: device.trip,
        rating_a: device.rating_a.normalize(),
        disconnection_s: circuit.disconnection(system),
    });
    let found = match (own, by_setting) {
        (Some(row), _) => Ok(own_maximum(row.value, device.trip, device.rating_a)),
        (None, Some(magnetic_a)) => Ok(maximum_zs_by_setting(magnetic_a)),
        (None, None) => {
            maximum_zs(device.standard, device.trip, device.rating_a.normalize(), circuit.disconnection(system))
        }
    };
    // Whichever of them stands upstream disconnects: the most sensitive sets the limit.
    let idn_ma = installation.upstream_rcds(circuit).into_iter().map(|rcd| rcd.idn_ma).min();
    let rcd_ohm = idn_ma.map(|idn_ma| *rcd_maximum_zs(idn_ma));
    CircuitLimit { device: found, rcd_ohm, by_rcd: system == EarthingSystem::Tt && rcd_ohm.is_some() }
}

/// A maximum from the firm's own copy.
fn own_maximum(printed_ohm: Decimal, trip: Option<TripType>, rating_a: Amps) -> MaximumZs {
    MaximumZs {
        printed_ohm,
        eighty_percent_ohm: eighty_percent(printed_ohm),
        ia_a: trip.map(|trip| Amps(trip.multiple() * rating_a.get())),
        source: OWN_COPY,
    }
}

impl CircuitLimit {
    /// The Zs that a cold reading is compared with under the 80 % rule, or the RCD's.
    pub fn compared_ohm(&self) -> Option<Decimal> {
        if self.by_rcd { self.rcd_ohm } else { self.device.as_ref().ok().map(|maximum| maximum.eighty_percent_ohm) }
    }
}
