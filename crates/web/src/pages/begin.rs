//! A job, or a board of one, begun from a pattern: what the pattern proposes stands in a form, marked, and is
//! stored when a person has confirmed it.

use super::framed;
use crate::error::{Handled, WebError, go_done, page_with};
use crate::forms::{Fields, decisions};
use crate::frame::{Frame, Section};
use crate::pages::particulars::supply;
use crate::request::{load, once};
use crate::shared::Shared;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use proof_job::installation::pattern::{Origin, Pattern, PatternBoard, PatternCircuit};
use proof_job::installation::validity::{LONGEST_LINE, LONGEST_TEXT};
use proof_job::installation::{Board, Feed, Feeds, Installation, Lines, MainSwitch, shorthand, validity};
use proof_job::job::Job;
use proof_judge::expectation::least_earthing_and_bond;
use proof_standard::quantity::{Amps, SquareMillimetres};
use proof_store::{JobHead, Store};
use serde::Deserialize;
use std::collections::HashMap;
use uuid::Uuid;

/// Most boards of one form, most rows of one board, and rows left blank under what is proposed.
const MOST_BOARDS: usize = 12;
const MOST_ROWS: usize = 120;
const BLANK_ROWS: usize = 2;
/// Bonds that the form has room for.
const BONDS: usize = 3;

/// A board of the form.
pub(crate) struct BoardShown {
    pub at: usize,
    pub rows: Vec<usize>,
    /// What may feed it.
    pub feeds: Vec<(String, String)>,
}

#[derive(Template)]
#[template(path = "begin.html")]
struct BeginPage {
    frame: Frame,
    job: Uuid,
    /// The description that the proposal was made for: two people who begin at once clash.
    revision: i64,
    from: String,
    name: String,
    origin: bool,
    decides: bool,
    bonds: Vec<usize>,
    boards: Vec<BoardShown>,
    problem: String,
    f: Fields,
}

#[derive(Deserialize, Default)]
pub(crate) struct From {
    #[serde(default)]
    from: String,
    #[serde(default)]
    board: String,
}

/// The pattern of a key: one that ships, or one of the firm's.
fn pattern(store: &Store, key: &str) -> Result<Pattern, WebError> {
    let shipped = proof_job::installation::pattern::shipped().into_iter().find(|(one, _)| *one == key);
    if let Some((_, pattern)) = shipped {
        return Ok(pattern);
    }
    let id: Option<Uuid> = key.parse().ok();
    let own = store.patterns()?.into_iter().find(|one| Some(one.id) == id);
    own.ok_or_else(|| WebError::NotFound("There is no such pattern: the firm's page lists them.".into()))
}

/// The patterns there are: key and name, those of the firm first.
pub(crate) fn choices(store: &Store) -> Result<Vec<(String, String)>, WebError> {
    let own = store.patterns()?.into_iter().map(|one| (one.id.to_string(), one.name));
    let shipped = proof_job::installation::pattern::shipped();
    Ok(own.chain(shipped.into_iter().map(|(key, one)| (key.to_owned(), one.name))).collect())
}

/// Whether the origin of a job is still to be described: it belongs to the first board.
fn wants_origin(job: &Job) -> bool {
    job.installation.boards.is_empty() && job.installation.supply.device.is_empty() && !job.installation.is_minor()
}

/// What a pattern proposes at the origin, in a form; sizes that follow from the tails are worked out.
fn put_origin(f: &mut Fields, job: &Job, origin: &Origin) {
    let mut installation = job.installation.clone();
    installation.supply.tails_mm2 = origin.tails.parse().ok().and_then(|mm2| SquareMillimetres::new(mm2).ok());
    installation.supply.earthing_mm2 = origin.earthing.parse().ok().and_then(|mm2| SquareMillimetres::new(mm2).ok());
    let least = least_earthing_and_bond(&installation);
    let or_least = |text: &str, least: Option<f64>| {
        if text.is_empty() { least.map(|mm2| mm2.to_string()).unwrap_or_default() } else { text.to_owned() }
    };
    f.put("supply_device", origin.device.clone());
    f.put("supply_device_a", origin.device_a.clone());
    f.put("tails", origin.tails.clone());
    f.put("earthing", or_least(&origin.earthing, least.map(|(earthing, _)| earthing)));
    for (at, (to, mm2)) in origin.bonds.iter().take(BONDS).enumerate() {
        f.put(format!("bond{at}_to"), to.clone());
        f.put(format!("bond{at}_mm2"), or_least(mm2, least.map(|(_, bond)| bond)));
    }
    f.put("extent", origin.extent.clone());
}

