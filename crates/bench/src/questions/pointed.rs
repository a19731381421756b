//! Questions that are answered by pointing: at a point of a circuit as it runs, at a box of a schedule.

use super::question::{ExpectedAnswer, Question, Stop, pick, whole};
use crate::meter::Meter;
use proof_standard::calc::ring::at_fraction;
use proof_standard::conductor::Material;
use proof_standard::limits::conductors::mohm_per_m;
use proof_standard::quantity::SquareMillimetres;

/// Ω/m of line and CPC of 2.5/1.5 mm².
fn per_metre() -> Option<[f64; 2]> {
    let of = |mm2: f64| mohm_per_m(Material::Copper, SquareMillimetres::new(mm2).ok()?).ok();
    Some([of(2.5)? / 1000.0, of(1.5)? / 1000.0])
}

fn pointed(topic: &'static str, text: String, (stops, right): (Vec<Stop>, usize), working: String) -> Question {
    Question { kind: "", topic, text, answer: ExpectedAnswer::Pointed { stops, right }, working }
}

fn stop(number: usize, metres: f64, lines: Vec<String>) -> Stop {
    Stop { label: format!("Point {number}"), beside: format!("{metres} m"), lines }
}

/// A radial whose figures jump at one cable.
pub(super) fn where_it_jumps(meter: &mut Meter) -> Option<Question> {
    let [line, cpc] = per_metre()?;
    let count = whole(meter, 5, 8);
    let right = whole(meter, 1, count - 1);
    let joint = meter.between(0.35, 0.9);
    let in_line = meter.share() < 0.5;
    let (mut neutral, mut earth) = (0.0, 0.0);
    let mut stops = Vec::new();
    for at in 0..count {
        let metres = meter.between(3.0, 9.0).round();
        neutral += metres * 2.0 * line;
        earth += metres * (line + cpc);
        if at == right {
            neutral += if in_line { joint } else { 0.0 };
            earth += joint;
        }
        stops.push(stop(at + 1, metres, vec![format!("L–N {neutral:.2} Ω"), format!("L–CPC {earth:.2} Ω")]));
    }
    let which = if in_line { "the line: both rise" } else { "the CPC: line–neutral goes on as before" };
    Some(pointed(
        "fault finding",
        "A radial in 2.5/1.5 mm², read with the link at the board. There is a poor joint: which point is the first behind it?".into(),
        (stops, right),
        format!(
            "Point {}: from there on every figure is {joint:.2} Ω more than its cable gives (19.5 mΩ/m line and CPC). It is in {which}.",
            right + 1
        ),
    ))
}

/// A ring with one point on a spur.
pub(super) fn which_is_the_spur(meter: &mut Meter) -> Option<Question> {
    let [line, cpc] = per_metre()?;
    let count = whole(meter, 5, 8);
    let right = whole(meter, 0, count - 1);
    let spur = meter.between(5.0, 12.0).round();
    let legs: Vec<f64> = (0..=count).map(|_| meter.between(4.0, 9.0).round()).collect();
    let total: f64 = legs.iter().sum();
    let mut walked = 0.0;
    let mut stops = Vec::new();
    for (at, metres) in legs[..count].iter().enumerate() {
        walked += metres;
        let more = if at == right { spur } else { 0.0 };
        let reads = |other: f64| at_fraction(total * line, total * other, walked / total) + more * (line + other);
        let lines = vec![format!("L–N {:.2} Ω", reads(line)), format!("L–CPC {:.2} Ω", reads(cpc))];
        stops.push(stop(at + 1, *metres, lines));
    }
    Some(pointed(
        "spur",
        "A ring in 2.5/1.5 mm², read with its legs crossed, first with neutral, then with CPC. Which point is on a spur?".into(),
        (stops, right),
        format!(
            "Point {}: it is higher in both, and about 1.3 times as much in the second: {spur} m of cable of its own.",
            right + 1
        ),
    ))
}

/// The boxes of a schedule, in their order.
const BOXES: [&str; 10] = [
    "r1",
    "rn",
    "r2",
    "R1+R2",
    "R2",
    "insulation live–live",
    "insulation live–earth",
    "polarity",
    "Zs",
    "RCD trip time",
];

/// A box of a schedule.
pub(super) fn point_at_the_box(meter: &mut Meter) -> Option<Question> {
    let (what, right) = pick(
        meter,
        &[
            ("the line of a ring, end to end", 0),
            ("the CPC of a ring, end to end", 2),
            ("the highest line–CPC reading of a ring with its legs crossed", 3),
            ("the long-lead reading from the main earthing terminal to the last point", 4),
            ("line to neutral at 500 V, the lamps out", 5),
            ("the lower of line–earth and neutral–earth at 500 V", 6),
            ("the loop at the far end of the circuit, live", 8),
            ("how long the residual device takes at its rated current", 9),
        ],
    )?;
    let stops = BOXES.map(|name| Stop { label: name.to_owned(), beside: String::new(), lines: Vec::new() }).to_vec();
    Some(pointed(
        "schedule",
        format!("In which box of the schedule goes {what}?"),
        (stops, right),
        format!("{what}: {}.", BOXES[right]),
    ))
}
