//! One circuit isolated alone, a board found in use, ways left dead: the pages that say so.

use crate::site::{FINISHED, Site, site};
use actix_web::http::StatusCode;
use proof_job::installation::Nature;
use proof_job::site::{BoardState, EventKind};
use uuid::Uuid;

/// What the form of an isolation says, whatever is isolated.
const PROVED: [(&str, &str); 8] = [
    ("locked", "yes"),
    ("before", "yes"),
    ("after", "yes"),
    ("lock", "padlock 8"),
    ("by", "Maud Ferrow"),
    ("v-l-n", "0"),
    ("v-l-e", "0"),
    ("v-n-e", "0"),
];

/// The demo's finished job as an addition whose origin is left as it was, of which nothing is known yet.
fn stood() -> (Site, usize) {
    let mut site = site();
    let mut job = site.jobs[FINISHED].clone();
    (job.id, job.reference) = (Uuid::new_v4(), "T-2".into());
    job.readings.clear();
    job.events.clear();
    job.installation.nature = Nature::Addition;
    job.installation.origin_altered = Some(false);
    site.store.create_job(&job).unwrap();
    site.jobs.push(job);
    let index = site.jobs.len() - 1;
    (site, index)
}

fn paths(site: &Site, index: usize) -> (String, String, Uuid, Uuid) {
    let job = &site.jobs[index];
    let (board, way) = (job.installation.boards[0].id, job.installation.circuits[6].id);
    (format!("/jobs/{}", job.id), format!("/jobs/{}/boards/{board}", job.id), board, way)
}

#[test]
fn one_way_alone_is_isolated_and_said_on_every_page() {
    let (site, index) = stood();
    let (job, board, id, way) = paths(&site, index);
    assert!(site.page(&board).contains("Isolate this way only"));
    let page = site.page(&format!("{board}/isolate?way={way}"));
    for words in
        ["the rest of the board stays live", "dead tests can be taken", "Point of work", "breaks the neutral too"]
    {
        assert!(page.contains(words), "{words}");
    }
    assert_eq!(site.status(&format!("{board}/isolate?way={}", Uuid::new_v4())), StatusCode::NOT_FOUND);
    let way_said = way.to_string();
    let mut form = [&PROVED[..], &[("way", way_said.as_str())]].concat();
    let (status, body) = site.post(&format!("{board}/isolate"), &form);
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(body.contains("Say where it is proved dead") && body.contains("padlock 8"), "what was typed is kept");
    form.push(("place", "bench 2 <b>"));
    assert_eq!(site.post(&format!("{board}/isolate"), &form).0, StatusCode::SEE_OTHER);
    let stored = site.job(index);
    let kinds: Vec<&EventKind> = stored.events.iter().map(|event| &event.kind).collect();
    assert!(matches!(kinds[..], [EventKind::InUse { .. }, EventKind::Isolated { .. }, EventKind::ProvedDead { .. }]));
    assert_eq!(stored.site().board(id).0, BoardState::Energised);
    let overview = site.page(&job);
    assert!(
        overview.contains("way 7 isolated alone, proved dead at bench 2 &#60;b&#62;; the rest is live"),
        "{overview}"
    );
    // The run goes on with what can be taken so, at the point of work.
    let run = site.page(&format!("{job}/run?of={way}&at=ir-e-l"));
    assert!(run.contains("read at the point of work: the board is live"), "{run}");
}

#[test]
fn a_board_found_in_use_is_said_once_and_only_where_it_stood() {
    let (site, index) = stood();
    let (_, board, id, _) = paths(&site, index);
    assert!(site.page(&board).contains("Found energised and in use"));
    let nobody = site.post(&format!("{board}/in-use"), &[]);
    assert!(nobody.0.is_client_error(), "{}", nobody.1);
    let by = [("by", "Maud Ferrow")];
    assert_eq!(site.post(&format!("{board}/in-use"), &by).0, StatusCode::SEE_OTHER);
    assert_eq!(site.job(index).site().board(id).0, BoardState::Energised);
    assert_eq!(site.post(&format!("{board}/in-use"), &by).0, StatusCode::CONFLICT, "it is known");
    assert!(!site.page(&board).contains("Found energised and in use"));
}

#[test]
fn a_whole_board_is_left_dead_with_lock_and_reason() {
    let (site, index) = stood();
    let (job, board, ..) = paths(&site, index);
    let isolated = [&PROVED[..], &[("loads", "yes")]].concat();
    assert_eq!(site.post(&format!("{board}/isolate"), &isolated).0, StatusCode::SEE_OTHER);
    let (status, body) = site.post(&format!("{board}/leave-dead"), &[("whole", "yes"), ("by", "Maud Ferrow")]);
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(body.contains("name the lock") && body.contains("Say what it waits for"), "{body}");
    let whole = [("whole", "yes"), ("by", "Maud Ferrow"), ("lock", "padlock 8"), ("reason", "studio in spring")];
    assert_eq!(site.post(&format!("{board}/leave-dead"), &whole).0, StatusCode::SEE_OTHER);
    let stored = site.job(index);
    assert_eq!(stored.site().left_dead().len(), stored.installation.circuits.len());
    let certificate = site.page(&format!("{job}/certificate"));
    assert!(certificate.contains("the whole of Press room board") && certificate.contains("studio in spring"));
    let (status, bytes) = site.ask(actix_web::test::TestRequest::get().uri(&format!("{board}/paper/handover.pdf")));
    assert!(status.is_success() && bytes.starts_with(b"%PDF-"));
}
