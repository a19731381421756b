//! A circuit described in full: device, cable, points with their legs and spurs.

use super::framed;
use crate::error::{Handled, WebError, go, go_done, page_with};
use crate::forms::{Fields, by_key};
use crate::frame::{Frame, Section};
use crate::request::{NotTaken, change, edit, find_circuit, load};
use crate::shared::Shared;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use proof_job::installation::{
    Accessory, Cable, CableFamily, CableKind, Carried, Circuit, CircuitVoltage, CpcIs, Device, Feeds, Insulation,
    Lines, Nature, Point, PointId, Purpose, ResidualDevice, Serves, Wiring, validity,
};
use proof_job::job::Job;
use proof_standard::conductor::Material;
use proof_standard::house_rules::{ArmourAndTray, Choice};
use proof_standard::limits::capacity::ReferenceMethod;
use proof_standard::limits::devices::{DeviceStandard, TripType};
use proof_standard::limits::rcd::{RcdKind, RcdType};
use proof_standard::quantity::{Amps, Kiloamps, Metres, Milliamps, SquareMillimetres};
use proof_standard::shape::{MOST_POINTS, Shape};
use rust_decimal::dec;
use uuid::Uuid;

/// Written in the field of the neutral where there is none.
const NO_NEUTRAL: &str = "none";
/// Blank rows offered beyond the points that there are.
const BLANK_ROWS: usize = 3;

#[derive(Template)]
#[template(path = "circuit_form.html")]
struct FormPage {
    frame: Frame,
    job: Uuid,
    circuit: Circuit,
    revision: i64,
    f: Fields,
    rows: Vec<usize>,
    spurs: Vec<(String, String)>,
    rcds: Vec<(String, String)>,
    kinds: Vec<(String, String)>,
    /// Risk assessments of the job, where one may stand for additional protection.
    assessed: Vec<(String, String)>,
    /// The work adds to what stands: whether it touches this circuit is asked.
    adds: bool,
    /// Lamps and their switches hang on it.
    lighting: bool,
    accessories: Vec<(&'static str, &'static str)>,
    carried: Vec<(&'static str, &'static str)>,
    problem: String,
}

fn text<T: ToString>(value: Option<T>) -> String {
    value.map(|value| value.to_string()).unwrap_or_default()
}

