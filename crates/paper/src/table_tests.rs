use super::*;
use calamine::{Data, Reader, Xlsx};
use jiff::Timestamp;
use proof_bench::demo;
use proof_work::certificate::{Application, Certificate, Form, prepare};
use std::io::Cursor;

fn certificate() -> Certificate {
    let mut job = demo::jobs().swap_remove(0);
    job.installation.circuits[7].description = "=HYPERLINK(\"x\"), fan".into();
    prepare(&job, Application::draft(&job, Form::Installation, Timestamp::UNIX_EPOCH))
}

#[test]
fn csv_comes_back_cell_for_cell() {
    let certificate = certificate();
    let bytes = results_csv(&certificate.job, &certificate.results).unwrap();
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

/// R2 by long lead has a column of its own, the last; without it the table is as it always was.
#[test]
fn what_was_read_by_long_lead_has_a_column_of_its_own() {
    let mut job = demo::jobs().swap_remove(0);
    let mut reading = job.readings[0].clone();
    let circuit = job.installation.circuits[6].id;
    job.readings.retain(|one| one.key.subject.circuit() != Some(circuit));
    job.installation.house_rules.continuity = proof_standard::house_rules::ContinuityMethod::R2;
    reading.key =
        proof_job::reading::Key::on_circuit(circuit, proof_job::reading::Place::Board, proof_job::reading::Test::R2);
    reading.value = proof_job::reading::Value::Number(rust_decimal::dec!(0.21));
    job.readings.push(reading);
    let certificate = prepare(&job, Application::draft(&job, Form::Installation, Timestamp::UNIX_EPOCH));
    let bytes = results_csv(&certificate.job, &certificate.results).unwrap();
    let mut reader = csv::Reader::from_reader(bytes.as_slice());
    assert_eq!(reader.headers().unwrap().iter().next_back(), Some(LONG_LEAD_HEAD));
    let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
    assert_eq!((&rows[6][6], &rows[6][16]), ("—", "0.21"));
    assert_eq!((&rows[5][6], &rows[5][16]), (certificate.results[0].rows[5].printed().r1_r2.as_str(), "—"));
}

/// Read back with another library than the one that wrote it.
#[test]
fn the_spreadsheet_holds_the_same_as_numbers() {
    let certificate = certificate();
    let bytes = workbook(&certificate.job, &certificate.results).unwrap();
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
