//! The store as its users meet it, and as somebody with a bare connection would.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::installation::Firm;
use proof_job::reading::{CurrentReadings, Reading, Value};
use proof_job::site::{Event, EventKind};
use proof_seal::{FirmKey, Issued, KeptKey, Seal, Statement};
use proof_store::{CertificateQuery, Differs, Papers, Status, Store, StoreError};
use proof_work::actions::Recorded;
use proof_work::certificate::{Certificate, Form};
use rusqlite::Connection;
use std::path::PathBuf;
use tempfile::TempDir;
use uuid::Uuid;

fn store() -> (TempDir, PathBuf, Store) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("proof.db");
    let store = Store::open(&path).unwrap();
    (folder, path, store)
}

fn filled() -> (TempDir, PathBuf, Store) {
    let (folder, path, store) = store();
    for job in demo::jobs() {
        store.create_job(&job).unwrap();
    }
    (folder, path, store)
}

#[allow(clippy::unnecessary_wraps)] // the store asks for what may fail
fn sealed(
    certificate: &Certificate,
    issued: &Issued,
    _: &proof_job::installation::Documents,
    key: &FirmKey,
) -> Result<Papers, std::convert::Infallible> {
    let statement = Statement {
        number: certificate.number.clone(),
        issued_at: certificate.issued_at,
        replaces: String::new(),
        certificate_sha256: issued.digest.clone(),
        job_sha256: issued.job_digest.clone(),
        key: key.public().fingerprint(),
        demonstration: false,
    };
    Ok(Papers { seal: Seal::new(statement, key), pdf: b"%PDF".to_vec(), job_file: b"{}".to_vec() })
}

/// Issues with a key that is made when there is none.
fn issue(store: &Store, job: uuid::Uuid) -> proof_store::Result<Result<Issued, proof_work::certificate::NotIssued>> {
    if store.firm_key()?.is_none() {
        let key = KeptKey::Plain(FirmKey::from_seed(&[5; 32]));
        store.use_key(&key, "made", "Maud Ferrow", "", Timestamp::UNIX_EPOCH)?;
        store.key_exported("Maud Ferrow", Timestamp::UNIX_EPOCH)?;
    }
    let because = "a figure was written wrongly".to_owned();
    let asked = CertificateQuery { form: Form::Installation, signatures: demo::signed(&[]), because };
    store.issue_certificate(job, asked, &FirmKey::from_seed(&[5; 32]), Timestamp::UNIX_EPOCH, sealed)
}

#[test]
fn jobs_go_in_and_out_whole() {
    let (_folder, _, store) = filled();
    for job in demo::jobs() {
        assert_eq!(store.job(job.id).unwrap().job, job);
        let head = store.head(job.id).unwrap().job;
        assert!(head.readings.is_empty() && head.events.is_empty());
        assert_eq!(head.installation, job.installation);
    }
}

#[test]
fn every_connection_is_full_and_foreign_keys_hold() {
    let (_folder, _, store) = store();
    let all = store.synchronous_of_every_connection().unwrap();
    assert_eq!(all.len(), 6);
    assert!(all.iter().all(|level| *level == 2), "{all:?}");
}

#[test]
fn search_finds_every_word_anywhere() {
    let (_folder, _, store) = filled();
    let found = |query: &str| store.jobs(query, 50).unwrap().len();
    assert_eq!(found(""), 5);
    assert_eq!(found("granary"), 5);
    assert_eq!(found("press G-101"), 1);
    assert_eq!(found("nothing like it"), 0);
    assert_eq!(found("%"), 0);
    assert_eq!(found("_"), 0);
    assert_eq!(found("' OR 1=1 --"), 0);
}

/// Stores as an action does.
fn take(store: &Store, job: Uuid, readings: &[&Reading], events: &[&Event]) -> Result<(), StoreError> {
    let owned = Recorded {
        readings: readings.iter().copied().cloned().collect(),
        events: events.iter().copied().cloned().collect(),
    };
    store.record(job, |_| Ok::<_, std::convert::Infallible>(owned)).map(|_| ())
}

