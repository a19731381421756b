//! What deserves an objection: from the standard, and from what practitioners get wrong.

mod described;
mod protection;
mod readings;
mod record;
mod site;
mod sizes;
mod sources;

use crate::job::{File, Place};
use serde_json::Value;

/// A mistake, and the codes by which it may be found.
pub struct Mistake {
    pub group: &'static str,
    pub name: &'static str,
    pub codes: &'static [&'static str],
    pub make: fn(&mut File) -> Option<Place>,
}

const fn m(
    group: &'static str,
    name: &'static str,
    codes: &'static [&'static str],
    make: fn(&mut File) -> Option<Place>,
) -> Mistake {
    Mistake { group, name, codes, make }
}

fn remove(value: &mut Value, key: &str) {
    value.as_object_mut().expect("an object").remove(key);
}

/// Anywhere.
const EVERYWHERE: Place = Place::new();

/// All of them.
pub fn all() -> impl Iterator<Item = &'static Mistake> {
    [sizes::ALL, protection::ALL, sources::ALL, site::ALL, record::ALL, described::ALL, readings::ALL]
        .into_iter()
        .flatten()
}
