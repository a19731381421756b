//! Exercises at the bench, in the order of the work: what is posed, what is asked, and what it earns. Endless by seed; the
//! same seed poses the same.

pub mod apprentice;
mod before_reading;
pub mod made;
pub mod marks;
pub mod progress;

use crate::rig::bench::Bench;
use proof_core::conductor::Core;
use proof_core::network::description::Description;

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
}

impl Exercise {
    /// In the order of the work.
    pub const ALL: [Self; 10] = [
        Self::ProveDead,
        Self::Null,
        Self::Bonding,
        Self::Radial,
        Self::Ratio,
        Self::Ring,
        Self::Insulation,
        Self::Origin,
        Self::Zs,
        Self::Residual,
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
        }
    }

    /// Reads a key.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|one| one.key() == key)
    }

    /// Its name.
    pub const fn title(self) -> &'static str {
        match self {
            Self::ProveDead => "Prove dead",
            Self::Null => "The leads alone",
            Self::Radial => "R1+R2 of a radial",
            Self::Ratio => "What r2 should be",
            Self::Ring => "A ring in three steps",
            Self::Insulation => "Insulation fault finding",
            Self::Bonding => "A main bond",
            Self::Zs => "Zs at the far end",
            Self::Origin => "Ze and prospective fault current",
            Self::Residual => "A residual device",
        }
    }

    /// What is to be done.
    pub const fn goal(self) -> &'static str {
        match self {
            Self::ProveDead => {
                "The board is in use. Say whether its supply is right, then isolate it, lock it off and prove it dead."
            }
            Self::Null => {
                "The board is locked off and proved dead. Read what two sets of leads read alone; then read R1+Rn at the last point of way 1 without them in it, and leave no link behind."
            }
            Self::Ratio => {
                "The board is locked off and proved dead. Read r1 of the ring, 2.5 mm² with a 1.5 mm² CPC; write down what r2 should be before you read it; then read it, and say whether it fits."
            }
            Self::Radial => {
                "The board is locked off and proved dead. Read R1+R2 of the radial for the schedule, and say what is wrong with it, if anything."
            }
            Self::Ring => {
                "The board is locked off and proved dead. Read the ring in three steps, write down what goes on the schedule, and say what is wrong with it, if anything."
            }
            Self::Insulation => {
                "The board is locked off and proved dead; it reads badly as a whole. Find the way, the pair and what it is."
            }
            Self::Bonding => {
                "The board is locked off and proved dead. Read the continuity of the main bond to the water pipe, judge it, and leave it as it belongs."
            }
            Self::Zs => {
                "The board is in use. Read Zs at the last point of way 1 without tripping anything, and judge it by 80 % of the printed maximum."
            }
            Self::Origin => {
                "The board is locked off and proved dead. Read Ze and the prospective fault current at the origin, and leave everything as it belongs."
            }
            Self::Residual => {
                "The board is in use. Read the trip time of the residual device at its rated current, and judge it."
            }
        }
    }

    /// Hints, one after the other.
    pub const fn hints(self) -> &'static [&'static str] {
        match self {
            Self::ProveDead => &[
                "While it is live: line to earth should read the supply voltage, neutral to earth next to nothing.",
                "Take the load off by the ways first; then the main switch, then the lock.",
                "The indicator is proved on the known source, then every pair of the board, then on the source again.",
            ],
            Self::Null => &[
                "Knob at low Ω, tips together, test: what stands there are the leads. Write it down before you null.",
                "Null, then tips together again: nought. Other leads want another null.",
                "A link from line to neutral at the board, then line to neutral at the last point.",
            ],
            Self::Ratio => &[
                "Null first. Ends out at the board; line with line.",
                "A thinner conductor has more resistance: by the ratio of the sizes, or of the resistance table.",
                "r2 well above it, with r1 as it should be: a joint in the CPC. Well below: a path beside it.",
            ],
            Self::Radial => &[
                "Tips together, knob at low Ω, null. Again after other leads.",
                "A link from line to the earth bar at the board; then line to earth at every point. The highest goes on the schedule.",
                "A step between two points is one cable: what it should be follows from its length.",
                "With the link from line to neutral the same walk tells which of the two conductors it is.",
            ],
            Self::Ring => &[
                "Ends out at the board. End to end: line with line, neutral with neutral, earth with earth.",
                "r1 and rn alike; r2 higher by the ratio of the sizes.",
                "Cross line with neutral of the other leg and read line to neutral at every point; then line with earth.",
                "A joint between two points lifts both of them, and less the further away.",
            ],
            Self::Insulation => &[
                "Lamps out, or they are what you read.",
                "All ways off first: then one way at a time, at its own tails.",
                "A neon shows at 500 V and not with an ohmmeter. A short shows with both.",
            ],
            Self::Bonding => &[
                "The long lead reaches the pipe: null it first.",
                "With both ends connected the ground beside it is read as well: take one end off.",
                "About 0.05 Ω or less. Put the end back on the moment it is read.",
            ],
            Self::Zs => &[
                "At the last point: line to earth, with a test that trips nothing.",
                "The printed maximum of the device stands under Reference; a cold reading is compared with 0.8 of it.",
            ],
            Self::Origin => &[
                "Ze is read with the earth disconnected: incoming line to the supply's own end of it.",
                "The moment it is read the earthing conductor goes back on.",
                "Prospective fault current: from the lower loop, line to neutral or line to earth, with everything in.",
            ],
            Self::Residual => &[
                "At a point of the way: line to earth.",
                "It trips: switch it on again before the next.",
                "Up to 300 ms at its rated current, for one without delay.",
            ],
        }
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
}

impl Ask {
    /// Its field.
    pub const fn name(&self) -> &'static str {
        match self {
            Self::Choice { name, .. } | Self::Figure { name, .. } => name,
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
}

/// What is really so.
#[derive(Debug, Clone, PartialEq)]
pub enum Truth {
    /// Whether line and neutral of the supply are reversed.
    Supply {
        /// They are.
        reversed: bool,
    },
    /// A circuit of the first way.
    Circuit {
        /// As it is, with its fault.
        built: Description,
        /// The fault by name.
        wrong: Wrong,
        /// How large, Ω; nought where it has no size.
        ohm: f64,
    },
    /// A leak: way, pair, what.
    Leak {
        /// Way, from nought.
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
        /// The higher fault current, kA.
        fault_ka: f64,
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
        /// At the last point.
        r1_rn: f64,
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
    pub(crate) fn of(
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
            asks,
            truth,
            fewest,
            settles: settles.into(),
        }
    }
}
