//! Expectation first: the band that each reading of a circuit should fall in, before it is taken.
//!
//! From cable, lengths, earlier readings and the drawn circuit, Ω. Lengths may be unknown and the
//! order of points too: then the band is honestly wide, or there is none and the basis says what
//! would give one. Length is known to 10 % at best; a reading is within 0.05 Ω of what it should
//! be (common practice, no source).

mod band;
mod bonds;
mod live;
mod radial;
mod ring;
mod sets;
mod supply_sizes;
mod unknown;

pub use band::with_places;
pub use band::{Band, Expected};
pub use bonds::{bond_at_least, bond_band, earthing_band};
pub use sets::set_band;
pub use supply_sizes::least_bond;
pub use supply_sizes::least_earthing_and_bond;
pub use unknown::Unknown;

use crate::copper::ohm_per_metre;
use crate::supply_chain::r1_r2_for_loop;
use proof_job::installation::{Circuit, Installation, PointId};
use proof_job::reading::{CurrentReadings, Key, Place, Subject, Test, highest_r1_r2};
use proof_standard::calc::ring::{at_fraction, in_use};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::limits::Source;
use proof_standard::limits::insulation::{LOOK_AGAIN_NEW, LOOK_AGAIN_OLD};
use proof_standard::limits::ring::READING_WITHIN;
use proof_standard::quantity::Ohms;
use proof_standard::shape::Shape;
use rustc_hash::FxHashMap;

/// A circuit's length is known to this share at best (common practice, no source).
pub const LENGTH_UNCERTAINTY: f64 = 0.10;

/// Parallel paths may take this share off R1+R2 in a measured Zs before it is looked at again
/// (common practice, no source: measured is normally a little under the sum).
pub const PARALLEL_PATH_SHARE: f64 = 0.4;

/// Scatter of a low-ohm reading with a good instrument (common practice, no source).
const SCATTER: Ohms = Ohms::literal(0.01);

/// R2 by long lead, in place of the other conductor of a pair.
const LONG_LEAD: usize = 3;

const LENGTH: Source = Source::practice("length known to 10 % at best");

/// How far two readings of one high loop may lie apart, as a share of it (common practice, no source).
pub const LOOP_READING_SHARE: rust_decimal::Decimal = rust_decimal::dec!(0.05);

const LOOP_SUM: Source = Source::practice("a measured Zs is normally a little under the sum");

/// Everything that is known about a circuit before its next reading.
pub struct Known<'a> {
    circuit: &'a Circuit,
    settled: &'a CurrentReadings<'a>,
    per_metre: Option<[f64; 3]>,
    /// Ze, or Zdb at a sub-board, Ω.
    pub ze: Option<f64>,
    /// Whether its board is fed by another: the loop above it is a Zdb, not Ze.
    pub below_origin: bool,
    /// The line–neutral loop at the board, Ω.
    neutral_above: Option<f64>,
    /// Exact readings at each point from the drawn circuit, where its geometry is known: [R1+Rn, R1+R2, R2, R1+R2 in use].
    exact: Option<Vec<[f64; 4]>>,
    /// Metal runs beside the CPCs of this board and may flatter R2.
    parallel_earth: bool,
    /// It is older wiring, or the work only adds to it.
    pub older_wiring: bool,
    highest_r1_r2: Option<(f64, PointId)>,
    /// R1+R2 as read, or worked out from R2 by long lead.
    r1_r2: Option<f64>,
    detailed: bool,
}

impl<'a> Known<'a> {
    /// Gathers what is known.
    pub fn new(installation: &Installation, circuit: &'a Circuit, settled: &'a CurrentReadings<'a>) -> Self {
        let mut known = Self {
            detailed: false,
            circuit,
            settled,
            per_metre: ohm_per_metre(installation, circuit),
            parallel_earth: installation.parallel_earth_path(circuit),
            older_wiring: installation.is_older_wiring(circuit),
            ze: crate::supply_chain::external_loop(installation, settled, circuit.board),
            exact: None,
            below_origin: installation
                .board(circuit.board)
                .is_some_and(|board| matches!(board.fed_by, proof_job::installation::Feed::Circuit { .. })),
            neutral_above: crate::supply_chain::neutral_loop(installation, settled, circuit.board),
            highest_r1_r2: highest_r1_r2(circuit, settled),
            r1_r2: r1_r2_for_loop(installation, circuit, settled),
        };
        known.exact = known.exact_points();
        known
    }

    /// What each point of the drawn circuit reads, [R1+Rn, R1+R2, R2], and what it adds to a loop in use, Ω; `None` where a
    /// leg is not known.
    pub fn exact(&self) -> Option<&[[f64; 4]]> {
        self.exact.as_deref()
    }

