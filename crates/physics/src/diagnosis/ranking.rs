//! From suspicions to explanations: fitted, compared, gathered, placed as far as the figures hold.

use crate::diagnosis::case::{Case, IndexedCase};
use crate::diagnosis::fault_component::FaultComponent;
use crate::diagnosis::fit::{Fit, Model};
use crate::diagnosis::meter_model::{MANNERS, SORTING};
use crate::diagnosis::physics::{Setting, Simulated};
use crate::diagnosis::suspects::{Suspect, TWO_AT_ONCE, beside, coarse, compatible, singles, stride};
use crate::diagnosis::{At, Explanation, Kind};
use proof_standard::conductor::Core;
use proof_standard::shape::Shape;
use std::collections::BTreeMap;

/// Suspicions whose opens alone are less likely than the best by this (a logarithm) are dropped.
const PATTERN_DROP: f64 = 22.0;

/// A suspicion less likely than the best by this (a logarithm) is given up.
const GIVE_UP: f64 = 45.0;

/// Explanations fitted again under every manner, and how far behind the best they may be.
const FINAL: usize = 8;

const FINAL_DROP: f64 = 16.0;

/// Spans of a bridge, or of metal, that are fitted again: by even spacing alone the right one may stand behind.
const SPANS: usize = 4;

/// Single explanations that a second fault is added to.
const FIRSTS: usize = 6;

/// A figure so many spreads off, even under a good meter, asks for a second fault.
const ODD_FIGURE: f64 = 3.2;

/// Points whose figures are so many spreads off may hold the second fault.
const ODD_POINT: f64 = 1.6;

/// A place is named when it holds so much of its explanation within one segment either way.
const PLACED: f64 = 0.8;

/// A figure so many spreads off is not explained.
const UNEXPLAINED: f64 = 5.5;

/// The priors of legs and meters are the trade's and not the circuit's own: what the figures say counts a
/// little less than it would if they were (measured on circuits that are not those of the published figures).
const TEMPER: f64 = 0.85;

/// Explanations reported.
pub const MOST_EXPLANATIONS: usize = 8;

/// A suspicion fitted under one manner.
struct Weighed {
    suspect: Suspect,
    fit: Fit,
    log: f64,
}

fn sort(all: &mut [Weighed]) {
    all.sort_by(|a, b| b.log.total_cmp(&a.log));
}

/// Fits suspicions in turn; each is given up once clearly behind the best so far.
fn weigh(model: &Model<'_>, mut suspects: Vec<Suspect>, rounds: usize, best: &mut f64) -> Vec<Weighed> {
    if !model.affords(suspects.len(), rounds) {
        // Not all can be tried: the likeliest beforehand, and those that explain what is over range, come first.
        let mut said = Vec::new();
        suspects.sort_by_cached_key(|suspect| {
            let log = model.pattern_of(&suspect.parts, &mut said) + suspect.log_share;
            std::cmp::Reverse((log * 1e6) as i64)
        });
    }
    suspects
        .into_iter()
        .take_while(|_| !model.is_spent())
        .map(|suspect| {
            let fit = model.fit(&suspect.parts, &SORTING, None, rounds, *best - GIVE_UP);
            let log = fit.log_evidence + suspect.log_share;
            *best = best.max(log);
            Weighed { suspect, fit, log }
        })
        .collect()
}

/// Those whose opens explain what is over range about as well as the best.
fn by_pattern(model: &Model<'_>, suspects: Vec<Suspect>) -> Vec<Suspect> {
    let mut said = Vec::new();
    let scored: Vec<(f64, Suspect)> = suspects
        .into_iter()
        .map(|suspect| (model.pattern_of(&suspect.parts, &mut said) + suspect.log_share, suspect))
        .collect();
    let best = scored.iter().map(|(log, _)| *log).fold(f64::NEG_INFINITY, f64::max);
    scored.into_iter().filter(|(log, _)| *log > best - PATTERN_DROP).map(|(_, suspect)| suspect).collect()
}

