//! What a judgement binds to, and the words of every finding: both are in files that were written, so
//! a change of either is looked at.

use proof_job::installation::{Carried, Decided, SourceKind};
use proof_job::instrument::Distrust;
use proof_job::reading::{Stage, Test, Value};
use proof_job::site::isolation::Lacking;
use proof_job::site::{Alteration, BoardState, Breach, Wanted};
use proof_judge::expectation::Expected;
use proof_judge::finding::{Found, Guards, Lacks, OddReading, Particular, Severity, Undecided, Unlikely};
use proof_judge::verdict::{Above, Bound, LowInsulation, Path, Reason as Odd};
use proof_standard::conductor::Pair;
use proof_standard::limits::rcd::RcdType;
use proof_standard::quantity::{Amps, Kiloamps, Milliamps, Millis};
use proof_work::plan::sequence::{board_steps, origin_steps};
use proof_work::review::{Finding, Where};
use rust_decimal::dec;

fn finding(found: Found) -> Finding {
    let (severity, place) = (Severity::Odd, Where::Particulars);
    Finding { found, severity, about: "Way 3".into(), place, bars_energising: false, judged: None }
}

fn expected() -> Expected {
    Expected { low: Some(dec!(0.24)), high: Some(dec!(0.34)), unit: "Ω" }
}

fn read(test: Test, value: Value, bound: Option<Bound>, reasons: Vec<Odd>) -> Found {
    Found::Reading(OddReading {
        label: "4".into(),
        figure: "R1+R2",
        test,
        pair: None,
        stage: Stage::R1R2,
        on_circuit: true,
        value,
        unit: "Ω",
        outside: bound.is_some(),
        bound,
        reasons,
        rcd_disconnects: false,
        ring_cannot_give: false,
    })
}

fn odd_readings() -> Vec<Found> {
    let odd = |reason: Odd| read(Test::R1R2, Value::Number(dec!(0.80)), None, vec![reason]);
    let outside = |bound: Bound| read(Test::R1R2, Value::Number(dec!(1.80)), Some(bound), vec![]);
    let mut all: Vec<Found> = [
        Odd::Lower { expected: expected() },
        Odd::Higher { expected: Expected { low: None, high: None, unit: "Ω" } },
        Odd::Open,
        Odd::LegsApart { by_ohm: dec!(0.14) },
        Odd::LegsOutOfProportion { least_ohm: dec!(0.04), most_ohm: dec!(0.09) },
        Odd::OwnLeg,
        Odd::ReadsWithSwitchOpen,
        Odd::TooLow,
        Odd::MetalInReading,
        Odd::LoopWouldExceed { above: Above::Declared, above_ohm: dec!(0.35), maximum_ohm: dec!(1.10) },
        Odd::WaitsForZe { declared_ohm: dec!(0.8), maximum_ohm: dec!(0.55) },
        Odd::InsulationLow { commonly: LowInsulation::Neon },
        Odd::TooFast { least_ms: Millis(dec!(2)) },
        Odd::MayFall { under_mohm: dec!(2) },
        Odd::NewWiringLow,
        Odd::ZsBelow { above: Above::Zdb, above_ohm: dec!(0.4) },
        Odd::WholeAboveLowest,
        Odd::Wrong,
        Odd::OverDeclared,
        Odd::ZeroLoop,
        Odd::MayNotBeStable { above_ohm: dec!(200) },
        Odd::NotItsLoop { ka: Kiloamps(dec!(1.5)), loop_ohm: dec!(0.31), by_loop_ka: Kiloamps(dec!(0.74)) },
        Odd::AboveZe { ze_ohm: dec!(0.21) },
        Odd::MoreThanAbove { above_ka: Kiloamps(dec!(2.3)) },
        Odd::FaultCurrent { warning: proof_standard::calc::fault_current::Warning::Root3 },
    ]
    .into_iter()
    .map(odd)
    .collect();
    all.extend(
        [
            Bound::AtMost { most: dec!(1.10), unit: "Ω" },
            Bound::AtLeast { least: dec!(1), unit: "MΩ" },
            Bound::Electrode { most_ohm: dec!(1667), touch_v: dec!(54) },
            Bound::NoTrip,
            Bound::Trips { min_ms: Some(Millis(dec!(130))), max_ms: Millis(dec!(500)) },
            Bound::Complete(Path::Supply),
            Bound::Opens,
            Bound::Right,
        ]
        .map(outside),
    );
    all
}

