use super::*;
use crate::certificate::tests::signed;
use jiff::Timestamp;
use proof_bench::demo;
use proof_seal::Issued;
use proof_work::certificate::{Application, Form, issue};

fn made() -> (Papers, FirmKey) {
    let key = FirmKey::from_seed(&[3; 32]);
    let (form, replaces) = (Form::Installation, None);
    let (number, signatures, fingerprint) = ("G-101-C1".to_owned(), signed(), key.public().fingerprint());
    let application = Application { form, number, replaces, signatures, key: fingerprint, now: Timestamp::UNIX_EPOCH };
    let certificate = issue(&demo::jobs()[0], application).unwrap();
    let issued = Issued::freeze(&certificate).unwrap();
    (papers(&certificate, &issued, &Documents::new(), &key).unwrap(), key)
}

#[test]
fn what_was_issued_verifies_and_says_which_certificate_it_is() {
    let (papers, key) = made();
    for bytes in [&papers.pdf, &papers.job_file] {
        assert_eq!(verify(bytes, &key.public()), Ok(papers.seal.clone()));
        assert_eq!(claimed(bytes), Some(papers.seal.clone()));
        let other = FirmKey::from_seed(&[4; 32]).public();
        assert!(matches!(verify(bytes, &other), Err(NotSealed::NotOfThisKey(_))));
    }
    assert_eq!(job_file::read(&papers.job_file).unwrap().job, demo::jobs()[0]);
}

/// Bytes all over the document and the job file, and every byte near the signature and the seal.
#[test]
fn one_byte_altered_anywhere_is_seen() {
    let (papers, key) = made();
    let public = key.public();
    let seen = |bytes: &[u8], at: usize| {
        let mut altered = bytes.to_vec();
        altered[at] ^= 1;
        verify(&altered, &public).is_err()
    };
    let pdf = &papers.pdf;
    let (_, digits) = found(pdf).unwrap();
    let near = (digits - 60..digits + DIGITS + 10).step_by(3);
    for at in (0..pdf.len()).step_by(997).chain(pdf.len() - 30..pdf.len()).chain(near) {
        assert!(seen(pdf, at), "byte {at} of the document");
    }
    for at in
        (0..papers.job_file.len()).step_by(509).chain((papers.job_file.len() - 600..papers.job_file.len()).step_by(7))
    {
        assert!(seen(&papers.job_file, at), "byte {at} of the job file");
    }
}

#[test]
fn bytes_added_or_cut_are_seen() {
    let (papers, key) = made();
    for bytes in [&papers.pdf, &papers.job_file] {
        for changed in [[bytes.as_slice(), b" "].concat(), bytes[..bytes.len() - 1].to_vec(), bytes[1..].to_vec()] {
            assert!(verify(&changed, &key.public()).is_err());
        }
    }
}

#[test]
fn a_job_file_without_a_seal_says_so() {
    let plain = job_file::write(&demo::jobs()[0], &proof_job::installation::Documents::new()).unwrap();
    let refused = verify(&plain, &FirmKey::from_seed(&[3; 32]).public()).unwrap_err();
    assert!(refused.to_string().contains("no seal"), "{refused}");
    assert!(verify(b"%PDF-1.7 nothing", &FirmKey::from_seed(&[3; 32]).public()).is_err());
}
