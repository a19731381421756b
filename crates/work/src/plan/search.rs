//! The search for what pulls a board's insulation down.
//!
//! Its state is nothing but the readings of sets of circuits that stand: which were on the bar,
//! and what was shown. From them follow which circuits are clear, which are at fault, and which
//! set to read next in the order that the house rule wants. Two faults are found like one.
//! One off, read, back on; all off, back on one at a time: common practice, no source. Halving is
//! our own addition.

use crate::plan::sets::circuits_read_together;
use proof_job::installation::{Board, Circuit, Installation, PointId};
use proof_job::reading::keys::{broken_key, set_key};
use proof_job::reading::{CurrentReadings, Subject, Value};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::house_rules::SearchOrder;
use proof_standard::limits::insulation::least;
use proof_standard::quantity::approximate;
use proof_standard::shape::Shape;
use uuid::Uuid;

/// How a circuit is taken off the bar for a pair.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Lift {
    /// Its way switched off: the line leaves the bar.
    Way,
    /// Its neutral out of the bar.
    Neutral,
    /// Both.
    Both,
}

impl Lift {
    /// What a pair's search takes off.
    pub const fn for_pair(pair: Option<Pair>) -> Self {
        match pair {
            None => Self::Both,
            Some(pair) => match pair.both() {
                (Conductor::N, Conductor::E) => Self::Neutral,
                _ => Self::Way,
            },
        }
    }

    /// Off the bar, in words.
    pub const fn off(self) -> &'static str {
        match self {
            Self::Way => "way off",
            Self::Neutral => "neutral out of the bar",
            Self::Both => "way off and neutral out of the bar",
        }
    }

    /// Whether a neutral leaves the bar, which is put back afterwards.
    pub const fn lifts_neutral(self) -> bool {
        matches!(self, Self::Neutral | Self::Both)
    }
}

/// What the search says.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Next {
    /// Read with these circuits on the bar and the others off.
    Read(Vec<Uuid>),
    /// The whole is sound: there is nothing to search for.
    Sound,
    /// Every circuit is settled: these are at fault.
    Found(Vec<Uuid>),
    /// Each circuit alone is above the minimum; together they are not.
    TogetherOnly,
}

/// How a circuit stands in a search.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SearchState {
    /// Not known yet.
    Suspect,
    /// It was on the bar when the reading was right.
    Clear,
    /// At fault.
    AtFault,
}

/// A search on one board between one pair.
#[derive(Debug, Clone)]
pub struct Search {
    circuits: Vec<Uuid>,
    /// Sets read, as indices, with what was shown, MΩ, and whether it is a bound only.
    read: Vec<(Vec<usize>, f64, bool)>,
    order: SearchOrder,
    least: f64,
}

impl Search {
    /// A search over circuits of which nothing was read yet, in the order of a house rule.
    pub fn new(circuits: Vec<Uuid>, order: SearchOrder) -> Self {
        Self { circuits, read: Vec::new(), order, least: approximate(least()) }
    }

    /// The search on a board between a pair, from the readings that stand.
    pub fn on_board(
        installation: &Installation,
        board: &Board,
        settled: &CurrentReadings<'_>,
        pair: Option<Pair>,
    ) -> Self {
        let circuits = circuits_read_together(installation, board.id, pair).map(|circuit| circuit.id).collect();
        let mut search = Self::new(circuits, installation.house_rules.search);
        let test = set_key(Vec::new(), pair).test;
        for reading in settled.for_sets().filter(|reading| reading.key.test == test && reading.key.pair == pair) {
            let Subject::CircuitSet { circuits } = &reading.key.subject else { continue };
            match &reading.value {
                Value::Number(megohms) => search.shown(circuits, approximate(*megohms), false),
                Value::Over(bound) => search.shown(circuits, approximate(*bound), true),
                _ => {}
            }
        }
        search
    }

    /// The circuits of the board, in the order of its ways.
    pub fn circuits(&self) -> &[Uuid] {
        &self.circuits
    }

