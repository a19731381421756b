//! The pages as a program sees them: statuses, partial answers, what the drawing holds.

use actix_web::body::MessageBody;
use actix_web::http::StatusCode;
use actix_web::http::header::{ContentType, HOST};
use actix_web::test::{TestRequest, call_service, init_service, read_body};
use proof_bench::demo;
use proof_job::installation::Circuit;
use proof_job::job::Job;
use proof_store::Store;
use proof_web::{Shared, application};
use tempfile::TempDir;
use uuid::Uuid;

const PORT: u16 = 7671;
const HERE: &str = "127.0.0.1:7671";

struct Site {
    _folder: TempDir,
    store: Store,
    jobs: Vec<Job>,
}

fn site() -> Site {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("pages.db")).unwrap();
    let jobs = demo::jobs();
    for job in &jobs {
        store.create_job(job).unwrap();
    }
    Site { _folder: folder, store, jobs }
}

impl Site {
    fn ask(&self, request: TestRequest) -> (StatusCode, String, Vec<String>) {
        let shared = Shared::new(self.store.clone());
        actix_web::rt::System::new().block_on(async {
            let service = init_service(application(shared, PORT)).await;
            let response = call_service(&service, request.insert_header((HOST, HERE)).to_request()).await;
            let status = response.status();
            let cookies = response
                .headers()
                .get_all("set-cookie")
                .filter_map(|cookie| cookie.to_str().ok().map(str::to_owned))
                .collect();
            assert!(response.headers().contains_key("content-security-policy"));
            let body = read_body(response).await.try_into_bytes().unwrap();
            (status, String::from_utf8_lossy(&body).into_owned(), cookies)
        })
    }

    fn get(&self, path: &str) -> (StatusCode, String) {
        let (status, body, _) = self.ask(TestRequest::get().uri(path));
        (status, body)
    }

    fn circuit(&self, job: usize, way: &str) -> (&Job, &Circuit, String) {
        let job = &self.jobs[job];
        let circuit = job.installation.circuits.iter().find(|circuit| circuit.way == way).unwrap();
        (job, circuit, format!("/jobs/{}/circuits/{}", job.id, circuit.id))
    }

    fn enter(&self, path: &str, step: &str, typed: &str, id: Uuid, partial: bool) -> (StatusCode, String, Vec<String>) {
        let request = TestRequest::post()
            .uri(&format!("{path}/readings"))
            .insert_header(ContentType::form_url_encoded())
            .set_payload(format!("step={step}&id={id}&typed={typed}&entered_by=Idris+Kell&nulled=yes"));
        self.ask(if partial { request.insert_header(("hx-request", "true")) } else { request })
    }
}

#[test]
fn every_page_of_every_job_answers() {
    let site = site();
    for job in &site.jobs {
        let base = format!("/jobs/{}", job.id);
        let board = job.installation.boards[0].id;
        let mut paths: Vec<String> =
            ["", "/particulars", "/origin", "/inspection", "/review", "/certificate", "/job.json"]
                .iter()
                .map(|path| format!("{base}{path}"))
                .collect();
        paths.push(format!("{base}/boards/{board}"));
        for circuit in &job.installation.circuits {
            paths.push(format!("{base}/circuits/{}", circuit.id));
            paths.push(format!("{base}/circuits/{}/edit", circuit.id));
        }
        for path in paths {
            let (status, body) = site.get(&path);
            assert_eq!(status, StatusCode::OK, "{path}");
            assert!(path.ends_with("json") || body.contains("</html>"), "{path} is cut short");
        }
    }
}

#[test]
fn what_is_not_there_is_said() {
    let site = site();
    let job = site.jobs[0].id;
    for path in [
        "/nowhere".to_owned(),
        format!("/jobs/{}", Uuid::nil()),
        format!("/jobs/{job}/boards/{}", Uuid::nil()),
        format!("/jobs/{job}/circuits/{}", Uuid::nil()),
        format!("/jobs/{job}/certificates/none/pdf"),
        "/static/none.css".to_owned(),
    ] {
        assert_eq!(site.get(&path).0, StatusCode::NOT_FOUND, "{path}");
    }
    // An address that holds no id, a query that cannot be read, one that is too long.
    for (path, status) in [
        ("/jobs/not-an-id".to_owned(), StatusCode::BAD_REQUEST),
        (format!("/jobs/{job}/boards/1;2"), StatusCode::BAD_REQUEST),
        (format!("/jobs/{job}/run?of=nobody"), StatusCode::BAD_REQUEST),
        (format!("/?q={}", "x".repeat(9000)), StatusCode::URI_TOO_LONG),
    ] {
        assert_eq!(site.get(&path).0, status, "{path}");
    }
}

