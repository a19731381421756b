//! Files that only their owner reads: the database holds the firm's key and other people's addresses.

use std::fs::OpenOptions;
use std::io;
use std::path::{Path, PathBuf};

/// Read and written by their owner alone.
#[cfg(unix)]
const OWNER_ONLY: u32 = 0o600;

/// Makes an empty file that only its owner reads, where there is none.
///
/// # Errors
/// When it cannot be made.
pub fn make(path: &Path) -> io::Result<()> {
    let mut options = OpenOptions::new();
    options.write(true).create(true).truncate(false);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, OWNER_ONLY);
    options.open(path).map(|_| ())
}

/// The database and the files that stand beside it.
fn beside(path: &Path) -> [PathBuf; 3] {
    ["", "-wal", "-shm"].map(|end| {
        let mut name = path.as_os_str().to_owned();
        name.push(end);
        PathBuf::from(name)
    })
}

/// Files of a database that others on this machine may read or write, with their modes.
pub fn wide(path: &Path) -> Vec<(PathBuf, u32)> {
    #[cfg(unix)]
    let mode = |path: &PathBuf| {
        use std::os::unix::fs::PermissionsExt;
        std::fs::metadata(path).ok().map(|about| about.permissions().mode() & 0o777)
    };
    #[cfg(not(unix))]
    let mode = |_: &PathBuf| None::<u32>;
    let all = beside(path).into_iter().filter_map(|path| Some((mode(&path)?, path)));
    all.filter(|(mode, _)| mode & 0o077 != 0).map(|(mode, path)| (path, mode)).collect()
}
