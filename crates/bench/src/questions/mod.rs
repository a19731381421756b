//! Questions as an assessor asks them, made from the rules and from random circuits: each with its answer worked by the
//! core, the working, and why. The same seed asks the same.

mod dead;
mod live;
mod pointed;

use crate::meter::Meter;
use crate::practice::Exercise;
use crate::practice::marks::figure;

/// How a question is answered.
#[derive(Debug, Clone, PartialEq)]
pub enum Answer {
    /// With a figure.
    Number {
        /// Its unit.
        unit: &'static str,
        /// What it is.
        truth: f64,
        /// How far off is still right.
        within: f64,
        /// Places that it is shown with.
        places: usize,
    },
    /// With one of a list.
    OneOf {
        /// What may be chosen.
        of: Vec<String>,
        /// Which of them is right.
        right: usize,
    },
    /// By pointing at one of a row, as it runs.
    Pointed {
        /// The row.
        stops: Vec<Stop>,
        /// Which of them is right.
        right: usize,
    },
}

/// Something in a row that may be pointed at.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Stop {
    /// What it is called.
    pub label: String,
    /// What is written beside it: the cable that leads there.
    pub beside: String,
    /// Its figures.
    pub lines: Vec<String>,
}

/// A question.
#[derive(Debug, Clone, PartialEq)]
pub struct Question {
    /// Key of its kind.
    pub kind: &'static str,
    /// What it is about.
    pub topic: &'static str,
    /// As asked.
    pub text: String,
    /// How it is answered.
    pub answer: Answer,
    /// How the answer follows, and from where.
    pub working: String,
}

/// An answer, judged.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Judged {
    /// Right.
    Right,
    /// Wrong.
    Wrong,
    /// It is no answer: what is allowed.
    NotUnderstood(String),
}

impl Question {
    /// What is right, as it is shown.
    pub fn truth(&self) -> String {
        match &self.answer {
            Answer::Number { unit, truth, places, .. } => format!("{truth:.places$} {unit}").trim_end().to_owned(),
            Answer::OneOf { of, right } => of.get(*right).cloned().unwrap_or_default(),
            Answer::Pointed { stops, right } => stops.get(*right).map(|stop| stop.label.clone()).unwrap_or_default(),
        }
    }

    /// Judges what was typed, or the number of what was chosen, from nought.
    pub fn judge(&self, given: &str) -> Judged {
        match &self.answer {
            Answer::Number { unit, truth, within, .. } => match figure(given) {
                Some(yours) if (yours - truth).abs() <= *within => Judged::Right,
                Some(_) => Judged::Wrong,
                None => Judged::NotUnderstood(format!(
                    "Type a figure{}, such as 0.37.",
                    if unit.is_empty() { String::new() } else { format!(" in {unit}") }
                )),
            },
            Answer::OneOf { of, right } => chosen(given, of.len(), *right, "Choose one of the list."),
            Answer::Pointed { stops, right } => chosen(given, stops.len(), *right, "Point at one of the row."),
        }
    }
}

/// One of so many, by its number from nought.
fn chosen(given: &str, count: usize, right: usize, allowed: &str) -> Judged {
    match given.trim().parse::<usize>() {
        Ok(yours) if yours == right => Judged::Right,
        Ok(yours) if yours < count => Judged::Wrong,
        _ => Judged::NotUnderstood(allowed.to_owned()),
    }
}

/// A question with a figure; right within so much, or the share of it.
fn number(
    topic: &'static str,
    text: String,
    (truth, unit, places): (f64, &'static str, usize),
    working: String,
) -> Question {
    // What is counted, or stands in a table, is so and not about so.
    let within =
        if places == 0 { 0.4 } else { (0.6 * 10_f64.powi(-i32::try_from(places).unwrap_or(2))).max(truth * 0.03) };
    Question { kind: "", topic, text, answer: Answer::Number { unit, truth, within, places }, working }
}

/// A question with a list, in an order of its own each time.
fn one_of(
    topic: &'static str,
    text: String,
    (right, wrong): (&str, &[&str]),
    working: String,
    meter: &mut Meter,
) -> Question {
    let mut of: Vec<String> = wrong.iter().filter(|one| **one != right).map(|one| (*one).to_owned()).collect();
    for at in (1..of.len()).rev() {
        of.swap(at, whole(meter, 0, at));
    }
    of.truncate(3);
    let right_at = whole(meter, 0, of.len());
    of.insert(right_at, right.to_owned());
    Question { kind: "", topic, text, answer: Answer::OneOf { of, right: right_at }, working }
}

fn whole(meter: &mut Meter, low: usize, high: usize) -> usize {
    let span = high - low + 1;
    low + ((meter.share() * span as f64) as usize).min(span - 1)
}

fn pick<T: Copy>(meter: &mut Meter, of: &[T]) -> Option<T> {
    of.get(whole(meter, 0, of.len().checked_sub(1)?)).copied()
}

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
