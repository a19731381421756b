//! What the run shows: the card in hand, the verdict on the last reading, the plan.

use super::card::{
    CardShown, LastEntry, Powering, Proving, Question, RunQuestion, Searching, describe_place, disturbance_rows,
    in_entry_context, last_entry, named_circuit, open_item_ids, open_item_rows, pairs_left, question, searching,
    unread, worst_so_far,
};
use super::input::{RunInput, order_of};
use super::joined::{self, Strip};
use super::today::{self, Today};
use crate::draw::{hook_up, switching};
use crate::error::{Handled, WebError, html};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::pages::entry::{Entry, EntryContext, Verdict};
use crate::pages::findings::{ToDo, places};
use crate::pages::framed;
use crate::request::{is_partial, offered, remembered};
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use askama::Template;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Step, Test};
use proof_job::site::spoken_to::before_power;
use proof_job::site::{Alteration, LOOKED_AT};
use proof_judge::explanation::switching::said_of;
use proof_judge::finding::{Kind, Severity};
use proof_standard::house_rules::{Choice, ContinuityMethod, LeadCompensation, PairOrder};
use proof_standard::limits::voltages::AT_POWER;
use proof_work::actions::Runs;
use proof_work::live_tests::{Before, Live};
use proof_work::plan::hook_up::hook_up_now;
use proof_work::plan::reach::Inside;
use proof_work::plan::run::{Need, Planned, Run};
use proof_work::plan::sequence::{at_power, proposed_place};
use proof_work::review::{Finding, Where, review};
use uuid::Uuid;

#[derive(Template)]
#[template(path = "run_work.html")]
struct Work {
    job: Uuid,
    of: Uuid,
    at: String,
    described: bool,
    /// The dead tests are in and everything is back: what is left is at power.
    at_power: bool,
    advice: String,
    left: usize,
    of_all: usize,
    open: usize,
    today: Option<Today>,
    question: Option<Question>,
    card: Option<CardShown>,
    about: String,
    where_to_stand: String,
    drawing: String,
    /// Two-way switching that the reading goes through.
    switched: Option<switching::Drawing>,
    /// What its combinations say is wrong.
    switch_faults: Vec<String>,
    text_alternative: Vec<String>,
    probe: Option<String>,
    entry: Option<Entry>,
    running: Option<(String, String)>,
    board_check: bool,
    verdict: Option<Verdict>,
    verdict_id: String,
    last: Option<LastEntry>,
    search: Option<Searching>,
    unread_points: Vec<(u32, String)>,
    pairs: Vec<(String, bool)>,
    all_open: Vec<(String, String)>,
    all_ids: String,
    failing: Vec<ToDo>,
    /// What a certificate still waits for, where every reading is in.
    rest: Vec<ToDo>,
    writer: String,
    reader: String,
    instrument: String,
    people: Vec<String>,
    instruments: Vec<(Uuid, String)>,
    sign: &'static str,
    problem: String,
    kept: Fields,
}

#[derive(Template)]
#[template(path = "run.html")]
struct RunPage {
    frame: Frame,
    work: String,
    strip: String,
    /// The strip stands above the card: something is joined, or was not and why.
    strip_first: bool,
}

/// The card of what is done first; what is done after it may go with it.
fn card_of(job: &Job, need: &Need<'_>, then: Option<&Need<'_>>) -> CardShown {
    match need {
        Need::Prove { board, alone, inside } => {
            let why = inside.map_or_else(
                || "The next reading is a dead test.".to_owned(),
                |inside| {
                    let because = inside.because();
                    format!("One way is isolated alone, and the rest is live: for this reading the whole board must be dead, since {because}.")
                },
            );
            let alone = alone.map(|id| (id, named_circuit(job, Some(id))));
            // A link is made in the board; a long lead is not.
            let linked = *inside == Some(Inside::Altered(Alteration::Link));
            let long_lead = linked && job.installation.house_rules.continuity != ContinuityMethod::R2;
            CardShown::Prove(Proving { board: *board, name: board_name(job, *board), why, alone, long_lead })
        }
        Need::Undo(open) => CardShown::Undo(open_item_rows(open), open_item_ids(open)),
        Need::Make(make, _) => {
            let earth = make.iter().any(|one| one.alteration.takes_earth_off());
            // Nothing stands beside an earth that is off; leads that are subtracted are read.
            let measured = job.installation.house_rules.leads == LeadCompensation::Subtract;
            let leads = match then {
                Some(Need::Null(leads)) if !earth && !measured => Some(*leads),
                _ => None,
            };
            CardShown::Make(disturbance_rows(make), earth, leads)
        }
        Need::Null(leads) => CardShown::Null(*leads, job.installation.house_rules.leads == LeadCompensation::Subtract),
    }
}

