//! The circuit as it runs, and under it, point for point, the readings against the expected band.
//!
//! Above: the board, the cable in its three colours, the points, spurs. Below: R1+Rn as circles and
//! R1+R2 as triangles, each in front of the band it should fall in. Ohms; units of the view box.

use super::scale::Scale;
use super::{escape, shortened};
use crate::pages::entry::EntryContext;
use crate::words::{Chip, worse};
use proof_job::installation::{Circuit, Point};
use proof_job::reading::{Key, Place, Stage, Test, Value};
use proof_judge::expectation::Band;
use proof_standard::shape::Shape;
use std::fmt::Write;

const LEFT: f64 = 64.0;
const WIDTH: f64 = 820.0;
pub(super) const RAIL: f64 = 52.0;
pub(super) const RETURN: f64 = 104.0;
pub(super) const SPUR: f64 = 80.0;
const PLOT_TOP: f64 = 156.0;
const PLOT_BOTTOM: f64 = 330.0;
const HEIGHT: f64 = 352.0;
/// Below this a column is too narrow for a gloved finger and the drawing scrolls.
const LEAST_COLUMN: f64 = 34.0;

/// One series of a column.
pub(super) struct Series {
    slug: Option<String>,
    band: Option<Band>,
    value: Option<Value>,
    look: &'static str,
    odd: bool,
    text: &'static str,
    unsteady: bool,
}

pub(super) struct Column {
    pub(super) id: u32,
    pub(super) name: String,
    pub(super) leg: Option<f64>,
    pub(super) parent: Option<u32>,
    pub(super) series: [Series; 2],
}

/// The drawing of a circuit.
pub(crate) struct Profile {
    pub(super) ring: bool,
    pub(super) columns: Vec<Column>,
    pub(super) return_leg: Option<f64>,
    pub(super) here: String,
    pub(super) third: bool,
    pub(super) base: String,
    pub(super) way: String,
}

/// A row of the text twin.
pub(crate) struct TwinRow {
    pub name: String,
    pub cells: [(String, String, &'static str); 2],
}

/// Points in the order drawn: each main-line point, then the spurs that leave it.
fn in_order(circuit: &Circuit) -> Vec<&Point> {
    fn spurs<'a>(circuit: &'a Circuit, from: &Point, into: &mut Vec<&'a Point>) {
        for spur in circuit.points.iter().filter(|point| point.spur_from == Some(from.id)) {
            if into.len() <= circuit.points.len() {
                into.push(spur);
                spurs(circuit, spur, into);
            }
        }
    }
    let mut all = Vec::with_capacity(circuit.points.len());
    for point in circuit.main_points() {
        all.push(point);
        spurs(circuit, point, &mut all);
    }
    all
}

/// Where a figure stands in the plot.
pub(super) fn height_of(scale: Scale, ohm: f64) -> f64 {
    PLOT_BOTTOM - (ohm / scale.top).clamp(0.0, 1.0) * (PLOT_BOTTOM - PLOT_TOP)
}

/// Gathers what is drawn.
pub(crate) fn draw_profile(circuit: &Circuit, bench: &EntryContext<'_>, here: &str) -> Profile {
    let long_lead = bench.steps.iter().any(|step| step.key.test == Test::R2);
    let last = if long_lead { Test::R2 } else { Test::R1R2 };
    let columns = in_order(circuit)
        .into_iter()
        .map(|point| {
            let series = |test: Test| {
                let there = |place: &Place| {
                    place.point() == Some(point.id)
                        && !place.expects_open()
                        && !matches!(place, Place::Metalwork { .. })
                };
                // Of a three-phase point the highest line stands for all, of a switch its routes.
                let steps = bench
                    .steps
                    .iter()
                    .filter(|step| step.key.test == test && step.key.subject.place().is_some_and(there));
                let highest = steps.clone().filter(|step| bench.settled.get(&step.key).is_some()).max_by(|a, b| {
                    let number = |key: &Key| bench.settled.float(key).unwrap_or(f64::MAX);
                    number(&a.key).total_cmp(&number(&b.key))
                });
                let step = highest.or_else(|| steps.clone().next());
                let reading = step.and_then(|step| bench.settled.get(&step.key));
                let chip = step.zip(reading).map(|(step, reading)| worse(&(bench.judge)(step, &reading.value)));
                Series {
                    slug: step.map(|step| step.slug.clone()),
                    band: step.and_then(|step| (bench.band)(step).ok()),
                    value: reading.map(|reading| reading.value.clone()),
                    look: chip.map_or("none", |chip| chip.look),
                    odd: chip.is_some_and(Chip::is_odd),
                    text: chip.map_or("not read", |chip| chip.text),
                    unsteady: reading.is_some_and(|reading| reading.unsteady),
                }
            };
            Column {
                id: point.id.0,
                name: point.name.clone(),
                leg: point.leg_m.map(proof_standard::quantity::Metres::get),
                parent: point.spur_from.map(|id| id.0),
                series: [series(Test::R1Rn), series(last)],
            }
        })
        .collect();
    Profile {
        ring: circuit.shape == Shape::Ring,
        columns,
        return_leg: circuit.return_leg_m.map(proof_standard::quantity::Metres::get),
        here: here.to_owned(),
        // In the third step the third step's reading is meant, else the second's.
        third: bench.steps.iter().any(|step| step.slug == here && step.stage == Stage::R1R2),
        base: bench.base.clone(),
        way: circuit.way.clone(),
    }
}

impl Profile {
    pub(super) fn column_width(&self) -> f64 {
        let count = self.columns.len().max(1) as f64;
        ((WIDTH - LEFT - 26.0) / count).clamp(LEAST_COLUMN, 150.0)
    }

