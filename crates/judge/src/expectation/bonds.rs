//! Bands of bonds and of the earthing conductor, Ω.

use crate::expectation::{Band, Unknown};
use proof_standard::limits::conductors;
use proof_standard::limits::conductors::mohm_per_m;
use proof_standard::limits::earthing::{BOND_CLAMPS, BOND_LENGTH_WITHIN, bond_reading};
use proof_standard::quantity::SquareMillimetres;

/// The band of the earthing conductor: its length is seldom known, so it is held to what a bond of
/// ordinary length is.
pub fn earthing_band() -> Band {
    let limit = proof_standard::limits::earthing::BOND_LIMIT.get();
    Band {
        low: 0.0,
        high: Some(limit),
        centre: None,
        basis: format!("held to {limit} like a bond of ordinary length"),
        source: proof_standard::limits::earthing::BOND_READING,
    }
}

/// The band of a bond, from its size and length.
///
/// # Errors
/// What would have to be known first.
pub fn bond_band(bond: &proof_job::installation::Bond) -> Result<Band, Unknown> {
    band_of_size(bond, bond.mm2)
}

/// What a bond may be held to: the copper of its own size, but never of less than it should have.
///
/// # Errors
/// What would have to be known first.
pub fn bond_at_least(bond: &proof_job::installation::Bond, least_mm2: Option<f64>) -> Result<Band, Unknown> {
    let own = bond.mm2.map(SquareMillimetres::get);
    let larger = own.zip(least_mm2).map(|(own, least)| own.max(least)).or(own);
    band_of_size(bond, larger.and_then(|mm2| SquareMillimetres::new(mm2).ok()))
}

fn band_of_size(bond: &proof_job::installation::Bond, mm2: Option<SquareMillimetres>) -> Result<Band, Unknown> {
    let (Some(mm2), Some(length)) = (mm2, bond.length_m) else {
        return Err(Unknown::BondSize);
    };
    let per_metre =
        mohm_per_m(proof_standard::conductor::Material::Copper, mm2).map_err(|_| Unknown::BondSizeNotInTable)?;
    let (expected, limit) = bond_reading(per_metre, length);
    Ok(Band {
        low: (expected * (1.0 - *BOND_LENGTH_WITHIN) - BOND_CLAMPS.get()).max(0.0),
        high: Some((expected + BOND_CLAMPS.get()).max(limit)),
        centre: Some(expected),
        basis: format!("{} m of {} mm²: {expected:.3}", length.get(), mm2.get()),
        source: conductors::RESISTANCE,
    })
}
