//! Why a reading is wrong or odd, with the numbers that say so.

use crate::expectation::Expected;
use crate::verdict::bound::Above;
use proof_standard::calc::fault_current::Warning;
use proof_standard::quantity::{Kiloamps, Millis};
use rust_decimal::Decimal;
use serde::Serialize;

/// What a low insulation reading commonly is (common practice, no source).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum LowInsulation {
    /// About zero.
    Short,
    /// About a quarter of a megohm.
    Neon,
    /// Under a megohm.
    Wet,
    /// Low.
    Dirt,
}

/// What a low insulation reading commonly is, by its figure, MΩ, and whether it was read to earth: a neon conducts
/// between live conductors, never to earth.
pub fn likely_cause(megohms: f64, to_earth: bool) -> LowInsulation {
    match megohms {
        m if m < 0.02 => LowInsulation::Short,
        m if !to_earth && (0.15..=0.4).contains(&m) => LowInsulation::Neon,
        m if m < 1.0 => LowInsulation::Wet,
        _ => LowInsulation::Dirt,
    }
}

/// Why a reading is wrong or odd. A written judgement binds to it and its numbers: what is written
/// into files is the names and fields of these variants, which therefore do not change.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "why", rename_all = "snake_case")]
pub enum Reason {
    /// Lower than the circuit should give.
    Lower {
        /// What it should give.
        expected: Expected,
    },
    /// Higher than the circuit should give.
    Higher {
        /// What it should give.
        expected: Expected,
    },
    /// Open where a conductor should be continuous.
    Open,
    /// r1 and rn lie apart.
    LegsApart {
        /// By so much, Ω.
        by_ohm: Decimal,
    },
    /// r1 and rn are out of proportion.
    LegsOutOfProportion {
        /// The smaller, Ω.
        least_ohm: Decimal,
        /// The larger, Ω.
        most_ohm: Decimal,
    },
    /// A leg of the crossed ring is linked to itself.
    OwnLeg,
    /// It reads with the switch open.
    ReadsWithSwitchOpen,
    /// Lower than the copper.
    TooLow,
    /// Metal beside the CPC is in the reading.
    MetalInReading,
    /// The copper leaves no room under the maximum Zs.
    LoopWouldExceed {
        /// Which loop stands above.
        above: Above,
        /// It, Ω.
        above_ohm: Decimal,
        /// The maximum as compared, Ω.
        maximum_ohm: Decimal,
    },
    /// By the declared loop the copper would leave no room; Ze is not read yet.
    WaitsForZe {
        /// As declared, Ω.
        declared_ohm: Decimal,
        /// The maximum as compared, Ω.
        maximum_ohm: Decimal,
    },
    /// Insulation low: what that commonly is.
    InsulationLow {
        /// What it commonly is.
        commonly: LowInsulation,
    },
    /// It may be below the minimum tomorrow.
    MayFall {
        /// Under this, MΩ.
        under_mohm: Decimal,
    },
    /// New wiring should be over range.
    NewWiringLow,
    /// Zs below the loop above it.
    ZsBelow {
        /// Which loop.
        above: Above,
        /// It, Ω.
        above_ohm: Decimal,
    },
    /// A whole above its lowest circuit.
    WholeAboveLowest,
    /// No residual device trips so fast.
    TooFast {
        /// None is faster, ms.
        least_ms: Millis,
    },
    /// Found wrong.
    Wrong,
    /// Ze over the declared value.
    OverDeclared,
    /// A loop of zero.
    ZeroLoop,
    /// An electrode that may not be stable.
    MayNotBeStable {
        /// Above this, Ω.
        above_ohm: Decimal,
    },
    /// A current that its own loop does not give.
    NotItsLoop {
        /// The current, kA.
        ka: Kiloamps,
        /// The loop, Ω.
        loop_ohm: Decimal,
        /// What the loop gives, kA.
        by_loop_ka: Kiloamps,
    },
    /// The loop with the earth on is above Ze.
    AboveZe {
        /// Ze, Ω.
        ze_ohm: Decimal,
    },
    /// More than the board above.
    MoreThanAbove {
        /// The level above, kA.
        above_ka: Kiloamps,
    },
    /// How the fault current was had.
    FaultCurrent {
        /// What is to be kept in mind.
        warning: Warning,
    },
}
