//! A question, its answers, and what an answer is worth.

use crate::meter::Meter;
use crate::practice::marks::figure;

/// How a question is answered.
#[derive(Debug, Clone, PartialEq)]
pub enum ExpectedAnswer {
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
    pub answer: ExpectedAnswer,
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
            ExpectedAnswer::Number { unit, truth, places, .. } => {
                format!("{truth:.places$} {unit}").trim_end().to_owned()
            }
            ExpectedAnswer::OneOf { of, right } => of.get(*right).cloned().unwrap_or_default(),
            ExpectedAnswer::Pointed { stops, right } => {
                stops.get(*right).map(|stop| stop.label.clone()).unwrap_or_default()
            }
        }
    }

    /// Judges what was typed, or the number of what was chosen, from zero.
    pub fn judge(&self, given: &str) -> Judged {
        match &self.answer {
            ExpectedAnswer::Number { unit, truth, within, .. } => match figure(given) {
                Some(yours) if (yours - truth).abs() <= *within => Judged::Right,
                Some(_) => Judged::Wrong,
                None => Judged::NotUnderstood(format!(
                    "Type a figure{}, such as 0.37.",
                    if unit.is_empty() { String::new() } else { format!(" in {unit}") }
                )),
            },
            ExpectedAnswer::OneOf { of, right } => chosen(given, of.len(), *right, "Choose one of the list."),
            ExpectedAnswer::Pointed { stops, right } => chosen(given, stops.len(), *right, "Point at one of the row."),
        }
    }
}

/// One of so many, by its number from zero.
pub(super) fn chosen(given: &str, count: usize, right: usize, allowed: &str) -> Judged {
    match given.trim().parse::<usize>() {
        Ok(yours) if yours == right => Judged::Right,
        Ok(yours) if yours < count => Judged::Wrong,
        _ => Judged::NotUnderstood(allowed.to_owned()),
    }
}

/// A question with a figure; right within so much, or the share of it.
pub(super) fn number(
    topic: &'static str,
    text: String,
    (truth, unit, places): (f64, &'static str, usize),
    working: String,
) -> Question {
    // What is counted, or stands in a table, is so and not about so.
    let within =
        if places == 0 { 0.4 } else { (0.6 * 10_f64.powi(-i32::try_from(places).unwrap_or(2))).max(truth * 0.03) };
    Question { kind: "", topic, text, answer: ExpectedAnswer::Number { unit, truth, within, places }, working }
}

/// A question with a list, in an order of its own each time.
pub(super) fn one_of(
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
    Question { kind: "", topic, text, answer: ExpectedAnswer::OneOf { of, right: right_at }, working }
}

pub(super) fn whole(meter: &mut Meter, low: usize, high: usize) -> usize {
    let span = high - low + 1;
    low + ((meter.share() * span as f64) as usize).min(span - 1)
}

pub(super) fn pick<T: Copy>(meter: &mut Meter, of: &[T]) -> Option<T> {
    of.get(whole(meter, 0, of.len().checked_sub(1)?)).copied()
}
