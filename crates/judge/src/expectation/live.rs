//! Bands of the live loops of a circuit, Ω.

use crate::expectation::{Band, Known, LENGTH_UNCERTAINTY, LOOP_READING_SHARE, LOOP_SUM, PARALLEL_PATH_SHARE, Unknown};
use proof_job::reading::{Key, Place, Test, highest};
use proof_standard::conductor::Conductor;
use proof_standard::limits::ring::READING_WITHIN;
use proof_standard::quantity::approximate;
use proof_standard::shape::Shape;

impl Known<'_> {
    pub(super) fn zs_band(&self, place: &Place, line: Option<Conductor>) -> Result<Band, Unknown> {
        let ze = self.ze.ok_or(Unknown::ZeFirst)?;
        let own = place.point().and_then(|point| {
            let key = Key::on_circuit(self.circuit.id, Place::Point { point }, Test::R1R2).on_line(line);
            self.settled.float(&key)
        });
        let r1_r2 = own.or(self.r1_r2).ok_or(Unknown::R1R2First)?;
        let sum = ze + r1_r2;
        // A high loop is read to a share of it, whatever the display shows.
        let within = READING_WITHIN.get().max(approximate(LOOP_READING_SHARE) * sum);
        // A point without an R1+R2 of its own is anywhere between the board and the far end. On a ring the legs are crossed
        // for R1+R2 and not in use: a point near the board reads next to Ze.
        let ring = self.circuit.shape == Shape::Ring;
        let drawn = place
            .point()
            .and_then(|id| self.circuit.points.iter().position(|one| one.id == id))
            .zip(self.exact.as_ref());
        let in_use = drawn.map(|(index, exact)| exact[index][3]);
        let least = match (place.point().is_some(), ring, own) {
            (false, ..) | (true, false, Some(_)) => (1.0 - PARALLEL_PATH_SHARE) * r1_r2,
            (true, true, _) => in_use.map_or(0.0, |ohm| (1.0 - PARALLEL_PATH_SHARE) * ohm.min(r1_r2)),
            (true, false, None) => 0.0,
        };
        Ok(Band {
            low: (ze + least - within).max(ze),
            high: Some(sum + within),
            centre: Some(sum),
            basis: self.say(|| {
                let less = match in_use.filter(|_| ring) {
                    Some(ohm) => format!("; in use, both ways round the ring, this point adds {ohm:.2}"),
                    None if ring && place.point().is_some() => {
                        "; in use a point near the board adds next to nothing".into()
                    }
                    None => String::new(),
                };
                format!(
                    "{} {ze:.2} + R1+R2 {r1_r2:.2} = {sum:.2}, a little less for parallel paths{less}",
                    if self.below_origin { "Zdb" } else { "Ze" }
                )
            }),
            source: LOOP_SUM,
        })
    }

    /// Line–neutral at the far point: the loop behind the fault current at this board, and R1+Rn.
    pub(super) fn neutral_loop_band(&self) -> Result<Band, Unknown> {
        let above = self.neutral_above.ok_or(Unknown::CurrentFirst)?;
        let read = highest(self.circuit, self.settled, Test::R1Rn).and_then(|reading| reading.value.float());
        let own = read.ok_or(Unknown::R1RnFirst)?;
        let (sum, within) = (above + own, READING_WITHIN.get());
        let basis = self.say(|| format!("loop at the board {above:.2} + R1+Rn {own:.2} = {sum:.2}"));
        Ok(Band::around(sum, within + LENGTH_UNCERTAINTY * sum, within + LENGTH_UNCERTAINTY * sum, basis, LOOP_SUM))
    }
}
