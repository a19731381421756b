//! Entering readings, the same at a circuit and at the origin: the steps in test order, the one in
//! hand with what it should read, the verdict on the last.

use crate::forms::Fields;
use crate::frame::moment;
use crate::pages::reference::tables::{Table, beside};
use crate::request::{offered, remember, remembered};
use crate::words::{Chip, JudgementMark, limit_chip, plausibility_chip, worse};
use actix_web::{HttpRequest, HttpResponse};
use proof_job::installation::{Circuit, Installation, Residual};
use proof_job::job::Job;
use proof_job::reading::entry::Field;
use proof_job::reading::{CurrentReadings, Place, Stage, Step, Test, Value, Why};
use proof_job::site::Wanted;
use proof_judge::expectation::{Band, Unknown};
use proof_judge::verdict::{Judgement, Working};
use proof_standard::limits::rcd::TripWindow;
use proof_work::actions::Figure;
use proof_work::plan::hook_up::hook_up_now;
use proof_work::plan::outstanding::{StepState, is_wanted};
use uuid::Uuid;

/// Judges a value for a step.
pub(crate) type Judging<'a> = Box<dyn Fn(&Step, &Value) -> Judgement + 'a>;
/// The band of a step, or what would have to be known first.
pub(crate) type Expecting<'a> = Box<dyn Fn(&Step) -> Result<Band, Unknown> + 'a>;

/// How a step stands.
pub(crate) type State<'a> = Box<dyn Fn(&Step) -> StepState + 'a>;

/// Where a step is best read, in words.
type Proposing<'a> = Box<dyn Fn(&Step) -> Option<String> + 'a>;

/// What is shown where no band is known, and what it holds for.
type Within<'a> = Box<dyn Fn(&Step) -> Option<(String, String)> + 'a>;

/// What judging and expecting need, for whichever place the readings are of.
pub(crate) struct EntryContext<'a> {
    pub steps: Vec<Step>,
    pub settled: &'a CurrentReadings<'a>,
    pub judge: Judging<'a>,
    /// The same verdict with its working.
    pub explain: Judging<'a>,
    pub band: Expecting<'a>,
    /// Within what a trip time is right, and for which device: a limit, where no circuit says what to expect.
    pub window: Within<'a>,
    /// How a step stands.
    pub state: State<'a>,
    /// The leads that a low-resistance step is read with, in words.
    pub leads: Box<dyn Fn(&Step) -> String + 'a>,
    /// Where the step is best read, in words.
    pub proposed: Proposing<'a>,
    /// Whether the leads that the step is read with are nulled, as the log has it.
    pub nulled: Box<dyn Fn(&Step) -> bool + 'a>,
    /// Where the page and its forms are.
    pub base: String,
    pub ring: bool,
    /// What the second verdict asks of: `this circuit`, `this supply`.
    pub of_what: &'static str,
}

/// A step in the list.
pub(crate) struct EntryStep {
    pub slug: String,
    pub label: String,
    pub value: String,
    pub chip: Option<Chip>,
    pub here: bool,
    pub unsteady: bool,
}

/// A stage of the list.
pub(crate) struct Group {
    pub stage: Stage,
    pub unit: &'static str,
    pub cells: Vec<EntryStep>,
    pub done: usize,
}

/// An earlier reading of the step in hand.
pub(crate) struct Earlier {
    pub id: Uuid,
    pub value: String,
    pub when: String,
    pub who: String,
    pub unsteady: bool,
    pub struck: Option<String>,
}

/// A judged reading.
pub(crate) struct Verdict {
    pub label: String,
    pub value: String,
    pub unit: &'static str,
    pub limit: Chip,
    pub plausibility: Chip,
    pub notes: Vec<String>,
    pub working: Vec<Working>,
}

impl Verdict {
    /// The sign that is given of it: what outranks what.
    pub(crate) const fn sign(&self) -> &'static str {
        match (self.limit.mark, self.plausibility.mark) {
            (JudgementMark::Outside, _) => "outside",
            (_, JudgementMark::Again) => "again",
            _ => "within",
        }
    }
}

