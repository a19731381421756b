//! RCD trip times judged, ms. Source: BS EN 61008-1 and 61009-1 Table 1; BS 7671 643.7 to 643.8.

use crate::limits::edition::RcdSchool;
use crate::limits::rcd::{ADDITIONAL_PROTECTION, HalfCycle, Multiple, RcdKind, TripWindow, window};
use crate::quantity::{Milliamps, Millis};

/// One test of a series: multiple and half-cycle.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct RcdTest {
    /// Multiple of IΔn.
    pub multiple: Multiple,
    /// Half-cycle.
    pub half_cycle: HalfCycle,
}

impl RcdTest {
    /// The six tests in the usual order.
    pub const ALL: [Self; 6] = [
        Self { multiple: Multiple::Half, half_cycle: HalfCycle::Deg0 },
        Self { multiple: Multiple::Half, half_cycle: HalfCycle::Deg180 },
        Self { multiple: Multiple::One, half_cycle: HalfCycle::Deg0 },
        Self { multiple: Multiple::One, half_cycle: HalfCycle::Deg180 },
        Self { multiple: Multiple::Five, half_cycle: HalfCycle::Deg0 },
        Self { multiple: Multiple::Five, half_cycle: HalfCycle::Deg180 },
    ];

    /// Key in the command-line contract.
    pub const fn key(self) -> &'static str {
        match (self.multiple, self.half_cycle) {
            (Multiple::Half, HalfCycle::Deg0) => "half_0",
            (Multiple::Half, HalfCycle::Deg180) => "half_180",
            (Multiple::One, HalfCycle::Deg0) => "one_0",
            (Multiple::One, HalfCycle::Deg180) => "one_180",
            (Multiple::Five, HalfCycle::Deg0) => "five_0",
            (Multiple::Five, HalfCycle::Deg180) => "five_180",
        }
    }
}

/// What an RCD test gave.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Trip {
    /// It tripped after so many ms.
    Ms(Millis),
    /// It did not trip.
    NoTrip,
}

/// One judged test.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct RcdFinding {
    /// Which test.
    pub test: RcdTest,
    /// What it must give.
    pub window: TripWindow,
    /// What it gave.
    pub value: Trip,
    /// Whether it did.
    pub ok: bool,
}

/// The verdict on an RCD.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RcdVerdict {
    /// Every test needed was taken and passed.
    Pass,
    /// One failed. Outranks a missing test.
    Fail,
    /// One that the school needs was not taken.
    Incomplete,
}

/// An RCD judged.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RcdJudgement {
    /// The verdict.
    pub verdict: RcdVerdict,
    /// The slower at IΔn, ms; `None` if none or no trip.
    pub recorded_one_ms: Option<Millis>,
    /// The slower at 5 IΔn, ms; `None` if none or no trip.
    pub recorded_five_ms: Option<Millis>,
    /// Each test taken.
    pub findings: Vec<RcdFinding>,
    /// Tests that the school needs and that were not taken.
    pub missing: Vec<RcdTest>,
}

/// Whether one result is what its window asks.
pub fn trips_rightly(window: TripWindow, value: Trip) -> bool {
    match (window, value) {
        (TripWindow::NoTrip, value) => value == Trip::NoTrip,
        (TripWindow::Between { .. }, Trip::NoTrip) => false,
        (TripWindow::Between { min_ms, max_ms }, Trip::Ms(ms)) => min_ms.is_none_or(|min| ms >= min) && ms <= max_ms,
    }
}

