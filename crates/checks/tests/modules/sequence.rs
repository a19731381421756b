//! The order of the tests.

use proof_bench::demo;
use proof_job::installation::{Installation, Lines};
use proof_job::reading::entry::Field;
use proof_job::reading::{CurrentReadings, Stage, Step, Test};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::house_rules::{
    BondingBy, ContinuityMethod, NeutralEarth, NeutralReading, PolarityBy, PolarityWhen, TwinOutlets, ZsMethod,
};
use proof_work::plan::sequence::{board_steps, circuit_steps, labels_wanted, origin_steps, proposed_place};

#[test]
fn slugs_are_unique_and_the_order_is_dead_before_live() {
    for job in demo::jobs() {
        for circuit in &job.installation.circuits {
            let steps = circuit_steps(&job.installation, circuit);
            let mut slugs: Vec<_> = steps.iter().map(|step| step.slug.clone()).collect();
            slugs.sort();
            slugs.dedup();
            assert_eq!(slugs.len(), steps.len());
            assert!(steps.windows(2).all(|w| (w[0].stage >= Stage::Zs) <= (w[1].stage >= Stage::Zs)));
        }
    }
}

#[test]
fn the_older_edition_asks_for_the_series() {
    let mut installation = demo::jobs()[0].installation.clone();
    let circuit = installation.circuits.iter().find(|c| c.rcd.is_some()).unwrap().clone();
    let trips = |i: &Installation| circuit_steps(i, &circuit).iter().filter(|s| s.field == Field::TripTime).count();
    assert_eq!(trips(&installation), 1);
    installation.edition = proof_standard::limits::EditionId::Bs7671Y2008A3;
    assert_eq!(trips(&installation), 6);
}

fn steps_under(way: usize, rule: impl Fn(&mut proof_standard::house_rules::HouseRules)) -> Vec<Step> {
    let mut installation = demo::jobs().swap_remove(0).installation;
    rule(&mut installation.house_rules);
    let circuit = installation.circuits[way].clone();
    circuit_steps(&installation, &circuit)
}

fn count(steps: &[Step], test: Test) -> usize {
    steps.iter().filter(|step| step.key.test == test).count()
}

#[test]
fn house_rules_change_the_plan() {
    let (lights, ring, radial) = (1, 2, 4);
    let before = steps_under(radial, |_| ());
    let shorter = steps_under(radial, |rules| {
        rules.neutral_reading = NeutralReading::Skipped;
        rules.polarity_by = PolarityBy::R1R2Alone;
        rules.neutral_earth = NeutralEarth::Joined;
        rules.zs_method = ZsMethod::Summed;
    });
    let wanted = |steps: &[Step]| steps.iter().filter(|step| step.required).count();
    assert_eq!(wanted(&shorter), wanted(&before) - 2, "L–E and N–E become one, joined; Zs is summed");
    assert_eq!(shorter.len(), before.len() - 1, "apart stays to be read where joined is low");
    // Both pairs want line–neutral whether it is noted or not.
    let noted = steps_under(radial, |rules| rules.neutral_reading = NeutralReading::Skipped);
    assert_eq!(noted.len(), before.len());
    let long_lead = steps_under(radial, |rules| rules.continuity = ContinuityMethod::R2);
    assert_eq!((count(&long_lead, Test::R2), count(&long_lead, Test::R1R2), count(&long_lead, Test::R1Rn)), (1, 0, 0));
    assert!(long_lead.iter().any(|step| step.stage == Stage::Polarity && step.required), "polarity is owed");
    let of_ring = steps_under(ring, |rules| rules.continuity = ContinuityMethod::R2);
    assert_eq!(count(&of_ring, Test::R1R2), 10, "a ring is crossed all the same");
    let outlets = |rule| count(&steps_under(ring, |rules| rules.twin_outlets = rule), Test::R1R2);
    assert_eq!(
        [TwinOutlets::One, TwinOutlets::Both, TwinOutlets::BothAndSwitches].map(outlets),
        [10, 10 + 9, 10 + 9 + 18]
    );
    let at = |steps: &[Step], stage| steps.iter().position(|step| step.stage == stage).unwrap();
    let printed = steps_under(lights, |rules| rules.polarity_when = PolarityWhen::AfterInsulation);
    let usual = steps_under(lights, |_| ());
    assert!(at(&usual, Stage::Polarity) < at(&usual, Stage::Insulation));
    assert!(at(&printed, Stage::Polarity) > at(&printed, Stage::Insulation));
}

#[test]
fn a_ring_is_read_once_at_the_board_before_each_walk() {
    let ring = steps_under(2, |_| ());
    for (stage, pair) in [(Stage::R1Rn, Pair::LINE_NEUTRAL), (Stage::R1R2, Pair::LINE_EARTH)] {
        let first = ring.iter().find(|step| step.stage == stage).unwrap();
        assert_eq!((first.key.test, first.key.pair, first.required), (Test::RingBoardCheck, Some(pair), false));
    }
}

