//! What a page shows of a bench, made part by part.

use super::parts::{Pick, Place, PointedSchedule, Pointer, Spot, Sub, Toggle, spoken};
use crate::forms::Fields;
use proof_bench::practice::paper::{Paper, PaperFigure};
use proof_bench::rig::instrument::{Function, Leads};
use proof_bench::rig::terminal::{Fixed, Side, Terminal, Wire};
use proof_bench::rig::{Fitting, Rig, SubBoard, act::Act, bench::Bench};
use proof_standard::limits::rcd::HalfCycle;
use std::collections::BTreeSet;

pub(super) struct Make<'a> {
    pub rig: &'a Rig,
    pub bench: &'a Bench,
    pub there: BTreeSet<Terminal>,
    pub f: &'a Fields,
    /// So many places of faults are asked for.
    pub places: usize,
}

impl Make<'_> {
    pub(super) fn spot(&self, terminal: Terminal, letter: &'static str) -> Spot {
        let bench = self.bench;
        let probes: Vec<usize> =
            (0..bench.probes()).filter(|probe| bench.instrument.probes[*probe] == Some(terminal)).collect();
        Spot {
            key: terminal.key(),
            act: Act::Probe(bench.hand, Some(terminal)).to_string(),
            letter,
            round: Wire::from_letter(letter).is_some(),
            spoken: format!("Probe {} on {}", bench.hand + 1, spoken(self.rig, terminal)),
            probes: probes.into_iter().map(|probe| probe + 1).collect(),
        }
    }

    /// The terminals of a place, those that are there.
    pub(super) fn all(&self, terminal: impl Fn(Wire) -> Terminal) -> Vec<Spot> {
        let here = Wire::ALL.into_iter().filter(|wire| self.there.contains(&terminal(*wire)));
        here.map(|wire| self.spot(terminal(wire), wire.letter())).collect()
    }

    /// The known source, the fixed values, bonds, an electrode.
    pub(super) fn apart(&self) -> [Vec<Spot>; 4] {
        let two = |of: fn(Side) -> Terminal, labels: [&'static str; 2]| {
            [Side::A, Side::B].into_iter().zip(labels).map(move |(side, label)| (of(side), label)).collect::<Vec<_>>()
        };
        let known = two(Terminal::Known, ["a", "b"]);
        let mut fixed = two(|side| Terminal::Fixed(Fixed::Ohm, side), ["1 Ω"; 2]);
        fixed.extend(two(|side| Terminal::Fixed(Fixed::Megohm, side), ["1 MΩ"; 2]));
        let bonds = (0..self.rig.bonds.len())
            .flat_map(|bond| [(Terminal::BondEnd(bond), "end"), (Terminal::Metal(bond), "pipe")]);
        let mut ground = vec![(Terminal::Electrode, "rod")];
        ground.extend(two(Terminal::Spike, ["spike 1", "spike 2"]));
        [known, fixed, bonds.collect(), ground].map(|all| {
            let here = all.into_iter().filter(|(at, _)| self.there.contains(at));
            here.map(|(at, label)| self.spot(at, label)).collect()
        })
    }

    pub(super) fn board(&self) -> Vec<Toggle> {
        let stand = &self.bench.state;
        let mut all = vec![
            toggle("main", stand.main_on, "Main switch", ["on", "off"], Act::Main(!stand.main_on)),
            toggle("lock", stand.locked, "Lock", ["on, key kept", "not on"], Act::Lock(!stand.locked)),
            toggle(
                "earth",
                !stand.earth_off,
                "Earthing conductor",
                ["connected", "disconnected"],
                Act::Earth(stand.earth_off),
            ),
        ];
        for (index, bond) in self.rig.bonds.iter().enumerate() {
            let on = !stand.bonds_off.contains(&index);
            let label = format!("Bond to {}", bond.to);
            all.push(toggle(&format!("bond{index}"), on, &label, ["on", "off"], Act::Bond(index, !on)));
        }
        if let Some(second) = &self.rig.second {
            let on = stand.second_on;
            all.push(toggle(
                "second",
                on,
                &format!("Isolator of the {}", second.name),
                ["on", "off"],
                Act::Second(!on),
            ));
        }
        if self.rig.surge_megohm.is_some() {
            let on = stand.surge_in;
            all.push(toggle("surge", on, "Module of the surge device", ["in", "out"], Act::Surge(!on)));
        }
        all
    }

    pub(super) fn ends(&self, way: usize, ring: bool) -> Vec<Place> {
        let stand = &self.bench.state;
        let toggles = || {
            let tail = |core: &Wire| {
                let core = *core;
                let on = !stand.out.contains(&(way, core));
                let name = format!("{} of the way", core.letter());
                toggle(
                    &format!("tail-{}", core.letter()),
                    on,
                    &name,
                    ["in its terminal", "out"],
                    Act::Tail(way, core, !on),
                )
            };
            let wires = self.rig.ways.get(way).map_or(&[][..], |way| way.wires());
            wires.iter().map(tail).collect()
        };
        let end = |leg: u8, toggles: Vec<Toggle>| Place {
            name: if ring { format!("End {leg} at the board") } else { "At the board".to_owned() },
            beside: String::new(),
            spots: self.all(|core| Terminal::Tail { way, leg, core }),
            toggles,
            spur: false,
            here: self.pointer(way, "board", "between the board and point 1").filter(|_| leg == 1),
        };
        let mut all = vec![end(1, toggles())];
        if ring {
            all.push(end(2, Vec::new()));
        }
        all
    }

    pub(super) fn points(&self, way: usize) -> Vec<Place> {
        let Some(of) = self.rig.ways.get(way) else { return Vec::new() };
        let stand = &self.bench.state;
        let place = |(index, point): (usize, &proof_physics::network::description::Point)| {
            let fitting = of.fittings.get(index).copied();
            let on = !stand.switches_off.contains(&(way, index));
            let lamp = stand.lamps.contains(&(way, index));
            let behind_switches = fitting == Some(Fitting::Lamp) && !of.switches().is_empty();
            let mut toggles = Vec::new();
            let (label, words) = match fitting {
                Some(Fitting::TwoWay | Fitting::Intermediate) => ("Switch", ["up", "down"]),
                Some(Fitting::Motor) => ("Isolator", ["on", "off"]),
                _ => ("Switch", ["on", "off"]),
            };
            if !behind_switches && fitting != Some(Fitting::Board) {
                toggles.push(toggle(&format!("switch{index}"), on, label, words, Act::Switch(way, index, !on)));
            }
            if fitting == Some(Fitting::Lamp) {
                toggles.push(toggle(
                    &format!("lamp{index}"),
                    lamp,
                    "Lamp",
                    ["in", "out"],
                    Act::Lamp(way, index, !lamp),
                ));
            }
            let spur = point.spur_from.as_ref().and_then(|id| of.cable.points.iter().position(|one| one.id == *id));
            let metres = (point.leg.get() * 10.0).round() / 10.0;
            let electronics = if of.delicate == Some(index) { " with electronics" } else { "" };
            let kind = match fitting {
                Some(Fitting::TwoWay) => ", two-way switch",
                Some(Fitting::Intermediate) => ", intermediate",
                Some(Fitting::Motor) => ", a load on three lines",
                Some(Fitting::Board) => ", a board",
                Some(Fitting::Lamp) => ", lamp",
                _ => "",
            };
            Place {
                name: format!("Point {}{kind}{electronics}", index + 1),
                beside: spur
                    .map_or_else(|| format!("{metres} m"), |from| format!("{metres} m, a spur of point {}", from + 1)),
                spots: self.all(|core| Terminal::Point { way, point: index, core }),
                toggles,
                spur: point.spur_from.is_some(),
                here: self.pointer(way, &(index + 1).to_string(), &format!("at or after point {}", index + 1)),
            }
        };
        of.cable.points.iter().enumerate().map(place).collect()
    }

    /// What is said when the fault of the first way is pointed at, where it is asked for.
    pub(super) fn pointer(&self, way: usize, value: &str, words: &str) -> Option<Pointer> {
        (way == 0 && self.places > 0).then(|| Pointer {
            value: format!("place:{value}"),
            words: words.to_owned(),
            on: self.f.is("place", value) || self.f.is("place2", value),
            says: match (self.places > 1, self.f.is("place", value), self.f.is("place2", value)) {
                (true, true, _) => "the first",
                (true, false, true) => "the second",
                _ => "here?",
            },
        })
    }

    /// A figure of a schedule.
    pub(super) fn figure(&self, cell: &PaperFigure) -> Pointer {
        let on = self.f.get("cell") == cell.key;
        Pointer { value: format!("cell:{}", cell.key), words: cell.text.clone(), on, says: "" }
    }

    pub(super) fn sheet(&self, paper: &Paper) -> PointedSchedule {
        let row = |(words, cells): &(String, Vec<PaperFigure>)| {
            (words.clone(), cells.iter().map(|cell| self.figure(cell)).collect())
        };
        PointedSchedule {
            head: paper.head.iter().map(|(words, cell)| (*words, self.figure(cell))).collect(),
            columns: paper.columns.to_vec(),
            rows: paper.rows.iter().map(row).collect(),
        }
    }

    pub(super) fn subs(&self) -> Vec<Sub> {
        let sub = |(index, board): (usize, &SubBoard)| {
            let on = self.bench.state.subs_on[index];
            let label = format!("Isolator of the {}", board.name.to_lowercase());
            Sub {
                name: board.name.clone(),
                spots: self.all(|core| Terminal::SubBar(index, core)),
                throw: toggle(&format!("sub{index}"), on, &label, ["on", "off"], Act::Sub(index, !on)),
            }
        };
        self.rig.boards.iter().enumerate().map(sub).collect()
    }

    /// The half-cycles of a trip test.
    pub(super) fn halves(&self) -> Vec<Pick> {
        let at = self.bench.instrument.half;
        let one = |half: HalfCycle| Pick {
            key: half.label(),
            act: Act::Half(half).to_string(),
            label: half.label(),
            on: half == at,
        };
        [HalfCycle::Deg0, HalfCycle::Deg180].map(one).into()
    }

    /// Each way with what shows it, and whether it is the one in hand.
    pub(super) fn ways(&self, way: usize) -> Vec<(Toggle, String, bool)> {
        let one = |(index, of): (usize, &proof_bench::rig::Way)| {
            let on = self.bench.state.ways_on[index];
            let label = format!("{} {} {}", index + 1, of.label, of.device);
            let throw = toggle(&format!("way{index}"), on, &label, ["on", "off"], Act::Way(index, !on));
            (throw, format!("show {}", index + 1), index == way)
        };
        self.rig.ways.iter().enumerate().map(one).collect()
    }

    pub(super) fn knob(&self) -> Vec<Pick> {
        let at = self.bench.instrument.function;
        let one =
            |one: Function| Pick { key: one.key(), act: Act::Knob(one).to_string(), label: one.label(), on: one == at };
        Function::ALL.map(one).into()
    }

    pub(super) fn leads(&self) -> Vec<Pick> {
        let at = self.bench.instrument.leads;
        let one =
            |one: Leads| Pick { key: one.key(), act: Act::Take(one).to_string(), label: one.label(), on: one == at };
        Leads::ALL.map(one).into()
    }

    /// Links that are in, and those that are usual here.
    pub(super) fn links(&self, way: usize, ring: bool) -> (Vec<Toggle>, Vec<(String, &'static str, &'static str)>) {
        let named = |(a, b): &(Terminal, Terminal)| {
            let label = format!("Link {} – {}", spoken(self.rig, *a), spoken(self.rig, *b));
            toggle(&format!("link-{a}-{b}"), true, &label, ["in", "out"], Act::Link(*a, *b, false))
        };
        let links = self.bench.state.links.iter().map(named).collect();
        let [one, two] = self.bench.instrument.two();
        let mut usual = Vec::new();
        if let (Some(one), Some(two)) = (one, two)
            && one != two
        {
            usual.push((
                Act::Link(one.min(two), one.max(two), true).to_string(),
                "Link between the two probes",
                "probes",
            ));
        }
        let tail = |leg, core| Terminal::Tail { way, leg, core };
        let board = self.rig.ways.get(way).and_then(|way| way.board.checked_sub(1));
        let bar = |core| board.map_or(Terminal::Bar(core), |board| Terminal::SubBar(board, core));
        if !ring {
            for (core, words) in [(Wire::E, "Link line to the earth bar"), (Wire::N, "Link line to the neutral bar")] {
                let (a, b) = (bar(core), tail(1, Wire::L1));
                usual.push((Act::Link(a.min(b), a.max(b), true).to_string(), words, core.letter()));
            }
        }
        (links, usual)
    }
}

fn toggle(key: &str, on: bool, label: &str, words: [&str; 2], act: Act) -> Toggle {
    let [yes, no] = words;
    Toggle { key: key.to_owned(), act: act.to_string(), label: format!("{label}: {}", if on { yes } else { no }), on }
}