    pub(super) fn x(&self, index: usize) -> f64 {
        LEFT + self.column_width() * (index as f64 + 0.5)
    }

    fn width(&self) -> f64 {
        WIDTH.max(LEFT + self.column_width() * self.columns.len() as f64 + 26.0)
    }

    /// The scale: to a round figure above every band and reading.
    pub(super) fn scale(&self) -> Scale {
        let highest = self
            .columns
            .iter()
            .flat_map(|column| &column.series)
            .flat_map(|series| {
                [
                    series.band.as_ref().and_then(|band| band.high.or(band.centre)),
                    series.value.as_ref().and_then(Value::float),
                ]
            })
            .flatten()
            .fold(0.0_f64, f64::max);
        Scale::up_to(highest * 1.12)
    }

    /// The drawing. Hidden from a screen reader, which has the twin and the list of steps.
    pub(crate) fn drawing(&self, laid_over: &str) -> String {
        let mut svg = String::with_capacity(16 * 1024);
        let width = self.width();
        let scrolls = if width > WIDTH { " wide" } else { "" };
        let _ = write!(
            svg,
            "<svg class=\"profile{scrolls}\" viewBox=\"0 0 {width:.0} {HEIGHT}\" width=\"{width:.0}\" height=\"{HEIGHT}\" aria-hidden=\"true\" focusable=\"false\">"
        );
        self.here_column(&mut svg);
        self.run(&mut svg);
        self.plot(&mut svg);
        svg.push_str(laid_over);
        svg.push_str("</svg>");
        svg
    }

    fn here_column(&self, svg: &mut String) {
        let here = self
            .columns
            .iter()
            .position(|column| column.series.iter().any(|s| s.slug.as_deref() == Some(self.here.as_str())));
        if let Some(index) = here {
            let (x, width) = (self.x(index) - self.column_width() / 2.0, self.column_width());
            let _ = write!(
                svg,
                "<rect class=\"here\" x=\"{x:.1}\" y=\"8\" width=\"{width:.1}\" height=\"{:.1}\"/>",
                PLOT_BOTTOM - 8.0
            );
        }
    }

    /// A cable as its three cores side by side.
    fn cable(svg: &mut String, path: &str) {
        let _ = write!(svg, "<path class=\"sheath\" d=\"{path}\"/>");
        for (core, shift) in [("core-l", -2.6), ("core-n", 0.0), ("core-e", 2.6)] {
            let _ = write!(svg, "<path class=\"core {core}\" d=\"{path}\" transform=\"translate({shift} {shift})\"/>");
        }
    }