fn board_name(job: &Job, board: Uuid) -> String {
    job.installation.board(board).map_or_else(String::new, |board| board.name.clone())
}

/// What is done before a reading at power.
fn card_at_power(job: &Job, before: Before<'_>) -> CardShown {
    let name = |id: Uuid| named_circuit(job, Some(id));
    match before {
        Before::PutBack(open) => CardShown::Undo(open_item_rows(&open), open_item_ids(&open)),
        Before::Prove(board) => {
            let why = "Ze is read from there: everything that the supply feeds is dead and locked.".to_owned();
            CardShown::Prove(Proving { board, name: board_name(job, board), why, alone: None, long_lead: false })
        }
        Before::InUse(board) => CardShown::InUse(board, board_name(job, board)),
        Before::Expose(board) => CardShown::Expose(board_name(job, board)),
        Before::Settle(board, findings) => {
            CardShown::Settle(board_name(job, board), places(job.id, findings.into_iter()))
        }
        Before::Energise { board, ways, first } => {
            let people = before_power(&job.installation, &job.site(), (board, &ways), "");
            CardShown::Energise(Powering {
                board,
                name: board_name(job, board),
                all: ways.iter().map(Uuid::to_string).collect::<Vec<_>>().join(","),
                // One of several may come first.
                one: first.filter(|_| ways.len() > 1).map(|id| (id, name(id))),
                ways: ways.into_iter().map(name).collect(),
                isolated: people.iter().map(ToString::to_string).collect(),
                isolated_by: people.into_iter().map(|person| person.name).collect(),
            })
        }
    }
}

/// What there is to know before a live reading: where, on which range, what is reset.
fn advice(job: &Job, settled: &CurrentReadings<'_>, planned: &Planned) -> String {
    if planned.step.key.test == Test::SupplyPolarity {
        // The first two of the table: right, and line and neutral reversed.
        let said = AT_POWER.iter().take(2).map(|(what, [ln, le, ne])| format!("{what}: L–N {ln}, L–E {le}, N–E {ne}"));
        return format!("Volts {}.", said.collect::<Vec<_>>().join("; "));
    }
    let Some(circuit) = planned.circuit.and_then(|id| job.installation.circuit(id)) else { return String::new() };
    let place = proposed_place(circuit, settled, &planned.step).map(|place| format!("Best {place}."));
    let range = at_power(&job.installation, circuit, &planned.step).map(str::to_owned);
    place.into_iter().chain(range).collect::<Vec<_>>().join(" ")
}

/// What is left when every reading is in: a line a place, in the order of the review.
fn rest(job: &Job, findings: Vec<Finding>) -> Vec<ToDo> {
    places(job.id, findings.into_iter().filter(Finding::blocks))
}

/// Read is not right: what fails its limit keeps power away whatever else is done. A line a place, each with where it is
/// mended.
fn failing(job: &Job, findings: &[Finding]) -> Vec<ToDo> {
    let fails = |finding: &&Finding| finding.severity == Severity::Fails && finding.kind() != Kind::NotPutBack;
    let for_job = |finding: &&Finding| !matches!(finding.place, Where::Firm);
    places(job.id, findings.iter().filter(fails).filter(for_job).cloned())
}

/// The pairs that may be read next, and which of them is chosen.
fn pairs(job: &Job, run: &Run<'_>, planned: &Planned, drawn: &RunInput) -> Vec<(String, bool)> {
    let free = job.installation.house_rules.pair_order == PairOrder::Free;
    let given = drawn.asked.given_back.as_ref().map(|f| f.get("pair"));
    let chosen = |(pair, due): (String, bool)| {
        let chosen = given.map_or(due && !free, |given| given == pair);
        (pair, chosen)
    };
    pairs_left(run, planned).into_iter().map(chosen).collect()
}

