//! Whether a described job makes sense as a whole: names that point somewhere, sizes, lengths of
//! text, no circles. For forms and for files from outside.

use crate::installation::document::{MOST_DOCUMENTS, MOST_DOCUMENTS_BYTES};
use crate::installation::{Board, Circuit, Feed, Installation, Lines};
use proof_standard::limits::conductors::mohm_per_m;
use proof_standard::quantity::Milliamps;
use proof_standard::shape::MOST_POINTS;
use proof_standard::shape::Shape;
use rust_decimal::{Decimal, dec};
use std::collections::HashSet;
use uuid::Uuid;

/// Most boards of a job.
pub const MOST_BOARDS: usize = 50;

/// Most circuits of a job.
pub const MOST_CIRCUITS: usize = 1000;

/// Longest line of text.
pub const LONGEST_LINE: usize = 200;

/// Longest paragraph.
pub const LONGEST_TEXT: usize = 4000;

/// Longest reference.
pub const LONGEST_REFERENCE: usize = 40;

/// Least residual current of an RCD, mA.
pub const LEAST_IDN: Milliamps = Milliamps(dec!(0.1));
/// Most that an RCD is rated at.
pub const MOST_IDN: Milliamps = Milliamps(dec!(30000));

/// It is no reference.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("reference “{0}”: 1 to {LONGEST_REFERENCE} letters (a–z), digits, dots, dashes or underscores, such as G-104")]
pub struct NotAReference(pub String);

/// A reference as it stands in certificate numbers.
///
/// # Errors
/// [`NotAReference`] with what is allowed.
pub fn reference(text: &str) -> Result<(), NotAReference> {
    let allowed = |c: char| c.is_ascii_alphanumeric() || matches!(c, '.' | '_' | '-');
    if text.is_empty() || text.len() > LONGEST_REFERENCE || !text.chars().all(allowed) {
        return Err(NotAReference(text.to_owned()));
    }
    Ok(())
}

pub(crate) fn line(problems: &mut Vec<String>, name: &str, text: &str) {
    limited(problems, name, text, LONGEST_LINE);
}

fn limited(problems: &mut Vec<String>, name: &str, text: &str, longest: usize) {
    if text.chars().count() > longest {
        problems.push(format!("{name}: longer than {longest} characters"));
    }
}

pub(crate) fn unique(problems: &mut Vec<String>, name: &str, ids: impl Iterator<Item = Uuid>) {
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
    texts(&mut problems, installation);
    counts(&mut problems, installation);
    documents(&mut problems, installation);
    for board in &installation.boards {
        check_board(&mut problems, installation, board);
    }
    for one in &installation.circuits {
        problems.extend(circuit(installation, one));
    }
    inspected(&mut problems, installation);
    for row in &installation.own_rows {
        if let Err(why) = row.check() {
            problems.push(format!("own row, {}: {why}", row.limit.label()));
        }
    }
    for source in &installation.sources {
        line(&mut problems, "isolator of a source", &source.isolator);
    }
    problems
}

fn texts(problems: &mut Vec<String>, installation: &Installation) {
    for (name, text) in [
        ("client's name", &installation.client.name),
        ("site's name", &installation.site.name),
        ("supply device", &installation.supply.device),
        ("amendment", &installation.amendment),
    ] {
        line(problems, name, text);
    }
    for (name, text) in [
        ("client's address", &installation.client.address),
        ("site's address", &installation.site.address),
        ("extent", &installation.extent),
        ("departures", &installation.departures),
        ("comments on the existing installation", &installation.existing),
        ("electrode", &installation.supply.electrode),
    ] {
        limited(problems, name, text, LONGEST_TEXT);
    }
}

fn counts(problems: &mut Vec<String>, installation: &Installation) {
    if installation.boards.len() > MOST_BOARDS {
        problems.push(format!("{} boards: at most {MOST_BOARDS}", installation.boards.len()));
    }
    if installation.circuits.len() > MOST_CIRCUITS {
        problems.push(format!("{} circuits: at most {MOST_CIRCUITS}", installation.circuits.len()));
    }
    if installation.next_inspection_months.is_some_and(|months| !(1..=240).contains(&months)) {
        problems.push("next inspection: 1 to 240 months".into());
    }
    unique(problems, "board", installation.boards.iter().map(|board| board.id));
    let withdrawn = installation.withdrawn.iter().flat_map(|one| &one.circuits);
    unique(problems, "circuit", installation.circuits.iter().chain(withdrawn).map(|circuit| circuit.id));
    for one in &installation.withdrawn {
        line(problems, "who withdrew", &one.by);
        line(problems, "why it was withdrawn", &one.reason);
    }
    unique(problems, "bond", installation.supply.bonds.iter().map(|bond| bond.id));
    line(problems, "why nothing is to be bonded", &installation.supply.nothing_to_bond);
}

