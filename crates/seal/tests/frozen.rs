//! A certificate written down.

use jiff::Timestamp;
use proof_bench::demo;
use proof_seal::{Issued, canonical_job, digest};
use proof_work::certificate::{Application, Certificate, Form, prepare};

#[test]
fn canonical_bytes_hold_the_whole_and_are_the_same_every_time() {
    let job = demo::jobs().remove(0);
    let certificate = prepare(&job, Application::draft(&job, Form::Installation, Timestamp::UNIX_EPOCH));
    let issued = Issued::freeze(&certificate).unwrap();
    assert_eq!(Issued::freeze(&certificate).unwrap(), issued);
    assert_eq!(issued.job_digest, digest(&canonical_job(&job).unwrap()));
    assert_eq!(serde_json::from_slice::<Certificate>(&issued.bytes).unwrap(), certificate);
    assert_eq!(certificate.job, job);
    assert_eq!(issued.digest, digest(&issued.bytes));
    let mut altered = issued.bytes.clone();
    altered[100] ^= 1;
    assert_ne!(digest(&altered), issued.digest);
}

/// FIPS 180-4, the published digest of “abc”.
#[test]
fn the_digest_is_sha_256() {
    assert_eq!(digest(b"abc"), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
}
