//! Whether a described job makes sense as a whole: names that point somewhere, sizes, lengths of
//! text, no circles. For forms and for files from outside.

use crate::installation::{Circuit, CircuitShape, Feed, Installation, Job, Lines};
use crate::reading::{Reading, Subject};
use crate::standard::conductors::mohm_per_m;
use std::collections::HashSet;
use uuid::Uuid;

/// Most boards of a job.
pub const MOST_BOARDS: usize = 50;
/// Most circuits of a job.
pub const MOST_CIRCUITS: usize = 1000;
/// Most points of a circuit.
pub const MOST_POINTS: usize = crate::network::description::MOST_POINTS;
/// Most readings of a job.
pub const MOST_READINGS: usize = 100_000;
/// Most events of a job.
pub const MOST_EVENTS: usize = 100_000;
/// Longest line of text.
pub const LONGEST_LINE: usize = 200;
/// Longest paragraph.
pub const LONGEST_TEXT: usize = 4000;
/// Longest reference.
pub const LONGEST_REFERENCE: usize = 40;

/// Least residual current of an RCD, mA.
pub const LEAST_IDN_MA: rust_decimal::Decimal = rust_decimal::dec!(0.1);
/// Greatest number of a reading, in any unit.
pub const GREATEST_READING: rust_decimal::Decimal = rust_decimal::dec!(1_000_000_000);

/// Problems of a whole job; empty when it makes sense.
pub fn job(job: &Job) -> Vec<String> {
    let mut problems = Vec::new();
    if let Err(problem) = reference(&job.reference) {
        problems.push(problem);
    }
    line(&mut problems, "title", &job.title);
    for (name, text) in
        [("firm's name", &job.firm.name), ("firm's address", &job.firm.address), ("firm's contact", &job.firm.contact)]
    {
        line(&mut problems, name, text);
    }
    for person in &job.people {
        line(&mut problems, "person's name", &person.name);
        line(&mut problems, "person's position", &person.position);
    }
    for instrument in &job.instruments {
        line(&mut problems, "instrument's kind", &instrument.kind);
        line(&mut problems, "instrument's reference", &instrument.reference);
        if instrument.over_range_mohm <= rust_decimal::Decimal::ZERO {
            problems.push(format!("instrument {}: its over-range display is above 0 MΩ", instrument.reference));
        }
    }
    unique(&mut problems, "reading", job.readings.iter().map(|reading| reading.id));
    unique(&mut problems, "event", job.events.iter().map(|event| event.id));
    for (what, count, most) in
        [("readings", job.readings.len(), MOST_READINGS), ("events", job.events.len(), MOST_EVENTS)]
    {
        if count > most {
            problems.push(format!("{count} {what}: at most {most}"));
        }
    }
    problems.extend(installation(&job.installation));
    problems.extend(job.readings.iter().filter_map(|one| reading(&job.installation, one)));
    problems
}

/// A reference as it stands in certificate numbers.
///
/// # Errors
/// What is allowed.
pub fn reference(text: &str) -> Result<(), String> {
    let allowed = |c: char| c.is_ascii_alphanumeric() || matches!(c, '.' | '_' | '-');
    if text.is_empty() || text.len() > LONGEST_REFERENCE || !text.chars().all(allowed) {
        return Err(format!(
            "reference “{text}”: 1 to {LONGEST_REFERENCE} letters (a–z), digits, dots, dashes or underscores, such as G-104"
        ));
    }
    Ok(())
}

fn line(problems: &mut Vec<String>, name: &str, text: &str) {
    limited(problems, name, text, LONGEST_LINE);
}

fn limited(problems: &mut Vec<String>, name: &str, text: &str, longest: usize) {
    if text.chars().count() > longest {
        problems.push(format!("{name}: longer than {longest} characters"));
    }
    if text.chars().any(|c| c.is_control() && !matches!(c, '\n' | '\r' | '\t')) {
        problems.push(format!("{name}: holds a control character"));
    }
}

fn unique(problems: &mut Vec<String>, name: &str, ids: impl Iterator<Item = Uuid>) {
    let mut seen = HashSet::new();
    for id in ids {
        if !seen.insert(id) {
            problems.push(format!("{name} {id} stands twice"));
        }
    }
}

