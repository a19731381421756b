//! What the description alone tells: sizes by hand, protection wherever it stands, by edition.

use proof_bench::demo;
use proof_job::installation::{
    Board, Circuit, CpcIs, Feed, Feeds, Installation, OwnLimit, OwnRow, ResidualDevice, Serves, shorthand,
};
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Key, Place, Reading, Test, Value};
use proof_judge::design::{flaws, flaws_of_circuit};
use proof_judge::finding::{Found, Kind};
use proof_judge::verdict::circuit_limit;
use proof_standard::limits::devices::{DeviceStandard, Disconnection, TripType};
use proof_standard::limits::edition::EditionId;
use proof_standard::limits::inspection::Premises;
use proof_standard::limits::rcd::{RcdKind, RcdType};
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Amps, Kiloamps, Milliamps, SquareMillimetres};
use proof_work::plan::sequence::circuit_steps;
use proof_work::review::review;
use rust_decimal::dec;
use uuid::Uuid;

fn finished() -> Job {
    demo::jobs().swap_remove(0)
}

/// A circuit of the press room in a dwelling, with a loop as read.
fn flaws_with(
    line: &str,
    zs: rust_decimal::Decimal,
    change: impl FnOnce(&mut Installation, &mut Circuit),
) -> Vec<Found> {
    let mut job = finished();
    let board = job.installation.boards[0].id;
    let (mut circuit, rcd) = shorthand::parse(line).unwrap().build(board, Uuid::from_u128(9));
    job.installation.boards[0].rcds.extend(rcd);
    change(&mut job.installation, &mut circuit);
    let mut read: Reading = job.readings[0].clone();
    read.key = Key::on_circuit(circuit.id, Place::Board, Test::Zs);
    read.value = Value::Number(zs);
    let readings = [read];
    flaws_of_circuit(&job.installation, &circuit, &CurrentReadings::new(&readings, &[]))
}

const SHOWER: &str = "9 radial RCBO B40 6kA 10/4 fixed 11m 1pt ref C N9 E9 \"Shower\"";

/// 543.1.3 by hand: 230 V / 0.30 Ω = 767 A; for 0.1 s through k = 115 that is 2.11 mm². 4 mm² passes,
/// 1.5 mm² does not pass by it, and a breaker's tenth of a second fails nothing: it is not judged.
#[test]
fn a_protective_conductor_by_table_equation_and_what_is_let_through() {
    let with = |cpc: f64, class: Option<u8>, through: Option<rust_decimal::Decimal>| {
        flaws_with(SHOWER, dec!(0.30), |_, circuit| {
            circuit.cable.cpc_mm2 = SquareMillimetres::literal(cpc);
            (circuit.device.energy_class, circuit.device.let_through_a2s) = (class, through);
        })
    };
    assert_eq!(with(4.0, None, None), []);
    assert_eq!(with(1.0, None, None), [Found::CpcNotJudged { armour: false }]);
    // 1.0 mm² withstands 115² · 1.0² = 13,225 A²s.
    assert_eq!(with(1.0, None, Some(dec!(13000))), []);
    let lets = with(1.0, None, Some(dec!(18000)));
    assert_eq!(lets, [Found::CpcLetThrough { mm2: 1.0, withstands_a2s: 13225, let_through_a2s: 18000 }]);
    // A fuse: 32 A gG needs 0.99 Ω for 0.4 s, so 230 · 0.95 / 0.99 = 221 A, and 221 · √0.4 / 115 = 1.21 mm².
    let fuse = |cpc: f64| {
        flaws_with("9 radial gG 32 80kA 6/2.5 fixed 9m 1pt ref C N9 E9 \"Oven\"", dec!(0.60), |_, circuit| {
            circuit.cable.cpc_mm2 = SquareMillimetres::literal(cpc);
        })
    };
    assert_eq!(fuse(1.5), []);
    assert!(matches!(fuse(1.0)[..], [Found::CpcThin { table_mm2: 6.0, .. }]), "{:?}", fuse(1.0));
    let apart = flaws_with(SHOWER, dec!(0.30), |_, circuit| {
        circuit.cable.cpc_is = CpcIs::Separate;
        circuit.cable.cpc_mm2 = SquareMillimetres::literal(1.5);
    });
    assert_eq!(apart, [Found::CpcApartThin { mm2: 1.5, least_mm2: 2.5 }]);
}

