//! What kind of finding a flaw of the description is, how it stands, and what settles it.

use crate::design::Flaw;
use crate::review::{Kind, Severity};

impl Flaw {
    pub(super) const fn kind(&self) -> Kind {
        match self {
            Self::EarthingThin { .. } => Kind::EarthingSize,
            Self::BondThin { .. } => Kind::BondSize,
            Self::CpcThin { .. } | Self::CpcLetThrough { .. } | Self::CpcApartThin { .. } => Kind::CpcSize,
            Self::CpcNotJudged { .. } | Self::CapacityNotJudged | Self::LoopNotJudged { .. } => Kind::NotJudged,
            Self::DesignCurrent { .. } => Kind::DesignCurrent,
            Self::Rewirable { .. } => Kind::CableMismatch,
            Self::OutletBelow { .. } | Self::OutletUnrated { .. } => Kind::OutletRating,
            Self::SwitchPoles { .. } | Self::SwitchBelow { .. } => Kind::MainSwitch,
            Self::Marking { .. } => Kind::DeviceMarking,
            Self::Unprotected { .. } => Kind::NoAdditionalProtection,
            Self::RcboUndescribed => Kind::RcboUndescribed,
            Self::TtUnprotected => Kind::TtWithoutRcd,
            Self::WayClash { .. } => Kind::WayClash,
            Self::Undecided { .. } | Self::NoReason { .. } => Kind::ParticularsMissing,
            Self::Contradicted { .. } => Kind::DecisionContradicted,
            Self::Source { .. } => Kind::SourceIncomplete,
        }
    }

    /// How a flaw stands: what is not said is missing, what no device may be or what kills fails, the rest is
    /// looked at again.
    pub(super) const fn severity(&self) -> Severity {
        match self {
            Self::OutletUnrated { .. }
            | Self::RcboUndescribed
            | Self::Undecided { .. }
            | Self::NoReason { .. }
            | Self::Source { .. } => Severity::Missing,
            Self::TtUnprotected | Self::Marking { .. } | Self::WayClash { .. } => Severity::Fails,
            _ => Severity::Odd,
        }
    }

    pub(super) const fn then(&self) -> &'static str {
        match self {
            Self::EarthingThin { .. }
            | Self::BondThin { .. }
            | Self::CpcThin { .. }
            | Self::CpcLetThrough { .. }
            | Self::CpcApartThin { .. } => "Exchange it, or let the designer write by which calculation it may stay.",
            Self::CpcNotJudged { .. } => {
                "Give what the device lets through (its maker's sheet), or a row of the firm's own."
            }
            Self::CapacityNotJudged => "Give what the designer found, in amperes, and from which table.",
            Self::LoopNotJudged { .. } => "Write the row from your own copy, or give the setting of the breaker.",
            Self::DesignCurrent { .. } | Self::Rewirable { .. } => "Ask the designer: the device, or the cable.",
            Self::OutletBelow { .. } => "Exchange the outlet or the device.",
            Self::OutletUnrated { .. } => "Read it off the outlet, and write it beside the point.",
            Self::SwitchPoles { .. } | Self::SwitchBelow { .. } => {
                "Look at the switch; exchange it, or say why it may stay."
            }
            Self::Marking { .. } => "Read it off the device again.",
            Self::Unprotected { .. } => "Name the RCD that covers this way, or write the reason as a judgement.",
            Self::RcboUndescribed => "Describe its residual part: IΔn, kind, type.",
            Self::TtUnprotected => "Fit a residual device: on an electrode nothing else disconnects.",
            Self::WayClash { .. } => "Number it otherwise.",
            Self::Undecided { .. } | Self::NoReason { .. } => {
                "Write it under particulars: fitted, or not required and why."
            }
            Self::Contradicted { .. } => "Mend the decision, or what is described.",
            Self::Source { .. } => "Write it under particulars, where the sources stand.",
        }
    }
}
