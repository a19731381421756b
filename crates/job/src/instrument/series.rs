//! The order in which an instrument runs its automatic series of an RCD, and shows it.

use proof_standard::limits::rcd::{HalfCycle, Multiple};
use serde::{Deserialize, Serialize};

/// The order of a series: a setting of the instrument.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum SeriesOrder {
    /// Both half-cycles of a multiple, then the next multiple.
    #[default]
    Pairs,
    /// Every multiple at 0°, then at 180°.
    Halves,
    /// The trips at IΔn, at 5 IΔn, then ½ IΔn.
    HalfLast,
    /// ½ IΔn, then 5 IΔn, then IΔn.
    FivesFirst,
    /// The trips alone; ½ IΔn is apart.
    Trips,
}

impl SeriesOrder {
    /// In the order offered.
    pub const ALL: [Self; 5] = [Self::Pairs, Self::Halves, Self::HalfLast, Self::FivesFirst, Self::Trips];

    /// Key in forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Pairs => "pairs",
            Self::Halves => "halves",
            Self::HalfLast => "half_last",
            Self::FivesFirst => "fives_first",
            Self::Trips => "trips",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Pairs => "½ 0°, ½ 180°, 1 0°, 1 180°, 5 0°, 5 180°",
            Self::Halves => "½ 0°, 1 0°, 5 0°, ½ 180°, 1 180°, 5 180°",
            Self::HalfLast => "1 0°, 1 180°, 5 0°, 5 180°, ½ 0°, ½ 180°",
            Self::FivesFirst => "½ 0°, ½ 180°, 5 0°, 5 180°, 1 0°, 1 180°",
            Self::Trips => "1 0°, 1 180°, 5 0°, 5 180° (½ apart)",
        }
    }

    /// Where a trip test stands in this order; `None` where it is no part of it.
    pub const fn place(self, multiple: Multiple, half_cycle: HalfCycle) -> Option<(u8, u8)> {
        let rank = match (self, multiple) {
            (Self::Trips, Multiple::Half) => return None,
            (Self::HalfLast, Multiple::Half) | (Self::FivesFirst, Multiple::One) => 3,
            (_, Multiple::Half) => 0,
            (_, Multiple::One) => 1,
            (_, Multiple::Five) => 2,
        };
        let half = match half_cycle {
            HalfCycle::Deg0 => 0,
            HalfCycle::Deg180 => 1,
        };
        Some(if matches!(self, Self::Halves) { (half, rank) } else { (rank, half) })
    }
}
