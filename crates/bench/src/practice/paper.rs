//! A schedule that is nearly right: one figure contradicts the others.

use super::drawn::{BENCH_SOCKETS, GLUE_HEATER, LOFT_LIGHTS, PRESS_SOCKETS, Pattern, choice, rig, way, whole};
use super::posed::{Ask, Exercise, Level, Posed, Truth};
use super::schedule::COLUMNS;
pub use super::schedule::{Paper, PaperFigure};
use crate::meter::Meter;
use crate::rig::bench::Bench;
use crate::rig::stand::RigState;
use crate::rig::{Rig, SUPPLY_V};
use proof_physics::network::circuit::expect;

/// The columns: key and head.
const OF: [(&str, &str); COLUMNS] = [
    ("size", "line/CPC, mm²"),
    ("r1", "r1, Ω"),
    ("rn", "rn, Ω"),
    ("r2", "r2, Ω"),
    ("r1_r2", "R1+R2, Ω"),
    ("ln", "L–N, MΩ"),
    ("le", "L–E, MΩ"),
    ("zs", "Zs, Ω"),
    ("one", "RCD IΔn, ms"),
    ("five", "RCD 5 IΔn, ms"),
];

/// What contradicts what.
pub const WRONG: [(&str, &str); 8] = [
    ("", "—"),
    ("zs-below-ze", "Zs is below Ze"),
    ("zs-not-the-sum", "Zs is far above Ze + (R1+R2)"),
    ("ring-quarter", "R1+R2 of the ring is no quarter of r1 + r2"),
    ("r2-ratio", "r2 does not fit r1 and the sizes"),
    ("current-not-its-loop", "the fault current does not follow from its loop"),
    ("board-above-circuit", "insulation of the whole board is above that of a circuit"),
    ("five-slower", "the residual device is slower at five times"),
];

/// The figures of a row, before anything is changed. Ω, MΩ, ms; `None`: not of this circuit.
struct CircuitFigures {
    words: String,
    sizes: [f64; 2],
    ends: [Option<f64>; 3],
    r1_r2: f64,
    megohm: [f64; 2],
    zs: f64,
    trips: Option<[f64; 2]>,
}

fn hundredths(value: f64) -> f64 {
    (value * 100.0).round() / 100.0
}

fn row(number: usize, pattern: &Pattern, ze: f64, meter: &mut Meter) -> Option<CircuitFigures> {
    let built = way(pattern, meter)?;
    let truth = expect(&built.cable).ok()?;
    let r1_r2 = truth.points.iter().filter_map(|point| point.r1_r2).fold(0.0, f64::max);
    let ends = truth.end_to_end.map_or([None; 3], |ends| [ends.r1, ends.rn, ends.r2].map(|ohm| ohm.map(hundredths)));
    let socket = pattern.fitting == crate::rig::Fitting::Socket;
    let one = meter.between(19.0, 31.0);
    let trips = socket.then(|| [one, one * meter.between(0.35, 0.6)].map(|ms| (ms * 10.0).round() / 10.0));
    // Measured, a loop is a little under its sum: there are paths beside it.
    let zs = hundredths(ze + r1_r2 * meter.between(0.93, 1.0));
    let megohm = [meter.between(210.0, 900.0).round(), meter.between(210.0, 900.0).round()];
    Some(CircuitFigures {
        words: format!("{number} {} {}", pattern.label, pattern.device),
        sizes: [pattern.mm2[0], pattern.mm2[2]],
        ends,
        r1_r2: hundredths(r1_r2),
        megohm,
        zs,
        trips,
    })
}

/// The whole sheet as figures.
struct ScheduleDraft {
    ze: f64,
    loop_ohm: f64,
    fault_ka: f64,
    board_megohm: f64,
    rows: Vec<CircuitFigures>,
}

