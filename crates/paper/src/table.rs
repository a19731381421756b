//! The schedules as tables: CSV (RFC 4180) and a spreadsheet (Office Open XML) out.

use crate::board_schedule::circuit_row;
use proof_job::installation::{Board, Installation};
use proof_job::job::Job;
use proof_work::certificate::BoardResults;
use proof_work::schedule::{Figure, PrintedRow, ScheduleRow};
use rust_xlsxwriter::{Format, FormatAlign, FormatBorder, Workbook, Worksheet, XlsxError};

/// Heads of the schedule of test results.
pub const RESULT_HEADS: [&str; 16] = [
    "board",
    "way",
    "circuit",
    "r1 ohm",
    "rn ohm",
    "r2 ohm",
    "R1+R2 ohm",
    "insulation live-live Mohm",
    "insulation live-earth Mohm",
    "test V",
    "polarity",
    "Zs ohm",
    "RCD at rated ms",
    "RCD at five times ms",
    "RCD button",
    "remarks",
];

/// Head of the last column, where a circuit was read so: R1+R2 is then not read.
pub const LONG_LEAD_HEAD: &str = "R2 by long lead ohm";

/// Head of the last column of a job that was not made as work.
pub const WORTH_HEAD: &str = "worth";

/// Heads of the schedule of circuits.
pub const CIRCUIT_HEADS: [&str; 16] = [
    "way",
    "circuit",
    "runs",
    "points",
    "device",
    "breaking kA",
    "RCD",
    "cable",
    "line mm2",
    "neutral mm2",
    "CPC mm2",
    "method",
    "length m",
    "N, CPC terminal",
    "maximum Zs ohm",
    "disconnection s",
];

