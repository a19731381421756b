//! A hook-up drawn from its list: terminals at the board and at the point, links, the instrument's
//! leads. Nothing is drawn that the list does not hold.

use super::{escape, shortened};
use proof_standard::conductor::Conductor;
use proof_work::plan::hook_up::{HookUp, Side, Terminal};
use std::fmt::Write;

const WIDTH: f64 = 360.0;
const ROW: f64 = 34.0;
const TOP: f64 = 30.0;

const fn class(conductor: Conductor) -> &'static str {
    match conductor {
        Conductor::N => "n",
        Conductor::E => "e",
        Conductor::L2 => "l2",
        Conductor::L3 => "l3",
        _ => "l",
    }
}

/// Where each terminal stands. Legs of a ring are two columns, so that crosses show as crosses.
fn places(list: &HookUp) -> (Vec<(f64, f64)>, f64) {
    let row_of = |terminal: &Terminal| {
        let mut seen: Vec<Conductor> = Vec::new();
        for other in list.terminals.iter().filter(|other| other.side == terminal.side) {
            if !seen.contains(&other.conductor) {
                seen.push(other.conductor);
            }
        }
        seen.iter().position(|conductor| *conductor == terminal.conductor).unwrap_or(0)
    };
    let mut lowest: f64 = TOP;
    let places = list
        .terminals
        .iter()
        .map(|terminal| {
            let x = match (terminal.side, terminal.leg) {
                (Side::Board, Some(2)) => 150.0,
                (Side::Board, Some(_)) => 66.0,
                (Side::Board, None) => 120.0,
                (Side::Point, _) => 300.0,
            };
            let y = TOP + 18.0 + ROW * row_of(terminal) as f64;
            lowest = lowest.max(y);
            (x, y)
        })
        .collect();
    (places, lowest)
}

/// The instrument and its two leads, each in a lane of its own.
fn leads(body: &mut String, list: &HookUp, places: &[(f64, f64)], probes: [usize; 2], meter_x: f64, meter_y: f64) {
    let mut ends = probes;
    // The lower terminal takes the lane beside the terminals, so that the two do not cross.
    ends.sort_by(|a, b| places[*b].1.total_cmp(&places[*a].1));
    for (outer, index) in ends.into_iter().enumerate() {
        let (x, y) = places[index];
        let lane = x + if list.terminals[index].leg == Some(1) { 34.0 } else { 28.0 } + 15.0 * outer as f64;
        let right = lane > meter_x;
        let edge = if right { meter_x + 36.0 } else { meter_x - 36.0 };
        let upper = right == (outer == 0);
        let end_y = meter_y + if upper { 8.0 } else { 19.0 };
        let _ =
            write!(body, "<path class=\"hook-lead\" d=\"M{:.0} {y:.0}H{lane:.0}V{end_y:.0}H{edge:.0}\"/>", x + 12.0);
    }
    let _ = write!(
        body,
        "<rect class=\"hook-meter\" x=\"{:.0}\" y=\"{meter_y:.0}\" width=\"72\" height=\"27\"/><text class=\"hook-name\" x=\"{meter_x:.0}\" y=\"{:.0}\" text-anchor=\"middle\">meter</text>",
        meter_x - 36.0,
        meter_y + 17.0
    );
    if !list.adapter.is_empty() {
        let _ = write!(
            body,
            "<text class=\"hook-leg\" x=\"{meter_x:.0}\" y=\"{:.0}\" text-anchor=\"middle\">{}</text>",
            meter_y + 41.0,
            escape(list.adapter)
        );
    }
}

