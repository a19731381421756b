//! Down the supply chain: the external loop and the fault level at each board, from the origin
//! through the circuits that feed the boards below. Zdb of one board is the Ze of the next.
//!
//! Loops in Ω, currents in kA at U0/Z. Cold copper is used as read, which is the safe side for a
//! fault level. Nothing is stored: one reading at the origin changes every board below it.

use crate::calc::fault_current::{FaultCurrent, FaultSchool, Measured, Phases, fault_current};
use crate::conductor::{Conductor, Pair};
use crate::expectation::{highest, ohm_per_metre, r1_r2_for_loop};
use crate::installation::{Board, Circuit, Feed, Installation, Lines, ZsMethod};
use crate::quantity::{approximate, exact, round_up};
use crate::reading::{Key, Place, Settled, Subject, Test};
use crate::standard::supply::{EarthingSystem, U_LINE_LINE_V, U0_V, VOLTAGE_TOLERANCE};
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// Boards below one another at most: a longer chain is a circle.
const DEEPEST: usize = crate::validity::MOST_BOARDS;

/// The lines of a supply or circuit: one unnamed, or three.
pub const fn lines_of(lines: Lines) -> &'static [Option<Conductor>] {
    match lines {
        Lines::Single => &[None],
        Lines::Three => &[Some(Conductor::L1), Some(Conductor::L2), Some(Conductor::L3)],
    }
}

/// Key of Ze on a line.
pub fn ze_key(line: Option<Conductor>) -> Key {
    Key::of_supply(Test::Ze).on_line(line)
}

/// Key of the resistance of the electrode of the supply or of a board.
pub fn electrode_key(board: Option<Uuid>) -> Key {
    let mut key = Key::of_supply(Test::Electrode);
    if let Some(board) = board {
        key.subject = Subject::Board { board };
    }
    key
}

/// Key of the fault current between a pair, on a line.
pub fn current_key(pair: Pair, line: Option<Conductor>) -> Key {
    Key::of_supply(Test::FaultCurrent).between(pair).on_line(line)
}

/// Key of the loop behind that current: its own, with the earth on.
pub fn own_loop_key(pair: Pair, line: Option<Conductor>) -> Key {
    let test = if pair == Pair::LINE_EARTH { Test::Zs } else { Test::LineNeutralLoop };
    Key::of_supply(test).between(pair).on_line(line)
}

/// The three pairs of lines.
pub fn line_pairs() -> [Pair; 3] {
    [(Conductor::L1, Conductor::L2), (Conductor::L2, Conductor::L3), (Conductor::L1, Conductor::L3)]
        .map(|(a, b)| Pair::new(a, b).unwrap_or(Pair::LINE_NEUTRAL))
}

/// Ze at the origin: the highest of the lines, else the electrode of a TT supply, Ω.
pub fn ze(installation: &Installation, settled: &Settled<'_>) -> Option<Decimal> {
    let supply = &installation.supply;
    let read = lines_of(supply.lines).iter().filter_map(|&line| settled.value(&ze_key(line))?.number()).max();
    let electrode = || settled.value(&electrode_key(None))?.number();
    read.or_else(|| settled.value(&ze_key(None))?.number())
        .or_else(|| if supply.system == EarthingSystem::Tt { electrode() } else { None })
}

/// The external loop at a board: Ze at the origin; below it the Zs of the circuit that feeds it
/// (measured, else summed), or the electrode of a board that is TT on its own, Ω.
pub fn external_loop(installation: &Installation, settled: &Settled<'_>, board: Uuid) -> Option<f64> {
    loop_at(installation, settled, board, DEEPEST)
}

fn loop_at(installation: &Installation, settled: &Settled<'_>, board: Uuid, deepest: usize) -> Option<f64> {
    let board = installation.board(board)?;
    let Feed::Circuit { circuit } = board.fed_by else { return ze(installation, settled).map(approximate) };
    if own_electrode(installation, board) {
        return settled.float(&electrode_key(Some(board.id)));
    }
    let feeder = installation.circuit(circuit)?;
    let lines = feeder.line_conductors().iter();
    let measured = lines
        .filter_map(|&line| settled.float(&Key::on_circuit(feeder.id, Place::Board, Test::Zs).on_line(line)))
        .reduce(f64::max);
    let summed = installation.house_rules.zs_method == ZsMethod::Summed;
    if let (Some(zs), false) = (measured, summed) {
        return Some(zs);
    }
    let above = loop_at(installation, settled, feeder.board, deepest.checked_sub(1)?)?;
    Some(above + r1_r2_for_loop(installation, feeder, settled)?)
}

