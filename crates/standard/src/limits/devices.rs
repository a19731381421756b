//! Overcurrent devices: maximum Zs, disconnection times, breaking capacity.
//!
//! Breakers by formula, fuses by table. Limits are compared as printed: breakers rounded half
//! up to 2 decimals, fuses as in the tables. Type D at 5 s keeps its 0.4 s value (safe side).

use crate::limits::supply::{C_MIN, EarthingSystem, U0_V};
use crate::limits::{LimitRow, Source};
use crate::quantity::{Amps, round_half_up};
use rust_decimal::{Decimal, dec};
use serde::{Deserialize, Serialize};

sources! {
    BREAKERS: "maximum Zs of circuit-breakers" = Source::published("BS 7671", "Table 41.3", "Zs = U0·Cmin/Ia, rounded half up to 2 decimals");
    FUSES_04: "maximum Zs of fuses at 0.4 s" = Source::memory("BS 7671", "Table 41.2", "0.4 s");
    FUSES_5: "maximum Zs of fuses at 5 s" = Source::memory("BS 7671", "Table 41.4", "5 s");
    TIMES: "disconnection times" = Source::published("BS 7671", "Table 41.1, 411.3.2.2 to 411.3.2.4", "U0 230 V a.c.");
    EIGHTY: "80 % of the printed Zs" = Source::published("BS 7671", "Appendix 3; On-Site Guide Appendix B", "measured cold: 0.8 × printed value");
    CAPACITY_BREAKERS: "breaking capacity of breakers" = Source::memory("BS EN 60898, BS EN 61009", "rated short-circuit capacity", "as marked, 6 or 10 kA usual");
    CAPACITY_FUSES: "breaking capacity of fuses" = Source::memory("BS 88, BS 1361, BS 1362, BS 3036", "rated breaking capacity", "");
    SETTINGS: "breakers by settings" = Source::memory("BS EN 60947-2", "8.3.3.1.2", "trips at once from 1.2 times its setting on");
    AT_ONCE: "breakers that trip at once" = Source::memory("BS EN 60898-1", "instantaneous tripping", "within 0.1 s");
    REWIRABLE: "rewirable fuses and cables" = Source::memory("BS 7671", "433.1.202", "BS 3036: In ≤ 0.725 Iz");
    CONSUMER_UNIT: "conditional rating of a consumer unit" = Source::memory("BS EN 61439-3", "conditional rating", "consumer unit, 16 kA");
}

/// Product standard of an overcurrent device.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub enum DeviceStandard {
    /// Circuit-breaker.
    #[serde(rename = "BS EN 60898")]
    BsEn60898,
    /// Residual current breaker with overcurrent protection.
    #[serde(rename = "BS EN 61009")]
    BsEn61009,
    /// Circuit-breaker that trips by its settings.
    #[serde(rename = "BS EN 60947-2")]
    BsEn60947Part2,
    /// gG fuse.
    #[serde(rename = "BS 88-2")]
    Bs88Part2,
    /// Domestic cartridge fuse.
    #[serde(rename = "BS 88-3")]
    Bs88Part3,
    /// Rewirable fuse.
    #[serde(rename = "BS 3036")]
    Bs3036,
    /// Plug-top fuse.
    #[serde(rename = "BS 1362")]
    Bs1362,
}

impl DeviceStandard {
    /// In the order offered.
    pub const ALL: [Self; 7] = [
        Self::BsEn60898,
        Self::BsEn61009,
        Self::BsEn60947Part2,
        Self::Bs88Part2,
        Self::Bs88Part3,
        Self::Bs3036,
        Self::Bs1362,
    ];

    /// Those whose maximum Zs stands in the tables.
    pub const TABLED: [Self; 6] =
        [Self::BsEn60898, Self::BsEn61009, Self::Bs88Part2, Self::Bs88Part3, Self::Bs3036, Self::Bs1362];