impl ScheduleDraft {
    fn made(meter: &mut Meter) -> Option<Self> {
        let ze = hundredths(meter.between(0.14, 0.3));
        let loop_ohm = hundredths(meter.between(0.1, ze));
        let patterns = [&BENCH_SOCKETS, &LOFT_LIGHTS, &PRESS_SOCKETS, &GLUE_HEATER, &PRESS_SOCKETS];
        let rows: Option<Vec<CircuitFigures>> =
            patterns.iter().enumerate().map(|(at, pattern)| row(at + 1, pattern, ze, meter)).collect();
        let rows = rows?;
        // In parallel: no more than its lowest circuit.
        let sum: f64 = rows.iter().map(|row| 1.0 / row.megohm[1]).sum();
        Some(Self {
            ze,
            loop_ohm,
            fault_ka: hundredths(SUPPLY_V / loop_ohm / 1000.0),
            board_megohm: (1.0 / sum).floor(),
            rows,
        })
    }

    /// Makes one figure contradict the others: the keys of what may be pointed at.
    fn spoil(&mut self, what: &str, large: bool, meter: &mut Meter) -> Vec<String> {
        let sockets = [0, 2, 4];
        let any = whole(meter, 0, self.rows.len() - 1);
        let name = |row: usize, key: &str| format!("{} {key}", row + 1);
        match what {
            "zs-below-ze" => {
                self.rows[any].zs = hundredths(self.ze * meter.between(0.5, 0.9)).min(self.ze - 0.02);
                vec![name(any, "zs"), "ze".into()]
            }
            "zs-not-the-sum" => {
                let more = if large { meter.between(0.8, 1.6) } else { meter.between(0.35, 0.6) };
                self.rows[any].zs = hundredths(self.rows[any].zs + more);
                vec![name(any, "zs"), name(any, "r1_r2")]
            }
            "ring-quarter" => {
                let ends = self.rows[0].ends.map(Option::unwrap_or_default);
                // Half of it, as with the ends in; or the quarter of line and neutral.
                let other = if large { f64::midpoint(ends[0], ends[2]) } else { (ends[0] + ends[1]) / 8.0 };
                self.rows[0].r1_r2 = hundredths(other);
                self.rows[0].zs = hundredths(self.ze + other * 0.97);
                vec![name(0, "r1_r2")]
            }
            "r2-ratio" => {
                let r1 = self.rows[0].ends[0].unwrap_or_default();
                let r2 = if large { r1 } else { r1 * 1.25 };
                self.rows[0].ends[2] = Some(hundredths(r2));
                self.rows[0].r1_r2 = hundredths((r1 + r2) / 4.0);
                self.rows[0].zs = hundredths(self.ze + (r1 + r2) / 4.0 * 0.97);
                vec![name(0, "r2"), name(0, "r1")]
            }
            "current-not-its-loop" => {
                self.fault_ka = hundredths(self.fault_ka * if large { 0.5 } else { 0.78 });
                vec!["fault_ka".into(), "loop".into()]
            }
            "board-above-circuit" => {
                let lowest = self.rows.iter().map(|row| row.megohm[1]).fold(f64::INFINITY, f64::min);
                self.board_megohm = (lowest * if large { 1.8 } else { 1.1 }).round();
                vec!["board".into()]
            }
            _ => {
                let at = sockets[whole(meter, 0, 2)];
                let [one, _] = self.rows[at].trips.unwrap_or_default();
                let five = (one * if large { 1.6 } else { 1.15 } * 10.0).round() / 10.0;
                self.rows[at].trips = Some([one, five]);
                vec![name(at, "five"), name(at, "one")]
            }
        }
    }

