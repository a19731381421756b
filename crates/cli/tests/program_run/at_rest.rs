//! The database at rest: who may read it, a bit that is turned on disk, copies made and put back while it is in use.

use crate::program::run;
use crate::program::served::{get, post, serve};
use proof_bench::demo;
use proof_paper::job_file;
use proof_store::{CertificateQuery, Papers, Store};
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::time::Duration;
use tempfile::TempDir;

/// A database with the demo's jobs, one of them issued.
fn site() -> (TempDir, PathBuf) {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("proof.db");
    let store = Store::open(&db).unwrap();
    store.set_firm(&demo::firm()).unwrap();
    for job in demo::jobs() {
        store.create_job(&job).unwrap();
    }
    let finished = &demo::jobs()[0];
    let at = finished.created_at;
    let key = proof_seal::FirmKey::from_seed(&[9; 32]);
    let locked = proof_seal::LockedKey::new(&key, "at rest in the granary").unwrap();
    store.use_key(&proof_seal::KeptKey::Locked(locked), "made", "Idris Kell", "", at).unwrap();
    store.key_exported("Idris Kell", at).unwrap();
    let signatures = proof_work::certificate::Form::Installation
        .may_sign()
        .iter()
        .map(|&role| proof_work::certificate::Signature {
            role,
            name: "Idris Kell".into(),
            position: "Electrician".into(),
            firm: String::new(),
            at,
            drawn: Vec::new(),
        })
        .collect();
    let asked =
        CertificateQuery { form: proof_work::certificate::Form::Installation, signatures, because: String::new() };
    let issued = store.issue_certificate(finished.id, asked, &key, at, |certificate, issued, documents, key| {
        let made = proof_paper::sealed::papers(certificate, issued, documents, key)?;
        Ok::<_, proof_paper::sealed::NoPapers>(Papers { seal: made.seal, pdf: made.pdf, job_file: made.job_file })
    });
    issued.unwrap().unwrap();
    (folder, db)
}

/// Every job as its file, and every certificate as its papers, by name; each certificate verifies.
fn everything(db: &Path) -> BTreeMap<String, Vec<u8>> {
    let store = Store::open(db).unwrap();
    let mut all = BTreeMap::new();
    for row in store.jobs("", 1000).unwrap() {
        let job = store.job(row.id).unwrap();
        let documents = store.documents_of(&job.job.installation).unwrap();
        all.insert(row.reference.clone(), job_file::write(&job.job, &documents).unwrap());
        for certificate in store.certificates(row.id).unwrap() {
            let papers = store.papers(&certificate.number).unwrap().unwrap();
            let key = store.public_key(&papers.seal.statement.key).unwrap().unwrap();
            proof_paper::sealed::verify(&papers.pdf, &key).unwrap();
            proof_paper::sealed::verify(&papers.job_file, &key).unwrap();
            all.insert(certificate.number, papers.pdf);
        }
    }
    all
}

fn text(path: &Path) -> &str {
    path.to_str().unwrap()
}

#[cfg(unix)]
#[test]
fn only_its_owner_reads_it() {
    use std::os::unix::fs::PermissionsExt;
    let mode = |path: &Path| std::fs::metadata(path).unwrap().permissions().mode() & 0o777;
    let (folder, db) = site();
    let store = Store::open(&db).unwrap();
    store.set_firm(&demo::firm()).unwrap();
    for end in ["", "-wal", "-shm"] {
        let file = PathBuf::from(format!("{}{end}", db.display()));
        assert_eq!(mode(&file), 0o600, "{}", file.display());
    }
    let copy = folder.path().join("copy.db");
    assert_eq!(run(&["backup", "--db", text(&db), text(&copy)], "").0, 0);
    assert_eq!(mode(&copy), 0o600);
    assert_eq!(run(&["doctor", "--db", text(&db)], "").0, 0);
    // What others may read is told, with what closes it.
    std::fs::set_permissions(&db, std::fs::Permissions::from_mode(0o644)).unwrap();
    let (code, said, _) = run(&["doctor", "--db", text(&db)], "");
    assert_eq!(code, 1);
    assert!(said.contains("644") && said.contains("chmod 600"), "{said}");
}

/// A database of an earlier version is looked into, and stays as it was to the byte.
#[test]
fn looking_changes_nothing() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("old.db");
    let frozen = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fixtures/2026-11-25/proof.db");
    std::fs::copy(frozen, &db).unwrap();
    let before = std::fs::read(&db).unwrap();
    let (code, said, error) = run(&["check", text(&db)], "");
    assert_eq!(code, 0, "{said}{error}");
    let (_, said, error) = run(&["doctor", "--db", text(&db)], "");
    assert!(error.is_empty() && !said.contains("altered"), "{said}{error}");
    assert_eq!(std::fs::read(&db).unwrap(), before);
    let files: Vec<_> = std::fs::read_dir(folder.path()).unwrap().map(|one| one.unwrap().file_name()).collect();
    assert!(!files.iter().any(|name| name.to_str().unwrap().contains("backup")), "{files:?}");
}

