//! Installations for the exercises, drawn from a seed. All figures are invented within what is usual.

use super::{Ask, Exercise, Posed, Truth, Wrong, before_reading};
use crate::meter::Meter;
use crate::rig::bench::Bench;
use crate::rig::grid::Grid;
use crate::rig::stand::Stand;
use crate::rig::terminal::Terminal;
use crate::rig::{Bond, Fitting, Leak, Residual, Rig, SUPPLY_V, Supply, Way};
use proof_core::conductor::Core;
use proof_core::installation::Shape;
use proof_core::network::description::{BOARD, Description, Fault, OhmPerMetre, Point, SegmentName};
use proof_core::quantity::{Amps, Celsius, Metres, Ohms, SquareMillimetres, approximate};
use proof_core::standard::devices::{DeviceStandard, Disconnection, TripType, maximum_zs};
use rust_decimal::Decimal;

/// A kind of circuit: points from and to, line and CPC in mm², device, fitting.
pub(super) struct Pattern {
    label: &'static str,
    shape: Shape,
    points: (usize, usize),
    pub(super) mm2: [f64; 3],
    device: &'static str,
    fitting: Fitting,
}

pub(super) const BENCH_SOCKETS: Pattern = Pattern {
    label: "Binding bench sockets",
    shape: Shape::Ring,
    points: (5, 9),
    mm2: [2.5, 2.5, 1.5],
    device: "B32",
    fitting: Fitting::Socket,
};
pub(super) const PRESS_SOCKETS: Pattern = Pattern {
    label: "Press room sockets",
    shape: Shape::Radial,
    points: (4, 7),
    mm2: [2.5, 2.5, 1.5],
    device: "B20",
    fitting: Fitting::Socket,
};
const LOFT_LIGHTS: Pattern = Pattern {
    label: "Type loft lights",
    shape: Shape::Radial,
    points: (3, 6),
    mm2: [1.5, 1.5, 1.0],
    device: "B6",
    fitting: Fitting::Lamp,
};
const GLUE_HEATER: Pattern = Pattern {
    label: "Glue heater",
    shape: Shape::Radial,
    points: (1, 1),
    mm2: [4.0, 4.0, 1.5],
    device: "B32",
    fitting: Fitting::Fixed,
};

fn whole(meter: &mut Meter, low: usize, high: usize) -> usize {
    let span = high - low + 1;
    low + ((meter.share() * span as f64) as usize).min(span - 1)
}

fn tenths(value: f64) -> f64 {
    (value * 10.0).round() / 10.0
}

pub(super) fn way(pattern: &Pattern, meter: &mut Meter) -> Option<Way> {
    let count = whole(meter, pattern.points.0, pattern.points.1);
    let sizes = pattern.mm2.map(|mm2| SquareMillimetres::try_from(mm2).ok());
    let [Some(line), Some(neutral), Some(cpc)] = sizes else { return None };
    let cores = OhmPerMetre::copper([line, neutral, cpc], Celsius::literal(20.0)).ok()?;
    let mut leg = || Metres::new(tenths(meter.between(3.0, 9.0))).ok();
    let mut points = Vec::new();
    for number in 1..=count {
        points.push(Point { id: format!("point {number}"), spur_from: None, leg: leg()? });
    }
    let return_leg = if pattern.shape == Shape::Ring { Some(leg()?) } else { None };
    Some(Way {
        label: pattern.label.to_owned(),
        device: pattern.device.to_owned(),
        residual: None,
        cable: Description { shape: pattern.shape, cores, points, return_leg, faults: Vec::new() },
        fittings: vec![pattern.fitting; count],
        leaks: Vec::new(),
        delicate: None,
    })
}

fn supply(meter: &mut Meter) -> Supply {
    let (line_ohm, neutral_ohm) = (meter.between(0.06, 0.14), meter.between(0.06, 0.12));
    Supply { line_ohm, neutral_ohm, earth_ohm: neutral_ohm + meter.between(0.01, 0.08), reversed: false }
}