/// The step in hand.
pub(crate) struct Entry {
    pub slug: String,
    pub label: String,
    pub stage: Stage,
    pub hook_up: &'static str,
    /// What is seen to before insulation is read, a line each, as the card of the run has it.
    pub prepared: Vec<String>,
    pub proposed: String,
    pub caution: Option<&'static str>,
    pub why: Why,
    pub beside: Option<Table>,
    pub unit: &'static str,
    /// Over range is written as `>` and a number.
    pub megohms: bool,
    /// It may not trip at all.
    pub trips: bool,
    pub allowed: &'static str,
    pub goes_to: String,
    pub expected: String,
    pub basis: String,
    pub outcome: bool,
    pub leads: Option<String>,
    pub voltage: Option<String>,
    pub typed: String,
    /// Why it could not be read, as it was given.
    pub excuse: String,
    pub error: String,
    pub id: Uuid,
    pub position: usize,
    pub earlier: Vec<Earlier>,
    pub previous: Option<String>,
    pub following: Option<String>,
}

/// The whole of it.
pub(crate) struct EntrySheet {
    /// Where the work goes on when every reading is in.
    pub onward: Option<(String, String)>,
    pub base: String,
    pub groups: Vec<Group>,
    pub entry: Option<Entry>,
    pub verdict: Option<Verdict>,
    pub of: usize,
    pub people: Vec<String>,
    /// Ticked as read from paper, and the day that was given last.
    pub paper: bool,
    pub paper_on: String,
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
pub(crate) struct EntryQuery {
    pub at: Option<String>,
    pub last: Option<String>,
    /// The form as it was sent, when it is given back with an error.
    pub given_back: Option<Fields>,
    pub error: String,
    /// An explanation of the readings is asked for.
    pub diagnose: bool,
    /// The reading before was copied from paper: so is the next, until somebody says otherwise.
    pub paper: bool,
}

/// A point that is only numbered is spoken of as a point.
fn spoken(step: &Step) -> String {
    let at_point = step.key.subject.place().and_then(Place::point).is_some();
    let numbered = at_point && step.label.starts_with(|c: char| c.is_ascii_digit());
    if numbered { format!("point {}", step.label) } else { step.label.clone() }
}

/// Within what the residual device of a circuit trips at the multiple of a step, and which device it is.
pub(crate) fn trip_window(installation: &Installation, circuit: &Circuit, step: &Step) -> Option<(String, String)> {
    let rcd = installation.rcd_for(circuit)?;
    window_of(installation, Residual { idn_ma: rcd.idn_ma, kind: rcd.kind }, step)
}

/// Within what a residual device trips at the multiple of a step, and which device it is.
pub(crate) fn window_of(installation: &Installation, rcd: Residual, step: &Step) -> Option<(String, String)> {
    let Test::RcdTrip { multiple, .. } = step.key.test else { return None };
    let shown = match *installation.trip_window(rcd.kind, multiple) {
        TripWindow::NoTrip => "no trip".to_owned(),
        TripWindow::Between { min_ms: None, max_ms } => format!("up to {max_ms} ms"),
        TripWindow::Between { min_ms: Some(min_ms), max_ms } => format!("{min_ms}–{max_ms} ms"),
    };
    Some((shown, format!("{} mA, {}: the limit of its standard", rcd.idn_ma.normalize(), rcd.kind.name())))
}

/// Whether a step is asked for in its turn: dead every one, at power what is wanted.
fn in_turn(step: &Step) -> bool {
    is_wanted(step) || step.stage.is_dead()
}

/// The step after `slug` that is still open, in test order, then the first of all; none when all that is wanted
/// is in.
pub(crate) fn next_open(steps: &[Step], state: impl Fn(&Step) -> StepState, slug: &str) -> Option<String> {
    let states: Vec<StepState> = steps.iter().map(state).collect();
    // Struck out, its place wants a figure whether it is asked for or not.
    let open = |(step, state): (&Step, &StepState)| match state {
        StepState::Read | StepState::Substitute(_) => false,
        StepState::NotRead => is_wanted(step),
        StepState::StruckOut(_) => true,
    };
    if !steps.iter().zip(&states).any(open) {
        return None;
    }
    let at = steps.iter().position(|step| step.slug == slug).map_or(0, |at| at + 1);
    let in_order = (at..steps.len()).chain(0..at);
    let next = in_order.map(|at| (&steps[at], &states[at])).find(|(step, state)| {
        let struck = matches!(state, StepState::StruckOut(_));
        (in_turn(step) || struck) && !state.is_done()
    });
    next.map(|(step, _)| step.slug.clone())
}

impl EntrySheet {
    /// A small mark beside a figure when its reading is to be looked at again or is outside.
    pub(crate) fn mark(&self, slug: &str) -> String {
        let chip =
            self.groups.iter().flat_map(|group| &group.cells).find(|cell| cell.slug == slug).and_then(|cell| cell.chip);
        match chip.filter(|chip| chip.is_odd()) {
            Some(chip) => format!(
                " <b class=\"{}\" aria-hidden=\"true\">{}</b><span class=\"sr-only\">{}</span>",
                chip.look, chip.shape, chip.text
            ),
            None => String::new(),
        }
    }
}

impl EntryContext<'_> {
    pub(crate) fn verdict(&self, step: &Step) -> Option<Verdict> {
        let value = self.settled.value(&step.key)?;
        let judgement = (self.explain)(step, value);
        Some(Verdict {
            label: spoken(step),
            value: value.reason().map_or_else(|| value.shown(), |reason| format!("{} ({reason})", value.shown())),
            unit: if matches!(value, Value::Number(_) | Value::Over(_)) { step.field.unit() } else { "" },
            limit: limit_chip(judgement.limit),
            plausibility: plausibility_chip(judgement.plausibility),
            notes: judgement.reasons.iter().map(ToString::to_string).collect(),
            working: judgement.working,
        })
    }

