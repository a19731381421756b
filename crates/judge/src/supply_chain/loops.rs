//! The external loop at each board, from the origin down, Ω.

use crate::copper::ohm_per_metre;
use proof_job::installation::{Board, Circuit, Feed, Installation};
use proof_job::reading::keys::{current_key, electrode_key, lines_of, own_loop_key, ze_key};
use proof_job::reading::{CurrentReadings, Key, Place, Test, highest};
use proof_standard::conductor::Pair;
use proof_standard::house_rules::ZsMethod;
use proof_standard::limits::supply::{EarthingSystem, U0_V};
use proof_standard::quantity::approximate;
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// Boards below one another at most: a longer chain is a circle.
pub const DEEPEST: usize = proof_job::installation::validity::MOST_BOARDS;

/// Ze at the origin: the highest of the lines, else the electrode of a TT supply, Ω.
pub fn ze(installation: &Installation, settled: &CurrentReadings<'_>) -> Option<Decimal> {
    let supply = &installation.supply;
    let read = lines_of(supply.lines).iter().filter_map(|&line| settled.value(&ze_key(line))?.number()).max();
    let electrode = || settled.value(&electrode_key(None))?.number();
    // Where the origin is no part of the work, the loop read there with the earth on stands for it.
    let with_earth_on = || {
        let own = |line| {
            let read = settled.value(&own_loop_key(Pair::LINE_EARTH, line)).and_then(proof_job::reading::Value::number);
            let shown = || {
                let ka = settled.value(&current_key(Pair::LINE_EARTH, line))?.number()?;
                (ka > Decimal::ZERO).then(|| (*U0_V / dec!(1000) / ka).round_dp(2))
            };
            read.or_else(shown)
        };
        if installation.includes_origin() {
            None
        } else {
            lines_of(supply.lines).iter().filter_map(|&line| own(line)).max()
        }
    };
    read.or_else(|| settled.value(&ze_key(None))?.number())
        .or_else(with_earth_on)
        .or_else(|| if supply.system == EarthingSystem::Tt { electrode() } else { None })
}

/// The external loop at a board: Ze at the origin; below it the Zs of the circuit that feeds it
/// (measured, else summed), or the electrode of a board that is TT on its own, Ω.
pub fn external_loop(installation: &Installation, settled: &CurrentReadings<'_>, board: Uuid) -> Option<f64> {
    loop_at(installation, settled, board, DEEPEST)
}

fn loop_at(installation: &Installation, settled: &CurrentReadings<'_>, board: Uuid, deepest: usize) -> Option<f64> {
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
pub fn r1_rn(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<f64> {
    if let Some(ohm) = highest(circuit, settled, Test::R1Rn).and_then(|reading| reading.value.float()) {
        return Some(ohm);
    }
    let [line, neutral, cpc] = ohm_per_metre(installation, circuit)?;
    if let Some(r1_r2) = r1_r2_for_loop(installation, circuit, settled) {
        return Some(r1_r2 * (line + neutral) / (line + cpc));
    }
    circuit.whole_length().map(|metres| metres * (line + neutral))
}

/// R1+R2 of a circuit: the highest read, or worked out from the highest R2 by long lead and the
/// resistances of line and CPC.
pub fn r1_r2_for_loop(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<f64> {
    if let Some(ohm) = highest(circuit, settled, Test::R1R2).and_then(|reading| reading.value.float()) {
        return Some(ohm);
    }
    let r2 = highest(circuit, settled, Test::R2)?.value.float()?;
    let [line, _, cpc] = ohm_per_metre(installation, circuit)?;
    Some(r2 * (1.0 + line / cpc))
}
