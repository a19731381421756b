//! `proof serve` and `proof demo`.

use super::Problem;
use jiff::Timestamp;
use proof_bench::demo;
use proof_job::installation::{Document, Documents};
use proof_job::job::{Job, MadeAs};
use proof_paper::sealed;
use proof_seal::{FirmKey, KeptKey, LockedKey};
use proof_store::{CertificateQuery, Papers, Store};
use proof_work::certificate::{Form, Role, Signature};
use std::net::{SocketAddr, TcpListener};
use std::path::{Path, PathBuf};

/// Opens the signing key of every demo: what it signs is worth nothing.
const DEMO_PASSPHRASE: &str = "ink and paper";

/// Serves a database.
pub(crate) fn serve(db: &Path, listen: SocketAddr) -> Result<(), Problem> {
    let listener = bind(listen)?;
    let store = Store::open(db).map_err(|error| Problem(format!("--db {}: {error}", db.display())))?;
    super::keeping::told_at_opening(db);
    run(listener, store, &db.display().to_string(), "")
}

/// Serves demo data.
pub(crate) fn demo(db: Option<PathBuf>, listen: SocketAddr) -> Result<(), Problem> {
    let listener = bind(listen)?;
    let folder = tempfile::tempdir()?;
    let kept = db.is_some();
    let path = db.unwrap_or_else(|| folder.path().join("demo.db"));
    let store = Store::open(&path).map_err(|error| Problem(format!("--db {}: {error}", path.display())))?;
    fill(&store)?;
    let what = if kept { path.display().to_string() } else { "a throw-away database".to_owned() };
    let key = format!("Passphrase of the demo's signing key: {DEMO_PASSPHRASE}\n");
    run(listener, store, &what, &key)
}

/// Puts the demo data into an empty database.
pub(crate) fn fill(store: &Store) -> Result<(), Problem> {
    if !store.jobs("", 1)?.is_empty() {
        return Ok(());
    }
    store.set_firm(&demo::firm())?;
    for person in demo::people() {
        store.save_person(&person)?;
    }
    for instrument in demo::instruments() {
        store.save_instrument(&instrument)?;
    }
    let jobs: Vec<Job> = demo::jobs().into_iter().map(|job| Job { made_as: MadeAs::Demo, ..job }).collect();
    for job in &jobs {
        store.create_job(job)?;
    }
    store.add_own_rows(&demo::own_rows())?;
    let (document, bytes) = demo::document();
    let mut head = store.head(jobs[0].id)?;
    let sha256 = proof_seal::digest(&bytes);
    let documents = Documents::from([(sha256.clone(), bytes)]);
    head.job.installation.documents.push(Document { sha256, ..document });
    store.save_with(&head.job, &documents, head.revision)?;
    let finished = &jobs[0];
    let at: Timestamp = "2026-10-06T15:20:00Z".parse()?;
    let signatures = [(Role::Design, 2), (Role::Construction, 1), (Role::Inspection, 0)]
        .into_iter()
        .map(|(role, person)| {
            let person = &finished.people[person];
            let (name, position) = (person.name.clone(), person.position.clone());
            Signature { role, name, position, firm: String::new(), at, drawn: demo::signature(&person.name) }
        })
        .collect();
    // A key of its own for every demo: nothing that it signs is worth anything.
    let mut seed = [0; 32];
    seed[..16].copy_from_slice(uuid::Uuid::new_v4().as_bytes());
    seed[16..].copy_from_slice(uuid::Uuid::new_v4().as_bytes());
    let by = &finished.people[0].name;
    let key = FirmKey::from_seed(&seed);
    store.use_key(&KeptKey::Locked(LockedKey::new(&key, DEMO_PASSPHRASE)?), "made", by, "", at)?;
    store.key_exported(by, at)?;
    let asked = CertificateQuery { form: Form::Installation, signatures, because: String::new() };
    store.issue_certificate(
        finished.id,
        asked,
        &FirmKey::demonstration(),
        at,
        |certificate, issued, documents, key| {
            sealed::papers(certificate, issued, documents, key).map(|made| Papers {
                seal: made.seal,
                pdf: made.pdf,
                job_file: made.job_file,
            })
        },
    )??;
    Ok(())
}

pub(super) fn bind(listen: SocketAddr) -> Result<TcpListener, Problem> {
    if !listen.ip().is_loopback() {
        return Err(Problem(format!(
            "--listen {listen}: only this machine (127.0.0.1 or [::1]) is allowed until there are accounts: anybody who reaches the pages could enter readings and sign"
        )));
    }
    TcpListener::bind(listen).map_err(|error| match error.kind() {
        std::io::ErrorKind::AddrInUse => Problem(format!(
            "--listen {listen}: another program has this port; stop it, or give another, such as --listen {}:{}",
            listen.ip(),
            listen.port().wrapping_add(1).max(1024)
        )),
        _ => Problem(format!("--listen {listen}: {error}")),
    })
}

fn run(listener: TcpListener, store: Store, what: &str, also: &str) -> Result<(), Problem> {
    tracing_subscriber::fmt().with_max_level(tracing::Level::INFO).with_writer(std::io::stderr).init();
    let address = listener.local_addr()?;
    println!("Proof serves {what}.\n{also}Open http://{address}/ in a browser; stop with Ctrl-C.");
    actix_web::rt::System::new().block_on(proof_web::serve(listener, store))?;
    Ok(())
}
