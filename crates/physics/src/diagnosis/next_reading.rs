//! The one further reading that would best separate the leading explanations.
//!
//! A figure not taken yet whose value the explanations disagree on comes first, weighed by how far
//! apart they put it; where none is left, the trade's own way of telling the leading two apart.

use crate::diagnosis::case::Case;
use crate::diagnosis::{Explanation, Kind};
use proof_standard::conductor::Core;
use proof_standard::shape::Shape;

/// What to do next, and why.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Next {
    /// What to do.
    pub what: String,
    /// Why it would settle the question.
    pub because: String,
}

impl Next {
    fn new(what: impl Into<String>, because: impl Into<String>) -> Self {
        Self { what: what.into(), because: because.into() }
    }
}

/// Above this share the kind is settled.
const SETTLED: f64 = 0.95;

/// A share from which another explanation is not passed over.
const COUNTS: f64 = 0.01;

/// A figure separates explanations that put it so far apart, Ω (common practice, no source).
const SEPARATES_OHM: f64 = 0.04;

/// An open circuit counts as this far from any figure, Ω.
const OPEN_OHM: f64 = 1.0;

/// Names the reading.
pub(super) fn next(case: &Case, explanations: &[Explanation]) -> Next {
    let Some(first) = explanations.first() else {
        return Next::new("Read more points", "nothing explains the figures taken so far");
    };
    if let Some(point) = &first.unexplained {
        return Next::new(
            format!("Read {point} again in both steps, with firm contacts"),
            "nothing that can be wrong with this circuit gives the figure shown there",
        );
    }
    if first.share >= SETTLED && !asks_for_another_repair(explanations) {
        return confirm(case, first);
    }
    if let Some(best) = untaken(case, explanations) {
        return best;
    }
    match explanations.get(1) {
        Some(second) => apart(case, first, second),
        None => confirm(case, first),
    }
}

/// Whether another explanation that asks for a different repair holds a share that counts.
fn asks_for_another_repair(explanations: &[Explanation]) -> bool {
    let words = |one: &Explanation| one.kinds.iter().map(Kind::label).collect::<Vec<_>>();
    let first = explanations.first().map(words).unwrap_or_default();
    explanations.iter().skip(1).any(|one| one.share >= COUNTS && words(one) != first)
}

/// The figure not taken yet that the explanations disagree on most.
fn untaken(case: &Case, explanations: &[Explanation]) -> Option<Next> {
    type Pick = Box<dyn Fn(&Explanation) -> Option<f64>>;
    let mut figures: Vec<(String, Pick)> = Vec::new();
    if case.shape == Shape::Ring {
        for (core, name) in ["r1, line end to line end", "rn, neutral end to neutral end", "r2, CPC end to CPC end"]
            .into_iter()
            .enumerate()
        {
            if case.end_to_end[core].is_none() {
                figures.push((format!("Read {name}"), Box::new(move |one| one.end_to_end[core])));
            }
        }
        for (step, name) in ["line to neutral", "line to CPC"].into_iter().enumerate() {
            if case.board_check[step].is_none() {
                figures.push((
                    format!("With the legs crossed, read {name} of leg 1 at the board"),
                    Box::new(move |one| one.board_check[step]),
                ));
            }
        }
    }
    for (index, point) in case.points.iter().enumerate() {
        for (step, name) in ["line–neutral", "line–CPC"].into_iter().enumerate() {
            if case.read(index)[step].is_none() {
                let what = format!("Read {name} at {}", point.id);
                figures.push((what, Box::new(move |one| one.points[index][step])));
            }
        }
    }
    let whole: f64 = explanations.iter().map(|one| one.share).sum();
    let spread = |pick: &Pick| {
        let values: Vec<(f64, f64)> =
            explanations.iter().map(|one| (one.share / whole, pick(one).unwrap_or(OPEN_OHM))).collect();
        let mean: f64 = values.iter().map(|(share, ohm)| share * ohm).sum();
        values.iter().map(|(share, ohm)| share * (ohm - mean).powi(2)).sum::<f64>().sqrt()
    };
    let (what, pick) = figures.iter().max_by(|a, b| spread(&a.1).total_cmp(&spread(&b.1)))?;
    let (a, b) = (pick(explanations.first()?), pick(explanations.get(1)?));
    let apart = (a.unwrap_or(OPEN_OHM) - b.unwrap_or(OPEN_OHM)).abs();
    let shown = |ohm: Option<f64>| ohm.map_or("open".to_owned(), |ohm| format!("{ohm:.2} Ω"));
    (apart >= SEPARATES_OHM).then(|| {
        let because = format!(
            "{} would read {}, {} would read {}",
            explanations[0].describe(),
            shown(a),
            explanations[1].describe(),
            shown(b)
        );
        Next::new(what.clone(), because)
    })
}

/// What confirms a settled explanation, or places what the figures cannot.
fn confirm(case: &Case, first: &Explanation) -> Next {
    if let [kind] = &first.kinds[..]
        && unplaced(kind)
    {
        return halve(case, first);
    }
    Next::new("No further reading is needed", format!("{} explains every figure taken", first.describe()))
}

const fn unplaced(kind: &Kind) -> bool {
    matches!(
        kind,
        Kind::HighResistanceJoint { after: None, .. }
            | Kind::Open { after: None, .. }
            | Kind::Cross { after: None, .. }
    )
}