/// Turns one bit in the bytes of a row, past the program and past SQLite.
fn turned(db: &Path, wanted: &str) -> bool {
    let mut bytes = std::fs::read(db).unwrap();
    let Some(at) = bytes.windows(wanted.len()).position(|window| window == wanted.as_bytes()) else { return false };
    bytes[at + wanted.len() - 1] ^= 1;
    std::fs::write(db, bytes).unwrap();
    true
}

#[test]
fn a_bit_that_is_turned_is_told_with_its_row() {
    let (folder, db) = site();
    assert_eq!(run(&["check", text(&db)], "").0, 0);
    let store = Store::open(&db).unwrap();
    let half = store.jobs("G-102", 1).unwrap()[0].id;
    let job = store.job(half).unwrap();
    // Everything into the one file.
    drop(store);
    let copy = folder.path().join("copy.db");
    assert_eq!(run(&["backup", "--db", text(&db), text(&copy)], "").0, 0);
    let mut told = 0;
    for reading in job.job.readings.iter().step_by(9) {
        let altered = folder.path().join("altered.db");
        std::fs::copy(&copy, &altered).unwrap();
        // A digit of what was typed, as the body of the row has it.
        let wanted = format!("\"id\":\"{}\",\"key\":", reading.id);
        let body = serde_json::to_string(reading).unwrap();
        assert!(body.starts_with("{\"id\":"), "{body}");
        if !turned(&altered, &wanted[..wanted.len() - 9]) {
            continue;
        }
        let (code, said, error) = run(&["check", text(&altered)], "");
        assert_eq!(code, 1, "{said}{error}");
        let said: serde_json::Value = serde_json::from_str(&said).unwrap();
        let rows = said["findings"].as_array().unwrap();
        assert_eq!(rows.len(), 1, "{said}");
        assert_eq!((rows[0]["table"].as_str(), rows[0]["job"].as_str()), (Some("readings"), Some("G-102")));
        assert_eq!(rows[0]["code"], "altered_row");
        let doctor = run(&["doctor", "--db", text(&altered)], "");
        assert_eq!(doctor.0, 1);
        assert!(doctor.1.contains(&format!("readings row {}", rows[0]["row"])), "{}", doctor.1);
        told += 1;
        std::fs::remove_file(&altered).unwrap();
    }
    assert!(told >= 3, "only {told} readings were altered: the test proved little");
}

/// A reading put in past the program, and one taken out past it.
#[test]
fn a_row_added_or_taken_out_past_the_program_is_told() {
    let (_folder, db) = site();
    let bare = rusqlite::Connection::open(&db).unwrap();
    bare.execute_batch(
        "DROP TRIGGER readings_delete;
         DELETE FROM readings WHERE seq = 7;
         INSERT INTO events (id, job, at, by_whom, what, body)
         SELECT 'ffffffff-0000-4000-8000-000000000000', job, at, by_whom, what, body FROM events LIMIT 1;",
    )
    .unwrap();
    drop(bare);
    let altered = Store::open(&db).unwrap().altered().unwrap();
    let told: Vec<(&str, proof_store::Wrong)> = altered.iter().map(|one| (one.table, one.what)).collect();
    assert_eq!(told, [("readings", proof_store::Wrong::Gone), ("events", proof_store::Wrong::Added)]);
    assert_eq!(altered[0].row, 7);
}

/// Writers that never stop, each on a way of its own of a job that is not finished.
fn under_load<T>(address: &str, work: impl FnOnce() -> T) -> (T, usize) {
    let job = &demo::jobs()[1];
    let circuit = job.installation.circuits.iter().find(|circuit| circuit.way == "2").unwrap().id;
    let path = format!("/jobs/{}/circuits/{circuit}/readings", job.id);
    let (stop, stored) = (AtomicBool::new(false), AtomicUsize::new(0));
    let done = std::thread::scope(|scope| {
        for _ in 0..3 {
            scope.spawn(|| {
                while !stop.load(Ordering::Relaxed) {
                    let id = uuid::Uuid::new_v4().to_string();
                    let form = [("step", "r2-p1"), ("id", &id), ("typed", "0.31"), ("entered_by", "Idris Kell")];
                    let status = post(address, &path, &form).map(|(status, _)| status);
                    if status == Some(303) {
                        stored.fetch_add(1, Ordering::Relaxed);
                    } else {
                        panic!("{status:?}");
                    }
                }
            });
        }
        std::thread::sleep(Duration::from_millis(300));
        let done = work();
        std::thread::sleep(Duration::from_millis(300));
        stop.store(true, Ordering::Relaxed);
        done
    });
    (done, stored.into_inner())
}

