//! Why a test is made: what it proves, what it does not, what commonly spoils it. Common practice, no
//! source, where none is named.

use super::Test;

/// Why a test is made.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Why {
    /// Why it is made.
    pub because: &'static str,
    /// What a good reading proves.
    pub proves: &'static str,
    /// What it does not prove.
    pub not: &'static str,
    /// What commonly spoils it.
    pub spoils: &'static str,
}

const RING_END_TO_END: Why = Why {
    because: "A ring carries its load by two ways. Broken, each side may carry more than its cable is for.",
    proves: "The conductor is one loop from end to end, and about as long as it should be.",
    not: "That the loop is a single one: a bridge across it reads lower, and still reads.",
    spoils: "An end that touches its terminal, leads not nulled, legs taken from another ring.",
};
const RING_BOARD_CHECK: Why = Why {
    because: "The two legs are crossed for the walk. Linked each to itself, the walk would read wrongly everywhere.",
    proves: "The cross is a cross: a quarter of the two loops together.",
    not: "Anything of the points: they are walked next.",
    spoils: "A leg linked to itself; a link that does not bite.",
};
const R1_RN: Why = Why {
    because: "Line and neutral are read at each point, so that a reversal or a spur shows there.",
    proves: "Both conductors reach the point on the terminals that they should.",
    not: "The protective conductor: that is the next walk.",
    spoils: "A switch that is off, a load left in, a poor contact in the outlet.",
};
const R1_R2: Why = Why {
    because: "In a fault the current goes out by the line and comes back by the CPC. Their resistance decides how fast the device trips.",
    proves: "The CPC reaches the point, and the loop will be low enough. With the second pair, polarity too.",
    not: "Line and CPC changed over at a three-pin point: that reads the same. Line–neutral tells.",
    spoils: "Leads not nulled, metal beside the CPC, a link left loose, a switch that is off.",
};
const R2: Why = Why {
    because: "The CPC alone is read with a long lead, where line and CPC are not to be linked.",
    proves: "The CPC reaches the point from the main earthing terminal.",
    not: "Polarity, or anything about the line.",
    spoils: "The long lead not nulled, metal that earths the point by another way.",
};
const INSULATION: Why = Why {
    because: "Damaged insulation lets current to earth or from line to neutral: shock, fire, an RCD that trips.",
    proves: "At the test voltage the conductors are apart, now.",
    not: "That it stays so: damp comes and goes, and new plaster dries.",
    spoils: "Lamps, loads and electronics left in, a neutral shared on the bar, switches off, moisture.",
};
const POLARITY: Why = Why {
    because: "A switch or a fuse in the neutral leaves the load live when it is off.",
    proves: "Every single-pole device is in the line and every terminal has its own conductor.",
    not: "The supply: its polarity is proved at the origin.",
    spoils: "Colours trusted without a reading where the wiring is old.",
};
const BOND_CONTINUITY: Why = Why {
    because: "Bonding keeps pipes and steel at one voltage while a fault lasts.",
    proves: "The bond is whole from the earthing terminal to the pipe.",
    not: "Its size, which is looked at.",
    spoils: "The other end left on, so that another path is read; paint under the clamp.",
};
const EARTHING_CONDUCTOR: Why = Why {
    because: "Every fault current comes back by it.",
    proves: "It is whole from its terminal to the means of earthing.",
    not: "The means of earthing itself: that is Ze.",
    spoils: "The far end left on; a reading through the bonds.",
};
const SUPPLY_POLARITY: Why = Why {
    because: "A supply with line and neutral changed over makes every single-pole device switch the neutral.",
    proves: "Line is line at the incoming terminals.",
    not: "Anything beyond the main switch.",
    spoils: "An indicator without a neutral to compare with. All three pairs are read.",
};
const ZE: Why = Why {
    because: "The loop outside the building is a part of every fault loop inside.",
    proves: "There is an earth, and it is as good as the distributor declares.",
    not: "The earth with the bonds on: that is lower, and is no Ze.",
    spoils: "Bonds or the earthing conductor left on, so that other paths are in the reading.",
};
const ELECTRODE: Why = Why {
    because: "On an electrode only a residual device disconnects: its resistance decides the touch voltage.",
    proves: "The electrode holds the touch voltage under 50 V until the RCD trips.",
    not: "That it stays so: soil dries out and freezes.",
    spoils: "Pipes in contact with it; test spikes too near to each other.",
};
const FAULT_CURRENT: Why = Why {
    because: "A device must break the largest current that can flow, or it bursts.",
    proves: "The largest current here, of line–neutral and line–earth.",
    not: "The current with a larger transformer later.",
    spoils: "Poor contact of the probes, which reads low; the no-trip range, which reads roughly.",
};
const ZS: Why = Why {
    because: "The whole fault loop decides the current, and so how fast the device disconnects.",
    proves: "In a fault at this point the device trips in time, cold; warm copper is allowed for in the limit.",
    not: "The other points: the far one is the highest, unless a terminal is poor elsewhere.",
    spoils: "An RCD that trips, the no-trip range, other paths to earth in parallel, a contact that has not settled.",
};
const LINE_NEUTRAL_LOOP: Why = Why {
    because: "It shows a poor neutral, and the current of a short between line and neutral.",
    proves: "The neutral comes back as well as the line goes out.",
    not: "Anything of the earth.",
    spoils: "Loads that run while it is read.",
};
const RCD_TRIP: Why = Why {
    because: "A residual device protects a person only if it is fast enough.",
    proves: "It trips in time at the current of the test, on this half-cycle.",
    not: "That the wiring behind it is right: it trips by the tester's own path.",
    spoils: "Loads left in, a leakage already flowing, a loop that is too high for the test current.",
};
const RCD_BUTTON: Why = Why {
    because: "The mechanism must move; the user is asked to press it.",
    proves: "The device trips by its own button.",
    not: "Its time or its current: the button makes its own.",
    spoils: "No voltage at the device.",
};
const PHASE_SEQUENCE: Why = Why {
    because: "A motor turns the other way when two lines are changed over.",
    proves: "The lines follow each other as they should.",
    not: "That each line is on its own terminal: that is by colour and mark.",
    spoils: "A tester's lead on the wrong line; followed dead, a link left on the line before.",
};
const FUNCTIONAL: Why = Why {
    because: "What was made must do what it is for: switches, isolators, interlocks.",
    proves: "It works, and it can be switched off.",
    not: "That it is safe: the tests before it did that.",
    spoils: "Tried with the covers off, or before the dead tests.",
};
const SURGE_INDICATOR: Why = Why {
    because: "A surge device that has done its work says so by its window.",
    proves: "It is still in service.",
    not: "Its wiring length.",
    spoils: "Left unplugged after insulation.",
};
const LABELLING: Why = Why {
    because: "The next person acts by what the labels say.",
    proves: "Chart and notices are in place and right.",
    not: "Anything electrical.",
    spoils: "A chart written before the last change.",
};

impl Test {
    /// Why it is made.
    pub const fn why(self) -> Why {
        match self {
            Self::RingEndToEnd { .. } => RING_END_TO_END,
            Self::RingBoardCheck => RING_BOARD_CHECK,
            Self::R1Rn => R1_RN,
            Self::R1R2 => R1_R2,
            Self::R2 => R2,
            Self::Insulation | Self::InsulationJoined => INSULATION,
            Self::Polarity => POLARITY,
            Self::BondContinuity => BOND_CONTINUITY,
            Self::EarthingConductor => EARTHING_CONDUCTOR,
            Self::SupplyPolarity => SUPPLY_POLARITY,
            Self::Ze => ZE,
            Self::Electrode => ELECTRODE,
            Self::FaultCurrent => FAULT_CURRENT,
            Self::Zs => ZS,
            Self::LineNeutralLoop => LINE_NEUTRAL_LOOP,
            Self::RcdTrip { .. } => RCD_TRIP,
            Self::RcdButton | Self::AfddButton => RCD_BUTTON,
            Self::PhaseSequence => PHASE_SEQUENCE,
            Self::Functional => FUNCTIONAL,
            Self::SurgeIndicator => SURGE_INDICATOR,
            Self::Labelling => LABELLING,
        }
    }
}
