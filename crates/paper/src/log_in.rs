//! The log of an instrument, read: CSV with heads, a JSON array, or a line of JSON each; a message of `proof-feed` a
//! reading. What is no message is told with its line; the others are not held up by it.

use proof_job::reading::message::{FORMAT, Message, VERSION};
use serde_json::{Map, Value, json};
use uuid::Uuid;

/// Most readings of a log.
pub const MOST_READINGS: usize = 1_500;
/// Most bytes of a log.
pub const MOST_BYTES: usize = 4 * 1024 * 1024;

/// Heads of the columns of a CSV log: the keys of a message, those of its place without `at`.
pub const HEADS: [&str; 17] = [
    "id",
    "instrument",
    "simulated",
    "taken_at",
    "measured",
    "shown",
    "unit",
    "unsteady",
    "between",
    "test_v",
    "residual_ma",
    "multiple",
    "half_cycle",
    "board",
    "way",
    "point",
    "step",
];

/// A file that is no log at all.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NoLog {
    /// Too large.
    #[error("the log holds more than {MOST_BYTES} bytes (4 MiB) or {MOST_READINGS} readings: bring it in in parts")]
    TooLarge,
    /// Neither.
    #[error("this is neither a CSV log nor JSON: {0}")]
    Unreadable(String),
    /// A column that is wanted is not there.
    #[error("no column is headed “{0}”: the heads known are {known}", known = HEADS.join(", "))]
    NoColumn(&'static str),
    /// Nothing in it.
    #[error("there is no reading in it")]
    Empty,
}

/// A line of a log.
#[derive(Debug, Clone, PartialEq)]
pub struct LogLine {
    /// Its number in the file, from 1.
    pub number: usize,
    /// The message, or why it is none.
    pub message: Result<Message, String>,
}

/// Reads a log.
///
/// # Errors
/// [`NoLog`].
pub fn read(bytes: &[u8]) -> Result<Vec<LogLine>, NoLog> {
    if bytes.len() > MOST_BYTES {
        return Err(NoLog::TooLarge);
    }
    let text = std::str::from_utf8(bytes).map_err(|error| NoLog::Unreadable(error.to_string()))?;
    let text = text.trim_start_matches('\u{feff}');
    let lines = match text.trim_start().chars().next() {
        None => return Err(NoLog::Empty),
        Some('[') => array(text)?,
        Some('{') => json_lines(text),
        Some(_) => csv(text)?,
    };
    match lines.len() {
        0 => Err(NoLog::Empty),
        count if count > MOST_READINGS => Err(NoLog::TooLarge),
        _ => Ok(lines),
    }
}

fn one(number: usize, text: &str) -> LogLine {
    LogLine { number, message: Message::read(text).map_err(|why| why.to_string()) }
}

fn array(text: &str) -> Result<Vec<LogLine>, NoLog> {
    let all: Vec<Value> = serde_json::from_str(text).map_err(|error| NoLog::Unreadable(error.to_string()))?;
    Ok(all.iter().enumerate().map(|(at, value)| one(at + 1, &value.to_string())).collect())
}

fn json_lines(text: &str) -> Vec<LogLine> {
    let lines = text.lines().enumerate().filter(|(_, line)| !line.trim().is_empty());
    lines.map(|(at, line)| one(at + 1, line.trim())).take(MOST_READINGS + 1).collect()
}

fn csv(text: &str) -> Result<Vec<LogLine>, NoLog> {
    let unreadable = |error: csv::Error| NoLog::Unreadable(error.to_string());
    let first = text.lines().next().unwrap_or_default();
    let by = [b'\t', b';', b','].into_iter().max_by_key(|by| first.bytes().filter(|byte| byte == by).count());
    let mut reader =
        csv::ReaderBuilder::new().flexible(true).delimiter(by.unwrap_or(b',')).from_reader(text.as_bytes());
    let heads: Vec<String> =
        reader.headers().map_err(unreadable)?.iter().map(|head| head.trim().to_lowercase()).collect();
    for wanted in ["instrument", "simulated", "measured", "shown"] {
        if !heads.iter().any(|head| head == wanted) {
            return Err(NoLog::NoColumn(wanted));
        }
    }
    let mut lines = Vec::new();
    for (at, record) in reader.records().enumerate().take(MOST_READINGS + 1) {
        let number = at + 2;
        let message = record.map_err(|error| error.to_string()).and_then(|record| {
            if record.len() > heads.len() {
                return Err(format!("it has {} cells, and the heads are {}", record.len(), heads.len()));
            }
            let cells = heads.iter().map(String::as_str).zip(record.iter().map(str::trim));
            row(&cells.filter(|(_, cell)| !cell.is_empty()).collect::<Vec<_>>(), number)
        });
        lines.push(LogLine { number, message });
    }
    Ok(lines)
}

/// A row of a CSV log as a message. One that has no id gets one from what it says and where it stands, so that the same
/// file brought in twice brings nothing new.
fn row(cells: &[(&str, &str)], number: usize) -> Result<Message, String> {
    let mut fields = Map::new();
    let mut at = Map::new();
    for (head, cell) in cells {
        let text = || Value::String((*cell).to_owned());
        match *head {
            "simulated" | "unsteady" => {
                let said = match cell.to_lowercase().as_str() {
                    "yes" | "true" | "1" => true,
                    "no" | "false" | "0" => false,
                    _ => return Err(format!("{head}: “{cell}” is neither yes nor no")),
                };
                fields.insert((*head).to_owned(), Value::Bool(said));
            }
            "test_v" | "residual_ma" => {
                let number: u32 = cell.parse().map_err(|_| format!("{head}: “{cell}” is no whole number"))?;
                fields.insert((*head).to_owned(), json!(number));
            }
            "between" => {
                let pair: Vec<&str> = cell.split(['-', '–']).map(str::trim).collect();
                fields.insert("between".to_owned(), json!(pair));
            }
            "board" | "way" | "point" | "step" => {
                at.insert((*head).to_owned(), text());
            }
            known if HEADS.contains(&known) => {
                fields.insert(known.to_owned(), text());
            }
            other => return Err(format!("“{other}” is no head of a log")),
        }
    }
    if !at.is_empty() {
        fields.insert("at".to_owned(), Value::Object(at));
    }
    if !fields.contains_key("id") {
        let said = format!("{number} {cells:?}");
        fields.insert("id".to_owned(), json!(Uuid::new_v5(&Uuid::NAMESPACE_OID, said.as_bytes())));
    }
    fields.insert("format".to_owned(), json!(FORMAT));
    fields.insert("version".to_owned(), json!(VERSION));
    Message::read(&Value::Object(fields).to_string()).map_err(|why| why.to_string())
}

/// Messages written as a line of JSON each, as they are read back.
pub fn write(messages: &[&Message]) -> String {
    messages.iter().filter_map(|message| serde_json::to_string(message).ok()).map(|line| line + "\n").collect()
}
