//! Socket-outlets: what they are rated at.

use crate::limits::{LimitRow, Source};
use crate::quantity::Amps;
use rust_decimal::{Decimal, dec};

sources! {
    FUSED: "outlets with a fuse of their own" = Source::memory("BS 1363", "rated current", "13 A, a fuse in the plug");
    INDUSTRIAL: "industrial outlets" = Source::memory("BS EN 60309-2", "rated currents", "16, 32, 63 and 125 A");
}

/// The outlet that may stand behind a larger device: it has a fuse of its own.
pub const FUSED_OUTLET: LimitRow<Amps> = LimitRow::new(Amps(dec!(13)), FUSED);

/// What industrial outlets are rated at, A.
pub const INDUSTRIAL_A: LimitRow<[Decimal; 4]> = LimitRow::new([dec!(16), dec!(32), dec!(63), dec!(125)], INDUSTRIAL);
