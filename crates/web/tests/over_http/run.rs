//! The run, isolation and the put-back list as a program drives them: what is refused, what is
//! logged, what follows from what.

use crate::site::{FINISHED, HALF, SEARCHED, Site, site};
use actix_web::http::StatusCode;
use proof_job::installation::Circuit;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, LeadNull, Origin, Test, Value};
use proof_job::site::{Alteration, BoardState, EventKind, board_state, open_items};
use rust_decimal::dec;
use uuid::Uuid;

impl Site {
    fn run(&self, index: usize) -> String {
        format!("/jobs/{}/run", self.jobs[index].id)
    }

    fn circuit(&self, index: usize, way: &str) -> &Circuit {
        self.jobs[index].installation.circuits.iter().find(|circuit| circuit.way == way).unwrap()
    }

    fn act(&self, index: usize, way: &str, step: &str, what: &str) -> (StatusCode, String) {
        let of = self.circuit(index, way).id.to_string();
        let job = self.job(index);
        let items: Vec<String> = open_items(&job.events).iter().map(|item| item.item.to_string()).collect();
        let items = items.join(",");
        let form =
            [("of", of.as_str()), ("step", step), ("what", what), ("by", "Idris Kell"), ("items", items.as_str())];
        self.post(&format!("{}/act", self.run(index)), &form)
    }

    fn enter(&self, index: usize, way: &str, step: &str, typed: &str) -> (StatusCode, String) {
        let (of, id) = (self.circuit(index, way).id.to_string(), Uuid::new_v4().to_string());
        let form = [("of", of.as_str()), ("step", step), ("typed", typed), ("id", &id), ("entered_by", "Maud Ferrow")];
        self.post(&format!("{}/readings", self.run(index)), &form)
    }
}

#[test]
fn a_dead_test_on_an_energised_board_is_refused_and_from_paper_it_is_taken() {
    let site = site();
    let board = site.jobs[FINISHED].installation.boards[0].id;
    assert_eq!(board_state(&site.job(FINISHED).events, board).0, BoardState::Energised);
    let before = site.job(FINISHED).readings.len();
    let (status, body) = site.enter(FINISHED, "3", "r1", "0.61");
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(body.contains("is energised: this is a dead test") && body.contains("value=\"0.61\""));
    assert_eq!(site.job(FINISHED).readings.len(), before);
    let circuit = site.circuit(FINISHED, "3").id;
    let id = Uuid::new_v4().to_string();
    let form = [
        ("step", "r1"),
        ("typed", "0.61"),
        ("id", &id),
        ("entered_by", "Maud Ferrow"),
        ("paper", "yes"),
        ("paper_on", "2026-01-05"),
    ];
    let path = format!("/jobs/{}/circuits/{circuit}/readings", site.jobs[FINISHED].id);
    assert_eq!(site.post(&path, &form).0, StatusCode::OK);
    let job = site.job(FINISHED);
    let last = job.readings.last().unwrap();
    assert_eq!((last.context.origin, last.context.taken_at), (Origin::Paper, None));
    assert!(open_items(&job.events).is_empty(), "paper alters nothing");
}

#[test]
fn steps_hand_over_and_each_is_logged() {
    let site = site();
    let kinds = |job: &Job| open_items(&job.events).iter().map(|item| item.alteration).collect::<Vec<_>>();
    assert_eq!(kinds(&site.job(HALF)), [Alteration::EndsOut, Alteration::CrossedLegs]);
    let (status, card) = site.act(HALF, "3", "r2-board", "make");
    assert_eq!(status, StatusCode::OK);
    assert!(card.contains("Null the leads: clips"), "made, then the leads");
    let job = site.job(HALF);
    assert_eq!(kinds(&job), [Alteration::EndsOut, Alteration::CrossedLegs], "the cross was made anew");
    let open = open_items(&job.events);
    assert!(open[1].note.contains("CPC"), "{}", open[1].note);
    assert!(matches!(job.events[job.events.len() - 2].kind, EventKind::PutBack { .. }), "the old one is logged");
    // Asked again, the same card makes nothing twice.
    let events = job.events.len();
    site.act(HALF, "3", "r2-board", "make");
    assert_eq!(site.job(HALF).events.len(), events);
    let (_, card) = site.act(HALF, "3", "ir-e-l", "undo");
    assert!(card.contains("id=\"entry\""), "ends and cross are back: insulation may be read");
    assert!(kinds(&site.job(HALF)).is_empty());
}

