//! Earthing and bonding conductors: sizes by table and by the adiabatic equation; electrodes.

use crate::quantity::{Metres, Ohms, round_half_up};
use crate::standard::Source;
use crate::standard::supply::EarthingSystem;
use rust_decimal::{Decimal, dec};

const TABLE_54_7: Source = Source::published("BS 7671", "Table 54.7", "same material as the line conductor");

const BONDING: Source =
    Source::published("BS 7671", "544.1.1", "TN-S and TT: half the earthing conductor, 6 to 25 mm² copper");
const TABLE_54_8: Source = Source::memory("BS 7671", "Table 54.8", "PME: by the neutral of the supply");
const PME_EARTHING: Source =
    Source::memory("BS 7671", "544.1.1", "PME: earthing conductor not smaller than the main bond");
const SEPARATE_CPC: Source = Source::memory("BS 7671", "543.1.1", "separate CPC: 2.5 mm² protected, 4 mm² not");
const ADIABATIC: Source = Source::published("BS 7671", "543.1.3", "S = √(I²t)/k");
const K: Source = Source::memory("BS 7671", "Tables 54.2 and 54.3", "copper");
const BURIED: Source = Source::memory("BS 7671", "Table 54.1", "buried earthing conductor");
const BOND_READING: Source = Source::practice("bond of ordinary length: 0.05 Ω or less, what 27 m of 10 mm² gives");
const LONG_BOND: Source = Source::practice("long bond: 1.1 × its own copper + 0.01 Ω");
const TOUCH: Source = Source::published("BS 7671", "411.5.3", "50 V / IΔn");
const ELECTRODE: Source =
    Source::published("BS 7671", "411.5.3, Table 41.5", "Zs ≤ 50 V / IΔn as printed; above 200 Ω may not be stable");

pub(super) const SOURCES: &[(&str, Source)] = &[
    ("protective conductor by table", TABLE_54_7),
    ("main bonding TN-S and TT", BONDING),
    ("main bonding PME", TABLE_54_8),
    ("earthing conductor PME", PME_EARTHING),
    ("separate CPC", SEPARATE_CPC),
    ("adiabatic equation", ADIABATIC),
    ("factor k", K),
    ("buried earthing conductor", BURIED),
    ("bond reading", BOND_READING),
    ("long bond reading", LONG_BOND),
    ("touch voltage", TOUCH),
    ("RCD loop and electrode", ELECTRODE),
];

/// Standard sizes in rising order, mm².
pub const STANDARD_SIZES_MM2: [f64; 20] = [
    1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0, 50.0, 70.0, 95.0, 120.0, 150.0, 185.0, 240.0, 300.0, 400.0, 500.0,
    630.0,
];

/// The least standard size not below `mm2`, up to 630 mm².
pub fn next_standard_size(mm2: f64) -> Option<f64> {
    STANDARD_SIZES_MM2.into_iter().find(|size| *size >= mm2 - 1e-9)
}

/// Protective conductor by Table 54.7, mm², before rounding up to a standard size.
pub fn by_table_54_7(line_mm2: f64) -> f64 {
    if line_mm2 <= 16.0 {
        line_mm2
    } else if line_mm2 <= 35.0 {
        16.0
    } else {
        line_mm2 / 2.0
    }
}

/// Main bonding conductor under PME by Table 54.8, by the neutral of the supply, mm².
pub fn by_table_54_8(neutral_mm2: f64) -> f64 {
    match neutral_mm2 {
        n if n <= 35.0 => 10.0,
        n if n <= 50.0 => 16.0,
        n if n <= 95.0 => 25.0,
        n if n <= 150.0 => 35.0,
        _ => 50.0,
    }
}

/// Earthing conductor and main bonding conductor for a supply, standard sizes, mm² copper.
pub fn earthing_and_bonding(system: EarthingSystem, line_mm2: f64, neutral_mm2: f64) -> (f64, f64) {
    let standard = |mm2: f64| next_standard_size(mm2).unwrap_or(630.0);
    let table = standard(by_table_54_7(line_mm2));
    if system == EarthingSystem::TnCS {
        let bonding = standard(by_table_54_8(neutral_mm2));
        (table.max(bonding), bonding)
    } else {
        (table, standard((table / 2.0).clamp(LEAST_BOND_MM2, LARGEST_BOND_MM2)))
    }
}

/// Least main bonding conductor, TN-S and TT, mm² copper (544.1.1).
pub const LEAST_BOND_MM2: f64 = 6.0;

/// A main bonding conductor need not exceed this, TN-S and TT, mm² copper (544.1.1).
pub const LARGEST_BOND_MM2: f64 = 25.0;

/// Least separate CPC with mechanical protection, mm² (543.1.1, from memory).
pub const SEPARATE_CPC_PROTECTED_MM2: f64 = 2.5;

/// Least separate CPC without mechanical protection, mm² (543.1.1, from memory).
pub const SEPARATE_CPC_UNPROTECTED_MM2: f64 = 4.0;

/// Factor k of copper by insulation and place (from memory).
pub const K_COPPER: [(&str, f64); 4] = [
    ("PVC, in a cable up to 300 mm²", 115.0),
    ("PVC, separate", 143.0),
    ("XLPE, in a cable", 143.0),
    ("XLPE, separate", 176.0),
];