/// BS 7671 411.3.4 came with the edition of 2018: the one before asks nothing of lighting in dwellings.
#[test]
fn lighting_in_dwellings_by_edition() {
    let lights = |edition, premises| {
        flaws_with("9 lights B6 6kA 1.5/1.0 20m 4pts ref C N9 E9 \"Lights\"", dec!(1.0), |installation, _| {
            (installation.edition, installation.premises) = (edition, premises);
        })
    };
    assert!(matches!(lights(EditionId::Bs7671Y2018A2, Premises::Dwelling)[..], [Found::Unprotected { .. }]));
    assert_eq!(lights(EditionId::Bs7671Y2018A2, Premises::Industrial), []);
    assert_eq!(lights(EditionId::Bs7671Y2008A3, Premises::Dwelling), []);
}

/// A garage behind the house's 30 mA is protected, and a delayed device over it is not protection.
#[test]
fn a_residual_device_protects_from_wherever_it_stands_upstream() {
    let below = |kind: RcdKind, idn_ma| {
        let mut job = finished();
        let house = job.installation.boards[0].id;
        let (mut feeder, _) = shorthand::parse("20 radial B32 6kA 6/2.5 fixed 15m 1pt ref C N20 E20 \"Garage feeder\"")
            .unwrap()
            .build(house, Uuid::from_u128(20));
        feeder.feeds = Feeds::Board;
        let rcd = ResidualDevice {
            id: Uuid::from_u128(21),
            label: "house RCD".into(),
            idn_ma: Milliamps(idn_ma),
            kind,
            detects: RcdType::A,
            standard: String::new(),
            rating_a: None,
        };
        feeder.rcd = Some(rcd.id);
        job.installation.boards[0].rcds.push(rcd);
        let garage = Board {
            id: Uuid::from_u128(22),
            name: "Garage".into(),
            fed_by: Feed::Circuit { circuit: feeder.id },
            rcds: vec![],
            ..job.installation.boards[0].clone()
        };
        let (sockets, _) = shorthand::parse("1 radial B16 6kA 2.5/1.5 legs 4,4 ref C N1 E1 \"Garage sockets\"")
            .unwrap()
            .build(garage.id, Uuid::from_u128(23));
        job.installation.boards.push(garage);
        let place = sockets.id;
        job.installation.circuits.extend([feeder, sockets.clone()]);
        let steps = circuit_steps(&job.installation, &sockets);
        assert!(!steps.iter().any(|step| matches!(step.key.test, Test::RcdTrip { .. })), "it is tested at the house");
        let found = review((&job).into());
        found.iter().any(|one| one.kind() == Kind::NoAdditionalProtection && one.circuit() == Some(place))
    };
    assert!(!below(RcdKind::General, dec!(30)));
    assert!(below(RcdKind::General, dec!(100)));
    assert!(below(RcdKind::Selective, dec!(30)));
}

/// One device over several ways is tested once, at the first of them.
#[test]
fn a_device_over_several_ways_is_tested_once() {
    let mut job = finished();
    let shared = job.installation.circuits[2].rcd;
    job.installation.circuits[3].rcd = shared;
    let asked = |job: &Job, index: usize| {
        let circuit = &job.installation.circuits[index];
        let steps = circuit_steps(&job.installation, circuit);
        steps.iter().any(|step| step.required && matches!(step.key.test, Test::RcdTrip { .. }))
    };
    assert_eq!([asked(&job, 2), asked(&job, 3)], [true, false]);
}

#[test]
fn what_kills_without_a_residual_device_and_what_a_breaker_may_be_marked() {
    let tt = flaws_with("9 radial B16 6kA 2.5/1.5 fixed 9m 1pt ref C N9 E9 \"Pump\"", dec!(60), |installation, _| {
        installation.boards[0].system = EarthingSystem::Tt;
    });
    assert!(tt.contains(&Found::TtUnprotected), "{tt:?}");
    for (ka, right) in [(dec!(3), true), (dec!(10), true), (dec!(25), true), (dec!(8), false), (dec!(50), false)] {
        let marked = flaws_with(SHOWER, dec!(0.3), |_, circuit| circuit.device.breaking_ka = Some(Kiloamps(ka)));
        assert_eq!(marked.is_empty(), right, "{ka} kA: {marked:?}");
    }
    let bath = flaws_with("9 radial B16 6kA 2.5/1.5 fixed 9m 1pt ref C N9 E9 \"Fan\"", dec!(0.5), |_, circuit| {
        circuit.serves = vec![Serves::BathOrShower];
    });
    assert!(matches!(bath[..], [Found::Unprotected { .. }]), "{bath:?}");
}

