//! Earthing and bonding conductors: sizes by table and by the adiabatic equation; electrodes.

use crate::limits::supply::EarthingSystem;
use crate::limits::{LimitRow, Source};
use crate::quantity::{Metres, Milliamps, Ohms, round_half_up};
use rust_decimal::{Decimal, dec};

sources! {
    TABLE_54_7: "protective conductor by table" = Source::published("BS 7671", "Table 54.7", "same material as the line conductor");
    BONDING: "main bonding TN-S and TT" = Source::published("BS 7671", "544.1.1", "TN-S and TT: half the earthing conductor, 6 to 25 mm² copper");
    TABLE_54_8: "main bonding PME" = Source::memory("BS 7671", "Table 54.8", "PME: by the neutral of the supply");
    PME_EARTHING: "earthing conductor PME" = Source::memory("BS 7671", "544.1.1", "PME: earthing conductor not smaller than the main bond");
    SEPARATE_CPC: "separate CPC" = Source::memory("BS 7671", "543.1.1", "separate CPC: 2.5 mm² protected, 4 mm² not");
    ADIABATIC: "adiabatic equation" = Source::published("BS 7671", "543.1.3", "S = √(I²t)/k");
    K: "factor k" = Source::memory("BS 7671", "Tables 54.2 and 54.3", "copper");
    USUAL: "usual pairs of breaker and protective conductor" = Source::memory("On-Site Guide", "Table B7", "breakers of energy-limiting class 3, fault level up to 3 kA and up to 6 kA");
    SUPPLEMENTARY_READING: "reading of a supplementary bond" = Source::memory("BS 7671", "415.2.2", "R ≤ 50 V / Ia: IΔn of an RCD, else the current that disconnects within 5 s");
    SUPPLEMENTARY: "supplementary bonding conductor" = Source::memory("BS 7671", "544.2", "supplementary bonding: 2.5 mm² protected, 4 mm² not");
    BURIED: "buried earthing conductor" = Source::memory("BS 7671", "Table 54.1", "buried earthing conductor");
    BOND_READING: "bond reading" = Source::practice("bond of ordinary length: 0.05 Ω or less, what 27 m of 10 mm² gives");
    LONG_BOND: "long bond reading" = Source::practice("long bond: 1.1 × its own copper + 0.01 Ω");
    TOUCH: "touch voltage" = Source::published("BS 7671", "411.5.3", "50 V / IΔn");
    ELECTRODE: "RCD loop and electrode" = Source::published("BS 7671", "411.5.3, Table 41.5", "Zs ≤ 50 V / IΔn as printed; above 200 Ω may not be stable");
}

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
        (table, standard((table / 2.0).clamp(*LEAST_BOND_MM2, *LARGEST_BOND_MM2)))
    }
}

/// Least main bonding conductor, TN-S and TT, mm² copper (544.1.1).
pub const LEAST_BOND_MM2: LimitRow<f64> = LimitRow::new(6.0, BONDING);

/// A main bonding conductor need not exceed this, TN-S and TT, mm² copper (544.1.1).
pub const LARGEST_BOND_MM2: LimitRow<f64> = LimitRow::new(25.0, BONDING);

/// Least separate CPC with mechanical protection, mm² (543.1.1, from memory).
pub const SEPARATE_CPC_PROTECTED_MM2: LimitRow<f64> = LimitRow::new(2.5, SEPARATE_CPC);

/// Least separate CPC without mechanical protection, mm² (543.1.1, from memory).
pub const SEPARATE_CPC_UNPROTECTED_MM2: LimitRow<f64> = LimitRow::new(4.0, SEPARATE_CPC);

/// Factor k of copper by insulation and place (from memory).
pub const K_COPPER: LimitRow<[(&str, f64); 4]> = LimitRow::new(
    [
        ("PVC, in a cable up to 300 mm²", 115.0),
        ("PVC, separate", 143.0),
        ("XLPE, in a cable", 143.0),
        ("XLPE, separate", 176.0),
    ],
    K,
);

/// Factor k of a copper protective conductor, by the temperature that the insulation beside it works at
/// and whether it stands apart (from memory).
pub fn k_copper(insulation_c: f64, separate: bool) -> LimitRow<f64> {
    let row = match (insulation_c > 70.0, separate) {
        (false, false) => 0,
        (false, true) => 1,
        (true, false) => 2,
        (true, true) => 3,
    };
    LimitRow::new(K_COPPER.value[row].1, K)
}

