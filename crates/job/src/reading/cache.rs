//! What was worked out of a circuit and its readings, kept until a reading touches it.
//!
//! Each module keeps its own kind of thing, known by its type: what a module keeps, no other can mistake. What
//! is kept is of one description; who changes a description works with a job that keeps nothing.

use rustc_hash::FxHashMap;
use std::any::{Any, TypeId};
use std::fmt;
use std::sync::{Arc, PoisonError, RwLock};
use uuid::Uuid;

/// What may be kept of a circuit.
pub trait WorkedOut: Any + Send + Sync {
    /// It follows from the description alone: no reading touches it.
    const DESCRIBED: bool;
}

type Things = FxHashMap<(TypeId, Uuid), Arc<dyn Any + Send + Sync>>;

/// What was worked out, by kind and circuit.
#[derive(Default)]
pub struct Cache {
    described: RwLock<Things>,
    read: RwLock<Things>,
}

impl fmt::Debug for Cache {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("Cache")
    }
}

impl Cache {
    const fn of<T: WorkedOut>(&self) -> &RwLock<Things> {
        if T::DESCRIBED { &self.described } else { &self.read }
    }

    /// What is kept of a circuit; worked out where nothing is.
    pub fn get<T: WorkedOut>(&self, circuit: Uuid, work: impl FnOnce() -> T) -> Arc<T> {
        let key = (TypeId::of::<T>(), circuit);
        let all = self.of::<T>();
        let kept = all.read().unwrap_or_else(PoisonError::into_inner).get(&key).cloned();
        if let Some(thing) = kept.and_then(|thing| thing.downcast::<T>().ok()) {
            return thing;
        }
        let thing = Arc::new(work());
        all.write().unwrap_or_else(PoisonError::into_inner).insert(key, thing.clone());
        thing
    }

    /// Forgets what readings touched: of some circuits, or of all.
    pub fn touch(&mut self, circuits: Option<&[Uuid]>) {
        let all = self.read.get_mut().unwrap_or_else(PoisonError::into_inner);
        match circuits {
            Some(circuits) => all.retain(|(_, circuit), _| !circuits.contains(circuit)),
            None => all.clear(),
        }
    }
}
