//! Two editors of one job, and registers beside open jobs: what one changed is shown to the other before it is
//! replaced, who adds clashes with nobody, and what was read keeps what stood when it was.

use crate::site::{FINISHED, HALF, Site, site};
use actix_web::http::StatusCode;
use jiff::civil::date;
use proof_judge::finding::Kind;
use proof_standard::house_rules::InstrumentTrust;
use proof_work::review::review;
use std::sync::Barrier;
use uuid::Uuid;

/// The fields of a form as its page has them.
fn fields(page: &str, action: &str) -> Vec<(String, String)> {
    let form = page.split("<form").find(|form| form.contains(&format!("action=\"{action}\""))).expect("the form");
    let form = form.split("</form>").next().unwrap();
    let attribute = |tag: &str, name: &str| {
        let part = tag.split(&format!(" {name}=\"")).nth(1).or_else(|| tag.split(&format!("\n{name}=\"")).nth(1))?;
        let plain = part.split('"').next()?.replace("&#38;", "&").replace("&#34;", "\"").replace("&#39;", "'");
        Some(plain)
    };
    let mut all = Vec::new();
    for tag in form.split('<').skip(1) {
        let name = attribute(tag, "name");
        if tag.starts_with("input") && (!tag.contains("type=\"checkbox\"") || tag.contains(" checked")) {
            all.extend(name.map(|name| (name, attribute(tag, "value").unwrap_or_default())));
        } else if tag.starts_with("textarea") {
            let text = tag.split_once('>').map_or("", |(_, text)| text);
            all.extend(name.map(|name| (name, text.to_owned())));
        } else if tag.starts_with("select") {
            let options = form.split(tag).nth(1).unwrap_or_default().split("</select>").next().unwrap_or_default();
            let chosen = options.split('<').find(|tag| tag.starts_with("option") && tag.contains(" selected"));
            let first = options.split('<').find(|tag| tag.starts_with("option"));
            let value = chosen.or(first).and_then(|tag| attribute(tag, "value")).unwrap_or_default();
            all.extend(name.map(|name| (name, value)));
        }
    }
    assert!(all.iter().any(|(name, _)| name == "revision"), "{action}: {all:?}");
    all
}

fn with(fields: &[(String, String)], changes: &[(&str, &str)]) -> Vec<(String, String)> {
    let mut all: Vec<(String, String)> =
        fields.iter().filter(|(name, _)| !changes.iter().any(|(other, _)| other == name)).cloned().collect();
    all.extend(changes.iter().map(|(name, value)| ((*name).to_owned(), (*value).to_owned())));
    all
}

fn sent(site: &Site, path: &str, form: &[(String, String)]) -> (StatusCode, String) {
    // Each save is one of its own.
    let form: Vec<(&str, &str)> =
        form.iter().filter(|(name, _)| name != "sent").map(|(k, v)| (k.as_str(), v.as_str())).collect();
    site.post(path, &form)
}

#[test]
fn who_edits_another_part_clashes_with_nobody() {
    let site = site();
    let (_, one) = site.way(HALF, "2");
    let (_, other) = site.way(HALF, "3");
    let [one, other] = [one, other].map(|path| format!("{path}/edit"));
    let (first, second) = (fields(&site.page(&one), &one), fields(&site.page(&other), &other));
    assert_eq!(sent(&site, &one, &with(&first, &[("description", "Night lights")])).0, StatusCode::SEE_OTHER);
    let (status, page) = sent(&site, &other, &with(&second, &[("description", "Sewing benches")]));
    assert_eq!(status, StatusCode::SEE_OTHER, "{page}");
    let named: Vec<String> = site.job(HALF).installation.circuits.iter().map(|one| one.description.clone()).collect();
    assert!(named.contains(&"Night lights".to_owned()) && named.contains(&"Sewing benches".to_owned()), "{named:?}");
}

#[test]
fn who_edits_the_same_is_shown_both_and_takes_back_nothing_unseen() {
    let site = site();
    let (circuit, path) = site.way(HALF, "3");
    let path = format!("{path}/edit");
    let shown = fields(&site.page(&path), &path);
    let theirs = with(&shown, &[("description", "Their benches"), ("remarks", "looked at by them")]);
    assert_eq!(sent(&site, &path, &theirs).0, StatusCode::SEE_OTHER);
    let mine = with(&shown, &[("description", "My benches"), ("length", "51")]);
    let (status, page) = sent(&site, &path, &mine);
    assert_eq!(status, StatusCode::CONFLICT);
    for text in ["Their benches", "My benches", "looked at by them", "Somebody changed this meanwhile"] {
        assert!(page.contains(text), "{text}");
    }
    let now = || site.job(HALF).installation.circuit(circuit.id).unwrap().clone();
    assert_eq!(now().description, "Their benches", "nothing of mine is stored yet");
    // The page that was given back, sent as it is: mine where both changed it, theirs where only they did.
    let (status, page) = sent(&site, &path, &fields(&page, &path));
    assert_eq!(status, StatusCode::SEE_OTHER, "{page}");
    let now = now();
    assert_eq!((now.description.as_str(), now.remarks.as_str()), ("My benches", "looked at by them"));
    assert_eq!(now.length_m.map(|m| m.get().to_string()).as_deref(), Some("51"));
}

