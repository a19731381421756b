//! How a reading was judged: which part, by which rule with which numbers, what came out, and where
//! the rule comes from.

use crate::expectation::{Expected, Unknown, with_places};
use crate::verdict::bound::{Above, Bound, Path};
use proof_job::reading::Value;
use proof_standard::limits::Source;
use proof_standard::limits::devices::NoMaximum;
use proof_standard::limits::rcd::{RcdKind, TripWindow};
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Kiloamps, Milliamps, approximate};
use rust_decimal::{Decimal, dec};

/// Which of the two verdicts a line of working belongs to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WorkingPart {
    /// Is it inside its limit?
    Limit,
    /// Is it the number that this circuit should give?
    Expected,
}

impl WorkingPart {
    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Limit => "limit",
            Self::Expected => "expected",
        }
    }
}

/// One line of working.
#[derive(Debug, Clone, PartialEq)]
pub struct Working {
    /// Of which verdict.
    pub part: WorkingPart,
    /// By which rule, with the numbers put in.
    pub rule: Rule,
    /// Where the rule comes from.
    pub sources: Vec<Source>,
}

/// A rule, with the numbers put in. Resistances in Ω, currents in kA, unless the name says else.
#[derive(Debug, Clone, PartialEq)]
pub enum Rule {
    /// A path is complete.
    Complete {
        /// Which path.
        path: Path,
        /// What was read.
        read: Value,
        /// Whether it is.
        complete: bool,
    },
    /// r1 and rn are alike.
    LegsAlike {
        /// Within this of each other, Ω.
        within: f64,
        /// The smaller, Ω.
        least: Decimal,
        /// The larger, Ω.
        most: Decimal,
    },
    /// Closed reads, open goes over range.
    Opens {
        /// What was read.
        read: Value,
        /// Whether it opens.
        open: bool,
    },
    /// R1+R2 may use what the maximum Zs leaves above Ze.
    RoomForCopper {
        /// R1+R2 as read, Ω.
        r1_r2: Decimal,
        /// Maximum Zs as compared cold, Ω.
        maximum: Decimal,
        /// The loop above, Ω.
        ze: Decimal,
        /// Which loop that is.
        above: Above,
    },
    /// Insulation at or above the minimum, MΩ.
    Insulation {
        /// What was read.
        read: Value,
        /// Test voltage, V d.c.; none for a set.
        volts: Option<f64>,
        /// The minimum, MΩ.
        minimum: Decimal,
    },
    /// Zs by the RCD that disconnects.
    ZsByRcd {
        /// Zs, Ω.
        zs: Decimal,
        /// The limit, Ω.
        limit: Decimal,
    },
    /// Zs by 80 % of the printed maximum.
    EightyPercent {
        /// Zs, Ω.
        zs: Decimal,
        /// Printed maximum, Ω.
        printed: Decimal,
        /// The limit, Ω.
        limit: Decimal,
        /// The device as shown.
        device: String,
    },
    /// Zs worked at working temperature.
    AtWorkingTemperature {
        /// Zs, Ω.
        zs: Decimal,
        /// Printed maximum, Ω.
        printed: Decimal,
        /// The device as shown.
        device: String,
    },
    /// A trip time within its window, ms.
    TripTime {
        /// What was read.
        read: Value,
        /// IΔn, mA.
        idn_ma: Milliamps,
        /// Delayed or not.
        kind: RcdKind,
        /// The window.
        window: TripWindow,
    },
    /// A supplementary bond by the current that disconnects.
    SupplementaryBond {
        /// What was read, Ω.
        ohm: f64,
        /// The current that disconnects, A.
        ia_a: f64,
        /// The most, Ω.
        limit: f64,
    },
    /// A bond by its limit.
    Bond {
        /// As read, Ω.
        ohm: f64,
        /// The limit, Ω.
        limit: f64,
    },
    /// Ze by what the distributor declares.
    DeclaredZe {
        /// The loop above, Ω.
        ze: Decimal,
        /// Declared maximum, Ω.
        declared: Decimal,
        /// Of which earthing system.
        system: EarthingSystem,
    },
    /// An electrode by the RCD that relies on it.
    Electrode {
        /// Ra, Ω.
        ra: Decimal,
        /// The limit, Ω.
        limit: Decimal,
        /// IΔn, mA.
        idn_ma: Milliamps,
        /// Touch voltage at IΔn, V.
        touch_v: Decimal,
    },
    /// Every device breaks the fault current.
    BreaksFault {
        /// Fault current, kA.
        level: Kiloamps,
        /// Least breaking capacity, kA.
        capacity: Kiloamps,
        /// Of which device.
        which: String,
        /// At a board below the origin.
        below_origin: bool,
    },
    /// It was worked or seen.
    Outcome {
        /// Whether it was right.
        right: bool,
    },
    /// Within what is expected; the basis says from what that follows.
    Expected {
        /// From what the expectation follows.
        basis: String,
        /// What was read.
        read: f64,
        /// What was expected.
        expected: Expected,
    },
    /// Over range, where that is expected, MΩ.
    OverRange {
        /// From what the expectation follows.
        basis: String,
        /// What was read.
        read: Value,
    },
    /// Not judged.
    NotJudged(NotJudged),
}

