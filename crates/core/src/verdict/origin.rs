//! Readings at the origin, judged: bonds and the earthing conductor, Ze, fault current.

use crate::calc::electrode::electrode;
use crate::conductor::Pair;
use crate::expectation::{Band, bond_band, earthing_band};
use crate::installation::Installation;
use crate::quantity::{approximate, exact};
use crate::reading::entry::Field;
use crate::reading::{Settled, Step, Subject, Test, Value, keys};
use crate::standard::supply::{EarthingSystem, declared_ze_source};
use crate::standard::{devices, earthing};
use crate::supply_chain;
use crate::verdict::{Judgement, outcome};
use rust_decimal::Decimal;

/// Judges a reading at the origin.
pub fn judge_origin(installation: &Installation, settled: &Settled<'_>, step: &Step, value: &Value) -> Judgement {
    let mut judgement = Judgement::blank(true);
    match value {
        Value::Limitation(reason) | Value::NotApplicable(reason) => {
            judgement.not_judged("limit", reason);
            return judgement;
        }
        _ => {}
    }
    match (step.key.test, &step.key.subject) {
        (Test::BondContinuity, Subject::Bond { bond }) if step.field == Field::Continuity => {
            let Some(bond) = installation.supply.bonds.iter().find(|other| other.id == *bond) else { return judgement };
            let Some(ohm) = value.float() else {
                judgement.limit(false, || {
                    ["the bond is continuous".to_owned(), value.shown(), "not continuous".into(), String::new()]
                });
                return judgement;
            };
            let band = bond_band(bond);
            let own = band.as_ref().ok().and_then(|band| band.centre).unwrap_or(0.0);
            let (limit, source) = if own > earthing::BOND_LIMIT.get() {
                (earthing::LONG_BOND_FACTOR * own + earthing::LONG_BOND_EXTRA.get(), earthing::long_bond_source())
            } else {
                (earthing::BOND_LIMIT.get(), earthing::bond_source())
            };
            judgement.limit(ohm <= limit + 1e-9, || {
                ["bond ≤ its limit".to_owned(), format!("{ohm} ≤ {limit:.3}"), format!("{limit:.3} Ω"), source.line()]
            });
            match band {
                Ok(band) => judgement.against(&band, ohm, "Ω"),
                Err(why) => judgement.not_judged("expected", why),
            }
        }
        (Test::EarthingConductor, _) if step.field == Field::Continuity => {
            let band = earthing_band();
            let Some(ohm) = value.float() else {
                judgement.limit(false, || {
                    ["the earthing conductor is continuous".to_owned(), value.shown(), "open".into(), String::new()]
                });
                return judgement;
            };
            judgement.limit(true, || {
                let said = "continuous".to_owned();
                [
                    "conductors are continuous".into(),
                    format!("{ohm} Ω"),
                    said,
                    installation.edition.rules().continuity.line(),
                ]
            });
            judgement.against(&band, ohm, "Ω");
        }
        (Test::Ze, _) => {
            let Some(ze) = value.number() else {
                judgement.limit(false, || {
                    ["the earth path is complete".to_owned(), value.shown(), "no path".into(), String::new()]
                });
                return judgement;
            };
            let system = installation.supply.system;
            if system == EarthingSystem::Tt {
                by_electrode(&mut judgement, installation, None, ze);
                return judgement;
            }
            let declared = exact(system.declared_ze().get()).unwrap_or_default();
            judgement.limit(ze <= declared, || {
                [
                    "Ze ≤ declared maximum".to_owned(),
                    format!("{ze} ≤ {declared} ({})", system.name()),
                    format!("{declared} Ω"),
                    declared_ze_source().line(),
                ]
            });
            if ze > declared {
                judgement
                    .notes
                    .push("over the declared value: ask the distributor, or write down the explanation".into());
            }
            if ze == Decimal::ZERO {
                judgement.look_again("zero: no loop reads zero; was it the leads?".into());
            }
        }
        (Test::Electrode, subject) => match value.number() {
            Some(ra) => {
                let board = if let Subject::Board { board } = subject { Some(*board) } else { None };
                by_electrode(&mut judgement, installation, board, ra);
            }
            None => judgement.limit(false, || {
                ["the electrode is in contact with earth".to_owned(), value.shown(), "no path".into(), String::new()]
            }),
        },
        (Test::FaultCurrent, Subject::Supply) => fault_current(&mut judgement, installation, settled, step, value),
        (Test::FaultCurrent, Subject::Board { board }) => {
            at_board(&mut judgement, installation, settled, *board, value);
        }
        (Test::Zs | Test::LineNeutralLoop, _) => own_loop(&mut judgement, installation, settled, step, value),
        _ => outcome(&mut judgement, value, installation.edition.rules().polarity),
    }
    judgement
}