#[test]
fn only_the_highest_is_written_down_and_the_others_are_walked() {
    let site = site();
    let ring = site.circuit(HALF, "3").clone();
    let of = ring.id.to_string();
    let form = [
        ("of", of.as_str()),
        ("step", "r2-p1"),
        ("typed", "0.19"),
        ("point", "4"),
        ("entered_by", "Maud Ferrow"),
        ("read_by", "Idris Kell"),
    ];
    let (status, _) = site.post(&format!("{}/walked", site.run(HALF)), &form);
    assert_eq!(status, StatusCode::OK);
    let job = site.job(HALF);
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let read: Vec<&Value> = settled
        .standing_of(ring.id)
        .filter(|reading| reading.key.test == Test::R1R2)
        .map(|reading| &reading.value)
        .collect();
    assert_eq!(read.len(), ring.points.len());
    assert_eq!(read.iter().filter(|value| ***value == Value::Walked).count(), ring.points.len() - 1);
    let (highest, point) = proof_job::reading::highest_r1_r2(&ring, &settled).unwrap();
    assert_eq!((highest, point.0), (0.19, 4));
    let polarity = proof_work::plan::polarity::polarity(&job.installation, &ring, &settled);
    assert!(polarity.settled(), "walked is read: {polarity:?}");
}

#[test]
fn the_last_entry_is_taken_back_once() {
    let site = site();
    assert_eq!(site.enter(HALF, "3", "r2-p1", "0.71").0, StatusCode::OK);
    let job = site.job(HALF);
    let last = job.readings.last().unwrap().id;
    let form = [("reading", last.to_string()), ("by", "Maud Ferrow".to_owned())];
    let form: Vec<(&str, &str)> = form.iter().map(|(name, value)| (*name, value.as_str())).collect();
    let path = format!("{}/take-back", site.run(HALF));
    assert_eq!(site.post(&path, &form).0, StatusCode::OK);
    assert_eq!(site.post(&path, &form).0, StatusCode::CONFLICT, "once");
    let job = site.job(HALF);
    assert!(matches!(&job.events.last().unwrap().kind, EventKind::StruckOut { reading, .. } if *reading == last));
    assert!(job.readings.iter().any(|reading| reading.id == last), "struck, not gone");
}

#[test]
fn leads_that_are_subtracted_are_taken_off_what_is_typed() {
    let site = site();
    // The demo's leads: 0.17 Ω through the pins L–E.
    let (status, _) = site.enter(SEARCHED, "3", "r2-p1", "0.42");
    assert_eq!(status, StatusCode::OK);
    let job = site.job(SEARCHED);
    let last = job.readings.last().unwrap();
    assert_eq!((last.typed.as_str(), &last.value), ("0.42", &Value::Number(dec!(0.25))));
    assert_eq!(last.context.null, LeadNull::Subtract { ohm: dec!(0.17) });
    assert_eq!(last.context.pins.as_deref(), Some("L–E"));
    let (status, body) = site.enter(SEARCHED, "3", "r2-p2", "0.05");
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(body.contains("less than the leads alone"));
}

#[test]
fn the_search_says_what_was_tried_and_what_is_off() {
    let site = site();
    let page = site.get(&site.run(SEARCHED));
    for words in ["Insulation fault finding, live joined–E", "way 1 off", "suspect", "neutral out of the bar"] {
        assert!(page.contains(words), "{words}");
    }
    let before = open_items(&site.job(SEARCHED).events).len();
    let board = site.jobs[SEARCHED].installation.boards[0].id.to_string();
    // One neutral goes back before the next is lifted.
    let step = page.split("name=\"step\" value=\"").nth(1).unwrap().split('"').next().unwrap().to_owned();
    let of = [("of", board.as_str()), ("step", step.as_str()), ("what", "undo"), ("by", "Idris Kell")];
    // What the card did not list is not closed.
    site.post(&format!("{}/act", site.run(SEARCHED)), &of);
    assert_eq!(open_items(&site.job(SEARCHED).events).len(), before);
    let items = page.split("name=\"items\" value=\"").nth(1).unwrap().split('"').next().unwrap().to_owned();
    let form: Vec<(&str, &str)> = of.into_iter().chain([("items", items.as_str())]).collect();
    let (_, card) = site.post(&format!("{}/act", site.run(SEARCHED)), &form);
    assert!(card.contains("Make, at the board") && card.contains("neutral N4"), "the next way");
    assert_eq!(open_items(&site.job(SEARCHED).events).len(), before - 1);
}