/// Least buried earthing conductor by protection, copper then steel, mm² (Table 54.1, from
/// memory). `None`: by Table 54.7 or the adiabatic equation, at least 2.5.
pub const BURIED_MM2: [(&str, Option<f64>, f64); 3] = [
    ("not protected against corrosion", Some(25.0), 50.0),
    ("protected against corrosion only", Some(16.0), 16.0),
    ("protected against corrosion and mechanically", None, 10.0),
];

/// S = √(I²t)/k, mm².
pub fn adiabatic_mm2(fault_a: f64, time_s: f64, k: f64) -> f64 {
    fault_a * time_s.sqrt() / k
}

/// A bond of ordinary length reads this or less.
pub const BOND_LIMIT: Ohms = Ohms::literal(0.05);

/// A long bond may read this many times its own copper …
pub const LONG_BOND_FACTOR: f64 = 1.1;

/// … and this much for its clamps.
pub const LONG_BOND_EXTRA: Ohms = Ohms::literal(0.01);

/// What a bond should read and the most it may, from its size's mΩ/m and length.
pub fn bond_reading(mohm_per_m: f64, length: Metres) -> (f64, f64) {
    let expected = mohm_per_m * length.get() / 1000.0;
    (expected, bond_limit(expected).0)
}

/// The most that a bond may read whose own copper is so much, Ω, and where that comes from.
pub fn bond_limit(own_ohm: f64) -> (f64, Source) {
    if own_ohm > BOND_LIMIT.get() {
        (LONG_BOND_FACTOR * own_ohm + LONG_BOND_EXTRA.get(), LONG_BOND)
    } else {
        (BOND_LIMIT.get(), BOND_READING)
    }
}

/// Touch voltage limit, V.
pub const TOUCH_V: Decimal = dec!(50);

/// Electrode resistance above which it may not be stable, Ω.
pub const STABLE_ELECTRODE_OHM: Decimal = dec!(200);

/// Maximum Zs by RCD: 50 V / IΔn, as printed in Table 41.5 (rounded half up to whole ohms).
pub fn rcd_maximum_zs(idn_ma: Decimal) -> Decimal {
    round_half_up(TOUCH_V * dec!(1000) / idn_ma, 0)
}

/// Source of [`rcd_maximum_zs`].
pub const fn rcd_zs_source() -> Source {
    ELECTRODE
}

/// Source of [`K_COPPER`].
pub const fn k_source() -> Source {
    K
}

/// Source of [`BOND_LIMIT`].
pub const fn bond_source() -> Source {
    BOND_READING
}

/// Source of the limit of a long bond.
pub const fn long_bond_source() -> Source {
    LONG_BOND
}

/// Source of [`earthing_and_bonding`] for a system.
pub fn bonding_source(system: EarthingSystem) -> Source {
    if system == EarthingSystem::TnCS { TABLE_54_8 } else { BONDING }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// BS 7671 Table 41.5.
    #[test]
    fn rcd_loops_as_printed() {
        for (idn, ohm) in
            [(dec!(30), dec!(1667)), (dec!(100), dec!(500)), (dec!(300), dec!(167)), (dec!(500), dec!(100))]
        {
            assert_eq!(rcd_maximum_zs(idn), ohm);
        }
    }

    /// BS 7671 Tables 54.7 and 54.8, 544.1.1.
    #[test]
    fn sizes() {
        use EarthingSystem::{TnCS, TnS, Tt};
        assert_eq!(earthing_and_bonding(TnCS, 25.0, 25.0), (16.0, 10.0));
        assert_eq!(earthing_and_bonding(TnCS, 16.0, 70.0), (25.0, 25.0));
        assert_eq!(earthing_and_bonding(TnS, 25.0, 25.0), (16.0, 10.0));
        assert_eq!(earthing_and_bonding(TnS, 95.0, 95.0), (50.0, 25.0));
        assert_eq!(earthing_and_bonding(Tt, 10.0, 10.0), (10.0, 6.0));
        assert_eq!(earthing_and_bonding(Tt, 6.0, 6.0), (6.0, 6.0));
        assert_eq!(by_table_54_8(240.0), 50.0);
    }

    /// Common practice, no source: 27 m of 10 mm² copper is why bonds are held to 0.05 Ω.
    #[test]
    fn bonds() {
        let (expected, limit) = bond_reading(1.83, Metres::literal(27.0));
        assert!((expected - 0.04941).abs() < 1e-9 && limit == 0.05);
        let (expected, limit) = bond_reading(1.83, Metres::literal(40.0));
        assert!((limit - (1.1 * expected + 0.01)).abs() < 1e-12);
    }

    /// 543.1.3 by hand: 1000 A for 0.4 s through k = 115.
    #[test]
    fn adiabatic() {
        assert!((adiabatic_mm2(1000.0, 0.4, 115.0) - 5.4996).abs() < 1e-3);
        assert_eq!(next_standard_size(5.4996), Some(6.0));
        assert_eq!(next_standard_size(6.0), Some(6.0));
        assert_eq!(next_standard_size(631.0), None);
    }
}
