//! `proof backup`, `proof restore`, `proof doctor`: a database copied, put back, examined.

use super::jobs::{open_existing, open_to_look};
use super::{Problem, print};
use jiff::Timestamp;
use proof_store::Store;
use std::path::Path;

/// `proof backup`.
pub(crate) fn backup(db: &Path, file: &Path) -> Result<(), Problem> {
    open_existing(db)?.backup(file, Timestamp::now())?;
    print(&format!("{}: a copy of {}, whole and of one moment; only you may read it\n", file.display(), db.display()))
}

/// `proof restore`.
pub(crate) fn restore(file: &Path, db: &Path) -> Result<(), Problem> {
    if !file.is_file() {
        return Err(Problem(format!("{}: there is no such file", file.display())));
    }
    let before = Store::restore(db, file, Timestamp::now())?;
    let kept = before.map(|before| format!("what stood there is {}\n", before.display())).unwrap_or_default();
    print(&format!("{} is now as {} was\n{kept}", db.display(), file.display()))
}

/// `proof doctor`: whether it is sound.
pub(crate) fn doctor(db: &Path) -> Result<bool, Problem> {
    let (store, _aside) = open_to_look(db)?;
    let found = store.examine(db)?;
    if found.is_empty() {
        print(&format!("{}: sound\n", db.display()))?;
        return Ok(true);
    }
    print(&format!("{}\n", found.join("\n")))?;
    Ok(false)
}

/// What is told when a database is opened to be served: files that others may read.
pub(crate) fn told_at_opening(db: &Path) {
    for (file, mode) in proof_store::private::wide(db) {
        eprintln!("Look: others may read {} ({mode:o}). Close it with: chmod 600 {0}", file.display());
    }
}
