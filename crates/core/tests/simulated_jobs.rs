//! Whole jobs as a simulated site gives them: sound ones raise no finding, faulty ones do.
//!
//! The circuits are drawn at random, the readings come from the network with the scatter of a
//! simulated meter; the review knows nothing of how they were made.

use jiff::Timestamp;
use proof_core::bench::demo;
use proof_core::bench::meter::Meter;
use proof_core::bench::site::{Visit, read_circuit};
use proof_core::finding::{Finding, Severity, review};
use proof_core::installation::{Circuit, Job};
use proof_core::network::description::{Core, Fault, SegmentName};
use proof_core::quantity::{Metres, Ohms};
use proof_core::reading::PointId;
use proof_core::sequence::Stage;
use proof_core::shorthand;
use uuid::Uuid;

fn visit(seed: u64) -> Visit {
    Visit {
        instrument: demo::instruments()[0].id,
        read_by: "Idris Kell".into(),
        entered_by: "Maud Ferrow".into(),
        clock: Timestamp::from_second(1_790_000_000 + i64::try_from(seed).unwrap_or(0)).unwrap(),
        ze: 0.12 + 0.01 * (seed % 12) as f64,
    }
}

/// A line of shorthand drawn at random, one that a competent designer could have written.
fn line(way: usize, meter: &mut Meter) -> String {
    let points = meter.between(2.0, 13.0) as usize;
    let legs = |meter: &mut Meter, count: usize, most: f64| {
        (0..count).map(|_| format!("{:.1}", meter.between(1.5, most))).collect::<Vec<_>>().join(",")
    };
    match (meter.share() * 6.0) as u8 {
        0 => format!(
            "{way} ring RCBO B32 6kA 2.5/1.5 legs {} ref C N{way} E{way} \"Ring\"",
            legs(meter, points + 1, 7.0)
        ),
        1 => format!("{way} ring RCBO B32 6kA 4/1.5 {}m {points}pts ref C N{way} E{way} \"Ring\"", points * 6),
        2 => format!(
            "{way} radial RCBO B20 6kA 2.5/1.5 legs {} ref C N{way} E{way} \"Radial\"",
            legs(meter, points.min(6), 6.0)
        ),
        3 => format!("{way} lights RCBO B6 6kA 1.5/1.0 {}m {points}pts ref 100 N{way} E{way} \"Lights\"", points * 4),
        4 => format!("{way} radial B16 6kA 2.5/1.5 fixed {}m 1pt ref C N{way} E{way} \"Fixed\"", points + 4),
        _ => format!("{way} radial RCBO C20 6kA 4/1.5 fixed {}m 1pt ref C N{way} E{way} \"Machine\"", points + 6),
    }
}

/// A job of random circuits with the supply, bonds and log of the demo.
fn described(seed: u64) -> Job {
    let mut job = demo::jobs().remove(0);
    let mut meter = Meter::new(seed);
    job.readings.retain(|reading| reading.key.subject.circuit().is_none());
    job.installation.circuits.clear();
    job.installation.boards[0].rcds.clear();
    let board = job.installation.boards[0].id;
    for way in 1..=5 {
        let line = shorthand::parse(&line(way, &mut meter)).unwrap();
        let (circuit, rcd) = line.build(board, Uuid::from_u128(u128::from(seed) << 32 | way as u128));
        job.installation.circuits.push(circuit);
        job.installation.boards[0].rcds.extend(rcd);
    }
    job
}

fn read_all(job: &mut Job, seed: u64, faults: impl Fn(&Circuit) -> Vec<Fault>) {
    let (mut visit, mut meter) = (visit(seed), Meter::new(seed ^ 0x5eed));
    // The demo's Ze stands in the job: the simulated site has the same supply.
    visit.ze = 0.17;
    for circuit in job.installation.circuits.clone() {
        let readings = read_circuit(&job.installation, &circuit, faults(&circuit), &mut visit, &mut meter, |_| true);
        job.readings.extend(readings);
    }
}

#[test]
fn sound_jobs_raise_no_finding() {
    for seed in 0..150 {
        let mut job = described(seed);
        read_all(&mut job, seed, |_| vec![]);
        let findings = review((&job).into());
        assert_eq!(findings, Vec::<Finding>::new(), "seed {seed}");
    }
}

