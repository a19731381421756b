//! What a diagnosis starts from: the circuit as far as it is known and the figures as shown.
//!
//! Figures in Ω to 0.01 Ω, lengths in m. A figure that was not taken is left out; `OVER` is what
//! the instrument shows of an open circuit.

use crate::network::description::{BOARD, OhmPerMetre, Refused};
use proof_standard::quantity::{Metres, SquareMillimetres};
use proof_standard::shape::{MOST_POINTS, Shape};
use std::collections::HashMap;

/// A figure as shown, Ω; `None` is over range.
pub type ShownOhms = Option<f64>;

/// Fewest figures that anything is said from.
pub(super) const FEWEST_FIGURES: usize = 2;

/// A point and what was read at it.
#[derive(Debug, Clone, PartialEq)]
pub struct ReadPoint {
    /// Its name, unique in the circuit and not `board`.
    pub id: String,
    /// The point that its spur leaves from, where a spur is known.
    pub spur_from: Option<String>,
    /// Cable from the point before it, or from `spur_from`, where known.
    pub leg: Option<Metres>,
    /// Line–neutral with line and neutral linked; outer `None`: not taken.
    pub r1_rn: Option<ShownOhms>,
    /// Line–CPC with line and CPC linked; outer `None`: not taken.
    pub r1_r2: Option<ShownOhms>,
}

/// A circuit to be diagnosed.
#[derive(Debug, Clone, PartialEq)]
pub struct Case {
    /// Ring or radial.
    pub shape: Shape,
    /// Ω/m of line, neutral, CPC.
    pub cores: OhmPerMetre,
    /// Size of the CPC as described.
    pub cpc_mm2: SquareMillimetres,
    /// Whole length of the main line, known to about 10 %.
    pub length: Option<Metres>,
    /// r1, rn, r2 of a ring.
    pub end_to_end: [Option<ShownOhms>; 3],
    /// Line to neutral and line to CPC of leg 1 with the links made; rings only.
    pub board_check: [Option<ShownOhms>; 2],
    /// In the order of the cable as far as known.
    pub points: Vec<ReadPoint>,
}

/// Where the points of a case stand.
#[derive(Debug, Clone)]
pub(super) struct IndexedCase {
    /// Points of the main line, in order.
    pub main: Vec<usize>,
    /// For each point: its place on the main line (1 is the first point; 0 is the board).
    pub node: Vec<usize>,
    /// For each point: the known spurs between it and the main line, itself first.
    pub spurs: Vec<Vec<usize>>,
    /// Metres of those spurs; 0 on the main line, a guess where a length is not known.
    pub spur_m: Vec<f64>,
    /// The length of some spur on the way is not known.
    pub spur_unknown: Vec<bool>,
    /// For each entry: the first outlet of its accessory, itself where there is one outlet.
    pub first: Vec<usize>,
}

impl IndexedCase {
    /// Whether an entry is one of two outlets of an accessory.
    pub(super) fn is_of_two(&self, point: usize) -> bool {
        self.first.iter().filter(|first| **first == self.first[point]).count() > 1
    }
}

/// The name of a twin and which of its outlets, of `S3/1` or `S3/2`.
fn outlet(id: &str) -> Option<(&str, bool)> {
    let (twin, number) = id.rsplit_once('/').filter(|(twin, _)| !twin.is_empty())?;
    match number {
        "1" => Some((twin, true)),
        "2" => Some((twin, false)),
        _ => None,
    }
}

/// Length taken for a known spur whose length is not, m (common practice, no source).
const USUAL_SPUR_M: f64 = 5.0;