#[test]
fn a_reading_sent_twice_is_stored_once_and_other_content_is_refused() {
    let (_folder, _, store) = filled();
    let job = &demo::jobs()[1];
    let mut reading: Reading = job.readings[0].clone();
    reading.id = Uuid::new_v4();
    take(&store, job.id, &[&reading], &[]).unwrap();
    let mut again = reading.clone();
    again.context.stored_at = Timestamp::UNIX_EPOCH;
    take(&store, job.id, &[&again], &[]).unwrap();
    again.value = Value::Open;
    assert!(matches!(take(&store, job.id, &[&again], &[]), Err(StoreError::Differs(_))));
    let other_job = demo::jobs()[0].id;
    assert!(matches!(take(&store, other_job, &[&reading], &[]), Err(StoreError::Differs(_))));
    assert!(matches!(take(&store, Uuid::new_v4(), &[&reading], &[]), Err(StoreError::Unknown(_))));
    assert_eq!(store.job(job.id).unwrap().job.readings.len(), job.readings.len() + 1);
}

#[test]
fn a_repeat_supersedes_and_a_strike_out_brings_the_earlier_back() {
    let (_folder, _, store) = filled();
    let job = &demo::jobs()[1];
    let mut repeat = job.readings[5].clone();
    repeat.id = Uuid::new_v4();
    repeat.value = Value::Open;
    repeat.unsteady = true;
    take(&store, job.id, &[&repeat], &[]).unwrap();
    let now = store.job(job.id).unwrap().job.clone();
    assert_eq!(CurrentReadings::new(&now.readings, &now.events).value(&repeat.key), Some(&Value::Open));
    let strike = Event::new(
        uuid::Uuid::new_v4(),
        "Maud Ferrow",
        Timestamp::UNIX_EPOCH,
        EventKind::StruckOut { reading: repeat.id, reason: "wrong point".into() },
    );
    take(&store, job.id, &[], &[&strike]).unwrap();
    let again = take(&store, job.id, &[&repeat], &[&strike]);
    assert!(matches!(again, Err(StoreError::Differs(Differs::Event(id))) if id == strike.id), "an id is of one event");
    let now = store.job(job.id).unwrap().job.clone();
    let settled = CurrentReadings::new(&now.readings, &now.events);
    assert_eq!(settled.value(&repeat.key), Some(&job.readings[5].value));
    assert_eq!(settled.history(&repeat.key).len(), 2);
}

#[test]
fn readings_events_and_certificates_are_append_only_on_a_bare_connection() {
    let (_folder, path, store) = filled();
    issue(&store, demo::jobs()[0].id).unwrap().unwrap();
    let bare = Connection::open(path).unwrap();
    for (table, column) in [
        ("readings", "typed = '9.99'"),
        ("events", "by_whom = 'nobody'"),
        ("certificates", "digest = 'x'"),
        ("certificate_status", "at = 'x'"),
        ("certificate_papers", "pdf = x'00'"),
        ("firm_keys", "public_pem = 'x'"),
        ("firm_key_log", "reason = 'x'"),
    ] {
        let before: i64 = bare.query_row(&format!("SELECT count(*) FROM {table}"), [], |row| row.get(0)).unwrap();
        assert!(before > 0, "{table} is empty: the test would prove nothing");
        for sql in [
            format!("UPDATE {table} SET {column}"),
            format!("DELETE FROM {table}"),
            format!("INSERT OR REPLACE INTO {table} SELECT * FROM {table}"),
            format!("REPLACE INTO {table} SELECT * FROM {table} LIMIT 1"),
            format!("UPDATE OR REPLACE {table} SET {column}"),
        ] {
            let error = bare.execute(&sql, []).unwrap_err().to_string();
            assert!(error.contains("never"), "{sql}: {error}");
        }
        let after: i64 = bare.query_row(&format!("SELECT count(*) FROM {table}"), [], |row| row.get(0)).unwrap();
        assert_eq!(before, after);
    }
    // The row of another id cannot be displaced by its number either.
    let error = bare
        .execute(
            "INSERT OR REPLACE INTO readings (seq, id, job, subject_kind, test, typed, entered_by, stored_at, body)
             SELECT seq, 'another', job, subject_kind, test, '9', entered_by, stored_at, body FROM readings LIMIT 1",
            [],
        )
        .unwrap_err()
        .to_string();
    assert!(error.contains("never replaced"), "{error}");
    let upsert = "INSERT INTO readings (id, job, subject_kind, test, typed, entered_by, stored_at, body)
        SELECT id, job, subject_kind, test, '9', entered_by, stored_at, body FROM readings LIMIT 1
        ON CONFLICT (id) DO UPDATE SET typed = '9'";
    assert!(bare.execute(upsert, []).is_err());
}

