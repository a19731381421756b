//! The job as an inspector looks at it: sound jobs altered by hand, each mistake found by a finding of the
//! right kind at the right place that was not there before, and nothing said of what is in order.
//!
//! The mistakes are written from the standard and from what practitioners get wrong; they alter the job
//! file as JSON and share no code with the rules. Their shares by group stand in `docs/INSPECTOR.md`.

mod harmless;
mod job;
mod mistakes;
#[path = "../program_run/program/mod.rs"]
#[allow(dead_code)]
mod program;
mod sound;

use harmless::HARMLESS;
use job::File;
use serde_json::Value;
use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::process::Command;

/// The share of the mistakes that must be found, of every hundred.
const FOUND: f64 = 98.0;
/// The share of what is in order of which something may be said.
const FALSE: f64 = 1.0;

fn sound() -> Vec<(&'static str, File)> {
    let jobs = [
        ("house", sound::house_tn()),
        ("works", sound::works()),
        ("studio", sound::studio()),
        ("cottage", sound::cottage()),
        ("panels", sound::panels()),
    ];
    let file = |job| {
        File(
            serde_json::from_slice(
                &proof_paper::job_file::write(&job, &proof_job::installation::Documents::new()).unwrap(),
            )
            .unwrap(),
        )
    };
    jobs.map(|(name, job)| (name, file(job))).to_vec()
}

/// What `proof check` says of a file: each finding's code, place and words; or that it is refused.
fn check(file: &File) -> Vec<(String, String, String)> {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("job.json");
    std::fs::write(&path, serde_json::to_vec(&file.0).unwrap()).unwrap();
    let output = Command::new(env!("CARGO_BIN_EXE_proof")).arg("check").arg(&path).output().unwrap();
    let Ok(answer) = serde_json::from_slice::<Value>(&output.stdout) else {
        return vec![("refused".into(), String::new(), String::from_utf8_lossy(&output.stderr).into_owned())];
    };
    let one = |one: &Value, key: &str| one[key].as_str().unwrap_or_default().to_owned();
    let findings = answer["findings"].as_array().unwrap();
    let blocks = findings.iter();
    blocks.map(|found| (one(found, "code"), one(found, "place"), one(found, "what"))).collect()
}

#[test]
fn a_sound_job_has_no_finding() {
    for (name, file) in sound() {
        assert_eq!(check(&file), [], "{name}");
    }
}

/// What a sound dwelling of eight circuits is asked beyond the readings, its client, its site and its bonds:
/// a figure or a choice each.
#[test]
fn a_dwelling_is_asked_few_things() {
    let (_, mut file) = sound().swap_remove(0);
    let supply = file.supply().as_object_mut().unwrap();
    let mut answers =
        ["tails_mm2", "earthing_mm2", "device_a"].iter().filter(|key| supply.remove(**key).is_some()).count();
    supply.insert("device".into(), "".into());
    for key in ["surge", "arc"] {
        // The decision, and its reason.
        answers += 2 * usize::from(file.installation().as_object_mut().unwrap().remove(key).is_some());
    }
    file.board()["main_switch"] = serde_json::json!({"kind": ""});
    file.board()["location"] = "".into();
    // The supply's device; the switch's kind, poles and rating; the board's place.
    answers += 1 + 3 + 1;
    let asked = check(&file).into_iter().filter(|one| one.0 == "particulars_missing").count();
    assert_eq!(asked, 7, "each is asked once: tails, earthing, device, switch, place, surge, arc");
    assert!(answers <= 12, "{answers} answers");
    // What it has not is not asked: no source, no electrode, nothing of the origin's alteration.
    let said = check(&sound()[0].1);
    assert_eq!(said, []);
}

#[derive(Default)]
struct Group {
    made: usize,
    found: usize,
}

fn share(group: &Group) -> f64 {
    100.0 * group.found as f64 / group.made.max(1) as f64
}

/// The figures as the document holds them.
fn table(groups: &BTreeMap<&str, Group>, harmless: (usize, usize)) -> String {
    let mut text = String::from("| group | mistakes | found | share |\n|---|---:|---:|---:|\n");
    let mut all = Group::default();
    for (name, group) in groups {
        let _ = writeln!(text, "| {name} | {} | {} | {:.0} % |", group.made, group.found, share(group));
        (all.made, all.found) = (all.made + group.made, all.found + group.found);
    }
    let _ = writeln!(text, "| **all** | {} | {} | {:.1} % |", all.made, all.found, share(&all));
    let _ = writeln!(text, "\nOf {} variations that are in order, {} drew a finding.", harmless.0, harmless.1);
    text
}

#[test]
fn mistakes_are_found_where_they_are_and_nothing_is_said_of_what_is_in_order() {
    let jobs = sound();
    let (mut groups, mut missed, mut wrong) = (BTreeMap::<&str, Group>::new(), Vec::new(), Vec::new());
    let mut tried = 0;
    for (name, file) in &jobs {
        let before = check(file);
        for mistake in mistakes::all() {
            let mut altered = file.clone();
            let Some(place) = (mistake.make)(&mut altered) else { continue };
            let group = groups.entry(mistake.group).or_default();
            group.made += 1;
            let after = check(&altered);
            let new = |one: &&(String, String, String)| !before.contains(one);
            let refused = after.iter().any(|one| one.0 == "refused");
            let right =
                |one: &(String, String, String)| mistake.codes.contains(&one.0.as_str()) && one.1.contains(&place);
            if after.iter().filter(new).any(right) {
                group.found += 1;
            } else {
                let said: Vec<_> = after.iter().filter(new).map(|one| format!("{} {}", one.0, one.1)).take(4).collect();
                let refused = if refused { after[0].2.clone() } else { String::new() };
                missed.push(format!("{name}: {} / {} at {place}: {said:?} {refused}", mistake.group, mistake.name));
            }
        }
        for (variation, make) in HARMLESS {
            let mut altered = file.clone();
            if !make(&mut altered) {
                continue;
            }
            tried += 1;
            let said = check(&altered);
            if let Some(one) = said.iter().find(|one| !before.contains(one)) {
                wrong.push(format!("{name}: {variation}: {one:?}"));
            }
        }
    }
    let table = table(&groups, (tried, wrong.len()));
    println!("{table}\nmissed:\n{}\n\nfalse:\n{}", missed.join("\n"), wrong.join("\n"));
    let made: usize = groups.values().map(|group| group.made).sum();
    assert!(made >= 250 && tried >= 150, "{made} mistakes, {tried} variations");
    let all = Group { made, found: made - missed.len() };
    assert!(share(&all) >= FOUND, "{:.1} % found", share(&all));
    assert!(100.0 * wrong.len() as f64 / tried as f64 <= FALSE, "{} of {tried} drew a finding", wrong.len());
    let document = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/INSPECTOR.md");
    let published = std::fs::read_to_string(document).unwrap_or_default();
    if std::env::var_os("UPDATE").is_some() {
        let begin = published.find("| group |").unwrap_or(published.len());
        std::fs::write(document, format!("{}{table}", &published[..begin])).unwrap();
    } else {
        assert!(published.ends_with(&table), "docs/INSPECTOR.md is stale: UPDATE=1 cargo test --test inspector");
    }
}
