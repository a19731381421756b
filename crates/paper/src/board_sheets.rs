//! Sheets of a board from the same data: the circuit chart for its door, and a blank schedule with
//! every expected value for those who write on paper.

use crate::font::Faces;
use crate::page::{About, PdfError, write};
use crate::sheet::{PrintedSheet, figures, words};
use jiff::Timestamp;
use proof_job::installation::{Board, Circuit, Feed, Installation};
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Test};
use proof_job::site::{BoardState, LockedOff};
use proof_judge::verdict::CircuitJudge;
use proof_standard::conductor::Conductor;
use proof_standard::limits::rcd::{Multiple, TripWindow};
use proof_work::actions::paper_row::PaperBox;
use proof_work::actions::steps_of;
use proof_work::certificate::{Form, left_out};
use proof_work::plan::sequence::circuit_steps;

/// The chart for the board's door.
///
/// # Errors
/// [`PdfError`].
pub fn chart(job: &Job, board: &Board, now: Timestamp) -> Result<Vec<u8>, PdfError> {
    let faces = Faces::load()?;
    let mut sheet = PrintedSheet::new(&faces);
    let installation = &job.installation;
    sheet.new_page(false, &board.name);
    sheet.paragraph(&format!("{}. {}, {}.", board.location, installation.site.name, board.system.name()));
    let rows: Vec<Vec<String>> = installation.circuits_on(board.id).map(|circuit| row(installation, circuit)).collect();
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
        installation.rcd_for(circuit).map(|rcd| format!("{} mA", rcd.idn_ma.normalize())).unwrap_or_default(),
        format!("{}/{}", circuit.cable.line_mm2.get(), circuit.cable.cpc_mm2.get()),
        circuit.points.len().to_string(),
    ]
}

/// What the next person finds: what is live, what was left dead and locked and why, what is outstanding.
///
/// # Errors
/// [`PdfError`].
pub fn handover(job: &Job, board: &Board, now: Timestamp) -> Result<Vec<u8>, PdfError> {
    let faces = Faces::load()?;
    let mut sheet = PrintedSheet::new(&faces);
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
        .circuits_on(board.id)
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
            let said = |text: fn(&LockedOff<'_>) -> String| left.map(text).unwrap_or_default();
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
    let mut sheet = PrintedSheet::new(&faces);
    let installation = &job.installation;
    let settled = job.settled();
    sheet.new_page(true, &format!("To be read: {}", board.name));
    sheet.paragraph(&format!(
        "{} {}. Ω, MΩ, ms. Upper line: what each should read, from cable, length and what was read already; lower line: yours. Nothing here was read.",
        job.reference, job.title
    ));
    let cells = PaperBox::for_board(installation, board.id);
    let mut rows = Vec::new();
    for circuit in installation.circuits_on(board.id) {
        for line in PaperBox::rows(circuit) {
            rows.push(expected(installation, circuit, line, &cells, &settled));
            rows.push(vec![String::new(); cells.len() + 2]);
        }
    }
    let mut columns = vec![words("Way", 0.9), words("Circuit", 2.9)];
    columns.extend(cells.iter().map(|cell| match cell {
        PaperBox::Polarity | PaperBox::RcdButton | PaperBox::Functional => words(cell.short(), 0.9),
        _ => figures(cell.short(), 1.4),
    }));
    sheet.table(&columns, &rows, 7.2);
    let origin = (board.fed_by == Feed::Supply).then_some(None);
    for (title, of) in [("Board", Some(board.id))].into_iter().chain(origin.map(|of| ("Origin", of))) {
        let steps = steps_of(installation, of);
        let wanted = steps.iter().filter(|step| !step.unused);
        let rows: Vec<Vec<String>> =
            wanted.map(|step| vec![step.label.clone(), step.field.unit().to_owned(), String::new()]).collect();
        if !rows.is_empty() {
            sheet.heading(title);
            sheet.table(&[words("What", 5.0), words("Unit", 0.8), words("Read", 3.0)], &rows, 8.0);
        }
    }
    sheet.feet(&job.firm.name, "Read by                                   Date                         Instrument");
    let title = format!("To be read, {}", board.name);
    write(&sheet.pages, &faces, About { title: &title, id: &title, made: now, attachments: Vec::new() })
}

/// What each box of a row should read: the boxes of the schedule sheet, in its order. A line stands where the
/// circuit has no such box.
fn expected(
    installation: &Installation,
    circuit: &Circuit,
    line: Option<Conductor>,
    cells: &[PaperBox],
    settled: &CurrentReadings<'_>,
) -> Vec<String> {
    let judge = CircuitJudge::new(installation, circuit, settled);
    let way = line.map_or_else(|| circuit.way.clone(), |line| format!("{} {}", circuit.way, line.letter()));
    let mut row = vec![way, circuit.description.clone()];
    row.extend(cells.iter().map(|cell| {
        let Ok(step) = cell.step(installation, circuit, line) else { return "—".to_owned() };
        let band = judge.band(&step.key).ok().map(|band| band.shown());
        match cell {
            PaperBox::R1R2 => highest(installation, circuit, line, &judge).unwrap_or_default(),
            PaperBox::RcdOne => window(installation, circuit, Multiple::One),
            PaperBox::RcdFive => window(installation, circuit, Multiple::Five),
            PaperBox::Zs => match (band, judge.limit.compared_ohm()) {
                (Some(band), Some(most)) => format!("{band} (≤ {most})"),
                (None, Some(most)) => format!("≤ {most}"),
                (band, None) => band.unwrap_or_default(),
            },
            _ => band.unwrap_or_default(),
        }
    }));
    row
}

/// The highest that any point should read on a line.
fn highest(
    installation: &Installation,
    circuit: &Circuit,
    line: Option<Conductor>,
    judge: &CircuitJudge<'_>,
) -> Option<String> {
    circuit_steps(installation, circuit)
        .iter()
        .filter(|step| step.key.test == Test::R1R2 && step.key.line == line && !step.expects_open())
        .filter_map(|step| judge.band(&step.key).ok())
        .filter(|band| band.high.is_some())
        .max_by(|a, b| a.high.partial_cmp(&b.high).unwrap_or(std::cmp::Ordering::Equal))
        .map(|band| band.shown())
}

/// Within what the residual device of a circuit trips.
fn window(installation: &Installation, circuit: &Circuit, multiple: Multiple) -> String {
    let Some(rcd) = installation.rcd_for(circuit) else { return "—".to_owned() };
    match *installation.trip_window(rcd.kind, multiple) {
        TripWindow::Between { min_ms: Some(min), max_ms } => format!("{min}–{max_ms}"),
        TripWindow::Between { min_ms: None, max_ms } => format!("≤ {max_ms}"),
        TripWindow::NoTrip => String::new(),
    }
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
        let cells = PaperBox::for_board(&job.installation, circuit.board);
        let row = expected(&job.installation, circuit, None, &cells, &CurrentReadings::new(&[], &[]));
        let at = |cell: PaperBox| row[2 + cells.iter().position(|one| *one == cell).unwrap()].as_str();
        assert!(at(PaperBox::R1).contains('–') && at(PaperBox::R1R2).contains('–'), "{row:?}");
        assert_eq!((at(PaperBox::LiveLive), at(PaperBox::RcdOne)), ("200 or more", "≤ 300"));
        assert!(!cells.contains(&PaperBox::LongLead), "nothing of this board is read so");
        assert!(at(PaperBox::Zs).contains("≤ 1.10"), "{row:?}");
    }
}
