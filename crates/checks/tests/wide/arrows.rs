//! Which file uses which: the modules of a crate stand in order, and no two files depend on each other, also through a
//! `mod.rs` or a re-export. What crosses a crate is held by the compiler.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

/// A module or an item, from the crate inward: `["work", "actions", "card"]`.
type Full = Vec<String>;

/// The crates of the core: in each, a module uses only what stands above it in `lib.rs`.
const CORE: [&str; 5] = ["standard", "physics", "job", "judge", "work"];

fn crates() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
}

/// The code of a file: without its comments and its tests.
fn code(text: &str) -> String {
    let code = text.split("#[cfg(test)]").next().unwrap_or_default();
    code.lines().map(|line| line.split("//").next().unwrap_or_default()).collect::<Vec<_>>().join("\n")
}

/// A name of an identifier or a path begins at the end of this text: nothing of either stands before it.
fn begins(before: &str) -> bool {
    !before.ends_with(|c: char| c.is_alphanumeric() || matches!(c, '_' | ':' | '$'))
}

struct Source {
    files: BTreeMap<Full, String>,
    /// What each file calls by a name of its own: name to what it stands for, and whether it only hands it on.
    names: BTreeMap<Full, BTreeMap<String, Full>>,
}

impl Source {
    fn for_crate(name: &str) -> Self {
        let mut source = Self { files: BTreeMap::new(), names: BTreeMap::new() };
        source.add(&[name.to_owned()], &crates().join(name).join("src"));
        for (module, text) in &source.files {
            let names = uses(text).into_iter().flat_map(|one| one.leaves);
            let names = names.filter_map(|(name, path)| Some((name, source.full(module, &path)?)));
            let names = names.collect();
            source.names.insert(module.clone(), names);
        }
        source
    }

    fn add(&mut self, module: &[String], folder: &Path) {
        for entry in fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            let stem = path.file_stem().unwrap().to_string_lossy().into_owned();
            let mut inner = module.to_vec();
            if path.is_dir() {
                inner.push(stem);
                self.add(&inner, &path);
            } else if path.extension().is_some_and(|end| end == "rs") && !stem.ends_with("tests") {
                if !matches!(&*stem, "mod" | "lib" | "main") {
                    inner.push(stem);
                }
                self.files.insert(inner, code(&fs::read_to_string(&path).unwrap()));
            }
        }
    }

    /// A path as written in a file, from the crate inward; none when it leads out of the crate.
    fn full(&self, module: &[String], path: &[String]) -> Option<Full> {
        let supers = path.iter().take_while(|part| *part == "super").count();
        let from = match path.first()?.as_str() {
            "crate" => &module[..1],
            "self" => module,
            _ if supers > 0 => &module[..module.len().checked_sub(supers)?],
            first => {
                let mut child = module.to_vec();
                child.push(first.to_owned());
                return self.files.contains_key(&child).then(|| [module, path].concat());
            }
        };
        Some([from, &path[supers.max(1)..]].concat())
    }

    /// The file where a thing is defined: through every re-export on the way.
    fn home(&self, path: &[String], seen: &mut BTreeSet<Full>) -> Option<Full> {
        if !seen.insert(path.to_vec()) {
            return None;
        }
        let depth = (1..=path.len()).rev().find(|depth| self.files.contains_key(&path[..*depth]))?;
        let (module, inside) = path.split_at(depth);
        let handed_on = inside.first().and_then(|name| self.names[module].get(name));
        handed_on
            .and_then(|to| self.home(&[to.as_slice(), &inside[1..]].concat(), seen))
            .or_else(|| Some(module.to_vec()))
    }

    /// The files that each file uses.
    fn edges(&self) -> BTreeMap<&Full, BTreeSet<Full>> {
        let mut edges = BTreeMap::new();
        for (module, text) in &self.files {
            let (all, body) = (uses(text), without_uses(text));
            let mut used: Vec<Full> = Vec::new();
            for (_, path) in all.iter().filter(|one| !one.public).flat_map(|one| &one.leaves) {
                used.extend(self.full(module, path));
            }
            // What is handed on counts where the file uses it itself.
            for (name, path) in all.iter().filter(|one| one.public).flat_map(|one| &one.leaves) {
                if is_named(&body, name) {
                    used.extend(self.full(module, path));
                }
            }
            for path in paths(&body) {
                let known = self.full(module, &path).or_else(|| {
                    let to = self.names[module].get(&path[0])?;
                    Some([to.as_slice(), &path[1..]].concat())
                });
                used.extend(known);
            }
            let homes = used.iter().filter_map(|path| self.home(path, &mut BTreeSet::new()));
            edges.insert(module, homes.filter(|home| home != module).collect());
        }
        edges
    }
}