    /// Takes a reading in: which circuits were on the bar, what was shown, MΩ, and whether that is a bound only.
    pub fn shown(&mut self, circuits: &[Uuid], megohms: f64, bound: bool) {
        let set: Option<Vec<usize>> =
            circuits.iter().map(|id| self.circuits.iter().position(|other| other == id)).collect();
        // A set that holds a circuit of elsewhere says nothing here.
        if let Some(mut set) = set {
            set.sort_unstable();
            self.read.push((set, megohms, bound));
        }
    }

    fn value(&self, set: &[usize]) -> Option<(f64, bool)> {
        self.read.iter().rev().find(|(read, ..)| read == set).map(|(_, megohms, bound)| (*megohms, *bound))
    }

    fn is_clear(&self, circuit: usize) -> bool {
        self.read.iter().any(|(set, megohms, _)| *megohms >= self.least && set.contains(&circuit))
    }

    /// At fault for certain: alone under the minimum, or the difference between a set with it and
    /// the same set without it is more than a sound circuit carries.
    fn is_at_fault(&self, circuit: usize) -> bool {
        self.read.iter().any(|(set, megohms, bound)| {
            if *bound || *megohms >= self.least || !set.contains(&circuit) {
                return false;
            }
            let without: Vec<usize> = set.iter().copied().filter(|other| *other != circuit).collect();
            if without.is_empty() {
                return true;
            }
            let Some((rest, _)) = self.value(&without) else { return false };
            // A reading of zero carries everything.
            let carries = 1.0 / megohms.max(1e-6) - 1.0 / rest.max(1e-6);
            rest >= self.least && carries > 1.0 / self.least
        })
    }

    /// How each circuit stands, in the order of the ways.
    pub fn standings(&self) -> Vec<(Uuid, SearchState)> {
        self.circuits
            .iter()
            .enumerate()
            .map(|(index, id)| {
                let standing = if self.is_at_fault(index) {
                    SearchState::AtFault
                } else if self.is_clear(index) {
                    SearchState::Clear
                } else {
                    SearchState::Suspect
                };
                (*id, standing)
            })
            .collect()
    }

    /// Readings taken so far.
    pub fn taken(&self) -> usize {
        self.read.len()
    }

    /// The set last read, as it stands on the bar now.
    pub fn on_the_bar(&self) -> Option<Vec<Uuid>> {
        self.read.last().map(|(set, ..)| set.iter().map(|index| self.circuits[*index]).collect())
    }

    /// What to read next, or what was found.
    pub fn next(&self) -> Next {
        let all: Vec<usize> = (0..self.circuits.len()).collect();
        let named = |set: Vec<usize>| Next::Read(set.into_iter().map(|index| self.circuits[index]).collect());
        match self.value(&all) {
            None => return named(all),
            Some((megohms, _)) if megohms >= self.least => return Next::Sound,
            Some(_) => {}
        }
        let faulty: Vec<usize> = all.iter().copied().filter(|index| self.is_at_fault(*index)).collect();
        let unknown: Vec<usize> =
            all.iter().copied().filter(|index| !faulty.contains(index) && !self.is_clear(*index)).collect();
        if unknown.is_empty() {
            if faulty.is_empty() {
                return Next::TogetherOnly;
            }
            return Next::Found(faulty.into_iter().map(|index| self.circuits[index]).collect());
        }
        let without =
            |out: &[usize]| -> Vec<usize> { all.iter().copied().filter(|index| !out.contains(index)).collect() };
        if self.order != SearchOrder::AllOff && !faulty.is_empty() {
            let rest = without(&faulty);
            if self.value(&rest).is_none() {
                return named(rest);
            }
        }
        match self.order {
            SearchOrder::InOrder if faulty.is_empty() && all.len() > 1 => {
                let one_off = all.iter().map(|index| without(&[*index])).find(|set| self.value(set).is_none());
                named(one_off.unwrap_or_else(|| self.one_more(&unknown)))
            }
            SearchOrder::InOrder | SearchOrder::AllOff => named(self.one_more(&unknown)),
            SearchOrder::Halving => named(self.half(&unknown, &faulty)),
        }
    }

