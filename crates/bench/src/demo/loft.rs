//! The loft flat: panels on the roof, extra-low voltage lights, and what an inspector would object to.

use super::plan::{Plan, SEED, inspect, job};
use super::register::{READER, WRITER, id};
use super::work::{DEAD, prove_dead, read, read_bonds, time, visit};
use crate::meter::Meter;
use proof_job::installation::{Carried, CircuitVoltage, Nature, OtherSource, OwnLimit, OwnRow, Serves, SourceKind};
use proof_job::job::Job;
use proof_standard::limits::devices::{DeviceStandard, Disconnection, TripType};
use proof_standard::limits::inspection::Premises;
use proof_standard::quantity::{Amps, SquareMillimetres};
use rust_decimal::dec;

/// What the firm's own copy confirms and corrects.
pub fn own_rows() -> Vec<OwnRow> {
    let row = |name: &str, limit: OwnLimit, value| OwnRow {
        id: id(name),
        limit,
        value,
        document: "BS 7671, the firm's copy".into(),
        place: "Table 41.3".into(),
        by: WRITER.into(),
        at: time("2026-09-01T09:00:00Z"),
        second: String::new(),
        reason: String::new(),
        amendment: String::new(),
    };
    let breaker = |rating_a| OwnLimit::MaximumZs {
        standard: DeviceStandard::BsEn61009,
        trip: Some(TripType::B),
        rating_a: Amps(rating_a),
        disconnection_s: Disconnection::S0_4,
    };
    vec![
        row("own B20", breaker(dec!(20)), dec!(2.19)),
        OwnRow {
            document: "maker's sheet of the fuse, kept with the job".into(),
            place: "curve, read at 0.4 s".into(),
            ..row(
                "own gG 35",
                OwnLimit::MaximumZs {
                    standard: DeviceStandard::Bs88Part2,
                    trip: None,
                    rating_a: Amps(dec!(35)),
                    disconnection_s: Disconnection::S0_4,
                },
                dec!(0.86),
            )
        },
    ]
}

pub(super) fn loft() -> Job {
    let mut job = job(&Plan {
        reference: "G-105",
        title: "Loft flat with panels",
        board: "Loft flat board",
        location: "Landing cupboard, under the roof",
        extent: "Board and all circuits of the loft flat, new; panels on the south roof.",
        nature: Nature::New,
        begun: "2026-11-25T08:20:00Z",
        circuits: &[
            "1 lights RCBO B6 6kA 1.5/1.0 18m 5pts ref 100 N1 E1 \"Lights\"",
            "2 ring RCBO B32 6kA 2.5/1.5 legs 5,4,6,3,5 ref C N2 E2 \"Sockets\"",
            "3 radial RCBO B20 6kA 2.5/1.5 legs 6,4 ref C N3 E3 \"Kitchen sockets\"",
            "4 radial B16 6kA 2.5/1.5 fixed 8m 1pt ref C N4 E4 \"Bathroom heater\"",
            "5 lights B6 6kA 1.5/1.0 7m 3pts ref C N5 E5 \"Cabinet lights, 12 V\"",
            "6 radial RCBO B16 6kA 2.5/1.5 fixed 6m 1pt ref C N6 E6 \"Inverter\"",
            "7 radial RCBO B32 6kA 6/2.5 fixed 9m 1pt ref C N7 E7 \"Charging point\"",
        ],
    });
    let installation = &mut job.installation;
    installation.premises = Premises::LetDwelling;
    installation.surge = None;
    // What an inspector would object to.
    installation.boards[0].main_switch.poles = Some(1);
    installation.supply.bonds[1].mm2 = Some(SquareMillimetres::literal(6.0));
    let board = installation.boards[0].id;
    installation.sources = vec![OtherSource {
        id: id("panels"),
        kind: SourceKind::Solar,
        board: Some(board),
        isolator: "beside the inverter, under the roof".into(),
        notices: None,
        both_ways: Some(true),
    }];
    for circuit in &mut installation.circuits {
        match circuit.way.as_str() {
            "3" => circuit.points[1].rating_a = Some(Amps(dec!(16))),
            "4" => circuit.serves = vec![Serves::BathOrShower],
            "5" => circuit.band = CircuitVoltage::Selv,
            "6" => circuit.cable.method = None,
            "7" => circuit.points[0].connected_load = vec![Carried::VehicleCharger],
            _ => {}
        }
    }
    inspect(&mut job);
    let mut meter = Meter::new(SEED + 5);
    let mut visit = visit(&job);
    prove_dead(&mut job, &mut visit);
    read_bonds(&mut job, &mut visit, &mut meter);
    for way in ["1", "2"] {
        read(&mut job, &mut visit, &mut meter, way, Vec::new(), DEAD);
    }
    if let Some(reading) = job.readings.last_mut() {
        reading.context.read_by = Some(READER.into());
        reading.context.test_voltage_v =
            reading.context.test_voltage_v.map(|_| proof_standard::quantity::Volts::literal(250.0));
    }
    job
}
