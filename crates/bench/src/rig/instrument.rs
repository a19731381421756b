//! An instrument of our own: one knob, two probes or three, leads that must be nulled. What it shows follows from the network, the
//! leads, the contact of the probes, and a little scatter.

use super::grid::Grid;
use super::terminal::{Terminal, Wire};
use crate::meter::{Meter, shown};
use proof_job::instrument::SeriesOrder;
use proof_standard::limits::rcd::{HalfCycle, Multiple};
use proof_standard::limits::voltages::NO_INDICATION_UNDER;
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

/// How many probes there are.
pub const PROBES: usize = 3;
/// A tired battery gives this share of the test voltage, and so of what is shown (common practice, no source: the
/// insulation range shows it first).
const TIRED_SHARE: f64 = 0.7;

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
    /// All of them, one after the other in the instrument's own order.
    Series,
    /// The order of three lines.
    Sequence,
    /// An electrode, between it and two spikes.
    Electrode,
}

impl Function {
    /// In the order of the knob.
    pub const ALL: [Self; 13] = [
        Self::Volts,
        Self::Sequence,
        Self::LowOhm,
        Self::Insulation(250),
        Self::Insulation(500),
        Self::Insulation(1000),
        Self::Loop,
        Self::QuietLoop,
        Self::TripHalf,
        Self::Trip,
        Self::TripFive,
        Self::Series,
        Self::Electrode,
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
            Self::Series => "series",
            Self::Sequence => "sequence",
            Self::Electrode => "electrode",
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
            Self::Series => "RCD series",
            Self::Sequence => "phase order",
            Self::Electrode => "electrode",
        }
    }

    /// Whether the instrument puts a voltage of its own on the conductors, which must be dead.
    pub const fn wants_dead(self) -> bool {
        matches!(self, Self::LowOhm | Self::Insulation(_) | Self::Electrode)
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
    /// Three leads: a third probe.
    Three,
}

impl Leads {
    /// In the order offered.
    pub const ALL: [Self; 4] = [Self::Short, Self::Long, Self::Plug, Self::Three];

    /// Key in forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Short => "short",
            Self::Long => "long",
            Self::Plug => "plug",
            Self::Three => "three",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Short => "short leads",
            Self::Long => "one long lead",
            Self::Plug => "plug-in lead",
            Self::Three => "three leads",
        }
    }

    /// Their resistance, Ω. Invented for the bench.
    pub const fn ohm(self) -> f64 {
        match self {
            Self::Short => 0.06,
            Self::Long => 0.58,
            Self::Plug => 0.11,
            Self::Three => 0.09,
        }
    }
}

/// What the display shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MeterDisplay {
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
    /// The lines follow each other: first, second, third; or the other way round.
    Turns(bool),
    /// They are no three lines.
    NoThree,
    /// It wants its third lead.
    WantsThird,
}

impl MeterDisplay {
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
            Self::Turns(true) => "1 – 2 – 3".into(),
            Self::Turns(false) => "3 – 2 – 1".into(),
            Self::NoThree => "not three lines".into(),
            Self::WantsThird => "third lead".into(),
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
#[derive(Debug, Clone, PartialEq)]
pub struct Instrument {
    /// The knob.
    pub function: Function,
    /// The leads that are in it.
    pub leads: Leads,
    /// What is taken off, Ω, and with which leads it was nulled.
    pub null: Option<(Leads, f64)>,
    /// Where the probes are; `None`: in the hand. The third wants three leads.
    pub probes: [Option<Terminal>; PROBES],
    /// On which half-cycle a trip test starts.
    pub half: HalfCycle,
    /// In which order its series runs.
    pub order: SeriesOrder,
    /// What it shows of what is there, share: 1 where it is right.
    pub gain: f64,
    /// Its battery is low.
    pub tired: bool,
}

impl Default for Instrument {
    fn default() -> Self {
        Self {
            function: Function::default(),
            leads: Leads::default(),
            null: None,
            probes: [None; PROBES],
            half: HalfCycle::Deg0,
            order: SeriesOrder::default(),
            gain: 1.0,
            tired: false,
        }
    }
}

impl Instrument {
    /// The tests of its series, in its order.
    pub fn series(&self) -> Vec<(Multiple, HalfCycle)> {
        let halves = [HalfCycle::Deg0, HalfCycle::Deg180];
        let all = Multiple::ALL.into_iter().flat_map(|multiple| halves.map(|half| (multiple, half)));
        let mut tests: Vec<_> =
            all.filter_map(|(multiple, half)| Some((self.order.place(multiple, half)?, (multiple, half)))).collect();
        tests.sort_by_key(|(place, _)| *place);
        tests.into_iter().map(|(_, test)| test).collect()
    }

    /// The two probes that measure.
    pub const fn two(&self) -> [Option<Terminal>; 2] {
        [self.probes[0], self.probes[1]]
    }

    /// Both tips held together, or on one terminal.
    pub fn tips_together(&self) -> bool {
        self.probes[0] == self.probes[1]
    }