    /// Name as printed.
    pub const fn name(self) -> &'static str {
        match self {
            Self::BsEn60898 => "BS EN 60898",
            Self::BsEn61009 => "BS EN 61009",
            Self::BsEn60947Part2 => "BS EN 60947-2",
            Self::Bs88Part2 => "BS 88-2",
            Self::Bs88Part3 => "BS 88-3",
            Self::Bs3036 => "BS 3036",
            Self::Bs1362 => "BS 1362",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::BsEn60898 => "BS EN 60898 circuit-breaker",
            Self::BsEn61009 => "BS EN 61009 RCBO",
            Self::BsEn60947Part2 => "BS EN 60947-2 circuit-breaker, by its settings",
            Self::Bs88Part2 => "BS 88-2 fuse",
            Self::Bs88Part3 => "BS 88-3 fuse",
            Self::Bs3036 => "BS 3036 fuse",
            Self::Bs1362 => "BS 1362 fuse",
        }
    }

    /// Parses the printed name.
    pub fn from_name(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|standard| standard.name() == name)
    }

    /// Whether it is a fuse.
    pub const fn is_fuse(self) -> bool {
        matches!(self, Self::Bs88Part2 | Self::Bs88Part3 | Self::Bs3036 | Self::Bs1362)
    }

    /// Circuit-breakers and RCBOs have a type (B, C, D); fuses do not.
    pub const fn is_breaker(self) -> bool {
        matches!(self, Self::BsEn60898 | Self::BsEn61009)
    }

    /// Breaking capacities that such a device is made in, kA (from memory).
    pub const fn capacities_ka(self) -> &'static [Decimal] {
        match self {
            Self::BsEn60898 | Self::BsEn61009 => {
                const { &[dec!(1.5), dec!(3), dec!(4.5), dec!(6), dec!(10), dec!(15), dec!(20), dec!(25)] }
            }
            // As marked.
            Self::BsEn60947Part2 => &[],
            Self::Bs88Part2 => const { &[dec!(80)] },
            Self::Bs88Part3 => const { &[dec!(16), dec!(31.5)] },
            Self::Bs3036 => const { &[dec!(1), dec!(2), dec!(4)] },
            Self::Bs1362 => const { &[dec!(6)] },
        }
    }

    /// Whether a device of the standard may be marked with a breaking capacity: no more than the largest
    /// that it is made with, and a breaker only with one of the list; what is as marked always.
    pub fn may_be_marked(self, ka: Decimal) -> bool {
        let made = self.capacities_ka();
        match made.last() {
            None => true,
            Some(_) if self.is_breaker() => made.contains(&ka.normalize()),
            Some(most) => ka <= *most,
        }
    }

    /// Ratings in the tables, A (breakers: preferred ratings of the product standards).
    pub fn ratings_a(self) -> Vec<Decimal> {
        if self.is_breaker() {
            return BREAKER_RATINGS_A.to_vec();
        }
        let mut all: Vec<Decimal> =
            self.fuse_rows(false).iter().chain(self.fuse_rows(true)).map(|(rating, _)| *rating).collect();
        all.sort_unstable();
        all.dedup();
        all
    }

    const fn fuse_rows(self, five_seconds: bool) -> &'static [(Decimal, Decimal)] {
        match (self, five_seconds) {
            (Self::Bs88Part2, false) => &BS88_2_04,
            (Self::Bs88Part2, true) => &BS88_2_5,
            (Self::Bs88Part3, false) => &BS88_3_04,
            (Self::Bs88Part3, true) => &BS88_3_5,
            (Self::Bs3036, false) => &BS3036_04,
            (Self::Bs3036, true) => &BS3036_5,
            (Self::Bs1362, false) => &BS1362_04,
            (Self::Bs1362, true) => &BS1362_5,
            (Self::BsEn60898 | Self::BsEn61009 | Self::BsEn60947Part2, _) => &[],
        }
    }
}

/// Breaking capacities of devices met in older boards, kA (from memory).
pub const OLDER_CAPACITIES_KA: LimitRow<[(&str, Decimal); 2]> =
    LimitRow::new([("BS 1361 type 1", dec!(16.5)), ("BS 1361 type 2", dec!(33))], CAPACITY_FUSES);

