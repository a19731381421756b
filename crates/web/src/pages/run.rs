//! The run: one card at a time, what to do now; made for one hand and a phone.

use super::readings::{Asked, Bench, Entry, Site, Taken, Verdict, made_events, remember_entry, take};
use super::state::who;
use super::{blocking, framed, is_partial, remember, remembered};
use crate::Shared;
use crate::draw::hook_up;
use crate::error::{Handled, WebError, go};
use crate::fields::Fields;
use crate::frame::Frame;
use actix_web::http::StatusCode;
use actix_web::web::{self, Data, Path};
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use jiff::Timestamp;
use proof_core::disturbance::Disturbance;
use proof_core::event::{Event, EventKind, OpenItem};
use proof_core::expectation::highest;
use proof_core::hook_up::{Leads, hook_up as hook_up_of};
use proof_core::house_rules::{Choice, LeadCompensation, PairOrder};
use proof_core::installation::{Circuit, CircuitShape, Job};
use proof_core::insulation::board::set_band;
use proof_core::insulation::search::{Inside, Next, Search, Standing, first_looks, inside};
use proof_core::judgement::{CircuitJudge, judge_origin, judge_set};
use proof_core::reading::{Origin, Place, PointId, Reading, Settled, Subject, Test, Value};
use proof_core::run::{Counts, Need, Order, Planned, Run, is_low_ohm};
use proof_core::schedule::stands_in;
use proof_core::sequence::{Stage, Step, circuit_steps, origin_steps};
use serde::Deserialize;
use uuid::Uuid;

#[derive(Deserialize, Default)]
pub struct Query {
    of: Option<Uuid>,
    at: Option<String>,
    last: Option<String>,
    last_of: Option<Uuid>,
}

/// One of the two orders, with what it costs.
pub struct OrderRow {
    pub key: &'static str,
    pub label: &'static str,
    pub counts: Counts,
    pub chosen: bool,
}

/// A planned reading in the list of all.
pub struct JumpRow {
    pub of: Uuid,
    pub slug: String,
    pub label: String,
    pub value: String,
    pub here: bool,
}

/// A stretch of that list.
pub struct JumpGroup {
    pub title: String,
    pub rows: Vec<JumpRow>,
    pub left: usize,
}

/// What is asked once.
pub struct Question {
    pub what: &'static str,
    pub board: Uuid,
    pub board_name: String,
}

/// What must be done before the reading.
pub enum Card {
    /// Isolate and prove.
    Prove(Uuid, String),
    /// Put back.
    Undo(Vec<(String, String)>),
    /// Alter and connect.
    Make(Vec<(String, String)>),
    /// Null, or measure the leads.
    Null(Leads, bool),
}

/// How the search on a board stands.
pub struct Searching {
    pub pair: String,
    pub standings: Vec<(String, &'static str, &'static str)>,
    pub taken: usize,
    /// Each set read: what was off the bar, and what was shown.
    pub trail: Vec<(String, String)>,
    pub found: Vec<Found>,
    pub together: bool,
}

/// A circuit at fault, and how the search goes on inside it.
pub struct Found {
    pub circuit: Uuid,
    pub name: String,
    pub looks: Vec<String>,
    pub inside: String,
    pub open_at: Option<u32>,
    pub pair: String,
}

/// The last entry, which may be taken back at once.
pub struct LastEntry {
    pub id: Uuid,
    pub label: String,
    pub value: String,
}

#[derive(Template)]
#[template(path = "run_work.html")]
struct Work {
    job: Uuid,
    of: Uuid,
    at: String,
    orders: Vec<OrderRow>,
    left: usize,
    of_all: usize,
    open: usize,
    question: Option<Question>,
    card: Option<Card>,
    about: String,
    stand: String,
    drawing: String,
    twin: Vec<String>,
    probe: Option<String>,
    entry: Option<Entry>,
    running: Option<(String, String)>,
    running_name: &'static str,
    board_check: bool,
    verdict: Option<Verdict>,
    verdict_id: String,
    last: Option<LastEntry>,
    groups: Vec<JumpGroup>,
    search: Option<Searching>,
    unread_points: Vec<(u32, String)>,
    pairs: Vec<(String, bool)>,
    free_pairs: bool,
    all_open: Vec<(String, String)>,
    writer: String,
    reader: String,
    instrument: String,
    people: Vec<String>,
    instruments: Vec<(Uuid, String)>,
    sign: &'static str,
    problem: String,
}

#[derive(Template)]
#[template(path = "run.html")]
struct RunPage {
    frame: Frame,
    work: String,
}