/// Ranks all explanations of a case; and whether it was given up before all were tried.
pub(super) fn rank(case: &Case, laid: &IndexedCase) -> (Vec<Explanation>, bool) {
    let model = Model::new(case, laid);
    let ring = case.shape == Shape::Ring;
    let all = singles(case, laid);
    let mut best = f64::NEG_INFINITY;
    let possible = by_pattern(&model, all.clone());
    let beforehand =
        |suspects: &mut dyn Iterator<Item = &Suspect>| suspects.map(|one| one.log_share.exp()).sum::<f64>();
    let whole = beforehand(&mut possible.iter());
    let mut weighed = weigh(&model, possible, 4, &mut best);
    let tried = beforehand(&mut weighed.iter().map(|one| &one.suspect)) / whole;
    sort(&mut weighed);
    let reach = stride(laid.main.len()) - 1;
    if reach > 0 {
        let spans = |bridge: bool| {
            let of_kind = move |one: &&Weighed| match one.suspect.parts[..] {
                [FaultComponent::Bridge { .. }] => bridge,
                [FaultComponent::ParallelEarth { .. }] => !bridge,
                _ => false,
            };
            weighed.iter().filter(of_kind).take(2).filter(|one| one.log > best - GIVE_UP)
        };
        let mut near: Vec<Suspect> =
            spans(true).chain(spans(false)).flat_map(|one| beside(&one.suspect, laid, ring, reach)).collect();
        near.sort_by(|a, b| a.parts.cmp(&b.parts));
        near.dedup_by(|a, b| a.parts == b.parts);
        near.retain(|one| weighed.iter().all(|other| other.suspect.parts != one.parts));
        let more = weigh(&model, near, 3, &mut best);
        weighed.extend(more);
        sort(&mut weighed);
    }
    if odd(&model, &weighed) {
        let more = doubles(&model, &weighed, &all, ring, &mut best);
        weighed.extend(more);
        sort(&mut weighed);
    }
    let logs = under_every_manner(&model, weighed);
    let mut explanations = gather(case, laid, &model, &logs);
    if model.is_spent() {
        // What was not tried keeps its share beforehand.
        for one in &mut explanations {
            one.share *= tried;
        }
    }
    (explanations, model.is_spent())
}

/// Whether the best single explanation leaves something over.
fn odd(model: &Model<'_>, weighed: &[Weighed]) -> bool {
    weighed.first().is_none_or(|best| {
        let good = model.fit(&best.suspect.parts, &MANNERS[0], Some(&best.fit), 2, f64::NEG_INFINITY);
        good.worst > ODD_FIGURE
    })
}

fn key(suspect: &Suspect) -> Vec<Group> {
    let mut key: Vec<Group> = suspect.parts.iter().map(|&part| group(part)).collect();
    key.sort();
    key
}

/// The best of each explanation fitted under every manner; its other places move with it.
fn under_every_manner(model: &Model<'_>, weighed: Vec<Weighed>) -> Vec<(f64, Weighed)> {
    // The shift of each explanation, and how many of its places were fitted again.
    let mut shifts: BTreeMap<Vec<Group>, (f64, usize)> = BTreeMap::new();
    let best = weighed.first().map_or(0.0, |one| one.log);
    let mut logs = Vec::new();
    for one in weighed {
        if one.log < best - FINAL_DROP && !logs.is_empty() {
            break;
        }
        let key = key(&one.suspect);
        let places = if matches!(key[..], [Group::Bridge | Group::ParallelEarth]) { SPANS } else { 1 };
        let fitted = shifts.get(&key).copied();
        if let Some((shift, _)) = fitted.filter(|(_, fitted)| *fitted >= places) {
            logs.push((one.log + shift, one));
            continue;
        }
        if fitted.is_none() && shifts.len() >= FINAL {
            continue;
        }
        let fits: Vec<Fit> = MANNERS
            .iter()
            .map(|manner| model.fit(&one.suspect.parts, manner, Some(&one.fit), 3, f64::NEG_INFINITY))
            .collect();
        let each: Vec<f64> =
            fits.iter().zip(&MANNERS).map(|(fit, manner)| fit.log_evidence + manner.log_share).collect();
        let likeliest = each.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1)).map_or(0, |(at, _)| at);
        let log = log_sum(&each) + one.suspect.log_share;
        shifts.insert(key, (log - one.log, fitted.map_or(1, |(_, fitted)| fitted + 1)));
        let fit = fits.into_iter().nth(likeliest).unwrap_or(one.fit);
        logs.push((log, Weighed { suspect: one.suspect, fit, log }));
    }
    logs.sort_by(|a, b| b.0.total_cmp(&a.0));
    logs
}

fn log_sum(logs: &[f64]) -> f64 {
    let most = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    most + logs.iter().map(|log| (log - most).exp()).sum::<f64>().ln()
}

