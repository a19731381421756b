//! A circuit as described: its points, leg lengths and faults; and whether it makes sense.
//!
//! Lengths in m, resistances in Ω. Every refusal names the key, what was given and what is
//! allowed, in the words of the command-line contract.

use proof_standard::conductor::{Core, Material};
use proof_standard::limits::conductors::{UnknownSize, mohm_per_m, temperature_factor};
use proof_standard::quantity::{Celsius, Metres, Ohms, SquareMillimetres};
use proof_standard::shape::{MOST_POINTS, Shape};
use std::collections::{HashMap, HashSet};

/// The name that stands for leg 1 of the board.
pub const BOARD: &str = "board";

/// Ω/m of line, neutral and CPC at the temperature of the cable.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OhmPerMetre(pub [f64; 3]);

impl OhmPerMetre {
    /// Copper conductors by size and temperature.
    ///
    /// # Errors
    /// [`UnknownSize`] with the core whose size is in no table.
    pub fn copper(sizes: [SquareMillimetres; 3], temperature: Celsius) -> Result<Self, (Core, UnknownSize)> {
        let mut per_metre = [0.0; 3];
        for core in Core::ALL {
            let mohm = mohm_per_m(Material::Copper, sizes[core.index()]).map_err(|error| (core, error))?;
            per_metre[core.index()] = mohm / 1000.0 * temperature_factor(temperature);
        }
        Ok(Self(per_metre))
    }
}

/// A point of a described circuit.
#[derive(Debug, Clone, PartialEq)]
pub struct Point {
    /// Its name, unique in the circuit and not `board`.
    pub id: String,
    /// The point that a spur leaves from; `None` on the main line.
    pub spur_from: Option<String>,
    /// Cable from the previous main-line point, or from `spur_from`.
    pub leg: Metres,
}

/// A length of cable between two neighbours.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum SegmentName {
    /// The main-line segment that leaves this point away from leg 1.
    After(String),
    /// The segment that leads into this point.
    Into(String),
}

/// Something wrong with a circuit, or with how it is read.
#[derive(Debug, Clone, PartialEq)]
pub enum Fault {
    /// Extra resistance in one core of a segment.
    HighResistanceJoint {
        /// Which core, as it leaves on the leg 1 side.
        conductor: Core,
        /// Where.
        segment: SegmentName,
        /// How much.
        ohm: Ohms,
    },
    /// A broken core.
    Open {
        /// Which core.
        conductor: Core,
        /// Where.
        segment: SegmentName,
    },
    /// Two cores change places in a segment.
    Cross {
        /// Which two.
        conductors: [Core; 2],
        /// Where.
        segment: SegmentName,
    },
    /// Resistance of the probe's contact at one point; `None`: its switch is off.
    Contact {
        /// At which point.
        at: String,
        /// How much is added to what is read there.
        ohm: Option<Ohms>,
    },
    /// Two terminals of a point hold each other's conductors.
    Swap {
        /// At which point.
        at: String,
        /// Which two.
        conductors: [Core; 2],
    },
    /// An extra cable between two points.
    Bridge {
        /// One point.
        from: String,
        /// The other.
        to: String,
        /// Its length.
        leg: Metres,
    },
    /// Metal that joins the CPCs of two points (or of the board).
    ParallelEarth {
        /// The two places.
        between: [String; 2],
        /// Its resistance.
        ohm: Ohms,
    },
    /// The board links join each leg with itself.
    OwnLeg,
}

/// A circuit as described.
#[derive(Debug, Clone, PartialEq)]
pub struct Description {
    /// Ring or radial.
    pub shape: Shape,
    /// Resistance of its cable.
    pub cores: OhmPerMetre,
    /// Its points, main line in order from the board.
    pub points: Vec<Point>,
    /// Cable from the last main-line point back to the board; rings only.
    pub return_leg: Option<Metres>,
    /// What is wrong with it.
    pub faults: Vec<Fault>,
}

/// A description that makes no sense: the key, what was given, what is allowed.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{key}: {given} is not allowed: {allowed}")]
pub struct Refused {
    /// The key in the contract, with its index.
    pub key: String,
    /// What was given.
    pub given: String,
    /// What is allowed.
    pub allowed: String,
}

impl Refused {
    /// A refusal.
    pub fn new(key: impl Into<String>, given: impl Into<String>, allowed: impl Into<String>) -> Self {
        Self { key: key.into(), given: given.into(), allowed: allowed.into() }
    }
}

/// Where the points of a sound description stand.
#[derive(Debug, Clone)]
pub(crate) struct Layout<'a> {
    /// Index of a point by its name.
    pub by_id: HashMap<&'a str, usize>,
    /// Main-line points in order from the board.
    pub main: Vec<usize>,
    /// For each point, the point its spur leaves from.
    pub parent: Vec<Option<usize>>,
}

impl Description {
    /// Checks names and shape.
    pub(crate) fn layout(&self) -> Result<Layout<'_>, Refused> {
        if self.points.len() > MOST_POINTS {
            return Err(Refused::new(
                "points",
                format!("{} points", self.points.len()),
                format!("up to {MOST_POINTS} points"),
            ));
        }
        self.return_leg()?;
        let by_id = self.names()?;
        let parent = self.parents(&by_id)?;
        let main = (0..self.points.len()).filter(|&index| parent[index].is_none()).collect();
        Ok(Layout { by_id, main, parent })
    }

    fn return_leg(&self) -> Result<(), Refused> {
        match (self.shape, self.return_leg) {
            (Shape::Radial, Some(leg)) => {
                Err(Refused::new("return_leg_m", leg.get().to_string(), "a radial has no return leg: leave it out"))
            }
            (Shape::Ring, None) => {
                Err(Refused::new("return_leg_m", "nothing", "a ring wants the length of its return leg, 0 to 100000 m"))
            }
            _ => Ok(()),
        }
    }

    fn names(&self) -> Result<HashMap<&str, usize>, Refused> {
        let mut by_id = HashMap::new();
        for (index, point) in self.points.iter().enumerate() {
            let key = || format!("points[{index}].id");
            if point.id == BOARD {
                return Err(Refused::new(key(), "\"board\"", "any name but board, which is where leg 1 begins"));
            }
            if point.id.is_empty() {
                return Err(Refused::new(key(), "\"\"", "a name of at least one character"));
            }
            if by_id.insert(point.id.as_str(), index).is_some() {
                return Err(Refused::new(key(), format!("\"{}\" a second time", point.id), "each id once"));
            }
        }
        Ok(by_id)
    }

    /// For each point, the point its spur leaves from.
    fn parents(&self, by_id: &HashMap<&str, usize>) -> Result<Vec<Option<usize>>, Refused> {
        let mut parent = Vec::with_capacity(self.points.len());
        for (index, point) in self.points.iter().enumerate() {
            parent.push(match &point.spur_from {
                None => None,
                Some(from) => Some(*by_id.get(from.as_str()).ok_or_else(|| {
                    Refused::new(
                        format!("points[{index}].spur_from"),
                        format!("\"{from}\""),
                        "the id of a point of this circuit",
                    )
                })?),
            });
        }
        for index in 0..self.points.len() {
            let mut seen = HashSet::from([index]);
            let mut at = index;
            while let Some(from) = parent[at] {
                if !seen.insert(from) {
                    return Err(Refused::new(
                        format!("points[{index}].spur_from"),
                        format!("\"{}\"", self.points[index].spur_from.as_deref().unwrap_or_default()),
                        "a spur leaves the main line or another spur, not itself in a circle",
                    ));
                }
                at = from;
            }
        }
        Ok(parent)
    }
}
