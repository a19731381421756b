//! What was found, with the numbers that say so: each finding is born as one of these, and its kind,
//! its words and what settles it follow from it.

use crate::conductor::Pair;
use crate::design::{Described, Flaw};
use crate::instrument::Distrust;
use crate::quantity::{Kiloamps, Millis};
use crate::reading::{Stage, Test, Value};
use crate::review::{Kind, Slip};
use crate::site::{Alteration, BoardState, Breach, Wanted};
use crate::verdict::{Bound, Reason as Odd};
use jiff::Timestamp;
use rust_decimal::Decimal;
use serde::Serialize;

/// Something of the particulars that a certificate wants.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Particular {
    /// Who the client is.
    Client,
    /// Where the site is.
    Address,
    /// What the certificate covers.
    Extent,
    /// A board.
    Board,
    /// A circuit.
    Circuit,
    /// The main bonds.
    Bonds,
    /// Who issues it.
    Firm,
    /// The tails.
    Tails,
    /// The earthing conductor.
    Earthing,
    /// The supply's device.
    SupplyDevice,
    /// The electrode of a TT supply.
    Electrode,
    /// The size of a bond.
    BondSize,
    /// A board's main switch.
    MainSwitch,
    /// Where a board is.
    BoardPlace,
    /// What kind of cable it is.
    CableKind,
    /// What a circuit is.
    Description,
}

impl Particular {
    const fn then(self) -> &'static str {
        match self {
            Self::Client | Self::Address | Self::Extent => "Write it under particulars.",
            Self::Board => "Describe the board that the circuits leave from.",
            Self::Circuit => "Describe the circuits, a line each.",
            Self::Bonds => {
                "List the bonds (water, gas, steel) under supply and earthing, or say there why nothing is to be bonded."
            }
            Self::Firm => "Name it once; every job without a certificate follows.",
            Self::Tails | Self::Earthing | Self::SupplyDevice | Self::Electrode | Self::BondSize => {
                "Write it under supply and earthing."
            }
            Self::MainSwitch | Self::BoardPlace => "Write it where the board is described.",
            Self::CableKind | Self::Description => "Write it where the circuit is described.",
        }
    }
}

/// A reading that fails or is odd.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct OddReading {
    /// What it is called where it is taken.
    #[serde(skip)]
    pub label: String,
    /// What its stage reads.
    #[serde(skip)]
    pub figure: &'static str,
    /// Of which test.
    pub test: Test,
    /// Between which conductors, where the test says.
    pub pair: Option<Pair>,
    /// Its stage.
    #[serde(skip)]
    pub stage: Stage,
    /// On a circuit, rather than at a board or the origin.
    #[serde(skip)]
    pub on_circuit: bool,
    /// What it says.
    pub value: Value,
    /// The unit of a number.
    pub unit: &'static str,
    /// It is outside its limit.
    pub outside: bool,
    /// What it was held to, where it is outside.
    pub bound: Option<Bound>,
    /// Why, as far as the numbers say.
    pub reasons: Vec<Odd>,
    /// An RCD disconnects where the device does not.
    pub rcd_disconnects: bool,
    /// The ends of its ring cannot give it.
    pub ring_cannot_give: bool,
}

/// From here on a bond is none (common practice, no source), Ω.
const NO_BOND_OHM: Decimal = rust_decimal::dec!(1);

impl OddReading {
    /// What a reading that fails or is odd is a finding of.
    fn kind(&self) -> Kind {
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

    fn then(&self) -> &'static str {
        match (self.kind(), self.outside) {
            (Kind::LoopByRcd, _) => {
                "Shorten or enlarge the run, or let a competent person write that the RCD disconnects."
            }
            (_, true) => "Find the cause, mend it, and read again; the latest reading stands.",
            (_, false) => "Read it again; if it stays, say why, by name.",
        }
    }
}