/// Conditional rating of a consumer unit to BS EN 61439-3, kA (from memory).
pub const CONSUMER_UNIT_KA: LimitRow<Decimal> = LimitRow::new(dec!(16), CONSUMER_UNIT);

/// Preferred ratings of breakers, A.
pub const BREAKER_RATINGS_A: [Decimal; 24] = [
    dec!(1),
    dec!(2),
    dec!(3),
    dec!(4),
    dec!(5),
    dec!(6),
    dec!(8),
    dec!(10),
    dec!(13),
    dec!(15),
    dec!(16),
    dec!(20),
    dec!(25),
    dec!(30),
    dec!(32),
    dec!(35),
    dec!(40),
    dec!(45),
    dec!(50),
    dec!(60),
    dec!(63),
    dec!(80),
    dec!(100),
    dec!(125),
];

type FuseRow = (Decimal, Decimal);

const BS88_2_04: [FuseRow; 8] = [
    (dec!(2), dec!(33.1)),
    (dec!(4), dec!(15.6)),
    (dec!(6), dec!(7.80)),
    (dec!(10), dec!(4.65)),
    (dec!(16), dec!(2.43)),
    (dec!(20), dec!(1.68)),
    (dec!(25), dec!(1.29)),
    (dec!(32), dec!(0.99)),
];

const BS88_2_5: [FuseRow; 16] = [
    (dec!(2), dec!(44)),
    (dec!(4), dec!(21)),
    (dec!(6), dec!(12.0)),
    (dec!(10), dec!(6.8)),
    (dec!(16), dec!(4.0)),
    (dec!(20), dec!(2.8)),
    (dec!(25), dec!(2.2)),
    (dec!(32), dec!(1.7)),
    (dec!(40), dec!(1.3)),
    (dec!(50), dec!(0.99)),
    (dec!(63), dec!(0.78)),
    (dec!(80), dec!(0.55)),
    (dec!(100), dec!(0.42)),
    (dec!(125), dec!(0.32)),
    (dec!(160), dec!(0.27)),
    (dec!(200), dec!(0.18)),
];

const BS88_3_04: [FuseRow; 4] =
    [(dec!(5), dec!(9.93)), (dec!(16), dec!(2.30)), (dec!(20), dec!(1.93)), (dec!(32), dec!(0.91))];
const BS88_3_5: [FuseRow; 8] = [
    (dec!(5), dec!(14.6)),
    (dec!(16), dec!(3.9)),
    (dec!(20), dec!(3.2)),
    (dec!(32), dec!(1.6)),
    (dec!(45), dec!(1.0)),
    (dec!(63), dec!(0.68)),
    (dec!(80), dec!(0.51)),
    (dec!(100), dec!(0.38)),
];

const BS3036_04: [FuseRow; 4] =
    [(dec!(5), dec!(9.10)), (dec!(15), dec!(2.43)), (dec!(20), dec!(1.68)), (dec!(30), dec!(1.04))];
const BS3036_5: [FuseRow; 7] = [
    (dec!(5), dec!(16.8)),
    (dec!(15), dec!(5.08)),
    (dec!(20), dec!(3.64)),
    (dec!(30), dec!(2.51)),
    (dec!(45), dec!(1.51)),
    (dec!(60), dec!(1.07)),
    (dec!(100), dec!(0.51)),
];

const BS1362_04: [FuseRow; 2] = [(dec!(3), dec!(15.6)), (dec!(13), dec!(2.30))];

const BS1362_5: [FuseRow; 2] = [(dec!(3), dec!(22.0)), (dec!(13), dec!(3.64))];

/// Instantaneous tripping characteristic of a breaker.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub enum TripType {
    /// Trips at 3 to 5 times its rating.
    B,
    /// Trips at 5 to 10 times its rating.
    C,
    /// Trips at 10 to 20 times its rating.
    D,
}

impl TripType {
    /// In the order offered.
    pub const ALL: [Self; 3] = [Self::B, Self::C, Self::D];

