//! A schedule that contradicts itself, judged beside relations that are written down here once more: exactly the one that
//! is named is broken, and any figure of it may be pointed at.

use proof_bench::practice::made::pose_at;
use proof_bench::practice::marks::{Answers, mark};
use proof_bench::practice::paper::{Paper, WRONG};
use proof_bench::practice::{Exercise, Level, Truth};
use std::collections::{BTreeSet, HashMap};

fn figures(paper: &Paper) -> HashMap<String, f64> {
    let cells = paper.head.iter().map(|(_, cell)| cell).chain(paper.rows.iter().flat_map(|(_, cells)| cells));
    cells.filter_map(|cell| Some((cell.key.clone(), cell.text.parse().ok()?))).collect()
}

/// What does not hold, by its key. BS 7671 and GN 3 for the relations (from memory); margins are those of two decimals.
fn broken(paper: &Paper) -> BTreeSet<&'static str> {
    let all = figures(paper);
    let of = |row: usize, key: &str| all.get(&format!("{row} {key}")).copied();
    let mut found = BTreeSet::new();
    if (all["fault_ka"] - 0.23 / all["loop"]).abs() > 0.1 * all["fault_ka"] {
        found.insert("current-not-its-loop");
    }
    for row in 1..=paper.rows.len() {
        let (zs, r1_r2) = (of(row, "zs").unwrap(), of(row, "r1_r2").unwrap());
        if zs < all["ze"] {
            found.insert("zs-below-ze");
        }
        if zs > all["ze"] + r1_r2 + 0.1 {
            found.insert("zs-not-the-sum");
        }
        if let (Some(r1), Some(r2)) = (of(row, "r1"), of(row, "r2")) {
            if (r1_r2 - (r1 + r2) / 4.0).abs() > 0.03 {
                found.insert("ring-quarter");
            }
            // 2.5 mm² and 1.5 mm²: 1.67 by the sizes, 1.63 by the table.
            if !(1.5..1.8).contains(&(r2 / r1)) {
                found.insert("r2-ratio");
            }
        }
        if of(row, "le").unwrap() < all["board"] {
            found.insert("board-above-circuit");
        }
        if let (Some(one), Some(five)) = (of(row, "one"), of(row, "five"))
            && five >= one
        {
            found.insert("five-slower");
        }
    }
    found
}

/// Decimals of a figure, as it stands on the paper.
fn places(cell: &str) -> usize {
    match cell.rsplit(' ').next() {
        Some("board") => 0,
        Some("one" | "five") => 1,
        _ => 2,
    }
}

#[test]
fn exactly_what_is_named_is_broken() {
    let mut seen = BTreeSet::new();
    for level in Level::ALL {
        for seed in 0..400 {
            let posed = pose_at(Exercise::Paper, level, seed).unwrap();
            let Truth::Paper { cells, what } = &posed.truth else { panic!() };
            let paper = posed.paper.as_ref().unwrap();
            let found = broken(paper);
            assert_eq!(found, BTreeSet::from([*what]), "{} {seed}: {paper:?}", level.key());
            let all = figures(paper);
            assert!(cells.iter().all(|cell| all.contains_key(cell)), "{cells:?}");
            for cell in cells {
                let said = Answers::from([("cell".into(), cell.clone()), ("what".into(), (*what).to_owned())]);
                assert!(mark(&posed, &posed.bench, &said).is_clean());
            }
            let elsewhere = Answers::from([("cell".into(), "2 size".into()), ("what".into(), (*what).to_owned())]);
            assert!(!mark(&posed, &posed.bench, &elsewhere).found());
            // Why it cannot be is said with the figures that stand there.
            let why = &posed.settles;
            let written = |cell: &String| why.contains(&format!("{:.*}", places(cell), all[cell]));
            assert!(cells.iter().any(written), "{what}: {why} {cells:?}");
            seen.insert(*what);
        }
    }
    assert_eq!(seen.len(), WRONG.len() - 1);
}