fn filled(circuit: &Circuit) -> Fields {
    let cable = &circuit.cable;
    let mut f = Fields::from_values([
        ("way", circuit.way.clone()),
        ("description", circuit.description.clone()),
        ("shape", circuit.shape.key().to_owned()),
        ("feeds", circuit.feeds.key().to_owned()),
        ("lines", circuit.lines.key().to_owned()),
        ("standard", circuit.device.standard.name().to_owned()),
        ("trip", circuit.device.trip.map_or("", TripType::letter).to_owned()),
        ("rating", circuit.device.rating_a.normalize().to_string()),
        ("breaking", text(circuit.device.breaking_ka.map(Kiloamps::normalize))),
        ("rcd", text(circuit.rcd)),
        ("cable", cable.kind.to_string()),
        ("insulation", cable.insulation.map_or("", Insulation::key).to_owned()),
        ("line_mm2", cable.line_mm2.get().to_string()),
        ("neutral_mm2", cable.neutral_mm2.map_or_else(|| NO_NEUTRAL.to_owned(), |mm2| mm2.get().to_string())),
        ("cpc_mm2", cable.cpc_mm2.get().to_string()),
        ("method", cable.method.map_or("", ReferenceMethod::name).to_owned()),
        ("neutral_terminal", circuit.neutral_terminal.clone()),
        ("cpc_terminal", circuit.cpc_terminal.clone()),
        ("length", text(circuit.length_m.map(Metres::get))),
        ("return_leg", text(circuit.return_leg_m.map(Metres::get))),
        ("order", if circuit.order_known { "yes" } else { "no" }.to_owned()),
        ("wiring", circuit.wiring.key().to_owned()),
        ("cable_c", text(circuit.cable_c.map(proof_standard::quantity::Celsius::get))),
        ("arc", if circuit.arc_detection { "yes" } else { "no" }.to_owned()),
        ("remarks", circuit.remarks.clone()),
        ("band", circuit.band.key().to_owned()),
        ("cpc_is", cable.cpc_is.key().to_owned()),
        ("armour", circuit.armour.map_or("", ArmourAndTray::key).to_owned()),
        ("design_a", text(circuit.design_current_a.map(Amps::normalize))),
        ("capacity_a", text(circuit.capacity_a.map(Amps::normalize))),
        ("capacity_source", circuit.capacity_source.clone()),
        ("no_overload", circuit.no_overload.clone()),
        ("exception", text(circuit.exception)),
        ("untouched", if circuit.untouched { "yes" } else { "no" }.to_owned()),
        ("magnetic", text(circuit.device.magnetic_a.map(Amps::normalize))),
        ("energy_class", text(circuit.device.energy_class)),
        ("let_through", text(circuit.device.let_through_a2s.map(|a2s| a2s.normalize()))),
    ]);
    for serves in &circuit.serves {
        f.put(serves.key(), "yes");
    }
    for (row, point) in circuit.points.iter().enumerate() {
        f.put(format!("p{row}_id"), point.id.0.to_string());
        f.put(format!("p{row}_name"), point.name.clone());
        f.put(format!("p{row}_leg"), text(point.leg_m.map(Metres::get)));
        f.put(format!("p{row}_spur"), text(point.spur_from.map(|id| id.0)));
        f.put(format!("p{row}_what"), point.accessory.key());
        f.put(format!("p{row}_metal"), point.metalwork.clone());
        f.put(format!("p{row}_rating"), text(point.rating_a.map(Amps::normalize)));
        f.put(format!("p{row}_set"), point.switching.clone());
        if point.existing {
            f.put(format!("p{row}_stood"), "yes");
        }
        for carried in &point.connected_load {
            f.put(format!("p{row}_{}", carried.key()), "yes");
        }
    }
    f
}

fn points(f: &mut Fields, before: &Circuit) -> Vec<Point> {
    let mut next = before.points.iter().map(|point| point.id.0).max().unwrap_or(0);
    let mut points = Vec::new();
    for row in 0..MOST_POINTS + BLANK_ROWS {
        let name = f.line(&format!("p{row}_name"), validity::LONGEST_LINE);
        let leg_m = f.quantity(&format!("p{row}_leg"), "metres such as 4.5");
        if name.is_empty() {
            if leg_m.is_some() {
                f.wrong(&format!("p{row}_name"), "Name the point that this cable leads to.");
            }
            continue;
        }
        let known = f.get(&format!("p{row}_id")).parse().ok().filter(|id| before.points.iter().any(|p| p.id.0 == *id));
        let id = PointId(known.unwrap_or_else(|| {
            next += 1;
            next
        }));
        let spur_from = f.get(&format!("p{row}_spur")).parse().ok().map(PointId);
        let metalwork = f.line(&format!("p{row}_metal"), validity::LONGEST_LINE);
        let switching = f.line(&format!("p{row}_set"), validity::LONGEST_LINE);
        let earlier = before.point(id).cloned().unwrap_or_else(|| Point {
            accessory: Accessory::usual_for(by_key(&Feeds::ALL, f.get("feeds"), Feeds::key).unwrap_or(before.feeds)),
            ..Point::default()
        });
        let rating = f.decimal(&format!("p{row}_rating"), "amperes such as 16").map(Amps);
        let asked = f.ticked(&format!("p{row}_asked"));
        let carries = Carried::ALL.into_iter().filter(|one| f.ticked(&format!("p{row}_{}", one.key()))).collect();
        points.push(Point {
            id,
            name,
            spur_from,
            leg_m,
            cable: earlier.cable,
            accessory: by_key(&Accessory::ALL, f.get(&format!("p{row}_what")), Accessory::key)
                .unwrap_or(earlier.accessory),
            rating_a: if asked { rating } else { earlier.rating_a },
            metalwork: if asked { metalwork } else { earlier.metalwork },
            connected_load: if asked { carries } else { earlier.connected_load },
            switching: if asked { switching } else { earlier.switching },
            existing: if asked { f.ticked(&format!("p{row}_stood")) } else { earlier.existing },
        });
    }
    points
}