/// Why something is not judged.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum NotJudged {
    /// A limitation was written.
    #[error("limitation: {0}")]
    Limitation(String),
    /// It does not apply.
    #[error("not applicable: {0}")]
    NotApplicable(String),
    /// Something would have to be known.
    #[error("{0}")]
    Unknown(#[from] Unknown),
    /// The tables hold no maximum for the device.
    #[error("{0}")]
    NoMaximum(#[from] NoMaximum),
    /// Walked.
    #[error("no figure was kept: every figure buys diagnosis")]
    NoFigure,
    /// Below Ze.
    #[error("a measured Zs below Ze is a finding, not a pass")]
    BelowZe,
    /// Judged by the declared loop alone it would fail, and that is an assumption.
    #[error("Ze is not read yet, and with the declared {declared_ohm} Ω it would be too much: read Ze first")]
    ZeFirst {
        /// As declared, Ω.
        declared_ohm: Decimal,
    },
    /// Line–neutral.
    #[error("the standard sets no limit to the line–neutral loop of a circuit")]
    NeutralLoop,
    /// The temperature rule.
    #[error("the temperature rule wants Ze and R1+R2")]
    TemperatureRule,
    /// No RCD.
    #[error("no RCD covers this circuit")]
    NoRcd,
    /// A trip time.
    #[error("the circuit does not say how quickly an RCD trips")]
    TripTime,
    /// An electrode alone.
    #[error("an electrode is judged by the RCD that relies on it: describe one")]
    NoElectrodeRcd,
    /// No capacity.
    #[error("give the breaking capacity of the devices")]
    NoBreakingCapacity,
    /// Nothing to hold a current to.
    #[error("read Ze first, or the loop behind it")]
    NoLoop,
    /// The loop behind a current.
    #[error("it is not Ze, and has no limit of its own: the current it gives has")]
    OwnLoop,
    /// The level above.
    #[error("read the fault current at the origin first")]
    NoLevelAbove,
}

impl Rule {
    /// The rule in words.
    pub fn formula(&self) -> String {
        let said = match self {
            Self::Complete { path, .. } => path.rule(),
            Self::LegsAlike { within, .. } => return format!("r1 and rn within {within} Ω and alike in proportion"),
            Self::Opens { .. } => "closed reads, open goes over range",
            Self::RoomForCopper { .. } => "R1+R2 ≤ maximum Zs (compared cold) − Ze",
            Self::Insulation { volts: Some(_), .. } => "insulation resistance ≥ minimum",
            Self::Insulation { volts: None, .. } => "insulation of the set ≥ minimum",
            Self::ZsByRcd { .. } => "Zs ≤ 50 V / IΔn",
            Self::EightyPercent { .. } => "Zs ≤ 0.8 × printed maximum",
            Self::AtWorkingTemperature { .. } => "Ze + (R1+R2) at working temperature ≤ printed maximum",
            Self::TripTime { .. } => "trip time within its window",
            Self::SupplementaryBond { .. } => "R ≤ 50 V / Ia",
            Self::Bond { .. } => "bond ≤ its limit",
            Self::DeclaredZe { .. } => "Ze ≤ declared maximum",
            Self::Electrode { .. } => "Ra ≤ 50 V / IΔn",
            Self::BreaksFault { below_origin: false, .. } => "fault current ≤ breaking capacity of every device",
            Self::BreaksFault { below_origin: true, .. } => {
                "fault current at this board ≤ breaking capacity of its devices"
            }
            Self::Outcome { .. } => "right",
            Self::Expected { basis, .. } | Self::OverRange { basis, .. } => basis,
            Self::NotJudged(_) => "not judged",
        };
        said.to_owned()
    }

    /// The numbers put in, with their units.
    pub fn numbers(&self) -> String {
        match self {
            Self::Complete { path: Path::Conductors, complete: false, .. } => "open".to_owned(),
            Self::Complete { read: Value::Number(ohm), .. } => format!("{ohm} Ω"),
            Self::Complete { read, .. } | Self::Opens { read, .. } => read.shown(),
            Self::LegsAlike { least, most, .. } => format!("{most} − {least} = {} Ω", (most - least).normalize()),
            Self::RoomForCopper { r1_r2, maximum, ze, above } => {
                format!("{r1_r2} ≤ {maximum} − {ze} ({})", above.label())
            }
            Self::Insulation { read, volts, .. } => {
                let at = volts.map(|volts| format!(" at {volts} V d.c.")).unwrap_or_default();
                format!("{} MΩ{at}", read.shown())
            }
            Self::ZsByRcd { zs, limit } => format!("{zs} ≤ {limit}"),
            Self::EightyPercent { zs, printed, limit, device } => {
                format!("{zs} ≤ 0.8 × {printed}{} ({device})", rounding(*printed, *limit))
            }
            Self::AtWorkingTemperature { zs, printed, device } => {
                format!("{} ≤ {printed} ({device})", zs.round_dp(3))
            }
            Self::TripTime { read, idn_ma, kind, .. } => {
                format!("{} ({} mA, {})", read.shown(), idn_ma.normalize(), kind.name())
            }
            Self::SupplementaryBond { ohm, ia_a, limit } => format!("{ohm} ≤ 50 V / {ia_a:.3} A = {limit:.3}"),
            Self::Bond { ohm, limit } => format!("{ohm} ≤ {limit:.3}"),
            Self::DeclaredZe { ze, declared, system } => format!("{ze} ≤ {declared} ({})", system.name()),
            Self::Electrode { ra, limit, idn_ma, .. } => format!("{ra} ≤ {limit} ({} mA)", idn_ma.normalize()),
            Self::BreaksFault { level, capacity, which, .. } => format!("{level} ≤ {capacity} kA ({which})"),
            Self::Outcome { right } => if *right { "pass" } else { "fail" }.to_owned(),
            Self::Expected { read, expected, .. } => format!("reading {read} {}", expected.unit),
            Self::OverRange { read, .. } => format!("over range, {} MΩ", read.shown()),
            Self::NotJudged(_) => String::new(),
        }
    }

    /// What the rule holds a reading to; none where it holds to no limit.
    pub fn bound(&self) -> Option<Bound> {
        let ohms = |most: Decimal| Bound::AtMost { most, unit: "Ω" };
        Some(match self {
            Self::Complete { path, .. } => Bound::Complete(*path),
            Self::Opens { .. } => Bound::Opens,
            // A Ze above the maximum leaves no room: no copper is short enough.
            Self::RoomForCopper { maximum, ze, .. } => ohms((maximum - ze).max(Decimal::ZERO)),
            Self::Insulation { minimum, .. } => Bound::AtLeast { least: *minimum, unit: "MΩ" },
            Self::ZsByRcd { limit, .. } | Self::EightyPercent { limit, .. } => ohms(*limit),
            Self::AtWorkingTemperature { printed, .. } => ohms(*printed),
            Self::TripTime { window: TripWindow::NoTrip, .. } => Bound::NoTrip,
            Self::TripTime { window: TripWindow::Between { min_ms, max_ms }, .. } => {
                Bound::Trips { min_ms: *min_ms, max_ms: *max_ms }
            }
            Self::SupplementaryBond { limit, .. } | Self::Bond { limit, .. } => ohms(with_places(*limit, 3)),
            Self::DeclaredZe { declared, .. } => ohms(*declared),
            Self::Electrode { limit, touch_v, .. } => {
                Bound::Electrode { most_ohm: *limit, touch_v: touch_v.normalize() }
            }
            Self::BreaksFault { capacity, .. } => Bound::AtMost { most: capacity.get(), unit: "kA" },
            Self::Outcome { .. } => Bound::Right,
            Self::LegsAlike { .. } | Self::Expected { .. } | Self::OverRange { .. } | Self::NotJudged(_) => {
                return None;
            }
        })
    }

    /// What came out.
    pub fn result(&self) -> String {
        match self {
            Self::Complete { complete: true, .. } => "continuous".to_owned(),
            Self::Opens { open: true, .. } => "open".to_owned(),
            Self::Outcome { right: true } => "pass".to_owned(),
            Self::LegsAlike { least, most, .. } => {
                let share = if most.is_zero() { dec!(100) } else { dec!(100) * least / most };
                format!("{:.0} % of the larger", approximate(share))
            }
            Self::Expected { expected, .. } => format!("expected {expected}"),
            Self::OverRange { .. } => "over range".to_owned(),
            Self::NotJudged(why) => why.to_string(),
            held => held.bound().as_ref().map(ToString::to_string).unwrap_or_default(),
        }
    }
}

/// What rounding made of 0.8 × the printed value, where it made something of it.
fn rounding(printed: Decimal, limit: Decimal) -> String {
    let product = dec!(0.8) * printed;
    if product == limit {
        return String::new();
    }
    let percent = if product.is_zero() { Decimal::ZERO } else { (limit / product - Decimal::ONE) * dec!(100) };
    let by = if percent >= Decimal::ONE { format!(", {} % above it", percent.round_dp(1)) } else { String::new() };
    format!(" = {}, shown as {limit}{by}", product.normalize())
}
