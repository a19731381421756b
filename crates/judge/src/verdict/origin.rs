//! Readings at the origin, judged: bonds and the earthing conductor, Ze, fault current.

use crate::expectation::{Band, Unknown, bond_at_least, bond_band, earthing_band};
use crate::supply_chain;
use crate::verdict::trip::trip_time;
use crate::verdict::{Judgement, NotJudged, Path, Reason, Rule, WorkingPart, outcome};
use proof_job::installation::{Circuit, Installation, Serves};
use proof_job::reading::entry::Field;
use proof_job::reading::{CurrentReadings, Step, Subject, Test, Value, keys};
use proof_standard::calc::electrode::electrode;
use proof_standard::conductor::Pair;
use proof_standard::limits::devices::Disconnection;
use proof_standard::limits::supply::{C_MIN, DECLARED_ZE, EarthingSystem, LEAST_SHARE_OF_ZE_CURRENT, U0_V};
use proof_standard::limits::{LimitRow, Source, devices, earthing};
use proof_standard::quantity::{Kiloamps, approximate};
use rust_decimal::Decimal;

/// Judges a reading at the origin.
pub fn judge_origin(
    installation: &Installation,
    settled: &CurrentReadings<'_>,
    step: &Step,
    value: &Value,
) -> Judgement {
    let mut judgement = Judgement::blank(true);
    if judgement.excused(value) {
        return judgement;
    }
    let continuity = installation.edition.rules().continuity;
    match (step.key.test, &step.key.subject) {
        (Test::BondContinuity, Subject::Bond { bond }) if step.field == Field::Continuity => {
            if let Some(bond) = installation.supply.bonds.iter().find(|other| other.id == *bond) {
                by_bond(&mut judgement, (installation, bond), value, continuity);
            }
        }
        (Test::EarthingConductor, _) if step.field == Field::Continuity => {
            let ohm = value.float();
            judgement.complete(Path::EarthingConductor, value, ohm.is_some(), &[continuity]);
            if let Some(ohm) = ohm {
                judgement.against(&earthing_band(), ohm, "Ω");
            }
        }
        (Test::Ze, _) => by_declared(&mut judgement, installation, value),
        (Test::Electrode, subject) => match value.number() {
            Some(ra) => {
                let board = if let Subject::Board { board } = subject { Some(*board) } else { None };
                by_electrode(&mut judgement, installation, board, ra);
            }
            None => judgement.complete(Path::Electrode, value, false, &[earthing::ELECTRODE]),
        },
        (Test::FaultCurrent, Subject::Supply) => fault_current(&mut judgement, installation, settled, step, value),
        (Test::FaultCurrent, Subject::Board { board }) => {
            at_board(&mut judgement, (installation, settled), *board, step.key.pair, value);
        }
        (Test::Zs | Test::LineNeutralLoop, Subject::Board { board }) => {
            loop_at_board(&mut judgement, (installation, settled), *board, step.key.pair, value);
        }
        (Test::RcdTrip { multiple, .. }, Subject::Board { board }) => {
            let residual = installation.board(*board).and_then(|board| board.main_switch.residual());
            match residual {
                Some(residual) => trip_time(&mut judgement, installation, (residual, multiple), value),
                None => judgement.not_judged(WorkingPart::Limit, NotJudged::NoRcd),
            }
        }
        (Test::Zs | Test::LineNeutralLoop, _) => own_loop(&mut judgement, installation, settled, step, value),
        _ => outcome(&mut judgement, value, installation.edition.rules().polarity),
    }
    judgement
}