/// What came after the first kinds: flaws, slips, breaches.
fn later() -> Vec<Found> {
    let at = jiff::Timestamp::UNIX_EPOCH;
    let (surge, arc) = (Undecided::Surge, Undecided::Arc);
    let mut all: Vec<Found> = [
        Found::EarthingThin { mm2: 6.0, least_mm2: 16.0 },
        Found::BondThin { to: "gas".into(), mm2: 6.0, least_mm2: 10.0 },
        Found::CpcThin { mm2: 1.0, table_mm2: 6.0, adiabatic_mm2: dec!(1.21) },
        Found::CpcLetThrough { mm2: 1.0, withstands_a2s: 13_225, let_through_a2s: 18_000 },
        Found::CpcApartThin { mm2: 1.5, least_mm2: 2.5 },
        Found::CpcNotJudged { armour: true },
        Found::CpcNotJudged { armour: false },
        Found::CapacityNotJudged,
        Found::LoopNotJudged { device: "BS 88-2 35 A".into(), seconds: dec!(0.4) },
        Found::DesignCurrent { design_a: Amps(dec!(22)), device_a: Amps(dec!(16)) },
        Found::Rewirable { device_a: Amps(dec!(30)), most_a: dec!(19.6) },
        Found::OutletBelow { point: "2".into(), outlet_a: Amps(dec!(16)), device_a: Amps(dec!(20)) },
        Found::OutletUnrated { point: "2".into() },
        Found::SwitchPoles { poles: 1, least: 2, tt: false },
        Found::SwitchBelow { switch_a: Amps(dec!(63)), before_a: Amps(dec!(100)) },
        Found::Marking { standard: "BS 3036", ka: Kiloamps(dec!(16)) },
        Found::Unprotected { for_what: Guards::Lighting },
        Found::Unprotected { for_what: Guards::HiddenCable },
        Found::RcboUndescribed,
        Found::TtUnprotected,
        Found::WayClash { other: "5".into() },
        Found::Undecided { what: surge },
        Found::NoReason { what: arc },
        Found::Contradicted { what: surge, decided: Decided::Fitted },
        Found::Contradicted { what: arc, decided: Decided::NotRequired },
        Found::Source { kind: SourceKind::Solar, lacks: Lacks::Isolator },
        Found::Source { kind: SourceKind::Storage, lacks: Lacks::BothWays },
    ]
    .to_vec();
    all.extend([
        Found::InstrumentUnsaid { readings: 3 },
        Found::WriterUnsaid { readings: 1 },
        Found::TestVoltage { volts: 250.0, wanted: 500.0 },
        Found::Unlikely { what: Unlikely::AboveRange, value: dec!(1500), unit: "MΩ" },
        Found::Unlikely { what: Unlikely::NoCurrent, value: dec!(0), unit: "kA" },
        Found::TypedDiffers { typed: "9.9".into(), value: "0.99".into() },
        Found::AlteredAfter { what: Alteration::EndsOut },
        Found::ShapeChanged,
        Found::NoFigure { label: "R1+R2".into() },
        Found::JudgementIncomplete { finding: "look_again:origin/ze".into() },
    ]);
    all.extend(
        [
            Breach::EnergisedEarthOff,
            Breach::EnergisedItemsOpen { count: 2 },
            Breach::EnergisedBelowDead,
            Breach::ExposedNotDead,
            Breach::AlteredNotDead { alteration: Alteration::BondOff },
            Breach::NotProved { lacking: Lacking::Pairs { tested: 3, of: 10 } },
            Breach::NotProved { lacking: Lacking::Source },
        ]
        .map(|breach| Found::Breach { breach, at }),
    );
    all
}

