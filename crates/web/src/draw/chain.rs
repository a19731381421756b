//! The supply chain: origin, boards, ways, each way with how it stands.

use super::{escape, shortened};
use proof_job::installation::{Board, Circuit, Feed};
use proof_job::job::Job;
use proof_job::reading::CurrentReadings;
use proof_job::site::{BoardState, board_as_fed};
use proof_judge::finding::Severity;
use proof_judge::supply_chain::{recorded, ze};
use proof_standard::shape::Shape;
use proof_work::plan::outstanding::{Count, outstanding};
use proof_work::plan::substitute::Scope;
use proof_work::review::{Finding, Where};
use std::collections::HashMap;
use std::fmt::Write;
use uuid::Uuid;

const WIDTH: f64 = 1160.0;
const BOARD_X: f64 = 190.0;
const BOARD_WIDTH: f64 = 178.0;
const WAY: f64 = 54.0;
const ROW: f64 = 92.0;
const INDENT: f64 = 36.0;

fn depth(job: &Job, board: &Board) -> usize {
    let mut at = board;
    for depth in 0..job.installation.boards.len() {
        let Feed::Circuit { circuit } = at.fed_by else { return depth };
        let Some(feeder) = job.installation.circuit(circuit).and_then(|c| job.installation.board(c.board)) else {
            return depth;
        };
        at = feeder;
    }
    0
}

/// How a way stands, by the worst that was found of it: its look and its shape.
fn standing(worst: Option<Severity>, done: usize, of: usize) -> (&'static str, &'static str) {
    match worst {
        Some(Severity::Fails) => ("outside", "×"),
        _ if done < of && done > 0 => ("part", "…"),
        _ if done == 0 => ("unjudged", "○"),
        Some(Severity::Odd) => ("again", "▲"),
        _ => ("within", "✓"),
    }
}

/// The worst that was found of each circuit.
fn worst_of(findings: &[Finding]) -> HashMap<Uuid, Severity> {
    let mut worst: HashMap<Uuid, Severity> = HashMap::new();
    for finding in findings {
        if let Where::Circuit(circuit, _) = &finding.place {
            let known = worst.entry(*circuit).or_insert(finding.severity);
            *known = finding.severity.min(*known);
        }
    }
    worst
}

