//! Entering readings, the same at a circuit and at the origin: the steps in test order, the one in
//! hand with what it should read, the verdict on the last.

use super::{remember, remembered};
use crate::Shared;
use crate::error::WebError;
use crate::fields::Fields;
use crate::frame::moment;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::Data;
use jiff::Timestamp;
use proof_core::conductor::{Conductor, Pair};
use proof_core::expectation::Band;
use proof_core::gate::may_read;
use proof_core::house_rules::LeadCompensation;
use proof_core::installation::Installation;
use proof_core::installation::validity::LONGEST_LINE;
use proof_core::job::Job;
use proof_core::plan::disturbance::{Disturbance, changes};
use proof_core::reading::entry::{Field, parse};
use proof_core::reading::{Context, LeadNull, Origin, Reading, Settled, Value};
use proof_core::reading::{Stage, Step};
use proof_core::review::Reviewed;
use proof_core::site::LeadState;
use proof_core::site::leads;
use proof_core::site::{Event, EventKind, open_items};
use proof_core::verdict::{Judgement, Limit, Plausibility, Working};
use proof_store::Appended;
use rust_decimal::dec;
use uuid::Uuid;

/// A verdict as shown: shape, word, class of its look.
#[derive(Debug, Clone, Copy)]
pub struct Chip {
    pub shape: &'static str,
    pub word: &'static str,
    pub look: &'static str,
}

const WITHIN: Chip = Chip { shape: "✓", word: "within", look: "within" };
const OUTSIDE: Chip = Chip { shape: "×", word: "outside", look: "outside" };
const LOOK_AGAIN: Chip = Chip { shape: "▲", word: "look again", look: "again" };
const NOT_JUDGED: Chip = Chip { shape: "○", word: "not judged", look: "unjudged" };

pub const fn limit_chip(limit: Limit) -> Chip {
    match limit {
        Limit::Within => WITHIN,
        Limit::Outside => OUTSIDE,
        Limit::NotJudged => NOT_JUDGED,
    }
}

pub const fn plausibility_chip(plausibility: Plausibility) -> Chip {
    match plausibility {
        Plausibility::Within => WITHIN,
        Plausibility::LookAgain => LOOK_AGAIN,
        Plausibility::NotJudged => NOT_JUDGED,
    }
}

/// The worse of the two verdicts, for a small mark.
pub const fn worse(judgement: &Judgement) -> Chip {
    match (judgement.limit, judgement.plausibility) {
        (Limit::Outside, _) => OUTSIDE,
        (_, Plausibility::LookAgain) => LOOK_AGAIN,
        (Limit::NotJudged, Plausibility::NotJudged) => NOT_JUDGED,
        _ => WITHIN,
    }
}

/// Judges a value for a step.
pub type Judging<'a> = Box<dyn Fn(&Step, &Value) -> Judgement + 'a>;
/// The band of a step, or what would have to be known first.
pub type Expecting<'a> = Box<dyn Fn(&Step) -> Result<Band, &'static str> + 'a>;

/// What stands for a step without a reading of its own.
pub type StandingIn<'a> = Box<dyn Fn(&Step) -> Option<String> + 'a>;

/// What judging and expecting need, for whichever place the readings are of.
pub struct Bench<'a> {
    pub steps: Vec<Step>,
    pub settled: &'a Settled<'a>,
    pub judge: Judging<'a>,
    pub band: Expecting<'a>,
    /// What stands for a step without a reading of its own.
    pub stands_in: StandingIn<'a>,
    /// The leads that a low-resistance step is read with, in words.
    pub leads: Box<dyn Fn(&Step) -> String + 'a>,
    /// Where the step is best read, in words.
    pub proposed: StandingIn<'a>,
    /// Whether the leads that the step is read with are nulled, as the log has it.
    pub nulled: Box<dyn Fn(&Step) -> bool + 'a>,
    /// Where the page and its forms are.
    pub base: String,
    pub ring: bool,
    /// What the second verdict asks of: `this circuit`, `this supply`.
    pub of_what: &'static str,
}

/// A step in the list.
pub struct Cell {
    pub slug: String,
    pub label: String,
    pub value: String,
    pub chip: Option<Chip>,
    pub here: bool,
    pub unsteady: bool,
}

/// A stage of the list.
pub struct Group {
    pub stage: Stage,
    pub unit: &'static str,
    pub cells: Vec<Cell>,
    pub done: usize,
}

