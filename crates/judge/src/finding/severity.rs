//! How a finding stands.

/// How a finding stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Severity {
    /// Outside a limit, or dangerous: blocks.
    Fails,
    /// Something a certificate needs: blocks.
    Missing,
    /// Inside its limit, but not the number it should be: mended or judged.
    Odd,
    /// To be known, and printed; it asks for nothing.
    Note,
}

impl Severity {
    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Fails => "fails",
            Self::Missing => "missing",
            Self::Odd => "look again",
            Self::Note => "noted",
        }
    }

    /// Key in files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Fails => "fails",
            Self::Missing => "missing",
            Self::Odd => "odd",
            Self::Note => "note",
        }
    }
}