/// Readings that are left, and how many there are, of the run in hand.
fn left_of(run: &Run<'_>, live: &Live<'_>, at_power: bool) -> (usize, usize) {
    if at_power { (live.left().count(), live.planned.len()) } else { (run.left().count(), run.planned.len()) }
}

fn people(job: &Job) -> Vec<String> {
    job.people.iter().map(|person| person.name.clone()).collect()
}

fn instruments(job: &Job) -> Vec<(Uuid, String)> {
    job.instruments.iter().map(|one| (one.id, format!("{} {}", one.reference, one.kind))).collect()
}

/// The two-way switching that a reading goes through, drawn.
fn switched(job: &Job, planned: &Planned) -> Option<switching::Drawing> {
    switching::draw_switching(job.installation.circuit(planned.circuit?)?, &planned.step)
}

/// What is wrong with the two-way switching of the circuit in hand.
fn switch_faults(job: &Job, settled: &CurrentReadings<'_>, planned: &Planned) -> Vec<String> {
    let circuit = planned.circuit.and_then(|id| job.installation.circuit(id));
    let dead = planned.step.stage.is_dead();
    circuit.filter(|_| dead).map(|circuit| said_of(circuit, settled)).unwrap_or_default()
}

/// What is done before a reading, dead or at power.
fn card_before(job: &Job, (run, live): (&Run<'_>, &Live<'_>), planned: &Planned) -> Option<CardShown> {
    if planned.step.stage.is_dead() {
        let needs = run.needs(planned);
        return needs.first().map(|need| card_of(job, need, needs.get(1)));
    }
    live.before(planned).map(|before| card_at_power(job, before))
}

/// The verdict on the reading that was stored last, and the id of that reading.
fn last_verdict(job: &Job, settled: &CurrentReadings<'_>, planned: &Planned) -> (Option<Verdict>, String) {
    let draw = |bench: &EntryContext<'_>, step: &Step| bench.verdict(step);
    let id = settled.get(&planned.step.key).map(|reading| reading.id.to_string());
    (in_entry_context(job, settled, planned, draw), id.unwrap_or_default())
}

/// What a refused form holds, else what was said before.
fn given_or_remembered(request: &HttpRequest, drawn: &RunInput, field: &str, cookie: &str) -> String {
    match (&drawn.asked.given_back, &drawn.hands, cookie) {
        (Some(f), ..) => f.get(field).to_owned(),
        (None, Some(hands), "writer") => hands.writer.clone(),
        (None, Some(hands), "reader") => hands.reader.clone(),
        (None, Some(hands), "instrument") => hands.instrument.clone(),
        (None, ..) => remembered(request, cookie),
    }
}

