//! What every handler may use.

use crate::bench_cache::BenchCache;
use crate::feed::Feeds;
use crate::open_key::OpenKey;
use proof_store::Store;
use std::sync::{Arc, OnceLock};

/// What every handler may use.
#[derive(Clone)]
pub struct Shared {
    /// The database.
    pub store: Store,
    pub(crate) open_key: OpenKey,
    pub(crate) benches: BenchCache,
    pub(crate) feeds: Feeds,
    pub(crate) altered: Arc<OnceLock<Vec<String>>>,
}

impl Shared {
    /// Over a database; the signing key is closed.
    pub fn new(store: Store) -> Self {
        Self {
            store,
            open_key: OpenKey::default(),
            benches: BenchCache::default(),
            feeds: Feeds::default(),
            altered: Arc::default(),
        }
    }

    /// Looks for rows that were altered past the program, beside the pages: what is found is logged, and stands on the
    /// list of jobs.
    pub(crate) fn look_for_altered(&self) {
        let (store, altered) = (self.store.clone(), self.altered.clone());
        std::thread::spawn(move || match store.altered() {
            Ok(rows) => {
                let rows: Vec<String> = rows.iter().map(ToString::to_string).collect();
                for row in &rows {
                    tracing::warn!("{row}: compare it with a backup; proof doctor tells more");
                }
                // Set once: this thread alone does.
                let _ = altered.set(rows);
            }
            Err(error) => tracing::error!(%error, "the digests of the rows could not be compared"),
        });
    }
}
