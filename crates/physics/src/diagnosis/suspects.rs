//! Everything that may be wrong with a circuit, each with how common it is before a figure is read.
//!
//! Shares are common practice, no source: what is met on sites and at practice benches. They
//! decide only between suspicions that the figures leave alike.

use crate::diagnosis::case::{Case, IndexedCase};
use crate::diagnosis::fault_component::FaultComponent;
use proof_standard::conductor::Core;
use proof_standard::limits::conductors::COPPER_MOHM_PER_M;
use proof_standard::quantity::Metres;
use proof_standard::shape::Shape;

/// One suspicion: its parts (none: a healthy circuit) and the log of its share beforehand.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Suspect {
    pub parts: Vec<FaultComponent>,
    pub log_share: f64,
}

const HEALTHY: f64 = 0.17;

const SPUR: f64 = 0.10;

const SPUR_OF_TWO: f64 = 0.006;

const JOINT: f64 = 0.10;

const OPEN: f64 = 0.06;

const CROSS: f64 = 0.05;

const CONTACT: f64 = 0.08;

const SWITCH_OFF: f64 = 0.09;

const SWAP: f64 = 0.06;

/// Neutral and CPC exchanged at an accessory is rarer than the line with either.
const SWAP_NEUTRAL_CPC: f64 = 0.02;

const BRIDGE: f64 = 0.11;

/// On a radial it takes another cable between two of its points.
const BRIDGE_OF_RADIAL: f64 = 0.04;

const OWN_LEG: f64 = 0.06;

/// In one of the two steps alone: the other was crossed rightly.
const OWN_LEG_ONCE: f64 = 0.04;

const LEADS: f64 = 0.07;

const PARALLEL_EARTH: f64 = 0.06;

const WRONG_LENGTH: f64 = 0.03;

/// Of a ring both ends are at hand, and its length is known from them.
const WRONG_LENGTH_OF_RING: f64 = 0.012;

const WRONG_CPC: f64 = 0.08;

/// Share of circuits with two things wrong at once.
pub(super) const TWO_AT_ONCE: f64 = 0.06;

const PAIRS: [[Core; 2]; 3] = [[Core::L, Core::N], [Core::L, Core::E], [Core::N, Core::E]];

/// Pairs of nodes tried at first for a bridge or parallel metal; the rest is refined from these.
fn spans(least: usize, first: usize, last: usize) -> Vec<(usize, usize)> {
    let stride = stride(last);
    let nodes: Vec<usize> = (first..=last).step_by(stride).chain([last]).collect();
    let mut all = Vec::new();
    for (index, &from) in nodes.iter().enumerate() {
        all.extend(nodes[index + 1..].iter().filter(|&&to| to >= from + least).map(|&to| (from, to)));
    }
    all.dedup();
    all
}

/// Every so many nodes a bridge is tried at first.
pub(super) fn stride(nodes: usize) -> usize {
    nodes.div_ceil(8).max(1)
}

/// Not all spans are tried at first, but each has its share of all.
fn share_of_all(share: f64, tried: usize, all: usize) -> f64 {
    share * tried as f64 / all.max(1) as f64
}

/// Cables beside the run, with their share.
fn bridges(nodes: usize, ring: bool) -> (f64, Vec<FaultComponent>) {
    let tried = spans(2, 1, nodes);
    let all = nodes.saturating_sub(1) * nodes.saturating_sub(2) / 2;
    let share = share_of_all(if ring { BRIDGE } else { BRIDGE_OF_RADIAL }, tried.len(), all);
    (share, tried.into_iter().map(|(from, to)| FaultComponent::Bridge { from, to }).collect())
}

/// Metal beside the CPC, with its share.
fn metal(nodes: usize) -> (f64, Vec<FaultComponent>) {
    let tried = spans(1, 0, nodes);
    let share = share_of_all(PARALLEL_EARTH, tried.len(), nodes * (nodes + 1) / 2);
    (share, tried.into_iter().map(|(from, to)| FaultComponent::ParallelEarth { from, to }).collect())
}

