//! Exercises of one figure, and of what is known before a reading: read as they should be, and as they should not.

use crate::hands::{act, number, press};
use proof_bench::practice::made::pose;
use proof_bench::practice::marks::{Answers, mark};
use proof_bench::practice::{Exercise, Truth};

/// The exercises with one figure: read as they should be, and as they should not.
#[test]
fn a_bond_and_a_loop_are_read_and_judged() {
    let (mut within, mut outside) = (0, 0);
    for seed in 0..120 {
        let posed = pose(Exercise::Bonding, seed).unwrap();
        let mut bench = posed.bench.clone();
        act(&mut bench, &["leads long", "knob low", "null"]);
        // With both ends on, the ground beside it flatters a bad clamp.
        let beside = number(press(&mut bench, "bond-1", "metal-1")).unwrap();
        act(&mut bench, &["bond 1 off"]);
        let alone = number(press(&mut bench, "bond-1", "metal-1")).unwrap();
        assert!(beside <= alone + 0.03, "seed {seed}: {beside} {alone}");
        let verdict = if alone <= 0.05 { "within" } else { "outside" };
        let answers = |bond: f64| {
            Answers::from([("bond".to_owned(), format!("{bond:.2}")), ("verdict".to_owned(), verdict.to_owned())])
        };
        let marks = mark(&posed, &bench, &answers(alone));
        assert!(marks.found() && !marks.is_clean() && marks.left.len() == 1, "left off: {marks:?}");
        act(&mut bench, &["bond 1 on"]);
        assert!(mark(&posed, &bench, &answers(alone)).is_clean(), "seed {seed}");
        // Leads that were not nulled would have made it bad.
        assert!(!mark(&posed, &bench, &answers(alone + 0.58)).found());
        if verdict == "within" {
            within += 1
        } else {
            outside += 1
        }

        let posed = pose(Exercise::Zs, seed).unwrap();
        let Truth::Zs { limit_ohm, .. } = posed.truth else { panic!("a loop") };
        // 0.8 of 2.19 Ω, which is printed for a B20 (BS 7671 Table 41.3).
        assert!((limit_ohm - 1.75).abs() < 0.011, "{limit_ohm}");
        let mut bench = posed.bench.clone();
        let last = bench.rig.ways[0].cable.points.len();
        act(&mut bench, &["knob quiet"]);
        let zs = number(press(&mut bench, &format!("w1p{last}-L"), &format!("w1p{last}-E"))).unwrap();
        let verdict = if zs <= limit_ohm { "within" } else { "outside" };
        let answers =
            Answers::from([("zs".to_owned(), format!("{zs:.2}")), ("verdict".to_owned(), verdict.to_owned())]);
        assert!(mark(&posed, &bench, &answers).is_clean(), "seed {seed}");
        if verdict == "within" { within += 1 } else { outside += 1 }
    }
    assert!(within > 60 && outside > 60, "{within} {outside}");
}

/// What is known before a reading: the leads alone, and what r2 should be.
#[test]
fn leads_are_taken_off_and_r2_is_expected_before_it_is_read() {
    let (mut fits, mut apart) = (0, 0);
    for seed in 0..80 {
        let posed = pose(Exercise::Null, seed).unwrap();
        let mut bench = posed.bench.clone();
        let last = bench.rig.ways[0].cable.points.len();
        let at = [format!("w1p{last}-L"), format!("w1p{last}-N")];
        act(&mut bench, &["knob low", "press"]);
        let short = number(bench.shown).unwrap();
        act(&mut bench, &["leads plug", "press"]);
        let plug = number(bench.shown).unwrap();
        act(&mut bench, &["link w1t1-L bar-N on"]);
        let with_leads = number(press(&mut bench, &at[0], &at[1])).unwrap();
        act(&mut bench, &["probe 1 hand", "probe 2 hand", "null"]);
        press(&mut bench, &at[0], &at[1]);
        act(&mut bench, &["press"]);
        let without = number(bench.shown).unwrap();
        let answers = |r1_rn: f64| {
            Answers::from(
                [("short", short), ("plug", plug), ("r1_rn", r1_rn)]
                    .map(|(name, ohm)| (name.to_owned(), format!("{ohm:.2}"))),
            )
        };
        let marks = mark(&posed, &bench, &answers(without));
        assert!(marks.found() && marks.left.len() == 1, "seed {seed}: the link is left in: {marks:?}");
        act(&mut bench, &["link w1t1-L bar-N off"]);
        assert!(mark(&posed, &bench, &answers(without)).is_clean(), "seed {seed}: {short} {plug} {without}");
        assert!(!mark(&posed, &bench, &answers(with_leads)).found(), "seed {seed}: the lead stands in it");

        let posed = pose(Exercise::Ratio, seed).unwrap();
        let mut bench = posed.bench.clone();
        act(&mut bench, &["knob low", "null", "tail 1 L off", "tail 1 N off", "tail 1 E off"]);
        let r1 = number(press(&mut bench, "w1t1-L", "w1t2-L")).unwrap();
        let r2 = number(press(&mut bench, "w1t1-E", "w1t2-E")).unwrap();
        // By hand: 2.5/1.5.
        let expected = r1 * 5.0 / 3.0;
        let verdict = if r2 - expected > 0.15 { "apart" } else { "fits" };
        let answers = |expected: f64, verdict: &str| {
            let mut all = Answers::from(
                [("r1", r1), ("expected", expected), ("r2", r2)]
                    .map(|(name, ohm)| (name.to_owned(), format!("{ohm:.2}"))),
            );
            all.insert("verdict".into(), verdict.into());
            all
        };
        let marks = mark(&posed, &bench, &answers(expected, verdict));
        assert!(marks.is_clean(), "seed {seed}: {marks:?}");
        let other = if verdict == "fits" { "apart" } else { "fits" };
        assert!(!mark(&posed, &bench, &answers(expected, other)).found());
        assert!(!mark(&posed, &bench, &answers(r1, verdict)).found(), "r2 is not r1");
        if verdict == "fits" { fits += 1 } else { apart += 1 }
    }
    assert!(fits > 20 && apart > 20, "{fits} {apart}");
}