#[test]
fn a_form_without_its_revision_is_refused() {
    let site = site();
    let job = format!("/jobs/{}", site.jobs[HALF].id);
    let (_, circuit) = site.way(HALF, "3");
    for path in [
        format!("{circuit}/edit"),
        format!("{job}/particulars"),
        format!("{job}/inspection"),
        site.board(HALF),
        format!("{job}/begin"),
    ] {
        let before = site.job(HALF);
        let (status, page) = site.post(&path, &[("name", "Other"), ("way", "3"), ("description", "Other")]);
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{path}");
        assert!(page.contains("load the page again"), "{path}: {page}");
        assert_eq!(site.job(HALF), before, "{path}");
    }
}

/// Circuits, boards, people, instruments, checks of one instrument, all at one moment.
#[test]
fn who_adds_clashes_with_nobody() {
    let site = site();
    let (job, board) = (format!("/jobs/{}", site.jobs[HALF].id), site.board(HALF));
    assert_eq!(site.post("/firm/instruments", &[("instrument_reference", "IR-1"), ("kind", "tester")]).0, 303);
    let checked = site.store.instruments().unwrap()[0].id;
    let before = site.job(HALF).installation;
    let mut forms: Vec<(String, Vec<(&str, String)>)> = Vec::new();
    for number in 0..6 {
        let line = format!("{} radial B16 2.5/1.5 12m 3pts N9 E9 'Added {number}'", 30 + number);
        forms.push((
            format!("{board}/circuits"),
            vec![("line", line), ("told", (30 + number).to_string()), ("then", "more".into())],
        ));
        forms.push((format!("{job}/boards"), vec![("board_name", format!("Board {number}"))]));
        forms.push(("/firm/people".into(), vec![("person_name", format!("Person {number}"))]));
        let instrument = vec![("instrument_reference", format!("MFT-{number}")), ("kind", "tester".into())];
        forms.push(("/firm/instruments".into(), instrument));
        let check =
            [("on", "2026-11-03"), ("of", "continuity"), ("fixed", "1.00"), ("read", "1.01"), ("check_by", "A")];
        let check = check.map(|(name, value)| (name, value.to_owned())).to_vec();
        forms.push((format!("/firm/instruments/{checked}/checks"), check));
    }
    let barrier = Barrier::new(forms.len());
    std::thread::scope(|scope| {
        for (path, form) in &forms {
            let (site, barrier) = (&site, &barrier);
            scope.spawn(move || {
                let form: Vec<(&str, &str)> = form.iter().map(|(name, value)| (*name, value.as_str())).collect();
                barrier.wait();
                let (status, page) = site.post(path, &form);
                assert_eq!(status, StatusCode::SEE_OTHER, "{path}: {page}");
            });
        }
    });
    let now = site.job(HALF).installation;
    assert_eq!(now.circuits.len(), before.circuits.len() + 6);
    assert_eq!(now.boards.len(), before.boards.len() + 6);
    assert_eq!(site.store.people().unwrap().len(), 6);
    let instruments = site.store.instruments().unwrap();
    assert_eq!(instruments.len(), 7);
    assert_eq!(instruments.iter().find(|one| one.id == checked).unwrap().checks.len(), 6);
}