/// All single suspicions of a case.
pub(super) fn singles(case: &Case, laid: &IndexedCase) -> Vec<Suspect> {
    let ring = case.shape == Shape::Ring;
    let nodes = laid.main.len();
    let segments = nodes + usize::from(ring);
    let points = case.points.len();
    let mut all = vec![Suspect { parts: Vec::new(), log_share: HEALTHY.ln() }];
    let mut family = |share: f64, parts: Vec<FaultComponent>| {
        let each = (share / parts.len().max(1) as f64).ln();
        all.extend(parts.into_iter().map(|part| Suspect { parts: vec![part], log_share: each }));
    };
    let accessories = || (0..points).filter(|&point| laid.first[point] == point);
    let mains = || accessories().filter(|&point| laid.spurs[point].is_empty());
    family(SPUR, mains().map(|point| FaultComponent::Spur { point }).collect());
    let single = |point: usize| laid.spurs[point].is_empty() && !laid.is_of_two(point);
    let twos = mains().filter(|&point| point + 1 < points && single(point) && single(point + 1));
    family(SPUR_OF_TWO, twos.map(|point| FaultComponent::SpurOfTwo { point }).collect());
    let in_segments = |make: &dyn Fn(Core, usize) -> FaultComponent| -> Vec<FaultComponent> {
        Core::ALL.iter().flat_map(|&core| (0..segments).map(move |segment| make(core, segment))).collect()
    };
    let in_spurs = |open: bool| {
        accessories()
            .filter(|&point| !laid.spurs[point].is_empty())
            .flat_map(move |point| Core::ALL.map(|core| FaultComponent::SpurJoint { core, point, open }))
    };
    let mut joints = in_segments(&|core, segment| FaultComponent::Joint { core, segment });
    joints.extend(in_spurs(false));
    family(JOINT, joints);
    let mut opens = in_segments(&|core, segment| FaultComponent::Open { core, segment });
    opens.extend(in_spurs(true));
    family(OPEN, opens);
    let crosses =
        PAIRS.iter().flat_map(|&cores| (0..segments).map(move |segment| FaultComponent::Cross { cores, segment }));
    family(CROSS, crosses.collect());
    let both = accessories().filter(|&point| laid.is_of_two(point)).map(|point| FaultComponent::BothOutlets { point });
    family(CONTACT, (0..points).map(|point| FaultComponent::Contact { point }).chain(both).collect());
    family(SWITCH_OFF, (0..points).map(|point| FaultComponent::SwitchOff { point }).collect());
    let swaps = |pairs: &[[Core; 2]]| {
        pairs.iter().flat_map(|&cores| accessories().map(move |point| FaultComponent::Swap { point, cores })).collect()
    };
    family(SWAP, swaps(&PAIRS[..2]));
    family(SWAP_NEUTRAL_CPC, swaps(&PAIRS[2..]));
    let (share, parts) = bridges(nodes, ring);
    family(share, parts);
    let (share, parts) = metal(nodes);
    family(share, parts);
    if ring {
        family(OWN_LEG, vec![FaultComponent::OwnLeg { step: None }]);
        family(OWN_LEG_ONCE, vec![FaultComponent::OwnLeg { step: Some(0) }, FaultComponent::OwnLeg { step: Some(1) }]);
    }
    family(LEADS, vec![FaultComponent::Leads]);
    if case.length.is_some_and(|length| length > Metres::literal(0.0)) {
        family(if ring { WRONG_LENGTH_OF_RING } else { WRONG_LENGTH }, vec![FaultComponent::WrongLength]);
    }
    let rows = COPPER_MOHM_PER_M.iter().enumerate();
    let near = rows.filter(|(_, (mm2, _))| {
        let share = mm2 / case.cpc_mm2.get();
        share != 1.0 && (0.35..=2.7).contains(&share)
    });
    family(WRONG_CPC, near.map(|(row, _)| FaultComponent::WrongCpc { row }).collect());
    all
}

/// A coarse choice among all single suspicions, for a second fault beside a first: every so many
/// segments and spans, and only those points whose figures the first leaves unexplained.
pub(super) fn coarse(all: &[Suspect], odd_points: &[usize], stride: usize) -> Vec<Suspect> {
    let on = |node: usize| node.is_multiple_of(stride);
    all.iter()
        .filter(|suspect| match suspect.parts[..] {
            [
                FaultComponent::Joint { segment, .. }
                | FaultComponent::Open { segment, .. }
                | FaultComponent::Cross { segment, .. },
            ] => on(segment),
            [FaultComponent::Bridge { from, to } | FaultComponent::ParallelEarth { from, to }] => on(from) && on(to),
            [
                FaultComponent::Spur { point }
                | FaultComponent::Contact { point }
                | FaultComponent::BothOutlets { point }
                | FaultComponent::SwitchOff { point }
                | FaultComponent::Swap { point, .. },
            ] => odd_points.contains(&point),
            [FaultComponent::SpurOfTwo { .. } | FaultComponent::WrongLength] | [] => false,
            _ => true,
        })
        .cloned()
        .collect()
}

