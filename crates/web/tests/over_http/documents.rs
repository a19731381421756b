//! Documents that go with a job: in, out, with the job file, on the certificate; and what is refused.

use crate::site::{FINISHED, HALF, Site, site};
use actix_web::http::StatusCode;
use actix_web::test::TestRequest;
use proof_job::installation::document::{MOST_DOCUMENT_BYTES, MOST_DOCUMENTS_BYTES};
use proof_paper::job_file;
use proof_work::review::{Where, review};

/// An upload with the fields beside the file.
fn put(site: &Site, path: &str, fields: &[(&str, &str)], bytes: &[u8]) -> (StatusCode, String) {
    let mut body = Vec::new();
    for (name, value) in fields {
        let part = format!("--edge\r\ncontent-disposition: form-data; name=\"{name}\"\r\n\r\n{value}\r\n");
        body.extend_from_slice(part.as_bytes());
    }
    body.extend_from_slice(b"--edge\r\ncontent-disposition: form-data; name=\"file\"; filename=\"a\"\r\n");
    body.extend_from_slice(b"content-type: application/octet-stream\r\n\r\n");
    body.extend_from_slice(bytes);
    body.extend_from_slice(b"\r\n--edge--\r\n");
    let kind = ("content-type", "multipart/form-data; boundary=edge");
    let (status, body) = site.ask(TestRequest::post().uri(path).insert_header(kind).set_payload(body));
    (status, String::from_utf8_lossy(&body).into_owned())
}

fn pdf(bytes: usize, mark: u8) -> Vec<u8> {
    let mut all = b"%PDF-1.7 ".to_vec();
    all.resize(bytes, mark);
    all
}

#[test]
fn a_document_is_kept_given_out_and_travels_with_its_job() {
    let site = site();
    let path = format!("/jobs/{}/documents", site.jobs[FINISHED].id);
    assert!(site.get(&path).contains("No document yet"));
    let bytes = pdf(4_000, b'a');
    let fields =
        [("sent", "4f6c1c1e-8d3c-4c39-9f0e-1c1b6f6d8a01"), ("name", "Press sockets"), ("purpose", "risk_assessment")];
    let (status, page) = put(&site, &path, &fields, &bytes);
    assert_eq!(status, StatusCode::SEE_OTHER, "{page}");
    // Sent twice, it is there once.
    put(&site, &path, &fields, &bytes);
    let job = site.job(FINISHED);
    let [document] = &job.installation.documents[..] else { panic!("{:?}", job.installation.documents) };
    assert_eq!(site.ask(TestRequest::get().uri(&format!("{path}/{}", document.id))).1, bytes);
    assert!(site.get(&path).contains("Press sockets"));
    // Out with the job, and in again elsewhere.
    let file = site.ask(TestRequest::get().uri(&format!("/jobs/{}/job.json", job.id))).1;
    let elsewhere = crate::site::site();
    let packed = job_file::read(&file).unwrap();
    assert_eq!(packed.documents.values().collect::<Vec<_>>(), [&bytes]);
    let renamed = proof_job::job::Job { id: uuid::Uuid::new_v4(), reference: "G-901".into(), ..packed.job };
    let renamed = proof_job::job::Job { readings: vec![], events: vec![], ..renamed };
    let file = job_file::write(&renamed, &packed.documents).unwrap();
    assert_eq!(elsewhere.upload("/import", "job.json", &file).0, StatusCode::SEE_OTHER);
    assert_eq!(elsewhere.store.documents_of(&renamed.installation).unwrap(), packed.documents);
    let out = elsewhere.ask(TestRequest::get().uri(&format!("/jobs/{}/job.json", renamed.id))).1;
    assert_eq!(out, file, "to the byte");
}

