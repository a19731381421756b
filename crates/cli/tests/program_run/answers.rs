//! What the program answers to requests that nobody's browser sends: each gets an answer of its own, and the next
//! request is answered as ever.

use crate::program::served::{Served, get, post, send, serve};
use proof_bench::demo;
use proof_store::Store;
use std::io::{Read, Write};
use std::net::TcpStream;
use std::time::{Duration, Instant};
use tempfile::TempDir;

fn site() -> (TempDir, Served, String) {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("proof.db");
    let store = Store::open(&db).unwrap();
    let job = &demo::jobs()[1];
    store.create_job(job).unwrap();
    let served = serve(&db);
    (folder, served, format!("/jobs/{}", job.id))
}

fn asked(address: &str, method: &str, path: &str, more: &str) -> (u16, String) {
    send(address, format!("{method} {path} HTTP/1.1\r\nHost: {address}\r\nConnection: close\r\n{more}\r\n").as_bytes())
        .expect("an answer")
}

#[test]
fn a_wrong_way_of_asking_is_told_apart_from_a_page_that_is_not_there() {
    let (_folder, served, job) = site();
    let to = served.address.as_str();
    for (method, path, status) in [
        ("DELETE", job.clone(), 405),
        ("PUT", "/".to_owned(), 405),
        ("POST", format!("{job}/review"), 405),
        ("GET", format!("{job}/run/readings"), 405),
        ("DELETE", "/nowhere".to_owned(), 404),
        ("GET", "/nowhere".to_owned(), 404),
        ("GET", "/jobs/none".to_owned(), 400),
        ("GET", format!("{job}/circuits/none"), 400),
        ("GET", format!("{job}/run?of=none"), 400),
        ("GET", format!("/?q={}", "y".repeat(10_000)), 414),
    ] {
        let (answered, page) = asked(to, method, &path, "Content-Length: 0\r\n");
        assert_eq!(answered, status, "{method} {path}");
        let says = page.split_once("\r\n\r\n").unwrap().1;
        assert!(!says.is_empty() && !says.contains("panicked"), "{method} {path}: {page}");
        assert_eq!(status == 405, page.to_lowercase().contains("\r\nallow: "), "{method} {path}");
    }
    assert_eq!(get(to, &job).unwrap().0, 200);
}

#[test]
fn the_head_of_a_page_is_asked_without_its_body() {
    let (_folder, served, job) = site();
    for path in ["/".to_owned(), job.clone(), format!("{job}/run"), "/nowhere".to_owned()] {
        let (whole, _) = get(&served.address, &path).unwrap();
        let (head, answer) = asked(&served.address, "HEAD", &path, "");
        assert_eq!(head, whole, "{path}");
        assert_eq!(answer.split_once("\r\n\r\n").unwrap().1, "", "{path}");
    }
}

/// Back goes where the form stood, on this machine and nowhere else.
#[test]
fn nobody_is_sent_to_another_site() {
    let (_folder, served, job) = site();
    let to = served.address.as_str();
    for (referer, wanted) in [
        (format!("http://{to}{job}"), job.as_str()),
        (format!("http://{to}//elsewhere.example/x"), "/"),
        (format!("http://{to}/\\elsewhere.example"), "/"),
        ("https://elsewhere.example/away".to_owned(), "/away"),
        ("no address".to_owned(), "/"),
    ] {
        let body = "look=night";
        let request = format!(
            "POST /look HTTP/1.1\r\nHost: {to}\r\nReferer: {referer}\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: {}\r\nConnection: close\r\n\r\n{body}",
            body.len()
        );
        let (status, answer) = send(to, request.as_bytes()).unwrap();
        assert_eq!(status, 303, "{referer}");
        let location = answer.lines().find_map(|line| line.strip_prefix("location: ")).unwrap();
        assert_eq!(location, wanted, "{referer}");
    }
    // Ids from a form go into an address: nothing but this program's own comes of them.
    for step in ["//elsewhere.example", "\r\nset-cookie: a=b", "..%2f..%2f"] {
        let circuit = demo::jobs()[1].installation.circuits[0].id;
        let path = format!("{job}/circuits/{circuit}/strike");
        let (status, answer) =
            post(to, &path, &[("step", step), ("reason", "r"), ("by", "A"), ("reading", step)]).unwrap();
        assert!(status == 422 || status == 303, "{status}");
        assert!(!answer.contains("elsewhere.example\r\n") && !answer.contains("\r\nset-cookie: a=b"), "{answer}");
    }
}

/// A body that never comes is given up, and meanwhile others are answered at once.
#[test]
fn who_is_slow_stops_nobody() {
    let (_folder, served, job) = site();
    let to = served.address.as_str();
    let mut slow: Vec<TcpStream> = (0..24)
        .map(|_| {
            let mut stream = TcpStream::connect(to).unwrap();
            let head = format!(
                "POST {job}/run/readings HTTP/1.1\r\nHost: {to}\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 500\r\n\r\nof="
            );
            stream.write_all(head.as_bytes()).unwrap();
            stream
        })
        .collect();
    for _ in 0..20 {
        let began = Instant::now();
        assert_eq!(get(to, &job).unwrap().0, 200);
        assert!(began.elapsed() < Duration::from_secs(5), "others wait for {:?}", began.elapsed());
    }
    // Given up after a while, and told so.
    let one = &mut slow[0];
    one.set_read_timeout(Some(Duration::from_secs(60))).unwrap();
    let mut answer = [0; 12];
    one.read_exact(&mut answer).unwrap();
    assert_eq!(&answer, b"HTTP/1.1 408");
}
