//! A bench as a page shows it: every terminal a button, every switch a button, the instrument, what was read.

use crate::forms::Fields;
use proof_bench::practice::{Ask, Posed, Truth};
use proof_bench::rig::instrument::{Function, Leads};
use proof_bench::rig::terminal::{Side, Terminal};
use proof_bench::rig::{Fitting, Rig};
use proof_bench::rig::{
    act::Act,
    bench::{Bench, Taken},
};
use proof_core::conductor::Core;
use proof_core::installation::Shape;
use proof_store::Practice;
use uuid::Uuid;

/// Readings that the page lists.
const LISTED: usize = 10;

/// A terminal to press.
pub(crate) struct Spot {
    pub key: String,
    pub act: String,
    pub letter: &'static str,
    pub spoken: String,
    /// The probes that are on it.
    pub probes: Vec<usize>,
}

/// Something with two states; pressed it takes the other.
pub(crate) struct Toggle {
    pub key: String,
    pub act: String,
    pub label: String,
    pub on: bool,
}

/// A place with terminals: an accessory, an end of a circuit.
pub(crate) struct Place {
    pub name: String,
    pub beside: String,
    pub spots: Vec<Spot>,
    pub toggles: Vec<Toggle>,
    pub spur: bool,
}

/// One of a row to choose from.
pub(crate) struct Pick {
    pub key: &'static str,
    pub act: String,
    pub label: &'static str,
    pub on: bool,
}

/// A question with what was answered.
pub(crate) struct Asked {
    pub name: &'static str,
    pub label: &'static str,
    /// Key and words; empty: a figure.
    pub of: Vec<(String, String)>,
    pub value: String,
}

/// All of it.
pub(crate) struct View {
    pub id: Uuid,
    pub at: usize,
    pub title: String,
    pub goal: String,
    pub hints: Vec<&'static str>,
    pub more_hints: bool,
    /// It is an exercise, and no circuit that is tried.
    pub is_exercise: bool,
    pub told: String,
    pub is_unsafe: bool,
    pub over: bool,
    pub incoming: Vec<Spot>,
    pub bars: Vec<Spot>,
    pub known: Vec<Spot>,
    pub metal: Vec<Spot>,
    pub board: Vec<Toggle>,
    pub ways: Vec<(Toggle, String, bool)>,
    pub way: usize,
    pub label: String,
    pub device: String,
    pub ends: Vec<Place>,
    pub points: Vec<Place>,
    pub links: Vec<Toggle>,
    pub shortcuts: Vec<(String, &'static str, &'static str)>,
    pub shown: String,
    pub function: &'static str,
    pub knob: Vec<Pick>,
    pub leads: Vec<Pick>,
    pub nulled: String,
    pub hand: usize,
    pub probes: [String; 2],
    pub proved: bool,
    pub taken: Vec<String>,
    pub count: usize,
    pub asks: Vec<Asked>,
}

const fn of_core(core: Core) -> &'static str {
    match core {
        Core::L => "line",
        Core::N => "neutral",
        Core::E => "earth",
    }
}

/// A terminal in words.
pub(crate) fn spoken(rig: &Rig, terminal: Terminal) -> String {
    match terminal {
        Terminal::Known(Side::A) => "known source a".into(),
        Terminal::Known(Side::B) => "known source b".into(),
        Terminal::Incoming(core) => format!("incoming {}", of_core(core)),
        Terminal::Bar(core) => format!("{} bar", of_core(core)),
        Terminal::Tail { way, leg, core } => format!("way {} end {leg} {}", way + 1, of_core(core)),
        Terminal::Point { way, point, core } => format!("way {} point {} {}", way + 1, point + 1, of_core(core)),
        Terminal::BondEnd(bond) => rig
            .bonds
            .get(bond)
            .map_or_else(|| "bond".to_owned(), |bond| format!("board end of the bond to {}", bond.to)),
        Terminal::Metal(bond) => {
            rig.bonds.get(bond).map_or_else(|| "metal".to_owned(), |bond| format!("pipe of {}", bond.to))
        }
    }
}