impl Case {
    /// Checks names and shape.
    pub(super) fn laid(&self) -> Result<IndexedCase, Refused> {
        if self.points.is_empty() || self.points.len() > MOST_POINTS {
            let given = format!("{} points", self.points.len());
            return Err(Refused::new("points", given, format!("1 to {MOST_POINTS} points")));
        }
        let mut by_id: HashMap<&str, usize> = HashMap::new();
        for (index, point) in self.points.iter().enumerate() {
            let key = format!("points[{index}].id");
            if point.id == BOARD || point.id.is_empty() {
                let allowed = "a name of at least one character that is not board";
                return Err(Refused::new(key, format!("\"{}\"", point.id), allowed));
            }
            if by_id.insert(point.id.as_str(), index).is_some() {
                return Err(Refused::new(key, format!("\"{}\" a second time", point.id), "each id once"));
            }
        }
        if self.shape == Shape::Radial {
            let no = |key: &str| Refused::new(key, "figures", "only a ring has them: leave it out on a radial");
            if self.end_to_end.iter().any(Option::is_some) {
                return Err(no("end_to_end"));
            }
            if self.board_check.iter().any(Option::is_some) {
                return Err(no("board_check"));
            }
        }
        self.trace(&by_id)
    }

    /// The first outlet of the accessory that an entry is an outlet of.
    fn first_outlet(&self, index: usize, by_id: &HashMap<&str, usize>) -> usize {
        let Some((twin, false)) = outlet(&self.points[index].id) else { return index };
        by_id.get(format!("{twin}/1").as_str()).copied().unwrap_or(index)
    }

    /// The name of the accessory that an entry is of: of two outlets, what they have in common.
    pub(super) fn accessory(&self, laid: &IndexedCase, point: usize) -> String {
        let id = &self.points[point].id;
        outlet(id).filter(|_| laid.is_of_two(point)).map_or(id.as_str(), |(twin, _)| twin).to_owned()
    }

    fn trace(&self, by_id: &HashMap<&str, usize>) -> Result<IndexedCase, Refused> {
        let count = self.points.len();
        let first: Vec<usize> = (0..count).map(|index| self.first_outlet(index, by_id)).collect();
        let own = |index: &usize| first[*index] == *index;
        let main: Vec<usize> = (0..count).filter(own).filter(|&index| self.points[index].spur_from.is_none()).collect();
        let place: HashMap<usize, usize> = main.iter().enumerate().map(|(at, &index)| (index, at + 1)).collect();
        let mut laid = IndexedCase {
            node: vec![0; count],
            spurs: vec![Vec::new(); count],
            spur_m: vec![0.0; count],
            spur_unknown: vec![false; count],
            main,
            first,
        };
        for index in 0..count {
            // Two outlets share the terminals of their accessory.
            let mut at = laid.first[index];
            while let Some(from) = &self.points[at].spur_from {
                let refuse = |allowed: &str| {
                    Refused::new(format!("points[{at}].spur_from"), format!("\"{from}\""), allowed.to_owned())
                };
                if laid.spurs[index].len() >= count {
                    return Err(refuse("a spur leaves the main line or another spur, not itself in a circle"));
                }
                laid.spurs[index].push(at);
                laid.spur_m[index] += self.points[at].leg.map_or(USUAL_SPUR_M, Metres::get);
                laid.spur_unknown[index] |= self.points[at].leg.is_none();
                // A twin may be named as such, or by either of its outlets.
                let first = format!("{from}/1");
                let known = by_id.get(from.as_str()).or_else(|| by_id.get(first.as_str()));
                at = laid.first[*known.ok_or_else(|| refuse("the id of a point of this circuit"))?];
            }
            laid.node[index] = place[&at];
        }
        Ok(laid)
    }

    /// Whether it holds enough figures to say anything.
    pub fn has_enough(&self) -> bool {
        self.taken().len() >= FEWEST_FIGURES && !self.points.is_empty()
    }

    /// The figures taken: at which point (none: at the board), and what was shown. End to end
    /// first, then the board check, then point by point.
    pub(super) fn taken(&self) -> Vec<(Option<usize>, ShownOhms)> {
        let board = self.end_to_end.iter().chain(&self.board_check).flatten().map(|shown| (None, *shown));
        let at_points = (0..self.points.len())
            .flat_map(|point| self.read(point).into_iter().flatten().map(move |shown| (Some(point), shown)));
        board.chain(at_points).collect()
    }

    /// What was read at a point: L–N, L–CPC.
    pub(super) fn read(&self, point: usize) -> [Option<ShownOhms>; 2] {
        [self.points[point].r1_rn, self.points[point].r1_r2]
    }
}