    /// Ω between the tips, with the leads, and a contact that settles when it is tried again.
    fn raw_ohm(&self, grid: &Grid, meter: &mut Meter, tried: u32) -> Option<f64> {
        let between = match self.two() {
            [Some(a), Some(b)] if a != b => grid.ohm(a, b)?,
            [None, None] | [Some(_), Some(_)] => 0.0,
            _ => return None,
        };
        // Clips at the board hold firmly; an accessory is felt through a plug or a probe.
        let felt = self.two().iter().any(|at| matches!(at, Some(Terminal::Point { .. })));
        let bounce = if felt && !self.tips_together() { BOUNCE_OHM * meter.share() * meter.share() } else { 0.0 };
        Some((between + self.leads.ohm() + bounce / f64::from((1 + tried).pow(2))) * self.gain)
    }

    /// What the low range shows; `tried` is how often it was pressed at this place before.
    pub fn low_ohm(&self, grid: &Grid, meter: &mut Meter, tried: u32) -> MeterDisplay {
        let Some(raw) = self.raw_ohm(grid, meter, tried) else { return MeterDisplay::OverOhm };
        let off = self.null.map_or(0.0, |(_, ohm)| ohm);
        if raw > LOW_RANGE_OHM {
            return MeterDisplay::OverOhm;
        }
        MeterDisplay::Ohm(meter.clipped(raw - off))
    }

    /// What a press of the null button takes off from now on, Ω; `None`: too much to be leads, it refuses.
    pub fn nulls(&self, grid: &Grid, meter: &mut Meter) -> Option<f64> {
        self.raw_ohm(grid, meter, 0).filter(|ohm| *ohm < MOST_LEADS_OHM)
    }

    /// What the insulation range shows on a grid that was made for its volts.
    pub fn insulation(&self, grid: &Grid, meter: &mut Meter) -> MeterDisplay {
        let ohm = match self.two() {
            [Some(a), Some(b)] if a != b => grid.ohm(a, b),
            [None, None] | [Some(_), Some(_)] => Some(0.0),
            _ => None,
        };
        let shows = self.gain * if self.tired { TIRED_SHARE } else { 1.0 };
        let Some(megohm) = ohm.map(|ohm| ohm * shows / 1e6).filter(|megohm| *megohm <= OVER_MEGOHM) else {
            return MeterDisplay::OverMegohm;
        };
        let places = if megohm < 10.0 { 2 } else { usize::from(megohm < 100.0) };
        MeterDisplay::Megohm(shown(megohm * meter.between(1.0 - INSULATION_SCATTER, 1.0 + INSULATION_SCATTER), places))
    }

    /// What the indicator shows.
    pub fn volts(&self, grid: &Grid, meter: &mut Meter) -> MeterDisplay {
        match self.two() {
            [Some(a), Some(b)] if a != b => {
                let volts = grid.energised().between(a, b);
                let wobble = if volts > DEAD_V { meter.between(-1.5, 1.5) } else { 0.0 };
                MeterDisplay::Volts(shown(volts + wobble, 0))
            }
            [None, None] | [Some(_), Some(_)] => MeterDisplay::Volts(Decimal::ZERO),
            _ => MeterDisplay::Open,
        }
    }

    /// What the loop range shows, on a live circuit.
    pub fn loop_ohm(&self, grid: &Grid, meter: &mut Meter) -> MeterDisplay {
        let [Some(a), Some(b)] = self.two() else { return MeterDisplay::Open };
        if a == b || grid.energised().between(a, b) < LOOP_V {
            return MeterDisplay::NoSupply;
        }
        let Some(ohm) = grid.ohm(a, b) else { return MeterDisplay::NoSupply };
        // With its third lead on neutral the quiet test needs less of the earth.
        let neutral = |at: Option<Terminal>| {
            matches!(
                at,
                Some(Terminal::Point { core: Wire::N, .. } | Terminal::Bar(Wire::N) | Terminal::SubBar(_, Wire::N))
            )
        };
        let third = self.leads == Leads::Three && neutral(self.probes[2]);
        let scatter = match (self.function == Function::QuietLoop, third) {
            (true, true) => QUIET_SCATTER_OHM / 2.0,
            (true, false) => QUIET_SCATTER_OHM,
            (false, _) => LOOP_SCATTER_OHM,
        };
        MeterDisplay::Loop(shown(ohm * self.gain + meter.between(-scatter, scatter), 2))
    }

    /// The three probes, where three leads are in.
    fn three(&self) -> Option<[Terminal; 3]> {
        match self.probes {
            [Some(a), Some(b), Some(c)] if self.leads == Leads::Three => Some([a, b, c]),
            _ => None,
        }
    }

    /// In which order the lines follow each other.
    pub fn sequence(&self, grid: &Grid) -> MeterDisplay {
        let Some(three) = self.three() else { return MeterDisplay::WantsThird };
        grid.energised().turns(three).map_or(MeterDisplay::NoThree, MeterDisplay::Turns)
    }

    /// What an electrode has to the mass of earth: it, the spike between, the one far off.
    pub fn electrode(&self, grid: &Grid, meter: &mut Meter) -> MeterDisplay {
        let Some([rod, between, far]) = self.three() else { return MeterDisplay::WantsThird };
        let spikes = [between, far].iter().all(|at| matches!(at, Terminal::Spike(_)));
        if !spikes || between == far {
            return MeterDisplay::Open;
        }
        let Some(ohm) = grid.ohm(rod, far) else { return MeterDisplay::Open };
        MeterDisplay::Ohm(shown(ohm * self.gain * meter.between(0.98, 1.02), 1))
    }
}