/// A reading in one line.
pub(crate) fn taken(rig: &Rig, one: &Taken) -> String {
    let at = |probe: Option<Terminal>| probe.map_or_else(|| "in the hand".into(), |at| spoken(rig, at));
    let [a, b] = one.probes;
    let place = if a == b { "tips together".to_owned() } else { format!("{} – {}", at(a), at(b)) };
    format!("{}: {place}: {}", one.function.label(), one.shown.text())
}

struct Make<'a> {
    rig: &'a Rig,
    bench: &'a Bench,
}

impl Make<'_> {
    fn spot(&self, terminal: Terminal, letter: &'static str) -> Spot {
        let bench = self.bench;
        let probes: Vec<usize> = (0..2).filter(|probe| bench.instrument.probes[*probe] == Some(terminal)).collect();
        Spot {
            key: terminal.key(),
            act: Act::Probe(bench.hand, Some(terminal)).to_string(),
            letter,
            spoken: format!("Probe {} on {}", bench.hand + 1, spoken(self.rig, terminal)),
            probes: probes.into_iter().map(|probe| probe + 1).collect(),
        }
    }

    fn three(&self, terminal: impl Fn(Core) -> Terminal) -> Vec<Spot> {
        Core::ALL.map(|core| self.spot(terminal(core), core.letter())).into()
    }

    fn board(&self) -> Vec<Toggle> {
        let stand = &self.bench.stand;
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
        all
    }

    fn ends(&self, way: usize, ring: bool) -> Vec<Place> {
        let stand = &self.bench.stand;
        let toggles = || {
            let tail = |core: Core| {
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
            Core::ALL.map(tail).into()
        };
        let end = |leg: u8, toggles: Vec<Toggle>| Place {
            name: if ring { format!("End {leg} at the board") } else { "At the board".to_owned() },
            beside: String::new(),
            spots: self.three(|core| Terminal::Tail { way, leg, core }),
            toggles,
            spur: false,
        };
        let mut all = vec![end(1, toggles())];
        if ring {
            all.push(end(2, Vec::new()));
        }
        all
    }

    fn points(&self, way: usize) -> Vec<Place> {
        let Some(of) = self.rig.ways.get(way) else { return Vec::new() };
        let stand = &self.bench.stand;
        let place = |(index, point): (usize, &proof_core::network::description::Point)| {
            let on = !stand.switches_off.contains(&(way, index));
            let lamp = stand.lamps.contains(&(way, index));
            let mut toggles =
                vec![toggle(&format!("switch{index}"), on, "Switch", ["on", "off"], Act::Switch(way, index, !on))];
            if of.fittings.get(index) == Some(&Fitting::Lamp) {
                toggles.push(toggle(
                    &format!("lamp{index}"),
                    lamp,
                    "Lamp",
                    ["in", "out"],
                    Act::Lamp(way, index, !lamp),
                ));
            }
            Place {
                name: format!("Point {}", index + 1),
                beside: format!("{} m", point.leg.get()),
                spots: self.three(|core| Terminal::Point { way, point: index, core }),
                toggles,
                spur: point.spur_from.is_some(),
            }
        };
        of.cable.points.iter().enumerate().map(place).collect()
    }

    /// Each way with what shows it, and whether it is the one in hand.
    fn ways(&self, way: usize) -> Vec<(Toggle, String, bool)> {
        let one = |(index, of): (usize, &proof_bench::rig::Way)| {
            let on = self.bench.stand.ways_on[index];
            let label = format!("{} {} {}", index + 1, of.label, of.device);
            let throw = toggle(&format!("way{index}"), on, &label, ["on", "off"], Act::Way(index, !on));
            (throw, format!("show {}", index + 1), index == way)
        };
        self.rig.ways.iter().enumerate().map(one).collect()
    }

    fn knob(&self) -> Vec<Pick> {
        let at = self.bench.instrument.function;
        let one =
            |one: Function| Pick { key: one.key(), act: Act::Knob(one).to_string(), label: one.label(), on: one == at };
        Function::ALL.map(one).into()
    }

    fn leads(&self) -> Vec<Pick> {
        let at = self.bench.instrument.leads;
        let one =
            |one: Leads| Pick { key: one.key(), act: Act::Take(one).to_string(), label: one.label(), on: one == at };
        Leads::ALL.map(one).into()
    }

    /// Links that are in, and those that are usual here.
    fn links(&self, way: usize, ring: bool) -> (Vec<Toggle>, Vec<(String, &'static str, &'static str)>) {
        let named = |(a, b): &(Terminal, Terminal)| {
            let label = format!("Link {} – {}", spoken(self.rig, *a), spoken(self.rig, *b));
            toggle(&format!("link-{a}-{b}"), true, &label, ["in", "out"], Act::Link(*a, *b, false))
        };
        let links = self.bench.stand.links.iter().map(named).collect();
        let [one, two] = self.bench.instrument.probes;
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
        if !ring {
            for (core, words) in [(Core::E, "Link line to the earth bar"), (Core::N, "Link line to the neutral bar")] {
                usual.push((Act::Link(Terminal::Bar(core), tail(1, Core::L), true).to_string(), words, core.letter()));
            }
        }
        (links, usual)
    }
}