/// Judges whatever was taken; says what is missing.
///
/// ```
/// use proof_standard::quantity::{Milliamps, Millis};
/// use proof_standard::calc::rcd::{RcdTest, RcdVerdict, Trip, judge};
/// use proof_standard::limits::edition::RcdSchool;
/// use proof_standard::limits::rcd::RcdKind;
/// use rust_decimal::dec;
/// let one_0 = RcdTest::ALL[2];
/// let judged = judge(RcdKind::General, Milliamps(dec!(30)), RcdSchool::Single, &[(one_0, Trip::Ms(Millis(dec!(24.1))))]);
/// assert_eq!((judged.verdict, judged.recorded_one_ms), (RcdVerdict::Pass, Some(Millis(dec!(24.1)))));
/// assert_eq!(judge(RcdKind::General, Milliamps(dec!(30)), RcdSchool::Single, &[(one_0, Trip::NoTrip)]).verdict, RcdVerdict::Fail);
/// ```
pub fn judge(kind: RcdKind, idn: Milliamps, school: RcdSchool, readings: &[(RcdTest, Trip)]) -> RcdJudgement {
    let taken = |test: &RcdTest| readings.iter().find(|(other, _)| other == test).map(|(_, value)| *value);
    let findings: Vec<RcdFinding> = RcdTest::ALL
        .iter()
        .filter_map(|&test| {
            let value = taken(&test)?;
            let window = *window(kind, test.multiple);
            Some(RcdFinding { test, window, value, ok: trips_rightly(window, value) })
        })
        .collect();
    let [_, _, one_0, one_180, ..] = RcdTest::ALL;
    let missing: Vec<RcdTest> = match school {
        RcdSchool::Single if taken(&one_0).is_none() && taken(&one_180).is_none() => vec![one_0],
        RcdSchool::Single => Vec::new(),
        RcdSchool::Series => {
            let fives = idn <= *ADDITIONAL_PROTECTION;
            let wanted = |test: &&RcdTest| test.multiple != Multiple::Five || fives;
            RcdTest::ALL.iter().filter(wanted).filter(|test| taken(test).is_none()).copied().collect()
        }
    };
    let slower = |multiple: Multiple| {
        let of: Vec<Trip> = findings.iter().filter(|f| f.test.multiple == multiple).map(|f| f.value).collect();
        of.iter()
            .try_fold(None, |slowest: Option<Millis>, trip| match trip {
                Trip::Ms(ms) => Some(Some(slowest.map_or(*ms, |s| s.max(*ms)))),
                Trip::NoTrip => None,
            })
            .flatten()
    };
    let verdict = if findings.iter().any(|finding| !finding.ok) {
        RcdVerdict::Fail
    } else if missing.is_empty() {
        RcdVerdict::Pass
    } else {
        RcdVerdict::Incomplete
    };
    RcdJudgement {
        verdict,
        recorded_one_ms: slower(Multiple::One),
        recorded_five_ms: slower(Multiple::Five),
        findings,
        missing,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rust_decimal::dec;

    const IDN: Milliamps = Milliamps(dec!(30));

    fn from_trips(keys: &[(&str, Trip)]) -> Vec<(RcdTest, Trip)> {
        keys.iter()
            .map(|(key, trip)| (RcdTest::ALL.into_iter().find(|test| test.key() == *key).unwrap(), *trip))
            .collect()
    }

    #[test]
    fn the_single_school_needs_one_test() {
        let judged =
            judge(RcdKind::General, IDN, RcdSchool::Single, &from_trips(&[("one_180", Trip::Ms(Millis(dec!(24.6))))]));
        assert_eq!(judged.verdict, RcdVerdict::Pass);
        assert_eq!(judged.recorded_one_ms, Some(Millis(dec!(24.6))));
        let none = judge(RcdKind::General, IDN, RcdSchool::Single, &[]);
        assert_eq!((none.verdict, none.missing.len()), (RcdVerdict::Incomplete, 1));
    }

    #[test]
    fn the_series_needs_six_or_four() {
        let ones = from_trips(&[("one_0", Trip::Ms(Millis(dec!(20)))), ("one_180", Trip::Ms(Millis(dec!(28))))]);
        assert_eq!(judge(RcdKind::General, IDN, RcdSchool::Series, &ones).missing.len(), 4);
        assert_eq!(judge(RcdKind::General, Milliamps(dec!(100)), RcdSchool::Series, &ones).missing.len(), 2);
        assert_eq!(judge(RcdKind::General, IDN, RcdSchool::Series, &ones).recorded_one_ms, Some(Millis(dec!(28))));
    }

    #[test]
    fn a_failure_outranks_a_missing_reading() {
        let judged =
            judge(RcdKind::General, IDN, RcdSchool::Series, &from_trips(&[("half_0", Trip::Ms(Millis(dec!(18))))]));
        assert_eq!(judged.verdict, RcdVerdict::Fail);
    }

    #[test]
    fn a_delayed_rcd_may_not_be_quick_and_no_trip_records_nothing() {
        let quick = judge(
            RcdKind::Selective,
            Milliamps(dec!(100)),
            RcdSchool::Single,
            &from_trips(&[("one_0", Trip::Ms(Millis(dec!(129))))]),
        );
        assert_eq!(quick.verdict, RcdVerdict::Fail);
        let none = judge(
            RcdKind::General,
            IDN,
            RcdSchool::Single,
            &from_trips(&[("one_0", Trip::NoTrip), ("one_180", Trip::Ms(Millis(dec!(20))))]),
        );
        assert_eq!((none.verdict, none.recorded_one_ms), (RcdVerdict::Fail, None));
    }
}