/// The circuits between the supply and a board, the nearest first.
pub fn feeders(installation: &Installation, board: Uuid) -> Vec<Uuid> {
    let mut above = Vec::new();
    let mut at = board;
    while let Some(Feed::Circuit { circuit }) = installation.board(at).map(|board| board.fed_by) {
        if above.contains(&circuit) || above.len() > DEEPEST {
            break;
        }
        above.push(circuit);
        let Some(feeder) = installation.circuit(circuit) else { break };
        at = feeder.board;
    }
    above
}

/// Whether a board has an electrode of its own, apart from the earthing of what feeds it.
pub fn own_electrode(installation: &Installation, board: &Board) -> bool {
    let Feed::Circuit { circuit } = board.fed_by else { return false };
    let above = installation.circuit(circuit).and_then(|feeder| installation.board(feeder.board));
    board.system == EarthingSystem::Tt && above.is_some_and(|above| above.system != EarthingSystem::Tt)
}

/// R1+Rn of a circuit: the highest read, or from R1+R2 or the length by the resistances of its cores.
fn r1_rn(installation: &Installation, circuit: &Circuit, settled: &Settled<'_>) -> Option<f64> {
    if let Some(ohm) = highest(circuit, settled, Test::R1Rn).and_then(|reading| reading.value.float()) {
        return Some(ohm);
    }
    let [line, neutral, cpc] = ohm_per_metre(installation, circuit)?;
    if let Some(r1_r2) = r1_r2_for_loop(installation, circuit, settled) {
        return Some(r1_r2 * (line + neutral) / (line + cpc));
    }
    circuit.whole_length().map(|metres| metres * (line + neutral))
}

/// Currents of one kind at the origin, kA: as shown, or U0 over the own loop; one a line.
fn currents(installation: &Installation, settled: &Settled<'_>, pair: Pair) -> Vec<Decimal> {
    let lines = lines_of(installation.supply.lines).iter().copied();
    let unnamed = (installation.supply.lines == Lines::Three).then_some(None);
    lines
        .chain(unnamed)
        .filter_map(|line| {
            let shown = settled.value(&current_key(pair, line)).and_then(crate::reading::Value::number);
            let own = || settled.value(&own_loop_key(pair, line))?.number().and_then(|ohm| kiloamps(U0_V, ohm));
            shown.or_else(own)
        })
        .collect()
}

fn kiloamps(volts: Decimal, ohm: Decimal) -> Option<Decimal> {
    (ohm > Decimal::ZERO).then(|| volts / dec!(1000) / ohm)
}

/// The loop between two lines, from its own reading or from the current shown, Ω; the lowest of
/// those taken, since it carries the highest current.
fn line_line_loop(settled: &Settled<'_>) -> Option<Decimal> {
    line_pairs()
        .into_iter()
        .filter_map(|pair| {
            let own = settled.value(&own_loop_key(pair, None)).and_then(crate::reading::Value::number);
            let shown = || settled.value(&current_key(pair, None))?.number().filter(|ka| *ka > Decimal::ZERO);
            own.filter(|ohm| *ohm > Decimal::ZERO).or_else(|| shown().map(|ka| U_LINE_LINE_V / dec!(1000) / ka))
        })
        .min()
}

/// The current that a loop gives at the nominal voltage of its pair, kA.
pub fn current_of(own_loop: Decimal, pair: Option<Pair>) -> Decimal {
    kiloamps(volts_of(pair), own_loop).unwrap_or(Decimal::MAX)
}

fn volts_of(pair: Option<Pair>) -> Decimal {
    match pair.map(Pair::both) {
        Some((_, Conductor::N | Conductor::E)) | None => U0_V,
        Some(_) => U_LINE_LINE_V,
    }
}

/// Whether a current belongs to a loop: I·Z is the voltage of the supply within the tolerance of a
/// public supply, each figure as rounded by the display. Display rounding: 0.005 of each.
pub fn matches_loop(ka: Decimal, own_loop: Decimal, pair: Option<Pair>) -> bool {
    let half = dec!(0.005);
    let volts = volts_of(pair) / dec!(1000);
    let least = (ka - half).max(Decimal::ZERO) * (own_loop - half).max(Decimal::ZERO);
    let most = (ka + half) * (own_loop + half);
    most >= volts * (Decimal::ONE - VOLTAGE_TOLERANCE) && least <= volts * (Decimal::ONE + VOLTAGE_TOLERANCE)
}

