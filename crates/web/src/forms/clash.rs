//! Two editors of one description: what the other changed, field by field, beside what was typed.

use super::{Clash, Fields, spoken};
use askama::Template;

#[derive(Template)]
#[template(path = "clashes.html")]
struct Clashes<'a> {
    clashes: &'a [Clash],
    base_known: bool,
}

/// As two texts are compared: a browser ends lines otherwise.
fn plain(text: &str) -> String {
    text.replace("\r\n", "\n").trim().to_owned()
}

impl Fields {
    /// Lays what others changed beside what was typed: `shown` is what the form was made from, where that is
    /// known, `now` is what stands. A field that only they changed takes theirs; whether there was any.
    pub(crate) fn merge(&mut self, shown: Option<&Self>, now: &Self) -> bool {
        let mut names: Vec<String> =
            now.values.iter().chain(shown.iter().flat_map(|one| &one.values)).map(|(name, _)| name.clone()).collect();
        names.sort();
        names.dedup();
        self.base_known = shown.is_some();
        for name in names {
            let (theirs, yours) = (plain(now.get(&name)), plain(self.get(&name)));
            let unchanged = shown.is_some_and(|shown| plain(shown.get(&name)) == theirs);
            if unchanged || theirs == yours {
                continue;
            }
            let both = shown.is_none_or(|shown| plain(shown.get(&name)) != yours);
            if !both {
                self.set(&name, now.get(&name));
            }
            self.clashes.push(Clash { field: spoken(&name), name, theirs, yours, both });
        }
        !self.clashes.is_empty()
    }

    /// What others changed meanwhile, drawn; nothing where nobody did.
    pub(crate) fn clashes(&self) -> String {
        if self.clashes.is_empty() {
            return String::new();
        }
        Clashes { clashes: &self.clashes, base_known: self.base_known }.render().unwrap_or_default()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn from_values(fields: [(&str, &str); 3]) -> Fields {
        Fields::from_values(fields.map(|(name, value)| (name, value.to_owned())))
    }

    #[test]
    fn what_only_they_changed_is_taken_and_what_both_did_is_shown() {
        let shown = from_values([("way", "1"), ("name", "Lights"), ("extent", "a\nb")]);
        let now = from_values([("way", "2"), ("name", "Lamps"), ("extent", "a\nb")]);
        let mut mine = from_values([("way", "1"), ("name", "Bench lights"), ("extent", "a\r\nb")]);
        assert!(mine.merge(Some(&shown), &now));
        assert_eq!((mine.get("way"), mine.get("name")), ("2", "Bench lights"));
        let told: Vec<(&str, bool)> = mine.clashes.iter().map(|one| (one.field.as_str(), one.both)).collect();
        assert_eq!(told, [("name", true), ("way", false)]);
        // Elsewhere changed: nothing to show.
        assert!(!from_values([("way", "1"), ("name", "L"), ("extent", "c")]).merge(Some(&shown), &shown));
        // What the form was made from is not known: whatever differs is shown.
        let mut mine = from_values([("way", "1"), ("name", "Lamps"), ("extent", "a\nb")]);
        assert!(mine.merge(None, &now));
        assert_eq!((mine.clashes.len(), mine.get("way")), (1, "1"));
    }
}
