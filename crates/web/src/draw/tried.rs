//! What a circuit would read on the bench, point by point, beside what was read: a line of rings for what it would, a cross
//! for what was. The table beside it is its text.

use std::fmt::Write;

const WIDTH: f64 = 640.0;
const HEIGHT: f64 = 190.0;
const LEFT: f64 = 52.0;
const BOTTOM: f64 = 26.0;
const TOP: f64 = 30.0;

/// One step of a walk, Ω; `None`: open, or not read.
pub(crate) struct Series {
    /// What the bench would read.
    pub would: Vec<Option<f64>>,
    /// What was read.
    pub read: Vec<Option<f64>>,
}

impl Series {
    fn highest(&self) -> f64 {
        self.would.iter().chain(&self.read).flatten().copied().fold(0.0, f64::max)
    }
}

/// One panel: its drawing for a series, with a title.
fn panel(out: &mut String, series: &Series, (title, class, highest, down): (&str, &str, f64, f64)) -> std::fmt::Result {
    let count = series.would.len().max(1) as f64;
    let x = |at: usize| LEFT + (at as f64 + 0.5) / count * (WIDTH - LEFT - 10.0);
    let y = |ohm: f64| down + HEIGHT - BOTTOM - ohm / highest * (HEIGHT - BOTTOM - TOP);
    write!(out, "<text x=\"4\" y=\"{:.1}\" class=\"t-title\">{title}</text>", down + 11.0)?;
    for share in [0.0, 0.5, 1.0] {
        let ohm = highest * share;
        write!(
            out,
            "<line x1=\"{LEFT}\" x2=\"{WIDTH}\" y1=\"{0:.1}\" y2=\"{0:.1}\" class=\"t-rule\"/><text x=\"{1}\" y=\"{2:.1}\" class=\"t-figure\">{ohm:.2}</text>",
            y(ohm),
            LEFT - 6.0,
            y(ohm) + 4.0
        )?;
    }
    let (mut line, mut rings) = (String::new(), String::new());
    for (at, ohm) in series.would.iter().enumerate() {
        write!(out, "<text x=\"{:.1}\" y=\"{:.1}\" class=\"t-point\">{}</text>", x(at), down + HEIGHT - 8.0, at + 1)?;
        if let Some(ohm) = ohm {
            write!(line, "{}{:.1} {:.1}", if line.is_empty() { "M" } else { " L" }, x(at), y(*ohm))?;
            write!(rings, "<circle cx=\"{:.1}\" cy=\"{:.1}\" r=\"5\" class=\"t-would {class}\"/>", x(at), y(*ohm))?;
        }
    }
    write!(out, "<path d=\"{line}\" class=\"t-line {class}\"/>{rings}")?;
    for (at, ohm) in series.read.iter().enumerate() {
        if let Some(ohm) = ohm {
            let (x, y) = (x(at), y(*ohm));
            write!(out, "<path d=\"M{:.1} {:.1} l8 8 m0 -8 l-8 8\" class=\"t-read\"/>", x - 4.0, y - 4.0)?;
        }
    }
    Ok(())
}

/// Both steps, one above the other.
pub(crate) fn drawing(neutral: &Series, earth: &Series) -> String {
    let highest = (neutral.highest().max(earth.highest()) * 1.15).max(0.05);
    let mut out = format!(
        "<svg viewBox=\"0 0 {WIDTH} {:.0}\" class=\"tried\" role=\"img\" aria-label=\"What the circuit would read, and what was read; the table has the figures\">",
        2.0 * HEIGHT
    );
    let panels =
        [(neutral, ("Line–neutral, Ω", "t-n", highest, 0.0)), (earth, ("Line–CPC, Ω", "t-e", highest, HEIGHT))];
    for (series, of) in panels {
        // Writing to a text does not fail.
        let _ = panel(&mut out, series, of);
    }
    out.push_str("</svg>");
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rings_for_what_it_would_and_crosses_for_what_was_read() {
        let series = |read| Series { would: vec![Some(0.2), None, Some(0.4)], read };
        let svg = drawing(&series(vec![Some(0.21), Some(0.3), None]), &series(vec![None, None, None]));
        assert_eq!((svg.matches("<circle").count(), svg.matches("t-read").count()), (4, 2));
        assert!(!svg.contains("NaN") && !svg.contains("inf"));
        let none = Series { would: Vec::new(), read: Vec::new() };
        assert!(!drawing(&none, &none).contains("NaN"));
    }
}
