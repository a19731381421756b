//! The databases of 2026-11-25 and 2026-12-01 open, its pages are drawn, its certificate shows and is replaced.

use crate::site::{FINISHED, Site};
use actix_web::http::StatusCode;

#[test]
fn every_page_of_the_frozen_databases_is_drawn() {
    every_page_is_drawn(&Site::frozen(), 4);
    every_page_is_drawn(&Site::frozen_on("2026-12-01"), 5);
}

fn every_page_is_drawn(site: &Site, jobs: usize) {
    assert_eq!(site.jobs.len(), jobs);
    for job in &site.jobs {
        let base = format!("/jobs/{}", job.id);
        for page in ["", "/particulars", "/run", "/origin", "/inspection", "/review", "/certificate", "/job.json"] {
            assert_eq!(site.status(&format!("{base}{page}")), StatusCode::OK, "{}{page}", job.reference);
        }
        for circuit in &job.installation.circuits {
            for page in ["", "/edit"] {
                let path = format!("{base}/circuits/{}{page}", circuit.id);
                assert_eq!(site.status(&path), StatusCode::OK, "{} way {}{page}", job.reference, circuit.way);
            }
        }
        for board in &job.installation.boards {
            for page in ["", "/tests", "/isolate", "/energise", "/sheet"] {
                assert_eq!(site.status(&format!("{base}/boards/{}{page}", board.id)), StatusCode::OK, "{page}");
            }
        }
    }
    for page in ["/", "/firm", "/firm/key", "/reference", "/verify"] {
        assert_eq!(site.status(page), StatusCode::OK, "{page}");
    }
}

#[test]
fn the_certificate_issued_then_shows_and_its_papers_are_the_ones_issued() {
    let site = Site::frozen();
    let base = format!("/jobs/{}", site.jobs[FINISHED].id);
    let page = site.get(&format!("{base}/certificate"));
    assert!(page.contains("G-101-C2") && page.contains("G-101-C1"), "{page}");
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fixtures/2026-11-25");
    for (kind, name) in [("pdf", "G-101-C2.pdf"), ("job", "G-101-C2.job.json"), ("csv", "G-101-C2.csv")] {
        let path = format!("{base}/certificates/G-101-C2/{kind}");
        let (status, bytes) = site.ask(actix_web::test::TestRequest::get().uri(&path));
        assert_eq!(status, StatusCode::OK, "{kind}");
        assert!(bytes == std::fs::read(folder.join(name)).unwrap(), "{name} is another");
    }
    let (status, said) = site.upload("/verify", "G-101-C2.pdf", &std::fs::read(folder.join("G-101-C2.pdf")).unwrap());
    assert!(status == StatusCode::OK && said.contains("G-101-C2"), "{status} {said}");
}

/// A reading goes into a job of that day as into one of today.
#[test]
fn what_stood_in_the_database_is_worked_on() {
    let site = Site::frozen();
    let before = site.job(FINISHED);
    let (_, way) = site.way(FINISHED, "3");
    let id = Site::id();
    let form = [
        ("step", "r1"),
        ("typed", "0.57"),
        ("id", id.as_str()),
        ("entered_by", "Maud Ferrow"),
        ("paper", "yes"),
        ("paper_on", "2026-01-05"),
    ];
    let (status, body) = site.post(&format!("{way}/readings"), &form);
    assert_eq!(status, StatusCode::OK, "{body}");
    let after = site.job(FINISHED);
    assert_eq!(after.readings.len(), before.readings.len() + 1);
    assert_eq!(after.readings[..before.readings.len()], before.readings[..], "what was stored stays as it was");
}
