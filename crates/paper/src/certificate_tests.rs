use super::*;
use jiff::Timestamp;
use proof_bench::demo;
use proof_work::certificate::{Application, Signature, prepare};

/// With a signature that was drawn.
pub fn signed() -> Vec<Signature> {
    demo::signed(&[vec![(10, 80), (300, 20), (580, 140)]])
}

fn asked(job: &proof_job::job::Job, signatures: Vec<Signature>) -> Application {
    Application { signatures, ..Application::draft(job, Form::Installation, Timestamp::UNIX_EPOCH) }
}

#[test]
fn every_job_draws_and_says_how_many_pages() {
    for job in demo::jobs() {
        let certificate = prepare(&job, asked(&job, signed()));
        let pdf = pdf(&certificate, Copy::Draft).unwrap();
        assert!(pdf.starts_with(b"%PDF-") && pdf.len() > 20_000);
    }
}

#[test]
fn text_too_long_for_a_page_flows_over() {
    let mut job = demo::jobs()[0].clone();
    job.installation.extent = "All of it, and then some more. ".repeat(400);
    job.installation.circuits[0].remarks = "x".repeat(3000);
    let certificate = prepare(&job, asked(&job, vec![]));
    assert!(pdf(&certificate, Copy::Draft).is_ok());
}

/// Whatever a file brings, a certificate is drawn: letters of another typeface, accents apart, and what no typeface has.
#[test]
fn every_name_is_drawn() {
    for name in
        ["Łukasz Żółć", "Lly\u{302}r W\u{302}yn", "Ђорђе Ελένη", "木 😀 \u{202e}", "\u{e000}\u{10ffff}", "a\u{0}b\u{7}"]
    {
        let mut job = demo::jobs().swap_remove(0);
        name.clone_into(&mut job.firm.name);
        name.clone_into(&mut job.installation.client.name);
        name.clone_into(&mut job.installation.circuits[0].description);
        let drawn = prepare(&job, Application::draft(&job, Form::Installation, Timestamp::UNIX_EPOCH));
        let bytes = pdf(&drawn, Copy::Draft).unwrap();
        assert!(bytes.starts_with(b"%PDF"), "{name:?}");
    }
}
