//! The embedded typeface: glyphs, widths, line breaking. Sizes and widths in points.
//!
//! B612 has no need of shaping: a glyph a character, its advance from the font. Figures are tabular. Letters that it
//! has not (of Welsh, Polish, Czech and most others) are drawn with DejaVu Sans.

use krilla::text::{Font, GlyphId, KrillaGlyph};
use skrifa::instance::{LocationRef, Size};
use skrifa::{FontRef, MetadataProvider};
use std::borrow::Cow;
use std::collections::HashMap;
use std::sync::OnceLock;
use unicode_normalization::{IsNormalized, UnicodeNormalization, is_nfc_quick};

const REGULAR: [&[u8]; 2] =
    [include_bytes!("../fonts/B612-Regular.otf"), include_bytes!("../fonts/DejaVuSans-Regular.ttf")];
const BOLD: [&[u8]; 2] = [include_bytes!("../fonts/B612-Bold.otf"), include_bytes!("../fonts/DejaVuSans-Bold.ttf")];

/// Drawn for what neither typeface has.
const UNKNOWN: char = '\u{25a1}';

/// One typeface in one weight.
struct Typeface {
    font: Font,
    glyphs: HashMap<char, (u32, f32)>,
}

/// One weight: the typeface of the house, and the one that draws what it has no letter for.
pub(crate) struct Face([Typeface; 2]);

/// Text that is drawn with one typeface.
pub(crate) struct Run<'a> {
    /// For drawing.
    pub font: &'a Font,
    /// Its glyphs.
    pub glyphs: Vec<KrillaGlyph>,
    /// Its text.
    pub text: String,
    /// Its width, of one point of size.
    pub width: f32,
}

/// Both weights.
pub(crate) struct Faces {
    /// Running text.
    pub regular: Face,
    /// Headings and heads of tables.
    pub bold: Face,
}

/// The first character of a text that neither embedded typeface has, so that no paper can print it.
pub fn not_printed(text: &str) -> Option<char> {
    static FACES: OnceLock<Option<Faces>> = OnceLock::new();
    let faces = FACES.get_or_init(|| Faces::load().ok()).as_ref()?;
    composed(text).chars().find(|character| !faces.regular.has(*character) && !character.is_control())
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

impl Typeface {
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
        Ok(Self { font, glyphs })
    }
}

/// A text as it is drawn: a letter and its accents as one, where there is one. What is stored keeps its bytes.
fn composed(text: &str) -> Cow<'_, str> {
    if is_nfc_quick(text.chars()) == IsNormalized::Yes { Cow::Borrowed(text) } else { Cow::Owned(text.nfc().collect()) }
}

