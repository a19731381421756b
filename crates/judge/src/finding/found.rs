//! What was found, with the numbers that say so: each finding is one of these.

use crate::verdict::{Bound, Reason as Odd};
use jiff::Timestamp;
use proof_job::installation::{Carried, Decided, Serves, SourceKind};
use proof_job::instrument::Distrust;
use proof_job::reading::{Stage, Test, Value};
use proof_job::site::{Alteration, BoardState, Breach, Wanted};
use proof_standard::conductor::Pair;
use proof_standard::limits::rcd::RcdType;
use proof_standard::quantity::{Amps, Kiloamps, Milliamps, Millis};
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

/// What wants additional protection.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Guards {
    /// Lighting in a dwelling.
    Lighting,
    /// A room with a bath or shower.
    BathOrShower,
    /// A hidden cable.
    HiddenCable,
    /// Mobile equipment outdoors.
    MobileOutdoors,
}

impl From<Serves> for Guards {
    fn from(serves: Serves) -> Self {
        match serves {
            Serves::BathOrShower => Self::BathOrShower,
            Serves::HiddenCable => Self::HiddenCable,
            Serves::MobileOutdoors => Self::MobileOutdoors,
        }
    }
}

/// What is to be decided.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Undecided {
    /// Surge protection.
    Surge,
    /// Arc fault detection.
    Arc,
}

/// What a source lacks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Lacks {
    /// Its board.
    Board,
    /// Where it is isolated.
    Isolator,
    /// Warning notices.
    Notices,
    /// Devices that work in both directions.
    BothWays,
}

/// Why a figure can hardly be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Unlikely {
    /// Above the range of its instrument.
    AboveRange,
    /// No fault current.
    NoCurrent,
}