    fn run(&self, svg: &mut String) {
        let mains: Vec<usize> = (0..self.columns.len()).filter(|&index| self.columns[index].parent.is_none()).collect();
        let last = mains.last().map_or(LEFT + 40.0, |&index| self.x(index));
        if self.ring {
            let right = self.width() - 14.0;
            let right = right.min(last + self.column_width() * 0.9 + 10.0).max(last + 14.0);
            Self::cable(
                svg,
                &format!(
                    "M44 {RAIL}H{:.1}Q{right:.1} {RAIL} {right:.1} {:.1}V{:.1}Q{right:.1} {RETURN} {:.1} {RETURN}H44",
                    right - 12.0,
                    RAIL + 12.0,
                    RETURN - 12.0,
                    right - 12.0
                ),
            );
            if let Some(leg) = self.return_leg {
                let _ = write!(
                    svg,
                    "<text class=\"leg\" x=\"{:.1}\" y=\"{:.1}\" text-anchor=\"end\">{leg} m</text>",
                    last,
                    RETURN - 7.0
                );
            }
        } else {
            Self::cable(svg, &format!("M44 {RAIL}H{last:.1}"));
        }
        for (index, column) in self.columns.iter().enumerate() {
            let Some(parent) = column.parent.and_then(|id| self.columns.iter().position(|other| other.id == id)) else {
                continue;
            };
            let from_y = if self.columns[parent].parent.is_some() { SPUR } else { RAIL };
            Self::cable(svg, &format!("M{:.1} {from_y}V{SPUR}H{:.1}", self.x(parent), self.x(index)));
        }
        let _ = write!(
            svg,
            "<rect class=\"board\" x=\"8\" y=\"{:.1}\" width=\"36\" height=\"{:.1}\"/><text class=\"board-label\" x=\"26\" y=\"{:.1}\" text-anchor=\"middle\">way</text><text class=\"board-way\" x=\"26\" y=\"{:.1}\" text-anchor=\"middle\">{}</text>",
            RAIL - 20.0,
            if self.ring { RETURN - RAIL + 34.0 } else { 44.0 },
            RAIL - 2.0,
            RAIL + 16.0,
            escape(&shortened(&self.way, 4)),
        );
        for (index, column) in self.columns.iter().enumerate() {
            self.point(svg, index, column);
        }
    }

    fn point(&self, svg: &mut String, index: usize, column: &Column) {
        let x = self.x(index);
        let y = if column.parent.is_some() { SPUR } else { RAIL };
        let series = &column.series[usize::from(self.third)];
        let slug = series.slug.as_deref().or(column.series[1].slug.as_deref()).unwrap_or_default();
        let read = column.series.iter().filter(|series| series.value.is_some()).count();
        let wanted = column.series.iter().filter(|series| series.slug.is_some()).count();
        let state = if read == 0 {
            "blank"
        } else if read < wanted {
            "half"
        } else {
            "read"
        };
        let _ = write!(
            svg,
            "<a href=\"{0}?at={1}\" hx-get=\"{0}?at={1}\" hx-target=\"#work\" hx-swap=\"outerHTML\" hx-push-url=\"true\" tabindex=\"-1\"><rect class=\"touch\" x=\"{2:.1}\" y=\"8\" width=\"{3:.1}\" height=\"112\"/><circle class=\"point {state}\" cx=\"{x:.1}\" cy=\"{y}\" r=\"9\"/>",
            self.base,
            escape(slug),
            x - self.column_width() / 2.0,
            self.column_width(),
        );
        let most = (self.column_width() / 7.0) as usize;
        // A spur's name stands beside it: above and below run the two sides of the ring.
        let (label_x, label_y, anchor) =
            if column.parent.is_some() { (x + 13.0, SPUR + 4.0, "start") } else { (x, RAIL - 18.0, "middle") };
        let _ = write!(
            svg,
            "<text class=\"point-name\" x=\"{label_x:.1}\" y=\"{label_y}\" text-anchor=\"{anchor}\">{}</text>",
            escape(&shortened(&column.name, most.max(3)))
        );
        svg.push_str("</a>");
        if let Some(leg) = column.leg.filter(|_| self.column_width() > 44.0) {
            let (leg_x, leg_y) = if column.parent.is_some() {
                (x - self.column_width() / 2.0, SPUR + 15.0)
            } else {
                (x - self.column_width() / 2.0, RAIL + 17.0)
            };
            let _ =
                write!(svg, "<text class=\"leg\" x=\"{leg_x:.1}\" y=\"{leg_y}\" text-anchor=\"middle\">{leg} m</text>");
        }
    }

