//! Drawings of live tests: what the loop of a circuit is made of beside its limit, and the trip times
//! of its RCD in their windows. Each has a text twin.

use super::escape;
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::{CurrentReadings, Key, Place, Test, Value};
use proof_judge::copper::ohm_per_metre;
use proof_judge::supply_chain::{external_loop, feeders, r1_r2_for_loop, ze};
use proof_judge::verdict::circuit_limit;
use proof_standard::limits::rcd::{HalfCycle, Multiple, TripWindow};
use proof_standard::quantity::approximate;
use proof_work::plan::substitute::recorded_zs;
use std::fmt::Write;

const WIDTH: f64 = 760.0;
const LEFT: f64 = 8.0;
const RIGHT: f64 = 752.0;

/// A drawing and its twin in words.
pub(crate) struct Drawing {
    pub svg: String,
    pub text_alternative: String,
}

/// What the loop is made of, Ω: supply, distribution, line, CPC.
fn parts(
    installation: &Installation,
    circuit: &Circuit,
    settled: &CurrentReadings<'_>,
) -> Option<Vec<(&'static str, &'static str, f64)>> {
    let at_board = external_loop(installation, settled, circuit.board)?;
    let supply = ze(installation, settled).map_or(at_board, approximate).min(at_board);
    let r1_r2 = r1_r2_for_loop(installation, circuit, settled)?;
    let [line, _, cpc] = ohm_per_metre(installation, circuit)?;
    let mut parts = vec![("supply", "supply", supply)];
    if !feeders(installation, circuit.board).is_empty() {
        parts.push(("distribution", "distribution", at_board - supply));
    }
    parts.push(("line R1", "line", r1_r2 * line / (line + cpc)));
    parts.push(("CPC R2", "cpc", r1_r2 * cpc / (line + cpc)));
    Some(parts)
}

/// Where a label is written so that it covers none before it: over its part where there is room, else beside
/// the last on the line that ends first.
fn beside(ends: &mut [f64; 2], middle: f64, label: &str) -> (f64, f64) {
    const GAP: f64 = 8.0;
    let half = label.chars().count() as f64 * 3.4;
    let middle = middle.clamp(half, WIDTH - half);
    let free = (0..2).find(|line| ends[*line] + GAP <= middle - half);
    let line = free.unwrap_or_else(|| usize::from(ends[1] < ends[0]));
    let middle = middle.max(ends[line] + GAP + half);
    ends[line] = middle + half;
    (middle, if line == 0 { 26.0 } else { 12.0 })
}

