use super::*;
use calamine::{Data, Reader, Xlsx};
use jiff::Timestamp;
use proof_bench::demo;
use proof_core::certificate::{Application, Certificate, Form, draw_up};
use std::io::Cursor;

fn certificate() -> Certificate {
    let mut job = demo::jobs().swap_remove(0);
    job.installation.circuits[7].description = "=HYPERLINK(\"x\"), fan".into();
    draw_up(&job, Application::draft(&job, Form::Installation, Timestamp::UNIX_EPOCH))
}

#[test]
fn csv_comes_back_cell_for_cell() {
    let certificate = certificate();
    let bytes = results_csv(&certificate.job.installation, &certificate.results).unwrap();
    let mut reader = csv::Reader::from_reader(bytes.as_slice());
    assert_eq!(reader.headers().unwrap().iter().collect::<Vec<_>>(), RESULT_HEADS);
    let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
    assert_eq!(rows.len(), 8);
    for (row, result) in rows.iter().zip(&certificate.results[0].rows) {
        let result = result.printed();
        assert_eq!((&row[1], &row[6], &row[11]), (result.way.as_str(), result.r1_r2.as_str(), result.zs.as_str()));
    }
    assert_eq!(&rows[7][2], "'=HYPERLINK(\"x\"), fan", "no spreadsheet runs what a client is called");
}

/// Read back with another library than the one that wrote it.
#[test]
fn the_spreadsheet_holds_the_same_as_numbers() {
    let certificate = certificate();
    let bytes = workbook(&certificate.job.installation, &certificate.results).unwrap();
    let mut book: Xlsx<_> = Xlsx::new(Cursor::new(bytes)).unwrap();
    assert_eq!(book.sheet_names(), ["Results", "1 Press room board"]);
    let sheet = book.worksheet_range("Results").unwrap();
    assert_eq!(sheet.height(), 9);
    for (line, result) in (1..).zip(&certificate.results[0].rows) {
        let result = result.printed();
        assert_eq!(sheet.get_value((line, 1)), Some(&Data::String(result.way.clone())));
        assert_eq!(sheet.get_value((line, 11)), Some(&Data::Float(result.zs.parse().unwrap())));
    }
    let circuits = book.worksheet_range("1 Press room board").unwrap();
    assert_eq!(circuits.get_value((3, 14)), Some(&Data::Float(1.37)), "B32: maximum Zs as printed");
}
