//! Down the supply chain: the external loop and the fault level at each board, from the origin
//! through the circuits that feed the boards below. Zdb of one board is the Ze of the next.
//!
//! Loops in Ω, currents in kA at U0/Z. Cold copper is used as read, which is the safe side for a
//! fault level. Nothing is stored: one reading at the origin changes every board below it.

use super::loops::{DEEPEST, r1_rn};
use crate::supply_chain::{external_loop, own_electrode};
use proof_job::installation::{Board, Feed, Installation, Lines};
use proof_job::reading::keys::{board_current_key, board_loop_key, current_key, line_pairs, lines_of, own_loop_key};
use proof_job::reading::{CurrentReadings, Key, Place, Test};
use proof_standard::calc::fault_current::{FaultCurrent, FaultCurrentMethod, Measured, Phases, fault_current};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::house_rules::SupplyVoltage;
use proof_standard::limits::supply::{U_LINE_LINE_V, U0_V, VOLTAGE_LOWER_GB, VOLTAGE_TOLERANCE};
use proof_standard::quantity::{Kiloamps, approximate, exact, round_up};
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// Currents of one kind at the origin, kA: as shown, or U0 over the own loop; one a line.
fn currents(installation: &Installation, settled: &CurrentReadings<'_>, pair: Pair) -> Vec<Kiloamps> {
    let lines = lines_of(installation.supply.lines).iter().copied();
    let unnamed = (installation.supply.lines == Lines::Three).then_some(None);
    lines
        .chain(unnamed)
        .filter_map(|line| {
            let shown = settled.value(&current_key(pair, line)).and_then(proof_job::reading::Value::number);
            let own = || settled.value(&own_loop_key(pair, line))?.number().and_then(|ohm| kiloamps(*U0_V, ohm));
            shown.or_else(own).map(Kiloamps)
        })
        .collect()
}

fn kiloamps(volts: Decimal, ohm: Decimal) -> Option<Decimal> {
    (ohm > Decimal::ZERO).then(|| volts / dec!(1000) / ohm)
}

/// The loop between two lines, from its own reading or from the current shown, Ω; the lowest of
/// those taken, since it carries the highest current.
fn line_line_loop(settled: &CurrentReadings<'_>) -> Option<Decimal> {
    line_pairs()
        .into_iter()
        .filter_map(|pair| {
            let own = settled.value(&own_loop_key(pair, None)).and_then(proof_job::reading::Value::number);
            let shown = || settled.value(&current_key(pair, None))?.number().filter(|ka| *ka > Decimal::ZERO);
            own.filter(|ohm| *ohm > Decimal::ZERO).or_else(|| shown().map(|ka| *U_LINE_LINE_V / dec!(1000) / ka))
        })
        .min()
}

/// The current that a loop gives at the nominal voltage of its pair, kA.
pub fn current_of(own_loop: Decimal, pair: Option<Pair>) -> Kiloamps {
    Kiloamps(kiloamps(volts_of(pair), own_loop).unwrap_or(Decimal::MAX))
}

fn volts_of(pair: Option<Pair>) -> Decimal {
    match pair.map(Pair::both) {
        Some((_, Conductor::N | Conductor::E)) | None => *U0_V,
        Some(_) => *U_LINE_LINE_V,
    }
}

/// Whether a current belongs to a loop: I·Z is the voltage of the supply within the tolerance of a
/// public supply, each figure as rounded by the display. Display rounding: 0.005 of each.
pub fn matches_loop(tolerance: SupplyVoltage, current: Kiloamps, own_loop: Decimal, pair: Option<Pair>) -> bool {
    let below = match tolerance {
        SupplyVoltage::Britain => *VOLTAGE_LOWER_GB,
        SupplyVoltage::Declared => *VOLTAGE_TOLERANCE,
    };
    let (ka, half) = (current.get(), dec!(0.005));
    let volts = volts_of(pair) / dec!(1000);
    let least = (ka - half).max(Decimal::ZERO) * (own_loop - half).max(Decimal::ZERO);
    let most = (ka + half) * (own_loop + half);
    most >= volts * (Decimal::ONE - below) && least <= volts * (Decimal::ONE + *VOLTAGE_TOLERANCE)
}

fn phases(installation: &Installation, settled: &CurrentReadings<'_>) -> Phases {
    match (installation.supply.lines, installation.house_rules.fault_school) {
        (Lines::Single, _) => Phases::Single,
        (Lines::Three, FaultCurrentMethod::LineLine) => {
            Phases::Three(FaultCurrentMethod::LineLine, line_line_loop(settled))
        }
        (Lines::Three, school) => Phases::Three(school, None),
    }
}

/// The prospective fault current at the origin, from what was read there; `None` until enough is.
pub fn at_origin(installation: &Installation, settled: &CurrentReadings<'_>) -> Option<FaultCurrent> {
    let neutral = currents(installation, settled, Pair::LINE_NEUTRAL);
    let earth = currents(installation, settled, Pair::LINE_EARTH);
    let phases = phases(installation, settled);
    if neutral.is_empty() && !matches!(phases, Phases::Three(FaultCurrentMethod::LineLine, Some(_))) {
        return None;
    }
    let earth = (!earth.is_empty()).then_some(Measured::Kiloamps(earth));
    fault_current(&Measured::Kiloamps(neutral), earth.as_ref(), phases, None).ok()
}

