//! Earth fault loop: the sum, its limit cold (80 %) and at working temperature. All in Ω.
//!
//! Sources: BS 7671 Appendix 3 and On-Site Guide Appendix B (80 %); the temperature rule corrects
//! R1+R2 only. With a measured Zs, R1+R2 is the larger of the dead reading and Zs − Ze, since
//! parallel paths shrink the latter. A measured Zs below Ze is not judged: it is a finding.

use crate::limits::conductors::COEFFICIENT_PER_C;
use crate::limits::devices::MaximumZs;
use crate::quantity::exact;
use rust_decimal::{Decimal, dec};

/// What the loop is judged on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Loop {
    /// External loop impedance (or Zdb at a sub-board), Ω.
    pub ze: Decimal,
    /// Line and protective conductor of the circuit as read dead, Ω.
    pub r1_r2: Decimal,
    /// As measured live, Ω.
    pub measured_zs: Option<Decimal>,
    /// Working temperature of the conductors, °C.
    pub working_c: Decimal,
    /// Temperature at which R1+R2 was read, °C.
    pub test_c: Decimal,
}

/// A judged loop.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LoopJudgement {
    /// Ze + (R1+R2), Ω.
    pub zs_sum: Decimal,
    /// The cold comparison: measured (or summed) ≤ 0.8 × printed. `None`: not judged.
    pub within_eighty: Option<bool>,
    /// The comparison at working temperature. `None`: not judged.
    pub within_temperature: Option<bool>,
    /// Zs at working temperature, Ω.
    pub zs_at_working: Decimal,
    /// The measured Zs is below Ze.
    pub measured_below_ze: bool,
}

/// Judges a loop against a maximum. Temperatures must be within −20 to 90 °C for the test and
/// −20 to 250 °C working, so that no factor is zero.
///
/// ```
/// use proof_standard::calc::loop_impedance::{Loop, judge};
/// use proof_standard::quantity::Amps;
/// use proof_standard::limits::devices::{DeviceStandard, Disconnection, TripType, maximum_zs};
/// use rust_decimal::dec;
/// let b32 = maximum_zs(DeviceStandard::BsEn60898, Some(TripType::B), Amps(dec!(32)), Disconnection::S0_4)?;
/// let given = Loop { ze: dec!(0.35), r1_r2: dec!(0.62), measured_zs: None, working_c: dec!(70), test_c: dec!(20) };
/// let judged = judge(&given, &b32);
/// // 0.97 Ω cold, held against 80 % of 1.37 Ω; 0.35 + 0.62 · 1.2 hot, against 1.37 Ω itself.
/// assert_eq!((judged.zs_sum, judged.zs_at_working), (dec!(0.97), dec!(1.094)));
/// assert_eq!((judged.within_eighty, judged.within_temperature), (Some(true), Some(true)));
/// # Ok::<(), proof_standard::limits::devices::NoMaximum>(())
/// ```
pub fn judge(given: &Loop, maximum: &MaximumZs) -> LoopJudgement {
    let zs_sum = given.ze + given.r1_r2;
    let measured_below_ze = given.measured_zs.is_some_and(|zs| zs < given.ze);
    let r1_r2 = given.measured_zs.map_or(given.r1_r2, |zs| given.r1_r2.max(zs - given.ze));
    let zs_at_working = given.ze + r1_r2 * factor(given.working_c) / factor(given.test_c);
    let judged = |within: bool| (!measured_below_ze).then_some(within);
    LoopJudgement {
        zs_sum,
        within_eighty: judged(given.measured_zs.unwrap_or(zs_sum) <= maximum.eighty_percent_ohm),
        within_temperature: judged(zs_at_working <= maximum.printed_ohm),
        zs_at_working,
        measured_below_ze,
    }
}

/// 1 + 0.004·(θ − 20), in decimals.
pub fn factor(celsius: Decimal) -> Decimal {
    let coefficient = exact(*COEFFICIENT_PER_C).unwrap_or(dec!(0.004));
    Decimal::ONE + coefficient * (celsius - dec!(20))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::limits::devices::{DeviceStandard, Disconnection, TripType, maximum_zs};
    use crate::quantity::Amps;

    fn b32() -> MaximumZs {
        maximum_zs(DeviceStandard::BsEn60898, Some(TripType::B), Amps(dec!(32)), Disconnection::S0_4).unwrap()
    }

    fn given(ze: Decimal, r1_r2: Decimal, measured_zs: Option<Decimal>) -> Loop {
        Loop { ze, r1_r2, measured_zs, working_c: dec!(70), test_c: dec!(20) }
    }

    #[test]
    fn the_limit_itself_is_within() {
        let judged = judge(&given(dec!(0.4), dec!(0.7), None), &b32());
        assert_eq!(judged.zs_sum, dec!(1.1));
        assert_eq!(judged.within_eighty, Some(true));
        assert_eq!(judged.zs_at_working, dec!(1.24));
        let over = judge(&given(dec!(0.4), dec!(0.701), None), &b32());
        assert_eq!(over.within_eighty, Some(false));
        assert_eq!(over.within_temperature, Some(true));
    }

    #[test]
    fn a_measured_loop_uses_the_larger_r1_r2() {
        let parallel_paths = judge(&given(dec!(0.3), dec!(0.8), Some(dec!(0.9))), &b32());
        assert_eq!(parallel_paths.zs_at_working, dec!(0.3) + dec!(0.8) * dec!(1.2));
        let higher = judge(&given(dec!(0.3), dec!(0.5), Some(dec!(0.9))), &b32());
        assert_eq!(higher.zs_at_working, dec!(0.3) + dec!(0.6) * dec!(1.2));
    }

    #[test]
    fn below_ze_is_not_judged() {
        let judged = judge(&given(dec!(0.3), dec!(0.5), Some(dec!(0.29))), &b32());
        assert!(judged.measured_below_ze);
        assert_eq!((judged.within_eighty, judged.within_temperature), (None, None));
    }
}
