//! Resistance between two nodes of a resistor network, Ω. `None` is an open circuit.
//!
//! Nodes joined by nothing at all (a link, zero metres) are merged first. The rest is solved
//! by star–mesh elimination in order of least degree: every step only adds and divides positive
//! conductances, so nothing cancels and a millimetre beside a kilometre loses no digits. That is
//! the factorisation L·D·Lᵀ of the node equations, and R = Σ y²/d for y = L⁻¹(e_a − e_b).

use std::cmp::Reverse;
use std::collections::BinaryHeap;

/// Below this a resistance is a link: no conductor of a building is so short.
const LINK_OHM: f64 = 1e-15;

/// A node of a [`Network`].
pub type Node = usize;

/// Resistors between nodes.
///
/// ```
/// use proof_physics::network::solver::Network;
/// // 2 Ω and 3 Ω side by side, then 1 Ω; node 3 hangs on nothing.
/// let mut network = Network::new(4);
/// network.resistor(0, 1, 2.0);
/// network.resistor(0, 1, 3.0);
/// network.resistor(1, 2, 1.0);
/// let solved = network.solve();
/// assert!((solved.resistance(0, 2).unwrap() - 2.2).abs() < 1e-12);
/// assert_eq!(solved.resistance(0, 3), None);
/// ```
#[derive(Debug, Clone, Default)]
pub struct Network {
    nodes: usize,
    resistors: Vec<(Node, Node, f64)>,
}

impl Network {
    /// A network of unconnected nodes `0..nodes`.
    pub fn new(nodes: usize) -> Self {
        Self { nodes, resistors: Vec::new() }
    }

    /// Puts a resistor between two nodes. Zero joins them; infinite (or NaN) is an open circuit.
    pub fn resistor(&mut self, a: Node, b: Node, ohm: f64) {
        if ohm.is_finite() && a != b && a < self.nodes && b < self.nodes {
            self.resistors.push((a, b, ohm.max(0.0)));
        }
    }

    /// Joins two nodes by a link without resistance.
    pub fn link(&mut self, a: Node, b: Node) {
        self.resistor(a, b, 0.0);
    }

    /// Factorises the network; any number of pairs may then be read.
    pub fn solve(&self) -> Solved {
        let mut merged = Sets::new(self.nodes);
        for &(a, b, ohm) in &self.resistors {
            if ohm < LINK_OHM {
                merged.join(a, b);
            }
        }
        let root: Vec<Node> = (0..self.nodes).map(|node| merged.root(node)).collect();
        let mut connected = Sets::new(self.nodes);
        let mut meets: Vec<Vec<(Node, f64)>> = vec![Vec::new(); self.nodes];
        for &(a, b, ohm) in &self.resistors {
            let (a, b) = (root[a], root[b]);
            if a != b && ohm >= LINK_OHM {
                connected.join(a, b);
                add(&mut meets[a], b, 1.0 / ohm);
                add(&mut meets[b], a, 1.0 / ohm);
            }
        }
        let component = (0..self.nodes).map(|node| connected.root(root[node])).collect();
        let steps = eliminate(meets, &root);
        let mut place = vec![usize::MAX; self.nodes];
        for (at, step) in steps.iter().enumerate() {
            place[step.node] = at;
        }
        Solved { root, component, place, steps }
    }
}

fn add(list: &mut Vec<(Node, f64)>, node: Node, siemens: f64) {
    match list.iter_mut().find(|(other, _)| *other == node) {
        Some((_, sum)) => *sum += siemens,
        None => list.push((node, siemens)),
    }
}

/// One node taken out of the mesh: its whole conductance, and the share of each neighbour.
#[derive(Debug, Clone)]
struct Step {
    node: Node,
    siemens: f64,
    shares: Vec<(Node, f64)>,
}

fn eliminate(mut meets: Vec<Vec<(Node, f64)>>, root: &[Node]) -> Vec<Step> {
    let mut queue: BinaryHeap<Reverse<(usize, Node)>> = (0..meets.len())
        .filter(|&node| root[node] == node && !meets[node].is_empty())
        .map(|node| Reverse((meets[node].len(), node)))
        .collect();
    let mut done = vec![false; meets.len()];
    let mut at = vec![usize::MAX; meets.len()];
    let mut steps = Vec::with_capacity(queue.len());
    while let Some(Reverse((degree, node))) = queue.pop() {
        if done[node] || degree != meets[node].len() {
            continue;
        }
        done[node] = true;
        let star = std::mem::take(&mut meets[node]);
        if star.is_empty() {
            continue; // the last of its component: the reference node
        }
        let siemens: f64 = star.iter().map(|(_, g)| g).sum();
        let shares: Vec<(Node, f64)> = star.iter().map(|&(other, g)| (other, g / siemens)).collect();
        for &(a, g) in &star {
            let list = &mut meets[a];
            list.retain(|(other, _)| *other != node);
            for (index, (other, _)) in list.iter().enumerate() {
                at[*other] = index;
            }
            for &(b, share) in &shares {
                if b == a {
                    continue;
                }
                if at[b] == usize::MAX {
                    list.push((b, g * share));
                } else {
                    list[at[b]].1 += g * share;
                }
            }
            for (other, _) in list.iter() {
                at[*other] = usize::MAX;
            }
            queue.push(Reverse((list.len(), a)));
        }
        steps.push(Step { node, siemens, shares });
    }
    steps
}