/// What was found. A written judgement binds to it and its numbers: what is written into files is the
/// names and fields of these variants, which therefore do not change. Resistances in Ω.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "found", rename_all = "snake_case")]
pub enum Reason {
    /// Something of the particulars is not written.
    Particulars {
        /// What.
        missing: Particular,
    },
    /// A circuit without points.
    NoPoints,
    /// Readings of one stage of a circuit are not there.
    NotRead {
        /// Of which stage.
        #[serde(skip)]
        stage: Stage,
        /// Which.
        labels: Vec<String>,
        /// The circuit is live without them.
        live: bool,
    },
    /// A reading of the origin or of a board is not there.
    NotTaken {
        /// Which.
        label: String,
        /// It is seen or worked rather than read.
        seen: bool,
        /// Of which stage.
        #[serde(skip)]
        stage: Stage,
    },
    /// Polarity is owed.
    PolarityOwed {
        /// What is wanting.
        wanting: String,
        /// The circuit is live without it.
        live: bool,
    },
    /// Polarity is wrong.
    PolarityWrong {
        /// How that was found.
        because: String,
    },
    /// Items of the inspection are open.
    InspectionOpen {
        /// So many.
        open: usize,
        /// Of so many.
        of: usize,
    },
    /// A departure without its reason.
    DepartureUnexplained {
        /// At which item.
        item: String,
    },
    /// Altered and not put back.
    NotPutBack {
        /// What.
        alteration: Alteration,
        /// Where.
        note: String,
    },
    /// Owed, made safe.
    Owed {
        /// What, and where.
        thing: String,
        /// How.
        made_safe: String,
    },
    /// The earthing conductor is off.
    EarthOff,
    /// Devices below the fault level at their board.
    DevicesBelow {
        /// The fault level, kA.
        ka: Kiloamps,
        /// What it was worked from.
        #[serde(skip)]
        how: String,
        /// The way of the first of them.
        way: String,
        /// It, as shown.
        device: String,
        /// What it breaks, kA.
        breaks_ka: Kiloamps,
        /// How many more there are.
        more: usize,
    },
    /// A reading that fails or is odd.
    Reading(OddReading),
    /// A reading that could not be taken, or does not apply.
    NotTested {
        /// Which.
        #[serde(skip)]
        label: String,
        /// What its stage reads.
        #[serde(skip)]
        figure: &'static str,
        /// Of which test.
        test: Test,
        /// Between which conductors, where the test says.
        pair: Option<Pair>,
        /// The limitation, or why it does not apply.
        value: Value,
    },
    /// A figure that failed was struck out, and no figure took its place.
    StruckOut {
        /// Which.
        #[serde(skip)]
        label: String,
        /// What its stage reads.
        #[serde(skip)]
        figure: &'static str,
        /// Of which test.
        test: Test,
        /// Between which conductors, where the test says.
        pair: Option<Pair>,
        /// What was struck out.
        value: Value,
    },
    /// An instrument that was not to be trusted.
    InstrumentDoubtful {
        /// Why.
        why: Distrust,
        /// How many readings that stand it took.
        readings: usize,
    },
    /// Leads neither nulled nor subtracted.
    LeadsUnsaid {
        /// Under so many readings.
        readings: usize,
    },
    /// Readings taken in the wrong state.
    OutOfOrder {
        /// How many.
        readings: usize,
        /// The state that they want.
        wanted: Wanted,
        /// The board.
        board: String,
        /// The state that the log has it in.
        state: BoardState,
    },
    /// Done without what a gate asks for.
    Breach {
        /// What.
        #[serde(flatten)]
        breach: Breach,
        /// When.
        at: Timestamp,
    },
    /// Of the installation as it is described.
    #[serde(untagged)]
    Flaw(Flaw),
    /// Of how the record was made.
    #[serde(untagged)]
    Slip(Slip),
    /// Of what is described.
    #[serde(untagged)]
    Described(Described),
    /// Of figures that are held against one another.
    #[serde(untagged)]
    Compared(Compared),
}

