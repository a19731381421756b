//! A board as it hangs on the wall: the main switch, then its ways in order, each with its line, its device and
//! how it stands. The table beside it is its twin.

use super::{escape, shortened};
use crate::words::Chip;
use proof_job::installation::{Board, Circuit, Lines};
use std::fmt::Write;
use uuid::Uuid;

/// One way of the drawing.
pub(crate) struct Module {
    pub id: Uuid,
    pub way: String,
    pub name: String,
    pub device: String,
    pub residual: bool,
    /// How it stands: class of its look, its shape, its word.
    pub look: (&'static str, &'static str, &'static str),
    /// Which line feeds it: 1, 2 or 3; all three where it has three; none where nothing says so.
    pub lines: Vec<u8>,
}

const WIDTH: f64 = 58.0;
const HEIGHT: f64 = 178.0;
const SWITCH: f64 = 74.0;
/// Modules of one row: a board of forty ways in four rows.
const A_ROW: usize = 18;

impl Module {
    /// A way; its line by its name, such as 2L3.
    pub(crate) fn for_circuit(circuit: &Circuit, residual: bool, chip: Option<Chip>) -> Self {
        let by_name = circuit.way.to_uppercase().split_once('L').and_then(|(_, line)| line.parse().ok());
        let lines = match circuit.lines {
            Lines::Three => vec![1, 2, 3],
            Lines::Single => by_name.into_iter().collect(),
        };
        Self {
            id: circuit.id,
            way: circuit.way.clone(),
            name: circuit.description.clone(),
            device: circuit.device.shown(),
            residual,
            look: chip.map_or(("unread", "○", "not read"), |chip| (chip.look, chip.shape, chip.text)),
            lines,
        }
    }
}

/// The device as its front says: type and rating.
fn front(device: &str) -> &str {
    device.rsplit(' ').next().unwrap_or(device)
}

fn module(body: &mut String, base: &str, at: (f64, f64), one: &Module) {
    let (x, y) = at;
    let (look, shape, word) = one.look;
    let _ = write!(
        body,
        "<a href=\"{base}/circuits/{}\" tabindex=\"-1\"><title>Way {} {}: {}, {word}</title><rect class=\"wall-way {look}\" x=\"{x:.0}\" y=\"{y:.0}\" width=\"{:.0}\" height=\"{HEIGHT:.0}\"/>",
        one.id,
        escape(&one.way),
        escape(&one.name),
        escape(&one.device),
        WIDTH - 4.0
    );
    for line in &one.lines {
        let _ = write!(
            body,
            "<rect class=\"wall-line line-{line}\" x=\"{:.0}\" y=\"{:.0}\" width=\"{:.0}\" height=\"5\"/>",
            x + f64::from(line - 1) * (WIDTH - 4.0) / 3.0,
            y - 6.0,
            (WIDTH - 4.0) / 3.0
        );
    }
    let middle = x + (WIDTH - 4.0) / 2.0;
    let mut text = |dy: f64, class: &str, said: &str| {
        let _ = write!(
            body,
            "<text class=\"{class}\" x=\"{middle:.0}\" y=\"{:.0}\" text-anchor=\"middle\">{}</text>",
            y + dy,
            escape(said)
        );
    };
    text(18.0, "wall-number", &one.way);
    text(36.0, "wall-device", front(&one.device));
    if one.residual {
        text(51.0, "wall-rcd", "RCD");
    }
    text(70.0, "wall-mark", shape);
    // The name runs upwards, as on the strip under the devices.
    let _ = write!(
        body,
        "<text class=\"wall-name\" transform=\"translate({:.0} {:.0}) rotate(-90)\">{}</text></a>",
        middle + 4.0,
        y + HEIGHT - 6.0,
        escape(&shortened(&one.name, 15))
    );
}

/// The drawing.
pub(crate) fn drawing(job: Uuid, board: &Board, ways: &[Module]) -> String {
    let base = format!("/jobs/{job}");
    let rows = ways.len().div_ceil(A_ROW).max(1);
    let longest = ways.len().min(A_ROW) as f64;
    let (width, height) = (SWITCH + longest * WIDTH + 16.0, rows as f64 * (HEIGHT + 24.0) + 10.0);
    let mut body = String::new();
    let rating = board.main_switch.rating_a.map(|a| format!("{} A", a.get().normalize())).unwrap_or_default();
    let (case_w, case_h, switch_w) = (width - 2.0, height - 2.0, SWITCH - 14.0);
    let (middle, rating) = (10.0 + switch_w / 2.0, escape(&rating));
    let _ = write!(
        body,
        "<rect class=\"wall-case\" x=\"1\" y=\"1\" width=\"{case_w:.0}\" height=\"{case_h:.0}\"/>\
         <rect class=\"wall-way wall-switch\" x=\"10\" y=\"18\" width=\"{switch_w:.0}\" height=\"{HEIGHT:.0}\"/>\
         <text class=\"wall-number\" x=\"{middle:.0}\" y=\"36\" text-anchor=\"middle\">main</text>\
         <text class=\"wall-device\" x=\"{middle:.0}\" y=\"54\" text-anchor=\"middle\">{rating}</text>"
    );
    for (index, one) in ways.iter().enumerate() {
        let at = (SWITCH + (index % A_ROW) as f64 * WIDTH + 4.0, 18.0 + (index / A_ROW) as f64 * (HEIGHT + 24.0));
        module(&mut body, &base, at, one);
    }
    format!(
        "<svg class=\"wall\" viewBox=\"0 0 {width:.0} {height:.0}\" width=\"{width:.0}\" height=\"{height:.0}\" aria-hidden=\"true\">{body}</svg>"
    )
}