    /// Why the figure cannot be, with the figures that it stands beside.
    fn why(&self, what: &str, cells: &[String]) -> String {
        let number = cells.iter().find_map(|cell| cell.split_once(' ')?.0.parse::<usize>().ok());
        let Some(row) = self.rows.get(number.map_or(0, |number| number - 1)) else { return String::new() };
        let [r1, _, r2] = row.ends.map(Option::unwrap_or_default);
        let [one, five] = row.trips.unwrap_or_default();
        let (ze, words) = (self.ze, &row.words);
        match what {
            "zs-below-ze" => format!("{words}: Zs {:.2} Ω, and Ze {ze:.2} Ω is a part of every loop.", row.zs),
            "zs-not-the-sum" => format!(
                "{words}: Ze {ze:.2} + R1+R2 {:.2} = {:.2} Ω; Zs {:.2} Ω is well above it, and is normally a little under.",
                row.r1_r2,
                ze + row.r1_r2,
                row.zs
            ),
            "ring-quarter" => format!(
                "{words}: (r1 + r2)/4 = ({r1:.2} + {r2:.2})/4 = {:.2} Ω, and R1+R2 is {:.2} Ω.",
                (r1 + r2) / 4.0,
                row.r1_r2
            ),
            "r2-ratio" => format!(
                "{words}: r1 {r1:.2} × {}/{} = {:.2} Ω by the sizes, and r2 is {r2:.2} Ω.",
                row.sizes[0],
                row.sizes[1],
                r1 * row.sizes[0] / row.sizes[1]
            ),
            "current-not-its-loop" => format!(
                "{SUPPLY_V} V / {:.2} Ω = {:.2} kA, and {:.2} kA is written.",
                self.loop_ohm,
                SUPPLY_V / self.loop_ohm / 1000.0,
                self.fault_ka
            ),
            "board-above-circuit" => {
                let lowest = self.rows.iter().map(|row| row.megohm[1]).fold(f64::INFINITY, f64::min);
                format!(
                    "The lowest circuit reads {lowest:.0} MΩ to earth; all together cannot read {:.0} MΩ.",
                    self.board_megohm
                )
            }
            _ => format!(
                "{words}: {one:.1} ms at IΔn, and {five:.1} ms at five times: a residual device is never slower there."
            ),
        }
    }

    fn paper(&self) -> Paper {
        let cell = |key: &str, text: String| PaperFigure { key: key.to_owned(), text };
        let head = vec![
            ("Ze, Ω", cell("ze", format!("{:.2}", self.ze))),
            ("line–neutral loop at the origin, Ω", cell("loop", format!("{:.2}", self.loop_ohm))),
            ("prospective fault current, line–neutral, kA", cell("fault_ka", format!("{:.2}", self.fault_ka))),
            ("insulation of the whole board, lines to earth, MΩ", cell("board", format!("{:.0}", self.board_megohm))),
        ];
        let row = |(at, row): (usize, &CircuitFigures)| {
            let ohm = |value: Option<f64>| value.map_or_else(|| "—".to_owned(), |ohm| format!("{ohm:.2}"));
            let ms = |at: usize| row.trips.map_or_else(|| "—".to_owned(), |trips| format!("{:.1}", trips[at]));
            let texts = [
                format!("{}/{}", row.sizes[0], row.sizes[1]),
                ohm(row.ends[0]),
                ohm(row.ends[1]),
                ohm(row.ends[2]),
                ohm(Some(row.r1_r2)),
                format!("{:.0}", row.megohm[0]),
                format!("{:.0}", row.megohm[1]),
                ohm(Some(row.zs)),
                ms(0),
                ms(1),
            ];
            let cells = OF.iter().zip(texts).map(|((key, _), text)| cell(&format!("{} {key}", at + 1), text));
            (row.words.clone(), cells.collect())
        };
        Paper { head, columns: OF.map(|(_, head)| head), rows: self.rows.iter().enumerate().map(row).collect() }
    }
}

/// A schedule with one figure that cannot be. Hard: nearer to what could.
pub(super) fn posed(level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let mut sheet = ScheduleDraft::made(&mut meter)?;
    let what = WRONG[whole(&mut meter, 1, WRONG.len() - 1)].0;
    let cells = sheet.spoil(what, level != Level::Hard, &mut meter);
    let empty: Rig = rig(Vec::new(), &mut meter);
    let stand = RigState::isolated(&empty);
    let asks = vec![
        Ask::Pointed { name: "cell", label: "The figure that cannot be" },
        choice("what", "What it contradicts", &WRONG),
    ];
    let settles = sheet.why(what, &cells);
    let mut posed = Posed::for_exercise(
        Exercise::Paper,
        Bench::new(empty, stand, seed),
        asks,
        Truth::Paper { cells, what },
        (0, settles),
    );
    posed.paper = Some(sheet.paper());
    Some(posed)
}
