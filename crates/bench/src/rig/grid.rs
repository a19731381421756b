//! What stands between two terminals of an installation as it stands: resistances, and voltages.

use super::stand::RigState;
use super::terminal::{Side, Terminal};
use super::wiring::{Making, Source, Stress};
use super::{JOINED_OHM, Rig, SUPPLY_V};
use proof_physics::network::solver::{Network, Node, Solved};
use std::cell::OnceCell;
use std::collections::HashMap;

/// The network of an installation as it stands.
pub struct Grid {
    network: Network,
    of: HashMap<Terminal, Node>,
    sources: Vec<Source>,
    transformers: Vec<([Node; 2], [Node; 2], f64)>,
    star: Node,
    at_rest: OnceCell<Solved>,
}

impl Grid {
    /// The network of an installation as it stands, with so many volts on what conducts at high voltage alone.
    pub fn new(rig: &Rig, stand: &RigState, volts: f64) -> Self {
        Self::held(rig, stand, volts, 0)
    }

    /// The same where the button was pressed so often before: what creeps has come so much nearer.
    pub fn held(rig: &Rig, stand: &RigState, volts: f64, tried: u32) -> Self {
        let made = Making::from_rig(rig, stand, Stress { volts, tried });
        let mut network = Network::new(made.nodes);
        for (a, b, ohm) in &made.resistors {
            network.resistor(*a, *b, *ohm);
        }
        let Making { of, sources, transformers, star, .. } = made;
        Self { network, of, sources, transformers, star, at_rest: OnceCell::new() }
    }

    /// Whether there is such a terminal.
    pub fn has(&self, terminal: Terminal) -> bool {
        self.of.contains_key(&terminal)
    }

    /// Every terminal that there is.
    pub fn terminals(&self) -> impl Iterator<Item = Terminal> {
        self.of.keys().copied()
    }

    /// Resistance between two terminals with the windings of the sources as links, Ω: what an ohmmeter reads where
    /// nothing is live, and the loop where something is. `None`: nothing joins them.
    pub fn ohm(&self, a: Terminal, b: Terminal) -> Option<f64> {
        self.at_rest().resistance(*self.of.get(&a)?, *self.of.get(&b)?)
    }

    /// The network with every winding a link.
    fn at_rest(&self) -> &Solved {
        self.at_rest.get_or_init(|| self.without(usize::MAX))
    }

    /// The network with every winding a link but one.
    fn without(&self, source: usize) -> Solved {
        let mut network = self.network.clone();
        for (index, other) in self.sources.iter().enumerate() {
            if index != source {
                network.link(other.high, other.low);
            }
        }
        for (_, [high, low], _) in &self.transformers {
            network.link(*high, *low);
        }
        network.solve()
    }

    /// The network solved for voltages: with one source at a time.
    pub fn energised(&self) -> Energised<'_> {
        Energised { grid: self, solved: (0..self.sources.len()).map(|source| self.without(source)).collect() }
    }
}

/// A network with its sources on.
pub struct Energised<'a> {
    grid: &'a Grid,
    solved: Vec<Solved>,
}

impl Energised<'_> {
    /// What a source puts on a node, as a share of its voltage, by the theorem of reciprocity: it follows from
    /// resistances. What hangs on nothing is at zero.
    fn share(&self, source: usize, node: Node) -> f64 {
        let Some((of, solved)) = self.grid.sources.get(source).zip(self.solved.get(source)) else { return 0.0 };
        let ohm = |a, b| solved.resistance(a, b);
        let above = |node| match (ohm(node, of.high), ohm(node, of.low), ohm(of.high, of.low)) {
            (Some(to_high), Some(to_low), Some(across)) if across > 0.0 => (across + to_low - to_high) / (2.0 * across),
            (Some(_), None, _) => 1.0,
            _ => 0.0,
        };
        above(node) - above(self.grid.star)
    }

    /// Voltage of a node to earth, V, as a phasor.
    fn phasor(&self, node: Node) -> [f64; 2] {
        let mut all = [0.0; 2];
        for (index, source) in self.grid.sources.iter().enumerate() {
            let share = self.share(index, node);
            all[0] += source.volts[0] * share;
            all[1] += source.volts[1] * share;
        }
        all
    }

    fn at(&self, terminal: Terminal) -> [f64; 2] {
        match terminal {
            Terminal::Known(Side::A) => return [SUPPLY_V, 0.0],
            Terminal::Known(Side::B) => return [0.0; 2],
            _ => {}
        }
        self.grid.of.get(&terminal).map_or([0.0; 2], |node| self.phasor(*node))
    }

    /// Voltage of a terminal to earth, V.
    pub fn to_earth(&self, terminal: Terminal) -> f64 {
        let [across, along] = self.at(terminal);
        across.hypot(along)
    }

    /// Voltage between two terminals, V.
    pub fn between(&self, a: Terminal, b: Terminal) -> f64 {
        let ([one, along], [other, beside]) = (self.at(a), self.at(b));
        let plain = (one - other).hypot(along - beside);
        plain.max(self.safe(a, b))
    }

    /// Voltage between two terminals behind a safety transformer, V: it hangs on nothing else.
    fn safe(&self, a: Terminal, b: Terminal) -> f64 {
        let (Some(a), Some(b)) = (self.grid.of.get(&a), self.grid.of.get(&b)) else { return 0.0 };
        let mut most = 0.0_f64;
        for ([line, neutral], [high, low], ratio) in &self.grid.transformers {
            let ([one, along], [other, beside]) = (self.phasor(*line), self.phasor(*neutral));
            let volts = (one - other).hypot(along - beside) * ratio;
            let solved = self.grid.network.solve();
            let copper = |x, y| solved.resistance(x, y).is_some_and(|ohm| ohm < JOINED_OHM);
            if (copper(*a, *high) && copper(*b, *low)) || (copper(*b, *high) && copper(*a, *low)) {
                most = most.max(volts);
            }
        }
        most
    }

    /// How three terminals follow each other: `Some(true)`: the first, the second, the third; `Some(false)`: the other way
    /// round; `None`: they are no three lines.
    pub fn turns(&self, three: [Terminal; 3]) -> Option<bool> {
        let [one, two, three] = three.map(|terminal| self.at(terminal));
        let turn = |from: [f64; 2], to: [f64; 2]| from[0] * to[1] - from[1] * to[0];
        let enough = SUPPLY_V * SUPPLY_V / 2.0;
        let all = [turn(one, two), turn(two, three), turn(three, one)];
        if all.iter().all(|turn| *turn < -enough) {
            Some(true)
        } else if all.iter().all(|turn| *turn > enough) {
            Some(false)
        } else {
            None
        }
    }
}
