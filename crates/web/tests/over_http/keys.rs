//! The passphrase of the signing key: set where there was none, asked, kept open by choice, changed; and what is left of
//! an open key is found by looking through the files, not by asking the program.

use crate::site::{FINISHED, Site, site};
use actix_web::http::StatusCode;
use proof_job::job::Job;
use proof_seal::{FirmKey, KeptKey, LockedKey};
use std::path::Path;
use uuid::Uuid;

const WORDS: &str = "granary and garden studio";

/// A form that signs for all of it.
fn signed<'a>(more: &[(&'a str, &'a str)]) -> Vec<(&'a str, &'a str)> {
    let mut form = vec![("form", "installation"), ("confirm", "yes"), ("because", "asked again")];
    for [name, position] in [
        ["name_design", "position_design"],
        ["name_construction", "position_construction"],
        ["name_inspection", "position_inspection"],
    ] {
        form.extend([(name, "Idris Kell"), (position, "Electrician")]);
    }
    form.extend(more);
    form
}

fn issue(site: &Site, more: &[(&str, &str)]) -> (StatusCode, String) {
    site.post(&format!("/jobs/{}/certificate", site.jobs[FINISHED].id), &signed(more))
}

fn issued(site: &Site) -> usize {
    site.store.certificates(site.jobs[FINISHED].id).unwrap().len()
}

/// The same job under other ids and another reference, so that a database that has it takes it again.
fn anew(job: &Job) -> Job {
    let text = serde_json::to_string(job).unwrap();
    let mut other = String::new();
    for part in text.split('"') {
        let id = Uuid::try_parse(part).ok().filter(|_| part.len() == 36);
        let part = id.map_or(part.to_owned(), |id| Uuid::new_v5(&id, b"anew").to_string());
        other.push_str(&part);
        other.push('"');
    }
    other.pop();
    let mut job: Job = serde_json::from_str(&other).unwrap();
    job.reference = "G-101-ANEW".into();
    job
}

/// The files of a folder that hold some text.
fn holding(folder: &Path, text: &str) -> Vec<String> {
    let files = std::fs::read_dir(folder).unwrap().map(|one| one.unwrap().path());
    let holds = |path: &Path| std::fs::read(path).unwrap().windows(text.len()).any(|window| window == text.as_bytes());
    let mut found: Vec<_> =
        files.filter(|path| holds(path)).map(|path| path.file_name().unwrap().to_str().unwrap().to_owned()).collect();
    found.sort();
    found
}

/// A database from before there were passphrases, as a version of that day wrote it.
#[test]
fn a_key_that_stood_open_is_locked_at_the_next_signing_and_gone_from_the_files() {
    let mut site = Site::frozen();
    let job = anew(&proof_bench::demo::jobs()[0]);
    site.store.create_job(&job).unwrap();
    site.jobs[FINISHED] = job;
    let Some(KeptKey::Plain(key)) = site.store.firm_key().unwrap() else { panic!("kept as it was") };
    let pem = key.to_pem().unwrap();
    let secret = pem.lines().find(|line| !line.starts_with('-')).unwrap();
    let copy = site.folder.path().join("before.db");
    site.store.backup(&copy, jiff::Timestamp::now()).unwrap();
    let moved = site.folder.path().join("moved.db");
    site.store.backup(&moved, jiff::Timestamp::now()).unwrap();
    std::fs::remove_file(&moved).unwrap();
    let held = holding(site.folder.path(), secret);
    assert!(held.iter().any(|name| name == "site.db") && held.iter().any(|name| name == "before.db"), "{held:?}");
    let page = site.page(&format!("/jobs/{}/certificate", site.jobs[FINISHED].id));
    assert!(page.contains("New passphrase of the signing key") && page.contains("name=\"passphrase_again\""));

    let before = issued(&site);
    for (more, told) in [
        (vec![], "10 to 200 characters"),
        (vec![("passphrase", WORDS)], "The two are not the same"),
        (vec![("passphrase", "too short"), ("passphrase_again", "too short")], "10 to 200 characters"),
    ] {
        let (status, page) = issue(&site, &more);
        assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains(told), "{page}");
        assert!(!page.contains(WORDS), "never shown again");
        assert!(page.contains("Idris Kell"), "what else was typed is kept");
    }
    assert_eq!((issued(&site), site.store.firm_key().unwrap().unwrap().is_locked()), (before, false));
    let (status, page) = issue(&site, &[("passphrase", WORDS), ("passphrase_again", WORDS)]);
    assert_eq!(status, StatusCode::SEE_OTHER, "{page}");
    assert_eq!(issued(&site), before + 1);
    let Some(KeptKey::Locked(locked)) = site.store.firm_key().unwrap() else { panic!("locked from now on") };
    assert_eq!(locked.open(WORDS).unwrap().public(), key.public(), "the same key");

    // Gone from database and log; copies that hold it are named, as is one that nobody finds.
    let left = holding(site.folder.path(), secret);
    assert!(!left.iter().any(|name| name == "site.db" || name == "site.db-wal"), "{left:?}");
    let page = site.page("/firm/key");
    for name in left.iter().chain([&"moved.db".to_owned()]) {
        assert!(page.contains(name.as_str()), "{name} is not told");
    }
    assert!(left.len() >= 2, "the copy before the migration, and the one asked for: {left:?}");
    let told = site.store.examine(&site.folder.path().join("site.db")).unwrap();
    assert_eq!(told.iter().filter(|line| line.contains("without a passphrase")).count(), left.len(), "{told:?}");
    // A copy of today holds no open key, and is not named.
    let today = site.folder.path().join("today.db");
    site.store.backup(&today, jiff::Timestamp::now()).unwrap();
    assert!(!site.page("/firm/key").contains("today.db"));
    assert!(!site.folder.path().join("before.db-shm").exists(), "looking into a copy leaves nothing beside it");
}

