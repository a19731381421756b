//! A board: its ways, its state, what stands open, a new circuit in one line.

use super::framed;
use crate::cpu_pool::on_cpu_pool;
use crate::draw::{insulation, wall};
use crate::error::{Handled, WebError, go, go_done, page_with};
use crate::forms::{Fields, by_key};
use crate::frame::{Frame, Section, moment};
use crate::request::{NotTaken, blocking, change, edit, find_board, load, remembered};
use crate::shared::Shared;
use crate::words::{Chip, JudgementMark, worse};
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use jiff::Timestamp;
use proof_job::installation::shorthand::Proposed;
use proof_job::installation::{Board, Circuit, Feed, Lines, MainSwitch, ResidualDevice, shorthand, validity};
use proof_job::job::Job;
use proof_job::reading::CurrentReadings;
use proof_job::site::{Alteration, BoardState, OpenItem, Site, board_as_fed};
use proof_judge::verdict::{CircuitJudge, Judgement};
use proof_paper::board_sheets;
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Amps, Kiloamps, Milliamps, Millis};
use proof_standard::shape::Shape;
use proof_work::gate::check_in_use;
use proof_work::plan::outstanding::{Count, outstanding};
use proof_work::plan::sequence::{by_long_lead, steps_kept};
use proof_work::plan::substitute::Scope;
use proof_work::schedule::{PrintedRow, ScheduleRow, result_row};
use uuid::Uuid;

/// A way of the board.
pub(crate) struct Way {
    pub circuit: Circuit,
    pub ring: bool,
    pub device: String,
    pub rcd: String,
    pub row: PrintedRow,
    /// R1+R2, and R2 by long lead.
    pub continuity: (String, String),
    pub done: usize,
    pub of: usize,
    pub chip: Option<Chip>,
}

impl Way {
    /// What was read of it, by name: for a screen that has no room for columns.
    fn figures(&self) -> Vec<(&'static str, &str)> {
        let row = &self.row;
        let all = [
            ("r1", &row.r1),
            ("rn", &row.rn),
            ("r2", &row.r2),
            ("R1+R2", &self.continuity.0),
            ("R2", &self.continuity.1),
            ("Ins. L–L, L–N", &row.live_live),
            ("Ins. L–E", &row.live_earth),
            ("polarity", &row.polarity),
            ("Zs", &row.zs),
            ("RCD ms", &row.rcd_one),
        ];
        all.into_iter().filter(|(_, value)| !value.is_empty()).map(|(name, value)| (name, value.as_str())).collect()
    }
}

/// An item of the put-back list.
pub(crate) struct Open {
    pub item: Uuid,
    pub what: &'static str,
    pub note: String,
    pub since: String,
}

#[derive(Template)]
#[template(path = "board.html")]
struct BoardPage {
    frame: Frame,
    job: Uuid,
    revision: i64,
    board: Board,
    fed: String,
    ways: Vec<Way>,
    state: BoardState,
    /// The supply feeds it, and no other board.
    at_origin: bool,
    pairs: usize,
    /// Ways that may be isolated alone: those that are not dead already.
    alone: Vec<(Uuid, String)>,
    /// R2 by long lead stands in a column of its own.
    long_lead: bool,
    /// Ways that may be left dead and locked.
    dead: Vec<(Uuid, String)>,
    /// It stood before, and may be said to be in use.
    stood: bool,
    open: Vec<Open>,
    alterations: Vec<(&'static str, &'static str)>,
    words: &'static [(&'static str, &'static str)],
    /// The circuit that was added just now, in words.
    added: String,
    /// What completes the line that was typed.
    proposed: Vec<Proposed>,
    /// The board as it hangs on the wall.
    wall: String,
    /// Its insulation on a scale, with its words.
    insulation: Option<insulation::Drawing>,
    writer: String,
    f: Fields,
    feeds: Vec<(String, String)>,
}