fn by_bond(
    judgement: &mut Judgement,
    (installation, bond): (&Installation, &proof_job::installation::Bond),
    value: &Value,
    continuity: Source,
) {
    let Some(ohm) = value.float() else {
        judgement.complete(Path::Bond, value, false, &[continuity]);
        return;
    };
    let band = bond_band(bond);
    // What a thin bond reads excuses nothing.
    let least = if bond.supplementary { None } else { crate::expectation::least_bond(installation) };
    let own = bond_at_least(bond, least).ok().and_then(|band| band.centre).unwrap_or(0.0);
    let (limit, source) = earthing::bond_limit(own);
    if let Some((ia, most)) = Some(bond).filter(|bond| bond.supplementary).and_then(|_| by_current(installation)) {
        judgement.limit(ohm <= most + 1e-9, &[earthing::SUPPLEMENTARY_READING], || Rule::SupplementaryBond {
            ohm,
            ia_a: ia,
            limit: most,
        });
        // The rule lets a room pass that its bond does not make: more than copper of its kind is odd.
        judgement.against(&band.unwrap_or_else(|_| bond_of_unknown_length(limit, source)), ohm, "Ω");
        return;
    }
    judgement.limit(ohm <= limit + 1e-9, &[source], || Rule::Bond { ohm, limit });
    judgement.against_known(band, ohm, "Ω");
}

/// What a bond reads whose length nobody gave: no more than any bond should.
fn bond_of_unknown_length(most: f64, source: Source) -> Band {
    Band { low: 0.0, high: Some(most), centre: None, basis: "its length is not given".to_owned(), source }
}

/// The current, A, by which the least sensitive device of a room with a bath or shower disconnects, and the
/// most that a supplementary bond may read there, Ω; nothing where no circuit says that it serves one, or of
/// one of them the current is not known.
fn by_current(installation: &Installation) -> Option<(f64, f64)> {
    let current = |circuit: &Circuit| {
        if let Some(rcd) = installation.upstream_rcds(circuit).iter().map(|rcd| rcd.idn_ma).min() {
            return Some(approximate(rcd.get()) / 1000.0);
        }
        let device = &circuit.device;
        let at = devices::maximum_zs(device.standard, device.trip, device.rating_a.normalize(), Disconnection::S5);
        let found = at.ok()?;
        found.ia_a.map(|ia| approximate(ia.get())).or_else(|| Some(approximate(*U0_V * *C_MIN / found.printed_ohm)))
    };
    let served = installation.circuits.iter().filter(|circuit| circuit.serves.contains(&Serves::BathOrShower));
    let most = served.map(current).collect::<Option<Vec<f64>>>()?.into_iter().reduce(f64::max)?;
    Some((most, approximate(*earthing::TOUCH_V) / most))
}

fn by_declared(judgement: &mut Judgement, installation: &Installation, value: &Value) {
    let Some(ze) = value.number() else {
        judgement.complete(Path::Supply, value, false, &[DECLARED_ZE]);
        return;
    };
    let system = installation.supply.system;
    if system == EarthingSystem::Tt {
        by_electrode(judgement, installation, None, ze);
        return;
    }
    let LimitRow { value: declared, source } = installation.declared_ze();
    judgement.limit(ze <= declared, &[source], || Rule::DeclaredZe { ze, declared, system });
    if ze > declared {
        judgement.reasons.push(Reason::OverDeclared);
    }
    if ze == Decimal::ZERO {
        judgement.look_again(Reason::ZeroLoop);
    }
}

/// Ra of an electrode (or Ze of a TT supply) against 50 V / IΔn of the least sensitive RCD that relies on it.
fn by_electrode(judgement: &mut Judgement, installation: &Installation, board: Option<uuid::Uuid>, ra: Decimal) {
    let relies = |one: &&proof_job::installation::Board| match board {
        Some(id) => one.id == id,
        None => one.system == EarthingSystem::Tt && !supply_chain::own_electrode(installation, one),
    };
    // What disconnects behind it: the main device where there is one, else the devices of the ways.
    let residual = |one: &proof_job::installation::Board| match one.main_switch.residual() {
        Some(main) => Some(main.idn_ma),
        None => one.rcds.iter().map(|rcd| rcd.idn_ma).max(),
    };
    let Some(idn_ma) = installation.boards.iter().filter(relies).filter_map(residual).max() else {
        judgement.not_judged(WorkingPart::Limit, NotJudged::NoElectrodeRcd);
        return;
    };
    let found = electrode(ra, idn_ma);
    judgement.limit(found.within_50v, &[earthing::ELECTRODE], || Rule::Electrode {
        ra,
        limit: found.limit_ohm,
        idn_ma,
        touch_v: found.touch_v,
    });
    if found.stable {
        judgement.plausibility = crate::verdict::Plausibility::Within;
    } else {
        judgement.look_again(Reason::MayNotBeStable { above_ohm: *earthing::STABLE_ELECTRODE_OHM });
    }
}

