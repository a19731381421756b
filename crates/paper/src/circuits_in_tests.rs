use super::*;
use crate::table::workbook;
use jiff::Timestamp;
use proof_bench::demo;
use proof_work::certificate::{Application, Form, prepare};

#[test]
fn the_schedule_that_goes_out_comes_back_in() {
    let job = demo::jobs().swap_remove(0);
    let certificate = prepare(&job, Application::draft(&job, Form::Installation, Timestamp::UNIX_EPOCH));
    let bytes = workbook(&job, &certificate.results).unwrap();
    let table = read(&bytes).unwrap();
    assert_eq!(table.rows.len(), job.installation.circuits.len());
    for (row, circuit) in table.rows.iter().zip(&job.installation.circuits) {
        assert_eq!(row.bad, [], "row {}", row.number);
        let line = shorthand::parse(row.line.as_deref().unwrap()).unwrap();
        let (back, rcd) = line.build(circuit.board, circuit.id);
        assert_eq!(back.way, circuit.way);
        assert_eq!(back.description, circuit.description);
        assert_eq!(back.device, circuit.device);
        assert_eq!(
            (back.shape, back.cable.line_mm2, back.cable.cpc_mm2),
            (circuit.shape, circuit.cable.line_mm2, circuit.cable.cpc_mm2)
        );
        assert_eq!(back.points.len(), circuit.points.len());
        assert_eq!(
            (back.neutral_terminal, back.cpc_terminal),
            (circuit.neutral_terminal.clone(), circuit.cpc_terminal.clone())
        );
        assert_eq!(rcd.is_some(), circuit.rcd.is_some());
    }
}

#[test]
fn each_bad_cell_is_named_with_what_is_allowed() {
    let text = "way;circuit;runs;device;line mm2;CPC mm2;length m;points\n1;Lights;lights;B6;1,5;1,0;31;8\n2;Bench;zigzag;B33;2.4;1.5;far;many\n";
    let table = read(text.as_bytes()).unwrap();
    assert_eq!(table.rows[0].bad, []);
    let columns: Vec<&str> = table.rows[1].bad.iter().map(|bad| bad.column.as_str()).collect();
    assert_eq!(columns, ["runs", "device", "line mm2", "length m", "points"]);
    assert!(table.rows[1].bad.iter().all(|bad| !bad.problem.is_empty()));
    assert_eq!(table.rows[1].line, None);
}

#[test]
fn what_is_no_table_of_circuits_says_so() {
    assert_eq!(read(b"").unwrap_err(), NoCircuits::Empty);
    assert!(matches!(read(b"a,b\n1,2\n"), Err(NoCircuits::NoColumn("way"))));
    assert!(matches!(read(b"PK\x03\x04 nonsense"), Err(NoCircuits::Unreadable(_))));
    assert!(matches!(read(&[0xff, 0xfe, 0x00]), Err(NoCircuits::Unreadable(_))));
    let long = format!("way,device,line mm2\n{}", "1,B6,1.5\n".repeat(MOST_ROWS + 5));
    assert_eq!(read(long.as_bytes()).unwrap_err(), NoCircuits::TooLong);
}
