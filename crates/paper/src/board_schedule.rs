//! The schedules of one board: its circuits, and the results of their tests.

use crate::board_fields::board_fields;
use crate::sheet::{PrintedSheet, figures, words};
use proof_job::installation::{Board, Circuit, Feed, Installation};
use proof_job::reading::{CurrentReadings, Key, Place, Stage, Test, Value};
use proof_judge::verdict::circuit_limit;
use proof_standard::conductor::Material;
use proof_standard::limits::rcd::RcdKind;
use proof_standard::shape::Shape;
use proof_work::certificate::{BoardResults, Certificate};

pub(crate) fn main_switch(board: &Board) -> String {
    let switch = &board.main_switch;
    let poles = switch.poles.map(|poles| format!("{poles} pole ")).unwrap_or_default();
    let figure = |value: Option<String>, unit: &str| value.map(|value| format!(", {value} {unit}")).unwrap_or_default();
    let rating = switch.rating_a.map(|a| format!("{} A", a.normalize())).unwrap_or_default();
    let more = [
        figure(switch.voltage_v.map(|v| v.normalize().to_string()), "V"),
        figure(switch.fuse_a.map(|a| a.normalize().to_string()), "A fuse or setting"),
        figure(switch.idn_ma.map(|ma| ma.normalize().to_string()), "mA"),
        figure(switch.delay_ms.map(|ms| ms.get().normalize().to_string()), "ms delay"),
    ]
    .concat();
    format!("{} {poles}{rating}{more}", switch.kind).trim().to_owned()
}

fn board_line(installation: &Installation, board: &Board) -> String {
    let fed = match board.fed_by {
        Feed::Supply => "the supply".to_owned(),
        Feed::Circuit { circuit } => {
            installation.circuit(circuit).map_or_else(String::new, |c| format!("way {} ({})", c.way, c.description))
        }
    };
    format!(
        "{}, {}. Fed by {fed}. {}. Main switch: {}.",
        board.name,
        board.location,
        board.system.name(),
        main_switch(board)
    )
}

pub(crate) fn schedule_of_circuits(
    sheet: &mut PrintedSheet<'_>,
    certificate: &Certificate,
    settled: &CurrentReadings<'_>,
    board: &Board,
) {
    let (installation, form) = (&certificate.job.installation, certificate.form);
    sheet.new_page(true, &format!("Schedule of circuits: {}", board.name));
    sheet.paragraph(&board_line(installation, board));
    let fields = board_fields(certificate, settled, board);
    sheet.fields(4, &fields);
    let rows: Vec<Vec<String>> = installation
        .circuits_on(board.id)
        .filter(|circuit| form.covers(circuit.id))
        .map(|circuit| circuit_row(installation, board, circuit))
        .collect();
    sheet.table(
        &[
            words("Way", 1.0),
            words("Circuit", 5.0),
            words("Runs", 1.4),
            figures("Points", 1.1),
            words("Device", 3.2),
            figures("Breaking kA", 1.4),
            words("RCD, AFDD", 2.2),
            words("Cable", 2.4),
            figures("Line mm²", 1.1),
            figures("N mm²", 1.1),
            figures("CPC mm²", 1.1),
            words("Ref.", 1.0),
            figures("Length m", 1.4),
            words("N, CPC terminal", 1.7),
            figures("Max. Zs Ω", 1.4),
            figures("Disc. s", 1.1),
        ],
        &rows,
        7.2,
    );
}

