//! What exercises are drawn from: ways, faults, what is asked of them.

use super::{Ask, Wrong};
use crate::meter::Meter;
use crate::rig::{Bond, Fitting, Rig, Supply, Way};
use proof_physics::network::description::{BOARD, Description, Fault, OhmPerMetre, Point, SegmentName};
use proof_standard::conductor::Core;
use proof_standard::quantity::{Celsius, Metres, Ohms, SquareMillimetres};
use proof_standard::shape::Shape;

/// A kind of circuit: points from and to, line and CPC in mm², device, fitting.
pub(super) struct Pattern {
    pub label: &'static str,
    pub shape: Shape,
    pub points: (usize, usize),
    pub mm2: [f64; 3],
    pub device: &'static str,
    pub fitting: Fitting,
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

pub(super) const LOFT_LIGHTS: Pattern = Pattern {
    label: "Type loft lights",
    shape: Shape::Radial,
    points: (3, 6),
    mm2: [1.5, 1.5, 1.0],
    device: "B6",
    fitting: Fitting::Lamp,
};

pub(super) const GLUE_HEATER: Pattern = Pattern {
    label: "Glue heater",
    shape: Shape::Radial,
    points: (1, 1),
    mm2: [4.0, 4.0, 1.5],
    device: "B32",
    fitting: Fitting::Fixed,
};

pub(super) fn whole(meter: &mut Meter, low: usize, high: usize) -> usize {
    let span = high - low + 1;
    low + ((meter.share() * span as f64) as usize).min(span - 1)
}

pub(super) fn tenths(value: f64) -> f64 {
    (value * 10.0).round() / 10.0
}

pub(super) fn way(pattern: &Pattern, meter: &mut Meter) -> Option<Way> {
    way_at(pattern, 20.0, meter)
}

/// A circuit whose copper is so warm, °C.
pub(super) fn way_at(pattern: &Pattern, copper_c: f64, meter: &mut Meter) -> Option<Way> {
    let count = whole(meter, pattern.points.0, pattern.points.1);
    let sizes = pattern.mm2.map(|mm2| SquareMillimetres::try_from(mm2).ok());
    let [Some(line), Some(neutral), Some(cpc)] = sizes else { return None };
    let cores = OhmPerMetre::copper([line, neutral, cpc], Celsius::new(copper_c).ok()?).ok()?;
    let mut leg = || Metres::new(tenths(meter.between(3.0, 9.0))).ok();
    let mut points = Vec::new();
    for number in 1..=count {
        points.push(Point { id: format!("point {number}"), spur_from: None, leg: leg()? });
    }
    let return_leg = if pattern.shape == Shape::Ring { Some(leg()?) } else { None };
    let cable = Description { shape: pattern.shape, cores, points, return_leg, faults: Vec::new() };
    Some(Way::new(pattern.label, pattern.device, cable, vec![pattern.fitting; count]))
}

pub(super) fn supply(meter: &mut Meter) -> Supply {
    let (line_ohm, neutral_ohm) = (meter.between(0.06, 0.14), meter.between(0.06, 0.12));
    Supply {
        line_ohm,
        neutral_ohm,
        earth_ohm: neutral_ohm + meter.between(0.01, 0.08),
        shared_ohm: 0.0,
        reversed: false,
        three_phase: false,
        turns_back: false,
    }
}

pub(super) fn rig(ways: Vec<Way>, meter: &mut Meter) -> Rig {
    let bonds = vec![Bond { to: "water".into(), ohm: meter.between(0.01, 0.04), ground_ohm: meter.between(2.0, 20.0) }];
    Rig::new(supply(meter), ways, bonds)
}

/// Faults in a description, each with its size, Ω.
pub fn with_faults(built: &Description, wrongs: &[(Wrong, f64)]) -> Description {
    let segment = |after: Option<usize>| {
        let id = after.and_then(|at| built.points.get(at)).map_or_else(|| BOARD.to_owned(), |point| point.id.clone());
        SegmentName::After(id)
    };
    let fault = |(wrong, ohm): &(Wrong, f64)| match *wrong {
        Wrong::Sound => None,
        Wrong::Joint(conductor, after) => {
            Ohms::new(*ohm).ok().map(|ohm| Fault::HighResistanceJoint { conductor, segment: segment(after), ohm })
        }
        Wrong::Open(conductor, after) => Some(Fault::Open { conductor, segment: segment(after) }),
        Wrong::Swap(a, b, at) => {
            built.points.get(at).map(|point| Fault::Swap { at: point.id.clone(), conductors: [a, b] })
        }
        Wrong::Cross(a, b, after) => Some(Fault::Cross { conductors: [a, b], segment: segment(after) }),
        Wrong::Metal(at) => built
            .points
            .get(at)
            .zip(Ohms::new(*ohm).ok())
            .map(|(point, ohm)| Fault::ParallelEarth { between: [BOARD.to_owned(), point.id.clone()], ohm }),
    };
    Description { faults: wrongs.iter().filter_map(fault).collect(), ..built.clone() }
}

/// A fault in a description, with its size, Ω.
pub fn with_fault(built: &Description, wrong: Wrong, ohm: f64) -> Description {
    with_faults(built, &[(wrong, ohm)])
}

/// A fault, or none: joints between so many Ω.
pub(super) fn fault(built: &Description, (least, most): (f64, f64), meter: &mut Meter) -> (Wrong, f64) {
    let count = built.points.len();
    // What leaves the last point of a radial is nothing.
    let lengths = if built.shape == Shape::Ring { count + 1 } else { count };
    let after = whole(meter, 0, lengths - 1).checked_sub(1);
    let core = Core::ALL[whole(meter, 0, 2)];
    let at = whole(meter, 0, count - 1);
    match whole(meter, 0, 4) {
        0 => (Wrong::Sound, 0.0),
        1 | 2 => (Wrong::Joint(core, after), (meter.between(least, most) * 100.0).round() / 100.0),
        3 => (Wrong::Open(core, after), 0.0),
        _ => {
            let pairs = [(Core::L, Core::N), (Core::L, Core::E), (Core::N, Core::E)];
            let (a, b) = pairs[whole(meter, 0, 2)];
            (Wrong::Swap(a, b, at), 0.0)
        }
    }
}

/// A fault of a hard circuit: the same, and what is read less often.
pub(super) fn hard_fault(built: &Description, joints: (f64, f64), meter: &mut Meter) -> (Wrong, f64) {
    let count = built.points.iter().filter(|point| point.spur_from.is_none()).count();
    match whole(meter, 0, 3) {
        0 => {
            let pairs = [(Core::L, Core::N), (Core::L, Core::E), (Core::N, Core::E)];
            let (a, b) = pairs[whole(meter, 0, 2)];
            (Wrong::Cross(a, b, whole(meter, 0, count - 1).checked_sub(1)), 0.0)
        }
        1 => {
            let at = whole(meter, count / 2, count - 1);
            (Wrong::Metal(at), (meter.between(0.05, 0.2) * 100.0).round() / 100.0)
        }
        _ => fault(built, joints, meter),
    }
}

pub(super) fn words(wrong: Wrong) -> String {
    let place = |after: Option<usize>| {
        after.map_or("between the board and point 1".to_owned(), |at| format!("after point {}", at + 1))
    };
    match wrong {
        Wrong::Sound => "sound".into(),
        Wrong::Joint(core, after) => format!("a joint in {} {}", core.letter(), place(after)),
        Wrong::Open(core, after) => format!("{} broken {}", core.letter(), place(after)),
        Wrong::Swap(a, b, at) => format!("{} and {} reversed at point {}", a.letter(), b.letter(), at + 1),
        Wrong::Cross(a, b, after) => format!("{} and {} changed at a joint {}", a.letter(), b.letter(), place(after)),
        Wrong::Metal(at) => format!("metal beside the CPC at point {}", at + 1),
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
    ask_named(points, [("wrong", "What is wrong"), ("core", "In which conductors"), ("place", "Where")])
}

/// The same for what else is wrong.
pub(super) fn ask_second(points: usize) -> Vec<Ask> {
    ask_named(
        points,
        [("wrong2", "What else is wrong"), ("core2", "What else: in which conductors"), ("place2", "What else: where")],
    )
}

pub(super) fn ask_named(points: usize, [wrong, core, place]: [(&'static str, &'static str); 3]) -> Vec<Ask> {
    let mut places = vec![("board".to_owned(), "between the board and point 1".to_owned())];
    places.extend((1..=points).map(|at| (at.to_string(), format!("at or after point {at}"))));
    vec![
        choice(
            wrong.0,
            wrong.1,
            &[
                ("", "—"),
                ("sound", "nothing"),
                ("joint", "a poor joint"),
                ("open", "a broken conductor"),
                ("swap", "reversed at a point"),
                ("cross", "changed at a joint, and so beyond it"),
                ("metal", "metal beside the CPC"),
            ],
        ),
        choice(
            core.0,
            core.1,
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
            name: place.0,
            label: place.1,
            of: [(String::new(), "—".to_owned())].into_iter().chain(places).collect(),
        },
    ]
}

pub(super) const VERDICT_OF_RATIO: [(&str, &str); 3] =
    [("", "—"), ("fits", "r2 fits r1"), ("apart", "r2 does not fit r1")];

pub(super) const VERDICT: [(&str, &str); 3] =
    [("", "—"), ("within", "within its limit"), ("outside", "outside its limit")];