/// The ways of a board, judged.
pub(crate) fn ways(job: &Job, board: Uuid, settled: &CurrentReadings<'_>) -> Vec<Way> {
    let installation = &job.installation;
    installation
        .circuits_on(board)
        .map(|circuit| {
            let judge = CircuitJudge::new(installation, circuit, settled);
            let steps = steps_kept(installation, circuit, settled);
            let judged: Vec<Judgement> = steps.iter().filter_map(|step| judge.step(step)).collect();
            let Count { done, of } = outstanding(installation, Scope::Circuit(circuit), settled).all();
            // A reading without a limit says nothing of the way as a whole.
            let worst = judged
                .iter()
                .map(worse)
                .filter(|chip| chip.mark != JudgementMark::Unjudged)
                .min_by_key(|chip| chip.mark);
            Way {
                ring: circuit.shape == Shape::Ring,
                device: circuit.device.shown(),
                rcd: installation
                    .rcd_for(circuit)
                    .map(|rcd| format!("{} mA", rcd.idn_ma.normalize()))
                    .unwrap_or_default(),
                continuity: ScheduleRow::Figures(Box::new(result_row(installation, circuit, settled))).continuity(),
                row: result_row(installation, circuit, settled).printed(),
                done,
                of,
                chip: worst,
                circuit: circuit.clone(),
            }
        })
        .collect()
}

/// What a page is asked for beside the board itself.
struct BoardQuery {
    f: Fields,
    status: StatusCode,
    added: Option<Uuid>,
    proposed: Vec<Proposed>,
}

impl BoardQuery {
    fn again(f: Fields, status: StatusCode) -> Self {
        Self { f, status, added: None, proposed: Vec::new() }
    }
}

/// A circuit in words, as the notice says that it was added.
fn in_words(circuit: &Circuit) -> String {
    let points = circuit.points.len();
    let (line, cpc) = (circuit.cable.line_mm2.get(), circuit.cable.cpc_mm2.get());
    let mut words = vec![
        format!("way {} {}", circuit.way, circuit.description),
        circuit.shape.label().to_owned(),
        circuit.device.shown(),
        format!("{line}/{cpc} mm²"),
    ];
    words.extend(circuit.length_m.map(|m| format!("{} m", m.get())));
    words.push(format!("{points} point{}", if points == 1 { "" } else { "s" }));
    words.join(", ")
}

/// What stands open on a board.
fn open_on(site: &Site<'_>, board: Uuid) -> Vec<Open> {
    let shown = |item: &OpenItem<'_>| Open {
        item: item.item,
        what: item.alteration.label(),
        note: item.note.to_owned(),
        since: format!("{} by {}", moment(item.since), item.by),
    };
    site.open().iter().filter(|item| item.board == board).map(shown).collect()
}

/// What may feed a board, by key and name; and what does, in words.
fn feeds(job: &Job, board: &Board) -> (Vec<(String, String)>, String) {
    let feeds = std::iter::once(("supply".to_owned(), "the supply".to_owned()))
        .chain(
            job.installation
                .circuits
                .iter()
                .filter(|circuit| circuit.board != board.id)
                .map(|circuit| (circuit.id.to_string(), format!("way {} {}", circuit.way, circuit.description))),
        )
        .collect();
    let fed = match board.fed_by {
        Feed::Supply => "the supply".to_owned(),
        Feed::Circuit { circuit } => {
            job.installation.circuit(circuit).map_or_else(String::new, |c| format!("way {} {}", c.way, c.description))
        }
    };
    (feeds, fed)
}

async fn drawn(shared: Data<Shared>, request: &HttpRequest, job: Uuid, board: Uuid, asked: BoardQuery) -> Handled {
    let writer = remembered(request, "writer");
    let head = blocking(move || Ok(shared.store.job(job)?)).await?;
    let job = &head.job;
    let board = find_board(job, board)?.clone();
    let settled = job.settled();
    let mut f = asked.f;
    if f.get("name").is_empty() && !f.any_wrong() {
        for (name, value) in board_fields(&board) {
            f.put(name, value);
        }
    }
    let (feeds, fed) = feeds(job, &board);
    let site = job.site();
    let named = |wanted: &dyn Fn(&Circuit) -> bool| -> Vec<(Uuid, String)> {
        let ways = job.installation.circuits_on(board.id).filter(|circuit| wanted(circuit));
        ways.map(|circuit| (circuit.id, format!("{} {}", circuit.way, circuit.description))).collect()
    };
    let ways = ways(job, board.id, &settled);
    let modules: Vec<wall::Module> =
        ways.iter().map(|way| wall::Module::for_circuit(&way.circuit, !way.rcd.is_empty(), way.chip)).collect();
    let page = BoardPage {
        frame: framed(&board.name, Section::Overview, job, &job.events),
        job: job.id,
        revision: head.revision,
        fed,
        wall: wall::drawing(job.id, &board, &modules),
        insulation: insulation::draw_insulation(&job.installation, board.id, &settled),
        ways,
        state: board_as_fed(&job.installation, &site, board.id),
        at_origin: board.fed_by == Feed::Supply,
        pairs: proof_job::site::isolation::pairs(board.lines).len(),
        alone: named(&|circuit| site.circuit(board.id, circuit.id).0 != BoardState::ProvedDead),
        dead: named(&|circuit| {
            let dead = site.circuit(board.id, circuit.id).0 == BoardState::ProvedDead;
            dead || site.waits_off(board.id, circuit.id)
        }),
        long_lead: job.installation.circuits_on(board.id).any(|one| by_long_lead(&job.installation, one)),
        stood: check_in_use(job, board.id).is_ok(),
        open: open_on(&site, board.id),
        alterations: Alteration::ALL.map(|one| (one.key(), one.label())).to_vec(),
        words: shorthand::WORDS,
        added: asked.added.and_then(|id| job.installation.circuit(id)).map(in_words).unwrap_or_default(),
        proposed: asked.proposed,
        writer,
        f,
        feeds,
        board,
    };
    page_with(asked.status, &page)
}

