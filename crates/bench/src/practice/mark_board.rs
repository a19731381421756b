//! What lights, a whole board and a schedule earn.

use super::marking::{AnswerMark, Answers, RIGHT_OHM, chosen, figure, figures, given, near, shown};
use super::paper::WRONG;
use super::schedule::Paper;
use super::two_way;
use crate::rig::{Rig, bench::Bench};

/// The switches of a light: what is there, or something else that reads alike at every terminal in every position.
pub(super) fn mark_switches(answers: &Answers, rig: &Rig, (key, r1_r2): (&str, f64), marks: &mut Vec<AnswerMark>) {
    figures(answers, ("R1+R2, Ω", "r1_r2"), &[r1_r2], RIGHT_OHM, marks);
    let all = two_way::wrongs(rig.ways[0].switches().len());
    let words = |key: &str| all.iter().find(|(one, ..)| one == key).map_or("", |(_, words, _)| words.as_str());
    let yours = given(answers, "switches");
    let named = all.iter().find(|(one, ..)| one == yours);
    let alike = |wrong| two_way::read_alike(rig, &two_way::with_switches(rig, wrong));
    marks.push(AnswerMark {
        of: "the switches".into(),
        yours: words(yours).to_owned(),
        truth: words(key).to_owned(),
        right: yours == key || named.is_some_and(|(_, _, wrong)| alike(*wrong)),
    });
}

/// What a whole board earns.
pub(super) struct OfBoard<'a> {
    pub r1_r2: &'a [Option<f64>; 3],
    pub zs_ohm: Option<f64>,
    pub trip_ms: Option<f64>,
    pub what: &'a str,
    pub bad: Option<usize>,
}

pub(super) fn mark_board(answers: &Answers, bench: &Bench, truth: &OfBoard<'_>, marks: &mut Vec<AnswerMark>) {
    let names = [("R1+R2 of way 1, Ω", "r1_r2_1"), ("R1+R2 of way 2, Ω", "r1_r2_2"), ("R1+R2 of way 3, Ω", "r1_r2_3")];
    for (name, ohm) in names.into_iter().zip(truth.r1_r2) {
        if let Some(ohm) = ohm {
            figures(answers, name, &[*ohm], RIGHT_OHM, marks);
        }
    }
    if let Some(ohm) = truth.zs_ohm {
        figures(answers, ("Zs of way 2, Ω", "zs_2"), &[ohm], 0.08, marks);
    }
    if let Some(ms) = truth.trip_ms {
        let yours = given(answers, "trip_1");
        let right = near(figure(yours), Some(ms), 0.12, 2.0);
        marks.push(AnswerMark {
            of: "trip time, ms".into(),
            yours: yours.to_owned(),
            truth: shown(Some(ms), 1),
            right,
        });
    }
    chosen(answers, ("what is wrong", "what"), truth.what, marks);
    chosen(answers, ("which way", "way"), &truth.bad.map_or("none".to_owned(), |bad| (bad + 1).to_string()), marks);
    for (way, on) in bench.state.ways_on.iter().enumerate() {
        let wanted = truth.bad != Some(way);
        let words = |on: bool| if on { "on" } else { "off" };
        let is = *on && bench.state.main_on;
        marks.push(AnswerMark {
            of: format!("way {} at the end", way + 1),
            yours: words(is).into(),
            truth: words(wanted).into(),
            right: is == wanted,
        });
    }
}

/// A schedule: any figure of the contradiction, and what it is.
pub(super) fn mark_paper(
    answers: &Answers,
    paper: Option<&Paper>,
    (cells, what): (&[String], &str),
    marks: &mut Vec<AnswerMark>,
) {
    let yours = given(answers, "cell");
    let right = cells.iter().any(|cell| cell == yours);
    let named = |key: &str| paper.map(|paper| paper.words(key)).unwrap_or_default();
    let truth = cells.iter().map(|cell| named(cell)).collect::<Vec<_>>().join(", or ");
    marks.push(AnswerMark { of: "the figure".into(), yours: named(yours), truth, right });
    let words = |key: &str| WRONG.iter().find(|(one, _)| *one == key).map_or("", |(_, words)| words).to_owned();
    let said = given(answers, "what");
    marks.push(AnswerMark {
        of: "what it contradicts".into(),
        yours: words(said),
        truth: words(what),
        right: said == what,
    });
}
