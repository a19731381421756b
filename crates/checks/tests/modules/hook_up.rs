//! What is connected for a step.

use proof_bench::demo;
use proof_job::installation::Installation;
use proof_job::reading::Stage;
use proof_job::site::{Leads, leads};
use proof_standard::conductor::Conductor;
use proof_standard::house_rules::{ContinuityMethod, LinkMethod};
use proof_work::plan::hook_up::{HookUp, Side, hook_up};
use proof_work::plan::sequence::{circuit_steps, origin_steps};

fn of(installation: &Installation, way: usize, slug: &str) -> HookUp {
    let steps = circuit_steps(installation, &installation.circuits[way]);
    hook_up(installation, steps.iter().find(|step| step.slug == slug).unwrap())
}

fn named(hook_up: &HookUp, index: usize) -> (Side, Conductor, Option<u8>) {
    let terminal = &hook_up.terminals[index];
    (terminal.side, terminal.conductor, terminal.leg)
}

#[test]
fn a_ring_is_crossed_in_a_figure_of_eight() {
    use Conductor::{E, L, N};
    let installation = demo::jobs().swap_remove(0).installation;
    for (slug, other) in [("rn-p1", N), ("r2-p1", E)] {
        let drawn = of(&installation, 2, slug);
        let links: Vec<_> = drawn.links.iter().map(|(a, b)| (named(&drawn, *a), named(&drawn, *b))).collect();
        let leg = |leg, conductor| (Side::Board, conductor, Some(leg));
        assert_eq!(links, [(leg(1, L), leg(2, other)), (leg(2, L), leg(1, other))], "never a leg with itself");
        let (a, b) = drawn.probes.unwrap();
        assert_eq!((named(&drawn, a).0, named(&drawn, b).1), (Side::Point, other));
        assert_eq!(drawn.where_to_stand, "point 1");
    }
    let check = of(&installation, 2, "r2-board");
    let (a, b) = check.probes.unwrap();
    assert_eq!((named(&check, a), named(&check, b)), ((Side::Board, L, Some(1)), (Side::Board, E, Some(1))));
    let ends = of(&installation, 2, "rn");
    let (a, b) = ends.probes.unwrap();
    assert_eq!((named(&ends, a), named(&ends, b)), ((Side::Board, N, Some(1)), (Side::Board, N, Some(2))));
    assert!(ends.links.is_empty() && ends.terminals.iter().all(|terminal| terminal.out));
}

#[test]
fn house_rules_change_the_hook_up() {
    let mut installation = demo::jobs().swap_remove(0).installation;
    let link = of(&installation, 4, "r2-p1");
    assert!(link.terminals.iter().all(|terminal| !terminal.out) && link.links.len() == 1);
    installation.house_rules.link = LinkMethod::ConductorsOut;
    let out = of(&installation, 4, "r2-p1");
    assert!(out.terminals.iter().filter(|terminal| terminal.side == Side::Board).all(|terminal| terminal.out));
    installation.house_rules.continuity = ContinuityMethod::R2;
    let lead = of(&installation, 4, "r2-p1");
    assert!(lead.links.is_empty() && lead.terminals[0].name == "main earthing terminal");
}

#[test]
fn what_stays_is_joined() {
    let installation = demo::jobs().swap_remove(0).installation;
    let drawn = of(&installation, 0, "ir-joined");
    assert_eq!(drawn.links.len(), 1, "line to neutral");
    let (a, b) = drawn.probes.unwrap();
    assert_eq!((named(&drawn, a).1, named(&drawn, b).1), (Conductor::L, Conductor::E));
    assert!(drawn.notes.iter().any(|note| note.contains("stay")), "{:?}", drawn.notes);
}

#[test]
fn every_dead_step_says_where_to_stand_and_what_the_leads_are_on() {
    for job in demo::jobs() {
        let installation = &job.installation;
        let steps = installation
            .circuits
            .iter()
            .flat_map(|circuit| circuit_steps(installation, circuit))
            .chain(origin_steps(installation));
        for step in steps.filter(|step| step.stage < Stage::Polarity || step.stage == Stage::Bonding) {
            let drawn = hook_up(installation, &step);
            let (a, b) = drawn.probes.unwrap_or_else(|| panic!("{}", step.label));
            assert!(a != b && a.max(b) < drawn.terminals.len() && !drawn.where_to_stand.is_empty(), "{}", step.label);
        }
    }
}

#[test]
fn the_pins_of_a_plug_in_lead_change_with_the_pair() {
    let installation = demo::jobs().swap_remove(0).installation;
    let steps = circuit_steps(&installation, &installation.circuits[2]);
    let of = |slug: &str| leads(&installation, steps.iter().find(|step| step.slug == slug).unwrap());
    assert_eq!(of("rn-p1"), Leads { set: "plug-in lead", pins: "L–N" });
    assert_eq!(of("r2-p1"), Leads { set: "plug-in lead", pins: "L–E" });
    assert_eq!(of("r1").set, "clips");
}