/// The budget of the loop: its parts end to end, the measured Zs and the limit on one scale.
pub(crate) fn budget(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<Drawing> {
    let parts = parts(installation, circuit, settled)?;
    let sum: f64 = parts.iter().map(|(.., ohm)| ohm).sum();
    let limit = circuit_limit(installation, circuit);
    let compared = limit.compared_ohm().map(approximate);
    let measured = recorded_zs(installation, circuit, settled).and_then(|value| value.float());
    // A limit far beyond the loop (50 V / IΔn) stands at the edge with its figure.
    let near = compared.filter(|limit| *limit < 6.0 * sum);
    let most = [Some(sum), near, measured].into_iter().flatten().fold(0.0, f64::max) * 1.08;
    if most <= 0.0 {
        return None;
    }
    let x = |ohm: f64| LEFT + ohm / most * (RIGHT - LEFT);
    let mut svg = format!(
        "<svg class=\"budget\" viewBox=\"0 0 {WIDTH:.0} 104\" width=\"{WIDTH:.0}\" height=\"104\" aria-hidden=\"true\" focusable=\"false\">"
    );
    let mut at = 0.0;
    let mut words = Vec::new();
    let mut ends = [0.0; 2];
    for (name, look, ohm) in &parts {
        let (from, to) = (x(at), x(at + ohm));
        let _ = write!(
            svg,
            "<rect class=\"part part-{look}\" x=\"{from:.1}\" y=\"34\" width=\"{:.1}\" height=\"26\"/>",
            (to - from).max(1.0)
        );
        let label = format!("{name} {ohm:.2}");
        let (middle, y) = beside(&mut ends, f64::midpoint(from, to), &label);
        let _ = write!(svg, "<text x=\"{middle:.1}\" y=\"{y}\" text-anchor=\"middle\">{}</text>", escape(&label));
        words.push(format!("{name} {ohm:.2} Ω"));
        at += ohm;
    }
    let _ = write!(svg, "<text class=\"sum\" x=\"{LEFT}\" y=\"80\">sum {sum:.2} Ω</text>");
    if let Some(zs) = measured {
        let at = x(zs);
        let _ = write!(
            svg,
            "<path class=\"measured\" d=\"M{at:.1} 62l7 12h-14z\"/><text x=\"{:.1}\" y=\"96\" text-anchor=\"middle\">Zs {zs:.2}</text>",
            at.clamp(30.0, WIDTH - 60.0)
        );
        words.push(format!("Zs {zs:.2} Ω"));
    }
    if let Some(limit) = compared {
        let at = near.map_or(RIGHT, x);
        let _ = write!(
            svg,
            "<path class=\"limit\" d=\"M{at:.1} 28V68\"/><text x=\"{at:.1}\" y=\"84\" text-anchor=\"end\">limit {limit}{}</text>",
            if near.is_none() { " →" } else { "" }
        );
        words.push(format!("limit {limit} Ω"));
    }
    svg.push_str("</svg>");
    Some(Drawing { svg, text_alternative: format!("Sum {sum:.2} Ω of {}", words.join(", ")) })
}

/// The longest time that is drawn, ms.
const LONGEST: f64 = 600.0;

/// Trip times of the RCD of a circuit, each in its window, on a scale of time by tens.
pub(crate) fn trips(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<Drawing> {
    let rcd = installation.rcd_for(circuit)?;
    let mut rows = Vec::new();
    for (multiple, name) in [Multiple::Half, Multiple::One, Multiple::Five].map(|multiple| (multiple, multiple.label()))
    {
        let read: Vec<(HalfCycle, &Value)> = [HalfCycle::Deg0, HalfCycle::Deg180]
            .into_iter()
            .filter_map(|half_cycle| {
                let test = Test::RcdTrip { multiple, half_cycle };
                Some((half_cycle, settled.value(&Key::on_circuit(circuit.id, Place::Board, test))?))
            })
            .collect();
        if !read.is_empty() || multiple == Multiple::One {
            rows.push((multiple, name, read));
        }
    }
    let x = |ms: f64| 70.0 + ms.clamp(1.0, LONGEST).log10() / LONGEST.log10() * (RIGHT - 120.0);
    let height = 24.0 + 34.0 * rows.len() as f64;
    let mut svg = format!(
        "<svg class=\"trips\" viewBox=\"0 0 {WIDTH:.0} {height:.0}\" width=\"{WIDTH:.0}\" height=\"{height:.0}\" aria-hidden=\"true\" focusable=\"false\">"
    );
    for ms in [1.0, 10.0, 40.0, 100.0, 300.0, 500.0] {
        let at = x(ms);
        let _ = write!(
            svg,
            "<path class=\"grid\" d=\"M{at:.1} 16V{height:.0}\"/><text x=\"{at:.1}\" y=\"11\" text-anchor=\"middle\">{ms} ms</text>"
        );
    }
    let mut words = Vec::new();
    for (index, (multiple, name, read)) in rows.into_iter().enumerate() {
        let y = 22.0 + 34.0 * index as f64;
        let _ = write!(svg, "<text class=\"row\" x=\"4\" y=\"{:.1}\">{name}</text>", y + 17.0);
        within(&mut svg, *installation.trip_window(rcd.kind, multiple), y, &x);
        for (half_cycle, value) in read {
            let at = value.float().map_or(x(LONGEST) + 20.0, &x);
            words.push(format!("{name} at {}: {}", tripped(&mut svg, half_cycle, at, y), value.shown()));
        }
    }
    svg.push_str("</svg>");
    let words = if words.is_empty() { "not read yet".to_owned() } else { words.join("; ") };
    Some(Drawing { svg, text_alternative: format!("RCD {} mA, {}: {words}", rcd.idn_ma.normalize(), rcd.kind.name()) })
}

/// The window of a trip time.
fn within(svg: &mut String, window: TripWindow, y: f64, x: &impl Fn(f64) -> f64) {
    match window {
        TripWindow::NoTrip => {
            let at = x(LONGEST) + 20.0;
            let _ =
                write!(svg, "<rect class=\"window\" x=\"{:.1}\" y=\"{y:.1}\" width=\"40\" height=\"24\"/>", at - 20.0);
        }
        TripWindow::Between { min_ms, max_ms } => {
            let (from, to) = (x(min_ms.map_or(1.0, |ms| approximate(ms.get()))), x(approximate(max_ms.get())));
            let _ = write!(
                svg,
                "<rect class=\"window\" x=\"{from:.1}\" y=\"{y:.1}\" width=\"{:.1}\" height=\"24\"/>",
                to - from
            );
        }
    }
}

/// A trip time as a mark; which half-cycle, in words.
fn tripped(svg: &mut String, half_cycle: HalfCycle, at: f64, y: f64) -> &'static str {
    let degrees = half_cycle.label();
    let shape = if half_cycle == HalfCycle::Deg0 {
        format!("<circle class=\"trip\" cx=\"{at:.1}\" cy=\"{:.1}\" r=\"6\"/>", y + 12.0)
    } else {
        format!("<path class=\"trip\" d=\"M{at:.1} {:.1}l7 12h-14z\"/>", y + 5.0)
    };
    svg.push_str(&shape);
    degrees
}