pub(super) fn rig(ways: Vec<Way>, meter: &mut Meter) -> Rig {
    let bonds = vec![Bond { to: "water".into(), ohm: meter.between(0.01, 0.04), ground_ohm: meter.between(2.0, 20.0) }];
    Rig { supply: supply(meter), ways, bonds }
}

/// A fault in a description, with its size, Ω.
pub fn with_fault(built: &Description, wrong: Wrong, ohm: f64) -> Description {
    let segment = |after: Option<usize>| {
        let id = after.and_then(|at| built.points.get(at)).map_or_else(|| BOARD.to_owned(), |point| point.id.clone());
        SegmentName::After(id)
    };
    let fault = match wrong {
        Wrong::Sound => None,
        Wrong::Joint(conductor, after) => {
            Ohms::new(ohm).ok().map(|ohm| Fault::HighResistanceJoint { conductor, segment: segment(after), ohm })
        }
        Wrong::Open(conductor, after) => Some(Fault::Open { conductor, segment: segment(after) }),
        Wrong::Swap(a, b, at) => {
            built.points.get(at).map(|point| Fault::Swap { at: point.id.clone(), conductors: [a, b] })
        }
    };
    Description { faults: fault.into_iter().collect(), ..built.clone() }
}

fn fault(built: &Description, meter: &mut Meter) -> (Wrong, f64) {
    let count = built.points.len();
    // What leaves the last point of a radial is nothing.
    let lengths = if built.shape == Shape::Ring { count + 1 } else { count };
    let after = whole(meter, 0, lengths - 1).checked_sub(1);
    let core = Core::ALL[whole(meter, 0, 2)];
    let at = whole(meter, 0, count - 1);
    match whole(meter, 0, 4) {
        0 => (Wrong::Sound, 0.0),
        1 | 2 => (Wrong::Joint(core, after), (meter.between(0.4, 1.2) * 100.0).round() / 100.0),
        3 => (Wrong::Open(core, after), 0.0),
        _ => {
            let pairs = [(Core::L, Core::N), (Core::L, Core::E), (Core::N, Core::E)];
            let (a, b) = pairs[whole(meter, 0, 2)];
            (Wrong::Swap(a, b, at), 0.0)
        }
    }
}

fn words(wrong: Wrong) -> String {
    let place = |after: Option<usize>| {
        after.map_or("between the board and point 1".to_owned(), |at| format!("after point {}", at + 1))
    };
    match wrong {
        Wrong::Sound => "sound".into(),
        Wrong::Joint(core, after) => format!("a joint in {} {}", core.letter(), place(after)),
        Wrong::Open(core, after) => format!("{} broken {}", core.letter(), place(after)),
        Wrong::Swap(a, b, at) => format!("{} and {} reversed at point {}", a.letter(), b.letter(), at + 1),
    }
}

impl Wrong {
    /// In words.
    pub fn text(self) -> String {
        words(self)
    }
}

pub(super) fn choice(name: &'static str, label: &'static str, of: &[(&str, &str)]) -> Ask {
    Ask::Choice { name, label, of: of.iter().map(|(key, words)| ((*key).to_owned(), (*words).to_owned())).collect() }
}

/// The questions by which a fault of a circuit is named.
pub fn ask_fault(points: usize) -> Vec<Ask> {
    let mut places = vec![("board".to_owned(), "between the board and point 1".to_owned())];
    places.extend((1..=points).map(|at| (at.to_string(), format!("at or after point {at}"))));
    vec![
        choice(
            "wrong",
            "What is wrong",
            &[
                ("", "—"),
                ("sound", "nothing"),
                ("joint", "a poor joint"),
                ("open", "a broken conductor"),
                ("swap", "reversed at a point"),
            ],
        ),
        choice(
            "core",
            "In which conductors",
            &[
                ("", "—"),
                ("L", "line"),
                ("N", "neutral"),
                ("E", "CPC"),
                ("LN", "line and neutral"),
                ("LE", "line and CPC"),
                ("NE", "neutral and CPC"),
            ],
        ),
        Ask::Choice {
            name: "place",
            label: "Where",
            of: [(String::new(), "—".to_owned())].into_iter().chain(places).collect(),
        },
    ]
}

