//! Whole jobs as a simulated site gives them: sound ones raise no finding, faulty ones do.
//!
//! The circuits are drawn at random, the readings come from the network with the scatter of a
//! simulated meter; the review knows nothing of how they were made.

use proof_checks::good_job::{Wanted, good_job, read};
use proof_job::installation::{Circuit, PointId};
use proof_job::job::Job;
use proof_job::reading::Stage;
use proof_judge::finding::Severity;
use proof_physics::network::description::{Fault, SegmentName};
use proof_standard::conductor::Core;
use proof_standard::quantity::{Metres, Ohms};
use proof_work::review::{Finding, review};

/// A good job as described, before anything is read.
fn described(seed: u64) -> Job {
    let mut job = good_job(seed, Wanted::default());
    job.readings.clear();
    job.events.clear();
    job
}

#[test]
fn sound_jobs_raise_no_finding() {
    for seed in 0..crate::of_all(200, 1000) {
        let job = good_job(seed, Wanted::default());
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
        let job = read(job, seed, |_| vec![]);
        let findings = review((&job).into());
        assert_eq!(findings, Vec::<Finding>::new(), "seed {seed}");
    }
}

/// Whether a fault in every circuit that `applies` raises a finding about that circuit.
fn found(name: &str, applies: impl Fn(&Circuit) -> bool, fault: impl Fn(&Circuit) -> Fault) {
    let (mut asked, mut seen) = (0, 0);
    for seed in 0..60 {
        let job = read(described(seed), seed, |circuit| if applies(circuit) { vec![fault(circuit)] } else { vec![] });
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
    circuit.shape == proof_standard::shape::Shape::Ring
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
        let mut job = good_job(seed, Wanted::default());
        let steps: Vec<_> = job
            .installation
            .circuits
            .iter()
            .flat_map(|c| proof_work::plan::sequence::circuit_steps(&job.installation, c))
            .filter(|step| step.required && matches!(step.stage, Stage::Polarity | Stage::Insulation | Stage::Rcd))
            .collect();
        let left_out = &steps[seed as usize % steps.len()];
        job.readings.retain(|reading| reading.key != left_out.key);
        let findings = review((&job).into());
        assert_eq!(findings.len(), 1, "{findings:#?}");
        assert!(findings[0].severity <= Severity::Missing);
        assert!(findings[0].text().contains(&left_out.label), "{}", findings[0].text());
    }
}
