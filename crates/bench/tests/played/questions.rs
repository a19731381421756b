//! Questions: enough of them, each with one right answer; figures beside sums worked here apart from the core, from what
//! the text says alone.

use proof_bench::practice::Exercise;
use proof_bench::questions::{Answered, ExpectedAnswer, Judged, Question, ask, on_the_way, seed_of, weak};
use std::collections::{BTreeMap, BTreeSet};

/// The figures of a text, in order.
fn figures(text: &str) -> Vec<f64> {
    text.split(|letter: char| !(letter.is_ascii_digit() || letter == '.'))
        .filter_map(|part| part.trim_matches('.').parse().ok())
        .collect()
}

fn asked() -> Vec<Question> {
    (0..6000).filter_map(ask).collect()
}

#[test]
fn there_are_enough_and_each_has_one_right_answer() {
    let all = asked();
    assert!(all.len() > 5900, "{}", all.len());
    let texts: BTreeSet<&str> = all.iter().map(|one| one.text.as_str()).collect();
    assert!(texts.len() >= 1000, "only {} different", texts.len());
    let topics: BTreeSet<&str> = all.iter().map(|one| one.topic).collect();
    assert!(topics.len() >= 12, "{topics:?}");
    for one in &all {
        assert!(one.text.ends_with('?') && one.working.ends_with('.'), "{one:?}");
        match &one.answer {
            ExpectedAnswer::Number { truth, within, .. } => {
                assert!(truth.is_finite() && *truth > 0.0 && *within < truth * 0.6, "{one:?}");
                assert_eq!(one.judge(&format!("{truth:.4}")), Judged::Right);
                assert_eq!(one.judge(&format!("{:.4}", truth * 2.0)), Judged::Wrong);
                assert!(matches!(one.judge("about right"), Judged::NotUnderstood(_)));
                // What is shown as right is taken as right.
                let shown = one.truth();
                assert_eq!(one.judge(shown.split(' ').next().unwrap()), Judged::Right, "{one:?}");
            }
            ExpectedAnswer::OneOf { of, right } => {
                assert!((2..=4).contains(&of.len()) && *right < of.len(), "{one:?}");
                assert_eq!(of.iter().collect::<BTreeSet<_>>().len(), of.len(), "each once: {one:?}");
                assert_eq!(one.judge(&right.to_string()), Judged::Right);
                assert_eq!(one.judge(&((right + 1) % of.len()).to_string()), Judged::Wrong);
                assert!(matches!(one.judge("9"), Judged::NotUnderstood(_)));
            }
            ExpectedAnswer::Pointed { stops, right } => {
                assert!((5..=10).contains(&stops.len()), "{one:?}");
                assert_eq!(one.judge(&right.to_string()), Judged::Right);
                assert_eq!(one.judge(&((right + 1) % stops.len()).to_string()), Judged::Wrong);
                assert!(matches!(one.judge(""), Judged::NotUnderstood(_)));
            }
        }
    }
    // The right one is not always at the same place.
    let places: BTreeMap<usize, usize> = all.iter().fold(BTreeMap::new(), |mut places, one| {
        if let ExpectedAnswer::OneOf { right, .. } = one.answer {
            *places.entry(right).or_default() += 1;
        }
        places
    });
    assert!(places.len() == 4 && places.values().all(|count| *count > 100), "{places:?}");
}

/// Table I1 of the On-Site Guide, mΩ/m of copper at 20 °C: typed here once more.
const MOHM: [(f64, f64); 6] = [(1.0, 18.1), (1.5, 12.1), (2.5, 7.41), (4.0, 4.61), (6.0, 3.08), (10.0, 1.83)];

fn per_metre(mm2: f64) -> f64 {
    MOHM.iter().find(|(size, _)| *size == mm2).unwrap().1
}

