//! What a suspected fault would make the instrument show, fast enough to ask it ten thousand times.
//!
//! Without a bridge every conductor is a chain from one end to the other and every reading is one
//! or two ways along chains in parallel, so no network has to be solved. A bridge (or metal beside
//! the CPC) is a delta: outside it the chain gets shorter, inside it a point hangs on the arm of
//! the equivalent star. A property test holds all of this against the network solver.

use crate::diagnosis::case::{Case, IndexedCase};
use crate::diagnosis::fault_component::FaultComponent;
use proof_standard::conductor::Core;
use proof_standard::shape::Shape;

/// An open circuit, Ω.
pub(super) const OPEN: f64 = f64::INFINITY;

/// Everything that would be shown; infinite is over range.
#[derive(Debug, Clone, Default)]
pub(super) struct Figures {
    pub ends: [f64; 3],
    pub check: [f64; 2],
    pub points: Vec<[f64; 2]>,
}

/// The values under which suspected faults are simulated.
#[derive(Debug, Clone, Copy)]
pub(super) struct Setting<'a> {
    pub parts: &'a [FaultComponent],
    /// Sizes of the parts, one after the other: Ω, m or (for a bridge) m and stretch.
    pub sizes: &'a [f64],
    /// Whole length of the main line, m.
    pub length_m: f64,
    /// Place of each node along it, 0 … 1, where its own figures are read.
    pub along: &'a [f64],
    /// Place of each node along it, where a bridge begins or ends.
    pub anchors: &'a [f64],
}

/// Where a core of a point leads: an end of a conductor, and the resistance on the way.
#[derive(Clone, Copy)]
struct Exit {
    core: usize,
    far: bool,
    ohm: f64,
}

/// A conductor with its lumps: (segment, Ω).
struct Chain {
    whole: f64,
    lumps: [(usize, f64); 4],
    count: usize,
}

impl Chain {
    fn lump(&mut self, segment: usize, ohm: f64) {
        if self.count < self.lumps.len() {
            self.lumps[self.count] = (segment, ohm);
            self.count += 1;
        }
    }

    /// Lumps in the segments from node `i` to node `j`.
    fn lumps_between(&self, i: usize, j: usize) -> f64 {
        self.lumps[..self.count].iter().filter(|(segment, _)| (i..j).contains(segment)).map(|(_, ohm)| ohm).sum()
    }
}

#[derive(Clone, Copy)]
struct Loop {
    from: usize,
    to: usize,
    /// Resistance of the extra way for L, N, E; infinite where there is none.
    ohm: [f64; 3],
    stretch: f64,
}

/// A ring or radial with what is suspected of it.
pub(super) struct Simulated<'a> {
    case: &'a Case,
    laid: &'a IndexedCase,
    setting: Setting<'a>,
    /// Ω/m of line, neutral and CPC as suspected.
    per_metre: [f64; 3],
    chains: [Chain; 3],
    bridge: Option<Loop>,
    cross: Option<([usize; 2], usize)>,
    /// Whether the links join each leg with itself, step by step.
    own_leg: [bool; 2],
    leads: f64,
    ring: bool,
    last: usize,
}

fn beside(a: f64, b: f64) -> f64 {
    if a.is_infinite() {
        b
    } else if b.is_infinite() {
        a
    } else if a + b > 0.0 {
        a * b / (a + b)
    } else {
        0.0
    }
}

