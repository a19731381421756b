//! What is prepared before insulation is read, from what a circuit feeds; what comes out is put
//! back afterwards. Common practice, no source.

use crate::house_rules::{CircuitNeutral, ElectronicDevice};
use crate::installation::{Accessory, Carried, Circuit, Installation};
use crate::site::Alteration;
use crate::standard::devices::DeviceStandard;

/// One thing to see to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Preparation {
    /// What is altered, if anything: it goes on the put-back list.
    pub alteration: Option<Alteration>,
    /// What to do, and where.
    pub what: String,
}

/// What stands at the board and does not bear the test voltage.
fn at_board(installation: &Installation, circuit: &Circuit) -> Vec<Preparation> {
    let mut list = Vec::new();
    let surge = installation.board(circuit.board).is_some_and(|board| !board.surge.trim().is_empty());
    let low = circuit.band == crate::installation::CircuitVoltage::Low;
    if surge && low {
        let what = "the surge device of the board unplugged; where it cannot come out, 250 V (BS 7671 643.3.3)";
        list.push(Preparation { alteration: None, what: what.to_owned() });
    }
    let electronic = [
        (circuit.device.standard == DeviceStandard::BsEn61009, "the RCBO"),
        (circuit.arc_detection, "the AFDD"),
        (installation.rcd_of(circuit).is_some() && circuit.device.standard != DeviceStandard::BsEn61009, "the RCD"),
    ];
    let out = installation.house_rules.electronic_device == ElectronicDevice::ConductorsOut;
    for (_, what) in electronic.into_iter().filter(|(there, _)| *there && low) {
        let how = if out { "the conductors of the way out of it" } else { "the circuit read from its load side" };
        let what = format!("{what} off, {how}: its electronics do not bear 500 V between line and neutral");
        list.push(Preparation { alteration: out.then_some(Alteration::WayOut), what });
    }
    list
}

/// Whether the neutral of a circuit hangs together with others on a bar while its insulation is read.
pub fn neutral_is_shared(installation: &Installation, circuit: &Circuit) -> bool {
    let lifted = installation.house_rules.circuit_neutral == CircuitNeutral::Lifted;
    let with_neutral = installation.circuits_of(circuit.board).filter(|other| other.has_neutral());
    circuit.has_neutral() && !lifted && !conductors_out(installation, circuit) && with_neutral.count() > 1
}

/// Whether the conductors of the way, its neutral too, are out of a device with electronics.
pub fn conductors_out(installation: &Installation, circuit: &Circuit) -> bool {
    installation.house_rules.electronic_device == ElectronicDevice::ConductorsOut
        && at_board(installation, circuit).iter().any(|one| one.alteration == Some(Alteration::WayOut))
}

/// What to see to before a circuit's insulation is read: at the board, then at its points.
pub fn prepare(installation: &Installation, circuit: &Circuit) -> Vec<Preparation> {
    let mut list = at_board(installation, circuit);
    list.extend(prepare_points(circuit));
    list
}

/// The same at its points alone: of a circuit that is isolated by its own device the board stays closed.
pub fn prepare_points(circuit: &Circuit) -> Vec<Preparation> {
    let mut list = Vec::new();
    let names = |carried: Carried| -> Vec<&str> {
        circuit.points.iter().filter(|point| point.carries.contains(&carried)).map(|p| p.name.as_str()).collect()
    };
    for (carried, alteration, doing) in [
        (Carried::Lamp, Some(Alteration::LampOut), "lamps out"),
        (Carried::Neon, Some(Alteration::NeonOut), "neon indicators out: each reads about 0.25 MΩ"),
        (Carried::Appliance, Some(Alteration::ApplianceOut), "appliances unplugged or isolated"),
        (Carried::Spd, Some(Alteration::SpdOut), "SPD unplugged: it conducts at the test voltage"),
        (Carried::Water, Some(Alteration::ApplianceOut), "anything with water in it isolated: first suspect"),
        (Carried::Hidden, Some(Alteration::ApplianceOut), "loft and cupboards: amplifiers, alarms unplugged"),
        (Carried::Dimmer, None, "the dimmer stays: line and neutral joined, to earth"),
        (Carried::Electronics, None, "drivers and transformers stay: line and neutral joined, to earth"),
        (Carried::Drive, None, "the drive stays: line and neutral joined, to earth; never between its lines at 500 V"),
        (Carried::VehicleCharger, None, "the charging point stays: line and neutral joined, to earth"),
        (Carried::VehicleChargerDetecting, None, "the charging point stays: line and neutral joined, to earth"),
        (Carried::Outdoors, None, "outdoors: first suspect if it reads low"),
    ] {
        let at = names(carried);
        if !at.is_empty() {
            list.push(Preparation { alteration, what: format!("{doing} ({})", at.join(", ")) });
        }
    }
    let at = |accessory: fn(Accessory) -> bool| -> Vec<&str> {
        circuit.points.iter().filter(|point| accessory(point.accessory)).map(|p| p.name.as_str()).collect()
    };
    let two_way = at(|one| matches!(one, Accessory::TwoWay | Accessory::Intermediate));
    if !two_way.is_empty() {
        let what = format!(
            "two readings to the line: two-way switches as they stand, then one of them turned over; the lower counts ({})",
            two_way.join(", ")
        );
        list.push(Preparation { alteration: None, what });
    }
    list.push(Preparation { alteration: None, what: "switches on, links off, the CPC back on the earth bar".into() });
    list
}
