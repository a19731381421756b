//! The pages over a database with the demo's jobs, asked as a program asks them.

#![allow(dead_code)] // each test file asks a part of it

use actix_web::body::MessageBody;
use actix_web::http::StatusCode;
use actix_web::http::header::{ContentType, HOST};
use actix_web::test::{TestRequest, call_service, init_service, read_body};
use proof_bench::demo;
use proof_job::installation::Circuit;
use proof_job::job::Job;
use proof_store::Store;
use proof_web::{Shared, application};
use std::path::Path;
use tempfile::TempDir;
use uuid::Uuid;

const PORT: u16 = 7671;
const HERE: &str = "127.0.0.1:7671";
/// Places of the demo's jobs in their list.
pub const FINISHED: usize = 0;
pub const HALF: usize = 1;
pub const FAULTY: usize = 2;
pub const SEARCHED: usize = 3;

pub struct Site {
    pub folder: TempDir,
    /// What the program keeps beside the database while it runs.
    pub shared: Shared,
    pub store: Store,
    pub jobs: Vec<Job>,
}

/// Over an empty database.
pub fn empty() -> Site {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("site.db")).unwrap();
    Site { folder, shared: Shared::new(store.clone()), store, jobs: Vec::new() }
}

pub fn site() -> Site {
    let mut site = empty();
    site.jobs = demo::jobs();
    for job in &site.jobs {
        site.store.create_job(job).unwrap();
    }
    site
}

/// A request of a person who put the card of the day off for that job.
fn put_off(request: TestRequest, path: &str) -> TestRequest {
    let job = path.split(['/', '?']).nth(2).unwrap_or_default();
    let today = proof_job::site::day(jiff::Timestamp::now());
    request.uri(path).insert_header(("cookie", format!("not_today={job}+{today}")))
}

/// A form, as a browser sends it.
fn posted(path: &str, form: &[(&str, &str)]) -> TestRequest {
    let body = serde_urlencoded::to_string(form).unwrap();
    put_off(TestRequest::post(), path).insert_header(ContentType::form_url_encoded()).set_payload(body)
}

impl Site {
    /// Over a copy of the database that was written on 2026-11-25.
    pub fn frozen() -> Self {
        Self::frozen_on("2026-11-25")
    }

    /// Over a copy of the database that was written on a day.
    pub fn frozen_on(day: &str) -> Self {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("site.db");
        let frozen = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fixtures").join(day).join("proof.db");
        std::fs::copy(frozen, &path).unwrap();
        let store = Store::open(&path).unwrap();
        let mut jobs: Vec<Job> =
            store.jobs("", 100).unwrap().iter().map(|row| store.job(row.id).unwrap().job.clone()).collect();
        jobs.sort_by(|a, b| a.reference.cmp(&b.reference));
        Self { folder, shared: Shared::new(store.clone()), store, jobs }
    }

    pub fn ask(&self, request: TestRequest) -> (StatusCode, Vec<u8>) {
        self.ask_as(request.insert_header(("hx-request", "true")))
    }

    fn ask_as(&self, request: TestRequest) -> (StatusCode, Vec<u8>) {
        let shared = self.shared.clone();
        actix_web::rt::System::new().block_on(async {
            let service = init_service(application(shared, PORT)).await;
            let request = request.insert_header((HOST, HERE));
            let response = call_service(&service, request.to_request()).await;
            let status = response.status();
            (status, read_body(response).await.try_into_bytes().unwrap().to_vec())
        })
    }

    pub fn get(&self, path: &str) -> String {
        String::from_utf8_lossy(&self.ask(put_off(TestRequest::get(), path)).1).into_owned()
    }

    /// A whole page, as a browser without scripts asks for it.
    pub fn page(&self, path: &str) -> String {
        String::from_utf8_lossy(&self.ask_as(put_off(TestRequest::get(), path)).1).into_owned()
    }

    pub fn status(&self, path: &str) -> StatusCode {
        self.ask(put_off(TestRequest::get(), path)).0
    }

    pub fn post(&self, path: &str, form: &[(&str, &str)]) -> (StatusCode, String) {
        let (status, body) = self.ask(posted(path, form));
        (status, String::from_utf8_lossy(&body).into_owned())
    }

    /// The same in a browser without scripts.
    pub fn post_whole(&self, path: &str, form: &[(&str, &str)]) -> (StatusCode, String) {
        let (status, body) = self.ask_as(posted(path, form));
        (status, String::from_utf8_lossy(&body).into_owned())
    }

    /// The same in a browser that remembers who writes.
    pub fn post_as(&self, person: &str, path: &str, form: &[(&str, &str)]) -> (StatusCode, String) {
        let body = serde_urlencoded::to_string(form).unwrap();
        let request = TestRequest::post()
            .uri(path)
            .insert_header(("cookie", format!("writer={person}")))
            .insert_header(ContentType::form_url_encoded())
            .set_payload(body);
        let (status, body) = self.ask(request);
        (status, String::from_utf8_lossy(&body).into_owned())
    }

    /// A file sent as a browser sends it.
    pub fn upload(&self, path: &str, name: &str, bytes: &[u8]) -> (StatusCode, String) {
        self.upload_with(path, &[], name, bytes)
    }

    /// The same with fields before it.
    pub fn upload_with(&self, path: &str, fields: &[(&str, &str)], name: &str, bytes: &[u8]) -> (StatusCode, String) {
        let field = |(name, text): &(&str, &str)| {
            format!("--edge\r\ncontent-disposition: form-data; name=\"{name}\"\r\n\r\n{text}\r\n")
        };
        let before: String = fields.iter().map(field).collect();
        let head = format!(
            "{before}--edge\r\ncontent-disposition: form-data; name=\"file\"; filename=\"{name}\"\r\ncontent-type: application/octet-stream\r\n\r\n"
        );
        let body = [head.as_bytes(), bytes, b"\r\n--edge--\r\n"].concat();
        let kind = ("content-type", "multipart/form-data; boundary=edge");
        let (status, body) = self.ask(put_off(TestRequest::post(), path).insert_header(kind).set_payload(body));
        (status, String::from_utf8_lossy(&body).into_owned())
    }

    pub fn job(&self, index: usize) -> Job {
        self.store.job(self.jobs[index].id).unwrap().job.clone()
    }

    pub fn board(&self, index: usize) -> String {
        let job = &self.jobs[index];
        format!("/jobs/{}/boards/{}", job.id, job.installation.boards[0].id)
    }

    pub fn way(&self, index: usize, way: &str) -> (Circuit, String) {
        let job = &self.jobs[index];
        let circuit = job.installation.circuits.iter().find(|circuit| circuit.way == way).unwrap();
        (circuit.clone(), format!("/jobs/{}/circuits/{}", job.id, circuit.id))
    }

    pub fn id() -> String {
        Uuid::new_v4().to_string()
    }
}