#[test]
fn a_copy_put_back_under_load_is_what_was_copied() {
    let (folder, db) = site();
    let served = serve(&db);
    let copy = folder.path().join("copy.db");
    let (said, stored) = under_load(&served.address, || run(&["backup", "--db", text(&db), text(&copy)], ""));
    assert_eq!(said.0, 0, "{}", said.2);
    assert!(stored > 20, "only {stored} readings were stored: no load");
    let copied = everything(&copy);
    assert_eq!(copied.len(), demo::jobs().len() + 1);
    // Put back while it is served and written; what stood is kept.
    let (said, stored) = under_load(&served.address, || run(&["restore", "--db", text(&db), text(&copy)], ""));
    assert_eq!(said.0, 0, "{}", said.2);
    assert!(stored > 20, "only {stored} readings were stored: no load");
    assert!(said.1.contains("before-restore.backup"), "{}", said.1);
    let now = everything(&db);
    for (name, bytes) in &copied {
        if name == "G-102" {
            // Written since: what was copied, and more.
            let read = |bytes: &[u8]| job_file::read(bytes).unwrap().job;
            let (before, after) = (read(bytes), read(&now[name]));
            assert_eq!(after.readings[..before.readings.len()], before.readings[..], "{name}");
            assert!(after.readings.len() > before.readings.len(), "writing went on after the copy was put back");
        } else {
            assert_eq!(&now[name], bytes, "{name}");
        }
    }
    // The program that was running shows what is there now, to the last reading.
    let job = &demo::jobs()[1];
    let (status, page) = get(&served.address, &format!("/jobs/{}/job.json", job.id)).unwrap();
    assert_eq!(status, 200);
    let body = page.split_once("\r\n\r\n").unwrap().1;
    let shown = job_file::read(dechunked(body).as_bytes()).unwrap().job;
    assert_eq!(shown, job_file::read(&now["G-102"]).unwrap().job);
    assert_eq!(run(&["check", text(&db)], "").0, 0, "the chain goes on from the copy");
    // Put back once more with nobody there: exactly what was copied.
    drop(served);
    assert_eq!(run(&["restore", "--db", text(&db), text(&copy)], "").0, 0);
    assert_eq!(everything(&db), copied);
}

/// A body as it came, in chunks or whole.
fn dechunked(body: &str) -> String {
    if body.starts_with('{') {
        return body.to_owned();
    }
    let (mut rest, mut whole) = (body, String::new());
    while let Some((size, more)) = rest.split_once("\r\n") {
        let size = usize::from_str_radix(size.trim(), 16).unwrap_or(0);
        if size == 0 {
            break;
        }
        whole.push_str(&more[..size]);
        rest = &more[size + 2..];
    }
    whole
}

#[test]
fn what_is_no_copy_is_not_put_back_and_nothing_is_overwritten() {
    let (folder, db) = site();
    let before = everything(&db);
    let other = folder.path().join("other.db");
    std::fs::write(&other, b"no database").unwrap();
    let (code, _, error) = run(&["restore", "--db", text(&db), text(&other)], "");
    assert_eq!(code, 2, "{error}");
    let empty = folder.path().join("empty.db");
    rusqlite::Connection::open(&empty).unwrap().execute_batch("CREATE TABLE t (a)").unwrap();
    let (code, _, error) = run(&["restore", "--db", text(&db), text(&empty)], "");
    assert!(code == 2 && error.contains("no database of this program"), "{error}");
    let (code, _, error) = run(&["backup", "--db", text(&db), text(&other)], "");
    assert!(code == 2 && error.contains("is there already"), "{error}");
    assert_eq!(everything(&db), before);
    let left: Vec<String> = std::fs::read_dir(folder.path())
        .unwrap()
        .map(|file| file.unwrap().file_name().to_string_lossy().into_owned())
        .filter(|name| name.contains("restoring"))
        .collect();
    assert!(left.is_empty(), "{left:?}");
}

#[test]
fn a_migration_makes_a_copy_first() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("proof.db");
    let frozen = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fixtures/2026-11-25/proof.db");
    std::fs::copy(&frozen, &db).unwrap();
    let version = |path: &Path| -> i64 {
        let bare = rusqlite::Connection::open(path).unwrap();
        bare.query_row("PRAGMA user_version", [], |row| row.get(0)).unwrap()
    };
    let old = version(&frozen);
    drop(Store::open(&db).unwrap());
    let kept = folder.path().join(format!("proof.db.version-{old}.backup"));
    assert_eq!(version(&kept), old);
    assert!(version(&db) > old);
    // Begun at the migration: a database without a chain is no fault.
    assert_eq!(run(&["check", text(&db)], "").0, 0);
    assert_eq!(everything(&kept).keys().collect::<Vec<_>>(), everything(&db).keys().collect::<Vec<_>>());
    // Opened again there is nothing to migrate, and no copy.
    drop(Store::open(&db).unwrap());
    let copies = std::fs::read_dir(folder.path()).unwrap();
    let copies = copies.filter(|file| file.as_ref().unwrap().file_name().to_string_lossy().ends_with(".backup"));
    // The copy was itself opened above, and migrated with a copy of its own.
    assert_eq!(copies.count(), 2);
}