/// What a pattern proposes of a board, in a form.
fn put_board(f: &mut Fields, at: usize, board: &PatternBoard) {
    for (name, value) in [
        ("name", board.name.clone()),
        ("switch", board.switch.clone()),
        ("poles", board.poles.clone()),
        ("switch_a", board.switch_a.clone()),
        ("lines", board.lines.key().to_owned()),
        ("fed", if board.fed_by.is_empty() { "supply".to_owned() } else { format!("way {}", board.fed_by) }),
    ] {
        f.put(format!("b{at}_{name}"), value);
    }
    for (row, line) in board.circuits.iter().take(MOST_ROWS).enumerate() {
        let cells = PatternCircuit::from_line(line);
        for (name, value) in [("way", cells.way), ("name", cells.name), ("words", cells.words), ("pts", cells.points)] {
            f.put(format!("b{at}c{row}_{name}"), value);
        }
    }
}

/// The cells of a row as typed.
fn row(f: &Fields, board: usize, row: usize) -> PatternCircuit {
    let cell = |name: &str| f.trimmed(&format!("b{board}c{row}_{name}")).to_owned();
    PatternCircuit {
        way: cell("way"),
        name: cell("name"),
        words: cell("words"),
        points: cell("pts"),
        metres: cell("m"),
    }
}

/// How many boards a form holds, and how many rows a board.
fn boards_of(f: &Fields) -> usize {
    (0..MOST_BOARDS)
        .rev()
        .find(|at| f.ticked(&format!("b{at}_name")) || !row(f, *at, 0).is_empty())
        .map_or(1, |at| at + 1)
}

fn rows_of(f: &Fields, board: usize) -> usize {
    (0..MOST_ROWS).rev().find(|at| row(f, board, *at) != PatternCircuit::default()).map_or(0, |at| at + 1)
}

/// What may feed a board of the form: the supply, ways of a board above it, ways of the job that feed a board.
fn feeds(installation: &Installation, f: &Fields, at: usize) -> Vec<(String, String)> {
    let mut feeds = vec![("supply".to_owned(), "the supply".to_owned())];
    let free =
        installation.circuits.iter().filter(|one| one.feeds == Feeds::Board && installation.fed_by(one).is_none());
    feeds.extend(free.map(|one| (one.id.to_string(), format!("way {} {}", one.way, one.description))));
    for above in 0..at {
        let fed = (0..rows_of(f, above)).map(|at| row(f, above, at)).filter(|row| !row.is_empty());
        let fed = fed.filter(|row| row.words.split_whitespace().any(|word| word.eq_ignore_ascii_case("board")));
        feeds.extend(fed.map(|row| (format!("way {}", row.way), format!("way {} {}", row.way, row.name))));
    }
    feeds
}

fn drawn(head: &JobHead, (from, name): (String, String), problem: String, f: Fields, status: StatusCode) -> Handled {
    let job = &head.job;
    let boards = (0..boards_of(&f)).map(|at| BoardShown {
        at,
        rows: (0..(rows_of(&f, at) + BLANK_ROWS).min(MOST_ROWS)).collect(),
        feeds: feeds(&job.installation, &f, at),
    });
    page_with(
        status,
        &BeginPage {
            frame: framed("Boards and circuits", Section::Overview, job, &job.events),
            job: job.id,
            revision: head.revision,
            from,
            name,
            origin: wants_origin(job),
            decides: job.installation.edition.rules().decides_surge_and_arc,
            bonds: (0..BONDS).collect(),
            boards: boards.collect(),
            problem,
            f,
        },
    )
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<Uuid>, query: Query<From>) -> Handled {
    let head = load(&shared, path.into_inner()).await?;
    let store = shared.store.clone();
    let From { from, board } = query.into_inner();
    let key = from.clone();
    let pattern = crate::request::blocking(move || pattern(&store, &key)).await?;
    let mut f = Fields::default();
    if let Some(origin) = pattern.origin.as_ref().filter(|_| wants_origin(&head.job)) {
        put_origin(&mut f, &head.job, origin);
    }
    for (at, proposed) in pattern.boards.iter().take(MOST_BOARDS).enumerate() {
        // What was named already is named so.
        let named = at == 0 && !board.trim().is_empty();
        if named {
            f.put("b0_name", board.trim());
        }
        put_board(&mut f, at, proposed);
    }
    drawn(&head, (from, pattern.name), String::new(), f, StatusCode::OK)
}

