//! The readings of a job as they stand: the latest of each key that is not struck out.

use crate::reading::{Key, Reading, Subject, Value};
use rustc_hash::FxHashMap;
use uuid::Uuid;

/// What strikes readings out: the log of a job, or nothing.
pub trait StrikeOuts<'a> {
    /// Each reading that was struck out, with the reason.
    fn strike_outs(self) -> impl Iterator<Item = (Uuid, &'a str)>;
}

/// The readings of a job as they stand: the latest of each key that is not struck out.
#[derive(Debug, Clone, Default)]
pub struct Settled<'a> {
    by_key: FxHashMap<&'a Key, Vec<&'a Reading>>,
    /// Those that stand, by circuit.
    of_circuit: FxHashMap<Uuid, Vec<&'a Reading>>,
    struck: FxHashMap<Uuid, &'a str>,
    sets: Vec<&'a Key>,
    /// Those that stand, in the order stored.
    standing: Vec<&'a Reading>,
}

impl<'a> Settled<'a> {
    /// Sorts readings (in the order stored), without those that were struck out.
    pub fn new(readings: &'a [Reading], strikes: impl StrikeOuts<'a>) -> Self {
        Self::only(readings, strikes, |_| true)
    }

    /// The same of some of the readings: what judging one circuit needs is its own and those of what
    /// feeds it.
    pub fn only(readings: &'a [Reading], strikes: impl StrikeOuts<'a>, wanted: impl Fn(&Reading) -> bool) -> Self {
        let struck: FxHashMap<Uuid, &str> = strikes.strike_outs().collect();
        let readings: Vec<&'a Reading> = readings.iter().filter(|reading| wanted(reading)).collect();
        let mut by_key: FxHashMap<&Key, Vec<&Reading>> = FxHashMap::default();
        let mut of_circuit: FxHashMap<Uuid, Vec<&Reading>> = FxHashMap::default();
        let mut sets: Vec<&Key> = Vec::new();
        for &reading in &readings {
            if matches!(reading.key.subject, Subject::CircuitSet { .. }) && !by_key.contains_key(&reading.key) {
                sets.push(&reading.key);
            }
            by_key.entry(&reading.key).or_default().push(reading);
        }
        let mut all = Self { by_key, of_circuit: FxHashMap::default(), struck, sets, standing: Vec::new() };
        let mut standing = Vec::with_capacity(readings.len());
        for &reading in &readings {
            if all.of(&reading.key).is_none_or(|stands| stands.id != reading.id) {
                continue;
            }
            standing.push(reading);
            if let Some(circuit) = reading.key.subject.circuit() {
                of_circuit.entry(circuit).or_default().push(reading);
            }
        }
        all.standing = standing;
        all.of_circuit = of_circuit;
        all
    }

    /// The reading that stands for a key.
    pub fn of(&self, key: &Key) -> Option<&'a Reading> {
        let all = self.by_key.get(key)?;
        if self.struck.is_empty() {
            return all.last().copied();
        }
        all.iter().rev().find(|reading| !self.struck.contains_key(&reading.id)).copied()
    }

    /// Its value.
    pub fn value(&self, key: &Key) -> Option<&'a Value> {
        self.of(key).map(|reading| &reading.value)
    }

    /// Its number as a float.
    pub fn float(&self, key: &Key) -> Option<f64> {
        self.value(key)?.float()
    }

    /// Readings of sets of circuits that stand, in the order first taken.
    pub fn of_sets(&self) -> impl Iterator<Item = &'a Reading> + '_ {
        self.sets.iter().filter_map(|key| self.of(key))
    }

    /// Every reading ever taken for a key, oldest first, with the reason if it was struck out.
    pub fn history(&self, key: &Key) -> Vec<(&'a Reading, Option<&'a str>)> {
        let all = self.by_key.get(key).map(Vec::as_slice).unwrap_or_default();
        all.iter().map(|reading| (*reading, self.struck.get(&reading.id).copied())).collect()
    }

    /// Every reading that stands, in the order stored.
    pub fn standing(&self) -> impl Iterator<Item = &'a Reading> + '_ {
        self.standing.iter().copied()
    }

    /// Readings of a circuit that stand, in the order stored.
    pub fn standing_of(&self, circuit: Uuid) -> impl Iterator<Item = &'a Reading> + '_ {
        let all = self.of_circuit.get(&circuit).map(Vec::as_slice).unwrap_or_default();
        all.iter().copied()
    }
}