fn phases(installation: &Installation, settled: &Settled<'_>) -> Phases {
    match (installation.supply.lines, installation.house_rules.fault_school) {
        (Lines::Single, _) => Phases::Single,
        (Lines::Three, FaultSchool::LineLine) => Phases::Three(FaultSchool::LineLine, line_line_loop(settled)),
        (Lines::Three, school) => Phases::Three(school, None),
    }
}

/// The prospective fault current at the origin, from what was read there; `None` until enough is.
pub fn at_origin(installation: &Installation, settled: &Settled<'_>) -> Option<FaultCurrent> {
    let neutral = currents(installation, settled, Pair::LINE_NEUTRAL);
    let earth = currents(installation, settled, Pair::LINE_EARTH);
    let phases = phases(installation, settled);
    if neutral.is_empty() && !matches!(phases, Phases::Three(FaultSchool::LineLine, Some(_))) {
        return None;
    }
    let earth = (!earth.is_empty()).then_some(Measured::Kiloamps(earth));
    fault_current(&Measured::Kiloamps(neutral), earth.as_ref(), phases, None).ok()
}

/// What goes on the certificate: the larger fault current at the origin, kA, and of which kind.
pub fn recorded(installation: &Installation, settled: &Settled<'_>) -> Option<(Decimal, &'static str)> {
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
    pub ka: Decimal,
    /// What it was worked from.
    pub how: String,
}

/// The fault level at a board: as read at the origin; below it as read at the board, else U0 over
/// the loops down to it; else, on the safe side, that of the board above.
pub fn fault_level(installation: &Installation, settled: &Settled<'_>, board: Uuid) -> Option<FaultLevel> {
    level_at(installation, settled, board, DEEPEST).map(|(level, _)| level)
}

/// The line–neutral loop at a board, behind its fault current, Ω.
pub fn neutral_loop(installation: &Installation, settled: &Settled<'_>, board: Uuid) -> Option<f64> {
    level_at(installation, settled, board, DEEPEST)?.1
}

/// The fault level at a board, and the line–neutral loop down to it where it is known, Ω.
fn level_at(
    installation: &Installation,
    settled: &Settled<'_>,
    board: Uuid,
    deepest: usize,
) -> Option<(FaultLevel, Option<f64>)> {
    let board = installation.board(board)?;
    let Feed::Circuit { circuit } = board.fed_by else {
        let found = at_origin(installation, settled)?;
        let single = currents(installation, settled, Pair::LINE_NEUTRAL).into_iter().max();
        let own = single.map(approximate).filter(|ka| *ka > 0.0).map(|ka| approximate(U0_V) / 1000.0 / ka);
        return Some((FaultLevel { ka: found.recorded_ka, how: "as read at the origin".to_owned() }, own));
    };
    let feeder = installation.circuit(circuit)?;
    let (above, above_loop) = level_at(installation, settled, feeder.board, deepest.checked_sub(1)?)?;
    let neutral = above_loop.zip(r1_rn(installation, feeder, settled)).map(|(above, own)| above + own);
    if let Some(ka) = read_at_board(installation, settled, board) {
        return Some((FaultLevel { ka, how: format!("as read at {}", board.name) }, neutral));
    }
    let Some(neutral) = neutral else {
        let how = format!("not above that of the board it is fed from, {} kA", above.ka);
        return Some((FaultLevel { ka: above.ka, how }, None));
    };
    let earth = external_loop(installation, settled, board.id).filter(|_| !own_electrode(installation, board));
    let u0 = approximate(U0_V) / 1000.0;
    let times = multiple(installation, board);
    let by_neutral = u0 / neutral * approximate(times);
    let by_earth = earth.filter(|ohm| *ohm > 0.0).map_or(0.0, |ohm| u0 / ohm);
    let ka = round_up(exact(by_neutral.max(by_earth)).unwrap_or(above.ka), 2);
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
        (Lines::Three, FaultSchool::Root3) => crate::calc::fault_current::ROOT_3,
        (Lines::Three, _) => dec!(2),
    }
}

/// Key of the fault current read at a board.
pub fn board_current_key(board: Uuid, pair: Pair) -> Key {
    let mut key = Key::of_supply(Test::FaultCurrent).between(pair);
    key.subject = Subject::Board { board };
    key
}

fn read_at_board(installation: &Installation, settled: &Settled<'_>, board: &Board) -> Option<Decimal> {
    let read = |pair| settled.value(&board_current_key(board.id, pair))?.number();
    let neutral = read(Pair::LINE_NEUTRAL)? * multiple(installation, board);
    Some(round_up(neutral.max(read(Pair::LINE_EARTH).unwrap_or_default()), 2))
}

#[cfg(test)]
#[path = "chain_tests.rs"]
mod tests;
