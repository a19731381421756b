//! Readings judged.

use proof_bench::demo;
use proof_job::installation::{Installation, Wiring};
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Reading, Test, Value};
use proof_judge::supply_chain::{recorded, ze};
use proof_judge::verdict::{CircuitJudge, Judgement, Limit, LowInsulation, Plausibility, Reason, Rule, judge_origin};
use proof_standard::house_rules::ZsLimit;
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::limits::{EditionId, Source};
use proof_standard::quantity::Kiloamps;
use proof_work::plan::sequence::{circuit_steps, origin_steps};
use rust_decimal::dec;
use uuid::Uuid;

fn job() -> Job {
    demo::jobs().remove(0)
}

/// Judges `value` for a step of a way, after `change` was made to the job.
fn judged(way: &str, slug: &str, value: &str, change: impl FnOnce(&mut Job)) -> Judgement {
    let mut job = job();
    change(&mut job);
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let circuit = job.installation.circuits.iter().find(|circuit| circuit.way == way).unwrap();
    let steps = circuit_steps(&job.installation, circuit);
    let step = steps.iter().find(|step| step.slug == slug).unwrap_or_else(|| panic!("{slug}"));
    let value = proof_job::reading::entry::parse(value, step.field, dec!(999)).unwrap();
    CircuitJudge::new(&job.installation, circuit, &settled).explain(step, &value)
}

fn as_is(way: &str, slug: &str, value: &str) -> (Limit, Plausibility) {
    let judgement = judged(way, slug, value, |_| {});
    (judgement.limit, judgement.plausibility)
}

#[test]
fn the_two_verdicts_are_independent() {
    assert_eq!(as_is("3", "r2-p1", "0.29"), (Limit::Within, Plausibility::Within));
    assert_eq!(as_is("3", "r2-p1", "0.60"), (Limit::Within, Plausibility::LookAgain));
    assert_eq!(as_is("3", "r2-p1", "1.20"), (Limit::Outside, Plausibility::LookAgain));
    assert_eq!(as_is("3", "r2-p1", "open"), (Limit::Outside, Plausibility::LookAgain));
    assert_eq!(as_is("3", "r2-p1", "lim behind the press"), (Limit::NotJudged, Plausibility::NotJudged));
}

#[test]
fn r1_and_rn_are_alike_within_005_and_in_proportion() {
    let beside = |rn: &str| judged("3", "rn", rn, |job| set(job, "3", "r1", "0.45")).plausibility;
    assert_eq!((beside("0.50"), beside("0.51")), (Plausibility::Within, Plausibility::LookAgain));
    // practice.md: 0.04 beside 0.09 deserves a second look.
    let short = judged("3", "rn", "0.09", |job| set(job, "3", "r1", "0.04"));
    assert_eq!(short.plausibility, Plausibility::LookAgain);
    assert!(short.reasons.iter().any(|why| matches!(why, Reason::LegsOutOfProportion { .. })), "{:?}", short.reasons);
}

/// Replaces the reading of a step.
fn set(job: &mut Job, way: &str, slug: &str, value: &str) {
    let circuit = job.installation.circuits.iter().find(|circuit| circuit.way == way).unwrap();
    let steps = circuit_steps(&job.installation, circuit);
    let step = steps.iter().find(|step| step.slug == slug).unwrap();
    let mut reading: Reading = job.readings.iter().find(|reading| reading.key == step.key).unwrap().clone();
    reading.id = Uuid::new_v4();
    reading.value = proof_job::reading::entry::parse(value, step.field, dec!(999)).unwrap();
    job.readings.push(reading);
}

