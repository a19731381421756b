//! Questions as an assessor asks them, made from the rules and from random circuits: each with its answer worked by the
//! core, the working, and why. The same seed asks the same.

mod dead;
mod live;
mod pointed;
mod question;

use crate::meter::Meter;
use crate::practice::Exercise;
use question::whole;
pub use question::{ExpectedAnswer, Judged, Question, Stop};

/// What makes a question from chance.
type Maker = fn(&mut Meter) -> Option<Question>;

/// Every kind of question, by its key.
const KINDS: [(&str, Maker); 23] = [
    ("r1r2-of-a-length", dead::r1_r2_of_a_length),
    ("r2-of-a-ring", dead::r2_of_a_ring),
    ("middle-of-a-ring", dead::middle_of_a_ring),
    ("why-r2-is-higher", dead::why_r2_is_higher),
    ("spur-by-its-rise", dead::spur_by_its_rise),
    ("leads-not-nulled", dead::leads_not_nulled),
    ("reversal-by-step", dead::reversal_by_step),
    ("whole-board", dead::whole_board),
    ("pairs", dead::pairs),
    ("pairs-to-prove", dead::pairs_to_prove),
    ("test-voltage", dead::test_voltage),
    ("what-a-low-reading-is", dead::what_a_low_reading_is),
    ("what-next", dead::what_next),
    ("which-box", dead::which_box),
    ("sum-of-the-loop", live::sum_of_the_loop),
    ("fault-current", live::fault_current),
    ("eighty-percent", live::eighty_percent),
    ("trip-time", live::trip_time),
    ("voltages", live::voltages),
    ("declared-ze", live::declared_ze),
    ("where-it-jumps", pointed::where_it_jumps),
    ("which-is-the-spur", pointed::which_is_the_spur),
    ("point-at-the-box", pointed::point_at_the_box),
];

/// Asks: the same seed the same question.
pub fn ask(seed: u64) -> Option<Question> {
    let mut meter = Meter::new(seed);
    let (kind, make) = KINDS.get(whole(&mut meter, 0, KINDS.len() - 1))?;
    make(&mut meter).map(|question| Question { kind, ..question })
}

/// The kinds that go with an exercise, on the way.
pub const fn on_the_way(exercise: Exercise) -> &'static [&'static str] {
    match exercise {
        Exercise::ProveDead => &["pairs-to-prove", "voltages"],
        Exercise::Null => &["leads-not-nulled"],
        Exercise::Bonding => &["leads-not-nulled", "which-box"],
        Exercise::Radial => &["r1r2-of-a-length", "where-it-jumps", "which-box", "what-next"],
        Exercise::Ratio => &["r2-of-a-ring", "why-r2-is-higher"],
        Exercise::Ring => {
            &["middle-of-a-ring", "which-is-the-spur", "spur-by-its-rise", "reversal-by-step", "r2-of-a-ring"]
        }
        Exercise::Insulation => &["what-a-low-reading-is", "whole-board", "pairs", "test-voltage"],
        Exercise::Origin => &["fault-current", "declared-ze"],
        Exercise::Zs => &["sum-of-the-loop", "eighty-percent"],
        Exercise::Residual => &["trip-time"],
        Exercise::Voltages => &["voltages"],
        Exercise::TwoWay => &["r1r2-of-a-length", "which-box"],
        Exercise::WholeBoard => &["what-next", "point-at-the-box", "sum-of-the-loop", "whole-board"],
        Exercise::Paper => &["sum-of-the-loop", "r2-of-a-ring", "fault-current", "whole-board"],
    }
}

/// The first seed from one on that asks a question of some kinds; of any kind where none is named.
pub fn seed_of(kinds: &[&str], from: u64) -> Option<u64> {
    let wanted = |seed: &u64| ask(*seed).is_some_and(|one| kinds.is_empty() || kinds.contains(&one.kind));
    // One seed in some twenty is of a kind: that none of so many is does not happen.
    (from..from.saturating_add(2000)).find(wanted)
}

/// A question that was answered.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Answered {
    /// Its kind.
    pub kind: String,
    /// Whether it was right.
    pub right: bool,
}

/// The kinds that are weak: whose last two answers were not both right, where there was a wrong one. What is weak is
/// asked again sooner. The answers stand in their order.
pub fn weak(answers: &[Answered]) -> Vec<&'static str> {
    let is_weak = |kind: &str| {
        let mut last = answers.iter().rev().filter(|one| one.kind == kind).take(2);
        last.any(|one| !one.right)
    };
    KINDS.into_iter().map(|(kind, _)| kind).filter(|kind| is_weak(kind)).collect()
}
