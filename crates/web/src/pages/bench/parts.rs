//! What the page of an exercise is made of.

use crate::forms::Fields;
use proof_bench::practice::Ask;
use proof_bench::rig::Rig;
use proof_bench::rig::terminal::{Fixed, Side, Terminal, Wire};
use proof_store::Practice;

/// A terminal to press.
pub(crate) struct Spot {
    pub key: String,
    pub act: String,
    pub letter: &'static str,
    /// A conductor is round, anything else square.
    pub round: bool,
    pub spoken: String,
    /// The probes that are on it.
    pub probes: Vec<usize>,
}

/// Something with two states; pressed it takes the other.
pub(crate) struct Toggle {
    pub key: String,
    pub act: String,
    pub label: String,
    pub on: bool,
}

/// A place with terminals: an accessory, an end of a circuit.
pub(crate) struct Place {
    pub name: String,
    pub beside: String,
    pub spots: Vec<Spot>,
    pub toggles: Vec<Toggle>,
    pub spur: bool,
    /// What is said when the fault is pointed at here, where it may be.
    pub here: Option<Pointer>,
}

/// Something that may be pointed at.
pub(crate) struct Pointer {
    /// Field and value.
    pub value: String,
    pub words: String,
    pub on: bool,
    /// What stands on it; of a figure, its words.
    pub says: &'static str,
}

/// A schedule whose figures are pointed at: its head, its columns, its rows.
pub(crate) struct PointedSchedule {
    pub head: Vec<(&'static str, Pointer)>,
    pub columns: Vec<&'static str>,
    pub rows: Vec<(String, Vec<Pointer>)>,
}

/// The bars of a sub-board.
pub(crate) struct Sub {
    pub name: String,
    pub spots: Vec<Spot>,
    pub throw: Toggle,
}

/// One of a row to choose from.
pub(crate) struct Pick {
    pub key: &'static str,
    pub act: String,
    pub label: &'static str,
    pub on: bool,
}

/// A question with what was answered.
pub(crate) struct AskedField {
    pub name: &'static str,
    pub label: &'static str,
    /// Key and words; empty: a figure.
    pub of: Vec<(String, String)>,
    pub value: String,
    /// It is pointed at.
    pub pointed: bool,
}

pub(crate) const fn wire_class(wire: Wire) -> &'static str {
    match wire {
        Wire::L1 => "line",
        Wire::L2 => "line 2",
        Wire::L3 => "line 3",
        Wire::N => "neutral",
        Wire::E => "earth",
        Wire::S1 => "strapper 1",
        Wire::S2 => "strapper 2",
        Wire::S3 => "strapper 1 onward",
        Wire::S4 => "strapper 2 onward",
    }
}

/// A terminal in words.
pub(crate) fn spoken(rig: &Rig, terminal: Terminal) -> String {
    match terminal {
        Terminal::Known(Side::A) => "known source a".into(),
        Terminal::Known(Side::B) => "known source b".into(),
        Terminal::Fixed(Fixed::Ohm, side) => format!("1 Ω to check on, {}", if side == Side::A { "a" } else { "b" }),
        Terminal::Fixed(Fixed::Megohm, side) => {
            format!("1 MΩ to check on, {}", if side == Side::A { "a" } else { "b" })
        }
        Terminal::Electrode => "electrode".into(),
        Terminal::Spike(Side::A) => "spike between".into(),
        Terminal::Spike(Side::B) => "spike far off".into(),
        Terminal::SubBar(board, core) => {
            let name = rig.boards.get(board).map_or("sub-board", |board| board.name.as_str());
            format!("{name} {} bar", wire_class(core))
        }
        Terminal::Incoming(core) => format!("incoming {}", wire_class(core)),
        Terminal::Bar(core) => format!("{} bar", wire_class(core)),
        Terminal::Tail { way, leg, core } => format!("way {} end {leg} {}", way + 1, wire_class(core)),
        Terminal::Point { way, point, core } => format!("way {} point {} {}", way + 1, point + 1, wire_class(core)),
        Terminal::BondEnd(bond) => rig
            .bonds
            .get(bond)
            .map_or_else(|| "bond".to_owned(), |bond| format!("board end of the bond to {}", bond.to)),
        Terminal::Metal(bond) => {
            rig.bonds.get(bond).map_or_else(|| "metal".to_owned(), |bond| format!("pipe of {}", bond.to))
        }
    }
}

/// What a page asks for a hint with; no act of the bench.
pub(crate) const HINT: &str = "hint";

pub(crate) fn hints(practice: &Practice) -> usize {
    practice.acts.iter().filter(|act| *act == HINT).count()
}

/// What was answered, short.
pub(crate) fn answer(f: &Fields, ask: &Ask) -> String {
    f.trimmed(ask.name()).chars().take(40).collect()
}