/// Problems of an installation.
pub fn installation(installation: &Installation) -> Vec<String> {
    let mut problems = Vec::new();
    for (name, text) in [
        ("client's name", &installation.client.name),
        ("site's name", &installation.site.name),
        ("supply device", &installation.supply.device),
    ] {
        line(&mut problems, name, text);
    }
    for (name, text) in [
        ("client's address", &installation.client.address),
        ("site's address", &installation.site.address),
        ("extent", &installation.extent),
        ("departures", &installation.departures),
        ("comments on the existing installation", &installation.existing),
        ("electrode", &installation.supply.electrode),
    ] {
        limited(&mut problems, name, text, LONGEST_TEXT);
    }
    if installation.boards.len() > MOST_BOARDS {
        problems.push(format!("{} boards: at most {MOST_BOARDS}", installation.boards.len()));
    }
    if installation.circuits.len() > MOST_CIRCUITS {
        problems.push(format!("{} circuits: at most {MOST_CIRCUITS}", installation.circuits.len()));
    }
    if installation.next_inspection_months.is_some_and(|months| !(1..=240).contains(&months)) {
        problems.push("next inspection: 1 to 240 months".into());
    }
    unique(&mut problems, "board", installation.boards.iter().map(|board| board.id));
    unique(&mut problems, "circuit", installation.circuits.iter().map(|circuit| circuit.id));
    unique(&mut problems, "bond", installation.supply.bonds.iter().map(|bond| bond.id));
    for board in &installation.boards {
        line(&mut problems, "board's name", &board.name);
        line(&mut problems, "board's location", &board.location);
        line(&mut problems, "main switch", &board.main_switch.kind);
        if board.name.trim().is_empty() {
            problems.push("a board has no name".into());
        }
        unique(&mut problems, "RCD", board.rcds.iter().map(|rcd| rcd.id));
        for rcd in &board.rcds {
            line(&mut problems, "RCD's label", &rcd.label);
            if rcd.idn_ma < LEAST_IDN_MA || rcd.idn_ma > rust_decimal::dec!(30000) {
                problems.push(format!("RCD {}: IΔn from {LEAST_IDN_MA} to 30000 mA", rcd.label));
            }
        }
        if let Feed::Circuit { circuit } = board.fed_by
            && installation.circuit(circuit).is_none()
        {
            problems.push(format!("board {}: the circuit that feeds it is not known", board.name));
        }
        if fed_in_a_circle(installation, board.id) {
            problems.push(format!("board {} feeds itself in a circle", board.name));
        }
    }
    for one in &installation.circuits {
        problems.extend(circuit(installation, one));
    }
    let known: HashSet<&str> = crate::inspection::ITEMS.iter().map(|item| item.key).collect();
    let mut answered = HashSet::new();
    for answer in &installation.inspection {
        limited(&mut problems, "note of an inspection", &answer.note, LONGEST_TEXT);
        if !known.contains(answer.item.as_str()) {
            problems.push(format!("inspection item “{}” is not known", answer.item));
        } else if !answered.insert(answer.item.as_str()) {
            problems.push(format!("inspection item “{}” is answered twice", answer.item));
        }
    }
    problems
}

fn fed_in_a_circle(installation: &Installation, start: Uuid) -> bool {
    let mut at = start;
    for _ in 0..=installation.boards.len() {
        let Some(Feed::Circuit { circuit }) = installation.board(at).map(|board| board.fed_by) else { return false };
        let Some(feeder) = installation.circuit(circuit) else { return false };
        at = feeder.board;
        if at == start {
            return true;
        }
    }
    false
}

/// Problems of one circuit.
pub fn circuit(installation: &Installation, circuit: &Circuit) -> Vec<String> {
    let mut problems = Vec::new();
    let about = format!("way {}", circuit.way);
    for (name, text) in [
        ("way", &circuit.way),
        ("description", &circuit.description),
        ("kind of cable", &circuit.cable.kind),
        ("neutral terminal", &circuit.neutral_terminal),
        ("CPC terminal", &circuit.cpc_terminal),
    ] {
        line(&mut problems, &format!("{about}: {name}"), text);
    }
    limited(&mut problems, &format!("{about}: remarks"), &circuit.remarks, LONGEST_TEXT);
    if circuit.way.trim().is_empty() {
        problems.push("a circuit has no way".into());
    }
    match installation.board(circuit.board) {
        None => problems.push(format!("{about}: its board is not known")),
        Some(board) => {
            if circuit.rcd.is_some_and(|rcd| !board.rcds.iter().any(|other| other.id == rcd)) {
                problems.push(format!("{about}: its RCD is not on its board"));
            }
            let twin =
                installation.circuits_of(board.id).any(|other| other.id != circuit.id && other.way == circuit.way);
            if twin {
                problems.push(format!("{about}: two circuits of {} share this way", board.name));
            }
        }
    }
    let device = &circuit.device;
    if device.rating_a <= rust_decimal::Decimal::ZERO || device.rating_a > rust_decimal::dec!(10000) {
        problems.push(format!("{about}: a rating is above 0 and up to 10000 A"));
    }
    if device.standard.is_breaker() != device.trip.is_some() {
        problems.push(format!("{about}: a breaker has a type (B, C, D), a fuse has none"));
    }
    if device.breaking_ka.is_some_and(|ka| ka <= rust_decimal::Decimal::ZERO || ka > rust_decimal::dec!(150)) {
        problems.push(format!("{about}: a breaking capacity is above 0 and up to 150 kA"));
    }
    if !circuit.has_neutral() && (circuit.lines == Lines::Single || circuit.shape == CircuitShape::Ring) {
        problems.push(format!("{about}: only a three-phase radial may have no neutral"));
    }
    let cable = &circuit.cable;
    for size in [Some(cable.line_mm2), cable.neutral_mm2, Some(cable.cpc_mm2)].into_iter().flatten() {
        if let Err(error) = mohm_per_m(circuit.cable.material, size) {
            problems.push(format!("{about}: {error}"));
        }
    }
    if circuit.points.len() > MOST_POINTS {
        problems.push(format!("{about}: {} points, at most {MOST_POINTS}", circuit.points.len()));
    }
    let mut numbers = HashSet::new();
    for point in &circuit.points {
        line(&mut problems, &format!("{about}: name of a point"), &point.name);
        if !numbers.insert(point.id) {
            problems.push(format!("{about}: two points are number {}", point.id.0));
        }
        let mut at = point;
        let mut steps = 0;
        while let Some(from) = at.spur_from {
            steps += 1;
            match circuit.point(from) {
                Some(parent) if steps <= circuit.points.len() => at = parent,
                Some(_) => {
                    problems.push(format!("{about}: the spur at {} leads in a circle", point.name));
                    break;
                }
                None => {
                    problems.push(format!("{about}: the point that {} is a spur of is not known", point.name));
                    break;
                }
            }
        }
    }
    problems
}