#[test]
fn a_reading_goes_on_to_the_next_step_and_is_remembered() {
    let site = site();
    let (job, _, path) = site.circuit(1, "3");
    let (status, _, cookies) = site.enter(&path, "r2-p1", "0.16", Uuid::new_v4(), false);
    assert_eq!(status, StatusCode::SEE_OTHER);
    assert!(cookies.iter().any(|cookie| cookie.starts_with("writer=Idris+Kell") && cookie.contains("HttpOnly")));
    let readings = &site.store.job(job.id).unwrap().job.readings;
    assert_eq!(readings.len(), job.readings.len() + 1);
    let (status, part, _) = site.enter(&path, "r2-p2", "0.17", Uuid::new_v4(), true);
    assert_eq!(status, StatusCode::OK);
    assert!(part.trim_start().starts_with("<div id=\"work\"") && !part.contains("<html"), "only the changed part");
    assert!(part.contains("value=\"r2-p3\""), "the next step is in hand");
    assert!(part.contains("point 2"), "the verdict on the last is shown");
}

#[test]
fn a_refused_entry_keeps_everything_that_was_typed() {
    let site = site();
    let (job, _, path) = site.circuit(1, "3");
    let (status, body, _) = site.enter(&path, "r2-p1", "1%2C000", Uuid::new_v4(), false);
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(body.contains("value=\"1,000\"") && body.contains("is ambiguous") && body.contains("value=\"Idris Kell\""));
    assert_eq!(site.store.job(job.id).unwrap().job.readings.len(), job.readings.len());
}

#[test]
fn the_same_id_with_another_value_is_given_back() {
    let site = site();
    let (job, _, path) = site.circuit(1, "3");
    let id = Uuid::new_v4();
    assert_eq!(site.enter(&path, "r2-p1", "0.16", id, false).0, StatusCode::SEE_OTHER);
    assert_eq!(site.enter(&path, "r2-p1", "0.16", id, false).0, StatusCode::SEE_OTHER);
    let (status, body, _) = site.enter(&path, "r2-p1", "0.19", id, false);
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(body.contains("value=\"0.19\"") && body.contains("Press Enter again"));
    assert!(!body.contains(&format!("name=\"id\" value=\"{id}\"")), "it is given a new id");
    assert_eq!(site.store.job(job.id).unwrap().job.readings.len(), job.readings.len() + 1);
}

#[test]
fn the_drawing_holds_every_point_with_its_band_and_its_dot() {
    let site = site();
    let (_, circuit, path) = site.circuit(0, "3");
    let (_, body) = site.get(&format!("{path}?at=r2-p10"));
    let svg = &body[body.find("<svg class=\"profile").unwrap()..];
    let svg = &svg[..svg.find("</svg>").unwrap()];
    let count = |what: &str| svg.matches(what).count();
    assert_eq!(count("<circle class=\"point "), circuit.points.len());
    assert_eq!(count("class=\"band band-rn"), circuit.points.len());
    assert_eq!(count("class=\"band band-r2"), circuit.points.len());
    assert_eq!(count("class=\"dot dot-rn"), circuit.points.len());
    assert_eq!(count("class=\"dot dot-r2"), circuit.points.len());
    assert_eq!(count("class=\"here\""), 1);
    assert!(body.contains("5a (spur from bench 5)"), "the text twin names the spur");
    assert!(!svg.contains("NaN") && !svg.contains("inf"));
}

#[test]
fn names_from_outside_do_not_break_out() {
    let site = site();
    let mut head = site.store.head(site.jobs[1].id).unwrap();
    head.job.title = "<script>alert(1)</script>".into();
    head.job.installation.circuits[0].description = "\"><svg onload=x>".into();
    head.job.installation.circuits[0].points[0].name = "<b>'\"&".into();
    site.store.save_description(&head.job, head.revision).unwrap();
    let base = format!("/jobs/{}", head.job.id);
    let circuit = head.job.installation.circuits[0].id;
    for path in
        [base.clone(), format!("{base}/circuits/{circuit}"), format!("{base}/circuits/{circuit}/edit"), "/".into()]
    {
        let (_, body) = site.get(&path);
        for raw in ["<script>alert", "<svg onload", "<b>'"] {
            assert!(!body.contains(raw), "{path}: {raw}");
        }
    }
}

#[test]
fn another_host_is_refused_and_health_answers() {
    let site = site();
    assert_eq!(site.get("/healthz"), (StatusCode::OK, "{\"status\":\"ok\"}\n".to_owned()));
    let shared = Shared::new(site.store.clone());
    let status = actix_web::rt::System::new().block_on(async {
        let service = init_service(application(shared, PORT)).await;
        call_service(&service, TestRequest::get().uri("/").insert_header((HOST, "elsewhere.example")).to_request())
            .await
            .status()
    });
    assert_eq!(status, StatusCode::FORBIDDEN);
}