/// Table 54.8 and 544.1.1: 10 mm² bonds under PME up to a neutral of 35 mm²; a TT supply of 16 mm²
/// earthing wants 10, half of it rounded up.
#[test]
fn earthing_and_bonds_by_the_supply() {
    let with = |system, neutral: f64, earthing: f64, bond: f64| {
        let mut job = finished();
        let supply = &mut job.installation.supply;
        supply.system = system;
        supply.neutral_mm2 = Some(SquareMillimetres::literal(neutral));
        supply.earthing_mm2 = Some(SquareMillimetres::literal(earthing));
        for one in &mut supply.bonds {
            one.mm2 = Some(SquareMillimetres::literal(bond));
        }
        flaws(&job.installation).len()
    };
    use EarthingSystem::{TnCS, TnS, Tt};
    for (system, neutral, earthing, bond, count) in [
        (TnCS, 25.0, 16.0, 10.0, 0),
        (TnCS, 25.0, 10.0, 10.0, 1),
        (TnCS, 25.0, 16.0, 6.0, 2),
        (TnCS, 50.0, 16.0, 10.0, 2),
        (TnS, 25.0, 16.0, 6.0, 2),
        (TnS, 25.0, 16.0, 10.0, 0),
        (Tt, 25.0, 6.0, 6.0, 0),
        (Tt, 25.0, 1.5, 6.0, 1),
        (Tt, 25.0, 16.0, 6.0, 2),
    ] {
        assert_eq!(with(system, neutral, earthing, bond), count, "{system:?} {neutral} {earthing} {bond}");
    }
}

/// What the firm's own copy says stands before the table here; looser, it wants a reason and a second person.
#[test]
fn a_row_of_the_own_copy_is_used_and_a_looser_one_wants_two() {
    let mut job = finished();
    let circuit = job.installation.circuits[2].clone();
    let limit = OwnLimit::MaximumZs {
        standard: DeviceStandard::BsEn61009,
        trip: Some(TripType::B),
        rating_a: Amps(dec!(32)),
        disconnection_s: Disconnection::S0_4,
    };
    assert_eq!(limit.ours(), Some(dec!(1.37)));
    let mut row = OwnRow {
        id: Uuid::nil(),
        limit,
        value: dec!(1.30),
        document: "own copy".into(),
        place: "table".into(),
        by: "Maud Ferrow".into(),
        at: jiff::Timestamp::UNIX_EPOCH,
        second: String::new(),
        reason: String::new(),
        amendment: String::new(),
    };
    assert_eq!(row.check(), Ok(()));
    job.installation.own_rows.push(row.clone());
    let compared = |job: &Job| circuit_limit(&job.installation, &circuit).compared_ohm();
    assert_eq!(compared(&job), Some(dec!(1.04)), "0.8 · 1.30");
    row.value = dec!(1.50);
    assert!(row.check().is_err());
    (row.second, row.reason) = ("Maud Ferrow".into(), "newer edition".into());
    assert!(row.check().is_err(), "not the same person twice");
    row.second = "Tova Brandreth".into();
    assert_eq!(row.check(), Ok(()));
    job.installation.own_rows.push(row);
    assert_eq!(compared(&job), Some(dec!(1.20)), "the last one stands");
    // Where no table holds a row, the own one judges.
    let gg = "9 radial gG 32 80kA 6/2.5 fixed 9m 1pt ref C N9 E9 \"Oven\"";
    let told = |own: bool| {
        let flaws = flaws_with(gg, dec!(0.5), |installation, circuit| {
            circuit.device.rating_a = Amps(dec!(35));
            if own {
                let limit = OwnLimit::MaximumZs {
                    standard: circuit.device.standard,
                    trip: None,
                    rating_a: circuit.device.rating_a,
                    disconnection_s: circuit.disconnection(EarthingSystem::TnCS),
                };
                assert_eq!(limit.ours(), None);
                installation.own_rows = demo::own_rows();
                installation.own_rows[1].limit = limit;
            }
        });
        flaws.iter().any(|flaw| matches!(flaw, Found::LoopNotJudged { .. }))
    };
    assert_eq!((told(false), told(true)), (true, false));
}