/// A name is looked up in open jobs; what was issued keeps what stood. No job is written for it.
#[test]
fn names_refer_and_what_was_issued_keeps_its_own() {
    let site = site();
    let firm = site.jobs[HALF].firm.clone();
    site.store.set_firm(&firm).unwrap();
    let person = site.jobs[HALF].people[0].clone();
    site.store.save_person(&person).unwrap();
    let at = site.jobs[FINISHED].created_at;
    let key = proof_seal::LockedKey::new(&proof_seal::FirmKey::from_seed(&[7; 32]), "two editors").unwrap();
    site.store.use_key(&proof_seal::KeptKey::Locked(key), "made", "A", "", at).unwrap();
    site.store.key_exported("A", at).unwrap();
    let mut form = vec![("form", "installation"), ("confirm", "yes"), ("passphrase", "two editors")];
    for [name, position] in [
        ["name_design", "position_design"],
        ["name_construction", "position_construction"],
        ["name_inspection", "position_inspection"],
    ] {
        form.extend([(name, "Idris Kell"), (position, "Electrician")]);
    }
    let issued = format!("/jobs/{}/certificate", site.jobs[FINISHED].id);
    let (status, page) = site.post(&issued, &form);
    assert_eq!(status, StatusCode::SEE_OTHER, "{page}");
    let revisions = || [FINISHED, HALF].map(|at| site.store.job(site.jobs[at].id).unwrap().revision);
    let before = revisions();
    site.store.change_firm(|firm| firm.name = "Kell and Daughters".into()).unwrap();
    site.store
        .save_person(&proof_job::installation::Person { name: "Idris Kell-Ferrow".into(), ..person.clone() })
        .unwrap();
    assert_eq!(site.job(HALF).firm.name, "Kell and Daughters");
    assert_eq!(site.job(FINISHED).firm.name, firm.name, "issued: as it stood");
    let named = |index: usize| site.job(index).people.iter().find(|one| one.id == person.id).unwrap().name.clone();
    assert_eq!((named(HALF), named(FINISHED)), ("Idris Kell-Ferrow".to_owned(), person.name));
    assert_eq!(revisions(), before, "no job was written for it");
    // A job of another firm, come with a file, keeps its own.
    let mut other = site.job(2);
    (other.id, other.reference, other.firm.name) = (Uuid::new_v4(), "X-1".into(), "Another firm".into());
    (other.readings, other.events, other.people) = (Vec::new(), Vec::new(), Vec::new());
    site.store.import_job(&other, &proof_job::installation::Documents::new(), at).unwrap();
    let kept = site.store.job(other.id).unwrap();
    assert_eq!(kept.job, other, "as the file says");
    // Worked on here, it is offered the firm's own people, also by the program that read it before.
    let board = other.installation.boards[0].id;
    let lamp = [("what", "altered"), ("alteration", "lamp_out"), ("note", "way 1"), ("by", "A")];
    assert_eq!(site.post(&format!("/jobs/{}/boards/{board}/put-back", other.id), &lamp).0, StatusCode::SEE_OTHER);
    let worked = site.store.job(other.id).unwrap();
    assert!(worked.job.people.iter().any(|one| one.id == person.id), "its people are the firm's too");
    assert_eq!(worked.job.firm.name, "Another firm");
}

/// A new calibration says nothing of what was read under the one before; a slip put right does.
#[test]
fn what_was_read_keeps_the_calibration_that_stood() {
    let site = site();
    let job = site.job(HALF);
    let instrument = job.instruments.iter().find(|one| one.calibration_due.is_some()).unwrap().clone();
    let read_on = job.readings.iter().find_map(|one| one.context.moment()).unwrap();
    let read_on = read_on.to_zoned(jiff::tz::TimeZone::UTC).date();
    let day_before = read_on.yesterday().unwrap();
    // It was out of calibration when it read.
    let expired = proof_job::instrument::Instrument { calibration_due: Some(day_before), ..instrument.clone() };
    site.store.save_instrument(&expired).unwrap();
    let doubtful = || {
        let mut job = site.job(HALF);
        job.installation.house_rules.instruments = InstrumentTrust::Calibration;
        review((&job).into()).iter().any(|finding| finding.kind() == Kind::InstrumentDoubtful)
    };
    assert!(doubtful());
    let path = format!("/firm/instruments/{}", instrument.id);
    let form = |due: &'static str, slip: bool| {
        let mut form = vec![
            ("instrument_reference", instrument.reference.as_str()),
            ("kind", instrument.kind.as_str()),
            ("over_range", "999"),
            ("due", due),
        ];
        if slip {
            form.push(("slip", "yes"));
        }
        form
    };
    assert_eq!(site.post(&path, &form("2031-01-01", false)).0, StatusCode::SEE_OTHER);
    assert!(doubtful(), "calibrated again today, it was still out of calibration then");
    let now = site.store.instruments().unwrap().swap_remove(0);
    assert_eq!(now.calibrated.len(), 1);
    assert_eq!((now.due_on(read_on), now.calibration_due), (Some(day_before), Some(date(2031, 1, 1))));
    // The date was a slip: nothing was read out of calibration.
    site.store.save_instrument(&expired).unwrap();
    assert_eq!(site.post(&path, &form("2031-01-01", true)).0, StatusCode::SEE_OTHER);
    assert!(!doubtful());
}
