//! Pages as lists of marks, then as PDF: so that every page can say how many there are.
//! Lengths in points from the top left.

use crate::font::{BadFont, Face, Faces};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use krilla::color::rgb;
use krilla::configure::{Archival, ConfigurationBuilder};
use krilla::embed::{AssociationKind, EmbeddedFile, MimeType};
use krilla::geom::{PathBuilder, Point, Rect};
use krilla::metadata::{DateTime, Metadata};
use krilla::num::NormalizedF32;
use krilla::page::PageSettings;
use krilla::paint::{Fill, FillRule, Stroke};
use krilla::surface::Surface;
use krilla::{Document, SerializeSettings};

/// A4.
pub(crate) const A4: (f32, f32) = (595.28, 841.89);
/// White edge of a page.
pub(crate) const MARGIN: f32 = 36.0;
/// Room for the running foot.
pub(crate) const FOOT: f32 = 22.0;

/// Weight of text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Weight {
    /// Running text.
    Regular,
    /// Bold.
    Bold,
}

/// A colour of the sheet.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Ink {
    /// Text and rules.
    Black,
    /// Labels.
    Grey,
    /// Fine rules.
    Rule,
    /// Ground of heads.
    Wash,
    /// The word across a draft.
    Draft,
}

impl Ink {
    const fn rgb(self) -> (u8, u8, u8) {
        match self {
            Self::Black => (24, 26, 27),
            Self::Grey => (84, 86, 84),
            Self::Rule => (150, 146, 136),
            Self::Wash => (238, 233, 221),
            Self::Draft => (176, 60, 30),
        }
    }
}

/// Something on a page.
#[derive(Debug, Clone)]
pub(crate) enum PageMark {
    /// A line of text by its baseline.
    Text { x: f32, y: f32, size: f32, weight: Weight, ink: Ink, text: String },
    /// A straight rule.
    Rule { from: (f32, f32), to: (f32, f32), width: f32, ink: Ink },
    /// Joined strokes, as of a pen.
    Strokes { strokes: Vec<Vec<(f32, f32)>>, width: f32, ink: Ink },
    /// Small filled squares of one size, as of a QR code.
    Squares { corners: Vec<(f32, f32)>, side: f32, ink: Ink },
    /// A filled box.
    Ground { x: f32, y: f32, width: f32, height: f32, ink: Ink },
}

/// One page.
#[derive(Debug, Clone)]
pub(crate) struct Page {
    /// Width.
    pub width: f32,
    /// Height.
    pub height: f32,
    /// What is on it.
    pub marks: Vec<PageMark>,
}

impl Page {
    /// A blank A4 page.
    pub(crate) const fn blank(landscape: bool) -> Self {
        let (width, height) = if landscape { (A4.1, A4.0) } else { A4 };
        Self { width, height, marks: Vec::new() }
    }

    /// Puts a line of text.
    pub(crate) fn text(&mut self, at: (f32, f32), size: f32, weight: Weight, ink: Ink, text: impl Into<String>) {
        self.marks.push(PageMark::Text { x: at.0, y: at.1, size, weight, ink, text: text.into() });
    }

    /// Puts a rule.
    pub(crate) fn rule(&mut self, from: (f32, f32), to: (f32, f32), width: f32, ink: Ink) {
        self.marks.push(PageMark::Rule { from, to, width, ink });
    }
}

/// Why a PDF could not be made.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum PdfError {
    /// The embedded font.
    #[error(transparent)]
    Font(#[from] BadFont),
    /// The PDF library said no.
    #[error("the PDF could not be written: {0}")]
    Library(String),
}

/// A file inside the document.
#[derive(Debug, Clone)]
pub struct Attachment {
    /// Its name.
    pub name: String,
    /// What it is, in words.
    pub what: &'static str,
    /// Media type.
    pub media: &'static str,
    /// Its bytes.
    pub bytes: Vec<u8>,
    /// Stored as it is, so that its bytes can be found in the document.
    pub plain: bool,
    /// The document was made from it.
    pub source: bool,
}

/// What stands around the pages.
#[derive(Debug, Clone)]
pub(crate) struct About<'a> {
    /// Title.
    pub title: &'a str,
    /// Names this document among others.
    pub id: &'a str,
    /// When it was made.
    pub made: Timestamp,
    /// Files inside it.
    pub attachments: Vec<Attachment>,
}

fn date(at: Timestamp) -> DateTime {
    let at = at.to_zoned(TimeZone::UTC);
    DateTime::new(u16::try_from(at.year()).unwrap_or(1970))
        .month(at.month().unsigned_abs())
        .day(at.day().unsigned_abs())
        .hour(at.hour().unsigned_abs())
        .minute(at.minute().unsigned_abs())
        .second(at.second().unsigned_abs())
        .utc_offset_hour(0)
        .utc_offset_minute(0)
}

