//! Readings that contradict one another: within a circuit and across the circuits of a board.

use crate::plan::substitute::recorded_zs;
use crate::review::{Finding, Where};
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::keys::point_key;
use proof_job::reading::{CurrentReadings, Key, Place, Test};
use proof_judge::copper::ohm_per_metre;
use proof_judge::expectation::{LENGTH_UNCERTAINTY, with_places};
use proof_judge::finding::{Found, Kind};
use proof_standard::limits::rcd::{HalfCycle, Multiple};
use proof_standard::limits::ring::READING_WITHIN;
use proof_standard::quantity::{Millis, approximate};
use proof_standard::shape::Shape;
use rust_decimal::Decimal;
use uuid::Uuid;

/// Copper that differs by more than this reads differently: resolution, scatter and contacts of a
/// low-ohm range (common practice, no source), Ω.
const DIFFERS_BY: f64 = 0.1;

/// A column is looked at from so many equal figures on.
const ALIKE_FROM: usize = 3;

/// The figures of a circuit that are compared with those of others.
#[derive(Debug, Clone)]
pub(super) struct ComparedCircuit {
    circuit: Uuid,
    board: Uuid,
    /// Highest R1+R2 as recorded.
    r1_r2: Option<Decimal>,
    /// What its length gives for it, Ω.
    by_length: Option<f64>,
    /// Zs as recorded, where it was measured.
    zs: Option<Decimal>,
    way: String,
}

/// Contradictions within a circuit; its figures for the others.
pub(super) fn within(
    installation: &Installation,
    circuit: &Circuit,
    settled: &CurrentReadings<'_>,
    about: &str,
    findings: &mut Vec<Finding>,
) -> ComparedCircuit {
    let odd = |found: Found, findings: &mut Vec<Finding>| {
        let dead = !matches!(found, Found::FiveSlower { .. });
        let mut finding = Finding::new(about, found, Where::Circuit(circuit.id, None));
        finding.bars_energising = dead;
        findings.push(finding);
    };
    for found in [copied_down(installation, circuit, settled), five_slower(circuit, settled)].into_iter().flatten() {
        odd(found, findings);
    }
    // Where the point itself was found odd by the same ends or length, one word is enough.
    let told = |findings: &[Finding], kinds: &[Kind]| {
        findings.iter().any(|finding| finding.circuit() == Some(circuit.id) && kinds.contains(&finding.kind()))
    };
    let highest = highest(circuit, settled);
    if let Some(found) = ring_cannot_give(installation, circuit, settled)
        && !told(findings, &[Kind::LookAgain, Kind::UnderLength, Kind::RingCannotGive])
    {
        odd(found, findings);
    }
    if let Some(found) = highest.and_then(|read| under_length(installation, circuit, read))
        && !told(findings, &[Kind::UnderLength])
    {
        odd(found, findings);
    }
    let measured = installation.house_rules.zs_method == proof_standard::house_rules::ZsMethod::Measured;
    ComparedCircuit {
        circuit: circuit.id,
        board: circuit.board,
        r1_r2: highest,
        by_length: by_length(installation, circuit),
        zs: measured.then(|| recorded_zs(installation, circuit, settled)?.number()).flatten(),
        way: circuit.way.clone(),
    }
}

/// The highest R1+R2 of a circuit under what its length allows, whatever the other readings say: two
/// that were lowered by the same cause agree with each other. Where metal runs beside the CPC it may.
fn under_length(installation: &Installation, circuit: &Circuit, read: Decimal) -> Option<Found> {
    let expected = by_length(installation, circuit).filter(|_| !installation.parallel_earth_path(circuit))?;
    let least = expected * (1.0 - LENGTH_UNCERTAINTY) - READING_WITHIN.get();
    let short = approximate(read) < least - 1e-9;
    short.then(|| Found::UnderLength { read, expected: with_places(expected, 2) })
}

/// What the length of a circuit gives for its highest R1+R2, Ω; nothing where it has spurs.
fn by_length(installation: &Installation, circuit: &Circuit) -> Option<f64> {
    if circuit.points.iter().any(|point| point.spur_from.is_some() || point.cable.is_some()) {
        return None;
    }
    let [line, _, cpc] = ohm_per_metre(installation, circuit)?;
    let whole = circuit.whole_length()? * (line + cpc);
    Some(if circuit.shape == Shape::Ring { whole / 4.0 } else { whole })
}

/// Columns that are equal where the copper differs.
pub(super) fn across(installation: &Installation, rows: &[ComparedCircuit], findings: &mut Vec<Finding>) {
    for board in &installation.boards {
        let for_board: Vec<&ComparedCircuit> = rows.iter().filter(|row| row.board == board.id).collect();
        column(&for_board, (&board.name, false), |row| row.r1_r2, |row| row.by_length, findings);
        let copper = |row: &ComparedCircuit| row.r1_r2.map(approximate);
        column(&for_board, (&board.name, true), |row| row.zs, copper, findings);
    }
}