#[test]
fn two_way_lights_are_read_at_the_lamp_in_every_combination() {
    let lights = steps_under(0, |_| ());
    let labels: Vec<&str> =
        lights.iter().filter(|step| step.stage == Stage::R1R2).map(|step| step.label.as_str()).take(6).collect();
    assert_eq!(
        labels,
        ["switch 1", "switch 2", "3", "3, switch 1 thrown", "3, switch 1 and switch 2 thrown", "3, switch 2 thrown"]
    );
    let open = |label: &str| lights.iter().find(|step| step.label == label).unwrap().expects_open();
    assert!(open("3, switch 1 thrown") && open("3, switch 2 thrown"));
    assert!(!open("3, switch 1 and switch 2 thrown") && !open("3"));
    assert!(!lights.iter().any(|step| step.stage == Stage::R1Rn && step.label.starts_with("switch")));
    assert_eq!(count(&lights, Test::InsulationJoined), 2, "drivers stay: joined, to earth, in both positions");
    assert_eq!(count(&lights, Test::Insulation), 0);
}

/// Two-way switches are read to the line in both positions: one strapper, then the other.
#[test]
fn insulation_of_two_way_lights_is_read_in_both_positions() {
    let insulation = |rule: fn(&mut proof_standard::house_rules::HouseRules)| -> Vec<(String, bool)> {
        let mut installation = demo::jobs().swap_remove(0).installation;
        rule(&mut installation.house_rules);
        installation.circuits[0].points.iter_mut().for_each(|point| point.connected_load.clear());
        let steps = circuit_steps(&installation, &installation.circuits[0]);
        let read = |step: &&Step| step.stage == Stage::Insulation;
        steps.iter().filter(read).map(|step| (step.slug.clone(), step.required)).collect()
    };
    let wanted = |slug: &str| (slug.to_owned(), true);
    assert_eq!(
        insulation(|_| ()),
        ["ir-e-l", "ir-e-l-over", "ir-e-n", "ir-n-l", "ir-n-l-over"].map(wanted),
        "neutral to earth does not pass the switches"
    );
    let apart = |slug: &str| (slug.to_owned(), false);
    assert_eq!(
        insulation(|rules| rules.neutral_earth = NeutralEarth::Joined),
        [
            wanted("ir-joined"),
            wanted("ir-joined-over"),
            apart("ir-e-l"),
            apart("ir-e-n"),
            wanted("ir-n-l"),
            wanted("ir-n-l-over")
        ]
    );
}

#[test]
fn metalwork_is_probed_itself() {
    let mut installation = demo::jobs().swap_remove(0).installation;
    installation.circuits[4].points[0].metalwork = "guillotine frame".into();
    let steps = circuit_steps(&installation, &installation.circuits[4]);
    assert!(steps.iter().any(|step| step.label == "1 guillotine frame" && step.stage == Stage::R1R2));
    assert!(!steps.iter().any(|step| step.label.contains("frame") && step.stage == Stage::R1Rn));
}

#[test]
fn bonds_are_measured_or_seen() {
    let mut installation = demo::jobs().swap_remove(0).installation;
    let fields = |i: &Installation| -> Vec<Field> {
        origin_steps(i).iter().filter(|s| s.stage == Stage::Bonding).map(|s| s.field).collect()
    };
    assert_eq!(fields(&installation), [Field::Continuity; 3]);
    installation.house_rules.bonding = BondingBy::Seen;
    assert_eq!(fields(&installation), [Field::Outcome; 3]);
}

#[test]
fn three_phase_has_ten_pairs() {
    let installation = Installation::default();
    let mut circuit = demo::jobs()[0].installation.circuits[4].clone();
    circuit.lines = Lines::Three;
    let steps = circuit_steps(&installation, &circuit);
    assert_eq!(steps.iter().filter(|step| step.stage == Stage::Insulation).count(), 10);
    assert_eq!(count(&steps, Test::R1R2), 3, "each line in turn");
}

#[test]
fn the_origin_asks_for_each_line_and_by_its_school() {
    use proof_standard::calc::fault_current::FaultCurrentMethod;
    let mut installation = demo::jobs().swap_remove(3).installation;
    let required = |installation: &Installation| -> Vec<String> {
        origin_steps(installation)
            .into_iter()
            .filter(|s| s.stage == Stage::Origin && s.required)
            .map(|s| s.slug)
            .collect()
    };
    assert_eq!(required(&installation).len(), 1 + 3 + 6, "polarity, Ze and two currents on each line");
    installation.house_rules.fault_school = FaultCurrentMethod::LineLine;
    assert_eq!(required(&installation), ["supply-polarity", "ze-l1", "ze-l2", "ze-l3", "pfc-l1-l2"]);
    installation.supply.lines = Lines::Single;
    assert_eq!(required(&installation), ["supply-polarity", "ze", "pfc-ln", "pfc-le"]);
    installation.supply.system = proof_standard::limits::supply::EarthingSystem::Tt;
    assert!(origin_steps(&installation).iter().any(|step| step.slug == "electrode" && step.required), "Ra is asked");
    let mut slugs: Vec<String> = origin_steps(&installation).into_iter().map(|step| step.slug).collect();
    let all = slugs.len();
    slugs.sort();
    slugs.dedup();
    assert_eq!(slugs.len(), all);
}