fn taken(f: &mut Fields, before: &Circuit) -> Circuit {
    const SIZE: &str = "a size in mm², such as 2.5";
    let standard = DeviceStandard::from_name(f.get("standard")).unwrap_or(before.device.standard);
    let trip = TripType::from_letter(f.get("trip")).filter(|_| standard.is_breaker());
    if standard.is_breaker() && trip.is_none() {
        f.wrong("trip", "A breaker has a type: B, C or D.");
    }
    let rating_a = Amps(f.decimal("rating", "amperes such as 32").unwrap_or_default());
    if rating_a <= Amps::default() {
        f.wrong("rating", "Give its rating in amperes, such as 32.");
    }
    let without = matches!(f.trimmed("neutral_mm2").to_lowercase().as_str(), NO_NEUTRAL | "-" | "–");
    let mut size = |name: &str, old: SquareMillimetres| {
        let given = f.quantity(name, SIZE);
        if given.is_none() {
            f.wrong(name, "Give the size in mm², such as 2.5.");
        }
        given.unwrap_or(old)
    };
    let line_mm2 = size("line_mm2", before.cable.line_mm2);
    let neutral_mm2 = (!without).then(|| size("neutral_mm2", before.cable.neutral_mm2.unwrap_or(line_mm2)));
    let cpc_mm2 = size("cpc_mm2", before.cable.cpc_mm2);
    let shape = by_key(&Shape::ALL, f.get("shape"), Shape::key).unwrap_or_default();
    Circuit {
        id: before.id,
        board: before.board,
        way: f.line("way", 20),
        description: f.line("description", validity::LONGEST_LINE),
        shape,
        feeds: by_key(&Feeds::ALL, f.get("feeds"), Feeds::key).unwrap_or_default(),
        lines: by_key(&Lines::ALL, f.get("lines"), Lines::key).unwrap_or_default(),
        device: Device {
            standard,
            trip,
            rating_a,
            breaking_ka: f.decimal("breaking", "kA such as 6").map(Kiloamps),
            ..by_settings(f, &before.device)
        },
        rcd: f.get("rcd").parse().ok(),
        cable: Cable {
            kind: CableKind::from(f.line("cable", validity::LONGEST_LINE)),
            insulation: by_key(&Insulation::ALL, f.get("insulation"), Insulation::key),
            material: Material::Copper,
            line_mm2,
            neutral_mm2,
            cpc_mm2,
            cpc_is: by_key(&CpcIs::ALL, f.get("cpc_is"), CpcIs::key).unwrap_or(before.cable.cpc_is),
            method: ReferenceMethod::from_name(f.get("method")),
        },
        neutral_terminal: f.line("neutral_terminal", 20),
        cpc_terminal: f.line("cpc_terminal", 20),
        length_m: f.quantity("length", "metres such as 54"),
        return_leg_m: f.quantity("return_leg", "metres such as 9").filter(|_| shape == Shape::Ring),
        points: points(f, before),
        order_known: f.is("order", "yes"),
        wiring: by_key(&Wiring::ALL, f.get("wiring"), Wiring::key).unwrap_or_default(),
        cable_c: f.quantity("cable_c", "degrees Celsius such as 12"),
        arc_detection: f.is("arc", "yes"),
        remarks: f.paragraph("remarks", validity::LONGEST_TEXT),
        ..designed(f, before)
    }
}

/// What is marked on a device or set at it, beside its rating.
fn by_settings(f: &mut Fields, before: &Device) -> Device {
    if !f.ticked("designed") {
        return before.clone();
    }
    let class = f.decimal("energy_class", "1, 2 or 3 as marked");
    if class.is_some_and(|class| !class.is_integer() || class < dec!(1) || class > dec!(3)) {
        f.wrong("energy_class", "The class is 1, 2 or 3.");
    }
    Device {
        magnetic_a: f.decimal("magnetic", "amperes such as 320").map(Amps),
        energy_class: class.and_then(|class| u8::try_from(class).ok()),
        let_through_a2s: f.decimal("let_through", "A²s such as 18000"),
        ..before.clone()
    }
}

