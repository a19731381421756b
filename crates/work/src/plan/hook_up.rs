//! The hook-up of one step: terminals, links, probes and adapter, as a list. Drawings are made
//! from this list and from nothing else.

use crate::plan::preparation::{neutral_is_shared, prepare, prepare_points, prepare_set};
use crate::plan::search::Lift;
use proof_job::installation::switching::switchings;
use proof_job::installation::{Circuit, Installation, PointId};
use proof_job::job::Job;
use proof_job::reading::{Method, Place, Stage, Step, Subject, Test};
use proof_job::site::{LONG_LEAD, leads};
use proof_standard::conductor::Conductor;
use proof_standard::house_rules::LinkMethod;
use proof_standard::shape::Shape;

/// Said where the neutral of a circuit hangs together with others.
const NEUTRAL_ON_BAR: &str = "its neutral stays on the bar: this reading is of every neutral on that bar";

/// Where a terminal is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Side {
    /// At the board, or the main earthing terminal.
    Board,
    /// At the point.
    Point,
}

/// A terminal or the end of a conductor.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Terminal {
    /// Where it is.
    pub side: Side,
    /// Which conductor.
    pub conductor: Conductor,
    /// First or second leg of a ring.
    pub leg: Option<u8>,
    /// Its own name, where it has one: `N3`, `MET`, `guillotine frame`.
    pub name: String,
    /// The conductor is out of its terminal.
    pub out: bool,
}

/// What is connected for a step.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct HookUp {
    /// Where to stand.
    pub where_to_stand: String,
    /// Every terminal that matters.
    pub terminals: Vec<Terminal>,
    /// Links between terminals, by index.
    pub links: Vec<(usize, usize)>,
    /// What the two leads of the instrument are on, by index.
    pub probes: Option<(usize, usize)>,
    /// What goes between leads and terminals.
    pub adapter: &'static str,
    /// What else to see to.
    pub notes: Vec<String>,
}

fn terminal_name(circuit: &Circuit, conductor: Conductor) -> String {
    match conductor {
        Conductor::N => circuit.neutral_terminal.clone(),
        Conductor::E => circuit.cpc_terminal.clone(),
        _ => format!("way {}", circuit.way),
    }
}

struct Drawn(HookUp);

impl Drawn {
    fn terminal(&mut self, side: Side, conductor: Conductor, leg: Option<u8>, name: String, out: bool) -> usize {
        self.0.terminals.push(Terminal { side, conductor, leg, name, out });
        self.0.terminals.len() - 1
    }
}

/// What to connect for a step.
pub fn hook_up(installation: &Installation, step: &Step) -> HookUp {
    let mut drawn = Drawn(HookUp::default());
    match &step.key.subject {
        Subject::Place { circuit, place } => {
            let Some(circuit) = installation.circuit(*circuit) else { return drawn.0 };
            let board = installation.board(circuit.board).map_or("the board", |board| board.name.as_str());
            match step.stage {
                Stage::EndToEnd | Stage::R1Rn | Stage::R1R2 | Stage::Sequence => {
                    continuity(&mut drawn, installation, circuit, step, place)
                }
                Stage::R2 => long_lead(&mut drawn, circuit, place),
                Stage::Insulation => draw_insulation(&mut drawn, installation, circuit, (step, place)),
                Stage::Polarity => drawn.0.notes.push("colours and terminal letters at every point".into()),
                Stage::Bonding | Stage::Origin | Stage::Zs | Stage::Rcd | Stage::Functional => {}
            }
            let at =
                place.point().filter(|_| step.stage != Stage::Insulation || !matches!(place, Place::Switch { .. }));
            drawn.0.where_to_stand = match at.and_then(|id| circuit.point(id)) {
                Some(point) if point.name.starts_with(|c: char| c.is_ascii_digit()) => format!("point {}", point.name),
                Some(point) => point.name.clone(),
                None if step.stage == Stage::Sequence => far_end(installation, circuit).unwrap_or(board).to_owned(),
                None => board.to_owned(),
            };
        }
        Subject::CircuitSet { circuits } => {
            let first = circuits.iter().find_map(|id| installation.circuit(*id));
            let board = first.and_then(|circuit| installation.board(circuit.board));
            let lines = board.map_or(installation.supply.lines, |board| board.lines);
            let (a, b) = pair_conductors(step);
            insulation(&mut drawn, proof_job::installation::conductors_of(lines), a, b, |_| "bar".to_owned());
            if let Some(board) = board {
                board.name.clone_into(&mut drawn.0.where_to_stand);
                let off: Vec<&str> = installation
                    .circuits_on(board.id)
                    .filter(|circuit| !circuits.contains(&circuit.id))
                    .map(|circuit| circuit.way.as_str())
                    .collect();
                let pair = if step.key.test == Test::InsulationJoined { None } else { step.key.pair };
                drawn.0.notes.push("main switch off, supply locked off; all ways on but those named".into());
                if !off.is_empty() {
                    drawn.0.notes.push(format!("off the bar ({}): way {}", Lift::for_pair(pair).off(), off.join(", ")));
                }
                let seen_to =
                    prepare_set(installation, board.id, circuits, pair.is_some_and(|pair| !pair.is_to_earth()));
                drawn.0.notes.extend(seen_to.into_iter().map(|one| one.what));
            }
        }
        Subject::Bond { bond } => {
            let to = installation.supply.bonds.iter().find(|other| other.id == *bond).map_or("part", |bond| &bond.to);
            bonding(&mut drawn, installation, step, to);
        }
        Subject::Supply if step.stage == Stage::Bonding => bonding(&mut drawn, installation, step, "means of earthing"),
        _ => {}
    }
    drawn.0
}

