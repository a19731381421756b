//! Reference: the tables with their sources, and the calculators of `proof calc` as forms. They ask
//! the same contracts as the command line.

pub(crate) mod tables;

use crate::error::{Handled, WebError, page, page_with};
use crate::forms::lists::Choices;
use crate::forms::{Fields, lists};
use crate::frame::Frame;
use crate::request::blocking;
use crate::shared::Shared;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use proof_job::installation::{OwnLimit, OwnRow};
use proof_physics::network::description::Refused;
use proof_standard::limits::{Source, sources};
use serde_json::{Map, Value, json};
use tables::{Table, tables};

#[derive(Template)]
#[template(path = "reference.html")]
struct ReferencePage {
    frame: Frame,
    calculators: Vec<(&'static str, &'static str)>,
    tables: Vec<TableView>,
    sources: Vec<(&'static str, String, String)>,
}

#[derive(Template)]
#[template(path = "calculator.html")]
struct CalculatorPage {
    frame: Frame,
    calculator: &'static Calculator,
    f: Fields,
    answer: Vec<(String, String)>,
    problem: String,
    command: String,
}

/// Letters and digits of a text, joined by dashes: the anchor of a source.
fn anchor_of(text: &str) -> String {
    let plain: String = text.to_lowercase().chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    plain.split('-').filter(|part| !part.is_empty()).collect::<Vec<_>>().join("-")
}

/// Where the row of a source stands, for the working of a verdict.
pub(crate) fn link(source: &Source) -> Option<String> {
    let (name, _) = sources().into_iter().find(|(_, other)| other == source)?;
    Some(format!("/reference#s-{}", anchor_of(name)))
}

/// A cell, and how the firm's own copy stands to it.
struct TableCell {
    text: String,
    mark: String,
}

/// A table beside the firm's own copy.
struct TableView {
    table: Table,
    rows: Vec<Vec<TableCell>>,
}

/// How the row of the own copy that was written last stands to a cell.
fn mark(limit: &OwnLimit, own: &[OwnRow]) -> Option<String> {
    let stands = |row: &&OwnRow| row.limit == *limit && row.amendment.is_empty() && row.check().is_ok();
    let row = own.iter().rev().find(stands)?;
    Some(if row.confirms() { "✓ own copy".to_owned() } else { format!("own copy {}", row.value.normalize()) })
}

fn beside(table: Table, own: &[OwnRow]) -> TableView {
    let marked = |row: usize, column: usize| {
        let at = table.limits.iter().find(|(r, c, _)| (*r, *c) == (row, column));
        at.and_then(|(.., limit)| mark(limit, own)).unwrap_or_default()
    };
    let cells = |(row, texts): (usize, &Vec<String>)| -> Vec<TableCell> {
        let cell = |(column, text): (usize, &String)| TableCell { text: text.clone(), mark: marked(row, column) };
        texts.iter().enumerate().map(cell).collect()
    };
    let rows = table.rows.iter().enumerate().map(cells).collect();
    TableView { table, rows }
}

pub(crate) async fn show(shared: Data<Shared>) -> Handled {
    let own = blocking(move || Ok(shared.store.own_rows()?)).await?;
    let sources = sources().into_iter().map(|(name, source)| (name, anchor_of(name), source.line())).collect();
    page(&ReferencePage {
        frame: Frame::outside("Reference"),
        calculators: CALCULATORS.iter().map(|one| (one.name, one.title)).collect(),
        tables: tables().into_iter().map(|table| beside(table, &own)).collect(),
        sources,
    })
}

/// What a field of a calculator takes.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Takes {
    /// A number.
    Number,
    /// A number, or several with spaces between.
    Numbers,
    /// Megohms with spaces between, over range as >999.
    Megohms,
    /// Words with spaces between.
    Words,
    /// One of a list of the core.
    OneOf(fn() -> Choices),
    /// A time in ms, or nt.
    Trip,
}

/// A field of a calculator.
pub(crate) struct Input {
    pub key: &'static str,
    pub label: &'static str,
    pub takes: Takes,
}

/// A calculator as a form.
pub(crate) struct Calculator {
    pub name: &'static str,
    pub title: &'static str,
    pub about: &'static str,
    pub inputs: &'static [Input],
}

