//! Installations for the exercises, drawn from a seed. All figures are invented within what is usual.

use super::drawn::rig;
pub use super::drawn::{ask_fault, with_fault, with_faults};
use super::posed::{Exercise, Level, Posed, Truth, Wrong};
use super::{before_reading, dead, live, paper, two_way, whole_board};
use crate::meter::Meter;
use crate::rig::bench::Bench;
use crate::rig::stand::RigState;
use crate::rig::{Feed, Supply, Way};

/// Poses an exercise as it usually is.
pub fn pose(exercise: Exercise, seed: u64) -> Option<Posed> {
    pose_at(exercise, Level::Usual, seed)
}

/// Poses an exercise, easier or harder.
pub fn pose_at(exercise: Exercise, level: Level, seed: u64) -> Option<Posed> {
    match exercise {
        Exercise::ProveDead => live::prove_dead(level, seed),
        Exercise::Null => before_reading::null(level, seed),
        Exercise::Ratio => before_reading::ratio(level, seed),
        Exercise::Radial | Exercise::Ring => dead::circuit(exercise, level, seed),
        Exercise::TwoWay => two_way::posed(level, seed),
        Exercise::Insulation => dead::insulation(level, seed),
        Exercise::Bonding => dead::bonding(level, seed),
        Exercise::Origin => live::origin(level, seed),
        Exercise::Zs => live::zs(level, seed),
        Exercise::Residual => live::residual(level, seed),
        Exercise::WholeBoard => whole_board::posed(level, seed),
        Exercise::Paper => paper::posed(level, seed),
        Exercise::Voltages => live::voltages(level, seed),
    }
}

/// A circuit of a job on the bench, as it is described, sound or with a fault: alone on a board that is locked off and
/// proved dead.
pub fn tried(mut way: Way, supply: Option<Supply>, (wrong, ohm): (Wrong, f64), seed: u64) -> Posed {
    let mut meter = Meter::new(seed);
    way.cable = with_fault(&way.cable, wrong, ohm);
    let title = format!("On the bench: {}", way.label);
    let three = way.feed == Feed::Three;
    let mut rig = rig(vec![way], &mut meter);
    if let Some(supply) = supply {
        rig.supply = supply;
        // What is in the ground beside it is in what was read there.
        rig.bonds.clear();
    }
    rig.supply.three_phase = three;
    let stand = RigState::isolated(&rig);
    Posed {
        title,
        goal: format!("As it is described, {}. What is read here is never a reading of the job.", wrong.text()),
        hints: &[],
        bench: Bench::new(rig, stand, seed).proved(),
        asks: Vec::new(),
        truth: Truth::Tried,
        paper: None,
        fewest: 0,
        settles: String::new(),
    }
}
