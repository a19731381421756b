//! Conductors by name, as a set; their colours; material.

use serde::{Deserialize, Serialize};
use std::fmt;

/// A conductor of a circuit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub enum Conductor {
    /// The line of a single-phase circuit.
    L,
    /// First line of a three-phase circuit.
    L1,
    /// Second line.
    L2,
    /// Third line.
    L3,
    /// A line behind a switch.
    SwitchedLine,
    /// One of the two conductors between two-way switches.
    StrapperA,
    /// The other.
    StrapperB,
    /// Neutral.
    N,
    /// Circuit protective conductor or earth.
    E,
}

impl Conductor {
    /// The letter shown beside the colour.
    pub const fn letter(self) -> &'static str {
        match self {
            Self::L => "L",
            Self::L1 => "L1",
            Self::L2 => "L2",
            Self::L3 => "L3",
            Self::SwitchedLine => "SL",
            Self::StrapperA => "SA",
            Self::StrapperB => "SB",
            Self::N => "N",
            Self::E => "E",
        }
    }

    /// Colour of the conductor by Table 51 of BS 7671 (harmonised colours).
    pub const fn colour(self) -> &'static str {
        match self {
            Self::L | Self::L1 | Self::SwitchedLine | Self::StrapperA => "brown",
            Self::L2 | Self::StrapperB => "black",
            Self::L3 => "grey",
            Self::N => "blue",
            Self::E => "green-yellow",
        }
    }
}

impl fmt::Display for Conductor {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.letter())
    }
}

/// Two conductors that a reading is taken between. Order does not matter: stored sorted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Pair(Conductor, Conductor);

impl Pair {
    /// A pair, whichever way round it is named.
    ///
    /// # Errors
    /// When both are the same conductor.
    pub fn new(a: Conductor, b: Conductor) -> Result<Self, SameConductor> {
        match a.cmp(&b) {
            std::cmp::Ordering::Less => Ok(Self(a, b)),
            std::cmp::Ordering::Greater => Ok(Self(b, a)),
            std::cmp::Ordering::Equal => Err(SameConductor(a)),
        }
    }

    /// Line to neutral.
    pub const LINE_NEUTRAL: Self = Self(Conductor::L, Conductor::N);
    /// Line to earth.
    pub const LINE_EARTH: Self = Self(Conductor::L, Conductor::E);
    /// Neutral to earth.
    pub const NEUTRAL_EARTH: Self = Self(Conductor::N, Conductor::E);

    /// Whether it is of a live conductor to earth; else both are live.
    pub const fn is_to_earth(self) -> bool {
        matches!(self.1, Conductor::E)
    }

    /// Key in forms: `L-E`.
    pub fn key(self) -> String {
        format!("{}-{}", self.0, self.1)
    }

    /// Whether both are of one kind: a line, whichever, to the same other conductor, or between lines.
    pub fn is_alike(self, other: Self) -> bool {
        let line = |one: Conductor| !matches!(one, Conductor::N | Conductor::E);
        let kind = |pair: Self| (line(pair.0).then_some(()).ok_or(pair.0), line(pair.1).then_some(()).ok_or(pair.1));
        kind(self) == kind(other)
    }

    /// The two conductors, line before neutral before earth.
    pub const fn both(self) -> (Conductor, Conductor) {
        (self.0, self.1)
    }
}

impl<'de> Deserialize<'de> for Pair {
    fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let (a, b) = <(Conductor, Conductor)>::deserialize(from)?;
        Self::new(a, b).map_err(serde::de::Error::custom)
    }
}

impl fmt::Display for Pair {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}–{}", self.0, self.1)
    }
}

/// A pair of one conductor with itself.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("a pair takes two different conductors, not {0} twice")]
pub struct SameConductor(pub Conductor);

/// What a conductor is made of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Material {
    /// Plain annealed copper.
    #[default]
    Copper,
    /// Aluminium.
    Aluminium,
}

impl Material {
    /// In the order offered.
    pub const ALL: [Self; 2] = [Self::Copper, Self::Aluminium];

    /// Key in documents and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Copper => "copper",
            Self::Aluminium => "aluminium",
        }
    }
}

/// One of the three cores of a cable.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub enum Core {
    /// Line.
    L,
    /// Neutral.
    N,
    /// Protective conductor.
    E,
}

impl Core {
    /// In the order L, N, E.
    pub const ALL: [Self; 3] = [Self::L, Self::N, Self::E];

    /// 0, 1, 2 for L, N, E.
    pub const fn index(self) -> usize {
        self as usize
    }

    /// The letter.
    pub const fn letter(self) -> &'static str {
        match self {
            Self::L => "L",
            Self::N => "N",
            Self::E => "E",
        }
    }
}