    fn plot(&self, svg: &mut String) {
        let scale = self.scale();
        let y = |ohm: f64| height_of(scale, ohm);
        let right = self.width() - 14.0;
        for (ohm, text) in scale.ticks() {
            let at = y(ohm);
            let _ = write!(
                svg,
                "<path class=\"grid\" d=\"M{LEFT} {at:.1}H{right:.1}\"/><text class=\"scale\" x=\"{:.1}\" y=\"{:.1}\" text-anchor=\"end\">{text}</text>",
                LEFT - 8.0,
                at + 4.0
            );
        }
        let _ = write!(
            svg,
            "<text class=\"scale\" x=\"{:.1}\" y=\"{:.1}\" text-anchor=\"end\">Ω</text>",
            LEFT - 8.0,
            PLOT_TOP - 10.0
        );
        for (index, column) in self.columns.iter().enumerate() {
            for (which, series) in column.series.iter().enumerate() {
                if series.slug.is_none() {
                    continue;
                }
                let x = self.x(index) + self.column_width() * if which == 0 { -0.19 } else { 0.19 };
                let half = (self.column_width() * 0.15).min(14.0);
                self.band(svg, (series, which), (x, half), &y);
                Self::mark(svg, series, which, x, &y);
            }
            let _ = write!(
                svg,
                "<text class=\"column-name\" x=\"{:.1}\" y=\"{:.1}\" text-anchor=\"middle\">{}</text>",
                self.x(index),
                PLOT_BOTTOM + 16.0,
                escape(&shortened(&column.name, ((self.column_width() / 6.5) as usize).max(3)))
            );
        }
    }

    fn band(
        &self,
        svg: &mut String,
        (series, which): (&Series, usize),
        (x, half): (f64, f64),
        y: &impl Fn(f64) -> f64,
    ) {
        let Some(band) = &series.band else { return };
        let (high, open) = (band.high.map_or(PLOT_TOP, y), band.high.is_none());
        let low = y(band.low);
        let name = ["rn", "r2"][which];
        let here = if series.slug.as_deref() == Some(self.here.as_str()) { " now" } else { "" };
        let unbounded = if open { " unbounded" } else { "" };
        let _ = write!(
            svg,
            "<rect class=\"band band-{name}{here}{unbounded}\" x=\"{:.1}\" y=\"{high:.1}\" width=\"{:.1}\" height=\"{:.1}\"/>",
            x - half,
            half * 2.0,
            (low - high).max(2.0)
        );
        if let Some(centre) = band.centre {
            let at = y(centre);
            let _ =
                write!(svg, "<path class=\"centre centre-{name}\" d=\"M{:.1} {at:.1}h{:.1}\"/>", x - half, half * 2.0);
        }
    }

    fn mark(svg: &mut String, series: &Series, which: usize, x: f64, y: &impl Fn(f64) -> f64) {
        let name = ["rn", "r2"][which];
        let Some(value) = &series.value else { return };
        let Some(ohm) = value.float() else {
            let _ = write!(
                svg,
                "<text class=\"open {}\" x=\"{x:.1}\" y=\"{:.1}\" text-anchor=\"middle\">{}</text>",
                series.look,
                PLOT_TOP - 6.0,
                escape(&value.shown())
            );
            return;
        };
        let at = y(ohm);
        if series.odd {
            let _ = write!(
                svg,
                "<path class=\"alarm {}\" d=\"M{x:.1} {:.1}l11 11l-11 11l-11 -11z\"/>",
                series.look,
                at - 11.0
            );
        }
        let unsteady = if series.unsteady { " unsteady" } else { "" };
        if which == 0 {
            let _ = write!(svg, "<circle class=\"dot dot-{name}{unsteady}\" cx=\"{x:.1}\" cy=\"{at:.1}\" r=\"5\"/>");
        } else {
            let _ = write!(svg, "<path class=\"dot dot-{name}{unsteady}\" d=\"M{x:.1} {:.1}l6 10h-12z\"/>", at - 6.5);
        }
    }

    /// The same in words.
    pub(crate) fn text_alternative(&self) -> Vec<TwinRow> {
        self.columns
            .iter()
            .map(|column| TwinRow {
                name: match column.parent.and_then(|id| self.columns.iter().find(|other| other.id == id)) {
                    Some(parent) => format!("{} (spur from {})", column.name, parent.name),
                    None => column.name.clone(),
                },
                cells: [&column.series[0], &column.series[1]].map(|series| {
                    (
                        series.value.as_ref().map_or_else(|| "not read".to_owned(), Value::shown),
                        series.band.as_ref().map_or_else(|| "not known".to_owned(), Band::shown),
                        series.text,
                    )
                }),
            })
            .collect()
    }
}
