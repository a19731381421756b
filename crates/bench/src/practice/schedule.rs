//! A schedule on paper.

/// A figure on the paper that may be pointed at.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PaperFigure {
    /// Its name: `ze`, or `3 zs` for the third row.
    pub key: String,
    /// What stands there.
    pub text: String,
}

/// A schedule.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Paper {
    /// Figures of the supply and of the whole board, each with its words.
    pub head: Vec<(&'static str, PaperFigure)>,
    /// What the columns are.
    pub columns: [&'static str; COLUMNS],
    /// The circuits: way and words, then its figures.
    pub rows: Vec<(String, Vec<PaperFigure>)>,
}

impl Paper {
    /// A figure in words, by its key; none of the paper: nothing.
    pub fn words(&self, key: &str) -> String {
        let head = self.head.iter().find(|(_, cell)| cell.key == key);
        if let Some((words, cell)) = head {
            return format!("{words}: {}", cell.text);
        }
        let of_row = |(words, cells): &(String, Vec<PaperFigure>)| {
            let at = cells.iter().position(|cell| cell.key == key)?;
            Some(format!("{words}, {}: {}", self.columns[at], cells[at].text))
        };
        self.rows.iter().find_map(of_row).unwrap_or_default()
    }
}

pub(super) const COLUMNS: usize = 10;