#[test]
fn what_is_no_document_is_refused_and_what_was_typed_is_kept() {
    let site = site();
    let path = format!("/jobs/{}/documents", site.jobs[HALF].id);
    let refused = |fields: &[(&str, &str)], bytes: &[u8], why: &str| {
        let (status, page) = put(&site, &path, fields, bytes);
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{why}: {page}");
        assert!(page.contains(why), "{why}: {page}");
        assert!(site.job(HALF).installation.documents.is_empty());
        page
    };
    let named = [("name", "Kiln sheet"), ("purpose", "makers_sheet")];
    for (bytes, why) in [
        (b"<svg onload=alert(1)>".to_vec(), "no PDF, PNG or JPEG"),
        (Vec::new(), "No file was chosen"),
        (pdf(MOST_DOCUMENT_BYTES + 1, b'b'), "Too large"),
    ] {
        assert!(refused(&named, &bytes, why).contains("Kiln sheet"), "{why}: what was typed is lost");
    }
    refused(&[("purpose", "other")], &pdf(40, b'c'), "Say what it is called");
    // Eight of a mebibyte and not one more.
    let one = MOST_DOCUMENTS_BYTES / 8;
    for mark in 0..8 {
        assert_eq!(put(&site, &path, &named, &pdf(one, mark)).0, StatusCode::SEE_OTHER);
    }
    let (status, page) = put(&site, &path, &named, &pdf(20, b'z'));
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains("at most 8 MiB in all"), "{page}");
    let (_, page) = put(&site, &path, &named, &pdf(one, 3));
    assert!(page.contains("there already"), "{page}");
    let file = site.ask(TestRequest::get().uri(&format!("/jobs/{}/job.json", site.jobs[HALF].id))).1;
    assert!(file.len() < job_file::MOST_BYTES, "a full job imports again");
    job_file::read(&file).unwrap();
}

/// Socket-outlets without additional protection: a risk assessment permits it in a works, the circuit
/// rests on it, and it stays until another is chosen.
#[test]
fn a_permitted_exception_rests_on_its_risk_assessment() {
    let site = site();
    let path = format!("/jobs/{}/documents", site.jobs[FINISHED].id);
    put(&site, &path, &[("name", "Press sockets"), ("purpose", "risk_assessment")], &pdf(100, b'a'));
    put(&site, &path, &[("name", "A sheet"), ("purpose", "makers_sheet")], &pdf(101, b'a'));
    let (circuit, way) = site.way(FINISHED, "3");
    let form = site.get(&format!("{way}/edit"));
    assert!(form.contains("Press sockets") && !form.contains("A sheet"), "only a risk assessment is offered");
    let mut job = site.job(FINISHED);
    let assessed = job.installation.documents[0].id;
    let bare = |job: &proof_job::job::Job| {
        let here = |place: &Where| matches!(place, Where::Circuit(id, _) if *id == circuit.id);
        let findings = review(job.into());
        findings.iter().any(|one| here(&one.place) && one.text().contains("without an RCD of 30 mA"))
    };
    let at = job.installation.circuits.iter().position(|one| one.id == circuit.id).unwrap();
    job.installation.circuits[at].rcd = None;
    assert!(bare(&job));
    job.installation.circuits[at].exception = Some(job.installation.documents[1].id);
    assert!(bare(&job), "a maker's sheet assesses no risk");
    job.installation.circuits[at].exception = Some(assessed);
    assert!(!bare(&job));
    job.installation.premises = proof_standard::limits::inspection::Premises::Dwelling;
    assert!(bare(&job), "never in a dwelling");
    job.installation.premises = site.jobs[FINISHED].installation.premises;
    site.store.save_description(&job, site.store.head(job.id).unwrap().revision).unwrap();
    let (status, page) = site.post(&format!("{path}/{assessed}/remove"), &[]);
    assert!(status == StatusCode::CONFLICT && page.contains("rests on"), "{status}: {page}");
    let other = job.installation.documents[1].id;
    assert_eq!(site.post(&format!("{path}/{other}/remove"), &[]).0, StatusCode::SEE_OTHER);
    assert_eq!(site.job(FINISHED).installation.documents.len(), 1);
    let draft = site.ask(TestRequest::get().uri(&format!("/jobs/{}/certificate/draft.pdf", job.id))).1;
    assert!(draft.starts_with(b"%PDF"));
}