/// What was found. A written judgement binds to it and its numbers: what is written into files is the
/// names and fields of these variants, which therefore do not change (a fixture freezes them). Resistances in Ω, sizes
/// in mm² copper. What kind each is, how it stands, what it says and what settles it stands in one row each of the
/// table beside.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "found", rename_all = "snake_case")]
pub enum Found {
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
    /// Polarity is outstanding.
    #[serde(rename = "polarity_owed")]
    PolarityOutstanding {
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
    /// A point is outstanding, made safe.
    #[serde(rename = "owed")]
    PointOutstanding {
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

    // Of the installation as it is described: sizes, protection, decisions, sources.
    /// The earthing conductor is too thin.
    EarthingThin {
        /// It.
        mm2: f64,
        /// The least.
        least_mm2: f64,
    },
    /// A bond is too thin.
    BondThin {
        /// To what.
        to: String,
        /// It.
        mm2: f64,
        /// The least.
        least_mm2: f64,
    },
    /// The protective conductor of a circuit passes neither by table nor by the equation.
    CpcThin {
        /// It.
        mm2: f64,
        /// By the table.
        table_mm2: f64,
        /// By the adiabatic equation, as far as the device's time is known.
        adiabatic_mm2: Decimal,
    },
    /// It does not withstand what its device lets through.
    CpcLetThrough {
        /// It.
        mm2: f64,
        /// What it withstands, A²s.
        withstands_a2s: i64,
        /// What is let through, A²s.
        let_through_a2s: i64,
    },
    /// It stands apart from the cable and is thinner than that allows.
    CpcApartThin {
        /// It.
        mm2: f64,
        /// The least.
        least_mm2: f64,
    },
    /// No row says whether the protective conductor is large enough.
    CpcNotJudged {
        /// It is steel armour.
        armour: bool,
    },
    /// No row says what the cable carries.
    CapacityNotJudged,
    /// No row says what loop the device needs.
    LoopNotJudged {
        /// The device.
        device: String,
        /// Disconnection time, s.
        seconds: Decimal,
    },
    /// The design current is above the device.
    DesignCurrent {
        /// Ib, A.
        design_a: Amps,
        /// In, A.
        device_a: Amps,
    },
    /// A rewirable fuse above 0.725 of what its cable carries.
    Rewirable {
        /// In, A.
        device_a: Amps,
        /// The most, A.
        most_a: Decimal,
    },
    /// An outlet rated below its device.
    OutletBelow {
        /// Which point.
        point: String,
        /// Its rating, A.
        outlet_a: Amps,
        /// The device, A.
        device_a: Amps,
    },
    /// An industrial outlet of which nobody said the rating.
    OutletUnrated {
        /// Which point.
        point: String,
    },
    /// A main switch that does not break every live conductor.
    SwitchPoles {
        /// How many it breaks.
        poles: u8,
        /// How many it must.
        least: u8,
        /// Since the board is TT, rather than for ordinary persons.
        tt: bool,
    },
    /// A main switch rated below the device before it.
    SwitchBelow {
        /// It, A.
        switch_a: Amps,
        /// What stands before it, A.
        before_a: Amps,
    },
    /// A device marked with what no device of its standard breaks.
    Marking {
        /// Its standard.
        standard: &'static str,
        /// As given.
        ka: Kiloamps,
    },
    /// No additional protection where it is wanted.
    Unprotected {
        /// For what.
        for_what: Guards,
    },
    /// An RCBO without its residual part described.
    RcboUndescribed,
    /// TT, and nothing disconnects a fault to earth.
    TtUnprotected,
    /// A way numbered like a line of another.
    WayClash {
        /// The other.
        other: String,
    },
    /// Surge or arc protection is not decided.
    Undecided {
        /// Which.
        what: Undecided,
    },
    /// Not required, and no reason.
    NoReason {
        /// Which.
        what: Undecided,
    },
    /// Decided one way, described another.
    Contradicted {
        /// Which.
        what: Undecided,
        /// As decided.
        decided: Decided,
    },
    /// Something of another source is wanting.
    Source {
        /// Which.
        kind: SourceKind,
        /// What it lacks.
        lacks: Lacks,
    },

    // Device, cable, RCD and load of a circuit.
    /// A ring in cable that is too thin.
    RingTooThin {
        /// Its size, mm².
        mm2: f64,
        /// The least, mm².
        least_mm2: f64,
    },
    /// A ring whose legs carry too little.
    LegCarries {
        /// What each carries, A.
        amps: f64,
    },
    /// A device above what its cable carries.
    DeviceOverCable {
        /// It, as shown.
        device: String,
        /// What the cable carries, A.
        amps: f64,
    },
    /// Socket-outlets without an RCD of 30 mA or less.
    NoAdditionalProtection,
    /// The breaking capacity of a device is not given.
    CapacityUnknown,
    /// An RCD of a type that does not see what may leak.
    RcdBlind {
        /// Which RCD.
        rcd: String,
        /// Its type.
        detects: RcdType,
        /// What hangs on the circuit.
        carries: Carried,
        /// The type that sees it.
        wanted: RcdType,
    },
    /// Two residual devices in series that may trip together.
    TripTogether {
        /// The upper one.
        rcd: String,
        /// Its IΔn, mA.
        idn_ma: Milliamps,
        /// The board below it.
        board: String,
    },

    // How the record was made.
    /// No instrument is named.
    InstrumentUnsaid {
        /// So many.
        readings: usize,
    },
    /// Nobody is named who wrote it down.
    WriterUnsaid {
        /// So many.
        readings: usize,
    },
    /// Insulation at a voltage that does not fit.
    TestVoltage {
        /// As taken, V.
        volts: f64,
        /// As wanted, V.
        wanted: f64,
    },
    /// A figure that can hardly be.
    Unlikely {
        /// Why.
        what: Unlikely,
        /// The figure.
        value: Decimal,
        /// Its unit.
        unit: &'static str,
    },
    /// What was typed and what is kept are two things.
    TypedDiffers {
        /// Typed.
        typed: String,
        /// Kept.
        value: String,
    },
    /// Touched again after its tests.
    AlteredAfter {
        /// How.
        what: Alteration,
    },
    /// Readings of a ring on a radial.
    ShapeChanged,
    /// Walked, and no figure.
    NoFigure {
        /// Which.
        label: String,
    },
    /// A judgement that lacks something.
    JudgementIncomplete {
        /// Of which finding.
        finding: String,
    },

    // Figures that contradict one another.
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