/// A factorised network.
#[derive(Debug, Clone)]
pub struct Solved {
    root: Vec<Node>,
    component: Vec<Node>,
    place: Vec<usize>,
    steps: Vec<Step>,
}

impl Solved {
    /// Resistance between two nodes, Ω; `None` when nothing joins them or a node is unknown.
    pub fn resistance(&self, a: Node, b: Node) -> Option<f64> {
        let (a, b) = (*self.root.get(a)?, *self.root.get(b)?);
        if a == b {
            return Some(0.0);
        }
        if self.component[a] != self.component[b] {
            return None;
        }
        let mut current = vec![0.0_f64; self.root.len()];
        current[a] = 1.0;
        current[b] = -1.0;
        let first = self.place[a].min(self.place[b]);
        let mut ohm = 0.0;
        for step in self.steps.get(first..).unwrap_or_default() {
            let through = current[step.node];
            if through != 0.0 {
                ohm += through * through / step.siemens;
                for &(other, share) in &step.shares {
                    current[other] += through * share;
                }
            }
        }
        Some(ohm)
    }
}

/// Disjoint sets of nodes.
struct Sets(Vec<Node>);

impl Sets {
    fn new(nodes: usize) -> Self {
        Self((0..nodes).collect())
    }

    fn root(&mut self, mut node: Node) -> Node {
        while self.0[node] != node {
            self.0[node] = self.0[self.0[node]];
            node = self.0[node];
        }
        node
    }

    fn join(&mut self, a: Node, b: Node) {
        let (a, b) = (self.root(a), self.root(b));
        self.0[a.max(b)] = a.min(b);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(nodes: usize, resistors: &[(Node, Node, f64)], a: Node, b: Node) -> Option<f64> {
        let mut network = Network::new(nodes);
        for &(from, to, ohm) in resistors {
            network.resistor(from, to, ohm);
        }
        network.solve().resistance(a, b)
    }

    #[test]
    fn series_parallel_link_and_open() {
        assert_eq!(read(3, &[(0, 1, 2.0), (1, 2, 3.0)], 0, 2), Some(5.0));
        assert_eq!(read(2, &[(0, 1, 2.0), (0, 1, 2.0)], 0, 1), Some(1.0));
        assert_eq!(read(3, &[(0, 1, 0.0), (1, 2, 3.0)], 0, 2), Some(3.0));
        assert_eq!(read(3, &[(0, 1, 1.0)], 0, 2), None);
        assert_eq!(read(2, &[(0, 1, f64::INFINITY)], 0, 1), None);
        assert_eq!(read(2, &[], 1, 1), Some(0.0));
        assert_eq!(read(2, &[], 0, 9), None);
    }

    /// A balanced bridge carries no current through its middle: 1 Ω whatever stands there.
    #[test]
    fn balanced_bridge() {
        for middle in [0.0, 1e-9, 1.0, 1e9, f64::INFINITY] {
            let sides = [(0, 1, 1.0), (1, 3, 1.0), (0, 2, 1.0), (2, 3, 1.0), (1, 2, middle)];
            let ohm = read(4, &sides, 0, 3).unwrap();
            assert!((ohm - 1.0).abs() < 1e-12, "{middle}: {ohm}");
        }
    }

    /// Corners of a cube of twelve equal resistors: 5/6 across the space diagonal.
    #[test]
    fn cube() {
        let mut edges = Vec::new();
        for corner in 0..8_usize {
            for bit in [1, 2, 4] {
                if corner & bit == 0 {
                    edges.push((corner, corner | bit, 1.0));
                }
            }
        }
        let ohm = read(8, &edges, 0, 7).unwrap();
        assert!((ohm - 5.0 / 6.0).abs() < 1e-12);
    }

    #[test]
    fn extreme_ratios_lose_no_digits() {
        let ohm = read(4, &[(0, 1, 1e-9), (1, 2, 1e9), (2, 3, 1e-9), (0, 3, 1.0)], 0, 3).unwrap();
        assert!((ohm - 1.0).abs() < 1e-8);
        let ohm = read(3, &[(0, 1, 1e-12), (1, 2, 1e6)], 0, 1).unwrap();
        assert!((ohm / 1e-12 - 1.0).abs() < 1e-12);
    }
}