/// What the designer knows of a circuit.
fn designed(f: &mut Fields, before: &Circuit) -> Circuit {
    if !f.ticked("designed") {
        return before.clone();
    }
    let capacity_a = f.decimal("capacity_a", "amperes such as 27").map(Amps);
    let capacity_source = f.line("capacity_source", validity::LONGEST_LINE);
    if capacity_a.is_some() && capacity_source.is_empty() {
        f.wrong("capacity_source", "Say where it comes from: the table, or the designer's sheet.");
    }
    Circuit {
        band: by_key(&CircuitVoltage::ALL, f.get("band"), CircuitVoltage::key).unwrap_or_default(),
        serves: Serves::ALL.into_iter().filter(|one| f.ticked(one.key())).collect(),
        design_current_a: f.decimal("design_a", "amperes such as 13").map(Amps),
        capacity_a,
        capacity_source,
        no_overload: f.line("no_overload", validity::LONGEST_LINE),
        exception: f.get("exception").parse().ok(),
        untouched: f.is("untouched", "yes"),
        armour: ArmourAndTray::from_key(f.get("armour")),
        ..before.clone()
    }
}

/// Takes a new RCD of the board into the job, if the form describes one, and covers the circuit with it.
fn new_rcd(f: &mut Fields, job: &mut Job, circuit: &mut Circuit) {
    if !f.is("rcd", "new") {
        return;
    }
    let idn_ma = Milliamps(f.decimal("rcd_idn", "mA such as 30").unwrap_or_default());
    if idn_ma < validity::LEAST_IDN {
        f.wrong("rcd_idn", "Give its residual current in mA, such as 30.");
        return;
    }
    let label = f.line("rcd_label", validity::LONGEST_LINE);
    let rcd = ResidualDevice {
        id: f.made_id("rcd"),
        label: if label.is_empty() { format!("RCD {idn_ma} mA") } else { label },
        idn_ma,
        kind: RcdKind::from_name(f.get("rcd_kind")).unwrap_or_default(),
        detects: by_key(&RcdType::ALL, f.get("rcd_type"), RcdType::key).unwrap_or_default(),
        standard: f.line("rcd_standard", validity::LONGEST_LINE),
        rating_a: f.decimal("rcd_rating", "amperes such as 63").map(Amps),
    };
    circuit.rcd = Some(rcd.id);
    if let Some(board) = job.installation.boards.iter_mut().find(|board| board.id == circuit.board) {
        board.rcds.push(rcd);
    }
}

