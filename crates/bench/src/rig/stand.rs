//! How an installation stands: switches, ways, links, conductors in and out, lamps, the earthing conductor.

use super::terminal::{Terminal, Wire};
use super::{Fitting, Rig};
use std::collections::BTreeSet;

/// How it stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RigState {
    /// The main switch.
    pub main_on: bool,
    /// Locked off, the key in the pocket.
    pub locked: bool,
    /// Each way's device.
    pub ways_on: Vec<bool>,
    /// Each sub-board's isolator.
    pub subs_on: Vec<bool>,
    /// The isolator of the second source.
    pub second_on: bool,
    /// The module of the surge device is in.
    pub surge_in: bool,
    /// Conductors of a way that are out of their terminals at the board, both legs of a ring.
    pub out: BTreeSet<(usize, Wire)>,
    /// Links between tails at the board.
    pub links: BTreeSet<(Terminal, Terminal)>,
    /// The earthing conductor is off.
    pub earth_off: bool,
    /// Bonds that are off.
    pub bonds_off: BTreeSet<usize>,
    /// Lamps that are in, by way and point.
    pub lamps: BTreeSet<(usize, usize)>,
    /// Switches that are off, by way and point: of a lamp, of a socket, an isolator; thrown, where it is one of several.
    pub switches_off: BTreeSet<(usize, usize)>,
    /// Electronics that were broken, by way.
    pub broken: BTreeSet<usize>,
}

impl RigState {
    /// As it is in use: everything on, everything in.
    pub fn in_use(rig: &Rig) -> Self {
        let lamps = rig.ways.iter().enumerate().flat_map(|(way, of)| {
            let lamps = of.fittings.iter().enumerate().filter(|(_, fitting)| **fitting == Fitting::Lamp);
            lamps.map(move |(point, _)| (way, point)).collect::<Vec<_>>()
        });
        Self {
            main_on: true,
            locked: false,
            ways_on: vec![true; rig.ways.len()],
            subs_on: vec![true; rig.boards.len()],
            second_on: rig.second.is_some(),
            surge_in: rig.surge_megohm.is_some(),
            out: BTreeSet::new(),
            links: BTreeSet::new(),
            earth_off: false,
            bonds_off: BTreeSet::new(),
            lamps: lamps.collect(),
            switches_off: BTreeSet::new(),
            broken: BTreeSet::new(),
        }
    }

    /// As it is when the dead tests begin: off, locked, lamps out.
    pub fn isolated(rig: &Rig) -> Self {
        let ways_on = vec![false; rig.ways.len()];
        Self { main_on: false, locked: true, ways_on, second_on: false, lamps: BTreeSet::new(), ..Self::in_use(rig) }
    }

    /// What is not as it was found, in words, the links first.
    pub fn not_put_back(&self, rig: &Rig) -> Vec<String> {
        let mut all: Vec<String> = self.links.iter().map(|(a, b)| format!("link {a} to {b}")).collect();
        all.extend(self.out.iter().map(|(way, core)| format!("{} of way {} out", core.letter(), way + 1)));
        if self.earth_off {
            all.push("earthing conductor disconnected".into());
        }
        if rig.surge_megohm.is_some() && !self.surge_in {
            all.push("module of the surge device out".into());
        }
        all.extend(
            self.bonds_off
                .iter()
                .filter_map(|bond| rig.bonds.get(*bond))
                .map(|bond| format!("bond to {} off", bond.to)),
        );
        all
    }
}
