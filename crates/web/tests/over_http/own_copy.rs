//! Own copy: rows confirmed, corrected and written on their page, out as a file and in again.

use crate::site::{FINISHED, HALF, site};
use actix_web::http::StatusCode;
use proof_judge::verdict::circuit_limit;
use rust_decimal::dec;

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
    let other = crate::site::site();
    let (status, _) = other.upload("/reference/own/import", "own.json", file.as_bytes());
    assert_eq!(status, StatusCode::SEE_OTHER);
    assert_eq!(other.get("/reference/own.json"), file);
    for wrong in ["", "{}", "[]", &file.replace("\"1.30\"", "\"9.30\""), &file.replace("proof-own-rows", "rows")] {
        let (status, body) = other.upload("/reference/own/import", "own.json", wrong.as_bytes());
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{wrong}: {body}");
    }
}

/// Every kind of row is written by its form, and stands beside the cell that it confirms or corrects.
#[test]
fn every_kind_of_row_is_written_and_marked_in_the_reference() {
    let site = site();
    let source = [("document", "own copy"), ("place", "page 9"), ("by", "Maud Ferrow")];
    let unmarked = site.get("/reference");
    assert!(!unmarked.contains("own copy 0.7") && !unmarked.contains("✓ own copy"));
    for (kind, form) in [
        (
            "zs",
            &[("standard", "BS EN 60898"), ("trip", "C"), ("rating", "16"), ("seconds", "0.4"), ("value", "1.37")][..],
        ),
        ("capacity", &[("cable", "twin-and-earth"), ("line_mm2", "2.5"), ("method", "C"), ("value", "26")]),
        (
            "cpc",
            &[("cpc_is", "core"), ("line_mm2", "4"), ("standard", "BS EN 60898"), ("rating", "32"), ("value", "1.5")],
        ),
        ("ze", &[("system", "TN-S"), ("value", "0.7")]),
        ("bond", &[("line_mm2", "25"), ("value", "16")]),
        ("k", &[("insulation", "thermoplastic70"), ("separate", "yes"), ("value", "140")]),
        ("trip", &[("rcd_kind", "general"), ("multiple", "five"), ("value", "38")]),
    ] {
        let page = site.get(&format!("/reference/own?kind={kind}"));
        for (field, _) in form {
            assert!(page.contains(&format!("name=\"{field}\"")), "{kind}: {field}");
        }
        let whole = [&[("kind", kind)], &source[..], form].concat();
        let (status, body) = site.post("/reference/own", &whole);
        assert_eq!(status, StatusCode::SEE_OTHER, "{kind}: {body}");
    }
    let page = site.get("/reference");
    for marked in ["own copy 0.7", "own copy 16", "own copy 140", "own copy 38", "own copy 26", "✓ own copy"] {
        assert!(page.contains(marked), "{marked}");
    }
    // What a page of a job says is what judges there.
    let mut job = site.job(HALF);
    job.installation.supply.system = proof_standard::limits::supply::EarthingSystem::TnS;
    site.store.save_description(&job, site.store.head(job.id).unwrap().revision).unwrap();
    for path in ["origin", "origin/ze"] {
        let page = site.page(&format!("/jobs/{}/{path}", job.id));
        assert!(page.contains("0.7 Ω") && !page.contains("0.8 Ω"), "{path}: {page}");
    }
    for (wrong, says) in [
        (&[("kind", "ze"), ("system", "TT"), ("value", "21")][..], "declares no Ze"),
        (&[("kind", "trip"), ("rcd_kind", "general"), ("multiple", "half"), ("value", "40")], "nothing trips"),
        (&[("kind", "trip"), ("rcd_kind", "general"), ("multiple", "five"), ("value", "41")], "a second person"),
        (&[("kind", "bond"), ("line_mm2", "25"), ("value", "6")], "a second person"),
        (&[("kind", "k"), ("insulation", ""), ("value", "143")], "Choose the insulation"),
    ] {
        let (status, body) = site.post("/reference/own", &[wrong, &source[..]].concat());
        assert!(status == StatusCode::UNPROCESSABLE_ENTITY && body.contains(says), "{says}: {status}");
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
    let reading = crate::site::Site::id();
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