/// Writes pages as one document, PDF/A-3b (ISO 19005-3).
///
/// # Errors
/// [`PdfError`] when the library refuses.
pub(crate) fn write(pages: &[Page], faces: &Faces, about: About<'_>) -> Result<Vec<u8>, PdfError> {
    let library = |error: &dyn std::fmt::Debug| PdfError::Library(format!("{error:?}"));
    let configuration = ConfigurationBuilder::new()
        .with_archival_validator(Archival::A3_B)
        .finish()
        .map_err(|error| library(&error))?;
    let mut document = Document::new_with(SerializeSettings { configuration, ..SerializeSettings::default() });
    let metadata = Metadata::new()
        .title(about.title.to_owned())
        .language("en-GB".to_owned())
        .creator("Proof".to_owned())
        .document_id(about.id.to_owned())
        .creation_date(date(about.made));
    document.set_metadata(metadata);
    for attachment in about.attachments {
        let file = EmbeddedFile {
            path: attachment.name,
            mime_type: MimeType::new(attachment.media),
            description: Some(attachment.what.to_owned()),
            association_kind: if attachment.source { AssociationKind::Source } else { AssociationKind::Supplement },
            data: attachment.bytes.into(),
            modification_date: Some(date(about.made)),
            compress: Some(!attachment.plain),
            location: None,
        };
        document.embed_file(file).ok_or_else(|| PdfError::Library("two attachments of one name".into()))?;
    }
    for page in pages {
        let settings =
            PageSettings::from_wh(page.width, page.height).ok_or_else(|| PdfError::Library("page size".into()))?;
        let mut sheet = document.start_page_with(settings);
        let mut surface = sheet.surface();
        for mark in &page.marks {
            draw(&mut surface, faces, mark);
        }
        surface.finish();
        sheet.finish();
    }
    document.finish().map_err(|error| library(&error))
}

fn paint(ink: Ink) -> krilla::paint::Paint {
    let (r, g, b) = ink.rgb();
    rgb::Color::new(r, g, b).into()
}

fn fill(ink: Ink) -> Fill {
    Fill { paint: paint(ink), opacity: NormalizedF32::ONE, rule: FillRule::default() }
}

fn draw_text(surface: &mut Surface<'_>, face: &Face, text: &str, (x, y): (f32, f32), size: f32) {
    let mut at = x;
    for run in face.runs(text) {
        surface.draw_glyphs(Point::from_xy(at, y), &run.glyphs, run.font.clone(), &run.text, size, false);
        at += run.width * size;
    }
}

fn draw(surface: &mut Surface<'_>, faces: &Faces, mark: &PageMark) {
    match mark {
        PageMark::Text { x, y, size, weight, ink, text } => {
            if text.is_empty() {
                return;
            }
            let face = if *weight == Weight::Bold { &faces.bold } else { &faces.regular };
            surface.set_stroke(None);
            surface.set_fill(Some(fill(*ink)));
            draw_text(surface, face, text, (*x, *y), *size);
        }
        PageMark::Rule { from, to, width, ink } => {
            let mut path = PathBuilder::new();
            path.move_to(from.0, from.1);
            path.line_to(to.0, to.1);
            if let Some(path) = path.finish() {
                surface.set_fill(None);
                surface.set_stroke(Some(Stroke { paint: paint(*ink), width: *width, ..Stroke::default() }));
                surface.draw_path(&path);
            }
        }
        PageMark::Strokes { strokes, width, ink } => {
            for stroke in strokes {
                let mut path = PathBuilder::new();
                for (index, (x, y)) in stroke.iter().enumerate() {
                    if index == 0 { path.move_to(*x, *y) } else { path.line_to(*x, *y) }
                }
                if let Some(path) = path.finish() {
                    surface.set_fill(None);
                    surface.set_stroke(Some(Stroke { paint: paint(*ink), width: *width, ..Stroke::default() }));
                    surface.draw_path(&path);
                }
            }
        }
        PageMark::Squares { corners, side, ink } => {
            let mut path = PathBuilder::new();
            for (x, y) in corners {
                if let Some(rect) = Rect::from_xywh(*x, *y, *side, *side) {
                    path.push_rect(rect);
                }
            }
            if let Some(path) = path.finish() {
                surface.set_stroke(None);
                surface.set_fill(Some(fill(*ink)));
                surface.draw_path(&path);
            }
        }
        PageMark::Ground { x, y, width, height, ink } => {
            let mut path = PathBuilder::new();
            if let Some(rect) = Rect::from_xywh(*x, *y, *width, *height) {
                path.push_rect(rect);
            }
            if let Some(path) = path.finish() {
                surface.set_stroke(None);
                surface.set_fill(Some(fill(*ink)));
                surface.draw_path(&path);
            }
        }
    }
}