/// A current is shown to hundredths of a kA: half of one either way.
const DISPLAY_KA: f64 = 0.005;

/// The weakest device of a board, or the conditional rating of the assembly where that is higher.
struct Weakest {
    /// What it breaks, kA.
    capacity: Kiloamps,
    /// Which it is.
    which: String,
    /// Where its rating comes from.
    source: Source,
}

impl Weakest {
    fn for_board(installation: &Installation, board: &proof_job::installation::Board) -> Option<Self> {
        let (capacity, circuit) = installation
            .circuits_on(board.id)
            .filter_map(|circuit| circuit.device.breaking_ka.map(|capacity| (capacity, circuit)))
            .min_by_key(|(capacity, _)| *capacity)?;
        let source = devices::breaking_capacity_source(circuit.device.standard);
        Some(match board.conditional_ka.filter(|conditional| *conditional > capacity) {
            Some(capacity) => {
                Self { capacity, which: format!("{}, conditional rating of the assembly", board.name), source }
            }
            None => Self { capacity, which: format!("way {} {}", circuit.way, circuit.device.shown()), source },
        })
    }
}

/// Every device breaks the current, or it is not known what the weakest breaks.
fn breaks(judgement: &mut Judgement, weakest: Option<Weakest>, level: Kiloamps, below_origin: bool) {
    let Some(Weakest { capacity, which, source }) = weakest else {
        judgement.not_judged(WorkingPart::Limit, NotJudged::NoBreakingCapacity);
        return;
    };
    judgement.limit(level <= capacity, &[source], || Rule::BreaksFault { level, capacity, which, below_origin });
}

fn fault_current(
    judgement: &mut Judgement,
    installation: &Installation,
    settled: &CurrentReadings<'_>,
    step: &Step,
    value: &Value,
) {
    let Some(ka) = value.number().map(Kiloamps) else { return };
    let found = supply_chain::at_origin(installation, settled);
    let level = found.as_ref().map_or(ka, |found| found.recorded_ka.max(ka));
    let weakest = installation
        .boards
        .iter()
        .filter(|board| board.fed_by == proof_job::installation::Feed::Supply)
        .filter_map(|board| Weakest::for_board(installation, board))
        .min_by_key(|weakest| weakest.capacity);
    breaks(judgement, weakest, level, false);
    for warning in found.into_iter().flat_map(|found| found.warnings) {
        judgement.reasons.push(Reason::FaultCurrent { warning });
    }
    let own = step.key.pair.and_then(|pair| settled.value(&keys::own_loop_key(pair, step.key.line))?.number());
    if let Some(own) = own {
        if supply_chain::matches_loop(installation.house_rules.supply_voltage, ka, own, step.key.pair) {
            judgement.plausibility = crate::verdict::Plausibility::Within;
        } else {
            judgement.look_again(not_its_loop(ka, own, step.key.pair));
        }
        return;
    }
    // Line–earth has no lower loop than the Ze that was read with paths missing.
    if step.key.pair == Some(Pair::LINE_EARTH)
        && let Some(ze) = supply_chain::ze(installation, settled).map(approximate).filter(|ze| *ze > 0.0)
    {
        let by_ze = approximate(*U0_V) / 1000.0 / ze;
        let band = Band {
            // What rounds to nothing on the display is no lower than nothing.
            low: (*LEAST_SHARE_OF_ZE_CURRENT * by_ze - DISPLAY_KA).max(0.0),
            high: None,
            centre: Some(by_ze),
            basis: format!("230 V / Ze {ze} Ω = {by_ze:.2} kA, more with bonds and paths in"),
            source: proof_standard::limits::supply::NOMINAL,
        };
        judgement.against(&band, approximate(ka.get()), "kA");
    } else {
        judgement.not_judged(WorkingPart::Expected, NotJudged::NoLoop);
    }
}