const fn n(key: &'static str, label: &'static str) -> Input {
    Input { key, label, takes: Takes::Number }
}

const fn one_of(key: &'static str, label: &'static str, list: fn() -> Choices) -> Input {
    Input { key, label, takes: Takes::OneOf(list) }
}

const DEVICE: Input = one_of("device", "Device", lists::tabled_devices);
const TYPE: Input = one_of("type", "Type (breakers)", lists::trips);
const TIME: Input = one_of("disconnection_s", "Disconnection, s", lists::times);

/// The calculators, in the order of the contract.
pub(crate) const CALCULATORS: &[Calculator] = &[
    Calculator {
        name: "conductor",
        title: "Resistance of a conductor",
        about: "BS EN 60228; R(θ) = R20 · (1 + 0.004 · (θ − 20)).",
        inputs: &[
            n("mm2", "Size, mm²"),
            one_of("material", "Material", lists::materials),
            n("length_m", "Length, m"),
            n("temp_c", "Temperature, °C (20)"),
        ],
    },
    Calculator {
        name: "ring",
        title: "Ring final circuit",
        about: "(r1 + rn)/4 and (r1 + r2)/4, and what r2 should be.",
        inputs: &[
            n("r1", "r1, Ω"),
            n("rn", "rn, Ω"),
            n("r2", "r2, Ω"),
            n("line_mm2", "Line, mm²"),
            n("cpc_mm2", "CPC, mm²"),
        ],
    },
    Calculator {
        name: "max-zs",
        title: "Maximum Zs of a device",
        about: "As printed, and 80 % of it for a cold reading.",
        inputs: &[DEVICE, TYPE, n("rating_a", "Rating, A"), TIME],
    },
    Calculator {
        name: "loop",
        title: "Loop of a circuit",
        about: "Ze + (R1+R2) beside the limit, cold and at working temperature.",
        inputs: &[
            n("ze", "Ze, Ω"),
            n("r1_r2", "R1+R2, Ω"),
            DEVICE,
            TYPE,
            n("rating_a", "Rating, A"),
            TIME,
            n("measured_zs", "Measured Zs, Ω (if read)"),
            n("working_c", "Working, °C (70)"),
            n("test_c", "At test, °C (20)"),
        ],
    },
    Calculator {
        name: "fault-current",
        title: "Prospective fault current",
        about: "The larger of line–neutral and line–earth; three phase by the method chosen.",
        inputs: &[
            Input { key: "line_neutral_ohm", label: "Line–neutral loop, Ω (up to three)", takes: Takes::Numbers },
            Input { key: "line_neutral_ka", label: "or line–neutral, kA", takes: Takes::Numbers },
            Input { key: "line_earth_ohm", label: "Line–earth loop, Ω", takes: Takes::Numbers },
            Input { key: "line_earth_ka", label: "or line–earth, kA", takes: Takes::Numbers },
            one_of("phases", "Phases", lists::lines),
            one_of("school", "Three phase by", lists::fault_schools),
            n("line_line_ohm", "Line–line loop, Ω"),
            n("breaking_capacity_ka", "Rated short-circuit capacity, kA"),
        ],
    },
    Calculator {
        name: "ir-pairs",
        title: "Insulation: the pairs",
        about: "Earth to each first, then neutral, then the lines: n(n − 1)/2.",
        inputs: &[Input { key: "conductors", label: "Conductors, earth last (L1 L2 L3 N E)", takes: Takes::Words }],
    },
    Calculator {
        name: "ir-combine",
        title: "Insulation: circuits in parallel",
        about: "1/Σ(1/R): a whole board is never above its lowest circuit.",
        inputs: &[Input { key: "mohm", label: "MΩ each, over range as >999", takes: Takes::Megohms }],
    },
    Calculator {
        name: "rcd",
        title: "RCD trip times",
        about: "BS EN 61008-1, 61009-1 Table 1; the slower half-cycle is recorded.",
        inputs: &[
            n("idn_ma", "IΔn, mA"),
            one_of("kind", "Kind", lists::rcd_kinds),
            one_of("school", "Timed", lists::rcd_schools),
            Input { key: "half_0", label: "½ at 0°, ms or nt", takes: Takes::Trip },
            Input { key: "half_180", label: "½ at 180°, ms or nt", takes: Takes::Trip },
            Input { key: "one_0", label: "1 at 0°, ms", takes: Takes::Trip },
            Input { key: "one_180", label: "1 at 180°, ms", takes: Takes::Trip },
            Input { key: "five_0", label: "5 at 0°, ms", takes: Takes::Trip },
            Input { key: "five_180", label: "5 at 180°, ms", takes: Takes::Trip },
        ],
    },
    Calculator {
        name: "main-bonding",
        title: "Earthing conductor and main bonding",
        about: "Table 54.7, 544.1.1 and Table 54.8, rounded up to standard sizes.",
        inputs: &[
            one_of("system", "System", lists::systems),
            n("line_mm2", "Line, mm²"),
            n("neutral_mm2", "Neutral, mm²"),
            n("length_m", "Length of the bond, m"),
        ],
    },
    Calculator {
        name: "adiabatic",
        title: "Protective conductor by the adiabatic",
        about: "S = √(I²t)/k, 543.1.3.",
        inputs: &[n("fault_a", "Fault current, A"), n("time_s", "Time, s"), n("k", "k")],
    },
    Calculator {
        name: "electrode",
        title: "Earth electrode",
        about: "Ra · IΔn ≤ 50 V; above 200 Ω it may not be stable.",
        inputs: &[n("ra_ohm", "Ra, Ω"), n("idn_ma", "IΔn, mA")],
    },
];

