//! What nobody should do, and how far dead is proved.

use super::instrument::DEAD_V;
use super::terminal::{Side, Terminal, Wire};
use std::collections::BTreeSet;

/// An act that nobody should do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Unsafe {
    /// Work begun without proving dead.
    NotProved,
    /// The indicator was not proved again afterwards.
    ProvedOnce,
    /// Power on a link that was left in.
    LinkLeftIn,
    /// Power on without the earthing conductor.
    EnergisedWithoutEarth,
    /// An ohmmeter or 500 V on live conductors.
    TestedLive,
    /// Hands on live parts.
    TouchedLive,
    /// Something else than the loop tester on live terminals while the earth is off.
    LiveWithoutEarth,
    /// The main switch opened under load.
    UnderLoad,
    /// Work on a board that is off and not locked.
    NotLocked,
    /// A circuit that is known to be faulty was energised.
    EnergisedFaulty,
    /// A new circuit was energised without its dead tests.
    EnergisedUntested,
}

impl Unsafe {
    /// All of them.
    pub const ALL: [Self; 11] = [
        Self::NotProved,
        Self::ProvedOnce,
        Self::LinkLeftIn,
        Self::EnergisedWithoutEarth,
        Self::TestedLive,
        Self::TouchedLive,
        Self::LiveWithoutEarth,
        Self::UnderLoad,
        Self::NotLocked,
        Self::EnergisedFaulty,
        Self::EnergisedUntested,
    ];

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::NotProved => "not proved dead before the work began",
            Self::ProvedOnce => "the indicator was not proved again after the board",
            Self::LinkLeftIn => "energised with a link left in",
            Self::EnergisedWithoutEarth => "energised with the earth disconnected",
            Self::TestedLive => "continuity or insulation tested on live conductors",
            Self::TouchedLive => "hands on live parts",
            Self::LiveWithoutEarth => "live terminals touched while the earth was disconnected",
            Self::UnderLoad => "the main switch was opened under load",
            Self::EnergisedFaulty => "energised a circuit whose dead tests are not good",
            Self::EnergisedUntested => "energised a new circuit without its dead tests",
            Self::NotLocked => "worked on a board that was not locked off",
        }
    }

    /// Whether the exercise ends with it.
    pub const fn ends(self) -> bool {
        matches!(self, Self::TouchedLive | Self::LiveWithoutEarth)
    }
}

/// How far dead is proved.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Proving {
    /// What comes in: every pair of it.
    wires: &'static [Wire],
    before: bool,
    pairs: BTreeSet<(Wire, Wire)>,
    after: bool,
}

impl Proving {
    /// Of what comes in, nothing proved.
    pub const fn between(wires: &'static [Wire]) -> Self {
        Self { wires, before: false, pairs: BTreeSet::new(), after: false }
    }

    /// As it is when all of it was done.
    #[must_use]
    pub fn done(mut self) -> Self {
        let all = self.wires.iter().enumerate();
        self.pairs = all.flat_map(|(at, a)| self.wires[at + 1..].iter().map(|b| (*a, *b))).collect();
        Self { before: true, after: true, ..self }
    }

    fn every_pair(&self) -> bool {
        self.pairs.len() == self.wires.len() * (self.wires.len() - 1) / 2
    }

    /// All but the second proof of the indicator.
    pub fn is_once(&self) -> bool {
        self.before && self.every_pair() && !self.after
    }

    /// What an indicator showed between two terminals, V.
    pub fn indicated(&mut self, (a, b): (Terminal, Terminal), volts: f64) {
        match (a, b) {
            (Terminal::Known(Side::A), Terminal::Known(Side::B))
            | (Terminal::Known(Side::B), Terminal::Known(Side::A)) => {
                if self.every_pair() {
                    self.after = true;
                } else {
                    self.before = true;
                }
            }
            (Terminal::Bar(a), Terminal::Bar(b)) if a != b => {
                if volts >= DEAD_V {
                    *self = Self::between(self.wires);
                } else if self.before {
                    self.pairs.insert((a.min(b), a.max(b)));
                }
            }
            _ => {}
        }
    }

    /// Source, every pair, source.
    pub fn is_done(&self) -> bool {
        self.before && self.every_pair() && self.after
    }
}
