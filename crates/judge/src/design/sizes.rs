//! Sizes: earthing and bonding conductors, protective conductors, overload, outlets, main switches, and
//! what devices are marked with.

use super::capacity::capacity_of;
use super::flaw_at::FlawAt;
use crate::expectation::{least_bond, least_earthing_and_bond};
use crate::finding::Found;
use crate::supply_chain::{external_loop, r1_r2_for_loop};
use proof_job::installation::{Accessory, Board, Circuit, CpcIs, Feed, Installation, Insulation, Lines, OwnLimit};
use proof_job::reading::keys::lines_of;
use proof_job::reading::{CurrentReadings, Key, Place, Test};
use proof_standard::conductor::Material;
use proof_standard::limits::devices::{
    AT_ONCE_S, DeviceStandard, Disconnection, REWIRABLE_FACTOR, maximum_zs, maximum_zs_by_setting,
};
use proof_standard::limits::earthing::{
    SEPARATE_CPC_PROTECTED_MM2, SUPPLEMENTARY_MM2, USUAL_PAIRS, adiabatic_mm2, by_table_54_7, k_copper,
};
use proof_standard::limits::energy::class_3_let_through;
use proof_standard::limits::outlets::FUSED_OUTLET;
use proof_standard::limits::supply::{C_MIN, EarthingSystem, U0_V};
use proof_standard::quantity::{Amps, approximate, exact};
use proof_standard::shape::Shape;
use rust_decimal::Decimal;

pub(super) fn check_supply(installation: &Installation, found: &mut Vec<(FlawAt, Found)>) {
    let supply = &installation.supply;
    let mut tell = |flaw: Found| found.push((FlawAt::Supply, flaw));
    if let (Some((least_mm2, _)), Some(mm2)) = (least_earthing_and_bond(installation), supply.earthing_mm2)
        && mm2.get() < least_mm2
    {
        tell(Found::EarthingThin { mm2: mm2.get(), least_mm2 });
    }
    for bond in &supply.bonds {
        let least = if bond.supplementary { Some(*SUPPLEMENTARY_MM2) } else { least_bond(installation) };
        if let (Some(mm2), Some(least_mm2)) = (bond.mm2, least)
            && mm2.get() < least_mm2
        {
            tell(Found::BondThin { to: bond.to.clone(), mm2: mm2.get(), least_mm2 });
        }
    }
}

pub(super) fn check_boards(installation: &Installation, found: &mut Vec<(FlawAt, Found)>) {
    for board in &installation.boards {
        let mut tell = |flaw: Found| found.push((FlawAt::Board(board.id), flaw));
        let tt = board.system == EarthingSystem::Tt;
        let ordinary = installation.premises.is_dwelling();
        let least = match board.lines {
            Lines::Single if tt || ordinary => 2,
            Lines::Three if tt => 4,
            _ => 0,
        };
        if let Some(poles) = board.main_switch.poles.filter(|poles| *poles < least) {
            tell(Found::SwitchPoles { poles, least, tt });
        }
        if let (Some(switch_a), Some(before_a)) = (board.main_switch.rating_a, before(installation, board))
            && switch_a < before_a
        {
            tell(Found::SwitchBelow { switch_a: switch_a.normalize(), before_a: before_a.normalize() });
        }
    }
}

/// The device before a board: the supply's fuse, or the device of the way that feeds it.
fn before(installation: &Installation, board: &Board) -> Option<Amps> {
    match board.fed_by {
        Feed::Supply => installation.supply.device_a,
        Feed::Circuit { circuit } => installation.circuit(circuit).map(|feeder| feeder.device.rating_a),
    }
}

pub(super) fn check_circuit(
    installation: &Installation,
    circuit: &Circuit,
    settled: &CurrentReadings<'_>,
    found: &mut Vec<Found>,
) {
    ways(installation, circuit, found);
    overload(installation, circuit, found);
    if circuit.band.is_extra_low() {
        return;
    }
    let device = &circuit.device;
    if let Some(ka) = device.breaking_ka.filter(|ka| !device.standard.may_be_marked(ka.get())) {
        found.push(Found::Marking { standard: device.standard.name(), ka: ka.normalize() });
    }
    for point in &circuit.points {
        // A fused plug guards the outlet of 13 A; nothing guards an industrial one but the device.
        let industrial = point.accessory == Accessory::Industrial;
        let guarded = |rating: &Amps| *rating == *FUSED_OUTLET && !industrial;
        if industrial && point.rating_a.is_none() {
            found.push(Found::OutletUnrated { point: point.name.clone() });
        }
        if let Some(outlet_a) = point.rating_a.filter(|rating| !guarded(rating) && *rating < device.rating_a) {
            let (point, device_a) = (point.name.clone(), device.rating_a.normalize());
            found.push(Found::OutletBelow { point, outlet_a: outlet_a.normalize(), device_a });
        }
    }
    protective_conductor(installation, circuit, settled, found);
    loop_row(installation, circuit, found);
}