#[test]
fn a_certificate_is_numbered_digested_and_replaced() {
    let (_folder, _, store) = filled();
    let job = demo::jobs()[0].id;
    let first = issue(&store, job).unwrap().unwrap();
    assert_eq!(first.number, "G-101-C1");
    let second = issue(&store, job).unwrap().unwrap();
    let (bytes, certificate, status) = store.certificate("G-101-C1").unwrap();
    assert_eq!(bytes, first.bytes);
    assert_eq!(certificate.job, demo::jobs()[0]);
    assert_eq!(status, Status::ReplacedBy(second.number.clone()));
    let (_, newer, status) = store.certificate(&second.number).unwrap();
    assert_eq!((newer.replaces.as_deref(), status), (Some("G-101-C1"), Status::Issued));
    let half_done = demo::jobs()[1].id;
    assert!(issue(&store, half_done).unwrap().is_err());
    assert!(store.certificates(half_done).unwrap().is_empty());
}

#[test]
fn two_editors_do_not_overwrite_one_another() {
    let (_folder, _, store) = filled();
    let head = store.head(demo::jobs()[1].id).unwrap();
    let mut mine = head.job.clone();
    mine.title = "Mine".into();
    let next = store.save_description(&mine, head.revision).unwrap();
    assert_eq!(next, head.revision + 1);
    let mut theirs = head.job.clone();
    theirs.title = "Theirs".into();
    assert!(matches!(store.save_description(&theirs, head.revision), Err(StoreError::Conflict)));
    assert_eq!(store.head(mine.id).unwrap().job.title, "Mine");
}

#[test]
fn a_circuit_or_point_with_readings_stays() {
    let (_folder, _, store) = filled();
    let head = store.head(demo::jobs()[1].id).unwrap();
    let mut without = head.job.clone();
    without.installation.circuits.retain(|circuit| circuit.way != "2");
    assert!(matches!(store.save_description(&without, head.revision), Err(StoreError::Refused(_))));
    let mut fewer = head.job.clone();
    fewer.installation.circuits[1].points.pop();
    assert!(matches!(store.save_description(&fewer, head.revision), Err(StoreError::Refused(_))));
    let mut unread = head.job.clone();
    unread.installation.circuits.retain(|circuit| circuit.way != "6");
    store.save_description(&unread, head.revision).unwrap();
}

#[test]
fn an_import_is_all_or_nothing() {
    let (_folder, _, store) = filled();
    let mut job = demo::jobs()[0].clone();
    assert!(matches!(store.create_job(&job), Err(StoreError::Differs(_))));
    job.id = Uuid::new_v4();
    job.reference = "G-900".into();
    // Its last reading is stored in another job already: nothing of it may stay.
    job.readings.rotate_left(1);
    job.readings.iter_mut().rev().skip(1).for_each(|reading| reading.id = Uuid::new_v4());
    job.events.clear();
    assert!(store.create_job(&job).is_err());
    assert!(matches!(store.head(job.id), Err(StoreError::Unknown(_))));
    assert_eq!(store.jobs("G-900", 5).unwrap().len(), 0);
}

#[test]
fn what_is_no_database_is_refused() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("notes.db");
    std::fs::write(&path, "this is a note, not a database, and long enough to be looked at as one".repeat(20)).unwrap();
    assert!(Store::open(&path).is_err());
    let later = folder.path().join("later.db");
    Connection::open(&later).unwrap().pragma_update(None, "user_version", 99).unwrap();
    assert!(matches!(Store::open(&later), Err(StoreError::Migration(_))));
}

#[test]
fn registers_keep_firm_people_and_instruments() {
    let (_folder, _, store) = store();
    assert_eq!(store.firm().unwrap().name, "");
    store.set_firm(&demo::firm()).unwrap();
    store.set_firm(&demo::firm()).unwrap();
    assert_eq!(store.firm().unwrap(), demo::firm());
    for person in demo::people() {
        store.save_person(&person).unwrap();
    }
    for instrument in demo::instruments() {
        store.save_instrument(&instrument).unwrap();
    }
    assert_eq!(store.people().unwrap().len(), 3);
    assert_eq!(store.instruments().unwrap().len(), 2);
    let mut twin = demo::instruments()[0].clone();
    twin.id = Uuid::new_v4();
    assert!(matches!(store.save_instrument(&twin), Err(StoreError::Refused(_))));
}

