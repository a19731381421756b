//! Bands along a radial, Ω.

use crate::expectation::{Band, Known, LENGTH, LENGTH_UNCERTAINTY, LONG_LEAD, Unknown};
use proof_job::installation::PointId;
use proof_job::installation::switching::switched_metres;
use proof_job::reading::{Key, Place, Test};
use proof_standard::conductor::Conductor;
use proof_standard::limits::conductors;
use proof_standard::limits::ring::READING_WITHIN;

impl Known<'_> {
    pub(super) fn radial_band(&self, index: usize, line: Option<Conductor>, other: usize) -> Result<Band, Unknown> {
        let per_metre = self.per_metre.ok_or(Unknown::SizeNotInTable)?;
        let per_loop = if other == LONG_LEAD { per_metre[2] } else { per_metre[0] + per_metre[other] };
        let within = READING_WITHIN.get();
        let point = &self.circuit.points[index];
        if let Some(band) = self.switched_band(point.id, other) {
            return Ok(band);
        }
        if other == 2 {
            let key = Key::on_circuit(self.circuit.id, Place::Point { point: point.id }, Test::R1Rn).on_line(line);
            if let Some(r1_rn) = self.settled.float(&key) {
                let ratio = per_loop / (per_metre[0] + per_metre[1]);
                let centre = r1_rn * ratio;
                // The contact may have been in either reading.
                let slack = within * ratio.max(1.0);
                let basis = self.say(|| {
                    format!("R1+Rn {r1_rn:.2} at this point × {ratio:.2} (resistances) = {centre:.2} ± {slack:.2}")
                });
                return Ok(Band::around(centre, slack, slack, basis, conductors::RESISTANCE));
            }
        }
        if let Some(exact) = &self.exact {
            let centre = exact[index][other - 1];
            let slack = LENGTH_UNCERTAINTY * centre + within;
            let basis = self.say(|| format!("the drawn run: {centre:.3} ± 10 % ± {within}"));
            return Ok(Band::around(centre, slack, slack, basis, LENGTH));
        }
        let (mut low, mut high, mut basis, mut bounded) = (0.0_f64, None, String::new(), false);
        let last = self.circuit.main_points().last().is_some_and(|last| last.id == point.id);
        if let Some(length) = self.circuit.whole_length() {
            let far = self.by_length(length, per_loop);
            high = far.high;
            bounded = true;
            basis = self.say(|| format!("not above the far end: {}", far.basis));
            if self.circuit.points.len() == 1 || (last && self.circuit.runs_in_order()) {
                return Ok(far);
            }
        }
        if self.circuit.runs_in_order() && point.spur_from.is_none() {
            let test = [Test::R1R2, Test::R1Rn, Test::R1R2, Test::R2][other];
            let before = self.neighbours(index, test, line, true);
            let after = self.neighbours(index, test, line, false);
            if let Some(before) = before {
                low = (before - within).max(0.0);
                bounded = true;
                basis = self.say(|| format!("{basis}; readings rise along the run: {before:.2} before it"));
            }
            if let Some(after) = after {
                high = Some(high.map_or(after + within, |h: f64| h.min(after + within)));
                bounded = true;
                basis = self.say(|| format!("{basis}; {after:.2} after it"));
            }
        }
        if !bounded {
            return Err(Unknown::Length);
        }
        Ok(Band { low, high, centre: None, basis: basis.trim_start_matches("; ").to_owned(), source: LENGTH })
    }

    /// What passes two-way switches: the line runs by each of them, the other conductors straight. Where
    /// both run alike nothing is added to what the drawn run says.
    fn switched_band(&self, point: PointId, other: usize) -> Option<Band> {
        let (per_metre, [line_m, straight_m]) = (self.per_metre?, switched_metres(self.circuit, point)?);
        if other == LONG_LEAD || (line_m - straight_m).abs() < f64::EPSILON {
            return None;
        }
        let centre = line_m * per_metre[0] + straight_m * per_metre[other];
        let slack = LENGTH_UNCERTAINTY * centre + READING_WITHIN.get();
        let basis = self.say(|| {
            format!(
                "line {line_m} m by the switches, the other conductor {straight_m} m: {centre:.3} ± 10 % ± {}",
                READING_WITHIN.get()
            )
        });
        Some(Band::around(centre, slack, slack, basis, LENGTH))
    }

    fn neighbours(&self, index: usize, test: Test, line: Option<Conductor>, before: bool) -> Option<f64> {
        let points = &self.circuit.points;
        let range = if before { 0..index } else { index + 1..points.len() };
        points[range]
            .iter()
            .filter(|point| point.spur_from.is_none())
            .filter_map(|point| {
                let key = Key::on_circuit(self.circuit.id, Place::Point { point: point.id }, test).on_line(line);
                self.settled.float(&key)
            })
            .reduce(if before { f64::max } else { f64::min })
    }
}