/// Ra of an electrode (or Ze of a TT supply) against 50 V / IΔn of the least sensitive RCD that relies on it.
fn by_electrode(judgement: &mut Judgement, installation: &Installation, board: Option<uuid::Uuid>, ra: Decimal) {
    let relies = |one: &&crate::installation::Board| match board {
        Some(id) => one.id == id,
        None => one.system == EarthingSystem::Tt && !supply_chain::own_electrode(installation, one),
    };
    let rcds = installation.boards.iter().filter(relies).flat_map(|one| &one.rcds);
    let Some(rcd) = rcds.max_by_key(|rcd| rcd.idn_ma) else {
        judgement.not_judged("limit", "an electrode is judged by the RCD that relies on it: describe one");
        return;
    };
    let found = electrode(ra, rcd.idn_ma);
    judgement.limit(found.within_50v, || {
        [
            "Ra ≤ 50 V / IΔn".to_owned(),
            format!("{ra} ≤ {} ({} mA)", found.limit_ohm, rcd.idn_ma.normalize()),
            format!("{} Ω; {} V at IΔn", found.limit_ohm, found.touch_v.normalize()),
            earthing::rcd_zs_source().line(),
        ]
    });
    if found.stable {
        judgement.plausibility = crate::verdict::Plausibility::Within;
    } else {
        judgement.look_again(format!(
            "above {} Ω it may not be stable: dry or frozen soil raises it",
            earthing::STABLE_ELECTRODE_OHM
        ));
    }
}

/// The weakest device of a board, or the conditional rating of the assembly where that is higher.
fn weakest(installation: &Installation, board: &crate::installation::Board) -> Option<(Decimal, String)> {
    let device = installation
        .circuits_of(board.id)
        .filter_map(|circuit| circuit.device.breaking_ka.map(|capacity| (capacity, circuit)))
        .min_by_key(|(capacity, _)| *capacity)?;
    let (capacity, circuit) = device;
    Some(match board.conditional_ka.filter(|conditional| *conditional > capacity) {
        Some(conditional) => (conditional, format!("{}, conditional rating of the assembly", board.name)),
        None => (capacity, format!("way {} {}", circuit.way, circuit.device.shown())),
    })
}

fn fault_current(
    judgement: &mut Judgement,
    installation: &Installation,
    settled: &Settled<'_>,
    step: &Step,
    value: &Value,
) {
    let Some(ka) = value.number() else { return };
    let found = supply_chain::at_origin(installation, settled);
    let level = found.as_ref().map_or(ka, |found| found.recorded_ka.max(ka));
    let weakest = installation
        .boards
        .iter()
        .filter(|board| board.fed_by == crate::installation::Feed::Supply)
        .filter_map(|board| weakest(installation, board))
        .min_by_key(|(capacity, _)| *capacity);
    match weakest {
        Some((capacity, which)) => judgement.limit(level <= capacity, || {
            [
                "fault current ≤ breaking capacity of every device".to_owned(),
                format!("{level} ≤ {capacity} kA ({which})"),
                format!("{capacity} kA"),
                devices::breaking_capacity_source(devices::DeviceStandard::BsEn60898).line(),
            ]
        }),
        None => judgement.not_judged("limit", "give the breaking capacity of the devices"),
    }
    if let Some(found) = found {
        for warning in found.warnings {
            judgement.notes.push(warning);
        }
    }
    let own = step.key.pair.and_then(|pair| settled.value(&keys::own_loop_key(pair, step.key.line))?.number());
    if let Some(own) = own {
        if supply_chain::matches_loop(ka, own, step.key.pair) {
            judgement.plausibility = crate::verdict::Plausibility::Within;
        } else {
            judgement.look_again(mismatch(ka, own, step.key.pair));
        }
        return;
    }
    // Line–earth has no lower loop than the Ze that was read with paths missing.
    if step.key.pair == Some(Pair::LINE_EARTH)
        && let Some(ze) = supply_chain::ze(installation, settled).map(approximate).filter(|ze| *ze > 0.0)
    {
        let by_ze = 0.23 / ze;
        let band = Band {
            low: 0.8 * by_ze,
            high: None,
            centre: Some(by_ze),
            basis: format!("230 V / Ze {ze} Ω = {by_ze:.2} kA, more with bonds and paths in"),
            source: crate::standard::supply::nominal_source(),
        };
        judgement.against(&band, approximate(ka), "kA");
    } else {
        judgement.not_judged("expected", "read Ze first, or the loop behind it");
    }
}