#[test]
fn a_board_asks_for_what_is_installed() {
    let mut installation = demo::jobs().swap_remove(3).installation;
    let slugs = |installation: &Installation| -> Vec<String> {
        board_steps(installation, &installation.boards[0]).into_iter().map(|step| step.slug).collect()
    };
    assert_eq!(slugs(&installation), ["phase-sequence", "functional", "labels"]);
    installation.boards[0].surge = "type 2".into();
    assert_eq!(slugs(&installation), ["phase-sequence", "functional", "surge", "labels"]);
    let labels = labels_wanted(&installation, &installation.boards[0]);
    for words in ["400 V", "six months", "surge", "safety electrical connection"] {
        assert!(labels.iter().any(|label| label.contains(words)), "{words}: {labels:?}");
    }
    installation.circuits[0].arc_detection = true;
    assert!(labels_wanted(&installation, &installation.boards[0]).iter().any(|label| label.starts_with("AFDD")));
    let steps = circuit_steps(&installation, &installation.circuits[0]);
    assert!(steps.iter().any(|step| step.slug == "afdd-button" && step.required));
    let functional = steps.iter().find(|step| step.slug == "functional").unwrap();
    assert!(functional.required && functional.label.contains("3 switches"), "{}", functional.label);
}

#[test]
fn live_tests_are_proposed_where_they_tell_most() {
    let job = demo::jobs().swap_remove(0);
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let ring = &job.installation.circuits[2];
    let steps = circuit_steps(&job.installation, ring);
    let at = |slug: &str| {
        let step = steps.iter().find(|step| step.slug == slug).unwrap();
        proposed_place(ring, &settled, step)
    };
    assert!(at("zs").unwrap().starts_with("at 5a: the highest R1+R2"));
    assert_eq!(at("rcd-1").as_deref(), Some("at 1: the outlet nearest the board"));
    assert_eq!((at("r1"), at("zs-p3")), (None, None));
}

#[test]
fn the_phases_of_a_board_downstream_are_followed_dead_where_the_house_rule_says_so() {
    use proof_job::site::{Alteration, Wanted};
    use proof_standard::house_rules::SequenceBy;
    use proof_work::plan::disturbance::step_disturbances;
    use proof_work::plan::hook_up::hook_up;
    let mut installation = demo::jobs().swap_remove(3).installation;
    let feeder = installation.circuits.iter().position(|circuit| circuit.lines == Lines::Three).unwrap();
    let mut second = installation.boards[0].clone();
    second.id = uuid::Uuid::from_u128(9);
    "Bindery".clone_into(&mut second.name);
    second.fed_by = proof_job::installation::Feed::Circuit { circuit: installation.circuits[feeder].id };
    installation.boards.push(second);
    let at_board = |installation: &Installation, board: usize| {
        let steps = board_steps(installation, &installation.boards[board]);
        steps.into_iter().find(|step| step.key.test == Test::PhaseSequence).map(|step| (step.required, step.unused))
    };
    let followed = |installation: &Installation| {
        let steps = circuit_steps(installation, &installation.circuits[feeder]);
        steps.into_iter().find(|step| step.stage == Stage::Sequence)
    };
    assert_eq!(at_board(&installation, 1), Some((true, false)));
    assert_eq!(followed(&installation), None);
    installation.house_rules.sequence = SequenceBy::Continuity;
    assert_eq!(at_board(&installation, 0), Some((true, false)), "at the origin there is nothing to follow it from");
    assert_eq!(at_board(&installation, 1), Some((false, true)));
    let step = followed(&installation).unwrap();
    assert!(step.required && step.stage.is_dead());
    assert_eq!(Wanted::for_key(&step.key), Wanted::Dead);
    let list = hook_up(&installation, &step);
    assert_eq!(list.where_to_stand, "Bindery");
    assert_eq!((list.links.len(), list.terminals[0].conductor), (1, Conductor::L1));
    assert_eq!(
        step_disturbances(&installation, &step).into_iter().map(|one| one.alteration).collect::<Vec<_>>(),
        [Alteration::Link]
    );
    // Along a feeder that the work leaves as it was nothing is followed: the tester shows it.
    let mut left = installation.clone();
    left.nature = proof_job::installation::Nature::Addition;
    left.circuits[feeder].untouched = true;
    assert!(left.out_of_scope(&left.circuits[feeder]));
    assert_eq!(at_board(&left, 1), Some((true, false)));
    let single = installation.circuits.iter().find(|circuit| circuit.lines == Lines::Single).unwrap();
    assert!(circuit_steps(&installation, single).iter().all(|step| step.stage != Stage::Sequence));
}