#[test]
fn insulation_minimum_and_look_again() {
    assert_eq!(as_is("3", "ir-e-l", ">999"), (Limit::Within, Plausibility::Within));
    assert_eq!(as_is("3", "ir-e-l", "150"), (Limit::Within, Plausibility::LookAgain));
    assert_eq!(as_is("3", "ir-e-l", "1.00"), (Limit::Within, Plausibility::LookAgain));
    assert_eq!(as_is("3", "ir-e-l", "0.99"), (Limit::Outside, Plausibility::LookAgain));
    assert_eq!(as_is("3", "ir-e-l", ">0.5").0, Limit::Outside);
    let neon = judged("3", "ir-n-l", "0.25", |_| {});
    assert!(neon.reasons.contains(&Reason::InsulationLow { commonly: LowInsulation::Neon }));
    let to_earth = judged("3", "ir-e-l", "0.25", |_| {});
    assert!(to_earth.reasons.contains(&Reason::InsulationLow { commonly: LowInsulation::Wet }));
    let old =
        |value| judged("3", "ir-e-l", value, |job| job.installation.circuits[2].wiring = Wiring::Existing).plausibility;
    assert_eq!(old("12"), Plausibility::Within);
    assert_eq!(old("9.9"), Plausibility::LookAgain);
}

/// What is shown as a bound is inside, and nothing that is said of the reading says otherwise.
#[test]
fn a_reading_at_the_bound_as_shown_is_neither_low_nor_high() {
    let job = job();
    let settled = CurrentReadings::new(&job.readings, &[]);
    let mut asked = 0;
    for circuit in &job.installation.circuits {
        let judge = CircuitJudge::new(&job.installation, circuit, &settled);
        for step in circuit_steps(&job.installation, circuit) {
            let Some(expected) = judge.band(&step.key).ok().map(|band| band.expected("Ω")) else { continue };
            for bound in [expected.low, expected.high].into_iter().flatten() {
                let found = judge.judge(&step, &Value::Number(bound));
                let outside = |why: &Reason| {
                    matches!(why, Reason::Lower { .. } | Reason::Higher { .. } | Reason::TooLow | Reason::OwnLeg)
                };
                assert!(
                    !found.reasons.iter().any(outside),
                    "{} {}: {bound} {:?}",
                    circuit.way,
                    step.slug,
                    found.reasons
                );
                asked += 1;
            }
        }
    }
    assert!(asked > 100, "{asked}");
}

#[test]
fn zs_by_eighty_percent_by_temperature_and_below_ze() {
    assert_eq!(as_is("3", "zs", "0.54").0, Limit::Within);
    assert_eq!(as_is("3", "zs", "1.10").0, Limit::Within);
    assert_eq!(as_is("3", "zs", "1.11").0, Limit::Outside);
    let below = judged("3", "zs", "0.16", |_| {});
    assert_eq!((below.limit, below.plausibility), (Limit::NotJudged, Plausibility::LookAgain));
    let warm =
        |value| judged("3", "zs", value, |job| job.installation.house_rules.zs_limit = ZsLimit::Temperature).limit;
    // 0.17 + (1.17 − 0.17)·1.2 = 1.37: the limit itself is within.
    assert_eq!(warm("1.17"), Limit::Within);
    assert_eq!(warm("1.18"), Limit::Outside);
}

/// Ze as declared for TN-C-S 0.35 Ω (common practice, from memory); B32: 1.37 Ω printed, Table 41.3 (from memory).
#[test]
fn copper_that_only_an_assumed_ze_leaves_no_room_for_waits_and_more_copper_than_the_limit_does_not() {
    let unread = |job: &mut Job| job.readings.retain(|reading| reading.key.test != Test::Ze);
    let waits = |judged: &Judgement| judged.reasons.iter().any(|why| matches!(why, Reason::WaitsForZe { .. }));
    let by = |value: &str, limit: ZsLimit| {
        let found = judged("3", "r2-p1", value, |job| {
            unread(job);
            job.installation.house_rules.zs_limit = limit;
        });
        (found.limit, waits(&found))
    };
    let eighty = ["0.75", "0.76", "1.10", "1.11"].map(|value| by(value, ZsLimit::EightyPercent));
    let (within, later, over) = ((Limit::Within, false), (Limit::NotJudged, true), (Limit::Outside, false));
    assert_eq!(eighty, [within, later, later, over]);
    // 0.35 + 0.85·1.2 = 1.37; without any Ze 1.14·1.2 = 1.368.
    let warm = ["0.85", "0.86", "1.14", "1.15"].map(|value| by(value, ZsLimit::Temperature));
    assert_eq!(warm, [within, later, later, over]);
    // With Ze read, 0.17 Ω, nothing waits.
    assert_eq!(["0.93", "0.94"].map(|value| as_is("3", "r2-p1", value).0), [Limit::Within, Limit::Outside]);
}