const PARTICULARS: [Particular; 16] = [
    Particular::Client,
    Particular::Address,
    Particular::Extent,
    Particular::Board,
    Particular::Circuit,
    Particular::Bonds,
    Particular::Firm,
    Particular::Tails,
    Particular::Earthing,
    Particular::SupplyDevice,
    Particular::Electrode,
    Particular::BondSize,
    Particular::MainSwitch,
    Particular::BoardPlace,
    Particular::CableKind,
    Particular::Description,
];

fn all() -> Vec<Found> {
    let mut all = vec![
        Found::NoPoints,
        Found::NotRead { stage: Stage::R1R2, labels: vec!["1".into(), "2".into()], live: true },
        Found::NotTaken { label: "Ze".into(), seen: false, stage: Stage::Origin },
        Found::PolarityOutstanding { wanting: "look".into(), live: false },
        Found::PolarityWrong { because: "open".into() },
        Found::InspectionOpen { open: 3, of: 40 },
        Found::DepartureUnexplained { item: "intake-condition".into() },
        Found::NotPutBack { alteration: Alteration::Link, note: "way 3".into() },
        Found::PointOutstanding { thing: "lamp".into(), made_safe: "boxed".into() },
        Found::EarthOff,
        Found::DevicesBelow {
            ka: Kiloamps(dec!(7)),
            how: "as read".into(),
            way: "3".into(),
            device: "B32".into(),
            breaks_ka: Kiloamps(dec!(6)),
            more: 1,
        },
        Found::NotTested {
            label: "L–E".into(),
            figure: "insulation",
            test: Test::Insulation,
            pair: Some(Pair::LINE_EARTH),
            value: Value::Limitation("locked".into()),
        },
        Found::StruckOut {
            label: "L–E".into(),
            figure: "insulation",
            test: Test::Insulation,
            pair: None,
            value: Value::Number(dec!(0.2)),
        },
        Found::InstrumentDoubtful { why: Distrust::NoDate { name: "MFT-2".into() }, readings: 4 },
        Found::LeadsUnsaid { readings: 4 },
        Found::OutOfOrder {
            readings: 2,
            wanted: Wanted::Dead,
            board: "Press room".into(),
            state: BoardState::Energised,
        },
    ];
    all.extend(PARTICULARS.map(|missing| Found::Particulars { missing }));
    all.extend(later());
    all.extend(odd_readings());
    all.extend([
        Found::RingTooThin { mm2: 1.5, least_mm2: 2.5 },
        Found::LegCarries { amps: 17.0 },
        Found::DeviceOverCable { device: "B32".into(), amps: 27.0 },
        Found::NoAdditionalProtection,
        Found::CapacityUnknown,
        Found::RcdBlind { rcd: "1".into(), detects: RcdType::AC, carries: Carried::Drive, wanted: RcdType::F },
        Found::TripTogether { rcd: "1".into(), idn_ma: Milliamps(dec!(100)), board: "Studio".into() },
    ]);
    all.extend([
        Found::SameAtEveryPoint { ohm: dec!(0.40), points: 4, cable_ohm: dec!(0.52) },
        Found::SameOnWays {
            zs: true,
            ohm: dec!(0.40),
            ways: vec!["1".into(), "2".into()],
            least_ohm: dec!(0.10),
            most_ohm: dec!(0.60),
        },
        Found::FiveSlower { one_ms: Millis(dec!(22)), five_ms: Millis(dec!(31)) },
        Found::RingCannotGive { read: dec!(0.80), r1: 0.44, r2: 0.74, quarter: dec!(0.30), spurs: Some(dec!(0.11)) },
        Found::UnderLength { read: dec!(0.20), expected: dec!(0.55) },
    ]);
    all
}

#[test]
fn what_is_written_of_every_finding() {
    let lines: Vec<String> = all()
        .into_iter()
        .map(finding)
        .map(|one| format!("{}\n    {}\n    {}\n    {}", one.kind().code(), one.text(), one.remedy(), one.bound()))
        .collect();
    insta::with_settings!({ description => "code, words, what settles it, what a judgement binds to", omit_expression => true }, {
        insta::assert_snapshot!("findings", lines.join("\n"));
    });
}

