//! Circuits from a table: CSV or a spreadsheet in, each row a circuit, each bad cell named.
//!
//! The columns are those of the schedule of circuits that goes out; heads may stand in any order, and
//! only the way, the device and the sizes are wanted. A row is made into the line of shorthand that
//! would be typed, so that both ways in understand the same.

use crate::spreadsheet::{self, MOST_CHARACTERS, MOST_COLUMNS, NoSheet};
use proof_job::installation::shorthand;
use proof_job::installation::shorthand::CircuitLine;

/// Most rows taken.
pub const MOST_ROWS: usize = 500;

/// A table that cannot be read at all.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NoCircuits {
    /// Neither CSV nor a spreadsheet.
    #[error("this is neither a CSV table nor an XLSX spreadsheet: {0}")]
    Unreadable(String),
    /// A column that is wanted is not there.
    #[error("no column is headed “{0}”: the heads known are {KNOWN}")]
    NoColumn(&'static str),
    /// It could be read, and is too much.
    #[error("this table is not read: {0}")]
    Limit(String),
    /// Too long.
    #[error("the table has more than {MOST_ROWS} rows")]
    TooLong,
    /// Nothing in it.
    #[error("the table has heads and no row")]
    Empty,
}

const KNOWN: &str = "way, circuit, runs, points, device, breaking kA, RCD, line mm2, neutral mm2, CPC mm2, method, length m, N terminal, CPC terminal";

/// A cell that is not understood.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BadCell {
    /// Its column, by its head.
    pub column: String,
    /// What stands in it.
    pub text: String,
    /// What is wrong, and what is allowed.
    pub problem: String,
}

/// A row read.
#[derive(Debug, Clone)]
pub struct CircuitRow {
    /// Its number in the table, heads not counted.
    pub number: usize,
    /// Its cells, as they stand.
    pub cells: Vec<String>,
    /// What is wrong with it.
    pub bad: Vec<BadCell>,
    /// The line of shorthand that it comes to, where nothing is wrong.
    pub line: Option<String>,
}

