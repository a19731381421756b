//! Residual current devices: trip times by kind and multiple, additional protection.

use crate::limits::{LimitRow, Source};
use crate::quantity::{Amps, Milliamps, Millis};
use rust_decimal::dec;
use serde::{Deserialize, Serialize};

sources! {
    TIMES: "RCD trip times" = Source::published("BS EN 61008-1, BS EN 61009-1", "Table 1", "a.c. residual current");
    OLDER: "RCD trip times, older standards" = Source::memory("BS 4293, BS 7288", "trip times", "doubtful for BS 7288: check the edition");
    TYPES: "RCD types" = Source::memory("BS 7671", "531.3.3", "type of RCD by the residual current of what it feeds");
    SOCKETS: "additional protection of socket-outlets" = Source::memory("BS 7671", "411.3.3", "socket-outlets rated up to 32 A");
    LIGHTS: "additional protection of lighting in dwellings" = Source::memory("BS 7671:2018+A2:2022", "411.3.4", "circuits that supply luminaires in dwellings; not in the edition of 2008");
    BATHS: "additional protection of rooms with a bath or shower" = Source::memory("BS 7671", "701.411.3.3", "every circuit of the room");
    HIDDEN: "additional protection of hidden cables" = Source::memory("BS 7671", "522.6.202", "cables less than 50 mm deep without other protection");
    OUTDOORS: "additional protection of mobile equipment outdoors" = Source::memory("BS 7671", "411.3.3", "mobile equipment up to 32 A outdoors");
    ADDITIONAL: "additional protection" = Source::published("BS 7671", "415.1.1", "additional protection: IΔn ≤ 30 mA");
}

/// Kind of RCD as regards its trip times.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub enum RcdKind {
    /// Without delay.
    #[default]
    #[serde(rename = "general")]
    General,
    /// Delayed, selective.
    #[serde(rename = "S")]
    Selective,
    /// BS 4293.
    #[serde(rename = "BS 4293")]
    Bs4293,
    /// BS 7288.
    #[serde(rename = "BS 7288")]
    Bs7288,
}

impl RcdKind {
    /// In the order offered.
    pub const ALL: [Self; 4] = [Self::General, Self::Selective, Self::Bs4293, Self::Bs7288];

    /// Name as written.
    pub const fn name(self) -> &'static str {
        match self {
            Self::General => "general",
            Self::Selective => "S",
            Self::Bs4293 => "BS 4293",
            Self::Bs7288 => "BS 7288",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::General => "general",
            Self::Selective => "S, delayed",
            Self::Bs4293 => "BS 4293",
            Self::Bs7288 => "BS 7288",
        }
    }

    /// Parses the name.
    pub fn from_name(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|kind| kind.name() == name)
    }
}

/// No residual device trips faster, ms: what is read as less was shown in seconds, or is no trip time.
pub const FASTEST_TRIP: LimitRow<Millis> =
    LimitRow::new(Millis(dec!(2)), Source::practice("no residual device trips in less than 2 ms"));

/// Multiple of IΔn that a test uses.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Multiple {
    /// ½ IΔn: must not trip.
    Half,
    /// IΔn.
    One,
    /// 5 IΔn.
    Five,
}

impl Multiple {
    /// In the order of the series.
    pub const ALL: [Self; 3] = [Self::Half, Self::One, Self::Five];

    /// Key in forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Half => "half",
            Self::One => "one",
            Self::Five => "five",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Half => "½ IΔn",
            Self::One => "IΔn",
            Self::Five => "5 IΔn",
        }
    }
}

/// Half-cycle on which a test starts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub enum HalfCycle {
    /// 0°.
    #[serde(rename = "0")]
    Deg0,
    /// 180°.
    #[serde(rename = "180")]
    Deg180,
}

impl HalfCycle {
    /// As an instrument shows it.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Deg0 => "0°",
            Self::Deg180 => "180°",
        }
    }
}

/// What a test must give.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TripWindow {
    /// It must not trip.
    NoTrip,
    /// It trips within these, ms; no minimum for a general RCD.
    Between {
        /// Least time, ms.
        min_ms: Option<Millis>,
        /// Longest time, ms.
        max_ms: Millis,
    },
}

/// Trip times by kind and multiple.
pub const fn window(kind: RcdKind, multiple: Multiple) -> LimitRow<TripWindow> {
    let source = match kind {
        RcdKind::General | RcdKind::Selective => TIMES,
        RcdKind::Bs4293 | RcdKind::Bs7288 => OLDER,
    };
    let (min_ms, max_ms) = match (multiple, kind) {
        (Multiple::Half, _) => return LimitRow::new(TripWindow::NoTrip, source),
        (Multiple::One, RcdKind::General) => (None, Millis(dec!(300))),
        (Multiple::One, RcdKind::Selective) => (Some(Millis(dec!(130))), Millis(dec!(500))),
        (Multiple::One, RcdKind::Bs4293 | RcdKind::Bs7288) => (None, Millis(dec!(200))),
        (Multiple::Five, RcdKind::Selective) => (Some(Millis(dec!(50))), Millis(dec!(150))),
        (Multiple::Five, _) => (None, Millis(dec!(40))),
    };
    LimitRow::new(TripWindow::Between { min_ms, max_ms }, source)
}

/// Socket-outlets want additional protection up to this rating.
pub const SOCKETS_PROTECTED: LimitRow<Amps> = LimitRow::new(Amps(dec!(32)), SOCKETS);

/// Additional protection is by an RCD of at most this; the series needs 5 IΔn only up to it.
pub const ADDITIONAL_PROTECTION: LimitRow<Milliamps> = LimitRow::new(Milliamps(dec!(30)), ADDITIONAL);

/// Type of residual current that an RCD detects.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub enum RcdType {
    /// Alternating only.
    AC,
    /// Alternating and pulsating direct.
    #[default]
    A,
    /// As A, with mixed frequencies.
    F,
    /// As F, with smooth direct current.
    B,
}

impl RcdType {
    /// In the order offered.
    pub const ALL: [Self; 4] = [Self::A, Self::AC, Self::F, Self::B];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::AC => "AC",
            Self::A => "A",
            Self::F => "F",
            Self::B => "B",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::AC => "AC",
            Self::A => "A",
            Self::F => "F",
            Self::B => "B",
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rust_decimal::dec;

    /// BS EN 61008-1 and 61009-1 Table 1; BS 4293 and BS 7288 from memory.
    #[test]
    fn windows() {
        let max = |kind, multiple| match *window(kind, multiple) {
            TripWindow::NoTrip => None,
            TripWindow::Between { min_ms, max_ms } => Some((min_ms, max_ms)),
        };
        assert_eq!(max(RcdKind::General, Multiple::One), Some((None, Millis(dec!(300)))));
        assert_eq!(max(RcdKind::General, Multiple::Five), Some((None, Millis(dec!(40)))));
        assert_eq!(max(RcdKind::Selective, Multiple::One), Some((Some(Millis(dec!(130))), Millis(dec!(500)))));
        assert_eq!(max(RcdKind::Selective, Multiple::Five), Some((Some(Millis(dec!(50))), Millis(dec!(150)))));
        assert_eq!(max(RcdKind::Bs4293, Multiple::One), Some((None, Millis(dec!(200)))));
        assert_eq!(max(RcdKind::Bs7288, Multiple::Five), Some((None, Millis(dec!(40)))));
        for kind in RcdKind::ALL {
            assert_eq!(max(kind, Multiple::Half), None);
        }
    }
}
