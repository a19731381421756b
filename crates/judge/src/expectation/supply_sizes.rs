//! The least earthing conductor and main bond that a supply wants.

use proof_job::installation::{Installation, OwnLimit};
use proof_standard::limits::earthing::{
    LARGEST_BOND_MM2, LEAST_BOND_MM2, TT_EARTHING_MM2, earthing_and_bonding, next_standard_size,
};
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::approximate;

/// The earthing conductor and the bonds that a supply wants, mm²; nothing where its tails are not said.
fn wanted(installation: &Installation) -> Option<(f64, f64)> {
    let supply = &installation.supply;
    let tails = supply.tails_mm2?.get();
    let neutral = supply.neutral_mm2.map_or(tails, proof_standard::quantity::SquareMillimetres::get);
    let (mut earthing, mut bonding) = earthing_and_bonding(supply.system, tails, neutral);
    if supply.system == EarthingSystem::TnCS {
        let neutral_mm2 = supply.neutral_mm2.or(supply.tails_mm2)?;
        let own = installation.own_row(&OwnLimit::MainBond { neutral_mm2 });
        bonding = own.map_or(bonding, |row| approximate(row.value));
        // Under PME the earthing conductor is no smaller than the bond (544.1.1).
        earthing = earthing.max(bonding);
    }
    // The fault current of an electrode is small: the equation gives less than the least that is laid.
    Some((if supply.system == EarthingSystem::Tt { *TT_EARTHING_MM2 } else { earthing }, bonding))
}

/// The least earthing conductor and main bond that a supply wants, mm²; nothing where its tails are not said.
pub fn least_earthing_and_bond(installation: &Installation) -> Option<(f64, f64)> {
    let (earthing, _) = wanted(installation)?;
    Some((earthing, least_bond(installation)?))
}

/// The least main bond of a supply, mm².
pub fn least_bond(installation: &Installation) -> Option<f64> {
    let (_, bonding) = wanted(installation)?;
    let tt = installation.supply.system == EarthingSystem::Tt;
    let earthing = installation.supply.earthing_mm2.map_or(0.0, proof_standard::quantity::SquareMillimetres::get);
    // Half of the conductor that is *required* (544.1.1): one laid thicker than Table 54.7 asks for nothing more.
    let half = || next_standard_size(earthing / 2.0).unwrap_or(bonding);
    let most = bonding.clamp(*LEAST_BOND_MM2, *LARGEST_BOND_MM2);
    Some(if tt { half().clamp(*LEAST_BOND_MM2, most) } else { bonding })
}
