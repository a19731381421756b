//! Copies: a circuit on the next free way, a whole board with its circuits. Nothing that was read is copied.

use crate::error::{Handled, WebError, go};
use crate::forms::Fields;
use crate::request::{change, find_board, find_circuit};
use crate::shared::Shared;
use actix_web::web::{Data, Path};
use proof_job::installation::{Circuit, Feed, Installation, ResidualDevice, validity};
use proof_job::job::Job;
use std::collections::HashMap;
use uuid::Uuid;

/// The first number above every way of a board.
pub(crate) fn next_way(installation: &Installation, board: Uuid) -> String {
    let number = |way: &str| way.chars().take_while(char::is_ascii_digit).collect::<String>().parse::<u32>().ok();
    let most = installation.circuits_on(board).filter_map(|circuit| number(&circuit.way)).max().unwrap_or(0);
    (most + 1).to_string()
}

/// A circuit as copied: an RCBO is a device of its own, an RCD over several ways covers the copy too.
fn copied(circuit: &Circuit, id: Uuid, way: String, rcds: &mut Vec<ResidualDevice>) -> Circuit {
    let own = circuit.device.standard == proof_standard::limits::devices::DeviceStandard::BsEn61009;
    let rcd = match circuit.rcd {
        Some(id) if own => rcds.iter().find(|rcd| rcd.id == id).cloned().map(|rcd| {
            let new = ResidualDevice { id: Uuid::new_v4(), label: format!("way {way}"), ..rcd };
            let id = new.id;
            rcds.push(new);
            id
        }),
        other => other,
    };
    let terminal = |text: &str| {
        if text.ends_with(&circuit.way) {
            format!("{}{way}", &text[..text.len() - circuit.way.len()])
        } else {
            text.to_owned()
        }
    };
    Circuit {
        id,
        rcd,
        neutral_terminal: terminal(&circuit.neutral_terminal),
        cpc_terminal: terminal(&circuit.cpc_terminal),
        remarks: String::new(),
        way,
        ..circuit.clone()
    }
}

fn too_many(job: &Job) -> Result<(), WebError> {
    let (boards, circuits) = (job.installation.boards.len(), job.installation.circuits.len());
    if boards > validity::MOST_BOARDS || circuits > validity::MOST_CIRCUITS {
        return Err(WebError::Clash(format!(
            "A job has at most {} boards and {} circuits. Nothing was copied.",
            validity::MOST_BOARDS,
            validity::MOST_CIRCUITS
        )));
    }
    Ok(())
}

pub(crate) async fn circuit(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, f: Fields) -> Handled {
    let (id, circuit_id) = path.into_inner();
    let new = f.made_id("circuit");
    change(&shared, &f, id, move |_, job| {
        let circuit = find_circuit(job, circuit_id)?.clone();
        let way = next_way(&job.installation, circuit.board);
        let board = job.installation.boards.iter_mut().find(|board| board.id == circuit.board);
        let Some(board) = board else { return Err(WebError::NotFound("Its board is not described.".into())) };
        let copy = copied(&circuit, new, way, &mut board.rcds);
        job.installation.circuits.push(copy);
        job.installation.sort_ways();
        too_many(job)
    })
    .await?;
    Ok(go(&format!("/jobs/{id}/circuits/{new}/edit")))
}

pub(crate) async fn board(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, f: Fields) -> Handled {
    let (id, board_id) = path.into_inner();
    let new = f.made_id("board");
    change(&shared, &f, id, move |_, job| {
        let mut board = find_board(job, board_id)?.clone();
        board.id = new;
        board.name = format!("{}, copy", board.name).chars().take(validity::LONGEST_LINE).collect();
        // Two boards on one feeding circuit would be a guess: the copy waits for its own.
        board.fed_by = Feed::Supply;
        let mut ids: HashMap<Uuid, Uuid> = HashMap::new();
        for rcd in &mut board.rcds {
            let new = Uuid::new_v4();
            ids.insert(rcd.id, new);
            rcd.id = new;
        }
        let circuits: Vec<Circuit> = job
            .installation
            .circuits_on(board_id)
            .map(|circuit| Circuit {
                id: Uuid::new_v4(),
                board: board.id,
                rcd: circuit.rcd.and_then(|rcd| ids.get(&rcd).copied()),
                remarks: String::new(),
                ..circuit.clone()
            })
            .collect();
        job.installation.boards.push(board);
        job.installation.circuits.extend(circuits);
        job.installation.sort_ways();
        too_many(job)
    })
    .await?;
    Ok(go(&format!("/jobs/{id}/boards/{new}")))
}