fn not_its_loop(ka: Kiloamps, loop_ohm: Decimal, pair: Option<Pair>) -> Reason {
    Reason::NotItsLoop {
        ka,
        loop_ohm,
        by_loop_ka: Kiloamps(supply_chain::current_of(loop_ohm, pair).get().round_dp(2)),
    }
}

/// The loop behind a fault current, with the earth on. It may lawfully differ from Ze, but paths
/// in parallel can only lower it.
fn own_loop(
    judgement: &mut Judgement,
    installation: &Installation,
    settled: &CurrentReadings<'_>,
    step: &Step,
    value: &Value,
) {
    let Some(ohm) = value.number() else { return };
    judgement.not_judged(WorkingPart::Limit, NotJudged::OwnLoop);
    let shown =
        step.key.pair.and_then(|pair| settled.value(&keys::current_key(pair, step.key.line))?.number()).map(Kiloamps);
    let ze = supply_chain::ze(installation, settled).filter(|_| step.key.pair == Some(Pair::LINE_EARTH));
    if let Some(ze) =
        ze.filter(|ze| ohm > *ze + crate::verdict::LOOP_READING_WITHIN.max(*ze * crate::verdict::LOOP_READING_SHARE))
    {
        judgement.look_again(Reason::AboveZe { ze_ohm: ze });
    } else if let Some(ka) =
        shown.filter(|ka| !supply_chain::matches_loop(installation.house_rules.supply_voltage, *ka, ohm, step.key.pair))
    {
        judgement.look_again(not_its_loop(ka, ohm, step.key.pair));
    } else if shown.is_some() || ze.is_some() {
        judgement.plausibility = crate::verdict::Plausibility::Within;
    } else {
        judgement.not_judged(WorkingPart::Expected, Unknown::Supply);
    }
}

/// The fault current read at a board below the origin: its devices, and no more than above it.
fn at_board(
    judgement: &mut Judgement,
    (installation, settled): (&Installation, &CurrentReadings<'_>),
    board: uuid::Uuid,
    pair: Option<Pair>,
    value: &Value,
) {
    let (Some(ka), Some(board)) = (value.number().map(Kiloamps), installation.board(board)) else { return };
    breaks(judgement, Weakest::for_board(installation, board), ka, true);
    let proof_job::installation::Feed::Circuit { circuit } = board.fed_by else { return };
    let own = pair.and_then(|pair| settled.value(&keys::board_loop_key(board.id, pair))?.number());
    if let Some(own) =
        own.filter(|own| !supply_chain::matches_loop(installation.house_rules.supply_voltage, ka, *own, pair))
    {
        judgement.look_again(not_its_loop(ka, own, pair));
        return;
    }
    let above =
        installation.circuit(circuit).and_then(|feeder| supply_chain::fault_level(installation, settled, feeder.board));
    match above {
        Some(above) if ka > above.ka => {
            judgement.look_again(Reason::MoreThanAbove { above_ka: above.ka });
        }
        Some(_) => judgement.plausibility = crate::verdict::Plausibility::Within,
        None => judgement.not_judged(WorkingPart::Expected, NotJudged::NoLevelAbove),
    }
}

/// The loop of the fault-current test at a board below the origin: it belongs to the current shown there.
fn loop_at_board(
    judgement: &mut Judgement,
    (installation, settled): (&Installation, &CurrentReadings<'_>),
    board: uuid::Uuid,
    pair: Option<Pair>,
    value: &Value,
) {
    let Some(ohm) = value.number() else { return };
    judgement.not_judged(WorkingPart::Limit, NotJudged::OwnLoop);
    let shown = pair.and_then(|pair| settled.value(&keys::board_current_key(board, pair))?.number()).map(Kiloamps);
    match shown {
        Some(ka) if supply_chain::matches_loop(installation.house_rules.supply_voltage, ka, ohm, pair) => {
            judgement.plausibility = crate::verdict::Plausibility::Within;
        }
        Some(ka) => judgement.look_again(not_its_loop(ka, ohm, pair)),
        None => judgement.not_judged(WorkingPart::Expected, Unknown::Supply),
    }
}
