//! Rows of the database as what they hold, by the names of their columns. What cannot be read names its row, and never
//! becomes something else.

use crate::{Result, StoreError};
use rusqlite::{Row, Rows};
use std::str::FromStr;

/// What a text of a row says, read.
pub(crate) fn read<T: FromStr>((table, row): (&'static str, &str), column: &'static str, text: &str) -> Result<T> {
    text.parse().map_err(|_| StoreError::Row { table, row: row.to_owned(), column, text: text.to_owned() })
}

/// A column of text, read; the row is called by its column `named`.
pub(crate) fn parsed<T: FromStr>(
    row: &Row<'_>,
    (table, named): (&'static str, &str),
    column: &'static str,
) -> Result<T> {
    let text: String = row.get(column)?;
    let called: String = row.get(named)?;
    read((table, &called), column, &text)
}

/// Every row of a query.
pub(crate) fn all<T>(mut rows: Rows<'_>) -> Result<Vec<T>>
where
    T: for<'a, 'b> TryFrom<&'a Row<'b>, Error = StoreError>,
{
    let mut all = Vec::new();
    while let Some(row) = rows.next()? {
        all.push(T::try_from(row)?);
    }
    Ok(all)
}

/// The first row of a query, where there is one.
pub(crate) fn first<T>(mut rows: Rows<'_>) -> Result<Option<T>>
where
    T: for<'a, 'b> TryFrom<&'a Row<'b>, Error = StoreError>,
{
    rows.next()?.map(T::try_from).transpose()
}