/// The drawing. Hidden from a screen reader, which has [`twin`].
pub(crate) fn drawing(list: &HookUp) -> String {
    if list.terminals.is_empty() {
        return String::new();
    }
    let (places, lowest) = places(list);
    let meter_y = lowest + 26.0;
    let height = meter_y + if list.adapter.is_empty() { 32.0 } else { 48.0 };
    let mut body = String::new();
    let point = list.terminals.iter().any(|terminal| terminal.side == Side::Point);
    let legs = list.terminals.iter().any(|terminal| terminal.leg == Some(2));
    headings(&mut body, legs, point);
    cables(&mut body, list, &places);
    links(&mut body, list, &places);
    if let Some((a, b)) = list.probes {
        leads(&mut body, list, &places, [a, b], if point { 214.0 } else { 280.0 }, meter_y);
    }
    for (terminal, at) in list.terminals.iter().zip(&places) {
        drawn(&mut body, list, terminal, *at);
    }
    format!(
        "<svg class=\"hook-up\" viewBox=\"0 0 {WIDTH:.0} {height:.0}\" width=\"{WIDTH:.0}\" height=\"{height:.0}\" aria-hidden=\"true\" focusable=\"false\">{body}</svg>"
    )
}

fn headings(body: &mut String, legs: bool, point: bool) {
    body.push_str("<text class=\"hook-where\" x=\"16\" y=\"16\">at the board</text>");
    if legs {
        let _ = write!(
            body,
            "<text class=\"hook-leg\" x=\"66\" y=\"30\" text-anchor=\"middle\">leg 1</text><text class=\"hook-leg\" x=\"150\" y=\"30\" text-anchor=\"middle\">leg 2</text>"
        );
    }
    if point {
        let _ = write!(body, "<text class=\"hook-where\" x=\"344\" y=\"16\" text-anchor=\"end\">at the point</text>");
    }
}

fn cables(body: &mut String, list: &HookUp, places: &[(f64, f64)]) {
    for (terminal, (x, y)) in list.terminals.iter().zip(places) {
        // The cable from the board to the point, conductor by conductor.
        if terminal.side == Side::Point {
            let from = list
                .terminals
                .iter()
                .zip(places)
                .filter(|(other, _)| other.side == Side::Board && other.conductor == terminal.conductor);
            for (_, (from_x, from_y)) in from {
                let _ = write!(
                    body,
                    "<path class=\"core core-{}\" d=\"M{:.0} {from_y:.0}C{:.0} {from_y:.0} {:.0} {y:.0} {:.0} {y:.0}\"/>",
                    class(terminal.conductor),
                    from_x + 12.0,
                    from_x + 70.0,
                    x - 60.0,
                    x - 12.0
                );
            }
        }
    }
}

fn links(body: &mut String, list: &HookUp, places: &[(f64, f64)]) {
    for (a, b) in &list.links {
        let ((ax, ay), (bx, by)) = (places[*a], places[*b]);
        let bend = if (ax - bx).abs() < 1.0 { -34.0 } else { 0.0 };
        let _ = write!(
            body,
            "<path class=\"hook-link-edge\" d=\"M{ax:.0} {ay:.0}Q{:.0} {:.0} {bx:.0} {by:.0}\"/><path class=\"hook-link\" d=\"M{ax:.0} {ay:.0}Q{:.0} {:.0} {bx:.0} {by:.0}\"/>",
            f64::midpoint(ax, bx) + bend,
            f64::midpoint(ay, by),
            f64::midpoint(ax, bx) + bend,
            f64::midpoint(ay, by),
        );
    }
}

/// A terminal with its letter and its name.
fn drawn(body: &mut String, list: &HookUp, terminal: &Terminal, (x, y): (f64, f64)) {
    let _ = write!(
        body,
        "<circle class=\"hook-terminal core-{}{}\" cx=\"{x:.0}\" cy=\"{y:.0}\" r=\"11\"/><text class=\"hook-letter\" x=\"{x:.0}\" y=\"{:.0}\" text-anchor=\"middle\">{}</text>",
        class(terminal.conductor),
        if terminal.out { " out" } else { "" },
        y + 4.0,
        terminal.conductor.letter()
    );
    if !terminal.name.is_empty() && terminal.leg != Some(2) {
        let (label_x, anchor) = match terminal.side {
            Side::Board if terminal.leg.is_some() || !list.links.is_empty() => (8.0, "start"),
            Side::Board => (x - 17.0, "end"),
            Side::Point => (x + 40.0, "end"),
        };
        let drop = if terminal.side == Side::Point { -15.0 } else { 4.0 };
        let _ = write!(
            body,
            "<text class=\"hook-name\" x=\"{label_x:.0}\" y=\"{:.0}\" text-anchor=\"{anchor}\">{}</text>",
            y + drop,
            escape(&shortened(
                &terminal.name,
                if terminal.leg.is_some() {
                    6
                } else if terminal.side == Side::Point {
                    30
                } else {
                    16
                }
            ))
        );
    }
}