fn documents(problems: &mut Vec<String>, installation: &Installation) {
    let all = &installation.documents;
    if all.len() > MOST_DOCUMENTS {
        problems.push(format!("{} documents: at most {MOST_DOCUMENTS}", all.len()));
    }
    unique(problems, "document", all.iter().map(|document| document.id));
    let total: u64 = all.iter().map(|document| u64::from(document.bytes)).sum();
    if total > MOST_DOCUMENTS_BYTES as u64 {
        problems.push(format!("documents of {total} bytes: at most {MOST_DOCUMENTS_BYTES} (8 MiB) in all"));
    }
    for document in all {
        line(problems, "document's name", &document.name);
        if document.name.trim().is_empty() {
            problems.push("a document has no name".into());
        }
        let hexadecimal = |c: char| c.is_ascii_digit() || ('a'..='f').contains(&c);
        if document.sha256.len() != 64 || !document.sha256.chars().all(hexadecimal) {
            problems.push(format!("document {}: its digest is no SHA-256", document.name));
        }
        if all.iter().any(|other| other.id != document.id && other.sha256 == document.sha256) {
            problems.push(format!("document {} is there twice", document.name));
        }
    }
    for circuit in &installation.circuits {
        if circuit.exception.is_some_and(|id| installation.document(id).is_none()) {
            problems.push(format!("circuit {}: its risk assessment is not among the documents", circuit.way));
        }
    }
}

fn check_board(problems: &mut Vec<String>, installation: &Installation, board: &Board) {
    line(problems, "board's name", &board.name);
    line(problems, "board's location", &board.location);
    line(problems, "main switch", &board.main_switch.kind);
    if board.name.trim().is_empty() {
        problems.push("a board has no name".into());
    }
    unique(problems, "RCD", board.rcds.iter().map(|rcd| rcd.id));
    for rcd in &board.rcds {
        line(problems, "RCD's label", &rcd.label);
        if rcd.idn_ma < LEAST_IDN || rcd.idn_ma > MOST_IDN {
            problems.push(format!("RCD {}: IΔn from {LEAST_IDN} to {MOST_IDN} mA", rcd.label));
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

fn inspected(problems: &mut Vec<String>, installation: &Installation) {
    let known: HashSet<&str> = crate::installation::inspection::ITEMS.iter().map(|item| item.key).collect();
    let mut answered = HashSet::new();
    for answer in &installation.inspection {
        limited(problems, "note of an inspection", &answer.note, LONGEST_TEXT);
        if !known.contains(answer.item.as_str()) {
            problems.push(format!("inspection item “{}” is not known", answer.item));
        } else if !answered.insert(answer.item.as_str()) {
            problems.push(format!("inspection item “{}” is answered twice", answer.item));
        }
    }
}

/// Whether a board feeds itself through the circuits of others.
pub fn fed_in_a_circle(installation: &Installation, start: Uuid) -> bool {
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
        ("way", circuit.way.as_str()),
        ("description", &circuit.description),
        ("kind of cable", circuit.cable.kind.text()),
        ("neutral terminal", &circuit.neutral_terminal),
        ("CPC terminal", &circuit.cpc_terminal),
    ] {
        line(&mut problems, &format!("{about}: {name}"), text);
    }
    limited(&mut problems, &format!("{about}: remarks"), &circuit.remarks, LONGEST_TEXT);
    if circuit.way.trim().is_empty() {
        problems.push("a circuit has no way".into());
    }
    on_board(&mut problems, installation, circuit);
    device_and_cable(&mut problems, circuit);
    points(&mut problems, circuit);
    problems
}

fn on_board(problems: &mut Vec<String>, installation: &Installation, circuit: &Circuit) {
    let about = format!("way {}", circuit.way);
    match installation.board(circuit.board) {
        None => problems.push(format!("{about}: its board is not known")),
        Some(board) => {
            if circuit.rcd.is_some_and(|rcd| !board.rcds.iter().any(|other| other.id == rcd)) {
                problems.push(format!("{about}: its RCD is not on its board"));
            }
            let twin =
                installation.circuits_on(board.id).any(|other| other.id != circuit.id && other.way == circuit.way);
            if twin {
                problems.push(format!("{about}: two circuits of {} share this way", board.name));
            }
        }
    }
}

fn device_and_cable(problems: &mut Vec<String>, circuit: &Circuit) {
    let about = format!("way {}", circuit.way);
    let device = &circuit.device;
    if device.rating_a.get() <= Decimal::ZERO || device.rating_a.get() > dec!(10000) {
        problems.push(format!("{about}: a rating is above 0 and up to 10000 A"));
    }
    if device.standard.is_breaker() != device.trip.is_some() {
        problems.push(format!("{about}: a breaker has a type (B, C, D), a fuse has none"));
    }
    if device.breaking_ka.is_some_and(|ka| ka.get() <= Decimal::ZERO || ka.get() > dec!(150)) {
        problems.push(format!("{about}: a breaking capacity is above 0 and up to 150 kA"));
    }
    if !circuit.has_neutral() && (circuit.lines == Lines::Single || circuit.shape == Shape::Ring) {
        problems.push(format!("{about}: only a three-phase radial may have no neutral"));
    }
    let cable = &circuit.cable;
    for size in [Some(cable.line_mm2), cable.neutral_mm2, Some(cable.cpc_mm2)].into_iter().flatten() {
        if let Err(error) = mohm_per_m(circuit.cable.material, size) {
            problems.push(format!("{about}: {error}"));
        }
    }
}

fn points(problems: &mut Vec<String>, circuit: &Circuit) {
    let about = format!("way {}", circuit.way);
    if circuit.points.len() > MOST_POINTS {
        problems.push(format!("{about}: {} points, at most {MOST_POINTS}", circuit.points.len()));
    }
    let mut numbers = HashSet::new();
    for point in &circuit.points {
        line(problems, &format!("{about}: name of a point"), &point.name);
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
}