const CIRCUIT_SETTLES: &str = "With the link to earth a walk tells line and CPC together, with the link to neutral line and neutral: the conductor that is in both, or in one alone, is the one. The point where the figures jump is the place.";

fn circuit(exercise: Exercise, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let pattern = if exercise == Exercise::Ring { &BENCH_SOCKETS } else { &PRESS_SOCKETS };
    let mut first = way(pattern, &mut meter)?;
    let (wrong, ohm) = fault(&first.cable, &mut meter);
    first.cable = with_fault(&first.cable, wrong, ohm);
    let built = first.cable.clone();
    let points = built.points.len();
    let rig = rig(vec![first, way(&LOFT_LIGHTS, &mut meter)?], &mut meter);
    let mut asks: Vec<Ask> = if exercise == Exercise::Ring {
        [("r1", "r1, Ω"), ("rn", "rn, Ω"), ("r2", "r2, Ω")].map(|(name, label)| Ask::Figure { name, label }).into()
    } else {
        Vec::new()
    };
    asks.push(Ask::Figure { name: "r1_r2", label: "R1+R2 for the schedule, Ω" });
    asks.extend(ask_fault(points));
    let stand = Stand::isolated(&rig);
    let ring = usize::from(exercise == Exercise::Ring) * 3;
    Some(Posed::of(
        exercise,
        Bench::new(rig, stand, seed).proved(),
        asks,
        Truth::Circuit { built, wrong, ohm },
        // Every point with either link, and the ends of a ring.
        (2 * points + ring, CIRCUIT_SETTLES),
    ))
}

fn prove_dead(seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let ways = vec![way(&BENCH_SOCKETS, &mut meter)?, way(&LOFT_LIGHTS, &mut meter)?, way(&GLUE_HEATER, &mut meter)?];
    let mut rig = rig(ways, &mut meter);
    rig.supply.reversed = meter.share() < 0.4;
    let reversed = rig.supply.reversed;
    let stand = Stand::in_use(&rig);
    let supply = [("", "—"), ("right", "line and neutral as they belong"), ("reversed", "line and neutral reversed")];
    Some(Posed::of(
        Exercise::ProveDead,
        Bench::new(rig, stand, seed),
        vec![choice("supply", "The supply", &supply)],
        Truth::Supply { reversed },
        (
            6,
            "Neutral to earth while it is live: next to nothing where the supply is right, the whole voltage where it is reversed.",
        ),
    ))
}

fn insulation(seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let patterns = [&BENCH_SOCKETS, &LOFT_LIGHTS, &PRESS_SOCKETS, &GLUE_HEATER];
    let mut ways = Vec::new();
    for pattern in patterns {
        ways.push(way(pattern, &mut meter)?);
    }
    let at = whole(&mut meter, 0, ways.len() - 1);
    let pairs = [[Core::L, Core::N], [Core::L, Core::E], [Core::N, Core::E]];
    let what = ["short", "neon", "damaged", "damp"][whole(&mut meter, 0, 3)];
    // A neon is between line and neutral.
    let between = if what == "neon" { pairs[0] } else { pairs[whole(&mut meter, 0, 2)] };
    let (megohm, above_v) = match what {
        "short" => (2e-6, 0.0),
        "neon" => (meter.between(0.2, 0.3), 90.0),
        "damaged" => (meter.between(0.05, 0.6), 0.0),
        _ => (meter.between(1.5, 6.0), 0.0),
    };
    let point = whole(&mut meter, 0, ways[at].cable.points.len() - 1);
    ways[at].leaks.push(Leak { between, point, megohm, above_v });
    let of: Vec<(String, String)> = std::iter::once((String::new(), "—".to_owned()))
        .chain(
            ways.iter()
                .enumerate()
                .map(|(index, way)| ((index + 1).to_string(), format!("way {} {}", index + 1, way.label))),
        )
        .collect();
    let rig = rig(ways, &mut meter);
    let mut stand = Stand::isolated(&rig);
    stand.lamps = Stand::in_use(&rig).lamps;
    Some(Posed::of(
        Exercise::Insulation,
        Bench::new(rig, stand, seed).proved(),
        vec![
            Ask::Choice { name: "way", label: "Which way", of },
            choice(
                "pair",
                "Between which",
                &[("", "—"), ("LN", "line and neutral"), ("LE", "line and earth"), ("NE", "neutral and earth")],
            ),
            choice(
                "what",
                "What it is",
                &[
                    ("", "—"),
                    ("short", "a short"),
                    ("neon", "a neon indicator"),
                    ("damaged", "damaged cable, well under 1 MΩ"),
                    ("damp", "damp, over 1 MΩ"),
                ],
            ),
        ],
        Truth::Leak { way: at, between, what },
        // Ways one at a time, three pairs of the one that is low, and the ohmmeter.
        (
            patterns.len() + 3,
            "Neutral and earth of all ways are joined at the bars: with its tails out a way reads for itself alone. What the ohmmeter reads too is no neon.",
        ),
    ))
}