struct Use {
    public: bool,
    leaves: Vec<(String, Full)>,
}

/// Where each `use` of a file begins and ends.
fn statements(text: &str) -> Vec<(usize, usize)> {
    let found = text.match_indices("use ").filter(|(at, _)| {
        let line = text[..*at].rsplit('\n').next().unwrap_or_default().trim();
        line.is_empty() || line.starts_with("pub")
    });
    found.filter_map(|(at, _)| Some((at, at + text[at..].find(';')?))).collect()
}

fn uses(text: &str) -> Vec<Use> {
    let one = |(from, to): (usize, usize)| {
        let before = text[..from].rsplit('\n').next().unwrap_or_default();
        let mut leaves = Vec::new();
        tree(&[], &text[from + 4..to], &mut leaves);
        Use { public: before.trim_start().starts_with("pub"), leaves }
    };
    statements(text).into_iter().map(one).collect()
}

fn without_uses(text: &str) -> String {
    let (mut out, mut at) = (String::new(), 0);
    for (from, to) in statements(text) {
        out.push_str(&text[at..from]);
        at = to;
    }
    out + &text[at..]
}

/// Every name that a tree of `use` brings, with its path.
fn tree(before: &[String], written: &str, out: &mut Vec<(String, Full)>) {
    let segments = |text: &str| -> Full {
        text.split("::").map(str::trim).filter(|part| !part.is_empty()).map(str::to_owned).collect()
    };
    let written = written.trim();
    if let Some((head, group)) = written.split_once('{') {
        let group = group.rsplit_once('}').map_or(group, |(group, _)| group);
        let inner = [before, &segments(head)].concat();
        let (mut depth, mut from) = (0, 0);
        for (at, c) in group.char_indices().chain([(group.len(), ',')]) {
            match c {
                '{' => depth += 1,
                '}' => depth -= 1,
                ',' if depth == 0 => {
                    tree(&inner, &group[from..at.min(group.len())], out);
                    from = at + 1;
                }
                _ => {}
            }
        }
    } else if !written.is_empty() {
        let (path, alias) = written.split_once(" as ").unwrap_or((written, ""));
        let mut path = [before, &segments(path)].concat();
        if path.last().is_some_and(|last| last == "self") {
            path.pop();
        }
        let name = if alias.is_empty() { path.last().cloned().unwrap_or_default() } else { alias.trim().to_owned() };
        out.push((name, path));
    }
}

/// Paths of two parts and more in the body of a file.
fn paths(body: &str) -> Vec<Full> {
    let starts = body.char_indices().filter(|(at, c)| (c.is_alphabetic() || *c == '_') && begins(&body[..*at]));
    let whole = starts.map(|(at, _)| {
        let end = body[at..].find(|c: char| !(c.is_alphanumeric() || matches!(c, '_' | ':')));
        body[at..].split_at(end.unwrap_or(body.len() - at)).0
    });
    let parts = whole.filter(|path| path.contains("::"));
    parts.map(|path| path.split("::").filter(|part| !part.is_empty()).map(str::to_owned).collect()).collect()
}

/// Whether a body names this.
fn is_named(body: &str, name: &str) -> bool {
    body.match_indices(name).any(|(at, _)| {
        let after = body[at + name.len()..].chars().next();
        begins(&body[..at]) && !after.is_some_and(|c| c.is_alphanumeric() || c == '_')
    })
}

