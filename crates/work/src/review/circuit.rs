//! Findings of one circuit: what is not read, what fails, what is odd.

use crate::plan::outstanding::{OutstandingQuery, StepState, outstanding};
use crate::plan::polarity::{Polarity, polarity};
use crate::plan::sequence::reviewed_steps;
use crate::plan::substitute::{Scope, is_turned_over};
use crate::review::about::about;
use crate::review::contradiction::ComparedCircuit;
use crate::review::{Circumstances, Finding, Where, contradiction, described, judged, struck_out};
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::keys::polarity_key;
use proof_job::reading::{CurrentReadings, Key, Place, Stage, Step, Test, Value, WorkedOut};
use proof_judge::finding::Found;
use proof_judge::verdict::CircuitJudge;
use proof_standard::quantity::exact;
use std::sync::Arc;

/// What was found of a circuit that is live, or not.
type FoundOfCircuit = Arc<(Vec<Finding>, ComparedCircuit)>;

struct CachedFindings<const LIVE: bool>(FoundOfCircuit);

impl<const LIVE: bool> WorkedOut for CachedFindings<LIVE> {
    const DESCRIBED: bool = false;
}

/// Findings of a circuit and its figures, worked out once where the job is kept.
pub(super) fn found<const LIVE: bool>(
    installation: &Installation,
    circuit: &Circuit,
    settled: &CurrentReadings<'_>,
) -> FoundOfCircuit {
    let kept = settled.cached(installation, circuit, || {
        let mut found = Vec::new();
        let row = findings(installation, circuit, settled, LIVE, &mut found);
        CachedFindings::<LIVE>(Arc::new((found, row)))
    });
    kept.0.clone()
}

/// Findings of a circuit, and its figures for comparison with other circuits.
pub(super) fn findings(
    installation: &Installation,
    circuit: &Circuit,
    settled: &CurrentReadings<'_>,
    live: bool,
    findings: &mut Vec<Finding>,
) -> ComparedCircuit {
    let about = about(circuit);
    let judge = CircuitJudge::new(installation, circuit, settled);
    let steps = reviewed_steps(installation, circuit, settled);
    let outstanding = outstanding(installation, Scope::Circuit(circuit), settled);
    let polarity = polarity(installation, circuit, settled);
    let known = Circumstances {
        rcd_disconnects: rcd_disconnects(&judge, settled, circuit),
        ring_cannot_give: contradiction::ring_cannot_give(installation, circuit, settled).is_some(),
    };
    let mut absent: Vec<&Step> = Vec::new();
    for step in &steps {
        let place = Where::Circuit(circuit.id, Some(step.slug.clone()));
        match outstanding.need(step).map(|need| &need.state) {
            Some(StepState::StruckOut(value)) => {
                findings.push(struck_out(step, value, (&about, &place)));
                // At power with the dead test struck out is at power untested.
                if live && step.required && step.stage.is_dead() && settled.value(&step.key).is_none() {
                    absent.push(step);
                }
            }
            // Polarity that follows from other readings is told below, with what is wanting.
            Some(_) if step.required => absent.push(step),
            _ => {}
        }
        let Some(value) = settled.value(&step.key) else { continue };
        let judgement = judge.judge(step, value);
        if judgement.is_quiet() && value.reason().is_none() {
            continue;
        }
        findings.extend(judged((step, value), judgement, (&about, &place), known));
    }
    for steps in absent.chunk_by(|a, b| a.stage == b.stage) {
        let stage = steps[0].stage;
        let labels = steps.iter().map(|step| step.label.clone()).collect();
        let dead = stage.is_dead();
        // Read in one position of its two-way switches, it did not come to power untested.
        let live = live && !steps.iter().all(|step| is_turned_over(step));
        let place = Where::Circuit(circuit.id, Some(steps[0].slug.clone()));
        let mut finding = Finding::new(&about, Found::NotRead { stage, labels, live }, place);
        finding.bars_energising = dead;
        findings.push(finding);
    }
    if !installation.out_of_scope(circuit) {
        findings.extend(polarity_findings((circuit, settled), &steps, &polarity, &about, live));
    }
    if circuit.points.is_empty() && !installation.out_of_scope(circuit) {
        let place = Where::Circuit(circuit.id, None);
        findings.push(Finding::new(&about, Found::NoPoints, place).barring());
    }
    described::circuit((installation, settled), circuit, &about, findings);
    contradiction::within(installation, circuit, settled, &about, findings)
}

/// A device over several ways is tested at the first of them. Where that way stays dead it is tested at
/// another, or it is missing there.
pub(super) fn shared_devices(asked: &OutstandingQuery<'_>, circuit: &Circuit, findings: &mut Vec<Finding>) {
    let shared = asked.shared_device(circuit);
    let outstanding = asked.outstanding(Scope::Circuit(circuit));
    if !shared.iter().any(|step| outstanding.need(step).is_some()) {
        return;
    }
    let labels = vec!["the residual device that it shares".to_owned()];
    let reason = Found::NotRead { stage: Stage::Rcd, labels, live: false };
    let place = Where::Circuit(circuit.id, None);
    findings.push(Finding::new(&about(circuit), reason, place));
}

/// Whether an RCD disconnects where the device does not: the loop is inside 50 V / IΔn.
fn rcd_disconnects(judge: &CircuitJudge<'_>, settled: &CurrentReadings<'_>, circuit: &Circuit) -> bool {
    let Some(limit) = judge.limit.rcd_ohm.filter(|_| !judge.limit.by_rcd) else { return false };
    let measured = circuit
        .line_conductors()
        .iter()
        .filter_map(|&line| settled.value(&Key::on_circuit(circuit.id, Place::Board, Test::Zs).on_line(line))?.number())
        .max();
    let summed = || exact(judge.known.ze? + judge.known.highest_r1_r2()?.0);
    measured.or_else(summed).is_some_and(|zs| zs <= limit)
}

fn polarity_findings(
    (circuit, settled): (&Circuit, &CurrentReadings<'_>),
    steps: &[Step],
    polarity: &Polarity,
    about: &str,
    live: bool,
) -> Option<Finding> {
    let step = steps.iter().find(|step| step.stage == Stage::Polarity);
    let place = Where::Circuit(circuit.id, step.map(|step| step.slug.clone()));
    match polarity {
        Polarity::Outstanding(wanting) if step.is_some_and(|step| !step.required) && !circuit.points.is_empty() => {
            let reason = Found::PolarityOutstanding { wanting: wanting.clone(), live };
            Some(Finding::new(about, reason, place).barring())
        }
        Polarity::Wrong(why) if settled.value(&polarity_key(circuit.id)) != Some(&Value::Fail) => {
            let reason = Found::PolarityWrong { because: why.clone() };
            Some(Finding::new(about, reason, place).barring())
        }
        _ => None,
    }
}
