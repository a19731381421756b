//! What kinds of finding there are: a stable code for programs, why each matters, and whether a
//! competent person may judge it in writing.

macro_rules! kinds {
    ($($(#[$doc:meta])* $name:ident = $code:literal, $judged:ident, $consequence:literal;)+) => {
        /// A kind of finding. The codes are part of the output of `proof check` and do not change.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum Kind {
            $($(#[$doc])* $name,)+
        }

        impl Kind {
            /// All of them.
            pub const ALL: &'static [Self] = &[$(Self::$name),+];

            /// Names the kind in files.
            pub const fn code(self) -> &'static str {
                match self { $(Self::$name => $code),+ }
            }

            /// What follows from it: why it matters.
            pub const fn consequence(self) -> &'static str {
                match self { $(Self::$name => $consequence),+ }
            }

            /// Whether the standard leaves it to the judgement of a competent person.
            pub const fn may_be_judged(self) -> bool {
                match self { $(Self::$name => kinds!(@ $judged)),+ }
            }
        }
    };
    (@ judged) => { true };
    (@ mended) => { false };
}

kinds! {
    /// Something of the particulars is not written.
    ParticularsMissing = "particulars_missing", mended,
        "A certificate that does not say whose and where it is protects nobody.";
    /// A reading that a certificate wants.
    ReadingMissing = "reading_missing", mended,
        "What was not read is not known; a limitation with its reason is an answer, an empty box is none.";
    /// Polarity is outstanding.
    PolarityOutstanding = "polarity_owed", mended,
        "A reversal leaves a point live when it is switched off.";
    /// Items of the inspection are open.
    InspectionMissing = "inspection_missing", mended,
        "Inspection comes before any test: most of what hurts people is seen, not measured.";
    /// Altered and not put back.
    NotPutBack = "not_put_back", mended,
        "What was altered for a test and left so is a fault that the installer made.";
    /// The earthing conductor is off.
    SupplyExposed = "supply_exposed", mended,
        "With the earthing conductor off nothing clears a fault to earth.";
    /// Energised although a dead test is missing or failed.
    EnergisedUntested = "energised_untested", mended,
        "A dead test comes before the supply: the first fault should meet an instrument, not a person.";
    /// A conductor is open.
    NotContinuous = "not_continuous", mended,
        "Without a continuous protective conductor a fault makes metal live and stays.";
    /// Polarity is wrong.
    PolarityWrong = "polarity_wrong", mended,
        "A reversal leaves a point live when it is switched off.";
    /// Insulation under the minimum.
    InsulationLow = "insulation_under_minimum", mended,
        "Current leaks where it can start a fire or find a person.";
    /// The loop is over its limit.
    LoopOverLimit = "loop_over_limit", mended,
        "The device will not disconnect a fault in the time that a person survives.";
    /// The loop is over the limit of its device, and an RCD disconnects in its place.
    LoopByRcd = "loop_over_limit_rcd_disconnects", judged,
        "The RCD is then the only thing that disconnects a fault to earth: that is a decision, not an accident.";
    /// A residual device does not trip as it should.
    RcdFails = "rcd_fails", mended,
        "It is there for the moment when a person is the fault path.";
    /// A device below the fault level at its board.
    BreakingCapacity = "breaking_capacity", mended,
        "A device asked to break more than it can may burst.";
    /// Ze over the declared value.
    ZeOverDeclared = "ze_over_declared", judged,
        "The supply is worse than its distributor declares: a question to them, or an explanation in writing.";
    /// A bond over its limit.
    BondOverLimit = "bond_over_limit", judged,
        "A poor bond lets two metal parts stand at different voltages.";
    /// Something that was worked or seen is not right.
    OutcomeFailed = "outcome_failed", mended,
        "It does not do what it is there for.";
    /// Not the number that the circuit should give.
    LookAgain = "look_again", judged,
        "A reading can be inside its limit and still be wrong.";
    /// Insulation above the minimum but not what it should be.
    InsulationDoubtful = "insulation_doubtful", judged,
        "A figure just above the minimum may be below it tomorrow; new wiring should be over range.";
    /// Zs below Ze.
    ZsBelowZe = "zs_below_ze", judged,
        "A part cannot be more than the whole: one of the two readings is wrong, and nothing that rests on them holds.";
    /// Zs and Ze + (R1+R2) apart.
    SumAndMeasured = "sum_and_measured_apart", judged,
        "They are the same copper read twice: what differs is a joint, a path in parallel or a wrong figure.";
    /// The whole board above one of its circuits.
    WholeAboveCircuit = "whole_above_circuit", judged,
        "Circuits in parallel are never better insulated than the worst of them: one figure was read or written wrongly.";
    /// A fault current that its own loop does not give.
    CurrentAndLoop = "current_and_own_loop", judged,
        "The instrument works the one out of the other; breaking capacities rest on it.";
    /// Five times slower than one time.
    FiveSlower = "five_slower_than_one", judged,
        "More current trips faster: the two were exchanged, or the device is failing.";
    /// R1+R2 that the ring's ends cannot give.
    RingCannotGive = "ring_cannot_give", judged,
        "The ends fix what every socket must read: a ring that reads otherwise is not the ring that was measured.";
    /// R1+R2 under what the length allows.
    UnderLength = "under_length", judged,
        "Copper does not shrink: a parallel path, a bridged ring, or not the cable you think.";
    /// Equal where copper would differ.
    CopiedDown = "copied_down", judged,
        "Copper of different length does not read alike: a figure was written down without being read.";
    /// Out of order with the record of isolation.
    OutOfOrder = "out_of_order", judged,
        "A dead test on a live circuit, or a live test on a dead one, is not the reading that it is called.";
    /// The log has something done that no gate lets through.
    GateBroken = "gate_broken", judged,
        "Power on an installation that is open or unearthed can kill whoever touches it.";
    /// A record of proving dead that proves nothing.
    ProofOfDead = "proof_of_dead", judged,
        "What was not proved dead on every pair, with an indicator proved before and after, is taken as live.";
    /// An instrument that was not to be trusted.
    InstrumentDoubtful = "instrument_doubtful", judged,
        "Every figure is only as good as what it was read with.";
    /// Leads neither nulled nor subtracted.
    LeadsUnsaid = "leads_unsaid", judged,
        "Leads read a tenth of an ohm and more: as much as the circuit.";
    /// Device, cable and outlet do not match.
    CableMismatch = "cable_mismatch", judged,
        "The device protects the cable: it must not carry more than the cable can.";
    /// No additional protection where it is wanted.
    NoAdditionalProtection = "no_additional_protection", judged,
        "Socket-outlets up to 32 A want an RCD of 30 mA or less, or a documented reason.";
    /// A residual device whose type does not see what the circuit may leak.
    RcdType = "rcd_type", judged,
        "Direct or high-frequency residual current can blind a device of a simpler type.";
    /// Two residual devices in series that may trip together.
    Selectivity = "selectivity", judged,
        "A fault in one place takes the power from others.";
    /// The breaking capacity is not given.
    CapacityUnknown = "capacity_unknown", judged,
        "Whether it can break the fault current is then not known.";
    /// The earthing conductor is too thin.
    EarthingSize = "earthing_size", judged,
        "An earthing conductor that is too thin may burn through before the fault is cleared.";
    /// A bond is too thin.
    BondSize = "bond_size", judged,
        "A bond carries what a fault, or a lost neutral, drives through it.";
    /// The protective conductor of a circuit is too thin.
    CpcSize = "cpc_size", judged,
        "A protective conductor that melts during a fault leaves metal live.";
    /// No row says whether it is right.
    NotJudged = "not_judged", mended,
        "What no row says is not known: it neither passes nor fails.";
    /// The design current is above the device.
    DesignCurrent = "design_current", judged,
        "The load is more than the device carries.";
    /// An outlet is rated below its device.
    OutletRating = "outlet_rating", judged,
        "An outlet must carry what its device lets through.";
    /// The main switch does not break, or does not carry, what it should.
    MainSwitch = "main_switch", judged,
        "What one switch leaves live can kill whoever trusts it.";
    /// A device is marked with what none of its standard is.
    DeviceMarking = "device_marking", mended,
        "A figure that no such device is marked with was read off something else.";
    /// The residual part of an RCBO is not described.
    RcboUndescribed = "rcbo_undescribed", mended,
        "What is not described is not tested.";
    /// TT, and no residual device.
    TtWithoutRcd = "tt_without_rcd", mended,
        "On an electrode the fault current is too small for a fuse or a breaker.";
    /// Two ways bear one number.
    WayClash = "way_clash", mended,
        "Two ways of one name are taken for one another, and the wrong one is isolated.";
    /// A decision and the description differ.
    DecisionContradicted = "decision_contradicted", mended,
        "The certificate would say one thing, and the board another.";
    /// Something of another source is wanting.
    SourceIncomplete = "source_incomplete", mended,
        "A second source makes a dead board live.";
    /// No instrument is named.
    InstrumentUnsaid = "instrument_unsaid", mended,
        "A figure is only as good as what it was read with.";
    /// Nobody is named who wrote it down.
    WriterUnsaid = "writer_unsaid", mended,
        "A figure that nobody wrote is nobody's.";
    /// Insulation was tested at another voltage than its own.
    TestVoltage = "test_voltage", judged,
        "Insulation that holds at a lower voltage may fail at its own.";
    /// A figure that can hardly be.
    HardlyPossible = "hardly_possible", judged,
        "A figure that can hardly be was misread, or typed wrongly.";
    /// What was typed and what is kept differ.
    TypedDiffers = "typed_differs", mended,
        "What was typed is the record; what is kept must follow from it.";
    /// Touched again after its tests.
    AlteredAfterTest = "altered_after_test", judged,
        "What was touched after its test may be a new fault.";
    /// Readings of a ring on a radial.
    ShapeChanged = "shape_changed", mended,
        "The readings were taken of another circuit than the one described.";
    /// Walked, and no figure.
    NoFigure = "no_figure", mended,
        "That somebody walked says nothing about what was read.";
    /// A judgement lacks something.
    JudgementIncomplete = "judgement_incomplete", mended,
        "A judgement is somebody's, by some right, for some reason; else it is none.";
    /// Could not be taken.
    Limitation = "limitation", judged,
        "What was not tested is vouched for by nobody: the person who accepts that says so by name.";
    /// Owed, made safe.
    PointOutstanding = "owed", judged,
        "The next person must know what is not there yet.";
}

#[cfg(test)]
mod tests {
    use crate::finding::Kind;
    use std::collections::HashSet;

    #[test]
    fn codes_are_their_own_and_every_kind_says_why() {
        let codes: HashSet<_> = Kind::ALL.iter().map(|kind| kind.code()).collect();
        assert_eq!(codes.len(), Kind::ALL.len());
        assert!(Kind::ALL.iter().all(|kind| kind.consequence().ends_with('.')));
        let snake = |code: &str| code.chars().all(|c| c.is_ascii_lowercase() || c == '_');
        assert!(Kind::ALL.iter().all(|kind| snake(kind.code())));
    }

    /// What the standard never leaves to judgement.
    #[test]
    fn what_kills_is_mended() {
        for kind in [
            Kind::NotContinuous,
            Kind::PolarityWrong,
            Kind::InsulationLow,
            Kind::LoopOverLimit,
            Kind::RcdFails,
            Kind::BreakingCapacity,
            Kind::NotPutBack,
        ] {
            assert!(!kind.may_be_judged(), "{kind:?}");
        }
    }
}
