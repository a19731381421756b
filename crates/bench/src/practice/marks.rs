//! What an exercise earns: what was found, what was missed, what should not have been done, readings beside the fewest.
//!
//! What reads alike counts as found: another fault of the same size that gives the same figures at every point, by the
//! exact network, is no mistake.

use super::apprentice::play;
use super::drawn::with_faults;
use super::mark_board::{OfBoard, mark_board, mark_paper, mark_switches};
pub use super::marking::{AnswerMark, Answers, Marks, figure, named};
use super::marking::{LEADS_OHM, RIGHT_OHM, RIGHT_SHARE, chosen, figures, given, named_in, near, same, shown};
use super::posed::{Posed, Truth, Wrong};
use crate::rig::bench::{Bench, BenchReading};
use proof_physics::network::circuit::{Expected, expect};
use proof_physics::network::description::Description;
use proof_standard::calc::rcd::{Trip, trips_rightly};
use proof_standard::conductor::Core;
use proof_standard::limits::earthing::BOND_LIMIT;
use proof_standard::limits::rcd::{Multiple, RcdKind, window};
use proof_standard::quantity::Millis;
use rust_decimal::Decimal;

/// Every figure of a circuit is within what an instrument tells apart.
fn alike(a: &Expected, b: &Expected) -> bool {
    let ends = match (a.end_to_end, b.end_to_end) {
        (Some(a), Some(b)) => same(a.r1, b.r1) && same(a.rn, b.rn) && same(a.r2, b.r2),
        (None, None) => true,
        _ => false,
    };
    ends && a.points.len() == b.points.len()
        && a.points.iter().zip(&b.points).all(|(a, b)| same(a.r1_r2, b.r1_r2) && same(a.r1_rn, b.r1_rn))
}

/// Whether what was named reads as what is there does.
pub fn reads_alike(built: &Description, named: Wrong, ohm: f64) -> bool {
    read_alike(built, &[(named, ohm)])
}

/// The same of more than one; a joint whose size is not said has half an ohm.
fn read_alike(built: &Description, named: &[(Wrong, f64)]) -> bool {
    let sized = |(wrong, ohm): &(Wrong, f64)| (*wrong, if *ohm > 0.0 { *ohm } else { 0.5 });
    let named: Vec<(Wrong, f64)> = named.iter().map(sized).collect();
    match (expect(built), expect(&with_faults(built, &named))) {
        (Ok(truth), Ok(other)) => alike(&truth, &other),
        _ => false,
    }
}

fn mark_circuit(answers: &Answers, built: &Description, marks: &mut Vec<AnswerMark>) {
    let Ok(truth) = expect(built) else { return };
    let mut figures: Vec<(&str, &str, Option<f64>)> = Vec::new();
    if let Some(ends) = truth.end_to_end {
        figures.extend([("r1", "r1", ends.r1), ("rn", "rn", ends.rn), ("r2", "r2", ends.r2)]);
    }
    let highest = truth
        .points
        .iter()
        .filter_map(|point| point.r1_r2)
        .fold(None, |most: Option<f64>, ohm| Some(most.map_or(ohm, |most| most.max(ohm))));
    figures.push(("r1_r2", "R1+R2", highest));
    for (name, label, value) in figures {
        let yours = given(answers, name);
        marks.push(AnswerMark {
            of: format!("{label}, Ω"),
            yours: yours.to_owned(),
            truth: shown(value, 2),
            right: near(figure(yours), value, RIGHT_SHARE, RIGHT_OHM),
        });
    }
}

/// The faults of a circuit: those that are there, in any order, or others that read alike.
fn mark_faults(answers: &Answers, built: &Description, faults: &[(Wrong, f64)], marks: &mut Vec<AnswerMark>) {
    let points = built.points.len();
    let fields = [["wrong", "core", "place"], ["wrong2", "core2", "place2"]];
    let asked = if answers.contains_key("wrong2") { 2 } else { 1 };
    let yours: Vec<Option<Wrong>> = fields[..asked].iter().map(|of| named_in(answers, *of, points)).collect();
    let mut truths: Vec<(Wrong, f64)> = faults.to_vec();
    truths.resize(asked.max(faults.len()), (Wrong::Sound, 0.0));
    // A size goes with what is named rightly, else with the first that has one.
    let usual = faults.iter().map(|(_, ohm)| *ohm).fold(0.0, f64::max);
    let size = |wrong: Wrong| truths.iter().find(|(one, _)| *one == wrong).map_or(usual, |(_, ohm)| *ohm);
    let whole: Option<Vec<(Wrong, f64)>> = yours.iter().map(|one| one.map(|one| (one, size(one)))).collect();
    let alike = whole.is_some_and(|whole| read_alike(built, &whole));
    // Each of what is there is looked for in what was named.
    let mut left = yours.clone();
    for (at, (truth, _)) in truths.iter().take(asked).enumerate() {
        let found = left.iter().position(|one| *one == Some(*truth));
        let shown = found.map_or(yours[at], |found| left[found].take());
        marks.push(AnswerMark {
            of: if at == 0 { "what is wrong".into() } else { "what else".into() },
            yours: shown.map_or_else(|| "not said whole".into(), Wrong::text),
            truth: truth.text(),
            right: alike || found.is_some(),
        });
    }
}