fn board_fields(board: &Board) -> Vec<(&'static str, String)> {
    let switch = &board.main_switch;
    vec![
        ("name", board.name.clone()),
        ("location", board.location.clone()),
        ("system", board.system.name().to_owned()),
        ("lines", board.lines.key().to_owned()),
        (
            "fed",
            match board.fed_by {
                Feed::Supply => "supply".to_owned(),
                Feed::Circuit { circuit } => circuit.to_string(),
            },
        ),
        ("switch", switch.kind.clone()),
        ("poles", switch.poles.map(|poles| poles.to_string()).unwrap_or_default()),
        ("conditional", board.conditional_ka.map(|ka| ka.normalize().to_string()).unwrap_or_default()),
        ("surge", board.surge.clone()),
        ("switch_v", switch.voltage_v.map(|v| v.normalize().to_string()).unwrap_or_default()),
        ("switch_fuse", switch.fuse_a.map(|a| a.normalize().to_string()).unwrap_or_default()),
        ("switch_idn", switch.idn_ma.map(|ma| ma.normalize().to_string()).unwrap_or_default()),
        ("switch_delay", switch.delay_ms.map(|ms| ms.get().normalize().to_string()).unwrap_or_default()),
        ("switch_a", switch.rating_a.map(|a| a.normalize().to_string()).unwrap_or_default()),
    ]
}

/// The page again, with what was refused.
pub(crate) async fn again(
    shared: Data<Shared>,
    request: &HttpRequest,
    (job, board): (Uuid, Uuid),
    f: Fields,
    status: StatusCode,
) -> Handled {
    drawn(shared, request, job, board, BoardQuery::again(f, status)).await
}

/// What was done just before.
#[derive(serde::Deserialize, Default)]
pub(crate) struct Before {
    added: Option<Uuid>,
}

pub(crate) async fn show(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    before: Query<Before>,
    request: HttpRequest,
) -> Handled {
    let (job, board) = path.into_inner();
    let asked = BoardQuery { added: before.added, ..BoardQuery::again(Fields::default(), StatusCode::OK) };
    drawn(shared, &request, job, board, asked).await
}

/// Adds a board by its name.
pub(crate) async fn add(shared: Data<Shared>, path: Path<Uuid>, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let name = f.line("board_name", validity::LONGEST_LINE);
    if name.is_empty() || f.any_wrong() {
        return Err(WebError::Bad(format!(
            "A board has a name of up to {} characters. Go back; nothing was stored.",
            validity::LONGEST_LINE
        )));
    }
    if !f.get("from").is_empty() {
        let asked = serde_urlencoded::to_string([("from", f.get("from")), ("board", name.as_str())]);
        return Ok(go(&format!("/jobs/{id}/begin?{}", asked.unwrap_or_default())));
    }
    let board = f.made_id("board");
    change(&shared, &f, id, move |_, job| {
        if job.installation.boards.len() >= validity::MOST_BOARDS {
            return Err(WebError::Bad(format!("A job has at most {} boards.", validity::MOST_BOARDS)));
        }
        job.installation.boards.push(Board {
            id: board,
            name,
            location: String::new(),
            fed_by: Feed::Supply,
            system: job.installation.supply.system,
            lines: job.installation.supply.lines,
            main_switch: MainSwitch::default(),
            rcds: Vec::new(),
            parallel_earth: None,
            conditional_ka: None,
            surge: String::new(),
        });
        Ok(())
    })
    .await?;
    Ok(go(&format!("/jobs/{id}/boards/{board}")))
}

