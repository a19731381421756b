//! What hands do on the bench, one act at a time, as a line of text. The acts of a session, with its seed, are the session.

use super::instrument::{Function, Leads, PROBES};
use super::terminal::{Terminal, Wire};
use proof_standard::limits::rcd::HalfCycle;
use std::fmt;

/// What somebody does.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Act {
    /// The main switch.
    Main(bool),
    /// The lock on it.
    Lock(bool),
    /// The device of a way.
    Way(usize, bool),
    /// A conductor of a way out of its terminal at the board, or back in.
    Tail(usize, Wire, bool),
    /// The isolator of a sub-board.
    Sub(usize, bool),
    /// The isolator of the second source.
    Second(bool),
    /// The module of the surge device: in, or out.
    Surge(bool),
    /// A link between two ends at the board, in or out.
    Link(Terminal, Terminal, bool),
    /// The earthing conductor: on, or off.
    Earth(bool),
    /// A bond: on, or off.
    Bond(usize, bool),
    /// A lamp: in, or out.
    Lamp(usize, usize, bool),
    /// A switch: on, or off.
    Switch(usize, usize, bool),
    /// A probe onto a terminal, or into the hand.
    Probe(usize, Option<Terminal>),
    /// Which probe goes to the next terminal.
    NextProbe(usize),
    /// The knob.
    Knob(Function),
    /// The half-cycle on which a trip test starts.
    Half(HalfCycle),
    /// Other leads.
    Take(Leads),
    /// The null button.
    Null,
    /// The test button.
    Press,
}

/// What is no act: the words, and what is allowed.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("“{0}” is nothing that can be done on the bench")]
pub struct NoAct(pub String);

const fn word(on: bool) -> &'static str {
    if on { "on" } else { "off" }
}

impl fmt::Display for Act {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Main(on) => write!(f, "main {}", word(*on)),
            Self::Lock(on) => write!(f, "lock {}", word(*on)),
            Self::Way(way, on) => write!(f, "way {} {}", way + 1, word(*on)),
            Self::Tail(way, core, on) => write!(f, "tail {} {} {}", way + 1, core.letter(), word(*on)),
            Self::Sub(board, on) => write!(f, "sub {} {}", board + 1, word(*on)),
            Self::Second(on) => write!(f, "second {}", word(*on)),
            Self::Surge(on) => write!(f, "surge {}", word(*on)),
            Self::Half(HalfCycle::Deg0) => f.write_str("half 0"),
            Self::Half(HalfCycle::Deg180) => f.write_str("half 180"),
            Self::Link(a, b, on) => write!(f, "link {a} {b} {}", word(*on)),
            Self::Earth(on) => write!(f, "earth {}", word(*on)),
            Self::Bond(bond, on) => write!(f, "bond {} {}", bond + 1, word(*on)),
            Self::Lamp(way, point, on) => write!(f, "lamp {} {} {}", way + 1, point + 1, word(*on)),
            Self::Switch(way, point, on) => write!(f, "switch {} {} {}", way + 1, point + 1, word(*on)),
            Self::Probe(probe, Some(at)) => write!(f, "probe {} {at}", probe + 1),
            Self::Probe(probe, None) => write!(f, "probe {} hand", probe + 1),
            Self::NextProbe(probe) => write!(f, "hand {}", probe + 1),
            Self::Knob(function) => write!(f, "knob {}", function.key()),
            Self::Take(leads) => write!(f, "leads {}", leads.key()),
            Self::Null => f.write_str("null"),
            Self::Press => f.write_str("press"),
        }
    }
}

impl std::str::FromStr for Act {
    type Err = NoAct;

    fn from_str(text: &str) -> Result<Self, NoAct> {
        let words: Vec<&str> = text.split_whitespace().collect();
        let on = |word: &str| match word {
            "on" => Some(true),
            "off" => Some(false),
            _ => None,
        };
        let number = |word: &str| word.parse::<usize>().ok()?.checked_sub(1);
        let probe = |word: &str| number(word).filter(|probe| *probe < PROBES);
        let found = || match words[..] {
            ["main", state] => Some(Self::Main(on(state)?)),
            ["lock", state] => Some(Self::Lock(on(state)?)),
            ["way", way, state] => Some(Self::Way(number(way)?, on(state)?)),
            ["tail", way, of, state] => Some(Self::Tail(number(way)?, Wire::from_letter(of)?, on(state)?)),
            ["link", a, b, state] => {
                let (a, b) = (Terminal::from_key(a)?, Terminal::from_key(b)?);
                (a != b).then_some(Self::Link(a.min(b), a.max(b), on(state)?))
            }
            ["sub", board, state] => Some(Self::Sub(number(board)?, on(state)?)),
            ["second", state] => Some(Self::Second(on(state)?)),
            ["surge", state] => Some(Self::Surge(on(state)?)),
            ["half", "0"] => Some(Self::Half(HalfCycle::Deg0)),
            ["half", "180"] => Some(Self::Half(HalfCycle::Deg180)),
            ["earth", state] => Some(Self::Earth(on(state)?)),
            ["bond", bond, state] => Some(Self::Bond(number(bond)?, on(state)?)),
            ["lamp", way, point, state] => Some(Self::Lamp(number(way)?, number(point)?, on(state)?)),
            ["switch", way, point, state] => Some(Self::Switch(number(way)?, number(point)?, on(state)?)),
            ["probe", one, "hand"] => Some(Self::Probe(probe(one)?, None)),
            ["probe", one, at] => Some(Self::Probe(probe(one)?, Some(Terminal::from_key(at)?))),
            ["hand", one] => Some(Self::NextProbe(probe(one)?)),
            ["knob", key] => Function::ALL.into_iter().find(|one| one.key() == key).map(Self::Knob),
            ["leads", key] => Leads::ALL.into_iter().find(|one| one.key() == key).map(Self::Take),
            ["null"] => Some(Self::Null),
            ["press"] => Some(Self::Press),
            _ => None,
        };
        found().ok_or_else(|| NoAct(text.chars().take(60).collect()))
    }
}