/// A table read.
#[derive(Debug, Clone)]
pub struct Table {
    /// Its heads.
    pub heads: Vec<String>,
    /// Its rows.
    pub rows: Vec<CircuitRow>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Column {
    Way,
    Circuit,
    Runs,
    Points,
    Device,
    Breaking,
    Rcd,
    Line,
    Neutral,
    Cpc,
    Method,
    Length,
    Terminals,
    NeutralTerminal,
    CpcTerminal,
}

fn by_head(head: &str) -> Option<Column> {
    let text: String = head.to_lowercase().chars().filter(char::is_ascii_alphanumeric).collect();
    Some(match text.as_str() {
        "way" | "circuitno" | "no" | "number" => Column::Way,
        "circuit" | "description" | "designation" | "name" => Column::Circuit,
        "runs" | "runsas" | "shape" => Column::Runs,
        "points" | "pts" => Column::Points,
        "device" => Column::Device,
        "breakingka" | "ka" | "breakingcapacityka" => Column::Breaking,
        "rcd" => Column::Rcd,
        "linemm2" | "line" | "livemm2" => Column::Line,
        "neutralmm2" | "neutral" | "nmm2" => Column::Neutral,
        "cpcmm2" | "cpc" => Column::Cpc,
        "method" | "referencemethod" | "ref" => Column::Method,
        "lengthm" | "length" | "m" => Column::Length,
        "ncpcterminal" => Column::Terminals,
        "nterminal" | "neutralterminal" => Column::NeutralTerminal,
        "cpcterminal" => Column::CpcTerminal,
        _ => return None,
    })
}

fn cells_of(bytes: &[u8]) -> Result<Vec<Vec<String>>, NoCircuits> {
    let unreadable = |error: &dyn std::fmt::Display| NoCircuits::Unreadable(error.to_string());
    if bytes.starts_with(b"PK") {
        // The sheet of circuits, where there are several: the first with a column of devices.
        let devices = |heads: &[String]| heads.iter().any(|head| by_head(head) == Some(Column::Device));
        return spreadsheet::rows(bytes, MOST_ROWS + 1, devices).map_err(|why| match why {
            NoSheet::Library(_) | NoSheet::Empty => unreadable(&why),
            limit => NoCircuits::Limit(limit.to_string()),
        });
    }
    let text = std::str::from_utf8(bytes).map_err(|error| unreadable(&error))?;
    let text = text.trim_start_matches('\u{feff}');
    let first = text.lines().next().unwrap_or_default();
    let by = [b'\t', b';', b','].into_iter().max_by_key(|by| first.bytes().filter(|byte| byte == by).count());
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .flexible(true)
        .delimiter(by.unwrap_or(b','))
        .from_reader(text.as_bytes());
    let mut rows = Vec::new();
    for record in reader.records().take(MOST_ROWS + 2) {
        let record = record.map_err(|error| unreadable(&error))?;
        let row: Vec<String> = record.iter().map(|cell| cell.trim().trim_start_matches('\'').to_owned()).collect();
        if row.len() > MOST_COLUMNS || row.iter().any(|cell| cell.chars().count() > MOST_CHARACTERS) {
            return Err(NoCircuits::Limit(format!(
                "row {} has more than {MOST_COLUMNS} cells, or a cell of more than {MOST_CHARACTERS} characters",
                rows.len() + 1
            )));
        }
        rows.push(row);
    }
    Ok(rows)
}

/// Reads a table of circuits.
///
/// # Errors
/// [`NoCircuits`] when it cannot be read as one at all; what is wrong with a cell stands in its row.
pub fn read(bytes: &[u8]) -> Result<Table, NoCircuits> {
    let mut rows = cells_of(bytes)?.into_iter();
    let heads = rows.next().ok_or(NoCircuits::Empty)?;
    let columns: Vec<Option<Column>> = heads.iter().map(|head| by_head(head)).collect();
    for (column, name) in [(Column::Way, "way"), (Column::Device, "device"), (Column::Line, "line mm2")] {
        if !columns.contains(&Some(column)) {
            return Err(NoCircuits::NoColumn(name));
        }
    }
    let rows: Vec<CircuitRow> = rows
        .filter(|cells| cells.iter().any(|cell| !cell.is_empty()))
        .enumerate()
        .map(|(index, cells)| row(index + 1, &heads, &columns, cells))
        .collect();
    match rows.len() {
        0 => Err(NoCircuits::Empty),
        many if many > MOST_ROWS => Err(NoCircuits::TooLong),
        _ => Ok(Table { heads, rows }),
    }
}

/// A word of the shorthand, tried in a line that is right without it.
fn tried(word: &str) -> Result<CircuitLine, shorthand::NotUnderstood> {
    shorthand::parse(&format!("1 radial B16 2.5/1.5 {word}"))
}

/// The cells of a row, by their columns; what is wrong with them is gathered.
struct Cells<'a> {
    heads: &'a [String],
    columns: &'a [Option<Column>],
    texts: &'a [String],
    bad: Vec<BadCell>,
}

impl Cells<'_> {
    fn at(&self, column: Column) -> Option<usize> {
        self.columns.iter().position(|one| *one == Some(column))
    }

    fn text(&self, column: Column) -> &str {
        self.at(column).map_or("", |index| self.texts[index].as_str()).trim()
    }

    /// The same with a decimal point, however it was typed.
    fn figure(&self, column: Column) -> String {
        self.text(column).replace(',', ".")
    }

    fn wrong(&mut self, column: Column, problem: impl Into<String>) {
        if let Some(index) = self.at(column) {
            let (column, text) = (self.heads[index].clone(), self.texts[index].clone());
            self.bad.push(BadCell { column, text, problem: problem.into() });
        }
    }

    /// Ring, radial or lights; radial where nothing is said.
    fn runs(&mut self) -> &'static str {
        match self.text(Column::Runs).to_lowercase().as_str() {
            "" | "radial" => "radial",
            "ring" => "ring",
            "lights" | "lighting" => "lights",
            _ => {
                self.wrong(Column::Runs, "ring, radial or lights");
                "radial"
            }
        }
    }

    fn device(&mut self) -> Option<String> {
        let word = match device(self.text(Column::Device), self.text(Column::Rcd)) {
            Ok(word) => word,
            Err(why) => {
                self.wrong(Column::Device, why.to_string());
                return None;
            }
        };
        match shorthand::parse(&format!("1 radial {word} 2.5/1.5")) {
            Ok(_) => Some(word),
            Err(error) => {
                self.wrong(Column::Device, error.to_string());
                None
            }
        }
    }

    /// Line, neutral and CPC as the shorthand has them.
    fn sizes(&mut self) -> Option<String> {
        let columns = [Column::Line, Column::Neutral, Column::Cpc];
        let sizes = columns.map(|column| self.figure(column));
        let mut right = true;
        for (column, size) in columns.into_iter().zip(&sizes) {
            let none = column == Column::Neutral && matches!(size.to_lowercase().as_str(), "-" | "–" | "none");
            if none || size.is_empty() && column != Column::Line {
                continue;
            }
            if let Err(problem) = shorthand::parse(&format!("1 radial B16 {size}/1.5")) {
                right = false;
                self.wrong(column, problem.to_string());
            }
        }
        let [line, neutral, cpc] = sizes;
        right.then(|| match (neutral.is_empty(), cpc.is_empty()) {
            (_, true) => line,
            (true, false) => format!("{line}/{cpc}"),
            (false, false) if neutral.eq_ignore_ascii_case("none") => format!("{line}/-/{cpc}"),
            (false, false) => format!("{line}/{neutral}/{cpc}"),
        })
    }

    /// The words that need no other column to be understood.
    fn others(&mut self) -> Vec<String> {
        let mut words = Vec::new();
        for (column, word) in [
            (Column::Breaking, format!("{}kA", self.figure(Column::Breaking))),
            (Column::Length, format!("{}m", self.figure(Column::Length))),
            (Column::Points, format!("{}pts", self.text(Column::Points))),
            (Column::Method, format!("ref {}", self.text(Column::Method))),
            (Column::NeutralTerminal, self.text(Column::NeutralTerminal).to_owned()),
            (Column::CpcTerminal, self.text(Column::CpcTerminal).to_owned()),
            (Column::Terminals, self.text(Column::Terminals).to_owned()),
        ] {
            if self.text(column).is_empty() || self.text(column) == "0" && column == Column::Points {
                continue;
            }
            let counted = matches!(column, Column::Breaking | Column::Length | Column::Points);
            if counted && self.figure(column).parse::<f64>().is_err() {
                self.wrong(column, "a number");
                continue;
            }
            match tried(&word) {
                Ok(_) => words.push(word),
                Err(problem) => self.wrong(column, problem.to_string()),
            }
        }
        words
    }
}