#[test]
fn spurs_that_are_drawn_raise_no_finding() {
    for seed in 0..60 {
        let mut job = described(seed);
        for circuit in &mut job.installation.circuits {
            if circuit.points.len() < 4 {
                continue;
            }
            // The last point becomes a spur of the second, of a length that is known.
            let last = circuit.points.len() - 1;
            circuit.points[last].spur_from = Some(PointId(2));
            circuit.points[last].leg_m = Some(Metres::literal(4.0));
        }
        read_all(&mut job, seed, |_| vec![]);
        let findings = review((&job).into());
        assert_eq!(findings, Vec::<Finding>::new(), "seed {seed}");
    }
}

/// Whether a fault in every circuit that `applies` raises a finding about that circuit.
fn found(name: &str, applies: impl Fn(&Circuit) -> bool, fault: impl Fn(&Circuit) -> Fault) {
    let (mut asked, mut seen) = (0, 0);
    for seed in 0..60 {
        let mut job = described(seed);
        read_all(&mut job, seed, |circuit| if applies(circuit) { vec![fault(circuit)] } else { vec![] });
        let findings = review((&job).into());
        for circuit in job.installation.circuits.iter().filter(|circuit| applies(circuit)) {
            asked += 1;
            let about = format!("Way {} {}", circuit.way, circuit.description);
            let hit = findings.iter().any(|finding| finding.about == about && finding.severity != Severity::Missing);
            seen += usize::from(hit);
        }
    }
    assert!(asked > 20, "{name}: only {asked} circuits");
    assert_eq!(seen, asked, "{name}: found {seen} of {asked}");
}

fn is_ring(circuit: &Circuit) -> bool {
    circuit.shape == proof_core::installation::CircuitShape::Ring
}

#[test]
fn faults_of_a_ring_are_found() {
    let middle = |circuit: &Circuit| format!("p{}", circuit.points[circuit.points.len() / 2].id.0);
    found("broken line", is_ring, |c| Fault::Open { conductor: Core::L, segment: SegmentName::Into(middle(c)) });
    found("broken CPC", is_ring, |c| Fault::Open { conductor: Core::E, segment: SegmentName::Into(middle(c)) });
    found("joint in the neutral", is_ring, |c| Fault::HighResistanceJoint {
        conductor: Core::N,
        segment: SegmentName::Into(middle(c)),
        ohm: Ohms::literal(0.25),
    });
    found("legs crossed with themselves", |c| is_ring(c) && c.points.len() > 5, |_| Fault::OwnLeg);
    found("conductors crossed", is_ring, |c| Fault::Cross {
        conductors: [Core::L, Core::N],
        segment: SegmentName::Into(middle(c)),
    });
}

#[test]
fn faults_at_a_point_are_found() {
    let second = |c: &Circuit| c.points.len() >= 2;
    found("line and neutral reversed", second, |_| Fault::Swap { at: "p2".into(), conductors: [Core::L, Core::N] });
    found("line and CPC reversed", second, |_| Fault::Swap { at: "p2".into(), conductors: [Core::L, Core::E] });
    found("switch off", second, |_| Fault::Contact { at: "p2".into(), ohm: None });
    found("a poor contact on a ring", is_ring, |_| Fault::Contact { at: "p2".into(), ohm: Some(Ohms::literal(0.3)) });
}

#[test]
fn a_step_left_out_is_missing_and_nothing_else() {
    for seed in 0..20 {
        let mut job = described(seed);
        read_all(&mut job, seed, |_| vec![]);
        let steps: Vec<_> = job
            .installation
            .circuits
            .iter()
            .flat_map(|c| proof_core::sequence::circuit_steps(&job.installation, c))
            .filter(|step| step.required && matches!(step.stage, Stage::Polarity | Stage::Insulation | Stage::Rcd))
            .collect();
        let left_out = &steps[seed as usize % steps.len()];
        job.readings.retain(|reading| reading.key != left_out.key);
        let findings = review((&job).into());
        assert_eq!(findings.len(), 1, "{findings:#?}");
        assert_eq!(findings[0].severity, Severity::Missing);
        assert!(findings[0].what.contains(&left_out.label), "{}", findings[0].what);
    }
}
