//! What an ohmmeter reads on a described circuit, end to end, at the board and at every point.
//!
//! Step 2 links line and neutral at the board, step 3 line and CPC: on a ring the line of one leg
//! with the other conductor of the other leg, on a radial at the one end there is. Exact, by the
//! network; nothing is divided by four.

use crate::network::description::{BOARD, Description, Fault, Layout, Refused, SegmentName};
use crate::network::solver::{Network, Node, Solved};
use proof_standard::conductor::Core;
use proof_standard::shape::Shape;

/// Readings between the two ends of each conductor of a ring, Ω; `None` is open.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct EndToEnd {
    /// Line.
    pub r1: Option<f64>,
    /// Neutral.
    pub rn: Option<f64>,
    /// CPC.
    pub r2: Option<f64>,
}

/// A line–neutral and a line–CPC reading, Ω; `None` is open.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TwoSteps {
    /// With line and neutral linked at the board.
    pub r1_rn: Option<f64>,
    /// With line and CPC linked at the board.
    pub r1_r2: Option<f64>,
}

/// Everything that is read on a circuit.
#[derive(Debug, Clone, PartialEq)]
pub struct Expected {
    /// Rings only.
    pub end_to_end: Option<EndToEnd>,
    /// Between the ends of leg 1 with the links made; rings only.
    pub board_check: Option<TwoSteps>,
    /// At each point, in the order described.
    pub points: Vec<TwoSteps>,
}

struct Segment {
    from: Node,
    to: Node,
    ohm: [f64; 3],
    cross: Option<[Core; 2]>,
}

struct Built<'a> {
    description: &'a Description,
    segments: Vec<Segment>,
    /// Base node of every point: L, N, E follow.
    nodes: usize,
    bridges: Vec<(Node, Node, [f64; 3])>,
    metal: Vec<(Node, Node, f64)>,
    terminals: Vec<[Core; 3]>,
    contact: Vec<f64>,
    own_leg: bool,
}

const LEG_1: Node = 0;

const LEG_2: Node = 3;

const fn point_node(index: usize) -> Node {
    6 + 3 * index
}

/// Reads the whole circuit.
///
/// ```
/// use proof_standard::shape::Shape;
/// use proof_physics::network::circuit::expect;
/// use proof_physics::network::description::{Description, OhmPerMetre, Point};
/// use proof_standard::quantity::{Celsius, Metres, SquareMillimetres};
/// // A radial of 20 m in 2.5/1.5 mm²: 20 m · (7.41 + 12.1) mΩ/m.
/// let sizes = [2.5, 2.5, 1.5].map(SquareMillimetres::literal);
/// let cores = OhmPerMetre::copper(sizes, Celsius::literal(20.0)).unwrap();
/// let points = vec![Point { id: "A".into(), spur_from: None, leg: Metres::literal(20.0) }];
/// let read = expect(&Description { shape: Shape::Radial, cores, points, return_leg: None, faults: vec![] })?;
/// assert!((read.points[0].r1_r2.unwrap() - 0.3902).abs() < 1e-9);
/// # Ok::<(), proof_physics::network::description::Refused>(())
/// ```
///
/// # Errors
/// [`Refused`] when the description makes no sense, naming the key.
pub fn expect(description: &Description) -> Result<Expected, Refused> {
    let layout = description.layout()?;
    let built = Built::new(description, &layout)?;
    let ring = description.shape == Shape::Ring;
    let end_to_end = ring.then(|| {
        let solved = built.network(None).solve();
        let read = |core: Core| solved.resistance(LEG_1 + core.index(), LEG_2 + core.index());
        EndToEnd { r1: read(Core::L), rn: read(Core::N), r2: read(Core::E) }
    });
    let step_2 = built.network(Some(Core::N)).solve();
    let step_3 = built.network(Some(Core::E)).solve();
    let at_board = |solved: &Solved, other: Core| solved.resistance(LEG_1 + Core::L.index(), LEG_1 + other.index());
    let board_check = ring.then(|| TwoSteps { r1_rn: at_board(&step_2, Core::N), r1_r2: at_board(&step_3, Core::E) });
    let points = (0..description.points.len())
        .map(|point| TwoSteps {
            r1_rn: built.read(&step_2, point, Core::N),
            r1_r2: built.read(&step_3, point, Core::E),
        })
        .collect();
    Ok(Expected { end_to_end, board_check, points })
}