fn order_of(request: &HttpRequest) -> Order {
    let key = remembered(request, "order");
    Order::ALL.into_iter().find(|order| order.key() == key).unwrap_or_default()
}

async fn load(shared: &Data<Shared>, job: Uuid) -> Result<Job, WebError> {
    let store = shared.store.clone();
    blocking(move || Ok(store.job(job)?.job.clone())).await
}

fn named_circuit(job: &Job, id: Option<Uuid>) -> String {
    id.and_then(|id| job.installation.circuit(id))
        .map_or_else(String::new, |c| format!("Way {} {}", c.way, c.description))
}

/// What a planned reading is of, in words.
fn about(job: &Job, planned: &Planned) -> String {
    if planned.circuit.is_some() {
        return named_circuit(job, planned.circuit);
    }
    match planned.step.key.subject {
        Subject::CircuitSet { .. } => {
            let board = job.installation.board(planned.board).map_or("board", |board| &board.name);
            format!("{board}, whole")
        }
        _ => "Earthing and bonding".to_owned(),
    }
}

/// Draws entry and verdict of a planned reading by the bench of whatever it is of.
fn at_bench<T>(job: &Job, settled: &Settled<'_>, planned: &Planned, draw: impl FnOnce(&Bench<'_>, &Step) -> T) -> T {
    let installation = &job.installation;
    let circuit = planned.circuit.and_then(|id| installation.circuit(id));
    let base = format!("/jobs/{}/run", job.id);
    let judge = circuit.map(|circuit| CircuitJudge::new(installation, circuit, settled));
    let bench = match (&judge, circuit) {
        (Some(judge), Some(circuit)) => Bench {
            steps: circuit_steps(installation, circuit),
            settled,
            judge: Box::new(|step, value| judge.judge(step, value)),
            band: Box::new(|step| judge.known.band(&step.key)),
            stands_in: Box::new(|step| stands_in(installation, circuit, settled, step)),
            base,
            ring: circuit.shape == CircuitShape::Ring,
            of_what: "this circuit",
        },
        _ => Bench {
            steps: if matches!(planned.step.key.subject, Subject::CircuitSet { .. }) {
                vec![planned.step.clone()]
            } else {
                origin_steps(installation)
            },
            settled,
            judge: Box::new(|step, value| match step.key.subject {
                Subject::CircuitSet { .. } => judge_set(installation, settled, step, value),
                _ => judge_origin(installation, settled, step, value),
            }),
            band: Box::new(|step| match step.key.subject {
                Subject::CircuitSet { .. } => {
                    set_band(installation, settled, &step.key).ok_or("nothing says what it should be")
                }
                _ => super::origin::band(job, step),
            }),
            stands_in: Box::new(|_| None),
            base,
            ring: false,
            of_what: "this installation",
        },
    };
    draw(&bench, &planned.step)
}