#[test]
fn a_tt_board_is_judged_by_its_rcd() {
    let tt = |value| {
        judged("3", "zs", value, |job| {
            job.installation.supply.system = EarthingSystem::Tt;
            job.installation.boards[0].system = EarthingSystem::Tt;
        })
    };
    assert_eq!(tt("120").limit, Limit::Within);
    assert_eq!(tt("1667").limit, Limit::Within);
    assert_eq!(tt("1668").limit, Limit::Outside);
    assert!(tt("120").working.iter().any(|line| line.sources.iter().any(|source| source.place.contains("Table 41.5"))));
}

#[test]
fn rcd_by_kind_and_school() {
    assert_eq!(as_is("3", "rcd-1", "300").0, Limit::Within);
    assert_eq!(as_is("3", "rcd-1", "301").0, Limit::Outside);
    assert_eq!(as_is("3", "rcd-1", "no trip").0, Limit::Outside);
    assert_eq!(as_is("3", "rcd-1", ">300").0, Limit::Outside);
    let series =
        |slug, value| judged("3", slug, value, |job| job.installation.edition = EditionId::Bs7671Y2008A3).limit;
    assert_eq!(series("rcd-half-0", "no trip"), Limit::Within);
    assert_eq!(series("rcd-half-0", "22"), Limit::Outside);
    assert_eq!(series("rcd-5-180", "40"), Limit::Within);
    assert_eq!(series("rcd-5-180", "41"), Limit::Outside);
}

#[test]
fn every_line_of_working_that_judges_names_its_source() {
    let mut count = 0;
    for job in demo::jobs() {
        let settled = CurrentReadings::new(&job.readings, &job.events);
        for circuit in &job.installation.circuits {
            let judge = CircuitJudge::new(&job.installation, circuit, &settled);
            for step in circuit_steps(&job.installation, circuit) {
                let explained = settled.value(&step.key).map(|value| judge.explain(&step, value));
                for line in explained.into_iter().flat_map(|judgement| judgement.working) {
                    let unjudged = matches!(line.rule, Rule::NotJudged(_));
                    assert!(unjudged || !line.sources.is_empty(), "{} {}", step.slug, line.rule.formula());
                    count += 1;
                }
            }
        }
    }
    assert!(count > 200, "{count}");
}

/// The working says which stood: the table here, or the firm's own copy.
#[test]
fn the_working_names_the_own_copy_where_it_judges() {
    use proof_job::installation::{OwnLimit, OwnRow};
    use proof_standard::limits::OWN_COPY;
    let mut job = job();
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let step = origin_steps(&job.installation).into_iter().find(|step| step.slug == "ze").unwrap();
    let value = proof_job::reading::entry::parse("0.30", step.field, dec!(999)).unwrap();
    let sources = |installation: &proof_job::installation::Installation| {
        let judged = judge_origin(installation, &settled, &step, &value);
        (judged.limit, judged.working.iter().flat_map(|line| line.sources.clone()).collect::<Vec<_>>())
    };
    let (limit, before) = sources(&job.installation);
    assert!(limit == Limit::Within && !before.contains(&OWN_COPY));
    let limit = OwnLimit::DeclaredZe { system: job.installation.supply.system };
    job.installation.own_rows = vec![OwnRow { limit, value: dec!(0.25), ..demo::own_rows().swap_remove(0) }];
    let (limit, after) = sources(&job.installation);
    assert!(limit == Limit::Outside && after.contains(&OWN_COPY), "{after:?}");
}

