//! What any diagnosis could reach on the held-out circuits: Bayes' rule with the priors of the generator, and
//! with vague ones. Shares nothing with the diagnosis, nor with the network solver: readings are worked out by
//! the formulas of two conductors in parallel (star and mesh), and what nobody knows (legs, length, the size of
//! the fault) is summed over by sequential Monte Carlo (Gordon, Salmond, Smith 1993, "Novel approach to
//! nonlinear/non-Gaussian Bayesian state estimation", from memory).
//!
//! `cargo test --release -p proof-checks --test wide -- --ignored bayes_bound` writes `docs/DIAGNOSIS_BOUND.md`.

use crate::held_out::{Dice, Drawn, GOOD, RADIAL_KINDS, RING_KINDS, Truth, draw, draw_bunched};
use crate::particles::{Fault, Knows, Legs, evidence, hypotheses, reads};
use proof_standard::conductor::Core;
use proof_standard::shape::Shape;
use std::collections::BTreeMap;
use std::fmt::Write;

const EACH: usize = 30;

fn core(core: Core) -> usize {
    Core::ALL.iter().position(|one| *one == core).unwrap()
}

/// The core that a pair leaves out.
fn left_out(pair: [Core; 2]) -> usize {
    (0..3).find(|one| pair.iter().all(|of| core(*of) != *one)).unwrap()
}

fn point(name: &str) -> usize {
    name[1..].parse().unwrap()
}

/// Whether an answer names what was wrong: its kind, its conductor, its point. A switch that is off and neutral
/// and CPC exchanged read alike.
fn names(fault: &Fault, truth: &Truth) -> bool {
    match (fault, truth) {
        (Fault::Healthy, Truth::Healthy)
        | (Fault::Bridge(..), Truth::Bridge)
        | (Fault::Parallel(..), Truth::ParallelEarth)
        | (Fault::OwnLeg, Truth::OwnLeg)
        | (Fault::Leads, Truth::Leads)
        | (Fault::Cpc(_), Truth::WrongCpc)
        | (Fault::Length, Truth::WrongLength) => true,
        (Fault::Spur(at), Truth::Spur(name))
        | (Fault::Contact(at), Truth::Contact(name))
        | (Fault::SwitchOff(at) | Fault::Swap(at, 0), Truth::SwitchOff(name) | Truth::Swap(name, [Core::N, Core::E])) => {
            *at == point(name)
        }
        (Fault::Joint(of, _), Truth::Joint(was, _)) | (Fault::Open(of, _), Truth::Open(was, _)) => *of == core(*was),
        (Fault::Cross(out, _), Truth::Cross(pair, _)) => *out == left_out(*pair),
        (Fault::Swap(at, out), Truth::Swap(name, pair)) => *at == point(name) && *out == left_out(*pair),
        (Fault::Once(step), Truth::OwnLegOnce(was)) => step == was,
        _ => false,
    }
}

/// What counts as one answer: faults that differ only in where they are, or in what size.
fn answer(fault: Fault) -> String {
    match fault {
        Fault::Joint(of, _) => format!("joint {of}"),
        Fault::Open(of, _) => format!("open {of}"),
        Fault::Cross(out, _) => format!("cross {out}"),
        Fault::Bridge(..) => "bridge".to_owned(),
        Fault::Parallel(..) => "parallel".to_owned(),
        Fault::Cpc(_) => "cpc".to_owned(),
        // They read alike.
        Fault::SwitchOff(at) | Fault::Swap(at, 0) => format!("off {at}"),
        other => format!("{other:?}"),
    }
}

#[derive(Default)]
struct Tally {
    all: usize,
    first: usize,
    three: usize,
    sure: usize,
    sure_right: usize,
    by_kind: BTreeMap<String, (usize, usize)>,
}

impl Tally {
    fn count(&mut self, kind: &str, drawn: &Drawn, knows: Knows, dice: &mut Dice) {
        let mut shares: BTreeMap<String, (f64, Fault)> = BTreeMap::new();
        let all = hypotheses(&drawn.case, knows);
        let logs: Vec<(Fault, f64)> = all
            .into_iter()
            .map(|(fault, prior)| (fault, prior.ln() + evidence(&drawn.case, fault, knows, dice)))
            .collect();
        let most = logs.iter().map(|(_, log)| *log).fold(f64::NEG_INFINITY, f64::max);
        let sum: f64 = logs.iter().map(|(_, log)| (log - most).exp()).sum();
        for (fault, log) in logs {
            shares.entry(answer(fault)).or_insert((0.0, fault)).0 += (log - most).exp() / sum;
        }
        let mut shares: Vec<(f64, Fault)> = shares.into_values().collect();
        shares.sort_by(|a, b| b.0.total_cmp(&a.0));
        let right = |fault: &Fault| names(fault, &drawn.truths[0]);
        let first = right(&shares[0].1);
        self.all += 1;
        self.first += usize::from(first);
        self.three += usize::from(shares.iter().take(3).any(|(_, fault)| right(fault)));
        if shares[0].0 >= 0.9 {
            self.sure += 1;
            self.sure_right += usize::from(first);
        }
        let of = self.by_kind.entry(kind.to_owned()).or_default();
        of.0 += usize::from(first);
        of.1 += 1;
    }
}

/// Title, shape, kinds, generator, its legs, seed.
type Set<'a> = (&'static str, Shape, &'a [&'static str], Make, Legs, u64);

type Make = fn(Shape, &[&str], usize, crate::held_out::Meter, &mut Dice) -> Drawn;