fn mismatch(ka: Decimal, own: Decimal, pair: Option<Pair>) -> String {
    let by_loop = supply_chain::current_of(own, pair).round_dp(2);
    format!(
        "{ka} kA does not match its own loop of {own} Ω, which gives {by_loop} kA: one of the two was read or written wrongly"
    )
}

/// The loop behind a fault current, with the earth on. It may lawfully differ from Ze, but paths
/// in parallel can only lower it.
fn own_loop(judgement: &mut Judgement, installation: &Installation, settled: &Settled<'_>, step: &Step, value: &Value) {
    let Some(ohm) = value.number() else { return };
    judgement.not_judged("limit", "it is not Ze, and has no limit of its own: the current it gives has");
    let shown = step.key.pair.and_then(|pair| settled.value(&keys::current_key(pair, step.key.line))?.number());
    let ze = supply_chain::ze(installation, settled).filter(|_| step.key.pair == Some(Pair::LINE_EARTH));
    if let Some(ze) =
        ze.filter(|ze| ohm > *ze + crate::verdict::LOOP_READING_WITHIN.max(*ze * crate::verdict::LOOP_READING_SHARE))
    {
        judgement.look_again(format!("above Ze {ze} Ω: with the earth back on, paths in parallel can only lower it"));
    } else if let Some(ka) = shown.filter(|ka| !supply_chain::matches_loop(*ka, ohm, step.key.pair)) {
        judgement.look_again(mismatch(ka, ohm, step.key.pair));
    } else if shown.is_some() || ze.is_some() {
        judgement.plausibility = crate::verdict::Plausibility::Within;
    } else {
        judgement.not_judged("expected", "the supply decides this reading");
    }
}

/// The fault current read at a board below the origin: its devices, and no more than above it.
fn at_board(
    judgement: &mut Judgement,
    installation: &Installation,
    settled: &Settled<'_>,
    board: uuid::Uuid,
    value: &Value,
) {
    let (Some(ka), Some(board)) = (value.number(), installation.board(board)) else { return };
    match weakest(installation, board) {
        Some((capacity, which)) => judgement.limit(ka <= capacity, || {
            [
                "fault current at this board ≤ breaking capacity of its devices".to_owned(),
                format!("{ka} ≤ {capacity} kA ({which})"),
                format!("{capacity} kA"),
                devices::breaking_capacity_source(devices::DeviceStandard::BsEn60898).line(),
            ]
        }),
        None => judgement.not_judged("limit", "give the breaking capacity of the devices"),
    }
    let crate::installation::Feed::Circuit { circuit } = board.fed_by else { return };
    let above =
        installation.circuit(circuit).and_then(|feeder| supply_chain::fault_level(installation, settled, feeder.board));
    match above {
        Some(above) if ka > above.ka => {
            judgement.look_again(format!("more than the {} kA of the board that feeds it", above.ka));
        }
        Some(_) => judgement.plausibility = crate::verdict::Plausibility::Within,
        None => judgement.not_judged("expected", "read the fault current at the origin first"),
    }
}
