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
mod source;
pub mod supply;
pub mod usual;
pub mod voltages;

pub use edition::{Edition, EditionId};
pub use source::{LimitRow, OWN_COPY, Source};

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
