//! Sheets of a board from the same data: the circuit chart for its door, and a blank schedule with
//! every expected value for those who write on paper.

use crate::font::Faces;
use crate::page::{About, PdfError, write};
use crate::sheet::{Sheet, figures, words};
use jiff::Timestamp;
use proof_core::certificate::{Form, left_out};
use proof_core::installation::{Board, Circuit, Installation, Shape};
use proof_core::job::Job;
use proof_core::plan::sequence::circuit_steps;
use proof_core::reading::{Settled, Test};
use proof_core::site::{BoardState, LeftDead};
use proof_core::verdict::CircuitJudge;

/// The chart for the board's door.
///
/// # Errors
/// [`PdfError`].
pub fn chart(job: &Job, board: &Board, now: Timestamp) -> Result<Vec<u8>, PdfError> {
    let faces = Faces::load()?;
    let mut sheet = Sheet::new(&faces);
    let installation = &job.installation;
    sheet.new_page(false, &board.name);
    sheet.paragraph(&format!("{}. {}, {}.", board.location, installation.site.name, board.system.name()));
    let rows: Vec<Vec<String>> = installation.circuits_of(board.id).map(|circuit| row(installation, circuit)).collect();
    sheet.table(
        &[
            words("Way", 1.0),
            words("Circuit", 5.0),
            words("Device", 2.2),
            words("RCD", 1.6),
            words("Cable mm²", 1.6),
            figures("Points", 1.0),
        ],
        &rows,
        10.0,
    );
    let mut notes = vec!["Isolate and prove dead before work on any circuit."];
    if !board.rcds.is_empty() {
        notes.push("Press the test button of each RCD every six months; it should switch off.");
    }
    sheet.paragraph(&notes.join(" "));
    sheet.feet(&format!("{} {}", job.firm.name, job.firm.contact), &job.reference);
    let title = format!("Circuit chart, {}", board.name);
    write(&sheet.pages, &faces, About { title: &title, id: &title, made: now, attachments: Vec::new() })
}

fn row(installation: &Installation, circuit: &Circuit) -> Vec<String> {
    vec![
        circuit.way.clone(),
        circuit.description.clone(),
        circuit.device.shown(),
        installation.rcd_of(circuit).map(|rcd| format!("{} mA", rcd.idn_ma.normalize())).unwrap_or_default(),
        format!("{}/{}", circuit.cable.line_mm2.get(), circuit.cable.cpc_mm2.get()),
        circuit.points.len().to_string(),
    ]
}

/// What the next person finds: what is live, what was left dead and locked and why, what is owed.
///
/// # Errors
/// [`PdfError`].
pub fn handover(job: &Job, board: &Board, now: Timestamp) -> Result<Vec<u8>, PdfError> {
    let faces = Faces::load()?;
    let mut sheet = Sheet::new(&faces);
    sheet.new_page(false, &format!("Handover: {}", board.name));
    sheet.paragraph(&format!("{} {}. {}", job.reference, job.title, job.installation.site.name));
    sheet.paragraph("As the log stands. Treat every conductor as live until proved dead at the point of work.");
    sheet.table(
        &[
            words("Way", 0.8),
            words("Circuit", 3.2),
            words("State", 1.8),
            words("Lock, key", 2.6),
            words("What it waits for", 3.0),
        ],
        &standing(job, board),
        9.0,
    );
    for line in left_out(job, Form::Installation) {
        sheet.paragraph(&line);
    }
    let site = job.site();
    let open: Vec<String> = site
        .open()
        .iter()
        .filter(|item| item.board == board.id)
        .map(|item| format!("{} {}", item.alteration.label(), item.note))
        .collect();
    if !open.is_empty() {
        sheet.paragraph(&format!("Not put back: {}.", open.join("; ")));
    }
    let said = job.installation.interval_months();
    sheet.paragraph(&format!("Next inspection within {said} months of the certificate."));
    sheet.feet(
        &format!("{} {}", job.firm.name, job.firm.contact),
        "Handed over to                                    Date",
    );
    let title = format!("Handover sheet, {}", board.name);
    write(&sheet.pages, &faces, About { title: &title, id: &title, made: now, attachments: Vec::new() })
}

