//! Bands of a ring: its ends, its points, the check before walking, Ω.

use crate::expectation::{Band, Known, LENGTH_UNCERTAINTY, SCATTER, Unknown};
use proof_standard::calc::ring::{at_fraction, parallel, quarter};
use proof_standard::conductor::Conductor;
use proof_standard::limits::ring::READING_WITHIN;
use proof_standard::limits::{conductors, ring};
use proof_standard::shape::Shape;
use std::fmt::Write;

impl Known<'_> {
    pub(super) fn end_band(&self, conductor: Conductor) -> Result<Band, Unknown> {
        const WANT: Unknown = Unknown::LengthOrR1;
        let per_metre = self.per_metre.ok_or(Unknown::SizeNotInTable)?;
        let index = match conductor {
            Conductor::N => 1,
            Conductor::E => 2,
            _ => 0,
        };
        if let (Some(r1), true) = (self.end_to_end(Conductor::L), index > 0) {
            let table = r1 * per_metre[index] / per_metre[0];
            let cable = &self.circuit.cable;
            let within = READING_WITHIN.get();
            return Ok(if index == 1 {
                Band::around(
                    table,
                    within,
                    within,
                    self.say(|| format!("rn within {within} of r1 {r1:.2}: {table:.2}")),
                    ring::LEGS_ALIKE,
                )
            } else {
                let by_size = r1 * cable.line_mm2.get() / cable.cpc_mm2.get();
                // What was uncertain in r1 is so by the same ratio in what follows from it.
                let within = within + SCATTER.get() * per_metre[index] / per_metre[0];
                let high = table.max(by_size) + within;
                Band {
                    low: (table.min(by_size) - within).max(0.0),
                    high: Some(high),
                    centre: Some(table),
                    basis: self.say(|| {
                        format!(
                            "r1 {r1:.2} × {:.2} (resistances) = {table:.2}; × {:.2} (sizes) = {by_size:.2}; ± {within:.2}",
                            per_metre[2] / per_metre[0],
                            cable.line_mm2.get() / cable.cpc_mm2.get()
                        )
                    }),
                    source: conductors::RESISTANCE,
                }
            });
        }
        let length = self.circuit.whole_length().ok_or(WANT)?;
        Ok(self.by_length(length, per_metre[index]))
    }

    pub(super) fn board_check_band(&self, neutral: bool) -> Result<Band, Unknown> {
        let [rn, r2] = self.board_check().ok_or(Unknown::EndsOrLength)?;
        let (centre, name) = if neutral { (rn, "rn") } else { (r2, "r2") };
        // Below half of it a leg is more likely linked to itself than the clips are good.
        // A ring so short that scatter alone may halve it accuses nobody.
        let below = (0.5 * centre).min(READING_WITHIN.get()).max(2.5 * SCATTER.get());
        let basis = self.say(|| format!("r1 ∥ {name} = {centre:.3}; nothing when a leg is linked to itself"));
        Ok(Band::around(centre, below, READING_WITHIN.get(), basis, ring::QUARTERS))
    }

    pub(super) fn ring_band(&self, index: usize, other: usize) -> Result<Band, Unknown> {
        let (round, basis) = self.round().ok_or(Unknown::EndsOrLength)?;
        let within = READING_WITHIN.get();
        let (r1, rx) = (round[0], round[other]);
        let name = ["", "rn", "r2"][other];
        // From the length alone no ring is known better than its length.
        let unread = if self.end_to_end(Conductor::L).is_some() { 0.0 } else { LENGTH_UNCERTAINTY };
        if let Some(exact) = &self.exact {
            let centre = exact[index][other - 1];
            let basis = self.say(|| {
                format!("the drawn ring with {basis}: {centre:.3}; mid-ring (r1 + {name})/4 = {:.3}", quarter(r1, rx))
            });
            let slack = within + unread * centre;
            return Ok(Band::around(centre, slack, slack, basis, ring::AS_EXPECTED));
        }
        let (least, most) = (at_fraction(r1, rx, 0.0), quarter(r1, rx));
        let spur = self.spur_of(index, other);
        let (extra, open) = match spur {
            Spur::None => (0.0, false),
            Spur::Adds(extra) => (extra, false),
            Spur::Unknown => (0.0, true),
        };
        let basis = self.say(|| {
            let mut text = format!(
            "(r1 + {name})/4 = ({r1:.2} + {rx:.2})/4 = {most:.3} half-way round, down to r1 ∥ {name} = {least:.3} at the board"
            );
            if extra > 0.0 {
                let _ = write!(text, "; spur adds {extra:.2}");
            }
            if open {
                text.push_str("; a spur of unknown length adds its own");
            }
            format!("{text}; ± {within}")
        });
        Ok(Band {
            low: ((1.0 - unread) * (least + extra) - within).max(0.0),
            high: (!open).then_some((1.0 + unread) * (most + extra) + within),
            centre: (!open).then_some(most + extra),
            basis,
            source: ring::QUARTERS,
        })
    }

    /// What the spurs up to a point add.
    fn spur_of(&self, index: usize, other: usize) -> Spur {
        let mut at = &self.circuit.points[index];
        let (Some(per_metre), Some(_)) = (self.per_metre, at.spur_from) else { return Spur::None };
        let mut metres = 0.0;
        // A circle of spurs is refused when a circuit is stored; this bound is for safety.
        for _ in 0..self.circuit.points.len() {
            let Some(parent) = at.spur_from.and_then(|from| self.circuit.point(from)) else { break };
            let Some(leg) = at.leg_m else { return Spur::Unknown };
            metres += leg.get();
            at = parent;
        }
        Spur::Adds(metres * (per_metre[0] + per_metre[other]))
    }

    /// r1 ∥ the other conductor: what line to that conductor of the same leg reads at the board
    /// when the legs are crossed rightly. Rings only.
    pub fn board_check(&self) -> Option<[f64; 2]> {
        let (round, _) = self.round().filter(|_| self.circuit.shape == Shape::Ring)?;
        Some([parallel(round[0], round[1]), parallel(round[0], round[2])])
    }
}

/// What spurs add to a point on a ring, Ω.
enum Spur {
    /// It stands on the main line.
    None,
    /// So much.
    Adds(f64),
    /// Its own, of unknown length.
    Unknown,
}