/// r2 beside what r1 leads one to expect.
fn ratio(answers: &Answers, (r1, expected, r2, fits): (f64, &[f64], f64, bool), marks: &mut Vec<AnswerMark>) {
    figures(answers, ("r1, Ω", "r1"), &[r1], RIGHT_OHM, marks);
    figures(answers, ("what r2 should be, Ω", "expected"), expected, RIGHT_OHM, marks);
    figures(answers, ("r2, Ω", "r2"), &[r2], RIGHT_OHM, marks);
    chosen(answers, ("what it says", "verdict"), if fits { "fits" } else { "apart" }, marks);
}

/// A trip time and its verdict.
fn trip(answers: &Answers, (ms, kind): (f64, RcdKind), marks: &mut Vec<AnswerMark>) {
    let yours = given(answers, "trip");
    let right = near(figure(yours), Some(ms), 0.12, 2.0);
    marks.push(AnswerMark { of: "trip time, ms".into(), yours: yours.to_owned(), truth: shown(Some(ms), 1), right });
    let trip = Decimal::try_from(ms).map_or(Trip::NoTrip, |ms| Trip::Ms(Millis(ms)));
    let within = trips_rightly(window(kind, Multiple::One).value, trip);
    chosen(answers, ("verdict", "verdict"), if within { "within" } else { "outside" }, marks);
}

fn pair_key(pair: [Core; 2]) -> String {
    pair.map(Core::letter).concat()
}

/// Ze, Ω, and the prospective fault current, kA.
fn at_the_origin(answers: &Answers, (ze_ohm, fault_ka): (f64, &[f64]), marks: &mut Vec<AnswerMark>) {
    figures(answers, ("Ze, Ω", "ze"), &[ze_ohm], 0.03, marks);
    figures(answers, ("prospective fault current, kA", "fault_ka"), fault_ka, 0.15, marks);
}

/// A figure and its verdict: what it is, its limit, how far off is still right, Ω.
fn judged(
    answers: &Answers,
    (of, name): (&str, &str),
    (ohm, limit, least): (f64, f64, f64),
    marks: &mut Vec<AnswerMark>,
) {
    let yours = given(answers, name);
    let right = near(figure(yours), Some(ohm), RIGHT_SHARE, least);
    marks.push(AnswerMark { of: of.into(), yours: yours.to_owned(), truth: shown(Some(ohm), 2), right });
    chosen(answers, ("verdict", "verdict"), if ohm <= limit { "within" } else { "outside" }, marks);
}

/// The supply, and the board off, locked and proved.
fn mark_supply(
    answers: &Answers,
    bench: &Bench,
    (reversed, second, asked): (bool, bool, bool),
    marks: &mut Vec<AnswerMark>,
) {
    chosen(answers, ("the supply", "supply"), if reversed { "reversed" } else { "right" }, marks);
    if asked {
        chosen(answers, ("what feeds it", "second"), if second { "own" } else { "supply" }, marks);
    }
    let mut all = vec![("main switch off", !bench.state.main_on), ("locked off", bench.state.locked)];
    if second {
        all.push(("its own source off", !bench.state.second_on));
    }
    all.push(("proved dead: source, every pair, source", bench.proving.is_done()));
    for (what, done) in all {
        let yours = if done { "done" } else { "not done" };
        marks.push(AnswerMark { of: what.into(), yours: yours.into(), truth: "done".into(), right: done });
    }
}

