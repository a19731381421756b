//! The card before use: once a day and job, by the person who writes.

use crate::site::{HALF, Site, site};
use actix_web::http::StatusCode;
use actix_web::http::header::ContentType;
use actix_web::test::TestRequest;
use proof_job::site::EventKind;

fn asked(site: &Site, cookie: &str) -> String {
    let path = format!("/jobs/{}/run", site.jobs[HALF].id);
    let request = TestRequest::get().uri(&path).insert_header(("cookie", cookie));
    String::from_utf8_lossy(&site.ask(request).1).into_owned()
}

fn answered(site: &Site, form: &[(&str, &str)]) -> (StatusCode, String) {
    let path = format!("/jobs/{}/run/answer", site.jobs[HALF].id);
    let form: Vec<(&str, &str)> = form.iter().copied().chain([("what", "today")]).collect();
    let body = serde_urlencoded::to_string(form).unwrap();
    let request = TestRequest::post().uri(&path).insert_header(ContentType::form_url_encoded()).set_payload(body);
    let (status, body) = site.ask(request);
    (status, String::from_utf8_lossy(&body).into_owned())
}

const CARD: &str = "Before use, today";

#[test]
fn it_is_asked_once_a_day_of_each_person_and_then_shown() {
    let site = site();
    let page = asked(&site, "writer=Idris+Kell");
    assert!(page.contains(CARD) && page.contains("value=\"Idris Kell\""), "{page}");
    assert!(page.contains("selected>MFT-2"), "the only instrument in date is offered");
    assert!(!page.contains("id=\"entry\""), "one card at a time");
    let (status, refused) = answered(&site, &[("found", "right"), ("by", ""), ("read_by", "Odile Wren")]);
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused.contains(CARD) && refused.contains("value=\"Odile Wren\""), "what was typed is kept: {refused}");
    let mft = site.jobs[HALF].instruments[0].id.to_string();
    let form = [("found", "right"), ("by", "Idris Kell"), ("read_by", "Odile Wren"), ("instrument", mft.as_str())];
    let (status, next) = answered(&site, &form);
    assert_eq!(status, StatusCode::OK);
    assert!(!next.contains(CARD), "{next}");
    let job = site.job(HALF);
    let EventKind::BeforeUse { instrument, read_by, wrong } = &job.events.last().unwrap().kind else { panic!() };
    assert_eq!((instrument.map(|id| id.to_string()), read_by.as_str(), wrong.as_str()), (Some(mft), "Odile Wren", ""));
    assert!(!asked(&site, "writer=Idris+Kell").contains(CARD));
    assert!(asked(&site, "writer=Odile+Wren").contains(CARD), "another person is asked too");
    assert!(asked(&site, "").contains(CARD), "and who has no name yet");
}

#[test]
fn it_can_be_put_off_and_what_is_not_right_is_said() {
    let site = site();
    let events = site.job(HALF).events.len();
    let (status, page) = answered(&site, &[("found", "later")]);
    assert_eq!((status, page.contains(CARD)), (StatusCode::OK, false));
    assert_eq!(site.job(HALF).events.len(), events, "nothing is written down");
    let (status, page) = answered(&site, &[("found", "wrong"), ("by", "Idris Kell")]);
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(page.contains("Say what is not right"), "{page}");
    let mft = site.jobs[HALF].instruments[0].id.to_string();
    let form = [("found", "wrong"), ("by", "Idris Kell"), ("instrument", mft.as_str()), ("wrong", "battery sign <on>")];
    assert_eq!(answered(&site, &form).0, StatusCode::OK);
    let wrong = site.job(HALF).events.last().unwrap().clone();
    assert!(matches!(wrong.kind, EventKind::BeforeUse { wrong, .. } if wrong == "battery sign <on>"));
    let (status, _) = answered(&site, &[("found", "right"), ("by", "Idris Kell"), ("instrument", &Site::id())]);
    assert_ne!(status, StatusCode::OK, "an instrument that the job does not know");
}

#[test]
fn it_does_not_stand_before_an_earth_that_is_off() {
    use proof_job::site::Event;
    use proof_work::actions::{Recorded, Refusal};
    let site = site();
    assert!(asked(&site, "").contains(CARD));
    let board = site.jobs[HALF].installation.boards[0].id;
    let (id, at) = (uuid::Uuid::new_v4(), jiff::Timestamp::now());
    let exposed = Event::new(id, "Idris Kell", at, EventKind::SupplyExposed { board });
    let taken = Recorded { events: vec![exposed], ..Recorded::default() };
    site.store.record(site.jobs[HALF].id, |_| Ok::<_, Refusal>(taken)).unwrap().unwrap();
    assert!(!asked(&site, "").contains(CARD), "refitting the earth comes first");
}
