//! Jobs and certificates, between files and a database.

use super::{Problem, print};
use jiff::Timestamp;
use proof_job::job::Job;
use proof_paper::certificate::{Copy, pdf};
use proof_paper::{job_file, sealed};
use proof_store::{Store, private};
use proof_work::certificate::{Application, Form, prepare};
use std::fs::File;
use std::io::Read;
use std::path::Path;

pub(crate) fn open_existing(db: &Path) -> Result<Store, Problem> {
    if !db.is_file() {
        return Err(Problem(format!("--db {}: there is no such database", db.display())));
    }
    Store::open(db).map_err(|error| Problem(format!("--db {}: {error}", db.display())))
}

/// Opens a database to look into it: nothing of it is changed. The folder is of the copy that is looked into where it
/// is of an earlier version, and goes with it.
pub(crate) fn open_to_look(db: &Path) -> Result<(Store, tempfile::TempDir), Problem> {
    if !db.is_file() {
        return Err(Problem(format!("--db {}: there is no such database", db.display())));
    }
    let folder = tempfile::tempdir()?;
    let store = Store::open_to_look(db, &folder.path().join("looked-into.db"));
    Ok((store.map_err(|error| Problem(format!("--db {}: {error}", db.display())))?, folder))
}

/// Reads a job file.
pub(crate) fn read_file(path: &Path) -> Result<Job, Problem> {
    Ok(unpack(path)?.job)
}

/// The same with the documents that it names.
fn unpack(path: &Path) -> Result<job_file::Packed, Problem> {
    let named = |error: &dyn std::fmt::Display| Problem(format!("{}: {error}", path.display()));
    let file = File::open(path).map_err(|error| named(&error))?;
    let mut bytes = Vec::new();
    file.take(job_file::MOST_BYTES as u64 + 1).read_to_end(&mut bytes).map_err(|error| named(&error))?;
    let bytes = sealed::job_bytes(&bytes).map_err(|error| named(&error))?;
    job_file::read(&bytes).map_err(|error| named(&error))
}

/// `proof export`.
pub(crate) fn export(reference: &str, db: &Path) -> Result<(), Problem> {
    let store = open_existing(db)?;
    let row = store.jobs(reference, 10_000)?.into_iter().find(|row| row.reference == reference);
    let row =
        row.ok_or_else(|| Problem(format!("{reference}: there is no job of this reference in {}", db.display())))?;
    let job = store.job(row.id)?;
    let bytes = job_file::write(&job.job, &store.documents_of(&job.job.installation)?)?;
    print(&String::from_utf8(bytes)?)
}

/// `proof import`.
pub(crate) fn import(file: &Path, db: &Path) -> Result<(), Problem> {
    let job_file::Packed { job, documents } = unpack(file)?;
    let store = Store::open(db).map_err(|error| Problem(format!("--db {}: {error}", db.display())))?;
    // Its log is history here, as on the page.
    store
        .import_job(&job, &documents, Timestamp::now())
        .map_err(|error| Problem(format!("{}: {error}", file.display())))?;
    for told in job_file::odd_texts(&job) {
        eprintln!("kept as it came: {told}");
    }
    print(&format!("{} {}: {} readings\n", job.reference, job.title, job.readings.len()))
}

/// `proof certificate`.
pub(crate) fn certificate(file: &Path, output: &Path) -> Result<(), Problem> {
    let job = read_file(file)?;
    let drawn = prepare(&job, Application::draft(&job, Form::Installation, Timestamp::now()));
    let bytes = pdf(&drawn, Copy::Draft)?;
    private::make(output)
        .and_then(|()| std::fs::write(output, bytes))
        .map_err(|error| Problem(format!("{}: {error}", output.display())))?;
    print(&format!("{}: a draft; a certificate is issued from the pages, when nothing blocks it\n", output.display()))
}