    /// Ia/In: the multiple of its rating at which it certainly trips at once.
    pub const fn multiple(self) -> Decimal {
        match self {
            Self::B => dec!(5),
            Self::C => dec!(10),
            Self::D => dec!(20),
        }
    }

    /// The letter.
    pub const fn letter(self) -> &'static str {
        match self {
            Self::B => "B",
            Self::C => "C",
            Self::D => "D",
        }
    }

    /// Parses the letter.
    pub fn from_letter(letter: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|t| t.letter().eq_ignore_ascii_case(letter))
    }
}

/// Time within which a fault must be disconnected.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub enum Disconnection {
    /// 0.2 s: TT final circuits.
    #[serde(rename = "0.2")]
    S0_2,
    /// 0.4 s: TN final circuits.
    #[serde(rename = "0.4")]
    S0_4,
    /// 1 s: TT distribution circuits.
    #[serde(rename = "1")]
    S1,
    /// 5 s: TN distribution circuits.
    #[serde(rename = "5")]
    S5,
}

impl Disconnection {
    /// In rising order.
    pub const ALL: [Self; 4] = [Self::S0_2, Self::S0_4, Self::S1, Self::S5];

    /// The commonest first.
    pub const USUAL: [Self; 4] = [Self::S0_4, Self::S5, Self::S0_2, Self::S1];

    /// Seconds as files and forms write them.
    pub const fn text(self) -> &'static str {
        match self {
            Self::S0_2 => "0.2",
            Self::S0_4 => "0.4",
            Self::S1 => "1",
            Self::S5 => "5",
        }
    }

    /// Seconds.
    pub const fn seconds(self) -> Decimal {
        match self {
            Self::S0_2 => dec!(0.2),
            Self::S0_4 => dec!(0.4),
            Self::S1 => dec!(1),
            Self::S5 => dec!(5),
        }
    }
}

/// The time that Table 41.1 and 411.3.2.2–4 ask for: final circuits up to 63 A with
/// socket-outlets and up to 32 A feeding fixed equipment only; otherwise the longer time.
pub fn disconnection_time(system: EarthingSystem, rating_a: Amps, has_sockets: bool, is_final: bool) -> Disconnection {
    let short = is_final && rating_a <= Amps(if has_sockets { dec!(63) } else { dec!(32) });
    match (system, short) {
        (EarthingSystem::Tt, true) => Disconnection::S0_2,
        (EarthingSystem::Tt, false) => Disconnection::S1,
        (_, true) => Disconnection::S0_4,
        (_, false) => Disconnection::S5,
    }
}

/// Why a device has no maximum Zs in the tables.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NoMaximum {
    /// A breaker needs its type.
    #[error("a {0} breaker has a type: give B, C or D")]
    TypeWanted(&'static str),
    /// A fuse has none.
    #[error("a {0} fuse has no type: leave it out (types B, C, D belong to BS EN 60898 and BS EN 61009)")]
    TypeOnFuse(&'static str),
    /// A breaker by settings needs the setting.
    #[error("a {0} breaker trips by its setting: give the current at which it is set to trip at once")]
    SettingWanted(&'static str),
    /// The rating stands in no table.
    #[error("{device} has no {given} A row at {seconds} s: the table holds {allowed} A")]
    Rating {
        /// The product standard.
        device: &'static str,
        /// The rating asked for, A.
        given: Decimal,
        /// The disconnection time, s.
        seconds: Decimal,
        /// Ratings that have a row.
        allowed: String,
    },
    /// The tables for fuses hold 0.4 s and 5 s only.
    #[error(
        "{device} fuses have no printed maximum at {seconds} s (Tables 41.2 and 41.4 hold 0.4 s and 5 s): give 0.4 or 5, or protect by RCD"
    )]
    FuseTime {
        /// The product standard.
        device: &'static str,
        /// The disconnection time, s.
        seconds: Decimal,
    },
}