/// Files from which one comes back to them: each with what it uses that leads back.
fn circles(edges: &BTreeMap<&Full, BTreeSet<Full>>) -> Vec<String> {
    let reach = |start: &Full| {
        let (mut seen, mut open) = (BTreeSet::new(), vec![start.clone()]);
        while let Some(at) = open.pop() {
            for next in edges.get(&at).into_iter().flatten() {
                if seen.insert(next.clone()) {
                    open.push(next.clone());
                }
            }
        }
        seen
    };
    let reach: BTreeMap<&Full, BTreeSet<Full>> = edges.keys().map(|file| (*file, reach(file))).collect();
    let back = |file: &Full| {
        let leads = edges[file].iter().filter(|next| reach.get(next).is_some_and(|reached| reached.contains(file)));
        let leads: Vec<String> = leads.map(|next| next.join("::")).collect();
        (!leads.is_empty()).then(|| format!("{} uses {}", file.join("::"), leads.join(", ")))
    };
    edges.keys().filter_map(|file| back(file)).collect()
}

#[test]
fn modules_of_the_core_stand_in_order() {
    let mut wrong = Vec::new();
    for name in CORE {
        let lib = fs::read_to_string(crates().join(name).join("src/lib.rs")).unwrap();
        let order: Vec<&str> =
            lib.lines().filter_map(|line| line.strip_prefix("pub mod ")?.strip_suffix(';')).collect();
        assert!(order.len() > 1, "{name}: {order:?}");
        let place = |module: &[String]| order.iter().position(|other| *other == module[1]);
        for (module, used) in Source::for_crate(name).edges() {
            let later = used.iter().filter(|used| used.len() > 1 && module.len() > 1 && place(used) > place(module));
            wrong.extend(later.map(|used| format!("{} uses {}", module.join("::"), used.join("::"))));
        }
    }
    assert!(wrong.is_empty(), "uses what stands below:\n{}", wrong.join("\n"));
}

#[test]
fn no_two_files_depend_on_each_other() {
    let mut names: Vec<String> = fs::read_dir(crates())
        .unwrap()
        .map(|entry| entry.unwrap().file_name().to_string_lossy().into_owned())
        .collect();
    names.sort();
    assert!(names.len() > 10, "{names:?}");
    let tied: Vec<String> = names.iter().flat_map(|name| circles(&Source::for_crate(name).edges())).collect();
    assert!(tied.is_empty(), "files that depend on each other:\n{}", tied.join("\n"));
}

#[test]
fn the_test_follows_re_exports_and_groups() {
    let text = "mod a;\npub use a::{One, b::{Two as Second, self}};\nuse super::C;\nfn f() { a::g(x::y); Second }";
    let names: Vec<String> = uses(text).into_iter().flat_map(|one| one.leaves).map(|(name, _)| name).collect();
    assert_eq!(names, ["One", "Second", "b", "C"]);
    let file = |path: &str| path.split("::").map(str::to_owned).collect::<Full>();
    let mut source = Source { files: BTreeMap::new(), names: BTreeMap::new() };
    source.files.insert(file("work::room"), "pub use inner::Thing;\nfn all() { inner::go(); }".to_owned());
    source.files.insert(file("work::room::inner"), "use super::Thing as Own;\npub struct Thing;".to_owned());
    source.files.insert(file("work::other"), "use crate::room::Thing;".to_owned());
    for (module, text) in &source.files {
        let names = uses(text).into_iter().flat_map(|one| one.leaves);
        let names = names.filter_map(|(name, path)| Some((name, source.full(module, &path)?))).collect();
        source.names.insert(module.clone(), names);
    }
    let edges = source.edges();
    // Another file's use of what the module hands on leads to the file that defines it.
    assert_eq!(edges[&file("work::other")], BTreeSet::from([file("work::room::inner")]));
    assert_eq!(edges[&file("work::room")], BTreeSet::from([file("work::room::inner")]));
    assert!(circles(&edges).is_empty());
    source.files.insert(file("work::room::inner"), "pub struct Thing;\nfn back() { super::all() }".to_owned());
    assert_eq!(circles(&source.edges()).len(), 2);
}
