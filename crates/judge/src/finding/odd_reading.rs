//! What a reading that fails or is odd is a finding of, and what it says.

use crate::finding::Kind;
use crate::finding::found::OddReading;
use crate::verdict::{Bound, Reason as Odd};
use proof_job::reading::{Test, Value};
use rust_decimal::Decimal;

/// From here on a bond is none (common practice, no source), Ω.
const NO_BOND_OHM: Decimal = rust_decimal::dec!(1);

impl OddReading {
    /// What a reading that fails or is odd is a finding of.
    pub(super) fn kind(&self) -> Kind {
        let is = |odd: fn(&Odd) -> bool| self.reasons.iter().any(odd);
        let open = matches!(self.value, Value::Open) || matches!(self.value, Value::Over(_)) && self.stage.is_dead();
        match (self.test, self.outside) {
            (Test::R1R2, true) if is(|odd| matches!(odd, Odd::ReadsWithSwitchOpen)) => Kind::PolarityWrong,
            (Test::Insulation | Test::InsulationJoined, true) => Kind::InsulationLow,
            (Test::Insulation | Test::InsulationJoined, false) if is(|odd| matches!(odd, Odd::WholeAboveLowest)) => {
                Kind::WholeAboveCircuit
            }
            (Test::Insulation | Test::InsulationJoined, false) => Kind::InsulationDoubtful,
            (Test::Zs | Test::R1R2 | Test::Electrode, true) if !open && self.rcd_disconnects => Kind::LoopByRcd,
            (Test::Zs | Test::R1R2 | Test::Electrode, true) if !open => Kind::LoopOverLimit,
            (Test::Zs, false) if is(|odd| matches!(odd, Odd::ZsBelow { .. })) => Kind::ZsBelowZe,
            (Test::Zs, false) if self.on_circuit => Kind::SumAndMeasured,
            (Test::Zs | Test::LineNeutralLoop | Test::FaultCurrent, false)
                if is(|odd| matches!(odd, Odd::NotItsLoop { .. })) =>
            {
                Kind::CurrentAndLoop
            }
            (Test::FaultCurrent, true) => Kind::BreakingCapacity,
            (Test::RcdTrip { .. } | Test::RcdButton | Test::AfddButton, true) => Kind::RcdFails,
            (Test::Ze, true) if !open && matches!(self.bound, Some(Bound::Electrode { .. })) => Kind::LoopOverLimit,
            (Test::Ze, true) if !open => Kind::ZeOverDeclared,
            // A bond of ohms is no bond.
            (Test::BondContinuity, true) if self.value.number().is_some_and(|ohm| ohm >= NO_BOND_OHM) => {
                Kind::NotContinuous
            }
            (Test::BondContinuity, true) if !open => Kind::BondOverLimit,
            (Test::RcdTrip { .. }, false) if is(|odd| matches!(odd, Odd::TooFast { .. })) => Kind::HardlyPossible,
            (Test::Polarity | Test::SupplyPolarity, true) => Kind::PolarityWrong,
            (_, true) if open => Kind::NotContinuous,
            (_, true) => Kind::OutcomeFailed,
            (Test::R1R2, false) if self.ring_cannot_give => Kind::RingCannotGive,
            (Test::R1R2, false) if is(|odd| matches!(odd, Odd::Lower { .. } | Odd::MetalInReading)) => {
                Kind::UnderLength
            }
            _ => Kind::LookAgain,
        }
    }

    pub(super) fn remedy(&self) -> &'static str {
        match (self.kind(), self.outside) {
            (Kind::LoopByRcd, _) => {
                "Shorten or enlarge the run, or let a competent person write that the RCD disconnects."
            }
            (_, true) => "Find the cause, mend it, and read again; the latest reading stands.",
            (_, false) => "Read it again; if it stays, say why, by name.",
        }
    }

    /// What was read, what it was held to, and why it is odd.
    pub(super) fn text(&self) -> String {
        let said = format!("{} {} {}", called(&self.label, self.figure), self.value.shown(), self.unit);
        let notes = self.reasons.iter().map(ToString::to_string).collect::<Vec<_>>().join("; ");
        if !self.outside {
            return format!("{}: {notes}", said.trim());
        }
        let bound = self.bound.as_ref().map(ToString::to_string).unwrap_or_default();
        let colon = if notes.is_empty() { "" } else { "; " };
        format!("{}: outside its limit ({bound}){colon}{notes}", said.trim())
    }
}

/// A point that is only numbered is spoken of with what is read at it.
pub(super) fn called(label: &str, figure: &str) -> String {
    if label.starts_with(|c: char| c.is_ascii_digit()) { format!("{figure} at {label}") } else { label.to_owned() }
}
