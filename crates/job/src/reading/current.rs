//! The readings of a job as they stand: the latest figure of each key that is not struck out; where there is no
//! figure, the latest limitation or the like. A limitation typed over a figure does not take its place.
//!
//! What stands is an index into the readings, which are only ever appended: it grows by what is new, so that
//! a reading more costs that reading and not all of them.

use crate::installation::{Circuit, Installation};
use crate::reading::cache::{Cache, WorkedOut};
use crate::reading::{Key, Place, Reading, Subject, Test, Value};
use rust_decimal::Decimal;
use rustc_hash::FxHashMap;
use std::sync::Arc;
use uuid::Uuid;

/// What strikes readings out: the log of a job, or nothing.
pub trait StrikeOuts<'a> {
    /// Each reading that was struck out, with the reason.
    fn strike_outs(self) -> impl Iterator<Item = (Uuid, &'a str)>;
}

/// Which readings stand, by their places in the list of readings.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ReadingIndex {
    /// Every reading of a key, oldest first.
    by_key: FxHashMap<Key, Vec<u32>>,
    /// Every reading of a circuit, oldest first.
    for_circuit: FxHashMap<Uuid, Vec<u32>>,
    /// Every reading that is of no one circuit, oldest first.
    of_no_circuit: Vec<u32>,
    by_id: FxHashMap<Uuid, u32>,
    struck: FxHashMap<Uuid, String>,
    /// The keys of sets of circuits, in the order first read.
    sets: Vec<Key>,
    /// Of each reading, whether it stands.
    stands: Vec<bool>,
}

impl ReadingIndex {
    /// Takes in what was appended since: `readings` is the whole list, `strikes` are the new ones.
    pub fn grow<'a>(&mut self, readings: &[Reading], strikes: impl StrikeOuts<'a>) {
        for (at, reading) in readings.iter().enumerate().skip(self.stands.len()) {
            self.append(u32::try_from(at).unwrap_or(u32::MAX), reading, readings);
        }
        for (id, reason) in strikes.strike_outs() {
            self.struck.insert(id, reason.to_owned());
            let key = self.by_id.get(&id).and_then(|at| readings.get(*at as usize)).map(|reading| &reading.key);
            if let Some(all) = key.and_then(|key| self.by_key.get(key)) {
                let latest = latest(all, readings, &self.struck);
                for at in all {
                    self.stands[*at as usize] = Some(*at) == latest;
                }
            }
        }
    }

    fn append(&mut self, at: u32, reading: &Reading, readings: &[Reading]) {
        let of_set = matches!(reading.key.subject, Subject::CircuitSet { .. });
        if of_set && !self.by_key.contains_key(&reading.key) {
            self.sets.push(reading.key.clone());
        }
        let mut stands = !self.struck.contains_key(&reading.id);
        // Most keys are read once: none is cloned for the others.
        if let Some(all) = self.by_key.get_mut(&reading.key) {
            // A figure gives way to a figure only.
            let figure_stands =
                |before: &u32| self.stands[*before as usize] && readings[*before as usize].value.is_figure();
            stands &= reading.value.is_figure() || !all.iter().any(figure_stands);
            if stands {
                for before in all.iter() {
                    self.stands[*before as usize] = false;
                }
            }
            all.push(at);
        } else {
            self.by_key.insert(reading.key.clone(), vec![at]);
        }
        self.stands.push(stands);
        self.by_id.insert(reading.id, at);
        if let Some(circuit) = reading.key.subject.circuit() {
            self.for_circuit.entry(circuit).or_default().push(at);
        } else {
            self.of_no_circuit.push(at);
        }
    }

    /// How many readings it knows.
    pub const fn len(&self) -> usize {
        self.stands.len()
    }

    /// Whether it knows none.
    pub const fn is_empty(&self) -> bool {
        self.stands.is_empty()
    }
}

