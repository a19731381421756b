//! Prospective fault current, kA, from loops in Ω or from currents as the instrument shows them.
//!
//! Source: I = U0/Z by definition; the three-phase schools are common practice, no source, but for
//! the line–line school, which is the theory of a bolted three-phase fault (2/√3 of line–line).

use crate::limits::supply::{U_LINE_LINE_V, U0_V};
use crate::quantity::{Kiloamps, round_up};
use rust_decimal::{Decimal, dec};
use serde::{Deserialize, Serialize};

/// √3 to the digits a decimal holds.
pub const ROOT_3: Decimal = dec!(1.7320508075688772935274463415);

/// How a three-phase fault current is had from what was measured.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum FaultCurrentMethod {
    /// Twice the largest line–neutral current.
    #[default]
    Double,
    /// √3 times the largest line–neutral current.
    Root3,
    /// 2/√3 times the line–line current.
    LineLine,
}

/// Currents of one kind, one a line, as loops or as currents.
#[derive(Debug, Clone, PartialEq)]
pub enum Measured {
    /// Loop impedances, Ω, each above zero.
    Ohms(Vec<Decimal>),
    /// Currents, kA.
    Kiloamps(Vec<Kiloamps>),
}

impl Measured {
    /// The highest current, kA.
    fn highest_ka(&self) -> Decimal {
        let highest = match self {
            Self::Ohms(loops) => loops.iter().map(|ohm| kiloamps(*U0_V, *ohm)).max(),
            Self::Kiloamps(currents) => currents.iter().map(|current| current.get()).max(),
        };
        highest.unwrap_or_default()
    }
}

fn kiloamps(volts: Decimal, ohm: Decimal) -> Decimal {
    (volts / dec!(1000)).checked_div(ohm).unwrap_or(Decimal::MAX)
}

/// Single or three phase, and how the latter is worked.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Phases {
    /// One line.
    Single,
    /// Three lines.
    Three(FaultCurrentMethod, Option<Decimal>),
}

/// What to bear in mind of a fault current.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, thiserror::Error)]
#[serde(tag = "warning", rename_all = "snake_case")]
pub enum Warning {
    /// Twice line–neutral.
    #[error(
        "twice line–neutral is exact when line and neutral are alike and safe when the neutral is larger; with a reduced neutral it is low"
    )]
    Doubled,
    /// √3 times line–neutral.
    #[error("√3 × line–neutral is 13 % low when line and neutral are alike: doubling is the safe side")]
    Root3,
    /// Line–line gives less than line–neutral.
    #[error(
        "line–line gives {line_line_ka} kA, less than the {line_neutral_ka} kA of line–neutral: one of the two readings is wrong"
    )]
    LineLineLow {
        /// By the line–line loop, kA.
        line_line_ka: Kiloamps,
        /// Line to neutral, kA.
        line_neutral_ka: Kiloamps,
    },
    /// Above what the device breaks.
    #[error("the fault current {recorded_ka} kA is above the breaking capacity {capacity_ka} kA")]
    AboveCapacity {
        /// The fault current, kA.
        recorded_ka: Kiloamps,
        /// The breaking capacity, kA.
        capacity_ka: Kiloamps,
    },
}

/// The currents found.
#[derive(Debug, Clone, PartialEq)]
pub struct FaultCurrent {
    /// Line to neutral, or the three-phase fault, kA.
    pub pscc_ka: Kiloamps,
    /// Line to earth, kA.
    pub pefc_ka: Option<Kiloamps>,
    /// The larger, rounded up to 2 decimals, kA.
    pub recorded_ka: Kiloamps,
    /// Not above the breaking capacity; `None` without one.
    pub within: Option<bool>,
    /// What to bear in mind.
    pub warnings: Vec<Warning>,
}