#[test]
fn figures_follow_from_what_is_asked() {
    let mut checked = BTreeMap::new();
    for one in asked() {
        let ExpectedAnswer::Number { truth, .. } = one.answer else { continue };
        let given = figures(&one.text);
        let (kind, wanted) = match one.topic {
            "expected value" => ("length", given[0] * (per_metre(given[1]) + per_metre(given[2])) / 1000.0),
            "ring" if one.text.contains("What should r2 be") => ("r2", given[3] * given[0] / given[1]),
            "ring" => (
                "middle",
                (figures(&one.text.replace("r1", "").replace("r2", ""))[0]
                    + figures(&one.text.replace("r1", "").replace("r2", ""))[1])
                    / 4.0,
            ),
            "spur" => ("spur", (given[2] * 1000.0 / (per_metre(given[0]) + per_metre(given[1]))).round()),
            "leads" => ("leads", given[0] - given[1]),
            "prove dead" => ("proving", if one.text.contains("three-phase") { 10.0 } else { 3.0 }),
            "insulation" if one.text.contains("whole board") => {
                ("board", 1.0 / given.iter().map(|way| 1.0 / way).sum::<f64>())
            }
            "insulation" if one.text.contains("conductors") => ("pairs", given[0] * (given[0] - 1.0) / 2.0),
            "loop" if one.text.contains("by the sum") => ("sum", given[0] + given[3]),
            "loop" if one.text.contains("cold reading") => ("cold", given[given.len() - 1] * 0.8),
            "prospective fault current" if one.text.contains("doubling") => {
                ("doubled", 2.0 * 230.0 / given[0] / 1000.0)
            }
            "prospective fault current" => ("single", 230.0 / given[0].min(given[1]) / 1000.0),
            _ => continue,
        };
        assert!((truth - wanted).abs() <= 0.011 + wanted * 0.03, "{kind}: {truth} {wanted} {one:?}");
        *checked.entry(kind).or_insert(0) += 1;
    }
    assert!(checked.len() >= 12 && checked.values().all(|count| *count > 20), "{checked:?}");
}

#[test]
fn what_is_weak_is_asked_again_until_it_was_right_twice() {
    let said = |kind: &str, right: bool| Answered { kind: kind.to_owned(), right };
    assert!(weak(&[]).is_empty() && weak(&[said("pairs", true)]).is_empty());
    let mut answers = vec![said("pairs", false), said("trip-time", true)];
    assert_eq!(weak(&answers), ["pairs"]);
    answers.push(said("pairs", true));
    assert_eq!(weak(&answers), ["pairs"], "right once is not yet enough");
    answers.push(said("pairs", true));
    assert!(weak(&answers).is_empty());
    for from in [0, 77, 123_456_789] {
        let seed = seed_of(&["pairs", "voltages"], from).unwrap();
        assert!(seed >= from && ["pairs", "voltages"].contains(&ask(seed).unwrap().kind));
    }
    for exercise in Exercise::ALL {
        let kinds = on_the_way(exercise);
        assert!(!kinds.is_empty());
        for kind in kinds {
            assert!(seed_of(&[kind], 5).is_some(), "{exercise:?}: there is no question “{kind}”");
        }
    }
}

/// What is pointed at is the one that the figures show, by sums of the table: a jump over what its cable gives; on a ring
/// the one that is above its neighbours in both.
#[test]
fn what_is_pointed_at_follows_from_the_figures() {
    let mut checked = BTreeMap::new();
    for one in asked() {
        let ExpectedAnswer::Pointed { stops, right } = &one.answer else { continue };
        if stops[0].lines.is_empty() {
            continue;
        }
        let figure = |at: usize, line: usize| figures(&stops[at].lines[line]).pop().unwrap();
        let metres = |at: usize| figures(&stops[at].beside)[0];
        let most = |of: &dyn Fn(usize) -> f64| (0..stops.len()).max_by(|a, b| of(*a).total_cmp(&of(*b))).unwrap();
        let found = if one.kind == "where-it-jumps" {
            let step = |at: usize| {
                let before = if at == 0 { 0.0 } else { figure(at - 1, 1) };
                figure(at, 1) - before - metres(at) * (per_metre(2.5) + per_metre(1.5)) / 1000.0
            };
            most(&step)
        } else {
            most(&|at| figure(at, 0))
        };
        assert_eq!(found, *right, "{one:?}");
        *checked.entry(one.kind).or_insert(0) += 1;
    }
    assert!(checked.len() == 2 && checked.values().all(|count| *count > 100), "{checked:?}");
}