fn number(text: &str) -> Value {
    text.replace(',', ".").parse::<f64>().map_or_else(|_| json!(text), |number| json!(number))
}

/// The document that a form asks with; blank fields are left out.
fn document(calculator: &Calculator, f: &Fields) -> Value {
    let mut document = Map::new();
    let mut readings = Map::new();
    for input in calculator.inputs {
        let text = f.trimmed(input.key);
        if text.is_empty() {
            continue;
        }
        let value = match input.takes {
            Takes::Number => number(text),
            Takes::Numbers => {
                let all: Vec<Value> = text.split_whitespace().map(number).collect();
                if all.len() == 1 { all[0].clone() } else { json!(all) }
            }
            Takes::Megohms => json!(
                text.split_whitespace()
                    .map(|one| one.strip_prefix('>').map_or_else(|| number(one), |over| json!({"over": number(over)})))
                    .collect::<Vec<_>>()
            ),
            Takes::Words => json!(text.split_whitespace().collect::<Vec<_>>()),
            Takes::OneOf(_) if text.parse::<f64>().is_ok() => number(text),
            Takes::OneOf(_) => json!(text),
            Takes::Trip => {
                let value = if matches!(text.to_lowercase().as_str(), "nt" | "no trip") {
                    json!("no_trip")
                } else {
                    number(text)
                };
                readings.insert(input.key.to_owned(), value);
                continue;
            }
        };
        document.insert(input.key.to_owned(), value);
    }
    if calculator.inputs.iter().any(|input| matches!(input.takes, Takes::Trip)) {
        document.insert("readings".to_owned(), Value::Object(readings));
    }
    Value::Object(document)
}

