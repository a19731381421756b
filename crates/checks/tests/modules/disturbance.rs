//! What a step alters and hands over.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::installation::Installation;
use proof_job::reading::Step;
use proof_job::site::{Alteration, OpenItem};
use proof_standard::house_rules::{EarthTail, LinkMethod};
use proof_work::plan::disturbance::{Disturbance, changes, step_disturbances, undo_first};
use proof_work::plan::sequence::circuit_steps;
use uuid::Uuid;

fn step(installation: &Installation, way: usize, slug: &str) -> Step {
    let circuit = &installation.circuits[way];
    circuit_steps(installation, circuit).into_iter().find(|step| step.slug == slug).unwrap()
}

fn item(one: &Disturbance, note: &'static str) -> OpenItem<'static> {
    OpenItem {
        item: Uuid::new_v4(),
        board: one.board,
        circuit: one.circuit,
        alteration: one.alteration,
        note,
        since: Timestamp::UNIX_EPOCH,
        by: "A. Fitter",
    }
}

#[test]
fn the_steps_of_a_ring_hand_over() {
    let installation = demo::jobs().swap_remove(0).installation;
    let (first, _) = changes(&installation, &step(&installation, 2, "r1"), &[], false);
    assert_eq!(first.iter().map(|one| one.alteration).collect::<Vec<_>>(), [Alteration::EndsOut]);
    let ends = item(&first[0], "way 3, both legs out of their terminals");
    let (second, replaced) =
        changes(&installation, &step(&installation, 2, "rn-p1"), std::slice::from_ref(&ends), false);
    assert_eq!((second.len(), replaced.len()), (1, 0), "the ends stay out");
    let cross = item(&second[0], "way 3, line of each leg with neutral of the other");
    let open = [ends, cross];
    let (third, replaced) = changes(&installation, &step(&installation, 2, "r2-p1"), &open, false);
    assert_eq!(third.len(), 1);
    assert_eq!(replaced, [open[1].item], "the cross is made anew");
    let insulation = step(&installation, 2, "ir-e-l");
    assert_eq!(undo_first(&installation, &insulation, &open).len(), 2, "ends and cross go back before insulation");
}

#[test]
fn all_conductors_out_is_two_items_and_a_link_one() {
    let mut installation = demo::jobs().swap_remove(0).installation;
    let step = step(&installation, 4, "r2-p1");
    assert_eq!(step_disturbances(&installation, &step).len(), 1);
    installation.house_rules.link = LinkMethod::ConductorsOut;
    let all: Vec<Alteration> = step_disturbances(&installation, &step).iter().map(|one| one.alteration).collect();
    assert_eq!(all, [Alteration::WayOut, Alteration::Link]);
}

#[test]
fn metal_beside_the_cpc_comes_away_for_the_walk() {
    let mut installation = demo::jobs().swap_remove(0).installation;
    installation.boards[0].parallel_earth = Some(true);
    let step = step(&installation, 4, "r2-p1");
    let all = |i: &Installation| step_disturbances(i, &step).iter().map(|one| one.alteration).collect::<Vec<_>>();
    assert!(all(&installation).contains(&Alteration::EarthTailOff));
    installation.house_rules.earth_tail = EarthTail::NotWithTwoLugs;
    assert!(!all(&installation).contains(&Alteration::EarthTailOff));
    assert!(all(&installation).contains(&Alteration::AccessoryOff));
}

#[test]
fn a_bond_is_off_only_when_it_is_measured() {
    use proof_standard::house_rules::BondingBy;
    use proof_work::plan::sequence::origin_steps;
    let mut installation = demo::jobs().swap_remove(0).installation;
    let of = |i: &Installation| origin_steps(i).iter().flat_map(|step| step_disturbances(i, step)).collect::<Vec<_>>();
    assert_eq!(
        of(&installation).iter().map(|one| one.alteration).collect::<Vec<_>>(),
        [Alteration::EarthOff, Alteration::BondOff, Alteration::BondOff]
    );
    installation.house_rules.bonding = BondingBy::Seen;
    assert_eq!(of(&installation), []);
}

/// Electronics are kept out of 500 V, and a circuit's neutral off the bar, as the house rules say.
#[test]
fn house_rules_say_what_comes_out_for_insulation() {
    use proof_standard::house_rules::{CircuitNeutral, ElectronicDevice};
    use proof_work::plan::sets::set_step;
    let mut installation = demo::jobs().swap_remove(0).installation;
    installation.circuits.iter_mut().flat_map(|one| &mut one.points).for_each(|point| point.connected_load.clear());
    let residual = installation.circuits.iter().position(|one| one.rcd.is_some()).unwrap();
    let plain = installation.circuits.iter().position(|one| one.rcd.is_none()).unwrap();
    let all = |i: &Installation, at: usize| {
        step_disturbances(i, &step(i, at, "ir-e-l")).iter().map(|one| one.alteration).collect::<Vec<_>>()
    };
    assert_eq!((all(&installation, residual), all(&installation, plain)), (vec![], vec![]));
    let notes = proof_work::plan::hook_up::hook_up(&installation, &step(&installation, residual, "ir-e-n")).notes;
    assert!(notes.iter().any(|note| note.contains("every neutral on that bar")), "{notes:?}");
    installation.house_rules.electronic_device = ElectronicDevice::ConductorsOut;
    assert_eq!((all(&installation, residual), all(&installation, plain)), (vec![Alteration::WayOut], vec![]));
    let set = set_step(installation.circuits.iter().map(|one| one.id).collect(), None);
    let out = step_disturbances(&installation, &set);
    assert!(
        out.iter().all(|one| one.alteration == Alteration::FeLeadOff && one.note.contains("functional-earth")),
        "{out:?}"
    );
    installation.house_rules.circuit_neutral = CircuitNeutral::Lifted;
    assert_eq!(all(&installation, plain), [Alteration::NeutralOut]);
    let notes = proof_work::plan::hook_up::hook_up(&installation, &step(&installation, residual, "ir-e-n")).notes;
    assert!(!notes.iter().any(|note| note.contains("every neutral on that bar")), "{notes:?}");
}

#[test]
fn neutrals_off_the_bar_are_items() {
    use proof_standard::conductor::Pair;
    use proof_work::plan::sets::set_step;
    let installation = demo::jobs().swap_remove(0).installation;
    let all: Vec<Uuid> = installation.circuits.iter().map(|circuit| circuit.id).collect();
    let lifted = |pair| {
        let step = set_step(all[2..].to_vec(), Some(pair));
        step_disturbances(&installation, &step).iter().filter(|one| one.alteration == Alteration::NeutralOut).count()
    };
    assert_eq!((lifted(Pair::NEUTRAL_EARTH), lifted(Pair::LINE_EARTH)), (2, 0));
}