impl<'a> Built<'a> {
    fn new(description: &'a Description, layout: &Layout<'_>) -> Result<Self, Refused> {
        let cable = |metres: f64| description.cores.0.map(|per_metre| per_metre * metres);
        let mut segments = Vec::with_capacity(description.points.len() + 1);
        let mut from = LEG_1;
        for &index in &layout.main {
            let to = point_node(index);
            segments.push(Segment { from, to, ohm: cable(description.points[index].leg.get()), cross: None });
            from = to;
        }
        if let Some(leg) = description.return_leg {
            segments.push(Segment { from, to: LEG_2, ohm: cable(leg.get()), cross: None });
        }
        for (index, parent) in layout.parent.iter().enumerate() {
            if let Some(parent) = parent {
                let ohm = cable(description.points[index].leg.get());
                segments.push(Segment { from: point_node(*parent), to: point_node(index), ohm, cross: None });
            }
        }
        let mut built = Self {
            description,
            segments,
            nodes: point_node(description.points.len()),
            bridges: Vec::new(),
            metal: Vec::new(),
            terminals: vec![Core::ALL; description.points.len()],
            contact: vec![0.0; description.points.len()],
            own_leg: false,
        };
        for (index, fault) in description.faults.iter().enumerate() {
            built.apply(index, fault, layout)?;
        }
        Ok(built)
    }

    fn apply(&mut self, index: usize, fault: &Fault, layout: &Layout<'_>) -> Result<(), Refused> {
        let key = |name: &str| format!("faults[{index}].{name}");
        let point = |name: &str, id: &str| {
            layout.by_id.get(id).copied().ok_or_else(|| {
                let allowed = if id == BOARD { "a point, not the board" } else { "the id of a point of this circuit" };
                Refused::new(key(name), format!("\"{id}\""), allowed)
            })
        };
        match fault {
            Fault::HighResistanceJoint { conductor, segment, ohm } => {
                let at = self.segment(index, segment, layout)?;
                self.segments[at].ohm[conductor.index()] += ohm.get();
            }
            Fault::Open { conductor, segment } => {
                let at = self.segment(index, segment, layout)?;
                self.segments[at].ohm[conductor.index()] = f64::INFINITY;
            }
            Fault::Cross { conductors, segment } => {
                let at = self.segment(index, segment, layout)?;
                two_different(&key("conductors"), *conductors)?;
                if self.segments[at].cross.replace(*conductors).is_some() {
                    return Err(Refused::new(key("kind"), "a second cross in this segment", "one cross in a segment"));
                }
            }
            Fault::Contact { at, ohm } => {
                self.contact[point("at", at)?] += ohm.map_or(f64::INFINITY, proof_standard::quantity::Ohms::get);
            }
            Fault::Swap { at, conductors: [a, b] } => {
                let at = point("at", at)?;
                two_different(&key("conductors"), [*a, *b])?;
                if self.terminals[at] != Core::ALL {
                    return Err(Refused::new(key("kind"), "a second swap at this point", "one swap at a point"));
                }
                self.terminals[at].swap(a.index(), b.index());
            }
            Fault::Bridge { from, to, leg } => {
                let (from, to) = (point("from", from)?, point("to", to)?);
                let ohm = self.description.cores.0.map(|per_metre| per_metre * leg.get());
                self.bridges.push((point_node(from), point_node(to), ohm));
            }
            Fault::ParallelEarth { between: [a, b], ohm } => {
                let place = |id: &str| if id == BOARD { Ok(LEG_1) } else { point("between", id).map(point_node) };
                let (a, b) = (place(a)?, place(b)?);
                self.metal.push((a + Core::E.index(), b + Core::E.index(), ohm.get()));
            }
            Fault::OwnLeg => {
                if self.description.shape == Shape::Radial {
                    return Err(Refused::new(
                        key("kind"),
                        "own_leg on a radial",
                        "own_leg on a ring only: a radial has one leg",
                    ));
                }
                self.own_leg = true;
            }
        }
        Ok(())
    }

