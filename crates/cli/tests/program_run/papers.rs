//! `proof check` and `proof verify`, asked of the program itself.

use proof_bench::demo;
use proof_judge::finding::Kind;
use proof_paper::{job_file, sealed};
use proof_seal::{FirmKey, Issued};
use proof_work::certificate::{Application, Form, Role, Signature, issue};
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

fn proof(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_proof")).args(arguments).output().expect("the program runs")
}

fn put(folder: &Path, name: &str, bytes: &[u8]) -> PathBuf {
    let path = folder.join(name);
    std::fs::write(&path, bytes).unwrap();
    path
}

fn said(output: &Output) -> (Option<i32>, String, String) {
    let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
    (output.status.code(), text(&output.stdout), text(&output.stderr))
}

#[test]
fn check_prints_the_findings_and_says_by_its_exit_whether_something_blocks() {
    let folder = tempfile::tempdir().unwrap();
    let jobs = demo::jobs();
    let finished = put(
        folder.path(),
        "finished.json",
        &job_file::write(&jobs[0], &proof_job::installation::Documents::new()).unwrap(),
    );
    let (code, out, err) = said(&proof(&["check", finished.to_str().unwrap()]));
    assert_eq!((code, err.as_str()), (Some(0), ""), "{out}");
    let answer: serde_json::Value = serde_json::from_str(&out).unwrap();
    assert_eq!((&answer["format"], &answer["version"]), (&"proof-check".into(), &1.into()));
    assert_eq!(answer["findings"].as_array().map(Vec::len), Some(0));

    let half = put(
        folder.path(),
        "half.json",
        &job_file::write(&jobs[1], &proof_job::installation::Documents::new()).unwrap(),
    );
    let (code, out, _) = said(&proof(&["check", half.to_str().unwrap()]));
    assert_eq!(code, Some(1));
    let answer: serde_json::Value = serde_json::from_str(&out).unwrap();
    assert_eq!(answer["blocks"], true);
    for finding in answer["findings"].as_array().unwrap() {
        let finding_code = finding["code"].as_str().unwrap();
        assert!(Kind::ALL.iter().any(|kind| kind.code() == finding_code), "{finding_code}");
        for key in ["id", "severity", "about", "what", "why", "settle", "place"] {
            assert!(finding[key].as_str().is_some_and(|text| !text.is_empty()), "{key} of {finding}");
        }
    }

    let broken = put(folder.path(), "broken.json", b"{\"format\":\"proof-job\"");
    let (code, out, err) = said(&proof(&["check", broken.to_str().unwrap()]));
    assert_eq!((code, out.as_str()), (Some(2), ""));
    assert_eq!(err.lines().count(), 1, "{err}");
}

#[test]
fn verify_tells_the_issued_from_the_altered_without_a_database() {
    let folder = tempfile::tempdir().unwrap();
    let key = FirmKey::from_seed(&[9; 32]);
    let now = "2026-11-25T09:00:00Z".parse().unwrap();
    let sign = |role| Signature {
        role,
        name: "Maud Ferrow".into(),
        position: "Supervisor".into(),
        firm: String::new(),
        at: now,
        drawn: vec![],
    };
    let application = Application {
        form: Form::Installation,
        number: "G-101-C1".into(),
        replaces: None,
        signatures: Role::ALL.map(sign).to_vec(),
        key: key.public().fingerprint(),
        now,
    };
    let certificate = issue(&demo::jobs()[0], application).unwrap();
    let issued = Issued::freeze(&certificate).unwrap();
    let papers = sealed::papers(&certificate, &issued, &proof_job::installation::Documents::new(), &key).unwrap();
    let public = put(folder.path(), "FIRM.pub", key.public().to_pem().unwrap().as_bytes());
    let other = put(folder.path(), "OTHER.pub", FirmKey::from_seed(&[8; 32]).public().to_pem().unwrap().as_bytes());
    let verify =
        |file: &Path, key: &Path| said(&proof(&["verify", file.to_str().unwrap(), "--key", key.to_str().unwrap()]));
    for (name, bytes) in [("c.pdf", &papers.pdf), ("c.job.json", &papers.job_file)] {
        let whole = put(folder.path(), name, bytes);
        let (code, out, _) = verify(&whole, &public);
        assert_eq!(code, Some(0), "{name}: {out}");
        assert!(out.contains("G-101-C1") && out.contains(&papers.seal.statement.short_code()), "{out}");
        let (code, out, _) = verify(&whole, &other);
        assert!(code == Some(1) && out.contains("NOT VERIFIED"), "{name}: {out}");
        let mut altered = bytes.clone();
        let middle = altered.len() / 2;
        altered[middle] ^= 1;
        let (code, ..) = verify(&put(folder.path(), "altered", &altered), &public);
        assert_ne!(code, Some(0), "{name}");
    }
    let (code, out, err) = verify(&put(folder.path(), "text", b"a shopping list"), &public);
    assert_eq!((code, out.as_str()), (Some(2), ""), "{err}");
    let (code, _, err) = verify(&folder.path().join("c.pdf"), &put(folder.path(), "bad.pub", b"no key"));
    assert_eq!(code, Some(2));
    assert!(err.contains("no Ed25519 key"), "{err}");
}
