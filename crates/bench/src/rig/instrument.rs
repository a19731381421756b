//! An instrument of our own: one knob, two probes, leads that must be nulled. What it shows follows from the network, the
//! leads, the contact of the probes, and a little scatter.

use super::grid::Grid;
use super::terminal::Terminal;
use crate::meter::{Meter, shown};
use proof_core::standard::voltages::NO_INDICATION_UNDER;
use rust_decimal::Decimal;

/// Highest resistance that the low range shows, Ω.
pub const LOW_RANGE_OHM: f64 = 1999.0;
/// Highest insulation that it shows, MΩ.
pub const OVER_MEGOHM: f64 = 999.0;
/// Under this a pair is dead, V.
pub const DEAD_V: f64 = NO_INDICATION_UNDER.value.get();
/// A loop and a trip time want a supply of at least this, V. Invented for the bench.
pub const LOOP_V: f64 = 100.0;
/// How a loop scatters, Ω, at full current and at one that trips nothing (common practice, no source: the latter reads less
/// precisely).
const LOOP_SCATTER_OHM: f64 = 0.005;
const QUIET_SCATTER_OHM: f64 = 0.04;
/// More than this is not leads: it is not nulled, Ω. Invented for the bench.
const MOST_LEADS_OHM: f64 = 10.0;
/// How insulation scatters, share. Invented for the bench.
const INSULATION_SCATTER: f64 = 0.015;
/// What a first contact in an accessory adds at most, Ω (common practice, no source).
const BOUNCE_OHM: f64 = 0.06;

/// What the knob stands at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Function {
    /// Volts, as a two-pole indicator shows them.
    #[default]
    Volts,
    /// Low resistance, continuity.
    LowOhm,
    /// Insulation at so many volts d.c.
    Insulation(u16),
    /// Loop impedance at full current, which a residual device does not stand.
    Loop,
    /// Loop impedance at a current that trips nothing; it scatters more.
    QuietLoop,
    /// Trip time of a residual device at its rated current.
    Trip,
    /// The same at five times.
    TripFive,
    /// Half of it: it must not trip.
    TripHalf,
}

impl Function {
    /// In the order of the knob.
    pub const ALL: [Self; 10] = [
        Self::Volts,
        Self::LowOhm,
        Self::Insulation(250),
        Self::Insulation(500),
        Self::Insulation(1000),
        Self::Loop,
        Self::QuietLoop,
        Self::TripHalf,
        Self::Trip,
        Self::TripFive,
    ];

    /// Key in forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Volts => "volts",
            Self::LowOhm => "low",
            Self::Insulation(250) => "ir250",
            Self::Insulation(1000) => "ir1000",
            Self::Insulation(_) => "ir500",
            Self::Loop => "loop",
            Self::QuietLoop => "quiet",
            Self::Trip => "trip1",
            Self::TripFive => "trip5",
            Self::TripHalf => "trip-half",
        }
    }

    /// On the knob.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Volts => "V",
            Self::LowOhm => "low Ω",
            Self::Insulation(250) => "250 V",
            Self::Insulation(1000) => "1000 V",
            Self::Insulation(_) => "500 V",
            Self::Loop => "loop",
            Self::QuietLoop => "loop, no trip",
            Self::Trip => "IΔn",
            Self::TripFive => "5 IΔn",
            Self::TripHalf => "½ IΔn",
        }
    }

    /// Whether the instrument puts a voltage of its own on the conductors, which must be dead.
    pub const fn wants_dead(self) -> bool {
        matches!(self, Self::LowOhm | Self::Insulation(_))
    }
}

/// A set of leads.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default)]
pub enum Leads {
    /// Two short leads with probes and clips.
    #[default]
    Short,
    /// One of them long enough for a house.
    Long,
    /// A lead with a plug.
    Plug,
}

impl Leads {
    /// In the order offered.
    pub const ALL: [Self; 3] = [Self::Short, Self::Long, Self::Plug];

    /// Key in forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Short => "short",
            Self::Long => "long",
            Self::Plug => "plug",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Short => "short leads",
            Self::Long => "one long lead",
            Self::Plug => "plug-in lead",
        }
    }

    /// Their resistance, Ω. Invented for the bench.
    pub const fn ohm(self) -> f64 {
        match self {
            Self::Short => 0.06,
            Self::Long => 0.58,
            Self::Plug => 0.11,
        }
    }
}

/// What the display shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shown {
    /// Nothing yet.
    Blank,
    /// Volts.
    Volts(Decimal),
    /// Ohms.
    Ohm(Decimal),
    /// Over the low range.
    OverOhm,
    /// Megohms.
    Megohm(Decimal),
    /// Over the insulation range.
    OverMegohm,
    /// A loop in Ω; V; the current that would flow, kA.
    Loop(Decimal),
    /// A trip time, ms.
    Millis(Decimal),
    /// It did not trip.
    NoTrip,
    /// It refuses: there is voltage.
    Live(Decimal),
    /// It refuses: there is none.
    NoSupply,
    /// What it measured through went off while it measured.
    Tripped,
    /// A probe is in the air.
    Open,
}

