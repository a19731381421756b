//! Two-way switching as it is wired: switches with their commons, strappers, the lamps; for a step, which
//! are thrown and which way the line then goes.

use super::{escape, shortened};
use proof_job::installation::switching::{Switching, switchings};
use proof_job::installation::{Circuit, PointId};
use proof_job::reading::{Place, Step, Test};
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
    pub text_alternative: String,
}

/// Each two-way switching of a circuit, as it first lit.
pub(crate) fn all(circuit: &Circuit) -> Vec<Drawing> {
    switchings(circuit).iter().map(|switching| drawn(circuit, switching, &[])).collect()
}

/// The switching that a step reads through, with what is thrown for it.
pub(crate) fn draw_switching(circuit: &Circuit, step: &Step) -> Option<Drawing> {
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

/// The switches as they are drawn one after another: on which strapper the line is, and whether it is lost.
#[derive(Default)]
struct Run {
    body: String,
    /// On which strapper the line arrives; as it first lit, all on the upper one.
    lower: bool,
    lost: bool,
}

impl Run {
    /// One switch with its contacts; its terminals.
    fn switch(&mut self, x: f64, over: bool, [first, last]: [bool; 2]) -> Vec<(f64, f64)> {
        let (left, right) = (x - HALF, x + HALF);
        if first {
            self.lower = over;
            line(&mut self.body, true, (left, MIDDLE), (right, row(over)));
            return vec![(left, MIDDLE), (right, TOP), (right, BOTTOM)];
        }
        if last {
            let meets = self.lower == over;
            line(&mut self.body, meets && !self.lost, (left, row(over)), (right, MIDDLE));
            self.lost |= !meets;
            return vec![(left, TOP), (left, BOTTOM), (right, MIDDLE)];
        }
        for from in [false, true] {
            line(&mut self.body, from == self.lower, (left, row(from)), (right, row(from != over)));
        }
        self.lower = self.lower != over;
        vec![(left, TOP), (left, BOTTOM), (right, TOP), (right, BOTTOM)]
    }

    /// The two strappers from one switch to the next.
    fn strappers(&mut self, x: f64) {
        for strapper in [false, true] {
            let on = strapper == self.lower;
            line(&mut self.body, on, (x + HALF, row(strapper)), (x + STEP - HALF, row(strapper)));
        }
    }

    fn terminals(&mut self, at: Vec<(f64, f64)>) {
        for (cx, cy) in at {
            let common = if (cy - MIDDLE).abs() < f64::EPSILON { " common" } else { "" };
            let _ = write!(self.body, "<circle class=\"sw-terminal{common}\" cx=\"{cx:.0}\" cy=\"{cy:.0}\" r=\"5\"/>");
        }
    }

    fn lamp(&mut self, x: f64, lit: bool) {
        let class = if lit { "sw-lamp lit" } else { "sw-lamp" };
        let _ = write!(
            self.body,
            "<circle class=\"{class}\" cx=\"{x:.0}\" cy=\"{MIDDLE:.0}\" r=\"14\"/><path class=\"sw-cross\" d=\"M{:.0} {:.0}l20 20m-20 0l20 -20\"/>",
            x - 10.0,
            MIDDLE - 10.0
        );
    }
}

fn drawn(circuit: &Circuit, switching: &Switching, thrown: &[PointId]) -> Drawing {
    let count = switching.switches.len();
    let mut run = Run::default();
    line(&mut run.body, true, (LEFT - 40.0, MIDDLE), (LEFT - HALF, MIDDLE));
    for (at, id) in switching.switches.iter().enumerate() {
        let x = LEFT + STEP * at as f64;
        let over = thrown.contains(id);
        let last = at + 1 == count;
        let terminals = run.switch(x, over, [at == 0, last]);
        if !last {
            run.strappers(x);
        }
        run.terminals(terminals);
        let said = escape(&shortened(name(circuit, *id), 16));
        let _ = write!(run.body, "<text x=\"{x:.0}\" y=\"92\" text-anchor=\"middle\">{said}</text>");
        if over {
            let text = "<text class=\"sw-thrown\" text-anchor=\"middle\"";
            let _ = write!(run.body, "{text} x=\"{x:.0}\" y=\"108\">thrown</text>");
        }
    }
    let end = LEFT + STEP * (count.saturating_sub(1)) as f64;
    let lamp = end + STEP * 0.7;
    let lit = thrown.len().is_multiple_of(2) && !run.lost;
    line(&mut run.body, lit, (end + HALF, MIDDLE), (lamp - 14.0, MIDDLE));
    run.lamp(lamp, lit);
    let lamps: Vec<&str> = switching.lamps.iter().map(|id| name(circuit, *id)).collect();
    let lamps = if lamps.is_empty() { "lamp".to_owned() } else { lamps.join(", ") };
    let below = escape(&shortened(&lamps, 18));
    let _ = write!(run.body, "<text x=\"{lamp:.0}\" y=\"92\" text-anchor=\"middle\">{below}</text>");
    let width = lamp + 72.0;
    let svg = format!(
        "<svg class=\"switching\" viewBox=\"0 0 {width:.0} {HEIGHT:.0}\" width=\"{width:.0}\" height=\"{HEIGHT:.0}\" aria-hidden=\"true\" focusable=\"false\">{}<text x=\"6\" y=\"40\">feed</text></svg>",
        run.body
    );
    Drawing { svg, text_alternative: text_alternative(circuit, switching, thrown, &lamps) }
}

/// The same in words.
fn text_alternative(circuit: &Circuit, switching: &Switching, thrown: &[PointId], lamps: &str) -> String {
    let switches: Vec<String> = switching
        .switches
        .iter()
        .map(|id| {
            let over = if thrown.contains(id) { ", thrown" } else { "" };
            format!("{}{over}", name(circuit, *id))
        })
        .collect();
    let comes = if thrown.len().is_multiple_of(2) { "it reads" } else { "it opens" };
    format!("Feed, {}, {lamps}; two strappers between each two switches. So {comes}.", switches.join(", then "))
}