/// Two findings that are not the same never bind alike: what was judged of the one says nothing of the
/// other.
#[test]
fn no_two_findings_bind_alike() {
    let order = |wanted, state| Found::OutOfOrder { readings: 1, wanted, board: "B".into(), state };
    let of_pair = |pair| {
        Found::Reading(OddReading {
            label: "the whole board".into(),
            figure: "insulation",
            test: Test::Insulation,
            pair: Some(pair),
            stage: Stage::Insulation,
            on_circuit: false,
            value: Value::Number(dec!(20)),
            unit: "MΩ",
            outside: false,
            bound: None,
            reasons: vec![Odd::NewWiringLow],
            rcd_disconnects: false,
            ring_cannot_give: false,
        })
    };
    let mut all = all();
    for wanted in [Wanted::Dead, Wanted::Exposed, Wanted::EarthOn, Wanted::Live] {
        for state in [BoardState::NotProved, BoardState::ProvedDead, BoardState::SupplyExposed, BoardState::Energised] {
            all.push(order(wanted, state));
        }
    }
    all.extend([Pair::LINE_NEUTRAL, Pair::LINE_EARTH].map(of_pair));
    let bound: Vec<String> = all.into_iter().map(|reason| finding(reason).bound()).collect();
    for (index, one) in bound.iter().enumerate() {
        assert!(one.starts_with("{\"found\":"), "{one}");
        assert!(!bound[..index].contains(one), "{one}");
    }
}

/// A step may be called otherwise, and a judgement that was written under its name of 2026-11-25 stands.
#[test]
fn what_is_called_otherwise_is_bound_as_before() {
    let called = |label: &str| {
        let Found::Reading(odd) = read(Test::FaultCurrent, Value::Number(dec!(1.2)), None, vec![Odd::Open]) else {
            panic!("a reading")
        };
        Found::Reading(OddReading { label: label.into(), ..odd })
    };
    for (now, then) in [
        ("PFC L–N", "Fault current line–neutral"),
        ("PFC L–E L2", "Fault current line–earth L2"),
        ("PFC L1–L2", "Fault current L1–L2"),
        ("PFC here, L–N", "Fault current here, line–neutral"),
        ("PFC here, L–E", "Fault current here, line–earth"),
        ("Loop impedance L–N", "Its loop, line–neutral"),
        ("Loop impedance L–E L3", "Its loop, line–earth L3"),
        ("Functional: switch each light on and off", "Functional: plug something in"),
        ("Ze", "Ze"),
    ] {
        // The JSON that was written then: the reason itself, under its name of that day.
        let written = serde_json::to_string(&called(then)).unwrap();
        assert_eq!(finding(called(now)).bound(), written, "{now}");
    }
    // Every step that the demo's origins and boards have is called one of these, or as it always was.
    for job in proof_bench::demo::jobs() {
        let boards = job.installation.boards.iter().flat_map(|one| board_steps(&job.installation, one));
        for step in origin_steps(&job.installation).into_iter().chain(boards) {
            let bound = finding(called(&step.label)).bound();
            assert!(!bound.contains("PFC") && !bound.contains("Loop impedance"), "{}", step.label);
        }
    }
}

/// What a judgement binds to, of each variant and in the words of each kind, as it was written on 2026-12-01: whoever
/// judged then is believed now.
#[test]
fn every_variant_binds_as_it_did() {
    let file = concat!(env!("CARGO_MANIFEST_DIR"), "/../../fixtures/2026-12-01/findings.json");
    let now: Vec<serde_json::Value> = all()
        .into_iter()
        .map(finding)
        .map(|one| {
            let (code, may_be_judged) = (one.kind().code(), one.may_be_judged());
            serde_json::json!({ "code": code, "may_be_judged": may_be_judged, "bound": one.bound() })
        })
        .collect();
    let then: Vec<serde_json::Value> = serde_json::from_slice(&std::fs::read(file).unwrap()).unwrap();
    for one in &then {
        assert!(now.contains(one), "bound otherwise: {one}");
    }
    assert!(then.len() > 110, "{}", then.len());
}