pub(crate) async fn save(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, f: Fields) -> Handled {
    let (id, board_id) = path.into_inner();
    let filled = move |job: &Job| {
        let mut f = Fields::default();
        for (name, value) in board_fields(find_board(job, board_id)?) {
            f.put(name, value);
        }
        Ok(f)
    };
    match edit(&shared, &f, id, filled, move |f, _, job| described(f, job, board_id)).await? {
        Ok(()) => Ok(go_done(&format!("/jobs/{id}/boards/{board_id}"), "board")),
        Err(NotTaken::Wrong(f)) => {
            drawn(shared, &request, id, board_id, BoardQuery::again(f, StatusCode::UNPROCESSABLE_ENTITY)).await
        }
        Err(NotTaken::Clash(mut f)) => {
            f.wrong("board", "Not stored yet: somebody changed this board meanwhile.");
            drawn(shared, &request, id, board_id, BoardQuery::again(f, StatusCode::CONFLICT)).await
        }
    }
}

/// Puts the form of a board into its description.
fn described(f: &mut Fields, job: &mut Job, board_id: Uuid) -> Result<(), WebError> {
    find_board(job, board_id)?;
    if let Some(board) = job.installation.boards.iter_mut().find(|board| board.id == board_id) {
        board.name = f.line("name", validity::LONGEST_LINE);
        board.location = f.line("location", validity::LONGEST_LINE);
        board.system = EarthingSystem::from_name(f.get("system")).unwrap_or(board.system);
        board.lines = by_key(&Lines::ALL, f.get("lines"), Lines::key).unwrap_or_default();
        board.fed_by = f.get("fed").parse().map_or(Feed::Supply, |circuit| Feed::Circuit { circuit });
        board.conditional_ka = f.decimal("conditional", "kiloamperes such as 16").map(Kiloamps);
        board.surge = f.line("surge", validity::LONGEST_LINE);
        let poles = f.decimal("poles", "a number of poles from 1 to 4");
        board.main_switch = MainSwitch {
            kind: f.line("switch", validity::LONGEST_LINE),
            poles: poles.and_then(|poles| u8::try_from(poles).ok()),
            rating_a: f.decimal("switch_a", "amperes such as 100").map(Amps),
            voltage_v: f.decimal("switch_v", "volts such as 400"),
            fuse_a: f.decimal("switch_fuse", "amperes such as 100").map(Amps),
            idn_ma: f.decimal("switch_idn", "mA such as 100").map(Milliamps),
            delay_ms: f.decimal("switch_delay", "ms such as 60").map(Millis),
        };
    }
    if f.trimmed("name").is_empty() {
        f.wrong("name", "A board has a name.");
    }
    if validity::fed_in_a_circle(&job.installation, board_id) {
        f.wrong("fed", "A board cannot feed itself.");
    }
    Ok(())
}

/// Puts a circuit, and the RCD that comes with it, on its board.
fn put(job: &mut Job, circuit: Circuit, rcd: Option<ResidualDevice>) -> Result<(), WebError> {
    find_board(job, circuit.board)?;
    if let Some(board) = job.installation.boards.iter_mut().find(|board| board.id == circuit.board) {
        board.rcds.extend(rcd);
    }
    job.installation.circuits.push(circuit.clone());
    job.installation.sort_ways();
    let mut problems = validity::circuit(&job.installation, &circuit);
    if job.installation.circuits.len() > validity::MOST_CIRCUITS {
        problems.push(format!("at most {} circuits a job", validity::MOST_CIRCUITS));
    }
    if problems.is_empty() { Ok(()) } else { Err(WebError::Clash(problems.join("; "))) }
}

