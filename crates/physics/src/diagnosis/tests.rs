use super::fault_component::FaultComponent;
use super::physics::{Setting, Simulated};
use super::*;
use crate::network::circuit::expect;
use crate::network::description::{Description, Fault, OhmPerMetre, Point, SegmentName};
use proof_standard::conductor::Core;
use proof_standard::quantity::{Celsius, Metres, Ohms, SquareMillimetres};
use proof_standard::shape::Shape;
use proptest::prelude::*;

fn mm2(size: f64) -> SquareMillimetres {
    SquareMillimetres::new(size).unwrap()
}

/// A case with every figure asked for, whatever it shows.
fn case(shape: Shape, legs: &[f64], return_leg: f64) -> Case {
    let ring = shape == Shape::Ring;
    Case {
        shape,
        cores: OhmPerMetre::copper([mm2(2.5), mm2(2.5), mm2(1.5)], Celsius::literal(20.0)).unwrap(),
        cpc_mm2: mm2(1.5),
        length: Metres::new(legs.iter().sum::<f64>() + if ring { return_leg } else { 0.0 }).ok(),
        end_to_end: [ring.then_some(None); 3],
        board_check: [ring.then_some(None); 2],
        points: (0..legs.len())
            .map(|n| ReadPoint {
                id: format!("p{n}"),
                spur_from: None,
                leg: None,
                r1_rn: Some(None),
                r1_r2: Some(None),
            })
            .collect(),
    }
}

fn segment(index: usize) -> SegmentName {
    SegmentName::After(index.checked_sub(1).map_or("board".into(), |n| format!("p{n}")))
}

/// The part as the network solver knows it.
fn fault(part: FaultComponent, size: f64) -> Option<Fault> {
    let name = |node: usize| node.checked_sub(1).map_or("board".into(), |n| format!("p{n}"));
    let ohm = Ohms::new(size).ok()?;
    Some(match part {
        FaultComponent::Joint { core, segment: at } => {
            Fault::HighResistanceJoint { conductor: core, segment: segment(at), ohm }
        }
        FaultComponent::Open { core, segment: at } => Fault::Open { conductor: core, segment: segment(at) },
        FaultComponent::Cross { cores, segment: at } => Fault::Cross { conductors: cores, segment: segment(at) },
        FaultComponent::Contact { point } => Fault::Contact { at: format!("p{point}"), ohm: Some(ohm) },
        FaultComponent::SwitchOff { point } => Fault::Contact { at: format!("p{point}"), ohm: None },
        FaultComponent::Swap { point, cores } => Fault::Swap { at: format!("p{point}"), conductors: cores },
        FaultComponent::Bridge { from, to } => {
            Fault::Bridge { from: name(from), to: name(to), leg: Metres::new(size).ok()? }
        }
        FaultComponent::ParallelEarth { from, to } => Fault::ParallelEarth { between: [name(from), name(to)], ohm },
        FaultComponent::OwnLeg { step: None } => Fault::OwnLeg,
        _ => return None,
    })
}

fn a_core() -> impl Strategy<Value = Core> {
    prop_oneof![Just(Core::L), Just(Core::N), Just(Core::E)]
}

fn two_cores() -> impl Strategy<Value = [Core; 2]> {
    prop_oneof![Just([Core::L, Core::N]), Just([Core::L, Core::E]), Just([Core::N, Core::E])]
}