impl<'a> Simulated<'a> {
    pub(super) fn new(case: &'a Case, laid: &'a IndexedCase, setting: Setting<'a>, cpc_rates: &[f64]) -> Self {
        let mut per_metre = case.cores.0;
        for part in setting.parts {
            if let FaultComponent::WrongCpc { row } = part {
                per_metre[2] = cpc_rates[*row];
            }
        }
        let chain = |rate: f64| Chain { whole: rate * setting.length_m, lumps: [(0, 0.0); 4], count: 0 };
        let chains = [chain(per_metre[0]), chain(per_metre[1]), chain(per_metre[2])];
        let ring = case.shape == Shape::Ring;
        let mut simulated = Self {
            case,
            laid,
            setting,
            per_metre,
            chains,
            bridge: None,
            cross: None,
            own_leg: [false; 2],
            leads: 0.0,
            ring,
            last: laid.main.len() + usize::from(ring),
        };
        let mut size = setting.sizes.iter().copied();
        for part in setting.parts {
            match *part {
                FaultComponent::Joint { core, segment } => {
                    simulated.chains[core.index()].lump(segment, size.next().unwrap_or(0.0));
                }
                FaultComponent::Open { core, segment } => simulated.chains[core.index()].lump(segment, OPEN),
                FaultComponent::Cross { cores, segment } => simulated.cross = Some((cores.map(Core::index), segment)),
                FaultComponent::Bridge { from, to } => {
                    let metres = size.next().unwrap_or(0.0);
                    let stretch = size.next().unwrap_or(1.0);
                    simulated.bridge = Some(Loop { from, to, ohm: per_metre.map(|rate| rate * metres), stretch });
                }
                FaultComponent::ParallelEarth { from, to } => {
                    let ohm = [OPEN, OPEN, size.next().unwrap_or(0.0)];
                    simulated.bridge = Some(Loop { from, to, ohm, stretch: 1.0 });
                }
                FaultComponent::OwnLeg { step } => {
                    for at in 0..2 {
                        simulated.own_leg[at] |= step.is_none_or(|only| only == at);
                    }
                }
                FaultComponent::Leads => simulated.leads += size.next().unwrap_or(0.0),
                _ => {
                    for _ in 0..part.sizes() {
                        size.next();
                    }
                }
            }
        }
        simulated
    }

    /// Resistance of a core between two nodes along the main line, the bridge left out.
    fn plain(&self, core: usize, i: usize, j: usize, x_i: f64, x_j: f64) -> f64 {
        let chain = &self.chains[core];
        (x_j - x_i).max(0.0) * chain.whole + if chain.count == 0 { 0.0 } else { chain.lumps_between(i, j) }
    }

    fn anchor(&self, node: usize) -> f64 {
        self.setting.anchors[node]
    }

    /// Between two nodes (`low` and `high` places of their own), and what of it lies before and
    /// after a node between them; the last figure stands between the node's terminal and the chain.
    fn arms(&self, core: usize, low: usize, node: usize, high: usize) -> (f64, f64, f64) {
        let x = self.setting.along[node];
        let at = |other: usize| if other == node { x } else { self.anchor(other) };
        let (x_low, x_high) = (at(low), at(high));
        let extra = self.bridge.filter(|extra| extra.ohm[core].is_finite() && extra.from >= low && extra.to <= high);
        let Some(extra) = extra else {
            return (self.plain(core, low, node, x_low, x), self.plain(core, node, high, x, x_high), 0.0);
        };
        let (f, t) = (extra.from, extra.to);
        let (x_f, x_t) = (at(f), at(t));
        if node > f && node < t {
            let near = extra.stretch * self.plain(core, f, node, x_f, x);
            let rest = extra.stretch * self.plain(core, node, t, x, x_t);
            let (arm_f, arm_t, arm) = star(near, rest, extra.ohm[core]);
            let before = self.plain(core, low, f, x_low, x_f);
            return (before + arm_f, arm_t + self.plain(core, t, high, x_t, x_high), arm);
        }
        let short = beside(extra.stretch * self.plain(core, f, t, x_f, x_t), extra.ohm[core]);
        if node <= f {
            let far = self.plain(core, node, f, x, x_f) + short + self.plain(core, t, high, x_t, x_high);
            (self.plain(core, low, node, x_low, x), far, 0.0)
        } else {
            let near = self.plain(core, low, f, x_low, x_f) + short + self.plain(core, t, node, x_t, x);
            (near, self.plain(core, node, high, x, x_high), 0.0)
        }
    }

    /// From one end of a stretch to the other.
    fn whole(&self, core: usize, low: usize, high: usize) -> f64 {
        if low >= high {
            return 0.0;
        }
        let (near, far, _) = self.arms(core, low, low, high);
        near + far
    }

    /// From the board to a node that stands where `x` says.
    fn up_to(&self, core: usize, node: usize, x: f64) -> f64 {
        self.whole(core, 0, node) + (x - self.anchor(node)) * self.chains[core].whole
    }

    /// The core that this one becomes beyond the crossed segment.
    fn becomes(&self, core: usize) -> Option<(usize, usize)> {
        let (cores, segment) = self.cross?;
        if core == cores[0] {
            Some((cores[1], segment))
        } else if core == cores[1] {
            Some((cores[0], segment))
        } else {
            None
        }
    }

