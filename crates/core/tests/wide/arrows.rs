//! The rooms of the core stand in order: each uses only what stands above it in `lib.rs`, and no two
//! files of a room lean on each other in a circle.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

fn source() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("src")
}

/// The rooms in the order of `lib.rs`.
fn rooms() -> Vec<String> {
    let lib = fs::read_to_string(source().join("lib.rs")).unwrap();
    let name = |line: &str| Some(line.strip_prefix("pub mod ")?.strip_suffix(';')?.to_owned());
    lib.lines().filter_map(name).collect()
}

/// Every file, as the path of its module, with its text up to its tests.
fn files(folder: &Path, found: &mut BTreeMap<String, String>) {
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            files(&path, found);
        } else if path.extension().is_some_and(|end| end == "rs") {
            let inside = path.strip_prefix(source()).unwrap().with_extension("");
            let module = inside.to_string_lossy().trim_end_matches("/mod").replace('/', "::");
            let text = fs::read_to_string(&path).unwrap();
            let code = text.split("#[cfg(test)]").next().unwrap_or_default();
            let lines = code.lines().map(|line| line.split("//").next().unwrap_or_default());
            found.insert(module, lines.collect::<Vec<_>>().join("\n"));
        }
    }
}

/// Paths that begin with `crate::`, a group in braces as each of its paths.
fn uses(code: &str) -> Vec<String> {
    let mut all = Vec::new();
    for part in code.split("crate::").skip(1) {
        let end = part.find(|c: char| !(c.is_alphanumeric() || "_:{}, \n".contains(c))).unwrap_or(part.len());
        let path = part[..end].split(';').next().unwrap_or_default();
        match path.split_once('{') {
            Some((head, group)) if head.chars().all(|c| c.is_alphanumeric() || "_:".contains(c)) => {
                let group = group.split('}').next().unwrap_or_default();
                all.extend(group.split(',').map(|one| format!("{head}{}", one.trim())));
            }
            _ => all.push(path.split([' ', ',', '\n', '{', '}']).next().unwrap_or_default().to_owned()),
        }
    }
    all
}

#[test]
fn arrows_point_upward() {
    let rooms = rooms();
    assert!(rooms.len() > 15, "{rooms:?}");
    let mut all = BTreeMap::new();
    files(&source(), &mut all);
    let place = |room: &str| rooms.iter().position(|other| other == room);
    let mut wrong = Vec::new();
    for (module, code) in all.iter().filter(|(module, _)| *module != "lib") {
        let own = module.split("::").next().unwrap();
        let here = place(own).unwrap_or_else(|| panic!("{own} is no room of lib.rs"));
        for used in uses(code) {
            let room = used.split("::").next().unwrap_or_default();
            match place(room) {
                Some(there) if there > here => wrong.push(format!("{module} uses {used}")),
                _ => {}
            }
        }
    }
    assert!(wrong.is_empty(), "arrows that point down:\n{}", wrong.join("\n"));
}

/// The files of a room that a file names, by `crate::room::file` or `super::file`.
fn beside(module: &str, code: &str, all: &BTreeMap<String, String>) -> BTreeSet<String> {
    let room = module.rsplit_once("::").map_or(module, |(room, _)| room);
    let by_crate = uses(code).into_iter();
    let by_super = code.split("super::").skip(1).map(|part| {
        let end = part.find(|c: char| !(c.is_alphanumeric() || c == '_')).unwrap_or(part.len());
        format!("{room}::{}", &part[..end])
    });
    let file = |path: String| {
        let mut path = path;
        while !all.contains_key(&path) {
            path = path.rsplit_once("::")?.0.to_owned();
        }
        Some(path)
    };
    by_crate.chain(by_super).filter_map(file).filter(|other| other != module && other.contains("::")).collect()
}

#[test]
fn no_two_files_lean_on_each_other() {
    let mut all = BTreeMap::new();
    files(&source(), &mut all);
    let edges: BTreeMap<&String, BTreeSet<String>> =
        all.iter().filter(|(module, _)| module.contains("::")).map(|(m, code)| (m, beside(m, code, &all))).collect();
    let mut circles = Vec::new();
    for start in edges.keys() {
        let (mut seen, mut open) = (BTreeSet::new(), vec![(*start).clone()]);
        while let Some(at) = open.pop() {
            for next in edges.get(&at).into_iter().flatten() {
                if next == *start {
                    circles.push(format!("{start} → … → {at} → {start}"));
                }
                if seen.insert(next.clone()) {
                    open.push(next.clone());
                }
            }
        }
    }
    assert!(circles.is_empty(), "circles between files:\n{}", circles.join("\n"));
}

#[test]
fn the_test_itself_reads_groups() {
    let code = "use crate::a::{b, c};\nuse crate::d::E;\nlet x = crate::f::g(1);";
    assert_eq!(uses(code), ["a::b", "a::c", "d::E", "f::g"]);
}