/// Figures that contradict one another.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "found", rename_all = "snake_case")]
pub enum Compared {
    /// One figure at every point of a radial.
    SameAtEveryPoint {
        /// The figure, Ω.
        ohm: Decimal,
        /// At so many points.
        points: usize,
        /// What the cable between board and end gives, Ω.
        cable_ohm: Decimal,
    },
    /// One figure on several ways whose copper differs.
    SameOnWays {
        /// Zs rather than R1+R2.
        zs: bool,
        /// The figure, Ω.
        ohm: Decimal,
        /// The ways.
        ways: Vec<String>,
        /// The least that their copper gives, Ω.
        least_ohm: Decimal,
        /// The most, Ω.
        most_ohm: Decimal,
    },
    /// Slower at 5 IΔn than at IΔn.
    FiveSlower {
        /// At IΔn, ms.
        one_ms: Millis,
        /// At 5 IΔn, ms.
        five_ms: Millis,
    },
    /// The highest R1+R2 of a ring, which its ends cannot give.
    RingCannotGive {
        /// As read, Ω.
        read: Decimal,
        /// r1, Ω.
        r1: f64,
        /// r2, Ω.
        r2: f64,
        /// The mid-ring value, Ω.
        quarter: Decimal,
        /// What the spurs add, Ω; none where there are none.
        spurs: Option<Decimal>,
    },
    /// The highest R1+R2 under what the length gives.
    UnderLength {
        /// As read, Ω.
        read: Decimal,
        /// By the length, Ω.
        expected: Decimal,
    },
}

impl Reason {
    /// The kind of the finding.
    pub fn kind(&self) -> Kind {
        match self {
            Self::Particulars { .. } | Self::NoPoints => Kind::ParticularsMissing,
            Self::NotRead { live: true, stage, .. } if stage.is_dead() => Kind::EnergisedUntested,
            Self::NotRead { .. } | Self::NotTaken { .. } | Self::StruckOut { .. } => Kind::ReadingMissing,
            Self::PolarityOwed { live: true, .. } => Kind::EnergisedUntested,
            Self::PolarityOwed { live: false, .. } => Kind::PolarityOwed,
            Self::PolarityWrong { .. } => Kind::PolarityWrong,
            Self::InspectionOpen { .. } | Self::DepartureUnexplained { .. } => Kind::InspectionMissing,
            Self::NotPutBack { .. } => Kind::NotPutBack,
            Self::Owed { .. } => Kind::Owed,
            Self::EarthOff => Kind::SupplyExposed,
            Self::DevicesBelow { .. } => Kind::BreakingCapacity,
            Self::Reading(reading) => reading.kind(),
            Self::NotTested { .. } => Kind::Limitation,
            Self::Flaw(found) => found.kind(),
            Self::Slip(found) => found.kind(),
            Self::Described(found) => found.kind(),
            Self::Compared(found) => found.kind(),
            Self::InstrumentDoubtful { .. } => Kind::InstrumentDoubtful,
            Self::LeadsUnsaid { .. } => Kind::LeadsUnsaid,
            Self::OutOfOrder { .. } => Kind::OutOfOrder,
            Self::Breach { breach: Breach::NotProved { .. }, .. } => Kind::ProofOfDead,
            Self::Breach { .. } => Kind::GateBroken,
        }
    }