/// A maximum earth fault loop impedance.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MaximumZs {
    /// As printed, Ω.
    pub printed_ohm: Decimal,
    /// 0.8 × printed, rounded half up to 2 decimals, Ω.
    pub eighty_percent_ohm: Decimal,
    /// Current that causes automatic disconnection, A (breakers).
    pub ia_a: Option<Amps>,
    /// Where the printed value stands.
    pub source: Source,
}

/// Maximum Zs of a device at a disconnection time.
///
/// # Errors
/// [`NoMaximum`] when the tables hold none, saying what they hold.
pub fn maximum_zs(
    standard: DeviceStandard,
    trip: Option<TripType>,
    rating_a: Amps,
    time: Disconnection,
) -> Result<MaximumZs, NoMaximum> {
    let device = standard.name();
    let unknown = |allowed: Vec<Decimal>| NoMaximum::Rating {
        device,
        given: rating_a.get().normalize(),
        seconds: time.seconds(),
        allowed: allowed.iter().map(ToString::to_string).collect::<Vec<_>>().join(", "),
    };
    if standard == DeviceStandard::BsEn60947Part2 {
        return Err(NoMaximum::SettingWanted(device));
    }
    let (printed_ohm, ia_a, source) = if standard.is_breaker() {
        let trip = trip.ok_or(NoMaximum::TypeWanted(device))?;
        if !BREAKER_RATINGS_A.contains(&rating_a.get()) {
            return Err(unknown(BREAKER_RATINGS_A.to_vec()));
        }
        let ia = trip.multiple() * rating_a.get();
        (round_half_up(*U0_V * *C_MIN / ia, 2), Some(Amps(ia)), BREAKERS)
    } else {
        if trip.is_some() {
            return Err(NoMaximum::TypeOnFuse(device));
        }
        let (rows, source) = match time {
            Disconnection::S0_4 => (standard.fuse_rows(false), FUSES_04),
            Disconnection::S5 => (standard.fuse_rows(true), FUSES_5),
            _ => return Err(NoMaximum::FuseTime { device, seconds: time.seconds() }),
        };
        let row = rows.iter().find(|(rating, _)| *rating == rating_a.get());
        let (_, printed) = row.ok_or_else(|| unknown(rows.iter().map(|(rating, _)| *rating).collect()))?;
        (*printed, None, source)
    };
    Ok(MaximumZs { printed_ohm, eighty_percent_ohm: eighty_percent(printed_ohm), ia_a, source })
}

/// Maximum Zs of a breaker to BS EN 60947-2 by the current at which it is set to trip at once: it trips
/// for certain at 1.2 times that (from memory).
pub fn maximum_zs_by_setting(magnetic_a: Amps) -> MaximumZs {
    let ia = magnetic_a.get() * *SETTING_TOLERANCE;
    let printed_ohm = round_half_up(*U0_V * *C_MIN / ia, 2);
    MaximumZs {
        printed_ohm,
        eighty_percent_ohm: eighty_percent(printed_ohm),
        ia_a: Some(Amps(ia)),
        source: SETTING_TOLERANCE.source,
    }
}

/// A breaker to BS EN 60947-2 trips at once from this many times its setting on.
pub const SETTING_TOLERANCE: LimitRow<Decimal> = LimitRow::new(dec!(1.2), SETTINGS);

/// A breaker that trips at once does so within this, s.
pub const AT_ONCE_S: LimitRow<f64> = LimitRow::new(0.1, AT_ONCE);

/// A fuse to BS 3036 carries its cable only to this share: In ≤ 0.725 Iz.
pub const REWIRABLE_FACTOR: LimitRow<Decimal> = LimitRow::new(dec!(0.725), REWIRABLE);

/// 0.8 × a printed value, rounded half up to 2 decimals.
pub fn eighty_percent(printed: Decimal) -> Decimal {
    round_half_up(dec!(0.8) * printed, 2)
}

/// Source of a device's breaking capacity.
pub const fn breaking_capacity_source(standard: DeviceStandard) -> Source {
    if standard.is_fuse() { CAPACITY_FUSES } else { CAPACITY_BREAKERS }
}

#[cfg(test)]
#[path = "devices_tests.rs"]
mod tests;