    /// The same, saying what each band follows from.
    #[must_use]
    pub fn in_words(&self) -> Self {
        Self { detailed: true, ..self.again() }
    }

    /// Whether bases and working are written out.
    pub const fn detailed(&self) -> bool {
        self.detailed
    }

    fn say(&self, text: impl FnOnce() -> String) -> String {
        if self.detailed { text() } else { String::new() }
    }

    /// The highest settled R1+R2 and where.
    pub const fn highest_r1_r2(&self) -> Option<(f64, PointId)> {
        self.highest_r1_r2
    }

    fn end_to_end(&self, conductor: Conductor) -> Option<f64> {
        self.settled.float(&Key::on_circuit(self.circuit.id, Place::Board, Test::RingEndToEnd { conductor }))
    }

    /// Resistance round the ring, [line, neutral, CPC]: as read, or from r1 or the length.
    fn round(&self) -> Option<([f64; 3], &'static str)> {
        let per_metre = self.per_metre?;
        let read = [Conductor::L, Conductor::N, Conductor::E].map(|conductor| self.end_to_end(conductor));
        if let Some(r1) = read[0] {
            let from_r1 = |index: usize| read[index].unwrap_or(r1 * per_metre[index] / per_metre[0]);
            return Some(([r1, from_r1(1), from_r1(2)], "r1, rn and r2 as read"));
        }
        let length = self.circuit.whole_length()?;
        Some((per_metre.map(|ohm| ohm * length), "the length of the cable"))
    }

    /// What each point of the drawn circuit reads, scaled to r1, rn, r2 as read. A healthy circuit
    /// needs no network: along a radial the legs add up; a fraction round a ring is two ways in
    /// parallel; a spur adds its own. A test holds this against the network.
    fn exact_points(&self) -> Option<Vec<[f64; 4]>> {
        let circuit = self.circuit;
        let legs = circuit.legs()?;
        let total: f64 = legs.iter().sum();
        let per_metre = self.per_metre?;
        if total <= 0.0 || circuit.points.iter().any(|point| point.leg_m.is_none()) {
            return None;
        }
        let ring = circuit.shape == Shape::Ring;
        let round = if ring { self.round()?.0 } else { per_metre.map(|ohm| ohm * total) };
        let mut walked = 0.0;
        let mut along: FxHashMap<PointId, f64> = FxHashMap::default();
        for (point, leg) in circuit.main_points().zip(&legs) {
            walked += leg;
            along.insert(point.id, walked);
        }
        circuit
            .points
            .iter()
            .map(|point| {
                let (mut at, mut spur) = (point, 0.0);
                for _ in 0..circuit.points.len() {
                    let Some(from) = at.spur_from else { break };
                    spur += at.leg_m?.get();
                    at = circuit.point(from)?;
                }
                let x = along.get(&at.id)? / total;
                let pair = |other: usize| {
                    let (r1, rx) = (round[0], round[other]);
                    let main = if ring { at_fraction(r1, rx, x) } else { x * (r1 + rx) };
                    main + spur / total * (r1 + rx)
                };
                let (r1, r2) = (round[0], round[2]);
                let live = if ring { in_use(r1, r2, x) + spur / total * (r1 + r2) } else { pair(2) };
                Some([pair(1), pair(2), (x + spur / total) * r2, live])
            })
            .collect()
    }

    /// The band of one reading, or why there is none.
    ///
    /// # Errors
    /// What would have to be known first.
    pub fn band(&self, key: &Key) -> Result<Band, Unknown> {
        match (key.test, &key.subject) {
            (Test::RingEndToEnd { conductor }, _) => self.end_band(conductor),
            (Test::R1Rn, Subject::Place { place, .. }) => self.point_band(place, key.line, 1),
            (Test::R1R2, Subject::Place { place: Place::Board, .. }) => self.highest_band(key.line),
            (Test::R1R2, Subject::Place { place, .. }) => self.point_band(place, key.line, 2),
            (Test::R2, Subject::Place { place, .. }) => self.point_band(place, key.line, LONG_LEAD),
            (Test::RingBoardCheck, _) => self.board_check_band(key.pair == Some(Pair::LINE_NEUTRAL)),
            (Test::Insulation | Test::InsulationJoined, _) => Ok(self.insulation_band()),
            (Test::Zs, Subject::Place { place, .. }) => self.zs_band(place, key.line),
            (Test::LineNeutralLoop, _) => self.neutral_loop_band(),
            _ => Err(Unknown::NotDetermined),
        }
    }

