//! Own copy: rows confirmed, corrected and written on their page, out as a file and in again.

mod site;

use actix_web::http::StatusCode;
use proof_core::verdict::circuit_limit;
use rust_decimal::dec;
use site::{FINISHED, HALF, site};

const BREAKER: [(&str, &str); 8] = [
    ("kind", "zs"),
    ("standard", "BS EN 61009"),
    ("trip", "B"),
    ("rating", "32"),
    ("seconds", "0.4"),
    ("document", "BS 7671, own copy"),
    ("place", "Table 41.3"),
    ("by", "Maud Ferrow"),
];

#[test]
fn a_row_is_written_used_in_open_jobs_and_goes_out_and_in() {
    let site = site();
    site.store.set_firm(&proof_bench::demo::firm()).unwrap();
    let add = |more: &[(&str, &str)]| site.post("/reference/own", &[&BREAKER[..], more].concat());
    assert_eq!(site.status("/reference/own?kind=capacity"), StatusCode::OK);
    assert_eq!(site.status("/reference/own?kind=cpc"), StatusCode::OK);
    for (more, says) in [
        (&[("value", "")][..], "above 0"),
        (&[("value", "1.37 ohm")][..], "not understood"),
        (&[("value", "1.50")][..], "a second person"),
        (&[("value", "1.50"), ("second", "Maud Ferrow"), ("reason", "newer")][..], "a second person"),
    ] {
        let (status, body) = add(more);
        assert!(status == StatusCode::UNPROCESSABLE_ENTITY && body.contains(says), "{more:?}: {status}");
        assert!(body.contains("BS 7671, own copy"), "what was typed stays");
    }
    assert!(site.store.own_rows().unwrap().is_empty());
    assert_eq!(add(&[("value", "1.30")]).0, StatusCode::SEE_OTHER);
    let page = site.get("/reference/own");
    assert!(page.contains("corrected, tighter") && page.contains("1.37"), "{page}");
    let job = site.job(HALF);
    let cooker = job.installation.circuits.iter().find(|circuit| circuit.way == "4").unwrap();
    assert_eq!(circuit_limit(&job.installation, cooker).compared_ohm(), Some(dec!(1.04)));
    let file = site.get("/reference/own.json");
    let other = site::site();
    let (status, _) = other.upload("/reference/own/import", "own.json", file.as_bytes());
    assert_eq!(status, StatusCode::SEE_OTHER);
    assert_eq!(other.get("/reference/own.json"), file);
    for wrong in ["", "{}", "[]", &file.replace("\"1.30\"", "\"9.30\""), &file.replace("proof-own-rows", "rows")] {
        let (status, body) = other.upload("/reference/own/import", "own.json", wrong.as_bytes());
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{wrong}: {body}");
    }
}

/// What was read before the instrument was asked for is mended by name, in the log.
#[test]
fn readings_without_an_instrument_are_said_later_to_be_taken_with_one() {
    let site = site();
    let id = site.jobs[FINISHED].id;
    let head = site.store.head(id).unwrap();
    let mut job = head.job;
    // Two instruments in calibration: none is chosen for the writer.
    let mut second = job.instruments[0].clone();
    (second.id, second.reference) = (uuid::Uuid::from_u128(7), "MFT-9".into());
    job.instruments.push(second);
    site.store.save_description(&job, head.revision).unwrap();
    let (_, way) = site.way(FINISHED, "3");
    let reading = site::Site::id();
    let form = [("step", "zs"), ("typed", "0.44"), ("id", reading.as_str()), ("entered_by", "Maud Ferrow")];
    let (status, body) = site.post(&format!("{way}/readings"), &form);
    assert_eq!(status, StatusCode::OK, "{body}");
    let review = format!("/jobs/{id}/review");
    assert!(site.get(&review).contains("no instrument is named"));
    let judge = format!("{review}/judge");
    let (status, body) = site.post(&judge, &[("what", "instrument"), ("by", "Maud Ferrow"), ("instrument", "")]);
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && body.contains("Choose an instrument"), "{status}");
    let with = job.instruments[0].id.to_string();
    let (status, _) = site.post(&judge, &[("what", "instrument"), ("by", "Maud Ferrow"), ("instrument", &with)]);
    assert_eq!(status, StatusCode::SEE_OTHER);
    assert!(!site.get(&review).contains("no instrument is named"));
}