/// An earlier reading of the step in hand.
pub struct Earlier {
    pub id: Uuid,
    pub value: String,
    pub when: String,
    pub who: String,
    pub unsteady: bool,
    pub struck: Option<String>,
}

/// A judged reading.
pub struct Verdict {
    pub label: String,
    pub value: String,
    pub unit: &'static str,
    pub limit: Chip,
    pub plausibility: Chip,
    pub notes: Vec<String>,
    pub working: Vec<Working>,
}

/// The step in hand.
pub struct Entry {
    pub slug: String,
    pub label: String,
    pub stage: Stage,
    pub hook_up: &'static str,
    pub proposed: String,
    pub caution: Option<&'static str>,
    pub unit: &'static str,
    pub allowed: &'static str,
    pub goes_to: String,
    pub expected: String,
    pub basis: String,
    pub outcome: bool,
    pub leads: Option<String>,
    pub voltage: Option<String>,
    pub typed: String,
    pub error: String,
    pub id: Uuid,
    pub position: usize,
    pub earlier: Vec<Earlier>,
    pub previous: Option<String>,
    pub following: Option<String>,
}

/// The whole of it.
pub struct Sheet {
    pub base: String,
    pub groups: Vec<Group>,
    pub entry: Option<Entry>,
    pub verdict: Option<Verdict>,
    pub of: usize,
    pub people: Vec<String>,
    pub instruments: Vec<(Uuid, String)>,
    pub writer: String,
    pub reader: String,
    pub instrument: String,
    pub nulled: bool,
    pub unsteady: bool,
    pub of_what: &'static str,
}

/// What the page was asked to show.
#[derive(Debug, Default)]
pub struct Asked {
    pub at: Option<String>,
    pub last: Option<String>,
    /// The form as it was sent, when it is given back with an error.
    pub given_back: Option<Fields>,
    pub error: String,
    /// An explanation of the readings is asked for.
    pub diagnose: bool,
}

/// A point that is only numbered is spoken of as a point.
fn spoken(label: &str) -> String {
    if label.starts_with(|c: char| c.is_ascii_digit()) { format!("point {label}") } else { label.to_owned() }
}

/// The step after `slug` that still wants something, in test order; then the first of all.
pub fn next_open(steps: &[Step], done: impl Fn(&Step) -> bool, slug: &str) -> Option<String> {
    let at = steps.iter().position(|step| step.slug == slug).map_or(0, |at| at + 1);
    let (before, after) = steps.split_at(at);
    after.iter().chain(before).find(|step| !done(step)).map(|step| step.slug.clone())
}

impl Sheet {
    /// A small mark beside a figure when its reading is to be looked at again or is outside.
    pub fn mark(&self, slug: &str) -> String {
        let chip =
            self.groups.iter().flat_map(|group| &group.cells).find(|cell| cell.slug == slug).and_then(|cell| cell.chip);
        match chip.filter(|chip| chip.look == "again" || chip.look == "outside") {
            Some(chip) => format!(
                " <b class=\"{}\" aria-hidden=\"true\">{}</b><span class=\"sr-only\">{}</span>",
                chip.look, chip.shape, chip.word
            ),
            None => String::new(),
        }
    }
}