/// A name that says what it is without its conductor: the main earthing terminal, a disconnected end.
fn stands_for_itself(name: &str) -> bool {
    let of_way = name.starts_with("way ") || name.starts_with("CPC") || name == "bar";
    let numbered = name.get(1..).is_some_and(|rest| !rest.is_empty() && rest.bytes().all(|byte| byte.is_ascii_digit()));
    !name.is_empty() && !of_way && !numbered
}

/// A terminal as it is spoken of: the line of leg 1, the CPC (E3), L at sockets.
fn describe(terminal: &Terminal) -> String {
    let conductor = match terminal.conductor {
        Conductor::L => "line".to_owned(),
        Conductor::N => "neutral".to_owned(),
        Conductor::E => "CPC".to_owned(),
        line => line.to_string(),
    };
    let named = |name: &str| if name.is_empty() { String::new() } else { format!(" ({name})") };
    match (terminal.leg, terminal.side) {
        (Some(leg), _) => format!("the {conductor} of leg {leg}"),
        (None, Side::Board) if stands_for_itself(&terminal.name) => {
            format!("the {}", terminal.name).replace("the its", "its")
        }
        (None, Side::Board) => format!("the {conductor}{}", named(&terminal.name)),
        (None, Side::Point) if terminal.name.is_empty() => format!("{} at the point", terminal.conductor),
        (None, Side::Point) => terminal.name.clone(),
    }
}

/// What the two leads are on, shortly: for a hand that holds them.
pub(crate) fn probes(list: &HookUp) -> Option<String> {
    let (a, b) = list.probes?;
    let short = |terminal: &Terminal| match (terminal.leg, terminal.side, terminal.name.as_str()) {
        (Some(leg), ..) => format!("{} of leg {leg}", terminal.conductor),
        (None, Side::Point, name) if !name.is_empty() => name.to_owned(),
        _ => terminal.conductor.to_string(),
    };
    let with = if list.adapter.is_empty() { String::new() } else { format!(", {}", list.adapter) };
    Some(format!("leads on {} and {}{with}", short(&list.terminals[a]), short(&list.terminals[b])))
}

/// The same list in words, a line each.
pub(crate) fn text_alternative(list: &HookUp) -> Vec<String> {
    let mut lines = Vec::new();
    for (a, b) in &list.links {
        lines.push(format!("link {} to {}", describe(&list.terminals[*a]), describe(&list.terminals[*b])));
    }
    if let Some((a, b)) = list.probes {
        let with = if list.adapter.is_empty() { String::new() } else { format!(", by {}", list.adapter) };
        lines.push(format!("leads on {} and {}{with}", describe(&list.terminals[a]), describe(&list.terminals[b])));
    }
    lines.extend(list.notes.iter().cloned());
    lines
}

#[cfg(test)]
mod tests {
    use super::*;
    use proof_bench::demo;
    use proof_work::plan::hook_up::hook_up;
    use proof_work::plan::sequence::circuit_steps;

    /// Every link and lead of the list is drawn, and nothing else.
    #[test]
    fn the_drawing_holds_what_the_list_holds() {
        for job in demo::jobs() {
            for circuit in &job.installation.circuits {
                for step in circuit_steps(&job.installation, circuit) {
                    let list = hook_up(&job.installation, &step);
                    let drawn = drawing(&list);
                    let count = |class: &str| drawn.matches(&format!("class=\"{class}\"")).count();
                    assert_eq!(count("hook-link"), list.links.len(), "{}", step.slug);
                    assert_eq!(count("hook-letter"), list.terminals.len(), "{}", step.slug);
                    assert_eq!(count("hook-lead"), 2 * usize::from(list.probes.is_some()), "{}", step.slug);
                    assert_eq!(
                        text_alternative(&list).len(),
                        list.links.len() + usize::from(list.probes.is_some()) + list.notes.len()
                    );
                }
            }
        }
    }
}
