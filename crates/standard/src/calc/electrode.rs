//! Earth electrode of a TT installation. Source: BS 7671 411.5.3, Table 41.5.

use crate::limits::earthing::{STABLE_ELECTRODE_OHM, rcd_maximum_zs};
use crate::quantity::Milliamps;
use rust_decimal::Decimal;

/// An electrode judged.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Electrode {
    /// Ra × IΔn, V.
    pub touch_v: Decimal,
    /// 50 V / IΔn as printed, Ω.
    pub limit_ohm: Decimal,
    /// Ra is not above that limit.
    pub within_50v: bool,
    /// Ra is not above 200 Ω.
    pub stable: bool,
}

/// Judges an electrode of `ra_ohm` behind an RCD of `idn`.
///
/// ```
/// use proof_standard::calc::electrode::electrode;
/// use proof_standard::quantity::Milliamps;
/// use rust_decimal::dec;
/// // 80 Ω behind 30 mA: 2.4 V, far under 50 V.
/// let judged = electrode(dec!(80), Milliamps(dec!(30)));
/// assert_eq!((judged.touch_v, judged.limit_ohm), (dec!(2.4), dec!(1667)));
/// assert!(judged.within_50v && judged.stable);
/// ```
pub fn electrode(ra_ohm: Decimal, idn: Milliamps) -> Electrode {
    let limit_ohm = *rcd_maximum_zs(idn);
    Electrode {
        touch_v: ra_ohm * idn.amps().get(),
        limit_ohm,
        within_50v: ra_ohm <= limit_ohm,
        stable: ra_ohm <= *STABLE_ELECTRODE_OHM,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rust_decimal::dec;

    #[test]
    fn limits_themselves_are_within() {
        let at = electrode(dec!(1667), Milliamps(dec!(30)));
        assert!(at.within_50v && !at.stable);
        assert!(!electrode(dec!(1667.1), Milliamps(dec!(30))).within_50v);
        let good = electrode(dec!(200), Milliamps(dec!(100)));
        assert_eq!((good.touch_v, good.stable), (dec!(20), true));
    }
}