#[test]
fn registers_reach_jobs_that_have_no_certificate() {
    let (_folder, _, store) = filled();
    let [issued, open, _, ..] = &demo::jobs()[..] else { panic!() };
    issue(&store, issued.id).unwrap().unwrap();
    store.set_firm(&demo::firm()).unwrap();
    let mut firm = demo::firm();
    firm.address = "4 Chandler's Yard, Brackwater".into();
    store.set_firm(&firm).unwrap();
    let mut person = demo::people()[0].clone();
    person.position = "Principal".into();
    store.save_person(&person).unwrap();
    let mut instrument = demo::instruments()[0].clone();
    instrument.id = Uuid::new_v4();
    instrument.reference = "MFT-3".into();
    store.save_instrument(&instrument).unwrap();
    let now = store.head(open.id).unwrap().job;
    assert_eq!(now.firm, firm);
    assert!(now.people.contains(&person) && now.people.len() == open.people.len());
    assert_eq!(now.instruments.len(), open.instruments.len() + 1);
    assert_eq!(store.head(issued.id).unwrap().job.firm, demo::firm());
}

#[test]
fn a_key_is_replaced_with_its_reason_and_its_public_half_stays() {
    let (_folder, _, store) = filled();
    let (old, new) = (FirmKey::from_seed(&[5; 32]), FirmKey::from_seed(&[6; 32]));
    let job = demo::jobs()[0].id;
    let asked = || CertificateQuery { form: Form::Installation, signatures: demo::signed(&[]), because: "x".into() };
    let none = store.issue_certificate(job, asked(), &old, Timestamp::UNIX_EPOCH, sealed).unwrap_err();
    assert!(none.to_string().contains("no signing key"), "{none}");
    store.use_key(&KeptKey::Plain(old.clone()), "made", "Maud Ferrow", "", Timestamp::UNIX_EPOCH).unwrap();
    let not_put_away = issue(&store, job).unwrap_err().to_string();
    assert!(not_put_away.contains("not exported"), "{not_put_away}");
    store.key_exported("Maud Ferrow", Timestamp::UNIX_EPOCH).unwrap();
    issue(&store, job).unwrap().unwrap();
    assert!(
        store.use_key(&KeptKey::Plain(old.clone()), "restored", "Maud Ferrow", "again", Timestamp::UNIX_EPOCH).is_err()
    );
    assert!(
        store.use_key(&KeptKey::Plain(new.clone()), "made", "Maud Ferrow", " ", Timestamp::UNIX_EPOCH).is_err(),
        "a reason is wanted"
    );
    store.use_key(&KeptKey::Plain(new.clone()), "made", "Maud Ferrow", "laptop stolen", Timestamp::UNIX_EPOCH).unwrap();
    assert_eq!(store.firm_key().unwrap().unwrap().public(), new.public());
    // Who opened the old one before signs nothing with it now.
    let late = store.issue_certificate(job, asked(), &old, Timestamp::UNIX_EPOCH, sealed).unwrap_err().to_string();
    assert!(late.contains("replaced meanwhile"), "{late}");
    let seal = store.papers("G-101-C1").unwrap().unwrap().seal;
    let kept = store.public_key(&seal.statement.key).unwrap().unwrap();
    assert_eq!(kept, old.public());
    assert_eq!(seal.verify(&kept), Ok(()));
    // A backup brings the old one back.
    store
        .use_key(&KeptKey::Plain(old.clone()), "restored", "Maud Ferrow", "backup found", Timestamp::UNIX_EPOCH)
        .unwrap();
    assert_eq!(store.firm_key().unwrap().unwrap().public(), old.public());
    let record: Vec<_> = store.key_record().unwrap().into_iter().map(|one| one.what).collect();
    assert_eq!(record, ["restored", "replaced", "made", "replaced", "exported", "made"]);
}

#[test]
fn a_certificate_is_found_by_number_and_by_short_code() {
    let (_folder, _, store) = filled();
    let issued = issue(&store, demo::jobs()[0].id).unwrap().unwrap();
    let code = proof_seal::short_code(&issued.digest);
    for wanted in ["g-101-c1", &code, &code.to_lowercase()] {
        assert_eq!(store.look_up(wanted).unwrap().unwrap().number, "G-101-C1");
    }
    assert_eq!(store.look_up("AAAAA-AAAAA").unwrap(), None);
}