pub(super) fn respond(job: &Job, request: &HttpRequest, drawn: &RunInput) -> Handled {
    let settled = job.settled();
    let order = order_of(request);
    let runs = Runs::for_job(job, &settled, order);
    let (run, live, failures) = (&runs.dead, &runs.live, &runs.failing);
    let at_power = runs.is_at_power();
    let named = |at: &Option<(Uuid, String)>| at.as_ref().and_then(|(of, slug)| runs.named(*of, slug).cloned());
    let from_instrument = named(&drawn.last).filter(|_| drawn.after_last);
    let current_step =
        runs.current_card(drawn.of.zip(drawn.at.as_deref()), drawn.after.as_ref().or(from_instrument.as_ref()));
    // An entry that is given back is shown with what is wrong, whatever else is wanted first.
    let asked_of = current_step.filter(|_| drawn.asked.given_back.is_none());
    let question = asked_of.and_then(|planned| question(job, planned));
    let card = asked_of.and_then(|planned| card_before(job, (run, live), planned));
    let hook = current_step.map(|planned| hook_up_now(job, &planned.step)).unwrap_or_default();
    let entry = current_step
        .map(|planned| in_entry_context(job, &settled, planned, |bench, step| bench.entry(step, &drawn.asked)));
    let judged = drawn.last.as_ref().and_then(|(of, slug)| runs.named(*of, slug));
    let (left, of_all) = left_of(run, live, at_power);
    let (verdict, verdict_id) = judged.map(|planned| last_verdict(job, &settled, planned)).unwrap_or_default();
    let work = Work {
        job: job.id,
        of: current_step.map_or(job.id, Planned::circuit_or_board),
        at: current_step.map(|planned| planned.step.slug.clone()).unwrap_or_default(),
        described: !job.installation.circuits.is_empty(),
        at_power,
        advice: current_step.map(|planned| advice(job, &settled, planned)).unwrap_or_default(),
        left,
        of_all,
        open: run.open().len(),
        today: asked_of.and_then(|_| today::card(job, request, drawn)),
        question,
        card,
        about: current_step.map(|planned| describe_place(job, planned)).unwrap_or_default(),
        where_to_stand: hook.where_to_stand.clone(),
        drawing: hook_up::drawing(&hook),
        switched: current_step.and_then(|planned| switched(job, planned)),
        switch_faults: current_step.map(|planned| switch_faults(job, &settled, planned)).unwrap_or_default(),
        text_alternative: hook_up::text_alternative(&hook),
        probe: hook_up::probes(&hook),
        entry,
        running: current_step.and_then(|planned| worst_so_far(job, &settled, planned)),
        board_check: current_step.is_some_and(|planned| planned.step.key.test == Test::RingBoardCheck),
        verdict,
        verdict_id,
        last: last_entry(job, &settled),
        search: current_step.and_then(|planned| searching(job, &settled, planned)),
        unread_points: current_step.map(|planned| unread(job, &settled, planned)).unwrap_or_default(),
        pairs: current_step.map(|planned| pairs(job, run, planned, drawn)).unwrap_or_default(),
        all_open: open_item_rows(run.open()),
        all_ids: open_item_ids(run.open()),
        failing: failing(job, failures),
        rest: if at_power && left == 0 { rest(job, review(job.into())) } else { Vec::new() },
        writer: given_or_remembered(request, drawn, "entered_by", "writer"),
        reader: given_or_remembered(request, drawn, "read_by", "reader"),
        instrument: offered(job, &given_or_remembered(request, drawn, "instrument", "instrument")),
        people: people(job),
        instruments: instruments(job),
        sign: job.installation.house_rules.sign.key(),
        problem: drawn.problem.clone(),
        kept: drawn.kept.clone(),
    }
    .render()?;
    answer(job, request, work, drawn)
}

/// The strip of the instrument that is joined, to stand beside a changed part or in its own place.
pub(super) fn joined_strip(job: &Job, request: &HttpRequest, waiting: bool) -> Result<String, WebError> {
    strip(job, request, &RunInput::default(), (false, waiting)).map(|(strip, _)| strip)
}

/// The strip, and whether an instrument is joined.
fn strip(
    job: &Job,
    request: &HttpRequest,
    drawn: &RunInput,
    (swapped, waiting): (bool, bool),
) -> Result<(String, bool), WebError> {
    let joined = joined::joined(request, job);
    let is_joined = joined.is_some();
    let (mut f, problem) = drawn.joining.clone().unwrap_or_default();
    if drawn.joining.is_none() {
        f.put("by", remembered(request, "writer"));
        f.put("read_by", remembered(request, "reader"));
        f.put("joined", offered(job, &remembered(request, "instrument")));
    }
    let newest_refused = joined.as_ref().is_some_and(|one| one.line.newest_refused);
    let instruments = joined::choices(job);
    let strip = Strip {
        job: job.id,
        joined,
        swapped,
        waiting,
        newest_refused,
        simulated: !job.made_as.is_work(),
        instruments,
        f,
        problem,
    };
    Ok((strip.render()?, is_joined))
}

/// The work alone, or in its frame, as it was asked for.
fn answer(job: &Job, request: &HttpRequest, work: String, drawn: &RunInput) -> Handled {
    let frame = framed("Run", Section::Run, job, &job.events);
    let (strip, is_joined) = strip(job, request, drawn, (is_partial(request), false))?;
    let body = if is_partial(request) {
        // Beside the changed part the strip is drawn only where an instrument is joined.
        work + if is_joined { &strip } else { "" } + &frame.bands_beside()
    } else {
        RunPage { frame, work, strip, strip_first: is_joined || drawn.joining.is_some() }.render()?
    };
    Ok(html(drawn.refused.unwrap_or(StatusCode::OK), body))
}
