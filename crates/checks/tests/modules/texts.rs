//! What the core says in words, as snapshots: the plan of the demo's finished job, what is connected
//! for each of its dead steps, and the rows of every schedule. A change of words is one review here.

use proof_bench::demo;
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::{CurrentReadings, Step};
use proof_work::plan::hook_up::{HookUp, Side, Terminal, hook_up};
use proof_work::plan::sequence::{board_steps, circuit_steps, origin_steps};
use proof_work::schedule::result_row;

fn step(step: &Step) -> String {
    let volts = step.test_voltage.map_or(String::new(), |volts| format!(", at {} V", volts.get()));
    let wanted = if step.required { "" } else { ", where wanted" };
    format!("  {:?} {}: {}{volts}{wanted}", step.stage, step.slug, step.label)
}

/// The first circuits of the first board: every kind that the demo has.
fn circuits(installation: &Installation) -> impl Iterator<Item = &Circuit> {
    installation.circuits_on(installation.boards[0].id).take(5)
}

#[test]
fn the_plan() {
    let installation = demo::jobs().swap_remove(0).installation;
    let mut lines = vec!["origin".to_owned()];
    lines.extend(origin_steps(&installation).iter().map(step));
    lines.push(installation.boards[0].name.clone());
    lines.extend(board_steps(&installation, &installation.boards[0]).iter().map(step));
    for circuit in circuits(&installation) {
        lines.push(format!("{} {}", circuit.way, circuit.description));
        lines.extend(circuit_steps(&installation, circuit).iter().map(step));
    }
    insta::with_settings!({ omit_expression => true }, { insta::assert_snapshot!("plan", lines.join("\n")) });
}

fn terminal(terminal: &Terminal) -> String {
    let side = match terminal.side {
        Side::Board => "board",
        Side::Point => "point",
    };
    let leg = terminal.leg.map_or(String::new(), |leg| format!(" leg {leg}"));
    let name = if terminal.name.is_empty() { String::new() } else { format!(" ({})", terminal.name) };
    let out = if terminal.out { " out" } else { "" };
    format!("{side} {:?}{leg}{name}{out}", terminal.conductor)
}

fn drawn(step: &Step, hook_up: &HookUp) -> String {
    let named = |index: usize| terminal(&hook_up.terminals[index]);
    let mut lines = vec![format!("  {} at {}", step.slug, hook_up.where_to_stand)];
    lines.extend(hook_up.links.iter().map(|(a, b)| format!("    link {} to {}", named(*a), named(*b))));
    lines.extend(hook_up.probes.map(|(a, b)| format!("    read {} to {}", named(a), named(b))));
    if !hook_up.adapter.is_empty() {
        lines.push(format!("    with {}", hook_up.adapter));
    }
    lines.extend(hook_up.notes.iter().map(|note| format!("    {note}")));
    lines.join("\n")
}

#[test]
fn what_is_connected() {
    let installation = demo::jobs().swap_remove(0).installation;
    let mut lines = Vec::new();
    for circuit in circuits(&installation) {
        lines.push(format!("{} {}", circuit.way, circuit.description));
        let steps = circuit_steps(&installation, circuit);
        lines.extend(
            steps.iter().filter(|step| step.stage.is_dead()).map(|step| drawn(step, &hook_up(&installation, step))),
        );
    }
    insta::with_settings!({ omit_expression => true }, { insta::assert_snapshot!("hook_ups", lines.join("\n")) });
}

#[test]
fn the_schedules() {
    let mut lines = Vec::new();
    for job in demo::jobs() {
        let settled = CurrentReadings::new(&job.readings, &job.events);
        lines.push(job.title.clone());
        for circuit in &job.installation.circuits {
            let row = result_row(&job.installation, circuit, &settled).printed();
            let row = serde_json::to_value(row).unwrap();
            let boxes = row.as_object().unwrap().iter();
            let boxes: Vec<String> = boxes
                .filter(|(_, text)| text.as_str().is_some_and(|text| !text.is_empty()))
                .map(|(key, text)| format!("{key} {}", text.as_str().unwrap_or_default()))
                .collect();
            lines.push(format!("  {}", boxes.join(" | ")));
        }
    }
    insta::with_settings!({ omit_expression => true }, { insta::assert_snapshot!("schedules", lines.join("\n")) });
}