/// The latest figure of some readings that is not struck out, else the latest of the others.
fn latest(all: &[u32], readings: &[Reading], struck: &FxHashMap<Uuid, String>) -> Option<u32> {
    let kept = || all.iter().rev().copied().filter(|at| !struck.contains_key(&readings[*at as usize].id));
    kept().find(|at| readings[*at as usize].value.is_figure()).or_else(|| kept().next())
}

/// Its own, or kept beside the job.
#[derive(Debug, Clone)]
enum IndexSource<'a> {
    Own(Box<ReadingIndex>),
    Kept(&'a ReadingIndex),
}

/// The readings of a job as they stand: the latest of each key that is not struck out.
#[derive(Debug, Clone)]
pub struct CurrentReadings<'a> {
    readings: &'a [Reading],
    held: IndexSource<'a>,
    /// What was worked out of the circuits of one description.
    memo: Option<(&'a Cache, &'a Installation)>,
}

impl Default for CurrentReadings<'_> {
    fn default() -> Self {
        Self::new(&[], &[])
    }
}

impl<'a> CurrentReadings<'a> {
    /// Sorts readings (in the order stored), without those that were struck out.
    pub fn new(readings: &'a [Reading], strikes: impl StrikeOuts<'a>) -> Self {
        let mut standing = ReadingIndex::default();
        standing.grow(readings, strikes);
        Self { readings, held: IndexSource::Own(Box::new(standing)), memo: None }
    }

    /// The same of readings whose standing is kept, with what was worked out of the circuits of a description.
    pub const fn kept(
        readings: &'a [Reading],
        standing: &'a ReadingIndex,
        memo: (&'a Cache, &'a Installation),
    ) -> Self {
        Self { readings, held: IndexSource::Kept(standing), memo: Some(memo) }
    }

    /// Something of a circuit, worked out once and kept until a reading touches it; of another description than
    /// the one that is kept, or where nothing is kept, worked out each time.
    pub fn cached<T: WorkedOut>(
        &self,
        installation: &Installation,
        circuit: &Circuit,
        work: impl FnOnce() -> T,
    ) -> Arc<T> {
        match self.memo {
            // The very description, and a circuit in it: a changed copy stands elsewhere.
            Some((memo, kept))
                if std::ptr::eq(kept, installation)
                    && kept.circuits.as_ptr_range().contains(&std::ptr::from_ref(circuit)) =>
            {
                memo.get(circuit.id, work)
            }
            _ => Arc::new(work()),
        }
    }

    fn standing_now(&self) -> &ReadingIndex {
        match &self.held {
            IndexSource::Own(own) => own,
            IndexSource::Kept(kept) => kept,
        }
    }

