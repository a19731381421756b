//! What was written on 2026-11-25 is read as it was then: job files come in and go out byte for byte,
//! findings and judgements stand, the certificate verifies and shows.

use proof_paper::job_file;
use proof_work::certificate::Certificate;
use serde_json::Value;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

fn frozen(name: &str) -> PathBuf {
    frozen_on("2026-11-25", name)
}

fn frozen_on(day: &str, name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fixtures").join(day).join(name)
}

fn proof(arguments: &[&str], files: &[&Path]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_proof")).args(arguments).args(files).output().expect("the program runs")
}

const JOBS: [&str; 4] = ["G-101", "G-102", "G-103", "G-104"];
const JOBS_2026_12_01: [&str; 5] = ["G-101", "G-102", "G-103", "G-104", "G-105"];

#[test]
fn job_files_come_in_and_go_out_byte_for_byte() {
    let all = JOBS.map(|job| ("2026-11-25", job)).into_iter().chain(JOBS_2026_12_01.map(|job| ("2026-12-01", job)));
    for (day, reference) in all {
        let bytes = std::fs::read(frozen_on(day, &format!("job-{reference}.json"))).unwrap();
        let read = job_file::read(&bytes).unwrap();
        assert_eq!(read.job.reference, reference);
        assert!(
            job_file::write(&read.job, &read.documents).unwrap() == bytes,
            "{day} {reference} is written otherwise"
        );
    }
}

/// Of the second day: the same findings, at the same places, with the same judgements.
#[test]
fn every_judgement_of_the_second_day_stands() {
    let mut judged = 0;
    for reference in JOBS_2026_12_01 {
        let said = std::fs::read(frozen_on("2026-12-01", &format!("check-{reference}.json"))).unwrap();
        let then: Value = serde_json::from_slice(&said).unwrap();
        let output = proof(&["check"], &[&frozen_on("2026-12-01", &format!("job-{reference}.json"))]);
        let now: Value = serde_json::from_slice(&output.stdout).unwrap();
        let of = |said: &Value| -> Vec<[Value; 4]> {
            let all = said["findings"].as_array().unwrap().iter();
            all.map(|one| ["id", "severity", "blocks", "judged"].map(|key| one[key].clone())).collect()
        };
        assert_eq!(of(&now), of(&then), "{reference}");
        judged += of(&then).iter().filter(|one| !one[3].is_null()).count();
    }
    assert_eq!(judged, 9);
}

/// Kinds of finding that were not known on that day.
const LATER: &[&str] = &[
    "gate_broken",
    "proof_of_dead",
    "earthing_size",
    "bond_size",
    "cpc_size",
    "not_judged",
    "design_current",
    "outlet_rating",
    "main_switch",
    "device_marking",
    "rcbo_undescribed",
    "tt_without_rcd",
    "way_clash",
    "decision_contradicted",
    "source_incomplete",
    "instrument_unsaid",
    "writer_unsaid",
    "test_voltage",
    "hardly_possible",
    "typed_differs",
    "altered_after_test",
    "shape_changed",
    "no_figure",
    "judgement_incomplete",
];

/// What is missing is never judged, so that its words may say more than they said then.
fn is_missing(one: &Value) -> bool {
    one["severity"] == "missing"
}

/// A low insulation was called a neon in other words then, and to earth too, where a neon never reads.
fn as_said_now(mut finding: Value) -> Value {
    let neon = "about a quarter of a megohm: a neon indicator; it conducts only at high voltage";
    let what = finding["what"].as_str().unwrap_or_default();
    let now = if what.contains("–E") {
        "under 1 MΩ: damaged cable, or something with water in it"
    } else {
        "about a quarter of a megohm between live conductors: commonly a neon indicator; turn its switch off and read again"
    };
    let said = what.replace(neon, now);
    finding["what"] = said.into();
    finding
}

/// Ids, codes, words and judgements: the judgements were bound to the words of that day. What is found
/// beside them is of kinds that were not known then.
#[test]
fn every_finding_says_what_it_said_and_every_judgement_stands() {
    let mut judged = 0;
    for reference in JOBS {
        let then: Value =
            serde_json::from_slice(&std::fs::read(frozen(&format!("check-{reference}.json"))).unwrap()).unwrap();
        let output = proof(&["check"], &[&frozen(&format!("job-{reference}.json"))]);
        let now: Value = serde_json::from_slice(&output.stdout).unwrap();
        let found = now["findings"].as_array().unwrap();
        let known = |one: &&Value| !LATER.contains(&one["code"].as_str().unwrap()) && !is_missing(one);
        let stands: Vec<&Value> = found.iter().filter(known).collect();
        let stood = then["findings"].as_array().unwrap().iter().filter(|one| !is_missing(one));
        let stood: Vec<Value> = stood.cloned().map(as_said_now).collect();
        assert_eq!(stands, stood.iter().collect::<Vec<_>>(), "{reference}");
        for missing in then["findings"].as_array().unwrap().iter().filter(|one| is_missing(one)) {
            // The step that stands first among those missing may be another.
            let of = |one: &Value| one["place"].as_str().unwrap().rsplit_once('/').map(|(of, _)| of.to_owned());
            let same = |one: &&Value| one["code"] == missing["code"] && of(one) == of(missing);
            assert!(found.iter().any(|one| same(&one)), "{reference}: {}", missing["id"]);
        }
        judged += then["findings"].as_array().unwrap().iter().filter(|one| !one["judged"].is_null()).count();
    }
    assert!(judged >= 3, "only {judged} judgements are frozen");
}

#[test]
fn the_certificate_verifies_and_one_byte_altered_does_not() {
    let key = frozen("FIRM.pub");
    let folder = tempfile::tempdir().unwrap();
    for name in ["G-101-C2.pdf", "G-101-C2.job.json"] {
        let output = Command::new(env!("CARGO_BIN_EXE_proof"))
            .arg("verify")
            .arg(frozen(name))
            .arg("--key")
            .arg(&key)
            .output()
            .unwrap();
        assert!(output.status.success(), "{name}: {}", String::from_utf8_lossy(&output.stderr));
        let mut bytes = std::fs::read(frozen(name)).unwrap();
        let at = bytes.len() / 3;
        bytes[at] ^= 1;
        let altered = folder.path().join(name);
        std::fs::write(&altered, bytes).unwrap();
        let output = Command::new(env!("CARGO_BIN_EXE_proof"))
            .arg("verify")
            .arg(&altered)
            .arg("--key")
            .arg(&key)
            .output()
            .unwrap();
        assert!(!output.status.success(), "{name} altered at byte {at}");
    }
}

#[test]
fn the_frozen_certificate_is_read_with_its_rows() {
    let bytes = std::fs::read(frozen("G-101-C2.json")).unwrap();
    let certificate: Certificate = serde_json::from_slice(&bytes).unwrap();
    assert_eq!((certificate.number.as_str(), certificate.replaces.as_deref()), ("G-101-C2", Some("G-101-C1")));
    assert_eq!(
        certificate.results.iter().map(|board| board.rows.len()).sum::<usize>(),
        certificate.job.installation.circuits.len()
    );
    assert!(!certificate.judged.is_empty());
}