fn origin(seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let ways = vec![way(&BENCH_SOCKETS, &mut meter)?, way(&LOFT_LIGHTS, &mut meter)?];
    let rig = rig(ways, &mut meter);
    let ze_ohm = rig.supply.ze_ohm();
    let neutral = rig.supply.line_ohm + rig.supply.neutral_ohm;
    // With everything in, the ground beside the earthing conductor is in the loop as well.
    let all_in = Grid::new(&rig, &Stand::in_use(&rig), 0.0);
    let [line, _, earth] = Core::ALL.map(Terminal::Incoming);
    let to_earth = all_in.ohm(line, earth)?;
    let stand = Stand::isolated(&rig);
    Some(Posed::of(
        Exercise::Origin,
        Bench::new(rig, stand, seed).proved(),
        vec![
            Ask::Figure { name: "ze", label: "Ze, Ω" },
            Ask::Figure { name: "fault_ka", label: "Prospective fault current, kA" },
        ],
        Truth::Origin { ze_ohm, fault_ka: SUPPLY_V / neutral.min(to_earth) / 1000.0 },
        (
            3,
            "Ze with the earth disconnected; then line to neutral and line to earth with it on: the lower loop gives the higher current.",
        ),
    ))
}

pub(super) const VERDICT_OF_RATIO: [(&str, &str); 3] =
    [("", "—"), ("fits", "r2 fits r1"), ("apart", "r2 does not fit r1")];
const VERDICT: [(&str, &str); 3] = [("", "—"), ("within", "within its limit"), ("outside", "outside its limit")];

fn bonding(seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let ways = vec![way(&PRESS_SOCKETS, &mut meter)?];
    let mut rig = rig(ways, &mut meter);
    let bad = meter.share() < 0.45;
    let ohm = if bad { meter.between(0.25, 1.5) } else { meter.between(0.01, 0.03) };
    // The ground beside it would hide a bad clamp.
    rig.bonds[0] = Bond { ohm, ground_ohm: meter.between(0.2, 0.8), ..rig.bonds[0].clone() };
    let stand = Stand::isolated(&rig);
    Some(Posed::of(
        Exercise::Bonding,
        Bench::new(rig, stand, seed).proved(),
        vec![Ask::Figure { name: "bond", label: "The bond, Ω" }, choice("verdict", "Verdict", &VERDICT)],
        Truth::Bond { ohm },
        (1, "Long lead nulled, one end off, copper to pipe beyond the clamp; the end back on."),
    ))
}

