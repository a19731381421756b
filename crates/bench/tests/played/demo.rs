//! The demo's jobs.

use proof_bench::demo::jobs;
use proof_job::reading::Subject;
use proof_job::site::open_items;
use proof_judge::finding::Severity;
use proof_work::review::review;

#[test]
fn the_same_every_time() {
    assert_eq!(jobs(), jobs());
}

#[test]
fn every_line_of_shorthand_made_a_circuit() {
    assert_eq!(jobs().iter().map(|job| job.installation.circuits.len()).collect::<Vec<_>>(), [8, 6, 2, 6, 7]);
}

#[test]
fn one_is_finished_one_half_done_one_odd() {
    let [finished, half, faulty, searched, objected] = &jobs()[..] else { panic!() };
    let findings = review(finished.into());
    assert!(findings.is_empty(), "{findings:#?}");
    let findings = review(half.into());
    assert!(findings.iter().any(|f| f.severity == Severity::Missing));
    let findings = review(faulty.into());
    assert!(findings.iter().any(|f| f.severity == Severity::Odd && f.text().contains("apart")), "{findings:#?}");
    let whole = searched.readings.iter().filter(|r| matches!(r.key.subject, Subject::CircuitSet { .. })).count();
    assert!(whole >= 4, "the whole board, then the search");
    let kinds: Vec<&str> = review(objected.into()).iter().map(|finding| finding.kind().code()).collect();
    for code in [
        "bond_size",
        "main_switch",
        "source_incomplete",
        "particulars_missing",
        "outlet_rating",
        "no_additional_protection",
        "not_judged",
        "rcd_type",
    ] {
        assert!(kinds.contains(&code), "{code}: {kinds:?}");
    }
    assert!(open_items(&searched.events).iter().any(|item| item.alteration == proof_job::site::Alteration::NeutralOut));
}