    /// All off, one back on: the first that is not known beside what is known to be right.
    fn one_more(&self, unknown: &[usize]) -> Vec<usize> {
        let right = self.read.iter().filter(|(_, megohms, _)| *megohms >= self.least);
        let mut set = right.max_by_key(|(set, ..)| set.len()).map(|(set, ..)| set.clone()).unwrap_or_default();
        set.push(unknown[0]);
        set.sort_unstable();
        // Not right, and not for certain because of the last: alone.
        if self.value(&set).is_some() { vec![unknown[0]] } else { set }
    }

    /// Half of the smallest set that is wrong and not explained.
    fn half(&self, unknown: &[usize], faulty: &[usize]) -> Vec<usize> {
        let wrong = self
            .read
            .iter()
            .filter(|(set, megohms, _)| *megohms < self.least && !set.iter().any(|index| faulty.contains(index)))
            .map(|(set, ..)| set.iter().copied().filter(|index| unknown.contains(index)).collect::<Vec<_>>())
            .filter(|left| !left.is_empty())
            .min_by_key(Vec::len);
        match wrong {
            None => unknown.to_vec(),
            Some(left) => left[..left.len().div_ceil(2)].to_vec(),
        }
    }
}

/// The search goes on inside a circuit: broken open at points, read from the board.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Inside {
    /// Open the run at this point, so that it and all before it stay on, and read from the board.
    OpenAt(PointId),
    /// It lies from the one (none: the board) to the other.
    Between(Option<PointId>, PointId),
    /// The circuit has no points to open.
    NoPoints,
}

/// Which accessory to open next: halving along the run, from the readings that stand. A ring is
/// read from one end with the other out.
pub fn inside(circuit: &Circuit, settled: &CurrentReadings<'_>, pair: Option<Pair>) -> Inside {
    let points: Vec<PointId> = circuit.main_points().map(|point| point.id).collect();
    let minimum = approximate(least());
    // Right up to `low`, wrong from `high`.
    let (mut low, mut high) = (0, points.len());
    for (index, point) in points.iter().enumerate() {
        match settled.value(&broken_key(circuit.id, *point, pair)) {
            Some(Value::Number(megohms)) if approximate(*megohms) < minimum => high = high.min(index + 1),
            Some(Value::Number(_) | Value::Over(_)) => low = low.max(index + 1),
            _ => {}
        }
    }
    let Some(last) = points.last() else { return Inside::NoPoints };
    if low + 1 >= high {
        let from = low.checked_sub(1).map(|index| points[index]);
        return Inside::Between(from, points.get(low).copied().unwrap_or(*last));
    }
    Inside::OpenAt(points[low + (high - low) / 2 - 1])
}

/// What to look at first in a circuit, before anything is opened: from the figure and from what it feeds.
/// `read`: the figure, MΩ, and whether it was to earth.
pub fn first_looks(circuit: &Circuit, read: Option<(f64, bool)>) -> Vec<String> {
    use proof_job::installation::Carried;
    let mut looks = Vec::new();
    let at = |carried: Carried| -> Vec<&str> {
        circuit.points.iter().filter(|p| p.connected_load.contains(&carried)).map(|p| p.name.as_str()).collect()
    };
    for (carried, why) in [
        (Carried::Water, "anything with water in it is first suspect"),
        (Carried::Outdoors, "outdoors is first suspect"),
        (Carried::Neon, "a neon indicator reads about a quarter of a megohm between line and neutral"),
        (Carried::Electronics, "a filter reads to earth"),
        (Carried::Hidden, "look in the loft and the cupboards"),
        (Carried::Appliance, "is it unplugged or isolated?"),
        (Carried::Lamp, "is the lamp out?"),
        (Carried::Dimmer, "line and neutral joined? a dimmer reads between them"),
    ] {
        let points = at(carried);
        if !points.is_empty() {
            looks.push(format!("{}: {why}", points.join(", ")));
        }
    }
    if let Some((megohms, to_earth)) = read {
        looks.insert(0, proof_judge::verdict::likely_cause(megohms, to_earth).to_string());
    }
    if circuit.shape == Shape::Ring {
        looks.push("read the ring from one end, the other out".to_owned());
    }
    looks
}
