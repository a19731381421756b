//! What is prepared before insulation is read, from what a circuit feeds; what comes out is put
//! back afterwards. Common practice, no source.

use proof_job::installation::{Accessory, Carried, Circuit, Installation};
use proof_job::site::Alteration;
use proof_standard::house_rules::{CircuitNeutral, ElectronicDevice};
use proof_standard::limits::devices::DeviceStandard;
use uuid::Uuid;

/// One thing to see to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Preparation {
    /// What is altered, if anything: it goes on the put-back list.
    pub alteration: Option<Alteration>,
    /// What to do, and where.
    pub what: String,
}

/// A device in a way whose electronics do not bear the test voltage between live conductors.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Electronic {
    /// A breaker with residual protection of its own.
    Rcbo,
    /// Arc detection.
    Afdd,
    /// A residual device before it.
    Rcd,
}

impl Electronic {
    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Rcbo => "RCBO",
            Self::Afdd => "AFDD",
            Self::Rcd => "RCD",
        }
    }
}

/// What stands in a way, or before it on its board, and does not bear 500 V between live conductors.
pub fn electronic_devices(installation: &Installation, circuit: &Circuit) -> Vec<Electronic> {
    let rcbo = circuit.device.standard == DeviceStandard::BsEn61009;
    let all = [
        (rcbo, Electronic::Rcbo),
        (circuit.arc_detection, Electronic::Afdd),
        (!rcbo && installation.rcd_for(circuit).is_some(), Electronic::Rcd),
    ];
    let low = circuit.band == proof_job::installation::CircuitVoltage::Low;
    all.into_iter().filter(|(there, _)| *there && low).map(|(_, what)| what).collect()
}

/// The surge device of a board, which conducts at the test voltage whatever is joined.
fn surge_out(installation: &Installation, board: Uuid) -> Option<Preparation> {
    let there = installation.board(board).is_some_and(|board| !board.surge.trim().is_empty());
    there.then(|| Preparation { alteration: Some(Alteration::SpdOut), what: SURGE.to_owned() })
}

/// What is done with the surge device of a board.
pub const SURGE: &str = "the surge device of the board unplugged; where it cannot come out, 250 V (BS 7671 643.3.3)";

/// What stands at the board and does not bear the test voltage.
fn at_board(installation: &Installation, circuit: &Circuit) -> Vec<Preparation> {
    let low = circuit.band == proof_job::installation::CircuitVoltage::Low;
    let mut list: Vec<Preparation> = surge_out(installation, circuit.board).filter(|_| low).into_iter().collect();
    let out = installation.house_rules.electronic_device == ElectronicDevice::ConductorsOut;
    for device in electronic_devices(installation, circuit) {
        let how = if out { "the conductors of the way out of it" } else { "the circuit read from its load side" };
        let what =
            format!("the {} off, {how}: its electronics do not bear 500 V between line and neutral", device.label());
        list.push(Preparation { alteration: out.then_some(Alteration::WayOut), what });
    }
    list
}

/// Ways by name, each with the device that does not bear the test voltage.
fn named(ways: &[(&str, Electronic)]) -> String {
    ways.iter().map(|(way, device)| format!("way {way} ({})", device.label())).collect::<Vec<_>>().join(", ")
}

/// What to see to before ways of a board are read together, between live conductors or joined to earth: a whole board
/// with its devices on puts 500 V across everything that is electronic.
pub fn prepare_set(
    installation: &Installation,
    board: Uuid,
    circuits: &[Uuid],
    between_live: bool,
) -> Vec<Preparation> {
    let mut list: Vec<Preparation> = surge_out(installation, board).into_iter().collect();
    let told = |what: String| Preparation { alteration: None, what };
    let electronic: Vec<(&Circuit, Electronic)> = installation
        .circuits_on(board)
        .flat_map(|circuit| electronic_devices(installation, circuit).into_iter().map(move |one| (circuit, one)))
        .collect();
    let names = |of: &dyn Fn(&Circuit, Electronic) -> bool| -> Vec<(&str, Electronic)> {
        electronic.iter().filter(|(one, what)| of(one, *what)).map(|(one, what)| (one.way.as_str(), *what)).collect()
    };
    let off = names(&|circuit, _| !circuits.contains(&circuit.id));
    if between_live && !off.is_empty() {
        list.push(told(format!(
            "{}: off. Electronics do not bear 500 V between live conductors: each is read from its load side, on its own",
            named(&off)
        )));
    }
    if !between_live {
        let on = names(&|circuit, _| circuits.contains(&circuit.id));
        if !on.is_empty() {
            list.push(told(format!("line and neutral joined, to earth, because of {}", named(&on))));
        }
        for (way, _) in names(&|circuit, what| what == Electronic::Rcbo && circuits.contains(&circuit.id)) {
            let what = format!("way {way}, functional-earth lead of the RCBO off the bar, where it has one");
            list.push(Preparation { alteration: Some(Alteration::FeLeadOff), what });
        }
    }
    list.push(told("switches on, links off, every CPC back on the earth bar".to_owned()));
    list
}

/// Whether the neutral of a circuit hangs together with others on a bar while its insulation is read.
pub fn neutral_is_shared(installation: &Installation, circuit: &Circuit) -> bool {
    let lifted = installation.house_rules.circuit_neutral == CircuitNeutral::Lifted;
    let with_neutral = installation.circuits_on(circuit.board).filter(|other| other.has_neutral());
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
        circuit.points.iter().filter(|point| point.connected_load.contains(&carried)).map(|p| p.name.as_str()).collect()
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