/// An answer's key as the trade says it, with its unit.
fn named(key: &str) -> String {
    let words = match key {
        "mohm_per_m" => "mΩ/m at 20 °C",
        "ohm" => "resistance, Ω",
        "r1_rn" => "(r1 + rn)/4, Ω",
        "r1_r2" => "(r1 + r2)/4, Ω",
        "r2_expected_size_ratio" => "r2 by the sizes, Ω",
        "r2_expected_table_ratio" => "r2 by the table, Ω",
        "printed_ohm" | "limit_printed" => "maximum Zs as printed, Ω",
        "eighty_percent_ohm" | "limit_eighty" => "80 % of it, for a cold reading, Ω",
        "ia_a" => "Ia, A",
        "zs_sum" => "Ze + (R1+R2), Ω",
        "within_eighty" => "within 80 %",
        "within_temperature" => "within at working temperature",
        "zs_at_working" => "Zs at working temperature, Ω",
        "measured_below_ze" => "measured below Ze",
        "pscc_ka" => "line–neutral, or three-phase, kA",
        "pefc_ka" => "line–earth, kA",
        "recorded_ka" => "recorded, kA",
        "within" => "within the breaking capacity",
        "at_least_mohm" => "at least, MΩ",
        "at_most_mohm" => "at most, MΩ",
        "recorded_one_ms" => "recorded at IΔn, ms",
        "recorded_five_ms" => "recorded at 5 IΔn, ms",
        "earthing_mm2" => "earthing conductor, mm²",
        "bonding_mm2" => "main bonding, mm²",
        "ohm_expected" => "the bond should read, Ω",
        "ohm_limit" => "the bond at most, Ω",
        "mm2" => "S, mm²",
        "next_size_mm2" => "next standard size, mm²",
        "touch_v" => "Ra · IΔn, V",
        "limit_ohm" => "50 V / IΔn, Ω",
        "within_50v" => "within 50 V",
        "stable" => "not above 200 Ω",
        other => return other.replace('_', " "),
    };
    words.to_owned()
}

fn describe(value: &Value) -> String {
    match value {
        Value::Null => "—".to_owned(),
        Value::Bool(yes) => if *yes { "yes" } else { "no" }.to_owned(),
        Value::String(text) => text.replace('_', " "),
        Value::Number(number) => number.as_f64().map_or_else(
            || number.to_string(),
            |number| format!("{number:.4}").trim_end_matches('0').trim_end_matches('.').to_owned(),
        ),
        Value::Array(all) => {
            let all: Vec<String> = all.iter().map(describe).collect();
            if all.is_empty() { "none".to_owned() } else { all.join("; ") }
        }
        Value::Object(object) => object
            .iter()
            .map(|(key, value)| format!("{} {}", key.replace('_', " "), describe(value)))
            .collect::<Vec<_>>()
            .join(", "),
    }
}

/// An answer's value; a list of findings, and of tests by their keys, by the names of the fields.
fn describe_result(calculator: &Calculator, value: &Value) -> String {
    let Value::Array(all) = value else { return describe(value) };
    let one = |value: &Value| match value {
        Value::Object(one) => finding(calculator, one),
        Value::String(key) => {
            let field = calculator.inputs.iter().find(|input| input.key == key);
            field.map_or_else(|| describe(value), |input| input.label.to_owned())
        }
        Value::Array(pair) => pair.iter().map(describe).collect::<Vec<_>>().join("–"),
        other => describe(other),
    };
    let all: Vec<String> = all.iter().map(one).collect();
    if all.is_empty() { "none".to_owned() } else { all.join("; ") }
}

/// A refusal by the name of its field.
fn refused_at(calculator: &Calculator, refused: &Refused) -> String {
    let key = refused.key.rsplit('.').next().unwrap_or_default();
    let field = calculator.inputs.iter().find(|input| key.split('[').next() == Some(input.key));
    match field {
        Some(input) => Refused::new(input.label, refused.given.clone(), refused.allowed.clone()).to_string(),
        None => refused.to_string(),
    }
}

/// One finding of a series as a line: what was tripped, what it gave, what it should give.
fn finding(calculator: &Calculator, finding: &Map<String, Value>) -> String {
    let of = |key: &str| finding.get(key).unwrap_or(&Value::Null);
    let label = calculator.inputs.iter().find(|input| of("test") == input.key).map_or("", |input| input.label);
    let wanted = match (of("must_not_trip"), of("min_ms"), of("max_ms")) {
        (Value::Bool(true), ..) => "must not trip".to_owned(),
        (_, Value::Null, most) => format!("at most {} ms", describe(most)),
        (_, least, most) => format!("{} to {} ms", describe(least), describe(most)),
    };
    let right = if of("ok") == &Value::Bool(true) { "right" } else { "not right" };
    format!("{label}: {}, {wanted}: {right}", describe(of("value")))
}

