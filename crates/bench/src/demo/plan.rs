//! What a job of the demo is made from.

use super::register::{firm, id, instruments, people};
use super::work::time;
use proof_job::installation::inspection::{InspectionAnswer, InspectionOutcome, asked};
use proof_job::installation::{
    Board, Bond, Circuit, Decided, Decision, Feed, Installation, Lines, MainSwitch, Nature, Party, Supply, shorthand,
};
use proof_job::job::{Job, JobCache, MadeAs};
use proof_standard::limits::inspection::Premises;
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Amps, Celsius, Metres, SquareMillimetres};
use rust_decimal::dec;
use uuid::Uuid;

pub(super) const SEED: u64 = 7671;

/// What a job of the demo is made from.
pub(super) struct Plan {
    pub(super) reference: &'static str,
    pub(super) title: &'static str,
    pub(super) board: &'static str,
    pub(super) location: &'static str,
    pub(super) extent: &'static str,
    pub(super) nature: Nature,
    pub(super) begun: &'static str,
    pub(super) circuits: &'static [&'static str],
}

pub(super) fn job(plan: &Plan) -> Job {
    let job_id = id(plan.reference);
    let board_id = Uuid::new_v5(&job_id, b"board");
    let mut board = Board {
        id: board_id,
        name: plan.board.into(),
        location: plan.location.into(),
        fed_by: Feed::Supply,
        system: EarthingSystem::TnCS,
        lines: Lines::Single,
        main_switch: MainSwitch {
            kind: "BS EN 60947-3 switch".into(),
            poles: Some(2),
            rating_a: Some(Amps(dec!(100))),
            ..MainSwitch::default()
        },
        rcds: Vec::new(),
        parallel_earth: Some(false),
        conditional_ka: None,
        surge: String::new(),
    };
    let mut circuits: Vec<Circuit> = Vec::new();
    for line in plan.circuits {
        if let Ok(line) = shorthand::parse(line) {
            let (circuit, rcd) = line.build(board_id, Uuid::new_v5(&job_id, line.way.as_bytes()));
            circuits.push(circuit);
            board.rcds.extend(rcd);
        }
    }
    Job {
        id: job_id,
        reference: plan.reference.into(),
        title: plan.title.into(),
        created_at: time(plan.begun),
        made_as: MadeAs::Work,
        firm: firm(),
        people: people(),
        instruments: instruments(),
        installation: installation(plan, job_id, board, circuits),
        readings: Vec::new(),
        events: Vec::new(),
        history: 0,
        kept: JobCache::default(),
    }
}

pub(super) fn bond(job: Uuid, to: &str, metres: f64) -> Bond {
    Bond {
        id: Uuid::new_v5(&job, to.as_bytes()),
        to: to.into(),
        supplementary: false,
        mm2: Some(SquareMillimetres::literal(10.0)),
        length_m: Metres::new(metres).ok(),
    }
}

pub(super) fn installation(plan: &Plan, job: Uuid, board: Board, circuits: Vec<Circuit>) -> Installation {
    Installation {
        client: Party {
            name: "Halyard Press & Bindery".into(),
            address: "The Old Granary, Sluice Lane, Brackwater".into(),
        },
        site: Party { name: "The Old Granary".into(), address: "Sluice Lane, Brackwater".into() },
        premises: Premises::Industrial,
        nature: plan.nature,
        extent: plan.extent.into(),
        existing: "Intake and the landlord's lighting were not part of the work; no defect was seen in passing.".into(),
        supply: Supply {
            device: "BS 88-3 fuse".into(),
            device_a: Some(Amps(dec!(100))),
            tails_mm2: Some(SquareMillimetres::literal(25.0)),
            neutral_mm2: Some(SquareMillimetres::literal(25.0)),
            earthing_mm2: Some(SquareMillimetres::literal(16.0)),
            bonds: vec![bond(job, "water", 9.0), bond(job, "gas", 14.0)],
            ..Supply::default()
        },
        boards: vec![board],
        circuits,
        ambient_c: Some(Celsius::literal(20.0)),
        maximum_demand_a: Some(Amps(dec!(58))),
        surge: Some(Decision {
            decided: Decided::NotRequired,
            reason: "assessed for the landlord, sheet 12: underground supply, no sensitive equipment".into(),
        }),
        arc: Some(Decision {
            decided: Decided::NotRequired,
            reason: "none of the premises where it is required; the client does not ask for it".into(),
        }),
        origin_altered: (plan.nature != Nature::New).then_some(true),
        ..Installation::default()
    }
}

pub(super) fn inspect(job: &mut Job) {
    let not_here = ["special-wet", "special-outdoor"];
    job.installation.inspection = asked(&job.installation)
        .map(|item| InspectionAnswer {
            item: item.key.into(),
            outcome: if not_here.contains(&item.key) {
                InspectionOutcome::NotApplicable
            } else {
                InspectionOutcome::Yes
            },
            note: String::new(),
        })
        .collect();
}