fn lines(items: impl IntoIterator<Item = (&'static str, String)>) -> Vec<(String, String)> {
    items.into_iter().map(|(what, note)| (what.to_owned(), note)).collect()
}

fn items(open: &[OpenItem<'_>]) -> Vec<(String, String)> {
    lines(open.iter().map(|item| (item.alteration.label(), item.note.to_owned())))
}

fn made(made: &[Disturbance]) -> Vec<(String, String)> {
    lines(made.iter().map(|one| (one.alteration.label(), one.note.clone())))
}

/// The running highest (or lowest insulation) of what is being walked, and where.
fn running(job: &Job, settled: &Settled<'_>, planned: &Planned) -> Option<(String, String)> {
    let circuit = planned.circuit.and_then(|id| job.installation.circuit(id))?;
    let test = match planned.step.key.test {
        Test::RingBoardCheck if planned.step.stage == Stage::R1Rn => Test::R1Rn,
        Test::RingBoardCheck => Test::R1R2,
        test @ (Test::R1Rn | Test::R1R2 | Test::R2) => test,
        _ => return None,
    };
    let reading = highest(circuit, settled, test)?;
    let point = reading.key.subject.place().and_then(Place::point).and_then(|id| circuit.point(id))?;
    Some((format!("{} Ω", reading.value.shown()), point.name.clone()))
}

fn question(job: &Job, planned: &Planned) -> Option<Question> {
    let installation = &job.installation;
    let board = installation.board(planned.board)?;
    let circuit = planned.circuit.and_then(|id| installation.circuit(id));
    let own = circuit.and_then(|circuit| circuit.cable_c).is_some();
    let what = if circuit.is_some() && is_low_ohm(&planned.step) && installation.ambient_c.is_none() && !own {
        "ambient"
    } else if matches!(planned.step.stage, Stage::R1R2 | Stage::R2) && board.parallel_earth.is_none() {
        "parallel"
    } else {
        return None;
    };
    Some(Question { what, board: board.id, board_name: board.name.clone() })
}

fn searching(job: &Job, settled: &Settled<'_>, planned: &Planned) -> Option<Searching> {
    let board = job.installation.board(planned.board)?;
    let whole = matches!(planned.step.key.subject, Subject::CircuitSet { .. });
    let own = planned.step.stage == Stage::Insulation && planned.circuit.is_some();
    if !whole && !own {
        return None;
    }
    let pair = if planned.step.key.test == Test::InsulationJoined { None } else { planned.step.key.pair };
    let search = Search::of(&job.installation, board, settled, pair);
    let next = search.next();
    if search.taken() == 0 || next == Next::Sound {
        return None;
    }
    let way = |id: Uuid| job.installation.circuit(id).map_or_else(String::new, |circuit| circuit.way.clone());
    let pair_name = pair.map_or_else(|| "live joined–E".to_owned(), |pair| pair.to_string());
    let found = match &next {
        Next::Found(faulty) => faulty
            .iter()
            .filter_map(|id| job.installation.circuit(*id))
            .map(|circuit| found_in(circuit, settled, pair, &pair_name))
            .collect(),
        _ => Vec::new(),
    };
    Some(Searching {
        pair: pair_name,
        standings: search
            .standings()
            .into_iter()
            .map(|(id, standing)| {
                let (word, look) = match standing {
                    Standing::Suspect => ("suspect", "unjudged"),
                    Standing::Clear => ("clear", "within"),
                    Standing::AtFault => ("at fault", "outside"),
                };
                (way(id), word, look)
            })
            .collect(),
        taken: search.taken(),
        trail: trail(job, settled, board.id, &planned.step.key),
        found,
        together: next == Next::TogetherOnly,
    })
}

/// Every set of the board that was read between the pair, in order.
fn trail(job: &Job, settled: &Settled<'_>, board: Uuid, key: &proof_core::reading::Key) -> Vec<(String, String)> {
    let ways: Vec<&Circuit> = job.installation.circuits_of(board).collect();
    settled
        .of_sets()
        .filter(|reading| reading.key.test == key.test && reading.key.pair == key.pair)
        .filter_map(|reading| {
            let Subject::CircuitSet { circuits } = &reading.key.subject else { return None };
            let off: Vec<&str> =
                ways.iter().filter(|way| !circuits.contains(&way.id)).map(|way| way.way.as_str()).collect();
            let on = ways.len() - off.len();
            let said = match (off.len(), on) {
                (0, _) => "all on".to_owned(),
                (_, 1) => format!(
                    "way {} alone",
                    ways.iter().find(|way| circuits.contains(&way.id)).map_or("", |way| way.way.as_str())
                ),
                _ => format!("way {} off", off.join(", ")),
            };
            Some((said, reading.value.shown()))
        })
        .collect()
}

fn found_in(circuit: &Circuit, settled: &Settled<'_>, pair: Option<proof_core::conductor::Pair>, said: &str) -> Found {
    let name = |id: PointId| circuit.point(id).map_or_else(String::new, |point| point.name.clone());
    let (inside, open_at) = match inside(circuit, settled, pair) {
        Inside::OpenAt(point) => (
            format!(
                "Open the run at {}, so that it and all before it stay on; read {said} from the board.",
                name(point)
            ),
            Some(point.0),
        ),
        Inside::Between(None, last) => (format!("It lies between the board and {}.", name(last)), None),
        Inside::Between(Some(first), last) => (format!("It lies between {} and {}.", name(first), name(last)), None),
        Inside::NoPoints => ("The circuit has no points to open: describe them.".to_owned(), None),
    };
    Found {
        circuit: circuit.id,
        name: format!("Way {} {}", circuit.way, circuit.description),
        looks: first_looks(circuit, None),
        inside,
        open_at,
        pair: pair.map_or_else(|| "joined".to_owned(), pair_key),
    }
}

fn pair_key(pair: proof_core::conductor::Pair) -> String {
    let (a, b) = pair.both();
    format!("{a}-{b}")
}

fn groups(job: &Job, run: &Run<'_>, settled: &Settled<'_>, in_hand: Option<&Planned>) -> Vec<JumpGroup> {
    let mut groups: Vec<JumpGroup> = Vec::new();
    for planned in &run.planned {
        let title = format!("{} · {}", about(job, planned), planned.step.stage.label());
        if groups.last().is_none_or(|group| group.title != title) {
            groups.push(JumpGroup { title, rows: Vec::new(), left: 0 });
        }
        let Some(group) = groups.last_mut() else { continue };
        let done = run.done(planned);
        group.left += usize::from(!done);
        group.rows.push(JumpRow {
            of: planned.of(),
            slug: planned.step.slug.clone(),
            label: planned.step.label.clone(),
            value: settled
                .value(&planned.step.key)
                .map_or_else(|| if done { "✓".to_owned() } else { String::new() }, Value::shown),
            here: in_hand == Some(planned),
        });
    }
    groups
}

/// Points of the walk in hand that have no figure yet.
fn unread(job: &Job, settled: &Settled<'_>, planned: &Planned) -> Vec<(u32, String)> {
    let Some(circuit) = planned.circuit.and_then(|id| job.installation.circuit(id)) else { return Vec::new() };
    if !matches!(planned.step.stage, Stage::R1Rn | Stage::R1R2 | Stage::R2) || planned.step.key.line.is_some() {
        return Vec::new();
    }
    walk_of(job, circuit, planned.step.stage)
        .into_iter()
        .filter(|step| settled.of(&step.key).is_none())
        .filter_map(|step| step.key.subject.place().and_then(Place::point))
        .filter_map(|id| circuit.point(id))
        .map(|point| (point.id.0, point.name.clone()))
        .collect()
}

/// The plain readings of a stage's walk, one a point.
fn walk_of(job: &Job, circuit: &Circuit, stage: Stage) -> Vec<Step> {
    let plain = |step: &Step| matches!(step.key.subject.place(), Some(Place::Point { .. }));
    circuit_steps(&job.installation, circuit).into_iter().filter(|step| step.stage == stage && plain(step)).collect()
}

fn last_entry(job: &Job, settled: &Settled<'_>) -> Option<LastEntry> {
    let last = job.readings.last().filter(|reading| reading.context.origin == Origin::Typed)?;
    let stands = settled.of(&last.key).is_some_and(|reading| reading.id == last.id);
    let circuit = named_circuit(job, last.key.subject.circuit());
    let place = last
        .key
        .subject
        .circuit()
        .and_then(|id| job.installation.circuit(id))
        .and_then(|circuit| circuit.point(last.key.subject.place()?.point()?))
        .map_or_else(String::new, |point| format!(", {}", point.name));
    let pair = last.key.pair.map_or_else(String::new, |pair| format!(" {pair}"));
    let whole = if matches!(last.key.subject, Subject::CircuitSet { .. }) { "board" } else { "" };
    let label = format!("{whole}{circuit}{place}{pair}");
    stands.then(|| LastEntry { id: last.id, label, value: last.value.shown() })
}

struct Drawn {
    of: Option<Uuid>,
    at: Option<String>,
    last: Option<(Uuid, String)>,
    asked: Asked,
    problem: String,
    status: StatusCode,
}

fn respond(job: &Job, request: &HttpRequest, drawn: &Drawn) -> Handled {
    let settled = Settled::new(&job.readings, &job.events);
    let order = order_of(request);
    let run = Run::new(job, &settled, order);
    let in_hand = run.in_hand(drawn.of.zip(drawn.at.as_deref()));
    let orders = Order::ALL
        .map(|one| OrderRow {
            key: one.key(),
            label: one.label(),
            counts: Run::new(job, &settled, one).counts(true),
            chosen: one == order,
        })
        .into();
    let needs = in_hand.map(|planned| run.needs(planned)).unwrap_or_default();
    let question = in_hand.and_then(|planned| question(job, planned));
    let rule = job.installation.house_rules.leads;
    let card = needs.first().map(|need| match need {
        Need::Prove(board) => {
            Card::Prove(*board, job.installation.board(*board).map_or_else(String::new, |board| board.name.clone()))
        }
        Need::Undo(open) => Card::Undo(items(open)),
        Need::Make(make, _) => Card::Make(made(make)),
        Need::Null(leads) => Card::Null(*leads, rule == LeadCompensation::Subtract),
    });
    let hook = in_hand.map(|planned| hook_up_of(&job.installation, &planned.step)).unwrap_or_default();
    let entry = in_hand.map(|planned| at_bench(job, &settled, planned, |bench, step| bench.entry(step, &drawn.asked)));
    let judged = drawn.last.as_ref().and_then(|(of, slug)| run.find(*of, slug));
    let verdict = judged.and_then(|planned| {
        let draw = |bench: &Bench<'_>, step: &Step| bench.verdict(step);
        at_bench(job, &settled, planned, draw)
    });
    let verdict_id = judged.and_then(|planned| settled.of(&planned.step.key)).map(|reading| reading.id.to_string());
    let given = |field: &str, cookie: &str| match &drawn.asked.given_back {
        Some(f) => f.get(field).to_owned(),
        None => remembered(request, cookie),
    };
    let free = job.installation.house_rules.pair_order == PairOrder::Free;
    let work = Work {
        job: job.id,
        of: in_hand.map_or(job.id, Planned::of),
        at: in_hand.map(|planned| planned.step.slug.clone()).unwrap_or_default(),
        orders,
        left: run.left().count(),
        of_all: run.planned.len(),
        open: run.open().len(),
        question,
        card,
        about: in_hand.map(|planned| about(job, planned)).unwrap_or_default(),
        stand: hook.stand.clone(),
        drawing: hook_up::drawing(&hook),
        twin: hook_up::twin(&hook),
        probe: hook_up::probes(&hook),
        entry,
        running: in_hand.and_then(|planned| running(job, &settled, planned)),
        running_name: in_hand.map_or("", |planned| planned.step.stage.figure()),
        board_check: in_hand.is_some_and(|planned| planned.step.key.test == Test::RingBoardCheck),
        verdict,
        verdict_id: verdict_id.unwrap_or_default(),
        last: last_entry(job, &settled),
        groups: groups(job, &run, &settled, in_hand),
        search: in_hand.and_then(|planned| searching(job, &settled, planned)),
        unread_points: in_hand.map(|planned| unread(job, &settled, planned)).unwrap_or_default(),
        pairs: in_hand.map(|planned| pairs_left(&run, planned)).unwrap_or_default(),
        free_pairs: free,
        all_open: items(run.open()),
        writer: given("entered_by", "writer"),
        reader: given("read_by", "reader"),
        instrument: given("instrument", "instrument"),
        people: job.people.iter().map(|person| person.name.clone()).collect(),
        instruments: job.instruments.iter().map(|one| (one.id, format!("{} {}", one.reference, one.kind))).collect(),
        sign: job.installation.house_rules.sign.key(),
        problem: drawn.problem.clone(),
    }
    .render()?;
    let frame = framed("Run", "run", job, &job.events);
    let body = if is_partial(request) { work + &frame.bands_beside() } else { RunPage { frame, work }.render()? };
    Ok(HttpResponse::build(drawn.status)
        .content_type("text/html; charset=utf-8")
        .insert_header(("cache-control", "no-store"))
        .body(body))
}

/// Pairs of the same circuit or board that are left, the one in hand marked.
fn pairs_left(run: &Run<'_>, planned: &Planned) -> Vec<(String, bool)> {
    if planned.step.key.test != Test::Insulation {
        return Vec::new();
    }
    let beside = |other: &&Planned| {
        other.of() == planned.of()
            && other.step.key.test == Test::Insulation
            && other.step.key.subject == planned.step.key.subject
            && (other.step.key == planned.step.key || !run.done(other))
    };
    run.planned
        .iter()
        .filter(beside)
        .filter_map(|other| Some((pair_key(other.step.key.pair?), other.step.key == planned.step.key)))
        .collect()
}

pub async fn show(shared: Data<Shared>, path: Path<Uuid>, query: web::Query<Query>, request: HttpRequest) -> Handled {
    let job = load(&shared, path.into_inner()).await?;
    let Query { of, at, last, last_of } = query.into_inner();
    let drawn = Drawn {
        of,
        at,
        last: last_of.zip(last),
        asked: Asked::default(),
        problem: String::new(),
        status: StatusCode::OK,
    };
    respond(&job, &request, &drawn)
}

/// Chooses the order.
pub async fn order(path: Path<Uuid>, f: Fields) -> Handled {
    let id = path.into_inner();
    let key = Order::ALL.into_iter().find(|order| order.key() == f.get("order")).unwrap_or_default().key();
    Ok(HttpResponse::SeeOther()
        .insert_header(("location", format!("/jobs/{id}/run")))
        .insert_header(remember("order", key))
        .finish())
}

fn asked_for(f: &Fields) -> (Option<Uuid>, Option<String>) {
    (f.get("of").parse().ok(), Some(f.get("step").to_owned()).filter(|slug| !slug.is_empty()))
}

/// Answers a question that is asked once.
pub async fn answer(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let (of, at) = asked_for(&f);
    let celsius = (f.get("what") == "ambient").then(|| f.quantity("celsius", "degrees Celsius such as 12")).flatten();
    let problem = match f.get("what") {
        "ambient" if celsius.is_none() => Some(f.error("celsius").to_owned())
            .filter(|text| !text.is_empty())
            .unwrap_or_else(|| "Give the temperature of the cable in °C, such as 12.".to_owned()),
        "ambient" | "parallel" => String::new(),
        _ => return Err(WebError::Bad("That is no question of the run.".into())),
    };
    if problem.is_empty() {
        let (what, metal, board) =
            (f.get("what").to_owned(), f.is("metal", "yes"), f.get("board").parse::<Uuid>().ok());
        let store = shared.store.clone();
        blocking(move || {
            let head = store.head(id)?;
            let mut job = head.job;
            if what == "ambient" {
                job.installation.ambient_c = celsius;
            } else if let Some(board) = job.installation.boards.iter_mut().find(|one| Some(one.id) == board) {
                board.parallel_earth = Some(metal);
            }
            Ok(store.save_description(&job, head.revision)?)
        })
        .await?;
    }
    let job = load(&shared, id).await?;
    let status = if problem.is_empty() { StatusCode::OK } else { StatusCode::UNPROCESSABLE_ENTITY };
    again(&job, &request, Drawn { of, at, last: None, asked: Asked::default(), problem, status })
}

/// Answers htmx with the part, a plain form with the page again.
fn again(job: &Job, request: &HttpRequest, drawn: Drawn) -> Handled {
    if is_partial(request) || !drawn.status.is_success() {
        return respond(job, request, &drawn);
    }
    let at = drawn.of.zip(drawn.at).map(|(of, at)| format!("of={of}&at={at}"));
    let last = drawn.last.map(|(of, slug)| format!("last_of={of}&last={slug}"));
    let query: Vec<String> = at.into_iter().chain(last).collect();
    Ok(go(&format!("/jobs/{}/run?{}", job.id, query.join("&"))))
}

/// Does what the card says: puts back, makes, nulls. What is done is worked out here, not sent.
pub async fn act(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let job = load(&shared, id).await?;
    let (of, at) = asked_for(&f);
    let refuse = |problem: String| {
        let drawn = Drawn {
            of,
            at: at.clone(),
            last: None,
            asked: Asked::default(),
            problem,
            status: StatusCode::UNPROCESSABLE_ENTITY,
        };
        respond(&job, &request, &drawn)
    };
    let Ok(by) = who(&request, &f) else { return refuse("Who does this? Give a name.".to_owned()) };
    let ohm = f.decimal("ohm", "ohms such as 0.07");
    let now = Timestamp::now();
    let settled = Settled::new(&job.readings, &job.events);
    let run = Run::new(&job, &settled, order_of(&request));
    let planned = run.in_hand(of.zip(at.as_deref()));
    let mut log = Vec::new();
    if f.get("what") == "back-all" {
        log.extend(run.open().iter().map(|item| Event::new(&by, now, EventKind::PutBack { item: item.item })));
    }
    for need in planned.filter(|_| log.is_empty()).map(|planned| run.needs(planned)).unwrap_or_default() {
        match (need, f.get("what")) {
            (Need::Undo(open), "undo") => {
                log.extend(open.iter().map(|item| Event::new(&by, now, EventKind::PutBack { item: item.item })));
            }
            (Need::Make(make, replaced), "make") => log.extend(made_events(make, replaced, &by, now)),
            (Need::Null(leads), "null") => {
                let measured = job.installation.house_rules.leads == LeadCompensation::Subtract;
                if measured && ohm.is_none() {
                    let why = f.error("ohm");
                    return refuse(if why.is_empty() {
                        "Give what the leads alone read, such as 0.07.".to_owned()
                    } else {
                        why.to_owned()
                    });
                }
                let (lead_set, pins) = (leads.set.to_owned(), leads.pins.to_owned());
                let subtract_ohm = ohm.filter(|_| measured);
                log.push(Event::new(&by, now, EventKind::Nulled { lead_set, pins, subtract_ohm }));
            }
            _ => {}
        }
    }
    drop(run);
    drop(settled);
    let store = shared.store.clone();
    if !log.is_empty() {
        blocking(move || Ok(store.append_events(id, &log)?)).await?;
    }
    let job = load(&shared, id).await?;
    let drawn = Drawn { of, at, last: None, asked: Asked::default(), problem: String::new(), status: StatusCode::OK };
    let mut response = again(&job, &request, drawn)?;
    super::circuit::set_cookies(&mut response, vec![remember("writer", &by)]);
    Ok(response)
}

/// The step that a form is of; with pairs in free order, the pair that was confirmed.
fn step_of(job: &Job, run: &Run<'_>, f: &Fields) -> Result<Planned, String> {
    let of = f.get("of").parse().map_err(|_| "The form does not say what it is of: load the page again.".to_owned())?;
    let planned = run
        .find(of, f.get("step"))
        .ok_or_else(|| format!("“{}” is no step of this run any more: load the page again.", f.get("step")))?;
    if planned.step.key.test != Test::Insulation {
        return Ok(planned.clone());
    }
    let confirmed = f.get("pair");
    if confirmed.is_empty() {
        return Err("Confirm which pair the probes are on: it is easy to announce one and probe another.".to_owned());
    }
    let same = |other: &&Planned| {
        other.of() == of
            && other.step.key.subject == planned.step.key.subject
            && other.step.key.pair.is_some_and(|pair| pair_key(pair) == confirmed)
    };
    let _ = job;
    run.planned.iter().find(same).cloned().ok_or_else(|| format!("{confirmed} is no pair that is read here."))
}

pub async fn enter(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let mut job = load(&shared, id).await?;
    let (of, at) = asked_for(&f);
    let give_back = |job: &Job, error: String, status| {
        let asked = Asked { at: at.clone(), given_back: Some(f.clone()), error, ..Asked::default() };
        respond(job, &request, &Drawn { of, at: at.clone(), last: None, asked, problem: String::new(), status })
    };
    let planned = {
        let settled = Settled::new(&job.readings, &job.events);
        let run = Run::new(&job, &settled, order_of(&request));
        step_of(&job, &run, &f)
    };
    let planned = match planned {
        Ok(planned) => planned,
        Err(problem) => return give_back(&job, problem, StatusCode::UNPROCESSABLE_ENTITY),
    };
    let site = Site { job: &job, events: &job.events, readings: &job.readings };
    match take(&shared, site, &f, &planned.step).await? {
        Taken::Stored(reading, log) => {
            job.readings.extend(reading.map(|boxed| *boxed));
            job.events.extend(log);
        }
        Taken::GivenBack(error, status) => return give_back(&job, error, status),
    }
    let last = Some((planned.of(), planned.step.slug.clone()));
    let next = {
        let settled = Settled::new(&job.readings, &job.events);
        let run = Run::new(&job, &settled, order_of(&request));
        run.after(&planned).map(|next| (next.of(), next.step.slug.clone()))
    };
    let (of, at) = next.unzip();
    let drawn = Drawn { of, at, last, asked: Asked::default(), problem: String::new(), status: StatusCode::OK };
    let mut response = again(&job, &request, drawn)?;
    super::circuit::set_cookies(&mut response, remember_entry(&f, false));
    Ok(response)
}

/// Quick entry: every point walked, only the highest written down.
pub async fn walked(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let mut job = load(&shared, id).await?;
    let (of, at) = asked_for(&f);
    let give_back = |job: &Job, problem: String, status| {
        respond(job, &request, &Drawn { of, at: at.clone(), last: None, asked: Asked::default(), problem, status })
    };
    let bad = StatusCode::UNPROCESSABLE_ENTITY;
    let (steps, highest) = {
        let settled = Settled::new(&job.readings, &job.events);
        let run = Run::new(&job, &settled, order_of(&request));
        let planned = of.zip(at.as_deref()).and_then(|(of, at)| run.find(of, at)).cloned();
        let circuit = planned.as_ref().and_then(|planned| planned.circuit).and_then(|id| job.installation.circuit(id));
        let (Some(planned), Some(circuit)) = (planned.as_ref(), circuit) else {
            return give_back(&job, "That is no walk of this run: load the page again.".to_owned(), bad);
        };
        let mut steps = walk_of(&job, circuit, planned.step.stage);
        steps.retain(|step| settled.of(&step.key).is_none());
        let point: Option<u32> = f.get("point").parse().ok();
        let at =
            steps.iter().position(|step| step.key.subject.place().and_then(Place::point).map(|point| point.0) == point);
        let Some(at) = at else {
            return give_back(&job, "Say at which point the highest was read.".to_owned(), bad);
        };
        let highest = steps.remove(at);
        (steps, highest)
    };
    let mut form = f.clone();
    form.put("id", Uuid::new_v4().to_string());
    let site = Site { job: &job, events: &job.events, readings: &job.readings };
    let (mut readings, mut events): (Vec<Reading>, Vec<Event>) = (Vec::new(), Vec::new());
    match take(&shared, site, &form, &highest).await? {
        Taken::Stored(reading, log) => {
            readings.extend(reading.map(|boxed| *boxed));
            events.extend(log);
        }
        Taken::GivenBack(error, status) => return give_back(&job, error, status),
    }
    job.readings.append(&mut readings);
    job.events.append(&mut events);
    for step in &steps {
        let mut form = Fields::of([
            ("typed", "walked".to_owned()),
            ("id", Uuid::new_v4().to_string()),
            ("entered_by", f.get("entered_by").to_owned()),
            ("read_by", f.get("read_by").to_owned()),
        ]);
        form.put("instrument", f.get("instrument"));
        let site = Site { job: &job, events: &job.events, readings: &job.readings };
        if let Taken::Stored(Some(reading), log) = take(&shared, site, &form, step).await? {
            readings.push(*reading);
            events.extend(log);
        }
        job.readings.append(&mut readings);
        job.events.append(&mut events);
    }
    let last = of.map(|of| (of, highest.slug.clone()));
    let drawn =
        Drawn { of: None, at: None, last, asked: Asked::default(), problem: String::new(), status: StatusCode::OK };
    let mut response = again(&job, &request, drawn)?;
    super::circuit::set_cookies(&mut response, remember_entry(&f, false));
    Ok(response)
}

/// Takes the last entry back: struck, logged.
pub async fn take_back(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let job = load(&shared, id).await?;
    let by = who(&request, &f)?;
    let settled = Settled::new(&job.readings, &job.events);
    let last = last_entry(&job, &settled).filter(|last| f.get("reading") == last.id.to_string());
    let Some(last) = last else {
        return Err(WebError::Clash(
            "That is not the last entry any more: strike it out on the page of its circuit.".into(),
        ));
    };
    let key = settled_key(&job, last.id);
    drop(settled);
    let kind = EventKind::StruckOut { reading: last.id, reason: "taken back at once".into() };
    let event = Event::new(&by, Timestamp::now(), kind);
    let store = shared.store.clone();
    blocking(move || Ok(store.append_events(id, &[event])?)).await?;
    let job = load(&shared, id).await?;
    let (of, at) = {
        let settled = Settled::new(&job.readings, &job.events);
        let run = Run::new(&job, &settled, order_of(&request));
        let planned = key.and_then(|key| run.planned.iter().find(|planned| planned.step.key == key));
        planned.map(|planned| (planned.of(), planned.step.slug.clone())).unzip()
    };
    let drawn = Drawn { of, at, last: None, asked: Asked::default(), problem: String::new(), status: StatusCode::OK };
    again(&job, &request, drawn)
}

fn settled_key(job: &Job, id: Uuid) -> Option<proof_core::reading::Key> {
    job.readings.iter().find(|reading| reading.id == id).map(|reading| reading.key.clone())
}

/// A reading of the search inside a circuit: the run open at a point.
pub async fn opened(shared: Data<Shared>, path: Path<Uuid>, request: HttpRequest, f: Fields) -> Handled {
    let id = path.into_inner();
    let job = load(&shared, id).await?;
    let (of, at) = asked_for(&f);
    let circuit = f.get("circuit").parse().ok().and_then(|id| job.installation.circuit(id));
    let point = f.get("point").parse().ok().map(PointId).filter(|id| circuit.is_some_and(|c| c.point(*id).is_some()));
    let (Some(circuit), Some(point)) = (circuit, point) else {
        return Err(WebError::Bad("Say which circuit is open at which of its points. Nothing was stored.".into()));
    };
    let steps = circuit_steps(&job.installation, circuit);
    let wanted = f.get("pair");
    let mut step = steps
        .into_iter()
        .find(|step| {
            step.stage == Stage::Insulation && step.key.pair.map_or(wanted == "joined", |pair| pair_key(pair) == wanted)
        })
        .ok_or_else(|| WebError::Bad(format!("“{wanted}” is no pair of this circuit. Nothing was stored.")))?;
    step.key = proof_core::insulation::search::broken_key(circuit.id, point, step.key.pair);
    let mut form = f.clone();
    form.put("id", Uuid::new_v4().to_string());
    let site = Site { job: &job, events: &job.events, readings: &job.readings };
    let problem = match take(&shared, site, &form, &step).await? {
        Taken::Stored(..) => String::new(),
        Taken::GivenBack(problem, _) => problem,
    };
    let status = if problem.is_empty() { StatusCode::OK } else { StatusCode::UNPROCESSABLE_ENTITY };
    let job = load(&shared, id).await?;
    again(&job, &request, Drawn { of, at, last: None, asked: Asked::default(), problem, status })
}