    fn exits(&self, core: usize, node: usize) -> ([Exit; 2], f64) {
        let last = self.last;
        let exit =
            |core: usize, far: bool, ohm: f64| Exit { core, far, ohm: if far && !self.ring { OPEN } else { ohm } };
        match self.becomes(core) {
            None => {
                let (near, far, arm) = self.arms(core, 0, node, last);
                ([exit(core, false, near), exit(core, true, far)], arm)
            }
            // Each core keeps its own resistance as it leaves on the leg 1 side.
            Some((other, segment)) if node <= segment => {
                let (near, far, arm) = self.arms(core, 0, node, segment + 1);
                let beyond = self.whole(other, segment + 1, last);
                ([exit(core, false, near), exit(other, true, far + beyond)], arm)
            }
            Some((other, segment)) => {
                let (near, far, arm) = self.arms(core, segment + 1, node, last);
                let x = if node == segment + 1 { self.setting.along[node] } else { self.anchor(segment + 1) };
                let before = self.up_to(other, segment + 1, x);
                ([exit(other, false, near + before), exit(core, true, far)], arm)
            }
        }
    }

    /// The end that the board's link joins this end with.
    fn partner(&self, core: usize, far: bool, other: usize) -> Option<(usize, bool)> {
        let line = Core::L.index();
        let crossed = self.ring && !self.own_leg[other - 1];
        if core == line {
            (self.ring || !far).then_some((other, far != crossed))
        } else if core == other {
            (self.ring || !far).then_some((line, far != crossed))
        } else {
            None
        }
    }

    /// Resistance from an end on to the other terminal's chain.
    fn walk(&self, from: Exit, other: usize, to: &[Exit; 2], third: &[Exit; 2], through_third: bool) -> f64 {
        if from.ohm.is_infinite() {
            return OPEN;
        }
        let Some((core, far)) = self.partner(from.core, from.far, other) else { return OPEN };
        let meets = |exit: &Exit| exit.core == core && exit.far == far;
        if let Some(exit) = to.iter().find(|exit| meets(exit)) {
            return from.ohm + exit.ohm;
        }
        if through_third {
            return OPEN;
        }
        for (a, b) in [(0, 1), (1, 0)] {
            if meets(&third[a]) {
                let on = Exit { ohm: from.ohm + third[a].ohm + third[b].ohm, ..third[b] };
                return self.walk(on, other, to, third, true);
            }
        }
        OPEN
    }

    /// Between two terminals of a node, with the links of a step made.
    fn between(&self, node: usize, terminals: [usize; 2], other: usize) -> f64 {
        let (a, arm_a) = self.exits(terminals[0], node);
        let (b, arm_b) = self.exits(terminals[1], node);
        let third = if self.cross.is_some() {
            self.exits(3 - terminals[0] - terminals[1], node).0
        } else {
            [Exit { core: 3, far: false, ohm: OPEN }; 2]
        };
        let ohm = beside(self.walk(a[0], other, &b, &third, false), self.walk(a[1], other, &b, &third, false));
        ohm + arm_a + arm_b
    }

    fn end_to_end(&self, core: usize) -> f64 {
        if self.becomes(core).is_some() { OPEN } else { self.whole(core, 0, self.last) }
    }

    /// Line–neutral and line–CPC of a node between its own conductors.
    fn both(&self, node: usize) -> [f64; 2] {
        if self.cross.is_some() {
            return [self.between(node, [0, 1], 1), self.between(node, [0, 2], 2)];
        }
        let line = self.arms(0, 0, node, self.last);
        let neutral = self.arms(1, 0, node, self.last);
        let cpc = self.arms(2, 0, node, self.last);
        [self.crossed(line, neutral, 0), self.crossed(line, cpc, 1)]
    }

    /// Line and another conductor of a node, without crossed cores: one way or two in parallel.
    fn crossed(&self, line: (f64, f64, f64), other: (f64, f64, f64), step: usize) -> f64 {
        let ways = if !self.ring {
            line.0 + other.0
        } else if self.own_leg[step] {
            beside(line.0 + other.0, line.1 + other.1)
        } else {
            beside(line.0 + other.1, line.1 + other.0)
        };
        ways + line.2 + other.2
    }