impl Shown {
    /// As the display has it, with its unit.
    pub fn text(self) -> String {
        match self {
            Self::Blank => "– – –".into(),
            Self::Volts(volts) => format!("{volts} V"),
            Self::Ohm(ohm) | Self::Loop(ohm) => format!("{ohm} Ω"),
            Self::OverOhm => format!("> {LOW_RANGE_OHM} Ω"),
            Self::Megohm(megohm) => format!("{megohm} MΩ"),
            Self::OverMegohm => format!("> {OVER_MEGOHM} MΩ"),
            Self::Millis(ms) => format!("{ms} ms"),
            Self::NoTrip => "no trip".into(),
            Self::Live(volts) => format!("LIVE {volts} V"),
            Self::NoSupply => "no supply".into(),
            Self::Tripped => "tripped".into(),
            Self::Open => "open leads".into(),
        }
    }

    /// What is typed for it in a box.
    pub fn typed(self) -> Option<String> {
        match self {
            Self::Ohm(ohm) | Self::Loop(ohm) => Some(ohm.to_string()),
            Self::Megohm(megohm) => Some(megohm.to_string()),
            Self::Millis(ms) => Some(ms.to_string()),
            Self::OverMegohm => Some(format!(">{OVER_MEGOHM}")),
            Self::OverOhm => Some("OL".into()),
            Self::NoTrip => Some("no trip".into()),
            _ => None,
        }
    }
}

/// The instrument as it is set.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Instrument {
    /// The knob.
    pub function: Function,
    /// The leads that are in it.
    pub leads: Leads,
    /// What is taken off, Ω, and with which leads it was nulled.
    pub null: Option<(Leads, f64)>,
    /// Where the probes are; `None`: in the hand.
    pub probes: [Option<Terminal>; 2],
}

impl Instrument {
    /// Both tips held together, or on one terminal.
    pub fn tips_together(&self) -> bool {
        self.probes[0] == self.probes[1]
    }

    /// Ω between the tips, with the leads, and a contact that settles when it is tried again.
    fn raw_ohm(&self, grid: &Grid, meter: &mut Meter, tried: u32) -> Option<f64> {
        let between = match self.probes {
            [Some(a), Some(b)] if a != b => grid.ohm(a, b)?,
            [None, None] | [Some(_), Some(_)] => 0.0,
            _ => return None,
        };
        // Clips at the board hold firmly; an accessory is felt through a plug or a probe.
        let felt = self.probes.iter().any(|at| matches!(at, Some(Terminal::Point { .. })));
        let bounce = if felt && !self.tips_together() { BOUNCE_OHM * meter.share() * meter.share() } else { 0.0 };
        Some(between + self.leads.ohm() + bounce / f64::from((1 + tried).pow(2)))
    }

    /// What the low range shows; `tried` is how often it was pressed at this place before.
    pub fn low_ohm(&self, grid: &Grid, meter: &mut Meter, tried: u32) -> Shown {
        let Some(raw) = self.raw_ohm(grid, meter, tried) else { return Shown::OverOhm };
        let off = self.null.map_or(0.0, |(_, ohm)| ohm);
        if raw > LOW_RANGE_OHM {
            return Shown::OverOhm;
        }
        Shown::Ohm(meter.clipped(raw - off))
    }

    /// What a press of the null button takes off from now on, Ω; `None`: too much to be leads, it refuses.
    pub fn nulls(&self, grid: &Grid, meter: &mut Meter) -> Option<f64> {
        self.raw_ohm(grid, meter, 0).filter(|ohm| *ohm < MOST_LEADS_OHM)
    }

    /// What the insulation range shows on a grid that was made for its volts.
    pub fn insulation(&self, grid: &Grid, meter: &mut Meter) -> Shown {
        let ohm = match self.probes {
            [Some(a), Some(b)] if a != b => grid.ohm(a, b),
            [None, None] | [Some(_), Some(_)] => Some(0.0),
            _ => None,
        };
        let Some(megohm) = ohm.map(|ohm| ohm / 1e6).filter(|megohm| *megohm <= OVER_MEGOHM) else {
            return Shown::OverMegohm;
        };
        let places = if megohm < 10.0 { 2 } else { usize::from(megohm < 100.0) };
        Shown::Megohm(shown(megohm * meter.between(1.0 - INSULATION_SCATTER, 1.0 + INSULATION_SCATTER), places))
    }

    /// What the indicator shows.
    pub fn volts(&self, grid: &Grid, meter: &mut Meter) -> Shown {
        match self.probes {
            [Some(a), Some(b)] if a != b => {
                let volts = grid.energised().between(a, b);
                let wobble = if volts > DEAD_V { meter.between(-1.5, 1.5) } else { 0.0 };
                Shown::Volts(shown(volts + wobble, 0))
            }
            [None, None] | [Some(_), Some(_)] => Shown::Volts(Decimal::ZERO),
            _ => Shown::Open,
        }
    }

    /// What the loop range shows, on a live circuit.
    pub fn loop_ohm(&self, grid: &Grid, meter: &mut Meter) -> Shown {
        let [Some(a), Some(b)] = self.probes else { return Shown::Open };
        if a == b || grid.energised().between(a, b) < LOOP_V {
            return Shown::NoSupply;
        }
        let Some(ohm) = grid.ohm(a, b) else { return Shown::NoSupply };
        let scatter = if self.function == Function::QuietLoop { QUIET_SCATTER_OHM } else { LOOP_SCATTER_OHM };
        Shown::Loop(shown(ohm + meter.between(-scatter, scatter), 2))
    }
}
