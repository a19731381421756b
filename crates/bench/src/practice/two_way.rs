//! Lights with two switches, or with an intermediate between: what is wrong at the switches shows in which positions light.

use super::drawn::{Pattern, rig, way, whole};
use super::marking::same;
use super::posed::{Ask, Exercise, Level, Posed, Truth};
use crate::meter::Meter;
use crate::rig::bench::Bench;
use crate::rig::grid::Grid;
use crate::rig::stand::RigState;
use crate::rig::terminal::{Terminal, Wire};
use crate::rig::{AtSwitch, Fitting, JOINED_OHM, Rig};
use proof_standard::shape::Shape;

/// Everything that may be wrong with so many switches: its key, in words, and as it is built.
pub fn wrongs(switches: usize) -> Vec<(String, String, Option<AtSwitch>)> {
    let mut all = vec![("sound".to_owned(), "nothing".to_owned(), None)];
    for (at, name) in [(0, "the first switch"), (switches - 1, "the last switch")] {
        for (strapper, number) in [(Wire::S1, 1), (Wire::S2, 2)] {
            all.push((
                format!("changed-{}-{number}", at + 1),
                format!("common and strapper {number} changed at {name}"),
                Some(AtSwitch::Changed(at, [Wire::L1, strapper])),
            ));
        }
    }
    for after in 0..switches - 1 {
        for (strapper, number) in [(Wire::S1, 1), (Wire::S2, 2)] {
            all.push((
                format!("broken-{}-{number}", after + 1),
                format!("strapper {number} broken after switch {}", after + 1),
                Some(AtSwitch::Broken(after, strapper)),
            ));
        }
    }
    if switches == 3 {
        all.push((
            "changed-2".to_owned(),
            "strappers changed at the intermediate: one in with one out".to_owned(),
            Some(AtSwitch::Changed(1, [Wire::S2, Wire::S3])),
        ));
    }
    all
}

/// The grids of a rig whose first way has so many switches, one for every position, line linked to the earth bar.
fn positions(rig: &Rig, switches: usize) -> Vec<Grid> {
    let of = |bits: usize| {
        let mut stand = RigState::isolated(rig);
        stand.links.insert((Terminal::Bar(Wire::E), Terminal::Tail { way: 0, leg: 1, core: Wire::L1 }));
        stand.switches_off = (0..switches).filter(|at| bits & (1 << at) != 0).map(|at| (0, at)).collect();
        Grid::new(rig, &stand, 0.0)
    };
    (0..1 << switches).map(of).collect()
}

/// What the lamp reads to earth in each position, Ω.
pub fn at_the_lamp(rig: &Rig) -> Vec<Option<f64>> {
    let switches = rig.ways[0].switches().len();
    let lamp = |core| Terminal::Point { way: 0, point: switches, core };
    let read = |grid: &Grid| grid.ohm(lamp(Wire::L1), lamp(Wire::E)).filter(|ohm| *ohm < JOINED_OHM);
    positions(rig, switches).iter().map(read).collect()
}

/// Whether two rigs of the same switches read the same at every terminal in every position.
pub fn read_alike(a: &Rig, b: &Rig) -> bool {
    let switches = a.ways[0].switches().len();
    positions(a, switches).iter().zip(&positions(b, switches)).all(|(a, b)| {
        let points = a.terminals().filter(|one| matches!(one, Terminal::Point { way: 0, .. }));
        points.into_iter().all(|one| {
            let Terminal::Point { point, .. } = one else { return true };
            let earth = Terminal::Point { way: 0, point, core: Wire::E };
            let read = |grid: &Grid| grid.ohm(one, earth).filter(|ohm| *ohm < JOINED_OHM);
            same(read(a), read(b))
        })
    })
}

/// The same rig with something else at its switches.
pub fn with_switches(rig: &Rig, wrong: Option<AtSwitch>) -> Rig {
    let mut other = rig.clone();
    other.ways[0].at_switches = wrong.into_iter().collect();
    other
}

/// Two switches; hard: an intermediate between.
pub(super) fn posed(level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let switches = if level == Level::Hard { 3 } else { 2 };
    let pattern = Pattern {
        label: "Granary stair lights",
        shape: Shape::Radial,
        points: (switches + 1, switches + 1),
        mm2: [1.5, 1.5, 1.0],
        device: "B6",
        fitting: Fitting::TwoWay,
    };
    let mut first = way(&pattern, &mut meter)?;
    first.fittings[switches] = Fitting::Lamp;
    if switches == 3 {
        first.fittings[1] = Fitting::Intermediate;
    }
    let all = wrongs(switches);
    let sound = meter.share() < if level == Level::First { 0.5 } else { 0.25 };
    let chosen = if sound { 0 } else { whole(&mut meter, 1, all.len() - 1) };
    let (key, _, wrong) = all[chosen].clone();
    first.at_switches = wrong.into_iter().collect();
    let rig = rig(vec![first], &mut meter);
    let highest = at_the_lamp(&rig).into_iter().flatten().fold(0.0, f64::max);
    let of =
        std::iter::once((String::new(), "—".to_owned())).chain(all.into_iter().map(|(key, words, _)| (key, words)));
    let asks = vec![
        Ask::Figure { name: "r1_r2", label: "R1+R2 at the lamp for the schedule, Ω" },
        Ask::Choice { name: "switches", label: "What is wrong at the switches", of: of.collect() },
    ];
    let stand = RigState::isolated(&rig);
    // Every position at the lamp, and each common once.
    let fewest = (1 << switches) + 2;
    let settles = "Each switch in each position, at the lamp: an even number thrown lights, an odd one does not. At the first box the common reads in both positions: where it does not, it is in the wrong terminal.";
    let truth = Truth::Switches { key, r1_r2: highest };
    Some(Posed::for_exercise(Exercise::TwoWay, Bench::new(rig, stand, seed).proved(), asks, truth, (fewest, settles)))
}