/// Two at once: the best single explanations, each with a coarse choice of all others; then the
/// best of these at the places beside.
fn doubles(model: &Model<'_>, weighed: &[Weighed], all: &[Suspect], ring: bool, best: &mut f64) -> Vec<Weighed> {
    let healthy = all[0].log_share;
    let step = (model.laid.main.len() / 6).max(1);
    let mut pairs = Vec::new();
    let mut firsts: Vec<Vec<Group>> = Vec::new();
    for first in weighed.iter().filter(|one| !one.suspect.parts.is_empty()) {
        let key = key(&first.suspect);
        if firsts.contains(&key) {
            continue;
        }
        firsts.push(key);
        if firsts.len() > FIRSTS {
            break;
        }
        let odd: Vec<usize> = (0..first.fit.off.len()).filter(|&point| first.fit.off[point] > ODD_POINT).collect();
        let a = first.suspect.parts[0];
        for second in coarse(all, &odd, step) {
            let b = second.parts[0];
            if !compatible(a, b) && !compatible(b, a) {
                continue;
            }
            let mut parts = vec![a, b];
            parts.sort();
            let log_share = TWO_AT_ONCE.ln() - healthy + first.suspect.log_share + second.log_share;
            pairs.push(Suspect { parts, log_share });
        }
    }
    pairs.sort_by(|a, b| a.parts.cmp(&b.parts));
    pairs.dedup_by(|a, b| a.parts == b.parts);
    let mut found = weigh(model, by_pattern(model, pairs), 3, best);
    sort(&mut found);
    let near = found.iter().take(4).flat_map(|one| beside(&one.suspect, model.laid, ring, step));
    let mut near: Vec<Suspect> = near.collect();
    near.sort_by(|a, b| a.parts.cmp(&b.parts));
    near.dedup_by(|a, b| a.parts == b.parts);
    near.retain(|one| found.iter().all(|other| other.suspect.parts != one.parts));
    let more = weigh(model, near, 3, best);
    found.extend(more);
    found
}

/// What is reported as one: a joint in one core wherever it is, a bridge whatever it spans.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
enum Group {
    Spur(Vec<usize>),
    Joint(Core),
    Open(Core),
    Cross([Core; 2]),
    Contact(usize),
    BothOutlets(usize),
    SwitchOff(usize),
    Swap(usize, [Core; 2]),
    Bridge,
    ParallelEarth,
    OwnLeg(Option<usize>),
    Leads,
    WrongLength,
    WrongCpc,
}

fn group(part: FaultComponent) -> Group {
    match part {
        FaultComponent::Spur { point } => Group::Spur(vec![point]),
        FaultComponent::SpurOfTwo { point } => Group::Spur(vec![point, point + 1]),
        FaultComponent::Joint { core, .. } | FaultComponent::SpurJoint { core, open: false, .. } => Group::Joint(core),
        FaultComponent::Open { core, .. } | FaultComponent::SpurJoint { core, open: true, .. } => Group::Open(core),
        FaultComponent::Cross { cores, .. } => Group::Cross(cores),
        FaultComponent::Contact { point } => Group::Contact(point),
        FaultComponent::BothOutlets { point } => Group::BothOutlets(point),
        FaultComponent::SwitchOff { point } => Group::SwitchOff(point),
        FaultComponent::Swap { point, cores } => Group::Swap(point, cores),
        FaultComponent::Bridge { .. } => Group::Bridge,
        FaultComponent::ParallelEarth { .. } => Group::ParallelEarth,
        FaultComponent::OwnLeg { step } => Group::OwnLeg(step),
        FaultComponent::Leads => Group::Leads,
        FaultComponent::WrongLength => Group::WrongLength,
        FaultComponent::WrongCpc { .. } => Group::WrongCpc,
    }
}

const fn segment(part: FaultComponent) -> Option<usize> {
    match part {
        FaultComponent::Joint { segment, .. }
        | FaultComponent::Open { segment, .. }
        | FaultComponent::Cross { segment, .. } => Some(segment),
        _ => None,
    }
}