/// BS 7671 415.2.2, from memory: R ≤ 50 V / Ia. By hand: B32 disconnects at 160 A, 50 / 160 = 0.3125 Ω; behind
/// 30 mA 50 / 0.03 = 1667 Ω.
#[test]
fn a_supplementary_bond_is_judged_by_the_current_that_disconnects() {
    use proof_job::installation::{Serves, shorthand};
    let mut job = job();
    let board = job.installation.boards[0].id;
    let line = "9 radial B32 6kA 6/2.5 fixed 9m 1pt ref C N9 E9 \"Shower\"";
    let (mut shower, _) = shorthand::parse(line).unwrap().build(board, uuid::Uuid::from_u128(9));
    shower.serves = vec![Serves::BathOrShower];
    job.installation.circuits.push(shower);
    job.installation.supply.bonds[0].supplementary = true;
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let judged = |installation: &proof_job::installation::Installation, typed: &str| {
        let steps = origin_steps(installation);
        let step = steps.iter().find(|step| step.slug.starts_with("bond-")).unwrap();
        let value = proof_job::reading::entry::parse(typed, step.field, dec!(999)).unwrap();
        judge_origin(installation, &settled, step, &value)
    };
    let limit = |installation: &proof_job::installation::Installation, typed: &str| judged(installation, typed).limit;
    assert_eq!(limit(&job.installation, "0.31"), Limit::Within);
    assert_eq!(limit(&job.installation, "0.32"), Limit::Outside);
    let rcd = job.installation.boards[0].rcds[0].id;
    job.installation.circuits.last_mut().unwrap().rcd = Some(rcd);
    assert_eq!(limit(&job.installation, "1.2"), Limit::Within);
    // The rule would pass half a kilohm; no bond reads that, whether its length is given or not.
    for length in [job.installation.supply.bonds[0].length_m, None] {
        job.installation.supply.bonds[0].length_m = length;
        let odd = judged(&job.installation, "500");
        assert_eq!((odd.limit, odd.plausibility), (Limit::Within, Plausibility::LookAgain), "{length:?}");
    }
    // A device in the room whose current no table gives: held as a main bond, never by the others alone.
    let mut unknown = job.installation.circuits.last().unwrap().clone();
    (unknown.id, unknown.rcd, unknown.device.rating_a) =
        (uuid::Uuid::from_u128(10), None, proof_standard::quantity::Amps(dec!(33)));
    job.installation.circuits.push(unknown);
    assert_eq!(limit(&job.installation, "0.06"), Limit::Outside);
    job.installation.circuits.pop();
    job.installation.circuits.pop();
    assert_eq!(limit(&job.installation, "0.06"), Limit::Outside, "nobody says what it serves: as a main bond");
}

#[test]
fn the_origin() {
    let job = job();
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let steps = origin_steps(&job.installation);
    let at = |slug: &str, value: &str| {
        let step = steps.iter().find(|step| step.slug.starts_with(slug)).unwrap();
        let value = proof_job::reading::entry::parse(value, step.field, dec!(999)).unwrap();
        judge_origin(&job.installation, &settled, step, &value)
    };
    assert_eq!(at("ze", "0.35").limit, Limit::Within);
    assert_eq!(at("ze", "0.36").limit, Limit::Outside);
    assert_eq!(at("bond-", "0.05").limit, Limit::Within);
    assert_eq!(at("bond-", "0.06").limit, Limit::Outside);
    assert_eq!(at("pfc-ln", "6").limit, Limit::Within);
    assert_eq!(at("pfc-ln", "6.01").limit, Limit::Outside);
    // With Ze 0.17 Ω the line–earth current cannot be a fifth of 230 V / 0.17 Ω.
    assert_eq!(at("pfc-le", "0.25").plausibility, Plausibility::LookAgain);
    assert_eq!(ze(&job.installation, &settled), Some(dec!(0.17)));
    assert_eq!(recorded(&job.installation, &settled), Some((Kiloamps(dec!(1.48)), "line–earth")));
}