    fn at(&self, at: u32) -> &'a Reading {
        &self.readings[at as usize]
    }

    /// The reading that stands for a key.
    pub fn get(&self, key: &Key) -> Option<&'a Reading> {
        let now = self.standing_now();
        latest(now.by_key.get(key)?, self.readings, &now.struck).map(|at| self.at(at))
    }

    /// Its value.
    pub fn value(&self, key: &Key) -> Option<&'a Value> {
        self.get(key).map(|reading| &reading.value)
    }

    /// Its number as a float.
    pub fn float(&self, key: &Key) -> Option<f64> {
        self.value(key)?.float()
    }

    /// Readings of sets of circuits that stand, in the order first taken.
    pub fn for_sets(&self) -> impl Iterator<Item = &'a Reading> + '_ {
        self.standing_now().sets.iter().filter_map(|key| self.get(key))
    }

    /// Every reading ever taken for a key, oldest first, with the reason if it was struck out.
    pub fn history(&self, key: &Key) -> Vec<(&'a Reading, Option<&str>)> {
        let now = self.standing_now();
        let all = now.by_key.get(key).map(Vec::as_slice).unwrap_or_default();
        let with_reason = |at: &u32| {
            let reading = self.at(*at);
            (reading, now.struck.get(&reading.id).map(String::as_str))
        };
        all.iter().map(with_reason).collect()
    }

    /// Every key of which anything was ever read on a circuit, in the order first read.
    pub fn keys_of(&self, circuit: Uuid) -> impl Iterator<Item = &'a Key> + '_ {
        let all = self.standing_now().for_circuit.get(&circuit).map(Vec::as_slice).unwrap_or_default();
        self.first_of_each(all.iter().copied())
    }

    /// Every key of which anything was ever read that is of no circuit, in the order first read.
    pub fn keys_of_no_circuit(&self) -> impl Iterator<Item = &'a Key> + '_ {
        self.first_of_each(self.standing_now().of_no_circuit.iter().copied())
    }

    fn first_of_each<'s>(&'s self, all: impl Iterator<Item = u32> + 's) -> impl Iterator<Item = &'a Key> + 's {
        let first = |at: &u32| {
            let of_key = self.standing_now().by_key.get(&self.at(*at).key);
            of_key.and_then(|all| all.first()) == Some(at)
        };
        all.filter(first).map(|at| &self.at(at).key)
    }

    /// Whether anything was ever struck out.
    pub fn has_strike_outs(&self) -> bool {
        !self.standing_now().struck.is_empty()
    }

    /// The figures of a key that were struck out, where no figure took their place, each with where it stands in the
    /// order stored; oldest first.
    pub fn struck_figures(&self, key: &Key) -> Vec<(u32, &'a Value)> {
        let now = self.standing_now();
        if now.struck.is_empty() || self.value(key).is_some_and(Value::is_figure) {
            return Vec::new();
        }
        let all = now.by_key.get(key).map(Vec::as_slice).unwrap_or_default();
        let struck = all.iter().filter(|at| now.struck.contains_key(&self.at(**at).id));
        struck.map(|at| (*at, &self.at(*at).value)).filter(|(_, value)| value.is_figure()).collect()
    }

    /// Where in the order stored the reading in force of a key stands.
    pub fn order_of(&self, key: &Key) -> Option<u32> {
        let now = self.standing_now();
        latest(now.by_key.get(key)?, self.readings, &now.struck)
    }

    /// Whether what was read of the insulation of a set, or of a part of a circuit, was answered later for one circuit:
    /// by a reading of that circuit on its own, or by a set with it that was not under a minimum, MΩ; between conductors
    /// of the same kind, or joined to earth.
    pub fn is_insulation_answered(&self, (than, read): (&Key, u32), circuit: Uuid, least: Decimal) -> bool {
        let same = |key: &Key| match (key.pair, than.pair) {
            (None, _) => than.is_to_earth(),
            (Some(one), Some(other)) => one.is_alike(other),
            (Some(_), None) => false,
        };
        let later = |key: &Key| self.order_of(key).is_some_and(|at| at > read);
        let sound = |value: &Value| matches!(value, Value::Number(mohm) | Value::Over(mohm) if *mohm >= least);
        let answers = |key: &Key| match &key.subject {
            Subject::Place { place: Place::Board, .. } => {
                matches!(key.test, Test::Insulation | Test::InsulationJoined)
                    && self.value(key).is_some_and(Value::is_figure)
            }
            Subject::CircuitSet { circuits } => circuits.contains(&circuit) && self.value(key).is_some_and(sound),
            _ => false,
        };
        let all = self.keys_of(circuit).chain(self.standing_now().sets.iter());
        all.filter(|key| same(key) && later(key)).any(answers)
    }

    /// Every reading that stands, in the order stored.
    pub fn standing(&self) -> impl Iterator<Item = &'a Reading> + '_ {
        let stands = &self.standing_now().stands;
        self.readings.iter().zip(stands).filter(|(_, stands)| **stands).map(|(reading, _)| reading)
    }

    /// Readings of a circuit that stand, in the order stored.
    pub fn standing_of(&self, circuit: Uuid) -> impl Iterator<Item = &'a Reading> + '_ {
        let now = self.standing_now();
        let all = now.for_circuit.get(&circuit).map(Vec::as_slice).unwrap_or_default();
        all.iter().filter(|at| now.stands[**at as usize]).map(|at| self.at(*at))
    }
}
