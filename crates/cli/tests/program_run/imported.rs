//! A job file brought in on the command line is history, as one brought in on the page.

use proof_job::site::BoardState;
use proof_store::Store;
use std::path::{Path, PathBuf};
use std::process::Command;

fn fixture() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fixtures/2026-11-25/job-G-101.json")
}

fn proof(arguments: &[&str]) -> std::process::Output {
    Command::new(env!("CARGO_BIN_EXE_proof")).args(arguments).output().expect("the program runs")
}

#[test]
fn what_a_file_says_is_live_is_not_proved_here() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("other.db");
    let (file, db) = (fixture().display().to_string(), db.display().to_string());
    let output = proof(&["import", &file, "--db", &db]);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let store = Store::open(Path::new(&db)).unwrap();
    let row = store.jobs("G-101", 1).unwrap().remove(0);
    let job = store.job(row.id).unwrap().job.clone();
    assert!(job.history == job.events.len() && job.history > 0);
    assert_eq!(job.site().board(job.installation.boards[0].id).0, BoardState::NotProved);
    assert!(store.imported_at(row.id).unwrap().is_some());
    let out = proof(&["export", "G-101", "--db", &db]);
    assert_eq!(out.stdout, std::fs::read(fixture()).unwrap(), "and goes out as it came");
}

/// A log that energises with the earth off is taken and told.
#[test]
fn what_a_log_did_is_told() {
    let mut file: serde_json::Value = serde_json::from_slice(&std::fs::read(fixture()).unwrap()).unwrap();
    let events = file["job"]["events"].as_array_mut().unwrap();
    events.retain(|event| event["kind"]["what"] != "earth_refitted");
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("job.json");
    std::fs::write(&path, serde_json::to_vec(&file).unwrap()).unwrap();
    let db = folder.path().join("new.db").display().to_string();
    let path = path.display().to_string();
    assert!(proof(&["import", &path, "--db", &db]).status.success());
    let told = String::from_utf8(proof(&["check", &path]).stdout).unwrap();
    assert!(told.contains("gate_broken") && told.contains("supply_exposed"), "{told}");
}
