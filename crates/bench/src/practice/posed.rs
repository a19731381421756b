//! An exercise as it is set: what is asked, and what is true.

use crate::rig::bench::Bench;
use proof_physics::network::description::Description;
use proof_standard::conductor::Core;
use proof_standard::limits::rcd::RcdKind;

/// An exercise.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Exercise {
    /// Isolate, and prove dead.
    ProveDead,
    /// What the leads alone read.
    Null,
    /// R1+R2 of a radial.
    Radial,
    /// What r2 should be.
    Ratio,
    /// A ring in three steps.
    Ring,
    /// Insulation, and the search.
    Insulation,
    /// A main bond.
    Bonding,
    /// Ze and fault current at the origin.
    Origin,
    /// Zs at the far end.
    Zs,
    /// A residual device.
    Residual,
    /// Lights with more than one switch.
    TwoWay,
    /// A whole board.
    WholeBoard,
    /// A schedule that contradicts itself.
    Paper,
    /// Voltages at a point in use.
    Voltages,
}

/// How hard an exercise is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub enum Level {
    /// For whoever does it for the first time.
    First,
    /// As it usually is.
    #[default]
    Usual,
    /// Small faults, more than one, and what misleads.
    Hard,
}

impl Level {
    /// In the order offered.
    pub const ALL: [Self; 3] = [Self::First, Self::Usual, Self::Hard];

    /// Key in forms and in the database.
    pub const fn key(self) -> &'static str {
        match self {
            Self::First => "first",
            Self::Usual => "usual",
            Self::Hard => "hard",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::First => "first time",
            Self::Usual => "usual",
            Self::Hard => "hard",
        }
    }

    /// Reads a key; nothing said: as usual.
    pub fn from_key(key: &str) -> Option<Self> {
        if key.is_empty() { Some(Self::Usual) } else { Self::ALL.into_iter().find(|level| level.key() == key) }
    }
}

impl Exercise {
    /// In the order of the work.
    pub const ALL: [Self; 14] = [
        Self::ProveDead,
        Self::Null,
        Self::Bonding,
        Self::Radial,
        Self::Ratio,
        Self::Ring,
        Self::TwoWay,
        Self::Insulation,
        Self::Voltages,
        Self::Origin,
        Self::Zs,
        Self::Residual,
        Self::WholeBoard,
        Self::Paper,
    ];

    /// Key in forms and in the database.
    pub const fn key(self) -> &'static str {
        match self {
            Self::ProveDead => "prove-dead",
            Self::Null => "null",
            Self::Radial => "radial",
            Self::Ratio => "r2-expected",
            Self::Ring => "ring",
            Self::Insulation => "insulation",
            Self::Bonding => "bonding",
            Self::Origin => "origin",
            Self::Zs => "zs",
            Self::Residual => "residual",
            Self::TwoWay => "two-way",
            Self::WholeBoard => "whole-board",
            Self::Paper => "schedule",
            Self::Voltages => "voltages",
        }
    }

    /// With its level, in the database: the usual one goes without saying.
    pub fn key_at(self, level: Level) -> String {
        if level == Level::Usual { self.key().to_owned() } else { format!("{}.{}", self.key(), level.key()) }
    }

    /// Reads a key with its level.
    pub fn at_level(key: &str) -> Option<(Self, Level)> {
        let (exercise, level) = key.split_once('.').unwrap_or((key, ""));
        Some((Self::ALL.into_iter().find(|one| one.key() == exercise)?, Level::from_key(level)?))
    }

    /// Reads a key, whatever its level.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::at_level(key).map(|(exercise, _)| exercise)
    }
}

/// A question of an exercise.
#[derive(Debug, Clone, PartialEq)]
pub enum Ask {
    /// One of a list: key and words.
    Choice {
        /// Its field.
        name: &'static str,
        /// What is asked.
        label: &'static str,
        /// What may be chosen.
        of: Vec<(String, String)>,
    },
    /// A figure.
    Figure {
        /// Its field.
        name: &'static str,
        /// What is asked, with its unit.
        label: &'static str,
    },
    /// Something that is pointed at.
    Pointed {
        /// Its field.
        name: &'static str,
        /// What is asked.
        label: &'static str,
    },
}

impl Ask {
    /// Its field.
    pub const fn name(&self) -> &'static str {
        match self {
            Self::Choice { name, .. } | Self::Figure { name, .. } | Self::Pointed { name, .. } => name,
        }
    }
}

