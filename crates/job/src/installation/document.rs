//! Documents that go with a job: a risk assessment, a maker's sheet. The job names each by its digest;
//! the bytes travel beside it.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use uuid::Uuid;

/// Most bytes of one document (4 MiB).
pub const MOST_DOCUMENT_BYTES: usize = 4 * 1024 * 1024;
/// Most bytes of all documents of a job (8 MiB), so that its file stays under what an import takes.
pub const MOST_DOCUMENTS_BYTES: usize = 8 * 1024 * 1024;
/// Most documents of a job.
pub const MOST_DOCUMENTS: usize = 24;

/// Bytes of documents by their digest.
pub type Documents = BTreeMap<String, Vec<u8>>;

/// What a document is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Purpose {
    /// A risk assessment.
    RiskAssessment,
    /// A maker's sheet.
    MakersSheet,
    /// Anything else.
    #[default]
    Other,
}

impl Purpose {
    /// In the order offered.
    pub const ALL: [Self; 3] = [Self::RiskAssessment, Self::MakersSheet, Self::Other];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::RiskAssessment => "risk_assessment",
            Self::MakersSheet => "makers_sheet",
            Self::Other => "other",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::RiskAssessment => "risk assessment",
            Self::MakersSheet => "maker's sheet",
            Self::Other => "other document",
        }
    }
}

/// What kind of file it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Media {
    /// PDF.
    Pdf,
    /// PNG.
    Png,
    /// JPEG.
    Jpeg,
}

impl Media {
    /// Told by the first bytes, never by a name; `None`: none of these.
    pub fn from_bytes(bytes: &[u8]) -> Option<Self> {
        [
            (b"%PDF-".as_slice(), Self::Pdf),
            (b"\x89PNG\r\n\x1a\n".as_slice(), Self::Png),
            (b"\xff\xd8\xff".as_slice(), Self::Jpeg),
        ]
        .into_iter()
        .find_map(|(start, media)| bytes.starts_with(start).then_some(media))
    }

    /// As a server says it.
    pub const fn mime(self) -> &'static str {
        match self {
            Self::Pdf => "application/pdf",
            Self::Png => "image/png",
            Self::Jpeg => "image/jpeg",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Pdf => "PDF",
            Self::Png => "PNG",
            Self::Jpeg => "JPEG",
        }
    }

    /// End of a file name.
    pub const fn extension(self) -> &'static str {
        match self {
            Self::Pdf => "pdf",
            Self::Png => "png",
            Self::Jpeg => "jpg",
        }
    }
}

/// A document of a job.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Document {
    /// Identity.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// What it is for.
    pub purpose: Purpose,
    /// What kind of file it is.
    pub media: Media,
    /// SHA-256 of its bytes, hexadecimal.
    pub sha256: String,
    /// How many bytes.
    pub bytes: u32,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_file_is_known_by_its_first_bytes() {
        assert_eq!(Media::from_bytes(b"%PDF-1.7 and so on"), Some(Media::Pdf));
        assert_eq!(Media::from_bytes(b"\x89PNG\r\n\x1a\n\0"), Some(Media::Png));
        assert_eq!(Media::from_bytes(b"\xff\xd8\xff\xe0"), Some(Media::Jpeg));
        for none in [b"".as_slice(), b"<svg onload=alert(1)>", b"%PDX-", b"PK\x03\x04"] {
            assert_eq!(Media::from_bytes(none), None);
        }
        for purpose in Purpose::ALL {
            assert_eq!(serde_json::to_value(purpose).unwrap(), purpose.key());
        }
    }
}