impl Bench<'_> {
    fn done(&self, step: &Step) -> bool {
        self.settled.of(&step.key).is_some() || (self.stands_in)(step).is_some()
    }

    pub fn verdict(&self, step: &Step) -> Option<Verdict> {
        let value = self.settled.value(&step.key)?;
        let judgement = (self.judge)(step, value);
        Some(Verdict {
            label: spoken(&step.label),
            value: value.reason().map_or_else(|| value.shown(), |reason| format!("{} ({reason})", value.shown())),
            unit: if matches!(value, Value::Number(_) | Value::Over(_)) { step.field.unit() } else { "" },
            limit: limit_chip(judgement.limit),
            plausibility: plausibility_chip(judgement.plausibility),
            notes: judgement.notes,
            working: judgement.working,
        })
    }

    pub fn entry(&self, step: &Step, asked: &Asked) -> Entry {
        let at = self.steps.iter().position(|other| other.slug == step.slug).unwrap_or(0);
        let band = (self.band)(step);
        let (expected, basis) = match &band {
            Ok(band) => (band.in_unit(step.field.unit()), band.basis.clone()),
            Err(why) => ("—".to_owned(), (*why).to_owned()),
        };
        let earlier = self
            .settled
            .history(&step.key)
            .into_iter()
            .rev()
            .map(|(reading, struck)| Earlier {
                id: reading.id,
                value: format!("{} {}", reading.value.shown(), reading.value.reason().unwrap_or_default())
                    .trim()
                    .to_owned(),
                when: reading.context.taken_at.map_or_else(|| "time unknown".to_owned(), moment),
                who: reading.context.read_by.clone().unwrap_or_else(|| reading.context.entered_by.clone()),
                unsteady: reading.unsteady,
                struck: struck.map(str::to_owned),
            })
            .collect();
        let beside = |step: &Step| step.slug.clone();
        Entry {
            slug: step.slug.clone(),
            label: spoken(&step.label),
            stage: step.stage,
            hook_up: step.stage.hook_up(self.ring),
            proposed: (self.proposed)(step).unwrap_or_default(),
            caution: step.stage.caution(),
            unit: step.field.unit(),
            allowed: step.field.allowed(),
            goes_to: step.goes_to.shown(),
            expected,
            basis,
            outcome: step.field == Field::Outcome,
            leads: (step.field == Field::Continuity).then(|| (self.leads)(step)),
            voltage: step.test_voltage.map(|volts| format!("{} V d.c.", volts.get())),
            typed: asked.given_back.as_ref().map(|f| f.get("typed").to_owned()).unwrap_or_default(),
            error: asked.error.clone(),
            id: Uuid::new_v4(),
            position: at + 1,
            earlier,
            previous: at.checked_sub(1).and_then(|at| self.steps.get(at)).map(beside),
            following: self.steps.get(at + 1).map(beside),
        }
    }

    /// Draws the whole of it.
    pub fn sheet(&self, job: &Job, request: &HttpRequest, asked: &Asked) -> Sheet {
        let in_hand = asked
            .at
            .as_deref()
            .and_then(|slug| self.steps.iter().find(|step| step.slug == slug))
            .or_else(|| self.steps.iter().find(|step| !self.done(step)));
        let mut groups: Vec<Group> = Vec::new();
        for step in &self.steps {
            if groups.last().is_none_or(|group| group.stage != step.stage) {
                groups.push(Group { stage: step.stage, unit: step.field.unit(), cells: Vec::new(), done: 0 });
            }
            let reading = self.settled.of(&step.key);
            let Some(group) = groups.last_mut() else { continue };
            group.done += usize::from(self.done(step));
            group.cells.push(Cell {
                slug: step.slug.clone(),
                label: step.label.clone(),
                value: reading
                    .map(|reading| reading.value.shown())
                    .or_else(|| (self.stands_in)(step))
                    .unwrap_or_default(),
                chip: reading.map(|reading| worse(&(self.judge)(step, &reading.value))),
                here: in_hand.is_some_and(|here| here.slug == step.slug),
                unsteady: reading.is_some_and(|reading| reading.unsteady),
            });
        }
        let choice = |field: &str, cookie: &str| match &asked.given_back {
            Some(f) => f.get(field).to_owned(),
            None => remembered(request, cookie),
        };
        let judged = asked
            .last
            .as_deref()
            .or(asked.at.as_deref())
            .and_then(|slug| self.steps.iter().find(|step| step.slug == slug));
        Sheet {
            base: self.base.clone(),
            of_what: self.of_what,
            entry: in_hand.map(|step| self.entry(step, asked)),
            verdict: judged.and_then(|step| self.verdict(step)),
            of: self.steps.len(),
            groups,
            people: job.people.iter().map(|person| person.name.clone()).collect(),
            instruments: job
                .instruments
                .iter()
                .map(|one| (one.id, format!("{} {}", one.reference, one.kind)))
                .collect(),
            writer: choice("entered_by", "writer"),
            reader: choice("read_by", "reader"),
            instrument: choice("instrument", "instrument"),
            nulled: match &asked.given_back {
                Some(f) => f.ticked("nulled"),
                None => in_hand.is_some_and(|step| (self.nulled)(step)),
            },
            unsteady: asked.given_back.as_ref().is_some_and(|f| f.ticked("unsteady")),
        }
    }
}

/// What became of an entry.
pub enum Taken {
    /// It is stored; the reading, unless it was there before, and what it brought into the log.
    Stored(Option<Box<Reading>>, Vec<Event>),
    /// It is given back with what is wrong.
    GivenBack(String, StatusCode),
}

/// What an entry is taken against.
#[derive(Clone, Copy)]
pub struct Site<'a> {
    pub job: &'a Job,
    pub events: &'a [Event],
    pub readings: &'a [Reading],
}

