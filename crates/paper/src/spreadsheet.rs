//! A spreadsheet read cell by cell, within limits: a file of a kilobyte may unpack to gigabytes, name a cell in
//! row 1,048,576 or say that it holds a billion texts. Nothing is taken in before it is known to be small.

use calamine::{Data, DataRef, Reader, Xlsx};
use quick_xml::events::Event;
use std::io::{Cursor, Read};

/// Most bytes of a spreadsheet, unpacked.
const MOST_UNPACKED: u64 = 32 * 1024 * 1024;
/// Most files inside one.
const MOST_ENTRIES: usize = 500;
/// Most sheets that are looked at.
const MOST_SHEETS: usize = 20;
/// Most cells of a sheet that are looked at, empty ones among them.
const MOST_CELLS: usize = 200_000;
/// Most columns.
pub(crate) const MOST_COLUMNS: usize = 64;
/// Most characters of a cell.
pub(crate) const MOST_CHARACTERS: usize = 1000;
/// Most texts that a workbook may say it holds.
const MOST_TEXTS: u64 = 1_000_000;

/// Why a spreadsheet is not read.
#[derive(Debug, thiserror::Error)]
pub(crate) enum NoSheet {
    #[error("{0}")]
    Library(String),
    #[error("it holds more than {MOST_ENTRIES} files")]
    Entries,
    #[error("unpacked it is more than 32 MiB")]
    Unpacked,
    #[error("it is not written in UTF-8")]
    Encoding,
    #[error("it says that it holds more than a million texts")]
    Texts,
    #[error(
        "sheet “{sheet}” has something in row {row}, column {column}: at most {most} rows and {MOST_COLUMNS} columns are read"
    )]
    Position { sheet: String, row: u32, column: u32, most: usize },
    #[error("“{0}” is no place of a sheet")]
    Place(String),
    #[error("sheet “{0}” has more than {MOST_CELLS} cells")]
    Cells(String),
    #[error("a cell holds more than {MOST_CHARACTERS} characters")]
    Characters,
    #[error("it has no sheet")]
    Empty,
}

fn library(error: impl std::fmt::Display) -> NoSheet {
    NoSheet::Library(error.to_string())
}

/// A part as text; none where it says that it is in something else than UTF-8, where words could hide.
fn plain(bytes: &[u8]) -> Option<&str> {
    let text = std::str::from_utf8(bytes).ok()?;
    let head: String = text.chars().take(200).collect::<String>().to_ascii_lowercase();
    let said = head.split("encoding").nth(1);
    let said = said.map(|rest| rest.trim_start_matches([' ', '\t', '\r', '\n', '=', '"', '\'']));
    let is_plain = said.is_none_or(|said| said.starts_with("utf-8") || said.starts_with("us-ascii"));
    Some(text).filter(|text| is_plain && !text.contains('\0'))
}

/// Whether a place such as `AB12`, `12` or `A1:C7` is one that a sheet can have.
fn is_place(text: &str) -> bool {
    text.split([':', ' ']).all(|place| {
        let letters = place.bytes().take_while(u8::is_ascii_alphabetic).count();
        letters <= 3 && place.len() - letters <= 7
    })
}

/// Whether the places that a part names can be, and it says of no more texts than are allowed: room is made for
/// them before they are read.
fn is_modest(text: &str) -> Result<(), NoSheet> {
    let mut parts = quick_xml::Reader::from_str(text);
    loop {
        let element = match parts.read_event().map_err(library)? {
            Event::Start(element) | Event::Empty(element) => element,
            Event::Eof => return Ok(()),
            _ => continue,
        };
        for attribute in element.attributes().with_checks(false).flatten() {
            let value: &str = attribute.value.as_ref();
            match attribute.key.as_ref() {
                "uniqueCount" if value.trim().parse::<u64>().is_ok_and(|said| said <= MOST_TEXTS) => {}
                "uniqueCount" => return Err(NoSheet::Texts),
                "r" | "ref" | "sqref" if !is_place(value) => {
                    return Err(NoSheet::Place(value.chars().take(40).collect()));
                }
                _ => {}
            }
        }
    }
}