/// A way numbered like a line of a three-phase way: 5L1 beside 5.
fn ways(installation: &Installation, circuit: &Circuit, found: &mut Vec<Found>) {
    let line = ["L1", "L2", "L3"].into_iter().find_map(|line| circuit.way.trim().strip_suffix(line));
    let Some(whole) = line.map(str::trim).filter(|whole| !whole.is_empty()) else { return };
    let same = |other: &&Circuit| other.id != circuit.id && other.way.trim() == whole;
    if let Some(other) = installation.circuits_on(circuit.board).find(same) {
        found.push(Found::WayClash { other: other.way.clone() });
    }
}

/// Ib ≤ In ≤ Iz, as far as a table of just this cable, or the designer, says Iz. A ring has its own rule.
fn overload(installation: &Installation, circuit: &Circuit, found: &mut Vec<Found>) {
    let device_a = circuit.device.rating_a.normalize();
    if let Some(design_a) = circuit.design_current_a.filter(|design| *design > device_a) {
        found.push(Found::DesignCurrent { design_a: design_a.normalize(), device_a });
    }
    let Some(capacity) = capacity_of(installation, circuit) else {
        found.push(Found::CapacityNotJudged);
        return;
    };
    let rewirable = circuit.device.standard == DeviceStandard::Bs3036 && circuit.shape == Shape::Radial;
    let most_a = *REWIRABLE_FACTOR * capacity.get();
    if rewirable && circuit.no_overload.trim().is_empty() && device_a.get() > most_a {
        found.push(Found::Rewirable { device_a, most_a: most_a.round_dp(1) });
    }
}