/// Working as a person reads it: formula, numbers, result, source.
#[test]
fn the_working_reads_well() {
    let mut text = Vec::new();
    for (way, slug, value) in [
        ("3", "rn", "0.58"),
        ("3", "r2-p10", "0.40"),
        ("7", "r2-p3", "0.35"),
        ("3", "ir-e-l", "0.25"),
        ("3", "zs", "1.11"),
        ("3", "rcd-1", "24.6"),
    ] {
        let judgement = judged(way, slug, value, |_| {});
        text.push(format!(
            "way {way} {slug} {value}: {:?}, {:?} {:?}",
            judgement.limit,
            judgement.plausibility,
            judgement.reasons.iter().map(ToString::to_string).collect::<Vec<_>>()
        ));
        for line in judgement.working {
            text.push(format!(
                "    {} | {} | {} | {} | {}",
                line.part.label(),
                line.rule.formula(),
                line.rule.numbers(),
                line.rule.result(),
                line.sources.iter().map(Source::line).collect::<Vec<_>>().join("; ")
            ));
        }
    }
    insta::with_settings!({ description => "verdicts on the finished demo job", omit_expression => true }, {
        insta::assert_snapshot!("working", text.join("\n"));
    });
}

/// BS 7671 411.5.3, Table 41.5 and its note: 50 V / IΔn, and 200 Ω for stability.
#[test]
fn an_electrode_is_judged_by_the_rcd_that_relies_on_it() {
    use proof_standard::limits::supply::EarthingSystem;
    let mut job = job();
    job.installation.supply.system = EarthingSystem::Tt;
    job.installation.boards[0].system = EarthingSystem::Tt;
    let settled = CurrentReadings::default();
    let steps = origin_steps(&job.installation);
    let at = |slug: &str, value: &str| {
        let step = steps.iter().find(|step| step.slug == slug).unwrap();
        let value = proof_job::reading::entry::parse(value, step.field, dec!(999)).unwrap();
        judge_origin(&job.installation, &settled, step, &value)
    };
    for slug in ["electrode", "ze"] {
        assert_eq!(at(slug, "1667").limit, Limit::Within, "{slug}");
        assert_eq!(at(slug, "1668").limit, Limit::Outside, "{slug}");
        assert_eq!(at(slug, "200").plausibility, Plausibility::Within, "{slug}");
        let dry = at(slug, "201");
        assert!(dry.limit == Limit::Within && matches!(dry.reasons[0], Reason::MayNotBeStable { .. }), "{slug}");
    }
    assert_eq!(at("electrode", "open").limit, Limit::Outside);
    let bare = Installation { boards: vec![], ..job.installation.clone() };
    let step = steps.iter().find(|step| step.slug == "electrode").unwrap();
    let judged = judge_origin(&bare, &settled, step, &Value::Number(dec!(40)));
    assert_eq!(judged.limit, Limit::NotJudged, "no RCD relies on it");
}

#[test]
fn a_current_and_its_own_loop_are_held_against_each_other_and_not_against_ze() {
    let job = job();
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let steps = origin_steps(&job.installation);
    let at = |slug: &str, value: &str| {
        let step = steps.iter().find(|step| step.slug == slug).unwrap();
        let value = proof_job::reading::entry::parse(value, step.field, dec!(999)).unwrap();
        judge_origin(&job.installation, &settled, step, &value)
    };
    // Ze is 0.17 Ω, the line–earth current 1.48 kA: a loop of 0.15 Ω with paths in parallel.
    assert_eq!(at("loop-le", "0.15").plausibility, Plausibility::Within, "it may lawfully differ from Ze");
    assert_eq!(at("loop-le", "0.15").limit, Limit::NotJudged, "it has no limit of its own");
    let another = at("loop-le", "0.20");
    assert!(
        another.plausibility == Plausibility::LookAgain && matches!(another.reasons[0], Reason::NotItsLoop { .. }),
        "{another:?}"
    );
    assert!(matches!(at("loop-le", "0.31").reasons[0], Reason::AboveZe { .. }), "paths in parallel only lower it");
    assert_eq!(at("loop-ln", "0.16").plausibility, Plausibility::Within);
}

#[test]
fn the_line_neutral_loop_of_a_circuit_is_what_its_copper_gives() {
    let read = |value| judged("3", "zs-ln", value, |_| {});
    assert_eq!(read("0.43").plausibility, Plausibility::Within, "0.16 at the board and R1+Rn 0.28");
    assert_eq!(read("0.43").limit, Limit::NotJudged);
    assert_eq!(read("0.90").plausibility, Plausibility::LookAgain);
}