impl Site<'_> {
    /// What the gates and the review look at.
    pub fn reviewed(&self) -> Reviewed<'_> {
        Reviewed {
            firm: &self.job.firm,
            installation: &self.job.installation,
            readings: self.readings,
            events: self.events,
            instruments: &self.job.instruments,
        }
    }

    /// Why a step may not be read now.
    fn gate(&self, step: &Step) -> Option<String> {
        let settled = Settled::new(self.readings, self.events);
        let refusal = may_read(self.reviewed(), &settled, step).err()?;
        Some(format!("{}; or tick “from paper” if it was read in the right state. What you typed is kept", refusal.why))
    }
}

/// Stores an entry, or gives it back. What the reading finds altered goes on the put-back list.
pub async fn take(shared: &Data<Shared>, site: Site<'_>, f: &Fields, step: &Step) -> Result<Taken, WebError> {
    let now = Timestamp::now();
    let reading = match reading_of(f, step, site, now)? {
        Ok(reading) => reading,
        Err(problem) => return Ok(Taken::GivenBack(problem, StatusCode::UNPROCESSABLE_ENTITY)),
    };
    let paper = reading.context.origin == Origin::Paper;
    if let (false, Some(why)) = (paper, site.gate(step)) {
        return Ok(Taken::GivenBack(format!("{why}."), StatusCode::CONFLICT));
    }
    let mut log = Vec::new();
    if !paper {
        log = altered(site, step, &reading.context.entered_by, now);
        if reading.context.null == LeadNull::Nulled && f.ticked("nulled") {
            log.extend(nulled(site, step, &reading.context.entered_by, now));
        }
    }
    let (store, id, sent) = (shared.store.clone(), site.job.id, reading.clone());
    let events = log.clone();
    let stored = super::blocking(move || Ok(store.append_reading_with(id, &sent, &events)?));
    match stored.await {
        Ok(Appended::Stored) => Ok(Taken::Stored(Some(Box::new(reading)), log)),
        Ok(Appended::AlreadyThere) => Ok(Taken::Stored(None, Vec::new())),
        Err(WebError::Clash(problem)) => {
            let problem = format!("{problem}. Press Enter again to store what stands here as a repeat.");
            Ok(Taken::GivenBack(problem, StatusCode::CONFLICT))
        }
        Err(other) => Err(other),
    }
}

/// What the log gains when a step is read: new items, and the closing of those that gave way.
fn altered(site: Site<'_>, step: &Step, by: &str, now: Timestamp) -> Vec<Event> {
    let open = open_items(site.events);
    let (made, replaced) = changes(&site.job.installation, step, &open);
    made_events(made, replaced, by, now)
}

/// Alterations and the items that give way to them, as events.
pub fn made_events(made: Vec<Disturbance>, replaced: Vec<Uuid>, by: &str, now: Timestamp) -> Vec<Event> {
    let mut log: Vec<Event> =
        replaced.into_iter().map(|item| Event::new(by, now, EventKind::PutBack { item })).collect();
    log.extend(made.into_iter().map(|one| Event::new(by, now, one.opened(Uuid::new_v4()))));
    log
}

/// Leads said to be nulled that the log does not know to be.
fn nulled(site: Site<'_>, step: &Step, by: &str, now: Timestamp) -> Option<Event> {
    let leads = leads(&site.job.installation, step);
    let known = LeadState::of(site.events, site.readings).serves(LeadCompensation::Hold, leads);
    (!known).then(|| {
        let (lead_set, pins) = (leads.set.to_owned(), leads.pins.to_owned());
        Event::new(by, now, EventKind::Nulled { lead_set, pins, subtract_ohm: None })
    })
}

/// Leads in words: the set, and its pins where it has pins.
pub fn leads_said(installation: &Installation, step: &Step) -> String {
    let held = leads(installation, step);
    format!("{} {}", held.set, held.pins).trim().to_owned()
}

/// How the leads stood, and what is taken off what was typed.
fn lead_null(site: Site<'_>, step: &Step, said: bool) -> LeadNull {
    let leads = leads(&site.job.installation, step);
    let state = LeadState::of(site.events, site.readings);
    let rule = site.job.installation.house_rules.leads;
    match (rule, state.subtract(leads)) {
        (LeadCompensation::Subtract, Some(ohm)) => LeadNull::Subtract { ohm },
        _ if said || state.serves(LeadCompensation::Hold, leads) => LeadNull::Nulled,
        _ => LeadNull::Unknown,
    }
}