/// Each way of a board: its state, and its lock and reason where it stays dead.
fn standing(job: &Job, board: &Board) -> Vec<Vec<String>> {
    let site = job.site();
    let dead = site.stays_dead(&job.installation);
    job.installation
        .circuits_of(board.id)
        .map(|circuit| {
            let left = site.left_dead().iter().find(|left| left.circuit == circuit.id);
            let state = if dead.contains(&circuit.id) {
                "left dead, locked"
            } else {
                match site.circuit(board.id, circuit.id).0 {
                    BoardState::Energised => "live",
                    BoardState::ProvedDead => "proved dead",
                    BoardState::NotProved | BoardState::SupplyExposed => "not proved dead",
                }
            };
            let said = |text: fn(&LeftDead<'_>) -> String| left.map(text).unwrap_or_default();
            vec![
                circuit.way.clone(),
                circuit.description.clone(),
                state.to_owned(),
                said(|left| left.lock.to_owned()),
                said(|left| left.reason.to_owned()),
            ]
        })
        .collect()
}

/// A schedule without results, each box with what should be read, and a row of blank boxes under it.
///
/// # Errors
/// [`PdfError`].
pub fn blank(job: &Job, board: &Board, now: Timestamp) -> Result<Vec<u8>, PdfError> {
    let faces = Faces::load()?;
    let mut sheet = Sheet::new(&faces);
    let installation = &job.installation;
    let settled = Settled::new(&job.readings, &job.events);
    sheet.new_page(true, &format!("To be read: {}", board.name));
    sheet.paragraph(&format!(
        "{} {}. Ω, MΩ, ms. Upper line: what each should read, from cable, length and what was read already; lower line: yours. Nothing here was read.",
        job.reference, job.title
    ));
    let mut rows = Vec::new();
    for circuit in installation.circuits_of(board.id) {
        rows.push(expected(installation, circuit, &settled));
        rows.push(vec![String::new(); 12]);
    }
    sheet.table(
        &[
            words("Way", 0.9),
            words("Circuit", 3.6),
            figures("r1", 1.5),
            figures("rn", 1.5),
            figures("r2", 1.5),
            figures("R1+R2", 1.7),
            figures("Ins. L–N", 1.6),
            figures("Ins. L–E", 1.6),
            words("Pol.", 0.8),
            figures("Zs", 1.7),
            figures("Zs at most", 1.2),
            figures("RCD ms", 1.6),
        ],
        &rows,
        7.8,
    );
    sheet.feet(&job.firm.name, "Read by                                   Date                         Instrument");
    let title = format!("To be read, {}", board.name);
    write(&sheet.pages, &faces, About { title: &title, id: &title, made: now, attachments: Vec::new() })
}

fn expected(installation: &Installation, circuit: &Circuit, settled: &Settled<'_>) -> Vec<String> {
    let judge = CircuitJudge::brief(installation, circuit, settled);
    let steps = circuit_steps(installation, circuit);
    let band = |slug: &str| {
        let step = steps.iter().find(|step| step.slug == slug);
        step.and_then(|step| judge.known.band(&step.key).ok()).map(|band| band.shown()).unwrap_or_default()
    };
    // The highest that any point should read.
    let highest = steps
        .iter()
        .filter(|step| step.key.test == Test::R1R2 && !step.expects_open())
        .filter_map(|step| judge.known.band(&step.key).ok())
        .filter(|band| band.high.is_some())
        .max_by(|a, b| a.high.partial_cmp(&b.high).unwrap_or(std::cmp::Ordering::Equal));
    let ring = circuit.shape == Shape::Ring;
    let of_ring = |slug: &str| if ring { band(slug) } else { "—".to_owned() };
    let rcd = installation.rcd_of(circuit).map(|rcd| {
        use proof_core::standard::rcd::{Multiple, TripWindow};
        match *installation.trip_window(rcd.kind, Multiple::One) {
            TripWindow::Between { min_ms: Some(min), max_ms } => format!("{min}–{max_ms}"),
            TripWindow::Between { min_ms: None, max_ms } => format!("≤ {max_ms}"),
            TripWindow::NoTrip => String::new(),
        }
    });
    vec![
        circuit.way.clone(),
        circuit.description.clone(),
        of_ring("r1"),
        of_ring("rn"),
        of_ring("r2"),
        highest.map(|band| band.shown()).unwrap_or_default(),
        band("ir-n-l"),
        band("ir-e-l"),
        String::new(),
        band("zs"),
        judge.limit.compared_ohm().map(|ohm| ohm.to_string()).unwrap_or_default(),
        rcd.unwrap_or_else(|| "—".to_owned()),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;
    use proof_bench::demo;

    #[test]
    fn every_board_has_a_chart_and_a_blank_sheet() {
        for job in demo::jobs() {
            for board in &job.installation.boards {
                for drawn in [
                    chart(&job, board, Timestamp::UNIX_EPOCH).unwrap(),
                    blank(&job, board, Timestamp::UNIX_EPOCH).unwrap(),
                    handover(&job, board, Timestamp::UNIX_EPOCH).unwrap(),
                ] {
                    assert!(drawn.starts_with(b"%PDF-") && drawn.len() > 5_000);
                }
            }
        }
    }

    #[test]
    fn a_blank_sheet_says_what_each_box_should_read() {
        let mut job = demo::jobs().swap_remove(0);
        job.readings.clear();
        let circuit = &job.installation.circuits[2];
        let row = expected(&job.installation, circuit, &Settled::new(&[], &[]));
        assert!(row[2].contains('–') && row[5].contains('–'), "{row:?}");
        assert_eq!((row[6].as_str(), row[10].as_str(), row[11].as_str()), ("200 or more", "1.10", "≤ 300"));
    }
}
