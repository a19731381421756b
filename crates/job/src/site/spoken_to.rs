//! Whom to speak to before power, or before the earth comes off: who isolated it with a lock of his own, who left a way
//! dead, whose earthing conductor was put back by another. A program records and reminds; padlock and indicator decide.

use super::state::{Since, Site, is_same_person};
use crate::installation::{Feed, Installation};
use jiff::Timestamp;
use std::fmt;
use uuid::Uuid;

/// What somebody did, for which his word is asked.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Did {
    /// Isolated it.
    Isolated,
    /// Left it dead for later.
    LockedOff,
    /// Took the earthing conductor off, which another put back.
    EarthOff,
}

/// Somebody who is spoken to first.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct IsolatedBy {
    /// By name.
    pub name: String,
    /// What he did.
    pub did: Did,
    /// Of what: a board or a way.
    pub of: String,
    /// When.
    pub at: Timestamp,
    /// His lock, and who keeps its key; empty where there is none.
    pub lock: String,
}

impl fmt::Display for IsolatedBy {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { name, did, of, at, lock } = self;
        let at = at.to_zoned(jiff::tz::TimeZone::UTC).strftime("%-d %b %Y %H:%M UTC");
        match did {
            Did::Isolated => write!(f, "{name} isolated {of} on {at}, lock: {lock}"),
            Did::LockedOff => write!(f, "{name} left {of} dead on {at}, lock: {lock}"),
            Did::EarthOff => {
                write!(f, "{name} took the earthing conductor off at {of} on {at}, and another put it back")
            }
        }
    }
}

/// Everybody but `by` whose word is asked before some ways of a board (none: all) come to power.
pub fn before_power(
    installation: &Installation,
    site: &Site<'_>,
    (board, ways): (Uuid, &[Uuid]),
    by: &str,
) -> Vec<IsolatedBy> {
    let board_name = || installation.board(board).map_or_else(String::new, |one| one.name.clone());
    let way_name = |id: Uuid| installation.circuit(id).map_or_else(String::new, |one| format!("way {}", one.way));
    let mut people = Vec::new();
    let mut add = |did: Did, (at, name): Since<'_>, of: String, lock: &str| {
        if !is_same_person(name, by) {
            people.push(IsolatedBy { name: name.to_owned(), did, of, at, lock: lock.to_owned() });
        }
    };
    if let Some(isolated) = site.isolated(board) {
        add(Did::Isolated, isolated.since, board_name(), isolated.lock);
    }
    let concerned = |id: &Uuid| ways.is_empty() || ways.contains(id);
    for id in site.all_alone(board).iter().filter(|id| concerned(id)) {
        let alone = site.alone(board, *id);
        if let Some((alone, since)) = alone.and_then(|alone| Some((alone, alone.since?))) {
            add(Did::Isolated, since, way_name(*id), alone.lock);
        }
    }
    for left in site.left_dead().iter().filter(|left| left.board == board && concerned(&left.circuit)) {
        add(Did::LockedOff, left.since, way_name(left.circuit), left.lock);
    }
    if let Some(restored) = site.earth_restored(board) {
        add(Did::EarthOff, restored.off, board_name(), "");
    }
    people
}

/// Everybody but `by` whose word is asked before the earthing conductor comes off: an earth serves every board on the
/// supply.
pub fn before_exposure(installation: &Installation, site: &Site<'_>, by: &str) -> Vec<IsolatedBy> {
    let fed = installation.boards.iter().filter(|board| board.fed_by == Feed::Supply);
    let of = |id: Uuid| before_power(installation, site, (id, &[]), by);
    let mut people: Vec<IsolatedBy> = fed.flat_map(|board| of(board.id)).collect();
    people.retain(|person| person.did != Did::LockedOff);
    people
}

/// Those of some people who are not named in what was written of whom one spoke to. A name is its words in a row,
/// whatever stands between them: "Kell, Idris" is found in "Kell, Idris; Odile Wren".
pub fn not_spoken_to<'a>(people: &'a [IsolatedBy], written: &str) -> Vec<&'a IsolatedBy> {
    let said = words(written);
    let is_named = |name: &str| {
        let name_words = words(name);
        // A name without a letter or a digit is sought as it stands.
        if name_words.is_empty() {
            written.contains(name.trim())
        } else {
            said.windows(name_words.len()).any(|some| some == name_words)
        }
    };
    people.iter().filter(|person| !is_named(&person.name)).collect()
}

fn words(text: &str) -> Vec<String> {
    let word = text.split(|letter: char| !letter.is_alphanumeric()).filter(|word| !word.is_empty());
    word.map(str::to_lowercase).collect()
}