fn gather(case: &Case, laid: &IndexedCase, model: &Model<'_>, logs: &[(f64, Weighed)]) -> Vec<Explanation> {
    let total = log_sum(&logs.iter().map(|(log, _)| TEMPER * *log).collect::<Vec<_>>());
    // One spur behind the other and two spurs side by side are one explanation: spurs at those points.
    let mut groups: BTreeMap<Vec<Group>, Vec<(f64, &Weighed)>> = BTreeMap::new();
    for (log, one) in logs {
        groups.entry(key(&one.suspect)).or_default().push(((TEMPER * log - total).exp(), one));
    }
    let mut explanations: Vec<Explanation> = groups
        .into_values()
        .filter_map(|mut members| {
            members.sort_by(|a, b| b.0.total_cmp(&a.0));
            let share: f64 = members.iter().map(|(share, _)| share).sum();
            let (_, best) = members.first()?;
            let mut sizes = best.fit.sizes.iter().copied();
            let mut kinds: Vec<(Kind, f64)> = Vec::new();
            for (index, &part) in best.suspect.parts.iter().enumerate() {
                let own: Vec<f64> = (0..part.sizes()).filter_map(|_| sizes.next()).collect();
                let place = segment(part).and_then(|_| placed(case, laid, &members, index, share));
                kinds.push((kind(case, laid, part, place), own.first().copied().unwrap_or(0.0)));
            }
            let setting = Setting {
                parts: &best.suspect.parts,
                sizes: &best.fit.sizes,
                length_m: best.fit.length_m,
                along: &best.fit.along,
                anchors: &best.fit.along,
            };
            let predicted = Simulated::new(case, laid, setting, &model.cpc_rates).all_figures();
            let finite = |ohm: f64| ohm.is_finite().then_some(ohm);
            Some(Explanation {
                share,
                at: kinds.iter().map(|(_, size)| At { size: *size }).collect(),
                kinds: kinds.into_iter().map(|(kind, _)| kind).collect(),
                length_m: best.fit.length_m,
                unexplained: unexplained(case, &best.fit),
                end_to_end: predicted.ends.map(finite),
                board_check: predicted.check.map(finite),
                points: predicted.points.iter().map(|pair| pair.map(finite)).collect(),
            })
        })
        .collect();
    explanations.sort_by(|a, b| b.share.total_cmp(&a.share));
    explanations.truncate(MOST_EXPLANATIONS);
    explanations
}

/// The point furthest from what a fit says, if that is beyond belief.
fn unexplained(case: &Case, fit: &Fit) -> Option<String> {
    let (point, off) = fit.off.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1))?;
    (*off > UNEXPLAINED).then(|| case.points[point].id.clone())
}

/// The segment that holds most of an explanation, if the figures place it.
fn placed(case: &Case, laid: &IndexedCase, members: &[(f64, &Weighed)], index: usize, share: f64) -> Option<usize> {
    let segments = laid.main.len() + usize::from(case.shape == Shape::Ring);
    let mut held = vec![0.0; segments];
    for (share, one) in members {
        if let Some(segment) = one.suspect.parts.get(index).copied().and_then(segment) {
            held[segment] += share;
        }
    }
    let within = |at: usize| held[at.saturating_sub(1)..(at + 2).min(segments)].iter().sum::<f64>();
    let best = (0..segments).max_by(|&a, &b| held[a].total_cmp(&held[b]))?;
    (within(best) >= PLACED * share).then_some(best)
}

fn kind(case: &Case, laid: &IndexedCase, part: FaultComponent, place: Option<usize>) -> Kind {
    let id = |point: usize| case.points[point].id.clone();
    let accessory = |point: usize| case.accessory(laid, point);
    let after = place.map(|segment| match segment.checked_sub(1) {
        None => crate::network::description::BOARD.to_owned(),
        Some(main) => accessory(laid.main[main]),
    });
    let node = |node: usize| match node.checked_sub(1) {
        None => crate::network::description::BOARD.to_owned(),
        Some(main) => accessory(laid.main[main]),
    };
    match part {
        FaultComponent::Spur { point } => Kind::Spur { points: vec![accessory(point)] },
        FaultComponent::SpurOfTwo { point } => Kind::Spur { points: vec![id(point), id(point + 1)] },
        FaultComponent::Joint { core, .. } => Kind::HighResistanceJoint { conductor: core, after },
        FaultComponent::SpurJoint { core, open: false, .. } => {
            Kind::HighResistanceJoint { conductor: core, after: None }
        }
        FaultComponent::Open { core, .. } => Kind::Open { conductor: core, after },
        FaultComponent::SpurJoint { core, open: true, .. } => Kind::Open { conductor: core, after: None },
        FaultComponent::Cross { cores, .. } => Kind::Cross { conductors: cores, after },
        FaultComponent::Contact { point } => Kind::Contact { at: id(point) },
        FaultComponent::BothOutlets { point } => Kind::Contact { at: accessory(point) },
        FaultComponent::SwitchOff { point } => Kind::SwitchOff { at: id(point) },
        FaultComponent::Swap { point, cores } => Kind::Swap { at: accessory(point), conductors: cores },
        FaultComponent::Bridge { from, to } => Kind::Bridge { between: [node(from), node(to)] },
        FaultComponent::OwnLeg { step } => Kind::OwnLeg { step: step.map(|at| if at == 0 { 2 } else { 3 }) },
        FaultComponent::Leads => Kind::LeadsNotNulled,
        FaultComponent::ParallelEarth { from, to } => Kind::ParallelEarth { between: [node(from), node(to)] },
        FaultComponent::WrongLength => Kind::WrongLength,
        FaultComponent::WrongCpc { row } => {
            Kind::WrongCpc { mm2: proof_standard::limits::conductors::COPPER_MOHM_PER_M[row].0 }
        }
    }
}