    fn segment(&self, index: usize, name: &SegmentName, layout: &Layout<'_>) -> Result<usize, Refused> {
        let ring = self.description.shape == Shape::Ring;
        let (key, id) = match name {
            SegmentName::After(id) => ("after", id),
            SegmentName::Into(id) => ("into", id),
        };
        let refuse = |allowed: &str| Refused::new(format!("faults[{index}].{key}"), format!("\"{id}\""), allowed);
        let place_in_main = |index: usize| layout.main.iter().position(|&point| point == index);
        let mains = layout.main.len();
        match name {
            SegmentName::After(id) if id == BOARD => {
                if mains > 0 || ring {
                    Ok(0)
                } else {
                    Err(refuse("a segment that exists: this radial has no points"))
                }
            }
            SegmentName::Into(id) if id == BOARD => {
                if ring {
                    Ok(mains)
                } else {
                    Err(refuse("a point: only a ring leads back into the board"))
                }
            }
            SegmentName::After(id) | SegmentName::Into(id) => {
                let point = *layout
                    .by_id
                    .get(id.as_str())
                    .ok_or_else(|| refuse("board or the id of a point of this circuit"))?;
                match (name, place_in_main(point)) {
                    (SegmentName::Into(_), Some(place)) => Ok(place),
                    (SegmentName::Into(_), None) => {
                        let spurs_before = (0..point).filter(|&other| layout.parent[other].is_some()).count();
                        Ok(mains + usize::from(ring) + spurs_before)
                    }
                    (SegmentName::After(_), None) => {
                        Err(refuse("a main-line point or board: for the cable of a spur say into"))
                    }
                    (SegmentName::After(_), Some(place)) if place + 1 < mains || ring => Ok(place + 1),
                    (SegmentName::After(_), Some(_)) => {
                        Err(refuse("any main-line point but the last of a radial: nothing leaves it"))
                    }
                }
            }
        }
    }

    /// The network with line linked to `other` at the board, or with no link.
    fn network(&self, other: Option<Core>) -> Network {
        let mut network = Network::new(self.nodes);
        for segment in &self.segments {
            for core in Core::ALL {
                let arrives = match segment.cross {
                    Some([a, b]) if core == a => b,
                    Some([a, b]) if core == b => a,
                    _ => core,
                };
                network.resistor(segment.from + core.index(), segment.to + arrives.index(), segment.ohm[core.index()]);
            }
        }
        for (from, to, ohm) in &self.bridges {
            for core in Core::ALL {
                network.resistor(from + core.index(), to + core.index(), ohm[core.index()]);
            }
        }
        for (a, b, ohm) in &self.metal {
            network.resistor(*a, *b, *ohm);
        }
        if let Some(other) = other.map(Core::index) {
            let line = Core::L.index();
            match (self.description.shape, self.own_leg) {
                (Shape::Radial, _) => network.link(LEG_1 + line, LEG_1 + other),
                (Shape::Ring, false) => {
                    network.link(LEG_1 + line, LEG_2 + other);
                    network.link(LEG_2 + line, LEG_1 + other);
                }
                (Shape::Ring, true) => {
                    network.link(LEG_1 + line, LEG_1 + other);
                    network.link(LEG_2 + line, LEG_2 + other);
                }
            }
        }
        network
    }

    fn read(&self, solved: &Solved, point: usize, other: Core) -> Option<f64> {
        let terminals = &self.terminals[point];
        let node = |terminal: Core| point_node(point) + terminals[terminal.index()].index();
        let ohm = solved.resistance(node(Core::L), node(other))? + self.contact[point];
        ohm.is_finite().then_some(ohm)
    }
}

fn two_different(key: &str, [a, b]: [Core; 2]) -> Result<(), Refused> {
    if a == b {
        return Err(Refused::new(key, format!("[\"{a:?}\",\"{b:?}\"]"), "two different conductors of L, N, E"));
    }
    Ok(())
}