    /// What would settle it.
    pub fn then(&self) -> &'static str {
        match self {
            Self::Particulars { missing } => missing.then(),
            Self::NoPoints => "Give its points, so that R1+R2 has places to be read at.",
            Self::NotRead { live: true, stage, .. } if stage.is_dead() => "Isolate, prove dead, and read it.",
            Self::NotRead { .. } | Self::NotTaken { .. } => "Read it, or write a limitation with its reason.",
            Self::StruckOut { .. } => "Read it again. A limitation does not stand in for a figure that failed.",
            Self::PolarityOwed { live: true, .. } => "Isolate, prove dead, and read it.",
            Self::PolarityOwed { live: false, .. } => "Read it, or look at every terminal and say so.",
            Self::PolarityWrong { .. } => "Find it, mend it, and read again; the latest reading stands.",
            Self::InspectionOpen { .. } => "Inspection comes before any test: answer each.",
            Self::DepartureUnexplained { .. } => "Write why it is no less safe.",
            Self::NotPutBack { .. } => "Put it back, then close the item.",
            Self::Owed { .. } => "It is printed with the extent of the certificate.",
            Self::EarthOff => "Refit it, then say so where Ze is read.",
            Self::DevicesBelow { .. } => {
                "Fit devices that break it, or give the conditional rating that the maker of the assembly declares."
            }
            Self::Reading(reading) => reading.then(),
            Self::NotTested { .. } => {
                "Take the reading after all, or let the person who accepts the limitation say so by name."
            }
            Self::Flaw(found) => found.then(),
            Self::Slip(found) => found.then(),
            Self::Described(found) => found.then(),
            Self::Compared(found) => found.then(),
            Self::InstrumentDoubtful { .. } => {
                "Check it against fixed values and write that down, or read again with one that is in date."
            }
            Self::LeadsUnsaid { .. } => {
                "Null the leads in use, pins included, and read again; or say that they were nulled."
            }
            Self::OutOfOrder { .. } => "Read again in the right state, or say what the log leaves out.",
            Self::Breach { breach: Breach::NotProved { .. }, .. } => {
                "Prove every pair, the indicator before and after; what was read on this proof is read again."
            }
            Self::Breach { .. } => "It was done: say by name what was made sure of then, and what was tested again.",
        }
    }
}

impl Described {
    const fn kind(&self) -> Kind {
        match self {
            Self::RingTooThin { .. } | Self::LegCarries { .. } | Self::DeviceOverCable { .. } => Kind::CableMismatch,
            Self::NoAdditionalProtection => Kind::NoAdditionalProtection,
            Self::CapacityUnknown => Kind::CapacityUnknown,
            Self::RcdBlind { .. } => Kind::RcdType,
            Self::TripTogether { .. } => Kind::Selectivity,
        }
    }

    const fn then(&self) -> &'static str {
        match self {
            Self::RingTooThin { .. } => "Check the cable, or whether it is a ring.",
            Self::LegCarries { .. } => "Ask the designer: the method, or the cable.",
            Self::DeviceOverCable { .. } => "Ask the designer: the device, the method, or the cable.",
            Self::NoAdditionalProtection => "Name the RCD that covers this way, or write the reason as a judgement.",
            Self::CapacityUnknown => "Read it off the device.",
            Self::RcdBlind { .. } => "Fit a device of a type that sees it, or write down why this one does.",
            Self::TripTogether { .. } => "Nothing is asked: the next person should know.",
        }
    }
}

impl Compared {
    const fn kind(&self) -> Kind {
        match self {
            Self::SameAtEveryPoint { .. } | Self::SameOnWays { .. } => Kind::CopiedDown,
            Self::FiveSlower { .. } => Kind::FiveSlower,
            Self::RingCannotGive { .. } => Kind::RingCannotGive,
            Self::UnderLength { .. } => Kind::UnderLength,
        }
    }

    const fn then(&self) -> &'static str {
        match self {
            Self::SameAtEveryPoint { .. } => {
                "Copper rises along a radial: read each point, the highest goes on the schedule."
            }
            Self::SameOnWays { .. } => "Read each again: a figure was copied down the column.",
            Self::FiveSlower { .. } => "Read both again; if it stays, exchange the device.",
            Self::RingCannotGive { .. } => "Read the ends and the sockets again; a spur is drawn, a joint is found.",
            Self::UnderLength { .. } => {
                "Look for metal beside the CPC or a bridge; check the cable and its length; read again."
            }
        }
    }
}
