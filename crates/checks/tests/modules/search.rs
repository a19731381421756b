//! The search for a weak circuit.

use proof_bench::demo;
use proof_job::installation::PointId;
use proof_job::reading::keys::broken_key;
use proof_job::reading::{CurrentReadings, Key, Reading, Value};
use proof_standard::conductor::Pair;
use proof_standard::house_rules::SearchOrder;
use proof_work::plan::search::{Inside, Lift, Next, Search, SearchState, first_looks, inside};
use rust_decimal::Decimal;
use rust_decimal::prelude::FromPrimitive;
use uuid::Uuid;

/// A small generator of its own, so that no two runs differ (splitmix64).
struct Chance(u64);

impl Chance {
    fn next(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        (z ^ (z >> 31)) as f64 / u64::MAX as f64
    }

    fn below(&mut self, most: usize) -> usize {
        ((self.next() * most as f64) as usize).min(most - 1)
    }
}

fn searched(count: usize, order: SearchOrder) -> Search {
    let circuits = (0..count).map(|index| Uuid::from_u128(index as u128 + 1)).collect();
    Search::new(circuits, order)
}

/// Lets the hidden board answer until the search ends; how it ended and how many readings it took.
fn driven(hidden: &[f64], order: SearchOrder) -> (Next, usize) {
    let mut search = searched(hidden.len(), order);
    for taken in 0..10 * hidden.len() + 10 {
        let next = search.next();
        let Next::Read(set) = &next else { return (next, taken) };
        let siemens: f64 = set.iter().map(|id| 1.0 / hidden[id.as_u128() as usize - 1]).sum();
        let megohms = 1.0 / siemens;
        // As an instrument shows it: two places, over range at 999.
        if megohms > 999.0 {
            search.shown(set, 999.0, true);
        } else {
            search.shown(set, (megohms * 100.0).round() / 100.0, false);
        }
    }
    panic!("the search does not end: {hidden:?}");
}

/// Random boards, one or two hidden faults, answering each reading: every order names them all.
#[test]
fn random_hidden_faults_are_named_in_every_order() {
    let mut chance = Chance(20_261_125);
    for trial in 0..1000 {
        let count = 2 + chance.below(22);
        let mut hidden: Vec<f64> = (0..count).map(|_| 300.0 + 3000.0 * chance.next()).collect();
        let faults = 1 + chance.below(2);
        let mut at: Vec<usize> = Vec::new();
        while at.len() < faults.min(count) {
            let fault = chance.below(count);
            if !at.contains(&fault) {
                hidden[fault] = [0.0001, 0.02, 0.25, 0.6, 0.9][chance.below(5)];
                at.push(fault);
            }
        }
        at.sort_unstable();
        let wanted: Vec<Uuid> = at.iter().map(|index| Uuid::from_u128(*index as u128 + 1)).collect();
        for order in [SearchOrder::InOrder, SearchOrder::AllOff, SearchOrder::Halving] {
            let (end, taken) = driven(&hidden, order);
            assert_eq!(end, Next::Found(wanted.clone()), "trial {trial}, {order:?}, {hidden:?}");
            assert!(taken <= 3 * count + 3, "{order:?} took {taken} on {count}");
        }
    }
}

#[test]
fn halving_takes_the_fewest_on_a_long_board() {
    let mut hidden = vec![900.0; 24];
    hidden[17] = 0.25;
    let readings = |order| driven(&hidden, order).1;
    assert!(readings(SearchOrder::Halving) <= 8, "{}", readings(SearchOrder::Halving));
    assert!(readings(SearchOrder::InOrder) >= 18);
    assert!(readings(SearchOrder::AllOff) >= 18);
}

#[test]
fn many_weak_circuits_are_no_fault_of_one() {
    for order in [SearchOrder::InOrder, SearchOrder::AllOff, SearchOrder::Halving] {
        assert_eq!(driven(&[4.0; 8], order).0, Next::TogetherOnly, "{order:?}");
    }
    assert_eq!(driven(&[400.0; 8], SearchOrder::InOrder), (Next::Sound, 1));
}

#[test]
fn in_order_lifts_one_reads_and_puts_it_back() {
    let mut search = searched(4, SearchOrder::InOrder);
    let ids = search.circuits().to_vec();
    assert_eq!(search.next(), Next::Read(ids.clone()));
    search.shown(&ids, 0.2, false);
    assert_eq!(search.next(), Next::Read(ids[1..].to_vec()));
    search.shown(&ids[1..], 0.2, false);
    assert_eq!(search.next(), Next::Read(vec![ids[0], ids[2], ids[3]]));
    search.shown(&[ids[0], ids[2], ids[3]], 999.0, true);
    assert_eq!(search.next(), Next::Found(vec![ids[1]]));
    assert_eq!(search.standings()[0].1, SearchState::Clear);
}

#[test]
fn neutrals_are_lifted_where_switching_ways_does_nothing() {
    assert_eq!(Lift::for_pair(Some(Pair::NEUTRAL_EARTH)), Lift::Neutral);
    assert_eq!(Lift::for_pair(Some(Pair::LINE_EARTH)), Lift::Way);
    assert_eq!(Lift::for_pair(Some(Pair::LINE_NEUTRAL)), Lift::Way);
    assert_eq!(Lift::for_pair(None), Lift::Both);
}

fn insulation(template: &Reading, key: Key, megohms: f64) -> Reading {
    let value = Value::Number(Decimal::from_f64(megohms).unwrap());
    Reading { id: Uuid::new_v4(), key, typed: value.shown(), value, ..template.clone() }
}

/// Inside the circuit: the run is broken until two neighbours hold the fault between them.
#[test]
fn the_search_ends_between_two_neighbours() {
    let job = demo::jobs().swap_remove(0);
    let circuit = &job.installation.circuits[2];
    let points: Vec<PointId> = circuit.main_points().map(|point| point.id).collect();
    for hidden in 0..points.len() {
        let mut readings: Vec<Reading> = Vec::new();
        let end = loop {
            let settled = CurrentReadings::new(&readings, &[]);
            match inside(circuit, &settled, Some(Pair::LINE_EARTH)) {
                Inside::OpenAt(point) => {
                    let at = points.iter().position(|other| *other == point).unwrap();
                    let megohms = if at >= hidden { 0.3 } else { 500.0 };
                    let key = broken_key(circuit.id, point, Some(Pair::LINE_EARTH));
                    readings.push(insulation(&job.readings[0], key, megohms));
                }
                end => break end,
            }
            assert!(readings.len() <= 6);
        };
        let before = hidden.checked_sub(1).map(|index| points[index]);
        assert_eq!(end, Inside::Between(before, points[hidden]), "hidden at {hidden}");
    }
}

#[test]
fn what_hangs_on_it_is_looked_at_first() {
    use proof_job::installation::Carried;
    let mut circuit = demo::jobs().swap_remove(0).installation.circuits.swap_remove(7);
    circuit.points[0].connected_load = vec![Carried::Neon, Carried::Outdoors];
    let looks = first_looks(&circuit, Some((0.26, false)));
    assert!(looks[0].contains("neon"), "{looks:?}");
    // A neon never reads to earth.
    assert!(!first_looks(&circuit, Some((0.26, true)))[0].contains("neon"));
    assert!(looks.iter().any(|look| look.contains("outdoors")), "{looks:?}");
}
