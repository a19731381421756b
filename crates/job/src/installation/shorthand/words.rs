//! The words of the language: told apart, listed for people, and told when one is nearly right.

use super::draft::Draft;
use std::borrow::Cow;

/// Splits at spaces; what stands in quotes is the description.
pub(super) fn split(line: &str, draft: &mut Draft) -> Vec<String> {
    let line = line.replace(['“', '”'], "\"").replace(['‘', '’'], "'");
    let line = double_quoted(&line);
    let mut words = Vec::new();
    for (index, part) in line.split('"').enumerate() {
        if index % 2 == 1 {
            draft.quoted = Some(part.split_whitespace().collect::<Vec<_>>().join(" "));
        } else {
            words.extend(part.split_whitespace().map(str::to_owned));
        }
    }
    if line.matches('"').count() % 2 == 1 {
        draft.problems.push("A quote is opened and not closed: end the description with \".".to_owned());
    }
    words
}

/// Single quotes as double ones: from the first that begins a word to the last that ends one. An apostrophe
/// within a word stays, and so does what stands within double quotes.
fn double_quoted(line: &str) -> Cow<'_, str> {
    let opens = if line.starts_with('\'') { Some(0) } else { line.find(" '").map(|at| at + 1) };
    let closes = if line.trim_end().ends_with('\'') { Some(line.trim_end().len() - 1) } else { line.rfind("' ") };
    match (opens, closes) {
        (Some(opens), Some(closes)) if opens < closes && !line.contains('"') => {
            Cow::Owned(format!("{}\"{}\"{}", &line[..opens], &line[opens + 1..closes], &line[closes + 1..]))
        }
        _ => Cow::Borrowed(line),
    }
}

/// The language, a word and what it says.
pub const WORDS: &[(&str, &str)] = &[
    ("3, 1L2", "way of the board (a number, or a number and its line)"),
    (
        "ring, radial, lights, board",
        "how it runs and what it feeds; radial sockets if left out, fixed for fixed equipment",
    ),
    ("B32, C16, D10", "circuit-breaker to BS EN 60898, type and rating"),
    ("RCBO B32, RCBO C16/100", "RCBO to BS EN 61009; 30 mA, or as given after the stroke"),
    ("gG 63, 3036 30, 88-3 32, 1362 13", "fuse to BS 88-2, BS 3036, BS 88-3, BS 1362, and its rating"),
    ("6kA", "breaking capacity"),
    ("2.5/1.5, 2.5, 6/6/2.5", "line/CPC, or line/neutral/CPC, mm²; one size alone takes its twin-and-earth CPC"),
    ("4/-/2.5", "line, no neutral, CPC: a three-phase circuit without a neutral"),
    ("54m", "whole length of cable"),
    ("9pts", "number of points"),
    ("legs 6,9,4.5,11,12.5", "lengths of the legs in order, m; on a ring the last leads back to the board"),
    ("ref C, ref 103", "reference method"),
    ("armoured, singles, mineral, flex", "kind of cable; twin-and-earth where its sizes are a usual pair"),
    ("industrial 32", "industrial outlets (BS EN 60309) of that rating"),
    ("N4 E4", "terminal of its neutral, terminal of its CPC"),
    ("3ph", "three phase"),
    ("existing", "existing wiring"),
    ("work 5, work 5,6", "the points that are the work, in the order of the cable; the others stood before"),
    ("\"Press room\"", "description, in quotes (or whatever words are left)"),
];

/// Words that a slip of the keys is told by, at four letters or more.
const KNOWN: &[&str] = &[
    "ring",
    "radial",
    "lights",
    "lighting",
    "sockets",
    "board",
    "fixed",
    "existing",
    "legs",
    "method",
    "armoured",
    "singles",
    "mineral",
    "industrial",
    "rcbo",
];

/// Whether a word says what a circuit serves.
pub(super) fn serves(lower: &str) -> bool {
    matches!(lower, "light" | "lights" | "lighting" | "socket" | "sockets" | "board")
}

/// Words of the language that are plain English, and so may stand in a name.
pub(super) fn may_be_name(lower: &str) -> bool {
    let other = ["ring", "radial", "fixed", "new", "existing", "singles", "mineral", "flex", "flexible", "armoured"];
    serves(lower) || other.contains(&lower)
}

/// Whether a word can only be one of a name: letters, and none of the language.
pub(super) fn is_name(word: &str) -> bool {
    let lower = word.trim_end_matches(',').to_lowercase();
    let of_language = |known: &&str| **known == lower;
    let spoken =
        ["rfc", "rad", "light", "socket", "3ph", "1ph", "tp", "tpn", "mcb", "swa", "micc", "ref", "leg", "work", "gg"];
    let letters =
        lower.chars().count() > 1 && lower.chars().all(|c| c.is_alphabetic() || matches!(c, '-' | '\'' | '&'));
    letters && !may_be_name(&lower) && !KNOWN.iter().any(of_language) && !spoken.contains(&lower.as_str())
}

/// Whether one letter more, less, other, or two changed round make one word of the other.
fn one_slip(a: &str, b: &str) -> bool {
    let (a, b): (Vec<char>, Vec<char>) = (a.chars().collect(), b.chars().collect());
    let same = a.iter().zip(&b).take_while(|(a, b)| a == b).count();
    let (a, b) = (&a[same..], &b[same..]);
    let turned =
        |a: &[char], b: &[char]| a.len() > 1 && b.len() > 1 && a[0] == b[1] && a[1] == b[0] && a[2..] == b[2..];
    match a.len().cmp(&b.len()) {
        std::cmp::Ordering::Equal => !a.is_empty() && (a[1..] == b[1..] || turned(a, b)),
        std::cmp::Ordering::Greater => a[1..] == *b,
        std::cmp::Ordering::Less => *a == b[1..],
    }
}

/// The word of the language that a word is one slip from.
pub(super) fn nearest(word: &str) -> Option<&'static str> {
    let lower = word.to_lowercase();
    if lower.chars().count() < 3 {
        return None;
    }
    KNOWN.iter().find(|known| one_slip(&lower, known)).copied()
}

#[cfg(test)]
mod tests {
    use super::nearest;

    #[test]
    fn slips_of_the_keys() {
        for (word, meant) in [
            ("rng", Some("ring")),
            ("rign", Some("ring")),
            ("riing", Some("ring")),
            ("Lihgts", Some("lights")),
            ("bord", Some("board")),
            ("legss", Some("legs")),
            ("ring", None),
            ("bench", None),
            ("sock", None),
            ("é", None),
        ] {
            assert_eq!(nearest(word), meant, "{word}");
        }
    }
}