    pub(crate) fn entry(&self, step: &Step, asked: &EntryQuery) -> Entry {
        let at = self.steps.iter().position(|other| other.slug == step.slug).unwrap_or(0);
        let band = (self.band)(step);
        let (expected, basis) = match &band {
            Ok(band) => (band.in_unit(step.field.unit()), band.basis.clone()),
            Err(why) => (self.window)(step).unwrap_or_else(|| ("—".to_owned(), why.to_string())),
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
                when: match (reading.context.taken_at, reading.context.read_on) {
                    (Some(at), _) => moment(at),
                    (None, Some(day)) => format!("on paper, {day}"),
                    (None, None) => "time unknown".to_owned(),
                },
                who: reading.context.read_by.clone().unwrap_or_else(|| reading.context.entered_by.clone()),
                unsteady: reading.unsteady,
                struck: struck.map(str::to_owned),
            })
            .collect();
        let slug = |step: &Step| step.slug.clone();
        Entry {
            slug: step.slug.clone(),
            label: spoken(step),
            stage: step.stage,
            hook_up: step.hook_up(self.ring),
            prepared: Vec::new(),
            proposed: (self.proposed)(step).unwrap_or_default(),
            // What is only looked at is taken off by nobody.
            caution: step.caution().filter(|_| Wanted::for_key(&step.key) != Wanted::Nothing),
            why: step.key.test.why(),
            beside: beside(step.key.test).filter(|_| Wanted::for_key(&step.key) != Wanted::Nothing),
            unit: step.field.unit(),
            megohms: step.field == Field::Insulation,
            trips: step.field == Field::TripTime,
            allowed: step.field.allowed(),
            goes_to: step.goes_to.shown(),
            expected,
            basis,
            outcome: step.field == Field::Outcome,
            leads: (step.field == Field::Continuity).then(|| (self.leads)(step)),
            voltage: step.test_voltage.map(|volts| format!("{} V d.c.", volts.get())),
            typed: asked.given_back.as_ref().map(|f| f.get("typed").to_owned()).unwrap_or_default(),
            excuse: asked.given_back.as_ref().map(|f| f.get("excuse").to_owned()).unwrap_or_default(),
            error: asked.error.clone(),
            id: Uuid::new_v4(),
            position: at + 1,
            earlier,
            previous: at.checked_sub(1).and_then(|at| self.steps.get(at)).map(slug),
            following: self.steps.get(at + 1).map(slug),
        }
    }

    /// The step that is asked for, else the first that is open.
    fn current_step(&self, asked: &EntryQuery) -> Option<&Step> {
        let by_name = |slug: &str| self.steps.iter().find(|step| step.slug == slug);
        let first = || next_open(&self.steps, &self.state, "");
        asked.at.as_deref().and_then(by_name).or_else(|| first().as_deref().and_then(by_name))
    }

    /// Draws the whole of it.
    pub(crate) fn sheet(&self, job: &Job, request: &HttpRequest, asked: &EntryQuery) -> EntrySheet {
        let current_step = self.current_step(asked);
        let mut groups: Vec<Group> = Vec::new();
        for step in &self.steps {
            if groups.last().is_none_or(|group| group.stage != step.stage) {
                groups.push(Group { stage: step.stage, unit: step.field.unit(), cells: Vec::new(), done: 0 });
            }
            let reading = self.settled.get(&step.key);
            let Some(group) = groups.last_mut() else { continue };
            let state = (self.state)(step);
            group.done += usize::from(state.is_done());
            group.cells.push(EntryStep {
                slug: step.slug.clone(),
                label: step.label.clone(),
                value: match (reading, state) {
                    (Some(reading), _) => reading.value.shown(),
                    (None, StepState::Substitute(shown)) => shown,
                    (None, _) => String::new(),
                },
                chip: reading.map(|reading| worse(&(self.judge)(step, &reading.value))),
                here: current_step.is_some_and(|here| here.slug == step.slug),
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
        EntrySheet {
            base: self.base.clone(),
            of_what: self.of_what,
            entry: current_step.map(|step| Entry {
                prepared: if step.stage == Stage::Insulation { hook_up_now(job, step).notes } else { Vec::new() },
                ..self.entry(step, asked)
            }),
            verdict: judged.and_then(|step| self.verdict(step)),
            of: self.steps.len(),
            groups,
            people: job.people.iter().map(|person| person.name.clone()).collect(),
            instruments: job
                .instruments
                .iter()
                .map(|one| (one.id, format!("{} {}", one.reference, one.kind)))
                .collect(),
            onward: Some((format!("/jobs/{}/run", job.id), "Go on".to_owned())),
            writer: choice("entered_by", "writer"),
            reader: choice("read_by", "reader"),
            instrument: match &asked.given_back {
                Some(f) => f.get("instrument").to_owned(),
                None => offered(job, &remembered(request, "instrument")),
            },
            nulled: match &asked.given_back {
                Some(f) => f.ticked("nulled"),
                None => current_step.is_some_and(|step| (self.nulled)(step)),
            },
            paper: asked.given_back.as_ref().map_or(asked.paper, |f| f.ticked("paper")),
            paper_on: choice("paper_on", "paper_on"),
            unsteady: asked.given_back.as_ref().is_some_and(|f| f.ticked("unsteady")),
        }
    }
}

/// The figure that a form holds for a step.
pub(crate) fn figure(f: &Fields, step: &Step) -> Figure {
    let pressed = match f.get("outcome") {
        // A phone's pad has no letters: the reason stands in a field of its own.
        why @ ("lim" | "n/a") => format!("{why} {}", f.trimmed("excuse")),
        outcome => outcome.to_owned(),
    };
    Figure { step: step.clone(), typed: f.get("typed").to_owned(), pressed, with: f.with() }
}

/// Remembers who writes, who reads, with what.
pub(crate) fn remember_entry(response: &mut HttpResponse, f: &Fields) {
    let choices = ["entered_by", "read_by", "instrument"].map(|name| f.trimmed(name));
    if f.ticked("paper") {
        remember(response, &[("paper_on", f.trimmed("paper_on"))]);
    }
    remember(response, &[("writer", choices[0]), ("reader", choices[1]), ("instrument", choices[2])]);
}