/// The least protective conductor behind a breaker of class 3: up to this fault level, kA, and this
/// rating, A, for type B and type C, mm² (from memory).
pub const USUAL_PAIRS: LimitRow<[(f64, f64, f64, f64); 4]> =
    LimitRow::new([(3.0, 16.0, 1.0, 1.5), (3.0, 40.0, 1.5, 1.5), (6.0, 16.0, 2.5, 2.5), (6.0, 40.0, 2.5, 2.5)], USUAL);

/// Least supplementary bonding conductor with mechanical protection, mm² (544.2, from memory).
pub const SUPPLEMENTARY_MM2: LimitRow<f64> = LimitRow::new(2.5, SUPPLEMENTARY);

/// Least earthing conductor of a TT installation, protected against corrosion and mechanically, mm²
/// copper (Table 54.1, from memory): its fault current is small.
pub const TT_EARTHING_MM2: LimitRow<f64> = LimitRow::new(2.5, BURIED);

/// Least buried earthing conductor by protection, copper then steel, mm² (Table 54.1, from
/// memory). `None`: by Table 54.7 or the adiabatic equation, at least 2.5.
pub const BURIED_MM2: LimitRow<[(&str, Option<f64>, f64); 3]> = LimitRow::new(
    [
        ("not protected against corrosion", Some(25.0), 50.0),
        ("protected against corrosion only", Some(16.0), 16.0),
        ("protected against corrosion and mechanically", None, 10.0),
    ],
    BURIED,
);

/// S = √(I²t)/k, mm².
///
/// ```
/// use proof_standard::limits::earthing::{adiabatic_mm2, next_standard_size};
/// // 1 kA for 0.1 s in copper with thermoplastic insulation beside it, k = 115.
/// let mm2 = adiabatic_mm2(1000.0, 0.1, 115.0);
/// assert!((mm2 - 2.75).abs() < 0.01);
/// assert_eq!(next_standard_size(mm2), Some(4.0));
/// ```
pub fn adiabatic_mm2(fault_a: f64, time_s: f64, k: f64) -> f64 {
    fault_a * time_s.sqrt() / k
}

/// A bond of ordinary length reads this or less.
pub const BOND_LIMIT: LimitRow<Ohms> = LimitRow::new(Ohms::literal(0.05), BOND_READING);

/// A long bond may read this many times its own copper …
pub const LONG_BOND_FACTOR: LimitRow<f64> = LimitRow::new(1.1, LONG_BOND);

/// … and this much for its clamps.
pub const LONG_BOND_EXTRA: LimitRow<Ohms> = LimitRow::new(Ohms::literal(0.01), LONG_BOND);

/// The length of a bond is known to this share.
pub const BOND_LENGTH_WITHIN: LimitRow<f64> = LimitRow::new(0.2, BOND_READING);

/// What the clamps of a bond add or take, as read.
pub const BOND_CLAMPS: LimitRow<Ohms> = LimitRow::new(Ohms::literal(0.02), BOND_READING);

/// What a bond should read and the most it may, from its size's mΩ/m and length.
pub fn bond_reading(mohm_per_m: f64, length: Metres) -> (f64, f64) {
    let expected = mohm_per_m * length.get() / 1000.0;
    (expected, bond_limit(expected).0)
}

/// The most that a bond may read whose own copper is so much, Ω, and where that comes from.
pub fn bond_limit(own_ohm: f64) -> (f64, Source) {
    if own_ohm > BOND_LIMIT.get() {
        (*LONG_BOND_FACTOR * own_ohm + LONG_BOND_EXTRA.get(), LONG_BOND)
    } else {
        (BOND_LIMIT.get(), BOND_READING)
    }
}

/// Touch voltage limit, V.
pub const TOUCH_V: LimitRow<Decimal> = LimitRow::new(dec!(50), TOUCH);

/// Electrode resistance above which it may not be stable, Ω.
pub const STABLE_ELECTRODE_OHM: LimitRow<Decimal> = LimitRow::new(dec!(200), ELECTRODE);

/// Maximum Zs by RCD: 50 V / IΔn, as printed in Table 41.5 (rounded half up to whole ohms).
pub fn rcd_maximum_zs(idn: Milliamps) -> LimitRow<Decimal> {
    LimitRow::new(round_half_up(*TOUCH_V / idn.amps().get(), 0), ELECTRODE)
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
            assert_eq!(*rcd_maximum_zs(Milliamps(idn)), ohm);
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