/// How many readings were taken: one that is tried again until it settles is one, tips together are none.
fn counted(bench: &Bench) -> usize {
    let at = |one: &BenchReading| (one.function, one.probes);
    let repeats =
        bench.readings.windows(2).filter(|two| at(&two[0]) == at(&two[1]) && two[0].probes[0] != two[0].probes[1]);
    let all = bench.readings.iter().filter(|one| one.probes[0] != one.probes[1]).count();
    all - repeats.count()
}

/// How few readings would do, and the one that would have settled it.
fn sooner(posed: &Posed) -> (usize, String) {
    // The advice is for one fault; two are found by both walks.
    if matches!(posed.truth, Truth::Circuit { also: Some(_), .. }) {
        return (posed.fewest, posed.settles.clone());
    }
    let Ok(Some(played)) = play(posed) else { return (posed.fewest, posed.settles.clone()) };
    let by = played.settled_by.map(|next| format!("{}: {}. ", next.what, next.because)).unwrap_or_default();
    (played.readings, format!("{by}{}", posed.settles))
}

/// Marks what somebody answered at a bench.
pub fn mark(posed: &Posed, bench: &Bench, answers: &Answers) -> Marks {
    let mut marks = Vec::new();
    let mut left = bench.state.not_put_back(&posed.bench.rig);
    match &posed.truth {
        Truth::Supply { reversed, second, asked } => {
            mark_supply(answers, bench, (*reversed, *second, *asked), &mut marks);
        }
        Truth::Circuit { built, wrong, ohm, also } => {
            mark_circuit(answers, built, &mut marks);
            let faults: Vec<(Wrong, f64)> = std::iter::once((*wrong, *ohm)).chain(*also).collect();
            mark_faults(answers, built, &faults, &mut marks);
            // Ends and links are put back by whoever tests next.
            left.clear();
        }
        Truth::Switches { key, r1_r2 } => {
            mark_switches(answers, &posed.bench.rig, (key, *r1_r2), &mut marks);
            left.clear();
        }
        Truth::Board { r1_r2, zs_ohm, trip_ms, what, bad } => {
            let truth = OfBoard { r1_r2, zs_ohm: *zs_ohm, trip_ms: *trip_ms, what, bad: *bad };
            mark_board(answers, bench, &truth, &mut marks);
        }
        Truth::Voltages { state } => chosen(answers, ("what they mean", "state"), state, &mut marks),
        Truth::Paper { cells, what } => mark_paper(answers, posed.paper.as_ref(), (cells, what), &mut marks),
        Truth::Tried => {}
        Truth::Leak { way, between, what } => {
            chosen(answers, ("the way", "way"), &(way + 1).to_string(), &mut marks);
            chosen(answers, ("between", "pair"), &pair_key(*between), &mut marks);
            chosen(answers, ("what it is", "what"), what, &mut marks);
            left.clear();
        }
        Truth::Origin { ze_ohm, fault_ka } => at_the_origin(answers, (*ze_ohm, fault_ka), &mut marks),
        Truth::Bond { ohm } => {
            let limit = BOND_LIMIT.get();
            judged(answers, ("the bond, Ω", "bond"), (*ohm, limit, 0.03), &mut marks);
        }
        Truth::Zs { ohm, limit_ohm } => judged(answers, ("Zs, Ω", "zs"), (*ohm, *limit_ohm, 0.07), &mut marks),
        Truth::Leads { short_ohm, plug_ohm, r1_rn, fit } => {
            figures(answers, ("the short leads, Ω", "short"), &[*short_ohm], LEADS_OHM, &mut marks);
            figures(answers, ("the plug-in lead, Ω", "plug"), &[*plug_ohm], LEADS_OHM, &mut marks);
            if let Some(ohm) = r1_rn {
                figures(answers, ("R1+Rn, Ω", "r1_rn"), &[*ohm], RIGHT_OHM, &mut marks);
            }
            if let Some(fit) = fit {
                chosen(answers, ("fit to use", "fit"), fit, &mut marks);
            }
        }
        Truth::Ratio { r1, expected, r2, fits } => {
            ratio(answers, (*r1, expected, *r2, *fits), &mut marks);
            // The ends stay out for the next step.
            left.clear();
        }
        Truth::Trip { ms, kind } => trip(answers, (*ms, *kind), &mut marks),
    }
    for out in &bench.state.broken {
        left.push(format!("what is on way {} was broken by the test voltage", out + 1));
    }
    let readings = counted(bench);
    let (fewest, settles) = sooner(posed);
    Marks { marks, unsafe_acts: bench.unsafe_acts.clone(), left, readings, fewest, settles }
}
