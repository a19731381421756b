//! Names that a reader cannot guess from are not used: where one came up, the plain one stands in its place.

use std::fs;
use std::path::Path;

/// Names of modules, types, variants, functions and fields that have a plainer one.
const REPLACED: [&str; 60] = [
    "taking",
    "Deed",
    "Settled",
    "Memo",
    "borne_on",
    "Because",
    "NotBorne",
    "Slip",
    "Flaw",
    "Described",
    "Compared",
    "tell_tale",
    "in_hand",
    "at_hand",
    "LeftDead",
    "Alone",
    "refitted",
    "FaultSchool",
    "brief",
    "fly_lead",
    "FlyLead",
    "metal_beside",
    "flattered_by_metal",
    "has_what_stays",
    "takes_in_origin",
    "rcds_over",
    "first_behind",
    "Went",
    "Became",
    "CameIn",
    "NotHere",
    "Manner",
    "Laid",
    "Part",
    "stands_in",
    "heavy",
    "draw_up",
    "put_away",
    "Owed",
    "OwedDone",
    "PolarityOwed",
    "NotOwed",
    "Answer",
    "Asked",
    "Held",
    "Mark",
    "Shown",
    "Stand",
    "Standing",
    "Taken",
    "Hand",
    "marks_of",
    "answering",
    "wording_1",
    "schools_of",
    "of_circuit",
    "of_board",
    "of_job",
    "of_step",
    "of_reading",
];

/// Identifiers of a file: without comments and without what stands in quotes.
fn identifiers(text: &str) -> Vec<String> {
    let (mut out, mut word, mut quoted, mut escaped) = (Vec::new(), String::new(), false, false);
    for line in text.lines() {
        let mut before = ' ';
        for c in line.chars().chain(['\n']) {
            match c {
                _ if escaped => escaped = false,
                '\\' if quoted => escaped = true,
                '"' if before != '\'' => quoted = !quoted,
                '/' if before == '/' && !quoted => break,
                _ if quoted => {}
                c if c.is_alphanumeric() || c == '_' => word.push(c),
                _ => {}
            }
            if !word.is_empty() && (quoted || !(c.is_alphanumeric() || c == '_')) {
                out.push(std::mem::take(&mut word));
            }
            before = c;
        }
        if !word.is_empty() {
            out.push(std::mem::take(&mut word));
        }
    }
    out
}

fn look(folder: &Path, found: &mut Vec<String>, files: &mut usize) {
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            look(&path, found, files);
        } else if path.extension().is_some_and(|end| end == "rs") {
            *files += 1;
            let text = fs::read_to_string(&path).unwrap();
            let stem = path.file_stem().unwrap().to_string_lossy().into_owned();
            let replaced =
                identifiers(&text).into_iter().chain([stem]).filter(|name| REPLACED.contains(&name.as_str()));
            found.extend(replaced.map(|name| format!("{}: {name}", path.display())));
        }
    }
}

#[test]
fn replaced_names_are_not_used() {
    let (mut found, mut files) = (Vec::new(), 0);
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    for entry in fs::read_dir(crates).unwrap() {
        look(&entry.unwrap().path().join("src"), &mut found, &mut files);
    }
    assert!(files > 300, "{files}");
    found.sort();
    found.dedup();
    assert!(found.is_empty(), "names that have a plainer one:\n{}", found.join("\n"));
}

#[test]
fn the_test_reads_identifiers() {
    let text = "fn one(two: Three) { \"four \\\" five\"; // six\n}\nlet c = '\"'; seven";
    assert_eq!(identifiers(text), ["fn", "one", "two", "Three", "let", "c", "seven"]);
}