fn zs(seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let mut first = way(&PRESS_SOCKETS, &mut meter)?;
    if meter.share() < 0.45 {
        let ohm = (meter.between(1.6, 3.0) * 100.0).round() / 100.0;
        first.cable = with_fault(&first.cable, Wrong::Joint(Core::E, None), ohm);
    }
    first.residual = Some(Residual { rated_ma: 30.0, trips_ms: meter.between(18.0, 190.0) });
    let last = first.cable.points.len() - 1;
    let mut rig = rig(vec![first, way(&LOFT_LIGHTS, &mut meter)?], &mut meter);
    rig.supply.earth_ohm += 0.05;
    let [line, _, earth] = Core::ALL.map(|core| Terminal::Point { way: 0, point: last, core });
    let mut stand = Stand::in_use(&rig);
    stand.lamps.clear();
    let ohm = Grid::new(&rig, &stand, 0.0).ohm(line, earth)?;
    let rating = Amps(Decimal::from(20));
    let maximum = maximum_zs(DeviceStandard::BsEn60898, Some(TripType::B), rating, Disconnection::S0_4).ok()?;
    let limit_ohm = approximate(maximum.eighty_percent_ohm);
    // One that a hundredth decides is no exercise.
    if (ohm - limit_ohm).abs() < 0.12 {
        return zs(seed.wrapping_add(1 << 40));
    }
    Some(Posed::of(
        Exercise::Zs,
        Bench::new(rig, stand, seed),
        vec![Ask::Figure { name: "zs", label: "Zs, Ω" }, choice("verdict", "Verdict", &VERDICT)],
        Truth::Zs { ohm, limit_ohm },
        (
            1,
            format!(
                "One loop test that trips nothing, at the last point; 0.8 × {} = {} Ω.",
                maximum.printed_ohm, maximum.eighty_percent_ohm
            ),
        ),
    ))
}

fn residual(seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let mut ways = vec![way(&PRESS_SOCKETS, &mut meter)?, way(&LOFT_LIGHTS, &mut meter)?];
    let slow = meter.share() < 0.35;
    let trips_ms = if slow { meter.between(340.0, 480.0) } else { meter.between(18.0, 190.0) };
    ways[0].residual = Some(Residual { rated_ma: 30.0, trips_ms });
    let rig = rig(ways, &mut meter);
    let stand = Stand::in_use(&rig);
    Some(Posed::of(
        Exercise::Residual,
        Bench::new(rig, stand, seed),
        vec![Ask::Figure { name: "trip", label: "Trip time at IΔn, ms" }, choice("verdict", "Verdict", &VERDICT)],
        Truth::Trip { ms: trips_ms },
        (1, "One test at the rated current, line to earth at a point of the way."),
    ))
}

/// Poses an exercise.
pub fn pose(exercise: Exercise, seed: u64) -> Option<Posed> {
    match exercise {
        Exercise::ProveDead => prove_dead(seed),
        Exercise::Null => before_reading::null(seed),
        Exercise::Ratio => before_reading::ratio(seed),
        Exercise::Radial | Exercise::Ring => circuit(exercise, seed),
        Exercise::Insulation => insulation(seed),
        Exercise::Bonding => bonding(seed),
        Exercise::Origin => origin(seed),
        Exercise::Zs => zs(seed),
        Exercise::Residual => residual(seed),
    }
}

/// A circuit of a job on the bench, as it is described, sound or with a fault: alone on a board that is locked off and
/// proved dead.
pub fn tried(
    label: &str,
    device: &str,
    built: Description,
    fittings: Vec<Fitting>,
    (wrong, ohm): (Wrong, f64),
    seed: u64,
) -> Posed {
    let mut meter = Meter::new(seed);
    let way = Way {
        label: label.to_owned(),
        device: device.to_owned(),
        residual: None,
        cable: with_fault(&built, wrong, ohm),
        fittings,
        leaks: Vec::new(),
        delicate: None,
    };
    let rig = rig(vec![way], &mut meter);
    let stand = Stand::isolated(&rig);
    Posed {
        title: format!("On the bench: {label}"),
        goal: format!("As it is described, {}. What is read here is never a reading of the job.", wrong.text()),
        hints: &[],
        bench: Bench::new(rig, stand, seed).proved(),
        asks: Vec::new(),
        truth: Truth::Tried,
        fewest: 0,
        settles: String::new(),
    }
}