/// Unpacks every file once, counting, before anything is read from it.
fn weighed(bytes: &[u8]) -> Result<(), NoSheet> {
    let mut archive = zip::ZipArchive::new(Cursor::new(bytes)).map_err(library)?;
    if archive.len() > MOST_ENTRIES {
        return Err(NoSheet::Entries);
    }
    let mut left = MOST_UNPACKED;
    for index in 0..archive.len() {
        let entry = archive.by_index(index).map_err(library)?;
        let name = entry.name().map_err(library)?.to_ascii_lowercase();
        let is_text = [".xml", ".rels"].iter().any(|end| name.ends_with(end));
        let mut unpacked = Vec::new();
        let taken = entry.take(left + 1).read_to_end(&mut unpacked).map_err(library)? as u64;
        left = left.checked_sub(taken).ok_or(NoSheet::Unpacked)?;
        // What is no part of the tables, a picture say, is not read at all.
        if is_text {
            is_modest(plain(&unpacked).ok_or(NoSheet::Encoding)?)?;
        }
    }
    Ok(())
}

fn text_of(value: &DataRef<'_>) -> Result<String, NoSheet> {
    let long = |text: &str| text.len() > MOST_CHARACTERS && text.chars().count() > MOST_CHARACTERS;
    match value {
        DataRef::SharedString(text) if long(text) => Err(NoSheet::Characters),
        DataRef::String(text) | DataRef::DateTimeIso(text) | DataRef::DurationIso(text) if long(text) => {
            Err(NoSheet::Characters)
        }
        DataRef::Float(number) if number.fract() == 0.0 && number.abs() < 1e9 => Ok(format!("{number:.0}")),
        other => Ok(Data::from(other.clone()).to_string().trim().to_owned()),
    }
}

/// The rows of a sheet: at most `most` of them.
fn rows_of(book: &mut Xlsx<Cursor<&[u8]>>, sheet: &str, most: usize) -> Result<Vec<Vec<String>>, NoSheet> {
    let mut cells = book.worksheet_cells_reader(sheet).map_err(library)?;
    let mut rows: Vec<Vec<String>> = Vec::new();
    let mut seen = 0;
    while let Some(cell) = cells.next_cell().map_err(library)? {
        seen += 1;
        if seen > MOST_CELLS {
            return Err(NoSheet::Cells(sheet.to_owned()));
        }
        let text = text_of(cell.get_value())?;
        if text.is_empty() {
            continue;
        }
        let (row, column) = cell.get_position();
        let (at, across) = (row as usize, column as usize);
        if at >= most || across >= MOST_COLUMNS {
            let (row, column) = (row.saturating_add(1), column.saturating_add(1));
            return Err(NoSheet::Position { sheet: sheet.to_owned(), row, column, most });
        }
        if rows.len() <= at {
            rows.resize(at + 1, Vec::new());
        }
        if rows[at].len() <= across {
            rows[at].resize(across + 1, String::new());
        }
        rows[at][across] = text;
    }
    // Empty rows above a table are no part of it, and every row is as wide as the widest.
    let above = rows.iter().take_while(|row| row.is_empty()).count();
    rows.drain(..above);
    let wide = rows.iter().map(Vec::len).max().unwrap_or(0);
    for row in &mut rows {
        row.resize(wide, String::new());
    }
    Ok(rows)
}

/// The rows of the sheet that `wanted` knows by its heads, else of the first; at most `most` of them.
pub(crate) fn rows(bytes: &[u8], most: usize, wanted: impl Fn(&[String]) -> bool) -> Result<Vec<Vec<String>>, NoSheet> {
    weighed(bytes)?;
    let mut book: Xlsx<_> = Xlsx::new(Cursor::new(bytes)).map_err(library)?;
    let mut first = None;
    for name in book.sheet_names().into_iter().take(MOST_SHEETS) {
        let rows = rows_of(&mut book, &name, most)?;
        if rows.first().is_some_and(|heads| wanted(heads)) {
            return Ok(rows);
        }
        first.get_or_insert(rows);
    }
    first.ok_or(NoSheet::Empty)
}