/// What to connect, as the job stands: of a circuit that is isolated alone, at the point of work.
pub fn hook_up_now(job: &Job, step: &Step) -> HookUp {
    let site = job.site();
    let circuit = step.key.subject.circuit().and_then(|id| job.installation.circuit(id));
    match circuit.and_then(|circuit| site.alone(circuit.board, circuit.id)) {
        Some(alone) => hook_up_alone(&job.installation, step, alone.place),
        None => hook_up(&job.installation, step),
    }
}

/// The same, for a circuit that is isolated alone: its insulation is read at the point of work, since
/// nothing inside the live board is touched.
pub fn hook_up_alone(installation: &Installation, step: &Step, place: &str) -> HookUp {
    let mut list = hook_up(installation, step);
    let circuit = step.key.subject.circuit().and_then(|id| installation.circuit(id));
    if let Some(circuit) = circuit.filter(|_| step.stage == Stage::Insulation) {
        place.clone_into(&mut list.where_to_stand);
        for terminal in &mut list.terminals {
            terminal.side = Side::Point;
            terminal.name.clear();
        }
        // What is seen to at the board is not: it is live. Of a neutral on the bar nothing is read so.
        let (all, points) = (prepare(installation, circuit), prepare_points(circuit).len());
        let at_board = &all[..all.len().saturating_sub(points)];
        list.notes.retain(|note| note != NEUTRAL_ON_BAR && !at_board.iter().any(|one| one.what == *note));
        list.notes.insert(0, "read at the point of work: the board is live, and stays closed".to_owned());
    }
    list
}

/// Insulation of a circuit, with what is seen to before it.
fn draw_insulation(drawn: &mut Drawn, installation: &Installation, circuit: &Circuit, (step, place): (&Step, &Place)) {
    let (a, b) = pair_conductors(step);
    insulation(drawn, proof_job::installation::conductors(circuit), a, b, |conductor| {
        terminal_name(circuit, conductor)
    });
    if let Place::Switch { point, .. } = place {
        let switch = circuit.point(*point).map_or("the two-way switch", |point| point.name.as_str());
        drawn.0.notes.push(format!("{switch} turned over first, the other switches left as they are"));
    }
    drawn.0.notes.extend(prepare(installation, circuit).into_iter().map(|one| one.what));
    let with_neutral = a.is_none() || a == Some(Conductor::N) && b == Conductor::E;
    if with_neutral && neutral_is_shared(installation, circuit) {
        drawn.0.notes.push(NEUTRAL_ON_BAR.to_owned());
    }
}

fn pair_conductors(step: &Step) -> (Option<Conductor>, Conductor) {
    step.key.pair.filter(|_| step.key.test != Test::InsulationJoined).map_or((None, Conductor::E), |pair| {
        let (a, b) = pair.both();
        (Some(a), b)
    })
}

fn continuity(drawn: &mut Drawn, installation: &Installation, circuit: &Circuit, step: &Step, place: &Place) {
    let followed = step.stage == Stage::Sequence;
    let line = step.key.line.unwrap_or(if followed { Conductor::L1 } else { Conductor::L });
    let other = match step.stage {
        Stage::R1Rn => Conductor::N,
        _ => Conductor::E,
    };
    if circuit.shape == Shape::Ring {
        // Both legs out, line, neutral and CPC of each.
        let mut at = Vec::new();
        for leg in [1, 2] {
            for conductor in [Conductor::L, Conductor::N, Conductor::E] {
                let name = terminal_name(circuit, conductor);
                at.push((leg, conductor, drawn.terminal(Side::Board, conductor, Some(leg), name, true)));
            }
        }
        let end = |leg: u8, conductor: Conductor| {
            at.iter().find(|(l, c, _)| *l == leg && *c == conductor).map_or(0, |(.., index)| *index)
        };
        if let Test::RingEndToEnd { conductor } = step.key.test {
            drawn.0.probes = Some((end(1, conductor), end(2, conductor)));
            return;
        }
        drawn.0.links = vec![(end(1, Conductor::L), end(2, other)), (end(2, Conductor::L), end(1, other))];
        if *place == Place::Board {
            drawn.0.probes = Some((end(1, Conductor::L), end(1, other)));
            drawn.0.notes.push("line and the other conductor of the same leg".into());
            return;
        }
    } else {
        let out = installation.house_rules.link == LinkMethod::ConductorsOut;
        let a = drawn.terminal(Side::Board, line, None, terminal_name(circuit, line), out);
        let b = drawn.terminal(Side::Board, other, None, terminal_name(circuit, other), out);
        drawn.0.links = vec![(a, b)];
    }
    let a = drawn.terminal(Side::Point, line, None, String::new(), false);
    let name = match place {
        Place::Metalwork { name, .. } => name.clone(),
        _ => String::new(),
    };
    let b = drawn.terminal(Side::Point, other, None, name, false);
    drawn.0.probes = Some((a, b));
    drawn.0.adapter = match (leads(installation, step).set, place) {
        ("plug-in lead", Place::Outlet { .. }) => "plug-in lead, in the second outlet",
        ("probes" | "clips" | LONG_LEAD, _) => "",
        (set, _) => set,
    };
    if followed {
        let said =
            "L1 linked to CPC: L1 alone reads at the far end, L2 and L3 stay open; then the link on L2, then on L3";
        drawn.0.notes.push(said.to_owned());
    }
    match place {
        Place::Switch { position, .. } => drawn.0.notes.push(format!("switch in position: {position}")),
        Place::Switched { thrown, .. } => drawn.0.notes.push(throws(circuit, thrown)),
        Place::Point { point } if is_switched(circuit, *point) => {
            let said = "set the two-way switches so that it reads; from there each is thrown";
            drawn.0.notes.push(said.to_owned());
        }
        _ => {}
    }
}