/// The drawing; every way links to its circuit.
pub(crate) fn drawing(job: &Job, findings: &[Finding]) -> String {
    let settled = job.settled();
    let worst = worst_of(findings);
    let per_row = ((WIDTH - BOARD_X - BOARD_WIDTH - 40.0) / WAY) as usize;
    let mut svg = String::new();
    let mut y = 14.0;
    let mut body = String::new();
    let supply = &job.installation.supply;
    let mut feeds: Vec<f64> = Vec::new();
    let site = job.site();
    for board in &job.installation.boards {
        let x = BOARD_X + INDENT * depth(job, board) as f64;
        let circuits: Vec<_> = job.installation.circuits_on(board.id).collect();
        let rows = circuits.len().div_ceil(per_row.max(1)).max(1);
        let middle = y + 30.0;
        if board.fed_by == Feed::Supply {
            feeds.push(middle);
        }
        let (state, shape) = match board_as_fed(&job.installation, &site, board.id) {
            BoardState::NotProved => ("not proved dead", "not-proved"),
            BoardState::ProvedDead => ("proved dead", "dead"),
            BoardState::SupplyExposed => ("supply exposed", "exposed"),
            BoardState::Energised => ("energised", "energised"),
        };
        let _ = write!(
            body,
            "<a href=\"/jobs/{}/boards/{}\"><rect class=\"chain-board {shape}\" x=\"{x}\" y=\"{y}\" width=\"{BOARD_WIDTH}\" height=\"60\"/><text class=\"chain-name\" x=\"{:.1}\" y=\"{:.1}\">{}</text><text class=\"chain-note\" x=\"{:.1}\" y=\"{:.1}\">{state}</text></a>",
            job.id,
            board.id,
            x + 10.0,
            y + 25.0,
            escape(&shortened(&board.name, 20)),
            x + 10.0,
            y + 45.0,
        );
        for (index, circuit) in circuits.iter().enumerate() {
            let (row, column) = (index / per_row.max(1), index % per_row.max(1));
            let at = (x + BOARD_WIDTH + 18.0 + column as f64 * WAY, y + row as f64 * 72.0);
            way(&mut body, (job, &settled, &worst), circuit, at);
        }
        y += ROW + (rows as f64 - 1.0) * 72.0;
    }
    let height = y.max(110.0);
    let _ = write!(
        svg,
        "<svg class=\"chain\" viewBox=\"0 0 {WIDTH} {height:.0}\" width=\"{WIDTH}\" height=\"{height:.0}\" role=\"group\" aria-label=\"Supply, boards and ways\">"
    );
    let ze = ze(&job.installation, &settled).map_or("not read".to_owned(), |ohm| format!("{ohm} Ω"));
    let fault = recorded(&job.installation, &settled).map_or("not read".to_owned(), |(ka, _)| format!("{ka} kA"));
    let _ = write!(
        svg,
        "<a href=\"/jobs/{}/origin\"><rect class=\"chain-origin\" x=\"6\" y=\"14\" width=\"134\" height=\"78\"/><text class=\"chain-name\" x=\"16\" y=\"38\">{}</text><text class=\"chain-note\" x=\"16\" y=\"58\">Ze {ze}</text><text class=\"chain-note\" x=\"16\" y=\"76\">fault {fault}</text></a>",
        job.id,
        supply.system.name(),
    );
    for middle in feeds {
        let _ = write!(svg, "<path class=\"chain-bus\" d=\"M140 44H165V{middle:.1}H{BOARD_X}\"/>");
    }
    svg.push_str(&body);
    svg.push_str("</svg>");
    svg
}

/// A way: its number, its device, how it stands, whether it runs in a ring.
fn way(
    body: &mut String,
    (job, settled, worst): (&Job, &CurrentReadings<'_>, &HashMap<Uuid, Severity>),
    circuit: &Circuit,
    (way_x, way_y): (f64, f64),
) {
    let Count { done, of } = outstanding(&job.installation, Scope::Circuit(circuit), settled).all();
    let (look, mark) = standing(worst.get(&circuit.id).copied(), done, of);
    let run = if circuit.shape == Shape::Ring {
        format!("<circle class=\"chain-run\" cx=\"{:.1}\" cy=\"{:.1}\" r=\"5\"/>", way_x + 22.0, way_y + 68.0)
    } else {
        format!("<path class=\"chain-run\" d=\"M{:.1} {:.1}v10\"/>", way_x + 22.0, way_y + 63.0)
    };
    let _ = write!(
        body,
        "<path class=\"chain-bus\" d=\"M{:.1} {:.1}H{:.1}\"/><a href=\"/jobs/{}/circuits/{}\"><rect class=\"chain-way {look}\" x=\"{way_x:.1}\" y=\"{way_y:.1}\" width=\"44\" height=\"60\"/><text class=\"chain-number\" x=\"{2:.1}\" y=\"{5:.1}\" text-anchor=\"middle\">{6}</text><text class=\"chain-device\" x=\"{2:.1}\" y=\"{7:.1}\" text-anchor=\"middle\">{8}</text><text class=\"chain-mark {look}\" x=\"{2:.1}\" y=\"{9:.1}\" text-anchor=\"middle\">{mark}</text></a>{run}",
        way_x - 10.0,
        way_y + 30.0,
        way_x + 22.0,
        job.id,
        circuit.id,
        way_y + 18.0,
        escape(&shortened(&circuit.way, 4)),
        way_y + 34.0,
        escape(&shortened(&circuit.device.shown(), 6)),
        way_y + 52.0,
    );
}
