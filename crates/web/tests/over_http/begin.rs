//! The way in, jobs begun from patterns, a circuit in a line, and what is withdrawn.

use crate::site::{HALF, Site, empty, site};
use actix_web::http::StatusCode;
use proof_standard::quantity::{Metres, SquareMillimetres};
use std::collections::HashSet;
use uuid::Uuid;

fn sent() -> String {
    Uuid::new_v4().to_string()
}

fn first(sent: &str) -> Vec<(&'static str, String)> {
    [
        ("firm_name", "Wren Electrical"),
        ("firm_address", "9 Ropewalk"),
        ("person_name", "Odile Wren"),
        ("person_position", "Electrician"),
        ("instrument_reference", "MFT-9"),
        ("kind", "multifunction tester"),
        ("due", "2031-04-30"),
        ("over_range", "299"),
        ("passphrase", "nine rope walks"),
        ("passphrase_again", "nine rope walks"),
    ]
    .into_iter()
    .map(|(name, value)| (name, value.to_owned()))
    .chain([("sent", sent.to_owned())])
    .collect()
}

fn post(site: &Site, path: &str, form: &[(&'static str, String)]) -> (StatusCode, String) {
    let form: Vec<(&str, &str)> = form.iter().map(|(name, value)| (*name, value.as_str())).collect();
    site.post(path, &form)
}

/// Every field of the page that proposes, as a browser would send it back.
fn proposed(page: &str) -> Vec<(String, String)> {
    let attribute = |tag: &str, name: &str| {
        let at = tag.find(&format!("{name}=\""))? + name.len() + 2;
        Some(tag[at..].split('"').next()?.replace("&#38;", "&").replace("&#39;", "'"))
    };
    let form = &page[page.find("action=\"/jobs/").unwrap()..];
    let mut fields = Vec::new();
    for tag in form.split('<') {
        if let (true, Some(name)) =
            (tag.starts_with("input"), attribute(tag, " name").or_else(|| attribute(tag, "\nname")))
        {
            fields.push((name, attribute(tag, "value").unwrap_or_default()));
        }
        if let (true, Some(name)) = (tag.starts_with("select"), attribute(tag, "name")) {
            fields.push((name, String::new()));
        }
        if let (true, Some((name, _))) = (tag.contains("selected"), fields.last().cloned()) {
            let value = attribute(tag, "value").unwrap_or_default();
            if let Some(last) = fields.last_mut() {
                *last = (name, value);
            }
        }
    }
    let extent = form.find("name=\"extent\"").map(|at| form[at..].split(">\n").nth(1).unwrap_or_default());
    fields.extend(extent.map(|text| ("extent".to_owned(), text.split("</").next().unwrap_or_default().to_owned())));
    fields
}

#[test]
fn an_empty_database_begins_with_who_and_what() {
    let site = empty();
    assert!(site.page("/").contains("Say who you are"));
    let id = sent();
    let mut wrong = first(&id);
    wrong.retain(|(name, _)| *name != "firm_name");
    wrong.push(("firm_name", String::new()));
    let (status, page) = post(&site, "/first", &wrong);
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(page.contains("Give the name that stands on certificates") && page.contains("value=\"9 Ropewalk\""));
    assert!(!page.contains("nine rope walks"), "a passphrase is not shown again");
    for (again, told) in [("nine rope walk", "The two are not the same"), ("short", "10 to 200 characters")] {
        let mut wrong = first(&id);
        let field = if again == "short" { "passphrase" } else { "passphrase_again" };
        wrong.iter_mut().filter(|(name, _)| *name == field).for_each(|(_, value)| *value = again.into());
        let (status, page) = post(&site, "/first", &wrong);
        assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains(told), "{page}");
    }
    assert!(site.store.firm_key().unwrap().is_none(), "nothing of it is stored");
    assert!(site.store.people().unwrap().is_empty());
    assert_eq!(post(&site, "/first", &first(&id)).0, StatusCode::SEE_OTHER);
    assert_eq!(post(&site, "/first", &first(&id)).0, StatusCode::SEE_OTHER, "sent twice");
    assert_eq!((site.store.people().unwrap().len(), site.store.instruments().unwrap().len()), (1, 1));
    assert!(site.store.firm_key().unwrap().unwrap().is_locked(), "never stored open");
    assert!(!site.store.key_backed_up().unwrap());
    assert_eq!(site.store.instruments().unwrap()[0].over_range_mohm.to_string(), "299");
    // Another who had the page open at the same time takes nothing over.
    let mut late = first(&sent());
    late.iter_mut().filter(|(name, _)| *name == "firm_name").for_each(|(_, value)| *value = "Other".into());
    let (status, page) = post(&site, "/first", &late);
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(page.contains("somebody has begun here meanwhile"));
    assert_eq!(site.store.firm().unwrap().name, "Wren Electrical");
    let page = site.page("/");
    assert!(page.contains("Export the signing key") && page.contains("Begin the first job"));
    let (status, _) = site.post("/firm/key/export", &[("by", "Odile Wren")]);
    assert_eq!(status, StatusCode::OK);
    assert!(!site.page("/").contains("Export the signing key"));
}

#[test]
fn a_pattern_proposes_and_stores_when_it_is_confirmed() {
    let site = empty();
    let form = [
        ("reference", "J-1"),
        ("title", "House"),
        ("client", "A"),
        ("site", "B"),
        ("nature", "new"),
        ("premises", "dwelling"),
        ("system", "TN-C-S"),
        ("lines", "single"),
        ("board", "Hall board"),
        ("from", "house-and-outbuilding"),
    ];
    assert_eq!(site.post("/jobs", &form).0, StatusCode::SEE_OTHER);
    let job = site.store.jobs("", 10).unwrap()[0].id;
    assert!(site.store.job(job).unwrap().job.installation.boards.is_empty(), "proposed is not stored");
    let path = format!("/jobs/{job}/begin");
    let page = site.page(&format!("{path}?from=house-and-outbuilding&board=Hall+board"));
    assert!(page.contains("Hall board") && page.contains("Nothing is stored yet"));
    let mut fields = proposed(&page);
    let set = |fields: &mut Vec<(String, String)>, name: &str, value: &str| {
        fields.retain(|(other, _)| other != name);
        fields.push((name.to_owned(), value.to_owned()));
    };
    let send = |fields: &[(String, String)]| {
        let form: Vec<(&str, &str)> = fields.iter().map(|(name, value)| (name.as_str(), value.as_str())).collect();
        site.post(&path, &form)
    };
    set(&mut fields, "b0c1_words", "fixed RCBO B33 6/2.5");
    set(&mut fields, "b0c2_m", "62");
    set(&mut fields, "b1c1_way", "");
    let (status, page) = send(&fields);
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(page.contains("breakers are rated") && page.contains("value=\"62\""), "told, and what was typed is kept");
    assert!(site.store.job(job).unwrap().job.installation.boards.is_empty(), "and nothing is stored");
    set(&mut fields, "b0c1_words", "fixed RCBO B32 6kA 6/2.5 ref C");
    assert_eq!(send(&fields).0, StatusCode::SEE_OTHER);
    assert_eq!(send(&fields).0, StatusCode::SEE_OTHER, "sent twice it is stored once");
    // A second person with the same proposal open does not describe it all again.
    let mut second = fields.clone();
    set(&mut second, "sent", &sent());
    let (status, page) = send(&second);
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(page.contains("somebody described this job meanwhile"));
    let installation = site.store.job(job).unwrap().job.installation.clone();
    assert_eq!(
        installation.boards.iter().map(|one| one.name.as_str()).collect::<Vec<_>>(),
        ["Hall board", "Outbuilding board"]
    );
    assert_eq!(installation.circuits.len(), 9, "a way that was emptied is not there");
    let ring = installation.circuits.iter().find(|one| one.way == "3").unwrap();
    assert_eq!(ring.length_m.map(Metres::get), Some(62.0));
    let fed = installation.boards[1].fed_by;
    let feeder = installation.circuits_on(installation.boards[0].id).find(|one| one.way == "1").unwrap();
    assert_eq!(fed, proof_job::installation::Feed::Circuit { circuit: feeder.id });
    assert_eq!(
        installation.supply.earthing_mm2.map(SquareMillimetres::get),
        Some(16.0),
        "worked out from the tails, and confirmed"
    );
    assert_eq!(installation.supply.bonds.len(), 1);
    // Kept as the firm's own, and begun from again.
    let keep = format!("/jobs/{job}/pattern");
    assert_eq!(site.post(&keep, &[("pattern", "Our house"), ("sent", &sent())]).0, StatusCode::SEE_OTHER);
    assert_eq!(site.post(&keep, &[("pattern", "Our house"), ("sent", &sent())]).0, StatusCode::CONFLICT);
    let own = site.store.patterns().unwrap();
    assert_eq!((own.len(), own[0].boards.len()), (1, 2));
    assert!(site.page("/jobs/new").contains("Our house"));
    assert!(site.page(&format!("{path}?from={}", own[0].id)).contains("Outbuilding sockets"));
    let remove = format!("/firm/patterns/{}/remove", own[0].id);
    assert_eq!(site.post(&remove, &[("sent", &sent())]).0, StatusCode::SEE_OTHER);
    assert_eq!(site.post(&remove, &[("sent", &sent())]).0, StatusCode::NOT_FOUND);
    assert_eq!(site.status(&format!("{path}?from={}", own[0].id)), StatusCode::NOT_FOUND);
}

#[test]
fn a_line_is_completed_visibly_and_stored_when_it_is_added() {
    let site = site();
    let board = site.board(HALF);
    let path = format!("{board}/circuits");
    let before = site.job(HALF).installation.circuits.len();
    let (status, page) = site.post(&path, &[("line", "9 ring 7pts Landing"), ("then", "more"), ("sent", &sent())]);
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(page.contains("9 ring 7pts Landing RCBO B32 6kA 2.5/1.5 ref C N9 E9"), "the line as it would be");
    assert!(page.contains("Proposed, not stored"));
    assert_eq!(site.job(HALF).installation.circuits.len(), before);
    let whole = "9 ring 7pts Landing RCBO B32 6kA 2.5/1.5 ref C N9 E9";
    let (status, _) = site.post(&path, &[("line", whole), ("then", "more"), ("sent", &sent())]);
    assert_eq!(status, StatusCode::SEE_OTHER);
    let added = site.job(HALF).installation.circuits.iter().find(|one| one.way == "9").unwrap().clone();
    assert!(site.page(&format!("{board}?added={}", added.id)).contains("Added: way 9 Landing"));
    let (_, page) = site.post(&path, &[("line", "10 rng B32 2.5/1.5"), ("then", "more")]);
    assert!(page.contains("Is it ring?") && page.contains("value=\"10 rng B32 2.5/1.5\""));
}

#[test]
fn a_circuit_added_by_mistake_is_withdrawn_once_nothing_of_it_stands() {
    let site = site();
    let job = site.job(HALF);
    let read: HashSet<Uuid> = job.readings.iter().filter_map(|one| one.key.subject.circuit()).collect();
    let unread = job.installation.circuits.iter().find(|one| !read.contains(&one.id)).unwrap().clone();
    let known = job.installation.circuits.iter().find(|one| read.contains(&one.id)).unwrap().clone();
    let path = |id: Uuid| format!("/jobs/{}/circuits/{id}/withdraw", job.id);
    let form =
        |reason: &'static str| [("reason", reason.to_owned()), ("by", "Odile Wren".to_owned()), ("sent", sent())];
    let (status, page) = post(&site, &path(known.id), &form("twice"));
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(page.contains("not struck out"), "{page}");
    assert_eq!(post(&site, &path(unread.id), &form("")).0, StatusCode::CONFLICT);
    assert_eq!(post(&site, &path(unread.id), &form("written twice")).0, StatusCode::SEE_OTHER);
    let now = site.job(HALF);
    assert!(now.installation.circuit(unread.id).is_none() && now.installation.circuit_ever(unread.id).is_some());
    let page = site.page(&format!("/jobs/{}", job.id));
    assert!(page.contains("Withdrawn") && page.contains("written twice; Odile Wren"));
    assert_eq!(site.status(&format!("/jobs/{}/circuits/{}", job.id, unread.id)), StatusCode::NOT_FOUND);
    let file = site.page(&format!("/jobs/{}/job.json", job.id));
    assert!(file.contains("\"withdrawn\""), "kept in the file");
}

/// The stages of a job say what is left in each, and nothing is left of one that is finished.
#[test]
fn the_stages_say_what_is_left() {
    let site = site();
    let left = |index: usize| site.page(&format!("/jobs/{}/left?here=Run", site.jobs[index].id));
    let (finished, half) = (left(crate::site::FINISHED), left(HALF));
    assert_eq!(finished.matches('✓').count(), 5, "all but the certificate, which is not issued here: {finished}");
    assert!(
        half.contains("Inspection <span class=\"left-word\">")
            || half.contains("Inspection <span\nclass=\"left-word\">")
    );
    assert!(half.contains("aria-current=\"page\"") && !half.contains("hx-get"), "asked for once");
    site.post("/jobs", &[("reference", "N-1"), ("title", "New"), ("board", "B")]);
    let new = site.store.jobs("N-1", 1).unwrap()[0].id;
    let left = site.page(&format!("/jobs/{new}/left?here=Run"));
    assert!(!left.contains('✓'), "nothing is done where there is nothing to do yet: {left}");
    assert_eq!(
        site.page(&format!("/jobs/{new}")).matches("nothing asked").count(),
        1,
        "dead tests; a board has its own live ones"
    );
}