fn column(
    rows: &[&ComparedCircuit],
    (name, zs): (&str, bool),
    read: impl Fn(&ComparedCircuit) -> Option<Decimal>,
    copper: impl Fn(&ComparedCircuit) -> Option<f64>,
    findings: &mut Vec<Finding>,
) {
    let mut figures: Vec<(Decimal, f64, &ComparedCircuit)> =
        rows.iter().filter_map(|row| Some((read(row)?, copper(row)?, *row))).collect();
    figures.sort_by_key(|figure| figure.0);
    for alike in figures.chunk_by(|a, b| a.0 == b.0).filter(|alike| alike.len() >= ALIKE_FROM) {
        let least = alike.iter().map(|(_, ohm, _)| *ohm).fold(f64::INFINITY, f64::min);
        let most = alike.iter().map(|(_, ohm, _)| *ohm).fold(0.0, f64::max);
        // What the display does not show apart is alike of itself: on an electrode, in whole ohms, the copper is lost.
        let shown = 10.0_f64.powi(-i32::try_from(alike[0].0.scale()).unwrap_or(0));
        let apart = DIFFERS_BY.max(shown);
        if most * (1.0 - LENGTH_UNCERTAINTY) - least * (1.0 + LENGTH_UNCERTAINTY) <= apart {
            continue;
        }
        let reason = Found::SameOnWays {
            zs,
            ohm: alike[0].0,
            ways: alike.iter().map(|(.., row)| row.way.clone()).collect(),
            least_ohm: with_places(least, 2),
            most_ohm: with_places(most, 2),
        };
        let mut finding = Finding::new(name, reason, Where::Circuit(alike[0].2.circuit, None));
        finding.bars_energising = !zs;
        findings.push(finding);
    }
}

/// A radial whose readings do not rise: one figure copied down.
fn copied_down(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<Found> {
    let points = circuit.main_points().count();
    let per_metre = ohm_per_metre(installation, circuit)?;
    let whole = circuit.whole_length()? * (per_metre[0] + per_metre[2]);
    if circuit.shape == Shape::Ring || points < 3 || whole * (1.0 - 1.0 / points as f64) < DIFFERS_BY {
        return None;
    }
    let line = circuit.line_conductors()[0];
    let read: Option<Vec<_>> = circuit
        .main_points()
        .map(|point| settled.value(&point_key(circuit, point.id, Test::R1R2, line))?.number())
        .collect();
    let read = read?;
    let first = *read.first()?;
    let same = read.iter().all(|ohm| *ohm == first);
    same.then(|| Found::SameAtEveryPoint { ohm: first, points, cable_ohm: with_places(whole, 2) })
}

/// A trip at 5 IΔn slower than the one at IΔn in the same half-cycle.
fn five_slower(circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<Found> {
    [HalfCycle::Deg0, HalfCycle::Deg180].into_iter().find_map(|half_cycle| {
        let trip = |multiple| {
            let test = Test::RcdTrip { multiple, half_cycle };
            settled.value(&Key::on_circuit(circuit.id, Place::Board, test))?.number().map(Millis)
        };
        let (one_ms, five_ms) = (trip(Multiple::One)?, trip(Multiple::Five)?);
        (five_ms > one_ms).then_some(Found::FiveSlower { one_ms, five_ms })
    })
}

/// R1+R2 of a ring that its r1 and r2 cannot give: above the mid-ring value with every spur that
/// is drawn, or below what a point beside the board reads.
pub(super) fn ring_cannot_give(
    installation: &Installation,
    circuit: &Circuit,
    settled: &CurrentReadings<'_>,
) -> Option<Found> {
    use proof_standard::conductor::Conductor;
    let read = highest(circuit, settled)?;
    if circuit.shape != Shape::Ring {
        return None;
    }
    let end = |conductor| settled.float(&Key::on_circuit(circuit.id, Place::Board, Test::RingEndToEnd { conductor }));
    let (r1, r2) = (end(Conductor::L)?, end(Conductor::E)?);
    let [line, _, cpc] = ohm_per_metre(installation, circuit)?;
    let mut spurs = 0.0;
    for point in circuit.points.iter().filter(|point| point.spur_from.is_some()) {
        spurs += point.leg_m?.get() * (line + cpc);
    }
    let within = READING_WITHIN.get();
    let most = (r1 + r2) / 4.0;
    let least = if r1 + r2 > 0.0 { r1 * r2 / (r1 + r2) } else { 0.0 };
    let ohm = approximate(read);
    let low = if circuit.points.len() > 1 { most.min(least) } else { least };
    (ohm > most + spurs + within + 1e-9 || ohm < low - within - 1e-9).then(|| Found::RingCannotGive {
        read,
        r1,
        r2,
        quarter: with_places(most, 2),
        spurs: (spurs > 0.0).then(|| with_places(spurs, 2)),
    })
}

/// The highest R1+R2 as recorded, Ω.
fn highest(circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<Decimal> {
    proof_job::reading::highest(circuit, settled, Test::R1R2).and_then(|reading| reading.value.number())
}