/// A table that could not be written.
#[derive(Debug, thiserror::Error)]
pub enum NoTable {
    /// CSV.
    #[error("the table could not be written: {0}")]
    Csv(#[from] csv::Error),
    /// The spreadsheet.
    #[error("the spreadsheet could not be written: {0}")]
    Sheet(#[from] XlsxError),
}

fn result_cells(board: &Board, circuit: &str, given: &ScheduleRow, long_lead: bool) -> Vec<String> {
    let of = |text: &String| text.clone();
    let (row, (r1_r2, r2_alone)): (PrintedRow, _) = (given.printed(), given.continuity());
    let mut cells = vec![
        board.name.clone(),
        of(&row.way),
        circuit.to_owned(),
        of(&row.r1),
        of(&row.rn),
        of(&row.r2),
        if long_lead { r1_r2 } else { of(&row.r1_r2) },
        of(&row.live_live),
        of(&row.live_earth),
        of(&row.test_v),
        of(&row.polarity),
        of(&row.zs),
        of(&row.rcd_one),
        of(&row.rcd_five),
        of(&row.rcd_button),
        of(&row.remarks),
    ];
    cells.extend(long_lead.then_some(r2_alone));
    cells
}

/// Whether a circuit was read as R2 by long lead.
fn by_long_lead(results: &[BoardResults]) -> bool {
    let so = |row: &ScheduleRow| matches!(row, ScheduleRow::Figures(row) if matches!(row.r1_r2, Figure::ByLongLead(_)));
    results.iter().flat_map(|results| &results.rows).any(so)
}

fn result_heads(results: &[BoardResults]) -> Vec<&'static str> {
    RESULT_HEADS.into_iter().chain(by_long_lead(results).then_some(LONG_LEAD_HEAD)).collect()
}

/// Rows of the results of some boards, in order.
fn rows<'a>(installation: &'a Installation, results: &'a [BoardResults]) -> impl Iterator<Item = Vec<String>> + 'a {
    let long_lead = by_long_lead(results);
    results.iter().filter_map(|results| Some((installation.board(results.board)?, results))).flat_map(
        move |(board, results)| {
            results.rows.iter().map(move |row| {
                let circuit = row.circuit(installation, board.id);
                result_cells(board, circuit.map_or("", |circuit| circuit.description.as_str()), row, long_lead)
            })
        },
    )
}

/// The schedule of test results as CSV. A cell that a spreadsheet would take for a formula begins
/// with an apostrophe.
///
/// # Errors
/// [`NoTable::Csv`].
pub fn results_csv(job: &Job, results: &[BoardResults]) -> Result<Vec<u8>, NoTable> {
    let mark = job.made_as.mark();
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(result_heads(results).into_iter().chain(mark.map(|_| WORTH_HEAD)))?;
    for row in rows(&job.installation, results) {
        writer.write_record(row.into_iter().chain(mark.map(str::to_owned)).map(harmless))?;
    }
    writer.into_inner().map_err(|error| NoTable::Csv(error.into_error().into()))
}

/// Text that no spreadsheet takes for a formula.
fn harmless(text: String) -> String {
    let number = text.parse::<f64>().is_ok();
    if !number && text.starts_with(['=', '+', '-', '@', '\t', '\r']) { format!("'{text}") } else { text }
}

/// Results and circuits as a spreadsheet: a sheet of results, and one of circuits for each board.
///
/// # Errors
/// [`NoTable::Sheet`].
pub fn workbook(job: &Job, results: &[BoardResults]) -> Result<Vec<u8>, NoTable> {
    let (installation, mark) = (&job.installation, job.made_as.mark());
    let mut book = Workbook::new();
    let sheet = book.add_worksheet().set_name("Results")?;
    let worth = |row: Vec<String>| row.into_iter().chain(mark.map(str::to_owned)).collect::<Vec<_>>();
    let of_results: Vec<Vec<String>> = rows(installation, results).map(worth).collect();
    fill(sheet, &result_heads(results), &of_results, mark)?;
    for (index, results) in results.iter().enumerate() {
        let Some(board) = installation.board(results.board) else { continue };
        let for_board: Vec<Vec<String>> = installation
            .circuits_on(board.id)
            .filter(|circuit| {
                results.rows.iter().any(|row| row.circuit(installation, board.id).is_some_and(|of| of.id == circuit.id))
            })
            .map(|circuit| worth(circuit_row(installation, board, circuit)))
            .collect();
        // A sheet's name holds at most 31 letters and none of these.
        let name: String = board.name.chars().filter(|c| !"[]:*?/\\'".contains(*c)).take(22).collect();
        let sheet = book.add_worksheet().set_name(format!("{} {name}", index + 1))?;
        fill(sheet, &CIRCUIT_HEADS, &for_board, mark)?;
    }
    Ok(book.save_to_buffer()?)
}

/// A job that was not made as work says so in each row, and on each page that is printed.
fn fill(sheet: &mut Worksheet, heads: &[&str], rows: &[Vec<String>], mark: Option<&str>) -> Result<(), XlsxError> {
    let heads: Vec<&str> = heads.iter().copied().chain(mark.map(|_| WORTH_HEAD)).collect();
    if let Some(mark) = mark {
        sheet.set_header(format!("&L{mark}"));
    }
    let head = Format::new().set_bold().set_text_wrap().set_border_bottom(FormatBorder::Thin);
    let figure = Format::new().set_align(FormatAlign::Right);
    for (column, text) in (0_u16..).zip(&heads) {
        sheet.write_string_with_format(0, column, *text, &head)?;
        sheet.set_column_width(column, if *text == "circuit" || *text == "remarks" { 30 } else { 12 })?;
    }
    for (line, row) in (1_u32..).zip(rows) {
        for (column, text) in (0_u16..).zip(row) {
            match text.parse::<f64>() {
                // A way is a name even where it is a number.
                Ok(number) if heads.get(usize::from(column)) != Some(&"way") => {
                    let places = text.split_once('.').map_or(0, |(_, places)| places.len());
                    let as_read = if places == 0 { "0".to_owned() } else { format!("0.{}", "0".repeat(places)) };
                    sheet.write_number_with_format(line, column, number, &figure.clone().set_num_format(as_read))?;
                }
                _ => {
                    sheet.write_string(line, column, text.as_str())?;
                }
            }
        }
    }
    sheet.set_freeze_panes(1, 0)?;
    Ok(())
}

#[cfg(test)]
#[path = "table_tests.rs"]
mod tests;