fn halve(case: &Case, first: &Explanation) -> Next {
    let middle = case.points.get(case.points.len() / 2).map_or("the middle point", |point| point.id.as_str());
    let core = match first.kinds.first() {
        Some(Kind::HighResistanceJoint { conductor, .. } | Kind::Open { conductor, .. }) => core_name(*conductor),
        _ => "each conductor",
    };
    Next::new(
        format!("Open the circuit at {middle} and read {core} from there to each end at the board"),
        "the figures taken read alike wherever it is: halving the cable finds the part that it is in",
    )
}

const fn core_name(core: Core) -> &'static str {
    match core {
        Core::L => "the line",
        Core::N => "the neutral",
        Core::E => "the CPC",
    }
}

/// How the trade tells two explanations apart.
fn apart(case: &Case, first: &Explanation, second: &Explanation) -> Next {
    let pair = [first.kinds.first(), second.kinds.first()];
    let has = |test: fn(&Kind) -> bool| pair.iter().flatten().any(|kind| test(kind));
    let because = format!("it tells {} from {}", first.describe(), second.describe());
    let point = pair.iter().flatten().find_map(|kind| match kind {
        Kind::Contact { at } | Kind::SwitchOff { at } | Kind::Swap { at, .. } => Some(at.clone()),
        Kind::Spur { points } => points.first().cloned(),
        _ => None,
    });
    if let Some(point) = point {
        if has(|kind| matches!(kind, Kind::SwitchOff { .. } | Kind::Swap { .. })) {
            return Next::new(
                format!("Switch {point} on and read it again in both steps; then look at its terminals"),
                format!("a switch closes, exchanged conductors stay open: {because}"),
            );
        }
        return Next::new(
            format!(
                "Work the plug or the switch of {point} a few times and read both steps again; count the cables behind it"
            ),
            format!("a contact falls on repeat, a spur stays and has one cable: {because}"),
        );
    }
    if has(|kind| matches!(kind, Kind::LeadsNotNulled)) {
        return Next::new(
            "Short the leads firmly, null them and read one point again",
            format!("leads go with the null: {because}"),
        );
    }
    if has(|kind| matches!(kind, Kind::ParallelEarth { .. })) {
        return Next::new(
            "Take accessories and their earth tails off earthed metal, and read r2 and R1+R2 again",
            format!("a parallel path goes with the metal: {because}"),
        );
    }
    if has(|kind| matches!(kind, Kind::WrongCpc { .. })) {
        return Next::new("Look at the CPC at two points: its size is on the cable", because);
    }
    if has(|kind| matches!(kind, Kind::WrongLength)) {
        return Next::new("Pace the run, or look at the drum: how long is the cable?", because);
    }
    if pair.iter().flatten().any(|kind| unplaced(kind)) {
        return halve(case, first);
    }
    Next::new("Read every point a second time with firm contacts", because)
}

impl Explanation {
    /// In a few words, as the middle of a sentence.
    pub fn describe(&self) -> String {
        if self.kinds.is_empty() {
            return "nothing wrong in its continuity".to_owned();
        }
        let parts: Vec<String> = self.kinds.iter().zip(&self.at).map(|(kind, at)| kind.describe(at.size)).collect();
        parts.join(" with ")
    }
}

impl Kind {
    /// In a few words with its size, Ω or m, as the middle of a sentence.
    pub fn describe(&self, size: f64) -> String {
        let placed = |after: &Option<String>| match after.as_deref() {
            Some("board") => " between the board and the first point".to_owned(),
            Some(id) => format!(" after {id}"),
            None => String::new(),
        };
        let letters = |pair: &[Core; 2]| {
            pair.map(|core| match core {
                Core::L => "line",
                Core::N => "neutral",
                Core::E => "CPC",
            })
            .join(" and ")
        };
        match self {
            Self::Spur { points } => format!("a spur of about {size:.0} m at {}", points.join(", ")),
            Self::HighResistanceJoint { conductor, after } => {
                format!("a joint of about {size:.2} Ω in {}{}", core_name(*conductor), placed(after))
            }
            Self::Open { conductor, after } => format!("a break in {}{}", core_name(*conductor), placed(after)),
            Self::Cross { conductors, after } => format!("{} crossed at a joint{}", letters(conductors), placed(after)),
            Self::Contact { at } => format!("a contact of about {size:.2} Ω at {at}"),
            Self::SwitchOff { at } => format!("a switch that is off at {at}"),
            Self::Swap { at, conductors } => format!("{} exchanged at {at}", letters(conductors)),
            Self::Bridge { between: [a, b] } => format!("a cable that joins {a} and {b} beside the ring"),
            Self::OwnLeg { step: None } => "each leg linked to itself".to_owned(),
            Self::OwnLeg { step: Some(step) } => {
                let name = if *step == 2 { "line–neutral" } else { "line–CPC" };
                format!("each leg linked to itself in step {step}, {name}, only")
            }
            Self::LeadsNotNulled => format!("leads of {size:.2} Ω not nulled"),
            Self::ParallelEarth { between: [a, b] } => format!("metal beside the CPC between {a} and {b}"),
            Self::WrongLength => "another length than was said".to_owned(),
            Self::WrongCpc { mm2 } => format!("a CPC of {mm2} mm²"),
        }
    }
}
