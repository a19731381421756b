//! The embedded typeface: glyphs, widths, line breaking. Sizes and widths in points.
//!
//! B612 has no need of shaping: a glyph a character, its advance from the font. Figures are tabular.

use krilla::text::{Font, GlyphId, KrillaGlyph};
use skrifa::instance::{LocationRef, Size};
use skrifa::{FontRef, MetadataProvider};
use std::collections::HashMap;

const REGULAR: &[u8] = include_bytes!("../fonts/B612-Regular.otf");
const BOLD: &[u8] = include_bytes!("../fonts/B612-Bold.otf");

/// One weight of the typeface.
pub(crate) struct Face {
    /// For drawing.
    pub font: Font,
    glyphs: HashMap<char, (u32, f32)>,
    missing: f32,
}

/// Both weights.
pub(crate) struct Faces {
    /// Running text.
    pub regular: Face,
    /// Headings and heads of tables.
    pub bold: Face,
}

/// The embedded font could not be read: a mistake in the build.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("the embedded font cannot be read")]
pub struct BadFont;

impl Faces {
    /// Reads the embedded fonts.
    ///
    /// # Errors
    /// [`BadFont`] when they are damaged.
    pub(crate) fn load() -> Result<Self, BadFont> {
        Ok(Self { regular: Face::load(REGULAR)?, bold: Face::load(BOLD)? })
    }
}

impl Face {
    fn load(data: &'static [u8]) -> Result<Self, BadFont> {
        let font = Font::new(data.into(), 0).ok_or(BadFont)?;
        let reader = FontRef::new(data).map_err(|_| BadFont)?;
        let metrics = reader.glyph_metrics(Size::unscaled(), LocationRef::default());
        let em = f32::from(reader.metrics(Size::unscaled(), LocationRef::default()).units_per_em);
        let advance = |glyph| metrics.advance_width(glyph).unwrap_or(em / 2.0) / em;
        let glyphs = reader
            .charmap()
            .mappings()
            .filter_map(|(code, glyph)| Some((char::from_u32(code)?, (glyph.to_u32(), advance(glyph)))))
            .collect();
        Ok(Self { font, glyphs, missing: advance(skrifa::GlyphId::new(0)) })
    }

    fn glyph(&self, character: char) -> (u32, f32) {
        let stand_in = match character {
            '\u{2206}' => 'Δ',
            '\u{2011}' => '-',
            '\u{2717}' => '×',
            '\t' | '\u{a0}' | '\u{202f}' => ' ',
            other => other,
        };
        self.glyphs.get(&stand_in).copied().unwrap_or((0, self.missing))
    }

    /// Width of a line of text.
    pub(crate) fn width(&self, text: &str, size: f32) -> f32 {
        text.chars().map(|character| self.glyph(character).1).sum::<f32>() * size
    }

    /// Glyphs of a line of text.
    pub(crate) fn glyphs(&self, text: &str) -> Vec<KrillaGlyph> {
        text.char_indices()
            .map(|(at, character)| {
                let (glyph, advance) = self.glyph(character);
                KrillaGlyph::new(GlyphId::new(glyph), advance, 0.0, 0.0, 0.0, at..at + character.len_utf8(), None)
            })
            .collect()
    }

    /// Breaks text into lines of at most `width`; a word longer than that is cut.
    pub(crate) fn wrap(&self, text: &str, size: f32, width: f32) -> Vec<String> {
        let mut lines = Vec::new();
        for paragraph in text.split('\n') {
            let mut line = String::new();
            for word in paragraph.split_whitespace() {
                let candidate = if line.is_empty() { word.to_owned() } else { format!("{line} {word}") };
                if self.width(&candidate, size) <= width {
                    line = candidate;
                    continue;
                }
                if !line.is_empty() {
                    lines.push(std::mem::take(&mut line));
                }
                for character in word.chars() {
                    line.push(character);
                    if self.width(&line, size) > width && line.chars().count() > 1 {
                        line.pop();
                        lines.push(std::mem::take(&mut line));
                        line.push(character);
                    }
                }
            }
            lines.push(line);
        }
        lines
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn figures_are_tabular_and_the_trade_is_covered() {
        let faces = Faces::load().unwrap();
        for face in [&faces.regular, &faces.bold] {
            let one = face.width("1", 10.0);
            assert!("0123456789".chars().all(|digit| (face.width(&digit.to_string(), 10.0) - one).abs() < 1e-4));
            for character in "Ω²½×–—≤≥±°Δ∥→✓>·“”’µ√".chars() {
                assert_ne!(face.glyph(character).0, 0, "{character}");
            }
        }
    }

    #[test]
    fn lines_fit_and_lose_nothing() {
        let faces = Faces::load().unwrap();
        let text =
            "Ends out, legs identified and separated; an-absurdly-long-word-that-no-line-will-ever-hold-in-one-piece";
        let lines = faces.regular.wrap(text, 9.0, 90.0);
        assert!(lines.iter().all(|line| faces.regular.width(line, 9.0) <= 90.0), "{lines:?}");
        let joined: String = lines.concat().chars().filter(|c| !c.is_whitespace()).collect();
        assert_eq!(joined, text.chars().filter(|c| !c.is_whitespace()).collect::<String>());
    }
}