/// What goes on the certificate: the larger fault current at the origin, kA, and of which kind.
pub fn recorded(installation: &Installation, settled: &CurrentReadings<'_>) -> Option<(Kiloamps, &'static str)> {
    let found = at_origin(installation, settled)?;
    let kind = match (found.pefc_ka.is_some_and(|earth| earth > found.pscc_ka), installation.supply.lines) {
        (true, _) => "line–earth",
        (false, Lines::Three) => "three-phase",
        (false, Lines::Single) => "line–neutral",
    };
    Some((found.recorded_ka, kind))
}

/// The fault level at a board.
#[derive(Debug, Clone, PartialEq)]
pub struct FaultLevel {
    /// The larger of line–neutral (or three-phase) and line–earth, rounded up to 2 decimals, kA.
    pub ka: Kiloamps,
    /// What it was worked from.
    pub how: String,
}

/// The fault level at a board: as read at the origin; below it as read at the board, else U0 over
/// the loops down to it; else, on the safe side, that of the board above.
pub fn fault_level(installation: &Installation, settled: &CurrentReadings<'_>, board: Uuid) -> Option<FaultLevel> {
    level_at(installation, settled, board, DEEPEST).map(|(level, _)| level)
}

/// The line–neutral loop at a board, behind its fault current, Ω.
pub fn neutral_loop(installation: &Installation, settled: &CurrentReadings<'_>, board: Uuid) -> Option<f64> {
    level_at(installation, settled, board, DEEPEST)?.1
}

/// The fault level at a board, and the line–neutral loop down to it where it is known, Ω.
fn level_at(
    installation: &Installation,
    settled: &CurrentReadings<'_>,
    board: Uuid,
    deepest: usize,
) -> Option<(FaultLevel, Option<f64>)> {
    let board = installation.board(board)?;
    let Feed::Circuit { circuit } = board.fed_by else {
        let found = at_origin(installation, settled)?;
        let single = currents(installation, settled, Pair::LINE_NEUTRAL).into_iter().max();
        let own = single
            .map(|current| approximate(current.get()))
            .filter(|ka| *ka > 0.0)
            .map(|ka| approximate(*U0_V) / 1000.0 / ka);
        return Some((FaultLevel { ka: found.recorded_ka, how: "as read at the origin".to_owned() }, own));
    };
    let feeder = installation.circuit(circuit)?;
    let (above, above_loop) = level_at(installation, settled, feeder.board, deepest.checked_sub(1)?)?;
    let measured = settled.float(&Key::on_circuit(feeder.id, Place::Board, Test::LineNeutralLoop));
    let worked = || above_loop.zip(r1_rn(installation, feeder, settled)).map(|(above, own)| above + own);
    let neutral = measured.filter(|ohm| *ohm > 0.0).or_else(worked);
    if let Some(ka) = read_at_board(installation, settled, board) {
        return Some((FaultLevel { ka, how: format!("as read at {}", board.name) }, neutral));
    }
    let Some(neutral) = neutral else {
        let how = format!("not above that of the board it is fed from, {} kA", above.ka);
        return Some((FaultLevel { ka: above.ka, how }, None));
    };
    let earth = external_loop(installation, settled, board.id).filter(|_| !own_electrode(installation, board));
    let u0 = approximate(*U0_V) / 1000.0;
    let times = multiple(installation, board);
    let by_neutral = u0 / neutral * approximate(times);
    let by_earth = earth.filter(|ohm| *ohm > 0.0).map_or(0.0, |ohm| u0 / ohm);
    let ka = Kiloamps(round_up(exact(by_neutral.max(by_earth)).unwrap_or(above.ka.get()), 2));
    let how = format!(
        "230 V over the loops down to it: line–neutral {neutral:.2} Ω{}{}",
        earth.map(|ohm| format!(", line–earth {ohm:.2} Ω")).unwrap_or_default(),
        if board.lines == Lines::Three {
            format!(", × {} for three phases", times.round_dp(2))
        } else {
            String::new()
        }
    );
    Some((FaultLevel { ka, how }, Some(neutral)))
}

/// By how much the three-phase fault is larger than line–neutral, by the school of the job. Away
/// from the origin the line–line school has no loop of its own: it doubles.
fn multiple(installation: &Installation, board: &Board) -> Decimal {
    match (board.lines, installation.house_rules.fault_school) {
        (Lines::Single, _) => Decimal::ONE,
        (Lines::Three, FaultCurrentMethod::Root3) => proof_standard::calc::fault_current::ROOT_3,
        (Lines::Three, _) => dec!(2),
    }
}

fn read_at_board(installation: &Installation, settled: &CurrentReadings<'_>, board: &Board) -> Option<Kiloamps> {
    let own = |pair| settled.value(&board_loop_key(board.id, pair))?.number().and_then(|ohm| kiloamps(*U0_V, ohm));
    let shown = |pair| settled.value(&board_current_key(board.id, pair))?.number();
    let read = |pair| shown(pair).or_else(|| own(pair));
    let neutral = read(Pair::LINE_NEUTRAL)? * multiple(installation, board);
    Some(Kiloamps(round_up(neutral.max(read(Pair::LINE_EARTH).unwrap_or_default()), 2)))
}
