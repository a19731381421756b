//! Two-way switching as it is wired: switches with their commons, strappers, the lamps; for a step, which
//! are thrown and which way the line then goes.

use super::{escape, shortened};
use proof_core::installation::switching::{Switching, switchings};
use proof_core::installation::{Circuit, PointId};
use proof_core::reading::{Place, Step, Test};
use std::fmt::Write;

const STEP: f64 = 132.0;
const LEFT: f64 = 64.0;
const TOP: f64 = 28.0;
const BOTTOM: f64 = 68.0;
const MIDDLE: f64 = 48.0;
const HALF: f64 = 22.0;
const HEIGHT: f64 = 116.0;

/// A drawing, and the same in words.
pub(crate) struct Drawing {
    pub svg: String,
    pub twin: String,
}

/// Each two-way switching of a circuit, as it first lit.
pub(crate) fn all(circuit: &Circuit) -> Vec<Drawing> {
    switchings(circuit).iter().map(|switching| drawn(circuit, switching, &[])).collect()
}

/// The switching that a step reads through, with what is thrown for it.
pub(crate) fn of_step(circuit: &Circuit, step: &Step) -> Option<Drawing> {
    if step.key.test != Test::R1R2 {
        return None;
    }
    let (point, thrown): (PointId, &[PointId]) = match step.key.subject.place()? {
        Place::Switched { point, thrown } => (*point, thrown),
        Place::Point { point } => (*point, &[]),
        _ => return None,
    };
    let all = switchings(circuit);
    let switching = all.iter().find(|one| one.lamps.contains(&point) || one.switches.contains(&point))?;
    Some(drawn(circuit, switching, thrown))
}

fn name(circuit: &Circuit, id: PointId) -> &str {
    circuit.point(id).map_or("", |point| point.name.as_str())
}

fn line(body: &mut String, live: bool, (x1, y1): (f64, f64), (x2, y2): (f64, f64)) {
    let class = if live { "sw-wire live" } else { "sw-wire" };
    let _ = write!(body, "<path class=\"{class}\" d=\"M{x1:.0} {y1:.0}L{x2:.0} {y2:.0}\"/>");
}

const fn row(lower: bool) -> f64 {
    if lower { BOTTOM } else { TOP }
}

fn drawn(circuit: &Circuit, switching: &Switching, thrown: &[PointId]) -> Drawing {
    let count = switching.switches.len();
    let mut body = String::new();
    let closes = thrown.len() % 2 == 0;
    // On which strapper the line arrives; as it first lit, all on the upper one.
    let mut lower = false;
    let mut lost = false;
    line(&mut body, true, (LEFT - 40.0, MIDDLE), (LEFT - HALF, MIDDLE));
    for (at, id) in switching.switches.iter().enumerate() {
        let x = LEFT + STEP * at as f64;
        let over = thrown.contains(id);
        let (left, right) = (x - HALF, x + HALF);
        let (first, last) = (at == 0, at + 1 == count);
        let mut terminals = Vec::new();
        if first {
            lower = over;
            line(&mut body, true, (left, MIDDLE), (right, row(lower)));
            terminals.extend([(left, MIDDLE), (right, TOP), (right, BOTTOM)]);
        } else if last {
            let meets = lower == over;
            line(&mut body, meets && !lost, (left, row(over)), (right, MIDDLE));
            lost |= !meets;
            terminals.extend([(left, TOP), (left, BOTTOM), (right, MIDDLE)]);
        } else {
            for from in [false, true] {
                line(&mut body, from == lower, (left, row(from)), (right, row(from != over)));
            }
            lower = lower != over;
            terminals.extend([(left, TOP), (left, BOTTOM), (right, TOP), (right, BOTTOM)]);
        }
        if !last {
            for strapper in [false, true] {
                let on = strapper == lower;
                line(&mut body, on, (right, row(strapper)), (x + STEP - HALF, row(strapper)));
            }
        }
        for (cx, cy) in terminals {
            let common = (cy - MIDDLE).abs() < f64::EPSILON;
            let _ = write!(
                body,
                "<circle class=\"sw-terminal{}\" cx=\"{cx:.0}\" cy=\"{cy:.0}\" r=\"5\"/>",
                if common { " common" } else { "" }
            );
        }
        let said = escape(&shortened(name(circuit, *id), 16));
        let _ = write!(body, "<text x=\"{x:.0}\" y=\"92\" text-anchor=\"middle\">{said}</text>");
        if over {
            let _ =
                write!(body, "<text class=\"sw-thrown\" x=\"{x:.0}\" y=\"108\" text-anchor=\"middle\">thrown</text>");
        }
    }
    let end = LEFT + STEP * (count.saturating_sub(1)) as f64;
    let lamp = end + STEP * 0.7;
    // Of a lone switch nothing is known behind it.
    let lit = closes && !lost;
    line(&mut body, lit, (end + HALF, MIDDLE), (lamp - 14.0, MIDDLE));
    let class = if lit { "sw-lamp lit" } else { "sw-lamp" };
    let _ = write!(
        body,
        "<circle class=\"{class}\" cx=\"{lamp:.0}\" cy=\"{MIDDLE:.0}\" r=\"14\"/><path class=\"sw-cross\" d=\"M{:.0} {:.0}l20 20m-20 0l20 -20\"/>",
        lamp - 10.0,
        MIDDLE - 10.0
    );
    let lamps: Vec<&str> = switching.lamps.iter().map(|id| name(circuit, *id)).collect();
    let lamps = if lamps.is_empty() { "lamp".to_owned() } else { lamps.join(", ") };
    let _ = write!(
        body,
        "<text x=\"{lamp:.0}\" y=\"92\" text-anchor=\"middle\">{}</text><text x=\"6\" y=\"40\">feed</text>",
        escape(&shortened(&lamps, 18))
    );
    let width = lamp + 72.0;
    let svg = format!(
        "<svg class=\"switching\" viewBox=\"0 0 {width:.0} {HEIGHT:.0}\" width=\"{width:.0}\" height=\"{HEIGHT:.0}\" aria-hidden=\"true\" focusable=\"false\">{body}</svg>"
    );
    Drawing { svg, twin: twin(circuit, switching, thrown, &lamps) }
}

/// The same in words.
fn twin(circuit: &Circuit, switching: &Switching, thrown: &[PointId], lamps: &str) -> String {
    let switches: Vec<String> = switching
        .switches
        .iter()
        .map(|id| {
            let over = if thrown.contains(id) { ", thrown" } else { "" };
            format!("{}{over}", name(circuit, *id))
        })
        .collect();
    let comes = if thrown.len() % 2 == 0 { "it reads" } else { "it opens" };
    format!("Feed, {}, {lamps}; two strappers between each two switches. So {comes}.", switches.join(", then "))
}