#[test]
fn what_is_found_behind_a_point_is_drawn_and_can_be_taken_back() {
    let site = site();
    let (circuit, path) = site.way(FINISHED, "3");
    // The demo's spur, listed as if it were a point of the ring.
    let head = site.store.head(site.jobs[FINISHED].id).unwrap();
    let mut job = head.job.clone();
    let ring = job.installation.circuits.iter_mut().find(|one| one.id == circuit.id).unwrap();
    let spur = ring.points.last_mut().unwrap();
    (spur.spur_from, spur.leg_m) = (None, None);
    site.store.save_description(&job, head.revision).unwrap();
    let page = site.page(&path);
    let before = site.job(FINISHED).installation.circuit(circuit.id).unwrap().clone();
    let key =
        page.split("type=\"submit\" name=\"found\"").nth(1).map(|rest| rest.split('"').nth(1).unwrap().to_owned());
    let point = page.split("name=\"point\" value=\"").nth(1).unwrap().split('"').next().unwrap().to_owned();
    let key = key.unwrap_or_else(|| panic!("nothing is offered: {page}"));
    let form = [("found", key.as_str()), ("point", point.as_str()), ("by", "Idris Kell")];
    let nameless = site.post(&format!("{path}/answer"), &[("found", key.as_str()), ("point", point.as_str())]);
    assert!(nameless.0.is_client_error() && nameless.1.contains("Give the name"), "{}", nameless.1);
    assert_eq!(site.post(&format!("{path}/answer"), &form).0, StatusCode::SEE_OTHER);
    let drawn = site.job(FINISHED).installation.circuit(circuit.id).unwrap().clone();
    assert_eq!((drawn.answered.len(), drawn.answered[0].by.as_str()), (1, "Idris Kell"));
    let page = site.page(&path);
    assert!(page.contains("Found, and drawn") && page.contains("Take it back"), "{page}");
    let id = drawn.answered[0].id.to_string();
    assert_eq!(site.post(&format!("{path}/take-back"), &[("answer", id.as_str())]).0, StatusCode::SEE_OTHER);
    assert_eq!(*site.job(FINISHED).installation.circuit(circuit.id).unwrap(), before);
    let (status, body) = site.post(&format!("{path}/take-back"), &[("answer", id.as_str())]);
    assert!(status.is_client_error() && body.contains("taken back already"), "{body}");
    let form = [("found", "spur"), ("point", "77"), ("by", "Idris Kell")];
    let (status, body) = site.post(&format!("{path}/answer"), &form);
    assert!(status.is_client_error() && body.contains("do not say so any more"), "{body}");
}

#[test]
fn a_new_job_begins_with_the_rules_of_the_firm() {
    let site = site();
    site.post("/firm", &[("firm_name", "Ferrow & Kell Electrical")]);
    let (status, _) = site.post("/firm/rules", &[("twin_outlets", "both"), ("sign", "felt")]);
    assert_eq!(status, StatusCode::SEE_OTHER);
    site.post("/jobs", &[("reference", "N-1"), ("title", "New"), ("board", "B"), ("system", "TT")]);
    let jobs = site.store.jobs("N-1", 5).unwrap();
    let job = site.store.job(jobs[0].id).unwrap().job.clone();
    let rules = &job.installation.house_rules;
    assert_eq!(rules.twin_outlets, proof_standard::house_rules::TwinOutlets::Both);
    assert_eq!(rules.sign, proof_standard::house_rules::VerdictSign::Felt);
    let run = site.get(&format!("/jobs/{}/run", job.id));
    assert!(run.contains("data-sign=\"felt\""));
    // Without a circuit nothing is planned, and nothing says that all is in.
    assert!(run.contains("No circuit is described") && !run.contains("Every reading is in"));
    assert!(!run.contains("Every dead test is in"));
}

#[test]
fn a_reading_that_fails_keeps_power_away_when_all_is_read() {
    let site = site();
    assert!(site.get(&site.run(FINISHED)).contains("Every reading is in"));
    let circuit = site.circuit(FINISHED, "5").id;
    let id = Uuid::new_v4().to_string();
    let form = [
        ("step", "ir-e-l"),
        ("typed", "0.25"),
        ("id", &id),
        ("entered_by", "Maud Ferrow"),
        ("paper", "yes"),
        ("paper_on", "2026-01-05"),
    ];
    let path = format!("/jobs/{}/circuits/{circuit}/readings", site.jobs[FINISHED].id);
    assert_eq!(site.post(&path, &form).0, StatusCode::OK);
    let run = site.get(&site.run(FINISHED));
    assert!(run.contains("1 failing") && run.contains("no power before these are mended"));
    assert!(!run.contains("Every reading is in"));
}
