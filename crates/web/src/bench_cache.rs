//! Exercises at work, kept in memory.

use proof_bench::practice::Posed;
use proof_bench::rig::{act::Act, bench::Bench};
use proof_store::Practice;
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};
use uuid::Uuid;

/// Most benches that are kept as they stand.
const MOST_KEPT: usize = 64;

/// Benches as they stand after so many acts: what follows from the acts alone, so that a press is one act and not all.
#[derive(Clone, Default)]
pub(crate) struct BenchCache(Arc<Mutex<HashMap<Uuid, (usize, Bench)>>>);

impl BenchCache {
    /// A bench after its acts.
    pub(crate) fn after(&self, practice: &Practice, posed: &Posed) -> Bench {
        // Worked out apart from the lock: who presses elsewhere does not wait for it.
        let found = self.0.lock().unwrap_or_else(PoisonError::into_inner).remove(&practice.id);
        let found = found.filter(|(acts, _)| *acts <= practice.acts.len());
        let (from, mut bench) = found.unwrap_or_else(|| (0, posed.bench.clone()));
        for text in &practice.acts[from..] {
            if let Ok(act) = text.parse::<Act>() {
                bench.act(act);
            }
        }
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if kept.len() >= MOST_KEPT {
            kept.clear();
        }
        kept.insert(practice.id, (practice.acts.len(), bench.clone()));
        bench
    }
}
