//! A document of the demo: one page, drawn by hand.

use super::register::id;
use proof_job::installation::{Document, Media, Purpose};
use std::fmt::Write as _;

const LINES: [&str; 6] = [
    "Guillotine drive: sheet of its maker (invented for the demo)",
    "",
    "Residual current: type A with direct current up to 6 mA; an RCD of type F or B upstream.",
    "Insulation: not between lines at 500 V. Join line and neutral, to earth, at 250 V.",
    "Protective conductor current: 2.1 mA.",
    "Disconnect for ten minutes before opening: capacitors hold their charge.",
];

/// A maker's sheet, named but for its digest, and its bytes.
pub fn document() -> (Document, Vec<u8>) {
    let mut text = "BT /F1 12 Tf 56 760 Td 18 TL ".to_owned();
    for line in LINES {
        let _ = write!(text, "({}) Tj T* ", line.replace('(', "\\(").replace(')', "\\)"));
    }
    text.push_str("ET");
    let objects = [
        "<< /Type /Catalog /Pages 2 0 R >>".to_owned(),
        "<< /Type /Pages /Kids [3 0 R] /Count 1 >>".to_owned(),
        "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> >>"
            .to_owned(),
        format!("<< /Length {} >>\nstream\n{text}\nendstream", text.len()),
        "<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>".to_owned(),
    ];
    let mut pdf = "%PDF-1.4\n".to_owned();
    let mut places = Vec::new();
    for (index, object) in objects.iter().enumerate() {
        places.push(pdf.len());
        let _ = write!(pdf, "{} 0 obj\n{object}\nendobj\n", index + 1);
    }
    let table = pdf.len();
    let _ = write!(pdf, "xref\n0 {}\n0000000000 65535 f \n", objects.len() + 1);
    for place in &places {
        let _ = writeln!(pdf, "{place:010} 00000 n ");
    }
    let _ = write!(pdf, "trailer << /Size {} /Root 1 0 R >>\nstartxref\n{table}\n%%EOF\n", objects.len() + 1);
    let bytes = pdf.into_bytes();
    let document = Document {
        id: id("drive sheet"),
        name: "Guillotine drive".into(),
        purpose: Purpose::MakersSheet,
        media: Media::Pdf,
        sha256: String::new(),
        bytes: u32::try_from(bytes.len()).unwrap_or_default(),
    };
    (document, bytes)
}
