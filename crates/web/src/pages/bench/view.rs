//! A bench as a page shows it: every terminal a button, every switch a button, the instrument, what was read.

use super::make::Make;
use super::parts::{AskedField, Pick, Place, PointedSchedule, Spot, Sub, Toggle, hints, spoken};
use crate::forms::Fields;
use proof_bench::practice::{Ask, Posed, Truth};
use proof_bench::rig::Rig;
use proof_bench::rig::bench::{Bench, BenchReading};
use proof_bench::rig::grid::Grid;
use proof_bench::rig::terminal::Terminal;
use proof_standard::shape::Shape;
use proof_store::Practice;
use uuid::Uuid;

/// Readings that the page lists.
const LISTED: usize = 10;

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
    pub message: String,
    pub is_unsafe: bool,
    pub over: bool,
    pub incoming: Vec<Spot>,
    pub bars: Vec<Spot>,
    pub known: Vec<Spot>,
    pub metal: Vec<Spot>,
    pub fixed: Vec<Spot>,
    pub ground: Vec<Spot>,
    pub subs: Vec<Sub>,
    pub sheet: Option<PointedSchedule>,
    /// What is pointed at, in words.
    pub pointed: String,
    pub beside: String,
    pub board: Vec<Toggle>,
    pub ways: Vec<(Toggle, String, bool)>,
    pub way: usize,
    pub label: String,
    pub device: String,
    /// So many places of faults may be pointed at on this way.
    pub places: usize,
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
    pub next: usize,
    pub probes: Vec<String>,
    pub halves: Vec<Pick>,
    pub proved: bool,
    pub taken: Vec<String>,
    pub count: usize,
    pub asks: Vec<AskedField>,
}

/// A reading in one line.
pub(crate) fn taken(rig: &Rig, one: &BenchReading) -> String {
    let at = |probe: Option<Terminal>| probe.map_or_else(|| "in the hand".into(), |at| spoken(rig, at));
    let [a, b, third] = one.probes;
    let third = third.map(|third| format!(" – {}", spoken(rig, third))).unwrap_or_default();
    let place = if a == b { "tips together".to_owned() } else { format!("{} – {}", at(a), at(b)) };
    let said = if one.trip.is_empty() { String::new() } else { format!(" ({})", one.trip) };
    format!("{}: {place}{third}: {}{said}", one.function.label(), one.shown.text())
}

impl View {
    /// How a bench stands, with what was typed beside it.
    pub(crate) fn from_practice(practice: &Practice, posed: &Posed, bench: &Bench, f: Fields) -> Self {
        let rig = &bench.rig;
        let there = Grid::new(rig, &bench.state, 0.0).terminals().collect();
        let places = posed.asks.iter().filter(|ask| ["place", "place2"].contains(&ask.name())).count();
        let make = Make { rig, bench, there, f: &f, places };
        let way = f.get("shown_way").parse::<usize>().ok().and_then(|way| way.checked_sub(1));
        let way = way.filter(|way| *way < rig.ways.len()).unwrap_or(0);
        let ring = rig.ways.get(way).is_some_and(|way| way.cable.shape == Shape::Ring);
        let given = hints(practice).min(posed.hints.len());
        let (links, shortcuts) = make.links(way, ring);
        let instrument = &bench.instrument;
        let at = |probe: usize| instrument.probes[probe].map_or_else(|| "in the hand".into(), |at| spoken(rig, at));
        let [known, fixed, metal, ground] = make.apart();
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
            message: bench.message.clone(),
            is_unsafe: bench.message.starts_with("Unsafe"),
            over: bench.is_over(),
            incoming: make.all(Terminal::Incoming),
            bars: make.all(Terminal::Bar),
            known,
            metal,
            fixed,
            ground,
            subs: make.subs(),
            sheet: posed.paper.as_ref().map(|paper| make.sheet(paper)),
            pointed: posed.paper.as_ref().map(|paper| paper.words(f.get("cell"))).unwrap_or_default(),
            beside: beside(bench),
            board: make.board(),
            ways: make.ways(way),
            way: way + 1,
            label: rig.ways.get(way).map(|way| way.label.clone()).unwrap_or_default(),
            device: rig.ways.get(way).map(|way| way.device.clone()).unwrap_or_default(),
            places: if way == 0 { places } else { 0 },
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
            next: (bench.hand + 1) % bench.probes() + 1,
            probes: (0..bench.probes()).map(at).collect(),
            halves: make.halves(),
            proved: bench.proving.is_done(),
            taken: bench.readings.iter().rev().take(LISTED).map(|one| taken(rig, one)).collect(),
            count: bench.readings.len(),
            asks: posed.asks.iter().map(|ask| asked(ask, &f)).collect(),
        }
    }
}

/// What a thermometer beside the board tells: the copper of a building is about as warm as the building.
fn beside(bench: &Bench) -> String {
    let celsius = bench.rig.copper_c;
    if (celsius - 20.0).abs() > 0.5 { format!("the cables are at {celsius} °C") } else { String::new() }
}

fn asked(ask: &Ask, f: &Fields) -> AskedField {
    let value = f.get(ask.name()).to_owned();
    let pointed = matches!(ask, Ask::Pointed { .. });
    match ask {
        Ask::Choice { name, label, of } => AskedField { name, label, of: of.clone(), value, pointed },
        Ask::Figure { name, label } | Ask::Pointed { name, label } => {
            AskedField { name, label, of: Vec::new(), value, pointed }
        }
    }
}