/// What is wrong with a reading's subject, if anything.
fn reading(installation: &Installation, reading: &Reading) -> Option<String> {
    let id = reading.id;
    if reading.typed.chars().count() > LONGEST_TEXT || reading.context.entered_by.chars().count() > LONGEST_LINE {
        return Some(format!("reading {id}: its text is too long"));
    }
    if let crate::reading::Value::Number(number) | crate::reading::Value::Over(number) = reading.value
        && (number < rust_decimal::Decimal::ZERO || number > GREATEST_READING)
    {
        return Some(format!("reading {id}: {number} is not from 0 to {GREATEST_READING}"));
    }
    match &reading.key.subject {
        Subject::Supply => None,
        Subject::Bond { bond } => {
            let known = installation.supply.bonds.iter().any(|other| other.id == *bond);
            (!known).then(|| format!("reading {id}: its bond is not known"))
        }
        Subject::Board { board } => {
            installation.board(*board).is_none().then(|| format!("reading {id}: its board is not known"))
        }
        Subject::CircuitSet { circuits } => {
            let known = circuits.iter().all(|circuit| installation.circuit(*circuit).is_some());
            (!known).then(|| format!("reading {id}: one of its circuits is not known"))
        }
        Subject::Place { circuit, place } => match installation.circuit(*circuit) {
            None => Some(format!("reading {id}: its circuit is not known")),
            Some(circuit) => {
                let known = place.point().is_none_or(|point| circuit.point(point).is_some());
                (!known).then(|| format!("reading {id}: its point is not known"))
            }
        },
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench::demo;
    use crate::installation::Board;

    #[test]
    fn the_demo_makes_sense() {
        for one in demo::jobs() {
            assert_eq!(job(&one), Vec::<String>::new());
        }
    }

    #[test]
    fn what_makes_none_is_said() {
        let break_it = |change: fn(&mut Job)| {
            let mut one = demo::jobs()[0].clone();
            change(&mut one);
            job(&one).join("\n")
        };
        assert!(break_it(|j| j.reference = "G 1/2".into()).contains("reference"));
        assert!(break_it(|j| j.title = "x".repeat(201)).contains("longer than 200"));
        assert!(break_it(|j| j.installation.circuits[0].board = Uuid::nil()).contains("board is not known"));
        assert!(break_it(|j| j.installation.circuits[1].way = "1".into()).contains("share this way"));
        assert!(break_it(|j| j.installation.circuits[0].rcd = Some(Uuid::nil())).contains("RCD is not on its board"));
        assert!(break_it(|j| j.installation.circuits[2].points[0].spur_from = Some(j.installation.circuits[2].points[0].id)).contains("circle"));
        assert!(break_it(|j| j.installation.circuits.truncate(2)).contains("its circuit is not known"));
        assert!(break_it(|j| j.readings.push(j.readings[0].clone())).contains("stands twice"));
        assert!(
            break_it(|j| j.installation.boards[0].rcds[0].idn_ma = rust_decimal::Decimal::new(1, 28))
                .contains("IΔn from 0.1")
        );
        for number in [rust_decimal::Decimal::MAX, rust_decimal::dec!(-0.01)] {
            let mut one = demo::jobs()[0].clone();
            one.readings[3].value = crate::reading::Value::Number(number);
            assert!(job(&one).join("").contains("is not from 0 to"));
        }
        assert!(break_it(|j| j.installation.inspection[0].item = "roof".into()).contains("is not known"));
        assert!(break_it(|j| j.installation.circuits[0].device.trip = None).contains("has a type"));
        assert!(break_it(|j| j.installation.next_inspection_months = Some(0)).contains("1 to 240"));
    }

    #[test]
    fn boards_in_a_circle_are_found() {
        let mut one = demo::jobs()[0].clone();
        let circuits = one.installation.circuits.clone();
        let first: &mut Board = &mut one.installation.boards[0];
        first.fed_by = Feed::Circuit { circuit: circuits[0].id };
        assert!(job(&one).join("\n").contains("circle"));
    }
}
