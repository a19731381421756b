//! A whole board walked in the run with the rules as they come: every card as the page offers it,
//! every answer with the fields that the page holds. Ring, lighting, radial, and a three-phase motor
//! without a neutral.

use crate::site::{Site, site};
use actix_web::http::StatusCode;
use proof_job::job::Job;
use proof_job::reading::{Place, Subject, Test, Value};

const CIRCUITS: [&str; 4] = [
    "1 ring B32 6kA 2.5/1.5 legs 6,7,5,8 ref C N1 E1 \"Benches\"",
    "2 lights B6 6kA 1.5/1.0 20m 3pts ref C N2 E2 \"Lights\"",
    "3 radial B20 6kA 2.5/1.5 legs 8,4 ref C N3 E3 \"Office\"",
    "4 radial 3ph C16 6kA 2.5/-/1.5 fixed 14m 1pt ref C E4 \"Nipping press motor\"",
];

/// The value of a field, in the part of a page from a mark on.
fn value(html: &str, from: &str, name: &str) -> Option<String> {
    let part = &html[html.find(from)?..];
    let part = &part[..part.find("</form>").unwrap_or(part.len())];
    let at = part.find(&format!("name=\"{name}\""))?;
    let tag = &part[part[..at].rfind('<')?..];
    let tag = &tag[..tag.find('>')?];
    Some(tag.split("value=\"").nth(1)?.split('"').next()?.to_owned())
}

/// The pair whose button is pressed as the card comes.
fn pair(html: &str) -> String {
    let checked =
        html.split("name=\"pair\"").skip(1).find(|part| part[..part.find('>').unwrap_or(0)].contains("checked"));
    checked.and_then(|part| part.split('"').nth(1)).unwrap_or_default().to_owned()
}

/// What the site's copper answers: the middle of what is expected.
fn answer(html: &str, step: &str) -> (&'static str, String) {
    if step.starts_with("ir-") {
        return ("typed", ">999".into());
    }
    if step.ends_with("-open") {
        return ("typed", "open".into());
    }
    if step == "polarity" {
        return ("outcome", "pass".into());
    }
    let band = html.split("expect-band\">").nth(1).and_then(|part| part.split(" Ω").next()).unwrap_or_default();
    let figures: Vec<f64> = band.split('–').filter_map(|figure| figure.parse().ok()).collect();
    ("typed", if let [low, high] = figures[..] { format!("{:.2}", f64::midpoint(low, high)) } else { "0.03".into() })
}

fn described(site: &Site) -> (String, Job) {
    site.post("/jobs", &[("reference", "W-1"), ("title", "Workshop"), ("board", "Workshop board"), ("lines", "three")]);
    let id = site.store.jobs("W-1", 1).unwrap()[0].id;
    let job = |site: &Site| site.store.job(id).unwrap().job.clone();
    let board = job(site).installation.boards[0].id;
    for line in CIRCUITS {
        let path = format!("/jobs/{id}/boards/{board}/circuits");
        // What a line leaves out was told, and it stands as it was typed.
        let way = line.split(' ').next().unwrap_or_default();
        assert_eq!(
            site.post(&path, &[("line", line), ("told", way), ("then", "more")]).0,
            StatusCode::SEE_OTHER,
            "{line}"
        );
    }
    let revision = site.store.job(id).unwrap().revision.to_string();
    let bond = [
        ("revision", revision.as_str()),
        ("reference", "W-1"),
        ("title", "Workshop"),
        ("bond0_to", "water"),
        ("bond0_mm2", "10"),
        ("lines", "three"),
    ];
    assert_eq!(site.post(&format!("/jobs/{id}/particulars"), &bond).0, StatusCode::SEE_OTHER);
    (format!("/jobs/{id}"), job(site))
}

fn proved(site: &Site, path: &str, job: &Job) {
    let board = job.installation.boards[0].id;
    let page = site.get(&format!("{path}/boards/{board}/isolate"));
    let pairs: Vec<String> =
        page.split("name=\"v-").skip(1).map(|part| format!("v-{}", part.split('"').next().unwrap())).collect();
    assert_eq!(pairs.len(), 10, "three phases have ten pairs");
    let mut form = vec![("by", "Idris Kell"), ("lock", "padlock 2"), ("loads", "yes"), ("locked", "yes")];
    form.extend([("before", "yes"), ("after", "yes"), ("indicator", "VI-1")]);
    form.extend(pairs.iter().map(|pair| (pair.as_str(), "0")));
    let (status, body) = site.post(&format!("{path}/boards/{board}/isolate"), &form);
    assert_eq!(status, StatusCode::SEE_OTHER, "{body}");
}

