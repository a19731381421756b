//! The standard as data: every limit, constant and table, each with its source.
//!
//! A number from a standard stands here once. Values marked `from_memory` were written down
//! from memory of the published table: check against your own copy.

/// Names the sources of a table with their titles; the reference pages list them by these.
macro_rules! sources {
    ($($(#[$doc:meta])* $name:ident: $title:literal = $source:expr;)+) => {
        $(#[doc = $title] $(#[$doc])* pub const $name: Source = $source;)+
        pub(super) const SOURCES: &[(&str, Source)] = &[$(($title, $name)),+];
    };
}

pub mod capacity;
pub mod conductors;
pub mod devices;
pub mod earthing;
pub mod edition;
pub mod energy;
pub mod inspection;
pub mod insulation;
pub mod outlets;
pub mod rcd;
pub mod ring;
pub mod supply;
pub mod usual;
pub mod voltages;

pub use edition::{Edition, EditionId};

/// The document of what has no published source.
const PRACTICE: &str = "common practice";

/// The source of a row of the firm's own copy: its document and page stand in the job.
pub const OWN_COPY: Source =
    Source::published("the firm's own copy", "see the rows of the job", "confirmed or corrected by a licensed person");

/// Where a number comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Source {
    /// Document, such as `BS 7671` or `BS EN 60228`; `common practice` when there is none.
    pub document: &'static str,
    /// Table, regulation or clause; empty only for common practice.
    pub place: &'static str,
    /// Under what condition it holds.
    pub condition: &'static str,
    /// Written down from memory of the published table.
    pub from_memory: bool,
}

impl Source {
    /// A published source, checked against the text that the project works from.
    pub const fn published(document: &'static str, place: &'static str, condition: &'static str) -> Self {
        Self { document, place, condition, from_memory: false }
    }

    /// A published source, from memory.
    pub const fn memory(document: &'static str, place: &'static str, condition: &'static str) -> Self {
        Self { document, place, condition, from_memory: true }
    }

    /// Common practice of the trade; no published source.
    pub const fn practice(condition: &'static str) -> Self {
        Self { document: PRACTICE, place: "no source", condition, from_memory: false }
    }

    /// Whether this is a fact of the trade without a published source.
    pub fn is_practice(&self) -> bool {
        self.document == PRACTICE
    }

    /// The source on one line, as shown beside a verdict.
    pub fn line(&self) -> String {
        let mut text = if self.is_practice() {
            "common practice, no source".to_owned()
        } else {
            format!("{} {}", self.document, self.place)
        };
        if !self.condition.is_empty() {
            text.push_str(" (");
            text.push_str(self.condition);
            text.push(')');
        }
        if self.from_memory {
            text.push_str(", from memory: check against your own copy");
        }
        text
    }
}

/// A limit or constant: what it is, and where it comes from. No value stands without its source.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Row<T> {
    /// The value, in the unit that the name of its accessor or its type says.
    pub value: T,
    /// Where it comes from.
    pub source: Source,
}

impl<T> Row<T> {
    /// A row.
    pub const fn new(value: T, source: Source) -> Self {
        Self { value, source }
    }
}

/// A row is used as its value; where it comes from stands beside it.
impl<T> std::ops::Deref for Row<T> {
    type Target = T;

    fn deref(&self) -> &T {
        &self.value
    }
}

/// Every source in the tables, with the name of its table: for the reference pages and the
/// test that none is empty.
pub fn sources() -> Vec<(&'static str, Source)> {
    let mut all = Vec::new();
    for list in [
        supply::SOURCES,
        conductors::SOURCES,
        devices::SOURCES,
        outlets::SOURCES,
        energy::SOURCES,
        ring::SOURCES,
        capacity::SOURCES,
        insulation::SOURCES,
        earthing::SOURCES,
        rcd::SOURCES,
        usual::SOURCES,
        voltages::SOURCES,
        inspection::SOURCES,
    ] {
        all.extend_from_slice(list);
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_table_names_its_source() {
        let all = sources();
        assert!(all.len() > 30, "only {} sources", all.len());
        for (table, source) in all {
            assert!(!table.is_empty());
            assert!(!source.document.is_empty(), "{table}");
            assert!(!source.place.is_empty(), "{table}");
            assert!(!source.is_practice() || !source.condition.is_empty(), "{table}: practice must say what it covers");
        }
    }

    #[test]
    fn table_names_are_unique() {
        let mut names: Vec<_> = sources().into_iter().map(|(name, _)| name).collect();
        names.sort_unstable();
        let before = names.len();
        names.dedup();
        assert_eq!(before, names.len());
    }
}
