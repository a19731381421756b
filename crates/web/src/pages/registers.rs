//! Firm, people, instruments; the look of the pages.

use crate::draw::trend;
use crate::error::{Handled, WebError, go, go_done, page_with};
use crate::forms::{Fields, by_key};
use crate::frame::Frame;
use crate::request::{blocking, once, remember};
use crate::shared::Shared;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use jiff::Zoned;
use proof_job::installation::pattern::Pattern;
use proof_job::installation::validity::LONGEST_LINE;
use proof_job::installation::{Firm, Person};
use proof_job::instrument::{
    CHECK_EVERY_DAYS, CheckOf, FixedCheck, Instrument, SeriesOrder, distrust, drift_percent_a_year, is_right,
};
use proof_standard::house_rules::RULES;
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// Most checks of an instrument that are kept: monthly on three ranges for forty years.
const MOST_CHECKS: usize = 1500;

#[derive(Template)]
#[template(path = "firm.html")]
struct FirmPage {
    frame: Frame,
    f: Fields,
    people: Vec<Person>,
    instruments: Vec<Instrument>,
    patterns: Vec<Pattern>,
    rules: Vec<(&'static str, String)>,
}

async fn drawn(shared: Data<Shared>, f: Fields, status: StatusCode) -> Handled {
    let (firm, people, instruments, patterns) = blocking(move || {
        let store = &shared.store;
        Ok((store.firm()?, store.people()?, store.instruments()?, store.patterns()?))
    })
    .await?;
    let mut f = f;
    // What was typed stands first; what is stored fills the rest.
    for (name, value) in [
        ("firm_name", firm.name),
        ("firm_address", firm.address),
        ("firm_contact", firm.contact),
        ("over_range", "999".into()),
    ] {
        if f.get(name).is_empty() && f.error(name).is_empty() {
            f.put(name, value);
        }
    }
    for rule in RULES {
        if f.get(rule.key).is_empty() {
            f.put(rule.key, (rule.chosen)(&firm.house_rules));
        }
    }
    let rules = crate::forms::house_rules::rule_fields(&f);
    page_with(status, &FirmPage { frame: Frame::outside("Firm"), f, people, instruments, patterns, rules })
}

pub(crate) async fn show(shared: Data<Shared>) -> Handled {
    drawn(shared, Fields::default(), StatusCode::OK).await
}

pub(crate) async fn save_firm(shared: Data<Shared>, mut f: Fields) -> Handled {
    let firm = Firm {
        name: f.line("firm_name", LONGEST_LINE),
        address: f.line("firm_address", LONGEST_LINE),
        contact: f.line("firm_contact", LONGEST_LINE),
        ..Firm::default()
    };
    if firm.name.is_empty() {
        f.wrong("firm_name", "Give the name that stands on certificates.");
    }
    if f.any_wrong() {
        return drawn(shared, f, StatusCode::UNPROCESSABLE_ENTITY).await;
    }
    once(&shared, &f, move |store| {
        Ok(store.change_firm(|now| {
            let house_rules = std::mem::take(&mut now.house_rules);
            *now = Firm { house_rules, ..firm };
        })?)
    })
    .await?;
    Ok(go_done("/firm", "firm"))
}

/// House rules of the firm: new jobs begin with them.
pub(crate) async fn save_rules(shared: Data<Shared>, mut f: Fields) -> Handled {
    let store = shared.store.clone();
    let mut firm = blocking(move || Ok(store.firm()?)).await?;
    crate::forms::house_rules::house_rules(&mut f, &mut firm.house_rules);
    if f.any_wrong() {
        return drawn(shared, f, StatusCode::UNPROCESSABLE_ENTITY).await;
    }
    once(&shared, &f, move |store| Ok(store.change_firm(|now| now.house_rules = firm.house_rules)?)).await?;
    Ok(go_done("/firm#rules", "rules"))
}

pub(crate) async fn save_person(shared: Data<Shared>, mut f: Fields) -> Handled {
    let person = Person {
        id: f.made_id("person"),
        name: f.line("person_name", LONGEST_LINE),
        position: f.line("person_position", LONGEST_LINE),
    };
    if person.name.is_empty() {
        f.wrong("person_name", "Give a name.");
    }
    if f.any_wrong() {
        return drawn(shared, f, StatusCode::UNPROCESSABLE_ENTITY).await;
    }
    once(&shared, &f, move |store| Ok(store.save_person(&person)?)).await?;
    Ok(go_done("/firm", "person"))
}

/// What a form says of an instrument; what is wrong stands in the form.
pub(crate) fn instrument_of(f: &mut Fields, before: Instrument) -> Instrument {
    let kind = f.line("kind", LONGEST_LINE);
    let reference = f.line("instrument_reference", LONGEST_LINE);
    for (name, text, problem) in [
        ("kind", &kind, "Say what it measures, such as multifunction tester."),
        ("instrument_reference", &reference, "Give your own reference, such as MFT-2."),
    ] {
        if text.is_empty() {
            f.wrong(name, problem);
        }
    }
    let due = f.trimmed("due").to_owned();
    let calibration_due = due.parse().ok();
    if !due.is_empty() && calibration_due.is_none() {
        f.wrong("due", format!("“{due}” is no date: write it as 2027-06-30."));
    }
    let over_range_mohm = f.decimal("over_range", "MΩ that it shows when over range, such as 999").unwrap_or(dec!(999));
    if over_range_mohm <= Decimal::ZERO {
        f.wrong("over_range", "An over-range display is above 0 MΩ.");
    }
    let over_range_ohm = f.decimal("over_ohm", "Ω that it shows when over range, such as 99.9");
    let over_range_loop_ohm = f.decimal("over_loop", "Ω that it shows when a loop is over range, such as 1999");
    let continuity_v = f.decimal("continuity_v", "volts such as 5");
    if continuity_v.is_some_and(|volts| volts < dec!(4) || volts > dec!(24)) {
        f.wrong("continuity_v", "A continuity range has 4 to 24 V between its open tips (BS EN 61557-4).");
    }
    let volts = f.line("insulation_v", LONGEST_LINE);
    let mut insulation_v = Vec::new();
    for one in volts.split([' ', ',', ';', '/']).filter(|one| !one.is_empty()) {
        match one.parse::<u16>().ok().filter(|volts| (50..=5000).contains(volts)) {
            Some(volts) => insulation_v.push(volts),
            None => f.wrong("insulation_v", format!("“{one}” is no test voltage: write 250 500 1000.")),
        }
    }
    Instrument {
        kind,
        reference,
        serial: f.line("serial", LONGEST_LINE),
        calibration_due,
        over_range_mohm,
        over_range_ohm,
        over_range_loop_ohm,
        continuity_v,
        insulation_v,
        line_to_line: f.is("line_to_line", "yes"),
        series: by_key(&SeriesOrder::ALL, f.get("series"), SeriesOrder::key),
        ..before
    }
}

pub(crate) async fn save_instrument(shared: Data<Shared>, mut f: Fields) -> Handled {
    let blank = Instrument { id: f.made_id("instrument"), ..Instrument::default() };
    let instrument = instrument_of(&mut f, blank);
    if f.any_wrong() {
        return drawn(shared, f, StatusCode::UNPROCESSABLE_ENTITY).await;
    }
    match once(&shared, &f, move |store| Ok(store.save_instrument(&instrument)?)).await {
        Ok(_) => Ok(go_done("/firm", "instrument")),
        Err(WebError::Clash(problem)) => {
            f.wrong("instrument_reference", problem);
            drawn(shared, f, StatusCode::CONFLICT).await
        }
        Err(other) => Err(other),
    }
}

/// A check as shown.
pub(crate) struct CheckRow {
    pub on: String,
    pub of: &'static str,
    pub fixed: String,
    pub read: String,
    pub by: String,
    pub right: bool,
}

#[derive(Template)]
#[template(path = "instrument.html")]
struct InstrumentPage {
    frame: Frame,
    f: Fields,
    one: Instrument,
    checks: Vec<CheckRow>,
    drawing: String,
    drifts: Vec<String>,
    standing: Vec<String>,
    every_days: i32,
}

async fn instrument_drawn(shared: Data<Shared>, id: Uuid, mut f: Fields, status: StatusCode) -> Handled {
    let store = shared.store.clone();
    let (all, rule) = blocking(move || Ok((store.instruments()?, store.firm()?.house_rules.instruments))).await?;
    let one = all.into_iter().find(|one| one.id == id).ok_or_else(no_such)?;
    let today = Zoned::now().date();
    let text = |value: Option<Decimal>| value.map(|value| value.normalize().to_string()).unwrap_or_default();
    for (name, value) in [
        ("on", today.to_string()),
        ("instrument_reference", one.reference.clone()),
        ("kind", one.kind.clone()),
        ("serial", one.serial.clone()),
        ("due", one.calibration_due.map(|due| due.to_string()).unwrap_or_default()),
        ("over_range", one.over_range_mohm.normalize().to_string()),
        ("over_ohm", text(one.over_range_ohm)),
        ("over_loop", text(one.over_range_loop_ohm)),
        ("continuity_v", text(one.continuity_v)),
        ("insulation_v", one.insulation_v.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")),
        ("series", one.series.map(|order| order.key().to_owned()).unwrap_or_default()),
        ("line_to_line", if one.line_to_line { "yes" } else { "no" }.to_owned()),
    ] {
        if f.get(name).is_empty() && f.error(name).is_empty() {
            f.put(name, value);
        }
    }
    let mut standing: Vec<String> =
        CheckOf::ALL.into_iter().filter_map(|of| distrust(&one, rule, of, today)).map(|why| why.to_string()).collect();
    // Without a date every range says the same.
    standing.dedup();
    let page = InstrumentPage {
        frame: Frame::outside(&one.reference),
        checks: one
            .checks
            .iter()
            .rev()
            .map(|check| CheckRow {
                on: check.on.to_string(),
                of: check.of.key(),
                fixed: format!("{} {}", check.fixed, check.of.unit()),
                read: format!("{} {}", check.read, check.of.unit()),
                by: check.by.clone(),
                right: is_right(check),
            })
            .collect(),
        drawing: trend::drawing(&one.checks),
        drifts: CheckOf::ALL
            .into_iter()
            .filter_map(|of| Some(format!("{} {:+.1} % a year", of.key(), drift_percent_a_year(&one, of)?)))
            .collect(),
        standing,
        every_days: CHECK_EVERY_DAYS,
        f,
        one,
    };
    page_with(status, &page)
}

pub(crate) async fn instrument(shared: Data<Shared>, path: Path<Uuid>) -> Handled {
    instrument_drawn(shared, path.into_inner(), Fields::default(), StatusCode::OK).await
}

fn no_such() -> WebError {
    WebError::NotFound("There is no such instrument.".into())
}

pub(crate) async fn change_instrument(shared: Data<Shared>, path: Path<Uuid>, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let mut given = f.clone();
    let today = Zoned::now().date();
    let done = once(&shared, &f, move |store| {
        let done = store.change_instrument(id, |one| {
            let before = one.clone();
            *one = instrument_of(&mut given, before.clone());
            // A new calibration says nothing of what was read under the one before.
            if !given.ticked("slip") {
                one.recalibrated(&before, today);
            }
            if given.any_wrong() { Err(given) } else { Ok(()) }
        })?;
        done.ok_or_else(no_such)
    });
    match done.await {
        Ok(Some(Err(f))) => instrument_drawn(shared, id, f, StatusCode::UNPROCESSABLE_ENTITY).await,
        Ok(_) => Ok(go(&format!("/firm/instruments/{id}"))),
        Err(WebError::Clash(problem)) => {
            f.wrong("instrument_reference", problem);
            instrument_drawn(shared, id, f, StatusCode::CONFLICT).await
        }
        Err(other) => Err(other),
    }
}

/// Adds a check against a fixed value.
pub(crate) async fn add_check(shared: Data<Shared>, path: Path<Uuid>, mut f: Fields) -> Handled {
    let id = path.into_inner();
    let on = f.trimmed("on").parse().ok();
    if on.is_none() {
        f.wrong("on", format!("“{}” is no date: write it as 2026-11-03.", f.trimmed("on")));
    }
    let of = CheckOf::ALL.into_iter().find(|of| of.key() == f.get("of")).unwrap_or(CheckOf::Continuity);
    let fixed = f.decimal("fixed", "the fixed value, such as 1.00");
    let read = f.decimal("read", "what the instrument showed, such as 1.01");
    for (name, value) in [("fixed", fixed), ("read", read)] {
        if value.is_none() || (name == "fixed" && value == Some(Decimal::ZERO)) {
            f.wrong(name, "Give a number above 0.");
        }
    }
    let by = f.line("check_by", LONGEST_LINE);
    if by.is_empty() {
        f.wrong("check_by", "Give the name of the person who checked.");
    }
    let (false, Some(on), Some(fixed), Some(read)) = (f.any_wrong(), on, fixed, read) else {
        return instrument_drawn(shared, id, f, StatusCode::UNPROCESSABLE_ENTITY).await;
    };
    let done = once(&shared, &f, move |store| {
        let done = store.change_instrument(id, |one| {
            if one.checks.len() >= MOST_CHECKS {
                return Err(format!("At most {MOST_CHECKS} checks of an instrument are kept."));
            }
            one.checks.push(FixedCheck { on, of, fixed, read, by });
            one.checks.sort_by_key(|check| check.on);
            Ok(())
        })?;
        done.ok_or_else(no_such)
    });
    if let Some(Err(problem)) = done.await? {
        f.wrong("on", problem);
        return instrument_drawn(shared, id, f, StatusCode::UNPROCESSABLE_ENTITY).await;
    }
    Ok(go(&format!("/firm/instruments/{id}#checks")))
}

/// Remembers paper, night or the system's look; goes back to where the form stood.
pub(crate) async fn look(request: HttpRequest, f: Fields) -> Handled {
    let look = match f.get("look") {
        look @ ("paper" | "night") => look,
        _ => "system",
    };
    let back = request
        .headers()
        .get("referer")
        .and_then(|referer| referer.to_str().ok())
        .and_then(|referer| referer.split_once("://"))
        .and_then(|(_, rest)| rest.find('/').map(|at| rest[at..].to_owned()))
        .unwrap_or_else(|| "/".to_owned());
    let mut response = go(&back);
    remember(&mut response, &[("look", look)]);
    Ok(response)
}

/// The look that this browser remembers, as a style sheet: works without scripts.
pub(crate) async fn look_sheet(request: HttpRequest) -> HttpResponse {
    let sheet = match crate::request::remembered(&request, "look").as_str() {
        "night" => include_str!("../../styles/night.css"),
        "paper" => include_str!("../../styles/paper.css"),
        _ => "",
    };
    HttpResponse::Ok().content_type("text/css; charset=utf-8").insert_header(("cache-control", "no-store")).body(sheet)
}