fn tallied(shape: Shape, kinds: &[&str], make: Make, knows: Knows, seed: u64) -> Tally {
    let (mut tally, mut dice, mut own) = (Tally::default(), Dice::new(seed), Dice::new(77));
    for kind in kinds {
        for _ in 0..EACH {
            let points = dice.whole(6, 14);
            let drawn = make(shape, &[kind], points, GOOD, &mut dice);
            tally.count(kind, &drawn, knows, &mut own);
        }
    }
    tally
}

fn percent(part: usize, of: usize) -> f64 {
    100.0 * part as f64 / of.max(1) as f64
}

/// The formulas against the network solver: circuits without scatter, read both ways.
#[test]
fn the_formulas_read_as_the_solver_does() {
    use crate::held_out::Meter;
    let exact = Meter { scatter: 0.0, contacts: 0.0, length: 0.0 };
    let mut dice = Dice::new(5);
    let rings: Vec<&str> = RING_KINDS.iter().copied().chain(["own_leg_once"]).collect();
    for (shape, kinds) in [(Shape::Ring, rings.as_slice()), (Shape::Radial, RADIAL_KINDS.as_slice())] {
        for kind in kinds {
            for _ in 0..20 {
                let (drawn, made) = crate::held_out::draw_known(shape, kind, dice.whole(6, 14), exact, &mut dice);
                let told = reads(&drawn.case, &made);
                let shown: Vec<Option<f64>> =
                    drawn.case.points.iter().flat_map(|read| [read.r1_rn, read.r1_r2]).map(Option::unwrap).collect();
                for (index, (told, shown)) in told.iter().zip(&shown).enumerate() {
                    let same = match (told, shown) {
                        (Some(told), Some(shown)) => (told - shown).abs() < 0.0051,
                        (None, None) => true,
                        _ => false,
                    };
                    assert!(same, "{kind} {shape:?} {:?} figure {index}: {told:?} beside {shown:?}", drawn.truths);
                }
            }
        }
    }
}

#[test]
#[ignore = "takes minutes: run in release to write docs/DIAGNOSIS_BOUND.md"]
fn the_bound_is_published() {
    let mut text = String::from(
        "# What any diagnosis could reach\n\n\
         Bayes' rule on the circuits of the generator of `docs/DIAGNOSIS.md` (other draws, 30 of each kind, good meter),\n\
         with the priors of that generator, and with vague ones: legs log-normal, fault sizes over a wider range, any\n\
         length. What reads alike (a switch that is off, neutral and CPC exchanged) counts as one. Sums over legs,\n\
         length and sizes are by sequential Monte Carlo, so that a figure may move by half a point.\n\
         Written by `cargo test --release -p proof-checks --test wide -- --ignored bayes_bound`.\n\n\
         | circuits | priors | first right | among three | of answers ≥ 0.9 | right |\n|---|---|--:|--:|--:|--:|\n",
    );
    let mut by_kind = String::new();
    let bunched: Vec<&str> = RING_KINDS.iter().copied().chain(["own_leg_once"]).collect();
    let sets: [Set<'_>; 3] = [
        ("rings", Shape::Ring, &RING_KINDS, draw, Legs::Even, 4_021),
        ("rings, bunched sockets", Shape::Ring, &bunched, draw_bunched, Legs::Bunched, 4_026),
        ("radials", Shape::Radial, &RADIAL_KINDS, draw, Legs::Even, 4_023),
    ];
    for (title, shape, kinds, make, legs, seed) in sets {
        let knows =
            [("the generator's", Knows { legs, vague: false }), ("vague", Knows { legs: Legs::Vague, vague: true })];
        let handles = knows.map(|(name, knows)| {
            let kinds = kinds.to_vec();
            (
                name,
                std::thread::spawn(move || {
                    tallied(shape, &kinds.iter().map(|kind| &**kind).collect::<Vec<_>>(), make, knows, seed)
                }),
            )
        });
        let _ = write!(by_kind, "\n## {title}, by kind\n\n| was | generator's priors | vague |\n|---|--:|--:|\n");
        let tallies = handles.map(|(name, handle)| (name, handle.join().unwrap()));
        for (name, tally) in &tallies {
            let _ = writeln!(
                text,
                "| {title} | {name} | {:.1} % | {:.1} % | {} of {} | {:.1} % |",
                percent(tally.first, tally.all),
                percent(tally.three, tally.all),
                tally.sure,
                tally.all,
                percent(tally.sure_right, tally.sure)
            );
        }
        for (kind, (right, of)) in &tallies[0].1.by_kind {
            let (vague, _) = tallies[1].1.by_kind[kind];
            let _ = writeln!(by_kind, "| {kind} | {right} of {of} | {vague} |");
        }
        println!("{text}{by_kind}");
    }
    text.push_str(&by_kind);
    std::fs::write(concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/DIAGNOSIS_BOUND.md"), text).unwrap();
}

#[test]
fn the_evidence_is_highest_for_what_is_wrong() {
    let mut dice = Dice::new(9);
    for kind in ["healthy", "contact", "own_leg", "leads_not_nulled", "spur"] {
        let drawn = draw(Shape::Ring, &[kind], 8, GOOD, &mut dice);
        let mut tally = Tally::default();
        tally.count(kind, &drawn, Knows { legs: Legs::Even, vague: false }, &mut Dice::new(1));
        assert_eq!(tally.three, 1, "{kind}: {:?}", drawn.truths);
    }
}