pub(crate) fn circuit_row(installation: &Installation, board: &Board, circuit: &Circuit) -> Vec<String> {
    let limit = circuit_limit(installation, circuit);
    let maximum = if limit.by_rcd {
        limit.rcd_ohm.map(|ohm| ohm.to_string())
    } else {
        limit.device.as_ref().ok().map(|maximum| maximum.printed_ohm.to_string())
    };
    let rcd = installation.rcd_for(circuit).map_or_else(
        || "—".to_owned(),
        |rcd| {
            let kind = if rcd.kind == RcdKind::General { "" } else { rcd.kind.name() };
            let rating = rcd.rating_a.map(|a| format!(" {} A", a.normalize())).unwrap_or_default();
            let standard = if rcd.standard.is_empty() { String::new() } else { format!(" {}", rcd.standard) };
            format!("{} mA {:?} {kind}{rating}{standard}", rcd.idn_ma.normalize(), rcd.detects)
        },
    );
    vec![
        circuit.way.clone(),
        circuit.description.clone(),
        if circuit.shape == Shape::Ring { "ring" } else { "radial" }.to_owned(),
        circuit.points.len().to_string(),
        format!(
            "{} {}",
            circuit.device.standard.name(),
            circuit
                .device
                .trip
                .map_or_else(|| format!("{} A", circuit.device.rating_a.normalize()), |_| circuit.device.shown())
        ),
        circuit.device.breaking_ka.map(|ka| ka.normalize().to_string()).unwrap_or_default(),
        if circuit.arc_detection { format!("{rcd}, AFDD") } else { rcd },
        match circuit.cable.material {
            Material::Copper => format!("{}, copper", circuit.cable.kind),
            Material::Aluminium => format!("{}, aluminium", circuit.cable.kind),
        },
        circuit.cable.line_mm2.get().to_string(),
        circuit.cable.neutral_mm2.map_or_else(|| "—".to_owned(), |mm2| mm2.get().to_string()),
        circuit.cable.cpc_mm2.get().to_string(),
        circuit.cable.method.map(|method| method.name().to_owned()).unwrap_or_default(),
        circuit.whole_length().map(|m| m.to_string()).unwrap_or_default(),
        [circuit.neutral_terminal.as_str(), circuit.cpc_terminal.as_str()].join(" ").trim().to_owned(),
        maximum.unwrap_or_default(),
        circuit.disconnection(board.system).seconds().to_string(),
    ]
}

/// The test button of an arc fault detection device.
fn arc_button(circuit: &Circuit, settled: &CurrentReadings<'_>) -> String {
    if !circuit.arc_detection {
        return "—".to_owned();
    }
    let key = Key::on_circuit(circuit.id, Place::Board, Test::AfddButton);
    settled.value(&key).map(Value::shown).unwrap_or_default()
}

pub(crate) fn schedule_of_results(
    sheet: &mut PrintedSheet<'_>,
    certificate: &Certificate,
    settled: &CurrentReadings<'_>,
    board: &Board,
    results: &BoardResults,
) {
    let installation = &certificate.job.installation;
    sheet.new_page(true, &format!("Schedule of test results: {}", board.name));
    let stages = [Stage::EndToEnd, Stage::R1R2, Stage::Insulation, Stage::Zs, Stage::Rcd];
    let names: Vec<&str> = stages.iter().map(|stage| stage.label()).collect();
    sheet.paragraph(&format!("Resistances in Ω, insulation in MΩ, times in ms. {}. Each R1+R2 and Zs is the highest of its circuit, each insulation the lowest.", names.join(", ")));
    let rows: Vec<Vec<String>> = results
        .rows
        .iter()
        .map(|row| {
            let circuit = row.circuit(installation, board.id);
            let (r1_r2, r2_alone) = row.continuity();
            let afdd = circuit.map(|circuit| arc_button(circuit, settled)).unwrap_or_default();
            let row = row.printed();
            vec![
                row.way.clone(),
                circuit.map(|c| c.description.clone()).unwrap_or_default(),
                row.r1.clone(),
                row.rn.clone(),
                row.r2.clone(),
                r1_r2,
                r2_alone,
                row.live_live.clone(),
                row.live_earth.clone(),
                row.test_v.clone(),
                row.polarity.clone(),
                row.zs.clone(),
                row.rcd_one.clone(),
                row.rcd_five.clone(),
                row.rcd_button.clone(),
                afdd,
                row.remarks.clone(),
            ]
        })
        .collect();
    sheet.table(
        &[
            words("Way", 1.0),
            words("Circuit", 4.6),
            figures("Ring r1", 1.2),
            figures("Ring rn", 1.2),
            figures("Ring r2", 1.2),
            figures("R1+R2", 1.2),
            figures("R2", 1.0),
            figures("Ins. L–L, L–N", 1.5),
            figures("Ins. L–E", 1.5),
            figures("Test V", 1.1),
            words("Polarity", 1.2),
            figures("Zs", 1.2),
            figures("RCD IΔn", 1.4),
            figures("RCD 5 IΔn", 1.3),
            words("RCD button", 1.2),
            words("AFDD", 1.0),
            words("Remarks", 3.8),
        ],
        &rows,
        7.6,
    );
}
