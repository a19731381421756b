//! The insulation of a board: each way's lowest reading on a logarithmic scale, with the minimum.

use super::{escape, shortened};
use proof_job::installation::Installation;
use proof_job::reading::{CurrentReadings, Test, Value};
use proof_standard::limits::insulation::least;
use std::fmt::Write;
use uuid::Uuid;

/// A drawing with its words.
pub(crate) struct Drawing {
    pub svg: String,
    pub text_alternative: String,
}

/// The ends of the scale, MΩ: below and above it a dot stands at the edge.
const FROM: f64 = 0.1;
const TO: f64 = 2000.0;
const LEFT: f64 = 150.0;
const WIDTH: f64 = 460.0;
const ROW: f64 = 20.0;

fn x(megohms: f64) -> f64 {
    let share = (megohms.clamp(FROM, TO) / FROM).log10() / (TO / FROM).log10();
    LEFT + share * WIDTH
}

/// The lowest of a circuit's own readings, and whether it is a bound only.
fn lowest(settled: &CurrentReadings<'_>, circuit: Uuid) -> Option<(f64, bool, String)> {
    let of =
        settled.standing_of(circuit).filter(|one| matches!(one.key.test, Test::Insulation | Test::InsulationJoined));
    of.filter_map(|one| {
        let megohms = match &one.value {
            Value::Number(megohms) | Value::Over(megohms) => proof_standard::quantity::approximate(*megohms),
            _ => return None,
        };
        Some((megohms, matches!(one.value, Value::Over(_)), one.value.shown()))
    })
    .min_by(|a, b| a.0.total_cmp(&b.0))
}

/// The drawing of a board; none where nothing of it was read.
pub(crate) fn draw_insulation(
    installation: &Installation,
    board: Uuid,
    settled: &CurrentReadings<'_>,
) -> Option<Drawing> {
    let ways: Vec<_> =
        installation.circuits_on(board).filter_map(|circuit| Some((circuit, lowest(settled, circuit.id)?))).collect();
    if ways.is_empty() {
        return None;
    }
    let minimum = proof_standard::quantity::approximate(least());
    let height = ways.len() as f64 * ROW + 40.0;
    let mut body = String::new();
    for tick in [0.1, 1.0, 10.0, 100.0, 1000.0] {
        let _ = write!(
            body,
            "<line class=\"grid\" x1=\"{0:.0}\" y1=\"18\" x2=\"{0:.0}\" y2=\"{1:.0}\"/><text class=\"scale\" x=\"{0:.0}\" y=\"12\" text-anchor=\"middle\">{tick}</text>",
            x(tick),
            height - 16.0
        );
    }
    let _ = write!(
        body,
        "<line class=\"limit\" x1=\"{0:.0}\" y1=\"18\" x2=\"{0:.0}\" y2=\"{1:.0}\"/><text class=\"scale\" x=\"{0:.0}\" y=\"{2:.0}\" text-anchor=\"middle\">minimum {3} MΩ</text>",
        x(minimum),
        height - 16.0,
        height - 3.0,
        least().normalize()
    );
    let mut said = Vec::new();
    for (row, (circuit, (megohms, over, shown))) in ways.iter().enumerate() {
        let y = 30.0 + row as f64 * ROW;
        let outside = *megohms < minimum;
        let look = if outside { "dot outside" } else { "dot" };
        let name = format!("{} {}", circuit.way, circuit.description);
        let _ = write!(body, "<text x=\"4\" y=\"{:.0}\">{}</text>", y + 4.0, escape(&shortened(&name, 20)));
        if *over {
            let _ = write!(body, "<path class=\"{look}\" d=\"M{0:.0} {1:.0}l9 5l-9 5z\"/>", x(*megohms), y - 5.0);
        } else {
            let _ = write!(body, "<circle class=\"{look}\" cx=\"{:.0}\" cy=\"{y:.0}\" r=\"5\"/>", x(*megohms));
        }
        let _ = write!(
            body,
            "<text class=\"value\" x=\"{:.0}\" y=\"{:.0}\">{}</text>",
            LEFT + WIDTH + 16.0,
            y + 4.0,
            escape(shown)
        );
        said.push(format!("way {name}: {shown} MΩ{}", if outside { ", under the minimum" } else { "" }));
    }
    let width = LEFT + WIDTH + 70.0;
    Some(Drawing {
        svg: format!(
            "<svg class=\"insulation live\" viewBox=\"0 0 {width:.0} {height:.0}\" width=\"{width:.0}\" height=\"{height:.0}\" aria-hidden=\"true\">{body}</svg>"
        ),
        text_alternative: format!(
            "Lowest insulation of each way, minimum {} MΩ: {}.",
            least().normalize(),
            said.join("; ")
        ),
    })
}