#[test]
fn a_locked_key_is_asked_for_and_stays_open_by_choice_alone() {
    let site = site();
    let at = site.jobs[FINISHED].created_at;
    let key = LockedKey::new(&FirmKey::from_seed(&[4; 32]), WORDS).unwrap();
    site.store.use_key(&KeptKey::Locked(key), "made", "Idris Kell", "", at).unwrap();
    site.store.key_exported("Idris Kell", at).unwrap();
    for (typed, told) in [("", "Give the passphrase"), ("granary and garden", "does not open this key")] {
        let (status, page) = issue(&site, &[("passphrase", typed)]);
        assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains(told), "{page}");
    }
    assert_eq!(issued(&site), 0);
    assert_eq!(issue(&site, &[("passphrase", WORDS)]).0, StatusCode::SEE_OTHER);
    let (status, _) = issue(&site, &[]);
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "not kept open unasked");
    assert_eq!(issue(&site, &[("passphrase", WORDS), ("keep_open", "yes")]).0, StatusCode::SEE_OTHER);
    let page = site.page(&format!("/jobs/{}/certificate", site.jobs[FINISHED].id));
    assert!(page.contains("open until the program stops") && !page.contains("name=\"passphrase\""));
    assert_eq!(issue(&site, &[]).0, StatusCode::SEE_OTHER);
    assert!(site.page("/firm/key").contains("Close the key now"));
    assert_eq!(site.post("/firm/key/close", &[]).0, StatusCode::SEE_OTHER);
    assert_eq!(issue(&site, &[]).0, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(issued(&site), 3);
    // Another program over the same database does not have it open.
    issue(&site, &[("passphrase", WORDS), ("keep_open", "yes")]);
    let other = Site { shared: proof_web::Shared::new(site.store.clone()), ..site };
    assert_eq!(issue(&other, &[]).0, StatusCode::UNPROCESSABLE_ENTITY);
}

#[test]
fn another_passphrase_takes_the_place_of_the_one_before() {
    let site = site();
    let at = site.jobs[FINISHED].created_at;
    let key = FirmKey::from_seed(&[4; 32]);
    site.store.use_key(&KeptKey::Plain(key.clone()), "restored", "Idris Kell", "", at).unwrap();
    let change = |before: &str, now: &str, again: &str| {
        let form =
            [("by", "Idris Kell"), ("passphrase_before", before), ("passphrase", now), ("passphrase_again", again)];
        site.post("/firm/key/passphrase", &form)
    };
    assert!(site.page("/firm/key").contains("none yet"));
    let (status, page) = change("", WORDS, "granary");
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains("The two are not the same"), "{page}");
    assert_eq!(change("", WORDS, WORDS).0, StatusCode::SEE_OTHER);
    let (status, page) = change("not this one", "another of the kind", "another of the kind");
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains("does not open this key"), "{page}");
    assert_eq!(change(WORDS, "another of the kind", "another of the kind").0, StatusCode::SEE_OTHER);
    let Some(KeptKey::Locked(locked)) = site.store.firm_key().unwrap() else { panic!("locked") };
    assert!(locked.open(WORDS).is_err());
    assert_eq!(locked.open("another of the kind").unwrap().public(), key.public());
    let record: Vec<_> = site.store.key_record().unwrap().into_iter().map(|one| (one.what, one.reason)).collect();
    let said = |what: &str, reason: &str| (what.to_owned(), reason.to_owned());
    assert_eq!(record, [said("locked", ""), said("locked", "it had none before"), said("restored", "")]);
    // What is exported opens with the new one.
    let (_, pem) = site.post("/firm/key/export", &[("by", "Idris Kell")]);
    assert!(LockedKey::from_pem(&pem, "another of the kind").is_ok());
}