/// The loop of a circuit as read, else as worked out, Ω.
fn own_loop(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<f64> {
    let lines = lines_of(circuit.lines).iter();
    let read = lines
        .filter_map(|&line| settled.float(&Key::on_circuit(circuit.id, Place::Board, Test::Zs).on_line(line)))
        .reduce(f64::max);
    read.or_else(|| {
        Some(external_loop(installation, settled, circuit.board)? + r1_r2_for_loop(installation, circuit, settled)?)
    })
}

/// The protective conductor: by the table; else by the equation with the fault current of this circuit
/// and the time that its device is known to take; else by what its device lets through.
fn protective_conductor(
    installation: &Installation,
    circuit: &Circuit,
    settled: &CurrentReadings<'_>,
    found: &mut Vec<Found>,
) {
    let (cable, mm2) = (&circuit.cable, circuit.cable.cpc_mm2.get());
    let own = installation.own_row(&OwnLimit::ProtectiveConductor {
        cpc_is: cable.cpc_is,
        line_mm2: cable.line_mm2,
        standard: circuit.device.standard,
        rating_a: circuit.device.rating_a.normalize(),
    });
    if let Some(row) = own {
        if approximate(row.value) > mm2 {
            found.push(Found::CpcThin { mm2, table_mm2: approximate(row.value), adiabatic_mm2: row.value });
        }
        return;
    }
    if cable.cpc_is == CpcIs::Armour {
        found.push(Found::CpcNotJudged { armour: true });
        return;
    }
    let separate = cable.cpc_is == CpcIs::Separate;
    if separate && mm2 < *SEPARATE_CPC_PROTECTED_MM2 {
        found.push(Found::CpcApartThin { mm2, least_mm2: *SEPARATE_CPC_PROTECTED_MM2 });
        return;
    }
    let table_mm2 = by_table_54_7(cable.line_mm2.get());
    if mm2 >= table_mm2 - 1e-9 {
        return;
    }
    if cable.material != Material::Copper {
        found.push(Found::CpcNotJudged { armour: false });
        return;
    }
    let Some(zs) = own_loop(installation, circuit, settled).filter(|ohm| *ohm > 0.0) else { return };
    let insulation = cable.insulation.unwrap_or(Insulation::Thermoplastic70);
    let own = installation.own_row(&OwnLimit::FactorK { insulation, separate });
    let k = own.map_or_else(|| *k_copper(cable.working().get(), separate), |row| approximate(row.value));
    let fault_a = approximate(*U0_V) / zs;
    let Some(needs) = by_equation(installation, circuit, fault_a, k) else {
        found.push(Found::CpcNotJudged { armour: false });
        return;
    };
    if needs <= mm2 + 1e-9 {
        return;
    }
    let withstands = (k * mm2).powi(2);
    match let_through(circuit) {
        Some(lets) if withstands >= lets => {}
        Some(lets) => found.push(Found::CpcLetThrough {
            mm2,
            withstands_a2s: withstands.round() as i64,
            let_through_a2s: lets.round() as i64,
        }),
        None if circuit.device.standard.is_fuse() => {
            found.push(Found::CpcThin { mm2, table_mm2, adiabatic_mm2: exact(needs).unwrap_or_default().round_dp(2) })
        }
        None if usual_pair(circuit, fault_a, mm2) => {}
        // 0.1 s of a breaker passes a conductor and never fails it.
        None => found.push(Found::CpcNotJudged { armour: false }),
    }
}

/// What the equation asks for, mm², with the longest time that the device is known to take at this
/// current; `None` where nothing says how long that is.
fn by_equation(installation: &Installation, circuit: &Circuit, fault_a: f64, k: f64) -> Option<f64> {
    let device = &circuit.device;
    if !device.standard.is_fuse() {
        let found = match device.magnetic_a {
            Some(setting) if device.standard == DeviceStandard::BsEn60947Part2 => maximum_zs_by_setting(setting),
            _ => maximum_zs(device.standard, device.trip, device.rating_a.normalize(), Disconnection::S0_4).ok()?,
        };
        let at_once = approximate(found.ia_a?.get());
        // Below that current an RCD that stands over it clears the fault: at once as well.
        let residual = !installation.upstream_rcds(circuit).is_empty();
        return (fault_a >= at_once || residual).then(|| adiabatic_mm2(fault_a, *AT_ONCE_S, k));
    }
    // Energy falls as the current of a fuse rises: at a printed point it is the most above that current.
    let point = |time: Disconnection| {
        let found = maximum_zs(device.standard, None, device.rating_a.normalize(), time).ok()?;
        let at = approximate(*U0_V * *C_MIN / found.printed_ohm);
        (fault_a >= at).then(|| adiabatic_mm2(at, approximate(time.seconds()), k))
    };
    [Disconnection::S0_4, Disconnection::S5].into_iter().filter_map(point).reduce(f64::min)
}

/// What the device lets through, A²s: by its maker, else by its energy-limiting class.
fn let_through(circuit: &Circuit) -> Option<f64> {
    let device = &circuit.device;
    let by_class = || {
        let (trip, breaking) = (device.trip?, device.breaking_ka?);
        (device.energy_class == Some(3)).then(|| class_3_let_through(trip, device.rating_a, breaking.get()))?
    };
    device.let_through_a2s.map(approximate).or_else(by_class)
}

/// Whether the pair of breaker and conductor is one of the usual ones at this fault current.
fn usual_pair(circuit: &Circuit, fault_a: f64, mm2: f64) -> bool {
    use proof_standard::limits::devices::TripType;
    let rating = approximate(circuit.device.rating_a.get());
    let row = USUAL_PAIRS.iter().find(|(ka, amps, ..)| fault_a <= ka * 1000.0 && rating <= *amps);
    let least = row.and_then(|(.., b, c)| match circuit.device.trip? {
        TripType::B => Some(*b),
        TripType::C => Some(*c),
        TripType::D => None,
    });
    circuit.device.standard.is_breaker() && least.is_some_and(|least| mm2 >= least)
}

/// Whether a table holds the loop that the device needs at its time. Where the board is TT a residual
/// device disconnects.
fn loop_row(installation: &Installation, circuit: &Circuit, found: &mut Vec<Found>) {
    let system = installation.board(circuit.board).map_or(installation.supply.system, |board| board.system);
    if system == EarthingSystem::Tt {
        return;
    }
    let device = &circuit.device;
    if device.standard == DeviceStandard::BsEn60947Part2 && device.magnetic_a.is_some() {
        return;
    }
    let time = circuit.disconnection(system);
    let own = installation.own_row(&OwnLimit::MaximumZs {
        standard: device.standard,
        trip: device.trip,
        rating_a: device.rating_a.normalize(),
        disconnection_s: time,
    });
    if own.is_some() {
        return;
    }
    if maximum_zs(device.standard, device.trip, device.rating_a.normalize(), time).is_err() {
        let seconds: Decimal = time.seconds();
        found.push(Found::LoopNotJudged { device: device.shown(), seconds });
    }
}