/// The page again for a line that is not complete: completed by what is proposed, which is told and not
/// stored; or with what is not understood.
async fn completed(
    shared: &Data<Shared>,
    (id, board): (Uuid, Uuid),
    mut f: Fields,
    typed: &str,
    problem: String,
) -> Result<BoardQuery, WebError> {
    let head = load(shared, id).await?;
    find_board(&head.job, board)?;
    let next = crate::pages::copies::next_way(&head.job.installation, board);
    let proposed = if typed.is_empty() { Vec::new() } else { shorthand::propose(typed, &next).unwrap_or_default() };
    let whole = proposed.iter().fold(typed.to_owned(), |line, one| format!("{line} {}", one.typed));
    // What is left out is no fault of the line where it is proposed.
    let wrong = if proposed.is_empty() { Some(problem) } else { shorthand::parse(&whole).err().map(|e| e.to_string()) };
    if let Some(problem) = wrong {
        f.wrong("line", problem);
        return Ok(BoardQuery::again(f, StatusCode::UNPROCESSABLE_ENTITY));
    }
    let mut kept = Fields::from_values([("line", whole)]);
    kept.put("then", f.get("then"));
    // Of this way it was told.
    kept.put("told", shorthand::parse(kept.get("line")).map(|line| line.way).unwrap_or_default());
    Ok(BoardQuery { proposed, ..BoardQuery::again(kept, StatusCode::UNPROCESSABLE_ENTITY) })
}

/// Whether a line that can be read leaves something out that is proposed.
async fn leaves_out(shared: &Data<Shared>, (id, board): (Uuid, Uuid), typed: &str) -> Result<bool, WebError> {
    let head = load(shared, id).await?;
    let next = crate::pages::copies::next_way(&head.job.installation, board);
    Ok(shorthand::propose(typed, &next).is_ok_and(|proposed| !proposed.is_empty()))
}

/// Adds the circuit that one line describes.
pub(crate) async fn add_circuit(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    request: HttpRequest,
    mut f: Fields,
) -> Handled {
    let (id, board_id) = path.into_inner();
    let again = |f: Fields, status| drawn(shared.clone(), &request, id, board_id, BoardQuery::again(f, status));
    let typed = f.trimmed("line").to_owned();
    let line = match shorthand::parse(&typed) {
        // What it leaves out is told once; sent again it stands as it was typed.
        Ok(line) if !f.is("told", &line.way) && leaves_out(&shared, (id, board_id), &typed).await? => {
            let asked = completed(&shared, (id, board_id), f, &typed, String::new()).await?;
            return drawn(shared, &request, id, board_id, asked).await;
        }
        Ok(line) => line,
        Err(error) => {
            let asked = completed(&shared, (id, board_id), f, &typed, error.to_string()).await?;
            return drawn(shared, &request, id, board_id, asked).await;
        }
    };
    let (circuit, rcd) = line.build(board_id, f.made_id("circuit"));
    let circuit_id = circuit.id;
    let done = change(&shared, &f, id, move |_, job| put(job, circuit, rcd)).await;
    match done {
        Ok(_) if f.is("then", "more") => {
            Ok(go(&format!("/jobs/{id}/boards/{board_id}?added={circuit_id}#new-circuit")))
        }
        Ok(_) => Ok(go(&format!("/jobs/{id}/circuits/{circuit_id}/edit"))),
        Err(WebError::Clash(problem)) => {
            f.wrong("line", format!("{problem}."));
            again(f, StatusCode::CONFLICT).await
        }
        Err(other) => Err(other),
    }
}

/// A sheet of the board as PDF: `chart` for its door, `blank` to be written on.
pub(crate) async fn paper(shared: Data<Shared>, path: Path<(Uuid, Uuid, String)>) -> Handled {
    let (job, board, kind) = path.into_inner();
    let bytes = on_cpu_pool(move || {
        let head = shared.store.job(job)?;
        let board = find_board(&head.job, board)?;
        let drawn = match kind.as_str() {
            "chart.pdf" => board_sheets::chart(&head.job, board, Timestamp::now()),
            "blank.pdf" => board_sheets::blank(&head.job, board, Timestamp::now()),
            "handover.pdf" => board_sheets::handover(&head.job, board, Timestamp::now()),
            other => {
                let papers = "chart.pdf, blank.pdf or handover.pdf";
                return Err(WebError::NotFound(format!("A board has no paper “{other}”: {papers}.")));
            }
        };
        drawn.map_err(|error| WebError::Inside(error.to_string()))
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("application/pdf").insert_header(("cache-control", "no-store")).body(bytes))
}