    /// What a point shows in both steps.
    pub(super) fn at_point(&self, point: usize) -> [f64; 2] {
        let node = self.laid.node[point];
        // What is behind the accessory is behind both of its outlets.
        let accessory = self.laid.first[point];
        let spur_m = self.laid.spur_m[point];
        let [line, neutral, cpc] = self.per_metre;
        let loops = [line + neutral, line + cpc];
        let mut extra = [self.leads + spur_m * loops[0], self.leads + spur_m * loops[1]];
        let mut swapped = None;
        let mut at_size = 0;
        for part in self.setting.parts {
            let size = |more: usize| self.setting.sizes.get(at_size + more).copied().unwrap_or(0.0);
            let metres = match *part {
                FaultComponent::Spur { point: at } if at == accessory => size(0),
                FaultComponent::SpurOfTwo { point: at } if at == point => size(0),
                FaultComponent::SpurOfTwo { point: at } if at + 1 == point => size(0) + size(1),
                FaultComponent::SwitchOff { point: at } if at == point => return [OPEN; 2],
                FaultComponent::Swap { point: at, cores } if at == accessory => {
                    swapped = Some(cores.map(Core::index));
                    0.0
                }
                FaultComponent::Contact { point: at } | FaultComponent::BothOutlets { point: at }
                    if at == point || matches!(part, FaultComponent::BothOutlets { .. }) && at == accessory =>
                {
                    extra = [extra[0] + size(0), extra[1] + size(0)];
                    0.0
                }
                FaultComponent::SpurJoint { core, point: at, open } if self.laid.spurs[point].contains(&at) => {
                    let ohm = if open { OPEN } else { size(0) };
                    for (step, extra) in extra.iter_mut().enumerate() {
                        if core == Core::L || core.index() == step + 1 {
                            *extra += ohm;
                        }
                    }
                    0.0
                }
                _ => 0.0,
            };
            extra = [extra[0] + metres * loops[0], extra[1] + metres * loops[1]];
            at_size += part.sizes();
        }
        let own = match swapped {
            None => self.both(node),
            Some([a, b]) => [1, 2].map(|other| {
                let held = |terminal: usize| match terminal {
                    t if t == a => b,
                    t if t == b => a,
                    t => t,
                };
                self.between(node, [held(0), held(other)], other)
            }),
        };
        [own[0] + extra[0], own[1] + extra[1]]
    }

    /// The figures that were taken, in the order of [`Case::taken`].
    pub(super) fn taken(&self, into: &mut Vec<f64>) {
        into.clear();
        if self.ring {
            for core in 0..3 {
                if self.case.end_to_end[core].is_some() {
                    into.push(self.end_to_end(core) + self.leads);
                }
            }
            if self.case.board_check != [None; 2] {
                let check = self.both(0);
                for (ohm, read) in check.into_iter().zip(self.case.board_check) {
                    if read.is_some() {
                        into.push(ohm + self.leads);
                    }
                }
            }
        }
        for point in 0..self.case.points.len() {
            let [rn, r2] = self.case.read(point);
            if rn.is_none() && r2.is_none() {
                continue;
            }
            let shown = self.at_point(point);
            if rn.is_some() {
                into.push(shown[0]);
            }
            if r2.is_some() {
                into.push(shown[1]);
            }
        }
    }

    /// All figures, taken or not.
    pub(super) fn all_figures(&self) -> Figures {
        let points = (0..self.case.points.len()).map(|point| self.at_point(point));
        let mut all = Figures { ends: [f64::NAN; 3], check: [f64::NAN; 2], points: points.collect() };
        if self.ring {
            all.ends = [0, 1, 2].map(|core| self.end_to_end(core) + self.leads);
            all.check = self.both(0).map(|ohm| ohm + self.leads);
        }
        all
    }
}

/// The star of a delta: `near` and `rest` meet at the point, `z` closes it. Arms to the node
/// before, to the node after, to the point.
fn star(near: f64, rest: f64, z: f64) -> (f64, f64, f64) {
    if near.is_infinite() && rest.is_infinite() {
        return (0.0, z, OPEN);
    }
    if near.is_infinite() {
        return (z, 0.0, rest);
    }
    if rest.is_infinite() {
        return (0.0, z, near);
    }
    let sum = near + rest + z;
    if sum <= 0.0 {
        return (0.0, 0.0, 0.0);
    }
    (near * z / sum, rest * z / sum, near * rest / sum)
}