/// Works the currents out.
///
/// # Errors
/// The line–line school without a line–line loop.
///
/// ```
/// use proof_standard::calc::fault_current::{FaultCurrentMethod, Measured, Phases, fault_current};
/// use proof_standard::quantity::Kiloamps;
/// use rust_decimal::dec;
/// // 230 V over 0.2 Ω, doubled for three phases, in a board for 6 kA.
/// let loops = Measured::Ohms(vec![dec!(0.2)]);
/// let found = fault_current(&loops, None, Phases::Three(FaultCurrentMethod::Double, None), Some(Kiloamps(dec!(6))))?;
/// assert_eq!((found.recorded_ka, found.within), (Kiloamps(dec!(2.30)), Some(true)));
/// # Ok::<(), proof_standard::calc::fault_current::LineLineWanted>(())
/// ```
pub fn fault_current(
    line_neutral: &Measured,
    line_earth: Option<&Measured>,
    phases: Phases,
    breaking_capacity_ka: Option<Kiloamps>,
) -> Result<FaultCurrent, LineLineWanted> {
    let mut warnings = Vec::new();
    let single = line_neutral.highest_ka();
    let pscc_ka = match phases {
        Phases::Single => single,
        Phases::Three(FaultCurrentMethod::Double, _) => {
            warnings.push(Warning::Doubled);
            single * dec!(2)
        }
        Phases::Three(FaultCurrentMethod::Root3, _) => {
            warnings.push(Warning::Root3);
            single * ROOT_3
        }
        Phases::Three(FaultCurrentMethod::LineLine, loop_ohm) => {
            let loop_ohm = loop_ohm.ok_or(LineLineWanted)?;
            let three = kiloamps(*U_LINE_LINE_V, loop_ohm) * dec!(2) / ROOT_3;
            if three < single {
                let [line_line_ka, line_neutral_ka] = [three, single].map(|ka| Kiloamps(ka.round_dp(2)));
                warnings.push(Warning::LineLineLow { line_line_ka, line_neutral_ka });
            }
            three
        }
    };
    let pefc_ka = line_earth.map(Measured::highest_ka);
    let recorded_ka = Kiloamps(round_up(pscc_ka.max(pefc_ka.unwrap_or_default()), 2));
    let within = breaking_capacity_ka.map(|capacity| recorded_ka <= capacity);
    if let Some(capacity_ka) = breaking_capacity_ka.filter(|_| within == Some(false)) {
        warnings.push(Warning::AboveCapacity { recorded_ka, capacity_ka });
    }
    Ok(FaultCurrent { pscc_ka: Kiloamps(pscc_ka), pefc_ka: pefc_ka.map(Kiloamps), recorded_ka, within, warnings })
}

/// The line–line school needs its loop.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("the line_line method wants the line–line loop")]
pub struct LineLineWanted;

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn larger_of_the_two_rounded_up() {
        let ln = Measured::Ohms(vec![dec!(0.21)]);
        let le = Measured::Ohms(vec![dec!(0.18)]);
        let found = fault_current(&ln, Some(&le), Phases::Single, Some(Kiloamps(dec!(6)))).unwrap();
        assert_eq!(found.recorded_ka, Kiloamps(dec!(1.28)));
        assert_eq!(found.within, Some(true));
        assert!(found.pscc_ka < found.pefc_ka.unwrap());
    }

    #[test]
    fn exact_division_is_not_rounded_up_again() {
        let found =
            fault_current(&Measured::Ohms(vec![dec!(0.23)]), None, Phases::Single, Some(Kiloamps(dec!(1)))).unwrap();
        assert_eq!(found.recorded_ka, Kiloamps(dec!(1.00)));
        assert_eq!(found.within, Some(true));
    }

    /// Theory: with ZN = ZL doubling and the line–line school agree, and √3 is 13 % low.
    #[test]
    fn schools() {
        let z_line = dec!(0.1);
        let ln = Measured::Ohms(vec![z_line * dec!(2)]);
        let three = |school, ll| fault_current(&ln, None, Phases::Three(school, ll), None).unwrap();
        let double = three(FaultCurrentMethod::Double, None).pscc_ka;
        let line_line = three(FaultCurrentMethod::LineLine, Some(z_line * dec!(2))).pscc_ka;
        assert!((line_line.get() / double.get() - Decimal::ONE).abs() < dec!(0.005), "{line_line} {double}");
        let root3 = three(FaultCurrentMethod::Root3, None);
        assert!((root3.pscc_ka.get() / double.get() - dec!(0.866)).abs() < dec!(0.001));
        assert_eq!(root3.warnings, [Warning::Root3]);
        assert_eq!(
            fault_current(&ln, None, Phases::Three(FaultCurrentMethod::LineLine, None), None),
            Err(LineLineWanted)
        );
    }

    #[test]
    fn highest_line_counts() {
        let ln = Measured::Kiloamps([dec!(1.1), dec!(1.31), dec!(1.2)].map(Kiloamps).to_vec());
        assert_eq!(fault_current(&ln, None, Phases::Single, None).unwrap().recorded_ka, Kiloamps(dec!(1.31)));
    }
}
