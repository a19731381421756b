//! The modules of the core, tried on the demo's jobs and on small ones of their own.

use proof_job::installation::Installation;
use proof_standard::limits::devices::DeviceStandard;

mod alone;
mod answers;
mod certificate;
mod design;
mod disturbance;
mod expectation;
mod gate;
mod hook_up;
mod industrial;
mod instrument;
mod live;
mod long_lead;
mod minor;
mod occupied;
mod one_judge;
mod one_maker;
mod outlets;
mod paper;
mod paper_row;
mod patterns;
mod polarity;
mod preparation;
mod reading;
mod review;
mod run;
mod schools;
mod search;
mod sequence;
mod sets;
mod shorthand;
mod site;
mod spoken_to;
mod spur_metres;
mod supply_chain;
mod switching;
mod talked_away;
mod texts;
mod validity;
mod verdict;
mod withdraw;
mod wording;

/// The same boards with plain breakers alone: nothing in them minds 500 V between live conductors.
fn without_electronics(installation: &mut Installation) {
    for circuit in &mut installation.circuits {
        circuit.device.standard = DeviceStandard::BsEn60898;
        circuit.rcd = None;
        circuit.arc_detection = false;
    }
    installation.boards.iter_mut().for_each(|board| board.rcds.clear());
}