/// What is wrong with a circuit, as a learner names it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Wrong {
    /// Nothing.
    Sound,
    /// A joint of high resistance in a conductor, after a point (`None`: the board).
    Joint(Core, Option<usize>),
    /// A broken conductor there.
    Open(Core, Option<usize>),
    /// Two conductors change places at the terminals of a point.
    Swap(Core, Core, usize),
    /// Two conductors change places at a joint after a point (`None`: the board): so they stay beyond it.
    Cross(Core, Core, Option<usize>),
    /// Metal of the building touches the CPC at a point.
    Metal(usize),
}

/// What is really so.
#[derive(Debug, Clone, PartialEq)]
pub enum Truth {
    /// Whether line and neutral of the supply are reversed.
    Supply {
        /// They are.
        reversed: bool,
        /// A source of its own feeds the board too.
        second: bool,
        /// Whether that is asked.
        asked: bool,
    },
    /// A circuit of the first way.
    Circuit {
        /// As it is, with its fault.
        built: Description,
        /// The fault by name.
        wrong: Wrong,
        /// How large, Ω; zero where it has no size.
        ohm: f64,
        /// What else is wrong, and how large.
        also: Option<(Wrong, f64)>,
    },
    /// A leak: way, pair, what.
    Leak {
        /// Way, from zero.
        way: usize,
        /// Between which.
        between: [Core; 2],
        /// `short`, `neon`, `damaged` or `damp`.
        what: &'static str,
    },
    /// At the origin.
    Origin {
        /// Ze, Ω.
        ze_ohm: f64,
        /// The higher fault current, kA; by either school where there are two.
        fault_ka: Vec<f64>,
    },
    /// A circuit that is tried: nothing is asked.
    Tried,
    /// A bond: its conductor and clamp, Ω.
    Bond {
        /// Ω.
        ohm: f64,
    },
    /// A loop at the far end, with its limit, Ω.
    Zs {
        /// As it is, Ω.
        ohm: f64,
        /// 80 % of the printed maximum, Ω.
        limit_ohm: f64,
    },
    /// The leads alone, and a reading without them, Ω.
    Leads {
        /// The short ones.
        short_ohm: f64,
        /// The plug-in lead.
        plug_ohm: f64,
        /// At the last point, where that is asked.
        r1_rn: Option<f64>,
        /// Whether the instrument is fit to use, by its key, where that is asked.
        fit: Option<&'static str>,
    },
    /// r2 beside what r1 leads one to expect, Ω.
    Ratio {
        /// r1.
        r1: f64,
        /// By the resistance table, and by the sizes.
        expected: [f64; 2],
        /// r2 as it is.
        r2: f64,
        /// It is as it should be.
        fits: bool,
    },
    /// A residual device.
    Trip {
        /// At its rated current, ms.
        ms: f64,
        /// With a delay or without.
        kind: RcdKind,
    },
    /// Lights with more than one switch.
    Switches {
        /// What is wrong, by its key.
        key: String,
        /// The highest that the lamp reads, Ω.
        r1_r2: f64,
    },
    /// A whole board.
    Board {
        /// The highest of each way, Ω; `None`: open.
        r1_r2: [Option<f64>; 3],
        /// At the last point of the second way, Ω; `None`: it is not energised.
        zs_ohm: Option<f64>,
        /// Of the first way, ms; `None`: it is not energised.
        trip_ms: Option<f64>,
        /// What is wrong, by its key.
        what: &'static str,
        /// Which way is not good, from zero.
        bad: Option<usize>,
    },
    /// Voltages at a point: what they say, by its key.
    Voltages {
        /// Its key.
        state: &'static str,
    },
    /// A schedule: what may be pointed at, what it contradicts.
    Paper {
        /// Keys of the figures.
        cells: Vec<String>,
        /// Key of the contradiction.
        what: &'static str,
    },
}

/// An exercise as posed.
#[derive(Debug, Clone, PartialEq)]
pub struct Posed {
    /// What it is called.
    pub title: String,
    /// What is to be done.
    pub goal: String,
    /// Hints, one after the other.
    pub hints: &'static [&'static str],
    /// The bench as it is found.
    pub bench: Bench,
    /// A schedule, where that is what is looked at.
    pub paper: Option<super::schedule::Paper>,
    /// What is asked.
    pub asks: Vec<Ask>,
    /// What is really so.
    pub truth: Truth,
    /// The fewest readings that would do.
    pub fewest: usize,
    /// What would have settled it.
    pub settles: String,
}

impl Posed {
    /// An exercise with its own words.
    pub(crate) fn for_exercise(
        exercise: Exercise,
        bench: Bench,
        asks: Vec<Ask>,
        truth: Truth,
        (fewest, settles): (usize, impl Into<String>),
    ) -> Self {
        Self {
            title: exercise.title().into(),
            goal: exercise.goal().into(),
            hints: exercise.hints(),
            bench,
            paper: None,
            asks,
            truth,
            fewest,
            settles: settles.into(),
        }
    }
}
