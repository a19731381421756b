//! How near an answer must come, and how it is marked.

use super::Wrong;
use crate::rig::safety::Unsafe;
use proof_standard::conductor::Core;
use std::collections::BTreeMap;

/// Two figures this near are the same through the contacts of an accessory, Ω (common practice, no source).
pub(super) const ALIKE_OHM: f64 = 0.03;

/// A figure is right within this, Ω, and this share. Invented for the bench.
pub(super) const RIGHT_OHM: f64 = 0.06;

pub(super) const RIGHT_SHARE: f64 = 0.05;

/// Leads are told apart within this, Ω (ours: two sets of the bench differ by more).
pub(super) const LEADS_OHM: f64 = 0.03;

/// One thing that was asked.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct AnswerMark {
    /// What was asked.
    pub of: String,
    /// What was answered.
    pub yours: String,
    /// What is so.
    pub truth: String,
    /// Whether it is right.
    pub right: bool,
}

/// What it earns.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Marks {
    /// What was asked, one by one.
    pub marks: Vec<AnswerMark>,
    /// What should not have been done.
    pub unsafe_acts: Vec<Unsafe>,
    /// What was left as it does not belong.
    pub left: Vec<String>,
    /// How many readings were taken.
    pub readings: usize,
    /// The fewest that would do: of a circuit, as many as the program's own advice takes.
    pub fewest: usize,
    /// What would have settled it.
    pub settles: String,
}

impl Marks {
    /// Everything right, nothing unsafe, nothing left.
    pub fn is_clean(&self) -> bool {
        self.marks.iter().all(|mark| mark.right) && self.unsafe_acts.is_empty() && self.left.is_empty()
    }

    /// Whether what was asked was found, whatever else.
    pub fn found(&self) -> bool {
        self.marks.iter().all(|mark| mark.right)
    }
}

/// What somebody answered, by field.
pub type Answers = BTreeMap<String, String>;

pub(super) fn given<'a>(answers: &'a Answers, name: &str) -> &'a str {
    answers.get(name).map_or("", |text| text.trim())
}

/// A typed figure; a decimal comma is taken.
pub fn figure(text: &str) -> Option<f64> {
    let text = text.trim().replace(',', ".");
    let plain = !text.is_empty() && text.len() <= 12 && text.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.');
    if plain { text.parse().ok() } else { None }
}

pub(super) fn near(yours: Option<f64>, truth: Option<f64>, share: f64, least: f64) -> bool {
    match (yours, truth) {
        (Some(yours), Some(truth)) => (yours - truth).abs() <= least.max(share * truth),
        (None, None) => true,
        _ => false,
    }
}

pub(super) fn shown(value: Option<f64>, places: usize) -> String {
    value.map_or_else(|| "open: nothing to write".into(), |value| format!("{value:.places$}"))
}

/// Whether two figures are the same to an instrument; nothing read is the same as nothing read.
pub(super) fn same(a: Option<f64>, b: Option<f64>) -> bool {
    match (a, b) {
        (Some(a), Some(b)) => (a - b).abs() < ALIKE_OHM,
        (None, None) => true,
        _ => false,
    }
}

/// What a learner named; `None`: not enough said.
pub fn named(answers: &Answers, points: usize) -> Option<Wrong> {
    named_in(answers, ["wrong", "core", "place"], points)
}

pub(super) fn named_in(answers: &Answers, [wrong, core, place]: [&str; 3], points: usize) -> Option<Wrong> {
    let cores: Vec<Core> = given(answers, core)
        .chars()
        .filter_map(|letter| Core::ALL.into_iter().find(|core| core.letter() == letter.to_string()))
        .collect();
    let place = given(answers, place);
    let number = place.parse::<usize>().ok().filter(|number| (1..=points).contains(number));
    let after = if place == "board" { Some(None) } else { number.map(|number| Some(number - 1)) };
    match (given(answers, wrong), &cores[..]) {
        ("sound", _) => Some(Wrong::Sound),
        ("joint", [core]) => Some(Wrong::Joint(*core, after?)),
        ("open", [core]) => Some(Wrong::Open(*core, after?)),
        ("swap", [a, b]) => Some(Wrong::Swap(*a, *b, number? - 1)),
        ("cross", [a, b]) => Some(Wrong::Cross(*a, *b, after?)),
        ("metal", _) => Some(Wrong::Metal(number? - 1)),
        _ => None,
    }
}

/// One of a list.
pub(super) fn chosen(answers: &Answers, (of, name): (&str, &str), truth: &str, marks: &mut Vec<AnswerMark>) {
    let yours = given(answers, name);
    marks.push(AnswerMark {
        of: of.to_owned(),
        yours: yours.to_owned(),
        truth: truth.to_owned(),
        right: yours == truth,
    });
}

/// A figure that is right near any of some, Ω.
pub(super) fn figures(
    answers: &Answers,
    (of, name): (&str, &str),
    truths: &[f64],
    least: f64,
    marks: &mut Vec<AnswerMark>,
) {
    let yours = given(answers, name);
    let right = truths.iter().any(|truth| near(figure(yours), Some(*truth), RIGHT_SHARE, least));
    let truth = truths.iter().map(|truth| shown(Some(*truth), 2)).collect::<Vec<_>>().join(" or ");
    marks.push(AnswerMark { of: of.to_owned(), yours: yours.to_owned(), truth, right });
}