fn row(number: usize, heads: &[String], columns: &[Option<Column>], mut cells: Vec<String>) -> CircuitRow {
    cells.resize(heads.len(), String::new());
    let mut of = Cells { heads, columns, texts: &cells, bad: Vec::new() };
    if of.text(Column::Way).is_empty() || of.text(Column::Way).len() > 10 {
        of.wrong(Column::Way, "give the number of the way, such as 3 or 1L2");
    }
    let mut words = vec![of.text(Column::Way).to_owned(), of.runs().to_owned()];
    words.extend(of.device());
    words.extend(of.sizes());
    words.extend(of.others());
    let name = of.text(Column::Circuit).replace('"', "'");
    let line = format!("{} \"{name}\"", words.join(" "));
    let mut bad = of.bad;
    if bad.is_empty()
        && let Err(problem) = shorthand::parse(&line)
    {
        bad.push(BadCell { column: "row".into(), text: line.clone(), problem: problem.to_string() });
    }
    let line = bad.is_empty().then_some(line);
    CircuitRow { number, cells, bad, line }
}

/// No device is given.
#[derive(Debug, thiserror::Error)]
#[error("give a device such as B32, RCBO B32, BS EN 60898 B32, BS 88-3 32 A")]
struct NoDevice;

/// `BS EN 61009 B32` with `30 mA A`, or as typed: the words of the shorthand.
fn device(text: &str, rcd: &str) -> Result<String, NoDevice> {
    let plain = text.trim();
    if plain.is_empty() {
        return Err(NoDevice);
    }
    let upper = plain.to_uppercase();
    let residual: String = rcd.chars().take_while(|c| c.is_ascii_digit() || *c == '.').collect();
    let residual = if residual.is_empty() { String::new() } else { format!("/{residual}") };
    let rest =
        |prefix: &str| upper.strip_prefix(prefix).map(|rest| rest.trim().trim_end_matches('A').trim().to_owned());
    if let Some(rest) = rest("BS EN 61009").or_else(|| rest("RCBO")) {
        return Ok(format!("RCBO {rest}{}", if rest.contains('/') { "" } else { residual.as_str() }));
    }
    if let Some(rest) = rest("BS EN 60898").or_else(|| rest("MCB")) {
        return Ok(rest);
    }
    for (prefix, word) in [("BS 88-2", "gG"), ("BS 88-3", "88-3"), ("BS 3036", "3036"), ("BS 1362", "1362")] {
        if let Some(rest) = rest(prefix) {
            return Ok(format!("{word} {rest}"));
        }
    }
    Ok(plain.to_owned())
}

#[cfg(test)]
#[path = "circuits_in_tests.rs"]
mod tests;