/// What is taken: the button that was pressed, else what stands in the field. A button beside words
/// that say something else than an outcome would lose them.
fn pressed(f: &Fields) -> Result<&str, String> {
    let (outcome, typed) = (f.get("outcome"), f.trimmed("typed"));
    match (outcome, typed.to_lowercase().as_str()) {
        ("", _) => Ok(f.get("typed")),
        (outcome, "" | "pass" | "fail") => Ok(outcome),
        (outcome, _) => Err(format!(
            "“{typed}” stands in the field and {outcome} was pressed: empty the field, or press Store to keep what stands in it."
        )),
    }
}

/// Makes a reading of a form; the inner error is given back with what was typed.
pub fn reading_of(
    f: &Fields,
    step: &Step,
    site: Site<'_>,
    now: Timestamp,
) -> Result<Result<Reading, String>, WebError> {
    let id: Uuid = f
        .get("id")
        .parse()
        .map_err(|_| WebError::Bad("The form has no id for its reading: load the page again.".into()))?;
    let instruments = &site.job.instruments;
    let instrument =
        f.get("instrument").parse::<Uuid>().ok().and_then(|id| instruments.iter().find(|one| one.id == id));
    let over_range = instrument.map_or(dec!(999), |one| one.over_range_mohm);
    let typed = match pressed(f) {
        Ok(typed) => typed,
        Err(problem) => return Ok(Err(problem)),
    };
    let mut value = match parse(typed, step.field, over_range) {
        Ok(value) => value,
        Err(refused) => return Ok(Err(refused.to_string())),
    };
    if between_lines(step) && value.number().is_some() && !instrument.is_some_and(|one| one.line_to_line) {
        return Ok(Err(
            "A reading between lines is taken only with an instrument rated for it: name one whose register says so."
                .into(),
        ));
    }
    let entered_by = f.trimmed("entered_by").to_owned();
    let read_by = f.trimmed("read_by").to_owned();
    if entered_by.is_empty() {
        return Ok(Err("Who writes this down? Give a name under “written by”.".into()));
    }
    if entered_by.chars().count() > LONGEST_LINE || read_by.chars().count() > LONGEST_LINE {
        return Ok(Err(format!("A name is at most {LONGEST_LINE} characters.")));
    }
    let paper = f.ticked("paper");
    let low_ohm = step.field == Field::Continuity;
    let null = if low_ohm { lead_null(site, step, f.ticked("nulled")) } else { LeadNull::Unknown };
    if let (LeadNull::Subtract { ohm }, Value::Number(number)) = (null, &mut value) {
        if *number < ohm {
            return Ok(Err(format!(
                "{number} Ω is less than the leads alone, {ohm} Ω: measure the leads again, or read again."
            )));
        }
        *number -= ohm;
    }
    let held = leads(&site.job.installation, step);
    let circuit = step.key.subject.circuit().and_then(|id| site.job.installation.circuit(id));
    Ok(Ok(Reading {
        id,
        key: step.key.clone(),
        typed: typed.trim().to_owned(),
        value,
        unsteady: f.ticked("unsteady"),
        context: Context {
            instrument: instrument.map(|one| one.id),
            lead_set: low_ohm.then(|| held.set.to_owned()),
            pins: (low_ohm && !held.pins.is_empty()).then(|| held.pins.to_owned()),
            null,
            test_voltage_v: step.test_voltage,
            ambient_c: circuit.and_then(|circuit| circuit.cable_c).or(site.job.installation.ambient_c),
            taken_at: (!paper).then_some(now),
            stored_at: now,
            origin: if paper { Origin::Paper } else { Origin::Typed },
            read_by: (!read_by.is_empty()).then_some(read_by),
            entered_by,
        },
    }))
}

/// Whether both conductors of a live reading are lines.
fn between_lines(step: &Step) -> bool {
    let lines = [Conductor::L1, Conductor::L2, Conductor::L3];
    let pair = step.key.pair.map(Pair::both).filter(|_| !step.stage.is_dead());
    pair.is_some_and(|(a, b)| lines.contains(&a) && lines.contains(&b))
}

/// Cookies that remember who writes, who reads, with what.
pub fn remember_entry(f: &Fields) -> Vec<(&'static str, String)> {
    vec![
        remember("writer", f.trimmed("entered_by")),
        remember("reader", f.trimmed("read_by")),
        remember("instrument", f.trimmed("instrument")),
    ]
}