    fn by_length(&self, length: f64, per_metre: f64) -> Band {
        let centre = length * per_metre;
        let slack = LENGTH_UNCERTAINTY * centre + READING_WITHIN.get();
        let basis = self.say(|| {
            format!("{length} m × {:.2} mΩ/m = {centre:.2} ± 10 % ± {}", per_metre * 1000.0, READING_WITHIN.get())
        });
        Band::around(centre, slack, slack, basis, LENGTH)
    }

    fn point_band(&self, place: &Place, line: Option<Conductor>, other: usize) -> Result<Band, Unknown> {
        let point = place.point().ok_or(Unknown::NotAtBoard)?;
        let index = self.circuit.points.iter().position(|p| p.id == point).ok_or(Unknown::NoSuchPoint)?;
        if place.expects_open() {
            return Ok(Band::open(self.say(|| "closed reads, open goes over range".to_owned())));
        }
        if let Place::Switched { .. } = place
            && let Some(first) = self.settled.float(&self.at(point, line, other))
        {
            // The other strapper is as long: what lit it first is read again.
            let within = READING_WITHIN.get();
            let basis = self.say(|| format!("{first:.2} as it first read, the strappers alike in length ± {within}"));
            return Ok(Band::around(first, within, within, basis, LENGTH));
        }
        let mut band = if self.circuit.shape == Shape::Ring {
            self.ring_band(index, other)
        } else {
            self.radial_band(index, line, other)
        }?;
        if self.metal_helps(place) && other != 1 {
            // Metal may carry all that the CPC would: what is left is the line.
            let per_metre = self.per_metre.unwrap_or([1.0; 3]);
            let share = if other == LONG_LEAD { 0.0 } else { per_metre[0] / (per_metre[0] + per_metre[2]) };
            band.low = (share * (band.low + READING_WITHIN.get()) - READING_WITHIN.get()).max(0.0);
            band.basis.push_str(&self.say(|| "; metal beside the CPC may take its part off".to_owned()));
        }
        Ok(band)
    }

    /// The plain reading at a point, of the test with this other conductor.
    fn at(&self, point: PointId, line: Option<Conductor>, other: usize) -> Key {
        let test = if other == LONG_LEAD { Test::R2 } else { [Test::R1R2, Test::R1Rn, Test::R1R2][other] };
        Key::on_circuit(self.circuit.id, Place::Point { point }, test).on_line(line)
    }

    /// The band of the highest R1+R2 of the circuit: that of the point that should read most.
    fn highest_band(&self, line: Option<Conductor>) -> Result<Band, Unknown> {
        let mut most: Result<Band, Unknown> = Err(Unknown::NoPoints);
        for point in &self.circuit.points {
            let Ok(band) = self.point_band(&Place::Point { point: point.id }, line, 2) else { continue };
            let key = |band: &Band| band.centre.or(band.high).unwrap_or(f64::INFINITY);
            if most.as_ref().map_or(true, |other| key(&band) > key(other)) {
                most = Ok(band);
            }
        }
        most
    }

    /// Whether metal other than the CPC is likely in a reading.
    fn metal_helps(&self, place: &Place) -> bool {
        self.parallel_earth || matches!(place, Place::Metalwork { .. })
    }

    /// Whether a reading is lower than the CPC's own copper would give, on a board where metal
    /// runs beside the CPCs.
    pub fn lowered_by_parallel_path(&self, key: &Key, ohm: f64) -> bool {
        if !self.parallel_earth {
            return false;
        }
        let alone = Self { parallel_earth: false, ..self.again() };
        alone.band(key).is_ok_and(|band| band.is_below(ohm))
    }

    fn again(&self) -> Self {
        Self {
            circuit: self.circuit,
            settled: self.settled,
            per_metre: self.per_metre,
            ze: self.ze,
            below_origin: self.below_origin,
            neutral_above: self.neutral_above,
            exact: self.exact.clone(),
            parallel_earth: self.parallel_earth,
            older_wiring: self.older_wiring,
            highest_r1_r2: self.highest_r1_r2,
            r1_r2: self.r1_r2,
            detailed: false,
        }
    }

    fn insulation_band(&self) -> Band {
        let (row, text) =
            if self.older_wiring { (LOOK_AGAIN_OLD, "older wiring") } else { (LOOK_AGAIN_NEW, "new wiring") };
        let least = row.get();
        Band {
            low: least,
            high: None,
            centre: None,
            basis: self.say(|| format!("{text}: {least} MΩ and up, or over range")),
            source: row.source,
        }
    }
}
