//! Findings of one circuit: what is not read, what fails, what is odd.

use crate::installation::{Circuit, Installation};
use crate::plan::polarity::{Polarity, polarity_of};
use crate::plan::sequence::reviewed_steps;
use crate::plan::standing::stands_in_of;
use crate::quantity::exact;
use crate::reading::keys::polarity_key;
use crate::reading::{Key, Place, Settled, Stage, Step, Test, Value};
use crate::review::contradiction::Row;
use crate::review::{Finding, Kind, Severity, Where, contradiction, described, judged};
use crate::verdict::{CircuitJudge, Limit};

/// How a circuit is spoken of.
pub(super) fn about(circuit: &Circuit) -> String {
    format!("Way {} {}", circuit.way, circuit.description)
}

/// Findings of a circuit, and its figures for comparison with other circuits.
pub(super) fn findings(
    installation: &Installation,
    circuit: &Circuit,
    settled: &Settled<'_>,
    live: bool,
    findings: &mut Vec<Finding>,
) -> Row {
    let about = about(circuit);
    let judge = CircuitJudge::brief(installation, circuit, settled);
    let steps = reviewed_steps(installation, circuit, settled);
    let polarity = polarity_of(installation, circuit, settled, &steps);
    let first = findings.len();
    let mut absent: Vec<&Step> = Vec::new();
    for step in &steps {
        let Some(value) = settled.value(&step.key) else {
            if step.required && stands_in_of(installation, circuit, settled, step, &polarity).is_none() {
                absent.push(step);
            }
            continue;
        };
        let mut judgement = judge.judge(step, value);
        if judgement.limit == Limit::Outside {
            // Only what fails says by which limit.
            judgement = CircuitJudge::new(installation, circuit, settled).judge(step, value);
        }
        if judgement.is_quiet() && value.reason().is_none() {
            continue;
        }
        let place = Where::Circuit(circuit.id, Some(step.slug.clone()));
        findings.extend(judged(step, &judgement, value, &about, &place).map(|mut finding| {
            if finding.kind == Kind::LoopOverLimit && rcd_disconnects(&judge, settled, circuit) {
                finding.kind = Kind::LoopByRcd;
                "Shorten or enlarge the run, or let a competent person write that the RCD disconnects."
                    .clone_into(&mut finding.then);
                finding.bars_energising = false;
            }
            finding
        }));
    }
    absent.chunk_by(|a, b| a.stage == b.stage).for_each(|steps| {
        let names: Vec<&str> = steps.iter().map(|step| step.label.as_str()).collect();
        let stage = steps[0].stage;
        let what = match stage {
            Stage::Polarity | Stage::Zs => format!("{} not read", shortened(&names)),
            Stage::Functional => format!("{} not done", shortened(&names)),
            stage => format!("{}: {} not read", stage.label(), shortened(&names)),
        };
        let then = "Read it, or write a limitation with its reason.";
        let place = Where::Circuit(circuit.id, Some(steps[0].slug.clone()));
        let mut finding = Finding::new(Kind::ReadingMissing, Severity::Missing, &about, what, then, place);
        finding.bars_energising = stage.is_dead();
        findings.push(finding);
    });
    findings.extend(of_polarity(circuit, settled, &steps, &polarity, &about));
    if live {
        // The supply came before the dead test.
        for finding in findings[first..].iter_mut().filter(|f| f.bars_energising && f.severity == Severity::Missing) {
            finding.kind = Kind::EnergisedUntested;
            finding.severity = Severity::Fails;
            finding.what = format!("energised with a dead test missing: {}", finding.what);
            "Isolate, prove dead, and read it.".clone_into(&mut finding.then);
        }
    }
    if circuit.points.is_empty() {
        let then = "Give its points, so that R1+R2 has places to be read at.";
        let place = Where::Circuit(circuit.id, None);
        let what = "it has no points".to_owned();
        findings.push(Finding::new(Kind::ParticularsMissing, Severity::Missing, &about, what, then, place).barring());
    }
    described::circuit(installation, circuit, &about, findings);
    contradiction::within(installation, circuit, settled, &about, findings)
}

/// Whether an RCD disconnects where the device does not: the loop is inside 50 V / IΔn.
fn rcd_disconnects(judge: &CircuitJudge<'_>, settled: &Settled<'_>, circuit: &Circuit) -> bool {
    let Some(limit) = judge.limit.rcd_ohm.filter(|_| !judge.limit.by_rcd) else { return false };
    let measured = circuit
        .line_conductors()
        .iter()
        .filter_map(|&line| settled.value(&Key::on_circuit(circuit.id, Place::Board, Test::Zs).on_line(line))?.number())
        .max();
    let summed = || exact(judge.known.ze? + judge.known.highest_r1_r2()?.0);
    measured.or_else(summed).is_some_and(|zs| zs <= limit)
}

fn of_polarity(
    circuit: &Circuit,
    settled: &Settled<'_>,
    steps: &[Step],
    polarity: &Polarity,
    about: &str,
) -> Option<Finding> {
    let step = steps.iter().find(|step| step.stage == Stage::Polarity);
    let place = Where::Circuit(circuit.id, step.map(|step| step.slug.clone()));
    match polarity {
        Polarity::Owed(wanting) if step.is_some_and(|step| !step.required) && !circuit.points.is_empty() => {
            let what = format!("polarity is not earned: {wanting}");
            let then = "Read it, or look at every terminal and say so.";
            Some(Finding::new(Kind::PolarityOwed, Severity::Missing, about, what, then, place).barring())
        }
        Polarity::Wrong(why) if settled.value(&polarity_key(circuit.id)) != Some(&Value::Fail) => {
            let then = "Find it, mend it, and read again; the latest reading stands.";
            let what = format!("polarity: {why}");
            Some(Finding::new(Kind::PolarityWrong, Severity::Fails, about, what, then, place).barring())
        }
        _ => None,
    }
}

fn shortened(names: &[&str]) -> String {
    if names.len() > 4 { format!("{}, {} and {} more", names[0], names[1], names.len() - 2) } else { names.join(", ") }
}