impl Face {
    fn load([first, second]: [&'static [u8]; 2]) -> Result<Self, BadFont> {
        Ok(Self([Typeface::load(first)?, Typeface::load(second)?]))
    }

    /// Which typeface draws a character, with which glyph of which advance.
    fn glyph(&self, character: char) -> (usize, (u32, f32)) {
        let stand_in = match character {
            '\u{2206}' => 'Δ',
            '\u{2011}' => '-',
            '\u{2717}' => '×',
            '\t' | '\u{a0}' | '\u{202f}' => ' ',
            other => other,
        };
        let found = |character| {
            let mut both = self.0.iter().map(|face| face.glyphs.get(&character)).enumerate();
            both.find_map(|(at, glyph)| Some((at, *glyph?)))
        };
        found(stand_in).or_else(|| found(UNKNOWN)).unwrap_or((0, (0, 0.5)))
    }

    /// Whether either typeface has a character.
    fn has(&self, character: char) -> bool {
        let unknown = self.glyph(UNKNOWN);
        matches!(character, UNKNOWN | '\n' | '\r') || self.glyph(character) != unknown
    }

    /// Width of a line of text.
    pub(crate) fn width(&self, text: &str, size: f32) -> f32 {
        composed(text).chars().map(|character| self.glyph(character).1.1).sum::<f32>() * size
    }

    /// A line of text as it is drawn, each stretch with its typeface.
    pub(crate) fn runs(&self, text: &str) -> Vec<Run<'_>> {
        let mut runs: Vec<(usize, Run<'_>)> = Vec::new();
        for character in composed(text).chars() {
            let (at, (glyph, advance)) = self.glyph(character);
            if runs.last().is_none_or(|(last, _)| *last != at) {
                let run = Run { font: &self.0[at].font, glyphs: Vec::new(), text: String::new(), width: 0.0 };
                runs.push((at, run));
            }
            let Some((_, run)) = runs.last_mut() else { continue };
            let from = run.text.len();
            run.text.push(character);
            run.glyphs.push(KrillaGlyph::new(GlyphId::new(glyph), advance, 0.0, 0.0, 0.0, from..run.text.len(), None));
            run.width += advance;
        }
        runs.into_iter().map(|(_, run)| run).collect()
    }

    /// Breaks text into lines of at most `width`; a word longer than that is cut.
    pub(crate) fn wrap(&self, text: &str, size: f32, width: f32) -> Vec<String> {
        let mut lines = Vec::new();
        let text = composed(text);
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
                assert!(face.has(character), "{character}");
            }
        }
    }

    /// Every letter of the alphabets of Europe, as Unicode's own exemplar sets have them (CLDR, main exemplars, from
    /// memory), one by one and with its accent apart.
    #[test]
    fn the_letters_of_europe_are_drawn() {
        const ALPHABETS: &str = "Welsh âêîôûŵŷẁẃẅỳ Irish áéíóúḃċḋḟġṁṗṡṫ Polish ąćęłńóśźż Czech áčďéěíňóřšťúůýž Slovak ľĺŕäô \
            Hungarian őűö Romanian ăâîșțşţ Croatian čćđšž Slovene čšž Albanian çë Turkish çğıİöşü Maltese ċġħż Latvian āčēģīķļņšūž \
            Lithuanian ąčęėįšųūž Estonian õäöüšž Finnish åäö Sámi áčđŋšŧž Icelandic áðéíóúýþæö Faroese ø Danish æøå German ẞß Dutch ĳ \
            French œæçëïüÿ Catalan ŀ Spanish ñ¿¡ Portuguese ãõ Esperanto ĉĝĥĵŝŭ Sorbian ćłŕśź Greek αβγδεζηθικλμνξοπρσςτυφχψωάέήίόύώϊϋΐΰ \
            Russian абвгдеёжзийклмнопрстуфхцчшщъыьэюя Ukrainian ґєіїʼ Serbian ђјљњћџ Macedonian ѓѕќ Belarusian ў Bulgarian щъ";
        let faces = Faces::load().unwrap();
        for face in [&faces.regular, &faces.bold] {
            for character in ALPHABETS.chars().flat_map(|c| c.to_uppercase().chain(std::iter::once(c))) {
                assert!(face.has(character), "{character}");
            }
        }
        assert_eq!(not_printed(ALPHABETS), None);
        let apart: String = ALPHABETS.nfd().collect();
        assert!(apart.chars().count() > ALPHABETS.chars().count());
        assert_eq!(not_printed(&apart), None, "with the accents apart");
        let same = |a: &str, b: &str| (faces.regular.width(a, 9.0) - faces.regular.width(b, 9.0)).abs() < 1e-4;
        assert!(same("Llŷr Ŵyn", "Lly\u{302}r W\u{302}yn"));
        let (whole, parts) = (faces.regular.runs("ŷ"), faces.regular.runs("y\u{302}"));
        assert_eq!((whole[0].text.as_str(), parts[0].text.as_str()), ("ŷ", "ŷ"));
        assert_eq!((not_printed("Kell 木"), not_printed("😀")), (Some('木'), Some('😀')));
        // What neither has is drawn as a box, and takes its width.
        assert_eq!(faces.regular.runs("木").len(), 1);
        assert!(faces.regular.width("木", 9.0) > 1.0);
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
