//! Checks of an instrument against fixed values, over time: how far each range is off, in per cent.

use proof_job::instrument::{CheckOf, FixedCheck};
use proof_standard::quantity::approximate;
use std::fmt::Write;

const WIDTH: f64 = 720.0;
const HEIGHT: f64 = 210.0;
const LEFT: f64 = 52.0;
const RIGHT: f64 = 16.0;
const TOP: f64 = 16.0;
const BOTTOM: f64 = 178.0;
/// The scale reaches this far at least, per cent.
const LEAST_SPAN: f64 = 6.0;

/// The drawing; a table of the checks stands beside it.
pub(crate) fn drawing(checks: &[FixedCheck]) -> String {
    let points: Vec<(CheckOf, i32, f64)> = checks
        .iter()
        .filter(|check| approximate(check.fixed) > 0.0)
        .map(|check| {
            let days = (check.on - jiff::civil::date(2000, 1, 1)).get_days();
            (check.of, days, 100.0 * (approximate(check.read) / approximate(check.fixed) - 1.0))
        })
        .collect();
    let (Some(first), Some(last)) =
        (points.iter().map(|point| point.1).min(), points.iter().map(|point| point.1).max())
    else {
        return String::new();
    };
    let span = points.iter().map(|point| point.2.abs()).fold(LEAST_SPAN, f64::max) * 1.05;
    let x = |days: i32| {
        let share = if last > first { f64::from(days - first) / f64::from(last - first) } else { 0.5 };
        LEFT + share * (WIDTH - LEFT - RIGHT)
    };
    let y = |percent: f64| f64::midpoint(TOP, BOTTOM) - percent / span * (BOTTOM - TOP) / 2.0;
    let mut svg = format!(
        "<svg class=\"trend\" viewBox=\"0 0 {WIDTH:.0} {HEIGHT:.0}\" width=\"{WIDTH:.0}\" height=\"{HEIGHT:.0}\" aria-hidden=\"true\" focusable=\"false\">"
    );
    let limit = 100.0 * proof_job::instrument::CHECK_SHARE;
    let _ = write!(
        svg,
        "<rect class=\"trend-right\" x=\"{LEFT}\" y=\"{:.1}\" width=\"{:.1}\" height=\"{:.1}\"/>",
        y(limit),
        WIDTH - LEFT - RIGHT,
        y(-limit) - y(limit)
    );
    for percent in [-limit, 0.0, limit] {
        let at = y(percent);
        let _ = write!(
            svg,
            "<path class=\"grid\" d=\"M{LEFT} {at:.1}H{:.1}\"/><text x=\"{:.1}\" y=\"{:.1}\" text-anchor=\"end\">{} %</text>",
            WIDTH - RIGHT,
            LEFT - 6.0,
            at + 4.0,
            if percent == 0.0 { "0".to_owned() } else { format!("{percent:+.0}") }
        );
    }
    for (index, of) in CheckOf::ALL.into_iter().enumerate() {
        let of_range: Vec<(f64, f64)> =
            points.iter().filter(|point| point.0 == of).map(|(_, days, percent)| (x(*days), y(*percent))).collect();
        line(&mut svg, index, &of_range);
    }
    let day = |on: Option<jiff::civil::Date>| on.map(|on| on.to_string()).unwrap_or_default();
    let _ = write!(
        svg,
        "<text x=\"{LEFT}\" y=\"{:.1}\">{}</text><text x=\"{:.1}\" y=\"{:.1}\" text-anchor=\"end\">{}</text></svg>",
        BOTTOM + 20.0,
        day(checks.iter().map(|check| check.on).min()),
        WIDTH - RIGHT,
        BOTTOM + 20.0,
        day(checks.iter().map(|check| check.on).max())
    );
    svg
}

/// The checks of one range, each a mark of its own shape, joined by a line.
fn line(svg: &mut String, index: usize, points: &[(f64, f64)]) {
    let mut path = String::new();
    for (px, py) in points {
        let _ = write!(path, "{}{px:.1} {py:.1}", if path.is_empty() { "M" } else { "L" });
        let _ = match index {
            0 => write!(svg, "<circle class=\"trend-mark\" cx=\"{px:.1}\" cy=\"{py:.1}\" r=\"4.5\"/>"),
            1 => write!(
                svg,
                "<rect class=\"trend-mark\" x=\"{:.1}\" y=\"{:.1}\" width=\"8\" height=\"8\"/>",
                px - 4.0,
                py - 4.0
            ),
            _ => write!(svg, "<path class=\"trend-mark\" d=\"M{px:.1} {:.1}l5 9h-10z\"/>", py - 5.0),
        };
    }
    if !path.is_empty() {
        let _ = write!(svg, "<path class=\"trend-line trend-{index}\" d=\"{path}\"/>");
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_check_is_a_mark() {
        let checks = proof_bench::demo::instruments().swap_remove(0).checks;
        assert_eq!(drawing(&checks).matches("trend-mark").count(), checks.len());
        assert_eq!(drawing(&[]), "");
        assert!(drawing(&checks[..1]).contains("trend-mark"), "one check has no span of time");
    }
}