/// Nothing that cannot be read becomes a default: the error names the row.
#[test]
fn what_cannot_be_read_is_an_error_that_names_its_row() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("rows.db");
    let store = Store::open(&path).unwrap();
    let firm = Firm { name: "Lammas & Wren".into(), ..Firm::default() };
    store.set_firm(&firm).unwrap();
    let one = proof_bench::demo::instruments().swap_remove(0);
    store.save_instrument(&one).unwrap();
    store.create_job(&proof_bench::demo::jobs()[0]).unwrap();
    let alter = |sql: &str| rusqlite::Connection::open(&path).unwrap().execute_batch(sql).unwrap();
    let row = |error: StoreError| match error {
        StoreError::Row { table, row, column, text } => (table, row, column, text),
        other => panic!("{other}"),
    };
    alter("UPDATE firm SET house_rules = '{\"zs_limit\":\"none\"}'");
    let (table, of, column, text) = row(store.firm().unwrap_err());
    assert_eq!((table, of.as_str(), column), ("firm", "Lammas & Wren", "house_rules"));
    assert!(text.contains("none"));
    alter("UPDATE instruments SET more = '{}', over_range_mohm = 'many'");
    let found = row(store.instruments().unwrap_err());
    assert_eq!(
        (found.0, found.1.as_str(), found.2, found.3.as_str()),
        ("instruments", one.reference.as_str(), "over_range_mohm", "many")
    );
    alter("UPDATE instruments SET over_range_mohm = '999', calibration_due = 'spring'");
    assert_eq!(row(store.instruments().unwrap_err()).2, "calibration_due");
    alter("UPDATE instruments SET more = '{\"id\":7}'");
    assert_eq!(row(store.instruments().unwrap_err()).2, "more");
    alter("PRAGMA foreign_keys=OFF; UPDATE jobs SET id = 'seven'");
    let found = row(store.jobs("", 10).unwrap_err());
    assert_eq!((found.0, found.2, found.3.as_str()), ("jobs", "id", "seven"));
}

/// A message whose id another job's reading has is refused for good: the instrument is not asked for it for ever.
#[test]
fn a_message_with_the_id_of_another_reading_is_refused_once() {
    use proof_bench::simulated_instrument::job_messages;
    use proof_store::{Feed, Outcome};
    use proof_work::actions::{Actor, Joined, Recorded, receive};
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("feed.db")).unwrap();
    let jobs = demo::jobs();
    let mut job = jobs[1].clone();
    job.made_as = proof_job::job::MadeAs::Practice;
    store.create_job(&jobs[0]).unwrap();
    store.create_job(&job).unwrap();
    let instrument = job.instruments.iter().find(|one| one.reference == "MFT-2").unwrap().id;
    let feed = Feed {
        id: uuid::Uuid::new_v4(),
        job: job.id,
        address: "127.0.0.1:7672".into(),
        instrument,
        read_by: String::new(),
        joined_by: "Idris Kell".into(),
        order: String::new(),
        joined_at: jiff::Timestamp::now(),
    };
    store.join(&feed).unwrap();
    let elsewhere = Feed { id: uuid::Uuid::new_v4(), job: jobs[0].id, ..feed.clone() };
    assert!(store.join(&elsewhere).is_err(), "one instrument, one job");
    let mut message = job_messages(&job, "MFT-2", 1).remove(0);
    message.id = jobs[0].readings[0].id;
    let joined = Joined {
        instrument,
        read_by: String::new(),
        order: proof_work::plan::run::Order::default(),
        asked: None,
        last: None,
    };
    let now = jiff::Timestamp::now();
    let take = |message: &proof_job::reading::message::Message| {
        let hand = Actor::new(message.id, "Idris Kell", now);
        let taken = |job: &proof_job::job::Job| -> Result<(Recorded, Option<uuid::Uuid>), String> {
            receive(job, message, &joined, &hand)
                .map(|(taken, went)| (taken, went.held()))
                .map_err(|why| why.to_string())
        };
        store.receive(&feed, message, now, taken).unwrap()
    };
    let before = store.job(job.id).unwrap().job.clone();
    assert!(matches!(take(&message), Some(Outcome::Refused(_))));
    assert!(matches!(take(&message), Some(Outcome::Refused(_))), "and so again");
    assert_eq!(
        (&store.job(job.id).unwrap().job.readings, &store.job(job.id).unwrap().job.events),
        (&before.readings, &before.events)
    );
    message.id = uuid::Uuid::new_v4();
    assert_eq!(take(&message), Some(Outcome::Stored));
    store.leave(job.id, now).unwrap();
    message.id = uuid::Uuid::new_v4();
    assert_eq!(take(&message), None, "left: nothing more comes in");
}