fn a_part(points: usize, segments: usize) -> impl Strategy<Value = (FaultComponent, f64)> {
    let part = prop_oneof![
        (a_core(), 0..segments).prop_map(|(core, segment)| FaultComponent::Joint { core, segment }),
        (a_core(), 0..segments).prop_map(|(core, segment)| FaultComponent::Open { core, segment }),
        (two_cores(), 0..segments).prop_map(|(cores, segment)| FaultComponent::Cross { cores, segment }),
        (0..points).prop_map(|point| FaultComponent::Contact { point }),
        (0..points).prop_map(|point| FaultComponent::SwitchOff { point }),
        (two_cores(), 0..points).prop_map(|(cores, point)| FaultComponent::Swap { cores, point }),
        (1..points, 1..points)
            .prop_map(move |(from, more)| FaultComponent::Bridge { from, to: (from + more).min(points) }),
        (0..points, 1..points)
            .prop_map(move |(from, more)| FaultComponent::ParallelEarth { from, to: (from + more).min(points) }),
        Just(FaultComponent::OwnLeg { step: None }),
    ];
    (part, 0.01..3.0)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1500))]
    /// The fast chains read what the network solver reads, with two faults at once.
    #[test]
    fn chains_read_as_the_network(
        legs in prop::collection::vec(0.5..20.0_f64, 3..9),
        return_leg in 0.5..20.0_f64,
        ring in any::<bool>(),
        seeds in (any::<prop::sample::Index>(), any::<prop::sample::Index>()),
        parts in (a_part(3, 4), a_part(3, 4)),
    ) {
        // Points and segments are spread over the circuit by the indices.
        let count = legs.len();
        let shape = if ring { Shape::Ring } else { Shape::Radial };
        let spread = |part: FaultComponent, seed: &prop::sample::Index| {
            let segments = count + usize::from(ring);
            let k = seed.index(segments);
            let p = seed.index(count);
            match part {
                FaultComponent::Joint { core, .. } => FaultComponent::Joint { core, segment: k },
                FaultComponent::Open { core, .. } => FaultComponent::Open { core, segment: k },
                FaultComponent::Cross { cores, .. } => FaultComponent::Cross { cores, segment: k },
                FaultComponent::Contact { .. } => FaultComponent::Contact { point: p },
                FaultComponent::SwitchOff { .. } => FaultComponent::SwitchOff { point: p },
                FaultComponent::Swap { cores, .. } => FaultComponent::Swap { cores, point: p },
                FaultComponent::Bridge { from, .. } => FaultComponent::Bridge { from, to: (from + 1 + p).min(count) },
                FaultComponent::ParallelEarth { from, .. } => FaultComponent::ParallelEarth { from, to: (from + 1 + p).min(count) },
                other => other,
            }
        };
        let (a, b) = (spread(parts.0.0, &seeds.0), spread(parts.1.0, &seeds.1));
        prop_assume!(suspects::compatible(a, b) || suspects::compatible(b, a));
        let own = |part| matches!(part, FaultComponent::OwnLeg { .. });
        prop_assume!(ring || (!own(a) && !own(b)));
        let faults: Vec<Fault> =
            [(a, parts.0.1), (b, parts.1.1)].into_iter().filter_map(|(part, size)| fault(part, size)).collect();
        let description = Description {
            shape,
            cores: OhmPerMetre::copper([mm2(2.5), mm2(2.5), mm2(1.5)], Celsius::literal(20.0)).unwrap(),
            points: legs.iter().enumerate()
                .map(|(n, leg)| Point { id: format!("p{n}"), spur_from: None, leg: Metres::new(*leg).unwrap() })
                .collect(),
            return_leg: ring.then(|| Metres::new(return_leg).unwrap()),
            faults,
        };
        let network = expect(&description).unwrap();
        let case = case(shape, &legs, return_leg);
        let laid = case.laid().unwrap();
        let length: f64 = case.length.unwrap().get();
        let mut along = vec![0.0];
        for leg in &legs {
            along.push(along[along.len() - 1] + leg / length);
        }
        if ring {
            along.push(1.0);
        }
        let mut sizes = Vec::new();
        for (part, size) in [(a, parts.0.1), (b, parts.1.1)] {
            match part.sizes() {
                1 => sizes.push(size),
                2 => sizes.extend([size, 1.0]),
                _ => {}
            }
        }
        let setting = Setting { parts: &[a, b], sizes: &sizes, length_m: length, along: &along, anchors: &along };
        let fast = Simulated::new(&case, &laid, setting, &[]).all_figures();
        let same = |fast: f64, slow: Option<f64>| match slow {
            None => fast.is_infinite(),
            Some(slow) => (fast - slow).abs() < 1e-9,
        };
        for (index, (fast, slow)) in fast.points.iter().zip(&network.points).enumerate() {
            prop_assert!(same(fast[0], slow.r1_rn), "{a:?} {b:?} p{index} r1_rn {} {:?}", fast[0], slow.r1_rn);
            prop_assert!(same(fast[1], slow.r1_r2), "{a:?} {b:?} p{index} r1_r2 {} {:?}", fast[1], slow.r1_r2);
        }
        if let (Some(ends), Some(check)) = (network.end_to_end, network.board_check) {
            for (fast, slow) in fast.ends.iter().zip([ends.r1, ends.rn, ends.r2]) {
                prop_assert!(same(*fast, slow), "{a:?} {b:?} end to end {fast} {slow:?}");
            }
            for (fast, slow) in fast.check.iter().zip([check.r1_rn, check.r1_r2]) {
                prop_assert!(same(*fast, slow), "{a:?} {b:?} board check {fast} {slow:?}");
            }
        }
    }
}