fn drawn(
    f: Fields,
    (job, events): (&Job, &[proof_job::site::Event]),
    (id, revision): (Uuid, i64),
    problem: String,
    status: StatusCode,
) -> Handled {
    let circuit = find_circuit(job, id)?.clone();
    let lighting = circuit.feeds == Feeds::Lighting || f.is("feeds", Feeds::Lighting.key());
    let typed = (0..MOST_POINTS + BLANK_ROWS).take_while(|row| !f.get(&format!("p{row}_name")).is_empty()).count();
    let rows = typed.max(circuit.points.len()) + BLANK_ROWS;
    let mut rcds = vec![(String::new(), "none".to_owned())];
    if let Some(board) = job.installation.board(circuit.board) {
        rcds.extend(
            board.rcds.iter().map(|rcd| (rcd.id.to_string(), format!("{} ({} mA)", rcd.label, rcd.idn_ma.normalize()))),
        );
    }
    rcds.push(("new".to_owned(), "a new one, described here".to_owned()));
    let spurs = std::iter::once((String::new(), "main line".to_owned()))
        .chain(circuit.points.iter().map(|point| (point.id.0.to_string(), format!("spur from {}", point.name))))
        .collect();
    let mut kinds: Vec<(String, String)> =
        CableFamily::ALL.map(|family| (family.key().to_owned(), family.label().to_owned())).to_vec();
    let typed = circuit.cable.kind.text();
    if !kinds.iter().any(|(key, _)| key == typed) {
        kinds.push((typed.to_owned(), format!("“{typed}”, as it was typed")));
    }
    let risk = job.installation.documents.iter().filter(|document| document.purpose == Purpose::RiskAssessment);
    let assessed = risk.map(|document| (document.id.to_string(), document.name.clone())).collect();
    let frame = framed(&format!("Way {} described", circuit.way), Section::Overview, job, events);
    page_with(
        status,
        &FormPage {
            frame,
            job: job.id,
            circuit,
            revision,
            f,
            rows: (0..rows).collect(),
            spurs,
            rcds,
            kinds,
            assessed,
            adds: job.installation.nature != Nature::New,
            lighting,
            accessories: std::iter::once(("", "as the circuit feeds"))
                .chain(Accessory::ALL.map(|one| (one.key(), one.label())))
                .collect(),
            carried: Carried::ALL.map(|one| (one.key(), one.label())).to_vec(),
            problem,
        },
    )
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<(Uuid, Uuid)>) -> Handled {
    let (job, circuit) = path.into_inner();
    let head = load(&shared, job).await?;
    let f = filled(find_circuit(&head.job, circuit)?);
    drawn(f, (&head.job, &head.job.events), (circuit, head.revision), String::new(), StatusCode::OK)
}

/// Puts the form into the description; what is wrong with the whole of it.
fn described(f: &mut Fields, job: &mut Job, id: Uuid) -> Result<Vec<String>, WebError> {
    let mut circuit = taken(f, find_circuit(job, id)?);
    new_rcd(f, job, &mut circuit);
    if let Some(place) = job.installation.circuits.iter_mut().find(|other| other.id == id) {
        place.clone_from(&circuit);
    }
    job.installation.sort_ways();
    Ok(validity::circuit(&job.installation, &circuit))
}

pub(crate) async fn save(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, f: Fields) -> Handled {
    let (job_id, id) = path.into_inner();
    let apply = move |f: &mut Fields, _: &Job, job: &mut Job| {
        let problems = described(f, job, id)?;
        if !problems.is_empty() {
            f.wrong("circuit", format!("{}.", problems.join("; ")));
        }
        Ok(())
    };
    let filled = move |job: &Job| Ok(filled(find_circuit(job, id)?));
    let (f, problem, status) = match edit(&shared, &f, job_id, filled, apply).await {
        Ok(Ok(())) => return Ok(go_done(&format!("/jobs/{job_id}/circuits/{id}"), "circuit")),
        Ok(Err(NotTaken::Wrong(f))) => {
            let whole = f.error("circuit").to_owned();
            let marked = if whole.is_empty() || f.all_wrong().len() > 1 { "see what is marked. " } else { "" };
            (f, format!("Not stored: {marked}{whole}").trim().to_owned(), StatusCode::UNPROCESSABLE_ENTITY)
        }
        Ok(Err(NotTaken::Clash(f))) => (f, "Not stored yet: see what was changed.".to_owned(), StatusCode::CONFLICT),
        Err(WebError::Clash(problem)) => (f, problem, StatusCode::CONFLICT),
        Err(other) => return Err(other),
    };
    let head = load(&shared, job_id).await?;
    drawn(f, (&head.job, &head.job.events), (id, head.revision), problem, status)
}

/// Takes a circuit without readings out.
pub(crate) async fn remove(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, f: Fields) -> Handled {
    let (job_id, circuit_id) = path.into_inner();
    let board = change(&shared, &f, job_id, move |_, job| {
        let board = find_circuit(job, circuit_id)?.board;
        job.installation.circuits.retain(|circuit| circuit.id != circuit_id);
        Ok(board)
    })
    .await?;
    let to = board.map_or_else(|| format!("/jobs/{job_id}"), |board| format!("/jobs/{job_id}/boards/{board}"));
    Ok(go(&to))
}