/// The other tables: declared Ze, k, the main bond under PME, trip times; a least is looser when it is
/// smaller; a row of a later amendment stands only in jobs that are verified to it.
#[test]
fn every_row_of_the_own_copy_is_used_and_an_amendment_only_where_it_is_named() {
    use proof_job::installation::Insulation;
    use proof_standard::limits::rcd::Multiple;
    let row =
        |limit: OwnLimit, value| OwnRow { limit, value, second: String::new(), ..demo::own_rows().swap_remove(0) };
    let half = |limit: &OwnLimit, value| row(limit.clone(), value).check().is_err();
    let neutral_mm2 = SquareMillimetres::literal(25.0);
    let bond = OwnLimit::MainBond { neutral_mm2 };
    assert_eq!(bond.ours(), Some(dec!(10)));
    assert!(half(&bond, dec!(6)) && !half(&bond, dec!(16)), "a smaller least allows more");
    let ze = OwnLimit::DeclaredZe { system: EarthingSystem::TnCS };
    assert_eq!(ze.ours(), Some(dec!(0.35)));
    assert!(half(&ze, dec!(0.8)) && !half(&ze, dec!(0.20)));
    let k = OwnLimit::FactorK { insulation: Insulation::Thermoplastic70, separate: false };
    assert_eq!(k.ours(), Some(dec!(115)));
    assert!(half(&k, dec!(143)) && !half(&k, dec!(100)));
    let trip = OwnLimit::TripTime { kind: RcdKind::General, multiple: Multiple::One };
    assert_eq!(trip.ours(), Some(dec!(300)));
    assert_eq!(OwnLimit::TripTime { kind: RcdKind::General, multiple: Multiple::Half }.ours(), None);

    // Used: the bonds of 10 mm² are thin by a row of 16, Ze of 0.2x outside a declared 0.1.
    let mut job = finished();
    job.installation.supply.system = EarthingSystem::TnCS;
    job.installation.supply.neutral_mm2 = Some(neutral_mm2);
    let kinds = |job: &Job| review(job.into()).iter().map(proof_work::review::Finding::kind).collect::<Vec<_>>();
    let before = kinds(&job);
    assert!(!before.contains(&Kind::BondSize), "{before:?}");
    let with = |limit: OwnLimit, value, amendment: &str, verified: &str| {
        let mut job = job.clone();
        job.installation.amendment = verified.into();
        job.installation.own_rows = vec![OwnRow { amendment: amendment.into(), ..row(limit, value) }];
        kinds(&job)
    };
    assert!(with(bond.clone(), dec!(16), "", "").contains(&Kind::BondSize));
    let thin = with(bond.clone(), dec!(25), "", "");
    assert!(thin.contains(&Kind::EarthingSize), "under PME it is no smaller than the bond: {thin:?}");
    assert!(!with(bond.clone(), dec!(16), "A5:2031", "").contains(&Kind::BondSize), "of an amendment not verified to");
    assert!(with(bond, dec!(16), "A5:2031", "A5:2031").contains(&Kind::BondSize));
    assert_ne!(with(ze, dec!(0.05), "", ""), before, "Ze is outside what is declared");
    assert_ne!(with(trip, dec!(1), "", ""), before, "no device trips in a millisecond");
    job.installation.amendment = "A5:2031".into();
    assert_eq!(job.installation.verified_to(), "BS 7671:2018+A2:2022, as amended by A5:2031");
    // By hand: 230 V / 0.30 Ω = 767 A for 0.1 s; through k = 115 that is 2.11 mm², through k = 300 0.81 mm².
    let thin = |value: Option<rust_decimal::Decimal>| {
        flaws_with(SHOWER, dec!(0.30), |installation, circuit| {
            circuit.cable.cpc_mm2 = SquareMillimetres::literal(1.0);
            let (second, reason) = ("Tova Brandreth".to_owned(), "another conductor".to_owned());
            let row = |value| OwnRow { second, reason, ..row(k.clone(), value) };
            installation.own_rows = value.map(row).into_iter().collect();
        })
    };
    assert_eq!(thin(None), [Found::CpcNotJudged { armour: false }]);
    assert_eq!(thin(Some(dec!(300))), []);
}