/// A board of the form, and its circuits, put into the installation.
fn taken(f: &mut Fields, at: usize, ids: &mut HashMap<String, Uuid>, installation: &mut Installation) {
    let field = |name: &str| format!("b{at}_{name}");
    let name = f.line(&field("name"), LONGEST_LINE);
    if name.is_empty() {
        f.wrong(&field("name"), "A board has a name.");
    }
    let fed = f.get(&field("fed")).to_owned();
    let known = |circuit: &Uuid| installation.circuit(*circuit).is_some();
    let feeder = ids.get(&fed).copied().or_else(|| fed.parse().ok()).filter(known);
    let fed_by = feeder.map_or(Feed::Supply, |circuit| Feed::Circuit { circuit });
    let poles = f.decimal(&field("poles"), "a number of poles from 1 to 4");
    let single = installation.supply.lines == Lines::Single || f.is(&field("lines"), Lines::Single.key());
    let id = f.made_id(&format!("board {at}"));
    installation.boards.push(Board {
        id,
        name,
        location: f.line(&field("location"), LONGEST_LINE),
        fed_by,
        system: installation.supply.system,
        lines: if single { Lines::Single } else { Lines::Three },
        main_switch: MainSwitch {
            kind: f.line(&field("switch"), LONGEST_LINE),
            poles: poles.and_then(|poles| u8::try_from(poles).ok()),
            rating_a: f.decimal(&field("switch_a"), "amperes such as 100").map(Amps),
            ..MainSwitch::default()
        },
        rcds: Vec::new(),
        parallel_earth: None,
        conditional_ka: None,
        surge: String::new(),
    });
    for number in 0..rows_of(f, at) {
        let cells = row(f, at, number);
        let field = format!("b{at}c{number}_words");
        if cells.is_empty() {
            continue;
        }
        match shorthand::parse(&cells.line()) {
            Ok(line) => {
                let (circuit, rcd) = line.build(id, f.made_id(&format!("board {at} row {number}")));
                ids.insert(format!("way {}", circuit.way), circuit.id);
                if let Some(board) = installation.boards.last_mut() {
                    board.rcds.extend(rcd);
                }
                installation.circuits.push(circuit.clone());
                if let Some(problem) = validity::circuit(installation, &circuit).into_iter().next() {
                    f.wrong(&field, format!("{problem}."));
                }
            }
            Err(error) => f.wrong(&field, error.to_string()),
        }
    }
}

/// Takes the whole form; what is wrong stands at its fields.
fn described(f: &mut Fields, job: &mut Job) {
    let origin = wants_origin(job);
    let installation = &mut job.installation;
    if origin {
        let lines = installation.supply.lines;
        supply(f, installation);
        installation.supply.lines = lines;
        installation.extent = f.paragraph("extent", LONGEST_TEXT);
        decisions::take(f, installation);
    }
    let mut ids = HashMap::new();
    for at in 0..boards_of(f) {
        taken(f, at, &mut ids, installation);
    }
    installation.sort_ways();
    if installation.boards.len() > validity::MOST_BOARDS || installation.circuits.len() > validity::MOST_CIRCUITS {
        f.wrong(
            "b0_name",
            format!("A job has at most {} boards and {} circuits.", validity::MOST_BOARDS, validity::MOST_CIRCUITS),
        );
    }
}

pub(crate) async fn confirm(shared: Data<Shared>, path: Path<Uuid>, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let revision = f.revision()?;
    let head = load(&shared, id).await?;
    let (from, name) = (f.get("from").to_owned(), f.get("pattern").to_owned());
    let mut tried = head.job.clone();
    described(&mut f, &mut tried);
    if f.any_wrong() {
        let problem = "Not stored: see what is marked.".to_owned();
        return drawn(&head, (from, name), problem, f, StatusCode::UNPROCESSABLE_ENTITY);
    }
    let form = f.clone();
    let done = once(&shared, &f, move |store| {
        store.edit(id, Some(revision), |edit| {
            if edit.shown.as_ref() != Some(&*edit.job) {
                let said = "somebody described this job meanwhile: look at what is there now, and confirm again.";
                return Err(WebError::Clash(said.to_owned()));
            }
            let mut form = form;
            described(&mut form, edit.job);
            match form.all_wrong().first() {
                Some(problem) => Err(WebError::Clash((*problem).to_owned())),
                None => Ok(()),
            }
        })?
    });
    match done.await {
        Ok(_) => Ok(go_done(&format!("/jobs/{id}"), "begun")),
        Err(WebError::Clash(problem)) => {
            let now = load(&shared, id).await?;
            drawn(&now, (from, name), format!("Not stored: {problem}"), f, StatusCode::CONFLICT)
        }
        Err(other) => Err(other),
    }
}