/// A calculator, asked when any of its fields is given.
pub(crate) async fn calculator(path: Path<String>, query: Query<Vec<(String, String)>>) -> Handled {
    let name = path.into_inner();
    let calculator = CALCULATORS.iter().find(|one| one.name == name);
    let calculator = calculator.ok_or_else(|| WebError::NotFound(format!("There is no calculator “{name}”.")))?;
    let mut f = Fields::default();
    for (key, value) in query.into_inner() {
        f.put(key, value);
    }
    let asked = calculator.inputs.iter().any(|input| !f.trimmed(input.key).is_empty());
    let document = document(calculator, &f);
    let (mut answer, mut problem) = (Vec::new(), String::new());
    if asked {
        match proof_contract::calc(calculator.name, document.to_string().as_bytes()) {
            Ok(Value::Object(found)) => {
                answer = found.iter().map(|(key, value)| (named(key), describe_result(calculator, value))).collect();
            }
            Ok(other) => answer = vec![("answer".to_owned(), describe(&other))],
            Err(refused) => problem = refused_at(calculator, &refused),
        }
    }
    let status = if problem.is_empty() { StatusCode::OK } else { StatusCode::UNPROCESSABLE_ENTITY };
    let command = if asked { format!("echo '{document}' | proof calc {}", calculator.name) } else { String::new() };
    page_with(
        status,
        &CalculatorPage { frame: Frame::outside(calculator.title), calculator, f, answer, problem, command },
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_calculator_of_the_contract_has_its_page() {
        let names: Vec<&str> = CALCULATORS.iter().map(|one| one.name).collect();
        assert_eq!(names, proof_contract::CALCULATORS);
    }

    /// The contract names every key it knows when it refuses one that it does not.
    #[test]
    fn every_key_of_the_contract_has_its_field_and_every_choice_is_taken() {
        for calculator in CALCULATORS {
            let (trips, fields): (Vec<&Input>, Vec<&Input>) =
                calculator.inputs.iter().partition(|input| matches!(input.takes, Takes::Trip));
            let mut asked: Vec<&str> = fields.iter().map(|input| input.key).collect();
            let unknown = |document: Value| {
                let refused = proof_contract::calc(calculator.name, document.to_string().as_bytes()).unwrap_err();
                refused.allowed.trim_start_matches("one of ").split(", ").map(str::to_owned).collect::<Vec<_>>()
            };
            if !trips.is_empty() {
                asked.push("readings");
                let known = unknown(json!({"idn_ma": 30, "kind": "general", "readings": {"unknown": 1}}));
                assert_eq!(trips.iter().map(|input| input.key).collect::<Vec<_>>(), known);
            }
            let mut known = unknown(json!({"unknown": 1}));
            known.sort_unstable();
            asked.sort_unstable();
            assert_eq!(asked, known, "{}", calculator.name);
            for input in calculator.inputs {
                let Takes::OneOf(list) = input.takes else { continue };
                for (key, _) in list() {
                    let f = Fields::from_values([(input.key, key.to_owned())]);
                    let document = document(calculator, &f).to_string();
                    let Err(refused) = proof_contract::calc(calculator.name, document.as_bytes()) else { continue };
                    assert_ne!(refused.key, input.key, "{} {key}: {refused}", calculator.name);
                }
            }
        }
    }

    #[test]
    fn a_source_in_a_working_finds_its_row() {
        for (name, source) in sources() {
            let found = link(&source);
            assert!(found.is_some(), "{name}");
        }
        assert_eq!(link(&Source::practice("in no table")), None);
    }

    #[test]
    fn a_form_asks_what_the_command_line_asks() {
        let rcd = CALCULATORS.iter().find(|one| one.name == "rcd").unwrap();
        let f = Fields::from_values([
            ("idn_ma", "30".to_owned()),
            ("kind", "general".to_owned()),
            ("one_0", "24,1".to_owned()),
            ("half_0", "nt".to_owned()),
        ]);
        assert_eq!(
            document(rcd, &f),
            json!({"idn_ma": 30.0, "kind": "general", "readings": {"half_0": "no_trip", "one_0": 24.1}})
        );
        let combine = CALCULATORS.iter().find(|one| one.name == "ir-combine").unwrap();
        let f = Fields::from_values([("mohm", "200 >999".to_owned())]);
        assert_eq!(document(combine, &f), json!({"mohm": [200.0, {"over": 999.0}]}));
    }
}