/// The far end of a circuit: the board that it feeds, else its last point.
fn far_end<'a>(installation: &'a Installation, circuit: &'a Circuit) -> Option<&'a str> {
    let fed = installation.fed_by(circuit).map(|board| board.name.as_str());
    fed.or_else(|| circuit.main_points().last().map(|point| point.name.as_str()))
}

/// Whether what is read at a point passes two-way switches.
fn is_switched(circuit: &Circuit, point: PointId) -> bool {
    switchings(circuit).iter().any(|one| one.lamps.contains(&point) || one.switches.last() == Some(&point))
}

/// Which switches are thrown, and what should come of it.
fn throws(circuit: &Circuit, thrown: &[PointId]) -> String {
    let name = |id: &PointId| circuit.point(*id).map_or("", |point| point.name.as_str());
    let names = thrown.iter().map(name).collect::<Vec<_>>().join(" and ");
    let comes = if thrown.len() % 2 == 1 { "it should open" } else { "it should read as at first" };
    format!("{names} thrown from where it first read, the others as they were: {comes}")
}

fn long_lead(drawn: &mut Drawn, circuit: &Circuit, place: &Place) {
    let a = drawn.terminal(Side::Board, Conductor::E, None, "main earthing terminal".into(), false);
    let name = match place {
        Place::Metalwork { name, .. } => name.clone(),
        _ => format!("CPC, way {}", circuit.way),
    };
    let b = drawn.terminal(Side::Point, Conductor::E, None, name, false);
    drawn.0.probes = Some((a, b));
    drawn.0.adapter = "long lead, nulled first";
}

fn insulation(
    drawn: &mut Drawn,
    conductors: &[Conductor],
    a: Option<Conductor>,
    b: Conductor,
    name: impl Fn(Conductor) -> String,
) {
    let at: Vec<(Conductor, usize)> = conductors
        .iter()
        .map(|conductor| (*conductor, drawn.terminal(Side::Board, *conductor, None, name(*conductor), false)))
        .collect();
    let index =
        |wanted: Conductor| at.iter().find(|(conductor, _)| *conductor == wanted).map_or(0, |(_, index)| *index);
    if let Some(a) = a {
        drawn.0.probes = Some((index(a), index(b)));
    } else {
        // All live conductors joined together.
        let live: Vec<usize> = at.iter().filter(|(c, _)| *c != Conductor::E).map(|(_, index)| *index).collect();
        drawn.0.links = live.windows(2).map(|pair| (pair[0], pair[1])).collect();
        drawn.0.probes = live.first().map(|first| (*first, index(Conductor::E)));
    }
}

fn bonding(drawn: &mut Drawn, installation: &Installation, step: &Step, to: &str) {
    // The earthing conductor has ends, a bond a clamp on metal.
    let earthing = step.key.subject == Subject::Supply;
    drawn.0.where_to_stand = if earthing { "earthing conductor".to_owned() } else { format!("{to}, at the clamp") };
    if step.key.method == Method::ByEye {
        drawn.0.notes.push("seen throughout its length, with its ends and labels".into());
        return;
    }
    let a = drawn.terminal(Side::Board, Conductor::E, None, "its disconnected end".into(), true);
    let b = drawn.terminal(
        Side::Point,
        Conductor::E,
        None,
        if earthing { "its far end".to_owned() } else { format!("{to}, metal beyond the clamp") },
        false,
    );
    drawn.0.probes = Some((a, b));
    if leads(installation, step).set == LONG_LEAD {
        drawn.0.adapter = "long lead, nulled first";
    }
}
