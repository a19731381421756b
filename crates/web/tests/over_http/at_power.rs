//! The run at power, by its forms: covers first, one way or all, readings in the same card.

use crate::site::{FINISHED, Site, site};
use actix_web::http::StatusCode;
use proof_job::job::Job;
use proof_job::site::{BoardState, EventKind, Wanted};
use uuid::Uuid;

/// The finished job with its dead tests, its supply polarity and Ze in, and everything put back.
fn before_power(site: &Site) -> Job {
    let mut job = site.jobs[FINISHED].clone();
    (job.id, job.reference) = (Uuid::from_u128(77), "G-301".into());
    let at_power = job.events.iter().position(|event| matches!(event.kind, EventKind::Energised { .. })).unwrap();
    job.events.truncate(at_power);
    job.readings.retain(|reading| Wanted::for_key(&reading.key) != Wanted::Live);
    for reading in &mut job.readings {
        reading.id = Uuid::new_v5(&job.id, reading.id.as_bytes());
    }
    for event in &mut job.events {
        event.id = Uuid::new_v5(&job.id, event.id.as_bytes());
    }
    site.store.create_job(&job).unwrap();
    job
}

#[test]
fn one_way_comes_to_power_then_the_rest_and_its_card_asks_for_the_reading() {
    let site = site();
    let job = before_power(&site);
    let (board, ways) = (job.installation.boards[0].id, &job.installation.circuits);
    let run = format!("/jobs/{}/run", job.id);
    let page = site.get(&run);
    assert!(page.contains("Power on: Press room board") && page.contains("Caution"), "{page}");
    assert!(page.contains("Only Way 1 Press room lights is"), "{page}");
    let all: Vec<String> = ways.iter().map(|way| way.id.to_string()).collect();
    let (board_text, all_text) = (board.to_string(), all.join(","));
    let form = |more: &[(&'static str, &'static str)]| {
        let mut form = vec![
            ("board", board_text.as_str()),
            ("all", all_text.as_str()),
            ("one", all[0].as_str()),
            ("by", "Maud Ferrow"),
            ("word", "Idris Kell"),
        ];
        form.extend_from_slice(more);
        site.post(&format!("{run}/energise"), &form)
    };
    let live = || {
        let job = site.store.job(job.id).unwrap().job.clone();
        let on = |way: &&proof_job::installation::Circuit| job.site().circuit(board, way.id).0 == BoardState::Energised;
        job.installation.circuits.iter().filter(on).count()
    };
    let (status, page) = form(&[("ways", "one")]);
    assert!(status == StatusCode::CONFLICT && page.contains("say that the covers are on"), "{status}");
    assert_eq!(live(), 0);
    let (status, page) = form(&[("ways", "one"), ("covers", "yes")]);
    assert_eq!(status, StatusCode::OK, "{page}");
    assert_eq!(live(), 1, "the others wait their turn");
    assert!(page.contains("Zs, far point") && page.contains("Best at") && page.contains("No-trip range"), "{page}");
    assert!(page.contains("Why this test"), "{page}");
    let step = [("of", all[0].as_str()), ("step", "zs"), ("typed", "1.02 ohm"), ("entered_by", "Maud Ferrow")];
    let id = Site::id();
    let (status, page) = site.post(&format!("{run}/readings"), &[&step[..], &[("id", id.as_str())]].concat());
    assert_eq!(status, StatusCode::OK, "{page}");
    assert!(page.contains("Reset the device before the next test"), "the RCD is next: {page}");
    // A reading of a way that is off asks for its power first.
    let page = site.get(&format!("{run}?of={}&at=zs", all[2]));
    assert!(page.contains("Power on") && !page.contains("id=\"entry\""), "{page}");
    assert_eq!(form(&[("ways", "all"), ("covers", "yes")]).0, StatusCode::OK);
    assert_eq!(live(), ways.len());
    // Nonsense energises nothing and breaks nothing.
    let nobody =
        site.post(&format!("{run}/energise"), &[("board", "x"), ("ways", "all"), ("covers", "yes"), ("by", "A")]);
    assert!(nobody.0.is_client_error(), "{}", nobody.0);
}

#[test]
fn what_each_house_rule_changes_is_said_at_once() {
    let site = site();
    let job = format!("/jobs/{}", site.jobs[FINISHED].id);
    let effect = |query: &str| site.get(&format!("{job}/rules/effect?{query}"));
    assert!(effect("zs_at=every").contains("readings"), "{}", effect("zs_at=every"));
    assert!(effect("leads=every_test").contains("nulls"), "{}", effect("leads=every_test"));
    assert_eq!(effect("sign=heard"), "Changes nothing in this job as it stands.");
    assert_eq!(effect("sign=seen"), "As it is in this job.");
    assert_eq!(effect("bananas=1"), "");
    assert_eq!(effect("sign=bananas"), "Changes nothing in this job as it stands.");
    let page = site.get(&format!("{job}/rules"));
    for rule in proof_standard::house_rules::RULES {
        assert!(page.contains(rule.question), "{}", rule.question);
    }
}