/// The same suspicion at places up to `reach` nodes beside.
pub(super) fn beside(suspect: &Suspect, laid: &IndexedCase, ring: bool, reach: usize) -> Vec<Suspect> {
    let nodes = laid.main.len();
    let segments = nodes + usize::from(ring);
    let around = |node: usize| node.saturating_sub(reach)..=node + reach;
    let mut found = Vec::new();
    for (index, part) in suspect.parts.iter().enumerate() {
        let moved: Vec<FaultComponent> = match *part {
            FaultComponent::Joint { core, segment } => around(segment)
                .filter(|&s| s < segments)
                .map(|segment| FaultComponent::Joint { core, segment })
                .collect(),
            FaultComponent::Open { core, segment } => around(segment)
                .filter(|&s| s < segments)
                .map(|segment| FaultComponent::Open { core, segment })
                .collect(),
            FaultComponent::Cross { cores, segment } => around(segment)
                .filter(|&s| s < segments)
                .map(|segment| FaultComponent::Cross { cores, segment })
                .collect(),
            FaultComponent::Bridge { from, to } => around(from)
                .flat_map(|a| around(to).map(move |b| (a, b)))
                .filter(|&(a, b)| a >= 1 && b <= nodes && b >= a + 2)
                .map(|(from, to)| FaultComponent::Bridge { from, to })
                .collect(),
            FaultComponent::ParallelEarth { from, to } => around(from)
                .flat_map(|a| around(to).map(move |b| (a, b)))
                .filter(|&(a, b)| b <= nodes && b > a)
                .map(|(from, to)| FaultComponent::ParallelEarth { from, to })
                .collect(),
            _ => Vec::new(),
        };
        for part in moved {
            let mut parts = suspect.parts.clone();
            parts[index] = part;
            let fits = match parts[..] {
                [a, b] => compatible(a, b) || compatible(b, a),
                _ => true,
            };
            parts.sort();
            if fits && parts != suspect.parts {
                found.push(Suspect { parts, log_share: suspect.log_share });
            }
        }
    }
    found
}

/// Whether two things can be suspected together: not the same place twice, nothing that the
/// chains cannot hold.
pub(super) fn compatible(a: FaultComponent, b: FaultComponent) -> bool {
    use FaultComponent::{
        BothOutlets, Bridge, Contact, Cross, Joint, Leads, Open, OwnLeg, ParallelEarth, Spur, SpurJoint, SpurOfTwo,
        Swap, SwitchOff, WrongCpc, WrongLength,
    };
    let loops = |part| match part {
        Bridge { from, to } | ParallelEarth { from, to } => Some((from, to)),
        _ => None,
    };
    match (a, b) {
        (Cross { .. }, Cross { .. }) => return false,
        (Cross { segment, .. }, other) | (other, Cross { segment, .. })
            if loops(other).is_some_and(|(from, to)| (from..to).contains(&segment)) =>
        {
            return false;
        }
        _ if loops(a).is_some() && loops(b).is_some() => return false,
        _ => {}
    }
    let local = |part| match part {
        Spur { point } | SpurOfTwo { point } | Contact { point } | SwitchOff { point } | Swap { point, .. } => {
            Some(point)
        }
        SpurJoint { point, .. } | BothOutlets { point } => Some(point),
        _ => None,
    };
    let hangs = |part| matches!(part, Spur { .. } | Contact { .. } | BothOutlets { .. });
    let exchanged = |part| matches!(part, Swap { .. });
    let beside_each_other = (hangs(a) && exchanged(b)) || (hangs(b) && exchanged(a));
    if local(a).is_some() && local(a) == local(b) && !beside_each_other {
        return false;
    }
    match (a, b) {
        (Joint { core, segment }, Open { core: c, segment: s })
        | (Open { core, segment }, Joint { core: c, segment: s }) => core != c || segment != s,
        (Joint { core, segment }, Joint { core: c, segment: s })
        | (Open { core, segment }, Open { core: c, segment: s }) => (core, segment) < (c, s),
        (OwnLeg { .. }, OwnLeg { .. })
        | (Leads, Leads)
        | (WrongLength, WrongLength)
        | (WrongCpc { .. }, WrongCpc { .. })
        | (SpurOfTwo { .. }, _)
        | (_, SpurOfTwo { .. }) => false,
        _ => true,
    }
}