#[test]
fn a_board_is_walked_with_the_rules_as_they_come() {
    let site = site();
    let (path, job) = described(&site);
    let run = format!("{path}/run");
    let now = || site.store.job(job.id).unwrap().job.clone();
    let mut turns = 0;
    loop {
        turns += 1;
        assert!(turns < 400, "the run goes round for ever");
        let html = site.get(&run);
        let kind = html.split("class=\"run-card ").nth(1).and_then(|part| part.split('"').next()).unwrap().to_owned();
        let held = |name: &str| value(&html, "run-card", name).unwrap_or_default();
        let post = |to: &str, more: &[(&str, &str)]| {
            let (of, step) = (held("of"), held("step"));
            let mut form = vec![("of", of.as_str()), ("step", step.as_str()), ("by", "Idris Kell")];
            form.extend(more);
            site.post(&format!("{run}/{to}"), &form)
        };
        match kind.as_str() {
            "prove" => proved(&site, &path, &job),
            "ask" => {
                let (what, board) = (held("what"), held("board"));
                let form = [("what", what.as_str()), ("board", &board), ("celsius", "18"), ("metal", "no")];
                assert_eq!(post("answer", &form).0, StatusCode::OK);
            }
            "undo" | "make" | "null" => {
                let (what, items) = (held("what"), held("items"));
                assert_eq!(post("act", &[("what", &what), ("items", &items)]).0, StatusCode::OK);
            }
            "end" if html.contains("value=\"back-all\"") => {
                let items = held("items");
                post("act", &[("what", "back-all"), ("items", &items)]);
            }
            // The dead tests are in: what is left is at power.
            "end" => break,
            "read" if held("step") == "supply-polarity" => break,
            "read" => {
                let before = now().readings.len();
                let (step, id, pair) = (held("step"), Site::id(), pair(&html));
                let (name, text) = answer(&html, &step);
                let form = [("id", id.as_str()), ("entered_by", "Idris Kell"), ("pair", pair.as_str()), (name, &text)];
                let (status, body) = post("readings", &form);
                assert_eq!(status, StatusCode::OK, "{step}: {body}");
                let job = now();
                assert_eq!(job.readings.len(), before + 1, "{step} is stored once");
                let last = job.readings.last().unwrap();
                let insulation = matches!(last.key.test, Test::Insulation | Test::InsulationJoined);
                assert_eq!(insulation, step.starts_with("ir-"), "{step} is filed as what it is: {:?}", last.key);
            }
            other => panic!("no such card: {other}"),
        }
    }
    finished(&now());
}

fn finished(job: &Job) {
    let of = |way: usize, test: fn(&Test) -> bool| {
        let circuit = job.installation.circuits[way].id;
        job.readings.iter().filter(|one| one.key.subject.circuit() == Some(circuit) && test(&one.key.test)).count()
    };
    assert_eq!([0, 1, 2].map(|way| of(way, |test| *test == Test::Insulation)), [3, 3, 3], "each pair once");
    assert_eq!(of(3, |test| *test == Test::Insulation), 6, "four conductors have six pairs");
    assert_eq!(of(0, |test| *test == Test::RingBoardCheck), 2);
    assert_eq!((of(3, |test| *test == Test::R1Rn), of(3, |test| *test == Test::R1R2)), (0, 3), "no neutral is read");
    assert!(job.readings.iter().all(|one| one.value != Value::Fail));
    let motor = &job.installation.circuits[3];
    assert!(!motor.has_neutral());
    let polarity = proof_work::plan::polarity::polarity(
        &job.installation,
        motor,
        &proof_job::reading::CurrentReadings::new(&job.readings, &job.events),
    );
    assert!(polarity.settled(), "three lines read to the CPC earn it: {polarity:?}");
    let board = |one: &Subject| matches!(one, Subject::Place { place: Place::Board, .. });
    assert!(job.readings.iter().any(|one| board(&one.key.subject)));
}

/// The button that was pressed is what is stored; words beside it are not lost.
#[test]
fn pass_and_fail_store_what_they_say() {
    let site = site();
    let (_, path) = site.way(crate::site::HALF, "6");
    for (typed, outcome, stored) in
        [("", "pass", Value::Pass), ("", "fail", Value::Fail), ("pass", "fail", Value::Fail)]
    {
        let id = Site::id();
        let form =
            [("step", "polarity"), ("typed", typed), ("outcome", outcome), ("id", &id), ("entered_by", "Maud Ferrow")];
        let (status, body) = site.post(&format!("{path}/readings"), &form);
        assert_eq!(status, StatusCode::OK, "{body}");
        assert_eq!(site.job(crate::site::HALF).readings.last().unwrap().value, stored, "{typed} {outcome}");
    }
    let before = site.job(crate::site::HALF).readings.len();
    let id = Site::id();
    let form = [("step", "polarity"), ("typed", "lim sealed"), ("outcome", "pass"), ("id", &id), ("entered_by", "M")];
    let (status, body) = site.post(&format!("{path}/readings"), &form);
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(body.contains("value=\"lim sealed\""), "what was typed is kept");
    assert_eq!(site.job(crate::site::HALF).readings.len(), before);
}

/// The page of a circuit tells what does not bear the test voltage, as the card of the run does.
#[test]
fn a_circuits_page_names_what_does_not_bear_the_test_voltage() {
    let site = site();
    site.post("/jobs", &[("reference", "W-2"), ("title", "Bindery"), ("board", "DB1"), ("lines", "single")]);
    let id = site.store.jobs("W-2", 1).unwrap()[0].id;
    let board = site.store.job(id).unwrap().job.installation.boards[0].id;
    let line = "1 radial RCBO B16/30 6kA 2.5/1.5 20m 1pt ref C N1 E1 \"Nipping press\"";
    site.post(&format!("/jobs/{id}/boards/{board}/circuits"), &[("line", line), ("told", "1"), ("then", "more")]);
    let circuit = site.store.job(id).unwrap().job.installation.circuits[0].id;
    let page = site.get(&format!("/jobs/{id}/circuits/{circuit}?at=ir-e-l"));
    let hook = &page[page.find("class=\"hook\"").unwrap()..];
    assert!(hook[..hook.find("</div>").unwrap()].contains("the RCBO off"), "{}", &hook[..400]);
}
