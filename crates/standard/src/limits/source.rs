//! A number of the standard and where it comes from.

/// The document of what has no published source.
const PRACTICE: &str = "common practice";

/// The source of a row of the firm's own copy: its document and page stand in the job.
pub const OWN_COPY: Source =
    Source::published("the firm's own copy", "see the rows of the job", "confirmed or corrected by a licensed person");

/// Where a number comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Source {
    /// Document, such as `BS 7671` or `BS EN 60228`; `common practice` when there is none.
    pub document: &'static str,
    /// Table, regulation or clause; empty only for common practice.
    pub place: &'static str,
    /// Under what condition it holds.
    pub condition: &'static str,
    /// Written down from memory of the published table.
    pub from_memory: bool,
}

impl Source {
    /// A published source, checked against the text that the project works from.
    pub const fn published(document: &'static str, place: &'static str, condition: &'static str) -> Self {
        Self { document, place, condition, from_memory: false }
    }

    /// A published source, from memory.
    pub const fn memory(document: &'static str, place: &'static str, condition: &'static str) -> Self {
        Self { document, place, condition, from_memory: true }
    }

    /// Common practice of the trade; no published source.
    pub const fn practice(condition: &'static str) -> Self {
        Self { document: PRACTICE, place: "no source", condition, from_memory: false }
    }

    /// Whether this is a fact of the trade without a published source.
    pub fn is_practice(&self) -> bool {
        self.document == PRACTICE
    }

    /// The source on one line, as shown beside a verdict.
    pub fn line(&self) -> String {
        let mut text = if self.is_practice() {
            "common practice, no source".to_owned()
        } else {
            format!("{} {}", self.document, self.place)
        };
        if !self.condition.is_empty() {
            text.push_str(" (");
            text.push_str(self.condition);
            text.push(')');
        }
        if self.from_memory {
            text.push_str(", from memory: check against your own copy");
        }
        text
    }
}

/// A limit or constant: what it is, and where it comes from. No value stands without its source.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LimitRow<T> {
    /// The value, in the unit that the name of its accessor or its type says.
    pub value: T,
    /// Where it comes from.
    pub source: Source,
}

impl<T> LimitRow<T> {
    /// A row.
    pub const fn new(value: T, source: Source) -> Self {
        Self { value, source }
    }
}

/// A row is used as its value; where it comes from stands beside it.
impl<T> std::ops::Deref for LimitRow<T> {
    type Target = T;

    fn deref(&self) -> &T {
        &self.value
    }
}