fn toggle(key: &str, on: bool, label: &str, words: [&str; 2], act: Act) -> Toggle {
    let [yes, no] = words;
    Toggle { key: key.to_owned(), act: act.to_string(), label: format!("{label}: {}", if on { yes } else { no }), on }
}

impl View {
    /// How a bench stands, with what was typed beside it.
    pub(crate) fn of(practice: &Practice, posed: &Posed, bench: &Bench, f: Fields) -> Self {
        let rig = &bench.rig;
        let make = Make { rig, bench };
        let way = f.get("shown_way").parse::<usize>().ok().and_then(|way| way.checked_sub(1));
        let way = way.filter(|way| *way < rig.ways.len()).unwrap_or(0);
        let ring = rig.ways.get(way).is_some_and(|way| way.cable.shape == Shape::Ring);
        let given = super::hints(practice).min(posed.hints.len());
        let (links, shortcuts) = make.links(way, ring);
        let instrument = &bench.instrument;
        let at = |probe: usize| instrument.probes[probe].map_or_else(|| "in the hand".into(), |at| spoken(rig, at));
        let known =
            [Side::A, Side::B].map(|side| make.spot(Terminal::Known(side), if side == Side::A { "a" } else { "b" }));
        let nulled = instrument
            .null
            .map_or("not nulled".to_owned(), |(leads, ohm)| format!("nulled {ohm:.2} Ω, {}", leads.label()));
        Self {
            id: practice.id,
            at: practice.acts.len(),
            title: posed.title.clone(),
            goal: posed.goal.clone(),
            hints: posed.hints[..given].to_vec(),
            more_hints: given < posed.hints.len(),
            is_exercise: posed.truth != Truth::Tried,
            told: bench.told.clone(),
            is_unsafe: bench.told.starts_with("Unsafe"),
            over: bench.is_over(),
            incoming: make.three(Terminal::Incoming),
            bars: make.three(Terminal::Bar),
            known: known.into(),
            metal: (0..rig.bonds.len())
                .flat_map(|bond| [make.spot(Terminal::BondEnd(bond), "end"), make.spot(Terminal::Metal(bond), "pipe")])
                .collect(),
            board: make.board(),
            ways: make.ways(way),
            way: way + 1,
            label: rig.ways.get(way).map(|way| way.label.clone()).unwrap_or_default(),
            device: rig.ways.get(way).map(|way| way.device.clone()).unwrap_or_default(),
            ends: make.ends(way, ring),
            points: make.points(way),
            links,
            shortcuts,
            shown: bench.shown.text(),
            function: instrument.function.label(),
            knob: make.knob(),
            leads: make.leads(),
            nulled,
            hand: bench.hand + 1,
            probes: [at(0), at(1)],
            proved: bench.proving.is_done(),
            taken: bench.taken.iter().rev().take(LISTED).map(|one| taken(rig, one)).collect(),
            count: bench.taken.len(),
            asks: posed.asks.iter().map(|ask| asked(ask, &f)).collect(),
        }
    }
}

fn asked(ask: &Ask, f: &Fields) -> Asked {
    let value = f.get(ask.name()).to_owned();
    match ask {
        Ask::Choice { name, label, of } => Asked { name, label, of: of.clone(), value },
        Ask::Figure { name, label } => Asked { name, label, of: Vec::new(), value },
    }
}
